//! Changes that leave the process as bytes.

use sturdy_quilt::CellSet;
use sturdy_quilt::document::{ChangesError, Limits};

use super::rebase::{joined, renumbered};
use super::*;
use crate::scene::Change;

fn read(bytes: &[u8], quilt: &Quilt) -> Result<Changeset, ChangesError> {
    Changeset::from_bytes(bytes, quilt, &Limits::default())
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(64))]

    #[test]
    fn changes_through_bytes_are_the_changes(
        mut quilt in any_quilt(20),
        changes in prop::collection::vec(any_change(), 1..8),
    ) {
        let before = quilt.clone();
        let Some(made) = joined(&mut quilt, &changes) else { return Ok(()) };
        for (changes, from, to) in [(&made, &before, &quilt), (&made.inverse(), &quilt, &before)] {
            let received = read(&changes.to_bytes(), from).unwrap();
            prop_assert_eq!(received.label(), changes.label());
            prop_assert_eq!(received.to_bytes(), changes.to_bytes());
            let mut map = from.clone();
            map.apply(&received).unwrap();
            prop_assert!(map.same_as(to), "full");
            map.apply(&received.inverse()).unwrap();
            prop_assert!(map.same_as(from), "and back");

            let bytes = changes.to_forward_bytes();
            let received = read(&bytes, from).unwrap();
            // One that is packed may well be the smaller one.
            let full = changes.to_bytes();
            prop_assert!(full[5] & 0x80 > 0 || bytes.len() <= full.len());
            map.apply(&received).unwrap();
            prop_assert!(map.same_as(to), "forward");
            map.apply(&received.inverse()).unwrap();
            prop_assert!(map.same_as(from), "and back");
        }
    }

    #[test]
    fn changes_reach_maps_of_another_descent(
        begin in prop::collection::vec(any_change(), 0..12),
        changes in prop::collection::vec(any_change(), 1..8),
    ) {
        // Both have the same classes, but for their order, and backdrops are told by numbers.
        let is_fit = |change: &&Change| match change {
            Change::Classes => false,
            Change::Settings { settings, .. } => settings.0.backdrop.is_none(),
            _ => true,
        };
        let fit = |changes: &[Change]| -> Vec<Change> {
            changes.iter().filter(is_fit).cloned().collect()
        };
        let (begin, changes) = (fit(&begin), fit(&changes));
        let mut here = empty_quilt();
        for change in &begin {
            make(&mut here, change);
        }
        let mut there = renumbered(&begin);
        let mut expected = there.clone();
        joined(&mut expected, &changes);
        let mut forward = there.clone();
        let Some(made) = joined(&mut here, &changes) else { return Ok(()) };
        let received = read(&made.to_bytes(), &there).unwrap();
        there.apply(&received).unwrap();
        prop_assert!(there.same_as(&expected));
        let received = read(&made.to_forward_bytes(), &forward).unwrap();
        forward.apply(&received).unwrap();
        prop_assert!(forward.same_as(&expected), "forward");
    }

    #[test]
    fn damaged_bytes_are_told(
        mut quilt in any_quilt(8),
        changes in prop::collection::vec(any_change(), 1..4),
    ) {
        let before = quilt.clone();
        let Some(made) = joined(&mut quilt, &changes) else { return Ok(()) };
        let bytes = made.to_bytes();
        for at in 0..bytes.len() {
            prop_assert!(read(&bytes[..at], &before).is_err(), "cut at {at}");
            let mut flipped = bytes.clone();
            flipped[at] ^= 1 << (at % 8);
            prop_assert!(read(&flipped, &before).is_err(), "flipped at {at}");
        }
        let longer = [&bytes[..], &[0]].concat();
        prop_assert!(read(&longer, &before).is_err());
    }
}

#[cfg(all(feature = "fs", feature = "png"))]
fn demo_maps() -> Vec<Quilt> {
    let demo = sturdy_quilt::FolderSource::new(concat!(env!("CARGO_MANIFEST_DIR"), "/demo"));
    let load = |name: &str| {
        let loaded = sturdy_quilt::Loader::new().load(&demo, &format!("{name}.quilt.json"));
        loaded.unwrap().quilt
    };
    ["terrace", "hoist", "market"].map(load).into()
}

#[cfg(not(all(feature = "fs", feature = "png")))]
fn demo_maps() -> Vec<Quilt> {
    Vec::new()
}

#[test]
fn whole_maps_travel_as_changes() {
    for map in [empty_quilt(), doc_quilt()].into_iter().chain(demo_maps()) {
        let mut empty = Quilt::new(*map.lattice());
        let between = Changeset::between("all of it", &empty, &map).unwrap();
        for bytes in [between.to_bytes(), between.to_forward_bytes()] {
            let mut other = Quilt::new(*map.lattice());
            let received = read(&bytes, &other).unwrap();
            other.apply(&received).unwrap();
            assert!(other.same_as(&map));
            other.apply(&received.inverse()).unwrap();
            assert!(other.same_as(&empty));
        }
        empty.apply(&between).unwrap();
        assert!(empty.same_as(&map));
        let away = Changeset::between("none of it", &map, &Quilt::new(*map.lattice())).unwrap();
        let received = read(&away.to_bytes(), &map).unwrap();
        empty.apply(&read(&away.to_bytes(), &empty).unwrap()).unwrap();
        assert!(empty.same_as(&Quilt::new(*map.lattice())));
        assert_eq!(received.to_bytes(), away.to_bytes());
    }
}

#[test]
fn strokes_and_rectangles_are_small() {
    let mut quilt = doc_quilt();
    let names = "garden/wall garden/grass soil a wall".len();
    let to = |x, y| CellPos::new(x, y);
    for end in [to(1000, 0), to(0, 1000), to(1000, 1000), to(1000, 333), to(400, 1000)] {
        let stroke = CellSet::line(to(0, 0), end).unwrap();
        let edit = quilt.edit("a wall", |pen| pen.lay("soil", &stroke, "garden/wall")).unwrap();
        let (cells, bytes) = (edit.changes.cells().count(), edit.changes.to_bytes().len());
        assert!(cells >= 995 && bytes <= 2 * cells, "{bytes} bytes for {cells} cells to {end}");
        quilt.apply(&edit.changes.inverse()).unwrap();
    }
    for (width, height) in [(1, 1), (30, 20), (64, 64), (1000, 700), (65_000, 65_000)] {
        let rect = CellRect::new(to(-200, 300), width, height);
        let edit = quilt.edit("a wall", |pen| pen.fill("soil", rect, "garden/wall")).unwrap();
        let bytes = edit.changes.to_bytes();
        assert!(bytes.len() <= 64 + names, "{} bytes for {rect}", bytes.len());
        quilt.apply(&edit.changes.inverse()).unwrap();
        let received = read(&bytes, &quilt).unwrap();
        quilt.apply(&received).unwrap();
        assert_eq!(quilt.layer("soil").unwrap().cells().bounds().bottom(), rect.bottom());
        quilt.apply(&received.inverse()).unwrap();
        assert!(quilt.same_as(&doc_quilt()));
    }
}

#[test]
fn limits_hold_for_changes() {
    let mut quilt = doc_quilt();
    let before = quilt.clone();
    let rect = CellRect::new(CellPos::ORIGIN, 60_000, 60_000);
    let edit = quilt.edit("a wall", |pen| pen.fill("soil", rect, "garden/wall")).unwrap();
    let bytes = edit.changes.to_bytes();
    let told = |limits: Limits| {
        let error = Changeset::from_bytes(&bytes, &before, &limits).unwrap_err();
        std::error::Error::source(&error).unwrap().to_string()
    };
    assert_eq!(
        told(Limits { cells: 10_000, ..Limits::default() }),
        "they hold more than 10000 cells, the most that is allowed"
    );
    assert_eq!(
        told(Limits { tiles: 1, ..Limits::default() }),
        "they hold more than 1 tiles, the most that is allowed"
    );
}

#[test]
fn changes_of_strangers_say_what_is_missing() {
    let mut quilt = doc_quilt();
    let edit = quilt.edit("all", |pen| {
        pen.put_marker(Marker::cell("pond", CellPos::new(1, 1)).with_ground("stone"))?;
        pen.put("soil", CellPos::new(0, 0), "garden/wall")
    });
    let changes = edit.unwrap().changes;
    let mut stranger = Quilt::new(*doc_quilt().lattice());
    let error = read(&changes.to_bytes(), &stranger).unwrap_err();
    assert_eq!(error.to_string(), "marker `pond` in the changes cannot be one of this map");
    stranger.edit("a class", |pen| pen.add_ground_classes(["stone"])).unwrap();
    let received = read(&changes.to_bytes(), &stranger).unwrap();
    let conflicts = received.conflicts(&stranger).unwrap();
    assert_eq!(conflicts.iter().map(ToString::to_string).collect::<Vec<_>>(), ["layer `soil`"]);
    let error = read(&changes.to_forward_bytes(), &stranger).unwrap_err();
    assert_eq!(error.to_string(), "the map does not have what the changes lead on from");
    stranger.edit("a layer", |pen| pen.add_layer("soil", LayerSettings::default())).unwrap();
    stranger.apply(&read(&changes.to_forward_bytes(), &stranger).unwrap()).unwrap();
    let cell = stranger.get("soil", CellPos::ORIGIN).unwrap().here().unwrap();
    assert_eq!(stranger.tiles().notation(cell).to_string(), "garden/wall", "it keeps its name");
    let map = read(b"not at all", &quilt).unwrap_err();
    let source = std::error::Error::source(&map).unwrap().to_string();
    assert_eq!(source, "expected changes of a map, found other bytes");
}
