//! What is to be drawn of one chunk: the cells of all layers on the same lattice edges, without
//! those that cannot be seen.
//!
//! A cell is hidden when a later one of the same place covers every pixel solidly. Both lie on the
//! same lattice edges, so both have exactly the same pixels at every zoom, and whatever is drawn
//! between the two is covered as well. Tiles that are larger than their cell neither hide nor are
//! hidden.

use super::StackEntry;
use super::scene::{LayerSlots, Slot, TileLook};
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
}

impl ChunkStack {
    /// Finds what is to be drawn of a chunk.
    pub(super) fn build(
        pos: ChunkPos,
        layers: &[(&Layer, LayerSlots)],
        slots: &[Slot],
        looks: &[TileLook],
        remove_hidden: bool,
    ) -> ChunkStack {
        let mut stack = ChunkStack {
            stamps: layers.iter().map(|(layer, _)| layer.cells().chunk_stamp(pos)).collect(),
            built: Stamp::next(),
            entries: Vec::new(),
            oversize: Vec::new(),
            clear: 0,
            hidden: 0,
        };
        let mut scratch = Vec::new();
        for &(layer, layer_slots) in layers {
            layer.cells().read_blocks(pos.cells(), &mut scratch, |run| match run.values {
                RunValues::Uniform(Cell::EMPTY) => {}
                RunValues::Absent(_) => {
                    stack.entries.extend(all_of(run.cells).map(|index| StackEntry {
                        index,
                        slot: layer_slots.0,
                        cell: Cell::EMPTY,
                    }));
                }
                RunValues::Uniform(_) | RunValues::Slice(_) => {
                    for (at, cell) in run.each().filter(|(_, cell)| !cell.is_empty()) {
                        let index = at.index_in_chunk() as u16;
                        let slot = if cell.is_raised() { layer_slots.1 } else { layer_slots.0 };
                        let entry = StackEntry { index, slot, cell };
                        match look_of(cell, looks) {
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
            stack.remove_hidden(slots, looks);
        }
        stack
    }

    /// Removes what a solid cell above covers: of each cell's entries those below the topmost
    /// solid one.
    fn remove_hidden(&mut self, slots: &[Slot], looks: &[TileLook]) {
        let covers = |entry: &StackEntry| {
            let solid = entry.cell.is_empty() || look_of(entry.cell, looks) == TileLook::Opaque;
            solid && slots[usize::from(entry.slot)].alpha == 255
        };
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
    pub(super) fn is_fresh(&self, pos: ChunkPos, layers: &[(&Layer, LayerSlots)]) -> bool {
        let now = layers.iter().map(|(layer, _)| layer.cells().chunk_stamp(pos));
        self.stamps.iter().copied().eq(now)
    }
}

fn look_of(cell: Cell, looks: &[TileLook]) -> TileLook {
    let look = cell.tile().and_then(|tile| looks.get(tile.index()));
    look.copied().unwrap_or(TileLook::Opaque)
}

fn all_of(cells: CellRect) -> impl Iterator<Item = u16> {
    cells.cells().map(|cell| cell.index_in_chunk() as u16)
}
