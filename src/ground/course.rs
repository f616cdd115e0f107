//! A box on its way in one direction, counted in the columns or rows that it spans.
//!
//! Which lines a box spans is kept in whole numbers while it moves. They begin with the box made
//! thinner by a skin, so that a box which lies on a floor, or a rounding error inside it, does not
//! span the floor's row: it never meets the edges between the cells of a floor. Testing the box
//! against each cell by itself, the usual way, does meet them.

use std::ops::RangeInclusive;

use super::{GroundMap, Side};
use crate::lattice::Lines;

/// No cell lies as far from the origin.
const BEYOND_CELLS: i64 = 1 << 32;

/// A motion in one direction: where a box begins and ends before it, and how far it goes.
#[derive(Clone, Copy, Debug)]
pub(super) struct Course {
    lines: Lines,
    from: f64,
    to: f64,
    /// How much wider a thin box was made on both sides: a point on an edge would be in two lines
    /// or in none, and as wide as this it never is.
    padding: f64,
    way: f64,
    skin: f64,
    /// The first and the last line that it spans before it moves.
    first: i64,
    last: i64,
}

impl Course {
    pub(super) fn new(lines: Lines, from: f64, to: f64, way: f64) -> Course {
        let skin = lines.side() * GroundMap::SKIN;
        let missing = 2.0 * skin - (to - from) / 2.0;
        let padding = if missing > 0.0 { missing } else { 0.0 };
        let (from, to) = (from - padding, to + padding);
        let (mut first, mut last) = (lines.at(from + skin), lines.last_before(to - skin));
        last = last.max(first);
        if last - first > 2 * BEYOND_CELLS {
            // Of a giant, what lies beyond all cells is no more than outside.
            (first, last) = (first.max(-BEYOND_CELLS), last.min(BEYOND_CELLS));
        }
        Course { lines, from, to, padding, way, skin, first, last }
    }

    pub(super) fn moves(&self) -> bool {
        self.way != 0.0
    }

    pub(super) const fn way(&self) -> f64 {
        self.way
    }

    pub(super) fn is_forward(&self) -> bool {
        self.way > 0.0
    }

    pub(super) const fn step(&self) -> i64 {
        if self.way > 0.0 { 1 } else { -1 }
    }

    /// Whether the motion is so short that it enters no further line: so are most steps of most
    /// bodies, and nothing need be looked at then.
    pub(super) fn enters_nothing(&self) -> bool {
        if self.way > 0.0 {
            self.lines.edge(self.last + 1) - self.to >= self.way
        } else {
            self.way == 0.0 || self.from - self.lines.edge(self.first) >= -self.way
        }
    }

    /// The lines that it spans before it moves.
    pub(super) fn spanned(&self) -> RangeInclusive<i64> {
        self.first..=self.last
    }

    /// The lines that the box comes over, from where it begins to where it ends.
    pub(super) fn all(&self) -> RangeInclusive<i64> {
        if self.way > 0.0 {
            self.first..=self.last_entered()
        } else {
            self.last_entered()..=self.last
        }
    }

    /// The first line that it enters if it goes far enough.
    pub(super) fn next(&self) -> i64 {
        if self.way > 0.0 { self.last + 1 } else { self.first - 1 }
    }

    /// The last line that it enters before its end, or the one before [`Course::next`] where it
    /// enters none.
    pub(super) fn last_entered(&self) -> i64 {
        self.entered_before(self.way)
    }

    /// The last line that it has entered before it has gone so far.
    #[inline]
    pub(super) fn entered_before(&self, gone: f64) -> i64 {
        if self.way > 0.0 {
            self.lines.last_before(self.to + gone).max(self.last)
        } else {
            self.lines.at(self.from + gone).min(self.first)
        }
    }

    /// The trailing and the leading line that it spans when it has gone so far; a line whose edge
    /// it has just come to is entered, and one whose edge it is just off has been left.
    #[inline]
    pub(super) fn span_after(&self, gone: f64) -> (i64, i64) {
        if self.way > 0.0 {
            self.span_to(self.lines.at(self.to + gone).max(self.last), gone)
        } else if self.way < 0.0 {
            self.span_to(self.lines.last_before(self.from + gone).min(self.first), gone)
        } else {
            (self.first, self.last)
        }
    }

    /// The same, where a line whose edge it has just come to is not entered yet.
    pub(super) fn span_before(&self, gone: f64) -> (i64, i64) {
        if self.moves() {
            self.span_to(self.entered_before(gone), gone)
        } else {
            (self.first, self.last)
        }
    }

    #[inline]
    fn span_to(&self, lead: i64, gone: f64) -> (i64, i64) {
        if self.way > 0.0 {
            let trail = self.lines.at(self.from + gone + self.skin).max(self.first);
            (trail.min(lead), lead)
        } else {
            let trail = self.lines.last_before(self.to + gone - self.skin).min(self.last);
            (trail.max(lead), lead)
        }
    }

    /// How far it has gone when it comes to the edge by which it enters a line; no way where it
    /// lies behind that, by no more than a skin.
    #[inline]
    pub(super) fn gone_to(&self, line: i64) -> f64 {
        let gone = self.entry(line) - if self.way > 0.0 { self.to } else { self.from };
        if (gone > 0.0) == (self.way > 0.0) { gone } else { 0.0 }
    }

    /// How far it has gone when it leaves a line behind; never nearer than to no way at all.
    #[inline]
    pub(super) fn gone_past(&self, line: i64) -> f64 {
        if self.way > 0.0 {
            self.lines.edge(line + 1) - (self.from + self.skin)
        } else {
            self.lines.edge(line) - (self.to - self.skin)
        }
    }

    /// How far it has gone when the box has gone so far in the other direction.
    #[inline]
    pub(super) fn gone_with(&self, other: &Course, gone: f64) -> f64 {
        (gone * self.way) / other.way
    }

    /// The part of the motion after which it enters a line.
    pub(super) fn fraction(&self, line: i64) -> f64 {
        self.gone_to(line) / self.way
    }

    /// The edge by which a line is entered.
    fn entry(&self, line: i64) -> f64 {
        self.lines.edge(if self.way > 0.0 { line } else { line + 1 })
    }

    /// Of some lines, from the middle of the box outwards after it has gone so far, the first that
    /// is wanted: so a giant box costs what is near when it is stopped.
    pub(super) fn nearest(
        &self,
        (a, b): (i64, i64),
        gone: f64,
        mut is_wanted: impl FnMut(i64) -> bool,
    ) -> Option<i64> {
        let (first, last) = (a.min(b), a.max(b));
        let middle = (self.from + self.to) / 2.0 + gone;
        let distance = |line: i64| {
            let center = (self.lines.edge(line) + self.lines.edge(line + 1)) / 2.0;
            (center - middle).abs()
        };
        let mut low = self.lines.at(middle).min(last);
        let mut high = low.max(first - 1) + 1;
        while first <= low || high <= last {
            let down = first <= low && (last < high || distance(low) <= distance(high));
            let line = if down { low } else { high };
            if is_wanted(line) {
                return Some(line);
            }
            if down {
                low -= 1;
            } else {
                high += 1;
            }
        }
        None
    }

    /// The side of a cell that is met, where this is the direction across columns or down rows.
    pub(super) fn side_met(&self, across: bool) -> Side {
        match (across, self.is_forward()) {
            (true, true) => Side::Left,
            (true, false) => Side::Right,
            (false, true) => Side::Top,
            (false, false) => Side::Bottom,
        }
    }

    /// Where the box begins and ends when it touches the edge of a line.
    pub(super) fn touching(&self, line: i64) -> (f64, f64) {
        let (edge, length) = (self.entry(line), self.to - self.from);
        let ends = if self.way > 0.0 { (edge - length, edge) } else { (edge, edge + length) };
        self.without_padding(ends)
    }

    /// Where it begins and ends after a part of the motion.
    pub(super) fn after(&self, fraction: f64) -> (f64, f64) {
        let gone = self.way * fraction;
        self.without_padding((self.from + gone, self.to + gone))
    }

    fn without_padding(&self, (from, to): (f64, f64)) -> (f64, f64) {
        let (from, to) = (from + self.padding, to - self.padding);
        (from, if to > from { to } else { from })
    }
}
