use std::fmt;
use std::ops::{Mul, Neg};

/// A place in the world: x right, y down, one unit is one picture pixel at zoom 1.
#[derive(Clone, Copy, Debug, Default, PartialEq)]
pub struct WorldPoint {
    /// Units to the right.
    pub x: f64,
    /// Units down.
    pub y: f64,
}

impl WorldPoint {
    /// Returns the place `x` units to the right and `y` units down.
    pub const fn new(x: f64, y: f64) -> WorldPoint {
        WorldPoint { x, y }
    }

    #[inline]
    pub(crate) fn is_finite(self) -> bool {
        self.x.is_finite() && self.y.is_finite()
    }
}

impl fmt::Display for WorldPoint {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(f, "{},{}", self.x, self.y)
    }
}

/// The vector from one place in the world to another, in world units.
#[derive(Clone, Copy, Debug, Default, PartialEq)]
pub struct WorldVec {
    /// Units to the right.
    pub x: f64,
    /// Units down.
    pub y: f64,
}

impl WorldVec {
    /// The zero vector.
    pub const ZERO: WorldVec = WorldVec { x: 0.0, y: 0.0 };

    /// Returns the vector of `x` units to the right and `y` units down.
    pub const fn new(x: f64, y: f64) -> WorldVec {
        WorldVec { x, y }
    }

    /// Returns the length: to the last bit the same on all machines.
    #[inline]
    pub fn length(self) -> f64 {
        let square = self.dot(self);
        if square.is_normal() { square.sqrt() } else { self.scaled_length() }
    }

    /// As `length`, for a vector so long or so short that its square is not a number.
    #[cold]
    fn scaled_length(self) -> f64 {
        let longest = self.x.abs().max(self.y.abs());
        if self == WorldVec::ZERO || longest.is_infinite() {
            return longest;
        }
        let (x, y) = (self.x / longest, self.y / longest);
        (x * x + y * y).sqrt() * longest
    }

    /// Returns the product of its length and that of another, as far as that leads the same way.
    #[inline]
    pub fn dot(self, other: WorldVec) -> f64 {
        self.x * other.x + self.y * other.y
    }

    #[inline]
    pub(crate) fn is_finite(self) -> bool {
        self.x.is_finite() && self.y.is_finite()
    }

    /// The area between it and another, more than 0 where the other turns clockwise from it as it
    /// is seen.
    pub(crate) fn cross(self, other: WorldVec) -> f64 {
        self.x * other.y - self.y * other.x
    }

    /// The direction away from an edge that leads this way, of an outline that goes round clockwise:
    /// one unit long, and exact where the edge is straight.
    pub(crate) fn outwards(self) -> WorldVec {
        if self.x == 0.0 {
            WorldVec::new(if self.y > 0.0 { 1.0 } else { -1.0 }, 0.0)
        } else if self.y == 0.0 {
            WorldVec::new(0.0, if self.x > 0.0 { -1.0 } else { 1.0 })
        } else {
            WorldVec::new(self.y, -self.x) * (1.0 / self.length())
        }
    }
}

/// Each corner with the next one, round and round: the last with the first.
pub(crate) fn pairs<T: Copy>(corners: &[T]) -> impl Iterator<Item = (T, T)> {
    let next = corners.iter().skip(1).chain(corners.first());
    corners.iter().copied().zip(next.copied())
}

/// Whether a polygon holds a place: an odd number of its sides cross the level of the place to its
/// right (M. Shimrat, "Algorithm 112: Position of point relative to polygon", CACM 1962). A side
/// reaches from its upper end up to, but not with, its lower one.
pub(crate) fn polygon_holds(polygon: &[WorldPoint], place: WorldPoint) -> bool {
    let crossings = pairs(polygon).filter(|(a, b)| {
        let reaches = (a.y > place.y) != (b.y > place.y);
        reaches && place.x < a.x + (place.y - a.y) / (b.y - a.y) * (b.x - a.x)
    });
    crossings.count() % 2 == 1
}

/// Which of some corners is the uppermost; of two, the one to the left.
pub(crate) fn uppermost(corners: impl IntoIterator<Item = (f64, f64)>) -> usize {
    let mut corners = corners.into_iter().map(|(x, y)| (y, x)).enumerate();
    let first = corners.next().unwrap_or_default();
    corners.fold(first, |first, next| if next.1 < first.1 { next } else { first }).0
}

/// Defines sums and differences of what has an `x` and a `y`.
macro_rules! sums {
    ($($left:ident $op:tt $right:ident = $result:ident: $trait:ident, $method:ident;)+) => {$(
        impl std::ops::$trait<$right> for $left {
            type Output = $result;

            fn $method(self, other: $right) -> $result {
                $result { x: self.x $op other.x, y: self.y $op other.y }
            }
        }
    )+};
}

pub(super) use sums;

sums! {
    WorldVec + WorldVec = WorldVec: Add, add;
    WorldVec - WorldVec = WorldVec: Sub, sub;
    WorldPoint - WorldPoint = WorldVec: Sub, sub;
    WorldPoint + WorldVec = WorldPoint: Add, add;
    WorldPoint - WorldVec = WorldPoint: Sub, sub;
}

impl Neg for WorldVec {
    type Output = WorldVec;

    fn neg(self) -> WorldVec {
        WorldVec { x: -self.x, y: -self.y }
    }
}

impl Mul<f64> for WorldVec {
    type Output = WorldVec;

    fn mul(self, factor: f64) -> WorldVec {
        WorldVec { x: self.x * factor, y: self.y * factor }
    }
}

/// A rectangle in the world.
///
/// **Guarantees.** It is half-open (its left and top edges belong to it, its right and bottom
/// edges do not) and ordered by construction: its size is never negative nor NaN.
#[derive(Clone, Copy, Debug, Default, PartialEq)]
pub struct WorldRect {
    min: WorldPoint,
    max: WorldPoint,
}

impl WorldRect {
    /// Returns the rectangle between two corners, whichever way round they are given. A coordinate
    /// that is not a number counts as 0, and one that is infinite as the greatest number there is.
    #[inline]
    pub fn between(a: WorldPoint, b: WorldPoint) -> WorldRect {
        let number = |v: f64| if v.is_finite() { v } else { finite(v) };
        let (ax, ay, bx, by) = (number(a.x), number(a.y), number(b.x), number(b.y));
        WorldRect {
            min: WorldPoint::new(ax.min(bx), ay.min(by)),
            max: WorldPoint::new(ax.max(bx), ay.max(by)),
        }
    }

    /// The smallest one around some points, of which none is NaN; of no points, at the origin.
    pub(crate) fn around(points: impl IntoIterator<Item = WorldPoint>) -> WorldRect {
        let mut points = points.into_iter();
        let first = points.next().unwrap_or_default();
        let ends = points.fold((first, first), |(min, max), at| {
            let min = WorldPoint::new(min.x.min(at.x), min.y.min(at.y));
            (min, WorldPoint::new(max.x.max(at.x), max.y.max(at.y)))
        });
        WorldRect::between(ends.0, ends.1)
    }

    /// The rectangle between two points that are numbers, the first of which lies above and to the
    /// left.
    pub(crate) fn ordered(min: WorldPoint, max: WorldPoint) -> WorldRect {
        debug_assert!(min.x <= max.x && min.y <= max.y, "{min:?} and {max:?} are in order");
        WorldRect { min, max }
    }

    /// Returns the top left corner, which belongs to the rectangle unless it is empty.
    pub const fn min(self) -> WorldPoint {
        self.min
    }

    /// Returns the bottom right corner, which does not belong to the rectangle.
    pub const fn max(self) -> WorldPoint {
        self.max
    }

    /// Returns the width in world units.
    pub fn width(self) -> f64 {
        self.max.x - self.min.x
    }

    /// Returns the height in world units.
    pub fn height(self) -> f64 {
        self.max.y - self.min.y
    }

    /// Returns the point in the middle.
    pub fn center(self) -> WorldPoint {
        let middle = |min: f64, max: f64| {
            let half = (max - min) / 2.0;
            if half.is_finite() { min + half } else { min / 2.0 + max / 2.0 }
        };
        WorldPoint::new(middle(self.min.x, self.max.x), middle(self.min.y, self.max.y))
    }

    /// Returns whether it holds no point.
    pub fn is_empty(self) -> bool {
        self.min.x >= self.max.x || self.min.y >= self.max.y
    }

    /// Returns whether `point` lies in it; the left and top edges do, the right and bottom edges do
    /// not.
    pub fn contains(self, point: WorldPoint) -> bool {
        self.min.x <= point.x
            && point.x < self.max.x
            && self.min.y <= point.y
            && point.y < self.max.y
    }

    /// Returns this rectangle `way` further.
    pub fn moved(self, way: WorldVec) -> WorldRect {
        WorldRect::between(self.min + way, self.max + way)
    }

    /// The same as [`WorldRect::moved`] for a finite way, without a check for NaN; for
    /// another way it is no rectangle of numbers.
    pub(crate) fn shifted(self, way: WorldVec) -> WorldRect {
        WorldRect { min: self.min + way, max: self.max + way }
    }

    /// Returns the rectangle whose edges lie `by` units further out on all sides; a negative `by`
    /// moves them in, down to an empty rectangle in the middle.
    pub fn grown(self, by: f64) -> WorldRect {
        let x = by.max(-self.width() / 2.0);
        let y = by.max(-self.height() / 2.0);
        WorldRect::between(self.min - WorldVec::new(x, y), self.max + WorldVec::new(x, y))
    }
}

/// The number that a coordinate counts as which is not a finite one.
#[cold]
fn finite(v: f64) -> f64 {
    if v.is_nan() { 0.0 } else { v.clamp(f64::MIN, f64::MAX) }
}

impl fmt::Display for WorldRect {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(f, "{} × {} units at {}", self.width(), self.height(), self.min)
    }
}
