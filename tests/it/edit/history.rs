//! The history against a list of maps.

use std::collections::{BTreeMap, BTreeSet};

use proptest::prelude::*;
use sturdy_quilt::edit::{ApplyError, History};
use sturdy_quilt::{CellPos, CellRect, LayerSettings, Marker, Quilt, doc_quilt};

use crate::scene::{Change, any_change, any_quilt, make};

#[derive(Clone, Debug)]
enum Act {
    Add(Change),
    Join(Change),
    End,
    Undo,
    Redo,
    Save,
}

fn any_act() -> impl Strategy<Value = Act> {
    prop_oneof![
        5 => any_change().prop_map(Act::Add),
        3 => any_change().prop_map(Act::Join),
        1 => Just(Act::End),
        5 => Just(Act::Undo),
        3 => Just(Act::Redo),
        1 => Just(Act::Save),
    ]
}

/// The maps before the first step and after each that is kept, which of them is there now, and which was
/// saved last, if it can be reached.
struct Model {
    maps: Vec<Quilt>,
    at: usize,
    saved: Option<usize>,
    is_open: bool,
}

impl Model {
    fn add(&mut self, quilt: &Quilt, joins: bool) {
        if joins && self.is_open {
            self.maps[self.at] = quilt.clone();
            self.saved = self.saved.filter(|saved| *saved != self.at);
            return;
        }
        self.maps.truncate(self.at + 1);
        self.saved = self.saved.filter(|saved| *saved <= self.at);
        self.maps.push(quilt.clone());
        self.at += 1;
        self.is_open = joins;
    }

    fn drop_oldest(&mut self, count: usize) {
        self.maps.drain(..count);
        self.at -= count;
        self.saved = self.saved.and_then(|saved| saved.checked_sub(count));
    }
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(64))]

    #[test]
    fn undo_and_redo_lead_through_the_same_maps(
        mut quilt in any_quilt(12),
        acts in prop::collection::vec(any_act(), 1..40),
        most_bytes in prop::sample::select(vec![usize::MAX, 20_000, 2_000, 0]),
    ) {
        let mut history = History::new().with_most_bytes(most_bytes);
        let mut model =
            Model { maps: vec![quilt.clone()], at: 0, saved: Some(0), is_open: false };
        for act in &acts {
            match act {
                Act::Add(change) | Act::Join(change) => {
                    let joins = matches!(act, Act::Join(_));
                    if let Some(made) = make(&mut quilt, change) {
                        let is_change = !made.is_empty();
                        let dropped = if joins { history.join(made) } else { history.add(made) };
                        if is_change {
                            model.add(&quilt, joins);
                        }
                        model.drop_oldest(dropped);
                    }
                }
                Act::End => {
                    history.end_step();
                    model.is_open = false;
                }
                Act::Undo => {
                    let undone = history.undo(&mut quilt).unwrap().is_some();
                    prop_assert_eq!(undone, model.at > 0);
                    model.at -= usize::from(undone);
                    model.is_open = false;
                }
                Act::Redo => {
                    let redone = history.redo(&mut quilt).unwrap().is_some();
                    prop_assert_eq!(redone, model.at + 1 < model.maps.len());
                    model.at += usize::from(redone);
                    model.is_open = false;
                }
                Act::Save => {
                    history.mark_saved();
                    model.saved = Some(model.at);
                    model.is_open = false;
                }
            }
            prop_assert!(quilt.same_as(&model.maps[model.at]), "{:?}", act);
            prop_assert_eq!(history.is_saved(), model.saved == Some(model.at));
            let done = history.steps().filter(|(_, done)| *done).count();
            prop_assert_eq!((done, history.steps().len()), (model.at, model.maps.len() - 1));
            prop_assert_eq!(history.next_undo().is_some(), model.at > 0);
            prop_assert!(history.bytes() <= most_bytes || done <= 1 || done < model.maps.len() - 1);
            let bytes: usize = history.steps().map(|(step, _)| step.bytes()).sum();
            prop_assert!(bytes <= history.bytes());
            if history.steps().len() == 0 {
                prop_assert_eq!(history.bytes(), 0);
            }
        }
    }

    #[test]
    fn all_that_a_change_does_is_told(
        mut quilt in any_quilt(12),
        changes in prop::collection::vec(any_change(), 1..8),
    ) {
        for change in &changes {
            let before = quilt.clone();
            let Some(made) = make(&mut quilt, change) else { continue };
            let mut area: BTreeSet<CellPos> = made.cells().map(|edit| edit.cell).collect();
            for edit in made.values::<i32>() {
                let held = |map: &Quilt| map.values::<i32>(edit.layer).unwrap().get(edit.cell).here();
                prop_assert_eq!(held(&before), Some(edit.before));
                prop_assert_eq!(held(&quilt), Some(edit.after));
                area.insert(edit.cell);
            }
            area.extend(made.values::<f32>().map(|edit| edit.cell));
            area.extend(made.values::<u32>().map(|edit| edit.cell));
            prop_assert_eq!(made.area().iter().collect::<BTreeSet<_>>(), area);
            for layer in before.value_layers() {
                // What none of the lists names is as it was.
                let Some(plane) = layer.plane::<i32>() else { continue };
                let Ok(now) = quilt.values::<i32>(layer.name()) else { continue };
                let told: BTreeSet<CellPos> = made.values::<i32>().map(|edit| edit.cell).collect();
                for at in CellRect::new(CellPos::new(-100, -100), 220, 220).cells() {
                    prop_assert_eq!(plane.get(at) != now.get(at), told.contains(&at), "{}", at);
                }
            }
            for edit in made.markers() {
                let name = edit.before.or(edit.after).map_or("", Marker::name);
                let held = |map: &Quilt| map.marker(name).ok().map(|marker| marker.marker().clone());
                prop_assert_eq!(held(&before), edit.before.cloned());
                prop_assert_eq!(held(&quilt), edit.after.cloned());
            }
            for edit in made.settings() {
                prop_assert_eq!(before.layer(edit.layer).unwrap().settings(), edit.before);
                prop_assert_eq!(quilt.layer(edit.layer).unwrap().settings(), edit.after);
            }
            let settings = |map: &Quilt| -> BTreeMap<String, LayerSettings> {
                let layers = map.layers().iter();
                layers.map(|own| (own.name().to_owned(), own.settings().clone())).collect()
            };
            let (old, new) = (settings(&before), settings(&quilt));
            let other = old.iter().filter(|(name, own)| new.get(*name).is_some_and(|n| n != *own));
            prop_assert_eq!(other.count(), made.settings().count());
        }
    }

    #[test]
    fn joined_changes_are_the_changes_one_after_the_other(
        mut quilt in any_quilt(12),
        changes in prop::collection::vec(any_change(), 1..8),
    ) {
        let first = quilt.clone();
        let made: Vec<_> = changes.iter().filter_map(|change| make(&mut quilt, change)).collect();
        let Some(joined) = made.into_iter().reduce(|all, next| all.then(next).unwrap()) else {
            return Ok(());
        };
        let mut replica = first.clone();
        replica.apply(&joined).unwrap();
        prop_assert!(replica.same_as(&quilt));
        quilt.apply(&joined.inverse()).unwrap();
        prop_assert!(quilt.same_as(&first));
    }
}

#[test]
fn a_step_that_cannot_be_undone_stays() {
    let mut quilt = doc_quilt();
    let mut history = History::new();
    let at = CellPos::new(0, 0);
    let built = quilt.edit("build", |pen| pen.put("soil", at, "garden/wall")).unwrap();
    history.add(built.changes);
    // Somebody else has changed the cell since.
    quilt.edit("dig", |pen| pen.erase("soil", at)).unwrap();
    let before = quilt.clone();
    let error = history.undo(&mut quilt).unwrap_err();
    assert!(matches!(error, ApplyError::Differs(_)), "{error}");
    assert!(quilt.same_as(&before));
    assert_eq!(history.next_undo(), Some("build"));
}

#[test]
fn bytes_follow_what_is_kept() {
    let mut quilt = doc_quilt();
    let put = quilt.edit("put", |pen| pen.put("soil", CellPos::new(0, 0), "garden/wall")).unwrap();
    assert!(put.changes.bytes() < 1024, "{}", put.changes.bytes());
    let vast = CellRect::new(CellPos::new(-4096, -4096), 8192, 8192);
    let fill = quilt.edit("fill", |pen| pen.fill("soil", vast, "garden/wall")).unwrap();
    // A record for each tract, and what there was in one of them.
    assert!(fill.changes.bytes() < 64 << 10, "{}", fill.changes.bytes());
    let area = CellRect::new(CellPos::new(0, 0), 1000, 1000);
    let each = quilt.edit("each", |pen| {
        let (grass, wall) = (pen.quilt().cell("garden/grass")?, pen.quilt().cell("garden/wall")?);
        pen.put_each("soil", area, |cell| if (cell.x() ^ cell.y()) % 3 == 0 { grass } else { wall })
    });
    let bytes = each.unwrap().changes.bytes();
    assert!((50_000..1_000_000).contains(&bytes), "{bytes}");

    let mut other = doc_quilt();
    let foreign =
        other.edit("put", |pen| pen.put("soil", CellPos::new(0, 0), "garden/wall")).unwrap();
    assert_eq!(put.changes.then(foreign.changes).unwrap_err(), ApplyError::OtherMap);
}
