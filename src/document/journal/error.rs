use std::io;
use std::path::{Path, PathBuf};

use crate::codec::BytesFault;
use crate::document::changes::ChangesError;
use crate::document::write::SaveError;

/// The error of a journal that cannot be opened, replayed or written. Files that were there are as they were.
#[derive(Debug, thiserror::Error)]
#[non_exhaustive]
pub enum JournalError {
    /// A file cannot be read or written.
    #[error("`{path}` cannot be {what}", path = path.display())]
    Io {
        /// The file.
        path: PathBuf,
        /// The deed that failed, for example "read".
        what: &'static str,
        /// Why not.
        #[source]
        source: io::Error,
    },
    /// Another program, or another part of this one, has opened the journal to write.
    #[error("`{path}` is open elsewhere: only one program can append to a journal", path = path.display())]
    InUse {
        /// The journal.
        path: PathBuf,
    },
    /// The journal does not lead on from the save that is there.
    #[error(
        "`{path}` leads on from another state of `{save}` than the one that is there: put that save back, or move the journal away to begin a new one",
        path = path.display(),
        save = save.display()
    )]
    OtherSave {
        /// The journal.
        path: PathBuf,
        /// The save.
        save: PathBuf,
    },
    /// The beginning of the file is not that of a journal, is damaged, or was written by a later version of the
    /// library; or a record is of a later version.
    #[error("`{path}` cannot be read as a journal from byte {at} on", path = path.display())]
    Bytes {
        /// The journal.
        path: PathBuf,
        /// The first byte of the record.
        at: u64,
        /// The fault of its bytes.
        #[source]
        source: BytesFault,
    },
    /// A record is sound, but cannot be done on the map.
    #[error("record {number} of `{path}` cannot be done on this map", path = path.display())]
    Record {
        /// The journal.
        path: PathBuf,
        /// Which record, counted from 1.
        number: usize,
        /// Why not.
        #[source]
        source: ChangesError,
    },
    /// The save into which a journal was to be compacted cannot be made or written.
    #[error("the journal cannot be compacted")]
    Save(#[from] SaveError),
    /// The thread of the journal ended in a panic.
    #[error("the thread that appends to `{path}` has ended", path = path.display())]
    Ended {
        /// The journal.
        path: PathBuf,
    },
}

/// Says which file an error is about, and what was to be done with it.
pub(super) fn failed(path: &Path, what: &'static str) -> impl FnOnce(io::Error) -> JournalError {
    let path = path.to_owned();
    move |source| JournalError::Io { path, what, source }
}
