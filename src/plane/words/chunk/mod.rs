//! The forms of a chunk: one value, a table of few values with 1, 2, 4 or 8 bits a cell, or all
//! values.
//!
//! A chunk takes a wider form when a value comes for which there is no room. It goes back to a
//! narrower one only when many cells were written since this was last looked at (see [`Wear`]), and
//! only to one that is left with room: so a chunk at the border of two forms, whatever is written
//! to it, is remade seldom. [`Chunk::compacted`] does not wait.

mod bits;
mod code;
mod exchange;
mod form;
mod full;
mod guess;
mod narrow;
mod packed;
mod parts;
mod presence;
mod wear;
mod word;
mod write;

use std::ops::Range;

use triomphe::Arc;

use crate::prefetch::prefetch;
use crate::units::{CellOffset, CellPos, CellRect, ChunkPos};
pub(crate) use bits::ChunkBits;
pub(crate) use code::ChunkParts;
pub use form::ChunkForm;
pub(crate) use form::counted_bytes;
use full::Full;
use packed::{Bits1, Bits2, Bits4, Bits8};
pub use presence::{Absence, AbsentError, Presence};
pub(crate) use word::Word;
use write::Write;

/// What a chunk holds. Shared between clones; copied when written to.
#[derive(Clone, Debug)]
pub(crate) enum Chunk {
    /// The same value in every cell.
    Uniform(u32),
    /// At most 2 different values.
    Bits1(Arc<Bits1>),
    /// At most 4 different values.
    Bits2(Arc<Bits2>),
    /// At most 16 different values.
    Bits4(Arc<Bits4>),
    /// At most 256 different values.
    Bits8(Arc<Bits8>),
    /// Each value by itself.
    Full(Arc<Full>),
    /// No values: not loaded, or damaged.
    Absent(Absence),
}

const SIDE: usize = ChunkPos::SIDE as usize;
const CELLS: usize = SIDE * SIDE;

impl Default for Chunk {
    fn default() -> Chunk {
        Chunk::Uniform(0)
    }
}

/// Does one thing for each kind of form; all widths of packed chunks are of one kind.
macro_rules! by_form {
    ($chunk:expr; Uniform($value:pat) => $uniform:expr, Packed($packed:pat) => $done:expr,
     Full($full:pat) => $full_done:expr, Absent($why:pat) => $absent:expr $(,)?) => {
        match $chunk {
            Chunk::Uniform($value) => $uniform,
            Chunk::Bits1($packed) => $done,
            Chunk::Bits2($packed) => $done,
            Chunk::Bits4($packed) => $done,
            Chunk::Bits8($packed) => $done,
            Chunk::Full($full) => $full_done,
            Chunk::Absent($why) => $absent,
        }
    };
}

use by_form;

/// Does one thing with two chunks of the same packed form, and another with all other pairs.
macro_rules! by_packed_pair {
    (($own:expr, $other:expr); Packed($a:pat, $b:pat) $(if $holds:expr)? => $done:expr,
     $($others:pat => $other_done:expr),+ $(,)?) => {
        match ($own, $other) {
            (Chunk::Bits1($a), Chunk::Bits1($b)) $(if $holds)? => $done,
            (Chunk::Bits2($a), Chunk::Bits2($b)) $(if $holds)? => $done,
            (Chunk::Bits4($a), Chunk::Bits4($b)) $(if $holds)? => $done,
            (Chunk::Bits8($a), Chunk::Bits8($b)) $(if $holds)? => $done,
            $($others => $other_done),+
        }
    };
}

/// Whether all values are the same as one. Looks at all without a way out, so that the machine may
/// take many at a time.
fn all_are(values: &[u32], one: u32) -> bool {
    values.iter().fold(0, |bits, v| bits | (v ^ one)) == 0
}

/// A rectangle of columns and rows of a chunk, as if its corner were the origin.
fn within(columns: Range<usize>, rows: Range<usize>) -> CellRect {
    let corner = CellPos::new(columns.start as i32, rows.start as i32);
    CellRect::new(corner, columns.len() as u32, rows.len() as u32)
}

// Read.
impl Chunk {
    pub(crate) const CELLS: usize = CELLS;

    #[inline]
    pub(crate) fn get(&self, index: usize) -> Presence<u32> {
        self.get_as(index)
    }

    /// As [`Chunk::get`], as a value.
    #[inline]
    pub(crate) fn get_as<V: Word>(&self, index: usize) -> Presence<V> {
        // The most common forms first, each by a jump of its own: one jump for all by a table is
        // foretold wrongly more often.
        if let Chunk::Uniform(value) = self {
            return Presence::Here(V::of_word(*value));
        }
        self.get_from_array(index)
    }

    /// As [`Chunk::get`], for a chunk that is most likely not uniform.
    #[inline]
    pub(super) fn get_from_array<V: Word>(&self, index: usize) -> Presence<V> {
        match self {
            Chunk::Bits4(packed) => Presence::Here(V::of_word(packed.get(index))),
            Chunk::Full(full) => Presence::Here(V::of_word(full.values[index])),
            _ => self.get_rare(index),
        }
    }

    #[inline(never)]
    fn get_rare<V: Word>(&self, index: usize) -> Presence<V> {
        by_form!(self;
            Uniform(value) => Presence::Here(V::of_word(*value)),
            Packed(packed) => Presence::Here(V::of_word(packed.get(index))),
            Full(full) => Presence::Here(V::of_word(full.values[index])),
            Absent(why) => (*why).into(),
        )
    }

    /// Asks memory for what [`Chunk::get`] will read.
    #[inline]
    pub(super) fn prefetch(&self, index: usize) {
        by_form!(self;
            Uniform(_) => {},
            Packed(packed) => packed.prefetch(index),
            Full(full) => prefetch(&full.values[index]),
            Absent(_) => {},
        );
    }

    /// The same chunk with other values: `value` gives another one for each, and no two the same.
    pub(crate) fn mapped(&self, value: impl Fn(u32) -> u32) -> Chunk {
        match self {
            Chunk::Uniform(held) => Chunk::Uniform(value(*held)),
            Chunk::Bits1(packed) => Chunk::Bits1(Arc::new(packed.mapped(value))),
            Chunk::Bits2(packed) => Chunk::Bits2(Arc::new(packed.mapped(value))),
            Chunk::Bits4(packed) => Chunk::Bits4(Arc::new(packed.mapped(value))),
            Chunk::Bits8(packed) => Chunk::Bits8(Arc::new(packed.mapped(value))),
            Chunk::Full(full) => {
                let mut full = Full::clone(full);
                full.values.iter_mut().for_each(|held| *held = value(*held));
                Chunk::Full(Arc::new(full))
            }
            Chunk::Absent(why) => Chunk::Absent(*why),
        }
    }

    /// The value of every cell, where all are known to be the same.
    pub(super) fn uniform(&self) -> Option<u32> {
        match self {
            Chunk::Uniform(value) => Some(*value),
            _ => None,
        }
    }

    pub(super) fn is_default(&self) -> bool {
        self.uniform().is_some_and(|word| word == 0)
    }

    /// Whether a value that fulfils a condition can be among the cells.
    pub(super) fn may_hold(&self, wanted: impl Fn(u32) -> bool) -> bool {
        by_form!(self;
            Uniform(value) => wanted(*value),
            Packed(packed) => packed.values().iter().any(|&v| wanted(v)),
            Full(_) => true,
            Absent(_) => false,
        )
    }

    /// The cells whose value fulfils a condition, in order.
    pub(super) fn where_is(&self, wanted: impl Fn(u32) -> bool) -> Vec<(u16, u32)> {
        let mut found = Vec::new();
        if self.may_hold(&wanted) {
            let all = 0..CELLS as u16;
            by_form!(self;
                Uniform(value) => found.extend(all.map(|index| (index, *value))),
                Packed(packed) => packed.collect_where(wanted, &mut found),
                Full(full) => {
                    let each = all.zip(full.values.iter().copied());
                    found.extend(each.filter(|(_, value)| wanted(*value)));
                },
                Absent(_) => {},
            );
        }
        found
    }

    /// The cells of a row as they lie in memory, where they do.
    #[inline]
    pub(super) fn slice(&self, start: usize, len: usize) -> Option<&[u32]> {
        match self {
            Chunk::Full(full) => full.values.get(start..start + len),
            _ => None,
        }
    }

    /// Copies the values of cells that lie one behind the other; leaves the target alone where
    /// they are not here.
    #[inline]
    pub(crate) fn copy_to(&self, start: usize, into: &mut [u32]) {
        by_form!(self;
            Uniform(value) => into.fill(*value),
            Packed(packed) => packed.unpack(start, into),
            Full(full) => into.copy_from_slice(&full.values[start..start + into.len()]),
            Absent(_) => {},
        );
    }

    /// Copies a part of the chunk, whose columns and rows count from its corner, into rows that
    /// begin `stride` values apart.
    #[inline]
    pub(crate) fn copy_part(&self, part: CellRect, into: &mut [u32], stride: usize) {
        /// One form at a time: what is the same for all rows is asked once.
        fn rows(part: CellRect, into: &mut [u32], stride: usize, copy: impl Fn(usize, &mut [u32])) {
            let width = part.width() as usize;
            let first = part.top() as usize * SIDE + part.left() as usize;
            for (row, into) in into.chunks_mut(stride).take(part.height() as usize).enumerate() {
                copy(first + row * SIDE, &mut into[..width]);
            }
        }
        by_form!(self;
            Uniform(value) => rows(part, into, stride, |_, into| into.fill(*value)),
            Packed(packed) => rows(part, into, stride, |start, into| packed.unpack(start, into)),
            Full(full) => rows(part, into, stride, |start, into| {
                into.copy_from_slice(&full.values[start..start + into.len()]);
            }),
            Absent(_) => {},
        );
    }

    /// Whether cells that lie one behind the other hold these values already.
    pub(super) fn holds(&self, start: usize, values: &[u32]) -> bool {
        by_form!(self;
            Uniform(held) => all_are(values, *held),
            Packed(packed) => packed.has(&Write::Values(start, values)),
            Full(full) => full.has(&Write::Values(start, values)),
            Absent(_) => false,
        )
    }

    /// Whether cells that lie one behind the other all hold a value already.
    #[inline]
    fn all_hold(&self, cells: Range<usize>, value: u32) -> bool {
        by_form!(self;
            Uniform(held) => *held == value,
            Packed(packed) => packed.all_hold(cells, value),
            Full(full) => all_are(&full.values[cells], value),
            Absent(_) => false,
        )
    }

    /// Whether all cells of a part hold a value already.
    pub(super) fn part_holds(&self, part: CellRect, value: u32) -> bool {
        rows_of(part).all(|cells| self.all_hold(cells, value))
    }

    /// The smallest rectangle with every cell that is not the default; all cells when absent.
    pub(crate) fn bounds(&self, pos: ChunkPos) -> CellRect {
        let all = within(0..SIDE, 0..SIDE);
        let bounds = by_form!(self;
            Uniform(value) => if *value == 0 { CellRect::EMPTY } else { all },
            Packed(packed) => packed.bounds(),
            Full(full) => full.bounds(),
            Absent(_) => all,
        );
        bounds.moved(pos.corner() - CellPos::ORIGIN)
    }

    /// Whether two chunks hold the same values.
    pub(crate) fn same(&self, other: &Chunk) -> bool {
        by_packed_pair!((self, other);
            Packed(a, b) => Arc::ptr_eq(a, b) || a.same(b),
            (Chunk::Absent(a), Chunk::Absent(b)) => a == b,
            (Chunk::Absent(_), _) | (_, Chunk::Absent(_)) => false,
            (Chunk::Uniform(a), Chunk::Uniform(b)) => a == b,
            (Chunk::Uniform(value), other) | (other, Chunk::Uniform(value)) => {
                other.all_hold(0..CELLS, *value)
            },
            (Chunk::Full(a), Chunk::Full(b)) => Arc::ptr_eq(a, b) || self.holds(0, &b.values),
            _ => (0..CELLS).all(|index| match (self.get(index), other.get(index)) {
                (Presence::Here(a), Presence::Here(b)) => a == b,
                _ => false,
            }),
        )
    }

    /// Adds the cells in which another chunk holds something else, in order; `None` where there are
    /// more than `most`, or where one of the two is not here.
    pub(crate) fn add_differing(
        &self,
        other: &Chunk,
        most: usize,
        differing: &mut Vec<u16>,
    ) -> Option<()> {
        let is_absent = |chunk: &Chunk| matches!(chunk, Chunk::Absent(_));
        if is_absent(self) || is_absent(other) {
            return (is_absent(self) && self.same(other)).then_some(());
        }
        let already = differing.len();
        let share_table = self.shares_table(other);
        // Most rows are the same, and mostly those beside each other.
        const BLOCK: usize = 8;
        let blocks = (0..SIDE).step_by(BLOCK).map(|row| row..row + BLOCK);
        let other_blocks = blocks.filter(|rows| !self.same_rows(other, rows.clone(), share_table));
        for row in other_blocks.flatten() {
            if self.same_rows(other, row..row + 1, share_table) {
                continue;
            }
            self.add_differing_in(row, other, share_table, differing);
            if differing.len() - already > most {
                return None;
            }
        }
        Some(())
    }

    /// Adds the cells of a row in which another chunk holds something else.
    fn add_differing_in(
        &self,
        row: usize,
        other: &Chunk,
        share_table: bool,
        differing: &mut Vec<u16>,
    ) {
        by_packed_pair!((self, other);
            Packed(a, b) if share_table => a.add_other_places(b, row, differing),
            _ => {
                let (mut own, mut others) = ([0; SIDE], [0; SIDE]);
                self.copy_to(row * SIDE, &mut own);
                other.copy_to(row * SIDE, &mut others);
                let pairs = own.iter().zip(&others).enumerate();
                let columns = pairs.filter(|(_, (a, b))| a != b).map(|(column, _)| column);
                differing.extend(columns.map(|column| (row * SIDE + column) as u16));
            },
        );
    }

    /// Whether two chunks have their values by places in one table.
    fn shares_table(&self, other: &Chunk) -> bool {
        by_packed_pair!((self, other); Packed(a, b) => a.shares_table(b), _ => false)
    }

    /// Whether two chunks hold the same in some rows; it may say no where they do.
    fn same_rows(&self, other: &Chunk, rows: Range<usize>, share_table: bool) -> bool {
        let cells = rows.start * SIDE..rows.end * SIDE;
        by_packed_pair!((self, other);
            Packed(a, b) => share_table && a.same_places(b, cells),
            (Chunk::Uniform(value), other) | (other, Chunk::Uniform(value)) => {
                other.all_hold(cells, *value)
            },
            (Chunk::Full(a), Chunk::Full(b)) => {
                let pairs = a.values[cells.clone()].iter().zip(&b.values[cells]);
                pairs.fold(0, |bits, (a, b)| bits | (a ^ b)) == 0
            },
            _ => false,
        )
    }

    pub(super) fn form(&self) -> ChunkForm {
        match self {
            Chunk::Uniform(_) => ChunkForm::Uniform,
            Chunk::Bits1(_) => ChunkForm::Bits1,
            Chunk::Bits2(_) => ChunkForm::Bits2,
            Chunk::Bits4(_) => ChunkForm::Bits4,
            Chunk::Bits8(_) => ChunkForm::Bits8,
            Chunk::Full(_) => ChunkForm::Full,
            Chunk::Absent(_) => ChunkForm::Absent,
        }
    }

    /// What it takes outside its slot, and by how many it is held.
    pub(crate) fn held_bytes(&self) -> (usize, usize) {
        fn of<T>(held: &Arc<T>) -> (usize, usize) {
            (counted_bytes::<T>(), Arc::count(held))
        }
        by_form!(self;
            Uniform(_) => (0, 1),
            Packed(packed) => of(packed),
            Full(full) => of(full),
            Absent(_) => (0, 1),
        )
    }
}

/// The cells of each row of a part, whose columns and rows may count from anywhere.
fn rows_of(part: CellRect) -> impl Iterator<Item = Range<usize>> {
    (part.top()..part.bottom()).map(move |row| {
        let start = CellPos::new(part.left(), row).index_in_chunk();
        start..start + part.width() as usize
    })
}

/// The same part of a chunk, with columns and rows that count from the chunk's corner.
#[inline]
pub(super) fn from_corner(part: CellRect, pos: ChunkPos) -> CellRect {
    let corner = pos.corner();
    part.moved(CellOffset::new(corner.x(), corner.y()).reversed())
}
