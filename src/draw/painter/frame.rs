use super::Canvas;
use crate::picture::{Color, Picture};
use crate::tile::premultiplied;
use crate::units::{PixelSize, ScreenRect, ScreenSize};

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
    /// A clear frame.
    pub fn new(size: ScreenSize) -> Frame {
        Frame { size, pixels: vec![[0; 4]; size.width as usize * size.height as usize] }
    }

    /// Width and height.
    pub const fn size(&self) -> ScreenSize {
        self.size
    }

    /// All pixels, row by row from the top.
    pub fn pixels(&self) -> &[[u8; 4]] {
        &self.pixels
    }

    /// Gives every pixel the same colour.
    pub fn clear(&mut self, color: Color) {
        self.pixels.fill(premultiplied(color.to_bytes()));
    }

    pub(in crate::draw) fn set(&mut self, x: u32, y: u32, pixel: [u8; 4]) {
        self.pixels[y as usize * self.size.width as usize + x as usize] = pixel;
    }

    /// All pixels, to be changed: alpha is multiplied in.
    pub fn pixels_mut(&mut self) -> &mut [[u8; 4]] {
        &mut self.pixels
    }

    /// A part of it to paint on, for example for one of several views; what lies beyond it is cut
    /// off.
    pub fn part(&mut self, rect: ScreenRect) -> Canvas<'_> {
        Canvas::from(self).into_part(rect)
    }

    /// The frame as a picture, with alpha divided out.
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
