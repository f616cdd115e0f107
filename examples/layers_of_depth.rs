//! Layers of depth: a camera glides along the hoist, and what is far away moves less.
//!
//! The map says it all: `parallax` is how far a layer follows the camera, `bands` give some of its
//! rows a way of their own, `speed` lets clouds pass by themselves, `wrap` lets a layer go on
//! without end, and a `backdrop` is one picture behind everything.
//!
//! Run with `cargo run --example layers_of_depth [FOLDER]`. It writes an animated PNG, which
//! browsers play, and four of its frames into FOLDER, or `target/layers_of_depth`.

use std::error::Error;
use std::path::PathBuf;

use sturdy_quilt::units::ScreenRect;
use sturdy_quilt::{
    Camera, Clock, Color, DrawList, Frame, Painter, Quilt, ScreenSize, View, WorldPoint,
};

/// Pixels of a frame of the animation.
const SIZE: ScreenSize = ScreenSize::new(480, 300);
const FRAMES: u32 = 48;
const FRAME_MS: u16 = 60;
/// One in so many frames of the way there is on the sheet, with a gap of pixels to the next.
const ON_SHEET: u32 = 6;
const GAP: u32 = 8;

fn main() -> Result<(), Box<dyn Error>> {
    let folder = std::env::args_os().nth(1).map_or("target/layers_of_depth".into(), PathBuf::from);
    std::fs::create_dir_all(&folder)?;
    let quilt = Quilt::open(concat!(env!("CARGO_MANIFEST_DIR"), "/demo/hoist.quilt.json"))?;

    // The camera goes after one who rides along the cable, softly, and stays on the map.
    // Whole pixels, so that nothing trembles against anything else.
    let extent = quilt.lattice().rect_bounds(quilt.bounds());
    let view = View::new(SIZE).zoomed(1.5).snapped(true);
    let mut camera =
        Camera::new(view).with_dead_zone(24.0, 24.0).with_half_time(0.15).with_bounds(extent);
    camera.jump_to(WorldPoint::new(0.0, 130.0));

    let (mut list, mut painter) = (DrawList::new(), Painter::new());
    let (mut clock, mut frame) = (Clock::new(), Frame::new(SIZE));
    let mut sheet = Frame::new(ScreenSize::new(2 * SIZE.width + GAP, 2 * SIZE.height + GAP));

    let animation = folder.join("layers-of-depth.apng");
    let file = std::io::BufWriter::new(std::fs::File::create(&animation)?);
    let mut encoder = png::Encoder::new(file, SIZE.width, SIZE.height);
    encoder.set_color(png::ColorType::Rgba);
    encoder.set_animated(FRAMES, 0)?;
    encoder.set_frame_delay(FRAME_MS, 1000)?;
    let mut encoder = encoder.write_header()?;

    for number in 0..FRAMES {
        // There and back again.
        let part = f64::from(number) / f64::from(FRAMES) * std::f64::consts::TAU;
        let rider = WorldPoint::new(320.0 - 320.0 * part.cos(), 130.0 - 60.0 * part.sin());
        camera.follow(rider, f64::from(FRAME_MS) / 1000.0);
        clock.advance(FRAME_MS.into());

        list.rebuild_with(&quilt, &camera.view(), &clock, &[]);
        frame.clear(Color::rgb(20, 24, 28));
        painter.paint(&list, &mut frame);
        encoder.write_image_data(frame.to_picture().bytes())?;

        if number % ON_SHEET == 0 && number < FRAMES / 2 {
            let place = number / ON_SHEET;
            let left = (place % 2 * (SIZE.width + GAP)) as i32;
            let top = (place / 2 * (SIZE.height + GAP)) as i32;
            let (right, bottom) = (left + SIZE.width as i32, top + SIZE.height as i32);
            painter.paint(&list, sheet.part(ScreenRect { left, top, right, bottom }));
        }
    }
    encoder.finish()?;

    let picture = folder.join("layers-of-depth.png");
    std::fs::write(&picture, sheet.to_picture().to_png()?)?;
    println!("{FRAMES} frames: {}", animation.display());
    println!("four of them, on the way there: {}", picture.display());
    Ok(())
}
