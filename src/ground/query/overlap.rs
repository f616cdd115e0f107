//! The cells and classes under a point or a body, and its speed there.

use super::bodies::{is_giant, lies_in};
use super::body::{Body, hidden};
use super::solid::Solid;
use crate::ground::shape::{ConvexShape, from_corner};
use crate::ground::state::GroundMap;
use crate::lattice::Axis;
use crate::quilt::{GroundClass, MoverId, Treatment};
use crate::units::{CellPos, CellRect, Side, WorldPoint, WorldRect, WorldVec, pairs};

/// A cell under a body, or a part of one.
#[derive(Clone, Copy, Debug, PartialEq)]
#[non_exhaustive]
pub struct Overlap {
    /// The cell.
    pub cell: CellPos,
    /// The class of the cell, or of that part of it, where it has one.
    pub class: Option<GroundClass>,
    /// How the mover takes it.
    pub treatment: Treatment,
    /// How deep the body lies in it, in world units: so far it is the shortest way out. Of a part
    /// that is not convex, the depth in the convex piece of it in which the body lies deepest.
    pub depth: f64,
    /// The direction of that way, one unit long.
    pub normal: WorldVec,
    /// The side of the cell to which it leads.
    pub side: Side,
    /// The part of the body's area that lies there, 0 to 1; of what is round, to within 0.1 %.
    pub share: f64,
}

impl GroundMap {
    /// Returns whether a mover cannot be at a point. A point on an edge belongs to what lies to the
    /// right of it, or below. Constant time.
    ///
    /// ```
    /// use sturdy_quilt::{GroundMap, WorldPoint};
    /// # let quilt = sturdy_quilt::doc_quilt();
    ///
    /// let (ground, walker) = (GroundMap::of(&quilt), quilt.mover("walker")?);
    /// assert!(ground.blocked_at(walker, WorldPoint::new(32.0, 8.0)));
    /// assert!(!ground.blocked_at(walker, WorldPoint::new(31.9, 8.0)));
    /// # Ok::<(), sturdy_quilt::NameError>(())
    /// ```
    pub fn blocked_at(&self, mover: MoverId, place: WorldPoint) -> bool {
        let cell = self.lattice().cell_at(place);
        self.blocked(mover, cell) && (!self.has_parts() || self.treatment_at(mover, place).blocks())
    }

    /// Returns whether a body lies in anything that blocks a mover.
    ///
    /// Touching is not lying in it, and neither is being inside by no more than
    /// [`GroundMap::SKIN`]. An empty box counts as its middle. Costs a look at each row under it, and
    /// at the outline of each cell that does not fill it; of bodies that are no boxes, of each cell.
    ///
    /// ```
    /// use sturdy_quilt::{GroundMap, WorldPoint, WorldRect, WorldVec};
    /// # let quilt = sturdy_quilt::doc_quilt();
    ///
    /// let (ground, walker) = (GroundMap::of(&quilt), quilt.mover("walker")?);
    /// let body = WorldRect::between(WorldPoint::new(20.0, 4.0), WorldPoint::new(32.0, 16.0));
    /// assert!(!ground.overlaps(walker, body));
    /// assert!(ground.overlaps(walker, body.moved(WorldVec::new(1.0, 0.0))));
    /// # Ok::<(), sturdy_quilt::NameError>(())
    /// ```
    pub fn overlaps<B: Body>(&self, mover: MoverId, body: B) -> bool {
        let bounds = body.bounds();
        if body.as_box().is_some() || is_giant(self, bounds) {
            return self.box_overlaps(mover, bounds);
        }
        let core = body.core(self.least_width());
        lies_in(self, mover, Solid::new(self, mover), (&core, bounds))
    }

    /// The same for a box.
    #[inline]
    pub(super) fn box_overlaps(&self, mover: MoverId, body: WorldRect) -> bool {
        let lies_in_parts = |parts| {
            let core = hidden::Body::core(&body, self.least_width());
            lies_in(self, mover, parts, (&core, body))
        };
        Solid::whole(self, mover).any_in(self.lines_under(body))
            || Solid::parts(self, mover).is_some_and(lies_in_parts)
    }

    /// Returns the cells under a body, row by row: all of them, whether they block the mover or
    /// not. Of a cell with several parts, see [`GroundMap::parts_at`], each comes by itself, from
    /// the top down.
    ///
    /// Cells that it only touches, or is in by no more than [`GroundMap::SKIN`], do not count; an
    /// empty box counts as its middle.
    ///
    /// ```
    /// use sturdy_quilt::{CellPos, GroundMap, Side, WorldPoint, WorldRect};
    /// # let quilt = sturdy_quilt::doc_quilt();
    ///
    /// let (ground, walker) = (GroundMap::of(&quilt), quilt.mover("walker")?);
    /// let body = WorldRect::between(WorldPoint::new(22.0, 4.0), WorldPoint::new(34.0, 16.0));
    /// let wall = ground.overlapping(walker, body).find(|under| under.treatment.blocks()).unwrap();
    /// assert_eq!((wall.cell, wall.depth, wall.side), (CellPos::new(2, 0), 2.0, Side::Left));
    /// assert_eq!(wall.share, 1.0 / 6.0);
    /// # Ok::<(), sturdy_quilt::NameError>(())
    /// ```
    pub fn overlapping<B: Body>(
        &self,
        mover: MoverId,
        body: B,
    ) -> impl Iterator<Item = Overlap> + use<'_, B> {
        let core = hidden::Body::core(&body, self.least_width());
        let is_giant = is_giant(self, body.bounds());
        let is_simple = (core.is_box || is_giant) && !self.has_parts();
        let outline = if is_simple { Vec::new() } else { core.outline() };
        let bounds = body.bounds();
        let whole = if is_giant { bounds.width() * bounds.height() } else { core.area() };
        let overlap =
            move |cell, code: Option<u8>, (depth, normal, area): (f64, WorldVec, f64)| Overlap {
                cell,
                class: match code {
                    Some(code) => self.class_of(code).here().flatten(),
                    None => self.class_met(mover, cell, None),
                },
                treatment: match (code, self.table(mover)) {
                    (Some(code), Some(table)) => table.treatment(code),
                    _ => self.treatment(mover, cell),
                },
                depth,
                normal,
                side: Side::facing(normal),
                share: if is_simple && bounds.is_empty() { 1.0 } else { (area / whole).min(1.0) },
            };
        let in_cell = move |cell: CellPos| -> Vec<Overlap> {
            if is_simple {
                let around = self.lattice().bounds(cell);
                let (depth, side) = depth_in(bounds, around);
                return vec![overlap(
                    cell,
                    None,
                    (depth, side.normal(), shared_area(bounds, around)),
                )];
            }
            let at = from_corner(self.lattice(), cell.x().into(), cell.y().into(), core.at);
            let outline: Vec<WorldVec> = outline.iter().map(|corner| *corner + at).collect();
            let depth_in = |convex: &ConvexShape| {
                let sum = convex.sum_with(&core);
                let holds = sum.holds(at, core.radius, self.skin());
                holds.then(|| sum.depth(at, core.radius))
            };
            let Some(parts) = self.parts_met(mover, cell) else {
                let convex = &self.whole_cell().convex;
                let within = depth_in(convex).map(|(depth, normal)| {
                    overlap(cell, None, (depth, normal, area_within(&outline, convex.corners())))
                });
                return within.into_iter().collect();
            };
            let within = parts.parts.iter().filter_map(|part| {
                let depths = part.cover.iter().filter_map(depth_in);
                let (depth, normal) = depths.reduce(|a, b| if b.0 > a.0 { b } else { a })?;
                let area = part.apart.iter().map(|polygon| area_within(&outline, polygon)).sum();
                Some(overlap(cell, Some(part.code), (depth, normal, area)))
            });
            within.collect()
        };
        self.cells_under(bounds).cells().flat_map(in_cell)
    }

    /// Returns the factor of its speed that a mover has at a point: 1 where it passes freely, 0
    /// where it cannot be. For a body that counts as its foot point.
    pub fn speed_at(&self, mover: MoverId, place: WorldPoint) -> f64 {
        self.treatment_at(mover, place).speed()
    }

    /// Returns the slowest factor of speed among the cells under a body, 0 where one of them cannot
    /// be entered. Cells that it only touches, or is in by no more than [`GroundMap::SKIN`], do not
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

    /// Returns the mean of the factors of speed under a body, each by the part of the body that
    /// lies over it. Which cells count is as with [`GroundMap::slowest_under`].
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

    /// The cells under a body: those in which it lies by more than a skin; none beyond all cells.
    pub(super) fn cells_under(&self, body: WorldRect) -> CellRect {
        let ((left, right), (top, bottom)) = self.lines_under(body);
        let is_beyond = |first, last| first > CellPos::MAX.into() || last < CellPos::MIN.into();
        if is_beyond(left, right) || is_beyond(top, bottom) {
            return CellRect::EMPTY;
        }
        CellRect::between(CellPos::saturating(left, top), CellPos::saturating(right, bottom))
    }

    /// The same as its first and last column, and row; they may lie beyond all cells.
    #[inline]
    pub(super) fn lines_under(&self, body: WorldRect) -> ((i64, i64), (i64, i64)) {
        let (min, max) = (body.min(), body.max());
        (under(self.lattice().columns(), min.x, max.x), under(self.lattice().rows(), min.y, max.y))
    }
}

/// The lines in which a body lies by more than a skin; of an empty one, that of its middle.
#[inline]
fn under(lines: Axis, from: f64, to: f64) -> (i64, i64) {
    let skin = (lines.side() * GroundMap::SKIN).min((to - from) / 2.0);
    let (first, last) = (lines.at(from + skin), lines.last_before(to - skin));
    (first, last.max(first))
}

/// How far a box must go to leave a cell by its nearest side.
fn depth_in(body: WorldRect, cell: WorldRect) -> (f64, Side) {
    let ways = [
        (body.max().x - cell.min().x, Side::Left),
        (cell.max().x - body.min().x, Side::Right),
        (body.max().y - cell.min().y, Side::Top),
        (cell.max().y - body.min().y, Side::Bottom),
    ];
    ways.into_iter().fold(ways[0], |least, way| if way.0 < least.0 { way } else { least })
}

fn shared_area(a: WorldRect, b: WorldRect) -> f64 {
    let width = a.max().x.min(b.max().x) - a.min().x.max(b.min().x);
    let height = a.max().y.min(b.max().y) - a.min().y.max(b.min().y);
    width.max(0.0) * height.max(0.0)
}

/// The area of what two convex polygons have in common.
///
/// By clipping it with each edge (I. Sutherland and G. Hodgman, "Reentrant Polygon Clipping",
/// Communications of the ACM 17, 1974).
fn area_within(body: &[WorldVec], polygon: &[WorldVec]) -> f64 {
    let mut common = body.to_vec();
    for (corner, next) in pairs(polygon) {
        let distance = |at: WorldVec| -(next - corner).cross(at - corner);
        let mut kept = Vec::with_capacity(common.len() + 1);
        for (from, to) in pairs(&common) {
            let (a, b) = (distance(from), distance(to));
            if a <= 0.0 {
                kept.push(from);
            }
            if (a < 0.0 && b > 0.0) || (a > 0.0 && b < 0.0) {
                kept.push(from + (to - from) * (a / (a - b)));
            }
        }
        common = kept;
    }
    pairs(&common).map(|(a, b)| a.cross(b)).sum::<f64>() / 2.0
}
