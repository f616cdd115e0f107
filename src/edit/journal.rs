//! The values of cells before an edit, kept while it runs.

use rustc_hash::FxHashMap;

use super::error::EditError;
use super::plane_changes::{CellChange, ChunkChange, PlaneChanges};
use crate::plane::{Chunk, Stamp, Words};
use crate::units::{CellPos, CellRect, ChunkPos};

/// What the touched chunks of one plane held before.
#[derive(Debug, Default)]
pub(super) struct Journal {
    chunks: FxHashMap<ChunkPos, Before>,
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

/// The most chunks that one fill may touch.
pub(super) const MAX_CHUNKS: u64 = 1 << 20;

/// Checks that a fill does not touch too many chunks.
pub(super) fn check_size(rect: CellRect) -> Result<(), EditError> {
    if rect.chunk_count() > MAX_CHUNKS {
        return Err(EditError::TooLarge { rect, most: MAX_CHUNKS });
    }
    Ok(())
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
        for pos in rect.chunks() {
            self.note_chunk(plane, pos);
            plane.fill_chunk(pos, rect, value, stamp);
        }
        Ok(())
    }

    /// Notes what a cell holds, before it is changed.
    fn note_cell(&mut self, plane: &Words, cell: CellPos, before: u32) {
        let pos = cell.chunk();
        let held = self.chunks.entry(pos).or_insert_with(|| Before::Cells(Vec::new()));
        if let Before::Cells(cells) = held {
            if cells.len() >= MAX_CELLS {
                *held = Before::Chunk(former(&plane.chunk(pos), cells));
            } else {
                cells.push((cell.index_in_chunk() as u16, before));
            }
        }
    }

    /// Notes the cells of a part of a chunk that are about to change. `values` are the new ones, for
    /// the whole rectangle that the part was cut from.
    fn note_part(&mut self, plane: &Words, part: CellRect, rect: CellRect, values: &[u32]) {
        let Journal { chunks, scratch } = self;
        let pos = part.corner().chunk();
        let held = chunks.entry(pos).or_insert_with(|| Before::Cells(Vec::new()));
        let Before::Cells(cells) = held else { return };
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

    /// Notes what a chunk holds, before all or much of it is changed.
    fn note_chunk(&mut self, plane: &Words, pos: ChunkPos) {
        let now = plane.chunk(pos);
        let before = match self.chunks.get(&pos) {
            Some(Before::Chunk(_)) => return,
            Some(Before::Cells(cells)) => former(&now, cells),
            None => now.into_owned(),
        };
        self.chunks.insert(pos, Before::Chunk(before));
    }

    /// The changes from what was noted to what the plane holds now, chunk by chunk in order.
    pub(super) fn into_changes(self, plane: &Words) -> PlaneChanges {
        let mut noted: Vec<(ChunkPos, Before)> = self.chunks.into_iter().collect();
        noted.sort_unstable_by_key(|(pos, _)| *pos);
        let mut changes = PlaneChanges { cells: Vec::new(), chunks: Vec::new() };
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

/// A chunk as it was before the noted changes.
fn former(now: &Chunk, noted: &[(u16, u32)]) -> Chunk {
    let mut chunk = now.clone();
    for &(index, before) in noted.iter().rev() {
        chunk.set(index.into(), before);
    }
    chunk
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
