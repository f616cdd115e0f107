//! Mistakes in documents: each is found, with its place and a hint, and all of them at once.

use proptest::prelude::*;
use sturdy_quilt::document::{Expects, Limits, Severity};
use sturdy_quilt::{LoadError, Loader, MemorySource, Quilt};

use crate::document::files;

/// A map without a mistake.
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
fn problems_of(files: &MemorySource, limits: Limits) -> Vec<String> {
    let problems = match Loader::new().with_limits(limits).load(files, "map.quilt.json") {
        Ok(loaded) => loaded.warnings,
        Err(error) => error.problems().to_vec(),
    };
    problems.iter().map(ToString::to_string).collect()
}

#[test]
fn the_sound_map_is_sound() {
    assert_eq!(problems_of(&files(SOUND), Limits::default()), [""; 0]);
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
    let error = Quilt::load(&files(&wrong), "map.quilt.json").unwrap_err();
    let expected = "\
the map cannot be loaded: 7 errors
  map.quilt.json:4:25: error: there is no lattice shape `squre`; the known shape is square
  map.quilt.json:5:13: error: file `lost.tiles.json`: there is no such file; the folder searched is `.`
  map.quilt.json:5:88: error: the map has no ground class `opn`; did you mean `open`?
  map.quilt.json:7:25: error: mover `cart` treats `stome`, which is not a ground class; did you mean `stone`?
  map.quilt.json:11:7: error: the layer has an unknown key `prioritty`; did you mean `priority`?
  map.quilt.json:16:12: error: row 2 has 4 cells, but row 1 has 5; add 1 character; a space is an empty cell
  map.quilt.json:21:51: error: there are two markers with the name `gate`; give one of them another name";
    assert_eq!(error.to_string(), expected);
    assert_eq!(format!("{error:?}"), error.to_string(), "what `unwrap` shows");
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
        Loader::new().load(&files, "map.quilt.json")
    };
    let quilt = with(r#""table": "soil.csv", "set": "yard", "columns": 6"#).unwrap().quilt;
    let text = quilt.layer_text("soil").unwrap();
    assert_eq!(text.rows, ["sw2"]);
    assert_eq!(text.legend["2"], "yard/2:0");
    let error = with(r#""table": "soil.csv", "set": "yard", "columns": 5"#).unwrap_err();
    assert!(error.to_string().contains(
        "the numbers are for a sheet of 5 columns, but that of tile set `yard` has 6; the sheet was cut anew"
    ), "{error}");
}

#[test]
fn what_a_game_expects_is_missed_at_once_and_with_the_rest() {
    let expects = Expects::default()
        .with_layers(["soil", "sol"])
        .with_tiles(["yard/wall", "yard/wal", "yard/gone"])
        .with_markers(["gate", "gat"])
        .with_movers(["cart", "bee"])
        .with_ground(["open", "mud"]);
    let problems_of = |map: &str| {
        let error = Loader::new().with_expects(expects.clone()).load(&files(map), "map.quilt.json");
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
    assert_eq!(
        read(sound),
        Ok(Expects::default().with_layers(["soil"]).with_movers(["cart", "bee"]))
    );
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

#[cfg(feature = "png")]
mod pictures {
    use super::*;

    fn sheet(entries: &str) -> String {
        format!(
            "{{\"format\": \"sturdy-quilt/tiles\", \"version\": 1,\n\"sheet\": {{ {entries} }} }}"
        )
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
            problems_of(&files, Limits::default()),
            [
                "map.quilt.json:5:13: error: file `lost.tiles.json`: there is no such file; the folder searched is `.`; did you mean `lots.tiles.json`?"
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
            problems_of(&files, limits),
            [
                "s.tiles.json:2:23: error: picture `art.png`: a picture of 48 × 6 px has more than the 100 pixels allowed"
            ]
        );
    }
}

#[test]
fn limits_are_kept() {
    let found = |limits: Limits| problems_of(&files(SOUND), limits);
    assert_eq!(
        found(Limits { cells: 7, ..Limits::default() }),
        [
            "map.quilt.json:14:17: error: `cells` of layer `soil` brings the map beyond the limit of cells"
        ]
    );
    assert_eq!(found(Limits { cells: 8, ..Limits::default() }), [""; 0]);
    let layer = "{ \"name\": \"more\", \"cells\": { \"rows\": [\"  \"] } }, ";
    let two = SOUND.replacen("\"layers\": [", &format!("\"layers\": [{layer}"), 1);
    let of_two = |cells| problems_of(&files(&two), Limits { cells, ..Limits::default() }).len();
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
        "map.quilt.json:5:40: error: there are more than the 1 tiles allowed"
    );
    let deep = |depth| {
        let data = SOUND
            .replace("\"cell\": [1, 1]", "\"cell\": [1, 1], \"data\": [{ \"a\": [\"[[[\\\"\"] }]");
        problems_of(&files(&data), Limits { depth, ..Limits::default() }).len()
    };
    assert_eq!((deep(2), deep(3)), (1, 0));
    // Lists of whole numbers count as one value in the document, but not in data.
    let of_values = |data: &str, json_values| {
        let data = format!("\"cell\": [1, 1], \"data\": {data}");
        let text = SOUND.replace("\"cell\": [1, 1]", &data);
        problems_of(&files(&text), Limits { json_values, ..Limits::default() })
    };
    let least = |data: &str| (0..).find(|&most| of_values(data, most).is_empty()).unwrap();
    let alone = least("1");
    assert_eq!([least("[]"), least("[1, 2]"), least("[true, 2]")], [alone, alone, alone + 2]);
    let hundred = format!("[{}1]", "1, ".repeat(99));
    assert_eq!(least(&hundred), 101);
    assert_eq!(
        of_values(&hundred, 100),
        [
            "map.quilt.json:21:57: error: the data of a marker: there are more than the 100 JSON values allowed"
        ]
    );
    let said = of_values("[1, 2, [], {}]", alone).remove(0);
    assert!(
        said.ends_with(&format!("error: there are more than the {alone} JSON values allowed")),
        "{said}"
    );
    let with_set = SOUND.replace("\"tiles\": [{", "\"tiles\": [\"more.tiles.json\", {");
    let of_files = |count| {
        let mut all = files(&with_set);
        all.add(
            "more.tiles.json",
            "{ \"format\": \"sturdy-quilt/tiles\", \"version\": 1, \"tiles\": [\"a\"] }",
        );
        problems_of(&all, Limits { files: count, ..Limits::default() })
    };
    assert_eq!(
        of_files(1),
        ["map.quilt.json:5:13: error: file `more.tiles.json`: a map may read at most 1 files"]
    );
    assert_eq!(of_files(2), [""; 0]);
    let packed =
        SOUND.replace("\"legend\": { \".\": \"yard/sand\", \"#\": \"yard/wall\" },\n        ", "");
    let rows = "\"rows\": [\n          \"..##\",\n          \"....\"\n        ]";
    let block = "\"size\": [2, 2], \"set\": \"yard\", \"packed\": { \"plain\": \"AAAAAAAAAAAAAAAAAAAAAA==\" }";
    let packed = packed.replace(rows, block);
    let of_bytes = |unpacked_bytes| {
        problems_of(&files(&packed), Limits { unpacked_bytes, ..Limits::default() })
    };
    assert_eq!(of_bytes(16), [""; 0]);
    assert_eq!(
        of_bytes(15),
        [
            "map.quilt.json:13:61: error: `cells` of layer `soil` would unpack to 16 bytes, more than the 15 allowed"
        ]
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
    let error: LoadError =
        Loader::new().with_limits(limits).load(&files(&wrong), "map.quilt.json").unwrap_err();
    assert_eq!((error.problems().len(), error.not_listed()), (10, 40));
    assert!(error.to_string().starts_with("the map cannot be loaded: 50 errors\n"));
    assert!(error.to_string().ends_with("\n  and 40 more that are not listed"));
    assert!(error.problems().iter().all(|problem| problem.severity == Severity::Error));
}

#[test]
fn warnings_are_counted_too_and_never_hide_an_error() {
    let legend: String =
        (0..50).map(|n| format!("\"{}\": \"yard/gone{n}\", ", char::from(b'A' + n))).collect();
    let many = SOUND
        .replace("\"legend\": { ", &format!("\"legend\": {{ {}", legend.replace("\\", "\\\\")));
    let limits = Limits { problems: 10, ..Limits::default() };
    let loaded = Loader::new().with_limits(limits).load(&files(&many), "map.quilt.json").unwrap();
    assert_eq!((loaded.warnings.len(), loaded.not_listed), (10, 40));
    let wrong = many.replace("[1, 1]", "[1, \"1\"]").replace("\"....\"", "\"..\"");
    let error =
        Loader::new().with_limits(limits).load(&files(&wrong), "map.quilt.json").unwrap_err();
    let errors = error.problems().iter().filter(|p| p.severity == Severity::Error).count();
    assert_eq!((error.problems().len(), errors, error.not_listed()), (10, 2, 42));
    assert_eq!(error.problems()[0].severity, Severity::Error);
    assert!(error.to_string().starts_with("the map cannot be loaded: 2 errors\n"), "{error}");
}

#[test]
fn deep_nesting_is_no_danger() {
    let deep = format!("{}{}", "[".repeat(100_000), "]".repeat(100_000));
    let data = SOUND.replace("\"cell\": [1, 1]", &format!("\"cell\": [1, 1], \"data\": {deep}"));
    assert_eq!(
        problems_of(&files(&data), Limits::default()),
        ["map.quilt.json:21:181: error: the document is nested too deep from here on"]
    );
    let found = problems_of(&files(&deep), Limits::default());
    assert_eq!(
        found,
        ["map.quilt.json:1:128: error: the document is nested too deep from here on"]
    );
}

#[test]
fn very_many_faults_take_no_time() {
    let rows: String =
        (0..200_000).map(|n| if n % 2 == 0 { "\".\",\n" } else { "\"..\",\n" }).collect();
    let wrong = SOUND.replacen("\"....\"", &format!("{rows}\"....\""), 1);
    let error = Quilt::load(&files(&wrong), "map.quilt.json").unwrap_err();
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
        match Loader::new().load(&files(&damaged), "map.quilt.json") {
            Ok(loaded) => prop_assert!(loaded.quilt.layers().len() <= 2),
            Err(error) => prop_assert!(!error.problems().is_empty()),
        }
    }

    #[test]
    fn any_bytes_never_panic(bytes in prop::collection::vec(any::<u8>(), 0..200)) {
        let mut files = MemorySource::default();
        files.add("map.quilt.json", bytes);
        prop_assert!(Quilt::load(&files, "map.quilt.json").is_err());
    }
}

#[cfg(not(feature = "png"))]
#[test]
fn a_program_without_a_decoder_says_so() {
    let sheet = "{ \"name\": \"s\", \"sheet\": { \"picture\": \"art.png\", \"tile\": [8, 6] } }";
    let mut files = files(&SOUND.replacen("\"tiles\": [", &format!("\"tiles\": [{sheet}, "), 1));
    files.add("art.png", "pixels");
    assert_eq!(
        problems_of(&files, Limits::default()),
        [
            "map.quilt.json:5:50: error: picture `art.png`: this program was built without the feature `png`, and cannot decode it"
        ]
    );
}
