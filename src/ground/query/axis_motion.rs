//! A box or a point on its way in one direction, counted in columns or rows.
//!
//! A motion in the negative direction is mirrored: line `n` becomes line `!n`, so
//! that nothing need be asked about directions until a cell is looked at.
//!
//! Which lines a box spans is kept in whole numbers while it moves. They begin with the box made
//! thinner by a skin, so that a box which lies on a floor, or a rounding error inside it, does not
//! span the floor's row: it never meets the edges between the cells of a floor. Testing the box
//! against each cell by itself, the usual way, does meet them.
//!
//! Where the box is at a crossing follows by one product and one division from the numbers that
//! were given, never by adding steps: no error grows, and where two edges are crossed at the same
//! time, that is seen.

use crate::ground::state::GroundMap;
use crate::lattice::Axis;
use crate::units::Side;

/// A motion in one direction: where a box begins and ends before it, and how far it goes.
#[derive(Clone, Copy, Debug)]
pub(super) struct AxisMotion {
    lines: Axis,
    from: f64,
    to: f64,
    way: f64,
    skin: f64,
    /// How much wider a thin box was made on both sides: a point on an edge would be in two lines
    /// or in none, and as wide as this it never is.
    padding: f64,
    /// All bits are set where it is seen in the mirror.
    mirror: i64,
    /// The first and the last line that it spans before it moves.
    first: i64,
    last: i64,
    /// The last line that it enters before its end; `last` where it enters none.
    end: i64,
}

/// No cell lies as far from the origin.
const BEYOND_CELLS: i64 = 1 << 32;

/// All bits for a way that goes back, none for another. Which it is is as good as random, so these
/// are no branches: a processor would guess half of them wrongly.
#[inline]
fn mirror_of(way: f64) -> i64 {
    // The sum makes a zero of either sign a plain one.
    (way + 0.0).to_bits().cast_signed() >> 63
}

/// A place as it is seen in the mirror, where there is one.
#[inline]
fn mirrored(place: f64, mirror: i64) -> f64 {
    f64::from_bits(place.to_bits() ^ (mirror.cast_unsigned() & (1 << 63)))
}

// Make.
impl AxisMotion {
    /// The way of a box.
    #[inline(always)]
    pub(super) fn of_box(lines: Axis, from: f64, to: f64, way: f64) -> AxisMotion {
        let skin = lines.side() * GroundMap::SKIN;
        let missing = 2.0 * skin - (to - from) / 2.0;
        let padding = if missing > 0.0 { missing } else { 0.0 };
        let mirror = mirror_of(way);
        let (from, to) = (mirrored(from, mirror), mirrored(to, mirror));
        let (from, to, way) = (from.min(to) - padding, from.max(to) + padding, way.abs());
        let (mut first, mut last) = (lines.at(from + skin), lines.last_before(to - skin));
        last = last.max(first);
        if last - first > 2 * BEYOND_CELLS {
            // Of a giant, what lies beyond all cells is no more than outside.
            (first, last) = (first.max(-BEYOND_CELLS), last.min(BEYOND_CELLS));
        }
        let end = if way > 0.0 { lines.last_before(to + way).max(last) } else { last };
        AxisMotion { lines, from, to, way, skin, padding, mirror, first, last, end }
    }

    /// The way of a point.
    #[inline(always)]
    pub(super) fn of_point(lines: Axis, from: f64, way: f64) -> AxisMotion {
        let mirror = mirror_of(way);
        let (from, way) = (mirrored(from, mirror), way.abs());
        let first = lines.at(from);
        let end = if way > 0.0 { lines.last_before(from + way).max(first) } else { first };
        let to = from;
        AxisMotion {
            lines,
            from,
            to,
            way,
            skin: 0.0,
            padding: 0.0,
            mirror,
            first,
            last: first,
            end,
        }
    }

    /// The same way of a point over groups of so many lines, a power of two.
    #[inline]
    pub(super) fn over(&self, count: u32) -> AxisMotion {
        let (lines, bits) = (self.lines.grouped(count), count.trailing_zeros());
        let (first, last, end) = (self.first >> bits, self.last >> bits, self.end >> bits);
        AxisMotion { lines, first, last, end, ..*self }
    }
}

// Ask.
impl AxisMotion {
    /// A line as it is in the map, or one of the map as it is here.
    #[inline]
    pub(super) const fn real(&self, line: i64) -> i64 {
        line ^ self.mirror
    }

    #[inline]
    pub(super) fn moves(&self) -> bool {
        self.way != 0.0
    }

    /// Whether a point begins exactly on the edge by which it enters its first line.
    #[inline]
    pub(super) fn begins_on_edge(&self) -> bool {
        self.distance_to(self.first) == 0.0 && self.moves()
    }

    #[inline]
    pub(super) const fn way(&self) -> f64 {
        self.way
    }

    #[inline]
    pub(super) const fn first(&self) -> i64 {
        self.first
    }

    /// The last line that it spans before it moves.
    #[inline]
    pub(super) const fn last(&self) -> i64 {
        self.last
    }

    /// The last line that it enters before its end; [`AxisMotion::last`] where it enters none, as in
    /// most steps of most bodies.
    #[inline]
    pub(super) const fn end(&self) -> i64 {
        self.end
    }

    /// The last line that it has entered before it has gone so far.
    #[inline]
    pub(super) fn entered_before(&self, gone: f64) -> i64 {
        self.lines.last_before(self.to + gone).max(self.last)
    }

    /// The last line that it enters while the box is in a line of the other direction.
    #[inline]
    pub(super) fn entered_in(&self, other: &AxisMotion, line: i64) -> i64 {
        let gone = other.gone_past(line);
        if gone >= other.way {
            self.end
        } else {
            self.entered_before(self.gone_with(other, gone)).min(self.end)
        }
    }

    /// The trailing and the leading line that it spans when it has gone so far; a line whose edge
    /// it has just come to is entered, and one whose edge it is just off has been left.
    #[inline]
    pub(super) fn span_after(&self, gone: f64) -> (i64, i64) {
        let lead = self.lines.at(self.to + gone).max(self.last);
        (self.trail(gone).min(lead), if self.moves() { lead } else { self.last })
    }

    /// The same, where a line whose edge it has just come to is not entered yet.
    pub(super) fn span_before(&self, gone: f64) -> (i64, i64) {
        let lead = self.entered_before(gone);
        (self.trail(gone).min(lead), lead)
    }

    #[inline]
    fn trail(&self, gone: f64) -> i64 {
        self.lines.at(self.from + gone + self.skin).max(self.first)
    }

    /// The last line that a point covers before it has gone so far, and the first one from there
    /// on: two where it comes to an edge just then. Neither lies before `now`, or beyond the end.
    #[inline]
    pub(super) fn around(&self, gone: f64, now: i64) -> (i64, i64) {
        let (line, on_edge) = self.lines.split(self.from + gone);
        let last = (line - i64::from(on_edge)).max(now).min(self.end);
        (last, line.max(last).min(self.end))
    }

    /// How far it has gone when it comes to the edge by which it enters a line; no way where it
    /// lies behind that, by no more than a skin.
    #[inline]
    pub(super) fn gone_to(&self, line: i64) -> f64 {
        let gone = self.lines.edge(line) - self.to;
        if gone > 0.0 { gone } else { 0.0 }
    }

    /// How far it is from where a point begins to the edge by which it enters a line.
    #[inline]
    pub(super) fn distance_to(&self, line: i64) -> f64 {
        self.lines.edge(line) - self.from
    }

    /// How far it has gone when it lies in a line by more than a skin.
    pub(super) fn gone_into(&self, line: i64) -> f64 {
        self.lines.edge(line) - (self.to - self.skin)
    }

    /// How far it has gone when it has left a line behind.
    #[inline]
    pub(super) fn gone_past(&self, line: i64) -> f64 {
        self.lines.edge(line + 1) - (self.from + self.skin)
    }

    /// How far it has gone when the box has gone so far in the other direction; no way where it
    /// does not move.
    #[inline]
    pub(super) fn gone_with(&self, other: &AxisMotion, gone: f64) -> f64 {
        (gone * self.way) / other.way
    }

    /// The same by lines of both: how many it comes over while the other comes over one.
    #[inline]
    pub(super) fn lines_with(&self, other: &AxisMotion) -> f64 {
        (self.way / other.way) * (other.lines.side() / self.lines.side())
    }

    /// How many lines a point is beyond the beginning of one, when it has gone so far.
    #[inline]
    pub(super) fn lines_from(&self, line: i64, gone: f64) -> f64 {
        (self.from + gone - self.lines.edge(line)) / self.lines.side()
    }

    /// The part of the motion after which it enters a line.
    #[inline]
    pub(super) fn fraction(&self, line: i64) -> f64 {
        self.gone_to(line) / self.way
    }

    /// Of some lines, from the middle of the box outwards after it has gone so far, the first that
    /// is wanted; of two as near, the one to the left or above.
    pub(super) fn nearest(
        &self,
        (a, b): (i64, i64),
        gone: f64,
        mut is_wanted: impl FnMut(i64) -> bool,
    ) -> Option<i64> {
        let (a, b) = (self.real(a), self.real(b));
        let (first, last) = (a.min(b), a.max(b));
        let middle = self.real_place((self.from + self.to) / 2.0 + gone);
        let distance = |line: i64| {
            let center = (self.lines.edge(line) + self.lines.edge(line + 1)) / 2.0;
            (center - middle).abs()
        };
        let mut low = self.lines.last_before(middle).min(last);
        let mut high = low.max(first - 1) + 1;
        while first <= low || high <= last {
            let down = first <= low && (last < high || distance(low) <= distance(high));
            let line = if down { low } else { high };
            if is_wanted(self.real(line)) {
                return Some(self.real(line));
            }
            if down {
                low -= 1;
            } else {
                high += 1;
            }
        }
        None
    }
}

// Give places of the map.
impl AxisMotion {
    #[inline]
    fn real_place(&self, place: f64) -> f64 {
        mirrored(place, self.mirror)
    }

    /// The side of a cell by which a line is entered, where this is the direction across columns
    /// or down rows.
    pub(super) const fn side_met(&self, sideways: bool) -> Side {
        match (sideways, self.mirror == 0) {
            (true, true) => Side::Left,
            (true, false) => Side::Right,
            (false, true) => Side::Top,
            (false, false) => Side::Bottom,
        }
    }

    /// The edge by which a line is entered.
    pub(super) fn edge(&self, line: i64) -> f64 {
        self.real_place(self.lines.edge(line))
    }

    /// Where a point is that has gone so far.
    pub(super) fn place(&self, gone: f64) -> f64 {
        self.real_place(self.from + gone)
    }

    /// Where the box begins and ends when it touches the edge of a line.
    pub(super) fn touching(&self, line: i64) -> (f64, f64) {
        let edge = self.lines.edge(line);
        self.ends((edge - (self.to - self.from), edge))
    }

    /// Where it begins and ends after a part of the motion.
    pub(super) fn after(&self, fraction: f64) -> (f64, f64) {
        let gone = self.way * fraction;
        self.ends((self.from + gone, self.to + gone))
    }

    fn ends(&self, (from, to): (f64, f64)) -> (f64, f64) {
        let (from, to) = (from + self.padding, to - self.padding);
        let to = if to > from { to } else { from };
        if self.mirror == 0 { (from, to) } else { (-to, -from) }
    }
}
