//! What is laid into the cells of an area.

use rustc_hash::FxHashMap;

use super::{EditError, Pen};
use crate::cell_set::CellSet;
use crate::name_error::NameError;
use crate::plane::Plane;
use crate::quilt::{CellKey, LayerKey, LayerKeys, Quilt};
use crate::tile::{Cell, TileNumber, TileTable, weighted};
use crate::units::{CellOffset, CellPos};

/// What is laid into each cell of an area by [`Pen::lay`]: one cell for all, a choice by weight, what a
/// rule says of the place, or cells copied from elsewhere.
///
/// A [`Cell`], a handle of a tile, or a cell in words stands for itself in all cells; [`Cell::EMPTY`]
/// erases.
///
/// ```
/// use sturdy_quilt::edit::{Condition, Fill};
/// use sturdy_quilt::{Cell, CellPos, CellRect, CellSet};
/// # let mut quilt = sturdy_quilt::doc_quilt();
///
/// let pond = CellSet::ellipse(CellRect::new(CellPos::new(-8, -8), 12, 9))?;
/// let empty = quilt.cells_where("soil", &pond, Condition::Empty)?;
/// let laid = quilt.edit("a pond", |pen| {
///     let water = Fill::weighted([("garden/grass", 3), ("garden/wall", 1)], 7);
///     let laid = pen.lay("soil", &empty, water)?;
///     pen.lay("soil", &pond.outline(Default::default()), Cell::EMPTY)?;
///     Ok(laid)
/// })?;
/// assert_eq!(laid.result, empty);
/// # Ok::<(), sturdy_quilt::EditError>(())
/// ```
pub struct Fill<'a>(Kind<'a>);

enum Kind<'a> {
    One(Box<dyn CellKey + 'a>),
    Weighted { choices: Vec<(Box<dyn CellKey + 'a>, u32)>, seed: u64 },
    Rule(Box<Rule<'a>>),
    Copied(Box<Copied>),
}

type Rule<'a> = dyn FnMut(&Quilt, CellPos) -> Cell + 'a;

/// Cells of a layer, which may be one of another map.
struct Copied {
    cells: Plane<Cell>,
    tiles: TileTable,
    by: CellOffset,
}

impl<'a> Fill<'a> {
    /// Returns a fill with one of some cells for each place, as if by chance, by their weights: always the
    /// same for a place and a seed.
    pub fn weighted<K: CellKey + 'a>(
        choices: impl IntoIterator<Item = (K, u32)>,
        seed: u64,
    ) -> Fill<'a> {
        let boxed = |(key, weight)| (Box::new(key) as Box<dyn CellKey + 'a>, weight);
        Fill(Kind::Weighted { choices: choices.into_iter().map(boxed).collect(), seed })
    }

    /// Returns a fill with what a rule says of each place. It sees the map as the edit has left it before
    /// this fill.
    ///
    /// ```
    /// use sturdy_quilt::edit::Fill;
    /// use sturdy_quilt::{Cell, CellPos, CellRect, CellSet};
    /// # let mut quilt = sturdy_quilt::doc_quilt();
    ///
    /// let area = CellSet::rect(CellRect::new(CellPos::new(0, 0), 4, 3))?;
    /// quilt.edit("all one to the right", |pen| {
    ///     let left = Fill::by(|map, cell| {
    ///         let left = CellPos::new(cell.x() - 1, cell.y());
    ///         map.get("soil", left).ok().and_then(|held| held.here()).unwrap_or(Cell::EMPTY)
    ///     });
    ///     pen.lay("soil", &area, left)
    /// })?;
    /// assert_eq!(quilt.get("soil", CellPos::new(3, 0))?.here(), Some(quilt.cell("garden/wall")?));
    /// # Ok::<(), sturdy_quilt::EditError>(())
    /// ```
    pub fn by(rule: impl FnMut(&Quilt, CellPos) -> Cell + 'a) -> Fill<'a> {
        Fill(Kind::Rule(Box::new(rule)))
    }

    /// Returns a fill with what a layer of a map holds so many cells away: a cell gets what lies at its
    /// place less the offset. The map may be another one; tiles are found by name then.
    ///
    /// # Errors
    /// A layer that is not there.
    ///
    /// Keeps a snapshot, so that an edit may copy onto itself.
    pub fn copied(
        from: &Quilt,
        layer: impl LayerKey,
        by: CellOffset,
    ) -> Result<Fill<'static>, NameError> {
        let (cells, tiles) = (from.layer(layer)?.cells().clone(), from.tiles().clone());
        Ok(Fill(Kind::Copied(Box::new(Copied { cells, tiles, by }))))
    }
}

impl<'a, K: CellKey + 'a> From<K> for Fill<'a> {
    fn from(cell: K) -> Fill<'a> {
        Fill(Kind::One(Box::new(cell)))
    }
}

impl std::fmt::Debug for Fill<'_> {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        f.write_str(match &self.0 {
            Kind::One(_) => "Fill(one cell)",
            Kind::Weighted { .. } => "Fill(weighted)",
            Kind::Rule(_) => "Fill(by a rule)",
            Kind::Copied(_) => "Fill(copied)",
        })
    }
}

impl Pen<'_> {
    /// Lays something into the cells of a set, in one or several layers, and returns the cells that were
    /// changed.
    ///
    /// # Errors
    /// A layer or tile that is not there; a cell that is not loaded; a choice whose weights are all 0; a
    /// tile that stands on several cells; a copied tile for which the map has no room. Cells that the
    /// [rules](super::EditRules) of the edit keep from it are left as they are.
    ///
    /// One cell for all costs a look at each chunk, and 64 cells at a time; whole tracts cost no look at
    /// their cells when the edit is undone. All else costs a call a cell.
    ///
    /// ```
    /// use sturdy_quilt::{CellPos, CellSet};
    /// # let mut quilt = sturdy_quilt::doc_quilt();
    ///
    /// let stroke = CellSet::stroke([(-9, 5), (0, 8), (6, 5)].map(|(x, y)| CellPos::new(x, y)))?;
    /// let edit = quilt.edit("a wall", |pen| pen.lay("soil", &stroke, "garden/wall"))?;
    /// assert_eq!(edit.result, stroke);
    /// quilt.apply(&edit.changes.inverse())?;
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    pub fn lay<'f>(
        &mut self,
        layers: impl LayerKeys,
        cells: &CellSet,
        fill: impl Into<Fill<'f>>,
    ) -> Result<CellSet, EditError> {
        let mut fill = fill.into();
        let cells = &*self.allowed(cells);
        let mut changed = CellSet::new();
        for layer in layers.keys() {
            let at = self.quilt.layer_at(*layer)?;
            let own = self.lay_at(at, cells, &mut fill)?;
            changed = if changed.is_empty() { own } else { &changed | &own };
        }
        Ok(changed)
    }

    /// Lays one cell along straight lines from each cell to the next, without gaps however far they lie
    /// apart: for a stroke of the pointer. Returns how many cells were changed;
    /// [`Changeset::area`](super::Changeset::area) tells which.
    ///
    /// Does what [`Pen::lay`] does with a [`CellSet::stroke`], in a third of the time.
    ///
    /// # Errors
    /// As [`Pen::lay`]; a line of more than 2²⁵ cells.
    ///
    /// ```
    /// use sturdy_quilt::{CellPos, CellSet};
    /// # let mut quilt = sturdy_quilt::doc_quilt();
    ///
    /// let samples = [(-9, 5), (0, 8), (6, 5)].map(|(x, y)| CellPos::new(x, y));
    /// let edit = quilt.edit("a wall", |pen| pen.stroke("soil", &samples, "garden/wall"))?;
    /// assert_eq!(edit.result, 16);
    /// assert_eq!(edit.changes.area(), CellSet::stroke(samples)?);
    /// # Ok::<(), sturdy_quilt::EditError>(())
    /// ```
    pub fn stroke(
        &mut self,
        layers: impl LayerKeys,
        cells: &[CellPos],
        value: impl CellKey,
    ) -> Result<u64, EditError> {
        let value = self.meant(&value)?;
        let mut changed = 0;
        for layer in layers.keys() {
            if self.is_ruled() {
                let cells = CellSet::stroke(cells.iter().copied())?;
                changed += self.lay(*layer, &cells, value)?.len();
                continue;
            }
            let at = self.quilt.layer_at(*layer)?;
            let (notes, (name, plane)) = self.open(at);
            changed += notes.stroke(name, plane, cells.iter().copied(), value.to_bits())?;
        }
        Ok(changed)
    }

    fn lay_at(
        &mut self,
        at: usize,
        cells: &CellSet,
        fill: &mut Fill<'_>,
    ) -> Result<CellSet, EditError> {
        match &mut fill.0 {
            Kind::One(key) => {
                let value = key.cell_in(self.quilt)?;
                let value = self.known(value)?;
                let (notes, (name, plane)) = self.open(at);
                notes.fill_set(name, plane, cells, value.to_bits())
            }
            Kind::Weighted { choices, seed } => {
                let mut known = Vec::with_capacity(choices.len());
                for (key, _) in choices.iter() {
                    let value = key.cell_in(self.quilt)?;
                    known.push(self.known(value)?);
                }
                let weights = || choices.iter().map(|(_, weight)| *weight);
                if weights().all(|weight| weight == 0) {
                    return Err(EditError::NoChoice);
                }
                let value = |cell| match weighted(weights(), cell, *seed) {
                    Some(chosen) => known[chosen].to_bits(),
                    None => 0,
                };
                let (notes, (name, plane)) = self.open(at);
                notes.put_set(name, plane, cells, |cell, _| value(cell))
            }
            Kind::Rule(rule) => {
                let mut values = Vec::new();
                for cell in cells.iter() {
                    values.push(rule(self.quilt, cell));
                }
                self.known_all(&values)?;
                let mut values = values.into_iter();
                let (notes, (name, plane)) = self.open(at);
                // In the order in which the rule was asked.
                let value = |_, held| values.next().map_or(held, Cell::to_bits);
                notes.put_set(name, plane, cells, value)
            }
            Kind::Copied(copied) => {
                let Copied { cells: from, tiles, by } = &**copied;
                let mut values = Vec::new();
                let mut cursor = from.cursor();
                for cell in cells.iter() {
                    let source = cell.checked_add(by.reversed());
                    let held = source.map_or(Ok(Cell::EMPTY), |source| {
                        cursor.get(source).or_absent(source.chunk())
                    });
                    values.push(held.map_err(|source| self.absent(at, source))?);
                }
                self.adopt_all(tiles, &mut values)?;
                let mut values = values.into_iter();
                let (notes, (name, plane)) = self.open(at);
                let value = |_, held| values.next().map_or(held, Cell::to_bits);
                notes.put_set(name, plane, cells, value)
            }
        }
    }

    /// Lays something into those cells of a set for which a condition holds in their layer, and returns
    /// the cells that were changed.
    ///
    /// # Errors
    /// As [`Pen::lay`] and [`Quilt::cells_where`].
    ///
    /// ```
    /// use sturdy_quilt::{CellPos, CellRect, CellSet};
    /// # let mut quilt = sturdy_quilt::doc_quilt();
    ///
    /// let (grass, wall) = (quilt.tile("garden/grass")?, quilt.tile("garden/wall")?);
    /// let all = CellSet::rect(CellRect::new(CellPos::new(0, 0), 4, 3))?;
    /// let edit = quilt.edit("no walls", |pen| pen.replace("soil", &all, wall, grass))?;
    /// assert_eq!(edit.result, CellSet::from(CellPos::new(2, 0)));
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    pub fn replace<'f>(
        &mut self,
        layers: impl LayerKeys,
        cells: &CellSet,
        condition: impl Into<super::Condition>,
        fill: impl Into<Fill<'f>>,
    ) -> Result<CellSet, EditError> {
        let (condition, mut fill) = (condition.into(), fill.into());
        let cells = &*self.allowed(cells);
        let mut changed = CellSet::new();
        for layer in layers.keys() {
            let at = self.quilt.layer_at(*layer)?;
            let own = self.quilt.cells_where(*layer, cells, condition.clone())?;
            changed = &changed | &self.lay_at(at, &own, &mut fill)?;
        }
        Ok(changed)
    }

    /// Turns cells of a map, whose tiles a table names, into cells of this one.
    pub(super) fn adopt_all(
        &mut self,
        tiles: &TileTable,
        cells: &mut [Cell],
    ) -> Result<(), EditError> {
        if tiles.same_descent(self.quilt.tiles()) {
            return self.known_all(cells);
        }
        let mut known: FxHashMap<usize, TileNumber> = FxHashMap::default();
        for cell in cells {
            let Some(index) = cell.tile_index() else { continue };
            let number = match known.get(&index) {
                Some(number) => *number,
                None => *known.entry(index).or_insert(self.adopt_tile(tiles, *cell)?),
            };
            *cell = cell.with_number(number);
        }
        Ok(())
    }
}
