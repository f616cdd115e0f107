//! The renderer of the library: paints a draw list on the CPU.
//!
//! The pixel rule: pixel centres decide. A picture covers the pixels between its edges, which are
//! rounded once and shared by neighbours; the texel of a pixel is the one under its centre, found
//! in whole numbers. A texel is multiplied by tint and opacity and rounded, once for each picture
//! (see [`swatch`]); laid on what is below it is rounded once more (see [`blit`]). Every path keeps
//! to that, so it does not matter by which one a pixel is painted.

mod blit;
mod canvas;
mod cells;
mod frame;
mod kept;
mod resolved;
mod sample;
mod stamp;
mod swatch;
mod turned;
mod vector;
mod worker;

pub use canvas::{Canvas, CanvasError, PixelOrder};
pub use frame::Frame;
pub use kept::{FramePiece, KeptFrame};
pub(super) use sample::shown_at;

use super::list::DrawList;
use super::overlay::Overlay;
use crate::picture::Color;

use worker::{Portion, Worker};

/// Paints draw lists into frames. Keep one: it reuses its memory, and what it has prepared of
/// tiles.
///
/// ```
/// use sturdy_quilt::{Clock, DrawList, Frame, Painter, ScreenSize, View};
/// # let quilt = sturdy_quilt::doc_quilt();
///
/// let view = View::new(ScreenSize::new(64, 64)).zoomed(2.0);
/// let (mut list, mut painter) = (DrawList::new(), Painter::new());
/// let mut frame = Frame::new(view.size());
/// list.rebuild(&quilt, &view, &Clock::new(), &[]);
/// painter.paint(&list, &mut frame);
/// assert_ne!(frame.pixels()[40 * 64 + 40], [0, 0, 0, 0]);
/// ```
#[derive(Clone, Debug, Default)]
pub struct Painter {
    worker: Worker,
    /// Those who paint beside it.
    helpers: Vec<Worker>,
    /// The upright picture of a view that is turned.
    upright: Option<Frame>,
}

/// What a painter does to be fast. Nothing of it changes a pixel; each can be left out, to show
/// that, and what it is worth.
#[doc(hidden)]
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Means {
    /// Instructions that are found at run time.
    pub vectors: bool,
    /// Pictures of which each pixel is solid, or each is solid or clear, are laid down as such.
    pub classes: bool,
    /// All pictures of a cell are put together in one go.
    pub stacks: bool,
    /// What is put together is scaled line by line for a row of cells.
    pub strips: bool,
    /// What the cells of a chunk are painted with is kept.
    pub chunks: bool,
}

impl Default for Means {
    fn default() -> Means {
        Means { vectors: true, classes: true, stacks: true, strips: true, chunks: true }
    }
}

impl Painter {
    /// A painter.
    pub fn new() -> Painter {
        Painter::default()
    }

    /// A painter that does without some means of being fast.
    #[doc(hidden)]
    pub fn by(means: Means) -> Painter {
        Painter { worker: Worker::by(means), ..Painter::default() }
    }

    /// The same painter, painting with so many threads at once, at most 256, each a band of the
    /// picture; with 0 or 1 it stays in the thread of the caller, as it does by default. The pixels
    /// are the same.
    ///
    /// Threads begin and end with each call. Each worker keeps what it has prepared of tiles for
    /// itself.
    ///
    /// ```
    /// use sturdy_quilt::{Clock, DrawList, Frame, Painter, ScreenSize, View};
    /// # let quilt = sturdy_quilt::doc_quilt();
    ///
    /// let view = View::new(ScreenSize::new(64, 64));
    /// let mut list = DrawList::new();
    /// list.rebuild(&quilt, &view, &Clock::new(), &[]);
    /// let mut frames = [Frame::new(view.size()), Frame::new(view.size())];
    /// Painter::new().paint(&list, &mut frames[0]);
    /// Painter::new().threads(4).paint(&list, &mut frames[1]);
    /// assert_eq!(frames[0], frames[1]);
    /// ```
    #[cfg(feature = "threads")]
    #[must_use]
    pub fn threads(mut self, count: usize) -> Painter {
        let worker = self.worker.alike();
        self.helpers.resize_with(count.clamp(1, 256) - 1, || worker.clone());
        self
    }

    /// Paints a list over what a canvas shows: a [`Frame`], a part of one, or memory of the game's
    /// own. The top left pixels of view and canvas are the same; what lies beyond the canvas is cut
    /// off.
    ///
    /// Costs a look at each cell on the screen, and the pixels that they cover.
    pub fn paint<'c>(&mut self, list: &DrawList, canvas: impl Into<Canvas<'c>>) {
        self.paint_with(list, &[], canvas);
    }

    /// Paints a list, and overlays over it. Unlike [`Painter::paint_overlay`] it turns them with a
    /// view that is turned.
    pub fn paint_with<'c>(
        &mut self,
        list: &DrawList,
        overlays: &[&Overlay],
        canvas: impl Into<Canvas<'c>>,
    ) {
        let mut canvas = canvas.into();
        if list.view().turn() == 0.0 {
            self.paint_upright(list, overlays, &mut canvas);
            return;
        }
        let size = list.upright().size();
        let mut frame = self.upright.take().filter(|frame| frame.size() == size);
        let upright = frame.get_or_insert_with(|| Frame::new(size));
        upright.clear(Color::CLEAR);
        self.paint_upright(list, overlays, &mut upright.into());
        let view = list.view();
        self.in_bands(&mut canvas, |_, portion, canvas| {
            turned::lay_turned(upright, (view, portion.corner().1 as u32), canvas);
        });
        self.upright = frame;
    }

    fn paint_upright(&mut self, list: &DrawList, overlays: &[&Overlay], canvas: &mut Canvas<'_>) {
        self.in_bands(canvas, |worker, portion, canvas| worker.paint(list, portion, canvas));
        for overlay in overlays {
            self.worker.lay_overlay(overlay, canvas);
        }
    }

    /// Lets each worker paint a band of a canvas, at once.
    fn in_bands(
        &mut self,
        canvas: &mut Canvas<'_>,
        paint: impl Fn(&mut Worker, Portion, &mut Canvas<'_>) + Sync,
    ) {
        if self.helpers.is_empty() {
            paint(&mut self.worker, Portion::All, canvas);
            return;
        }
        let mut bands = canvas.bands(self.helpers.len() + 1).into_iter();
        let first = bands.next();
        std::thread::scope(|scope| {
            for (helper, (area, mut band)) in self.helpers.iter_mut().zip(bands) {
                let paint = &paint;
                scope.spawn(move || paint(helper, Portion::Band(area), &mut band));
            }
            if let Some((area, mut band)) = first {
                paint(&mut self.worker, Portion::Band(area), &mut band);
            }
        });
    }

    /// Paints an overlay over what a canvas shows.
    pub fn paint_overlay<'c>(&mut self, overlay: &Overlay, canvas: impl Into<Canvas<'c>>) {
        self.worker.lay_overlay(overlay, &mut canvas.into());
    }
}
