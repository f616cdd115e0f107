//! Sets of cells by what a map holds: flooding, all that are alike, those for which a condition holds.

use super::{Condition, EditError};
use crate::cell_set::{CellSet, FloodError, Mask, Neighbors, Spread};
use crate::plane::{Chunk, ChunkBits, Presence, Word, Words};
use crate::quilt::{GroundClass, LayerKey, Quilt};
use crate::tile::Cell;
use crate::units::{CellPos, CellRect, ChunkPos};

/// When two cells are alike.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Hash)]
pub enum Alike {
    /// Their layer holds the same in both: tile, turn, raise and palette.
    #[default]
    Cell,
    /// Their layer shows the same tile in both, however turned, raised or coloured; or none in both.
    Tile,
    /// They have the same ground class, or none. The layer does not matter.
    Ground,
}

/// How a flood goes on: from cell to cell, as long as they are alike, within bounds, up to so many
/// cells.
///
/// ```
/// use sturdy_quilt::edit::{Alike, Flood};
/// use sturdy_quilt::{CellPos, CellRect};
/// # let quilt = sturdy_quilt::doc_quilt();
///
/// let grass = quilt.flood("soil", CellPos::new(0, 0), Flood::default())?;
/// assert_eq!(grass.len(), 11);
///
/// // Nothing stops a flood of empty cells, unless bounds do.
/// let outside = CellPos::new(-3, 0);
/// let error = quilt.flood("soil", outside, Flood::default()).unwrap_err();
/// assert!(error.to_string().contains("runs away"));
/// let yard = CellRect::new(CellPos::new(-5, -5), 14, 14);
/// let around = quilt.flood("soil", outside, Flood::new(Alike::Tile).with_bounds(yard))?;
/// assert_eq!(around.len(), 14 * 14 - 12);
/// # Ok::<(), sturdy_quilt::cell_set::FloodError>(())
/// ```
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Flood {
    alike: Alike,
    neighbors: Neighbors,
    bounds: Option<CellRect>,
    most: u64,
}

impl Flood {
    /// How many cells a flood may find unless it is allowed more: those of 4096 × 4096.
    pub const MOST: u64 = 1 << 24;

    /// Returns a flood over sides, within the bounds that the map states, up to [`Flood::MOST`] cells.
    pub const fn new(alike: Alike) -> Flood {
        Flood { alike, neighbors: Neighbors::Sides, bounds: None, most: Flood::MOST }
    }

    setters! {
        /// Returns this flood within a rectangle. Without one, it goes on within the
        /// [bounds that the map states](Quilt::stated_bounds), or without end where it states none.
        with_bounds(bounds: some CellRect);
        /// Returns this flood over other neighbours.
        const with_neighbors(neighbors: Neighbors);
        /// Returns this flood with another limit of cells; one that finds more is an error.
        const with_most(most: u64);
    }
}

impl Default for Flood {
    fn default() -> Flood {
        Flood::new(Alike::Cell)
    }
}

impl Quilt {
    /// Returns the cells that are reached from one over neighbours that are alike: those that a flood fill
    /// would change. None where the first cell is out of bounds.
    ///
    /// # Errors
    /// A layer that is not there; a flood that finds more cells than it may, runs away beyond what the
    /// map holds, or comes to a chunk that is not loaded.
    ///
    /// Costs a look at the chunks in which it finds something, and at those beside them: 64 cells at a
    /// time, but for [`Alike::Ground`], where each cell of them is asked for its ground.
    pub fn flood(
        &self,
        layer: impl LayerKey,
        start: CellPos,
        flood: Flood,
    ) -> Result<CellSet, FloodError> {
        let words = self.layer(layer)?.cells().words();
        let bounds = flood.bounds.or(self.stated_bounds());
        let Some(like) = Like::of(self, words, start, flood.alike)? else {
            return Err(FloodError::Absent { chunk: start.chunk() });
        };
        // Where nothing lies, all cells are alike.
        let held = match like {
            Like::Ground(_) => self.bounds(),
            _ => words.bounds(),
        };
        let runs_away = bounds.is_none() && like.has_empty();
        spread(start, flood, bounds, |pos| {
            if runs_away && held.intersection(pos.cells()).is_empty() {
                return Err(FloodError::Unbounded { cell: pos.corner() });
            }
            like.bits(self, words, pos)
        })
    }

    /// Returns the cells that are reached from one over neighbours for which a rule holds, which is asked
    /// once for each cell of the chunks that the flood comes to. What the flood says of cells that are
    /// alike does not matter.
    ///
    /// # Errors
    /// A flood that finds more cells than it may.
    ///
    /// ```
    /// use sturdy_quilt::edit::Flood;
    /// use sturdy_quilt::CellPos;
    /// # let quilt = sturdy_quilt::doc_quilt();
    ///
    /// let near = |cell: CellPos| cell.x().abs() + cell.y().abs() <= 2;
    /// let found = quilt.flood_where(CellPos::ORIGIN, Flood::default(), near)?;
    /// assert_eq!(found.len(), 13);
    /// # Ok::<(), sturdy_quilt::cell_set::FloodError>(())
    /// ```
    pub fn flood_where(
        &self,
        start: CellPos,
        flood: Flood,
        mut rule: impl FnMut(CellPos) -> bool,
    ) -> Result<CellSet, FloodError> {
        let bounds = flood.bounds.or(self.stated_bounds());
        spread(start, flood, bounds, |pos| {
            let own = bounds.map_or(pos.cells(), |bounds| bounds.intersection(pos.cells()));
            Ok(bits_by(own, &mut rule))
        })
    }

    /// Returns all cells that are like one, wherever they lie: within a rectangle, or else within the
    /// bounds that the map states.
    ///
    /// # Errors
    /// A layer that is not there; a chunk that is not loaded; without bounds, a cell that is like all
    /// that the map does not hold; bounds that touch more than [`Pen::MAX_CHUNKS`](super::Pen::MAX_CHUNKS)
    /// chunks.
    ///
    /// Costs as [`Quilt::flood`] does.
    ///
    /// ```
    /// use sturdy_quilt::edit::Alike;
    /// use sturdy_quilt::CellPos;
    /// # let quilt = sturdy_quilt::doc_quilt();
    ///
    /// let walls = quilt.cells_like("soil", CellPos::new(2, 0), Alike::Tile, None)?;
    /// assert_eq!(walls.len(), 1);
    /// # Ok::<(), sturdy_quilt::EditError>(())
    /// ```
    pub fn cells_like(
        &self,
        layer: impl LayerKey,
        cell: CellPos,
        alike: Alike,
        bounds: Option<CellRect>,
    ) -> Result<CellSet, EditError> {
        let words = self.layer(layer)?.cells().words();
        let like = Like::of(self, words, cell, alike)?;
        let like = like.ok_or(FloodError::Absent { chunk: cell.chunk() })?;
        let bounds = bounds.or(self.stated_bounds());
        if bounds.is_none() && like.has_empty() {
            return Err(FloodError::Unbounded { cell }.into());
        }
        let bounds = bounds.unwrap_or_else(|| match like {
            Like::Ground(_) => self.bounds(),
            _ => words.bounds(),
        });
        crate::cell_set::check_size(bounds)?;
        let mut found = Vec::new();
        for pos in bounds.chunks() {
            let bits = clipped(like.bits(self, words, pos)?, pos, Some(bounds));
            if !bits.is_none() {
                found.push((pos, bits));
            }
        }
        Ok(CellSet::of_chunks(found))
    }

    /// Returns the cells of an area for which a condition holds in a layer. What is not loaded fulfils
    /// none.
    ///
    /// # Errors
    /// A layer that is not there; a handle of another map.
    ///
    /// ```
    /// use sturdy_quilt::edit::Condition;
    /// use sturdy_quilt::{CellPos, CellRect, CellSet};
    /// # let quilt = sturdy_quilt::doc_quilt();
    ///
    /// let area = CellSet::rect(CellRect::new(CellPos::new(-1, 0), 4, 4))?;
    /// assert_eq!(quilt.cells_where("soil", &area, Condition::Empty)?.len(), 4 + 3);
    /// # Ok::<(), sturdy_quilt::EditError>(())
    /// ```
    pub fn cells_where(
        &self,
        layer: impl LayerKey,
        area: &CellSet,
        condition: impl Into<Condition>,
    ) -> Result<CellSet, EditError> {
        let words = self.layer(layer)?.cells().words();
        let condition = condition.into();
        condition.check(self)?;
        let found = area.chunks().map(|(pos, bits)| {
            let held = match condition {
                Condition::Ground(class) => Like::Ground(Some(class)).ground_bits(self, pos),
                _ => words.bits_where(pos, |word| {
                    condition.of_cell(Cell::of_word(word)).unwrap_or(false)
                }),
            };
            (pos, bits.zip(&held, |own, held| own & held))
        });
        Ok(CellSet::of_chunks(found.filter(|(_, bits)| !bits.is_none())))
    }
}

fn spread(
    start: CellPos,
    flood: Flood,
    bounds: Option<CellRect>,
    mut bits: impl FnMut(ChunkPos) -> Result<ChunkBits, FloodError>,
) -> Result<CellSet, FloodError> {
    let mut spread = Spread::new(flood.neighbors, flood.most);
    spread.from(start, &mut |pos| {
        let is_outside = bounds.is_some_and(|b| b.intersection(pos.cells()).is_empty());
        Ok(if is_outside { Mask::None } else { Mask::of(clipped(bits(pos)?, pos, bounds)) })
    })?;
    Ok(spread.into_set())
}

/// Those of some cells of a chunk that lie within bounds.
fn clipped(bits: ChunkBits, pos: ChunkPos, bounds: Option<CellRect>) -> ChunkBits {
    match bounds.map(|bounds| bounds.intersection(pos.cells())) {
        Some(part) if part != pos.cells() => {
            let part = part.moved(CellPos::ORIGIN - pos.corner());
            bits.zip(&ChunkBits::of_part(part), |bits, part| bits & part)
        }
        _ => bits,
    }
}

/// The cells of a part of a chunk for which a rule holds.
fn bits_by(part: CellRect, rule: &mut impl FnMut(CellPos) -> bool) -> ChunkBits {
    let mut bits = ChunkBits::NONE;
    for cell in part.cells().filter(|cell| rule(*cell)) {
        bits.insert(cell.index_in_chunk());
    }
    bits
}

/// What cells have in common that are like one.
#[derive(Clone, Copy)]
enum Like {
    Word(u32),
    Tile(Option<usize>),
    Ground(Option<GroundClass>),
}

impl Like {
    /// That of a cell; `None` where it is not loaded.
    fn of(
        quilt: &Quilt,
        words: &Words,
        cell: CellPos,
        alike: Alike,
    ) -> Result<Option<Like>, FloodError> {
        Ok(match (alike, words.get(cell)) {
            (Alike::Ground, _) => match class_at(quilt, cell) {
                Presence::Here(class) => Some(Like::Ground(class)),
                _ => None,
            },
            (_, Presence::NotHere | Presence::Damaged) => None,
            (Alike::Cell, Presence::Here(word)) => Some(Like::Word(word)),
            (Alike::Tile, Presence::Here(word)) => {
                Some(Like::Tile(Cell::of_word(word).tile_index()))
            }
        })
    }

    /// Whether cells are like it in which the map holds nothing.
    const fn has_empty(self) -> bool {
        matches!(self, Like::Word(0) | Like::Tile(None) | Like::Ground(None))
    }

    /// The cells of a chunk that are like it.
    fn bits(self, quilt: &Quilt, words: &Words, pos: ChunkPos) -> Result<ChunkBits, FloodError> {
        let chunk = words.chunk(pos);
        if matches!(*chunk, Chunk::Absent(_)) {
            return Err(FloodError::Absent { chunk: pos });
        }
        Ok(match self {
            Like::Word(word) => chunk.bits_where(|held| held == word),
            Like::Tile(tile) => chunk.bits_where(|held| Cell::of_word(held).tile_index() == tile),
            Like::Ground(_) => self.ground_bits(quilt, pos),
        })
    }

    fn ground_bits(self, quilt: &Quilt, pos: ChunkPos) -> ChunkBits {
        let Like::Ground(wanted) = self else { return ChunkBits::NONE };
        bits_by(pos.cells(), &mut |cell| class_at(quilt, cell) == Presence::Here(wanted))
    }
}

fn class_at(quilt: &Quilt, cell: CellPos) -> Presence<Option<GroundClass>> {
    quilt.ground_at(cell).map(|found| found.map(|ground| ground.class))
}
