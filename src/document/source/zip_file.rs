//! Files in a zip archive, through the `zip` crate.

use std::borrow::Cow;
use std::io::{Cursor, Read};
use std::sync::Arc;

use zip::ZipArchive;
use zip::result::ZipError as ArchiveError;

use super::{FileSource, SourceError, check_size};

/// The files of a zip archive (stored or deflated) that lies in memory.
///
/// ```no_run
/// use sturdy_quilt::document::ZipSource;
/// use sturdy_quilt::Quilt;
///
/// let estate = ZipSource::new(std::fs::read("estate.zip")?)?;
/// let map = estate.maps().next().ok_or("there is no map in it")?.to_owned();
/// let quilt = Quilt::load(&estate, &map)?;
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
#[derive(Clone)]
pub struct ZipSource {
    archive: ZipArchive<Cursor<Arc<[u8]>>>,
    /// The paths of all files, in order.
    paths: Arc<[String]>,
    label: String,
}

/// The error of bytes that are not a zip archive, or of a damaged one.
#[derive(Debug, thiserror::Error)]
#[error("the bytes are not a readable zip archive")]
pub struct ZipError(#[from] ArchiveError);

impl ZipSource {
    /// Returns the files of an archive.
    ///
    /// # Errors
    /// Bytes that are no zip archive, or whose list of files is damaged.
    pub fn new(bytes: impl Into<Arc<[u8]>>) -> Result<ZipSource, ZipError> {
        let archive = ZipArchive::new(Cursor::new(bytes.into()))?;
        // A file whose path cannot be read cannot be named by a map.
        let paths = archive.file_names().filter_map(|path| path.ok().map(Cow::into_owned));
        let mut paths: Vec<String> = paths.collect();
        paths.sort_unstable();
        Ok(ZipSource { archive, paths: paths.into(), label: String::new() })
    }

    setters! {
        /// Returns these files, called by the archive's own path and theirs in messages.
        with_label(label: into String);
    }

    /// Returns the paths of all files in the archive, in the order of their names.
    pub fn paths(&self) -> impl Iterator<Item = &str> {
        self.paths.iter().map(String::as_str)
    }

    /// Returns the paths of all maps in the archive, in the order of their names.
    pub fn maps(&self) -> impl Iterator<Item = &str> {
        self.paths().filter(|path| path.ends_with(".quilt.json"))
    }
}

impl FileSource for ZipSource {
    fn read(&self, path: &str, max_bytes: u64) -> Result<Vec<u8>, SourceError> {
        // A clone shares the bytes and the list of files, and has a place to read of its own.
        let mut archive = self.archive.clone();
        let file = match archive.by_name(path) {
            Ok(file) => file,
            Err(ArchiveError::FileNotFound) => return Err(SourceError::NotFound),
            Err(error) => return Err(SourceError::Io(error.into())),
        };
        check_size(file.size(), max_bytes)?;
        let mut bytes = Vec::new();
        // What the list of files says of the size may be wrong.
        file.take(max_bytes.saturating_add(1)).read_to_end(&mut bytes)?;
        check_size(bytes.len() as u64, max_bytes)?;
        Ok(bytes)
    }

    fn names(&self, folder: &str) -> Vec<String> {
        let prefix = if folder.is_empty() { String::new() } else { format!("{folder}/") };
        let inside = self.paths.iter().filter_map(|path| path.strip_prefix(&prefix));
        inside.filter(|name| !name.contains('/')).map(str::to_owned).collect()
    }

    fn places_of(&self, name: &str) -> Vec<String> {
        let is_named = |path: &&String| path.rsplit('/').next() == Some(name);
        self.paths.iter().filter(is_named).cloned().collect()
    }

    fn label(&self, path: &str) -> String {
        match (self.label.as_str(), path) {
            ("", path) => path.to_owned(),
            (archive, "") => archive.to_owned(),
            (archive, path) => format!("{archive}/{path}"),
        }
    }
}

impl std::fmt::Debug for ZipSource {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        write!(f, "ZipSource({}, {} files)", self.label, self.paths.len())
    }
}
