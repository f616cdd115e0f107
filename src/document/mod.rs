//! Maps and tile sets as documents: reading them with every problem found, and writing them.

mod back;
#[cfg(feature = "threads")]
mod background;
mod cache;
mod cells;
mod compression;
mod expects;
mod extents;
mod files;
mod grid;
mod limits;
mod load;
mod mend;
mod problem;
mod read_layer;
mod read_map;
mod read_markers;
mod read_places;
mod reader;
mod source;
mod tiles;
mod tree;
mod value_rows;
mod watch;
mod write;

pub use back::{PutBack, TakenIn};
#[cfg(feature = "threads")]
pub use background::Loading;
pub use cache::LoadCache;
pub use expects::Expects;
pub use grid::{GridFile, GridValues};
pub use limits::Limits;
pub use load::{Loaded, Loader};
pub use problem::{LoadError, Problem, Severity, TextPlace};
#[cfg(feature = "fs")]
pub use source::FolderSource;
pub use source::{FileSource, MemorySource, SourceError};
#[cfg(feature = "zip")]
pub use source::{ZipError, ZipSource};
pub use watch::{LoadProgress, LoadStage};
#[cfg(feature = "fs")]
pub use write::FileBatch;
#[cfg(feature = "zip")]
pub use write::zip_archive;
pub use write::{CellForm, LayerFile, LayerText, MapWriter, SaveError};

/// The JSON Schema of maps, `NAME.quilt.json`: editors complete and check by it what people type.
pub const MAP_SCHEMA: &str = include_str!("../../docs/schema/map.schema.json");
/// The JSON Schema of tile sets, `NAME.tiles.json`.
pub const TILES_SCHEMA: &str = include_str!("../../docs/schema/tiles.schema.json");
/// The JSON Schema of what a game expects of a map, `NAME.expects.json`.
pub const EXPECTS_SCHEMA: &str = include_str!("../../docs/schema/expects.schema.json");

/// The format that a map document states.
const MAP_FORMAT: &str = "sturdy-quilt/map";
/// The format that a tile set document states.
const TILES_FORMAT: &str = "sturdy-quilt/tiles";
/// The format that a document of expectations states.
const EXPECTS_FORMAT: &str = "sturdy-quilt/expects";
/// The version of all that is written, and the newest that is read.
const VERSION: i64 = 1;
