//! From a click to a changed map: pixel, place, cell, condition, edit, and what follows from it.
//!
//! Run with `cargo run --example click_and_build [FOLDER]`; the pictures go to FOLDER, or to
//! `target/click_and_build`.

use std::error::Error;
use std::path::{Path, PathBuf};

use sturdy_quilt::{
    CellPos, Changeset, Color, DrawList, Frame, GroundMap, Overlay, Painter, Quilt, ScreenPoint,
    ScreenSize, View,
};

fn main() -> Result<(), Box<dyn Error>> {
    let folder = std::env::args_os().nth(1).map_or("target/click_and_build".into(), PathBuf::from);
    std::fs::create_dir_all(&folder)?;
    let mut quilt = Quilt::open(concat!(env!("CARGO_MANIFEST_DIR"), "/demo/terrace.quilt.json"))?;
    let mut ground = GroundMap::of(&quilt);
    let cart = quilt.mover("cart")?;
    let (water, board) = (quilt.ground_rules().class("channel")?, quilt.tile("terrace/boardwalk")?);
    let view = View::new(ScreenSize::new(1280, 800))
        .zoomed(4.0)
        .centered_on(quilt.lattice().center(CellPos::new(27, 16)));

    // Clicks on the water, on the path beside it, and on a board that was just laid.
    let clicks = [(580, 390), (650, 390), (710, 390), (450, 390), (650, 390)];
    let mut done: Vec<Changeset> = Vec::new();
    show(&quilt, &ground, &view, ScreenPoint::pixel(650, 390), &folder.join("before.png"))?;
    for (x, y) in clicks {
        // A pixel is a place in the world, and a place lies in a cell. Nothing is computed by hand.
        let place = view.to_world(ScreenPoint::pixel(x, y));
        let cell = quilt.lattice().cell_at(place);
        // What must be true is a part of the edit: boards go on water only.
        let edit = quilt.edit("lay a board", |pen| pen.put_if("boards", cell, water, board))?;
        let chunks = ground.refresh(&quilt);
        println!(
            "pixel {x},{y} is cell {cell}: {}; {chunks} chunk of ground derived anew, a cart is {}",
            if edit.result { "a board" } else { "no water, nothing laid" },
            if ground.blocked(cart, cell) { "blocked" } else { "free" },
        );
        if edit.result {
            done.push(edit.changes);
        }
    }
    show(&quilt, &ground, &view, ScreenPoint::pixel(650, 390), &folder.join("after.png"))?;

    // Undo is the inverse of what was done, the last one first.
    while let Some(changes) = done.pop() {
        quilt.apply(&changes.inverse())?;
        println!("undone: {}", changes.label());
    }
    println!("see {}", folder.join("after.png").display());
    Ok(())
}

/// The map, with what blocks a cart in red and the cell under the pointer lit.
fn show(
    quilt: &Quilt,
    ground: &GroundMap,
    view: &View,
    pointer: ScreenPoint,
    path: &Path,
) -> Result<(), Box<dyn Error>> {
    let (mut list, mut overlay) = (DrawList::new(), Overlay::new());
    list.rebuild(quilt, view);
    overlay.begin(view, quilt.lattice());
    overlay.blocked(ground, quilt.mover("cart")?, Color::rgba(214, 48, 40, 90));
    overlay.cell(quilt.lattice().cell_at(view.to_world(pointer)), Color::rgb(255, 220, 96));
    let (mut frame, mut painter) = (Frame::new(view.size()), Painter::new());
    painter.paint(&list, &mut frame);
    painter.paint_overlay(&overlay, &mut frame);
    std::fs::write(path, frame.to_picture().to_png()?)?;
    Ok(())
}
