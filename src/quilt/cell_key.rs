//! The values that may name a cell of a map.

use super::map::{CellTextError, Quilt};
use crate::tile::{Cell, TileId};

/// A way to name a cell: a [`Cell`], a tile, or words in the notation of cells.
///
/// Sealed: nothing else can.
pub trait CellKey: key::Sealed {
    /// The cell that is meant.
    ///
    /// # Errors
    /// Malformed words, a tile that the map does not have, or the handle of another map.
    fn cell_in(&self, quilt: &Quilt) -> Result<Cell, CellTextError>;
}

mod key {
    pub trait Sealed {}
    impl Sealed for crate::tile::Cell {}
    impl Sealed for crate::tile::TileId {}
    impl Sealed for &str {}
}

impl CellKey for Cell {
    fn cell_in(&self, _quilt: &Quilt) -> Result<Cell, CellTextError> {
        Ok(*self)
    }
}

impl CellKey for TileId {
    fn cell_in(&self, quilt: &Quilt) -> Result<Cell, CellTextError> {
        let number = self.number_in(quilt.tiles.descent());
        number.map(Cell::of_number).ok_or(CellTextError::OtherMap)
    }
}

impl CellKey for &str {
    fn cell_in(&self, quilt: &Quilt) -> Result<Cell, CellTextError> {
        quilt.cell(self)
    }
}
