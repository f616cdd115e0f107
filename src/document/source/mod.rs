//! Sources of the bytes of documents and pictures.

#[cfg(feature = "fs")]
mod folder;
mod memory;
#[cfg(feature = "zip")]
mod zip_file;

use std::sync::{PoisonError, RwLock};

#[cfg(feature = "fs")]
pub use folder::FolderSource;
pub use memory::MemorySource;
#[cfg(feature = "zip")]
pub use zip_file::{ZipError, ZipSource};

/// A set of files by path, from which a map is loaded: a folder, memory, an archive.
///
/// Paths are relative to the source, with `/` between their parts; the loader resolves those that
/// documents name and lets none leave the source. Within an `RwLock` a source can be added to while
/// another thread loads from it.
pub trait FileSource {
    /// The bytes of a file.
    ///
    /// # Errors
    /// A file that is not there, is larger than `max_bytes`, lies outside the source, or cannot
    /// be read.
    fn read(&self, path: &str, max_bytes: u64) -> Result<Vec<u8>, SourceError>;

    /// The names of the files in a folder (`""` is the source itself), for hints. May be empty.
    fn names(&self, folder: &str) -> Vec<String>;

    /// The paths of the files with this name in any folder, for hints. May be empty.
    fn places_of(&self, _name: &str) -> Vec<String> {
        Vec::new()
    }

    /// Whether a file that is not there yet will be, because it is being downloaded. A load that
    /// needs it then waits for it, or gives its name; see [`LoadError::awaited`].
    ///
    /// [`LoadError::awaited`]: crate::LoadError::awaited
    fn is_coming(&self, _path: &str) -> bool {
        false
    }

    /// What a file is called in messages.
    fn label(&self, path: &str) -> String {
        path.to_owned()
    }
}

/// The error of a file that could not be read.
#[derive(Debug, thiserror::Error)]
#[non_exhaustive]
pub enum SourceError {
    /// There is no such file.
    #[error("there is no such file")]
    NotFound,
    /// The path leads to a folder, a pipe or a device.
    #[error("it is not a regular file, but a folder, a pipe or a device")]
    NoFile,
    /// It lies outside the source.
    #[error("it lies outside the folder of the map")]
    Outside,
    /// It is larger than allowed.
    #[error("it has {bytes} bytes, more than the {limit} allowed")]
    TooLarge {
        /// Its size.
        bytes: u64,
        /// The most bytes allowed.
        limit: u64,
    },
    /// Reading it failed.
    #[error("it cannot be read")]
    Io(#[from] std::io::Error),
}

impl<S: FileSource> FileSource for RwLock<S> {
    fn read(&self, path: &str, max_bytes: u64) -> Result<Vec<u8>, SourceError> {
        self.read().unwrap_or_else(PoisonError::into_inner).read(path, max_bytes)
    }

    fn names(&self, folder: &str) -> Vec<String> {
        self.read().unwrap_or_else(PoisonError::into_inner).names(folder)
    }

    fn places_of(&self, name: &str) -> Vec<String> {
        self.read().unwrap_or_else(PoisonError::into_inner).places_of(name)
    }

    fn is_coming(&self, path: &str) -> bool {
        self.read().unwrap_or_else(PoisonError::into_inner).is_coming(path)
    }

    fn label(&self, path: &str) -> String {
        self.read().unwrap_or_else(PoisonError::into_inner).label(path)
    }
}

fn check_size(bytes: u64, limit: u64) -> Result<(), SourceError> {
    if bytes > limit { Err(SourceError::TooLarge { bytes, limit }) } else { Ok(()) }
}

/// The path of a file that another file names, relative to the source; an error says in words
/// why there can be none.
pub(super) fn resolved(naming_file: &str, named: &str) -> Result<String, &'static str> {
    if named.is_empty() {
        return Err("a path must not be empty");
    }
    if named.contains('\\') {
        return Err("a path must have `/` between its parts");
    }
    if named.starts_with('/') || named.contains(':') {
        return Err("a path must be relative to the file that names it");
    }
    let mut parts: Vec<&str> = naming_file.split('/').collect();
    parts.pop();
    for part in named.split('/') {
        match part {
            "" | "." => {}
            ".." => {
                parts.pop().ok_or("a path must not leave the folder of the map")?;
            }
            name => parts.push(name),
        }
    }
    Ok(parts.join("/"))
}
