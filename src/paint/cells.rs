//! Paints the cells of a stack, row by row of cells.
//!
//! Of a cell whose lowest picture is solid, all layers are put together in one go while the pixels
//! are at hand, and then lie on the canvas: at once where a pixel of the pictures is one of the
//! screen, else through a strip with a row of such cells, of which each line is widened once and
//! copied as often as it shows. Pictures of one cell have the same pixels, so it does not matter
//! whether they are put together before they are scaled or after. All other cells are painted
//! picture by picture.
//!
//! Strips at the natural size, too, were slower: what is copied twice costs more than what is
//! written in pieces.

use super::canvas::Canvas;
use super::cell_row::{CellRow, Target};
use super::resolved::{Resolved, ResolvedCell};
use super::sample::texel;
use super::stamp::{ScaledRow, stamp};
use super::swatch::Swatch;
use super::{blit, vector};
use crate::units::ScreenRect;

/// The shortcuts that make a painter fast. None changes a pixel; each can be switched off, to show
/// that and what it is worth.
#[doc(hidden)]
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Shortcuts {
    /// Instructions that are found at run time.
    pub vectors: bool,
    /// Pictures of which each pixel is solid, or each is solid or clear, are laid down as such.
    pub classes: bool,
    /// All pictures of a cell are put together in one go.
    pub stacks: bool,
    /// What is put together is scaled line by line for a row of cells.
    pub strips: bool,
    /// What the cells of a chunk are painted with is kept.
    pub chunks: bool,
}

impl Default for Shortcuts {
    fn default() -> Shortcuts {
        Shortcuts { vectors: true, classes: true, stacks: true, strips: true, chunks: true }
    }
}

/// Memory to work with.
#[derive(Clone, Debug, Default)]
pub(super) struct CellPainter {
    /// Pixels of a cell in its pictures.
    unit: (u32, u32),
    shortcuts: Shortcuts,
    strip: Strip,
    /// A cell that is partly beyond the canvas.
    cut: Vec<[u8; 4]>,
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
const MAX_CELLS: usize = 64;
/// Larger pictures are painted one by one: a strip would not stay in the cache.
pub(super) const MAX_UNIT_PX: u32 = 64;

impl CellPainter {
    /// Makes ready for cells whose pictures have so many pixels; gives those in which cells can be
    /// put together.
    pub(super) fn begin(&mut self, unit: Option<(u32, u32)>, shortcuts: Shortcuts) -> (u32, u32) {
        self.shortcuts = shortcuts;
        let fits = |unit: &(u32, u32)| {
            (1..=MAX_UNIT_PX).contains(&unit.0) && (1..=MAX_UNIT_PX).contains(&unit.1)
        };
        self.unit = unit.filter(fits).unwrap_or((0, 0));
        self.strip.stride = self.unit.0 as usize * MAX_CELLS;
        self.strip.pixels.resize(self.strip.stride * self.unit.1 as usize, [0; 4]);
        self.unit
    }

    /// Paints the cells of a row of a chunk from one column up to, but not with, another, of which
    /// all pixel edges are given; they lie between two rows of pixels.
    pub(super) fn paint_row(
        &mut self,
        (resolved, row): (&Resolved, usize),
        (first, edges): (i32, &[i32]),
        (top, bottom): (i32, i32),
        swatches: &[Swatch],
        canvas: &mut Canvas<'_>,
        lines: &mut ScaledRow,
    ) {
        let size = canvas.size();
        let (width, height) = (size.width as i32, size.height as i32);
        if bottom <= 0 || top >= height || top >= bottom {
            return;
        }
        let all = resolved.row(row);
        let end = first + edges.len() as i32 - 1;
        let from = all.partition_point(|cell| i32::from(cell.column) < first);
        let to = all.partition_point(|cell| i32::from(cell.column) < end);
        let unit = (self.unit.0 as i32, self.unit.1 as i32);
        let is_natural = |row: &CellRow<'_>, cell: &ResolvedCell| {
            let (left, right) = (row.left(cell), row.right(cell));
            cell.is_whole && right - left == unit.0 && 0 <= left && right <= width
        };
        let rows_are_natural = bottom - top == unit.1 && 0 <= top && bottom <= height;
        let mut row =
            CellRow { resolved, cells: &all[from..to], edges, first, height: self.unit.1 as usize };
        // Runs of cells that need nothing but to be put together, and the cells between them.
        while let Some(cell) = row.cells.first() {
            let run = if rows_are_natural {
                row.cells.iter().take_while(|cell| is_natural(&row, cell)).count()
            } else {
                0
            };
            if run > 0 {
                let (cells, others) = row.cells.split_at(run);
                let (pixels, stride) = canvas.rest_mut(0, top as u32);
                let mut target = Target { pixels, stride };
                let cells = CellRow { cells, ..row };
                vector::paint_row(cells, swatches, &mut target, self.shortcuts.vectors);
                row.cells = others;
                continue;
            }
            let target = ScreenRect { left: row.left(cell), top, right: row.right(cell), bottom };
            self.paint_cell((resolved, cell), target, swatches, canvas, lines);
            row.cells = &row.cells[1..];
        }
        self.flush(top, bottom, canvas);
    }

    /// Paints a cell that is scaled, or partly beyond the canvas, or not whole.
    fn paint_cell(
        &mut self,
        (resolved, cell): (&Resolved, &ResolvedCell),
        target: ScreenRect,
        swatches: &[Swatch],
        canvas: &mut Canvas<'_>,
        lines: &mut ScaledRow,
    ) {
        let numbers = resolved.numbers(cell);
        let (width, height) = (target.right - target.left, target.bottom - target.top);
        let unit = (self.unit.0 as i32, self.unit.1 as i32);
        let is_small = width < unit.0 || height < unit.1;
        if cell.is_whole && (width, height) == unit {
            self.paint_cut(numbers, target, swatches, canvas);
            return;
        }
        if !cell.is_whole || is_small || !self.shortcuts.strips {
            for number in numbers {
                stamp(&swatches[*number as usize], target, canvas, lines);
            }
            return;
        }
        let strip = &self.strip;
        if strip.count == MAX_CELLS || strip.columns.last().is_some_and(|x| *x != target.left) {
            self.flush(target.top, target.bottom, canvas);
        }
        let strip = &mut self.strip;
        if strip.count == 0 {
            strip.columns.push(target.left);
        }
        strip.columns.push(target.right);
        let pixels = &mut strip.pixels[strip.count * self.unit.0 as usize..];
        blit::stack(swatches, numbers, 0..self.unit.1 as usize, (pixels, strip.stride));
        strip.count += 1;
    }

    /// Paints a cell in the size of its pictures that is partly beyond the canvas.
    fn paint_cut(
        &mut self,
        numbers: &[u32],
        target: ScreenRect,
        swatches: &[Swatch],
        canvas: &mut Canvas<'_>,
    ) {
        let shown = target.intersection(ScreenRect::of_size(canvas.size()));
        if shown.is_empty() {
            return;
        }
        let width = self.unit.0 as usize;
        let from = |edge: i32, first: i32| (edge - first) as usize;
        let rows = from(shown.top, target.top)..from(shown.bottom, target.top);
        let columns = from(shown.left, target.left)..from(shown.right, target.left);
        self.cut.resize(width * self.unit.1 as usize, [0; 4]);
        blit::stack(swatches, numbers, rows, (&mut self.cut, width));
        for (y, line) in (shown.top..shown.bottom).zip(self.cut.chunks_exact(width)) {
            let pixels = canvas.row_mut(y as u32, shown.left as u32, shown.right as u32);
            // By hand: of a few pixels, a call to copy them takes longer.
            for (pixel, from) in pixels.iter_mut().zip(&line[columns.clone()]) {
                *pixel = *from;
            }
        }
    }

    /// Paints the strip, whose cells lie between two rows of pixels.
    fn flush(&mut self, top: i32, bottom: i32, canvas: &mut Canvas<'_>) {
        let (strip, (unit_width, unit_height)) = (&mut self.strip, self.unit);
        let (Some(&left), Some(&right)) = (strip.columns.first(), strip.columns.last()) else {
            return;
        };
        let shown = ScreenRect { left, top, right, bottom };
        let shown = shown.intersection(ScreenRect::of_size(canvas.size()));
        let ScreenRect { left: from, top: first, right: to, bottom: end } = shown;
        let zoom = (right - left) / (unit_width as i32 * strip.count as i32).max(1);
        let is_whole =
            strip.columns.windows(2).all(|pair| pair[1] - pair[0] == unit_width as i32 * zoom);
        if !is_whole {
            strip.take_columns(unit_width, (from, to));
        }
        // The line holds what is beyond the canvas, too, where it was widened as a whole.
        let skipped = if is_whole { from.abs_diff(left) as usize } else { 0 };
        let end = if from < to { end } else { first };
        let mut held = None;
        for y in first..end {
            let row = texel(y, top, bottom, unit_height);
            if held != Some(row) {
                held = Some(row);
                let start = row as usize * strip.stride;
                let source = &strip.pixels[start..start + strip.count * unit_width as usize];
                if is_whole {
                    blit::widen(source, zoom as usize, &mut strip.line);
                } else {
                    strip.line.clear();
                    strip.line.extend(strip.taken.iter().map(|x| source[*x as usize]));
                }
            }
            let shown = &strip.line[skipped..skipped + (to - from) as usize];
            canvas.row_mut(y as u32, from as u32, to as u32).copy_from_slice(shown);
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
