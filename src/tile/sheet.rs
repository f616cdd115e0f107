//! Cutting a sheet into tiles.

use crate::units::{PixelRect, PixelSize};

/// The cut of a sheet into tiles: a tile size, a margin on all four sides, and a gap between
/// neighbours, all in pixels.
///
/// ```
/// use sturdy_quilt::tile::SheetCut;
/// use sturdy_quilt::units::PixelSize;
///
/// let cut = SheetCut::new(PixelSize::new(16, 16)).with_margin(1).with_gap(2);
/// let grid = cut.grid(PixelSize::new(54, 18))?;
/// assert_eq!((grid.columns(), grid.rows()), (3, 1));
/// assert_eq!(grid.tile(2, 0).map(|rect| rect.x), Some(37));
/// assert!(!grid.has_left_over());
/// # Ok::<(), sturdy_quilt::tile::SheetCutError>(())
/// ```
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct SheetCut {
    /// Width and height of a tile.
    pub tile: PixelSize,
    /// Pixels around all tiles, on each side of the sheet. Default 0.
    pub margin: u32,
    /// Pixels between neighbouring tiles. Default 0.
    pub gap: u32,
    /// The part of the picture that is the sheet. Default: all of it.
    pub area: Option<PixelRect>,
    /// The number of columns; as many whole tiles as fit where none is stated.
    pub columns: Option<u32>,
    /// The number of rows; as many whole tiles as fit where none is stated.
    pub rows: Option<u32>,
}

/// The error of a sheet that cannot be cut.
#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
#[non_exhaustive]
pub enum SheetCutError {
    /// A tile has no pixels.
    #[error("a tile of {0} has no pixels")]
    EmptyTile(PixelSize),
    /// The part that is the sheet does not lie on the picture.
    #[error("the area of {area} does not lie on the picture of {picture}")]
    AreaOutside {
        /// The size of the picture.
        picture: PixelSize,
        /// The part that is stated.
        area: PixelRect,
    },
    /// The picture is not there, and columns and rows are not stated.
    #[error("without its picture the sheet cannot be cut: state its columns and rows")]
    Uncounted,
    /// Not one whole tile fits, or not as many as are stated.
    #[error("a sheet of {sheet} has no room for {columns} × {rows} tiles of {tile} with margin {margin} and gap {gap}", tile = cut.tile, margin = cut.margin, gap = cut.gap)]
    TooSmall {
        /// The size of the sheet.
        sheet: PixelSize,
        /// The columns that are wanted, at least 1.
        columns: u32,
        /// The rows that are wanted, at least 1.
        rows: u32,
        /// How it was to be cut.
        cut: SheetCut,
    },
}

impl SheetCut {
    /// Returns a cut into tiles of `tile` pixels side by side, without margin or gap, as many as fit.
    pub const fn new(tile: PixelSize) -> SheetCut {
        SheetCut { tile, margin: 0, gap: 0, area: None, columns: None, rows: None }
    }

    /// Returns this cut with a margin on all four sides of the sheet.
    #[must_use]
    pub const fn with_margin(mut self, margin_px: u32) -> SheetCut {
        self.margin = margin_px;
        self
    }

    /// Returns this cut with a gap between neighbours.
    #[must_use]
    pub const fn with_gap(mut self, gap_px: u32) -> SheetCut {
        self.gap = gap_px;
        self
    }

    /// Returns this cut of a part of the picture.
    #[must_use]
    pub const fn with_area(mut self, area: PixelRect) -> SheetCut {
        self.area = Some(area);
        self
    }

    /// Returns where the tiles lie on a picture of this size.
    ///
    /// # Errors
    /// A tile without pixels, a part that lies outside the picture, or a sheet on which not one whole tile (or not as many as are
    /// stated) fits.
    pub fn grid(&self, picture: PixelSize) -> Result<SheetGrid, SheetCutError> {
        if self.tile.width == 0 || self.tile.height == 0 {
            return Err(SheetCutError::EmptyTile(self.tile));
        }
        let area = self.area.unwrap_or(PixelRect::new(0, 0, picture));
        if !picture.holds(area) {
            return Err(SheetCutError::AreaOutside { picture, area });
        }
        let sheet = area.size;
        let across = fitting(sheet.width, self.tile.width, self.margin, self.gap);
        let down = fitting(sheet.height, self.tile.height, self.margin, self.gap);
        let columns = self.columns.unwrap_or(across);
        let rows = self.rows.unwrap_or(down);
        if columns == 0 || rows == 0 || columns > across || rows > down {
            let (columns, rows) = (columns.max(1), rows.max(1));
            return Err(SheetCutError::TooSmall { sheet, columns, rows, cut: *self });
        }
        Ok(SheetGrid { cut: *self, area, columns, rows })
    }
}

/// How many tiles fit in one direction. The margin behind the last tile is not asked for: a sheet
/// that ends there early still has its tile.
fn fitting(length: u32, tile: u32, margin: u32, gap: u32) -> u32 {
    let room = u64::from(length) + u64::from(gap);
    let count = room.saturating_sub(u64::from(margin)) / (u64::from(tile) + u64::from(gap));
    u32::try_from(count).unwrap_or(u32::MAX)
}

/// The places of the tiles of a cut sheet. Made by [`SheetCut::grid`].
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct SheetGrid {
    cut: SheetCut,
    /// The sheet on its picture.
    area: PixelRect,
    columns: u32,
    rows: u32,
}

impl SheetGrid {
    /// Returns the number of tiles from left to right.
    pub const fn columns(&self) -> u32 {
        self.columns
    }

    /// Returns the number of tiles from top to bottom.
    pub const fn rows(&self) -> u32 {
        self.rows
    }

    /// All columns and rows, row by row.
    pub(crate) fn places(&self) -> impl Iterator<Item = (u32, u32)> + use<> {
        let columns = self.columns;
        (0..self.rows).flat_map(move |row| (0..columns).map(move |column| (column, row)))
    }

    /// Returns the pixels of the tile in a column and row, or `None` outside the grid.
    pub fn tile(&self, column: u32, row: u32) -> Option<PixelRect> {
        let inside = column < self.columns && row < self.rows;
        let SheetCut { tile, margin, gap, .. } = self.cut;
        inside.then(|| {
            let (x, y) = (margin + column * (tile.width + gap), margin + row * (tile.height + gap));
            PixelRect::new(self.area.x + x, self.area.y + y, tile)
        })
    }

    /// The grid of a sheet whose picture is not there.
    pub(crate) fn unseen(cut: &SheetCut) -> Result<SheetGrid, SheetCutError> {
        let (Some(columns), Some(rows)) = (cut.columns, cut.rows) else {
            return Err(SheetCutError::Uncounted);
        };
        let corner = cut.area.map_or((0, 0), |area| (area.x, area.y));
        let area = PixelRect::new(corner.0, corner.1, PixelSize::new(0, 0));
        Ok(SheetGrid { cut: *cut, area, columns, rows })
    }

    /// Returns whether the cut leaves pixels that belong to no tile, margin or gap: most often a
    /// sign of a wrong tile size. Stated columns and rows mean that it is meant.
    pub fn has_left_over(&self) -> bool {
        let left = |length: u32, tile: u32, count: u32, stated: Option<u32>| {
            let used = u64::from(count) * (u64::from(tile) + u64::from(self.cut.gap));
            let used = used - u64::from(self.cut.gap) + u64::from(self.cut.margin);
            let rest = u64::from(length) - used;
            // Exact, or with the margin of the far side, or with a gap behind the last tile too.
            let margin = u64::from(self.cut.margin);
            let known = [0, margin, margin + u64::from(self.cut.gap)];
            stated.is_none() && !known.contains(&rest)
        };
        left(self.area.size.width, self.cut.tile.width, self.columns, self.cut.columns)
            || left(self.area.size.height, self.cut.tile.height, self.rows, self.cut.rows)
    }
}
