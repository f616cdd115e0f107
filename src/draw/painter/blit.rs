//! Rows of pixels over others, channel by channel.

use crate::quilt::Blend;
use crate::tile::Coverage;

/// Lays a row over another: what it has, and how much of what is below shows through that.
#[inline(always)]
pub(super) fn lay(
    below: &mut [[u8; 4]],
    (above, through): (&[[u8; 4]], &[[u8; 4]]),
    coverage: Coverage,
    blend: Blend,
) {
    match (blend, coverage) {
        (_, Coverage::Clear) => {}
        (Blend::Normal, Coverage::Opaque) => below.copy_from_slice(above),
        (Blend::Normal, Coverage::Holed) => {
            choose(below.as_flattened_mut(), above.as_flattened(), through.as_flattened());
        }
        (Blend::Normal, Coverage::Soft) => {
            over(below.as_flattened_mut(), above.as_flattened(), through.as_flattened());
        }
        (Blend::Add, _) => add(below.as_flattened_mut(), above.as_flattened()),
    }
}

/// Channels over others, rounded once: `above + below * through / 255`.
#[inline(always)]
fn over(below: &mut [u8], above: &[u8], through: &[u8]) {
    for ((below, above), through) in below.iter_mut().zip(above).zip(through) {
        // A division by 255 without one: exact for every product of two channels, as a test over
        // all of them shows. The sum is more than 255 only where light was added to a clear frame.
        let product = u16::from(*below) * u16::from(*through) + 127;
        let quotient = (product + 1 + (product >> 8)) >> 8;
        *below = above.saturating_add(quotient as u8);
    }
}

/// Channels over others where every pixel is solid or clear: `through` is 0 or 255.
#[inline(always)]
fn choose(below: &mut [u8], above: &[u8], through: &[u8]) {
    for ((below, above), through) in below.iter_mut().zip(above).zip(through) {
        *below = *below & *through | *above;
    }
}

/// Channels added to others, up to white.
#[inline(always)]
fn add(below: &mut [u8], above: &[u8]) {
    for (below, above) in below.iter_mut().zip(above) {
        *below = below.saturating_add(*above);
    }
}

#[cfg(test)]
mod tests {
    /// The quick way of blending gives what the exact one gives, for every possible channel.
    #[test]
    fn rounding_is_exact() {
        for alpha in 0..=255_u8 {
            for below in 0..=255_u8 {
                for above in [0, alpha / 2, alpha] {
                    let through = 1.0 - f64::from(alpha) / 255.0;
                    let exact = f64::from(above) + (f64::from(below) * through + 1e-9).round();
                    let mut quick = [below];
                    super::over(&mut quick, &[above], &[255 - alpha]);
                    assert_eq!(f64::from(quick[0]), exact, "{above}, {alpha} over {below}");
                }
            }
        }
    }
}
