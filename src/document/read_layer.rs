//! Reading a layer: its settings, and through [`read_cells`] its cells.

use super::cells::{CellSource, read_cell, read_cells, read_palette};
use super::read_map::twice;
use super::read_places::{read_area, read_cell_pos, read_point};
use super::reader::{Fields, Reader};
use super::tree::Node;
use crate::quilt::{Blend, Drift, DriftBand, Grounds, Layer, LayerSettings, Quilt, Wrap};
use crate::units::{CellPos, WorldVec};

pub(super) fn read_layer<'a>(
    reader: &mut Reader<'a, '_>,
    node: Node<'a>,
    quilt: &mut Quilt,
    source: &mut CellSource<'_, '_>,
) -> Option<Layer> {
    let known = [
        "name",
        "priority",
        "visible",
        "opacity",
        "tint",
        "blend",
        "palette",
        "offset",
        "drift",
        "drift_from",
        "speed",
        "bands",
        "wrap",
        "wrap_area",
        "backdrop",
        "sort_rows",
        "draws",
        "grounds",
        "data",
        "at",
        "cells",
    ];
    let fields = reader.fields(node, "the layer", &known)?;
    let name = reader.required(&fields, "name");
    let name = name.and_then(|node| {
        let name = reader.text(node, "the name of a layer")?;
        let span = reader.span(node);
        if name.is_empty() {
            reader.error(span, "a layer must have a name");
        } else if quilt.layer(&*name).is_ok() {
            twice(reader, span, "layers", &name);
        }
        Some(name)
    });
    let mut settings = read_settings(reader, &fields);
    read_motion(reader, &fields, &mut settings);
    read_colors(reader, &fields, quilt, source.lost_sets, &mut settings);
    let mut layer = Layer::new(name.as_deref().unwrap_or_default().into(), settings);
    let corner = match fields.get("at") {
        Some(at) => read_cell_pos(reader, at, "the place of a layer")?,
        None => CellPos::ORIGIN,
    };
    if let Some(cells) = fields.get("cells") {
        // A layer whose cells have a fault is there all the same, so that no one misses its name.
        read_cells(reader, cells, corner, &mut layer, quilt, source);
        layer.cells.compact();
    }
    name.map(|_| layer)
}

fn read_settings<'a>(reader: &mut Reader<'a, '_>, fields: &Fields<'a>) -> LayerSettings {
    let mut settings = LayerSettings::default();
    if let Some(node) = fields.get("priority") {
        let (from, to) = (i32::MIN.into(), i32::MAX.into());
        let priority = reader.integer(node, "the priority of a layer", from, to);
        settings.priority = priority.and_then(|p| i32::try_from(p).ok()).unwrap_or_default();
    }
    if let Some(node) = fields.get("opacity")
        && let Some(opacity) = reader.number(node, "the opacity of a layer")
    {
        if !(0.0..=1.0).contains(&opacity) {
            let span = reader.span(node);
            let message = format!("the opacity of a layer must lie between 0 and 1, not {opacity}");
            reader.error(span, message);
        }
        settings.opacity = opacity as f32;
    }
    if let Some(node) = fields.get("offset")
        && let Some((x, y)) = reader.numbers(node, "the offset of a layer")
    {
        settings.offset = WorldVec::new(x, y);
    }
    if let Some(data) = fields.get("data")
        && let Some(data) = reader.data(data, "the data of a layer")
    {
        settings.data = data;
    }
    let mut flag = |key: &str, value: &mut bool| {
        if let Some(node) = fields.get(key)
            && let Some(stated) = reader.boolean(node, &format!("`{key}`"))
        {
            *value = stated;
        }
    };
    flag("visible", &mut settings.visible);
    flag("sort_rows", &mut settings.sort_rows);
    flag("draws", &mut settings.draws);
    if let Some(node) = fields.get("grounds") {
        let stated = match (node.text().as_deref(), node.boolean()) {
            (Some("first"), _) => Some(Grounds::First),
            (_, Some(grounds)) => Some(grounds.into()),
            _ => reader.mistyped(node, "`grounds`", "true, false or \"first\""),
        };
        settings.grounds = stated.unwrap_or_default();
    }
    settings
}

/// How it moves against the camera, by itself, and whether it ends.
fn read_motion<'a>(reader: &mut Reader<'a, '_>, fields: &Fields<'a>, settings: &mut LayerSettings) {
    if let Some(node) = fields.get("drift")
        && let Some((x, y)) = reader.numbers(node, "the drift of a layer")
    {
        settings.drift = Drift { x, y };
    }
    if let Some(node) = fields.get("drift_from")
        && let Some(place) = read_point(reader, node, "`drift_from` of a layer")
    {
        settings.drift_from = place;
    }
    if let Some(node) = fields.get("speed")
        && let Some((x, y)) = reader.numbers(node, "the speed of a layer")
    {
        settings.speed = WorldVec::new(x, y);
    }
    if let Some(node) = fields.get("bands") {
        read_bands(reader, node, settings);
    }
    if let Some(node) = fields.get("wrap")
        && let Some(wrap) = reader.choice(node, "`wrap` of a layer", &Wrap::WORDS)
    {
        settings.wrap = wrap;
    }
    if let Some(node) = fields.get("wrap_area") {
        settings.wrap_area = read_area(reader, node, "`wrap_area` of a layer");
        if settings.wrap == Wrap::No {
            let span = reader.start(node);
            let hint = "state `wrap`: \"x\", \"y\" or \"both\"".to_owned();
            reader.warning(span, "the layer states `wrap_area`, but does not wrap", Some(hint));
        }
    }
}

fn read_bands<'a>(reader: &mut Reader<'a, '_>, node: Node<'a>, settings: &mut LayerSettings) {
    let mut bands: Vec<DriftBand> = Vec::new();
    for item in reader.items(node, "the bands of a layer").unwrap_or_default() {
        let Some(fields) = reader.fields(item, "the band", &["from_row", "drift", "speed"]) else {
            continue;
        };
        let (from, to) = (CellPos::MIN.into(), CellPos::MAX.into());
        let row = reader.required(&fields, "from_row");
        let row = row.and_then(|node| reader.integer(node, "the first row of a band", from, to));
        let drift = reader.required(&fields, "drift");
        let drift = drift.and_then(|node| reader.number(node, "the drift of a band"));
        let speed = fields.get("speed").map(|node| reader.number(node, "the speed of a band"));
        let (Some(row), Some(drift), Some(speed)) = (row, drift, speed.unwrap_or(Some(0.0))) else {
            continue;
        };
        let from_row = row as i32;
        if bands.last().is_some_and(|last| last.from_row >= from_row) {
            let span = reader.start(item);
            let hint = "each band begins further down than the one before it".to_owned();
            reader.error_with_hint(span, "the bands are not in the order of rows", Some(hint));
        }
        bands.push(DriftBand { from_row, drift, speed });
    }
    settings.bands = bands;
}

/// In which colours it is drawn, and what lies behind it.
fn read_colors<'a>(
    reader: &mut Reader<'a, '_>,
    fields: &Fields<'a>,
    quilt: &mut Quilt,
    lost_sets: bool,
    settings: &mut LayerSettings,
) {
    if let Some(node) = fields.get("tint")
        && let Some(tint) = reader.color(node, "the tint of a layer")
    {
        settings.tint = tint;
    }
    if let Some(node) = fields.get("blend")
        && let Some(blend) = reader.choice(node, "`blend` of a layer", &Blend::WORDS)
    {
        settings.blend = blend;
    }
    if let Some(node) = fields.get("palette")
        && let Some(slot) = read_palette(reader, node, "the palette of a layer", quilt)
    {
        settings.palette = slot;
    }
    if let Some(node) = fields.get("backdrop") {
        let what = "the backdrop of a layer";
        let cell = read_cell(reader, node, what, quilt, lost_sets);
        settings.backdrop = cell.filter(|cell| !cell.is_empty());
    }
}
