//! Pictures of the demo, pixel for pixel.
//!
//! When one differs, what was drawn is written beside the test programs, under `target/golden`. To
//! accept new pictures, after looking at them, run the tests with `GOLDEN=write`.

use std::fs;
use std::path::{Path, PathBuf};

use sturdy_quilt::{CellPos, Color, Picture, Quilt, ScreenSize, View, WorldPoint};

fn root() -> &'static Path {
    Path::new(env!("CARGO_MANIFEST_DIR"))
}

fn terrace() -> Quilt {
    Quilt::open(root().join("demo/terrace.quilt.json")).unwrap()
}

fn check(name: &str, drawn: &Picture) {
    let golden = root().join("tests/golden").join(name);
    if std::env::var("GOLDEN").is_ok_and(|mode| mode == "write") {
        fs::write(&golden, drawn.to_png().unwrap()).unwrap();
    }
    let expected = fs::read(&golden).ok().map(|bytes| Picture::from_png(&bytes, 1 << 20).unwrap());
    if expected.as_ref() == Some(drawn) {
        return;
    }
    let folder: PathBuf = root().join("target/golden");
    fs::create_dir_all(&folder).unwrap();
    fs::write(folder.join(name), drawn.to_png().unwrap()).unwrap();
    let differing = expected.map_or(drawn.size().area(), |expected| {
        let pairs = expected.bytes().chunks(4).zip(drawn.bytes().chunks(4));
        pairs.filter(|(a, b)| a != b).count() as u64
    });
    panic!("{differing} pixels differ from {}; see {}", golden.display(), folder.display());
}

#[test]
fn the_tree_at_zoom_1() {
    let quilt = terrace();
    let view = View::new(ScreenSize::new(96, 96))
        .centered_on(quilt.lattice().center(CellPos::new(16, 13)));
    check("tree-zoom-1.png", &quilt.draw(&view, Color::CLEAR));
}

/// Steam over the roof of the shed, at a broken zoom and place.
#[test]
fn the_shed_at_a_broken_zoom() {
    let quilt = terrace();
    let view =
        View::new(ScreenSize::new(120, 90)).zoomed(1.7).centered_on(WorldPoint::new(560.3, 171.9));
    check("shed-zoom-1.7.png", &quilt.draw(&view, Color::rgba(200, 40, 90, 128)));
}

#[test]
fn the_channel_from_afar() {
    let quilt = terrace();
    let view =
        View::new(ScreenSize::new(120, 80)).zoomed(0.3).centered_on(WorldPoint::new(400.0, 200.0));
    check("channel-zoom-0.3.png", &quilt.draw(&view, Color::rgb(0, 0, 0)));
}
