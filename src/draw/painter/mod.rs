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
mod sample;
mod stamp;
mod swatch;
mod turned;
mod vector;

pub use canvas::{Canvas, CanvasError, PixelOrder};
pub use frame::Frame;
pub(super) use sample::shown_at;

use super::chunk_stack::StackEntry;
use super::list::DrawList;
use super::looks::Dress;
use super::overlay::Overlay;
use super::pass::{LooseItem, Pass, StackPass};
use super::scene::Scene;
use crate::lattice::Lattice;
use crate::picture::Color;
use crate::plane::Stamp;
use crate::quilt::Blend;
use crate::tile::{Fit, Turn};
use crate::units::{CellPos, CellRect, ScreenRect};

use cells::CellPainter;
use stamp::{Lines, stamp};
use swatch::{Look, Swatches};

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
    swatches: Swatches,
    cells: CellPainter,
    lines: Lines,
    /// The pixel edges of the columns and rows of cells in view.
    edges: Edges,
    /// The upright picture of a view that is turned.
    upright: Option<Frame>,
    is_portable: bool,
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

impl Painter {
    /// A painter.
    pub fn new() -> Painter {
        Painter::default()
    }

    /// A painter that uses no instructions which are found at run time: to show that they change no
    /// pixel, and what they are worth.
    #[doc(hidden)]
    pub fn portable() -> Painter {
        Painter { is_portable: true, ..Painter::default() }
    }

    /// Paints a list over what a canvas shows: a [`Frame`], a part of one, or memory of the game's
    /// own. The top left pixels of view and canvas are the same; what lies beyond the canvas is cut
    /// off.
    ///
    /// Costs a look at each cell on the screen, and the pixels that they cover.
    pub fn paint<'c>(&mut self, list: &DrawList, canvas: impl Into<Canvas<'c>>) {
        self.paint_all(list, &[], canvas.into());
    }

    /// Paints a list, and overlays over it. Unlike [`Painter::paint_overlay`] it turns them with a
    /// view that is turned.
    pub fn paint_with<'c>(
        &mut self,
        list: &DrawList,
        overlays: &[&Overlay],
        canvas: impl Into<Canvas<'c>>,
    ) {
        self.paint_all(list, overlays, canvas.into());
    }

    fn paint_all(&mut self, list: &DrawList, overlays: &[&Overlay], mut canvas: Canvas<'_>) {
        if list.view().turn() == 0.0 {
            self.paint_upright(list, overlays, &mut canvas);
            return;
        }
        let size = list.upright().size();
        let mut frame = self.upright.take().filter(|frame| frame.size() == size);
        let upright = frame.get_or_insert_with(|| Frame::new(size));
        upright.clear(Color::CLEAR);
        self.paint_upright(list, overlays, &mut upright.into());
        turned::lay_turned(upright, list.view(), &mut canvas);
        self.upright = frame;
    }

    fn paint_upright(&mut self, list: &DrawList, overlays: &[&Overlay], canvas: &mut Canvas<'_>) {
        if let Some(scene) = &list.scene {
            self.swatches.begin(canvas.order(), scene.made);
            for pass in list.passes() {
                match pass {
                    Pass::Stack(pass) => self.paint_stack(list, scene, &pass, canvas),
                    Pass::Loose(items) => {
                        for item in items {
                            let Some(page) = list.page(item.page) else { continue };
                            let LooseItem { source, turn, color, blend, .. } = *item;
                            let look = Look { page, source, turn, color, blend, stretched: None };
                            let swatch = self.swatches.of(look);
                            stamp(swatch, item.target, canvas, &mut self.lines);
                        }
                    }
                }
            }
            self.swatches.end();
        }
        for overlay in overlays {
            self.lay_overlay(overlay, canvas);
        }
    }

    fn paint_stack(
        &mut self,
        list: &DrawList,
        scene: &Scene,
        pass: &StackPass<'_>,
        canvas: &mut Canvas<'_>,
    ) {
        self.edges.look(pass);
        let unit = unit_of(&scene.lattice);
        self.cells.begin(unit);
        self.cells.uses_vectors = !self.is_portable && vector::are_found();
        for chunk in pass.chunks() {
            let (on_screen, slots) = (chunk.on_screen(), chunk.slots());
            for row in on_screen.top()..on_screen.bottom() {
                let entries = chunk.row(row);
                let mut shown = ScreenRect::default();
                for of_cell in entries.chunk_by(|a, b| a.index == b.index) {
                    let own = chunk.pos().cell_at_index(of_cell[0].index.into());
                    let Some(at) = own.checked_add(chunk.moved_by()) else { continue };
                    if !on_screen.contains(own) {
                        continue;
                    }
                    self.cells.stack.clear();
                    for entry in of_cell.iter().filter(|e| (slots.0..slots.1).contains(&e.slot)) {
                        let number = self.swatch_of(list, scene, own, *entry, unit);
                        self.cells.stack.extend(number);
                    }
                    shown = self.edges.pixels(pass, at);
                    self.cells.paint(&self.swatches, shown, canvas, &mut self.lines);
                }
                self.cells.flush(shown.top, shown.bottom, canvas);
            }
        }
    }

    /// The number of what an entry shows.
    #[inline]
    fn swatch_of(
        &mut self,
        list: &DrawList,
        scene: &Scene,
        own: CellPos,
        entry: StackEntry,
        unit: Option<(u32, u32)>,
    ) -> Option<u32> {
        if let Some(number) = self.swatches.known_cell(entry.cell, entry.slot) {
            return Some(number);
        }
        let (cell, Dress { page, art, color }, blend) = list.dress(scene, own, entry);
        let look = Look {
            page: list.page(page)?,
            source: art.source,
            turn: cell.turn(),
            color,
            blend,
            stretched: unit.filter(|_| art.fit == Fit::Cell),
        };
        let number = self.swatches.number(look);
        if !scene.looks.is_animated(entry.cell) {
            self.swatches.keep_cell(entry.cell, entry.slot, number);
        }
        Some(number)
    }

    /// Paints an overlay over what a canvas shows.
    pub fn paint_overlay<'c>(&mut self, overlay: &Overlay, canvas: impl Into<Canvas<'c>>) {
        self.lay_overlay(overlay, &mut canvas.into());
    }

    fn lay_overlay(&mut self, overlay: &Overlay, canvas: &mut Canvas<'_>) {
        self.swatches.begin(canvas.order(), Stamp::NONE);
        for quad in overlay.quads() {
            let look = Look {
                page: Overlay::page(),
                source: quad.source,
                turn: Turn::NONE,
                color: quad.color,
                blend: Blend::Normal,
                stretched: None,
            };
            stamp(self.swatches.of(look), quad.target, canvas, &mut self.lines);
        }
        self.swatches.end();
    }
}

/// Pixels of a cell where a pixel is a world unit, if it has a whole number of them.
fn unit_of(lattice: &Lattice) -> Option<(u32, u32)> {
    let whole = |side: f64| (side.fract() == 0.0).then_some(side as u32);
    whole(lattice.cell_width()).zip(whole(lattice.cell_height()))
}
