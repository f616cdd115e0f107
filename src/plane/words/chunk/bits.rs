//! Cells of a chunk as a bit each: which hold something, and writing to those.

use triomphe::Arc;

use super::packed::Packed;
use super::write::Write;
use super::{CELLS, Chunk, SIDE, by_form};
use crate::units::CellRect;

/// A bit for each cell of a chunk: a word for each row, the first column in its lowest bit.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(crate) struct ChunkBits(pub(crate) [u64; SIDE]);

impl ChunkBits {
    pub(crate) const NONE: ChunkBits = ChunkBits([0; SIDE]);
    pub(crate) const ALL: ChunkBits = ChunkBits([u64::MAX; SIDE]);

    /// The cells of a part of a chunk, whose columns and rows count from the chunk's corner.
    pub(crate) fn of_part(part: CellRect) -> ChunkBits {
        let mut bits = ChunkBits::NONE;
        if !part.is_empty() {
            let row = (u64::MAX >> (SIDE as u32 - part.width())) << part.left();
            bits.0[part.top() as usize..part.bottom() as usize].fill(row);
        }
        bits
    }

    #[inline]
    pub(crate) fn insert(&mut self, index: usize) {
        self.0[index / SIDE] |= 1 << (index % SIDE);
    }

    pub(crate) fn is_none(&self) -> bool {
        self.0.iter().fold(0, |all, row| all | row) == 0
    }

    pub(crate) fn is_all(&self) -> bool {
        self.0.iter().fold(u64::MAX, |all, row| all & row) == u64::MAX
    }

    pub(crate) fn count(&self) -> u32 {
        // Most rows of a thin line are empty, and counting ones takes a dozen steps.
        self.0.iter().filter(|row| **row != 0).map(|row| row.count_ones()).sum()
    }

    /// How many rows have cells.
    pub(super) fn used_rows(&self) -> usize {
        self.0.iter().map(|row| usize::from(*row != 0)).sum()
    }

    /// Combines the rows of two, row by row.
    pub(crate) fn zip(&self, other: &ChunkBits, combine: impl Fn(u64, u64) -> u64) -> ChunkBits {
        ChunkBits(std::array::from_fn(|row| combine(self.0[row], other.0[row])))
    }

    /// The cells by their index, row by row.
    pub(crate) fn indexes(&self) -> impl Iterator<Item = usize> + '_ {
        self.0
            .iter()
            .enumerate()
            .flat_map(|(row, &bits)| ones(bits).map(move |column| row * SIDE + column))
    }

    /// Visits the cells that lie side by side in a row: the row, the first column and their count.
    pub(crate) fn each_run(&self, mut visit: impl FnMut(usize, usize, usize)) {
        for (row, bits) in self.0.iter().enumerate() {
            each_run(*bits, |column, count| visit(row, column, count));
        }
    }
}

/// The places of the ones of a word, from the lowest.
fn ones(mut bits: u64) -> impl Iterator<Item = usize> {
    std::iter::from_fn(move || {
        let at = bits.trailing_zeros() as usize;
        bits &= bits.wrapping_sub(1);
        (at < 64).then_some(at)
    })
}

/// Visits the ones of a word, from the lowest.
#[inline]
pub(super) fn each_one(mut bits: u64, mut visit: impl FnMut(usize)) {
    while bits != 0 {
        visit(bits.trailing_zeros() as usize);
        bits &= bits - 1;
    }
}

/// Visits the ones of a word that lie side by side: the first, and their count.
#[inline]
pub(super) fn each_run(mut bits: u64, mut visit: impl FnMut(usize, usize)) {
    while bits != 0 {
        let first = bits.trailing_zeros();
        let count = (bits >> first).trailing_ones();
        visit(first as usize, count as usize);
        // Adding to the lowest one carries through its run.
        bits &= bits.wrapping_add(1 << first);
    }
}

impl Chunk {
    /// A chunk that holds 1 in some cells and 0 in the others.
    pub(crate) fn of_bits(bits: &ChunkBits) -> Chunk {
        if bits.is_all() {
            Chunk::Uniform(1)
        } else {
            Chunk::Bits1(Arc::new(Packed::of_bits(bits)))
        }
    }

    /// The cells whose value fulfils a condition, which is asked once for each value of a table. None
    /// of a chunk that is not here.
    pub(crate) fn bits_where(&self, wanted: impl Fn(u32) -> bool) -> ChunkBits {
        by_form!(self;
            Uniform(value) => if wanted(*value) { ChunkBits::ALL } else { ChunkBits::NONE },
            Packed(packed) => packed.bits_where(wanted),
            Full(full) => {
                let mut bits = ChunkBits::NONE;
                for (bits, values) in bits.0.iter_mut().zip(full.values.chunks_exact(SIDE)) {
                    let each = values.iter().enumerate();
                    *bits = each.fold(0, |bits, (at, v)| bits | u64::from(wanted(*v)) << at);
                }
                bits
            },
            Absent(_) => ChunkBits::NONE,
        )
    }

    /// The cells in which another chunk holds something else; all where only one of the two is here.
    pub(crate) fn differing(&self, other: &Chunk) -> ChunkBits {
        let is_absent = |chunk: &Chunk| matches!(chunk, Chunk::Absent(_));
        match (self, other) {
            (own, others) if is_absent(own) || is_absent(others) => {
                if own.same(others) {
                    ChunkBits::NONE
                } else {
                    ChunkBits::ALL
                }
            }
            (Chunk::Uniform(value), mixed) | (mixed, Chunk::Uniform(value)) => {
                mixed.bits_where(|held| held != *value)
            }
            _ => {
                let (mut own, mut others) = ([0; SIDE], [0; SIDE]);
                ChunkBits(std::array::from_fn(|row| {
                    self.copy_to(row * SIDE, &mut own);
                    other.copy_to(row * SIDE, &mut others);
                    let pairs = own.iter().zip(&others).enumerate();
                    pairs.fold(0, |bits, (at, (a, b))| bits | u64::from(a != b) << at)
                }))
            }
        }
    }

    /// Those of some cells that do not hold a value. Adds their places and what they hold.
    pub(crate) fn others(
        &self,
        bits: &ChunkBits,
        value: u32,
        indexes: &mut Vec<u16>,
        values: &mut Vec<u32>,
    ) -> ChunkBits {
        #[inline]
        fn each(
            bits: &ChunkBits,
            value: u32,
            (indexes, values): (&mut Vec<u16>, &mut Vec<u32>),
            get: impl Fn(usize) -> u32,
        ) -> ChunkBits {
            let mut others = ChunkBits::NONE;
            for (row, bits) in bits.0.iter().enumerate().filter(|(_, bits)| **bits != 0) {
                each_one(*bits, |column| {
                    let index = row * SIDE + column;
                    let held = get(index);
                    if held != value {
                        indexes.push(index as u16);
                        values.push(held);
                        others.0[row] |= 1 << column;
                    }
                });
            }
            others
        }
        by_form!(self;
            Uniform(held) => each(bits, value, (indexes, values), |_| *held),
            Packed(packed) => each(bits, value, (indexes, values), |at| packed.get(at)),
            Full(full) => each(bits, value, (indexes, values), |at| full.values[at]),
            Absent(_) => ChunkBits::NONE,
        )
    }

    /// Gives some cells a value.
    pub(crate) fn fill_bits(&mut self, bits: &ChunkBits, value: u32) {
        if bits.is_all() {
            *self = Chunk::Uniform(value);
        } else {
            self.apply(&Write::Bits(bits, value));
        }
    }
}

impl<const WORDS: usize, const VALUES: usize> Packed<WORDS, VALUES> {
    fn bits_where(&self, wanted: impl Fn(u32) -> bool) -> ChunkBits {
        let mut is_wanted = [false; VALUES];
        for (wanted_here, value) in is_wanted.iter_mut().zip(self.values()) {
            *wanted_here = wanted(*value);
        }
        let mut bits = ChunkBits::NONE;
        let rows = bits.0.iter_mut().zip(self.words().chunks_exact(WORDS / SIDE));
        match &is_wanted[..] {
            [false, false] => {}
            // One bit a cell is what is asked for already.
            [first, second] => {
                let (first, second) = (mask(*first), mask(*second));
                rows.for_each(|(bits, words)| *bits = words[0] & second | !words[0] & first);
            }
            _ => rows.for_each(|(bits, words)| {
                for (number, word) in words.iter().enumerate() {
                    let each = (0..Self::IN_WORD).map(|at| {
                        let place = (word >> (at * Self::BITS)) as usize % VALUES;
                        u64::from(is_wanted[place]) << at
                    });
                    *bits |= each.fold(0, |bits, bit| bits | bit) << (number * Self::IN_WORD);
                }
            }),
        }
        bits
    }
}

/// All bits, or none.
const fn mask(all: bool) -> u64 {
    if all { u64::MAX } else { 0 }
}

const _: () = assert!(CELLS == SIDE * 64);
