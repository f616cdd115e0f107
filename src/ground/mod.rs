//! What a place is to a body: the ground of every cell, derived from the layers.

mod axis;
mod decide;
mod map;
mod motion;
mod solid;
mod walk;

pub use decide::GroundDecision;
pub use map::GroundMap;
pub use motion::{Contact, Side, Slide, Sweep};
