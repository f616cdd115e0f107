//! The chunks that changed since something was derived from a plane.

use super::table::{Below, CHUNKS, Entry, Held, Node};
use super::{Stamp, Words};
use crate::units::{CellPos, ChunkPos};

/// The stamps of a plane as they were when something was derived from it.
///
/// ```
/// use sturdy_quilt::plane::{Plane, SeenStamps};
/// use sturdy_quilt::{CellPos, ChunkPos};
///
/// let mut plane: Plane<u32> = Plane::new();
/// let mut seen = SeenStamps::default();
/// plane.set(CellPos::new(70, 0), 1)?;
/// assert_eq!(seen.update(&plane), [ChunkPos::new(1, 0)]);
/// assert_eq!(seen.update(&plane), []);
/// # Ok::<(), sturdy_quilt::plane::AbsentError>(())
/// ```
#[derive(Clone, Debug, Default)]
pub struct SeenStamps {
    root: Seen,
}

/// The stamps of a node of the page table.
#[derive(Clone, Debug, Default)]
struct Seen {
    stamp: Stamp,
    below: SeenBelow,
}

#[derive(Clone, Debug)]
enum SeenBelow {
    Nodes(Box<[Seen]>),
    /// By entry, in their order.
    Leaf(Vec<SeenEntry>),
}

/// The stamps of an entry of the page table.
#[derive(Clone, Debug)]
struct SeenEntry {
    cell: CellPos,
    /// The last one of any chunk.
    stamp: Stamp,
    chunks: SeenChunks,
}

/// The stamps of the chunks of an entry.
#[derive(Clone, Debug)]
enum SeenChunks {
    /// The chunk of the lone cell has the stamp of the entry.
    One,
    /// All chunks have it.
    All,
    /// Each chunk has its own, by its place in the tract.
    Each(Box<[Stamp; CHUNKS]>),
}

impl Default for SeenBelow {
    fn default() -> SeenBelow {
        SeenBelow::Leaf(Vec::new())
    }
}

impl SeenStamps {
    /// The chunks that differ from what was seen last, in order; see `update`.
    pub(crate) fn update_words(&mut self, words: &Words) -> Vec<ChunkPos> {
        let mut differing = Vec::new();
        self.root.update(&words.root, &mut differing);
        differing.sort_unstable();
        differing.dedup();
        differing
    }
}

impl Seen {
    fn update(&mut self, node: &Node, differing: &mut Vec<ChunkPos>) {
        if self.stamp == node.stamp() {
            return;
        }
        self.stamp = node.stamp();
        let is_alike = match (&mut self.below, node.below()) {
            (SeenBelow::Nodes(seen), Below::Nodes(nodes)) => {
                for (seen, node) in seen.iter_mut().zip(nodes) {
                    seen.update(node, differing);
                }
                true
            }
            (SeenBelow::Leaf(seen), Below::Leaf(leaf)) if seen.len() == leaf.entries().len() => {
                // What lies beside the entries that differ is not looked at.
                seen.iter_mut().zip(leaf.entries()).all(|(seen, entry)| {
                    let is_alike = seen.cell == entry.cell;
                    if is_alike && seen.stamp != entry.stamp() {
                        seen.update(entry, differing);
                    }
                    is_alike
                })
            }
            _ => false,
        };
        if !is_alike {
            // Also where a leaf has become a node, or a clone comes in which it has not.
            let before = std::mem::take(&mut self.below).into_stamps();
            self.below = SeenBelow::of(node);
            compare(&before, &stamps_of(node), differing);
        }
    }
}

impl SeenBelow {
    fn of(node: &Node) -> SeenBelow {
        match node.below() {
            Below::Nodes(nodes) => {
                let seen = |node: &triomphe::Arc<Node>| Seen {
                    stamp: node.stamp(),
                    below: SeenBelow::of(node),
                };
                SeenBelow::Nodes(nodes.iter().map(seen).collect())
            }
            Below::Leaf(leaf) => {
                SeenBelow::Leaf(leaf.entries().iter().map(SeenEntry::of).collect())
            }
        }
    }

    fn into_stamps(self) -> Vec<(ChunkPos, Stamp)> {
        let mut stamps: Vec<_> = match self {
            SeenBelow::Leaf(entries) => entries.iter().flat_map(SeenEntry::stamps).collect(),
            SeenBelow::Nodes(nodes) => {
                let nodes = nodes.into_vec().into_iter();
                nodes.flat_map(|node| node.below.into_stamps()).collect()
            }
        };
        by_last_stamp(&mut stamps);
        stamps
    }
}

impl SeenEntry {
    fn of(entry: &Entry) -> SeenEntry {
        let chunks = match &entry.held {
            Held::Lone(..) => SeenChunks::One,
            Held::Uniform(..) | Held::Absent(..) => SeenChunks::All,
            Held::Chunks(tract) => SeenChunks::Each(Box::new(*tract.stamps())),
        };
        SeenEntry { cell: entry.cell, stamp: entry.stamp(), chunks }
    }

    /// Takes over the stamps that the entry has now, and adds the chunks in which they differ.
    fn update(&mut self, entry: &Entry, differing: &mut Vec<ChunkPos>) {
        if let (SeenChunks::Each(seen), Held::Chunks(tract)) = (&mut self.chunks, &entry.held) {
            let pairs = seen.iter_mut().zip(tract.stamps()).enumerate();
            for (place, (seen, now)) in pairs.filter(|(_, (seen, now))| seen != now) {
                *seen = *now;
                differing.push(self.cell.tract().chunk_at(place));
            }
            self.stamp = entry.stamp();
            return;
        }
        let now = SeenEntry::of(entry);
        let before: Vec<_> = self.stamps().collect();
        compare(&before, &now.stamps().collect::<Vec<_>>(), differing);
        *self = now;
    }

    /// The chunks that have a stamp, in order.
    fn stamps(&self) -> impl Iterator<Item = (ChunkPos, Stamp)> + '_ {
        let at = self.cell.tract();
        let lone = self.cell.chunk().place_in_tract();
        (0..CHUNKS).filter_map(move |place| {
            let stamp = match &self.chunks {
                SeenChunks::One if place != lone => Stamp::NONE,
                SeenChunks::One | SeenChunks::All => self.stamp,
                SeenChunks::Each(stamps) => stamps[place],
            };
            (stamp != Stamp::NONE).then(|| (at.chunk_at(place), stamp))
        })
    }
}

/// The chunks below a node that have a stamp, in order.
fn stamps_of(node: &Node) -> Vec<(ChunkPos, Stamp)> {
    let mut stamps = Vec::new();
    let mut take = |entry: &Entry| entry.each_stamp(|pos, stamp| stamps.push((pos, stamp)));
    node.each(&mut take);
    by_last_stamp(&mut stamps);
    stamps
}

/// In order; of lone cells in one chunk the last stamp counts.
fn by_last_stamp(stamps: &mut Vec<(ChunkPos, Stamp)>) {
    stamps.sort_unstable_by_key(|&(pos, stamp)| (pos, std::cmp::Reverse(stamp)));
    stamps.dedup_by_key(|(pos, _)| *pos);
}

/// The chunks that only one of two lists has, or both with different stamps.
fn compare(
    mut before: &[(ChunkPos, Stamp)],
    mut now: &[(ChunkPos, Stamp)],
    differing: &mut Vec<ChunkPos>,
) {
    while let (Some(old), Some(new)) = (before.first(), now.first()) {
        if old != new {
            differing.push(old.0.min(new.0));
        }
        before = &before[usize::from(old.0 <= new.0)..];
        now = &now[usize::from(new.0 <= old.0)..];
    }
    differing.extend(before.iter().chain(now).map(|(pos, _)| *pos));
}
