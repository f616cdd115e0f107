//! Trees that stand on one cell and are taller and wider than it: tiles of 48 × 64 pixels.

use sturdy_quilt::{Color, Picture};

use crate::canvas::{Canvas, noise, ramp, shadow};
use crate::colors::{LEAVES, WOOD};

/// The middle of a clump of leaves, and its radius.
type Clump = (f32, f32, f32);

const SHADE_TREE: [Clump; 9] = [
    (24.0, 20.0, 15.0),
    (12.0, 24.0, 10.0),
    (36.0, 24.0, 10.0),
    (18.0, 11.0, 9.0),
    (31.0, 12.0, 9.0),
    (24.0, 33.0, 10.0),
    (14.0, 34.0, 8.5),
    (34.0, 34.0, 8.5),
    (24.0, 8.0, 7.0),
];

const YOUNG_TREE: [Clump; 5] =
    [(24.0, 34.0, 9.0), (18.0, 38.0, 7.0), (30.0, 38.0, 7.0), (24.0, 26.0, 6.5), (24.0, 43.0, 6.0)];

/// Leaves of some clumps, lit from the upper left.
pub(crate) fn leaves(clumps: &[Clump], x: i32, y: i32, seed: u32) -> Option<Color> {
    let (px, py) = (x as f32 + 0.5, y as f32 + 0.5);
    let ragged = noise(x / 2, y / 2, seed) * 2.5;
    let inside =
        |&&(cx, cy, r): &&Clump| (px - cx).powi(2) + (py - cy).powi(2) < (r - ragged).powi(2);
    // The clump nearest to the light that covers the pixel gives its shade.
    let &(cx, cy, r) = clumps.iter().filter(inside).max_by(|a, b| a.2.total_cmp(&b.2))?;
    let toward_light = ((cx - px) + (cy - py) * 1.3) / (2.0 * r);
    let clump = clumps.iter().filter(inside).count() as f32 * 0.03;
    let leaf = if noise(x / 2, y / 2, seed + 1) > 0.7 { 0.18 } else { 0.0 };
    ramp(&LEAVES, 0.46 + toward_light * 0.62 + leaf - clump, x, y, seed + 2)
}

/// A trunk up to a height, wider at the root, with its shadow on the ground.
fn trunk(x: i32, y: i32, top: i32, half: i32, reach: f32) -> Option<Color> {
    let wide = half + (y - 58).max(0) / 2;
    let from_middle = x - 24;
    if y >= top && y < 63 && (-wide..wide).contains(&from_middle) {
        let level = 0.62 - (from_middle + wide) as f32 / (2 * wide) as f32 * 0.6;
        let bark = if noise(x, y / 3, 95) > 0.7 { 0.2 } else { 0.0 };
        return ramp(&WOOD[..4], level + bark, x, y, 96);
    }
    let (dx, dy) = ((x as f32 - 23.5) / reach, (y as f32 - 60.0) / 3.6);
    let far = dx * dx + dy * dy;
    if far < 1.0 { shadow((100.0 * (1.0 - far * far)) as u8) } else { None }
}

/// Paints the sheet: a shade tree and a young one.
pub(crate) fn sheet() -> Picture {
    let mut canvas = Canvas::of_tiles((48, 64), 2, 1);
    canvas.tile((0, 0), |x, y| leaves(&SHADE_TREE, x, y, 91).or_else(|| trunk(x, y, 36, 3, 22.0)));
    canvas.tile((1, 0), |x, y| leaves(&YOUNG_TREE, x, y, 93).or_else(|| trunk(x, y, 44, 2, 12.0)));
    canvas.into_picture()
}
