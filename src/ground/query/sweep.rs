//! Bodies in motion: how far one gets in a straight line, and what stops it.

use super::axis_motion::AxisMotion;
use super::bodies::{self, Meeting, is_giant};
use super::body::{Body, hidden};
use super::boxes::{self, Met};
use super::solid::Solid;
use crate::ground::shape::{Core, ShapePart, Touch};
use crate::ground::state::GroundMap;
use crate::lattice::Axis;
use crate::quilt::{GroundClass, MoverId};
use crate::units::{CellPos, Side, WorldPoint, WorldRect, WorldVec};

/// A contact of a body with what stops it.
#[derive(Clone, Copy, Debug, PartialEq)]
#[non_exhaustive]
pub struct Contact {
    /// The cell that was met; of several at once the one nearest to the middle of the body, of
    /// two as near the one to the left or above. It lies beyond the bounds of the map where the
    /// outside has stopped the body.
    pub cell: CellPos,
    /// Which of its sides: of a slope, or of a corner, the one to which its normal leads most, and
    /// the upper or lower one of two that are alike.
    pub side: Side,
    /// The direction away from what was met, one unit long.
    pub normal: WorldVec,
    /// Which of the shapes was met that [`GroundMap::solids_at`] gives for the cell.
    pub piece: usize,
    /// Which part of the outline of that shape was met, as it lies there.
    pub part: ShapePart,
    /// Where they touch: the middle of what the two have in common.
    pub point: WorldPoint,
    /// The class of the cell, where it has one.
    pub class: Option<GroundClass>,
}

/// The path of a body in a straight line until something stops it.
#[derive(Clone, Copy, Debug, PartialEq)]
#[non_exhaustive]
pub struct Sweep<B = WorldRect> {
    /// The part of the motion until the contact, 0 to 1; 1 without one.
    pub fraction: f64,
    /// Where the body is then. It touches the cell that has stopped it.
    pub end: B,
    /// What has stopped it.
    pub contact: Option<Contact>,
}

/// How a mover meets the cells of a map.
impl GroundMap {
    /// Moves a body in a straight line until a cell stops it that the mover cannot enter.
    ///
    /// Touching is free: a body may lie against a cell and move along it, and one that ends exactly
    /// at an edge has met nothing. Where two edges are reached at once, the one to the side counts
    /// first. Cells in which the body is already by more than [`GroundMap::SKIN`] do not hold it,
    /// so that it can leave them; it enters no further ones. A motion that is not finite is none.
    ///
    /// Costs a look at each row of cells that the body comes over within the bounds of the map, and
    /// at the outline of each cell that does not fill it; of bodies that are no boxes, of each cell.
    ///
    /// ```
    /// use sturdy_quilt::{CellPos, GroundMap, Side, WorldPoint, WorldRect, WorldVec};
    /// # let quilt = sturdy_quilt::doc_quilt();
    ///
    /// let (ground, walker) = (GroundMap::of(&quilt), quilt.mover("walker")?);
    /// let body = WorldRect::between(WorldPoint::new(2.0, 3.0), WorldPoint::new(12.0, 13.0));
    /// // The wall is the cell 2,0: its left side lies at x = 32.
    /// let sweep = ground.sweep(walker, body, WorldVec::new(40.0, 0.0));
    /// assert_eq!((sweep.fraction, sweep.end.max().x), (0.5, 32.0));
    /// let contact = sweep.contact.unwrap();
    /// assert_eq!((contact.cell, contact.side), (CellPos::new(2, 0), Side::Left));
    /// # Ok::<(), sturdy_quilt::NameError>(())
    /// ```
    pub fn sweep<B: Body>(&self, mover: MoverId, body: B, motion: WorldVec) -> Sweep<B> {
        match body.as_box() {
            Some(own) => {
                let Sweep { fraction, end, contact } = self.sweep_box(mover, own, motion);
                Sweep { fraction, end: body.placed(end), contact }
            }
            None => self.sweep_body(mover, body, motion),
        }
    }

    /// The same for a box.
    #[inline]
    pub(super) fn sweep_box(&self, mover: MoverId, body: WorldRect, motion: WorldVec) -> Sweep {
        // Where anything is no finite number, the end is none either.
        let end = body.shifted(motion);
        let (end, motion) = if all_finite(end) { (end, motion) } else { (body, WorldVec::ZERO) };
        let free = Sweep { fraction: 1.0, end, contact: None };
        let x = AxisMotion::of_box(self.lattice().columns(), body.min().x, body.max().x, motion.x);
        let y = AxisMotion::of_box(self.lattice().rows(), body.min().y, body.max().y, motion.y);
        let enters_none = x.end() == x.last() && y.end() == y.last();
        if enters_none && !self.has_parts() {
            return free;
        }
        let met = match Solid::on_way(self, mover, (&x, &y)) {
            Some([mut across, mut down]) => {
                boxes::first_met(&mut across, Some(&mut down), (&x, &y))
            }
            None => boxes::first_met(&mut Solid::whole(self, mover), None, (&x, &y)),
        };
        if let Some(parts) = Solid::parts(self, mover)
            && let Some(sweep) = self.sweep_to_parts(mover, parts, body, motion, met.as_ref())
        {
            return sweep;
        }
        let Some(met) = met else { return free };
        let Met { fraction, sideways, column, row } = met;
        let (left, right) = if sideways { x.touching(column) } else { x.after(fraction) };
        let (top, bottom) = if sideways { y.after(fraction) } else { y.touching(row) };
        let end = WorldRect::ordered(WorldPoint::new(left, top), WorldPoint::new(right, bottom));
        let side = if sideways { x.side_met(true) } else { y.side_met(false) };
        let cell = CellPos::saturating(x.real(column), y.real(row));
        let (point, class) = (self.touch(end, cell, side), self.class_met(mover, cell, None));
        let (normal, part) = (side.normal(), ShapePart::of_side(side));
        let contact = Contact { cell, side, normal, piece: 0, part, point, class };
        Sweep { fraction, end, contact: Some(contact) }
    }

    /// The same where a cell that does not fill its place stops a box before a whole one does.
    #[cold]
    fn sweep_to_parts(
        &self,
        mover: MoverId,
        parts: Solid<'_>,
        body: WorldRect,
        motion: WorldVec,
        met: Option<&Met>,
    ) -> Option<Sweep> {
        let core = hidden::Body::core(&body, self.least_width());
        let before = met.map_or(1.0, |met| met.fraction);
        let first = bodies::first_met(self, mover, parts, (&core, body), motion, before)?;
        Some(self.stopped(mover, body, (&core, motion), first))
    }

    /// How far a body gets that is no box.
    fn sweep_body<B: Body>(&self, mover: MoverId, body: B, motion: WorldVec) -> Sweep<B> {
        let (bounds, core) = (body.bounds(), body.core(self.least_width()));
        let are_numbers = core.is_finite() && all_finite(bounds.shifted(motion));
        let motion = if are_numbers { motion } else { WorldVec::ZERO };
        if is_giant(self, bounds) {
            let Sweep { fraction, contact, .. } = self.sweep_box(mover, bounds, motion);
            return Sweep { fraction, end: body.moved(motion * fraction), contact };
        }
        let solid = Solid::by_any_side(self, mover);
        // Beyond all lines nothing more is met, and the square of a longer way may not be a number.
        let over = |lines: Axis, way: f64| way.abs() / (2.0 * lines.farthest());
        let (columns, rows) = (self.lattice().columns(), self.lattice().rows());
        let over = over(columns, motion.x).max(over(rows, motion.y));
        let share = if over > 1.0 { 1.0 / over } else { 1.0 };
        let near = motion * share;
        match bodies::first_met(self, mover, solid, (&core, bounds), near, 1.0) {
            Some(meeting) => {
                let sweep = self.stopped(mover, body, (&core, near), meeting);
                Sweep { fraction: sweep.fraction * share, ..sweep }
            }
            None => Sweep { fraction: 1.0, end: body.moved(motion), contact: None },
        }
    }

    /// Where a body is that has met something.
    fn stopped<B: Body>(
        &self,
        mover: MoverId,
        body: B,
        (core, motion): (&Core, WorldVec),
        Meeting { touch, column, row, piece, .. }: Meeting,
    ) -> Sweep<B> {
        let Touch { fraction, normal, part } = touch;
        let cell = CellPos::saturating(column, row);
        let solid = &self.solids_met(mover, cell)[piece];
        let convex = &solid.convex;
        let corner =
            WorldPoint::new(self.lattice().columns().edge(column), self.lattice().rows().edge(row));
        let mut end = body.moved(motion * fraction);
        let point = match part {
            ShapePart::Corner(at) => corner + convex.corners()[usize::from(at)],
            ShapePart::Edge(at) => {
                let (from, to) = convex.edge(at.into());
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

    /// Where a box touches a side of a cell.
    fn touch(&self, body: WorldRect, cell: CellPos, side: Side) -> WorldPoint {
        let cell = self.lattice().bounds(cell);
        let middle = |a: (f64, f64), b: (f64, f64)| f64::midpoint(a.0.max(b.0), a.1.min(b.1));
        let (min, max) = (body.min(), body.max());
        let x = middle((min.x, max.x), (cell.min().x, cell.max().x));
        let y = middle((min.y, max.y), (cell.min().y, cell.max().y));
        match side {
            Side::Left => WorldPoint::new(max.x, y),
            Side::Right => WorldPoint::new(min.x, y),
            Side::Top => WorldPoint::new(x, max.y),
            Side::Bottom => WorldPoint::new(x, min.y),
        }
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

/// Whether no number of a rectangle is infinite or none at all.
fn all_finite(rect: WorldRect) -> bool {
    // A finite number less itself is 0, and nothing else is: one question for all four.
    let (min, max) = (rect.min() - rect.min(), rect.max() - rect.max());
    (min.x + min.y) + (max.x + max.y) == 0.0
}
