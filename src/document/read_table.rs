//! Reading the cells of a layer from a CSV table (RFC 4180): numbers of tiles, or cells in their
//! notation.

use rustc_hash::FxHashMap;

use super::files::{Files, decoded};
use super::read_cell::cell_of_text;
use super::reader::{Fields, Reader};
use super::tree::Span;
use crate::near::did_you_mean;
use crate::quilt::{Layer, Quilt};
use crate::tile::{Cell, NumberedTiles, TileNumbers, TileNumbersError};
use crate::units::CellPos;

/// The keys of `cells` that are a table.
pub(super) const KEYS: [&str; 5] = ["table", "set", "columns", "base", "empty"];

/// What is known while the tables of a map are read.
pub(super) struct TableSource<'f, 's> {
    pub(super) files: &'f mut Files<'s>,
    /// The file of the map, which names the tables.
    pub(super) map: &'f str,
    pub(super) lost_sets: bool,
}

/// Reads the table of a layer whose first cell is `corner`.
pub(super) fn read_table<'a>(
    reader: &mut Reader<'a, '_>,
    fields: &Fields<'a>,
    corner: CellPos,
    layer: &mut Layer,
    quilt: &mut Quilt,
    cells_left: &mut u64,
    source: &mut TableSource<'_, '_>,
) -> Option<()> {
    let node = reader.required(fields, "table")?;
    let named = reader.text(node, "`table`")?;
    let numbers = read_numbers(reader, fields, quilt, source.lost_sets);
    let span = reader.span(node);
    let (path, bytes) = source.files.named(reader, span, source.map, &named)?;
    let label = source.files.source.label(&path);
    if !source.files.tables.contains(&path) {
        source.files.tables.push(path);
    }
    let text = decoded(bytes, &label, reader.problems())?;
    let mut table = Table {
        reader: Reader::of_text(&text, &label, reader.problems()),
        numbers: numbers?,
        known: FxHashMap::default(),
        lost_sets: source.lost_sets,
    };
    table.read(corner, layer, quilt, cells_left)
}

/// How the numbers of a table name tiles: `None` after a problem, `Some(None)` where none is
/// stated, so that only names can stand in the table.
fn read_numbers<'a>(
    reader: &mut Reader<'a, '_>,
    fields: &Fields<'a>,
    quilt: &Quilt,
    lost_sets: bool,
) -> Option<Option<NumberedTiles>> {
    let mut number = |key: &str, from: i64, to: i64| match fields.get(key) {
        Some(node) => reader.integer(node, &format!("`{key}`"), from, to).map(Some),
        None => Some(None),
    };
    let columns = number("columns", 1, u32::MAX.into())?;
    let (base, empty) = (number("base", i64::MIN, i64::MAX)?, number("empty", i64::MIN, i64::MAX)?);
    let Some(node) = fields.get("set") else {
        if columns.is_some() || base.is_some() || empty.is_some() {
            let span = Span { len: 1, ..reader.span(fields.node) };
            let message = "the table states how its numbers are counted, but not of which `set`";
            reader.error(span, message);
            return None;
        }
        return Some(None);
    };
    let mut numbers = TileNumbers::of_set(reader.text(node, "`set`")?);
    numbers = columns
        .and_then(|n| u32::try_from(n).ok())
        .map_or(numbers.clone(), |columns| numbers.columns(columns));
    numbers = base.map_or(numbers.clone(), |base| numbers.base(base));
    numbers = empty.map_or(numbers.clone(), |empty| numbers.empty(empty));
    match numbers.find(quilt.tiles()) {
        Ok(tiles) => Some(Some(tiles)),
        // A set that could not be read has a problem of its own.
        Err(TileNumbersError::Set(_)) if lost_sets => None,
        Err(TileNumbersError::Set(error)) => {
            let span = reader.span(node);
            let message = format!("there is no tile set `{}`", error.name);
            reader.error_with_hint(span, message, did_you_mean(&error.near));
            None
        }
        Err(error) => {
            let span = fields.get("columns").map_or(reader.span(node), |n| reader.span(n));
            let hint = "the sheet was cut anew: number the table for it, or use names of tiles";
            reader.error_with_hint(span, error.to_string(), Some(hint.to_owned()));
            None
        }
    }
}

struct Table<'a, 'p> {
    reader: Reader<'a, 'p>,
    numbers: Option<NumberedTiles>,
    /// What each text of a field means; `None` where a problem was noted.
    known: FxHashMap<String, Option<Cell>>,
    lost_sets: bool,
}

impl Table<'_, '_> {
    fn read(
        &mut self,
        corner: CellPos,
        layer: &mut Layer,
        quilt: &mut Quilt,
        cells_left: &mut u64,
    ) -> Option<()> {
        let text = self.reader.whole();
        let mut rows = csv::ReaderBuilder::new()
            .has_headers(false)
            .flexible(true)
            .from_reader(text.as_bytes());
        let (mut record, mut values) = (csv::StringRecord::new(), Vec::new());
        let (mut width, mut row) = (None, 0);
        let errors = self.reader.errors();
        loop {
            let start = rows.position().byte() as usize;
            match rows.read_record(&mut record) {
                Ok(true) => {}
                Ok(false) => break,
                Err(error) => {
                    self.reader.error(Span { start, len: 1 }, format!("the table: {error}"));
                    return None;
                }
            }
            let start = record.position().map_or(start, |at| at.byte() as usize);
            row += 1;
            let count = record.len();
            let wanted = *width.get_or_insert(count);
            if count != wanted {
                let message = format!("row {row} has {count} cells, but row 1 has {wanted}");
                let hint = Some("give all rows the same number of fields".to_owned());
                self.reader.error_with_hint(Span { start, len: 1 }, message, hint);
            }
            let Some(left) = cells_left.checked_sub(count as u64) else {
                let what = format!("the table of layer `{}`", layer.name());
                let message = format!("{what} brings the map beyond the limit of cells");
                self.reader.error(Span { start, len: 1 }, message);
                return None;
            };
            *cells_left = left;
            let at = |x: i64, y: i64| {
                CellPos::checked(i64::from(corner.x()) + x, i64::from(corner.y()) + y)
            };
            let (first, last) = (at(0, row - 1), at(count as i64 - 1, row - 1));
            let (Some(first), Some(_)) = (first, last) else {
                let message = "the table reaches beyond the limits of cells";
                self.reader.error(Span { start, len: 1 }, message);
                return None;
            };
            values.clear();
            let mut place = start;
            for (column, field) in record.iter().enumerate() {
                let cell = at(column as i64, row - 1).unwrap_or(first);
                // Exact as long as no field of the row is quoted.
                let span = Span { start: place, len: field.len().max(1) };
                values.push(self.cell(field, span, cell, quilt).unwrap_or_default());
                place += field.len() + 1;
            }
            // A plane that was just made is here as a whole.
            layer.cells.write_row(first, &values).ok()?;
        }
        (self.reader.errors() == errors).then_some(())
    }

    /// What a field means. Each text is looked up, and complained about, once.
    fn cell(&mut self, field: &str, span: Span, at: CellPos, quilt: &mut Quilt) -> Option<Cell> {
        if let Some(known) = self.known.get(field) {
            return *known;
        }
        let text = field.trim();
        let cell = if text.is_empty() {
            Some(Cell::EMPTY)
        } else if let Ok(number) = text.parse::<i64>() {
            self.numbered(number, span, at)
        } else {
            cell_of_text(&mut self.reader, span, text, quilt, self.lost_sets)
        };
        self.known.insert(field.to_owned(), cell);
        cell
    }

    fn numbered(&mut self, number: i64, span: Span, at: CellPos) -> Option<Cell> {
        let Some(numbers) = &self.numbers else {
            let message = format!("the table has the number {number}, but names no `set`");
            let hint = "state the `set` beside `table`, or write names of tiles".to_owned();
            self.reader.error_at_cell(span, at, message, hint);
            return None;
        };
        let cell = numbers.cell(number);
        if cell.is_none() {
            let (message, hint) = (format!("number {number} is no tile"), numbers.words());
            self.reader.error_at_cell(span, at, message, hint);
        }
        cell
    }
}
