//! A frame that is kept from picture to picture, of which only what differs is painted.

use super::canvas::{Canvas, Frame, PixelOrder};
use super::painter::Painter;
use super::shown::{Moved, Shown};
use super::worker::Portion;
use crate::draw::DrawList;
use crate::picture::Color;
use crate::units::{ScreenRect, ScreenSize};

/// A frame that is kept from picture to picture, for [`Painter::paint_into`].
///
/// Either all pixels lie in their places, and are moved where the camera moves. Or they lie in a
/// *ring*: its first pixel may lie anywhere, and what would be beyond an edge goes on at the
/// opposite one; then nothing is moved, and a camera that scrolls costs no more than the strips
/// that come into view. A renderer that repeats a texture shows a ring as it is, others show its up
/// to four [`KeptFrame::parts`].
///
/// ```
/// use sturdy_quilt::paint::KeptFrame;
/// use sturdy_quilt::{Color, DrawList, Painter, ScreenSize, View, WorldVec};
/// # let quilt = sturdy_quilt::doc_quilt();
///
/// let view = View::new(ScreenSize::new(160, 100));
/// let (mut list, mut painter) = (DrawList::new(), Painter::new());
/// let mut kept = KeptFrame::ring(Color::rgb(20, 30, 40));
/// list.rebuild(&quilt, &view);
/// painter.paint_into(&list, &mut kept);
/// assert_eq!(kept.painted_pixels(), 160 * 100);
///
/// list.rebuild(&quilt, &view.moved(WorldVec::new(3.0, 0.0)));
/// painter.paint_into(&list, &mut kept);
/// assert_eq!(kept.painted_pixels(), 3 * 100);
/// assert_eq!((kept.moved(), kept.corner()), ((-3, 0), (3, 0)));
/// ```
#[derive(Clone, Debug, Default)]
pub struct KeptFrame {
    frame: Frame,
    /// Where in memory the top left pixel lies.
    corner: (u32, u32),
    is_ring: bool,
    background: Color,
    shown: Shown,
    /// What was painted last.
    painted: Vec<ScreenRect>,
    moved: Moved,
}

/// A part of a [`KeptFrame`] that lies in memory as it shows.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
#[non_exhaustive]
pub struct FramePart {
    /// The pixels on the screen.
    pub on_screen: ScreenRect,
    /// The column and row in memory of its top left pixel.
    pub in_memory: (u32, u32),
}

impl KeptFrame {
    /// Returns a frame whose pixels lie in their places. What a list leaves free shows a
    /// background.
    pub fn new(background: Color) -> KeptFrame {
        KeptFrame { background, ..KeptFrame::default() }
    }

    /// Returns a frame whose pixels lie in a ring. What a list leaves free shows a background.
    pub fn ring(background: Color) -> KeptFrame {
        KeptFrame { is_ring: true, ..KeptFrame::new(background) }
    }

    /// Returns the pixels in memory; of a ring, the first of the picture lies at
    /// [`KeptFrame::corner`].
    pub const fn frame(&self) -> &Frame {
        &self.frame
    }

    /// Returns the column and row in memory of the top left pixel of the picture; 0, 0 but for a
    /// ring.
    pub const fn corner(&self) -> (u32, u32) {
        self.corner
    }

    /// Returns the whole picture in parts that lie in memory as they show: one, or up to four of a
    /// ring.
    pub fn parts(&self) -> impl Iterator<Item = FramePart> + use<> {
        self.parts_of(ScreenRect::of_size(self.frame.size()))
    }

    /// Returns the rectangles of the screen that were painted last; they may overlap. With
    /// [`KeptFrame::moved`] they tell what of a copy elsewhere is out of date.
    pub fn painted(&self) -> &[ScreenRect] {
        &self.painted
    }

    /// Returns the number of pixels that were painted last.
    pub fn painted_pixels(&self) -> u64 {
        self.painted.iter().map(|rect| rect.pixel_count()).sum()
    }

    /// Returns by how many pixels to the right and down what was kept lies from where it was in the
    /// picture before.
    pub const fn moved(&self) -> (i32, i32) {
        self.moved
    }

    /// Copies the picture, with all pixels in their places: to the buffer of a window, or to a frame
    /// over which something else is painted. What lies beyond the canvas is cut off.
    pub fn copy_to<'c>(&self, canvas: impl Into<Canvas<'c>>) {
        let mut canvas = canvas.into();
        let (order, width) = (canvas.order(), self.frame.size().width as usize);
        let on_canvas = ScreenRect::of_size(canvas.size());
        for FramePart { on_screen, in_memory } in self.parts() {
            let shown = on_screen.intersection(on_canvas);
            if shown.is_empty() {
                continue;
            }
            let length = (shown.right - shown.left) as usize;
            for (y, row) in (shown.top..shown.bottom).zip(in_memory.1..) {
                let from = row as usize * width + in_memory.0 as usize;
                let from = &self.frame.pixels()[from..from + length];
                let to = canvas.row_mut(y as u32, shown.left as u32, shown.right as u32);
                match order {
                    PixelOrder::Rgba => to.copy_from_slice(from),
                    PixelOrder::Rgb0 => {
                        to.iter_mut().zip(from).for_each(|(to, from)| *to = order.pixel(*from));
                    }
                }
            }
        }
    }

    /// Returns the picture with all pixels in their places; see also [`KeptFrame::copy_to`], which
    /// reuses memory.
    pub fn to_frame(&self) -> Frame {
        let mut frame = Frame::new(self.frame.size());
        self.copy_to(&mut frame);
        frame
    }

    /// Forgets what it shows, so that all is painted the next time.
    pub fn forget(&mut self) {
        self.shown = Shown::default();
    }

    fn parts_of(&self, rect: ScreenRect) -> impl Iterator<Item = FramePart> + use<> {
        let (size, corner) = (self.frame.size(), self.corner);
        let columns = runs((rect.left, rect.right), corner.0, size.width);
        let rows = runs((rect.top, rect.bottom), corner.1, size.height);
        rows.into_iter().flat_map(move |(top, bottom, row)| {
            columns.into_iter().filter_map(move |(left, right, column)| {
                let on_screen = ScreenRect { left, top, right, bottom };
                let part = FramePart { on_screen, in_memory: (column, row) };
                (!on_screen.is_empty()).then_some(part)
            })
        })
    }

    /// Moves what is shown; what comes into view holds anything then.
    fn move_by(&mut self, (x, y): Moved) {
        let ScreenSize { width, height } = self.frame.size();
        if (x, y) == (0, 0) {
            return;
        }
        if self.is_ring {
            let around = |corner: u32, way: i32, length: u32| {
                (i64::from(corner) - i64::from(way)).rem_euclid(length.into()) as u32
            };
            self.corner = (around(self.corner.0, x, width), around(self.corner.1, y, height));
            return;
        }
        // As one part: what so comes from one row into the next lies in a strip that is painted.
        let pixels = self.frame.pixels_mut();
        let way = i64::from(y) * i64::from(width) + i64::from(x);
        let (from, to) = (way.min(0).unsigned_abs() as usize, way.max(0) as usize);
        let count = pixels.len().saturating_sub(from.max(to));
        pixels.copy_within(from..from + count, to);
    }
}

/// Columns or rows of the screen in one or two runs that lie in memory as they show: from the first
/// up to, but not with, the second, and where in memory.
fn runs((from, to): (i32, i32), corner: u32, length: u32) -> [(i32, i32, u32); 2] {
    if from >= to || length == 0 {
        return [(0, 0, 0); 2];
    }
    let start = (i64::from(corner) + i64::from(from)).rem_euclid(length.into()) as u32;
    let middle = to.min(from.saturating_add_unsigned(length - start));
    [(from, middle, start), (middle, to, 0)]
}

impl Painter {
    /// Paints a list into a frame that shows another one already: only what differs. The frame then
    /// shows exactly what painting all of the list on its background does.
    ///
    /// Where the camera moves by whole pixels and all layers with it, what remains in view is kept.
    /// Where layers parallax, or the zoom is not whole and the view not
    /// [snapped](crate::View::snapped), so that they part on the screen, all is painted; so it is in
    /// a view that is turned.
    ///
    /// Costs a look at the stamps of the chunks in view and at all loose things, and the pixels
    /// that differ; in a frame that is not a ring, moving those that remain.
    pub fn paint_into(&mut self, list: &DrawList, kept: &mut KeptFrame) {
        let size = list.view().size();
        let mut painted = std::mem::take(&mut kept.painted);
        painted.clear();
        let shown = Some(&kept.shown).filter(|_| kept.frame.size() == size);
        let moved = shown.and_then(|shown| shown.compare(list, &mut painted));
        kept.moved = moved.unwrap_or((0, 0));
        if moved.is_some() {
            kept.move_by(kept.moved);
            self.paint_parts(list, &painted, kept);
        } else {
            if kept.frame.size() != size {
                kept.frame = Frame::new(size);
            }
            kept.corner = (0, 0);
            kept.frame.clear(kept.background);
            self.paint(list, &mut kept.frame);
            painted.clear();
            painted.push(ScreenRect::of_size(size));
        }
        kept.painted = painted;
        kept.shown.keep(list);
    }

    fn paint_parts(&mut self, list: &DrawList, parts: &[ScreenRect], kept: &mut KeptFrame) {
        let background = kept.background;
        for part in parts {
            for FramePart { on_screen, in_memory: (column, row) } in kept.parts_of(*part) {
                let (x, y) = (column as i32 - on_screen.left, row as i32 - on_screen.top);
                let mut canvas = kept.frame.part(on_screen.moved(x, y));
                canvas.fill(background);
                self.worker.paint(list, Portion::Part(on_screen), &mut canvas);
            }
        }
    }
}
