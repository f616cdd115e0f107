//! What a place is to a body: the ground of every cell, derived from the layers.
//!
//! `state` derives it from a map and keeps it, `query` asks it for bodies and rays, `export` gives
//! it to others as shapes; `shape` has the convex outlines with which all three reckon.

mod export;
mod query;
mod shape;
mod state;

pub(crate) use export::StopEdge;
pub use export::{ConvexPiece, GroundShape, KeptShapes, Outline, ShapeChanges, ShapeId};
pub use query::{
    Body, Capsule, CellCrossing, Circle, Contact, ConvexPolygon, FieldOfView, Overlap, RayCell,
    RayHit, RayPart, RayValues, Slide, SlideOptions, Sweep,
};
pub use shape::ShapePart;
pub use state::{DecidedBy, GroundDecision, GroundMap, GroundPart};
