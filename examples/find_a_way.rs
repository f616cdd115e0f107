//! Finding a way: the steps of a mover, and a path finder that was written by someone else.
//!
//! The ground gives the cells that a mover may step to, with what each step costs; the crate
//! `pathfinding` does the rest. A cart, a picker and a bee find different ways on the same map, and
//! a bridge changes one of them.
//!
//! Run with `cargo run --example find_a_way [FOLDER]`; the pictures go to FOLDER, or to
//! `target/find_a_way`.

use std::error::Error;
use std::path::{Path, PathBuf};

use pathfinding::prelude::astar;
use sturdy_quilt::quilt::MoverId;
use sturdy_quilt::{
    CellPos, CellRect, Color, DrawList, Frame, GroundMap, Overlay, Painter, Quilt, ScreenSize, View,
};

type Way = Option<(Vec<CellPos>, u32)>;

/// The cheapest way of a mover, by A* (Hart, Nilsson and Raphael, 1968).
fn find(ground: &GroundMap, mover: MoverId, from: CellPos, to: CellPos) -> Way {
    // No step costs less than STEP_COST, so cells as the crow walks never promise too little.
    let least = |cell: &CellPos| {
        let way = to - *cell;
        (way.x.unsigned_abs() + way.y.unsigned_abs()) * GroundMap::STEP_COST
    };
    astar(&from, |cell| ground.steps(mover, *cell), least, |cell| *cell == to)
}

fn main() -> Result<(), Box<dyn Error>> {
    let folder = std::env::args_os().nth(1).map_or("target/find_a_way".into(), PathBuf::from);
    std::fs::create_dir_all(&folder)?;
    let mut quilt = Quilt::open(concat!(env!("CARGO_MANIFEST_DIR"), "/demo/terrace.quilt.json"))?;
    let mut ground = GroundMap::of(&quilt);
    let gate = quilt.marker("gate")?.cell_pos();
    let door = CellPos::new(57, 13);

    let all =
        |quilt: &Quilt, ground: &GroundMap| -> Result<Vec<(&'static str, Way)>, Box<dyn Error>> {
            let ways = ["cart", "picker", "bee"]
                .map(|name| Ok((name, find(ground, quilt.mover(name)?, gate, door))));
            ways.into_iter().collect()
        };
    let before = all(&quilt, &ground)?;
    show(&quilt, &before, &folder.join("without-bridge.png"))?;

    let (left, board, right) = (
        quilt.tile("terrace/boardwalk-left")?,
        quilt.tile("terrace/boardwalk")?,
        quilt.tile("terrace/boardwalk-right")?,
    );
    quilt.edit("a bridge", |pen| {
        pen.fill("boards", CellRect::new(CellPos::new(26, 16), 1, 2), left)?;
        pen.fill("boards", CellRect::new(CellPos::new(27, 16), 1, 2), board)?;
        pen.fill("boards", CellRect::new(CellPos::new(28, 16), 1, 2), right)
    })?;
    ground.refresh(&quilt);
    let after = all(&quilt, &ground)?;
    show(&quilt, &after, &folder.join("with-bridge.png"))?;

    for ((name, before), (_, after)) in before.iter().zip(&after) {
        let words = |way: &Way| match way {
            Some((cells, cost)) => {
                format!("{} steps, {:.1} times a step", cells.len() - 1, f64::from(*cost) / 1000.0)
            }
            None => "no way".to_owned(),
        };
        println!("{name}: {}; with a bridge: {}", words(before), words(after));
    }
    println!("see {}", folder.join("with-bridge.png").display());
    Ok(())
}

/// The map with the ways as rows of dots, each mover in a colour of its own.
fn show(quilt: &Quilt, ways: &[(&str, Way)], path: &Path) -> Result<(), Box<dyn Error>> {
    let view = View::new(ScreenSize::new(1280, 800))
        .fitted_to(quilt.lattice().rect_bounds(quilt.bounds()));
    let colors = [Color::rgb(255, 96, 64), Color::rgb(255, 232, 96), Color::rgb(240, 240, 255)];
    let (mut list, mut overlay) = (DrawList::new(), Overlay::new());
    list.rebuild(quilt, &view);
    overlay.begin(&view, quilt.lattice());
    for ((number, (_, way)), color) in (0..).zip(ways).zip(colors) {
        for cell in way.iter().flat_map(|(cells, _)| cells) {
            // Beside each other, so that none hides another.
            let mut dot = view.pixels_around(quilt.lattice().bounds(*cell));
            (dot.left, dot.top) = (dot.left + 3 + 5 * number, dot.top + 3 + 5 * number);
            (dot.right, dot.bottom) = (dot.left + 5, dot.top + 5);
            overlay.rect(dot, color);
        }
    }
    let legend = ways.iter().zip(colors).map(|((name, _), color)| ((*name).to_owned(), color));
    overlay.legend(&legend.collect::<Vec<_>>());
    let (mut frame, mut painter) = (Frame::new(view.size()), Painter::new());
    painter.paint(&list, &mut frame);
    painter.paint_overlay(&overlay, &mut frame);
    std::fs::write(path, frame.to_picture().to_png()?)?;
    Ok(())
}
