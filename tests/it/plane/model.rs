//! The naive model of a plane: every cell that was written to and is not 0.

use std::collections::BTreeMap;

use sturdy_quilt::plane::{ChunkForm, Plane, Stamp};
use sturdy_quilt::{CellPos, CellRect, ChunkPos, Presence};

/// The naive model: every cell that was written to and is not 0.
#[derive(Clone, Debug, Default, PartialEq)]
pub(super) struct Model(pub(super) BTreeMap<CellPos, u32>);

impl Model {
    pub(super) fn get(&self, cell: CellPos) -> u32 {
        self.0.get(&cell).copied().unwrap_or(0)
    }

    pub(super) fn set(&mut self, cell: CellPos, value: u32) {
        if value == 0 {
            self.0.remove(&cell);
        } else {
            self.0.insert(cell, value);
        }
    }

    pub(super) fn bounds(&self) -> CellRect {
        let cells = self.0.keys().map(|cell| CellRect::of_cell(*cell));
        cells.fold(CellRect::EMPTY, CellRect::union)
    }

    pub(super) fn fill(&mut self, rect: CellRect, value: u32) {
        rect.cells().for_each(|cell| self.set(cell, value));
    }

    pub(super) fn write(&mut self, rect: CellRect, values: &[u32]) {
        rect.cells().zip(values).for_each(|(cell, value)| self.set(cell, *value));
    }

    pub(super) fn read(&self, rect: CellRect) -> Vec<u32> {
        rect.cells().map(|cell| self.get(cell)).collect()
    }

    pub(super) fn copy(&mut self, from: &Model, rect: CellRect, to: CellPos) {
        let values = from.read(rect);
        self.write(CellRect::new(to, rect.width(), rect.height()), &values);
    }

    /// The cells of each chunk that has any.
    pub(super) fn by_chunk(&self) -> BTreeMap<ChunkPos, Vec<u32>> {
        let mut chunks: BTreeMap<ChunkPos, Vec<u32>> = BTreeMap::new();
        for (cell, value) in &self.0 {
            chunks.entry(cell.chunk()).or_default().push(*value);
        }
        chunks
    }

    /// The chunks in which two models differ.
    pub(super) fn differing(&self, other: &Model) -> Vec<ChunkPos> {
        let cells = self.0.keys().chain(other.0.keys());
        let cells = cells.filter(|cell| self.get(**cell) != other.get(**cell));
        let mut chunks: Vec<ChunkPos> = cells.map(|cell| cell.chunk()).collect();
        chunks.sort_unstable();
        chunks.dedup();
        chunks
    }
}

/// Everything that a plane can be asked gives what the model gives.
pub(super) fn check_equal(plane: &Plane<u32>, model: &Model, area: CellRect) {
    assert!(plane.occupied().eq(occupied(model)));
    assert_eq!(plane.bounds(), model.bounds());
    let cells: Vec<CellPos> = area.cells().step_by(23).chain(model.0.keys().copied()).collect();
    let expected: Vec<Presence<u32>> =
        cells.iter().map(|cell| Presence::Here(model.get(*cell))).collect();
    let (mut cursor, mut many) = (plane.cursor(), Vec::new());
    plane.get_many(&cells, &mut many);
    assert_eq!(many, expected);
    for (cell, expected) in cells.iter().zip(expected) {
        assert_eq!(plane.get(*cell), expected);
        assert_eq!(cursor.get(*cell), expected);
    }
    for value in [1, 3, 1005] {
        let found = occupied(model).filter(|(_, v)| *v == value).map(|(cell, _)| cell);
        assert!(plane.find(value).eq(found));
    }
    let large = plane.find_where(|v| v > 2);
    assert!(large.eq(occupied(model).filter(|(_, v)| *v > 2).map(|(cell, _)| cell)));
    check_runs(plane, model, CellRect::between(CellPos::new(-70, -3), CellPos::new(80, 2)));
    check_runs(plane, model, CellRect::between(CellPos::new(-64, -64), CellPos::new(-1, -1)));
    check_memory(plane, model);
}

/// The occupied cells in the order of a plane: chunk by chunk.
fn occupied(model: &Model) -> impl Iterator<Item = (CellPos, u32)> {
    let mut cells: Vec<(CellPos, u32)> = model.0.iter().map(|(c, v)| (*c, *v)).collect();
    cells.sort_by_key(|(cell, _)| (cell.chunk(), *cell));
    cells.into_iter()
}

/// Runs, blocks, chunks and rectangles give every cell exactly once.
fn check_runs(plane: &Plane<u32>, model: &Model, rect: CellRect) {
    let mut scratch = Vec::new();
    let mut next = rect.cells();
    plane.read_runs(rect, &mut scratch, |run| {
        for (cell, value) in run.each() {
            assert_eq!(Some(cell), next.next(), "row by row without a gap");
            assert_eq!(value, model.get(cell));
        }
    });
    assert_eq!(next.next(), None);
    let mut seen = BTreeMap::new();
    plane.read_blocks(rect, &mut scratch, |run| seen.extend(run.each()));
    assert_eq!(seen.len() as u64, rect.cell_count());
    assert!(seen.iter().all(|(cell, value)| *value == model.get(*cell)));
    let mut seen = BTreeMap::new();
    plane.read_chunks(&mut scratch, |run| seen.extend(run.each().filter(|(_, v)| *v != 0)));
    assert_eq!(seen, model.0);
    let mut values = vec![99; 3];
    plane.read_rect(rect, &mut values).unwrap();
    assert_eq!(values, model.read(rect));
}

/// No chunk has a wider form than the different values that ever were there ask for, and what is
/// counted is what is there.
fn check_memory(plane: &Plane<u32>, model: &Model) {
    let memory = plane.memory();
    let mut compact = plane.clone();
    compact.compact();
    let smallest = compact.memory();
    assert!(smallest.chunk_bytes() <= memory.chunk_bytes());
    assert_eq!(compact, *plane);
    let mut lone = 0;
    let mut expected = [0; ChunkForm::ALL.len()];
    let chunks = model.by_chunk();
    // More cells than can be lone in a tract, or chunks beside them that were emptied.
    let is_in_a_table = |pos: ChunkPos| {
        let stamped = pos.tract().cells().chunks();
        let stamped = stamped.filter(|chunk| plane.chunk_stamp(*chunk) != Stamp::NONE);
        stamped.map(|chunk| chunks.get(&chunk).map_or(1, Vec::len)).sum::<usize>() > 8
    };
    for (pos, values) in &chunks {
        if !is_in_a_table(*pos) {
            lone += values.len() as u64;
            continue;
        }
        let mut different = values.clone();
        if values.len() < 64 * 64 {
            different.push(0);
        }
        different.sort_unstable();
        different.dedup();
        expected[form_for(different.len()) as usize] += 1;
    }
    for form in ChunkForm::ALL {
        let of = smallest.form(form);
        assert_eq!(of.chunks, expected[form as usize], "{form:?}");
        let least: u64 = [0, 512, 1024, 2048, 4096, 16384, 0][form as usize];
        assert!((of.chunks * least..=of.chunks * (least + 1104)).contains(&of.bytes), "{of:?}");
    }
    assert_eq!(smallest.lone_cells(), lone);
}

/// The narrowest form for so many different values.
pub(super) fn form_for(values: usize) -> ChunkForm {
    match values {
        1 => ChunkForm::Uniform,
        2 => ChunkForm::Bits1,
        3..=4 => ChunkForm::Bits2,
        5..=16 => ChunkForm::Bits4,
        17..=256 => ChunkForm::Bits8,
        _ => ChunkForm::Full,
    }
}
