//! Rows of characters with a legend, in the document or in a text file.

use std::borrow::Cow;

use indexmap::IndexMap;
use rustc_hash::FxHashMap;

use super::grid::{Grid, Sink, translate};
use super::legend::Legend;
use crate::document::syntax::{Node, Reader, Span};
use crate::units::{CellOffset, CellPos, CellRect, GridCells};

/// One row with its place in its document.
struct Row<'a> {
    text: Cow<'a, str>,
    place: Place,
}

enum Place {
    /// Where its first character stands.
    From(usize),
    /// Where it stands as a whole, spelled with escapes.
    Within(Span),
}

impl Row<'_> {
    fn span(&self) -> Span {
        match self.place {
            Place::From(start) => Span { start, len: self.text.len().max(1) },
            Place::Within(span) => span,
        }
    }

    /// Where the character at a byte of the text stands.
    fn span_at(&self, byte: usize) -> Span {
        match self.place {
            Place::From(start) => {
                let len = self.text[byte..].chars().next().map_or(1, char::len_utf8);
                Span { start: start + byte, len }
            }
            Place::Within(span) => span,
        }
    }
}

/// The rows of a grid, which can be gone through several times.
enum Rows<'a, 't> {
    /// Texts of the document.
    Inline(&'t [Node<'a>]),
    /// The lines of a file; the end of the last line begins no other one.
    Lines(&'t str),
}

impl Rows<'_, '_> {
    fn each(&self) -> Box<dyn Iterator<Item = Row<'_>> + '_> {
        match self {
            Rows::Inline(items) => Box::new(items.iter().filter_map(|item| {
                let (text, span) = (item.text()?, item.span());
                let is_plain = span.len == text.len() + 2;
                let place =
                    if is_plain { Place::From(span.start + 1) } else { Place::Within(span) };
                Some(Row { text, place })
            })),
            Rows::Lines(text) => Box::new(text.lines().map(|line| {
                let start = line.as_ptr() as usize - text.as_ptr() as usize;
                Row { text: line.into(), place: Place::From(start) }
            })),
        }
    }
}

/// Reads the rows of a grid; gives the rectangle that they span.
pub(crate) fn read<'a, V: Copy + Default>(
    reader: &mut Reader<'a, '_>,
    grid: &mut Grid<'_, 'a, '_, '_>,
    legend: &Legend<V>,
    sink: &mut Sink<'_, V>,
) -> Option<CellRect> {
    let node = reader.required(grid.fields, "rows")?;
    if !node.is_text() {
        let items = reader.items(node, "`rows`")?;
        for item in &items {
            reader.text(*item, "a row of cells")?;
        }
        let rows = Rows::Inline(&items);
        let Some(size) = measured(reader, &rows) else {
            find_unknown(reader, &rows, grid, legend);
            return None;
        };
        let rect = grid.admit(reader, size)?;
        return spelled_out(reader, &rows, (grid.what, grid.cells), legend, rect, sink);
    }
    let (label, text) = grid.source.text_file(reader, node)?;
    let rows = Rows::Lines(&text);
    let mut in_file = Reader::of_text(&text, &label, reader.problems());
    let Some(size) = measured(&mut in_file, &rows) else {
        find_unknown(&mut in_file, &rows, grid, legend);
        return None;
    };
    let rect = grid.admit(reader, size)?;
    let mut reader = Reader::of_text(&text, &label, reader.problems());
    spelled_out(&mut reader, &rows, (grid.what, grid.cells), legend, rect, sink)
}

/// Notes the characters that the legend does not know, of rows that are wrong for another reason.
fn find_unknown<V: Copy + Default>(
    reader: &mut Reader<'_, '_>,
    rows: &Rows<'_, '_>,
    grid: &Grid<'_, '_, '_, '_>,
    legend: &Legend<V>,
) {
    let height = u32::try_from(rows.each().count()).unwrap_or(u32::MAX);
    let rect = CellRect::new(grid.cells.corner(), 1, height);
    spelled_out(reader, rows, (grid.what, grid.cells), legend, rect, &mut |_, _| Some(()));
}

/// Columns and rows, once all rows are known to be of one length.
fn measured(reader: &mut Reader<'_, '_>, rows: &Rows<'_, '_>) -> Option<(u64, u64)> {
    let length = |row: &Row<'_>| match row.text.is_ascii() {
        true => row.text.len(),
        false => row.text.chars().count(),
    };
    let Some(width) = rows.each().next().map(|row| length(&row)) else { return Some((0, 0)) };
    let (mut is_even, mut count) = (true, 0);
    for (row, number) in rows.each().zip(1..) {
        count = number;
        let found = length(&row);
        if found != width {
            is_even = false;
            let span = row.span();
            let message = format!("row {number} has {found} cells, but row 1 has {width}");
            let hint = if found < width {
                format!("add {}; a space is an empty cell", characters(width - found))
            } else {
                format!("take {} away, or lengthen the other rows", characters(found - width))
            };
            reader.error_with_hint(span, message, Some(hint));
        }
    }
    is_even.then_some((width as u64, count))
}

fn characters(count: usize) -> String {
    if count == 1 { "1 character".to_owned() } else { format!("{count} characters") }
}

/// A character that the legend does not know.
struct Unknown {
    /// Where it stands first.
    span: Span,
    cell: CellPos,
    count: usize,
}

impl Unknown {
    /// Makes the entry of a character where it stands first, not counted yet.
    fn first(character: char, row: &Row<'_>, start: CellPos, column: usize) -> Unknown {
        let byte = row.text.char_indices().nth(column).map_or(0, |(byte, _)| byte);
        debug_assert!(row.text[byte..].starts_with(character));
        let cell = start.saturating_add(CellOffset::new(column as i32, 0));
        Unknown { span: row.span_at(byte), cell, count: 0 }
    }
}

/// Looks characters up: those of ASCII by their number.
struct Characters<V> {
    plain: [Option<V>; 128],
    others: FxHashMap<char, V>,
}

impl<V: Copy + Default> Characters<V> {
    fn new(legend: &Legend<V>) -> Characters<V> {
        let mut plain = [None; 128];
        plain[usize::from(b' ')] = Some(V::default());
        let mut others = FxHashMap::default();
        for &(character, value) in &legend.characters {
            match plain.get_mut(character as usize) {
                Some(known) => *known = Some(value),
                None => drop(others.insert(character, value)),
            }
        }
        Characters { plain, others }
    }

    fn find(&self, character: char) -> Option<V> {
        match self.plain.get(character as usize) {
            Some(known) => *known,
            None => self.others.get(&character).copied(),
        }
    }
}

/// Of so many unknown characters the place is found, which costs a walk through their row; of others
/// the row is told.
const MAX_PLACES: usize = 1000;
/// So many cells are turned into values at a time, so that a wide row takes no memory.
const PART: usize = 1 << 16;

/// Turns rows of characters into values.
fn spelled_out<V: Copy + Default>(
    reader: &mut Reader<'_, '_>,
    rows: &Rows<'_, '_>,
    (what, cells): (&str, GridCells),
    legend: &Legend<V>,
    rect: CellRect,
    sink: &mut Sink<'_, V>,
) -> Option<CellRect> {
    let known = Characters::new(legend);
    let mut unknown: IndexMap<char, Unknown> = IndexMap::new();
    let (mut others, mut values) = (Vec::new(), Vec::new());
    for (row, y) in rows.each().zip(rect.top()..rect.bottom()) {
        let start = CellPos::new(rect.left(), y);
        let mut meaning = |character, column, count| {
            known.find(character).unwrap_or_else(|| {
                let is_much = unknown.len() >= MAX_PLACES;
                let first = || match is_much {
                    true => Unknown { span: row.span(), cell: start, count: 0 },
                    false => Unknown::first(character, &row, start, column),
                };
                unknown.entry(character).or_insert_with(first).count += count;
                V::default()
            })
        };
        let at = |column: usize| start.saturating_add(CellOffset::new(column as i32, 0));
        if row.text.is_ascii() {
            for (bytes, from) in row.text.as_bytes().chunks(PART).zip((0..).step_by(PART)) {
                translate(bytes, &mut values, |byte, at, count| {
                    meaning(char::from(byte), from + at, count)
                });
                sink(at(from), &values)?;
            }
            continue;
        }
        let (mut rest, mut from) = (row.text.chars(), 0);
        loop {
            others.clear();
            others.extend(rest.by_ref().take(PART));
            if others.is_empty() {
                break;
            }
            translate(&others, &mut values, |character, at, count| {
                meaning(character, from + at, count)
            });
            sink(at(from), &values)?;
            from += others.len();
        }
    }
    let is_known = unknown.is_empty();
    let what = what.trim_start_matches("`cells` of ");
    for (character, Unknown { span, cell, count }) in unknown {
        let cell = cells.cell(cell);
        let more = match count {
            1 => String::new(),
            _ => format!(" (and {} more of it)", count - 1),
        };
        let message = format!("the legend of {what} does not know `{character}` at {cell}{more}");
        let hint = format!("add \"{character}\" to the legend, or correct the row");
        reader.error_at_cell(span, cell, message, hint);
    }
    is_known.then_some(rect)
}
