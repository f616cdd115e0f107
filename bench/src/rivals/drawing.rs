//! Drawing tile by tile with the picture crate.

use image::RgbaImage;
use image::imageops::overlay;
use sturdy_quilt::{CellPos, Picture, Quilt};

/// The tiles as pictures of the picture crate.
pub(crate) fn pictures(tiles: &[Picture]) -> Vec<RgbaImage> {
    let picture = |tile: &Picture| {
        let size = tile.size();
        RgbaImage::from_raw(size.width, size.height, tile.bytes().to_vec())
            .expect("a picture has four bytes a pixel")
    };
    tiles.iter().map(picture).collect()
}

/// Each layer's tiles by number, row by row, as a flat map holds them; `None` is empty.
pub(crate) fn layers(quilt: &Quilt, width: i32, height: i32) -> Vec<Vec<Option<u16>>> {
    let number = |layer: &sturdy_quilt::Layer, at: CellPos| {
        let tile = quilt.tiles().tile_of(layer.cells().get(at).here()?)?;
        let name = quilt.tiles().name(tile)?.key().to_string();
        name.parse().ok()
    };
    let cells = |layer| {
        (0..height).flat_map(move |y| (0..width).map(move |x| number(layer, CellPos::new(x, y))))
    };
    quilt.layers().iter().map(|layer| cells(layer).collect()).collect()
}

/// Draws all layers from below, tile by tile, from a pixel of the map on.
pub(crate) fn draw(
    frame: &mut RgbaImage,
    tiles: &[RgbaImage],
    layers: &[Vec<Option<u16>>],
    width: usize,
    (left, top): (i64, i64),
) {
    for layer in layers {
        for (at, tile) in layer.iter().enumerate() {
            if let Some(tile) = tile {
                let (x, y) = ((at % width * 16) as i64 - left, (at / width * 16) as i64 - top);
                overlay(frame, &tiles[usize::from(*tile)], x, y);
            }
        }
    }
}
