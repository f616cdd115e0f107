//! Pointing at what one sees: on a map of diamonds, a click on a face stacks a hamper on it, a click on
//! the side of a hamper takes it away, and the camera turns.
//!
//! Run with `cargo run --example point_and_place [FOLDER]`; the pictures go to FOLDER, or to
//! `target/point_and_place`.

use std::error::Error;
use std::path::{Path, PathBuf};

use sturdy_quilt::edit::Condition;
use sturdy_quilt::inspect::PickedPart;
use sturdy_quilt::{
    CellPos, Color, DrawList, EditError, Frame, Overlay, Painter, Quilt, ScreenPoint, ScreenSize,
    View,
};

/// The layers of hampers, from the ground up: each stands 20 units higher than the one below.
const STOREYS: [&str; 3] = ["low", "mid", "high"];

fn main() -> Result<(), Box<dyn Error>> {
    let folder = std::env::args_os().nth(1).map_or("target/point_and_place".into(), PathBuf::from);
    std::fs::create_dir_all(&folder)?;
    let mut quilt = Quilt::open(concat!(env!("CARGO_MANIFEST_DIR"), "/demo/market.quilt.json"))?;
    let hampers = quilt.lattice().center(CellPos::new(9, 9));
    let view = quilt.view(ScreenSize::new(1280, 800)).zoomed(3.0).centered_on(hampers);

    // On the low hamper in front, on the pavement, and on the side of the hamper that was just laid.
    let low = view.to_screen_at(quilt.lattice().center(CellPos::new(9, 9)), 20.0);
    let pavement = view.to_screen(quilt.lattice().center(CellPos::new(11, 10)));
    let side = ScreenPoint::new(low.x, low.y - 8.0);
    for (number, point) in [low, pavement, side].into_iter().enumerate() {
        show(&quilt, &view, point, &folder.join(format!("pointed-{}.png", number + 1)))?;
        click(&mut quilt, &view, point)?;
    }
    show(&quilt, &view, pavement, &folder.join("done.png"))?;

    // The map turns; the place of the pointer is another one then, and the face is found again.
    let turned = view.faced(1);
    let point = turned.to_screen_at(quilt.lattice().center(CellPos::new(11, 10)), 20.0);
    show(&quilt, &turned, point, &folder.join("turned.png"))?;
    click(&mut quilt, &turned, point)?;
    show(&quilt, &turned, point, &folder.join("turned-done.png"))?;
    println!("see {}", folder.join("turned-done.png").display());
    Ok(())
}

/// Does what a click means: on a face a hamper is laid, on the side of a hamper that is taken away.
fn click(quilt: &mut Quilt, view: &View, point: ScreenPoint) -> Result<(), EditError> {
    let Some(picked) = quilt.pick(view, point) else { return Ok(()) };
    let cell = picked.key.place;
    let layer = quilt.layers()[picked.key.layer as usize].name().to_owned();
    let storey = STOREYS.iter().position(|storey| *storey == layer);
    let hamper = quilt.tile("market/hamper")?;
    if picked.part == PickedPart::Body && quilt.cell("market/hamper")? == picked.cell {
        quilt.edit("take a hamper", |pen| pen.erase(layer.as_str(), cell))?;
        println!("the side of a hamper in {layer} at {cell}: taken away");
        return Ok(());
    }
    let above = match storey {
        _ if picked.part != PickedPart::Face => None,
        None => (layer == "ground").then_some(STOREYS[0]),
        Some(storey) => STOREYS.get(storey + 1).copied(),
    };
    let Some(above) = above else {
        println!("{layer} at {cell}: nothing can be laid there");
        return Ok(());
    };
    let laid =
        quilt.edit("lay a hamper", |pen| pen.put_if(above, cell, Condition::Empty, hamper))?;
    let done = if laid.result { "a hamper is laid on it" } else { "something lies there" };
    println!("the face of {layer} at {cell}: {done}");
    Ok(())
}

/// The map, with the face that is under the pointer lit.
fn show(
    quilt: &Quilt,
    view: &View,
    pointer: ScreenPoint,
    path: &Path,
) -> Result<(), Box<dyn Error>> {
    let (mut list, mut overlay) = (DrawList::new(), Overlay::new());
    list.rebuild(quilt, view);
    overlay.begin(view, quilt.lattice());
    if let Some(picked) = list.pick(pointer).next() {
        overlay.face(picked.key.place, picked.key.elevation, Color::rgb(255, 220, 96));
    }
    let (mut frame, mut painter) = (Frame::new(view.size()), Painter::new());
    painter.paint(&list, &mut frame);
    painter.paint_overlay(&overlay, &mut frame);
    std::fs::write(path, frame.to_picture().to_png()?)?;
    Ok(())
}
