//! Faults of tile sets.

use super::{GroundMaskFault, SheetCutError, TileNameError};
use crate::units::{PixelRect, PixelSize};

/// The error of a tile set that cannot be made.
#[derive(Clone, Debug, PartialEq, thiserror::Error)]
#[non_exhaustive]
pub enum TileSetError {
    /// The name of the set is malformed.
    #[error("a tile set cannot have this name")]
    Name(#[source] TileNameError),
    /// The sheet cannot be cut.
    #[error("the sheet of tile set `{set}` cannot be cut")]
    Sheet {
        /// The set.
        set: String,
        /// Why not.
        #[source]
        source: SheetCutError,
    },
    /// There is no tile in it.
    #[error("tile set `{0}` has no tiles")]
    Empty(String),
    /// It says how its pictures stand in a way that they cannot.
    #[error("the pictures of tile set `{set}` {fault}")]
    ArtPlacement {
        /// The set.
        set: String,
        /// What is wrong.
        fault: ArtPlacementFault,
    },
    /// A list of ground classes names a tile that is not there.
    #[error("tile set `{set}` has no tile `{tile}` to give the ground class `{class}`")]
    GroundTile {
        /// The set.
        set: String,
        /// The class.
        class: String,
        /// The tile that is not there.
        tile: String,
    },
    /// The mask of ground classes is wrong.
    #[error("the ground mask of tile set `{set}`: {fault}")]
    Mask {
        /// The set.
        set: String,
        /// What is wrong with it.
        fault: GroundMaskFault,
    },
    /// The pattern gives a tile a name that it cannot have, or that another has.
    #[error("the pattern of tile set `{set}` names tile {column}:{row} `{name}`: {fault}")]
    PatternName {
        /// The set.
        set: String,
        /// The column of the tile.
        column: u32,
        /// The row of the tile.
        row: u32,
        /// Its name by the pattern.
        name: String,
        /// What is wrong with it.
        fault: TileFault,
    },
    /// A tile is wrong.
    #[error("tile {index} of set `{set}`: {fault}")]
    Tile {
        /// The set.
        set: String,
        /// Which of the stated tiles, from 0.
        index: usize,
        /// What is wrong with it.
        fault: TileFault,
    },
}

/// A fault of how pictures stand on cells.
#[derive(Clone, Copy, Debug, PartialEq, thiserror::Error)]
#[non_exhaustive]
pub enum ArtPlacementFault {
    /// Not a number above 0.
    #[error("have {0} pixels a unit, which is not a number from 0.001 to 1000")]
    Density(f64),
    /// An anchor that is no part of width and height.
    #[error("have the anchor {0}, {1}: each must lie between 0 and 1")]
    Anchor(f64, f64),
    /// A point of the cell that is no part of its width and height.
    #[error("have the cell anchor {0}, {1}: each must lie between 0 and 1")]
    CellAnchor(f64, f64),
    /// An offset that is not finite, or larger than any map needs.
    #[error("have the offset {0}, {1}: each must lie between -65536 and 65536")]
    Offset(f64, f64),
}

/// A fault of one stated tile of a set.
#[derive(Clone, Debug, PartialEq, thiserror::Error)]
#[non_exhaustive]
pub enum TileFault {
    /// Its name is malformed.
    #[error("{0}")]
    Name(TileNameError),
    /// Another tile has the name already.
    #[error("the name `{0}` is given to two tiles")]
    RepeatedName(String),
    /// Another tile states the same place.
    #[error("the place {0}:{1} is stated twice")]
    RepeatedPlace(u32, u32),
    /// It has no place, no picture and no colour, but its set has a sheet.
    #[error("it has no place in the sheet")]
    NoPlace,
    /// It has no name, and no place in a sheet.
    #[error("it has no name, and no place in a sheet")]
    NoName,
    /// It states a place, but its set has no sheet that is cut.
    #[error("it states a place, but its set has no sheet that is cut")]
    PlaceWithoutSheet,
    /// Its place lies outside the sheet.
    #[error("the place {column}:{row} lies outside the sheet of {columns} × {rows} tiles")]
    OutsideSheet {
        /// The stated column.
        column: u32,
        /// The stated row.
        row: u32,
        /// Columns of the sheet.
        columns: u32,
        /// Rows of the sheet.
        rows: u32,
    },
    /// It states pixels, but its set has no picture.
    #[error("it states pixels, but its set has no sheet")]
    PixelsWithoutSheet,
    /// Its pixels do not lie on the picture.
    #[error("its pixels, {pixels}, do not lie on the picture of {picture}")]
    OutsidePicture {
        /// The stated pixels.
        pixels: PixelRect,
        /// The size of the picture.
        picture: PixelSize,
    },
    /// The builder was not given its picture.
    #[error("its picture `{0}` is not there")]
    NoPicture(String),
    /// It stands on several cells, and has no name after which its parts could be named.
    #[error("it has a footprint, but no name after which its parts could be named")]
    UnnamedFootprint,
    /// Its picture cannot be cut into strips.
    #[error(
        "its picture is {width} pixels wide, which is no multiple of {halves}, the columns and rows of its footprint together"
    )]
    FootprintWidth {
        /// The width of the picture.
        width: u32,
        /// Columns and rows together.
        halves: u32,
    },
    /// A tile that it shows stands on other cells.
    #[error("it shows the tile `{tile}`, whose footprint is not {columns} × {rows} cells")]
    OtherFootprint {
        /// The other tile.
        tile: String,
        /// The columns that are wanted.
        columns: u8,
        /// The rows that are wanted.
        rows: u8,
    },
    /// How it stands on its cell.
    #[error("its pictures {0}")]
    ArtPlacement(ArtPlacementFault),
    /// An animation without frames.
    #[error("its animation has no frames")]
    NoFrames,
    /// A frame that takes no time.
    #[error("frame {0} of its animation is shown for 0 ms")]
    FrameTime(usize),
    /// A frame, a facing or a variant is not a tile of the set.
    #[error("the set has no tile `{0}`")]
    UnknownTile(String),
    /// It is shown from another number of sides than there can be.
    #[error("it has {0} facings: a tile is shown from 2 or 4 sides, or states none")]
    Facings(usize),
    /// No variant is ever chosen.
    #[error("its variants all have the weight 0")]
    NoWeight,
}
