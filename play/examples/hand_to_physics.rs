//! The shapes of a map in a general physics engine, and a live edit that both feel.
//!
//! Baskets are stacked on a gate of the hoist. The gate is taken out of the map, the shapes that
//! have changed are handed over, and the baskets come down the path.
//!
//! Run with `cargo run -p sturdy-quilt-play --example hand_to_physics [FOLDER]`; the pictures go to
//! FOLDER, or to `target/hand_to_physics`.

use std::collections::HashMap;
use std::error::Error;
use std::path::{Path, PathBuf};

use rapier2d::prelude::{
    ColliderBuilder, ColliderHandle, PhysicsWorld, RigidBodyBuilder, RigidBodyHandle, Vector,
};
use sturdy_quilt::ground::{ConvexPiece, ConvexPolygon, KeptShapes, ShapeId};
use sturdy_quilt::quilt::MoverId;
use sturdy_quilt::{
    Cell, CellPos, CellRect, Color, DrawList, Frame, GroundMap, Painter, Quilt, ScreenPoint,
    ScreenSize, View, WorldPoint,
};

/// Half the side of a basket in world units.
const HALF: f32 = 5.0;

fn main() -> Result<(), Box<dyn Error>> {
    let folder = std::env::args_os().nth(1).map_or("target/hand_to_physics".into(), PathBuf::from);
    std::fs::create_dir_all(&folder)?;
    let mut quilt = Quilt::open(concat!(env!("CARGO_MANIFEST_DIR"), "/../demo/hoist.quilt.json"))?;
    let gate = CellRect::new(CellPos::new(11, 13), 3, 1);
    let wall = quilt.tile("hoist/low-wall")?;
    quilt.edit("close the gate", |pen| pen.fill("works", gate, wall))?;

    let mut yard = Yard::new(&quilt)?;
    println!("handed over {} pieces", yard.update());
    let top = quilt.lattice().rect_bounds(gate).min();
    let (left, floor) = (top.x as f32 + 9.0, top.y as f32 + 8.0);
    for (row, count) in [(0, 3), (1, 2), (2, 1)] {
        for basket in 0..count {
            let x = left + (basket as f32 * 2.0 + row as f32) * (HALF + 0.2) + HALF;
            yard.drop_basket(x, floor - HALF - row as f32 * 2.0 * HALF);
        }
    }
    yard.run(120);
    let before = yard.heights();
    yard.draw(&quilt, &folder.join("stacked.png"))?;
    println!("at rest, the lowest at {:.1}", before[0]);

    quilt.edit("drop the gate", |pen| pen.fill("works", gate, Cell::EMPTY))?;
    yard.ground.refresh(&quilt);
    println!("the gate is gone: {} piece changed", yard.update());
    yard.run(45);
    yard.draw(&quilt, &folder.join("falling.png"))?;
    yard.run(600);
    yard.draw(&quilt, &folder.join("landed.png"))?;
    let after = yard.heights();
    println!("came down by {:.1} at least", yard.least_fall(&before));
    println!("the lowest rests at {:.1}, the highest at {:.1}", after[0], after[after.len() - 1]);
    println!("deepest in the ground: {:.2} units", yard.deepest()?);
    println!("see {}", folder.join("landed.png").display());
    Ok(())
}

/// A physics world that keeps a copy of what is solid.
struct Yard {
    ground: GroundMap,
    basket: MoverId,
    kept: KeptShapes<ConvexPiece>,
    physics: PhysicsWorld,
    solids: HashMap<ShapeId, ColliderHandle>,
    baskets: Vec<RigidBodyHandle>,
}

impl Yard {
    fn new(quilt: &Quilt) -> Result<Yard, Box<dyn Error>> {
        let basket = quilt.mover("basket")?;
        let mut physics = PhysicsWorld::new();
        // World units are pixels, sixteen to a cell; down is where y grows.
        physics.integration_parameters.length_unit = 16.0;
        physics.gravity = Vector::new(0.0, 160.0);
        Ok(Yard {
            ground: GroundMap::of(quilt),
            basket,
            kept: KeptShapes::new(basket),
            physics,
            solids: HashMap::new(),
            baskets: Vec::new(),
        })
    }

    /// Hands over what has changed; gives the number of pieces that went or came.
    fn update(&mut self) -> usize {
        let changes = self.kept.update(&self.ground);
        let count = changes.gone.len() + changes.new.len();
        for id in changes.gone {
            if let Some(solid) = self.solids.remove(&id) {
                self.physics.remove_collider(solid);
            }
        }
        for (id, piece) in changes.new {
            let corners = piece.polygon.corners();
            let corners = corners.iter().map(|c| Vector::new(c.x as f32, c.y as f32)).collect();
            if let Some(solid) = ColliderBuilder::convex_polyline(corners) {
                self.solids.insert(id, self.physics.insert_collider(solid.friction(0.4), None));
            }
        }
        count
    }

    fn drop_basket(&mut self, x: f32, y: f32) {
        let body = RigidBodyBuilder::dynamic().translation(Vector::new(x, y));
        let shape = ColliderBuilder::cuboid(HALF, HALF).friction(0.3).restitution(0.1);
        let (body, _) = self.physics.insert(body, shape);
        self.baskets.push(body);
    }

    fn run(&mut self, steps: u32) {
        for _ in 0..steps {
            self.physics.step();
        }
    }

    /// The heights of the baskets, the lowest first; down is more.
    fn heights(&self) -> Vec<f32> {
        let mut heights: Vec<f32> =
            self.baskets.iter().map(|at| self.physics.bodies[*at].translation().y).collect();
        heights.sort_by(|a, b| b.total_cmp(a));
        heights
    }

    fn least_fall(&self, before: &[f32]) -> f32 {
        let after = self.heights();
        before.iter().zip(&after).map(|(a, b)| b - a).fold(f32::INFINITY, f32::min)
    }

    /// The corners of a basket, clockwise.
    fn corners(&self, at: RigidBodyHandle) -> [WorldPoint; 4] {
        let body = &self.physics.bodies[at];
        let corners = [(-HALF, -HALF), (HALF, -HALF), (HALF, HALF), (-HALF, HALF)];
        corners.map(|(x, y)| {
            let place = body.position().transform_point(Vector::new(x, y));
            WorldPoint::new(place.x.into(), place.y.into())
        })
    }

    /// How deep any basket lies in the map, as the map itself sees it.
    fn deepest(&self) -> Result<f64, Box<dyn Error>> {
        let mut deepest = 0.0_f64;
        for at in &self.baskets {
            let body =
                ConvexPolygon::new(self.corners(*at)).ok_or("a basket is no box any more")?;
            let under = self.ground.overlapping(self.basket, body);
            let depths = under.filter(|under| under.treatment.blocks()).map(|under| under.depth);
            deepest = depths.fold(deepest, f64::max);
        }
        Ok(deepest)
    }

    /// The map with the baskets.
    fn draw(&self, quilt: &Quilt, path: &Path) -> Result<(), Box<dyn Error>> {
        let view = View::new(ScreenSize::new(1280, 800))
            .zoomed(4.0)
            .centered_on(WorldPoint::new(190.0, 240.0));
        let (mut list, mut frame) = (DrawList::new(), Frame::new(view.size()));
        list.rebuild(quilt, &view);
        Painter::new().paint(&list, &mut frame);
        let mut picture = frame.to_picture();
        for at in &self.baskets {
            let inverse = self.physics.bodies[*at].position().inverse();
            let on_screen = self.corners(*at).map(|corner| view.to_screen(corner));
            let (xs, ys) = (on_screen.map(|at| at.x), on_screen.map(|at| at.y));
            for y in pixels(ys) {
                for x in pixels(xs) {
                    let place = view.to_world(ScreenPoint::pixel(x, y));
                    let own = inverse.transform_point(Vector::new(place.x as f32, place.y as f32));
                    if let Some(color) = woven(own.x, own.y) {
                        // Beyond the picture nothing is set.
                        picture.set(x, y, color);
                    }
                }
            }
        }
        std::fs::write(path, picture.to_png()?)?;
        Ok(())
    }
}

/// The pixels from the least of some numbers to the greatest.
fn pixels(ends: [f32; 4]) -> std::ops::RangeInclusive<u32> {
    let (low, high) = ends.iter().fold((f32::INFINITY, f32::NEG_INFINITY), |(low, high), end| {
        (low.min(*end), high.max(*end))
    });
    // What lies to the left of the picture comes to its first pixel.
    low.floor() as u32..=high.ceil() as u32
}

/// The colour of a basket at a place from its middle.
fn woven(x: f32, y: f32) -> Option<Color> {
    if x.abs().max(y.abs()) > HALF {
        return None;
    }
    let is_rim = x.abs().max(y.abs()) > HALF - 1.0;
    let weave = ((x + HALF) as i32 / 2 + (y + HALF) as i32 / 2) % 2 == 0;
    Some(match (is_rim, weave) {
        (true, _) => Color::rgb(0x5a, 0x3c, 0x1e),
        (false, true) => Color::rgb(0xc8, 0x98, 0x50),
        (false, false) => Color::rgb(0xa4, 0x74, 0x38),
    })
}
