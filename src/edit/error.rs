use crate::near::NameError;
use crate::plane::AbsentError;
use crate::quilt::{CellTextError, GroundRulesError, PaletteError, ValueLayerError};
use crate::tile::{TableFullError, TileNumbersError, TileSetError};
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
    /// The settings of a layer cannot be.
    #[error("layer `{layer}` cannot have these settings: {fault}")]
    Settings {
        /// The layer.
        layer: String,
        /// What is wrong with them.
        fault: String,
    },
    /// The bounds of a map are empty.
    #[error(
        "the bounds of a map must have at least one cell; state none to have those of its layers"
    )]
    EmptyBounds,
    /// Data of the game's own is nested too deep to be loaded again.
    #[error("the data of {0} is nested too deep: {most} levels are allowed", most = crate::quilt::MOST_DATA_DEPTH)]
    DataDepth(String),
    /// A palette of the map replaces a colour that no tile set would have any more.
    #[error(
        "palette `{palette}` replaces a colour that the map would no longer have without tile set `{set}` as it was"
    )]
    PaletteColor {
        /// The palette.
        palette: String,
        /// The tile set.
        set: String,
        /// Which colour.
        #[source]
        source: NameError,
    },
    /// A handle is one of another map.
    #[error("{}", CellTextError::OtherMap)]
    OtherMap,
    /// A cell shows no tile of this map.
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
    /// There is a value layer of this name already.
    #[error("there is a value layer `{0}` already")]
    ValueLayerExists(String),
    /// A value layer is not there, or holds another kind.
    #[error(transparent)]
    ValueLayer(#[from] ValueLayerError),
    /// There are as many layers as a map can have.
    #[error("a map can have at most {} layers", crate::quilt::Layer::MAX_COUNT)]
    TooManyLayers,
    /// The name cannot be one: it is empty.
    #[error("a {0} must have a name")]
    NoName(&'static str),
    /// A marker can be nowhere.
    #[error(
        "marker `{0}` has no place: an area has at least one cell, a path 2 points and a polygon 3, all of finite numbers"
    )]
    MarkerPlace(String),
    /// A marker cannot say what the ground of its cells is.
    #[error(
        "marker `{0}` cannot state ground: only a cell, an area or a polygon can, within at most 4096 × 4096 cells"
    )]
    MarkerGround(String),
    /// A marker states a ground class that the map does not have.
    #[error("marker `{marker}` states ground that the map does not know")]
    MarkerClass {
        /// The marker.
        marker: String,
        /// Which class.
        #[source]
        source: NameError,
    },
    /// Numbers cannot name tiles.
    #[error(transparent)]
    Numbers(#[from] TileNumbersError),
    /// A number names no tile.
    #[error(
        "number {number} at place {place} of the list, for cell {cell}, is no tile: {there_are}"
    )]
    UnknownNumber {
        /// The number.
        number: i64,
        /// Its place in the list, from 0.
        place: usize,
        /// The cell for which it stands.
        cell: CellPos,
        /// The numbers that there are, in words.
        there_are: String,
    },
    /// A flat list is not a rectangle.
    #[error("{count} numbers are no whole rows of {width} cells")]
    FlatWidth {
        /// How many numbers there are.
        count: usize,
        /// How many cells a row is said to have.
        width: u32,
    },
    /// A rectangle reaches beyond the limits of cells.
    #[error("{width} × {height} cells from {corner} on reach beyond the limits of cells")]
    RectBeyondCells {
        /// The upper left cell.
        corner: CellPos,
        /// Its columns.
        width: u32,
        /// Its rows.
        height: u32,
    },
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
    /// A palette is wrong.
    #[error(transparent)]
    Palette(#[from] PaletteError),
    /// The game itself refused the edit.
    #[error("{0}")]
    Refused(String),
}
