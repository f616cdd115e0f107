use crate::cell_set::{CellSetError, FloodError};
use crate::name_error::NameError;
use crate::plane::AbsentError;
use crate::quilt::{CellTextError, GroundRulesError, PaletteError, PartError, ValueLayerError};
use crate::tile::{TableFullError, TileNumbersError, TileSetError};
use crate::units::{CellPos, CellRect};

/// The error of an edit that failed. Nothing of it remains in the map.
#[derive(Debug, thiserror::Error)]
#[non_exhaustive]
pub enum EditError {
    /// A layer, tile or something else by name is not there.
    #[error(transparent)]
    Name(#[from] NameError),
    /// Something cannot be a part of the map.
    #[error(transparent)]
    Part(#[from] PartError),
    /// A text names no cell.
    #[error(transparent)]
    Cell(#[from] CellTextError),
    /// A handle is one of another map.
    #[error("{}", CellTextError::OtherMap)]
    OtherMap,
    /// A tile that stands on several cells was to be put in single ones.
    #[error(
        "{tile} stands on {columns} × {rows} cells: put it with `put_whole`, or one of its parts"
    )]
    Footprint {
        /// The tile, in words.
        tile: String,
        /// Its columns.
        columns: u8,
        /// Its rows.
        rows: u8,
    },
    /// What is to be changed is not loaded, or damaged.
    #[error("layer `{layer}` cannot be changed there")]
    Absent {
        /// The layer.
        layer: String,
        /// Which chunk, and why.
        #[source]
        source: AbsentError,
    },
    /// An area spans too many cells, or is none.
    #[error(transparent)]
    CellSet(#[from] CellSetError),
    /// A choice has nothing to choose from.
    #[error("nothing can be chosen: expected at least one cell with a weight above 0")]
    NoChoice,
    /// A flood does not end.
    #[error(transparent)]
    Flood(#[from] FloodError),
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
    /// A value layer is not there, or holds another kind.
    #[error(transparent)]
    ValueLayer(#[from] ValueLayerError),
    /// Numbers cannot name tiles.
    #[error(transparent)]
    Numbers(#[from] TileNumbersError),
    /// A number names no tile.
    #[error(
        "number {number} at place {place} of the list, for cell {cell}, is not a tile: {there_are}"
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
    /// A flat list does not fill whole rows, or rows have no cells.
    #[error("{}", flat_width(*count, *width))]
    FlatWidth {
        /// How many numbers there are.
        count: usize,
        /// How many cells a row is said to have.
        width: u32,
    },
    /// There are more or fewer cells or values than a rectangle has room for.
    #[error("expected one for each of {rect}, found {count}")]
    Count {
        /// The rectangle.
        rect: CellRect,
        /// How many there are.
        count: usize,
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
    /// A tile set cannot be made.
    #[error(transparent)]
    TileSet(#[from] TileSetError),
    /// A cell lies in an area that somebody else has locked.
    #[error("cell {cell} is locked by `{owner}`")]
    Locked {
        /// The cell.
        cell: CellPos,
        /// Who has locked it.
        owner: String,
    },
    /// A cell lies beyond the bounds of the edit.
    #[error("cell {cell} lies beyond the {bounds} to which edits are bound")]
    BeyondBounds {
        /// The cell.
        cell: CellPos,
        /// The bounds.
        bounds: CellRect,
    },
    /// The edit costs more than is left.
    #[error("the edit costs {cost}, and {budget} are left")]
    TooCostly {
        /// What it costs.
        cost: u64,
        /// What is left.
        budget: u64,
    },
    /// The game itself refused the edit.
    #[error("{0}")]
    Refused(String),
}

impl From<TableFullError> for EditError {
    fn from(error: TableFullError) -> EditError {
        PartError::from(error).into()
    }
}

impl From<GroundRulesError> for EditError {
    fn from(error: GroundRulesError) -> EditError {
        PartError::from(error).into()
    }
}

impl From<PaletteError> for EditError {
    fn from(error: PaletteError) -> EditError {
        PartError::from(error).into()
    }
}

/// The error of changes that cannot be applied to a map. Nothing of them remains in it.
#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
#[non_exhaustive]
pub enum ApplyError {
    /// They were made in a map of another descent, whose tiles have other numbers.
    #[error("the changes belong to another map")]
    OtherMap,
    /// The two maps have different lattices, which no change makes equal.
    #[error("the maps have different lattices: changes lead only between maps of the same cells")]
    Lattice,
    /// A layer is not there.
    #[error(transparent)]
    Name(#[from] NameError),
    /// A part of the map that the changes touch is not loaded, or damaged.
    #[error("{0} is not loaded: load it before the changes are applied")]
    Absent(String),
    /// The map no longer holds what the changes expect to find.
    #[error("the map has changed meanwhile: {0} is not what the changes expect")]
    Differs(String),
    /// After the changes, a part of the map would lack what it needs: the map could be saved, but not
    /// loaded again.
    #[error("{user} needs {needed}, which the map would not have after the changes")]
    Needed {
        /// The part of the map, for example "marker `pond`".
        user: String,
        /// The thing that it would lack, for example "ground class `water`".
        needed: String,
    },
    /// There are too many tiles.
    #[error(transparent)]
    TableFull(#[from] TableFullError),
}

fn flat_width(count: usize, width: u32) -> String {
    match width {
        0 => "expected rows of at least 1 cell, found a width of 0".to_owned(),
        _ => format!("expected whole rows of {width} cells, found {count} numbers"),
    }
}
