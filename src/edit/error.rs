use crate::near::NameError;
use crate::plane::AbsentError;
use crate::quilt::{CellTextError, GroundRulesError};
use crate::tile::{TableFullError, TileSetError};
use crate::units::{CellPos, CellRect};

/// Why an edit failed. Nothing of it remains in the map.
#[derive(Debug, thiserror::Error)]
#[non_exhaustive]
pub enum EditError {
    /// A layer, tile or something else by name is not there.
    #[error(transparent)]
    Name(#[from] NameError),
    /// A text names no cell.
    #[error(transparent)]
    Cell(#[from] CellTextError),
    /// A handle belongs to no tile of this map.
    #[error("tile number {0} is none of this map")]
    UnknownTile(usize),
    /// What is to be changed is not loaded, or damaged.
    #[error("layer `{layer}` cannot be changed there")]
    Absent {
        /// The layer.
        layer: String,
        /// Which chunk, and why.
        #[source]
        source: AbsentError,
    },
    /// A rectangle to fill spans too many chunks.
    #[error("{rect} are too many to fill at once; at most {most} chunks of 64 × 64 may be touched")]
    TooLarge {
        /// What was to be filled.
        rect: CellRect,
        /// The most chunks.
        most: u64,
    },
    /// A condition that the edit requires is not fulfilled.
    #[error("layer `{layer}` holds `{found}` at {cell}, which is not what the edit requires")]
    Required {
        /// The layer.
        layer: String,
        /// The cell.
        cell: CellPos,
        /// What lies there.
        found: String,
    },
    /// There is a layer of this name already.
    #[error("there is a layer `{0}` already")]
    LayerExists(String),
    /// There are as many layers as a map can have.
    #[error("a map can have at most {} layers", crate::quilt::Layer::MAX_COUNT)]
    TooManyLayers,
    /// The name cannot be one: it is empty.
    #[error("a {0} must have a name")]
    NoName(&'static str),
    /// A row of characters has one that its legend does not know.
    #[error("row {row} has `{character}` in column {column}, which the legend does not know")]
    UnknownCharacter {
        /// The row, from 0.
        row: usize,
        /// The column, from 0.
        column: usize,
        /// The character.
        character: char,
    },
    /// A row of characters reaches beyond the limits of cells.
    #[error("row {row} reaches beyond the limits of cells in column {column}")]
    BeyondCells {
        /// The row, from 0.
        row: usize,
        /// The column, from 0.
        column: usize,
    },
    /// A tile gives a ground class that the map does not have.
    #[error("tile `{tile}` gives ground that the map does not know")]
    TileGround {
        /// The tile.
        tile: String,
        /// Which class.
        #[source]
        source: NameError,
    },
    /// A tile set cannot be made.
    #[error(transparent)]
    TileSet(#[from] TileSetError),
    /// There are too many tiles.
    #[error(transparent)]
    TableFull(#[from] TableFullError),
    /// A ground class or a mover is wrong.
    #[error(transparent)]
    GroundRules(#[from] GroundRulesError),
    /// The game itself refused the edit.
    #[error("{0}")]
    Refused(String),
}
