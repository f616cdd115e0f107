//! Changing a map: the Pen, and what it leaves, a Changeset.

mod change;
mod condition;
mod error;
mod flat;
mod journal;
mod lay;
mod map;
mod pen;
mod plane_changes;
mod take;
mod values;

pub use change::{CellEdit, Changeset, Touched};
pub use condition::Condition;
pub use error::{ApplyError, EditError};
pub use flat::FlatArray;
pub use pen::{Edit, Pen};
pub use take::{Take, Taken};
