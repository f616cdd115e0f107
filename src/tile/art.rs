//! The pixels of tiles, ready to be drawn.

use crate::picture::Picture;
use crate::units::{PixelRect, PixelSize};

/// How much of its rectangle a tile's pixels cover. Found once, when the set is made.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub enum Coverage {
    /// Every pixel is clear: there is nothing to draw.
    Clear,
    /// Some pixels are clear, all others solid.
    Holed,
    /// Some pixels let through a part of what lies below.
    Soft,
    /// Every pixel is solid: nothing below can be seen.
    Opaque,
}

/// How the pixels of a tile are laid on its cell.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub enum Fit {
    /// Stretched over the cell: flat colours and placeholders.
    Cell,
    /// One pixel a world unit. Art of another size than the cell stands on the middle of the
    /// cell's lower edge.
    Natural,
}

/// Where the pixels of a tile are.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct TileArt {
    /// The rectangle on the page of the tile's set.
    pub source: PixelRect,
    /// How much of the rectangle is covered.
    pub coverage: Coverage,
    /// How the rectangle is laid on the cell.
    pub fit: Fit,
}

/// One picture with the pixels of many tiles, alpha multiplied in.
#[derive(Clone, PartialEq, Eq)]
pub struct ArtPage {
    size: PixelSize,
    pixels: Vec<[u8; 4]>,
    /// How much of what lies below each pixel shows through, 255 − alpha, once for each channel:
    /// so a painter can blend a row channel by channel, without a look across.
    through: Vec<[u8; 4]>,
}

impl ArtPage {
    /// The pixels of a picture, with alpha multiplied in and rounded to the nearest level.
    pub fn from_picture(picture: &Picture) -> ArtPage {
        let pixels = picture.bytes().as_chunks::<4>().0.iter().map(|&p| premultiplied(p)).collect();
        ArtPage::new(picture.size(), pixels)
    }

    fn new(size: PixelSize, pixels: Vec<[u8; 4]>) -> ArtPage {
        let through = pixels.iter().map(|&[.., alpha]| [255 - alpha; 4]).collect();
        ArtPage { size, pixels, through }
    }

    /// Width and height.
    pub const fn size(&self) -> PixelSize {
        self.size
    }

    /// All pixels, row by row from the top: red, green, blue, alpha, with alpha multiplied in.
    pub fn pixels(&self) -> &[[u8; 4]] {
        &self.pixels
    }

    /// One row of a rectangle; empty where the rectangle leaves the page.
    pub(crate) fn row(&self, rect: PixelRect, row: u32) -> &[[u8; 4]] {
        let start = self.index(rect, 0, row);
        self.pixels.get(start..start + rect.size.width as usize).unwrap_or_default()
    }

    /// What remains of the page from one texel of a rectangle on, how much of what lies below shows
    /// through each, and how many texels lead from one row to the next.
    pub(crate) fn rest_from(
        &self,
        rect: PixelRect,
        across: u32,
        down: u32,
    ) -> (&[[u8; 4]], &[[u8; 4]], usize) {
        let start = self.index(rect, across, down);
        let pixels = self.pixels.get(start..).unwrap_or_default();
        let through = self.through.get(start..).unwrap_or_default();
        (pixels, through, self.size.width.max(1) as usize)
    }

    fn index(&self, rect: PixelRect, across: u32, down: u32) -> usize {
        (rect.y + down) as usize * self.size.width as usize + (rect.x + across) as usize
    }

    pub(crate) fn coverage(&self, rect: PixelRect) -> Coverage {
        let alphas = || (0..rect.size.height).flat_map(|y| self.row(rect, y).iter().map(|p| p[3]));
        if alphas().all(|a| a == 255) {
            Coverage::Opaque
        } else if alphas().all(|a| a == 0) {
            Coverage::Clear
        } else if alphas().all(|a| matches!(a, 0 | 255)) {
            Coverage::Holed
        } else {
            Coverage::Soft
        }
    }

    /// The page of what stands for tiles that are missing, a loud check pattern of 4 × 4 pixels,
    /// and below it a row in plain grey for cells that are not loaded.
    pub(crate) fn missing() -> ArtPage {
        let (loud, dark) = ([255, 0, 200, 255], [24, 24, 24, 255]);
        let check = (0..16).map(|i| if (i / 4 + i) % 2 == 0 { loud } else { dark });
        let pixels = check.chain([[96, 96, 96, 255]; 4]).collect();
        ArtPage::new(PixelSize::new(4, 5), pixels)
    }
}

impl std::fmt::Debug for ArtPage {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        write!(f, "ArtPage({})", self.size)
    }
}

/// A pixel with alpha multiplied in, rounded to the nearest level.
pub(crate) fn premultiplied([r, g, b, a]: [u8; 4]) -> [u8; 4] {
    let times = |c: u8| ((u32::from(c) * u32::from(a) + 127) / 255) as u8;
    [times(r), times(g), times(b), a]
}
