//! The ground of every cell and what stops each mover, derived from a map and kept up to date.

mod chunk;
mod codes;
mod forms;
mod map;
mod mask;
mod parts;
mod precedence;

pub(super) use map::{Beyond, ChunkState, MaskPlaces, MoverTable, wrapped};
pub use map::{GroundMap, GroundPart};
pub(super) use mask::{Bits, Mask, SIDE, Stopping, span};
pub(super) use parts::SolidPart;
pub use precedence::{DecidedBy, GroundDecision};
