//! Convex outlines in world units, and what follows from them alone.

mod core;
pub(super) mod cuts;
mod form;
mod minkowski;

pub(super) use core::Core;
pub(super) use cuts::BoundaryEdge;
pub(super) use form::{Form, from_corner};
pub use minkowski::ShapePart;
pub(super) use minkowski::{Sum, Touch};
