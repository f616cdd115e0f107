//! Writing several files so that all of them are there, each whole, or none.
//!
//! Each file is written under a temporary name beside its place, and brought to disk. Once all are,
//! they get their names. A writer holds a lock on its temporary files: what has the name of one and
//! no lock was left by a process that was killed, and the next writer to that folder removes it.

use std::fs::{self, File};
use std::io::{self, ErrorKind, Write};
use std::path::{Path, PathBuf};

use tempfile::NamedTempFile;

use super::error::SaveError;
/// Files that are written together: all of them, each whole, or none.
///
/// Folders that are missing are made. A file that is replaced keeps its permissions; one that is
/// read-only is not replaced. Of a link, the file that it leads to is written. What is no file, a
/// pipe or a device, is written to as it is, once the files are ready and before any of them gets
/// its name.
///
/// ```
/// use sturdy_quilt::document::FileBatch;
/// # let quilt = sturdy_quilt::doc_quilt();
/// # let saves = tempfile::tempdir()?;
/// # let saves = saves.path().join("new");
///
/// let mut batch = FileBatch::new();
/// for (name, bytes) in quilt.document().with_cells_apart(true).to_files("garden.quilt.json")? {
///     batch.add(saves.join(name), bytes);
/// }
/// batch.write()?;
/// assert!(saves.join("garden-soil.txt").exists());
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
#[derive(Debug, Default)]
pub struct FileBatch {
    files: Vec<(PathBuf, Vec<u8>)>,
}

impl FileBatch {
    /// Returns a batch without files.
    pub fn new() -> FileBatch {
        FileBatch::default()
    }

    /// Adds a file. Nothing is written yet.
    pub fn add(&mut self, path: impl Into<PathBuf>, bytes: impl Into<Vec<u8>>) {
        self.files.push((path.into(), bytes.into()));
    }

    /// Returns the paths of the files and how many bytes each has, in the order in which they were
    /// added.
    pub fn files(&self) -> impl ExactSizeIterator<Item = (&Path, usize)> {
        self.files.iter().map(|(path, bytes)| (&**path, bytes.len()))
    }

    /// Writes all files, in the order in which they were added.
    ///
    /// # Errors
    /// [`SaveError::Io`] names the first file that cannot be written: its path is that of a folder,
    /// it is read-only, its folder cannot be made, the disk is full. Then every file is as it was,
    /// and every folder that was made is gone.
    ///
    /// Costs a look at the names in each folder that is written to.
    pub fn write(self) -> Result<(), SaveError> {
        self.try_write()
            .map_err(|(path, source)| SaveError::Io { path: path.display().to_string(), source })
    }

    fn try_write(&self) -> Result<(), (&Path, io::Error)> {
        let mut targets = Vec::with_capacity(self.files.len());
        for (path, bytes) in &self.files {
            targets.push((&**path, Target::of(path).map_err(|error| (&**path, error))?, bytes));
        }
        let (mut made, mut staged) = (MadeFolders::default(), Vec::new());
        let mut tidied: Vec<&Path> = Vec::new();
        for (path, target, bytes) in &targets {
            if let Target::File(file) = target {
                if !tidied.contains(&folder_of(file)) {
                    tidied.push(folder_of(file));
                    remove_leftovers(folder_of(file));
                }
                let ready = made.make(folder_of(file)).and_then(|()| Staged::new(file, bytes));
                staged.push((*path, ready.map_err(|error| (*path, error))?));
            }
        }
        for (path, target, bytes) in &targets {
            if matches!(target, Target::Stream) {
                fs::write(path, bytes).map_err(|error| (*path, error))?;
            }
        }
        for (path, file) in staged {
            file.name().map_err(|error| (path, error))?;
        }
        made.keep();
        Ok(())
    }
}

/// Where bytes go.
enum Target {
    /// A file, or the place of one.
    File(PathBuf),
    /// A pipe or a device.
    Stream,
}

impl Target {
    fn of(path: &Path) -> io::Result<Target> {
        let is_folder = || io::Error::new(ErrorKind::IsADirectory, "it is a folder");
        if path.file_name().is_none() || path.as_os_str().as_encoded_bytes().ends_with(b"/") {
            return Err(is_folder());
        }
        let place = match path.metadata() {
            Ok(held) if held.is_dir() => return Err(is_folder()),
            Ok(held) if !held.is_file() => return Ok(Target::Stream),
            Ok(held) if held.permissions().readonly() => {
                return Err(io::Error::new(ErrorKind::PermissionDenied, "it is read-only"));
            }
            Ok(_) => path.canonicalize()?,
            Err(error) if error.kind() == ErrorKind::NotFound => end_of_link(path.to_owned())?,
            Err(error) => return Err(error),
        };
        Ok(Target::File(place))
    }
}

/// Where a chain of links leads at whose end nothing is yet.
fn end_of_link(mut path: PathBuf) -> io::Result<PathBuf> {
    // As many as most systems follow.
    for _ in 0..40 {
        if !path.is_symlink() {
            return Ok(path);
        }
        path = folder_of(&path).join(fs::read_link(&path)?);
    }
    Err(io::Error::other("it is a link that leads to itself"))
}

fn folder_of(path: &Path) -> &Path {
    match path.parent() {
        Some(folder) if !folder.as_os_str().is_empty() => folder,
        _ => Path::new("."),
    }
}

/// Folders that were made, which are removed again unless they are kept.
#[derive(Default)]
struct MadeFolders {
    made: Vec<PathBuf>,
}

impl MadeFolders {
    /// Makes a folder and those that it lies in.
    fn make(&mut self, folder: &Path) -> io::Result<()> {
        let missing: Vec<&Path> = folder
            .ancestors()
            .take_while(|part| !part.as_os_str().is_empty() && !part.exists())
            .collect();
        for part in missing.into_iter().rev() {
            match fs::create_dir(part) {
                Ok(()) => self.made.push(part.to_owned()),
                // Another process was as fast.
                Err(error) if error.kind() == ErrorKind::AlreadyExists && part.is_dir() => {}
                Err(error) => return Err(error),
            }
        }
        Ok(())
    }

    fn keep(mut self) {
        self.made.clear();
    }
}

impl Drop for MadeFolders {
    fn drop(&mut self) {
        for folder in self.made.iter().rev() {
            // One in which another process has put something stays.
            fs::remove_dir(folder).ok();
        }
    }
}

/// A file that is written and has yet to get its name.
struct Staged {
    file: NamedTempFile,
    place: PathBuf,
}

/// Begins the name of a temporary file; [`RANDOM`] letters and digits follow.
const PREFIX: &str = ".sturdy-quilt-saving-";
const RANDOM: usize = 8;

impl Staged {
    fn new(place: &Path, bytes: &[u8]) -> io::Result<Staged> {
        let mut builder = tempfile::Builder::new();
        builder.prefix(PREFIX).rand_bytes(RANDOM);
        let held = fs::metadata(place).ok().map(|held| held.permissions());
        #[cfg(unix)]
        {
            use std::os::unix::fs::PermissionsExt;
            // What another file of the folder would have, not the owner's alone; the process's
            // mask still applies.
            builder.permissions(PermissionsExt::from_mode(0o666));
        }
        let mut file = loop {
            let file = builder.tempfile_in(folder_of(place))?;
            // A system without locks loses no more than the removal of leftovers.
            file.as_file().lock().ok();
            // Another writer may have taken it for a leftover before it was locked.
            if file.path().exists() {
                break file;
            }
        };
        file.write_all(bytes)?;
        if let Some(permissions) = held {
            // Without the mask, which may be stricter than the file that is replaced.
            file.as_file().set_permissions(permissions)?;
        }
        file.as_file().sync_all()?;
        Ok(Staged { file, place: place.to_owned() })
    }

    /// Gives it its name.
    fn name(self) -> io::Result<()> {
        self.file.persist(&self.place)?;
        // The new name must survive a power cut too; only some systems can sync a folder.
        if let Ok(folder) = File::open(folder_of(&self.place)) {
            folder.sync_all().ok();
        }
        Ok(())
    }
}

/// Removes the temporary files of writers that are gone.
fn remove_leftovers(folder: &Path) {
    let is_temporary = |name: &str| {
        let random = name.strip_prefix(PREFIX);
        random.is_some_and(|r| r.len() == RANDOM && r.bytes().all(|b| b.is_ascii_alphanumeric()))
    };
    for entry in fs::read_dir(folder).into_iter().flatten().flatten() {
        if !entry.file_name().to_str().is_some_and(is_temporary) {
            continue;
        }
        let file = File::options().read(true).write(true).open(entry.path());
        // Held while it is removed, so that its writer, if it has just made it, makes another.
        if file.is_ok_and(|file| file.try_lock().is_ok() && fs::remove_file(entry.path()).is_ok()) {
            tracing::info!(file = %entry.path().display(), "removed what a killed writer left");
        }
    }
}
