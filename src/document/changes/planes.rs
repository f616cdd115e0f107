//! The changes of one plane as bytes.

use std::collections::{BTreeMap, HashMap, HashSet};

use crate::cell_set::MAX_CHUNKS;
use crate::codec::{
    Bytes, BytesFault, Out, WordIn, WordOut, put_chunk, put_content, put_places, put_values,
    take_chunk, take_content, take_places, take_values,
};
use crate::edit::{CellsChange, ChunkChange, PlaneChanges, TractChange, Values};
use crate::plane::{Chunk, ChunkBits, TractContent, Words};
use crate::units::{CellPos, CellRect, ChunkPos, TractPos};

const CELLS: u8 = 0;
const CHUNK: u8 = 1;
const TRACT: u8 = 2;
const RECT: u8 = 3;

/// Where the last chunk and the last tract were: the next is told by the way from there.
#[derive(Default)]
struct Last {
    chunk: (i32, i32),
    tract: (i32, i32),
}

fn put_way(out: &mut Out, last: &mut (i32, i32), at: (i32, i32)) {
    out.signed(i64::from(at.0) - i64::from(last.0));
    out.signed(i64::from(at.1) - i64::from(last.1));
    *last = at;
}

fn take_way(bytes: &mut Bytes<'_>, last: &mut (i32, i32)) -> Result<(i32, i32), BytesFault> {
    let mut step = |from: i32| {
        let to = i64::from(from).checked_add(bytes.signed()?);
        let to = to.and_then(|to| i32::try_from(to).ok());
        to.ok_or_else(|| bytes.wrong("a place lies beyond the limits of cells"))
    };
    *last = (step(last.0)?, step(last.1)?);
    Ok(*last)
}

/// Writes the changes of a plane, or only what is after them.
pub(super) fn put_plane(
    out: &mut Out,
    changes: &PlaneChanges,
    is_forward: bool,
    word: WordOut<'_>,
) {
    let (rects, rest) = rects_of(changes);
    let mut last = Last::default();
    out.number((rects.len() + rest.len()) as u64);
    for (rect, before, after) in rects {
        out.byte(RECT);
        out.signed(rect.left().into());
        out.signed(rect.top().into());
        out.number((rect.width() - 1).into());
        out.number((rect.height() - 1).into());
        if !is_forward {
            out.number(word(before).into());
        }
        out.number(word(after).into());
    }
    for record in rest {
        match record {
            Record::Cells(CellsChange { pos, indexes, before, after }) => {
                let mut bits = ChunkBits::NONE;
                indexes.iter().for_each(|index| bits.insert((*index).into()));
                out.byte(CELLS);
                put_way(out, &mut last.chunk, (pos.x(), pos.y()));
                put_places(out, &bits);
                let values = |values: &Values| -> Vec<u32> {
                    (0..indexes.len()).map(|at| values.get(at)).collect()
                };
                if !is_forward {
                    put_values(out, &values(before), word);
                }
                put_values(out, &values(after), word);
            }
            Record::Chunk(ChunkChange { pos, before, after }) => {
                out.byte(CHUNK);
                put_way(out, &mut last.chunk, (pos.x(), pos.y()));
                if !is_forward {
                    put_chunk(out, before, word);
                }
                put_chunk(out, after, word);
            }
            Record::Tract(TractChange { at, before, after }) => {
                out.byte(TRACT);
                put_way(out, &mut last.tract, (at.x(), at.y()));
                if !is_forward {
                    put_content(out, *at, before, word);
                }
                put_content(out, *at, after, word);
            }
        }
    }
}

enum Record<'a> {
    Cells(&'a CellsChange),
    Chunk(&'a ChunkChange),
    Tract(&'a TractChange),
}

/// A record of cells that held one value and hold another one now: which, in how many cells, and within which
/// rectangle.
type Filled = ((u32, u32), u64, CellRect);

/// The rectangles that were filled over one value, whatever chunks they touch, and the records of the rest.
fn rects_of(changes: &PlaneChanges) -> (Vec<(CellRect, u32, u32)>, Vec<Record<'_>>) {
    let records: Vec<(Record<'_>, Option<Filled>)> =
        (changes.cells.iter().map(|change| (Record::Cells(change), filled_cells(change))))
            .chain(changes.chunks.iter().map(|c| (Record::Chunk(c), filled_chunk(c))))
            .chain(changes.tracts.iter().map(|t| (Record::Tract(t), filled_tract(t))))
            .collect();
    let mut by_values: BTreeMap<(u32, u32), (u64, CellRect)> = BTreeMap::new();
    for (values, count, rect) in records.iter().filter_map(|(_, filled)| *filled) {
        let own = by_values.entry(values).or_insert((0, CellRect::EMPTY));
        *own = (own.0 + count, own.1.union(rect));
    }
    // Where as many cells are filled as the rectangle around them has, they are all of it.
    by_values.retain(|_, (count, rect)| rect.cell_count() == *count);
    let is_left = |filled: &Option<Filled>| {
        filled.is_none_or(|(values, ..)| !by_values.contains_key(&values))
    };
    let rest = records.into_iter().filter(|(_, filled)| is_left(filled)).map(|(record, _)| record);
    let rest = rest.collect();
    let rects = by_values.into_iter().map(|((before, after), (_, rect))| (rect, before, after));
    (rects.collect(), rest)
}

fn filled_cells(change: &CellsChange) -> Option<Filled> {
    let one = |values: &Values| match values {
        Values::All(value) => Some(*value),
        Values::Each(values) => {
            let first = *values.first()?;
            values.iter().all(|value| *value == first).then_some(first)
        }
    };
    let values = (one(&change.before)?, one(&change.after)?);
    Some((values, change.indexes.len() as u64, bounds(change.pos, &change.bits())))
}

fn filled_chunk(change: &ChunkChange) -> Option<Filled> {
    filled(change.pos, &change.before, &change.after)
}

fn filled(pos: ChunkPos, before: &Chunk, after: &Chunk) -> Option<Filled> {
    // Most chunks that are not filled show it in a few cells.
    let samples = (0..Chunk::CELLS).step_by(61);
    let pairs = samples.map(|index| (before.get(index).here(), after.get(index).here()));
    let mut changed = pairs.filter(|(before, after)| before != after);
    if let Some(first) = changed.next()
        && changed.any(|other| other != first)
    {
        return None;
    }
    let bits = before.differing(after);
    let one = |chunk: &Chunk| {
        let first = chunk.get(bits.indexes().next()?).here()?;
        let others = bits.zip(&chunk.bits_where(|held| held == first), |a, b| a & !b);
        others.is_none().then_some(first)
    };
    Some(((one(before)?, one(after)?), bits.count().into(), bounds(pos, &bits)))
}

fn filled_tract(TractChange { at, before, after }: &TractChange) -> Option<Filled> {
    if let (Some(Chunk::Uniform(before)), Some(Chunk::Uniform(after))) = (before.one(), after.one())
    {
        return Some(((before, after), at.cells().cell_count(), at.cells()));
    }
    let (mut all, mut count, mut rect) = (None, 0, CellRect::EMPTY);
    for pos in at.cells().chunks() {
        let (before, after) = (before.chunk(pos), after.chunk(pos));
        if !before.same(&after) {
            let (values, more, part) = filled(pos, &before, &after)?;
            if *all.get_or_insert(values) != values {
                return None;
            }
            (count, rect) = (count + more, rect.union(part));
        }
    }
    Some((all?, count, rect))
}

/// The smallest rectangle around some cells of a chunk.
fn bounds(pos: ChunkPos, bits: &ChunkBits) -> CellRect {
    let (mut all, mut rows) = (0, 0..0);
    for (row, bits) in bits.0.iter().enumerate().filter(|(_, bits)| **bits != 0) {
        all |= bits;
        rows = if rows.is_empty() { row..row + 1 } else { rows.start..row + 1 };
    }
    if all == 0 {
        return CellRect::EMPTY;
    }
    let (left, right) = (all.trailing_zeros(), 64 - all.leading_zeros());
    let corner = CellPos::new(left as i32, rows.start as i32);
    let rect = CellRect::new(corner, right - left, rows.len() as u32);
    rect.moved(pos.corner() - CellPos::ORIGIN)
}

/// How many cells may still be read.
pub(super) struct Room {
    pub(super) cells: u64,
    pub(super) most: u64,
}

impl Room {
    pub(super) fn take(&mut self, cells: u64) -> Result<(), BytesFault> {
        let left = self.cells.checked_sub(cells);
        self.cells = left.ok_or(BytesFault::TooMany { what: "cells", most: self.most })?;
        Ok(())
    }
}

/// What a record takes beside its cells, counted in cells.
const RECORD: u64 = 64;

/// Reads the changes of a plane. Those that say only what is after lead on from what `held` holds; where that
/// is not loaded, the chunk is told.
pub(super) fn take_plane(
    bytes: &mut Bytes<'_>,
    held: Option<&Words>,
    word: WordIn<'_>,
    room: &mut Room,
) -> Result<(PlaneChanges, Option<ChunkPos>), BytesFault> {
    let mut read = Read { held, ..Read::default() };
    let mut last = Last::default();
    for _ in 0..bytes.count()? {
        room.take(RECORD)?;
        match bytes.byte()? {
            CELLS => {
                let pos = take_chunk_pos(bytes, &mut last)?;
                if !read.told.chunk(pos) {
                    return Err(bytes.wrong(TWICE));
                }
                let bits = take_places(bytes)?;
                let count = bits.count() as usize;
                room.take(count as u64)?;
                let before = match held {
                    None => Some(take_values(bytes, count, word)?),
                    Some(_) => None,
                };
                let after = take_values(bytes, count, word)?;
                read.cells(pos, &bits, before, &after);
            }
            CHUNK => {
                let pos = take_chunk_pos(bytes, &mut last)?;
                if !read.told.chunk(pos) {
                    return Err(bytes.wrong(TWICE));
                }
                room.take(Chunk::CELLS as u64)?;
                let before = match held {
                    None => take_chunk(bytes, word)?,
                    Some(_) => read.held_chunk(pos),
                };
                let after = take_chunk(bytes, word)?;
                read.chunk(pos, before, after);
            }
            TRACT => {
                let (x, y) = take_way(bytes, &mut last.tract)?;
                let at = TractPos::checked(x, y)
                    .ok_or_else(|| bytes.wrong("a place lies beyond the limits of cells"))?;
                if !read.told.tract(at) {
                    return Err(bytes.wrong(TWICE));
                }
                room.take(RECORD * RECORD)?;
                let before = match held {
                    None => take_content(bytes, at, word)?,
                    Some(_) => read.held_tract(at),
                };
                let after = take_content(bytes, at, word)?;
                read.tract(at, before, after);
            }
            RECT => {
                let rect = take_rect(bytes)?;
                let mut value = || {
                    let written = bytes.word()?;
                    let meant = word(written);
                    meant
                        .ok_or_else(|| bytes.wrong("a value is not a cell of a tile that is named"))
                };
                let before = if held.is_none() { Some(value()?) } else { None };
                let after = value()?;
                if !read.rect(rect, before, after, room)? {
                    return Err(bytes.wrong(TWICE));
                }
            }
            _ => return Err(bytes.wrong("there is no such record of cells")),
        }
    }
    Ok((read.changes, read.absent))
}

fn take_chunk_pos(bytes: &mut Bytes<'_>, last: &mut Last) -> Result<ChunkPos, BytesFault> {
    let (x, y) = take_way(bytes, &mut last.chunk)?;
    ChunkPos::checked(x, y).ok_or_else(|| bytes.wrong("a place lies beyond the limits of cells"))
}

fn take_rect(bytes: &mut Bytes<'_>) -> Result<CellRect, BytesFault> {
    let (x, y) = (bytes.signed()?, bytes.signed()?);
    let beyond = "a rectangle reaches beyond the limits of cells";
    let (width, height) =
        (bytes.up_to(u32::MAX.into(), beyond)?, bytes.up_to(u32::MAX.into(), beyond)?);
    let end = |from: i64, more: u64| from.checked_add(more as i64).unwrap_or(i64::MAX);
    let corners = (CellPos::checked(x, y), CellPos::checked(end(x, width), end(y, height)));
    match corners {
        (Some(first), Some(last)) => Ok(CellRect::between(first, last)),
        _ => Err(bytes.wrong(beyond)),
    }
}

/// Changes that are being read.
#[derive(Default)]
struct Read<'a> {
    changes: PlaneChanges,
    held: Option<&'a Words>,
    /// How many chunks the rectangles have touched.
    chunks: u64,
    /// The first chunk that is not loaded.
    absent: Option<ChunkPos>,
    /// What was told of already: no cell may change twice.
    told: Told,
}

#[derive(Default)]
struct Told {
    chunks: HashSet<ChunkPos>,
    /// Those of the chunks, and those that were told of as a whole.
    tracts: HashMap<TractPos, bool>,
}

impl Told {
    /// Notes a chunk; says whether it was not told of before.
    fn chunk(&mut self, pos: ChunkPos) -> bool {
        let is_whole = *self.tracts.entry(pos.tract()).or_insert(false);
        self.chunks.insert(pos) && !is_whole
    }

    /// Notes a tract as a whole; says whether nothing of it was told before.
    fn tract(&mut self, at: TractPos) -> bool {
        self.tracts.insert(at, true).is_none()
    }
}

const TWICE: &str = "a cell is changed twice";

impl Read<'_> {
    /// A chunk of the plane that the changes lead on from.
    fn held_chunk(&mut self, pos: ChunkPos) -> Chunk {
        let held = self.held.map(|held| held.chunk(pos).into_owned()).unwrap_or_default();
        if matches!(held, Chunk::Absent(_)) {
            self.absent.get_or_insert(pos);
        }
        held
    }

    fn held_tract(&mut self, at: TractPos) -> TractContent {
        let Some(held) = self.held else { return TractContent::of_one(Chunk::default()) };
        if held.may_be_absent() {
            at.cells().chunks().for_each(|pos| drop(self.held_chunk(pos)));
        }
        held.tract_content(at)
    }

    /// Cells of a chunk; `before` where it is told.
    fn cells(&mut self, pos: ChunkPos, bits: &ChunkBits, before: Option<Vec<u32>>, after: &[u32]) {
        let before = before.unwrap_or_else(|| {
            let held = self.held_chunk(pos);
            bits.indexes().map(|index| held.get(index).here().unwrap_or_default()).collect()
        });
        let mut change = (Vec::new(), Vec::new(), Vec::new());
        for ((index, before), after) in bits.indexes().zip(before).zip(after) {
            if before != *after {
                change.0.push(index as u16);
                change.1.push(before);
                change.2.push(*after);
            }
        }
        if !change.0.is_empty() {
            let (indexes, before, after) = (change.0, Values::of(change.1), Values::of(change.2));
            self.changes.cells.push(CellsChange { pos, indexes, before, after });
        }
    }

    fn chunk(&mut self, pos: ChunkPos, before: Chunk, after: Chunk) {
        if !before.same(&after) {
            self.changes.chunks.push(ChunkChange { pos, before, after });
        }
    }

    fn tract(&mut self, at: TractPos, before: TractContent, after: TractContent) {
        if before.difference(&after, at).is_some() {
            self.changes.tracts.push(TractChange { at, before, after });
        }
    }

    /// A rectangle that is filled; says whether nothing of it was told before.
    fn rect(
        &mut self,
        rect: CellRect,
        before: Option<u32>,
        after: u32,
        room: &mut Room,
    ) -> Result<bool, BytesFault> {
        self.chunks = self.chunks.saturating_add(rect.chunk_count());
        if self.chunks > MAX_CHUNKS {
            return Err(BytesFault::TooMany { what: "chunks in rectangles", most: MAX_CHUNKS });
        }
        for at in rect.tracts() {
            room.take(RECORD)?;
            if rect.contains_rect(at.cells()) {
                if !self.told.tract(at) {
                    return Ok(false);
                }
                let before = match before {
                    None => self.held_tract(at),
                    Some(before) => TractContent::of_one(Chunk::Uniform(before)),
                };
                self.tract(at, before, TractContent::of_one(Chunk::Uniform(after)));
                continue;
            }
            for pos in rect.intersection(at.cells()).chunks() {
                room.take(RECORD)?;
                if !self.told.chunk(pos) {
                    return Ok(false);
                }
                let part = rect.intersection(pos.cells());
                let bits = ChunkBits::of_part(part.moved(CellPos::ORIGIN - pos.corner()));
                if bits.is_all() {
                    let before = before.map_or_else(|| self.held_chunk(pos), Chunk::Uniform);
                    self.chunk(pos, before, Chunk::Uniform(after));
                } else {
                    // The other cells of the chunk are not told.
                    let count = bits.count() as usize;
                    room.take(count as u64)?;
                    let before = before.map(|before| vec![before; count]);
                    self.cells(pos, &bits, before, &vec![after; count]);
                }
            }
        }
        Ok(true)
    }
}

/// Writes all that a plane holds.
pub(super) fn put_words(out: &mut Out, words: &Words, word: WordOut<'_>) {
    let tracts = words.all_tracts().into_iter().map(|at| (at, words.tract_content(at)));
    // A tract whose cells were all emptied is as one that was never written to.
    let is_used =
        |(_, content): &(TractPos, TractContent)| !matches!(content.one(), Some(Chunk::Uniform(0)));
    let tracts: Vec<_> = tracts.filter(is_used).collect();
    let mut last = (0, 0);
    out.number(tracts.len() as u64);
    for (at, content) in tracts {
        put_way(out, &mut last, (at.x(), at.y()));
        put_content(out, at, &content, word);
    }
}

/// Reads all that a plane holds.
pub(super) fn take_words(
    bytes: &mut Bytes<'_>,
    word: WordIn<'_>,
    room: &mut Room,
) -> Result<Words, BytesFault> {
    let (mut words, mut last) = (Words::new(), (0, 0));
    let stamp = crate::plane::Stamp::NONE;
    for _ in 0..bytes.count()? {
        room.take(RECORD * RECORD)?;
        let (x, y) = take_way(bytes, &mut last)?;
        let at = TractPos::checked(x, y)
            .ok_or_else(|| bytes.wrong("a place lies beyond the limits of cells"))?;
        words.put_content(at, &take_content(bytes, at, word)?, stamp);
    }
    Ok(words)
}
