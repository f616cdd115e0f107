//! Reading cells, areas and points.

use crate::document::syntax::{Node, Reader, Span};
use crate::name_error::{NameError, did_you_mean};
use crate::quilt::GroundRules;
use crate::units::{CellPos, CellRect, WorldPoint};

pub(super) fn read_point<'a>(
    reader: &mut Reader<'a, '_>,
    node: Node<'a>,
    what: &str,
) -> Option<WorldPoint> {
    let (x, y) = reader.numbers(node, what)?;
    Some(WorldPoint::new(x, y))
}

pub(crate) fn read_cell_pos<'a>(
    reader: &mut Reader<'a, '_>,
    node: Node<'a>,
    what: &str,
) -> Option<CellPos> {
    let (x, y) = reader.integers(node, what, CellPos::MIN..=CellPos::MAX)?;
    Some(CellPos::new(x, y))
}

pub(crate) fn read_area<'a>(
    reader: &mut Reader<'a, '_>,
    node: Node<'a>,
    what: &str,
) -> Option<CellRect> {
    let fields = reader.fields(node, what, &["at", "size"])?;
    let (at, size) = (reader.required(&fields, "at"), reader.required(&fields, "size"));
    let corner = at.and_then(|at| read_cell_pos(reader, at, &format!("the corner of {what}")));
    let size = size?;
    let (width, height) = reader.integers(size, &format!("the size of {what}"), 1..=1_i64 << 31)?;
    let corner = corner?;
    let reaches =
        CellPos::checked(i64::from(corner.x()) + width - 1, i64::from(corner.y()) + height - 1);
    if reaches.is_none() {
        reader.error(size.span(), format!("{what} reaches beyond the limits of cells"));
    }
    Some(CellRect::between(corner, reaches?))
}

/// What to do about a ground class that the map does not have.
pub(super) fn class_hint(error: &NameError, rules: &GroundRules) -> String {
    did_you_mean(&error.near).unwrap_or_else(|| {
        let stated = rules.classes().collect::<Vec<_>>().join(", ");
        format!("the map states the ground classes {stated}")
    })
}

pub(super) fn twice(reader: &mut Reader<'_, '_>, span: Span, what: &str, name: &str) {
    let hint = Some("give one of them another name");
    reader.error_with_hint(span, format!("there are two {what} with the name `{name}`"), hint);
}
