//! Saving a map to a file: whole, or not at all.

use crate::units::CellRect;

/// Why a map cannot be saved. A file that was there before is unharmed.
#[derive(Debug, thiserror::Error)]
#[non_exhaustive]
pub enum SaveError {
    /// A layer is not there.
    #[error(transparent)]
    Name(#[from] crate::near::NameError),
    /// A tile set was made in code from a picture that has no file.
    #[error(
        "tile set `{set}` has a picture without a file; name one with `picture_file`, or save the set to a file of its own"
    )]
    PictureWithoutFile {
        /// The set.
        set: String,
    },
    /// A part of a layer is not in memory.
    #[error("layer `{layer}` is not loaded as a whole")]
    NotLoaded {
        /// The layer.
        layer: String,
    },
    /// A layer spans too many cells to be written as rows of characters.
    #[error("layer `{layer}` spans {rect}, too many to be written as text")]
    TooLargeForText {
        /// The layer.
        layer: String,
        /// What it spans.
        rect: CellRect,
    },
    /// A cell has a tile that no set has, and so no number.
    #[error(
        "layer `{layer}` has the tile `{tile}`, which no tile set has, so that it has no number"
    )]
    NoNumber {
        /// The layer.
        layer: String,
        /// The full name of the tile.
        tile: String,
    },
    /// A layer cannot be packed.
    #[error("layer `{layer}` cannot be packed")]
    Packing {
        /// The layer.
        layer: String,
        /// Why not.
        #[source]
        source: std::io::Error,
    },
    /// A layer cannot be written as a picture, for example because it has no cells.
    #[cfg(feature = "png")]
    #[error("layer `{layer}` cannot be written as a picture")]
    Picture {
        /// The layer.
        layer: String,
        /// Why not.
        #[source]
        source: crate::picture::PngError,
    },
    /// This program was built without the feature `png`.
    #[cfg(not(feature = "png"))]
    #[error(
        "layer `{layer}` cannot be written as a picture: the program was built without the feature `png`"
    )]
    NoPictures {
        /// The layer.
        layer: String,
    },
    /// The file could not be written.
    #[error("`{path}` cannot be written")]
    Io {
        /// The file.
        path: String,
        /// Why not.
        #[source]
        source: std::io::Error,
    },
}

#[cfg(feature = "fs")]
mod to_file {
    use std::io::Write;
    use std::path::Path;

    use super::SaveError;
    use crate::quilt::Quilt;

    impl Quilt {
        /// Saves the map as a document. Tile sets and pictures that have files of their own are
        /// named, not written.
        ///
        /// The file is whole or as it was: the text is written beside it, brought safely to disk,
        /// and then given its name. Of a link, it is the file that it leads to; what is no file, a
        /// pipe or a device, is written to as it is.
        ///
        /// # Errors
        /// See [`Quilt::to_json`]; or the file cannot be written.
        ///
        /// ```no_run
        /// # let quilt = sturdy_quilt::doc_quilt();
        /// quilt.save("saves/garden.quilt.json")?;
        /// # Ok::<(), sturdy_quilt::SaveError>(())
        /// ```
        pub fn save(&self, path: impl AsRef<Path>) -> Result<(), SaveError> {
            let (text, path) = (self.to_json()?, path.as_ref());
            write_whole(path, text.as_bytes())
                .map_err(|source| SaveError::Io { path: path.display().to_string(), source })
        }
    }

    fn write_whole(path: &Path, bytes: &[u8]) -> std::io::Result<()> {
        if path.metadata().is_ok_and(|held| !held.is_file()) {
            return std::fs::write(path, bytes);
        }
        let path = &path.canonicalize().unwrap_or_else(|_| path.to_owned());
        let folder = match path.parent() {
            Some(folder) if !folder.as_os_str().is_empty() => folder,
            _ => Path::new("."),
        };
        let mut beside = tempfile::Builder::new();
        #[cfg(unix)]
        {
            use std::os::unix::fs::PermissionsExt;
            // What another file of the folder would have, not the owner's alone; the process's
            // mask still applies. A file that is replaced keeps its own.
            let permissions = match std::fs::metadata(path) {
                Ok(held) => held.permissions(),
                Err(_) => PermissionsExt::from_mode(0o666),
            };
            beside.permissions(permissions);
        }
        let mut file = beside.prefix(".saving-").tempfile_in(folder)?;
        file.write_all(bytes)?;
        file.as_file().sync_all()?;
        file.persist(path)?;
        // The new name must survive a power cut too; only some systems can sync a folder.
        if let Ok(folder) = std::fs::File::open(folder) {
            folder.sync_all().ok();
        }
        Ok(())
    }
}
