//! Upright cells in rows and columns.
//!
//! The edge before column `n` lies at `n * width`, rounded once to the nearest `f64`. The column
//! of a place is guessed by a division and then corrected against those edges, so that "the cell
//! at a place" and "the bounds of a cell" agree to the last bit for every width. A division alone
//! does not: the quotient may round up to the next whole number.

use super::Lattice;
use crate::units::{CellOffset, CellPos, CellRect, WorldPoint, WorldRect};

pub(super) const NEIGHBORS: [CellOffset; 4] =
    [CellOffset::new(0, -1), CellOffset::new(1, 0), CellOffset::new(0, 1), CellOffset::new(-1, 0)];

/// Columns or rows of one width.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Lines {
    side: f64,
}

impl Lines {
    pub(super) const fn new(side: f64) -> Lines {
        Lines { side }
    }

    /// The width of one.
    pub(crate) const fn side(self) -> f64 {
        self.side
    }

    /// The place of the edge before one.
    pub(crate) fn edge(self, number: i64) -> f64 {
        edge(number, self.side)
    }

    /// The one in which a place lies.
    pub(crate) fn at(self, place: f64) -> i64 {
        number_at(place, self.side)
    }

    /// The last one that begins before a place.
    pub(crate) fn last_before(self, place: f64) -> i64 {
        let number = self.at(place);
        if self.edge(number) >= place { number - 1 } else { number }
    }
}

fn edge(number: i64, side: f64) -> f64 {
    number as f64 * side
}

/// The last number whose edge does not lie behind `place`; saturates far beyond the cells.
fn number_at(place: f64, side: f64) -> i64 {
    let guess = ((place / side).floor() as i64).clamp(-(1 << 40), 1 << 40);
    if edge(guess, side) > place {
        guess - 1
    } else if edge(guess + 1, side) <= place {
        guess + 1
    } else {
        guess
    }
}

/// A column or row within the limits of cells.
fn saturated(number: i64) -> i32 {
    number.clamp(i64::from(CellPos::MIN), i64::from(CellPos::MAX)) as i32
}

pub(super) fn cell_at(lattice: &Lattice, place: WorldPoint) -> CellPos {
    CellPos::new(
        saturated(number_at(place.x, lattice.width)),
        saturated(number_at(place.y, lattice.height)),
    )
}

pub(super) fn rect_bounds(lattice: &Lattice, rect: CellRect) -> WorldRect {
    WorldRect::between(
        WorldPoint::new(
            edge(rect.left().into(), lattice.width),
            edge(rect.top().into(), lattice.height),
        ),
        WorldPoint::new(
            edge(rect.right().into(), lattice.width),
            edge(rect.bottom().into(), lattice.height),
        ),
    )
}

pub(super) fn cells_in(lattice: &Lattice, area: WorldRect) -> CellRect {
    let span = |from: f64, to: f64, side: f64| {
        // The end is half-open: an area that ends on an edge does not touch the cell behind it.
        let (first, last) = (number_at(from, side), Lines::new(side).last_before(to));
        let touches = first <= i64::from(CellPos::MAX) && last >= i64::from(CellPos::MIN);
        touches.then(|| (saturated(first), saturated(last)))
    };
    let columns = span(area.min().x, area.max().x, lattice.width);
    let rows = span(area.min().y, area.max().y, lattice.height);
    match (columns, rows) {
        (Some((left, right)), Some((top, bottom))) => {
            CellRect::between(CellPos::new(left, top), CellPos::new(right, bottom))
        }
        _ => CellRect::EMPTY,
    }
}
