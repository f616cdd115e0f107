//! The tool as its users meet it: real runs of the real program.

use std::fs;
use std::path::{Path, PathBuf};

use assert_cmd::Command;
use assert_cmd::assert::Assert;
use sturdy_quilt::{Cell, Color, GroundMap, Picture, Quilt};
use tempfile::TempDir;

fn tool() -> Command {
    Command::cargo_bin("sturdy-quilt").unwrap()
}

fn run(args: &[&str]) -> Assert {
    tool().args(args).assert()
}

fn output(assert: &Assert) -> String {
    String::from_utf8(assert.get_output().stdout.clone()).unwrap()
}

fn errors(assert: &Assert) -> String {
    String::from_utf8(assert.get_output().stderr.clone()).unwrap()
}

fn demo_folder() -> PathBuf {
    Path::new(env!("CARGO_MANIFEST_DIR")).join("../demo")
}

fn demo_map() -> String {
    demo_folder().join("terrace.quilt.json").display().to_string()
}

fn picture(path: &Path) -> Picture {
    Picture::from_png(&fs::read(path).unwrap(), 1 << 24).unwrap()
}

struct Folder(TempDir);

impl Folder {
    fn new() -> Folder {
        Folder(tempfile::tempdir().unwrap())
    }

    fn path(&self, name: &str) -> PathBuf {
        self.0.path().join(name)
    }

    fn text(&self, name: &str) -> String {
        self.path(name).display().to_string()
    }
}

#[test]
fn the_demo_walks_the_day_and_writes_what_it_says() {
    let folder = Folder::new();
    let done = run(&["demo", &folder.text("out")]).success();
    let said = output(&done).replace(&folder.text("out"), "OUT");
    assert!(said.contains("the game will ask: no problem; 64 × 40 cells at 0,0"), "{said}");
    assert!(said.contains("slides to 396,296, stopped by the left side of cell 26,16"), "{said}");
    assert!(said.contains("channel, says layer soil; a cart is blocked there"), "{said}");
    assert!(
        said.contains("6 cells changed, 1 chunk of ground derived anew; a cart is free there"),
        "{said}"
    );
    assert!(said.contains("(the map was exactly as before)"), "{said}");
    assert!(said.contains("loaded that (the same map)"), "{said}");
    let named: Vec<&str> =
        said.split_whitespace().filter(|word| word.starts_with("OUT/")).collect();
    for file in &named {
        assert!(folder.path(&file.replace("OUT/", "out/")).exists(), "{file}");
    }
    let pictures = named.iter().filter(|file| file.ends_with(".png")).count();
    assert!(pictures >= 7, "{pictures} pictures and a sheet");
    let (first, saved) = (folder.path("out/1-terrace.png"), folder.path("out/6-saved.png"));
    let (first, saved) = (picture(&first), picture(&saved));
    let differing: Vec<(u32, u32)> = (0..first.size().height)
        .flat_map(|y| (0..first.size().width).map(move |x| (x, y)))
        .filter(|&(x, y)| first.get(x, y) != saved.get(x, y))
        .collect();
    // The boardwalk lies over cells 26..29 × 16..18, 16 pixels each.
    assert!(differing.iter().all(|(x, y)| (416..464).contains(x) && (256..288).contains(y)));
    assert!(differing.len() > 750);
}

#[test]
fn the_sheet_of_the_demo_is_what_its_program_paints() {
    for (name, painted) in sturdy_quilt_demo::sheets() {
        assert!(
            picture(&demo_folder().join(name)) == painted,
            "paint {name} anew: cargo run -p sturdy-quilt-demo"
        );
    }
}

#[test]
fn the_demo_maps_are_laid_out_as_they_are_saved() {
    for name in ["terrace.quilt.json", "hoist.quilt.json"] {
        let path = demo_folder().join(name);
        let text = fs::read_to_string(&path).unwrap();
        assert_eq!(Quilt::open(path).unwrap().to_json().unwrap(), text, "{name}");
    }
}

/// All seven ground classes of the estate can be met, and every layer holds something.
#[test]
fn the_demo_has_something_of_everything() {
    let quilt = Quilt::open(demo_map()).unwrap();
    let ground = GroundMap::of(&quilt);
    for class in quilt.ground_rules().classes() {
        let class_of = |at| ground.class_at(at).here().flatten();
        let found = ground.bounds().cells().filter_map(class_of);
        let found = found.filter(|c| quilt.ground_rules().class_name(*c) == Some(class)).count();
        assert!(found >= 2, "{found} cells of {class}");
    }
    assert!(quilt.layers().len() >= 5);
    assert!(quilt.layers().iter().all(|layer| layer.cells().occupied().next().is_some()));
    for object in ["picker", "cart", "bee"] {
        let tiles: Vec<_> =
            quilt.tiles().find_where(|tile| tile.data()["object"] == object).collect();
        let is_one = |cell: Cell| cell.tile().is_some_and(|tile| tiles.contains(&tile));
        let count =
            quilt.layer("folk").unwrap().cells().occupied().filter(|(_, c)| is_one(*c)).count();
        assert!(count >= 3, "{count} of {object}");
    }
}

#[test]
fn check_finds_nothing_wrong_with_the_demo() {
    let expects = demo_folder().join("terrace.expects.json").display().to_string();
    let done = run(&["check", &demo_map(), "--strict", "--expects", &expects]).success();
    assert_eq!(output(&done), format!("{}: no problem\n", demo_map()));
    let hoist = demo_folder().join("hoist.quilt.json").display().to_string();
    run(&["check", &hoist, "--strict"]).success();
    let missing = run(&["check", &hoist, "--expects", &expects, "--json"]).code(1);
    let report: serde_json::Value = serde_json::from_str(&output(&missing)).unwrap();
    assert_eq!(
        report[0]["problems"][0]["message"],
        "the map has no layer `soil`, which the game expects"
    );
    let wrong = run(&["check", &hoist, "--expects", &hoist]).code(1);
    assert!(errors(&wrong).contains("the format must be `sturdy-quilt/expects`"));
}

/// Seven mistakes of different kinds, each with its line and a hint.
#[test]
fn check_lists_seven_mistakes_at_once() {
    let folder = Folder::new();
    let map = fs::read_to_string(demo_map()).unwrap();
    let wrong = [
        ("\"square\"", "\"sqare\""),
        ("[\"terrace.tiles.json\"", "[\"terace.tiles.json\""),
        ("\"mud\": 0.5", "\"mut\": 0.5"),
        ("\"sort_rows\": true", "\"sort_row\": true"),
        (
            "\"....*.....==,..........zxx3~d..*.===.,.,.......,..,.==,..==.,...\"",
            "\"....*.....==,..........zxx3~d..*.===.,.,.......,..,.==,..==.,..\"",
        ),
        ("\"terrace/wall-shadow\"", "\"terrace/wall-shadow+45\""),
        ("\"name\": \"picker-1\"", "\"name\": \"gate\""),
    ];
    let map = wrong.iter().fold(map, |map, (from, to)| {
        assert!(map.contains(from), "{from}");
        map.replacen(from, to, 1)
    });
    fs::write(folder.path("wrong.quilt.json"), map).unwrap();
    for name in
        ["terrace.tiles.json", "trees.tiles.json", "trees.png", "folk.tiles.json", "folk.png"]
    {
        fs::copy(demo_folder().join(name), folder.path(name)).unwrap();
    }
    let done = run(&["check", &folder.text("wrong.quilt.json")]).failure().code(1);
    let said = output(&done).replace(&folder.text(""), "");
    insta::assert_snapshot!(said);
}

#[test]
fn check_reports_several_maps_and_speaks_json() {
    let folder = Folder::new();
    fs::write(folder.path("bad.quilt.json"), "{ \"format\": 5 }").unwrap();
    let done = run(&["check", &demo_map(), &folder.text("bad.quilt.json"), "--json"]).code(1);
    let report: serde_json::Value = serde_json::from_str(&output(&done)).unwrap();
    assert_eq!(report[0]["errors"], 0);
    assert_eq!(report[1]["problems"][0]["message"], "`format` must be a text, not 5");
    assert_eq!(report[1]["problems"][0]["place"]["column"], 13);
    assert_eq!(report[1]["problems"][0]["severity"], "error");
}

#[test]
fn warnings_fail_only_when_asked() {
    let folder = Folder::new();
    let map = r#"{ "format": "sturdy-quilt/map", "version": 1, "lattice": { "cell": [16, 16] },
        "tiles": [{ "name": "s", "tiles": ["a"] }],
        "layers": [{ "name": "l", "cells": { "legend": { "x": "s/gone" }, "rows": ["x"] } }] }"#;
    fs::write(folder.path("m.quilt.json"), map).unwrap();
    let lenient = run(&["check", &folder.text("m.quilt.json")]).success();
    assert!(output(&lenient).ends_with(": 1 warning\n"));
    run(&["check", &folder.text("m.quilt.json"), "--strict"]).code(1);
    let info = run(&["info", &folder.text("m.quilt.json")]).success();
    assert!(output(&info).contains("missing tiles, shown by a placeholder: s/gone"));
    assert!(errors(&info).contains("tile set `s` has no tile `gone`"));
}

#[test]
fn info_says_what_the_demo_holds() {
    let said = output(&run(&["info", &demo_map()]).success());
    let (_, said) = said.split_once('\n').unwrap();
    insta::assert_snapshot!(said);
    let json = output(&run(&["info", &demo_map(), "--json"]).success());
    let report: serde_json::Value = serde_json::from_str(&json).unwrap();
    assert_eq!(report["layers"][0]["cells"], 2560);
    assert_eq!(report["markers"][2]["data"]["pace"], 2);
    assert_eq!(report["world"]["size"], serde_json::json!([1024.0, 640.0]));
}

#[test]
fn at_names_a_position_in_every_way() {
    let said = output(&run(&["at", &demo_map(), "cell", "34,12"]).success());
    insta::assert_snapshot!(said);
    let by_world = output(&run(&["at", &demo_map(), "world", "552,200"]).success());
    assert_eq!(said, by_world);
    let view = ["--size", "1280x800", "--fit"];
    let by_pixel = run(&[&["at", &demo_map(), "screen", "690,250", "--json"][..], &view].concat());
    let report: serde_json::Value = serde_json::from_str(&output(&by_pixel.success())).unwrap();
    assert_eq!(report["cell"], serde_json::json!([34, 12]));
    assert_eq!(report["screen"], serde_json::json!([690.0, 250.0]));
    assert_eq!(report["ground"]["decided_by"], "works");
    assert_eq!(report["movers"]["cart"]["blocked"], true);
    let outside = output(&run(&["at", &demo_map(), "cell", "-3,-1"]).success());
    assert!(outside.contains("-3,-1 (outside the map)"));
    let beyond = run(&["at", &demo_map(), "pixel", "5000,3"]).code(1);
    assert!(errors(&beyond).contains("pixel 5000,3 lies outside the picture of 1024 × 640 px"));
}

#[test]
fn draw_shows_the_part_that_was_asked_for() {
    let folder = Folder::new();
    let whole = folder.text("whole.png");
    let done = run(&["draw", &demo_map(), "-o", &whole]).success();
    assert!(output(&done).contains("1024 × 640 px, zoom 1, centred on 512,320"));
    let whole = picture(Path::new(&whole));
    let part = folder.text("part.png");
    let view = ["--size", "90x60", "--cell", "16,13", "--zoom", "3"];
    run(&[&["draw", &demo_map(), "-o", &part][..], &view].concat()).success();
    let part = picture(Path::new(&part));
    // The middle of cell 16,13 is at 264,216; three pixels of the part show one of the whole.
    for (x, y) in [(0, 0), (44, 30), (89, 59)] {
        assert_eq!(part.get(x, y), whole.get(249 + x / 3, 206 + y / 3), "{x},{y}");
    }
    let (empty, background) = (folder.text("empty.png"), ["--background", "#102030"]);
    let far = ["--size", "8x8", "--center", "-9000,-9000"];
    let done =
        run(&[&["draw", &demo_map(), "-o", &empty][..], &far, &background].concat()).success();
    assert!(
        output(&done).contains("nothing shows: the view looks at 1 × 1 cells at -563,-563, and")
    );
    assert!(
        output(&done).contains("\n  layer soil: nothing in view; it lies in 64 × 40 cells at 0,0")
    );
    assert_eq!(picture(Path::new(&empty)).get(3, 3), Some(Color::rgb(16, 32, 48)));
    let fitted = run(&["draw", &demo_map(), "-o", &empty, "--fit"]).success();
    assert!(output(&fitted).contains("1280 × 800 px, zoom 1.25"));
    let huge = run(&["draw", &demo_map(), "-o", &empty, "--zoom", "1000"]).code(1);
    assert!(errors(&huge).contains("is too large; give a --size"));
}

#[test]
fn edit_changes_what_was_said_and_nothing_else() {
    let folder = Folder::new();
    let saved = folder.text("out/terrace.quilt.json");
    let edit = ["--put", "soil", "3,4", "terrace/mud"];
    let done = run(&[&["edit", &demo_map(), "-o", &saved][..], &edit].concat()).success();
    assert!(output(&done).starts_with("copied ") && output(&done).ends_with(": 1 cell changed\n"));
    let (before, after) =
        (fs::read_to_string(demo_map()).unwrap(), fs::read_to_string(&saved).unwrap());
    let differing: Vec<(&str, &str)> =
        before.lines().zip(after.lines()).filter(|(a, b)| a != b).collect();
    assert_eq!(differing.len(), 1);
    assert_eq!(before.lines().count(), after.lines().count());
    run(&["check", &saved, "--strict"]).success();
    let rows = output(&run(&["info", &saved, "--rows", "soil"]).success());
    assert_eq!(
        rows.lines().nth(5),
        Some(",..m......==...........a~d..........,.............,.==.....,....")
    );
    let (old, new) = (folder.text("old.png"), folder.text("new.png"));
    run(&["draw", &demo_map(), "-o", &old]).success();
    run(&["draw", &saved, "-o", &new]).success();
    let (old, new) = (picture(Path::new(&old)), picture(Path::new(&new)));
    for y in 0..640 {
        for x in 0..1024 {
            let changed = old.get(x, y) != new.get(x, y);
            let in_cell = (48..64).contains(&x) && (64..80).contains(&y);
            assert!(in_cell || !changed, "{x},{y}");
        }
    }
}

#[test]
fn edits_are_made_in_order_and_as_a_whole() {
    let folder = Folder::new();
    let saved = folder.text("m.quilt.json");
    let edits = [
        "--put",
        "boards",
        "1,1",
        "terrace/boardwalk+90",
        "--fill",
        "boards",
        "0,0",
        "64x40",
        "empty",
        "--put",
        "boards",
        "-2,2",
        "terrace/boardwalk",
        "--erase",
        "boards",
        "0,0",
    ];
    run(&[&["edit", &demo_map(), "-o", &saved][..], &edits].concat()).success();
    let rows = output(&run(&["info", &saved, "--rows", "boards"]).success());
    // The rows go on over what the document had.
    assert!(rows.starts_with("layer boards: 44 × 30 cells at -2,2\n="), "{rows}");
    assert!(rows.lines().skip(2).take(29).all(|row| row.trim().is_empty()), "{rows}");
    let before = fs::read_to_string(&saved).unwrap();
    let wrong = ["--erase", "boards", "-2,2", "--put", "boards", "0,0", "terrace/bordwalk"];
    let failed = run(&[&["edit", &saved, "-o", &saved][..], &wrong].concat()).code(1);
    assert!(
        errors(&failed)
            .contains("no tile `terrace/bordwalk` in this map; did you mean `terrace/boardwalk`")
    );
    assert_eq!(fs::read_to_string(&saved).unwrap(), before, "nothing was saved");
    run(&["edit", &saved, "-o", &saved]).code(2);
    let typo = run(&["edit", &saved, "-o", &saved, "--erase", "boards", "2;3"]).code(2);
    assert!(errors(&typo).contains("--erase: write column and row as X,Y, for example 3,-4"));
}

#[test]
fn an_edit_overwrites_no_file_of_another_map() {
    let folder = Folder::new();
    fs::write(folder.path("terrace.png"), "something else").unwrap();
    let saved = folder.text("m.quilt.json");
    let failed = run(&["edit", &demo_map(), "-o", &saved, "--erase", "soil", "0,0"]).code(1);
    assert!(errors(&failed).contains("is there already and differs from"));
    assert_eq!(fs::read_to_string(folder.path("terrace.png")).unwrap(), "something else");
    assert!(!folder.path("m.quilt.json").exists() && !folder.path("terrace.tiles.json").exists());
}

#[test]
fn help_has_an_example_for_each_command() {
    for command in [
        "demo",
        "info",
        "check",
        "draw",
        "at",
        "move",
        "ray",
        "sight",
        "outline",
        "edit",
        "completions",
    ] {
        let said = output(&run(&[command, "--help"]).success());
        assert!(said.contains(&format!("sturdy-quilt {command} ")), "{said}");
        assert!(said.contains("Example"), "{said}");
    }
    for shell in ["bash", "zsh", "fish"] {
        let said = output(&run(&["completions", shell]).success());
        assert!(said.contains("sturdy-quilt") && said.contains("check"));
    }
    run(&["dance"]).code(2);
    let missing = run(&["info", "no/such.quilt.json"]).code(1);
    assert!(errors(&missing).contains("file `such.quilt.json`: there is no such file"));
}

/// A yard of 6 × 3 cells with fog that dims, a patch, and a marker that states ground.
const FOGGY: &str = r##"{
  "format": "sturdy-quilt/map", "version": 1,
  "lattice": { "cell": [16, 16] },
  "tiles": [{ "name": "yard", "tiles": [
    { "name": "sand", "ground": "open" }, { "name": "fog", "ground": "fog" }, { "name": "wall", "ground": "stone" }] }],
  "ground": ["open", "fog", "stone"],
  "movers": { "eye": { "fog": { "value": 0.5 }, "stone": "block", "empty": "block", "unloaded": 0.5 } },
  "layers": [
    { "name": "soil", "cells": { "legend": { ".": "yard/sand", "~": "yard/fog", "#": "yard/wall" },
      "rows": [".~~..#", "....#.", "......"] } },
    { "name": "patch", "grounds": "first", "draws": false, "at": [3, 0], "cells": { "legend": { "~": "yard/fog" }, "rows": ["~"] } }],
  "markers": [{ "name": "fence", "area": { "at": [3, 0], "size": [1, 3] }, "ground": "stone" }]
}"##;

#[test]
fn rays_and_sight_say_what_they_meet_and_who_decided() {
    let folder = Folder::new();
    fs::write(folder.path("foggy.quilt.json"), FOGGY).unwrap();
    let map = folder.text("foggy.quilt.json");
    let ray = ["ray", &map, "eye", "--from", "8,8", "--by", "80,8"];
    let said = output(&run(&ray).success());
    assert_eq!(
        said,
        "eye  from 8,8 by 80,8\n\
         \x20    0.00 to    8.04  cell 0,0  free; open, decided by layer soil\n\
         \x20    8.04 to   24.12  cell 1,0  free, value 0.5; fog, decided by layer soil\n\
         \x20   24.12 to   40.20  cell 2,0  free, value 0.5; fog, decided by layer soil\n\
         \x20   40.20 to   56.28  cell 3,0  free, value 0.5; fog, decided by patch layer patch\n\
         \x20   56.28 to   72.36  cell 4,0  free; open, decided by layer soil\n\
         hit   cell 5,0 on its left side at 80.00,15.20, after 72.36 units: stone, decided by layer soil\n\
         value 1.5 in 3 cells, 24.12 by length\n"
    );
    let picture_file = folder.text("ray.png");
    let report = run(&[&ray[..], &["--json", "-o", &picture_file]].concat()).success();
    let report: serde_json::Value = serde_json::from_str(&output(&report)).unwrap();
    assert_eq!(report["hit"]["cell"], serde_json::json!([5, 0]));
    assert_eq!(report["value"]["count"], 3);
    assert_eq!(picture(&folder.path("ray.png")).size().width, 1280);

    let sight = ["sight", &map, "eye", "--from", "1,1", "--radius", "3"];
    let said = output(&run(&sight).success());
    assert_eq!(
        said,
        "eye  sees 13 of 15 cells of the map from 1,1\n\
         \x20     @ here, . seen, # seen and blocked, blank not seen or outside the map\n\
         \n\n    .....\n    .@.#\n    ...#\n\n\n"
    );
    let seen = run(&[&sight[..], &["--to", "4,1"]].concat()).success();
    assert_eq!(output(&seen), "eye  at 1,1 does not see 4,1\n");
    let seen = run(&[&sight[..], &["--to", "3,1"]].concat()).success();
    assert_eq!(output(&seen), "eye  at 1,1 sees 3,1\n");
    let all = run(&[&sight[..], &["--json"]].concat()).success();
    let all: serde_json::Value = serde_json::from_str(&output(&all)).unwrap();
    assert!(all["seen"].as_array().unwrap().contains(&serde_json::json!([3, 1])));

    let at = output(&run(&["at", &map, "cell", "3,1"]).success());
    assert!(at.contains("ground  stone, decided by marker fence"), "{at}");
    let info = output(&run(&["info", &map]).success());
    assert!(info.contains("fog value 0.5, stone blocked, empty blocked, unloaded 0.5"), "{info}");
    assert!(info.contains("decides the ground first"), "{info}");
    assert!(info.contains("1 × 3 cells at 3,0, ground stone"), "{info}");
}

/// A yard of 6 × 3 cells of 16 units: mud in its second column, a wall in its fifth.
const YARD: &str = r##"{
  "format": "sturdy-quilt/map", "version": 1,
  "lattice": { "cell": [16, 16] },
  "tiles": [{ "name": "yard", "tiles": [
    { "name": "sand", "ground": "open" }, { "name": "mud", "ground": "mud" }, { "name": "wall", "ground": "stone" }] }],
  "ground": ["open", "mud", "stone"],
  "movers": { "cart": { "mud": 0.5, "stone": "block" }, "bee": { "outside": "pass" } },
  "layers": [{ "name": "soil", "cells": {
    "legend": { ".": "yard/sand", "m": "yard/mud", "#": "yard/wall" },
    "rows": [".m..#.", ".m..#.", ".m...."] } }]
}"##;

#[test]
fn move_says_where_a_body_ends_and_what_it_hits() {
    let folder = Folder::new();
    fs::write(folder.path("yard.quilt.json"), YARD).unwrap();
    let map = folder.text("yard.quilt.json");
    let moved = |args: &str| {
        let args: Vec<&str> = args.split(' ').collect();
        run(&[&["move", &map][..], &args].concat())
    };
    let slid = moved("cart --from 10,18 --size 12x10 --by 80,10").success();
    assert_eq!(
        output(&slid),
        "cart  12 × 10 units at 10,18 to move by 80,10\n\
         ends  at 52,28, moved by 42,10\n\
         hit   cell 4,1 on its left side: stone, decided by layer soil\n\
         speed 1 under the body, at its foot 58,37.5 free\n"
    );
    let straight = moved("cart --from 10,18 --size 12x10 --by 84,12 --straight --json").success();
    let report: serde_json::Value = serde_json::from_str(&output(&straight)).unwrap();
    assert_eq!(report["end"]["at"], serde_json::json!([52.0, 24.0]));
    assert_eq!(report["moved"], serde_json::json!([42.0, 6.0]));
    let hit = serde_json::json!([
        { "cell": [4, 1], "side": "left", "normal": [-1.0, 0.0], "point": [64.0, 28.0], "ground": "stone" }
    ]);
    assert_eq!(report["hit"], hit);
    let slow = output(&moved("cart --from 2,18 --size 12x10 --by 10,0").success());
    assert!(slow.contains("hit   nothing\nspeed 0.5 under the body"), "{slow}");
    let out = output(&moved("cart --from 2,18 --size 12x10 --by -9,-90").success());
    assert!(out.contains("hit   cell -1,0 on its right side: outside the map\n"), "{out}");
    assert!(out.contains("hit   cell 0,-1 on its bottom side: outside the map\n"), "{out}");
    let free = output(&moved("bee --from 2,18 --size 12x10 --by -900,0").success());
    assert!(free.contains("moved by -900,0\nhit   nothing"), "{free}");
    // A step of one cell up is climbed by a body that stands below it.
    let climbed = output(&moved("cart --from 50,36 --size 12x12 --by 20,2 --climb 16").success());
    assert!(climbed.contains("ends  at 70,36"), "{climbed}");
    let unknown = moved("crt --from 0,0 --size 1x1 --by 1,1").code(1);
    assert!(errors(&unknown).contains("no mover `crt` in this map; did you mean `cart`?"));
    let wrong = moved("cart --from 0,0 --size 12 --by 1,1").code(2);
    assert!(errors(&wrong).contains("write width and height in world units as WxH"));
}

#[test]
fn slopes_are_told_and_walked() {
    let hoist = demo_folder().join("hoist.quilt.json").display().to_string();
    let walk = ["move", &hoist, "picker", "--from", "100,306", "--size", "10x14", "--by", "160,4"];
    let said = output(&run(&[&walk[..], &["--slopes", "--climb", "16"]].concat()).success());
    assert!(said.contains("ends  at 260,242, moved by 160,-64\n"), "{said}");
    assert!(
        said.contains(
            "hit   cell 9,19 on its top side, a slope of 27°: earth, decided by layer ground"
        ),
        "{said}"
    );
    let round = ["move", &hoist, "picker", "--from", "130,300", "--size", "10x10", "--by", "40,60"];
    let said = output(
        &run(&[&round[..], &["--round", "-o", &Folder::new().text("r.png")]].concat()).success(),
    );
    assert!(said.contains("10 × 10 units at 130,300") && said.contains("a slope of 27°"), "{said}");
    let said = output(&run(&["at", &hoist, "cell", "9,19"]).success());
    assert!(said.contains("shape   a floor, 0 high at the left and 0.5 at the right\n"), "{said}");
    let report = output(&run(&["at", &hoist, "cell", "9,19", "--json"]).success());
    let report: serde_json::Value = serde_json::from_str(&report).unwrap();
    assert_eq!(report["ground"]["shape"], serde_json::json!([[1.0, 0.5], [1.0, 1.0], [0.0, 1.0]]));
    let ray = ["ray", &hoist, "picker", "--from", "100,310", "--by", "100,10"];
    let said = output(&run(&ray).success());
    assert!(
        said.contains("hit   cell 9,19 on its top side, a slope of 27° at 153.33,315.33"),
        "{said}"
    );
}

#[test]
fn outline_writes_what_stops_a_mover() {
    let folder = Folder::new();
    fs::write(folder.path("yard.quilt.json"), YARD).unwrap();
    let map = folder.text("yard.quilt.json");
    let (svg, json) = (folder.text("walls.svg"), folder.text("walls.geojson"));
    let outline = |args: &[&str]| run(&[&["outline", &map, "--mover", "cart"], args].concat());
    let said = output(&outline(&["-o", &svg]).success());
    assert_eq!(
        said,
        format!(
            "cart  solids 1, holes 0\n\
             area  512 square units, 96 units of edges\n\
             parts 1 convex pieces\n\
             wrote {svg} (1 outlines)\n"
        )
    );
    let text = fs::read_to_string(&svg).unwrap();
    assert!(text.contains("viewBox=\"0 0 96 48\""), "{text}");
    assert!(text.contains("d=\"M64 0L80 0L80 32L64 32Z\""), "{text}");
    outline(&["-o", &json]).success();
    let text = fs::read_to_string(&json).unwrap();
    let found: serde_json::Value = serde_json::from_str(&text).unwrap();
    assert_eq!(found["type"], "FeatureCollection");
    let feature = &found["features"][0];
    let ring =
        serde_json::json!([[64.0, 0.0], [80.0, 0.0], [80.0, 32.0], [64.0, 32.0], [64.0, 0.0]]);
    assert_eq!(feature["geometry"]["coordinates"], serde_json::json!([ring]));
    assert_eq!(feature["properties"], serde_json::json!({ "stops": "cart", "area": 512.0 }));
    // Of a part of the map, as pieces, for programs.
    let part = outline(&["-o", &json, "--pieces", "--area", "4,0,1x1", "--json"]).success();
    let report: serde_json::Value = serde_json::from_str(&output(&part)).unwrap();
    assert_eq!((&report["area"], &report["pieces"]), (&256.0.into(), &1.into()));
    let wrong = outline(&["-o", &folder.text("walls.dxf")]).code(1);
    assert!(errors(&wrong).contains("ends in neither .svg nor .geojson"), "{}", errors(&wrong));
    fs::create_dir(folder.text("taken.svg")).unwrap();
    let nowhere = outline(&["-o", &folder.text("taken.svg")]).code(1);
    assert!(errors(&nowhere).contains("cannot be written"), "{}", errors(&nowhere));
}

#[test]
fn convert_takes_the_demo_maps_through_every_form_and_back() {
    let folder = Folder::new();
    for name in ["terrace", "hoist"] {
        let file = format!("{name}.quilt.json");
        let original = demo_folder().join(&file);
        let quilt = Quilt::open(&original).unwrap();
        let mut forms = vec![("zip".to_owned(), folder.text(&format!("{name}.zip")), Vec::new())];
        for form in ["readable", "rows", "numbers", "table", "picture", "packed"] {
            for apart in [false, true] {
                let at = format!("{name}-{form}-{apart}");
                let mut args = vec!["--cells", form];
                args.extend(apart.then_some("--apart"));
                forms.push((at.clone(), folder.text(&format!("{at}/{file}")), args));
            }
        }
        for (at, target, args) in forms {
            let source = original.display().to_string();
            run(&[&["convert", &source, &target], &*args].concat()).success();
            run(&["check", "--strict", &target]).success();
            let back = folder.text(&format!("{at}-back/{file}"));
            run(&["convert", &target, &back]).success();
            assert!(Quilt::open(&back).unwrap().same_as(&quilt), "{at}");
        }
    }
    // From rows to rows nothing changes at all.
    let rows = fs::read(folder.path("terrace-rows-false/terrace.quilt.json")).unwrap();
    assert_eq!(rows, fs::read(demo_folder().join("terrace.quilt.json")).unwrap());
}

#[test]
fn convert_says_what_a_file_cannot_hold_and_reads_it_again() {
    let folder = Folder::new();
    let refused = run(&["convert", &demo_map(), &folder.text("all.csv")]).failure();
    assert!(errors(&refused).contains("holds one layer; choose it with --layer: soil, growth"));
    let quilt = Quilt::open(demo_map()).unwrap();
    let tiles = demo_folder().join("terrace.tiles.json").display().to_string();
    for (ending, legend) in [("csv", false), ("txt", true), ("png", true)] {
        let name = format!("growth-{ending}");
        let target = folder.text(&format!("{name}.{ending}"));
        let said = output(&run(&["convert", &demo_map(), &target, "--layer", "growth"]).success());
        let lost = "holds layer growth only; not 7 other layers, 12 markers, 3 tile sets, 7 ground classes, 4 movers, the data of the map, its place, 0,1";
        assert!(said.contains(lost), "{said}");
        let back = folder.text(&format!("{name}-back.quilt.json"));
        let mut args = vec!["convert", &target, &back, "--tiles", &tiles];
        let legend_file = folder.text(&format!("{name}.legend.json"));
        args.extend(legend.then_some(["--legend", &*legend_file]).into_iter().flatten());
        run(&args).success();
        let again = Quilt::open(&back).unwrap();
        let (old, new) = (quilt.layer("growth").unwrap(), &again.layers()[0]);
        assert_eq!(old.cells().occupied().count(), new.cells().occupied().count());
        for (at, cell) in old.cells().occupied() {
            let moved = sturdy_quilt::CellPos::new(at.x(), at.y() - 1);
            let there = new.cells().get(moved).here().unwrap();
            assert_eq!(
                quilt.tiles().notation(cell),
                again.tiles().notation(there),
                "{ending} {at}"
            );
        }
    }
    let unknown = run(&["convert", &demo_map(), &folder.text("x.xyz")]).failure();
    assert!(errors(&unknown).contains("could be anything"), "{}", errors(&unknown));
}

#[test]
fn info_says_what_the_cells_take() {
    let said = output(&run(&["info", &demo_map(), "--memory"]).success());
    let (_, said) = said.split_once('\n').unwrap();
    insta::assert_snapshot!(said);
    let json = output(&run(&["info", &demo_map(), "--memory", "--json"]).success());
    let report: serde_json::Value = serde_json::from_str(&json).unwrap();
    let layers = report["layers"].as_array().unwrap();
    let sum: u64 = layers.iter().map(|layer| layer["bytes"].as_u64().unwrap()).sum();
    assert_eq!(report["all"]["bytes"], sum);
    assert_eq!(layers[0]["layer"], "soil");
    assert_eq!(layers[0]["forms"][0]["form"], "8 bits");
    run(&["info", &demo_map(), "--memory", "--rows", "soil"]).code(2);
}

#[test]
fn a_bare_grid_can_be_seen_and_is_asked_what_it_means() {
    let folder = Folder::new();
    fs::write(folder.path("beds.txt"), "##..\n#:.:\n").unwrap();
    fs::write(folder.path("beds.csv"), "1,2,-1\n1,1,3\n").unwrap();
    insta::assert_snapshot!(
        output(&run(&["info", &folder.text("beds.txt")]).success()).replace(&folder.text(""), "")
            + &output(&run(&["info", &folder.text("beds.csv")]).success())
                .replace(&folder.text(""), "")
    );
    for file in ["beds.txt", "beds.csv"] {
        let png = folder.text(&format!("{file}.png"));
        run(&["check", "--strict", &folder.text(file)]).success();
        let said = output(&run(&["draw", &folder.text(file), "-o", &png]).success());
        assert!(said.contains("tiles drawn"), "{said}");
    }
    let seen = picture(&folder.path("beds.txt.png"));
    assert_eq!(seen.get(8, 8), Some(Color::of_name("#")));
    // Numbers count the tiles of a set.
    let tiles = demo_folder().join("terrace.tiles.json").display().to_string();
    let (from, to) = (folder.text("beds.csv"), folder.text("beds.quilt.json"));
    run(&["convert", &from, &to, "--tiles", &tiles, "--set", "terrace", "--base", "1"]).success();
    let quilt = Quilt::open(&to).unwrap();
    let text = quilt.layer_text("beds").unwrap();
    assert_eq!(text.rows, ["gt ", "ggf"]);
    // What is wrong is said of the file in which it is.
    fs::write(folder.path("beds.csv"), "1,2\n1,99\n").unwrap();
    let wrong = run(&["convert", &from, &to, "--tiles", &tiles, "--set", "terrace"]).failure();
    assert!(errors(&wrong).contains("beds.csv:2:3"), "{}", errors(&wrong));
}

#[test]
fn a_contact_sheet_shows_every_tile() {
    let folder = Folder::new();
    let sheet = folder.text("sheet.png");
    let said = output(&run(&["draw", &demo_map(), "--sheet", "terrace", "-o", &sheet]).success());
    assert!(said.contains("the 64 tiles of terrace"), "{said}");
    let seen = picture(&folder.path("sheet.png"));
    // Grass is the first tile, four times as large.
    let grass = picture(&demo_folder().join("terrace.png"));
    for (x, y) in [(0, 0), (7, 3), (15, 15)] {
        assert_eq!(seen.get(12 + x * 4, 46 + y * 4), grass.get(x, y));
    }
    let tiles = demo_folder().join("trees.tiles.json").display().to_string();
    run(&["draw", &tiles, "-o", &folder.text("trees.png")]).success();
    let none = run(&["draw", &demo_map(), "--sheet", "terace"]).failure();
    assert!(errors(&none).contains("there are terrace, trees, folk"), "{}", errors(&none));
}

#[test]
fn archives_and_schemas() {
    let folder = Folder::new();
    let zip = folder.text("estate.zip");
    run(&["convert", &demo_map(), &zip]).success();
    let first = fs::read(&zip).unwrap();
    run(&["convert", &demo_map(), &zip]).success();
    assert_eq!(first, fs::read(&zip).unwrap(), "the same map gives the same archive");
    let inner = format!("{zip}/terrace.quilt.json");
    assert_eq!(
        output(&run(&["info", &zip]).success()).lines().skip(1).collect::<Vec<_>>(),
        output(&run(&["info", &inner]).success()).lines().skip(1).collect::<Vec<_>>()
    );
    let wrong = run(&["info", &format!("{zip}/terace.quilt.json")]).failure();
    assert!(errors(&wrong).contains("did you mean `terrace.quilt.json`?"), "{}", errors(&wrong));
    fs::write(folder.path("broken.zip"), &first[..first.len() / 2]).unwrap();
    let broken = run(&["check", &folder.text("broken.zip")]).failure();
    assert!(errors(&broken).contains("no readable zip archive"), "{}", errors(&broken));
    for (kind, text) in [
        ("map", sturdy_quilt::MAP_SCHEMA),
        ("tiles", sturdy_quilt::TILES_SCHEMA),
        ("expects", sturdy_quilt::EXPECTS_SCHEMA),
    ] {
        assert_eq!(output(&run(&["schema", kind]).success()), text);
    }
}

#[test]
fn convert_bakes_the_ground_of_a_mask_into_a_tile_set() {
    let folder = Folder::new();
    let sheet = Picture::filled(sturdy_quilt::PixelSize::new(32, 16), Color::rgb(9, 9, 9));
    let mut mask = Picture::filled(sheet.size(), Color::CLEAR);
    for (x, y) in (0..16).flat_map(|y| (16..32).map(move |x| (x, y))) {
        mask.set(x, y, Color::rgb(255, 0, 0));
    }
    fs::write(folder.path("sheet.png"), sheet.to_png().unwrap()).unwrap();
    fs::write(folder.path("mask.png"), mask.to_png().unwrap()).unwrap();
    fs::write(
        folder.path("yard.tiles.json"),
        r##"{ "format": "sturdy-quilt/tiles", "version": 1, "names": "t{number}",
            "sheet": { "picture": "sheet.png", "tile": [16, 16] },
            "ground_mask": { "picture": "mask.png", "legend": { "#ff0000": "stone" } } }"##,
    )
    .unwrap();
    let (from, to) = (folder.text("yard.tiles.json"), folder.text("baked.tiles.json"));
    let said = output(&run(&["convert", &from, &to]).success());
    assert!(said.contains("1 of 2 tiles state their ground"), "{said}");
    let baked = fs::read_to_string(&to).unwrap();
    assert!(baked.contains(r#"{ "at": [1, 0], "ground": "stone" }"#), "{baked}");
    assert!(!baked.contains("mask"), "{baked}");
}

#[test]
fn draw_shows_time_turns_palettes_minimaps_and_atlases() {
    let folder = Folder::new();
    let drawn = |name: &str, more: &[&str]| {
        let (map, file) = (demo_map(), folder.text(name));
        let args = [&["draw", &map, "-o", &file, "--size", "200x160", "--cell", "27,16"][..], more];
        run(&args.concat()).success();
        picture(&folder.path(name))
    };
    let plain = drawn("plain.png", &[]);
    let differs = |other: &Picture| plain.bytes() != other.bytes();
    assert!(differs(&drawn("later.png", &["--time", "200"])), "the water has moved on");
    assert!(differs(&drawn("turned.png", &["--turn", "-30"])));
    assert!(differs(&drawn("night.png", &["--palette", "night"])));
    assert!(!differs(&drawn("snap.png", &["--snap"])), "at zoom 1 all pixels are whole");
    for overlay in ["names", "numbers", "unseen", "rows", "stamps"] {
        assert!(
            differs(&drawn("overlay.png", &["--zoom", "4", "--overlay", overlay])),
            "{overlay}"
        );
    }
    assert!(differs(&drawn("why.png", &["--why", "27,16"])));
    assert!(differs(&drawn("edges.png", &["--edges", "cart"])));
    let small = folder.text("small.png");
    let said = output(&run(&["draw", &demo_map(), "--minimap", "cells", "-o", &small]).success());
    assert!(said.contains("64 × 40 px, a minimap of 64 × 40 cells at 0,0"), "{said}");
    let mean = picture(&folder.path("small.png"));
    run(&["draw", &demo_map(), "--minimap", "cells", "--nearest", "-o", &small]).success();
    assert_ne!(mean.bytes(), picture(&folder.path("small.png")).bytes());
    let said = output(&run(&["draw", &demo_map(), "--atlas", "128x128", "-o", &small]).success());
    assert!(said.contains("3 tile sets on ") && folder.path("small-2.png").exists(), "{said}");
    let wrong = run(&["draw", &demo_map(), "-o", &small, "--palette", "nigt"]).failure();
    assert!(errors(&wrong).contains("did you mean `night`?"), "{}", errors(&wrong));
    run(&["draw", &demo_map(), "--minimap", "99"]).code(2);
    let moved = folder.text("moved.png");
    let map = demo_map();
    let way = ["move", &map, "cart", "--from", "400,260", "--size", "12x10", "--by", "80,20"];
    run(&[&way[..], &["-o", &moved]].concat()).success();
    assert_eq!(picture(&folder.path("moved.png")).size().width, 1280);
}
