//! Opening a journal: locking it, cutting off what is damaged, replaying the rest.

use std::fs::{self, File, TryLockError};
use std::io::{ErrorKind, Read, Seek, SeekFrom, Write};
use std::path::{Path, PathBuf};
use std::time::Duration;

use super::error::failed;
use super::header::Header;
use super::records::{Found, JournalRecord};
use super::writer::Writer;
use super::{Journal, JournalError, next_path, sync_folder, with_ending};
use crate::codec::BytesFault;
use crate::document::limits::Limits;
use crate::edit::Changeset;
use crate::quilt::Quilt;

/// A journal that is locked, and whose changes are yet to be done on the map. Made by [`Journal::open`].
#[derive(Debug)]
pub struct OpenJournal {
    path: PathBuf,
    save: PathBuf,
    file: File,
    bytes: Vec<u8>,
    found: Found,
    cut: Option<JournalCut>,
    sync_every: Duration,
}

/// The end of a journal that was cut off, since it could not be read any more.
#[derive(Clone, Debug, PartialEq, Eq)]
#[non_exhaustive]
pub struct JournalCut {
    /// The first byte that was cut off.
    pub at: u64,
    /// How many bytes were cut off.
    pub bytes: u64,
    /// The fault of the first record among them.
    pub fault: BytesFault,
    /// The file beside the journal in which they lie now.
    pub kept: PathBuf,
}

/// The changes of a journal.
#[derive(Clone, Debug)]
#[non_exhaustive]
pub struct Replayed {
    /// The changes that were done on the map, in their order; for a [history](crate::edit::History), say.
    pub changes: Vec<Changeset>,
    /// The end that could not be read any more.
    pub cut: Option<JournalCut>,
}

/// The beginning of a journal.
enum Start {
    /// Its records, which lead on from the save.
    Fits(Found),
    /// Nothing yet, or a header that was not written to its end.
    Nothing,
    /// The records lead on from another save.
    Other,
}

impl Journal {
    /// How long changes may lie unsynced, unless it is told otherwise: a second.
    pub const SYNC_EVERY: Duration = Duration::from_secs(1);

    /// Opens the journal of a save, or makes one, and locks it. Load the map after this call, so that nobody
    /// writes another save meanwhile, then [replay](OpenJournal::replay) the journal.
    ///
    /// The save is one file: a map with its cells in it, an archive, or changes as bytes. Tile sets and
    /// pictures that it names may change without it. From now on it is written by [`Journal::compact`] alone.
    ///
    /// Records at the end that were not written as a whole, or are damaged, are cut off, put into a file
    /// beside the journal and reported, with all that follow them.
    ///
    /// # Errors
    /// A save that cannot be read, so one that is not there; a journal that another program has open, that
    /// leads on from another save, is none, or cannot be read or written. The files stay as they are.
    ///
    /// Reads both files.
    ///
    /// ```
    /// use sturdy_quilt::document::{Journal, Limits};
    /// use sturdy_quilt::{CellPos, Quilt};
    /// # let folder = tempfile::tempdir()?;
    /// # let save = folder.path().join("garden.quilt.json");
    /// # let journal = folder.path().join("garden.journal");
    /// # let garden = r#"{ "format": "sturdy-quilt/map", "version": 1, "lattice": { "cell": [16, 16] },
    /// #     "tiles": [{ "name": "garden", "tiles": ["wall"] }],
    /// #     "layers": [{ "name": "soil" }] }"#;
    /// # std::fs::write(&save, garden)?;
    ///
    /// let open = Journal::open(&journal, &save)?;
    /// let mut quilt = Quilt::open(&save)?;
    /// let (log, _) = open.replay(&mut quilt, &Limits::default())?;
    /// let built = quilt.edit("build", |pen| pen.put("soil", CellPos::new(3, 4), "garden/wall"))?;
    /// log.append(&built.changes);
    /// drop((log, quilt));
    ///
    /// // The save is as it was; the journal has what was done since.
    /// let open = Journal::open(&journal, &save)?;
    /// let mut quilt = Quilt::open(&save)?;
    /// let (_log, replayed) = open.replay(&mut quilt, &Limits::default())?;
    /// assert_eq!(replayed.changes[0].label(), "build");
    /// assert_eq!(quilt.get("soil", CellPos::new(3, 4))?.here(), Some(quilt.cell("garden/wall")?));
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    pub fn open(
        path: impl AsRef<Path>,
        save: impl AsRef<Path>,
    ) -> Result<OpenJournal, JournalError> {
        let (path, save) = (path.as_ref().to_owned(), save.as_ref().to_owned());
        File::open(&save).map_err(failed(&save, "read"))?;
        let mut file = locked(&path)?;
        let header = Header::of(&save, &fs::read(&save).map_err(failed(&save, "read"))?);
        let mut bytes = read(&mut file, &path)?;
        let mut start = Start::of(&bytes, &header, &path)?;
        if !matches!(start, Start::Fits(_))
            && let Some((next, next_bytes, found)) = adopted(&path, &header)?
        {
            (file, bytes, start) = (next, next_bytes, Start::Fits(found));
        }
        let (found, cut) = match start {
            Start::Other => return Err(JournalError::OtherSave { path, save }),
            Start::Nothing => {
                bytes = header.to_bytes();
                rewrite(&mut file, &bytes).map_err(failed(&path, "written"))?;
                sync_folder(&path);
                let header_len = bytes.len();
                (Found::begun(header, header_len), None)
            }
            Start::Fits(found) => {
                let cut = cut(&mut file, &path, &bytes, &found)?;
                (found, cut)
            }
        };
        // One that was begun for a save that never got its name.
        fs::remove_file(next_path(&path)).ok();
        Ok(OpenJournal { path, save, file, bytes, found, cut, sync_every: Journal::SYNC_EVERY })
    }
}

impl OpenJournal {
    /// Returns this journal with another time for which changes may lie unsynced. With none, each group of
    /// changes is synced as soon as it is written.
    #[must_use]
    pub const fn with_sync_every(mut self, sync_every: Duration) -> OpenJournal {
        self.sync_every = sync_every;
        self
    }

    /// Returns its records, in the order in which they were appended.
    pub fn records(&self) -> impl ExactSizeIterator<Item = JournalRecord<'_>> {
        self.found.each(&self.bytes)
    }

    /// Returns what was cut off when it was opened.
    pub const fn cut(&self) -> Option<&JournalCut> {
        self.cut.as_ref()
    }

    /// Does all changes on the map, which is as it was saved, and starts the thread that appends more.
    ///
    /// # Errors
    /// A record that cannot be done on the map, or within the limits; no thread could be started. The map and
    /// the journal stay as they are.
    pub fn replay(
        self,
        quilt: &mut Quilt,
        limits: &Limits,
    ) -> Result<(Journal, Replayed), JournalError> {
        let mut map = quilt.clone();
        let mut changes = Vec::new();
        for (at, record) in self.records().enumerate() {
            let done = record.changes(&map, limits).and_then(|changes| {
                map.apply(&changes)?;
                Ok(changes)
            });
            changes.push(done.map_err(|source| JournalError::Record {
                path: self.path.clone(),
                number: at + 1,
                source,
            })?);
        }
        let OpenJournal { path, save, file, found, cut, sync_every, .. } = self;
        let writer = Writer::new(path, save, file, (found.header_len, found.end()), sync_every);
        let journal = Journal::start(writer)?;
        *quilt = map;
        Ok((journal, Replayed { changes, cut }))
    }
}

impl Start {
    fn of(bytes: &[u8], save: &Header, path: &Path) -> Result<Start, JournalError> {
        let fault = |at: usize, source| JournalError::Bytes {
            path: path.to_owned(),
            at: at as u64,
            source,
        };
        let found = match Found::in_bytes(bytes) {
            Ok(found) => found,
            Err(_) if is_unwritten(bytes, save) => return Ok(Start::Nothing),
            Err(source) => return Err(fault(0, source)),
        };
        match &found.fault {
            Some((at, source @ BytesFault::Version { .. })) => Err(fault(*at, source.clone())),
            _ if found.header.fits(save) => Ok(Start::Fits(found)),
            _ => Ok(Start::Other),
        }
    }
}

/// Whether a file is all of a journal that was begun and whose header did not come to disk as a whole. Some
/// systems leave zeros in its place.
fn is_unwritten(bytes: &[u8], save: &Header) -> bool {
    let header = save.to_bytes();
    header.starts_with(bytes) || bytes.len() <= header.len() && bytes.iter().all(|byte| *byte == 0)
}

/// Opens a journal, or makes one, and locks it.
fn locked(path: &Path) -> Result<File, JournalError> {
    loop {
        let file = File::options().read(true).write(true).create(true).truncate(false).open(path);
        let file = file.map_err(failed(path, "opened"))?;
        lock(&file, path)?;
        // Compacting may have put another file in its place between the two.
        let locked = file.try_clone().and_then(same_file::Handle::from_file);
        let named = same_file::Handle::from_path(path);
        match (locked, named) {
            (Ok(locked), Ok(named)) if locked == named => return Ok(file),
            (Ok(_), Err(error)) if error.kind() == ErrorKind::NotFound => {}
            (Err(error), _) | (_, Err(error)) => return Err(failed(path, "opened")(error)),
            (Ok(_), Ok(_)) => {}
        }
    }
}

pub(super) fn lock(file: &File, path: &Path) -> Result<(), JournalError> {
    match file.try_lock() {
        Ok(()) => Ok(()),
        Err(TryLockError::WouldBlock) => Err(JournalError::InUse { path: path.to_owned() }),
        // A system without locks has no second writer that could be told.
        Err(TryLockError::Error(error)) if error.kind() == ErrorKind::Unsupported => Ok(()),
        Err(TryLockError::Error(error)) => Err(failed(path, "locked")(error)),
    }
}

fn read(file: &mut File, path: &Path) -> Result<Vec<u8>, JournalError> {
    let mut bytes = Vec::new();
    file.read_to_end(&mut bytes).map_err(failed(path, "read"))?;
    Ok(bytes)
}

/// Takes the journal that was made anew for the save, where the last step of compacting was not reached.
fn adopted(path: &Path, save: &Header) -> Result<Option<(File, Vec<u8>, Found)>, JournalError> {
    let next = next_path(path);
    let mut file = match File::options().read(true).write(true).open(&next) {
        Ok(file) => file,
        Err(error) if error.kind() == ErrorKind::NotFound => return Ok(None),
        Err(error) => return Err(failed(&next, "opened")(error)),
    };
    let bytes = read(&mut file, &next)?;
    let Ok(Start::Fits(found)) = Start::of(&bytes, save, &next) else { return Ok(None) };
    lock(&file, &next)?;
    fs::rename(&next, path).map_err(failed(&next, "given its name"))?;
    sync_folder(path);
    Ok(Some((file, bytes, found)))
}

/// Cuts off what is not sound, once it lies in a file of its own.
fn cut(
    file: &mut File,
    path: &Path,
    bytes: &[u8],
    found: &Found,
) -> Result<Option<JournalCut>, JournalError> {
    let Some((at, fault)) = &found.fault else { return Ok(None) };
    let (kept, mut beside) = new_file(path)?;
    let keep = beside.write_all(&bytes[*at..]).and_then(|()| beside.sync_all());
    keep.map_err(failed(&kept, "written"))?;
    sync_folder(path);
    let shorten = file.set_len(*at as u64).and_then(|()| file.sync_all());
    shorten.map_err(failed(path, "shortened"))?;
    let cut = bytes.len() - at;
    tracing::warn!(journal = %path.display(), at, bytes = cut, %fault, kept = %kept.display(), "cut a journal");
    Ok(Some(JournalCut { at: *at as u64, bytes: cut as u64, fault: fault.clone(), kept }))
}

/// Makes a file beside a journal, under a name that none has.
fn new_file(path: &Path) -> Result<(PathBuf, File), JournalError> {
    let mut number = 1;
    loop {
        let kept = with_ending(path, &format!(".cut-{number}"));
        match File::create_new(&kept) {
            Ok(file) => return Ok((kept, file)),
            Err(error) if error.kind() == ErrorKind::AlreadyExists => number += 1,
            Err(error) => return Err(failed(&kept, "made")(error)),
        }
    }
}

/// Writes a file from its beginning.
fn rewrite(file: &mut File, bytes: &[u8]) -> std::io::Result<()> {
    file.set_len(0)?;
    file.seek(SeekFrom::Start(0))?;
    file.write_all(bytes)?;
    file.sync_all()
}
