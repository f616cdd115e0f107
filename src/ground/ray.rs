//! Rays: what a straight line meets first.
//!
//! A ray is followed row by row. Of each row it covers a run of columns, found from where it
//! crosses the edges of the row; with a bit a cell, one look at a word tells what it meets there
//! first. The usual way, from cell to cell (J. Amanatides and A. Woo, "A Fast Voxel Traversal
//! Algorithm for Ray Tracing", Eurographics 1987), decides at each cell which edge comes next, and
//! a processor guesses half of those wrongly. Chunks in which nothing stops are passed over by the
//! same means, a bit a chunk.

use super::GroundMap;
use super::course::Course;
use super::mask::{Bits, Stopping};
use super::motion::{Side, cell_of};
use super::stopping::{Solid, first_bit};
use crate::quilt::MoverId;
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
}

impl RayHit {
    /// The direction away from the side that was met, one unit long; none where the ray begins in
    /// the cell.
    pub fn normal(&self) -> WorldVec {
        self.side.map_or(WorldVec::ZERO, Side::normal)
    }
}

/// A ray on its way, in the cell that it enters next.
#[derive(Clone, Copy, Debug)]
struct Ray {
    x: Course,
    y: Course,
    column: i64,
    row: i64,
    /// By which edge it came.
    by: Edge,
}

#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum Edge {
    /// It began in the cell.
    None,
    /// The edge of a column.
    Column,
    /// The edge of a row.
    Row,
}

/// How looking at a chunk ended.
enum Found {
    /// At a cell that stops it.
    Hit,
    /// At its end.
    End,
    /// In another chunk.
    Left,
}

impl Ray {
    #[inline]
    fn new(ground: &GroundMap, from: WorldPoint, motion: WorldVec) -> Option<Ray> {
        let end = from + motion;
        // A finite number less itself is 0, and nothing else is.
        if (end.x - end.x) + (end.y - end.y) != 0.0 {
            return None;
        }
        let x = Course::of_point(ground.lattice().columns(), from.x, motion.x);
        let y = Course::of_point(ground.lattice().rows(), from.y, motion.y);
        Some(Ray { x, y, column: x.first(), row: y.first(), by: Edge::None })
    }

    /// Goes on to the first cell that stops it, if there is one.
    fn advance(&mut self, solid: &mut Solid<'_>) -> bool {
        if solid.wraps() {
            return self.through_repeated(solid);
        }
        loop {
            let (column, row) = (self.x.real(self.column) >> 6, self.y.real(self.row) >> 6);
            let found = match solid.chunk_in_bounds(column, row) {
                Some(Stopping::Some(bits)) => self.through_chunk(bits, solid),
                Some(Stopping::All) => Found::Hit,
                Some(Stopping::None) => self.to_next_chunk(solid),
                None => self.through_chunk(&solid.clipped(column, row), solid),
            };
            match found {
                Found::Hit => return true,
                Found::End => return false,
                Found::Left => {}
            }
        }
    }

    /// The last column that it covers of a row, and the first one of the next; the same at the end.
    #[inline]
    fn leaves_row(&self) -> (i64, i64) {
        if self.row == self.y.end() {
            return (self.x.end(), self.x.end());
        }
        let gone = self.y.gone_past(self.row);
        self.x.around(self.x.gone_with(&self.y, gone), self.column)
    }

    /// Goes on within a chunk.
    #[inline]
    fn through_chunk(&mut self, bits: &Bits, solid: &Solid<'_>) -> Found {
        let (x, y) = (self.x, self.y);
        let (chunk_end, row_end) = (self.column | 63, self.row | 63);
        let (mut column, mut row) = (self.column, self.row);
        let found = loop {
            let gone = y.gone_past(row);
            let is_last = row == y.end();
            let (last, next) =
                if is_last { (x.end(), 0) } else { x.around(x.gone_with(&y, gone), column) };
            let word = bits[(y.real(row) & 63) as usize];
            if let Some(hit) = first_bit(word, x.real(column), x.real(last.min(chunk_end))) {
                let hit = x.real(hit);
                self.by = if hit == column { self.by } else { Edge::Column };
                column = hit;
                break Found::Hit;
            }
            if last > chunk_end {
                (column, self.by) = (chunk_end + 1, Edge::Column);
                break Found::Left;
            }
            if is_last {
                break Found::End;
            }
            if last != next && is_closed(&x, &y, (last, next), row, solid) {
                (column, self.by) = (next, Edge::Column);
                break Found::Hit;
            }
            (row, column, self.by) = (row + 1, next, Edge::Row);
            if row > row_end || column > chunk_end {
                break Found::Left;
            }
        };
        (self.column, self.row) = (column, row);
        found
    }

    #[inline]
    fn come_to_column(&mut self, column: i64) {
        if column != self.column {
            (self.column, self.by) = (column, Edge::Column);
        }
    }

    /// From a chunk in which nothing stops it to the next one in which anything may.
    fn to_next_chunk(&mut self, solid: &Solid<'_>) -> Found {
        let (x, y) = (self.x.over_chunks(), self.y.over_chunks());
        let (mut column, mut row) = (self.column >> 6, self.row >> 6);
        // Of the first row, the chunk in which it is is known.
        let mut from = column + 1;
        let mut entered_at = None;
        loop {
            let gone = y.gone_past(row);
            let gone = if row == y.end() { x.way() } else { x.gone_with(&y, gone) };
            let (last, next) = if row == y.end() { (x.end(), x.end()) } else { x.around(gone, column) };
            if from <= last
                && let Some(found) = solid.next_chunk(y.real(row), x.real(from), x.real(last))
            {
                let found = x.real(found);
                self.enter_chunk(found, row, entered_at.filter(|_| found == column));
                return Found::Left;
            }
            if row == y.end() {
                return Found::End;
            }
            if last != next {
                self.row = row << 6 | 63;
                let (before, behind) = self.x.around(gone, self.x.first());
                if before != behind
                    && is_closed(&self.x, &self.y, (before, behind), self.row, solid)
                {
                    (self.column, self.by) = (behind, Edge::Column);
                    return Found::Hit;
                }
            }
            (row, column, from, entered_at) = (row + 1, next, next, Some(gone));
        }
    }

    /// Enters a chunk by a row, having gone so far to the side, or else by a column.
    fn enter_chunk(&mut self, column: i64, row: i64, by_row: Option<f64>) {
        let held = |line: i64, chunk: i64| line.clamp(chunk << 6, chunk << 6 | 63);
        if let Some(gone) = by_row {
            let (_, next) = self.x.around(gone, self.x.first());
            (self.column, self.row, self.by) = (held(next, column), row << 6, Edge::Row);
        } else {
            self.column = column << 6;
            let gone = self.y.gone_with(&self.x, self.x.gone_to(self.column));
            let (_, next) = self.y.around(gone, self.y.first());
            (self.row, self.by) = (held(next, row), Edge::Column);
        }
    }

    /// The same as [`Ray::advance`] where the map goes on from its other side.
    fn through_repeated(&mut self, solid: &mut Solid<'_>) -> bool {
        // What lies beyond all cells is not asked.
        let (_, last_row) = solid.rows_between(&self.y, self.row, self.y.end());
        while self.row <= last_row {
            let (last, next) = self.leaves_row();
            let (from, to) = (self.x.real(self.column), self.x.real(last));
            if let Some(column) = solid.first_in_row(self.y.real(self.row), from, to) {
                self.come_to_column(self.x.real(column));
                return true;
            }
            if self.row == self.y.end() {
                return false;
            }
            if last != next && is_closed(&self.x, &self.y, (last, next), self.row, solid) {
                (self.column, self.by) = (next, Edge::Column);
                return true;
            }
            (self.row, self.column, self.by) = (self.row + 1, next, Edge::Row);
        }
        false
    }

    /// The part of the ray until the edge by which it came, and the place there.
    fn arrival(&self) -> (f64, WorldPoint) {
        let (x, y) = (&self.x, &self.y);
        match self.by {
            Edge::None => (0.0, WorldPoint::new(x.place(0.0), y.place(0.0))),
            Edge::Column => {
                let place = y.place(y.gone_with(x, x.gone_to(self.column)));
                (x.fraction(self.column), WorldPoint::new(x.edge(self.column), place))
            }
            Edge::Row => {
                let place = x.place(x.gone_with(y, y.gone_to(self.row)));
                (y.fraction(self.row), WorldPoint::new(place, y.edge(self.row)))
            }
        }
    }

    /// The side of the cell by which it came.
    const fn side(&self) -> Option<Side> {
        match self.by {
            Edge::None => None,
            Edge::Column => Some(self.x.side_met(true)),
            Edge::Row => Some(self.y.side_met(false)),
        }
    }
}

/// At a corner that a ray goes through exactly: whether the cells to both sides stop it. Then it
/// is stopped by the one in its row.
#[cold]
fn is_closed(
    x: &Course,
    y: &Course,
    (last, next): (i64, i64),
    row: i64,
    solid: &Solid<'_>,
) -> bool {
    let mut solid = *solid;
    let mut blocks = |column, row| solid.blocks(x.real(column), y.real(row));
    blocks(next, row) && blocks(last, row + 1)
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
        let cell = cell_of(ray.x.real(ray.column), ray.y.real(ray.row));
        Some(RayHit { fraction, point, cell, side: ray.side() })
    }
}
