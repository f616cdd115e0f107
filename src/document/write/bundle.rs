//! A map with all its files in one archive.

use std::io::{Cursor, Write};

use zip::ZipWriter;
use zip::write::SimpleFileOptions;

use super::{MapWriter, SaveError};
use crate::document::source::FileSource;

impl MapWriter<'_> {
    /// The map and all files that it names as one zip archive, from which a
    /// [`ZipSource`](crate::ZipSource) loads it. The same map always gives the same bytes.
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
        let mut archive = ZipWriter::new(Cursor::new(Vec::new()));
        let folder = name.rsplit_once('/').map_or("", |(folder, _)| folder);
        let mut made = Vec::new();
        for (path, bytes) in self.to_files(name)? {
            let path = match folder {
                folder if !folder.is_empty() && path != name => format!("{folder}/{path}"),
                _ => path,
            };
            add(&mut archive, &path, &bytes)?;
            made.push(path);
        }
        for path in files.iter().filter(|path| !made.contains(path)) {
            let bytes = source.read(path, u64::MAX).map_err(|error| SaveError::Io {
                path: source.label(path),
                source: std::io::Error::other(error),
            })?;
            add(&mut archive, path, &bytes)?;
        }
        archive
            .finish()
            .map(Cursor::into_inner)
            .map_err(|error| SaveError::Io { path: name.to_owned(), source: error.into() })
    }
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
