//! The parts of a draw list, as a renderer takes them.

use super::DrawKey;
use crate::lattice::Lattice;
use crate::tile::{Cell, Turn};
use crate::units::{CellPos, CellRect, ChunkPos, PixelRect, WorldPoint, WorldRect, WorldVec};
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
/// Each chunk gives its cells by their place in the chunk, so what was derived from it (vertices,
/// a picture) survives a moving camera; only [`StackPass::column_edge`] and
/// [`StackPass::row_edge`] change with the view.
#[derive(Clone, Copy, Debug)]
pub struct StackPass<'a> {
    pub(super) chunks: &'a [(ChunkPos, &'a super::chunk_stack::ChunkStack)],
    pub(super) slots: (u16, u16),
    pub(super) cells: CellRect,
    pub(super) lattice: &'a Lattice,
    pub(super) view: &'a View,
    pub(super) offset: WorldVec,
}

/// One cell to draw in a [`StackPass`].
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct StackEntry {
    /// The place in the chunk, row by row, 0 to 4095.
    pub(super) index: u16,
    pub(super) slot: u16,
    /// What lies there; empty where the chunk is not loaded.
    pub(super) cell: Cell,
}

impl StackEntry {
    /// The column in the chunk, 0 to 63.
    pub const fn column(&self) -> u8 {
        (self.index % ChunkPos::SIDE as u16) as u8
    }

    /// The row in the chunk, 0 to 63.
    pub const fn row(&self) -> u8 {
        (self.index / ChunkPos::SIDE as u16) as u8
    }

    /// What lies there; [`Cell::EMPTY`] where the chunk is not loaded, which is drawn as a plain
    /// placeholder.
    pub const fn cell(&self) -> Cell {
        self.cell
    }

    /// The number of the layer's slot, for [`DrawList::slot_alpha`](super::DrawList::slot_alpha).
    pub const fn slot(&self) -> u16 {
        self.slot
    }
}

impl<'a> StackPass<'a> {
    /// The cells to look at, those beyond the edge of the view left out.
    pub const fn cells(&self) -> CellRect {
        self.cells
    }

    /// The chunks with what is to be drawn of them, row by row: for each cell from the lowest
    /// layer to the topmost, cells row by row. A chunk at the edge of the view also gives cells
    /// beyond it.
    pub fn chunks(
        &self,
    ) -> impl Iterator<Item = (ChunkPos, impl Iterator<Item = StackEntry> + 'a)> {
        let (first, end) = self.slots;
        self.chunks.iter().map(move |&(pos, stack)| {
            let entries = stack.entries.iter().copied();
            (pos, entries.filter(move |entry| (first..end).contains(&entry.slot)))
        })
    }

    /// Every cell that the view shows, with its place.
    pub fn shown(&self) -> impl Iterator<Item = (CellPos, StackEntry)> {
        let cells = self.cells;
        self.chunks().flat_map(move |(pos, entries)| {
            entries.filter_map(move |entry| {
                let cell = pos.cell_at_index(entry.index.into());
                cells.contains(cell).then_some((cell, entry))
            })
        })
    }

    /// The first pixel column of a column of cells; the column before ends there.
    pub fn column_edge(&self, column: i32) -> i32 {
        self.view.column_edge(self.corner(column, 0).x)
    }

    /// The first pixel row of a row of cells; the row above ends there.
    pub fn row_edge(&self, row: i32) -> i32 {
        self.view.row_edge(self.corner(0, row).y)
    }

    fn corner(&self, column: i32, row: i32) -> WorldPoint {
        // The far edge of the last cell is one beyond the limit of cells.
        let (beyond_x, beyond_y) = (column > CellPos::MAX, row > CellPos::MAX);
        let bounds = self.lattice.bounds(CellPos::new(column, row));
        let corner = WorldPoint::new(
            if beyond_x { bounds.max().x } else { bounds.min().x },
            if beyond_y { bounds.max().y } else { bounds.min().y },
        );
        corner + self.offset
    }
}

/// One thing that lies on no common lattice.
#[derive(Clone, Copy, Debug, PartialEq)]
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
pub struct Quad {
    /// Its place in the order.
    pub key: DrawKey,
    /// The number of its page of pixels.
    pub page: u32,
    /// Its pixels on the page.
    pub source: PixelRect,
    /// How the pixels are turned.
    pub turn: Turn,
    /// The first pixel column and row on the screen, and those behind the last.
    pub left: i32,
    /// See [`Quad::left`].
    pub top: i32,
    /// See [`Quad::left`].
    pub right: i32,
    /// See [`Quad::left`].
    pub bottom: i32,
    /// How solid it is drawn, 0 to 255.
    pub alpha: u8,
}

/// Quads that follow each other and can be drawn in one call.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
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
