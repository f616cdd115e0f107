//! Reading the cells of a layer: rows of characters with a legend, or else a table.

use std::borrow::Cow;
use std::sync::Arc;

use rustc_hash::FxHashMap;

use super::read_table::{self, TableSource};
use super::reader::Reader;
use super::tree::{Node, Span};
use crate::near::{did_you_mean, near_names};
use crate::quilt::{CellLegend, Layer, Quilt};
use crate::tile::{Cell, CellNotation, CellNotationError, TileName, Turn};
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
        let cell = if entry.value.is_null() {
            Some(Cell::EMPTY)
        } else if entry.value.is_text() {
            read_notation(reader, entry.value, quilt, lost_sets)
        } else {
            read_spelled_out(reader, entry.value, quilt, lost_sets)
        };
        // A fault in the entry is noted; the character itself is known all the same.
        legend.push((character, cell.unwrap_or(Cell::EMPTY)));
    }
    Some(legend)
}

fn read_notation<'a>(
    reader: &mut Reader<'a, '_>,
    node: Node<'a>,
    quilt: &mut Quilt,
    lost_sets: bool,
) -> Option<Cell> {
    let (text, span) = (reader.text(node, "a cell")?, reader.span(node));
    cell_of_text(reader, span, &text, quilt, lost_sets)
}

/// A cell in its notation.
pub(super) fn cell_of_text(
    reader: &mut Reader<'_, '_>,
    span: Span,
    text: &str,
    quilt: &mut Quilt,
    lost_sets: bool,
) -> Option<Cell> {
    match text.parse::<CellNotation>() {
        Ok(CellNotation::Empty) => Some(Cell::EMPTY),
        Ok(CellNotation::Tile { name, turn, raise, palette }) => {
            let cell = named_tile(reader, span, &name, quilt, lost_sets)?;
            cell.turned(turn).raised(raise).in_palette(palette)
        }
        Err(error) => {
            let (message, hint) = match &error {
                CellNotationError::Mark(mark) => {
                    let hint = CellNotation::MARKS.to_owned();
                    (format!("`+{mark}` is no mark of a cell"), Some(hint))
                }
                CellNotationError::Name(_) => {
                    (error.to_string(), did_you_mean(&quilt.tiles().near(text)))
                }
                _ => (error.to_string(), None),
            };
            reader.error_with_hint(span, message, hint);
            None
        }
    }
}

/// A cell as an object: `{ "tile": "set/name", "turn": 90, "mirror": true, "raise": true,
/// "palette": 3 }`.
fn read_spelled_out<'a>(
    reader: &mut Reader<'a, '_>,
    node: Node<'a>,
    quilt: &mut Quilt,
    lost_sets: bool,
) -> Option<Cell> {
    let known = ["tile", "turn", "mirror", "raise", "palette"];
    let fields = reader.fields(node, "the cell", &known)?;
    let tile = reader.required(&fields, "tile")?;
    let name = reader.text(tile, "the tile of a cell")?;
    let name: TileName = match name.parse() {
        Ok(name) => name,
        Err(error) => {
            let span = reader.span(tile);
            let near = did_you_mean(&quilt.tiles().near(&name));
            reader.error_with_hint(span, format!("{error}"), near);
            return None;
        }
    };
    let span = reader.span(tile);
    let cell = named_tile(reader, span, &name, quilt, lost_sets)?;
    let quarters = match fields.get("turn") {
        None => 0,
        Some(node) => {
            let degrees = reader.integer(node, "the turn of a cell", 0, 270)?;
            if degrees % 90 != 0 {
                let span = reader.span(node);
                let message =
                    format!("the turn of a cell must be 0, 90, 180 or 270, not {degrees}");
                reader.error(span, message);
            }
            u8::try_from(degrees / 90).ok()?
        }
    };
    let mut flag = |key: &str| match fields.get(key) {
        Some(node) => reader.boolean(node, &format!("`{key}` of a cell")),
        None => Some(false),
    };
    let (mirror, raise) = (flag("mirror")?, flag("raise")?);
    let palette = match fields.get("palette") {
        Some(node) => {
            let most = i64::from(Cell::PALETTES) - 1;
            u8::try_from(reader.integer(node, "the palette of a cell", 0, most)?).ok()?
        }
        None => 0,
    };
    let turn = Turn::square(mirror, quarters)?;
    cell.turned(turn).raised(raise).in_palette(palette)
}

/// The tile of a name. One that no set has is shown by a placeholder and keeps its name.
fn named_tile(
    reader: &mut Reader<'_, '_>,
    span: Span,
    name: &TileName,
    quilt: &mut Quilt,
    lost_sets: bool,
) -> Option<Cell> {
    let known = quilt.tiles.find(name).is_some_and(|id| !quilt.tiles.is_missing(id));
    // What a set that could not be read holds is not known; its own problem says enough.
    let may_be_lost = lost_sets && quilt.tiles.set(name.set()).is_none();
    if !known && !may_be_lost {
        let near = did_you_mean(&quilt.tiles().near(&name.to_string()));
        let sets: Vec<&str> = quilt.tiles().sets().map(|set| set.name()).collect();
        let (message, hint) = match quilt.tiles().set(name.set()) {
            Some(set) => (format!("tile set `{}` has no tile `{}`", set.name(), name.key()), near),
            None => {
                let near_sets = did_you_mean(&near_names(name.set(), sets.iter().copied()));
                (format!("there is no tile set `{}`", name.set()), near.or(near_sets))
            }
        };
        let hint = hint.unwrap_or_else(|| format!("the tile sets are: {}.", sets.join(", ")));
        let hint = format!("{hint} A placeholder is shown in its place");
        reader.warning(span, message, Some(hint));
    }
    match quilt.tiles.intern(name) {
        Ok(id) => Some(Cell::of(id)),
        Err(error) => {
            reader.error(span, error.to_string());
            None
        }
    }
}
