//! Edits and what they leave.

mod bytes;
mod cells;
mod history;
#[cfg(all(feature = "fs", feature = "threads"))]
mod journal;
mod map;
mod rebase;
mod saved;
mod tools;

use std::collections::HashSet;

use proptest::prelude::*;
use sturdy_quilt::cell_set::CellSetError;
use sturdy_quilt::edit::{ApplyError, Condition, Extraction, FlatArray};
use sturdy_quilt::plane::{Plane, ValueKind};
use sturdy_quilt::quilt::Palette;
use sturdy_quilt::tile::{TileNumbers, TileValues};
use sturdy_quilt::units::{Corner, ScanOrder};
use sturdy_quilt::{
    Anchor, Cell, CellPos, CellRect, Changeset, ChunkPos, Color, EditError, Lattice, LayerSettings,
    Marker, Pen, Quilt, TileSet, TileSpec, Turn, WorldPoint, WorldVec, doc_quilt,
};

use crate::scene::{LAYERS, any_change, any_quilt, empty_quilt, make};

proptest! {
    #![proptest_config(ProptestConfig::with_cases(48))]

    #[test]
    fn changes_and_their_inverse_lead_there_and_back(
        mut quilt in any_quilt(20),
        changes in prop::collection::vec(any_change(), 1..8),
    ) {
        let mut states = vec![quilt.clone()];
        let mut made = Vec::new();
        for change in &changes {
            if let Some(changeset) = make(&mut quilt, change) {
                made.push(changeset);
                states.push(quilt.clone());
            }
        }
        let mut replica = states[0].clone();
        for (changeset, state) in made.iter().zip(&states[1..]) {
            replica.apply(changeset).unwrap();
            prop_assert!(replica.same_as(state), "done again");
        }
        for (changeset, state) in made.iter().zip(&states).rev() {
            quilt.apply(&changeset.inverse()).unwrap();
            prop_assert!(quilt.same_as(state), "undone");
            let twice = changeset.inverse().inverse();
            prop_assert_eq!(twice.cells().collect::<Vec<_>>(), changeset.cells().collect::<Vec<_>>());
        }
    }

    #[test]
    fn changes_of_a_clone_are_applied_as_a_whole_or_not_at_all(
        mut quilt in any_quilt(20),
        theirs in prop::collection::vec(any_change(), 1..8),
        ours in prop::collection::vec(any_change(), 1..8),
    ) {
        let mut clone = quilt.clone();
        let made: Vec<_> = theirs.iter().filter_map(|change| make(&mut clone, change)).collect();
        for change in &ours {
            make(&mut quilt, change);
        }
        for changes in made.iter().flat_map(|changes| [changes.clone(), changes.inverse()]) {
            let before = quilt.clone();
            if quilt.apply(&changes).is_ok() {
                let mut undone = quilt.clone();
                undone.apply(&changes.inverse()).unwrap();
                prop_assert!(undone.same_as(&before), "what was applied can be undone");
            } else {
                prop_assert!(quilt.same_as(&before), "nothing of what was refused remains");
            }
        }
    }

    #[test]
    fn a_failed_edit_leaves_nothing(
        mut quilt in any_quilt(20),
        changes in prop::collection::vec(any_change(), 1..8),
    ) {
        let before = quilt.clone();
        let mut worker = quilt.clone();
        let failed = quilt.edit("fails at last", |pen| {
            for change in &changes {
                // The same changes, made within one edit.
                if let Some(changeset) = make(&mut worker, change) {
                    for cell in changeset.cells() {
                        pen.put(cell.layer, cell.cell, cell.after).ok();
                    }
                }
            }
            pen.put_marker(Marker::cell("lost", CellPos::ORIGIN))?;
            pen.add_layer("lost", LayerSettings::default())?;
            pen.put("lost", CellPos::ORIGIN, pen.tile("flat/wall")?)?;
            pen.remove_layer("lost")?;
            Err::<(), _>(EditError::Refused("not today".to_owned()))
        });
        prop_assert_eq!(failed.unwrap_err().to_string(), "not today");
        prop_assert!(quilt.same_as(&before));
        prop_assert!(quilt.marker("lost").is_err());
    }

    #[test]
    fn the_cells_of_a_changeset_are_what_differs(mut quilt in any_quilt(20), change in any_change()) {
        let before = quilt.clone();
        let Some(changes) = make(&mut quilt, &change) else { return Ok(()) };
        for edit in changes.cells() {
            prop_assert_eq!(before.get(edit.layer, edit.cell).unwrap().here(), Some(edit.before));
            prop_assert_eq!(quilt.get(edit.layer, edit.cell).unwrap().here(), Some(edit.after));
            prop_assert_ne!(edit.before, edit.after);
        }
        let changed: HashSet<(&str, CellPos)> = changes.cells().map(|e| (e.layer, e.cell)).collect();
        let same_layers = before.layers().len() == quilt.layers().len();
        for layer in before.layers().iter().filter(|_| same_layers) {
            let Ok(now) = quilt.layer(layer.name()) else { continue };
            let differing = layer.cells().occupied().chain(now.cells().occupied());
            for (cell, _) in differing.filter(|(c, _)| layer.cells().get(*c) != now.cells().get(*c)) {
                prop_assert!(changed.contains(&(layer.name(), cell)));
            }
        }
    }
}

#[test]
fn a_change_that_does_not_fit_any_more_is_refused_as_a_whole() {
    let mut quilt = doc_quilt();
    let mut other = quilt.clone();
    let wall = quilt.tile("garden/wall").unwrap();
    let (here, there) = (CellPos::new(0, 0), CellPos::new(1, 0));
    let changes = quilt
        .edit("build twice", |pen| {
            pen.put_marker(Marker::cell("site", here))?;
            pen.put("soil", here, wall)?;
            pen.put("soil", there, wall)
        })
        .unwrap()
        .changes;
    other.edit("in the way", |pen| pen.erase("soil", there)).unwrap();
    let before = other.clone();
    let error = other.apply(&changes).unwrap_err();
    assert_eq!(
        error.to_string(),
        "the map has changed meanwhile: cell 1,0 of layer `soil` is not what the changes expect"
    );
    assert!(other.same_as(&before), "not half of it either");
    let mut stranger = doc_quilt();
    assert_eq!(stranger.apply(&changes), Err(ApplyError::OtherMap));
}

#[test]
fn a_layer_that_has_changed_meanwhile_is_not_removed() {
    let mut quilt = doc_quilt();
    let removed = quilt.clone().edit("take away", |pen| pen.remove_layer("soil")).unwrap().changes;
    assert!(!removed.is_empty());
    assert!(quilt.edit("nothing", |_| Ok(())).unwrap().changes.is_empty());
    let begin = quilt.clone();
    let wall = quilt.tile("garden/wall").unwrap();
    let another = quilt.edit("build", |pen| pen.put("soil", CellPos::new(9, 9), wall)).unwrap();
    let refused = "the map has changed meanwhile: layer `soil` is not what the changes expect";
    assert_eq!(quilt.apply(&removed).unwrap_err().to_string(), refused);
    quilt.apply(&another.changes.inverse()).unwrap();
    let another = quilt
        .edit("fade", |pen| pen.set_layer("soil", |settings| settings.with_opacity(0.5)))
        .unwrap();
    assert_eq!(quilt.apply(&removed).unwrap_err().to_string(), refused);
    quilt.apply(&another.changes.inverse()).unwrap();
    quilt.apply(&removed).unwrap();
    assert!(quilt.layers().is_empty());
    quilt.apply(&removed.inverse()).unwrap();
    assert!(quilt.same_as(&begin));
}

/// Undone in another order than they were made, changes could leave a map that cannot be loaded.
#[test]
fn what_something_else_needs_is_not_taken_away() {
    let mut quilt = doc_quilt();
    let set = TileSet::builder("pond").tile(TileSpec::named("water").with_ground("deep"));
    let set = set.palette("wave", Color::rgb(0, 0, 9)).build().unwrap();
    let classes = quilt.edit("a class", |pen| pen.add_ground_classes(["deep"])).unwrap();
    let tiles = quilt.edit("a set", |pen| pen.put_tiles(set)).unwrap();
    let dusk = Palette::new("dusk").with_color("wave", Color::rgb(9, 0, 0));
    let palette = quilt.edit("a palette", |pen| pen.put_palette(dusk)).unwrap();
    let settings = quilt.edit("dusk", |pen| {
        let dusk = pen.quilt().palette("dusk")?;
        pen.set_layer("soil", |soil| soil.with_palette(dusk))
    });
    let marker = Marker::cell("pool", CellPos::ORIGIN).with_ground("deep");
    let marker = quilt.edit("a marker", |pen| pen.put_marker(marker)).unwrap();
    let settings = settings.unwrap();
    let mut refused = |changes: &Changeset| {
        let before = quilt.clone();
        let error = quilt.apply(changes).unwrap_err();
        assert!(quilt.same_as(&before), "nothing of what was refused remains");
        error.to_string()
    };
    let without = "which the map would not have after the changes";
    assert_eq!(
        refused(&tiles.changes.inverse()),
        format!("palette `dusk` needs colour `wave`, {without}")
    );
    assert_eq!(
        refused(&palette.changes.inverse()),
        format!("layer `soil` needs the palette of slot 1, {without}")
    );
    assert_eq!(
        refused(&classes.changes.inverse()),
        format!("tile `pond/water` needs ground class `deep`, {without}")
    );
    // In the order in which they were made, all are undone, and not done again in another.
    let made = [&classes, &tiles, &palette].map(|edit| edit.changes.clone());
    for changes in [&marker.changes, &settings.changes].into_iter().chain(made.iter().rev()) {
        quilt.apply(&changes.inverse()).unwrap();
    }
    assert!(quilt.same_as(&doc_quilt()));
    let mut refused = |changes: &Changeset| quilt.apply(changes).unwrap_err().to_string();
    assert_eq!(
        refused(&marker.changes),
        format!("marker `pool` needs ground class `deep`, {without}")
    );
    assert_eq!(
        refused(&tiles.changes),
        format!("tile `pond/water` needs ground class `deep`, {without}")
    );
    assert_eq!(
        refused(&settings.changes),
        format!("layer `soil` needs the palette of slot 1, {without}")
    );
    assert_eq!(refused(&palette.changes), format!("palette `dusk` needs colour `wave`, {without}"));
}

#[test]
fn a_value_layer_is_removed_in_its_place_or_not_at_all() {
    let mut quilt = doc_quilt();
    let add = |pen: &mut Pen<'_>| {
        ["growth", "owner", "debt"]
            .into_iter()
            .try_for_each(|name| pen.add_value_layer(name, ValueKind::U32))
    };
    quilt.edit("add", add).unwrap();
    let mut other = quilt.clone();
    other.edit("first", |pen| pen.remove_value_layer("growth")).unwrap();
    let second = quilt.edit("second", |pen| pen.remove_value_layer("owner")).unwrap().changes;
    let refused = other.apply(&second).unwrap_err().to_string();
    assert!(refused.contains("value layer `owner` is not what"), "{refused}");
    assert!(other.value_layer("owner").is_ok());
}

#[test]
fn fills_are_as_large_as_they_may_be() {
    let mut quilt = doc_quilt();
    let wall = quilt.tile("garden/wall").unwrap();
    let side = 64 * (Pen::MAX_CHUNKS as u32 / 1024);
    let most = CellRect::new(CellPos::ORIGIN, side, 64 * 1024);
    let more = CellRect::new(CellPos::new(-1, 0), side + 1, 64 * 1024);
    quilt.edit("fill", |pen| pen.fill("soil", most, wall)).unwrap();
    assert_eq!(quilt.bounds(), most);
    let refused = quilt.edit("fill", |pen| pen.fill("soil", more, wall)).unwrap_err();
    let EditError::CellSet(CellSetError::TooLarge { rect, .. }) = refused else {
        panic!("{refused}")
    };
    assert_eq!(rect, more);
}

#[test]
fn conditions_skip_and_requirements_refuse() {
    let mut quilt = doc_quilt();
    let (grass, wall) = (quilt.tile("garden/grass").unwrap(), quilt.tile("garden/wall").unwrap());
    let stone = quilt.ground_rules().class("stone").unwrap();
    let (at_grass, at_wall, nowhere) = (CellPos::new(0, 0), CellPos::new(2, 0), CellPos::new(9, 9));
    quilt
        .edit("look", |pen| {
            let mut holds = |cell, condition: Condition| pen.put_if("soil", cell, condition, wall);
            assert!(holds(at_wall, Condition::Ground(stone))?);
            assert!(!holds(nowhere, Condition::Ground(stone))?);
            assert!(!holds(nowhere, Condition::NotEmpty)?);
            assert!(!holds(at_grass, Condition::Empty)?);
            assert!(!holds(at_grass, Cell::of(grass).with_turn(Turn::HALF).into())?);
            assert!(holds(at_grass, Condition::OneOf(vec![wall, grass]))?);
            assert!(holds(nowhere, Condition::Empty)?);
            Ok(())
        })
        .unwrap();
    let error = quilt.edit("must", |pen| pen.require("soil", at_grass, Condition::Empty));
    assert_eq!(
        error.unwrap_err().to_string(),
        "layer `soil` holds `garden/wall` at 0,0, which is not what the edit requires"
    );
}

#[test]
fn an_edit_that_panics_is_undone() {
    let mut quilt = doc_quilt();
    let before = quilt.clone();
    let panicked = std::panic::catch_unwind(std::panic::AssertUnwindSafe(|| {
        quilt.edit("falls over", |pen| {
            pen.erase("soil", CellPos::ORIGIN)?;
            if pen.quilt().layers().len() == 1 {
                std::panic::resume_unwind(Box::new("on purpose"));
            }
            Ok(())
        })
    }));
    assert!(panicked.is_err());
    assert!(quilt.same_as(&before));
}

#[test]
fn giant_fills_share_their_chunks() {
    let mut quilt = doc_quilt();
    let wall = quilt.tile("garden/wall").unwrap();
    let giant = CellRect::new(CellPos::new(-5000, -5000), 10_000, 10_000);
    let changes = quilt.edit("fill", |pen| pen.fill("soil", giant, wall)).unwrap().changes;
    assert_eq!(quilt.bounds(), giant);
    quilt.apply(&changes.inverse()).unwrap();
    assert!(quilt.same_as(&doc_quilt()));
    let too_large = CellRect::EVERYWHERE;
    let error = quilt.edit("fill", |pen| pen.fill("soil", too_large, wall)).unwrap_err();
    let most = Pen::MAX_CHUNKS;
    assert!(
        matches!(error, EditError::CellSet(CellSetError::TooLarge { most: m, .. }) if m == most)
    );
    quilt.edit("empty all", |pen| pen.fill("soil", too_large, Cell::EMPTY)).unwrap();
    assert!(quilt.layers()[0].cells().bounds().is_empty());
}

#[test]
fn many_single_changes_in_a_chunk_are_one_record() {
    let mut quilt = doc_quilt();
    let before = quilt.clone();
    let wall = quilt.tile("garden/wall").unwrap();
    let area = ChunkPos::new(0, 0).cells();
    let edit = quilt.edit("cell by cell", |pen| {
        for round in 0..3 {
            for cell in area.cells() {
                pen.put("soil", cell, if round == 1 { Cell::EMPTY } else { wall.into() })?;
            }
        }
        Ok(())
    });
    let changes = edit.unwrap().changes;
    assert_eq!(changes.cells().count(), 4096 - 1, "the wall that stood there is the same");
    quilt.apply(&changes.inverse()).unwrap();
    assert!(quilt.same_as(&before));
}

#[test]
fn a_cell_that_is_changed_very_often_has_one_before() {
    let mut quilt = doc_quilt();
    let before = quilt.clone();
    let (grass, wall) = (quilt.tile("garden/grass").unwrap(), quilt.tile("garden/wall").unwrap());
    let cell = CellPos::new(1, 1);
    let edit = quilt.edit("again and again", |pen| {
        for round in 0..3001 {
            pen.put("soil", cell, if round % 2 == 0 { wall } else { grass })?;
        }
        Ok(())
    });
    let changes = edit.unwrap().changes;
    let edits: Vec<(CellPos, Cell, Cell)> =
        changes.cells().map(|edit| (edit.cell, edit.before, edit.after)).collect();
    assert_eq!(edits, [(cell, Cell::of(grass), Cell::of(wall))]);
    quilt.apply(&changes.inverse()).unwrap();
    assert!(quilt.same_as(&before));
}

#[test]
fn clones_agree_on_the_numbers_of_tiles() {
    let mut here = doc_quilt();
    let mut there = here.clone();
    let lamp = TileSet::flat("lamps", ["oil", "wick"]).unwrap();
    let cart = TileSet::flat("carts", ["wheel"]).unwrap();
    let add = |quilt: &mut Quilt, set: TileSet| {
        quilt.edit("add tiles", |pen| pen.put_tiles(set)).unwrap().changes
    };
    let lamps = add(&mut here, lamp.clone());
    let carts = add(&mut there, cart);
    let wheel = there.tile("carts/wheel").unwrap();
    assert_ne!(Some(wheel.index()), here.tile("lamps/oil").ok().map(|id| id.index()));
    let rolled = there.edit("roll", |pen| pen.put("soil", CellPos::new(1, 1), wheel)).unwrap();
    here.apply(&rolled.changes).unwrap();
    let cell = here.get("soil", CellPos::new(1, 1)).unwrap().here().unwrap();
    assert_eq!(here.tiles().notation(cell).to_string(), "carts/wheel", "it keeps its name");
    assert!(here.tiles().is_missing(wheel), "but what it looks like is not known here");
    here.apply(&carts).unwrap();
    assert!(!here.tiles().is_missing(wheel));
    here.apply(&carts.inverse()).unwrap();
    here.apply(&lamps.inverse()).unwrap();
    assert!(here.tiles().set("lamps").is_none());
    add(&mut here, lamp);
    let again = here.tile("lamps/wick").unwrap();
    assert!(there.edit("light", |pen| pen.put("soil", CellPos::ORIGIN, again)).is_ok());
}

#[test]
fn cells_of_another_map_are_adopted_by_name() {
    let (mut here, mut there) = (empty_quilt(), doc_quilt());
    let oak = TileSet::flat("trees", ["oak"]).unwrap();
    there.edit("add", |pen| pen.put_tiles(oak)).unwrap();
    let turned =
        |quilt: &Quilt, name: &str| Cell::of(quilt.tile(name).unwrap()).with_turn(Turn::HALF);
    let (wall, tree) = (turned(&there, "garden/wall"), turned(&there, "trees/oak"));
    let edit = here.edit("paste", |pen| {
        let wall = pen.adopt(&there, wall)?;
        pen.put("soil", CellPos::new(0, 0), wall)?;
        let tree = pen.adopt(&there, tree)?;
        pen.put("soil", CellPos::new(1, 0), tree)?;
        pen.adopt(&there, Cell::EMPTY)
    });
    assert_eq!(edit.unwrap().result, Cell::EMPTY);
    let text = here.layer_text("soil").unwrap();
    let names: Vec<&str> = text.legend.values().filter_map(|cell| cell.as_str()).collect();
    assert_eq!(names, ["garden/wall+180", "trees/oak+180"], "missing here, but not lost");
}

#[test]
fn handles_of_no_tile_are_refused() {
    let mut quilt = doc_quilt();
    let mut many = Quilt::new(Lattice::default());
    let names: Vec<String> = (0..9).map(|n| format!("t{n}")).collect();
    many.edit("add", |pen| pen.put_tiles(TileSet::flat("many", names)?)).unwrap();
    let foreign = many.tile("many/t8").unwrap();
    let error = quilt.edit("put", |pen| pen.put("soil", CellPos::ORIGIN, Cell::of(foreign)));
    assert_eq!(error.unwrap_err().to_string(), "this map has no tile number 8");
}

#[test]
fn names_that_are_not_there_come_with_near_ones() {
    let mut quilt = empty_quilt();
    let error = quilt.edit("put", |pen| pen.erase("grwoth", CellPos::ORIGIN)).unwrap_err();
    assert_eq!(error.to_string(), "no layer `grwoth` in this map; did you mean `growth`?");
    let error = quilt.tile("grass").unwrap_err();
    assert_eq!(error.to_string(), "no tile `grass` in this map; did you mean `flat/grass`?");
    let id = quilt.layer(LAYERS[3]).unwrap().id();
    quilt.edit("away", |pen| pen.remove_layer(id)).unwrap();
    assert!(quilt.layer(id).is_err(), "a handle does not outlive its layer");
}

#[test]
fn snapshots_are_read_in_threads_while_the_map_is_edited() {
    let mut quilt = empty_quilt();
    let rect = CellRect::new(CellPos::new(-30, -20), 150, 90);
    let tiles = ["flat/grass", "flat/wall", "flat/water"].map(|tile| quilt.cell(tile).unwrap());
    let fill = |quilt: &mut Quilt, turn: usize| {
        let edit = quilt.edit("fill", |pen| {
            pen.fill(LAYERS[0], rect, tiles[turn % 3])?;
            // Cell by cell in the other layer, so that its chunks are copied while they are read.
            pen.put_each(LAYERS[1], rect, |_| tiles[turn % 3])
        });
        edit.unwrap().changes
    };
    fill(&mut quilt, 0);
    let (shown, is_over) =
        (std::sync::Mutex::new(quilt.clone()), std::sync::atomic::AtomicBool::new(false));
    let order = std::sync::atomic::Ordering::Relaxed;
    std::thread::scope(|scope| {
        let readers = [0, 1].map(|_| {
            scope.spawn(|| {
                let mut reads = 0;
                while reads == 0 || !is_over.load(order) && reads < 100_000 {
                    let snapshot = shown.lock().unwrap().clone();
                    let mut held = HashSet::new();
                    for layer in &LAYERS[..2] {
                        let plane = snapshot.layer(*layer).unwrap().cells();
                        held.extend(rect.cells().map(|cell| plane.get(cell).here()));
                    }
                    assert_eq!(held.len(), 1, "an edit is seen as a whole or not at all");
                    reads += 1;
                }
            })
        });
        for turn in 1..60 {
            let changes = fill(&mut quilt, turn);
            *shown.lock().unwrap() = quilt.clone();
            if turn % 5 == 0 {
                quilt.apply(&changes.inverse()).unwrap();
                quilt.apply(&changes).unwrap();
            }
        }
        is_over.store(true, order);
        readers.into_iter().for_each(|reader| reader.join().unwrap());
    });
}
