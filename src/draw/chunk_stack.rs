//! What is to be drawn of one chunk: the cells of all layers on the same lattice edges, without
//! those that cannot be seen.
//!
//! A cell is hidden when a later one of the same place covers every pixel solidly. Both lie on the
//! same lattice edges, so both have exactly the same pixels at every zoom, and whatever is drawn
//! between the two is covered as well. Tiles that are larger than their cell neither hide nor are
//! hidden.

use super::alignment::Member;
use super::looks::{Looks, TileLook};
use crate::plane::{RunValues, Stamp};
use crate::quilt::Layer;
use crate::tile::Cell;
use crate::units::{CellRect, ChunkPos};

/// What is to be drawn of a chunk, and from which stamps it was found.
#[derive(Clone, Debug)]
pub(super) struct ChunkStack {
    stamps: Vec<Stamp>,
    /// When it was found: another one for other entries.
    pub(super) built: Stamp,
    /// Cell by cell, each from the lowest slot to the topmost.
    pub(super) entries: Vec<StackEntry>,
    /// Cells whose tiles are larger than they, in the same order.
    pub(super) oversize: Vec<StackEntry>,
    pub(super) clear: u32,
    pub(super) hidden: u32,
    /// Whether any of its cells shows other pixels as time goes on.
    pub(super) is_animated: bool,
    /// The last rebuild of the list that looked at it.
    pub(super) seen: u64,
}

/// One cell to draw in a [`StackPass`](super::StackPass).
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

    /// The number of the layer's slot, for [`DrawList::slot_color`](super::DrawList::slot_color).
    pub const fn slot(&self) -> u16 {
        self.slot
    }
}

impl ChunkStack {
    /// Finds what is to be drawn of a chunk.
    pub(super) fn build(
        pos: ChunkPos,
        members: &[Member],
        layers: &[Layer],
        looks: &Looks,
        remove_hidden: bool,
    ) -> ChunkStack {
        let mut stack = ChunkStack {
            stamps: stamps_of(pos, members, layers).collect(),
            built: Stamp::next(),
            entries: Vec::new(),
            oversize: Vec::new(),
            clear: 0,
            hidden: 0,
            is_animated: false,
            seen: 0,
        };
        let mut scratch = Vec::new();
        for member in members {
            let cells = member.rows_of(pos.cells());
            let plane = layers[member.layer as usize].cells();
            plane.read_blocks(cells, &mut scratch, |run| match run.values {
                RunValues::Uniform(Cell::EMPTY) => {}
                RunValues::Absent(_) => {
                    stack.entries.extend(all_of(run.cells).map(|index| StackEntry {
                        index,
                        slot: member.slots.0,
                        cell: Cell::EMPTY,
                    }));
                }
                RunValues::Uniform(_) | RunValues::Slice(_) => {
                    for (at, cell) in run.each().filter(|(_, cell)| !cell.is_empty()) {
                        let index = at.index_in_chunk() as u16;
                        let (low, high) = member.slots;
                        let slot = if looks.is_raised(cell) { high } else { low };
                        let entry = StackEntry { index, slot, cell };
                        stack.is_animated |= looks.is_animated(cell);
                        match looks.look(cell) {
                            TileLook::Clear => stack.clear += 1,
                            TileLook::Oversize => stack.oversize.push(entry),
                            TileLook::Holed | TileLook::Opaque => stack.entries.push(entry),
                        }
                    }
                }
            });
        }
        let place = |entry: &StackEntry| (entry.index, entry.slot);
        stack.entries.sort_unstable_by_key(place);
        stack.oversize.sort_unstable_by_key(place);
        if remove_hidden {
            stack.remove_hidden(looks);
        }
        stack
    }

    /// Removes what a solid cell above covers: of each cell's entries those below the topmost
    /// solid one.
    fn remove_hidden(&mut self, looks: &Looks) {
        let covers = |entry: &StackEntry| looks.covers(entry.cell, entry.slot);
        let before = self.entries.len();
        let mut kept = Vec::with_capacity(before);
        for of_cell in self.entries.chunk_by(|a, b| a.index == b.index) {
            let lowest = of_cell.iter().rposition(covers).unwrap_or(0);
            kept.extend_from_slice(&of_cell[lowest..]);
        }
        self.hidden = (before - kept.len()) as u32;
        self.entries = kept;
    }

    /// Whether it is still what it was derived from.
    pub(super) fn is_fresh(&self, pos: ChunkPos, members: &[Member], layers: &[Layer]) -> bool {
        self.stamps.iter().copied().eq(stamps_of(pos, members, layers))
    }

    /// How many bytes it takes.
    pub(super) fn bytes(&self) -> usize {
        let entries = self.entries.capacity() + self.oversize.capacity();
        entries * size_of::<StackEntry>() + self.stamps.capacity() * size_of::<Stamp>()
    }
}

fn stamps_of(pos: ChunkPos, members: &[Member], layers: &[Layer]) -> impl Iterator<Item = Stamp> {
    members.iter().map(move |member| layers[member.layer as usize].cells().chunk_stamp(pos))
}

fn all_of(cells: CellRect) -> impl Iterator<Item = u16> {
    cells.cells().map(|cell| cell.index_in_chunk() as u16)
}
