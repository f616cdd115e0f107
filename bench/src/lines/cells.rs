//! Cells in memory.

use std::collections::HashMap;

use sturdy_quilt::{CellPos, CellRect, Plane, RunValues};

use crate::harness::{Mark, Versus};
use crate::rivals::cells::ChunkMap;
use crate::scenes::{self, Numbers};

/// Cells in a row: large enough that a flat array does not fit the caches.
const SIDE: u32 = 4096;
/// For hash maps of single cells, which take 26 bytes each.
const HASHED_SIDE: u32 = 2048;

pub(crate) fn run(versus: &mut Versus) {
    if !versus.wants("cells") {
        return;
    }
    let (plane, flat) = scenes::cells(SIDE, 0);
    rows(versus, &plane, &flat);
    windows(versus, &plane, &flat);
    walks(versus, &plane, &flat);
    random(versus, &plane, &flat);
    let held = plane.clone();
    let ours = || u64::from(held.clone().get(CellPos::ORIGIN).here().unwrap_or(0));
    let other = || u64::from(flat.clone()[0]);
    versus.line("cells.snapshot.flat", 1, Mark::None, true, ours, other);
    hashed(versus);
}

/// Copies runs into a buffer, as a renderer or a saver does.
fn copy(plane: &Plane<u32>, rect: CellRect, scratch: &mut Vec<u32>, into: &mut [u32]) {
    let mut at = 0;
    plane.read_runs(rect, scratch, |run| {
        let count = run.cells.cell_count() as usize;
        match run.values {
            RunValues::Uniform(value) => into[at..at + count].fill(value),
            RunValues::Slice(values) => into[at..at + count].copy_from_slice(values),
            RunValues::Absent(_) => {}
        }
        at += count;
    });
}

fn sum(values: &[u32]) -> u64 {
    values.iter().fold(0_u64, |sum, value| sum.wrapping_mul(31).wrapping_add(u64::from(*value)))
}

/// All rows from the top, some at a time: whoever goes through a map of this size goes through all
/// of it, and finds little of it in the caches.
#[derive(Default)]
struct Rows {
    next: u32,
    /// How many times all of them were gone through.
    pass: usize,
}

impl Rows {
    const AT_A_TIME: u32 = 32;

    fn some(&mut self) -> std::ops::Range<u32> {
        let from = self.next;
        self.next = (from + Self::AT_A_TIME) % SIDE;
        self.pass += usize::from(self.next == 0);
        from..from + Self::AT_A_TIME
    }
}

fn rows(versus: &mut Versus, plane: &Plane<u32>, flat: &[u32]) {
    let (mut ours_next, mut other_next) = (Rows::default(), Rows::default());
    let (mut scratch, mut into) = (Vec::new(), vec![0; SIDE as usize]);
    let mut other_into = into.clone();
    let count = u64::from(SIDE * Rows::AT_A_TIME);
    let ours = || {
        let mut last = 0;
        for row in ours_next.some() {
            let rect = CellRect::new(CellPos::new(0, row as i32), SIDE, 1);
            copy(plane, rect, &mut scratch, &mut into);
            last ^= into[row as usize % 64] ^ into[SIDE as usize - 1];
        }
        last.into()
    };
    let other = || {
        let mut last = 0;
        for row in other_next.some() {
            let from = (row * SIDE) as usize;
            other_into.copy_from_slice(&flat[from..from + SIDE as usize]);
            last ^= other_into[row as usize % 64] ^ other_into[SIDE as usize - 1];
        }
        last.into()
    };
    versus.line("cells.rows.read.flat", count, Mark::AtMost(1.5), true, ours, other);

    write_rows(versus, plane, flat);
}

fn write_rows(versus: &mut Versus, plane: &Plane<u32>, flat: &[u32]) {
    if !versus.wants("cells.rows.write") && !versus.wants("cells.rows.load") {
        return;
    }
    // Two maps of the same kind in turn, so that each pass changes every row.
    let (_, second) = scenes::cells(SIDE, 1);
    let maps = [&second[..], flat];
    let row_of = |map: usize, row: u32| {
        let from = (row * SIDE) as usize;
        &maps[map][from..from + SIDE as usize]
    };
    let (mut written, mut other_written) = (plane.clone(), flat.to_vec());
    let mut write = |map: usize, row: u32| {
        let start = CellPos::new(0, row as i32);
        written.write_row(start, row_of(map, row)).expect("a plane in memory is here");
        written.get(CellPos::new(7, row as i32)).here().unwrap_or(0)
    };
    // The first pass asks for memory, which the flat array has already.
    (0..SIDE).for_each(|row| _ = write(0, row));
    (0..SIDE).for_each(|row| _ = write(1, row));
    let (mut ours_next, mut other_next) = (Rows::default(), Rows::default());
    let ours = || {
        let map = ours_next.pass % 2;
        ours_next.some().fold(0, |last, row| last ^ write(map, row)).into()
    };
    let other = || {
        let mut last = 0;
        let map = other_next.pass % 2;
        for row in other_next.some() {
            let from = (row * SIDE) as usize;
            other_written[from..from + SIDE as usize].copy_from_slice(row_of(map, row));
            last ^= other_written[from + 7];
        }
        last.into()
    };
    let count = u64::from(SIDE * Rows::AT_A_TIME);
    versus.line("cells.rows.write.flat", count, Mark::AtMost(1.5), true, ours, other);

    // A map from nothing, as a loader builds it.
    let ours = || {
        let mut built = Plane::new();
        for row in 0..SIDE {
            let start = CellPos::new(0, row as i32);
            built.write_row(start, row_of(0, row)).expect("a plane in memory is here");
        }
        built.get(CellPos::new(7, 7)).here().unwrap_or(0).into()
    };
    let other = || {
        let mut built = Vec::with_capacity((SIDE * SIDE) as usize);
        (0..SIDE).for_each(|row| built.extend_from_slice(row_of(0, row)));
        std::hint::black_box(&built)[(7 * SIDE + 7) as usize].into()
    };
    let count = u64::from(SIDE) * u64::from(SIDE);
    versus.line("cells.rows.load.flat", count, Mark::None, true, ours, other);
}

/// What a screen of 1280 × 736 pixels shows of one layer at 32 pixels a cell.
fn windows(versus: &mut Versus, plane: &Plane<u32>, flat: &[u32]) {
    let (width, height) = (40, 23);
    let mut numbers = Numbers::new(2);
    let corners: Vec<(u32, u32)> = (0..256)
        .map(|_| {
            (
                numbers.below((SIDE - width).into()) as u32,
                numbers.below((SIDE - height).into()) as u32,
            )
        })
        .collect();
    let size = (width * height) as usize;
    let (mut scratch, mut into) = (Vec::new(), vec![0; size]);
    let mut other_into = into.clone();
    let ours = || {
        let mut found = 0;
        for &(x, y) in &corners {
            let rect = CellRect::new(CellPos::new(x as i32, y as i32), width, height);
            copy(plane, rect, &mut scratch, &mut into);
            found ^= sum(&into[..64]);
        }
        found
    };
    let other = || {
        let mut found = 0;
        for &(x, y) in &corners {
            for row in 0..height {
                let from = ((y + row) * SIDE + x) as usize;
                let to = (row * width) as usize;
                other_into[to..to + width as usize]
                    .copy_from_slice(&flat[from..from + width as usize]);
            }
            found ^= sum(&other_into[..64]);
        }
        found
    };
    let count = size as u64 * corners.len() as u64;
    versus.line("cells.windows.flat", count, Mark::None, true, ours, other);
}

fn walks(versus: &mut Versus, plane: &Plane<u32>, flat: &[u32]) {
    // A walker turns now and then, and so comes about.
    let mut numbers = Numbers::new(3);
    let (mut place, mut way) = ((SIDE / 2, SIDE / 2), 0);
    let walk: Vec<(u32, u32)> = (0..1_000_000)
        .map(|_| {
            if numbers.below(16) == 0 {
                way = numbers.below(4);
            }
            let (x, y) = place;
            place = match way {
                0 => ((x + 1) % SIDE, y),
                1 => ((x + SIDE - 1) % SIDE, y),
                2 => (x, (y + 1) % SIDE),
                _ => (x, (y + SIDE - 1) % SIDE),
            };
            place
        })
        .collect();
    let cells: Vec<CellPos> =
        walk.iter().map(|(x, y)| CellPos::new(*x as i32, *y as i32)).collect();
    let ours = || {
        let mut cursor = plane.cursor();
        cells.iter().map(|at| u64::from(cursor.get(*at).here().unwrap_or(0))).sum()
    };
    let other = || walk.iter().map(|(x, y)| u64::from(flat[(y * SIDE + x) as usize])).sum();
    versus.line("cells.walk.flat", walk.len() as u64, Mark::AtMost(1.5), true, ours, other);
}

fn places(side: u32) -> Vec<(u32, u32)> {
    let mut numbers = Numbers::new(4);
    (0..100_000)
        .map(|_| (numbers.below(side.into()) as u32, numbers.below(side.into()) as u32))
        .collect()
}

fn read_all(plane: &Plane<u32>, places: &[(u32, u32)]) -> u64 {
    let value = |&(x, y): &(u32, u32)| plane.get(CellPos::new(x as i32, y as i32)).here();
    places.iter().map(|at| u64::from(value(at).unwrap_or(0))).sum()
}

fn random(versus: &mut Versus, plane: &Plane<u32>, flat: &[u32]) {
    let places = places(SIDE);
    let ours = || read_all(plane, &places);
    let other = || places.iter().map(|(x, y)| u64::from(flat[(y * SIDE + x) as usize])).sum();
    versus.line("cells.random.flat", places.len() as u64, Mark::None, true, ours, other);
    if !versus.wants("cells.random.chunk-map") {
        return;
    }
    let mut chunks = ChunkMap::default();
    for (at, value) in flat.iter().enumerate() {
        chunks.set((at as u32 % SIDE) as i32, (at as u32 / SIDE) as i32, *value);
    }
    let other = || places.iter().map(|(x, y)| u64::from(chunks.get(*x as i32, *y as i32))).sum();
    versus.line("cells.random.chunk-map", places.len() as u64, Mark::None, true, ours, other);
}

fn hashed(versus: &mut Versus) {
    if !versus.wants("cells.random.std-hashmap") && !versus.wants("cells.random.foldhash") {
        return;
    }
    let (plane, flat) = scenes::cells(HASHED_SIDE, 0);
    let places = places(HASHED_SIDE);
    let each = || {
        let place = |at: u32| ((at % HASHED_SIDE) as i32, (at / HASHED_SIDE) as i32);
        flat.iter().zip(0..).map(move |(value, at)| (place(at), *value))
    };
    let count = places.len() as u64;
    {
        let map: HashMap<(i32, i32), u32> = each().collect();
        let ours = || read_all(&plane, &places);
        let value = |&(x, y): &(u32, u32)| u64::from(map[&(x as i32, y as i32)]);
        let other = || places.iter().map(value).sum();
        versus.line("cells.random.std-hashmap", count, Mark::AtMost(0.25), true, ours, other);
    }
    let map: HashMap<(i32, i32), u32, foldhash::fast::RandomState> = each().collect();
    let ours = || read_all(&plane, &places);
    let value = |&(x, y): &(u32, u32)| u64::from(map[&(x as i32, y as i32)]);
    let other = || places.iter().map(value).sum();
    versus.line("cells.random.foldhash", count, Mark::None, true, ours, other);
}
