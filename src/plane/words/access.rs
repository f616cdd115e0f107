//! Reading many cells at once: runs of a row, blocks of a chunk, rectangles.

use super::chunk::from_corner;
use super::{AbsentError, Chunk, Run, RunValues, Words};
use crate::units::{CellRect, ChunkPos, TractPos};

impl Words {
    /// Reads a rectangle as runs: row by row, each row from left to right without a gap.
    pub(crate) fn read_runs(
        &self,
        rect: CellRect,
        scratch: &mut Vec<u32>,
        mut visit: impl FnMut(Run<'_, u32>),
    ) {
        for row in rect.top()..rect.bottom() {
            let row = CellRect::within_limits(rect.left(), row, rect.right(), row + 1);
            self.read_blocks(row, scratch, &mut visit);
        }
    }

    /// Reads a rectangle chunk by chunk (row by row of chunks): for each the part that lies in the
    /// rectangle, as one run of several rows. A uniform chunk costs no look at its cells.
    pub(crate) fn read_blocks(
        &self,
        rect: CellRect,
        scratch: &mut Vec<u32>,
        mut visit: impl FnMut(Run<'_, u32>),
    ) {
        self.parts(rect, |cells, chunk| visit(run_of(cells, chunk, scratch)));
    }

    /// Reads all that there is, chunk by chunk (row by row of chunks): each chunk that may hold
    /// something else than the default value as one run of 64 rows.
    pub(crate) fn read_chunks(&self, scratch: &mut Vec<u32>, mut visit: impl FnMut(Run<'_, u32>)) {
        for pos in self.chunks_in_use() {
            visit(run_of(pos.cells(), &self.chunk(pos), scratch));
        }
    }

    /// Copies the values of a rectangle, row by row; `into` holds them and nothing else afterwards.
    /// The fastest way to read a window of a map.
    pub(crate) fn read_rect(&self, rect: CellRect, into: &mut [u32]) -> Result<(), AbsentError> {
        let width = rect.width() as usize;
        let mut absent = None;
        self.parts(rect, |cells, chunk| {
            let column = cells.left().abs_diff(rect.left()) as usize;
            let row = cells.top().abs_diff(rect.top()) as usize;
            let into = &mut into[row * width + column..];
            let (pos, empty) = (cells.corner().chunk(), Chunk::default());
            let held = match *chunk {
                Chunk::Absent(why) => {
                    absent = absent.or(Some(AbsentError { chunk: pos, why }));
                    &empty
                }
                _ => chunk,
            };
            held.copy_part(from_corner(cells, pos), into, width);
        });
        absent.map_or(Ok(()), Err)
    }

    /// The parts of a rectangle that lie in one chunk each, row by row of chunks, with what the
    /// chunk holds.
    pub(crate) fn parts(&self, rect: CellRect, mut visit: impl FnMut(CellRect, &Chunk)) {
        if rect.is_empty() {
            return;
        }
        let first = rect.corner().chunk();
        let last = rect.last_cell().chunk();
        let side = ChunkPos::SIDE as i32;
        for y in first.y()..=last.y() {
            let (top, bottom) = (rect.top().max(y * side), rect.bottom().min((y + 1) * side));
            let mut x = first.x();
            while x <= last.x() {
                // Neighbours lie in one tract, which need be found once.
                let at = ChunkPos::new(x, y).tract();
                let (leaf, hash) = self.root.leaf(at);
                let entry = leaf.first(at, hash);
                let end = ((at.x() + 1) * TractPos::SIDE as i32 - 1).min(last.x());
                for x in x..=end {
                    let (left, right) =
                        (rect.left().max(x * side), rect.right().min((x + 1) * side));
                    let cells = CellRect::within_limits(left, top, right, bottom);
                    visit(cells, &leaf.chunk(entry, ChunkPos::new(x, y), hash));
                }
                x = end + 1;
            }
        }
    }
}

/// What a part of a chunk holds.
#[inline]
fn run_of<'a>(cells: CellRect, chunk: &'a Chunk, scratch: &'a mut Vec<u32>) -> Run<'a, u32> {
    let values = match chunk {
        Chunk::Uniform(value) => RunValues::Uniform(*value),
        Chunk::Absent(why) => RunValues::Absent(*why),
        _ => RunValues::Slice(values_of(chunk, cells, scratch)),
    };
    Run { cells, values }
}

/// The values of a part of a chunk, row by row.
#[inline]
fn values_of<'a>(chunk: &'a Chunk, cells: CellRect, scratch: &'a mut Vec<u32>) -> &'a [u32] {
    let start = cells.corner().index_in_chunk();
    let whole_rows = cells.height() == 1 || cells.width() == ChunkPos::SIDE;
    let count = cells.cell_count() as usize;
    if whole_rows && let Some(values) = chunk.slice(start, count) {
        return values;
    }
    if scratch.len() < count {
        scratch.resize(count, 0);
    }
    let values = &mut scratch[..count];
    if whole_rows {
        chunk.copy_to(start, values);
    } else {
        let part = from_corner(cells, cells.corner().chunk());
        chunk.copy_part(part, values, cells.width() as usize);
    }
    values
}
