//! Changing a map.
//!
//! [`Quilt::edit`](crate::Quilt::edit) hands out a [`Pen`], which changes cells, layers, markers and all
//! else, and gives a [`Changeset`] that undoes it. Either all changes of an edit are made, or, after
//! an [`EditError`], none.

mod between;
mod change;
mod condition;
mod conflict;
mod error;
mod extract;
mod fill;
mod flat;
mod flood;
mod ghost;
mod history;
mod lay;
mod map;
mod motif;
mod motif_text;
mod notes;
mod op;
mod part;
mod pen;
mod plane_changes;
mod rebase;
mod rules;
mod values;

pub use change::{CellEdit, Changeset, MarkerEdit, SettingsEdit, Touched, ValueEdit};
pub use condition::Condition;
pub use conflict::{Conflict, Resolve};
pub use error::{ApplyError, EditError};
pub use extract::{ExtractedTile, Extraction};
pub use fill::Fill;
pub use flat::FlatArray;
pub use flood::{Alike, Flood};
pub use ghost::Ghost;
pub use history::{History, Undone};
pub use motif::Motif;
pub use motif_text::MotifTextError;
pub(crate) use op::{Op, Swap};
pub(crate) use part::{Part, Placed};
pub use pen::{Edit, Pen};
pub(crate) use plane_changes::{CellsChange, ChunkChange, PlaneChanges, TractChange, Values};
pub use rebase::Rebased;
pub use rules::EditRules;
pub use values::SoftBrush;
