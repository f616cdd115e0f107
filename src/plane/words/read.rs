//! Reading single cells, and asking where something is.

use std::borrow::Cow;

use super::table::{Below, Held, Node};
use super::{AbsentError, Chunk, Presence, Stamp, Word, Words};
use crate::units::{CellPos, CellRect, ChunkPos, TractPos};

// Cells.
impl Words {
    /// The value of a cell. Constant time.
    #[inline]
    pub(crate) fn get(&self, cell: CellPos) -> Presence<u32> {
        self.get_as(cell)
    }

    /// As [`Words::get`], as a value.
    #[inline]
    pub(crate) fn get_as<V: Word>(&self, cell: CellPos) -> Presence<V> {
        let (leaf, hash) = self.root.leaf(cell.tract());
        leaf.get(cell, hash)
    }

    /// The values of cells that lie anywhere, in their order; `into` holds them and nothing else
    /// afterwards.
    pub(crate) fn get_many<V: Word>(
        &self,
        cells: &[CellPos],
        mut found: impl FnMut(usize, Presence<V>),
    ) {
        /// Enough to be under way at a time, few enough to stay in the nearest cache.
        const BATCH: usize = 64;
        for (first, cells) in (0..).step_by(BATCH).zip(cells.chunks(BATCH)) {
            // All are looked up in the page table first; then memory is asked for what chunks have
            // in arrays; then those are read. No loop waits for what it has just asked for.
            let mut chunks = [None; BATCH];
            for (chunk, cell) in chunks.iter_mut().zip(cells) {
                let (leaf, hash) = self.root.leaf(cell.tract());
                *chunk = leaf.kept_chunk(*cell, hash);
            }
            let (mut pending, mut count) = ([(0, None); BATCH], 0);
            for (at, (chunk, cell)) in chunks.iter().zip(cells).enumerate() {
                match chunk {
                    None => found(first + at, self.get_as(*cell)),
                    Some(Chunk::Uniform(value)) => {
                        found(first + at, Presence::Here(V::of_word(*value)))
                    }
                    Some(chunk) => {
                        chunk.prefetch(cell.index_in_chunk());
                        pending[count] = (at, Some(*chunk));
                        count += 1;
                    }
                }
            }
            for (at, chunk) in &pending[..count] {
                if let Some(chunk) = chunk {
                    found(first + at, chunk.get_from_array(cells[*at].index_in_chunk()));
                }
            }
        }
    }

    /// A chunk as it is kept, or made up for where none is kept.
    #[inline]
    pub(crate) fn chunk(&self, pos: ChunkPos) -> Cow<'_, Chunk> {
        let (leaf, hash) = self.root.leaf(pos.tract());
        leaf.chunk(leaf.first(pos.tract(), hash), pos, hash)
    }

    /// Whether a tract has a table of its chunks.
    pub(crate) fn has_chunks(&self, at: TractPos) -> bool {
        let (leaf, hash) = self.root.leaf(at);
        leaf.first(at, hash).is_some_and(|entry| matches!(entry.held, Held::Chunks(_)))
    }

    /// Fails for the first chunk of a rectangle that is not here.
    pub(crate) fn check_here(&self, rect: CellRect) -> Result<(), AbsentError> {
        if !self.may_be_absent {
            return Ok(());
        }
        for at in self.known_tracts(rect) {
            for chunk in rect.intersection(at.cells()).chunks() {
                if let Chunk::Absent(why) = *self.chunk(chunk) {
                    return Err(AbsentError { chunk, why });
                }
            }
        }
        Ok(())
    }

    /// The tracts in a rectangle of which the page table knows something, row by row. Costs a look
    /// at each place of a tract in the rectangle, or at all tracts that are known where those are
    /// fewer.
    pub(crate) fn known_tracts(&self, rect: CellRect) -> Vec<TractPos> {
        const FEW: u64 = 4096;
        if rect.tract_count() <= FEW {
            let known = |at: &TractPos| {
                let (leaf, hash) = self.root.leaf(*at);
                leaf.first(*at, hash).is_some()
            };
            return rect.tracts().filter(known).collect();
        }
        let mut known = Vec::new();
        self.root.each(&mut |entry| {
            if !entry.tract().cells().intersection(rect).is_empty() {
                known.push(entry.tract());
            }
        });
        known.sort_unstable();
        known.dedup();
        known
    }
}

// Where something is.
impl Words {
    /// The smallest rectangle that holds every cell whose value is not the default, and every chunk
    /// that is not here.
    pub(crate) fn bounds(&self) -> CellRect {
        self.root.bounds()
    }

    /// The cells whose value is not 0 and fulfils a condition, chunk by chunk (row by row of chunks), and
    /// in each row by row.
    pub(crate) fn cells_where<'a>(
        &'a self,
        wanted: Box<dyn Fn(u32) -> bool + 'a>,
    ) -> impl Iterator<Item = (CellPos, u32)> + 'a {
        let wanted = move |v: u32| v != 0 && wanted(v);
        self.chunks_in_use().into_iter().flat_map(move |pos| {
            let found = self.chunk(pos).where_is(&wanted);
            found.into_iter().map(move |(index, value)| (pos.cell_at_index(index.into()), value))
        })
    }

    /// The chunks that may hold something, row by row.
    pub(crate) fn chunks_in_use(&self) -> Vec<ChunkPos> {
        let mut used = Vec::new();
        self.root.each(&mut |entry| entry.each_used(|pos| used.push(pos)));
        used.sort_unstable();
        used.dedup();
        used
    }
}

// Stamps.
impl Words {
    /// The stamp of the last change of the whole plane.
    pub(crate) fn stamp(&self) -> Stamp {
        self.root.stamp()
    }

    /// The stamp of the last change of a chunk; [`Stamp::NONE`] for one never written to.
    pub(crate) fn chunk_stamp(&self, chunk: ChunkPos) -> Stamp {
        let (leaf, hash) = self.root.leaf(chunk.tract());
        match leaf.first(chunk.tract(), hash).map(|entry| &entry.held) {
            None => Stamp::NONE,
            Some(Held::Chunks(tract)) => tract.stamps()[chunk.place_in_tract()],
            Some(Held::Uniform(_, stamp) | Held::Absent(_, stamp)) => *stamp,
            Some(Held::Lone(..)) => {
                let lone = leaf.lone_in(chunk, hash).map(|(_, _, stamp)| stamp);
                lone.max().unwrap_or(Stamp::NONE)
            }
        }
    }

    /// The stamp of the last change of any chunk of a tract; [`Stamp::NONE`] for one never written
    /// to.
    pub(crate) fn tract_stamp(&self, tract: TractPos) -> Stamp {
        let (leaf, hash) = self.root.leaf(tract);
        let stamps = leaf.of_tract(tract, hash).map(|entry| entry.stamp());
        stamps.max().unwrap_or(Stamp::NONE)
    }

    /// The chunks changed after `stamp` was the plane's, in no stated order.
    pub(crate) fn changed_since(&self, stamp: Stamp) -> Vec<ChunkPos> {
        fn collect(node: &Node, since: Stamp, changed: &mut Vec<ChunkPos>) {
            if node.stamp() <= since {
                return;
            }
            match node.below() {
                Below::Nodes(children) => {
                    children.iter().for_each(|child| collect(child, since, changed));
                }
                Below::Leaf(leaf) => {
                    for entry in leaf.entries().iter().filter(|entry| entry.stamp() > since) {
                        entry.each_stamp(|pos, stamp| {
                            if stamp > since {
                                changed.push(pos);
                            }
                        });
                    }
                }
            }
        }
        let mut changed = Vec::new();
        collect(&self.root, stamp, &mut changed);
        changed.sort_unstable();
        changed.dedup();
        changed
    }
}
