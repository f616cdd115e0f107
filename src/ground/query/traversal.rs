//! Rays: what a straight line meets first.
//!
//! A ray is followed row by row. Of each row it covers a run of columns, found from where it
//! crosses the edges of the row; with a bit a cell, one look at a word tells what it meets there
//! first. The usual way, from cell to cell (J. Amanatides and A. Woo, "A Fast Voxel Traversal
//! Algorithm for Ray Tracing", Eurographics 1987), decides at each cell which edge comes next, and
//! a processor guesses half of those wrongly. Chunks in which nothing stops are passed over by the
//! same means, a bit a chunk.

use super::axis_motion::AxisMotion;
use super::solid::{CellSpan, Solid, first_bit};
use crate::ground::state::{Bits, GroundMap, Stopping};
use crate::units::{Side, WorldPoint, WorldVec};

/// A ray on its way.
#[derive(Clone, Copy, Debug)]
pub(super) struct Ray {
    x: AxisMotion,
    y: AxisMotion,
    at: Spot,
    /// What part of the motion that was asked for it goes: less than all where that is so long that
    /// products of it are not numbers.
    part: f64,
}

/// The cell, or the chunk, that a ray enters next.
#[derive(Clone, Copy, Debug)]
struct Spot {
    column: i64,
    row: i64,
    by: Edge,
}

/// By which edge a ray came into a cell.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum Edge {
    /// It began there.
    None,
    /// The edge of a column.
    Column,
    /// The edge of a row.
    Row,
}

/// How looking at 64 × 64 cells or chunks ended.
pub(super) enum Found {
    /// At one that stops it.
    Hit,
    /// At its end.
    End,
    /// Beyond those that were to be looked at.
    Left,
}

/// Numbers of columns with 52 bits behind the point: a step to the next row is one sum, and exact.
struct Fixed;

impl Fixed {
    const BITS: u32 = 52;
    const ONE: i64 = 1 << Fixed::BITS;
    /// So near an edge, and nearer, it is asked exactly on which side of it a ray is. By far more
    /// than what rounding leaves open; one row in millions is.
    const NEAR: i64 = 1 << 28;

    /// A number of columns, of which more than fit into a chunk are all one.
    #[inline]
    fn of(columns: f64) -> i64 {
        const MAX: f64 = 128.0;
        (if columns < MAX { columns.max(0.0) } else { MAX } * Fixed::ONE as f64) as i64
    }
}

impl Ray {
    /// The longest motion, in world units, of which products with the lengths of maps are numbers.
    const MAX_WAY: f64 = 1e150;
    /// What part is taken of longer ones, which still leads far beyond all cells: 2⁻²⁵⁶.
    const SHORTER: f64 = f64::from_bits((1023 - 256) << 52);

    #[inline(always)]
    pub(super) fn new(ground: &GroundMap, from: WorldPoint, motion: WorldVec) -> Option<Ray> {
        let end = from + motion;
        if !end.is_finite() {
            return None;
        }
        let (motion, part) = match motion.x.abs().max(motion.y.abs()) > Self::MAX_WAY {
            // Exact, and still far beyond all cells.
            true => (motion * Self::SHORTER, Self::SHORTER),
            false => (motion, 1.0),
        };
        let x = AxisMotion::of_point(ground.lattice().columns(), from.x, motion.x);
        let y = AxisMotion::of_point(ground.lattice().rows(), from.y, motion.y);
        // One that begins exactly on an edge comes in by it.
        let by = match (x.begins_on_edge(), y.begins_on_edge()) {
            (_, true) => Edge::Row,
            (true, false) => Edge::Column,
            (false, false) => Edge::None,
        };
        let at = Spot { column: x.first(), row: y.first(), by };
        Some(Ray { x, y, at, part })
    }

    /// Where it begins exactly on a corner of what has stopped it from all sides, it has come in by
    /// the side at which nothing lies before that.
    #[inline]
    pub(super) fn settle_corner(&mut self, solid: &Solid<'_>) {
        let Ray { x, y, at, .. } = self;
        let is_first = (at.column, at.row) == (x.first(), y.first()) && at.by == Edge::Row;
        if is_first && x.begins_on_edge() && y.begins_on_edge() {
            let mut solid = *solid;
            let mut blocks = |column, row| solid.blocks(x.real(column), y.real(row));
            let [own, above, beside] =
                [(0, 0), (0, 1), (1, 0)].map(|(left, up)| blocks(at.column - left, at.row - up));
            if own && above && !beside {
                at.by = Edge::Column;
            }
        }
    }

    /// Goes on to the first cell that stops it, if there is one.
    #[inline]
    pub(super) fn advance(&mut self, solid: &mut Solid<'_>) -> bool {
        if solid.wraps() {
            return self.through_repeated(solid);
        }
        loop {
            let (column, row) = (self.x.real(self.at.column) >> 6, self.y.real(self.at.row) >> 6);
            let found = match solid.chunk_in_bounds(column, row) {
                Some(Stopping::Some(bits)) => self.through_chunk(bits, solid),
                Some(Stopping::All) => Found::Hit,
                Some(Stopping::None) => self.leave_chunk(solid),
                None => self.through_chunk(&solid.clipped(column, row), solid),
            };
            match found {
                Found::Hit => return true,
                Found::End => return false,
                Found::Left => {}
            }
        }
    }

    /// Goes on through the cells of a chunk.
    #[inline]
    fn through_chunk(&mut self, bits: &Bits, solid: &Solid<'_>) -> Found {
        let Ray { x, y, at, .. } = self;
        let limits = (at.column | 63, at.row | 63);
        let is_closed = |columns: (i64, i64), row: i64| is_closed(x, y, columns, row, solid);
        // What is near is mostly stopped near.
        if (at.column, at.row) == (x.first(), y.first())
            && let Some(found) = step(bits, (x, y), at, limits, is_closed)
        {
            return found;
        }
        let slope = Fixed::of(x.lines_with(y));
        walk(bits, (x, y, slope), at, limits, is_closed)
    }

    /// From a chunk in which nothing stops it to the next one in which anything may.
    fn leave_chunk(&mut self, solid: &Solid<'_>) -> Found {
        let (x, y) = (self.x.over(64), self.y.over(64));
        let is_closed = |columns: (i64, i64), row: i64| {
            let column = columns.1 << 6;
            is_closed(&self.x, &self.y, (column - 1, column), row << 6 | 63, solid)
        };
        let limits = solid.chunks_between(&x, &y);
        let slope = Fixed::of(x.lines_with(&y));
        let mut at = Spot { column: self.at.column >> 6, row: self.at.row >> 6, by: Edge::None };
        let mut found = leave(&x, &y, 0, &mut at, is_closed);
        while matches!(found, Found::Left) && at.column <= limits.0 && at.row <= limits.1 {
            let block = solid.block((x.real(at.column) >> 6, y.real(at.row) >> 6));
            let in_block = ((at.column | 63).min(limits.0), (at.row | 63).min(limits.1));
            found = match block {
                Some(bits) => walk(bits, (&x, &y, slope), &mut at, in_block, is_closed),
                None => {
                    let (column, row) = (x.real(at.column) << 6, y.real(at.row) << 6);
                    let doublings = solid.doublings_beyond(column, row).saturating_sub(6).max(6);
                    leave(&x, &y, doublings, &mut at, is_closed)
                }
            };
        }
        if matches!(found, Found::End) {
            return Found::End;
        }
        self.enter_chunk(at);
        Found::Left
    }

    /// Enters a chunk.
    fn enter_chunk(&mut self, Spot { column, row, by }: Spot) {
        let (x, y) = (&self.x, &self.y);
        let held = |line: i64, chunk: i64| line.clamp(chunk << 6, chunk << 6 | 63);
        self.at.by = by;
        if by == Edge::Row {
            self.at.row = row << 6;
            let (_, next) = x.around(x.gone_with(y, y.gone_to(self.at.row)), x.first());
            self.at.column = held(next, column);
        } else {
            self.at.column = column << 6;
            let (_, next) = y.around(y.gone_with(x, x.gone_to(self.at.column)), y.first());
            self.at.row = held(next, row);
        }
    }

    /// The same as [`Ray::advance`] where it is stopped by something else sideways, down or up, and
    /// where it begins: from cell to cell, and over chunks in which nothing stops it.
    #[cold]
    pub(super) fn advance_one_way(
        &mut self,
        within: &mut Solid<'_>,
        ways: &mut [Solid<'_>; 2],
    ) -> bool {
        let (x, y) = (self.x, self.y);
        let [across, down] = ways;
        loop {
            let (column, row) = (x.real(self.at.column), y.real(self.at.row));
            let stops = match self.at.by {
                Edge::None => within.blocks(column, row),
                Edge::Column => across.blocks(column, row),
                Edge::Row => down.blocks(column, row),
            };
            if stops {
                return true;
            }
            let n = across.free_doublings(column, row).min(down.free_doublings(column, row));
            let is_closed = |columns: (i64, i64), row: i64| {
                let (mut across, mut down) = (*across, *down);
                across.blocks(x.real(columns.1), y.real(row))
                    && down.blocks(x.real(columns.0), y.real(row + 1))
            };
            match leave(&x, &y, n, &mut self.at, is_closed) {
                Found::Hit => return true,
                Found::End => return false,
                Found::Left => {}
            }
        }
    }

    /// The same as [`Ray::advance`] where the map goes on from its other side.
    #[cold]
    fn through_repeated(&mut self, solid: &mut Solid<'_>) -> bool {
        let (x, y) = (self.x, self.y);
        // What lies beyond all cells is not asked.
        let (_, mut last_row) = solid.rows_between(&y, (self.at.row, y.end()));
        if !x.moves() {
            last_row = solid.before_repeating(self.at.row, last_row);
        }
        while self.at.row <= last_row {
            let Spot { column, row, .. } = self.at;
            let (last, next) = leaves_row(&x, &y, column, row);
            let hit = solid.first_in_row(y.real(row), x.real(column), x.real(last));
            if let Some(hit) = hit.map(|column| x.real(column)) {
                self.at.come_to_column(hit);
                return true;
            }
            if row == y.end() {
                return false;
            }
            if last != next && is_closed(&x, &y, (last, next), row, solid) {
                self.at.come_to_column(next);
                return true;
            }
            self.at = Spot { column: next, row: row + 1, by: Edge::Row };
        }
        false
    }

    /// The part of the ray until the edge by which it came, and the place there.
    pub(super) fn arrival(&self) -> (f64, WorldPoint) {
        let (Ray { x, y, .. }, Spot { column, row, by }) = (self, self.at);
        match by {
            Edge::None => (0.0, WorldPoint::new(x.place(0.0), y.place(0.0))),
            Edge::Column => {
                let place = y.place(y.gone_with(x, x.gone_to(column)));
                (x.fraction(column) * self.part, WorldPoint::new(x.edge(column), place))
            }
            Edge::Row => {
                let place = x.place(x.gone_with(y, y.gone_to(row)));
                (y.fraction(row) * self.part, WorldPoint::new(place, y.edge(row)))
            }
        }
    }

    /// Goes on to the next cell, if it does before its end. What lies beyond all cells is passed
    /// over.
    pub(super) fn leave_cell(&mut self) -> bool {
        let (column, row, _) = self.place();
        matches!(
            self.leave_cells(CellSpan::CELLS.doublings(column, row), |_, _| false),
            Found::Left
        )
    }

    /// Goes on to the next cell beyond a block of 2ⁿ × 2ⁿ of them, through corners that are not
    /// closed: see [`walk`].
    pub(super) fn leave_cells(
        &mut self,
        n: u32,
        is_closed: impl Fn((i64, i64), i64) -> bool,
    ) -> Found {
        leave(&self.x, &self.y, n, &mut self.at, is_closed)
    }

    pub(super) const fn courses(&self) -> (&AxisMotion, &AxisMotion) {
        (&self.x, &self.y)
    }

    /// The column and row in which it is, and the side by which it came.
    pub(super) const fn place(&self) -> (i64, i64, Option<Side>) {
        (self.x.real(self.at.column), self.y.real(self.at.row), self.side())
    }

    /// The side of the cell by which it came.
    const fn side(&self) -> Option<Side> {
        match self.at.by {
            Edge::None => None,
            Edge::Column => Some(self.x.side_met(true)),
            Edge::Row => Some(self.y.side_met(false)),
        }
    }
}

impl Spot {
    #[inline]
    fn come_to_column(&mut self, column: i64) {
        if column != self.column {
            (self.column, self.by) = (column, Edge::Column);
        }
    }
}

/// The last column that a ray covers of a row, and the first one of the next row: two where it
/// leaves the row exactly at the edge of a column.
fn leaves_row(x: &AxisMotion, y: &AxisMotion, column: i64, row: i64) -> (i64, i64) {
    if row == y.end() {
        return (x.end(), x.end());
    }
    x.around(x.gone_with(y, y.gone_past(row)), column)
}

/// Goes on through 64 × 64 cells as [`walk`] does, but from edge to edge: that begins sooner, and
/// gets on slower. `None` where it has not ended after a few edges.
#[inline]
fn step(
    bits: &Bits,
    (x, y): (&AxisMotion, &AxisMotion),
    at: &mut Spot,
    (last_column, last_row): (i64, i64),
    is_closed: impl Fn((i64, i64), i64) -> bool,
) -> Option<Found> {
    const MAX: u32 = 40;
    let Spot { mut column, mut row, mut by } = *at;
    // Which edge comes first is seen without a division.
    let to_column = |column: i64| x.distance_to(column + 1) * y.way();
    let to_row = |row: i64| y.distance_to(row + 1) * x.way();
    let (mut next_column, mut next_row) = (to_column(column), to_row(row));
    let mut found = None;
    for _ in 0..MAX {
        if bits[(y.real(row) & 63) as usize] >> (x.real(column) & 63) & 1 == 1 {
            found = Some(Found::Hit);
            break;
        }
        if next_column < next_row {
            if column == x.end() {
                return Some(Found::End);
            }
            (column, by) = (column + 1, Edge::Column);
            next_column = to_column(column);
            if column > last_column {
                found = Some(Found::Left);
                break;
            }
        } else if next_row < next_column {
            if row == y.end() {
                return Some(Found::End);
            }
            (row, by) = (row + 1, Edge::Row);
            next_row = to_row(row);
            if row > last_row {
                found = Some(Found::Left);
                break;
            }
        } else {
            // At a corner, or without any motion.
            if column == x.end() || row == y.end() {
                return Some(Found::End);
            }
            if is_closed((column, column + 1), row) {
                (column, by, found) = (column + 1, Edge::Column, Some(Found::Hit));
                break;
            }
            (column, row, by) = (column + 1, row + 1, Edge::Row);
            (next_column, next_row) = (to_column(column), to_row(row));
            if column > last_column || row > last_row {
                found = Some(Found::Left);
                break;
            }
        }
    }
    *at = Spot { column, row, by };
    found
}

/// Goes on through 64 × 64 cells, or chunks, up to a last column and row, to the first whose bit is
/// set. At an exact corner, which is known by the columns on both sides and the row before it, it
/// may be closed.
#[inline]
fn walk(
    bits: &Bits,
    (x, y, slope): (&AxisMotion, &AxisMotion, i64),
    at: &mut Spot,
    (last_column, last_row): (i64, i64),
    is_closed: impl Fn((i64, i64), i64) -> bool,
) -> Found {
    let Spot { mut column, mut row, mut by } = *at;
    let first = column & !63;
    // Where it leaves the row, in columns from the first on.
    let mut leaves_at = Fixed::of(x.lines_from(first, x.gone_with(y, y.gone_past(row))));
    let found = loop {
        let (mut last, mut next);
        if row == y.end() {
            (last, next) = (x.end(), x.end());
        } else {
            last = first + (leaves_at >> Fixed::BITS);
            last = last.max(column).min(x.end());
            next = last;
            if (leaves_at + Fixed::NEAR) & (Fixed::ONE - 1) < 2 * Fixed::NEAR {
                (last, next) = leaves_row(x, y, column, row);
            }
        }
        let word = bits[(y.real(row) & 63) as usize];
        if let Some(hit) = first_bit(word, x.real(column), x.real(last.min(last_column))) {
            let hit = x.real(hit);
            by = if hit == column { by } else { Edge::Column };
            column = hit;
            break Found::Hit;
        }
        if last > last_column {
            (column, by) = (last_column + 1, Edge::Column);
            break Found::Left;
        }
        if row == y.end() {
            break Found::End;
        }
        if last != next && is_closed((last, next), row) {
            (column, by) = (next, Edge::Column);
            break Found::Hit;
        }
        (row, column, by) = (row + 1, next, Edge::Row);
        if row > last_row || column > last_column {
            break Found::Left;
        }
        leaves_at += slope;
    };
    *at = Spot { column, row, by };
    found
}

/// From a cell or chunk, or from a block of 2ⁿ × 2ⁿ of them, to the first one beyond.
fn leave(
    x: &AxisMotion,
    y: &AxisMotion,
    n: u32,
    at: &mut Spot,
    is_closed: impl Fn((i64, i64), i64) -> bool,
) -> Found {
    let (across, down) = (x.over(1 << n), y.over(1 << n));
    let (column, row) = (at.column >> n, at.row >> n);
    if column == across.end() && row == down.end() {
        return Found::End;
    }
    // Which edge comes first is seen without a division.
    let (to_column, to_row) = (across.gone_past(column) * y.way(), down.gone_past(row) * x.way());
    let by_column = row == down.end() || (column < across.end() && to_column <= to_row);
    let (columns, rows, by) = if by_column {
        let next = (column + 1) << n;
        let (last, there) = y.around(y.gone_with(x, x.gone_to(next)), at.row);
        ((next - 1, next), (last, there), Edge::Column)
    } else {
        let next = (row + 1) << n;
        let (last, there) = x.around(x.gone_with(y, y.gone_to(next)), at.column);
        ((last, there), (next - 1, next), Edge::Row)
    };
    let is_corner = columns.0 != columns.1 && rows.0 != rows.1;
    if is_corner && is_closed(columns, rows.0) {
        *at = Spot { column: columns.1, row: rows.0, by: Edge::Column };
        return Found::Hit;
    }
    let by = if is_corner { Edge::Row } else { by };
    *at = Spot { column: columns.1, row: rows.1, by };
    Found::Left
}

/// At a corner that a ray goes through exactly: whether the cells to both sides stop it. Then it
/// is stopped by the one in its row.
#[cold]
fn is_closed(
    x: &AxisMotion,
    y: &AxisMotion,
    (last, next): (i64, i64),
    row: i64,
    solid: &Solid<'_>,
) -> bool {
    let mut solid = *solid;
    let mut blocks = |column, row| solid.blocks(x.real(column), y.real(row));
    blocks(next, row) && blocks(last, row + 1)
}
