//! What a place is to a body: the ground of every cell, derived from the layers.

mod decide;
mod map;

pub use decide::GroundDecision;
pub use map::GroundMap;
