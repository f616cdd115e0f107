//! Mistakes in documents: each is found, with its place and a hint, and all of them at once.

use proptest::prelude::*;
use sturdy_quilt::{Expects, Limits, LoadError, MemorySource, Severity, load, load_expecting};

use crate::document::files;

/// A map without a mistake, and with a place for one of each kind.
const SOUND: &str = r##"{
  "format": "sturdy-quilt/map",
  "version": 1,
  "lattice": { "shape": "square", "cell": [16, 16] },
  "tiles": [{ "name": "yard", "tiles": [{ "name": "sand", "ground": "open" }, "wall"] }],
  "ground": ["open", "stone"],
  "movers": { "cart": { "stone": "block" } },
  "layers": [
    {
      "name": "soil",
      "priority": 0,
      "cells": {
        "legend": { ".": "yard/sand", "#": "yard/wall" },
        "rows": [
          "..##",
          "...."
        ]
      }
    }
  ],
  "markers": [{ "name": "gate", "cell": [1, 1] }]
}
"##;

/// Every problem of a map, a line each.
fn problems_of(files: &MemorySource, limits: &Limits) -> Vec<String> {
    let problems = match load(files, "map.quilt.json", limits) {
        Ok(loaded) => loaded.warnings,
        Err(error) => error.problems().to_vec(),
    };
    problems.iter().map(ToString::to_string).collect()
}

#[track_caller]
fn expect(from: &str, to: &str, problems: &[&str]) {
    assert!(SOUND.contains(from), "the sound map has no `{from}`");
    let found = problems_of(&files(&SOUND.replacen(from, to, 1)), &Limits::default());
    let found: Vec<&str> =
        found.iter().map(|line| line.strip_prefix("map.quilt.json:").unwrap_or(line)).collect();
    assert_eq!(found, problems);
}

#[test]
fn the_sound_map_is_sound() {
    assert_eq!(problems_of(&files(SOUND), &Limits::default()), [""; 0]);
}

#[test]
fn seven_mistakes_are_listed_in_one_go() {
    let wrong = SOUND
        .replace("\"lattice\": { \"shape\": \"square\"", "\"lattice\": { \"shape\": \"squre\"")
        .replace("\"ground\": \"open\"", "\"ground\": \"opn\"")
        .replace("\"stone\": \"block\"", "\"stome\": \"block\"")
        .replace("\"priority\": 0", "\"prioritty\": 0")
        .replace("\"..##\"", "\"..##.\"")
        .replace("[1, 1] }", "[1, 1] }, { \"name\": \"gate\", \"cell\": [0, 0] }")
        .replace(
            "\"tiles\": [{ \"name\": \"yard\"",
            "\"tiles\": [\"lost.tiles.json\", { \"name\": \"yard\"",
        );
    let error = load(&files(&wrong), "map.quilt.json", &Limits::default()).unwrap_err();
    let expected = "\
the map cannot be loaded: 7 errors
  map.quilt.json:4:25: error: there is no lattice shape `squre`; the known shape is square
  map.quilt.json:5:13: error: file `lost.tiles.json`: there is no such file; the folder searched is `.`
  map.quilt.json:5:88: error: the map has no ground class `opn`; did you mean `open`?
  map.quilt.json:7:25: error: mover `cart` treats `stome`, which is no ground class; did you mean `stone`?
  map.quilt.json:11:7: error: the layer has an unknown key `prioritty`; did you mean `priority`?
  map.quilt.json:16:11: error: row 2 has 4 cells, but row 1 has 5; add 1 character; a space is an empty cell
  map.quilt.json:21:51: error: there are two markers with the name `gate`; give one of them another name";
    assert_eq!(error.to_string(), expected);
    assert_eq!(format!("{error:?}"), error.to_string(), "what `unwrap` shows");
}

#[test]
fn documents_that_are_no_maps() {
    expect(
        "\"version\": 1,",
        "\"version\": 1",
        &["4:3: error: this is no valid JSON: expected `,` or `}`"],
    );
    expect(
        "\"format\": \"sturdy-quilt/map\",",
        "",
        &[
            "1:1: error: the document has no `format`; write \"format\": \"sturdy-quilt/map\", \"version\": 1",
        ],
    );
    expect(
        "sturdy-quilt/map",
        "sturdy-quilt/tiles",
        &[
            "2:13: error: the format must be `sturdy-quilt/map`, not `sturdy-quilt/tiles`; this is a tile set; name it under `tiles` of a map",
        ],
    );
    expect(
        "\"version\": 1",
        "\"version\": 2",
        &[
            "3:14: error: version 2 of the format is newer than 1, the newest known; update sturdy-quilt, or save the file with the version that this one knows",
        ],
    );
    expect(
        "\"version\": 1",
        "\"version\": 0",
        &["3:14: error: `version` must lie between 1 and 9223372036854775807, not 0"],
    );
    let list = problems_of(&files("[1, 2]"), &Limits::default());
    assert_eq!(list, ["map.quilt.json:1:1: error: the document must be an object, not a list"]);
    let mut binary = MemorySource::default();
    binary.add("map.quilt.json", b"{\n  \"a\": \"\xff\"}".to_vec());
    assert_eq!(
        problems_of(&binary, &Limits::default()),
        ["map.quilt.json:2:9: error: the file is no UTF-8 text from here on; save it as UTF-8"]
    );
    let nothing = problems_of(&MemorySource::default(), &Limits::default());
    assert_eq!(
        nothing,
        [
            "map.quilt.json: error: file `map.quilt.json`: there is no such file; the folder searched is `.`"
        ]
    );
}

#[test]
fn mistakes_in_the_frame_of_a_map() {
    expect(
        "\"cell\": [16, 16]",
        "\"cell\": [16]",
        &["4:43: error: the size of a cell must be a list of two values, not of 1"],
    );
    expect(
        "\"cell\": [16, 16]",
        "\"cell\": [16, 0]",
        &["4:43: error: a cell of 16 × 0 units: each side must lie between 0.0009765625 and 65536"],
    );
    expect(
        "\"markers\"",
        "\"makers\"",
        &["21:3: error: the map has an unknown key `makers`; did you mean `markers`?"],
    );
    expect(
        "[\"open\", \"stone\"]",
        "[\"open\", \"stone\", \"open\"]",
        &["6:31: error: the ground class `open` is listed twice"],
    );
    expect(
        "[\"open\", \"stone\"]",
        "[\"open\", \"stone\", 5]",
        &["6:31: error: a ground class must be a text, not 5"],
    );
    expect(
        "\"stone\": \"block\"",
        "\"stone\": \"blocked\"",
        &[
            "7:34: error: mover `cart` treats `stone` in an unknown way; write \"pass\", \"block\" or a factor of its speed above 0 and up to 1",
        ],
    );
    expect(
        "\"stone\": \"block\"",
        "\"outside\": 2",
        &[
            "7:36: error: mover `cart` treats `outside` in an unknown way; write \"pass\", \"block\", \"wrap\" or a factor of its speed above 0 and up to 1",
        ],
    );
    expect(
        "[{ \"name\": \"gate\", \"cell\": [1, 1] }]",
        "{}",
        &["21:14: error: `markers` must be a list, not an object"],
    );
    expect(
        "\"cell\": [1, 1]",
        "\"cell\": [1, 2.5]",
        &["21:45: error: the cell of marker `gate` must be a whole number, not 2.5"],
    );
    expect(
        "\"cell\": [1, 1]",
        "\"cell\": [1, 2000000000]",
        &[
            "21:45: error: the cell of marker `gate` must lie between -1073741824 and 1073741823, not 2000000000",
        ],
    );
    expect(
        "\"cell\": [1, 1]",
        "\"cell\": [1, 1], \"point\": [0, 0]",
        &[
            "21:15: error: marker `gate` must have one of `cell`, `point`, `area`, `path` and `polygon`",
        ],
    );
    expect(
        "\"cell\": [1, 1]",
        "\"cell\": [9, 9]",
        &["21:15: warning: marker `gate` lies outside the map; the map spans 4 × 2 cells at 0,0"],
    );
    expect("\"name\": \"gate\", ", "", &["21:15: error: the marker has no `name`"]);
    expect(
        "\"cell\": [1, 1]",
        "\"path\": [[8, 8]]",
        &["21:41: error: the path of marker `gate` must have at least 2 points, not 1"],
    );
    expect(
        "\"cell\": [1, 1]",
        "\"polygon\": [[8, 8], [9], [1, \"2\"]]",
        &[
            "21:53: error: a point of polygon of marker `gate` must be a list of two values, not of 1",
            "21:62: error: a point of polygon of marker `gate` must be a number, not a text",
        ],
    );
}

#[test]
fn mistakes_in_value_layers() {
    let expect_values = |values: &str, problems: &[&str]| {
        expect("\"markers\"", &format!("\"values\": [{values}],\n  \"markers\""), problems);
    };
    let sound =
        r#"{ "name": "growth", "type": "f32", "at": [-3, 4], "rows": ["0 1.5", "NaN -2e3"] }"#;
    expect_values(sound, &[]);
    expect_values(
        &sound.replace("f32", "f64"),
        &["21:42: error: there is no type of value `f64`; the types are u32, i32 and f32"],
    );
    expect_values(&sound.replace("f32", "u32"), &["21:76: error: `1.5` is no value of type u32"]);
    expect_values(
        &sound.replace("NaN -2e3", "1 2 3"),
        &["21:82: error: row 2 has 3 values, but row 1 has 2"],
    );
    expect_values(
        &sound.replace("-3, 4", "1073741823, 4"),
        &["21:81: error: the values reach beyond the limits of cells"],
    );
    expect_values(
        &format!("{sound}, {sound}"),
        &[
            "21:107: error: there are two value layers with the name `growth`; give one of them another name",
        ],
    );
    expect_values("{ \"type\": \"u32\" }", &["21:14: error: the value layer has no `name`"]);
}

/// The sound map with the cells of its layer in a table.
fn with_table(cells: &str, table: &[u8]) -> MemorySource {
    let (begin, end) =
        (SOUND.find("{\n        \"legend\"").unwrap(), SOUND.find("\n    }\n  ],").unwrap());
    let mut files = files(&format!("{}{{ {cells} }}{}", &SOUND[..begin], &SOUND[end..]));
    files.add("maps/soil.csv", table);
    files
}

#[test]
fn mistakes_in_tables() {
    let of = |cells: &str, table: &str| {
        problems_of(&with_table(cells, table.as_bytes()), &Limits::default())
    };
    let numbers = r#""table": "maps/soil.csv", "set": "yard", "base": 1, "empty": 0"#;
    assert_eq!(of(numbers, "1,2,0,0\n0,0,1,1\n"), [""; 0]);
    // Blanks around numbers, other line ends and an empty field are no mistakes.
    assert_eq!(of(numbers, "1, 2,0,0\r\n0,,1,1"), [""; 0]);
    assert_eq!(
        of(numbers, "1,2,0\n0,7,1\n7,3,1\n"),
        [
            "maps/soil.csv:2:3: error: number 7 is no tile; the tiles have the numbers 1 to 2, and 0 is empty",
            "maps/soil.csv:3:3: error: number 3 is no tile; the tiles have the numbers 1 to 2, and 0 is empty",
        ]
    );
    assert_eq!(
        of(numbers, "1,2,0\n0,1\n"),
        [
            "maps/soil.csv:2:1: error: row 2 has 2 cells, but row 1 has 3; give all rows the same number of fields"
        ]
    );
    assert_eq!(
        of(numbers, "yard/sand,yard/wal\nyard/wall+9,\n"),
        [
            "maps/soil.csv:2:1: error: `+9` is no mark of a cell; the marks are +mirror, +90, +180, +270, +raise and +palette1 to +palette127",
            "maps/soil.csv:1:11: warning: tile set `yard` has no tile `wal`; did you mean `yard/wall`? A placeholder is shown in its place",
        ]
    );
    let names = r#""table": "maps/soil.csv""#;
    assert_eq!(of(names, "yard/sand+90,empty\n,yard/wall\n"), [""; 0]);
    assert_eq!(
        of(names, "yard/sand,4\n"),
        [
            "maps/soil.csv:1:11: error: the table has the number 4, but names no `set`; state the `set` beside `table`, or write names of tiles"
        ]
    );
    assert_eq!(
        of(r#""table": "maps/soil.csv", "base": 1"#, ""),
        [
            "map.quilt.json:12:16: error: the table states how its numbers are counted, but not of which `set`"
        ]
    );
    assert_eq!(
        of(r#""table": "maps/soil.csv", "set": "yrd""#, ""),
        ["map.quilt.json:12:51: error: there is no tile set `yrd`; did you mean `yard`?"]
    );
    assert_eq!(
        of(r#""table": "maps/sol.csv", "set": "yard""#, ""),
        [
            "map.quilt.json:12:27: error: file `maps/sol.csv`: there is no such file; did you mean `soil.csv`?"
        ]
    );
    assert_eq!(
        of(r#""table": "../soil.csv", "sett": "yard""#, ""),
        [
            "map.quilt.json:12:27: error: `../soil.csv`: a path must not leave the folder of the map",
            "map.quilt.json:12:42: error: `cells` of layer `soil` has an unknown key `sett`; did you mean `set`?",
        ]
    );
    let binary = with_table(numbers, b"1,2\n\xff,1");
    assert_eq!(
        problems_of(&binary, &Limits::default()),
        ["maps/soil.csv:2:1: error: the file is no UTF-8 text from here on; save it as UTF-8"]
    );
    let many = problems_of(
        &with_table(numbers, b"1,2,1\n1,2,1\n"),
        &Limits { cells: 5, ..Limits::default() },
    );
    assert_eq!(
        many,
        [
            "maps/soil.csv:2:1: error: the table of layer `soil` brings the map beyond the limit of cells"
        ]
    );
}

#[cfg(feature = "png")]
#[test]
fn a_table_for_a_sheet_of_other_columns_is_noticed() {
    let map = SOUND.replace(
        r#"{ "name": "yard", "tiles": [{ "name": "sand", "ground": "open" }, "wall"] }"#,
        r#"{ "name": "yard", "sheet": { "picture": "art.png", "tile": [8, 6] },
            "tiles": [{ "at": [0, 0], "name": "sand" }, { "at": [1, 0], "name": "wall" }] },
            { "name": "flat", "tiles": ["a"] }"#,
    );
    let with = |cells: &str| {
        let rows = "\"rows\": [\n          \"..##\",\n          \"....\"\n        ]";
        let map = map
            .replace("\"legend\": { \".\": \"yard/sand\", \"#\": \"yard/wall\" },\n        ", "");
        let mut files = files(&map.replace(rows, cells));
        files.add("soil.csv", "0,1,2,-1");
        load(&files, "map.quilt.json", &Limits::default())
    };
    let quilt = with(r#""table": "soil.csv", "set": "yard", "columns": 4"#).unwrap().quilt;
    let text = quilt.layer_text("soil").unwrap();
    assert_eq!(text.rows, ["sw2"]);
    assert_eq!(text.legend["2"], "yard/2:0");
    let error = with(r#""table": "soil.csv", "set": "yard", "columns": 5"#).unwrap_err();
    assert!(error.to_string().contains(
        "the numbers are for a sheet of 5 columns, but that of tile set `yard` has 4; the sheet was cut anew"
    ), "{error}");
}

#[test]
fn what_a_game_expects_is_missed_at_once_and_with_the_rest() {
    let expects = Expects::default()
        .layers(["soil", "sol"])
        .tiles(["yard/wall", "yard/wal", "yard/gone"])
        .markers(["gate", "gat"])
        .movers(["cart", "bee"])
        .ground(["open", "mud"]);
    let problems_of = |map: &str| {
        let error = load_expecting(&files(map), "map.quilt.json", &Limits::default(), &expects);
        let problems = error.unwrap_err().problems().to_vec();
        problems
            .iter()
            .map(|p| p.to_string().replace("map.quilt.json: error: the map has no ", ""))
            .collect::<Vec<_>>()
    };
    let missing = [
        "layer `sol`, which the game expects; did you mean `soil`?",
        "tile `yard/wal`, which the game expects; did you mean `yard/wall`?",
        "tile `yard/gone`, which the game expects",
        "marker `gat`, which the game expects; did you mean `gate`?",
        "mover `bee`, which the game expects",
        "ground class `mud`, which the game expects",
    ];
    assert_eq!(problems_of(SOUND), missing);
    // A tile that only cells name is missing, although the map knows its name.
    let named = SOUND.replace("\"#\": \"yard/wall\"", "\"#\": \"yard/gone\"");
    assert_eq!(problems_of(&named)[..6], missing);
    // With a fault in the cells, everything else is still looked for.
    let faulty = SOUND.replace("..##", "..#?");
    assert_eq!(problems_of(&faulty)[..6], missing);
    assert_eq!(problems_of(&faulty).len(), 7);
    // What could not be read may have what is missed.
    let unread = SOUND.replace("\"name\": \"gate\", ", "").replace("\"name\": \"soil\",", "");
    let found = problems_of(&unread);
    assert!(
        !found.iter().any(|line| line.starts_with("marker") || line.starts_with("layer `sol`")),
        "{found:?}"
    );
    assert!(found.iter().any(|line| line.starts_with("mover `bee`")), "{found:?}");
}

#[test]
fn mistakes_in_what_a_game_expects() {
    let read = |text: &str| {
        let mut files = MemorySource::default();
        files.add("game.expects.json", text);
        Expects::load(&files, "game.expects.json", &Limits::default()).map_err(|error| {
            error.problems().iter().map(ToString::to_string).collect::<Vec<_>>().join("\n")
        })
    };
    let sound = r#"{ "format": "sturdy-quilt/expects", "version": 1, "layers": ["soil"], "movers": ["cart", "bee"] }"#;
    assert_eq!(read(sound), Ok(Expects::default().layers(["soil"]).movers(["cart", "bee"])));
    let wrong = sound.replace("\"layers\"", "\"layer\"").replace("\"bee\"", "4");
    assert_eq!(
        read(&wrong).unwrap_err(),
        "game.expects.json:1:51: error: the document has an unknown key `layer`; did you mean `layers`?\n\
         game.expects.json:1:89: error: a name of `movers` must be a text, not 4"
    );
    let other = read("{ \"format\": \"sturdy-quilt/map\", \"version\": 1 }").unwrap_err();
    assert!(
        other.contains("the format must be `sturdy-quilt/expects`, not `sturdy-quilt/map`"),
        "{other}"
    );
    let mut nothing = MemorySource::default();
    nothing.add("game.expect.json", "");
    let error = Expects::load(&nothing, "game.expects.json", &Limits::default()).unwrap_err();
    assert!(error.to_string().contains("did you mean `game.expect.json`?"), "{error}");
}

#[test]
fn mistakes_in_layers() {
    expect(
        "\"priority\": 0",
        "\"priority\": \"high\"",
        &["11:19: error: the priority of a layer must be a whole number, not a text"],
    );
    expect(
        "\"priority\": 0",
        "\"opacity\": 1.5",
        &["11:18: error: the opacity of a layer must lie between 0 and 1, not 1.5"],
    );
    expect(
        "\"priority\": 0",
        "\"visible\": 1",
        &["11:18: error: `visible` must be true or false, not 1"],
    );
    expect("\"name\": \"soil\",\n", "", &["9:5: error: the layer has no `name`"]);
    expect(
        "\"....\"",
        "\"..x.\", \"xx..\"",
        &[
            "16:14: error: the legend of layer `soil` does not know `x` at 2,1 (and 2 more of it); add \"x\" to the legend, or correct the row",
        ],
    );
    expect(
        "\"....\"",
        "\"..\"",
        &[
            "16:11: error: row 2 has 2 cells, but row 1 has 4; add 2 characters; a space is an empty cell",
        ],
    );
    expect("\"....\"", "7", &["16:11: error: a row of cells must be a text, not 7"]);
    expect(
        "\"..##\",",
        "\"..é#\",",
        &[
            "15:14: error: the legend of layer `soil` does not know `é` at 2,0; add \"é\" to the legend, or correct the row",
        ],
    );
    expect(
        "\".\": \"yard/sand\"",
        "\"..\": \"yard/sand\", \".\": null",
        &[
            "13:21: error: the legend has `..`, which is not one character; each key of a legend is a character that stands in the rows",
        ],
    );
    expect(
        "\".\": \"yard/sand\"",
        "\".\": \"yard/sand+45\"",
        &[
            "13:26: error: `+45` is no mark of a cell; the marks are +mirror, +90, +180, +270, +raise and +palette1 to +palette127",
        ],
    );
    expect(
        "\".\": \"yard/sand\"",
        "\".\": \"sand\"",
        &[
            "13:26: error: `sand` names no tile; write set/tile, for example terrace/grass; did you mean `yard/sand`?",
        ],
    );
    expect(
        "\".\": \"yard/sand\"",
        "\".\": { \"tile\": \"yard/sand\", \"turn\": 45 }",
        &["13:57: error: the turn of a cell must be 0, 90, 180 or 270, not 45"],
    );
    expect(
        "\".\": \"yard/sand\"",
        "\".\": { \"tile\": \"yard/sand\", \"palete\": 4 }",
        &["13:49: error: the cell has an unknown key `palete`; did you mean `palette`?"],
    );
    expect(
        "\"rows\"",
        "\"row\"",
        &[
            "12:16: error: `cells` of layer `soil` has no `rows`",
            "14:9: error: `cells` of layer `soil` has an unknown key `row`; did you mean `rows`?",
        ],
    );
}

#[test]
fn tiles_that_are_not_there_are_shown_by_a_placeholder() {
    expect(
        "\"yard/sand\"",
        "\"yard/snad\"",
        &[
            "13:26: warning: tile set `yard` has no tile `snad`; did you mean `yard/sand`? A placeholder is shown in its place",
        ],
    );
    expect(
        "\"yard/sand\"",
        "\"yrad/sand\"",
        &[
            "13:26: warning: there is no tile set `yrad`; did you mean `yard/sand`? A placeholder is shown in its place",
        ],
    );
}

#[test]
fn mistakes_in_tile_sets() {
    let set = "{ \"name\": \"sand\", \"ground\": \"open\" }";
    expect(
        set,
        "{ \"name\": \"wall\" }",
        &["5:61: error: tile: the name `wall` is given to two tiles"],
    );
    expect(
        set,
        "\"sand\", { \"name\": \"a/b\" }",
        &[
            "5:59: error: tile: `a/b` cannot be a name: it must not be empty, nor hold / + : or control characters, nor begin or end with a space",
        ],
    );
    expect(
        set,
        "\"sand\", { \"at\": [0, 0], \"name\": \"b\" }",
        &["5:57: error: tile: it states a place, but its set has no sheet"],
    );
    expect(
        set,
        "\"sand\", { \"ground\": \"open\" }",
        &["5:49: error: tile: it has no name, and its set has no sheet"],
    );
    expect(
        "\"ground\": \"open\"",
        "\"ground\": \"opne\"",
        &["5:69: error: the map has no ground class `opne`; did you mean `open`?"],
    );
    expect(
        "\"ground\": \"open\"",
        "\"color\": \"green\"",
        &["5:68: error: `green` is no colour; write #rrggbb or #rrggbbaa"],
    );
    expect(
        "\"name\": \"yard\"",
        "\"name\": \"ya+rd\"",
        &[
            "5:23: error: `ya+rd` cannot be a name: it must not be empty, nor hold / + : or control characters, nor begin or end with a space",
        ],
    );
    expect(
        "\"tiles\": [{ \"name\": \"yard\"",
        "\"tiles\": [{ \"name\": \"yard\", \"tiles\": [\"a\"] }, { \"name\": \"yard\"",
        &[
            "5:49: error: there are two tile sets with the name `yard`; give one of them another name",
            "13:26: warning: tile set `yard` has no tile `sand`; the tile sets are: yard. A placeholder is shown in its place",
            "13:44: warning: tile set `yard` has no tile `wall`; the tile sets are: yard. A placeholder is shown in its place",
        ],
    );
}

#[test]
fn paths_stay_in_the_folder_of_the_map() {
    let named = |path: &str| format!("\"tiles\": [\"{path}\", {{");
    let wrong = |path: &str, why: &str| {
        expect("\"tiles\": [{", &named(path), &[&format!("5:13: error: `{path}`: {why}")]);
    };
    wrong("../up.tiles.json", "a path must not leave the folder of the map");
    wrong("a/../../up.tiles.json", "a path must not leave the folder of the map");
    wrong("/etc/passwd", "a path must be relative to the file that names it");
    wrong("c:tiles", "a path must be relative to the file that names it");
    wrong("", "a path must not be empty");
}

#[cfg(feature = "png")]
mod pictures {
    use sturdy_quilt::{Color, Picture, PixelSize};

    use super::*;

    /// The problems of a set in a file of its own, with a picture of 40 × 16 pixels beside it.
    fn set_problems(set: &str) -> Vec<String> {
        let mut files =
            files(&SOUND.replacen("\"tiles\": [{", "\"tiles\": [\"art/s.tiles.json\", {", 1));
        files.add("art/s.tiles.json", set);
        let picture = Picture::filled(PixelSize::new(40, 16), Color::rgb(1, 2, 3));
        files.add("art/sheet.png", picture.to_png().unwrap());
        files.add("art/text.png", "no picture");
        problems_of(&files, &Limits::default())
    }

    fn sheet(entries: &str) -> String {
        format!(
            "{{\"format\": \"sturdy-quilt/tiles\", \"version\": 1,\n\"sheet\": {{ {entries} }} }}"
        )
    }

    #[test]
    fn mistakes_in_sheets() {
        let found = |entries: &str| set_problems(&sheet(entries));
        assert_eq!(
            found("\"picture\": \"sheet.png\", \"tile\": [16, 16]"),
            [
                "art/s.tiles.json:2:44: warning: the sheet of 40 × 16 px leaves pixels over when cut into 2 × 1 tiles of 16 × 16 px; check tile, margin and gap, or state columns and rows if it is meant"
            ]
        );
        let stated = "\"picture\": \"sheet.png\", \"tile\": [16, 16], \"columns\": 2, \"rows\": 1";
        assert_eq!(found(stated), [""; 0]);
        assert_eq!(
            found("\"picture\": \"sheet.png\", \"tile\": [64, 16]"),
            [
                "art/s.tiles.json:2:10: error: a sheet of 40 × 16 px holds no 1 × 1 tiles of 64 × 16 px with margin 0 and gap 0; tile is the size of one tile in pixels, margin the pixels around all tiles, gap those between two"
            ]
        );
        assert_eq!(
            found("\"picture\": \"shet.png\", \"tile\": [16, 16]"),
            [
                "art/s.tiles.json:2:23: error: file `art/shet.png`: there is no such file; did you mean `sheet.png`?"
            ]
        );
        assert_eq!(
            found("\"picture\": \"text.png\", \"tile\": [8, 8]"),
            [
                "art/s.tiles.json:2:23: error: picture `text.png`: the bytes are no readable PNG: Invalid PNG signature"
            ]
        );
        assert_eq!(
            found("\"tile\": [8, 8]"),
            ["art/s.tiles.json:2:10: error: the sheet has no `picture`"]
        );
        assert_eq!(
            found("\"picture\": \"sheet.png\", \"tile\": [0, 8]"),
            [
                "art/s.tiles.json:2:45: error: the size of a tile must lie between 1 and 16777215, not 0"
            ]
        );
        assert_eq!(
            set_problems(&SOUND.replace("\"name\": \"soil\"", "\"name\": \"deep\"")),
            [
                "art/s.tiles.json:2:13: error: the format must be `sturdy-quilt/tiles`, not `sturdy-quilt/map`; this is a map; name a tile set here"
            ]
        );
        let outside = sheet("\"picture\": \"sheet.png\", \"tile\": [8, 8]")
            .replace("} }", "}, \"tiles\": [{ \"at\": [5, 0] }] }");
        assert_eq!(
            set_problems(&outside),
            [
                "art/s.tiles.json:2:72: error: tile: the place 5:0 lies outside the sheet of 5 × 2 tiles"
            ]
        );
    }

    #[test]
    fn a_lost_set_does_not_make_its_tiles_mistakes_too() {
        let mut files = files(&SOUND.replace("\"yard/sand\"", "\"lost/sand\"").replacen(
            "\"tiles\": [{",
            "\"tiles\": [\"lost.tiles.json\", {",
            1,
        ));
        files.add("lots.tiles.json", "");
        assert_eq!(
            problems_of(&files, &Limits::default()),
            [
                "map.quilt.json:5:13: error: file `lost.tiles.json`: there is no such file; did you mean `lots.tiles.json`?"
            ]
        );
    }

    #[test]
    fn huge_pictures_are_refused_before_they_are_decoded() {
        let limits = Limits { pixels: 100, ..Limits::default() };
        let mut files =
            files(&SOUND.replacen("\"tiles\": [{", "\"tiles\": [\"s.tiles.json\", {", 1));
        files.add("s.tiles.json", sheet("\"picture\": \"art.png\", \"tile\": [8, 6]"));
        assert_eq!(
            problems_of(&files, &limits),
            [
                "s.tiles.json:2:23: error: picture `art.png`: a picture of 32 × 6 px has more than the 100 pixels allowed"
            ]
        );
    }
}

#[test]
fn limits_are_kept() {
    let found = |limits: Limits| problems_of(&files(SOUND), &limits);
    assert_eq!(
        found(Limits { cells: 7, ..Limits::default() }),
        [
            "map.quilt.json:14:17: error: `cells` of layer `soil` brings the map beyond the limit of cells"
        ]
    );
    assert_eq!(found(Limits { cells: 8, ..Limits::default() }), [""; 0]);
    let layer = "{ \"name\": \"more\", \"cells\": { \"rows\": [\"  \"] } }, ";
    let two = SOUND.replacen("\"layers\": [", &format!("\"layers\": [{layer}"), 1);
    let of_two = |cells| problems_of(&files(&two), &Limits { cells, ..Limits::default() }).len();
    assert_eq!((of_two(9), of_two(10)), (1, 0), "all layers together");
    assert_eq!(
        found(Limits { layers: 0, ..Limits::default() }),
        ["map.quilt.json:8:13: error: there are more than the 0 layers allowed"]
    );
    assert_eq!(
        found(Limits { sets: 0, ..Limits::default() })[0],
        "map.quilt.json:5:12: error: there are more than the 0 tile sets allowed"
    );
    assert_eq!(
        found(Limits { tiles: 1, ..Limits::default() })[0],
        "map.quilt.json:5:13: error: there are more than the 1 tiles allowed"
    );
    assert_eq!(
        found(Limits { file_bytes: 100, ..Limits::default() }),
        [format!(
            "map.quilt.json: error: file `map.quilt.json`: it has {} bytes, more than the 100 allowed",
            SOUND.len()
        )]
    );
}

#[test]
fn long_lists_of_problems_are_cut_and_counted() {
    let many: String = (0..50).map(|n| format!("\"key{n}\": {n}, ")).collect();
    let wrong = SOUND.replace("\"version\": 1,", &format!("\"version\": 1, {many}"));
    let limits = Limits { problems: 10, ..Limits::default() };
    let error: LoadError = load(&files(&wrong), "map.quilt.json", &limits).unwrap_err();
    assert_eq!((error.problems().len(), error.not_listed()), (10, 40));
    assert!(error.to_string().starts_with("the map cannot be loaded: 50 errors\n"));
    assert!(error.to_string().ends_with("\n  and 40 more that are not listed"));
    assert!(error.problems().iter().all(|problem| problem.severity == Severity::Error));
}

#[test]
fn deep_nesting_is_no_danger() {
    let deep = format!("{}{}", "[".repeat(100_000), "]".repeat(100_000));
    expect(
        "\"cell\": [1, 1]",
        &format!("\"cell\": [1, 1], \"data\": {deep}"),
        &["21:57: error: the data of a marker is nested too deep"],
    );
    let found = problems_of(&files(&deep), &Limits::default());
    assert_eq!(found, ["map.quilt.json:1:1: error: the document must be an object, not a list"]);
}

#[test]
fn very_many_faults_take_no_time() {
    let rows: String =
        (0..200_000).map(|n| if n % 2 == 0 { "\".\",\n" } else { "\"..\",\n" }).collect();
    let wrong = SOUND.replacen("\"....\"", &format!("{rows}\"....\""), 1);
    let error = load(&files(&wrong), "map.quilt.json", &Limits::default()).unwrap_err();
    assert_eq!(error.problems().len(), 200);
    assert_eq!(error.not_listed(), 200_000 - 200);
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(400))]

    /// Whatever is cut off, doubled or swapped in a map: it loads, or says why not.
    #[test]
    fn damaged_maps_never_panic(at in 0..SOUND.len(), len in 0..40_usize, put in ".{0,4}", twice: bool) {
        let mut at = at;
        while !SOUND.is_char_boundary(at) {
            at -= 1;
        }
        let mut end = (at + len).min(SOUND.len());
        while !SOUND.is_char_boundary(end) {
            end -= 1;
        }
        let end = end.max(at);
        let again = if twice { &SOUND[at..end] } else { "" };
        let damaged = format!("{}{put}{again}{}", &SOUND[..at], &SOUND[if twice { at } else { end }..]);
        match load(&files(&damaged), "map.quilt.json", &Limits::default()) {
            Ok(loaded) => prop_assert!(loaded.quilt.layers().len() <= 2),
            Err(error) => prop_assert!(!error.problems().is_empty()),
        }
    }

    #[test]
    fn any_bytes_never_panic(bytes in prop::collection::vec(any::<u8>(), 0..200)) {
        let mut files = MemorySource::default();
        files.add("map.quilt.json", bytes);
        prop_assert!(load(&files, "map.quilt.json", &Limits::default()).is_err());
    }
}

#[cfg(not(feature = "png"))]
#[test]
fn a_program_without_a_decoder_says_so() {
    let sheet = "{ \"name\": \"s\", \"sheet\": { \"picture\": \"art.png\", \"tile\": [8, 6] } }";
    let mut files = files(&SOUND.replacen("\"tiles\": [", &format!("\"tiles\": [{sheet}, "), 1));
    files.add("art.png", "pixels");
    assert_eq!(
        problems_of(&files, &Limits::default()),
        [
            "map.quilt.json:5:50: error: picture `art.png`: this program was built without the feature `png`, and cannot decode it"
        ]
    );
}
