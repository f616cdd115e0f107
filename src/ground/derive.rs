//! The codes of a chunk from what the layers and markers say, and again from what has changed.

use triomphe::Arc;

use super::codes::{CELLS, Codes, DAMAGED, NOT_HERE, NOTHING_SAID};
use super::decide::{Speaker, code_of_cell};
use super::forms::Forms;
use super::parts::{MOST_SHAPES, PartsNumber, PartsTable, Said};
use crate::lattice::Lattice;
use crate::plane::{Absence, Chunk, Presence, Run, RunValues};
use crate::quilt::{Marker, PlacedMarker};
use crate::tile::Cell;
use crate::units::{CellPos, CellRect, ChunkPos};

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

/// All who say what the ground is.
#[derive(Clone, Copy)]
pub(super) struct Voices<'a> {
    pub(super) speakers: &'a [Speaker<'a>],
    pub(super) zones: &'a [Zone],
    pub(super) lattice: &'a Lattice,
    pub(super) codes_of_tiles: &'a [u8],
    pub(super) forms: &'a Forms,
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
    /// By speaker; of one whose chunks do not lie on those of the map, none.
    sources: Box<[Chunk<Cell>]>,
}

impl ClassChunk {
    pub(super) fn derived(
        pos: ChunkPos,
        voices: Voices<'_>,
        table: &mut Arc<PartsTable>,
        scratch: &mut Vec<Cell>,
    ) -> ClassChunk {
        let sources: Box<[Chunk<Cell>]> =
            voices.speakers.iter().map(|speaker| source(speaker, pos)).collect();
        let mut codes = None;
        let first = voices.speakers.partition_point(|speaker| speaker.is_first);
        let mut hear = |speakers: &[Speaker<'_>], sources: &[Chunk<Cell>], codes: &mut _| {
            for (speaker, source) in speakers.iter().zip(sources) {
                voices.hear(speaker, source, pos, codes, scratch);
            }
        };
        hear(&voices.speakers[..first], &sources[..first], &mut codes);
        voices.hear_zones(pos, &mut codes);
        hear(&voices.speakers[first..], &sources[first..], &mut codes);
        let codes = codes
            .map_or(Codes::Uniform(NOTHING_SAID), |codes| Codes::Each(Arc::new(codes)).evened());
        let mut chunk = ClassChunk { codes, parts: None, sources };
        if voices.forms.are_any() && chunk.may_have_forms(voices, scratch) {
            let (mut numbers, mut said) = ([0; CELLS], Vec::new());
            for (index, number) in numbers.iter_mut().enumerate() {
                chunk.said(pos, index, voices, &mut said);
                *number = PartsTable::number_of(table, &said, voices.forms);
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
    fn may_have_forms(&self, voices: Voices<'_>, scratch: &mut Vec<Cell>) -> bool {
        let is_formed = |cell: &Cell| voices.forms.of_cell(*cell) != 0;
        let is_aligned =
            |speaker: &Speaker<'_>| speaker.own_chunk(CellPos::ORIGIN.chunk()).is_some();
        !voices.speakers.iter().all(is_aligned)
            || self.sources.iter().any(|source| match source {
                Chunk::Uniform(cell) => is_formed(cell),
                Chunk::Absent(_) => false,
                _ => {
                    scratch.resize(CELLS, Cell::EMPTY);
                    source.copy_to(0, scratch);
                    scratch.iter().any(is_formed)
                }
            })
    }

    pub(super) fn parts_at(&self, index: usize) -> PartsNumber {
        self.parts.as_ref().map_or(0, |numbers| numbers[index])
    }

    /// Whether nothing is known of it that is not known of any chunk.
    pub(super) fn is_blank(&self) -> bool {
        let is_blank = |chunk: &Chunk<Cell>| matches!(chunk, Chunk::Uniform(Cell::EMPTY));
        matches!(self.codes, Codes::Uniform(NOTHING_SAID)) && self.sources.iter().all(is_blank)
    }

    /// Finds anew what a few changed cells are, and leaves those in `changed` that are another
    /// than before. `None` where too much has changed for that.
    pub(super) fn update(
        &mut self,
        pos: ChunkPos,
        voices: Voices<'_>,
        table: &mut Arc<PartsTable>,
        changed: &mut Vec<u16>,
    ) -> Option<()> {
        // From so many on, deriving all is as cheap.
        const MOST: usize = 64;
        changed.clear();
        for (speaker, held) in voices.speakers.iter().zip(&mut self.sources) {
            let Some(own) = speaker.own_chunk(pos) else { continue };
            let now = speaker.layer.cells().chunk(own);
            let before = changed.len();
            now.add_differing(held, MOST, changed)?;
            if changed.len() > before {
                *held = now.into_owned();
            }
        }
        changed.sort_unstable();
        changed.dedup();
        let mut said = Vec::new();
        changed.retain(|index| {
            let index = usize::from(*index);
            self.said(pos, index, voices, &mut said);
            let code = said.first().map_or(NOTHING_SAID, |said| said.code);
            let number = PartsTable::number_of(table, &said, voices.forms);
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

    /// What is said of one cell from the top down, by the chunks that it holds: of parts of it, and
    /// last of all that is left.
    fn said(&self, pos: ChunkPos, index: usize, voices: Voices<'_>, said: &mut Vec<Said>) {
        said.clear();
        let cell = pos.cell_at_index(index);
        let zone = || {
            let zone = voices.zones.iter().find(|zone| zone.covers(cell, voices.lattice));
            zone.map_or(NOTHING_SAID, |zone| zone.code)
        };
        let mut zones_heard = false;
        for (speaker, source) in voices.speakers.iter().zip(&self.sources) {
            if !speaker.is_first && !std::mem::replace(&mut zones_heard, true) {
                let code = zone();
                if code != NOTHING_SAID {
                    return said.push(Said { form: 0, code });
                }
            }
            let held = if speaker.own_chunk(pos).is_some() {
                source.get(index)
            } else {
                let own = cell.checked_add(speaker.offset.reversed());
                own.map_or(Presence::Here(Cell::EMPTY), |own| speaker.layer.cells().get(own))
            };
            let (form, code) = match held {
                Presence::Here(cell) => {
                    (voices.forms.of_cell(cell), code_of_cell(cell, voices.codes_of_tiles))
                }
                Presence::NotHere => (0, NOT_HERE),
                Presence::Damaged => (0, DAMAGED),
            };
            if code == NOTHING_SAID || (form != 0 && said.len() == MOST_SHAPES) {
                continue;
            }
            said.push(Said { form, code });
            if form == 0 {
                return;
            }
        }
        let code = if zones_heard { NOTHING_SAID } else { zone() };
        said.push(Said { form: 0, code });
    }
}

fn source(speaker: &Speaker<'_>, pos: ChunkPos) -> Chunk<Cell> {
    let own = speaker.own_chunk(pos);
    own.map(|own| speaker.layer.cells().chunk(own).into_owned()).unwrap_or_default()
}

/// Lets one speak for cells of which nothing is said yet.
fn speak(codes: &mut [u8], said: impl Iterator<Item = u8>) {
    for (held, code) in codes.iter_mut().zip(said) {
        *held = if *held == NOTHING_SAID { code } else { *held };
    }
}

impl Voices<'_> {
    /// Hears what a layer says of a chunk.
    fn hear(
        self,
        speaker: &Speaker<'_>,
        source: &Chunk<Cell>,
        pos: ChunkPos,
        codes: &mut Option<[u8; CELLS]>,
        scratch: &mut Vec<Cell>,
    ) {
        if speaker.own_chunk(pos).is_none() {
            return self.hear_between(speaker, pos, codes, scratch);
        }
        let uniform = match source {
            Chunk::Uniform(cell) => Some(code_of_cell(*cell, self.codes_of_tiles)),
            Chunk::Absent(why) => Some(code_of_absence(*why)),
            _ => None,
        };
        if uniform == Some(NOTHING_SAID) {
            return;
        }
        let codes = codes.get_or_insert([NOTHING_SAID; CELLS]);
        match uniform {
            Some(code) => speak(codes, std::iter::repeat(code)),
            None => {
                scratch.resize(CELLS, Cell::EMPTY);
                source.copy_to(0, scratch);
                let said = scratch.iter().map(|cell| code_of_cell(*cell, self.codes_of_tiles));
                speak(codes, said);
            }
        }
    }

    /// The same of a layer whose chunks do not lie on those of the map.
    fn hear_between(
        self,
        speaker: &Speaker<'_>,
        pos: ChunkPos,
        codes: &mut Option<[u8; CELLS]>,
        scratch: &mut Vec<Cell>,
    ) {
        let own = pos.cells().moved(speaker.offset.reversed());
        speaker.layer.cells().read_blocks(own, scratch, |run: Run<'_, Cell>| {
            let uniform = match run.values {
                RunValues::Uniform(cell) => Some(code_of_cell(cell, self.codes_of_tiles)),
                RunValues::Absent(why) => Some(code_of_absence(why)),
                RunValues::Slice(_) => None,
            };
            if uniform == Some(NOTHING_SAID) {
                return;
            }
            let codes = codes.get_or_insert([NOTHING_SAID; CELLS]);
            let width = run.cells.width() as usize;
            for row in 0..run.cells.height() as usize {
                let y = run.cells.top() + row as i32;
                let at = CellPos::new(run.cells.left(), y).saturating_add(speaker.offset);
                let from = at.index_in_chunk();
                let codes = &mut codes[from..from + width];
                match (uniform, run.values) {
                    (Some(code), _) => speak(codes, std::iter::repeat(code)),
                    (None, RunValues::Slice(cells)) => {
                        let cells = &cells[row * width..(row + 1) * width];
                        let said =
                            cells.iter().map(|cell| code_of_cell(*cell, self.codes_of_tiles));
                        speak(codes, said);
                    }
                    (None, _) => {}
                }
            }
        });
    }

    fn hear_zones(self, pos: ChunkPos, codes: &mut Option<[u8; CELLS]>) {
        for zone in self.zones {
            let cells = zone.cells.intersection(pos.cells());
            if cells.is_empty() {
                continue;
            }
            let codes = codes.get_or_insert([NOTHING_SAID; CELLS]);
            for cell in cells.cells() {
                let held = &mut codes[cell.index_in_chunk()];
                if *held == NOTHING_SAID && zone.covers(cell, self.lattice) {
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
