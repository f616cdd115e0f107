//! Pictures of the demo, pixel for pixel: one at least of each kind of thing that is drawn.
//!
//! When one differs, what was drawn is written beside the test programs, under `target/golden`. To
//! accept new pictures, after looking at them, run the tests with `GOLDEN=write`.

use std::fs;
use std::path::{Path, PathBuf};

use sturdy_quilt::inspect::MinimapScale;
use sturdy_quilt::quilt::Blend;
use sturdy_quilt::{
    CellPos, Clock, Color, DrawList, Frame, GroundMap, Minimap, Overlay, Painter, Picture, Quilt,
    ScreenSize, Sprite, TileSet, View, WorldPoint,
};

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

fn market() -> Quilt {
    Quilt::open(root().join("demo/market.quilt.json")).unwrap()
}

/// The market around a cell, as it is seen from a side.
fn market_view(quilt: &Quilt, (width, height): (u32, u32), cell: CellPos, facing: i32) -> View {
    let view = quilt.view(ScreenSize::new(width, height)).faced(facing);
    view.centered_on(quilt.lattice().center(cell))
}

/// Diamonds, blocks on each other, and things that stand.
#[test]
fn stacked_hampers() {
    let quilt = market();
    let view = market_view(&quilt, (160, 120), CellPos::new(8, 8), 0);
    check("hampers-zoom-1.png", &quilt.draw(&view, Color::CLEAR));
}

/// A picture on 2 × 3 cells in strips, from another side, at a broken zoom.
#[test]
fn the_tea_house_from_the_side() {
    let quilt = market();
    let view = market_view(&quilt, (200, 160), CellPos::new(14, 3), 1).zoomed(1.3);
    check("tea-house-facing-1.png", &quilt.draw(&view, Color::rgb(20, 24, 28)));
}

/// Layers that stand higher: awnings over people, and a terrace.
#[test]
fn awnings_over_the_alley() {
    let quilt = market();
    let view = market_view(&quilt, (220, 140), CellPos::new(4, 7), 2).zoomed(0.7);
    check("awnings-zoom-0.7.png", &quilt.draw(&view, Color::CLEAR));
}

/// Sprites among blocks: one behind, one lifted, one tinted, one that adds its light.
#[test]
fn sprites_on_the_market() {
    let quilt = market();
    let view = market_view(&quilt, (160, 120), CellPos::new(8, 8), 0);
    let person = quilt.tile("market/potter").unwrap();
    let at = |x: f64, y: f64| WorldPoint::new(x * 16.0, y * 16.0);
    let sprite = |key: u64, x: f64, y: f64| Sprite::new(key, person, at(x, y)).with_priority(10);
    let sprites = [
        sprite(1, 7.6, 7.6),
        sprite(2, 10.5, 8.5).with_elevation(14.0),
        sprite(3, 8.5, 10.4).with_tint(Color::rgba(120, 200, 255, 200)),
        sprite(4, 7.4, 9.4).with_blend(Blend::Add),
    ];
    let (mut list, mut frame) = (DrawList::new(), Frame::new(view.size()));
    list.rebuild_with(&quilt, &view, &Clock::new(), &sprites);
    Painter::new().paint(&list, &mut frame);
    check("sprites-zoom-1.png", &frame.to_picture());
}

/// Areas, lines, frames and texts of an overlay at a slant.
#[test]
fn an_overlay_at_a_slant() {
    let quilt = market();
    let view = market_view(&quilt, (200, 140), CellPos::new(7, 12), 0);
    let (mut list, mut frame) = (DrawList::new(), Frame::new(view.size()));
    let (mut overlay, mut painter) = (Overlay::new(), Painter::new());
    list.rebuild(&quilt, &view);
    painter.paint(&list, &mut frame);
    overlay.begin(&view, quilt.lattice());
    overlay.ground(&quilt, &GroundMap::of(&quilt));
    overlay.lattice(Color::rgba(255, 255, 255, 60));
    overlay.coordinates(Color::rgb(255, 240, 190));
    overlay.markers(&quilt);
    overlay.face(CellPos::new(8, 10), 20.0, Color::rgb(255, 220, 96));
    painter.paint_overlay(&overlay, &mut frame);
    check("overlay-slanted.png", &frame.to_picture());
}

/// The same from above, and the figures.
#[test]
fn an_overlay_from_above() {
    let quilt = terrace();
    let view = View::new(ScreenSize::new(200, 140))
        .zoomed(2.0)
        .centered_on(quilt.lattice().center(CellPos::new(27, 16)));
    let (mut list, mut frame) = (DrawList::new(), Frame::new(view.size()));
    let (mut overlay, mut painter) = (Overlay::new(), Painter::new());
    list.rebuild(&quilt, &view);
    painter.paint(&list, &mut frame);
    overlay.begin(&view, quilt.lattice());
    let classes = overlay.ground(&quilt, &GroundMap::of(&quilt));
    overlay.solid_edges(
        &GroundMap::of(&quilt),
        quilt.mover("cart").unwrap(),
        Color::rgb(255, 90, 60),
    );
    overlay.legend(&classes);
    painter.paint_overlay(&overlay, &mut frame);
    check("overlay-from-above.png", &frame.to_picture());
}

/// A minimap of the market as it is seen.
#[test]
fn a_minimap_as_seen() {
    let quilt = market();
    let minimap = Minimap::new(MinimapScale::Part(8)).with_projection(*quilt.projection());
    let mut minimap = minimap;
    minimap.refresh(&quilt).unwrap();
    check("minimap-slanted.png", &minimap.picture());
}

/// Backdrops and layers that follow the camera in part, in a view that is turned.
#[test]
fn the_hoist_turned() {
    let quilt = Quilt::open(root().join("demo/hoist.quilt.json")).unwrap();
    let view =
        View::new(ScreenSize::new(160, 120)).centered_on(WorldPoint::new(260.0, 180.0)).turned(0.4);
    check("hoist-turned.png", &quilt.draw(&view, Color::CLEAR));
}

/// The palette of the night, and tiles that no set has.
#[test]
fn the_night_with_missing_tiles() {
    let mut quilt = terrace();
    quilt
        .edit("night", |pen| {
            let night = pen.quilt().palette("night")?;
            let ids: Vec<_> = pen.quilt().layers().iter().map(|layer| layer.id()).collect();
            ids.into_iter()
                .try_for_each(|id| pen.set_layer(id, |layer| layer.with_palette(Some(night))))?;
            // A set without the tiles of the one before it.
            pen.put_tiles(TileSet::flat("trees", ["stump"])?)
        })
        .unwrap();
    let view = View::new(ScreenSize::new(128, 96))
        .centered_on(quilt.lattice().center(CellPos::new(16, 13)));
    check("night-missing.png", &quilt.draw(&view, Color::CLEAR));
}
