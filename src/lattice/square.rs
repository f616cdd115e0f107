//! Upright cells in rows and columns.
//!
//! The edge before column `n` lies at `n * width`, rounded once to the nearest `f64`. The column
//! of a place is guessed and then corrected against those edges, so that "the cell at a place" and
//! "the bounds of a cell" agree to the last bit for every width. A division alone does not: the
//! quotient may round up to the next whole number.

use super::Lattice;
use crate::units::{CellOffset, CellPos, CellRect, WorldPoint, WorldRect};

pub(super) const NEIGHBORS: [CellOffset; 4] =
    [CellOffset::new(0, -1), CellOffset::new(1, 0), CellOffset::new(0, 1), CellOffset::new(-1, 0)];

/// Columns or rows of one width.
#[derive(Clone, Copy, Debug, PartialEq)]
pub(crate) struct Axis {
    side: f64,
    /// For a first guess; a multiplication takes a fraction of a division.
    inverse: f64,
}

impl Axis {
    #[inline]
    pub(super) fn new(side: f64) -> Axis {
        Axis { side, inverse: 1.0 / side }
    }

    /// The width of one.
    #[inline]
    pub(crate) const fn side(self) -> f64 {
        self.side
    }

    /// The place of the edge before one.
    #[inline]
    pub(crate) fn edge(self, number: i64) -> f64 {
        number as f64 * self.side
    }

    /// The one in which a place lies; saturates far beyond the cells.
    #[inline]
    pub(crate) fn at(self, place: f64) -> i64 {
        let (number, edge) = self.nearest_edge(place);
        number - i64::from(edge > place)
    }

    /// The last one that begins before a place; saturates far beyond the cells.
    #[inline]
    pub(crate) fn last_before(self, place: f64) -> i64 {
        let (number, edge) = self.nearest_edge(place);
        number - i64::from(edge >= place)
    }

    /// The one in which a place lies, and whether it lies exactly on the edge before it.
    #[inline]
    pub(crate) fn split(self, place: f64) -> (i64, bool) {
        let (number, edge) = self.nearest_edge(place);
        (number - i64::from(edge > place), edge == place)
    }

    /// Whether a place is a number, and so near that its line is told.
    pub(crate) fn reach(self, place: f64) -> bool {
        place.abs() < self.farthest()
    }

    /// From so far on lines are no longer told apart.
    pub(crate) fn farthest(self) -> f64 {
        FARTHEST as f64 * self.side
    }

    /// Groups of so many of them, a power of two: their edges are the same to the last bit.
    #[inline]
    pub(crate) fn grouped(self, count: u32) -> Axis {
        let count = f64::from(count);
        Axis { side: self.side * count, inverse: self.inverse / count }
    }

    /// The number of an edge near which a place lies, nearer than by one, and the edge.
    ///
    /// One comparison with that edge tells on which side of it the place lies. The sum with a
    /// large number leaves a whole one in its last bits (it is how `floor` is done without an
    /// instruction for it, and several times as fast as that call).
    #[inline]
    fn nearest_edge(self, place: f64) -> (i64, f64) {
        const LARGE: f64 = 6_755_399_441_055_744.0; // 1.5 * 2^52: one apart are neighbours
        let guess = place * self.inverse;
        if guess.abs() < FARTHEST as f64 {
            let sum = guess + LARGE;
            let number = sum.to_bits().wrapping_sub(LARGE.to_bits()) as i64;
            return (number, (sum - LARGE) * self.side);
        }
        // Also for NaN, which counts as 0.
        let number = (guess as i64).clamp(-FARTHEST, FARTHEST);
        (number, if guess.is_nan() { 0.0 } else { f64::NEG_INFINITY })
    }
}

/// Far beyond the cells; what lies further counts as here.
const FARTHEST: i64 = 1 << 40;

/// A column or row within the limits of cells.
fn saturated(number: i64) -> i32 {
    number.clamp(i64::from(CellPos::MIN), i64::from(CellPos::MAX)) as i32
}

pub(super) fn cell_at(lattice: &Lattice, place: WorldPoint) -> CellPos {
    CellPos::new(saturated(lattice.columns().at(place.x)), saturated(lattice.rows().at(place.y)))
}

pub(super) fn rect_bounds(lattice: &Lattice, rect: CellRect) -> WorldRect {
    let (columns, rows) = (lattice.columns(), lattice.rows());
    WorldRect::between(
        WorldPoint::new(columns.edge(rect.left().into()), rows.edge(rect.top().into())),
        WorldPoint::new(columns.edge(rect.right().into()), rows.edge(rect.bottom().into())),
    )
}

pub(super) fn cells_in(lattice: &Lattice, area: WorldRect) -> CellRect {
    let span = |from: f64, to: f64, lines: Axis| {
        // The end is half-open: an area that ends on an edge does not touch the cell behind it.
        let (first, last) = (lines.at(from), lines.last_before(to));
        let touches = first <= i64::from(CellPos::MAX) && last >= i64::from(CellPos::MIN);
        touches.then(|| (saturated(first), saturated(last)))
    };
    let columns = span(area.min().x, area.max().x, lattice.columns());
    let rows = span(area.min().y, area.max().y, lattice.rows());
    match (columns, rows) {
        (Some((left, right)), Some((top, bottom))) => {
            CellRect::between(CellPos::new(left, top), CellPos::new(right, bottom))
        }
        _ => CellRect::EMPTY,
    }
}
