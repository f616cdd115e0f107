//! The bounds of a map as columns and rows, which may lie beyond all cells.

use super::mask::SIDE;

/// The columns and rows of some cells, half-open.
#[derive(Clone, Copy)]
pub(super) struct Edges {
    pub(super) left: i64,
    pub(super) top: i64,
    pub(super) right: i64,
    pub(super) bottom: i64,
}

impl Edges {
    #[inline]
    pub(super) fn has_row(&self, row: i64) -> bool {
        (self.top..self.bottom).contains(&row)
    }

    #[inline]
    pub(super) fn has(&self, column: i64, row: i64) -> bool {
        (self.left..self.right).contains(&column) && self.has_row(row)
    }

    /// Whether a chunk lies within, apart from these, or across an edge.
    #[inline]
    pub(super) fn chunk(&self, column: i64, row: i64) -> Lies {
        let side = SIDE as i64;
        let (left, top) = (column * side, row * side);
        let (right, bottom) = (left + side, top + side);
        if left >= self.left && right <= self.right && top >= self.top && bottom <= self.bottom {
            Lies::Within
        } else if right <= self.left
            || left >= self.right
            || bottom <= self.top
            || top >= self.bottom
        {
            Lies::Apart
        } else {
            Lies::Across
        }
    }
}

pub(super) enum Lies {
    Within,
    Apart,
    Across,
}
