//! Reading one cell, as legends and tables spell it.

use super::reader::Reader;
use super::tree::{Node, Span};
use crate::near::{did_you_mean, near_names};
use crate::quilt::Quilt;
use crate::tile::{Cell, CellNotation, CellNotationError, TileName, Turn};

/// A cell in any of its spellings: `null`, its notation, or spelled out as an object.
pub(super) fn read_cell<'a>(
    reader: &mut Reader<'a, '_>,
    node: Node<'a>,
    quilt: &mut Quilt,
    lost_sets: bool,
) -> Option<Cell> {
    if node.is_null() {
        return Some(Cell::EMPTY);
    }
    if !node.is_text() {
        return read_spelled_out(reader, node, quilt, lost_sets);
    }
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
