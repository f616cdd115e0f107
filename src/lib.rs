#![doc = include_str!("../docs/crate.md")]
#![warn(clippy::print_stdout, clippy::print_stderr)]

#[cfg(test)]
mod absence_tests;
mod document;
mod draw;
mod edit;
mod ground;
mod inspect;
mod lattice;
mod name_error;
mod paint;
mod picture;
mod plane;
mod prefetch;
mod quilt;
mod stamp;
mod tile;
mod units;
mod view;

#[cfg(feature = "threads")]
pub use document::Loading;
pub use document::{
    CellEncoding, EXPECTS_SCHEMA, Expects, FileSource, GridFile, GridValues, InlinedLayer,
    LayerFile, LayerText, Limits, LoadCache, LoadError, LoadProgress, LoadStage, Loaded, Loader,
    MAP_SCHEMA, MapWriter, MemorySource, Problem, PutBack, SaveError, Severity, SourceError,
    TILES_SCHEMA, TextPlace,
};
#[cfg(feature = "fs")]
pub use document::{FileBatch, FolderSource};
#[cfg(feature = "zip")]
pub use document::{ZipError, ZipSource, zip_archive};
pub use draw::{
    Atlas, AtlasError, Batch, BatchOpener, Clock, DrawFigures, DrawKey, DrawKind, DrawList,
    LooseItem, Overlay, OverlayQuad, Pass, Quad, Sprite, SpritePicture, StackChunk, StackEntry,
    StackPass,
};
pub use edit::{
    ApplyError, CellEdit, Changeset, Condition, Edit, EditError, ExtractedTile, Extraction,
    FlatArray, Pen, Touched,
};
pub use ground::{
    Body, Capsule, CellCrossing, Circle, Contact, ConvexPiece, ConvexPolygon, DecidedBy,
    FieldOfView, GroundDecision, GroundMap, GroundPart, GroundShape, KeptShapes, Outline, Overlap,
    RayCell, RayHit, RayPart, RayValues, ShapeChanges, ShapeId, ShapePart, Slide, SlideOptions,
    Sweep,
};
pub use inspect::{
    CellVisibility, LayerVisibility, Minimap, MinimapError, MinimapScale, Picked, Sampling,
    TileText, ViewVisibility, Visibility,
};
pub use lattice::{Anchor, Lattice, LatticeError, LatticeShape};
pub use name_error::NameError;
#[doc(hidden)]
pub use paint::Shortcuts;
pub use paint::{Canvas, CanvasError, Frame, FramePart, KeptFrame, Painter, PixelOrder};
#[cfg(feature = "png")]
pub use picture::PngError;
pub use picture::{Color, ColorError, Picture, PictureSizeError};
pub use plane::{
    Absence, AbsentError, ChunkForm, Cursor, FormMemory, OwnValue, Plane, PlaneMemory, PlaneValue,
    Presence, Run, RunValues, SeenStamps, Stamp, ValueKind, Writer,
};
pub use quilt::{
    Blend, CellKey, CellLegend, CellTextError, GroundClass, GroundRules, GroundRulesError, Grounds,
    Layer, LayerId, LayerKey, LayerSettings, Marker, MarkerPlace, Mover, MoverId, Outside, Palette,
    PaletteError, Parallax, ParallaxBand, PartError, PlacedMarker, Quilt, QuiltStamps, Treatment,
    ValueLayer, ValueLayerError, Wrap,
};
pub use tile::{
    Animation, AnimationStart, ArtPage, ArtPlacement, ArtPlacementFault, Cell, CellNotation,
    CellNotationError, CellShape, CellShapeError, Coverage, Fit, GroundMask, GroundMaskFault,
    IntoCell, MissingTilesError, NamePattern, NamePatternError, OwnedCell, PaletteId, SheetCut,
    SheetCutError, SheetGrid, TableFullError, Tile, TileArt, TileFault, TileId, TileKey, TileName,
    TileNameError, TileNumbers, TileNumbersError, TileSet, TileSetBuilder, TileSetError,
    TileSource, TileSpec, TileTable, TileValues, Turn,
};
pub use units::{
    CellOffset, CellPos, CellRect, Cells, ChunkPos, Corner, PixelRect, PixelSize, ScanOrder,
    ScreenPoint, ScreenRect, ScreenSize, ScreenVec, Side, Sides, TractPos, WorldPoint, WorldRect,
    WorldVec,
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
