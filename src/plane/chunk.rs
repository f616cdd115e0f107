//! The forms of a chunk: one value, a table of few values with four bits a cell, or all values.

use std::sync::Arc;

use super::{Absence, Presence, Value};
use crate::units::{CellRect, ChunkPos};

/// What a chunk holds. Shared between clones; copied when written to.
#[derive(Clone, Debug)]
pub(crate) enum Chunk<V> {
    /// The same value in every cell.
    Uniform(V),
    /// At most 16 different values.
    Packed(Arc<Packed<V>>),
    /// Each value by itself.
    Full(Arc<[V]>),
    /// No values: not loaded, or damaged.
    Absent(Absence),
}

/// Values as places in a small table, 16 places in each word.
#[derive(Clone, Debug)]
pub(crate) struct Packed<V> {
    /// The values in use first; the rest is filled up.
    table: [V; MOST_VALUES],
    used: usize,
    words: [u64; CELLS / IN_WORD],
}

const SIDE: usize = ChunkPos::SIDE as usize;
const CELLS: usize = SIDE * SIDE;
const BITS: usize = 4;
const IN_WORD: usize = 64 / BITS;
const MOST_VALUES: usize = 1 << BITS;

/// The bits in which two lists differ, without a way out, so that it takes whole vectors at a time.
fn differing<V: Value>(a: &[V], b: &[V]) -> u32 {
    a.iter().zip(b).fold(0, |bits, (a, b)| bits | (a.to_bits() ^ b.to_bits()))
}

impl<V: Value> Packed<V> {
    fn uniform(value: V) -> Packed<V> {
        Packed { table: [value; MOST_VALUES], used: 1, words: [0; CELLS / IN_WORD] }
    }

    fn values(&self) -> &[V] {
        &self.table[..self.used]
    }

    #[inline]
    fn get(&self, index: usize) -> V {
        let place = self.words[index / IN_WORD] >> (index % IN_WORD * BITS);
        self.table[place as usize % MOST_VALUES]
    }

    /// The place of a value in the table, where it is or can be added.
    fn place(&mut self, value: V) -> Option<u64> {
        if let Some(known) = self.values().iter().position(|held| held.same(value)) {
            return Some(known as u64);
        }
        *self.table.get_mut(self.used)? = value;
        self.used += 1;
        Some(self.used as u64 - 1)
    }

    fn put(&mut self, index: usize, place: u64) {
        let (word, at) = (&mut self.words[index / IN_WORD], index % IN_WORD * BITS);
        *word = *word & !(0xf << at) | place << at;
    }

    /// The values of a whole word, one behind the other.
    fn word(&self, number: usize) -> [V; IN_WORD] {
        let word = self.words[number];
        std::array::from_fn(|at| self.table[(word >> (at * BITS)) as usize % MOST_VALUES])
    }

    /// Adds the values of cells that lie one behind the other.
    fn unpack(&self, start: usize, len: usize, into: &mut Vec<V>) {
        let end = start + len;
        let (first, last) = (start.next_multiple_of(IN_WORD).min(end), end / IN_WORD * IN_WORD);
        into.extend((start..first).map(|index| self.get(index)));
        for number in first / IN_WORD..last.max(first) / IN_WORD {
            into.extend_from_slice(&self.word(number));
        }
        into.extend((last.max(first)..end).map(|index| self.get(index)));
    }

    /// Whether cells that lie one behind the other hold these values already.
    fn holds(&self, start: usize, values: &[V]) -> bool {
        let same = |(index, value): (usize, &V)| self.get(index).same(*value);
        if !start.is_multiple_of(IN_WORD) {
            return (start..).zip(values).all(same);
        }
        let (words, rest) = values.as_chunks::<IN_WORD>();
        let is_word =
            |(number, word): (usize, &[V; IN_WORD])| differing(&self.word(number), word) == 0;
        (start / IN_WORD..).zip(words).all(is_word)
            && (start + words.len() * IN_WORD..).zip(rest).all(same)
    }

    /// Writes values one behind the other; gives how many were written before one came that the
    /// table has no room for.
    fn write(&mut self, start: usize, values: &[V]) -> usize {
        // Neighbours are often the same.
        let mut last: Option<(V, u64)> = None;
        let mut place_of = |packed: &mut Packed<V>, value: V| {
            let known = last.filter(|(held, _)| held.same(value)).map(|(_, place)| place);
            let place = known.or_else(|| packed.place(value))?;
            last = Some((value, place));
            Some(place)
        };
        let mut done = 0;
        if start.is_multiple_of(IN_WORD) {
            for (number, values) in (start / IN_WORD..).zip(values.as_chunks::<IN_WORD>().0) {
                let mut word = 0;
                for (at, &value) in values.iter().enumerate() {
                    let Some(place) = place_of(self, value) else { return done };
                    word |= place << (at * BITS);
                }
                self.words[number] = word;
                done += IN_WORD;
            }
        }
        for (index, &value) in (start + done..).zip(&values[done..]) {
            let Some(place) = place_of(self, value) else { return done };
            self.put(index, place);
            done += 1;
        }
        done
    }

    fn unpacked(&self) -> Arc<[V]> {
        let mut values = Vec::with_capacity(CELLS);
        self.unpack(0, CELLS, &mut values);
        values.into()
    }
}

impl<V: Value> Chunk<V> {
    pub(crate) const CELLS: usize = CELLS;

    #[inline]
    pub(crate) fn get(&self, index: usize) -> Presence<V> {
        match self {
            Chunk::Uniform(value) => Presence::Here(*value),
            Chunk::Packed(packed) => Presence::Here(packed.get(index)),
            Chunk::Full(values) => Presence::Here(values[index]),
            Chunk::Absent(why) => (*why).into(),
        }
    }

    /// The value of every cell, where all are known to be the same.
    pub(super) fn uniform(&self) -> Option<V> {
        match self {
            Chunk::Uniform(value) => Some(*value),
            _ => None,
        }
    }

    pub(super) fn is_default(&self) -> bool {
        self.uniform().is_some_and(Value::is_default)
    }

    /// Whether a value that fulfils a condition can be among the cells.
    pub(super) fn may_hold(&self, wanted: impl Fn(V) -> bool) -> bool {
        match self {
            Chunk::Uniform(value) => wanted(*value),
            Chunk::Packed(packed) => packed.values().iter().any(|&v| wanted(v)),
            Chunk::Full(_) => true,
            Chunk::Absent(_) => false,
        }
    }

    /// The cells of a row as they lie in memory, where they do.
    pub(super) fn slice(&self, start: usize, len: usize) -> Option<&[V]> {
        match self {
            Chunk::Full(values) => values.get(start..start + len),
            _ => None,
        }
    }

    /// Adds the values of cells that lie one behind the other; none where they are not here.
    pub(super) fn copy_to(&self, start: usize, len: usize, into: &mut Vec<V>) {
        match self {
            Chunk::Uniform(value) => into.extend(std::iter::repeat_n(*value, len)),
            Chunk::Packed(packed) => packed.unpack(start, len, into),
            Chunk::Full(values) => into.extend_from_slice(&values[start..start + len]),
            Chunk::Absent(_) => {}
        }
    }

    /// Whether cells that lie one behind the other hold these values already.
    pub(super) fn holds(&self, start: usize, values: &[V]) -> bool {
        let same = |held: &[V], values: &[V]| held.iter().zip(values).all(|(a, b)| a.same(*b));
        match self {
            // Without a way out, so that it takes whole vectors at a time.
            Chunk::Uniform(held) => {
                let differing =
                    values.iter().fold(0, |bits, v| bits | (v.to_bits() ^ held.to_bits()));
                differing == 0
            }
            Chunk::Packed(packed) => packed.holds(start, values),
            Chunk::Full(held) => same(&held[start..], values),
            Chunk::Absent(_) => false,
        }
    }

    /// The smallest rectangle with every cell that is not the default; all cells when absent.
    pub(super) fn bounds(&self, pos: ChunkPos) -> CellRect {
        let all = pos.cells();
        match self {
            Chunk::Uniform(value) if value.is_default() => CellRect::EMPTY,
            Chunk::Uniform(_) | Chunk::Absent(_) => all,
            _ => {
                let used = |&i: &usize| self.get(i).here().is_some_and(|v| !v.is_default());
                let rows = (0..SIDE).filter_map(|row| {
                    let mut cells = row * SIDE..(row + 1) * SIDE;
                    let first = cells.clone().find(used)?;
                    Some((first, cells.rfind(used).unwrap_or(first)))
                });
                rows.fold(CellRect::EMPTY, |bounds, (first, last)| {
                    let (first, last) = (pos.cell_at_index(first), pos.cell_at_index(last));
                    bounds.union(CellRect::between(first, last))
                })
            }
        }
    }

    /// Whether two chunks hold the same values.
    pub(crate) fn same(&self, other: &Chunk<V>) -> bool {
        match (self, other) {
            (Chunk::Packed(a), Chunk::Packed(b)) if Arc::ptr_eq(a, b) => true,
            (Chunk::Full(a), Chunk::Full(b)) if Arc::ptr_eq(a, b) => true,
            (Chunk::Absent(a), Chunk::Absent(b)) => a == b,
            (Chunk::Uniform(a), Chunk::Uniform(b)) => a.same(*b),
            (Chunk::Absent(_), _) | (_, Chunk::Absent(_)) => false,
            _ => (0..CELLS).all(|index| match (self.get(index), other.get(index)) {
                (Presence::Here(a), Presence::Here(b)) => a.same(b),
                _ => false,
            }),
        }
    }

    pub(crate) fn set(&mut self, index: usize, value: V) {
        self.write(index, std::iter::once(value));
    }

    /// Writes values one behind the other, from a cell on.
    pub(super) fn write_slice(&mut self, start: usize, values: &[V]) {
        if let Chunk::Uniform(held) = self {
            *self = Chunk::Packed(Arc::new(Packed::uniform(*held)));
        }
        if let Chunk::Packed(packed) = self {
            let packed = Arc::make_mut(packed);
            if packed.write(start, values) < values.len() {
                *self = Chunk::Full(packed.unpacked());
            }
        }
        match self {
            Chunk::Full(held) => {
                Arc::make_mut(held)[start..start + values.len()].copy_from_slice(values);
            }
            Chunk::Absent(_) => self.write(start, values.iter().copied()),
            Chunk::Uniform(_) | Chunk::Packed(_) => {}
        }
    }

    pub(super) fn fill(&mut self, part: CellRect, value: V) {
        for row in part.top()..part.bottom() {
            let start = crate::units::CellPos::new(part.left(), row).index_in_chunk();
            self.write(start, std::iter::repeat_n(value, part.width() as usize));
        }
    }

    /// Writes values one behind the other, in the smallest form that takes them. An absent chunk
    /// must be admitted first; it becomes one that holds the default value elsewhere.
    fn write(&mut self, start: usize, values: impl Iterator<Item = V>) {
        for (index, value) in (start..CELLS).zip(values) {
            if self.get(index).here().is_some_and(|held| held.same(value)) {
                continue;
            }
            match self {
                Chunk::Uniform(held) => {
                    let mut packed = Packed::uniform(*held);
                    let place = packed.place(value).unwrap_or(0);
                    packed.put(index, place);
                    *self = Chunk::Packed(Arc::new(packed));
                }
                Chunk::Packed(packed) => {
                    let shared = Arc::make_mut(packed);
                    match shared.place(value) {
                        Some(place) => shared.put(index, place),
                        None => {
                            let mut full = shared.unpacked();
                            Arc::make_mut(&mut full)[index] = value;
                            *self = Chunk::Full(full);
                        }
                    }
                }
                Chunk::Full(values) => Arc::make_mut(values)[index] = value,
                Chunk::Absent(_) => {
                    debug_assert!(false, "a chunk that is not here was written to");
                    *self = Chunk::default();
                    self.set(index, value);
                }
            }
        }
    }

    /// The chunk in a smaller form, or `None` where it has the smallest.
    pub(super) fn compacted(&self) -> Option<Chunk<V>> {
        if matches!(self, Chunk::Uniform(_) | Chunk::Absent(_)) {
            return None;
        }
        let mut packed: Option<Packed<V>> = None;
        for index in 0..CELLS {
            let value = self.get(index).here()?;
            let packed = packed.get_or_insert_with(|| Packed::uniform(value));
            let place = packed.place(value)?;
            packed.put(index, place);
        }
        let packed = packed?;
        match (packed.values(), self) {
            ([only], _) => Some(Chunk::Uniform(*only)),
            (table, Chunk::Packed(own)) if table.len() == own.used => None,
            _ => Some(Chunk::Packed(Arc::new(packed))),
        }
    }
}

impl<V: Value> Default for Chunk<V> {
    fn default() -> Chunk<V> {
        Chunk::Uniform(V::default())
    }
}
