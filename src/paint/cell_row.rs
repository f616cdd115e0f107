//! The innermost loop: cells of a row that are painted in the size of their pictures.

use super::blit;
use super::resolved::{Resolved, ResolvedCell};
use super::swatch::Swatch;
use crate::prefetch::prefetch;

/// Some cells of one row of a chunk.
#[derive(Clone, Copy)]
pub(super) struct CellRow<'a> {
    pub(super) resolved: &'a Resolved,
    pub(super) cells: &'a [ResolvedCell],
    /// The pixel edges of all columns of the chunk, from the first that is on the screen.
    pub(super) edges: &'a [i32],
    /// Which column that is.
    pub(super) first: i32,
    /// Rows of pixels of a cell.
    pub(super) height: usize,
}

/// So many pixels ahead memory is asked for. Of 32, 56, 96, 160 and 320 the first was the best.
const AHEAD_PX: usize = 32;

/// What remains of a canvas from the first row of pixels of some cells on.
pub(super) struct Target<'a> {
    pub(super) pixels: &'a mut [[u8; 4]],
    pub(super) stride: usize,
}

impl CellRow<'_> {
    #[inline]
    pub(super) fn left(&self, cell: &ResolvedCell) -> i32 {
        self.edges[(i32::from(cell.column) - self.first) as usize]
    }

    #[inline]
    pub(super) fn right(&self, cell: &ResolvedCell) -> i32 {
        self.edges[(i32::from(cell.column) - self.first) as usize + 1]
    }

    /// Puts cells together on the canvas, in the size of their pictures. All are whole.
    #[inline(always)]
    pub(super) fn paint(self, swatches: &[Swatch], target: &mut Target<'_>) {
        for cell in self.cells {
            let pixels = &mut target.pixels[self.left(cell) as usize..];
            for row in 0..self.height {
                if let Some(pixel) = pixels.get(row * target.stride + AHEAD_PX) {
                    prefetch(pixel);
                }
            }
            let (numbers, rows) = (self.resolved.numbers(cell), 0..self.height);
            blit::stack(swatches, numbers, rows, (pixels, target.stride));
        }
    }
}

/// Places of a row of a pane that are put together in the size of their pieces.
#[derive(Clone, Copy)]
pub(super) struct PlaceRow<'a> {
    /// The pieces of all places of the block.
    pub(super) numbers: &'a [u32],
    pub(super) places: &'a [PlacedStack],
    /// Rows of pixels of a place.
    pub(super) height: usize,
}

/// A place with its first column of pixels, and its pieces among those of its block.
#[derive(Clone, Copy, Debug)]
pub(super) struct PlacedStack {
    pub(super) left: i32,
    pub(super) first: u32,
    pub(super) count: u32,
}

impl PlaceRow<'_> {
    /// Puts the places together on the canvas.
    #[inline(always)]
    pub(super) fn paint(self, swatches: &[Swatch], target: &mut Target<'_>) {
        for place in self.places {
            let pixels = &mut target.pixels[place.left as usize..];
            for row in 0..self.height {
                if let Some(pixel) = pixels.get(row * target.stride + AHEAD_PX) {
                    prefetch(pixel);
                }
            }
            let numbers = &self.numbers[place.first as usize..][..place.count as usize];
            blit::stack(swatches, numbers, 0..self.height, (pixels, target.stride));
        }
    }
}
