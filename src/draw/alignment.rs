//! Layers on the same lattice edges, and what is kept of their chunks from frame to frame.

use rustc_hash::FxHashMap;

use super::chunk_stack::ChunkStack;
use super::figures::DrawFigures;
use super::slot::{LayerSlots, Looks, Reach};
use crate::quilt::{Layer, Quilt};
use crate::units::{CellRect, ChunkPos, WorldRect, WorldVec};
use crate::view::View;

/// Layers on the same lattice edges, and what is kept of their chunks.
#[derive(Clone, Debug)]
pub(super) struct Alignment {
    pub(super) offset: WorldVec,
    pub(super) layers: Vec<(u32, LayerSlots)>,
    pub(super) chunks: FxHashMap<ChunkPos, ChunkStack>,
    /// The places of those chunks, row by row.
    order: Vec<ChunkPos>,
    /// The cells in view.
    pub(super) cells: CellRect,
    /// The cells in view, and those whose tiles may reach into it.
    pub(super) reached: CellRect,
}

impl Alignment {
    pub(super) fn new(offset: WorldVec) -> Alignment {
        Alignment {
            offset,
            layers: Vec::new(),
            chunks: FxHashMap::default(),
            order: Vec::new(),
            cells: CellRect::EMPTY,
            reached: CellRect::EMPTY,
        }
    }

    /// Finds which cells the view shows, and brings their chunks up to date.
    pub(super) fn look(
        &mut self,
        quilt: &Quilt,
        view: &View,
        looks: &Looks,
        remove_hidden: bool,
        figures: &mut DrawFigures,
    ) {
        let area = view.visible().moved(self.offset * -1.0);
        self.cells = quilt.lattice().cells_in(area);
        // What reaches to the right comes into view from the left, and so on.
        let Reach { left, right, up, down } = looks.reach;
        let reached = WorldRect::between(
            area.min() - WorldVec::new(right, down),
            area.max() + WorldVec::new(left, up),
        );
        self.reached = quilt.lattice().cells_in(reached);
        let layers: Vec<(&Layer, LayerSlots)> = (self.layers.iter())
            .map(|&(at, slots)| (&quilt.layers()[at as usize], slots))
            .collect();
        let mut kept = FxHashMap::default();
        self.order = chunks_to_look_at(self.reached, &layers);
        for &pos in &self.order {
            let stack = match self.chunks.remove(&pos) {
                Some(stack) if stack.is_fresh(pos, &layers) => stack,
                _ => {
                    figures.chunks_rebuilt += 1;
                    ChunkStack::build(pos, &layers, looks, remove_hidden)
                }
            };
            figures.chunks += 1;
            figures.clear += stack.clear as usize;
            figures.hidden += stack.hidden as usize;
            figures.cells += stack.entries.len() + stack.oversize.len();
            kept.insert(pos, stack);
        }
        figures.cells += kept.values().map(|s| (s.clear + s.hidden) as usize).sum::<usize>();
        self.chunks = kept;
    }

    /// The kept chunks that touch a rectangle, row by row.
    pub(super) fn chunks_in(
        &self,
        cells: CellRect,
    ) -> impl Iterator<Item = (ChunkPos, &ChunkStack)> {
        let touching =
            self.order.iter().filter(move |pos| !pos.cells().intersection(cells).is_empty());
        touching.filter_map(|pos| Some((*pos, self.chunks.get(pos)?)))
    }
}

/// The chunks of a rectangle, row by row; of a very large one only those that hold something.
fn chunks_to_look_at(cells: CellRect, layers: &[(&Layer, LayerSlots)]) -> Vec<ChunkPos> {
    // A screen at zoom 1 shows some tens of chunks. From so many on, a map seen from far away, or
    // with tiny cells, would cost what is in view and not what is there.
    const MANY: u64 = 4096;
    if cells.chunk_count() <= MANY {
        return cells.chunks().collect();
    }
    let used = layers.iter().flat_map(|(layer, _)| layer.cells().chunks_in_use());
    let mut used: Vec<ChunkPos> =
        used.filter(|pos| !pos.cells().intersection(cells).is_empty()).collect();
    used.sort_unstable();
    used.dedup();
    used
}
