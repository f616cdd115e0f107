//! Motifs as text: JSON that a person can read, and another program of the game can paste.
//!
//! docs/format.md tells the format.

use std::collections::BTreeMap;
use std::sync::Arc;

use indexmap::IndexMap;
use serde::{Deserialize, Serialize};
use serde_json::Value;

use super::Motif;
use super::motif::number_of;
use crate::cell_set::CellSet;
use crate::plane::{Plane, PlaneValue, ValueKind, Words};
use crate::tile::{Cell, CellNotation, CellNotationError};
use crate::units::CellPos;

const FORMAT: &str = "sturdy-quilt/motif";
const VERSION: u64 = 1;

/// The error of a text that is not a motif.
#[derive(Debug, thiserror::Error)]
#[non_exhaustive]
pub enum MotifTextError {
    /// The text is not JSON, or lacks what a motif has.
    #[error("not the text of a motif")]
    Json(#[from] serde_json::Error),
    /// The text is that of something else.
    #[error("expected the format `{FORMAT}`, found `{0}`")]
    Format(String),
    /// The text was written by a later version of the library.
    #[error("version {0} of a motif is newer than the newest known one, {VERSION}")]
    Version(u64),
    /// Two layers have one name.
    #[error("two layers have the name `{0}`")]
    Twice(String),
    /// The first row or column of a layer has no cell.
    #[error("layer `{layer}`: the first row and the first column must each have a cell")]
    Corner {
        /// The layer.
        layer: String,
    },
    /// A layer has other rows than the first.
    #[error("layer `{layer}`: row {row} spans other cells than in the first layer")]
    Shape {
        /// The layer.
        layer: String,
        /// The row, from 0.
        row: usize,
    },
    /// A key of a legend is not a single character, or it is the space.
    #[error("layer `{layer}`: the legend has `{key}`, expected a single character, not a space")]
    Key {
        /// The layer.
        layer: String,
        /// The key.
        key: String,
    },
    /// A character of a legend does not stand for a cell.
    #[error("layer `{layer}`: `{character}` does not stand for a cell")]
    Cell {
        /// The layer.
        layer: String,
        /// The character.
        character: String,
        /// What is wrong.
        #[source]
        source: CellNotationError,
    },
    /// A row has a character that the legend does not know.
    #[error(
        "layer `{layer}`: the legend does not know `{character}` of row {row}, column {column}"
    )]
    Character {
        /// The layer.
        layer: String,
        /// The row, from 0.
        row: usize,
        /// The column, from 0.
        column: usize,
        /// The character.
        character: char,
    },
    /// A value is not one of its kind.
    #[error("value layer `{layer}`: row {row}, column {column} is not a value of kind {kind}")]
    Value {
        /// The value layer.
        layer: String,
        /// The row, from 0.
        row: usize,
        /// The column, from 0.
        column: usize,
        /// The kind.
        kind: &'static str,
    },
    /// The kind of a value layer is unknown.
    #[error("value layer `{layer}`: the kind `{kind}` is unknown; expected u32, i32 or f32")]
    Kind {
        /// The value layer.
        layer: String,
        /// The kind.
        kind: String,
    },
    /// A motif has too many columns or rows, or too many different cells.
    #[error("a motif can have at most {most} {what}")]
    TooMany {
        /// Of what.
        what: &'static str,
        /// How many it can have.
        most: u64,
    },
}

#[derive(Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
struct Text {
    format: String,
    version: u64,
    layers: Vec<LayerText>,
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    values: Vec<ValuesText>,
}

#[derive(Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
struct LayerText {
    name: String,
    cells: RowsText,
}

/// What each character stands for, with nothing for the empty cell; a space is a cell that the motif does
/// not have.
#[derive(Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
struct RowsText {
    legend: IndexMap<String, Option<String>>,
    rows: Vec<String>,
}

#[derive(Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
struct ValuesText {
    name: String,
    kind: String,
    /// Numbers; the bits of one that is not finite as text, and nothing for a cell that the motif does not
    /// have.
    rows: Vec<Vec<Value>>,
}

/// The characters that a legend takes first.
const PREFERRED: &str =
    "#=~^:*+oxabcdefghijklmnpqrstuvwyzABCDEFGHIJKLMNOPQRSTUVWXYZ0123456789%&@$!?<>/|-_;,'`(){}[]";

/// How a legend spells the empty cell.
const EMPTY: char = '.';

/// The most columns and rows that a text may have.
const MOST_SIDE: u64 = 1 << 20;

impl Motif {
    /// Returns this motif as text, for a clipboard: JSON with rows of characters, a layer after the other.
    ///
    /// # Errors
    /// A motif of more than 2²⁰ columns or rows, or with more than 50,000 different cells.
    ///
    /// ```
    /// use sturdy_quilt::edit::Motif;
    /// use sturdy_quilt::{CellPos, CellSet};
    /// # let quilt = sturdy_quilt::doc_quilt();
    ///
    /// let cells = CellSet::stroke([(1, 0), (2, 0), (3, 1)].map(|(x, y)| CellPos::new(x, y)))?;
    /// let motif = Motif::of(&quilt, "soil", &cells)?;
    /// let text = motif.to_text()?;
    /// assert!(text.contains(r##""rows": ["#= ","  #"]"##), "{text}");
    /// assert_eq!(Motif::from_text(&text)?, motif);
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    pub fn to_text(&self) -> Result<String, MotifTextError> {
        let (width, height) = self.size();
        if u64::from(width.max(height)) > MOST_SIDE {
            return Err(MotifTextError::TooMany { what: "columns and rows", most: MOST_SIDE });
        }
        let mut text =
            format!("{{\n  \"format\": {FORMAT:?}, \"version\": {VERSION},\n  \"layers\": [");
        for (number, (name, plane)) in self.layers.iter().enumerate() {
            let rows = self.rows_of(plane)?;
            let comma = if number > 0 { "," } else { "" };
            let name = serde_json::to_string(&**name)?;
            let legend = serde_json::to_string(&rows.legend)?;
            let rows = serde_json::to_string(&rows.rows)?;
            text += &format!(
                "{comma}\n    {{ \"name\": {name}, \"cells\": {{ \"legend\": {legend},\n      \"rows\": {rows} }} }}"
            );
        }
        text += "\n  ]";
        if !self.values.is_empty() {
            let mut values = Vec::new();
            for (name, kind, words) in &self.values {
                values.push(self.values_of(name, *kind, words));
            }
            text += &format!(",\n  \"values\": {}", serde_json::to_string(&values)?);
        }
        text += "\n}\n";
        Ok(text)
    }

    fn rows_of(&self, plane: &Plane<Cell>) -> Result<RowsText, MotifTextError> {
        let mut characters: BTreeMap<u32, char> = BTreeMap::new();
        let mut legend = IndexMap::new();
        let preferred = PREFERRED.chars();
        let more = ('\u{a1}'..='\u{d7ff}').filter(|c| c.is_alphanumeric());
        let mut free = preferred.chain(more);
        let mut rows = Vec::new();
        for y in 0..self.size().1 as i32 {
            let mut row = String::new();
            for x in 0..self.size().0 as i32 {
                let at = CellPos::new(x, y);
                if !self.cells.contains(at) {
                    row.push(' ');
                    continue;
                }
                let cell = plane.get(at).here().unwrap_or_default();
                let character = match characters.get(&cell.to_bits()) {
                    Some(character) => *character,
                    None => {
                        let notation = self.notation_of(cell);
                        let new = if cell.is_empty() { Some(EMPTY) } else { free.next() };
                        let most = 50_000;
                        let new = new.filter(|_| characters.len() < most as usize);
                        let what = "different cells";
                        let new = new.ok_or(MotifTextError::TooMany { what, most })?;
                        legend.insert(new.to_string(), notation);
                        *characters.entry(cell.to_bits()).or_insert(new)
                    }
                };
                row.push(character);
            }
            rows.push(row);
        }
        Ok(RowsText { legend, rows })
    }

    fn notation_of(&self, cell: Cell) -> Option<String> {
        let name = self.name_of(cell)?.clone();
        let (turn, raise, palette) = (cell.turn(), cell.is_raised(), cell.palette());
        Some(CellNotation::Tile { name, turn, raise, palette }.to_string())
    }

    fn values_of(&self, name: &str, kind: ValueKind, words: &Words) -> ValuesText {
        let (width, height) = self.size();
        let value = |at: CellPos| {
            if !self.cells.contains(at) {
                return Value::Null;
            }
            let bits = words.get(at).here().unwrap_or_default();
            match kind {
                ValueKind::U32 => bits.into(),
                ValueKind::I32 => bits.cast_signed().into(),
                ValueKind::F32 if f32::from_bits(bits).is_finite() => f32::from_bits(bits).into(),
                ValueKind::F32 => format!("{bits:#010x}").into(),
            }
        };
        let row = |y: i32| (0..width as i32).map(|x| value(CellPos::new(x, y))).collect();
        let rows = (0..height as i32).map(row).collect();
        ValuesText { name: name.to_owned(), kind: kind.name().to_owned(), rows }
    }

    /// Reads a motif from [text](Motif::to_text). Which tiles there are does not matter: they are looked
    /// for when the motif is put down, and those that a map does not have are shown by a placeholder there.
    ///
    /// # Errors
    /// A text that is not a motif, or one of a later version; layers whose rows span other cells; a
    /// character that the legend does not know, or that does not stand for a cell; values that are not of
    /// their kind.
    pub fn from_text(text: &str) -> Result<Motif, MotifTextError> {
        let text: Text = serde_json::from_str(text)?;
        if text.format != FORMAT {
            return Err(MotifTextError::Format(text.format));
        }
        if text.version > VERSION {
            return Err(MotifTextError::Version(text.version));
        }
        let mut motif = Motif {
            cells: CellSet::new(),
            names: Vec::new(),
            layers: Vec::new(),
            values: Vec::new(),
        };
        for (number, layer) in text.layers.into_iter().enumerate() {
            if motif.layers().any(|name| name == layer.name) {
                return Err(MotifTextError::Twice(layer.name));
            }
            motif.read_layer(layer, number == 0)?;
        }
        for layer in text.values {
            if motif.value_layers().any(|name| name == layer.name) {
                return Err(MotifTextError::Twice(layer.name));
            }
            motif.read_values(layer)?;
        }
        Ok(motif)
    }

    fn read_layer(&mut self, layer: LayerText, is_first: bool) -> Result<(), MotifTextError> {
        let LayerText { name, cells: RowsText { legend, rows } } = layer;
        let mut known: BTreeMap<char, Cell> = BTreeMap::new();
        for (key, text) in legend {
            let mut characters = key.chars();
            let character = match (characters.next(), characters.next()) {
                (Some(character), None) if character != ' ' => character,
                _ => return Err(MotifTextError::Key { layer: name, key }),
            };
            let notation = text.as_deref().map_or(Ok(CellNotation::Empty), str::parse);
            let cell = match notation {
                Ok(notation) => self.cell_of(notation),
                Err(source) => {
                    return Err(MotifTextError::Cell { layer: name, character: key, source });
                }
            };
            known.insert(character, cell);
        }
        let mut found = Vec::new();
        for (row, text) in rows.iter().enumerate() {
            for (column, character) in text.chars().enumerate().filter(|(_, c)| *c != ' ') {
                let Some(cell) = known.get(&character) else {
                    return Err(MotifTextError::Character { layer: name, row, column, character });
                };
                found.push((place(column, row)?, *cell));
            }
        }
        self.take_shape(found.iter().map(|(at, _)| *at), is_first, &name)?;
        self.layers.push((Arc::from(name), written(&found)));
        Ok(())
    }

    fn read_values(&mut self, layer: ValuesText) -> Result<(), MotifTextError> {
        let ValuesText { name, kind, rows } = layer;
        let kinds = [ValueKind::U32, ValueKind::I32, ValueKind::F32];
        let Some(kind) = kinds.into_iter().find(|known| known.name() == kind) else {
            return Err(MotifTextError::Kind { layer: name, kind });
        };
        let mut found = Vec::new();
        for (row, values) in rows.iter().enumerate() {
            for (column, value) in values.iter().enumerate().filter(|(_, value)| !value.is_null()) {
                let Some(bits) = bits_of(value, kind) else {
                    let kind = kind.name();
                    return Err(MotifTextError::Value { layer: name, row, column, kind });
                };
                found.push((place(column, row)?, bits));
            }
        }
        let is_first = self.layers.is_empty() && self.values.is_empty();
        self.take_shape(found.iter().map(|(at, _)| *at), is_first, &name)?;
        self.values.push((Arc::from(name), kind, written(&found).into_words()));
        Ok(())
    }

    /// Takes over the cells of the first layer, and checks that all others have the same.
    fn take_shape(
        &mut self,
        cells: impl Iterator<Item = CellPos>,
        is_first: bool,
        layer: &str,
    ) -> Result<(), MotifTextError> {
        let cells: CellSet = cells.collect();
        if is_first {
            if cells.bounds().corner() != CellPos::ORIGIN {
                return Err(MotifTextError::Corner { layer: layer.to_owned() });
            }
            self.cells = cells;
        } else if let Some(first) = (&self.cells ^ &cells).iter().next() {
            let row = first.y().unsigned_abs() as usize;
            return Err(MotifTextError::Shape { layer: layer.to_owned(), row });
        }
        Ok(())
    }

    fn cell_of(&mut self, notation: CellNotation) -> Cell {
        let CellNotation::Tile { name, turn, raise, palette } = notation else {
            return Cell::EMPTY;
        };
        let number = number_of(&mut self.names, Some(&name));
        let cell = number.map_or(Cell::EMPTY, Cell::of_number).with_turn(turn).with_raised(raise);
        cell.with_slot(palette).unwrap_or(cell)
    }
}

fn place(column: usize, row: usize) -> Result<CellPos, MotifTextError> {
    let most = MOST_SIDE as usize;
    if column >= most || row >= most {
        return Err(MotifTextError::TooMany { what: "columns and rows", most: MOST_SIDE });
    }
    Ok(CellPos::new(column as i32, row as i32))
}

fn written<V: PlaneValue>(found: &[(CellPos, V)]) -> Plane<V> {
    let mut plane = Plane::new();
    let mut writer = plane.writer();
    for (at, value) in found {
        let set = writer.set(*at, *value);
        debug_assert!(set.is_ok(), "a motif is never unloaded");
    }
    drop(writer);
    plane
}

/// The bits of a value of a kind.
fn bits_of(value: &Value, kind: ValueKind) -> Option<u32> {
    match (kind, value) {
        (ValueKind::U32, value) => u32::try_from(value.as_u64()?).ok(),
        (ValueKind::I32, value) => Some(i32::try_from(value.as_i64()?).ok()?.cast_unsigned()),
        (ValueKind::F32, Value::String(text)) => {
            u32::from_str_radix(text.strip_prefix("0x")?, 16).ok()
        }
        (ValueKind::F32, value) => {
            let value = value.as_f64()? as f32;
            value.is_finite().then_some(value.to_bits())
        }
    }
}
