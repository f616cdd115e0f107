//! The pictures of the cells of a chunk, found once and kept as long as the chunk's list.

use rustc_hash::FxHashMap;

use crate::plane::Stamp;

/// The cells of a chunk with the numbers of their swatches.
#[derive(Clone, Debug, Default)]
pub(super) struct Resolved {
    /// Row by row.
    cells: Vec<ResolvedCell>,
    /// Where the cells of each row begin, and where the last end.
    rows: Vec<u32>,
    /// Cell by cell, each from the lowest.
    numbers: Vec<u32>,
    used: u64,
}

/// One cell with something to paint.
#[derive(Clone, Copy, Debug)]
pub(super) struct ResolvedCell {
    /// The column in the chunk.
    pub(super) column: u8,
    /// Whether its lowest picture is solid, and all have the size of a cell: then they can be put
    /// together before they are scaled.
    pub(super) is_whole: bool,
    /// How many pictures it has.
    count: u16,
    /// The place of the first number.
    first: u32,
}

/// The chunks that were painted last.
#[derive(Clone, Debug, Default)]
pub(super) struct ResolvedChunks {
    known: FxHashMap<(Stamp, (u16, u16)), Resolved>,
    uses: u64,
    /// Memory to work with.
    free: Resolved,
}

impl Resolved {
    /// Adds a cell of a row that is not above the last one.
    pub(super) fn add(&mut self, row: usize, column: u8, is_whole: bool, numbers: &[u32]) {
        let before = self.cells.len() as u32;
        self.rows.resize((row + 1).max(self.rows.len()), before);
        let (count, first) = (numbers.len() as u16, self.numbers.len() as u32);
        self.cells.push(ResolvedCell { column, is_whole, count, first });
        self.numbers.extend_from_slice(numbers);
    }

    /// The cells of a row.
    pub(super) fn row(&self, row: usize) -> &[ResolvedCell] {
        let end = self.cells.len() as u32;
        let start = |row: usize| self.rows.get(row).copied().unwrap_or(end) as usize;
        &self.cells[start(row)..start(row + 1)]
    }

    /// The swatches of a cell, from the lowest.
    #[inline(always)]
    pub(super) fn numbers(&self, cell: &ResolvedCell) -> &[u32] {
        &self.numbers[cell.first as usize..][..usize::from(cell.count)]
    }
}

impl ResolvedChunks {
    /// Begins a picture; unless the numbers of swatches still hold, all is forgotten.
    pub(super) fn begin(&mut self, holds: bool) {
        self.uses += 1;
        if !holds {
            self.known.clear();
        }
    }

    /// Forgets what the last picture did not use, or everything. Of what the part of a picture did
    /// not use, only what is much.
    pub(super) fn end(&mut self, keeps: bool, is_whole: bool) {
        const MUCH: usize = 128;
        if !keeps {
            self.known.clear();
        } else if is_whole || self.known.len() > MUCH {
            self.known.retain(|_, resolved| resolved.used == self.uses);
        }
    }

    /// Memory for cells that need not be kept.
    pub(super) fn memory(&mut self) -> Resolved {
        std::mem::take(&mut self.free)
    }

    /// Takes back memory that is not needed any more.
    pub(super) fn give_back(&mut self, mut resolved: Resolved) {
        resolved.cells.clear();
        resolved.rows.clear();
        resolved.numbers.clear();
        self.free = resolved;
    }

    /// Takes out what is known of a chunk's list.
    pub(super) fn take(&mut self, built: Stamp, levels: (u16, u16)) -> Option<Resolved> {
        self.known.remove(&(built, levels))
    }

    /// Puts it back, or in for the first time.
    pub(super) fn put(&mut self, built: Stamp, levels: (u16, u16), mut resolved: Resolved) {
        resolved.used = self.uses;
        self.known.insert((built, levels), resolved);
    }
}
