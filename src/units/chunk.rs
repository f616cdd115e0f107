use std::fmt;

use super::cell::clamp;
use super::{CellPos, CellRect};

/// The place of one chunk: a square of 64 × 64 cells, the unit of sharing, stamps and paging.
///
/// ```
/// use sturdy_quilt::{CellPos, ChunkPos};
///
/// assert_eq!(CellPos::new(-1, 64).chunk(), ChunkPos::new(-1, 1));
/// ```
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub struct ChunkPos {
    y: i32,
    x: i32,
}

impl ChunkPos {
    /// Columns and rows of cells in a chunk. 64 packs better than 32 and still fits in cache
    /// (docs/decisions.md).
    pub const SIDE: u32 = 64;

    const SHIFT: u32 = Self::SIDE.trailing_zeros();

    /// The position, or `None` where none of its cells lies within the limits of cells.
    pub(crate) fn checked(x: i32, y: i32) -> Option<ChunkPos> {
        Some(ChunkPos::new(x, y)).filter(|pos| (pos.x(), pos.y()) == (x, y))
    }

    /// Returns the chunk in column `x` and row `y` of chunks; what lies beyond the limits (−2²⁴ to
    /// 2²⁴−1) moves to the nearest limit.
    #[inline]
    pub const fn new(x: i32, y: i32) -> ChunkPos {
        ChunkPos { x: Self::clamp(x), y: Self::clamp(y) }
    }

    /// A chunk that is known to lie within the limits.
    #[inline]
    pub(crate) const fn within_limits(x: i32, y: i32) -> ChunkPos {
        ChunkPos { x, y }
    }

    const fn clamp(value: i32) -> i32 {
        clamp((value as i64) << Self::SHIFT) >> Self::SHIFT
    }

    /// Returns the column of chunks.
    #[inline]
    pub const fn x(self) -> i32 {
        self.x
    }

    /// Returns the row of chunks.
    #[inline]
    pub const fn y(self) -> i32 {
        self.y
    }

    /// Returns the top left cell of this chunk.
    #[inline]
    pub const fn corner(self) -> CellPos {
        CellPos::new(self.x << Self::SHIFT, self.y << Self::SHIFT)
    }

    /// Returns the cells of this chunk.
    #[inline]
    pub const fn cells(self) -> CellRect {
        CellRect::new(self.corner(), Self::SIDE, Self::SIDE)
    }
}

impl CellPos {
    /// Returns the chunk that holds this cell.
    #[inline]
    pub const fn chunk(self) -> ChunkPos {
        ChunkPos { x: self.x() >> ChunkPos::SHIFT, y: self.y() >> ChunkPos::SHIFT }
    }

    /// The place of this cell in its chunk, counted row by row from its top left cell.
    #[inline]
    pub(crate) const fn index_in_chunk(self) -> usize {
        let mask = ChunkPos::SIDE as i32 - 1;
        ((self.y() & mask) as usize) << ChunkPos::SHIFT | (self.x() & mask) as usize
    }
}

impl ChunkPos {
    /// The cell at a place of this chunk, the inverse of [`CellPos::index_in_chunk`].
    pub(crate) const fn cell_at_index(self, index: usize) -> CellPos {
        let (column, row) = (index as i32 & (Self::SIDE as i32 - 1), index as i32 >> Self::SHIFT);
        CellPos::new((self.x << Self::SHIFT) + column, (self.y << Self::SHIFT) + row)
    }
}

impl fmt::Display for ChunkPos {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(f, "chunk {},{}", self.x, self.y)
    }
}

/// The place of a tract: a square of 8 × 8 chunks, which is 512 × 512 cells.
///
/// Tract 0,0 has cell 0,0 as its first; the origin is no border, so tract −1,−1 lies beside it.
/// Ordered row by row.
///
/// ```
/// use sturdy_quilt::units::TractPos;
/// use sturdy_quilt::{CellPos, ChunkPos};
///
/// assert_eq!(CellPos::new(-1, 512).tract(), TractPos::new(-1, 1));
/// assert_eq!(ChunkPos::new(15, -1).tract(), TractPos::new(1, -1));
/// assert_eq!(TractPos::new(-1, 0).cells().corner(), CellPos::new(-512, 0));
/// ```
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub struct TractPos {
    y: i32,
    x: i32,
}

impl TractPos {
    /// Columns and rows of chunks in a tract: few enough tracts to look at each in a refresh of
    /// a huge world, few enough chunks to copy their table when one of them is written to.
    pub const SIDE: u32 = 8;

    /// Columns and rows of cells in a tract.
    pub const SIDE_CELLS: u32 = Self::SIDE * ChunkPos::SIDE;

    const SHIFT: u32 = Self::SIDE.trailing_zeros();
    const CELL_SHIFT: u32 = Self::SIDE_CELLS.trailing_zeros();

    /// How many bits tell tracts in a row, or in a column, from each other.
    pub(crate) const BITS: u32 = 31 - Self::CELL_SHIFT;

    /// The position, or `None` where none of its cells lies within the limits of cells.
    pub(crate) fn checked(x: i32, y: i32) -> Option<TractPos> {
        Some(TractPos::new(x, y)).filter(|pos| (pos.x(), pos.y()) == (x, y))
    }

    /// Returns the tract in a column and row of tracts; saturates at the limits of cells.
    pub const fn new(x: i32, y: i32) -> TractPos {
        TractPos { x: Self::clamp(x), y: Self::clamp(y) }
    }

    const fn clamp(value: i32) -> i32 {
        clamp((value as i64) << Self::CELL_SHIFT) >> Self::CELL_SHIFT
    }

    /// Returns the column of tracts.
    pub const fn x(self) -> i32 {
        self.x
    }

    /// Returns the row of tracts.
    pub const fn y(self) -> i32 {
        self.y
    }

    /// Returns its first cell: the one with the smallest column and row.
    #[inline]
    pub const fn corner(self) -> CellPos {
        CellPos::within_limits(self.x << Self::CELL_SHIFT, self.y << Self::CELL_SHIFT)
    }

    /// Returns all its cells.
    pub const fn cells(self) -> CellRect {
        CellRect::new(self.corner(), Self::SIDE_CELLS, Self::SIDE_CELLS)
    }

    /// The chunk of this tract at a place that [`ChunkPos::place_in_tract`] gives.
    pub(crate) const fn chunk_at(self, place: usize) -> ChunkPos {
        let (column, row) = (place as i32 & (Self::SIDE as i32 - 1), place as i32 >> Self::SHIFT);
        ChunkPos::new((self.x << Self::SHIFT) + column, (self.y << Self::SHIFT) + row)
    }
}

impl ChunkPos {
    /// Returns the tract it lies in.
    #[inline]
    pub const fn tract(self) -> TractPos {
        TractPos { x: self.x() >> TractPos::SHIFT, y: self.y() >> TractPos::SHIFT }
    }

    /// Its place among the chunks of its tract, row by row.
    #[inline]
    pub(crate) const fn place_in_tract(self) -> usize {
        let mask = TractPos::SIDE as i32 - 1;
        ((self.y() & mask) << TractPos::SHIFT | self.x() & mask) as usize
    }
}

impl CellPos {
    /// Whether it lies in the same tract as another.
    #[inline]
    pub(crate) const fn is_in_tract_of(self, other: CellPos) -> bool {
        ((self.x() ^ other.x()) | (self.y() ^ other.y())) as u32 >> TractPos::CELL_SHIFT == 0
    }

    /// Returns the tract it lies in.
    #[inline]
    pub const fn tract(self) -> TractPos {
        TractPos { x: self.x() >> TractPos::CELL_SHIFT, y: self.y() >> TractPos::CELL_SHIFT }
    }
}

impl fmt::Display for TractPos {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(f, "tract {},{}", self.x, self.y)
    }
}
