//! Tile sets in all the ways in which documents state them.

use sturdy_quilt::tile::{Animation, AnimationStart, Coverage, Fit, TileSource};
use sturdy_quilt::units::{PixelRect, PixelSize};
use sturdy_quilt::{
    CellPos, Color, Loaded, Loader, MemorySource, Picture, Quilt, TileSet, WorldVec,
};

/// A picture in which every pixel has a colour of its own.
fn picture(width: u32, height: u32, mark: u8) -> Vec<u8> {
    let mut picture = Picture::filled(PixelSize::new(width, height), Color::CLEAR);
    for y in 0..height {
        for x in 0..width {
            picture.set(x, y, Color::rgb(x as u8, y as u8, mark));
        }
    }
    picture.to_png().unwrap()
}

/// A map with one set, whose sheet `art/sheet.png` has 48 × 32 pixels.
fn files(set: &str) -> MemorySource {
    let mut files = MemorySource::default();
    files.add(
        "map.quilt.json",
        r#"{ "format": "sturdy-quilt/map", "version": 1, "lattice": { "cell": [16, 16] },
            "ground": ["open", "stone"], "tiles": ["art/estate.tiles.json"],
            "layers": [{ "name": "soil" }] }"#,
    );
    files.add(
        "art/estate.tiles.json",
        format!(r#"{{ "format": "sturdy-quilt/tiles", "version": 1, {set} }}"#),
    );
    files.add("art/sheet.png", picture(48, 32, 1));
    files.add("art/stalls/red.png", picture(20, 30, 2));
    files.add("art/stalls/blue.png", picture(9, 50, 3));
    files.add("art/stalls/list.txt", "no picture");
    files
}

fn read(files: &MemorySource) -> Loaded {
    Loader::new().load(files, "map.quilt.json").unwrap()
}

fn quilt(set: &str) -> Quilt {
    let loaded = read(&files(set));
    let warnings: Vec<_> =
        loaded.warnings.iter().filter(|w| !w.message.contains("is empty")).collect();
    assert!(warnings.is_empty(), "{warnings:?}");
    let set = loaded.quilt.tiles().set("estate").unwrap();
    // What the set writes of itself reads back as the same tiles.
    let mut again = files(r#""tiles": ["x"]"#);
    again.add("art/estate.tiles.json", set.to_json().unwrap());
    let again = read(&again).quilt;
    let again = again.tiles().set("estate").unwrap();
    assert_eq!(again.to_json().unwrap(), set.to_json().unwrap());
    let keys =
        |set: &TileSet| set.tiles().iter().map(|t| (t.key().clone(), t.art())).collect::<Vec<_>>();
    assert_eq!(keys(again), keys(set));
    loaded.quilt
}

fn names(set: &TileSet) -> Vec<String> {
    set.tiles().iter().map(|tile| tile.key().to_string()).collect()
}

/// The colour of the first pixel of a tile.
fn first_pixel(set: &TileSet, tile: &str) -> [u8; 4] {
    let source = set.find(tile).unwrap().art().source;
    set.page().pixels()[(source.y * set.page().size().width + source.x) as usize]
}

const SHEET: &str = r#""sheet": { "picture": "sheet.png", "tile": [16, 16] }"#;

/// A tile of a sheet is found by its place too where it has a name, wherever tiles are named.
#[test]
fn a_named_tile_is_known_by_its_place_too() {
    let map = r#"{ "format": "sturdy-quilt/map", "version": 1, "lattice": { "cell": [16, 16] },
        "tiles": ["yard.tiles.json"], "ground": ["wet"],
        "layers": [{ "name": "soil", "cells": { "legend": { "w": "yard/1:0", "p": "yard/0:1+90" },
                     "rows": ["wp"] } },
                   { "name": "more", "cells": { "table": ["yard/1:0,yard/wave"] } }] }"#;
    let tiles = r#"{ "format": "sturdy-quilt/tiles", "version": 1,
        "sheet": { "picture": "yard.png", "tile": [16, 16] }, "ground": { "wet": ["1:0"] },
        "tiles": [{ "at": [1, 0], "name": "wave", "variants": { "0:0": 2, "wave": 1 },
                    "animation": { "frames": ["1:0", "0:1", "plain"], "ms": 100 } },
                  { "at": [0, 1], "name": "plain" }] }"#;
    let mut files = sturdy_quilt::MemorySource::default();
    files.add("map.quilt.json", map);
    files.add("yard.tiles.json", tiles);
    files.add("yard.png", Picture::filled(PixelSize::new(32, 32), Color::WHITE).to_png().unwrap());
    let loaded = sturdy_quilt::Loader::new().load(&files, "map.quilt.json").unwrap();
    assert_eq!(loaded.warnings, []);
    let quilt = loaded.quilt;
    let wave = quilt.tile("yard/wave").unwrap();
    assert_eq!(quilt.tile("yard/1:0"), Ok(wave));
    assert_eq!(quilt.tiles().missing().count(), 0);
    let plain = quilt.tile("yard/0:1").unwrap();
    assert_eq!(quilt.tiles().frame_at(wave, 150, sturdy_quilt::CellPos::ORIGIN), plain);
    assert_eq!(quilt.tiles().tile(wave).unwrap().ground(), Some("wet"));
    let text = quilt.layer_text("soil").unwrap();
    assert_eq!(
        (&text.legend["w"], &text.legend["p"]),
        (&"yard/wave".into(), &"yard/plain+90".into())
    );
}

#[test]
fn names_by_pattern_by_table_and_both() {
    let of = |more: &str| quilt(&format!("{SHEET}{more}"));
    let quilt = of("");
    assert_eq!(names(quilt.tiles().set("estate").unwrap())[4], "1:1");
    let quilt = of(r#", "names": "{sheet}/{column}-{row}""#);
    assert_eq!(names(quilt.tiles().set("estate").unwrap())[4], "1-1");
    assert_eq!(quilt.tile("estate/2-0").unwrap().index(), 2);
    let quilt = of(r#", "names": "{sheet} {number}",
        "tiles": [{ "at": [0, 1], "name": "grass" }, { "name": "estate 5", "ground": "stone" }]"#);
    let set = quilt.tiles().set("estate").unwrap();
    assert_eq!(names(set), ["estate 0", "estate 1", "estate 2", "grass", "estate 4", "estate 5"]);
    assert_eq!(set.find("estate 5").unwrap().ground(), Some("stone"));
    assert!(set.to_json().unwrap().contains(r#"{ "at": [2, 1], "ground": "stone" }"#));
}

#[test]
fn a_part_of_a_picture_can_be_the_sheet() {
    let quilt = quilt(
        r#""sheet": { "picture": "sheet.png", "tile": [8, 16], "margin": 1, "gap": 2,
            "area": { "at": [16, 0], "size": [30, 18] } }"#,
    );
    let set = quilt.tiles().set("estate").unwrap();
    assert_eq!(names(set), ["0:0", "1:0", "2:0"]);
    assert_eq!(set.find("2:0").unwrap().art().source, PixelRect::new(37, 1, PixelSize::new(8, 16)));
    assert_eq!(first_pixel(set, "2:0"), [37, 1, 1, 255]);
}

#[test]
fn named_rectangles_of_a_picture() {
    let quilt = quilt(
        r##""sheet": { "picture": "sheet.png" }, "anchor": [0.5, 1], "tiles": [
            { "name": "tall", "pixels": { "at": [3, 2], "size": [10, 30] }, "anchor": [0, 1] },
            { "name": "wide", "pixels": { "at": [20, 5], "size": [28, 4] }, "offset": [0, -2.5] },
            { "name": "plain", "color": "#102030" }]"##,
    );
    let set = quilt.tiles().set("estate").unwrap();
    assert_eq!((set.sheet(), set.sheet_columns()), (None, None));
    assert_eq!(first_pixel(set, "tall"), [3, 2, 1, 255]);
    assert_eq!(first_pixel(set, "wide"), [20, 5, 1, 255]);
    assert_eq!(first_pixel(set, "plain"), [0x10, 0x20, 0x30, 255]);
    let fit = |tile: &str| match set.find(tile).unwrap().art().fit {
        Fit::Placed(placement) => Some((placement.anchor, placement.offset)),
        Fit::Stretched => None,
    };
    assert_eq!(fit("tall"), Some((Some((0.0, 1.0)), WorldVec::ZERO)));
    assert_eq!(fit("wide"), Some((Some((0.5, 1.0)), WorldVec::new(0.0, -2.5))));
    assert_eq!(fit("plain"), None);
}

#[test]
fn single_pictures_from_a_folder_or_a_list() {
    let folder = quilt(
        r##""pictures": "stalls", "anchor": [0.5, 1],
            "tiles": [{ "name": "red", "ground": "stone" }, { "name": "mat", "color": "#ffffff" }]"##,
    );
    let set = folder.tiles().set("estate").unwrap();
    assert_eq!(names(set), ["red", "mat", "blue"]);
    assert_eq!(set.find("red").unwrap().ground(), Some("stone"));
    assert_eq!(set.find("red").unwrap().art().source.size, PixelSize::new(20, 30));
    assert_eq!(
        (first_pixel(set, "red"), first_pixel(set, "blue")),
        ([0, 0, 2, 255], [0, 0, 3, 255])
    );
    assert_eq!(set.find("blue").unwrap().art().coverage, Coverage::Opaque);
    let listed = quilt(
        r#""pictures": ["stalls/blue.png", "stalls/red.png"], "anchor": [0.5, 1],
            "sheet": { "picture": "sheet.png", "tile": [16, 16] },
            "tiles": [{ "name": "again", "picture": "stalls/red.png" }, { "at": [2, 1], "name": "end" }]"#,
    );
    let set = listed.tiles().set("estate").unwrap();
    assert_eq!(names(set)[5..], ["end", "again", "blue", "red"]);
    assert_eq!(first_pixel(set, "end"), [32, 16, 1, 255]);
    assert_eq!(set.find("again").unwrap().art(), set.find("red").unwrap().art());
    // Every pixel of each picture is where it was.
    for (tile, mark) in [("again", 2), ("blue", 3)] {
        let PixelRect { x, y, size } = set.find(tile).unwrap().art().source;
        for (down, across) in
            (0..size.height).flat_map(|down| (0..size.width).map(move |a| (down, a)))
        {
            let at = (y + down) * set.page().size().width + x + across;
            assert_eq!(set.page().pixels()[at as usize], [across as u8, down as u8, mark, 255]);
        }
    }
}

#[test]
fn art_larger_than_the_cell_may_have_a_scale() {
    let set =
        |more: &str| format!(r#""sheet": {{ "picture": "sheet.png", "tile": [24, 32] }}{more}"#);
    let large = read(&files(&set("")));
    assert_eq!(
        large.warnings[0].to_string(),
        "map.quilt.json:2:52: warning: what is not clear of tile `estate/0:0` measures 24 × 32 px (and 1 more of the set), but a cell 16 × 16 units; state an `anchor` in the set if it is meant to stand out of its cell, or `density` if it is drawn larger"
    );
    let quilt = quilt(&set(r#", "density": 2"#));
    let Fit::Placed(placement) =
        quilt.tiles().tile(quilt.tile("estate/1:0").unwrap()).unwrap().art().fit
    else {
        panic!()
    };
    assert_eq!(placement.size(PixelSize::new(24, 32)), (12.0, 16.0));
}

#[test]
fn animations_and_variants() {
    let quilt = quilt(&format!(
        r#"{SHEET}, "names": "t{{number}}", "tiles": [
            {{ "at": [0, 0], "name": "water",
               "animation": {{ "frames": ["water", "t1", "2:1"], "ms": [100, 50, 250], "start": [-10, 25] }} }},
            {{ "at": [0, 1], "name": "grass", "variants": {{ "grass": 6, "t4": 3, "t5": 1 }} }},
            {{ "at": [2, 1], "name": "t5" }}]"#
    ).replace("2:1", "t5"));
    let tile =
        |name: &str| quilt.tiles().tile(quilt.tile(&format!("estate/{name}")).unwrap()).unwrap();
    let water = tile("water").animation().unwrap();
    assert_eq!(water.start(), AnimationStart::Shifted { x_ms: -10, y_ms: 25 });
    let shown = |time, x, y| water.frame_at(time, CellPos::new(x, y)).unwrap();
    assert_eq!(
        [shown(0, 0, 0), shown(99, 0, 0), shown(100, 0, 0), shown(150, 0, 0)],
        ["water", "water", "t1", "t5"]
    );
    assert_eq!([shown(399, 0, 0), shown(400, 0, 0)], ["t5", "water"]);
    assert_eq!([shown(90, 1, 0), shown(125, 0, 1), shown(124, 0, 1)], ["t1", "t1", "water"]);
    assert_eq!(
        shown(u64::MAX, CellPos::MIN, CellPos::MAX),
        shown(u64::MAX % 400, CellPos::MIN, CellPos::MAX)
    );
    let scattered =
        Animation::uniform(["a", "b", "c", "d"], 10).with_start(AnimationStart::Scattered);
    let firsts: Vec<&str> =
        (0..64).filter_map(|x| scattered.frame_at(0, CellPos::new(x, 3))).collect();
    for frame in ["a", "b", "c", "d"] {
        let count = firsts.iter().filter(|f| **f == frame).count();
        assert!((4..32).contains(&count), "{frame} comes {count} times of 64");
    }
    assert_eq!(Animation::uniform([""; 0], 10).frame_at(5, CellPos::ORIGIN), None);

    let grass = tile("grass");
    let chosen = |x, y| grass.variant_at(CellPos::new(x, y), 0).unwrap();
    let mut counts = [0; 3];
    for (x, y) in (-50..50).flat_map(|y| (-50..50).map(move |x| (x, y))) {
        counts[["grass", "t4", "t5"].iter().position(|name| *name == chosen(x, y)).unwrap()] += 1;
    }
    assert_eq!(counts.iter().sum::<i32>(), 10_000);
    let near = |count: i32, expected: i32| (count - expected).abs() < 200;
    assert!(near(counts[0], 6000) && near(counts[1], 3000) && near(counts[2], 1000), "{counts:?}");
    assert_eq!(tile("t4").variant_at(CellPos::ORIGIN, 0), None);
}

#[test]
fn ground_by_name_by_list_and_by_mask() {
    let mask = {
        let mut mask = Picture::filled(PixelSize::new(48, 32), Color::CLEAR);
        let (red, green) = (Color::rgb(255, 0, 0), Color::rgb(0, 255, 0));
        for (x, y) in (0..32).flat_map(|y| (0..48).map(move |x| (x, y))) {
            // The first row is stone, not quite to its lower edge; the last tile open, with a slip
            // of stone in it; the tile before it not painted.
            if y < 12 {
                mask.set(x, y, red);
            } else if x >= 32 && y >= 16 {
                mask.set(x, y, if x == 33 { red } else { green });
            }
        }
        mask
    };
    let mut all = files(&format!(
        r##"{SHEET}, "tiles": [{{ "at": [1, 0], "name": "path", "ground": "open" }}],
            "ground": {{ "open": ["2:0", "path"], "stone": ["0:1"] }},
            "ground_mask": {{ "picture": "mask.png", "legend": {{ "#ff0000": "stone", "#00ff00": "open" }} }}"##
    ));
    all.add("art/mask.png", mask.to_png().unwrap());
    let quilt = read(&all).quilt;
    let set = quilt.tiles().set("estate").unwrap();
    let classes: Vec<Option<&str>> = set.tiles().iter().map(|tile| tile.ground()).collect();
    let (stone, open) = (Some("stone"), Some("open"));
    assert_eq!(classes, [stone, open, open, stone, None, open]);
    // Rectangles of a picture that is not cut are painted over just so.
    all.add(
        "art/estate.tiles.json",
        r##"{ "format": "sturdy-quilt/tiles", "version": 1, "sheet": { "picture": "sheet.png" },
            "tiles": [{ "name": "a", "pixels": { "at": [3, 0], "size": [10, 12] } },
                      { "name": "b", "pixels": { "at": [3, 13], "size": [10, 12] } }],
            "ground_mask": { "picture": "mask.png", "legend": { "#ff0000": "stone", "#00ff00": "open" } } }"##,
    );
    let uncut = read(&all).quilt;
    let tiles = uncut.tiles().set("estate").unwrap().tiles();
    assert_eq!([tiles[0].ground(), tiles[1].ground()], [stone, None]);
    // Baked, it needs neither list nor mask.
    let baked = set.to_json().unwrap();
    assert!(!baked.contains("mask"), "{baked}");
    all.add("art/estate.tiles.json", baked);
    all.add("art/mask.png", "gone");
    let again = read(&all).quilt;
    let again: Vec<_> = again.tiles().set("estate").unwrap().tiles().to_vec();
    assert_eq!(again.iter().map(|tile| tile.ground()).collect::<Vec<_>>(), classes);
}

#[test]
fn a_set_made_in_code_may_have_pictures_of_all_kinds() {
    let sheet = Picture::from_png(&picture(48, 32, 1), 9999).unwrap();
    let single = Picture::from_png(&picture(20, 30, 2), 9999).unwrap();
    let set = TileSet::builder("estate")
        .uncut_sheet(&sheet)
        .picture("stall.png", &single)
        .tile(sturdy_quilt::TileSpec::picture("stall.png").with_name("stall"))
        .tile(
            sturdy_quilt::TileSpec::pixels(PixelRect::new(5, 6, PixelSize::new(7, 8)))
                .with_name("part"),
        )
        .build()
        .unwrap();
    assert_eq!(first_pixel(&set, "stall"), [0, 0, 2, 255]);
    assert_eq!(first_pixel(&set, "part"), [5, 6, 1, 255]);
    assert_eq!(set.find("stall").unwrap().spec().source, TileSource::Picture("stall.png".into()));
}
