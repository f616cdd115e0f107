//! Areas and lines of an overlay, cut into runs of pixels.

use super::blit::lay_color;
use super::canvas::Canvas;
use crate::picture::Color;
use crate::tile::premultiplied;
use crate::units::{ScreenPoint, pairs};

/// Lays a colour over the pixels whose centres lie in a convex area.
///
/// Where a side crosses the level of the centres is found from its upper end, whichever way it is gone
/// along: so neighbours with a side in common neither overlap nor leave a gap.
pub(super) fn lay_area(corners: &[ScreenPoint], color: Color, canvas: &mut Canvas<'_>) {
    let size = canvas.size();
    let places = || corners.iter().map(|at| f64::from(at.y));
    let (top, bottom) =
        (places().fold(f64::INFINITY, f64::min), places().fold(f64::NEG_INFINITY, f64::max));
    let row = |edge: f64| (edge - 0.5).ceil().clamp(0.0, f64::from(size.height)) as u32;
    for y in row(top)..row(bottom) {
        let level = f64::from(y) + 0.5;
        let (mut left, mut right) = (f64::INFINITY, f64::NEG_INFINITY);
        for (a, b) in pairs(corners) {
            let (upper, lower) = if a.y <= b.y { (a, b) } else { (b, a) };
            let (from, to) = (f64::from(upper.y), f64::from(lower.y));
            if !(from <= level && level < to) {
                continue;
            }
            let (x, end) = (f64::from(upper.x), f64::from(lower.x));
            let crossing = x + (end - x) * ((level - from) / (to - from));
            (left, right) = (left.min(crossing), right.max(crossing));
        }
        let column = |edge: f64| (edge - 0.5).ceil().clamp(0.0, f64::from(size.width)) as u32;
        if left <= right {
            lay_run((y, column(left), column(right)), color, canvas);
        }
    }
}

/// Lays a colour over a line: in each column, or in each row of a steep one, as many pixels as it is
/// thick, around its middle.
pub(super) fn lay_line(
    (from, to): (ScreenPoint, ScreenPoint),
    thickness_px: u32,
    color: Color,
    canvas: &mut Canvas<'_>,
) {
    let size = canvas.size();
    let [(ax, ay), (bx, by)] = [from, to].map(|at| (f64::from(at.x), f64::from(at.y)));
    let is_steep = (by - ay).abs() > (bx - ax).abs();
    // Along the longer way, from its lower end.
    let turn = |(x, y): (f64, f64)| if is_steep { (y, x) } else { (x, y) };
    let (a, b) = (turn((ax, ay)), turn((bx, by)));
    let ((start, across), (end, last)) = if a.0 <= b.0 { (a, b) } else { (b, a) };
    let (length, breadth) =
        if is_steep { (size.height, size.width) } else { (size.width, size.height) };
    let step = |edge: f64| edge.clamp(0.0, f64::from(length));
    let thickness = f64::from(thickness_px.max(1));
    for at in step(start.floor()) as u32..step((end + 1.0).floor()) as u32 {
        let way = (f64::from(at) + 0.5).clamp(start, end);
        let part = if end > start { (way - start) / (end - start) } else { 0.0 };
        let middle = across + (last - across) * part;
        let first = (middle - thickness / 2.0).round();
        let bound = |edge: f64| edge.clamp(0.0, f64::from(breadth)) as u32;
        let (first, behind) = (bound(first), bound(first + thickness));
        if is_steep {
            lay_run((at, first, behind), color, canvas);
        } else {
            (first..behind).for_each(|y| lay_run((y, at, at + 1), color, canvas));
        }
    }
}

/// Lays a colour over the pixels of a row from one column up to, but not with, another.
fn lay_run((y, from, to): (u32, u32, u32), color: Color, canvas: &mut Canvas<'_>) {
    if from < to {
        let order = canvas.order();
        let texel = premultiplied(color.to_bytes());
        let pair = (order.pixel(texel), order.through(255 - texel[3]));
        lay_color(canvas.row_mut(y, from, to), pair);
    }
}
