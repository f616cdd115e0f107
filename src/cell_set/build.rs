//! Gathering cells one by one.

use rustc_hash::FxHashMap;

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

/// Gathers cells, of which neighbours mostly follow each other: bits by chunk, which are added to the set
/// when there are many.
pub(crate) struct Builder {
    set: CellSet,
    stamp: Stamp,
    chunks: Vec<(ChunkPos, ChunkBits)>,
    places: FxHashMap<ChunkPos, usize>,
    /// The place of the chunk that got the last cell.
    current: usize,
}

/// How many chunks are gathered: 2 MiB of them.
const MOST_GATHERED: usize = 4096;

impl Builder {
    pub(crate) fn new() -> Builder {
        Builder::of(CellSet::new())
    }

    pub(super) fn of(set: CellSet) -> Builder {
        let (chunks, places) = (Vec::new(), FxHashMap::default());
        Builder { set, stamp: Stamp::next(), chunks, places, current: 0 }
    }

    #[inline]
    pub(crate) fn insert(&mut self, cell: CellPos) {
        self.chunk(cell.chunk()).insert(cell.index_in_chunk());
    }

    /// Adds the cells of a row from one column to another, with both, within the limits of cells.
    pub(super) fn insert_row(&mut self, y: i32, first: i32, last: i32) {
        const SIDE: i32 = ChunkPos::SIDE as i32;
        let mut x = first;
        while x <= last {
            let pos = CellPos::new(x, y).chunk();
            let end = last.min(pos.corner().x() + SIDE - 1);
            let (column, count) = (x & (SIDE - 1), end - x + 1);
            self.chunk(pos).0[(y & (SIDE - 1)) as usize] |= (u64::MAX >> (SIDE - count)) << column;
            x = end + 1;
        }
    }

    #[inline]
    fn chunk(&mut self, pos: ChunkPos) -> &mut ChunkBits {
        if self.chunks.get(self.current).is_none_or(|(held, _)| *held != pos) {
            self.go_to(pos);
        }
        &mut self.chunks[self.current].1
    }

    #[inline(never)]
    fn go_to(&mut self, pos: ChunkPos) {
        if self.chunks.len() >= MOST_GATHERED {
            self.put_down();
        }
        self.current = *self.places.entry(pos).or_insert_with(|| {
            self.chunks.push((pos, ChunkBits::NONE));
            self.chunks.len() - 1
        });
    }

    fn put_down(&mut self) {
        for (pos, bits) in self.chunks.drain(..) {
            self.set.add_chunk(pos, &bits, self.stamp);
        }
        self.places.clear();
    }

    pub(crate) fn finish(mut self) -> CellSet {
        self.put_down();
        self.set
    }
}
