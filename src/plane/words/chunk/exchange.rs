//! Giving single cells of a chunk one value, and telling what they held before.

use super::packed::Packed;
use super::write::{Write, own};
use super::{Chunk, by_form};

impl Chunk {
    /// Gives some cells a value, and adds those that held another one with what that was, in their order. A
    /// cell may come twice. Returns whether any held another. Parts the chunk from clones in any case. It
    /// must be here.
    pub(crate) fn exchange(
        &mut self,
        cells: &[u16],
        value: u32,
        indexes: &mut Vec<u16>,
        before: &mut Vec<u32>,
    ) -> bool {
        let noted = indexes.len();
        let room = indexes.len() + cells.len();
        indexes.resize(room, 0);
        before.resize(room, 0);
        let mut into = (&mut indexes[noted..], &mut before[noted..]);
        let done = loop {
            let done = by_form!(self;
                Uniform(_) => None,
                Packed(packed) => {
                    let packed = own(packed);
                    packed.exchange(cells, value, &mut into).map(|count| {
                        (count, packed.wear.add(count))
                    })
                },
                Full(full) => {
                    let full = own(full);
                    let count = exchange(cells, &mut into, |at| {
                        let held = std::mem::replace(&mut full.values[at], value);
                        (held, held != value)
                    });
                    Some((count, full.wear.add(count)))
                },
                Absent(_) => {
                    debug_assert!(false, "a chunk that is not here was written to");
                    Some((0, None))
                },
            );
            match done {
                Some(done) => break done,
                None => *self = self.with_room_for(&Write::Cell(0, value)),
            }
        };
        let (count, look) = done;
        indexes.truncate(noted + count);
        before.truncate(noted + count);
        if let Some(room) = look
            && let Some(narrower) = self.narrower(room)
        {
            *self = narrower;
        }
        count > 0
    }
}

impl<const WORDS: usize, const VALUES: usize> Packed<WORDS, VALUES> {
    /// Where the table has room for the value; else nothing is done.
    fn exchange(
        &mut self,
        cells: &[u16],
        value: u32,
        into: &mut (&mut [u16], &mut [u32]),
    ) -> Option<usize> {
        let place = self.place(value)?;
        Some(exchange(cells, into, |at| {
            let held = self.replace_place(at, place);
            (self.values_at(held), held != place)
        }))
    }
}

/// Goes through cells, and writes what those held that were changed. Returns how many were.
#[inline]
fn exchange(
    cells: &[u16],
    (indexes, before): &mut (&mut [u16], &mut [u32]),
    mut replace: impl FnMut(usize) -> (u32, bool),
) -> usize {
    let mut count = 0;
    for cell in cells {
        let (held, is_other) = replace(usize::from(*cell));
        // Written in any case, and overwritten by the next one: a branch would often be foretold wrongly.
        indexes[count] = *cell;
        before[count] = held;
        count += usize::from(is_other);
    }
    count
}
