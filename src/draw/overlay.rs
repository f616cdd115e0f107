//! Overlays: marks and text on top of a map.
//!
//! An overlay is a list of rectangles in pixels of the screen, each a part of one small page with a
//! colour, so that any renderer that draws coloured parts of a picture can show it. Text is made of
//! the glyphs of that page, plain rectangles of its one glyph without holes. Where the ground is seen
//! at a slant, convex areas and lines come among them.

use super::glyphs;
use crate::lattice::Lattice;
use crate::picture::Color;
use crate::tile::ArtPage;
use crate::units::{PixelRect, ScreenPoint, ScreenRect, ScreenSize};
use crate::view::View;

/// What lies behind text, so that it can be read over any map.
const PLATE: Color = Color::rgba(12, 16, 20, 190);
const SHADOW: Color = Color::rgba(0, 0, 0, 200);

/// A coloured rectangle of an [`Overlay`].
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
#[non_exhaustive]
pub struct OverlayQuad {
    /// The pixels that it covers on the screen; never beyond its edges.
    pub target: ScreenRect,
    /// Its pixels on [`Overlay::page`], which are white or clear.
    pub source: PixelRect,
    /// The colour that they take, with its own alpha.
    pub color: Color,
}

/// A part of an [`Overlay`].
#[derive(Clone, Copy, Debug, PartialEq)]
#[non_exhaustive]
pub enum OverlayPart<'a> {
    /// Rectangles.
    Quads(&'a [OverlayQuad]),
    /// A convex area in one colour: the pixels whose centres lie in it.
    Area {
        /// Its corners, one after the other around it.
        corners: &'a [ScreenPoint],
        /// Its colour, with its own alpha.
        color: Color,
    },
    /// A straight line.
    Line {
        /// Where it begins.
        from: ScreenPoint,
        /// Where it ends.
        to: ScreenPoint,
        /// How thick it is, in pixels.
        thickness_px: u32,
        /// Its colour, with its own alpha.
        color: Color,
    },
}

/// A part that is no rectangle, and how many rectangles come before it.
#[derive(Clone, Copy, Debug)]
struct Shape {
    quads_before: usize,
    /// Its corners: from the first up to, but not with, the second. Two are a line.
    corners: (usize, usize),
    thickness_px: u32,
    color: Color,
}

/// A picture laid over a map to look into it: the lattice, coordinates, ground, markers, figures.
///
/// Keep one and begin it anew each frame; what is added later lies on top. It is drawn by
/// [`Painter::paint_overlay`](crate::Painter::paint_overlay), or by any renderer from
/// [`Overlay::quads`] and [`Overlay::page`].
///
/// ```
/// use sturdy_quilt::{Color, Frame, Overlay, Painter, ScreenSize, View};
/// # let quilt = sturdy_quilt::doc_quilt();
///
/// let view = View::new(ScreenSize::new(320, 200)).zoomed(2.0);
/// let mut overlay = Overlay::new();
/// overlay.begin(&view, quilt.lattice());
/// overlay.lattice(Color::rgba(255, 255, 255, 60));
/// overlay.coordinates(Color::rgb(255, 255, 255));
/// overlay.markers(&quilt);
/// let mut frame = Frame::new(view.size());
/// Painter::new().paint_overlay(&overlay, &mut frame);
/// assert!(frame.pixels().iter().any(|pixel| *pixel != [0, 0, 0, 0]));
/// ```
#[derive(Clone, Debug)]
pub struct Overlay {
    pub(crate) view: View,
    pub(crate) lattice: Lattice,
    pub(crate) text_scale: u32,
    quads: Vec<OverlayQuad>,
    shapes: Vec<Shape>,
    corners: Vec<ScreenPoint>,
}

impl Overlay {
    /// Returns an overlay with nothing on it, whose letters are 10 × 16 pixels.
    pub fn new() -> Overlay {
        Overlay {
            view: View::new(ScreenSize::default()),
            lattice: Lattice::default(),
            text_scale: 2,
            quads: Vec::new(),
            shapes: Vec::new(),
            corners: Vec::new(),
        }
    }

    /// Returns this overlay with letters of `5 * scale` × `8 * scale` pixels; `scale` is at least
    /// 1.
    #[must_use]
    pub fn with_text_scale(mut self, scale: u32) -> Overlay {
        self.text_scale = scale.max(1);
        self
    }

    /// Removes everything, and begins anew for a view of a map.
    ///
    /// Of a view that is turned, the overlay lies on the [upright](View::upright) picture;
    /// [`Painter::paint_with`](crate::Painter::paint_with) turns both.
    pub fn begin(&mut self, view: &View, lattice: &Lattice) {
        self.view = view.upright();
        self.lattice = *lattice;
        self.quads.clear();
        self.shapes.clear();
        self.corners.clear();
    }

    /// Returns everything on it, in the order of drawing.
    pub fn parts(&self) -> impl Iterator<Item = OverlayPart<'_>> {
        let quads =
            |from: usize, to: usize| (from < to).then(|| OverlayPart::Quads(&self.quads[from..to]));
        let mut drawn = 0;
        let shapes = self.shapes.iter().flat_map(move |shape| {
            let before = quads(drawn, shape.quads_before);
            drawn = shape.quads_before;
            let corners = &self.corners[shape.corners.0..shape.corners.1];
            let Shape { thickness_px, color, .. } = *shape;
            let own = match *corners {
                [from, to] => OverlayPart::Line { from, to, thickness_px, color },
                _ => OverlayPart::Area { corners, color },
            };
            before.into_iter().chain([own])
        });
        let last = self.shapes.last().map_or(0, |shape| shape.quads_before);
        shapes.chain(quads(last, self.quads.len()))
    }

    /// Returns the rectangles in the order of drawing: all there is on it, unless the ground is seen at
    /// a slant, where [`Overlay::parts`] has areas and lines as well.
    pub fn quads(&self) -> &[OverlayQuad] {
        &self.quads
    }

    /// Returns the page from which the rectangles take their pixels.
    pub fn page() -> &'static ArtPage {
        glyphs::page()
    }

    /// Draws a coloured rectangle of the screen; what lies beyond its edges is cut off.
    pub fn rect(&mut self, target: ScreenRect, color: Color) {
        let target = target.intersection(ScreenRect::of_size(self.view.size()));
        if !target.is_empty() && color.a > 0 {
            self.quads.push(OverlayQuad { target, source: glyphs::solid(), color });
        }
    }

    /// Draws a convex area of the screen: the pixels whose centres lie in it. Its corners follow each
    /// other around it; of fewer than three, or of numbers that are not finite, nothing is drawn.
    pub fn area(&mut self, corners: impl IntoIterator<Item = ScreenPoint>, color: Color) {
        self.shape(corners, 0, color, 3);
    }

    /// Draws a straight line from one place on the screen to another.
    pub fn straight_line(
        &mut self,
        from: ScreenPoint,
        to: ScreenPoint,
        thickness_px: u32,
        color: Color,
    ) {
        self.shape([from, to], thickness_px, color, 2);
    }

    fn shape(
        &mut self,
        corners: impl IntoIterator<Item = ScreenPoint>,
        thickness_px: u32,
        color: Color,
        least: usize,
    ) {
        let first = self.corners.len();
        self.corners.extend(corners);
        let own = &self.corners[first..];
        let is_finite = own.iter().all(|at| at.x.is_finite() && at.y.is_finite());
        if own.len() < least || !is_finite || color.a == 0 {
            self.corners.truncate(first);
            return;
        }
        let (corners, quads_before) = ((first, self.corners.len()), self.quads.len());
        self.shapes.push(Shape { quads_before, corners, thickness_px, color });
    }

    /// The dark edge around lines and points, so that they are seen on any ground.
    pub(crate) fn halo(color: Color) -> Color {
        Color::rgba(10, 12, 16, (u16::from(color.a) * 220 / 255) as u8)
    }

    /// Draws the outline of a rectangle of the screen, some pixels thick, inside of it.
    pub fn frame(&mut self, target: ScreenRect, thickness_px: u32, color: Color) {
        let ScreenRect { left, top, right, bottom } = target;
        let thick = i32::try_from(thickness_px).unwrap_or(i32::MAX);
        let (width, height) = (right.saturating_sub(left), bottom.saturating_sub(top));
        if thick.saturating_mul(2) >= width.min(height) {
            self.rect(target, color);
            return;
        }
        self.rect(ScreenRect { bottom: top + thick, ..target }, color);
        self.rect(ScreenRect { top: bottom - thick, ..target }, color);
        let inner = ScreenRect { top: top + thick, bottom: bottom - thick, ..target };
        self.rect(ScreenRect { right: left + thick, ..inner }, color);
        self.rect(ScreenRect { left: right - thick, ..inner }, color);
    }
}

impl Default for Overlay {
    fn default() -> Overlay {
        Overlay::new()
    }
}

impl Overlay {
    /// Pixels that so many letters take in a row.
    pub(crate) fn text_width(&self, letters: usize) -> i32 {
        (letters as u32).saturating_mul(glyphs::ADVANCE * self.text_scale) as i32
    }

    /// Pixels from line to line.
    pub(crate) fn line_height(&self) -> i32 {
        ((glyphs::GLYPH.height + 2) * self.text_scale) as i32
    }

    /// Draws a line of text with a shadow, its upper left corner at a pixel of the screen.
    /// Letters that are not wholly on the screen are left out. Besides ASCII there are glyphs for ×
    /// · ° − → …
    pub fn text(&mut self, left: i32, top: i32, text: &str, color: Color) {
        let shift = (self.text_scale as i32 + 1) / 2;
        self.letters(left + shift, top + shift, text, SHADOW);
        self.letters(left, top, text, color);
    }

    /// Draws a line of text on a dark plate.
    pub fn label(&mut self, left: i32, top: i32, text: &str, color: Color) {
        self.text_box(left, top, &[(text, color)]);
    }

    /// Returns the size of the plate of some lines, the longest of so many letters.
    pub fn text_box_size(&self, letters: usize, lines: usize) -> ScreenSize {
        let pad = 2 * self.text_scale as i32;
        let (width, height) = (self.text_width(letters) + 2 * pad, self.line_height());
        let lines = i32::try_from(lines).unwrap_or(i32::MAX);
        let height = height.saturating_mul(lines).saturating_add(pad);
        ScreenSize::new(width as u32, height as u32)
    }

    /// Draws lines of text on a dark plate, whose upper left corner lies at a pixel of the screen.
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
