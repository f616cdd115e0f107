//! Maps and tile sets as documents: reading them with every problem found, and writing them.

mod files;
mod layout;
mod limits;
mod load;
mod problem;
mod read_cells;
mod read_map;
mod read_tiles;
mod reader;
mod save;
mod source;
mod tree;
mod write;

pub use limits::Limits;
pub use load::{Loaded, load};
pub use problem::{LoadError, Problem, Severity, TextPlace};
pub use save::SaveError;
#[cfg(feature = "fs")]
pub use source::FolderSource;
pub use source::{FileSource, MemorySource, SourceError};
pub use write::LayerText;

/// The format that a map document states.
const MAP_FORMAT: &str = "sturdy-quilt/map";
/// The format that a tile set document states.
const TILES_FORMAT: &str = "sturdy-quilt/tiles";
/// The version of both that is written, and the newest that is read.
const VERSION: i64 = 1;
