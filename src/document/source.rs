//! Where the bytes of documents and pictures come from.

use std::collections::BTreeMap;

/// A set of files by path, from which a map is loaded: a folder, memory, an archive.
///
/// Paths are relative to the source, with `/` between their parts; the loader resolves those that
/// documents name and lets none leave the source.
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
    fn places_of(&self, name: &str) -> Vec<String> {
        let _ = name;
        Vec::new()
    }

    /// What a file is called in messages.
    fn label(&self, path: &str) -> String {
        path.to_owned()
    }
}

/// Why a file could not be read.
#[derive(Debug, thiserror::Error)]
#[non_exhaustive]
pub enum SourceError {
    /// There is no such file.
    #[error("there is no such file")]
    NotFound,
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

/// Files in memory.
///
/// ```
/// use sturdy_quilt::{Limits, MemorySource, load};
///
/// let mut files = MemorySource::default();
/// files.add("yard.quilt.json", r#"{
///   "format": "sturdy-quilt/map", "version": 1,
///   "lattice": { "shape": "square", "cell": [16, 16] },
///   "tiles": [{ "name": "yard", "tiles": ["sand", "wall"] }],
///   "layers": [{ "name": "soil", "at": [-1, 0], "cells": {
///     "legend": { ".": "yard/sand", "w": "yard/wall" },
///     "rows": ["..w", "www"] } }]
/// }"#);
/// let loaded = load(&files, "yard.quilt.json", &Limits::default())?;
/// assert!(loaded.warnings.is_empty());
/// assert_eq!(loaded.quilt.bounds().to_string(), "3 × 2 cells at -1,0");
/// # Ok::<(), sturdy_quilt::LoadError>(())
/// ```
#[derive(Clone, Debug, Default)]
pub struct MemorySource {
    files: BTreeMap<String, Vec<u8>>,
}

impl MemorySource {
    /// Adds a file, or replaces the one at its path.
    pub fn add(&mut self, path: impl Into<String>, bytes: impl Into<Vec<u8>>) {
        self.files.insert(path.into(), bytes.into());
    }
}

impl FileSource for MemorySource {
    fn read(&self, path: &str, max_bytes: u64) -> Result<Vec<u8>, SourceError> {
        let bytes = self.files.get(path).ok_or(SourceError::NotFound)?;
        check_size(bytes.len() as u64, max_bytes)?;
        Ok(bytes.clone())
    }

    fn names(&self, folder: &str) -> Vec<String> {
        let inside = |path: &String| match path.rsplit_once('/') {
            Some((parent, name)) => (parent == folder).then(|| name.to_owned()),
            None => folder.is_empty().then(|| path.clone()),
        };
        self.files.keys().filter_map(inside).collect()
    }

    fn places_of(&self, name: &str) -> Vec<String> {
        let is_named = |path: &&String| path.rsplit('/').next() == Some(name);
        self.files.keys().filter(is_named).cloned().collect()
    }
}

fn check_size(bytes: u64, limit: u64) -> Result<(), SourceError> {
    if bytes > limit { Err(SourceError::TooLarge { bytes, limit }) } else { Ok(()) }
}

/// The files of a folder, of which none outside it can be reached, also not through links.
#[cfg(feature = "fs")]
#[derive(Clone, Debug)]
pub struct FolderSource {
    folder: std::path::PathBuf,
}

#[cfg(feature = "fs")]
impl FolderSource {
    /// The files of `folder`.
    pub fn new(folder: impl Into<std::path::PathBuf>) -> FolderSource {
        FolderSource { folder: folder.into() }
    }

    /// The folder of a file, and the name of the file in it: what [`load`](crate::load) takes for
    /// a map of which the path is known.
    pub fn of_file(path: &std::path::Path) -> (FolderSource, String) {
        let folder = path.parent().unwrap_or(std::path::Path::new(""));
        let name = path.file_name().unwrap_or_default().to_string_lossy().into_owned();
        (FolderSource::new(folder), name)
    }

    fn resolve(&self, path: &str) -> Result<std::path::PathBuf, SourceError> {
        let not_found = |error: std::io::Error| match error.kind() {
            std::io::ErrorKind::NotFound => SourceError::NotFound,
            _ => SourceError::Io(error),
        };
        let own = if self.folder.as_os_str().is_empty() { ".".as_ref() } else { &*self.folder };
        let root = own.canonicalize().map_err(not_found)?;
        let file = root.join(path).canonicalize().map_err(not_found)?;
        if file.starts_with(&root) { Ok(file) } else { Err(SourceError::Outside) }
    }
}

#[cfg(feature = "fs")]
impl FileSource for FolderSource {
    fn read(&self, path: &str, max_bytes: u64) -> Result<Vec<u8>, SourceError> {
        use std::io::Read;
        let file = std::fs::File::open(self.resolve(path)?)?;
        check_size(file.metadata()?.len(), max_bytes)?;
        let mut bytes = Vec::new();
        // The file may grow meanwhile, or not know its size; one byte more than allowed tells.
        file.take(max_bytes.saturating_add(1)).read_to_end(&mut bytes)?;
        check_size(bytes.len() as u64, max_bytes)?;
        Ok(bytes)
    }

    fn names(&self, folder: &str) -> Vec<String> {
        let Ok(folder) = self.resolve(folder) else { return Vec::new() };
        let entries = std::fs::read_dir(folder).into_iter().flatten().flatten();
        let mut names: Vec<String> =
            entries.filter_map(|entry| entry.file_name().into_string().ok()).collect();
        names.sort_unstable();
        names
    }

    fn places_of(&self, name: &str) -> Vec<String> {
        // Folders of a game can hold very much; a hint is worth a short look only.
        const MOST_FOLDERS: usize = 200;
        let (mut found, mut folders) = (Vec::new(), vec![String::new()]);
        let mut looked_at = 0;
        while let Some(folder) = folders.pop().filter(|_| looked_at < MOST_FOLDERS) {
            looked_at += 1;
            for inner in self.names(&folder) {
                let path =
                    if folder.is_empty() { inner.clone() } else { format!("{folder}/{inner}") };
                if inner == name {
                    found.push(path);
                } else if self.folder.join(&path).is_dir() && !inner.starts_with('.') {
                    folders.push(path);
                }
            }
        }
        found.sort_unstable();
        found
    }

    fn label(&self, path: &str) -> String {
        self.folder.join(path).display().to_string()
    }
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
