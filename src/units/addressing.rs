use super::{CellOffset, CellPos};

/// How the columns and rows of a text, table or picture name cells.
///
/// On a map of diamonds, a text whose rows are rows of cells is itself a diamond. One with straight
/// borders has every second row, or every second column, shifted by half a cell. It names the same
/// cells: of column c and row r, the cell whose column and row differ by 2 c, and by 1 more where r is
/// odd, and have the sum r ([`Addressing::OddRows`]). What lies outside of the straight borders is
/// empty.
///
/// ```
/// use sturdy_quilt::units::{Addressing, CellOffset};
///
/// let shifted = Addressing::OddRows;
/// assert_eq!(shifted.cell(0, 0), CellOffset::new(0, 0));
/// // One row further down, half a cell to the right; a column is a whole diamond.
/// assert_eq!(shifted.cell(0, 1), CellOffset::new(1, 0));
/// assert_eq!(shifted.cell(1, 0), CellOffset::new(1, -1));
/// assert_eq!(shifted.address(CellOffset::new(1, -1)), (1, 0));
/// ```
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Hash)]
#[non_exhaustive]
pub enum Addressing {
    /// Columns and rows are those of cells.
    #[default]
    Straight,
    /// Rows run across the map as it is seen; the second, the fourth and so on lie half a cell
    /// further to the right.
    OddRows,
    /// Rows run across the map as it is seen; the first, the third and so on lie half a cell further
    /// to the right.
    EvenRows,
    /// Columns run down the map as it is seen; the second, the fourth and so on lie half a cell
    /// further down.
    OddColumns,
    /// Columns run down the map as it is seen; the first, the third and so on lie half a cell further
    /// down.
    EvenColumns,
}

impl Addressing {
    /// All ways, with the words that documents have for them; `Straight` is never stated.
    pub(crate) const WORDS: [(&str, Addressing); 4] = [
        ("odd rows", Addressing::OddRows),
        ("even rows", Addressing::EvenRows),
        ("odd columns", Addressing::OddColumns),
        ("even columns", Addressing::EvenColumns),
    ];

    /// The words for it in documents; `None` for the one that is never stated.
    pub(crate) fn words(self) -> Option<&'static str> {
        Self::WORDS.into_iter().find(|(_, own)| *own == self).map(|(words, _)| words)
    }

    /// The nearest place to the left or above from which columns and rows may be told anew: every second
    /// one is shifted as before.
    pub(crate) fn even_corner(self, place: CellPos) -> CellPos {
        let (x, y) = match self {
            Addressing::Straight => (0, 0),
            Addressing::OddRows | Addressing::EvenRows => (0, place.y().rem_euclid(2)),
            Addressing::OddColumns | Addressing::EvenColumns => (place.x().rem_euclid(2), 0),
        };
        place.saturating_add(CellOffset::new(-x, -y))
    }

    /// Returns the cell in a column and row, from the one in column 0 and row 0 on. Numbers beyond the
    /// limits of `i32` saturate.
    pub fn cell(self, column: i32, row: i32) -> CellOffset {
        let (c, r) = (i64::from(column), i64::from(row));
        // The sum of column and row of the cell, and their difference.
        let (sum, difference) = match self {
            Addressing::Straight => return CellOffset::new(column, row),
            Addressing::OddRows => (r, 2 * c + r.rem_euclid(2)),
            Addressing::EvenRows => (r, 2 * c - r.rem_euclid(2)),
            Addressing::OddColumns => (2 * r + c.rem_euclid(2), c),
            Addressing::EvenColumns => (2 * r - c.rem_euclid(2), c),
        };
        let whole = |number: i64| number.clamp(i32::MIN.into(), i32::MAX.into()) as i32;
        // Both are even or both are odd.
        CellOffset::new(whole((sum + difference) / 2), whole((sum - difference) / 2))
    }

    /// Returns the column and row of a cell, which is told from the one in column 0 and row 0 on: the
    /// inverse of [`Addressing::cell`]. Numbers beyond the limits of `i32` saturate.
    pub fn address(self, cell: CellOffset) -> (i32, i32) {
        let (x, y) = (i64::from(cell.x), i64::from(cell.y));
        let (sum, difference) = (x + y, x - y);
        let (column, row) = match self {
            Addressing::Straight => return (cell.x, cell.y),
            Addressing::OddRows => ((difference - sum.rem_euclid(2)) / 2, sum),
            Addressing::EvenRows => ((difference + sum.rem_euclid(2)) / 2, sum),
            Addressing::OddColumns => (difference, (sum - difference.rem_euclid(2)) / 2),
            Addressing::EvenColumns => (difference, (sum + difference.rem_euclid(2)) / 2),
        };
        let whole = |number: i64| number.clamp(i32::MIN.into(), i32::MAX.into()) as i32;
        (whole(column), whole(row))
    }
}

/// The cells that the columns and rows of a grid name, of which the first lies in a cell of the map.
///
/// Places in a grid are told as if they were cells: of one that is addressed straight they are.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub(crate) struct GridCells {
    addressing: Addressing,
    first: CellPos,
}

impl GridCells {
    pub(crate) const fn new(addressing: Addressing, first: CellPos) -> GridCells {
        GridCells { addressing, first }
    }

    pub(crate) const fn addressing(self) -> Addressing {
        self.addressing
    }

    /// The cell in the first column and row.
    pub(crate) const fn first(self) -> CellPos {
        self.first
    }

    pub(crate) fn is_straight(self) -> bool {
        self.addressing == Addressing::Straight
    }

    /// The place of the first column and row.
    pub(crate) fn corner(self) -> CellPos {
        if self.is_straight() { self.first } else { CellPos::ORIGIN }
    }

    /// The cell at a place, if there can be one.
    pub(crate) fn checked_cell(self, place: CellPos) -> Option<CellPos> {
        if self.is_straight() {
            return Some(place);
        }
        self.first.checked_add(self.addressing.cell(place.x(), place.y()))
    }

    /// The cell at a place, the nearest one there can be.
    pub(crate) fn cell(self, place: CellPos) -> CellPos {
        if self.is_straight() {
            return place;
        }
        self.first.saturating_add(self.addressing.cell(place.x(), place.y()))
    }

    /// The place of a cell, if it is one that can be told.
    pub(crate) fn place(self, cell: CellPos) -> Option<CellPos> {
        if self.is_straight() {
            return Some(cell);
        }
        let (x, y) = (cell.x() - self.first.x(), cell.y() - self.first.y());
        let (column, row) = self.addressing.address(CellOffset::new(x, y));
        CellPos::checked(column.into(), row.into())
    }
}
