//! Pictures: rectangles of RGBA pixels with 8 bits a channel, and colours.

mod color;
#[cfg(feature = "png")]
mod png_file;

pub use color::{Color, ColorError};
#[cfg(feature = "png")]
pub use png_file::PngError;
#[cfg(feature = "png")]
pub(crate) use png_file::PngRows;

use crate::units::{PixelRect, PixelSize};

/// A picture of RGBA pixels, 8 bits a channel, row by row from the top, alpha not multiplied in.
///
/// ```
/// use sturdy_quilt::units::PixelSize;
/// use sturdy_quilt::{Color, Picture};
///
/// let mut picture = Picture::filled(PixelSize::new(2, 1), Color::rgb(10, 20, 30));
/// picture.set(1, 0, Color::CLEAR);
/// assert_eq!(picture.bytes(), [10, 20, 30, 255, 0, 0, 0, 0]);
/// assert_eq!(picture.get(2, 0), None);
/// ```
#[derive(Clone, PartialEq, Eq)]
pub struct Picture {
    size: PixelSize,
    bytes: Vec<u8>,
}

/// A buffer of bytes does not fit the stated size of a picture.
#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
#[error("a picture of {size} takes {} bytes, not {found}", size.area() * 4)]
pub struct PictureSizeError {
    /// The stated size.
    pub size: PixelSize,
    /// The number of bytes that came.
    pub found: usize,
}

impl Picture {
    /// Returns a picture whose pixels all have one colour.
    pub fn filled(size: PixelSize, color: Color) -> Picture {
        let count = size.area() as usize;
        Picture { size, bytes: color.to_bytes().repeat(count) }
    }

    /// Returns a picture from RGBA bytes, row by row from the top.
    ///
    /// # Errors
    /// When there are not exactly four bytes a pixel.
    pub fn from_bytes(size: PixelSize, bytes: Vec<u8>) -> Result<Picture, PictureSizeError> {
        if size.area().checked_mul(4) != Some(bytes.len() as u64) {
            return Err(PictureSizeError { size, found: bytes.len() });
        }
        Ok(Picture { size, bytes })
    }

    /// Returns the width and height.
    pub const fn size(&self) -> PixelSize {
        self.size
    }

    /// Returns all pixels as RGBA bytes, row by row from the top.
    pub fn bytes(&self) -> &[u8] {
        &self.bytes
    }

    /// Returns the colour of a pixel, or `None` outside the picture.
    pub fn get(&self, x: u32, y: u32) -> Option<Color> {
        let at = self.offset(x, y)?;
        Some(Color::from_bytes([
            self.bytes[at],
            self.bytes[at + 1],
            self.bytes[at + 2],
            self.bytes[at + 3],
        ]))
    }

    /// Changes a pixel and says whether there was one to change.
    pub fn set(&mut self, x: u32, y: u32, color: Color) -> bool {
        let Some(at) = self.offset(x, y) else { return false };
        self.bytes[at..at + 4].copy_from_slice(&color.to_bytes());
        true
    }

    /// Returns the pixels of a rectangle, row by row; those outside the picture are left out.
    pub fn pixels(&self, rect: PixelRect) -> impl Iterator<Item = Color> + '_ {
        let columns = rect.x..rect.x.saturating_add(rect.size.width).min(self.size.width);
        let rows = rect.y..rect.y.saturating_add(rect.size.height).min(self.size.height);
        rows.flat_map(move |y| columns.clone().filter_map(move |x| self.get(x, y)))
    }

    fn offset(&self, x: u32, y: u32) -> Option<usize> {
        let inside = x < self.size.width && y < self.size.height;
        inside.then(|| (y as usize * self.size.width as usize + x as usize) * 4)
    }
}

impl std::fmt::Debug for Picture {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        write!(f, "Picture({})", self.size)
    }
}
