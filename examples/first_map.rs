//! A first map: rows typed in the source, placeholder tiles in flat colours, a picture, one edit.
//!
//! Run with `cargo run --example first_map [FOLDER]`; the pictures go to FOLDER, or to
//! `target/first_map`.

use std::error::Error;
use std::path::PathBuf;

use sturdy_quilt::{
    Cell, CellPos, Color, GroundMap, Lattice, LayerSettings, Mover, Quilt, ScreenSize, TileSet,
    TileSpec, View,
};

fn main() -> Result<(), Box<dyn Error>> {
    let folder = std::env::args_os().nth(1).map_or("target/first_map".into(), PathBuf::from);
    std::fs::create_dir_all(&folder)?;

    // Tiles that have no picture yet get a flat colour: by their name, or as stated.
    let mut quilt = Quilt::new(Lattice::square(16.0, 16.0)?);
    quilt.edit("lay out the yard", |pen| {
        pen.add_ground_classes(["open", "channel", "hedge"])?;
        pen.put_mover(Mover::new("cart").block("channel").block("hedge"))?;
        let tiles = TileSet::builder("yard")
            .tile(TileSpec::named("grass").with_ground("open").with_color(Color::rgb(118, 158, 84)))
            .tile(
                TileSpec::named("water")
                    .with_ground("channel")
                    .with_color(Color::rgb(66, 116, 168)),
            )
            .tile(TileSpec::named("hedge").with_ground("hedge").with_color(Color::rgb(48, 92, 58)))
            .tile(
                TileSpec::named("boards").with_ground("open").with_color(Color::rgb(176, 132, 82)),
            );
        pen.put_tiles(tiles.build()?)?;
        pen.add_layer("soil", LayerSettings::default())?;
        pen.add_layer("boards", LayerSettings::default().with_priority(1))?;
        let legend = [('.', "yard/grass"), ('~', "yard/water"), ('#', "yard/hedge")];
        pen.put_rows(
            "soil",
            CellPos::ORIGIN,
            &legend,
            &[
                "##############",
                "#....~~......#",
                "#....~~......#",
                "#.....~~.....#",
                "#.....~~.....#",
                "#.....~~.....#",
                "#....~~......#",
                "##############",
            ],
        )
    })?;

    // Look at it: the whole map, as large as it fits.
    let area = quilt.lattice().rect_bounds(quilt.bounds());
    let view = View::new(ScreenSize::new(640, 400)).fitted_to(area);
    let night = Color::rgb(24, 28, 34);
    std::fs::write(folder.join("before.png"), quilt.draw(&view, night).to_png()?)?;

    // Ask: may a cart cross the water?
    let mut ground = GroundMap::of(&quilt);
    let cart = quilt.mover("cart")?;
    let ford = CellPos::new(6, 4);
    println!("before: a cart at {ford} is blocked: {}", ground.blocked(cart, ford));

    // Change it: lay boards where there are none yet.
    let boards = quilt.tile("yard/boards")?;
    let edit = quilt.edit("lay boards", |pen| {
        for x in 6..8 {
            pen.put_if("boards", CellPos::new(x, 4), Cell::EMPTY, boards)?;
        }
        Ok(())
    })?;
    ground.refresh(&quilt);
    println!(
        "after {} cells: blocked: {}",
        edit.changes.cells().count(),
        ground.blocked(cart, ford)
    );
    std::fs::write(folder.join("after.png"), quilt.draw(&view, night).to_png()?)?;
    println!("see {}", folder.join("after.png").display());
    Ok(())
}
