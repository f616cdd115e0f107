//! What a place is to a body: the ground of every cell, derived from the layers.

mod bodies;
mod body;
mod codes;
mod course;
mod crossed;
mod decide;
mod derive;
mod forms;
mod hit;
mod kept_shapes;
mod map;
mod mask;
mod minkowski;
mod motion;
mod outline;
mod overlap;
mod pieces;
mod push_out;
mod ray;
mod sight;
mod slide;
mod stopping;
mod sweep;
mod walk;

pub use body::{Body, Capsule, Circle, ConvexPolygon};
pub use crossed::{Crossed, RayValues, Visit};
pub use decide::{DecidedBy, GroundDecision};
pub use hit::RayHit;
pub use kept_shapes::{GroundShape, KeptShapes, ShapeChanges, ShapeId};
pub use map::GroundMap;
pub use motion::{Contact, ShapePart, Sweep};
pub use outline::Outline;
pub use overlap::Overlap;
pub use pieces::Piece;
pub use sight::FieldOfView;
pub use slide::{Slide, SlideOptions};
