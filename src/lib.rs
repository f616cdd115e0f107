#![doc = include_str!("../docs/crate.md")]
#![warn(clippy::print_stdout, clippy::print_stderr)]

#[macro_use]
mod setters;

#[cfg(test)]
mod absence_tests;
pub mod cell_set;
mod codec;
pub mod document;
pub mod draw;
pub mod edit;
pub mod ground;
pub mod inspect;
pub mod lattice;
mod name_error;
pub mod paint;
pub mod picture;
pub mod plane;
mod prefetch;
pub mod quilt;
mod stamp;
pub mod tile;
pub mod units;
pub mod view;

pub use cell_set::CellSet;
#[cfg(feature = "fs")]
pub use document::FolderSource;
pub use document::{LoadError, Loaded, Loader, MapWriter, MemorySource};
pub use draw::{Clock, DrawList, Overlay, Sprite};
pub use edit::{Changeset, Edit, EditError, Pen};
pub use ground::{Body, GroundMap};
pub use inspect::Minimap;
pub use lattice::{Anchor, Lattice};
pub use name_error::NameError;
pub use paint::{Canvas, Frame, Painter};
pub use picture::{Color, Picture};
pub use plane::Presence;
pub use quilt::{Layer, LayerSettings, Marker, MarkerPlace, Mover, Quilt};
pub use tile::{Cell, TileId, TileSet, TileSpec, Turn};
pub use units::{
    CellPos, CellRect, ChunkPos, ScreenPoint, ScreenSize, Side, WorldPoint, WorldRect, WorldVec,
};
pub use view::{Camera, View};

/// The code of the README, compiled and run as a test.
#[cfg(all(doctest, feature = "fs", feature = "png"))]
#[doc = include_str!("../README.md")]
struct Readme;

/// The code of the guide, compiled and run as tests.
#[cfg(doctest)]
mod guide {
    #[doc = include_str!("../docs/guide/drawing.md")]
    struct Drawing;
    #[cfg(all(feature = "fs", feature = "threads"))]
    #[doc = include_str!("../docs/guide/editing.md")]
    struct Editing;
    #[doc = include_str!("../docs/guide/first-map.md")]
    struct FirstMap;
    #[doc = include_str!("../docs/guide/first-window.md")]
    struct FirstWindow;
    #[doc = include_str!("../docs/guide/ground.md")]
    struct Ground;
    #[cfg(feature = "threads")]
    #[doc = include_str!("../docs/guide/loading.md")]
    struct Loading;
    #[doc = include_str!("../docs/guide/markers.md")]
    struct Markers;
    #[doc = include_str!("../docs/guide/slanted.md")]
    struct Slanted;
}

/// Returns the small garden that the examples of this documentation share.
#[doc(hidden)]
pub fn doc_quilt() -> Quilt {
    fn garden() -> Result<Quilt, Box<dyn std::error::Error>> {
        let mut quilt = Quilt::new(Lattice::square(16.0, 16.0)?);
        quilt.edit("lay out the garden", |pen| {
            pen.add_ground_classes(["open", "stone"])?;
            pen.put_mover(Mover::new("walker").block("stone"))?;
            let tiles = TileSet::builder("garden")
                .tile(TileSpec::named("grass").with_ground("open"))
                .tile(TileSpec::named("wall").with_ground("stone"));
            pen.put_tiles(tiles.build()?)?;
            pen.add_layer("soil", LayerSettings::default())?;
            pen.put_marker(Marker::cell("gate", CellPos::new(3, 1)))?;
            let legend = [('.', "garden/grass"), ('#', "garden/wall")];
            pen.put_rows("soil", CellPos::ORIGIN, &legend, &["..#.", "....", "...."])
        })?;
        Ok(quilt)
    }
    garden().expect("the garden of the documentation is well made")
}
