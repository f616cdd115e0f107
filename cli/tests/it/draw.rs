//! Pictures of maps and tile sets.

use super::*;

#[test]
fn draw_shows_the_part_that_was_asked_for() {
    let folder = Folder::new();
    let draw = |more: &str| folder.say(&format!("draw {TERRACE} -o {more}"));
    assert!(draw("whole.png").contains("1024 × 640 px, zoom 1, centred on 512,320"));
    draw("part.png --size 90x60 --cell 16,13 --zoom 3");
    let (whole, part) = (folder.picture("whole.png"), folder.picture("part.png"));
    // The middle of cell 16,13 is at 264,216; three pixels of the part show one of the whole.
    for (x, y) in [(0, 0), (44, 30), (89, 59)] {
        assert_eq!(part.get(x, y), whole.get(249 + x / 3, 206 + y / 3), "{x},{y}");
    }
    let said = draw("empty.png --size 8x8 --center -9000,-9000 --background #102030");
    assert!(said.contains("nothing shows: the view looks at 1 × 1 cells at -563,-563, and"));
    assert!(said.contains("\n  layer soil: nothing in view; it lies in 64 × 40 cells at 0,0"));
    assert_eq!(folder.picture("empty.png").get(3, 3), Some(Color::rgb(16, 32, 48)));
    assert!(draw("empty.png --fit").contains("1280 × 800 px, zoom 1.25"));
    let huge = folder.fail(&format!("draw {TERRACE} -o empty.png --zoom 1000"), 1);
    assert!(huge.contains("is too large; give a --size"));
}

#[test]
fn draw_shows_time_turns_palettes_minimaps_and_atlases() {
    let folder = Folder::new();
    let drawn = |more: &str| {
        folder.say(&format!("draw {TERRACE} -o out.png --size 200x160 --cell 27,16 {more}"));
        folder.picture("out.png")
    };
    let plain = drawn("");
    let differs = |more: &str| plain.bytes() != drawn(more).bytes();
    assert!(differs("--time 200"), "the water has moved on");
    assert!(!differs("--snap"), "at zoom 1 all pixels are whole");
    for more in ["--turn -30", "--palette night", "--why 27,16", "--edges cart"] {
        assert!(differs(more), "{more}");
    }
    for overlay in ["names", "numbers", "unseen", "rows", "stamps"] {
        assert!(differs(&format!("--zoom 4 --overlay {overlay}")), "{overlay}");
    }
    let minimap = format!("draw {TERRACE} -o small.png --minimap cells");
    let said = folder.say(&minimap);
    assert!(
        said.contains("64 × 40 px, enlarged 8 times, a minimap of 64 × 40 cells at 0,0"),
        "{said}"
    );
    let mean = folder.picture("small.png");
    folder.say(&format!("{minimap} --nearest"));
    assert_ne!(mean.bytes(), folder.picture("small.png").bytes());
    folder.say(&format!("{minimap} --enlarge 1"));
    assert_eq!(folder.picture("small.png").size(), PixelSize::new(64, 40));
    assert_eq!(mean.get(8 * 11 + 5, 8 * 7 + 2), folder.picture("small.png").get(11, 7));
    let said = folder.say(&format!("draw {TERRACE} --atlas 128x128 -o small.png"));
    assert!(said.contains("3 tile sets on ") && folder.path("small-2.png").exists(), "{said}");
    let wrong = folder.fail(&format!("draw {TERRACE} -o small.png --palette nigt"), 1);
    assert!(wrong.contains("did you mean `night`?"), "{wrong}");
    folder.fail(&format!("draw {TERRACE} --minimap 99"), 2);
    folder.say(&format!(
        "move {TERRACE} cart --from 400,260 --size 12x10 --by 80,20 -o moved/moved.png"
    ));
    assert_eq!(folder.picture("moved/moved.png").size().width, 1280);
}

#[test]
fn a_contact_sheet_shows_every_tile() {
    let folder = Folder::new();
    let said = folder.say(&format!("draw {TERRACE} --sheet terrace -o sheet.png"));
    assert!(said.contains("the 64 tiles of terrace"), "{said}");
    let seen = folder.picture("sheet.png");
    // Grass is the first tile, four times as large.
    let grass = picture(&demo_file("terrace.png"));
    for (x, y) in [(0, 0), (7, 3), (15, 15)] {
        assert_eq!(seen.get(12 + x * 4, 46 + y * 4), grass.get(x, y));
    }
    folder.say("draw demo/trees.tiles.json -o trees.png");
    let none = folder.fail(&format!("draw {TERRACE} --sheet terace"), 1);
    assert!(none.contains("there are terrace, trees, folk"), "{none}");
}

#[test]
fn the_colours_of_values_have_a_legend_of_numbers() {
    let map = r##"{
  "format": "sturdy-quilt/map", "version": 1,
  "lattice": { "shape": "square", "cell": [16, 16] },
  "tiles": [{ "name": "bed", "tiles": [{ "name": "soil", "color": "#806040" }] }],
  "layers": [{ "name": "soil", "cells": { "rows": ["....."], "legend": { ".": "bed/soil" } } }],
  "values": [{ "name": "damp", "type": "i32", "at": [1, 0], "rows": ["4 0 -4 8"] }]
}"##;
    let folder = Folder::with("bed.quilt.json", map);
    folder.say("draw bed.quilt.json --values damp -o damp.png");
    folder.say("draw bed.quilt.json -o plain.png");
    let (damp, plain) = (folder.picture("damp.png"), folder.picture("plain.png"));
    let cells = [0, 1, 2, 3, 4].map(|cell| damp.get(cell * 16 + 8, 8));
    assert!(cells.iter().all(|cell| *cell != plain.get(8, 8)), "0 is coloured as well: {cells:?}");
    assert_eq!(cells[0], cells[2], "a cell without a value of its own has 0");
    for other in [1, 3, 4] {
        assert_ne!(cells[0], cells[other], "cell {other}");
    }
    // The legend stands beside the map, the highest value first.
    let beside = |color: Color| {
        let rows = 0..damp.size().height;
        rows.filter(|y| (80..damp.size().width).any(|x| damp.get(x, *y) == Some(color))).min()
    };
    let (high, low) = (beside(Color::rgb(255, 224, 70)), beside(Color::rgb(24, 30, 110)));
    assert!(high.is_some() && low > high, "{high:?}, {low:?}");
}
