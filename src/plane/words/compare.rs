use triomphe::Arc;

use super::table::{Below, CHUNKS, Entry, Held, Node, Tract};
use super::{Chunk, Words};
use crate::units::{CellRect, ChunkPos, TractPos};

impl Words {
    /// The chunks in which two planes differ, row by row; a chunk that is not here differs from one
    /// that is. Forms and stamps do not count.
    pub(crate) fn differences(&self, other: &Words) -> Vec<ChunkPos> {
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
    pub(crate) fn same_in(&self, rect: CellRect, other: &Words) -> bool {
        const FEW: u64 = 4096;
        let (mut own, mut others) = (Vec::new(), Vec::new());
        let mut is_same = |pos: ChunkPos| {
            let part = rect.intersection(pos.cells());
            let (a, b) = (self.chunk(pos), other.chunk(pos));
            if part.is_empty() || a.same(&b) {
                return true;
            }
            let is_absent = |chunk: &Chunk| matches!(chunk, Chunk::Absent(_));
            if part == pos.cells() || is_absent(&a) || is_absent(&b) {
                return false;
            }
            let read = |plane: &Words, into: &mut Vec<u32>| {
                into.resize(part.cell_count() as usize, 0);
                plane.read_rect(part, into).is_ok()
            };
            read(self, &mut own) && read(other, &mut others) && own == others
        };
        if rect.chunk_count() <= FEW {
            rect.chunks().all(is_same)
        } else {
            self.each_difference(other, &mut is_same)
        }
    }

    /// Visits the chunks that differ, in no stated order, as long as the visitor wants more.
    fn each_difference(&self, other: &Words, visit: &mut impl FnMut(ChunkPos) -> bool) -> bool {
        Pair { a: self, b: other }.nodes(&self.root, &other.root, visit)
    }
}

/// Two planes that are compared.
struct Pair<'a> {
    a: &'a Words,
    b: &'a Words,
}

impl Pair<'_> {
    fn nodes(
        &self,
        a: &Arc<Node>,
        b: &Arc<Node>,
        visit: &mut impl FnMut(ChunkPos) -> bool,
    ) -> bool {
        if Arc::ptr_eq(a, b) {
            return true;
        }
        if let (Below::Nodes(a), Below::Nodes(b)) = (a.below(), b.below()) {
            return a.iter().zip(b).all(|(a, b)| self.nodes(a, b, visit));
        }
        // One of them may have become a node since they were cloned.
        let mut tracts = Vec::new();
        a.each(&mut |entry| tracts.push(entry.tract()));
        b.each(&mut |entry| tracts.push(entry.tract()));
        tracts.sort_unstable();
        tracts.dedup();
        tracts.into_iter().all(|at| self.tract(at, visit))
    }

    fn tract(&self, at: TractPos, visit: &mut impl FnMut(ChunkPos) -> bool) -> bool {
        let ((a, hash_a), (b, hash_b)) = (self.a.root.leaf(at), self.b.root.leaf(at));
        if let (Some(a), Some(b)) = (chunks_of(a.first(at, hash_a)), chunks_of(b.first(at, hash_b)))
        {
            let mut differing = (0..CHUNKS).filter(|&n| !a.chunk(n).same(b.chunk(n)));
            return Arc::ptr_eq(a, b) || differing.all(|place| visit(at.chunk_at(place)));
        }
        let mut used = Vec::new();
        let entries = a.of_tract(at, hash_a).chain(b.of_tract(at, hash_b));
        entries.for_each(|entry| entry.each_used(|pos| used.push(pos)));
        used.sort_unstable();
        used.dedup();
        let differs = |pos: &ChunkPos| !self.a.chunk(*pos).same(&self.b.chunk(*pos));
        used.into_iter().filter(differs).all(visit)
    }
}

/// The chunks of a tract, where it has a table of them.
fn chunks_of(entry: Option<&Entry>) -> Option<&Arc<Tract>> {
    match &entry?.held {
        Held::Chunks(tract) => Some(tract),
        _ => None,
    }
}

/// Two planes are equal when all cells hold the same values, bit for bit. Costs a look at the
/// chunks that the two do not share.
impl PartialEq for Words {
    fn eq(&self, other: &Words) -> bool {
        self.each_difference(other, &mut |_| false)
    }
}
