//! The sheet of the market, which is seen at a slant: diamonds of 64 × 32 pixels.
//!
//! In rows from the top: grounds, then blocks one storey high with their faces on top, things that
//! stand in a cell, and what stands on several cells, each from four sides.

use sturdy_quilt::units::PixelSize;
use sturdy_quilt::{Color, Picture};

use crate::canvas::{noise, ramp, rgb, shadow};
use crate::colors::{CLAY, EARTH, GRASS, LEAVES, STONE, TEA, WATER, WOOD};
use crate::solids::{Grain, Scene, Shape};

/// The pixels of a storey.
const STOREY: f64 = 20.0;
const PAVING: [u32; 5] = [0x8f8678, 0xa59b8a, 0xb9af9c, 0xcac0ac, 0xd9d0bc];
const STRAW: [u32; 5] = [0x7a5a2c, 0x9a7437, 0xba9146, 0xd2ad5e, 0xe6c980];
const CREAM: [u32; 5] = [0xa8977a, 0xc9b896, 0xe2d4b4, 0xf0e5cb, 0xf8f1de];
const INDIGO: [u32; 5] = [0x232c52, 0x303d6e, 0x40528c, 0x5870aa, 0x7d93c4];
const PLASTER: [u32; 5] = [0x9f9580, 0xbcb29c, 0xd6cdb8, 0xe8e0ce, 0xf4eee0];
const SLATE: [u32; 5] = [0x2f3a48, 0x3f4c5c, 0x516072, 0x67778a, 0x8292a4];
const SKIN: [u32; 4] = [0x8a5a3c, 0xac7650, 0xc99468, 0xdfb088];
const HAIR: [u32; 3] = [0x201a18, 0x2e2622, 0x40352e];

/// The sheet, and what lies on it.
struct Sheet {
    picture: Picture,
}

impl Sheet {
    /// Lays a picture on it, with its upper left corner at a place.
    fn lay(&mut self, at: (u32, u32), picture: &Picture) {
        let size = picture.size();
        for (x, y) in (0..size.height).flat_map(|y| (0..size.width).map(move |x| (x, y))) {
            if let Some(color) = picture.get(x, y).filter(|color| color.a > 0) {
                self.picture.set(at.0 + x, at.1 + y, color);
            }
        }
    }
}

/// Paints the sheet.
pub(crate) fn sheet() -> Picture {
    let picture = Picture::filled(PixelSize::new(640, 576), Color::CLEAR);
    let mut sheet = Sheet { picture };
    for (column, ground) in (0..).zip(grounds()) {
        sheet.lay((column % 10 * 64, column / 10 * 32), &ground);
    }
    for (column, block) in (0..).zip(blocks()) {
        sheet.lay((column * 64, 64), &block.picture(0, 0, STOREY as i32));
    }
    for quarters in 0..4 {
        sheet.lay((384 + quarters as u32 * 64, 64), &steps().picture(quarters, 0, STOREY as i32));
    }
    for (column, thing) in (0..).zip(things()) {
        sheet.lay((column * 64, 116), &thing.picture(0, 48, 0));
    }
    for (quarters, column) in (0..4).zip(0..) {
        sheet.lay((column * 96, 200), &stall(&CLAY).picture(quarters, 56, 0));
        sheet.lay((column * 96, 304), &stall(&INDIGO).picture(quarters, 56, 0));
        sheet.lay((column * 160, 408), &house().picture(quarters, 84, 0));
    }
    for (column, cloth) in (0..).zip([&CLAY, &INDIGO]) {
        sheet.lay((384 + column * 128, 200), &awning(cloth, |u, _| u));
        sheet.lay((448 + column * 128, 200), &awning(cloth, |_, v| v));
    }
    for (column, person) in (0..).zip(0..5) {
        sheet.lay((384 + column * 32, 240), &folk(person));
    }
    sheet.picture
}

/// Diamonds: paving and its variants, sand, grass, flowers, water in three frames, boards, tea.
fn grounds() -> Vec<Picture> {
    type Paint = fn(i32, i32, f64, f64) -> Option<Color>;
    let paints: [Paint; 10] = [
        |x, y, u, v| paving(x, y, u, v, 0),
        |x, y, u, v| paving(x, y, u, v, 1),
        |x, y, u, v| paving(x, y, u, v, 2),
        |x, y, _, _| ramp(&EARTH, 0.5 + noise(x / 2, y, 401) * 0.5 - 0.25, x, y, 402),
        |x, y, _, _| ramp(&GRASS, 0.5 + noise(x / 2, y, 403) * 0.5 - 0.25, x, y, 404),
        flowers,
        |x, y, u, v| water(x, y, u, v, 0),
        |x, y, u, v| water(x, y, u, v, 1),
        |x, y, u, v| water(x, y, u, v, 2),
        |x, y, u, v| {
            let gap = (u * 5.0).fract() < 0.12;
            let own = noise((u * 5.0) as i32, (v * 2.0) as i32, 405) * 0.3;
            ramp(&WOOD, 0.62 + own - if gap { 0.5 } else { 0.0 }, x, y, 406)
        },
    ];
    paints.into_iter().map(diamond).collect()
}

/// A diamond whose pixels are painted by their place, in pixels and in parts of the cell.
fn diamond(paint: impl Fn(i32, i32, f64, f64) -> Option<Color>) -> Picture {
    let mut picture = Picture::filled(PixelSize::new(64, 32), Color::CLEAR);
    for (x, y) in (0..32).flat_map(|y| (0..64).map(move |x| (x, y))) {
        let t = (f64::from(x) + 0.5) / 32.0 - 1.0;
        let s = (f64::from(y) + 0.5) / 16.0;
        let (u, v) = ((s + t) / 2.0, (s - t) / 2.0);
        let is_in = (0.0..1.0).contains(&u) && (0.0..1.0).contains(&v);
        if let Some(color) = is_in.then(|| paint(x, y, u, v)).flatten() {
            picture.set(x as u32, y as u32, color);
        }
    }
    picture
}

/// Flagstones, three to a side, in another pattern for each variant.
fn paving(x: i32, y: i32, u: f64, v: f64, variant: u32) -> Option<Color> {
    let row = (v * 3.0) as i32;
    let along = u * 3.0 + [0.0, 0.5, 0.25][variant as usize] * f64::from(row % 2);
    let joint = (v * 3.0).fract() < 0.09 || along.fract() < 0.07;
    if joint {
        return Some(rgb(if noise(x, y, 411) > 0.75 { 0x7d8a5c } else { 0x857b6b }));
    }
    let own = noise(along as i32, row, 412 + variant) * 0.4 - 0.2;
    ramp(&PAVING, 0.62 + own, x, y, 413)
}

fn flowers(x: i32, y: i32, _: f64, _: f64) -> Option<Color> {
    if noise(x, y, 421) > 0.965 {
        let petals = [0xf2e6d0, 0xe9b7a8, 0xf0d470];
        return Some(rgb(petals[(noise(x, y, 422) * 3.0) as usize]));
    }
    ramp(&GRASS, 0.5 + noise(x / 2, y, 403) * 0.5 - 0.25, x, y, 404)
}

fn water(x: i32, y: i32, u: f64, v: f64, frame: i32) -> Option<Color> {
    let wave = ((u + v) * 9.0 + f64::from(frame) * 2.1 + (u - v) * 2.0).sin();
    if wave > 0.9 && noise(x / 3, y + frame, 431) > 0.35 {
        return Some(rgb(0x9cc8e0));
    }
    ramp(&WATER, 0.5 + wave as f32 * 0.35, x, y, 432)
}

/// Blocks one storey high: terrace, terrace with grass, hedge, hamper, crate, tea chest.
fn blocks() -> Vec<Scene> {
    let whole = |shades, grain| {
        let mut scene = Scene::new(1, 1);
        scene.add(shades, grain, Shape::Block([0.0, 0.0, -STOREY], [1.0, 1.0, 0.0]));
        scene
    };
    let mut terrace = whole(&STONE, Grain::Stones);
    terrace.add(&PAVING, Grain::Stones, Shape::Block([0.0, 0.0, -3.0], [1.0, 1.0, 0.0]));
    let mut lawn = whole(&STONE, Grain::Stones);
    lawn.add(&LEAVES[1..], Grain::Leaves, Shape::Block([0.0, 0.0, -4.0], [1.0, 1.0, 0.0]));
    let hedge = whole(&LEAVES, Grain::Leaves);
    let mut hamper = Scene::new(1, 1);
    let (near, far) = (0.12, 0.88);
    hamper.add(&STRAW, Grain::Woven, Shape::Block([near, near, -STOREY], [far, far, -3.0]));
    let rim = (near - 0.02, far + 0.02);
    hamper.add(&STRAW, Grain::Plain, Shape::Block([rim.0, rim.0, -4.0], [rim.1, rim.1, -2.0]));
    hamper.add(&TEA, Grain::Leaves, Shape::Block([0.2, 0.2, -4.0], [0.8, 0.8, -0.5]));
    let mut crate_ = Scene::new(1, 1);
    crate_.add(&WOOD, Grain::Boards, Shape::Block([near, near, -STOREY], [far, far, -0.5]));
    for (from, to) in [(near - 0.02, near + 0.08), (far - 0.08, far + 0.02)] {
        crate_.add(
            &WOOD[1..],
            Grain::Plain,
            Shape::Block([from, near - 0.02, -STOREY], [to, far + 0.02, 0.0]),
        );
    }
    let mut chest = Scene::new(1, 1);
    chest.add(&CLAY, Grain::Plain, Shape::Block([near, near, -STOREY], [far, far, -1.0]));
    chest.add(
        &STRAW[2..],
        Grain::Plain,
        Shape::Block([near - 0.01, 0.42, -STOREY], [far + 0.01, 0.58, -0.5]),
    );
    vec![terrace, lawn, hedge, hamper, crate_, chest]
}

/// Steps that lead up from the lower left to the upper right.
fn steps() -> Scene {
    let mut scene = Scene::new(1, 1);
    for step in 0..4 {
        let (from, height) = (f64::from(step) * 0.25, STOREY - f64::from(step) * STOREY / 4.0);
        let block = Shape::Block([0.0, from, -STOREY], [1.0, from + 0.25, height - STOREY]);
        scene.add(&STONE[1..], Grain::Plain, block);
        let tread =
            Shape::Block([0.0, from, height - STOREY - 1.0], [1.0, from + 0.25, height - STOREY]);
        scene.add(&PAVING, Grain::Plain, tread);
    }
    scene
}

/// What stands in a cell: a lantern on its post, jars, sacks, a barrel, a planted tree, a post.
fn things() -> Vec<Scene> {
    let mut lantern = Scene::new(1, 1);
    lantern.add(&STONE, Grain::Plain, Shape::Block([0.4, 0.4, 0.0], [0.6, 0.6, 4.0]));
    lantern.add(&WOOD, Grain::Plain, Shape::Drum([0.5, 0.5, 4.0], (0.05, 0.05), 34.0));
    lantern.add(
        &[0xe0a84c, 0xf0c46a, 0xf8dc90, 0xfff2c0],
        Grain::Plain,
        Shape::Ball([0.5, 0.5, 44.0], 0.15, 8.0),
    );
    lantern.add(&CLAY, Grain::Plain, Shape::Drum([0.5, 0.5, 51.0], (0.12, 0.04), 4.0));
    let mut jars = Scene::new(1, 1);
    for (u, v, size) in [(0.35, 0.35, 1.0), (0.68, 0.45, 0.8), (0.45, 0.72, 0.7)] {
        jars.add(&CLAY, Grain::Plain, Shape::Ball([u, v, 9.0 * size], 0.17 * size, 9.5 * size));
        jars.add(&CLAY, Grain::Plain, Shape::Drum([u, v, 15.0 * size], (0.08, 0.1), 5.0 * size));
    }
    let mut sacks = Scene::new(1, 1);
    for (u, v, z) in [(0.32, 0.5, 0.0), (0.66, 0.4, 0.0), (0.56, 0.7, 0.0), (0.48, 0.5, 10.0)] {
        sacks.add(&CREAM, Grain::Woven, Shape::Ball([u, v, z + 6.0], 0.2, 8.0));
        sacks.add(&STRAW, Grain::Plain, Shape::Drum([u, v, z + 12.0], (0.05, 0.07), 4.0));
    }
    let mut barrel = Scene::new(1, 1);
    barrel.add(&WOOD, Grain::Boards, Shape::Drum([0.5, 0.5, 0.0], (0.26, 0.3), 11.0));
    barrel.add(&WOOD, Grain::Boards, Shape::Drum([0.5, 0.5, 11.0], (0.3, 0.26), 11.0));
    barrel.add(&STONE, Grain::Plain, Shape::Drum([0.5, 0.5, 4.0], (0.285, 0.29), 2.0));
    barrel.add(&STONE, Grain::Plain, Shape::Drum([0.5, 0.5, 16.0], (0.295, 0.29), 2.0));
    let mut tree = Scene::new(1, 1);
    tree.add(&CLAY, Grain::Plain, Shape::Drum([0.5, 0.5, 0.0], (0.22, 0.3), 12.0));
    tree.add(&WOOD, Grain::Plain, Shape::Drum([0.5, 0.5, 12.0], (0.06, 0.04), 16.0));
    for (u, v, z, size) in
        [(0.5, 0.5, 40.0, 0.34), (0.36, 0.56, 34.0, 0.24), (0.64, 0.46, 33.0, 0.24)]
    {
        tree.add(&LEAVES, Grain::Leaves, Shape::Ball([u, v, z], size, 13.0 * size / 0.3));
    }
    let mut post = Scene::new(1, 1);
    post.add(&WOOD, Grain::Plain, Shape::Drum([0.5, 0.5, 0.0], (0.06, 0.05), 60.0));
    vec![lantern, jars, sacks, barrel, tree, post]
}

/// A stall on two cells, which sells to the lower left, below a roof of striped cloth.
fn stall(cloth: &'static [u32]) -> Scene {
    let mut scene = Scene::new(2, 1);
    scene.add(&WOOD, Grain::Boards, Shape::Block([0.12, 0.42, 0.0], [1.88, 0.82, 15.0]));
    scene.add(&WOOD[1..], Grain::Plain, Shape::Block([0.06, 0.38, 15.0], [1.94, 0.88, 17.5]));
    for (u, shades) in [(0.35, &TEA[1..]), (0.8, &CLAY[..]), (1.25, &STRAW[..]), (1.65, &TEA[1..])]
    {
        scene.add(&STRAW, Grain::Woven, Shape::Drum([u, 0.63, 17.5], (0.13, 0.17), 4.0));
        scene.add(shades, Grain::Leaves, Shape::Ball([u, 0.63, 21.0], 0.15, 4.5));
    }
    for (u, v, high) in [(0.1, 0.12, 58.0), (1.9, 0.12, 58.0), (0.1, 0.9, 46.0), (1.9, 0.9, 46.0)] {
        scene.add(&WOOD, Grain::Plain, Shape::Drum([u, v, 0.0], (0.045, 0.045), high));
    }
    // Stripes run down the slope, and the cloth hangs over its front.
    scene.add(
        cloth,
        Grain::Stripes(&CREAM),
        Shape::Sheet([0.02, 0.02, 62.0], [0.0, 0.96, -16.0], [1.96, 0.0, 0.0]),
    );
    scene.add(
        cloth,
        Grain::Stripes(&CREAM),
        Shape::Sheet([0.02, 0.98, 46.0], [0.0, 0.0, -6.0], [1.96, 0.0, 0.0]),
    );
    scene
}

/// The tea house on two columns and three rows, its door to the lower right.
fn house() -> Scene {
    let mut scene = Scene::new(2, 3);
    scene.add(&STONE, Grain::Stones, Shape::Block([0.04, 0.04, 0.0], [1.96, 2.96, 8.0]));
    scene.add(&PLASTER, Grain::Plain, Shape::Block([0.14, 0.14, 8.0], [1.86, 2.86, 50.0]));
    for (u, v) in [(0.1, 0.1), (1.78, 0.1), (0.1, 2.78), (1.78, 2.78), (1.78, 1.02), (1.78, 1.86)] {
        scene.add(&WOOD, Grain::Plain, Shape::Block([u, v, 8.0], [u + 0.12, v + 0.12, 50.0]));
    }
    // The door, windows, and a sill of boards.
    scene.add(&WOOD, Grain::Boards, Shape::Block([1.8, 1.24, 8.0], [1.9, 1.74, 40.0]));
    for v in [0.36, 2.2] {
        scene.add(&WOOD[..3], Grain::Plain, Shape::Block([1.8, v, 20.0], [1.89, v + 0.46, 40.0]));
        let glass = Shape::Block([1.8, v + 0.06, 23.0], [1.9, v + 0.4, 37.0]);
        scene.add(&[0xc89a50, 0xe8bc70, 0xf6dc9c, 0xfdf0c8], Grain::Plain, glass);
    }
    for u in [0.4, 1.1] {
        scene.add(&WOOD[..3], Grain::Plain, Shape::Block([u, 2.8, 20.0], [u + 0.46, 2.89, 40.0]));
        let glass = Shape::Block([u + 0.06, 2.8, 23.0], [u + 0.4, 2.9, 37.0]);
        scene.add(&[0xc89a50, 0xe8bc70, 0xf6dc9c, 0xfdf0c8], Grain::Plain, glass);
    }
    // The roof: two slopes with their ridge along the rows, and gables below its ends.
    let (ridge, eaves) = (88.0, 46.0);
    for step in 0..20 {
        let part = f64::from(step) / 20.0;
        let low = 49.0 + part * 31.0;
        let inset = 0.14 + part * 0.8;
        if 2.0 - 2.0 * inset > 0.05 {
            let gable = Shape::Block([inset, 0.16, low], [2.0 - inset, 2.84, low + 1.8]);
            scene.add(&PLASTER, Grain::Plain, gable);
        }
    }
    scene.add(
        &SLATE,
        Grain::Shingles,
        Shape::Sheet([1.0, 0.0, ridge], [0.0, 3.0, 0.0], [1.0, 0.0, eaves - ridge]),
    );
    scene.add(
        &SLATE,
        Grain::Shingles,
        Shape::Sheet([1.0, 0.0, ridge], [0.0, 3.0, 0.0], [-1.0, 0.0, eaves - ridge]),
    );
    scene.add(
        &SLATE[1..],
        Grain::Plain,
        Shape::Block([0.95, 0.0, ridge - 2.0], [1.05, 3.0, ridge + 1.0]),
    );
    scene
}

/// A cloth that is spread over a cell, high above the ground; its stripes follow each other along a
/// direction.
fn awning(cloth: &'static [u32], along: fn(f64, f64) -> f64) -> Picture {
    diamond(|x, y, u, v| {
        let stripe = (along(u, v) * 4.0) as i32 % 2 == 0;
        let shades: &[u32] = if stripe { cloth } else { &CREAM };
        let across = u + v - along(u, v);
        let sag = 0.72 - ((across - 0.5) * std::f64::consts::PI).cos() as f32 * 0.12;
        ramp(shades, sag + noise(x, y, 441) * 0.1, x, y, 442)
    })
}

/// One of the people at the market, 32 × 48 pixels, with the feet at the lower edge.
fn folk(number: u32) -> Picture {
    /// Robe, sash, and what is on the head.
    const DRESS: [(&[u32], &[u32], &[u32]); 5] = [
        (&INDIGO, &CREAM, &STRAW),
        (&CLAY, &STRAW, &HAIR),
        (&TEA, &CREAM, &STRAW),
        (&PLASTER, &INDIGO, &HAIR),
        (&SLATE, &CLAY, &CREAM),
    ];
    let (robe, sash, head) = DRESS[number as usize];
    let mut picture = Picture::filled(PixelSize::new(32, 48), Color::CLEAR);
    for (x, y) in (0..48).flat_map(|y| (0..32).map(move |x| (x, y))) {
        let (dx, dy) = (f64::from(x) - 15.5, f64::from(y));
        let lit = |width: f64| (0.62 - dx / width * 0.3) as f32;
        let hat = head[0] == STRAW[0];
        let wide = 4.6 + (dy - 17.0).max(0.0) * 0.17;
        let round = |cx: f64, cy: f64, rx: f64, ry: f64| {
            ((dx - cx) / rx).powi(2) + ((dy - cy) / ry).powi(2) < 1.0
        };
        let color = if hat && (4.0..10.0).contains(&dy) && dx.abs() < 1.0 + (dy - 4.0) * 1.5 {
            ramp(&STRAW, lit(9.0) + 0.15 - (dy as f32 - 6.0) * 0.06, x, y, 451)
        } else if !hat && round(0.0, 8.0, 4.8, 4.6) && dy < 9.0 {
            ramp(head, lit(5.0), x, y, 452)
        } else if round(0.0, 11.5, 4.0, 4.8) {
            ramp(&SKIN, lit(4.0) + 0.1, x, y, 453)
        } else if dy > 14.5 && dy < 44.0 && dx.abs() < wide && !(26.0..29.0).contains(&dy) {
            let fold = if dy > 29.0 && (dx.abs() as i32) % 4 == 3 { 0.18 } else { 0.0 };
            ramp(robe, lit(wide) - fold, x, y, 454)
        } else if (26.0..29.0).contains(&dy) && dx.abs() < wide {
            ramp(sash, lit(wide) + 0.1, x, y, 455)
        } else if round(-6.0, 22.0, 2.4, 6.5) || round(6.0, 22.0, 2.4, 6.5) {
            ramp(robe, lit(6.0) - 0.08, x, y, 456)
        } else if round(-5.6, 29.0, 1.8, 1.8) || round(5.6, 29.0, 1.8, 1.8) {
            ramp(&SKIN, lit(6.0), x, y, 457)
        } else if (44.0..47.0).contains(&dy) && (1.0..5.0).contains(&dx.abs()) {
            Some(rgb(HAIR[1]))
        } else if round(0.0, 45.0, 8.5, 2.6) {
            shadow(70)
        } else {
            None
        };
        if let Some(color) = color {
            picture.set(x as u32, y as u32, color);
        }
    }
    picture
}
