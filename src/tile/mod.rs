//! Cells, tiles, tile sets, and the table in which a map keeps its tiles.

mod art;
mod cell;
mod name;
mod notation;
mod set;
mod sheet;
mod table;
mod turn;

pub use art::{ArtPage, Coverage, Fit, TileArt};
pub use cell::{Cell, TileId};
pub use name::{TileKey, TileName, TileNameError};
pub use notation::{CellNotation, CellNotationError};
pub use set::{Tile, TileFault, TileSet, TileSetBuilder, TileSetError, TileSpec};
pub use sheet::{SheetCut, SheetCutError, SheetGrid};
pub use table::{TableFullError, TileTable};
pub use turn::Turn;

pub(crate) use name::check_name;
