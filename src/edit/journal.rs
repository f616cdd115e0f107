//! What the cells held before an edit, kept while it runs.

use rustc_hash::FxHashMap;

use super::change::{CellChange, ChunkChange, Op};
use crate::plane::Chunk;
use crate::quilt::Layer;
use crate::tile::Cell;
use crate::units::{CellPos, ChunkPos};

/// What the touched chunks of one layer held before.
#[derive(Debug, Default)]
pub(super) struct LayerJournal {
    chunks: FxHashMap<ChunkPos, Before>,
}

#[derive(Debug)]
enum Before {
    /// Single cells in the order in which they were changed; a cell may come twice.
    Cells(Vec<(u16, Cell)>),
    /// The whole chunk, shared with the map until it is written to.
    Chunk(Chunk<Cell>),
}

impl Before {
    /// From so many single changes on, keeping the whole chunk is the smaller record.
    const MOST_CELLS: usize = 1024;
}

impl LayerJournal {
    /// Notes what a cell held, before it is changed.
    pub(super) fn note_cell(&mut self, layer: &Layer, cell: CellPos, before: Cell) {
        let pos = cell.chunk();
        let held = self.chunks.entry(pos).or_insert_with(|| Before::Cells(Vec::new()));
        if let Before::Cells(cells) = held {
            if cells.len() >= Before::MOST_CELLS {
                *held = Before::Chunk(former(layer.cells().chunk(pos), cells));
            } else {
                cells.push((cell.index_in_chunk() as u16, before));
            }
        }
    }

    /// Notes what a chunk held, before all or much of it is changed.
    pub(super) fn note_chunk(&mut self, layer: &Layer, pos: ChunkPos) {
        let now = layer.cells().chunk(pos);
        let before = match self.chunks.get(&pos) {
            Some(Before::Chunk(_)) => return,
            Some(Before::Cells(cells)) => former(now, cells),
            None => now.clone(),
        };
        self.chunks.insert(pos, Before::Chunk(before));
    }

    /// The changes from what was noted to what the layer holds now, chunk by chunk in order.
    pub(super) fn into_ops(self, layer: &Layer, ops: &mut Vec<Op>) {
        let mut noted: Vec<(ChunkPos, Before)> = self.chunks.into_iter().collect();
        noted.sort_unstable_by_key(|(pos, _)| *pos);
        let (mut cells, mut chunks) = (Vec::new(), Vec::new());
        for (pos, before) in noted {
            let now = layer.cells().chunk(pos);
            match before {
                Before::Cells(mut noted) => {
                    // Stable: the first note of a cell is what it held before the edit.
                    noted.sort_by_key(|(index, _)| *index);
                    noted.dedup_by_key(|(index, _)| *index);
                    cells.extend(noted.into_iter().filter_map(|(index, before)| {
                        let after = now.get(index.into()).here()?;
                        let cell = pos.cell_at_index(index.into());
                        (before != after).then_some(CellChange { cell, before, after })
                    }));
                }
                Before::Chunk(before) => {
                    if !before.same(now) {
                        chunks.push(ChunkChange { pos, before, after: now.clone() });
                    }
                }
            }
        }
        let name = &layer.name;
        if !cells.is_empty() {
            ops.push(Op::Cells { layer: name.clone(), cells });
        }
        if !chunks.is_empty() {
            ops.push(Op::Chunks { layer: name.clone(), chunks });
        }
    }
}

/// A chunk as it was before the noted changes.
fn former(now: &Chunk<Cell>, noted: &[(u16, Cell)]) -> Chunk<Cell> {
    let mut chunk = now.clone();
    for &(index, before) in noted.iter().rev() {
        chunk.set(index.into(), before);
    }
    chunk
}
