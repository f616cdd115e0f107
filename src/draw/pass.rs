//! The parts of a draw list, as a renderer takes them.

use super::DrawKey;
use super::alignment::Alignment;
use super::chunk_stack::{ChunkStack, StackEntry};
use crate::lattice::Lattice;
use crate::plane::Stamp;
use crate::tile::{Cell, Turn};
use crate::units::{CellPos, CellRect, ChunkPos, PixelRect, ScreenRect, WorldRect};
use crate::view::View;

/// One step of drawing. Passes are drawn one after the other.
#[derive(Clone, Debug)]
pub enum Pass<'a> {
    /// Cells of layers that lie on the same lattice edges, cell by cell.
    Stack(StackPass<'a>),
    /// Things that lie on no common lattice, each by itself: tiles that are larger than their
    /// cell, and all that must be drawn between them.
    Loose(&'a [LooseItem]),
}

/// Cells of one or more layers on the same lattice edges.
///
/// Each chunk gives its cells by their place in the chunk, and has a stamp, so what was derived
/// from it (vertices, a picture) survives a moving camera; only where the cells lie on the screen
/// changes with the view.
#[derive(Clone, Copy, Debug)]
pub struct StackPass<'a> {
    pub(super) alignment: &'a Alignment,
    pub(super) slots: (u16, u16),
    pub(super) lattice: &'a Lattice,
    pub(super) view: &'a View,
}

/// What a [`StackPass`] draws of one chunk.
#[derive(Clone, Copy, Debug)]
pub struct StackChunk<'a> {
    pos: ChunkPos,
    stack: &'a ChunkStack,
    slots: (u16, u16),
}

impl<'a> StackPass<'a> {
    /// The cells to look at, those beyond the edge of the view left out.
    pub fn cells(&self) -> CellRect {
        self.alignment.cells
    }

    /// The chunks in view, row by row.
    pub fn chunks(&self) -> impl Iterator<Item = StackChunk<'a>> + use<'a> {
        let (alignment, slots) = (self.alignment, self.slots);
        let chunks = alignment.chunks_in(alignment.cells);
        chunks.map(move |(pos, stack)| StackChunk { pos, stack, slots })
    }

    /// Every cell that the view shows, with its place: chunk by chunk, in each cell by cell.
    pub fn shown(&self) -> impl Iterator<Item = (CellPos, StackEntry)> + use<'a> {
        let cells = self.cells();
        let entries = self.chunks().flat_map(|chunk| chunk.placed());
        entries.filter(move |(cell, _)| cells.contains(*cell))
    }

    /// What is drawn of one cell, from the lowest layer to the topmost.
    pub(super) fn entries_of(&self, cell: CellPos) -> impl Iterator<Item = StackEntry> + use<'a> {
        let (first, end) = self.slots;
        let index = cell.index_in_chunk() as u16;
        let stack = self.alignment.chunks.get(&cell.chunk());
        let entries = stack.map_or(&[][..], |stack| &stack.entries);
        let from = entries.partition_point(|entry| entry.index < index);
        let entries = entries[from..].iter().take_while(move |entry| entry.index == index);
        entries.copied().filter(move |entry| (first..end).contains(&entry.slot))
    }

    /// The first column of pixels of a column of cells.
    pub(super) fn column_edge(&self, column: i32) -> i32 {
        let edge = self.lattice.columns().edge(column.into());
        self.view.column_edge(edge + self.alignment.offset.x)
    }

    /// The first row of pixels of a row of cells.
    pub(super) fn row_edge(&self, row: i32) -> i32 {
        let edge = self.lattice.rows().edge(row.into());
        self.view.row_edge(edge + self.alignment.offset.y)
    }

    /// The pixels that a cell covers on the screen.
    pub fn pixels(&self, cell: CellPos) -> ScreenRect {
        self.view.pixels(self.lattice.bounds(cell).moved(self.alignment.offset))
    }
}

impl<'a> StackChunk<'a> {
    /// Which chunk.
    pub const fn pos(&self) -> ChunkPos {
        self.pos
    }

    /// A stamp that is another one whenever its entries are. What is derived from the entries of
    /// a pass is up to date as long as the stamp is the same and the pass has the same layers.
    pub const fn stamp(&self) -> Stamp {
        self.stack.built
    }

    /// What is to be drawn: cell by cell, each from the lowest layer to the topmost, cells row by
    /// row. A chunk at the edge of the view also gives cells beyond it.
    pub fn entries(&self) -> impl Iterator<Item = StackEntry> + use<'a> {
        let (first, end) = self.slots;
        let entries = self.stack.entries.iter().copied();
        entries.filter(move |entry| (first..end).contains(&entry.slot))
    }

    fn placed(self) -> impl Iterator<Item = (CellPos, StackEntry)> + use<'a> {
        let entries = self.entries();
        entries.map(move |entry| (self.pos.cell_at_index(entry.index.into()), entry))
    }
}

/// One thing that lies on no common lattice.
#[derive(Clone, Copy, Debug, PartialEq)]
#[non_exhaustive]
pub struct LooseItem {
    /// Its place in the order.
    pub key: DrawKey,
    /// What it shows.
    pub cell: Cell,
    /// The number of its page of pixels.
    pub page: u32,
    /// Its pixels on the page.
    pub source: PixelRect,
    /// How the pixels are turned.
    pub turn: Turn,
    /// Where it is drawn in the world.
    pub rect: WorldRect,
    /// How solid it is drawn, 0 to 255.
    pub alpha: u8,
}

/// One rectangle of pixels to draw: the flat form of a draw list, for those who draw quads.
#[derive(Clone, Copy, Debug, PartialEq)]
#[non_exhaustive]
pub struct Quad {
    /// Its place in the order.
    pub key: DrawKey,
    /// The number of its page of pixels.
    pub page: u32,
    /// Its pixels on the page.
    pub source: PixelRect,
    /// How the pixels are turned.
    pub turn: Turn,
    /// The pixels that it covers on the screen.
    pub target: ScreenRect,
    /// How solid it is drawn, 0 to 255.
    pub alpha: u8,
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
    /// Why the batch before could not go on.
    pub opened_by: BatchOpener,
}

/// Why a batch was opened.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
#[non_exhaustive]
pub enum BatchOpener {
    /// It is the first one.
    Start,
    /// Its pixels lie on another page.
    Page,
}
