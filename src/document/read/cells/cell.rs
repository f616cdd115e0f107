//! Reading cells as legends and tables spell them.

use rustc_hash::FxHashMap;

use super::grid::Spelled;
use crate::document::problem::Severity;
use crate::document::syntax::{Node, Reader, Span, optional};
use crate::name_error::{did_you_mean, near_names};
use crate::quilt::{Palette, Quilt};
use crate::tile::{
    Cell, CellNotation, CellNotationError, NumberedTiles, PaletteId, TileName, Turn,
};
use crate::units::CellPos;

/// Cells by their notation, spelled out, or by their number.
pub(crate) struct CellSpelling<'q> {
    quilt: &'q mut Quilt,
    numbers: Option<NumberedTiles>,
    /// What each text of a field means; `None` where a problem was noted.
    known: FxHashMap<String, Option<Cell>>,
    lost_sets: bool,
}

impl<'q> CellSpelling<'q> {
    pub(crate) fn new(
        quilt: &'q mut Quilt,
        numbers: Option<NumberedTiles>,
        lost_sets: bool,
    ) -> CellSpelling<'q> {
        CellSpelling { quilt, numbers, known: FxHashMap::default(), lost_sets }
    }

    /// What numbers mean, where that is stated.
    pub(super) const fn numbers(&self) -> Option<&NumberedTiles> {
        self.numbers.as_ref()
    }

    /// A cell in its notation.
    pub(super) fn notation(
        &mut self,
        reader: &mut Reader<'_, '_>,
        span: Span,
        text: &str,
    ) -> Option<Cell> {
        cell_of_text(reader, span, text, self.quilt, self.lost_sets)
    }

    fn numbered(
        &self,
        reader: &mut Reader<'_, '_>,
        span: Span,
        at: CellPos,
        number: i64,
    ) -> Option<Cell> {
        let Some(numbers) = &self.numbers else {
            let message = format!("the table has the number {number}, but names no `set`");
            let hint = "state the `set` beside `table`, or write names of tiles";
            reader.error_at_cell(span, at, message, hint);
            return None;
        };
        let cell = numbers.cell(number);
        if cell.is_none() {
            let (message, hint) = (format!("number {number} is not a tile"), numbers.words());
            reader.error_at_cell(span, at, message, hint);
        }
        cell
    }
}

impl Spelled for CellSpelling<'_> {
    type Value = Cell;

    /// A cell in any of its spellings: `null`, its notation, or spelled out as an object.
    fn entry<'a>(&mut self, reader: &mut Reader<'a, '_>, node: Node<'a>) -> Option<Cell> {
        if node.is_null() {
            return Some(Cell::EMPTY);
        }
        if !node.is_text() {
            return read_spelled_out(reader, node, self.quilt, self.lost_sets);
        }
        let (text, span) = (reader.text(node, "a cell")?, node.span());
        self.notation(reader, span, &text)
    }

    /// A number or a cell in its notation. Each text is looked up, and complained about, once.
    fn field(
        &mut self,
        reader: &mut Reader<'_, '_>,
        span: Span,
        at: CellPos,
        text: &str,
    ) -> Option<Cell> {
        if let Some(known) = self.known.get(text) {
            return *known;
        }
        let cell = match text.parse::<i64>() {
            Ok(number) => self.numbered(reader, span, at, number),
            Err(_) => self.notation(reader, span, text),
        };
        self.known.insert(text.to_owned(), cell);
        cell
    }
}

/// A cell in its notation.
fn cell_of_text(
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
            cell.with_turn(turn).with_raised(raise).with_slot(palette)
        }
        Err(error) => {
            let (message, hint) = match &error {
                CellNotationError::Mark(mark) => {
                    let hint = CellNotation::MARKS.to_owned();
                    (format!("`+{mark}` is not a mark of a cell"), Some(hint))
                }
                CellNotationError::Name(_) if !reader.lists(Severity::Error) => {
                    (String::new(), None)
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

/// A cell in its notation or as an object.
pub(crate) fn read_cell<'a>(
    reader: &mut Reader<'a, '_>,
    node: Node<'a>,
    what: &str,
    quilt: &mut Quilt,
    lost_sets: bool,
) -> Option<Cell> {
    if node.entries().is_some() {
        return read_spelled_out(reader, node, quilt, lost_sets);
    }
    let text = reader.text(node, what)?;
    cell_of_text(reader, node.span(), &text, quilt, lost_sets)
}

/// The slot of a palette, by its name or its number.
pub(crate) fn read_palette<'a>(
    reader: &mut Reader<'a, '_>,
    node: Node<'a>,
    what: &str,
    quilt: &Quilt,
) -> Option<u8> {
    let Some(name) = node.text() else {
        return reader.integer(node, what, 0..=Cell::PALETTES - 1);
    };
    let slot = quilt.palette(&name);
    if let Err(error) = &slot {
        let names: Vec<&str> = quilt.palettes().iter().map(Palette::name).collect();
        let listed = || match &*names {
            [] => "the map has none under `palettes`".to_owned(),
            _ => format!("the palettes are {}", names.join(", ")),
        };
        let hint = did_you_mean(&error.near).unwrap_or_else(listed);
        reader.error_with_hint(node.span(), format!("there is no palette `{name}`"), Some(hint));
    }
    slot.ok().map(PaletteId::slot)
}

/// A cell as an object: `{ "tile": "set/name", "turn": 90, "mirror": true, "raise": true,
/// "palette": "ripe" }`.
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
            let near = did_you_mean(&quilt.tiles().near(&name));
            reader.error_with_hint(tile.span(), format!("{error}"), near);
            return None;
        }
    };
    let cell = named_tile(reader, tile.span(), &name, quilt, lost_sets)?;
    let quarters = optional(fields.get("turn"), |node| {
        let degrees = reader.integer(node, "the turn of a cell", 0..=270_i64)?;
        if degrees % 90 != 0 {
            let message = format!("the turn of a cell must be 0, 90, 180 or 270, not {degrees}");
            reader.error(node.span(), message);
        }
        u8::try_from(degrees / 90).ok()
    })?;
    let mut flag = |key: &str| {
        optional(fields.get(key), |node| reader.boolean(node, &format!("`{key}` of a cell")))
    };
    let (mirror, raise) = (flag("mirror")?.unwrap_or_default(), flag("raise")?.unwrap_or_default());
    let palette = optional(fields.get("palette"), |node| {
        read_palette(reader, node, "the palette of a cell", quilt)
    })?;
    let (turn, palette) =
        (Turn::square(mirror, quarters.unwrap_or_default())?, palette.unwrap_or_default());
    cell.with_turn(turn).with_raised(raise).with_slot(palette)
}

/// The tile of a name. One that no set has is shown by a placeholder and keeps its name.
fn named_tile(
    reader: &mut Reader<'_, '_>,
    span: Span,
    name: &TileName,
    quilt: &mut Quilt,
    lost_sets: bool,
) -> Option<Cell> {
    let known = quilt.tiles().find(name).is_some_and(|id| !quilt.tiles().is_missing(id));
    // What a set that could not be read holds is not known; its own problem says enough.
    let may_be_lost = lost_sets && quilt.tiles().set(name.set()).is_none();
    if !known && !may_be_lost && reader.lists(Severity::Warning) {
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
    } else if !known && !may_be_lost {
        reader.problems().counted_only(Severity::Warning);
    }
    match quilt.intern_tile(name) {
        Ok(number) => Some(Cell::of_number(number)),
        Err(error) => {
            reader.error(span, error.to_string());
            None
        }
    }
}
