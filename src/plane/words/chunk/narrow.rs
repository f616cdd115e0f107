//! The narrowest form that holds a chunk.

use super::Chunk;
use super::full::Distinct;
use super::packed::Packed;

impl Chunk {
    /// The chunk in its smallest form, or `None` where it has that.
    pub(crate) fn compacted(&self) -> Option<Chunk> {
        self.narrower(Room::None)
    }

    /// The chunk in the narrowest form that is left with room, or `None` where the own is as
    /// narrow. Without room, also in the own form with a table of the values in use alone.
    #[cold]
    #[inline(never)]
    pub(super) fn narrower(&self, room: Room) -> Option<Chunk> {
        match self {
            Chunk::Uniform(_) | Chunk::Absent(_) => None,
            Chunk::Bits1(packed) => packed_narrower(packed, Width::Bits1, room),
            Chunk::Bits2(packed) => packed_narrower(packed, Width::Bits2, room),
            Chunk::Bits4(packed) => packed_narrower(packed, Width::Bits4, room),
            Chunk::Bits8(packed) => packed_narrower(packed, Width::Bits8, room),
            Chunk::Full(full) => {
                let distinct = Distinct::of(full.values.iter().copied(), room.most(Width::Bits8))?;
                match distinct.values() {
                    [only] => Some(Chunk::Uniform(*only)),
                    table => Some(Chunk::packed(
                        room.width(table.len())?,
                        table,
                        full.wear.narrowed(),
                        |index| distinct.place(index),
                    )),
                }
            }
        }
    }
}

/// See [`Chunk::narrower`].
fn packed_narrower<const WORDS: usize, const VALUES: usize>(
    packed: &Packed<WORDS, VALUES>,
    own: Width,
    room: Room,
) -> Option<Chunk> {
    let narrower = own.narrower().map_or(1, |width| room.most(width));
    let without = packed.values().len() - 1;
    let most = if room == Room::None { narrower.max(without) } else { narrower };
    let in_use = packed.in_use(most)?;
    if let [(_, only)] = in_use[..] {
        return Some(Chunk::Uniform(only));
    }
    let mut renumbered = [0; VALUES];
    let table: Vec<u32> = in_use.iter().map(|(_, value)| *value).collect();
    for (now, (place, _)) in in_use.iter().enumerate() {
        renumbered[*place] = now;
    }
    let place = |index| renumbered[packed.place_of(index)];
    Some(Chunk::packed(room.width(table.len())?, &table, packed.wear.narrowed(), place))
}

/// How many bits a packed chunk has for each cell.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) enum Width {
    Bits1,
    Bits2,
    Bits4,
    Bits8,
}

impl Width {
    const ALL: [Width; 4] = [Width::Bits1, Width::Bits2, Width::Bits4, Width::Bits8];

    const fn bits(self) -> u32 {
        1 << self as u32
    }

    fn narrower(self) -> Option<Width> {
        (self as usize).checked_sub(1).map(|at| Width::ALL[at])
    }
}

/// How much room a packed chunk must be left with.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) enum Room {
    /// A quarter of its table, but for one of two values.
    ForMore,
    None,
    /// No packed chunk will do, only one value in all cells.
    ForNothing,
}

impl Room {
    /// How many values a table may be filled with.
    const fn most(self, width: Width) -> usize {
        let table = 1 << width.bits();
        match self {
            Room::ForMore => table - table / 4,
            Room::None => table,
            Room::ForNothing => 1,
        }
    }

    /// The narrowest width for so many values.
    pub(super) fn width(self, values: usize) -> Option<Width> {
        Width::ALL.into_iter().find(|width| values <= self.most(*width))
    }
}
