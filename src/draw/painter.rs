//! The renderer of the library: paints a draw list on the CPU.
//!
//! The pixel rule: pixel centres decide. A quad covers the pixels between its edges, which are
//! rounded once and shared by neighbours; the texel of a pixel is the one under its centre, found
//! in whole numbers. Blending premultiplied pixels rounds once, to the nearest level.

use super::Frame;
use super::list::DrawList;
use super::overlay::Overlay;
use super::pass::{LooseItem, Pass, StackPass};
use super::sample::{texel, turned_size};
use super::scene::Scene;
use crate::tile::{ArtPage, Coverage, Turn, premultiplied};
use crate::units::{CellPos, CellRect, PixelRect, ScreenRect};

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
    /// The pixel edges of the columns and rows of cells in view.
    edges: Edges,
}

/// The pixel edges of the columns and rows of a rectangle of cells: each is rounded once for the
/// whole pass, not once for each of its cells.
#[derive(Clone, Debug, Default)]
struct Edges {
    cells: CellRect,
    columns: Vec<i32>,
    rows: Vec<i32>,
}

impl Edges {
    /// More columns and rows than pixels of any screen: then most cells have no pixel, and the
    /// few that are there are cheaper one by one.
    const MOST: u32 = 1 << 14;

    fn look(&mut self, pass: &StackPass<'_>) {
        let cells = pass.cells();
        self.columns.clear();
        self.rows.clear();
        self.cells =
            if cells.width().max(cells.height()) > Self::MOST { CellRect::EMPTY } else { cells };
        if !self.cells.is_empty() {
            self.columns.extend((cells.left()..=cells.right()).map(|x| pass.column_edge(x)));
            self.rows.extend((cells.top()..=cells.bottom()).map(|y| pass.row_edge(y)));
        }
    }

    #[inline]
    fn pixels(&self, pass: &StackPass<'_>, cell: CellPos) -> ScreenRect {
        if !self.cells.contains(cell) {
            return pass.pixels(cell);
        }
        let (x, y) =
            ((cell.x() - self.cells.left()) as usize, (cell.y() - self.cells.top()) as usize);
        ScreenRect {
            left: self.columns[x],
            top: self.rows[y],
            right: self.columns[x + 1],
            bottom: self.rows[y + 1],
        }
    }
}

/// What is painted there.
#[derive(Clone, Copy, Debug)]
struct Stamped<'a> {
    page: &'a ArtPage,
    source: PixelRect,
    coverage: Coverage,
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
        let Some(Scene { tiles, looks, .. }) = &list.scene else { return };
        for pass in list.passes() {
            match pass {
                Pass::Stack(pass) => {
                    self.edges.look(&pass);
                    let Painter { taken, edges } = self;
                    pass.shown().for_each(|(at, entry)| {
                        let (page, art) = looks.art_of(entry.cell);
                        let Some(page) = tiles.page(page) else { return };
                        let what = Stamped {
                            page,
                            source: art.source,
                            coverage: art.coverage,
                            turn: entry.cell.turn(),
                            alpha: looks.slots[usize::from(entry.slot)].alpha,
                        };
                        stamp(what, edges.pixels(&pass, at), frame, taken);
                    });
                }
                Pass::Loose(items) => {
                    for item in items {
                        let Some(page) = tiles.page(item.page) else { continue };
                        let LooseItem { source, turn, alpha, .. } = *item;
                        let (_, art) = looks.art_of(item.cell);
                        let what = Stamped { page, source, coverage: art.coverage, turn, alpha };
                        stamp(what, list.view().pixels(item.rect), frame, &mut self.taken);
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
}

/// Paints one picture, scaled to its target by the nearest pixel. `taken` is memory to work with.
fn stamp(what: Stamped<'_>, target: ScreenRect, frame: &mut Frame, taken: &mut Vec<u32>) {
    let ScreenRect { left, top, right, bottom } = target;
    let clip = |edge: i32, most: u32| edge.clamp(0, i32::try_from(most).unwrap_or(i32::MAX));
    let (from, to) = (clip(left, frame.size().width), clip(right, frame.size().width));
    let (first, end) = (clip(top, frame.size().height), clip(bottom, frame.size().height));
    if from >= to || first >= end {
        return;
    }
    let size = what.source.size;
    let (width, height) = turned_size(what.source, what.turn);
    let is_natural = right.abs_diff(left) == width && bottom.abs_diff(top) == height;
    if is_natural && what.turn == Turn::NONE && what.alpha == 255 {
        let skipped = (from.abs_diff(left), first.abs_diff(top));
        let target = frame.part_mut(from as u32, first as u32);
        let size = (from.abs_diff(to) as usize, first.abs_diff(end) as usize);
        // Of a width that is known when this is compiled, a row takes a few instructions.
        match size.0 {
            16 => stamp_rows::<16>(&what, skipped, target, size),
            32 => stamp_rows::<32>(&what, skipped, target, size),
            _ => stamp_rows::<0>(&what, skipped, target, size),
        }
        return;
    }
    taken.clear();
    taken.extend((from..to).map(|x| texel(x, left, right, width)));
    for y in first..end {
        let row = texel(y, top, bottom, height);
        let pixels = frame.row_mut(y as u32, from as u32, to as u32);
        if what.turn == Turn::NONE {
            let texels = what.page.row(what.source, row);
            let texels = taken.iter().map(|&x| texels[x as usize]);
            blend_row(pixels, texels, what.alpha);
        } else {
            let texels = taken.iter().map(|&x| {
                let (x, y) = what.turn.source_pixel(x, row, size.width, size.height);
                what.page.row(what.source, y)[x as usize]
            });
            blend_row(pixels, texels, what.alpha);
        }
    }
}

/// Paints the rows of a picture at zoom 1, from one of its texels on. `WIDTH` is the width of the
/// rows where it is not 0. The target is what remains of a frame from the first pixel on, and how
/// many pixels its rows have.
// A function by itself, so that the loops have all registers.
#[inline(never)]
fn stamp_rows<const WIDTH: usize>(
    what: &Stamped<'_>,
    (across, down): (u32, u32),
    (pixels, stride): (&mut [[u8; 4]], usize),
    (width, height): (usize, usize),
) {
    let width = if WIDTH > 0 { WIDTH } else { width };
    let (texels, through, page_stride) = what.page.rest_from(what.source, across, down);
    for row in 0..height {
        let (to, from) = (row * stride, row * page_stride);
        let (pixels, texels) = (&mut pixels[to..to + width], &texels[from..from + width]);
        if what.coverage == Coverage::Opaque {
            pixels.copy_from_slice(texels);
            continue;
        }
        let (pixels, texels) = (pixels.as_flattened_mut(), texels.as_flattened());
        let through = through[from..from + width].as_flattened();
        if what.coverage == Coverage::Holed {
            choose_channels(pixels, texels, through);
        } else {
            blend_channels(pixels, texels, through);
        }
    }
}

/// Channels over others, rounded once: `above + below * through / 255`, which is what [`blended`]
/// comes to for solid layers.
#[inline(always)]
fn blend_channels(below: &mut [u8], above: &[u8], through: &[u8]) {
    for ((below, above), through) in below.iter_mut().zip(above).zip(through) {
        // A division by 255 without one: exact for every product of two channels, as a test over
        // all of them shows.
        let product = u16::from(*below) * u16::from(*through) + 127;
        let quotient = (product + 1 + (product >> 8)) >> 8;
        *below = above.wrapping_add(quotient as u8);
    }
}

/// Channels over others where every pixel is solid or clear: `through` is 0 or 255.
#[inline(always)]
fn choose_channels(below: &mut [u8], above: &[u8], through: &[u8]) {
    for ((below, above), through) in below.iter_mut().zip(above).zip(through) {
        *below = *below & *through | *above;
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

#[cfg(test)]
mod tests {
    use super::{blend_channels, blended};

    /// The quick way of blending gives what the exact one gives, for every possible channel.
    #[test]
    fn both_ways_of_blending_agree() {
        for alpha in 0..=255_u8 {
            for below in 0..=255_u8 {
                for above in [0, alpha / 2, alpha] {
                    let exact = blended([below; 4], [above, above, above, alpha], 255);
                    let mut quick = [below; 4];
                    blend_channels(&mut quick, &[above, above, above, alpha], &[255 - alpha; 4]);
                    assert_eq!(quick, exact, "{above} with alpha {alpha} over {below}");
                }
            }
        }
    }
}
