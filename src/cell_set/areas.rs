//! The connected areas of a set of cells.

use std::collections::BTreeMap;

use super::set::{CellSet, Neighbors};
use super::spread::{FloodError, Mask, Spread};
use crate::plane::ChunkBits;
use crate::units::{CellPos, ChunkPos};

impl CellSet {
    /// Returns the connected areas of this set, each as a set: cells are connected that are neighbours.
    /// They come in the order of their first cells, see [`CellSet::iter`].
    ///
    /// Costs a look at each chunk, and at those that an area lies in for each area.
    ///
    /// ```
    /// use sturdy_quilt::cell_set::Neighbors;
    /// use sturdy_quilt::{CellPos, CellSet};
    ///
    /// let set: CellSet = [(0, 0), (1, 0), (2, 1), (9, 0)].map(|(x, y)| CellPos::new(x, y)).into();
    /// let sizes = |neighbors| -> Vec<u64> { set.areas(neighbors).iter().map(CellSet::len).collect() };
    /// assert_eq!(sizes(Neighbors::Sides), [2, 1, 1]);
    /// assert_eq!(sizes(Neighbors::Corners), [3, 1]);
    /// ```
    pub fn areas(&self, neighbors: Neighbors) -> Vec<CellSet> {
        let mut left: BTreeMap<ChunkPos, ChunkBits> = self.chunks().collect();
        let mut areas = Vec::new();
        while let Some((pos, bits)) = left.iter().next() {
            let Some(first) = bits.indexes().next() else {
                let pos = *pos;
                left.remove(&pos);
                continue;
            };
            let area = area_of(pos.cell_at_index(first), &left, neighbors);
            for (pos, found) in area.chunks() {
                if let Some(held) = left.get_mut(&pos) {
                    *held = held.zip(&found, |held, found| held & !found);
                }
            }
            areas.push(area);
        }
        areas
    }

    /// Returns the cells of this set that are connected with a cell: none where it is not in the set.
    ///
    /// Costs a look at the chunks in which the area lies.
    pub fn area_of(&self, cell: CellPos, neighbors: Neighbors) -> CellSet {
        spread(cell, neighbors, &mut |pos| Ok(Mask::of(self.chunk(pos))))
    }
}

fn area_of(cell: CellPos, chunks: &BTreeMap<ChunkPos, ChunkBits>, neighbors: Neighbors) -> CellSet {
    let mut mask = |pos| Ok(chunks.get(&pos).map_or(Mask::None, |bits| Mask::of(bits.clone())));
    spread(cell, neighbors, &mut mask)
}

/// A flood that ends, since what it may enter does.
fn spread(
    cell: CellPos,
    neighbors: Neighbors,
    mask: &mut impl FnMut(ChunkPos) -> Result<Mask, FloodError>,
) -> CellSet {
    let mut spread = Spread::new(neighbors, u64::MAX);
    let done = spread.from(cell, mask);
    debug_assert!(done.is_ok(), "a flood within a set of cells ends");
    spread.into_set()
}
