//! Scripts of edits, what differs between maps, changes in files, and journals.

use super::*;

/// A map with values, on square cells.
const YARD: &str = r#"{ "format": "sturdy-quilt/map", "version": 1, "lattice": { "cell": [16, 16] },
"tiles": [{ "name": "yard", "tiles": ["grass", "mud", "wall"] }],
"layers": [{ "name": "soil", "cells": { "rows": ["........", "........", "....ww..", "........"],
    "legend": { ".": "yard/grass", "w": "yard/wall" } } }, { "name": "over" }],
"values": [{ "name": "water", "type": "i32" }] }"#;

fn yard() -> Folder {
    Folder::with("yard.quilt.json", YARD)
}

/// The rows of a layer of the yard, after a script.
fn rows_after(script: &str) -> Vec<String> {
    let folder = yard();
    folder.write("do.script", script);
    folder.say("edit yard.quilt.json -o out.quilt.json --script do.script");
    let quilt = folder.map("out.quilt.json");
    let sign = |x: i32, y: i32| {
        let held = quilt.get("soil", sturdy_quilt::CellPos::new(x, y)).unwrap().here().unwrap();
        match quilt.tiles().notation(held).to_string().split('+').next().unwrap() {
            "empty" => ' ',
            "yard/grass" => '.',
            "yard/mud" => 'm',
            "yard/wall" => 'w',
            _ => '?',
        }
    };
    (0..4).map(|y| (0..8).map(|x| sign(x, y)).collect()).collect()
}

#[test]
fn scripts_lay_into_what_they_select() {
    let cases = [
        ("line soil 0,0 3,3 yard/mud", ["m.......", ".m......", "..m.ww..", "...m...."]),
        ("ellipse soil 0,0 3x3 empty", ["   .....", "   .....", "   .ww..", "........"]),
        (
            "select rect 0,0 4x2\nlay soil yard/mud",
            ["mmmm....", "mmmm....", "....ww..", "........"],
        ),
        (
            "select rect 0,0 4x4\noutline\nlay soil yard/mud",
            ["mmmm....", "m..m....", "m..mww..", "mmmm...."],
        ),
        (
            "select like soil yard/wall\ngrow 1\nless like soil yard/wall\nlay soil yard/mud",
            ["........", "....mm..", "...mwwm.", "....mm.."],
        ),
        (
            "select line 0,0 7,0 7,3\nadd rect 0,3 2x1\nlay soil yard/mud",
            ["mmmmmmmm", ".......m", "....ww.m", "mm.....m"],
        ),
        (
            "select polygon 0,0 4,0 0,3\nwithin rect 0,0 3x4\nlay soil yard/mud",
            ["mmm.....", "mmm.....", "mm..ww..", "m......."],
        ),
        (
            "select flood soil 4,2\nlay soil yard/mud",
            ["........", "........", "....mm..", "........"],
        ),
        ("flood soil 4,2 empty # dug away", ["........", "........", "....  ..", "........"]),
        (
            "select rect 3,1 4x3\nshrink 1\nlay soil yard/mud",
            ["........", "........", "....mm..", "........"],
        ),
        ("replace soil yard/wall yard/mud", ["........", "........", "....mm..", "........"]),
        ("select rect 4,2 2x1\nshift soil -4,1", ["........", "........", "....  ..", "ww......"]),
        (
            "select rect 4,2 2x1\ncopy soil\npaste 0,0\npaste 7,0 90",
            ["ww.....w", ".......w", "....ww..", "........"],
        ),
        (
            "put soil 1,1 yard/mud\n\n  erase soil 0,0",
            [" .......", ".m......", "....ww..", "........"],
        ),
    ];
    for (script, expected) in cases {
        let found = rows_after(script);
        assert_eq!(found, expected, "{script}");
    }
}

#[test]
fn scripts_change_values() {
    let folder = yard();
    folder.write(
        "rain.script",
        "select rect 0,0 4x4\nset water 3\nselect rect 1,1 2x2\nincrease water 4\nselect all\nclamp water 0 6\n\
         brush water 7,3 20 5\n",
    );
    let said = folder.say("edit yard.quilt.json -o out.quilt.json --script rain.script");
    assert!(said.contains(" values changed"), "{said}");
    let quilt = folder.map("out.quilt.json");
    let values = quilt.values::<i32>("water").unwrap();
    let at = |x, y| values.get(sturdy_quilt::CellPos::new(x, y)).here().unwrap();
    assert_eq!((at(0, 0), at(1, 1), at(4, 0)), (3, 6, 0));
    assert_eq!(at(7, 3), 5);
    let said = folder.fail("edit yard.quilt.json --dry-run --set-water", 2);
    assert!(said.contains("--set-water"), "{said}");
    folder.write("half.script", "set water 0.5\n");
    let said = folder.fail("edit yard.quilt.json --dry-run --script half.script", 1);
    assert!(
        said.contains(
            "half.script:1: nothing is changed: value layer `water` holds i32 and not 0.5"
        ),
        "{said}"
    );
}

#[test]
fn every_fault_of_a_script_is_told_with_its_place() {
    let folder = yard();
    let script = "selct rect 3,4 2x2\nput soil 3;4 yard/mud\nselect ellipse 3,4\nlay soil \"yard/mud\n\
        paste 3,4 45\nfill soil 3,4 2x2 yard/mud again\nselect circle 3,4\nlay soil yard/mud*0\nshift soil 3\ngrow -1\nfrobnicate\n";
    folder.write("bad.script", script);
    let said = folder.fail("edit yard.quilt.json --dry-run --script bad.script", 1);
    for told in [
        "bad.script:1:1: there is no command `selct`; `select` may be meant",
        "bad.script:2:10: `3;4`: write column and row as X,Y, for example 3,-4",
        "bad.script:3:19: a word is missing; write select ellipse X,Y WxH",
        "bad.script:4:10: a quote has no end",
        "bad.script:5:11: `45`: write 90, 180, 270 or mirror",
        "bad.script:6:28: `again` is one word too many; write fill LAYER X,Y WxH TILE",
        "bad.script:7:8: `circle`: a shape is one of: all; rect X,Y WxH;",
        "bad.script:8:10: `yard/mud*0`: the weight behind `*` is a whole number from 1 on",
        "bad.script:9:12: `3`: write columns and rows as X,Y, for example 3,-4",
        "bad.script:10:6: `-1`: write a whole number from 0 to 65536",
        "bad.script:11:1: there is no command `frobnicate`; see sturdy-quilt edit --help",
    ] {
        assert!(said.contains(told), "{told}\n{said}");
    }
    // What only the map can tell.
    folder.write("wrong.script", "put soil 1,1 yard/mud\npaste 1,1\n");
    let said = folder.fail("edit yard.quilt.json -o out.quilt.json --script wrong.script", 1);
    assert!(
        said.contains("wrong.script:2: nothing is changed: nothing was copied before"),
        "{said}"
    );
    assert!(!folder.path("out.quilt.json").exists());
}

#[test]
fn a_dry_run_draws_before_and_after() {
    let folder = yard();
    folder.say("edit yard.quilt.json --dry-run --fill soil 0,0 2x2 yard/mud --picture both.png");
    assert_eq!(folder.read("yard.quilt.json"), YARD);
    let picture = folder.picture("both.png");
    assert_eq!(picture.size(), PixelSize::new(1280, 800));
    let differs = |x: u32| (100..700).any(|y| picture.get(x, y) != picture.get(x + 644, y));
    assert!((0..300).any(differs), "what is changed lies on the left");
    assert!(!(560..636).any(differs), "and nothing else");
}

#[test]
fn changes_lead_from_one_map_to_the_other_and_back() {
    let folder = yard();
    folder.write(
        "day.script",
        "line soil 0,0 7,3 yard/mud\nmark gate 2,2\nselect rect 0,0 3x3\nset water 4\n",
    );
    folder.say("edit yard.quilt.json -o out.quilt.json --script day.script");
    let said = folder.fail("diff yard.quilt.json out.quilt.json --most 2", 1);
    let expected = "layer `soil`: 8 cells\n  0,0  yard/grass -> yard/mud\n  1,0  yard/grass -> yard/mud\n  and 6 more\n\
        value layer `water`: 9 values\n  0,0  0 -> 4\n  1,0  0 -> 4\n  and 7 more\nmarker `gate`: added\n";
    assert_eq!(said, expected);
    let report = json_of(&folder.fail("diff yard.quilt.json out.quilt.json --json", 1));
    assert_eq!(report["cells"].as_array().map(Vec::len), Some(8));
    assert_eq!(
        report["cells"][0],
        json!({ "layer": "soil", "cell": [0, 0], "before": "yard/grass", "after": "yard/mud" })
    );
    assert_eq!(
        report["values"][8],
        json!({ "layer": "water", "cell": [2, 2], "before": 0, "after": 4 })
    );
    assert_eq!(report["markers"], json!([{ "name": "gate", "before": null, "after": "cell 2,2" }]));
    let said = folder.fail("diff yard.quilt.json out.quilt.json -o day.changes", 1);
    assert!(said.ends_with("8 cells, 9 values, 1 marker differ\n"), "{said}");
    folder.fail("diff yard.quilt.json out.quilt.json -o short.changes --forward", 1);
    assert!(
        fs::read(folder.path("short.changes")).unwrap().len()
            < fs::read(folder.path("day.changes")).unwrap().len()
    );
    folder.fail("diff yard.quilt.json out.quilt.json -o day.png", 1);
    assert_eq!(folder.picture("day.png").size(), PixelSize::new(1280, 800));
    for changes in ["day.changes", "short.changes"] {
        folder.say(&format!("apply {changes} yard.quilt.json -o again.quilt.json"));
        assert_eq!(folder.say("diff again.quilt.json out.quilt.json"), "both maps hold the same\n");
    }
    folder.say("apply day.changes out.quilt.json -o back.quilt.json --inverse");
    assert_eq!(folder.say("diff back.quilt.json yard.quilt.json"), "both maps hold the same\n");

    // A map that has changed meanwhile.
    folder.say("edit yard.quilt.json -o other.quilt.json --put soil 0,0 yard/wall");
    let said = folder.fail("apply day.changes other.quilt.json -o no.quilt.json", 1);
    assert!(
        said.contains("--keep leaves this") && said.contains("cell 0,0 of layer `soil`"),
        "{said}"
    );
    assert!(!folder.path("no.quilt.json").exists());
    let said = folder.say("apply day.changes other.quilt.json -o kept.quilt.json --keep");
    assert!(
        said.contains(
            "7 cells changed, 9 values changed, 1 marker changed\nleft as the map has it:"
        ),
        "{said}"
    );
    folder.say("apply day.changes other.quilt.json -o taken.quilt.json --take");
    assert_eq!(folder.say("diff taken.quilt.json out.quilt.json"), "both maps hold the same\n");
    folder.write("noise.changes", "these are none");
    let said = folder.fail("apply noise.changes yard.quilt.json --dry-run", 1);
    assert!(said.contains("these bytes are no changes of a map"), "{said}");
}

#[test]
fn a_journal_is_listed_undone_and_applied() {
    let folder = yard();
    let edit = |label: &str, change: &str| {
        folder
            .say(&format!("edit yard.quilt.json --journal yard.journal --label {label} {change}"));
    };
    edit("dig", "--erase soil 1,1");
    edit("wall", "--fill soil 0,3 8x1 yard/wall");
    assert_eq!(folder.read("yard.quilt.json"), YARD, "the map is as it was");
    let said = folder.say("log yard.journal");
    assert!(
        said.starts_with(
            "yard.journal  leads on from yard.quilt.json, 2 changes\n    1  dig   1 cell, "
        ),
        "{said}"
    );
    assert_eq!(folder.say("undo 1 yard.journal"), "undone: wall, 8 cells\n");
    edit("mud", "--put soil 5,0 yard/mud");
    assert_eq!(folder.say("undo 2 yard.journal"), "undone: mud, 1 cell\nundone: dig, 1 cell\n");
    let said = folder.fail("undo 1 yard.journal", 1);
    assert!(said.contains("has 0 changes to undo"), "{said}");
    let said = folder.say("log yard.journal");
    for (line, fate) in
        [(1, "undone by 6"), (2, "undone by 3"), (3, "undoes 2"), (5, "undoes 4"), (6, "undoes 1")]
    {
        assert!(said.lines().nth(line).unwrap().ends_with(fate), "{said}");
    }
    let report = json_of(&folder.say("log yard.journal --json"));
    assert_eq!(report["records"][1]["undone_by"], 3);
    // A dry run goes on from the journal, and leaves it.
    edit("mud", "--put soil 6,0 yard/mud");
    let dry = "edit yard.quilt.json --journal yard.journal --dry-run";
    let said = folder.say(&format!("{dry} --put soil 6,0 yard/mud"));
    assert!(said.ends_with("nothing is changed: all of it is so already\n"), "{said}");
    let said = folder.say(&format!("{dry} --put soil 7,0 yard/mud"));
    assert!(said.ends_with("yard.quilt.json: 1 cell changed\n"), "{said}");
    folder.say("undo 1 yard.journal");
    edit("gate", "--mark gate 3,3");
    folder.say("apply yard.journal yard.quilt.json -o new.quilt.json");
    assert_eq!(folder.fail("diff yard.quilt.json new.quilt.json", 1), "marker `gate`: added\n");

    // Damage at the end is told, cut off and kept.
    let whole = fs::read(folder.path("yard.journal")).unwrap();
    folder.write("yard.journal", &whole[..whole.len() - 3]);
    let said = folder.fail("log yard.journal", 1);
    assert!(
        said.contains(" 8 changes\n") && said.contains("on it cannot be read: they end too early"),
        "{said}"
    );
    let done =
        folder.run("edit yard.quilt.json --journal yard.journal --put soil 0,0 yard/mud").success();
    assert!(all_said(&done).contains("were cut off: they end too early"), "{}", all_said(&done));
    assert!(folder.path("yard.journal.cut-1").exists());
    assert!(folder.say("log yard.journal").contains(" 9 changes\n"));

    // It belongs to its map.
    folder.say("edit yard.quilt.json -o yard.quilt.json --put soil 0,0 yard/mud");
    let said = folder.fail("undo 1 yard.journal", 1);
    assert!(said.contains("leads on from another state of"), "{said}");
}

/// A disk that is full, as far as a process can tell: files may not grow beyond some blocks.
#[cfg(unix)]
#[test]
fn a_journal_on_a_full_disk_keeps_its_whole_records() {
    let folder = yard();
    folder.say("edit yard.quilt.json --journal yard.journal --put soil 0,0 yard/mud");
    let before = fs::read(folder.path("yard.journal")).unwrap();
    let tool = assert_cmd::cargo::cargo_bin("sturdy-quilt");
    // Weights make cells that cannot be told in short.
    let line = "lay soil yard/mud yard/grass yard/wall empty";
    let script = format!("select rect 0,0 400x400\n{line}\n");
    folder.write("much.script", script);
    let run = format!(
        "ulimit -f 8; trap '' XFSZ; exec '{}' edit yard.quilt.json --journal yard.journal --script much.script",
        tool.display()
    );
    let done = std::process::Command::new("bash")
        .args(["-c", &run])
        .current_dir(folder.0.path())
        .output()
        .unwrap();
    assert!(!done.status.success());
    let said = String::from_utf8(done.stderr).unwrap();
    assert!(said.contains("`yard.journal` cannot be appended to"), "{said}");
    assert_eq!(fs::read(folder.path("yard.journal")).unwrap(), before);
    folder.say("edit yard.quilt.json --journal yard.journal --script much.script");
    assert!(folder.say("log yard.journal").contains(" 2 changes\n"));
}
