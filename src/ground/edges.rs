//! The bounds of a map as columns and rows, which may lie beyond all cells.

use super::mask::SIDE;
use crate::units::CellPos;

/// The columns and rows of some cells, half-open.
#[derive(Clone, Copy)]
pub(super) struct Edges {
    pub(super) left: i64,
    pub(super) top: i64,
    pub(super) right: i64,
    pub(super) bottom: i64,
}

impl Edges {
    /// Those of all cells that there are.
    pub(super) const CELLS: Edges = {
        let (first, end) = (CellPos::MIN as i64, CellPos::MAX as i64 + 1);
        Edges { left: first, top: first, right: end, bottom: end }
    };
    /// Blocks are no larger: their number fits into 32 bits.
    const MOST_DOUBLINGS: u32 = 31;

    /// How many times a block around a cell beyond these can be doubled, from one cell on, and does
    /// not come into them: so what lies far from a map is passed over in a few steps.
    pub(super) fn doublings(&self, column: i64, row: i64) -> u32 {
        // Two lines lie in one block from where all higher bits are the same.
        let apart = |line: i64, first: i64, end: i64| match line {
            line if line < first => (line ^ first).cast_unsigned().ilog2(),
            line if line >= end => (line ^ (end - 1)).cast_unsigned().ilog2(),
            _ => 0,
        };
        let (across, down) =
            (apart(column, self.left, self.right), apart(row, self.top, self.bottom));
        across.max(down).min(Self::MOST_DOUBLINGS)
    }

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
