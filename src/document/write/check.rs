//! A check that what is written can be loaded again.

use serde_json::Value;

use super::error::SaveError;
use crate::document::syntax::Tree;
/// Checks that a document, and each of the values that the game keeps in it, have no more values than
/// a load allows.
pub(super) fn check_values<'a>(
    document: &str,
    data: impl Iterator<Item = &'a Value>,
    most: u64,
) -> Result<(), SaveError> {
    let in_data = data.map(count_of_values).max().unwrap_or(0);
    // A value and what parts it from the next take two bytes.
    let in_document = if document.len() as u64 / 2 < most {
        0
    } else {
        Tree::of(document, u64::MAX).map_or(0, |tree| tree.count())
    };
    let counted = [("JSON values in one `data`", in_data), ("JSON values", in_document)];
    match counted.into_iter().find(|(_, count)| *count > most) {
        Some((what, count)) => Err(SaveError::TooMany { what, count, most }),
        None => Ok(()),
    }
}

/// How many values a value is: itself, and all that it holds.
fn count_of_values(value: &Value) -> u64 {
    match value {
        Value::Array(values) => 1 + values.iter().map(count_of_values).sum::<u64>(),
        Value::Object(entries) => 1 + entries.values().map(count_of_values).sum::<u64>(),
        _ => 1,
    }
}
