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
    assert!(output(&done).contains("1 cell changed\ncopied "));
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
    for command in ["demo", "info", "check", "draw", "at", "move", "edit", "completions"] {
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
         speed 1 under the box, at its foot 58,37.5 free\n"
    );
    let straight = moved("cart --from 10,18 --size 12x10 --by 84,12 --straight --json").success();
    let report: serde_json::Value = serde_json::from_str(&output(&straight)).unwrap();
    assert_eq!(report["end"]["at"], serde_json::json!([52.0, 24.0]));
    assert_eq!(report["moved"], serde_json::json!([42.0, 6.0]));
    let hit = serde_json::json!([{ "cell": [4, 1], "side": "left", "ground": "stone" }]);
    assert_eq!(report["hit"], hit);
    let slow = output(&moved("cart --from 2,18 --size 12x10 --by 10,0").success());
    assert!(slow.contains("hit   nothing\nspeed 0.5 under the box"), "{slow}");
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
