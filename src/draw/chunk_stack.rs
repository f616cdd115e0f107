//! The list of one chunk: the cells of all layers on the same lattice edges, without
//! those that cannot be seen.

use std::ops::Range;

use super::figures::DrawFigures;
use super::level_set::LevelSet;
use super::map_facts::{LayerLevels, MapFacts};
use super::row::{LayerRow, RowCounts, RowLister, StackEntry};
use super::slant::RankSpan;
use crate::plane::{Chunk, Plane, RunValues, Stamp, Word};
use crate::quilt::Layer;
use crate::tile::Cell;
use crate::units::{CellRect, ChunkPos};
use crate::view::Facing;

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
    /// By rank: cell by cell, each from the lowest level to the topmost. Each rank by itself, so that
    /// the cells of an edit move no others. From above a rank is a row, at a slant a diagonal.
    ranks: Box<[Vec<StackEntry>]>,
    is_slanted: bool,
    /// Which columns of each row are listed, a bit for each; `None` for all.
    listed_columns: Option<Box<[u64; SIDE]>>,
    /// Cells whose tiles are larger than they, in the same order.
    pub(super) oversize: Vec<StackEntry>,
    /// The levels of the entries; some may have none any more.
    pub(super) used: LevelSet,
    /// The ranks with cells that show other pixels as time goes on, a bit for each; some may have
    /// none any more.
    animated_ranks: u128,
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
    /// How the map is turned. Chunks and cells are those of the map after that.
    pub(super) facing: Facing,
    /// The cells that are listed, where not all are.
    pub(super) span: Option<RankSpan>,
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
        let listed_columns = sources.listed_columns(pos);
        let Scratch { lister, cells, entries, .. } = scratch;
        let is_slanted = sources.map_facts.diamond.is_some();
        let mut ranks = vec![Vec::new(); rank_count(is_slanted)];
        let (mut oversize, mut counts) = (Vec::new(), RowCounts::default());
        let mut animated_ranks = 0;
        let mut layers = Vec::with_capacity(held.len());
        lister.used.clear();
        entries.clear();
        for row in 0..SIDE {
            layers.clear();
            let cells = |layer: &RowLayer| &cells[layer.first + row];
            layers.extend(held.iter().map(|h| LayerRow { levels: h.levels, cells: cells(h) }));
            let wanted = listed_columns.map_or(u64::MAX, |columns| columns[row]);
            if wanted == 0 {
                continue;
            }
            let of_row = lister.list(&layers, (row, wanted), sources.how(), entries, &mut oversize);
            counts += of_row;
            if is_slanted {
                let all = if of_row.animated > 0 { u64::MAX } else { 0 };
                animated_ranks |= u128::from(all) << row;
            } else {
                animated_ranks |= u128::from(of_row.animated > 0) << row;
                ranks[row] = entries.clone();
                entries.clear();
            }
        }
        if is_slanted {
            divide_into(&mut ranks, entries);
        }
        oversize.sort_unstable_by_key(|entry| (entry.index, entry.level));
        let mut stack = ChunkStack {
            pos,
            stamps: { sources.members.iter() }.map(|member| sources.stamp(member, pos)).collect(),
            chunks: sources.members.iter().map(|member| sources.chunk(member, pos)).collect(),
            built: Stamp::next(),
            changes: Vec::new(),
            ranks: ranks.into_boxed_slice(),
            is_slanted,
            listed_columns: listed_columns.map(Box::new),
            oversize,
            used: lister.used.clone(),
            animated_ranks,
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
        if sources.listed_columns(self.pos).as_ref() != self.listed_columns.as_deref() {
            // Other cells of it are near the view now. What was shown before is as it was, unless a
            // member has changed as well.
            let before = (self.built, std::mem::take(&mut self.changes));
            let had = std::mem::take(&mut self.stamps);
            *self = ChunkStack::build(self.pos, sources, scratch);
            if self.stamps == had {
                self.changes = before.1;
                self.note_change((before.0, CellRect::EMPTY));
            }
            return true;
        }
        scratch.members.clear();
        for (number, member) in sources.members.iter().enumerate().filter(|(at, _)| changed[*at]) {
            let now = sources.stamp(member, self.pos);
            if std::mem::replace(&mut self.stamps[number], now) != now {
                scratch.members.push(number);
            }
        }
        if scratch.members.is_empty() {
            return false;
        }
        if scratch.find_changed(self.pos, sources, &self.chunks).is_none() {
            let built = ChunkStack::build(self.pos, sources, scratch);
            let had = std::mem::replace(self, built);
            if (&self.ranks, &self.oversize) == (&had.ranks, &had.oversize) {
                (self.built, self.changes) = (had.built, had.changes);
                return false;
            }
            return true;
        }
        let mut cells = std::mem::take(&mut scratch.changed);
        if let Some(columns) = &self.listed_columns {
            cells.retain(|index| {
                let (row, column) = place(*index);
                columns[row] >> column & 1 == 1
            });
        }
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
            if counts.animated > 0 {
                for index in of_row {
                    self.animated_ranks |= 1 << self.rank_of(*index);
                }
            }
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
        self.note_change((self.built, rect));
        self.built = Stamp::next();
        self.count();
        true
    }

    /// Notes what it was before, and in which cells that has changed.
    fn note_change(&mut self, change: (Stamp, CellRect)) {
        if self.changes.len() == Self::MAX_CHANGES {
            self.changes.remove(0);
        }
        self.changes.push(change);
    }

    /// Counts what it holds, for figures.
    fn count(&mut self) {
        self.listed = self.ranks.iter().map(Vec::len).sum::<usize>() + self.oversize.len();
        let entries = self.ranks.iter().map(Vec::capacity).sum::<usize>();
        let sources = size_of::<Stamp>() + size_of::<Chunk>();
        self.bytes = (entries + self.oversize.capacity()) * size_of::<StackEntry>()
            + self.ranks.len() * size_of::<Vec<StackEntry>>()
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
        let at = (self.pos, sources.facing);
        cells.extend(held.map(|(chunk, member)| cells_of(chunk, wanted, at, member)));
        let layers: Vec<LayerRow<'_>> = { cells.iter().zip(sources.members) }
            .map(|(cells, member)| LayerRow { levels: member.levels, cells })
            .collect();
        let mask = wanted.iter().fold(0, |mask, index| mask | 1 << place(*index).1);
        lister.list(&layers, (place(wanted[0]).0, mask), sources.how(), entries, oversize)
    }

    /// Puts cells of a row that were just listed in place of what it has of them, and says whether
    /// that made a difference.
    fn put_row(&mut self, listed: &[u16], scratch: &mut Scratch) -> bool {
        let (entries, oversize) = &mut scratch.of_row;
        oversize.sort_unstable_by_key(|entry| (entry.index, entry.level));
        let mut is_other = false;
        for index in listed {
            let rank = self.rank_of(*index);
            is_other |= put_cell(&mut self.ranks[rank], *index, entries);
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
    /// The entries of a rank of the chunk: a row, 0 to 63, or at a slant a diagonal, 0 to 126.
    pub(crate) fn rank(&self, rank: usize) -> &[StackEntry] {
        &self.ranks[rank]
    }

    /// How many ranks it has.
    pub(super) const fn rank_count(&self) -> usize {
        rank_count(self.is_slanted)
    }

    /// The rank of a cell.
    fn rank_of(&self, index: u16) -> usize {
        rank_of(index, self.is_slanted)
    }

    /// The entries of ranks of the chunk.
    pub(super) fn entries(&self, ranks: Range<usize>) -> impl Iterator<Item = &StackEntry> {
        self.ranks[ranks.start..ranks.end.max(ranks.start)].iter().flatten()
    }

    /// The entries of ranks with cells that show other pixels as time goes on.
    pub(crate) fn entries_with_animated(&self) -> impl Iterator<Item = &StackEntry> {
        let ranks = self.ranks.iter().enumerate();
        let animated = ranks.filter(|(rank, _)| self.animated_ranks >> rank & 1 == 1);
        // From above, what is larger than its cell is a thing by itself.
        let oversize = if self.is_slanted { &self.oversize[..] } else { &[] };
        animated.flat_map(|(_, rank)| rank).chain(oversize)
    }

    /// The entries of a cell, from the lowest level to the topmost.
    pub(super) fn of_cell(&self, index: u16) -> &[StackEntry] {
        let rank = self.rank(self.rank_of(index));
        &rank[of_cell(rank, index)]
    }

    /// The entries of the rows of some cells of the chunk, and of those whose tiles are larger.
    pub(super) fn entries_in(&self, cells: CellRect) -> impl Iterator<Item = &StackEntry> {
        let top = place(cells.corner().index_in_chunk() as u16).0;
        let bottom = if cells.is_empty() { top } else { top + cells.height() as usize };
        let ranks = match self.is_slanted {
            true => 0..self.ranks.len(),
            false => top..bottom,
        };
        let before =
            |row: usize| self.oversize.partition_point(|entry| usize::from(entry.row()) < row);
        self.entries(ranks).chain(&self.oversize[before(top)..before(bottom)])
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

    /// Which columns of each row of a chunk are listed; `None` for all.
    fn listed_columns(self, pos: ChunkPos) -> Option<[u64; SIDE]> {
        let (span, corner) = (self.span?, pos.corner());
        let mut columns = [0; SIDE];
        for (row, columns) in (corner.y()..).zip(columns.iter_mut()) {
            *columns = span.columns(corner.x(), row);
        }
        Some(columns)
    }

    fn cells(self, member: &Member) -> &'a Plane<Cell> {
        self.layers[member.layer as usize].cells()
    }

    fn chunk(self, member: &Member, pos: ChunkPos) -> Chunk {
        self.cells(member).chunk(self.own(pos)).into_owned()
    }

    fn stamp(self, member: &Member, pos: ChunkPos) -> Stamp {
        self.cells(member).chunk_stamp(self.own(pos))
    }

    /// A chunk of the map as it is turned, as the layers have it.
    fn own(self, pos: ChunkPos) -> ChunkPos {
        self.facing.reversed().turn_chunk(pos)
    }
}

impl Scratch {
    /// Reads the cells of a chunk, of each layer that has any.
    fn read(&mut self, pos: ChunkPos, sources: Sources<'_>) -> Vec<RowLayer> {
        let Scratch { unpacked, cells, .. } = self;
        let (facing, own) = (sources.facing, sources.own(pos));
        cells.clear();
        let mut held = Vec::with_capacity(sources.members.len());
        for member in sources.members {
            let first = cells.len();
            let plane = sources.cells(member);
            plane.read_blocks(member.rows_of(own.cells()), unpacked, |run| {
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
                turn_chunk(cells[first..].as_flattened_mut(), facing);
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
            let now = sources.cells(&sources.members[*number]).chunk(sources.own(pos));
            now.add_differing(&before[*number], MAX, &mut self.changed)?;
        }
        for index in &mut self.changed {
            *index = turned_index(*index, sources.facing);
        }
        self.changed.sort_unstable();
        self.changed.dedup();
        Some(())
    }
}

/// What a layer has in some cells of one row of a chunk; the others are left empty.
fn cells_of(
    chunk: &Chunk,
    wanted: &[u16],
    (pos, facing): (ChunkPos, Facing),
    member: &Member,
) -> [Cell; SIDE] {
    let mut cells = [Cell::EMPTY; SIDE];
    let row = pos.cell_at_index(wanted[0].into()).y();
    if (member.rows.0..member.rows.1).contains(&row) {
        for index in wanted {
            let own = turned_index(*index, facing.reversed());
            let held = chunk.get(own.into()).here().map_or(Cell::ABSENT, Cell::of_word);
            cells[place(*index).1] = held;
        }
    }
    cells
}

/// The row and the column of a cell in its chunk.
fn place(index: u16) -> (usize, usize) {
    (usize::from(index) / SIDE, usize::from(index) % SIDE)
}

/// How many ranks a chunk has: rows, or at a slant diagonals.
const fn rank_count(is_slanted: bool) -> usize {
    if is_slanted { 2 * SIDE - 1 } else { SIDE }
}

/// Divides the entries of a chunk, which are in order, into its ranks.
fn divide_into(ranks: &mut [Vec<StackEntry>], entries: &[StackEntry]) {
    let mut counts = [0_usize; rank_count(true)];
    entries.iter().for_each(|entry| counts[rank_of(entry.index, true)] += 1);
    for (rank, count) in ranks.iter_mut().zip(counts) {
        rank.reserve_exact(count);
    }
    for entry in entries {
        ranks[rank_of(entry.index, true)].push(*entry);
    }
}

/// The rank of a cell in its chunk.
fn rank_of(index: u16, is_slanted: bool) -> usize {
    let (row, column) = place(index);
    if is_slanted { row + column } else { row }
}

/// The place of a cell in its chunk, after the map was turned.
fn turned_index(index: u16, facing: Facing) -> u16 {
    const LAST: u16 = SIDE as u16 - 1;
    let (row, column) = (index / SIDE as u16, index % SIDE as u16);
    let (row, column) = match facing.quarters() {
        0 => return index,
        1 => (column, LAST - row),
        2 => (LAST - row, LAST - column),
        _ => (LAST - column, row),
    };
    row * SIDE as u16 + column
}

/// Turns the cells of a chunk.
fn turn_chunk(cells: &mut [Cell], facing: Facing) {
    if facing == Facing::UNTURNED {
        return;
    }
    let own = cells.to_vec();
    for (index, cell) in (0..).zip(own) {
        cells[usize::from(turned_index(index, facing))] = cell;
    }
}
