//! Changing a map: the Pen, and what it leaves, a Changeset.

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
