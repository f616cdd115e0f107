use std::borrow::Cow;
use std::collections::{BTreeMap, BTreeSet};

use super::{FileSource, SourceError, check_size};

/// Files in memory.
///
/// ```
/// use sturdy_quilt::{MemorySource, Quilt};
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
/// let quilt = Quilt::load(&files, "yard.quilt.json")?;
/// assert_eq!(quilt.bounds().to_string(), "3 × 2 cells at -1,0");
/// # Ok::<(), sturdy_quilt::LoadError>(())
/// ```
#[derive(Clone, Debug, Default)]
pub struct MemorySource {
    files: BTreeMap<String, Cow<'static, [u8]>>,
    coming: BTreeSet<String>,
}

impl MemorySource {
    /// Adds a file, or replaces the one at its path.
    pub fn add(&mut self, path: impl Into<String>, bytes: impl Into<Vec<u8>>) {
        self.insert(path.into(), Cow::Owned(bytes.into()));
    }

    /// Adds a file that the program holds as part of itself, which is not copied.
    ///
    /// ```
    /// # use sturdy_quilt::MemorySource;
    /// let mut files = MemorySource::default();
    /// # macro_rules! include_bytes { ($path:literal) => { b"a file" } }
    /// files.add_static("maps/yard.quilt.json", include_bytes!("../maps/yard.quilt.json"));
    /// ```
    pub fn add_static(&mut self, path: impl Into<String>, bytes: &'static [u8]) {
        self.insert(path.into(), Cow::Borrowed(bytes));
    }

    /// Says that a file will be added later: a load that needs it waits for it, or gives its name,
    /// instead of taking it for a mistake.
    ///
    /// ```
    /// use sturdy_quilt::{MemorySource, Quilt};
    ///
    /// let mut files = MemorySource::default();
    /// files.announce("yard.quilt.json");
    /// let error = Quilt::load(&files, "yard.quilt.json").unwrap_err();
    /// assert_eq!(error.awaited(), ["yard.quilt.json"]);
    /// ```
    pub fn announce(&mut self, path: impl Into<String>) {
        self.coming.insert(path.into());
    }

    /// Says that a file which was announced will not come.
    pub fn give_up(&mut self, path: &str) {
        self.coming.remove(path);
    }

    fn insert(&mut self, path: String, bytes: Cow<'static, [u8]>) {
        self.coming.remove(&path);
        self.files.insert(path, bytes);
    }
}

impl FileSource for MemorySource {
    fn read(&self, path: &str, max_bytes: u64) -> Result<Vec<u8>, SourceError> {
        let bytes = self.files.get(path).ok_or(SourceError::NotFound)?;
        check_size(bytes.len() as u64, max_bytes)?;
        Ok(bytes.to_vec())
    }

    fn is_coming(&self, path: &str) -> bool {
        self.coming.contains(path)
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
