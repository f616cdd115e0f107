//! The games, played from scripts.

use assert_cmd::Command;
use sturdy_quilt::{Picture, ScreenPoint};
use sturdy_quilt_play::{Event, Key, Script};

/// Plays a script on the terrace; gives what the game said, and its last picture.
fn played(script: &str) -> (String, Picture) {
    played_on("terrace", script)
}

fn played_on(map: &str, script: &str) -> (String, Picture) {
    let folder = tempfile::tempdir().unwrap();
    let (file, out) = (folder.path().join("play.script"), folder.path().join("last.png"));
    std::fs::write(&file, script).unwrap();
    let mut game = Command::cargo_bin("first_window").unwrap();
    let done = game
        .args(["--map", map])
        .arg("--script")
        .arg(&file)
        .arg("--out")
        .arg(&out)
        .assert()
        .success();
    let said = String::from_utf8(done.get_output().stdout.clone()).unwrap();
    (said, Picture::from_png(&std::fs::read(out).unwrap(), 1 << 22).unwrap())
}

#[test]
fn the_day_ends_beyond_the_channel() {
    let (said, picture) = played(include_str!("../day.script"));
    assert!(said.contains("3 boards laid"), "{said}");
    let stands = said.split("stands at ").nth(1).unwrap();
    let x: f64 = stands.split(',').next().unwrap().parse().unwrap();
    assert!(x > 480.0, "{said}");
    assert_eq!((picture.size().width, picture.size().height), (1280, 800));
    assert!(picture == played(include_str!("../day.script")).1, "the same day, the same picture");
}

#[test]
fn water_stops_who_has_laid_no_boards() {
    let (said, picture) = played("hold down 15\nhold right 400\npoint 692 250\nwait 1");
    assert!(said.contains("stands at 412.0,278.5; 0 boards laid"), "{said}");
    // The frame of the cell under the pointer.
    let frame = sturdy_quilt::Color::rgb(255, 220, 96);
    assert!((0..800).any(|y| (600..800).any(|x| picture.get(x, y) == Some(frame))));
    let (beside, _) = played("point 100 400\nclick\nwait 1");
    assert!(beside.contains("0 boards laid"), "a click beside the water builds nothing: {beside}");
}

/// Whoever is pressed into a corner stays on the map, and so does the camera.
#[test]
fn the_camera_stays_on_the_map() {
    let (said, picture) = played("hold left 300\nhold up 400\nwait 1");
    assert!(said.contains("boards laid"));
    let background = sturdy_quilt::Color::rgb(20, 24, 28);
    let corners = [(0, 0), (1279, 0), (0, 799), (1279, 799)];
    assert!(corners.iter().all(|&(x, y)| picture.get(x, y) != Some(background)));
}

#[test]
fn scripts_say_which_line_is_wrong() {
    let script: Script =
        "\n# nothing\nhold left 2 # a step\npress figures\npoint 3 4.5".parse().unwrap();
    assert_eq!(
        script.events(),
        [
            Event::Press(Key::Left),
            Event::Tick,
            Event::Tick,
            Event::Release(Key::Left),
            Event::Press(Key::Figures),
            Event::Release(Key::Figures),
            Event::Point(ScreenPoint::new(3.0, 4.5)),
        ]
    );
    for wrong in ["hold left", "hold north 3", "wait -1", "wait 99999999999", "jump", "point 1"] {
        let error = format!("click\n{wrong}").parse::<Script>().unwrap_err().to_string();
        assert!(error.starts_with(&format!("line 2 of the script, `{wrong}`")), "{error}");
    }
    let mut game = Command::cargo_bin("first_window").unwrap();
    let failed = game.args(["--script", "no/such", "--out", "x.png"]).assert().failure();
    assert!(String::from_utf8_lossy(&failed.get_output().stderr).contains("No such file"));
}

#[test]
fn baskets_come_down_when_the_gate_is_dropped() {
    let test = std::env::current_exe().unwrap();
    let built = test.parent().and_then(std::path::Path::parent).unwrap().join("examples");
    let program = built.join(format!("hand_to_physics{}", std::env::consts::EXE_SUFFIX));
    let folder = tempfile::tempdir().unwrap();
    let output = std::process::Command::new(program).arg(folder.path()).output().unwrap();
    assert!(output.status.success(), "{}", String::from_utf8_lossy(&output.stderr));
    let said = String::from_utf8(output.stdout).unwrap();
    let number = |before: &str| -> f64 {
        let behind = said.split(before).nth(1).unwrap();
        let end = behind.find(|c: char| !c.is_ascii_digit() && c != '.').unwrap();
        behind[..end].trim_end_matches('.').parse().unwrap()
    };
    assert!(said.contains("the gate is gone: 1 piece changed"), "{said}");
    // They stood on the gate, and lie on the path or the meadow below.
    assert_eq!(number("at rest, the lowest at "), 211.0);
    assert!(number("came down by ") > 30.0, "{said}");
    assert!(number("the lowest rests at ") <= 315.5, "{said}");
    assert!(number("deepest in the ground: ") < 0.5, "{said}");
    for name in ["stacked", "falling", "landed"] {
        let bytes = std::fs::read(folder.path().join(format!("{name}.png"))).unwrap();
        assert_eq!(Picture::from_png(&bytes, 1 << 22).unwrap().size().width, 1280);
    }
}

/// On the market the keys walk as the screen shows, a stall is slid along, and a click stacks a hamper
/// on the face that is seen.
#[test]
fn the_market_is_walked_and_built_on() {
    let place = |said: &str| -> (f64, f64) {
        let stands = said.split("stands at ").nth(1).unwrap();
        let (x, y) = stands.split(';').next().unwrap().split_once(',').unwrap();
        (x.parse().unwrap(), y.parse().unwrap())
    };
    let start = place(&played_on("market", "wait 1").0);
    // Up on the screen is up to the left and to the right on the ground, as far as nothing stops that.
    let up = place(&played_on("market", "hold up 20").0);
    assert!(up.0 < start.0 && up.1 < start.1 && (start.0 - up.0 - (start.1 - up.1)).abs() < 0.2);
    // Seen from the other side, the way is the opposite one.
    let turned = "press turn-right\npress turn-right\nhold down 20";
    assert_eq!(place(&played_on("market", turned).0), up);
    // Over the bridge, up to the stalls, and along them: x goes on where y has ended.
    let slid = place(&played_on("market", "hold up 400").0);
    assert!(slid.0 < start.0 - 30.0 || slid.1 < start.1 - 30.0, "{slid:?}");
    let (said, picture) = played_on("market", "point 640 300\nclick\nclick\nwait 1");
    assert!(said.contains("hampers laid") && !said.contains(" 0 hampers"), "{said}");
    assert_eq!(picture.size().width, 1280);
    let error =
        Command::cargo_bin("first_window").unwrap().args(["--map", "moon"]).assert().failure();
    let said = String::from_utf8(error.get_output().stderr.clone()).unwrap();
    assert!(said.contains("there is no map `moon`: choose terrace or market"), "{said}");
}
