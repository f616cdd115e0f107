//! The pixel edges of the columns and rows of a pass.

use super::motion::Placement;
use super::pass::StackPass;
use crate::lattice::Lattice;
use crate::units::{CellPos, CellRect, ScreenRect};

/// The pixel edges of the columns and rows of a rectangle of cells: each is rounded once for all
/// of them, not once for each of its cells.
#[derive(Clone, Debug, Default)]
pub(crate) struct PixelEdges {
    /// Of which cells, and where those lie.
    found_for: Option<(Lattice, Placement)>,
    cells: CellRect,
    columns: Vec<i32>,
    rows: Vec<i32>,
}

impl PixelEdges {
    /// More columns and rows than pixels of any screen: then most cells have no pixel, and the
    /// few that are there are cheaper one by one.
    const MAX: u32 = 1 << 14;

    /// Finds the edges of all cells on the screen; of passes that follow each other on the same
    /// edges, once.
    pub(crate) fn look(&mut self, pass: &StackPass<'_>) {
        let (own, cells) = (Some((*pass.lattice, pass.alignment.placement)), pass.alignment.cells);
        if self.found_for == own && self.cells == cells {
            return;
        }
        self.found_for = own;
        self.columns.clear();
        self.rows.clear();
        self.cells =
            if cells.width().max(cells.height()) > Self::MAX { CellRect::EMPTY } else { cells };
        if !self.cells.is_empty() {
            self.columns.extend((cells.left()..=cells.right()).map(|x| pass.column_edge(x)));
            self.rows.extend((cells.top()..=cells.bottom()).map(|y| pass.row_edge(y)));
        }
    }

    /// The places that have pixels in an area.
    pub(crate) fn cells_in(&self, pass: &StackPass<'_>, area: ScreenRect) -> CellRect {
        if self.cells.is_empty() {
            return pass.cells();
        }
        let span = |edges: &[i32], from: i32, to: i32| {
            let first = edges.partition_point(|edge| *edge <= from).saturating_sub(1);
            let end = edges.partition_point(|edge| *edge < to).min(edges.len() - 1);
            (first as i32, end as i32)
        };
        let (left, right) = span(&self.columns, area.left, area.right);
        let (top, bottom) = span(&self.rows, area.top, area.bottom);
        let (x, y) = (self.cells.left(), self.cells.top());
        CellRect::within_limits(x + left, y + top, x + right, y + bottom).intersection(pass.cells())
    }

    /// The first column of pixels of a column of cells.
    pub(crate) fn column(&self, pass: &StackPass<'_>, column: i32) -> i32 {
        let known = column.checked_sub(self.cells.left()).and_then(|at| usize::try_from(at).ok());
        let edge = known.and_then(|at| self.columns.get(at)).copied();
        edge.unwrap_or_else(|| pass.column_edge(column))
    }

    /// The first row of pixels of a row of cells.
    pub(crate) fn row(&self, pass: &StackPass<'_>, row: i32) -> i32 {
        let known = row.checked_sub(self.cells.top()).and_then(|at| usize::try_from(at).ok());
        let edge = known.and_then(|at| self.rows.get(at)).copied();
        edge.unwrap_or_else(|| pass.row_edge(row))
    }

    /// The pixels that a place covers on the screen.
    #[inline]
    pub(super) fn pixels(&self, pass: &StackPass<'_>, shown: CellPos) -> ScreenRect {
        if !self.cells.contains(shown) {
            return pass.pixels(shown);
        }
        let (x, y) = (shown.x() - self.cells.left(), shown.y() - self.cells.top());
        let (x, y) = (x as usize, y as usize);
        ScreenRect {
            left: self.columns[x],
            top: self.rows[y],
            right: self.columns[x + 1],
            bottom: self.rows[y + 1],
        }
    }
}
