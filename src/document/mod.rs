//! Maps and tile sets as documents: reading them with every problem found, and writing them.

mod cells;
mod compression;
mod expects;
mod extents;
mod files;
mod limits;
mod load;
mod problem;
mod read_map;
mod read_tiles;
mod reader;
mod source;
mod tree;
mod value_rows;
mod write;

pub use expects::Expects;
pub use limits::Limits;
pub use load::{Loaded, load, load_expecting};
pub use problem::{LoadError, Problem, Severity, TextPlace};
#[cfg(feature = "fs")]
pub use source::FolderSource;
pub use source::{FileSource, MemorySource, SourceError};
pub use write::{CellForm, LayerText, MapWriter, SaveError};

/// The format that a map document states.
const MAP_FORMAT: &str = "sturdy-quilt/map";
/// The format that a tile set document states.
const TILES_FORMAT: &str = "sturdy-quilt/tiles";
/// The format that a document of expectations states.
const EXPECTS_FORMAT: &str = "sturdy-quilt/expects";
/// The version of all that is written, and the newest that is read.
const VERSION: i64 = 1;
