//! The frozen scenes: made by seed, the same for ever, so that figures of different days compare.

use sturdy_quilt::plane::Plane;
use sturdy_quilt::quilt::Treatment;
use sturdy_quilt::tile::SheetCut;
use sturdy_quilt::units::PixelSize;
use sturdy_quilt::view::Projection;
use sturdy_quilt::{
    CellPos, CellRect, Color, Lattice, LayerSettings, Mover, Picture, Quilt, TileSet, TileSpec,
};

/// Numbers by seed: SplitMix64 (Steele, Lea and Flood, "Fast Splittable Pseudorandom Number
/// Generators", OOPSLA 2014).
#[derive(Clone, Debug)]
pub(crate) struct Numbers(u64);

impl Numbers {
    pub(crate) const fn new(seed: u64) -> Numbers {
        Numbers(seed)
    }

    pub(crate) const fn next(&mut self) -> u64 {
        self.0 = self.0.wrapping_add(0x9e37_79b9_7f4a_7c15);
        let mut z = self.0;
        z = (z ^ (z >> 30)).wrapping_mul(0xbf58_476d_1ce4_e5b9);
        z = (z ^ (z >> 27)).wrapping_mul(0x94d0_49bb_1331_11eb);
        z ^ (z >> 31)
    }

    /// A whole number below `end`.
    pub(crate) const fn below(&mut self, end: u64) -> u64 {
        self.next() % end
    }

    /// A number from `from` up to `to`.
    pub(crate) fn between(&mut self, from: f64, to: f64) -> f64 {
        from + (to - from) * (self.next() >> 11) as f64 / (1_u64 << 53) as f64
    }
}

/// Realistic cells: nine chunks of ten hold one value, the tenth about a dozen. `side` cells in
/// both directions from the origin; the second is the same, row by row. There is one for each
/// `seed`.
pub(crate) fn cells(side: u32, seed: u64) -> (Plane<u32>, Vec<u32>) {
    let mut numbers = Numbers::new(0x5eed_ce11 + seed);
    let mut flat = vec![0; (side * side) as usize];
    for chunk_y in (0..side).step_by(64) {
        for chunk_x in (0..side).step_by(64) {
            let mixed = numbers.below(10) == 0;
            let base = 1 + numbers.below(40) as u32;
            for y in chunk_y..chunk_y + 64 {
                for x in chunk_x..chunk_x + 64 {
                    // Rough, so that hardly any neighbours are the same.
                    let own =
                        if mixed { ((x / 3 + y / 2) ^ (numbers.below(4) as u32)) % 12 } else { 0 };
                    flat[(y * side + x) as usize] = base + own;
                }
            }
        }
    }
    let mut plane = Plane::new();
    for (y, row) in flat.chunks_exact(side as usize).enumerate() {
        plane.write_row(CellPos::new(0, y as i32), row).expect("a plane in memory is here");
    }
    plane.compact();
    (plane, flat)
}

/// The drawing scene: tiles of 16 px for 1920 × 1080 pixels and some more, in four layers. The
/// lowest is solid everywhere; in each of the others 35 cells of 100 have a tile, one in three
/// solid, one with holes, one soft. Gives the map and the pictures of its 32 tiles.
pub(crate) fn drawing() -> (Quilt, Vec<Picture>) {
    const TILE: u32 = 16;
    let mut numbers = Numbers::new(0xd2a3_1e5f);
    let mut sheet = Picture::filled(PixelSize::new(32 * TILE, TILE), Color::CLEAR);
    let mut tiles = Vec::new();
    for tile in 0..32_u32 {
        let mut picture = Picture::filled(PixelSize::new(TILE, TILE), Color::CLEAR);
        let tint = numbers.next();
        for y in 0..TILE {
            for x in 0..TILE {
                let [r, g, b, ..] = (tint ^ numbers.below(0x0f0f_0f0f)).to_le_bytes();
                let from_middle = (x as i32 - 8).pow(2) + (y as i32 - 8).pow(2);
                let alpha = match tile % 4 {
                    0 | 2 => 255,
                    1 => u8::from(from_middle < 44) * 255,
                    _ => (40 + x * 6 + y * 4) as u8,
                };
                picture.set(x, y, Color::rgba(r, g, b, alpha));
                sheet.set(tile * TILE + x, y, Color::rgba(r, g, b, alpha));
            }
        }
        tiles.push(picture);
    }
    let mut quilt = Quilt::new(Lattice::square(16.0, 16.0).expect("a valid lattice"));
    let edit = quilt.edit("scene", |pen| {
        let set =
            TileSet::builder("scene").sheet(&sheet, SheetCut::new(PixelSize::new(TILE, TILE)));
        let set =
            (0..32_u32).fold(set, |set, n| set.tile(TileSpec::at(n, 0).with_name(n.to_string())));
        pen.put_tiles(set.build()?)?;
        for (layer, priority) in DRAWING_LAYERS.into_iter().zip(0..) {
            pen.add_layer(layer, LayerSettings::default().with_priority(priority))?;
        }
        let (width, height) = DRAWING_CELLS;
        for cell in CellRect::new(CellPos::ORIGIN, width, height).cells() {
            for layer in DRAWING_LAYERS {
                let kind = match layer {
                    "soil" => 0,
                    _ if numbers.below(100) < 35 => 1 + numbers.below(3),
                    _ => continue,
                };
                let name = format!("scene/{}", numbers.below(8) * 4 + kind);
                let tile = pen.tile(&name)?;
                pen.put(layer, cell, tile)?;
            }
        }
        Ok(())
    });
    edit.expect("the scene is well made");
    (quilt, tiles)
}

/// The scene at a slant: diamonds of 64 × 32 px whose pictures are blocks of 64 × 64, in two layers.
/// The lower one is full; in the upper one, which stands as high as a block and is sorted, 35 cells of
/// 100 have one.
pub(crate) fn slanted() -> Quilt {
    const SIDE: u32 = 64;
    let mut numbers = Numbers::new(0x5_1a27_ed01);
    let lattice = Lattice::square(16.0, 16.0).expect("a valid lattice");
    let mut set = TileSet::builder("scene");
    for tile in 0..16_u32 {
        let mut picture = Picture::filled(PixelSize::new(SIDE, SIDE), Color::CLEAR);
        let tint = numbers.next();
        for y in 0..SIDE {
            for x in 0..SIDE {
                // Within the outline of a block: a diamond, drawn out downwards.
                let across = (2 * x).abs_diff(SIDE - 1) / 4;
                if (16_u32.saturating_sub(across)..).contains(&(y + 1)) && y + across < SIDE - 1 {
                    let [r, g, b, ..] = (tint ^ numbers.below(0x0f0f_0f0f)).to_le_bytes();
                    picture.set(x, y, Color::rgb(r, g, b));
                }
            }
        }
        let name = format!("{tile}.png");
        set = set.picture(&name, &picture);
        set = set.tile(TileSpec::picture(&name).with_name(tile.to_string()));
    }
    let mut quilt = Quilt::new(lattice);
    let edit = quilt.edit("scene", |pen| {
        pen.put_tiles(set.build()?)?;
        let diamond = Projection::diamond(&lattice, SIDE, SIDE / 2).expect("a valid diamond");
        pen.set_projection(diamond)?;
        pen.add_layer("soil", LayerSettings::default())?;
        let stalls = LayerSettings::default().with_sort_rows(true).with_elevation(32.0);
        pen.add_layer("stalls", stalls)?;
        for cell in CellRect::new(CellPos::ORIGIN, 128, 128).cells() {
            let soil = pen.tile(&format!("scene/{}", numbers.below(8)))?;
            pen.put("soil", cell, soil)?;
            if numbers.below(100) < 35 {
                let stall = pen.tile(&format!("scene/{}", 8 + numbers.below(8)))?;
                pen.put("stalls", cell, stall)?;
            }
        }
        Ok(())
    });
    edit.expect("the scene is well made");
    quilt
}

/// The layers of the drawing scene.
pub(crate) const DRAWING_LAYERS: [&str; 4] = ["soil", "growth", "works", "mist"];
/// Its columns and rows.
pub(crate) const DRAWING_CELLS: (u32, u32) = (124, 72);

/// What the ground of a scene looks like.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Ground {
    /// Nearly half is rock, in lumps with winding ways between them.
    Caves,
    /// Open, with a rock here and there.
    Field,
    /// Blocks of houses with straight streets.
    City,
    /// Nothing but in one chunk of a hundred, which is as caves are.
    Sparse,
}

/// A map of 2048 × 2048 cells of 16 units in which some are solid; the second says which, row by
/// row.
pub(crate) fn ground(kind: Ground) -> (Quilt, Vec<bool>) {
    let mut numbers = Numbers::new(0x9209_14d0 + kind as u64);
    let side = GROUND_SIDE;
    let mut solid: Vec<bool> = match kind {
        Ground::Caves => (0..side * side).map(|_| numbers.below(100) < 45).collect(),
        Ground::Field => (0..side * side).map(|_| numbers.below(100) < 3).collect(),
        Ground::Sparse => {
            let chunks: Vec<bool> = (0..32 * 32).map(|_| numbers.below(100) == 0).collect();
            let in_one = |at: usize| chunks[at / side / 64 * 32 + at % side / 64];
            (0..side * side).map(|at| in_one(at) && numbers.below(100) < 45).collect()
        }
        Ground::City => (0..side * side)
            .map(|at| (at % side) % 12 < 8 && (at / side) % 10 < 7 && numbers.below(50) > 0)
            .collect(),
    };
    if kind == Ground::Caves {
        // Lumps by the usual cellular rule: a cell is as most of its neighbours are.
        for _ in 0..4 {
            let before = solid.clone();
            for (at, now) in solid.iter_mut().enumerate() {
                let (x, y) = ((at % side) as i64, (at / side) as i64);
                let around = (-1..=1).flat_map(|dy| (-1..=1).map(move |dx| (x + dx, y + dy)));
                let count = around.filter(|&(x, y)| {
                    let inside = (0..side as i64).contains(&x) && (0..side as i64).contains(&y);
                    !inside || before[y as usize * side + x as usize]
                });
                *now = count.count() >= 5;
            }
        }
    }
    let mut quilt = Quilt::new(Lattice::square(16.0, 16.0).expect("a valid lattice"));
    let edit = quilt.edit("scene", |pen| {
        pen.add_ground_classes(["rock"])?;
        pen.put_mover(Mover::new("body").block("rock").with_outside(Treatment::Pass))?;
        let rock = TileSet::builder("scene").tile(TileSpec::named("rock").with_ground("rock"));
        pen.put_tiles(rock.build()?)?;
        pen.add_layer("rocks", LayerSettings::default())?;
        let bounds = CellRect::new(CellPos::ORIGIN, side as u32, side as u32);
        pen.set_bounds(Some(bounds))?;
        let rock = pen.tile("scene/rock")?;
        for (y, row) in solid.chunks(side).enumerate() {
            let mut x = 0;
            for run in row.chunk_by(|a, b| a == b) {
                if run[0] {
                    let from = CellPos::new(x, y as i32);
                    pen.fill("rocks", CellRect::new(from, run.len() as u32, 1), rock)?;
                }
                x += run.len() as i32;
            }
        }
        Ok(())
    });
    edit.expect("the scene is well made");
    (quilt, solid)
}

/// Cells in a row of a ground scene.
pub(crate) const GROUND_SIDE: usize = 2048;
