//! Commands that tell of a map: what is wrong with it, what it holds, what lies where.

use super::*;

#[test]
fn check_finds_nothing_wrong_with_the_demo() {
    let folder = Folder::new();
    let said = folder.say(&format!("check {TERRACE} --strict --expects demo/terrace.expects.json"));
    assert!(said.ends_with("terrace.quilt.json: no problem\n"), "{said}");
    folder.say("check demo/hoist.quilt.json --strict");
    let missing =
        folder.fail("check demo/hoist.quilt.json --expects demo/terrace.expects.json --json", 1);
    assert_eq!(
        json_of(&missing)[0]["problems"][0]["message"],
        "the map has no layer `soil`, which the game expects"
    );
    let wrong = folder.fail("check demo/hoist.quilt.json --expects demo/hoist.quilt.json", 1);
    assert!(wrong.contains("the format must be `sturdy-quilt/expects`"));
}

/// Seven mistakes of different kinds, each with its line and a hint.
#[test]
fn check_lists_seven_mistakes_at_once() {
    let folder = Folder::new();
    let map = fs::read_to_string(demo_file("terrace.quilt.json")).unwrap();
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
    folder.write("wrong.quilt.json", map);
    for name in
        ["terrace.tiles.json", "trees.tiles.json", "trees.png", "folk.tiles.json", "folk.png"]
    {
        fs::copy(demo_file(name), folder.path(name)).unwrap();
    }
    insta::assert_snapshot!(folder.fail("check wrong.quilt.json", 1));
}

#[test]
fn check_reports_several_maps_and_speaks_json() {
    let folder = Folder::with("bad.quilt.json", "{ \"format\": 5 }");
    let report = json_of(&folder.fail(&format!("check {TERRACE} bad.quilt.json --json"), 1));
    assert_eq!(report[0]["errors"], 0);
    assert_eq!(report[1]["problems"][0]["message"], "`format` must be a text, not 5");
    assert_eq!(report[1]["problems"][0]["place"]["column"], 13);
    assert_eq!(report[1]["problems"][0]["severity"], "error");
}

#[test]
fn warnings_fail_only_when_asked() {
    let map = r#"{ "format": "sturdy-quilt/map", "version": 1, "lattice": { "cell": [16, 16] },
        "tiles": [{ "name": "s", "tiles": ["a"] }],
        "layers": [{ "name": "l", "cells": { "legend": { "x": "s/gone" }, "rows": ["x"] } }] }"#;
    let folder = Folder::with("m.quilt.json", map);
    assert!(folder.say("check m.quilt.json").ends_with(": 1 warning\n"));
    folder.fail("check m.quilt.json --strict", 1);
    let info = all_said(&folder.run("info m.quilt.json").success());
    assert!(info.contains("missing tiles, shown by a placeholder: s/gone"), "{info}");
    assert!(info.contains("tile set `s` has no tile `gone`"), "{info}");
}

#[test]
fn info_says_what_the_demo_holds() {
    let folder = Folder::new();
    let said = folder.say(&format!("info {TERRACE}"));
    insta::assert_snapshot!(said.split_once('\n').unwrap().1);
    let report = json_of(&folder.say(&format!("info {TERRACE} --json")));
    assert_eq!(report["layers"][0]["cells"], 2560);
    assert_eq!(report["markers"][2]["data"]["pace"], 2);
    assert_eq!(report["world"]["size"], json!([1024.0, 640.0]));
}

#[test]
fn info_says_what_the_cells_take() {
    let folder = Folder::new();
    let said = folder.say(&format!("info {TERRACE} --memory"));
    insta::assert_snapshot!(said.split_once('\n').unwrap().1);
    let report = json_of(&folder.say(&format!("info {TERRACE} --memory --json")));
    let layers = report["layers"].as_array().unwrap();
    let sum: u64 = layers.iter().map(|layer| layer["bytes"].as_u64().unwrap()).sum();
    assert_eq!(report["all"]["bytes"], sum);
    assert_eq!(layers[0]["layer"], "soil");
    assert_eq!(layers[0]["forms"][0]["form"], "8 bits");
    folder.fail(&format!("info {TERRACE} --memory --rows soil"), 2);
}

#[test]
fn at_names_a_position_in_every_way() {
    let folder = Folder::new();
    let at = |place: &str| format!("at {TERRACE} {place}");
    let said = folder.say(&at("cell 34,12"));
    insta::assert_snapshot!(said);
    assert_eq!(said, folder.say(&at("world 552,200")));
    let report = json_of(&folder.say(&at("screen 690,250 --json --size 1280x800 --fit")));
    assert_eq!(report["cell"], json!([34, 12]));
    assert_eq!(report["screen"], json!([690.0, 250.0]));
    assert_eq!(report["ground"]["decided_by"], "works");
    assert_eq!(report["movers"]["cart"]["blocked"], true);
    assert!(folder.say(&at("cell -3,-1")).contains("-3,-1 (outside the map)"));
    let beyond = folder.fail(&at("pixel 5000,3"), 1);
    assert!(beyond.contains("pixel 5000,3 lies outside the picture of 1024 × 640 px"));
}

/// At a slant, a pixel is asked for what is seen there, from front to back.
#[test]
fn at_lists_what_is_seen_at_a_pixel_of_the_market() {
    let folder = Folder::new();
    folder.say("check demo/market.quilt.json --strict");
    // A house counts as one tile, and is shown from its other sides by more.
    let said = folder.say("info demo/market.quilt.json");
    assert!(said.contains(" house 1,") && said.contains("house-2 (side)"), "{said}");
    assert!(!said.contains("house 0,0") && !said.contains("never used"), "{said}");
    let market = "demo/market.quilt.json";
    let view = "--size 640x400 --center 136,136";
    // The middle of the face of the topmost hamper, which stands 60 units high, and its side.
    let said = folder.say(&format!("at {market} screen 320,140 {view}"));
    assert!(said.starts_with("cell    8,8\n"), "{said}");
    assert!(said.contains("screen  320,140 of 640 × 400 px at zoom 1\n"), "{said}");
    let seen = said.split("seen there, from front to back\n").nth(1).unwrap();
    let first = seen.lines().next().unwrap().split_whitespace().collect::<Vec<_>>().join(" ");
    assert_eq!(first, "high market/hamper its face, of cell 8,8");
    let side = json_of(&folder.say(&format!("at {market} screen 320,162 {view} --json")));
    let first = &side["seen"][0];
    assert_eq!((&first["layer"], &first["part"]), (&json!("high"), &json!("body")));
    assert_eq!(side["cell"], json!([8, 8]));
    // From front to back, to the ground.
    let layers = side["seen"].as_array().unwrap();
    assert_eq!(layers.last().unwrap()["layer"], "ground");
    let flat = folder.say(&format!("at {market} screen 320,140 {view} --flat"));
    assert!(flat.starts_with("cell    8,4\n"), "{flat}");
}

/// The market is drawn as it is seen, small too, and from above.
#[test]
fn the_market_is_drawn_as_it_is_seen() {
    let folder = Folder::new();
    let said = folder.say("draw demo/market.quilt.json -o seen.png --minimap 8 --enlarge 1");
    assert!(said.contains("a minimap of 18 × 16 cells"), "{said}");
    let (seen, above) = (folder.picture("seen.png"), {
        folder.say("draw demo/market.quilt.json -o above.png --minimap 8 --enlarge 1 --flat");
        folder.picture("above.png")
    });
    assert_eq!((above.size().width, above.size().height), (36, 32));
    assert!(seen.size().width > 3 * above.size().width, "{}", seen.size());
    folder.say("move demo/market.quilt.json picker --from 60,120 --size 6x6 --by 0,-60 -o way.png");
    folder.say("sight demo/market.quilt.json picker --from 9,6 --radius 6 -o sight.png");
    folder.say("outline demo/market.quilt.json --mover cart -o walls.svg");
    for name in ["way.png", "sight.png"] {
        assert!(folder.picture(name).size().width > 100, "{name}");
    }
}
