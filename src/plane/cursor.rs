use std::borrow::Cow;
use std::marker::PhantomData;

use super::plane::Plane;
use super::value::PlaneValue;
use super::words::{AbsentError, Chunk, Presence, Stamp, Words};
use crate::units::{CellPos, ChunkPos};

impl<V: PlaneValue> Plane<V> {
    /// Returns a reader that remembers the chunk it read last: for walks from neighbour to
    /// neighbour.
    pub fn cursor(&self) -> Cursor<'_, V> {
        let pos = ChunkPos::default();
        Cursor { plane: self.words(), pos, chunk: self.chunk(pos), kind: PhantomData }
    }

    /// Returns a writer that holds on to the chunk it wrote to last: for changes from neighbour to
    /// neighbour.
    ///
    /// ```
    /// use sturdy_quilt::plane::Plane;
    /// use sturdy_quilt::{CellPos, Presence};
    ///
    /// let mut plane: Plane<u32> = Plane::new();
    /// let mut writer = plane.writer();
    /// for x in -3..3 {
    ///     writer.set(CellPos::new(x, 0), 7)?;
    /// }
    /// assert_eq!(writer.get(CellPos::new(2, 0)), Presence::Here(7));
    /// drop(writer);
    /// assert_eq!(plane.occupied().count(), 6);
    /// # Ok::<(), sturdy_quilt::plane::AbsentError>(())
    /// ```
    pub fn writer(&mut self) -> Writer<'_, V> {
        Writer { plane: self.words_mut(), stamp: Stamp::next(), held: None, kind: PhantomData }
    }
}

/// A reader that remembers the chunk it read last. Made by [`Plane::cursor`].
///
/// Faster than [`Plane::get`] for walks from neighbour to neighbour, slower for places at random.
#[derive(Clone, Debug)]
pub struct Cursor<'a, V: PlaneValue> {
    plane: &'a Words,
    pos: ChunkPos,
    chunk: Cow<'a, Chunk>,
    kind: PhantomData<fn() -> V>,
}

impl<V: PlaneValue> Cursor<'_, V> {
    /// Returns the value of a cell.
    #[inline]
    pub fn get(&mut self, cell: CellPos) -> Presence<V> {
        let pos = cell.chunk();
        if pos != self.pos {
            self.go_to(pos);
        }
        self.chunk.get_as(cell.index_in_chunk())
    }

    #[cold]
    fn go_to(&mut self, pos: ChunkPos) {
        self.pos = pos;
        self.chunk = self.plane.chunk(pos);
    }
}

/// A writer that holds on to the chunk it wrote to last. Made by [`Plane::writer`].
///
/// All that it changes gets one stamp. It has the chunk to itself until it goes on to another or is
/// dropped; one that is leaked instead (by [`std::mem::forget`]) leaves that chunk empty.
#[derive(Debug)]
pub struct Writer<'a, V: PlaneValue> {
    plane: &'a mut Words,
    stamp: Stamp,
    held: Option<(ChunkPos, Chunk)>,
    kind: PhantomData<fn() -> V>,
}

impl<V: PlaneValue> Writer<'_, V> {
    /// Returns the value of a cell as it is now.
    #[inline]
    pub fn get(&self, cell: CellPos) -> Presence<V> {
        match &self.held {
            Some((pos, chunk)) if *pos == cell.chunk() => chunk.get_as(cell.index_in_chunk()),
            _ => self.plane.get_as(cell),
        }
    }

    /// Changes a cell and returns the value it had.
    ///
    /// # Errors
    /// When its chunk is not here; nothing is changed then.
    #[inline]
    pub fn set(&mut self, cell: CellPos, value: V) -> Result<V, AbsentError> {
        let pos = cell.chunk();
        let before = self.get(cell).or_absent(pos)?;
        if !before.same(value) {
            match &mut self.held {
                Some((held, chunk)) if *held == pos => {
                    chunk.set(cell.index_in_chunk(), value.to_bits());
                }
                _ => self.go_to(cell, value.to_bits()),
            }
        }
        Ok(before)
    }

    /// Changes a cell of another chunk than the one that is held, and holds that from now on.
    #[cold]
    fn go_to(&mut self, cell: CellPos, value: u32) {
        self.put_back();
        let pos = cell.chunk();
        if !self.plane.has_chunks(pos.tract()) {
            // It may be a lone cell.
            self.plane.put_stamped(cell, value, self.stamp);
            return;
        }
        let mut chunk = self.plane.swap_chunk(pos, Chunk::default(), self.stamp);
        chunk.set(cell.index_in_chunk(), value);
        self.held = Some((pos, chunk));
    }

    fn put_back(&mut self) {
        if let Some((pos, chunk)) = self.held.take() {
            self.plane.swap_chunk(pos, chunk, self.stamp);
        }
    }
}

impl<V: PlaneValue> Drop for Writer<'_, V> {
    fn drop(&mut self) {
        self.put_back();
    }
}
