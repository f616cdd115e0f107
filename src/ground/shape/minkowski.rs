//! The time at which a body that moves in a straight line touches the solid part of a cell.
//!
//! A body that moves among outlines is a point that moves among their Minkowski sums with the body
//! turned half way round (T. Lozano-Pérez, "Spatial Planning: A Configuration Space Approach", IEEE
//! Transactions on Computers 32, 1983). The sum of two convex outlines is convex, and its edges are
//! theirs in the order of their directions; the radius of a body moves them out and puts arcs
//! between them.

use super::core::Core;
use crate::tile::CellShape;
use crate::units::{Side, WorldVec, uppermost};

/// The most edges: those of a convex shape and those of a body.
const MAX: usize = 2 * CellShape::MAX_CORNERS;

/// So little of a motion leads nowhere: it is along an edge, and not into it.
const ALONG: f64 = 1e-12;

/// A part of the outline of what is solid in a cell, see
/// [`GroundMap::solids_at`](crate::GroundMap::solids_at).
///
/// Corners are counted clockwise as they are seen, beginning with the uppermost, of two the one to
/// the left: those of a whole square cell begin at the upper left.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
#[non_exhaustive]
pub enum ShapePart {
    /// The edge from the corner of this number to the next.
    Edge(u8),
    /// The corner of this number.
    Corner(u8),
}

impl ShapePart {
    /// The edge of a whole cell on a side.
    pub(crate) const fn of_side(side: Side) -> ShapePart {
        ShapePart::Edge(match side {
            Side::Top => 0,
            Side::Right => 1,
            Side::Bottom => 2,
            Side::Left => 3,
        })
    }
}

/// Where the point of a body must not be, from the upper left corner of a cell.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Sum {
    edges: [Edge; MAX],
    count: usize,
}

#[derive(Clone, Copy, Debug)]
struct Edge {
    from: WorldVec,
    to: WorldVec,
    normal: WorldVec,
    /// Of the convex shape: the edge, or the corner that an edge of the body meets.
    part: ShapePart,
}

impl Edge {
    const NONE: Edge = Edge {
        from: WorldVec::ZERO,
        to: WorldVec::ZERO,
        normal: WorldVec::ZERO,
        part: ShapePart::Corner(0),
    };
}

/// How a body touches a convex shape.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Touch {
    /// The part of the motion until then.
    pub(crate) fraction: f64,
    /// Away from the convex shape, one unit long.
    pub(crate) normal: WorldVec,
    pub(crate) part: ShapePart,
}

// Make.
impl Sum {
    /// The sum with a point: the convex shape itself.
    pub(crate) fn of_point(corners: &[WorldVec], normals: &[WorldVec]) -> Sum {
        let mut sum = Sum { edges: [Edge::NONE; MAX], count: corners.len() };
        for (at, edge) in sum.edges.iter_mut().enumerate().take(corners.len()) {
            let (from, to) = (corners[at], corners[(at + 1) % corners.len()]);
            *edge = Edge { from, to, normal: normals[at], part: ShapePart::Edge(at as u8) };
        }
        sum
    }

    /// The sum of a convex shape, by its corners and the normals of the edges behind them, and a body.
    pub(crate) fn of_body(corners: &[WorldVec], normals: &[WorldVec], core: &Core) -> Sum {
        let mut own = [WorldVec::ZERO; CellShape::MAX_CORNERS];
        let body = &mut own[..core.count];
        body.iter_mut().zip(core.corners()).for_each(|(own, corner)| *own = -*corner);
        // The corners of a convex shape begin with the uppermost.
        let start = uppermost(body.iter().map(|v| (v.x, v.y)));
        let (n, m) = (corners.len(), if body.len() > 1 { body.len() } else { 0 });
        let mut sum = Sum { edges: [Edge::NONE; MAX], count: 0 };
        let (mut i, mut j) = (0, 0);
        let mut at = corners[0] + body[start];
        while i < n || j < m {
            let of_convex = (i < n).then(|| corners[(i + 1) % n] - corners[i]);
            let of_body = (j < m)
                .then(|| body[(start + j + 1) % body.len()] - body[(start + j) % body.len()]);
            let (way, part, is_of_convex) = match (of_convex, of_body) {
                (Some(a), Some(b)) if a.cross(b) == 0.0 && a.dot(b) > 0.0 => {
                    j += 1;
                    (a + b, ShapePart::Edge(i as u8), true)
                }
                (Some(a), Some(b)) if is_first(a, b) => (a, ShapePart::Edge(i as u8), true),
                (Some(a), None) => (a, ShapePart::Edge(i as u8), true),
                (_, Some(b)) => (b, ShapePart::Corner((i % n) as u8), false),
                (None, None) => break,
            };
            let to = at + way;
            let normal = if is_of_convex { normals[i] } else { way.outwards() };
            i += usize::from(is_of_convex);
            j += usize::from(!is_of_convex);
            sum.edges[sum.count] = Edge { from: at, to, normal, part };
            sum.count += 1;
            at = to;
        }
        sum
    }

    fn edges(&self) -> &[Edge] {
        &self.edges[..self.count]
    }

    /// Its edges without the radius, each with the direction away from it.
    pub(crate) fn lines(&self) -> impl Iterator<Item = (WorldVec, WorldVec, WorldVec)> {
        self.edges().iter().map(|edge| (edge.from, edge.to, edge.normal))
    }
}

/// How far a point lies from an edge, how fast it comes nearer (below 0), and how thick a skin is
/// across the edge.
#[inline]
fn axis_motion(
    Edge { from, normal, .. }: &Edge,
    (point, radius): (WorldVec, f64),
    motion: WorldVec,
    skin: WorldVec,
) -> (f64, f64, f64) {
    let distance = normal.dot(point - *from) - radius;
    (distance, normal.dot(motion), thickness(*normal, skin))
}

/// How thick a skin is in a direction: as much as its width and its height in those, and between
/// them as in an ellipse.
fn thickness(normal: WorldVec, skin: WorldVec) -> f64 {
    if skin.x == skin.y {
        skin.x
    } else {
        WorldVec::new(normal.x * skin.x, normal.y * skin.y).length()
    }
}

/// Of two directions of edges that begin at the uppermost corners, which comes first on the way
/// round.
fn is_first(a: WorldVec, b: WorldVec) -> bool {
    // The first half of the way leads down, or to the right.
    let is_second_half = |v: WorldVec| v.y < 0.0 || (v.y == 0.0 && v.x < 0.0);
    match (is_second_half(a), is_second_half(b)) {
        (false, true) => true,
        (true, false) => false,
        _ => a.cross(b) > 0.0,
    }
}

// Ask.
impl Sum {
    /// How deep a point lies in it: how far it is to the nearest edge; less than 0 where it lies
    /// outside. And the direction to there.
    pub(crate) fn depth(&self, point: WorldVec, radius: f64) -> (f64, WorldVec) {
        let distance = |edge: &Edge| edge.normal.dot(point - edge.from);
        let mut nearest = (f64::NEG_INFINITY, WorldVec::ZERO);
        for edge in self.edges() {
            let distance = distance(edge);
            if distance > nearest.0 {
                nearest = (distance, edge.normal);
            }
        }
        if nearest.0 <= 0.0 || radius == 0.0 {
            return (radius - nearest.0, nearest.1);
        }
        // Outside of the edges, the nearest point of them counts.
        let mut way = WorldVec::new(f64::INFINITY, 0.0);
        for edge in self.edges().iter().filter(|edge| distance(edge) > 0.0) {
            let along = edge.to - edge.from;
            let share = (along.dot(point - edge.from) / along.dot(along)).clamp(0.0, 1.0);
            let there = point - (edge.from + along * share);
            if there.dot(there) < way.dot(way) {
                way = there;
            }
        }
        let length = way.length();
        (radius - length, way * (1.0 / length))
    }

    /// Whether a point lies in it by more than a skin.
    pub(crate) fn holds(&self, point: WorldVec, radius: f64, skin: WorldVec) -> bool {
        if radius > 0.0 {
            let (depth, normal) = self.depth(point, radius);
            return depth > thickness(normal, skin);
        }
        let is_deep =
            |edge: &Edge| edge.normal.dot(point - edge.from) < -thickness(edge.normal, skin);
        self.edges().iter().all(is_deep)
    }

    /// When a point that moves comes into it. One that lies in it by more than a skin does not,
    /// and neither does one that lies less deep than that behind an edge when it leaves it. Of
    /// edges that it comes to within a skin of each other, one of the convex shape counts before one of the
    /// body, and then the one that is more of a floor or ceiling: so a slope is met where it rises
    /// from a floor, and not its tip.
    ///
    /// `fits` says which directions stop it; from all others it goes in unhindered.
    pub(crate) fn enter(
        &self,
        (point, radius): (WorldVec, f64),
        motion: WorldVec,
        skin: WorldVec,
        fits: impl Fn(WorldVec) -> bool,
    ) -> Option<Touch> {
        let along = ALONG * motion.x.abs().max(motion.y.abs());
        let (mut enter, mut leave) = (0.0, f64::INFINITY);
        let (mut by, mut is_outside) = (0, false);
        for (at, edge) in self.edges().iter().enumerate() {
            let (distance, speed, thickness) = axis_motion(edge, (point, radius), motion, skin);
            if speed < -along {
                if distance >= -thickness {
                    is_outside = true;
                    let time = distance.max(0.0) / -speed;
                    if time >= enter {
                        (enter, by) = (time, at);
                    }
                }
            } else if distance >= -thickness {
                return None;
            } else if speed > along {
                leave = f64::min(leave, (-thickness - distance) / speed);
            }
        }
        if enter >= leave || enter >= 1.0 {
            return None;
        }
        if radius > 0.0 {
            let by = is_outside.then_some(by);
            return self.enter_round(
                (point, radius),
                motion,
                skin.x.min(skin.y),
                (enter, by),
                fits,
            );
        }
        if !is_outside {
            return None;
        }
        let order = |edge: &Edge| (matches!(edge.part, ShapePart::Corner(_)), -edge.normal.y.abs());
        for (at, edge) in self.edges().iter().enumerate() {
            let (distance, speed, thickness) = axis_motion(edge, (point, radius), motion, skin);
            let is_near = speed < -along && distance + speed * enter >= -thickness;
            if is_near && order(edge) < order(&self.edges[by]) {
                by = at;
            }
        }
        let Edge { normal, part, .. } = self.edges[by];
        fits(normal).then_some(Touch { fraction: enter, normal, part })
    }

    /// The same where the edges have arcs between them: it has come to the edges, moved out by the
    /// radius, at a time.
    fn enter_round(
        &self,
        (point, radius): (WorldVec, f64),
        motion: WorldVec,
        skin: f64,
        (time, by): (f64, Option<usize>),
        fits: impl Fn(WorldVec) -> bool,
    ) -> Option<Touch> {
        let there = point + motion * time;
        let distance = |at: usize| self.edges[at].normal.dot(there - self.edges[at].from);
        let nearest = |a: usize, b: usize| if distance(b) > distance(a) { b } else { a };
        let at = by.unwrap_or_else(|| (1..self.count).fold(0, nearest));
        let Edge { from, to, normal, part } = self.edges[at];
        let way = to - from;
        let (before, behind) = (way.dot(there - from) < 0.0, way.dot(there - to) > 0.0);
        if !before && !behind {
            let touch = Touch { fraction: time, normal, part };
            return (by.is_some() && time < 1.0 && fits(normal)).then_some(touch);
        }
        if by.is_none() && distance(at) <= 0.0 {
            return None;
        }
        // Beside the end of the edge it can only come to the arc there.
        let end = if before { from } else { to };
        let next = if before { at } else { (at + 1) % self.count };
        let (ShapePart::Edge(corner) | ShapePart::Corner(corner)) = self.edges[next].part;
        let from_end = point - end;
        let (speed, square) = (from_end.dot(motion), motion.dot(motion));
        let nearest = from_end.cross(motion).abs() / square.sqrt();
        let is_in = from_end.length() < radius - skin;
        if speed >= 0.0 || nearest >= radius || is_in {
            return None;
        }
        let half = (radius * radius - nearest * nearest).max(0.0).sqrt() / square.sqrt();
        let fraction = (-speed / square - half).max(0.0);
        let away = from_end + motion * fraction;
        let normal = away * (1.0 / away.length());
        let touch = Touch { fraction, normal, part: ShapePart::Corner(corner) };
        (fraction < 1.0 && fits(normal)).then_some(touch)
    }
}
