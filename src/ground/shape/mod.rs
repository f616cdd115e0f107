//! Convex outlines in world units, and what follows from them alone.

mod convex_shape;
mod core;
pub(super) mod cuts;
mod minkowski;

pub(super) use convex_shape::{ConvexShape, from_corner};
pub(super) use core::Core;
pub(super) use cuts::BoundaryEdge;
pub use minkowski::ShapePart;
pub(super) use minkowski::{Sum, Touch};
