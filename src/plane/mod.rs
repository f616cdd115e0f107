//! The unbounded grid of 32-bit values behind a layer.
//!
//! Cells are kept in chunks of 64 × 64, chunks in regions of 8 × 8 chunks, regions in a page table
//! by place. Tables, regions and chunks are shared between clones until one of them is written to.
//! docs/cells-in-memory.md shows it as a picture.

mod access;
mod chunk;
mod compact;
mod compare;
mod copy;
mod cursor;
mod kind;
mod memory;
mod presence;
mod read;
mod seen;
mod table;
mod value;
mod write;

use triomphe::Arc;

pub use crate::stamp::Stamp;
pub use access::{Run, RunValues};
pub(crate) use chunk::Chunk;
pub use cursor::{Cursor, Writer};
pub(crate) use kind::{Family, PerKind, Planes, for_each_kind};
pub use kind::{OwnValue, ValueKind};
pub use memory::{ChunkForm, FormMemory, PlaneMemory};
pub use presence::{Absence, AbsentError, Presence};
pub use seen::SeenStamps;
pub use value::Value;

use table::Node;

/// An unbounded grid of 32-bit values: cells, or the game's own `u32`, `i32` or `f32` by cell.
///
/// What was never written holds the default value (the empty cell, or 0) and takes no memory.
/// `clone()` shares everything and copies only what is written to afterwards, chunk by chunk, so
/// it may be taken each frame.
///
/// A plane that is not paged is here as a whole: its reads never give [`Presence::NotHere`] or
/// [`Presence::Damaged`], and its writes never fail.
///
/// Read and write many cells by [`read_rect`](Plane::read_rect) and
/// [`write_rect`](Plane::write_rect), or as runs, neighbours one after the other by a
/// [`cursor`](Plane::cursor), cells anywhere by [`get_many`](Plane::get_many): what is asked cell by
/// cell costs several times as much.
///
/// ```
/// use sturdy_quilt::{CellPos, CellRect, Plane, Presence};
///
/// let mut growth: Plane<f32> = Plane::new();
/// growth.set(CellPos::new(-7, 3), 0.5)?;
/// let before = growth.clone();
/// growth.fill(CellRect::new(CellPos::new(-8, 0), 8, 8), 1.0)?;
/// assert_eq!(before.get(CellPos::new(-7, 3)), Presence::Here(0.5));
/// assert_eq!(growth.get(CellPos::new(-7, 3)), Presence::Here(1.0));
/// assert_eq!(growth.bounds(), CellRect::new(CellPos::new(-8, 0), 8, 8));
/// # Ok::<(), sturdy_quilt::AbsentError>(())
/// ```
#[derive(Clone)]
pub struct Plane<V: Value> {
    root: Arc<Node<V>>,
    /// Whether any chunk may be absent; spares a look at each chunk of a giant fill.
    may_be_absent: bool,
}

impl<V: Value> Plane<V> {
    /// A plane that holds the default value everywhere.
    pub fn new() -> Plane<V> {
        Plane { root: Arc::new(Node::new()), may_be_absent: false }
    }
}

impl<V: Value> Default for Plane<V> {
    fn default() -> Plane<V> {
        Plane::new()
    }
}

impl<V: Value> std::fmt::Debug for Plane<V> {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        write!(f, "Plane({} chunks, {:?})", self.chunks_in_use().len(), self.stamp())
    }
}
