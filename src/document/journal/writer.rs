//! The thread of a journal: it writes changes as bytes, appends them, syncs them, and compacts the journal.

use std::error::Error;
use std::fs::{self, File};
use std::io::{self, Read, Seek, SeekFrom, Write};
use std::panic::{self, AssertUnwindSafe};
use std::path::{Path, PathBuf};
use std::sync::mpsc::{Receiver, RecvTimeoutError, Sender};
use std::sync::{Arc, Mutex, PoisonError};
use std::thread;
use std::time::{Duration, Instant};

use super::error::failed;
use super::header::Header;
use super::live::JournalStatus;
use super::open::lock;
use super::{JournalError, next_path, sync_folder};
use crate::document::write::FileBatch;
use crate::edit::Changeset;

/// A request to the thread, which answers them in their order.
pub(super) enum Ask {
    Append(Changeset),
    Flush(Sender<Result<(), JournalError>>),
    Compact(MakeSave, Sender<Result<(), JournalError>>),
    /// A save was made that holds everything up to a place in the journal.
    Made(Result<Vec<u8>, JournalError>, u64, Sender<Result<(), JournalError>>),
    End,
}

/// Makes the bytes of a save, on a thread of its own.
pub(super) type MakeSave = Box<dyn FnOnce() -> Result<Vec<u8>, JournalError> + Send>;

/// How many bytes are gathered before they are written.
const MOST_WAITING: usize = 1 << 20;

/// The file of a journal, and what is yet to come into it.
#[derive(Debug)]
pub(super) struct Writer {
    pub(super) path: PathBuf,
    save: PathBuf,
    file: File,
    /// How many bytes the header takes.
    header: u64,
    /// The end of the last record that was written as a whole.
    end: u64,
    /// The end of the last one that is on disk.
    synced_end: u64,
    /// How many records lie between the two.
    unsynced_count: u64,
    /// How many bytes of records compacting has dropped since the thread began. A place is told by the bytes of
    /// all records before it, those counted in.
    dropped: u64,
    /// Records that could not be written yet.
    waiting: Vec<u8>,
    waiting_count: u64,
    /// How many changes were taken up in all.
    taken: u64,
    /// Since when something that was written is not synced, or since when it was last tried.
    behind_since: Option<Instant>,
    /// Whether the last attempt failed.
    is_failing: bool,
    /// Whether the file has the name of the journal; else that of one that is made anew.
    is_named: bool,
    sync_every: Duration,
    pub(super) status: Arc<Mutex<JournalStatus>>,
    /// How many saves are being made.
    making: usize,
}

impl Writer {
    pub(super) fn new(
        path: PathBuf,
        save: PathBuf,
        file: File,
        (header, end): (usize, usize),
        sync_every: Duration,
    ) -> Writer {
        Writer {
            path,
            save,
            file,
            header: header as u64,
            end: end as u64,
            synced_end: end as u64,
            unsynced_count: 0,
            dropped: 0,
            waiting: Vec::new(),
            waiting_count: 0,
            taken: 0,
            behind_since: None,
            is_failing: false,
            is_named: true,
            sync_every,
            status: Arc::new(Mutex::new(JournalStatus {
                bytes: end as u64,
                ..JournalStatus::default()
            })),
            making: 0,
        }
    }

    /// Does what is asked until it is to end, or nobody is left who could ask.
    pub(super) fn run(mut self, asks: &Receiver<Ask>, asker: &Sender<Ask>) {
        let mut is_ending = false;
        while !(is_ending && self.making == 0) {
            let asked = match self.behind_since {
                None => asks.recv().map_err(|_| RecvTimeoutError::Disconnected),
                Some(since) => asks.recv_timeout(self.patience().saturating_sub(since.elapsed())),
            };
            match asked {
                Err(RecvTimeoutError::Disconnected) => break,
                Err(RecvTimeoutError::Timeout) => self.try_sync(),
                Ok(Ask::Append(changes)) => {
                    self.take(&changes);
                    let mut next = None;
                    while self.waiting.len() < MOST_WAITING
                        && let Ok(ask) = asks.try_recv()
                    {
                        match ask {
                            Ask::Append(changes) => self.take(&changes),
                            other => {
                                next = Some(other);
                                break;
                            }
                        }
                    }
                    self.try_write();
                    if let Some(ask) = next {
                        is_ending |= self.answer(ask, asker);
                    }
                }
                Ok(ask) => is_ending |= self.answer(ask, asker),
            }
        }
        if let Err(error) = self.sync() {
            let error: &dyn Error = &error;
            tracing::error!(
                error,
                unwritten = self.waiting_count,
                "a journal was not written to its end"
            );
        }
    }

    /// Answers what is no change, and returns whether it was the last.
    fn answer(&mut self, ask: Ask, asker: &Sender<Ask>) -> bool {
        match ask {
            Ask::Append(changes) => self.take(&changes),
            Ask::Flush(reply) => {
                reply.send(self.sync()).ok();
            }
            Ask::Compact(make, reply) => {
                let place = self.dropped + (self.end - self.header) + self.waiting.len() as u64;
                let (asker, failing, save) = (asker.clone(), reply.clone(), self.save.clone());
                let work = move || {
                    let made = panic::catch_unwind(AssertUnwindSafe(make));
                    let made = made.unwrap_or_else(|_| {
                        let panicked = io::Error::other("its thread ended in a panic");
                        Err(failed(&save, "made")(panicked))
                    });
                    asker.send(Ask::Made(made, place, reply)).ok();
                };
                let thread = thread::Builder::new().name("sturdy-quilt save".to_owned());
                match thread.spawn(work) {
                    Ok(_) => self.making += 1,
                    Err(error) => {
                        failing.send(Err(failed(&self.save, "made on a thread")(error))).ok();
                    }
                }
            }
            Ask::Made(made, place, reply) => {
                self.making -= 1;
                let done = made.and_then(|save| self.compact(save, place));
                if let Err(error) = &done {
                    let error: &dyn Error = error;
                    tracing::error!(error, "a journal was not compacted");
                }
                reply.send(done).ok();
            }
            Ask::End => return true,
        }
        false
    }

    fn take(&mut self, changes: &Changeset) {
        self.waiting.extend_from_slice(&changes.to_bytes());
        self.waiting_count += 1;
        self.taken += 1;
    }

    /// Writes what is waiting; where that fails it is tried again later, and what was written of it is cut off.
    fn write(&mut self) -> Result<(), JournalError> {
        if self.waiting.is_empty() {
            return Ok(());
        }
        self.behind_since.get_or_insert_with(Instant::now);
        let written = self.file.set_len(self.end).and_then(|()| {
            self.file.seek(SeekFrom::Start(self.end))?;
            self.file.write_all(&self.waiting)
        });
        if let Err(error) = written {
            self.file.set_len(self.end).ok();
            return Err(failed(&self.path, "appended to")(error));
        }
        self.end += self.waiting.len() as u64;
        self.unsynced_count += self.waiting_count;
        self.waiting.clear();
        self.waiting_count = 0;
        Ok(())
    }

    /// Writes and syncs everything.
    fn sync(&mut self) -> Result<(), JournalError> {
        let synced = self.write().and_then(|()| match self.behind_since {
            Some(_) => self.file.sync_data().map_err(|error| {
                self.write_again();
                failed(&self.path, "brought to disk")(error)
            }),
            None => Ok(()),
        });
        if synced.is_ok() {
            self.behind_since = None;
            (self.synced_end, self.unsynced_count) = (self.end, 0);
        }
        self.tell(&synced);
        synced
    }

    /// Takes back what is not synced, so that it is written once more: after a failure, a system may take it for
    /// synced although it is not.
    fn write_again(&mut self) {
        let mut again = vec![0; (self.end - self.synced_end) as usize];
        let from = self.file.seek(SeekFrom::Start(self.synced_end));
        if from.and_then(|_| self.file.read_exact(&mut again)).is_ok() {
            again.append(&mut self.waiting);
            self.waiting = again;
            self.waiting_count += self.unsynced_count;
            (self.end, self.unsynced_count) = (self.synced_end, 0);
        }
    }

    /// How long to wait before the next sync.
    fn patience(&self) -> Duration {
        const AGAIN: Duration = Duration::from_millis(100);
        if self.is_failing { self.sync_every.max(AGAIN) } else { self.sync_every }
    }

    fn try_write(&mut self) {
        let patience = self.patience();
        if patience.is_zero() || self.behind_since.is_some_and(|since| since.elapsed() >= patience)
        {
            return self.try_sync();
        }
        let written = self.write();
        self.tell(&written);
    }

    fn try_sync(&mut self) {
        if let Err(error) = self.sync() {
            let error: &dyn Error = &error;
            tracing::error!(error, "a journal was not written; it is tried again");
            // Not before the time has passed once more.
            self.behind_since = Some(Instant::now());
        }
    }

    /// Brings the status up to date.
    fn tell(&mut self, done: &Result<(), JournalError>) {
        self.is_failing = done.is_err();
        let mut status = self.status.lock().unwrap_or_else(PoisonError::into_inner);
        status.written = self.taken - self.waiting_count;
        status.synced = status.written - self.unsynced_count;
        status.bytes = self.end;
        status.fault = done.as_ref().err().map(in_words);
    }

    /// Names a save that holds everything up to a place, and keeps only the records behind it.
    fn compact(&mut self, save: Vec<u8>, place: u64) -> Result<(), JournalError> {
        self.sync()?;
        // A save that was begun later is there already.
        let Some(drop_now) = place.checked_sub(self.dropped) else { return Ok(()) };
        let from = self.header + drop_now;
        self.name()?;
        let next = next_path(&self.path);
        let header = Header::of(&self.save, &save).to_bytes();
        let made = self.make_next(&next, &header, from);
        let (file, end) = made.inspect_err(|_| drop(fs::remove_file(&next)))?;
        let mut batch = FileBatch::new();
        batch.add(&self.save, save);
        if let Err(error) = batch.write() {
            fs::remove_file(&next).ok();
            return Err(error.into());
        }
        // From now on the new one is the journal, under either name.
        self.file = file;
        self.dropped = place;
        self.header = header.len() as u64;
        (self.end, self.synced_end) = (end, end);
        self.is_named = false;
        self.tell(&Ok(()));
        self.name()
    }

    /// Makes a journal anew, with the records behind a place.
    fn make_next(
        &mut self,
        next: &Path,
        header: &[u8],
        from: u64,
    ) -> Result<(File, u64), JournalError> {
        let mut tail = vec![0; (self.end - from) as usize];
        let read =
            self.file.seek(SeekFrom::Start(from)).and_then(|_| self.file.read_exact(&mut tail));
        read.map_err(failed(&self.path, "read"))?;
        let file = File::options().read(true).write(true).create(true).truncate(true).open(next);
        let mut file = file.map_err(failed(next, "made"))?;
        lock(&file, next)?;
        let written = file.write_all(header).and_then(|()| file.write_all(&tail));
        written.and_then(|()| file.sync_all()).map_err(failed(next, "written"))?;
        sync_folder(next);
        Ok((file, (header.len() + tail.len()) as u64))
    }

    /// Gives the file the name of the journal, unless it has it.
    fn name(&mut self) -> Result<(), JournalError> {
        if !self.is_named {
            let next = next_path(&self.path);
            fs::rename(&next, &self.path).map_err(failed(&next, "given its name"))?;
            sync_folder(&self.path);
            self.is_named = true;
        }
        Ok(())
    }
}

/// An error with what caused it, as one line.
fn in_words(error: &JournalError) -> String {
    let (mut text, mut cause) = (error.to_string(), error.source());
    while let Some(error) = cause {
        text = format!("{text}: {error}");
        cause = error.source();
    }
    text
}
