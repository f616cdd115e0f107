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

pub use canvas::{Canvas, CanvasError, PixelOrder};
pub use frame::Frame;
pub use kept::{FramePiece, KeptFrame};
pub(super) use sample::shown_at;

use super::chunk_stack::StackEntry;
use super::edges::Edges;
use super::list::DrawList;
use super::looks::Dress;
use super::overlay::Overlay;
use super::pass::{LooseItem, Pass, StackChunk, StackPass};
use super::scene::Scene;
use crate::lattice::Lattice;
use crate::picture::Color;
use crate::plane::Stamp;
use crate::quilt::Blend;
use crate::tile::{Fit, Turn};
use crate::units::{CellPos, CellRect, ScreenRect};

use cells::CellPainter;
use resolved::{Resolved, ResolvedChunks};
use stamp::{Lines, stamp};
use swatch::{Look, Swatch, Swatches};

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
    /// Those of overlays.
    glyphs: Swatches,
    cells: CellPainter,
    resolved: ResolvedChunks,
    /// Memory to work with: the pixel edges of columns, the swatches of one cell.
    columns: Vec<i32>,
    numbers: Vec<u32>,
    lines: Lines,
    /// The pixel edges of the columns and rows of cells in view.
    edges: Edges,
    /// The upright picture of a view that is turned.
    upright: Option<Frame>,
    means: Means,
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
        Painter { means, swatches: Swatches::classed(means.classes), ..Painter::default() }
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
        self.paint_passes(list, None, canvas);
        for overlay in overlays {
            self.lay_overlay(overlay, canvas);
        }
    }

    /// Paints a part of the upright picture, on a canvas whose top left pixel is that of the part.
    fn paint_part(&mut self, list: &DrawList, part: ScreenRect, canvas: &mut Canvas<'_>) {
        self.paint_passes(list, Some(part), canvas);
    }

    fn paint_passes(&mut self, list: &DrawList, part: Option<ScreenRect>, canvas: &mut Canvas<'_>) {
        let Some(scene) = &list.scene else { return };
        let keeps = self.swatches.begin(canvas.order(), scene.made);
        self.resolved.begin(keeps);
        for pass in list.passes() {
            match pass {
                Pass::Stack(pass) => self.paint_stack(list, scene, &pass, part, canvas),
                Pass::Loose(items) => {
                    let shows = |item: &&LooseItem| {
                        part.is_none_or(|part| !item.target.intersection(part).is_empty())
                    };
                    for item in items.iter().filter(shows) {
                        let Some(page) = list.page(item.page) else { continue };
                        let LooseItem { source, turn, color, blend, .. } = *item;
                        let look = Look { page, source, turn, color, blend, stretched: None };
                        let (x, y) = corner_of(part);
                        let target = item.target.moved(-x, -y);
                        stamp(self.swatches.of(look), target, canvas, &mut self.lines);
                    }
                }
            }
        }
        let keeps = self.swatches.end();
        self.resolved.end(keeps, part.is_none());
    }

    fn paint_stack(
        &mut self,
        list: &DrawList,
        scene: &Scene,
        pass: &StackPass<'_>,
        part: Option<ScreenRect>,
        canvas: &mut Canvas<'_>,
    ) {
        self.edges.look(pass);
        let whole = unit_of(&scene.lattice);
        let unit = self.cells.begin(whole, self.means);
        let shown = part.map_or(pass.cells(), |part| self.edges.cells_in(pass, part));
        let (x, y) = corner_of(part);
        for chunk in pass.chunks_of(shown) {
            let on_screen = chunk.on_screen();
            let known = self.resolved.take(chunk.stamp(), chunk.slots());
            // What changes with time is found anew in each picture; where only few cells are
            // painted, only they are looked at.
            let is_much = on_screen.cell_count() * 4 > chunk.pos().cells().cell_count();
            let is_kept = self.means.chunks
                && !chunk.is_animated()
                && (known.is_some() || part.is_none() || is_much);
            let needed = if is_kept { chunk.pos().cells() } else { on_screen };
            let resolved =
                known.unwrap_or_else(|| self.resolve(list, scene, &chunk, needed, (whole, unit)));
            let (corner, first) = (chunk.pos().cells().corner(), on_screen.corner());
            self.columns.clear();
            self.columns.extend(
                (on_screen.left()..=on_screen.right())
                    .map(|column| self.edges.column(pass, column + chunk.moved_by().x) - x),
            );
            for row in on_screen.top()..on_screen.bottom() {
                let shown = row + chunk.moved_by().y;
                self.cells.paint_row(
                    (&resolved, (row - corner.y()) as usize),
                    (first.x() - corner.x(), &self.columns),
                    (self.edges.row(pass, shown) - y, self.edges.row(pass, shown + 1) - y),
                    self.swatches.all(),
                    canvas,
                    &mut self.lines,
                );
            }
            if is_kept {
                self.resolved.put(chunk.stamp(), chunk.slots(), resolved);
            } else {
                self.resolved.give_back(resolved);
            }
        }
    }

    /// Finds what some cells of a chunk are painted with.
    fn resolve(
        &mut self,
        list: &DrawList,
        scene: &Scene,
        chunk: &StackChunk<'_>,
        cells: CellRect,
        (whole, unit): (Option<(u32, u32)>, (u32, u32)),
    ) -> Resolved {
        let mut resolved = self.resolved.memory();
        let mut numbers = std::mem::take(&mut self.numbers);
        let (slots, left) = (chunk.slots(), chunk.pos().corner().x());
        for y in cells.top()..cells.bottom() {
            let row = chunk.row(y);
            let from = |x: i32| row.partition_point(|entry| i32::from(entry.column()) < x - left);
            let row = &row[from(cells.left())..from(cells.right())];
            for of_cell in row.chunk_by(|a, b| a.index == b.index) {
                let (row, column) = resolved::place(of_cell[0].index);
                let own = chunk.pos().cell_at_index(of_cell[0].index.into());
                numbers.clear();
                for entry in of_cell.iter().filter(|entry| (slots.0..slots.1).contains(&entry.slot))
                {
                    numbers.extend(self.swatch_of(list, scene, own, *entry, whole));
                }
                let is_unit = |number: &u32| {
                    let swatch = self.swatches.get(*number);
                    (swatch.width, swatch.height) == unit
                };
                let lowest = numbers.first().map(|number| self.swatches.get(*number));
                let is_whole = self.means.stacks
                    && lowest.is_some_and(Swatch::is_solid)
                    && numbers.iter().all(is_unit);
                if !numbers.is_empty() {
                    resolved.add(row, column, is_whole, &numbers);
                }
            }
        }
        self.numbers = numbers;
        resolved
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
        self.glyphs.begin(canvas.order(), Stamp::NONE);
        for quad in overlay.quads() {
            let look = Look {
                page: Overlay::page(),
                source: quad.source,
                turn: Turn::NONE,
                color: quad.color,
                blend: Blend::Normal,
                stretched: None,
            };
            stamp(self.glyphs.of(look), quad.target, canvas, &mut self.lines);
        }
        self.glyphs.end();
    }
}

/// The first column and row of pixels of a part of a picture, or of all of it.
fn corner_of(part: Option<ScreenRect>) -> (i32, i32) {
    part.map_or((0, 0), |part| (part.left, part.top))
}

/// Pixels of a cell where a pixel is a world unit, if it has a whole number of them.
fn unit_of(lattice: &Lattice) -> Option<(u32, u32)> {
    let whole = |side: f64| (side.fract() == 0.0).then_some(side as u32);
    whole(lattice.cell_width()).zip(whole(lattice.cell_height()))
}
