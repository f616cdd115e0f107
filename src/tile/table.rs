//! The tile table of a map: which number means which tile.
//!
//! Numbers must mean the same in all snapshots of one map, also after two of them have gone
//! different ways, because changes made in one are applied to the other. So the numbers are given
//! by one register that all clones share and that only ever grows; what a tile looks like is kept
//! by each clone for itself and may differ.

use std::collections::HashMap;
use std::sync::{Arc, PoisonError, RwLock};

use super::footprint::Part;
use super::{
    Animation, ArtPage, Cell, CellNotation, Coverage, Fit, Tile, TileArt, TileId, TileKey,
    TileName, TileNumber, TileSet, Turn,
};
use crate::name_error::NameError;
use crate::picture::Color;
use crate::stamp::Stamp;
use crate::units::{CellPos, PixelRect, PixelSize};

/// The tiles of one map.
///
/// It only ever grows and never renumbers: a [`TileId`] means the same tile in every clone of the
/// map. Its order is that in which tiles were first named.
#[derive(Clone, Debug)]
pub struct TileTable {
    register: Arc<RwLock<Register>>,
    book: Arc<Book>,
    /// Which register that is: what its handles know.
    descent: Stamp,
}

/// There are more tiles than a cell can name.
#[derive(Clone, Copy, Debug, PartialEq, Eq, thiserror::Error)]
#[error("a map can have at most {} tiles", TileId::MAX_COUNT)]
pub struct TableFullError;

/// The numbers of all tiles that any clone of the map ever named.
#[derive(Debug, Default)]
struct Register {
    names: Vec<TileName>,
    /// Names come from strangers, so their hash must not be foreseen.
    ids: HashMap<TileName, TileNumber>,
}

/// The register of the tiles of some maps: what their numbers mean, without what the tiles look like.
#[derive(Clone, Debug)]
pub(crate) struct TileNames(Arc<RwLock<Register>>);

impl TileNames {
    /// Whether the tiles of a table are numbered by it.
    pub(crate) fn are_of(&self, tiles: &TileTable) -> bool {
        Arc::ptr_eq(&self.0, &tiles.register)
    }

    /// The name of the tile of a number.
    pub(crate) fn name_of(&self, number: TileNumber) -> Option<TileName> {
        let register = self.0.read().unwrap_or_else(PoisonError::into_inner);
        register.names.get(number.index()).cloned()
    }

    /// Whether both are one register.
    pub(crate) fn are_those(&self, other: &TileNames) -> bool {
        Arc::ptr_eq(&self.0, &other.0)
    }
}

/// What one clone knows of its tiles.
#[derive(Clone, Debug, Default)]
struct Book {
    sets: Vec<BookSet>,
    /// By number: what it names, and where that is found. Shorter than the register when another
    /// clone has named more.
    entries: Vec<Entry>,
    has_footprints: bool,
}

#[derive(Clone, Debug)]
struct BookSet {
    set: Arc<TileSet>,
    ids: Arc<[TileNumber]>,
}

#[derive(Clone, Debug)]
struct Entry {
    name: TileName,
    /// Place among the sets, and in the set; `None` for a tile that is missing.
    found: Option<(u32, u32)>,
}

impl TileTable {
    pub(crate) fn new() -> TileTable {
        TileTable { register: Arc::default(), book: Arc::default(), descent: Stamp::next() }
    }

    /// Returns the sets, in the order in which they were added.
    pub fn sets(&self) -> impl ExactSizeIterator<Item = &Arc<TileSet>> {
        self.book.sets.iter().map(|held| &held.set)
    }

    /// Returns the set of this name.
    pub fn set(&self, name: &str) -> Option<&Arc<TileSet>> {
        self.sets().find(|set| set.name() == name)
    }

    /// Returns the handle of the tile with this full name, whether its set has it or it is missing
    /// and shown by a placeholder. Costs one comparison a set and one look-up.
    pub fn find(&self, name: &TileName) -> Option<TileId> {
        self.find_number(name).map(|number| self.handle(number))
    }

    /// The number of the tile with this full name.
    pub(crate) fn find_number(&self, name: &TileName) -> Option<TileNumber> {
        for held in self.book.sets.iter().filter(|held| held.set.name() == name.set()) {
            if let Some(at) = held.set.position(name.key()) {
                return held.ids.get(at).copied();
            }
        }
        let number = self.read_register().ids.get(name).copied()?;
        self.book.entries.get(number.index()).map(|_| number)
    }

    /// Returns the handle of the tile that a cell of this map shows, or `None` for the empty cell
    /// and for a number that no tile has.
    ///
    /// ```
    /// use sturdy_quilt::CellPos;
    /// # let quilt = sturdy_quilt::doc_quilt();
    ///
    /// let cell = quilt.get("soil", CellPos::new(2, 0))?.here().unwrap_or_default();
    /// assert_eq!(quilt.tiles().tile_of(cell), Some(quilt.tile("garden/wall")?));
    /// # Ok::<(), sturdy_quilt::NameError>(())
    /// ```
    pub fn tile_of(&self, cell: Cell) -> Option<TileId> {
        let number = cell.number().filter(|number| number.index() < self.len())?;
        Some(self.handle(number))
    }

    fn handle(&self, number: TileNumber) -> TileId {
        TileId::new(number, self.descent)
    }

    /// The name of the tile of a number.
    pub(crate) fn name_of(&self, number: TileNumber) -> Option<&TileName> {
        self.book.entries.get(number.index()).map(|entry| &entry.name)
    }

    /// Which register has given the numbers.
    pub(crate) const fn descent(&self) -> Stamp {
        self.descent
    }

    /// Returns the number of tiles, missing ones included.
    pub fn len(&self) -> usize {
        self.book.entries.len()
    }

    /// Returns whether there is no tile.
    pub fn is_empty(&self) -> bool {
        self.len() == 0
    }

    /// Returns all handles, in the order of their numbers.
    pub fn ids(&self) -> impl Iterator<Item = TileId> + use<> {
        let descent = self.descent;
        let numbers = (0..self.len() as u32).filter_map(TileNumber::from_index);
        numbers.map(move |number| TileId::new(number, descent))
    }

    /// Returns the name of a tile, or `None` for a handle of another map.
    pub fn name(&self, id: TileId) -> Option<&TileName> {
        self.entry(id).map(|entry| &entry.name)
    }

    /// Returns the tile, or `None` where it is missing.
    pub fn tile(&self, id: TileId) -> Option<&Tile> {
        let (set, tile) = self.entry(id)?.found?;
        self.book.sets.get(set as usize)?.set.tiles().get(tile as usize)
    }

    /// Returns whether no set has the tile, so that a placeholder shows it.
    pub fn is_missing(&self, id: TileId) -> bool {
        self.tile(id).is_none()
    }

    /// Returns the names of the tiles that no set has, in the order of their numbers.
    pub fn missing(&self) -> impl Iterator<Item = &TileName> {
        self.book.entries.iter().filter(|entry| entry.found.is_none()).map(|entry| &entry.name)
    }

    /// Returns the pixels of a tile: the number of its page, and where on it. A missing tile, and
    /// one of another map, has its pixels on page 0, set number `n` its own on page `n + 1`.
    pub fn art(&self, id: TileId) -> (u32, TileArt) {
        match (self.entry(id).and_then(|entry| entry.found), self.tile(id)) {
            (Some((set, _)), Some(tile)) => (set + 1, tile.art()),
            _ => (0, MISSING_ART),
        }
    }

    /// The mean colour of the pixels of a tile that are not clear, solid; `None` where it is missing
    /// or all of them are clear.
    pub(crate) fn mean_color(&self, id: TileId) -> Option<Color> {
        let (page, art) = self.art(id);
        let page = self.page(page).filter(|_| !self.is_missing(id))?;
        let pixels = (0..art.source.size.height).flat_map(|row| page.row(art.source, row));
        let mut sums = [0_u64; 4];
        for pixel in pixels {
            sums.iter_mut().zip(pixel).for_each(|(sum, &channel)| *sum += u64::from(channel));
        }
        let [r, g, b, a] = sums;
        // Alpha is multiplied in already: dividing by its sum weighs each pixel by it.
        let mean = |sum: u64| u8::try_from((sum * 255).checked_div(a)?.min(255)).ok();
        Some(Color::rgb(mean(r)?, mean(g)?, mean(b)?))
    }

    /// Returns a page of pixels by its number; see [`TileTable::art`].
    pub fn page(&self, number: u32) -> Option<&ArtPage> {
        static MISSING: std::sync::LazyLock<ArtPage> = std::sync::LazyLock::new(ArtPage::missing);
        match number.checked_sub(1) {
            None => Some(&MISSING),
            Some(set) => self.book.sets.get(set as usize).map(|held| held.set.page()),
        }
    }

    /// Returns the tile that an animated one shows in a cell at a time in milliseconds; one that is
    /// not animated shows itself.
    pub fn frame_at(&self, id: TileId, time_ms: u64, cell: CellPos) -> TileId {
        let shown = self.tile(id).and_then(|tile| tile.animation()?.frame_at(time_ms, cell));
        self.neighbor(id, shown)
    }

    /// The tiles of the frames of an animated one, in their order; itself where one is missing.
    pub(crate) fn frames(&self, id: TileId, animation: &Animation) -> Vec<TileId> {
        animation.frames().map(|(tile, _)| self.neighbor(id, Some(tile))).collect()
    }

    /// The tiles that show one from several sides, mirrored or not; none where it has one picture.
    pub(crate) fn facings(&self, id: TileId) -> Vec<(TileId, Turn)> {
        let facings = self.tile(id).into_iter().flat_map(|tile| tile.facings());
        facings.map(|(tile, turn)| (self.neighbor(id, Some(tile)), turn)).collect()
    }

    /// Returns the tile that stands for one with variants in a cell: as if by chance, by their
    /// weights, but with one seed always the same one. A tile without variants stands for itself.
    ///
    /// ```
    /// use sturdy_quilt::{CellPos, Lattice, Quilt, TileSet, TileSpec};
    ///
    /// let mut quilt = Quilt::new(Lattice::default());
    /// let set = TileSet::builder("field")
    ///     .tile(TileSpec::named("grass").with_variant("grass", 9).with_variant("flowers", 1))
    ///     .tile(TileSpec::named("flowers"));
    /// quilt.edit("tiles", |pen| pen.put_tiles(set.build()?))?;
    /// let grass = quilt.tile("field/grass")?;
    /// let row = (0..100).map(|x| quilt.tiles().variant_at(grass, CellPos::new(x, 0), 7));
    /// let flowers = row.filter(|&tile| tile != grass).count();
    /// assert!((1..30).contains(&flowers));
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    pub fn variant_at(&self, id: TileId, cell: CellPos, seed: u64) -> TileId {
        let chosen = self.tile(id).and_then(|tile| tile.variant_at(cell, seed));
        self.neighbor(id, chosen)
    }

    /// The tile of this key in the set of another tile, or else that one itself.
    pub(super) fn neighbor(&self, id: TileId, key: Option<&str>) -> TileId {
        let found = self.entry(id).and_then(|entry| {
            let held = self.book.sets.get(entry.found?.0 as usize)?;
            let at = held.set.position(&key?.parse().ok()?)?;
            held.ids.get(at).map(|number| self.handle(*number))
        });
        found.unwrap_or(id)
    }

    /// Which part of another tile of its set a tile is.
    pub(super) fn part_at(&self, id: TileId) -> Option<Part> {
        let (set, tile) = self.entry(id)?.found?;
        self.book.sets.get(set as usize)?.set.part_at(tile)
    }

    /// The tile at a place of the set of another one.
    pub(super) fn in_set_of(&self, id: TileId, at: u32) -> Option<TileId> {
        let held = self.book.sets.get(self.entry(id)?.found?.0 as usize)?;
        held.ids.get(at as usize).map(|number| self.handle(*number))
    }

    /// Whether any tile stands on several cells.
    pub(crate) fn has_footprints(&self) -> bool {
        self.book.has_footprints
    }

    /// Returns a cell in words.
    pub fn notation(&self, cell: Cell) -> CellNotation {
        match self.tile_of(cell).and_then(|id| self.name(id)) {
            None => CellNotation::Empty,
            Some(name) => CellNotation::Tile {
                name: name.clone(),
                turn: cell.turn(),
                raise: cell.is_raised(),
                palette: cell.palette(),
            },
        }
    }

    /// The tile of a full name in words.
    pub(crate) fn by_text(&self, name: &str) -> Result<TileId, NameError> {
        let found = name.parse().ok().and_then(|name| self.find(&name));
        found.ok_or_else(|| NameError {
            what: "tile",
            name: name.to_owned(),
            near: self.near(name),
        })
    }

    /// The tiles of a set in its order.
    pub(crate) fn numbers_of(&self, set: &str) -> Option<Arc<[TileNumber]>> {
        let held = self.book.sets.iter().find(|held| held.set.name() == set)?;
        Some(Arc::clone(&held.ids))
    }

    /// Returns the tiles that fulfil a condition, for example that their data has a mark.
    ///
    /// ```
    /// # let quilt = sturdy_quilt::doc_quilt();
    /// let mut walls = quilt.tiles().find_where(|tile| tile.ground() == Some("stone"));
    /// assert_eq!(walls.next(), Some(quilt.tile("garden/wall")?));
    /// # Ok::<(), sturdy_quilt::NameError>(())
    /// ```
    pub fn find_where(&self, wanted: impl Fn(&Tile) -> bool) -> impl Iterator<Item = TileId> {
        self.ids().filter(move |id| self.tile(*id).is_some_and(&wanted))
    }

    fn entry(&self, id: TileId) -> Option<&Entry> {
        self.book.entries.get(id.number_in(self.descent)?.index())
    }

    fn read_register(&self) -> std::sync::RwLockReadGuard<'_, Register> {
        // The register is only ever appended to, so what a panicking thread left is whole.
        self.register.read().unwrap_or_else(PoisonError::into_inner)
    }

    /// The number of a tile that may be missing; a new one where none is known.
    pub(crate) fn intern(&mut self, name: &TileName) -> Result<TileNumber, TableFullError> {
        if let Some(number) = self.find_number(name) {
            return Ok(number);
        }
        let ids = self.numbers(std::slice::from_ref(name))?;
        Ok(ids[0])
    }

    /// Puts a set in the place of the one with its name. Without one, adds it in a place, or behind the last
    /// one. Tiles that were missing until now are found, those that the former set had alone are missing from
    /// now on.
    pub(crate) fn put_set(&mut self, at: usize, set: Arc<TileSet>) -> Result<(), TableFullError> {
        let names: Vec<TileName> = set.tiles().iter().map(|tile| set.full_name(tile)).collect();
        let ids = self.numbers(&names)?.into();
        let book = Arc::make_mut(&mut self.book);
        let place = book.sets.iter().position(|held| held.set.name() == set.name());
        let held = BookSet { set, ids };
        match place {
            Some(place) => book.sets[place] = held,
            None => book.sets.insert(at.min(book.sets.len()), held),
        }
        book.find_all();
        Ok(())
    }

    /// Takes a set away; its tiles keep their numbers and are missing from now on.
    pub(crate) fn remove_set(&mut self, name: &str) {
        let book = Arc::make_mut(&mut self.book);
        book.sets.retain(|held| held.set.name() != name);
        book.find_all();
    }

    /// The numbers of names, new where they are not known to any clone yet.
    fn numbers(&mut self, names: &[TileName]) -> Result<Vec<TileNumber>, TableFullError> {
        let mut register = self.register.write().unwrap_or_else(PoisonError::into_inner);
        let unknown = names.iter().filter(|name| !register.ids.contains_key(name)).count();
        if register.names.len() + unknown > TileId::MAX_COUNT as usize {
            return Err(TableFullError);
        }
        let mut ids = Vec::with_capacity(names.len());
        for name in names {
            let id = match register.ids.get(name) {
                Some(&id) => id,
                None => {
                    let next = register.names.len() as u32;
                    let id = TileNumber::from_index(next).ok_or(TableFullError)?;
                    register.names.push(name.clone());
                    register.ids.insert(name.clone(), id);
                    id
                }
            };
            ids.push(id);
        }
        drop(register);
        self.catch_up();
        Ok(ids)
    }

    /// Learns the names that other clones have given since.
    pub(crate) fn catch_up(&mut self) {
        let register = self.register.read().unwrap_or_else(PoisonError::into_inner);
        let known = self.book.entries.len();
        if register.names.len() > known {
            let news = register.names[known..].iter();
            let news = news.map(|name| Entry { name: name.clone(), found: None });
            Arc::make_mut(&mut self.book).entries.extend(news);
        }
    }

    /// The register of its numbers.
    pub(crate) fn names(&self) -> TileNames {
        TileNames(Arc::clone(&self.register))
    }

    /// Whether two clones show the same tiles.
    pub(crate) fn same_sets(&self, other: &TileTable) -> bool {
        Arc::ptr_eq(&self.book, &other.book)
            || self.sets().len() == other.sets().len()
                && self.sets().zip(other.sets()).all(|(a, b)| Arc::ptr_eq(a, b) || a == b)
    }

    /// Whether the numbers of two tables come from the same register.
    pub(crate) fn same_descent(&self, other: &TileTable) -> bool {
        Arc::ptr_eq(&self.register, &other.register)
    }

    /// Whether each number means the same in both: of one descent, or of two loads of one map.
    pub(crate) fn same_numbers(&self, other: &TileTable) -> bool {
        let (own, others) = (self.ids().map(|id| self.name(id)), other.ids());
        self.same_descent(other) || own.eq(others.map(|id| other.name(id)))
    }

    /// Names near to one that was not found, the nearest first.
    pub(crate) fn near(&self, wanted: &str) -> Vec<String> {
        let names = self.sets().flat_map(|set| {
            let named = set.tiles().iter().filter(|tile| matches!(tile.key(), TileKey::Name(_)));
            named.map(|tile| set.full_name(tile).to_string())
        });
        crate::name_error::near_names(wanted, names)
    }
}

const MISSING_ART: TileArt = TileArt {
    source: PixelRect::new(0, 0, PixelSize::new(4, 4)),
    coverage: Coverage::Opaque,
    fit: Fit::Stretched,
};

impl TileTable {
    /// The pixels of a cell that is not loaded, on page 0: plain grey.
    pub(crate) const UNLOADED_ART: TileArt = TileArt {
        source: PixelRect::new(0, 4, PixelSize::new(1, 1)),
        coverage: Coverage::Opaque,
        fit: Fit::Stretched,
    };
}

impl Book {
    fn find_all(&mut self) {
        for entry in &mut self.entries {
            entry.found = None;
        }
        let mut tiles = self.sets.iter().flat_map(|held| held.set.tiles());
        self.has_footprints = tiles.any(|tile| tile.spec().footprint.is_some());
        for (set, held) in self.sets.iter().enumerate() {
            for (tile, id) in held.ids.iter().enumerate() {
                if let Some(entry) = self.entries.get_mut(id.index()) {
                    entry.found = Some((set as u32, tile as u32));
                }
            }
        }
    }
}
