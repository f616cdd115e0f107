//! The changes of one plane, as a changeset keeps them.

use super::error::ApplyError;
use crate::plane::{Chunk, Plane, Presence, Stamp, Words};
use crate::units::{CellPos, ChunkPos};

/// Single cells and whole chunks of a plane, before and after, as words.
#[derive(Clone, Debug)]
pub(super) struct PlaneChanges {
    pub(super) cells: Vec<CellChange>,
    pub(super) chunks: Vec<ChunkChange>,
}

#[derive(Clone, Copy, Debug)]
pub(super) struct CellChange {
    pub(super) cell: CellPos,
    pub(super) before: u32,
    pub(super) after: u32,
}

#[derive(Clone, Debug)]
pub(super) struct ChunkChange {
    pub(super) pos: ChunkPos,
    pub(super) before: Chunk,
    pub(super) after: Chunk,
}

/// Where a plane holds something else than changes expect.
pub(super) struct Mismatch {
    /// A cell or a chunk, in words.
    place: String,
    /// Whether anything is known of what it holds.
    is_here: bool,
}

impl Mismatch {
    /// The plane holds values of another kind.
    pub(super) fn of_kind() -> Mismatch {
        Mismatch { place: "the kind".to_owned(), is_here: true }
    }

    /// Why changes of a layer cannot be applied.
    pub(super) fn error(self, kind: &str, layer: &str) -> ApplyError {
        let what = format!("{} of {kind} `{layer}`", self.place);
        if self.is_here { ApplyError::Differs(what) } else { ApplyError::Absent(what) }
    }
}

impl PlaneChanges {
    pub(super) fn is_empty(&self) -> bool {
        self.cells.is_empty() && self.chunks.is_empty()
    }

    pub(super) fn inverse(mut self) -> PlaneChanges {
        for change in &mut self.cells {
            std::mem::swap(&mut change.before, &mut change.after);
        }
        for change in &mut self.chunks {
            std::mem::swap(&mut change.before, &mut change.after);
        }
        self
    }

    /// Where a plane first holds something else than the changes expect.
    pub(super) fn mismatch(&self, plane: &Words) -> Option<Mismatch> {
        let mut cursor = Plane::<u32>::of_words(plane).cursor();
        let of_cell = |change: &CellChange| match cursor.get(change.cell) {
            Presence::Here(held) if held == change.before => None,
            held => Some(Mismatch {
                place: format!("cell {}", change.cell),
                is_here: held.here().is_some(),
            }),
        };
        let of_chunk = |change: &ChunkChange| {
            let held = plane.chunk(change.pos);
            (!held.same(&change.before)).then(|| Mismatch {
                place: change.pos.to_string(),
                is_here: held.get(0).here().is_some(),
            })
        };
        let cells = self.cells.iter().find_map(of_cell);
        cells.or_else(|| self.chunks.iter().find_map(of_chunk))
    }

    /// Brings about what is after. A cell that is not here stays so.
    pub(super) fn apply(&self, plane: &mut Words, stamp: Stamp) {
        for change in &self.cells {
            let set = plane.set_stamped(change.cell, change.after, stamp);
            debug_assert!(set.is_ok(), "a change was not checked before it was applied");
        }
        for change in &self.chunks {
            plane.replace_chunk(change.pos, change.after.clone(), stamp);
        }
    }

    /// Every changed cell with what it held before and after.
    pub(super) fn each(&self) -> impl Iterator<Item = CellChange> + '_ {
        self.cells.iter().copied().chain(self.chunks.iter().flat_map(ChunkChange::each))
    }
}

impl ChunkChange {
    fn each(&self) -> impl Iterator<Item = CellChange> + '_ {
        (0..Chunk::CELLS).filter_map(|index| {
            let (before, after) = (self.before.get(index).here()?, self.after.get(index).here()?);
            let cell = self.pos.cell_at_index(index);
            (before != after).then_some(CellChange { cell, before, after })
        })
    }
}
