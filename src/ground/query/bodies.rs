//! Bodies of any outline, and cells of which a part is solid: what is met first, and what lies in
//! what.
//!
//! The cells that the rectangle around a body comes over are looked at in the order in which it
//! comes to them, a row at a time as with boxes, and each with its outline. What comes later than
//! what was met already is not looked at.

use super::axis_motion::AxisMotion;
use super::solid::{Solid, first_bit};
use crate::ground::shape::{ConvexShape, Core, Sum, Touch, from_corner};
use crate::ground::state::{GroundMap, SolidPart, Stopping};
use crate::lattice::Axis;
use crate::quilt::MoverId;
use crate::units::{CellPos, Side, WorldPoint, WorldRect, WorldVec};

/// What a body meets first, with what puts it before others that are met at the same time.
#[derive(Clone, Copy, Debug)]
pub(super) struct Meeting {
    pub(super) touch: Touch,
    pub(super) column: i64,
    pub(super) row: i64,
    /// The piece of what is solid of the cell.
    pub(super) piece: usize,
    /// The square of that from the middle of the cell to that of the body.
    distance: f64,
}

/// Whether a body spans so many cells that it counts as a box.
pub(super) fn is_giant(ground: &GroundMap, bounds: WorldRect) -> bool {
    spans_more(ground, bounds, GroundMap::MAX_BODY_CELLS)
}

/// Whether a body spans more cells than so many, in either direction, or lies where lines are no
/// longer told apart.
pub(super) fn spans_more(ground: &GroundMap, bounds: WorldRect, most: u32) -> bool {
    let (columns, rows) = (ground.lattice().columns(), ground.lattice().rows());
    let spans = |lines: Axis, from: f64, to: f64| {
        to - from > f64::from(most) * lines.side() || !lines.reach(from) || !lines.reach(to)
    };
    let (min, max) = (bounds.min(), bounds.max());
    spans(columns, min.x, max.x) || spans(rows, min.y, max.y)
}

/// Whether a body lies in any of some cells by more than a skin.
pub(super) fn lies_in(
    ground: &GroundMap,
    mover: MoverId,
    mut solid: Solid<'_>,
    (core, bounds): (&Core, WorldRect),
) -> bool {
    let ((left, right), (top, bottom)) = ground.lines_under(bounds);
    let mut sums = Sums::of_body(core);
    let mut holds = |column: i64, row: i64| {
        let cell = CellPos::saturating(column, row);
        let point = from_corner(ground.lattice(), column, row, core.at);
        ground.solids_met(mover, cell).iter().any(|solid| {
            let sum = sums.of(&solid.convex);
            sum.holds(point, core.radius, ground.skin())
                && ground.treatment_of(mover, cell, solid).blocks()
        })
    };
    if let Some((chunk, columns)) = solid.chunk_of_all((left, right), (top, bottom)) {
        let mut bits = (top..=bottom).map(|row| (row, chunk.row(row) & columns));
        return bits.any(|(row, word)| in_chunk(left, word).any(|column| holds(column, row)));
    }
    solid.cells_in(((left, right), (top, bottom))).any(|(column, row)| holds(column, row))
}

/// The columns of the bits of a row of a chunk in which some column lies.
fn in_chunk(column: i64, mut word: u64) -> impl Iterator<Item = i64> {
    std::iter::from_fn(move || {
        let bit = (word != 0).then(|| i64::from(word.trailing_zeros()))?;
        word &= word - 1;
        Some((column & !63) + bit)
    })
}

/// What a body meets first of some cells before a part of its motion, with all of their outlines.
pub(super) fn first_met(
    ground: &GroundMap,
    mover: MoverId,
    mut solid: Solid<'_>,
    (core, bounds): (&Core, WorldRect),
    motion: WorldVec,
    before: f64,
) -> Option<Meeting> {
    if motion == WorldVec::ZERO {
        return None;
    }
    let lattice = ground.lattice();
    let x = AxisMotion::of_box(lattice.columns(), bounds.min().x, bounds.max().x, motion.x);
    let y = AxisMotion::of_box(lattice.rows(), bounds.min().y, bounds.max().y, motion.y);
    let mut trip = Trip::new(ground, mover, (core, bounds), motion, before);
    // Where the whole way lies in one chunk, as most do: its cells, and the columns that matter.
    let near = solid.chunk_around(&x, &y);
    if matches!(near, Some((Stopping::None, _))) {
        return None;
    }
    let is_free_near =
        |row: i64| near.is_some_and(|(chunk, columns)| chunk.row(y.real(row)) & columns == 0);
    let (mut row, mut last) = solid.rows_between(&y, (y.first(), y.end()));
    if !x.moves() {
        last = solid.before_repeating(row, last);
    }
    // When it comes to a line: those that it spans from the beginning at once.
    let time = |axis_motion: &AxisMotion, line: i64| {
        if line <= axis_motion.last() { 0.0 } else { axis_motion.fraction(line) }
    };
    while row <= last {
        if is_free_near(row) {
            row += 1;
            continue;
        }
        if row & 63 == 0
            && row + 63 <= last
            && solid.is_free_chunk_row(y.real(row) >> 6, x.real(x.first()), x.real(x.end()))
        {
            row += 64;
            continue;
        }
        if time(&y, row) > trip.limit() {
            break;
        }
        let is_spanned = row <= y.last() || !y.moves();
        let trail =
            if is_spanned { x.first() } else { x.span_after(x.gone_with(&y, y.gone_to(row))).0 };
        let end = x.entered_in(&y, row);
        let mut from = trail;
        while from <= end {
            let (row, from_column, to_column) = (y.real(row), x.real(from), x.real(end));
            let found = match near {
                Some((chunk, _)) => first_bit(chunk.row(row), from_column, to_column),
                None => solid.first_in_row(row, from_column, to_column),
            };
            let Some(column) = found.filter(|column| time(&x, x.real(*column)) <= trip.limit())
            else {
                break;
            };
            trip.look_at(column, row);
            from = x.real(column) + 1;
        }
        row += 1;
    }
    trip.first
}

/// A body on its way, with what it has met so far.
struct Trip<'a> {
    ground: &'a GroundMap,
    mover: MoverId,
    core: &'a Core,
    /// Where its middle is before it moves.
    middle: WorldPoint,
    motion: WorldVec,
    before: f64,
    is_one_way: bool,
    sums: Sums<'a>,
    first: Option<Meeting>,
}

impl<'a> Trip<'a> {
    fn new(
        ground: &'a GroundMap,
        mover: MoverId,
        (core, bounds): (&'a Core, WorldRect),
        motion: WorldVec,
        before: f64,
    ) -> Trip<'a> {
        let is_one_way = ground.table(mover).is_some_and(|table| table.is_one_way);
        let (middle, sums) = (bounds.center(), Sums::of_body(core));
        Trip { ground, mover, core, middle, motion, before, is_one_way, sums, first: None }
    }

    /// What is met later than this does not matter.
    fn limit(&self) -> f64 {
        self.first.map_or(self.before, |met| met.touch.fraction)
    }

    /// Looks at what is solid of a cell.
    fn look_at(&mut self, column: i64, row: i64) {
        let solids = self.ground.solids_met(self.mover, CellPos::saturating(column, row));
        for (piece, solid) in solids.iter().enumerate() {
            self.look_at_piece(column, row, piece, solid);
        }
    }

    fn look_at_piece(&mut self, column: i64, row: i64, piece: usize, solid: &'a SolidPart) {
        let (ground, cell) = (self.ground, CellPos::saturating(column, row));
        let treatment = self.is_one_way.then(|| ground.treatment_of(self.mover, cell, solid));
        let stops = |normal| treatment.is_none_or(|held| held.stops_at(Side::facing(normal)));
        let point = from_corner(ground.lattice(), column, row, self.core.at);
        let from = (point, self.core.radius);
        let touch = self.sums.of(&solid.convex).enter(from, self.motion, ground.skin(), stops);
        let Some(touch) = touch.filter(|touch| touch.fraction < self.before) else { return };
        let lattice = ground.lattice();
        let middle = self.middle + self.motion * touch.fraction;
        let half = WorldVec::new(lattice.cell_width(), lattice.cell_height()) * 0.5;
        let from_middle = from_corner(lattice, column, row, middle) - half;
        let distance = from_middle.dot(from_middle);
        let meeting = Meeting { touch, column, row, piece, distance };
        if self.first.as_ref().is_none_or(|held| meeting.order() < held.order()) {
            self.first = Some(meeting);
        }
    }
}

/// The sums of a body with convex shapes: that with the convex shape which was asked for last is kept.
struct Sums<'a> {
    core: &'a Core,
    last: Option<(&'a ConvexShape, Sum)>,
}

impl<'a> Sums<'a> {
    const fn of_body(core: &'a Core) -> Sums<'a> {
        Sums { core, last: None }
    }

    fn of(&mut self, convex: &'a ConvexShape) -> &Sum {
        if self.core.is_point() {
            return convex.sum_of_point();
        }
        if !self.last.as_ref().is_some_and(|(held, _)| std::ptr::eq(*held, convex)) {
            self.last = None;
        }
        &self.last.get_or_insert_with(|| (convex, convex.sum_with(self.core))).1
    }
}

impl Meeting {
    /// What comes sooner, then what is met sideways, then what is nearer, then the lesser cell.
    fn order(&self) -> (f64, bool, f64, i64, i64) {
        let is_upright = Side::facing(self.touch.normal).is_upright();
        (self.touch.fraction, !is_upright, self.distance, self.row, self.column)
    }
}
