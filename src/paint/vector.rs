//! The inner loop of the painter, compiled a second time for processors with wider vectors.
//!
//! The code is the same, so its results are; a test compares both on everything that is painted.
//! What it is worth, the bench lines `draw.redraw.memcpy` and `draw.redraw.portable.memcpy` say.
#![allow(unsafe_code, reason = "calling a function that was compiled for a found instruction set")]

use super::cell_row::{CellRow, PlaceRow, Target};
use super::swatch::Swatch;
/// Whether this processor has what the second version needs.
pub(super) fn are_found() -> bool {
    #[cfg(any(target_arch = "x86_64", target_arch = "x86"))]
    {
        std::arch::is_x86_feature_detected!("avx2")
    }
    #[cfg(not(any(target_arch = "x86_64", target_arch = "x86")))]
    {
        false
    }
}

/// Paints the cells of a row that need no scaling; `uses_vectors` where they may be used.
pub(super) fn paint_row(
    row: CellRow<'_>,
    swatches: &[Swatch],
    target: &mut Target<'_>,
    uses_vectors: bool,
) {
    #[cfg(any(target_arch = "x86_64", target_arch = "x86"))]
    if uses_vectors && are_found() {
        // SAFETY: the processor has AVX2, as was just asked.
        unsafe { paint_row_avx2(row, swatches, target) };
        return;
    }
    let _ = uses_vectors;
    paint_row_portable(row, swatches, target);
}

// A function by itself, so that the loops have all registers.
#[inline(never)]
fn paint_row_portable(row: CellRow<'_>, swatches: &[Swatch], target: &mut Target<'_>) {
    row.paint(swatches, target);
}

#[cfg(any(target_arch = "x86_64", target_arch = "x86"))]
#[target_feature(enable = "avx2")]
fn paint_row_avx2(row: CellRow<'_>, swatches: &[Swatch], target: &mut Target<'_>) {
    row.paint(swatches, target);
}

/// Paints places of a pane that need no scaling; `uses_vectors` where they may be used.
pub(super) fn paint_places(
    row: PlaceRow<'_>,
    swatches: &[Swatch],
    target: &mut Target<'_>,
    uses_vectors: bool,
) {
    #[cfg(any(target_arch = "x86_64", target_arch = "x86"))]
    if uses_vectors && are_found() {
        // SAFETY: the processor has AVX2, as was just asked.
        unsafe { paint_places_avx2(row, swatches, target) };
        return;
    }
    let _ = uses_vectors;
    paint_places_portable(row, swatches, target);
}

// A function by itself, so that the loops have all registers.
#[inline(never)]
fn paint_places_portable(row: PlaceRow<'_>, swatches: &[Swatch], target: &mut Target<'_>) {
    row.paint(swatches, target);
}

#[cfg(any(target_arch = "x86_64", target_arch = "x86"))]
#[target_feature(enable = "avx2")]
fn paint_places_avx2(row: PlaceRow<'_>, swatches: &[Swatch], target: &mut Target<'_>) {
    row.paint(swatches, target);
}
