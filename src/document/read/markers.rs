//! Reading the markers of a map.

use std::sync::Arc;

use super::places::{class_hint, read_area, read_cell_pos, read_point, twice};
use crate::document::problem::Severity;
use crate::document::syntax::{Fields, Node, Reader};
use crate::plane::Stamp;
use crate::quilt::{Marker, MarkerPlace, PlacedMarker, Quilt};
use crate::units::WorldPoint;

/// Reads all markers; says whether their names are all known.
pub(super) fn read_markers<'a>(
    reader: &mut Reader<'a, '_>,
    fields: &Fields<'a>,
    quilt: &mut Quilt,
    stamp: Stamp,
) -> bool {
    let Some(node) = fields.get("markers") else { return true };
    let Some(items) = reader.items(node, "`markers`") else { return false };
    let (bounds, mut all_known) = (quilt.bounds(), true);
    for item in items {
        let Some(marker) = read_marker(reader, item, quilt) else {
            all_known = false;
            continue;
        };
        let span = item.span();
        if quilt.marker_at(marker.name()).is_some() {
            twice(reader, span, "markers", marker.name());
            continue;
        }
        let name = Arc::clone(marker.shared_name());
        if reader.check(item, quilt.check_marker(&marker)).is_none() {
            continue;
        }
        quilt.put_marker(quilt.marker_count(), marker, stamp);
        let outside = quilt.marker(&name).is_ok_and(|placed| !bounds.contains(placed.cell_pos()));
        // Where a layer could not be read, the bounds are not known.
        if outside && !bounds.is_empty() && reader.errors() == 0 && !reader.lists(Severity::Warning)
        {
            reader.problems().counted_only(Severity::Warning);
        } else if outside && !bounds.is_empty() && reader.errors() == 0 {
            let message = format!("marker `{name}` lies outside the map");
            reader.warning(span, message, Some(format!("the map spans {bounds}")));
        }
    }
    all_known
}

pub(crate) fn read_marker<'a>(
    reader: &mut Reader<'a, '_>,
    node: Node<'a>,
    quilt: &Quilt,
) -> Option<Marker> {
    let known = ["name", "kind", "cell", "point", "area", "path", "polygon", "ground", "data"];
    let fields = reader.fields(node, "the marker", &known)?;
    let name = reader.required(&fields, "name")?;
    let text = reader.text(name, "the name of a marker")?;
    let places = ["cell", "point", "area", "path", "polygon"];
    let mut stated = places.iter().filter_map(|key| Some((*key, fields.get(key)?)));
    let (first, second) = (stated.next(), stated.next());
    let (Some((key, at)), None) = (first, second) else {
        if first.is_none() && fields.is_misspelled(&places) {
            return None;
        }
        let message = format!(
            "marker `{text}` must have one of `cell`, `point`, `area`, `path` and `polygon`"
        );
        reader.error(node.span(), message);
        return None;
    };
    let what = format!("the {key} of marker `{text}`");
    let place = match key {
        "cell" => MarkerPlace::Cell(read_cell_pos(reader, at, &what)?),
        "point" => MarkerPlace::Point(read_point(reader, at, &what)?),
        "area" => MarkerPlace::Area(read_area(reader, at, &what)?),
        "path" => MarkerPlace::Path(read_points(reader, at, &what, 2)?),
        _ => MarkerPlace::Polygon(read_points(reader, at, &what, 3)?),
    };
    let mut marker = Marker::new(&*text, place);
    if let Some(kind) = fields.get("kind") {
        marker = marker.with_kind(&*reader.text(kind, "the kind of a marker")?);
    }
    if let Some(class) = fields.get("ground") {
        marker = read_marker_ground(reader, class, marker, quilt)?;
    }
    if let Some(data) = fields.get("data") {
        marker = marker.with_data(reader.data(data, "the data of a marker")?);
    }
    Some(marker)
}

fn read_marker_ground<'a>(
    reader: &mut Reader<'a, '_>,
    node: Node<'a>,
    marker: Marker,
    quilt: &Quilt,
) -> Option<Marker> {
    let class = reader.text(node, "the ground of a marker")?;
    let span = node.span();
    if let Err(error) = quilt.ground_rules().class(&class) {
        let hint = class_hint(&error, quilt.ground_rules());
        let message = format!("the map has no ground class `{class}`");
        reader.error_with_hint(span, message, Some(hint));
        return None;
    }
    let marker = marker.with_ground(&*class);
    if !PlacedMarker::new(&marker, quilt.lattice()).can_ground() {
        let message = format!("marker `{}` cannot state ground", marker.name());
        let hint = "only a cell, an area or a polygon can, within at most 4096 × 4096 cells";
        reader.error_with_hint(span, message, Some(hint));
        return None;
    }
    Some(marker)
}

/// A list of points, with at least so many.
fn read_points<'a>(
    reader: &mut Reader<'a, '_>,
    node: Node<'a>,
    what: &str,
    least: usize,
) -> Option<Arc<[WorldPoint]>> {
    let items = reader.items(node, what)?;
    let count = items.len();
    let each = format!("a point of {}", what.trim_start_matches("the "));
    let points = items.into_iter().map(|item| read_point(reader, item, &each));
    let points: Vec<Option<WorldPoint>> = points.collect();
    if count < least {
        reader.error(node.span(), format!("{what} must have at least {least} points, not {count}"));
        return None;
    }
    points.into_iter().collect()
}
