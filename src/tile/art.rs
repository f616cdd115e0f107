//! The pixels of tiles, ready to be drawn.

use rustc_hash::FxHashMap;

use crate::picture::{Color, Picture};
use crate::stamp::Stamp;
use crate::units::{PixelRect, PixelSize, WorldVec};

/// The part of its rectangle that the pixels of a tile cover. Found once, when the set is made.
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

impl Coverage {
    /// How much pixels of these alphas cover; none at all count as solid.
    pub(crate) fn of(alphas: impl Iterator<Item = u8>) -> Coverage {
        let (mut clear, mut solid) = (false, false);
        for alpha in alphas {
            match alpha {
                0 => clear = true,
                255 => solid = true,
                _ => return Coverage::Soft,
            }
        }
        match (clear, solid) {
            (true, true) => Coverage::Holed,
            (true, false) => Coverage::Clear,
            (false, _) => Coverage::Opaque,
        }
    }
}

/// The way in which the pixels of a tile are laid on its cell.
#[derive(Clone, Copy, Debug, PartialEq)]
pub enum Fit {
    /// Stretched over the cell: flat colours and placeholders.
    Stretched,
    /// In their own size, which may be another than that of the cell.
    Placed(ArtPlacement),
}

/// The size and place of a picture on its cell.
///
/// ```
/// use sturdy_quilt::tile::ArtPlacement;
/// use sturdy_quilt::units::PixelSize;
///
/// // 24 × 40 pixels, two of them a world unit, on a cell of 16 × 16.
/// let placement = ArtPlacement { density: 2.0, ..ArtPlacement::default() };
/// assert_eq!(placement.size(PixelSize::new(24, 40)), (12.0, 20.0));
/// ```
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct ArtPlacement {
    /// Pixels of the picture for each world unit, above 0. Default 1.
    pub density: f64,
    /// The point of the picture that lies on the cell, as a part of its width and height, each 0 to
    /// 1: (0, 0) is the upper left corner, (0.5, 0.5) the middle. A turn of the tile does not turn it.
    ///
    /// If it is not stated, from above it is (0.5, 1), the middle of the lower edge. At a slant it is
    /// then (0.5, 0): the picture begins with the face on top of a block, which fills the cell, and
    /// its body hangs below. One that is stated there makes the tile stand on its cell, as a sprite
    /// does.
    pub anchor: Option<(f64, f64)>,
    /// The point of the cell on which that lies, as a part of the width and height of the upright
    /// rectangle around it. Default the same parts as those of the anchor.
    pub cell_anchor: Option<(f64, f64)>,
    /// How far the picture is moved then, in world units; at a slant, in picture pixels. Default not
    /// at all.
    pub offset: WorldVec,
}

impl Default for ArtPlacement {
    fn default() -> ArtPlacement {
        ArtPlacement { density: 1.0, anchor: None, cell_anchor: None, offset: WorldVec::ZERO }
    }
}

impl ArtPlacement {
    /// Returns the size of a picture in world units: width and height.
    pub fn size(&self, picture: PixelSize) -> (f64, f64) {
        let units = |pixels: u32| f64::from(pixels) / self.density;
        (units(picture.width), units(picture.height))
    }

    /// The point of the picture and the point of the cell that lie on each other, seen from above.
    pub(crate) fn points(&self) -> ((f64, f64), (f64, f64)) {
        let picture = self.anchor.unwrap_or((0.5, 1.0));
        (picture, self.cell_anchor.unwrap_or(picture))
    }

    /// The same at a slant.
    pub(crate) fn slanted_points(&self) -> ((f64, f64), (f64, f64)) {
        let picture = self.anchor.unwrap_or((0.5, 0.0));
        (picture, self.cell_anchor.unwrap_or(picture))
    }
}

/// The place of the pixels of a tile.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct TileArt {
    /// The rectangle on the page of the tile's set.
    pub source: PixelRect,
    /// How much of the rectangle is covered.
    pub coverage: Coverage,
    /// How the rectangle is laid on the cell.
    pub fit: Fit,
}

impl TileArt {
    /// The place of a picture that is mirrored with its cell. What is mirrored of its pixels is left
    /// to who draws it.
    pub(crate) fn mirrored(self) -> TileArt {
        let Fit::Placed(own) = self.fit else { return self };
        let other = |point: Option<(f64, f64)>| point.map(|(x, y)| (1.0 - x, y));
        let offset = WorldVec::new(-own.offset.x, own.offset.y);
        let (anchor, cell_anchor) = (other(own.anchor), other(own.cell_anchor));
        let placement = ArtPlacement { anchor, cell_anchor, offset, ..own };
        TileArt { fit: Fit::Placed(placement), ..self }
    }
}

/// A picture with the pixels of many tiles, alpha multiplied in.
#[derive(Clone, Default)]
pub struct ArtPage {
    /// Tells it from all other pages, but not from its clones.
    stamp: Stamp,
    size: PixelSize,
    pixels: Vec<[u8; 4]>,
}

impl ArtPage {
    /// Returns the pixels of a picture, with alpha multiplied in and rounded to the nearest level.
    pub fn from_picture(picture: &Picture) -> ArtPage {
        let pixels = picture.bytes().as_chunks::<4>().0.iter().map(|&p| premultiplied(p)).collect();
        ArtPage::of_pixels(picture.size(), pixels)
    }

    /// A page of pixels that have alpha multiplied in, row by row; as many as the size says.
    pub(crate) fn of_pixels(size: PixelSize, pixels: Vec<[u8; 4]>) -> ArtPage {
        ArtPage { stamp: Stamp::next(), size, pixels }
    }

    /// The same page with colours replaced by others. Pixels of exactly a colour count, whatever
    /// their alpha, which stays and is multiplied by that of the other colour.
    pub(crate) fn recolored(&self, colors: &[(Color, Color)]) -> ArtPage {
        // By alpha: what each pixel becomes that shows one of the colours with it. Made for those that
        // there are, mostly one or two.
        let mut by_alpha: [Option<FxHashMap<[u8; 4], [u8; 4]>>; 256] = [const { None }; 256];
        let replaced = |alpha: u8| {
            let shown = |color: Color| premultiplied(color.to_bytes());
            let faded = |color: Color| color.times(Color { a: alpha, ..Color::WHITE });
            let pair = |(from, to): &(Color, Color)| {
                (shown(Color { a: alpha, ..*from }), shown(faded(*to)))
            };
            // The first of those that look the same counts.
            colors.iter().rev().map(pair).collect()
        };
        let mut other = |pixel: [u8; 4]| {
            if pixel[3] == 0 {
                return pixel;
            }
            let known = by_alpha[usize::from(pixel[3])].get_or_insert_with(|| replaced(pixel[3]));
            known.get(&pixel).copied().unwrap_or(pixel)
        };
        ArtPage::of_pixels(self.size, self.pixels.iter().map(|&pixel| other(pixel)).collect())
    }

    /// Returns the stamp of the page, which its clones share and no other page has: for those who
    /// keep what they made of the page, such as a texture.
    pub const fn stamp(&self) -> Stamp {
        self.stamp
    }

    /// Returns the width and height.
    pub const fn size(&self) -> PixelSize {
        self.size
    }

    /// Returns all pixels, row by row from the top: red, green, blue, alpha, with alpha multiplied
    /// in.
    pub fn pixels(&self) -> &[[u8; 4]] {
        &self.pixels
    }

    /// One row of a rectangle; empty where the rectangle leaves the page.
    pub(crate) fn row(&self, rect: PixelRect, row: u32) -> &[[u8; 4]] {
        let start = self.index(rect, 0, row);
        self.pixels.get(start..start + rect.size.width as usize).unwrap_or_default()
    }

    fn index(&self, rect: PixelRect, across: u32, down: u32) -> usize {
        (rect.y + down) as usize * self.size.width as usize + (rect.x + across) as usize
    }

    pub(crate) fn coverage(&self, rect: PixelRect) -> Coverage {
        Coverage::of((0..rect.size.height).flat_map(|y| self.row(rect, y).iter().map(|p| p[3])))
    }

    /// The smallest rectangle around the pixels of a part that are not clear; `None` where all are.
    pub(crate) fn outline(&self, rect: PixelRect) -> Option<PixelRect> {
        let seen = |pixels: &[[u8; 4]]| {
            let first = pixels.iter().position(|pixel| pixel[3] > 0)?;
            Some((first, pixels.iter().rposition(|pixel| pixel[3] > 0).unwrap_or(first)))
        };
        let rows = (0..rect.size.height).filter_map(|y| Some((y, seen(self.row(rect, y))?)));
        let (left, top, right, bottom) = rows
            .map(|(y, (first, last))| (first as u32, y, last as u32 + 1, y + 1))
            .reduce(|a, b| (a.0.min(b.0), a.1, a.2.max(b.2), b.3))?;
        let size = PixelSize::new(right - left, bottom - top);
        Some(PixelRect::new(rect.x + left, rect.y + top, size))
    }

    /// One page with all the parts on it, the first at the top left, and where each lies.
    ///
    /// The others stand in rows below it, the highest first, as wide as makes the page about
    /// square ("shelf" packing: Baker, Coffman, Rivest: Orthogonal packings in two dimensions, 1980).
    pub(crate) fn composed(parts: &[&ArtPage]) -> (ArtPage, Vec<PixelRect>) {
        let area: u64 = parts.iter().map(|part| part.size.area()).sum();
        let widest = parts.iter().map(|part| part.size.width).max().unwrap_or(0);
        let width = widest.max((area as f64).sqrt().ceil() as u32);
        let mut order: Vec<usize> = (1..parts.len()).collect();
        order.sort_by_key(|&part| std::cmp::Reverse(parts[part].size.height));
        let mut places = vec![PixelRect::new(0, 0, PixelSize::new(0, 0)); parts.len()];
        let (mut x, mut y, mut shelf) = (0, 0, 0);
        for part in (0..parts.len().min(1)).chain(order) {
            let size = parts[part].size;
            // The first, a sheet, has its rows to itself.
            if x + size.width > width || (x > 0 && y == 0 && shelf == parts[0].size.height) {
                (x, y, shelf) = (0, y + shelf, 0);
            }
            places[part] = PixelRect::new(x, y, size);
            (x, shelf) = (x + size.width, shelf.max(size.height));
        }
        let size = PixelSize::new(width, y + shelf);
        let mut pixels = vec![[0; 4]; size.area() as usize];
        for (part, place) in parts.iter().zip(&places) {
            for (row, line) in part.pixels.chunks(part.size.width.max(1) as usize).zip(place.y..) {
                let start = line as usize * width as usize + place.x as usize;
                pixels[start..start + row.len()].copy_from_slice(row);
            }
        }
        (ArtPage::of_pixels(size, pixels), places)
    }

    /// The page of what stands for tiles that are missing, diagonal stripes in orange and cyan on
    /// 4 × 4 pixels, and below them a row in plain grey for cells that are not loaded.
    pub(crate) fn missing() -> ArtPage {
        let (orange, cyan) = ([255, 140, 0, 255], [0, 200, 230, 255]);
        let stripes = (0..16).map(|i| if (i / 4 + i) % 4 < 2 { orange } else { cyan });
        let pixels = stripes.chain([[96, 96, 96, 255]; 4]).collect();
        ArtPage::of_pixels(PixelSize::new(4, 5), pixels)
    }
}

impl PartialEq for ArtPage {
    fn eq(&self, other: &ArtPage) -> bool {
        self.size == other.size && self.pixels == other.pixels
    }
}

impl Eq for ArtPage {}

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

/// How the pictures of a set stand on cells, as far as that is stated.
#[derive(Clone, Copy, Debug, Default, PartialEq)]
pub(crate) struct StatedArtPlacement {
    pub(crate) density: Option<f64>,
    pub(crate) anchor: Option<(f64, f64)>,
    pub(crate) cell_anchor: Option<(f64, f64)>,
    pub(crate) offset: Option<WorldVec>,
}

impl StatedArtPlacement {
    /// Whether it leaves it open where pictures lie on their cells.
    pub(crate) fn says_no_place(&self) -> bool {
        (self.anchor, self.cell_anchor, self.offset) == (None, None, None)
    }

    pub(super) fn resolved(self) -> ArtPlacement {
        let default = ArtPlacement::default();
        ArtPlacement {
            density: self.density.unwrap_or(default.density),
            anchor: self.anchor,
            cell_anchor: self.cell_anchor,
            offset: self.offset.unwrap_or(default.offset),
        }
    }
}
