//! The layout of JSON documents: pleasant to read, and stable, so that a small change of a map
//! is a small change of its text.

use crate::units::CellPos;
use serde_json::Value;
use serde_json::json;

/// Values that fit this many characters stand on one line.
const LINE: usize = 96;

/// A part of a document that is to be laid out.
#[derive(Clone, Debug)]
pub(crate) enum Laid {
    /// Anything small.
    Value(Value),
    /// An object whose entries stand on lines of their own.
    Object(Vec<(String, Laid)>),
    /// A list whose items stand on lines of their own.
    List(Vec<Laid>),
    /// A list of which each line is JSON already: one item, or several with commas between them.
    Lines(Vec<String>),
}

impl<V: Into<Value>> From<V> for Laid {
    fn from(value: V) -> Laid {
        Laid::Value(value.into())
    }
}

impl Laid {
    /// A list of texts, each on a line of its own.
    pub(crate) fn texts(texts: Vec<String>) -> Laid {
        Laid::Lines(texts.into_iter().map(|text| quoted(&text)).collect())
    }

    /// The same as a plain value.
    pub(super) fn into_value(self) -> Value {
        match self {
            Laid::Value(value) => value,
            Laid::Object(entries) => {
                let entries = entries.into_iter().map(|(key, laid)| (key, laid.into_value()));
                Value::Object(entries.collect())
            }
            Laid::List(items) => items.into_iter().map(Laid::into_value).collect(),
            Laid::Lines(lines) => {
                let text = format!("[{}]", lines.join(","));
                serde_json::from_str(&text).unwrap_or_default()
            }
        }
    }

    /// The document as text.
    pub(crate) fn text(&self) -> String {
        let mut out = String::new();
        self.lay("", 0, &mut out);
        out.push('\n');
        out
    }

    /// The value of a key as it stands in a line that is indented so far.
    pub(crate) fn text_at(&self, key: &str, indent: usize) -> String {
        let mut out = String::new();
        self.lay(key, indent, &mut out);
        out
    }

    fn lay(&self, key: &str, indent: usize, out: &mut String) {
        match self {
            Laid::Value(value) => lay(key, value, indent, out),
            Laid::Object(entries) => {
                let entries = entries.iter().map(|(key, value)| (Some(&**key), value));
                block(['{', '}'], entries, indent, out, |(key, value), indent, out| {
                    value.lay(key.unwrap_or_default(), indent, out);
                });
            }
            Laid::List(items) => {
                let items = items.iter().map(|item| (None, item));
                block(['[', ']'], items, indent, out, |(_, item), indent, out| {
                    item.lay("", indent, out);
                });
            }
            Laid::Lines(lines) => {
                let lines = lines.iter().map(|line| (None, line));
                block(['[', ']'], lines, indent, out, |(_, line), _, out| out.push_str(line));
            }
        }
    }
}

fn lay(key: &str, value: &Value, indent: usize, out: &mut String) {
    let line = one_line(value);
    let is_short = line.chars().count() + indent + key.len() <= LINE;
    // A legend entry or a mover stands on a line of its own, however short.
    if is_short && !matches!(key, "legend" | "movers") {
        out.push_str(&line);
        return;
    }
    match value {
        Value::Object(entries) => {
            let entries = entries.iter().map(|(key, value)| (Some(&**key), value));
            block(['{', '}'], entries, indent, out, |(key, value), indent, out| {
                lay(key.unwrap_or_default(), value, indent, out);
            });
        }
        Value::Array(items) => {
            let items = items.iter().map(|item| (None, item));
            block(['[', ']'], items, indent, out, |(_, item), indent, out| {
                lay("", item, indent, out);
            });
        }
        _ => out.push_str(&line),
    }
}

/// A list or an object, an item a line.
fn block<'i, T>(
    [open, close]: [char; 2],
    items: impl ExactSizeIterator<Item = (Option<&'i str>, T)>,
    indent: usize,
    out: &mut String,
    mut item: impl FnMut((Option<&'i str>, T), usize, &mut String),
) {
    let new_line = |indent: usize, out: &mut String| {
        out.push('\n');
        out.extend(std::iter::repeat_n(' ', indent));
    };
    let is_empty = items.len() == 0;
    out.push(open);
    for (index, (key, value)) in items.enumerate() {
        if index > 0 {
            out.push(',');
        }
        new_line(indent + 2, out);
        if let Some(key) = key {
            out.push_str(&quoted(key));
            out.push_str(": ");
        }
        item((key, value), indent + 2, out);
    }
    if !is_empty {
        new_line(indent, out);
    }
    out.push(close);
}

fn one_line(value: &Value) -> String {
    match value {
        Value::Array(items) => {
            let items: Vec<String> = items.iter().map(one_line).collect();
            format!("[{}]", items.join(", "))
        }
        Value::Object(entries) if entries.is_empty() => "{}".to_owned(),
        Value::Object(entries) => {
            let entries: Vec<String> = entries
                .iter()
                .map(|(key, value)| format!("{}: {}", quoted(key), one_line(value)))
                .collect();
            format!("{{ {} }}", entries.join(", "))
        }
        _ => value.to_string(),
    }
}

fn quoted(text: &str) -> String {
    Value::from(text).to_string()
}

/// A number without a fraction where it has none.
pub(crate) fn number(value: f64) -> Value {
    // Whole numbers up to 2⁵³ are the same as integers.
    if value.fract() == 0.0 && value.abs() < 9e15 { (value as i64).into() } else { value.into() }
}

pub(super) fn cell_value(cell: CellPos) -> Value {
    json!([cell.x(), cell.y()])
}
