//! The forms of a chunk: one value, a table of few values with four bits a cell, or all values.

use std::ops::Range;
use std::sync::Arc;

use super::packed::Packed;
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

const SIDE: usize = ChunkPos::SIDE as usize;
pub(super) const CELLS: usize = SIDE * SIDE;

/// Whether all values are the same as one. Looks at all without a way out, so that the machine may
/// take many at a time.
fn all_are<V: Value>(values: &[V], one: V) -> bool {
    values.iter().fold(0, |bits, v| bits | (v.to_bits() ^ one.to_bits())) == 0
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

    fn all_values(&self) -> Vec<V> {
        let mut values = Vec::with_capacity(CELLS);
        self.copy_to(0, CELLS, &mut values);
        values
    }

    /// Whether cells that lie one behind the other hold these values already.
    pub(super) fn holds(&self, start: usize, values: &[V]) -> bool {
        match self {
            Chunk::Uniform(held) => all_are(values, *held),
            Chunk::Packed(packed) => packed.holds(start, values),
            Chunk::Full(held) => held[start..].iter().zip(values).all(|(a, b)| a.same(*b)),
            Chunk::Absent(_) => false,
        }
    }

    /// Whether the first of some cells holds a value: where not, the rest need not be looked at.
    fn begins(&self, start: usize, value: V) -> bool {
        self.get(start).here().is_some_and(|held| held.same(value))
    }

    /// Whether cells that lie one behind the other all hold a value already.
    fn all_hold(&self, cells: Range<usize>, value: V) -> bool {
        match self {
            Chunk::Uniform(held) => held.same(value),
            Chunk::Packed(packed) => packed.all_hold(cells, value),
            Chunk::Full(held) => all_are(&held[cells], value),
            Chunk::Absent(_) => false,
        }
    }

    /// The smallest rectangle with every cell that is not the default; all cells when absent.
    pub(crate) fn bounds(&self, pos: ChunkPos) -> CellRect {
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
        if !self.begins(index, value) {
            self.write(|packed| packed.put(index, value), |all| all[index] = value);
        }
    }

    /// Writes values one behind the other, from a cell on, and says whether that changed any.
    pub(super) fn write_slice(&mut self, start: usize, values: &[V]) -> bool {
        if let Some(&first) = values.first()
            && all_are(values, first)
        {
            return self.fill_run(start..start + values.len(), first);
        }
        if values.is_empty() || self.begins(start, values[0]) && self.holds(start, values) {
            return false;
        }
        self.write(
            |packed| packed.write(start, values),
            |all| all[start..start + values.len()].copy_from_slice(values),
        );
        true
    }

    pub(super) fn fill(&mut self, part: CellRect, value: V) {
        for row in part.top()..part.bottom() {
            let start = crate::units::CellPos::new(part.left(), row).index_in_chunk();
            self.fill_run(start..start + part.width() as usize, value);
        }
    }

    /// Gives cells that lie one behind the other a value, and says whether that changed any.
    fn fill_run(&mut self, cells: Range<usize>, value: V) -> bool {
        if self.begins(cells.start, value) && self.all_hold(cells.clone(), value) {
            return false;
        }
        self.write(
            |packed| packed.fill(cells.clone(), value),
            |all| all[cells.clone()].fill(value),
        );
        true
    }

    /// Writes in the smallest form that takes what comes: to the table, which says whether it had
    /// room for all, or else to the values by themselves. An absent chunk must be admitted first;
    /// it becomes one that holds the default value elsewhere.
    fn write(
        &mut self,
        to_table: impl FnOnce(&mut Packed<V>) -> bool,
        to_values: impl FnOnce(&mut [V]),
    ) {
        match self {
            Chunk::Uniform(held) => *self = Chunk::Packed(Arc::new(Packed::uniform(*held))),
            Chunk::Absent(_) => {
                debug_assert!(false, "a chunk that is not here was written to");
                *self = Chunk::Packed(Arc::new(Packed::uniform(V::default())));
            }
            Chunk::Packed(_) | Chunk::Full(_) => {}
        }
        if let Chunk::Packed(packed) = self {
            let packed = Arc::make_mut(packed);
            if to_table(packed) {
                return;
            }
            *self = Chunk::Full(self.all_values().into());
        }
        if let Chunk::Full(values) = self {
            to_values(Arc::make_mut(values));
        }
    }

    /// The chunk in a smaller form, or `None` where it has the smallest.
    pub(super) fn compacted(&self) -> Option<Chunk<V>> {
        if matches!(self, Chunk::Uniform(_) | Chunk::Absent(_)) {
            return None;
        }
        let values = self.all_values();
        let mut packed = Packed::uniform(*values.first()?);
        if !packed.write(0, &values) {
            return None;
        }
        match (packed.values(), self) {
            ([only], _) => Some(Chunk::Uniform(*only)),
            (table, Chunk::Packed(own)) if table.len() == own.values().len() => None,
            _ => Some(Chunk::Packed(Arc::new(packed))),
        }
    }
}

impl<V: Value> Default for Chunk<V> {
    fn default() -> Chunk<V> {
        Chunk::Uniform(V::default())
    }
}
