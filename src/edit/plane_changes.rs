//! What an edit did to one plane, as it is kept in a changeset.

use super::error::ApplyError;
use crate::plane::{Chunk, Family, PerKind, Plane, Presence, Stamp, Value};
use crate::units::{CellPos, ChunkPos};

/// Single cells and whole chunks of a plane, before and after.
#[derive(Clone, Debug)]
pub(super) struct PlaneChanges<V> {
    pub(super) cells: Vec<CellChange<V>>,
    pub(super) chunks: Vec<ChunkChange<V>>,
}

#[derive(Clone, Copy, Debug)]
pub(super) struct CellChange<V> {
    pub(super) cell: CellPos,
    pub(super) before: V,
    pub(super) after: V,
}

#[derive(Clone, Debug)]
pub(super) struct ChunkChange<V> {
    pub(super) pos: ChunkPos,
    pub(super) before: Chunk<V>,
    pub(super) after: Chunk<V>,
}

/// Where a plane holds something else than changes expect.
pub(super) struct Mismatch {
    /// A cell or a chunk, in words.
    place: String,
    /// Whether anything is known of what it holds.
    is_here: bool,
}

impl Mismatch {
    /// Why changes of a layer cannot be applied.
    pub(super) fn error(self, kind: &str, layer: &str) -> ApplyError {
        let what = format!("{} of {kind} `{layer}`", self.place);
        if self.is_here { ApplyError::Differs(what) } else { ApplyError::Absent(what) }
    }
}

impl<V: Value> PlaneChanges<V> {
    pub(super) fn is_empty(&self) -> bool {
        self.cells.is_empty() && self.chunks.is_empty()
    }

    pub(super) fn inverse(mut self) -> PlaneChanges<V> {
        for change in &mut self.cells {
            std::mem::swap(&mut change.before, &mut change.after);
        }
        for change in &mut self.chunks {
            std::mem::swap(&mut change.before, &mut change.after);
        }
        self
    }

    /// Where a plane first holds something else than the changes expect.
    pub(super) fn mismatch(&self, plane: &Plane<V>) -> Option<Mismatch> {
        let mut cursor = plane.cursor();
        let of_cell = |change: &CellChange<V>| match cursor.get(change.cell) {
            Presence::Here(held) if held.same(change.before) => None,
            held => Some(Mismatch {
                place: format!("cell {}", change.cell),
                is_here: held.here().is_some(),
            }),
        };
        let of_chunk = |change: &ChunkChange<V>| {
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
    pub(super) fn apply(&self, plane: &mut Plane<V>, stamp: Stamp) {
        for change in &self.cells {
            let set = plane.set_stamped(change.cell, change.after, stamp);
            debug_assert!(set.is_ok(), "a change was not checked before it was applied");
        }
        for change in &self.chunks {
            plane.replace_chunk(change.pos, change.after.clone(), stamp);
        }
    }

    /// Every changed cell with what it held before and after.
    pub(super) fn each(&self) -> impl Iterator<Item = CellChange<V>> + '_ {
        self.cells.iter().copied().chain(self.chunks.iter().flat_map(ChunkChange::each))
    }
}

impl<V: Value> ChunkChange<V> {
    fn each(&self) -> impl Iterator<Item = CellChange<V>> + '_ {
        (0..Chunk::<V>::CELLS).filter_map(|index| {
            let (before, after) = (self.before.get(index).here()?, self.after.get(index).here()?);
            let cell = self.pos.cell_at_index(index);
            (!before.same(after)).then_some(CellChange { cell, before, after })
        })
    }
}

/// The changes of planes of the game's own values.
#[derive(Debug)]
pub(super) struct Changes;

impl Family for Changes {
    type Of<V: Value> = PlaneChanges<V>;
}

impl Clone for PerKind<Changes> {
    fn clone(&self) -> PerKind<Changes> {
        match self {
            PerKind::U32(changes) => PerKind::U32(changes.clone()),
            PerKind::I32(changes) => PerKind::I32(changes.clone()),
            PerKind::F32(changes) => PerKind::F32(changes.clone()),
        }
    }
}

impl PerKind<Changes> {
    pub(super) fn inverse(self) -> PerKind<Changes> {
        match self {
            PerKind::U32(changes) => PerKind::U32(changes.inverse()),
            PerKind::I32(changes) => PerKind::I32(changes.inverse()),
            PerKind::F32(changes) => PerKind::F32(changes.inverse()),
        }
    }

    /// Where planes differ from what the changes expect; they do so as a whole where they are of
    /// another kind.
    pub(super) fn mismatch(&self, planes: &PerKind<crate::plane::Planes>) -> Option<Mismatch> {
        match (self, planes) {
            (PerKind::U32(changes), PerKind::U32(plane)) => changes.mismatch(plane),
            (PerKind::I32(changes), PerKind::I32(plane)) => changes.mismatch(plane),
            (PerKind::F32(changes), PerKind::F32(plane)) => changes.mismatch(plane),
            _ => Some(Mismatch { place: "the kind".to_owned(), is_here: true }),
        }
    }

    pub(super) fn apply(&self, planes: &mut PerKind<crate::plane::Planes>, stamp: Stamp) {
        match (self, planes) {
            (PerKind::U32(changes), PerKind::U32(plane)) => changes.apply(plane, stamp),
            (PerKind::I32(changes), PerKind::I32(plane)) => changes.apply(plane, stamp),
            (PerKind::F32(changes), PerKind::F32(plane)) => changes.apply(plane, stamp),
            _ => debug_assert!(false, "changes of another kind were not refused"),
        }
    }
}
