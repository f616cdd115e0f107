//! Changing a map.
//!
//! [`Quilt::edit`](crate::Quilt::edit) hands out a [`Pen`], which changes cells, layers, markers and all
//! else, and gives a [`Changeset`] that undoes it. Either all changes of an edit are made, or, after
//! an [`EditError`], none.

mod change;
mod condition;
mod error;
mod extract;
mod flat;
mod journal;
mod lay;
mod map;
mod pen;
mod plane_changes;
mod values;

pub use change::{CellEdit, Changeset, Touched};
pub use condition::Condition;
pub use error::{ApplyError, EditError};
pub use extract::{ExtractedTile, Extraction};
pub use flat::FlatArray;
pub use pen::{Edit, Pen};
