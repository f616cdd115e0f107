//! How JSON documents are laid out: pleasant to read, and stable, so that a small change of a map
//! is a small change of its text.

use serde_json::Value;

/// Values that fit this many characters stand on one line.
const LINE: usize = 96;

/// A document as text.
pub(super) fn laid_out(document: &Value) -> String {
    let mut out = String::new();
    broken(document, 0, &mut out);
    out.push('\n');
    out
}

fn lay(key: &str, value: &Value, indent: usize, out: &mut String) {
    let line = one_line(value);
    let is_short = line.chars().count() + indent + key.len() <= LINE;
    // A row of cells, a legend entry or a layer stands on a line of its own, however short.
    if is_short && !holds_rows(value) && !matches!(key, "rows" | "legend" | "layers" | "movers") {
        out.push_str(&line);
    } else {
        broken(value, indent, out);
    }
}

fn broken(value: &Value, indent: usize, out: &mut String) {
    let inner = indent + 2;
    match value {
        Value::Object(entries) if !entries.is_empty() => {
            out.push('{');
            for (index, (key, value)) in entries.iter().enumerate() {
                new_line(index, inner, out);
                out.push_str(&quoted(key));
                out.push_str(": ");
                lay(key, value, inner, out);
            }
            close('}', indent, out);
        }
        Value::Array(items) if !items.is_empty() => {
            out.push('[');
            for (index, item) in items.iter().enumerate() {
                new_line(index, inner, out);
                lay("", item, inner, out);
            }
            close(']', indent, out);
        }
        _ => out.push_str(&one_line(value)),
    }
}

fn new_line(index: usize, indent: usize, out: &mut String) {
    if index > 0 {
        out.push(',');
    }
    out.push('\n');
    out.extend(std::iter::repeat_n(' ', indent));
}

fn close(bracket: char, indent: usize, out: &mut String) {
    out.push('\n');
    out.extend(std::iter::repeat_n(' ', indent));
    out.push(bracket);
}

fn holds_rows(value: &Value) -> bool {
    match value {
        Value::Object(entries) => entries.contains_key("rows") || entries.contains_key("cells"),
        _ => false,
    }
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
