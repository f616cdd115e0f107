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

    /// The chunk in column `x` and row `y` of chunks; what lies beyond the limits (−2²⁴ to
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

    /// The column of chunks.
    #[inline]
    pub const fn x(self) -> i32 {
        self.x
    }

    /// The row of chunks.
    #[inline]
    pub const fn y(self) -> i32 {
        self.y
    }

    /// The top left cell of this chunk.
    #[inline]
    pub const fn corner(self) -> CellPos {
        CellPos::new(self.x << Self::SHIFT, self.y << Self::SHIFT)
    }

    /// The cells of this chunk.
    #[inline]
    pub const fn cells(self) -> CellRect {
        CellRect::new(self.corner(), Self::SIDE, Self::SIDE)
    }
}

impl CellPos {
    /// The chunk that holds this cell.
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
