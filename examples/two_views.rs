//! Two views of one map at once: a screen for two players, and a minimap that shows both.
//!
//! Each view has a camera and a draw list of its own; they share the map, the painter and the
//! frame.
//!
//! Run with `cargo run --example two_views [FOLDER]`; the picture goes to FOLDER, or to
//! `target/two_views`.

use std::error::Error;
use std::path::PathBuf;

use sturdy_quilt::inspect::MinimapScale;
use sturdy_quilt::units::ScreenRect;
use sturdy_quilt::{
    Camera, Clock, Color, DrawList, Frame, Minimap, Overlay, Painter, Quilt, ScreenSize, Sprite,
    View, WorldPoint,
};

const SCREEN: ScreenSize = ScreenSize::new(1280, 800);
const HALF: ScreenSize = ScreenSize::new(SCREEN.width / 2, SCREEN.height);

fn main() -> Result<(), Box<dyn Error>> {
    let folder = std::env::args_os().nth(1).map_or("target/two_views".into(), PathBuf::from);
    std::fs::create_dir_all(&folder)?;
    let quilt = Quilt::open(concat!(env!("CARGO_MANIFEST_DIR"), "/demo/terrace.quilt.json"))?;

    // Two pickers, told apart by a tint.
    let picker = quilt.tile("folk/picker-front")?;
    let feet = [WorldPoint::new(258.0, 268.0), WorldPoint::new(652.0, 300.0)];
    let tints = [Color::rgb(255, 190, 170), Color::rgb(170, 200, 255)];
    let sprites: Vec<Sprite> = (0..)
        .zip(feet.into_iter().zip(tints))
        .map(|(key, (foot, tint))| Sprite::new(key, picker, foot).with_priority(10).with_tint(tint))
        .collect();

    let extent = quilt.lattice().rect_bounds(quilt.bounds());
    let cameras = feet.map(|foot| {
        let mut camera = Camera::new(View::new(HALF).zoomed(3.0).snapped(true)).with_bounds(extent);
        camera.jump_to(foot);
        camera
    });

    let (mut painter, mut frame, clock) = (Painter::new(), Frame::new(SCREEN), Clock::new());
    let mut lists = [DrawList::new(), DrawList::new()];
    for (number, (list, camera)) in (0..).zip(lists.iter_mut().zip(&cameras)) {
        list.rebuild_with(&quilt, &camera.view(), &clock, &sprites);
        let left = number * HALF.width as i32;
        let right = left + HALF.width as i32;
        painter.paint(list, frame.part(ScreenRect { left, top: 0, right, bottom: 800 }));
        println!("player {}: {} quads", number + 1, list.quads().len());
    }

    // The minimap lies in the middle below, with a frame around what each player sees.
    let mut minimap = Minimap::new(MinimapScale::Part(4));
    minimap.refresh(&quilt)?;
    let (mut small, mut overlay) = (minimap.frame().clone(), Overlay::new());
    minimap.lay_over(&quilt, &cameras.map(|camera| camera.view()), &mut overlay);
    painter.paint_overlay(&overlay, &mut small);
    let (width, height) = (small.size().width as i32, small.size().height as i32);
    let (left, top) = ((1280 - width) / 2, 800 - height - 12);
    let mut border = Overlay::new();
    border.begin(&View::new(SCREEN), quilt.lattice());
    let dark = Color::rgb(24, 28, 32);
    border.rect(ScreenRect { left: 638, top: 0, right: 642, bottom: 800 }, dark);
    let around = ScreenRect {
        left: left - 4,
        top: top - 4,
        right: left + width + 4,
        bottom: top + height + 4,
    };
    border.rect(around, dark);
    painter.paint_overlay(&border, &mut frame);
    for (row, pixels) in small.pixels().chunks(width as usize).enumerate() {
        let start = (top as usize + row) * SCREEN.width as usize + left as usize;
        frame.pixels_mut()[start..start + width as usize].copy_from_slice(pixels);
    }

    let picture = folder.join("two-views.png");
    std::fs::write(&picture, frame.to_picture().to_png()?)?;
    println!("see {}", picture.display());
    Ok(())
}
