//! Ground queries.

use std::cell::RefCell;

use sturdy_quilt::ground::Circle;
use sturdy_quilt::quilt::MoverId;
use sturdy_quilt::{CellPos, GroundMap, Quilt, WorldPoint, WorldRect, WorldVec};

use crate::harness::{Mark, Versus};
use crate::rivals::ground::{
    Body, bits, cast, cast_ray, every_cell, holds, merged, overlaps, step, voxels,
};
use crate::scenes::{self, GROUND_SIDE, Ground, Numbers};

pub(crate) fn run(versus: &mut Versus) {
    let worlds = [
        ("caves", Ground::Caves),
        ("field", Ground::Field),
        ("city", Ground::City),
        ("sparse", Ground::Sparse),
    ];
    for (name, kind) in worlds {
        if versus.wants(&format!("ground.{name}")) {
            let (quilt, solid) = scenes::ground(kind);
            let scene = Scene { name, kind, quilt, solid };
            scene.run(versus);
        }
    }
}

/// A world with what is asked of it.
struct Scene {
    name: &'static str,
    kind: Ground,
    quilt: Quilt,
    solid: Vec<bool>,
}

/// A body as our library holds it.
type Own = (WorldRect, WorldVec);

impl Scene {
    fn line(&self, what: &str) -> String {
        format!("ground.{}.{what}", self.name)
    }

    fn run(&self, versus: &mut Versus) {
        let ground = GroundMap::of(&self.quilt);
        let mover = self.quilt.mover("body").expect("the scene has the mover");
        if self.kind == Ground::Sparse {
            self.long_rays(versus, &ground, mover);
        } else {
            self.sweeps(versus, &ground, mover);
            self.rays(versus, &ground, mover);
            self.places(versus, &ground, mover);
            self.edits(versus);
        }
        self.memory(versus, &ground);
    }

    /// Bodies that begin in the open, with motions up to so many units in each direction.
    fn bodies(&self, reach: f64, size: f64, seed: u64) -> Vec<Body> {
        let mut numbers = Numbers::new(seed);
        let mut bodies = Vec::new();
        let margin = reach + 100.0;
        while bodies.len() < 1000 {
            let place =
                |numbers: &mut Numbers| numbers.between(margin, GROUND_SIDE as f64 * 16.0 - margin);
            let (x, y) = (place(&mut numbers), place(&mut numbers));
            let cell = |place: f64| (place / 16.0).floor() as usize;
            let corners = [(x, y), (x + size, y), (x, y + size), (x + size, y + size)];
            if corners.iter().all(|&(x, y)| !self.solid[cell(y) * GROUND_SIDE + cell(x)]) {
                let (dx, dy) = (numbers.between(-reach, reach), numbers.between(-reach, reach));
                bodies.push(Body { x, y, width: size, height: size, dx, dy });
            }
        }
        bodies
    }

    fn sweeps(&self, versus: &mut Versus, ground: &GroundMap, mover: MoverId) {
        let sweep = |(body, motion): &Own| ground.sweep(mover, *body, *motion).fraction;
        let world = merged(&self.solid);
        // A step of a walking body, a leap, and the flight of something thrown.
        for (length, reach) in [("step", 6.0), ("leap", 64.0), ("throw", 500.0)] {
            let bodies = self.bodies(reach, 12.0, 11);
            let (own, count) = (boxes(&bodies), bodies.len() as u64);
            let ours = || total(own.iter().map(sweep));
            let other = || total(bodies.iter().map(|body| every_cell(&self.solid, body)));
            let line = self.line(&format!("sweep.{length}.every-cell"));
            versus.line(&line, count, Mark::AtMost(0.77), false, ours, other);
            let ours = || total(own.iter().map(sweep));
            let other = || total(bodies.iter().map(|body| cast(&world, body, false)));
            let line = self.line(&format!("sweep.{length}.merged-boxes"));
            versus.line(&line, count, Mark::AtMost(0.1), false, ours, other);
            let discs = discs(&bodies);
            let sweep =
                |(disc, motion): &(Circle, WorldVec)| ground.sweep(mover, *disc, *motion).fraction;
            let ours = || total(discs.iter().map(sweep));
            let other = || total(bodies.iter().map(|body| cast(&world, body, true)));
            let line = self.line(&format!("circle.{length}.merged-boxes"));
            versus.line(&line, count, Mark::AtMost(1.0 / 12.0), false, ours, other);
        }
    }

    fn rays(&self, versus: &mut Versus, ground: &GroundMap, mover: MoverId) {
        let world = merged(&self.solid);
        let (rays, bits) = (self.bodies(700.0, 0.0, 13), bits(&self.solid));
        let (own, count) = (boxes(&rays), rays.len() as u64);
        let ours = || total(own.iter().map(|own| ray(ground, mover, own)));
        let other = || total(rays.iter().map(|ray| step(ray, |at| is_set(&bits, at))));
        // In the open field a ray is long, and not stopped soon.
        let mark = if self.kind == Ground::Field { Mark::None } else { Mark::AtMost(1.15) };
        versus.line(&self.line("ray.bit-grid"), count, mark, true, ours, other);
        let ours = || total(own.iter().map(|own| ray(ground, mover, own)));
        let bytes = || total(rays.iter().map(|ray| step(ray, |at| self.solid[at])));
        versus.line(&self.line("ray.byte-grid"), count, Mark::None, true, ours, bytes);
        let ours = || total(own.iter().map(|own| ray(ground, mover, own)));
        let tree = || total(rays.iter().map(|ray| cast_ray(&world, ray)));
        let line = self.line("ray.merged-boxes");
        versus.line(&line, count, Mark::AtMost(0.1), false, ours, tree);
    }

    /// Rays of about 1024 cells.
    fn long_rays(&self, versus: &mut Versus, ground: &GroundMap, mover: MoverId) {
        let world = merged(&self.solid);
        let mut rays = self.bodies(8192.0, 0.0, 13);
        for ray in &mut rays {
            let length = (ray.dx * ray.dx + ray.dy * ray.dy).sqrt();
            (ray.dx, ray.dy) = (ray.dx * 8192.0 / length, ray.dy * 8192.0 / length);
        }
        let bits = bits(&self.solid);
        let (own, count) = (boxes(&rays), rays.len() as u64);
        let ours = || total(own.iter().map(|own| ray(ground, mover, own)));
        let other = || total(rays.iter().map(|ray| step(ray, |at| is_set(&bits, at))));
        versus.line(&self.line("ray.bit-grid"), count, Mark::AtMost(0.1), true, ours, other);
        let ours = || total(own.iter().map(|own| ray(ground, mover, own)));
        let tree = || total(rays.iter().map(|ray| cast_ray(&world, ray)));
        let line = self.line("ray.merged-boxes");
        versus.line(&line, count, Mark::AtMost(1.2), false, ours, tree);
    }

    fn places(&self, versus: &mut Versus, ground: &GroundMap, mover: MoverId) {
        let (world, grid) = (merged(&self.solid), voxels(&self.solid));
        let mut bodies = self.bodies(100.0, 0.0, 14);
        let mut numbers = Numbers::new(15);
        for body in &mut bodies {
            (body.x, body.y) = (body.x + numbers.between(-40.0, 40.0), body.y + body.dx / 3.0);
            (body.width, body.height) = (20.0, 20.0);
        }
        let (own, count) = (boxes(&bodies), bodies.len() as u64);
        let ours = || own.iter().filter(|own| ground.overlaps(mover, own.0)).count() as u64;
        let other = || bodies.iter().filter(|body| overlaps(&world, body, false)).count() as u64;
        let line = self.line("overlap.merged-boxes");
        versus.line(&line, count, Mark::AtMost(0.1), false, ours, other);
        let discs = discs(&bodies);
        let ours = || discs.iter().filter(|(disc, _)| ground.overlaps(mover, *disc)).count() as u64;
        let other = || bodies.iter().filter(|body| overlaps(&world, body, true)).count() as u64;
        let line = self.line("circle.overlap.merged-boxes");
        versus.line(&line, count, Mark::AtMost(1.0 / 12.0), false, ours, other);
        let ours = || own.iter().filter(|own| ground.blocked_at(mover, own.0.min())).count() as u64;
        let other = || bodies.iter().filter(|body| holds(&grid, body)).count() as u64;
        versus.line(&self.line("point.grid"), count, Mark::AtMost(0.125), false, ours, other);
    }

    /// A cell that is put by a Pen, and a refresh; the other puts it alone.
    fn edits(&self, versus: &mut Versus) {
        let quilt = RefCell::new(self.quilt.clone());
        let ground = RefCell::new(GroundMap::of(&self.quilt));
        let rock = self.quilt.tile("scene/rock").expect("the scene has the tile");
        let rocks = self.quilt.layer("rocks").expect("the scene has the layer").id();
        let numbers = RefCell::new(Numbers::new(16));
        let put = || {
            let mut numbers = numbers.borrow_mut();
            let mut place = || numbers.below(GROUND_SIDE as u64) as i32;
            let (cell, at) = (CellPos::new(place(), place()), place());
            let tile = if at % 2 == 0 { rock.into() } else { sturdy_quilt::Cell::EMPTY };
            let edit = quilt.borrow_mut().edit("put", |pen| pen.put(rocks, cell, tile));
            u64::from(edit.is_ok())
        };
        let ours = || put() + ground.borrow_mut().refresh(&quilt.borrow()) as u64;
        versus.line(&self.line("edit"), 1, Mark::Nanoseconds(2000.0), false, ours, put);
        let snapshot = RefCell::new(self.quilt.clone());
        let ours = || {
            *snapshot.borrow_mut() = quilt.borrow().clone();
            put() + ground.borrow_mut().refresh(&quilt.borrow()) as u64
        };
        let line = self.line("edit.snapshot");
        versus.line(&line, 1, Mark::Nanoseconds(8000.0), false, ours, put);
        let cells = (GROUND_SIDE * GROUND_SIDE) as u64;
        let ours = || GroundMap::of(&self.quilt).stop_grid_bytes() as u64;
        let other = || self.solid.iter().filter(|solid| **solid).count() as u64;
        versus.line(&self.line("build"), cells, Mark::Nanoseconds(6.0), false, ours, other);
    }

    fn memory(&self, versus: &mut Versus, ground: &GroundMap) {
        let cells = (GROUND_SIDE * GROUND_SIDE) as u64;
        let most = if self.kind == Ground::Sparse { 0.01 } else { 0.3 };
        let most = cells as f64 * most / f64::from(1 << 20);
        versus.mebibytes(&self.line("masks"), ground.stop_grid_bytes() as u64, cells, most);
    }
}

fn ray(ground: &GroundMap, mover: MoverId, (body, motion): &Own) -> f64 {
    ground.ray(mover, body.min(), *motion).map_or(1.0, |hit| hit.fraction)
}

fn is_set(bits: &[u64], at: usize) -> bool {
    bits[at / 64] >> (at % 64) & 1 == 1
}

/// Where all bodies end together, so coarsely that a rounding does not count.
fn total(fractions: impl Iterator<Item = f64>) -> u64 {
    fractions.map(|fraction| (fraction * 100.0).round() as u64).sum()
}

/// The same as our library holds them.
fn boxes(bodies: &[Body]) -> Vec<Own> {
    let own = |body: &Body| {
        let corner = WorldPoint::new(body.x, body.y);
        let rect = WorldRect::between(corner, corner + WorldVec::new(body.width, body.height));
        (rect, WorldVec::new(body.dx, body.dy))
    };
    bodies.iter().map(own).collect()
}

/// The discs in them.
fn discs(bodies: &[Body]) -> Vec<(Circle, WorldVec)> {
    let disc = |(rect, motion): Own| (Circle::new(rect.center(), rect.width() / 2.0), motion);
    boxes(bodies).into_iter().map(disc).collect()
}
