//! Sweeps of boxes through whole cells.
//!
//! The box is followed row by row: of each row it covers a run of columns, from where it is when
//! it comes into the row to where it leaves it, and with a bit a cell one look at a word tells
//! which of them it meets first. The first of all rows counts; those that are entered later than
//! that are not looked at. So nothing is passed over at any speed, and only what is newly entered
//! can stop the box.

use super::axis_motion::AxisMotion;
use super::solid::Solid;
use crate::ground::state::{Bits, Stopping};
/// What a box meets first, by lines as its courses count them.
#[derive(Clone, Copy)]
pub(super) struct Met {
    /// The part of the motion until then.
    pub(super) fraction: f64,
    /// Whether a column was entered, and not a row.
    pub(super) sideways: bool,
    pub(super) column: i64,
    pub(super) row: i64,
}

/// A box on its way, with what it has met so far.
struct Trip<'s, 'a> {
    /// What it cannot come into sideways.
    solid: &'s mut Solid<'a>,
    /// What it cannot come into up or down, where that is something else.
    down: Option<&'s mut Solid<'a>>,
    x: &'s AxisMotion,
    y: &'s AxisMotion,
    /// Where the whole way lies in one chunk, as most do: its cells, and the columns that matter.
    near: Option<(&'a Bits, u64)>,
    earliest: Option<Met>,
}

/// What a box meets first on its way, if anything. Where it comes to a column and to a row at the
/// same time, the column comes first; of several cells the one nearest to its middle.
pub(super) fn first_met<'a>(
    solid: &mut Solid<'a>,
    down: Option<&mut Solid<'a>>,
    (x, y): (&AxisMotion, &AxisMotion),
) -> Option<Met> {
    let near = match solid.chunk_around(x, y) {
        _ if down.is_some() => None,
        Some((Stopping::None, _)) => return None,
        Some((Stopping::Some(bits), columns)) => Some((bits, columns)),
        _ => None,
    };
    let mut trip = Trip { solid, down, x, y, near, earliest: None };
    if x.end() > x.last() {
        trip.stay_in_rows();
    }
    if y.end() > y.last() {
        trip.enter_rows();
    }
    trip.earliest.map(|met| trip.nearest(met))
}

impl Trip<'_, '_> {
    /// Looks at the columns that are entered in the rows which the box spans from the beginning.
    fn stay_in_rows(&mut self) {
        let (x, y) = (self.x, self.y);
        let next = x.last() + 1;
        let (mut row, last) = self.solid.rows_between(y, (y.first(), y.last()));
        let last = self.solid.before_repeating(row, last);
        while row <= last {
            if self.is_free_near(row) {
                row += 1;
                continue;
            }
            if self.is_free_chunk_row(row, last, next) {
                row += 64;
                continue;
            }
            let end = self.last_column(row);
            if end >= next
                && let Some(column) = self.first_in_row(row, next, end)
            {
                self.meet(Met { fraction: x.fraction(column), sideways: true, column, row });
                if column == next {
                    return;
                }
            }
            row += 1;
        }
    }

    /// Enters rows one by one, and looks at the columns that are covered in each.
    fn enter_rows(&mut self) {
        let (x, y) = (self.x, self.y);
        let down = self.down.as_deref().unwrap_or(self.solid);
        let (mut row, mut last) = down.rows_between(y, (y.last() + 1, y.end()));
        if !x.moves() {
            last = down.before_repeating(row, last);
        }
        while row <= last {
            if self.is_free_near(row) {
                row += 1;
                continue;
            }
            if self.earliest.is_some_and(|met| y.fraction(row) >= met.fraction) {
                return;
            }
            let (trail, lead) = x.span_after(x.gone_with(y, y.gone_to(row)));
            if self.is_free_chunk_row(row, last, trail) {
                row += 64;
                continue;
            }
            let end = self.last_column(row).max(lead);
            if let Some(column) = self.first_covered(row, (trail, lead), end) {
                let sideways = column > lead;
                let fraction = if sideways { x.fraction(column) } else { y.fraction(row) };
                self.meet(Met { fraction, sideways, column, row });
                if !sideways {
                    return;
                }
            }
            row += 1;
        }
    }

    #[inline]
    fn first_in_row(&mut self, row: i64, from: i64, to: i64) -> Option<i64> {
        let (x, y) = (self.x, self.y);
        let found = self.solid.first_in_row(y.real(row), x.real(from), x.real(to));
        found.map(|column| x.real(column))
    }

    /// The first column that stops of those in a row which is entered: up to the leading one it
    /// comes into them down or up, and into the others sideways.
    #[inline]
    fn first_covered(&mut self, row: i64, (trail, lead): (i64, i64), end: i64) -> Option<i64> {
        let (x, y) = (self.x, self.y);
        let Some(down) = &mut self.down else { return self.first_in_row(row, trail, end) };
        let found = down.first_in_row(y.real(row), x.real(trail), x.real(lead));
        match found {
            Some(column) => Some(x.real(column)),
            None if end > lead => self.first_in_row(row, lead + 1, end),
            None => None,
        }
    }

    /// Whether nothing stops in a row, where the whole way lies in one chunk.
    #[inline]
    fn is_free_near(&self, row: i64) -> bool {
        let row = (self.y.real(row) & 63) as usize;
        self.near.is_some_and(|(bits, columns)| bits[row] & columns == 0)
    }

    /// Whether a row is the first one of a chunk whose rows are all to be looked at, and nothing
    /// stops in them from a column on.
    #[inline]
    fn is_free_chunk_row(&self, row: i64, last: i64, from: i64) -> bool {
        if row & 63 != 0 || row + 63 > last {
            return false;
        }
        let to = self.x.real(self.last_column(row + 63).max(from));
        let (row, from) = (self.y.real(row) >> 6, self.x.real(from));
        self.solid.is_free_chunk_row(row, from, to)
            && self.down.as_ref().is_none_or(|down| down.is_free_chunk_row(row, from, to))
    }

    /// The last column that is entered while the box is in a row.
    #[inline]
    fn last_column(&self, row: i64) -> i64 {
        self.x.entered_in(self.y, row)
    }

    fn meet(&mut self, met: Met) {
        if self.earliest.is_none_or(|held| met.fraction < held.fraction) {
            self.earliest = Some(met);
        }
    }

    /// Of the cells that are met at the same time, the one nearest to the middle of the box.
    fn nearest(&mut self, met: Met) -> Met {
        let (x, y) = (self.x, self.y);
        if met.sideways {
            let gone = if y.moves() { y.gone_with(x, x.gone_to(met.column)) } else { 0.0 };
            let (trail, lead) = y.span_before(gone);
            if trail == lead {
                return met;
            }
            let (column, rows) = (x.real(met.column), self.solid.rows_between(y, (trail, lead)));
            let row = y.nearest(rows, gone, |row| self.solid.blocks(column, y.real(row)));
            Met { row: row.unwrap_or(met.row), ..met }
        } else {
            let gone = x.gone_with(y, y.gone_to(met.row));
            let (trail, lead) = x.span_after(gone);
            if trail == lead {
                return met;
            }
            let row = y.real(met.row);
            let down = self.down.as_deref_mut().unwrap_or(self.solid);
            let columns = down.columns_between(x, (trail, lead));
            let column = x.nearest(columns, gone, |column| down.blocks(x.real(column), row));
            Met { column: column.unwrap_or(met.column), ..met }
        }
    }
}
