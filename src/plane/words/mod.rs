//! A plane of 32-bit words, whatever they mean.
//!
//! Cells are kept in chunks of 64 × 64, chunks in tracts of 8 × 8 chunks, tracts in a page table
//! by place. Tables, tracts and chunks are shared between clones until one of them is written to.
//! docs/cells-in-memory.md shows it as a picture. 0 is the default: what was never written.

mod access;
mod bits;
mod chunk;
mod compact;
mod compare;
mod content;
mod copy;
mod memory;
mod read;
mod run;
mod seen;
mod table;
mod write;

use triomphe::Arc;

pub use crate::stamp::Stamp;
pub use chunk::{Absence, AbsentError, ChunkForm, Presence};
pub(crate) use chunk::{Chunk, ChunkBits, ChunkParts, Word};
pub(crate) use content::TractContent;
pub use memory::{FormMemory, PlaneMemory};
pub use run::{Run, RunValues};
pub use seen::SeenStamps;

use table::Node;

/// An unbounded grid of words.
#[derive(Clone, Debug)]
pub(crate) struct Words {
    root: Arc<Node>,
    /// Whether any chunk may be absent; spares a look at each chunk of a giant fill.
    may_be_absent: bool,
}

impl Words {
    pub(crate) fn new() -> Words {
        Words { root: Arc::new(Node::new()), may_be_absent: false }
    }

    /// Whether any chunk may be absent.
    pub(crate) const fn may_be_absent(&self) -> bool {
        self.may_be_absent
    }
}
