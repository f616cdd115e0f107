//! The cells that stop a kind of body: a bit a cell, by chunk, and a bit a chunk, by block of chunks.
//!
//! Bits lie row by row, a word for each row of 64, so that the cells which a body or a ray covers
//! of a row are looked at in one go. Blocks of 64 × 64 chunks hold a bit for each chunk in which
//! anything stops, so that the same is done for chunks, and empty space is passed over.

use rustc_hash::FxHashMap;
use triomphe::Arc;

use super::chunk::ClassChunk;
use super::codes::{Codes, UNSTATED, is_class};
use super::parts::{CellParts, PartsTable};
use crate::units::{CellRect, ChunkPos};

/// 64 × 64 bits, row by row; the lowest bit is the leftmost.
pub(crate) type Bits = [u64; SIDE];

pub(crate) const SIDE: usize = ChunkPos::SIDE as usize;

/// Which cells a grid is of, by whether the parts of a cell are taken alike.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub(crate) enum Filling {
    #[default]
    Any,
    /// Those whose parts are all taken alike, by movers of a pattern.
    Whole(usize),
    /// Those whose parts are not.
    Part(usize),
}

/// What stops a kind of body. Several movers may be alike in it.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub(crate) struct Stops {
    /// A bit for each class.
    pub(crate) classes: u64,
    /// Whether cells do whose ground nothing states.
    pub(crate) empty: bool,
    /// Whether cells do that are not loaded.
    pub(crate) unloaded: bool,
    pub(crate) filling: Filling,
}

impl Stops {
    fn at(self, code: u8) -> bool {
        if is_class(code) {
            self.classes >> code & 1 == 1
        } else if code == UNSTATED {
            self.empty
        } else {
            self.unloaded
        }
    }

    fn at_cell(self, ground: &ClassChunk, table: &PartsTable, index: u16) -> bool {
        let index = usize::from(index);
        match table.get(ground.parts_at(index)) {
            Some(parts) => self.at_parts(parts),
            None => self.at_whole(ground.codes.at(index)),
        }
    }

    /// Whether a cell does that has no parts.
    fn at_whole(self, code: u8) -> bool {
        !matches!(self.filling, Filling::Part(_)) && self.at(code)
    }

    /// Whether a cell does that has parts.
    fn at_parts(self, parts: &CellParts) -> bool {
        let is_parted = |pattern| parts.solids(pattern).is_some();
        let is_wanted = match self.filling {
            Filling::Any => true,
            Filling::Whole(pattern) => !is_parted(pattern),
            Filling::Part(pattern) => is_parted(pattern),
        };
        is_wanted && parts.parts.iter().any(|part| self.at(part.code))
    }

    /// Whether cells do of which nothing is known, and so all where nothing is kept.
    #[inline]
    fn at_unknown(self) -> bool {
        self.empty && !matches!(self.filling, Filling::Part(_))
    }
}

/// The cells that stop a kind of body.
#[derive(Clone, Debug)]
pub(crate) struct StopGrid {
    pub(crate) stops: Stops,
    chunks: FxHashMap<u64, StopChunk>,
    /// By block: the chunks in which any cell stops. None are kept where empty cells stop, since
    /// then nearly all would.
    blocks: FxHashMap<(i32, i32), Box<Bits>>,
}

/// The cells of a chunk that stop.
#[derive(Clone, Debug, PartialEq)]
pub(crate) enum StopChunk {
    /// None; kept only where a chunk without ground stops.
    Free,
    All,
    Some(Arc<Bits>),
}

/// The cells of a chunk that stop, to look at.
#[derive(Clone, Copy, Debug)]
pub(crate) enum Stopping<'a> {
    None,
    All,
    Some(&'a Bits),
}

impl StopChunk {
    fn of(bits: Bits) -> StopChunk {
        if bits.iter().all(|row| *row == 0) {
            StopChunk::Free
        } else if bits.iter().all(|row| *row == u64::MAX) {
            StopChunk::All
        } else {
            StopChunk::Some(Arc::new(bits))
        }
    }
}

impl Stopping<'_> {
    /// The bits of a row, by any number of it.
    #[inline]
    pub(crate) fn row(&self, row: i64) -> u64 {
        match self {
            Stopping::None => 0,
            Stopping::All => u64::MAX,
            Stopping::Some(bits) => bits[(row & 63) as usize],
        }
    }
}

// Make and change.
impl StopGrid {
    pub(crate) fn new(stops: Stops) -> StopGrid {
        StopGrid { stops, chunks: FxHashMap::default(), blocks: FxHashMap::default() }
    }

    /// Takes the ground of a chunk.
    pub(super) fn put(&mut self, pos: ChunkPos, ground: &ClassChunk, table: &PartsTable) {
        let mut chunk = match &ground.codes {
            Codes::Uniform(code) if self.stops.at_whole(*code) => StopChunk::All,
            Codes::Uniform(_) => StopChunk::Free,
            Codes::Each(codes) => StopChunk::of(self.bits_of(&**codes)),
        };
        if let Some(numbers) = &ground.parts {
            let mut bits = match chunk {
                StopChunk::Free => [0; SIDE],
                StopChunk::All => [u64::MAX; SIDE],
                StopChunk::Some(bits) => *bits,
            };
            for (index, number) in numbers.iter().enumerate() {
                let Some(parts) = table.get(*number) else { continue };
                let (row, column) = (index / SIDE, index % SIDE);
                let stops = u64::from(self.stops.at_parts(parts));
                bits[row] = bits[row] & !(1 << column) | stops << column;
            }
            chunk = StopChunk::of(bits);
        }
        self.set(pos, chunk);
    }

    fn bits_of(&self, codes: &[u8]) -> Bits {
        let stops: [u8; 256] = std::array::from_fn(|code| self.stops.at_whole(code as u8).into());
        let mut bits = [0; SIDE];
        for (row, codes) in bits.iter_mut().zip(codes.chunks_exact(SIDE)) {
            for (byte, codes) in codes.chunks_exact(8).enumerate() {
                let byte_of = |bits: u64, (at, code): (usize, &u8)| {
                    bits | u64::from(stops[usize::from(*code)]) << at
                };
                *row |= codes.iter().enumerate().fold(0, byte_of) << (8 * byte);
            }
        }
        bits
    }

    /// Takes a few cells of a chunk; `ground` is all of it, as it is now.
    pub(super) fn put_cells(
        &mut self,
        pos: ChunkPos,
        changed: &[u16],
        ground: &ClassChunk,
        table: &PartsTable,
    ) {
        let is_mixed = matches!(ground.codes, Codes::Each(_)) || ground.parts.is_some();
        let Some(StopChunk::Some(bits)) = self.chunks.get_mut(&key(pos)).filter(|_| is_mixed)
        else {
            return self.put(pos, ground, table);
        };
        let stops = self.stops;
        let is_other = |index: &u16| {
            let (row, column) = place(*index);
            (bits[row] >> column & 1 == 1) != stops.at_cell(ground, table, *index)
        };
        if !changed.iter().any(is_other) {
            return;
        }
        let rows = Arc::make_mut(bits);
        let (mut left, mut gained) = (false, false);
        for index in changed {
            let (row, column) = place(*index);
            let stops = stops.at_cell(ground, table, *index);
            rows[row] = rows[row] & !(1 << column) | u64::from(stops) << column;
            left |= rows[row] == 0;
            gained |= rows[row] == u64::MAX;
        }
        // Emptied chunks are given back, and so are filled ones: else skipping dies.
        if left && rows.iter().all(|row| *row == 0) {
            self.set(pos, StopChunk::Free);
        } else if gained && rows.iter().all(|row| *row == u64::MAX) {
            self.set(pos, StopChunk::All);
        }
    }

    fn set(&mut self, pos: ChunkPos, chunk: StopChunk) {
        let is_free = matches!(chunk, StopChunk::Free);
        let as_if_missing = match chunk {
            StopChunk::Free => !self.stops.at_unknown(),
            StopChunk::All => self.stops.at_unknown(),
            StopChunk::Some(_) => false,
        };
        if as_if_missing {
            self.chunks.remove(&key(pos));
        } else {
            self.chunks.insert(key(pos), chunk);
        }
        if !self.stops.at_unknown() {
            self.set_in_block(pos, !is_free);
        }
    }

    fn set_in_block(&mut self, pos: ChunkPos, stops: bool) {
        let (block, row, column) = place_in_block(pos.x().into(), pos.y().into());
        if stops {
            let bits = self.blocks.entry(block).or_insert_with(|| Box::new([0; SIDE]));
            bits[row] |= 1 << column;
        } else if let Some(bits) = self.blocks.get_mut(&block) {
            bits[row] &= !(1 << column);
            if bits.iter().all(|row| *row == 0) {
                self.blocks.remove(&block);
            }
        }
    }
}

// Read.
impl StopGrid {
    #[inline]
    pub(crate) fn chunk(&self, pos: ChunkPos) -> Stopping<'_> {
        match self.chunks.get(&key(pos)) {
            Some(StopChunk::Some(bits)) => Stopping::Some(bits),
            Some(StopChunk::All) => Stopping::All,
            Some(StopChunk::Free) => Stopping::None,
            None if self.stops.at_unknown() => Stopping::All,
            None => Stopping::None,
        }
    }

    /// The same, to keep.
    pub(crate) fn kept_chunk(&self, pos: ChunkPos) -> StopChunk {
        let missing = if self.stops.at_unknown() { StopChunk::All } else { StopChunk::Free };
        self.chunks.get(&key(pos)).cloned().unwrap_or(missing)
    }

    /// The chunks in which anything stops, in no order; of some cells alone where nearly all do.
    pub(crate) fn stopping_chunks(&self, cells: CellRect) -> Vec<ChunkPos> {
        if self.stops.at_unknown() {
            return cells.chunks().filter(|pos| self.kept_chunk(*pos) != StopChunk::Free).collect();
        }
        let pos =
            |key: &u64| ChunkPos::within_limits(*key as u32 as i32, (*key >> 32) as u32 as i32);
        let is_in = |pos: &ChunkPos| !pos.cells().intersection(cells).is_empty();
        self.chunks.keys().map(pos).filter(is_in).collect()
    }

    /// Whether nothing stops anywhere.
    pub(crate) fn is_free(&self) -> bool {
        self.chunks.is_empty() && !self.stops.at_unknown()
    }

    /// In which chunks of a row of a block, by its column and the row of chunks, any cell stops.
    #[inline]
    pub(crate) fn chunks_in_block(&self, block_column: i64, chunk_row: i64) -> u64 {
        let bits = self.block((block_column, chunk_row >> 6));
        bits.map_or(0, |bits| bits[(chunk_row & 63) as usize])
    }

    /// In which chunks of a block any cell stops; `None` where in none does.
    #[inline]
    pub(crate) fn block(&self, (column, row): (i64, i64)) -> Option<&Bits> {
        if self.stops.at_unknown() {
            return Some(&[u64::MAX; SIDE]);
        }
        self.blocks.get(&(column as i32, row as i32)).map(|bits| &**bits)
    }

    /// How many bytes it takes.
    pub(crate) fn bytes(&self) -> usize {
        let mixed = self.chunks.values().filter(|chunk| matches!(chunk, StopChunk::Some(_)));
        (mixed.count() + self.blocks.len()) * size_of::<Bits>()
            + self.chunks.capacity() * size_of::<(u64, StopChunk)>()
            + self.blocks.capacity() * size_of::<((i32, i32), Box<Bits>)>()
    }
}

/// A chunk as one number, whose hash takes one product.
#[inline]
const fn key(pos: ChunkPos) -> u64 {
    (pos.y() as u32 as u64) << 32 | pos.x() as u32 as u64
}

/// The block of a chunk, and its row and column there.
fn place_in_block(x: i64, y: i64) -> ((i32, i32), usize, usize) {
    (((x >> 6) as i32, (y >> 6) as i32), (y & 63) as usize, (x & 63) as usize)
}

/// The row and column of a cell in its chunk.
const fn place(index: u16) -> (usize, usize) {
    (index as usize / SIDE, index as usize % SIDE)
}

/// The bits from one column to another, both within.
#[inline]
pub(crate) const fn span(first: u32, last: u32) -> u64 {
    u64::MAX >> (63 - last) & u64::MAX << first
}
