//! A picture laid on a canvas turned, by the nearest pixel.

use super::blit::lay;
use super::canvas::{Canvas, Frame};
use crate::quilt::Blend;
use crate::tile::Coverage;
use crate::units::ScreenPoint;
use crate::view::View;

/// Lays the upright picture of a view over a canvas, as the view turns and shifts it. The canvas
/// begins with a row of the screen.
///
/// Each pixel of the canvas shows the pixel of the picture in which its centre lies. From one to
/// the next that moves by the same way; it is counted in 2⁻³² of a pixel, and found anew in each
/// row, so that over the widest screen it is off by less than 2⁻¹⁶. Light that a layer adds is laid
/// on the canvas with the rest; where it comes to more than white, it was cut off before.
pub(super) fn lay_turned(upright: &Frame, (view, top): (&View, u32), canvas: &mut Canvas<'_>) {
    let size = canvas.size();
    let width = size.width.min(view.size().width);
    let height = size.height.min(view.size().height.saturating_sub(top));
    let from = upright.size();
    let (sin, cos) = view.turn().sin_cos();
    let (step_x, step_y) = (fixed(cos), fixed(-sin));
    let (texels, order) = (upright.pixels(), canvas.order());
    let (mut row, mut through) = (vec![[0; 4]; width as usize], vec![[0; 4]; width as usize]);
    for y in 0..height {
        let first = view.exactly_upright(ScreenPoint::new(0.5, (top + y) as f32 + 0.5));
        let (mut u, mut v) = (fixed(first.0), fixed(first.1));
        for (pixel, through) in row.iter_mut().zip(&mut through) {
            // What lies beyond the picture is negative or far too large.
            let (x, y) = ((u >> 32) as u32, (v >> 32) as u32);
            let is_inside = x < from.width && y < from.height;
            let at = y as usize * from.width as usize + x as usize;
            let texel = if is_inside { texels[at] } else { [0; 4] };
            *pixel = order.pixel(texel);
            *through = order.through(255 - texel[3]);
            u += step_x;
            v += step_y;
        }
        let pixels = canvas.row_mut(y, 0, width);
        lay(pixels, (&row, &through), Coverage::Soft, Blend::Normal);
    }
}

fn fixed(pixels: f64) -> i64 {
    (pixels * 4_294_967_296.0).round() as i64
}
