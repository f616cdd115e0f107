//! Motifs: pieces of a map that are taken up, turned, and put down elsewhere.

use std::sync::Arc;

use rustc_hash::FxHashMap;

use super::{EditError, Pen};
use crate::cell_set::CellSet;
use crate::name_error::NameError;
use crate::plane::{Plane, Stamp, ValueKind, Word, Words};
use crate::quilt::{LayerKeys, Quilt};
use crate::tile::{Cell, TileName, TileNumber, Turn};
use crate::units::{CellOffset, CellPos, CellRect};

/// A piece of a map: cells of one or several layers, and values by cell.
///
/// It knows tiles by name, so that it may be put down in any map, and be passed on as
/// [text](Motif::to_text). Its cells need not be a rectangle. Counted from the upper left corner of the
/// rectangle around them, the first is at 0,0.
///
/// ```
/// use sturdy_quilt::edit::Motif;
/// use sturdy_quilt::{CellPos, CellRect, CellSet, Turn};
/// # let mut quilt = sturdy_quilt::doc_quilt();
///
/// let corner = CellSet::rect(CellRect::new(CellPos::new(2, 0), 2, 3))?;
/// let motif = Motif::of(&quilt, "soil", &corner)?.turned(Turn::QUARTER);
/// assert_eq!(motif.size(), (3, 2));
/// quilt.edit("paste", |pen| pen.paste(&motif, CellPos::new(10, -7)))?;
/// let wall = quilt.cell("garden/wall+90")?;
/// assert_eq!(quilt.get("soil", CellPos::new(12, -7))?.here(), Some(wall));
/// # Ok::<(), sturdy_quilt::EditError>(())
/// ```
#[derive(Clone)]
pub struct Motif {
    pub(super) cells: CellSet,
    /// The tiles by which the cells of its layers count.
    pub(super) names: Vec<TileName>,
    pub(super) layers: Vec<(Arc<str>, Plane<Cell>)>,
    pub(super) values: Vec<(Arc<str>, ValueKind, Words)>,
}

// Make.
impl Motif {
    /// Takes up what layers of a map hold in some cells.
    ///
    /// # Errors
    /// A layer that is not there; a cell that is not loaded.
    ///
    /// Costs a look at each cell.
    pub fn of(quilt: &Quilt, layers: impl LayerKeys, cells: &CellSet) -> Result<Motif, EditError> {
        let by = CellPos::ORIGIN - cells.bounds().corner();
        let mut motif = Motif {
            cells: cells.moved(by),
            names: Vec::new(),
            layers: Vec::new(),
            values: Vec::new(),
        };
        let mut known: FxHashMap<usize, Cell> = FxHashMap::default();
        for key in layers.keys() {
            let layer = quilt.layer(*key)?;
            let absent = |source| EditError::Absent { layer: layer.name().to_owned(), source };
            let mut plane = copied(layer.cells().words(), cells, by).map_err(absent)?;
            let tiles = quilt.tiles();
            for_each_value(&mut plane, &motif.cells, |word| {
                let cell = Cell::of_word(word);
                let Some(index) = cell.tile_index() else { return 0 };
                let own = *known.entry(index).or_insert_with(|| {
                    let name = tiles.tile_of(cell).and_then(|id| tiles.name(id));
                    number_of(&mut motif.names, name).map_or(Cell::EMPTY, Cell::of_number)
                });
                own.number().map_or(0, |number| cell.with_number(number).to_bits())
            });
            let mut cells = Plane::new();
            *cells.words_mut() = plane;
            motif.layers.push((Arc::clone(layer.shared_name()), cells));
        }
        Ok(motif)
    }

    /// Returns this motif with what a value layer of a map holds, in the cells whose upper left corner lies
    /// at `corner` there.
    ///
    /// # Errors
    /// A value layer that is not there; a cell that is not loaded.
    pub fn with_values(
        mut self,
        quilt: &Quilt,
        layer: &str,
        corner: CellPos,
    ) -> Result<Motif, EditError> {
        let at = quilt.value_layer_at(layer)?;
        let held = &quilt.value_layers()[at];
        let by = CellPos::ORIGIN - corner;
        let cells = self.cells.moved(by.reversed());
        let absent = |source| EditError::Absent { layer: layer.to_owned(), source };
        let words = copied(held.words(), &cells, by).map_err(absent)?;
        self.values.retain(|(name, ..)| **name != *layer);
        self.values.push((Arc::clone(held.shared_name()), held.kind(), words));
        Ok(self)
    }

    /// Returns this motif with a layer that goes by another name: to put it down in another one.
    ///
    /// # Errors
    /// A name that none of its layers has.
    pub fn with_layer_renamed(mut self, layer: &str, name: &str) -> Result<Motif, NameError> {
        let known: Vec<String> = self.layers().map(str::to_owned).collect();
        let found = self.layers.iter_mut().find(|(own, _)| **own == *layer);
        match found {
            Some((own, _)) => *own = name.into(),
            None => return Err(NameError::new("layer", layer, known.iter().map(String::as_str))),
        }
        Ok(self)
    }

    /// Returns this motif without those of its cells that are empty in all layers.
    #[must_use]
    pub fn without_empty(mut self) -> Motif {
        let used = self.layers.iter().map(|(_, plane)| {
            CellSet::of_chunks(self.cells.chunks().map(|(pos, bits)| {
                let held = plane.words().bits_where(pos, |word| word != 0);
                (pos, bits.zip(&held, |bits, held| bits & held))
            }))
        });
        let used = used.fold(CellSet::new(), |all, used| &all | &used);
        let by = CellPos::ORIGIN - used.bounds().corner();
        if by == CellOffset::new(0, 0) {
            self.cells = used;
            return self;
        }
        self.mapped(&used, |cell| cell.checked_add(by), Turn::NONE)
    }

    /// Returns this motif turned as the picture of a tile is, with the turns of its cells.
    #[must_use]
    pub fn turned(self, turn: Turn) -> Motif {
        let bounds = self.cells.bounds();
        let cells = self.cells.clone();
        self.mapped(&cells, |cell| turn.place_in(bounds, cell), turn)
    }

    /// This motif with some of its cells, each in another place.
    fn mapped(
        mut self,
        cells: &CellSet,
        place: impl Fn(CellPos) -> Option<CellPos>,
        turn: Turn,
    ) -> Motif {
        let places: Vec<(CellPos, CellPos)> =
            cells.iter().filter_map(|cell| Some((cell, place(cell)?))).collect();
        let moved = |from: &Words, value: &dyn Fn(u32) -> u32| {
            let mut plane: Plane<u32> = Plane::new();
            let mut writer = plane.writer();
            let mut reader = Plane::<u32>::of_words(from).cursor();
            for (from, to) in &places {
                let held = reader.get(*from).here().unwrap_or_default();
                let set = writer.set(*to, value(held));
                debug_assert!(set.is_ok(), "a motif is never unloaded");
            }
            drop(writer);
            plane.into_words()
        };
        for (_, plane) in &mut self.layers {
            let turned = |word| {
                let cell = Cell::of_word(word);
                cell.with_turn(cell.turn().then(turn)).to_bits()
            };
            *plane.words_mut() = moved(plane.words(), &turned);
        }
        for (_, _, words) in &mut self.values {
            *words = moved(words, &|word| word);
        }
        self.cells = places.iter().map(|(_, to)| *to).collect();
        self
    }
}

// Read.
impl Motif {
    /// Returns the columns and rows of the rectangle around its cells.
    pub fn size(&self) -> (u32, u32) {
        let bounds = self.cells.bounds();
        (bounds.width(), bounds.height())
    }

    /// Returns its cells, from the upper left corner of the rectangle around them on.
    pub const fn cells(&self) -> &CellSet {
        &self.cells
    }

    /// Returns the names of its layers, in the order in which they were named.
    pub fn layers(&self) -> impl Iterator<Item = &str> {
        self.layers.iter().map(|(name, _)| &**name)
    }

    /// Returns the names of its value layers.
    pub fn value_layers(&self) -> impl Iterator<Item = &str> {
        self.values.iter().map(|(name, ..)| &**name)
    }
}

/// Two motifs are equal when they have the same cells, layers and values, with tiles of the same names.
impl PartialEq for Motif {
    fn eq(&self, other: &Motif) -> bool {
        let same_cells = |a: &Plane<Cell>, b: &Plane<Cell>| {
            self.cells.iter().all(|at| match (a.get(at).here(), b.get(at).here()) {
                (Some(a), Some(b)) => {
                    let (own, others) = (self.name_of(a), other.name_of(b));
                    own == others && a.marks() == b.marks()
                }
                _ => false,
            })
        };
        self.cells == other.cells
            && self.layers.len() == other.layers.len()
            && { self.layers.iter().zip(&other.layers) }
                .all(|((own, a), (others, b))| own == others && same_cells(a, b))
            && self.values == other.values
    }
}

impl Motif {
    pub(super) fn name_of(&self, cell: Cell) -> Option<&TileName> {
        self.names.get(cell.tile_index()?)
    }
}

impl std::fmt::Debug for Motif {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        let (width, height) = self.size();
        write!(f, "Motif({width} × {height}, ")?;
        f.debug_list().entries(self.layers().chain(self.value_layers())).finish()?;
        f.write_str(")")
    }
}

impl Pen<'_> {
    /// Puts down a motif, so that the upper left corner of the rectangle around its cells comes to lie at
    /// `corner`, and returns the cells that were changed. Its empty cells empty what they come to lie on;
    /// see [`Motif::without_empty`]. Cells that the [rules](super::EditRules) of the edit keep from it are
    /// left as they are.
    ///
    /// # Errors
    /// A layer or value layer of the motif that the map does not have, or one of another kind; cells beyond
    /// the limits of cells, or that are not loaded; a part of a tile that stands on several cells, mirrored.
    pub fn paste(&mut self, motif: &Motif, corner: CellPos) -> Result<CellSet, EditError> {
        let cells = motif.cells.moved(corner - CellPos::ORIGIN);
        let cells = &*self.allowed(&cells);
        self.paste_in(motif, corner, cells)
    }

    /// Puts down a motif in some of the cells on which it comes to lie.
    fn paste_in(
        &mut self,
        motif: &Motif,
        corner: CellPos,
        cells: &CellSet,
    ) -> Result<CellSet, EditError> {
        let by = corner - CellPos::ORIGIN;
        let (width, height) = motif.size();
        let whole = CellRect::new(corner, width, height);
        if (whole.width(), whole.height()) != (width, height) {
            return Err(EditError::RectBeyondCells { corner, width, height });
        }
        let mut changed = CellSet::new();
        let mut places = Vec::with_capacity(motif.layers.len());
        for (name, _) in &motif.layers {
            places.push(self.quilt.layer_at(&**name)?);
        }
        let mut numbers = Vec::with_capacity(motif.names.len());
        for name in &motif.names {
            numbers.push(self.quilt.intern_tile(name)?);
        }
        for ((_, plane), at) in motif.layers.iter().zip(places) {
            let tiles = self.quilt.tiles();
            let mut values = Vec::new();
            let mut cursor = plane.cursor();
            for cell in cells.iter() {
                let from = cell.checked_add(by.reversed()).unwrap_or(cell);
                let held = cursor.get(from).here().unwrap_or_default();
                let number = held.tile_index().and_then(|index| numbers.get(index));
                let value = number.map_or(Cell::EMPTY, |number| held.with_number(*number));
                let is_part = value.turn().is_mirrored()
                    && tiles.tile_of(value).is_some_and(|tile| tiles.part_of(tile).is_some());
                if is_part {
                    return Err(EditError::Refused(crate::tile::WholeFault::Mirrored.to_string()));
                }
                values.push(value.to_bits());
            }
            let mut values = values.into_iter();
            let (notes, (name, plane)) = self.open(at);
            let own = notes.put_set(name, plane, cells, |_, held| values.next().unwrap_or(held))?;
            changed = &changed | &own;
        }
        for (name, kind, words) in &motif.values {
            let (notes, plane) = self.open_values(name, *kind)?;
            let mut cursor = Plane::<u32>::of_words(words).cursor();
            let own = notes.put_set(name, plane, cells, |cell, held| {
                let from = cell.checked_add(by.reversed()).unwrap_or(cell);
                cursor.get(from).here().unwrap_or(held)
            })?;
            changed = &changed | &own;
        }
        Ok(changed)
    }

    /// Moves what layers hold in some cells by an offset, and leaves the cells empty that it comes from.
    /// Returns the cells that were changed.
    ///
    /// # Errors
    /// As [`Motif::of`] and [`Pen::paste`]. An edit whose [rules](super::EditRules) do not allow one of the
    /// cells that are changed is refused: what was taken up would have no place.
    ///
    /// ```
    /// use sturdy_quilt::units::CellOffset;
    /// use sturdy_quilt::{CellPos, CellSet};
    /// # let mut quilt = sturdy_quilt::doc_quilt();
    ///
    /// let wall = CellSet::from(CellPos::new(2, 0));
    /// quilt.edit("aside", |pen| pen.shift("soil", &wall, CellOffset::new(-2, 1)))?;
    /// assert_eq!(quilt.get("soil", CellPos::new(0, 1))?.here(), Some(quilt.cell("garden/wall")?));
    /// # Ok::<(), sturdy_quilt::EditError>(())
    /// ```
    pub fn shift(
        &mut self,
        layers: impl LayerKeys,
        cells: &CellSet,
        by: CellOffset,
    ) -> Result<CellSet, EditError> {
        let corner = cells.bounds().corner();
        let target = corner.checked_add(by).ok_or_else(|| {
            let (width, height) = (cells.bounds().width(), cells.bounds().height());
            EditError::RectBeyondCells { corner, width, height }
        })?;
        self.taken_up(layers, cells, target, Turn::NONE)
    }

    /// Turns what layers hold in some cells, as the picture of a tile is turned: the upper left corner of
    /// the rectangle around the cells stays where it is, and the tiles turn with it. Cells that nothing
    /// comes to lie on are left empty. Returns the cells that were changed.
    ///
    /// # Errors
    /// As [`Pen::shift`].
    pub fn turn(
        &mut self,
        layers: impl LayerKeys,
        cells: &CellSet,
        turn: Turn,
    ) -> Result<CellSet, EditError> {
        self.taken_up(layers, cells, cells.bounds().corner(), turn)
    }

    /// Takes up what layers hold in some cells, and puts it down elsewhere.
    fn taken_up(
        &mut self,
        layers: impl LayerKeys,
        cells: &CellSet,
        corner: CellPos,
        turn: Turn,
    ) -> Result<CellSet, EditError> {
        let keys = layers.keys();
        let motif = Motif::of(self.quilt, keys, cells)?.turned(turn);
        let before: Vec<Plane<Cell>> = { keys.iter() }
            .map(|key| self.quilt.layer(*key).map(|layer| layer.cells().clone()))
            .collect::<Result<_, NameError>>()?;
        // Where a lock or a bound stands in the way, the edit is refused: what was taken up would be lost.
        let mut touched = CellSet::new();
        for key in keys {
            let at = self.quilt.layer_at(*key)?;
            let (notes, (name, plane)) = self.open(at);
            touched = &touched | &notes.fill_set(name, plane, cells, 0)?;
        }
        let target = motif.cells.moved(corner - CellPos::ORIGIN);
        touched = &touched | &self.paste_in(&motif, corner, &target)?;
        // What came to lie where the same lay before is no change.
        let mut changed = CellSet::new();
        for (key, before) in keys.iter().zip(&before) {
            let now = self.quilt.layer(*key)?.cells();
            let mut pair = (before.cursor(), now.cursor());
            changed.extend(touched.iter().filter(|cell| pair.0.get(*cell) != pair.1.get(*cell)));
        }
        Ok(changed)
    }
}

/// The number of a tile among some names, to which it is added where it comes for the first time.
pub(super) fn number_of(names: &mut Vec<TileName>, name: Option<&TileName>) -> Option<TileNumber> {
    let name = name?;
    let at = names.iter().position(|held| held == name).unwrap_or_else(|| {
        names.push(name.clone());
        names.len() - 1
    });
    TileNumber::from_index(u32::try_from(at).ok()?)
}

/// What a plane holds in some cells, moved by an offset.
fn copied(
    from: &Words,
    cells: &CellSet,
    by: CellOffset,
) -> Result<Words, crate::plane::AbsentError> {
    let mut copied = Words::new();
    let stamp = Stamp::next();
    let mut row = Vec::new();
    for run in cells.runs() {
        row.resize(run.width() as usize, 0);
        from.read_rect(run, &mut row)?;
        copied.write_stamped(run.moved(by), &row, stamp);
    }
    Ok(copied)
}

/// Replaces the values of some cells.
fn for_each_value(plane: &mut Words, cells: &CellSet, mut new: impl FnMut(u32) -> u32) {
    let mut writer = Plane::<u32>::of_words_mut(plane).writer();
    for cell in cells.iter() {
        if let Some(held) = writer.get(cell).here().filter(|held| *held != 0) {
            let set = writer.set(cell, new(held));
            debug_assert!(set.is_ok(), "a motif is never unloaded");
        }
    }
}
