//! Costs that must not depend on the size of a map, in instructions: counted by `valgrind`, which
//! a busy machine does not disturb.

use std::process::Command;

use sturdy_quilt::inspect::MinimapScale;
use sturdy_quilt::paint::KeptFrame;
use sturdy_quilt::view::Projection;
use sturdy_quilt::{
    CellPos, CellRect, Color, DrawList, Frame, GroundMap, Lattice, LayerSettings, Minimap, Mover,
    Painter, Quilt, ScreenSize, TileSet, TileSpec, View, WorldPoint,
};

/// Each case with the sides of a small and of a large map, and how many times as many instructions
/// on the large one are no growth. A frame is drawn of maps of 4·10³, 10⁶ and 10⁹ cells.
const CASES: [(&str, (u32, u32), f64); 10] = [
    ("snapshot", (128, 2048), 1.25),
    ("edit", (128, 2048), 1.25),
    ("edit-and-ground", (128, 2048), 1.25),
    // An edit with ground, list, a kept frame and a minimap brought up to date.
    ("follow", (1024, 32_768), 1.1),
    ("list-unchanged", (128, 2048), 1.25),
    ("sweep", (128, 2048), 1.25),
    ("draw", (64, 1024), 1.05),
    ("draw", (64, 31_680), 1.05),
    ("draw-slanted", (64, 1024), 1.05),
    ("draw-slanted", (64, 31_680), 1.05),
];

/// Counts every case whose name contains the filter; gives how many grow with the map.
pub(crate) fn run(filter: &str) -> Result<usize, Box<dyn std::error::Error>> {
    let mut grown = 0;
    for (case, sides, most) in CASES.iter().filter(|(case, ..)| case.contains(filter)) {
        let cost = |side: u32| -> Result<f64, Box<dyn std::error::Error>> {
            // The difference of two counts leaves out what making the map costs.
            let (few, many) = (instructions(case, side, 10)?, instructions(case, side, 110)?);
            Ok((many - few) as f64 / 100.0)
        };
        let (small, large) = (cost(sides.0)?, cost(sides.1)?);
        let ratio = large / small;
        let verdict = if ratio <= *most { "ok" } else { "miss" };
        grown += usize::from(ratio > *most);
        println!("count.{case}.{} {large:.0} {small:.0} {ratio:.3} {most} {verdict}", sides.1);
    }
    Ok(grown)
}

fn instructions(case: &str, side: u32, times: u32) -> Result<u64, Box<dyn std::error::Error>> {
    let program = std::env::current_exe()?;
    let output = Command::new("valgrind")
        .args(["--tool=callgrind", "--callgrind-out-file=/dev/null"])
        .arg(program)
        .args(["case", case, &side.to_string(), &times.to_string()])
        .output()
        .map_err(|error| format!("valgrind cannot be run: {error}"))?;
    let said = String::from_utf8_lossy(&output.stderr);
    let line = said.lines().find(|line| line.contains("Collected :"));
    let count = line.and_then(|line| line.rsplit(' ').next()?.parse().ok());
    count.ok_or_else(|| format!("valgrind counted nothing: {said}").into())
}

/// Runs one case so many times, to be counted.
pub(crate) fn case(name: &str, side: u32, times: u32) -> Result<(), Box<dyn std::error::Error>> {
    let mut quilt = Quilt::new(Lattice::square(16.0, 16.0)?);
    let bounds = CellRect::new(CellPos::ORIGIN, side, side);
    quilt.edit("make", |pen| {
        pen.add_ground_classes(["open", "stone"])?;
        pen.put_mover(Mover::new("body").block("stone"))?;
        let tiles = TileSet::builder("t")
            .tile(TileSpec::named("grass").with_ground("open"))
            .tile(TileSpec::named("wall").with_ground("stone"));
        pen.put_tiles(tiles.build()?)?;
        pen.add_layer("soil", LayerSettings::default())?;
        pen.set_bounds(Some(bounds))?;
        let (grass, wall) = (pen.tile("t/grass")?, pen.tile("t/wall")?);
        pen.fill("soil", bounds, grass)?;
        // A wall in every chunk, so that none is uniform; where a map is drawn, in those in view.
        let walled = match name {
            "follow" => CellRect::new(CellPos::ORIGIN, 256, 256),
            _ if name.starts_with("draw") => CellRect::new(CellPos::ORIGIN, 64, 64),
            _ => bounds,
        };
        for chunk in walled.chunks() {
            pen.put("soil", chunk.corner(), wall)?;
        }
        Ok(())
    })?;
    let (grass, wall) = (quilt.tile("t/grass")?, quilt.tile("t/wall")?);
    let (mover, place) = (quilt.mover("body")?, CellPos::new(70, 70));
    // Not of a map of a thousand million cells.
    let small = if name.starts_with("draw") { Quilt::new(*quilt.lattice()) } else { quilt.clone() };
    let mut ground = GroundMap::of(&small);
    let middle = if name.starts_with("draw") { 512.0 } else { 1000.0 };
    let view = View::new(ScreenSize::new(320, 200)).centered_on(WorldPoint::new(middle, middle));
    let diamond = Projection::diamond(quilt.lattice(), 64, 32)?;
    let view = if name == "draw-slanted" { view.projected(diamond) } else { view };
    let (mut painter, mut frame) = (Painter::new(), Frame::new(view.size()));
    let mut list = DrawList::new();
    list.rebuild(&quilt, &view);
    let mut kept = KeptFrame::new(Color::rgb(0, 0, 0));
    painter.paint_into(&list, &mut kept);
    // Of a part that is as large in all maps.
    let shown = CellRect::new(CellPos::ORIGIN, 1024, 1024);
    let mut minimap = Minimap::new(MinimapScale::Cells).with_area(Some(shown));
    if name == "follow" {
        minimap.refresh(&quilt)?;
    }
    for turn in 0..times {
        let tile = if turn % 2 == 0 { wall } else { grass };
        match name {
            "snapshot" => drop(std::hint::black_box(quilt.clone())),
            "edit" => drop(quilt.edit("one", |pen| pen.put("soil", place, tile))?),
            "edit-and-ground" => {
                quilt.edit("one", |pen| pen.put("soil", place, tile))?;
                ground.refresh(&quilt);
            }
            "follow" => {
                quilt.edit("one", |pen| pen.put("soil", place, tile))?;
                ground.refresh(&quilt);
                list.rebuild(&quilt, &view);
                painter.paint_into(&list, &mut kept);
                minimap.refresh(&quilt)?;
            }
            "list-unchanged" => list.rebuild(&quilt, &view),
            "draw" | "draw-slanted" => {
                let mut list = DrawList::new();
                list.rebuild(&quilt, &view);
                painter.paint(&list, &mut frame);
            }
            "sweep" => {
                let body = quilt.lattice().bounds(place);
                let way = sturdy_quilt::WorldVec::new(400.0, 90.0);
                std::hint::black_box(ground.sweep(mover, body, way));
            }
            _ => return Err(format!("there is no case `{name}`").into()),
        }
    }
    Ok(())
}
