//! A map with all its files in one archive.

use std::io::{Cursor, Write};

use zip::ZipWriter;
use zip::write::SimpleFileOptions;

use super::error::SaveError;
use super::writer::MapWriter;
use crate::document::source::FileSource;
impl MapWriter<'_> {
    /// Returns the map and all files that it names as one zip archive, from which a
    /// [`ZipSource`](crate::document::ZipSource) loads it. The same map always gives the same bytes.
    ///
    /// `name` is the path of the map in the archive, and `files` are the paths of the files that
    /// it names, in the source and in the archive: those of [`Loaded::files`](crate::Loaded) but
    /// for the map itself and the files of cells, which are in the map now. One that has the path
    /// of a file that is written is left out.
    ///
    /// # Errors
    /// As [`MapWriter::to_files`]; a file that cannot be read.
    pub fn to_zip(
        &self,
        name: &str,
        source: &dyn FileSource,
        files: &[String],
    ) -> Result<Vec<u8>, SaveError> {
        let folder = name.rsplit_once('/').map_or("", |(folder, _)| folder);
        let made = self.to_files(name)?.into_iter().map(|(path, bytes)| match folder {
            folder if !folder.is_empty() && path != name => (format!("{folder}/{path}"), bytes),
            _ => (path, bytes),
        });
        let mut all: Vec<(String, Vec<u8>)> = made.collect();
        let made = all.len();
        for path in files {
            if all[..made].iter().any(|(held, _)| held == path) {
                continue;
            }
            let bytes = source.read(path, u64::MAX).map_err(|error| SaveError::Io {
                path: source.label(path),
                source: std::io::Error::other(error),
            })?;
            all.push((path.clone(), bytes));
        }
        zip_archive(&all)
    }
}

/// Packs files into one zip archive by their paths. The same files always give the same bytes.
///
/// # Errors
/// Paths that are too long, or files that are too large for an archive.
///
/// ```
/// use sturdy_quilt::document::{FileSource, ZipSource, zip_archive};
///
/// let archive = zip_archive(&[("soil.csv".to_owned(), b"0,1\n".to_vec())])?;
/// assert_eq!(ZipSource::new(archive)?.read("soil.csv", 100)?, b"0,1\n");
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
pub fn zip_archive(files: &[(String, Vec<u8>)]) -> Result<Vec<u8>, SaveError> {
    let mut archive = ZipWriter::new(Cursor::new(Vec::new()));
    for (path, bytes) in files {
        add(&mut archive, path, bytes)?;
    }
    archive
        .finish()
        .map(Cursor::into_inner)
        .map_err(|error| SaveError::Io { path: "the archive".to_owned(), source: error.into() })
}

fn add(
    archive: &mut ZipWriter<Cursor<Vec<u8>>>,
    path: &str,
    bytes: &[u8],
) -> Result<(), SaveError> {
    // A PNG is packed already.
    let method = match path.ends_with(".png") {
        true => zip::CompressionMethod::Stored,
        false => zip::CompressionMethod::Deflated,
    };
    let options = SimpleFileOptions::default().compression_method(method);
    let wrong = |source: std::io::Error| SaveError::Io { path: path.to_owned(), source };
    archive.start_file(path, options).map_err(|error| wrong(error.into()))?;
    archive.write_all(bytes).map_err(wrong)
}
