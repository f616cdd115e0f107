//! A box on its way in one direction, counted in the columns or rows that it spans.
//!
//! Which lines a box spans is kept in whole numbers while it moves. They begin with the box made
//! thinner by a skin, so that a box which lies on a floor, or a rounding error inside it, does not
//! span the floor's row: it never meets the edges between the cells of a floor. Testing the box
//! against each cell by itself, the usual way, does meet them.

use std::ops::{Range, RangeInclusive};

use super::{GroundMap, Side};
use crate::lattice::Lines;

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
}

impl Course {
    pub(super) fn new(lines: Lines, from: f64, to: f64, way: f64) -> Course {
        let skin = lines.side() * GroundMap::SKIN;
        let missing = 2.0 * skin - (to - from) / 2.0;
        let padding = if missing > 0.0 { missing } else { 0.0 };
        Course { lines, from: from - padding, to: to + padding, padding, way, skin }
    }

    /// The first and the last line that the box spans before it moves.
    fn first(&self) -> i64 {
        self.lines.at(self.from + self.skin)
    }

    fn last(&self) -> i64 {
        self.lines.last_before(self.to - self.skin)
    }

    /// Whether the motion is so short that it enters no further line: so are most steps of most
    /// bodies, and nothing need be looked at then.
    pub(super) fn enters_nothing(&self) -> bool {
        if self.way > 0.0 {
            self.lines.edge(self.last() + 1) - self.to >= self.way
        } else {
            self.way == 0.0 || self.from - self.lines.edge(self.first()) >= -self.way
        }
    }

    /// The lines that the box comes over, from where it begins to where it ends.
    pub(super) fn span(&self) -> RangeInclusive<i64> {
        let back = if self.way < 0.0 { self.way } else { 0.0 };
        let on = if self.way > 0.0 { self.way } else { 0.0 };
        self.lines.at(self.from + back)..=self.lines.last_before(self.to + on)
    }
}

/// A box on its way in one direction.
#[derive(Clone, Copy, Debug)]
pub(super) struct Axis {
    course: Course,
    /// The lines that the box spans now.
    first: i64,
    last: i64,
    /// Lines outside these are known to be free.
    looked_at: (i64, i64),
    /// The part of the motion after which the next line is entered, and the one behind it;
    /// infinite where none is. Both are kept since a division takes long: which direction comes
    /// first need not wait for it.
    pub(super) next_time: f64,
    later_time: f64,
}

impl Axis {
    /// A box about to move. Lines outside those that are to be looked at are passed over.
    pub(super) fn new(course: Course, looked_at: Option<Range<i64>>) -> Axis {
        let (mut first, mut last) = (course.first(), course.last());
        last = last.max(first);
        let looked_at = match looked_at {
            None => (i64::MIN, i64::MAX),
            Some(Range { start, end }) => {
                if course.way > 0.0 {
                    last = last.max(start - 1);
                } else if course.way < 0.0 {
                    first = first.min(end);
                }
                (start, end)
            }
        };
        let axis = Axis { course, first, last, looked_at, next_time: 0.0, later_time: 0.0 };
        Axis { next_time: axis.time_of(0), later_time: axis.time_of(1), ..axis }
    }

    #[inline]
    pub(super) fn next_line(&self) -> i64 {
        if self.course.way > 0.0 { self.last + 1 } else { self.first - 1 }
    }

    /// The edge of the next line that the box reaches.
    fn next_edge(&self) -> f64 {
        self.edge_of(self.next_line())
    }

    /// The edge by which a line is entered.
    fn edge_of(&self, line: i64) -> f64 {
        self.course.lines.edge(if self.course.way > 0.0 { line } else { line + 1 })
    }

    /// The part of the motion after which the next line is entered, or one so many behind it.
    #[inline]
    fn time_of(&self, behind: i64) -> f64 {
        let Course { from, to, way, .. } = self.course;
        let (lead, line) = if way > 0.0 {
            (to, self.next_line() + behind)
        } else {
            (from, self.next_line() - behind)
        };
        let behind_all = if way > 0.0 { line >= self.looked_at.1 } else { line < self.looked_at.0 };
        if way == 0.0 || behind_all {
            return f64::INFINITY;
        }
        // A lead that lies behind the edge, by no more than a skin, touches it.
        let time = (self.edge_of(line) - lead) / way;
        if time > 0.0 { time } else { 0.0 }
    }

    #[inline]
    pub(super) fn enter(&mut self) {
        if self.course.way > 0.0 {
            self.last += 1;
        } else {
            self.first -= 1;
        }
        (self.next_time, self.later_time) = (self.later_time, self.time_of(1));
    }

    /// Leaves the lines that the trailing edge has passed at a time. Beyond the lines that are
    /// looked at none are entered any more, only left.
    #[inline]
    pub(super) fn leave(&mut self, time: f64) {
        let Course { lines, from, to, way, skin, .. } = self.course;
        if way > 0.0 {
            let trail = from + way * time + skin;
            while self.first <= self.last && lines.edge(self.first + 1) <= trail {
                self.first += 1;
            }
        } else if way < 0.0 {
            let trail = to + way * time - skin;
            while self.first <= self.last && lines.edge(self.last) >= trail {
                self.last -= 1;
            }
        }
    }

    /// Of the lines that the box spans, the one with a wanted cell that lies nearest to the
    /// middle of the box.
    #[inline]
    pub(super) fn nearest(&self, time: f64, mut is_wanted: impl FnMut(i64) -> bool) -> Option<i64> {
        let (begin, end) = self.looked_at;
        let (first, last) = (self.first.max(begin), self.last.min(end - 1));
        // Nearly always none is met, or only one is spanned.
        let found = (first..last + 1).find(|line| is_wanted(*line))?;
        if first == last {
            return Some(found);
        }
        let Course { lines, from, to, way, .. } = self.course;
        let middle = (from + to) / 2.0 + way * time;
        let distance = |line: i64| {
            let center = (lines.edge(line) + lines.edge(line + 1)) / 2.0;
            (center - middle).abs()
        };
        // From the middle outwards, so that a giant box costs what is near when it is stopped.
        let mut low = lines.at(middle).min(last);
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

    pub(super) fn side_met(&self, sideways: bool) -> Side {
        match (sideways, self.course.way > 0.0) {
            (true, true) => Side::Left,
            (true, false) => Side::Right,
            (false, true) => Side::Top,
            (false, false) => Side::Bottom,
        }
    }

    /// Where the box begins and ends at a time, touching the next line where that has stopped it.
    pub(super) fn ends_at(&self, time: f64, stopped: bool) -> (f64, f64) {
        let Course { from, to, way, padding, .. } = self.course;
        let (from, to) = match (stopped, way > 0.0) {
            (true, true) => (self.next_edge() - (to - from), self.next_edge()),
            (true, false) => (self.next_edge(), self.next_edge() + (to - from)),
            _ => (from + way * time, to + way * time),
        };
        let (from, to) = (from + padding, to - padding);
        (from, if to > from { to } else { from })
    }
}
