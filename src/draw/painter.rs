//! The renderer of the library: paints a draw list on the CPU.
//!
//! The pixel rule: pixel centres decide. A quad covers the pixels between its edges, which are
//! rounded once and shared by neighbours; the texel of a pixel is the one under its centre, found
//! in whole numbers. Blending premultiplied pixels rounds once, to the nearest level.

use super::Frame;
use super::list::DrawList;
use super::overlay::Overlay;
use super::pass::Pass;
use super::sample::{texel, turned_size};
use super::slot::art_of;
use crate::tile::{ArtPage, TileTable, Turn, premultiplied};
use crate::units::{PixelRect, ScreenRect};

/// Paints draw lists into frames. Keep one: it reuses its memory.
///
/// ```
/// use sturdy_quilt::{DrawList, Frame, Painter, ScreenSize, View};
/// # let quilt = sturdy_quilt::doc_quilt();
///
/// let view = View::new(ScreenSize::new(64, 64)).zoomed(2.0);
/// let (mut list, mut painter) = (DrawList::new(), Painter::new());
/// let mut frame = Frame::new(view.size());
/// list.rebuild(&quilt, &view, &[]);
/// painter.paint(&list, &mut frame);
/// assert_ne!(frame.pixels()[40 * 64 + 40], [0, 0, 0, 0]);
/// ```
#[derive(Clone, Debug, Default)]
pub struct Painter {
    /// Which column of the source each pixel of a row takes.
    taken: Vec<u32>,
}

/// What is painted there.
#[derive(Clone, Copy, Debug)]
struct Stamped<'a> {
    page: &'a ArtPage,
    source: PixelRect,
    turn: Turn,
    alpha: u8,
}

impl Painter {
    /// A painter.
    pub fn new() -> Painter {
        Painter::default()
    }

    /// Paints a list over what the frame shows. The top left pixels of view and frame are the
    /// same; what lies beyond the frame is cut off.
    pub fn paint(&mut self, list: &DrawList, frame: &mut Frame) {
        let Some(tiles) = list.tiles() else { return };
        for pass in list.passes() {
            match pass {
                Pass::Stack(pass) => {
                    for (at, entry) in pass.shown() {
                        let (page, art) = art_of(tiles, entry.cell);
                        let alpha = list.slot_alpha(entry.slot);
                        let what = (art.source, entry.cell.turn(), alpha);
                        self.place(tiles, page, what, pass.pixels(at), frame);
                    }
                }
                Pass::Loose(items) => {
                    for item in items {
                        let what = (item.source, item.turn, item.alpha);
                        let target = list.view().pixels(item.rect);
                        self.place(tiles, item.page, what, target, frame);
                    }
                }
            }
        }
    }

    /// Paints an overlay over what the frame shows.
    pub fn paint_overlay(&mut self, overlay: &Overlay, frame: &mut Frame) {
        let page = Overlay::page();
        for quad in overlay.quads() {
            let ScreenRect { left, top, right, bottom } = quad.target;
            let size = frame.size();
            let (to, end) = (right.min(size.width as i32), bottom.min(size.height as i32));
            if left >= to || top >= end {
                continue;
            }
            let color = premultiplied(quad.color.to_bytes());
            self.taken.clear();
            self.taken.extend((left..to).map(|x| texel(x, left, right, quad.source.size.width)));
            for y in top..end {
                let texels = page.row(quad.source, texel(y, top, bottom, quad.source.size.height));
                let pixels = frame.row_mut(y as u32, left as u32, to as u32);
                // A texel of the page is white or clear.
                let colored = self.taken.iter().map(|&x| match texels[x as usize][3] {
                    0 => [0; 4],
                    _ => color,
                });
                blend_row(pixels, colored, 255);
            }
        }
    }

    fn place(
        &mut self,
        tiles: &TileTable,
        page: u32,
        (source, turn, alpha): (PixelRect, Turn, u8),
        target: ScreenRect,
        frame: &mut Frame,
    ) {
        if let Some(page) = tiles.page(page) {
            self.stamp(Stamped { page, source, turn, alpha }, target, frame);
        }
    }

    /// Paints one picture, scaled to its target by the nearest pixel.
    fn stamp(&mut self, what: Stamped<'_>, target: ScreenRect, frame: &mut Frame) {
        let ScreenRect { left, top, right, bottom } = target;
        let clip = |edge: i32, most: u32| edge.clamp(0, i32::try_from(most).unwrap_or(i32::MAX));
        let (from, to) = (clip(left, frame.size().width), clip(right, frame.size().width));
        let (first, end) = (clip(top, frame.size().height), clip(bottom, frame.size().height));
        if from >= to || first >= end {
            return;
        }
        let size = what.source.size;
        let (width, height) = turned_size(what.source, what.turn);
        self.taken.clear();
        self.taken.extend((from..to).map(|x| texel(x, left, right, width)));
        for y in first..end {
            let row = texel(y, top, bottom, height);
            let pixels = frame.row_mut(y as u32, from as u32, to as u32);
            if what.turn == Turn::NONE {
                let texels = what.page.row(what.source, row);
                let offset = self.taken[0] as usize;
                match texels.get(offset..offset + pixels.len()) {
                    // At zoom 1 each pixel takes the next texel.
                    Some(texels) if right.abs_diff(left) == width => {
                        blend_row(pixels, texels.iter().copied(), what.alpha);
                    }
                    _ => {
                        let texels = self.taken.iter().map(|&x| texels[x as usize]);
                        blend_row(pixels, texels, what.alpha);
                    }
                }
            } else {
                let texels = self.taken.iter().map(|&x| {
                    let (x, y) = what.turn.source_pixel(x, row, size.width, size.height);
                    what.page.row(what.source, y)[x as usize]
                });
                blend_row(pixels, texels, what.alpha);
            }
        }
    }
}

fn blend_row(pixels: &mut [[u8; 4]], texels: impl Iterator<Item = [u8; 4]>, alpha: u8) {
    for (pixel, texel) in pixels.iter_mut().zip(texels) {
        match (texel[3], alpha) {
            (0, _) => {}
            (255, 255) => *pixel = texel,
            _ => *pixel = blended(*pixel, texel, alpha),
        }
    }
}

/// A premultiplied pixel over another, drawn with `alpha`, rounded once.
fn blended(below: [u8; 4], above: [u8; 4], alpha: u8) -> [u8; 4] {
    const WHOLE: u32 = 255 * 255;
    let alpha = u32::from(alpha);
    let through = WHOLE - u32::from(above[3]) * alpha;
    std::array::from_fn(|channel| {
        let sum = u32::from(above[channel]) * alpha * 255 + u32::from(below[channel]) * through;
        ((sum + WHOLE / 2) / WHOLE) as u8
    })
}
