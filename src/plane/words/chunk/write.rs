//! Writing to a chunk, in a wider form where that is needed.

use std::ops::Range;

use triomphe::Arc;

use super::full::{Distinct, Full};
use super::narrow::{Room, Width};
use super::packed::Packed;
use super::wear::Wear;
use super::{CELLS, Chunk, ChunkBits, all_are, by_form, rows_of};
use crate::units::CellRect;

/// What is written to cells of a chunk, by their index in it.
pub(super) enum Write<'a> {
    Cell(usize, u32),
    Values(usize, &'a [u32]),
    Fill(Range<usize>, u32),
    /// A value in some cells, at least one of which holds another.
    Bits(&'a ChunkBits, u32),
}

impl Write<'_> {
    /// How many cells are written to.
    #[inline]
    fn len(&self) -> usize {
        match self {
            Write::Cell(..) => 1,
            Write::Values(_, values) => values.len(),
            Write::Fill(cells, _) => cells.len(),
            // About so many: a thin line has a few in a row, and wear need not be exact.
            Write::Bits(bits, _) => bits.used_rows() * 4,
        }
    }

    /// Whether nothing but one value is written.
    #[inline]
    fn is_all(&self, one: u32) -> bool {
        match self {
            Write::Cell(_, value) | Write::Fill(_, value) | Write::Bits(_, value) => *value == one,
            Write::Values(_, values) => all_are(values, one),
        }
    }
}

/// A value that is held alone from now on. What it takes to part it from clones is kept apart, so
/// that a write to what is not shared does not make room for a copy.
#[inline]
pub(super) fn own<T: Clone>(held: &mut Arc<T>) -> &mut T {
    #[cold]
    #[inline(never)]
    fn part<T: Clone>(held: &mut Arc<T>) {
        *held = Arc::new(T::clone(held));
    }
    if !held.is_unique() {
        part(held);
    }
    Arc::get_mut(held).expect("what has just been copied is held once")
}

impl Chunk {
    /// Gives a cell a value, and says whether that changed it.
    pub(crate) fn set(&mut self, index: usize, value: u32) -> bool {
        self.apply(&Write::Cell(index, value))
    }

    /// Writes values one behind the other, from a cell on, and says whether that changed any.
    pub(crate) fn write_slice(&mut self, start: usize, values: &[u32]) -> bool {
        match values.first() {
            None => false,
            Some(&first) if all_are(values, first) => {
                self.apply(&Write::Fill(start..start + values.len(), first))
            }
            Some(_) => self.apply(&Write::Values(start, values)),
        }
    }

    pub(crate) fn fill(&mut self, part: CellRect, value: u32) {
        if part.cell_count() as usize == CELLS {
            *self = Chunk::Uniform(value);
            return;
        }
        for cells in rows_of(part) {
            self.apply(&Write::Fill(cells, value));
        }
    }

    /// Writes, in a wider form where that is needed, and says whether that changed anything. An
    /// absent chunk must be admitted first; it becomes one that holds the default value elsewhere.
    #[inline(always)]
    pub(super) fn apply(&mut self, write: &Write<'_>) -> bool {
        let look = loop {
            let done = by_form!(self;
                Uniform(value) => {
                    if write.is_all(*value) {
                        return false;
                    }
                    None
                },
                Packed(packed) => {
                    if packed.has(write) {
                        return false;
                    }
                    let packed = own(packed);
                    packed.apply(write).then(|| packed.wear.add(write.len()))
                },
                Full(full) => {
                    if full.has(write) {
                        return false;
                    }
                    let full = own(full);
                    full.apply(write);
                    Some(full.wear.add(write.len()))
                },
                Absent(_) => {
                    debug_assert!(false, "a chunk that is not here was written to");
                    None
                },
            );
            match done {
                Some(look) => break look,
                None => *self = self.with_room_for(write),
            }
        };
        if let Some(room) = look
            && let Some(narrower) = self.narrower(room)
        {
            *self = narrower;
        }
        true
    }

    /// The chunk in a form that has room for what the own one has none for.
    #[cold]
    #[inline(never)]
    pub(super) fn with_room_for(&self, write: &Write<'_>) -> Chunk {
        // A row of many values is the first of many rows: those are written fastest to a full
        // chunk, which takes a narrower form later.
        const MAX_BY_ROWS: usize = 16;
        let default = [0];
        let known = by_form!(self;
            Uniform(value) => std::slice::from_ref(value),
            Packed(packed) => packed.values(),
            Full(_) => &default,
            Absent(_) => &default,
        );
        let width = match write {
            Write::Cell(..) | Write::Fill(..) | Write::Bits(..) => {
                Room::None.width(known.len() + 1)
            }
            Write::Values(_, values) => {
                let all = known.iter().chain(*values).copied();
                Distinct::of(all, MAX_BY_ROWS).and_then(|all| Room::None.width(all.values().len()))
            }
        };
        let wear = self.wear();
        let Some(width) = width else {
            let mut full = Full::uniform(0, wear);
            self.copy_to(0, &mut full.values);
            return Chunk::Full(Arc::new(full));
        };
        by_form!(self;
            Uniform(value) => Chunk::packed_uniform(width, *value),
            Packed(packed) => Chunk::packed(width, known, wear, |index| packed.place_of(index)),
            // It has room for anything.
            Full(_) => self.clone(),
            Absent(_) => Chunk::packed_uniform(width, 0),
        )
    }

    /// A packed chunk that holds one value, and has room for others.
    fn packed_uniform(width: Width, value: u32) -> Chunk {
        match width {
            Width::Bits1 => Chunk::Bits1(Arc::new(Packed::uniform(value))),
            Width::Bits2 => Chunk::Bits2(Arc::new(Packed::uniform(value))),
            Width::Bits4 => Chunk::Bits4(Arc::new(Packed::uniform(value))),
            Width::Bits8 => Chunk::Bits8(Arc::new(Packed::uniform(value))),
        }
    }

    fn wear(&self) -> Wear {
        by_form!(self;
            Uniform(_) => Wear::NONE,
            Packed(packed) => packed.wear,
            Full(full) => full.wear,
            Absent(_) => Wear::NONE,
        )
    }

    /// A packed chunk with a table, and for each cell the place there that is given for it.
    pub(super) fn packed(
        width: Width,
        table: &[u32],
        wear: Wear,
        place: impl Fn(usize) -> usize,
    ) -> Chunk {
        match width {
            Width::Bits1 => Chunk::Bits1(Arc::new(Packed::from_places(table, wear, place))),
            Width::Bits2 => Chunk::Bits2(Arc::new(Packed::from_places(table, wear, place))),
            Width::Bits4 => Chunk::Bits4(Arc::new(Packed::from_places(table, wear, place))),
            Width::Bits8 => Chunk::Bits8(Arc::new(Packed::from_places(table, wear, place))),
        }
    }
}
