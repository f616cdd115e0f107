use std::ops::{BitAnd, BitOr, BitXor, Sub};

use crate::plane::{ChunkBits, Presence, Stamp, Words};
use crate::units::{CellPos, CellRect, ChunkPos, TractPos};

use super::build::{Builder, CellSetError, check_size};

/// A set of cells.
///
/// Mask, selection and result alike: the tools of the [`Pen`](crate::Pen) take one as the place of what
/// they lay, and give one of the cells that they changed.
///
/// Sets are combined by the operators `|` (union), `&` (intersection), `-` (difference) and `^`
/// (symmetric difference) of references. `clone()` shares everything, as that of a
/// [`Plane`](crate::plane::Plane) does.
///
/// ```
/// use sturdy_quilt::{CellPos, CellRect, CellSet};
///
/// let yard = CellSet::rect(CellRect::new(CellPos::new(-3, -3), 7, 7))?;
/// let path = CellSet::line(CellPos::new(-9, 0), CellPos::new(9, 0))?;
/// assert_eq!((&yard | &path).len(), 49 + 19 - 7);
/// assert_eq!((&path - &yard).len(), 12);
/// assert_eq!((&yard & &path).bounds(), CellRect::new(CellPos::new(-3, 0), 7, 1));
/// # Ok::<(), sturdy_quilt::cell_set::CellSetError>(())
/// ```
#[derive(Clone)]
pub struct CellSet {
    /// 1 in the cells of the set, 0 elsewhere.
    words: Words,
}

/// Which cells count as neighbours of a cell.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Hash)]
pub enum Neighbors {
    /// The cells that share a side with it.
    #[default]
    Sides,
    /// The cells that share a side or a corner with it.
    Corners,
}

// Make.
impl CellSet {
    /// Returns the set without cells.
    pub fn new() -> CellSet {
        CellSet { words: Words::new() }
    }

    /// Returns the cells of a rectangle.
    ///
    /// # Errors
    /// A rectangle that touches more than 2²⁰ chunks, as 65,536 × 65,536 cells do.
    ///
    /// Costs a look at each tract of 512 × 512 cells, and at the chunks along the border.
    pub fn rect(rect: CellRect) -> Result<CellSet, CellSetError> {
        check_size(rect)?;
        let mut set = CellSet::new();
        set.fill(rect, 1);
        Ok(set)
    }

    /// Returns a set of the cells for which a condition holds, of those of a rectangle. Costs a call a
    /// cell.
    ///
    /// # Errors
    /// As [`CellSet::rect`].
    pub fn of_rect_where(
        rect: CellRect,
        mut wanted: impl FnMut(CellPos) -> bool,
    ) -> Result<CellSet, CellSetError> {
        check_size(rect)?;
        let mut builder = Builder::new();
        for pos in rect.chunks() {
            rect.intersection(pos.cells()).cells().filter(|cell| wanted(*cell)).for_each(|cell| {
                builder.insert(cell);
            });
        }
        Ok(builder.finish())
    }

    /// A chunk of cells after the other, of which each comes once.
    pub(crate) fn of_chunks(chunks: impl IntoIterator<Item = (ChunkPos, ChunkBits)>) -> CellSet {
        let mut set = CellSet::new();
        let stamp = Stamp::next();
        chunks.into_iter().for_each(|(pos, bits)| set.words.put_bits(pos, &bits, stamp));
        set
    }
}

// Read.
impl CellSet {
    /// Returns whether a cell is in the set. Constant time.
    #[inline]
    pub fn contains(&self, cell: CellPos) -> bool {
        self.words.get(cell) == Presence::Here(1)
    }

    /// Returns whether the set has no cells.
    pub fn is_empty(&self) -> bool {
        self.bounds().is_empty()
    }

    /// Returns how many cells there are. Costs a look at each chunk, and none at the chunks of tracts that
    /// are in the set as a whole.
    pub fn len(&self) -> u64 {
        let of_tract = |at: TractPos| match self.words.tract_value(at) {
            Some(value) => u64::from(value) * at.cells().cell_count(),
            None => at.cells().chunks().map(|pos| u64::from(self.chunk(pos).count())).sum(),
        };
        self.words.all_tracts().into_iter().map(of_tract).sum()
    }

    /// Returns the smallest rectangle that holds all cells. Kept up to date, as
    /// [`Plane::bounds`](crate::plane::Plane::bounds) is.
    pub fn bounds(&self) -> CellRect {
        self.words.bounds()
    }

    /// Returns the cells, chunk by chunk (row by row of chunks), and in each chunk row by row.
    pub fn iter(&self) -> impl Iterator<Item = CellPos> + '_ {
        self.chunks().flat_map(|(pos, bits)| {
            let cells: Vec<CellPos> = bits.indexes().map(|at| pos.cell_at_index(at)).collect();
            cells
        })
    }

    /// Returns the cells as runs: rectangles of one row, within one chunk, in the order of
    /// [`CellSet::iter`].
    ///
    /// ```
    /// use sturdy_quilt::{CellPos, CellRect, CellSet};
    ///
    /// let set: CellSet = [(0, 0), (1, 0), (5, 0), (0, 1)].map(|(x, y)| CellPos::new(x, y)).into();
    /// let runs: Vec<String> = set.runs().map(|run| run.to_string()).collect();
    /// assert_eq!(runs, ["2 × 1 cells at 0,0", "1 × 1 cells at 5,0", "1 × 1 cells at 0,1"]);
    /// ```
    pub fn runs(&self) -> impl Iterator<Item = CellRect> + '_ {
        self.chunks().flat_map(|(pos, bits)| {
            let (corner, mut runs) = (pos.corner(), Vec::new());
            bits.each_run(|row, column, count| {
                let first = CellPos::new(corner.x() + column as i32, corner.y() + row as i32);
                runs.push(CellRect::new(first, count as u32, 1));
            });
            runs
        })
    }

    /// Returns the cells of this set that lie in a rectangle.
    #[must_use]
    pub fn within(&self, rect: CellRect) -> CellSet {
        let part = |pos: ChunkPos| {
            let part = rect.intersection(pos.cells());
            ChunkBits::of_part(part.moved(CellPos::ORIGIN - pos.corner()))
        };
        let mut within = self.clone();
        let stamp = Stamp::next();
        for (at, _) in self.tracts().filter(|(at, _)| !rect.contains_rect(at.cells())) {
            if rect.intersection(at.cells()).is_empty() {
                within.words.fill_tract(at, 0, stamp);
                continue;
            }
            for pos in at.cells().chunks() {
                let outside = self.chunk(pos).zip(&part(pos), |own, part| own & !part);
                if !outside.is_none() {
                    within.words.fill_bits(pos, &outside, 0, stamp);
                }
            }
        }
        within
    }

    /// Returns whether every cell of this set is in another.
    pub fn is_subset(&self, other: &CellSet) -> bool {
        (self - other).is_empty()
    }

    /// The cells of a chunk.
    #[inline]
    pub(crate) fn chunk(&self, pos: ChunkPos) -> ChunkBits {
        self.words.bits_where(pos, |value| value != 0)
    }

    /// The chunks that have cells of the set, row by row of chunks.
    pub(crate) fn chunks(&self) -> impl Iterator<Item = (ChunkPos, ChunkBits)> + '_ {
        let each = self.words.chunks_in_use().into_iter().map(|pos| (pos, self.chunk(pos)));
        each.filter(|(_, bits)| !bits.is_none())
    }

    /// The tracts that have cells of the set, row by row, and whether they are in it as a whole.
    pub(crate) fn tracts(&self) -> impl Iterator<Item = (TractPos, bool)> + '_ {
        let tracts = self.words.all_tracts().into_iter();
        tracts.filter_map(|at| match self.words.tract_value(at) {
            Some(0) => None,
            value => Some((at, value.is_some())),
        })
    }
}

// Change.
impl CellSet {
    /// Adds a cell, and returns whether it was not there. For many cells in a row,
    /// [`CellSet::extend`](Extend::extend) is quicker.
    pub fn insert(&mut self, cell: CellPos) -> bool {
        self.put(cell, 1)
    }

    /// Removes a cell, and returns whether it was there.
    pub fn remove(&mut self, cell: CellPos) -> bool {
        self.put(cell, 0)
    }

    fn put(&mut self, cell: CellPos, value: u32) -> bool {
        let is_other = self.contains(cell) != (value == 1);
        if is_other {
            self.words.put_stamped(cell, value, Stamp::next());
        }
        is_other
    }

    /// Fills a rectangle that is not too large.
    fn fill(&mut self, rect: CellRect, value: u32) {
        let filled = self.words.fill(rect, value);
        debug_assert!(filled.is_ok(), "a set of cells is never unloaded");
    }

    /// Adds cells of a chunk.
    pub(super) fn add_chunk(&mut self, pos: ChunkPos, bits: &ChunkBits, stamp: Stamp) {
        let held = self.chunk(pos);
        let new = bits.zip(&held, |new, held| new & !held);
        if held.is_none() {
            self.words.put_bits(pos, bits, stamp);
        } else if !new.is_none() {
            self.words.fill_bits(pos, &new, 1, stamp);
        }
    }
}

// Combine.
impl CellSet {
    /// Returns this set with what a rule says of its rows and those of another, in the tracts in which a
    /// third has cells.
    fn combined(
        &self,
        other: &CellSet,
        tracts: &CellSet,
        rule: impl Fn(u64, u64) -> u64,
    ) -> CellSet {
        let mut combined = self.clone();
        let stamp = Stamp::next();
        let word = |value: u32| if value == 0 { 0 } else { u64::MAX };
        for (at, _) in tracts.tracts() {
            let (own, others) = (self.words.tract_value(at), other.words.tract_value(at));
            if let (Some(own), Some(others)) = (own, others) {
                let value = u32::from(rule(word(own), word(others)) != 0);
                combined.words.fill_tract(at, value, stamp);
                continue;
            }
            for pos in at.cells().chunks() {
                let own = self.chunk(pos);
                let wanted = own.zip(&other.chunk(pos), &rule);
                let added = wanted.zip(&own, |wanted, own| wanted & !own);
                let removed = own.zip(&wanted, |own, wanted| own & !wanted);
                for (bits, value) in [(added, 1), (removed, 0)] {
                    if !bits.is_none() {
                        combined.words.fill_bits(pos, &bits, value, stamp);
                    }
                }
            }
        }
        combined
    }
}

/// Returns the cells that are in either of two sets, or in both.
impl BitOr for &CellSet {
    type Output = CellSet;

    fn bitor(self, other: &CellSet) -> CellSet {
        self.combined(other, other, |own, others| own | others)
    }
}

/// Returns the cells that are in both of two sets.
impl BitAnd for &CellSet {
    type Output = CellSet;

    fn bitand(self, other: &CellSet) -> CellSet {
        self.combined(other, self, |own, others| own & others)
    }
}

/// Returns the cells that are in the first of two sets and not in the second.
impl Sub for &CellSet {
    type Output = CellSet;

    fn sub(self, other: &CellSet) -> CellSet {
        self.combined(other, other, |own, others| own & !others)
    }
}

/// Returns the cells that are in one of two sets and not in the other.
impl BitXor for &CellSet {
    type Output = CellSet;

    fn bitxor(self, other: &CellSet) -> CellSet {
        self.combined(other, other, |own, others| own ^ others)
    }
}

impl Extend<CellPos> for CellSet {
    fn extend<T: IntoIterator<Item = CellPos>>(&mut self, cells: T) {
        let mut builder = Builder::of(std::mem::take(self));
        cells.into_iter().for_each(|cell| builder.insert(cell));
        *self = builder.finish();
    }
}

impl FromIterator<CellPos> for CellSet {
    fn from_iter<T: IntoIterator<Item = CellPos>>(cells: T) -> CellSet {
        let mut set = CellSet::new();
        set.extend(cells);
        set
    }
}

impl<const N: usize> From<[CellPos; N]> for CellSet {
    fn from(cells: [CellPos; N]) -> CellSet {
        cells.into_iter().collect()
    }
}

impl From<CellPos> for CellSet {
    fn from(cell: CellPos) -> CellSet {
        CellSet::from([cell])
    }
}

impl Default for CellSet {
    fn default() -> CellSet {
        CellSet::new()
    }
}

/// Two sets are equal when they have the same cells.
impl PartialEq for CellSet {
    fn eq(&self, other: &CellSet) -> bool {
        self.words == other.words
    }
}

impl Eq for CellSet {}

impl std::fmt::Debug for CellSet {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        write!(f, "CellSet({} cells in {})", self.len(), self.bounds())
    }
}
