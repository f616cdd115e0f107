//! `info` of a tile set: each tile with what is known of it.

use std::io::Write;
use std::path::Path;

use serde_json::{Value, json};
use sturdy_quilt::TileSet;
use sturdy_quilt::tile::{CellShape, Coverage, Tile, TileSource};

use super::at::shape_words;
use super::info::table;
use super::words::{counted, rounded};

pub(super) fn show(
    path: &Path,
    set: &TileSet,
    json: bool,
    out: &mut dyn Write,
) -> anyhow::Result<()> {
    if json {
        writeln!(out, "{}", serde_json::to_string_pretty(&report(set))?)?;
        return Ok(());
    }
    writeln!(out, "{}", path.display())?;
    writeln!(out, "set      {}, {}", set.name(), counted(set.tiles().len(), "tile"))?;
    match (set.picture_file(), set.sheet()) {
        (Some(file), Some(cut)) => {
            let (tile, margin, gap) = (cut.tile, cut.margin, cut.gap);
            writeln!(out, "sheet    {file}, cut into tiles of {tile}, margin {margin}, gap {gap}")?;
        }
        (Some(file), None) => writeln!(out, "pictures {file}")?,
        _ => writeln!(out, "colours  the tiles have no pictures")?,
    }
    writeln!(out, "tiles")?;
    table(&set.tiles().iter().map(tile_words).collect::<Vec<_>>(), out)
}

fn place_words(tile: &Tile) -> String {
    match &tile.spec().source {
        TileSource::Place(column, row) => format!("{column}:{row}"),
        TileSource::Pixels(rect) => rect.to_string(),
        TileSource::Picture(file) => file.clone(),
        _ => "flat colour".to_owned(),
    }
}

fn tile_words(tile: &Tile) -> Vec<String> {
    let mut notes = Vec::new();
    if let Some(shape) = tile.shape().and_then(shape_words) {
        notes.push(format!("for {shape}"));
    }
    if let Some(animation) = tile.animation() {
        let frames = counted(animation.frames().len(), "frame");
        notes.push(format!("{frames} in {} ms", animation.duration_ms()));
    }
    let variants = &tile.spec().variants;
    if !variants.is_empty() {
        let whole: f64 = variants.iter().map(|(_, weight)| f64::from(*weight)).sum();
        let part = |(name, weight): &(String, u32)| {
            format!("{name} {} %", rounded(f64::from(*weight) * 100.0 / whole).round())
        };
        notes
            .push(format!("variants {}", variants.iter().map(part).collect::<Vec<_>>().join(", ")));
    }
    match tile.art().coverage {
        Coverage::Clear => notes.push("clear".to_owned()),
        Coverage::Soft => notes.push("partly see-through".to_owned()),
        Coverage::Holed => notes.push("with holes".to_owned()),
        Coverage::Opaque => {}
    }
    if !tile.data().is_null() {
        notes.push(tile.data().to_string());
    }
    let ground = tile.ground().unwrap_or("-").to_owned();
    vec![tile.key().to_string(), place_words(tile), ground, notes.join("; ")]
}

fn report(set: &TileSet) -> Value {
    let tiles = set.tiles().iter().map(|tile| {
        json!({
            "name": tile.key().to_string(),
            "place": place_words(tile),
            "ground": tile.ground(),
            "shape": tile.shape().map(CellShape::corners),
            "frames": tile.animation().map(|animation| {
                animation.frames().map(|(frame, ms)| json!({ "tile": frame, "ms": ms })).collect::<Vec<_>>()
            }),
            "variants": tile.spec().variants.iter().map(|(name, weight)| {
                json!({ "tile": name, "weight": weight })
            }).collect::<Vec<_>>(),
            "data": tile.data(),
        })
    });
    json!({
        "name": set.name(),
        "picture": set.picture_file(),
        "tiles": tiles.collect::<Vec<_>>(),
    })
}
