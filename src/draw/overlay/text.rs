//! Text of the built-in glyphs.

use super::{Overlay, OverlayQuad, glyphs};
use crate::picture::Color;
use crate::units::{ScreenRect, ScreenSize};

/// What lies behind text, so that it can be read over any map.
const PLATE: Color = Color::rgba(12, 16, 20, 190);
const SHADOW: Color = Color::rgba(0, 0, 0, 200);

impl Overlay {
    /// Pixels that so many letters take in a row.
    pub(super) fn text_width(&self, letters: usize) -> i32 {
        (letters as u32).saturating_mul(glyphs::ADVANCE * self.text_scale) as i32
    }

    /// Pixels from line to line.
    pub(super) fn line_height(&self) -> i32 {
        ((glyphs::GLYPH.height + 2) * self.text_scale) as i32
    }

    /// A line of text with a shadow, its upper left corner at a pixel of the screen. Letters that
    /// are not wholly on the screen are left out. Besides ASCII there are glyphs for × · ° − → …
    pub fn text(&mut self, left: i32, top: i32, text: &str, color: Color) {
        let shift = (self.text_scale as i32 + 1) / 2;
        self.letters(left + shift, top + shift, text, SHADOW);
        self.letters(left, top, text, color);
    }

    /// A line of text on a dark plate.
    pub fn label(&mut self, left: i32, top: i32, text: &str, color: Color) {
        self.text_box(left, top, &[(text, color)]);
    }

    /// How large the plate of some lines is, the longest of so many letters.
    pub fn text_box_size(&self, letters: usize, lines: usize) -> ScreenSize {
        let pad = 2 * self.text_scale as i32;
        let (width, height) = (self.text_width(letters) + 2 * pad, self.line_height());
        let lines = i32::try_from(lines).unwrap_or(i32::MAX);
        let height = height.saturating_mul(lines).saturating_add(pad);
        ScreenSize::new(width as u32, height as u32)
    }

    /// Lines of text on a dark plate, the upper left corner of the plate at a pixel of the
    /// screen.
    pub fn text_box<T: AsRef<str>>(&mut self, left: i32, top: i32, lines: &[(T, Color)]) {
        let longest = lines.iter().map(|(line, _)| line.as_ref().chars().count()).max();
        let Some(longest) = longest else { return };
        let pad = 2 * self.text_scale as i32;
        let (right, height) = (left + self.text_width(longest) + 2 * pad, self.line_height());
        let bottom = top + height * lines.len() as i32 + pad;
        self.rect(ScreenRect { left, top, right, bottom }, PLATE);
        for (number, (line, color)) in (0..).zip(lines) {
            self.letters(left + pad, top + pad + height * number, line.as_ref(), *color);
        }
    }

    fn letters(&mut self, left: i32, top: i32, text: &str, color: Color) {
        let (scale, size) = (self.text_scale as i32, self.view.size());
        let (width, height) = (size.width as i32, size.height as i32);
        let mut x = left;
        for character in text.chars() {
            let target = ScreenRect {
                left: x,
                top,
                right: x + glyphs::GLYPH.width as i32 * scale,
                bottom: top + glyphs::GLYPH.height as i32 * scale,
            };
            let inside = 0 <= x && 0 <= top && target.right <= width && target.bottom <= height;
            if character != ' ' && inside {
                self.quads.push(OverlayQuad { target, source: glyphs::glyph(character), color });
            }
            x = x.saturating_add(glyphs::ADVANCE as i32 * scale);
            if x > width {
                break;
            }
        }
    }
}
