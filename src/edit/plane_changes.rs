//! The changes of one plane, as a changeset keeps them.

use std::borrow::Cow;

use super::error::ApplyError;
use crate::cell_set::CellSet;
use crate::plane::{Chunk, ChunkBits, Plane, Presence, Stamp, TractContent, Words};
use crate::units::{CellPos, ChunkPos, TractPos};

/// Single cells, whole chunks and whole tracts of a plane, before and after, as words. No cell is in two of
/// them.
#[derive(Clone, Debug, Default)]
pub(crate) struct PlaneChanges {
    pub(crate) cells: Vec<CellsChange>,
    pub(crate) chunks: Vec<ChunkChange>,
    pub(crate) tracts: Vec<TractChange>,
}

/// Single cells of a chunk.
#[derive(Clone, Debug)]
pub(crate) struct CellsChange {
    pub(crate) pos: ChunkPos,
    /// By their place in the chunk, in order.
    pub(crate) indexes: Vec<u16>,
    pub(crate) before: Values,
    pub(crate) after: Values,
}

/// The values of some cells.
#[derive(Clone, Debug)]
pub(crate) enum Values {
    /// The same for all.
    All(u32),
    /// One for each.
    Each(Vec<u32>),
}

impl Values {
    pub(crate) fn of(values: Vec<u32>) -> Values {
        match values.first() {
            Some(first) if values.iter().all(|value| value == first) => Values::All(*first),
            _ => Values::Each(values),
        }
    }

    pub(crate) fn get(&self, at: usize) -> u32 {
        match self {
            Values::All(value) => *value,
            Values::Each(values) => values[at],
        }
    }
}

impl CellsChange {
    fn each(&self) -> impl Iterator<Item = CellChange> + '_ {
        self.indexes.iter().enumerate().map(|(at, index)| CellChange {
            cell: self.pos.cell_at_index((*index).into()),
            before: self.before.get(at),
            after: self.after.get(at),
        })
    }

    pub(crate) fn bits(&self) -> ChunkBits {
        let mut bits = ChunkBits::NONE;
        self.indexes.iter().for_each(|index| bits.insert((*index).into()));
        bits
    }
}

#[derive(Clone, Copy, Debug)]
pub(super) struct CellChange {
    pub(super) cell: CellPos,
    pub(crate) before: u32,
    pub(crate) after: u32,
}

#[derive(Clone, Debug)]
pub(crate) struct ChunkChange {
    pub(crate) pos: ChunkPos,
    pub(crate) before: Chunk,
    pub(crate) after: Chunk,
}

#[derive(Clone, Debug)]
pub(crate) struct TractChange {
    pub(crate) at: TractPos,
    pub(crate) before: TractContent,
    pub(crate) after: TractContent,
}

/// The changes of one chunk, however they are recorded.
struct Piece<'a> {
    pos: ChunkPos,
    bits: ChunkBits,
    before: Cow<'a, Chunk>,
    after: Cow<'a, Chunk>,
}

/// From so many single changes on, keeping the whole chunk is the smaller record.
pub(super) const MAX_CELLS: usize = 1024;

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
    pub(crate) fn is_empty(&self) -> bool {
        self.cells.is_empty() && self.chunks.is_empty() && self.tracts.is_empty()
    }

    pub(super) fn inverse(mut self) -> PlaneChanges {
        for change in &mut self.cells {
            std::mem::swap(&mut change.before, &mut change.after);
        }
        for change in &mut self.chunks {
            std::mem::swap(&mut change.before, &mut change.after);
        }
        for change in &mut self.tracts {
            std::mem::swap(&mut change.before, &mut change.after);
        }
        self
    }

    /// Where a plane first holds something else than the changes expect.
    pub(super) fn mismatch(&self, plane: &Words) -> Option<Mismatch> {
        let mut cursor = Plane::<u32>::of_words(plane).cursor();
        let of_cell = |change: CellChange| match cursor.get(change.cell) {
            Presence::Here(held) if held == change.before => None,
            held => Some(Mismatch {
                place: format!("cell {}", change.cell),
                is_here: held.here().is_some(),
            }),
        };
        let chunk = |pos: ChunkPos| Mismatch {
            place: pos.to_string(),
            is_here: plane.chunk(pos).get(0).here().is_some(),
        };
        let of_chunk = |change: &ChunkChange| {
            (!plane.chunk(change.pos).same(&change.before)).then(|| chunk(change.pos))
        };
        let of_tract = |change: &TractChange| {
            plane.tract_content(change.at).difference(&change.before, change.at).map(chunk)
        };
        let cells = self.cells.iter().flat_map(CellsChange::each).find_map(of_cell);
        let chunks = || self.chunks.iter().find_map(of_chunk);
        cells.or_else(chunks).or_else(|| self.tracts.iter().find_map(of_tract))
    }

    /// The changes that make one plane what another is.
    pub(super) fn between(before: &Words, after: &Words) -> Result<PlaneChanges, Mismatch> {
        /// From so many chunks of a tract on, it is recorded as a whole.
        const MANY: usize = 24;
        let mut changes = PlaneChanges::default();
        let mut differing = before.differences(after);
        differing.sort_unstable_by_key(|pos| (pos.tract(), *pos));
        for chunks in differing.chunk_by(|a, b| a.tract() == b.tract()) {
            let at = chunks[0].tract();
            for pos in chunks {
                let both = [before.chunk(*pos), after.chunk(*pos)];
                if both.iter().any(|chunk| matches!(**chunk, Chunk::Absent(_))) {
                    return Err(Mismatch { place: pos.to_string(), is_here: false });
                }
                if chunks.len() < MANY {
                    let bits = both[0].differing(&both[1]);
                    changes.add_merged(*pos, &both[0], &both[1], &bits);
                }
            }
            if chunks.len() >= MANY {
                let (before, after) = (before.tract_content(at), after.tract_content(at));
                changes.tracts.push(TractChange { at, before, after });
            }
        }
        Ok(changes)
    }

    /// The cells in which a plane holds neither what the changes expect nor what they leave.
    pub(super) fn conflicts(&self, plane: &Words) -> Result<CellSet, Mismatch> {
        let mut found = Vec::new();
        self.each_differing(plane, |piece, held| {
            let others = piece.bits.zip(&held.differing(&piece.before), |a, b| a & b);
            let others = others.zip(&held.differing(&piece.after), |a, b| a & b);
            if !others.is_none() {
                found.push((piece.pos, others));
            }
        })?;
        Ok(CellSet::of_chunks(found))
    }

    /// The same changes from what a plane holds, but for cells that hold already what they leave, and for
    /// those of a set.
    pub(super) fn rebased(&self, plane: &Words, kept: &CellSet) -> PlaneChanges {
        let mut rebased = PlaneChanges::default();
        let mut add = |piece: &Piece<'_>, held: &Chunk| {
            let bits = piece.bits.zip(&held.differing(&piece.after), |a, b| a & b);
            let bits = bits.zip(&kept.chunk(piece.pos), |a, b| a & !b);
            rebased.add_merged(piece.pos, held, &piece.after, &bits);
        };
        // Where nothing is not here, which was looked for before.
        self.each_differing(plane, |piece, held| add(&piece, held)).ok();
        // What the plane holds as expected, goes on as it is.
        for change in &self.cells {
            if change.each().all(|own| plane.get(own.cell).here() == Some(own.before)) {
                rebased.cells.push(change.clone());
            }
        }
        for change in &self.chunks {
            if plane.chunk(change.pos).same(&change.before) {
                rebased.chunks.push(change.clone());
            }
        }
        for change in &self.tracts {
            let held = plane.tract_content(change.at);
            if held.difference(&change.before, change.at).is_none() {
                rebased.tracts.push(change.clone());
            }
        }
        rebased
    }

    /// Visits the chunks of those records of which a plane holds something else than they expect.
    fn each_differing(
        &self,
        plane: &Words,
        mut visit: impl FnMut(Piece<'_>, &Chunk),
    ) -> Result<(), Mismatch> {
        let absent = |pos: ChunkPos| Mismatch { place: pos.to_string(), is_here: false };
        let mut look = |piece: Piece<'_>| {
            let held = plane.chunk(piece.pos);
            if matches!(*held, Chunk::Absent(_)) {
                return Err(absent(piece.pos));
            }
            visit(piece, &held);
            Ok(())
        };
        for change in &self.cells {
            let held = |own: CellChange| plane.get(own.cell).here();
            if !change.each().all(|own| held(own) == Some(own.before)) {
                let base = plane.chunk(change.pos);
                if matches!(*base, Chunk::Absent(_)) {
                    return Err(absent(change.pos));
                }
                let with = |values: &Values| {
                    let mut chunk = base.clone().into_owned();
                    for (at, index) in change.indexes.iter().enumerate() {
                        chunk.set((*index).into(), values.get(at));
                    }
                    Cow::Owned(chunk)
                };
                let (before, after) = (with(&change.before), with(&change.after));
                look(Piece { pos: change.pos, bits: change.bits(), before, after })?;
            }
        }
        for ChunkChange { pos, before, after } in &self.chunks {
            if !plane.chunk(*pos).same(before) {
                let bits = before.differing(after);
                let (before, after) = (Cow::Borrowed(before), Cow::Borrowed(after));
                look(Piece { pos: *pos, bits, before, after })?;
            }
        }
        for TractChange { at, before, after } in &self.tracts {
            if plane.tract_content(*at).difference(before, *at).is_none() {
                continue;
            }
            for pos in at.cells().chunks() {
                let (before, after) = (before.chunk(pos), after.chunk(pos));
                let bits = before.differing(&after);
                if !bits.is_none() {
                    look(Piece { pos, bits, before, after })?;
                }
            }
        }
        Ok(())
    }

    /// Adds the change of some cells of a chunk from what is held to what another chunk holds.
    fn add_merged(&mut self, pos: ChunkPos, held: &Chunk, other: &Chunk, bits: &ChunkBits) {
        let count = bits.count();
        if count == 0 {
            return;
        }
        if bits.is_all() {
            let (before, after) = (held.clone(), other.clone());
            self.chunks.push(ChunkChange { pos, before, after });
            return;
        }
        let value = |chunk: &Chunk, index: usize| chunk.get(index).here().unwrap_or_default();
        if count <= MAX_CELLS as u32 {
            let indexes = bits.indexes().map(|index| index as u16).collect();
            let values =
                |chunk: &Chunk| Values::of(bits.indexes().map(|at| value(chunk, at)).collect());
            let (before, after) = (values(held), values(other));
            self.cells.push(CellsChange { pos, indexes, before, after });
        } else {
            let mut after = held.clone();
            for index in bits.indexes() {
                after.set(index, value(other, index));
            }
            self.chunks.push(ChunkChange { pos, before: held.clone(), after });
        }
    }

    /// Brings about what is after. A cell that is not here stays so.
    pub(super) fn apply(&self, plane: &mut Words, stamp: Stamp) {
        for change in &self.cells {
            match &change.after {
                Values::All(value) => plane.fill_bits(change.pos, &change.bits(), *value, stamp),
                Values::Each(_) => {
                    for CellChange { cell, after, .. } in change.each() {
                        let set = plane.set_stamped(cell, after, stamp);
                        debug_assert!(
                            set.is_ok(),
                            "a change was not checked before it was applied"
                        );
                    }
                }
            }
        }
        for change in &self.chunks {
            plane.replace_chunk(change.pos, change.after.clone(), stamp);
        }
        for change in &self.tracts {
            plane.put_content(change.at, &change.after, stamp);
        }
    }

    /// About how much it takes where no map shares its chunks.
    pub(super) fn bytes(&self) -> usize {
        let values = |values: &Values| match values {
            Values::All(_) => 0,
            Values::Each(values) => size_of_val(&values[..]),
        };
        let cells = self.cells.iter().map(|change| {
            let lists = values(&change.before) + values(&change.after);
            size_of::<CellsChange>() + size_of_val(&change.indexes[..]) + lists
        });
        let chunks = self.chunks.iter().map(|change| {
            size_of::<ChunkChange>() + change.before.held_bytes().0 + change.after.held_bytes().0
        });
        let tracts = self
            .tracts
            .iter()
            .map(|change| size_of::<TractChange>() + change.before.bytes() + change.after.bytes());
        cells.chain(chunks).chain(tracts).sum()
    }

    /// The cells that change.
    pub(super) fn area(&self) -> CellSet {
        let cells = self.cells.iter().map(|change| (change.pos, change.bits()));
        let chunks = self.chunks.iter().map(|c| (c.pos, c.before.differing(&c.after)));
        let tracts = self.tracts.iter().flat_map(|TractChange { at, before, after }| {
            let chunks = at.cells().chunks();
            chunks.map(|pos| (pos, before.chunk(pos).differing(&after.chunk(pos))))
        });
        let all = cells.chain(chunks).chain(tracts);
        CellSet::of_chunks(all.filter(|(_, bits)| !bits.is_none()))
    }

    /// Every changed cell with what it held before and after.
    pub(super) fn each(&self) -> impl Iterator<Item = CellChange> + '_ {
        let chunks = self.chunks.iter().flat_map(|c| each(c.pos, &c.before, &c.after));
        let tracts = self.tracts.iter().flat_map(|TractChange { at, before, after }| {
            let chunks = at.cells().chunks();
            chunks.flat_map(|pos| {
                let (before, after) = (before.chunk(pos), after.chunk(pos));
                each(pos, &before, &after).collect::<Vec<CellChange>>()
            })
        });
        self.cells.iter().flat_map(CellsChange::each).chain(chunks).chain(tracts)
    }
}

/// The cells in which two contents of a chunk differ.
fn each<'a>(
    pos: ChunkPos,
    before: &'a Chunk,
    after: &'a Chunk,
) -> impl Iterator<Item = CellChange> + 'a {
    (0..Chunk::CELLS).filter_map(move |index| {
        let (before, after) = (before.get(index).here()?, after.get(index).here()?);
        let cell = pos.cell_at_index(index);
        (before != after).then_some(CellChange { cell, before, after })
    })
}
