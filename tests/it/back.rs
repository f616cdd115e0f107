//! Changes put back into the files that a map came from: nothing else of those changes.

use proptest::prelude::*;
use serde_json::json;
use sturdy_quilt::document::{PutBack, SaveError};
use sturdy_quilt::units::PixelSize;
use sturdy_quilt::{Cell, CellPos, Color, Loaded, Loader, Marker, MemorySource, Picture, Quilt};

/// A document as a person types it: layers in all forms, each with the same nine cells.
const MAP: &str = r##"{ "format":"sturdy-quilt/map",
  "version": 1,   "lattice": {"cell":[16,16]},
    "tiles": [ { "name": "yard", "sheet": { "picture": "yard.png", "tile": [1, 1] },
                 "tiles": [ { "at": [0,0], "name": "sand" }, { "at": [1,0], "name": "wall" },
                            { "at": [2,0], "name": "reed" } ] } ],
  "ground": ["stone"], "movers": { "cart": {"stone":"block"} },

  "layers": [
    { "name": "rows", "priority": 0, "visible": true, "cells": { "legend": {".": "yard/sand",
        "#":"yard/wall"}, "rows": [ "..#",
                                    "#..", "..." ] } },
    { "name":"text","cells":{"legend":"signs.json","rows":"text.txt"}},
    { "name": "table", "cells": { "table": "table.csv", "set": "yard" } },
    { "name": "names", "cells": { "table": [ "yard/sand, yard/sand ,yard/wall",
         "yard/wall,yard/sand,yard/sand", "yard/sand,yard/sand,yard/sand" ] } },
    { "name": "picture", "cells": { "picture": "cells.png", "tolerance": 3,
         "legend": { "#c0a060": "yard/sand", "#404040": "yard/wall", "#ffffff": null } } },
    { "name": "numbers", "cells": { "numbers": [ 10,11,10,  10,10,10,  11,10,10 ], "size": [3, 3],
        "order": { "from": "top-left", "by": "columns" }, "set": "yard", "base": 10 } },
    { "name": "list", "at": [0, 0], "cells": { "numbers": "list.json", "size": [3, 3], "set": "yard" } },
    { "name": "packed", "cells": { "packed": { "plain": { "file": "cells.bin" } },
         "size": [3, 3], "tiles": ["yard/sand", "yard/wall"] } },
    { "name": "sections", "cells": { "legend": { ".": "yard/sand", "#": "yard/wall" }, "sections": [
        { "rows": ["..#"] }, { "at": [0, 1], "rows": ["#..", "..."] } ] } }
  ],
  "markers": [ {"name":"gate","cell":[1,1]},
    { "cell": [2, 2], "name": "well", "data": {"deep":3} } ]
}
"##;

const LAYERS: [&str; 9] =
    ["rows", "text", "table", "names", "picture", "numbers", "list", "packed", "sections"];

fn png(size: (u32, u32), color: impl Fn(u32, u32) -> Color) -> Vec<u8> {
    let mut picture = Picture::filled(PixelSize::new(size.0, size.1), Color::CLEAR);
    for (x, y) in (0..size.1).flat_map(|y| (0..size.0).map(move |x| (x, y))) {
        picture.set(x, y, color(x, y));
    }
    picture.to_png().unwrap()
}

fn files() -> MemorySource {
    let mut files = MemorySource::default();
    files.add("map.quilt.json", MAP);
    files.add("signs.json", "{\".\":\"yard/sand\",\r\n \"#\": \"yard/wall\" }\r\n");
    files.add("text.txt", "..#\r\n#..\r\n...");
    files.add("table.csv", "\u{feff}0, 0,1\r\n1,\"0\",0\r\n0,0,0\r\n");
    files.add("list.json", "[0, 0, 1,\n 1, 0, 0,\n 0, 0, 0]\n");
    let sand = Color::rgb(0xc0, 0xa0, 0x60);
    let wall = |x, y| (x, y) == (2, 0) || (x, y) == (0, 1);
    // A little off, which the tolerance allows.
    let off = Color::rgb(0xc1, 0xa0, 0x5f);
    files.add(
        "cells.png",
        png((3, 3), |x, y| match (x, y) {
            _ if wall(x, y) => Color::rgb(0x40, 0x40, 0x40),
            (1, 1) => off,
            _ => sand,
        }),
    );
    files.add("yard.png", png((3, 1), |x, _| Color::rgb(60 + 60 * x as u8, 90, 60)));
    let cells = [1, 1, 2, 2, 1, 1, 1, 1, 1];
    files.add(
        "cells.bin",
        cells.iter().flat_map(|cell| u32::to_le_bytes(*cell)).collect::<Vec<u8>>(),
    );
    files
}

fn load(files: &MemorySource) -> Loaded {
    Loader::new().load(files, "map.quilt.json").unwrap()
}

fn back(before: &Quilt, after: &Quilt, files: &MemorySource) -> Result<PutBack, SaveError> {
    after.document().back_into(before, files, "map.quilt.json", &[])
}

fn text_of<'a>(back: &'a PutBack, name: &str) -> &'a str {
    let file = back.files.iter().find(|(held, _)| held == name);
    std::str::from_utf8(&file.unwrap_or_else(|| panic!("{name} has not changed")).1).unwrap()
}

/// The lines of two texts that differ.
fn differing<'a>(a: &'a str, b: &'a str) -> Vec<(&'a str, &'a str)> {
    assert_eq!(a.lines().count(), b.lines().count(), "{b}");
    a.lines().zip(b.lines()).filter(|(a, b)| a != b).collect()
}

#[test]
fn all_layers_of_the_sample_are_alike() {
    let quilt = load(&files()).quilt;
    let first = quilt.layer("rows").unwrap();
    for name in LAYERS {
        assert!(quilt.layer(name).unwrap().cells() == first.cells(), "{name}");
    }
    let same = back(&quilt, &quilt, &files()).unwrap();
    assert!(same.files.is_empty() && same.inlined.is_empty());
}

#[test]
fn one_changed_cell_is_one_changed_line() {
    let (files, at) = (files(), CellPos::new(1, 1));
    let before = load(&files).quilt;
    let changed = |layer: &str| {
        let mut quilt = before.clone();
        quilt.edit("a wall", |pen| pen.put(layer, at, "yard/wall")).unwrap();
        let back = back(&before, &quilt, &files).unwrap();
        assert!(back.inlined.is_empty(), "{layer}: {:?}", back.inlined);
        assert_eq!(back.files.len(), 1, "{layer}");
        back
    };
    let document = |layer: &str| {
        let back = changed(layer);
        let text = text_of(&back, "map.quilt.json").to_owned();
        let [(from, to)] = differing(MAP, &text)[..] else { panic!("{layer}: {text}") };
        (from.trim().to_owned(), to.trim().to_owned())
    };
    assert_eq!(document("rows").1, "\"#..\", \"...\" ] } },".replacen("#..", "##.", 1));
    assert_eq!(
        document("names").1,
        "\"yard/wall,yard/wall,yard/sand\", \"yard/sand,yard/sand,yard/sand\" ] } },"
    );
    assert!(document("numbers").1.contains("10,11,10,  10,11,10,  11,10,10"));
    assert!(document("sections").1.contains("\"rows\": [\"##.\", \"...\"]"));
    assert_eq!(text_of(&changed("text"), "text.txt"), "..#\r\n##.\r\n...");
    assert_eq!(text_of(&changed("table"), "table.csv"), "\u{feff}0, 0,1\r\n1,1,0\r\n0,0,0\r\n");
    assert_eq!(text_of(&changed("list"), "list.json"), "[0, 0, 1,\n 1, 1, 0,\n 0, 0, 0]\n");
    let picture = changed("picture").files.remove(0).1;
    let (old, new) = (&files_picture(&files), Picture::from_png(&picture, 100).unwrap());
    for (x, y) in (0..3).flat_map(|y| (0..3).map(move |x| (x, y))) {
        let expected = if (x, y) == (1, 1) { Some(Color::rgb(64, 64, 64)) } else { old.get(x, y) };
        assert_eq!(new.get(x, y), expected, "{x},{y}");
    }
}

fn files_picture(files: &MemorySource) -> Picture {
    use sturdy_quilt::document::FileSource;
    Picture::from_png(&files.read("cells.png", 10_000).unwrap(), 100).unwrap()
}

#[test]
fn new_tiles_come_to_legends_and_grids_grow() {
    let files = files();
    let before = load(&files).quilt;
    let put = |layer: &str, at: (i32, i32), tile: &str| {
        let mut quilt = before.clone();
        quilt.edit("a tile", |pen| pen.put(layer, CellPos::new(at.0, at.1), tile)).unwrap();
        back(&before, &quilt, &files).unwrap()
    };
    let rows = put("rows", (0, 0), "yard/reed+90");
    let text = text_of(&rows, "map.quilt.json");
    assert!(
        text.contains(
            "\"#\":\"yard/wall\",\n        \"r\": \"yard/reed+90\"}, \"rows\": [ \"r.#\","
        ),
        "{text}"
    );
    let signs = put("text", (3, 2), "yard/reed");
    assert_eq!(text_of(&signs, "text.txt"), "..# \r\n#.. \r\n...r");
    assert!(
        text_of(&signs, "signs.json").contains("\"#\": \"yard/wall\",\r\n \"r\": \"yard/reed\" }")
    );
    let left = put("rows", (-1, -1), "yard/wall");
    let text = text_of(&left, "map.quilt.json");
    assert!(text.contains(r##""rows": [ "#   ", " ..#","##), "{text}");
    assert!(text.contains(r##""visible": true, "at": [-1, -1], "cells""##), "{text}");
    let below = put("table", (0, 4), "yard/reed+mirror");
    assert_eq!(
        text_of(&below, "table.csv"),
        "\u{feff}0, 0,1\r\n1,\"0\",0\r\n0,0,0\r\n,,\r\nyard/reed+mirror,,\r\n"
    );
    // Of the picture, the new colour comes to the legend in the document.
    let pixel = put("picture", (3, 3), "yard/reed");
    assert_eq!(pixel.files.len(), 2);
    assert!(
        text_of(&pixel, "map.quilt.json")
            .contains(r##""#ffffff": null, "#b45a3c": "yard/reed" }"##)
    );
    let picture = &pixel.files.iter().find(|(name, _)| name == "cells.png").unwrap().1;
    let picture = Picture::from_png(picture, 100).unwrap();
    assert_eq!(picture.get(3, 0), Some(Color::WHITE), "what is empty has the colour of the legend");
}

#[test]
fn what_a_form_cannot_hold_is_taken_in_and_told() {
    let files = files();
    let before = load(&files).quilt;
    let put = |layer: &str, at: (i32, i32), tile: &str| {
        let mut quilt = before.clone();
        quilt.edit("a tile", |pen| pen.put(layer, CellPos::new(at.0, at.1), tile)).unwrap();
        let back = back(&before, &quilt, &files).unwrap();
        let [taken] = &back.inlined[..] else { panic!("{layer}") };
        assert_eq!(taken.layer, layer);
        assert_eq!(back.files.len(), 1, "its file is left alone");
        taken.why.clone()
    };
    assert_eq!(
        put("list", (0, 0), "yard/reed+90"),
        "`yard/reed+90` has no number among those of its set"
    );
    assert_eq!(
        put("numbers", (3, 0), "yard/wall"),
        "its list of numbers has no room for more cells"
    );
    assert_eq!(put("sections", (0, 3), "yard/wall"), "cell 0,3 lies outside of its sections");
}

/// A legend or a table that two layers read would change both.
#[test]
fn files_that_others_read_too_stay_as_they_are() {
    let mut files = files();
    let map = MAP.replacen("\"text.txt\"", "\"text.txt\"}},{\"name\":\"twin\",\"cells\":{\"legend\":{\".\":\"yard/sand\",\"#\":\"yard/wall\"},\"rows\":\"text.txt\"", 1);
    files.add("map.quilt.json", map);
    let before = load(&files).quilt;
    let put = |layer: &str, shared: &[String]| {
        let mut quilt = before.clone();
        quilt.edit("a wall", |pen| pen.put(layer, CellPos::new(1, 1), "yard/wall")).unwrap();
        quilt.document().back_into(&before, &files, "map.quilt.json", shared).unwrap()
    };
    for layer in ["text", "twin"] {
        let changed = put(layer, &[]);
        assert_eq!(changed.files.len(), 1);
        let why = "others read `text.txt` as well, which would change with it";
        assert_eq!((&*changed.inlined[0].layer, &*changed.inlined[0].why), (layer, why));
    }
    assert!(put("table", &[]).inlined.is_empty());
    assert_eq!(put("table", &["table.csv".to_owned()]).inlined[0].layer, "table");
}

#[test]
fn markers_and_settings_change_where_they_are_stated() {
    let files = files();
    let before = load(&files).quilt;
    let mut quilt = before.clone();
    quilt
        .edit("markers", |pen| {
            pen.put_marker(Marker::cell("gate", CellPos::new(2, 1)))?;
            pen.put_marker(Marker::cell("new", CellPos::new(0, 0)).with_data(json!({ "a": [1] })))?;
            pen.set_layer("rows", |layer| layer.with_visible(false).with_priority(7))
        })
        .unwrap();
    let changed = back(&before, &quilt, &files).unwrap();
    let text = text_of(&changed, "map.quilt.json");
    assert!(text.contains(r#"{"name":"gate","cell":[2,1]}"#), "{text}");
    assert!(text.contains("\"priority\": 7, \"visible\": false, \"cells\""), "{text}");
    assert!(text.contains("\"data\": {\"deep\":3} },\n    { \"name\": \"new\", \"cell\": [0, 0], \"data\": { \"a\": [1] } } ]"), "{text}");
    let mut gone = before.clone();
    gone.edit("no markers", |pen| {
        pen.remove_marker("gate")?;
        pen.remove_marker("well")
    })
    .unwrap();
    let changed = back(&before, &gone, &files).unwrap();
    assert!(!text_of(&changed, "map.quilt.json").contains("well"));
}

#[test]
fn files_that_have_changed_since_are_told() {
    let files = files();
    let before = load(&files).quilt;
    let mut quilt = before.clone();
    quilt.edit("a wall", |pen| pen.put("table", CellPos::new(0, 0), "yard/wall")).unwrap();
    let mut other = self::files();
    other.add("table.csv", "1,1,1\n1,1,1\n1,1,1\n");
    let error = back(&before, &quilt, &other).unwrap_err();
    assert!(matches!(error, SaveError::NotTheSame { .. }), "{error}");
    other.add("map.quilt.json", "no map");
    assert!(matches!(back(&before, &quilt, &other).unwrap_err(), SaveError::Source { .. }));
}

fn any_put() -> impl Strategy<Value = (usize, (i32, i32), usize)> {
    (0..LAYERS.len(), (-2..6_i32, -2..6_i32), 0..6_usize)
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(1000))]

    /// Whatever is put, the files give the map again (which is checked before they are given), and
    /// every file of a layer that was not touched is left alone.
    #[test]
    fn any_edit_goes_back(puts in prop::collection::vec(any_put(), 1..12)) {
        let mut files = files();
        let first = load(&files).quilt;
        let mut before = first;
        for puts in puts.chunks(4) {
            let mut quilt = before.clone();
            quilt.edit("puts", |pen| {
                for (layer, (x, y), tile) in puts {
                    let names = ["yard/sand", "yard/wall", "yard/reed", "yard/wall+90", "yard/gone", "empty"];
                    let cell = match names[*tile] {
                        "empty" => Cell::EMPTY,
                        "yard/gone" => pen.quilt().cell("yard/reed+mirror")?,
                        name => pen.quilt().cell(name)?,
                    };
                    pen.put(LAYERS[*layer], CellPos::new(*x, *y), cell)?;
                }
                Ok::<(), sturdy_quilt::EditError>(())
            }).unwrap();
            let changed = back(&before, &quilt, &files).unwrap();
            let touched: Vec<&str> = puts.iter().map(|put| LAYERS[put.0]).collect();
            for (file, _) in &changed.files {
                let owner = match &**file {
                    "text.txt" | "signs.json" => "text",
                    "table.csv" => "table",
                    "cells.png" => "picture",
                    "list.json" => "list",
                    "cells.bin" => "packed",
                    _ => continue,
                };
                prop_assert!(touched.contains(&owner), "{} of {:?}", file, touched);
            }
            for taken in &changed.inlined {
                prop_assert!(["numbers", "list", "sections"].contains(&&*taken.layer), "{:?}", taken);
            }
            for (file, bytes) in changed.files {
                files.add(file, bytes);
            }
            before = load(&files).quilt;
            prop_assert!(before.same_as(&quilt));
        }
    }
}

/// An object that is empty takes several entries.
#[test]
fn an_empty_legend_takes_several_characters() {
    let mut files = files();
    let empty = r##"{ "format": "sturdy-quilt/map", "version": 1, "lattice": { "cell": [16, 16] }, "data": {},
  "tiles": [{ "name": "yard", "tiles": ["sand", "wall"] }],
  "layers": [{ "name": "rows", "cells": { "legend": {}, "rows": [] } }] }"##;
    files.add("map.quilt.json", empty);
    let before = load(&files).quilt;
    let mut after = before.clone();
    after
        .edit("two tiles", |pen| {
            pen.set_data(json!({ "day": 1, "night": 2 }))?;
            pen.put("rows", CellPos::new(0, 0), "yard/sand")?;
            pen.put("rows", CellPos::new(1, 0), "yard/wall")
        })
        .unwrap();
    let back = back(&before, &after, &files).unwrap();
    let text = text_of(&back, "map.quilt.json");
    assert!(text.contains(r#""legend": { "s": "yard/sand", "w": "yard/wall" }"#), "{text}");
    assert!(text.contains(r#""data": { "day": 1, "night": 2 }"#), "{text}");
    files.add("map.quilt.json", text);
    assert!(load(&files).quilt.same_as(&after));
}
