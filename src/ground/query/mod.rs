//! Questions of bodies and rays to the ground.

mod bodies;
mod body;
mod boxes;
mod course;
mod crossed;
mod overlap;
mod push_out;
mod ray;
mod sight;
mod slide;
mod solid;
mod sweep;
mod traversal;

pub use body::{Body, Capsule, Circle, ConvexPolygon};
pub use crossed::{RayCell, RayPart, RayValues, Visit};
pub use overlap::Overlap;
pub use ray::RayHit;
pub use sight::FieldOfView;
pub use slide::{Slide, SlideOptions};
pub(super) use solid::{Solid, lines_of};
pub use sweep::{Contact, Sweep};
