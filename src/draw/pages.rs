//! The pages of pixels of a list, by number.
//!
//! First come those of the tile table, then one for each set and palette that replaces colours of
//! it, made when it is first looked at, and last the pictures of sprites.

use std::sync::{Arc, OnceLock};

use super::map_facts::CellArt;
use super::slant::Diamond;
use crate::picture::{Color, Picture};
use crate::quilt::{Palette, Quilt};
use crate::tile::{ArtPage, TileArt, TileTable};
use crate::units::{PixelRect, PixelSize};

#[derive(Clone, Debug)]
pub(super) struct Pages {
    tiles: TileTable,
    recolored: Vec<Recolored>,
    /// By set and palette slot: the number of the page where it is another one.
    by_palette: Vec<Vec<Option<u32>>>,
    /// The diamonds in white, in stripes and in grey; nothing where there are none.
    diamonds: Vec<TileArt>,
    plain: Plain,
    /// What that is, made when it is first looked at.
    plain_page: OnceLock<Arc<ArtPage>>,
}

/// What shows what is drawn in one colour.
#[derive(Clone, Copy, Debug)]
enum Plain {
    /// Nothing: the pages of the sets do.
    None,
    /// One pixel: of a map that is meant to be seen at a slant, and is seen from above.
    Pixel,
    /// Diamonds.
    Diamonds(Diamond),
}

/// A page of a set with other colours.
#[derive(Clone, Debug)]
struct Recolored {
    base: u32,
    palette: String,
    colors: Vec<(Color, Color)>,
    page: OnceLock<Arc<ArtPage>>,
}

impl Pages {
    pub(super) fn of(quilt: &Quilt, diamond: Option<&Diamond>) -> Pages {
        let mut pages = Pages {
            tiles: quilt.tiles().clone(),
            recolored: Vec::new(),
            by_palette: Vec::new(),
            plain: match (diamond, quilt.projection().is_slanted()) {
                (Some(own), _) => Plain::Diamonds(*own),
                (None, true) => Plain::Pixel,
                (None, false) => Plain::None,
            },
            diamonds: diamond.map_or(Vec::new(), Diamond::plain_arts),
            plain_page: OnceLock::new(),
        };
        let first = quilt.tiles().sets().len() as u32 + 1;
        for (set, base) in quilt.tiles().sets().zip(1..) {
            let number = |palette: &Palette| {
                let colors = set.palette().iter();
                let colors: Vec<(Color, Color)> = colors
                    .filter_map(|(name, from)| Some((*from, palette.color_for(name)?)))
                    .collect();
                if colors.is_empty() {
                    return None;
                }
                let palette = palette.name().to_owned();
                pages.recolored.push(Recolored { base, palette, colors, page: OnceLock::new() });
                Some(first + pages.recolored.len() as u32 - 1)
            };
            pages.by_palette.push(quilt.palettes().iter().map(number).collect());
        }
        pages
    }

    /// The number of the page that shows another in a palette.
    pub(super) fn in_palette(&self, page: u32, palette: u8) -> u32 {
        let set = (page as usize).checked_sub(1).and_then(|set| self.by_palette.get(set));
        let slot = usize::from(palette).checked_sub(1);
        let other = set.zip(slot).and_then(|(set, slot)| *set.get(slot)?);
        other.unwrap_or(page)
    }

    /// Whether no palette has made pixels of a page less solid.
    pub(super) fn keeps_alpha(&self, page: u32) -> bool {
        let recolored = self.recolored(page);
        recolored.is_none_or(|page| page.colors.iter().all(|(_, color)| color.a == 255))
    }

    fn recolored(&self, page: u32) -> Option<&Recolored> {
        let first = self.by_palette.len() as u32 + 1;
        self.recolored.get(page.checked_sub(first)? as usize)
    }

    /// Gives a picture that is stretched over its cell as a diamond in its colour.
    pub(super) fn diamond<'a>(&'a self, plain: CellArt<'a>) -> CellArt<'a> {
        const WHITE: usize = 0;
        const STRIPES: usize = 1;
        const GREY: usize = 2;
        let (number, color) = match plain.page {
            0 if *plain.art == TileTable::UNLOADED_ART => (GREY, plain.color),
            0 => (STRIPES, plain.color),
            _ => {
                let page = self.get(plain.page);
                let texel = page.and_then(|page| page.row(plain.art.source, 0).first().copied());
                (WHITE, plain.color.times(texel.map_or(Color::WHITE, straight)))
            }
        };
        let Some(art) = self.diamonds.get(number) else { return plain };
        CellArt { page: self.plain_number(), art, color, ..plain }
    }

    /// All diamonds, each with its page.
    pub(super) fn diamond_pictures(&self) -> Vec<(u32, PixelRect)> {
        self.diamonds.iter().map(|art| (self.plain_number(), art.source)).collect()
    }

    /// The number of the page with the diamonds, or with the one pixel: behind all others.
    pub(super) fn plain_number(&self) -> u32 {
        (1 + self.by_palette.len() + self.recolored.len()) as u32
    }

    /// What a page holds; `None` for one that is not of the map.
    pub(super) fn name(&self, number: u32) -> Option<String> {
        if number == self.plain_number() {
            match self.plain {
                Plain::None => {}
                Plain::Pixel => return Some("colours".to_owned()),
                Plain::Diamonds(_) => return Some("diamonds".to_owned()),
            }
        }
        let (base, palette) = match self.recolored(number) {
            Some(recolored) => (recolored.base, Some(&recolored.palette)),
            None => (number, None),
        };
        let Some(set) = base.checked_sub(1) else { return Some("placeholders".to_owned()) };
        let set = self.tiles.sets().nth(set as usize)?.name();
        Some(palette.map_or_else(|| set.to_owned(), |palette| format!("{set} in {palette}")))
    }

    /// How many pages there are.
    pub(super) fn count(&self) -> u32 {
        // Counted from above as well, so that what is behind has the same numbers.
        self.plain_number() + 1
    }

    fn plain_page(&self) -> Option<&ArtPage> {
        let make = || match (self.plain, self.tiles.page(0)) {
            (Plain::Diamonds(own), Some(placeholders)) => own.plain_page(placeholders),
            _ => one_pixel(),
        };
        match self.plain {
            Plain::None => None,
            _ => Some(self.plain_page.get_or_init(|| Arc::new(make()))),
        }
    }

    pub(super) fn get(&self, number: u32) -> Option<&ArtPage> {
        if number == self.plain_number() {
            return self.plain_page();
        }
        let Some(recolored) = self.recolored(number) else { return self.tiles.page(number) };
        let make = || self.tiles.page(recolored.base).map(|page| page.recolored(&recolored.colors));
        let made = recolored.page.get_or_init(|| Arc::new(make().unwrap_or_default()));
        Some(made)
    }
}

/// A page of one white pixel.
fn one_pixel() -> ArtPage {
    ArtPage::from_picture(&Picture::filled(PixelSize::new(1, 1), Color::WHITE))
}

/// The colour of a pixel that has alpha multiplied in; multiplied in again, it is the same.
fn straight([r, g, b, a]: [u8; 4]) -> Color {
    let alpha = u32::from(a).max(1);
    let whole = |channel: u8| ((u32::from(channel) * 255 + alpha / 2) / alpha).min(255) as u8;
    Color::rgba(whole(r), whole(g), whole(b), a)
}
