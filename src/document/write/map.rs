//! A map as a document, all but its cells.

use serde_json::{Map, Value, json};

use super::cells::CellWriter;
use super::layout::Laid;
use super::{MapWriter, SaveError, tiles};
use crate::document::{MAP_FORMAT, VERSION, value_rows};
use crate::lattice::Lattice;
use crate::quilt::{GroundRules, Layer, LayerSettings, Marker, MarkerPlace, Outside, Treatment};
use crate::units::{CellPos, CellRect, WorldPoint};

/// The document; files that hold cells of their own are added to `files`.
pub(super) fn document(
    writer: &MapWriter<'_>,
    files: &mut Vec<(String, Vec<u8>)>,
) -> Result<Laid, SaveError> {
    let quilt = writer.quilt;
    let mut document: Vec<(String, Laid)> = Vec::new();
    let mut put = |key: &str, value: Laid| document.push((key.to_owned(), value));
    if let Some(schema) = &quilt.schema {
        put("$schema", (&**schema).into());
    }
    put("format", MAP_FORMAT.into());
    put("version", VERSION.into());
    put("lattice", lattice_value(quilt.lattice()).into());
    if let Some(bounds) = quilt.stated_bounds() {
        put("bounds", area_value(bounds).into());
    }
    if !quilt.data().is_null() {
        put("data", quilt.data().clone().into());
    }
    let sets =
        quilt.tiles().sets().map(|set| tiles::set_value(set)).collect::<Result<Vec<_>, _>>()?;
    put("tiles", Value::from(sets).into());
    let rules = quilt.ground_rules();
    if rules.classes().len() > 0 {
        put("ground", Value::from(rules.classes().collect::<Vec<_>>()).into());
    }
    if !rules.movers().is_empty() {
        put("movers", movers_value(rules).into());
    }
    let mut cells = CellWriter::new(writer, files);
    let layers = quilt.layers().iter().map(|layer| layer_value(layer, &mut cells));
    put("layers", Laid::List(layers.collect::<Result<Vec<_>, _>>()?));
    if !quilt.value_layers().is_empty() {
        let values = quilt.value_layers().iter().map(value_rows::value);
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

/// A number without a fraction where it has none.
pub(super) fn number(value: f64) -> Value {
    // Whole numbers up to 2⁵³ are the same as integers.
    if value.fract() == 0.0 && value.abs() < 9e15 { (value as i64).into() } else { value.into() }
}

/// The shortest decimal that is the same 32-bit number.
fn short(value: f32) -> Value {
    number(value.to_string().parse().unwrap_or_else(|_| value.into()))
}

pub(super) fn cell_value(cell: CellPos) -> Value {
    json!([cell.x(), cell.y()])
}

fn point_value(point: &WorldPoint) -> Value {
    json!([number(point.x), number(point.y)])
}

fn area_value(area: CellRect) -> Value {
    json!({ "at": cell_value(area.corner()), "size": [area.width(), area.height()] })
}

fn movers_value(rules: &GroundRules) -> Value {
    let treatment = |treatment: Treatment| match treatment {
        Treatment::Pass => "pass".into(),
        Treatment::Block => "block".into(),
        Treatment::Slow(factor) => number(factor),
    };
    let mover = |mover: &crate::quilt::Mover| {
        let mut value = Map::new();
        value.extend(mover.treatments().map(|(class, t)| (class.to_owned(), treatment(t))));
        match mover.outside_rule() {
            Outside::Treated(Treatment::Block) => {}
            Outside::Treated(other) => drop(value.insert("outside".into(), treatment(other))),
            Outside::Wrapped => drop(value.insert("outside".into(), "wrap".into())),
        }
        if !mover.unloaded_rule().blocks() {
            value.insert("unloaded".into(), treatment(mover.unloaded_rule()));
        }
        (mover.name().to_owned(), Value::Object(value))
    };
    Value::Object(rules.movers().iter().map(mover).collect())
}

fn marker_value(marker: &Marker) -> Value {
    let mut value = Map::new();
    value.insert("name".into(), marker.name().into());
    if let Some(kind) = marker.kind_name() {
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
    if !marker.data().is_null() {
        value.insert("data".into(), marker.data().clone());
    }
    value.into()
}

fn layer_value(layer: &Layer, cells: &mut CellWriter<'_, '_>) -> Result<Laid, SaveError> {
    let settings = layer.settings();
    let default = LayerSettings::default();
    let mut value = Map::new();
    value.insert("name".into(), layer.name().into());
    value.insert("priority".into(), settings.priority.into());
    if settings.opacity != default.opacity {
        value.insert("opacity".into(), short(settings.opacity));
    }
    if settings.offset != default.offset {
        let offset = [number(settings.offset.x), number(settings.offset.y)];
        value.insert("offset".into(), offset.to_vec().into());
    }
    let flags = [
        ("visible", settings.visible, default.visible),
        ("sort_rows", settings.sort_rows, default.sort_rows),
        ("draws", settings.draws, default.draws),
        ("grounds", settings.grounds, default.grounds),
    ];
    let stated = flags.into_iter().filter(|(_, value, default)| value != default);
    value.extend(stated.map(|(key, flag, _)| (key.to_owned(), flag.into())));
    if !settings.data.is_null() {
        value.insert("data".into(), settings.data.clone());
    }
    let mut laid: Vec<(String, Laid)> =
        value.into_iter().map(|(key, value)| (key, value.into())).collect();
    let (corner, form) = cells.layer(layer)?;
    if corner != CellPos::ORIGIN {
        laid.push(("at".to_owned(), cell_value(corner).into()));
    }
    laid.push(("cells".to_owned(), form));
    Ok(Laid::Object(laid))
}
