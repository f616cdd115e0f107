//! Outlines: what stops a mover as polygons with holes.
//!
//! Each cell gives the edges of its outline, and where two cells lie side by side only what one
//! covers of their common side and the other does not. What is left goes round the solid, which
//! lies to the right of it, and is followed from edge to edge: at a corner where solids touch, along
//! the same one. A way that comes through a corner twice is parted there, so that no ring touches
//! itself.

use rustc_hash::FxHashMap;

use crate::ground::query::{Solid, lines_of};
use crate::ground::shape::{BoundaryEdge, cuts};
use crate::ground::state::{GroundMap, SolidPart};
use crate::quilt::{MoverId, Treatment};
use crate::tile::CellShape;
use crate::units::{CellPos, CellRect, Side, WorldPoint, pairs, polygon_holds, uppermost};

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
    /// Returns its area in square units, without the holes.
    pub fn area(&self) -> f64 {
        // Holes go round the other way.
        area_of(&self.ring) + self.holes.iter().map(|hole| area_of(hole)).sum::<f64>()
    }

    /// Returns the length of its edges and those of its holes in world units.
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
    /// Returns what stops a mover in some cells, as polygons with holes: one for each solid that
    /// hangs together by sides. What lies beyond those cells, and beyond the bounds of the map,
    /// counts as free, so that whole chunks or whole maps give closed polygons. Exact: their area
    /// is that of the cells, or of their shapes.
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
        let mut edges = EdgeFinder::of(self, mover, cells.intersection(self.bounds()));
        edges.collect();
        edges.rings()
    }
}

/// An edge at which a mover is stopped, in parts of its cell, see [`GroundMap::stop_edges`].
#[derive(Clone, Copy, Debug)]
pub(crate) struct StopEdge {
    pub(crate) from: (f64, f64),
    pub(crate) to: (f64, f64),
    /// The side of the cell in which it lies.
    pub(crate) side: Option<Side>,
    /// How the mover takes what lies to the right of it.
    pub(crate) treatment: Treatment,
}

impl GroundMap {
    /// The outlines of what stops a mover in a cell, from all sides or from some: none where
    /// nothing does.
    pub(crate) fn stop_edges(&self, mover: MoverId, cell: CellPos) -> Vec<StopEdge> {
        let treatment = self.treatment(mover, cell);
        if !Side::ALL.iter().any(|side| treatment.stops_at(*side)) {
            return Vec::new();
        }
        let shape =
            |solid: &SolidPart| (*solid.convex.shape(), self.treatment_of(mover, cell, solid));
        let shapes: Vec<_> = self.solids_met(mover, cell).iter().map(shape).collect();
        let edge = |edge: BoundaryEdge| StopEdge {
            from: edge.from,
            to: edge.to,
            side: edge.side,
            treatment: shapes[edge.of].1,
        };
        cuts::boundary(&shapes).into_iter().map(edge).collect()
    }
}

/// The edges between what is solid and what is not.
struct EdgeFinder<'a> {
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
    /// Adds some; gives the first.
    fn add(&mut self, count: usize) -> usize {
        let first = self.0.len();
        self.0.extend(first..first + count);
        first
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

/// What is solid of a cell.
enum CellSolid<'a> {
    /// One shape, as mostly.
    One(&'a CellShape),
    Several {
        edges: Vec<BoundaryEdge>,
        /// By shape, the one that stands for those with which it hangs together.
        joined: Vec<usize>,
    },
}

impl CellSolid<'_> {
    /// How many shapes it is made of.
    fn count(&self) -> usize {
        match self {
            CellSolid::One(_) => 1,
            CellSolid::Several { joined, .. } => joined.len(),
        }
    }

    /// What it covers of a side of the cell, in parts of it from the left or from above, in order;
    /// each with the shape that stands for it.
    fn covers(&self, side: Side) -> impl Iterator<Item = (f64, f64, usize)> {
        let along = move |(x, y): (f64, f64)| if side.is_upright() { y } else { x };
        let (one, several) = match self {
            CellSolid::One(shape) => (shape.cover(side).map(|(low, high)| (low, high, 0)), vec![]),
            CellSolid::Several { edges, joined } => {
                let on_side = edges.iter().filter(|edge| edge.side == Some(side));
                let ends = on_side.map(|edge| {
                    let (a, b) = (along(edge.from), along(edge.to));
                    (a.min(b), a.max(b), joined[edge.of])
                });
                let mut covers: Vec<_> = ends.collect();
                covers.sort_by(|a, b| a.0.total_cmp(&b.0));
                (None, covers)
            }
        };
        one.into_iter().chain(several)
    }
}

impl<'a> EdgeFinder<'a> {
    fn of(ground: &'a GroundMap, mover: MoverId, cells: CellRect) -> EdgeFinder<'a> {
        let solid = Solid::new(ground, mover);
        EdgeFinder { ground, mover, solid, cells, edges: Vec::new(), solids: Solids::default() }
    }

    fn collect(&mut self) {
        // What is solid in the row above, and in this one, by column: with the piece of solid that
        // each of its shapes belongs to.
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
            let Some(own) = self.cell(column, row) else { continue };
            let first = self.solids.add(own.count());
            self.add_cell(column, row, &own, first);
            for (side, held) in [(Side::Left, &here), (Side::Top, &above)] {
                let (x, _) = neighbor(column, row, side);
                let Some((other, others_first)) = held.get(&x) else { continue };
                let other: &CellSolid<'_> = other;
                for (low, high, of) in own.covers(side) {
                    for (from, to, others) in other.covers(side.opposite()) {
                        if low.max(from) < high.min(to) {
                            self.solids.join(first + of, others_first + others);
                        }
                    }
                }
            }
            here.insert(column, (own, first));
        }
    }

    /// What is solid of a cell; `None` where nothing is, and beyond the cells that are asked for.
    fn cell(&mut self, column: i64, row: i64) -> Option<CellSolid<'a>> {
        let cell = CellPos::saturating(column, row);
        let is_asked = self.cells.contains(cell)
            && i64::from(cell.x()) == column
            && i64::from(cell.y()) == row;
        if !is_asked || !self.solid.blocks(column, row) {
            return None;
        }
        if let [one] = self.ground.solids_met(self.mover, cell) {
            return Some(CellSolid::One(one.convex.shape()));
        }
        let shapes = self.ground.blocking_shapes(self.mover, cell);
        let joined = cuts::joined(&shapes);
        let shapes: Vec<(CellShape, ())> = shapes.into_iter().map(|shape| (shape, ())).collect();
        Some(CellSolid::Several { edges: cuts::boundary(&shapes), joined })
    }

    /// Adds the edges of a cell that are not covered from the other side.
    fn add_cell(&mut self, column: i64, row: i64, solid: &CellSolid<'_>, first: usize) {
        match solid {
            CellSolid::One(shape) => {
                for (from, to, side) in shape.edges() {
                    self.add_edge(column, row, BoundaryEdge { from, to, side, of: first });
                }
            }
            CellSolid::Several { edges, joined } => {
                for edge in edges {
                    let of = first + joined[edge.of];
                    self.add_edge(column, row, BoundaryEdge { of, ..*edge });
                }
            }
        }
    }

    /// Adds what is left of an edge before, between and behind what lies beyond its side.
    fn add_edge(&mut self, column: i64, row: i64, edge: BoundaryEdge) {
        let BoundaryEdge { from, to, side, of } = edge;
        let other = side.and_then(|side| {
            let (x, y) = neighbor(column, row, side);
            Some((side, self.cell(x, y)?))
        });
        let Some((side, other)) = other else {
            return self.add(column, row, from, to, of);
        };
        let upright = side.is_upright();
        let (a, b) = if upright { (from.1, to.1) } else { (from.0, to.0) };
        let point = |at: f64| if upright { (from.0, at) } else { (at, from.1) };
        let held = |at: f64| at.clamp(a.min(b), a.max(b));
        let mut at = a.min(b);
        let mut left = |from: f64, to: f64| {
            if from < to {
                let (from, to) = if a < b { (from, to) } else { (to, from) };
                self.add(column, row, point(from), point(to), of);
            }
        };
        for (low, high, _) in other.covers(side.opposite()) {
            left(at, held(low));
            at = at.max(held(high));
        }
        left(at, a.max(b));
    }

    fn add(&mut self, column: i64, row: i64, from: (f64, f64), to: (f64, f64), of: usize) {
        let lattice = self.ground.lattice();
        let place = |lines: crate::lattice::Axis, line: i64, part: f64| {
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
        let mut places: FxHashMap<usize, Vec<usize>> = FxHashMap::default();
        let mut holes = Vec::new();
        for (of, ring) in rings {
            let solid = self.solids.first(of);
            if area_of(&ring) > 0.0 {
                places.entry(solid).or_default().push(outlines.len());
                outlines.push(Outline { ring, holes: Vec::new() });
            } else {
                holes.push((solid, ring));
            }
        }
        for (solid, hole) in holes {
            let of_solid = places.get(&solid).map_or(&[][..], Vec::as_slice);
            // Shapes that meet at a sharp corner may count as one solid and yet have two rings.
            let place = match of_solid {
                [place] => Some(*place),
                _ => {
                    of_solid.iter().copied().find(|place| goes_round(&outlines[*place].ring, &hole))
                }
            };
            if let Some(place) = place {
                outlines[place].holes.push(hole);
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
            // Each corner with the solid that the edge behind it belongs to.
            let mut way: Vec<(WorldPoint, usize)> = Vec::new();
            let mut seen: FxHashMap<(u64, u64), usize> = FxHashMap::default();
            let mut at = first;
            loop {
                let edge = self.edges[at];
                is_used[at] = true;
                if let Some(since) = seen.get(&key(edge.from)).copied() {
                    // It has been here: what lies between is a ring of its own.
                    let ring = way.split_off(since);
                    for (point, _) in &ring {
                        seen.remove(&key(*point));
                    }
                    rings.push(ring);
                }
                seen.insert(key(edge.from), way.len());
                way.push((edge.from, edge.of));
                let next = starts.get(&key(edge.to)).into_iter().flatten().copied();
                let next = next.filter(|next| !is_used[*next]);
                let Some(next) = next.max_by(|a, b| {
                    let turn = |next: usize| rightness(edge, self.edges[next]);
                    turn(*a).total_cmp(&turn(*b))
                }) else {
                    break;
                };
                at = next;
            }
            rings.push(way);
        }
        let solid = |ring: Vec<(WorldPoint, usize)>| {
            let of = ring.first().map_or(0, |(_, of)| *of);
            (of, straightened(ring.into_iter().map(|(corner, _)| corner).collect()))
        };
        rings.into_iter().map(solid).collect()
    }
}

/// Whether a ring goes round a hole, which has no edge in common with it but may touch it.
fn goes_round(ring: &[WorldPoint], hole: &[WorldPoint]) -> bool {
    // Most of the middles of its edges, since one of them may lie at a corner of the ring.
    let inside = pairs(hole).filter(|(a, b)| polygon_holds(ring, *a + (*b - *a) * 0.5)).count();
    2 * inside > hole.len()
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
