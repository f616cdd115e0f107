//! Overlays: what a programmer wants to see on top of a map.
//!
//! An overlay is a list of rectangles in pixels of the screen, each a part of one small page with a
//! colour, so that any renderer that draws coloured parts of a picture can show it. Text is made of
//! the glyphs of that page, plain rectangles of its one glyph without holes.

mod cells;
mod figures;
mod glyphs;
mod lines;
mod markers;
mod query;
mod text;
mod tiles;

pub(super) use markers::marker_color;
pub use tiles::TileText;

use crate::lattice::Lattice;
use crate::picture::Color;
use crate::tile::ArtPage;
use crate::units::{PixelRect, ScreenRect, ScreenSize};
use crate::view::View;

/// One coloured rectangle of an [`Overlay`].
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

/// What is laid over a map to look into it: the lattice, coordinates, ground, markers, figures.
///
/// Keep one and begin it anew each frame; what is added later lies on top. It is drawn by
/// [`Painter::paint_overlay`](super::Painter::paint_overlay), or by any renderer from
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
    view: View,
    lattice: Lattice,
    text_scale: u32,
    quads: Vec<OverlayQuad>,
}

impl Overlay {
    /// An overlay with nothing on it, whose letters are 10 × 16 pixels.
    pub fn new() -> Overlay {
        Overlay {
            view: View::new(ScreenSize::default()),
            lattice: Lattice::default(),
            text_scale: 2,
            quads: Vec::new(),
        }
    }

    /// The same overlay with letters of `5 * scale` × `8 * scale` pixels; `scale` is at least 1.
    #[must_use]
    pub fn text_scale(mut self, scale: u32) -> Overlay {
        self.text_scale = scale.max(1);
        self
    }

    /// Takes everything off, for another look at the same map or another.
    ///
    /// Of a view that is turned, the overlay lies on the [upright](View::upright) picture;
    /// [`Painter::paint_with`](super::Painter::paint_with) turns both.
    pub fn begin(&mut self, view: &View, lattice: &Lattice) {
        self.view = view.upright();
        self.lattice = *lattice;
        self.quads.clear();
    }

    /// The rectangles in the order of drawing.
    pub fn quads(&self) -> &[OverlayQuad] {
        &self.quads
    }

    /// The page from which the rectangles take their pixels.
    pub fn page() -> &'static ArtPage {
        glyphs::page()
    }

    /// A coloured rectangle of the screen; what lies beyond its edges is cut off.
    pub fn rect(&mut self, target: ScreenRect, color: Color) {
        let target = target.intersection(ScreenRect::of_size(self.view.size()));
        if !target.is_empty() && color.a > 0 {
            self.quads.push(OverlayQuad { target, source: glyphs::solid(), color });
        }
    }

    /// The dark edge around lines and points, so that they are seen on any ground.
    pub(super) fn halo(color: Color) -> Color {
        Color::rgba(10, 12, 16, (u16::from(color.a) * 220 / 255) as u8)
    }

    /// The outline of a rectangle of the screen, drawn inwards so many pixels thick.
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

/// Colours that tell a few things apart: ground classes, layers. After the last one they begin
/// anew.
pub(super) fn color_of_number(number: usize) -> Color {
    const COLORS: [Color; 12] = [
        Color::rgb(112, 190, 86),
        Color::rgb(158, 104, 62),
        Color::rgb(150, 152, 160),
        Color::rgb(58, 122, 222),
        Color::rgb(232, 236, 240),
        Color::rgb(20, 104, 66),
        Color::rgb(240, 200, 64),
        Color::rgb(214, 72, 160),
        Color::rgb(240, 128, 44),
        Color::rgb(64, 200, 206),
        Color::rgb(208, 52, 52),
        Color::rgb(132, 92, 214),
    ];
    COLORS[number % COLORS.len()]
}
