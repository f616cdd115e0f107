//! Reading many cells at once: runs of a row, blocks of a chunk, and the cursor.

use super::chunk::Chunk;
use super::{Absence, Plane, Presence, Value};
use crate::units::{CellPos, CellRect, ChunkPos};

/// A rectangle of cells that was read in one go: a piece of a row from [`Plane::read_runs`], or
/// the part of one chunk from [`Plane::read_blocks`].
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Run<'a, V> {
    /// Which cells.
    pub cells: CellRect,
    /// What they hold.
    pub values: RunValues<'a, V>,
}

/// The values of a [`Run`].
#[derive(Clone, Copy, Debug, PartialEq)]
pub enum RunValues<'a, V> {
    /// The same value in all cells.
    Uniform(V),
    /// A value for each cell, row by row.
    Slice(&'a [V]),
    /// The chunk is not here, or damaged.
    Absent(Absence),
}

impl<V: Value> Run<'_, V> {
    /// Each cell with its value, row by row; none where the chunk is not here.
    pub fn each(&self) -> impl Iterator<Item = (CellPos, V)> + '_ {
        let values = self.values;
        self.cells.cells().enumerate().filter_map(move |(index, cell)| match values {
            RunValues::Uniform(value) => Some((cell, value)),
            RunValues::Slice(values) => values.get(index).map(|&value| (cell, value)),
            RunValues::Absent(_) => None,
        })
    }
}

impl<V: Value> Plane<V> {
    /// Reads a rectangle as runs: row by row, each row from left to right without a gap.
    ///
    /// A run is uniform, or a slice of values; it may end before its values change, most often at
    /// the edge of a chunk. Slices that do not lie in memory as such are unpacked into `scratch`,
    /// whose capacity is kept for the next call.
    ///
    /// Costs a look at each chunk a row, and at the cells of those that are not uniform.
    ///
    /// ```
    /// use sturdy_quilt::{CellPos, CellRect, Plane, RunValues};
    ///
    /// let mut plane: Plane<u32> = Plane::new();
    /// plane.fill(CellRect::new(CellPos::new(0, 0), 64, 64), 7)?;
    /// let row = CellRect::new(CellPos::new(-10, 5), 20, 1);
    /// let mut found = Vec::new();
    /// plane.read_runs(row, &mut Vec::new(), |run| {
    ///     if let RunValues::Uniform(value) = run.values {
    ///         found.push((run.cells.left(), run.cells.width(), value));
    ///     }
    /// });
    /// assert_eq!(found, [(-10, 10, 0), (0, 10, 7)]);
    /// # Ok::<(), sturdy_quilt::AbsentError>(())
    /// ```
    pub fn read_runs(
        &self,
        rect: CellRect,
        scratch: &mut Vec<V>,
        mut visit: impl FnMut(Run<'_, V>),
    ) {
        for row in rect.top()..rect.bottom() {
            let row = CellRect::within_limits(rect.left(), row, rect.right(), row + 1);
            self.read_blocks(row, scratch, &mut visit);
        }
    }

    /// Reads a rectangle chunk by chunk (row by row of chunks): for each the part that lies in the
    /// rectangle, as one run of several rows. A uniform chunk costs no look at its cells.
    ///
    /// Values that do not lie in memory as such are unpacked into `scratch`, whose capacity is
    /// kept for the next call.
    pub fn read_blocks(
        &self,
        rect: CellRect,
        scratch: &mut Vec<V>,
        mut visit: impl FnMut(Run<'_, V>),
    ) {
        self.parts(rect, |cells, chunk| {
            let values = match chunk {
                Chunk::Uniform(value) => RunValues::Uniform(*value),
                Chunk::Absent(why) => RunValues::Absent(*why),
                _ => RunValues::Slice(values_of(chunk, cells, scratch)),
            };
            visit(Run { cells, values });
        });
    }
}

/// The values of a part of a chunk, row by row.
fn values_of<'a, V: Value>(
    chunk: &'a Chunk<V>,
    cells: CellRect,
    scratch: &'a mut Vec<V>,
) -> &'a [V] {
    let start = cells.corner().index_in_chunk();
    let whole_rows = cells.height() == 1 || cells.width() == ChunkPos::SIDE;
    let count = cells.cell_count() as usize;
    if whole_rows && let Some(values) = chunk.slice(start, count) {
        return values;
    }
    scratch.clear();
    if whole_rows {
        chunk.copy_to(start, count, scratch);
    } else {
        for row in cells.top()..cells.bottom() {
            let start = CellPos::new(cells.left(), row).index_in_chunk();
            chunk.copy_to(start, cells.width() as usize, scratch);
        }
    }
    scratch
}

/// A reader that remembers the chunk it read last. Made by [`Plane::cursor`].
///
/// Faster than [`Plane::get`] for walks from neighbour to neighbour, slower for places at random.
#[derive(Clone, Debug)]
pub struct Cursor<'a, V: Value> {
    plane: &'a Plane<V>,
    pos: ChunkPos,
    chunk: &'a Chunk<V>,
}

impl<'a, V: Value> Cursor<'a, V> {
    pub(super) fn new(plane: &'a Plane<V>) -> Cursor<'a, V> {
        let pos = ChunkPos::default();
        Cursor { plane, pos, chunk: plane.chunk(pos) }
    }

    /// The value of a cell.
    #[inline]
    pub fn get(&mut self, cell: CellPos) -> Presence<V> {
        let pos = cell.chunk();
        if pos != self.pos {
            self.go_to(pos);
        }
        self.chunk.get(cell.index_in_chunk())
    }

    #[cold]
    fn go_to(&mut self, pos: ChunkPos) {
        self.pos = pos;
        self.chunk = self.plane.chunk(pos);
    }
}
