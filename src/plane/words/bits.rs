//! Cells of a plane as a bit each.

use super::table::Held;
use super::{Chunk, ChunkBits, Stamp, Words};
use crate::units::{ChunkPos, TractPos};

/// So few cells of a chunk may be lone ones.
const FEW: u32 = 4;

impl Words {
    /// The cells of a chunk whose value fulfils a condition; none of a chunk that is not here.
    pub(crate) fn bits_where(&self, pos: ChunkPos, wanted: impl Fn(u32) -> bool) -> ChunkBits {
        self.chunk(pos).bits_where(wanted)
    }

    /// Gives some cells of a chunk a value, at least one of which holds another; the chunk must be
    /// here.
    pub(crate) fn fill_bits(&mut self, pos: ChunkPos, bits: &ChunkBits, value: u32, stamp: Stamp) {
        if !self.has_chunks(pos.tract()) && bits.count() <= FEW {
            for index in bits.indexes() {
                self.put_stamped(pos.cell_at_index(index), value, stamp);
            }
            return;
        }
        self.change_chunk(pos, stamp, |chunk| chunk.fill_bits(bits, value));
    }

    /// Gives cells of a chunk a value, and adds those that held another one with what that was. The chunk
    /// must be here.
    pub(crate) fn exchange(
        &mut self,
        pos: ChunkPos,
        cells: &[u16],
        value: u32,
        stamp: Stamp,
        (indexes, before): (&mut Vec<u16>, &mut Vec<u32>),
    ) {
        let (leaf, hash) = self.root.leaf(pos.tract());
        if let Some(Held::Chunks(tract)) = leaf.first(pos.tract(), hash).map(|entry| &entry.held) {
            let chunk = tract.chunk(pos.place_in_tract());
            if cells.iter().any(|at| chunk.get((*at).into()).here() != Some(value)) {
                let (leaf, hash) = self.leaf_mut(pos.tract(), stamp);
                let tract = leaf.tract_mut(pos.tract(), hash);
                tract.change(pos, stamp, |chunk| chunk.exchange(cells, value, indexes, before));
            }
            return;
        }
        for index in cells {
            let cell = pos.cell_at_index((*index).into());
            if let Some(held) = self.get(cell).here().filter(|held| *held != value) {
                indexes.push(*index);
                before.push(held);
                self.put_stamped(cell, value, stamp);
            }
        }
    }

    /// Makes a chunk hold 1 in some cells and 0 in the others.
    pub(crate) fn put_bits(&mut self, pos: ChunkPos, bits: &ChunkBits, stamp: Stamp) {
        if !self.has_chunks(pos.tract()) && bits.count() <= FEW {
            self.fill_bits(pos, bits, 1, stamp);
        } else {
            self.change_chunk(pos, stamp, |chunk| *chunk = Chunk::of_bits(bits));
        }
    }

    /// The value of all cells of a tract, where the page table holds it as one.
    pub(crate) fn tract_value(&self, at: TractPos) -> Option<u32> {
        let (leaf, hash) = self.root.leaf(at);
        match leaf.first(at, hash).map(|entry| &entry.held) {
            None => Some(0),
            Some(Held::Uniform(value, _)) => Some(*value),
            Some(_) => None,
        }
    }

    /// All tracts of which the page table knows something, row by row.
    pub(crate) fn all_tracts(&self) -> Vec<TractPos> {
        let mut known = Vec::new();
        self.root.each(&mut |entry| known.push(entry.tract()));
        known.sort_unstable();
        known.dedup();
        known
    }
}
