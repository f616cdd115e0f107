//! What a place is to a body: the ground of every cell, derived from the layers.
//!
//! A [`GroundMap`] follows a map and answers for its movers: how far a [`Body`] gets ([`Sweep`],
//! [`Slide`]), what it overlaps, what a ray meets ([`RayHit`]), what is seen ([`FieldOfView`]), where
//! one can step. [`Outline`], [`ConvexPiece`] and [`KeptShapes`] give what is solid to physics engines.

// `state` derives it from a map and keeps it, `query` asks it for bodies and rays, `export` gives it
// to others as shapes; `shape` has the convex outlines with which all three reckon.

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
