//! Promises of every public type that the compiler can check.

use sturdy_quilt::cell_set::*;
use sturdy_quilt::document::*;
use sturdy_quilt::draw::*;
use sturdy_quilt::edit::*;
use sturdy_quilt::ground::*;
use sturdy_quilt::lattice::*;
use sturdy_quilt::paint::*;
use sturdy_quilt::picture::*;
use sturdy_quilt::plane::*;
use sturdy_quilt::quilt::*;
use sturdy_quilt::tile::*;
use sturdy_quilt::*;

fn shareable<T: Send + Sync + 'static>() {}
fn error<T: std::error::Error + Send + Sync + 'static>() {}
fn point<T: Copy + PartialEq + Default + std::fmt::Debug + std::fmt::Display>() {}

#[test]
fn everything_can_be_shared_between_threads() {
    shareable::<Quilt>();
    shareable::<Plane<Cell>>();
    shareable::<Plane<f32>>();
    shareable::<GroundMap>();
    shareable::<DrawList>();
    shareable::<Painter>();
    shareable::<Frame>();
    shareable::<Picture>();
    shareable::<Changeset>();
    shareable::<CellSet>();
    shareable::<EditRules<'static>>();
    shareable::<Ghost>();
    shareable::<History>();
    shareable::<Motif>();
    shareable::<TileSet>();
    shareable::<TileTable>();
    shareable::<SeenStamps>();
    shareable::<MemorySource>();
    shareable::<Loaded>();
    shareable::<View>();
    shareable::<Marker>();
    shareable::<Mover>();
    shareable::<KeptShapes<ConvexPiece>>();
    shareable::<KeptShapes<Outline>>();
    shareable::<Slide<Capsule>>();
}

#[test]
fn errors_can_be_sent_and_boxed() {
    error::<CellSetError>();
    error::<FloodError>();
    error::<MotifTextError>();
    error::<LatticeError>();
    error::<NameError>();
    error::<ColorError>();
    error::<PictureSizeError>();
    error::<AbsentError>();
    error::<GroundRulesError>();
    error::<CellTextError>();
    error::<CellNotationError>();
    error::<TileNameError>();
    error::<TileSetError>();
    error::<SheetCutError>();
    error::<TableFullError>();
    error::<EditError>();
    error::<ApplyError>();
    error::<LoadError>();
    error::<SaveError>();
    error::<SourceError>();
    error::<CellShapeError>();
}

#[test]
fn places_are_plain_values() {
    point::<CellPos>();
    point::<ChunkPos>();
    point::<CellRect>();
    point::<WorldPoint>();
    point::<ScreenPoint>();
}

#[test]
fn debug_texts_of_maps_are_summaries() {
    let quilt = doc_quilt();
    assert_eq!(format!("{quilt:?}"), "Quilt(4 × 3 cells at 0,0, 1 layers, 1 sets, 1 markers)");
    assert!(format!("{:?}", quilt.layers()[0].cells()).starts_with("Plane(1 chunks"));
}
