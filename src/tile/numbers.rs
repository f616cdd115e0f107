use std::sync::Arc;

use super::{Cell, TileId, TileTable};
use crate::near::NameError;

/// How plain numbers, as lists and tables have them, name the tiles of one set.
///
/// The tiles of a set are counted row by row through its sheet, or in the order in which a set
/// without a sheet lists them. A list of numbers means nothing once the sheet is cut anew with
/// another number of columns; state the columns to have that noticed.
///
/// ```
/// use sturdy_quilt::TileNumbers;
///
/// // Lists in which 0 is "nothing" and 1 the first tile.
/// let numbers = TileNumbers::of_set("terrace").columns(8).base(1).empty(0);
/// assert_eq!(numbers.set(), "terrace");
/// ```
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct TileNumbers {
    set: String,
    columns: Option<u32>,
    base: i64,
    empty: i64,
}

/// Why numbers cannot name tiles.
#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
#[non_exhaustive]
pub enum TileNumbersError {
    /// There is no such set.
    #[error(transparent)]
    Set(#[from] NameError),
    /// The numbers were made for a sheet with another number of columns.
    #[error(
        "the numbers are for a sheet of {stated} columns, but that of tile set `{set}` has {found}"
    )]
    Columns {
        /// The set.
        set: String,
        /// The columns for which the numbers were made.
        stated: u32,
        /// The columns of the set's sheet.
        found: u32,
    },
}

impl TileNumbers {
    /// The numbers of a set, counted from 0, with −1 for empty.
    pub fn of_set(name: impl Into<String>) -> TileNumbers {
        TileNumbers { set: name.into(), columns: None, base: 0, empty: -1 }
    }

    /// The same numbers, made for a sheet of so many columns. Default: not stated.
    #[must_use]
    pub const fn columns(mut self, columns: u32) -> TileNumbers {
        self.columns = Some(columns);
        self
    }

    /// The same numbers with another one for the first tile. Default 0.
    #[must_use]
    pub const fn base(mut self, base: i64) -> TileNumbers {
        self.base = base;
        self
    }

    /// The same numbers with another one for the empty cell. Default −1.
    #[must_use]
    pub const fn empty(mut self, empty: i64) -> TileNumbers {
        self.empty = empty;
        self
    }

    /// The name of the set.
    pub fn set(&self) -> &str {
        &self.set
    }

    /// The tiles of a table by their numbers.
    pub(crate) fn find(&self, tiles: &TileTable) -> Result<NumberedTiles, TileNumbersError> {
        let Some(set) = tiles.set(&self.set) else {
            let sets = tiles.sets().map(|set| set.name());
            return Err(NameError::new("tile set", &self.set, sets).into());
        };
        let found = set.sheet_columns();
        if let (Some(stated), Some(found)) = (self.columns, found)
            && stated != found
        {
            return Err(TileNumbersError::Columns { set: self.set.clone(), stated, found });
        }
        let ids = tiles.ids_of(&self.set).unwrap_or_default();
        Ok(NumberedTiles { ids, base: self.base, empty: self.empty })
    }
}

/// The tiles of a set by number.
#[derive(Clone, Debug)]
pub(crate) struct NumberedTiles {
    ids: Arc<[TileId]>,
    base: i64,
    empty: i64,
}

impl NumberedTiles {
    /// The cell that a number means, or `None` where there is no such tile.
    pub(crate) fn cell(&self, number: i64) -> Option<Cell> {
        if number == self.empty {
            return Some(Cell::EMPTY);
        }
        let place = usize::try_from(number.checked_sub(self.base)?).ok()?;
        self.ids.get(place).copied().map(Cell::of)
    }

    /// The numbers that there are, in words.
    pub(crate) fn words(&self) -> String {
        let NumberedTiles { ids, base, empty } = self;
        let last = base.saturating_add(ids.len() as i64 - 1);
        format!("the tiles have the numbers {base} to {last}, and {empty} is empty")
    }
}
