//! The forms of a chunk: each against an array, and when one becomes another.

use proptest::prelude::*;
use sturdy_quilt::plane::{ChunkForm, Plane, RunValues};
use sturdy_quilt::{CellPos, CellRect, ChunkPos, Presence};

use super::model::form_for;

const CHUNK: ChunkPos = ChunkPos::new(-1, 2);

#[derive(Clone, Debug)]
enum Step {
    Set(u16, u32),
    Row(u16, Vec<u32>),
    Fill {
        row: u8,
        column: u8,
        width: u8,
        height: u8,
        value: u32,
    },
    /// All cells in turn, with so many different values.
    All(u32),
    Compact,
    Snapshot,
}

/// Values of which the numbers lie at the borders of the forms.
fn any_value() -> impl Strategy<Value = u32> {
    let kinds = prop::sample::select(vec![1_u32, 2, 3, 4, 5, 16, 17, 192, 193, 256, 257, 5000]);
    kinds.prop_flat_map(|kinds| 0..kinds)
}

fn any_step() -> impl Strategy<Value = Step> {
    let counts = vec![1_u32, 2, 3, 4, 5, 12, 13, 16, 17, 192, 193, 256, 257, 4096];
    prop_oneof![
        6 => (0..4096_u16, any_value()).prop_map(|(index, value)| Step::Set(index, value)),
        3 => (0..4096_u16, prop::collection::vec(any_value(), 1..64))
            .prop_map(|(index, values)| Step::Row(index, values)),
        2 => (0..64_u8, 0..64_u8, 1..65_u8, 1..65_u8, any_value()).prop_map(
            |(row, column, width, height, value)| Step::Fill { row, column, width, height, value }
        ),
        1 => prop::sample::select(counts).prop_map(Step::All),
        1 => Just(Step::Compact),
        1 => Just(Step::Snapshot),
    ]
}

fn cell(index: usize) -> CellPos {
    let corner = CHUNK.corner();
    CellPos::new(corner.x() + index as i32 % 64, corner.y() + index as i32 / 64)
}

/// The form of the one chunk; `None` where it holds nothing, or lone cells.
fn form(plane: &Plane<u32>) -> Option<ChunkForm> {
    let memory = plane.memory();
    ChunkForm::ALL.into_iter().find(|form| memory.form(*form).chunks > 0)
}

fn kinds(values: &[u32]) -> usize {
    values.iter().collect::<std::collections::BTreeSet<_>>().len()
}

fn check(plane: &Plane<u32>, values: &[u32]) {
    let mut read = Vec::new();
    plane.read_rect(CHUNK.cells(), &mut read).unwrap();
    assert_eq!(read, values);
    let mut cursor = plane.cursor();
    for index in (0..4096).step_by(37) {
        assert_eq!(plane.get(cell(index)), Presence::Here(values[index]));
        assert_eq!(cursor.get(cell(index)), Presence::Here(values[index]));
    }
    let mut bounds = CellRect::EMPTY;
    for (index, _) in values.iter().enumerate().filter(|(_, value)| **value != 0) {
        bounds = bounds.union(CellRect::of_cell(cell(index)));
    }
    assert_eq!(plane.bounds(), bounds);
    for wanted in [1, 2, 256] {
        let found = values.iter().enumerate().filter(|(_, value)| **value == wanted);
        assert!(plane.find(wanted).eq(found.map(|(index, _)| cell(index))));
    }
    // An odd part, and one column.
    for part in [
        CellRect::new(cell(64 * 3 + 5), 41, 23),
        CellRect::new(cell(63), 1, 64),
        CellRect::new(cell(0), 64, 2),
    ] {
        let expected = part.cells().map(|at| {
            let (x, y) = (at.x().rem_euclid(64), at.y().rem_euclid(64));
            values[(y * 64 + x) as usize]
        });
        let expected: Vec<u32> = expected.collect();
        plane.read_rect(part, &mut read).unwrap();
        assert_eq!(read, expected);
        let mut blocks = Vec::new();
        plane.read_blocks(part, &mut Vec::new(), |run| match run.values {
            RunValues::Uniform(value) => blocks.extend(vec![value; expected.len()]),
            RunValues::Slice(values) => blocks.extend_from_slice(values),
            RunValues::Absent(_) => unreachable!("it is here"),
        });
        assert_eq!(blocks, expected);
    }
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(64))]

    #[test]
    fn a_chunk_of_any_form_is_an_array(steps in prop::collection::vec(any_step(), 1..60)) {
        let (mut plane, mut values) = (Plane::new(), vec![0_u32; 4096]);
        // So that the tract has chunks from the beginning.
        plane.fill(CHUNK.cells(), 1).unwrap();
        plane.fill(CHUNK.cells(), 0).unwrap();
        let mut snapshots = Vec::new();
        for step in steps {
            let before = values.clone();
            let stamp = plane.chunk_stamp(CHUNK);
            match step {
                Step::Set(index, value) => {
                    plane.set(cell(index.into()), value).unwrap();
                    values[usize::from(index)] = value;
                }
                Step::Row(index, row) => {
                    let row = &row[..row.len().min(64 - usize::from(index) % 64)];
                    plane.write_row(cell(index.into()), row).unwrap();
                    values[index.into()..usize::from(index) + row.len()].copy_from_slice(row);
                }
                Step::Fill { row, column, width, height, value } => {
                    let rect = CellRect::new(
                        cell(usize::from(row) * 64 + usize::from(column)),
                        u32::from(width.min(64 - column)),
                        u32::from(height.min(64 - row)),
                    );
                    plane.fill(rect, value).unwrap();
                    for at in rect.cells() {
                        let (x, y) = (at.x().rem_euclid(64), at.y().rem_euclid(64));
                        values[(y * 64 + x) as usize] = value;
                    }
                }
                Step::All(count) => {
                    values = (0..4096).map(|index| index * 7 % count).collect();
                    plane.write_rect(CHUNK.cells(), &values).unwrap();
                }
                Step::Compact => {
                    plane.compact();
                    let uniform = kinds(&values) == 1;
                    if !uniform && values.iter().filter(|value| **value != 0).count() > 8 {
                        prop_assert_eq!(form(&plane), Some(form_for(kinds(&values))));
                    }
                }
                Step::Snapshot => snapshots.push((plane.clone(), values.clone())),
            }
            prop_assert_eq!(plane.chunk_stamp(CHUNK) != stamp, values != before);
            check(&plane, &values);
        }
        for (snapshot, values) in &snapshots {
            check(snapshot, values);
        }
    }
}

#[test]
fn each_number_of_values_has_its_form() {
    for (count, expected) in [
        (2, ChunkForm::Bits1),
        (3, ChunkForm::Bits2),
        (4, ChunkForm::Bits2),
        (5, ChunkForm::Bits4),
        (16, ChunkForm::Bits4),
        (17, ChunkForm::Bits8),
        (256, ChunkForm::Bits8),
        (257, ChunkForm::Full),
    ] {
        // Cell by cell: each is written in the narrowest form that has room for it.
        let mut plane: Plane<u32> = Plane::new();
        for index in 0..300 {
            plane.set(cell(index), index as u32 % count).unwrap();
        }
        assert_eq!(form(&plane), Some(expected), "{count} values, one by one");
        // A whole chunk at once: when all is written, it is in its narrowest form, but for what is
        // left with hardly any room.
        let mut plane: Plane<u32> = Plane::new();
        let values: Vec<u32> = (0..4096).map(|index| index * 7 % count).collect();
        plane.write_rect(CHUNK.cells(), &values).unwrap();
        plane.compact();
        assert_eq!(form(&plane), Some(expected), "{count} values, all at once");
    }
}

#[test]
fn a_chunk_written_over_with_one_value_takes_no_array_any_more() {
    let mut plane: Plane<u32> = Plane::new();
    let values: Vec<u32> = (0..4096).map(|index| index % 12).collect();
    plane.write_rect(CHUNK.cells(), &values).unwrap();
    assert_eq!(form(&plane), Some(ChunkForm::Bits4));
    for row in 0..64 {
        plane.write_row(cell(row * 64), &[7; 64]).unwrap();
    }
    assert_eq!(form(&plane), Some(ChunkForm::Uniform), "without a call to compact");
}

#[test]
fn a_chunk_at_the_border_of_two_forms_is_remade_seldom() {
    let mut plane: Plane<u32> = Plane::new();
    plane
        .write_rect(CHUNK.cells(), &(0..4096).map(|index| index % 16).collect::<Vec<_>>())
        .unwrap();
    plane.compact();
    let (mut forms, mut changes) = (form(&plane), 0);
    for turn in 0..40_000_u32 {
        // A seventeenth value comes and goes.
        plane.set(cell(100), if turn % 2 == 0 { 1_000 + turn % 8 } else { 4 }).unwrap();
        let now = form(&plane);
        changes += u32::from(now != forms);
        forms = now;
    }
    assert!(changes <= 12, "{changes} changes of form in 40,000 writes");
}

#[test]
fn rows_that_change_altogether_are_remade_less_and_less_often() {
    let mut plane: Plane<u32> = Plane::new();
    let (mut forms, mut changes) = (None, 0);
    for pass in 0..64 {
        for row in 0..64 {
            let values: Vec<u32> = (0..64).map(|x| 12 * (pass % 2) + (x + row) % 12).collect();
            plane.write_row(cell(row as usize * 64), &values).unwrap();
        }
        let now = form(&plane);
        changes += u32::from(now != forms);
        forms = now;
    }
    assert!(changes <= 24, "{changes} changes of form in 64 passes");
    plane.compact();
    assert_eq!(form(&plane), Some(ChunkForm::Bits4));
}
