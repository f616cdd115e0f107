//! The renderer of the library: paints a draw list on the CPU.
//!
//! The pixel rule: pixel centres decide. A picture covers the pixels between its edges, which are
//! rounded once and shared by neighbours; the texel of a pixel is the one under its centre, found
//! in whole numbers. A texel is multiplied by tint and opacity and rounded, once for each picture
//! (see [`swatch`]); laid on what is below it is rounded once more (see [`blit`]). Every path keeps
//! to that, so it does not matter by which one a pixel is painted.

use super::canvas::{Canvas, Frame};
use super::cells::Shortcuts;
use super::turned;
use super::worker::{Portion, Worker};
use crate::draw::{DrawList, Overlay};
use crate::picture::{Color, Picture};
use crate::quilt::Quilt;
use crate::view::View;

/// Paints draw lists into frames. Keep one: it reuses its memory, and what it has prepared of
/// tiles.
///
/// ```
/// use sturdy_quilt::{DrawList, Frame, Painter, ScreenSize, View};
/// # let quilt = sturdy_quilt::doc_quilt();
///
/// let view = View::new(ScreenSize::new(64, 64)).zoomed(2.0);
/// let (mut list, mut painter) = (DrawList::new(), Painter::new());
/// let mut frame = Frame::new(view.size());
/// list.rebuild(&quilt, &view);
/// painter.paint(&list, &mut frame);
/// assert_ne!(frame.pixels()[40 * 64 + 40], [0, 0, 0, 0]);
/// ```
#[derive(Clone, Debug, Default)]
pub struct Painter {
    pub(crate) worker: Worker,
    /// Those who paint beside it.
    helpers: Vec<Worker>,
    /// The upright picture of a view that is turned.
    upright: Option<Frame>,
}

impl Painter {
    /// Returns a painter.
    pub fn new() -> Painter {
        Painter::default()
    }

    /// Returns a painter that does without some means of being fast.
    #[doc(hidden)]
    pub fn with_shortcuts(shortcuts: Shortcuts) -> Painter {
        Painter { worker: Worker::with_shortcuts(shortcuts), ..Painter::default() }
    }

    /// Returns this painter, painting with so many threads at once, at most 256, each a band of the
    /// picture; with 0 or 1 it stays in the thread of the caller, as it does by default. The pixels
    /// are the same.
    ///
    /// Threads begin and end with each call. Each worker keeps what it has prepared of tiles for
    /// itself.
    ///
    /// ```
    /// use sturdy_quilt::{DrawList, Frame, Painter, ScreenSize, View};
    /// # let quilt = sturdy_quilt::doc_quilt();
    ///
    /// let view = View::new(ScreenSize::new(64, 64));
    /// let mut list = DrawList::new();
    /// list.rebuild(&quilt, &view);
    /// let mut frames = [Frame::new(view.size()), Frame::new(view.size())];
    /// Painter::new().paint(&list, &mut frames[0]);
    /// Painter::new().with_threads(4).paint(&list, &mut frames[1]);
    /// assert_eq!(frames[0], frames[1]);
    /// ```
    #[cfg(feature = "threads")]
    #[must_use]
    pub fn with_threads(mut self, count: usize) -> Painter {
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

impl Quilt {
    /// Draws what a view shows at time 0, on a background colour. For more than one picture, keep a
    /// [`DrawList`], a [`Painter`] and a [`Frame`], which reuse their memory.
    ///
    /// ```
    /// use sturdy_quilt::{Color, ScreenSize, View};
    /// # let quilt = sturdy_quilt::doc_quilt();
    ///
    /// let view = View::new(ScreenSize::new(48, 32));
    /// let picture = quilt.draw(&view, Color::rgb(0, 0, 0));
    /// assert_eq!(picture.get(0, 0), Some(Color::rgb(0, 0, 0)));
    /// assert_eq!(picture.get(24, 16), Some(Color::of_name("grass")));
    /// ```
    pub fn draw(&self, view: &View, background: Color) -> Picture {
        let mut list = DrawList::new();
        list.rebuild(self, view);
        let mut frame = Frame::new(view.size());
        frame.clear(background);
        Painter::new().paint(&list, &mut frame);
        frame.to_picture()
    }
}
