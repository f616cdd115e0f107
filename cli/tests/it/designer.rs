//! A designer at work: a map typed by hand with a painted sheet, a mask, a table and a picture of
//! cells; what the tool says to it, and what is left of the files.

use super::*;

const MAP: &str = include_str!("designer/yard.quilt.json");
const TILES: &str = include_str!("designer/yard.tiles.json");
const POSTS: &str = include_str!("designer/posts.csv");

fn painted(size: (u32, u32), color: impl Fn(u32, u32) -> Color) -> Vec<u8> {
    let mut picture = Picture::filled(PixelSize::new(size.0, size.1), Color::CLEAR);
    for (x, y) in (0..size.1).flat_map(|y| (0..size.0).map(move |x| (x, y))) {
        picture.set(x, y, color(x, y));
    }
    picture.to_png().unwrap()
}

/// A pixel of a sheet with margin 2, gap 1 and 4 × 2 tiles of 16 pixels: its tile and the place in
/// that.
fn in_sheet(x: u32, y: u32) -> Option<((u32, u32), (u32, u32))> {
    let place = |at: u32, most: u32| {
        let at = at.checked_sub(2)?;
        (at % 17 < 16 && at / 17 < most).then_some((at / 17, at % 17))
    };
    let ((column, x), (row, y)) = (place(x, 4)?, place(y, 2)?);
    Some(((column, row), (x, y)))
}

const SHEET: (u32, u32) = (2 * 2 + 4 * 16 + 3, 2 * 2 + 2 * 16 + 1);

/// Everything that the designer has made.
fn desk() -> Folder {
    let folder = Folder::with("yard.quilt.json", MAP);
    folder.write("yard.tiles.json", TILES);
    folder.write("posts.csv", POSTS);
    let tile = |(column, row): (u32, u32), (x, y): (u32, u32)| {
        let shade = ((x * 7 + y * 13) % 5 * 4) as u8;
        match (column, row) {
            (0, 0) => Color::rgb(110, 160, 80 + shade),
            (1, 0) => Color::rgb(130, 90, 50 + shade),
            (2, 0) => Color::rgb(60, 110, 190 + shade),
            (3, 0) => Color::rgb(150, 150, 150 - shade),
            (0, 1) => Color::rgb(200, 180, 90 + shade),
            // A post in the middle of its cell.
            (1, 1) if (4..12).contains(&x) && (4..12).contains(&y) => Color::rgb(90, 60, 30),
            (1, 1) => Color::CLEAR,
            (2, 1) => Color::rgb(240, 240, 200 + shade),
            _ => Color::rgb(30, 30, 60 + shade),
        }
    };
    let sheet = painted(SHEET, |x, y| {
        in_sheet(x, y).map_or(Color::rgb(255, 0, 255), |(place, at)| tile(place, at))
    });
    folder.write("yard.png", sheet);
    let mask = |place| match place {
        (0, 0) => Color::rgb(0, 255, 0),
        (1, 0) => Color::rgb(128, 64, 0),
        (2, 0) => Color::rgb(0, 0, 255),
        (3, 0) => Color::rgb(80, 80, 80),
        _ => Color::CLEAR,
    };
    folder.write(
        "yard-mask.png",
        painted(SHEET, |x, y| in_sheet(x, y).map_or(Color::CLEAR, |(place, _)| mask(place))),
    );
    let crown = |x: u32, y: u32| {
        if (x + y).is_multiple_of(5) { Color::rgb(0, 128, 0) } else { Color::CLEAR }
    };
    folder.write("crowns.png", painted((12, 8), crown));
    folder
}

/// What is said to 31 mistakes of typing, each made in a file that was right.
#[test]
fn every_mistake_is_told_with_its_cause() {
    let (map, tiles, posts) = ("yard.quilt.json", "yard.tiles.json", "posts.csv");
    let mistakes: [(&str, &str, &str, &str); 31] = [
        ("a comma is missing", map, "\"priority\": 0,\n", "\"priority\": 0\n"),
        (
            "a quote is missing at the end of a line",
            map,
            "\"#....,.....#\",\n",
            "\"#....,.....#,\n",
        ),
        ("a quote is missing within a line", map, "\"name\": \"soil\"", "\"name: \"soil\""),
        ("a comment", map, "  \"ground\": [", "  // what one walks on\n  \"ground\": ["),
        ("curly quotes", map, "\"name\": \"posts\"", "“name”: “posts”"),
        ("single quotes", map, "\"name\": \"posts\"", "'name': 'posts'"),
        ("a comma too many", map, "\"ground\": \"mud\" }\n", "\"ground\": \"mud\" },\n"),
        ("an object is not closed", map, "\"mud\": \"block\" }\n", "\"mud\": \"block\"\n"),
        (
            "a word of another language",
            map,
            "\"wrap\": \"both\"",
            "\"wrap\": \"both\", \"visible\": True",
        ),
        ("one number for two", map, "\"cell\": [16, 16]", "\"cell\": 16"),
        ("a class that is not there", map, "\"water\": \"block\"", "\"wather\": \"block\""),
        ("a key that is not there", map, "\"priority\": 5", "\"prioritty\": 5"),
        ("a palette that is not there", map, "\"palette\": \"glow\"", "\"palette\": \"glo\""),
        ("a tile that is not there", map, "\"~\": \"yard/water\"", "\"~\": \"yard/watr\""),
        ("a short row", map, "\"#..........#\",", "\"#.........#\","),
        ("a character that is not in the legend", map, "\"#..........#\",", "\"#.....x....#\","),
        ("a legend with two characters", map, "\".\": \"yard/grass\"", "\"..\": \"yard/grass\""),
        ("a colour without its sign", map, "\"#8090c0\"", "\"8090c0\""),
        ("a colour that is off by one", map, "\"#008000\"", "\"#008001\""),
        ("a file that is not there", map, "\"posts.csv\"", "\"post.csv\""),
        (
            "a pair for a band",
            map,
            "\"parallax\": [0, 0]",
            "\"bands\": [{ \"from_row\": 0, \"parallax\": [0.5, 0] }]",
        ),
        (
            "an offset of a part of a cell",
            map,
            "\"priority\": 5,",
            "\"priority\": 5, \"offset\": [4, 0],",
        ),
        ("a marker outside", map, "\"cell\": [1, 6]", "\"cell\": [16, 6]"),
        ("a frame that is not there", tiles, "[\"water\", \"lamp\"]", "[\"water\", \"lmap\"]"),
        ("a variant that is not there", tiles, "\"straw\": 1", "\"strow\": 1"),
        ("a place beyond the sheet", tiles, "\"at\": [3, 1]", "\"at\": [4, 1]"),
        ("a margin that was forgotten", tiles, "\"margin\": 2, ", ""),
        ("a colour of the mask", tiles, "\"#505050\"", "\"#515151\""),
        ("semicolons", posts, ",", ";"),
        ("a heading", posts, ",,,,,,,,,,,\n,", "a,b,c,d,e,f,g,h,i,j,k,l\n,,,,,,,,,,,\n,"),
        ("numbers with fractions", posts, "5", "5.0"),
    ];
    let mut all = String::new();
    for (what, file, from, to) in mistakes {
        let folder = desk();
        let text = folder.read(file);
        assert!(text.contains(from), "{what}: {from}");
        let text = match file == posts && what != "a heading" {
            true => text.replace(from, to),
            false => text.replacen(from, to, 1),
        };
        folder.write(file, text);
        let said = all_said(&folder.run("check yard.quilt.json"));
        assert!(!said.contains("no problem"), "{what} is not told");
        all.push_str(&format!("## {what}\n\n{said}\n"));
    }
    insta::assert_snapshot!(all);
}

/// Lines of CRLF and quoted fields are told by their own places.
#[test]
fn a_table_of_a_spreadsheet_is_told_by_its_rows() {
    let folder = desk();
    let wrong = POSTS.replacen("5,5,5", "\"5\",99,5", 1).replace('\n', "\r\n");
    folder.write("posts.csv", wrong);
    let said = folder.fail("check yard.quilt.json", 1);
    assert!(said.contains("number 99 is not a tile\n --> posts.csv:3:"), "{said}");
}

/// Options that people try are told what they are here.
#[test]
fn an_option_that_is_not_there_is_told() {
    let folder = desk();
    let said = folder.fail("draw yard.quilt.json --scale 3", 2);
    assert!(said.contains("a similar argument exists: '--zoom'"), "{said}");
    let said = folder.fail("draw yard.tiles.json --zoom 3", 1);
    assert!(said.contains("a contact sheet, which has no --zoom"), "{said}");
    let said = folder.fail("draw yard.quilt.json --layers soil,poste", 1);
    assert!(said.contains("no layer `poste` in this map; did you mean `posts`?"), "{said}");
}

/// A day of the designer, command by command.
#[test]
fn a_day_at_the_desk() {
    let folder = desk();
    for line in [
        "check yard.tiles.json --strict",
        "check yard.quilt.json --strict",
        "draw yard.tiles.json -o sheet.png",
        "draw yard.quilt.json -o whole.png --fit",
        "draw yard.quilt.json -o night.png --fit --palette night",
        "draw yard.quilt.json -o turned.png --fit --turn 30",
        "draw yard.quilt.json -o ground.png --fit --overlay ground,figures --why 7,2",
        "draw yard.quilt.json -o small.png --minimap cells",
        "reach yard.quilt.json walker --from 1,1 -o reach.png",
    ] {
        folder.say(line);
    }
    // Nothing of the map is cropped where it is turned: its corners are in the picture.
    let turned = folder.picture("turned.png");
    let background = turned.get(0, 0);
    let sky = folder.picture("whole.png").get(2, 2);
    assert!(background == sky || background.is_some());
    // Lights of the night keep their own palette.
    let info = folder.say("info yard.quilt.json");
    for line in [
        "sky (backdrop)",
        "  sky     priority -10  0 cells",
        "added as light, palette glow",
        "  night  slot 1  tint #8090c0",
    ] {
        assert!(info.contains(line), "{info}");
    }
    assert!(info.contains("lights  priority 20   2 cells"), "{info}");
    let at = folder.say("at yard.quilt.json cell 7,2");
    let water = "        water, decided by layer soil: the rest of the cell\n  walker  blocked\n  boat    stone blocked, water free\n";
    assert!(at.ends_with(water), "{at}");
    let edge = folder.say("at yard.quilt.json cell 14,3");
    assert!(
        edge.contains("  sky     empty  its backdrop shows: yard/sky")
            || edge.contains("  sky     empty  out of view"),
        "{edge}"
    );
    // The posts leave the water between them: a walker is stopped by it, a boat passes.
    let walker = folder.say("move yard.quilt.json walker --from 100,46 --size 4x3 --by 60,0");
    assert!(walker.contains("ends  at 108,46"), "{walker}");
    let boat = folder.say("move yard.quilt.json boat --from 112,46 --size 3x3 --by 45,0");
    assert!(boat.contains("ends  at 157,46") && boat.contains("hit   nothing"), "{boat}");
    let ray = folder.say("ray yard.quilt.json boat --from 113,47 --by 45,0");
    assert!(
        ray.contains("free; water, decided by layer soil") && !ray.contains("blocked"),
        "{ray}"
    );
    let inside = folder.say("move yard.quilt.json walker --from 2,2 --size 8x8 --by 3,0");
    assert!(inside.contains("begins inside cell 0,0: stone, decided by layer soil\n"), "{inside}");

    // Changes go back to where the cells came from, and nothing else changes.
    let before = everything_of(&folder);
    let dry = "edit yard.quilt.json --dry-run --put posts 1,1 yard/post --fill crowns 0,0 2x2 yard/straw --mark gate 2,6";
    let said = folder.say(dry);
    for line in [
        "  crowns.png: 3 pixels changed\n",
        "  posts.csv: 1 line changed\n",
        "  yard.quilt.json: 1 line changed\n",
        "  yard.quilt.json: 4 cells changed, 1 marker changed\n",
    ] {
        assert!(said.contains(line), "{said}");
    }
    assert!(everything_of(&folder) == before, "nothing is written");
    folder.say(&dry.replace("--dry-run", "-o yard.quilt.json"));
    let after = everything_of(&folder);
    let changed: Vec<&str> = after
        .iter()
        .filter(|(name, bytes)| before.get(*name) != Some(*bytes))
        .map(|(name, _)| &**name)
        .collect();
    assert_eq!(changed, ["crowns.png", "posts.csv", "yard.quilt.json"]);
    assert_eq!(folder.read("posts.csv"), POSTS.replacen("\n,,", "\n,5,", 1));
    assert_eq!(
        folder.read("yard.quilt.json"),
        MAP.replacen("\"cell\": [1, 6]", "\"cell\": [2, 6]", 1)
    );
    // Variants are laid by place and seed, and a map that grows says so.
    let grown = folder
        .say("edit yard.quilt.json -o yard.quilt.json --fill soil 12,0 2x8 yard/grass --seed 3");
    assert!(
        grown.contains("the map has grown from 12 × 8 cells at 0,0 to 14 × 8 cells at 0,0\n"),
        "{grown}"
    );
    assert!(folder.read("yard.quilt.json").contains("\"s\": \"yard/straw\""));
    // Where a form cannot hold a change, it takes a word.
    let numbers = folder.read("yard.quilt.json").replace(
        "\"table\": \"posts.csv\", \"set\"",
        "\"numbers\": \"posts.json\", \"size\": [2, 1], \"set\"",
    );
    folder.write("numbers.quilt.json", numbers);
    folder.write("posts.json", "[5, -1]\n");
    let put = "edit numbers.quilt.json -o numbers.quilt.json --put posts 0,0 yard/post+90";
    let refused = folder.fail(put, 1);
    assert!(refused.contains("`yard/post+90` has no number among those of its set: this cannot go back to where the cells came from. Give --take-in posts"), "{refused}");
    folder.say(&format!("{put} --take-in posts"));
    assert_eq!(folder.read("posts.json"), "[5, -1]\n");
    assert!(folder.read("numbers.quilt.json").contains("yard/post+90"));

    // The archive holds all files, and is edited as they are.
    folder.say("convert yard.quilt.json crowns.csv --layer crowns");
    folder.say("edit yard.quilt.json -o yard.zip --erase posts 1,1");
    let zip =
        sturdy_quilt::document::ZipSource::new(fs::read(folder.path("yard.zip")).unwrap()).unwrap();
    assert!(zip.paths().any(|path| path == "posts.csv"));
    let said = folder.say("edit yard.zip -o yard.zip --put posts 2,1 yard/post");
    assert!(said.contains("posts.csv: 1 line changed\n"), "{said}");
    folder.say("check yard.zip --strict");
}

/// All files of a folder.
fn everything_of(folder: &Folder) -> std::collections::BTreeMap<String, Vec<u8>> {
    let files = fs::read_dir(folder.0.path()).unwrap().map(Result::unwrap);
    let held =
        files.map(|file| (file.file_name().into_string().unwrap(), fs::read(file.path()).unwrap()));
    held.collect()
}
