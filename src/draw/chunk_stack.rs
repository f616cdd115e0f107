//! The list of one chunk: the cells of all layers on the same lattice edges, without
//! those that cannot be seen.

use std::ops::Range;

use super::figures::DrawFigures;
use super::level_set::LevelSet;
use super::map_facts::{LayerLevels, MapFacts};
use super::row::{LayerRow, RowCounts, RowLister, StackEntry};
use crate::plane::{Chunk, Plane, RunValues, Stamp, Word};
use crate::quilt::Layer;
use crate::tile::Cell;
use crate::units::{CellRect, ChunkPos};

/// What is to be drawn of a chunk, and from what it was found.
#[derive(Clone, Debug)]
pub(crate) struct ChunkStack {
    pub(crate) pos: ChunkPos,
    /// By layer: the chunk, and its stamp.
    stamps: Vec<Stamp>,
    chunks: Vec<Chunk>,
    /// When it was found: another one for other entries.
    pub(crate) built: Stamp,
    /// What it was before, the latest last, and in which cells that has changed.
    changes: Vec<(Stamp, CellRect)>,
    /// By row: cell by cell, each from the lowest level to the topmost. Each row by itself, so that
    /// the cells of an edit move no others.
    rows: Box<[Vec<StackEntry>]>,
    /// Cells whose tiles are larger than they, in the same order.
    pub(super) oversize: Vec<StackEntry>,
    /// The levels of the entries; some may have none any more.
    pub(super) used: LevelSet,
    /// The rows with cells that show other pixels as time goes on, a bit for each; some may have
    /// none any more.
    animated_rows: u64,
    counts: RowCounts,
    /// How many cells are listed, and how many bytes all that takes.
    pub(super) listed: usize,
    pub(super) bytes: usize,
}

/// Rows of a layer.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Member {
    pub(crate) layer: u32,
    pub(crate) levels: LayerLevels,
    /// From the first up to, but not with, the second.
    pub(super) rows: (i32, i32),
}

impl Member {
    /// The part of some cells that belongs to it.
    pub(crate) fn rows_of(&self, cells: CellRect) -> CellRect {
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

/// Where chunks are listed from, and how.
#[derive(Clone, Copy)]
pub(super) struct Sources<'a> {
    pub(super) members: &'a [Member],
    pub(super) layers: &'a [Layer],
    pub(super) map_facts: &'a MapFacts,
    pub(super) remove_hidden: bool,
}

/// Memory to work with.
#[derive(Clone, Debug, Default)]
pub(super) struct Scratch {
    lister: RowLister,
    unpacked: Vec<Cell>,
    /// The cells of a chunk, layer by layer, each row by row.
    cells: Vec<[Cell; SIDE]>,
    entries: Vec<StackEntry>,
    /// Entries, and those of tiles that are larger than their cell, of one row.
    of_row: (Vec<StackEntry>, Vec<StackEntry>),
    /// The members that have changed in a chunk, and the cells.
    members: Vec<usize>,
    changed: Vec<u16>,
}

/// A layer that has something in a chunk.
#[derive(Clone, Copy)]
struct RowLayer {
    levels: LayerLevels,
    /// Where its rows begin in the scratch memory.
    first: usize,
}

const SIDE: usize = ChunkPos::SIDE as usize;

// Count.
impl ChunkStack {
    /// Adds what was counted of it.
    pub(super) fn add_to(&self, figures: &mut DrawFigures) {
        let counts = self.counts();
        figures.chunks += 1;
        figures.chunks_animated += usize::from(self.is_animated());
        figures.clear += counts.clear as usize;
        figures.hidden += counts.hidden as usize;
        figures.cells += self.listed + (counts.clear + counts.hidden) as usize;
        figures.bytes += self.bytes;
    }
}

// Make.
impl ChunkStack {
    /// Finds what is to be drawn of a chunk.
    pub(super) fn build(pos: ChunkPos, sources: Sources<'_>, scratch: &mut Scratch) -> ChunkStack {
        let held = scratch.read(pos, sources);
        let Scratch { lister, cells, entries, .. } = scratch;
        let mut rows = Vec::with_capacity(SIDE);
        let (mut oversize, mut counts) = (Vec::new(), RowCounts::default());
        let mut animated_rows = 0;
        let mut layers = Vec::with_capacity(held.len());
        lister.used.clear();
        for row in 0..SIDE {
            entries.clear();
            layers.clear();
            let cells = |layer: &RowLayer| &cells[layer.first + row];
            layers.extend(held.iter().map(|h| LayerRow { levels: h.levels, cells: cells(h) }));
            let all = (row, u64::MAX);
            let of_row = lister.list(&layers, all, sources.how(), entries, &mut oversize);
            animated_rows |= u64::from(of_row.animated > 0) << row;
            counts += of_row;
            rows.push(entries.clone());
        }
        oversize.sort_unstable_by_key(|entry| (entry.index, entry.level));
        let mut stack = ChunkStack {
            pos,
            stamps: { sources.members.iter() }
                .map(|member| sources.cells(member).chunk_stamp(pos))
                .collect(),
            chunks: sources.members.iter().map(|member| sources.chunk(member, pos)).collect(),
            built: Stamp::next(),
            changes: Vec::new(),
            rows: rows.into_boxed_slice(),
            oversize,
            used: lister.used.clone(),
            animated_rows,
            counts,
            listed: 0,
            bytes: 0,
        };
        stack.count();
        stack
    }

    /// Brings it up to date, and says whether it has changed. Only members are looked at that are
    /// said to have changed; of a few changed cells only those, and what lies in their rows.
    pub(super) fn refresh(
        &mut self,
        sources: Sources<'_>,
        changed: &[bool],
        scratch: &mut Scratch,
    ) -> bool {
        scratch.members.clear();
        for (number, member) in sources.members.iter().enumerate().filter(|(at, _)| changed[*at]) {
            let now = sources.cells(member).chunk_stamp(self.pos);
            if std::mem::replace(&mut self.stamps[number], now) != now {
                scratch.members.push(number);
            }
        }
        if scratch.members.is_empty() {
            return false;
        }
        if scratch.find_changed(self.pos, sources, &self.chunks).is_none() {
            *self = ChunkStack::build(self.pos, sources, scratch);
            return true;
        }
        let cells = std::mem::take(&mut scratch.changed);
        let rows = || cells.chunk_by(|a, b| place(*a).0 == place(*b).0);
        for of_row in rows() {
            self.counts -= self.list_row(of_row, sources, scratch);
        }
        for number in &scratch.members {
            self.chunks[*number] = sources.chunk(&sources.members[*number], self.pos);
        }
        let mut rect = CellRect::EMPTY;
        scratch.lister.used.copy(&self.used);
        for of_row in rows() {
            let counts = self.list_row(of_row, sources, scratch);
            self.animated_rows |= u64::from(counts.animated > 0) << place(of_row[0]).0;
            self.counts += counts;
            if self.put_row(of_row, scratch) {
                let cell = |index: u16| self.pos.cell_at_index(index.into());
                let row = CellRect::between(cell(of_row[0]), cell(of_row[of_row.len() - 1]));
                rect = rect.union(row);
            }
        }
        scratch.changed = cells;
        self.used.copy(&scratch.lister.used);
        if rect.is_empty() {
            return false;
        }
        if self.changes.len() == Self::MAX_CHANGES {
            self.changes.remove(0);
        }
        self.changes.push((self.built, rect));
        self.built = Stamp::next();
        self.count();
        true
    }

    /// Counts what it holds, for figures.
    fn count(&mut self) {
        self.listed = self.rows.iter().map(Vec::len).sum::<usize>() + self.oversize.len();
        let rows = self.rows.iter().map(Vec::capacity).sum::<usize>();
        let sources = size_of::<Stamp>() + size_of::<Chunk>();
        self.bytes = (rows + self.oversize.capacity()) * size_of::<StackEntry>()
            + self.rows.len() * size_of::<Vec<StackEntry>>()
            + self.stamps.capacity() * sources;
    }

    /// So many changes are known: of more pictures that are behind, the chunk is drawn as a whole.
    const MAX_CHANGES: usize = 8;

    /// Lists some cells of a row from what it holds of the layers.
    fn list_row(&self, wanted: &[u16], sources: Sources<'_>, scratch: &mut Scratch) -> RowCounts {
        let Scratch { lister, of_row: (entries, oversize), cells, .. } = scratch;
        entries.clear();
        oversize.clear();
        cells.clear();
        let held = self.chunks.iter().zip(sources.members);
        cells.extend(held.map(|(chunk, member)| cells_of(chunk, wanted, self.pos, member)));
        let layers: Vec<LayerRow<'_>> = { cells.iter().zip(sources.members) }
            .map(|(cells, member)| LayerRow { levels: member.levels, cells })
            .collect();
        let mask = wanted.iter().fold(0, |mask, index| mask | 1 << place(*index).1);
        lister.list(&layers, (place(wanted[0]).0, mask), sources.how(), entries, oversize)
    }

    /// Puts cells of a row that were just listed in place of what it has of them, and says whether
    /// that made a difference.
    fn put_row(&mut self, listed: &[u16], scratch: &mut Scratch) -> bool {
        let row = place(listed[0]).0;
        let (entries, oversize) = &mut scratch.of_row;
        oversize.sort_unstable_by_key(|entry| (entry.index, entry.level));
        let mut is_other = false;
        for index in listed {
            is_other |= put_cell(&mut self.rows[row], *index, entries);
            is_other |= put_cell(&mut self.oversize, *index, oversize);
        }
        is_other
    }
}

/// Puts what was listed of a cell in place of what is held of it, and says whether that made a
/// difference. Both are in order.
fn put_cell(held: &mut Vec<StackEntry>, index: u16, listed: &[StackEntry]) -> bool {
    let (own, new) = (of_cell(held, index), &listed[of_cell(listed, index)]);
    if held[own.clone()] == *new {
        return false;
    }
    if own.len() == new.len() {
        held[own].copy_from_slice(new);
    } else {
        held.splice(own, new.iter().copied());
    }
    true
}

/// Where the entries of a cell lie among others, which are in order.
fn of_cell(entries: &[StackEntry], index: u16) -> Range<usize> {
    let from = entries.partition_point(|entry| entry.index < index);
    let count = entries[from..].iter().take_while(|entry| entry.index == index).count();
    from..from + count
}

// Read.
impl ChunkStack {
    /// The entries of a row of the chunk, 0 to 63.
    pub(super) fn row(&self, row: usize) -> &[StackEntry] {
        &self.rows[row]
    }

    /// The entries of rows of the chunk, 0 to 63.
    pub(super) fn entries(&self, rows: Range<usize>) -> impl Iterator<Item = &StackEntry> {
        self.rows[rows.start..rows.end.max(rows.start)].iter().flatten()
    }

    /// The entries of rows with cells that show other pixels as time goes on.
    pub(crate) fn entries_with_animated(&self) -> impl Iterator<Item = &StackEntry> {
        let rows = self.rows.iter().enumerate();
        rows.filter(|(row, _)| self.animated_rows >> row & 1 == 1).flat_map(|(_, row)| row)
    }

    /// The entries of a cell, from the lowest level to the topmost.
    pub(super) fn of_cell(&self, index: u16) -> &[StackEntry] {
        let row = self.row(place(index).0);
        &row[of_cell(row, index)]
    }

    /// The entries of the rows of some cells of the chunk, and of those whose tiles are larger.
    pub(super) fn entries_in(&self, cells: CellRect) -> impl Iterator<Item = &StackEntry> {
        let first = place(cells.corner().index_in_chunk() as u16).0;
        let end = if cells.is_empty() { first } else { first + cells.height() as usize };
        let before =
            |row: usize| self.oversize.partition_point(|entry| usize::from(entry.row()) < row);
        self.entries(first..end).chain(&self.oversize[before(first)..before(end)])
    }

    /// The cells in which it has changed since it was found with a stamp; `None` where that is not
    /// known.
    pub(crate) fn changed_since(&self, built: Stamp) -> Option<CellRect> {
        if built == self.built {
            return Some(CellRect::EMPTY);
        }
        let from = self.changes.iter().position(|(before, _)| *before == built)?;
        Some(self.changes[from..].iter().fold(CellRect::EMPTY, |all, (_, rect)| all.union(*rect)))
    }

    /// Whether any of its cells shows other pixels as time goes on.
    pub(crate) const fn is_animated(&self) -> bool {
        self.counts.animated > 0
    }

    /// What was left out.
    pub(super) const fn counts(&self) -> RowCounts {
        self.counts
    }
}

impl<'a> Sources<'a> {
    fn how(self) -> (&'a MapFacts, bool) {
        (self.map_facts, self.remove_hidden)
    }

    fn cells(self, member: &Member) -> &'a Plane<Cell> {
        self.layers[member.layer as usize].cells()
    }

    fn chunk(self, member: &Member, pos: ChunkPos) -> Chunk {
        self.cells(member).chunk(pos).into_owned()
    }
}

impl Scratch {
    /// Reads the cells of a chunk, of each layer that has any.
    fn read(&mut self, pos: ChunkPos, sources: Sources<'_>) -> Vec<RowLayer> {
        let Scratch { unpacked, cells, .. } = self;
        cells.clear();
        let mut held = Vec::with_capacity(sources.members.len());
        for member in sources.members {
            let first = cells.len();
            let plane = sources.cells(member);
            plane.read_blocks(member.rows_of(pos.cells()), unpacked, |run| {
                if run.values == RunValues::Uniform(Cell::EMPTY) {
                    return;
                }
                cells.resize(first + SIDE, [Cell::EMPTY; SIDE]);
                // A run spans whole rows of the chunk.
                let start = run.cells.corner().index_in_chunk();
                let cells = cells[first..].as_flattened_mut();
                let target = &mut cells[start..start + run.cells.cell_count() as usize];
                match run.values {
                    RunValues::Uniform(cell) => target.fill(cell),
                    RunValues::Slice(values) => target.copy_from_slice(values),
                    RunValues::Absent(_) => target.fill(Cell::ABSENT),
                }
            });
            if cells.len() > first {
                held.push(RowLayer { levels: member.levels, first });
            }
        }
        held
    }

    /// Finds the cells in which members that have changed are not what they were, in order; `None` where there are many,
    /// or where it is loaded now and was not, or the other way round.
    fn find_changed(
        &mut self,
        pos: ChunkPos,
        sources: Sources<'_>,
        before: &[Chunk],
    ) -> Option<()> {
        // From so many on, listing all is as cheap.
        const MAX: usize = 64;
        self.changed.clear();
        for number in &self.members {
            let now = sources.cells(&sources.members[*number]).chunk(pos);
            now.add_differing(&before[*number], MAX, &mut self.changed)?;
        }
        self.changed.sort_unstable();
        self.changed.dedup();
        Some(())
    }
}

/// What a layer has in some cells of one row of a chunk; the others are left empty.
fn cells_of(chunk: &Chunk, wanted: &[u16], pos: ChunkPos, member: &Member) -> [Cell; SIDE] {
    let mut cells = [Cell::EMPTY; SIDE];
    let row = pos.cell_at_index(wanted[0].into()).y();
    if (member.rows.0..member.rows.1).contains(&row) {
        for index in wanted {
            let held = chunk.get((*index).into()).here().map_or(Cell::ABSENT, Cell::of_word);
            cells[place(*index).1] = held;
        }
    }
    cells
}

/// The row and the column of a cell in its chunk.
fn place(index: u16) -> (usize, usize) {
    (usize::from(index) / SIDE, usize::from(index) % SIDE)
}
