//! What lies under a point or a box.

use super::GroundMap;
use super::motion::cell_of;
use super::stopping::Solid;
use crate::lattice::Lines;
use crate::quilt::{GroundClass, MoverId, Treatment};
use crate::units::{CellPos, CellRect, Side, WorldPoint, WorldRect};

/// A cell under a body.
#[derive(Clone, Copy, Debug, PartialEq)]
#[non_exhaustive]
pub struct Overlap {
    /// The cell.
    pub cell: CellPos,
    /// Its class, where it has one.
    pub class: Option<GroundClass>,
    /// How the mover takes it.
    pub treatment: Treatment,
    /// How deep the body lies in it, in world units: so far it is to the nearest side by which the
    /// body would leave it.
    pub depth: f64,
    /// That side.
    pub side: Side,
    /// The part of the body's area that lies in it, 0 to 1.
    pub share: f64,
}

impl GroundMap {
    /// Whether a mover cannot be at a point. A point on an edge belongs to the cell to the right
    /// of it, or below. Constant time.
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
        self.blocked(mover, self.lattice().cell_at(place))
    }

    /// Whether a box lies in anything that blocks a mover.
    ///
    /// Touching is not lying in it, and neither is being inside by no more than
    /// [`GroundMap::SKIN`]. An empty box counts as its middle. Costs a look at each row under it.
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
    pub fn overlaps(&self, mover: MoverId, body: WorldRect) -> bool {
        Solid::new(self, mover).any_in(self.lines_under(body))
    }

    /// The cells under a box, row by row: all of them, whether they block the mover or not.
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
    pub fn overlapping(
        &self,
        mover: MoverId,
        body: WorldRect,
    ) -> impl Iterator<Item = Overlap> + use<'_> {
        let area = body.width() * body.height();
        self.cells_under(body).cells().map(move |cell| {
            let bounds = self.lattice().bounds(cell);
            let (depth, side) = depth_in(body, bounds);
            let shared = shared_area(body, bounds);
            Overlap {
                cell,
                class: self.class_met(mover, cell),
                treatment: self.treatment(mover, cell),
                depth,
                side,
                share: if area > 0.0 { shared / area } else { 1.0 },
            }
        })
    }

    /// The cells under a body: those in which it lies by more than a skin.
    pub(super) fn cells_under(&self, body: WorldRect) -> CellRect {
        let ((left, right), (top, bottom)) = self.lines_under(body);
        CellRect::between(cell_of(left, top), cell_of(right, bottom))
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
fn under(lines: Lines, from: f64, to: f64) -> (i64, i64) {
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
