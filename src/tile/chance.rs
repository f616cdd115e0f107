//! Choices as if by chance, which are always the same for a place and a seed.

use crate::units::CellPos;

/// A number that a cell always gets, as if by chance: the output function of SplitMix64 (Steele,
/// Lea, Flood: Fast Splittable Pseudorandom Number Generators, 2014), halved so that sums fit.
/// Another seed gives other numbers.
pub(super) const fn scatter(cell: CellPos, seed: u64) -> u64 {
    let (x, y) = (cell.x() as u32 as u64, cell.y() as u32 as u64);
    let place = (x << 32 | y) ^ seed.wrapping_mul(0xd134_2543_de82_ef95);
    let mut z = place.wrapping_add(0x9e37_79b9_7f4a_7c15);
    z = (z ^ z >> 30).wrapping_mul(0xbf58_476d_1ce4_e5b9);
    z = (z ^ z >> 27).wrapping_mul(0x94d0_49bb_1331_11eb);
    (z ^ z >> 31) >> 1
}

/// Which of some weights a cell gets, as if by chance; `None` where they are all 0.
pub(crate) fn weighted(
    weights: impl Iterator<Item = u32> + Clone,
    cell: CellPos,
    seed: u64,
) -> Option<usize> {
    let whole: u64 = weights.clone().map(u64::from).sum();
    let at = scatter(cell, seed).checked_rem(whole)?;
    let mut end = 0;
    weights.into_iter().position(|weight| {
        end += u64::from(weight);
        at < end
    })
}
