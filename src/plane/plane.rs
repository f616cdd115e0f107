//! The typed face of a plane: what it holds lies in [`Words`], the same for all kinds of value, so
//! that the code behind it is compiled once.

use std::borrow::Cow;
use std::marker::PhantomData;

use super::value::PlaneValue;
use super::words::{
    Absence, AbsentError, Chunk, PlaneMemory, Presence, Run, RunValues, SeenStamps, Words,
};
use crate::stamp::Stamp;
use crate::units::{CellPos, CellRect, ChunkPos, TractPos};
use bytemuck::TransparentWrapper;

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
/// use sturdy_quilt::plane::Plane;
/// use sturdy_quilt::{CellPos, CellRect, Presence};
///
/// let mut growth: Plane<f32> = Plane::new();
/// growth.set(CellPos::new(-7, 3), 0.5)?;
/// let before = growth.clone();
/// growth.fill(CellRect::new(CellPos::new(-8, 0), 8, 8), 1.0)?;
/// assert_eq!(before.get(CellPos::new(-7, 3)), Presence::Here(0.5));
/// assert_eq!(growth.get(CellPos::new(-7, 3)), Presence::Here(1.0));
/// assert_eq!(growth.bounds(), CellRect::new(CellPos::new(-8, 0), 8, 8));
/// # Ok::<(), sturdy_quilt::plane::AbsentError>(())
/// ```
#[derive(Clone, TransparentWrapper)]
#[repr(transparent)]
#[transparent(Words)]
pub struct Plane<V: PlaneValue> {
    words: Words,
    kind: PhantomData<fn() -> V>,
}

// Make.
impl<V: PlaneValue> Plane<V> {
    /// Returns a plane that holds the default value everywhere.
    pub fn new() -> Plane<V> {
        Plane { words: Words::new(), kind: PhantomData }
    }

    /// Some words as the plane of values that they are.
    pub(crate) fn of_words(words: &Words) -> &Plane<V> {
        Plane::wrap_ref(words)
    }

    /// Some words as the plane of values that they are, to write to.
    pub(crate) fn of_words_mut(words: &mut Words) -> &mut Plane<V> {
        Plane::wrap_mut(words)
    }

    /// The words behind it, which are given up by it.
    pub(crate) fn into_words(self) -> Words {
        self.words
    }

    /// The words behind it.
    pub(crate) const fn words(&self) -> &Words {
        &self.words
    }

    /// The words behind it, to write to.
    pub(crate) const fn words_mut(&mut self) -> &mut Words {
        &mut self.words
    }
}

// Read cells.
impl<V: PlaneValue> Plane<V> {
    /// Returns the value of a cell. Constant time.
    #[inline]
    pub fn get(&self, cell: CellPos) -> Presence<V> {
        self.words.get_as(cell)
    }

    /// Reads the values of cells that lie anywhere, in their order; `into` holds them and nothing
    /// else afterwards.
    ///
    /// Takes many at a time, so that the machine waits for the memory of all of them at once: on
    /// maps that do not fit its caches several times faster than [`Plane::get`] for each.
    ///
    /// ```
    /// use sturdy_quilt::plane::Plane;
    /// use sturdy_quilt::{CellPos, Presence};
    ///
    /// let mut plane: Plane<i32> = Plane::new();
    /// plane.set(CellPos::new(-5, 1000), 7)?;
    /// let mut found = Vec::new();
    /// plane.get_many(&[CellPos::ORIGIN, CellPos::new(-5, 1000)], &mut found);
    /// assert_eq!(found, [Presence::Here(0), Presence::Here(7)]);
    /// # Ok::<(), sturdy_quilt::plane::AbsentError>(())
    /// ```
    pub fn get_many(&self, cells: &[CellPos], into: &mut Vec<Presence<V>>) {
        into.clear();
        into.resize(cells.len(), Presence::Here(V::default()));
        self.words.get_many(cells, |at, found| into[at] = found);
    }

    /// Reads a rectangle as runs: row by row, each row from left to right without a gap.
    ///
    /// A run is uniform, or a slice of values; it may end before its values change, most often at
    /// the edge of a chunk. Slices that do not lie in memory as such are unpacked into `scratch`,
    /// whose capacity is kept for the next call.
    ///
    /// Costs a look at each chunk a row, and at the cells of those that are not uniform.
    ///
    /// ```
    /// use sturdy_quilt::plane::{Plane, RunValues};
    /// use sturdy_quilt::{CellPos, CellRect};
    ///
    /// let mut plane: Plane<u32> = Plane::new();
    /// plane.fill(CellRect::new(CellPos::new(0, 0), 64, 64), 7)?;
    /// let row = CellRect::new(CellPos::new(-10, 5), 20, 1);
    /// let mut found = Vec::new();
    /// plane.read_runs(row, &mut Vec::new(), |run| {
    ///     if let RunValues::Uniform(value) = run.values {
    ///         found.push((run.cells.left(), run.cells.width(), value));
    ///     }
    /// });
    /// assert_eq!(found, [(-10, 10, 0), (0, 10, 7)]);
    /// # Ok::<(), sturdy_quilt::plane::AbsentError>(())
    /// ```
    pub fn read_runs(
        &self,
        rect: CellRect,
        scratch: &mut Vec<V>,
        mut visit: impl FnMut(Run<'_, V>),
    ) {
        with_words(scratch, |scratch| {
            self.words.read_runs(rect, scratch, |found| visit(run(found)));
        });
    }

    /// Reads a rectangle chunk by chunk (row by row of chunks): for each the part that lies in the
    /// rectangle, as one run of several rows. A uniform chunk costs no look at its cells.
    ///
    /// Values that do not lie in memory as such are unpacked into `scratch`, whose capacity is
    /// kept for the next call.
    pub fn read_blocks(
        &self,
        rect: CellRect,
        scratch: &mut Vec<V>,
        mut visit: impl FnMut(Run<'_, V>),
    ) {
        with_words(scratch, |scratch| {
            self.words.read_blocks(rect, scratch, |found| visit(run(found)));
        });
    }

    /// Reads all that there is, chunk by chunk (row by row of chunks): each chunk that may hold
    /// something else than the default value as one run of 64 rows.
    ///
    /// ```
    /// use sturdy_quilt::plane::Plane;
    /// use sturdy_quilt::CellPos;
    ///
    /// let mut plane: Plane<u32> = Plane::new();
    /// plane.set(CellPos::new(-1, -1), 3)?;
    /// plane.set(CellPos::new(1_000_000, 7), 4)?;
    /// let mut sum = 0;
    /// plane.read_chunks(&mut Vec::new(), |run| sum += run.each().map(|(_, value)| value).sum::<u32>());
    /// assert_eq!(sum, 7);
    /// # Ok::<(), sturdy_quilt::plane::AbsentError>(())
    /// ```
    pub fn read_chunks(&self, scratch: &mut Vec<V>, mut visit: impl FnMut(Run<'_, V>)) {
        with_words(scratch, |scratch| {
            self.words.read_chunks(scratch, |found| visit(run(found)));
        });
    }

    /// Copies the values of a rectangle, row by row; `into` holds them and nothing else
    /// afterwards. The fastest way to read a window of a map.
    ///
    /// # Errors
    /// When a chunk that it touches is not here: the first of them. The cells of such chunks are
    /// given as the default value, the others as they are.
    ///
    /// # Panics
    /// When the rectangle has more cells than there can be memory for, as vectors do.
    ///
    /// Costs a look at each chunk, and a copy of all cells. Asks for memory when `into` has less
    /// room than the rectangle has cells.
    ///
    /// ```
    /// use sturdy_quilt::plane::Plane;
    /// use sturdy_quilt::{CellPos, CellRect};
    ///
    /// let mut plane: Plane<u32> = Plane::new();
    /// plane.fill(CellRect::new(CellPos::new(0, 0), 2, 2), 7)?;
    /// let mut window = Vec::new();
    /// plane.read_rect(CellRect::new(CellPos::new(-1, 0), 3, 2), &mut window)?;
    /// assert_eq!(window, [0, 7, 7, 0, 7, 7]);
    /// # Ok::<(), sturdy_quilt::plane::AbsentError>(())
    /// ```
    pub fn read_rect(&self, rect: CellRect, into: &mut Vec<V>) -> Result<(), AbsentError> {
        into.resize(rect.width() as usize * rect.height() as usize, V::default());
        self.words.read_rect(rect, V::words_mut(into))
    }
}

// Ask where something is.
impl<V: PlaneValue> Plane<V> {
    /// Returns the smallest rectangle that holds every cell whose value is not the default, and
    /// every chunk that is not here.
    ///
    /// Kept up to date: costs a look at what was written to since it was asked for last, and at
    /// what lies beside that in the page table.
    pub fn bounds(&self) -> CellRect {
        self.words.bounds()
    }

    /// Returns the cells whose value is not the default, chunk by chunk (row by row of chunks), and
    /// in each chunk row by row. Chunks that are not here are passed over.
    pub fn occupied(&self) -> impl Iterator<Item = (CellPos, V)> + '_ {
        self.cells_where(|_| true)
    }

    /// Returns the cells that hold `value`, in the order of [`Plane::occupied`]. Chunks in which it
    /// cannot be are passed over without a look at their cells. The default value is held by cells
    /// without end and gives none.
    pub fn find(&self, value: V) -> impl Iterator<Item = CellPos> + '_ {
        self.find_where(move |v| v.same(value))
    }

    /// Returns the cells whose value fulfils a condition; see [`Plane::find`]. The condition is
    /// asked once a chunk for each value that its table holds, and cell by cell only where all
    /// cells have values of their own.
    pub fn find_where<'a>(
        &'a self,
        wanted: impl Fn(V) -> bool + Clone + 'a,
    ) -> impl Iterator<Item = CellPos> + 'a {
        self.cells_where(wanted).map(|(cell, _)| cell)
    }

    fn cells_where<'a>(
        &'a self,
        wanted: impl Fn(V) -> bool + 'a,
    ) -> impl Iterator<Item = (CellPos, V)> + 'a {
        let found = self.words.cells_where(Box::new(move |word| wanted(V::of_word(word))));
        found.map(|(cell, word)| (cell, V::of_word(word)))
    }
}

// Compare.
impl<V: PlaneValue> Plane<V> {
    /// Returns the chunks in which two planes differ, row by row; a chunk that is not here differs
    /// from one that is. Forms and stamps do not count.
    ///
    /// What the two share is passed over, whole parts of the page table at once: for two clones
    /// this costs what was written to in either, and not what there is.
    ///
    /// ```
    /// use sturdy_quilt::plane::Plane;
    /// use sturdy_quilt::{CellPos, ChunkPos};
    ///
    /// let mut plane: Plane<u32> = Plane::new();
    /// plane.set(CellPos::new(3, 3), 1)?;
    /// let before = plane.clone();
    /// plane.set(CellPos::new(-1, 3), 1)?;
    /// assert_eq!(plane.differences(&before), [ChunkPos::new(-1, 0)]);
    /// # Ok::<(), sturdy_quilt::plane::AbsentError>(())
    /// ```
    pub fn differences(&self, other: &Plane<V>) -> Vec<ChunkPos> {
        self.words.differences(&other.words)
    }

    /// Returns whether two planes hold the same in every cell of a rectangle. Costs a look at each
    /// chunk that it touches, or at each that differs where those are fewer, and at the cells of
    /// those that the two do not share.
    pub fn same_in(&self, rect: CellRect, other: &Plane<V>) -> bool {
        self.words.same_in(rect, &other.words)
    }

    /// Returns the stamp of the last change of the whole plane.
    pub fn stamp(&self) -> Stamp {
        self.words.stamp()
    }

    /// Returns the stamp of the last change of a chunk; [`Stamp::NONE`] for one never written to.
    pub fn chunk_stamp(&self, chunk: ChunkPos) -> Stamp {
        self.words.chunk_stamp(chunk)
    }

    /// Returns the stamp of the last change of any chunk of a tract; [`Stamp::NONE`] for one never
    /// written to.
    pub fn tract_stamp(&self, tract: TractPos) -> Stamp {
        self.words.tract_stamp(tract)
    }

    /// Returns the chunks changed after `stamp` was the plane's, in no stated order.
    ///
    /// Right only for a stamp that this plane itself, or a clone it was made from, once had; to
    /// follow any clone, keep [`SeenStamps`](crate::plane::SeenStamps). Costs a look at the tracts that
    /// changed, and at what lies beside them in the page table.
    pub fn changed_since(&self, stamp: Stamp) -> impl Iterator<Item = ChunkPos> + '_ {
        self.words.changed_since(stamp).into_iter()
    }
}

// Change.
impl<V: PlaneValue> Plane<V> {
    /// Changes a cell and returns the value it had.
    ///
    /// # Errors
    /// When its chunk is not here; nothing is changed then.
    ///
    /// Constant time; copies the cell's chunk when a clone shares it.
    pub fn set(&mut self, cell: CellPos, value: V) -> Result<V, AbsentError> {
        self.words.set(cell, value.to_bits()).map(V::of_word)
    }

    /// Gives every cell of a rectangle the same value. Chunks that hold it already keep their
    /// stamp.
    ///
    /// # Errors
    /// When a chunk that it touches is not here; nothing is changed then.
    ///
    /// Whole chunks cost no look at their cells, whole tracts none at their chunks.
    pub fn fill(&mut self, rect: CellRect, value: V) -> Result<(), AbsentError> {
        self.words.fill(rect, value.to_bits())
    }

    /// Writes values into a row of cells, from `start` to the right. What would lie beyond the
    /// limits of cells is cut off. Chunks that hold the values already keep their stamp.
    ///
    /// # Errors
    /// When a chunk that it touches is not here; nothing is changed then.
    pub fn write_row(&mut self, start: CellPos, values: &[V]) -> Result<(), AbsentError> {
        let width = u32::try_from(values.len()).unwrap_or(u32::MAX);
        self.write_rect(CellRect::new(start, width, 1), values)
    }

    /// Writes values into a rectangle, row by row. Where there are fewer values than cells, the
    /// rest of the cells stays as it is; values that are left over are not looked at. Chunks that
    /// hold the values already keep their stamp.
    ///
    /// # Errors
    /// When a chunk that it touches is not here; nothing is changed then.
    ///
    /// ```
    /// use sturdy_quilt::plane::Plane;
    /// use sturdy_quilt::{CellPos, CellRect, Presence};
    ///
    /// let mut plane: Plane<u32> = Plane::new();
    /// plane.write_rect(CellRect::new(CellPos::new(-1, -1), 2, 2), &[1, 2, 3, 4])?;
    /// assert_eq!(plane.get(CellPos::new(-1, 0)), Presence::Here(3));
    /// # Ok::<(), sturdy_quilt::plane::AbsentError>(())
    /// ```
    pub fn write_rect(&mut self, rect: CellRect, values: &[V]) -> Result<(), AbsentError> {
        self.words.write_rect(rect, V::words(values))
    }

    /// Copies the cells of a rectangle from a plane, which may be a clone of this one, so that its
    /// corner comes to lie at `to`. What would lie beyond the limits of cells is cut off. Chunks
    /// that hold the values already keep their stamp.
    ///
    /// # Errors
    /// When a chunk that is read or written is not here; nothing is changed then.
    ///
    /// Where the way is a whole number of chunks, whole chunks are shared and not copied; so
    /// bringing back what a snapshot holds costs a look at each chunk, in a vast rectangle only at
    /// those in which either plane has something.
    ///
    /// ```
    /// use sturdy_quilt::plane::Plane;
    /// use sturdy_quilt::{CellPos, CellRect, Presence};
    ///
    /// let mut plane: Plane<u32> = Plane::new();
    /// plane.set(CellPos::new(1, 1), 7)?;
    /// let snapshot = plane.clone();
    /// plane.copy_from(&snapshot, CellRect::new(CellPos::ORIGIN, 4, 4), CellPos::new(-100, 0))?;
    /// assert_eq!(plane.get(CellPos::new(-99, 1)), Presence::Here(7));
    /// # Ok::<(), sturdy_quilt::plane::AbsentError>(())
    /// ```
    pub fn copy_from(
        &mut self,
        source: &Plane<V>,
        rect: CellRect,
        to: CellPos,
    ) -> Result<(), AbsentError> {
        self.words.copy_from(&source.words, rect, to)
    }
}

// Unload.
impl<V: PlaneValue> Plane<V> {
    /// Marks a chunk as not here, or as damaged; what it held is given up. A paged world does so,
    /// and brings it back by [`Plane::write_rect`] or [`Plane::fill`] after [`Plane::admit`].
    #[doc(hidden)]
    pub fn set_absent(&mut self, chunk: ChunkPos, why: Absence) {
        self.words.set_absent(chunk, why);
    }

    /// Makes a chunk that was not here an ordinary one again, holding the default value. A chunk
    /// that is here stays as it is.
    #[doc(hidden)]
    pub fn admit(&mut self, chunk: ChunkPos) {
        self.words.admit(chunk);
    }

    /// Marks all chunks of a tract as not here, or as damaged; see [`Plane::set_absent`]. Costs
    /// no look at them.
    #[doc(hidden)]
    pub fn set_tract_absent(&mut self, tract: TractPos, why: Absence) {
        self.words.set_tract_absent(tract, why);
    }

    /// Makes all chunks of a tract that were not here ordinary ones again; see [`Plane::admit`].
    #[doc(hidden)]
    pub fn admit_tract(&mut self, tract: TractPos) {
        self.words.admit_tract(tract);
    }
}

// Memory.
impl<V: PlaneValue> Plane<V> {
    /// Brings chunks and tracts into the smallest form that holds them, and gives back those that
    /// hold only the default value. Changes no value and no stamp.
    ///
    /// Writes widen a chunk at once and narrow it late, so that what is written to again and again
    /// is not remade again and again; this is for idle time. Costs a look at every cell in use.
    /// What is in its smallest form already stays shared with clones.
    pub fn compact(&mut self) {
        self.words.compact();
    }

    /// Returns how much memory the plane takes, by what for. Costs a look at each chunk in use.
    ///
    /// ```
    /// use sturdy_quilt::plane::{ChunkForm, Plane};
    /// use sturdy_quilt::{CellPos, CellRect};
    ///
    /// let mut plane: Plane<u32> = Plane::new();
    /// plane.fill(CellRect::new(CellPos::new(-64, 0), 200, 64), 7)?;
    /// let memory = plane.memory();
    /// assert_eq!(memory.form(ChunkForm::Uniform).chunks, 3);
    /// assert_eq!(memory.form(ChunkForm::Bits1).chunks, 1);
    /// assert!(memory.bytes() < 16 << 10);
    /// # Ok::<(), sturdy_quilt::plane::AbsentError>(())
    /// ```
    pub fn memory(&self) -> PlaneMemory {
        self.words.memory()
    }
}

// What the library reads of chunks.
impl<V: PlaneValue> Plane<V> {
    /// A chunk as it is kept, or made up for where none is kept.
    pub(crate) fn chunk(&self, pos: ChunkPos) -> Cow<'_, Chunk> {
        self.words.chunk(pos)
    }

    /// The chunks that may hold something, row by row.
    pub(crate) fn chunks_in_use(&self) -> Vec<ChunkPos> {
        self.words.chunks_in_use()
    }
}

/// Lends the memory of some values as words.
fn with_words<V: PlaneValue>(values: &mut Vec<V>, work: impl FnOnce(&mut Vec<u32>)) {
    let mut words = V::into_words(std::mem::take(values));
    work(&mut words);
    *values = V::of_words_vec(words);
}

fn run<V: PlaneValue>(found: Run<'_, u32>) -> Run<'_, V> {
    let values = match found.values {
        RunValues::Uniform(word) => RunValues::Uniform(V::of_word(word)),
        RunValues::Slice(words) => RunValues::Slice(V::of_words(words)),
        RunValues::Absent(why) => RunValues::Absent(why),
    };
    Run { cells: found.cells, values }
}

impl SeenStamps {
    /// Returns the chunks that differ from what was seen last, in order, row by row; from now on
    /// `plane` is what was seen.
    ///
    /// Any clone may come, older or newer. Costs a look at the chunks of the tracts that differ,
    /// and at the stamp of those that lie beside them in the page table; nothing at all when the
    /// plane is unchanged.
    pub fn update<V: PlaneValue>(&mut self, plane: &Plane<V>) -> Vec<ChunkPos> {
        self.update_words(&plane.words)
    }
}

impl<V: PlaneValue> Default for Plane<V> {
    fn default() -> Plane<V> {
        Plane::new()
    }
}

/// Two planes are equal when all cells hold the same values, bit for bit. Costs a look at the
/// chunks that the two do not share.
impl<V: PlaneValue> PartialEq for Plane<V> {
    fn eq(&self, other: &Plane<V>) -> bool {
        self.words == other.words
    }
}

impl<V: PlaneValue> std::fmt::Debug for Plane<V> {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        write!(f, "Plane({} chunks, {:?})", self.chunks_in_use().len(), self.stamp())
    }
}
