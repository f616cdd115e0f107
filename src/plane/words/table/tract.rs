//! 8 × 8 chunks with their stamps.

use std::sync::OnceLock;

use crate::plane::words::chunk::Chunk;
use crate::stamp::Stamp;
use crate::units::{CellRect, ChunkPos, TractPos};

const SIDE: usize = TractPos::SIDE as usize;
pub(crate) const CHUNKS: usize = SIDE * SIDE;

/// The chunks of a tract, row by row. Shared between clones; copied when written to, which leaves
/// the chunks shared.
#[derive(Clone, Debug)]
pub(crate) struct Tract {
    chunks: [Chunk; CHUNKS],
    /// When each was last changed. By themselves, so that reads pass them by.
    stamps: [Stamp; CHUNKS],
    /// The greatest of the stamps.
    stamp: Stamp,
    /// Found when asked for, forgotten when written to.
    bounds: OnceLock<CellRect>,
}

impl Tract {
    pub(crate) fn uniform(chunk: &Chunk, stamp: Stamp) -> Tract {
        Tract::of_chunks(|_| chunk.clone(), stamp)
    }

    /// Each chunk as it is given, all of them changed at once.
    pub(crate) fn of_chunks(chunk: impl FnMut(usize) -> Chunk, stamp: Stamp) -> Tract {
        Tract {
            chunks: std::array::from_fn(chunk),
            stamps: [stamp; CHUNKS],
            stamp,
            bounds: OnceLock::new(),
        }
    }

    #[inline]
    pub(crate) fn chunk(&self, place: usize) -> &Chunk {
        &self.chunks[place % CHUNKS]
    }

    pub(crate) fn chunks(&self) -> &[Chunk; CHUNKS] {
        &self.chunks
    }

    pub(crate) fn stamps(&self) -> &[Stamp; CHUNKS] {
        &self.stamps
    }

    pub(crate) fn stamp(&self) -> Stamp {
        self.stamp
    }

    /// As of [`Plane::bounds`](crate::plane::Plane::bounds), of the cells in this tract.
    pub(crate) fn bounds(&self, at: TractPos) -> CellRect {
        *self.bounds.get_or_init(|| {
            let used = self.chunks.iter().enumerate().filter(|(_, chunk)| !chunk.is_default());
            used.fold(CellRect::EMPTY, |bounds, (place, chunk)| {
                let pos = at.chunk_at(place);
                if bounds.contains_rect(pos.cells()) {
                    return bounds;
                }
                bounds.union(chunk.bounds(pos))
            })
        })
    }

    /// Changes a chunk, and stamps it where it says that this changed anything.
    #[inline]
    pub(crate) fn change(
        &mut self,
        pos: ChunkPos,
        stamp: Stamp,
        change: impl FnOnce(&mut Chunk) -> bool,
    ) {
        let place = pos.place_in_tract();
        if change(&mut self.chunks[place]) {
            self.stamps[place] = self.stamps[place].max(stamp);
            self.stamp = self.stamp.max(stamp);
            if self.bounds.get().is_some() {
                self.bounds = OnceLock::new();
            }
        }
    }

    /// Says when a chunk was changed last. The tract itself keeps its stamp.
    pub(crate) fn put_stamp(&mut self, place: usize, stamp: Stamp) {
        self.stamps[place] = stamp;
    }

    /// Puts a chunk that holds the same values in another form.
    pub(crate) fn put_form(&mut self, place: usize, chunk: Chunk) {
        self.chunks[place] = chunk;
    }
}
