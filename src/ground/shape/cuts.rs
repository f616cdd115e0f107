//! Convex shapes of a cell less others, and the boundary of several together.
//!
//! What is left of a convex shape less another is covered by convex pieces, one beyond each edge of
//! the other. They overlap at its corners, so that no body and no ray finds a seam between them.
//! Where pieces must not overlap, each is cut by those before it.

use crate::tile::CellShape;
use crate::units::{Side, pairs};

/// A convex polygon in parts of a cell, clockwise as it is seen.
type Polygon = Vec<(f64, f64)>;

/// So near to a line a place lies on it. Corners are kept to 2⁻²⁴ of a cell, and where lines cross
/// is known to a few times that.
const NEAR: f64 = 1.0 / 1_048_576.0;

/// How far a place lies inside the line through an edge, by the length of the edge.
fn inside(a: (f64, f64), b: (f64, f64), p: (f64, f64)) -> f64 {
    (b.0 - a.0) * (p.1 - a.1) - (b.1 - a.1) * (p.0 - a.0)
}

fn length(a: (f64, f64), b: (f64, f64)) -> f64 {
    ((b.0 - a.0) * (b.0 - a.0) + (b.1 - a.1) * (b.1 - a.1)).sqrt()
}

/// Which side of the line through an edge is kept.
#[derive(Clone, Copy, PartialEq)]
enum Keep {
    Beyond,
    Inside,
    /// With what lies so near to it that it may be on it.
    InsideOrNear,
}

/// The part of a polygon on one side of the line through an edge.
///
/// See I. Sutherland and G. Hodgman, "Reentrant Polygon Clipping", Communications of the ACM 17,
/// 1974.
fn clipped(polygon: &[(f64, f64)], (a, b): ((f64, f64), (f64, f64)), keep: Keep) -> Polygon {
    let (sign, slack) = match keep {
        Keep::Beyond => (-1.0, 0.0),
        Keep::Inside => (1.0, 0.0),
        Keep::InsideOrNear => (1.0, NEAR * length(a, b)),
    };
    let distance = |p: (f64, f64)| sign * inside(a, b, p) + slack;
    let mut kept = Vec::with_capacity(polygon.len() + 1);
    for (from, to) in pairs(polygon) {
        let (d, e) = (distance(from), distance(to));
        if d >= 0.0 {
            kept.push(from);
        }
        if (d < 0.0 && e > 0.0) || (d > 0.0 && e < 0.0) {
            let part = d / (d - e);
            kept.push((from.0 + (to.0 - from.0) * part, from.1 + (to.1 - from.1) * part));
        }
    }
    kept
}

/// Convex shapes that overlap and together cover a shape less some others. What is thinner than
/// [`CellShape::MIN_WIDTH`] is left out.
pub(crate) fn less(shape: &CellShape, others: &[CellShape]) -> Vec<CellShape> {
    let mut left = vec![*shape];
    for other in others {
        let mut next: Vec<CellShape> = Vec::new();
        for shape in &left {
            let beyond = |edge| clipped(shape.corners(), edge, Keep::Beyond);
            next.extend(pairs(other.corners()).flat_map(|edge| shapes_of(beyond(edge))));
        }
        left = without_covered(next);
    }
    left
}

/// The shapes that together are a polygon: two that overlap where it has too many corners for one.
fn shapes_of(polygon: Polygon) -> impl Iterator<Item = CellShape> {
    let parts = if polygon.len() <= CellShape::MAX_CORNERS {
        vec![polygon]
    } else {
        let half = polygon.len() / 2;
        let second = polygon[half..].iter().chain(&polygon[..1]).copied().collect();
        vec![polygon[..half + 2].to_vec(), second]
    };
    parts.into_iter().filter_map(|corners| CellShape::of_convex(&corners))
}

/// Those shapes that lie in no other one.
fn without_covered(mut shapes: Vec<CellShape>) -> Vec<CellShape> {
    let mut at = 0;
    while at < shapes.len() {
        let lies_in = |other: &CellShape| shapes[at].corners().iter().all(|p| holds(other, *p));
        // Of two that are alike the first one goes, and then the other is kept.
        if (0..shapes.len()).any(|other| other != at && lies_in(&shapes[other])) {
            shapes.remove(at);
        } else {
            at += 1;
        }
    }
    shapes
}

/// Whether a place lies in a shape or on its edge.
pub(crate) fn holds(shape: &CellShape, place: (f64, f64)) -> bool {
    pairs(shape.corners()).all(|(a, b)| inside(a, b, place) >= -NEAR * length(a, b))
}

/// Convex polygons that do not overlap and together are the same as some shapes that may.
pub(crate) fn apart(shapes: &[CellShape]) -> Vec<Polygon> {
    let mut all: Vec<Polygon> = Vec::new();
    for (at, shape) in shapes.iter().enumerate() {
        let mut left = vec![shape.corners().to_vec()];
        for before in &shapes[..at] {
            left = left.into_iter().flat_map(|polygon| disjoint(polygon, before)).collect();
        }
        all.append(&mut left);
    }
    all
}

/// What is left of a polygon less a shape, in pieces that do not overlap.
fn disjoint(polygon: Polygon, shape: &CellShape) -> Vec<Polygon> {
    const MIN_AREA: f64 = 1e-9;
    let (mut rest, mut pieces) = (polygon.clone(), Vec::new());
    for edge in pairs(shape.corners()) {
        let beyond = clipped(&rest, edge, Keep::Beyond);
        if area(&beyond) > MIN_AREA {
            pieces.push(beyond);
        }
        rest = clipped(&rest, edge, Keep::Inside);
    }
    // Where they have nothing in common, it stays in one piece.
    if area(&rest) > MIN_AREA { pieces } else { vec![polygon] }
}

fn area(polygon: &[(f64, f64)]) -> f64 {
    pairs(polygon).map(|(a, b)| a.0 * b.1 - a.1 * b.0).sum::<f64>() / 2.0
}

/// A straight part of the boundary of some shapes, which lie to the right of it.
#[derive(Clone, Copy, Debug)]
pub(crate) struct BoundaryEdge {
    pub(crate) from: (f64, f64),
    pub(crate) to: (f64, f64),
    /// The side of the cell in which it lies.
    pub(crate) side: Option<Side>,
    /// The shape that it belongs to.
    pub(crate) of: usize,
}

/// The boundary of some shapes together; each has a kind, and only those of one kind hide each
/// other's edges.
pub(crate) fn boundary<K: PartialEq>(shapes: &[(CellShape, K)]) -> Vec<BoundaryEdge> {
    let mut edges: Vec<BoundaryEdge> = Vec::new();
    for (of, (shape, _)) in shapes.iter().enumerate() {
        let own = shape.edges().map(|(from, to, side)| BoundaryEdge { from, to, side, of });
        edges.extend(own);
    }
    if shapes.len() == 1 {
        return edges;
    }
    let mut nodes = Nodes::default();
    for edge in &mut edges {
        (edge.from, edge.to) = (nodes.at(edge.from), nodes.at(edge.to));
    }
    let cuts = places_cut(&edges, &mut nodes);
    let mut kept = Vec::new();
    for (edge, mut places) in edges.into_iter().zip(cuts) {
        let along = |p: &(f64, f64)| length(edge.from, *p);
        places.sort_by(|a, b| along(a).total_cmp(&along(b)));
        places.push(edge.to);
        let mut from = edge.from;
        for to in places {
            let part = BoundaryEdge { from, to, ..edge };
            if from != to && is_outer(&part, shapes) {
                kept.push(part);
            }
            from = to;
        }
    }
    kept
}

/// The places at which edges begin, end and cross: those that are near to each other are one, so
/// that what goes round a shape finds its next edge.
#[derive(Default)]
struct Nodes(Vec<(f64, f64)>);

impl Nodes {
    fn at(&mut self, place: (f64, f64)) -> (f64, f64) {
        // What is near to a side of the cell lies on it.
        let on_side = |part: f64| match part {
            part if part < 2.0 * NEAR => 0.0,
            part if part > 1.0 - 2.0 * NEAR => 1.0,
            part => part,
        };
        let place = (on_side(place.0), on_side(place.1));
        let found = self.0.iter().copied().find(|held| length(*held, place) < 2.0 * NEAR);
        found.unwrap_or_else(|| {
            self.0.push(place);
            place
        })
    }
}

/// Where each edge is cut by those of other shapes: the same numbers on both.
fn places_cut(edges: &[BoundaryEdge], nodes: &mut Nodes) -> Vec<Vec<(f64, f64)>> {
    let mut cuts: Vec<Vec<(f64, f64)>> = vec![Vec::new(); edges.len()];
    for (at, a) in edges.iter().enumerate() {
        for (other, b) in edges.iter().enumerate().skip(at + 1).filter(|(_, b)| b.of != a.of) {
            // An end that lies on the other edge cuts it there.
            let mut ends = 0;
            for (edge, cut, place) in
                [(a, at, b.from), (a, at, b.to), (b, other, a.from), (b, other, a.to)]
            {
                if lies_on(edge, place) {
                    ends += 1;
                    cuts[cut].push(place);
                }
            }
            let (d, e) = (inside(a.from, a.to, b.from), inside(a.from, a.to, b.to));
            let (f, g) = (inside(b.from, b.to, a.from), inside(b.from, b.to, a.to));
            if ends == 0 && d * e < 0.0 && f * g < 0.0 {
                let part = d / (d - e);
                let place = |from: f64, to: f64| CellShape::on_net(from + (to - from) * part);
                let place = nodes.at((place(b.from.0, b.to.0), place(b.from.1, b.to.1)));
                cuts[at].push(place);
                cuts[other].push(place);
            }
        }
    }
    cuts
}

/// Whether a place lies on an edge, or at one of its ends.
fn lies_on(edge: &BoundaryEdge, place: (f64, f64)) -> bool {
    let (a, b) = (edge.from, edge.to);
    let way = length(a, b);
    inside(a, b, place).abs() <= NEAR * way && length(a, place) + length(place, b) <= way + NEAR
}

/// Whether no other shape of the kind covers a part of an edge that none cuts any more.
fn is_outer<K: PartialEq>(edge: &BoundaryEdge, shapes: &[(CellShape, K)]) -> bool {
    let (from, to) = (edge.from, edge.to);
    let middle = (f64::midpoint(from.0, to.0), f64::midpoint(from.1, to.1));
    let kind = &shapes[edge.of].1;
    let others =
        shapes.iter().enumerate().filter(|(at, (_, other))| *at != edge.of && other == kind);
    { others }.all(|(at, (shape, _))| {
        let distance = |(a, b)| inside(a, b, middle) / length(a, b);
        if pairs(shape.corners()).any(|edge| distance(edge) < -NEAR) {
            return true;
        }
        // Within it, or along its edge: the same way both are one, against it they touch.
        pairs(shape.corners()).find(|edge| distance(*edge) <= NEAR).is_some_and(|(a, b)| {
            let goes_with = (b.0 - a.0) * (to.0 - from.0) + (b.1 - a.1) * (to.1 - from.1);
            goes_with > 0.0 && at > edge.of
        })
    })
}

/// Which of some shapes hang together by more than corners: by number, the least of those with
/// which each does.
pub(crate) fn joined(shapes: &[CellShape]) -> Vec<usize> {
    let mut of: Vec<usize> = (0..shapes.len()).collect();
    for (at, a) in shapes.iter().enumerate() {
        for (other, b) in shapes.iter().enumerate().skip(at + 1) {
            if of[at] != of[other] && touch(a, b) {
                let (kept, gone) = (of[at].min(of[other]), of[at].max(of[other]));
                of.iter_mut().filter(|of| **of == gone).for_each(|of| *of = kept);
            }
        }
    }
    of
}

/// Whether two shapes overlap, or have more than a corner of their edges in common.
fn touch(a: &CellShape, b: &CellShape) -> bool {
    let common = pairs(b.corners())
        .fold(a.corners().to_vec(), |common, edge| clipped(&common, edge, Keep::InsideOrNear));
    let spans = |p: &(f64, f64)| common.iter().any(|q| length(*p, *q) > 4.0 * NEAR);
    common.first().is_some_and(spans) || common.iter().any(spans)
}
