//! What a place is to a body: the ground of every cell, derived from the layers.

mod codes;
mod course;
mod crossed;
mod decide;
mod derive;
mod map;
mod mask;
mod motion;
mod overlap;
mod ray;
mod sight;
mod slide;
mod stopping;
mod sweep;
mod walk;

pub use crossed::{Crossed, RayValues, Visit};
pub use decide::{DecidedBy, GroundDecision};
pub use map::GroundMap;
pub use motion::{Contact, Sweep};
pub use overlap::Overlap;
pub use ray::RayHit;
pub use sight::FieldOfView;
pub use slide::{Slide, SlideOptions};
