use super::table::MAX_LONE;
use super::{AbsentError, Presence, Stamp, Words};
use crate::units::{CellOffset, CellPos, CellRect, ChunkPos, TractPos};

impl Words {
    /// Copies the cells of a rectangle from a plane, which may be a clone of this one, so that its
    /// corner comes to lie at `to`. What would lie beyond the limits of cells is cut off. Chunks
    /// that hold the values already keep their stamp.
    pub(crate) fn copy_from(
        &mut self,
        source: &Words,
        rect: CellRect,
        to: CellPos,
    ) -> Result<(), AbsentError> {
        let way = to - rect.corner();
        let target = CellRect::new(to, rect.width(), rect.height());
        let rect = target.moved(way.reversed());
        source.check_here(rect)?;
        self.check_here(target)?;
        let stamp = Stamp::next();
        let side = ChunkPos::SIDE as i32;
        let shares_chunks = way.x % side == 0 && way.y % side == 0;
        let mut scratch = Vec::new();
        for pos in self.chunks_to_copy(source, target, way) {
            let part = target.intersection(pos.cells());
            let from = part.moved(way.reversed());
            if shares_chunks && part == pos.cells() {
                self.copy_chunk(source, from.corner().chunk(), pos, stamp);
            } else {
                scratch.resize(from.cell_count() as usize, 0);
                source.read_rect(from, &mut scratch)?;
                self.write_stamped(part, &scratch, stamp);
            }
        }
        Ok(())
    }

    /// The chunks that a copy writes to; of a vast one those only in which either plane has
    /// something.
    fn chunks_to_copy(&self, source: &Words, target: CellRect, way: CellOffset) -> Vec<ChunkPos> {
        const FEW: u64 = 4096;
        if target.chunk_count() <= FEW {
            return target.chunks().collect();
        }
        let own = self.known_tracts(target).into_iter().map(TractPos::cells);
        let theirs = source.known_tracts(target.moved(way.reversed())).into_iter();
        let all = own.chain(theirs.map(|at| at.cells().moved(way)));
        let mut chunks: Vec<ChunkPos> =
            all.flat_map(|cells| cells.intersection(target).chunks()).collect();
        chunks.sort_unstable();
        chunks.dedup();
        chunks
    }

    fn copy_chunk(&mut self, source: &Words, from: ChunkPos, to: ChunkPos, stamp: Stamp) {
        let (now, then) = (self.chunk(to), source.chunk(from));
        if now.same(&then) {
            return;
        }
        // A tract that has no table of its chunks gets none for a few cells: they may be lone.
        let mut differing = Vec::new();
        let are_few = !self.has_chunks(to.tract())
            && now.add_differing(&then, MAX_LONE, &mut differing).is_some();
        let chunk = then.into_owned();
        if !are_few {
            self.replace_chunk(to, chunk, stamp);
            return;
        }
        for index in differing {
            if let Presence::Here(value) = chunk.get(index.into()) {
                self.put_stamped(to.cell_at_index(index.into()), value, stamp);
            }
        }
    }
}
