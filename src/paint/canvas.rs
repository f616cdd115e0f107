//! The memory that is painted on, of any owner.

use crate::picture::{Color, Picture};
use crate::tile::premultiplied;
use crate::units::{PixelSize, ScreenRect, ScreenSize};

/// A rectangle of pixels to paint on, borrowed from a [`Frame`] or from the game.
///
/// ```
/// use sturdy_quilt::units::ScreenRect;
/// use sturdy_quilt::{Canvas, DrawList, Painter, ScreenSize, View};
/// # let quilt = sturdy_quilt::doc_quilt();
///
/// // The buffer of a window, of which each player has a half.
/// let mut buffer = vec![0_u32; 64 * 32];
/// let (mut list, mut painter) = (DrawList::new(), Painter::new());
/// let view = View::new(ScreenSize::new(32, 32));
/// for (left, zoom) in [(0, 1.0), (32, 2.0)] {
///     let mut window = Canvas::rgb0(&mut buffer, ScreenSize::new(64, 32), 64)?;
///     list.rebuild(&quilt, &view.zoomed(zoom));
///     let half = ScreenRect { left, top: 0, right: left + 32, bottom: 32 };
///     painter.paint(&list, window.part(half));
/// }
/// assert_eq!(buffer[20 * 64 + 20] >> 24, 0);
/// # Ok::<(), sturdy_quilt::paint::CanvasError>(())
/// ```
#[derive(Debug)]
pub struct Canvas<'a> {
    pixels: &'a mut [[u8; 4]],
    size: ScreenSize,
    stride: usize,
    order: PixelOrder,
}

/// The order of the four bytes of a pixel.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Hash)]
#[non_exhaustive]
pub enum PixelOrder {
    /// Red, green, blue and alpha, with alpha multiplied in.
    #[default]
    Rgba,
    /// A number whose lowest byte is blue, then come green, red and a byte that stays 0; in the
    /// order of bytes that the machine has. Its pixels are solid.
    Rgb0,
}

/// A buffer has too few pixels for a canvas.
#[derive(Clone, Copy, Debug, PartialEq, Eq, thiserror::Error)]
#[error(
    "a canvas of {size} with rows {stride} pixels apart needs {} pixels, not {found}", needed(*size, *stride)
)]
pub struct CanvasError {
    /// Its size.
    pub size: ScreenSize,
    /// Pixels from the begin of a row to that of the next.
    pub stride: usize,
    /// The pixels of the buffer.
    pub found: usize,
}

/// The least pixels of a buffer; all there are where rows would overlap.
fn needed(size: ScreenSize, stride: usize) -> usize {
    let (width, height) = (size.width as usize, size.height as usize);
    if width == 0 || height == 0 {
        return 0;
    }
    let rows = (height - 1).checked_mul(stride).filter(|_| stride >= width || height == 1);
    rows.and_then(|pixels| pixels.checked_add(width)).unwrap_or(usize::MAX)
}

impl<'a> Canvas<'a> {
    /// Returns a canvas of pixels of red, green, blue and alpha, with alpha multiplied in, row by
    /// row from the top. A row begins `stride` pixels after the one above it.
    ///
    /// # Errors
    /// Too few pixels, or rows that overlap.
    pub fn rgba(
        pixels: &'a mut [[u8; 4]],
        size: ScreenSize,
        stride: usize,
    ) -> Result<Canvas<'a>, CanvasError> {
        Canvas::of(pixels, size, stride, PixelOrder::Rgba)
    }

    /// Returns a canvas of pixels of which each is a number `0x00RRGGBB`, as many windows take
    /// them; row by row from the top. A row begins `stride` pixels after the one above it.
    ///
    /// # Errors
    /// Too few pixels, or rows that overlap.
    pub fn rgb0(
        pixels: &'a mut [u32],
        size: ScreenSize,
        stride: usize,
    ) -> Result<Canvas<'a>, CanvasError> {
        Canvas::of(bytemuck::cast_slice_mut(pixels), size, stride, PixelOrder::Rgb0)
    }

    fn of(
        pixels: &'a mut [[u8; 4]],
        size: ScreenSize,
        stride: usize,
        order: PixelOrder,
    ) -> Result<Canvas<'a>, CanvasError> {
        let found = pixels.len();
        if found < needed(size, stride) {
            return Err(CanvasError { size, stride, found });
        }
        Ok(Canvas { pixels, size, stride, order })
    }

    /// Returns the width and height.
    pub const fn size(&self) -> ScreenSize {
        self.size
    }

    /// Returns the order of the bytes of a pixel.
    #[inline]
    pub const fn order(&self) -> PixelOrder {
        self.order
    }

    /// Returns a part of it, for example for one of several views; what lies beyond it is cut off.
    pub fn part(&mut self, rect: ScreenRect) -> Canvas<'_> {
        let Canvas { size, stride, order, .. } = *self;
        Canvas { pixels: self.pixels, size, stride, order }.into_part(rect)
    }

    pub(super) fn into_part(self, rect: ScreenRect) -> Canvas<'a> {
        let rect = rect.intersection(ScreenRect::of_size(self.size));
        if rect.is_empty() {
            return Canvas { pixels: &mut [], size: ScreenSize::new(0, 0), ..self };
        }
        let size = ScreenSize::new(rect.left.abs_diff(rect.right), rect.top.abs_diff(rect.bottom));
        let first = rect.top as usize * self.stride + rect.left as usize;
        Canvas { pixels: &mut self.pixels[first..], size, ..self }
    }

    /// Bands of rows, from the top, each with its pixels on the whole canvas; not more than so many.
    pub(super) fn bands(&mut self, count: usize) -> Vec<(ScreenRect, Canvas<'_>)> {
        let Canvas { size, stride, order, .. } = *self;
        let height = size.height.div_ceil(u32::try_from(count).unwrap_or(u32::MAX).max(1));
        let mut pixels = &mut *self.pixels;
        let mut bands = Vec::with_capacity(count);
        for top in (0..size.height).step_by(height.max(1) as usize) {
            let size = ScreenSize::new(size.width, height.min(size.height - top));
            let length = (size.height as usize * stride).min(pixels.len());
            let (own, others) = pixels.split_at_mut(length);
            pixels = others;
            let area = ScreenRect::of_size(size).moved(0, top as i32);
            bands.push((area, Canvas { pixels: own, size, stride, order }));
        }
        bands
    }

    /// Gives every pixel the same colour.
    pub fn fill(&mut self, color: Color) {
        let pixel = self.order.pixel(premultiplied(color.to_bytes()));
        for row in 0..self.size.height {
            self.row_mut(row, 0, self.size.width).fill(pixel);
        }
    }

    /// A part of a row: from column `from` up to, but not with, `to`.
    #[inline]
    pub(super) fn row_mut(&mut self, row: u32, from: u32, to: u32) -> &mut [[u8; 4]] {
        let start = row as usize * self.stride;
        &mut self.pixels[start + from as usize..start + to as usize]
    }

    /// What remains from a pixel on, and how many pixels lead from row to row.
    #[inline]
    pub(super) fn rest_mut(&mut self, x: u32, y: u32) -> (&mut [[u8; 4]], usize) {
        (&mut self.pixels[y as usize * self.stride + x as usize..], self.stride)
    }
}

impl<'a> From<&'a mut Frame> for Canvas<'a> {
    fn from(frame: &'a mut Frame) -> Canvas<'a> {
        let (size, stride) = (frame.size(), frame.size().width as usize);
        Canvas { pixels: frame.pixels_mut(), size, stride, order: PixelOrder::Rgba }
    }
}

impl PixelOrder {
    /// A pixel of red, green, blue and alpha in this order.
    #[inline]
    pub(super) const fn pixel(self, [r, g, b, a]: [u8; 4]) -> [u8; 4] {
        match self {
            PixelOrder::Rgba => [r, g, b, a],
            PixelOrder::Rgb0 => u32::from_be_bytes([0, r, g, b]).to_ne_bytes(),
        }
    }

    /// How much of each byte shows through something that lets so much through.
    #[inline]
    pub(super) const fn through(self, level: u8) -> [u8; 4] {
        match self {
            PixelOrder::Rgba => [level; 4],
            PixelOrder::Rgb0 => u32::from_be_bytes([255, level, level, level]).to_ne_bytes(),
        }
    }
}

/// A rectangle of pixels to paint on: red, green, blue and alpha with 8 bits each, alpha
/// multiplied in, row by row from the top.
///
/// ```
/// use sturdy_quilt::{Color, Frame, ScreenSize};
///
/// let mut frame = Frame::new(ScreenSize::new(2, 1));
/// frame.clear(Color::rgb(9, 8, 7));
/// assert_eq!(frame.pixels(), [[9, 8, 7, 255]; 2]);
/// ```
#[derive(Clone, Default, PartialEq, Eq)]
pub struct Frame {
    size: ScreenSize,
    pixels: Vec<[u8; 4]>,
}

impl Frame {
    /// Returns a clear frame.
    pub fn new(size: ScreenSize) -> Frame {
        Frame { size, pixels: vec![[0; 4]; size.width as usize * size.height as usize] }
    }

    /// Returns the width and height.
    pub const fn size(&self) -> ScreenSize {
        self.size
    }

    /// Returns all pixels, row by row from the top.
    #[inline]
    pub fn pixels(&self) -> &[[u8; 4]] {
        &self.pixels
    }

    /// Gives every pixel the same colour.
    pub fn clear(&mut self, color: Color) {
        self.pixels.fill(premultiplied(color.to_bytes()));
    }

    #[inline]
    pub(crate) fn set(&mut self, x: u32, y: u32, pixel: [u8; 4]) {
        self.pixels[y as usize * self.size.width as usize + x as usize] = pixel;
    }

    /// Returns all pixels, to be changed: alpha is multiplied in.
    pub fn pixels_mut(&mut self) -> &mut [[u8; 4]] {
        &mut self.pixels
    }

    /// Returns a part of it to paint on, for example for one of several views; what lies beyond it
    /// is cut off.
    pub fn part(&mut self, rect: ScreenRect) -> Canvas<'_> {
        Canvas::from(self).into_part(rect)
    }

    /// Returns the frame as a picture, with alpha divided out.
    pub fn to_picture(&self) -> Picture {
        let straight = |[r, g, b, a]: [u8; 4]| {
            let (whole, half) = (u32::from(a).max(1), u32::from(a) / 2);
            let over = |c: u8| ((u32::from(c) * 255 + half) / whole).min(255) as u8;
            if a == 255 { [r, g, b, a] } else { [over(r), over(g), over(b), a] }
        };
        let bytes = self.pixels.iter().flat_map(|&pixel| straight(pixel)).collect();
        let size = PixelSize::new(self.size.width, self.size.height);
        Picture::from_bytes(size, bytes).unwrap_or_else(|_| Picture::filled(size, Color::CLEAR))
    }
}

impl std::fmt::Debug for Frame {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        write!(f, "Frame({})", self.size)
    }
}
