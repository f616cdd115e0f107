use std::fmt;

use super::world::sums;

/// A place on the screen in pixels, from the top left corner of the view, x right and y down.
///
/// A whole number is the corner between pixels; the pixel itself lies at its centre, which
/// [`ScreenPoint::pixel`] gives.
#[derive(Clone, Copy, Debug, Default, PartialEq)]
pub struct ScreenPoint {
    /// Pixels to the right.
    pub x: f32,
    /// Pixels down.
    pub y: f32,
}

impl ScreenPoint {
    /// Returns the place `x` pixels to the right and `y` pixels down.
    pub const fn new(x: f32, y: f32) -> ScreenPoint {
        ScreenPoint { x, y }
    }

    /// Returns the centre of the pixel in column `x` and row `y`: what a pointer over that pixel
    /// means.
    ///
    /// ```
    /// use sturdy_quilt::ScreenPoint;
    ///
    /// assert_eq!(ScreenPoint::pixel(3, 0), ScreenPoint::new(3.5, 0.5));
    /// ```
    pub const fn pixel(x: u32, y: u32) -> ScreenPoint {
        ScreenPoint { x: x as f32 + 0.5, y: y as f32 + 0.5 }
    }
}

impl fmt::Display for ScreenPoint {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(f, "{},{}", self.x, self.y)
    }
}

/// The vector from one place on the screen to another, in pixels.
#[derive(Clone, Copy, Debug, Default, PartialEq)]
pub struct ScreenVec {
    /// Pixels to the right.
    pub x: f32,
    /// Pixels down.
    pub y: f32,
}

impl ScreenVec {
    /// Returns a vector in pixels to the right and down.
    pub const fn new(x: f32, y: f32) -> ScreenVec {
        ScreenVec { x, y }
    }
}

sums! {
    ScreenPoint - ScreenPoint = ScreenVec: Sub, sub;
    ScreenPoint + ScreenVec = ScreenPoint: Add, add;
}

/// A rectangle of whole pixels: from its left and top edge up to, but not with, its right and
/// bottom edge. It may lie beyond the screen.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Hash)]
pub struct ScreenRect {
    /// The first column of pixels.
    pub left: i32,
    /// The first row of pixels.
    pub top: i32,
    /// The column behind the last one; the same as `left` or less when empty.
    pub right: i32,
    /// The row behind the last one; the same as `top` or less when empty.
    pub bottom: i32,
}

impl ScreenRect {
    /// Returns all pixels of a screen.
    pub fn of_size(size: ScreenSize) -> ScreenRect {
        let edge = |length: u32| i32::try_from(length).unwrap_or(i32::MAX);
        ScreenRect { left: 0, top: 0, right: edge(size.width), bottom: edge(size.height) }
    }

    /// Returns whether it has no pixels.
    pub const fn is_empty(self) -> bool {
        self.left >= self.right || self.top >= self.bottom
    }

    /// Returns the number of its pixels.
    pub fn pixel_count(self) -> u64 {
        let length = |from: i32, to: i32| u64::try_from(i64::from(to) - i64::from(from));
        let (width, height) = (length(self.left, self.right), length(self.top, self.bottom));
        width.unwrap_or(0) * height.unwrap_or(0)
    }

    /// Returns the pixels that are in both; empty where there are none.
    ///
    /// ```
    /// use sturdy_quilt::units::ScreenRect;
    /// use sturdy_quilt::ScreenSize;
    ///
    /// let screen = ScreenRect::of_size(ScreenSize::new(320, 200));
    /// let moved = screen.moved(300, -50);
    /// let both = screen.intersection(moved);
    /// assert_eq!(both, ScreenRect { left: 300, top: 0, right: 320, bottom: 150 });
    /// assert_eq!(both.pixel_count(), 20 * 150);
    /// assert!(screen.intersection(screen.moved(320, 0)).is_empty());
    /// ```
    #[must_use]
    pub fn intersection(self, other: ScreenRect) -> ScreenRect {
        ScreenRect {
            left: self.left.max(other.left),
            top: self.top.max(other.top),
            right: self.right.min(other.right),
            bottom: self.bottom.min(other.bottom),
        }
    }

    /// The smallest rectangle around both; one that is empty does not count.
    pub(crate) fn union(self, other: ScreenRect) -> ScreenRect {
        if self.is_empty() {
            return other;
        }
        if other.is_empty() {
            return self;
        }
        ScreenRect {
            left: self.left.min(other.left),
            top: self.top.min(other.top),
            right: self.right.max(other.right),
            bottom: self.bottom.max(other.bottom),
        }
    }

    /// Returns this rectangle, moved by `x` pixels to the right and `y` down; it ends at the limits
    /// of `i32`.
    #[must_use]
    pub const fn moved(self, x: i32, y: i32) -> ScreenRect {
        ScreenRect {
            left: self.left.saturating_add(x),
            top: self.top.saturating_add(y),
            right: self.right.saturating_add(x),
            bottom: self.bottom.saturating_add(y),
        }
    }

    /// Returns whether a pixel, by column and row, is one of its pixels.
    pub const fn contains(self, x: i32, y: i32) -> bool {
        self.left <= x && x < self.right && self.top <= y && y < self.bottom
    }
}

/// Width and height of a view or a frame in pixels.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Hash)]
pub struct ScreenSize {
    /// Pixels from left to right.
    pub width: u32,
    /// Pixels from top to bottom.
    pub height: u32,
}

impl ScreenSize {
    /// Returns `width` × `height` pixels.
    pub const fn new(width: u32, height: u32) -> ScreenSize {
        ScreenSize { width, height }
    }
}

impl fmt::Display for ScreenSize {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(f, "{} × {} px", self.width, self.height)
    }
}
