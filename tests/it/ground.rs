//! Ground against a naive walk over the layers, and refreshed against made anew.

use proptest::prelude::*;
use sturdy_quilt::quilt::{GroundClass, Grounds, Treatment};
use sturdy_quilt::units::CellOffset;
use sturdy_quilt::{
    CellPos, CellRect, GroundMap, Layer, Marker, Mover, Presence, Quilt, doc_quilt,
};

use crate::scene::{any_change, any_quilt, empty_quilt, make};

fn area() -> CellRect {
    CellRect::between(CellPos::new(-16, -14), CellPos::new(20, 16))
}

/// The layers with their places, the topmost first.
fn from_the_top(quilt: &Quilt) -> Vec<(usize, &Layer)> {
    let mut layers: Vec<(usize, &Layer)> = quilt.layers().iter().enumerate().collect();
    layers.sort_by_key(|(place, layer)| (layer.settings().priority, *place));
    layers.reverse();
    layers
}

/// The class of a cell as the contract says it: from the top down, the first that speaks wins.
fn naive(quilt: &Quilt, layers: &[(usize, &Layer)], cell: CellPos) -> Option<GroundClass> {
    let said = |wanted: Grounds| {
        let layers = layers.iter().filter(move |(_, layer)| layer.settings().grounds == wanted);
        layers.map(|(_, layer)| *layer).find_map(|layer| said_by(quilt, layer, cell))
    };
    let marked = || {
        let covering = quilt.markers().filter(|marker| marker.covers(cell));
        let class = covering.filter_map(|marker| marker.marker().ground()).last()?;
        quilt.ground_rules().class(class).ok()
    };
    said(Grounds::First).or_else(marked).or_else(|| said(Grounds::InTurn))
}

fn said_by(quilt: &Quilt, layer: &Layer, cell: CellPos) -> Option<GroundClass> {
    let CellOffset { x, y } = layer.settings().offset_cells(quilt.lattice())?;
    let own = cell.checked_add(CellOffset::new(-x, -y))?;
    let tile = quilt.tiles().tile_of(layer.cells().get(own).here()?)?;
    quilt.ground_rules().class(quilt.tiles().tile(tile)?.ground()?).ok()
}

fn check(ground: &GroundMap, quilt: &Quilt) {
    let (layers, bounds) = (from_the_top(quilt), quilt.bounds());
    assert_eq!(ground.bounds(), bounds);
    // Some cells of every row and every column.
    for cell in area().cells().step_by(5) {
        let expected = naive(quilt, &layers, cell);
        assert_eq!(ground.class_at(cell), Presence::Here(expected), "{cell}");
        let decided = quilt.ground_at(cell).here().unwrap();
        assert_eq!(decided.map(|decision| decision.class), expected, "{cell}");
        for mover in quilt.ground_rules().movers() {
            let id = quilt.mover(mover.name()).unwrap();
            let expected = treated(quilt, &layers, bounds, mover, cell);
            assert_eq!(ground.treatment(id, cell), expected, "{cell}");
            assert_eq!(ground.blocked(id, cell), expected.blocks(), "{cell}");
        }
    }
}

fn treated(
    quilt: &Quilt,
    layers: &[(usize, &Layer)],
    bounds: CellRect,
    mover: &Mover,
    cell: CellPos,
) -> Treatment {
    let cell = match (bounds.contains(cell), mover.name()) {
        (true, _) => cell,
        (false, "bee") if !bounds.is_empty() => {
            let x = (cell.x() - bounds.left()).rem_euclid(bounds.width() as i32);
            let y = (cell.y() - bounds.top()).rem_euclid(bounds.height() as i32);
            CellPos::new(bounds.left() + x, bounds.top() + y)
        }
        _ => return Treatment::Block,
    };
    let class = naive(quilt, layers, cell);
    let class = class.and_then(|class| quilt.ground_rules().class_name(class));
    class.map_or(mover.empty(), |class| mover.treatment(class))
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(40))]

    #[test]
    fn ground_is_what_the_topmost_speaker_says(quilt in any_quilt(30)) {
        check(&GroundMap::of(&quilt), &quilt);
    }

    #[test]
    fn refreshed_ground_equals_new_ground_on_any_clone(
        mut quilt in any_quilt(15),
        changes in prop::collection::vec((any_change(), any::<bool>(), any::<usize>()), 1..12),
    ) {
        let mut ground = GroundMap::of(&quilt);
        let mut clones = vec![quilt.clone()];
        for (change, keep, jump) in &changes {
            make(&mut quilt, change);
            if *keep {
                clones.push(quilt.clone());
                let to = jump % clones.len();
                quilt = clones[to].clone();
            }
            ground.refresh(&quilt);
            check(&ground, &quilt);
            prop_assert_eq!(ground.refresh(&quilt), 0, "nothing is left to do");
        }
    }
}

#[test]
fn a_layer_between_the_cells_gives_no_ground() {
    let mut quilt = doc_quilt();
    let offset = |x, y| {
        sturdy_quilt::LayerSettings::default().with_offset(sturdy_quilt::WorldVec::new(x, y))
    };
    let cells = |x, y| offset(x, y).offset_cells(quilt.lattice());
    assert_eq!(cells(32.0, -48.0), Some(CellOffset::new(2, -3)));
    assert_eq!((cells(31.5, 0.0), cells(0.0, 1e-9), cells(1e300, 0.0)), (None, None, None));
    quilt.edit("shift", |pen| pen.set_layer("soil", |_| offset(0.5, 0.0))).unwrap();
    assert!(matches!(quilt.ground_at(CellPos::new(2, 0)), Presence::Here(None)));
    assert_eq!(GroundMap::of(&quilt).class_at(CellPos::new(2, 0)), Presence::Here(None));
}

#[test]
fn factors_out_of_range_are_what_they_come_to() {
    let mover = Mover::new("m").slow("a", 1.5).slow("b", 0.0).slow("c", f64::NAN);
    let mover = mover.with_treatment("d", Treatment::Slow(0.5)).with_outside(Treatment::Slow(9.0));
    let found = ["a", "b", "c", "d"].map(|class| mover.treatment(class));
    let expected = [Treatment::Pass, Treatment::Block, Treatment::Block, Treatment::Slow(0.5)];
    assert_eq!(found, expected);
    assert_eq!(mover.outside(), sturdy_quilt::quilt::Outside::Treated(Treatment::Pass));
}

#[test]
fn a_shifted_layer_changes_the_ground_where_it_lies() {
    // By some cells, by whole chunks, and by both.
    for (x, y) in [(2, -3), (64, -128), (-64, 192), (64, 5)] {
        let mut quilt = doc_quilt();
        let shift = sturdy_quilt::WorldVec::new(f64::from(x) * 16.0, f64::from(y) * 16.0);
        quilt.edit("shift", |pen| pen.set_layer("soil", |soil| soil.with_offset(shift))).unwrap();
        let mut ground = GroundMap::of(&quilt);
        let stone = Presence::Here(quilt.ground_rules().class("stone").ok());
        let class = |ground: &GroundMap, own: (i32, i32)| {
            ground.class_at(CellPos::new(own.0 + x, own.1 + y))
        };
        assert_eq!(class(&ground, (2, 0)), stone, "the wall that was there");
        quilt.edit("build", |pen| pen.put("soil", CellPos::new(63, 1), "garden/wall")).unwrap();
        ground.refresh(&quilt);
        assert_eq!(class(&ground, (63, 1)), stone);
        assert_eq!(class(&ground, (62, 1)), Presence::Here(None));
        assert_eq!(quilt.bounds().top(), y);
    }
}

/// Zones between others that stay as they are, one more, one less, and in another order.
#[test]
fn zones_that_change_among_others_are_found() {
    let mut quilt = empty_quilt();
    let zone = |name: &str, x: i32, class: &str| {
        Marker::area(name, CellRect::new(CellPos::new(x, 0), 70, 3)).with_ground(class)
    };
    let area = CellRect::new(CellPos::new(-1000, -1), 1500, 5);
    quilt.edit("bounds", |pen| pen.set_bounds(Some(area))).unwrap();
    let mut kept = GroundMap::of(&quilt);
    for (name, at) in [("a", 0), ("b", 100), ("c", 50), ("b", 300), ("a", 20), ("b", -900), ("", 0)]
    {
        let edit = quilt.edit("change", |pen| match name {
            "" => pen.remove_marker("b"),
            name => pen.put_marker(zone(name, at, if at % 100 == 0 { "stone" } else { "open" })),
        });
        edit.unwrap();
        kept.refresh(&quilt);
        let new = GroundMap::of(&quilt);
        let class = kept.class_at(CellPos::new(at, 1)).here().flatten();
        assert_eq!(class.is_some(), !name.is_empty());
        for cell in area.cells() {
            assert_eq!(kept.class_at(cell), new.class_at(cell), "{name} at {at}: {cell}");
        }
    }
}

#[test]
fn a_refresh_costs_what_changed() {
    let mut quilt = doc_quilt();
    let wall = quilt.tile("garden/wall").unwrap();
    quilt
        .edit("wide", |pen| pen.fill("soil", CellRect::new(CellPos::ORIGIN, 640, 640), wall))
        .unwrap();
    let mut ground = GroundMap::of(&quilt);
    quilt.edit("one", |pen| pen.erase("soil", CellPos::new(300, 300))).unwrap();
    assert_eq!(ground.refresh(&quilt), 1, "one chunk of a hundred");
    quilt
        .edit("look", |pen| pen.set_layer("soil", |s| s.with_opacity(0.5).with_priority(7)))
        .unwrap();
    assert_eq!(ground.refresh(&quilt), 0, "looks are no ground");
}

#[test]
fn bounds_follow_layers_that_give_no_ground() {
    let mut quilt = doc_quilt();
    quilt
        .edit("a silent layer", |pen| {
            pen.add_layer("sky", sturdy_quilt::LayerSettings::default().with_grounds(false))
        })
        .unwrap();
    let mut ground = GroundMap::of(&quilt);
    let wall = quilt.tile("garden/wall").unwrap();
    quilt.edit("far out", |pen| pen.put("sky", CellPos::new(50, 50), wall)).unwrap();
    ground.refresh(&quilt);
    assert_eq!(ground.bounds(), quilt.bounds());
}

/// A snapshot that is taken within an edit is one like others, and what was derived from it notices
/// what the edit changes afterwards.
#[test]
fn snapshots_within_an_edit_are_told_from_what_follows() {
    let mut quilt = doc_quilt();
    let wall = quilt.tile("garden/wall").unwrap();
    let view = sturdy_quilt::View::new(sturdy_quilt::ScreenSize::new(200, 200));
    let mut list = sturdy_quilt::DrawList::new();
    let edit = quilt.edit("two walls", |pen| {
        pen.put("soil", CellPos::new(0, 0), wall)?;
        let ground = GroundMap::of(pen.quilt());
        list.rebuild(pen.quilt(), &view);
        pen.put("soil", CellPos::new(1, 0), wall)?;
        Ok(ground)
    });
    let mut ground = edit.unwrap().result;
    let stone = quilt.ground_rules().class("stone").ok();
    assert_ne!(ground.class_at(CellPos::new(1, 0)), Presence::Here(stone));
    assert_eq!(ground.refresh(&quilt), 1);
    assert_eq!(ground.class_at(CellPos::new(1, 0)), Presence::Here(stone));
    list.rebuild(&quilt, &view);
    let mut new = sturdy_quilt::DrawList::new();
    new.rebuild(&quilt, &view);
    assert_eq!(list.quads(), new.quads());
    assert_eq!(list.figures().chunks_rebuilt, 1);
}

#[test]
fn movers_of_other_maps_are_blocked() {
    let mut quilt = doc_quilt();
    let plain = GroundMap::of(&quilt);
    quilt.edit("add", |pen| pen.put_mover(Mover::new("late"))).unwrap();
    let late = quilt.mover("late").unwrap();
    assert!(plain.blocked(late, CellPos::ORIGIN));
    assert!(!GroundMap::of(&quilt).blocked(late, CellPos::ORIGIN));
}

#[test]
fn rules_refuse_what_makes_no_sense() {
    let mut quilt = doc_quilt();
    let error = quilt.edit("add", |pen| pen.add_ground_classes(["outside"])).unwrap_err();
    assert_eq!(
        error.to_string(),
        "`outside` cannot name a ground class: it must have a name other than `outside`, `empty` and `unloaded`"
    );
    let names: Vec<String> = (0..70).map(|n| format!("class {n}")).collect();
    let error = quilt.edit("add", |pen| pen.add_ground_classes(names.iter().map(|n| &**n)));
    assert_eq!(error.unwrap_err().to_string(), "a map can have at most 64 ground classes");
    assert_eq!(quilt.ground_rules().classes().len(), 2, "none of them");
    let error = quilt.edit("add", |pen| pen.put_mover(Mover::new("m").block("stoen"))).unwrap_err();
    assert_eq!(error.to_string(), "mover `m` treats an unknown class");
    let cause = std::error::Error::source(&error).unwrap().to_string();
    assert_eq!(cause, "no ground class `stoen` in this map; did you mean `stone`?");
}

/// Ground is made from a snapshot on a thread of its own, while the map is changed, and read by
/// several at once.
#[test]
fn ground_is_made_and_read_on_other_threads() {
    let mut quilt = doc_quilt();
    let (walker, snapshot) = (quilt.mover("walker").unwrap(), quilt.clone());
    let made = std::thread::spawn(move || GroundMap::of(&snapshot));
    let wall = quilt.tile("garden/wall").unwrap();
    quilt.edit("build", |pen| pen.put("soil", CellPos::new(0, 1), wall)).unwrap();
    let before = made.join().unwrap();
    let mut now = before.clone();
    now.refresh(&quilt);
    let cells = [CellPos::new(0, 1), CellPos::new(2, 0)];
    let blocked = |ground: &GroundMap| cells.map(|cell| ground.blocked(walker, cell));
    std::thread::scope(|scope| {
        let readers = [&before, &now, &before].map(|ground| scope.spawn(|| blocked(ground)));
        let read = readers.map(|reader| reader.join().unwrap());
        assert_eq!(read, [[false, true], [true, true], [false, true]]);
    });
}
