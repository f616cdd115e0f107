//! The plane against a naive model: random edits on a tree of clones.

use std::collections::BTreeMap;

use proptest::prelude::*;
use sturdy_quilt::{
    Absence, CellPos, CellRect, ChunkPos, Plane, Presence, RunValues, SeenStamps, Stamp,
};

/// The naive model: every cell that was written to and is not 0.
#[derive(Clone, Debug, Default, PartialEq)]
struct Model(BTreeMap<CellPos, u32>);

impl Model {
    fn get(&self, cell: CellPos) -> u32 {
        self.0.get(&cell).copied().unwrap_or(0)
    }

    fn set(&mut self, cell: CellPos, value: u32) {
        if value == 0 {
            self.0.remove(&cell);
        } else {
            self.0.insert(cell, value);
        }
    }

    fn bounds(&self) -> CellRect {
        let cells = self.0.keys().map(|cell| CellRect::of_cell(*cell));
        cells.fold(CellRect::EMPTY, CellRect::union)
    }

    /// The chunks in which two models differ.
    fn differing(&self, other: &Model) -> Vec<ChunkPos> {
        let cells = self.0.keys().chain(other.0.keys());
        let cells = cells.filter(|cell| self.get(**cell) != other.get(**cell));
        let mut chunks: Vec<ChunkPos> = cells.map(|cell| cell.chunk()).collect();
        chunks.sort_unstable();
        chunks.dedup();
        chunks
    }
}

#[derive(Clone, Debug)]
enum Step {
    Set(CellPos, u32),
    Fill(CellRect, u32),
    WriteRow(CellPos, Vec<u32>),
    /// Many different values, so that a chunk becomes full.
    Scatter(CellPos, u32),
    Compact,
    /// Clone the current plane and go on with the clone.
    Clone,
    /// Go on with another plane of the tree.
    Switch(usize),
}

fn near_cell() -> impl Strategy<Value = CellPos> {
    // Four chunks around the origin, their borders more often than chance has them.
    let coordinate =
        || prop_oneof![2 => -70..70_i32, 1 => prop::sample::select(vec![-64, -1, 0, 63, 64])];
    (coordinate(), coordinate()).prop_map(|(x, y)| CellPos::new(x, y))
}

fn few_values() -> impl Strategy<Value = u32> {
    prop_oneof![2 => Just(0), 5 => 1..6_u32, 1 => any::<u32>()]
}

fn any_step() -> impl Strategy<Value = Step> {
    let rect = (near_cell(), 1..140_u32, 1..140_u32).prop_map(|(at, w, h)| CellRect::new(at, w, h));
    let chunk = (-2..2_i32, -2..2_i32).prop_map(|(x, y)| ChunkPos::new(x, y).cells());
    prop_oneof![
        8 => (near_cell(), few_values()).prop_map(|(cell, value)| Step::Set(cell, value)),
        1 => (rect, few_values()).prop_map(|(rect, value)| Step::Fill(rect, value)),
        1 => (chunk, few_values()).prop_map(|(rect, value)| Step::Fill(rect, value)),
        2 => (near_cell(), prop::collection::vec(few_values(), 1..90)).prop_map(|(c, v)| Step::WriteRow(c, v)),
        1 => (near_cell(), few_values(), 1..200_usize).prop_map(|(c, v, n)| Step::WriteRow(c, vec![v; n])),
        1 => (near_cell(), 1..40_u32).prop_map(|(cell, count)| Step::Scatter(cell, count)),
        1 => Just(Step::Compact),
        2 => Just(Step::Clone),
        2 => any::<usize>().prop_map(Step::Switch),
    ]
}

fn apply(step: &Step, plane: &mut Plane<u32>, model: &mut Model) {
    match step {
        Step::Set(cell, value) => {
            let before = plane.set(*cell, *value).unwrap();
            assert_eq!(before, model.get(*cell));
            model.set(*cell, *value);
        }
        Step::Fill(rect, value) => {
            plane.fill(*rect, *value).unwrap();
            rect.cells().for_each(|cell| model.set(cell, *value));
        }
        Step::WriteRow(start, values) => {
            plane.write_row(*start, values).unwrap();
            for (x, value) in (start.x()..).zip(values) {
                model.set(CellPos::new(x, start.y()), *value);
            }
        }
        Step::Scatter(start, count) => {
            for n in 0..*count {
                let cell = CellPos::new(start.x() + (n as i32 * 7) % 13, start.y() + n as i32 % 11);
                plane.set(cell, 1000 + n).unwrap();
                model.set(cell, 1000 + n);
            }
        }
        Step::Compact => plane.compact(),
        Step::Clone | Step::Switch(_) => unreachable!("done by the caller"),
    }
}

fn check_equal(plane: &Plane<u32>, model: &Model) {
    let occupied: BTreeMap<CellPos, u32> = plane.occupied().collect();
    assert_eq!(occupied, model.0);
    assert_eq!(plane.bounds(), model.bounds());
    let area = CellRect::between(CellPos::new(-75, -70), CellPos::new(210, 75));
    let mut cursor = plane.cursor();
    for cell in area.cells().step_by(23) {
        assert_eq!(plane.get(cell), Presence::Here(model.get(cell)));
        assert_eq!(cursor.get(cell), Presence::Here(model.get(cell)));
    }
    for value in [1, 3, 1005] {
        let mut found: Vec<CellPos> = plane.find(value).collect();
        found.sort_unstable();
        let expected: Vec<CellPos> =
            model.0.iter().filter(|(_, v)| **v == value).map(|(cell, _)| *cell).collect();
        assert_eq!(found, expected);
    }
    check_runs(plane, model, CellRect::between(CellPos::new(-70, -3), CellPos::new(80, 2)));
    check_runs(plane, model, CellRect::between(CellPos::new(-64, -64), CellPos::new(-1, -1)));
}

/// Runs and blocks give every cell of a rectangle exactly once.
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
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(48))]

    #[test]
    fn clones_of_clones_equal_their_models(steps in prop::collection::vec(any_step(), 1..60)) {
        let mut tree = vec![(Plane::new(), Model::default())];
        let mut current = 0;
        let mut seen = (SeenStamps::default(), Model::default());
        for step in &steps {
            match step {
                Step::Clone => {
                    let copy = tree[current].clone();
                    tree.push(copy);
                    current = tree.len() - 1;
                }
                Step::Switch(to) => current = to % tree.len(),
                step => {
                    let (plane, model) = &mut tree[current];
                    let stamp = plane.stamp();
                    let before = model.clone();
                    apply(step, plane, model);
                    let mut changed: Vec<ChunkPos> = plane.changed_since(stamp).collect();
                    changed.sort_unstable();
                    let differing = before.differing(model);
                    if matches!(step, Step::Set(..) | Step::WriteRow(..)) {
                        prop_assert_eq!(changed, differing, "what stays as it is keeps its stamp");
                    } else {
                        let named = |chunk: &ChunkPos| changed.contains(chunk);
                        prop_assert!(differing.iter().all(named), "{:?}: {:?}", changed, differing);
                    }
                }
            }
            // Stamps follow any clone: what differs is always among what they name.
            let (plane, model) = &tree[current];
            let named = seen.0.update(plane);
            for chunk in seen.1.differing(model) {
                prop_assert!(named.contains(&chunk), "{} differs", chunk);
            }
            prop_assert!(seen.0.update(plane).is_empty());
            seen.1 = model.clone();
        }
        for (plane, model) in &tree {
            check_equal(plane, model);
            for (other, others) in &tree {
                prop_assert_eq!(plane == other, model == others);
            }
        }
    }

    #[test]
    fn compacting_changes_no_value_and_no_stamp(steps in prop::collection::vec(any_step(), 1..30)) {
        let (mut plane, mut model) = (Plane::new(), Model::default());
        for step in steps.iter().filter(|step| !matches!(step, Step::Clone | Step::Switch(_))) {
            apply(step, &mut plane, &mut model);
        }
        let mut seen = SeenStamps::default();
        seen.update(&plane);
        plane.compact();
        prop_assert!(seen.update(&plane).is_empty());
        check_equal(&plane, &model);
    }
}

#[test]
fn chunks_that_hold_nothing_any_more_are_not_in_use() {
    let mut plane: Plane<u32> = Plane::new();
    for n in 0..40 {
        plane.set(CellPos::new(n, 0), n as u32 + 1).unwrap();
    }
    for n in 0..40 {
        plane.set(CellPos::new(n, 0), 0).unwrap();
    }
    plane.compact();
    assert!(format!("{plane:?}").starts_with("Plane(0 chunks"));
    assert_eq!(plane, Plane::new());
}

#[test]
fn cells_at_the_limits_are_cells_like_others() {
    let mut plane: Plane<i32> = Plane::new();
    let corners = [
        CellPos::new(CellPos::MIN, CellPos::MIN),
        CellPos::new(CellPos::MAX, CellPos::MIN),
        CellPos::new(CellPos::MIN, CellPos::MAX),
        CellPos::new(CellPos::MAX, CellPos::MAX),
    ];
    for (value, corner) in (-2..).zip(corners) {
        plane.set(corner, value).unwrap();
    }
    for (value, corner) in (-2..).zip(corners) {
        assert_eq!(plane.get(corner), Presence::Here(value));
    }
    assert_eq!(plane.bounds(), CellRect::EVERYWHERE);
    plane.write_row(CellPos::new(CellPos::MAX - 1, 5), &[7, 8, 9]).unwrap();
    assert_eq!(plane.get(CellPos::new(CellPos::MAX, 5)), Presence::Here(8), "the rest is cut off");
}

#[test]
fn values_are_the_same_bit_for_bit() {
    let mut plane: Plane<f32> = Plane::new();
    plane.set(CellPos::ORIGIN, f32::NAN).unwrap();
    let copy = plane.clone();
    assert_eq!(plane.find_where(f32::is_nan).collect::<Vec<_>>(), [CellPos::ORIGIN]);
    plane.set(CellPos::new(1, 0), -0.0).unwrap();
    assert_ne!(plane, copy, "minus zero is not the default");
    plane.set(CellPos::new(1, 0), 0.0).unwrap();
    assert_eq!(plane, copy);
}

#[test]
fn what_is_not_here_is_not_empty() {
    let mut plane: Plane<u32> = Plane::new();
    plane.set(CellPos::new(3, 3), 5).unwrap();
    let (near, far) = (ChunkPos::new(0, 0), ChunkPos::new(1, 0));
    plane.set_absent(near, Absence::NotHere);
    plane.set_absent(far, Absence::Damaged);
    assert_eq!(plane.get(CellPos::new(3, 3)), Presence::NotHere);
    assert_eq!(plane.get(CellPos::new(64, 0)), Presence::Damaged);
    let error = plane.set(CellPos::new(3, 3), 1).unwrap_err();
    assert_eq!(error.to_string(), "chunk 0,0 is not loaded");
    let wide = CellRect::between(CellPos::new(-70, 0), CellPos::new(70, 0));
    let stamp = plane.stamp();
    assert!(plane.fill(wide, 9).is_err());
    assert!(plane.write_row(CellPos::new(-1, 0), &[1, 2, 3]).is_err());
    assert_eq!(plane.stamp(), stamp, "nothing was changed");
    let mut absent = 0;
    plane.read_runs(wide, &mut Vec::new(), |run| {
        absent += u32::from(matches!(run.values, RunValues::Absent(_))) * run.cells.width();
    });
    assert_eq!(absent, 64 + 7);
    assert_eq!(plane.bounds(), near.cells().union(far.cells()), "they may hold something");
    plane.admit(near);
    plane.set(CellPos::new(3, 3), 6).unwrap();
    assert_eq!(plane.get(CellPos::new(3, 3)), Presence::Here(6));
    assert_ne!(plane.chunk_stamp(near), Stamp::NONE);
}

#[test]
fn a_snapshot_can_be_read_in_other_threads_while_the_original_changes() {
    let mut plane: Plane<u32> = Plane::new();
    plane.fill(CellRect::new(CellPos::ORIGIN, 200, 200), 1).unwrap();
    std::thread::scope(|scope| {
        for round in 2..6 {
            let snapshot = plane.clone();
            scope.spawn(move || {
                for _ in 0..20 {
                    assert!(snapshot.occupied().all(|(_, value)| value == round - 1));
                }
            });
            plane.fill(CellRect::new(CellPos::ORIGIN, 200, 200), round).unwrap();
        }
    });
}
