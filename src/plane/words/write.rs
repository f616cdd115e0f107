//! Changing cells, chunks and tracts.

use super::table::{Held, Leaf, Node};
use super::{Absence, AbsentError, Chunk, Stamp, Words};
use crate::units::{CellPos, CellRect, ChunkPos, TractPos};

// Cells.
impl Words {
    /// Changes a cell and gives the value it had.
    pub(crate) fn set(&mut self, cell: CellPos, value: u32) -> Result<u32, AbsentError> {
        self.set_stamped(cell, value, Stamp::next())
    }

    /// Gives every cell of a rectangle the same value. Chunks that hold it already keep their
    /// stamp.
    pub(crate) fn fill(&mut self, rect: CellRect, value: u32) -> Result<(), AbsentError> {
        self.check_here(rect)?;
        let stamp = Stamp::next();
        if value == 0 {
            // What there is not holds it already.
            for at in self.known_tracts(rect) {
                self.fill_in_tract(at, rect, value, stamp);
            }
        } else {
            for at in rect.tracts() {
                self.fill_in_tract(at, rect, value, stamp);
            }
        }
        Ok(())
    }

    fn fill_in_tract(&mut self, at: TractPos, rect: CellRect, value: u32, stamp: Stamp) {
        if rect.contains_rect(at.cells()) {
            self.fill_tract(at, value, stamp);
            return;
        }
        for chunk in rect.intersection(at.cells()).chunks() {
            self.fill_chunk(chunk, rect, value, stamp);
        }
    }

    /// Writes values into a rectangle, row by row. Where there are fewer values than cells, the
    /// rest of the cells stays as it is; values that are left over are not looked at. Chunks that
    /// hold the values already keep their stamp.
    pub(crate) fn write_rect(&mut self, rect: CellRect, values: &[u32]) -> Result<(), AbsentError> {
        self.check_here(rect)?;
        self.write_stamped(rect, values, Stamp::next());
        Ok(())
    }

    /// Writes values into a rectangle whose chunks are here.
    pub(crate) fn write_stamped(&mut self, rect: CellRect, values: &[u32], stamp: Stamp) {
        // Not more than there are values for, however large the rectangle is.
        let columns = u32::try_from(values.len()).unwrap_or(u32::MAX);
        let rows = columns.div_ceil(rect.width().max(1));
        let size = (columns.min(rect.width()), rows.min(rect.height()));
        let used = CellRect::new(rect.corner(), size.0, size.1);
        for at in used.tracts() {
            let part = used.intersection(at.cells());
            // As long as nothing changes, nothing is stamped, nor parted from clones.
            let (leaf, hash) = self.root.leaf(at);
            let entry = leaf.first(at, hash);
            let holds = |(start, row): &(CellPos, &[u32])| {
                row_parts(*start, row).all(|(start, part)| {
                    leaf.chunk(entry, start.chunk(), hash).holds(start.index_in_chunk(), part)
                })
            };
            let rows = || rows_of(part, rect, values);
            let Some(first) = rows().position(|row| !holds(&row)) else { continue };
            let (leaf, hash) = self.leaf_mut(at, stamp);
            let tract = leaf.tract_mut(at, hash);
            for (start, row) in rows().skip(first) {
                for (start, part) in row_parts(start, row) {
                    let index = start.index_in_chunk();
                    tract.change(start.chunk(), stamp, |chunk| chunk.write_slice(index, part));
                }
            }
        }
    }

    pub(crate) fn set_stamped(
        &mut self,
        cell: CellPos,
        value: u32,
        stamp: Stamp,
    ) -> Result<u32, AbsentError> {
        let before = self.get(cell).or_absent(cell.chunk())?;
        if before != value {
            self.put_stamped(cell, value, stamp);
        }
        Ok(before)
    }

    /// Gives a cell whose chunk is here another value than it has.
    pub(crate) fn put_stamped(&mut self, cell: CellPos, value: u32, stamp: Stamp) {
        let (leaf, hash) = self.leaf_mut(cell.tract(), stamp);
        leaf.set(cell, hash, value, stamp);
    }

    /// Fills the part of a chunk that lies in `rect`; the chunk must be here.
    pub(crate) fn fill_chunk(&mut self, pos: ChunkPos, rect: CellRect, value: u32, stamp: Stamp) {
        let part = rect.intersection(pos.cells());
        if part.is_empty() || self.chunk(pos).part_holds(part, value) {
            return;
        }
        self.change_chunk(pos, stamp, |chunk| chunk.fill(part, value));
    }
}

/// The values for each row of a part of a rectangle, with the first cell of the row.
fn rows_of(
    part: CellRect,
    rect: CellRect,
    values: &[u32],
) -> impl Iterator<Item = (CellPos, &[u32])> {
    let (width, column) = (rect.width() as usize, part.left().abs_diff(rect.left()) as usize);
    (part.top()..part.bottom()).map_while(move |y| {
        let row = values.get(y.abs_diff(rect.top()) as usize * width + column..)?;
        let row = &row[..row.len().min(part.width() as usize)];
        Some((CellPos::within_limits(part.left(), y), row))
    })
}

/// A row cut at the borders of chunks, with the first cell of each part.
#[inline]
fn row_parts(mut start: CellPos, mut values: &[u32]) -> impl Iterator<Item = (CellPos, &[u32])> {
    const SIDE: i32 = ChunkPos::SIDE as i32;
    std::iter::from_fn(move || {
        let to_border = SIDE - (start.x() & (SIDE - 1));
        let (part, rest) = values.split_at(values.len().min(to_border as usize));
        let at = start;
        (start, values) = (CellPos::new(at.x() + to_border, at.y()), rest);
        (!part.is_empty()).then_some((at, part))
    })
}

// Chunks and tracts.
impl Words {
    /// Marks a chunk as not here, or as damaged; what it held is given up. A paged world does so,
    /// and brings it back by [`Plane::write_rect`] or [`Plane::fill`] after [`Plane::admit`].
    pub(crate) fn set_absent(&mut self, chunk: ChunkPos, why: Absence) {
        self.replace_chunk(chunk, Chunk::Absent(why), Stamp::next());
    }

    /// Makes a chunk that was not here an ordinary one again, holding the default value. A chunk
    /// that is here stays as it is.
    pub(crate) fn admit(&mut self, chunk: ChunkPos) {
        if matches!(*self.chunk(chunk), Chunk::Absent(_)) {
            self.replace_chunk(chunk, Chunk::default(), Stamp::next());
        }
    }

    /// Marks all chunks of a tract as not here, or as damaged; see [`Plane::set_absent`]. Costs no
    /// look at them.
    pub(crate) fn set_tract_absent(&mut self, tract: TractPos, why: Absence) {
        self.may_be_absent = true;
        self.replace_tract(tract, |stamp| Held::Absent(why, stamp), Stamp::next());
    }

    /// Makes all chunks of a tract that were not here ordinary ones again; see [`Plane::admit`].
    pub(crate) fn admit_tract(&mut self, tract: TractPos) {
        let (leaf, hash) = self.root.leaf(tract);
        if let Some(Held::Absent(..)) = leaf.first(tract, hash).map(|entry| &entry.held) {
            let whole = |stamp| Held::Uniform(0, stamp);
            self.replace_tract(tract, whole, Stamp::next());
            return;
        }
        for chunk in tract.cells().chunks() {
            self.admit(chunk);
        }
    }

    pub(crate) fn replace_chunk(&mut self, pos: ChunkPos, chunk: Chunk, stamp: Stamp) {
        self.swap_chunk(pos, chunk, stamp);
    }

    /// Gives a chunk another content, and gives the one it had.
    pub(crate) fn swap_chunk(&mut self, pos: ChunkPos, mut chunk: Chunk, stamp: Stamp) -> Chunk {
        self.may_be_absent |= matches!(chunk, Chunk::Absent(_));
        self.change_chunk(pos, stamp, |held| std::mem::swap(held, &mut chunk));
        chunk
    }

    /// Changes a chunk, whose tract gets a table of chunks.
    pub(super) fn change_chunk(
        &mut self,
        pos: ChunkPos,
        stamp: Stamp,
        change: impl FnOnce(&mut Chunk),
    ) {
        let (leaf, hash) = self.leaf_mut(pos.tract(), stamp);
        leaf.tract_mut(pos.tract(), hash).change(pos, stamp, |chunk| {
            change(chunk);
            true
        });
    }

    pub(crate) fn fill_tract(&mut self, at: TractPos, value: u32, stamp: Stamp) {
        let (leaf, hash) = self.root.leaf(at);
        let holds = match leaf.first(at, hash).map(|entry| &entry.held) {
            None => value == 0,
            Some(Held::Uniform(held, _)) => *held == value,
            Some(_) => false,
        };
        if !holds {
            self.replace_tract(at, |stamp| Held::Uniform(value, stamp), stamp);
        }
    }

    pub(super) fn replace_tract(
        &mut self,
        at: TractPos,
        held: impl FnOnce(Stamp) -> Held,
        stamp: Stamp,
    ) {
        let (leaf, hash) = self.leaf_mut(at, stamp);
        leaf.replace(at, hash, held(stamp));
    }

    pub(super) fn leaf_mut(
        &mut self,
        at: TractPos,
        stamp: Stamp,
    ) -> (&mut Leaf, super::table::Hash) {
        Node::leaf_mut(&mut self.root, at, stamp)
    }
}
