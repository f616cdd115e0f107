//! The sheet of the terrace: 8 columns and 8 rows of tiles of 16 × 16 pixels.

use sturdy_quilt::{Color, Picture};

use crate::canvas::{Canvas, SIDE, noise, ramp, rgb, shade, shadow};
use crate::colors::{CLAY, EARTH, GRASS, LEAVES, MUD, STONE, TEA, WATER, WOOD};
use crate::trees::leaves;

/// Paints the sheet.
pub(crate) fn sheet() -> Picture {
    let mut canvas = Canvas::new(8, 8);
    paint_ground(&mut canvas);
    paint_growth(&mut canvas);
    paint_water(&mut canvas);
    paint_tree(&mut canvas);
    paint_shed(&mut canvas);
    paint_small_things(&mut canvas);
    canvas.into_picture()
}

fn grass(x: i32, y: i32, seed: u32) -> Option<Color> {
    // A blade now and then: dark at its foot, light at its tip.
    if noise(x, y, seed + 1) > 0.965 {
        return Some(rgb(0x5a833d));
    }
    if noise(x, y + 1, seed + 1) > 0.965 {
        return Some(rgb(0x93bf66));
    }
    shade(&GRASS, x, y, seed)
}

fn paint_ground(canvas: &mut Canvas) {
    canvas.tile((0, 0), |x, y| grass(x, y, 1));
    canvas.tile((1, 0), |x, y| {
        let tufts = [(3, 5), (10, 3), (7, 11), (13, 12)];
        for (cx, cy) in tufts {
            match (x - cx, y - cy) {
                (-1 | 1, 0) | (0, 1) => return Some(rgb(0x4d7637)),
                (-2 | 2, -1) | (0, -1) => return Some(rgb(0xa2cc72)),
                (0, 0) => return Some(rgb(0x5f8c40)),
                _ => {}
            }
        }
        grass(x, y, 2)
    });
    canvas.tile((2, 0), |x, y| {
        let flowers = [(3, 3, 0xf3e9d2), (11, 5, 0xf0c94f), (6, 11, 0xf3e9d2), (13, 13, 0xe78f9b)];
        for (cx, cy, petal) in flowers {
            match ((x - cx).abs(), (y - cy).abs()) {
                (0, 0) => return Some(rgb(0xd99a2b)),
                (1, 0) | (0, 1) => return Some(rgb(petal)),
                _ => {}
            }
        }
        grass(x, y, 3)
    });
    canvas.tile((3, 0), |x, y| shade(&EARTH, x, y, 4));
    canvas.tile((4, 0), |x, y| {
        let pebbles = [(4, 4), (11, 7), (6, 12), (13, 2)];
        for (cx, cy) in pebbles {
            match (x - cx, y - cy) {
                (0 | 1, 0) => return Some(rgb(0xe4cfa6)),
                (0 | 1, 1) => return Some(rgb(0xa58a60)),
                _ => {}
            }
        }
        shade(&EARTH, x, y, 5)
    });
    canvas.tile((5, 0), |x, y| shade(&MUD, x, y, 9));
    canvas.tile((3, 7), |x, y| {
        // A puddle with the sky in it.
        let (dx, dy) = (x as f32 - 8.0, (y as f32 - 9.0) * 1.7);
        let reach = dx * dx + dy * dy;
        match reach {
            r if r < 14.0 => Some(rgb(if y < 8 { 0x9fb2b8 } else { 0x7f959e })),
            r if r < 26.0 => Some(rgb(0x54402f)),
            _ => shade(&MUD, x, y, 6),
        }
    });
    canvas.tile((6, 0), |x, y| {
        let furrow = [0x6d4c33, 0x7c583c, 0x8a6546, 0x7c583c][(y % 4) as usize];
        if noise(x, y, 7) > 0.85 { Some(rgb(0x634530)) } else { Some(rgb(furrow)) }
    });
    canvas.tile((7, 0), |x, y| {
        // Steps of stone from the upper terrace to the lower one, walls at their sides.
        if x == 0 || x == 15 {
            return Some(rgb(STONE[0]));
        }
        match y % 4 {
            0 => Some(rgb(0xc9c6bb)),
            3 => Some(rgb(STONE[0])),
            _ => shade(&[STONE[3], STONE[4], 0xa6a6a2], x / 3, y, 8),
        }
    });
}

/// A row of clipped tea; `left` and `right` are where it ends in the tile.
fn tea_row(x: i32, y: i32, left: i32, right: i32, tips: bool) -> Option<Color> {
    let (from, to) = (2, 13);
    let corner = |dx: i32, dy: i32| dx * dx + dy * dy > 16;
    let inner_x = x.clamp(left + 4, right - 4);
    let inner_y = y.clamp(from + 4, to - 4);
    let outside = x < left || x > right || y < from || y > to;
    if outside || corner(x - inner_x, y - inner_y) {
        let below = (y == to + 1 || y == to + 2) && x > left && x <= right;
        return if below { shadow(70) } else { None };
    }
    let light = 1.0 - (y - from) as f32 / (to - from) as f32;
    let seam = if (x + 2) % 6 == 0 { 0.22 } else { 0.0 };
    if tips && y < 10 && noise(x, y, 12) > 0.82 {
        return Some(rgb(0xd9ea93));
    }
    ramp(&TEA, light * 0.95 - seam + 0.05, x, y, 11)
}

fn paint_growth(canvas: &mut Canvas) {
    canvas.tile((0, 1), |x, y| tea_row(x, y, 2, 20, false));
    canvas.tile((1, 1), |x, y| tea_row(x, y, -4, 20, false));
    canvas.tile((2, 1), |x, y| tea_row(x, y, -4, 13, false));
    canvas.tile((3, 1), |x, y| tea_row(x, y, -4, 20, true));
    canvas.tile((4, 1), |x, y| {
        // A hedge cut square: lit top, dark front.
        let level = match y {
            0..=1 => 0.95,
            2..=8 => 0.62 - (y as f32 - 2.0) * 0.02,
            9 => 0.85,
            _ => 0.34 - (y as f32 - 10.0) * 0.05,
        };
        ramp(&LEAVES[..5], level, x, y, 14)
    });
    canvas.tile((5, 1), |x, y| {
        let level = if y < 9 { 0.6 } else { 0.25 };
        let dot = noise(x / 2, y / 2, 16) > 0.86 && y < 9;
        if dot { Some(rgb(0xe9b7c4)) } else { ramp(&LEAVES[..5], level, x, y, 15) }
    });
    canvas.tile((6, 1), |x, y| stones(x, y, 21));
    canvas.tile((7, 1), |x, y| {
        let moss = noise(x / 2, y / 2, 23) > 0.72 && y > 3;
        if moss { shade(&[0x56733f, 0x668549], x, y, 24) } else { stones(x, y, 22) }
    });
}

/// A dry wall of stones: a lit cap, courses of stones below, a dark foot.
fn stones(x: i32, y: i32, seed: u32) -> Option<Color> {
    if y < 5 {
        let joint = x % 8 == 7 || y == 4;
        let level = if y == 0 { 1.0 } else { 0.82 };
        return if joint { Some(rgb(STONE[1])) } else { ramp(&STONE, level, x, y, seed) };
    }
    if y == 15 {
        return Some(rgb(0x3d4046));
    }
    let course = (y - 5) / 4;
    let shifted = x + course * 3 + 1;
    let joint = (y - 5) % 4 == 3 || shifted % 6 == 5;
    if joint {
        return Some(rgb(0x474b52));
    }
    let own = noise(shifted.rem_euclid(16) / 6, course, seed) * 0.4;
    let lit = if (y - 5) % 4 == 0 { 0.2 } else { 0.0 };
    ramp(&STONE[..4], 0.3 + own + lit, x, y, seed + 1)
}

/// Water with banks on some sides, or in some corners only.
fn water(x: i32, y: i32, sides: [bool; 4], corners: [bool; 4]) -> Option<Color> {
    flowing_water(x, y, sides, corners, 0)
}

/// The same after the ripples have gone so many pixels.
fn flowing_water(x: i32, y: i32, sides: [bool; 4], corners: [bool; 4], flow: i32) -> Option<Color> {
    let [north, east, south, west] = sides;
    let wobble = |along: i32| (noise(along / 2, 3, 31) * 2.0) as i32;
    let mut depth = 16;
    if north {
        depth = depth.min(y - wobble(x));
    }
    if south {
        depth = depth.min(SIDE - 1 - y - wobble(x));
    }
    if west {
        depth = depth.min(x - wobble(y));
    }
    if east {
        depth = depth.min(SIDE - 1 - x - wobble(y));
    }
    // Outer corners are rounded; inner ones are a quarter disc of bank.
    let round = |dx: i32, dy: i32| {
        ((((6 - dx).max(0).pow(2) + (6 - dy).max(0).pow(2)) as f32).sqrt()) as i32
    };
    let pairs = [
        (north && east, SIDE - 1 - x, y),
        (south && east, SIDE - 1 - x, SIDE - 1 - y),
        (south && west, x, SIDE - 1 - y),
        (north && west, x, y),
    ];
    for (rounded, dx, dy) in pairs {
        if rounded {
            depth = depth.min(6 - round(dx, dy));
        }
    }
    let places = [(SIDE - 1 - x, y), (SIDE - 1 - x, SIDE - 1 - y), (x, SIDE - 1 - y), (x, y)];
    for (has_bank, (dx, dy)) in corners.into_iter().zip(places) {
        if has_bank {
            depth = depth.min(((dx * dx + dy * dy) as f32).sqrt() as i32);
        }
    }
    match depth {
        ..=0 => grass(x, y, 1),
        1 => Some(rgb(0x8a7350)),
        2 => Some(rgb(0x5d4b38)),
        3 => Some(rgb(0x35648a)),
        _ => {
            let ripple = (x + flow + y / 4 * 5) % 11;
            let on_crest = y % 4 == 1 && ripple < 4;
            if on_crest {
                Some(rgb(if ripple == 1 { 0xa7cfe2 } else { 0x6fa6c8 }))
            } else {
                shade(&WATER, x / 2, y, 33)
            }
        }
    }
}

fn paint_water(canvas: &mut Canvas) {
    const NO: [bool; 4] = [false; 4];
    // Sides with a bank: north, east, south, west.
    let banked = [
        ((0, 2), [true, false, false, true]),
        ((1, 2), [true, false, false, false]),
        ((2, 2), [true, true, false, false]),
        ((3, 2), NO),
        ((0, 3), [false, false, false, true]),
        ((1, 3), [false, true, false, false]),
        ((2, 3), [false, false, true, true]),
        ((3, 3), [false, false, true, false]),
        ((4, 3), [false, true, true, false]),
    ];
    for (at, sides) in banked {
        canvas.tile(at, |x, y| water(x, y, sides, NO));
    }
    // Corners with a bank: north-east, south-east, south-west, north-west.
    for corner in 0..4 {
        let corners = std::array::from_fn(|at| at == corner);
        canvas.tile((4 + corner as i32, 2), |x, y| water(x, y, NO, corners));
    }
    // How open water goes on.
    for (column, flow) in [(4, 4), (5, 8)] {
        canvas.tile((column, 7), |x, y| flowing_water(x, y, NO, NO, flow));
    }
    for (column, left, right) in [(5, false, false), (6, true, false), (7, false, true)] {
        canvas.tile((column, 3), |x, y| boards(x, y, left, right));
    }
}

/// Planks across a way from left to right, a beam along each side, posts at its ends.
fn boards(x: i32, y: i32, left: bool, right: bool) -> Option<Color> {
    let at_post = left && x < 3 || right && x > 12;
    match y {
        0 => None,
        1..=2 if at_post => Some(rgb(if y == 1 { WOOD[4] } else { WOOD[2] })),
        12..=13 if at_post => Some(rgb(if y == 12 { WOOD[4] } else { WOOD[2] })),
        1 | 12 => Some(rgb(WOOD[3])),
        2 | 13 => Some(rgb(WOOD[1])),
        14 => Some(rgb(WOOD[0])),
        15 => shadow(90),
        _ if x % 4 == 3 => Some(rgb(WOOD[0])),
        _ if (y == 4 || y == 10) && x % 4 == 1 => Some(rgb(0x4a4038)),
        _ => {
            let own = noise(x / 4, 7, 41) * 0.3;
            let lit = if x % 4 == 0 { 0.2 } else { 0.0 };
            ramp(&WOOD, 0.5 + own + lit, x / 4, y, 42)
        }
    }
}

fn paint_tree(canvas: &mut Canvas) {
    // Clumps of leaves: centre and radius.
    let clumps = [
        (24.0, 24.0, 17.0),
        (13.0, 26.0, 11.0),
        (35.0, 27.0, 11.0),
        (20.0, 13.0, 11.0),
        (32.0, 15.0, 10.0),
        (24.0, 39.0, 9.5),
        (16.0, 35.0, 9.0),
        (32.0, 35.0, 9.0),
    ];
    canvas.area((0, 4), (3, 3), |x, y| leaves(&clumps, x, y, 51));
    canvas.tile((6, 4), |x, y| {
        // The trunk, wider at the root.
        let half = match y {
            0..=10 => 3,
            11..=12 => 4,
            13 => 5,
            14 => 6,
            _ => return None,
        };
        let from_middle = x - 8;
        if from_middle < -half || from_middle >= half {
            return None;
        }
        let level = 0.6 - (from_middle + half) as f32 / (2 * half) as f32 * 0.6;
        let bark = if noise(x, y / 3, 55) > 0.7 { 0.2 } else { 0.0 };
        ramp(&WOOD[..4], level + bark, x, y, 56)
    });
    canvas.area((0, 7), (3, 1), |x, y| {
        let (dx, dy) = ((x as f32 - 23.5) / 23.0, (y as f32 - 7.5) / 7.5);
        let reach = dx * dx + dy * dy;
        if reach < 1.0 { shadow((95.0 * (1.0 - reach * reach)) as u8) } else { None }
    });
}

fn paint_shed(canvas: &mut Canvas) {
    canvas.area((3, 4), (3, 2), |x, y| {
        // A roof of clay tiles with a ridge on top and eaves that hang over.
        if y < 3 {
            return Some(rgb(if y == 0 { CLAY[4] } else { CLAY[3] }));
        }
        if y > 29 {
            return Some(rgb(0x3e211b));
        }
        let (edge, course) = (!(2..=45).contains(&x), (y - 3) / 5);
        let shifted = x + course % 2 * 3;
        let groove = (y - 3) % 5 == 4 || shifted % 6 == 5;
        let lit = 0.85 - y as f32 / 30.0 * 0.5;
        let level = match (edge, groove) {
            (true, _) => 0.2,
            (_, true) => lit - 0.35,
            _ => lit + noise(shifted / 6, course, 61) * 0.2 - 0.1,
        };
        ramp(&CLAY, level, x, y, 62)
    });
    canvas.area((3, 6), (3, 1), |x, y| {
        // The front: boards, a window, a door.
        let door = (20..28).contains(&x) && y > 2;
        let frame = (19..29).contains(&x) && y > 1;
        let window = |from: i32| (from..from + 8).contains(&x) && (4..10).contains(&y);
        let pane = |from: i32| (from + 1..from + 7).contains(&x) && (5..9).contains(&y);
        match () {
            () if y < 2 => Some(rgb(0x4b3626)),
            () if y == 15 => Some(rgb(0x4a4a4c)),
            () if door && x == 26 && y == 9 => Some(rgb(0xe0c060)),
            () if door => Some(rgb(if x % 3 == 0 { 0x3d2a1d } else { 0x573b27 })),
            () if frame => Some(rgb(WOOD[0])),
            () if pane(6) || pane(34) => Some(rgb(if x % 4 == 1 { 0x33414e } else { 0x50667a })),
            () if window(6) || window(34) => Some(rgb(WOOD[0])),
            () if x % 5 == 4 => Some(rgb(0xa08763)),
            () => shade(&[0xcdb48c, 0xc4aa82, 0xd5be98], x / 5, y, 63),
        }
    });
}

fn paint_small_things(canvas: &mut Canvas) {
    // Steam, and how it goes on.
    let steam = |x: i32, y: i32, puffs: [(f32, f32, f32); 3]| {
        // Soft to the edges, so that every pixel is half clear.
        let strength = puffs.iter().map(|&(cx, cy, r)| {
            let (dx, dy) = (x as f32 + 0.5 - cx, y as f32 + 0.5 - cy);
            (1.0 - (dx * dx + dy * dy) / (r * r)).max(0.0)
        });
        let strength = strength.fold(0.0, f32::max);
        (strength > 0.0).then(|| Color::rgba(238, 240, 238, (strength * 190.0) as u8))
    };
    canvas.tile((7, 4), |x, y| steam(x, y, [(6.0, 10.0, 5.5), (10.0, 6.0, 5.0), (7.0, 4.0, 3.5)]));
    canvas.tile((6, 7), |x, y| steam(x, y, [(7.0, 9.0, 5.0), (9.0, 5.0, 4.5), (6.0, 12.0, 3.5)]));
    canvas.tile((6, 5), |x, y| {
        // A post of the gate: a pillar of stone with a cap.
        let (from, to) = if y < 4 { (3, 13) } else { (4, 12) };
        if y == 15 && (3..14).contains(&x) {
            return shadow(110);
        }
        if x < from || x >= to {
            return None;
        }
        let level = 0.9 - (x - from) as f32 / (to - from) as f32 * 0.7;
        let joint = y == 4 || y % 4 == 3;
        ramp(&STONE, if joint { level - 0.35 } else { level }, x, y, 71)
    });
    canvas.tile((7, 5), |x, y| match y {
        // The beam of the gate, with a board hanging from it.
        4 => Some(rgb(WOOD[4])),
        5..=6 => ramp(&WOOD, 0.55, x, y, 72),
        7 => Some(rgb(WOOD[0])),
        8..=9 if x == 4 || x == 11 => Some(rgb(0x40382f)),
        10..=14 if (3..13).contains(&x) => {
            let ink = y == 12 && (5..11).contains(&x);
            Some(rgb(if ink {
                0x5d4a33
            } else if y == 10 {
                0xe6cf9d
            } else {
                0xd0b480
            }))
        }
        _ => None,
    });
    canvas.tile((6, 6), |x, y| {
        // A basket of tea leaves.
        let (dx, top) = (x - 8, 6);
        if (3..=7).contains(&y) && dx * dx * 2 + (y - 6) * (y - 6) * 5 < 62 {
            return ramp(&TEA, 0.85 - (y - 3) as f32 * 0.1, x, y, 73);
        }
        let half = 6 - (y - top) / 4;
        if y == 14 && dx.abs() < 6 {
            return shadow(100);
        }
        if (top..14).contains(&y) && dx >= -half && dx < half {
            let woven = (x / 2 + y / 2) % 2 == 0;
            return Some(rgb(if y == top {
                0xd8b274
            } else if woven {
                0xb98c50
            } else {
                0x93693a
            }));
        }
        None
    });
    // The shadow at the foot of a wall.
    canvas.tile((7, 6), |_, y| if y < 6 { shadow((84 - y * 14) as u8) } else { None });
}
