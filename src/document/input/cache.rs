//! Tile sets and pictures that several maps share.

use std::collections::HashMap;
use std::sync::{Arc, Mutex, MutexGuard, PoisonError};

use crate::document::problem::{Problem, TextPlace};
use crate::tile::{ArtPage, TileSet};

/// Tile sets and pictures that were read once and are shared by all maps that are loaded with it.
///
/// A game makes one, hands clones of it (which are one and the same) to its [`Loader`]s, and drops
/// it when it likes: maps keep what they use. Files are told apart by what their source calls them
/// ([`FileSource::label`]), so sources whose files bear the same names need caches of their own.
/// What has changed on disk is read anew only after [`LoadCache::clear`].
///
/// ```
/// use sturdy_quilt::document::LoadCache;
/// use sturdy_quilt::{Loader, MemorySource};
///
/// let mut files = MemorySource::default();
/// files.add("yard.tiles.json", r#"{ "format": "sturdy-quilt/tiles", "version": 1, "tiles": ["sand"] }"#);
/// for map in ["a.quilt.json", "b.quilt.json"] {
///     files.add(map, r#"{ "format": "sturdy-quilt/map", "version": 1, "lattice": { "cell": [16, 16] },
///         "tiles": ["yard.tiles.json"], "layers": [] }"#);
/// }
/// let loader = Loader::new().with_cache(&LoadCache::default());
/// let a = loader.load(&files, "a.quilt.json")?.quilt;
/// let b = loader.load(&files, "b.quilt.json")?.quilt;
/// assert!(std::ptr::eq(a.tiles().set("yard").unwrap().page(), b.tiles().set("yard").unwrap().page()));
/// # Ok::<(), sturdy_quilt::LoadError>(())
/// ```
///
/// [`Loader`]: crate::Loader
/// [`FileSource::label`]: crate::document::FileSource::label
#[derive(Clone, Debug, Default)]
pub struct LoadCache {
    held: Arc<Mutex<CacheEntries>>,
}

#[derive(Debug, Default)]
struct CacheEntries {
    /// By label, and whether pictures were wanted.
    sets: HashMap<(String, bool), Arc<CachedSet>>,
    pages: HashMap<String, Arc<ArtPage>>,
}

/// A set from a file, with what must be known to say again what reading it said.
#[derive(Debug)]
pub(crate) struct CachedSet {
    pub(crate) set: TileSet,
    /// The files that were read for it.
    pub(crate) files: Vec<String>,
    /// How many pixels its pictures have.
    pub(crate) pixels: u64,
    pub(crate) warnings: Vec<Problem>,
    /// The ground classes that it names, and where: the next map must have them too.
    pub(crate) classes: Vec<(String, TextPlace, usize)>,
}

impl LoadCache {
    /// Forgets everything; maps that were loaded keep what they have.
    pub fn clear(&self) {
        *self.held() = CacheEntries::default();
    }

    /// Returns the number of tile sets and the number of pictures that it holds.
    pub fn counts(&self) -> (usize, usize) {
        let held = self.held();
        (held.sets.len(), held.pages.len())
    }

    pub(crate) fn set(&self, label: &str, with_pictures: bool) -> Option<Arc<CachedSet>> {
        self.held().sets.get(&(label.to_owned(), with_pictures)).cloned()
    }

    pub(crate) fn keep_set(&self, label: &str, with_pictures: bool, set: CachedSet) {
        self.held().sets.insert((label.to_owned(), with_pictures), Arc::new(set));
    }

    pub(super) fn page(&self, label: &str) -> Option<Arc<ArtPage>> {
        self.held().pages.get(label).cloned()
    }

    pub(super) fn keep_page(&self, label: &str, page: &Arc<ArtPage>) {
        self.held().pages.insert(label.to_owned(), Arc::clone(page));
    }

    fn held(&self) -> MutexGuard<'_, CacheEntries> {
        self.held.lock().unwrap_or_else(PoisonError::into_inner)
    }
}
