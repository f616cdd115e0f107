//! What a chunk is made of, to be written to bytes and read from them.

use triomphe::Arc;

use super::full::{Distinct, Full};
use super::packed::Packed;
use super::wear::Wear;
use super::{Absence, CELLS, Chunk};

/// What a chunk is made of.
pub(crate) enum ChunkParts<'a> {
    /// The same value in every cell.
    Uniform(u32),
    /// A table of values, and the place there of each cell in so many bits, the first in the lowest.
    Packed(usize, &'a [u32], &'a [u64]),
    /// Each value by itself.
    Full(&'a [u32; CELLS]),
    /// No values.
    Absent(Absence),
}

impl Chunk {
    /// What it is made of.
    pub(crate) fn parts(&self) -> ChunkParts<'_> {
        fn of<const WORDS: usize, const VALUES: usize>(
            packed: &Packed<WORDS, VALUES>,
        ) -> ChunkParts<'_> {
            ChunkParts::Packed(Packed::<WORDS, VALUES>::BITS, packed.values(), packed.words())
        }
        match self {
            Chunk::Uniform(value) => ChunkParts::Uniform(*value),
            Chunk::Bits1(packed) => of(packed),
            Chunk::Bits2(packed) => of(packed),
            Chunk::Bits4(packed) => of(packed),
            Chunk::Bits8(packed) => of(packed),
            Chunk::Full(full) => ChunkParts::Full(&full.values),
            Chunk::Absent(why) => ChunkParts::Absent(*why),
        }
    }

    /// A chunk of a table and places in it; `None` where there are not as many as there must be, a value comes
    /// twice, or a place is none.
    pub(crate) fn of_packed(bits: usize, table: &[u32], words: &[u64]) -> Option<Chunk> {
        fn of<const WORDS: usize, const VALUES: usize>(
            table: &[u32],
            words: &[u64],
        ) -> Option<Arc<Packed<WORDS, VALUES>>> {
            let packed = Packed::of_words(table, words.first_chunk()?)?;
            Some(Arc::new(packed))
        }
        if words.len() * 64 != CELLS * bits || table.len() < 2 || table.len() > 1 << bits {
            return None;
        }
        let distinct = Distinct::of(table.iter().copied(), 256)?;
        if distinct.values().len() != table.len() {
            return None;
        }
        Some(match bits {
            1 => Chunk::Bits1(of(table, words)?),
            2 => Chunk::Bits2(of(table, words)?),
            4 => Chunk::Bits4(of(table, words)?),
            8 => Chunk::Bits8(of(table, words)?),
            _ => return None,
        })
    }

    /// A chunk of all its values.
    pub(crate) fn of_values(values: &[u32; CELLS]) -> Chunk {
        Chunk::Full(Arc::new(Full { values: *values, wear: Wear::NONE }))
    }
}
