//! The cells that stop a mover: within the map by its stop grid, beyond it as the mover says.

use super::axis_motion::AxisMotion;
use crate::ground::state::{
    Beyond, Bits, GroundMap, MoverTable, SIDE, StopGrid, StopGridPlaces, Stopping, span, wrapped,
};
use crate::quilt::MoverId;
use crate::units::{CellPos, CellRect, ChunkPos, Side};

/// The first and the last column, and row, of some cells.
pub(crate) fn lines_of(cells: CellRect) -> ((i64, i64), (i64, i64)) {
    let (right, bottom) = (i64::from(cells.right()) - 1, i64::from(cells.bottom()) - 1);
    ((cells.left().into(), right), (cells.top().into(), bottom))
}

/// Which cells stop a mover, with the chunk that was looked at last. Columns and rows may lie
/// beyond all cells.
#[derive(Clone, Copy)]
pub(crate) struct Solid<'a> {
    /// None for a handle of another map, which can enter nothing.
    grid: Option<&'a StopGrid>,
    bounds: CellSpan,
    outside: Beyond,
    cells: CellRect,
    looked_at: Option<((i64, i64), Stopping<'a>)>,
}

impl GroundMap {
    /// Returns whether a mover cannot be in a cell, or in a part of it.
    #[inline]
    pub fn blocked(&self, mover: MoverId, cell: CellPos) -> bool {
        Solid::new(self, mover).blocks(cell.x().into(), cell.y().into())
    }
}

impl<'a> Solid<'a> {
    /// The cells that a mover cannot be in.
    #[inline]
    pub(crate) fn new(ground: &'a GroundMap, mover: MoverId) -> Solid<'a> {
        Solid::at(ground, mover, |grids| grids.within)
    }

    /// Of those, the ones that are solid as a whole.
    #[inline]
    pub(super) fn whole(ground: &'a GroundMap, mover: MoverId) -> Solid<'a> {
        Solid::at(ground, mover, |grids| grids.whole)
    }

    /// The cells that a mover cannot come into by one side or another.
    pub(super) fn by_any_side(ground: &'a GroundMap, mover: MoverId) -> Solid<'a> {
        Solid::at(ground, mover, |grids| grids.by_any)
    }

    /// Of those, the ones of which a part is solid; `None` in maps where all cells are whole. What
    /// lies beyond the bounds is whole.
    #[inline]
    pub(super) fn parts(ground: &'a GroundMap, mover: MoverId) -> Option<Solid<'a>> {
        let table = ground.table(mover)?;
        let solid = Solid::of(ground, Some(table), Some(ground.grid(table.grids.parts?)?));
        let outside = if solid.wraps() { Beyond::Map } else { Beyond::Free };
        Some(Solid { outside, ..solid })
    }

    /// The cells that a mover cannot come into sideways on a way, and those down or up, where that
    /// is something else than where it cannot be.
    #[inline]
    pub(super) fn on_way(
        ground: &'a GroundMap,
        mover: MoverId,
        (x, y): (&AxisMotion, &AxisMotion),
    ) -> Option<[Solid<'a>; 2]> {
        let table = ground.table(mover).filter(|table| table.is_one_way)?;
        let sides = [x.side_met(true), y.side_met(false)];
        let by_side = |side: Side| ground.grid(table.grids.by_side[side as usize]);
        Some(sides.map(|side| Solid::of(ground, Some(table), by_side(side))))
    }

    #[inline]
    fn at(
        ground: &'a GroundMap,
        mover: MoverId,
        place: impl Fn(&StopGridPlaces) -> usize,
    ) -> Solid<'a> {
        let table = ground.table(mover);
        Solid::of(ground, table, table.and_then(|table| ground.grid(place(&table.grids))))
    }

    #[inline]
    fn of(
        ground: &'a GroundMap,
        table: Option<&MoverTable>,
        grid: Option<&'a StopGrid>,
    ) -> Solid<'a> {
        let cells = ground.bounds();
        Solid {
            grid,
            bounds: CellSpan {
                left: cells.left().into(),
                top: cells.top().into(),
                right: cells.right().into(),
                bottom: cells.bottom().into(),
            },
            outside: match table.map_or(Beyond::Stops, |table| table.beyond) {
                Beyond::Map if cells.is_empty() => Beyond::Stops,
                // Repeated, nothing is still nothing.
                Beyond::Map if grid.is_some_and(StopGrid::is_free) => Beyond::Free,
                beyond => beyond,
            },
            cells,
            looked_at: None,
        }
    }

    /// Whether the map goes on from its other side.
    #[inline]
    pub(super) fn wraps(&self) -> bool {
        self.outside == Beyond::Map
    }

    /// All cells that may stop, where what lies beyond them does not.
    pub(super) fn cells_that_may_block(&self) -> Option<CellRect> {
        (self.outside == Beyond::Free).then_some(self.cells)
    }

    /// The last of some rows that need be looked at for what does not change its columns: where
    /// the map repeats itself, it does so after its height.
    pub(super) fn before_repeating(&self, first: i64, last: i64) -> i64 {
        let height = self.bounds.bottom - self.bounds.top;
        if self.wraps() { last.min(first + height - 1) } else { last }
    }

    /// Of some rows, as their axis_motion counts them, the first and the last in which anything can stop.
    #[inline]
    pub(super) fn rows_between(&self, axis_motion: &AxisMotion, rows: (i64, i64)) -> (i64, i64) {
        self.lines_between(axis_motion, rows, (self.bounds.top, self.bounds.bottom - 1))
    }

    /// The same of some columns.
    pub(super) fn columns_between(
        &self,
        axis_motion: &AxisMotion,
        columns: (i64, i64),
    ) -> (i64, i64) {
        self.lines_between(axis_motion, columns, (self.bounds.left, self.bounds.right - 1))
    }

    #[inline]
    fn lines_between(
        &self,
        axis_motion: &AxisMotion,
        (first, last): (i64, i64),
        bounds: (i64, i64),
    ) -> (i64, i64) {
        let (low, high) = match self.outside {
            Beyond::Free => bounds,
            Beyond::Stops => return (first, last),
            // The map repeats itself up to the last cell that there is.
            Beyond::Map => (CellPos::MIN.into(), CellPos::MAX.into()),
        };
        let (a, b) = (axis_motion.real(low), axis_motion.real(high));
        (first.max(a.min(b)), last.min(a.max(b)))
    }

    /// The chunk in which a whole way lies, where there is one and it lies within the bounds, and
    /// the columns of it that the way covers.
    #[inline]
    pub(super) fn chunk_around(
        &mut self,
        x: &AxisMotion,
        y: &AxisMotion,
    ) -> Option<(Stopping<'a>, u64)> {
        let (left, right) = (x.real(x.first()), x.real(x.end()));
        let rows = (y.real(y.first()), y.real(y.end()));
        self.chunk_of_all((left.min(right), left.max(right)), rows)
    }

    /// Whether any cell stops of those from a first to a last column, and row.
    #[inline]
    pub(super) fn any_in(
        &mut self,
        ((left, right), (top, bottom)): ((i64, i64), (i64, i64)),
    ) -> bool {
        if let Some((chunk, columns)) = self.chunk_of_all((left, right), (top, bottom)) {
            return match chunk {
                Stopping::None => false,
                Stopping::All => true,
                Stopping::Some(bits) => {
                    (top..=bottom).any(|row| bits[(row & 63) as usize] & columns != 0)
                }
            };
        }
        let reaches_beyond = !self.bounds.has(left, top) || !self.bounds.has(right, bottom);
        if self.outside == Beyond::Stops && reaches_beyond {
            return true;
        }
        let (mut row, bottom) = self.rows_within(top, bottom);
        while row <= bottom {
            if self.first_in_row(row, left, right).is_some() {
                return true;
            }
            row += 1;
            while row & 63 == 0
                && row + 63 <= bottom
                && self.is_free_chunk_row(row >> 6, left, right)
            {
                row += 64;
            }
        }
        false
    }

    /// The chunk in which some columns and rows lie, where it is one and they lie within the
    /// bounds; and the bits of the columns.
    #[inline]
    pub(super) fn chunk_of_all(
        &mut self,
        (left, right): (i64, i64),
        (top, bottom): (i64, i64),
    ) -> Option<(Stopping<'a>, u64)> {
        let in_one = (left ^ right) >> 6 == 0 && (top ^ bottom) >> 6 == 0;
        if !in_one || !self.bounds.has(left, top) || !self.bounds.has(right, bottom) {
            return None;
        }
        let columns = span((left & 63) as u32, (right & 63) as u32);
        Some((self.chunk(left >> 6, top >> 6), columns))
    }

    /// Whether all chunks of a row of chunks between two columns are free.
    pub(super) fn is_free_chunk_row(&self, row: i64, from: i64, to: i64) -> bool {
        let (mut low, mut high) = (from.min(to), from.max(to));
        let CellSpan { left, right, .. } = self.bounds;
        match self.outside {
            Beyond::Map => return false,
            Beyond::Stops if low < left || high >= right => return false,
            Beyond::Stops => {}
            // A giant costs what lies within the bounds.
            Beyond::Free => (low, high) = (low.max(left), high.min(right - 1)),
        }
        low > high || self.next_chunk(row, low >> 6, high >> 6).is_none()
    }

    /// The cells that stop, row by row, of those from a first to a last column, and row.
    pub(crate) fn cells_in(
        mut self,
        ((left, right), (top, bottom)): ((i64, i64), (i64, i64)),
    ) -> impl Iterator<Item = (i64, i64)> + use<'a> {
        let (mut row, bottom) = self.rows_within(top, bottom);
        let mut from = left;
        std::iter::from_fn(move || {
            while row <= bottom {
                let is_chunk_row = from == left && row & 63 == 0 && row + 63 <= bottom;
                if is_chunk_row && self.is_free_chunk_row(row >> 6, left, right) {
                    row += 64;
                } else if from <= right
                    && let Some(column) = self.first_in_row(row, from, right)
                {
                    from = column + 1;
                    return Some((column, row));
                } else {
                    (row, from) = (row + 1, left);
                }
            }
            None
        })
    }

    /// Of some rows, those in which anything can stop what spans all of them.
    pub(super) fn rows_within(&self, first: i64, last: i64) -> (i64, i64) {
        match self.outside {
            Beyond::Stops => (first, last),
            Beyond::Free => (first.max(self.bounds.top), last.min(self.bounds.bottom - 1)),
            Beyond::Map => (first, self.before_repeating(first, last)),
        }
    }

    #[inline]
    pub(crate) fn blocks(&mut self, column: i64, row: i64) -> bool {
        let (mut column, mut row) = (column, row);
        if !self.bounds.has(column, row) {
            match self.outside {
                Beyond::Free => return false,
                Beyond::Stops => return true,
                Beyond::Map => {
                    let cell = wrapped(column, row, self.cells);
                    (column, row) = (cell.x().into(), cell.y().into());
                }
            }
        }
        match self.chunk(column >> 6, row >> 6) {
            Stopping::None => false,
            Stopping::All => true,
            Stopping::Some(bits) => bits[(row & 63) as usize] >> (column & 63) & 1 == 1,
        }
    }

    /// The cells of a chunk that stop, whatever the bounds; it must have a part within them.
    #[inline]
    fn chunk(&mut self, column: i64, row: i64) -> Stopping<'a> {
        if let Some((held, chunk)) = self.looked_at
            && held == (column, row)
        {
            return chunk;
        }
        let Some(grid) = self.grid else { return Stopping::All };
        let chunk = grid.chunk(ChunkPos::within_limits(column as i32, row as i32));
        self.looked_at = Some(((column, row), chunk));
        chunk
    }

    /// The cells of a chunk that stop, with what lies beyond the bounds; not for maps that go on
    /// from their other side. `None` for a chunk across the edge of the bounds, see
    /// [`Solid::clipped`].
    #[inline]
    pub(super) fn chunk_in_bounds(&mut self, column: i64, row: i64) -> Option<Stopping<'a>> {
        match self.bounds.chunk(column, row) {
            Lies::Within => Some(self.chunk(column, row)),
            Lies::Apart if self.outside == Beyond::Free => Some(Stopping::None),
            Lies::Apart => Some(Stopping::All),
            Lies::Across => None,
        }
    }

    /// How many times a block around a cell can be doubled, from one cell on, and nothing stops in
    /// it, by a look at its chunk; beyond an open map it grows with the distance.
    pub(super) fn free_doublings(&mut self, column: i64, row: i64) -> u32 {
        let is_free = !self.wraps()
            && matches!(self.chunk_in_bounds(column >> 6, row >> 6), Some(Stopping::None));
        if is_free { self.doublings_beyond(column, row).max(6) } else { 0 }
    }

    /// The same without a look at a chunk: none within the bounds.
    pub(super) fn doublings_beyond(&self, column: i64, row: i64) -> u32 {
        if self.outside == Beyond::Free { self.bounds.doublings(column, row) } else { 0 }
    }

    /// The cells that stop of a chunk across the edge of the bounds.
    #[cold]
    pub(super) fn clipped(&mut self, column: i64, row: i64) -> Bits {
        let side = SIDE as i64;
        let (left, top) = (column * side, row * side);
        let first = (self.bounds.left - left).clamp(0, side) as u32;
        let end = (self.bounds.right - left).clamp(0, side) as u32;
        let inside = if first < end { span(first, end - 1) } else { 0 };
        let beyond = if self.outside == Beyond::Free { 0 } else { u64::MAX };
        let chunk = self.chunk(column, row);
        std::array::from_fn(|at| {
            if !self.bounds.has_row(top + at as i64) {
                return beyond;
            }
            let own = match chunk {
                Stopping::None => 0,
                Stopping::All => u64::MAX,
                Stopping::Some(bits) => bits[at],
            };
            own & inside | beyond & !inside
        })
    }

    /// The first column in which a cell of a row stops, on the way from one column to another.
    #[inline]
    pub(super) fn first_in_row(&mut self, row: i64, from: i64, to: i64) -> Option<i64> {
        let (low, high) = if from <= to { (from, to) } else { (to, from) };
        // Mostly all lie in one chunk within the bounds.
        let is_near = low >> 6 == high >> 6;
        if is_near && self.bounds.has(low, row) && self.bounds.has(high, row) {
            return first_in_chunk(self.chunk(low >> 6, row >> 6), row, from, to);
        }
        self.first_far(row, from, to)
    }

    fn first_far(&mut self, row: i64, from: i64, to: i64) -> Option<i64> {
        let forward = from <= to;
        if self.wraps() {
            // Once round, a row begins anew.
            let width = self.bounds.right - self.bounds.left;
            let (step, count) = (if forward { 1 } else { -1 }, ((to - from).abs() + 1).min(width));
            let mut columns = (0..count).map(|at| from + step * at);
            return columns.find(|column| self.blocks(*column, row));
        }
        let beyond = self.outside == Beyond::Stops;
        if !self.bounds.has_row(row) {
            return beyond.then_some(from);
        }
        let (first, last) = (self.bounds.left, self.bounds.right - 1);
        if beyond && !(first..=last).contains(&from) {
            return Some(from);
        }
        // Within the bounds, and then what lies behind them.
        let (near, far) = (from.clamp(first, last), to.clamp(first, last));
        let apart = if forward { to < first || from > last } else { from < first || to > last };
        if apart {
            return None;
        }
        let found = self.first_within(row, near, far);
        let behind = if forward { last + 1 } else { first - 1 };
        found.or_else(|| (beyond && to != far).then_some(behind))
    }

    /// The same within the bounds.
    fn first_within(&mut self, row: i64, from: i64, to: i64) -> Option<i64> {
        let forward = from <= to;
        let mut chunk = from >> 6;
        loop {
            let left = chunk << 6;
            let (near, far) = if forward {
                (from.max(left), to.min(left + 63))
            } else {
                (from.min(left + 63), to.max(left))
            };
            let found = first_in_chunk(self.chunk(chunk, row >> 6), row, near, far);
            if found.is_some() || chunk == to >> 6 {
                return found;
            }
            chunk = self.next_chunk(row >> 6, chunk + if forward { 1 } else { -1 }, to >> 6)?;
        }
    }

    /// The first of some chunks of a row of chunks in which anything stops, on the way from one to
    /// another; beyond the bounds, and across their edge, whatever may.
    pub(super) fn next_chunk(&self, row: i64, from: i64, to: i64) -> Option<i64> {
        let Some(grid) = self.grid else { return Some(from) };
        let forward = from <= to;
        let mut at = from;
        loop {
            let block = at >> 6;
            let left = block << 6;
            let end = if forward { to.min(left + 63) } else { to.max(left) };
            let bits = self.in_bounds(grid.chunks_in_block(block, row), left, row);
            let found = first_bit(bits, at, end);
            if found.is_some() || end == to {
                return found;
            }
            at = if forward { left + 64 } else { left - 1 };
        }
    }

    /// In which chunks of a block any cell stops, whatever the bounds.
    #[inline]
    pub(super) fn block(&self, block: (i64, i64)) -> Option<&'a Bits> {
        self.grid.and_then(|grid| grid.block(block))
    }

    /// The last column and row of chunks up to which only their own cells can stop.
    #[inline]
    pub(super) fn chunks_between(&self, x: &AxisMotion, y: &AxisMotion) -> (i64, i64) {
        if self.outside == Beyond::Free {
            return (i64::MAX, i64::MAX);
        }
        let last = |axis_motion: &AxisMotion, first: i64, end: i64| {
            let (a, b) = (axis_motion.real((first + 63) >> 6), axis_motion.real((end >> 6) - 1));
            a.max(b)
        };
        let CellSpan { left, top, right, bottom } = self.bounds;
        (last(x, left, right), last(y, top, bottom))
    }

    /// The bits of 64 chunks of a row, with those that lie across the edge of the bounds or beyond.
    fn in_bounds(&self, bits: u64, left: i64, row: i64) -> u64 {
        let (first, end) = (self.bounds.left, self.bounds.right);
        let columns = |first: i64, end: i64| {
            let (first, end) = ((first - left).clamp(0, 64), (end - left).clamp(0, 64));
            if first < end { span(first as u32, end as u32 - 1) } else { 0 }
        };
        let top = row << 6;
        let whole_rows = top >= self.bounds.top && top + 64 <= self.bounds.bottom;
        // Rounded inwards are the chunks that lie within, outwards those that are not apart.
        let within = if whole_rows { columns((first + 63) >> 6, end >> 6) } else { 0 };
        let any_rows = top < self.bounds.bottom && top + 64 > self.bounds.top;
        let touching = if any_rows { columns(first >> 6, (end + 63) >> 6) } else { 0 };
        let beyond = if self.outside == Beyond::Free { touching } else { u64::MAX };
        bits & within | beyond & !within
    }
}

/// The first column of a row of a chunk that stops, on the way from one to another.
#[inline]
fn first_in_chunk(chunk: Stopping<'_>, row: i64, from: i64, to: i64) -> Option<i64> {
    match chunk {
        Stopping::None => None,
        Stopping::All => Some(from),
        Stopping::Some(bits) => first_bit(bits[(row & 63) as usize], from, to),
    }
}

/// The first column whose bit is set, on the way from one column of a chunk, or of a block, to
/// another.
#[inline]
pub(super) fn first_bit(word: u64, from: i64, to: i64) -> Option<i64> {
    let bits = word & span((from.min(to) & 63) as u32, (from.max(to) & 63) as u32);
    let (lowest, highest) = (bits.trailing_zeros(), bits.leading_zeros() ^ 63);
    let first = if from <= to { lowest } else { highest };
    (bits != 0).then(|| from & !63 | i64::from(first))
}

/// The columns and rows of some cells, half-open.
#[derive(Clone, Copy)]
pub(super) struct CellSpan {
    pub(super) left: i64,
    pub(super) top: i64,
    pub(super) right: i64,
    pub(super) bottom: i64,
}

impl CellSpan {
    /// Those of all cells that there are.
    pub(super) const CELLS: CellSpan = {
        let (first, end) = (CellPos::MIN as i64, CellPos::MAX as i64 + 1);
        CellSpan { left: first, top: first, right: end, bottom: end }
    };
    /// Blocks are no larger: their number fits into 32 bits.
    const MAX_DOUBLINGS: u32 = 31;

    /// How many times a block around a cell beyond these can be doubled, from one cell on, and does
    /// not come into them: so what lies far from a map is passed over in a few steps.
    pub(super) fn doublings(&self, column: i64, row: i64) -> u32 {
        // Two lines lie in one block from where all higher bits are the same.
        let apart = |line: i64, first: i64, end: i64| match line {
            line if line < first => (line ^ first).cast_unsigned().ilog2(),
            line if line >= end => (line ^ (end - 1)).cast_unsigned().ilog2(),
            _ => 0,
        };
        let (across, down) =
            (apart(column, self.left, self.right), apart(row, self.top, self.bottom));
        across.max(down).min(Self::MAX_DOUBLINGS)
    }

    #[inline]
    pub(super) fn has_row(&self, row: i64) -> bool {
        (self.top..self.bottom).contains(&row)
    }

    #[inline]
    pub(super) fn has(&self, column: i64, row: i64) -> bool {
        (self.left..self.right).contains(&column) && self.has_row(row)
    }

    /// Whether a chunk lies within, apart from these, or across an edge.
    #[inline]
    pub(super) fn chunk(&self, column: i64, row: i64) -> Lies {
        let side = SIDE as i64;
        let (left, top) = (column * side, row * side);
        let (right, bottom) = (left + side, top + side);
        if left >= self.left && right <= self.right && top >= self.top && bottom <= self.bottom {
            Lies::Within
        } else if right <= self.left
            || left >= self.right
            || bottom <= self.top
            || top >= self.bottom
        {
            Lies::Apart
        } else {
            Lies::Across
        }
    }
}

pub(super) enum Lies {
    Within,
    Apart,
    Across,
}
