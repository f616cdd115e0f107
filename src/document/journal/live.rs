//! What a game holds of a journal while the map lives.

use std::path::PathBuf;
use std::sync::mpsc::{Receiver, Sender, channel};
use std::sync::{Arc, Mutex, PoisonError};
use std::thread::JoinHandle;

use super::JournalError;
use super::error::failed;
use super::writer::{Ask, Writer};
use crate::document::write::SaveError;
use crate::edit::Changeset;

/// A file to which each change of a map is appended, so that a crash loses no more than the last moment.
///
/// A thread of its own writes changes as bytes, appends them, and syncs them at an interval or when asked to
/// [flush](Journal::flush). The journal belongs to one save: [`Journal::open`] and
/// [`replay`](crate::document::OpenJournal::replay) do its changes on the map that was loaded from there, and
/// [`Journal::compact`] makes a new save of it. Dropping it writes what is left, and waits for that.
/// docs/format.md tells the format to the byte.
#[derive(Debug)]
pub struct Journal {
    path: PathBuf,
    asks: Sender<Ask>,
    status: Arc<Mutex<JournalStatus>>,
    thread: Option<JoinHandle<()>>,
}

/// How far a journal has come.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
#[non_exhaustive]
pub struct JournalStatus {
    /// How many changes were appended since the journal was opened.
    pub appended: u64,
    /// How many of them are in the file; they survive a crash of the program.
    pub written: u64,
    /// How many of them are on disk; they survive a power cut.
    pub synced: u64,
    /// How many bytes the file has.
    pub bytes: u64,
    /// Why the last attempt to write failed. It is made again, and nothing is dropped.
    pub fault: Option<String>,
}

/// A journal that is being compacted. Made by [`Journal::compact`]; dropping it changes nothing.
#[derive(Debug)]
pub struct Compacting {
    path: PathBuf,
    reply: Receiver<Result<(), JournalError>>,
}

impl Journal {
    /// Starts the thread.
    pub(super) fn start(writer: Writer) -> Result<Journal, JournalError> {
        let (asks, asked) = channel();
        let (path, status) = (writer.path.clone(), Arc::clone(&writer.status));
        let asker = asks.clone();
        let builder = std::thread::Builder::new().name("sturdy-quilt journal".to_owned());
        let thread = builder.spawn(move || writer.run(&asked, &asker));
        let thread = Some(thread.map_err(failed(&path, "appended to on a thread"))?);
        Ok(Journal { path, asks, status, thread })
    }

    /// Appends changes that were made to the map, in the order in which they were made; also those of an undo.
    ///
    /// Does not wait: the thread writes them soon, and syncs them within the interval. Costs a copy of the
    /// changes, which shares large ones. What cannot be written (a full disk) is kept and tried again; see
    /// [`Journal::status`] and [`Journal::flush`].
    pub fn append(&self, changes: &Changeset) {
        if changes.is_empty() {
            return;
        }
        self.status.lock().unwrap_or_else(PoisonError::into_inner).appended += 1;
        self.asks.send(Ask::Append(changes.clone())).ok();
    }

    /// Waits until everything that was appended is on disk.
    ///
    /// # Errors
    /// The file cannot be written. Nothing is dropped: what is left is tried again, by the next call at the
    /// latest.
    pub fn flush(&self) -> Result<(), JournalError> {
        let (reply, replied) = channel();
        self.asks.send(Ask::Flush(reply)).ok();
        replied.recv().unwrap_or_else(|_| Err(self.ended()))
    }

    /// Returns how far it has come. Does not wait.
    pub fn status(&self) -> JournalStatus {
        self.status.lock().unwrap_or_else(PoisonError::into_inner).clone()
    }

    /// Makes a new save of the map, and drops the changes that it holds from the journal. Does not wait.
    ///
    /// `make` gives the bytes of the save, on a thread of its own. It must save the map as it is at this call,
    /// of which a clone is a snapshot. Changes may be appended meanwhile; they stay in the journal.
    ///
    /// Whole or not at all: a journal that leads on from the new save is made beside this one, then the save
    /// gets its name, then the journal. A crash between any two leaves files that open as the same map.
    ///
    /// ```
    /// use sturdy_quilt::document::{Journal, Limits};
    /// use sturdy_quilt::CellPos;
    /// # let folder = tempfile::tempdir()?;
    /// # let save = folder.path().join("garden.quilt.json");
    /// # let mut quilt = sturdy_quilt::doc_quilt();
    /// # quilt.save(&save)?;
    /// # let path = folder.path().join("garden.journal");
    /// # let (journal, _) = Journal::open(&path, &save)?.replay(&mut quilt, &Limits::default())?;
    ///
    /// let dug = quilt.edit("dig", |pen| pen.erase("soil", CellPos::new(0, 0)))?;
    /// journal.append(&dug.changes);
    /// let snapshot = quilt.clone();
    /// let compacting = journal.compact(move || Ok(snapshot.to_json()?.into_bytes()));
    /// compacting.wait()?;
    /// assert_eq!(std::fs::read_to_string(&save)?, quilt.to_json()?);
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    pub fn compact(
        &self,
        make: impl FnOnce() -> Result<Vec<u8>, SaveError> + Send + 'static,
    ) -> Compacting {
        let (reply, replied) = channel();
        let make = Box::new(|| make().map_err(JournalError::from));
        self.asks.send(Ask::Compact(make, reply)).ok();
        Compacting { path: self.path.clone(), reply: replied }
    }

    /// Writes what is left and closes the file, so that others can open it.
    ///
    /// # Errors
    /// See [`Journal::flush`]; what is left then is lost.
    pub fn close(self) -> Result<(), JournalError> {
        self.flush()
    }

    fn ended(&self) -> JournalError {
        JournalError::Ended { path: self.path.clone() }
    }
}

impl Drop for Journal {
    fn drop(&mut self) {
        self.asks.send(Ask::End).ok();
        if let Some(thread) = self.thread.take() {
            thread.join().ok();
        }
    }
}

impl Compacting {
    /// Returns how it ended, once it has; `None` before, and after it was taken.
    pub fn take(&self) -> Option<Result<(), JournalError>> {
        self.reply.try_recv().ok()
    }

    /// Waits until it has ended.
    ///
    /// # Errors
    /// The save cannot be made or written, or the journal cannot; both are as they were, or the new ones.
    pub fn wait(self) -> Result<(), JournalError> {
        let ended = |_| Err(JournalError::Ended { path: self.path.clone() });
        self.reply.recv().unwrap_or_else(ended)
    }
}
