//! The ground of every cell and what stops each mover, derived from a map and kept up to date.

mod chunk;
mod codes;
mod convex_shapes;
mod map;
mod parts;
mod precedence;
mod stop_grid;

pub(super) use map::{Beyond, ChunkState, MoverTable, StopGridPlaces, wrapped};
pub use map::{GroundMap, GroundPart};
pub(super) use parts::SolidPart;
pub use precedence::{DecidedBy, GroundDecision};
pub(super) use stop_grid::{Bits, SIDE, StopGrid, Stopping, span};
