//! Questions of bodies and rays to the ground.

mod axis_motion;
mod bodies;
mod body;
mod boxes;
mod overlap;
mod push_out;
mod ray;
mod ray_cells;
mod sight;
mod slide;
mod solid;
mod sweep;
mod traversal;

pub use body::{Body, Capsule, Circle, ConvexPolygon};
pub use overlap::Overlap;
pub use ray::RayHit;
pub use ray_cells::{CellCrossing, RayCell, RayPart, RayValues};
pub use sight::FieldOfView;
pub use slide::{Slide, SlideOptions};
pub(super) use solid::{Solid, lines_of};
pub use sweep::{Contact, Sweep};
