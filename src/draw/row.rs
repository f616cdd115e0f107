//! Listing a row of cells of several layers.
//!
//! A cell is hidden when a later one of the same place covers every pixel solidly. Both lie on the
//! same lattice edges, so both have exactly the same pixels at every zoom, and whatever is drawn
//! between the two is covered as well. Tiles that are larger than their cell neither hide nor are
//! hidden.
//!
//! At a slant it is so for tiles that lie within the diamond of their cell, below one that covers all
//! of that, at the same elevation.
//!
//! Cells of a row are 64, one bit each in a number: so most is decided for all of them at once, and
//! the machine has few branches to foretell.

use std::ops::{AddAssign, SubAssign};

use super::level_set::LevelSet;
use super::map_facts::{CellFacts, LayerLevels, MapFacts};
use crate::tile::Cell;
use crate::units::ChunkPos;

/// A cell to draw in a [`StackPass`](crate::draw::StackPass).
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct StackEntry {
    /// The place in the chunk, row by row, 0 to 4095.
    pub(crate) index: u16,
    pub(crate) level: u16,
    /// What lies there; empty where the chunk is not loaded.
    pub(crate) cell: Cell,
}

impl StackEntry {
    pub(super) const NONE: StackEntry = StackEntry { index: 0, level: 0, cell: Cell::EMPTY };

    /// Returns the column in the chunk, 0 to 63.
    pub const fn column(&self) -> u8 {
        (self.index % ChunkPos::SIDE as u16) as u8
    }

    /// Returns the row in the chunk, 0 to 63.
    pub const fn row(&self) -> u8 {
        (self.index / ChunkPos::SIDE as u16) as u8
    }

    /// Returns where the top corner of its diamond lies at a slant, in half widths of a diamond to the
    /// right of the top corner of the chunk, −63 to 63, and half heights below it, which is its rank in
    /// the chunk, 0 to 126.
    pub const fn half_lines(&self) -> (i8, u8) {
        let (column, row) = (self.column(), self.row());
        (column as i8 - row as i8, column + row)
    }

    /// Returns the cell; [`Cell::EMPTY`] where the chunk is not loaded, which is drawn as a plain
    /// placeholder.
    pub const fn cell(&self) -> Cell {
        self.cell
    }
}

const SIDE: usize = ChunkPos::SIDE as usize;

/// The cells of a layer in a row of a chunk.
pub(super) struct LayerRow<'a> {
    pub(super) levels: LayerLevels,
    /// As they are; [`Cell::ABSENT`] where they are not loaded.
    pub(super) cells: &'a [Cell; SIDE],
}

/// Lists rows. Keeps its memory.
#[derive(Clone, Debug, Default)]
pub(super) struct RowLister {
    /// The layers that have something in the row, in the order of their levels.
    parts: Vec<Part>,
    /// The cells of a layer by raise and standing.
    ways: Vec<(bool, usize, u64)>,
    /// The levels that had something in any row since this was emptied.
    pub(super) used: LevelSet,
}

/// The cells of a layer that go to one level, by column.
#[derive(Clone, Copy, Debug)]
struct Part {
    level: u16,
    layer: usize,
    drawn: u64,
    /// The cells that hide what is below them, and those that nothing hides.
    covering: u64,
    juts: u64,
}

/// What was counted in a row.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub(super) struct RowCounts {
    pub(super) clear: u32,
    pub(super) hidden: u32,
    pub(super) animated: u32,
}

impl AddAssign for RowCounts {
    fn add_assign(&mut self, other: RowCounts) {
        self.clear += other.clear;
        self.hidden += other.hidden;
        self.animated += other.animated;
    }
}

impl SubAssign for RowCounts {
    fn sub_assign(&mut self, other: RowCounts) {
        self.clear -= other.clear;
        self.hidden -= other.hidden;
        self.animated -= other.animated;
    }
}

/// Cells of a layer in a row, by column.
#[derive(Default)]
struct RowBits {
    held: u64,
    clear: u64,
    oversize: u64,
    opaque: u64,
    raised: u64,
    animated: u64,
    /// The cells whose tiles reach beyond their diamond.
    juts: u64,
    /// The cells whose tiles stand in them.
    stands: u64,
    /// Those in a palette of their own.
    dyed: u64,
}

impl RowLister {
    /// Adds what is drawn of the wanted columns of a row: cell by cell, each from the lowest level to
    /// the topmost. Tiles that are larger than their cell are added to `oversize`, in no stated
    /// order.
    pub(super) fn list(
        &mut self,
        layers: &[LayerRow<'_>],
        (row, wanted): (usize, u64),
        (map_facts, remove_hidden): (&MapFacts, bool),
        entries: &mut Vec<StackEntry>,
        oversize: &mut Vec<StackEntry>,
    ) -> RowCounts {
        let mut counts = RowCounts::default();
        self.parts.clear();
        for (number, LayerRow { levels, cells }) in layers.iter().enumerate() {
            let bits = RowBits::of(cells, wanted, map_facts);
            if bits.held == 0 {
                continue;
            }
            counts.clear += bits.clear.count_ones();
            counts.animated += bits.animated.count_ones();
            for column in columns(bits.oversize) {
                let standing = map_facts.standing(listed(cells[column]));
                let level = map_facts.level_in(*levels, bits.raised >> column & 1 == 1, standing);
                oversize.push(entry((row, column), level, cells));
            }
            let drawn = bits.held & !bits.clear & !bits.oversize;
            self.ways.clear();
            bits.add_ways(drawn, cells, map_facts, &mut self.ways);
            for way in 0..self.ways.len() {
                let (is_raised, standing, drawn) = self.ways[way];
                let level = map_facts.level_in(*levels, is_raised, standing);
                let opaque = if remove_hidden { bits.opaque & drawn } else { 0 };
                // Mostly all of them cover; where a palette may change that, it is asked.
                let asked =
                    if map_facts.covers_plainly(level) { opaque & bits.dyed } else { opaque };
                let mut covering = opaque & !asked;
                for column in columns(asked) {
                    covering |= u64::from(map_facts.covers(listed(cells[column]), level)) << column;
                }
                self.parts.push(Part { level, layer: number, drawn, covering, juts: bits.juts });
                self.used.insert(level);
            }
        }
        if self.parts.len() > 1 {
            self.parts.sort_unstable_by_key(|part| part.level);
            let (mut covered, mut lifted) = (0, None);
            for part in self.parts.iter_mut().rev() {
                let own = map_facts.levels[usize::from(part.level)].lifted_px;
                if lifted.replace(own) != Some(own) {
                    covered = 0;
                }
                let hidden = part.drawn & covered & !part.juts;
                counts.hidden += hidden.count_ones();
                part.drawn &= !hidden;
                covered |= part.covering;
            }
            self.parts.retain(|part| part.drawn != 0);
        }
        self.put_together(layers, row, entries);
        counts
    }

    /// Adds the parts, cell by cell.
    fn put_together(&mut self, layers: &[LayerRow<'_>], row: usize, entries: &mut Vec<StackEntry>) {
        if let [Part { level, layer, drawn, .. }] = self.parts[..] {
            let cells = layers[layer].cells;
            entries.extend(columns(drawn).map(|column| entry((row, column), level, cells)));
            return;
        }
        // Every part of a cell is written down; where one is not drawn, the next is written over
        // it.
        let most = entries.len() + SIDE * self.parts.len();
        let mut end = entries.len();
        entries.resize(most, StackEntry::NONE);
        let any = self.parts.iter().fold(0, |any, part| any | part.drawn);
        for column in columns(any) {
            for part in &self.parts {
                entries[end] = entry((row, column), part.level, layers[part.layer].cells);
                end += (part.drawn >> column & 1) as usize;
            }
        }
        entries.truncate(end);
    }
}

impl RowBits {
    /// Adds some cells by raise and standing.
    fn add_ways(
        &self,
        drawn: u64,
        cells: &[Cell; SIDE],
        map_facts: &MapFacts,
        ways: &mut Vec<(bool, usize, u64)>,
    ) {
        for (is_raised, of_raise) in [(false, !self.raised), (true, self.raised)] {
            let faces = drawn & of_raise & !self.stands;
            if faces != 0 {
                ways.push((is_raised, 0, faces));
            }
            for column in columns(drawn & of_raise & self.stands) {
                let standing = map_facts.standing(listed(cells[column]));
                let known = ways.iter_mut().find(|way| (way.0, way.1) == (is_raised, standing));
                match known {
                    Some((.., columns)) => *columns |= 1 << column,
                    None => ways.push((is_raised, standing, 1 << column)),
                }
            }
        }
    }

    fn of(cells: &[Cell; SIDE], wanted: u64, map_facts: &MapFacts) -> RowBits {
        let mut bits = RowBits::default();
        if wanted == u64::MAX {
            for (column, cell) in cells.iter().enumerate() {
                bits.held |= u64::from(*cell != Cell::EMPTY) << column;
            }
        } else {
            for column in columns(wanted) {
                bits.held |= u64::from(cells[column] != Cell::EMPTY) << column;
            }
        }
        for column in columns(bits.held) {
            let cell = cells[column];
            let facts = map_facts.facts_of(cell);
            let is = |fact: CellFacts| u64::from(facts.has(fact)) << column;
            bits.opaque |= is(CellFacts::OPAQUE);
            if facts.is_plain() && cell.is_plain() {
                continue;
            }
            bits.clear |= is(CellFacts::CLEAR);
            bits.oversize |= is(CellFacts::OVERSIZE);
            bits.animated |= is(CellFacts::ANIMATED);
            bits.juts |= is(CellFacts::JUTS);
            bits.stands |= is(CellFacts::STANDS);
            // What is not loaded has no marks.
            let marked = listed(cell);
            bits.raised |= is(CellFacts::RAISED) | u64::from(marked.is_raised()) << column;
            bits.dyed |= u64::from(marked.palette() != 0) << column;
        }
        bits
    }
}

/// The places of the ones of a number, from the lowest.
fn columns(mut mask: u64) -> impl Iterator<Item = usize> {
    std::iter::from_fn(move || {
        let column = mask.trailing_zeros() as usize;
        mask &= mask.wrapping_sub(1);
        (column < SIDE).then_some(column)
    })
}

fn entry((row, column): (usize, usize), level: u16, cells: &[Cell; SIDE]) -> StackEntry {
    StackEntry { index: (row * SIDE + column) as u16, level, cell: listed(cells[column]) }
}

/// What is not loaded is drawn as a placeholder, and empty in the list.
fn listed(cell: Cell) -> Cell {
    if cell == Cell::ABSENT { Cell::EMPTY } else { cell }
}
