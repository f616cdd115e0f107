//! The unbounded grid of 32-bit values behind a layer.
//!
//! `words` holds it, without knowing what the values are; `plane`, `cursor` and `value` are the typed
//! face of it, and `kind` is for values whose type is known only at run time.

mod cursor;
mod kind;
#[expect(clippy::module_inception, reason = "the type that the module is about")]
mod plane;
mod value;
mod words;

pub use cursor::{Cursor, Writer};
pub use kind::{OwnValue, ValueKind};
pub use plane::Plane;
pub use value::PlaneValue;
pub use words::{
    Absence, AbsentError, ChunkForm, FormMemory, PlaneMemory, Presence, Run, RunValues, SeenStamps,
    Stamp,
};
pub(crate) use words::{Chunk, Word, Words};
