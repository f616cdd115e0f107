//! Bodies and rays on grids of bytes and bits, and on boxes in a collision crate.

use parry2d::math::{IVector, Pose, Vector};
use parry2d::query::{PointQuery, Ray, RayCast, ShapeCastOptions, cast_shapes, intersection_test};
use parry2d::shape::{Ball, Compound, Cuboid, SharedShape, Voxels};

use crate::scenes::GROUND_SIDE as SIDE;

/// A box by its corner and size, and its motion.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Body {
    pub(crate) x: f64,
    pub(crate) y: f64,
    pub(crate) width: f64,
    pub(crate) height: f64,
    pub(crate) dx: f64,
    pub(crate) dy: f64,
}

const CELL: f64 = 16.0;

/// The part of the motion until a cell stops the box: every cell in the rectangle around the motion
/// by itself.
pub(crate) fn every_cell(solid: &[bool], body: &Body) -> f64 {
    let column = |place: f64| ((place / CELL).floor().max(0.0) as usize).min(SIDE - 1);
    let (left, right) =
        (body.x.min(body.x + body.dx), (body.x + body.width).max(body.x + body.width + body.dx));
    let (top, bottom) =
        (body.y.min(body.y + body.dy), (body.y + body.height).max(body.y + body.height + body.dy));
    let mut first = 1.0_f64;
    for row in column(top)..=column(bottom) {
        for at in column(left)..=column(right) {
            if solid[row * SIDE + at] {
                first = first.min(entry(body, at as f64 * CELL, row as f64 * CELL));
            }
        }
    }
    first
}

/// When a moving box meets a cell, by slabs (Kay and Kajiya, 1986); 1 or more where it does not.
fn entry(body: &Body, x: f64, y: f64) -> f64 {
    let slab = |from: f64, size: f64, low: f64, way: f64| {
        if way == 0.0 {
            let apart = from + size <= low || low + CELL <= from;
            return if apart {
                (f64::INFINITY, f64::INFINITY)
            } else {
                (f64::NEG_INFINITY, f64::INFINITY)
            };
        }
        let (a, b) = ((low - from - size) / way, (low + CELL - from) / way);
        (a.min(b), a.max(b))
    };
    let (x, y) = (slab(body.x, body.width, x, body.dx), slab(body.y, body.height, y, body.dy));
    let (begin, end) = (x.0.max(y.0), x.1.min(y.1));
    if begin < end && begin >= 0.0 { begin } else { 1.0 }
}

/// Follows a ray from cell to cell (Amanatides and Woo, 1987) until one is solid; the part of the
/// way until then.
pub(crate) fn step(body: &Body, is_solid: impl Fn(usize) -> bool) -> f64 {
    let (mut column, mut row) = ((body.x / CELL).floor() as i64, (body.y / CELL).floor() as i64);
    let axis = |place: f64, way: f64, line: i64| {
        let next = if way > 0.0 { line + 1 } else { line };
        let first = if way == 0.0 { f64::INFINITY } else { (next as f64 * CELL - place) / way };
        (first, (CELL / way).abs(), if way > 0.0 { 1 } else { -1 })
    };
    let (mut next_x, every_x, step_x) = axis(body.x, body.dx, column);
    let (mut next_y, every_y, step_y) = axis(body.y, body.dy, row);
    loop {
        let time = next_x.min(next_y);
        if next_x <= next_y {
            column += step_x;
            next_x += every_x;
        } else {
            row += step_y;
            next_y += every_y;
        }
        let side = SIDE as i64;
        if time >= 1.0 || !(0..side).contains(&column) || !(0..side).contains(&row) {
            return 1.0;
        }
        if is_solid((row * side + column) as usize) {
            return time;
        }
    }
}

/// One bit a cell.
pub(crate) fn bits(solid: &[bool]) -> Vec<u64> {
    let word = |cells: &[bool]| {
        cells.iter().enumerate().fold(0, |word, (at, solid)| word | u64::from(*solid) << at)
    };
    solid.chunks(64).map(word).collect()
}

/// The solid cells as boxes, merged along rows and then downwards, under a tree of the collision
/// crate.
pub(crate) fn merged(solid: &[bool]) -> Compound {
    let mut done = vec![false; solid.len()];
    let mut boxes = Vec::new();
    for at in 0..solid.len() {
        if !solid[at] || done[at] {
            continue;
        }
        let (x, y) = (at % SIDE, at / SIDE);
        let width = (x..SIDE).take_while(|x| solid[y * SIDE + x] && !done[y * SIDE + x]).count();
        let whole = |y: &usize| (x..x + width).all(|x| solid[y * SIDE + x] && !done[y * SIDE + x]);
        let height = (y..SIDE).take_while(whole).count();
        for y in y..y + height {
            done[y * SIDE + x..y * SIDE + x + width].fill(true);
        }
        let (half_width, half_height) =
            ((width as f64 * CELL / 2.0) as f32, (height as f64 * CELL / 2.0) as f32);
        let middle = Vector::new(x as f32 * 16.0 + half_width, y as f32 * 16.0 + half_height);
        boxes.push((Pose::from_translation(middle), SharedShape::cuboid(half_width, half_height)));
    }
    Compound::new(boxes)
}

/// The part of the motion until a box, or the disc in it, meets one of the merged boxes.
pub(crate) fn cast(world: &Compound, body: &Body, is_disc: bool) -> f64 {
    let (place, half) = middle(body);
    let options = ShapeCastOptions::with_max_time_of_impact(1.0);
    let way = Vector::new(body.dx as f32, body.dy as f32);
    let from = Pose::from_translation(place);
    let hit = if is_disc {
        let shape = Ball::new(half.x);
        cast_shapes(&from, way, &shape, &Pose::IDENTITY, Vector::ZERO, world, options)
    } else {
        let shape = Cuboid::new(half);
        cast_shapes(&from, way, &shape, &Pose::IDENTITY, Vector::ZERO, world, options)
    };
    hit.ok().flatten().map_or(1.0, |hit| f64::from(hit.time_of_impact))
}

/// The middle of a box, and half its size.
fn middle(body: &Body) -> (Vector, Vector) {
    let half = Vector::new((body.width / 2.0) as f32, (body.height / 2.0) as f32);
    (Vector::new(body.x as f32, body.y as f32) + half, half)
}

/// The part of the way until the ray meets one of the merged boxes.
pub(crate) fn cast_ray(world: &Compound, ray: &Body) -> f64 {
    let way = Vector::new(ray.dx as f32, ray.dy as f32);
    let ray = Ray::new(Vector::new(ray.x as f32, ray.y as f32), way);
    world.cast_local_ray(&ray, 1.0, true).map_or(1.0, f64::from)
}

/// Whether a box, or the disc in it, lies in one of the merged boxes.
pub(crate) fn overlaps(world: &Compound, body: &Body, is_disc: bool) -> bool {
    let (place, half) = middle(body);
    let from = Pose::from_translation(place);
    let lies_in = if is_disc {
        intersection_test(&from, &Ball::new(half.x), &Pose::IDENTITY, world)
    } else {
        intersection_test(&from, &Cuboid::new(half), &Pose::IDENTITY, world)
    };
    lies_in.unwrap_or_default()
}

/// The solid cells as the crate's shape of cells on a grid.
pub(crate) fn voxels(solid: &[bool]) -> Voxels {
    let cells = solid.iter().enumerate().filter(|(_, solid)| **solid);
    let cells: Vec<IVector> =
        cells.map(|(at, _)| IVector::new((at % SIDE) as i32, (at / SIDE) as i32)).collect();
    Voxels::new(Vector::new(CELL as f32, CELL as f32), &cells)
}

/// Whether a point lies in a cell of it.
pub(crate) fn holds(world: &Voxels, body: &Body) -> bool {
    world.contains_local_point(Vector::new(body.x as f32, body.y as f32))
}
