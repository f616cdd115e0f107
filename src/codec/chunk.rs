//! The values of cells, and their places.

use super::bytes::{Bytes, BytesFault, Out, number_bytes};
use crate::plane::{Absence, Chunk, ChunkBits, ChunkParts, TractContent};
use crate::units::{CellPos, CellRect, TractPos};

/// How a value is written.
pub(crate) type WordOut<'a> = &'a mut dyn FnMut(u32) -> u32;

/// Which value a written one means; `None` where it means none.
pub(crate) type WordIn<'a> = &'a dyn Fn(u32) -> Option<u32>;

/// Forms of values besides those of 1, 2, 4 and 8 bits.
const UNIFORM: u8 = 0;
const FULL: u8 = 32;
const NOT_HERE: u8 = 254;
const DAMAGED: u8 = 255;

/// Forms of places.
const LIST: u8 = 0;
const RECT: u8 = 1;
const BITS: u8 = 2;

const SIDE: usize = 64;

/// Writes what a chunk holds.
pub(crate) fn put_chunk(out: &mut Out, chunk: &Chunk, word: WordOut<'_>) {
    // What is not in use any more needs no name.
    let compacted = chunk.compacted();
    match compacted.as_ref().unwrap_or(chunk).parts() {
        ChunkParts::Uniform(value) => put_uniform(out, word(value)),
        ChunkParts::Packed(bits, table, places) => {
            put_table(out, bits, table, word);
            places.iter().for_each(|places| out.bytes(&places.to_le_bytes()));
        }
        ChunkParts::Full(values) => put_full(out, values, word),
        ChunkParts::Absent(why) => out.byte(absent(why)),
    }
}

const fn absent(why: Absence) -> u8 {
    match why {
        Absence::NotHere => NOT_HERE,
        Absence::Damaged => DAMAGED,
    }
}

fn put_uniform(out: &mut Out, value: u32) {
    out.byte(UNIFORM);
    out.number(value.into());
}

fn put_table(out: &mut Out, bits: usize, table: &[u32], word: WordOut<'_>) {
    out.byte(bits as u8);
    out.number(table.len() as u64);
    table.iter().for_each(|value| out.number(word(*value).into()));
}

fn put_full(out: &mut Out, values: &[u32], word: WordOut<'_>) {
    out.byte(FULL);
    values.iter().for_each(|value| out.bytes(&word(*value).to_le_bytes()));
}

/// Writes the values of some cells.
pub(crate) fn put_values(out: &mut Out, values: &[u32], word: WordOut<'_>) {
    let mut table: Vec<u32> = Vec::new();
    let mut places = Vec::with_capacity(values.len());
    let mut last = 0;
    for value in values {
        if table.get(last) != Some(value) {
            let known = table.iter().position(|held| held == value);
            last = known.unwrap_or_else(|| {
                table.push(*value);
                table.len() - 1
            });
            if table.len() > 256 {
                return put_full(out, values, word);
            }
        }
        places.push(last as u8);
    }
    let bits = match table.len() {
        0 | 1 => return put_uniform(out, word(table.first().copied().unwrap_or_default())),
        2 => 1,
        3 | 4 => 2,
        5..=16 => 4,
        _ => 8,
    };
    put_table(out, bits, &table, word);
    for places in places.chunks(8 / bits) {
        let byte = places.iter().rev().fold(0_u16, |byte, place| byte << bits | u16::from(*place));
        out.byte(byte as u8);
    }
}

/// Writes which cells of a chunk are meant, in the shortest form.
pub(crate) fn put_places(out: &mut Out, bits: &ChunkBits) {
    if let Some(rect) = as_rect(bits) {
        out.byte(RECT);
        let sides = [rect.left(), rect.top(), rect.width() as i32 - 1, rect.height() as i32 - 1];
        sides.iter().for_each(|side| out.byte(*side as u8));
        return;
    }
    let ways = || {
        bits.indexes().scan(0, |next, index| {
            let way = index - *next;
            *next = index + 1;
            Some(way as u64)
        })
    };
    let count = u64::from(bits.count());
    let list = number_bytes(count) + ways().map(number_bytes).sum::<usize>();
    if list < SIDE * 8 {
        out.byte(LIST);
        out.number(count);
        ways().for_each(|way| out.number(way));
    } else {
        out.byte(BITS);
        bits.0.iter().for_each(|row| out.bytes(&row.to_le_bytes()));
    }
}

/// The cells as a rectangle, where they are one: its columns and rows count from the corner of the chunk.
fn as_rect(bits: &ChunkBits) -> Option<CellRect> {
    let top = bits.0.iter().position(|row| *row != 0)?;
    let row = bits.0[top];
    let height = bits.0[top..].iter().take_while(|held| **held == row).count();
    let (left, width) = (row.trailing_zeros(), row.count_ones());
    let is_run = (row >> left).trailing_ones() == width;
    let is_all = height as u32 * width == bits.count();
    let corner = CellPos::new(left as i32, top as i32);
    (is_run && is_all).then(|| CellRect::new(corner, width, height as u32))
}

/// Writes what a tract holds.
pub(crate) fn put_content(out: &mut Out, at: TractPos, content: &TractContent, word: WordOut<'_>) {
    match content.one() {
        Some(one) => put_chunk(out, &one, word),
        None => {
            out.byte(FULL);
            for pos in at.cells().chunks() {
                put_chunk(out, &content.chunk(pos), word);
            }
        }
    }
}

/// Reads what a chunk holds.
pub(crate) fn take_chunk(bytes: &mut Bytes<'_>, word: WordIn<'_>) -> Result<Chunk, BytesFault> {
    let form = bytes.byte()?;
    Ok(match form {
        NOT_HERE => Chunk::Absent(Absence::NotHere),
        DAMAGED => Chunk::Absent(Absence::Damaged),
        UNIFORM => Chunk::Uniform(take_word(bytes, word)?),
        1 | 2 | 4 | 8 => {
            let bits = usize::from(form);
            let table = take_table(bytes, bits, word)?;
            let places = bytes.take(Chunk::CELLS / 8 * bits)?;
            let (words, _) = places.as_chunks::<8>();
            let words: Vec<u64> = words.iter().map(|word| u64::from_le_bytes(*word)).collect();
            match Chunk::of_packed(bits, &table, &words) {
                Some(chunk) => chunk,
                // A place may be none, or two values may mean the same.
                None => of_values(&unpacked(bytes, bits, &table, places, Chunk::CELLS)?),
            }
        }
        FULL => of_values(&take_full(bytes, Chunk::CELLS, word)?),
        _ => return Err(bytes.wrong("there is no such form of values")),
    })
}

/// A chunk in the smallest form. There are as many values as cells.
fn of_values(values: &[u32]) -> Chunk {
    let chunk = values.first_chunk().map(Chunk::of_values).unwrap_or_default();
    chunk.compacted().unwrap_or(chunk)
}

fn take_word(bytes: &mut Bytes<'_>, word: WordIn<'_>) -> Result<u32, BytesFault> {
    let written = bytes.word()?;
    word(written).ok_or_else(|| bytes.wrong("a value is not a cell of a tile that is named"))
}

fn take_table(
    bytes: &mut Bytes<'_>,
    bits: usize,
    word: WordIn<'_>,
) -> Result<Vec<u32>, BytesFault> {
    let count = bytes.up_to(1 << bits, "a table of values is too long")?;
    if count < 2 {
        return Err(bytes.wrong("a table of values is too short"));
    }
    (0..count).map(|_| take_word(bytes, word)).collect()
}

fn take_full(
    bytes: &mut Bytes<'_>,
    count: usize,
    word: WordIn<'_>,
) -> Result<Vec<u32>, BytesFault> {
    let (values, _) = bytes.take(count * 4)?.as_chunks::<4>();
    let values = values.iter().map(|value| word(u32::from_le_bytes(*value)));
    let values = values.collect::<Option<Vec<u32>>>();
    values.ok_or_else(|| bytes.wrong("a value is not a cell of a tile that is named"))
}

/// The values of places in a table.
fn unpacked(
    bytes: &Bytes<'_>,
    bits: usize,
    table: &[u32],
    places: &[u8],
    count: usize,
) -> Result<Vec<u32>, BytesFault> {
    let place = |at: usize| {
        let byte = usize::from(places[at * bits / 8]);
        (byte >> (at * bits % 8)) & ((1 << bits) - 1)
    };
    let values = (0..count).map(|at| table.get(place(at)).copied());
    let values = values.collect::<Option<Vec<u32>>>();
    values.ok_or_else(|| bytes.wrong("a cell has a place that the table of values does not have"))
}

/// Reads the values of so many cells.
pub(crate) fn take_values(
    bytes: &mut Bytes<'_>,
    count: usize,
    word: WordIn<'_>,
) -> Result<Vec<u32>, BytesFault> {
    let form = bytes.byte()?;
    match form {
        UNIFORM => Ok(vec![take_word(bytes, word)?; count]),
        1 | 2 | 4 | 8 => {
            let bits = usize::from(form);
            let table = take_table(bytes, bits, word)?;
            let places = bytes.take((count * bits).div_ceil(8))?;
            unpacked(bytes, bits, &table, places, count)
        }
        FULL => take_full(bytes, count, word),
        _ => Err(bytes.wrong("there is no such form of values")),
    }
}

/// Reads which cells of a chunk are meant: at least one.
pub(crate) fn take_places(bytes: &mut Bytes<'_>) -> Result<ChunkBits, BytesFault> {
    let mut bits = ChunkBits::NONE;
    match bytes.byte()? {
        LIST => {
            let mut next = 0;
            for _ in 0..bytes.count()? {
                let way = bytes.up_to(Chunk::CELLS as u64, "there is no such cell in a chunk")?;
                let index = next + way as usize;
                if index >= Chunk::CELLS {
                    return Err(bytes.wrong("there is no such cell in a chunk"));
                }
                bits.insert(index);
                next = index + 1;
            }
        }
        RECT => {
            let sides: [u8; 4] = [bytes.byte()?, bytes.byte()?, bytes.byte()?, bytes.byte()?];
            let [left, top, width, height] = sides.map(u32::from);
            if left + width >= SIDE as u32 || top + height >= SIDE as u32 {
                return Err(bytes.wrong("a rectangle reaches beyond its chunk"));
            }
            let corner = CellPos::new(left as i32, top as i32);
            bits = ChunkBits::of_part(CellRect::new(corner, width + 1, height + 1));
        }
        BITS => {
            let (rows, _) = bytes.take(SIDE * 8)?.as_chunks::<8>();
            for (row, written) in bits.0.iter_mut().zip(rows) {
                *row = u64::from_le_bytes(*written);
            }
        }
        _ => return Err(bytes.wrong("there is no such form of places")),
    }
    if bits.is_none() { Err(bytes.wrong("no cell is named")) } else { Ok(bits) }
}

/// Reads what a tract holds.
pub(crate) fn take_content(
    bytes: &mut Bytes<'_>,
    at: TractPos,
    word: WordIn<'_>,
) -> Result<TractContent, BytesFault> {
    match bytes.clone().byte()? {
        UNIFORM | NOT_HERE | DAMAGED => Ok(TractContent::of_one(take_chunk(bytes, word)?)),
        FULL => {
            bytes.byte()?;
            let chunks = at.cells().chunks().map(|_| take_chunk(bytes, word));
            Ok(TractContent::of_chunks(chunks.collect::<Result<_, _>>()?))
        }
        _ => Err(bytes.wrong("there is no such form of a tract")),
    }
}
