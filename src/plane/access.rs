//! Reading many cells at once: runs of a row, blocks of a chunk, rectangles.

use super::chunk::from_corner;
use super::{Absence, AbsentError, Chunk, Plane, Value};
use crate::units::{CellPos, CellRect, ChunkPos, RegionPos};

/// A rectangle of cells that was read in one go: a piece of a row from [`Plane::read_runs`], or
/// the part of one chunk from [`Plane::read_blocks`] or [`Plane::read_chunks`].
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
        self.parts(rect, |cells, chunk| visit(run_of(cells, chunk, scratch)));
    }

    /// Reads all that there is, chunk by chunk (row by row of chunks): each chunk that may hold
    /// something else than the default value as one run of 64 rows.
    ///
    /// ```
    /// use sturdy_quilt::{CellPos, Plane};
    ///
    /// let mut plane: Plane<u32> = Plane::new();
    /// plane.set(CellPos::new(-1, -1), 3)?;
    /// plane.set(CellPos::new(1_000_000, 7), 4)?;
    /// let mut sum = 0;
    /// plane.read_chunks(&mut Vec::new(), |run| sum += run.each().map(|(_, value)| value).sum::<u32>());
    /// assert_eq!(sum, 7);
    /// # Ok::<(), sturdy_quilt::AbsentError>(())
    /// ```
    pub fn read_chunks(&self, scratch: &mut Vec<V>, mut visit: impl FnMut(Run<'_, V>)) {
        for pos in self.chunks_in_use() {
            visit(run_of(pos.cells(), &self.chunk(pos), scratch));
        }
    }

    /// Copies the values of a rectangle, row by row; `into` holds them and nothing else
    /// afterwards. The fastest way to read a window of a map.
    ///
    /// # Errors
    /// When a chunk that it touches is not here: the first of them. The cells of such chunks are
    /// given as the default value, the others as they are.
    ///
    /// # Panics
    /// When the rectangle has more cells than there can be memory for, as vectors do.
    ///
    /// Costs a look at each chunk, and a copy of all cells. Asks for memory when `into` has less
    /// room than the rectangle has cells.
    ///
    /// ```
    /// use sturdy_quilt::{CellPos, CellRect, Plane};
    ///
    /// let mut plane: Plane<u32> = Plane::new();
    /// plane.fill(CellRect::new(CellPos::new(0, 0), 2, 2), 7)?;
    /// let mut window = Vec::new();
    /// plane.read_rect(CellRect::new(CellPos::new(-1, 0), 3, 2), &mut window)?;
    /// assert_eq!(window, [0, 7, 7, 0, 7, 7]);
    /// # Ok::<(), sturdy_quilt::AbsentError>(())
    /// ```
    pub fn read_rect(&self, rect: CellRect, into: &mut Vec<V>) -> Result<(), AbsentError> {
        let width = rect.width() as usize;
        into.resize(width * rect.height() as usize, V::default());
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
    pub(super) fn parts(&self, rect: CellRect, mut visit: impl FnMut(CellRect, &Chunk<V>)) {
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
                // Neighbours lie in one region, which need be found once.
                let at = ChunkPos::new(x, y).region();
                let (leaf, hash) = self.root.leaf(at);
                let entry = leaf.first(at, hash);
                let end = ((at.x() + 1) * RegionPos::SIDE as i32 - 1).min(last.x());
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
fn run_of<'a, V: Value>(
    cells: CellRect,
    chunk: &'a Chunk<V>,
    scratch: &'a mut Vec<V>,
) -> Run<'a, V> {
    let values = match chunk {
        Chunk::Uniform(value) => RunValues::Uniform(*value),
        Chunk::Absent(why) => RunValues::Absent(*why),
        _ => RunValues::Slice(values_of(chunk, cells, scratch)),
    };
    Run { cells, values }
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
    if scratch.len() < count {
        scratch.resize(count, V::default());
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
