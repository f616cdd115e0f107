//! The built-in page of glyphs: letters of 5 × 8 pixels, white on clear.
//!
//! `glyphs.txt` is their picture: 16 glyphs side by side, a blank line below each row of them.

use std::sync::LazyLock;

use crate::picture::{Color, Picture};
use crate::tile::ArtPage;
use crate::units::{PixelRect, PixelSize};

const PICTURE: &str = include_str!("glyphs.txt");
/// The characters beyond ASCII, in the order in which they follow in the picture.
const OTHERS: [char; 7] = ['×', '·', '°', '−', '→', '…', '█'];
const COLUMNS: u32 = 16;

/// Pixels of a glyph.
pub(super) const GLYPH: PixelSize = PixelSize::new(5, 8);
/// Pixels from glyph to glyph.
pub(super) const ADVANCE: u32 = GLYPH.width + 1;

static PAGE: LazyLock<ArtPage> = LazyLock::new(|| {
    let rows = (PICTURE.lines().count() as u32).div_ceil(GLYPH.height + 1);
    let size = PixelSize::new(COLUMNS * ADVANCE, rows * (GLYPH.height + 1));
    let mut picture = Picture::filled(size, Color::CLEAR);
    for (y, line) in (0..).zip(PICTURE.lines()) {
        for (x, _) in (0..).zip(line.bytes()).filter(|(_, mark)| *mark == b'#') {
            picture.set(x, y, Color::rgb(255, 255, 255));
        }
    }
    ArtPage::from_picture(&picture)
});

/// The page of all glyphs.
pub(super) fn page() -> &'static ArtPage {
    &PAGE
}

/// The pixels of a character; a box with holes for one that has no glyph.
pub(super) fn glyph(character: char) -> PixelRect {
    let number = match character {
        ' '..='~' => character as u32 - ' ' as u32,
        _ => match (0..).zip(OTHERS).find(|(_, other)| *other == character) {
            Some((place, _)) => 96 + place,
            // The place of DEL, which is no character, has the box.
            None => 95,
        },
    };
    PixelRect::new(number % COLUMNS * ADVANCE, number / COLUMNS * (GLYPH.height + 1), GLYPH)
}

/// Pixels that are all solid: what plain rectangles are made of.
pub(super) fn solid() -> PixelRect {
    glyph('█')
}
