//! Every example runs, and leaves what it says.

use std::path::{Path, PathBuf};
use std::process::Command;

/// The program of an example, which `cargo test` builds beside the tests.
fn program(name: &str) -> PathBuf {
    let test = std::env::current_exe().unwrap();
    let folder = test.parent().and_then(Path::parent).unwrap().join("examples");
    let program = folder.join(format!("{name}{}", std::env::consts::EXE_SUFFIX));
    assert!(program.exists(), "{name} is not built yet: `cargo build --examples` does so");
    program
}

#[test]
fn first_map_draws_asks_and_builds() {
    let (said, picture) = run("first_map");
    assert!(said.contains("before: a cart at 6,4 is blocked: true"), "{said}");
    assert!(said.contains("after 2 cells: blocked: false"), "{said}");
    let (before, after) = (picture("before.png"), picture("after.png"));
    assert_ne!(before.get(300, 220), after.get(300, 220), "the boards are there");
    assert_eq!(before.get(100, 100), after.get(100, 100), "and nothing else has changed");
}

/// Runs an example that writes into a folder; gives what it said.
fn said(name: &str, folder: &Path) -> String {
    let output = Command::new(program(name)).arg(folder).output().unwrap();
    assert!(output.status.success(), "{}", String::from_utf8_lossy(&output.stderr));
    String::from_utf8(output.stdout).unwrap()
}

/// The same in a folder of its own; gives its pictures by name as well.
fn run(name: &str) -> (String, impl Fn(&str) -> sturdy_quilt::Picture) {
    let folder = tempfile::tempdir().unwrap();
    let said = said(name, folder.path());
    let picture = move |name: &str| {
        let bytes = std::fs::read(folder.path().join(name)).unwrap();
        sturdy_quilt::Picture::from_png(&bytes, 1 << 21).unwrap()
    };
    (said, picture)
}

#[test]
fn walk_behind_hides_who_is_behind() {
    let (said, picture) = run("walk_behind");
    let shown = |name: &str| -> u32 {
        let line = said.lines().find(|line| line.starts_with(name)).unwrap();
        line.split([':', '%']).nth(1).unwrap().trim().parse().unwrap()
    };
    assert!((20..80).contains(&shown("behind the crown")), "{said}");
    assert!((20..90).contains(&shown("behind the tall tree")), "{said}");
    assert_eq!((shown("in front of the trunk"), shown("in front of it")), (100, 100));
    assert_eq!(picture("walk-behind.png").size().width, 1280);
}

#[test]
fn click_and_build_builds_on_water_only() {
    let (said, picture) = run("click_and_build");
    assert_eq!(said.matches(": a board; 1 chunk").count(), 3, "{said}");
    assert_eq!(said.matches("no water, nothing laid; 0 chunk").count(), 2, "{said}");
    assert_eq!(said.matches("undone: lay a board").count(), 3, "{said}");
    let (before, after) = (picture("before.png"), picture("after.png"));
    assert_ne!(before.get(580, 390), after.get(580, 390));
    assert_eq!(before.get(450, 600), after.get(450, 600));
}

#[test]
fn point_and_place_follows_the_faces_that_are_seen() {
    let (said, picture) = run("point_and_place");
    let lines: Vec<&str> = said.lines().collect();
    assert_eq!(
        lines[..4],
        [
            "the face of low at 9,9: a hamper is laid on it",
            "the face of ground at 11,10: a hamper is laid on it",
            "the side of a hamper in mid at 9,9: taken away",
            "the face of low at 11,10: a hamper is laid on it",
        ]
    );
    let (before, after) = (picture("turned.png"), picture("turned-done.png"));
    assert!(before != after && before.size().width == 1280);
}

#[test]
fn from_markers_makes_objects_of_the_folk() {
    let (said, picture) = run("from_markers");
    let map = Path::new(env!("CARGO_MANIFEST_DIR")).join("demo/terrace.quilt.json");
    let quilt = sturdy_quilt::Quilt::open(map).unwrap();
    let folk = quilt.layer("folk").unwrap().cells().occupied().count();
    assert!(said.contains(&format!("{folk} of the folk are objects now")), "{said}");
    assert!(said.contains("the round of the carts is 1048 units long"), "{said}");
    assert_eq!(picture("from-markers.png").size().height, 800);
}

#[test]
fn dig_and_undo_leaves_the_map_as_it_was() {
    let folder = tempfile::tempdir().unwrap();
    let said = said("dig_and_undo", folder.path());
    for line in [
        "dug a ditch of 22 cells in one step",
        "left as it is: cell 24,21 of layer `soil`",
        "11 bytes at the end of the journal were torn",
        "7 changes replayed: the same map",
        "all undone: the map as it was saved",
    ] {
        assert!(said.contains(line), "{said}");
    }
    let open = |path: &Path| sturdy_quilt::Quilt::open(path).unwrap();
    let demo = Path::new(env!("CARGO_MANIFEST_DIR")).join("demo/terrace.quilt.json");
    assert!(open(&folder.path().join("terrace.quilt.json")).same_as(&open(&demo)));
    assert!(folder.path().join("terrace.journal.cut-1").exists());
}

#[test]
fn find_a_way_goes_where_each_mover_can() {
    let (said, picture) = run("find_a_way");
    assert!(said.contains("cart: no way; with a bridge: 61 steps"), "{said}");
    assert!(said.contains("bee: 61 steps, 61.0 times a step; with a bridge: 61 steps"), "{said}");
    let picker = said.lines().find(|line| line.starts_with("picker")).unwrap();
    let steps: Vec<u32> =
        picker.split(" steps").filter_map(|part| part.rsplit(' ').next()?.parse().ok()).collect();
    assert!(steps.len() == 2 && steps[0] > steps[1] && steps[1] >= 61, "{said}");
    assert!(picture("without-bridge.png") != picture("with-bridge.png"));
}

#[test]
fn layers_of_depth_moves_every_plane_in_its_own_way() {
    let (said, picture) = run("layers_of_depth");
    assert!(said.starts_with("48 frames: "), "{said}");
    let sheet = picture("layers-of-depth.png");
    assert_eq!((sheet.size().width, sheet.size().height), (968, 608));
    let rows = |frame: u32, row: u32| -> Vec<_> {
        let (left, top) = (frame % 2 * 488, frame / 2 * 308);
        (0..480).filter_map(|x| sheet.get(left + x, top + row)).collect()
    };
    // The first and the last frame of the sheet: the mountains have moved, the sky has not.
    assert_ne!(rows(0, 180), rows(3, 180));
    assert_eq!(rows(0, 20).first(), rows(3, 20).first());
}

#[test]
fn two_views_show_two_places() {
    let (said, picture) = run("two_views");
    assert!(said.contains("player 1: ") && said.contains("player 2: "), "{said}");
    let picture = picture("two-views.png");
    // Both see the path in the middle of their half, and a bar lies between them.
    assert_eq!(picture.get(640, 100), Some(sturdy_quilt::Color::rgb(24, 28, 32)));
    assert_ne!(picture.get(100, 100), picture.get(740, 100));
}

#[test]
fn headless_referee_believes_nothing_and_stays_in_step() {
    let folder = tempfile::tempdir().unwrap();
    let said = said("headless_referee", folder.path());
    for refused in [
        "a step into the channel: NotThere",
        "eighty units at once: TooFast",
        "no number: TooFast",
        "a board far away: OutOfReach",
        "a board on the path: NoWater",
    ] {
        assert!(said.contains(refused), "{said}");
    }
    assert!(said.contains("in step after 180 moves; all three maps have the sum"), "{said}");
    let sent =
        said.lines().filter(|line| line.starts_with("a board on 2") && line.ends_with("bytes"));
    assert_eq!(sent.count(), 3, "{said}");
    // There is no picture beside the map.
    let files = std::fs::read_dir(folder.path()).unwrap();
    let names: Vec<String> =
        files.map(|file| file.unwrap().file_name().into_string().unwrap()).collect();
    assert!(names.iter().all(|name| name.ends_with(".json")), "{names:?}");
    // A line that says nothing ends it with an error, and does nothing else.
    let mut child = Command::new(program("headless_referee"))
        .arg("--referee")
        .arg(folder.path())
        .stdin(std::process::Stdio::piped())
        .stderr(std::process::Stdio::piped())
        .spawn()
        .unwrap();
    std::io::Write::write_all(child.stdin.as_mut().unwrap(), b"fly 3\n").unwrap();
    let output = child.wait_with_output().unwrap();
    assert!(!output.status.success());
    assert!(String::from_utf8_lossy(&output.stderr).contains("`fly 3` is no deed"));
}
