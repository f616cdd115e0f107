//! The textual notation of a cell, the same in legends, tables, commands and messages.

use std::fmt;
use std::str::FromStr;

use super::{Cell, TileName, TileNameError, Turn};

/// A cell in words: the name of a tile with its marks, or nothing.
///
/// Written as the tile's name with marks behind it: `+mirror`, `+90`, `+180` or `+270` (degrees
/// clockwise, after the mirror), `+raise` and `+palette3`, in this order; the empty cell is
/// `empty`.
///
/// ```
/// use sturdy_quilt::tile::CellNotation;
/// use sturdy_quilt::Turn;
///
/// let eaves: CellNotation = "terrace/eaves+90+raise".parse()?;
/// let CellNotation::Tile { name, turn, raise, palette } = &eaves else { panic!() };
/// assert_eq!((name.to_string().as_str(), *turn), ("terrace/eaves", Turn::QUARTER));
/// assert_eq!((*raise, *palette), (true, 0));
/// assert_eq!(eaves.to_string(), "terrace/eaves+90+raise");
/// # Ok::<(), sturdy_quilt::tile::CellNotationError>(())
/// ```
#[derive(Clone, Debug, PartialEq, Eq, Hash)]
pub enum CellNotation {
    /// Nothing.
    Empty,
    /// A tile.
    Tile {
        /// Which one.
        name: TileName,
        /// How it is turned.
        turn: Turn,
        /// Whether it is raised.
        raise: bool,
        /// The palette slot, 0 to 127.
        palette: u8,
    },
}

/// The error of a text that is not a cell.
#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
#[non_exhaustive]
pub enum CellNotationError {
    /// The tile's name is malformed.
    #[error(transparent)]
    Name(#[from] TileNameError),
    /// A mark is none of the known ones.
    #[error("`+{mark}` is not a mark of a cell; {marks}", mark = .0, marks = CellNotation::MARKS)]
    Mark(String),
    /// A mark is given twice.
    #[error("`+{0}` repeats a mark that is given already")]
    Repeated(String),
}

impl CellNotation {
    /// The word for the empty cell.
    pub const EMPTY_WORD: &'static str = "empty";

    /// The marks that there are, in words.
    pub(crate) const MARKS: &'static str =
        "the marks are +mirror, +90, +180, +270, +raise and +palette1 to +palette127";
}

impl FromStr for CellNotation {
    type Err = CellNotationError;

    fn from_str(text: &str) -> Result<CellNotation, CellNotationError> {
        if text == CellNotation::EMPTY_WORD {
            return Ok(CellNotation::Empty);
        }
        let (name, marks) = text.split_at(text.find('+').unwrap_or(text.len()));
        let name = name.parse()?;
        let CellMarks { turn, raise, palette } = marks.parse()?;
        Ok(CellNotation::Tile { name, turn, raise, palette })
    }
}

/// What a cell has besides its tile, as marks say it: `+90+raise`; no mark at all is an empty text.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub(crate) struct CellMarks {
    pub(crate) turn: Turn,
    pub(crate) raise: bool,
    pub(crate) palette: u8,
}

impl CellMarks {
    /// A cell with these marks besides its own: turned further, raised too, in this palette.
    pub(crate) fn on(self, cell: Cell) -> Cell {
        let raised = cell.is_raised() || self.raise;
        let marked = cell.with_turn(cell.turn().then(self.turn)).with_raised(raised);
        let palette = if self.palette == 0 { cell.palette() } else { self.palette };
        marked.with_slot(palette).unwrap_or(marked)
    }
}

impl FromStr for CellMarks {
    type Err = CellNotationError;

    fn from_str(text: &str) -> Result<CellMarks, CellNotationError> {
        let (mut mirror, mut quarters, mut raise, mut palette) = (None, None, None, None);
        let mut parts = text.split('+');
        let before = parts.next().unwrap_or_default();
        if !before.is_empty() {
            return Err(CellNotationError::Mark(before.to_owned()));
        }
        for mark in parts {
            let repeated = match mark {
                "mirror" => mirror.replace(true).is_some(),
                "90" => quarters.replace(1).is_some(),
                "180" => quarters.replace(2).is_some(),
                "270" => quarters.replace(3).is_some(),
                "raise" => raise.replace(true).is_some(),
                _ => {
                    let slot = mark.strip_prefix("palette").and_then(palette_slot);
                    let slot = slot.ok_or_else(|| CellNotationError::Mark(mark.to_owned()))?;
                    palette.replace(slot).is_some()
                }
            };
            if repeated {
                return Err(CellNotationError::Repeated(mark.to_owned()));
            }
        }
        let turn = Turn::square(mirror.unwrap_or(false), quarters.unwrap_or(0));
        Ok(CellMarks {
            turn: turn.unwrap_or_default(),
            raise: raise.unwrap_or(false),
            palette: palette.unwrap_or(0),
        })
    }
}

fn palette_slot(digits: &str) -> Option<u8> {
    let plain = digits.bytes().all(|b| b.is_ascii_digit()) && !digits.starts_with('0');
    digits.parse().ok().filter(|&slot: &u8| plain && slot < Cell::PALETTES)
}

impl fmt::Display for CellNotation {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self {
            CellNotation::Empty => f.write_str(CellNotation::EMPTY_WORD),
            &CellNotation::Tile { ref name, turn, raise, palette } => {
                write!(f, "{name}{}", CellMarks { turn, raise, palette })
            }
        }
    }
}

impl fmt::Display for CellMarks {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        if self.turn.is_mirrored() {
            f.write_str("+mirror")?;
        }
        if self.turn.steps() != 0 {
            write!(f, "+{}", u32::from(self.turn.steps()) * 90)?;
        }
        if self.raise {
            f.write_str("+raise")?;
        }
        if self.palette != 0 {
            write!(f, "+palette{}", self.palette)?;
        }
        Ok(())
    }
}
