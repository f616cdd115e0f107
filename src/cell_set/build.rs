//! Gathering cells one by one.

use super::set::CellSet;
use crate::plane::{ChunkBits, Stamp};
use crate::units::{CellPos, CellRect, ChunkPos};

/// The most chunks that a rectangle, a shape or a fill may touch.
pub(crate) const MAX_CHUNKS: u64 = 1 << 20;

/// The error of a set of cells that cannot be made.
#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
#[non_exhaustive]
pub enum CellSetError {
    /// A shape spans too many cells.
    #[error("{rect} are too many at once; at most {most} chunks of 64 × 64 may be touched")]
    TooLarge {
        /// The rectangle around the shape.
        rect: CellRect,
        /// The most chunks.
        most: u64,
    },
    /// A corner of a polygon is not finite.
    #[error("corner {0} of the polygon is not a place: expected finite numbers")]
    Corner(usize),
}

/// Checks that a rectangle does not touch too many chunks.
pub(crate) fn check_size(rect: CellRect) -> Result<(), CellSetError> {
    if rect.chunk_count() > MAX_CHUNKS {
        return Err(CellSetError::TooLarge { rect, most: MAX_CHUNKS });
    }
    Ok(())
}

/// Gathers cells, of which neighbours mostly follow each other: those of one chunk are added to the set
/// at once.
pub(crate) struct Builder {
    set: CellSet,
    stamp: Stamp,
    pos: ChunkPos,
    bits: ChunkBits,
}

impl Builder {
    pub(crate) fn new() -> Builder {
        Builder::of(CellSet::new())
    }

    pub(super) fn of(set: CellSet) -> Builder {
        Builder { set, stamp: Stamp::next(), pos: ChunkPos::default(), bits: ChunkBits::NONE }
    }

    #[inline]
    pub(crate) fn insert(&mut self, cell: CellPos) {
        if cell.chunk() != self.pos {
            self.go_to(cell.chunk());
        }
        self.bits.insert(cell.index_in_chunk());
    }

    /// Adds the cells of a row from one column to another, with both, within the limits of cells.
    pub(super) fn insert_row(&mut self, y: i32, first: i32, last: i32) {
        const SIDE: i32 = ChunkPos::SIDE as i32;
        let mut x = first;
        while x <= last {
            let start = CellPos::new(x, y);
            self.go_to(start.chunk());
            let end = last.min(start.chunk().corner().x() + SIDE - 1);
            let (column, count) = (x & (SIDE - 1), end - x + 1);
            self.bits.0[(y & (SIDE - 1)) as usize] |= (u64::MAX >> (SIDE - count)) << column;
            x = end + 1;
        }
    }

    fn go_to(&mut self, pos: ChunkPos) {
        if pos != self.pos {
            self.put_down();
            self.pos = pos;
        }
    }

    fn put_down(&mut self) {
        if !self.bits.is_none() {
            self.set.add_chunk(self.pos, &self.bits, self.stamp);
            self.bits = ChunkBits::NONE;
        }
    }

    pub(crate) fn finish(mut self) -> CellSet {
        self.put_down();
        self.set
    }
}
