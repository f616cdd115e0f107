//! The unbounded grid of 32-bit values behind a layer.
//!
//! A [`Plane`] holds [`PlaneValue`]s in chunks of 64 × 64: cells, or numbers of the game's own. It is
//! read cell by cell, by a [`Cursor`], or in [`Run`]s; [`Stamp`]s tell what has changed, and
//! [`Presence`] whether a value is loaded.

// `words` holds it, without knowing what the values are; `plane`, `cursor` and `value` are the typed
// face of it, and `kind` is for values whose type is known only at run time.

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
pub(crate) use words::{Chunk, ChunkBits, ChunkParts, TractContent, Word, Words};
