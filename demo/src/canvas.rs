//! Painting on a sheet, tile by tile.

use sturdy_quilt::units::PixelSize;
use sturdy_quilt::{Color, Picture};

/// Pixels of a usual tile in each direction.
pub(crate) const SIDE: i32 = 16;

/// A sheet that is being painted.
pub(crate) struct Canvas {
    picture: Picture,
    /// Width and height of a tile.
    tile: (i32, i32),
}

impl Canvas {
    /// A clear sheet of so many tiles of the usual size.
    pub(crate) fn new(columns: u32, rows: u32) -> Canvas {
        Canvas::of_tiles((SIDE, SIDE), columns, rows)
    }

    /// A clear sheet of so many tiles of any size.
    pub(crate) fn of_tiles(tile: (i32, i32), columns: u32, rows: u32) -> Canvas {
        let size = PixelSize::new(columns * tile.0 as u32, rows * tile.1 as u32);
        Canvas { picture: Picture::filled(size, Color::CLEAR), tile }
    }

    /// Paints one tile: `paint` gives the colour of each pixel, or nothing to leave it clear.
    pub(crate) fn tile(&mut self, at: (i32, i32), paint: impl Fn(i32, i32) -> Option<Color>) {
        self.area(at, (1, 1), paint);
    }

    /// Paints an area of several tiles with common pixels.
    pub(crate) fn area(
        &mut self,
        (column, row): (i32, i32),
        (columns, rows): (i32, i32),
        paint: impl Fn(i32, i32) -> Option<Color>,
    ) {
        let (width, height) = self.tile;
        for y in 0..rows * height {
            for x in 0..columns * width {
                if let Some(color) = paint(x, y) {
                    let (px, py) = (column * width + x, row * height + y);
                    self.picture.set(px as u32, py as u32, color);
                }
            }
        }
    }

    pub(crate) fn into_picture(self) -> Picture {
        self.picture
    }
}

/// A number between 0 and 1 that a pixel always gets, another for each `seed`.
pub(crate) fn noise(x: i32, y: i32, seed: u32) -> f32 {
    let mut hash = (x as u32)
        .wrapping_mul(0x9e37_79b1)
        .wrapping_add((y as u32).wrapping_mul(0x85eb_ca77))
        .wrapping_add(seed.wrapping_mul(0xc2b2_ae3d));
    hash ^= hash >> 15;
    hash = hash.wrapping_mul(0x2c1b_3c6d);
    hash ^= hash >> 12;
    hash = hash.wrapping_mul(0x297a_2d39);
    hash ^= hash >> 15;
    (hash >> 8) as f32 / (1 << 24) as f32
}

/// One of several shades, each as likely as the others.
pub(crate) fn shade(shades: &[u32], x: i32, y: i32, seed: u32) -> Option<Color> {
    let at = (noise(x, y, seed) * shades.len() as f32) as usize;
    Some(rgb(shades[at.min(shades.len() - 1)]))
}

/// One of several shades by a level from 0 (the first) to 1, dithered between neighbours.
pub(crate) fn ramp(shades: &[u32], level: f32, x: i32, y: i32, seed: u32) -> Option<Color> {
    let level = level.clamp(0.0, 1.0) * (shades.len() - 1) as f32;
    let at = (level + noise(x, y, seed) * 0.9 - 0.45).round().max(0.0) as usize;
    Some(rgb(shades[at.min(shades.len() - 1)]))
}

/// A colour from `0xrrggbb`.
pub(crate) fn rgb(code: u32) -> Color {
    let [_, r, g, b] = code.to_be_bytes();
    Color::rgb(r, g, b)
}

/// Black of some strength, for shadows.
pub(crate) fn shadow(alpha: u8) -> Option<Color> {
    Some(Color::rgba(18, 26, 20, alpha))
}
