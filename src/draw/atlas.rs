//! All pictures of a map on few pages, for renderers that pay for each change of page.

use rustc_hash::FxHashMap;

use super::pages::Pages;
use super::pass::Quad;
use super::slant::Diamond;
use crate::plane::Stamp;
use crate::quilt::Quilt;
use crate::tile::ArtPage;
use crate::units::{PixelRect, PixelSize};
use crate::view::ProjectionKind;

/// The pictures of all tiles of a map, in all its palettes, packed on few pages.
///
/// Around each picture its outermost pixels are repeated, so that a renderer that looks a fraction
/// of a pixel beyond its edge, because it interpolates or rounds, finds its own colours and never
/// those of a neighbour in the sheet.
///
/// Packed in shelves, the highest pictures first (Baker, Coffman, Rivest: Orthogonal packings in two
/// dimensions, 1980).
///
/// ```
/// use sturdy_quilt::draw::Atlas;
/// use sturdy_quilt::units::PixelSize;
/// use sturdy_quilt::{DrawList, ScreenSize, View};
/// # let quilt = sturdy_quilt::doc_quilt();
///
/// let atlas = Atlas::of(&quilt, PixelSize::new(256, 256), 1)?;
/// assert_eq!(atlas.pages().len(), 1);
/// let mut list = DrawList::new();
/// list.rebuild(&quilt, &View::new(ScreenSize::new(64, 48)));
/// let mut quads = list.quads();
/// atlas.put_into(&mut quads);
/// assert_eq!(DrawList::batches(&quads).len(), 1);
/// # Ok::<(), sturdy_quilt::draw::AtlasError>(())
/// ```
#[derive(Clone, Debug)]
pub struct Atlas {
    pages: Vec<ArtPage>,
    /// By the page of a list and the rectangle on it.
    places: FxHashMap<(u32, PixelRect), (u32, PixelRect)>,
    stamps: (Stamp, Stamp, ProjectionKind),
}

/// A picture does not fit on a page of an atlas.
#[derive(Clone, Copy, Debug, PartialEq, Eq, thiserror::Error)]
#[error("a picture of {size} with a border of {border} px does not fit on a page of {page}")]
pub struct AtlasError {
    /// The picture.
    pub size: PixelSize,
    /// The border around it.
    pub border: u32,
    /// The page.
    pub page: PixelSize,
}

impl Atlas {
    /// The most pixels of a page in either direction: as many as graphics cards take.
    pub const MAX_PX: u32 = 16_384;

    /// Packs the pictures of a map as it is meant to be seen, equal ones once, on pages of at most this size, with a border of pixels around each
    /// that repeat its edge. Pages are no larger than what is on them, and no larger than
    /// [`Atlas::MAX_PX`] in either direction, whatever is asked for.
    ///
    /// It is right as long as [`Atlas::is_of`] says so.
    ///
    /// # Errors
    /// A picture that does not fit on a page.
    pub fn of(quilt: &Quilt, page: PixelSize, border: u32) -> Result<Atlas, AtlasError> {
        let most = |side: u32| side.min(Self::MAX_PX);
        let page = PixelSize::new(most(page.width), most(page.height));
        let diamond = Diamond::of(quilt.projection());
        let pages = Pages::of(quilt, diamond.as_ref());
        let mut pictures: Vec<(u32, PixelRect)> = pages.diamond_pictures();
        for id in quilt.tiles().ids() {
            let (number, art) = quilt.tiles().art(id);
            let slots = 0..=quilt.palettes().len() as u8;
            let numbers = slots.map(|slot| pages.in_palette(number, slot));
            pictures.extend(numbers.map(|number| (number, art.source)));
        }
        pictures.sort_unstable_by_key(|(page, source)| {
            let size = source.size;
            (std::cmp::Reverse((size.height, size.width)), *page, source.y, source.x)
        });
        pictures.dedup();
        let mut shelves = Shelves { page, sizes: vec![PixelSize::default()], x: 0, y: 0, shelf: 0 };
        let mut places = FxHashMap::default();
        let mut drawn_already = FxHashMap::default();
        for &(number, source) in &pictures {
            // Of what a palette does not change there is one.
            let pixels: Vec<&[[u8; 4]]> = { pages.get(number).into_iter() }
                .flat_map(|page| (0..source.size.height).map(move |y| page.row(source, y)))
                .collect();
            let place = match drawn_already.get(&pixels) {
                Some(place) => *place,
                None => shelves.put(source.size, border)?,
            };
            drawn_already.insert(pixels, place);
            places.insert((number, source), place);
        }
        let mut drawn: Vec<Vec<[u8; 4]>> =
            shelves.sizes.iter().map(|size| vec![[0; 4]; size.area() as usize]).collect();
        for (page, source) in &pictures {
            let (number, at) = places[&(*page, *source)];
            let width = shelves.sizes[number as usize].width as usize;
            if let Some(page) = pages.get(*page) {
                extrude(page, *source, border, at, &mut drawn[number as usize], width);
            }
        }
        let pages = shelves.sizes.into_iter().zip(drawn);
        Ok(Atlas {
            pages: pages.map(|(size, pixels)| ArtPage::of_pixels(size, pixels)).collect(),
            places,
            stamps: stamps_of(quilt),
        })
    }

    /// Returns whether the atlas still fits a map, or was made for other tiles, palettes or diamonds.
    pub fn is_of(&self, quilt: &Quilt) -> bool {
        self.stamps == stamps_of(quilt)
    }

    /// Returns the pages.
    pub fn pages(&self) -> &[ArtPage] {
        &self.pages
    }

    /// Finds where a picture of a page of a list of the map lies: the number of the page of the
    /// atlas, and the rectangle without its border. `None` for what is no picture of the map, such
    /// as that of a sprite.
    pub fn find(&self, page: u32, source: PixelRect) -> Option<(u32, PixelRect)> {
        self.places.get(&(page, source)).copied()
    }

    /// Moves quads of a list of the map to the pages of the atlas. A quad with a picture of a
    /// sprite, which the atlas does not have, gets a page number after those of the atlas: its
    /// number in the list plus the number of pages of the atlas.
    pub fn put_into(&self, quads: &mut [Quad]) {
        for quad in quads {
            match self.find(quad.page, quad.source) {
                Some((page, source)) => (quad.page, quad.source) = (page, source),
                None => quad.page += self.pages.len() as u32,
            }
        }
    }
}

fn stamps_of(quilt: &Quilt) -> (Stamp, Stamp, ProjectionKind) {
    (quilt.stamps().tiles, quilt.stamps().palettes, quilt.projection().kind())
}

/// Puts pictures in rows, the next row below the highest of the last.
struct Shelves {
    page: PixelSize,
    /// How much of each page is used.
    sizes: Vec<PixelSize>,
    x: u32,
    y: u32,
    shelf: u32,
}

impl Shelves {
    fn put(&mut self, size: PixelSize, border: u32) -> Result<(u32, PixelRect), AtlasError> {
        let with_border = |length: u32, most: u32| {
            border.checked_mul(2)?.checked_add(length).filter(|length| *length <= most)
        };
        let fits = with_border(size.width, self.page.width)
            .zip(with_border(size.height, self.page.height));
        let (width, height) = fits.ok_or(AtlasError { size, border, page: self.page })?;
        if self.x + width > self.page.width {
            (self.x, self.y, self.shelf) = (0, self.y + self.shelf, 0);
        }
        if self.y + height > self.page.height {
            self.sizes.push(PixelSize::default());
            (self.x, self.y, self.shelf) = (0, 0, 0);
        }
        let number = self.sizes.len() - 1;
        let at = PixelRect::new(self.x + border, self.y + border, size);
        self.x += width;
        self.shelf = self.shelf.max(height);
        let used = &mut self.sizes[number];
        used.width = used.width.max(self.x);
        used.height = used.height.max(self.y + height);
        Ok((number as u32, at))
    }
}

/// Draws a picture with its outermost pixels repeated around it.
fn extrude(
    page: &ArtPage,
    source: PixelRect,
    border: u32,
    at: PixelRect,
    pixels: &mut [[u8; 4]],
    stride: usize,
) {
    let PixelSize { width, height } = source.size;
    for y in 0..height + 2 * border {
        let row = page.row(source, y.saturating_sub(border).min(height.saturating_sub(1)));
        let start = (at.y - border + y) as usize * stride + (at.x - border) as usize;
        for x in 0..width + 2 * border {
            let texel = row.get(x.saturating_sub(border).min(width.saturating_sub(1)) as usize);
            pixels[start + x as usize] = texel.copied().unwrap_or_default();
        }
    }
}
