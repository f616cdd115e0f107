//! What a box meets first on its way in a straight line.
//!
//! The box is followed row by row: of each row it covers a run of columns, from where it is when
//! it comes into the row to where it leaves it, and with a bit a cell one look at a word tells
//! which of them it meets first. The first of all rows counts; those that are entered later than
//! that are not looked at. So nothing is passed over at any speed, and only what is newly entered
//! can stop the box.

use super::course::Course;
use super::stopping::Solid;

/// What a box meets first.
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
    solid: &'s mut Solid<'a>,
    x: &'s Course,
    y: &'s Course,
    earliest: Option<Met>,
}

/// What a box meets first on its way, if anything. Where it comes to a column and to a row at the
/// same time, the column comes first; of several cells the one nearest to its middle.
pub(super) fn first_met(solid: &mut Solid<'_>, x: &Course, y: &Course) -> Option<Met> {
    let mut trip = Trip { solid, x, y, earliest: None };
    if x.moves() {
        trip.stay_in_rows();
    }
    if y.moves() {
        trip.enter_rows();
    }
    trip.earliest.map(|met| trip.nearest(met))
}

impl Trip<'_, '_> {
    /// Looks at the columns that are entered in the rows which the box spans from the beginning.
    fn stay_in_rows(&mut self) {
        let (x, y) = (self.x, self.y);
        let next = x.next();
        if (x.last_entered() - next) * x.step() < 0 {
            return;
        }
        let first = (*y.spanned().start()).max(*self.solid.rows().start());
        let mut last = (*y.spanned().end()).min(*self.solid.rows().end());
        if let Some(height) = self.solid.repeats_after_rows() {
            last = last.min(first + height);
        }
        let mut row = first;
        while row <= last {
            let end = self.last_column(row);
            if (end - next) * x.step() >= 0
                && let Some(column) = self.solid.first_in_row(row, next, end)
            {
                self.meet(Met { fraction: x.fraction(column), sideways: true, column, row });
                if column == next {
                    return;
                }
            }
            row += 1;
            while row & 63 == 0
                && row + 64 <= last
                && self.solid.is_free_chunk_row(row >> 6, next, x.last_entered())
            {
                row += 64;
            }
        }
    }

    /// Enters rows one by one, and looks at the columns that are covered in each.
    fn enter_rows(&mut self) {
        let (x, y, step) = (self.x, self.y, self.y.step());
        let rows = self.solid.rows();
        let (mut row, end) = if step > 0 {
            (y.next().max(*rows.start()), y.last_entered().min(*rows.end()))
        } else {
            (y.next().min(*rows.end()), y.last_entered().max(*rows.start()))
        };
        while (end - row) * step >= 0 {
            if self.earliest.is_some_and(|met| y.fraction(row) >= met.fraction) {
                return;
            }
            let (trail, lead) = x.span_after(x.gone_with(y, y.gone_to(row)));
            let is_chunk_begin = row & 63 == if step > 0 { 0 } else { 63 };
            let last_of_chunk = row + 63 * step;
            if is_chunk_begin && (end - last_of_chunk) * step >= 0 {
                let last = self.last_column(last_of_chunk);
                if self.solid.is_free_chunk_row(row >> 6, trail, last) {
                    row += 64 * step;
                    continue;
                }
            }
            let last = self.last_column(row);
            let last = if (last - lead) * x.step() > 0 { last } else { lead };
            if let Some(column) = self.solid.first_in_row(row, trail, last) {
                let sideways = x.moves() && (column - lead) * x.step() > 0;
                let fraction = if sideways { x.fraction(column) } else { y.fraction(row) };
                self.meet(Met { fraction, sideways, column, row });
                if !sideways {
                    return;
                }
            }
            row += step;
        }
    }

    /// The last column that is entered while the box is in a row.
    fn last_column(&self, row: i64) -> i64 {
        let (x, y) = (self.x, self.y);
        if !x.moves() {
            return *x.spanned().end();
        }
        let gone = y.gone_past(row);
        if !y.moves() || gone.abs() >= y.way().abs() {
            x.last_entered()
        } else {
            x.entered_before(x.gone_with(y, gone))
        }
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
            let row = y.nearest((trail, lead), gone, |row| self.solid.blocks(met.column, row));
            Met { row: row.unwrap_or(met.row), ..met }
        } else {
            let gone = x.gone_with(y, y.gone_to(met.row));
            let (trail, lead) = x.span_after(gone);
            if trail == lead {
                return met;
            }
            let column = x.nearest((trail, lead), gone, |column| self.solid.blocks(column, met.row));
            Met { column: column.unwrap_or(met.column), ..met }
        }
    }
}
