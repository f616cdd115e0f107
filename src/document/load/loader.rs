//! Loading a map with all its files.

use crate::document::input::{Files, LoadCache, LoadStage, Watch, check_format, file_problem};
use crate::document::read::{map, tiles};
use std::cell::OnceCell;

use crate::document::formats::MAP_FORMAT;
use crate::document::limits::Limits;
use crate::document::problem::{LoadError, Problem, Problems};
use crate::document::read::Expects;
use crate::document::source::FileSource;
#[cfg(feature = "fs")]
use crate::document::source::FolderSource;
use crate::document::syntax::{Reader, parsed};
use crate::lattice::Lattice;
use crate::quilt::Quilt;
use crate::tile::TileSet;

/// A map that was loaded.
#[derive(Clone, Debug)]
#[non_exhaustive]
pub struct Loaded {
    /// The map.
    pub quilt: Quilt,
    /// What is probably not as it was meant, ordered by file and place.
    pub warnings: Vec<Problem>,
    /// How many more warnings there are than are listed.
    pub not_listed: usize,
    /// The files that were read, the map itself first, relative to the source.
    pub files: Vec<String>,
    /// Those of the files that hold only cells: these are in the map now, and a saved map no
    /// longer names the files.
    pub cell_files: Vec<String>,
}

impl Loaded {
    /// The map, its warnings in the log.
    fn logged(self) -> Quilt {
        for warning in &self.warnings {
            tracing::warn!("{warning}");
        }
        self.quilt
    }
}

/// Options for loading maps.
///
/// ```
/// use sturdy_quilt::document::{Expects, Limits};
/// use sturdy_quilt::{Loader, MemorySource};
///
/// let mut files = MemorySource::default();
/// files.add("yard.quilt.json", r#"{ "format": "sturdy-quilt/map", "version": 1,
///     "lattice": { "cell": [16, 16] }, "layers": [{ "name": "soil" }] }"#);
/// let loader = Loader::new()
///     .with_limits(Limits { cells: 1_000_000, ..Limits::default() })
///     .with_expects(Expects::default().with_layers(["soil", "roofs"]));
/// let error = loader.load(&files, "yard.quilt.json").unwrap_err();
/// assert!(error.to_string().contains("no layer `roofs`, which the game expects"));
/// ```
#[derive(Clone, Debug)]
pub struct Loader {
    limits: Limits,
    expects: Expects,
    cache: Option<LoadCache>,
    with_pictures: bool,
}

impl Default for Loader {
    fn default() -> Loader {
        Loader::new()
    }
}

impl Loader {
    /// Returns a loader with the default limits that reads pictures, expects nothing and has no cache.
    pub fn new() -> Loader {
        let (limits, expects) = (Limits::default(), Expects::default());
        Loader { limits, expects, cache: None, with_pictures: true }
    }

    setters! {
        /// Returns the most that a map may ask for.
        with_limits(limits: Limits);

        /// States what the game will ask the map for: each name that is missing is a problem. Names of
        /// a part of the document that has errors are not looked for: they may be there once those are
        /// mended.
        with_expects(expects: Expects);
    }

    /// Reads tile sets and pictures once for all maps that are loaded with this cache.
    #[must_use]
    pub fn with_cache(mut self, cache: &LoadCache) -> Loader {
        self.cache = Some(cache.clone());
        self
    }

    /// Skips the pictures of tiles, for servers that draw nothing: tiles have flat colours,
    /// and a sheet must state its columns and rows. Pictures that are read for what they mean (cells
    /// and masks of ground classes) are read all the same.
    #[must_use]
    pub const fn without_pictures(mut self) -> Loader {
        self.with_pictures = false;
        self
    }

    /// Loads the map at `path` with all files that it names.
    ///
    /// # Errors
    /// When anything is wrong that keeps the map from being whole; the error lists everything that
    /// is wrong in all its files.
    ///
    /// Takes time in proportion to the bytes of the files and to the cells, also where the map is
    /// refused. Takes memory of at most some three times the larger of the files and the map; a document
    /// of many small entries takes up to 48 times its text, of which [`Limits::json_values`] keeps the
    /// most in bounds. docs/format.md says more for each encoding of cells.
    pub fn load(&self, source: &dyn FileSource, path: &str) -> Result<Loaded, LoadError> {
        self.load_watched(source, path, None)
    }

    pub(super) const fn stated_limits(&self) -> &Limits {
        &self.limits
    }

    pub(super) const fn is_sharing(&self) -> bool {
        self.cache.is_some()
    }

    /// Loads a tile set by itself. Whether a map has the ground classes that it names is not asked.
    ///
    /// # Errors
    /// Everything that is wrong with it and its pictures.
    ///
    /// ```
    /// use sturdy_quilt::{Loader, MemorySource};
    ///
    /// let mut files = MemorySource::default();
    /// files.add("yard.tiles.json", r#"{ "format": "sturdy-quilt/tiles", "version": 1,
    ///     "tiles": ["sand", { "name": "wall", "ground": "stone" }] }"#);
    /// let (set, warnings) = Loader::new().load_tiles(&files, "yard.tiles.json")?;
    /// assert_eq!((set.name(), set.tiles().len(), warnings.len()), ("yard", 2, 0));
    /// # Ok::<(), sturdy_quilt::LoadError>(())
    /// ```
    pub fn load_tiles(
        &self,
        source: &dyn FileSource,
        path: &str,
    ) -> Result<(TileSet, Vec<Problem>), LoadError> {
        let mut problems = Problems::new(&self.limits);
        let mut files = self.files(source);
        let label = source.label(path);
        let set = files
            .text_asked_for(path, &mut problems)
            .and_then(|text| tiles::read_alone(&text, path, &label, &mut files, &mut problems));
        let problems = files.all_arrived(problems)?;
        match set {
            Some(set) => Ok((set, problems.finish()?.0)),
            None => Err(problems.into_error()),
        }
    }

    fn files<'s>(&'s self, source: &'s dyn FileSource) -> Files<'s> {
        let mut files = Files::new(source, &self.limits);
        files.decodes = self.with_pictures;
        files.cache = self.cache.as_ref();
        files
    }

    pub(super) fn load_watched(
        &self,
        source: &dyn FileSource,
        path: &str,
        watch: Option<&Watch>,
    ) -> Result<Loaded, LoadError> {
        let mut problems = Problems::new(&self.limits);
        let mut files = self.files(source);
        files.watch = watch;
        files.enter(LoadStage::Document, 1);
        let label = source.label(path);
        let quilt = files.text_asked_for(path, &mut problems).and_then(|text| {
            let mended = OnceCell::new();
            let tree = parsed(&text, &mended, &label, &mut problems)?;
            let mut reader = Reader::of_text(&text, &label, &mut problems);
            let root = tree.root();
            check_format(&mut reader, root, MAP_FORMAT)?;
            map::read(&mut reader, root, path, &mut files, &self.expects)
        });
        if files.is_cancelled() {
            return Err(LoadError::cancelled());
        }
        let mut problems = files.all_arrived(problems)?;
        if quilt.is_none() && problems.errors() == 0 {
            // Nothing ends a load without saying why; should it happen, say at least that.
            debug_assert!(false, "a load ended without a map and without an error");
            problems.push(file_problem(&label, "the map could not be read".to_owned(), None));
        }
        let (warnings, not_listed) = problems.finish()?;
        let quilt = quilt.unwrap_or_else(|| Quilt::new(Lattice::default()));
        let (files, cell_files) = (files.read, files.cell_files);
        Ok(Loaded { quilt, warnings, not_listed, files, cell_files })
    }
}

impl Quilt {
    /// Loads the map at `path` of a source with all files that it names. Warnings go to the log
    /// (`tracing`); a [`Loader`] gives them, and takes other limits than the default.
    ///
    /// # Errors
    /// When anything is wrong that keeps the map from being whole; the error lists everything that
    /// is wrong in all its files.
    ///
    /// ```
    /// use sturdy_quilt::{MemorySource, Quilt};
    ///
    /// let mut files = MemorySource::default();
    /// files.add("yard.quilt.json", r#"{ "format": "sturdy-quilt/map", "version": 1,
    ///     "lattice": { "cell": [16, 16] }, "layers": [{ "name": "soil" }] }"#);
    /// let quilt = Quilt::load(&files, "yard.quilt.json")?;
    /// assert!(quilt.layer("soil").is_ok());
    /// # Ok::<(), sturdy_quilt::LoadError>(())
    /// ```
    pub fn load(source: &dyn FileSource, path: &str) -> Result<Quilt, LoadError> {
        Ok(Loader::new().load(source, path)?.logged())
    }

    /// Loads a map from a file, with the tile sets and pictures that it names relative to its
    /// folder and below it; otherwise as [`Quilt::load`].
    ///
    /// # Errors
    /// Everything that is wrong with the map.
    ///
    /// ```no_run
    /// let quilt = sturdy_quilt::Quilt::open("demo/terrace.quilt.json")?;
    /// # Ok::<(), sturdy_quilt::LoadError>(())
    /// ```
    #[cfg(feature = "fs")]
    pub fn open(path: impl AsRef<std::path::Path>) -> Result<Quilt, LoadError> {
        Quilt::open_expecting(path, &Expects::default())
    }

    /// Opens a map as [`Quilt::open`] does, and checks that everything is there that the game
    /// expects of it.
    ///
    /// # Errors
    /// Everything that is wrong or missing, see [`Loader::with_expects`].
    #[cfg(feature = "fs")]
    pub fn open_expecting(
        path: impl AsRef<std::path::Path>,
        expects: &Expects,
    ) -> Result<Quilt, LoadError> {
        let (source, name) = FolderSource::of_file(path.as_ref());
        Ok(Loader::new().with_expects(expects.clone()).load(&source, &name)?.logged())
    }
}
