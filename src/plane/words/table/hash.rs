use crate::units::TractPos;

/// What of a tract's hash is not used up yet, in the highest bits.
///
/// Each step down the tree takes a few bits off. Different tracts have different hashes: what is
/// multiplied by an odd number, modulo a power of two, can be divided again. So at the depth at
/// which the hash is nearly used up, only as many tracts as the rest of it can tell apart are left.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Hash(u64);

/// Children of a node. Few, so that leaves are never nearly empty where nodes have just been made of
/// them, and so that little is copied on the way down to what is written to.
pub(super) const CHILDREN: usize = 1 << CHILD_BITS;
const CHILD_BITS: u32 = 3;

/// Multiplicative hashing (Knuth, "The Art of Computer Programming", volume 3, 6.4).
const FACTOR: u64 = 0x9e37_79b9_7f4a_7c15;
const MASK: u64 = (1 << TractPos::BITS) - 1;

const HASH_BITS: u32 = 2 * TractPos::BITS;

/// The deepest leaves: what is left of a hash there tells at most [`CHILDREN`] tracts apart.
pub(super) const DEEPEST: u32 = (HASH_BITS - CHILD_BITS).div_ceil(CHILD_BITS);

impl Hash {
    /// The hash of a tract.
    #[inline]
    pub(crate) const fn of(at: TractPos) -> Hash {
        // What is above the bits of the row does not reach the hash.
        let key = (at.x() as u64) << TractPos::BITS | at.y() as u64 & MASK;
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

#[cfg(test)]
mod tests {
    use super::*;
    use crate::plane::{Plane, Presence};
    use crate::units::CellPos;

    /// The tract that has a hash: what was multiplied is divided again.
    fn tract_of(hash: u64) -> TractPos {
        // Newton's way to an inverse modulo a power of two: each step doubles the bits that are right.
        let inverse =
            (0..6).fold(1_u64, |x, _| x.wrapping_mul(2_u64.wrapping_sub(FACTOR.wrapping_mul(x))));
        let key = hash.wrapping_mul(inverse) & ((1 << HASH_BITS) - 1);
        let signed =
            |bits: u64| ((bits as i64) << (64 - TractPos::BITS) >> (64 - TractPos::BITS)) as i32;
        TractPos::new(signed(key >> TractPos::BITS), signed(key & MASK))
    }

    #[test]
    fn tracts_whose_hashes_agree_as_far_as_can_be_are_told_apart() {
        let mut plane: Plane<u32> = Plane::new();
        let tracts: Vec<TractPos> = (0..64).map(|low| tract_of(0x5a5 << 33 | low)).collect();
        for (low, tract) in (0_u64..).zip(&tracts) {
            let hash = Hash::of(*tract).0;
            assert_eq!(hash, (0x5a5 << 33 | low) << (u64::BITS - HASH_BITS), "{tract} is wrong");
        }
        let cells: Vec<CellPos> = tracts
            .iter()
            .flat_map(|at| (0..8).map(|n| CellPos::new(at.corner().x() + n * 64, at.corner().y())))
            .collect();
        for (value, cell) in (1..).zip(&cells) {
            plane.set(*cell, value).unwrap();
        }
        for (value, cell) in (1..).zip(&cells) {
            assert_eq!(plane.get(*cell), Presence::Here(value));
        }
        assert_eq!(plane.memory().lone_cells(), cells.len() as u64);
        assert!(plane.occupied().count() == cells.len());
    }
}
