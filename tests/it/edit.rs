//! Edits and what they leave.

use std::collections::HashSet;

use proptest::prelude::*;
use sturdy_quilt::{
    Anchor, ApplyError, Cell, CellPos, CellRect, ChunkPos, Condition, Corner, EditError, FlatArray,
    Lattice, LayerSettings, Marker, Pen, Plane, Quilt, ScanOrder, Take, TileNumbers, TileSet,
    TileSpec, TileValues, Turn, ValueKind, WorldPoint, WorldVec, doc_quilt,
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
    let another =
        quilt.edit("fade", |pen| pen.set_layer("soil", |settings| settings.opacity(0.5))).unwrap();
    assert_eq!(quilt.apply(&removed).unwrap_err().to_string(), refused);
    quilt.apply(&another.changes.inverse()).unwrap();
    quilt.apply(&removed).unwrap();
    assert!(quilt.layers().is_empty());
    quilt.apply(&removed.inverse()).unwrap();
    assert!(quilt.same_as(&begin));
}

#[test]
fn a_value_layer_is_removed_in_its_place_or_not_at_all() {
    let mut quilt = doc_quilt();
    let add = |pen: &mut Pen<'_>| {
        ["growth", "owner"]
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
    let side = 64 * (Pen::MOST_CHUNKS as u32 / 1024);
    let most = CellRect::new(CellPos::ORIGIN, side, 64 * 1024);
    let more = CellRect::new(CellPos::new(-1, 0), side + 1, 64 * 1024);
    quilt.edit("fill", |pen| pen.fill("soil", most, wall)).unwrap();
    assert_eq!(quilt.bounds(), most);
    let refused = quilt.edit("fill", |pen| pen.fill("soil", more, wall)).unwrap_err();
    assert!(matches!(refused, EditError::TooLarge { rect, .. } if rect == more), "{refused}");
}

#[test]
fn a_flat_array_reaches_up_to_the_last_cell() {
    let mut quilt = doc_quilt();
    let numbers = TileNumbers::of_set("garden");
    let corner = CellPos::new(CellPos::MAX - 1, CellPos::MAX);
    let mut put = |list: &[i64]| {
        let array = FlatArray::new(list, list.len() as u32);
        quilt.edit("put", |pen| pen.put_flat("soil", corner, array, &numbers))
    };
    put(&[0, 1]).unwrap();
    let refused = put(&[0, 1, 1]).unwrap_err();
    assert!(matches!(refused, EditError::RectBeyondCells { width: 3, height: 1, .. }), "{refused}");
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
            assert!(!holds(at_grass, Cell::of(grass).turned(Turn::HALF).into())?);
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
    assert!(matches!(error, EditError::TooLarge { most: Pen::MOST_CHUNKS, .. }));
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
fn a_set_in_the_place_of_another_keeps_what_it_has_by_name() {
    let mut quilt = doc_quilt();
    let (grass, wall) = (quilt.tile("garden/grass").unwrap(), quilt.tile("garden/wall").unwrap());
    let new = TileSet::flat("garden", ["pond", "grass"]).unwrap();
    let edit = quilt.edit("another garden", |pen| pen.put_tiles(new)).unwrap();
    assert_eq!(quilt.tile("garden/grass"), Ok(grass));
    assert!(!quilt.tiles().is_missing(grass) && quilt.tiles().is_missing(wall));
    let names: Vec<String> = quilt.tiles().missing().map(ToString::to_string).collect();
    assert_eq!(names, ["garden/wall"]);
    assert_eq!(quilt.tiles().sets().len(), 1);
    quilt.apply(&edit.changes.inverse()).unwrap();
    assert!(!quilt.tiles().is_missing(wall));
}

#[test]
fn rows_that_reach_too_far_are_refused() {
    let mut quilt = doc_quilt();
    let legend = [('#', quilt.tile("garden/wall").unwrap())];
    let corner = CellPos::new(CellPos::MAX, 0);
    let error = quilt.edit("rows", |pen| pen.put_rows("soil", corner, &legend, &["#", " #"]));
    assert_eq!(
        error.unwrap_err().to_string(),
        "row 1 reaches beyond the limits of cells in column 1"
    );
    let error = quilt.edit("rows", |pen| pen.put_rows("soil", corner, &legend, &["#", "x"]));
    assert_eq!(
        error.unwrap_err().to_string(),
        "row 1 has `x` in column 0, which the legend does not know"
    );
    assert!(quilt.same_as(&doc_quilt()));
    let near = [('#', "garden/wal")];
    let error = quilt.edit("rows", |pen| pen.put_rows("soil", CellPos::ORIGIN, &near, &["#"]));
    assert!(error.unwrap_err().to_string().ends_with("did you mean `garden/wall`?"));
}

#[test]
fn a_rule_gives_each_cell_and_variants_take_their_places() {
    let set = TileSet::builder("field")
        .tile(TileSpec::named("grass").variant("grass", 3).variant("flowers", 1))
        .tile(TileSpec::named("flowers"))
        .tile(TileSpec::named("stone"));
    let mut quilt = Quilt::build(Lattice::default(), |pen| {
        pen.put_tiles(set.build()?)?;
        pen.add_layer("soil", LayerSettings::default()).map(|_| ())
    })
    .unwrap();
    let (grass, stone) =
        (quilt.cell("field/grass+90").unwrap(), quilt.cell("field/stone").unwrap());
    let rect = CellRect::between(CellPos::new(-70, -3), CellPos::new(70, 3));
    let rule = |at: CellPos| match (at.x() + at.y()).rem_euclid(3) {
        0 => Cell::EMPTY,
        1 => stone,
        _ => grass,
    };
    quilt.edit("rule", |pen| pen.put_each("soil", rect, rule)).unwrap();
    let held = |quilt: &Quilt, at| quilt.get("soil", at).unwrap().here().unwrap();
    assert!(rect.cells().all(|at| held(&quilt, at) == rule(at)));
    let before = quilt.clone();
    let edit = quilt.edit("vary", |pen| pen.vary("soil", CellRect::EVERYWHERE)).unwrap();
    let mut flowers = 0;
    for at in rect.cells() {
        let tile = held(&before, at).tile().map(|tile| quilt.tiles().variant_at(tile, at));
        assert_eq!(held(&quilt, at).tile(), tile);
        assert_eq!(held(&quilt, at).turn(), rule(at).turn(), "turns stay");
        flowers += usize::from(tile != held(&before, at).tile());
    }
    assert!((40..140).contains(&flowers), "{flowers} of 329");
    quilt.apply(&edit.changes.inverse()).unwrap();
    assert!(quilt.same_as(&before));
    let wide = CellRect::new(CellPos::ORIGIN, 1 << 30, 1 << 30);
    assert!(quilt.edit("wide", |pen| pen.put_each("soil", wide, rule)).is_err());
}

#[test]
fn cells_of_another_map_are_adopted_by_name() {
    let (mut here, mut there) = (empty_quilt(), doc_quilt());
    let oak = TileSet::flat("trees", ["oak"]).unwrap();
    there.edit("add", |pen| pen.put_tiles(oak)).unwrap();
    let turned = |quilt: &Quilt, name: &str| Cell::of(quilt.tile(name).unwrap()).turned(Turn::HALF);
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
fn bounds_and_the_order_of_markers_come_back() {
    let mut quilt = doc_quilt();
    for name in ["z", "a", "m"] {
        quilt.edit("add", |pen| pen.put_marker(Marker::cell(name, CellPos::ORIGIN))).unwrap();
    }
    let order = |quilt: &Quilt| quilt.markers().map(|m| m.name().to_owned()).collect::<Vec<_>>();
    assert_eq!(order(&quilt), ["gate", "z", "a", "m"]);
    let before = quilt.clone();
    let stated = CellRect::new(CellPos::new(-1, -1), 9, 9);
    let edit = quilt.edit("change", |pen| {
        pen.set_bounds(Some(stated))?;
        pen.remove_marker("z")?;
        pen.put_marker(Marker::cell("a", CellPos::new(1, 1)))
    });
    assert_eq!(order(&quilt), ["gate", "a", "m"]);
    assert_eq!(quilt.bounds(), stated);
    quilt.apply(&edit.unwrap().changes.inverse()).unwrap();
    assert_eq!(order(&quilt), ["gate", "z", "a", "m"]);
    assert!(quilt.same_as(&before));
}

#[test]
fn a_layer_moves_to_its_place_and_back() {
    let mut quilt = doc_quilt();
    let add = |pen: &mut Pen<'_>| {
        { ["a", "b", "c"] }
            .iter()
            .try_for_each(|name| pen.add_layer(name, LayerSettings::default()))
    };
    quilt.edit("more layers", add).unwrap();
    let names = |quilt: &Quilt| -> Vec<String> {
        quilt.layers().iter().map(|layer| layer.name().to_owned()).collect()
    };
    let before = names(&quilt);
    for layer in before.clone() {
        for place in 0..6 {
            let edit = quilt.edit("move", |pen| pen.move_layer(&layer, place)).unwrap();
            let mut expected = before.clone();
            expected.retain(|name| *name != layer);
            expected.insert(place.min(before.len() - 1), layer.clone());
            assert_eq!(names(&quilt), expected);
            assert_eq!(edit.changes.is_empty(), expected == before);
            quilt.apply(&edit.changes.inverse()).unwrap();
            assert_eq!(names(&quilt), before);
        }
    }
}

#[test]
fn handles_of_no_tile_are_refused() {
    let mut quilt = doc_quilt();
    let mut many = Quilt::new(Lattice::default());
    let names: Vec<String> = (0..9).map(|n| format!("t{n}")).collect();
    many.edit("add", |pen| pen.put_tiles(TileSet::flat("many", names)?)).unwrap();
    let foreign = many.tile("many/t8").unwrap();
    let error = quilt.edit("put", |pen| pen.put("soil", CellPos::ORIGIN, foreign)).unwrap_err();
    assert_eq!(error.to_string(), "tile number 8 is none of this map");
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
fn a_plane_of_a_layer_is_shared_until_it_changes() {
    let mut quilt = doc_quilt();
    let before = quilt.clone();
    let plane = |quilt: &Quilt| -> Plane<Cell> { quilt.layers()[0].cells().clone() };
    assert_eq!(plane(&quilt).stamp(), plane(&before).stamp());
    quilt
        .edit("nothing", |pen| pen.put("soil", CellPos::ORIGIN, pen.tile("garden/grass")?))
        .unwrap();
    assert_eq!(plane(&quilt).stamp(), plane(&before).stamp(), "the same value is no change");
}

/// A list of numbers in any scan order against a look at each place.
#[test]
fn flat_lists_are_read_in_every_order() {
    let corners = [Corner::TopLeft, Corner::TopRight, Corner::BottomLeft, Corner::BottomRight];
    let list: Vec<i32> = (0..12).map(|i| [-1, 0, 1][i * i % 3]).collect();
    for (way, corner) in [false, true].into_iter().flat_map(|way| corners.map(|c| (way, c))) {
        let mut quilt = doc_quilt();
        let scan = if way { ScanOrder::columns(corner) } else { ScanOrder::rows(corner) };
        let numbers = TileNumbers::of_set("garden");
        let at = CellPos::new(-70, 3);
        let edit = quilt.edit("flat", |pen| {
            pen.fill("soil", CellRect::new(at, 4, 3), pen.tile("garden/wall")?)?;
            pen.put_flat("soil", at, FlatArray::new(&list, 4).scan(scan), &numbers)
        });
        for (x, y) in (0..4_i32).flat_map(|x| (0..3_i32).map(move |y| (x, y))) {
            let across =
                if matches!(corner, Corner::TopRight | Corner::BottomRight) { 3 - x } else { x };
            let down =
                if matches!(corner, Corner::BottomLeft | Corner::BottomRight) { 2 - y } else { y };
            let index = if way { across * 3 + down } else { down * 4 + across };
            let held = quilt.get("soil", CellPos::new(x - 70, y + 3)).unwrap().here().unwrap();
            let wanted =
                ["empty", "garden/grass", "garden/wall"][(list[index as usize] + 1) as usize];
            assert_eq!(quilt.tiles().notation(held).to_string(), wanted, "{x},{y} of {scan:?}");
        }
        edit.unwrap();
    }
}

#[test]
fn flat_lists_that_are_no_rectangle_are_refused() {
    let mut quilt = doc_quilt();
    let before = quilt.clone();
    let mut refused = |list: &[u16], width: u32, at: CellPos, numbers: TileNumbers| {
        let edit = quilt
            .edit("flat", |pen| pen.put_flat("soil", at, FlatArray::new(list, width), &numbers));
        edit.unwrap_err().to_string()
    };
    let numbers = || TileNumbers::of_set("garden");
    let here = CellPos::ORIGIN;
    assert_eq!(refused(&[0, 1, 0], 2, here, numbers()), "3 numbers are no whole rows of 2 cells");
    assert_eq!(refused(&[0], 0, here, numbers()), "1 numbers are no whole rows of 0 cells");
    assert_eq!(
        refused(&[0, 1, 1, 7], 2, CellPos::new(4, 4), numbers()),
        "number 7 at place 3 of the list, for cell 5,5, is no tile: the tiles have the numbers 0 to 1, and -1 is empty"
    );
    assert_eq!(
        refused(&[0, 1], 2, CellPos::new(CellPos::MAX, 0), numbers()),
        "2 × 1 cells from 1073741823,0 on reach beyond the limits of cells"
    );
    assert_eq!(
        refused(&[0], 1, here, TileNumbers::of_set("gardn")),
        "no tile set `gardn` in this map; did you mean `garden`?"
    );
    assert!(quilt.same_as(&before));
}

/// What is taken is what lay there; nothing else changes, and the inverse brings it back.
#[test]
fn taken_tiles_leave_what_was_chosen() {
    let mut quilt = doc_quilt();
    let (grass, wall) = (quilt.tile("garden/grass").unwrap(), quilt.tile("garden/wall").unwrap());
    quilt
        .edit("more walls", |pen| {
            pen.put(
                "soil",
                CellPos::new(-80, 1),
                Cell::of(wall).raised(true).turned(Turn::QUARTER),
            )?;
            pen.put("soil", CellPos::new(90, -1), wall)?;
            pen.set_layer("soil", |settings| settings.offset(WorldVec::new(3.0, -2.0)))
        })
        .unwrap();
    let before = quilt.clone();
    let marked = quilt.tiles().find_where(|tile| tile.ground() == Some("stone"));
    let take = Take::tiles(marked).leaving(grass).at(Anchor::TopLeft);
    let edit = quilt.edit("take", |pen| pen.take("soil", &take)).unwrap();
    let cells: Vec<CellPos> = edit.result.iter().map(|taken| taken.cell).collect();
    assert_eq!(cells, [CellPos::new(90, -1), CellPos::new(-80, 1), CellPos::new(2, 0)]);
    assert_eq!(edit.result[1].value.turn(), Turn::QUARTER);
    assert_eq!(edit.result[1].place, WorldPoint::new(-80.0 * 16.0 + 3.0, 16.0 - 2.0));
    let soil = quilt.layer("soil").unwrap().cells();
    assert_eq!(soil.find_where(|cell| cell.tile() == Some(wall)).count(), 0);
    assert!(cells.iter().all(|at| soil.get(*at).here() == Some(Cell::of(grass))));
    assert_eq!(edit.changes.cells().count(), 3);
    quilt.apply(&edit.changes.inverse()).unwrap();
    assert!(quilt.same_as(&before));
    let nothing = quilt.edit("take", |pen| pen.take("soil", &Take::tiles([]))).unwrap();
    assert!(nothing.result.is_empty() && nothing.changes.is_empty());
}

#[test]
fn values_of_tiles_are_found_and_missing_names_listed_at_once() {
    let quilt = doc_quilt();
    let names = [("garden/grass", 1), ("garden/wal", 2), ("gardn/wall", 3)];
    let error = TileValues::by_name(quilt.tiles(), names).unwrap_err();
    assert_eq!(
        error.to_string(),
        "no tile `garden/wal` in this map; did you mean `garden/wall`?\n\
         no tile `gardn/wall` in this map; did you mean `garden/wall`?"
    );
    let mut values = TileValues::by_name(quilt.tiles(), [("garden/wall", 'w')]).unwrap();
    let left: Vec<String> = values.without_value(quilt.tiles()).map(ToString::to_string).collect();
    assert_eq!(left, ["garden/grass"]);
    let grass = quilt.tile("garden/grass").unwrap();
    assert_eq!((values.get(grass), values.get(Cell::EMPTY)), (None, None));
    values.put(grass, 'g');
    assert_eq!(values.get(Cell::of(grass).raised(true)), Some(&'g'));
}

#[test]
fn data_of_the_map_comes_back() {
    let mut quilt = doc_quilt();
    let before = quilt.clone();
    let day = serde_json::json!({ "day": 3 });
    let edit = quilt.edit("day", |pen| pen.set_data(day.clone())).unwrap();
    assert_eq!(quilt.data(), &day);
    assert!(!quilt.same_as(&before));
    let again = quilt.edit("the same", |pen| pen.set_data(day)).unwrap();
    assert!(again.changes.is_empty());
    let refused = quilt.apply(&edit.changes).unwrap_err();
    assert_eq!(
        refused.to_string(),
        "the map has changed meanwhile: the data of the map is not what the changes expect"
    );
    quilt.apply(&edit.changes.inverse()).unwrap();
    assert!(quilt.same_as(&before));
}

#[test]
fn markers_that_are_nowhere_are_refused() {
    let mut quilt = doc_quilt();
    let here = WorldPoint::new(1.0, 2.0);
    for marker in [
        Marker::path("p", [here]),
        Marker::polygon("p", [here, here]),
        Marker::point("p", WorldPoint::new(f64::NAN, 0.0)),
        Marker::path("p", [here, WorldPoint::new(f64::INFINITY, 0.0)]),
    ] {
        let error = quilt.edit("mark", |pen| pen.put_marker(marker)).unwrap_err();
        assert_eq!(
            error.to_string(),
            "marker `p` has no place: a path has at least 2 points and a polygon 3, all of finite numbers"
        );
    }
}

#[test]
fn value_layers_keep_their_kind() {
    let mut quilt = doc_quilt();
    quilt.edit("add", |pen| pen.add_value_layer("growth", ValueKind::F32)).unwrap();
    let at = CellPos::new(-3, 70);
    let mut refused = |change: &dyn Fn(&mut Pen<'_>) -> Result<(), EditError>| {
        quilt.edit("try", |pen| change(pen)).unwrap_err().to_string()
    };
    assert_eq!(
        refused(&|pen| pen.put_value("growth", at, 7_u32).map(|_| ())),
        "value layer `growth` holds f32, not u32"
    );
    assert_eq!(
        refused(&|pen| pen.fill_values("growht", CellRect::of_cell(at), 7_i32)),
        "no value layer `growht` in this map; did you mean `growth`?"
    );
    assert_eq!(
        refused(&|pen| pen.add_value_layer("growth", ValueKind::U32)),
        "there is a value layer `growth` already"
    );
    assert_eq!(
        refused(&|pen| pen.add_value_layer("", ValueKind::U32)),
        "a value layer must have a name"
    );
    assert!(
        refused(&|pen| pen.fill_values("growth", CellRect::EVERYWHERE, 1.0_f32))
            .contains("too many to fill")
    );
    quilt.edit("clear", |pen| pen.fill_values("growth", CellRect::EVERYWHERE, 0.0_f32)).unwrap();

    // NaN is a value as any other, and is the same as itself.
    let edit = quilt.edit("odd", |pen| pen.put_value("growth", at, f32::NAN)).unwrap();
    assert_eq!(edit.result, 0.0);
    assert!(quilt.values::<f32>("growth").unwrap().get(at).here().unwrap().is_nan());
    let again = quilt.edit("odd", |pen| pen.put_value("growth", at, f32::NAN)).unwrap();
    assert!(again.changes.is_empty());
    assert_eq!(edit.changes.cells().count(), 0, "values are no cells");
    quilt.apply(&edit.changes.inverse()).unwrap();
    assert_eq!(quilt.values::<f32>("growth").unwrap().get(at).here(), Some(0.0));
    let refused = quilt.apply(&edit.changes.inverse()).unwrap_err().to_string();
    assert_eq!(
        refused,
        "the map has changed meanwhile: cell -3,70 of value layer `growth` is not what the changes expect"
    );
}
