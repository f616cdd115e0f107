//! The hit of a ray: a whole cell, or the solid part of one.

use super::solid::Solid;
use super::traversal::{Found, Ray};
use crate::ground::shape::{ShapePart, from_corner};
use crate::ground::state::{GroundMap, SolidPart};
use crate::quilt::{GroundClass, MoverId};
use crate::units::{CellPos, Side, WorldPoint, WorldVec};

/// The first thing that a ray meets.
#[derive(Clone, Copy, Debug, PartialEq)]
#[non_exhaustive]
pub struct RayHit {
    /// The part of the ray until there, 0 to less than 1.
    pub fraction: f64,
    /// The place in the world; it lies exactly on the side that was met.
    pub point: WorldPoint,
    /// The cell that was met; beyond the bounds of the map where the outside has stopped the ray.
    pub cell: CellPos,
    /// Which of its sides, of a slope the one to which its normal leads most; `None` where the ray
    /// begins in what it has met. One that begins exactly on a side and leads inwards has met that
    /// side.
    pub side: Option<Side>,
    /// The direction away from what was met, one unit long; none where the ray begins in it.
    pub normal: WorldVec,
    /// Which of the shapes was met that [`GroundMap::solids_at`] gives for the cell.
    pub piece: usize,
    /// Which part of the outline of that shape was met; `None` where the ray begins in it.
    pub part: Option<ShapePart>,
}

impl GroundMap {
    /// Casts a ray from a point along `motion` and returns what it meets first, if anything.
    ///
    /// A ray is infinitely thin, and what it only touches does not stop it: not the side at which
    /// it ends, and not a corner that it goes through exactly, unless the cells on both sides of
    /// the corner stop it. So a ray that is turned round goes through the same cells. One that runs
    /// along an edge goes through the cells to the right of it, or below. A ray that begins in a
    /// cell which stops it has met that at once. With numbers that are not finite it meets nothing.
    ///
    /// Costs a look at each row that it crosses of chunks in which anything stops, and at each
    /// row of chunks elsewhere.
    ///
    /// ```
    /// use sturdy_quilt::{CellPos, GroundMap, Side, WorldPoint, WorldVec};
    /// # let quilt = sturdy_quilt::doc_quilt();
    ///
    /// let (ground, walker) = (GroundMap::of(&quilt), quilt.mover("walker")?);
    /// let hit = ground.ray(walker, WorldPoint::new(2.0, 8.0), WorldVec::new(60.0, 0.0)).unwrap();
    /// assert_eq!((hit.point, hit.fraction), (WorldPoint::new(32.0, 8.0), 0.5));
    /// assert_eq!((hit.cell, hit.side), (CellPos::new(2, 0), Some(Side::Left)));
    /// assert_eq!(hit.normal, WorldVec::new(-1.0, 0.0));
    /// assert_eq!(ground.ray(walker, WorldPoint::new(2.0, 8.0), WorldVec::new(30.0, 0.0)), None);
    /// # Ok::<(), sturdy_quilt::NameError>(())
    /// ```
    pub fn ray(&self, mover: MoverId, from: WorldPoint, motion: WorldVec) -> Option<RayHit> {
        let start = Ray::new(self, from, motion)?;
        let (mut ray, mut within) = (start, Solid::whole(self, mover));
        let is_stopped = match Solid::on_way(self, mover, ray.courses()) {
            Some(mut ways) => ray.advance_one_way(&mut within, &mut ways),
            None => ray.advance(&mut within),
        };
        if is_stopped {
            ray.settle_corner(&within);
        }
        if let Some(parts) = Solid::parts(self, mover) {
            let before = if is_stopped { ray.arrival().0 } else { 1.0 };
            if let Some(hit) = self.ray_to_parts(mover, parts, (from, motion), start, before) {
                return Some(hit);
            }
        }
        is_stopped.then(|| RayHit::at_side(&ray, ShapePart::of_side))
    }

    /// The same where a cell that does not fill its place stops a ray before a whole one does.
    #[cold]
    fn ray_to_parts(
        &self,
        mover: MoverId,
        mut parts: Solid<'_>,
        (from, motion): (WorldPoint, WorldVec),
        mut ray: Ray,
        before: f64,
    ) -> Option<RayHit> {
        let (x, y) = ray.courses();
        let (x, y) = (*x, *y);
        // The edges by which a cell is entered, in parts of the cell.
        let near = [x.real(0), y.real(0)].map(|line| if line == 0 { 0.0 } else { 1.0 });
        let (whole, all_parts) = (Solid::whole(self, mover), parts);
        // Whether a cell beside a corner that the ray goes through closes it, as a whole or by a
        // corner of its own there.
        let closes = |column: i64, row: i64, corner: (f64, f64)| {
            let (column, row) = (x.real(column), y.real(row));
            let (mut whole, mut parts, cell) = (whole, all_parts, CellPos::saturating(column, row));
            whole.blocks(column, row)
                || (parts.blocks(column, row) && self.corner_at(mover, cell, corner).is_some())
        };
        let is_closed = |columns: (i64, i64), row: i64| {
            closes(columns.1, row, (near[0], 1.0 - near[1]))
                && closes(columns.0, row + 1, (1.0 - near[0], near[1]))
        };
        let is_before = |hit: &RayHit| hit.fraction < before;
        while ray.arrival().0 <= before {
            let (column, row, _) = ray.place();
            if parts.blocks(column, row)
                && let Some(hit) = self.hit_in(mover, (column, row), from, motion)
            {
                return Some(hit).filter(is_before);
            }
            // Where nothing but whole cells lies in a chunk, all of it is passed over.
            match ray.leave_cells(parts.free_doublings(column, row), is_closed) {
                Found::Left => {}
                Found::End => return None,
                Found::Hit => {
                    let (column, row, _) = ray.place();
                    let corner = (near[0], 1.0 - near[1]);
                    let corner = self.corner_at(mover, CellPos::saturating(column, row), corner);
                    let hit = RayHit::at_side(&ray, ShapePart::of_side);
                    let (piece, part) =
                        corner.map_or((0, hit.part), |(piece, at)| (piece, Some(at)));
                    return Some(RayHit { piece, part, ..hit }).filter(is_before);
                }
            }
        }
        None
    }

    /// What a ray meets in a cell of which a part is solid.
    fn hit_in(
        &self,
        mover: MoverId,
        (column, row): (i64, i64),
        from: WorldPoint,
        motion: WorldVec,
    ) -> Option<RayHit> {
        let cell = CellPos::saturating(column, row);
        let place = from_corner(self.lattice(), column, row, from);
        let met = |(piece, solid): (usize, &SolidPart)| {
            let (fraction, edge) = solid.convex.enter(place, motion)?;
            let normal = edge.map_or(WorldVec::ZERO, |edge| solid.convex.normals()[edge]);
            let side = edge.map(|_| Side::facing(normal));
            let treatment = self.treatment_of(mover, cell, solid);
            let stops = side.map_or_else(|| treatment.blocks(), |side| treatment.stops_at(side));
            let part = edge.map(|edge| ShapePart::Edge(edge as u8));
            let point = from + motion * fraction;
            stops.then_some(RayHit { fraction, point, cell, side, normal, piece, part })
        };
        let hits = self.solids_met(mover, cell).iter().enumerate().filter_map(met);
        // A ray that begins in one of them begins in the cell, also where it is on the edge of another.
        let is_sooner = |hit: &RayHit, first: &RayHit| {
            (hit.fraction, hit.side.is_some()) < (first.fraction, first.side.is_some())
        };
        hits.reduce(|first, hit| if is_sooner(&hit, &first) { hit } else { first })
    }

    /// Returns the class of what has stopped a ray, where it has one: of a cell with several parts,
    /// that of the part that was met. The mover is the one that the ray was asked for.
    pub fn class_hit(&self, mover: MoverId, hit: &RayHit) -> Option<GroundClass> {
        self.class_met(mover, hit.cell, self.solids_met(mover, hit.cell).get(hit.piece))
    }

    /// The corner that something solid in a cell has at a place, if any has one there, and what
    /// blocks there.
    pub(super) fn corner_at(
        &self,
        mover: MoverId,
        cell: CellPos,
        place: (f64, f64),
    ) -> Option<(usize, ShapePart)> {
        let solids = self.solids_met(mover, cell).iter().enumerate();
        let blocking = solids.filter(|(_, solid)| self.treatment_of(mover, cell, solid).blocks());
        { blocking }.find_map(|(piece, solid)| {
            let at = solid.convex.shape().corners().iter().position(|corner| *corner == place)?;
            Some((piece, ShapePart::Corner(at as u8)))
        })
    }
}

impl RayHit {
    /// That a ray has come to a cell, by a part of its side.
    fn at_side(ray: &Ray, part: impl Fn(Side) -> ShapePart) -> RayHit {
        let (fraction, point) = ray.arrival();
        let (column, row, side) = ray.place();
        let normal = side.map_or(WorldVec::ZERO, Side::normal);
        let (cell, part) = (CellPos::saturating(column, row), side.map(part));
        RayHit { fraction, point, cell, side, normal, piece: 0, part }
    }
}
