//! Cells in memory.

use std::collections::HashMap;

use sturdy_quilt::plane::{Plane, RunValues};
use sturdy_quilt::{CellPos, CellRect, Presence};

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
    lone(versus);
    world(versus);
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
    versus.line("cells.rows.read.flat", count, Mark::AtMost(1.4), true, ours, other);

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
    versus.line("cells.rows.write.flat", count, Mark::AtMost(1.4), true, ours, other);

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
    let corners: Vec<(u32, u32)> = (0..4096)
        .map(|_| {
            (
                numbers.below((SIDE - width).into()) as u32,
                numbers.below((SIDE - height).into()) as u32,
            )
        })
        .collect();
    let size = (width * height) as usize;
    let mut into = vec![0; size];
    let mut other_into = into.clone();
    let ours = || {
        let mut found = 0;
        for &(x, y) in &corners {
            let rect = CellRect::new(CellPos::new(x as i32, y as i32), width, height);
            plane.read_rect(rect, &mut into).expect("a plane in memory is here");
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
    versus.line("cells.windows.flat", count, Mark::AtMost(0.4), true, ours, other);
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
    versus.line("cells.walk.flat", walk.len() as u64, Mark::AtMost(1.1), true, ours, other);

    let (mut written, mut other_written) = (plane.clone(), flat.to_vec());
    let ours = || {
        let mut writer = written.writer();
        let add = |sum: u64, (at, value): (&CellPos, u32)| {
            sum + u64::from(writer.set(*at, value % 12).expect("a plane in memory is here"))
        };
        cells.iter().zip(0..).fold(0, add)
    };
    let other = || {
        let add = |sum: u64, ((x, y), value): (&(u32, u32), u32)| {
            let held = &mut other_written[(y * SIDE + x) as usize];
            sum + u64::from(std::mem::replace(held, value % 12))
        };
        walk.iter().zip(0..).fold(0, add)
    };
    versus.line("cells.walk.write.flat", walk.len() as u64, Mark::None, true, ours, other);
}

fn places(side: u32, count: usize) -> Vec<(u32, u32)> {
    let mut numbers = Numbers::new(4);
    let place = |_| (numbers.below(side.into()) as u32, numbers.below(side.into()) as u32);
    (0..count).map(place).collect()
}

/// The places as cells, as a game has them at hand.
fn cells_at(places: &[(u32, u32)]) -> Vec<CellPos> {
    places.iter().map(|&(x, y)| CellPos::new(x as i32, y as i32)).collect()
}

fn read_all(plane: &Plane<u32>, cells: &[CellPos]) -> u64 {
    cells.iter().map(|at| u64::from(plane.get(*at).here().unwrap_or(0))).sum()
}

fn read_many(plane: &Plane<u32>, cells: &[CellPos], into: &mut Vec<Presence<u32>>) -> u64 {
    let mut sum = 0;
    for cells in cells.chunks(1024) {
        plane.get_many(cells, into);
        sum += into.iter().map(|found| u64::from(found.here().unwrap_or(0))).sum::<u64>();
    }
    sum
}

/// So many that those of a flat array do not fit the caches.
const RANDOM: usize = 1_000_000;

fn random(versus: &mut Versus, plane: &Plane<u32>, flat: &[u32]) {
    let places = places(SIDE, RANDOM);
    let cells = cells_at(&places);
    let flat_sum =
        |flat: &[u32]| places.iter().map(|(x, y)| u64::from(flat[(y * SIDE + x) as usize])).sum();
    let count = RANDOM as u64;
    let ours = || read_all(plane, &cells);
    versus.line("cells.random.flat", count, Mark::AtMost(0.75), true, ours, || flat_sum(flat));
    let mut into = Vec::new();
    let ours = || read_many(plane, &cells, &mut into);
    versus.line("cells.random.many.flat", count, Mark::None, true, ours, || flat_sum(flat));
    if versus.wants("cells.random.chunk-map") {
        let mut chunks = ChunkMap::default();
        for (at, value) in flat.iter().enumerate() {
            chunks.set((at as u32 % SIDE) as i32, (at as u32 / SIDE) as i32, *value);
        }
        let ours = || read_all(plane, &cells);
        let other =
            || places.iter().map(|(x, y)| u64::from(chunks.get(*x as i32, *y as i32))).sum();
        versus.line("cells.random.chunk-map", count, Mark::None, true, ours, other);
    }
    if !versus.wants("cells.distinct") {
        return;
    }
    // No two cells hold the same.
    let flat: Vec<u32> = (0..SIDE * SIDE).map(|at| at.wrapping_mul(0x9e37_79b1)).collect();
    let mut plane = Plane::new();
    let all = CellRect::new(CellPos::ORIGIN, SIDE, SIDE);
    plane.write_rect(all, &flat).expect("a plane in memory is here");
    let ours = || read_all(&plane, &cells);
    versus.line("cells.distinct.flat", count, Mark::AtMost(3.0), true, ours, || flat_sum(&flat));
    let ours = || read_many(&plane, &cells, &mut into);
    let other = || flat_sum(&flat);
    versus.line("cells.distinct.many.flat", count, Mark::AtMost(1.3), true, ours, other);
}

type FoldMap = HashMap<(i32, i32), u32, foldhash::fast::RandomState>;

fn hashed(versus: &mut Versus) {
    if !versus.wants("cells.random.std-hashmap") && !versus.wants("cells.random.foldhash") {
        return;
    }
    let (plane, flat) = scenes::cells(HASHED_SIDE, 0);
    let places = places(HASHED_SIDE, RANDOM);
    let cells = cells_at(&places);
    let each = || {
        let place = |at: u32| ((at % HASHED_SIDE) as i32, (at / HASHED_SIDE) as i32);
        flat.iter().zip(0..).map(move |(value, at)| (place(at), *value))
    };
    let count = places.len() as u64;
    {
        let map: HashMap<(i32, i32), u32> = each().collect();
        let ours = || read_all(&plane, &cells);
        let value = |&(x, y): &(u32, u32)| u64::from(map[&(x as i32, y as i32)]);
        let other = || places.iter().map(value).sum();
        versus.line("cells.random.std-hashmap", count, Mark::AtMost(0.1), true, ours, other);
    }
    let map: FoldMap = each().collect();
    let ours = || read_all(&plane, &cells);
    let value = |&(x, y): &(u32, u32)| u64::from(map[&(x as i32, y as i32)]);
    let other = || places.iter().map(value).sum();
    versus.line("cells.random.foldhash", count, Mark::AtMost(1.0 / 6.0), true, ours, other);
}

/// Cells without neighbours, anywhere between minus and plus a thousand million.
fn lone(versus: &mut Versus) {
    if !versus.wants("cells.lone") {
        return;
    }
    const COUNT: usize = 1_000_000;
    let mut numbers = Numbers::new(5);
    let mut coordinate = || numbers.below(2_000_000_000) as i32 - 1_000_000_000;
    let places: Vec<(i32, i32)> = (0..COUNT).map(|_| (coordinate(), coordinate())).collect();
    let cells: Vec<CellPos> = places.iter().map(|&(x, y)| CellPos::new(x, y)).collect();
    let build = || {
        let mut plane = Plane::new();
        for (at, cell) in (1..).zip(&cells) {
            plane.set(*cell, at).expect("a plane in memory is here");
        }
        plane
    };
    let build_map = || {
        let mut map = FoldMap::default();
        for (at, place) in (1..).zip(&places) {
            map.insert(*place, at);
        }
        map
    };
    let last = cells[COUNT - 1];
    let ours = || build().get(last).here().unwrap_or(0).into();
    let other = || build_map()[&places[COUNT - 1]].into();
    let count = COUNT as u64;
    versus.line("cells.lone.insert.foldhash", count, Mark::AtMost(2.0), true, ours, other);
    let (plane, map) = (build(), build_map());
    let ours = || read_all(&plane, &cells);
    let other = || places.iter().map(|place| u64::from(map[place])).sum();
    versus.line("cells.lone.get.foldhash", count, Mark::AtMost(2.0), true, ours, other);
    // One byte of control and one entry for each place of a table that is at most 7/8 full.
    let map_bytes =
        (map.capacity() * 8 / 7).next_power_of_two() * (1 + size_of::<((i32, i32), u32)>());
    versus.mebibytes("cells.lone.foldhash", plane.memory().bytes(), map_bytes as u64, 40.0);
}

/// A world of 32,768 × 32,768 cells.
fn world(versus: &mut Versus) {
    if !versus.wants("cells.world") {
        return;
    }
    const WORLD: u32 = 1 << 15;
    let mut world = Plane::new();
    for piece in 0..(WORLD / SIDE).pow(2) {
        let (part, _) = scenes::cells(SIDE, u64::from(piece));
        let corner = ((piece % (WORLD / SIDE)) * SIDE, (piece / (WORLD / SIDE)) * SIDE);
        let to = CellPos::new(corner.0 as i32, corner.1 as i32);
        let all = CellRect::new(CellPos::ORIGIN, SIDE, SIDE);
        world.copy_from(&part, all, to).expect("a plane in memory is here");
    }
    world.compact();
    let flat_bytes = u64::from(WORLD) * u64::from(WORLD) * 4;
    let bytes = world.memory().bytes();
    versus.mebibytes("cells.world.flat", bytes, flat_bytes, 64.0);
    // What a snapshot is and what the first change after it copies, cell by cell anywhere.
    let cells = cells_at(&places(WORLD, 4096));
    let mut held = world.clone();
    let before = world.clone();
    held.set(cells[0], 0).expect("a plane in memory is here");
    let memory = held.memory();
    let own = memory.bytes() - memory.shared_bytes();
    versus.mebibytes("cells.world.snapshot.flat", own, flat_bytes, 0.25);
    drop((held, before));

    let mut other = vec![0_u32; SIDE as usize * SIDE as usize];
    let held = world.clone();
    let ours = || u64::from(held.clone().get(CellPos::ORIGIN).here().unwrap_or(0));
    let copy = || other.clone()[7].into();
    let most = Mark::Nanoseconds(500_000.0);
    versus.line("cells.world.snapshot.piece", 1, most, false, ours, copy);

    let mut at = 0;
    let ours = || {
        let snapshot = world.clone();
        at += 1;
        let cell = cells[at % cells.len()];
        world.set(cell, 1_000_000 + at as u32).expect("a plane in memory is here");
        snapshot.get(cell).here().unwrap_or(0).into()
    };
    let mut chunk = vec![1_u32; 4096];
    let copy = || {
        chunk = chunk.clone();
        chunk[7].into()
    };
    let most = Mark::Nanoseconds(6_000.0);
    versus.line("cells.world.write-after-snapshot.chunk", 1, most, false, ours, copy);

    let mut changed = world.clone();
    changed.set(cells[1], 7_777_777).expect("a plane in memory is here");
    let ours = || changed.differences(&world).len() as u64;
    let twin = other.clone();
    let compare = || other.iter().zip(&twin).filter(|(a, b)| a != b).count() as u64;
    let most = Mark::Nanoseconds(200_000.0);
    versus.line("cells.world.compare.piece", 1, most, false, ours, compare);

    let mut value = 0;
    let mut plane: Plane<u32> = Plane::new();
    let all = CellRect::new(CellPos::new(-1024, -1024), SIDE, SIDE);
    let ours = || {
        value += 1;
        plane.fill(all, value).expect("a plane in memory is here");
        plane.get(CellPos::ORIGIN).here().unwrap_or(0).into()
    };
    let mut other_value = 0;
    let fill = || {
        other_value += 1;
        other.fill(other_value);
        other[7].into()
    };
    versus.line("cells.fill.flat", 1, Mark::Nanoseconds(10_000.0), true, ours, fill);
}
