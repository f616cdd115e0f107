//! The page table: regions of 16 × 16 chunks, found by their place.

use std::sync::Arc;

use rustc_hash::FxHashMap;

use super::chunk::Chunk;
use super::{Stamp, Value};
use crate::units::ChunkPos;

/// Chunks in a row of a region: a region spans 1024 cells, few enough regions to look at each in a
/// refresh of a huge world.
const SIDE: i32 = 1 << SHIFT;
const SHIFT: u32 = 4;

#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub(super) struct RegionPos {
    x: i32,
    y: i32,
}

impl RegionPos {
    /// Columns and rows of cells in a region.
    pub(super) const SIDE_CELLS: i32 = SIDE * ChunkPos::SIDE as i32;

    /// The region of a chunk, and the chunk's place in it.
    pub(super) fn of(chunk: ChunkPos) -> (RegionPos, usize) {
        let (x, y) = (chunk.x(), chunk.y());
        (RegionPos { x: x >> SHIFT, y: y >> SHIFT }, RegionPos::place(x, y))
    }

    /// The place in its region of the chunk in a column and row of chunks.
    pub(super) const fn place(x: i32, y: i32) -> usize {
        ((y & (SIDE - 1)) << SHIFT | x & (SIDE - 1)) as usize
    }

    /// The chunk at a place of this region.
    pub(super) fn chunk(self, place: usize) -> ChunkPos {
        let place = place as i32;
        ChunkPos::new(self.x * SIDE + place % SIDE, self.y * SIDE + place / SIDE)
    }
}

#[derive(Clone, Debug)]
pub(super) struct PageTable<V> {
    pub(super) regions: FxHashMap<RegionPos, Arc<Region<V>>>,
    pub(super) stamp: Stamp,
    /// What lies where no region is.
    pub(super) background: Chunk<V>,
    /// Whether any chunk may be absent; spares a look at each chunk of a giant fill.
    pub(super) may_be_absent: bool,
}

impl<V: Value> Default for PageTable<V> {
    fn default() -> PageTable<V> {
        PageTable {
            regions: FxHashMap::default(),
            stamp: Stamp::NONE,
            background: Chunk::default(),
            may_be_absent: false,
        }
    }
}

#[derive(Clone, Debug)]
pub(super) struct Region<V> {
    pub(super) slots: Vec<Slot<V>>,
    /// The last change of any of its chunks.
    pub(super) stamp: Stamp,
}

#[derive(Clone, Debug)]
pub(super) struct Slot<V> {
    pub(super) stamp: Stamp,
    pub(super) chunk: Chunk<V>,
}

impl<V: Value> Region<V> {
    pub(super) fn new() -> Region<V> {
        let empty = Slot { stamp: Stamp::NONE, chunk: Chunk::default() };
        Region { slots: vec![empty; (SIDE * SIDE) as usize], stamp: Stamp::NONE }
    }
}
