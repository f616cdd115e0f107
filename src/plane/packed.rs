//! Values as places in a small table: the form of a chunk that holds few different values.

use std::ops::Range;

use super::Value;
use super::chunk::CELLS;

/// At most 16 different values: a table of them, and for each cell its place there.
#[derive(Clone, Debug)]
pub(crate) struct Packed<V> {
    /// The values in use first, each once; the rest is filled up.
    table: [V; MOST_VALUES],
    used: usize,
    /// 16 places in each, the first in the lowest bits.
    words: [u64; CELLS / IN_WORD],
}

const BITS: usize = 4;
const IN_WORD: usize = 64 / BITS;
const MOST_VALUES: usize = 1 << BITS;

/// A word of ones: times a place it is the word in which all cells have that place.
const IN_EACH_PLACE: u64 = u64::MAX / (MOST_VALUES as u64 - 1);

impl<V: Value> Packed<V> {
    pub(super) fn uniform(value: V) -> Packed<V> {
        Packed { table: [value; MOST_VALUES], used: 1, words: [0; CELLS / IN_WORD] }
    }

    pub(super) fn values(&self) -> &[V] {
        &self.table[..self.used]
    }

    #[inline]
    pub(super) fn get(&self, index: usize) -> V {
        let place = self.words[index / IN_WORD] >> (index % IN_WORD * BITS);
        self.table[place as usize % MOST_VALUES]
    }

    /// The place of a value in the table, where it is there.
    fn find(&self, value: V) -> Option<u64> {
        self.values().iter().position(|held| held.same(value)).map(|place| place as u64)
    }

    /// The place of a value in the table, where it is or can be added.
    fn place(&mut self, value: V) -> Option<u64> {
        if let Some(known) = self.find(value) {
            return Some(known);
        }
        *self.table.get_mut(self.used)? = value;
        self.used += 1;
        Some(self.used as u64 - 1)
    }

    /// The word for values one behind the other, where the table has them all. No value has two
    /// places, so equal words are equal values.
    #[inline]
    fn encode(&self, values: &[V; IN_WORD], index: &Index) -> Option<u64> {
        // All are taken to be where the index says, and whether they are is asked once.
        let (mut word, mut differing) = (0, 0);
        for value in values {
            let place = index.guess(*value);
            differing |= self.table[place].to_bits() ^ value.to_bits();
            word = word >> BITS | (place as u64) << (u64::BITS as usize - BITS);
        }
        if differing == 0 {
            return Some(word);
        }
        let mut bits = values.iter().enumerate();
        bits.try_fold(0, |word, (at, &value)| Some(word | self.find(value)? << (at * BITS)))
    }

    /// Gives a cell a value, where the table has it or room for it.
    pub(super) fn put(&mut self, index: usize, value: V) -> bool {
        self.place(value).map(|place| self.put_place(index, place)).is_some()
    }

    fn put_place(&mut self, index: usize, place: u64) {
        let (word, at) = (&mut self.words[index / IN_WORD], index % IN_WORD * BITS);
        *word = *word & !(0xf << at) | place << at;
    }

    /// The values of a whole word, one behind the other.
    fn word(&self, number: usize) -> [V; IN_WORD] {
        let word = self.words[number];
        std::array::from_fn(|at| self.table[(word >> (at * BITS)) as usize % MOST_VALUES])
    }

    /// Adds the values of cells that lie one behind the other.
    pub(super) fn unpack(&self, start: usize, len: usize, into: &mut Vec<V>) {
        let parts = Parts::of(start..start + len);
        into.extend(parts.before.map(|index| self.get(index)));
        for number in parts.words {
            into.extend_from_slice(&self.word(number));
        }
        into.extend(parts.behind.map(|index| self.get(index)));
    }

    /// Whether cells that lie one behind the other hold these values already.
    pub(super) fn holds(&self, start: usize, values: &[V]) -> bool {
        let (parts, [before, words, behind]) = Parts::of_values(start, values);
        let each = |start: usize, values: &[V]| {
            (start..).zip(values).all(|(index, value)| self.get(index).same(*value))
        };
        let index = Index::of(self);
        let mut words = self.words[parts.words].iter().zip(words.as_chunks().0);
        each(parts.before.start, before)
            && each(parts.behind.start, behind)
            && words.all(|(word, values)| self.encode(values, &index) == Some(*word))
    }

    /// Writes values one behind the other. Where one comes that the table has no room for, some of
    /// the others may have been written.
    pub(super) fn write(&mut self, start: usize, values: &[V]) -> bool {
        let (parts, [before, words, behind]) = Parts::of_values(start, values);
        let mut each = |start: usize, values: &[V]| {
            (start..).zip(values).all(|(index, &value)| self.put(index, value))
        };
        if !each(parts.before.start, before) || !each(parts.behind.start, behind) {
            return false;
        }
        let mut index = Index::of(self);
        for (number, values) in parts.words.zip(words.as_chunks().0) {
            let mut word = self.encode(values, &index);
            if word.is_none() && values.iter().all(|&value| self.place(value).is_some()) {
                index = Index::of(self);
                word = self.encode(values, &index);
            }
            let Some(word) = word else { return false };
            self.words[number] = word;
        }
        true
    }

    /// Whether cells that lie one behind the other all hold a value already.
    pub(super) fn all_hold(&self, cells: Range<usize>, value: V) -> bool {
        let Some(place) = self.find(value) else { return false };
        let parts = Parts::of(cells);
        let each = |mut cells: Range<usize>| cells.all(|index| self.get(index).same(value));
        each(parts.before)
            && each(parts.behind)
            && self.words[parts.words].iter().all(|word| *word == place * IN_EACH_PLACE)
    }

    /// Gives cells that lie one behind the other a value, where the table has it or room for it.
    pub(super) fn fill(&mut self, cells: Range<usize>, value: V) -> bool {
        let Some(place) = self.place(value) else { return false };
        let parts = Parts::of(cells);
        parts.before.for_each(|index| self.put_place(index, place));
        parts.behind.for_each(|index| self.put_place(index, place));
        self.words[parts.words].fill(place * IN_EACH_PLACE);
        true
    }
}

/// Where in a table to look for a value first. To look through the table for each of many values
/// costs eight times as much.
struct Index {
    places: [u8; Index::SIZE],
}

impl Index {
    const SIZE: usize = 64;

    fn of<V: Value>(packed: &Packed<V>) -> Index {
        let mut places = [0; Index::SIZE];
        for (place, value) in (0..).zip(packed.values()) {
            places[Index::slot(*value)] = place;
        }
        Index { places }
    }

    /// Multiplicative hashing (Knuth, "The Art of Computer Programming", volume 3, 6.4).
    #[inline]
    fn slot<V: Value>(value: V) -> usize {
        (value.to_bits().wrapping_mul(0x9e37_79b9) >> (32 - Index::SIZE.trailing_zeros())) as usize
    }

    /// The place of a value, if the table has it and no other value has its slot.
    #[inline]
    fn guess<V: Value>(&self, value: V) -> usize {
        usize::from(self.places[Index::slot(value)]) % MOST_VALUES
    }
}

/// Cells that lie one behind the other, by the words they lie in.
struct Parts {
    /// Before the first whole word.
    before: Range<usize>,
    /// The numbers of the whole words.
    words: Range<usize>,
    /// Behind the last whole word.
    behind: Range<usize>,
}

impl Parts {
    #[inline]
    fn of(cells: Range<usize>) -> Parts {
        let first = cells.start.next_multiple_of(IN_WORD).min(cells.end);
        let last = (cells.end / IN_WORD * IN_WORD).max(first);
        let words = first / IN_WORD..last / IN_WORD;
        Parts { before: cells.start..first, words, behind: last..cells.end }
    }

    #[inline]
    fn of_values<V>(start: usize, values: &[V]) -> (Parts, [&[V]; 3]) {
        let parts = Parts::of(start..start + values.len());
        let (before, rest) = values.split_at(parts.before.len());
        let (words, behind) = rest.split_at(parts.words.len() * IN_WORD);
        (parts, [before, words, behind])
    }
}
