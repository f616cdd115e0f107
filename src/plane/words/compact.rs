use super::table::{CHUNKS, Entry, Held, MAX_LONE, Tract};
use super::{Chunk, Stamp, Words};
use crate::units::{CellPos, TractPos};

impl Words {
    /// Brings chunks and tracts into the smallest form that holds them, and gives back those that
    /// hold only the default value. Changes no value and no stamp.
    pub(crate) fn compact(&mut self) {
        let mut tracts = Vec::new();
        self.root.each(&mut |entry| {
            if matches!(entry.held, Held::Chunks(_)) {
                tracts.push(entry.tract());
            }
        });
        for at in tracts {
            self.compact_tract(at);
        }
    }

    fn compact_tract(&mut self, at: TractPos) {
        let (leaf, hash) = self.root.leaf(at);
        let Some(Held::Chunks(tract)) = leaf.first(at, hash).map(|entry| &entry.held) else {
            return;
        };
        let chunks = tract.chunks().iter().enumerate();
        let narrower: Vec<(usize, Chunk)> =
            chunks.filter_map(|(place, chunk)| Some((place, chunk.compacted()?))).collect();
        if narrower.is_empty() && smaller(tract, at).is_none() {
            return;
        }
        let (leaf, hash) = self.leaf_mut(at, Stamp::NONE);
        let tract = leaf.tract_mut(at, hash);
        for (place, chunk) in narrower {
            tract.put_form(place, chunk);
        }
        match smaller(tract, at) {
            Some(Smaller::Whole(held)) => leaf.replace(at, hash, held),
            Some(Smaller::Lone(cells)) => {
                leaf.remove(at);
                for (cell, value, stamp) in cells {
                    // A node may have to be made of the leaf for each.
                    let (leaf, _) = self.leaf_mut(at, Stamp::NONE);
                    leaf.push(Entry { cell, held: Held::Lone(value, stamp) });
                }
            }
            None => {}
        }
    }
}

/// What can stand for a tract instead of a table of its chunks.
enum Smaller {
    Whole(Held),
    Lone(Vec<(CellPos, u32, Stamp)>),
}

/// The smaller form of a tract, if there is one that keeps all stamps.
fn smaller(tract: &Tract, at: TractPos) -> Option<Smaller> {
    let (first, stamp) = (&tract.chunks()[0], tract.stamps()[0]);
    if tract.stamps().iter().all(|held| *held == stamp) {
        match first {
            Chunk::Uniform(value)
                if tract.chunks().iter().all(|c| c.uniform().is_some_and(|v| v == *value)) =>
            {
                return Some(Smaller::Whole(Held::Uniform(*value, stamp)));
            }
            Chunk::Absent(why)
                if tract.chunks().iter().all(|c| matches!(c, Chunk::Absent(w) if w == why)) =>
            {
                return Some(Smaller::Whole(Held::Absent(*why, stamp)));
            }
            _ => {}
        }
    }
    let mut lone = Vec::new();
    for place in 0..CHUNKS {
        let (chunk, stamp) = (&tract.chunks()[place], tract.stamps()[place]);
        if stamp == Stamp::NONE {
            continue;
        }
        let pos = at.chunk_at(place);
        let cells = match chunk {
            Chunk::Uniform(value) if *value == 0 => vec![(0, *value)],
            Chunk::Bits1(_) | Chunk::Bits2(_) | Chunk::Bits4(_) => {
                chunk.where_is(|value| value != 0)
            }
            Chunk::Uniform(_) | Chunk::Bits8(_) | Chunk::Full(_) | Chunk::Absent(_) => return None,
        };
        if lone.len() + cells.len() > MAX_LONE {
            return None;
        }
        lone.extend(
            cells.into_iter().map(|(index, value)| (pos.cell_at_index(index.into()), value, stamp)),
        );
    }
    Some(Smaller::Lone(lone))
}
