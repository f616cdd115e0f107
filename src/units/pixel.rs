use std::fmt;

/// Width and height of a picture in its own pixels.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Hash)]
pub struct PixelSize {
    /// Pixels from left to right.
    pub width: u32,
    /// Pixels from top to bottom.
    pub height: u32,
}

impl PixelSize {
    /// Returns `width` × `height` pixels.
    pub const fn new(width: u32, height: u32) -> PixelSize {
        PixelSize { width, height }
    }

    /// Returns the number of pixels.
    pub const fn area(self) -> u64 {
        self.width as u64 * self.height as u64
    }

    /// Returns whether a rectangle lies within a picture of this size.
    pub const fn holds(self, rect: PixelRect) -> bool {
        let right = rect.x as u64 + rect.size.width as u64;
        let bottom = rect.y as u64 + rect.size.height as u64;
        right <= self.width as u64 && bottom <= self.height as u64
    }
}

impl fmt::Display for PixelSize {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(f, "{} × {} px", self.width, self.height)
    }
}

/// A rectangle of pixels within a picture: its top left pixel and its size.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Hash)]
pub struct PixelRect {
    /// The leftmost column of pixels.
    pub x: u32,
    /// The topmost row of pixels.
    pub y: u32,
    /// Width and height.
    pub size: PixelSize,
}

impl PixelRect {
    /// Returns the rectangle of `size` pixels from column `x` and row `y` on.
    pub const fn new(x: u32, y: u32, size: PixelSize) -> PixelRect {
        PixelRect { x, y, size }
    }
}

impl fmt::Display for PixelRect {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(f, "{} at {},{}", self.size, self.x, self.y)
    }
}
