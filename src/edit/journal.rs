//! The values of cells before an edit, kept while it runs.

use rustc_hash::FxHashMap;

use super::error::EditError;
use super::plane_changes::{CellChange, ChunkChange, PlaneChanges, TractChange};
use crate::cell_set::{CellSet, check_size};
use crate::plane::{AbsentError, Chunk, ChunkBits, Stamp, TractContent, Words};
use crate::units::{CellPos, CellRect, ChunkPos, TractPos};

/// What the touched parts of one plane held before.
#[derive(Debug, Default)]
pub(super) struct Journal {
    /// In tracts that are not noted as a whole.
    chunks: FxHashMap<ChunkPos, Before>,
    /// Whole tracts, shared with the map until they are written to.
    tracts: FxHashMap<TractPos, TractContent>,
    /// Memory to work with.
    scratch: Vec<u32>,
}

#[derive(Debug)]
enum Before {
    /// Single cells in the order in which they were changed; a cell may come twice.
    Cells(Vec<(u16, u32)>),
    /// The whole chunk, shared with the map until it is written to.
    Chunk(Chunk),
}

/// From so many single changes on, keeping the whole chunk is the smaller record.
const MAX_CELLS: usize = 1024;

impl Journal {
    /// Puts a value into a cell of the plane of a layer, and gives the one it had.
    pub(super) fn put(
        &mut self,
        layer: &str,
        plane: &mut Words,
        cell: CellPos,
        value: u32,
    ) -> Result<u32, EditError> {
        let absent = |source| EditError::Absent { layer: layer.to_owned(), source };
        let before = plane.get(cell).or_absent(cell.chunk()).map_err(absent)?;
        if before != value {
            self.note_cell(plane, cell, before);
            // A stamp for each change, not one for the edit: a snapshot may be taken between two.
            plane.put_stamped(cell, value, Stamp::next());
        }
        Ok(before)
    }

    /// Puts values into a rectangle of cells of the plane of a layer, row by row. There is a value
    /// for each cell, and all cells lie within the limits of cells.
    pub(super) fn put_rect(
        &mut self,
        layer: &str,
        plane: &mut Words,
        rect: CellRect,
        values: &[u32],
    ) -> Result<(), EditError> {
        let absent = |source| EditError::Absent { layer: layer.to_owned(), source };
        plane.check_here(rect).map_err(absent)?;
        for pos in rect.chunks() {
            self.note_part(plane, rect.intersection(pos.cells()), rect, values);
        }
        plane.write_rect(rect, values).map_err(absent)
    }

    /// Puts a value into every cell of a rectangle of the plane of a layer.
    pub(super) fn fill(
        &mut self,
        layer: &str,
        plane: &mut Words,
        rect: CellRect,
        value: u32,
    ) -> Result<(), EditError> {
        // What is empty already needs no emptying, so only what the plane holds counts then.
        let rect = if value == 0 { rect.intersection(plane.bounds()) } else { rect };
        check_size(rect)?;
        let absent = |source| EditError::Absent { layer: layer.to_owned(), source };
        plane.check_here(rect).map_err(absent)?;
        let stamp = Stamp::next();
        for at in rect.tracts() {
            if rect.contains_rect(at.cells()) {
                self.fill_tract(plane, at, value, stamp);
                continue;
            }
            for pos in rect.intersection(at.cells()).chunks() {
                self.note_chunk(plane, pos);
                plane.fill_chunk(pos, rect, value, stamp);
            }
        }
        Ok(())
    }

    /// Puts a value into every cell of a tract whose chunks are here.
    fn fill_tract(&mut self, plane: &mut Words, at: TractPos, value: u32, stamp: Stamp) {
        if plane.tract_value(at) != Some(value) {
            self.note_tract(plane, at);
            plane.fill_tract(at, value, stamp);
        }
    }

    /// Puts a value into the cells of a set, and returns those that held another one.
    pub(super) fn fill_set(
        &mut self,
        layer: &str,
        plane: &mut Words,
        set: &CellSet,
        value: u32,
    ) -> Result<CellSet, EditError> {
        check_here(layer, plane, set)?;
        let stamp = Stamp::next();
        let mut changed = Vec::new();
        let whole: Vec<TractPos> = set.tracts().filter(|(_, all)| *all).map(|(at, _)| at).collect();
        for at in &whole {
            let before = changed.len();
            let each = at.cells().chunks();
            let each = each.map(|pos| (pos, differing(&plane.chunk(pos), &ChunkBits::ALL, value)));
            changed.extend(each.filter(|(_, bits)| !bits.is_none()));
            if changed.len() > before {
                self.fill_tract(plane, *at, value, stamp);
            }
        }
        for (pos, bits) in set.chunks() {
            if !whole.is_empty() && whole.binary_search(&pos.tract()).is_ok() {
                continue;
            }
            let other = differing(&plane.chunk(pos), &bits, value);
            if !other.is_none() {
                self.note_bits(plane, pos, &other);
                plane.fill_bits(pos, &other, value, stamp);
                changed.push((pos, other));
            }
        }
        Ok(CellSet::of_chunks(changed))
    }

    /// Puts values into the cells of a set, and returns those that held others. `value` is asked cell by
    /// cell, chunk by chunk, and must not depend on what the plane holds.
    pub(super) fn put_set(
        &mut self,
        layer: &str,
        plane: &mut Words,
        set: &CellSet,
        mut value: impl FnMut(CellPos, u32) -> u32,
    ) -> Result<CellSet, EditError> {
        check_here(layer, plane, set)?;
        let stamp = Stamp::next();
        let mut values = vec![0; Chunk::CELLS];
        let mut changed = Vec::new();
        for (pos, bits) in set.chunks() {
            let mut others = ChunkBits::NONE;
            plane.chunk(pos).copy_to(0, &mut values);
            for index in bits.indexes() {
                let new = value(pos.cell_at_index(index), values[index]);
                if new != values[index] {
                    values[index] = new;
                    others.insert(index);
                }
            }
            if !others.is_none() {
                self.note_bits(plane, pos, &others);
                plane.write_stamped(pos.cells(), &values, stamp);
                changed.push((pos, others));
            }
        }
        Ok(CellSet::of_chunks(changed))
    }

    /// Notes what a cell holds, before it is changed.
    fn note_cell(&mut self, plane: &Words, cell: CellPos, before: u32) {
        let pos = cell.chunk();
        let Some(held) = self.notes_of(pos) else { return };
        if let Before::Cells(cells) = held {
            if cells.len() >= MAX_CELLS {
                *held = Before::Chunk(former(&plane.chunk(pos), cells));
            } else {
                cells.push((cell.index_in_chunk() as u16, before));
            }
        }
    }

    /// What is noted of a chunk, to be added to; `None` where its tract is noted as a whole.
    fn notes_of(&mut self, pos: ChunkPos) -> Option<&mut Before> {
        if !self.tracts.is_empty() && self.tracts.contains_key(&pos.tract()) {
            return None;
        }
        Some(self.chunks.entry(pos).or_insert_with(|| Before::Cells(Vec::new())))
    }

    /// Notes what some cells of a chunk hold, before they are changed.
    fn note_bits(&mut self, plane: &Words, pos: ChunkPos, bits: &ChunkBits) {
        let Some(Before::Cells(cells)) = self.notes_of(pos) else { return };
        if cells.len() + bits.count() as usize > MAX_CELLS {
            self.note_chunk(plane, pos);
            return;
        }
        let held = plane.chunk(pos);
        let each = bits.indexes().filter_map(|at| Some((at as u16, held.get(at).here()?)));
        cells.extend(each);
    }

    /// Notes the cells of a part of a chunk that are about to change. `values` are the new ones, for
    /// the whole rectangle that the part was cut from.
    fn note_part(&mut self, plane: &Words, part: CellRect, rect: CellRect, values: &[u32]) {
        let pos = part.corner().chunk();
        let mut scratch = std::mem::take(&mut self.scratch);
        if let Some(held) = self.notes_of(pos) {
            note_part(held, &mut scratch, plane, part, rect, values);
        }
        self.scratch = scratch;
    }

    /// Notes what a chunk holds, before all or much of it is changed.
    fn note_chunk(&mut self, plane: &Words, pos: ChunkPos) {
        if self.tracts.contains_key(&pos.tract()) {
            return;
        }
        let now = plane.chunk(pos);
        let before = match self.chunks.get(&pos) {
            Some(Before::Chunk(_)) => return,
            Some(Before::Cells(cells)) => former(&now, cells),
            None => now.into_owned(),
        };
        self.chunks.insert(pos, Before::Chunk(before));
    }

    /// Notes what a tract holds, before it is changed as a whole.
    fn note_tract(&mut self, plane: &Words, at: TractPos) {
        if self.tracts.contains_key(&at) {
            return;
        }
        let mut content = plane.tract_content(at);
        let noted = self.chunks.extract_if(|pos, _| pos.tract() == at);
        for (pos, before) in noted {
            let before = match before {
                Before::Chunk(before) => before,
                Before::Cells(cells) => former(&plane.chunk(pos), &cells),
            };
            content.put_chunk(at, pos, before);
        }
        self.tracts.insert(at, content);
    }

    /// The changes from what was noted to what the plane holds now, chunk by chunk in order.
    pub(super) fn into_changes(self, plane: &Words) -> PlaneChanges {
        let mut noted: Vec<(ChunkPos, Before)> = self.chunks.into_iter().collect();
        noted.sort_unstable_by_key(|(pos, _)| *pos);
        let mut changes = PlaneChanges::default();
        let mut tracts: Vec<(TractPos, TractContent)> = self.tracts.into_iter().collect();
        tracts.sort_unstable_by_key(|(at, _)| *at);
        changes.tracts.extend(tracts.into_iter().filter_map(|(at, before)| {
            let after = plane.tract_content(at);
            before.difference(&after, at).map(|_| TractChange { at, before, after })
        }));
        for (pos, before) in noted {
            let now = plane.chunk(pos);
            match before {
                Before::Cells(mut noted) => {
                    // Stable: the first note of a cell is what it held before the edit.
                    noted.sort_by_key(|(index, _)| *index);
                    noted.dedup_by_key(|(index, _)| *index);
                    changes.cells.extend(noted.into_iter().filter_map(|(index, before)| {
                        let after = now.get(index.into()).here()?;
                        let cell = pos.cell_at_index(index.into());
                        (before != after).then_some(CellChange { cell, before, after })
                    }));
                }
                Before::Chunk(before) => {
                    if !before.same(&now) {
                        changes.chunks.push(ChunkChange { pos, before, after: now.into_owned() });
                    }
                }
            }
        }
        changes
    }
}

/// Adds to the notes of a chunk what the cells of a part hold that are about to change.
fn note_part(
    held: &mut Before,
    scratch: &mut Vec<u32>,
    plane: &Words,
    part: CellRect,
    rect: CellRect,
    values: &[u32],
) {
    let Before::Cells(cells) = held else { return };
    let pos = part.corner().chunk();
    let now = plane.chunk(pos);
    let (width, part_width) = (rect.width() as usize, part.width() as usize);
    scratch.clear();
    scratch.resize(part_width * part.height() as usize, 0);
    now.copy_part(part.moved(CellPos::ORIGIN - pos.corner()), scratch, part_width);
    let noted = cells.len();
    let (column, row) = (part.left().abs_diff(rect.left()), part.top().abs_diff(rect.top()));
    let new_rows = values[column as usize..].chunks(width).skip(row as usize);
    for ((row, new), before) in (part.top()..).zip(new_rows).zip(scratch.chunks(part_width)) {
        let first = CellPos::new(part.left(), row).index_in_chunk();
        let pairs = before.iter().zip(new).zip(first as u16..);
        let differing = pairs.filter(|((before, new), _)| before != new);
        cells.extend(differing.map(|((before, _), index)| (index, *before)));
        if cells.len() > MAX_CELLS {
            cells.truncate(noted);
            *held = Before::Chunk(former(&now, cells));
            return;
        }
    }
}

/// Fails for the first chunk of a set that is not here.
fn check_here(layer: &str, plane: &Words, set: &CellSet) -> Result<(), EditError> {
    if plane.may_be_absent() {
        for (pos, _) in set.chunks() {
            if let Chunk::Absent(why) = *plane.chunk(pos) {
                let source = AbsentError { chunk: pos, why };
                return Err(EditError::Absent { layer: layer.to_owned(), source });
            }
        }
    }
    Ok(())
}

/// A chunk as it was before the noted changes.
fn former(now: &Chunk, noted: &[(u16, u32)]) -> Chunk {
    let mut chunk = now.clone();
    for &(index, before) in noted.iter().rev() {
        chunk.set(index.into(), before);
    }
    chunk
}

/// Those of some cells of a chunk that do not hold a value.
fn differing(held: &Chunk, bits: &ChunkBits, value: u32) -> ChunkBits {
    /// Up to so many cells, asking each is quicker than asking all of the chunk.
    const FEW: u32 = 256;
    if bits.count() > FEW {
        return bits.zip(&held.bits_where(|held| held == value), |bits, held| bits & !held);
    }
    let mut differing = ChunkBits::NONE;
    for index in bits.indexes().filter(|at| held.get(*at).here() != Some(value)) {
        differing.insert(index);
    }
    differing
}

/// The journal of the layer in a place, begun when it is not there.
pub(super) fn journal_of(journals: &mut Vec<(usize, Journal)>, layer: usize) -> &mut Journal {
    let known = journals.iter().position(|(held, _)| *held == layer);
    let known = known.unwrap_or_else(|| {
        journals.push((layer, Journal::default()));
        journals.len() - 1
    });
    &mut journals[known].1
}
