//! Reading and writing many cells at once, at every border.

use proptest::prelude::*;
use sturdy_quilt::plane::{Plane, RunValues};
use sturdy_quilt::units::{CellOffset, TractPos};
use sturdy_quilt::{CellPos, CellRect, ChunkPos, Presence};

/// Columns and rows at which something ends: chunks, tracts, the world, and the origin of all
/// four quadrants.
fn border() -> impl Strategy<Value = i32> {
    let borders = vec![
        0,
        64,
        -64,
        512,
        -512,
        1 << 20,
        CellPos::MIN,
        CellPos::MIN + 64,
        CellPos::MAX - 63,
        CellPos::MAX,
    ];
    (prop::sample::select(borders), -1..=1_i32)
        .prop_map(|(border, beside)| (i64::from(border) + i64::from(beside)) as i32)
}

fn corner() -> impl Strategy<Value = CellPos> {
    (border(), border()).prop_map(|(x, y)| CellPos::new(x, y))
}

proptest! {
    #[test]
    fn rectangles_across_every_border_are_read_as_they_were_written(
        corner in corner(), width in 1..90_u32, height in 1..5_u32, kinds in 1..300_u32,
    ) {
        let rect = CellRect::new(corner, width, height);
        let values: Vec<u32> = (0..rect.cell_count() as u32).map(|n| 1 + n * 31 % kinds).collect();
        let mut plane: Plane<u32> = Plane::new();
        plane.write_rect(rect, &values).unwrap();
        prop_assert_eq!(plane.bounds(), rect);
        let around = CellRect::between(
            rect.corner().saturating_add(CellOffset::new(-2, -2)),
            CellPos::new(rect.right() - 1, rect.bottom() - 1).saturating_add(CellOffset::new(2, 2)),
        );
        let expected: Vec<u32> = around.cells().map(|cell| {
            if !rect.contains(cell) {
                return 0;
            }
            let (column, row) = (cell.x() - rect.left(), cell.y() - rect.top());
            values[row as usize * rect.width() as usize + column as usize]
        }).collect();
        let mut read = Vec::new();
        plane.read_rect(around, &mut read).unwrap();
        prop_assert_eq!(&read, &expected);
        let mut runs = Vec::new();
        plane.read_runs(around, &mut Vec::new(), |run| runs.extend(run.each().map(|(_, v)| v)));
        prop_assert_eq!(&runs, &expected);
        let each: Vec<u32> = around.cells().map(|cell| plane.get(cell).here().unwrap()).collect();
        prop_assert_eq!(&each, &expected);
        // Moved by any way and back it is as before.
        let mut moved: Plane<u32> = Plane::new();
        moved.copy_from(&plane, rect, CellPos::new(-37, 11)).unwrap();
        let mut back: Plane<u32> = Plane::new();
        back.copy_from(&moved, CellRect::new(CellPos::new(-37, 11), rect.width(), rect.height()), rect.corner()).unwrap();
        prop_assert_eq!(back, plane);
    }

    #[test]
    fn a_fill_gives_all_cells_of_a_rectangle_a_value_and_no_others(
        corner in corner(), width in 1..1400_u32, height in 1..1400_u32,
    ) {
        let rect = CellRect::new(corner, width, height);
        let mut plane: Plane<u32> = Plane::new();
        let ground = CellRect::new(rect.corner(), 70, 70);
        plane.fill(ground, 5).unwrap();
        plane.fill(rect, 9).unwrap();
        prop_assert_eq!(plane.bounds(), rect.union(ground));
        let (left, top, right, bottom) = (rect.left(), rect.top(), rect.right(), rect.bottom());
        for x in [left - 1, left, left + 63, left + 64, right - 1, right] {
            for y in [top - 1, top, top + 63, top + 64, bottom - 1, bottom] {
                let Some(cell) = CellPos::checked(x.into(), y.into()) else { continue };
                let expected = if rect.contains(cell) { 9 } else if ground.contains(cell) { 5 } else { 0 };
                prop_assert_eq!(plane.get(cell), Presence::Here(expected), "{}", cell);
            }
        }
        let mut count = 0;
        plane.read_chunks(&mut Vec::new(), |run| match run.values {
            RunValues::Uniform(value) => count += u64::from(value == 9) * run.cells.cell_count(),
            RunValues::Slice(values) => count += values.iter().filter(|v| **v == 9).count() as u64,
            RunValues::Absent(_) => {}
        });
        prop_assert_eq!(count, rect.cell_count());
        // A fill with what is there already changes nothing.
        let stamp = plane.stamp();
        plane.fill(rect, 9).unwrap();
        prop_assert_eq!(plane.stamp(), stamp);
        plane.fill(rect.union(ground), 0).unwrap();
        prop_assert_eq!(&plane, &Plane::new());
        prop_assert_eq!(plane.bounds(), CellRect::EMPTY);
    }
}

#[test]
fn a_tract_filled_at_once_has_one_stamp_and_no_table() {
    let mut plane: Plane<u32> = Plane::new();
    let tract = TractPos::new(-1, 0);
    plane.fill(tract.cells(), 4).unwrap();
    assert_eq!(plane.memory().tracts(), 0);
    let stamp = plane.tract_stamp(tract);
    assert!(tract.cells().chunks().all(|chunk| plane.chunk_stamp(chunk) == stamp));
    plane.set(CellPos::new(-1, 0), 5).unwrap();
    assert_eq!(plane.memory().tracts(), 1);
    let changed: Vec<ChunkPos> = plane.changed_since(stamp).collect();
    assert_eq!(changed, [ChunkPos::new(-1, 0)]);
    assert_eq!(plane.get(CellPos::new(-512, 511)), Presence::Here(4));
    assert_eq!(plane.find(5).collect::<Vec<_>>(), [CellPos::new(-1, 0)]);
    assert_eq!(plane.find(4).count(), 512 * 512 - 1);
}

#[test]
fn everything_can_be_emptied_at_once() {
    let mut plane: Plane<u32> = Plane::new();
    plane.fill(CellRect::new(CellPos::new(-700, 3), 2000, 900), 4).unwrap();
    plane.set(CellPos::new(CellPos::MAX, CellPos::MIN), 5).unwrap();
    plane.fill(CellRect::EVERYWHERE, 0).unwrap();
    assert_eq!(plane, Plane::new());
}

#[test]
fn values_that_are_missing_or_left_over_do_no_harm() {
    let mut plane: Plane<u32> = Plane::new();
    let rect = CellRect::new(CellPos::new(60, -1), 8, 2);
    plane.write_rect(rect, &[1, 2, 3, 4, 5, 6, 7, 8, 9, 10]).unwrap();
    let mut read = Vec::new();
    plane.read_rect(rect, &mut read).unwrap();
    assert_eq!(read, [1, 2, 3, 4, 5, 6, 7, 8, 9, 10, 0, 0, 0, 0, 0, 0]);
    plane.write_rect(CellRect::new(CellPos::new(60, -1), 2, 1), &[7, 7, 7, 7]).unwrap();
    assert_eq!(plane.get(CellPos::new(62, -1)), Presence::Here(3));
    plane.write_rect(CellRect::EMPTY, &[1, 2]).unwrap();
    plane.write_rect(rect, &[]).unwrap();
    plane.read_rect(CellRect::EMPTY, &mut read).unwrap();
    assert!(read.is_empty());
    assert_eq!(plane.occupied().count(), 10);
    let vast = CellRect::new(CellPos::new(60, -1), u32::MAX, u32::MAX);
    plane.write_rect(vast, &[2; 700]).unwrap();
    assert_eq!(plane.find(2).count(), 700);
    assert_eq!(plane.bounds(), CellRect::new(CellPos::new(60, -1), 700, 2));
}
