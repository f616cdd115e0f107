use std::sync::Arc;

use super::{Cell, TileNumber, TileTable};
use crate::name_error::NameError;

/// The rule by which plain numbers, as lists and tables have them, name the tiles of one or several
/// sets.
///
/// The tiles of a set are counted row by row through its sheet, or in the order in which a set
/// without a sheet lists them. A list of numbers means nothing once the sheet is cut anew with
/// another number of columns; state the columns to have that noticed.
///
/// ```
/// use sturdy_quilt::tile::TileNumbers;
///
/// // Lists in which 0 is "nothing", 1 the first tile of one set, 101 the first of another.
/// let numbers = TileNumbers::of_set("terrace").with_columns(8).with_base(1).with_empty(0);
/// let numbers = numbers.with_set("trees").with_base(101);
/// assert_eq!(numbers.sets().collect::<Vec<_>>(), ["terrace", "trees"]);
/// ```
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct TileNumbers {
    ranges: Vec<SetNumbers>,
    empty: i64,
}

/// The numbers of one set.
#[derive(Clone, Debug, PartialEq, Eq)]
struct SetNumbers {
    set: String,
    columns: Option<u32>,
    base: i64,
}

/// The error of numbers that cannot name tiles.
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
    /// Two sets have the same numbers.
    #[error("number {number} means a tile of set `{first}` and one of set `{second}`")]
    Overlap {
        /// The set that has the number already.
        first: String,
        /// The set that has it too.
        second: String,
        /// The lowest number that both have.
        number: i64,
    },
}

impl TileNumbers {
    /// Returns the numbers of a set, counted from 0, with −1 for empty.
    pub fn of_set(name: impl Into<String>) -> TileNumbers {
        TileNumbers { ranges: vec![SetNumbers::of(name.into())], empty: -1 }
    }

    /// Returns these numbers, and those of another set, counted from 0 if no other base is given
    /// next.
    #[must_use]
    pub fn with_set(mut self, name: impl Into<String>) -> TileNumbers {
        self.ranges.push(SetNumbers::of(name.into()));
        self
    }

    /// Returns these numbers, those of the last named set made for a sheet of so many columns.
    /// Default: not stated.
    #[must_use]
    pub fn with_columns(mut self, columns: u32) -> TileNumbers {
        if let Some(last) = self.ranges.last_mut() {
            last.columns = Some(columns);
        }
        self
    }

    /// Returns these numbers with another one for the first tile of the last named set. Default 0.
    #[must_use]
    pub fn with_base(mut self, base: i64) -> TileNumbers {
        if let Some(last) = self.ranges.last_mut() {
            last.base = base;
        }
        self
    }

    setters! {
        /// Returns these numbers with another one for the empty cell. Default −1.
        const with_empty(empty: i64);
    }

    /// Returns the names of the sets, in the order in which they were named.
    pub fn sets(&self) -> impl ExactSizeIterator<Item = &str> {
        self.ranges.iter().map(|range| &*range.set)
    }

    /// The tiles of a table by their numbers.
    pub(crate) fn find(&self, tiles: &TileTable) -> Result<NumberedTiles, TileNumbersError> {
        let mut ranges: Vec<NumberRange> = Vec::with_capacity(self.ranges.len());
        for SetNumbers { set, columns, base } in &self.ranges {
            let Some(found) = tiles.set(set) else {
                let sets = tiles.sets().map(|set| set.name());
                return Err(NameError::new("tile set", set, sets).into());
            };
            if let (Some(stated), Some(found)) = (*columns, found.sheet_columns())
                && stated != found
            {
                return Err(TileNumbersError::Columns { set: set.clone(), stated, found });
            }
            let ids = tiles.numbers_of(set).unwrap_or_default();
            let range = NumberRange { set: found.name().to_owned(), base: *base, ids };
            if let Some((other, number)) =
                ranges.iter().find_map(|other| Some((other, range.first_shared(other)?)))
            {
                let (first, second) = (other.set.clone(), set.clone());
                return Err(TileNumbersError::Overlap { first, second, number });
            }
            ranges.push(range);
        }
        Ok(NumberedTiles { ranges, empty: self.empty })
    }
}

impl SetNumbers {
    const fn of(set: String) -> SetNumbers {
        SetNumbers { set, columns: None, base: 0 }
    }
}

/// The tiles of sets by number.
#[derive(Clone, Debug)]
pub(crate) struct NumberedTiles {
    ranges: Vec<NumberRange>,
    empty: i64,
}

#[derive(Clone, Debug)]
struct NumberRange {
    set: String,
    base: i64,
    ids: Arc<[TileNumber]>,
}

impl NumberRange {
    /// The number behind the last.
    fn end(&self) -> i64 {
        self.base.saturating_add(self.ids.len() as i64)
    }

    fn first_shared(&self, other: &NumberRange) -> Option<i64> {
        let from = self.base.max(other.base);
        (from < self.end().min(other.end())).then_some(from)
    }
}

impl NumberedTiles {
    /// The cell that a number means, or `None` where there is no such tile.
    pub(crate) fn cell(&self, number: i64) -> Option<Cell> {
        if number == self.empty {
            return Some(Cell::EMPTY);
        }
        self.ranges.iter().find_map(|range| {
            let place = usize::try_from(number.checked_sub(range.base)?).ok()?;
            range.ids.get(place).copied().map(Cell::of_number)
        })
    }

    /// The number of a cell that has nothing but its tile; that of an empty cell is stated.
    pub(crate) fn number_of(&self, cell: Cell) -> Option<i64> {
        let Some(tile) = cell.number() else { return Some(self.empty) };
        if cell != Cell::of_number(tile) {
            return None;
        }
        let numbers = self.ranges.iter().filter_map(|range| {
            let place = range.ids.iter().position(|id| *id == tile)?;
            range.base.checked_add(place as i64)
        });
        { numbers }.find(|number| *number != self.empty)
    }

    /// The number that means an empty cell.
    pub(crate) const fn empty_number(&self) -> i64 {
        self.empty
    }

    /// The numbers that there are, in words.
    pub(crate) fn words(&self) -> String {
        let range = |range: &NumberRange| format!("{} to {}", range.base, range.end() - 1);
        let empty = format!("{} is empty", self.empty);
        match &*self.ranges {
            [one] => format!("the tiles have the numbers {}, and {empty}", range(one)),
            several => {
                let sets = several.iter().map(|one| format!("`{}` {}", one.set, range(one)));
                format!(
                    "the sets have the numbers {}, and {empty}",
                    sets.collect::<Vec<_>>().join(", ")
                )
            }
        }
    }
}
