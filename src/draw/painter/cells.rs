//! Paints the cells of a stack, row by row of cells.
//!
//! Of a cell whose lowest picture is solid, all layers are put together in one go while the pixels
//! are at hand, and then lie on the canvas: at once where a pixel of the pictures is one of the
//! screen, else through a strip with a row of such cells, of which each line is widened once and
//! copied as often as it shows. Pictures of one cell have the same pixels, so it does not matter
//! whether they are put together before they are scaled or after. All other cells are painted
//! picture by picture.

use super::blit;
use super::canvas::Canvas;
use super::sample::texel;
use super::stamp::{Lines, stamp};
use super::swatch::Swatches;
use crate::units::ScreenRect;

/// Memory to work with.
#[derive(Clone, Debug, Default)]
pub(super) struct CellPainter {
    /// Pixels of a cell in its pictures.
    pub(super) unit: (u32, u32),
    pub(super) uses_vectors: bool,
    /// The numbers of the swatches of one cell, from the lowest.
    pub(super) stack: Vec<u32>,
    strip: Strip,
}

/// Cells beside each other, put together in the size of their pictures.
#[derive(Clone, Debug, Default)]
struct Strip {
    pixels: Vec<[u8; 4]>,
    /// Pixels from line to line.
    stride: usize,
    /// How many cells there are.
    count: usize,
    /// The first column of pixels of each on the canvas, and the one behind the last.
    columns: Vec<i32>,
    /// Which column of the strip each pixel takes.
    taken: Vec<u32>,
    line: Vec<[u8; 4]>,
}

/// The most cells of a strip: those of one chunk.
const MOST_CELLS: usize = 64;
/// Larger pictures are painted one by one: a strip would not stay in the cache.
const MOST_UNIT_PX: u32 = 64;

impl CellPainter {
    /// Makes ready for cells whose pictures have so many pixels.
    pub(super) fn begin(&mut self, unit: Option<(u32, u32)>) {
        let fits = |unit: &(u32, u32)| {
            (1..=MOST_UNIT_PX).contains(&unit.0) && (1..=MOST_UNIT_PX).contains(&unit.1)
        };
        self.unit = unit.filter(fits).unwrap_or((0, 0));
        self.strip.stride = self.unit.0 as usize * MOST_CELLS;
        self.strip.pixels.resize(self.strip.stride * self.unit.1 as usize, [0; 4]);
    }

    /// Paints the pictures that `stack` holds into one cell.
    #[inline]
    pub(super) fn paint(
        &mut self,
        swatches: &Swatches,
        target: ScreenRect,
        canvas: &mut Canvas<'_>,
        lines: &mut Lines,
    ) {
        let ScreenRect { left, top, right, bottom } = target;
        let (width, height) = (right - left, bottom - top);
        let is_unit = |number: &u32| {
            let swatch = swatches.get(*number);
            (swatch.width, swatch.height) == self.unit
        };
        let unit = (self.unit.0 as i32, self.unit.1 as i32);
        let is_small = width < unit.0 || height < unit.1;
        let is_solid = self.stack.first().is_some_and(|lowest| swatches.get(*lowest).is_solid());
        if !is_solid || is_small || !self.stack.iter().all(is_unit) {
            for number in &self.stack {
                stamp(swatches.get(*number), target, canvas, lines);
            }
            return;
        }
        if (width, height) != unit {
            self.add_to_strip(swatches, target, canvas);
            return;
        }
        let size = canvas.size();
        let is_inside = 0 <= left
            && 0 <= top
            && right as i64 <= i64::from(size.width)
            && bottom as i64 <= i64::from(size.height);
        if is_inside {
            let (pixels, stride) = canvas.rest_mut(left as u32, top as u32);
            put_together(swatches, &self.stack, pixels, stride, self.uses_vectors);
        } else {
            self.add_to_strip(swatches, target, canvas);
            self.flush(top, bottom, canvas);
        }
    }

    fn add_to_strip(&mut self, swatches: &Swatches, target: ScreenRect, canvas: &mut Canvas<'_>) {
        let strip = &mut self.strip;
        if strip.count == MOST_CELLS || strip.columns.last().is_some_and(|x| *x != target.left) {
            self.flush(target.top, target.bottom, canvas);
        }
        let strip = &mut self.strip;
        if strip.count == 0 {
            strip.columns.push(target.left);
        }
        strip.columns.push(target.right);
        let pixels = &mut strip.pixels[strip.count * self.unit.0 as usize..];
        put_together(swatches, &self.stack, pixels, strip.stride, self.uses_vectors);
        strip.count += 1;
    }

    /// Paints the strip, whose cells lie between two rows of pixels.
    pub(super) fn flush(&mut self, top: i32, bottom: i32, canvas: &mut Canvas<'_>) {
        let (strip, (unit_width, unit_height)) = (&mut self.strip, self.unit);
        let (Some(&left), Some(&right)) = (strip.columns.first(), strip.columns.last()) else {
            return;
        };
        let size = canvas.size();
        let clip = |edge: i32, most: u32| edge.clamp(0, i32::try_from(most).unwrap_or(i32::MAX));
        let (from, to) = (clip(left, size.width), clip(right, size.width));
        let (first, end) = (clip(top, size.height), clip(bottom, size.height));
        let zoom = (right - left) / (unit_width as i32 * strip.count as i32).max(1);
        let is_whole =
            strip.columns.windows(2).all(|pair| pair[1] - pair[0] == unit_width as i32 * zoom);
        if !is_whole {
            strip.take_columns(unit_width, (from, to));
        }
        let mut held = None;
        for y in first..end {
            let row = texel(y, top, bottom, unit_height);
            if held != Some(row) {
                held = Some(row);
                let start = row as usize * strip.stride;
                let source = &strip.pixels[start..start + strip.count * unit_width as usize];
                if is_whole {
                    let skipped = from.abs_diff(left) as usize;
                    let wanted = from.abs_diff(to) as usize;
                    blit::widen(source, zoom as usize, (skipped, wanted), &mut strip.line);
                } else {
                    strip.line.clear();
                    strip.line.extend(strip.taken.iter().map(|x| source[*x as usize]));
                }
            }
            canvas.row_mut(y as u32, from as u32, to as u32).copy_from_slice(&strip.line);
        }
        strip.count = 0;
        strip.columns.clear();
    }
}

impl Strip {
    fn take_columns(&mut self, unit_width: u32, (from, to): (i32, i32)) {
        self.taken.clear();
        for (cell, edges) in (0..).zip(self.columns.windows(2)) {
            let (left, right) = (edges[0], edges[1]);
            let shown = left.max(from)..right.min(to);
            self.taken.extend(shown.map(|x| cell * unit_width + texel(x, left, right, unit_width)));
        }
    }
}

/// Puts the pictures of a cell together, of which the lowest is solid and all have one size.
#[inline]
fn put_together(
    swatches: &Swatches,
    stack: &[u32],
    pixels: &mut [[u8; 4]],
    stride: usize,
    uses_vectors: bool,
) {
    let Some((lowest, above)) = stack.split_first() else { return };
    let lowest = swatches.get(*lowest);
    let above = above.iter().map(|number| swatches.get(*number));
    blit::stack(lowest, above, pixels, stride, uses_vectors);
}
