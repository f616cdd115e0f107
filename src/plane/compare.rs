use triomphe::Arc;

use super::table::{Below, CHUNKS, Entry, Held, Node, Region};
use super::{Chunk, Plane, Value};
use crate::units::{CellRect, ChunkPos, RegionPos};

impl<V: Value> Plane<V> {
    /// The chunks in which two planes differ, row by row; a chunk that is not here differs from
    /// one that is. Forms and stamps do not count.
    ///
    /// What the two share is passed over, whole parts of the page table at once: for two clones
    /// this costs what was written to in either, and not what there is.
    ///
    /// ```
    /// use sturdy_quilt::{CellPos, ChunkPos, Plane};
    ///
    /// let mut plane: Plane<u32> = Plane::new();
    /// plane.set(CellPos::new(3, 3), 1)?;
    /// let before = plane.clone();
    /// plane.set(CellPos::new(-1, 3), 1)?;
    /// assert_eq!(plane.differences(&before), [ChunkPos::new(-1, 0)]);
    /// # Ok::<(), sturdy_quilt::AbsentError>(())
    /// ```
    pub fn differences(&self, other: &Plane<V>) -> Vec<ChunkPos> {
        let mut differing = Vec::new();
        self.each_difference(other, &mut |pos| {
            differing.push(pos);
            true
        });
        differing.sort_unstable();
        differing
    }

    /// Whether two planes hold the same in every cell of a rectangle. Costs a look at each chunk
    /// that it touches, or at each that differs where those are fewer, and at the cells of those
    /// that the two do not share.
    pub fn same_in(&self, rect: CellRect, other: &Plane<V>) -> bool {
        const FEW: u64 = 4096;
        let (mut own, mut others) = (Vec::new(), Vec::new());
        let mut is_same = |pos: ChunkPos| {
            let part = rect.intersection(pos.cells());
            let (a, b) = (self.chunk(pos), other.chunk(pos));
            if part.is_empty() || a.same(&b) {
                return true;
            }
            let is_absent = |chunk: &Chunk<V>| matches!(chunk, Chunk::Absent(_));
            if part == pos.cells() || is_absent(&a) || is_absent(&b) {
                return false;
            }
            let read = |plane: &Plane<V>, into: &mut Vec<V>| plane.read_rect(part, into).is_ok();
            read(self, &mut own)
                && read(other, &mut others)
                && own.iter().zip(&others).all(|(a, b)| a.same(*b))
        };
        if rect.chunk_count() <= FEW {
            rect.chunks().all(is_same)
        } else {
            self.each_difference(other, &mut is_same)
        }
    }

    /// Visits the chunks that differ, in no stated order, as long as the visitor wants more.
    fn each_difference(&self, other: &Plane<V>, visit: &mut impl FnMut(ChunkPos) -> bool) -> bool {
        Pair { a: self, b: other }.nodes(&self.root, &other.root, visit)
    }
}

/// Two planes that are compared.
struct Pair<'a, V: Value> {
    a: &'a Plane<V>,
    b: &'a Plane<V>,
}

impl<V: Value> Pair<'_, V> {
    fn nodes(
        &self,
        a: &Arc<Node<V>>,
        b: &Arc<Node<V>>,
        visit: &mut impl FnMut(ChunkPos) -> bool,
    ) -> bool {
        if Arc::ptr_eq(a, b) {
            return true;
        }
        if let (Below::Nodes(a), Below::Nodes(b)) = (a.below(), b.below()) {
            return a.iter().zip(b).all(|(a, b)| self.nodes(a, b, visit));
        }
        // One of them may have become a node since they were cloned.
        let mut regions = Vec::new();
        a.each(&mut |entry| regions.push(entry.region()));
        b.each(&mut |entry| regions.push(entry.region()));
        regions.sort_unstable();
        regions.dedup();
        regions.into_iter().all(|at| self.region(at, visit))
    }

    fn region(&self, at: RegionPos, visit: &mut impl FnMut(ChunkPos) -> bool) -> bool {
        let ((a, hash_a), (b, hash_b)) = (self.a.root.leaf(at), self.b.root.leaf(at));
        if let (Some(a), Some(b)) = (chunks_of(a.first(at, hash_a)), chunks_of(b.first(at, hash_b)))
        {
            let mut differing = (0..CHUNKS).filter(|&n| !a.chunk(n).same(b.chunk(n)));
            return Arc::ptr_eq(a, b) || differing.all(|place| visit(at.chunk_at(place)));
        }
        let mut used = Vec::new();
        let entries = a.of_region(at, hash_a).chain(b.of_region(at, hash_b));
        entries.for_each(|entry| entry.each_used(|pos| used.push(pos)));
        used.sort_unstable();
        used.dedup();
        let differs = |pos: &ChunkPos| !self.a.chunk(*pos).same(&self.b.chunk(*pos));
        used.into_iter().filter(differs).all(visit)
    }
}

/// The chunks of a region, where it has a table of them.
fn chunks_of<V>(entry: Option<&Entry<V>>) -> Option<&Arc<Region<V>>> {
    match &entry?.held {
        Held::Chunks(region) => Some(region),
        _ => None,
    }
}

/// Two planes are equal when all cells hold the same values, bit for bit. Costs a look at the
/// chunks that the two do not share.
impl<V: Value> PartialEq for Plane<V> {
    fn eq(&self, other: &Plane<V>) -> bool {
        self.each_difference(other, &mut |_| false)
    }
}
