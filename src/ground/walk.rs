//! How fast a body gets on, and where it may step next.

use super::{Body, GroundMap};
use crate::quilt::MoverId;
use crate::units::{CellPos, Side, WorldPoint, WorldRect};

impl GroundMap {
    /// The cost of a step over ground that does not slow a mover, in the unit of
    /// [`GroundMap::steps`].
    pub const STEP_COST: u32 = 1000;

    /// The factor of its speed that a mover has at a point: 1 where it passes freely, 0 where it
    /// cannot be. For a body that counts as its foot point.
    pub fn speed_at(&self, mover: MoverId, place: WorldPoint) -> f64 {
        self.treatment_at(mover, place).speed()
    }

    /// The slowest factor of speed among the cells under a body, 0 where one of them cannot be
    /// entered. Cells that it only touches, or is in by no more than [`GroundMap::SKIN`], do not
    /// count; an empty box counts as its middle. Of a cell with several parts those count in which
    /// the body lies.
    ///
    /// Costs a look at each cell under the body, up to the first that cannot be entered.
    ///
    /// ```
    /// use sturdy_quilt::{GroundMap, WorldPoint, WorldRect};
    /// # let quilt = sturdy_quilt::doc_quilt();
    ///
    /// let (ground, walker) = (GroundMap::of(&quilt), quilt.mover("walker")?);
    /// let body = WorldRect::between(WorldPoint::new(20.0, 4.0), WorldPoint::new(32.0, 16.0));
    /// assert_eq!(ground.slowest_under(walker, body), 1.0);
    /// assert_eq!(ground.speed_at(walker, WorldPoint::new(33.0, 8.0)), 0.0);
    /// # Ok::<(), sturdy_quilt::NameError>(())
    /// ```
    pub fn slowest_under<B: Body>(&self, mover: MoverId, body: B) -> f64 {
        let mut slowest = None;
        for under in self.overlapping(mover, body) {
            let speed = under.treatment.speed();
            if speed == 0.0 {
                return 0.0;
            }
            slowest = Some(slowest.map_or(speed, |held: f64| held.min(speed)));
        }
        slowest.unwrap_or_else(|| self.speed_over_nothing(mover, body.bounds()))
    }

    /// The mean of the factors of speed under a body, each by the part of the body that lies over
    /// it. Which cells count is as with [`GroundMap::slowest_under`].
    pub fn mean_under<B: Body>(&self, mover: MoverId, body: B) -> f64 {
        let (sum, shares) = self.overlapping(mover, body).fold((0.0, 0.0), |sums, under| {
            (sums.0 + under.treatment.speed() * under.share, sums.1 + under.share)
        });
        if shares > 0.0 { sum / shares } else { self.speed_over_nothing(mover, body.bounds()) }
    }

    /// The factor of speed of a body that lies in no part of a cell, since it is too thin, or
    /// beyond all cells, where the nearest one counts.
    fn speed_over_nothing(&self, mover: MoverId, body: WorldRect) -> f64 {
        self.treatment_at(mover, body.center()).speed()
    }

    /// The cells that a mover may step to from a cell, each with what the step costs: the form
    /// that path finders ask for.
    ///
    /// The cost is the time from middle to middle, where [`GroundMap::STEP_COST`] stands for the
    /// time of a step at full speed; it is never less. Half of the way lies in either cell. A
    /// mover that stands where it cannot be may leave as over free ground. Where the map goes on
    /// from its other side, so do the steps.
    ///
    /// ```
    /// use sturdy_quilt::{CellPos, GroundMap};
    /// # let quilt = sturdy_quilt::doc_quilt();
    ///
    /// let (ground, walker) = (GroundMap::of(&quilt), quilt.mover("walker")?);
    /// let steps: Vec<_> = ground.steps(walker, CellPos::new(1, 0)).collect();
    /// assert_eq!(steps, [(CellPos::new(1, 1), 1000), (CellPos::new(0, 0), 1000)]);
    /// # Ok::<(), sturdy_quilt::NameError>(())
    /// ```
    pub fn steps(
        &self,
        mover: MoverId,
        cell: CellPos,
    ) -> impl Iterator<Item = (CellPos, u32)> + use<'_> {
        let here = Some(self.treatment(mover, cell).speed()).filter(|speed| *speed > 0.0);
        let half = |speed: f64| f64::from(Self::STEP_COST) / 2.0 / speed;
        self.lattice().neighbors(cell).filter_map(move |next| {
            let treatment = self.treatment(mover, next);
            if treatment.stops_at(side_between(cell, next)) {
                return None;
            }
            let speed = treatment.speed();
            // Beyond the range of the cost it stays at its highest.
            let cost = (half(here.unwrap_or(1.0)) + half(speed)).round() as u32;
            (speed > 0.0).then_some((self.cell_met(mover, next), cost))
        })
    }
}

/// The side by which a cell is come into from the one beside it.
const fn side_between(from: CellPos, to: CellPos) -> Side {
    if to.x() > from.x() {
        Side::Left
    } else if to.x() < from.x() {
        Side::Right
    } else if to.y() > from.y() {
        Side::Top
    } else {
        Side::Bottom
    }
}
