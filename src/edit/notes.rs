//! What planes held before an edit, noted while it runs.

use rustc_hash::FxHashMap;

use super::error::EditError;
use super::plane_changes::{
    CellsChange, ChunkChange, MAX_CELLS, PlaneChanges, TractChange, Values,
};
use crate::cell_set::{CellSet, check_size, each_of_stroke};
use crate::plane::{AbsentError, Chunk, ChunkBits, Stamp, TractContent, Words};
use crate::units::{CellPos, CellRect, ChunkPos, TractPos};

/// What the touched parts of one plane held before.
#[derive(Debug, Default)]
pub(super) struct Notes {
    /// In tracts that are not noted as a whole.
    chunks: FxHashMap<ChunkPos, Before>,
    /// Whole tracts, shared with the map until they are written to.
    tracts: FxHashMap<TractPos, TractContent>,
    /// Memory to work with.
    scratch: Vec<u32>,
}

#[derive(Debug)]
enum Before {
    Cells(NotedCells),
    /// The whole chunk, shared with the map until it is written to.
    Chunk(Chunk),
}

/// Single cells of a chunk in the order in which they were changed; a cell may come twice.
#[derive(Debug, Default)]
struct NotedCells {
    indexes: Vec<u16>,
    before: Vec<u32>,
    /// The value that all of them hold now, where that is known.
    now: Option<u32>,
}

impl NotedCells {
    fn push(&mut self, index: usize, before: u32) {
        self.indexes.push(index as u16);
        self.before.push(before);
    }

    fn reserve(&mut self, count: usize) {
        self.indexes.reserve(count);
        self.before.reserve(count);
    }

    /// The value that all of them hold once some more hold one.
    fn now_after(&self, value: u32) -> Option<u32> {
        let is_first = self.indexes.is_empty();
        self.now.filter(|now| *now == value).or(is_first.then_some(value))
    }

    fn each(&self) -> impl DoubleEndedIterator<Item = (usize, u32)> + '_ {
        let pairs = self.indexes.iter().zip(&self.before);
        pairs.map(|(index, before)| (usize::from(*index), *before))
    }

    /// The chunk as it was before the noted changes.
    fn former(&self, now: &Chunk) -> Chunk {
        let mut chunk = now.clone();
        for (index, before) in self.each().rev() {
            chunk.set(index, before);
        }
        chunk
    }

    /// The changes from what was noted to what a chunk holds now.
    fn into_change(mut self, pos: ChunkPos, now: &Chunk) -> Option<CellsChange> {
        if let Some(value) = self.now {
            // Noted once each: what holds the one value already is not noted again.
            let NotedCells { indexes, before, .. } = self;
            let (before, after) = (Values::Each(before), Values::All(value));
            return (!indexes.is_empty()).then_some(CellsChange { pos, indexes, before, after });
        }
        if !self.indexes.is_sorted_by(|a, b| a < b) {
            // Stable: the first note of a cell is what it held before the edit.
            let mut each: Vec<(usize, u32)> = self.each().collect();
            each.sort_by_key(|(index, _)| *index);
            each.dedup_by_key(|(index, _)| *index);
            self = NotedCells::default();
            each.into_iter().for_each(|(index, before)| self.push(index, before));
        }
        let (mut indexes, mut olds, mut news) = (Vec::new(), Vec::new(), Vec::new());
        for (index, old) in self.each() {
            if let Some(new) = now.get(index).here().filter(|new| *new != old) {
                indexes.push(index as u16);
                olds.push(old);
                news.push(new);
            }
        }
        let (before, after) = (Values::of(olds), Values::of(news));
        (!indexes.is_empty()).then_some(CellsChange { pos, indexes, before, after })
    }
}

/// Up to so many cells of a chunk, asking each is quicker than asking all of the chunk.
const FEW: u32 = 256;

// Change a plane.
impl Notes {
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
            self.note_cell(plane, cell, before, value);
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
            let each = each.map(|pos| (pos, others(&plane.chunk(pos), &ChunkBits::ALL, value)));
            changed.extend(each.filter(|(_, bits)| !bits.is_none()));
            if changed.len() > before {
                self.fill_tract(plane, *at, value, stamp);
            }
        }
        let mut are_all = whole.is_empty();
        for (pos, bits) in set.chunks() {
            if !whole.is_empty() && whole.binary_search(&pos.tract()).is_ok() {
                continue;
            }
            let others = self.note_others(plane, pos, &bits, value);
            let is_same = others == bits;
            if are_all && !is_same {
                // Up to here they were, so they need not be gathered.
                changed.extend(set.chunks().take_while(|(before, _)| *before != pos));
            }
            are_all &= is_same;
            if !others.is_none() {
                plane.fill_bits(pos, &others, value, stamp);
                if !are_all {
                    changed.push((pos, others));
                }
            }
        }
        Ok(if are_all { set.clone() } else { CellSet::of_chunks(changed) })
    }

    /// Puts a value into the cells of straight lines from each cell to the next, and returns how many held
    /// another one.
    pub(super) fn stroke(
        &mut self,
        layer: &str,
        plane: &mut Words,
        cells: impl IntoIterator<Item = CellPos> + Clone,
        value: u32,
    ) -> Result<u64, EditError> {
        if plane.may_be_absent() {
            let changed = self.fill_set(layer, plane, &CellSet::stroke(cells)?, value)?;
            return Ok(changed.len());
        }
        let stamp = Stamp::next();
        let mut changed = 0;
        each_of_stroke(cells, |pos, places| {
            if places.is_empty() {
                return;
            }
            if let Some(Before::Cells(cells)) = self.of_chunk(pos)
                && cells.indexes.len() + places.len() <= MAX_CELLS
            {
                let noted = cells.indexes.len();
                cells.reserve(ChunkPos::SIDE as usize);
                cells.now = cells.now_after(value);
                let into = (&mut cells.indexes, &mut cells.before);
                plane.exchange(pos, places, value, stamp, into);
                changed += (cells.indexes.len() - noted) as u64;
            } else {
                self.note_chunk(plane, pos);
                let (mut indexes, mut before) = (Vec::new(), Vec::new());
                plane.exchange(pos, places, value, stamp, (&mut indexes, &mut before));
                changed += indexes.len() as u64;
            }
        })?;
        Ok(changed)
    }

    /// Puts values into the cells of a set, and returns those that held others. `value` is asked cell by
    /// cell, chunk by chunk, for the value that follows the one that is held.
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
            bits.indexes().for_each(|index| {
                let new = value(pos.cell_at_index(index), values[index]);
                if new != values[index] {
                    values[index] = new;
                    others.insert(index);
                }
            });
            if !others.is_none() {
                self.note_bits(plane, pos, &others, None);
                plane.write_stamped(pos.cells(), &values, stamp);
                changed.push((pos, others));
            }
        }
        Ok(CellSet::of_chunks(changed))
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

/// Those of some cells of a chunk that do not hold a value.
fn others(held: &Chunk, bits: &ChunkBits, value: u32) -> ChunkBits {
    bits.zip(&held.bits_where(|held| held == value), |bits, held| bits & !held)
}

// Note.
impl Notes {
    /// What is noted of a chunk, to be added to; `None` where its tract is noted as a whole.
    fn of_chunk(&mut self, pos: ChunkPos) -> Option<&mut Before> {
        if !self.tracts.is_empty() && self.tracts.contains_key(&pos.tract()) {
            return None;
        }
        Some(self.chunks.entry(pos).or_insert_with(|| Before::Cells(NotedCells::default())))
    }

    /// Notes what a cell holds, before it is changed.
    fn note_cell(&mut self, plane: &Words, cell: CellPos, before: u32, after: u32) {
        let pos = cell.chunk();
        let Some(held) = self.of_chunk(pos) else { return };
        if let Before::Cells(cells) = held {
            if cells.indexes.len() >= MAX_CELLS {
                *held = Before::Chunk(cells.former(&plane.chunk(pos)));
            } else {
                cells.now = cells.now.filter(|now| *now == after);
                cells.push(cell.index_in_chunk(), before);
            }
        }
    }

    /// Notes those of some cells of a chunk that do not hold a value, before they get it, and returns them.
    fn note_others(
        &mut self,
        plane: &Words,
        pos: ChunkPos,
        bits: &ChunkBits,
        value: u32,
    ) -> ChunkBits {
        let chunk = plane.chunk(pos);
        let count = bits.count();
        let Some(Before::Cells(cells)) = self.of_chunk(pos) else {
            return others(&chunk, bits, value);
        };
        if count > FEW || cells.indexes.len() + count as usize > MAX_CELLS {
            let others = others(&chunk, bits, value);
            self.note_bits(plane, pos, &others, Some(value));
            return others;
        }
        cells.now = cells.now_after(value);
        cells.reserve(count as usize);
        chunk.others(bits, value, &mut cells.indexes, &mut cells.before)
    }

    /// Notes what some cells of a chunk hold, before they are changed: all to one value, where it is known.
    fn note_bits(&mut self, plane: &Words, pos: ChunkPos, bits: &ChunkBits, after: Option<u32>) {
        let Some(Before::Cells(cells)) = self.of_chunk(pos) else { return };
        if cells.indexes.len() + bits.count() as usize > MAX_CELLS {
            self.note_chunk(plane, pos);
            return;
        }
        cells.now = after.and_then(|after| cells.now_after(after));
        let chunk = plane.chunk(pos);
        bits.indexes().for_each(|index| {
            if let Some(before) = chunk.get(index).here() {
                cells.push(index, before);
            }
        });
    }

    /// Notes the cells of a part of a chunk that are about to change. `values` are the new ones, for
    /// the whole rectangle that the part was cut from.
    fn note_part(&mut self, plane: &Words, part: CellRect, rect: CellRect, values: &[u32]) {
        let pos = part.corner().chunk();
        let mut scratch = std::mem::take(&mut self.scratch);
        if let Some(held) = self.of_chunk(pos) {
            held.add_part(&mut scratch, &plane.chunk(pos), part, rect, values);
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
            Some(Before::Cells(cells)) => cells.former(&now),
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
        for (pos, before) in self.chunks.extract_if(|pos, _| pos.tract() == at) {
            let before = match before {
                Before::Chunk(before) => before,
                Before::Cells(cells) => cells.former(&plane.chunk(pos)),
            };
            content.put_chunk(at, pos, before);
        }
        self.tracts.insert(at, content);
    }

    /// The changes from what was noted to what the plane holds now, tracts, chunks and cells in order.
    pub(super) fn into_changes(self, plane: &Words) -> PlaneChanges {
        let mut changes = PlaneChanges::default();
        let mut tracts: Vec<(TractPos, TractContent)> = self.tracts.into_iter().collect();
        tracts.sort_unstable_by_key(|(at, _)| *at);
        changes.tracts.extend(tracts.into_iter().filter_map(|(at, before)| {
            let after = plane.tract_content(at);
            before.difference(&after, at).map(|_| TractChange { at, before, after })
        }));
        let mut chunks: Vec<(ChunkPos, Before)> = self.chunks.into_iter().collect();
        chunks.sort_unstable_by_key(|(pos, _)| *pos);
        for (pos, before) in chunks {
            let now = plane.chunk(pos);
            match before {
                Before::Cells(cells) => changes.cells.extend(cells.into_change(pos, &now)),
                Before::Chunk(before) if !before.same(&now) => {
                    changes.chunks.push(ChunkChange { pos, before, after: now.into_owned() });
                }
                Before::Chunk(_) => {}
            }
        }
        changes
    }
}

impl Before {
    /// Adds what the cells of a part of a chunk hold that are about to change.
    fn add_part(
        &mut self,
        scratch: &mut Vec<u32>,
        now: &Chunk,
        part: CellRect,
        rect: CellRect,
        values: &[u32],
    ) {
        let Before::Cells(cells) = self else { return };
        cells.now = None;
        let corner = part.corner().chunk().corner();
        let (width, part_width) = (rect.width() as usize, part.width() as usize);
        scratch.clear();
        scratch.resize(part_width * part.height() as usize, 0);
        now.copy_part(part.moved(CellPos::ORIGIN - corner), scratch, part_width);
        let noted = cells.indexes.len();
        let (column, row) = (part.left().abs_diff(rect.left()), part.top().abs_diff(rect.top()));
        let new_rows = values[column as usize..].chunks(width).skip(row as usize);
        for ((row, new), before) in (part.top()..).zip(new_rows).zip(scratch.chunks(part_width)) {
            let first = CellPos::new(part.left(), row).index_in_chunk();
            for ((before, new), index) in before.iter().zip(new).zip(first..) {
                if before != new {
                    cells.push(index, *before);
                }
            }
            if cells.indexes.len() > MAX_CELLS {
                cells.indexes.truncate(noted);
                cells.before.truncate(noted);
                *self = Before::Chunk(cells.former(now));
                return;
            }
        }
    }
}

/// The notes of the layer in a place, begun when there are none.
pub(super) fn notes_of(notes: &mut Vec<(usize, Notes)>, layer: usize) -> &mut Notes {
    let known = notes.iter().position(|(held, _)| *held == layer);
    let known = known.unwrap_or_else(|| {
        notes.push((layer, Notes::default()));
        notes.len() - 1
    });
    &mut notes[known].1
}
