//! The plane against a naive model: random edits on a tree of clones.

mod access;
mod forms;
mod model;
mod presence;
mod sparse;

use model::{Model, check_equal};
use proptest::prelude::*;
use sturdy_quilt::plane::{Plane, SeenStamps};
use sturdy_quilt::{CellPos, CellRect, ChunkPos, Presence};

#[derive(Clone, Debug)]
enum Step {
    Set(CellPos, u32),
    Fill(CellRect, u32),
    WriteRow(CellPos, Vec<u32>),
    /// The values go round where there are more cells.
    WriteRect(CellRect, Vec<u32>),
    /// Copies a rectangle of the first plane of the tree.
    CopyFromFirst(CellRect, CellPos),
    /// Brings back all that the first plane of the tree holds in some chunks.
    BringBack(CellRect),
    /// A walk of a writer: right, down, left or up.
    Walk(CellPos, Vec<(u8, u32)>),
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

fn small_rect() -> impl Strategy<Value = CellRect> {
    (near_cell(), 1..80_u32, 1..80_u32).prop_map(|(at, w, h)| CellRect::new(at, w, h))
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
        2 => (small_rect(), prop::collection::vec(few_values(), 1..50)).prop_map(|(r, v)| Step::WriteRect(r, v)),
        1 => (small_rect(), near_cell()).prop_map(|(rect, to)| Step::CopyFromFirst(rect, to)),
        1 => (small_rect(), -2..3_i32, -2..3_i32).prop_map(|(rect, x, y)| {
            let corner = rect.corner();
            Step::CopyFromFirst(rect, CellPos::new(corner.x() + x * 64, corner.y() + y * 64))
        }),
        1 => (-3..2_i32, -3..2_i32, 1..3_u32, 1..3_u32).prop_map(|(x, y, w, h)| {
            Step::BringBack(CellRect::new(ChunkPos::new(x, y).corner(), w * 64, h * 64))
        }),
        1 => (near_cell(), prop::collection::vec((0..4_u8, few_values()), 1..60)).prop_map(|(c, w)| Step::Walk(c, w)),
        1 => (near_cell(), 1..40_u32).prop_map(|(cell, count)| Step::Scatter(cell, count)),
        1 => Just(Step::Compact),
        2 => Just(Step::Clone),
        2 => any::<usize>().prop_map(Step::Switch),
    ]
}

/// All that steps can reach.
const AREA: CellRect = CellRect::new(CellPos::new(-200, -200), 500, 500);

fn apply(step: &Step, first: &(Plane<u32>, Model), (plane, model): &mut (Plane<u32>, Model)) {
    match step {
        Step::Set(cell, value) => {
            let before = plane.set(*cell, *value).unwrap();
            assert_eq!(before, model.get(*cell));
            model.set(*cell, *value);
        }
        Step::Fill(rect, value) => {
            plane.fill(*rect, *value).unwrap();
            model.fill(*rect, *value);
        }
        Step::WriteRow(start, values) => {
            plane.write_row(*start, values).unwrap();
            for (x, value) in (start.x()..).zip(values) {
                model.set(CellPos::new(x, start.y()), *value);
            }
        }
        Step::WriteRect(rect, values) => {
            let values: Vec<u32> =
                rect.cells().zip(values.iter().cycle()).map(|(_, v)| *v).collect();
            plane.write_rect(*rect, &values).unwrap();
            model.write(*rect, &values);
        }
        Step::CopyFromFirst(rect, to) => {
            plane.copy_from(&first.0, *rect, *to).unwrap();
            model.copy(&first.1, *rect, *to);
        }
        Step::BringBack(rect) => {
            plane.copy_from(&first.0, *rect, rect.corner()).unwrap();
            model.copy(&first.1, *rect, rect.corner());
            assert!(plane.same_in(*rect, &first.0));
        }
        Step::Walk(start, way) => {
            let (mut writer, mut at) = (plane.writer(), *start);
            for (way, value) in way {
                assert_eq!(writer.get(at), Presence::Here(model.get(at)));
                assert_eq!(writer.set(at, *value).unwrap(), model.get(at));
                model.set(at, *value);
                assert_eq!(writer.get(at), Presence::Here(*value));
                let (x, y) = [(7, 0), (0, 7), (-7, 0), (0, -7)][usize::from(*way)];
                at = CellPos::new(at.x() + x, at.y() + y);
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

proptest! {
    #![proptest_config(ProptestConfig::with_cases(32))]

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
                    let first = tree[0].clone();
                    let (stamp, before) = (tree[current].0.stamp(), tree[current].1.clone());
                    apply(step, &first, &mut tree[current]);
                    let (plane, model) = &tree[current];
                    let mut changed: Vec<ChunkPos> = plane.changed_since(stamp).collect();
                    changed.sort_unstable();
                    let differing = before.differing(model);
                    let exact = !matches!(step, Step::Scatter(..) | Step::Walk(..));
                    if exact {
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
            check_equal(plane, model, AREA);
            for (other, others) in &tree {
                prop_assert_eq!(plane == other, model == others);
                prop_assert_eq!(plane.differences(other), model.differing(others));
                let part = CellRect::new(CellPos::new(-30, -80), 100, 90);
                prop_assert_eq!(plane.same_in(part, other), model.read(part) == others.read(part));
            }
        }
    }

    #[test]
    fn compacting_changes_no_value_and_no_stamp(steps in prop::collection::vec(any_step(), 1..30)) {
        let first = (Plane::new(), Model::default());
        let mut pair = first.clone();
        for step in steps.iter().filter(|step| !matches!(step, Step::Clone | Step::Switch(_))) {
            apply(step, &first, &mut pair);
        }
        let (mut plane, model) = pair;
        let mut seen = SeenStamps::default();
        seen.update(&plane);
        plane.compact();
        prop_assert!(seen.update(&plane).is_empty());
        check_equal(&plane, &model, AREA);
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
