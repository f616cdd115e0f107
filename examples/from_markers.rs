//! Objects from markers: who is where, and what they do, stands in the map and not in the code.
//!
//! Carts drive along a path, bees fly around a point, a picker tends the cells of a bed, and what
//! grows there is a value layer of the game's own.
//!
//! Run with `cargo run --example from_markers [FOLDER]`; the picture goes to FOLDER, or to
//! `target/from_markers`.

use std::error::Error;
use std::path::PathBuf;

use sturdy_quilt::document::Expects;
use sturdy_quilt::edit::Extraction;
use sturdy_quilt::plane::ValueKind;
use sturdy_quilt::{
    Anchor, Clock, Color, DrawList, EditError, Frame, Overlay, Painter, Quilt, ScreenSize, Sprite,
    View, WorldVec,
};

fn main() -> Result<(), Box<dyn Error>> {
    let folder = std::env::args_os().nth(1).map_or("target/from_markers".into(), PathBuf::from);
    std::fs::create_dir_all(&folder)?;

    // What the code will ask for is checked when the map is loaded, all of it at once.
    let expects = Expects::default()
        .with_markers(["cart-round", "upper-bed", "orchard"])
        .with_tiles(["folk/cart-side", "folk/bee", "terrace/tea-ripe"]);
    let map = concat!(env!("CARGO_MANIFEST_DIR"), "/demo/terrace.quilt.json");
    let mut quilt = Quilt::open_expecting(map, &expects)?;

    // Who is painted on the map is taken off it: from now on they are objects of the game.
    let marked = quilt.tiles().find_where(|tile| !tile.data()["object"].is_null());
    let extraction = Extraction::tiles(marked.collect::<Vec<_>>()).with_anchor(Anchor::Foot);
    let taken = quilt.edit("folk into objects", |pen| pen.extract("folk", &extraction))?.result;
    println!("{} of the folk are objects now", taken.len());

    // The pickers stay where they were painted.
    let pickers = taken.iter().filter(|one| {
        let tile = quilt.tiles().tile_of(one.value).and_then(|id| quilt.tiles().tile(id));
        tile.is_some_and(|tile| tile.data()["object"] == "picker")
    });
    let pickers = pickers.zip(1..).map(|(one, key)| Sprite::new(key, one.value, one.place));
    let mut sprites: Vec<Sprite> = pickers.collect();

    // A cart drives its route: seven carts show where it is every few seconds.
    let (cart, bee) = (quilt.tile("folk/cart-side")?, quilt.tile("folk/bee")?);
    let round = quilt.marker("cart-round")?;
    println!("the round of the carts is {} units long", round.length());
    for stop in 0..7_u32 {
        let place = round.along(round.length() * f64::from(stop) / 6.0);
        sprites.push(Sprite::new(100 + u64::from(stop), cart, place));
    }

    // Every marker of the kind `bee` gets bees around it, as far out as its data says.
    for (number, hive) in quilt.markers().filter(|m| m.kind() == Some("bee")).enumerate() {
        let radius = hive.data()["round"].as_f64().unwrap_or(32.0);
        for step in 0..5_u32 {
            let angle = f64::from(step) / 5.0 * std::f64::consts::TAU;
            let place = hive.place() + WorldVec::new(angle.cos(), angle.sin() * 0.6) * radius;
            let key = 200 + 10 * number as u64 + u64::from(step);
            sprites.push(Sprite::new(key, bee, place).with_elevation(12.0));
        }
    }
    let sprites: Vec<Sprite> = sprites.into_iter().map(|one| one.with_priority(10)).collect();

    // The bed grows, by a value for each of its cells.
    let bed = quilt.marker("upper-bed")?.cells();
    quilt.edit("grow", |pen| {
        pen.add_value_layer("growth", ValueKind::F32)?;
        for cell in bed.cells() {
            let ripe = (cell.x() - bed.left()) as f32 / bed.width() as f32;
            pen.put_value("growth", cell, ripe)?;
        }
        Ok::<(), EditError>(())
    })?;

    let view = View::new(ScreenSize::new(1280, 800))
        .fitted_to(quilt.lattice().rect_bounds(quilt.bounds()));
    let (mut list, mut overlay) = (DrawList::new(), Overlay::new());
    list.rebuild_with(&quilt, &view, &Clock::new(), &sprites);
    overlay.begin(&view, quilt.lattice());
    overlay.values(quilt.values::<f32>("growth")?, |ripe| {
        Some(Color::rgba(240, 220, 40, (ripe * 200.0) as u8))
    });
    overlay.markers(&quilt);
    let (mut frame, mut painter) = (Frame::new(view.size()), Painter::new());
    frame.clear(Color::rgb(20, 24, 28));
    painter.paint(&list, &mut frame);
    painter.paint_overlay(&overlay, &mut frame);
    let picture = folder.join("from-markers.png");
    std::fs::write(&picture, frame.to_picture().to_png()?)?;
    println!("see {}", picture.display());
    Ok(())
}
