//! Journals: files to which each change of a map is appended, beside its save.

// `header` names the save, `records` finds what is sound in the bytes of a journal. `open` locks one, cuts off
// what is damaged and replays the rest; `writer` is the thread that appends, syncs and compacts, and `live`
// what a game holds of it.

mod error;
mod header;
mod live;
mod open;
mod records;
mod writer;

use std::fs::File;
use std::path::{Path, PathBuf};

pub use error::JournalError;
pub use live::{Compacting, Journal, JournalStatus};
pub use open::{JournalCut, OpenJournal, Replayed};
pub use records::{JournalRecord, JournalRecords};

/// A path with something behind its name.
fn with_ending(path: &Path, ending: &str) -> PathBuf {
    let mut name = path.as_os_str().to_owned();
    name.push(ending);
    name.into()
}

/// Where a journal lies while it is made anew.
fn next_path(path: &Path) -> PathBuf {
    with_ending(path, ".next")
}

/// Brings the names in the folder of a file to disk; only some systems can.
fn sync_folder(path: &Path) {
    let folder = path.parent().filter(|folder| !folder.as_os_str().is_empty());
    if let Ok(folder) = File::open(folder.unwrap_or(Path::new("."))) {
        folder.sync_all().ok();
    }
}
