//! Minimaps in which each pixel stands for one or several whole cells.
//!
//! Where no picture reaches beyond its cell, a cell looks the same wherever the layers hold the same.
//! So each stack of tiles is painted once, in full size, and what a pixel takes of it is kept:
//! painting all cells in full size takes hundreds of pixels for each of them.

use std::ops::Range;

use rustc_hash::FxHashMap;

use super::scale::{MinimapScale, Sampling, Sums};
use crate::draw::{CellFacts, MapFacts, Scene};
use crate::plane::RunValues;
use crate::quilt::{Quilt, Wrap};
use crate::tile::Cell;
use crate::units::{CellOffset, CellPos, CellRect};

/// The cells of a map as a minimap takes them.
#[derive(Clone, Debug)]
pub(super) struct WholeCells {
    /// The cells that a pixel stands for, across and down.
    pub(super) per_pixel: (u32, u32),
    /// The pixels of a cell in full size.
    pub(super) cell_px: (u32, u32),
    /// The places of shown layers in the map, each with how far it is moved.
    layers: Vec<(usize, CellOffset)>,
    /// The levels from the lowest, each with its layer's place among `layers`.
    levels: Vec<(u16, usize)>,
    /// How many cells away pictures may come from; none where none reaches beyond its cell.
    reach: u32,
    /// Keeps what was taken of the stacks that were seen.
    kept: FxHashMap<Box<[u64]>, Sums>,
    recent: Recent,
    // Memory to work with.
    held: Vec<Vec<Cell>>,
    scratch: Vec<Cell>,
    key: Vec<u64>,
}

/// The most stacks that are kept.
const MAX_KEPT: usize = 1 << 16;
/// From so many cells on, pictures reach too far for a look at where they come from.
const MAX_REACH: u32 = 64;
/// What tells the frame of an animated tile in a key from an entry of a level.
const FRAME: u64 = 1 << 63;

impl WholeCells {
    /// The cells of a map; `None` where pixels are parts of cells, or cells are not whole pixels, or
    /// layers do not lie cell on cell.
    pub(super) fn of(quilt: &Quilt, scene: &Scene, scale: MinimapScale) -> Option<WholeCells> {
        // So many that their sums are far from the end of numbers.
        const MAX: u32 = 1 << 16;
        let lattice = quilt.lattice();
        let whole = |side: f64| {
            let px = side as u32;
            (f64::from(px) == side && (1..=MAX).contains(&px)).then_some(px)
        };
        let cell_px = (whole(lattice.cell_width())?, whole(lattice.cell_height())?);
        let per_pixel = match scale {
            MinimapScale::Cells => (1, 1),
            MinimapScale::Part(units) => {
                let cells = |px: u32| units.is_multiple_of(px).then(|| units / px);
                (cells(cell_px.0)?, cells(cell_px.1)?)
            }
        };
        let (mut layers, mut levels): (Vec<(usize, CellOffset)>, _) = (Vec::new(), Vec::new());
        for (level, number) in scene.map_facts.levels.iter().zip(0..) {
            let layer = level.layer as usize;
            let settings = quilt.layers()[layer].settings();
            let offset = settings.offset_cells(lattice)?;
            let is_moved = offset != CellOffset::new(0, 0);
            if settings.elevation != 0.0
                || level.backdrop.is_some()
                || settings.wrap != Wrap::No
                || level.sort_rows && is_moved
            {
                return None;
            }
            let at = layers.iter().position(|(held, _)| *held == layer).unwrap_or_else(|| {
                layers.push((layer, offset));
                layers.len() - 1
            });
            levels.push((number, at));
        }
        let reach = if scene.map_facts.has_oversize() {
            scene.map_facts.reach.in_cells(lattice)
        } else {
            0
        };
        if reach > MAX_REACH {
            return None;
        }
        Some(WholeCells {
            per_pixel,
            cell_px,
            held: vec![Vec::new(); layers.len()],
            recent: Recent { layers: layers.len(), ..Recent::default() },
            layers,
            levels,
            reach,
            kept: FxHashMap::default(),
            scratch: Vec::new(),
            key: Vec::new(),
        })
    }

    /// Adds up what each pixel takes of its cells, from `corner` on in rows of `width` pixels. What a
    /// stack that was not seen yet shows, `paint` says for a cell that has it. `None` where a
    /// picture may reach into one of the cells from beside it.
    pub(super) fn add_up(
        &mut self,
        (quilt, scene): (&Quilt, &Scene),
        (corner, width, height): (CellPos, u32, u32),
        sampling: Sampling,
        sums: &mut Vec<Sums>,
        mut paint: impl FnMut(CellPos) -> Sums,
    ) -> Option<()> {
        let (across, down) = self.per_pixel;
        let (columns, rows) = (width * across, height * down);
        let last = corner.checked_add(CellOffset::new(columns as i32 - 1, rows as i32 - 1))?;
        let area = self.read(quilt, CellRect::between(corner, last), &scene.map_facts)?;
        sums.clear();
        sums.resize(width as usize * height as usize, Sums::default());
        let stride = area.width() as usize;
        let index = |column: u32, row: u32| {
            let (left, top) = (corner.x().abs_diff(area.left()), corner.y().abs_diff(area.top()));
            (top + row) as usize * stride + (left + column) as usize
        };
        let at = |column: u32, row: u32| {
            corner.saturating_add(CellOffset::new(column as i32, row as i32))
        };
        // Which cells of a pixel it takes: all, or the one in which its middle lies.
        let middle = |cells: u32, px: u32| (cells * px - 1) / 2 / px;
        let (taken_across, taken_down) = match sampling {
            Sampling::Average => (0..across, 0..down),
            Sampling::Nearest => {
                let (x, y) = (middle(across, self.cell_px.0), middle(down, self.cell_px.1));
                (x..x + 1, y..y + 1)
            }
        };
        // Neighbours are often equal.
        let (mut last, mut value) = (None, Sums::default());
        for (sums, first_row) in sums.chunks_mut(width as usize).zip((0..).step_by(down as usize)) {
            for row in taken_down.clone().map(|row| first_row + row) {
                for (sum, first_column) in sums.iter_mut().zip((0..).step_by(across as usize)) {
                    for column in taken_across.clone().map(|column| first_column + column) {
                        let here = index(column, row);
                        let is_same = |held: &Vec<Cell>| {
                            last.is_some_and(|last: usize| held[last] == held[here])
                        };
                        if !self.held.iter().all(is_same) {
                            let cells = self.held.iter().map(|held| held[here]);
                            (last, value) = match self.recent.find(cells) {
                                Ok(known) => (Some(here), known),
                                Err(free) => {
                                    let place = at(column, row);
                                    let is_still = self.find_stack(here, place, &scene.map_facts);
                                    let value = self.taken(|| paint(place));
                                    if is_still {
                                        let cells = self.held.iter().map(|held| held[here]);
                                        self.recent.keep(free, cells, value);
                                    }
                                    (is_still.then_some(here), value)
                                }
                            };
                        }
                        sum.add(value);
                    }
                }
            }
        }
        Some(())
    }

    /// Reads the cells of all layers over an area, with those from which pictures may reach into it;
    /// gives what was read.
    fn read(&mut self, quilt: &Quilt, area: CellRect, map_facts: &MapFacts) -> Option<CellRect> {
        let reach = i64::from(self.reach);
        let corner =
            |at: CellPos, by: i64| CellPos::checked(i64::from(at.x()) + by, i64::from(at.y()) + by);
        let last = CellPos::new(area.right() - 1, area.bottom() - 1);
        let grown = CellRect::between(corner(area.corner(), -reach)?, corner(last, reach)?);
        let stride = grown.width() as usize;
        for ((layer, offset), held) in self.layers.iter().zip(&mut self.held) {
            let own = grown.moved(offset.reversed());
            if (own.width(), own.height()) != (grown.width(), grown.height()) {
                return None;
            }
            held.clear();
            held.resize(grown.cell_count() as usize, Cell::EMPTY);
            quilt.layers()[*layer].cells().read_blocks(own, &mut self.scratch, |run| {
                let (left, top) =
                    (run.cells.left().abs_diff(own.left()), run.cells.top().abs_diff(own.top()));
                let width = run.cells.width() as usize;
                for row in 0..run.cells.height() as usize {
                    let start = (top as usize + row) * stride + left as usize;
                    let into = &mut held[start..start + width];
                    match run.values {
                        RunValues::Uniform(cell) => into.fill(cell),
                        RunValues::Slice(cells) => {
                            into.copy_from_slice(&cells[row * width..(row + 1) * width]);
                        }
                        RunValues::Absent(_) => into.fill(Cell::ABSENT),
                    }
                }
            });
        }
        let is_oversize = |cell: &Cell| map_facts.facts_of(*cell).has(CellFacts::OVERSIZE);
        let reaches = reach > 0 && self.held.iter().flatten().any(is_oversize);
        (!reaches).then_some(grown)
    }

    /// Finds what is drawn of a cell, from the topmost down to what hides the rest; says whether that
    /// is the same wherever the layers hold the same.
    fn find_stack(&mut self, index: usize, at: CellPos, map_facts: &MapFacts) -> bool {
        let mut is_still = true;
        self.key.clear();
        for &(number, layer) in self.levels.iter().rev() {
            let cell = self.held[layer][index];
            if cell == Cell::EMPTY {
                continue;
            }
            // What is not loaded has no marks.
            let marked = if cell == Cell::ABSENT { Cell::EMPTY } else { cell };
            let (facts, level) = (map_facts.facts_of(cell), &map_facts.levels[usize::from(number)]);
            let is_raised = facts.has(CellFacts::RAISED) || marked.is_raised();
            if is_raised != level.raised || facts.has(CellFacts::CLEAR) {
                continue;
            }
            self.key.push(u64::from(number) << 32 | u64::from(cell.to_bits()));
            if facts.has(CellFacts::ANIMATED) {
                let own = at.checked_add(self.layers[layer].1.reversed()).unwrap_or(at);
                let frame = map_facts.frame(cell, own, 0, None);
                self.key.push(FRAME | u64::from(frame.to_bits()));
                is_still = false;
            }
            if map_facts.covers(marked, number) {
                break;
            }
        }
        is_still
    }

    /// What a pixel takes of the stack that was found.
    fn taken(&mut self, paint: impl FnOnce() -> Sums) -> Sums {
        if self.key.is_empty() {
            return Sums::default();
        }
        if let Some(known) = self.kept.get(&*self.key) {
            return *known;
        }
        if self.kept.len() >= MAX_KEPT {
            self.kept.clear();
        }
        let new = paint();
        self.kept.insert(self.key.as_slice().into(), new);
        new
    }
}

/// Recently computed pixels, by what the layers hold in a cell: finding one here is faster than working
/// out which tiles of the cell are drawn.
#[derive(Clone, Debug, Default)]
struct Recent {
    layers: usize,
    /// By place: what each of the layers holds.
    cells: Vec<Cell>,
    /// By place: `None` where nothing is kept. Empty until something is.
    values: Vec<Option<Sums>>,
}

impl Recent {
    /// Enough for what tiles lie above each other in a map, and so few that they take half a megabyte.
    const COUNT: usize = 1 << 13;

    /// Finds the pixel of such cells, or the place to keep it in.
    #[inline]
    fn find(&self, cells: impl Iterator<Item = Cell> + Clone) -> Result<Sums, usize> {
        /// Multiplicative hashing (Knuth, "The Art of Computer Programming", volume 3, 6.4).
        const FACTOR: u32 = 0x9e37_79b1;
        let mixed =
            |hash: u32, cell: Cell| (hash.rotate_left(5) ^ cell.to_bits()).wrapping_mul(FACTOR);
        let place =
            cells.clone().fold(0, mixed) as usize >> (u32::BITS - Self::COUNT.trailing_zeros());
        match self.values.get(place) {
            Some(Some(value)) if cells.eq(self.cells[self.of_place(place)].iter().copied()) => {
                Ok(*value)
            }
            _ => Err(place),
        }
    }

    fn of_place(&self, place: usize) -> Range<usize> {
        place * self.layers..(place + 1) * self.layers
    }

    fn keep(&mut self, place: usize, cells: impl Iterator<Item = Cell>, value: Sums) {
        if self.values.is_empty() {
            self.values.resize(Self::COUNT, None);
            self.cells.resize(Self::COUNT * self.layers, Cell::EMPTY);
        }
        let kept = self.of_place(place);
        self.cells[kept].iter_mut().zip(cells).for_each(|(kept, cell)| *kept = cell);
        self.values[place] = Some(value);
    }
}
