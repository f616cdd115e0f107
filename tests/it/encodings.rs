//! The forms of cells: every map reads back from each of them, and what people type by hand means
//! what it says.

use sturdy_quilt::document::CellEncoding;
use sturdy_quilt::{CellPos, CellRect, Loaded, Loader, MemorySource, Quilt, doc_quilt};

use crate::document::{files, read};

/// A layer of a map in memory, whose set `yard` has the tiles sand (0), wall (1) and rail (2), and
/// `hut` has roof and door.
fn yard(cells: &str, more: &[(&str, &[u8])]) -> Result<Loaded, String> {
    let all = yard_files(cells, more);
    Loader::new().load(&all, "map.quilt.json").map_err(|error| error.to_string())
}

fn yard_files(cells: &str, more: &[(&str, &[u8])]) -> MemorySource {
    let mut all = files(&format!(
        r##"{{
  "format": "sturdy-quilt/map", "version": 1, "lattice": {{ "cell": [16, 16] }},
  "tiles": [{{ "name": "yard", "tiles": ["sand", "wall", "rail"] }},
            {{ "name": "hut", "tiles": ["roof", "door"] }}],
  "layers": [{{ "name": "soil", "at": [-1, 2],
    "cells": {cells} }}]
}}"##
    ));
    for (name, bytes) in more {
        all.add(*name, bytes.to_vec());
    }
    all
}

/// What lies in the cells of layer `soil`, row by row.
fn cells(quilt: &Quilt, rect: CellRect) -> Vec<String> {
    let name = |at: CellPos| {
        let cell = quilt.get("soil", at).unwrap().here().unwrap();
        let name = quilt.tiles().notation(cell).to_string();
        name.split_once('/').map_or("-".to_owned(), |(_, tile)| tile.to_owned())
    };
    let row = |y| (rect.left()..rect.right()).map(|x| name(CellPos::new(x, y))).collect::<Vec<_>>();
    (rect.top()..rect.bottom()).map(|y| row(y).join(" ")).collect()
}

#[track_caller]
fn means(form: &str, more: &[(&str, &[u8])], rows: &[&str]) {
    let loaded = yard(form, more).unwrap();
    assert_eq!(loaded.warnings, []);
    let names: Vec<&str> = more.iter().map(|(name, _)| *name).collect();
    assert_eq!(loaded.cell_files, names);
    let bounds = loaded.quilt.layer("soil").unwrap().cells().bounds();
    let width = rows[0].split(' ').count() as u32;
    let rect = CellRect::new(CellPos::new(-1, 2), width, rows.len() as u32);
    assert!(rect.contains_rect(bounds), "{bounds}");
    assert_eq!(cells(&loaded.quilt, rect), rows);
    assert!(read(&loaded.quilt.to_json().unwrap()).quilt.same_as(&loaded.quilt));
}

#[track_caller]
fn fails(form: &str, more: &[(&str, &[u8])], problem: &str) {
    let error = yard(form, more).map(|loaded| loaded.quilt).unwrap_err();
    assert_eq!(error, format!("the map cannot be loaded: 1 error\n  {problem}"));
}

/// A table of numbers with no word of what they mean says that it takes −1 for nothing.
#[test]
fn a_bare_table_says_what_it_drops() {
    let mut files = sturdy_quilt::MemorySource::default();
    files.add("heights.csv", "3,-1,-1\n2,-1,4\n");
    files.add("legend.json", r#"{ "-1": "sea/deep", "2": null, "3": null, "4": null }"#);
    let load = |grid: sturdy_quilt::document::GridFile| {
        let loaded = sturdy_quilt::Loader::new().load_grid(&files, &grid).unwrap();
        let said: Vec<String> = loaded.warnings.iter().map(ToString::to_string).collect();
        (loaded.quilt.layers()[0].cells().occupied().count(), said)
    };
    let (cells, said) = load(sturdy_quilt::document::GridFile::new("heights.csv"));
    assert_eq!(cells, 3);
    assert_eq!(
        said,
        [
            "heights.csv: warning: 3 fields with -1 are taken for empty cells; say what -1 is in a legend, or which number is empty with the tile set that the numbers count"
        ]
    );
    let (cells, said) =
        load(sturdy_quilt::document::GridFile::new("heights.csv").with_legend("legend.json"));
    assert_eq!(cells, 3);
    assert!(!said.iter().any(|said| said.contains("-1 are taken")), "{said:?}");
}

/// Every sum in a PNG is checked: of its chunks and of the pixels in them, by whole pictures and by
/// rows.
#[cfg(feature = "png")]
#[test]
fn a_picture_with_a_wrong_sum_is_refused() {
    let size = sturdy_quilt::units::PixelSize::new(5, 3);
    let sound =
        sturdy_quilt::Picture::filled(size, sturdy_quilt::Color::rgb(9, 8, 7)).to_png().unwrap();
    // The data chunk ends with the sum of the pixels (RFC 1950) and that of the chunk.
    let end = sound.windows(4).position(|w| w == b"IEND").unwrap() - 4;
    let start = sound.windows(4).position(|w| w == b"IDAT").unwrap();
    let mut wrong = sound.clone();
    wrong[end - 5] ^= 1;
    let sum = crc32fast::hash(&wrong[start..end - 4]).to_be_bytes();
    wrong[end - 4..end].copy_from_slice(&sum);
    assert!(sturdy_quilt::Picture::from_png(&sound, 99).is_ok());
    let error = sturdy_quilt::Picture::from_png(&wrong, 99).unwrap_err();
    let cause = std::error::Error::source(&error).unwrap().to_string();
    assert!(cause.contains("Corrupt"), "{cause}");
    let mut files = sturdy_quilt::MemorySource::default();
    files.add("cells.png", wrong);
    let grid = sturdy_quilt::document::GridFile::new("cells.png").with_legend("l.json");
    files.add("l.json", r##"{ "#090807": "cells/a" }"##);
    assert!(sturdy_quilt::Loader::new().load_grid(&files, &grid).is_err());
    let map = r##"{ "format": "sturdy-quilt/map", "version": 1, "lattice": { "cell": [8, 8] },
        "tiles": [{ "name": "s", "tiles": ["a"] }], "layers": [{ "name": "l",
        "cells": { "picture": "cells.png", "legend": { "#090807": "s/a" } } }] }"##;
    files.add("m.quilt.json", map);
    let error = sturdy_quilt::Quilt::load(&files, "m.quilt.json").unwrap_err();
    assert!(error.to_string().contains("the bytes are not a readable PNG"), "{error}");
    files.add("cells.png", sound);
    assert!(sturdy_quilt::Quilt::load(&files, "m.quilt.json").is_ok());
}

#[test]
fn rows_stand_in_the_map_or_in_a_text_file() {
    let rows = &["sand wall", "rail+90 -"];
    let legend = r##""legend": { ".": "yard/sand", "#": "yard/wall", "ø": "yard/rail+90" }"##;
    means(&format!(r##"{{ {legend}, "rows": [".#", "ø "], "size": [2, 2] }}"##), &[], rows);
    let file = format!(r#"{{ {legend}, "rows": "soil.txt" }}"#);
    means(&file, &[("soil.txt", ".#\nø ".as_bytes())], rows);
    means(&file, &[("soil.txt", "\u{feff}.#\r\nø \r\n".as_bytes())], rows);
    fails(
        &file,
        &[("soil.txt", b".#\n.x\n")],
        "soil.txt:2:2: error: the legend of layer `soil` does not know `x` at 0,3; add \"x\" to the legend, or correct the row",
    );
    fails(
        &file,
        &[("soil.txt", b".#\n.\n")],
        "soil.txt:2:1: error: row 2 has 1 cells, but row 1 has 2; add 1 character; a space is an empty cell",
    );
}

#[test]
fn numbers_go_through_the_cells_in_any_order() {
    let list = |more: &str| {
        format!(r#"{{ "numbers": [0, 1, 2, -1, 1, 0], "size": [3, 2], "set": "yard"{more} }}"#)
    };
    let order =
        |from: &str, by: &str| list(&format!(r#", "order": {{ "from": "{from}", "by": "{by}" }}"#));
    means(&list(""), &[], &["sand wall rail", "- wall sand"]);
    means(&order("top-left", "rows"), &[], &["sand wall rail", "- wall sand"]);
    means(&order("bottom-left", "rows"), &[], &["- wall sand", "sand wall rail"]);
    means(&order("top-right", "rows"), &[], &["rail wall sand", "sand wall -"]);
    means(&order("top-left", "columns"), &[], &["sand rail wall", "wall - sand"]);
    means(&order("bottom-right", "columns"), &[], &["sand - wall", "wall rail sand"]);
    means(
        &list(r#", "base": -1, "empty": 2"#).replace("[0, 1, 2, -1,", "[-1, 1, 2, -1,"),
        &[],
        &["sand rail -", "sand rail wall"],
    );
}

#[test]
fn numbers_of_several_sets() {
    let sets =
        r#""sets": [{ "set": "yard", "base": 1 }, { "set": "hut", "base": 11 }], "empty": 0"#;
    means(
        &format!(r#"{{ "numbers": [1, 3, 0, 12], "size": [2, 2], {sets} }}"#),
        &[],
        &["sand rail", "- door"],
    );
    let file = format!(r#"{{ "numbers": "soil.json", "size": [2, 2], {sets} }}"#);
    means(&file, &[("soil.json", b"[11,\n 12, 0, 0]")], &["roof door", "- -"]);
    means(
        &format!(r#"{{ "table": ["11,,3", "hut/door+raise,12,2"], {sets} }}"#),
        &[],
        &["roof - rail", "door+raise door wall"],
    );
    let wrong = yard_files(r#"{ "table": ["0,1", "2,7"], "set": "yard" }"#, &[]);
    let error = Quilt::load(&wrong, "map.quilt.json").unwrap_err();
    assert_eq!(error.problems()[0].cell, Some(CellPos::new(0, 3)), "the layer begins at -1,2");
    fails(
        &file,
        &[("soil.json", b"[11,\n 12, 5, 4]")],
        "soil.json:2:6: error: number 5 at -1,3 is not a tile, nor are 1 more; the sets have the numbers `yard` 1 to 3, `hut` 11 to 12, and 0 is empty",
    );
    fails(
        &file.replace("11", "3"),
        &[("soil.json", b"[3]")],
        "map.quilt.json:6:64: error: number 3 means a tile of set `yard` and one of set `hut`; give one of them another `base`",
    );
    fails(
        &file,
        &[("soil.json", b"[1, 2, 3]")],
        "soil.json:1:1: error: `cells` of layer `soil` has 3 numbers, but its size of 2 \u{d7} 2 wants 4",
    );
}

#[test]
fn marks_lie_over_cells_in_a_grid_of_their_own() {
    let form = |marks: &str| {
        format!(
            r#"{{ "numbers": [0, 1, 2, -1], "size": [2, 2], "set": "yard", "marks": {marks} }}"#
        )
    };
    let marked = &["sand wall+mirror+raise", "rail+180+palette9 -"];
    means(
        &form(
            r#"{ "legend": { "a": "+mirror+raise", "b": "+180+palette9" }, "rows": [" a", "b "] }"#,
        ),
        &[],
        marked,
    );
    means(&form(r#"{ "table": [",+mirror+raise", "+180+palette9,"] }"#), &[], marked);
    // Marks are added to those that a cell has.
    means(
        r#"{ "table": ["yard/sand+90+raise"], "marks": { "table": ["+180"] } }"#,
        &[],
        &["sand+270+raise"],
    );
    fails(
        &form(r#"{ "table": ["+raise"] }"#),
        &[],
        "map.quilt.json:6:82: error: `cells` of layer `soil` has 2 \u{d7} 2 cells, but its `marks` are 1 \u{d7} 1",
    );
    fails(
        &form(r#"{ "table": [",+rise", ","] }"#),
        &[],
        "map.quilt.json:6:96: error: `+rise` does not state marks of a cell; the marks are +mirror, +90, +180, +270, +raise and +palette1 to +palette127, for example +90+raise",
    );
    let over = yard(&form(r#"{ "table": [",", ",+90"] }"#), &[]).unwrap();
    assert_eq!(
        over.warnings[0].to_string(),
        "map.quilt.json:6:82: warning: `cells` of layer `soil` has marks on the empty cell 0,3; marks turn, raise or recolour a tile; on an empty cell they do nothing"
    );
}

#[test]
fn pieces_share_a_legend_and_are_kept() {
    let sections = r##"{ "legend": { ".": "yard/sand", "#": "yard/wall" }, "sections": [
        { "rows": [".."] }, { "at": [100000, -7], "rows": ["#", "."] },
        { "at": [1, 0], "table": ["yard/rail"] }] }"##;
    let loaded = yard(sections, &[]).unwrap();
    assert_eq!(loaded.warnings, []);
    assert_eq!(cells(&loaded.quilt, CellRect::new(CellPos::new(-1, 2), 2, 1)), ["sand rail"]);
    let far = CellRect::new(CellPos::new(99_999, -5), 1, 2);
    assert_eq!(cells(&loaded.quilt, far), ["wall", "sand"]);
    let text = loaded.quilt.to_json().unwrap();
    assert!(text.contains("\"sections\""), "{text}");
    assert!(text.len() < 2000, "the room between them is not written");
    let again = read(&text).quilt;
    assert!(again.same_as(&loaded.quilt));
    assert_eq!(again.to_json().unwrap(), text);
}

#[test]
fn legends_in_files_and_of_tables() {
    let legend = br#"{ "G": "yard/sand", "W": "yard/wall+90", "no": null }"#;
    means(
        r#"{ "table": ["G,W", "no,yard/rail"], "legend": "beds.legend.json" }"#,
        &[("beds.legend.json", legend)],
        &["sand wall+90", "- rail"],
    );
    means(
        r##"{ "rows": "soil.txt", "legend": { "#": "yard/wall" } }"##,
        &[("soil.txt", b"##\n")],
        &["wall wall"],
    );
    // Rows and tables may share one legend.
    means(
        r#"{ "legend": { "g": "yard/sand" }, "sections": [
            { "rows": ["gg"] }, { "at": [0, 1], "table": ["g,yard/rail"] }] }"#,
        &[],
        &["sand sand", "sand rail"],
    );
    fails(
        r#"{ "table": ["G"], "legend": "beds.legend.json" }"#,
        &[("beds.legend.json", b"{\n \"G\": 7 }")],
        "beds.legend.json:2:7: error: the cell must be an object, not 7",
    );
}

#[test]
fn what_is_no_form_of_cells() {
    fails(
        r#"{ "row": [] }"#,
        &[],
        "map.quilt.json:6:14: error: `cells` of layer `soil` must have one of `rows`, `table`, `numbers`, `picture` and `packed`, or a list of `sections`; it has row",
    );
    fails(
        r#"{ "rows": [], "table": [] }"#,
        &[],
        "map.quilt.json:6:14: error: `cells` of layer `soil` must have one of `rows`, `table`, `numbers`, `picture` and `packed`, or a list of `sections`; it has rows, table",
    );
    fails(
        r#"{ "numbers": [1], "size": [1, 1] }"#,
        &[],
        "map.quilt.json:6:14: error: `cells` of layer `soil` has numbers, but does not say of which `set` or `sets`",
    );
    fails(
        r#"{ "rows": ["  "], "size": [2, 3] }"#,
        &[],
        "map.quilt.json:6:40: error: `cells` of layer `soil` states a size of 2 \u{d7} 3, but its `rows` has 2 \u{d7} 1 cells",
    );
    fails(
        r#"{ "numbers": [0], "size": [1, 1], "set": "yard", "order": { "from": "top" } }"#,
        &[],
        "map.quilt.json:6:82: error: `from` cannot be `top`; it is one of top-left, top-right, bottom-left, bottom-right",
    );
}

#[test]
fn packed_blocks_of_all_kinds() {
    // sand, a raised wall turned a half, nothing: as Python would write it.
    let bytes: Vec<u8> =
        [1_u32, 2 | 2 << 20 | 1 << 24, 0].iter().flat_map(|v| v.to_le_bytes()).collect();
    let tiles = r#""size": [3, 1], "tiles": ["yard/sand", "yard/wall"]"#;
    let rows = &["sand wall+180+raise -"];
    let file = format!(r#"{{ {tiles}, "packed": {{ "plain": {{ "file": "soil.cells" }} }} }}"#);
    means(&file, &[("soil.cells", &bytes)], rows);
    means(&format!(r#"{{ {tiles}, "packed": {{ "plain": "AQAAAAIAIAEAAAAA" }} }}"#), &[], rows);
    let numbers = r#"{ "size": [3, 1], "set": "yard", "base": 1, "empty": 0,
        "packed": { "plain": "AQAAAAMAAAAAAAAA" } }"#;
    let zlib = r#"{ "size": [3, 1], "tiles": ["yard/sand", "yard/wall"],
        "packed": { "zlib": "eJxjZGBgYGJQYARSDAAA7QAl" } }"#;
    means(zlib, &[], rows);
    means(numbers, &[], &["sand rail -"]);
    fails(
        &file,
        &[("soil.cells", &bytes[..11])],
        "map.quilt.json:6:100: error: `cells` of layer `soil` cannot be unpacked: it ends after 11 bytes; a size of 3 \u{d7} 1 takes 12 bytes, 4 for each cell",
    );
    fails(
        &file,
        &[("soil.cells", &[&*bytes, &[0]].concat())],
        "map.quilt.json:6:100: error: `cells` of layer `soil` cannot be unpacked: it goes on after the last cell; a size of 3 \u{d7} 1 takes 12 bytes, 4 for each cell",
    );
    let mut wrong = bytes.clone();
    wrong[4] = 3;
    fails(
        &file,
        &[("soil.cells", &wrong)],
        "map.quilt.json:6:79: error: `cells` of layer `soil` has the value 18874371 at 0,2, which is not a cell; the low 20 bits are 0, or the number of one of the 2 names in `tiles`; then come turn (4 bits), raise (1) and palette (7)",
    );
}

#[test]
fn damaged_packed_blocks_are_refused() {
    let mut quilt = doc_quilt();
    let wall = quilt.tile("garden/wall").unwrap();
    quilt
        .edit("more", |pen| pen.fill("soil", CellRect::new(CellPos::ORIGIN, 90, 50), wall))
        .unwrap();
    let written = quilt
        .document()
        .with_encoding(CellEncoding::Packed)
        .with_cells_apart(true)
        .to_files("map.quilt.json")
        .unwrap();
    let [(_, map), (name, block)] = &*written else { panic!("{written:?}") };
    let load_with = |block: Vec<u8>| {
        let mut all = MemorySource::default();
        all.add("map.quilt.json", map.clone());
        all.add(name.clone(), block);
        Loader::new().load(&all, "map.quilt.json")
    };
    assert!(load_with(block.clone()).unwrap().quilt.same_as(&quilt));
    for cut in 0..block.len() {
        let error = load_with(block[..cut].to_vec()).map(|l| l.quilt).unwrap_err().to_string();
        assert!(error.contains("cannot be unpacked: it "), "{error}");
    }
    for at in 0..block.len() {
        let mut flipped = block.clone();
        flipped[at] ^= 0x10;
        // The sum of the content finds every flip, also one that still unpacks.
        assert!(load_with(flipped).is_err(), "byte {at}");
    }
}

#[cfg(feature = "png")]
mod pictures {
    use proptest::prelude::*;
    use sturdy_quilt::units::PixelSize;
    use sturdy_quilt::{Color, Picture};

    use super::*;
    use crate::scene;

    const FORMS: [CellEncoding; 5] = [
        CellEncoding::Readable,
        CellEncoding::Rows,
        CellEncoding::Numbers,
        CellEncoding::Table,
        CellEncoding::Packed,
    ];

    /// A map written in a form, and read again with whatever files that made.
    fn again(quilt: &Quilt, form: CellEncoding, apart: bool) -> Loaded {
        let mut all = files("");
        for (name, bytes) in quilt
            .document()
            .with_encoding(form)
            .with_cells_apart(apart)
            .to_files("map.quilt.json")
            .unwrap()
        {
            all.add(name, bytes);
        }
        Loader::new().load(&all, "map.quilt.json").unwrap()
    }

    fn picture(rows: &[&[Color]]) -> Vec<u8> {
        let size = PixelSize::new(rows[0].len() as u32, rows.len() as u32);
        let bytes = rows.concat().into_iter().flat_map(Color::to_bytes).collect();
        Picture::from_bytes(size, bytes).unwrap().to_png().unwrap()
    }

    const GREEN: Color = Color::rgb(0x20, 0xa0, 0x30);
    const GREY: Color = Color::rgb(0x80, 0x80, 0x80);

    #[test]
    fn a_pixel_is_a_cell() {
        let legend = r##""legend": { "#20a030": "yard/sand", "#808080": "yard/wall+90" }"##;
        let form = format!(r#"{{ "picture": "soil.png", {legend} }}"#);
        let sound = picture(&[&[GREEN, Color::CLEAR, GREY], &[GREY, GREEN, GREEN]]);
        means(&form, &[("soil.png", &sound)], &["sand - wall+90", "wall+90 sand sand"]);
        let near = Color::rgb(0x22, 0x9e, 0x31);
        let off = picture(&[
            &[near, near, near],
            &[near, GREY, near],
            &[near, near, Color::rgb(9, 9, 9)],
        ]);
        let error = yard(&form, &[("soil.png", &off)]).map(|l| l.quilt).unwrap_err();
        assert_eq!(
            error,
            "the map cannot be loaded: 2 errors
  soil.png: pixel 0,0: error: the legend of layer `soil` does not know the colour #229e31 of pixels 0,0; 1,0; 2,0; 0,1; 2,1 and 2 more; add \"#229e31\" to the legend, or state a `tolerance` of 2 to take it for #20a030
  soil.png: pixel 2,2: error: the legend of layer `soil` does not know the colour #090909 of pixel 2,2; add \"#090909\" to the legend"
        );
        let all = yard_files(&form, &[("soil.png", &off)]);
        let error = Quilt::load(&all, "map.quilt.json").unwrap_err();
        assert_eq!(error.problems()[1].cell, Some(CellPos::new(1, 4)), "the layer begins at -1,2");
        let tolerant = form.replace("{ \"picture\"", "{ \"tolerance\": 2, \"picture\"");
        let near = picture(&[&[near, GREY]]);
        means(&tolerant, &[("soil.png", &near)], &["sand wall+90"]);
    }

    #[test]
    fn marks_from_a_picture() {
        let marks = picture(&[&[GREY, Color::CLEAR]]);
        means(
            r##"{ "table": ["yard/sand,yard/wall"],
                "marks": { "picture": "marks.png", "legend": { "#808080": "+raise" } } }"##,
            &[("marks.png", &marks)],
            &["sand+raise wall"],
        );
    }

    /// The files of a set `art` whose sheet has so many columns of 8 × 8 pixels and two rows, and of
    /// a flat set.
    fn sets(art_columns: u32, art_tiles: &str) -> Vec<(&'static str, Vec<u8>)> {
        let sheet = Picture::filled(PixelSize::new(art_columns * 8, 16), GREY).to_png().unwrap();
        let art = format!(
            r#"{{ "format": "sturdy-quilt/tiles", "version": 1,
                "sheet": {{ "picture": "art.png", "tile": [8, 8] }}, "tiles": [{art_tiles}] }}"#
        );
        let flat = r#"{ "format": "sturdy-quilt/tiles", "version": 1, "tiles": ["sand", "wall"] }"#;
        vec![
            ("art.png", sheet),
            ("art.tiles.json", art.into_bytes()),
            ("flat.tiles.json", flat.as_bytes().to_vec()),
        ]
    }

    #[test]
    fn saves_of_every_form_outlive_changes_of_their_sets() {
        let map = r#"{ "format": "sturdy-quilt/map", "version": 1, "lattice": { "cell": [8, 8] },
            "tiles": ["art.tiles.json", "flat.tiles.json"],
            "layers": [{ "name": "soil", "cells": { "table":
                ["art/roof,art/door+90,art/0:1", ",flat/wall,flat/sand+raise"] } }] }"#;
        let named = r#"{ "at": [1, 0], "name": "roof" }, { "at": [1, 1], "name": "door" }"#;
        let world = |map: &[u8], sets: Vec<(&str, Vec<u8>)>, beside: &[(String, Vec<u8>)]| {
            let mut all = MemorySource::default();
            all.add("map.quilt.json", map.to_vec());
            sets.into_iter().for_each(|(name, bytes)| all.add(name, bytes));
            beside.iter().for_each(|(name, bytes)| all.add(name.clone(), bytes.clone()));
            Loader::new().load(&all, "map.quilt.json")
        };
        let old = world(map.as_bytes(), sets(2, named), &[]).unwrap().quilt;
        let area = CellRect::new(CellPos::ORIGIN, 3, 2);
        let shown = cells(&old, area);
        assert_eq!(shown, ["roof door+90 0:1", "- wall sand+raise"]);
        for form in FORMS.into_iter().chain([CellEncoding::Picture]) {
            let files = old.document().with_encoding(form).to_files("map.quilt.json").unwrap();
            let (saved, beside) = (&files[0].1, &files[1..]);
            // Other sets before these, and in another order.
            let text = String::from_utf8(saved.clone()).unwrap();
            let sets_of_old = "\"tiles\": [\"art.tiles.json\", \"flat.tiles.json\"]";
            let sets_of_new = "\"tiles\": [{ \"name\": \"new\", \"tiles\": [\"x\", \"y\"] }, \"flat.tiles.json\", \"art.tiles.json\"]";
            assert!(text.contains(sets_of_old), "{text}");
            let reordered = text.replace(sets_of_old, sets_of_new);
            let again = world(reordered.as_bytes(), sets(2, named), beside).unwrap();
            assert_eq!((again.warnings.len(), cells(&again.quilt, area)), (0, shown.clone()));
            // One column more: names and places are found again, numbers are refused.
            let wider = r#"{ "at": [2, 0], "name": "roof" }, { "at": [0, 0], "name": "door" }"#;
            let again = world(saved, sets(3, wider), beside);
            if form == CellEncoding::Numbers {
                let error = again.map(|loaded| loaded.files).unwrap_err().to_string();
                assert!(error.contains("a sheet of 2 columns, but that of tile set `art` has 3"));
            } else {
                assert_eq!(cells(&again.unwrap().quilt, area), shown, "{form:?}");
            }
            // A tile less: a placeholder that is reported, and survives a save.
            let fewer = r#"{ "at": [1, 0], "name": "roof" }"#;
            let lost = world(saved, sets(2, fewer), beside);
            if form == CellEncoding::Numbers {
                // Its place is what the number counts, and that is there.
                assert_eq!(cells(&lost.unwrap().quilt, area)[0], "roof 1:1+90 0:1");
                continue;
            }
            let lost = lost.unwrap();
            assert!(lost.warnings[0].message.contains("has no tile `door`"), "{form:?}");
            assert_eq!(cells(&lost.quilt, area), shown);
            let kept =
                lost.quilt.document().with_encoding(form).to_files("map.quilt.json").unwrap();
            let back = world(&kept[0].1, sets(2, named), &kept[1..]).unwrap();
            assert_eq!((back.warnings.len(), cells(&back.quilt, area)), (0, shown.clone()));
        }
    }

    proptest! {
        #![proptest_config(ProptestConfig::with_cases(48))]

        /// A table means the same, and its mistakes stand at the same places, whether or not a
        /// field of it is quoted.
        #[test]
        fn tables_with_and_without_quotes_agree(
            rows in prop::collection::vec("([012x ]?[0-2]?,){0,3}[012]?(\n|\r\n|\n\n|\r){1,2}", 0..6),
            end in "(\n)?",
        ) {
            let load = |last: &str| {
                let table = format!("{}{last}{end}", rows.concat());
                let files =
                    yard_files(r#"{ "table": "t.csv", "set": "yard" }"#, &[("t.csv", table.as_bytes())]);
                Loader::new().load(&files, "map.quilt.json").map_err(|error| {
                    let problems = error.problems().iter();
                    let told = problems.map(|problem| {
                        (problem.message.clone(), problem.place.as_ref().map(|at| (at.line, at.column)))
                    });
                    told.collect::<Vec<_>>()
                })
            };
            match (load("1"), load("\"1\"")) {
                (Ok(plain), Ok(quoted)) => prop_assert!(plain.quilt.same_as(&quoted.quilt)),
                (plain, quoted) => prop_assert_eq!(plain.err(), quoted.err()),
            }
        }

        #[test]
        fn every_map_reads_back_from_every_form(quilt in scene::any_quilt(40), apart: bool) {
            for form in FORMS.into_iter().chain([CellEncoding::Picture]) {
                let written = quilt.document().with_encoding(form).to_files("map.quilt.json");
                if form == CellEncoding::Numbers && let Err(error) = written {
                    prop_assert!(error.to_string().contains("which no tile set has"), "{error}");
                    continue;
                }
                let loaded = again(&quilt, form, apart);
                prop_assert!(loaded.quilt.same_as(&quilt), "{form:?}");
            }
        }
    }
}
