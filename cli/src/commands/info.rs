//! `info`: what a map holds.

use std::io::Write;

use serde_json::{Value, json};
use sturdy_quilt::{
    GroundRules, Layer, MarkerPlace, Outside, PlacedMarker, Quilt, TileSet, Treatment,
};

use crate::args::InfoArgs;
use crate::{Outcome, map};

pub(crate) fn run(args: &InfoArgs, out: &mut dyn Write) -> anyhow::Result<Outcome> {
    let quilt = map::open(&args.map)?.quilt;
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
fn table(rows: &[Vec<String>], out: &mut dyn Write) -> anyhow::Result<()> {
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
    writeln!(out, "bounds   {bounds} ({stated}); {}", map::extent(quilt))?;
    if !quilt.data().is_null() {
        writeln!(out, "data     {}", quilt.data())?;
    }
    writeln!(out, "tile sets")?;
    let sets: Vec<_> = quilt.tiles().sets().map(|set| set_words(set)).collect();
    table(&sets, out)?;
    let missing: Vec<String> = quilt.tiles().missing().map(ToString::to_string).collect();
    if !missing.is_empty() {
        writeln!(out, "missing tiles, shown by a placeholder: {}", missing.join(", "))?;
    }
    writeln!(out, "layers, the lowest first")?;
    let layers: Vec<_> = quilt.layers().iter().map(layer_words).collect();
    table(&layers, out)?;
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
                let kind = marker.kind_name().unwrap_or("-").to_owned();
                vec![marker.name().to_owned(), kind, place_words(&marker), data]
            })
            .collect();
        table(&markers, out)?;
    }
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
    vec![set.name().to_owned(), format!("{} tiles", set.tiles().len()), source]
}

fn layer_words(layer: &Layer) -> Vec<String> {
    let settings = layer.settings();
    let bounds = layer.cells().bounds();
    let area = if bounds.is_empty() { "empty".to_owned() } else { bounds.to_string() };
    let mut notes = Vec::new();
    if settings.opacity < 1.0 {
        notes.push(format!("opacity {}", settings.opacity));
    }
    if settings.offset != sturdy_quilt::WorldVec::ZERO {
        notes.push(format!("offset {},{}", settings.offset.x, settings.offset.y));
    }
    let flags = [
        (settings.sort_rows, "sorted by row"),
        (!settings.visible, "hidden"),
        (!settings.draws, "not drawn"),
        (!settings.grounds, "gives no ground"),
    ];
    notes.extend(flags.into_iter().filter(|(on, _)| *on).map(|(_, note)| note.to_owned()));
    if !settings.data.is_null() {
        notes.push(settings.data.to_string());
    }
    vec![
        layer.name().to_owned(),
        format!("priority {}", settings.priority),
        format!("{} cells", layer.cells().occupied().count()),
        area,
        notes.join(", "),
    ]
}

/// The names of the tiles that give a class, shortened where there are many.
fn tiles_of(quilt: &Quilt, class: &str) -> String {
    const MOST: usize = 6;
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
        count if count > MOST => format!("{} and {} more", names[..MOST].join(", "), count - MOST),
        _ => names.join(", "),
    }
}

fn mover_words(rules: &GroundRules) -> Vec<Vec<String>> {
    let words = |treatment: Treatment| match treatment {
        Treatment::Block => "blocked".to_owned(),
        Treatment::Slow(factor) => factor.to_string(),
        _ => "free".to_owned(),
    };
    let mover = |mover: &sturdy_quilt::Mover| {
        let mut treated: Vec<String> =
            mover.treatments().map(|(class, t)| format!("{class} {}", words(t))).collect();
        treated.push(match mover.outside_rule() {
            Outside::Treated(treatment) => format!("outside {}", words(treatment)),
            _ => "outside wraps".to_owned(),
        });
        vec![mover.name().to_owned(), treated.join(", ")]
    };
    rules.movers().iter().map(mover).collect()
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
            "sort_rows": settings.sort_rows,
            "draws": settings.draws,
            "grounds": settings.grounds,
            "data": settings.data,
            "cells": layer.cells().occupied().count(),
            "bounds": layer.cells().bounds(),
        })
    });
    let markers = quilt.markers().map(|marker| {
        let place = marker.place();
        json!({
            "name": marker.name(),
            "kind": marker.kind_name(),
            "cells": marker.cells(),
            "place": [place.x, place.y],
            "points": marker.points().iter().map(|p| [p.x, p.y]).collect::<Vec<_>>(),
            "data": marker.data(),
        })
    });
    json!({
        "lattice": { "shape": lattice.shape().name(), "cell": [lattice.cell_width(), lattice.cell_height()] },
        "bounds": quilt.bounds(),
        "bounds_stated": quilt.stated_bounds().is_some(),
        "data": quilt.data(),
        "world": { "at": [extent.min().x, extent.min().y], "size": [extent.width(), extent.height()] },
        "sets": sets.collect::<Vec<_>>(),
        "missing": quilt.tiles().missing().map(ToString::to_string).collect::<Vec<_>>(),
        "layers": layers.collect::<Vec<_>>(),
        "ground": quilt.ground_rules().classes().collect::<Vec<_>>(),
        "movers": quilt.ground_rules().movers().iter().map(|m| m.name()).collect::<Vec<_>>(),
        "markers": markers.collect::<Vec<_>>(),
    })
}
