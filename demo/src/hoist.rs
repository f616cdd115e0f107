//! The sheet of the hoist, seen from the side: 8 columns and 5 rows of tiles of 16 × 16 pixels.

use sturdy_quilt::units::PixelSize;
use sturdy_quilt::{Color, Picture};

use crate::canvas::{Canvas, noise, ramp, rgb, shade, shadow};
use crate::colors::{LEAVES, STONE, TEA, WOOD};

const SKY: [u32; 6] = [0x9cc4de, 0xaed0e4, 0xbfdbe9, 0xd0e5ec, 0xe0eeee, 0xecf4ee];
const EARTH: [u32; 5] = [0x4d3a2c, 0x5e4735, 0x6f553f, 0x80644a, 0x917457];

/// Paints the sheet.
pub(crate) fn sheet() -> Picture {
    let mut canvas = Canvas::new(8, 5);
    paint_sky(&mut canvas);
    paint_earth(&mut canvas);
    paint_works(&mut canvas);
    paint_hoist(&mut canvas);
    paint_goods(&mut canvas);
    canvas.into_picture()
}

/// Mountains far away, one row behind the other, that go on in themselves to the left and the right.
pub(crate) fn ridge() -> Picture {
    const SIZE: (i32, i32) = (320, 192);
    const ROWS: [(u32, f32, f32); 3] =
        [(0xb4cfd6, 34.0, 17.0), (0x9cbfc4, 58.0, 14.0), (0x86afae, 80.0, 10.0)];
    let size = PixelSize::new(SIZE.0 as u32, SIZE.1 as u32);
    let mut picture = Picture::filled(size, Color::CLEAR);
    for (row, (color, middle, height)) in ROWS.into_iter().enumerate() {
        let color = rgb(color);
        for x in 0..SIZE.0 {
            // Whole waves in the width, so that the ends meet.
            let turn = x as f32 / SIZE.0 as f32 * std::f32::consts::TAU;
            let own = row as f32 * 2.1 + 0.7;
            let peak = (turn * 2.0 + own).sin() * 0.5
                + (turn * 5.0 + own * 2.0).sin() * 0.32
                + (turn * 11.0 + own * 3.0).sin() * 0.18;
            let top = middle - peak * height;
            for y in 0..SIZE.1 {
                let depth = y as f32 - top;
                if depth < 0.0 {
                    continue;
                }
                // Snow on the highest row, mist at the feet of all.
                let snow = row == 0 && depth < 7.0 && top + noise(x / 2, y, 251) * 9.0 < 26.0;
                let mist = (depth / 70.0).min(0.5);
                let lighter =
                    |channel: u8| (f32::from(channel) + (236.0 - f32::from(channel)) * mist) as u8;
                let Color { r, g, b, .. } = if snow { rgb(0xf1f6f5) } else { color };
                let shown = Color::rgb(lighter(r), lighter(g), lighter(b));
                picture.set(x as u32, y as u32, shown);
            }
        }
    }
    picture
}

fn paint_sky(canvas: &mut Canvas) {
    // Six bands of sky, the highest first, and below, what lies between each and the next.
    for band in 0..6 {
        canvas.tile((band, 0), |_, _| Some(rgb(SKY[band as usize])));
    }
    for band in 0..5 {
        canvas.tile((band, 4), |x, y| {
            let is_next = noise(x, y, 201 + band as u32) * 14.0 < y as f32 - 0.5;
            Some(rgb(SKY[band as usize + usize::from(is_next)]))
        });
    }
    canvas.tile((5, 4), |x, y| Some(rgb(if noise(x, y, 233) > 0.5 { 0x9fc0b4 } else { 0xa8c8ba })));
    canvas.area((6, 0), (2, 1), |x, y| {
        // A cloud, soft at its lower edge.
        let puffs = [(9.0, 9.0, 6.0_f32), (16.0, 7.0, 6.5), (23.0, 9.5, 5.5)];
        let strength = puffs.iter().map(|&(cx, cy, r)| {
            let (dx, dy) = (x as f32 + 0.5 - cx, (y as f32 + 0.5 - cy) * 1.3);
            1.0 - (dx * dx + dy * dy) / (r * r)
        });
        let strength = strength.fold(0.0, f32::max).min(0.6) / 0.6;
        (strength > 0.0).then(|| Color::rgba(252, 253, 252, (strength * 220.0) as u8))
    });
}

/// Earth, of crumbs so fine that no tile is told from the next; deeper is darker.
fn earth(x: i32, y: i32, dark: f32, seed: u32) -> Option<Color> {
    let crumbs = noise(x / 2, y / 2, seed) * 0.2 + noise(x, y, seed + 1) * 0.12;
    ramp(&EARTH, 0.56 - dark + crumbs, x, y, seed + 2)
}

/// Earth with a few pebbles in it.
fn pebbles(x: i32, y: i32) -> Option<Color> {
    for (cx, cy, width, height) in [(5.0, 4.5, 3.6, 2.4), (11.5, 11.0, 2.6, 1.9)] {
        let (dx, dy) = ((x as f32 + 0.5 - cx) / width, (y as f32 + 0.5 - cy) / height);
        if dx * dx + dy * dy < 1.0 {
            return ramp(&STONE[..4], 0.3 - dy * 0.3 - dx * 0.1, x, y, 218);
        }
    }
    earth(x, y, 0.34, 219)
}

fn paint_earth(canvas: &mut Canvas) {
    canvas.tile((0, 1), |x, y| {
        // Grass on top, hanging over the edge in tufts.
        let fringe = 4 + (noise(x / 2, 1, 211) * 4.0) as i32;
        if y < fringe {
            return ramp(&LEAVES[1..], 0.95 - y as f32 / 7.0, x, y, 212);
        }
        earth(x, y, 0.0, 213)
    });
    canvas.tile((1, 1), |x, y| earth(x, y, 0.12, 216));
    canvas.tile((2, 1), pebbles);
    canvas.tile((7, 4), |x, y| earth(x, y, 0.34, 219));
    canvas.tile((3, 1), |x, y| {
        // A wall of stones that holds a terrace.
        let (course, joint) = (y / 4, y % 4 == 3);
        let shifted = x + course * 3;
        if joint || shifted % 8 == 7 {
            return Some(rgb(0x474b52));
        }
        let own = noise(shifted.rem_euclid(16) / 8, course, 222) * 0.4;
        let lit = if y % 4 == 0 { 0.2 } else { 0.0 };
        ramp(&STONE[..4], 0.35 + own + lit, x, y, 223)
    });
    canvas.tile((4, 1), |x, y| {
        // A step of stone: a lit tread, a dark edge below.
        match y {
            0 => Some(rgb(0xd6d3c8)),
            1..=2 => shade(&[STONE[4], STONE[3]], x / 4, y, 225),
            3 => Some(rgb(0x4b4f56)),
            _ => {
                ramp(&STONE[..4], 0.5 + noise(x / 5, y / 4, 226) * 0.4 - y as f32 / 60.0, x, y, 227)
            }
        }
    });
    for (column, foot) in [(3, 16), (4, 8)] {
        // The lower and the upper half of a path that rises by one tile in two.
        canvas.tile((column, 3), |x, y| {
            let depth = y - (foot - 1 - x / 2);
            match depth {
                ..0 => None,
                0 => Some(rgb(LEAVES[4])),
                1..=2 => ramp(&LEAVES[1..], 0.9 - depth as f32 / 6.0, x, y, 241),
                _ => earth(x, y, 0.05, 242),
            }
        });
    }
    canvas.tile((5, 3), |x, y| {
        // A low wall of dressed stones.
        match y {
            ..8 => None,
            8 => Some(rgb(0xd6d3c8)),
            9 => shade(&[STONE[4], STONE[3]], x / 4, y, 244),
            12 => Some(rgb(0x474b52)),
            _ if (x + y / 12 * 4) % 8 == 7 => Some(rgb(0x474b52)),
            _ => ramp(&STONE[..4], 0.6 + noise(x / 8, y / 4, 245) * 0.3 - 0.15, x, y, 246),
        }
    });
    canvas.tile((5, 1), |x, y| {
        // Tea on the edge of a terrace, seen from the side.
        let (dx, dy) = (x as f32 - 7.5, y as f32 - 15.0);
        let ragged = noise(x / 2, y / 2, 228) * 1.6;
        if dx * dx / 64.0 + dy * dy / 132.0 > 1.0 - ragged * 0.1 {
            return None;
        }
        ramp(&TEA, 0.95 - y as f32 / 17.0 - dx * 0.015, x, y, 229)
    });
    canvas.tile((6, 1), |x, y| {
        // Grass blades in front of what stands on the ground.
        let blade = 9 + (noise(x, 2, 231) * 6.0) as i32;
        (y > blade && noise(x, 3, 232) > 0.35).then(|| rgb(LEAVES[3 + (x % 2) as usize]))
    });
    canvas.tile((7, 1), |x, y| {
        // The foot of a far hill.
        let ridge = 4.0 + (x as f32 / 16.0 * std::f32::consts::TAU).sin() * 2.5;
        (y as f32 > ridge).then(|| rgb(if noise(x, y, 233) > 0.5 { 0x9fc0b4 } else { 0xa8c8ba }))
    });
}

/// Boards seen from the side: the edge of a platform.
fn plank(x: i32, y: i32, end: i32) -> Option<Color> {
    let beyond = end < 0 && x < 2 || end > 0 && x > 13;
    match y {
        0 => Some(rgb(WOOD[4])),
        1..=3 => ramp(&WOOD, 0.7 - y as f32 * 0.06 + noise(x / 8, 3, 241) * 0.2, x / 4, y, 242),
        4 => Some(rgb(WOOD[0])),
        5..=7 if beyond || x % 8 == 4 => Some(rgb(WOOD[1])),
        5 => shadow(70),
        _ => None,
    }
}

fn paint_works(canvas: &mut Canvas) {
    canvas.tile((0, 2), |x, y| plank(x, y, -1));
    canvas.tile((1, 2), |x, y| plank(x, y, 0));
    canvas.tile((2, 2), |x, y| plank(x, y, 1));
    canvas.tile((3, 2), |x, y| {
        // A post with a brace.
        let brace = y < 8 && (x - 8).abs() == 8 - y;
        post(x, y).or(brace.then(|| rgb(WOOD[1])))
    });
    canvas.tile((6, 4), post);
}

fn post(x: i32, y: i32) -> Option<Color> {
    (6..10).contains(&x).then_some(())?;
    ramp(&WOOD[..4], 0.7 - (x - 6) as f32 * 0.18, x, y, 245)
}

fn paint_hoist(canvas: &mut Canvas) {
    canvas.tile((4, 2), |x, y| {
        // The cable, slack between its pulleys.
        match y {
            7 => Some(rgb(if x % 4 < 2 { 0x5a5348 } else { 0x7a7263 })),
            8 => Some(rgb(0x38332c)),
            _ => None,
        }
    });
    canvas.tile((5, 2), |x, y| {
        // A pulley on the cable.
        let (dx, dy) = (x as f32 - 7.5, y as f32 - 7.5);
        let far = (dx * dx + dy * dy).sqrt();
        match far {
            f if f < 1.6 => Some(rgb(0x2f2a25)),
            f if f < 4.6 => ramp(&STONE, 0.8 - (dx + dy) / 14.0, x, y, 247),
            f if f < 6.0 => Some(rgb(0x3a3d42)),
            _ if y == 7 || y == 8 => Some(rgb(if y == 7 { 0x6a6256 } else { 0x38332c })),
            _ => None,
        }
    });
    canvas.area((6, 2), (2, 2), |x, y| {
        // The car of the hoist: hangers, a roof board, an open crate with leaves in it.
        let hanger = y < 12 && (x == 12 || x == 19);
        let inside = (4..28).contains(&x);
        match y {
            _ if hanger => Some(rgb(0x4a443b)),
            12..=13 if (2..30).contains(&x) => Some(rgb(if y == 12 { WOOD[4] } else { WOOD[1] })),
            14..=19 if x == 5 || x == 26 => Some(rgb(WOOD[1])),
            17..=20 if inside && (x - 15) * (x - 15) + (y - 24) * (y - 24) * 6 < 150 => {
                ramp(&TEA, 0.9 - (y - 17) as f32 * 0.12, x, y, 251)
            }
            21 if inside => Some(rgb(WOOD[4])),
            22..=29 if inside => {
                let groove = x % 6 == 3 || y == 26;
                Some(rgb(if groove { WOOD[1] } else { WOOD[2 + (x / 6 % 2) as usize] }))
            }
            30 if inside => Some(rgb(WOOD[0])),
            _ => None,
        }
    });
}

fn paint_goods(canvas: &mut Canvas) {
    canvas.tile((0, 3), |x, y| {
        // A sack of tea.
        let (dx, dy) = (x as f32 - 7.5, y as f32 - 10.0);
        if dx * dx / 40.0 + dy * dy / 34.0 > 1.0 || y > 15 {
            return None;
        }
        if y < 6 {
            return Some(rgb(0x8a6a3c));
        }
        let level = 0.75 - (dx + dy) / 22.0;
        let woven = (x + y) % 3 == 0;
        Some(rgb(if woven || level < 0.5 { 0xb99a64 } else { 0xd3b67e }))
    });
    canvas.tile((1, 3), |x, y| {
        // A lamp on a hook.
        let (dx, dy) = (x as f32 - 7.5, y as f32 - 8.5);
        match () {
            () if y < 4 && x == 7 => Some(rgb(0x3a3d42)),
            () if y == 4 && (5..11).contains(&x) => Some(rgb(0x3a3d42)),
            () if dx * dx + dy * dy < 9.0 => {
                Some(rgb(if dx + dy < 0.0 { 0xfff2b8 } else { 0xf3cf68 }))
            }
            () if dx * dx + dy * dy < 34.0 => Some(Color::rgba(255, 224, 140, 60)),
            () => None,
        }
    });
    canvas.tile((2, 3), |x, y| {
        // A rung of a ladder.
        match (x, y % 5) {
            (3 | 12, _) => Some(rgb(WOOD[3])),
            (4 | 13, _) => Some(rgb(WOOD[0])),
            (5..=11, 1) => Some(rgb(WOOD[4])),
            (5..=11, 2) => Some(rgb(WOOD[1])),
            _ => None,
        }
    });
}
