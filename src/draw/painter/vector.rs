//! The inner loop of the painter, compiled a second time for processors with wider vectors.
//!
//! The code is the same, so its results are; a test compares both on everything that is painted.
//! It is worth about a third of the time of a full redraw (bench `draw.redraw.portable.memcpy`).
#![allow(unsafe_code, reason = "calling a function that was compiled for a found instruction set")]

use super::blit::stack_rows;
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

/// Puts pictures together; `uses_vectors` only where they [are found](are_found).
#[inline]
pub(super) fn stack(
    lowest: &Swatch,
    above: &[&Swatch],
    pixels: &mut [[u8; 4]],
    stride: usize,
    uses_vectors: bool,
) {
    #[cfg(any(target_arch = "x86_64", target_arch = "x86"))]
    if uses_vectors && are_found() {
        // SAFETY: the processor has AVX2, as was just asked.
        unsafe { stack_avx2(lowest, above, pixels, stride) };
        return;
    }
    let _ = uses_vectors;
    stack_portable(lowest, above, pixels, stride);
}

// A function by itself, so that the loops have all registers.
#[inline(never)]
fn stack_portable(lowest: &Swatch, above: &[&Swatch], pixels: &mut [[u8; 4]], stride: usize) {
    stack_rows(lowest, above, pixels, stride);
}

#[cfg(any(target_arch = "x86_64", target_arch = "x86"))]
#[target_feature(enable = "avx2")]
fn stack_avx2(lowest: &Swatch, above: &[&Swatch], pixels: &mut [[u8; 4]], stride: usize) {
    stack_rows(lowest, above, pixels, stride);
}
