//! `info`: what a map holds.

use std::io::Write;
use std::path::Path;

use anyhow::bail;
use serde_json::{Map, Value, json};
use sturdy_quilt::document::{GridFile, GridValues, Limits};
use sturdy_quilt::plane::{OwnValue, Plane, ValueKind};
use sturdy_quilt::quilt::{
    Blend, GroundRules, Grounds, Outside, Palette, Parallax, PlacedMarker, Treatment, ValueLayer,
};
use sturdy_quilt::tile::Coverage;
use sturdy_quilt::view::{Projection, ProjectionKind};
use sturdy_quilt::{Color, Layer, Loader, MarkerPlace, Quilt, TileId, TileSet};

use super::at::{no_ground_words, treatment_words};
use super::words::{counted, rounded, rounded_way};
use super::{memory, tile_set};
use crate::args::InfoArgs;
use crate::{Outcome, map, problems};

pub(crate) fn run(args: &InfoArgs, out: &mut dyn Write) -> anyhow::Result<Outcome> {
    let place = map::located(&args.map)?;
    if map::is_tile_set(&place.name) {
        if args.rows.is_some() || args.memory {
            bail!("a tile set has no layers: --rows and --memory are for maps");
        }
        let (set, warnings) = Loader::new().load_tiles(&*place.source, &place.name)?;
        problems::show_warnings(&warnings);
        tile_set::show(&args.map, &set, args.json, out)?;
        return Ok(Outcome::Fine);
    }
    if GridFile::is_one(&place.name) && args.rows.is_none() && !args.memory {
        let values = GridFile::new(&place.name).values(&*place.source, &Limits::default())?;
        show_grid(&args.map, &values, args.json, out)?;
        return Ok(Outcome::Fine);
    }
    let quilt = map::open(&args.map)?.quilt;
    if args.memory {
        memory::show(&args.map, &quilt, args.json, out)?;
        return Ok(Outcome::Fine);
    }
    match (&args.rows, args.json) {
        (Some(layer), json) => show_rows(&quilt, layer, json, out)?,
        (None, true) => writeln!(out, "{}", serde_json::to_string_pretty(&report(&quilt))?)?,
        (None, false) => {
            writeln!(out, "{}", args.map.display())?;
            show(&quilt, out)?;
        }
    }
    Ok(Outcome::Fine)
}

/// What a bare grid of cells holds, and a legend to fill in.
fn show_grid(
    path: &Path,
    values: &GridValues,
    json: bool,
    out: &mut dyn Write,
) -> anyhow::Result<()> {
    let GridValues { size: (columns, rows), counts, .. } = values;
    let meaning = |value: &str| if value == "-1" { Value::Null } else { "set/tile".into() };
    let legend: Map<String, Value> =
        counts.iter().map(|(value, _)| (value.clone(), meaning(value))).collect();
    if json {
        let counts: Vec<Value> =
            counts.iter().map(|(value, count)| json!({ "value": value, "count": count })).collect();
        let report = json!({ "size": [columns, rows], "values": counts, "legend": legend });
        writeln!(out, "{}", serde_json::to_string_pretty(&report)?)?;
        return Ok(());
    }
    writeln!(
        out,
        "{}: {columns} × {rows} cells, {} different values",
        path.display(),
        counts.len()
    )?;
    let rows: Vec<Vec<String>> =
        counts.iter().map(|(value, count)| vec![value.clone(), count.to_string()]).collect();
    table(&rows, out)?;
    writeln!(out, "a legend to fill in, for `convert --legend`; null stands for nothing:")?;
    writeln!(out, "{}", serde_json::to_string_pretty(&legend)?)?;
    Ok(())
}

fn show_rows(quilt: &Quilt, layer: &str, json: bool, out: &mut dyn Write) -> anyhow::Result<()> {
    let text = quilt.layer_text(layer)?;
    if json {
        let report =
            json!({ "layer": layer, "cells": text.rect, "legend": text.legend, "rows": text.rows });
        writeln!(out, "{}", serde_json::to_string_pretty(&report)?)?;
        return Ok(());
    }
    writeln!(out, "layer {layer}: {}", text.rect)?;
    for row in &text.rows {
        writeln!(out, "{row}")?;
    }
    for (character, cell) in &text.legend {
        writeln!(out, "{character}  {}", cell.as_str().unwrap_or("empty"))?;
    }
    Ok(())
}

/// Rows of words in columns that line up.
pub(super) fn table(rows: &[Vec<String>], out: &mut dyn Write) -> anyhow::Result<()> {
    let columns = rows.iter().map(Vec::len).max().unwrap_or(0);
    let width = |column: usize| {
        let cells = rows.iter().filter_map(|row| row.get(column));
        cells.map(|cell| cell.chars().count()).max().unwrap_or(0)
    };
    let widths: Vec<usize> = (0..columns).map(width).collect();
    for row in rows {
        let cells = row.iter().zip(&widths).map(|(cell, width)| format!("{cell:width$}"));
        writeln!(out, "  {}", cells.collect::<Vec<_>>().join("  ").trim_end())?;
    }
    Ok(())
}

fn show(quilt: &Quilt, out: &mut dyn Write) -> anyhow::Result<()> {
    let (lattice, bounds) = (quilt.lattice(), quilt.bounds());
    let stated = if quilt.stated_bounds().is_some() { "stated" } else { "union of the layers" };
    let (shape, width, height) = (lattice.shape(), lattice.cell_width(), lattice.cell_height());
    writeln!(out, "lattice  {}, cells of {width} × {height} units", shape.name())?;
    if *quilt.projection() != Projection::FLAT {
        writeln!(out, "seen     {}", projection_words(quilt.projection()))?;
    }
    writeln!(out, "bounds   {bounds} ({stated}); {}", map::extent(quilt))?;
    if !quilt.data().is_null() {
        writeln!(out, "data     {}", quilt.data())?;
    }
    let uses = tile_uses(quilt);
    writeln!(out, "tile sets")?;
    let sets: Vec<_> = quilt.tiles().sets().map(|set| set_words(set)).collect();
    table(&sets, out)?;
    for set in quilt.tiles().sets() {
        show_uses(set.name(), &uses, out)?;
    }
    let missing = uses.iter().filter(|of| of.is_missing);
    let missing: Vec<String> = missing.map(|of| format!("{} {}", of.name(), of.count)).collect();
    if !missing.is_empty() {
        writeln!(out, "missing tiles, shown by a placeholder: {}", missing.join(", "))?;
    }
    writeln!(out, "layers, the lowest first")?;
    let mut layers: Vec<&Layer> = quilt.layers().iter().collect();
    layers.sort_by_key(|layer| layer.settings().priority);
    let layers: Vec<_> = layers.into_iter().map(|layer| layer_words(quilt, layer)).collect();
    table(&layers, out)?;
    if !quilt.value_layers().is_empty() {
        writeln!(out, "value layers")?;
        table(&quilt.value_layers().iter().map(value_words).collect::<Vec<_>>(), out)?;
    }
    if !quilt.palettes().is_empty() {
        writeln!(out, "palettes")?;
        table(&palettes(quilt).map(palette_words).collect::<Vec<_>>(), out)?;
    }
    let rules = quilt.ground_rules();
    if rules.classes().len() > 0 {
        writeln!(out, "ground classes")?;
        let classes: Vec<_> =
            rules.classes().map(|class| vec![class.to_owned(), tiles_of(quilt, class)]).collect();
        table(&classes, out)?;
    }
    if !rules.movers().is_empty() {
        writeln!(out, "movers")?;
        table(&mover_words(rules), out)?;
    }
    if quilt.markers().next().is_some() {
        writeln!(out, "markers")?;
        let markers: Vec<_> = quilt
            .markers()
            .map(|marker| {
                let data =
                    if marker.data().is_null() { String::new() } else { marker.data().to_string() };
                let kind = marker.kind().unwrap_or("-").to_owned();
                let ground = marker.marker().ground();
                let ground = ground.map(|class| format!(", ground {class}")).unwrap_or_default();
                vec![marker.name().to_owned(), kind, place_words(&marker) + &ground, data]
            })
            .collect();
        table(&markers, out)?;
    }
    Ok(())
}

/// A tile, how many cells have it, and how else it is used.
struct TileUse {
    set: String,
    tile: String,
    count: u64,
    /// As a backdrop, or as a frame, a variant or a side of a tile that is used.
    otherwise: Option<&'static str>,
    is_missing: bool,
    is_clear: bool,
}

impl TileUse {
    fn name(&self) -> String {
        format!("{}/{}", self.set, self.tile)
    }
}

/// All tiles of a map in the order of their numbers. One that stands on several cells counts as often as
/// its first part, and its parts not by themselves.
fn tile_uses(quilt: &Quilt) -> Vec<TileUse> {
    let tiles = quilt.tiles();
    let mut counts = vec![0; tiles.len()];
    for (_, cell) in quilt.layers().iter().flat_map(|layer| layer.cells().occupied()) {
        let count = cell.tile_index().and_then(|tile| counts.get_mut(tile));
        count.into_iter().for_each(|count| *count += 1);
    }
    for (id, part) in tiles.ids().filter_map(|id| Some((id, tiles.part_of(id)?))) {
        if (part.column, part.row) == (0, 0) {
            counts[part.whole.index()] += counts[id.index()];
        }
        counts[id.index()] = 0;
    }
    let otherwise = other_uses(quilt, &counts);
    let of = |id: TileId| {
        let name = tiles.name(id)?;
        Some(TileUse {
            otherwise: otherwise[id.index()],
            set: name.set().to_owned(),
            tile: name.key().to_string(),
            count: counts[id.index()],
            is_missing: tiles.is_missing(id),
            is_clear: tiles.art(id).1.coverage == Coverage::Clear,
        })
    };
    tiles.ids().filter(|id| tiles.part_of(*id).is_none()).filter_map(of).collect()
}

/// How tiles are used that lie in no cell, by their numbers.
fn other_uses(quilt: &Quilt, counts: &[u64]) -> Vec<Option<&'static str>> {
    let tiles = quilt.tiles();
    let mut uses = vec![None; counts.len()];
    let backdrops = quilt.layers().iter().filter_map(|layer| layer.settings().backdrop);
    for id in backdrops.filter_map(|cell| tiles.tile_of(cell)) {
        uses[id.index()] = Some("backdrop");
    }
    // Frames may have variants, and variants frames.
    let mut open: Vec<TileId> =
        { tiles.ids() }.filter(|id| counts[id.index()] > 0 || uses[id.index()].is_some()).collect();
    while let Some(id) = open.pop() {
        let Some(tile) = tiles.tile(id) else { continue };
        let frames = tile.animation().into_iter().flat_map(|animation| animation.frames());
        let frames = frames.map(|(frame, _)| (frame, "frame"));
        let variants = tile.spec().variants.iter().map(|(key, _)| (key.as_str(), "variant"));
        let sides = tile.facings().map(|(side, _)| (side, "side"));
        for (key, how) in frames.chain(variants).chain(sides) {
            let Some(name) = tiles.name(id) else { continue };
            let Ok(other) = quilt.tile(&format!("{}/{key}", name.set())) else { continue };
            if counts[other.index()] == 0 && uses[other.index()].is_none() {
                uses[other.index()] = Some(how);
                open.push(other);
            }
        }
    }
    uses
}

/// The tiles of a set that are used, those of them that show nothing, and those never used.
fn show_uses(set: &str, uses: &[TileUse], out: &mut dyn Write) -> anyhow::Result<()> {
    let mut own: Vec<&TileUse> = uses.iter().filter(|of| of.set == set && !of.is_missing).collect();
    own.sort_by_key(|of| std::cmp::Reverse(of.count));
    let counted = |of: &&TileUse| format!("{} {}", of.tile, of.count);
    let named = |of: &&TileUse| of.tile.clone();
    let used: Vec<String> = own.iter().filter(|of| of.count > 0).map(counted).collect();
    let clear = own.iter().filter(|of| of.count > 0 && of.is_clear);
    let clear: Vec<String> = clear.map(counted).collect();
    let never = own.iter().filter(|of| of.count == 0 && of.otherwise.is_none());
    let never: Vec<String> = never.map(named).collect();
    let otherwise = own
        .iter()
        .filter(|of| of.count == 0)
        .filter_map(|of| Some(format!("{} ({})", of.tile, of.otherwise?)));
    let used: Vec<String> = used.into_iter().chain(otherwise).collect();
    wrapped(&format!("  {set} in use"), &used, out)?;
    wrapped(&format!("  {set} used, but clear"), &clear, out)?;
    wrapped(&format!("  {set} never used"), &never, out)
}

/// A list of words behind a title, on as many lines as it takes.
fn wrapped(title: &str, words: &[String], out: &mut dyn Write) -> anyhow::Result<()> {
    const WIDTH: usize = 100;
    if words.is_empty() {
        return Ok(());
    }
    let mut line = format!("{title}: ");
    for (index, word) in words.iter().enumerate() {
        let comma = if index + 1 < words.len() { ", " } else { "" };
        if line.chars().count() + word.chars().count() + 1 > WIDTH {
            writeln!(out, "{}", line.trim_end())?;
            line = "    ".to_owned();
        }
        line.push_str(word);
        line.push_str(comma);
    }
    writeln!(out, "{line}")?;
    Ok(())
}

fn place_words(marker: &PlacedMarker<'_>) -> String {
    match marker.stated_place() {
        MarkerPlace::Cell(cell) => format!("cell {cell}"),
        MarkerPlace::Point(point) => format!("point {point}"),
        MarkerPlace::Path(points) => {
            format!("path of {} points, {:.0} units long", points.len(), marker.length())
        }
        MarkerPlace::Polygon(points) => {
            format!("polygon of {} points in {}", points.len(), marker.cells())
        }
        _ => marker.cells().to_string(),
    }
}

fn set_words(set: &TileSet) -> Vec<String> {
    let source = match (set.file(), set.picture_file(), set.sheet()) {
        (Some(file), Some(picture), _) => format!("{file}, sheet {picture}"),
        (Some(file), None, _) => format!("{file}, flat colours"),
        (None, Some(picture), _) => format!("sheet {picture}"),
        (None, None, None) => "flat colours".to_owned(),
        (None, None, Some(_)) => "sheet made in code".to_owned(),
    };
    vec![set.name().to_owned(), counted(set.tiles().len(), "tile"), source]
}

fn value_words(layer: &ValueLayer) -> Vec<String> {
    fn of<V: OwnValue + Into<f64>>(values: Option<&Plane<V>>) -> (usize, f64, f64) {
        let all = values.into_iter().flat_map(|values| values.occupied());
        all.fold((0, f64::INFINITY, f64::NEG_INFINITY), |(count, low, high), (_, value)| {
            let value: f64 = value.into();
            (count + 1, low.min(value), high.max(value))
        })
    }
    let (count, low, high) = match layer.kind() {
        ValueKind::U32 => of(layer.plane::<u32>()),
        ValueKind::I32 => of(layer.plane::<i32>()),
        ValueKind::F32 => of(layer.plane::<f32>()),
    };
    let (range, area) = match count {
        0 => ("0 everywhere".to_owned(), String::new()),
        _ => (format!("{} to {}", rounded(low), rounded(high)), layer.bounds().to_string()),
    };
    let cells = format!("{} other than 0", counted(count, "cell"));
    vec![layer.name().to_owned(), layer.kind().name().to_owned(), cells, range, area]
}

/// The palettes with their slots.
fn palettes(quilt: &Quilt) -> impl Iterator<Item = (u8, &Palette)> {
    (1..).zip(quilt.palettes())
}

fn palette_words((slot, palette): (u8, &Palette)) -> Vec<String> {
    let colors = palette.colors().map(|(name, color)| format!("{name} {color}"));
    let tint = match palette.tint() {
        Color::WHITE => None,
        tint => Some(format!("tint {tint}")),
    };
    let all: Vec<String> = tint.into_iter().chain(colors).collect();
    vec![palette.name().to_owned(), format!("slot {slot}"), all.join(", ")]
}

fn layer_words(quilt: &Quilt, layer: &Layer) -> Vec<String> {
    let settings = layer.settings();
    let bounds = layer.cells().bounds();
    let area = if bounds.is_empty() { "empty".to_owned() } else { bounds.to_string() };
    let mut notes = Vec::new();
    if settings.opacity < 1.0 {
        notes.push(format!("opacity {}", rounded(settings.opacity.into())));
    }
    if settings.blend == Blend::Add {
        notes.push("added as light".to_owned());
    }
    if let Some(palette) = settings.palette {
        let slot = palette.slot();
        let name = palettes(quilt).find(|(held, _)| *held == slot);
        let name = name.map_or(format!("in slot {slot}"), |(_, palette)| palette.name().to_owned());
        notes.push(format!("palette {name}"));
    }
    if let Some(cell) = settings.backdrop {
        notes.push(format!("backdrop {}", quilt.tiles().notation(cell)));
    }
    if settings.parallax != Parallax::WORLD {
        notes.push(format!("parallax {},{}", settings.parallax.x, settings.parallax.y));
    }
    if settings.elevation != 0.0 {
        notes.push(format!("elevation {}", settings.elevation));
    }
    if settings.offset != sturdy_quilt::WorldVec::ZERO {
        notes.push(format!("offset {}", rounded_way(settings.offset)));
    }
    let flags = [
        (settings.sort_rows, "sorted by row"),
        (!settings.visible, "hidden"),
        (!settings.draws, "not drawn"),
        (settings.grounds == Grounds::First, "decides the ground first"),
    ];
    let has_classes = || {
        layer.cells().occupied().any(|(_, cell)| {
            let tile = quilt.tiles().tile_of(cell).and_then(|id| quilt.tiles().tile(id));
            tile.is_some_and(|tile| tile.ground().is_some())
        })
    };
    notes.extend(no_ground_words(quilt, layer).filter(|_| has_classes()));
    notes.extend(flags.into_iter().filter(|(on, _)| *on).map(|(_, note)| note.to_owned()));
    if !settings.data.is_null() {
        notes.push(settings.data.to_string());
    }
    vec![
        layer.name().to_owned(),
        format!("priority {}", settings.priority),
        counted(layer.cells().occupied().count(), "cell"),
        area,
        notes.join(", "),
    ]
}

/// The names of the tiles that give a class, shortened where there are many.
fn tiles_of(quilt: &Quilt, class: &str) -> String {
    const MAX: usize = 6;
    let tiles = quilt.tiles();
    let giving =
        |id: &sturdy_quilt::TileId| tiles.tile(*id).and_then(|tile| tile.ground()) == Some(class);
    let names: Vec<String> = tiles
        .ids()
        .filter(giving)
        .filter_map(|id| tiles.name(id))
        .map(ToString::to_string)
        .collect();
    match names.len() {
        0 => "no tile".to_owned(),
        count if count > MAX => format!("{} and {} more", names[..MAX].join(", "), count - MAX),
        _ => names.join(", "),
    }
}

fn mover_words(rules: &GroundRules) -> Vec<Vec<String>> {
    let words = |treatment: Treatment| match treatment {
        Treatment::Slow(factor) => factor.to_string(),
        Treatment::Value(value) => format!("value {value}"),
        other => treatment_words(other),
    };
    let mover = |mover: &sturdy_quilt::Mover| {
        let mut treated: Vec<String> =
            mover.treatments().map(|(class, t)| format!("{class} {}", words(t))).collect();
        if mover.empty() != Treatment::Pass {
            treated.push(format!("empty {}", words(mover.empty())));
        }
        if !mover.unloaded().blocks() {
            treated.push(format!("unloaded {}", words(mover.unloaded())));
        }
        treated.push(match mover.outside() {
            Outside::Treated(treatment) => format!("outside {}", words(treatment)),
            _ => "outside wraps".to_owned(),
        });
        vec![mover.name().to_owned(), treated.join(", ")]
    };
    rules.movers().iter().map(mover).collect()
}

fn projection_words(projection: &Projection) -> String {
    let mut words = projection.to_string();
    if projection.lift() != Projection::FLAT.lift() {
        words.push_str(&format!(", lifted by {} pixels a unit", projection.lift()));
    }
    words
}

fn projection_report(projection: &Projection) -> Value {
    let size = match projection.kind() {
        ProjectionKind::Diamond { width_px, height_px } => json!([width_px, height_px]),
        _ => Value::Null,
    };
    json!({
        "kind": projection.kind().name(),
        "size": size,
        "facing": projection.facing().quarters(),
        "lift": projection.lift(),
    })
}

fn report(quilt: &Quilt) -> Value {
    let (lattice, extent) = (quilt.lattice(), map::extent(quilt));
    let sets = quilt.tiles().sets().map(|set| {
        json!({ "name": set.name(), "tiles": set.tiles().len(), "file": set.file(), "picture": set.picture_file() })
    });
    let layers = quilt.layers().iter().map(|layer| {
        let settings = layer.settings();
        json!({
            "name": layer.name(),
            "priority": settings.priority,
            "visible": settings.visible,
            "opacity": settings.opacity,
            "offset": [settings.offset.x, settings.offset.y],
            "elevation": settings.elevation,
            "sort_rows": settings.sort_rows,
            "draws": settings.draws,
            "grounds": settings.grounds != Grounds::Never,
            "grounds_first": settings.grounds == Grounds::First,
            "data": settings.data,
            "cells": layer.cells().occupied().count(),
            "bounds": layer.cells().bounds(),
        })
    });
    let markers = quilt.markers().map(|marker| {
        let place = marker.place();
        json!({
            "name": marker.name(),
            "kind": marker.kind(),
            "ground": marker.ground(),
            "cells": marker.cells(),
            "place": [place.x, place.y],
            "points": marker.points().iter().map(|p| [p.x, p.y]).collect::<Vec<_>>(),
            "data": marker.data(),
        })
    });
    json!({
        "lattice": { "shape": lattice.shape().name(), "cell": [lattice.cell_width(), lattice.cell_height()] },
        "projection": projection_report(quilt.projection()),
        "bounds": quilt.bounds(),
        "bounds_stated": quilt.stated_bounds().is_some(),
        "data": quilt.data(),
        "world": { "at": [extent.min().x, extent.min().y], "size": [extent.width(), extent.height()] },
        "sets": sets.collect::<Vec<_>>(),
        "tiles": tile_uses(quilt).iter().map(|of| json!({
            "name": of.name(), "count": of.count, "used_as": of.otherwise,
            "missing": of.is_missing, "clear": of.is_clear,
        })).collect::<Vec<_>>(),
        "missing": quilt.tiles().missing().map(ToString::to_string).collect::<Vec<_>>(),
        "layers": layers.collect::<Vec<_>>(),
        "values": quilt.value_layers().iter().map(|layer| json!({
            "name": layer.name(), "type": layer.kind().name(), "bounds": layer.bounds(),
        })).collect::<Vec<_>>(),
        "palettes": palettes(quilt).map(|(slot, palette)| json!({
            "name": palette.name(), "slot": slot, "tint": palette.tint().to_string(),
        })).collect::<Vec<_>>(),
        "ground": quilt.ground_rules().classes().collect::<Vec<_>>(),
        "movers": quilt.ground_rules().movers().iter().map(|m| m.name()).collect::<Vec<_>>(),
        "markers": markers.collect::<Vec<_>>(),
    })
}
