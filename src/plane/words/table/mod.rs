//! The page table: what there is of each tract, in a tree by the hash of its place.
//!
//! The idea is the hash tree of Bagwell ("Ideal Hash Trees", 2001) with whole lists of entries as its
//! leaves. A map of up to 64 tracts is one such list, so a tract of it is found by one hash and
//! mostly one look. Larger ones split: a clone shares all nodes, and a write copies those on its
//! way alone, where a hash map would be copied as a whole, or sharded so finely that a million lone
//! cells would not fit into 40 MiB.
//!
//! Each node has the stamp of the last change below it, and the bounds of what lies below it, which
//! are found when they are asked for and forgotten by a write. So what follows changes, or bounds,
//! visits what has changed and not what there is.

mod entry;
mod hash;
mod leaf;
mod tract;

use std::sync::OnceLock;

use triomphe::Arc;

pub(super) use entry::{Entry, Held, MAX_LONE};
pub(super) use hash::Hash;
use hash::{CHILDREN, DEEPEST};
pub(super) use leaf::Leaf;
use leaf::{SLOTS, most_entries};
pub(super) use tract::{CHUNKS, Tract};

use crate::stamp::Stamp;
use crate::units::{CellRect, TractPos};

/// In this order: what a write touches on its way lies in the first line of the cache.
#[derive(Clone, Debug)]
#[repr(C)]
pub(super) struct Node {
    /// The last change of anything below.
    stamp: Stamp,
    bounds: OnceLock<CellRect>,
    below: Below,
}

#[derive(Clone, Debug)]
pub(super) enum Below {
    Nodes([Arc<Node>; CHILDREN]),
    Leaf(Leaf),
}

// Make and read.
impl Node {
    pub(super) const fn new() -> Node {
        Node::of(Leaf::new(0))
    }

    const fn of(leaf: Leaf) -> Node {
        Node { stamp: Stamp::NONE, bounds: OnceLock::new(), below: Below::Leaf(leaf) }
    }

    pub(super) const fn stamp(&self) -> Stamp {
        self.stamp
    }

    pub(super) const fn below(&self) -> &Below {
        &self.below
    }

    /// The leaf that has a tract if any has, and what of the hash is left there.
    #[inline]
    pub(super) fn leaf(&self, at: TractPos) -> (&Leaf, Hash) {
        let (mut node, mut hash) = (self, Hash::of(at));
        loop {
            match &node.below {
                Below::Leaf(leaf) => return (leaf, hash),
                Below::Nodes(children) => {
                    let (child, rest) = hash.child();
                    (node, hash) = (&children[child], rest);
                }
            }
        }
    }

    /// All entries, in no stated order.
    pub(super) fn each(&self, take: &mut impl FnMut(&Entry)) {
        match &self.below {
            Below::Nodes(children) => children.iter().for_each(|child| child.each(take)),
            Below::Leaf(leaf) => leaf.entries().iter().for_each(take),
        }
    }

    pub(super) fn bounds(&self) -> CellRect {
        *self.bounds.get_or_init(|| match &self.below {
            Below::Nodes(children) => {
                children.iter().fold(CellRect::EMPTY, |all, child| all.union(child.bounds()))
            }
            Below::Leaf(leaf) => {
                leaf.entries().iter().fold(CellRect::EMPTY, |all, entry| all.union(entry.bounds()))
            }
        })
    }
}

// Change.
impl Node {
    /// The leaf of a tract, to be written to, with room for one more entry. Everything on the way
    /// is parted from clones and gets the stamp.
    pub(super) fn leaf_mut(node: &mut Arc<Node>, at: TractPos, stamp: Stamp) -> (&mut Leaf, Hash) {
        let (mut node, mut hash) = (node, Hash::of(at));
        loop {
            let own = Arc::make_mut(node);
            own.stamp = own.stamp.max(stamp);
            own.bounds.take();
            own.split_if_full();
            match &mut own.below {
                Below::Leaf(leaf) => return (leaf, hash),
                Below::Nodes(children) => {
                    let (child, rest) = hash.child();
                    (node, hash) = (&mut children[child], rest);
                }
            }
        }
    }

    /// Makes a node of a leaf that has no room for one more. The deepest have at most
    /// [`CHILDREN`] tracts with at most [`MAX_LONE`] entries each, which find room.
    fn split_if_full(&mut self) {
        const _: () = assert!(CHILDREN * MAX_LONE < SLOTS);
        let Below::Leaf(leaf) = &mut self.below else { return };
        let depth = leaf.depth();
        if leaf.entries().len() < most_entries(depth) || depth == DEEPEST {
            return;
        }
        let mut leaves: [Leaf; CHILDREN] = std::array::from_fn(|_| Leaf::new(depth + 1));
        for entry in leaf.take_entries() {
            let (child, _) = Hash::of(entry.tract()).below(depth).child();
            leaves[child].push(entry);
        }
        self.below = Below::Nodes(leaves.map(|leaf| {
            let stamp = leaf.entries().iter().map(Entry::stamp).max();
            let node = Node { stamp: stamp.unwrap_or(Stamp::NONE), ..Node::of(leaf) };
            Arc::new(node)
        }));
    }
}
