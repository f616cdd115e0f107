//! Reading a layer: its settings, and through [`read_cells`] its cells.

use super::cells::{CellSource, lay_wholes, read_cell, read_cells, read_palette};
use super::places::{read_area, read_cell_pos, read_point, twice};
use crate::document::syntax::{Fields, Node, Reader};
use crate::quilt::{
    Blend, Grounds, Layer, LayerSettings, Parallax, ParallaxBand, PartError, Quilt, Wrap,
};
use crate::stamp::Stamp;
use crate::tile::PaletteId;
use crate::units::{CellPos, WorldVec};

/// The keys of a layer.
const KEYS: [&str; 22] = [
    "name",
    "priority",
    "visible",
    "opacity",
    "tint",
    "blend",
    "palette",
    "offset",
    "elevation",
    "parallax",
    "parallax_from",
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

/// Reads the settings of a layer by themselves.
pub(crate) fn read_settings_alone<'a>(
    reader: &mut Reader<'a, '_>,
    node: Node<'a>,
    quilt: &mut Quilt,
) -> Option<LayerSettings> {
    let fields = reader.fields(node, "the layer", &KEYS)?;
    Some(read_all_settings(reader, &fields, quilt, false))
}

fn read_all_settings<'a>(
    reader: &mut Reader<'a, '_>,
    fields: &Fields<'a>,
    quilt: &mut Quilt,
    lost_sets: bool,
) -> LayerSettings {
    let mut settings = read_settings(reader, fields);
    read_motion(reader, fields, &mut settings);
    read_colors(reader, fields, quilt, lost_sets, &mut settings);
    settings
}

pub(super) fn read_layer<'a>(
    reader: &mut Reader<'a, '_>,
    node: Node<'a>,
    quilt: &mut Quilt,
    source: &mut CellSource<'_, '_>,
) -> Option<Layer> {
    let fields = reader.fields(node, "the layer", &KEYS)?;
    let name = reader.required(&fields, "name");
    let name = name.and_then(|node| {
        let name = reader.text(node, "the name of a layer")?;
        let span = node.span();
        match quilt.check_layer_name(&name) {
            Err(PartError::LayerExists(name)) => twice(reader, span, "layers", &name),
            checked => drop(reader.check_at(span, checked)),
        }
        Some(name)
    });
    let errors = reader.errors();
    let settings = read_all_settings(reader, &fields, quilt, source.lost_sets);
    if reader.errors() == errors {
        let name = name.as_deref().unwrap_or_default();
        reader.check(node, quilt.check_settings(name, &settings));
    }
    let mut layer = Layer::new(name.as_deref().unwrap_or_default().into(), settings);
    let corner = match fields.get("at") {
        Some(at) => read_cell_pos(reader, at, "the place of a layer")?,
        None => CellPos::ORIGIN,
    };
    if let Some(cells) = fields.get("cells") {
        // A layer whose cells have a fault is there all the same, so that no one misses its name.
        read_cells(reader, cells, corner, &mut layer, quilt, source);
        if quilt.tiles().has_footprints() {
            lay_wholes(reader, cells, &mut layer, quilt);
        }
        layer.cells_mut().1.compact();
    }
    warn_of_no_ground(reader, &fields, &layer, quilt);
    name.map(|_| layer)
}

/// Warns of tiles with a ground class in a layer whose offset is not whole cells: they give none.
fn warn_of_no_ground(
    reader: &mut Reader<'_, '_>,
    fields: &Fields<'_>,
    layer: &Layer,
    quilt: &Quilt,
) {
    let (settings, lattice) = (layer.settings(), quilt.lattice());
    let Some(offset) = fields.get("offset") else { return };
    let is_asked = settings.grounds != Grounds::Never && settings.is_still();
    if !is_asked || settings.offset_cells(lattice).is_some() {
        return;
    }
    let tiles = quilt.tiles();
    let with_class = |cell| {
        let tile = tiles.tile_of(cell)?;
        Some((tiles.name(tile)?, tiles.tile(tile)?.ground()?))
    };
    let found = layer.cells().occupied().find_map(|(_, cell)| with_class(cell));
    let Some((tile, class)) = found else { return };
    let message = format!(
        "layer `{}` gives no ground, since its offset is not whole cells, though its tile {tile} has the class {class}",
        layer.name()
    );
    let hint = format!(
        "make the offset a multiple of {} and {}, or state \"grounds\": false",
        lattice.cell_width(),
        lattice.cell_height()
    );
    reader.warning(offset.span(), message, Some(hint));
}

fn read_settings<'a>(reader: &mut Reader<'a, '_>, fields: &Fields<'a>) -> LayerSettings {
    let mut settings = LayerSettings::default();
    fields.put("priority", &mut settings.priority, |node| {
        reader.integer(node, "the priority of a layer", i32::MIN..=i32::MAX)
    });
    fields.put("opacity", &mut settings.opacity, |node| {
        let opacity = reader.number(node, "the opacity of a layer")?;
        if !(0.0..=1.0).contains(&opacity) {
            let message = format!("the opacity of a layer must lie between 0 and 1, not {opacity}");
            reader.error(node.span(), message);
        }
        Some(opacity as f32)
    });
    fields.put("offset", &mut settings.offset, |node| read_way(reader, node, "the offset"));
    fields.put("elevation", &mut settings.elevation, |node| {
        reader.number(node, "the elevation of a layer")
    });
    fields.put("data", &mut settings.data, |node| reader.data(node, "the data of a layer"));
    let mut flag = |key: &str, value: &mut bool| {
        fields.put(key, value, |node| reader.boolean(node, &format!("`{key}`")));
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
    fields.put("parallax", &mut settings.parallax, |node| {
        let (x, y) = reader.numbers(node, "the parallax of a layer")?;
        Some(Parallax { x, y })
    });
    fields.put("parallax_from", &mut settings.parallax_from, |node| {
        read_point(reader, node, "`parallax_from` of a layer")
    });
    fields.put("speed", &mut settings.speed, |node| read_way(reader, node, "the speed"));
    if let Some(node) = fields.get("bands") {
        read_bands(reader, node, settings);
    }
    fields.put("wrap", &mut settings.wrap, |node| {
        reader.choice(node, "`wrap` of a layer", &Wrap::WORDS)
    });
    if let Some(node) = fields.get("wrap_area") {
        settings.wrap_area = read_area(reader, node, "`wrap_area` of a layer");
        if settings.wrap == Wrap::No {
            let hint = "state `wrap`: \"x\", \"y\" or \"both\"";
            reader.warning(
                node.start(),
                "the layer states `wrap_area`, but does not wrap",
                Some(hint),
            );
        }
    }
}

fn read_bands<'a>(reader: &mut Reader<'a, '_>, node: Node<'a>, settings: &mut LayerSettings) {
    let mut bands: Vec<ParallaxBand> = Vec::new();
    for item in reader.items(node, "the bands of a layer").unwrap_or_default() {
        let Some(fields) = reader.fields(item, "the band", &["from_row", "parallax", "speed"])
        else {
            continue;
        };
        let row = reader.required(&fields, "from_row");
        let row = row.and_then(|node| {
            reader.integer(node, "the first row of a band", CellPos::MIN..=CellPos::MAX)
        });
        let parallax = reader.required(&fields, "parallax");
        let parallax =
            parallax.and_then(|node| read_sideways(reader, node, "the parallax of a band"));
        let speed = fields.get("speed");
        let speed = speed.map(|node| read_sideways(reader, node, "the speed of a band"));
        let speed = speed.unwrap_or(Some(0.0));
        let (Some(from_row), Some(parallax), Some(speed)) = (row, parallax, speed) else {
            continue;
        };
        if bands.last().is_some_and(|last| last.from_row >= from_row) {
            let hint = "each band begins further down than the one before it";
            reader.error_with_hint(
                item.start(),
                "the bands are not in the order of rows",
                Some(hint),
            );
        }
        bands.push(ParallaxBand { from_row, parallax, speed });
    }
    settings.bands = bands;
}

/// How a band moves to the sides: one number, since its rows cannot move up or down.
fn read_sideways<'a>(reader: &mut Reader<'a, '_>, node: Node<'a>, what: &str) -> Option<f64> {
    if let Some([x, _]) = node.items().as_deref().and_then(|items| items.first_chunk::<2>())
        && let Some(x) = x.number()
    {
        let message = format!("{what} must be one number: bands move to the sides alone");
        reader.error_with_hint(node.span(), message, Some(format!("write {x}")));
        return None;
    }
    reader.number(node, what)
}

/// In which colours it is drawn, and what lies behind it.
fn read_colors<'a>(
    reader: &mut Reader<'a, '_>,
    fields: &Fields<'a>,
    quilt: &mut Quilt,
    lost_sets: bool,
    settings: &mut LayerSettings,
) {
    fields.put("tint", &mut settings.tint, |node| reader.color(node, "the tint of a layer"));
    fields.put("blend", &mut settings.blend, |node| {
        reader.choice(node, "`blend` of a layer", &Blend::WORDS)
    });
    fields.put("palette", &mut settings.palette, |node| {
        let slot = read_palette(reader, node, "the palette of a layer", quilt)?;
        // A slot in which the map has no palette is kept all the same.
        let unbound = || PaletteId::new(slot, Stamp::NONE);
        Some((slot > 0).then(|| quilt.palette_in(slot).unwrap_or_else(unbound)))
    });
    if let Some(node) = fields.get("backdrop") {
        let what = "the backdrop of a layer";
        let cell = read_cell(reader, node, what, quilt, lost_sets);
        settings.backdrop = cell.filter(|cell| !cell.is_empty());
    }
}

/// An offset or a speed of a layer.
fn read_way<'a>(reader: &mut Reader<'a, '_>, node: Node<'a>, what: &str) -> Option<WorldVec> {
    let (x, y) = reader.numbers(node, &format!("{what} of a layer"))?;
    Some(WorldVec::new(x, y))
}
