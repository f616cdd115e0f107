//! What stops bodies and rays, and the outlines of it.

use super::*;

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
    let folder = Folder::with("foggy.quilt.json", FOGGY);
    let ray = "ray foggy.quilt.json eye --from 8,8 --by 80,8";
    assert_eq!(
        folder.say(ray),
        "eye  from 8,8 by 80,8\n\
         \x20    0.00 to    8.04  cell 0,0  free; open, decided by layer soil\n\
         \x20    8.04 to   24.12  cell 1,0  free, value 0.5; fog, decided by layer soil\n\
         \x20   24.12 to   40.20  cell 2,0  free, value 0.5; fog, decided by layer soil\n\
         \x20   40.20 to   56.28  cell 3,0  free, value 0.5; fog, decided by patch layer patch\n\
         \x20   56.28 to   72.36  cell 4,0  free; open, decided by layer soil\n\
         hit   cell 5,0 on its left side at 80.00,15.20, after 72.36 units: stone, decided by layer soil\n\
         value 1.5 in 3 cells, 24.12 by length\n"
    );
    let report = json_of(&folder.say(&format!("{ray} --json -o ray.png")));
    assert_eq!(report["hit"]["cell"], json!([5, 0]));
    assert_eq!(report["value"]["count"], 3);
    assert_eq!(folder.picture("ray.png").size().width, 1280);

    let sight = |more: &str| {
        folder.say(&format!("sight foggy.quilt.json eye --from 1,1 --radius 3 {more}"))
    };
    assert_eq!(
        sight(""),
        "eye  sees 13 of 15 cells of the map from 1,1\n\
         \x20     @ here, . seen, # seen and blocked, blank not seen or outside the map\n\
         \n\n    .....\n    .@.#\n    ...#\n\n\n"
    );
    assert_eq!(sight("--to 4,1"), "eye  at 1,1 does not see 4,1\n");
    assert_eq!(sight("--to 3,1"), "eye  at 1,1 sees 3,1\n");
    assert!(json_of(&sight("--json"))["seen"].as_array().unwrap().contains(&json!([3, 1])));

    let at = folder.say("at foggy.quilt.json cell 3,1");
    assert!(at.contains("ground  stone, decided by marker fence"), "{at}");
    let info = folder.say("info foggy.quilt.json");
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
    let folder = Folder::with("yard.quilt.json", YARD);
    let line = |more: &str| format!("move yard.quilt.json {more}");
    let moved = |more: &str| folder.say(&line(more));
    assert_eq!(
        moved("cart --from 10,18 --size 12x10 --by 80,10"),
        "cart  12 × 10 units at 10,18 to move by 80,10\n\
         ends  at 52,28, moved by 42,10\n\
         hit   cell 4,1 on its left side: stone, decided by layer soil\n\
         speed 1 under the body, at its foot 58,37.5 free\n"
    );
    let report = json_of(&moved("cart --from 10,18 --size 12x10 --by 84,12 --straight --json"));
    assert_eq!(report["end"]["at"], json!([52.0, 24.0]));
    assert_eq!(report["moved"], json!([42.0, 6.0]));
    let hit = json!([
        { "cell": [4, 1], "side": "left", "normal": [-1.0, 0.0], "point": [64.0, 28.0], "ground": "stone" }
    ]);
    assert_eq!(report["hit"], hit);
    let slow = moved("cart --from 2,18 --size 12x10 --by 10,0");
    assert!(slow.contains("hit   nothing\nspeed 0.5 under the body"), "{slow}");
    let out = moved("cart --from 2,18 --size 12x10 --by -9,-90");
    assert!(out.contains("hit   cell -1,0 on its right side: outside the map\n"), "{out}");
    assert!(out.contains("hit   cell 0,-1 on its bottom side: outside the map\n"), "{out}");
    let free = moved("bee --from 2,18 --size 12x10 --by -900,0");
    assert!(free.contains("moved by -900,0\nhit   nothing"), "{free}");
    // A step of one cell up is climbed by a body that stands below it.
    let climbed = moved("cart --from 50,36 --size 12x12 --by 20,2 --climb 16");
    assert!(climbed.contains("ends  at 70,36"), "{climbed}");
    let unknown = folder.fail(&line("crt --from 0,0 --size 1x1 --by 1,1"), 1);
    assert!(unknown.contains("no mover `crt` in this map; did you mean `cart`?"));
    let wrong = folder.fail(&line("cart --from 0,0 --size 12 --by 1,1"), 2);
    assert!(wrong.contains("write width and height in world units as WxH"));
}

#[test]
fn slopes_are_told_and_walked() {
    let folder = Folder::new();
    let hoist = "demo/hoist.quilt.json";
    let slope = "hit   cell 9,19 on its top side, a slope of 27°";
    let said = folder.say(&format!(
        "move {hoist} picker --from 100,306 --size 10x14 --by 160,4 --slopes --climb 16"
    ));
    assert!(said.contains("ends  at 260,242, moved by 160,-64\n"), "{said}");
    assert!(said.contains(&format!("{slope}: earth, decided by layer ground")), "{said}");
    let said = folder.say(&format!(
        "move {hoist} picker --from 130,300 --size 10x10 --by 40,60 --round -o round.png"
    ));
    assert!(said.contains("10 × 10 units at 130,300") && said.contains("a slope of 27°"), "{said}");
    let said = folder.say(&format!("at {hoist} cell 9,19"));
    assert!(
        said.contains("layer ground: a floor, 0 high at the left and 0.5 at the right\n"),
        "{said}"
    );
    let report = json_of(&folder.say(&format!("at {hoist} cell 9,19 --json")));
    assert_eq!(report["ground"]["shape"], json!([[1.0, 0.5], [1.0, 1.0], [0.0, 1.0]]));
    let said = folder.say(&format!("ray {hoist} picker --from 100,310 --by 100,10"));
    assert!(said.contains(&format!("{slope} at 153.33,315.33")), "{said}");
}

#[test]
fn outline_writes_what_stops_a_mover() {
    let folder = Folder::with("yard.quilt.json", YARD);
    let line = |more: &str| format!("outline yard.quilt.json --mover cart -o {more}");
    assert_eq!(
        folder.say(&line("walls.svg")),
        "cart  solids 1, holes 0\n\
         area  512 square units, 96 units of edges\n\
         parts 1 convex pieces\n\
         wrote walls.svg (1 outlines)\n"
    );
    let text = folder.read("walls.svg");
    assert!(text.contains("viewBox=\"0 0 96 48\""), "{text}");
    assert!(text.contains("d=\"M64 0L80 0L80 32L64 32Z\""), "{text}");
    folder.say(&line("walls.geojson"));
    let found = json_of(&folder.read("walls.geojson"));
    assert_eq!(found["type"], "FeatureCollection");
    let feature = &found["features"][0];
    let ring = json!([[64.0, 0.0], [80.0, 0.0], [80.0, 32.0], [64.0, 32.0], [64.0, 0.0]]);
    assert_eq!(feature["geometry"]["coordinates"], json!([ring]));
    assert_eq!(feature["properties"], json!({ "stops": "cart", "area": 512.0 }));
    // Of a part of the map, as pieces, for programs.
    let report = json_of(&folder.say(&line("walls.geojson --pieces --area 4,0,1x1 --json")));
    assert_eq!((&report["area"], &report["pieces"]), (&256.0.into(), &1.into()));
    let wrong = folder.fail(&line("walls.dxf"), 1);
    assert!(wrong.contains("its name must end in .svg or .geojson"), "{wrong}");
    fs::create_dir(folder.path("taken.svg")).unwrap();
    let nowhere = folder.fail(&line("taken.svg"), 1);
    assert!(nowhere.contains("cannot be written"), "{nowhere}");
}
