//! Loading a map with all its files.

use super::expects::Expects;
use super::files::{Files, check_format, decoded, file_problem};
use super::problem::{LoadError, Problem, Problems};
use super::reader::Reader;
use super::source::FileSource;
use super::{Limits, MAP_FORMAT, read_map};
use crate::lattice::Lattice;
use crate::quilt::Quilt;

/// A map that was loaded.
#[derive(Clone, Debug)]
#[non_exhaustive]
pub struct Loaded {
    /// The map.
    pub quilt: Quilt,
    /// What is probably not as it was meant.
    pub warnings: Vec<Problem>,
    /// The files that were read, the map itself first, relative to the source.
    pub files: Vec<String>,
    /// Those of the files that hold only cells: these are in the map now, and a saved map no
    /// longer names the files.
    pub cell_files: Vec<String>,
}

/// Loads the map at `path` with all files that it names.
///
/// # Errors
/// When anything is wrong that keeps the map from being whole; the error lists everything that is
/// wrong in all its files.
pub fn load(source: &dyn FileSource, path: &str, limits: &Limits) -> Result<Loaded, LoadError> {
    load_expecting(source, path, limits, &Expects::default())
}

/// As [`load`], and everything that the game expects of the map must be there too.
///
/// # Errors
/// As [`load`]; each missing name is one of the problems. Names of a part of the document that has
/// errors are not looked for: they may be there once those are mended.
pub fn load_expecting(
    source: &dyn FileSource,
    path: &str,
    limits: &Limits,
    expects: &Expects,
) -> Result<Loaded, LoadError> {
    let mut problems = Problems::new(limits.problems);
    let pixels_left = limits.pixels;
    let mut files = Files {
        source,
        limits,
        read: Vec::new(),
        cell_files: Vec::new(),
        decodes: true,
        pixels_left,
    };
    let label = source.label(path);
    let quilt = map_text(&mut files, path, &label, &mut problems).and_then(|text| {
        let (mut reader, root) = Reader::open(&text, &label, &mut problems)?;
        check_format(&mut reader, root, MAP_FORMAT)?;
        read_map::read(&mut reader, root, path, &mut files, expects)
    });
    if quilt.is_none() && problems.errors() == 0 {
        // Nothing ends a load without saying why; should it happen, say at least that.
        debug_assert!(false, "a load ended without a map and without an error");
        problems.push(file_problem(&label, "the map could not be read".to_owned(), None));
    }
    let warnings = problems.finish()?;
    let quilt = quilt.unwrap_or_else(|| Quilt::new(Lattice::default()));
    Ok(Loaded { quilt, warnings, files: files.read, cell_files: files.cell_files })
}

#[cfg(feature = "fs")]
impl Quilt {
    /// Loads a map from a file, with the tile sets and pictures that it names relative to its
    /// folder and below it. Warnings go to the log (`tracing`); [`load`] gives them instead, and
    /// reads from other sources.
    ///
    /// # Errors
    /// Everything that is wrong with the map, see [`load`].
    ///
    /// ```no_run
    /// let quilt = sturdy_quilt::Quilt::open("demo/terrace.quilt.json")?;
    /// # Ok::<(), sturdy_quilt::LoadError>(())
    /// ```
    pub fn open(path: impl AsRef<std::path::Path>) -> Result<Quilt, LoadError> {
        Quilt::open_expecting(path, &Expects::default())
    }

    /// As [`Quilt::open`], and everything that the game expects of the map must be there too.
    ///
    /// # Errors
    /// Everything that is wrong or missing, see [`load_expecting`].
    pub fn open_expecting(
        path: impl AsRef<std::path::Path>,
        expects: &Expects,
    ) -> Result<Quilt, LoadError> {
        let (source, name) = super::FolderSource::of_file(path.as_ref());
        let loaded = load_expecting(&source, &name, &Limits::default(), expects)?;
        for warning in &loaded.warnings {
            tracing::warn!("{warning}");
        }
        Ok(loaded.quilt)
    }
}

fn map_text(
    files: &mut Files<'_>,
    path: &str,
    label: &str,
    problems: &mut Problems,
) -> Option<String> {
    match files.read(path) {
        Ok(bytes) => decoded(bytes, label, problems),
        Err((message, hint)) => {
            problems.push(file_problem(label, message, hint));
            None
        }
    }
}
