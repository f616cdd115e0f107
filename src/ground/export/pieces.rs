//! Convex pieces of what stops a mover.

use super::outline::area_of;
use crate::ground::query::{Body, ConvexPolygon, Solid, lines_of};
use crate::ground::shape::cuts;
use crate::ground::state::GroundMap;
use crate::quilt::MoverId;
use crate::units::{CellPos, CellRect, WorldPoint, WorldRect};

/// A convex piece of what stops a mover.
#[derive(Clone, Copy, Debug, PartialEq)]
#[non_exhaustive]
pub struct ConvexPiece {
    /// The cells in which it lies.
    pub cells: CellRect,
    /// Its corners.
    pub polygon: ConvexPolygon,
}

impl ConvexPiece {
    /// Returns its area in square units.
    pub fn area(&self) -> f64 {
        area_of(self.polygon.corners())
    }

    /// Returns the rectangle that it is, if it is one.
    pub fn as_rect(&self) -> Option<WorldRect> {
        let bounds = self.polygon.bounds();
        let is_corner = |corner: &WorldPoint| {
            let (min, max) = (bounds.min(), bounds.max());
            (corner.x == min.x || corner.x == max.x) && (corner.y == min.y || corner.y == max.y)
        };
        let corners = self.polygon.corners();
        (corners.len() == 4 && corners.iter().all(is_corner)).then_some(bounds)
    }
}

/// Cells of one solid part, which may grow together with others of the kind.
#[derive(Clone, Copy)]
struct Run {
    cells: CellRect,
    /// Left, upper, right and lower edge in parts of a cell.
    area: [f64; 4],
}

impl GroundMap {
    /// Returns what stops a mover in some cells, as convex pieces: whole cells as rectangles as
    /// large as they grow, and so cells with upright rectangles that go on in the next cell; others
    /// one by one. They do not overlap, and together they are all that is solid there within the
    /// bounds of the map.
    ///
    /// Rectangles grow along rows and then down, or the other way, whichever needs fewer. Costs a
    /// look at each solid cell.
    ///
    /// ```
    /// use sturdy_quilt::{CellPos, CellRect, GroundMap};
    /// # let mut quilt = sturdy_quilt::doc_quilt();
    ///
    /// let wall = quilt.tile("garden/wall")?;
    /// let yard = CellRect::new(CellPos::ORIGIN, 40, 30);
    /// quilt.edit("wall it up", |pen| pen.fill("soil", yard, wall))?;
    /// let (ground, walker) = (GroundMap::of(&quilt), quilt.mover("walker")?);
    /// assert_eq!(ground.pieces(walker, yard).len(), 1);
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    pub fn pieces(&self, mover: MoverId, cells: CellRect) -> Vec<ConvexPiece> {
        let lines = lines_of(cells.intersection(self.bounds()));
        let (mut runs, mut others): (Vec<Run>, Vec<ConvexPiece>) = (Vec::new(), Vec::new());
        for (column, row) in Solid::new(self, mover).cells_in(lines) {
            let cell = CellPos::saturating(column, row);
            let shapes = self.blocking_shapes(mover, cell);
            let cell = CellRect::of_cell(cell);
            for polygon in cuts::apart(&shapes) {
                match area_of_rect(&polygon) {
                    Some(area) => runs.push(Run { cells: cell, area }),
                    None => {
                        let bounds = self.lattice().rect_bounds(cell);
                        let corner = |(x, y): &(f64, f64)| at_part(bounds, *x, *y);
                        let polygon = ConvexPolygon::new(polygon.iter().map(corner));
                        others.extend(polygon.map(|polygon| ConvexPiece { cells: cell, polygon }));
                    }
                }
            }
        }
        let rows_first = grown(grown(runs.clone(), true), false);
        let columns_first = grown(grown(runs, false), true);
        let runs = if columns_first.len() < rows_first.len() { columns_first } else { rows_first };
        let mut pieces: Vec<ConvexPiece> =
            runs.iter().filter_map(|run| self.piece_of(run)).collect();
        pieces.append(&mut others);
        pieces.sort_by_key(|piece| (piece.cells.top(), piece.cells.left()));
        pieces
    }

    fn piece_of(&self, run: &Run) -> Option<ConvexPiece> {
        let Run { cells, area: [left, top, right, bottom] } = *run;
        let first = self.lattice().bounds(CellPos::new(cells.left(), cells.top()));
        let last = self.lattice().bounds(CellPos::new(cells.right() - 1, cells.bottom() - 1));
        let (min, max) = (at_part(first, left, top), at_part(last, right, bottom));
        let corners = [min, WorldPoint::new(max.x, min.y), max, WorldPoint::new(min.x, max.y)];
        Some(ConvexPiece { cells, polygon: ConvexPolygon::new(corners)? })
    }
}

/// The left, upper, right and lower edge of a polygon that is an upright rectangle.
fn area_of_rect(polygon: &[(f64, f64)]) -> Option<[f64; 4]> {
    let least = |held: [f64; 4], &(x, y): &(f64, f64)| {
        [held[0].min(x), held[1].min(y), held[2].max(x), held[3].max(y)]
    };
    let around = polygon.iter().fold([1.0, 1.0, 0.0, 0.0], least);
    let [left, top, right, bottom] = around;
    let is_corner =
        |(x, y): &(f64, f64)| (*x == left || *x == right) && (*y == top || *y == bottom);
    (polygon.len() == 4 && polygon.iter().all(is_corner)).then_some(around)
}

/// The place of a part of a cell; its edges are those that the cell shares with others.
fn at_part(bounds: WorldRect, x: f64, y: f64) -> WorldPoint {
    let place = |from: f64, to: f64, part: f64| {
        if part == 1.0 { to } else { from + part * (to - from) }
    };
    let (min, max) = (bounds.min(), bounds.max());
    WorldPoint::new(place(min.x, max.x, x), place(min.y, max.y, y))
}

impl Run {
    /// The columns that it takes, or the rows: the first and the one behind the last, and where it
    /// begins and ends in those in parts of a cell.
    fn lines(&self, across: bool) -> ((i32, i32), (f64, f64)) {
        let (cells, [left, top, right, bottom]) = (self.cells, self.area);
        if across {
            ((cells.left(), cells.right()), (left, right))
        } else {
            ((cells.top(), cells.bottom()), (top, bottom))
        }
    }
}

/// Joins runs that go on in the next column, or in the next row.
fn grown(mut runs: Vec<Run>, across: bool) -> Vec<Run> {
    runs.sort_by_key(|run| (run.lines(!across).0, run.lines(across).0.0));
    let mut grown: Vec<Run> = Vec::with_capacity(runs.len());
    for next in runs {
        let goes_on = |held: &&mut Run| {
            let ((_, end), (_, to)) = held.lines(across);
            let ((begin, _), (from, _)) = next.lines(across);
            held.lines(!across) == next.lines(!across) && end == begin && (to, from) == (1.0, 0.0)
        };
        match grown.last_mut().filter(goes_on) {
            Some(held) => {
                held.cells = held.cells.union(next.cells);
                (held.area[2], held.area[3]) = (next.area[2], next.area[3]);
            }
            None => grown.push(next),
        }
    }
    grown
}
