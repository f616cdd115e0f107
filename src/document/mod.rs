//! Maps and tile sets as documents: reading them with every problem found, and writing them.

#[cfg(feature = "threads")]
mod background;
mod cache;
mod cells;
mod compression;
mod expects;
mod extents;
mod files;
mod limits;
mod load;
mod problem;
mod read_map;
mod reader;
mod source;
mod tiles;
mod tree;
mod value_rows;
mod watch;
mod write;

#[cfg(feature = "threads")]
pub use background::Loading;
pub use cache::LoadCache;
pub use expects::Expects;
pub use limits::Limits;
pub use load::{Loaded, Loader, load};
pub use problem::{LoadError, Problem, Severity, TextPlace};
#[cfg(feature = "fs")]
pub use source::FolderSource;
pub use source::{FileSource, MemorySource, SourceError};
#[cfg(feature = "zip")]
pub use source::{ZipError, ZipSource};
pub use watch::{LoadProgress, LoadStage};
pub use write::{CellForm, LayerText, MapWriter, SaveError};

/// The format that a map document states.
const MAP_FORMAT: &str = "sturdy-quilt/map";
/// The format that a tile set document states.
const TILES_FORMAT: &str = "sturdy-quilt/tiles";
/// The format that a document of expectations states.
const EXPECTS_FORMAT: &str = "sturdy-quilt/expects";
/// The version of all that is written, and the newest that is read.
const VERSION: i64 = 1;
