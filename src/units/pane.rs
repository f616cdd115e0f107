use std::fmt;
use std::ops::{Mul, Neg};

use super::world::sums;

/// A place on the pane, the picture before the camera: x right, y down, one unit is one picture
/// pixel at zoom 1.
///
/// Seen from straight above, the pane shows the ground as it is; at a slant, a
/// [`Projection`](crate::view::Projection) lies between them.
#[derive(Clone, Copy, Debug, Default, PartialEq)]
pub struct PanePoint {
    /// Picture pixels to the right.
    pub x: f64,
    /// Picture pixels down.
    pub y: f64,
}

impl PanePoint {
    /// Returns the place `x` picture pixels to the right and `y` down.
    pub const fn new(x: f64, y: f64) -> PanePoint {
        PanePoint { x, y }
    }
}

impl fmt::Display for PanePoint {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(f, "{},{}", self.x, self.y)
    }
}

/// The vector from one place on the pane to another, in picture pixels at zoom 1.
#[derive(Clone, Copy, Debug, Default, PartialEq)]
pub struct PaneVec {
    /// Picture pixels to the right.
    pub x: f64,
    /// Picture pixels down.
    pub y: f64,
}

impl PaneVec {
    /// The zero vector.
    pub const ZERO: PaneVec = PaneVec { x: 0.0, y: 0.0 };

    /// Returns the vector of `x` picture pixels to the right and `y` down.
    pub const fn new(x: f64, y: f64) -> PaneVec {
        PaneVec { x, y }
    }
}

sums! {
    PaneVec + PaneVec = PaneVec: Add, add;
    PaneVec - PaneVec = PaneVec: Sub, sub;
    PanePoint - PanePoint = PaneVec: Sub, sub;
    PanePoint + PaneVec = PanePoint: Add, add;
    PanePoint - PaneVec = PanePoint: Sub, sub;
}

impl Neg for PaneVec {
    type Output = PaneVec;

    fn neg(self) -> PaneVec {
        PaneVec { x: -self.x, y: -self.y }
    }
}

impl Mul<f64> for PaneVec {
    type Output = PaneVec;

    fn mul(self, factor: f64) -> PaneVec {
        PaneVec { x: self.x * factor, y: self.y * factor }
    }
}

/// A rectangle on the pane.
///
/// **Guarantees.** It is half-open (its left and top edges belong to it, its right and bottom
/// edges do not) and ordered by construction; its numbers are finite.
#[derive(Clone, Copy, Debug, Default, PartialEq)]
pub struct PaneRect {
    min: PanePoint,
    max: PanePoint,
}

impl PaneRect {
    /// Returns the rectangle between two corners, whichever way round they are given. A coordinate
    /// that is not a number counts as 0, and one that is infinite as the greatest number there is.
    #[inline]
    pub fn between(a: PanePoint, b: PanePoint) -> PaneRect {
        PaneRect::around([a, b])
    }

    /// Returns the smallest rectangle around some points, with the same rule for odd numbers; of no
    /// points, an empty one at the origin.
    #[inline]
    pub fn around(points: impl IntoIterator<Item = PanePoint>) -> PaneRect {
        let number = |v: f64| if v.is_nan() { 0.0 } else { v.clamp(f64::MIN, f64::MAX) };
        let mut points = points.into_iter().map(|at| PanePoint::new(number(at.x), number(at.y)));
        let first = points.next().unwrap_or_default();
        points.fold(PaneRect { min: first, max: first }, |rect, at| PaneRect {
            min: PanePoint::new(rect.min.x.min(at.x), rect.min.y.min(at.y)),
            max: PanePoint::new(rect.max.x.max(at.x), rect.max.y.max(at.y)),
        })
    }

    /// Returns the top left corner, which belongs to the rectangle unless it is empty.
    pub const fn min(self) -> PanePoint {
        self.min
    }

    /// Returns the bottom right corner, which does not belong to the rectangle.
    pub const fn max(self) -> PanePoint {
        self.max
    }

    /// Returns the width in picture pixels.
    pub fn width(self) -> f64 {
        self.max.x - self.min.x
    }

    /// Returns the height in picture pixels.
    pub fn height(self) -> f64 {
        self.max.y - self.min.y
    }

    /// Returns the point in the middle.
    pub fn center(self) -> PanePoint {
        let middle = |min: f64, max: f64| {
            let half = (max - min) / 2.0;
            if half.is_finite() { min + half } else { min / 2.0 + max / 2.0 }
        };
        PanePoint::new(middle(self.min.x, self.max.x), middle(self.min.y, self.max.y))
    }

    /// Returns whether it holds no point.
    pub fn is_empty(self) -> bool {
        self.min.x >= self.max.x || self.min.y >= self.max.y
    }

    /// Returns whether `point` lies in it; the left and top edges do, the right and bottom edges do
    /// not.
    pub fn contains(self, point: PanePoint) -> bool {
        self.min.x <= point.x
            && point.x < self.max.x
            && self.min.y <= point.y
            && point.y < self.max.y
    }

    /// Returns this rectangle, moved by a vector.
    #[must_use]
    pub fn moved(self, by: PaneVec) -> PaneRect {
        PaneRect::between(self.min + by, self.max + by)
    }

    /// Returns the rectangle whose edges lie further out by so many picture pixels, each by its own
    /// number; a negative one moves the edge in.
    #[must_use]
    pub fn grown(self, left: f64, top: f64, right: f64, bottom: f64) -> PaneRect {
        let min = self.min - PaneVec::new(left, top);
        let max = self.max + PaneVec::new(right, bottom);
        PaneRect::between(min, PanePoint::new(max.x.max(min.x), max.y.max(min.y)))
    }

    /// Whether it has more than an edge in common with another rectangle.
    pub(crate) fn overlaps(self, other: PaneRect) -> bool {
        self.min.x < other.max.x
            && other.min.x < self.max.x
            && self.min.y < other.max.y
            && other.min.y < self.max.y
    }
}

impl fmt::Display for PaneRect {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(f, "{} × {} px at {}", self.width(), self.height(), self.min)
    }
}
