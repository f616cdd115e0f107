//! Tiles that stand on several cells at a slant, cut into strips.
//!
//! A picture that is wider than a cell cannot be drawn at the rank of any one of its cells: what stands
//! beside it would be before one of its ends and behind the other. So it is cut into vertical strips,
//! half a diamond wide, and each is drawn in the foremost cell of the footprint below it. All that
//! stands in other cells is then before or behind each strip as its rank says, and the strips never
//! leave the stacks of cells.

use std::num::NonZeroU8;

use super::{Cell, Coverage, Fit, TileArt, TileId, TileTable, Turn};
use crate::units::{CellOffset, PixelRect, PixelSize};

/// The columns and rows of cells on which a tile stands.
///
/// ```
/// use sturdy_quilt::tile::Footprint;
///
/// let house = Footprint::new(2, 3).expect("a size from 1 to 16");
/// assert_eq!((house.columns(), house.rows(), house.cell_count()), (2, 3, 6));
/// assert_eq!(Footprint::new(0, 3), None);
/// ```
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub struct Footprint {
    columns: NonZeroU8,
    rows: NonZeroU8,
}

impl Footprint {
    /// The most columns and rows.
    pub const MAX_SIDE: u8 = 16;

    /// Returns a footprint; `None` unless columns and rows lie between 1 and
    /// [`Footprint::MAX_SIDE`].
    pub const fn new(columns: u8, rows: u8) -> Option<Footprint> {
        if columns > Self::MAX_SIDE || rows > Self::MAX_SIDE {
            return None;
        }
        match (NonZeroU8::new(columns), NonZeroU8::new(rows)) {
            (Some(columns), Some(rows)) => Some(Footprint { columns, rows }),
            _ => None,
        }
    }

    /// Returns the number of columns.
    pub const fn columns(self) -> u8 {
        self.columns.get()
    }

    /// Returns the number of rows.
    pub const fn rows(self) -> u8 {
        self.rows.get()
    }

    /// Returns the number of cells.
    pub const fn cell_count(self) -> u32 {
        self.columns() as u32 * self.rows() as u32
    }

    /// The sum of its sides: how many half diamonds it is wide and high.
    pub(crate) const fn halves(self) -> u32 {
        self.columns() as u32 + self.rows() as u32
    }

    /// The same one turned by quarters, clockwise.
    pub(super) const fn turned(self, quarters: u8) -> Footprint {
        if quarters % 2 == 1 { Footprint { columns: self.rows, rows: self.columns } } else { self }
    }

    /// All its cells, row by row, each as column and row.
    pub(super) fn cells(self) -> impl Iterator<Item = (u8, u8)> {
        (0..self.rows()).flat_map(move |row| (0..self.columns()).map(move |column| (column, row)))
    }

    /// Where a cell of it is after it was turned by quarters, clockwise.
    pub(super) const fn turned_cell(self, (column, row): (u8, u8), quarters: u8) -> (u8, u8) {
        let (right, bottom) = (self.columns() - 1 - column, self.rows() - 1 - row);
        match quarters % 4 {
            0 => (column, row),
            1 => (bottom, column),
            2 => (right, bottom),
            _ => (row, right),
        }
    }

    /// The name of the tile that a cell of the footprint of another one shows.
    pub(super) fn part_name(whole: &str, (column, row): (u8, u8)) -> String {
        format!("{whole} {column},{row}")
    }

    /// The look of what a cell of the footprint shows of a picture: a strip of it where it is the
    /// foremost cell below that, else nothing.
    pub(super) fn part_of(self, art: TileArt, (column, row): (u8, u8)) -> TileArt {
        let Fit::Placed(placement) = art.fit else { return art };
        let half_px = art.source.size.width / self.halves();
        // In half diamonds, from the left corner of the footprint and its top on.
        let (left, top) = (u32::from(column) + u32::from(self.rows() - 1 - row), column + row);
        let is_left = row == self.rows() - 1;
        let is_right = column == self.columns() - 1;
        // The strip: its first half and how many, and where its middle lies in the cell.
        let (first, count, middle) = match (is_left, is_right) {
            (true, true) => (left, 2, 0.5),
            (true, false) => (left, 1, 0.25),
            (false, true) => (left + 1, 1, 0.75),
            (false, false) => return TileArt { coverage: Coverage::Clear, ..art },
        };
        let size = PixelSize::new(count * half_px, art.source.size.height);
        let source = PixelRect::new(art.source.x + first * half_px, art.source.y, size);
        let ((x, y), (cell_x, cell_y)) = placement.slanted_points();
        let halves = f64::from(self.halves());
        let cell_anchor =
            (middle + (cell_x - x) * halves / 2.0, (cell_y * halves - f64::from(top)) / 2.0);
        // What lies as a face does so in all its parts.
        let anchor = placement.anchor.map(|_| (0.5, y));
        let placement = super::ArtPlacement { anchor, cell_anchor: Some(cell_anchor), ..placement };
        TileArt { source, fit: Fit::Placed(placement), ..art }
    }
}

/// The part of a tile with a footprint that another tile is.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) struct Part {
    /// The place of the whole tile in the set.
    pub(super) whole: u32,
    /// Its column and row in the footprint.
    pub(super) at: (u8, u8),
}

/// A tile that is part of one with a footprint, as [`TileTable::part_of`] gives it.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
#[non_exhaustive]
pub struct TilePart {
    /// The tile with the footprint.
    pub whole: TileId,
    /// The column of the part in the footprint, from 0.
    pub column: u8,
    /// The row of the part in the footprint, from 0.
    pub row: u8,
}

/// Why a cell cannot be laid as a whole.
#[derive(Clone, Copy, Debug, PartialEq, Eq, thiserror::Error)]
pub(crate) enum WholeFault {
    #[error("a tile with a footprint cannot be mirrored: state `facings` that show it mirrored")]
    Mirrored,
}

// Tiles with footprints.
impl TileTable {
    /// Returns the cells on which a tile stands; `None` for one that stands in a single cell.
    ///
    /// ```
    /// use sturdy_quilt::tile::Footprint;
    /// use sturdy_quilt::{Lattice, Quilt, TileSet, TileSpec};
    ///
    /// let house = Footprint::new(2, 3).expect("a size from 1 to 16");
    /// let set = TileSet::builder("market").tile(TileSpec::named("house").with_footprint(house));
    /// let mut quilt = Quilt::new(Lattice::default());
    /// quilt.edit("tiles", |pen| pen.put_tiles(set.build()?))?;
    /// let id = quilt.tile("market/house")?;
    /// assert_eq!(quilt.tiles().footprint(id), Some(house));
    /// // Its parts are tiles too, named by their column and row.
    /// let corner = quilt.tile("market/house 1,2")?;
    /// let part = quilt.tiles().part_of(corner).expect("a part");
    /// assert_eq!((part.whole, part.column, part.row), (id, 1, 2));
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    pub fn footprint(&self, id: TileId) -> Option<Footprint> {
        self.tile(id)?.spec().footprint
    }

    /// Returns the tile with a footprint that another one is a part of, and which part; `None` for all
    /// other tiles.
    pub fn part_of(&self, id: TileId) -> Option<TilePart> {
        let Part { whole, at: (column, row) } = self.part_at(id)?;
        Some(TilePart { whole: self.in_set_of(id, whole)?, column, row })
    }

    /// The cell that shows the whole of which a cell shows a part, and the way to its first cell.
    pub(crate) fn whole_of(&self, cell: Cell) -> Option<(Cell, CellOffset)> {
        let part = self.part_of(self.tile_of(cell)?)?;
        let footprint = self.footprint(part.whole)?;
        let (column, row) = footprint.turned_cell((part.column, part.row), cell.turn().steps());
        Some((cell.with_tile(part.whole), CellOffset::new(-i32::from(column), -i32::from(row))))
    }

    /// The cells of the footprint of a tile, each from the first one on; nothing for a tile that stands
    /// in a single cell.
    pub(crate) fn parts_of(&self, cell: Cell) -> Result<Vec<(CellOffset, Cell)>, WholeFault> {
        let found = self.tile_of(cell).and_then(|id| Some((id, self.footprint(id)?)));
        let Some((id, footprint)) = found else { return Ok(Vec::new()) };
        if cell.turn().is_mirrored() {
            return Err(WholeFault::Mirrored);
        }
        let Some(whole) = self.tile(id).map(|tile| tile.key().to_string()) else {
            return Ok(Vec::new());
        };
        let part = |at: (u8, u8)| {
            let (column, row) = footprint.turned_cell(at, cell.turn().steps());
            let tile = self.neighbor(id, Some(&Footprint::part_name(&whole, at)));
            (CellOffset::new(column.into(), row.into()), cell.with_tile(tile))
        };
        Ok(footprint.cells().map(part).collect())
    }
}

/// A tile that shows another from a side, as its name in lists says: it may be mirrored.
pub(super) fn split_facing(text: &str) -> (&str, Turn) {
    match text.strip_suffix("+mirror") {
        Some(tile) => (tile, Turn::MIRROR),
        None => (text, Turn::NONE),
    }
}
