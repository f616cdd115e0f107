//! Cells of a plane as a bit each.

use super::table::Held;
use super::{ChunkBits, Stamp, Words};
use crate::units::{ChunkPos, TractPos};

impl Words {
    /// The cells of a chunk whose value fulfils a condition; none of a chunk that is not here.
    pub(crate) fn bits_where(&self, pos: ChunkPos, wanted: impl Fn(u32) -> bool) -> ChunkBits {
        self.chunk(pos).bits_where(wanted)
    }

    /// Gives some cells of a chunk a value, at least one of which holds another; the chunk must be
    /// here.
    pub(crate) fn fill_bits(&mut self, pos: ChunkPos, bits: &ChunkBits, value: u32, stamp: Stamp) {
        /// So few cells may be lone ones.
        const FEW: u32 = 4;
        if !self.has_chunks(pos.tract()) && bits.count() <= FEW {
            for index in bits.indexes() {
                self.put_stamped(pos.cell_at_index(index), value, stamp);
            }
            return;
        }
        self.change_chunk(pos, stamp, |chunk| chunk.fill_bits(bits, value));
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
