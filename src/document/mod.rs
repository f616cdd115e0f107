//! Maps and tile sets in files: reading them with every problem found, and writing them.
//!
//! A [`Loader`] reads a map from a [`FileSource`]: a folder, memory, an archive. What is wrong comes
//! as a list of [`Problem`]s, each with its file and place; [`Limits`] bound what is read. A
//! [`MapWriter`] writes a map in any [`CellEncoding`], or puts what changed back into its files. A
//! [`GridFile`] is a bare text, table or picture of cells. A `Journal` is a file to which each change is
//! appended.

// `source` gives the bytes of files, `syntax` makes trees of them, `input` keeps count of them, `read`
// makes a map of the trees; `load` does all of that, `write` the reverse, and `put_back` changes
// files that exist. `changes` writes changesets as bytes, and reads them; `journal` appends them to a file.

mod changes;
mod formats;
mod input;
#[cfg(all(feature = "fs", feature = "threads"))]
mod journal;
mod limits;
mod load;
mod problem;
mod put_back;
mod read;
mod source;
mod syntax;
mod write;

pub use crate::codec::BytesFault;
pub use changes::ChangesError;
pub use formats::{EXPECTS_SCHEMA, MAP_SCHEMA, TILES_SCHEMA};
pub use input::{LoadCache, LoadProgress, LoadStage};
#[cfg(all(feature = "fs", feature = "threads"))]
pub use journal::{
    Compacting, Journal, JournalCut, JournalError, JournalRecord, JournalRecords, JournalStatus,
    OpenJournal, Replayed,
};
pub use limits::Limits;
#[cfg(feature = "threads")]
pub use load::Loading;
pub use load::{GridFile, GridValues, Loaded, Loader};
pub use problem::{LoadError, Problem, Severity, TextPlace};
pub use put_back::{InlinedLayer, PutBack};
pub use read::Expects;
#[cfg(feature = "fs")]
pub use source::FolderSource;
pub use source::{FileSource, MemorySource, SourceError};
#[cfg(feature = "zip")]
pub use source::{ZipError, ZipSource};
#[cfg(feature = "fs")]
pub use write::FileBatch;
#[cfg(feature = "zip")]
pub use write::zip_archive;
pub use write::{CellEncoding, LayerFile, LayerText, MapWriter, SaveError};
