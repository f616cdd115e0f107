//! Value layers in a document: rows of numbers as text.

use super::error::SaveError;
use super::layout::Laid;
use crate::document::limits::Limits;
use crate::plane::{Plane, RunValues, ValueKind};
use crate::quilt::ValueLayer;
use crate::units::{CellPos, CellRect};
use serde_json::json;
use std::fmt::Write;

/// The most values of a layer that are written as text.
const MAX_VALUES: u64 = 1 << 26;

/// Limits what the value layers of a map that is saved may take.
pub(super) struct Room {
    /// The values that are written already.
    pub(super) taken: u64,
    pub(super) limits: Limits,
}

/// A value layer as it is saved.
pub(crate) fn value(layer: &ValueLayer, room: &mut Room) -> Result<Laid, SaveError> {
    let (rect, name) = (layer.bounds(), || layer.name().to_owned());
    if rect.cell_count() > MAX_VALUES {
        return Err(SaveError::TooLargeForText { layer: name(), rect });
    }
    room.taken += rect.cell_count();
    if room.taken > room.limits.cells {
        let (count, most) = (room.taken, room.limits.cells);
        return Err(SaveError::TooManyCells { layer: name(), count, most });
    }
    let mut value: Vec<(String, Laid)> = vec![
        ("name".to_owned(), layer.name().into()),
        ("type".to_owned(), layer.kind().name().into()),
    ];
    if rect.corner() != CellPos::ORIGIN {
        value.push(("at".to_owned(), json!([rect.left(), rect.top()]).into()));
    }
    let most = room.limits.file_bytes;
    let rows = rows(layer, rect, most);
    let (rows, bytes) = rows.ok_or_else(|| SaveError::NotLoaded { layer: name() })?;
    if bytes > most {
        let what = format!("value layer `{}`", layer.name());
        return Err(SaveError::TooLargeFile { what, most });
    }
    value.push(("rows".to_owned(), Laid::texts(rows)));
    Ok(Laid::Object(value))
}

/// Each row as one text, and how many bytes they have, not all of them where these are too many;
/// `None` where a part is not loaded. The text of a number is the shortest that reads back as the
/// same one.
fn rows(layer: &ValueLayer, rect: CellRect, most_bytes: u64) -> Option<(Vec<String>, u64)> {
    let (mut rows, mut scratch, mut is_here) = (Vec::new(), Vec::new(), true);
    let mut bytes = 0;
    let words = Plane::<u32>::of_words(layer.words());
    for y in rect.top()..rect.bottom() {
        let mut text = String::new();
        let line = CellRect::new(CellPos::new(rect.left(), y), rect.width(), 1);
        words.read_runs(line, &mut scratch, |run| {
            is_here &= !matches!(run.values, RunValues::Absent(_));
            for (_, word) in run.each() {
                let space = if text.is_empty() { "" } else { " " };
                // Writing to a string does not fail.
                let _ = match layer.kind() {
                    ValueKind::U32 => write!(text, "{space}{word}"),
                    ValueKind::I32 => write!(text, "{space}{}", word.cast_signed()),
                    ValueKind::F32 => write!(text, "{space}{}", f32::from_bits(word)),
                };
            }
        });
        bytes += text.len() as u64;
        if bytes > most_bytes {
            break;
        }
        rows.push(text);
    }
    is_here.then_some((rows, bytes))
}
