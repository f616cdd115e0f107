//! Maps of a few solid cells, for the tests of what stops a body.

use proptest::prelude::*;
use sturdy_quilt::quilt::MoverId;
use sturdy_quilt::tile::TileSetBuilder;
use sturdy_quilt::{
    Cell, CellPos, CellRect, GroundMap, Lattice, LayerSettings, Mover, Quilt, TileSet, TileSpec,
    Turn, WorldPoint, WorldRect,
};

/// A cell, the number of its tile, and how that is turned.
pub(crate) type Stone = (CellPos, usize, Turn);

/// A map with one layer `stones`, in which tiles of the set `yard` lie, numbered as they are given.
/// Its ground classes are `stone`, `plank` and `fog`.
pub(crate) fn yard(
    (width, height): (f64, f64),
    bounds: CellRect,
    movers: impl IntoIterator<Item = Mover>,
    tiles: impl IntoIterator<Item = TileSpec>,
    stones: impl IntoIterator<Item = Stone>,
) -> Quilt {
    let mut quilt = Quilt::new(Lattice::square(width, height).unwrap());
    let edit = quilt.edit("make a yard", |pen| {
        pen.add_ground_classes(["stone", "plank", "fog"])?;
        movers.into_iter().try_for_each(|mover| pen.put_mover(mover))?;
        let set = tiles.into_iter().fold(TileSet::builder("yard"), TileSetBuilder::tile);
        pen.put_tiles(set.build()?)?;
        pen.add_layer("stones", LayerSettings::default())?;
        pen.set_bounds(Some(bounds))
    });
    edit.unwrap();
    lay(&mut quilt, stones);
    quilt
}

/// Lays tiles of the set in cells, and with a number beyond the last of them, nothing.
pub(crate) fn lay(quilt: &mut Quilt, stones: impl IntoIterator<Item = Stone>) {
    let set = quilt.tiles().set("yard").unwrap();
    let names: Vec<String> =
        set.tiles().iter().map(|tile| format!("yard/{}", tile.key())).collect();
    let edit = quilt.edit("lay stones", |pen| {
        let tiles = names.iter().map(|name| pen.tile(name)).collect::<Result<Vec<_>, _>>()?;
        for (at, number, turn) in stones {
            let cell =
                tiles.get(number).map_or(Cell::EMPTY, |tile| Cell::of(*tile).with_turn(turn));
            pen.put("stones", at, cell)?;
        }
        Ok(())
    });
    edit.unwrap();
}

/// Its ground, and the mover `body`.
pub(crate) fn body_of(quilt: &Quilt) -> (GroundMap, MoverId) {
    (GroundMap::of(quilt), quilt.mover("body").unwrap())
}

/// The tile `stone`, solid as a whole.
pub(crate) fn stone() -> TileSpec {
    TileSpec::named("stone").with_ground("stone")
}

/// Cells with the first tile.
pub(crate) fn first(cells: &[CellPos]) -> impl Iterator<Item = Stone> {
    cells.iter().map(|cell| (*cell, 0, Turn::NONE))
}

pub(crate) fn rect(x: f64, y: f64, width: f64, height: f64) -> WorldRect {
    WorldRect::between(WorldPoint::new(x, y), WorldPoint::new(x + width, y + height))
}

pub(crate) fn any_cell_size() -> impl Strategy<Value = (f64, f64)> {
    prop_oneof![Just((16.0, 16.0)), Just((10.3, 7.7)), (1.0..40.0_f64, 1.0..40.0_f64)]
}

/// How deep two rectangles lie in each other, in the direction in which it is least.
pub(crate) fn depth(a: WorldRect, b: WorldRect) -> f64 {
    let (x, y) = overlap(a, b);
    x.min(y)
}

/// How deep two rectangles lie in each other, across and down.
pub(crate) fn overlap(a: WorldRect, b: WorldRect) -> (f64, f64) {
    let x = a.max().x.min(b.max().x) - a.min().x.max(b.min().x);
    let y = a.max().y.min(b.max().y) - a.min().y.max(b.min().y);
    (x, y)
}
