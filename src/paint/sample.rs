//! The texel that a pixel shows.

use crate::tile::{ArtPage, Turn};
use crate::units::{PixelRect, ScreenRect};

/// The texel under the centre of a pixel, for `count` texels between two pixel edges.
pub(super) fn texel(pixel: i32, from: i32, to: i32, count: u32) -> u32 {
    let (way, length) = (u64::from(pixel.abs_diff(from)), u64::from(to.abs_diff(from)));
    ((2 * way + 1) * u64::from(count) / (2 * length)) as u32
}

/// Width and height of a picture after it was turned.
pub(super) fn turned_size(source: PixelRect, turn: Turn) -> (u32, u32) {
    let size = source.size;
    if turn.steps().is_multiple_of(2) {
        (size.width, size.height)
    } else {
        (size.height, size.width)
    }
}

/// What a pixel of a picture on the screen shows, with alpha multiplied in; clear beyond it.
pub(crate) fn shown_at(
    page: &ArtPage,
    source: PixelRect,
    turn: Turn,
    target: ScreenRect,
    (x, y): (i32, i32),
) -> [u8; 4] {
    if !target.contains(x, y) {
        return [0; 4];
    }
    let (width, height) = turned_size(source, turn);
    let u = texel(x, target.left, target.right, width);
    let v = texel(y, target.top, target.bottom, height);
    let (u, v) = turn.source_pixel(u, v, source.size.width, source.size.height);
    page.row(source, v).get(u as usize).copied().unwrap_or_default()
}
