//! Rows of pixels over others, channel by channel.

use std::ops::Range;

use super::swatch::Swatch;
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

/// Lays one pixel over all of a row.
pub(super) fn lay_color(below: &mut [[u8; 4]], (above, through): ([u8; 4], [u8; 4])) {
    for pixel in below {
        over(pixel, &above, &through);
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

/// Some rows of the pictures of a cell, put together from the lowest, which is solid. All have one
/// size. The first of these rows comes first in `pixels`.
///
/// The first that lies over it reads the lowest where that is kept, not where it is painted; so the
/// pixels of most cells are written once.
#[inline(always)]
pub(super) fn stack(
    swatches: &[Swatch],
    stack: &[u32],
    rows: Range<usize>,
    (pixels, stride): (&mut [[u8; 4]], usize),
) {
    let Some((lowest, above)) = stack.split_first() else { return };
    let lowest = &swatches[*lowest as usize];
    // Of a width that is known when this is compiled, a row takes a few instructions.
    match lowest.width {
        16 => stack_of::<16>(swatches, (lowest, above), rows, (pixels, stride)),
        32 => stack_of::<32>(swatches, (lowest, above), rows, (pixels, stride)),
        _ => {
            let width = lowest.width as usize;
            for (to, row) in rows.enumerate() {
                let (to, from) = (to * stride, row * width);
                let target = &mut pixels[to..to + width];
                target.copy_from_slice(&lowest.pixels[from..from + width]);
                for number in above {
                    let swatch = &swatches[*number as usize];
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
    swatches: &[Swatch],
    (lowest, above): (&Swatch, &[u32]),
    rows: Range<usize>,
    (pixels, stride): (&mut [[u8; 4]], usize),
) {
    let own = &lowest.pixels.as_chunks::<WIDTH>().0[rows.clone()];
    let Some((first, others)) = above.split_first() else {
        for (row, line) in own.iter().enumerate() {
            pixels[row * stride..row * stride + WIDTH].copy_from_slice(line);
        }
        return;
    };
    let of = |number: &u32| Rows { swatch: &swatches[*number as usize], rows: rows.clone() };
    lay_all::<WIDTH>(of(first), Some(own), pixels, stride);
    for number in others {
        lay_all::<WIDTH>(of(number), None, pixels, stride);
    }
}

/// Some rows of a picture.
struct Rows<'a> {
    swatch: &'a Swatch,
    rows: Range<usize>,
}

/// Lays rows of a picture over others of their width: over what is painted already, or over rows
/// that lie elsewhere.
#[inline(always)]
fn lay_all<const WIDTH: usize>(
    picture: Rows<'_>,
    below: Option<&[[[u8; 4]; WIDTH]]>,
    pixels: &mut [[u8; 4]],
    stride: usize,
) {
    // One way for all rows, found before the first.
    match (picture.swatch.blend, picture.swatch.coverage) {
        (_, Coverage::Clear) => {
            for (row, line) in below.into_iter().flatten().enumerate() {
                pixels[row * stride..row * stride + WIDTH].copy_from_slice(line);
            }
        }
        (Blend::Normal, Coverage::Opaque) => {
            each_row(&picture, below, pixels, stride, |line, above, _| *line = *above);
        }
        (Blend::Normal, Coverage::Holed) => {
            each_row(&picture, below, pixels, stride, |line, above, through| {
                choose(line.as_flattened_mut(), above.as_flattened(), through.as_flattened());
            });
        }
        (Blend::Normal, Coverage::Soft) => {
            each_row(&picture, below, pixels, stride, |line, above, through| {
                over(line.as_flattened_mut(), above.as_flattened(), through.as_flattened());
            });
        }
        (Blend::Add, _) => {
            each_row(&picture, below, pixels, stride, |line, above, _| {
                add(line.as_flattened_mut(), above.as_flattened());
            });
        }
    }
}

#[inline(always)]
fn each_row<const WIDTH: usize>(
    Rows { swatch, rows }: &Rows<'_>,
    below: Option<&[[[u8; 4]; WIDTH]]>,
    pixels: &mut [[u8; 4]],
    stride: usize,
    lay: impl Fn(&mut [[u8; 4]; WIDTH], &[[u8; 4]; WIDTH], &[[u8; 4]; WIDTH]),
) {
    let above = &swatch.pixels.as_chunks::<WIDTH>().0[rows.clone()];
    let through = &swatch.through.as_chunks::<WIDTH>().0[rows.clone()];
    for (row, (above, through)) in above.iter().zip(through).enumerate() {
        let Some((target, _)) = pixels[row * stride..].split_first_chunk_mut::<WIDTH>() else {
            return;
        };
        let mut line = below.map_or(*target, |below| below[row]);
        lay(&mut line, above, through);
        *target = line;
    }
}

/// Each pixel of a row so many times beside itself.
pub(super) fn widen(row: &[[u8; 4]], times: usize, line: &mut Vec<[u8; 4]>) {
    fn by<const TIMES: usize>(row: &[[u8; 4]], line: &mut [[u8; 4]]) {
        for (pixels, pixel) in line.as_chunks_mut::<TIMES>().0.iter_mut().zip(row) {
            *pixels = [*pixel; TIMES];
        }
    }
    line.resize(row.len() * times, [0; 4]);
    match times {
        0 => {}
        1 => line.copy_from_slice(row),
        2 => by::<2>(row, line),
        3 => by::<3>(row, line),
        4 => by::<4>(row, line),
        _ => {
            for (pixels, pixel) in line.chunks_exact_mut(times).zip(row) {
                pixels.fill(*pixel);
            }
        }
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
