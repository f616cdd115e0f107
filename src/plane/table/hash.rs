use crate::units::RegionPos;

/// What of a region's hash is not used up yet, in the highest bits.
///
/// Each step down the tree takes a few bits off. Different regions have different hashes: what is
/// multiplied by an odd number, modulo a power of two, can be divided again. So at the depth at
/// which the hash is nearly used up, only as many regions as the rest of it can tell apart are left.
#[derive(Clone, Copy, Debug)]
pub(in crate::plane) struct Hash(u64);

/// Children of a node. Few, so that leaves are never nearly empty where nodes have just been made of
/// them, and so that little is copied on the way down to what is written to.
pub(super) const CHILDREN: usize = 1 << CHILD_BITS;
const CHILD_BITS: u32 = 3;

/// Multiplicative hashing (Knuth, "The Art of Computer Programming", volume 3, 6.4).
const FACTOR: u64 = 0x9e37_79b9_7f4a_7c15;
const MASK: u64 = (1 << RegionPos::BITS) - 1;

const HASH_BITS: u32 = 2 * RegionPos::BITS;

/// The deepest leaves: what is left of a hash there tells at most [`CHILDREN`] regions apart.
pub(super) const DEEPEST: u32 = (HASH_BITS - CHILD_BITS) / CHILD_BITS;

impl Hash {
    /// The hash of a region.
    #[inline]
    pub(in crate::plane) const fn of(at: RegionPos) -> Hash {
        // What is above the bits of the row does not reach the hash.
        let key = (at.x() as u64) << RegionPos::BITS | at.y() as u64 & MASK;
        Hash((key << (u64::BITS - HASH_BITS)).wrapping_mul(FACTOR))
    }

    /// The child of a node to go to, and what of the hash is left for it.
    #[inline]
    pub(super) const fn child(self) -> (usize, Hash) {
        (self.top_bits(CHILD_BITS), Hash(self.0 << CHILD_BITS))
    }

    /// What is left of the hash at a depth.
    pub(super) const fn below(self, depth: u32) -> Hash {
        Hash(self.0 << (depth * CHILD_BITS))
    }

    #[inline]
    pub(super) const fn top_bits(self, count: u32) -> usize {
        (self.0 >> (u64::BITS - count)) as usize
    }
}
