//! The unbounded grid of 32-bit values behind a layer.
//!
//! Cells are kept in chunks of 64 × 64, chunks in regions of 16 × 16 chunks, regions in a table
//! by place. Table, regions and chunks are shared between clones until one of them is written to.

mod access;
mod chunk;
mod kind;
mod packed;
mod presence;
mod region;
mod stamp;
mod value;

use std::sync::Arc;

pub use access::{Cursor, Run, RunValues};
pub(crate) use chunk::Chunk;
pub(crate) use kind::{Family, PerKind, Planes, for_each_kind};
pub use kind::{OwnValue, ValueKind};
pub use presence::{Absence, AbsentError, Presence};
pub use stamp::{SeenStamps, Stamp};
pub use value::Value;

use crate::units::{CellPos, CellRect, ChunkPos};
use region::{PageTable, Region, RegionPos, Slot};

/// An unbounded grid of 32-bit values: cells, or the game's own `u32`, `i32` or `f32` by cell.
///
/// What was never written holds the default value (the empty cell, or 0) and takes no memory.
/// `clone()` shares everything and copies only what is written to afterwards, chunk by chunk, so
/// it may be taken each frame.
///
/// A plane that is not paged is here as a whole: its reads never give [`Presence::NotHere`] or
/// [`Presence::Damaged`], and its writes never fail.
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
    table: Arc<PageTable<V>>,
}

// Make.
impl<V: Value> Plane<V> {
    /// A plane that holds the default value everywhere.
    pub fn new() -> Plane<V> {
        Plane { table: Arc::new(PageTable::default()) }
    }
}

// Read.
impl<V: Value> Plane<V> {
    /// The value of a cell. Constant time.
    pub fn get(&self, cell: CellPos) -> Presence<V> {
        self.chunk(cell.chunk()).get(cell.index_in_chunk())
    }

    /// A reader that remembers the chunk it read last: for walks from neighbour to neighbour.
    pub fn cursor(&self) -> Cursor<'_, V> {
        Cursor::new(self)
    }

    /// The smallest rectangle that holds every cell whose value is not the default, and every
    /// chunk that is not here. Costs a look at each chunk in use.
    pub fn bounds(&self) -> CellRect {
        self.chunks_in_use().into_iter().fold(CellRect::EMPTY, |bounds, pos| {
            let cells = pos.cells();
            // The corners of a chunk lie in the bounds already: nothing in it can widen them.
            if bounds.contains_rect(cells) {
                return bounds;
            }
            bounds.union(self.chunk(pos).bounds(pos))
        })
    }

    /// The cells whose value is not the default, chunk by chunk (row by row of chunks), and in
    /// each chunk row by row. Chunks that are not here are passed over.
    pub fn occupied(&self) -> impl Iterator<Item = (CellPos, V)> + '_ {
        self.chunks_in_use().into_iter().flat_map(move |pos| {
            let chunk = self.chunk(pos);
            (0..Chunk::<V>::CELLS).filter_map(move |index| {
                let value = chunk.get(index).here().filter(|v| !v.is_default())?;
                Some((pos.cell_at_index(index), value))
            })
        })
    }

    /// The cells that hold `value`, in the order of [`Plane::occupied`]. Chunks in which it cannot
    /// be are passed over without a look at their cells. The default value is held by cells
    /// without end and gives none.
    pub fn find(&self, value: V) -> impl Iterator<Item = CellPos> + '_ {
        self.find_where(move |v| v.same(value))
    }

    /// The cells whose value fulfils a condition; see [`Plane::find`]. The condition is asked once
    /// a chunk for each value that its table holds, and then cell by cell where one fits.
    pub fn find_where<'a>(
        &'a self,
        wanted: impl Fn(V) -> bool + Clone + 'a,
    ) -> impl Iterator<Item = CellPos> + 'a {
        let wanted = move |v: V| !v.is_default() && wanted(v);
        let may_hold = wanted.clone();
        let chunks = self.chunks_in_use();
        let chunks = chunks.into_iter().filter(move |&pos| self.chunk(pos).may_hold(&may_hold));
        chunks.flat_map(move |pos| {
            let chunk = self.chunk(pos);
            let wanted = wanted.clone();
            (0..Chunk::<V>::CELLS)
                .filter(move |&index| chunk.get(index).here().is_some_and(&wanted))
                .map(move |index| pos.cell_at_index(index))
        })
    }

    /// The stamp of the last change of the whole plane.
    pub fn stamp(&self) -> Stamp {
        self.table.stamp
    }

    /// The stamp of the last change of a chunk; [`Stamp::NONE`] for one never written to.
    pub fn chunk_stamp(&self, chunk: ChunkPos) -> Stamp {
        self.slot(chunk).map_or(Stamp::NONE, |slot| slot.stamp)
    }

    /// The chunks changed after `stamp` was the plane's, in no stated order.
    ///
    /// Right only for a stamp that this plane itself, or a clone it was made from, once had; to
    /// follow any clone, keep [`SeenStamps`]. Costs a look at each region, and at each chunk of
    /// the regions that changed.
    pub fn changed_since(&self, stamp: Stamp) -> impl Iterator<Item = ChunkPos> + '_ {
        let changed = self.table.regions.iter().filter(move |(_, region)| region.stamp > stamp);
        changed.flat_map(move |(&at, region)| {
            let slots = region.slots.iter().enumerate();
            let slots = slots.filter(move |(_, slot)| slot.stamp > stamp);
            slots.map(move |(index, _)| at.chunk(index))
        })
    }

    /// The chunks that may hold something, row by row.
    pub(crate) fn chunks_in_use(&self) -> Vec<ChunkPos> {
        let mut used: Vec<ChunkPos> = self.regions_in_use().collect();
        used.sort_unstable();
        used
    }

    fn regions_in_use(&self) -> impl Iterator<Item = ChunkPos> + '_ {
        self.table.regions.iter().flat_map(|(&at, region)| {
            let slots = region.slots.iter().enumerate();
            slots.filter(|(_, slot)| !slot.chunk.is_default()).map(move |(i, _)| at.chunk(i))
        })
    }

    pub(crate) fn chunk(&self, pos: ChunkPos) -> &Chunk<V> {
        self.slot(pos).map_or(&self.table.background, |slot| &slot.chunk)
    }

    /// The parts of a rectangle that lie in one chunk each, row by row of chunks, with what the
    /// chunk holds.
    fn parts<'a>(&'a self, rect: CellRect, mut visit: impl FnMut(CellRect, &'a Chunk<V>)) {
        if rect.is_empty() {
            return;
        }
        let first = rect.corner().chunk();
        let last = CellPos::new(rect.right() - 1, rect.bottom() - 1).chunk();
        let side = ChunkPos::SIDE as i32;
        for y in first.y()..=last.y() {
            let (top, bottom) = (rect.top().max(y * side), rect.bottom().min((y + 1) * side));
            // Neighbours lie in one region, which need be found once.
            let mut held: Option<(RegionPos, Option<&'a Arc<Region<V>>>)> = None;
            for x in first.x()..=last.x() {
                let (at, place) = RegionPos::of(ChunkPos::new(x, y));
                let region = match held {
                    Some((known, region)) if known == at => region,
                    _ => self.table.regions.get(&at),
                };
                held = Some((at, region));
                let chunk = region.map_or(&self.table.background, |r| &r.slots[place].chunk);
                let (left, right) = (rect.left().max(x * side), rect.right().min((x + 1) * side));
                visit(CellRect::within_limits(left, top, right, bottom), chunk);
            }
        }
    }

    fn slot(&self, pos: ChunkPos) -> Option<&Slot<V>> {
        let (region, index) = RegionPos::of(pos);
        self.table.regions.get(&region).map(|region| &region.slots[index])
    }
}

// Change.
impl<V: Value> Plane<V> {
    /// Changes a cell and gives the value it had.
    ///
    /// # Errors
    /// When its chunk is not here; nothing is changed then.
    ///
    /// Constant time; copies the cell's chunk when a clone shares it.
    pub fn set(&mut self, cell: CellPos, value: V) -> Result<V, AbsentError> {
        self.set_stamped(cell, value, Stamp::next())
    }

    /// Gives every cell of a rectangle the same value.
    ///
    /// # Errors
    /// When a chunk that it touches is not here; nothing is changed then.
    ///
    /// Whole chunks cost no look at their cells.
    pub fn fill(&mut self, rect: CellRect, value: V) -> Result<(), AbsentError> {
        self.check_here(rect)?;
        let stamp = Stamp::next();
        for chunk in rect.chunks() {
            self.fill_chunk(chunk, rect, value, stamp);
        }
        Ok(())
    }

    /// Writes values into a row of cells, from `start` to the right. What would lie beyond the
    /// limits of cells is cut off. Chunks that hold the values already keep their stamp.
    ///
    /// # Errors
    /// When a chunk that it touches is not here; nothing is changed then.
    pub fn write_row(&mut self, start: CellPos, values: &[V]) -> Result<(), AbsentError> {
        let width = u32::try_from(values.len()).unwrap_or(u32::MAX);
        let row = CellRect::new(start, width, 1);
        self.check_here(row)?;
        let stamp = Stamp::next();
        let values = &values[..row.width() as usize];
        for (start, values) in pieces(start, values, RegionPos::SIDE_CELLS) {
            self.write_row_in_region(start, values, stamp);
        }
        Ok(())
    }

    /// Brings chunks into the smallest form that holds them, and gives back those that hold only
    /// the default value. Changes no value and no stamp. For idle time: costs a look at every
    /// cell in use.
    pub fn compact(&mut self) {
        let table = Arc::make_mut(&mut self.table);
        for region in table.regions.values_mut() {
            if region.slots.iter().any(|slot| slot.chunk.compacted().is_some()) {
                for slot in &mut Arc::make_mut(region).slots {
                    if let Some(smaller) = slot.chunk.compacted() {
                        slot.chunk = smaller;
                    }
                }
            }
        }
    }

    /// Marks a chunk as not here, or as damaged; what it held is given up. A paged world does so,
    /// and brings it back by [`Plane::write_row`] or [`Plane::fill`] after [`Plane::admit`].
    pub fn set_absent(&mut self, chunk: ChunkPos, why: Absence) {
        self.replace_chunk(chunk, Chunk::Absent(why), Stamp::next());
    }

    /// Makes a chunk that was not here an ordinary one again, holding the default value. A chunk
    /// that is here stays as it is.
    pub fn admit(&mut self, chunk: ChunkPos) {
        if matches!(self.chunk(chunk), Chunk::Absent(_)) {
            self.replace_chunk(chunk, Chunk::default(), Stamp::next());
        }
    }

    pub(crate) fn set_stamped(
        &mut self,
        cell: CellPos,
        value: V,
        stamp: Stamp,
    ) -> Result<V, AbsentError> {
        let pos = cell.chunk();
        let before = self.get(cell).or_absent(pos)?;
        if !before.same(value) {
            self.slot_mut(pos, stamp).chunk.set(cell.index_in_chunk(), value);
        }
        Ok(before)
    }

    /// Fills the part of a chunk that lies in `rect`; the chunk must be here.
    pub(crate) fn fill_chunk(&mut self, pos: ChunkPos, rect: CellRect, value: V, stamp: Stamp) {
        let part = rect.intersection(pos.cells());
        if part.is_empty() || self.slot(pos).is_none() && value.is_default() {
            return;
        }
        let slot = self.slot_mut(pos, stamp);
        if part == pos.cells() {
            slot.chunk = Chunk::Uniform(value);
        } else {
            slot.chunk.fill(part, value);
        }
    }

    pub(crate) fn replace_chunk(&mut self, pos: ChunkPos, chunk: Chunk<V>, stamp: Stamp) {
        let absent = matches!(chunk, Chunk::Absent(_));
        self.slot_mut(pos, stamp).chunk = chunk;
        if absent {
            Arc::make_mut(&mut self.table).may_be_absent = true;
        }
    }

    pub(crate) fn check_here(&self, rect: CellRect) -> Result<(), AbsentError> {
        if !self.table.may_be_absent {
            return Ok(());
        }
        let absent = |pos: &ChunkPos| matches!(self.chunk(*pos), Chunk::Absent(_));
        match rect.chunks().find(absent) {
            Some(pos) => self.get(pos.corner()).or_absent(pos).map(|_| ()),
            None => Ok(()),
        }
    }

    /// Writes a row that lies in one region. As long as nothing changes, nothing is stamped, nor
    /// parted from clones.
    fn write_row_in_region(&mut self, start: CellPos, values: &[V], stamp: Stamp) {
        let (at, _) = RegionPos::of(start.chunk());
        let place = |cell: CellPos| RegionPos::of(cell.chunk()).1;
        let pieces = || pieces(start, values, ChunkPos::SIDE as i32);
        let region = self.table.regions.get(&at);
        let chunk = |cell| region.map_or(&self.table.background, |r| &r.slots[place(cell)].chunk);
        if pieces().all(|(cell, v)| chunk(cell).holds(cell.index_in_chunk(), v)) {
            return;
        }
        let region = self.region_mut(at, stamp);
        for (cell, values) in pieces() {
            let slot = &mut region.slots[place(cell)];
            if slot.chunk.write_slice(cell.index_in_chunk(), values) {
                slot.stamp = stamp;
            }
        }
    }

    fn slot_mut(&mut self, pos: ChunkPos, stamp: Stamp) -> &mut Slot<V> {
        let (at, index) = RegionPos::of(pos);
        let slot = &mut self.region_mut(at, stamp).slots[index];
        slot.stamp = stamp;
        slot
    }

    fn region_mut(&mut self, at: RegionPos, stamp: Stamp) -> &mut Region<V> {
        let table = Arc::make_mut(&mut self.table);
        table.stamp = stamp;
        let region = table.regions.entry(at).or_insert_with(|| Arc::new(Region::new()));
        let region = Arc::make_mut(region);
        region.stamp = stamp;
        region
    }
}

/// A row cut where its columns come to a multiple of `side`.
fn pieces<V>(
    mut start: CellPos,
    mut values: &[V],
    side: i32,
) -> impl Iterator<Item = (CellPos, &[V])> {
    std::iter::from_fn(move || {
        let to_edge = side - start.x().rem_euclid(side);
        let (piece, rest) = values.split_at(values.len().min(to_edge as usize));
        let at = start;
        (start, values) = (CellPos::new(at.x() + to_edge, at.y()), rest);
        (!piece.is_empty()).then_some((at, piece))
    })
}

impl<V: Value> Default for Plane<V> {
    fn default() -> Plane<V> {
        Plane::new()
    }
}

/// Two planes are equal when all cells hold the same values, bit for bit. Costs a look at the
/// chunks that the two do not share.
impl<V: Value> PartialEq for Plane<V> {
    fn eq(&self, other: &Plane<V>) -> bool {
        if Arc::ptr_eq(&self.table, &other.table) {
            return true;
        }
        let mut seen = SeenStamps::default();
        seen.update(self);
        seen.update(other).into_iter().all(|pos| self.chunk(pos).same(other.chunk(pos)))
    }
}

impl<V: Value> std::fmt::Debug for Plane<V> {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        write!(f, "Plane({} chunks, {:?})", self.regions_in_use().count(), self.stamp())
    }
}
