//! Cells, tiles, tile sets, and the table in which a map keeps its tiles.

mod art;
mod cell;
mod name;
mod notation;
mod numbers;
mod set;
mod sheet;
mod table;
mod turn;
mod values;

pub use art::{ArtPage, Coverage, Fit, TileArt};
pub use cell::{Cell, TileId};
pub use name::{TileKey, TileName, TileNameError};
pub use notation::{CellNotation, CellNotationError};
pub use numbers::{TileNumbers, TileNumbersError};
pub use set::{Tile, TileFault, TileSet, TileSetBuilder, TileSetError, TileSpec};
pub use sheet::{SheetCut, SheetCutError, SheetGrid};
pub use table::{TableFullError, TileTable};
pub use turn::Turn;
pub use values::{MissingTilesError, TileValues};

pub(crate) use art::premultiplied;
pub(crate) use name::check_name;
pub(crate) use notation::CellMarks;
pub(crate) use numbers::NumberedTiles;
