//! All values by themselves, and how the different ones among them are found.

use super::bits::each_run;
use super::wear::Wear;
use super::{CELLS, SIDE, Write, guess};
use crate::units::CellRect;

/// The form of a chunk that holds many different values.
#[derive(Clone, Debug)]
pub(crate) struct Full {
    pub(super) values: [u32; CELLS],
    pub(super) wear: Wear,
}

impl Full {
    pub(super) fn uniform(value: u32, wear: Wear) -> Full {
        Full { values: [value; CELLS], wear }
    }

    /// Whether it holds already what is to be written. The first cell is asked first: what differs
    /// mostly does so there.
    #[inline]
    pub(super) fn has(&self, write: &Write<'_>) -> bool {
        match write {
            Write::Cell(index, value) => self.values[*index] == *value,
            Write::Values(start, values) => {
                self.values[*start..].iter().zip(*values).all(|(a, b)| a == b)
            }
            Write::Fill(cells, value) => self.values[cells.clone()].iter().all(|v| v == value),
            Write::Bits(..) => false,
        }
    }

    #[inline]
    pub(super) fn apply(&mut self, write: &Write<'_>) {
        match write {
            Write::Cell(index, value) => self.values[*index] = *value,
            Write::Values(start, values) => {
                self.values[*start..*start + values.len()].copy_from_slice(values);
            }
            Write::Fill(cells, value) => self.values[cells.clone()].fill(*value),
            Write::Bits(bits, value) => {
                for (row, bits) in bits.0.iter().enumerate() {
                    each_run(*bits, |column, count| {
                        let start = row * SIDE + column;
                        self.values[start..start + count].fill(*value);
                    });
                }
            }
        }
    }

    /// As for [`Packed`](super::packed::Packed).
    pub(super) fn bounds(&self) -> CellRect {
        let (mut rows, mut columns) = (0..0, [0_u32; SIDE]);
        for (row, values) in self.values.chunks_exact(SIDE).enumerate() {
            let mut any = 0;
            for (column, value) in columns.iter_mut().zip(values) {
                *column |= value;
                any |= value;
            }
            if any != 0 {
                rows = if rows.is_empty() { row } else { rows.start }..row + 1;
            }
        }
        let used = |bits: &u32| *bits != 0;
        match (columns.iter().position(used), columns.iter().rposition(used)) {
            (Some(first), Some(last)) => super::within(first..last + 1, rows),
            _ => CellRect::EMPTY,
        }
    }
}

/// Different values in the order in which they came, found again by a hash table with open
/// addressing (Knuth, "The Art of Computer Programming", volume 3, 6.4).
pub(super) struct Distinct {
    slots: [u16; SLOTS],
    values: Vec<u32>,
    /// For each value that came, its place among the different ones.
    places: Vec<u8>,
}

/// Four times as many as the most values.
const SLOTS: usize = 1024;

impl Distinct {
    /// The different ones of some values; nothing where there are more than `most`, at most 256.
    pub(super) fn of(values: impl IntoIterator<Item = u32>, most: usize) -> Option<Distinct> {
        let values = values.into_iter();
        let places = Vec::with_capacity(values.size_hint().0);
        let mut distinct = Distinct { slots: [0; SLOTS], values: Vec::new(), places };
        for value in values {
            let slot = distinct.slot(value);
            if distinct.slots[slot] == 0 {
                if distinct.values.len() == most {
                    return None;
                }
                distinct.values.push(value);
                distinct.slots[slot] = distinct.values.len() as u16;
            }
            distinct.places.push((distinct.slots[slot] - 1) as u8);
        }
        Some(distinct)
    }

    pub(super) fn values(&self) -> &[u32] {
        &self.values
    }

    /// The place among the different ones of the value that came at a turn.
    #[inline]
    pub(super) fn place(&self, turn: usize) -> usize {
        self.places[turn].into()
    }

    /// The slot of a value, or the free one that it would take.
    #[inline]
    fn slot(&self, value: u32) -> usize {
        let mut slot = guess::slot(value, SLOTS);
        while let Some(held) = usize::from(self.slots[slot]).checked_sub(1) {
            if self.values[held] == value {
                break;
            }
            slot = (slot + 1) % SLOTS;
        }
        slot
    }
}
