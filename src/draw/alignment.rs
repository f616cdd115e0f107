//! Layers on the same lattice edges, and what is kept of their chunks from frame to frame.

use std::collections::hash_map::Entry;

use rustc_hash::FxHashMap;

use super::chunk_stack::{self, ChunkStack, Sources};
use super::figures::DrawFigures;
use super::looks::{LayerSlots, Looks};
use super::motion::{Motion, Patch, Seat};
use crate::lattice::Lattice;
use crate::plane::Stamp;
use crate::quilt::{Layer, Quilt};
use crate::units::{CellOffset, CellPos, CellRect, ChunkPos, ScreenRect, WorldRect};
use crate::view::View;

/// Layers, or bands of layers, that move together over the screen, and what is kept of their
/// chunks.
#[derive(Clone, Debug)]
pub(super) struct Alignment {
    pub(super) motion: Motion,
    pub(super) members: Vec<Member>,
    pub(super) chunks: FxHashMap<ChunkPos, ChunkStack>,
    /// The places of those chunks, row by row.
    order: Vec<ChunkPos>,
    /// Where its cells lie.
    pub(super) seat: Seat,
    /// The cells in view.
    pub(super) cells: CellRect,
    /// The cells in view, and those whose tiles may reach into it, in pieces of what repeats.
    pub(super) patches: Vec<Patch>,
    /// The cells that are repeated.
    pub(super) area: CellRect,
    /// Another one for other chunks, or other lists of them.
    pub(super) version: Stamp,
    /// The stamps of the layers when it was last looked at.
    seen: Vec<Stamp>,
    /// What was counted then.
    counted: DrawFigures,
    /// How often it was looked at.
    looks: u64,
    scratch: Scratch,
}

/// Memory to work with.
#[derive(Clone, Debug, Default)]
struct Scratch {
    patches: Vec<Patch>,
    chunks: chunk_stack::Scratch,
}

/// Rows of a layer.
#[derive(Clone, Copy, Debug)]
pub(super) struct Member {
    pub(super) layer: u32,
    pub(super) slots: LayerSlots,
    /// From the first up to, but not with, the second.
    pub(super) rows: (i32, i32),
}

impl Member {
    /// The part of some cells that belongs to it.
    pub(super) fn rows_of(&self, cells: CellRect) -> CellRect {
        with_rows(cells, self.rows)
    }
}

/// The part of some cells that lies in rows from the first up to, but not with, the second.
pub(super) fn with_rows(cells: CellRect, rows: (i32, i32)) -> CellRect {
    let (first, end) = (rows.0.max(cells.top()), rows.1.min(cells.bottom()));
    if first >= end {
        return CellRect::EMPTY;
    }
    CellRect::within_limits(cells.left(), first, cells.right(), end)
}

impl Alignment {
    pub(super) fn new(motion: Motion, view: &View) -> Alignment {
        Alignment {
            motion,
            members: Vec::new(),
            chunks: FxHashMap::default(),
            order: Vec::new(),
            seat: Seat { view: *view, offset: motion.offset },
            cells: CellRect::EMPTY,
            patches: Vec::new(),
            area: CellRect::EMPTY,
            version: Stamp::NONE,
            seen: Vec::new(),
            counted: DrawFigures::default(),
            looks: 0,
            scratch: Scratch::default(),
        }
    }

    /// Finds which cells the view shows at a time, and brings their chunks up to date.
    pub(super) fn look(
        &mut self,
        quilt: &Quilt,
        (view, time_ms): (&View, u64),
        looks: &Looks,
        remove_hidden: bool,
        figures: &mut DrawFigures,
    ) {
        self.looks += 1;
        self.seat = self.motion.seat(view, time_ms);
        let (lattice, layers) = (quilt.lattice(), quilt.layers());
        let area = self.seat.view.visible().moved(self.seat.offset * -1.0);
        self.cells = lattice.cells_in(area);
        self.area = self.motion.wrap_area(layers);
        let reached = looks.reach.around(area);
        let on_screen = (lattice, &self.seat.view);
        let Scratch { patches, chunks, .. } = &mut self.scratch;
        self.motion.patches(lattice.cells_in(reached), layers, on_screen, patches);
        let stamp_of = |member: &Member| layers[member.layer as usize].cells().stamp();
        let is_same_area = self.patches == *patches;
        if is_same_area && self.seen.iter().copied().eq(self.members.iter().map(stamp_of)) {
            self.counted.chunks_rebuilt = 0;
            figures.add_chunks(&self.counted);
            return;
        }
        self.seen.clear();
        self.seen.extend(self.members.iter().map(stamp_of));
        std::mem::swap(&mut self.patches, patches);
        self.order.clear();
        for patch in &self.patches {
            add_chunks(&mut self.order, patch.cells, &self.members, layers);
        }
        if self.patches.len() > 1 {
            self.order.sort_unstable();
            self.order.dedup();
        }
        self.counted = DrawFigures::default();
        self.version = Stamp::next();
        let sources = Sources { members: &self.members, layers, looks, remove_hidden };
        for &pos in &self.order {
            let stack = match self.chunks.entry(pos) {
                Entry::Occupied(mut held) => {
                    let is_other = held.get_mut().refresh(pos, sources, chunks);
                    self.counted.chunks_rebuilt += usize::from(is_other);
                    held.into_mut()
                }
                Entry::Vacant(free) => {
                    self.counted.chunks_rebuilt += 1;
                    free.insert(ChunkStack::build(pos, sources, chunks))
                }
            };
            stack.seen = self.looks;
            self.counted.add_chunk(stack);
        }
        if self.chunks.len() > self.order.len() {
            self.chunks.retain(|_, stack| stack.seen == self.looks);
        }
        figures.add_chunks(&self.counted);
    }

    /// All kept chunks, row by row.
    pub(super) fn chunks_in_order(&self) -> impl Iterator<Item = (ChunkPos, &ChunkStack)> {
        self.order.iter().filter_map(|pos| Some((*pos, self.chunks.get(pos)?)))
    }

    /// The kept chunks that touch a rectangle of the layers' own cells, row by row.
    pub(super) fn chunks_in(
        &self,
        cells: CellRect,
    ) -> impl Iterator<Item = (ChunkPos, &ChunkStack)> {
        let touching =
            self.order.iter().filter(move |pos| !pos.cells().intersection(cells).is_empty());
        touching.filter_map(|pos| Some((*pos, self.chunks.get(pos)?)))
    }

    /// The part of a patch that lies on the screen, in the layers' own cells.
    pub(super) fn on_screen(&self, patch: &Patch) -> CellRect {
        patch.own(self.cells)
    }

    /// The rows in which cells show whose tiles are larger than they, from the top.
    pub(super) fn oversize_rows(&self, slots: (u16, u16)) -> Vec<i32> {
        let mut rows = Vec::new();
        for patch in &self.patches {
            for (pos, stack) in self.chunks_in(patch.cells) {
                let entries = stack.oversize.iter();
                let own = entries.filter(|entry| (slots.0..slots.1).contains(&entry.slot));
                let own = own.map(|entry| pos.cell_at_index(entry.index.into()));
                let shown = own.filter(|own| patch.cells.contains(*own));
                rows.extend(shown.map(|own| own.y().saturating_add(patch.by.y)));
            }
        }
        rows.sort_unstable();
        rows.dedup();
        rows
    }

    /// The layers' own cell that is shown in a place, and how far it is from there.
    pub(super) fn own_cell(&self, shown: CellPos) -> Option<(CellPos, CellOffset)> {
        self.patches.iter().find_map(|patch| {
            let own = shown.checked_add(patch.by.reversed())?;
            patch.cells.contains(own).then_some((own, patch.by))
        })
    }

    /// The pixels that some places cover on the screen.
    pub(super) fn pixels_of(&self, lattice: &Lattice, shown: CellRect) -> ScreenRect {
        ScreenRect {
            left: self.seat.column_edge(lattice, shown.left()),
            top: self.seat.row_edge(lattice, shown.top()),
            right: self.seat.column_edge(lattice, shown.right()),
            bottom: self.seat.row_edge(lattice, shown.bottom()),
        }
    }

    /// Where a cell lies on the screen.
    pub(super) fn rect(&self, lattice: &Lattice, shown: CellPos) -> WorldRect {
        lattice.bounds(shown).moved(self.seat.offset)
    }
}

/// The chunks of a rectangle, row by row; of a very large one only those that hold something.
fn add_chunks(chunks: &mut Vec<ChunkPos>, cells: CellRect, members: &[Member], layers: &[Layer]) {
    // A screen at zoom 1 shows some tens of chunks. From so many on, a map seen from far away, or
    // with tiny cells, would cost what is in view and not what is there.
    const MANY: u64 = 4096;
    if cells.chunk_count() <= MANY {
        chunks.extend(cells.chunks());
        return;
    }
    let used =
        members.iter().flat_map(|member| layers[member.layer as usize].cells().chunks_in_use());
    chunks.extend(used.filter(|pos| !pos.cells().intersection(cells).is_empty()));
    chunks.sort_unstable();
    chunks.dedup();
}
