//! The codes of a chunk from what the layers and markers say, and again from what has changed.

use triomphe::Arc;

use super::codes::{CELLS, Codes, DAMAGED, NOT_HERE, UNSTATED};
use super::convex_shapes::ConvexShapes;
use super::parts::{MAX_SHAPES, PartsNumber, PartsTable, Statement};
use super::precedence::{Source, code_of_cell};
use crate::lattice::Lattice;
use crate::plane::{Absence, Chunk, Presence, Run, RunValues, Word};
use crate::quilt::{Layer, Marker, PlacedMarker};
use crate::tile::Cell;
use crate::units::{CellOffset, CellPos, CellRect, ChunkPos};

/// A marker that states ground, without what the game keeps with it.
#[derive(Clone, Debug, PartialEq)]
pub(super) struct Zone {
    marker: Marker,
    pub(super) cells: CellRect,
    code: u8,
}

impl Zone {
    pub(super) fn new(placed: &PlacedMarker<'_>, code: u8) -> Zone {
        let marker = Marker::new(placed.name(), placed.stated_place().clone());
        Zone { marker, cells: placed.cells(), code }
    }

    fn covers(&self, cell: CellPos, lattice: &Lattice) -> bool {
        self.cells.contains(cell) && PlacedMarker::new(&self.marker, lattice).covers(cell)
    }
}

/// What the ground of a chunk follows from.
#[derive(Clone, Copy)]
pub(super) struct Inputs<'a> {
    /// In order of precedence.
    pub(super) sources: &'a [Source<'a>],
    pub(super) zones: &'a [Zone],
    pub(super) lattice: &'a Lattice,
    pub(super) codes_of_tiles: &'a [u8],
    pub(super) convexes: &'a ConvexShapes,
}

impl Inputs<'_> {
    /// The code of the markers in a cell.
    fn code_of_markers(&self, cell: CellPos) -> u8 {
        let zone = self.zones.iter().find(|zone| zone.covers(cell, self.lattice));
        zone.map_or(UNSTATED, |zone| zone.code)
    }
}

/// The numbers of the parts of the cells of a chunk, where any cell has some.
pub(super) type ChunkParts = Option<Arc<[PartsNumber; CELLS]>>;

/// The codes of a chunk, with the chunks of layers that they were found from: by what differs from
/// those, an edit costs its cells.
#[derive(Clone, Debug)]
pub(super) struct ClassChunk {
    /// Of a cell with parts that of the uppermost.
    pub(super) codes: Codes,
    pub(super) parts: ChunkParts,
    /// By source; empty for the markers, and for a layer whose chunks do not lie on those of the map.
    held: Box<[Chunk]>,
}

impl ClassChunk {
    pub(super) fn derived(
        pos: ChunkPos,
        inputs: Inputs<'_>,
        table: &mut Arc<PartsTable>,
        scratch: &mut Vec<Cell>,
    ) -> ClassChunk {
        let held: Box<[Chunk]> =
            inputs.sources.iter().map(|source| source_chunk(source, pos)).collect();
        let mut codes = None;
        for (source, held) in inputs.sources.iter().zip(&held) {
            match source {
                Source::Layer { layer, offset } if source.own_chunk(pos).is_none() => {
                    inputs.add_unaligned(layer, *offset, pos, &mut codes, scratch);
                }
                Source::Layer { .. } => inputs.add_chunk(held, &mut codes, scratch),
                Source::Markers => inputs.add_zones(pos, &mut codes),
            }
        }
        let codes =
            codes.map_or(Codes::Uniform(UNSTATED), |codes| Codes::Each(Arc::new(codes)).evened());
        let mut chunk = ClassChunk { codes, parts: None, held };
        if inputs.convexes.are_any() && chunk.may_have_parts(inputs, scratch) {
            let (mut numbers, mut statements) = ([0; CELLS], Vec::new());
            for (index, number) in numbers.iter_mut().enumerate() {
                chunk.add_statements(pos, index, inputs, &mut statements);
                *number = PartsTable::number_of(table, &statements, inputs.convexes);
            }
            chunk.set_parts(numbers);
        }
        chunk
    }

    fn set_parts(&mut self, numbers: [PartsNumber; CELLS]) {
        let are_any = numbers.iter().any(|number| *number != 0);
        self.parts = are_any.then(|| Arc::new(numbers));
    }

    /// Whether a tile that does not fill its cell lies in any of the chunks; where they do not lie
    /// on those of the map, it may.
    fn may_have_parts(&self, inputs: Inputs<'_>, scratch: &mut Vec<Cell>) -> bool {
        let has_parts = |cell: &Cell| inputs.convexes.of_cell(*cell) != 0;
        let is_aligned = |source: &Source<'_>| {
            matches!(source, Source::Markers) || source.own_chunk(CellPos::ORIGIN.chunk()).is_some()
        };
        !inputs.sources.iter().all(is_aligned)
            || self.held.iter().any(|held| match held {
                Chunk::Uniform(word) => has_parts(&Cell::of_word(*word)),
                Chunk::Absent(_) => false,
                _ => {
                    scratch.resize(CELLS, Cell::EMPTY);
                    held.copy_to(0, Cell::words_mut(scratch));
                    scratch.iter().any(has_parts)
                }
            })
    }

    pub(super) fn parts_at(&self, index: usize) -> PartsNumber {
        self.parts.as_ref().map_or(0, |numbers| numbers[index])
    }

    /// Whether nothing is known of it that is not known of any chunk.
    pub(super) fn is_blank(&self) -> bool {
        let is_blank = |chunk: &Chunk| matches!(chunk, Chunk::Uniform(0));
        matches!(self.codes, Codes::Uniform(UNSTATED)) && self.held.iter().all(is_blank)
    }

    /// Finds anew what a few changed cells are, and leaves those in `changed` that are another
    /// than before. `None` where too much has changed for that.
    pub(super) fn update(
        &mut self,
        pos: ChunkPos,
        inputs: Inputs<'_>,
        table: &mut Arc<PartsTable>,
        changed: &mut Vec<u16>,
    ) -> Option<()> {
        // From so many on, deriving all is as cheap.
        const MAX: usize = 64;
        changed.clear();
        for (source, held) in inputs.sources.iter().zip(&mut self.held) {
            let Source::Layer { layer, .. } = source else { continue };
            let Some(own) = source.own_chunk(pos) else { continue };
            let now = layer.cells().chunk(own);
            let before = changed.len();
            now.add_differing(held, MAX, changed)?;
            if changed.len() > before {
                *held = now.into_owned();
            }
        }
        changed.sort_unstable();
        changed.dedup();
        let mut statements = Vec::new();
        changed.retain(|index| {
            let index = usize::from(*index);
            self.add_statements(pos, index, inputs, &mut statements);
            let code = statements.first().map_or(UNSTATED, |first| first.code);
            let number = PartsTable::number_of(table, &statements, inputs.convexes);
            let before = (self.codes.at(index), self.parts_at(index));
            if (code, number) == before {
                return false;
            }
            self.codes.set(index, code);
            if number != before.1 {
                let mut numbers = self.parts.as_deref().copied().unwrap_or([0; CELLS]);
                numbers[index] = number;
                self.set_parts(numbers);
            }
            true
        });
        if let (Some(last), Codes::Each(codes)) = (changed.last(), &self.codes)
            && codes[0] == codes[usize::from(*last)]
        {
            self.codes = self.codes.clone().evened();
        }
        Some(())
    }

    /// What is stated of one cell from the top down, by the chunks that it holds: of parts of it, and
    /// last of all that is left.
    fn add_statements(
        &self,
        pos: ChunkPos,
        index: usize,
        inputs: Inputs<'_>,
        statements: &mut Vec<Statement>,
    ) {
        statements.clear();
        let cell = pos.cell_at_index(index);
        for (source, chunk) in inputs.sources.iter().zip(&self.held) {
            let held = match source {
                Source::Markers => {
                    let code = inputs.code_of_markers(cell);
                    if code == UNSTATED {
                        continue;
                    }
                    return statements.push(Statement { convex: 0, code });
                }
                Source::Layer { .. } if source.own_chunk(pos).is_some() => {
                    chunk.get(index).map(Cell::of_word)
                }
                Source::Layer { layer, offset } => {
                    let own = cell.checked_add(offset.reversed());
                    own.map_or(Presence::Here(Cell::EMPTY), |own| layer.cells().get(own))
                }
            };
            let (convex, code) = match held {
                Presence::Here(cell) => {
                    (inputs.convexes.of_cell(cell), code_of_cell(cell, inputs.codes_of_tiles))
                }
                Presence::NotHere => (0, NOT_HERE),
                Presence::Damaged => (0, DAMAGED),
            };
            if code == UNSTATED || (convex != 0 && statements.len() == MAX_SHAPES) {
                continue;
            }
            statements.push(Statement { convex, code });
            if convex == 0 {
                return;
            }
        }
        statements.push(Statement { convex: 0, code: UNSTATED });
    }
}

fn source_chunk(source: &Source<'_>, pos: ChunkPos) -> Chunk {
    match (source, source.own_chunk(pos)) {
        (Source::Layer { layer, .. }, Some(own)) => layer.cells().chunk(own).into_owned(),
        _ => Chunk::default(),
    }
}

/// Gives a code to each cell that has none yet.
fn fill_unstated(codes: &mut [u8], stated: impl Iterator<Item = u8>) {
    for (held, code) in codes.iter_mut().zip(stated) {
        *held = if *held == UNSTATED { code } else { *held };
    }
}

impl Inputs<'_> {
    /// Adds what a layer states, by its chunk that lies on the chunk of the map.
    fn add_chunk(self, chunk: &Chunk, codes: &mut Option<[u8; CELLS]>, scratch: &mut Vec<Cell>) {
        let uniform = match chunk {
            Chunk::Uniform(word) => Some(code_of_cell(Cell::of_word(*word), self.codes_of_tiles)),
            Chunk::Absent(why) => Some(code_of_absence(*why)),
            _ => None,
        };
        if uniform == Some(UNSTATED) {
            return;
        }
        let codes = codes.get_or_insert([UNSTATED; CELLS]);
        match uniform {
            Some(code) => fill_unstated(codes, std::iter::repeat(code)),
            None => {
                scratch.resize(CELLS, Cell::EMPTY);
                chunk.copy_to(0, Cell::words_mut(scratch));
                let stated = scratch.iter().map(|cell| code_of_cell(*cell, self.codes_of_tiles));
                fill_unstated(codes, stated);
            }
        }
    }

    /// Adds what a layer states whose chunks do not lie on those of the map.
    fn add_unaligned(
        self,
        layer: &Layer,
        offset: CellOffset,
        pos: ChunkPos,
        codes: &mut Option<[u8; CELLS]>,
        scratch: &mut Vec<Cell>,
    ) {
        let own = pos.cells().moved(offset.reversed());
        layer.cells().read_blocks(own, scratch, |run: Run<'_, Cell>| {
            let uniform = match run.values {
                RunValues::Uniform(cell) => Some(code_of_cell(cell, self.codes_of_tiles)),
                RunValues::Absent(why) => Some(code_of_absence(why)),
                RunValues::Slice(_) => None,
            };
            if uniform == Some(UNSTATED) {
                return;
            }
            let codes = codes.get_or_insert([UNSTATED; CELLS]);
            let width = run.cells.width() as usize;
            for row in 0..run.cells.height() as usize {
                let y = run.cells.top() + row as i32;
                let at = CellPos::new(run.cells.left(), y).saturating_add(offset);
                let from = at.index_in_chunk();
                let codes = &mut codes[from..from + width];
                match (uniform, run.values) {
                    (Some(code), _) => fill_unstated(codes, std::iter::repeat(code)),
                    (None, RunValues::Slice(cells)) => {
                        let cells = &cells[row * width..(row + 1) * width];
                        let stated =
                            cells.iter().map(|cell| code_of_cell(*cell, self.codes_of_tiles));
                        fill_unstated(codes, stated);
                    }
                    (None, _) => {}
                }
            }
        });
    }

    /// Adds what the markers state.
    fn add_zones(self, pos: ChunkPos, codes: &mut Option<[u8; CELLS]>) {
        for zone in self.zones {
            let cells = zone.cells.intersection(pos.cells());
            if cells.is_empty() {
                continue;
            }
            let codes = codes.get_or_insert([UNSTATED; CELLS]);
            for cell in cells.cells() {
                let held = &mut codes[cell.index_in_chunk()];
                if *held == UNSTATED && zone.covers(cell, self.lattice) {
                    *held = zone.code;
                }
            }
        }
    }
}

const fn code_of_absence(why: Absence) -> u8 {
    match why {
        Absence::NotHere => NOT_HERE,
        Absence::Damaged => DAMAGED,
    }
}
