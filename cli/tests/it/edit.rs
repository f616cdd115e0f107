//! Changes of a saved map.

use super::*;

#[test]
fn edit_changes_what_was_said_and_nothing_else() {
    let folder = Folder::new();
    let saved = "out/terrace.quilt.json";
    let said = folder.say(&format!("edit {TERRACE} -o {saved} --put soil 3,4 terrace/mud"));
    assert!(said.starts_with("copied ") && said.ends_with(": 1 cell changed\n"));
    let before = fs::read_to_string(demo_file("terrace.quilt.json")).unwrap();
    let after = folder.read(saved);
    assert_eq!(before.lines().zip(after.lines()).filter(|(a, b)| a != b).count(), 1);
    assert_eq!(before.lines().count(), after.lines().count());
    folder.say(&format!("check {saved} --strict"));
    assert_eq!(
        folder.say(&format!("info {saved} --rows soil")).lines().nth(5),
        Some(",..m......==...........a~d..........,.............,.==.....,....")
    );
    folder.say(&format!("draw {TERRACE} -o old.png"));
    folder.say(&format!("draw {saved} -o new.png"));
    let (old, new) = (folder.picture("old.png"), folder.picture("new.png"));
    for (x, y) in (0..640).flat_map(|y| (0..1024).map(move |x| (x, y))) {
        let in_cell = (48..64).contains(&x) && (64..80).contains(&y);
        assert!(in_cell || old.get(x, y) == new.get(x, y), "{x},{y}");
    }
}

#[test]
fn a_dry_run_counts_the_lines_that_change() {
    let folder = Folder::new();
    let dry = |changes: &str| folder.say(&format!("edit {TERRACE} --dry-run {changes}"));
    let said =
        dry("--fill growth 5,5 3x2 terrace/flowers --put soil 3,4 terrace/mud --mark gate-2 5,5");
    // Three rows, a new character of a legend and a new marker, each with the line before it, which
    // gets a comma.
    assert!(said.contains("terrace.quilt.json: 7 lines changed\n"), "{said}");
    assert!(said.contains("terrace.quilt.json: 7 cells changed, 1 marker changed\n"), "{said}");
    let marker = dry("--unmark gate");
    assert!(marker.ends_with("terrace.quilt.json: 1 marker changed\n"), "{marker}");
    let nothing = dry("--put soil 26,16 terrace/water-w");
    assert!(
        nothing.ends_with("terrace.quilt.json: nothing is changed: all of it is so already\n"),
        "{nothing}"
    );
}

#[test]
fn edits_are_made_in_order_and_as_a_whole() {
    let folder = Folder::new();
    folder.say(&format!(
        "edit {TERRACE} -o m.quilt.json --put boards 1,1 terrace/boardwalk+90 \
         --fill boards 0,0 64x40 empty --put boards -2,2 terrace/boardwalk --erase boards 0,0"
    ));
    let rows = folder.say("info m.quilt.json --rows boards");
    // The rows go on over what the document had.
    assert!(rows.starts_with("layer boards: 44 × 30 cells at -2,2\n="), "{rows}");
    assert!(rows.lines().skip(2).take(29).all(|row| row.trim().is_empty()), "{rows}");
    let before = folder.read("m.quilt.json");
    let again = "edit m.quilt.json -o m.quilt.json";
    let wrong = "--erase boards -2,2 --put boards 0,0 terrace/bordwalk";
    let failed = folder.fail(&format!("{again} {wrong}"), 1);
    let near = "no tile `terrace/bordwalk` in this map; did you mean `terrace/boardwalk`";
    assert!(failed.contains(near), "{failed}");
    assert_eq!(folder.read("m.quilt.json"), before, "nothing was saved");
    folder.fail(again, 2);
    let typo = folder.fail(&format!("{again} --erase boards 2;3"), 2);
    assert!(typo.contains("--erase: `2;3`: write column and row as X,Y, for example 3,-4"));
}

#[test]
fn an_edit_overwrites_no_file_of_another_map() {
    let folder = Folder::with("terrace.png", "something else");
    let failed = folder.fail(&format!("edit {TERRACE} -o m.quilt.json --erase soil 0,0"), 1);
    assert!(failed.contains("`terrace.png` is there already and differs"));
    assert_eq!(folder.read("terrace.png"), "something else");
    assert!(!folder.path("m.quilt.json").exists() && !folder.path("terrace.tiles.json").exists());
}

/// A link stays one, and what is no file is written to as it is.
#[cfg(unix)]
#[test]
fn what_is_written_through_a_link_comes_to_where_it_leads() {
    use std::os::unix::fs::symlink;
    let folder = Folder::new();
    folder.say(&format!("edit {TERRACE} -o m.quilt.json --erase soil 0,0"));
    for (link, target) in
        [("l.quilt.json", "m.quilt.json"), ("l.png", "m.png"), ("n.png", "/dev/null")]
    {
        symlink(target, folder.path(link)).unwrap();
    }
    folder.write("m.png", "");
    folder.say("edit m.quilt.json -o l.quilt.json --erase soil 1,0");
    assert_eq!(folder.map("m.quilt.json").layer("soil").unwrap().cells().occupied().count(), 2558);
    folder.say("draw m.quilt.json -o l.png");
    assert_eq!(folder.picture("m.png").size().width, 1024);
    folder.say("draw m.quilt.json -o n.png");
    for link in ["l.quilt.json", "l.png", "n.png"] {
        assert!(folder.path(link).is_symlink(), "{link}");
    }
}
