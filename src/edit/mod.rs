//! Changing a map: the Pen, and what it leaves, a Changeset.

mod change;
mod condition;
mod error;
mod journal;
mod pen;

pub use change::{ApplyError, CellEdit, Changeset};
pub use condition::Condition;
pub use error::EditError;
pub use pen::{Edit, Pen};
