//! Maps and tile sets in other forms, and bare grids.

use super::*;

#[test]
fn convert_takes_the_demo_maps_through_every_form_and_back() {
    let folder = Folder::new();
    for name in ["terrace", "hoist"] {
        let file = format!("{name}.quilt.json");
        let quilt = Quilt::open(demo_file(&file)).unwrap();
        let mut forms = vec![(format!("{name}.zip"), String::new())];
        for form in ["readable", "rows", "numbers", "table", "picture", "packed"] {
            for apart in ["", "--apart"] {
                forms.push((
                    format!("{name}-{form}{apart}/{file}"),
                    format!("--cells {form} {apart}"),
                ));
            }
        }
        for (target, options) in forms {
            folder.say(&format!("convert demo/{file} {target} {options}"));
            folder.say(&format!("check --strict {target}"));
            let back = format!("back/{target}/{file}");
            folder.say(&format!("convert {target} {back}"));
            assert!(folder.map(&back).same_as(&quilt), "{target}");
        }
    }
    // From rows to rows nothing changes at all.
    let rows = folder.read("terrace-rows/terrace.quilt.json");
    assert_eq!(rows, fs::read_to_string(demo_file("terrace.quilt.json")).unwrap());
}

#[test]
fn convert_says_what_a_file_cannot_hold_and_reads_it_again() {
    let folder = Folder::new();
    let refused = folder.fail(&format!("convert {TERRACE} all.csv"), 1);
    assert!(refused.contains("holds one layer; choose it with --layer: soil, growth"));
    let quilt = demo_map();
    for (target, legend) in [
        ("growth-1.csv", ""),
        ("growth-2.txt", "--legend growth-2.txt.legend.json"),
        ("growth-3.png", "--legend growth-3.png.legend.json"),
    ] {
        let said = folder.say(&format!("convert {TERRACE} {target} --layer growth"));
        let lost = "holds layer growth only; not 7 other layers, 12 markers, 3 tile sets, 7 ground classes, 4 movers, the data of the map, its place, 0,1";
        assert!(said.contains(lost), "{said}");
        folder.say(&format!(
            "convert {target} {target}.quilt.json --tiles demo/terrace.tiles.json {legend}"
        ));
        let again = folder.map(&format!("{target}.quilt.json"));
        let (old, new) = (quilt.layer("growth").unwrap(), &again.layers()[0]);
        assert_eq!(old.cells().occupied().count(), new.cells().occupied().count());
        for (at, cell) in old.cells().occupied() {
            let moved = sturdy_quilt::CellPos::new(at.x(), at.y() - 1);
            let there = again.tiles().notation(new.cells().get(moved).here().unwrap());
            assert_eq!(quilt.tiles().notation(cell), there, "{target} {at}");
        }
    }
    let unknown = folder.fail(&format!("convert {TERRACE} x.xyz"), 1);
    assert!(unknown.contains("its name must end in .quilt.json or .zip"), "{unknown}");
}

#[test]
fn a_bare_grid_can_be_seen_and_is_asked_what_it_means() {
    let folder = Folder::with("beds.txt", "##..\n#:.:\n");
    folder.write("beds.csv", "1,2,-1\n1,1,3\n");
    insta::assert_snapshot!(folder.say("info beds.txt") + &folder.say("info beds.csv"));
    for file in ["beds.txt", "beds.csv"] {
        folder.say(&format!("check {file}"));
        let said = folder.say(&format!("draw {file} -o {file}.png"));
        assert!(said.contains("tiles drawn"), "{said}");
    }
    folder.say("check --strict beds.txt");
    let dropped = folder.fail("check --strict beds.csv", 1);
    assert!(dropped.contains("1 field with -1 is taken for an empty cell"), "{dropped}");
    assert_eq!(folder.picture("beds.txt.png").get(8, 8), Some(Color::of_name("#")));
    // Numbers count the tiles of a set.
    let convert = "convert beds.csv beds.quilt.json --tiles demo/terrace.tiles.json --set terrace";
    folder.say(&format!("{convert} --base 1"));
    assert_eq!(folder.map("beds.quilt.json").layer_text("beds").unwrap().rows, ["gt ", "ggf"]);
    // What is wrong is said of the file in which it is.
    folder.write("beds.csv", "1,2\n1,99\n");
    let wrong = folder.fail(convert, 1);
    assert!(wrong.contains("beds.csv:2:3"), "{wrong}");
}

#[test]
fn archives_and_schemas() {
    let folder = Folder::new();
    let convert = format!("convert {TERRACE} estate.zip");
    folder.say(&convert);
    let first = fs::read(folder.path("estate.zip")).unwrap();
    folder.say(&convert);
    let again = fs::read(folder.path("estate.zip")).unwrap();
    assert_eq!(first, again, "the same map gives the same archive");
    let (whole, inner) =
        (folder.say("info estate.zip"), folder.say("info estate.zip/terrace.quilt.json"));
    assert_eq!(whole.split_once('\n').unwrap().1, inner.split_once('\n').unwrap().1);
    let wrong = folder.fail("info estate.zip/terace.quilt.json", 1);
    assert!(wrong.contains("did you mean `terrace.quilt.json`?"), "{wrong}");
    folder.write("broken.zip", &first[..first.len() / 2]);
    let broken = folder.fail("check broken.zip", 1);
    assert!(broken.contains("not a readable zip archive"), "{broken}");
    for (kind, text) in [
        ("map", sturdy_quilt::document::MAP_SCHEMA),
        ("tiles", sturdy_quilt::document::TILES_SCHEMA),
        ("expects", sturdy_quilt::document::EXPECTS_SCHEMA),
    ] {
        assert_eq!(folder.say(&format!("schema {kind}")), text);
    }
}

#[test]
fn convert_bakes_the_ground_of_a_mask_into_a_tile_set() {
    let sheet = Picture::filled(sturdy_quilt::units::PixelSize::new(32, 16), Color::rgb(9, 9, 9));
    let mut mask = Picture::filled(sheet.size(), Color::CLEAR);
    for (x, y) in (0..16).flat_map(|y| (16..32).map(move |x| (x, y))) {
        mask.set(x, y, Color::rgb(255, 0, 0));
    }
    let folder = Folder::with(
        "yard.tiles.json",
        r##"{ "format": "sturdy-quilt/tiles", "version": 1, "names": "t{number}",
            "sheet": { "picture": "sheet.png", "tile": [16, 16] },
            "ground_mask": { "picture": "mask.png", "legend": { "#ff0000": "stone" } } }"##,
    );
    folder.write("sheet.png", sheet.to_png().unwrap());
    folder.write("mask.png", mask.to_png().unwrap());
    let said = folder.say("convert yard.tiles.json baked.tiles.json");
    assert!(said.contains("1 of 2 tiles state their ground"), "{said}");
    let baked = folder.read("baked.tiles.json");
    assert!(baked.contains(r#"{ "at": [1, 0], "ground": "stone" }"#), "{baked}");
    assert!(!baked.contains("mask"), "{baked}");
    // A server needs neither picture: the columns and rows of the sheet are stated.
    assert!(baked.contains(r#""columns": 2, "rows": 1"#), "{baked}");
    let mut files = sturdy_quilt::MemorySource::default();
    files.add("baked.tiles.json", baked);
    let loader = sturdy_quilt::Loader::new().without_pictures();
    let (set, _) = loader.load_tiles(&files, "baked.tiles.json").unwrap();
    assert_eq!(set.find("t1").unwrap().ground(), Some("stone"));
}
