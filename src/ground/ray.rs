//! Rays: what a straight line meets first.
//!
//! A ray is followed row by row. Of each row it covers a run of columns, found from where it
//! crosses the edges of the row; with a bit a cell, one look at a word tells what it meets there
//! first. The usual way, from cell to cell (J. Amanatides and A. Woo, "A Fast Voxel Traversal
//! Algorithm for Ray Tracing", Eurographics 1987), decides at each cell which edge comes next, and
//! a processor guesses half of those wrongly. Chunks in which nothing stops are passed over by the
//! same means, a bit a chunk.
//!
//! A crossing is found by one product and one division from the numbers that were given, never by
//! adding steps: nothing drifts, and where a ray goes exactly through a corner, that is seen.

use super::GroundMap;
use super::motion::{Side, cell_of};
use super::stopping::{InBounds, Solid, first_bit};
use crate::lattice::Lines;
use crate::quilt::{GroundClass, MoverId};
use crate::units::{CellPos, WorldPoint, WorldVec};

/// What a ray has met.
#[derive(Clone, Copy, Debug, PartialEq)]
#[non_exhaustive]
pub struct RayHit {
    /// The part of the ray until there, 0 to less than 1.
    pub fraction: f64,
    /// The place in the world; it lies exactly on the side that was met.
    pub point: WorldPoint,
    /// The cell that was met; beyond the bounds of the map where the outside has stopped the ray.
    pub cell: CellPos,
    /// Which of its sides; `None` where the ray begins in the cell.
    pub side: Option<Side>,
    /// The class of the cell, where it lies within the bounds and has one.
    pub class: Option<GroundClass>,
}

impl RayHit {
    /// The direction away from the side that was met, one unit long; none where the ray begins in
    /// the cell.
    pub fn normal(&self) -> WorldVec {
        self.side.map_or(WorldVec::ZERO, Side::normal)
    }
}

/// A ray in one direction.
#[derive(Clone, Copy, Debug)]
pub(super) struct Way {
    lines: Lines,
    from: f64,
    by: f64,
    /// The line in which it begins, and the last one that it enters before its end.
    pub(super) first: i64,
    pub(super) last: i64,
}

impl Way {
    pub(super) fn new(lines: Lines, from: f64, by: f64) -> Way {
        let to = from + by;
        let (first, last) = if by > 0.0 {
            let first = lines.at(from);
            (first, lines.last_before(to).max(first))
        } else if by < 0.0 {
            let first = lines.last_before(from);
            (first, lines.at(to).min(first))
        } else {
            let first = lines.at(from);
            (first, first)
        };
        Way { lines, from, by, first, last }
    }

    const fn is_forward(&self) -> bool {
        self.by >= 0.0
    }

    pub(super) const fn step(&self) -> i64 {
        if self.is_forward() { 1 } else { -1 }
    }

    /// The edge by which it enters a line.
    fn entry(&self, line: i64) -> f64 {
        self.lines.edge(if self.is_forward() { line } else { line + 1 })
    }

    /// The edge by which it leaves a line.
    fn exit(&self, line: i64) -> f64 {
        self.lines.edge(if self.is_forward() { line + 1 } else { line })
    }

    /// The part of the ray after which it is at a place.
    fn fraction(&self, place: f64) -> f64 {
        (place - self.from) / self.by
    }

    /// Where it is when the ray is at a place in the other direction.
    fn at(&self, other: &Way, place: f64) -> f64 {
        self.from + ((place - other.from) * self.by) / other.by
    }

    /// The last line that it covers before it is at a place, and the first one from there on: two
    /// where it comes to an edge just then. Neither lies behind `now`, or beyond the end.
    #[inline]
    fn around(&self, place: f64, now: i64) -> (i64, i64) {
        let (line, on_edge) = self.lines.split(place);
        if self.is_forward() {
            let last = (line - i64::from(on_edge)).clamp(now, self.last);
            (last, line.clamp(last, self.last))
        } else {
            let last = line.clamp(self.last, now);
            (last, (line - i64::from(on_edge)).clamp(self.last, last))
        }
    }

    /// The same way over chunks.
    fn over_chunks(&self) -> Way {
        let lines = self.lines.grouped(64.0);
        Way { lines, first: self.first >> 6, last: self.last >> 6, ..*self }
    }

    /// The first line of a chunk that it comes to.
    fn first_of_chunk(&self, chunk: i64) -> i64 {
        if self.is_forward() { chunk << 6 } else { (chunk << 6) + 63 }
    }
}

/// A ray on its way, in the cell that it enters next.
#[derive(Clone, Copy, Debug)]
pub(super) struct Ray {
    pub(super) x: Way,
    pub(super) y: Way,
    pub(super) column: i64,
    pub(super) row: i64,
    /// By which edge it came: that of a column, of a row, or none at the beginning.
    pub(super) by: Edge,
}

#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) enum Edge {
    None,
    Column,
    Row,
}

/// How looking at a chunk ended.
enum Found {
    Hit,
    End,
    Left,
}

impl Ray {
    pub(super) fn new(ground: &GroundMap, from: WorldPoint, motion: WorldVec) -> Option<Ray> {
        let end = from + motion;
        // A finite number less itself is 0, and nothing else is.
        if (end.x - end.x) + (end.y - end.y) != 0.0 {
            return None;
        }
        let x = Way::new(ground.lattice().columns(), from.x, motion.x);
        let y = Way::new(ground.lattice().rows(), from.y, motion.y);
        Some(Ray { x, y, column: x.first, row: y.first, by: Edge::None })
    }

    /// Goes on to the first cell that stops, if there is one.
    fn advance(&mut self, solid: &mut Solid<'_>) -> bool {
        if solid.wraps() {
            return self.through_repeated(solid);
        }
        loop {
            let found = match solid.chunk_in_bounds(self.column >> 6, self.row >> 6) {
                InBounds::Some(bits) => self.through_chunk(&bits, solid),
                InBounds::All => Found::Hit,
                InBounds::None => {
                    if self.is_in_last_chunk() {
                        return false;
                    }
                    match self.to_next_chunk(solid) {
                        Found::Left => continue,
                        found => found,
                    }
                }
            };
            match found {
                Found::Hit => return true,
                Found::End => return false,
                Found::Left => {}
            }
        }
    }

    fn is_in_last_chunk(&self) -> bool {
        self.column >> 6 == self.x.last >> 6 && self.row >> 6 == self.y.last >> 6
    }

    /// The last column that it covers of a row, and the first one of the next; the same at the end.
    #[inline]
    fn leaves_row(&self) -> (i64, i64) {
        if self.row == self.y.last {
            return (self.x.last, self.x.last);
        }
        self.x.around(self.x.at(&self.y, self.y.exit(self.row)), self.column)
    }

    /// Goes on within a chunk.
    fn through_chunk(&mut self, bits: &[u64; 64], solid: &mut Solid<'_>) -> Found {
        let (chunk_column, chunk_row) = (self.column >> 6, self.row >> 6);
        loop {
            let (last, next) = self.leaves_row();
            let leaves = last >> 6 != chunk_column;
            let border = if self.x.is_forward() { 63 } else { 0 };
            let to = if leaves { border } else { last & 63 };
            let word = bits[(self.row & 63) as usize];
            if let Some(bit) = first_bit(word, (self.column & 63) as u32, to as u32) {
                let column = chunk_column << 6 | i64::from(bit);
                self.come_to_column(column);
                return Found::Hit;
            }
            if leaves {
                self.column = (chunk_column << 6) + border + self.x.step();
                self.by = Edge::Column;
                return Found::Left;
            }
            if self.row == self.y.last {
                return Found::End;
            }
            if last != next && self.is_closed(last, next, solid) {
                return Found::Hit;
            }
            self.row += self.y.step();
            self.column = next;
            self.by = Edge::Row;
            if self.row >> 6 != chunk_row || next >> 6 != chunk_column {
                return Found::Left;
            }
        }
    }

    fn come_to_column(&mut self, column: i64) {
        if column != self.column {
            self.column = column;
            self.by = Edge::Column;
        }
    }

    /// At a corner that it goes through exactly: whether the cells to both sides stop. Then it is
    /// stopped by the one in its row.
    fn is_closed(&mut self, last: i64, next: i64, solid: &mut Solid<'_>) -> bool {
        let is_closed =
            solid.blocks(next, self.row) && solid.blocks(last, self.row + self.y.step());
        if is_closed {
            (self.column, self.by) = (next, Edge::Column);
        }
        is_closed
    }

    /// From a chunk in which nothing stops to the next one in which anything may.
    fn to_next_chunk(&mut self, solid: &mut Solid<'_>) -> Found {
        let (x, y) = (self.x.over_chunks(), self.y.over_chunks());
        let (mut column, mut row) = (self.column >> 6, self.row >> 6);
        // The chunk in which it is is known.
        let mut from = column + x.step();
        let mut entered_at = None;
        loop {
            let (place, (last, next)) = if row == y.last {
                (0.0, (x.last, x.last))
            } else {
                let place = self.x.at(&self.y, y.exit(row));
                (place, x.around(place, column))
            };
            let is_any = if x.is_forward() { from <= last } else { from >= last };
            if let Some(found) = is_any.then(|| solid.next_chunk(row, from, last)).flatten() {
                self.enter_chunk(found, row, entered_at.filter(|_| found == column));
                return Found::Left;
            }
            if row == y.last {
                return Found::End;
            }
            let after = self.y.first_of_chunk(row + y.step());
            if last != next {
                self.row = after - self.y.step();
                let (before, behind) = self.x.around(place, self.x.first);
                if before != behind && self.is_closed(before, behind, solid) {
                    return Found::Hit;
                }
            }
            entered_at = Some(place);
            row += y.step();
            column = next;
            from = next;
        }
    }

    /// Enters a chunk by a row, at a place, or else by a column.
    fn enter_chunk(&mut self, column: i64, row: i64, by_row_at: Option<f64>) {
        let chunk = |line: i64| (line << 6, (line << 6) + 63);
        if let Some(place) = by_row_at {
            let (low, high) = chunk(column);
            self.row = self.y.first_of_chunk(row);
            let (_, next) = self.x.around(place, self.x.first);
            self.column = next.clamp(low, high);
            self.by = Edge::Row;
        } else {
            let (low, high) = chunk(row);
            self.column = self.x.first_of_chunk(column);
            let place = self.y.at(&self.x, self.x.entry(self.column));
            let (_, next) = self.y.around(place, self.y.first);
            self.row = next.clamp(low, high);
            self.by = Edge::Column;
        }
    }

    /// The same where the map goes on from its other side: cell by cell.
    fn through_repeated(&mut self, solid: &mut Solid<'_>) -> bool {
        // What lies beyond all cells is not asked.
        let (rows, columns) = (solid.rows(), solid.columns());
        loop {
            if !rows.contains(&self.row) || !columns.contains(&self.column) {
                return false;
            }
            let (last, next) = self.leaves_row();
            if let Some(column) = solid.first_in_row(self.row, self.column, last) {
                self.come_to_column(column);
                return true;
            }
            if self.row == self.y.last {
                return false;
            }
            if last != next && self.is_closed(last, next, solid) {
                return true;
            }
            self.row += self.y.step();
            (self.column, self.by) = (next, Edge::Row);
        }
    }

    /// The part of the ray until the edge by which it came, and the place there.
    fn arrival(&self) -> (f64, WorldPoint) {
        let (x, y) = (&self.x, &self.y);
        match self.by {
            Edge::None => (0.0, WorldPoint::new(x.from, y.from)),
            Edge::Column => {
                let place = x.entry(self.column);
                (x.fraction(place), WorldPoint::new(place, y.at(x, place)))
            }
            Edge::Row => {
                let place = y.entry(self.row);
                (y.fraction(place), WorldPoint::new(x.at(y, place), place))
            }
        }
    }

    /// The side of the cell by which it came.
    fn side(&self) -> Option<Side> {
        match self.by {
            Edge::None => None,
            Edge::Column => Some(if self.x.is_forward() { Side::Left } else { Side::Right }),
            Edge::Row => Some(if self.y.is_forward() { Side::Top } else { Side::Bottom }),
        }
    }
}

impl GroundMap {
    /// What a ray from a point along `motion` meets first, if anything.
    ///
    /// A ray is infinitely thin, and what it only touches does not stop it: not the side at which
    /// it ends, and not a corner that it goes through exactly, unless the cells on both sides of
    /// the corner stop it. So a ray that is turned round goes through the same cells. One that runs
    /// along an edge goes through the cells to the right of it, or below. A ray that begins in a
    /// cell which stops it has met that at once. With numbers that are not finite it meets nothing.
    ///
    /// Costs a look at each row that it crosses of chunks in which anything stops, and at each
    /// row of chunks elsewhere.
    ///
    /// ```
    /// use sturdy_quilt::{CellPos, GroundMap, Side, WorldPoint, WorldVec};
    /// # let quilt = sturdy_quilt::doc_quilt();
    ///
    /// let (ground, walker) = (GroundMap::of(&quilt), quilt.mover("walker")?);
    /// let hit = ground.ray(walker, WorldPoint::new(2.0, 8.0), WorldVec::new(60.0, 0.0)).unwrap();
    /// assert_eq!((hit.point, hit.fraction), (WorldPoint::new(32.0, 8.0), 0.5));
    /// assert_eq!((hit.cell, hit.side), (CellPos::new(2, 0), Some(Side::Left)));
    /// assert_eq!(hit.normal(), WorldVec::new(-1.0, 0.0));
    /// assert_eq!(ground.ray(walker, WorldPoint::new(2.0, 8.0), WorldVec::new(30.0, 0.0)), None);
    /// # Ok::<(), sturdy_quilt::NameError>(())
    /// ```
    pub fn ray(&self, mover: MoverId, from: WorldPoint, motion: WorldVec) -> Option<RayHit> {
        let mut ray = Ray::new(self, from, motion)?;
        if !ray.advance(&mut Solid::new(self, mover)) {
            return None;
        }
        let (fraction, point) = ray.arrival();
        let cell = cell_of(ray.column, ray.row);
        Some(RayHit { fraction, point, cell, side: ray.side(), class: self.class_met(mover, cell) })
    }
}
