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
pub(crate) struct Lines {
    side: f64,
    /// For a first guess; a multiplication takes a fraction of a division.
    inverse: f64,
}

impl Lines {
    pub(super) fn new(side: f64) -> Lines {
        Lines { side, inverse: 1.0 / side }
    }

    /// The width of one.
    pub(crate) const fn side(self) -> f64 {
        self.side
    }

    /// The place of the edge before one.
    pub(crate) fn edge(self, number: i64) -> f64 {
        number as f64 * self.side
    }

    /// The one in which a place lies; saturates far beyond the cells.
    pub(crate) fn at(self, place: f64) -> i64 {
        let mut number = self.guess(place);
        while self.edge(number) > place && number > -FARTHEST {
            number -= 1;
        }
        while self.edge(number + 1) <= place && number < FARTHEST {
            number += 1;
        }
        number
    }

    /// The last one that begins before a place; saturates far beyond the cells.
    pub(crate) fn last_before(self, place: f64) -> i64 {
        let mut number = self.guess(place);
        while self.edge(number) >= place && number > -FARTHEST {
            number -= 1;
        }
        while self.edge(number + 1) < place && number < FARTHEST {
            number += 1;
        }
        number
    }

    /// The one in which a place lies, and whether it lies exactly on the edge before it.
    #[inline]
    pub(crate) fn split(self, place: f64) -> (i64, bool) {
        let number = self.at(place);
        (number, self.edge(number) == place)
    }

    /// Groups of so many of them, a power of two: their edges are the same to the last bit.
    pub(crate) fn grouped(self, count: f64) -> Lines {
        Lines::new(self.side * count)
    }

    /// The one in which a place lies, or one beside it.
    ///
    /// A cast truncates, and saturates; a correction against the edges makes it the floor. It is
    /// several times as fast as `floor`, which is a call on processors without an instruction for
    /// it.
    fn guess(self, place: f64) -> i64 {
        ((place * self.inverse) as i64).clamp(-FARTHEST, FARTHEST)
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
    let span = |from: f64, to: f64, lines: Lines| {
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
