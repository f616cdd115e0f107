//! What is to be drawn of one chunk: the cells of all layers on the same lattice edges, without
//! those that cannot be seen.
//!
//! A cell is hidden when a later one of the same place covers every pixel solidly. Both lie on the
//! same lattice edges, so both have exactly the same pixels at every zoom, and whatever is drawn
//! between the two is covered as well. Tiles that are larger than their cell neither hide nor are
//! hidden.

use super::alignment::Member;
use super::looks::{LayerSlots, Looks, TileLook};
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
    /// Where the entries of each row begin, and where the last end.
    rows: Vec<u32>,
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
    pub(super) const NONE: StackEntry = StackEntry { index: 0, slot: 0, cell: Cell::EMPTY };

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

/// Memory to work with.
#[derive(Clone, Debug, Default)]
pub(super) struct Scratch {
    unpacked: Vec<Cell>,
    /// The cells of the chunk, layer by layer.
    cells: Vec<Cell>,
    entries: Vec<StackEntry>,
    of_cell: Vec<StackEntry>,
}

/// A layer that has something in a chunk.
#[derive(Clone, Copy)]
struct Held {
    slots: LayerSlots,
    /// Where its cells begin in the scratch memory.
    first: usize,
}

const CELLS: usize = (ChunkPos::SIDE * ChunkPos::SIDE) as usize;

impl ChunkStack {
    /// Finds what is to be drawn of a chunk.
    pub(super) fn build(
        pos: ChunkPos,
        members: &[Member],
        layers: &[Layer],
        looks: &Looks,
        remove_hidden: bool,
        scratch: &mut Scratch,
    ) -> ChunkStack {
        let mut stack = ChunkStack {
            stamps: stamps_of(pos, members, layers).collect(),
            built: Stamp::next(),
            entries: Vec::new(),
            rows: Vec::with_capacity(ChunkPos::SIDE as usize + 1),
            oversize: Vec::new(),
            clear: 0,
            hidden: 0,
            is_animated: false,
            seen: 0,
        };
        let held = scratch.read(pos, members, layers);
        let Scratch { cells, entries, of_cell, .. } = scratch;
        entries.clear();
        for index in 0..CELLS {
            if index % ChunkPos::SIDE as usize == 0 {
                stack.rows.push(entries.len() as u32);
            }
            of_cell.clear();
            for layer in &held {
                let cell = cells[layer.first + index];
                if cell == Cell::EMPTY {
                    continue;
                }
                // What is not loaded is drawn as a placeholder, and empty in the list.
                let cell = if cell == ABSENT { Cell::EMPTY } else { cell };
                let facts = looks.facts_of(cell);
                let (low, high) = layer.slots;
                let slot = if facts.is_raised || cell.is_raised() { high } else { low };
                let entry = StackEntry { index: index as u16, slot, cell };
                stack.is_animated |= facts.is_animated;
                match facts.look {
                    TileLook::Clear => stack.clear += 1,
                    TileLook::Oversize => stack.oversize.push(entry),
                    TileLook::Holed | TileLook::Opaque => of_cell.push(entry),
                }
            }
            if of_cell.len() < 2 {
                entries.extend_from_slice(of_cell);
                continue;
            }
            if !of_cell.is_sorted_by_key(|entry| entry.slot) {
                of_cell.sort_unstable_by_key(|entry| entry.slot);
            }
            // What a solid cell above covers is not drawn.
            let covers = |entry: &StackEntry| looks.covers(entry.cell, entry.slot);
            let lowest = if remove_hidden { of_cell.iter().rposition(covers) } else { None };
            let lowest = lowest.unwrap_or(0);
            stack.hidden += lowest as u32;
            entries.extend_from_slice(&of_cell[lowest..]);
        }
        stack.rows.push(entries.len() as u32);
        stack.entries = entries.clone();
        stack.oversize.sort_unstable_by_key(|entry| (entry.index, entry.slot));
        stack
    }

    /// The entries of rows of the chunk, 0 to 63, from the first up to, but not with, the second.
    pub(super) fn rows(&self, first: usize, end: usize) -> &[StackEntry] {
        &self.entries[self.rows[first] as usize..self.rows[end.max(first)] as usize]
    }

    /// The entries of the rows of some cells of the chunk, and of those whose tiles are larger.
    pub(super) fn entries_in(&self, cells: CellRect) -> impl Iterator<Item = &StackEntry> {
        let side = ChunkPos::SIDE as usize;
        let first = cells.corner().index_in_chunk() / side;
        let end = if cells.is_empty() { first } else { first + cells.height() as usize };
        let before = |row: usize| {
            self.oversize.partition_point(|entry| usize::from(entry.index) < row * side)
        };
        self.rows(first, end).iter().chain(&self.oversize[before(first)..before(end)])
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

/// What stands in the scratch memory for a cell that is not loaded: no cell of a map has all bits.
const ABSENT: Cell = Cell::ABSENT;

impl Scratch {
    /// Reads the cells of a chunk, of each layer that has any, the lowest first.
    fn read(&mut self, pos: ChunkPos, members: &[Member], layers: &[Layer]) -> Vec<Held> {
        let Scratch { unpacked, cells, .. } = self;
        cells.clear();
        let mut held = Vec::with_capacity(members.len());
        for member in members {
            let first = cells.len();
            let plane = layers[member.layer as usize].cells();
            plane.read_blocks(member.rows_of(pos.cells()), unpacked, |run| {
                if run.values == RunValues::Uniform(Cell::EMPTY) {
                    return;
                }
                cells.resize(first + CELLS, Cell::EMPTY);
                // A run spans whole rows of the chunk.
                let start = first + run.cells.corner().index_in_chunk();
                let target = &mut cells[start..start + run.cells.cell_count() as usize];
                match run.values {
                    RunValues::Uniform(cell) => target.fill(cell),
                    RunValues::Slice(values) => target.copy_from_slice(values),
                    RunValues::Absent(_) => target.fill(ABSENT),
                }
            });
            if cells.len() > first {
                held.push(Held { slots: member.slots, first });
            }
        }
        held.sort_by_key(|layer| layer.slots);
        held
    }
}
