//! Saving a map to a file: whole, or not at all.

use super::error::SaveError;

impl crate::quilt::Quilt {
    /// Saves the map as a document. Tile sets and pictures that have files of their own are
    /// named, not written.
    ///
    /// The file is whole or as it was, as every file of a [`FileBatch`](crate::document::FileBatch).
    ///
    /// # Errors
    /// See [`Quilt::to_json`](crate::Quilt::to_json); or the file cannot be written.
    ///
    /// ```no_run
    /// # let quilt = sturdy_quilt::doc_quilt();
    /// quilt.save("saves/garden.quilt.json")?;
    /// # Ok::<(), sturdy_quilt::document::SaveError>(())
    /// ```
    pub fn save(&self, path: impl AsRef<std::path::Path>) -> Result<(), SaveError> {
        let mut batch = super::FileBatch::new();
        batch.add(path.as_ref(), self.to_json()?);
        batch.write()
    }
}
