//! The parts of a draw list, as a renderer takes them.

use std::ops::Range;

use super::alignment::Alignment;
use super::chunk_stack::{ChunkStack, with_rows};
use super::map_facts::CellArt;
use super::order::{DrawKey, DrawKind};
use super::row::StackEntry;
use crate::lattice::Lattice;
use crate::picture::Color;
use crate::plane::Stamp;
use crate::quilt::Blend;
use crate::tile::{Cell, Turn};
use crate::units::{
    CellOffset, CellPos, CellRect, ChunkPos, PanePoint, PaneRect, PixelRect, PixelSize,
    ScreenPoint, ScreenRect, WorldPoint,
};
use crate::view::View;

/// A step of drawing. Passes are drawn one after the other.
#[derive(Clone, Debug)]
#[non_exhaustive]
pub enum Pass<'a> {
    /// Cells of layers that lie on the same lattice edges, cell by cell.
    Stack(StackPass<'a>),
    /// Things that lie on no common lattice, each by itself: tiles that are larger than their
    /// cell, and all that must be drawn between them.
    Loose(&'a [LooseItem]),
}

/// Cells of one layer, or of several that are sorted among each other, on the same lattice edges.
///
/// Each chunk gives its cells by their place in the chunk, and has a stamp, so what was derived
/// from it (vertices, a picture) survives a moving camera; only where the cells lie on the screen
/// changes with the view. Where sprites stand among layers that are sorted by row, a pass draws only
/// the ranks between two of them, see [`StackChunk::ranks`].
///
/// A renderer that keeps buffers has one for the [key](StackPass::key) of a pass and the place of a
/// chunk, made of [`StackChunk::whole`]; it is up to date as long as the stamp of the chunk is the same.
/// The places in it lie on the pane, from [`StackPass::chunk_place`] on, and one affine map takes them
/// to the screen: [`View::pane_to_screen`] of [`StackPass::view`].
///
/// ```
/// use sturdy_quilt::draw::Pass;
/// use sturdy_quilt::{DrawList, ScreenSize, View};
/// # let quilt = sturdy_quilt::doc_quilt();
///
/// let mut list = DrawList::new();
/// list.rebuild(&quilt, &View::new(ScreenSize::new(320, 200)));
/// let mut placed = 0;
/// for pass in list.passes() {
///     let Pass::Stack(pass) = pass else { continue };
///     let [x_row, y_row] = pass.view().pane_to_screen();
///     for chunk in pass.chunks() {
///         let corner = pass.chunk_place(&chunk);
///         for entry in chunk.entries() {
///             let rect = list.rect_of(&pass, &chunk, entry).unwrap();
///             let (x, y) = (corner.x + rect.min().x, corner.y + rect.min().y);
///             let left = x_row[0] * x + x_row[1] * y + x_row[2];
///             let top = y_row[0] * x + y_row[1] * y + y_row[2];
///             let quad = list.quad_of(&pass, &chunk, entry).unwrap();
///             assert_eq!((quad.target.left, quad.target.top), (left as i32, top as i32));
///             placed += 1;
///         }
///     }
/// }
/// assert_eq!(placed, list.quads().len());
/// ```
#[derive(Clone, Copy, Debug)]
pub struct StackPass<'a> {
    pub(crate) alignment: &'a Alignment,
    pub(super) key: StackKey,
    /// The levels that it draws, and those that its key stands for.
    pub(super) levels: (u16, u16),
    pub(super) all_levels: (u16, u16),
    /// In which places: from the first rank up to, but not with, the second.
    pub(super) ranks: (i32, i32),
    /// Which parts of chunks: from the first up to, but not with, the second.
    pub(super) parts: (usize, usize),
    pub(super) lattice: &'a Lattice,
}

/// The layers of a [`StackPass`]: the same for all passes of a list that draw cells of the same layers,
/// and from rebuild to rebuild, whatever sprites and cells are in view, as long as the layers and the
/// tiles of the map are the same.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub struct StackKey {
    /// The first level, and the alignment, since bands of a layer have several.
    pub(super) level: u16,
    pub(super) alignment: u32,
}

/// The part of a [`StackPass`] that draws one chunk, in one place: a layer that repeats itself
/// shows a chunk in several.
#[derive(Clone, Copy, Debug)]
pub struct StackChunk<'a> {
    by: CellOffset,
    /// The layers' own cells that are on the screen.
    cells: CellRect,
    /// Those that are shown anywhere: of a layer that repeats an area, the ones in it.
    repeated: CellRect,
    stack: &'a ChunkStack,
    levels: (u16, u16),
    all_levels: (u16, u16),
    /// Of the chunk: from the first up to, but not with, the second.
    ranks: (u8, u8),
}

impl<'a> StackPass<'a> {
    /// Returns which layers it draws.
    pub const fn key(&self) -> StackKey {
        self.key
    }

    /// Returns the camera that sees its layers: the upright view, and where they have a parallax, as far
    /// as that follows it.
    pub const fn view(&self) -> &'a View {
        &self.alignment.placement.view
    }

    /// Returns where a chunk of it lies on the pane: its corner with the least column and row, as the map
    /// is turned, moved as its layers are.
    pub fn chunk_place(&self, chunk: &StackChunk<'_>) -> PanePoint {
        let corner = chunk.pos().corner();
        let (x, y) = (i64::from(corner.x()), i64::from(corner.y()));
        let (x, y) = (x + i64::from(chunk.by.x), y + i64::from(chunk.by.y));
        self.alignment.corner_place(self.lattice, (x, y))
    }

    /// Returns the cells to look at, those beyond the edge of the view left out.
    pub fn cells(&self) -> CellRect {
        match self.alignment.slanted {
            Some(_) => self.alignment.cells,
            None => with_rows(self.alignment.cells, self.ranks),
        }
    }

    /// Returns the chunks in view, row by row; where layers repeat themselves, copy by copy.
    pub fn chunks(&self) -> impl Iterator<Item = StackChunk<'a>> + use<'a> {
        self.chunks_of(self.cells())
    }

    /// The chunks of some of the cells to look at.
    pub(crate) fn chunks_of(
        &self,
        shown: CellRect,
    ) -> impl Iterator<Item = StackChunk<'a>> + use<'a> {
        let StackPass { alignment, levels, all_levels, ranks, parts, .. } = *self;
        let is_slanted = alignment.slanted.is_some();
        let repeated = alignment.motion.repeated(alignment.area);
        alignment
            .patches
            .iter()
            .flat_map(move |patch| {
                let (cells, by) = (patch.own(shown), patch.by);
                let chunks = alignment.chunks_in(cells);
                chunks.map(move |stack| {
                    let corner = stack.pos.corner();
                    let top = i64::from(corner.y()) + i64::from(by.y);
                    let left = if is_slanted { i64::from(corner.x()) + i64::from(by.x) } else { 0 };
                    let count = stack.rank_count() as i64;
                    let rank = |rank: i32| (i64::from(rank) - top - left).clamp(0, count) as u8;
                    let ranks = (rank(ranks.0), rank(ranks.1));
                    StackChunk { by, cells, repeated, stack, levels, all_levels, ranks }
                })
            })
            .skip(parts.0)
            .take(parts.1 - parts.0)
    }

    /// Returns every cell that the view shows, and at a slant those beside it whose pictures may reach
    /// into it, with its place: chunk by chunk, in each cell by
    /// cell. The place is that in which it shows: of a layer that repeats itself, it may be beyond
    /// its cells.
    pub fn shown(&self) -> impl Iterator<Item = (CellPos, StackEntry)> + use<'a> {
        let span = self.alignment.slanted.map(|slanted| slanted.span);
        let shown = self.chunks().flat_map(|chunk| {
            chunk.shown().filter_map(move |(own, entry)| Some((own.checked_add(chunk.by)?, entry)))
        });
        shown.filter(move |(shown, _)| span.is_none_or(|span| span.contains(*shown)))
    }

    /// What is drawn in one place, from the lowest layer to the topmost: the layers' own cell, and
    /// what there is of it.
    pub(crate) fn entries_of(
        &self,
        shown: CellPos,
    ) -> impl Iterator<Item = (CellPos, StackEntry)> + use<'a> {
        let (first, end) = self.levels;
        let own = self.alignment.own_cell(shown).map_or(shown, |(own, _)| own);
        let index = own.index_in_chunk() as u16;
        let stack = self.alignment.chunk(own.chunk());
        let entries = stack.map_or(&[][..], |stack| stack.of_cell(index)).iter().copied();
        let entries = entries.filter(move |entry| (first..end).contains(&entry.level));
        entries.map(move |entry| (own, entry))
    }

    /// The first column of pixels of a column of cells.
    pub(super) fn column_edge(&self, column: i32) -> i32 {
        self.alignment.placement.column_edge(self.lattice, column)
    }

    /// The first row of pixels of a row of cells.
    pub(super) fn row_edge(&self, row: i32) -> i32 {
        self.alignment.placement.row_edge(self.lattice, row)
    }

    /// Where a cell lies on the pane from its chunk on, seen from above.
    pub(super) fn rect_in_chunk(&self, entry: StackEntry) -> PaneRect {
        let (columns, rows) = (self.lattice.columns(), self.lattice.rows());
        let (column, row) = (i64::from(entry.column()), i64::from(entry.row()));
        let corner = |x: i64, y: i64| PanePoint::new(columns.edge(x), rows.edge(y));
        PaneRect::between(corner(column, row), corner(column + 1, row + 1))
    }

    /// Returns the pixels that a place covers on the screen.
    pub fn pixels(&self, shown: CellPos) -> ScreenRect {
        self.alignment.placement.view.pixels(self.alignment.rect(self.lattice, shown))
    }

    /// The cell under a pixel, or one beside it.
    pub(crate) fn cell_near(&self, (x, y): (i32, i32)) -> CellPos {
        let placement = &self.alignment.placement;
        let seen = placement.view.to_pane(ScreenPoint::new(x as f32 + 0.5, y as f32 + 0.5));
        let place = WorldPoint::new(seen.x, seen.y + placement.lifted_px);
        self.lattice.cell_at(place - placement.offset)
    }

    /// Returns whether what the cells show may change with time: an animation is in view, or the
    /// layers move by themselves.
    pub fn changes_with_time(&self) -> bool {
        !self.alignment.motion.is_timeless() || self.chunks().any(|chunk| chunk.is_animated())
    }
}

impl<'a> StackChunk<'a> {
    /// Returns the place of the chunk.
    pub const fn pos(&self) -> ChunkPos {
        self.stack.pos
    }

    /// Returns how far from its place the chunk is shown: not at all, but for a layer that repeats
    /// itself.
    pub const fn moved_by(&self) -> CellOffset {
        self.by
    }

    /// Returns whether any of its cells shows other pixels as time goes on. Which ones an entry
    /// shows now, [`DrawList::quad_of`](crate::DrawList::quad_of) tells.
    pub const fn is_animated(&self) -> bool {
        self.stack.is_animated()
    }

    /// Returns the ranks of the chunk that the pass draws: all of them, but where the pass stops at a
    /// sprite among them, or at a tile that is larger than its cell. From above a rank is a row, 0 to
    /// 64, and at a slant a diagonal of cells with the same sum of column and row, 0 to 127.
    pub const fn ranks(&self) -> Range<u8> {
        self.ranks.0..self.ranks.1
    }

    /// Returns whether all layers of the pass are drawn in [`StackChunk::ranks`]. At a slant, a pass that
    /// ends at a sprite within a rank draws only those that lie below it, and the next one the others:
    /// draw its [entries](StackChunk::entries), not a part of what is kept.
    pub const fn has_all_layers(&self) -> bool {
        self.levels.0 == self.all_levels.0 && self.levels.1 == self.all_levels.1
    }

    /// Returns this chunk with all of its ranks, and all layers of the [key](StackPass::key) of the pass:
    /// to derive something from that is kept while sprites walk about, and of which
    /// [`StackChunk::ranks`] are drawn.
    #[must_use]
    pub const fn whole(mut self) -> StackChunk<'a> {
        self.ranks = (0, self.stack.rank_count() as u8);
        self.levels = self.all_levels;
        self
    }

    /// Returns a stamp that is another one whenever its entries are, and no other one where a change
    /// has left them as they were. What is derived from a [whole](StackChunk::whole) chunk is up to date
    /// as long as the stamp and the key of the pass are the same.
    pub const fn stamp(&self) -> Stamp {
        self.stack.built
    }

    /// Returns what is to be drawn in [`StackChunk::ranks`], rank by rank, each cell from the lowest
    /// layer to the topmost. A chunk at the edge of the view also gives cells
    /// beyond it.
    pub fn entries(&self) -> impl Iterator<Item = StackEntry> + use<'a> {
        let StackChunk { repeated, stack, levels: (first, end), ranks, .. } = *self;
        let entries = stack.entries(ranks.0.into()..ranks.1.into()).copied();
        entries.filter(move |entry| {
            let own = stack.pos.cell_at_index(entry.index.into());
            (first..end).contains(&entry.level) && repeated.contains(own)
        })
    }

    /// The layers' own cells of it that are on the screen.
    pub(crate) fn on_screen(&self) -> CellRect {
        self.pos().cells().intersection(self.cells)
    }

    /// Returns the entries of a row of some of the layers' own cells, whatever their level.
    pub(crate) fn row_within(&self, row: i32, cells: CellRect) -> &'a [StackEntry] {
        let corner = self.pos().corner();
        let entries = self.stack.rank((row - corner.y()) as usize);
        let before = |column: i32| {
            entries.partition_point(|entry| i32::from(entry.column()) < column - corner.x())
        };
        &entries[before(cells.left())..before(cells.right())]
    }

    /// The levels that the pass draws: from the first up to, but not with, the second.
    pub(crate) const fn levels(&self) -> (u16, u16) {
        self.levels
    }

    /// What is to be drawn on the screen, each entry with the layer's own cell.
    pub(super) fn shown(self) -> impl Iterator<Item = (CellPos, StackEntry)> + use<'a> {
        let placed =
            self.entries().map(move |entry| (self.pos().cell_at_index(entry.index.into()), entry));
        placed.filter(move |(own, _)| self.cells.contains(*own))
    }
}

/// A thing that lies on no common lattice.
#[derive(Clone, Copy, Debug, PartialEq)]
#[non_exhaustive]
pub struct LooseItem {
    /// What of it is drawn.
    pub quad: Quad,
    /// What lies there, or what the sprite shows; empty for a sprite with a picture of its own.
    pub cell: Cell,
    /// Where it is drawn on the pane, as the camera sees it that its layer has.
    pub rect: PaneRect,
}

impl LooseItem {
    /// A thing with its look, turned and laid on what is below, in a place that a camera sees.
    #[inline]
    pub(super) fn new(
        key: DrawKey,
        cell: Cell,
        look: (CellArt<'_>, Blend),
        (rect, view): (PaneRect, &View),
    ) -> LooseItem {
        LooseItem { quad: Quad::new(key, look, view.pixels(rect)), cell, rect }
    }
}

/// A rectangle of pixels to draw: the flat form of a draw list, for those who draw quads.
#[derive(Clone, Copy, Debug, PartialEq)]
#[non_exhaustive]
pub struct Quad {
    /// Its place in the order.
    pub key: DrawKey,
    /// The number of its page of pixels, see [`DrawList::page`](crate::DrawList::page).
    pub page: u32,
    /// Its pixels on the page.
    pub source: PixelRect,
    /// How the pixels are turned.
    pub turn: Turn,
    /// The pixels that it covers on the screen; where the view is turned, of its
    /// [upright](crate::View::upright) picture.
    pub target: ScreenRect,
    /// At a slant, of a cell: how its picture lies on the pane. `None` where it is spread over the
    /// target evenly.
    pub on_pane: Option<OnPane>,
    /// What its pixels are multiplied by.
    pub color: Color,
    /// How it is laid on what is below.
    pub blend: Blend,
}

impl Quad {
    /// Something with its look, turned and laid on what is below, on the screen.
    #[inline]
    pub(super) fn new(
        key: DrawKey,
        (CellArt { page, art, turn, color }, blend): (CellArt<'_>, Blend),
        target: ScreenRect,
    ) -> Quad {
        Quad { key, page, source: art.source, turn, target, on_pane: None, color, blend }
    }
}

/// How the picture of a cell lies on the pixels of the pane, where that is seen at a slant.
///
/// Each pixel of the screen shows the pixel of the pane under its centre, so that the edges of diamonds
/// close at every zoom.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct OnPane {
    /// The place on the picture, from its left and its top, that lies under the centre of the first
    /// pixel of [`Quad::target`], in pixels of the pane. From pixel to pixel of the screen it goes on by
    /// 1 / zoom.
    pub first: (f32, f32),
    /// How many pixels of the pane the picture takes; for a density of 1, as many as it has.
    pub size: PixelSize,
}

/// Quads that follow each other and can be drawn in one call.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
#[non_exhaustive]
pub struct Batch {
    /// The place of its first quad.
    pub first: usize,
    /// The number of its quads.
    pub count: usize,
    /// The page of pixels of all of them.
    pub page: u32,
    /// How all of them are laid on what is below.
    pub blend: Blend,
    /// Why the batch before could not go on.
    pub opened_by: BatchOpener,
}

/// The reason why a batch was opened.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
#[non_exhaustive]
pub enum BatchOpener {
    /// It is the first one.
    Start,
    /// It is laid in another way on what is below.
    Blend,
    /// Its pixels lie on another page, since it begins or ends a row of sprites.
    Sprite,
    /// Its pixels lie on another page, since it begins another layer.
    Layer,
    /// Its pixels lie on another page within the same layer, or within sprites.
    Page,
}

impl BatchOpener {
    /// Why a quad cannot be drawn with the one before it; `None` where it can.
    pub(super) fn between(before: &Quad, quad: &Quad) -> Option<BatchOpener> {
        if before.blend != quad.blend {
            Some(BatchOpener::Blend)
        } else if before.page == quad.page {
            None
        } else if before.key.kind != quad.key.kind
            && DrawKind::Sprite == before.key.kind.max(quad.key.kind)
        {
            Some(BatchOpener::Sprite)
        } else if before.key.layer != quad.key.layer {
            Some(BatchOpener::Layer)
        } else {
            Some(BatchOpener::Page)
        }
    }
}
