//! The first picture of a whole map, small.

use std::collections::HashMap;

use sturdy_quilt::inspect::{MinimapScale, Sampling};
use sturdy_quilt::{
    Cell, CellPos, CellRect, Color, Lattice, LayerSettings, Minimap, Quilt, TileSet,
};

use crate::harness::{Mark, Versus};
use crate::scenes::{self, DRAWING_LAYERS, Numbers};

/// Cells in a row of the large map.
const SIDE: u32 = 2000;

pub(crate) fn run(versus: &mut Versus) {
    if !versus.wants("draw.minimap") {
        return;
    }
    let large = large();
    for (name, sampling) in [
        ("draw.minimap.first.loop", Sampling::Average),
        ("draw.minimap.nearest.loop", Sampling::Nearest),
    ] {
        let ours = || {
            let mut minimap = Minimap::new(MinimapScale::Cells).with_sampling(sampling);
            minimap.refresh(&large).expect("it is small enough") as u64
        };
        let cells = u64::from(SIDE) * u64::from(SIDE);
        versus.line(name, cells, Mark::AtMost(2.0), false, ours, || plain_loop(&large));
    }
    // Two seconds for 21,600 × 10,800 cells.
    let name = "draw.minimap.huge";
    if versus.asks(name) {
        let huge = huge();
        let ours = || {
            let mut minimap = Minimap::new(MinimapScale::Part(64));
            minimap.refresh(&huge).expect("it is small enough") as u64
        };
        let cells = huge.bounds().cell_count();
        versus.line(name, cells, Mark::Nanoseconds(8.5), false, ours, || 0);
    }
}

/// What one would write: a colour for each tile, and of several layers the topmost.
fn plain_loop(quilt: &Quilt) -> u64 {
    let area = CellRect::new(CellPos::ORIGIN, SIDE, SIDE);
    let mut colors: HashMap<u32, Color> = HashMap::new();
    let mut frame = vec![Color::CLEAR; area.cell_count() as usize];
    let mut cells: Vec<Cell> = Vec::new();
    for layer in quilt.layers() {
        layer.cells().read_rect(area, &mut cells).expect("all is here");
        let (mut last, mut color) = (Cell::EMPTY, Color::CLEAR);
        for (pixel, cell) in frame.iter_mut().zip(&cells) {
            if cell.is_empty() {
                continue;
            }
            if *cell != last {
                last = *cell;
                let name = || quilt.tiles().notation(*cell).to_string();
                color = *colors.entry(cell.to_bits()).or_insert_with(|| Color::of_name(&name()));
            }
            *pixel = color;
        }
    }
    u64::from(frame[area.cell_count() as usize / 2].r)
}

/// The drawing scene, repeated.
fn large() -> Quilt {
    let (scene, _) = scenes::drawing();
    let mut quilt = scene.clone();
    let (width, height) = (scenes::DRAWING_CELLS.0 as i32, scenes::DRAWING_CELLS.1 as i32);
    let edit = quilt.edit("repeat", |pen| {
        for layer in DRAWING_LAYERS {
            let cells = scene.layer(layer)?.cells();
            let mut part: Vec<Cell> = Vec::new();
            let tile = CellRect::new(CellPos::ORIGIN, width as u32, height as u32);
            cells.read_rect(tile, &mut part).expect("all is here");
            pen.put_each(layer, CellRect::new(CellPos::ORIGIN, SIDE, SIDE), |at| {
                part[(at.y() % height * width + at.x() % width) as usize]
            })?;
        }
        Ok(())
    });
    edit.expect("the scene is well made");
    quilt
}

/// Six classes of heights: most chunks are of one, and a tenth of several.
fn huge() -> Quilt {
    let mut numbers = Numbers::new(0x51de);
    let mut quilt = Quilt::new(Lattice::square(16.0, 16.0).expect("a valid lattice"));
    let edit = quilt.edit("heights", |pen| {
        pen.put_tiles(TileSet::flat("heights", ["a", "b", "c", "d", "e", "f"])?)?;
        pen.add_layer("heights", LayerSettings::default())?;
        let tiles: Vec<Cell> = pen.quilt().tiles().ids().map(Cell::of).collect();
        let all = CellRect::new(CellPos::ORIGIN, 21_600, 10_800);
        for chunk in all.chunks() {
            let (cells, first) = (chunk.cells().intersection(all), numbers.below(6) as usize);
            if numbers.below(10) > 0 {
                pen.fill("heights", cells, tiles[first])?;
                continue;
            }
            pen.put_each("heights", cells, |at| {
                tiles[(first + ((at.x() / 5) ^ (at.y() / 3)) as usize % 3) % 6]
            })?;
        }
        Ok(())
    });
    edit.expect("the scene is well made");
    quilt
}
