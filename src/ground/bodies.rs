//! Bodies of any outline, and cells of which a part is solid: what is met first, and what lies in
//! what.
//!
//! The cells that the rectangle around a body comes over are looked at in the order in which it
//! comes to them, a row at a time as with boxes, and each with its outline. What comes later than
//! what was met already is not looked at.

use super::GroundMap;
use super::body::{Body, Core};
use super::course::Course;
use super::forms::{Form, from_corner};
use super::mask::Stopping;
use super::minkowski::{Sum, Touch};
use super::motion::{Contact, ShapePart, Sweep, cell_of, is_finite};
use super::parts::SolidPart;
use super::stopping::{Solid, first_bit};
use crate::lattice::Lines;
use crate::quilt::MoverId;
use crate::units::{Side, WorldPoint, WorldRect, WorldVec};

/// What a body meets first, with what puts it before others that are met at the same time.
#[derive(Clone, Copy, Debug)]
pub(super) struct Meeting {
    pub(super) touch: Touch,
    column: i64,
    row: i64,
    /// The piece of what is solid of the cell.
    piece: usize,
    /// The square of that from the middle of the cell to that of the body.
    distance: f64,
}

/// How far a body gets that is no box.
pub(super) fn sweep<B: Body>(
    ground: &GroundMap,
    mover: MoverId,
    body: B,
    motion: WorldVec,
) -> Sweep<B> {
    let (bounds, core) = (body.bounds(), body.core(ground.least_width()));
    let are_numbers = core.is_finite() && is_finite(bounds.shifted(motion));
    let motion = if are_numbers { motion } else { WorldVec::ZERO };
    if is_giant(ground, bounds) {
        let Sweep { fraction, contact, .. } = ground.sweep_box(mover, bounds, motion);
        return Sweep { fraction, end: body.moved(motion * fraction), contact };
    }
    let solid = Solid::by_any_side(ground, mover);
    // Beyond all lines nothing more is met, and the square of a longer way may be no number.
    let over = |lines: Lines, way: f64| way.abs() / (2.0 * lines.farthest());
    let (columns, rows) = (ground.lattice().columns(), ground.lattice().rows());
    let over = over(columns, motion.x).max(over(rows, motion.y));
    let share = if over > 1.0 { 1.0 / over } else { 1.0 };
    let near = motion * share;
    match first_met(ground, mover, solid, (&core, bounds), near, 1.0) {
        Some(meeting) => {
            let sweep = ground.stopped(mover, body, (&core, near), meeting);
            Sweep { fraction: sweep.fraction * share, ..sweep }
        }
        None => Sweep { fraction: 1.0, end: body.moved(motion), contact: None },
    }
}

/// Whether a body that is no box lies in anything by more than a skin.
pub(super) fn overlaps<B: Body>(ground: &GroundMap, mover: MoverId, body: &B) -> bool {
    if is_giant(ground, body.bounds()) {
        return ground.box_overlaps(mover, body.bounds());
    }
    let core = body.core(ground.least_width());
    lies_in(ground, mover, Solid::new(ground, mover), (&core, body.bounds()))
}

/// Whether a body spans so many cells that it counts as a box.
pub(super) fn is_giant(ground: &GroundMap, bounds: WorldRect) -> bool {
    spans_more(ground, bounds, GroundMap::MOST_BODY_CELLS)
}

/// Whether a body spans more cells than so many, in either direction, or lies where lines are no
/// longer told apart.
pub(super) fn spans_more(ground: &GroundMap, bounds: WorldRect, most: u32) -> bool {
    let (columns, rows) = (ground.lattice().columns(), ground.lattice().rows());
    let spans = |lines: Lines, from: f64, to: f64| {
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
        let cell = cell_of(column, row);
        let point = from_corner(ground.lattice(), column, row, core.at);
        ground.solids_met(mover, cell).iter().any(|solid| {
            let sum = sums.of(&solid.form);
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
    let x = Course::of_box(lattice.columns(), bounds.min().x, bounds.max().x, motion.x);
    let y = Course::of_box(lattice.rows(), bounds.min().y, bounds.max().y, motion.y);
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
    let time = |course: &Course, line: i64| {
        if line <= course.last() { 0.0 } else { course.fraction(line) }
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
        let solids = self.ground.solids_met(self.mover, cell_of(column, row));
        for (piece, solid) in solids.iter().enumerate() {
            self.look_at_piece(column, row, piece, solid);
        }
    }

    fn look_at_piece(&mut self, column: i64, row: i64, piece: usize, solid: &'a SolidPart) {
        let (ground, cell) = (self.ground, cell_of(column, row));
        let treatment = self.is_one_way.then(|| ground.treatment_of(self.mover, cell, solid));
        let stops = |normal| treatment.is_none_or(|held| held.stops_at(Side::facing(normal)));
        let point = from_corner(ground.lattice(), column, row, self.core.at);
        let from = (point, self.core.radius);
        let touch = self.sums.of(&solid.form).enter(from, self.motion, ground.skin(), stops);
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

/// The sums of a body with forms: that with the form which was asked for last is kept.
struct Sums<'a> {
    core: &'a Core,
    last: Option<(&'a Form, Sum)>,
}

impl<'a> Sums<'a> {
    const fn of_body(core: &'a Core) -> Sums<'a> {
        Sums { core, last: None }
    }

    fn of(&mut self, form: &'a Form) -> &Sum {
        if self.core.is_point() {
            return form.sum_of_point();
        }
        if !self.last.as_ref().is_some_and(|(held, _)| std::ptr::eq(*held, form)) {
            self.last = None;
        }
        &self.last.get_or_insert_with(|| (form, Sum::new(form, self.core))).1
    }
}

impl Meeting {
    /// What comes sooner, then what is met sideways, then what is nearer, then the lesser cell.
    fn order(&self) -> (f64, bool, f64, i64, i64) {
        let is_upright = Side::facing(self.touch.normal).is_upright();
        (self.touch.fraction, !is_upright, self.distance, self.row, self.column)
    }
}

impl GroundMap {
    /// A body that spans more cells than this in either direction counts as the box around it.
    pub const MOST_BODY_CELLS: u32 = 256;

    /// The skin in both directions, in world units.
    pub(super) fn skin(&self) -> WorldVec {
        let lattice = self.lattice();
        WorldVec::new(lattice.cell_width(), lattice.cell_height()) * GroundMap::SKIN
    }

    /// The lesser of the two.
    pub(super) fn thin(&self) -> f64 {
        let skin = self.skin();
        skin.x.min(skin.y)
    }

    /// As wide is a body made that is thinner: between two long cells, one thinner than two of
    /// their skins would lie in neither.
    pub(super) fn least_width(&self) -> f64 {
        let skin = self.skin();
        (4.0 * self.thin()).max(2.5 * skin.x.max(skin.y))
    }

    /// Where a body is that has met something.
    pub(super) fn stopped<B: Body>(
        &self,
        mover: MoverId,
        body: B,
        (core, motion): (&Core, WorldVec),
        Meeting { touch, column, row, piece, .. }: Meeting,
    ) -> Sweep<B> {
        let Touch { fraction, normal, part } = touch;
        let cell = cell_of(column, row);
        let solid = &self.solids_met(mover, cell)[piece];
        let form = &solid.form;
        let corner =
            WorldPoint::new(self.lattice().columns().edge(column), self.lattice().rows().edge(row));
        let mut end = body.moved(motion * fraction);
        let point = match part {
            ShapePart::Corner(at) => corner + form.corners()[usize::from(at)],
            ShapePart::Edge(at) => {
                let (from, to) = form.edge(at.into());
                if normal.x == 0.0 || normal.y == 0.0 {
                    let edge = corner + from;
                    end = end.touching(normal, if normal.x == 0.0 { edge.y } else { edge.x });
                }
                // The middle of what the edge and the body have in common.
                let along = (to - from) * (1.0 / (to - from).length());
                let core_at = core.at + motion * fraction - corner;
                let (first, last) = facing(core, normal, along, core_at);
                let (begin, end) = (along.dot(from), along.dot(to));
                let middle = f64::midpoint(first.max(begin), last.min(end));
                corner + from + along * (middle - begin)
            }
        };
        let (class, side) = (self.class_met(mover, cell, Some(solid)), Side::facing(normal));
        let contact = Contact { cell, side, normal, piece, part, point, class };
        Sweep { fraction, end, contact: Some(contact) }
    }
}

/// From where to where a body faces an edge, along its direction.
fn facing(core: &Core, normal: WorldVec, along: WorldVec, at: WorldVec) -> (f64, f64) {
    let reach = |corner: &WorldVec| -normal.dot(*corner);
    let furthest = core.corners().iter().map(reach).fold(f64::NEG_INFINITY, f64::max);
    let rounding = 1e-9 * (1.0 + furthest.abs());
    let near = core.corners().iter().filter(|corner| reach(corner) >= furthest - rounding);
    near.map(|corner| along.dot(*corner + at))
        .fold((f64::INFINITY, f64::NEG_INFINITY), |ends, place| {
            (ends.0.min(place), ends.1.max(place))
        })
}
