//! Flooding: the cells that can be reached from some others, chunk by chunk.
//!
//! A flood fills the rows of a chunk as far as their mask goes, 64 cells at a time, down and up again until
//! nothing comes to it, and hands what it found at the borders to the chunks beside it, which wait in a
//! queue. A row is filled by an addition: added to the mask, the cells that are already found carry
//! through the ones above them. Scan lines (A. R. Smith, "Tint fill", SIGGRAPH 1979) look at each run of
//! cells by itself, which takes several times as long.

use std::collections::VecDeque;

use rustc_hash::FxHashMap;

use super::grow::{AROUND, neighbor};
use super::set::{CellSet, Neighbors};
use crate::name_error::NameError;
use crate::plane::ChunkBits;
use crate::units::{CellPos, ChunkPos};

const SIDE: usize = ChunkPos::SIDE as usize;

/// The error of a flood that does not end.
#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
#[non_exhaustive]
pub enum FloodError {
    /// A layer is not there.
    #[error(transparent)]
    Name(#[from] NameError),
    /// The flood found more cells than it may.
    #[error("the flood has found more than {most} cells: state bounds, or allow more")]
    TooMany {
        /// How many it may find.
        most: u64,
    },
    /// The flood got out of all that the map holds, to where nothing stops it.
    #[error(
        "the flood runs away at {cell}: beyond what the map holds, nothing stops it; state bounds"
    )]
    Unbounded {
        /// The cell at which it got out.
        cell: CellPos,
    },
    /// The flood came to a chunk that is not loaded, or damaged.
    #[error("the flood came to {chunk}, which is not loaded")]
    Absent {
        /// The chunk.
        chunk: ChunkPos,
    },
}

/// The cells of a chunk that a flood may enter.
pub(crate) enum Mask {
    None,
    All,
    Some(Box<ChunkBits>),
}

impl Mask {
    pub(crate) fn of(bits: ChunkBits) -> Mask {
        if bits.is_none() {
            Mask::None
        } else if bits.is_all() {
            Mask::All
        } else {
            Mask::Some(Box::new(bits))
        }
    }
}

/// The cells that a flood has found in a chunk.
enum Found {
    /// None, since it may enter none.
    Closed,
    /// All of its cells.
    All,
    /// Some of those that it may enter.
    Some(Box<Open>),
}

struct Open {
    mask: ChunkBits,
    found: ChunkBits,
    count: u32,
    is_waiting: bool,
}

/// A flood under way.
pub(crate) struct Spread {
    neighbors: Neighbors,
    most: u64,
    count: u64,
    chunks: FxHashMap<ChunkPos, Found>,
    waiting: VecDeque<ChunkPos>,
}

impl Spread {
    pub(crate) fn new(neighbors: Neighbors, most: u64) -> Spread {
        Spread { neighbors, most, count: 0, chunks: FxHashMap::default(), waiting: VecDeque::new() }
    }

    /// Finds all cells that can be reached from one, and adds them to those that were found before.
    /// `mask` is asked once for each chunk.
    pub(crate) fn from(
        &mut self,
        start: CellPos,
        mask: &mut impl FnMut(ChunkPos) -> Result<Mask, FloodError>,
    ) -> Result<(), FloodError> {
        let mut seed = ChunkBits::NONE;
        seed.insert(start.index_in_chunk());
        self.enter(start.chunk(), &seed, mask)?;
        while let Some(pos) = self.waiting.pop_front() {
            let mut border = ChunkBits::ALL;
            if let Some(Found::Some(open)) = self.chunks.get_mut(&pos) {
                open.is_waiting = false;
                open.fill(self.neighbors);
                let count = open.found.count();
                self.count += u64::from(count - open.count);
                open.count = count;
                border = open.found.clone();
            }
            if self.count > self.most {
                return Err(FloodError::TooMany { most: self.most });
            }
            self.hand_on(pos, &border, mask)?;
        }
        Ok(())
    }

    /// Enters the chunks beside one from the cells that were found at its border.
    fn hand_on(
        &mut self,
        pos: ChunkPos,
        found: &ChunkBits,
        mask: &mut impl FnMut(ChunkPos) -> Result<Mask, FloodError>,
    ) -> Result<(), FloodError> {
        for (x, y) in AROUND.into_iter().skip(1) {
            if self.neighbors == Neighbors::Sides && x != 0 && y != 0 {
                continue;
            }
            let seed = found.handed_to(x, y, self.neighbors);
            if seed.is_none() {
                continue;
            }
            if let Some(other) = neighbor(pos, x, y) {
                self.enter(other, &seed, mask)?;
            }
        }
        Ok(())
    }

    /// Adds cells of a chunk, as far as it may be entered, and lets it wait to be filled where some are new.
    fn enter(
        &mut self,
        pos: ChunkPos,
        seed: &ChunkBits,
        mask: &mut impl FnMut(ChunkPos) -> Result<Mask, FloodError>,
    ) -> Result<(), FloodError> {
        use std::collections::hash_map::Entry;
        let held = match self.chunks.entry(pos) {
            Entry::Occupied(held) => held.into_mut(),
            Entry::Vacant(free) => match mask(pos)? {
                Mask::None => free.insert(Found::Closed),
                Mask::All => {
                    free.insert(Found::All);
                    self.count += (SIDE * SIDE) as u64;
                    self.waiting.push_back(pos);
                    return Ok(());
                }
                Mask::Some(mask) => free.insert(Found::Some(Box::new(Open {
                    mask: *mask,
                    found: ChunkBits::NONE,
                    count: 0,
                    is_waiting: false,
                }))),
            },
        };
        if let Found::Some(open) = held {
            let mut new = 0;
            for ((found, mask), seed) in open.found.0.iter_mut().zip(&open.mask.0).zip(&seed.0) {
                let entered = seed & mask;
                new |= entered & !*found;
                *found |= entered;
            }
            if new != 0 && !open.is_waiting {
                open.is_waiting = true;
                self.waiting.push_back(pos);
            }
        }
        Ok(())
    }

    /// The cells that were found.
    pub(crate) fn into_set(self) -> CellSet {
        let mut found: Vec<(ChunkPos, ChunkBits)> = { self.chunks.into_iter() }
            .filter_map(|(pos, found)| match found {
                Found::Closed => None,
                Found::All => Some((pos, ChunkBits::ALL)),
                Found::Some(open) => (!open.found.is_none()).then_some((pos, open.found)),
            })
            .collect();
        found.sort_unstable_by_key(|(pos, _)| *pos);
        CellSet::of_chunks(found)
    }
}

impl Open {
    /// Adds all cells that can be reached within the chunk.
    fn fill(&mut self, neighbors: Neighbors) {
        let reached = |from: u64| match neighbors {
            Neighbors::Sides => from,
            Neighbors::Corners => from | from << 1 | from >> 1,
        };
        let Open { mask: ChunkBits(mask), found: ChunkBits(found), .. } = self;
        for (found, mask) in found.iter_mut().zip(&*mask) {
            *found = filled(*found, *mask);
        }
        let mut step = |from: usize, row: usize| {
            let new = reached(found[from]) & mask[row] & !found[row];
            if new != 0 {
                found[row] = filled(found[row] | new, mask[row]);
            }
            new != 0
        };
        // What a way up finds may go on down, and so on.
        loop {
            let down = (1..SIDE).fold(false, |any, row| step(row - 1, row) | any);
            let up = (0..SIDE - 1).rev().fold(false, |any, row| step(row + 1, row) | any);
            if !up && !down {
                break;
            }
        }
    }
}

/// All cells of a row that lie side by side with one that was found, as far as the mask goes.
#[inline]
fn filled(found: u64, mask: u64) -> u64 {
    if found == 0 {
        return 0;
    }
    // Added to the mask, a cell carries through all ones above it, up to the first zero.
    let upwards = |found: u64, mask: u64| ((mask.wrapping_add(found) ^ mask) | found) & mask;
    let up = upwards(found, mask);
    upwards(up.reverse_bits(), mask.reverse_bits()).reverse_bits()
}

impl ChunkBits {
    /// The cells of the chunk beside this one that are neighbours of the cells of this one.
    fn handed_to(&self, x: i32, y: i32, neighbors: Neighbors) -> ChunkBits {
        let mut handed = ChunkBits::NONE;
        let across = |row: u64| match x {
            -1 => row << (SIDE - 1),
            1 => row >> (SIDE - 1),
            _ if neighbors == Neighbors::Corners => row | row << 1 | row >> 1,
            _ => row,
        };
        match y {
            -1 => handed.0[SIDE - 1] = across(self.0[0]),
            1 => handed.0[0] = across(self.0[SIDE - 1]),
            _ => {
                for row in 0..SIDE {
                    let own = across(self.0[row]);
                    handed.0[row] |= own;
                    if neighbors == Neighbors::Corners {
                        handed.0[row.saturating_sub(1)] |= own;
                        handed.0[(row + 1).min(SIDE - 1)] |= own;
                    }
                }
            }
        }
        handed
    }
}
