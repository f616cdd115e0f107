//! Growing, shrinking and moving sets of cells.

use super::build::Builder;
use super::set::{CellSet, Neighbors};
use crate::plane::ChunkBits;
use crate::tile::Turn;
use crate::units::{CellOffset, CellPos, ChunkPos};

const SIDE: usize = ChunkPos::SIDE as usize;

impl CellSet {
    /// Returns this set with all cells that are reached from it in so many steps to a neighbour.
    ///
    /// Costs a look at each chunk in and around the set, for each step.
    ///
    /// ```
    /// use sturdy_quilt::cell_set::Neighbors;
    /// use sturdy_quilt::{CellPos, CellSet};
    ///
    /// let spot = CellSet::from(CellPos::new(-1, 0));
    /// assert_eq!(spot.grow(2, Neighbors::Sides).len(), 13);
    /// assert_eq!(spot.grow(2, Neighbors::Corners).len(), 25);
    /// assert_eq!(spot.grow(5, Neighbors::Corners).shrink(4, Neighbors::Corners).len(), 9);
    /// ```
    #[must_use]
    pub fn grow(&self, steps: u32, neighbors: Neighbors) -> CellSet {
        self.repeated(steps, |set| set.stepped(neighbors, true))
    }

    /// Returns the cells of this set from which all cells outside are more than so many steps to a
    /// neighbour away. What lies beyond the limits of [`CellPos`] is outside.
    #[must_use]
    pub fn shrink(&self, steps: u32, neighbors: Neighbors) -> CellSet {
        self.repeated(steps, |set| set.stepped(neighbors, false))
    }

    /// Returns the cells of this set that have a neighbour outside.
    #[must_use]
    pub fn outline(&self, neighbors: Neighbors) -> CellSet {
        self - &self.shrink(1, neighbors)
    }

    fn repeated(&self, times: u32, step: impl Fn(&CellSet) -> CellSet) -> CellSet {
        let mut set = self.clone();
        for _ in 0..times {
            let next = step(&set);
            if next == set {
                break;
            }
            set = next;
        }
        set
    }

    /// The cells that have a neighbour in the set or are in it themselves, or those whose neighbours
    /// are in the set as well.
    fn stepped(&self, neighbors: Neighbors, grows: bool) -> CellSet {
        let chunks: Vec<ChunkPos> = if grows {
            let around = |(pos, bits): (ChunkPos, ChunkBits)| {
                AROUND.into_iter().filter_map(move |(x, y)| {
                    bits.touches(x, y).then(|| neighbor(pos, x, y)).flatten()
                })
            };
            let mut chunks: Vec<ChunkPos> = self.chunks().flat_map(around).collect();
            chunks.sort_unstable();
            chunks.dedup();
            chunks
        } else {
            self.chunks().map(|(pos, _)| pos).collect()
        };
        CellSet::of_chunks(chunks.into_iter().filter_map(|pos| {
            let stepped = Bordered::of(self, pos).stepped(neighbors, grows);
            (!stepped.is_none()).then_some((pos, stepped))
        }))
    }

    /// Returns this set moved by an offset. What would come to lie beyond the limits of [`CellPos`] is
    /// left out.
    ///
    /// Costs a look at each row of each chunk.
    #[must_use]
    pub fn moved(&self, by: CellOffset) -> CellSet {
        let mut builder = Builder::new();
        for run in self.runs().map(|run| run.moved(by)).filter(|run| !run.is_empty()) {
            builder.insert_row(run.top(), run.left(), run.right() - 1);
        }
        builder.finish()
    }

    /// Returns this set with its [`bounds`](CellSet::bounds) turned as the picture of a tile is: the upper
    /// left corner of the bounds stays where it is.
    #[must_use]
    pub fn turned(&self, turn: Turn) -> CellSet {
        let bounds = self.bounds();
        let turned = |cell: CellPos| turn.place_in(bounds, cell);
        self.iter().filter_map(turned).collect()
    }
}

/// The ways to the chunks around one, and to itself.
pub(super) const AROUND: [(i32, i32); 9] =
    [(0, 0), (-1, -1), (0, -1), (1, -1), (-1, 0), (1, 0), (-1, 1), (0, 1), (1, 1)];

/// The chunk beside another, if it is within the limits.
pub(super) fn neighbor(pos: ChunkPos, x: i32, y: i32) -> Option<ChunkPos> {
    let other = ChunkPos::new(pos.x() + x, pos.y() + y);
    ((other.x() - pos.x(), other.y() - pos.y()) == (x, y)).then_some(other)
}

impl ChunkBits {
    /// Whether a cell lies at the border to a chunk beside this one.
    fn touches(&self, x: i32, y: i32) -> bool {
        let columns = match x {
            -1 => 1,
            1 => 1 << (SIDE - 1),
            _ => u64::MAX,
        };
        let rows = match y {
            -1 => &self.0[..1],
            1 => &self.0[SIDE - 1..],
            _ => &self.0[..],
        };
        rows.iter().any(|row| row & columns != 0)
    }
}

/// The cells of a chunk with those around it: rows from above the first to below the last.
struct Bordered {
    rows: [u64; SIDE + 2],
    /// The cell before the first of each row, and the one behind the last, in the lowest bit.
    left: [u64; SIDE + 2],
    right: [u64; SIDE + 2],
}

impl Bordered {
    fn of(set: &CellSet, pos: ChunkPos) -> Bordered {
        let mut bordered =
            Bordered { rows: [0; SIDE + 2], left: [0; SIDE + 2], right: [0; SIDE + 2] };
        for (x, y) in AROUND {
            let Some(other) = neighbor(pos, x, y) else { continue };
            let bits = set.chunk(other);
            let (rows, from) = match y {
                -1 => (0..1, SIDE - 1),
                1 => (SIDE + 1..SIDE + 2, 0),
                _ => (1..SIDE + 1, 0),
            };
            for (row, bits) in rows.zip(&bits.0[from..]) {
                match x {
                    -1 => bordered.left[row] = bits >> (SIDE - 1),
                    1 => bordered.right[row] = bits & 1,
                    _ => bordered.rows[row] = *bits,
                }
            }
        }
        bordered
    }

    fn stepped(&self, neighbors: Neighbors, grows: bool) -> ChunkBits {
        let join = |a: u64, b: u64| if grows { a | b } else { a & b };
        // A row with what lies beside each cell.
        let beside = |row: usize| {
            let held = self.rows[row];
            let (before, behind) = (held << 1 | self.left[row], held >> 1 | self.right[row] << 63);
            join(held, join(before, behind))
        };
        ChunkBits(std::array::from_fn(|row| {
            let own = row + 1;
            let (above, below) = match neighbors {
                Neighbors::Sides => (self.rows[own - 1], self.rows[own + 1]),
                Neighbors::Corners => (beside(own - 1), beside(own + 1)),
            };
            join(beside(own), join(above, below))
        }))
    }
}
