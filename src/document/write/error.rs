//! Errors of saving a map.

use crate::units::CellRect;

/// The error of a map that cannot be saved. A file that was there before is unharmed.
#[derive(Debug, thiserror::Error)]
#[non_exhaustive]
pub enum SaveError {
    /// A layer is not there.
    #[error(transparent)]
    Name(#[from] crate::name_error::NameError),
    /// A tile set was made in code from a picture that has no file.
    #[error(
        "tile set `{set}` has a picture without a file; name one with `picture_file`, or save the set to a file of its own"
    )]
    PictureWithoutFile {
        /// The set.
        set: String,
    },
    /// A part of a layer is not in memory.
    #[error("layer `{layer}` is not loaded as a whole")]
    NotLoaded {
        /// The layer.
        layer: String,
    },
    /// The files that the map came from cannot be read again.
    #[error("`{path}` cannot be saved to as it is: {why}")]
    Source {
        /// The file.
        path: String,
        /// Why, in words.
        why: String,
    },
    /// The map has other layers than the one that was loaded, or has them in another order.
    #[error(
        "layer `{layer}` is new, or lies in another place than in the file: save the map as a whole"
    )]
    LayersDiffer {
        /// The layer.
        layer: String,
    },
    /// Changes could not be put back so that the same map would be loaded again: the files have
    /// changed since, or a change has no place in them.
    #[error(
        "`{path}` has changed since it was loaded, or cannot hold the changes: save to another file"
    )]
    NotTheSame {
        /// The document.
        path: String,
    },
    /// A layer spans too many cells to be written as rows of characters.
    #[error("layer `{layer}` spans {rect}, too many to be written as text")]
    TooLargeForText {
        /// The layer.
        layer: String,
        /// What it spans.
        rect: CellRect,
    },
    /// The map could not be loaded again: one of its layers brings it beyond
    /// [`Limits::cells`](crate::document::Limits::cells).
    #[error(
        "layer `{layer}` brings the map to {count} cells, more than the {most} that a load allows: fill less of it, or make several maps of it"
    )]
    TooManyCells {
        /// The layer, or value layer.
        layer: String,
        /// The cells of it and of those before it, those counted that are empty within its rows.
        count: u64,
        /// The most cells.
        most: u64,
    },
    /// The map could not be loaded again: there are more of something than
    /// [`Limits`](crate::document::Limits) allow.
    #[error("the map has {count} {what}, more than the {most} that a load allows")]
    TooMany {
        /// Of what.
        what: &'static str,
        /// How many there are.
        count: u64,
        /// The most.
        most: u64,
    },
    /// The map could not be loaded again: a file is larger than
    /// [`Limits::file_bytes`](crate::document::Limits::file_bytes).
    #[error(
        "{what} takes more than the {most} bytes that a load allows for a file: write the cells packed, or each layer to a file of its own"
    )]
    TooLargeFile {
        /// The layer or the file.
        what: String,
        /// The most bytes.
        most: u64,
    },
    /// A cell has a tile that no set has, and so no number.
    #[error(
        "layer `{layer}` has the tile `{tile}`, which no tile set has, so that it has no number"
    )]
    NoNumber {
        /// The layer.
        layer: String,
        /// The full name of the tile.
        tile: String,
    },
    /// A layer cannot be packed.
    #[error("layer `{layer}` cannot be packed")]
    Packing {
        /// The layer.
        layer: String,
        /// Why not.
        #[source]
        source: std::io::Error,
    },
    /// A layer cannot be written as a picture, for example because it has no cells.
    #[cfg(feature = "png")]
    #[error("layer `{layer}` cannot be written as a picture")]
    Picture {
        /// The layer.
        layer: String,
        /// Why not.
        #[source]
        source: crate::picture::PngError,
    },
    /// This program was built without the feature `png`.
    #[cfg(not(feature = "png"))]
    #[error(
        "layer `{layer}` cannot be written as a picture: the program was built without the feature `png`"
    )]
    NoPictures {
        /// The layer.
        layer: String,
    },
    /// The file could not be written.
    #[error("`{path}` cannot be written")]
    Io {
        /// The file.
        path: String,
        /// Why not.
        #[source]
        source: std::io::Error,
    },
}
