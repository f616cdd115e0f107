//! Rows of pixels over others, channel by channel.

use super::swatch::Swatch;
use super::vector;
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

/// A picture and those over it, put together and written once. All have the size of the lowest,
/// which is solid.
#[inline]
pub(super) fn stack<'s>(
    lowest: &Swatch,
    above: impl Iterator<Item = &'s Swatch> + Clone,
    pixels: &mut [[u8; 4]],
    stride: usize,
    uses_vectors: bool,
) {
    let mut few = [lowest; MOST_AT_ONCE];
    let mut count = 0;
    for swatch in above.clone().take(MOST_AT_ONCE) {
        few[count] = swatch;
        count += 1;
    }
    vector::stack(lowest, &few[..count], pixels, stride, uses_vectors);
    for swatch in above.skip(MOST_AT_ONCE) {
        let width = swatch.width as usize;
        for row in 0..swatch.height as usize {
            let (to, from) = (row * stride, row * width);
            let above = (&swatch.pixels[from..from + width], &swatch.through[from..from + width]);
            lay(&mut pixels[to..to + width], above, swatch.coverage, swatch.blend);
        }
    }
}

/// So many pictures are put together in one go; more in one cell are seldom.
const MOST_AT_ONCE: usize = 8;

/// As [`stack`]; for a vector module to compile anew.
#[inline(always)]
pub(super) fn stack_rows(
    lowest: &Swatch,
    above: &[&Swatch],
    pixels: &mut [[u8; 4]],
    stride: usize,
) {
    // Of a width that is known when this is compiled, a row takes a few instructions.
    match lowest.width {
        16 => stack_of::<16>(lowest, above, pixels, stride),
        32 => stack_of::<32>(lowest, above, pixels, stride),
        8 => stack_of::<8>(lowest, above, pixels, stride),
        _ => {
            let width = lowest.width as usize;
            for row in 0..lowest.height as usize {
                let (to, from) = (row * stride, row * width);
                let target = &mut pixels[to..to + width];
                target.copy_from_slice(&lowest.pixels[from..from + width]);
                for swatch in above {
                    let rows =
                        (&swatch.pixels[from..from + width], &swatch.through[from..from + width]);
                    lay(target, rows, swatch.coverage, swatch.blend);
                }
            }
        }
    }
}

#[inline(always)]
fn stack_of<const WIDTH: usize>(
    lowest: &Swatch,
    above: &[&Swatch],
    pixels: &mut [[u8; 4]],
    stride: usize,
) {
    let (rows, _) = lowest.pixels.as_chunks::<WIDTH>();
    for (row, own) in rows.iter().enumerate() {
        let mut line = *own;
        for swatch in above {
            let above = (
                &swatch.pixels.as_chunks::<WIDTH>().0[row][..],
                &swatch.through.as_chunks::<WIDTH>().0[row][..],
            );
            lay(&mut line, above, swatch.coverage, swatch.blend);
        }
        pixels[row * stride..row * stride + WIDTH].copy_from_slice(&line);
    }
}

/// Each pixel of a row so many times beside itself: of what comes out, so many are left out, and so
/// many taken.
pub(super) fn widen(
    row: &[[u8; 4]],
    times: usize,
    (skipped, taken): (usize, usize),
    line: &mut Vec<[u8; 4]>,
) {
    line.clear();
    match times {
        0 => {}
        1 => line.extend_from_slice(row),
        2 => line.extend(row.iter().flat_map(|pixel| [*pixel; 2])),
        3 => line.extend(row.iter().flat_map(|pixel| [*pixel; 3])),
        4 => line.extend(row.iter().flat_map(|pixel| [*pixel; 4])),
        _ => line.extend(row.iter().flat_map(|pixel| std::iter::repeat_n(*pixel, times))),
    }
    line.truncate(skipped + taken);
    line.drain(..skipped.min(line.len()));
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
