//! An entry of the page table: a tract, or a lone cell.

use triomphe::Arc;

use super::tract::{CHUNKS, Tract};
use crate::plane::words::chunk::Absence;
use crate::plane::words::chunk::Chunk;
use crate::stamp::Stamp;
use crate::units::{CellPos, CellRect, ChunkPos, TractPos};

/// A tract, or one of the lone cells of a tract. A tract has either one entry that is not a
/// lone cell, or up to [`MAX_LONE`] that are.
#[derive(Clone, Debug)]
pub(crate) struct Entry {
    /// The lone cell; else the corner of the tract.
    pub(crate) cell: CellPos,
    pub(crate) held: Held,
}

/// What an entry holds. Stamps of the same size stand side by side with what is smaller, so that an
/// entry takes 24 bytes in all.
#[derive(Clone, Debug)]
pub(crate) enum Held {
    /// One cell, the others of its chunk being other lone cells or the default. It may hold the
    /// default itself: then its chunk was emptied, and that must be known by its stamp.
    Lone(u32, Stamp),
    /// The same value in all cells, all chunks changed at once.
    Uniform(u32, Stamp),
    /// No chunk is here.
    Absent(Absence, Stamp),
    /// Each chunk by itself.
    Chunks(Arc<Tract>),
}

const _: () = assert!(size_of::<Entry>() == 24);

/// From so many lone cells on, a tract has chunks: to find one among them would take longer than
/// to look it up there.
pub(crate) const MAX_LONE: usize = 8;

impl Entry {
    pub(crate) fn of(at: TractPos, held: Held) -> Entry {
        Entry { cell: at.corner(), held }
    }

    #[inline]
    pub(crate) fn tract(&self) -> TractPos {
        self.cell.tract()
    }

    pub(crate) fn stamp(&self) -> Stamp {
        match &self.held {
            Held::Lone(_, stamp) | Held::Uniform(_, stamp) | Held::Absent(_, stamp) => *stamp,
            Held::Chunks(tract) => tract.stamp(),
        }
    }

    /// As of [`Plane::bounds`](crate::plane::Plane::bounds), of what this entry holds.
    pub(crate) fn bounds(&self) -> CellRect {
        match &self.held {
            Held::Lone(value, _) | Held::Uniform(value, _) if *value == 0 => CellRect::EMPTY,
            Held::Lone(..) => CellRect::of_cell(self.cell),
            Held::Uniform(..) | Held::Absent(..) => self.tract().cells(),
            Held::Chunks(tract) => tract.bounds(self.tract()),
        }
    }

    /// The chunks that may hold something that is not the default.
    pub(crate) fn each_used(&self, mut take: impl FnMut(ChunkPos)) {
        let at = self.tract();
        match &self.held {
            Held::Lone(value, _) | Held::Uniform(value, _) if *value == 0 => {}
            Held::Lone(..) => take(self.cell.chunk()),
            Held::Uniform(..) | Held::Absent(..) => {
                (0..CHUNKS).for_each(|place| take(at.chunk_at(place)));
            }
            Held::Chunks(tract) => {
                let used = tract.chunks().iter().enumerate();
                used.filter(|(_, chunk)| !chunk.is_default())
                    .for_each(|(place, _)| take(at.chunk_at(place)));
            }
        }
    }

    /// The stamps of the chunks that have one. Lone cells of one chunk have one each, of which the
    /// greatest counts.
    pub(crate) fn each_stamp(&self, mut take: impl FnMut(ChunkPos, Stamp)) {
        let at = self.tract();
        match &self.held {
            Held::Lone(_, stamp) => take(self.cell.chunk(), *stamp),
            Held::Uniform(_, stamp) | Held::Absent(_, stamp) => {
                (0..CHUNKS).for_each(|place| take(at.chunk_at(place), *stamp));
            }
            Held::Chunks(tract) => {
                let stamped = tract.stamps().iter().enumerate();
                stamped
                    .filter(|(_, stamp)| **stamp != Stamp::NONE)
                    .for_each(|(place, stamp)| take(at.chunk_at(place), *stamp));
            }
        }
    }

    /// The whole tract as chunks, where the entry is of a whole tract.
    pub(super) fn as_tract(&self) -> Option<Tract> {
        match &self.held {
            Held::Lone(..) | Held::Chunks(_) => None,
            Held::Uniform(value, stamp) => Some(Tract::uniform(&Chunk::Uniform(*value), *stamp)),
            Held::Absent(why, stamp) => Some(Tract::uniform(&Chunk::Absent(*why), *stamp)),
        }
    }
}
