use std::borrow::Cow;

use super::{Chunk, Plane, Presence, Value};
use crate::units::{CellPos, ChunkPos};

impl<V: Value> Plane<V> {
    /// A reader that remembers the chunk it read last: for walks from neighbour to neighbour.
    pub fn cursor(&self) -> Cursor<'_, V> {
        let pos = ChunkPos::default();
        Cursor { plane: self, pos, chunk: self.chunk(pos) }
    }
}

/// A reader that remembers the chunk it read last. Made by [`Plane::cursor`].
///
/// Faster than [`Plane::get`] for walks from neighbour to neighbour, slower for places at random.
#[derive(Clone, Debug)]
pub struct Cursor<'a, V: Value> {
    plane: &'a Plane<V>,
    pos: ChunkPos,
    chunk: Cow<'a, Chunk<V>>,
}

impl<V: Value> Cursor<'_, V> {
    /// The value of a cell.
    #[inline]
    pub fn get(&mut self, cell: CellPos) -> Presence<V> {
        let pos = cell.chunk();
        if pos != self.pos {
            self.go_to(pos);
        }
        self.chunk.get(cell.index_in_chunk())
    }

    #[cold]
    fn go_to(&mut self, pos: ChunkPos) {
        self.pos = pos;
        self.chunk = self.plane.chunk(pos);
    }
}
