//! Shapes of what stops a mover, for engines and tools that have no cells.

mod kept_shapes;
mod outline;
mod pieces;

pub use kept_shapes::{GroundShape, KeptShapes, ShapeChanges, ShapeId};
pub use outline::Outline;
pub(crate) use outline::StopEdge;
pub use pieces::ConvexPiece;
