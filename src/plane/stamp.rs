//! Stamps: which state of a thing another thing was derived from.

use std::sync::atomic::{AtomicU64, Ordering};

use rustc_hash::FxHashMap;

use super::region::RegionPos;
use super::{Plane, Value};
use crate::units::ChunkPos;

/// A number that marks a change.
///
/// No two changes in a process have the same stamp, also not in different clones of a map, so what
/// was derived from a thing is up to date exactly when the thing still has the same stamp. Compare
/// by equality; later changes have greater stamps.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub struct Stamp(u64);

impl Stamp {
    /// The stamp of what was never changed.
    pub const NONE: Stamp = Stamp(0);

    /// A stamp that nothing has had before.
    pub(crate) fn next() -> Stamp {
        // The only global of the library. Only uniqueness matters, so no ordering is needed; a
        // u64 does not run out.
        static LAST: AtomicU64 = AtomicU64::new(0);
        Stamp(LAST.fetch_add(1, Ordering::Relaxed) + 1)
    }
}

/// The stamps of a plane as they were when something was derived from it.
///
/// ```
/// use sturdy_quilt::{CellPos, ChunkPos, Plane, SeenStamps};
///
/// let mut plane: Plane<u32> = Plane::new();
/// let mut seen = SeenStamps::default();
/// plane.set(CellPos::new(70, 0), 1)?;
/// assert_eq!(seen.update(&plane), [ChunkPos::new(1, 0)]);
/// assert_eq!(seen.update(&plane), []);
/// # Ok::<(), sturdy_quilt::AbsentError>(())
/// ```
#[derive(Clone, Debug, Default)]
pub struct SeenStamps {
    whole: Stamp,
    regions: FxHashMap<RegionPos, SeenRegion>,
}

#[derive(Clone, Debug)]
struct SeenRegion {
    whole: Stamp,
    chunks: Box<[Stamp]>,
}

impl SeenStamps {
    /// The chunks that differ from what was seen last, in order, row by row; from now on `plane`
    /// is what was seen.
    ///
    /// Any clone may come, older or newer. Nothing at all when the plane is unchanged; else it
    /// costs a look at each region and at the chunks of those that differ.
    pub fn update<V: Value>(&mut self, plane: &Plane<V>) -> Vec<ChunkPos> {
        let table = &plane.table;
        if table.stamp == self.whole {
            return Vec::new();
        }
        self.whole = table.stamp;
        let mut differing = Vec::new();
        self.regions.retain(|&at, seen| {
            let gone = !table.regions.contains_key(&at);
            if gone {
                let known = seen.chunks.iter().enumerate().filter(|(_, s)| **s != Stamp::NONE);
                differing.extend(known.map(|(index, _)| at.chunk(index)));
            }
            !gone
        });
        for (&at, region) in &table.regions {
            let seen = self.regions.entry(at).or_insert_with(|| SeenRegion {
                whole: Stamp::NONE,
                chunks: vec![Stamp::NONE; region.slots.len()].into(),
            });
            if seen.whole == region.stamp {
                continue;
            }
            seen.whole = region.stamp;
            for (index, (seen, slot)) in seen.chunks.iter_mut().zip(&region.slots).enumerate() {
                if *seen != slot.stamp {
                    *seen = slot.stamp;
                    differing.push(at.chunk(index));
                }
            }
        }
        differing.sort_unstable();
        differing
    }
}
