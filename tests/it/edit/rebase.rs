//! Changes between maps, and changes brought onto maps that have changed meanwhile.

use std::collections::BTreeMap;

use sturdy_quilt::CellSet;
use sturdy_quilt::edit::{Conflict, History, Resolve};

use super::*;
use crate::scene::{Change, TILES};

/// What the cells of a layer hold, as far as anything does.
fn held(quilt: &Quilt, layer: &str) -> BTreeMap<CellPos, Cell> {
    quilt.layer(layer).map(|layer| layer.cells().occupied().collect()).unwrap_or_default()
}

/// A map whose tiles are numbered in another order.
pub(super) fn renumbered(changes: &[Change]) -> Quilt {
    let mut quilt = Quilt::new(*empty_quilt().lattice());
    let made = quilt.edit("begin", |pen| {
        pen.put_tiles(TileSet::flat("first", ["one", "two"])?)?;
        pen.add_ground_classes(["mire", "open"])?;
        let empty = empty_quilt();
        pen.add_ground_classes(empty.ground_rules().classes())?;
        for set in empty.tiles().sets() {
            pen.put_tiles((**set).clone())?;
        }
        for mover in empty.ground_rules().movers() {
            pen.put_mover(mover.clone())?;
        }
        for palette in empty.palettes() {
            pen.put_palette(palette.clone())?;
        }
        LAYERS.iter().try_for_each(|name| pen.add_layer(name, LayerSettings::default()))
    });
    made.unwrap();
    for change in changes {
        make(&mut quilt, change);
    }
    quilt
}

/// Makes some changes of a map, as one.
pub(super) fn joined(quilt: &mut Quilt, changes: &[Change]) -> Option<Changeset> {
    let made = changes.iter().filter_map(|change| make(quilt, change));
    made.reduce(|joined, made| joined.then(made).unwrap())
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(48))]

    #[test]
    fn changes_between_snapshots_lead_from_one_to_the_other(
        mut quilt in any_quilt(20),
        changes in prop::collection::vec(any_change(), 0..12),
    ) {
        let before = quilt.clone();
        for change in &changes {
            make(&mut quilt, change);
        }
        let between = Changeset::between("all", &before, &quilt).unwrap();
        let mut other = before.clone();
        other.apply(&between).unwrap();
        prop_assert!(other.same_as(&quilt), "there");
        let kept = |layer: &&sturdy_quilt::quilt::Layer| {
            before.layer(layer.id()).is_ok_and(|held| {
                held.name() == layer.name() || quilt.layer(held.name()).is_err()
            })
        };
        for layer in quilt.layers().iter().filter(kept) {
            prop_assert_eq!(other.layer(layer.id()).unwrap().name(), layer.name(), "by its handle");
        }
        other.apply(&between.inverse()).unwrap();
        prop_assert!(other.same_as(&before), "and back");
        let again = Changeset::between("again", &quilt, &quilt.clone()).unwrap();
        prop_assert!(again.is_empty());
    }

    #[test]
    fn changes_between_maps_go_by_names(
        mut quilt in any_quilt(12),
        changes in prop::collection::vec(any_change(), 0..12),
    ) {
        let other = renumbered(&changes);
        let before = quilt.clone();
        let between = Changeset::between("to another", &quilt, &other).unwrap();
        quilt.apply(&between).unwrap();
        prop_assert!(quilt.same_as(&other), "there: {between:?}");
        quilt.apply(&between.inverse()).unwrap();
        prop_assert!(quilt.same_as(&before), "and back");
    }

    #[test]
    fn rebased_onto_their_own_map_changes_are_the_same(
        mut quilt in any_quilt(20),
        changes in prop::collection::vec(any_change(), 1..6),
    ) {
        let before = quilt.clone();
        let Some(joined) = joined(&mut quilt, &changes) else { return Ok(()) };
        let rebased = joined.rebase(&before, |_| Resolve::Keep).unwrap();
        prop_assert_eq!(&rebased.conflicts, &[]);
        let mut other = before.clone();
        other.apply(&rebased.changes).unwrap();
        prop_assert!(other.same_as(&quilt));
        // And what is done already has nothing left to do.
        let done = joined.rebase(&quilt, |_| Resolve::Keep).unwrap();
        if changes.len() == 1 && !matches!(changes[0], Change::Move { .. } | Change::Rename { .. }) {
            prop_assert_eq!(&done.conflicts, &[]);
            prop_assert!(done.changes.is_empty());
        }
    }

    #[test]
    fn rebased_changes_can_be_applied_and_undone(
        mut quilt in any_quilt(20),
        theirs in prop::collection::vec(any_change(), 1..8),
        ours in prop::collection::vec(any_change(), 1..8),
        takes in any::<bool>(),
    ) {
        let mut clone = quilt.clone();
        let made: Vec<_> = theirs.iter().filter_map(|change| make(&mut clone, change)).collect();
        for change in &ours {
            make(&mut quilt, change);
        }
        for changes in made.iter().flat_map(|changes| [changes.clone(), changes.inverse()]) {
            let before = quilt.clone();
            let resolve = if takes { Resolve::Take } else { Resolve::Keep };
            let rebased = changes.rebase(&quilt, |_| resolve.clone()).unwrap();
            quilt.apply(&rebased.changes).unwrap();
            let done = quilt.clone();
            quilt.apply(&rebased.changes.inverse()).unwrap();
            prop_assert!(quilt.same_as(&before), "undone");
            quilt = done;
        }
    }

    #[test]
    fn rebased_cells_are_taken_one_by_one(
        quilt in any_quilt(12),
        theirs in prop::collection::vec((near(), 0..4_usize, any::<bool>()), 1..12),
        ours in prop::collection::vec((near(), 0..4_usize, any::<bool>()), 1..12),
        how in 0..3_usize,
        taken in prop::collection::vec(near(), 0..60),
    ) {
        let Ok(layer) = quilt.layer("soil") else { return Ok(()) };
        let (soil, before) = (layer.id(), held(&quilt, "soil"));
        let draw = |strokes: &[(CellPos, usize, bool)]| {
            let mut map = quilt.clone();
            let edit = map.edit("draw", |pen| strokes.iter().try_for_each(|(at, tile, fills)| {
                let cell = pen.quilt().cell(TILES[*tile])?;
                match fills {
                    true => pen.fill(soil, CellRect::new(*at, 9, 70), cell),
                    false => pen.put(soil, *at, cell).map(drop),
                }
            }));
            (edit.unwrap().changes, map)
        };
        let ((mine, _), (_, mut map)) = (draw(&theirs), draw(&ours));
        let now = held(&map, "soil");
        let taken = CellSet::from_iter(taken);
        let resolve = [Resolve::Keep, Resolve::Take, Resolve::TakeIn(taken.clone())][how].clone();
        let mut asked = Vec::new();
        let rebased = mine.rebase(&map, |conflict| {
            asked.push(conflict.clone());
            resolve.clone()
        });
        let rebased = rebased.unwrap();
        map.apply(&rebased.changes).unwrap();
        let got = held(&map, "soil");
        let get = |map: &BTreeMap<CellPos, Cell>, at| map.get(&at).copied().unwrap_or_default();
        let mut conflicts = CellSet::new();
        for edit in mine.cells() {
            let (at, held) = (edit.cell, get(&now, edit.cell));
            prop_assert_eq!(get(&before, at), edit.before);
            let is_conflict = held != edit.before && held != edit.after;
            if is_conflict {
                conflicts.insert(at);
            }
            let is_taken = how == 1 || how == 2 && taken.contains(at);
            let expected = if is_conflict && !is_taken { held } else { edit.after };
            prop_assert_eq!(get(&got, at), expected, "at {}", at);
        }
        let area = mine.area();
        for at in now.keys().chain(got.keys()).filter(|at| !area.contains(**at)) {
            prop_assert_eq!(get(&got, *at), get(&now, *at), "{} is not touched", at);
        }
        let expected = Conflict::Cells { layer: "soil".into(), cells: conflicts.clone() };
        let expected = if conflicts.is_empty() { vec![] } else { vec![expected] };
        prop_assert_eq!(&rebased.conflicts, &expected);
        prop_assert_eq!(asked, expected);
    }

    #[test]
    fn own_steps_are_undone_after_those_of_others(
        acts in prop::collection::vec((0..2_usize, 0..4, near(), 0..3_usize), 1..30),
    ) {
        let mut quilt = empty_quilt();
        let mut plain: BTreeMap<CellPos, Cell> = BTreeMap::new();
        let mut people = [History::new(), History::new()];
        // Done and undone steps: what each cell held before and after.
        type Step = BTreeMap<CellPos, (Cell, Cell)>;
        let mut steps: [(Vec<Step>, Vec<Step>); 2] = Default::default();
        for (who, act, at, tile) in acts {
            let (done, undone) = &mut steps[who];
            if act < 2 {
                let cell = quilt.cell(TILES[tile]).unwrap();
                let rect = CellRect::new(at, 3, 2);
                let edit = quilt.edit("build", |pen| pen.fill("soil", rect, cell)).unwrap();
                people[who].add(edit.changes);
                let step = rect.cells().map(|at| (at, plain.insert(at, cell).unwrap_or_default()));
                let step: Step =
                    step.filter(|(_, old)| *old != cell).map(|(at, old)| (at, (old, cell))).collect();
                if !step.is_empty() {
                    done.push(step);
                    undone.clear();
                }
                continue;
            }
            let (from, to) = if act == 2 { (&mut *done, undone) } else { (&mut *undone, done) };
            let told = match act {
                2 => people[who].undo_own(&mut quilt).unwrap(),
                _ => people[who].redo_own(&mut quilt).unwrap(),
            };
            let step = from.pop();
            prop_assert_eq!(told.is_some(), step.is_some());
            let (Some(told), Some(step)) = (told, step) else { continue };
            let mut kept = CellSet::new();
            let mut made = Step::new();
            for (at, (before, after)) in step {
                let (expected, wanted) = if act == 2 { (after, before) } else { (before, after) };
                let held = plain.get(&at).copied().unwrap_or_default();
                if held == expected {
                    plain.insert(at, wanted);
                    made.insert(at, (before, after));
                } else if held != wanted {
                    kept.insert(at);
                }
            }
            to.push(made);
            let told: Vec<_> = told.conflicts.into_iter().map(|conflict| match conflict {
                Conflict::Cells { cells, .. } => cells,
                other => panic!("{other}"),
            }).collect();
            prop_assert_eq!(told, if kept.is_empty() { vec![] } else { vec![kept] });
        }
        plain.retain(|_, cell| !cell.is_empty());
        prop_assert_eq!(held(&quilt, "soil"), plain);
    }
}

fn near() -> impl Strategy<Value = CellPos> {
    (-12..12_i32, -9..9_i32).prop_map(|(x, y)| CellPos::new(x, y))
}

#[test]
fn two_people_add_to_one_map() {
    let mut ours = doc_quilt();
    let mut theirs = ours.clone();
    let add = |quilt: &mut Quilt, name: &str| {
        let edit = quilt.edit(name, |pen| {
            pen.add_ground_classes([name])?;
            pen.put_mover(sturdy_quilt::Mover::new(name).block(name))?;
            pen.put_marker(Marker::cell(name, CellPos::ORIGIN))?;
            pen.add_layer(name, LayerSettings::default())?;
            pen.set_layer("soil", |soil| match name {
                "cart" => soil.with_opacity(0.5),
                _ => soil.with_priority(3),
            })
        });
        edit.unwrap().changes
    };
    let (cart, boat) = (add(&mut ours, "cart"), add(&mut theirs, "boat"));
    ours.apply(&boat).unwrap();
    let (class, mover) = (ours.ground_rules().class("cart").unwrap(), ours.mover("cart").unwrap());
    assert_eq!(ours.ground_rules().class_name(class), Some("cart"));
    let soil = ours.layer("soil").unwrap().settings();
    assert_eq!((soil.opacity, soil.priority), (0.5, 3));

    // What was added first is taken back, and the handles of the rest hold.
    let boats = (ours.ground_rules().class("boat").unwrap(), ours.mover("boat").unwrap());
    let rebased = cart.inverse().rebase(&ours, |_| Resolve::Keep).unwrap();
    assert_eq!(rebased.conflicts, []);
    ours.apply(&rebased.changes).unwrap();
    assert!(ours.mover("cart").is_err() && ours.ground_rules().mover(mover).is_none());
    assert_eq!(ours.ground_rules().class_name(class), None);
    assert_eq!(ours.ground_rules().class_name(boats.0), Some("boat"));
    assert_eq!(ours.ground_rules().mover(boats.1).map(sturdy_quilt::Mover::name), Some("boat"));
    assert_eq!((ours.ground_rules().class("boat"), ours.mover("boat")), (Ok(boats.0), Ok(boats.1)));
    let ground = sturdy_quilt::GroundMap::of(&ours);
    assert!(!ground.blocked(boats.1, CellPos::ORIGIN), "it is a mover there, too");
    assert!(ours.same_as(&theirs));
}

#[test]
fn what_others_need_is_not_taken_back() {
    let mut quilt = doc_quilt();
    let mut history = History::new();
    let class = quilt.edit("a class", |pen| pen.add_ground_classes(["mire"])).unwrap();
    history.add(class.changes);
    let marker = Marker::cell("bog", CellPos::ORIGIN).with_ground("mire");
    let marker = quilt.edit("by another", |pen| pen.put_marker(marker)).unwrap();
    let undone = history.undo_own(&mut quilt).unwrap().unwrap();
    assert_eq!(undone.conflicts, [Conflict::GroundClass("mire".into())]);
    assert!(quilt.ground_rules().class("mire").is_ok());
    quilt.apply(&marker.changes.inverse()).unwrap();
    assert!(history.undo_own(&mut quilt).unwrap().is_none(), "it was its turn");
}

#[test]
fn palettes_keep_their_slots() {
    let mut quilt = doc_quilt();
    let add = |quilt: &mut Quilt, name: &str| {
        let tint = Color::rgb(9, 9, name.len() as u8);
        quilt.edit(name, |pen| pen.put_palette(Palette::new(name).with_tint(tint))).unwrap().changes
    };
    let (dusk, night) = (add(&mut quilt, "dusk"), add(&mut quilt, "night"));
    let before = quilt.clone();
    // Cells mean the second one by its slot.
    assert!(quilt.apply(&dusk.inverse()).is_err());
    let rebased = dusk.inverse().rebase(&quilt, |_| Resolve::Take).unwrap();
    assert_eq!(rebased.conflicts, [Conflict::Palette("dusk".into())]);
    assert!(rebased.changes.is_empty() && quilt.same_as(&before));
    quilt.apply(&night.inverse()).unwrap();
    quilt.apply(&dusk.inverse()).unwrap();
    assert!(quilt.same_as(&doc_quilt()));
}

#[test]
fn conflicts_name_the_part_they_are_about() {
    let mut quilt = doc_quilt();
    quilt.edit("begin", |pen| pen.add_value_layer("growth", ValueKind::U32)).unwrap();
    let mut clone = quilt.clone();
    let make = |quilt: &mut Quilt, by: u32| {
        let edit = quilt.edit("all", |pen| {
            pen.put("soil", CellPos::new(0, 0), ["garden/wall", "garden/grass+90"][by as usize])?;
            pen.put_value("growth", CellPos::new(1, 1), 7 + by)?;
            pen.put_marker(Marker::cell("gate", CellPos::new(by as i32, 9)))?;
            pen.set_layer("soil", |soil| soil.with_opacity(0.5 - by as f32 / 4.0))?;
            pen.set_data(serde_json::json!({ "day": by }))?;
            pen.set_bounds(Some(CellRect::new(CellPos::ORIGIN, 9 + by, 9)))?;
            pen.put_palette(Palette::new("dusk").with_tint(Color::rgb(by as u8, 0, 0)))?;
            pen.add_layer(["roof", "sky"][by as usize], LayerSettings::default())
        });
        edit.unwrap().changes
    };
    let (mine, _) = (make(&mut quilt, 0), make(&mut clone, 1));
    let told: Vec<String> =
        mine.conflicts(&clone).unwrap().iter().map(ToString::to_string).collect();
    assert_eq!(
        told,
        [
            "cell 0,0 of layer `soil`",
            "cell 1,1 of value layer `growth`",
            "marker `gate`",
            "`opacity` of layer `soil`",
            "the data of the map",
            "what the map states as its bounds",
            "palette `dusk`",
        ]
    );
    clone.edit("no layer", |pen| pen.remove_layer("soil")).unwrap();
    let told = mine.conflicts(&clone).unwrap();
    assert_eq!(told[0], Conflict::Layer("soil".into()));
}

#[test]
fn maps_of_other_cells_have_no_changes_between() {
    let wide = Quilt::new(Lattice::square(32.0, 16.0).unwrap());
    let error = Changeset::between("no way", &wide, &doc_quilt()).unwrap_err();
    assert_eq!(error, ApplyError::Lattice);
}
