//! The texel that a pixel shows.

use crate::draw::{OnPane, Quad};
use crate::tile::{ArtPage, Turn};
use crate::units::PixelRect;

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

/// What a pixel of the screen shows of a quad, with alpha multiplied in; clear beyond it.
pub(crate) fn shown_at(page: &ArtPage, quad: &Quad, zoom: f64, (x, y): (i32, i32)) -> [u8; 4] {
    let Quad { source, turn, .. } = *quad;
    let Some((u, v)) = turned_texel(quad, zoom, (x, y)) else { return [0; 4] };
    let (u, v) = turn.source_pixel(u, v, source.size.width, source.size.height);
    page.row(source, v).get(u as usize).copied().unwrap_or_default()
}

/// Whether the outline of the picture of a quad holds a pixel: in its row of the picture as that is
/// turned, it lies between two pixels that are not clear, or is one.
pub(crate) fn outline_holds(page: &ArtPage, quad: &Quad, zoom: f64, pixel: (i32, i32)) -> bool {
    let Quad { source, turn, .. } = *quad;
    let Some((u, v)) = turned_texel(quad, zoom, pixel) else { return false };
    let is_seen = |u: u32| {
        let (u, v) = turn.source_pixel(u, v, source.size.width, source.size.height);
        page.row(source, v).get(u as usize).is_some_and(|texel| texel[3] > 0)
    };
    let (width, _) = turned_size(source, turn);
    (0..=u).any(is_seen) && (u..width).any(is_seen)
}

/// The texel that a quad shows in a pixel, in its picture as that is turned; `None` beyond it.
fn turned_texel(quad: &Quad, zoom: f64, (x, y): (i32, i32)) -> Option<(u32, u32)> {
    let Quad { source, turn, target, on_pane, .. } = *quad;
    if !target.contains(x, y) {
        return None;
    }
    let (width, height) = turned_size(source, turn);
    Some(match on_pane {
        None => (
            texel(x, target.left, target.right, width),
            texel(y, target.top, target.bottom, height),
        ),
        Some(OnPane { first, size }) => {
            let (x, y) = (x.abs_diff(target.left), y.abs_diff(target.top));
            (
                texel_from((first.0, x), 1.0 / zoom, (size.width, width)),
                texel_from((first.1, y), 1.0 / zoom, (size.height, height)),
            )
        }
    })
}

/// The texel that lies so many pixels of the screen behind the first one, of which the place under its
/// centre is told, of a picture that takes some pixels of the pane and has so many.
pub(super) fn texel_from((first, way): (f32, u32), step: f64, (on_pane, count): (u32, u32)) -> u32 {
    let pixel =
        ((f64::from(first) + f64::from(way) * step).max(0.0) as u32).min(on_pane.saturating_sub(1));
    if on_pane == count { pixel } else { texel(pixel as i32, 0, on_pane as i32, count) }
}
