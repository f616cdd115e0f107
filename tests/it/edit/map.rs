//! Edits of what a map holds besides cells.

use super::*;

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
            "marker `p` has no place: an area has at least one cell, a path 2 points and a polygon 3, all of finite numbers"
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
            .contains("too many at once")
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

#[derive(Clone, Copy, Debug)]
enum LayerOp {
    Add(usize),
    Remove(usize),
    Move(usize, usize),
    Undo,
}

fn any_layer_op() -> impl Strategy<Value = LayerOp> {
    prop_oneof![
        4 => (0..40_usize).prop_map(LayerOp::Add),
        2 => (0..40_usize).prop_map(LayerOp::Remove),
        2 => (0..40_usize, 0..40_usize).prop_map(|(name, place)| LayerOp::Move(name, place)),
        1 => Just(LayerOp::Undo),
    ]
}

proptest! {
    /// However layers come, go and move, each is found by its name and its handle.
    #[test]
    fn many_layers_are_found(
        first in 0..30_usize,
        ops in prop::collection::vec(any_layer_op(), 1..40),
    ) {
        let mut quilt = Quilt::new(Lattice::default());
        quilt
            .edit("first", |pen| {
                (0..first).try_for_each(|name| pen.add_layer(&name.to_string(), LayerSettings::default()))
            })
            .unwrap();
        let mut model: Vec<String> = (0..first).map(|name| name.to_string()).collect();
        let mut last = None;
        for op in ops {
            let (before, snapshot) = (model.clone(), quilt.clone());
            let place_of = |name: usize| before.iter().position(|held| *held == name.to_string());
            let edit = match op {
                LayerOp::Add(name) => {
                    let added = quilt.edit("add", |pen| pen.add_layer(&name.to_string(), LayerSettings::default()));
                    prop_assert_eq!(added.is_err(), place_of(name).is_some());
                    if added.is_ok() {
                        model.push(name.to_string());
                    }
                    added.ok()
                }
                LayerOp::Remove(name) => {
                    if let Some(place) = place_of(name) {
                        model.remove(place);
                    }
                    quilt.edit("remove", |pen| pen.remove_layer(&name.to_string())).ok()
                }
                LayerOp::Move(name, place) => {
                    if let Some(at) = place_of(name) {
                        let moved = model.remove(at);
                        model.insert(place.min(model.len()), moved);
                    }
                    quilt.edit("move", |pen| pen.move_layer(&name.to_string(), place)).ok()
                }
                LayerOp::Undo => {
                    if let Some((changes, names)) = last.take() {
                        let changes: sturdy_quilt::Changeset = changes;
                        quilt.apply(&changes.inverse()).unwrap();
                        model = names;
                    }
                    None
                }
            };
            last = edit.map(|edit| (edit.changes, before.clone()));
            let names = |quilt: &Quilt| quilt.layers().iter().map(|l| l.name().to_owned()).collect::<Vec<_>>();
            prop_assert_eq!(names(&quilt), &model[..]);
            prop_assert_eq!(names(&snapshot), &before[..]);
            for (quilt, model) in [(&quilt, &model), (&snapshot, &before)] {
                for name in 0..40 {
                    let found = quilt.layer(&name.to_string());
                    prop_assert_eq!(found.is_ok(), model.contains(&name.to_string()));
                    if let Ok(layer) = found {
                        prop_assert_eq!(layer.name(), name.to_string());
                        prop_assert_eq!(quilt.layer(layer.id()).unwrap().name(), name.to_string());
                    }
                }
            }
        }
    }
}
