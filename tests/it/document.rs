//! Documents: what is written reads back, and small changes stay small.

use sturdy_quilt::plane::{PlaneValue, ValueKind};
use sturdy_quilt::{
    Cell, CellPos, CellRect, Loaded, Loader, Marker, MemorySource, TileSet, WorldPoint, doc_quilt,
};

#[cfg(feature = "png")]
use crate::scene;

/// A map in memory, with the pictures of the random maps beside it.
pub(crate) fn files(map: &str) -> MemorySource {
    let mut files = MemorySource::default();
    files.add("map.quilt.json", map);
    #[cfg(feature = "png")]
    {
        files.add("art.png", scene::art_sheet().to_png().unwrap());
        files.add("tall.png", scene::tall_sheet().to_png().unwrap());
    }
    files
}

pub(crate) fn read(map: &str) -> Loaded {
    Loader::new().load(&files(map), "map.quilt.json").unwrap()
}

/// A small map with every kind of thing in it, laid out as it is saved. Version 1 of the format
/// must be read for ever, so this file never changes.
const YARD: &str = include_str!("../fixtures/version-1/yard.quilt.json");

#[test]
fn a_map_with_everything_reads_back_as_it_was_written() {
    let Loaded { quilt, warnings, files, .. } = read(YARD);
    assert_eq!(warnings, [], "nothing to complain about");
    assert_eq!(files, ["map.quilt.json"]);
    assert_eq!(quilt.to_json().unwrap(), YARD.replace("1.50", "1.5"));
    let rail = quilt.get("soil", CellPos::new(-1, 1)).unwrap().here().unwrap();
    assert_eq!(quilt.tiles().notation(rail).to_string(), "yard/rail+mirror+90+raise+palette5");
    let tile = quilt.tiles().tile(quilt.tiles().tile_of(rail).unwrap()).unwrap();
    assert_eq!(tile.data()["parts"][1], "b");
    assert_eq!(quilt.marker("spot").unwrap().place(), WorldPoint::new(12.25, 3.0));
    assert_eq!(quilt.marker("door").unwrap().place(), WorldPoint::new(56.0, 56.25));
    assert_eq!(quilt.marker("door").unwrap().data()["to"], "cellar");
    assert_eq!(quilt.layers()[1].settings().opacity, 0.35);
}

#[test]
fn paths_polygons_and_data_read_back_as_they_were_written() {
    let corners = [(0.0, 0.0), (64.5, 0.0), (32.0, 48.25)].map(|(x, y)| WorldPoint::new(x, y));
    let mut quilt = doc_quilt();
    quilt
        .edit("more", |pen| {
            pen.put_marker(Marker::path("round", corners).with_kind("route"))?;
            pen.put_marker(
                Marker::polygon("bed", corners).with_data(serde_json::json!({ "rows": 4 })),
            )?;
            pen.set_data(serde_json::json!({ "season": "first flush", "days": [1, 2] }))?;
            pen.set_layer("soil", |s| s.with_data(serde_json::json!("loam")))
        })
        .unwrap();
    let text = quilt.to_json().unwrap();
    assert!(text.contains(r#""path": [[0, 0], [64.5, 0], [32, 48.25]]"#), "{text}");
    let again = read(&text).quilt;
    assert!(again.same_as(&quilt));
    assert_eq!(again.to_json().unwrap(), text);
    assert_eq!(again.data()["days"][1], 2);
    assert_eq!(again.layer("soil").unwrap().settings().data, "loam");
    let bed = again.marker("bed").unwrap();
    assert_eq!(bed.points(), corners);
    assert!(bed.contains(WorldPoint::new(30.0, 20.0)) && !bed.contains(WorldPoint::new(2.0, 40.0)));
}

#[test]
fn value_layers_read_back_as_they_were_written() {
    let mut quilt = doc_quilt();
    quilt
        .edit("values", |pen| {
            pen.add_value_layer("growth", ValueKind::F32)?;
            pen.add_value_layer("debt", ValueKind::I32)?;
            pen.add_value_layer("owner", ValueKind::U32)?;
            for (x, value) in
                [0.1, f32::NAN, -0.0, f32::NEG_INFINITY, 1e-40].into_iter().enumerate()
            {
                pen.put_value("growth", CellPos::new(x as i32 - 2, 5), value)?;
            }
            pen.fill_values("debt", CellRect::new(CellPos::new(-1, -1), 2, 2), i32::MIN)?;
            pen.put_value("debt", CellPos::new(0, 0), 7)?;
            Ok(())
        })
        .unwrap();
    let text = quilt.to_json().unwrap();
    assert!(text.contains("\"-2147483648 -2147483648\",\n"), "{text}");
    assert!(
        text.contains("\"0.1 NaN -0 -inf 0.0000000000000000000000000000000000000001\""),
        "{text}"
    );
    let again = read(&text).quilt;
    assert!(again.same_as(&quilt));
    assert_eq!(again.to_json().unwrap(), text);
    assert_eq!(again.values::<i32>("debt").unwrap().get(CellPos::ORIGIN).here(), Some(7));
    assert_eq!(again.value_layers().len(), 3, "also one that holds nothing");
}

#[test]
fn a_table_is_read_into_cells_and_saved_as_rows() {
    let mut files = MemorySource::default();
    files.add("levels/map.quilt.json", r#"{
        "format": "sturdy-quilt/map", "version": 1, "lattice": { "cell": [16, 16] },
        "tiles": [{ "name": "yard", "tiles": ["sand", "wall"] }],
        "layers": [
            { "name": "soil", "at": [-2, 5], "cells": { "table": "soil.csv", "set": "yard" } },
            { "name": "works", "cells": { "table": "soil.csv", "set": "yard", "base": -1, "empty": 1 } }] }"#);
    files.add("levels/soil.csv", "0,1,-1\n1,\"yard/sand+90+raise\",\n");
    let Loaded { quilt, warnings, files, cell_files, .. } =
        Loader::new().load(&files, "levels/map.quilt.json").unwrap();
    assert_eq!((warnings.len(), files.len()), (0, 2));
    assert_eq!(cell_files, ["levels/soil.csv"]);
    let held = |layer: &str, x, y| {
        let cell = quilt.get(layer, CellPos::new(x, y)).unwrap().here().unwrap();
        quilt.tiles().notation(cell).to_string()
    };
    assert_eq!(held("soil", -2, 5), "yard/sand");
    assert_eq!(held("soil", -1, 6), "yard/sand+90+raise");
    assert_eq!(held("soil", 0, 5), "empty");
    assert_eq!(
        (held("works", 0, 0), held("works", 2, 0)),
        ("yard/wall".into(), "yard/sand".into())
    );
    let text = quilt.to_json().unwrap();
    assert!(!text.contains("table"));
    assert!(read(&text).quilt.same_as(&quilt));
}

#[test]
fn legends_may_be_spelled_out() {
    let spelled = YARD.replace(
        r#""yard/rail+mirror+90+raise+palette5""#,
        r#"{ "tile": "yard/rail", "turn": 90, "mirror": true, "raise": true, "palette": 5 }"#,
    );
    assert!(read(&spelled).quilt.same_as(&read(YARD).quilt));
    let with_null = YARD.replace(r##""#": "yard/wall","##, r##""#": "yard/wall", " ": null,"##);
    let quilt = read(&with_null).quilt;
    assert!(quilt.same_as(&read(YARD).quilt));
    assert!(quilt.to_json().unwrap().contains(r#"" ": null"#), "the legend keeps its entries");
}

/// The lines of two texts that differ, counted in the longer one.
fn differing_lines(a: &str, b: &str) -> usize {
    let (a, b): (Vec<&str>, Vec<&str>) = (a.lines().collect(), b.lines().collect());
    assert_eq!(a.len(), b.len());
    a.iter().zip(&b).filter(|(a, b)| a != b).count()
}

#[test]
fn one_changed_cell_is_one_changed_line() {
    let mut quilt = read(YARD).quilt;
    let wall = quilt.tile("yard/wall").unwrap();
    let before = quilt.to_json().unwrap();
    quilt.edit("one", |pen| pen.put("soil", CellPos::new(-2, 0), wall)).unwrap();
    assert_eq!(differing_lines(&before, &quilt.to_json().unwrap()), 1);
    quilt.edit("away", |pen| pen.erase("soil", CellPos::new(1, 0))).unwrap();
    assert_eq!(differing_lines(&before, &quilt.to_json().unwrap()), 1, "the rows keep their span");
}

#[test]
fn a_layer_with_very_many_different_cells_finds_a_character_for_each() {
    let mut quilt = doc_quilt();
    let names: Vec<String> = (0..3000).map(|n| format!("tile {n}")).collect();
    quilt
        .edit("many", |pen| {
            pen.put_tiles(TileSet::flat("many", names.clone())?)?;
            for (n, name) in names.iter().enumerate() {
                let tile = pen.tile(&format!("many/{name}"))?;
                pen.put("soil", CellPos::new(n as i32 % 60, 5 + n as i32 / 60), tile)?;
            }
            Ok(())
        })
        .unwrap();
    assert!(read(&quilt.to_json().unwrap()).quilt.same_as(&quilt));
}

#[test]
fn byte_order_marks_and_other_line_ends_are_accepted() {
    let windows = format!("\u{feff}{}", YARD.replace('\n', "\r\n"));
    assert!(read(&windows).quilt.same_as(&read(YARD).quilt));
}

#[test]
fn what_cannot_be_written_is_said() {
    use sturdy_quilt::tile::SheetCut;
    use sturdy_quilt::units::PixelSize;
    use sturdy_quilt::{Color, Picture};
    let mut quilt = doc_quilt();
    let error = quilt.layer_text("sky").unwrap_err();
    assert_eq!(error.to_string(), "no layer `sky` in this map");
    let picture = Picture::filled(PixelSize::new(4, 4), Color::CLEAR);
    let set = TileSet::builder("made").sheet(&picture, SheetCut::new(PixelSize::new(4, 4)));
    quilt.edit("add", |pen| pen.put_tiles(set.build()?)).unwrap();
    let error = quilt.to_json().unwrap_err();
    assert_eq!(
        error.to_string(),
        "tile set `made` has a picture without a file; name one with `picture_file`, or save the set to a file of its own"
    );
}

#[test]
fn values_of_planes_are_their_bits() {
    assert_eq!(<f32 as PlaneValue>::from_bits(1.5_f32.to_bits()), Some(1.5));
    assert_eq!(<i32 as PlaneValue>::from_bits(PlaneValue::to_bits(-3_i32)), Some(-3));
    assert_eq!(<Cell as PlaneValue>::from_bits(1 << 24), None);
}

#[cfg(feature = "png")]
mod with_pictures {
    use proptest::prelude::*;
    use sturdy_quilt::units::PixelSize;
    use sturdy_quilt::{Color, Picture, Quilt};

    use super::*;

    proptest! {
        #![proptest_config(ProptestConfig::with_cases(64))]

        #[test]
        fn every_map_reads_back(quilt in scene::any_quilt(40)) {
            let text = quilt.to_json().unwrap();
            let again = read(&text).quilt;
            prop_assert!(again.same_as(&quilt));
            prop_assert_eq!(again.to_json().unwrap(), text, "and is written as before");
        }

        #[test]
        fn a_changed_cell_changes_only_its_line(
            quilt in scene::any_quilt(40),
            layer in 0..4_usize,
            pick in any::<prop::sample::Index>(),
        ) {
            let text = quilt.to_json().unwrap();
            let mut again = read(&text).quilt;
            let Ok(layer) = again.layer(scene::LAYERS[layer]) else { return Ok(()) };
            let occupied: Vec<(CellPos, Cell)> = layer.cells().occupied().collect();
            prop_assume!(!occupied.is_empty());
            let (at, _) = *pick.get(&occupied);
            let (name, (_, other)) = (layer.name().to_owned(), occupied[0]);
            let changed = again.get(&name, at).unwrap().here() != Some(other);
            again.edit("one", |pen| pen.put(&name, at, other)).unwrap();
            prop_assert_eq!(differing_lines(&text, &again.to_json().unwrap()), usize::from(changed));
        }
    }

    /// A set that was cut anew with one column more, and lost a tile: names keep their meaning.
    #[test]
    fn old_maps_show_the_same_when_a_sheet_is_cut_anew() {
        let sheet = |columns: u32| {
            let mut picture = Picture::filled(PixelSize::new(columns * 4, 8), Color::rgb(1, 1, 1));
            for at in 0..columns * 2 {
                let (column, row) = (at % columns, at / columns);
                picture.set(column * 4, row * 4, Color::rgb(at as u8, 7, 7));
            }
            picture.to_png().unwrap()
        };
        let set = |tiles: &str| {
            format!(
                r#"{{"format": "sturdy-quilt/tiles", "version": 1, "name": "s",
                "sheet": {{"picture": "s.png", "tile": [4, 4]}}, "tiles": [{tiles}]}}"#
            )
        };
        let map = r#"{"format": "sturdy-quilt/map", "version": 1, "lattice": {"cell": [4, 4]},
        "tiles": ["s.tiles.json"],
        "layers": [{"name": "l", "cells": {"legend": {"a": "s/a", "b": "s/b", "p": "s/1:1"},
                    "rows": ["abp"]}}]}"#;
        let world = |set: &str, columns| {
            let mut files = files(map);
            files.add("s.tiles.json", set);
            files.add("s.png", sheet(columns));
            Loader::new().load(&files, "map.quilt.json").unwrap()
        };
        let old = world(&set(r#"{"at": [1, 0], "name": "a"}, {"at": [0, 1], "name": "b"}"#), 2);
        assert_eq!(old.warnings, []);
        let new = world(&set(r#"{"at": [2, 0], "name": "a"}"#), 3);
        let warnings: Vec<String> = new.warnings.iter().map(ToString::to_string).collect();
        assert_eq!(
            warnings,
            [
                "map.quilt.json:3:72: warning: tile set `s` has no tile `b`; the tile sets are: s. A placeholder is shown in its place"
            ]
        );
        let content = |quilt: &Quilt| {
            let text = quilt.layer_text("l").unwrap();
            (text.rows, text.legend)
        };
        assert_eq!(content(&old.quilt), content(&new.quilt), "a save keeps every name");
        assert!(new.quilt.tiles().is_missing(new.quilt.tile("s/b").unwrap()));
        let a = new.quilt.tile("s/a").unwrap();
        assert_eq!(new.quilt.tiles().art(a).1.source.x, 8, "cut from its new place");
        let again = world(&set(r#"{"at": [2, 0], "name": "a"}, {"at": [0, 0], "name": "b"}"#), 3);
        assert_eq!(again.warnings, [], "and what has come back is found");
    }
}

#[cfg(feature = "fs")]
mod on_disk {
    use std::fs;

    use sturdy_quilt::document::{FileSource, SourceError};
    use sturdy_quilt::{FolderSource, LayerSettings, Quilt};

    use super::*;

    #[test]
    fn a_map_is_saved_whole_and_opened_again() {
        let folder = tempfile::tempdir().unwrap();
        let path = folder.path().join("yard.quilt.json");
        let mut quilt = read(YARD).quilt;
        quilt.save(&path).unwrap();
        let again = Quilt::open(&path).unwrap();
        assert!(again.same_as(&quilt));
        quilt.edit("more", |pen| pen.add_layer("more", LayerSettings::default())).unwrap();
        quilt.save(&path).unwrap();
        assert!(Quilt::open(&path).unwrap().same_as(&quilt));
        let names: Vec<_> =
            fs::read_dir(folder.path()).unwrap().map(|e| e.unwrap().file_name()).collect();
        assert_eq!(names, ["yard.quilt.json"], "nothing is left beside it");
        quilt.save(folder.path().join("new/folder/yard.quilt.json")).unwrap();
        let error = quilt.save(path.join("no-folder.quilt.json")).unwrap_err();
        assert!(error.to_string().ends_with("no-folder.quilt.json` cannot be written"));
        #[cfg(unix)]
        {
            use std::os::unix::fs::PermissionsExt;
            fs::set_permissions(&path, fs::Permissions::from_mode(0o640)).unwrap();
            quilt.save(&path).unwrap();
            assert_eq!(fs::metadata(&path).unwrap().permissions().mode() & 0o777, 0o640);
        }
    }

    #[cfg(unix)]
    #[test]
    fn no_path_leaves_the_folder_of_the_map() {
        let folder = tempfile::tempdir().unwrap();
        let inner = folder.path().join("maps");
        std::fs::create_dir(&inner).unwrap();
        std::fs::write(folder.path().join("secret"), "x").unwrap();
        std::os::unix::fs::symlink(folder.path().join("secret"), inner.join("link")).unwrap();
        std::fs::write(inner.join("large"), "0123456789").unwrap();
        let source = FolderSource::new(&inner);
        assert!(matches!(source.read("link", 99), Err(SourceError::Outside)));
        assert!(matches!(source.read("../secret", 99), Err(SourceError::Outside)));
        assert!(matches!(source.read("none", 99), Err(SourceError::NotFound)));
        assert!(matches!(
            source.read("large", 9),
            Err(SourceError::TooLarge { bytes: 10, limit: 9 })
        ));
        assert_eq!(source.read("large", 10).unwrap(), b"0123456789");
        assert_eq!(source.names(""), ["large", "link"]);
    }
}
