//! Reading the cells of a layer: rows of characters with a legend, or else a table.

use std::borrow::Cow;
use std::sync::Arc;

use rustc_hash::FxHashMap;

use super::read_cell::read_cell;
use super::read_table::{self, TableSource};
use super::reader::Reader;
use super::tree::{Node, Span};
use crate::quilt::{CellLegend, Layer, Quilt};
use crate::tile::Cell;
use crate::units::{CellOffset, CellPos, CellRect};

/// Reads `cells` into a layer whose first cell is `corner`.
pub(super) fn read_cells<'a>(
    reader: &mut Reader<'a, '_>,
    node: Node<'a>,
    corner: CellPos,
    layer: &mut Layer,
    quilt: &mut Quilt,
    cells_left: &mut u64,
    source: &mut TableSource<'_, '_>,
) -> Option<()> {
    let what = format!("`cells` of layer `{}`", layer.name());
    let is_table = node.entries().is_some_and(|all| all.iter().any(|entry| entry.key == "table"));
    if is_table {
        let fields = reader.fields(node, &what, &read_table::KEYS)?;
        return read_table::read_table(reader, &fields, corner, layer, quilt, cells_left, source);
    }
    let fields = reader.fields(node, &what, &["legend", "rows"])?;
    let lost_sets = source.lost_sets;
    let legend = match fields.get("legend") {
        Some(legend) => read_legend(reader, legend, quilt, lost_sets)?,
        None => Vec::new(),
    };
    let rows_node = reader.required(&fields, "rows")?;
    let rows: Vec<(Node<'a>, Cow<'a, str>)> = reader
        .items(rows_node, "`rows`")?
        .into_iter()
        .filter_map(|row| Some((row, reader.text(row, "a row of cells")?)))
        .collect();
    let rect = extent(reader, rows_node, &what, corner, &rows, cells_left)?;
    let mut row_reader = RowReader {
        legend: legend.iter().copied().collect(),
        unknown: Vec::new(),
        values: Vec::new(),
    };
    for (y, (row, text)) in (0..).zip(&rows) {
        let start = CellPos::checked(corner.x().into(), i64::from(corner.y()) + y)?;
        row_reader.read(reader, *row, text, start);
        // A plane that was just made is here as a whole.
        layer.cells.write_row(start, &row_reader.values).ok()?;
    }
    row_reader.report(reader, layer.name());
    layer.spelling = Some(Arc::new(CellLegend { entries: legend, rect }));
    Some(())
}

/// The rectangle that the rows span, once they are known to be of one length and within limits.
fn extent(
    reader: &mut Reader<'_, '_>,
    node: Node<'_>,
    what: &str,
    corner: CellPos,
    rows: &[(Node<'_>, Cow<'_, str>)],
    cells_left: &mut u64,
) -> Option<CellRect> {
    let length = |row: &(Node<'_>, Cow<'_, str>)| row.1.chars().count();
    let Some(width) = rows.first().map(length) else { return Some(CellRect::EMPTY) };
    let errors = reader.errors();
    let mut cells = 0;
    for (number, row) in rows.iter().enumerate() {
        cells += length(row) as u64;
        if length(row) != width {
            let span = reader.span(row.0);
            let found = length(row);
            let message = format!("row {} has {found} cells, but row 1 has {width}", number + 1);
            let hint = if found < width {
                format!("add {}; a space is an empty cell", characters(width - found))
            } else {
                format!("take {} away, or lengthen the other rows", characters(found - width))
            };
            reader.error_with_hint(span, message, Some(hint));
        }
    }
    if cells > *cells_left {
        let span = Span { len: 1, ..reader.span(node) };
        reader.error(span, format!("{what} brings the map beyond the limit of cells"));
        return None;
    }
    *cells_left -= cells;
    if reader.errors() > errors || width == 0 {
        return (reader.errors() == errors).then_some(CellRect::EMPTY);
    }
    let last = CellPos::checked(
        i64::from(corner.x()) + width as i64 - 1,
        i64::from(corner.y()) + rows.len() as i64 - 1,
    );
    if last.is_none() {
        let span = Span { len: 1, ..reader.span(node) };
        reader.error(span, format!("{what} reaches beyond the limits of cells"));
    }
    last.map(|last| CellRect::between(corner, last))
}

fn characters(count: usize) -> String {
    if count == 1 { "1 character".to_owned() } else { format!("{count} characters") }
}

/// A character that the legend does not know.
struct Unknown {
    character: char,
    /// Where it stands first.
    span: Span,
    cell: CellPos,
    count: usize,
}

/// Turns rows of characters into cells.
struct RowReader {
    legend: FxHashMap<char, Cell>,
    unknown: Vec<Unknown>,
    values: Vec<Cell>,
}

impl RowReader {
    fn read(&mut self, reader: &Reader<'_, '_>, node: Node<'_>, text: &str, start: CellPos) {
        self.values.clear();
        for (column, (at, character)) in (0..).zip(text.char_indices()) {
            let value = self.legend.get(&character).copied();
            if value.is_none() && character != ' ' {
                match self.unknown.iter_mut().find(|held| held.character == character) {
                    Some(held) => held.count += 1,
                    None => {
                        let span = character_span(reader.span(node), text, at);
                        let cell = start.saturating_add(CellOffset::new(column, 0));
                        self.unknown.push(Unknown { character, span, cell, count: 1 });
                    }
                }
            }
            self.values.push(value.unwrap_or(Cell::EMPTY));
        }
    }

    fn report(self, reader: &mut Reader<'_, '_>, layer: &str) {
        for Unknown { character, span, cell, count } in self.unknown {
            let more = match count {
                1 => String::new(),
                _ => format!(" (and {} more of it)", count - 1),
            };
            let message = format!(
                "the legend of layer `{layer}` does not know `{character}` at {cell}{more}"
            );
            let hint = format!("add \"{character}\" to the legend, or correct the row");
            reader.error_at_cell(span, cell, message, hint);
        }
    }
}

/// Where a character of a text lies in the document; the whole text where it has escapes.
fn character_span(of_text: Span, text: &str, at: usize) -> Span {
    if of_text.len == text.len() + 2 {
        let len = text[at..].chars().next().map_or(1, char::len_utf8);
        return Span { start: of_text.start + 1 + at, len };
    }
    of_text
}

fn read_legend<'a>(
    reader: &mut Reader<'a, '_>,
    node: Node<'a>,
    quilt: &mut Quilt,
    lost_sets: bool,
) -> Option<Vec<(char, Cell)>> {
    let mut legend = Vec::new();
    for entry in reader.entries(node, "the legend")? {
        let mut characters = entry.key.chars();
        let (Some(character), None) = (characters.next(), characters.next()) else {
            let span = reader.key_span(&entry);
            let message = format!("the legend has `{}`, which is not one character", entry.key);
            let hint = "each key of a legend is a character that stands in the rows".to_owned();
            reader.error_with_hint(span, message, Some(hint));
            continue;
        };
        let cell = read_cell(reader, entry.value, quilt, lost_sets);
        // A fault in the entry is noted; the character itself is known all the same.
        legend.push((character, cell.unwrap_or(Cell::EMPTY)));
    }
    Some(legend)
}
