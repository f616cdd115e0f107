use super::CellOffset;

/// A corner of a rectangle of cells.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Hash)]
pub enum Corner {
    /// The upper left one.
    #[default]
    TopLeft,
    /// The upper right one.
    TopRight,
    /// The lower left one.
    BottomLeft,
    /// The lower right one.
    BottomRight,
}

/// The order in which a flat list goes through the cells of a rectangle.
///
/// ```
/// use sturdy_quilt::units::{CellOffset, Corner, ScanOrder};
///
/// // A list that begins in the lower left corner and goes up each column.
/// let scan = ScanOrder::columns(Corner::BottomLeft);
/// assert_eq!(scan.offset(0, 4, 3), CellOffset::new(0, 2));
/// assert_eq!(scan.offset(1, 4, 3), CellOffset::new(0, 1));
/// assert_eq!(scan.offset(3, 4, 3), CellOffset::new(1, 2));
/// ```
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Hash)]
pub struct ScanOrder {
    corner: Corner,
    columns_first: bool,
}

impl ScanOrder {
    /// Returns the order of row after row, beginning in a corner.
    pub const fn rows(corner: Corner) -> ScanOrder {
        ScanOrder { corner, columns_first: false }
    }

    /// Returns the order of column after column, beginning in a corner.
    pub const fn columns(corner: Corner) -> ScanOrder {
        ScanOrder { corner, columns_first: true }
    }

    /// Returns whether the list goes column after column.
    pub(crate) const fn is_by_columns(self) -> bool {
        self.columns_first
    }

    /// Returns the way from the upper left cell of a rectangle to the one that a place in the list
    /// means. Places beyond the rectangle, and sides of no cells, give no way at all.
    pub const fn offset(self, index: usize, width: u32, height: u32) -> CellOffset {
        let (across, down) = (width as u64, height as u64);
        let index = index as u64;
        if across == 0 || down == 0 || index / across >= down {
            return CellOffset::new(0, 0);
        }
        let (x, y) = if self.columns_first {
            (index / down, index % down)
        } else {
            (index % across, index / across)
        };
        let x = match self.corner {
            Corner::TopRight | Corner::BottomRight => across - 1 - x,
            _ => x,
        };
        let y = match self.corner {
            Corner::BottomLeft | Corner::BottomRight => down - 1 - y,
            _ => y,
        };
        CellOffset::new(x as i32, y as i32)
    }
}
