//! A map as a document, all but its cells.

use serde_json::{Map, Value, json};

use super::cells::CellWriter;
use super::error::SaveError;
use super::layout::{Laid, cell_value, number};
use super::options::Options;
use super::{tiles, values};
use crate::document::formats::{MAP_FORMAT, VERSION};
use crate::lattice::Lattice;
use crate::picture::Color;
use crate::quilt::{
    Blend, Class, GroundRules, Grounds, Layer, LayerSettings, Marker, MarkerPlace, Mover, Outside,
    Palette, ParallaxBand, Quilt, Treatment, Wrap,
};
use crate::tile::Cell;
use crate::units::{CellPos, CellRect, Side, WorldPoint};
use crate::view::{Facing, Projection, ProjectionKind};

/// The document; files that hold cells of their own are added to `files`.
pub(super) fn document(
    writer: &Options<'_>,
    files: &mut Vec<(String, Vec<u8>)>,
) -> Result<Laid, SaveError> {
    document_with(writer, Some(CellWriter::new(writer, files)))
}

/// The document but for the cells of layers and where they begin.
pub(crate) fn without_cells(writer: &Options<'_>) -> Result<Value, SaveError> {
    Ok(document_with(writer, None)?.into_value())
}

fn document_with(
    writer: &Options<'_>,
    mut cells: Option<CellWriter<'_, '_>>,
) -> Result<Laid, SaveError> {
    let quilt = writer.quilt;
    let mut document: Vec<(String, Laid)> = Vec::new();
    let mut put = |key: &str, value: Laid| document.push((key.to_owned(), value));
    if let Some(schema) = quilt.schema() {
        put("$schema", (&**schema).into());
    }
    put("format", MAP_FORMAT.into());
    put("version", VERSION.into());
    put("lattice", lattice_value(quilt.lattice()).into());
    if *quilt.projection() != Projection::FLAT {
        put("projection", projection_value(quilt.projection()).into());
    }
    if let Some(bounds) = quilt.stated_bounds() {
        put("bounds", area_value(bounds).into());
    }
    if !quilt.data().is_null() {
        put("data", quilt.data().clone().into());
    }
    let sets =
        quilt.tiles().sets().map(|set| tiles::set_value(set)).collect::<Result<Vec<_>, _>>()?;
    put("tiles", Value::from(sets).into());
    if !quilt.palettes().is_empty() {
        let palettes = quilt
            .palettes()
            .iter()
            .map(|palette| (palette.name().to_owned(), palette_value(palette)));
        put("palettes", Value::Object(palettes.collect()).into());
    }
    let rules = quilt.ground_rules();
    if rules.classes().len() > 0 {
        put("ground", Value::from_iter(rules.all_classes().map(class_value)).into());
    }
    if !rules.movers().is_empty() {
        put("movers", movers_value(rules).into());
    }
    let counted = [
        ("layers", quilt.layers().len() as u64, writer.limits.layers),
        ("tile sets", quilt.tiles().sets().len() as u64, writer.limits.sets),
        (
            "tiles",
            quilt.tiles().sets().map(|set| set.tiles().len() as u64).sum(),
            writer.limits.tiles,
        ),
    ];
    if let Some(&(what, count, most)) = counted.iter().find(|(_, count, most)| count > most) {
        return Err(SaveError::TooMany { what, count, most });
    }
    let layers = quilt.layers().iter().map(|layer| layer_value(layer, quilt, cells.as_mut()));
    put("layers", Laid::List(layers.collect::<Result<Vec<_>, _>>()?));
    if !quilt.value_layers().is_empty() {
        let mut room = values::Room { taken: 0, limits: writer.limits };
        let values = quilt.value_layers().iter().map(|layer| values::value(layer, &mut room));
        put("values", Laid::List(values.collect::<Result<Vec<_>, _>>()?));
    }
    let markers: Vec<Value> = quilt.markers().map(|placed| marker_value(&placed)).collect();
    if !markers.is_empty() {
        put("markers", Value::from(markers).into());
    }
    Ok(Laid::Object(document))
}

fn lattice_value(lattice: &Lattice) -> Value {
    json!({
        "shape": lattice.shape().name(),
        "cell": [number(lattice.cell_width()), number(lattice.cell_height())],
    })
}

pub(crate) fn projection_value(projection: &Projection) -> Value {
    let mut fields = Map::new();
    fields.insert("kind".into(), projection.kind().name().into());
    if let ProjectionKind::Diamond { width_px, height_px } = projection.kind() {
        fields.insert("size".into(), json!([width_px, height_px]));
    }
    if projection.facing() != Facing::UNTURNED {
        fields.insert("facing".into(), projection.facing().quarters().into());
    }
    if projection.lift() != Projection::FLAT.lift() {
        fields.insert("lift".into(), number(projection.lift()));
    }
    Value::Object(fields)
}

/// The shortest decimal that is the same 32-bit number.
fn short(value: f32) -> Value {
    number(value.to_string().parse().unwrap_or_else(|_| value.into()))
}

fn point_value(point: &WorldPoint) -> Value {
    json!([number(point.x), number(point.y)])
}

pub(crate) fn area_value(area: CellRect) -> Value {
    json!({ "at": cell_value(area.corner()), "size": [area.width(), area.height()] })
}

pub(crate) fn class_value(class: &Class) -> Value {
    match class.color() {
        None => Value::from(&**class.name()),
        Some(color) => json!({ "name": &**class.name(), "color": color.to_string() }),
    }
}

fn movers_value(rules: &GroundRules) -> Value {
    let movers = rules.movers().iter();
    Value::Object(movers.map(|mover| (mover.name().to_owned(), mover_value(mover))).collect())
}

pub(crate) fn mover_value(mover: &Mover) -> Value {
    let treatment = |treatment: Treatment| match treatment {
        Treatment::Pass => "pass".into(),
        Treatment::Block => "block".into(),
        Treatment::Slow(factor) => number(factor),
        Treatment::Value(value) => json!({ "value": number(value) }),
        Treatment::OneWay(sides) => {
            json!({ "one_way": sides.iter().map(Side::name).collect::<Vec<_>>() })
        }
    };
    let mut value = Map::new();
    value.extend(mover.treatments().map(|(class, t)| (class.to_owned(), treatment(t))));
    match mover.outside() {
        Outside::Treated(Treatment::Block) => {}
        Outside::Treated(other) => drop(value.insert("outside".into(), treatment(other))),
        Outside::Wrapped => drop(value.insert("outside".into(), "wrap".into())),
    }
    if mover.empty() != Treatment::Pass {
        value.insert("empty".into(), treatment(mover.empty()));
    }
    if !mover.unloaded().blocks() {
        value.insert("unloaded".into(), treatment(mover.unloaded()));
    }
    Value::Object(value)
}

pub(crate) fn marker_value(marker: &Marker) -> Value {
    let mut value = Map::new();
    value.insert("name".into(), marker.name().into());
    if let Some(kind) = marker.kind() {
        value.insert("kind".into(), kind.into());
    }
    let (key, place) = match marker.stated_place() {
        MarkerPlace::Cell(cell) => ("cell", cell_value(*cell)),
        MarkerPlace::Point(point) => ("point", point_value(point)),
        MarkerPlace::Area(area) => ("area", area_value(*area)),
        MarkerPlace::Path(points) => ("path", points.iter().map(point_value).collect()),
        MarkerPlace::Polygon(points) => ("polygon", points.iter().map(point_value).collect()),
    };
    value.insert(key.into(), place);
    if let Some(class) = marker.ground() {
        value.insert("ground".into(), class.into());
    }
    if !marker.data().is_null() {
        value.insert("data".into(), marker.data().clone());
    }
    value.into()
}

pub(crate) fn palette_value(palette: &Palette) -> Value {
    let mut value = Map::new();
    if palette.tint() != Color::WHITE {
        value.insert("tint".into(), palette.tint().to_string().into());
    }
    if palette.colors().len() > 0 {
        let colors =
            palette.colors().map(|(name, color)| (name.to_owned(), color.to_string().into()));
        value.insert("colors".into(), Value::Object(colors.collect()));
    }
    value.into()
}

fn layer_value(
    layer: &Layer,
    quilt: &Quilt,
    cells: Option<&mut CellWriter<'_, '_>>,
) -> Result<Laid, SaveError> {
    let mut value = Map::new();
    value.insert("name".into(), layer.name().into());
    let notation = |cell| quilt.tiles().notation(cell).to_string();
    let stated = settings_entries(layer.settings(), &notation, quilt.palettes());
    value.extend(stated.into_iter().map(|(key, stated)| (key.to_owned(), stated)));
    let mut laid: Vec<(String, Laid)> =
        value.into_iter().map(|(key, value)| (key, value.into())).collect();
    // A layer that is only a backdrop has no cells to be written.
    let is_backdrop = layer.settings().backdrop.is_some() && layer.cells().bounds().is_empty();
    let Some(cells) = cells.filter(|_| !is_backdrop) else { return Ok(Laid::Object(laid)) };
    let (corner, encoding) = cells.layer(layer)?;
    if corner != CellPos::ORIGIN {
        laid.push(("at".to_owned(), cell_value(corner).into()));
    }
    laid.push(("cells".to_owned(), encoding));
    Ok(Laid::Object(laid))
}

/// The priority, and all settings that are not the default.
pub(crate) fn settings_entries(
    settings: &LayerSettings,
    notation: &dyn Fn(Cell) -> String,
    palettes: &[Palette],
) -> Vec<(&'static str, Value)> {
    let default = LayerSettings::default();
    let pair = |x: f64, y: f64| Value::from(vec![number(x), number(y)]);
    let mut entries = vec![("priority", settings.priority.into())];
    let mut put = |is_stated: bool, key: &'static str, value: &dyn Fn() -> Value| {
        if is_stated {
            entries.push((key, value()));
        }
    };
    let LayerSettings { offset, parallax, parallax_from, speed, .. } = settings;
    put(settings.opacity != default.opacity, "opacity", &|| short(settings.opacity));
    put(settings.tint != default.tint, "tint", &|| settings.tint.to_string().into());
    put(settings.blend != default.blend, "blend", &|| word(settings.blend, &Blend::WORDS));
    let slot = settings.palette_slot();
    put(slot != 0, "palette", &|| palette_word(slot, palettes));
    put(*offset != default.offset, "offset", &|| pair(offset.x, offset.y));
    let elevation = settings.elevation;
    put(elevation != default.elevation, "elevation", &|| number(elevation));
    put(*parallax != default.parallax, "parallax", &|| pair(parallax.x, parallax.y));
    put(*parallax_from != default.parallax_from, "parallax_from", &|| point_value(parallax_from));
    put(*speed != default.speed, "speed", &|| pair(speed.x, speed.y));
    put(!settings.bands.is_empty(), "bands", &|| settings.bands.iter().map(band_value).collect());
    put(settings.wrap != default.wrap, "wrap", &|| word(settings.wrap, &Wrap::WORDS));
    if let Some(area) = settings.wrap_area {
        put(true, "wrap_area", &|| area_value(area));
    }
    if let Some(cell) = settings.backdrop {
        put(true, "backdrop", &|| notation(cell).into());
    }
    let flags = [
        ("visible", settings.visible, default.visible),
        ("sort_rows", settings.sort_rows, default.sort_rows),
        ("draws", settings.draws, default.draws),
    ];
    for (key, flag, default) in flags {
        put(flag != default, key, &|| flag.into());
    }
    put(settings.grounds != default.grounds, "grounds", &|| match settings.grounds {
        Grounds::First => "first".into(),
        grounds => (grounds == Grounds::InTurn).into(),
    });
    put(!settings.data.is_null(), "data", &|| settings.data.clone());
    entries
}

fn word<T: Copy + PartialEq>(value: T, words: &[(&str, T)]) -> Value {
    words.iter().find(|(_, named)| *named == value).map(|(word, _)| *word).into()
}

/// A palette by its name; a slot that has none, by its number.
fn palette_word(slot: u8, palettes: &[Palette]) -> Value {
    let palette = usize::from(slot).checked_sub(1).and_then(|at| palettes.get(at));
    palette.map_or_else(|| slot.into(), |palette| palette.name().into())
}

fn band_value(band: &ParallaxBand) -> Value {
    let mut value = Map::new();
    value.insert("from_row".into(), band.from_row.into());
    value.insert("parallax".into(), number(band.parallax));
    if band.speed != 0.0 {
        value.insert("speed".into(), number(band.speed));
    }
    value.into()
}
