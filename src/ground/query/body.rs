//! Bodies: what moves over the ground.

use crate::ground::shape::Core;
use crate::units::{WorldPoint, WorldRect, WorldVec, pairs};

/// A body that can move over the ground: a [`WorldRect`], a [`Circle`], a [`Capsule`] or a
/// [`ConvexPolygon`].
///
/// A body that spans more than [`MAX_BODY_CELLS`] cells, or lies 2⁴⁰ cells from the origin, counts as
/// the box around it, and one that is thinner than four times [`SKIN`] as so thick.
///
/// [`MAX_BODY_CELLS`]: crate::GroundMap::MAX_BODY_CELLS
/// [`SKIN`]: crate::GroundMap::SKIN
pub trait Body: hidden::Body + Copy + PartialEq + std::fmt::Debug {
    /// The rectangle around it.
    fn bounds(&self) -> WorldRect;

    /// The same body `way` further.
    #[must_use]
    fn moved(&self, way: WorldVec) -> Self;

    /// Its corners, clockwise as they are seen: to draw it. Of what is round, those of a polygon of
    /// 64 corners with as large an area.
    fn outline(&self) -> Vec<WorldPoint> {
        let core = hidden::Body::core(self, 0.0);
        core.outline().into_iter().map(|corner| core.at + corner).collect()
    }
}

/// A disc.
///
/// ```
/// use sturdy_quilt::ground::Circle;
/// use sturdy_quilt::{GroundMap, WorldPoint, WorldVec};
/// # let quilt = sturdy_quilt::doc_quilt();
///
/// let (ground, walker) = (GroundMap::of(&quilt), quilt.mover("walker")?);
/// let ball = Circle::new(WorldPoint::new(8.0, 8.0), 4.0);
/// // The wall is the cell 2,0: its left side lies at x = 32.
/// let sweep = ground.sweep(walker, ball, WorldVec::new(40.0, 0.0));
/// assert_eq!((sweep.fraction, sweep.end.center.x), (0.5, 28.0));
/// # Ok::<(), sturdy_quilt::NameError>(())
/// ```
#[derive(Clone, Copy, Debug, PartialEq)]
#[non_exhaustive]
pub struct Circle {
    /// Its middle.
    pub center: WorldPoint,
    /// From there to its edge, in world units.
    pub radius: f64,
}

impl Circle {
    /// Returns the disc around a point. A radius that is negative or NaN counts as 0.
    pub const fn new(center: WorldPoint, radius: f64) -> Circle {
        Circle { center, radius: radius.max(0.0) }
    }
}

/// A capsule, all that is as near to the line between two points as its radius: a body that is
/// round above and below.
#[derive(Clone, Copy, Debug, PartialEq)]
#[non_exhaustive]
pub struct Capsule {
    /// One end of the line.
    pub from: WorldPoint,
    /// The other one.
    pub to: WorldPoint,
    /// From there to its edge, in world units.
    pub radius: f64,
}

impl Capsule {
    /// Returns the capsule around the line between two points. A radius that is negative or NaN
    /// counts as 0.
    pub const fn new(from: WorldPoint, to: WorldPoint, radius: f64) -> Capsule {
        Capsule { from, to, radius: radius.max(0.0) }
    }
}

/// A convex polygon.
///
/// **Guarantees.** Three to [`ConvexPolygon::MAX_CORNERS`] corners that are finite, clockwise as
/// they are seen, and an area of more than 0.
///
/// ```
/// use sturdy_quilt::ground::ConvexPolygon;
/// use sturdy_quilt::WorldPoint;
///
/// let kite = [(8.0, 0.0), (12.0, 6.0), (8.0, 16.0), (4.0, 6.0)];
/// let kite = ConvexPolygon::new(kite.map(|(x, y)| WorldPoint::new(x, y))).unwrap();
/// assert_eq!(kite.corners().len(), 4);
/// ```
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct ConvexPolygon {
    corners: [WorldPoint; ConvexPolygon::MAX_CORNERS],
    count: usize,
}

impl ConvexPolygon {
    /// The most corners.
    pub const MAX_CORNERS: usize = Core::MAX_CORNERS;

    /// Returns the smallest convex polygon around some points: they may be given in any order.
    /// `None` where one is not finite, all lie in a line, or more than
    /// [`ConvexPolygon::MAX_CORNERS`] corners are left.
    ///
    /// By the monotone chain of A. Andrew, "Another Efficient Algorithm for Convex Hulls in Two
    /// Dimensions", Information Processing Letters 9, 1979.
    pub fn new(points: impl IntoIterator<Item = WorldPoint>) -> Option<ConvexPolygon> {
        ConvexPolygon::around(points.into_iter().collect())
    }

    /// As [`ConvexPolygon::new`], compiled once.
    fn around(mut points: Vec<WorldPoint>) -> Option<ConvexPolygon> {
        if !points.iter().all(|point| point.is_finite()) {
            return None;
        }
        points.sort_unstable_by(|a, b| a.x.total_cmp(&b.x).then(a.y.total_cmp(&b.y)));
        points.dedup();
        let chain = |points: &mut dyn Iterator<Item = WorldPoint>| {
            let mut chain: Vec<WorldPoint> = Vec::new();
            for point in points {
                while let [.., a, b] = chain[..]
                    && (b - a).cross(point - b) <= 0.0
                {
                    chain.pop();
                }
                chain.push(point);
            }
            chain.pop();
            chain
        };
        let mut around = chain(&mut points.iter().copied());
        around.extend(chain(&mut points.iter().rev().copied()));
        if !(3..=ConvexPolygon::MAX_CORNERS).contains(&around.len()) {
            return None;
        }
        let mut corners = [WorldPoint::default(); ConvexPolygon::MAX_CORNERS];
        corners[..around.len()].copy_from_slice(&around);
        Some(ConvexPolygon { corners, count: around.len() })
    }

    /// Returns its corners, clockwise.
    pub fn corners(&self) -> &[WorldPoint] {
        &self.corners[..self.count]
    }
}

/// How bodies are seen by the ground alone.
pub(super) mod hidden {
    use super::Core;
    use crate::units::{WorldRect, WorldVec};

    pub trait Body: Copy {
        /// What it is made of; what is thinner than `least` is made so wide.
        fn core(&self, least: f64) -> Core;

        /// The same body, moved a little so that it touches a straight edge exactly: its side
        /// against a `normal` comes to `place`.
        #[must_use]
        fn touching(self, _normal: WorldVec, _place: f64) -> Self {
            self
        }

        /// The rectangle that it is, if it is an upright one: boxes have ways of their own.
        #[inline]
        fn as_box(&self) -> Option<WorldRect> {
            None
        }

        /// The same body where a box around it has come to.
        #[must_use]
        #[inline]
        fn placed(self, bounds: WorldRect) -> Self
        where
            Self: super::Body,
        {
            self.moved(bounds.min() - self.bounds().min())
        }
    }
}

/// The place of the middle of a body whose side is to come to an edge.
fn beside(normal: f64, place: f64, from: f64, to: f64) -> (f64, f64) {
    if normal < 0.0 { (place - (to - from), place) } else { (place, place + (to - from)) }
}

impl Body for WorldRect {
    fn bounds(&self) -> WorldRect {
        *self
    }

    fn moved(&self, way: WorldVec) -> WorldRect {
        WorldRect::moved(*self, way)
    }
}

impl hidden::Body for WorldRect {
    fn core(&self, least: f64) -> Core {
        let (min, max) = (self.min(), self.max());
        let missing = |length: f64| ((least - length) / 2.0).max(0.0);
        let (x, y) = (missing(self.width()), missing(self.height()));
        let (right, bottom) = (max.x - min.x + x, max.y - min.y + y);
        let corners = [(-x, -y), (right, -y), (right, bottom), (-x, bottom)];
        let corners = corners.map(|(x, y)| WorldVec::new(x, y));
        Core::of_box(min, &corners)
    }

    fn touching(self, normal: WorldVec, place: f64) -> WorldRect {
        let (mut min, mut max) = (self.min(), self.max());
        if normal.x != 0.0 {
            (min.x, max.x) = beside(normal.x, place, min.x, max.x);
        } else {
            (min.y, max.y) = beside(normal.y, place, min.y, max.y);
        }
        WorldRect::ordered(min, max)
    }

    #[inline]
    fn as_box(&self) -> Option<WorldRect> {
        Some(*self)
    }

    #[inline]
    fn placed(self, bounds: WorldRect) -> WorldRect {
        bounds
    }
}

impl Body for Circle {
    #[inline]
    fn bounds(&self) -> WorldRect {
        WorldRect::between(self.center, self.center).grown(self.radius)
    }

    #[inline]
    fn moved(&self, way: WorldVec) -> Circle {
        Circle { center: self.center + way, ..*self }
    }
}

impl hidden::Body for Circle {
    #[inline]
    fn core(&self, least: f64) -> Core {
        Core::round(self.center, self.radius.max(least / 2.0))
    }

    fn touching(mut self, normal: WorldVec, place: f64) -> Circle {
        if normal.x != 0.0 {
            self.center.x = place + normal.x * self.radius;
        } else {
            self.center.y = place + normal.y * self.radius;
        }
        self
    }
}

impl Body for Capsule {
    fn bounds(&self) -> WorldRect {
        WorldRect::between(self.from, self.to).grown(self.radius)
    }

    fn moved(&self, way: WorldVec) -> Capsule {
        Capsule { from: self.from + way, to: self.to + way, ..*self }
    }
}

impl hidden::Body for Capsule {
    fn core(&self, least: f64) -> Core {
        let line = [WorldVec::ZERO, self.to - self.from];
        let corners = if line[1] == WorldVec::ZERO { &line[..1] } else { &line[..] };
        Core::new(self.from, corners, self.radius.max(least / 2.0))
    }
}

impl Body for ConvexPolygon {
    fn bounds(&self) -> WorldRect {
        WorldRect::around(self.corners().iter().copied())
    }

    fn moved(&self, way: WorldVec) -> ConvexPolygon {
        ConvexPolygon { corners: self.corners.map(|corner| corner + way), ..*self }
    }
}

impl hidden::Body for ConvexPolygon {
    fn core(&self, least: f64) -> Core {
        let corners: [WorldVec; ConvexPolygon::MAX_CORNERS] =
            self.corners.map(|corner| corner - self.corners[0]);
        let corners = &corners[..self.count];
        let width = |(corner, next): (WorldVec, WorldVec)| {
            let edge = next - corner;
            let furthest = corners.iter().map(|c| edge.cross(*c - corner)).fold(0.0, f64::max);
            furthest / edge.length()
        };
        let width = pairs(corners).map(width).fold(f64::INFINITY, f64::min);
        Core::new(self.corners[0], corners, ((least - width) / 2.0).max(0.0))
    }
}
