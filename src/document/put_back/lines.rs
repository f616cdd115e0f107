//! Lines and fields that change in a text of rows or a table, and those by which it grows.

use std::collections::BTreeMap;

use serde_json::Value;

use super::patch::{Patcher, Patches};
use crate::document::syntax::{Node, Span, each_field};
use crate::document::write::Laid;
use crate::tile::{CellNotation, NumberedTiles};
use crate::units::{CellPos, CellRect};

/// How much a grid grows on each side.
#[derive(Clone, Copy)]
pub(super) struct Grown {
    pub(super) before: CellRect,
    pub(super) rect: CellRect,
    pub(super) left: u32,
    pub(super) top: u32,
    pub(super) right: u32,
}

impl Grown {
    pub(super) fn of(before: CellRect, rect: CellRect) -> Grown {
        // A grid without cells lies wherever its first cell comes to be.
        let (left, top, right) = match before.is_empty() {
            true => (0, 0, rect.width()),
            false => (
                before.left().abs_diff(rect.left()),
                before.top().abs_diff(rect.top()),
                before.right().abs_diff(rect.right()),
            ),
        };
        Grown { before, rect, left, top, right }
    }

    pub(super) fn is_any(self) -> bool {
        self.before != self.rect
    }

    /// The lines of the rows that are new.
    pub(super) fn new_lines(self, line: impl Fn(i64) -> String) -> NewLines {
        let (top, height) = (i64::from(self.top), i64::from(self.before.height()));
        let above = (0..top).map(&line).collect();
        let below = (top + height..i64::from(self.rect.height())).map(&line).collect();
        NewLines { above, below }
    }

    /// The column and row of a cell.
    pub(super) fn place(self, cell: CellPos) -> (i64, i64) {
        let from = |at: i32, first: i32| i64::from(at) - i64::from(first);
        (from(cell.x(), self.rect.left()), from(cell.y(), self.rect.top()))
    }
}

/// Lines that come before and behind those of a grid.
pub(super) struct NewLines {
    above: Vec<String>,
    below: Vec<String>,
}

impl NewLines {
    /// Gives a text with some of its lines changed, and with the new ones. Ends of lines stay as they are.
    pub(super) fn in_text(
        &self,
        text: &str,
        mut change: impl FnMut(usize, &str) -> Option<String>,
    ) -> String {
        let end = if text.contains("\r\n") { "\r\n" } else { "\n" };
        let (mark, body) = match text.strip_prefix('\u{feff}') {
            Some(body) => ("\u{feff}", body),
            None => ("", text),
        };
        let mut out = mark.to_owned();
        for line in &self.above {
            out.extend([line.as_str(), end]);
        }
        let mut is_open = false;
        for (at, whole) in body.split_inclusive('\n').enumerate() {
            let line = whole.strip_suffix('\n').unwrap_or(whole);
            let line = line.strip_suffix('\r').unwrap_or(line);
            let rest = &whole[line.len()..];
            match change(at, line) {
                Some(new) => out.extend([new.as_str(), rest]),
                None => out.push_str(whole),
            }
            is_open = rest.is_empty();
        }
        for line in &self.below {
            if std::mem::replace(&mut is_open, false) {
                out.push_str(end);
            }
            out.extend([line.as_str(), end]);
        }
        out
    }

    /// Changes lines in a list of texts of the document, and adds the new ones.
    pub(super) fn in_list<'a>(
        &self,
        patcher: &mut Patcher<'a>,
        list: Node<'a>,
        mut change: impl FnMut(usize, &str) -> Option<String>,
    ) {
        let items = list.items().unwrap_or_default();
        for (at, item) in items.iter().enumerate() {
            let line = item.text().unwrap_or_default();
            if let Some(new) = change(at, &line) {
                patcher.patches.replace(item.span(), Value::from(new).to_string());
            }
        }
        if items.is_empty() {
            let lines = self.above.iter().chain(&self.below).cloned().collect();
            return patcher.set(list, "rows", &Laid::texts(lines));
        }
        for line in &self.above {
            patcher.add_item(list, None, &Value::from(&**line).into());
        }
        for line in &self.below {
            patcher.add_item(list, Some(items.len() - 1), &Value::from(&**line).into());
        }
    }
}

/// Where the fields of a table stand in its text, without the blanks around them.
pub(crate) struct Table {
    pub(super) rows: Vec<Vec<Span>>,
    /// The number of an empty cell, where a field has it.
    pub(super) empty: Option<i64>,
}

impl Table {
    pub(super) fn of(text: &str, numbers: Option<&NumberedTiles>) -> Option<Table> {
        let body = text.strip_prefix('\u{feff}').unwrap_or(text);
        let begin = text.len() - body.len();
        let mut rows: Vec<Vec<Span>> = vec![Vec::new()];
        let mut empty = None;
        let read = each_field(body, |field| {
            let start = begin + field.start;
            let raw = raw_field(&text[start..]);
            let blanks = raw.len() - raw.trim_start().len();
            let number: Option<i64> = field.text.trim().parse().ok();
            empty = empty.or(number
                .filter(|number| numbers.is_some_and(|numbers| numbers.empty_number() == *number)));
            rows.last_mut()?.push(Span { start: start + blanks, len: raw.trim().len() });
            if field.ends_row {
                rows.push(Vec::new());
            }
            Some(())
        });
        rows.retain(|row| !row.is_empty());
        read.ok().map(|()| Table { rows, empty })
    }

    /// The text with changed fields, and with more of them on both sides of each row.
    pub(super) fn patched(&self, text: &str, changed: &ChangedRows, grown: Grown) -> String {
        let mut patches = Patches::default();
        let (left, top) = (i64::from(grown.left), i64::from(grown.top));
        for (row, at) in self.rows.iter().zip(top..) {
            let (Some(first), Some(last)) = (row.first(), row.last()) else { continue };
            let before: String = (0..left).map(|column| changed.field(at, column) + ",").collect();
            patches.insert(first.start, &before);
            for (span, column) in row.iter().zip(left..) {
                let Some(field) = changed.rows.get(&at).and_then(|row| row.get(&column)) else {
                    continue;
                };
                // A line of nothing at all would be no line to a reader of tables.
                let is_alone = row.len() == 1 && grown.left + grown.right == 0;
                let field = match field.is_empty() && is_alone {
                    true => CellNotation::EMPTY_WORD,
                    false => field,
                };
                match span.len {
                    0 => patches.insert(span.start, field),
                    _ => patches.replace(*span, field.to_owned()),
                }
            }
            let behind = left + row.len() as i64..i64::from(grown.rect.width());
            let behind: String =
                behind.map(|column| format!(",{}", changed.field(at, column))).collect();
            patches.insert(last.start + last.len, &behind);
        }
        patches.applied(text)
    }
}

/// The fields of a table that have changed, by row and column of what it grows to.
pub(super) struct ChangedRows {
    /// The field of an empty cell.
    pub(super) blank: String,
    pub(super) rows: BTreeMap<i64, BTreeMap<i64, String>>,
}

impl ChangedRows {
    /// Gives the text of a field that was not there.
    fn field(&self, row: i64, column: i64) -> String {
        let changed = self.rows.get(&row).and_then(|row| row.get(&column));
        changed.unwrap_or(&self.blank).clone()
    }

    /// A row that was not there.
    pub(super) fn line(&self, row: i64, width: u32) -> String {
        let fields: Vec<String> =
            (0..i64::from(width)).map(|column| self.field(row, column)).collect();
        let line = fields.join(",");
        if line.is_empty() { CellNotation::EMPTY_WORD.to_owned() } else { line }
    }
}

/// A field of a table as it is spelled, from its beginning on (RFC 4180).
fn raw_field(text: &str) -> &str {
    let bytes = text.as_bytes();
    let mut at = 0;
    if bytes.first() == Some(&b'"') {
        at = 1;
        while at < bytes.len() {
            match (bytes[at], bytes.get(at + 1)) {
                (b'"', Some(b'"')) => at += 2,
                (b'"', _) => break,
                _ => at += 1,
            }
        }
    }
    let end = bytes[at.min(bytes.len())..].iter();
    let end = end.take_while(|byte| !matches!(byte, b',' | b'\n' | b'\r')).count();
    &text[..at.min(bytes.len()) + end]
}
