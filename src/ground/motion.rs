//! Boxes in motion: how far a box gets, what stops it, and how it slides along.

use super::GroundMap;
use super::course::Course;
use super::stopping::Solid;
use super::sweep::{Met, first_met};
use crate::quilt::MoverId;
use crate::units::{CellPos, WorldPoint, WorldRect, WorldVec};

/// The side of a cell that a moving box has met.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub enum Side {
    /// Its left side: the box moved to the right.
    Left,
    /// Its right side: the box moved to the left.
    Right,
    /// Its upper side: the box moved down.
    Top,
    /// Its lower side: the box moved up.
    Bottom,
}

impl Side {
    /// Whether it stops motion to the left or right, and not up or down.
    pub const fn is_upright(self) -> bool {
        matches!(self, Side::Left | Side::Right)
    }

    /// The direction away from the cell, one unit long.
    pub const fn normal(self) -> WorldVec {
        match self {
            Side::Left => WorldVec::new(-1.0, 0.0),
            Side::Right => WorldVec::new(1.0, 0.0),
            Side::Top => WorldVec::new(0.0, -1.0),
            Side::Bottom => WorldVec::new(0.0, 1.0),
        }
    }

    /// The word for it.
    pub const fn name(self) -> &'static str {
        match self {
            Side::Left => "left",
            Side::Right => "right",
            Side::Top => "top",
            Side::Bottom => "bottom",
        }
    }
}

/// What has stopped a box.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
#[non_exhaustive]
pub struct Contact {
    /// The cell that was met; of several at once the one nearest to the middle of the box. It
    /// lies beyond the bounds of the map where the outside has stopped the box.
    pub cell: CellPos,
    /// Which of its sides.
    pub side: Side,
}

/// How far a box gets in a straight line.
#[derive(Clone, Copy, Debug, PartialEq)]
#[non_exhaustive]
pub struct Sweep {
    /// The part of the motion until the contact, 0 to 1; 1 without one.
    pub fraction: f64,
    /// Where the box is then. It touches the cell that has stopped it.
    pub end: WorldRect,
    /// What has stopped it.
    pub contact: Option<Contact>,
}

/// How a box moves along what stops it.
#[derive(Clone, Copy, Debug, PartialEq)]
#[non_exhaustive]
pub struct Slide {
    /// Where the box ends.
    pub end: WorldRect,
    contacts: [Option<Contact>; 2],
}

impl Slide {
    /// What the box has met on its way, in that order: at most one cell for each direction.
    pub fn contacts(&self) -> impl Iterator<Item = Contact> + use<> {
        self.contacts.into_iter().flatten()
    }

    /// Whether the box has met a cell from this side: `Side::Top` means that it stands on
    /// something.
    pub fn has_met(&self, side: Side) -> bool {
        self.contacts().any(|contact| contact.side == side)
    }
}

/// How a mover meets the cells of a map.
impl GroundMap {
    /// How far inside a cell a box may be without being in it, as a part of the cell's side.
    ///
    /// A box that was moved away from a wall by other means, or whose place was rounded, may lie
    /// a little inside. Up to this much it is taken as touching: what it lies in neither holds it
    /// nor lets it fall, and it may pass a gap that is narrower than it by twice as much. A box
    /// that is thinner than four of these moves as if it were so wide around its middle.
    pub const SKIN: f64 = 1.0 / 1024.0;

    /// Moves a box in a straight line until a cell stops it that the mover cannot enter.
    ///
    /// Touching is free: a box may lie against a cell and move along it, and one that ends exactly
    /// at an edge has met nothing. Where two edges are reached at once, the one to the side counts
    /// first. Cells in which the box is already by more than [`GroundMap::SKIN`] do not hold it,
    /// so that it can leave them; it enters no further ones. A motion that is not finite is none.
    ///
    /// Costs a look at each cell that the box comes over within the bounds of the map.
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
    pub fn sweep(&self, mover: MoverId, body: WorldRect, motion: WorldVec) -> Sweep {
        // Where anything is no finite number, the end is none either.
        let end = body.shifted(motion);
        let (end, motion) = if is_finite(end) { (end, motion) } else { (body, WorldVec::ZERO) };
        let free = Sweep { fraction: 1.0, end, contact: None };
        let x = Course::of_box(self.lattice().columns(), body.min().x, body.max().x, motion.x);
        let y = Course::of_box(self.lattice().rows(), body.min().y, body.max().y, motion.y);
        if x.end() == x.last() && y.end() == y.last() {
            return free;
        }
        let mut solid = Solid::new(self, mover);
        if solid.is_free(&x, &y) {
            return free;
        }
        let Some(met) = first_met(&mut solid, &x, &y) else { return free };
        let Met { fraction, sideways, column, row } = met;
        let (left, right) = if sideways { x.touching(column) } else { x.after(fraction) };
        let (top, bottom) = if sideways { y.after(fraction) } else { y.touching(row) };
        let end = WorldRect::ordered(WorldPoint::new(left, top), WorldPoint::new(right, bottom));
        let side = if sideways { x.side_met(true) } else { y.side_met(false) };
        let cell = cell_of(x.real(column), y.real(row));
        Sweep { fraction, end, contact: Some(Contact { cell, side }) }
    }

    /// Moves a box, and lets it slide along what stops it: what remains of the motion goes on in
    /// the direction that is free. Costs at most three sweeps.
    ///
    /// ```
    /// use sturdy_quilt::{GroundMap, Side, WorldPoint, WorldRect, WorldVec};
    /// # let quilt = sturdy_quilt::doc_quilt();
    ///
    /// let (ground, walker) = (GroundMap::of(&quilt), quilt.mover("walker")?);
    /// let body = WorldRect::between(WorldPoint::new(22.0, 2.0), WorldPoint::new(32.0, 12.0));
    /// let slide = ground.slide(walker, body, WorldVec::new(5.0, 20.0));
    /// assert_eq!(slide.end.min(), WorldPoint::new(22.0, 22.0));
    /// assert!(slide.has_met(Side::Left) && !slide.has_met(Side::Top));
    /// # Ok::<(), sturdy_quilt::NameError>(())
    /// ```
    pub fn slide(&self, mover: MoverId, body: WorldRect, motion: WorldVec) -> Slide {
        let mut slide = Slide { end: body, contacts: [None; 2] };
        let mut rest = motion;
        for met in 0..=slide.contacts.len() {
            let sweep = self.sweep(mover, slide.end, rest);
            slide.end = sweep.end;
            let Some(contact) = sweep.contact else { break };
            let Some(free) = slide.contacts.get_mut(met) else { break };
            *free = Some(contact);
            rest = rest * (1.0 - sweep.fraction);
            if contact.side.is_upright() {
                rest.x = 0.0;
            } else {
                rest.y = 0.0;
            }
        }
        slide
    }

    /// Moves a box as [`GroundMap::slide`] does, and lets one that stands on something climb what
    /// stops it sideways, if it is not higher than `height` world units: it goes up, across, and
    /// down onto what is there. Costs at most nine sweeps.
    ///
    /// For maps seen from the side. A box in the air does not climb.
    pub fn slide_up_steps(
        &self,
        mover: MoverId,
        body: WorldRect,
        motion: WorldVec,
        height: f64,
    ) -> Slide {
        let flat = self.slide(mover, body, motion);
        let is_stopped = flat.contacts().any(|contact| contact.side.is_upright());
        let below = WorldVec::new(0.0, self.lattice().cell_height() * Self::SKIN);
        if !is_stopped || height <= 0.0 || self.sweep(mover, body, below).contact.is_none() {
            return flat;
        }
        let up = self.sweep(mover, body, WorldVec::new(0.0, -height)).end;
        let across = self.sweep(mover, up, WorldVec::new(motion.x, 0.0));
        let climbed = body.min().y - up.min().y;
        let down = WorldVec::new(0.0, climbed + motion.y.max(0.0));
        let landed = self.sweep(mover, across.end, down);
        let is_further =
            (across.end.min().x - body.min().x).abs() > (flat.end.min().x - body.min().x).abs();
        match landed.contact {
            Some(_) if is_further => {
                Slide { end: landed.end, contacts: [across.contact, landed.contact] }
            }
            _ => flat,
        }
    }
}

fn is_finite(rect: WorldRect) -> bool {
    // A finite number less itself is 0, and nothing else is: one question for all four.
    let (min, max) = (rect.min() - rect.min(), rect.max() - rect.max());
    (min.x + min.y) + (max.x + max.y) == 0.0
}

/// The cell in a column and a row, at the limits of cells where they lie beyond.
pub(super) fn cell_of(column: i64, row: i64) -> CellPos {
    let held = |line: i64| line.clamp(CellPos::MIN.into(), CellPos::MAX.into()) as i32;
    CellPos::new(held(column), held(row))
}
