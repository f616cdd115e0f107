//! Paints one picture into its pixels on the screen.

use super::blit::lay;
use super::canvas::Canvas;
use super::sample::{texel, texel_from};
use super::swatch::Swatch;
use crate::draw::OnPane;
use crate::tile::Coverage;
use crate::units::ScreenRect;

/// Memory for one row of a picture that is scaled.
#[derive(Clone, Debug, Default)]
pub(super) struct ScaledRow {
    /// Which column of the picture each pixel takes.
    taken: Vec<u32>,
    pixels: Vec<[u8; 4]>,
    through: Vec<[u8; 4]>,
}

/// Paints a picture, scaled to its target by the nearest pixel.
pub(super) fn stamp(
    swatch: &Swatch,
    target: ScreenRect,
    canvas: &mut Canvas<'_>,
    lines: &mut ScaledRow,
) {
    let ScreenRect { left, top, right, bottom } = target;
    let shown = target.intersection(ScreenRect::of_size(canvas.size()));
    if shown.is_empty() || swatch.coverage == Coverage::Clear {
        return;
    }
    let ScreenRect { left: from, top: first, right: to, bottom: end } = shown;
    if right.abs_diff(left) == swatch.width && bottom.abs_diff(top) == swatch.height {
        let skipped = (from.abs_diff(left) as usize, first.abs_diff(top) as usize);
        let target = canvas.rest_mut(from as u32, first as u32);
        let size = (from.abs_diff(to) as usize, first.abs_diff(end) as usize);
        // Of a width that is known when this is compiled, a row takes a few instructions.
        match size.0 {
            16 => rows::<16>(swatch, skipped, target, size),
            32 => rows::<32>(swatch, skipped, target, size),
            _ => rows::<0>(swatch, skipped, target, size),
        }
        return;
    }
    lines.taken.clear();
    lines.taken.extend((from..to).map(|x| texel(x, left, right, swatch.width)));
    let mut held = None;
    for y in first..end {
        let row = texel(y, top, bottom, swatch.height);
        if held != Some(row) {
            lines.take(swatch, row);
            held = Some(row);
        }
        let pixels = canvas.row_mut(y as u32, from as u32, to as u32);
        lay(pixels, (&lines.pixels, &lines.through), swatch.coverage, swatch.blend);
    }
}

/// Paints a picture whose pixels lie on those of the pane, of which so many lie between two pixels of
/// the screen.
pub(super) fn stamp_from(
    swatch: &Swatch,
    target: ScreenRect,
    (on_pane, step): (OnPane, f64),
    canvas: &mut Canvas<'_>,
    lines: &mut ScaledRow,
) {
    let shown = target.intersection(ScreenRect::of_size(canvas.size()));
    if shown.is_empty() || swatch.coverage == Coverage::Clear {
        return;
    }
    let ScreenRect { left: from, top: first, right: to, bottom: end } = shown;
    lines.taken.clear();
    let OnPane { first: (x, y), size } = on_pane;
    let column =
        |at: i32| texel_from((x, at.abs_diff(target.left)), step, (size.width, swatch.width));
    lines.taken.extend((from..to).map(column));
    let mut held = None;
    for at in first..end {
        let way = at.abs_diff(target.top);
        let row = texel_from((y, way), step, (size.height, swatch.height));
        if held != Some(row) {
            lines.take(swatch, row);
            held = Some(row);
        }
        let pixels = canvas.row_mut(at as u32, from as u32, to as u32);
        lay(pixels, (&lines.pixels, &lines.through), swatch.coverage, swatch.blend);
    }
}

impl ScaledRow {
    /// Scales a row of a picture.
    fn take(&mut self, swatch: &Swatch, row: u32) {
        let width = swatch.width as usize;
        let start = row as usize * width;
        let taken = |from: &[[u8; 4]], to: &mut Vec<[u8; 4]>| {
            let from = &from[start..start + width];
            to.clear();
            to.extend(self.taken.iter().map(|&x| from[x as usize]));
        };
        taken(&swatch.pixels, &mut self.pixels);
        taken(&swatch.through, &mut self.through);
    }
}

/// Paints the rows of a picture in its own size, from one of its pixels on. `WIDTH` is the width
/// of the rows where it is not 0. The target is what remains of a canvas from the first pixel on,
/// and how many pixels lead from row to row.
// A function by itself, so that the loops have all registers.
#[inline(never)]
fn rows<const WIDTH: usize>(
    swatch: &Swatch,
    (across, down): (usize, usize),
    (pixels, stride): (&mut [[u8; 4]], usize),
    (width, height): (usize, usize),
) {
    let width = if WIDTH > 0 { WIDTH } else { width };
    let own = swatch.width as usize;
    for row in 0..height {
        let (to, from) = (row * stride, (down + row) * own + across);
        let above = (&swatch.pixels[from..from + width], &swatch.through[from..from + width]);
        lay(&mut pixels[to..to + width], above, swatch.coverage, swatch.blend);
    }
}
