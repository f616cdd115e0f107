//! Value layers in a document: rows of numbers as text.

use std::borrow::Cow;

use super::places::{read_cell_pos, twice};
use crate::document::syntax::{Fields, Node, Reader, Span};
use crate::plane::{Stamp, ValueKind};
use crate::quilt::{PartError, Quilt, ValueLayer};
use crate::units::{CellPos, CellRect};

/// Reads all value layers.
pub(super) fn read<'a>(
    reader: &mut Reader<'a, '_>,
    fields: &Fields<'a>,
    quilt: &mut Quilt,
    mut cells_left: u64,
    stamp: Stamp,
) {
    let Some(node) = fields.get("values") else { return };
    for item in reader.items(node, "`values`").unwrap_or_default() {
        if let Some(layer) = read_layer(reader, item, quilt, &mut cells_left) {
            quilt.put_value_layer(quilt.value_layers().len(), layer, stamp);
        }
    }
}

fn read_layer<'a>(
    reader: &mut Reader<'a, '_>,
    node: Node<'a>,
    quilt: &Quilt,
    cells_left: &mut u64,
) -> Option<ValueLayer> {
    let fields = reader.fields(node, "the value layer", &["name", "type", "at", "rows"])?;
    let name = reader.required(&fields, "name")?;
    let (text, span) = (reader.text(name, "the name of a value layer")?, name.span());
    match quilt.check_value_layer_name(&text) {
        Err(PartError::ValueLayerExists(name)) => twice(reader, span, "value layers", &name),
        checked => drop(reader.check_at(span, checked)),
    }
    let kind = reader.required(&fields, "type")?;
    let stated = reader.text(kind, "the type of a value layer")?;
    let kinds = [ValueKind::U32, ValueKind::I32, ValueKind::F32];
    let Some(kind) = kinds.into_iter().find(|kind| kind.name() == stated) else {
        let (span, hint) = (kind.span(), Some("the types are u32, i32 and f32".to_owned()));
        reader.error_with_hint(span, format!("there is no type of value `{stated}`"), hint);
        return None;
    };
    let corner = match fields.get("at") {
        Some(at) => read_cell_pos(reader, at, "the place of a value layer")?,
        None => CellPos::ORIGIN,
    };
    let mut layer = ValueLayer::new(&text, kind);
    if let Some(rows) = fields.get("rows") {
        let rows: Vec<(Node<'a>, Cow<'a, str>)> = reader
            .items(rows, "`rows`")?
            .into_iter()
            .filter_map(|row| Some((row, reader.text(row, "a row of values")?)))
            .collect();
        read_rows(reader, &rows, corner, &mut layer, cells_left)?;
    }
    Some(layer)
}

/// The word of a number of a kind, where a text is one.
fn word_of(kind: ValueKind, text: &str) -> Option<u32> {
    match kind {
        ValueKind::U32 => text.parse().ok(),
        ValueKind::I32 => text.parse().ok().map(i32::cast_unsigned),
        ValueKind::F32 => text.parse().ok().map(f32::to_bits),
    }
}

fn read_rows(
    reader: &mut Reader<'_, '_>,
    rows: &[(Node<'_>, Cow<'_, str>)],
    corner: CellPos,
    layer: &mut ValueLayer,
    cells_left: &mut u64,
) -> Option<()> {
    let kind = layer.kind();
    let (mut width, mut values) = (None, Vec::new());
    let errors = reader.errors();
    for (number, (node, text)) in (0..).zip(rows) {
        let span = node.span();
        values.clear();
        for word in text.split_ascii_whitespace() {
            values.push(word_of(kind, word).unwrap_or_else(|| {
                // Exact where the text has no escapes.
                let at = word.as_ptr() as usize - text.as_ptr() as usize;
                let span = Span { start: span.start + 1 + at, len: word.len() };
                let message = format!("`{word}` is not a value of type {}", kind.name());
                reader.error(span, message);
                0
            }));
        }
        let (count, wanted) = (values.len(), *width.get_or_insert(values.len()));
        if count != wanted {
            let message = format!("row {} has {count} values, but row 1 has {wanted}", number + 1);
            reader.error(span, message);
        }
        if reader.errors() > errors {
            continue;
        }
        let Some(left) = cells_left.checked_sub(count as u64) else {
            reader.error(span, "the values bring the map beyond the limit of cells");
            return None;
        };
        *cells_left = left;
        let at =
            |x: i64| CellPos::checked(i64::from(corner.x()) + x, i64::from(corner.y()) + number);
        let (Some(first), Some(_)) = (at(0), at(count as i64 - 1)) else {
            reader.error(span, "the values reach beyond the limits of cells");
            return None;
        };
        // A plane that was just made is here as a whole.
        let row = CellRect::new(first, count as u32, 1);
        layer.words_mut().write_rect(row, &values).ok()?;
    }
    Some(())
}
