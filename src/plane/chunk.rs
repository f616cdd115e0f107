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
    table: Vec<V>,
    words: Box<[u64]>,
}

const SIDE: usize = ChunkPos::SIDE as usize;
const CELLS: usize = SIDE * SIDE;
const BITS: usize = 4;
const IN_WORD: usize = 64 / BITS;
const MOST_VALUES: usize = 1 << BITS;

impl<V: Value> Packed<V> {
    fn uniform(value: V) -> Packed<V> {
        Packed { table: vec![value], words: vec![0; CELLS / IN_WORD].into() }
    }

    fn get(&self, index: usize) -> V {
        let place = self.words[index / IN_WORD] >> (index % IN_WORD * BITS);
        self.table[place as usize % MOST_VALUES]
    }

    /// The place of a value in the table, where it is or can be added.
    fn place(&mut self, value: V) -> Option<u64> {
        let known = self.table.iter().position(|held| held.same(value));
        if known.is_none() && self.table.len() < MOST_VALUES {
            self.table.push(value);
            return Some(self.table.len() as u64 - 1);
        }
        known.map(|place| place as u64)
    }

    fn put(&mut self, index: usize, place: u64) {
        let (word, at) = (&mut self.words[index / IN_WORD], index % IN_WORD * BITS);
        *word = *word & !(0xf << at) | place << at;
    }

    fn unpacked(&self) -> Arc<[V]> {
        (0..CELLS).map(|index| self.get(index)).collect()
    }
}

impl<V: Value> Chunk<V> {
    pub(crate) const CELLS: usize = CELLS;

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
            Chunk::Packed(packed) => packed.table.iter().any(|&v| wanted(v)),
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

    pub(super) fn write_slice(&mut self, start: usize, values: &[V]) {
        self.write(start, values.iter().copied());
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
        match (packed.table.as_slice(), self) {
            ([only], _) => Some(Chunk::Uniform(*only)),
            (table, Chunk::Packed(own)) if table.len() == own.table.len() => None,
            _ => Some(Chunk::Packed(Arc::new(packed))),
        }
    }
}

impl<V: Value> Default for Chunk<V> {
    fn default() -> Chunk<V> {
        Chunk::Uniform(V::default())
    }
}
