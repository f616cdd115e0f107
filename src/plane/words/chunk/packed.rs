//! Values as places in a small table: the form of a chunk that holds few different values.

use std::ops::Range;

use super::bits::{each_one, each_run};
use super::guess::Guesses;
use super::parts::Parts;
use super::wear::Wear;
use super::{CELLS, ChunkBits, SIDE, Write};
use crate::prefetch::prefetch;
use crate::units::CellRect;

/// At most `VALUES` different values: a table of them, and for each cell its place there. A place
/// takes `WORDS / 64` bits.
///
/// The table comes first: what a write looks at beside its word then lies in one line of the cache.
#[derive(Clone, Debug)]
#[repr(C)]
pub(crate) struct Packed<const WORDS: usize, const VALUES: usize> {
    /// The values in use first, each once; the rest is filled up.
    table: [u32; VALUES],
    used: u16,
    pub(super) wear: Wear,
    /// The places of as many cells as there is room for in each, the first in the lowest bits.
    words: [u64; WORDS],
}

pub(crate) type Bits1 = Packed<64, 2>;
pub(crate) type Bits2 = Packed<128, 4>;
pub(crate) type Bits4 = Packed<256, 16>;
pub(crate) type Bits8 = Packed<512, 256>;

// Make.
impl<const WORDS: usize, const VALUES: usize> Packed<WORDS, VALUES> {
    pub(super) const BITS: usize = WORDS * 64 / CELLS;
    pub(super) const IN_WORD: usize = CELLS / WORDS;
    /// A word of ones: times a place it is the word in which all cells have that place.
    const IN_EACH_PLACE: u64 = u64::MAX / (VALUES as u64 - 1);

    pub(super) fn uniform(value: u32) -> Self {
        Packed { table: [value; VALUES], used: 1, wear: Wear::NONE, words: [0; WORDS] }
    }

    /// A table, and for each cell the place there that is given for it.
    pub(super) fn from_places(table: &[u32], wear: Wear, place: impl Fn(usize) -> usize) -> Self {
        let mut packed = Self::uniform(table.first().copied().unwrap_or_default());
        packed.wear = wear;
        packed.table[..table.len()].copy_from_slice(table);
        packed.used = table.len() as u16;
        for (number, word) in packed.words.iter_mut().enumerate() {
            for at in 0..Self::IN_WORD {
                *word |= (place(number * Self::IN_WORD + at) as u64) << (at * Self::BITS);
            }
        }
        packed
    }
}

impl Packed<64, 2> {
    /// 1 in some cells and 0 in the others.
    pub(super) const fn of_bits(bits: &ChunkBits) -> Self {
        Packed { table: [0, 1], used: 2, wear: Wear::NONE, words: bits.0 }
    }
}

impl<const WORDS: usize, const VALUES: usize> Packed<WORDS, VALUES> {
    /// A table of different values, and words of places; `None` where a place is none.
    pub(super) fn of_words(table: &[u32], words: &[u64; WORDS]) -> Option<Self> {
        let mut packed = Self::uniform(*table.first()?);
        packed.table.get_mut(..table.len())?.copy_from_slice(table);
        packed.used = table.len() as u16;
        packed.words = *words;
        let is_there = |index| packed.place_of(index) < table.len();
        (table.len() == VALUES || (0..CELLS).all(is_there)).then_some(packed)
    }

    /// The same places with other values: `value` gives another one for each, and no two the same.
    pub(super) fn mapped(&self, value: impl Fn(u32) -> u32) -> Self {
        let mut mapped = self.clone();
        mapped.table.iter_mut().for_each(|held| *held = value(*held));
        mapped
    }
}

// Read.
impl<const WORDS: usize, const VALUES: usize> Packed<WORDS, VALUES> {
    /// All values that the cells can have; not each of them is still in use.
    pub(super) fn values(&self) -> &[u32] {
        &self.table[..self.used.into()]
    }

    /// The places of all cells.
    pub(super) const fn words(&self) -> &[u64; WORDS] {
        &self.words
    }

    #[inline]
    pub(super) fn get(&self, index: usize) -> u32 {
        self.table[self.place_of(index)]
    }

    /// Asks memory for what [`Packed::get`] will read.
    #[inline]
    pub(super) fn prefetch(&self, index: usize) {
        prefetch(&self.words[index / Self::IN_WORD]);
        prefetch(&self.table);
    }

    /// Whether two chunks have one table, as far as both use it.
    pub(super) fn shares_table(&self, other: &Self) -> bool {
        let used = usize::from(self.used.min(other.used));
        { self.table[..used].iter().zip(&other.table[..used]) }.all(|(own, others)| own == others)
    }

    /// Whether two chunks have the same places in some rows. Where they share a table, they then
    /// hold the same there: places that only one of them uses are in no row that is the same.
    pub(super) fn same_places(&self, other: &Self, cells: Range<usize>) -> bool {
        let words = cells.start / Self::IN_WORD..cells.end / Self::IN_WORD;
        self.words[words.clone()] == other.words[words]
    }

    /// Adds the cells of a row that have other places than in another chunk.
    pub(super) fn add_other_places(&self, other: &Self, row: usize, others: &mut Vec<u16>) {
        let first = row * SIDE / Self::IN_WORD;
        let words = self.words[first..].iter().zip(&other.words[first..]);
        for (word, (a, b)) in words.take(SIDE / Self::IN_WORD).enumerate() {
            let mut differing = a ^ b;
            while differing != 0 {
                let at = differing.trailing_zeros() as usize / Self::BITS;
                others.push((row * SIDE + word * Self::IN_WORD + at) as u16);
                differing &= !((VALUES as u64 - 1) << (at * Self::BITS));
            }
        }
    }

    /// The place in the table of what a cell holds.
    #[inline]
    pub(super) fn place_of(&self, index: usize) -> usize {
        let word = self.words[index / Self::IN_WORD];
        (word >> (index % Self::IN_WORD * Self::BITS)) as usize % VALUES
    }

    /// The place of a value in the table, where it is there.
    #[inline]
    fn find(&self, value: u32) -> Option<usize> {
        // A whole block is compared without a way out, so that the machine may take many at a time.
        const BLOCK: usize = 16;
        if VALUES < BLOCK {
            return self.values().iter().position(|held| *held == value);
        }
        for (number, block) in self.values().chunks(BLOCK).enumerate() {
            if block.iter().fold(false, |found, held| found | (*held == value)) {
                let at = block.iter().position(|held| *held == value)?;
                return Some(number * BLOCK + at);
            }
        }
        None
    }

    /// Copies the values of cells that lie one behind the other.
    #[inline]
    pub(super) fn unpack(&self, start: usize, into: &mut [u32]) {
        let parts = Parts::of(start..start + into.len(), Self::IN_WORD);
        let (before, rest) = into.split_at_mut(parts.before.len());
        let (whole, behind) = rest.split_at_mut(parts.words.len() * Self::IN_WORD);
        let unpack = |mut word: u64, into: &mut [u32]| {
            for value in into {
                *value = self.table[word as usize % VALUES];
                word >>= Self::BITS;
            }
        };
        if !before.is_empty() {
            let word = self.words[start / Self::IN_WORD];
            unpack(word >> (start % Self::IN_WORD * Self::BITS), before);
        }
        for (word, into) in
            self.words[parts.words].iter().zip(whole.chunks_exact_mut(Self::IN_WORD))
        {
            for (at, value) in into.iter_mut().enumerate() {
                *value = self.table[(word >> (at * Self::BITS)) as usize % VALUES];
            }
        }
        if !behind.is_empty() {
            unpack(self.words[parts.behind.start / Self::IN_WORD], behind);
        }
    }

    /// As of [`Full`](super::full::Full).
    #[inline]
    pub(super) fn has(&self, write: &Write<'_>) -> bool {
        match write {
            Write::Cell(index, value) => self.get(*index) == *value,
            Write::Values(start, values) => {
                values.first().is_none_or(|first| self.get(*start) == *first)
                    && self.holds(*start, values)
            }
            Write::Fill(cells, value) => {
                self.get(cells.start) == *value && self.all_hold(cells.clone(), *value)
            }
            Write::Bits(..) => false,
        }
    }

    /// Whether cells that lie one behind the other hold these values already.
    fn holds(&self, start: usize, values: &[u32]) -> bool {
        let (parts, [before, words, behind]) = Parts::of_values(start, values, Self::IN_WORD);
        let each = |start: usize, values: &[u32]| {
            (start..).zip(values).all(|(index, value)| self.get(index) == *value)
        };
        if !each(parts.before.start, before) || !each(parts.behind.start, behind) {
            return false;
        }
        self.words[parts.words].iter().zip(words.chunks_exact(Self::IN_WORD)).all(
            |(&word, values)| {
                let held = |at: usize| self.table[(word >> (at * Self::BITS)) as usize % VALUES];
                let differing = values
                    .iter()
                    .enumerate()
                    .fold(0, |differing, (at, value)| differing | (held(at) ^ value));
                differing == 0
            },
        )
    }

    /// Whether cells that lie one behind the other all hold a value already.
    pub(super) fn all_hold(&self, cells: Range<usize>, value: u32) -> bool {
        let Some(place) = self.find(value) else { return false };
        let parts = Parts::of(cells, Self::IN_WORD);
        let each = |mut cells: Range<usize>| cells.all(|index| self.get(index) == value);
        let uniform = place as u64 * Self::IN_EACH_PLACE;
        each(parts.before)
            && each(parts.behind)
            && self.words[parts.words].iter().all(|word| *word == uniform)
    }

    /// Whether two hold the same values; quick where their tables are the same.
    pub(super) fn same(&self, other: &Self) -> bool {
        let pairs = self.values().iter().zip(other.values());
        if self.used == other.used && pairs.clone().all(|(a, b)| a == b) {
            // No value has two places, so equal words are equal values.
            return self.words == other.words;
        }
        (0..CELLS).all(|index| self.get(index) == other.get(index))
    }

    /// Adds the cells whose values fulfil a condition, which is asked once for each of the table.
    pub(super) fn collect_where(&self, wanted: impl Fn(u32) -> bool, into: &mut Vec<(u16, u32)>) {
        let mut is_wanted = [false; VALUES];
        for (wanted_here, value) in is_wanted.iter_mut().zip(self.values()) {
            *wanted_here = wanted(*value);
        }
        for (number, &word) in self.words.iter().enumerate() {
            let first = word as usize % VALUES;
            if !is_wanted[first] && word == first as u64 * Self::IN_EACH_PLACE {
                continue;
            }
            for at in 0..Self::IN_WORD {
                let place = (word >> (at * Self::BITS)) as usize % VALUES;
                if is_wanted[place] {
                    into.push(((number * Self::IN_WORD + at) as u16, self.table[place]));
                }
            }
        }
    }

    /// The smallest rectangle of the chunk with every cell that is not the default; columns and
    /// rows count from the chunk's corner.
    pub(super) fn bounds(&self) -> CellRect {
        let Some(default) = self.find(0) else {
            return super::within(0..SIDE, 0..SIDE);
        };
        let empty = default as u64 * Self::IN_EACH_PLACE;
        let words_a_row = WORDS / SIDE;
        let (mut rows, mut columns) = (0..0, [0_u64; 8]);
        for (row, words) in self.words.chunks_exact(words_a_row).enumerate() {
            let mut any = 0;
            for (column, word) in columns.iter_mut().zip(words) {
                *column |= word ^ empty;
                any |= word ^ empty;
            }
            if any != 0 {
                rows = if rows.is_empty() { row } else { rows.start }..row + 1;
            }
        }
        let columns = &columns[..words_a_row];
        let used = |word: &u64| *word != 0;
        match (columns.iter().position(used), columns.iter().rposition(used)) {
            (Some(first), Some(last)) => {
                let left = columns[first].trailing_zeros() as usize / Self::BITS;
                let right = (63 - columns[last].leading_zeros() as usize) / Self::BITS;
                super::within(first * Self::IN_WORD + left..last * Self::IN_WORD + right + 1, rows)
            }
            _ => CellRect::EMPTY,
        }
    }

    /// The values that cells still hold, with their places, in the order of the table; nothing
    /// where there are more than `most`.
    pub(super) fn in_use(&self, most: usize) -> Option<Vec<(usize, u32)>> {
        let (mut seen, mut count, mut last) = ([false; VALUES], 0, None);
        for &word in &self.words {
            if last == Some(word) {
                continue;
            }
            last = Some(word);
            for at in 0..Self::IN_WORD {
                let place = (word >> (at * Self::BITS)) as usize % VALUES;
                count += usize::from(!seen[place]);
                seen[place] = true;
            }
            if count > most {
                return None;
            }
        }
        let values = self.table.iter().zip(seen).enumerate();
        Some(values.filter(|(_, (_, seen))| *seen).map(|(place, (v, _))| (place, *v)).collect())
    }
}

// Change.
impl<const WORDS: usize, const VALUES: usize> Packed<WORDS, VALUES> {
    /// Writes, where the table has room for what comes; else some of it may have been written.
    #[inline]
    pub(super) fn apply(&mut self, write: &Write<'_>) -> bool {
        match write {
            Write::Cell(index, value) => self.put(*index, *value),
            Write::Values(start, values) => self.write(*start, values),
            Write::Fill(cells, value) => self.fill(cells.clone(), *value),
            Write::Bits(bits, value) => self.fill_bits(bits, *value),
        }
    }

    fn fill_bits(&mut self, bits: &ChunkBits, value: u32) -> bool {
        let Some(place) = self.place(value) else { return false };
        if Self::BITS == 1 {
            let places = place as u64 * Self::IN_EACH_PLACE;
            for (word, bits) in self.words.iter_mut().zip(&bits.0) {
                *word = *word & !bits | places & bits;
            }
            return true;
        }
        for (row, bits) in bits.0.iter().enumerate() {
            // Of a thin line, a few cells that are mostly apart.
            if bits & bits >> 1 & bits >> 2 == 0 {
                each_one(*bits, |column| self.put_place(row * SIDE + column, place));
            } else {
                each_run(*bits, |column, count| {
                    let start = row * SIDE + column;
                    self.fill_place(start..start + count, place);
                });
            }
        }
        true
    }

    fn put(&mut self, index: usize, value: u32) -> bool {
        self.place(value).map(|place| self.put_place(index, place)).is_some()
    }

    /// Gives a cell another place in the table, and returns the one it had.
    #[inline]
    pub(super) fn replace_place(&mut self, index: usize, place: usize) -> usize {
        let at = index % Self::IN_WORD * Self::BITS;
        let word = &mut self.words[index / Self::IN_WORD % WORDS];
        let held = (*word >> at) as usize % VALUES;
        *word ^= ((held ^ place) as u64) << at;
        held
    }

    /// The value in a place of the table.
    #[inline]
    pub(super) const fn values_at(&self, place: usize) -> u32 {
        self.table[place % VALUES]
    }

    fn put_place(&mut self, index: usize, place: usize) {
        let at = index % Self::IN_WORD * Self::BITS;
        let word = &mut self.words[index / Self::IN_WORD];
        *word = *word & !((VALUES as u64 - 1) << at) | (place as u64) << at;
    }

    /// The place of a value in the table, where it is or can be added.
    #[inline]
    pub(super) fn place(&mut self, value: u32) -> Option<usize> {
        if let Some(known) = self.find(value) {
            return Some(known);
        }
        let place = usize::from(self.used);
        *self.table.get_mut(place)? = value;
        self.used += 1;
        Some(place)
    }

    fn write(&mut self, start: usize, values: &[u32]) -> bool {
        let (parts, [before, words, behind]) = Parts::of_values(start, values, Self::IN_WORD);
        let mut each = |start: usize, values: &[u32]| {
            (start..).zip(values).all(|(index, &value)| self.put(index, value))
        };
        if !each(parts.before.start, before) || !each(parts.behind.start, behind) {
            return false;
        }
        let mut guesses = Guesses::<WORDS>::of(self.values());
        for (number, values) in parts.words.zip(words.chunks_exact(Self::IN_WORD)) {
            let Some(word) = self.guessed(values, &guesses).or_else(|| {
                let mut places = values.iter().enumerate();
                places.try_fold(0, |word, (at, &value)| {
                    let place = self.place(value)?;
                    guesses.learn(value, place);
                    Some(word | (place as u64) << (at * Self::BITS))
                })
            }) else {
                return false;
            };
            self.words[number] = word;
        }
        true
    }

    /// The word for values one behind the other, where the guesses are right for all of them.
    #[inline]
    fn guessed(&self, values: &[u32], guesses: &Guesses<WORDS>) -> Option<u64> {
        // All are taken to be where they are guessed, and whether they are is asked once.
        let (mut word, mut differing) = (0, 0);
        for (at, value) in values.iter().enumerate() {
            let place = guesses.place(*value) % VALUES;
            differing |= self.table[place] ^ value;
            word |= (place as u64) << (at * Self::BITS);
        }
        (differing == 0).then_some(word)
    }

    #[inline]
    fn fill(&mut self, cells: Range<usize>, value: u32) -> bool {
        let Some(place) = self.place(value) else { return false };
        self.fill_place(cells, place);
        true
    }

    #[inline]
    fn fill_place(&mut self, cells: Range<usize>, place: usize) {
        let parts = Parts::of(cells, Self::IN_WORD);
        parts.before.for_each(|index| self.put_place(index, place));
        parts.behind.for_each(|index| self.put_place(index, place));
        self.words[parts.words].fill(place as u64 * Self::IN_EACH_PLACE);
    }
}
