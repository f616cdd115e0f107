//! A table of comma-separated values (RFC 4180), in a file or line by line in the document:
//! numbers of tiles, or cells in their notation.

use super::grid::{Grid, Sink, Spelled};
use super::legend::Legend;
use crate::document::syntax::{Field, FieldError, Node, Reader, Span, each_field};
use crate::tile::CellNotation;
use crate::units::{CellPos, CellRect, GridCells};

/// Reads the table of a grid; gives the rectangle that it spans.
pub(crate) fn read<'a, S: Spelled>(
    reader: &mut Reader<'a, '_>,
    grid: &mut Grid<'_, 'a, '_, '_>,
    legend: &Legend<S::Value>,
    spelled: &mut S,
    sink: &mut Sink<'_, S::Value>,
) -> Option<CellRect> {
    let node = reader.required(grid.fields, "table")?;
    let (what, cells, most) = (grid.what, grid.cells, grid.source.cells_left);
    let size = if node.is_text() {
        let (label, text) = grid.source.text_file(reader, node)?;
        let mut reader = Reader::of_text(&text, &label, reader.problems());
        let lines =
            TableReader { has_told: false.into(), text: &text, inline: None, what, cells, legend };
        lines.read(&mut reader, most, spelled, sink)
    } else {
        let (text, inline) = joined(reader, node)?;
        let lines = TableReader {
            has_told: false.into(),
            text: &text,
            inline: Some(inline),
            what,
            cells,
            legend,
        };
        lines.read(reader, most, spelled, sink)
    }?;
    grid.admit(reader, size)
}

/// The lines of a table as one text, with where each begins there and in the document.
fn joined<'a>(reader: &mut Reader<'a, '_>, node: Node<'a>) -> Option<(String, Vec<InlineRow>)> {
    let (mut text, mut rows) = (String::new(), Vec::new());
    for item in reader.items(node, "`table`")? {
        let line = reader.text(item, "a line of the table")?;
        let span = item.span();
        rows.push(InlineRow { start: text.len(), span, is_plain: span.len == line.len() + 2 });
        text.push_str(&line);
        text.push('\n');
    }
    Some((text, rows))
}

struct InlineRow {
    start: usize,
    /// Where the line stands in the document.
    span: Span,
    /// Whether it is spelled there without escapes.
    is_plain: bool,
}

/// So many cells are read before they go on, so that a wide row takes no memory.
const PART: usize = 1 << 16;

/// What is wrong with a table as a whole.
struct Oddity {
    start: usize,
    len: usize,
    message: String,
    hint: &'static str,
}

/// The whole number that a number with a fraction is meant for.
fn whole_of_fraction(text: &str) -> Option<f64> {
    if !text.contains('.') || text.contains('/') {
        return None;
    }
    text.parse::<f64>().ok().filter(|number| number.is_finite()).map(f64::round)
}

struct TableReader<'t, V> {
    /// Whether it was told that numbers have fractions.
    has_told: std::cell::Cell<bool>,
    text: &'t str,
    inline: Option<Vec<InlineRow>>,
    what: &'t str,
    cells: GridCells,
    legend: &'t Legend<V>,
}

impl<V: Copy + Default> TableReader<'_, V> {
    /// Where a part of the text stands in its document.
    fn span(&self, start: usize, len: usize) -> Span {
        let Some(rows) = &self.inline else { return Span { start, len } };
        let at = rows.partition_point(|row| row.start <= start).saturating_sub(1);
        match rows.get(at) {
            Some(row) if row.is_plain => {
                Span { start: row.span.start + 1 + start - row.start, len }
            }
            Some(row) => row.span,
            None => Span { start: 0, len: 1 },
        }
    }

    /// Reads the table; gives its columns and rows.
    fn read<S: Spelled<Value = V>>(
        &self,
        reader: &mut Reader<'_, '_>,
        mut cells_left: u64,
        spelled: &mut S,
        sink: &mut Sink<'_, V>,
    ) -> Option<(u64, u64)> {
        if let Some(Oddity { start, len, message, hint }) = self.first_look() {
            reader.error_with_hint(self.span(start, len), message, Some(hint));
            return None;
        }
        let (mut width, mut row, mut column) = (None, 1, 0_u64);
        let (mut row_start, mut part_start) = (0, 0);
        let (errors, mut recent) = (reader.errors(), Recent::new());
        let mut values = Vec::with_capacity(PART.min(self.text.len()));
        let ended = each_field(self.text, |Field { text, start, ends_row }| {
            if column == 0 {
                row_start = start;
            }
            let known = recent.find(text);
            let value = known.or_else(|| {
                let Some(at) = self.at(column as i64, row) else {
                    let message = format!("{} reaches beyond the limits of cells", self.what);
                    reader.error(self.span(row_start, 1), message);
                    return None;
                };
                let cell = self.cells.cell(at);
                Some(self.field(reader, text, (cell, start), spelled, &mut recent))
            })?;
            values.push(value);
            column += 1;
            if !ends_row && values.len() < PART {
                return Some(());
            }
            let what = self.what;
            let Some(left) = cells_left.checked_sub(values.len() as u64) else {
                let message = format!("{what} brings the map beyond the limit of cells");
                reader.error(self.span(row_start, 1), message);
                return None;
            };
            cells_left = left;
            let (first, last) = (self.at(part_start, row), self.at(column as i64 - 1, row));
            let (Some(first), Some(_)) = (first, last) else {
                let message = format!("{what} reaches beyond the limits of cells");
                reader.error(self.span(row_start, 1), message);
                return None;
            };
            sink(first, &values)?;
            values.clear();
            part_start = column as i64;
            if ends_row {
                let wanted = *width.get_or_insert(column);
                if column != wanted {
                    let message = format!("row {row} has {column} cells, but row 1 has {wanted}");
                    let hint = Some("give all rows the same number of fields");
                    reader.error_with_hint(self.span(row_start, 1), message, hint);
                }
                (row, column, part_start) = (row + 1, 0, 0);
            }
            Some(())
        });
        match ended {
            Ok(()) => {}
            Err(FieldError::Ended) => return None,
            Err(FieldError::OpenQuote(start)) => {
                let message = "the table: a field begins with a quote that is never closed";
                let hint = "close it, or write a quote within a field twice";
                reader.error_with_hint(self.span(start, 1), message, Some(hint));
                return None;
            }
        }
        let size = (width.unwrap_or(0), row.unsigned_abs() - 1);
        (reader.errors() == errors).then_some(size)
    }

    /// The place in a column from 0, and a row from 1.
    fn at(&self, column: i64, row: i64) -> Option<CellPos> {
        let corner = self.cells.corner();
        let place = (i64::from(corner.x()) + column, i64::from(corner.y()) + row - 1);
        let place = CellPos::checked(place.0, place.1)?;
        self.cells.checked_cell(place).map(|_| place)
    }

    /// What is wrong with the table as a whole, by its first two lines: semicolons for commas, or a
    /// heading.
    fn first_look(&self) -> Option<Oddity> {
        // A spreadsheet has lines of some length.
        const MAX: usize = 1 << 16;
        let lines = self.text.split(['\n', '\r']);
        let mut lines = lines.filter(|line| !line.trim().is_empty());
        let first = lines.next().filter(|line| line.len() <= MAX && !line.contains('"'))?;
        let start = first.as_ptr() as usize - self.text.as_ptr() as usize;
        let is_known = |field: &str| {
            let field = field.trim();
            let is_number = field.parse::<f64>().is_ok();
            is_number
                || field.contains('/')
                || field == CellNotation::EMPTY_WORD
                || self.legend.fields.contains_key(field)
        };
        let are_known = |line: &str, sign: char| {
            let mut fields = line.split(sign).filter(|field| !field.trim().is_empty()).peekable();
            fields.peek().is_some() && fields.all(is_known)
        };
        let second = lines.next().filter(|line| line.len() <= MAX);
        for (sign, name) in [(';', "semicolons"), ('\t', "tabs")] {
            let parted = |line: &str| line.contains(sign) && !line.contains(',');
            let is_blank = |line: &str| line.split(sign).all(|field| field.trim().is_empty());
            let fits = |line: &str| is_blank(line) || are_known(line, sign);
            if parted(first) && fits(first) && second.is_none_or(fits) {
                return Some(Oddity {
                    start: start + first.find(sign).unwrap_or_default(),
                    len: 1,
                    message: format!("{} has {name} between its fields", self.what()),
                    hint: "save it with commas: a table is comma-separated values",
                });
            }
        }
        let is_heading = |line: &str| {
            let mut fields = line.split(',');
            fields.all(|field| !field.trim().is_empty() && !is_known(field))
        };
        // Rows of nothing may come before the first that says anything.
        const ROWS: usize = 64;
        let mut below = second.into_iter().chain(lines.take(ROWS));
        let is_blank = |line: &str| line.split(',').all(|field| field.trim().is_empty());
        let is_followed =
            below.find(|line| !is_blank(line)).is_some_and(|line| are_known(line, ','));
        (is_heading(first) && is_followed).then(|| Oddity {
            start,
            len: first.len(),
            message: format!("{} begins with a heading", self.what()),
            hint: "take that row out: every row of a table is a row of cells",
        })
    }

    /// The table in words.
    fn what(&self) -> String {
        format!("the table of {}", self.what.trim_start_matches("`cells` of "))
    }

    /// What a field means, at a cell and at a place of the text.
    fn field<S: Spelled<Value = V>>(
        &self,
        reader: &mut Reader<'_, '_>,
        field: &str,
        (cell, place): (CellPos, usize),
        spelled: &mut S,
        recent: &mut Recent<V>,
    ) -> V {
        let text = field.trim();
        let value = if text.is_empty() {
            Some(V::default())
        } else if let Some(&known) = self.legend.fields.get(text) {
            Some(known)
        } else if let Some(whole) = whole_of_fraction(text) {
            // A spreadsheet writes all numbers so, or none: one of them is enough.
            if !self.has_told.replace(true) {
                let span = self.span(place, field.len().max(1));
                let hint = format!("write {whole}: a table has whole numbers");
                reader.error_at_cell(span, cell, format!("`{text}` is not a whole number"), hint);
            }
            None
        } else {
            spelled.field(reader, self.span(place, field.len().max(1)), cell, text)
        };
        if let Some(value) = value {
            recent.keep(field, value);
        }
        value.unwrap_or_default()
    }
}

/// What short fields meant before, each kept in the place of its hash.
struct Recent<V> {
    kept: Vec<(u64, V)>,
}

impl<V: Copy + Default> Recent<V> {
    const KEPT: usize = 256;

    fn new() -> Recent<V> {
        // No key is all ones: a key has its length, at most 7, in its highest byte.
        Recent { kept: vec![(u64::MAX, V::default()); Self::KEPT] }
    }

    /// The bytes of a field and their number; longer ones have no key.
    fn key(field: &str) -> Option<u64> {
        let bytes = field.as_bytes();
        if bytes.len() > 7 {
            return None;
        }
        let packed = bytes.iter().fold(0_u64, |key, &byte| key << 8 | u64::from(byte));
        Some(packed | (bytes.len() as u64) << 56)
    }

    fn slot(key: u64) -> usize {
        (key.wrapping_mul(0x9e37_79b9_7f4a_7c15) >> 56) as usize
    }

    fn find(&self, field: &str) -> Option<V> {
        let key = Self::key(field)?;
        let (held, value) = self.kept[Self::slot(key)];
        (held == key).then_some(value)
    }

    fn keep(&mut self, field: &str, value: V) {
        if let Some(key) = Self::key(field) {
            self.kept[Self::slot(key)] = (key, value);
        }
    }
}
