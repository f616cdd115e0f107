//! Ground queries.

use sturdy_quilt::{GroundMap, WorldPoint, WorldRect, WorldVec};

use crate::harness::{Mark, Versus};
use crate::rivals::ground::{Body, bits, cast, every_cell, merged, step};
use crate::scenes::{self, GROUND_SIDE, Ground, Numbers};

pub(crate) fn run(versus: &mut Versus) {
    for (name, kind) in [("caves", Ground::Caves), ("field", Ground::Field), ("city", Ground::City)]
    {
        if versus.wants(&format!("ground.{name}")) {
            scene(versus, name, kind);
        }
    }
}

/// Bodies that begin in the open, with motions up to so many units in each direction.
fn bodies(solid: &[bool], reach: f64, size: f64, seed: u64) -> Vec<Body> {
    let mut numbers = Numbers::new(seed);
    let mut bodies = Vec::new();
    while bodies.len() < 1000 {
        let place =
            |numbers: &mut Numbers| numbers.between(1100.0, GROUND_SIDE as f64 * 16.0 - 1100.0);
        let (x, y) = (place(&mut numbers), place(&mut numbers));
        let cell = |place: f64| (place / 16.0).floor() as usize;
        let corners = [(x, y), (x + size, y), (x, y + size), (x + size, y + size)];
        if corners.iter().all(|&(x, y)| !solid[cell(y) * GROUND_SIDE + cell(x)]) {
            let (dx, dy) = (numbers.between(-reach, reach), numbers.between(-reach, reach));
            bodies.push(Body { x, y, width: size, height: size, dx, dy });
        }
    }
    bodies
}

/// Where all bodies end together, so coarsely that a rounding does not count.
fn total(fractions: impl Iterator<Item = f64>) -> u64 {
    fractions.map(|fraction| (fraction * 100.0).round() as u64).sum()
}

/// The same as our library holds them.
fn boxes(bodies: &[Body]) -> Vec<(WorldRect, WorldVec)> {
    let own = |body: &Body| {
        let corner = WorldPoint::new(body.x, body.y);
        let rect = WorldRect::between(corner, corner + WorldVec::new(body.width, body.height));
        (rect, WorldVec::new(body.dx, body.dy))
    };
    bodies.iter().map(own).collect()
}

fn scene(versus: &mut Versus, name: &str, kind: Ground) {
    let (quilt, solid) = scenes::ground(kind);
    let ground = GroundMap::of(&quilt);
    let mover = quilt.mover("body").expect("the scene has the mover");
    let sweep =
        |(body, motion): &(WorldRect, WorldVec)| ground.sweep(mover, *body, *motion).fraction;
    // A step of a walking body, and the flight of something thrown.
    for (length, reach) in [("step", 6.0), ("throw", 500.0)] {
        let bodies = bodies(&solid, reach, 12.0, 11);
        let own = boxes(&bodies);
        let ours = || total(own.iter().map(sweep));
        let other = || total(bodies.iter().map(|body| every_cell(&solid, body)));
        let line = format!("ground.{name}.sweep.{length}.every-cell");
        versus.line(&line, bodies.len() as u64, Mark::AtMost(1.0), false, ours, other);
    }
    let swept = bodies(&solid, 500.0, 12.0, 12);
    let (own, world) = (boxes(&swept), merged(&solid));
    let ours = || total(own.iter().map(sweep));
    let other = || total(swept.iter().map(|body| cast(&world, body)));
    let line = format!("ground.{name}.sweep.throw.merged-boxes");
    versus.line(&line, swept.len() as u64, Mark::None, false, ours, other);

    // Rays of up to 64 cells; ours follows a point, which meets cells as a thin box does.
    let rays = bodies(&solid, 700.0, 0.0, 13);
    let (own, bits) = (boxes(&rays), bits(&solid));
    let ours = || total(own.iter().map(sweep));
    let bytes = || total(rays.iter().map(|ray| step(ray, |at| solid[at])));
    let line = format!("ground.{name}.ray.byte-grid");
    versus.line(&line, rays.len() as u64, Mark::None, false, ours, bytes);
    let ours = || total(own.iter().map(sweep));
    let one_bit =
        || total(rays.iter().map(|ray| step(ray, |at| bits[at / 64] >> (at % 64) & 1 == 1)));
    let line = format!("ground.{name}.ray.bit-grid");
    versus.line(&line, rays.len() as u64, Mark::None, false, ours, one_bit);
}
