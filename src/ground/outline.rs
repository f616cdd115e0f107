//! What stops a mover as polygons with holes.
//!
//! Each cell gives the edges of its outline, and where two cells lie side by side only what one
//! covers of their common side and the other does not. What is left goes round the solid, which
//! lies to the right of it, and is followed from edge to edge: at a corner where solids touch, along
//! the same one. A way that comes through a corner twice is parted there, so that no ring touches
//! itself.

use rustc_hash::FxHashMap;

use super::GroundMap;
use super::forms::Form;
use super::motion::cell_of;
use super::stopping::{Solid, lines_of};
use crate::quilt::MoverId;
use crate::units::{CellRect, Side, WorldPoint, pairs, uppermost};

/// A solid as a polygon with holes.
///
/// **Guarantees.** No ring touches itself, and no corner lies on the line between its neighbours.
/// The outer ring goes round clockwise as it is seen, and the holes the other way; a hole may touch
/// another ring in single points.
#[derive(Clone, Debug, PartialEq)]
#[non_exhaustive]
pub struct Outline {
    /// The corners around it; the last one is joined to the first.
    pub ring: Vec<WorldPoint>,
    /// The corners around each hole.
    pub holes: Vec<Vec<WorldPoint>>,
}

impl Outline {
    /// Its area in square units, without the holes.
    pub fn area(&self) -> f64 {
        // Holes go round the other way.
        area_of(&self.ring) + self.holes.iter().map(|hole| area_of(hole)).sum::<f64>()
    }

    /// The length of its edges and those of its holes in world units.
    pub fn perimeter(&self) -> f64 {
        let around =
            |ring: &Vec<WorldPoint>| pairs(ring).map(|(a, b)| (b - a).length()).sum::<f64>();
        around(&self.ring) + self.holes.iter().map(around).sum::<f64>()
    }
}

/// The area within a ring, less than 0 where it goes round counterclockwise as it is seen.
pub(super) fn area_of(ring: &[WorldPoint]) -> f64 {
    let Some(first) = ring.first() else { return 0.0 };
    // From a corner of its own, so that little is lost far from the origin.
    pairs(ring).map(|(a, b)| (a - *first).cross(b - *first)).sum::<f64>() / 2.0
}

impl GroundMap {
    /// What stops a mover in some cells, as polygons with holes: one for each solid that hangs
    /// together by sides. What lies beyond those cells, and beyond the bounds of the map, counts as
    /// free, so that whole chunks or whole maps give closed polygons. Exact: their area is that of
    /// the cells, or of their shapes.
    ///
    /// They come in the order of their uppermost corners, row by row. Costs a look at each solid
    /// cell.
    ///
    /// ```
    /// use sturdy_quilt::{CellPos, GroundMap, WorldPoint};
    /// # let quilt = sturdy_quilt::doc_quilt();
    ///
    /// let (ground, walker) = (GroundMap::of(&quilt), quilt.mover("walker")?);
    /// let outlines = ground.outlines(walker, quilt.bounds());
    /// let corners = [(32.0, 0.0), (48.0, 0.0), (48.0, 16.0), (32.0, 16.0)];
    /// assert_eq!(outlines[0].ring, corners.map(|(x, y)| WorldPoint::new(x, y)));
    /// # Ok::<(), sturdy_quilt::NameError>(())
    /// ```
    pub fn outlines(&self, mover: MoverId, cells: CellRect) -> Vec<Outline> {
        let mut edges = Edges::of(self, mover, cells.intersection(self.bounds()));
        edges.collect();
        edges.rings()
    }
}

/// The edges between what is solid and what is not.
struct Edges<'a> {
    ground: &'a GroundMap,
    mover: MoverId,
    solid: Solid<'a>,
    cells: CellRect,
    edges: Vec<Edge>,
    solids: Solids,
}

#[derive(Clone, Copy)]
struct Edge {
    from: WorldPoint,
    to: WorldPoint,
    /// The piece of solid that it belongs to.
    of: usize,
}

/// Which pieces of solid hang together.
#[derive(Default)]
struct Solids(Vec<usize>);

impl Solids {
    fn add(&mut self) -> usize {
        self.0.push(self.0.len());
        self.0.len() - 1
    }

    fn first(&mut self, mut at: usize) -> usize {
        while self.0[at] != at {
            self.0[at] = self.0[self.0[at]];
            at = self.0[at];
        }
        at
    }

    fn join(&mut self, a: usize, b: usize) {
        let (a, b) = (self.first(a), self.first(b));
        self.0[a.max(b)] = a.min(b);
    }
}

/// What a cell covers of one of its sides, in parts of it from the left or from above.
type Cover = Option<(f64, f64)>;

impl<'a> Edges<'a> {
    fn of(ground: &'a GroundMap, mover: MoverId, cells: CellRect) -> Edges<'a> {
        let solid = Solid::new(ground, mover);
        Edges { ground, mover, solid, cells, edges: Vec::new(), solids: Solids::default() }
    }

    fn collect(&mut self) {
        // The pieces of the row above, and of this one, by column.
        let (mut above, mut here) = (FxHashMap::default(), FxHashMap::default());
        let mut last = i64::MIN;
        for (column, row) in self.solid.cells_in(lines_of(self.cells)) {
            if row != last {
                std::mem::swap(&mut above, &mut here);
                here.clear();
                if row != last + 1 {
                    above.clear();
                }
                last = row;
            }
            let of = self.solids.add();
            self.add_cell(column, row, of);
            here.insert(column, of);
            for (side, held) in [(Side::Left, &here), (Side::Top, &above)] {
                let (x, y) = neighbor(column, row, side);
                if let Some(other) = held.get(&x)
                    && meet(self.cover(column, row, side), self.cover(x, y, side.opposite()))
                {
                    self.solids.join(of, *other);
                }
            }
        }
    }

    /// What is solid of a cell; `None` where nothing is, and beyond the cells that are asked for.
    fn form(&mut self, column: i64, row: i64) -> Option<&'a Form> {
        let cell = cell_of(column, row);
        let is_asked = self.cells.contains(cell)
            && i64::from(cell.x()) == column
            && i64::from(cell.y()) == row;
        (is_asked && self.solid.blocks(column, row)).then(|| self.ground.form_met(self.mover, cell))
    }

    /// What a cell covers of one of its sides.
    fn cover(&mut self, column: i64, row: i64, side: Side) -> Cover {
        self.form(column, row)?.shape().cover(side)
    }

    /// Adds the edges of a cell that are not covered from the other side.
    fn add_cell(&mut self, column: i64, row: i64, of: usize) {
        let Some(form) = self.form(column, row) else { return };
        for (from, to, side) in form.shape().edges() {
            let other = side.and_then(|side| {
                let (x, y) = neighbor(column, row, side);
                self.cover(x, y, side.opposite())
            });
            let (Some(side), Some((low, high))) = (side, other) else {
                self.add(column, row, from, to, of);
                continue;
            };
            let upright = side.is_upright();
            let (a, b) = if upright { (from.1, to.1) } else { (from.0, to.0) };
            let point = |at: f64| if upright { (from.0, at) } else { (at, from.1) };
            // What is left before and behind what the other covers.
            let held = |at: f64| at.clamp(a.min(b), a.max(b));
            let (first, last) =
                if a < b { (held(low), held(high)) } else { (held(high), held(low)) };
            if first != a {
                self.add(column, row, point(a), point(first), of);
            }
            if last != b {
                self.add(column, row, point(last), point(b), of);
            }
        }
    }

    fn add(&mut self, column: i64, row: i64, from: (f64, f64), to: (f64, f64), of: usize) {
        let lattice = self.ground.lattice();
        let place = |lines: crate::lattice::Lines, line: i64, part: f64| {
            // The same number from both sides of an edge.
            if part == 1.0 { lines.edge(line + 1) } else { lines.edge(line) + part * lines.side() }
        };
        let point = |(x, y): (f64, f64)| {
            WorldPoint::new(place(lattice.columns(), column, x), place(lattice.rows(), row, y))
        };
        self.edges.push(Edge { from: point(from), to: point(to), of });
    }

    /// The rings of the edges, put together.
    fn rings(mut self) -> Vec<Outline> {
        let mut rings = self.followed();
        rings.sort_by(|(_, a), (_, b)| a[0].y.total_cmp(&b[0].y).then(a[0].x.total_cmp(&b[0].x)));
        let mut outlines: Vec<Outline> = Vec::new();
        let mut places = FxHashMap::default();
        let mut holes = Vec::new();
        for (of, ring) in rings {
            let solid = self.solids.first(of);
            if area_of(&ring) > 0.0 {
                places.insert(solid, outlines.len());
                outlines.push(Outline { ring, holes: Vec::new() });
            } else {
                holes.push((solid, ring));
            }
        }
        for (solid, hole) in holes {
            if let Some(place) = places.get(&solid) {
                outlines[*place].holes.push(hole);
            }
        }
        outlines
    }

    /// The rings that the edges make, each from its uppermost corner.
    fn followed(&self) -> Vec<(usize, Vec<WorldPoint>)> {
        let mut starts: FxHashMap<(u64, u64), Vec<usize>> = FxHashMap::default();
        for (at, edge) in self.edges.iter().enumerate() {
            starts.entry(key(edge.from)).or_default().push(at);
        }
        let mut is_used = vec![false; self.edges.len()];
        let mut rings = Vec::new();
        for first in 0..self.edges.len() {
            if is_used[first] {
                continue;
            }
            let mut way: Vec<WorldPoint> = Vec::new();
            let mut seen: FxHashMap<(u64, u64), usize> = FxHashMap::default();
            let mut at = first;
            loop {
                let edge = self.edges[at];
                is_used[at] = true;
                if let Some(since) = seen.get(&key(edge.from)).copied() {
                    // It has been here: what lies between is a ring of its own.
                    let ring = way.split_off(since);
                    for point in &ring {
                        seen.remove(&key(*point));
                    }
                    rings.push((edge.of, ring));
                }
                seen.insert(key(edge.from), way.len());
                way.push(edge.from);
                let next = starts[&key(edge.to)].iter().copied().filter(|next| !is_used[*next]);
                let Some(next) = next.max_by(|a, b| {
                    let turn = |next: usize| rightness(edge, self.edges[next]);
                    turn(*a).total_cmp(&turn(*b))
                }) else {
                    break;
                };
                at = next;
            }
            rings.push((self.edges[at].of, way));
        }
        rings.into_iter().map(|(of, ring)| (of, straightened(ring))).collect()
    }
}

/// How far to the right an edge leads from another, as it is seen: from the sharpest turn to the
/// left up to the sharpest one to the right.
fn rightness(edge: Edge, next: Edge) -> f64 {
    let (way, on) = (edge.to - edge.from, next.to - next.from);
    way.cross(on).atan2(way.dot(on))
}

/// A ring without the corners that lie in a line, beginning with the uppermost; of two, the left one.
fn straightened(ring: Vec<WorldPoint>) -> Vec<WorldPoint> {
    let count = ring.len();
    let bends = |at: &usize| {
        let (a, b, c) = (ring[(at + count - 1) % count], ring[*at], ring[(at + 1) % count]);
        let (way, on) = (b - a, c - b);
        way.cross(on).abs() > 1e-12 * way.length() * on.length()
    };
    let mut kept: Vec<WorldPoint> = (0..count).filter(bends).map(|at| ring[at]).collect();
    let first = uppermost(kept.iter().map(|corner| (corner.x, corner.y)));
    kept.rotate_left(first);
    kept
}

fn key(point: WorldPoint) -> (u64, u64) {
    // Zeros of both signs are one.
    ((point.x + 0.0).to_bits(), (point.y + 0.0).to_bits())
}

fn neighbor(column: i64, row: i64, side: Side) -> (i64, i64) {
    let offset = side.offset();
    (column + i64::from(offset.x), row + i64::from(offset.y))
}

/// Whether two cells cover a part of their common side together.
fn meet(a: Cover, b: Cover) -> bool {
    matches!((a, b), (Some(a), Some(b)) if a.0.max(b.0) < a.1.min(b.1))
}
