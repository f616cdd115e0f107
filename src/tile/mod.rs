//! Cells, tiles, tile sets, and the table in which a map keeps its tiles.
//!
//! A [`Cell`] is a tile with its turn, raise and palette; [`CellNotation`] is its text. A [`TileSet`] is
//! built of [`TileSpec`]s, sheets cut by a [`SheetCut`], and pictures. The [`TileTable`] of a map finds a
//! [`Tile`] by its name or [`TileId`].

mod animation;
mod art;
mod builder;
mod cell;
mod chance;
mod fault;
mod footprint;
mod mask;
mod name;
mod notation;
mod numbers;
mod parts;
mod pattern;
mod set;
mod shape;
mod sheet;
mod spec;
mod table;
mod turn;
mod values;

pub use animation::{Animation, AnimationStart};
pub use art::{ArtPage, ArtPlacement, Coverage, Fit, TileArt};
pub use builder::TileSetBuilder;
pub(crate) use cell::TileNumber;
pub use cell::{Cell, IntoCell, OwnedCell, PaletteId, TileId};
pub use fault::{ArtPlacementFault, TileFault, TileSetError};
pub use footprint::{Footprint, TilePart};
pub use mask::{GroundMask, GroundMaskFault};
pub use name::{TileKey, TileName, TileNameError};
pub use notation::{CellNotation, CellNotationError};
pub use numbers::{TileNumbers, TileNumbersError};
pub use pattern::{NamePattern, NamePatternError};
pub use set::{Tile, TileSet};
pub use shape::{CellShape, CellShapeError};
pub use sheet::{SheetCut, SheetCutError, SheetGrid};
pub use spec::{TileSource, TileSpec};
pub use table::{TableFullError, TileTable};
pub use turn::Turn;
pub use values::{MissingTilesError, TileValues};

pub(crate) use art::{StatedArtPlacement, premultiplied};
pub(crate) use chance::weighted;
pub(crate) use footprint::WholeFault;
pub(crate) use name::check_name;
pub(crate) use notation::CellMarks;
pub(crate) use numbers::NumberedTiles;
pub(crate) use table::TileNames;
