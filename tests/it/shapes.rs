//! Cells of which a part is solid, and bodies that are no boxes: against judges that try every cell
//! by itself and in another way, in exact fractions where there is no radius.

use num_rational::BigRational;
use num_traits::ToPrimitive;
use proptest::prelude::*;
use proptest::test_runner::{RngAlgorithm, TestRng};
use sturdy_quilt::{
    Body, Capsule, CellPos, CellRect, CellShape, CellShapeError, Circle, ConvexPolygon, GroundMap,
    Lattice, MemorySource, Mover, MoverId, Quilt, ShapePart, Side, SlideOptions, TileSet, TileSpec,
    Treatment, Turn, WorldPoint, WorldRect, WorldVec,
};

use crate::exact::Number;
use crate::yard::{self, Stone, body_of, lay};

/// The shapes of the tiles of these tests; a tile of each is in the map as it is, and whole.
fn shapes() -> Vec<CellShape> {
    let made = [
        CellShape::floor(0.0, 1.0),
        CellShape::floor(0.0, 0.5),
        CellShape::floor(0.5, 1.0),
        CellShape::floor(0.5, 0.5),
        CellShape::ceiling(0.0, 0.25),
        CellShape::area(0.25, 0.25, 0.5, 0.75),
        CellShape::area(0.0, 0.0, 0.125, 1.0),
        CellShape::polygon([(0.5, 0.0), (1.0, 0.5), (0.5, 1.0), (0.0, 0.5)]),
        CellShape::polygon([
            (0.25, 0.0),
            (0.75, 0.0),
            (1.0, 0.25),
            (1.0, 0.75),
            (0.75, 1.0),
            (0.25, 1.0),
            (0.0, 0.75),
            (0.0, 0.25),
        ]),
    ];
    made.into_iter().map(Result::unwrap).collect()
}

fn shape_of(stone: &Stone) -> CellShape {
    let shapes = shapes();
    shapes.get(stone.1).map_or(CellShape::SQUARE, |shape| shape.turned(stone.2))
}

const CELL: f64 = 16.0;

fn yard_quilt(stones: &[Stone], bounds: CellRect) -> Quilt {
    let body = Mover::new("body").block("stone").outside(Treatment::Pass);
    let drop = Mover::new("drop").one_way("stone", sturdy_quilt::Sides::TOP);
    let tile = |(shape, at)| TileSpec::named(format!("part{at}")).ground("stone").shape(shape);
    let tiles = shapes().into_iter().zip(0..).map(tile).chain([yard::stone()]);
    let stones = stones.iter().map(|(at, number, turn)| (*at, *number.min(&shapes().len()), *turn));
    let stones: Vec<Stone> = stones.collect();
    yard::yard((CELL, CELL), bounds, [body, drop.outside(Treatment::Pass)], tiles, stones)
}

fn yard(stones: &[Stone]) -> (GroundMap, MoverId) {
    far_yard(stones, 0)
}

/// The same with everything so many cells away, to the right and up.
fn far_yard(stones: &[Stone], far: i32) -> (GroundMap, MoverId) {
    let there =
        |stone: &Stone| (CellPos::new(stone.0.x() + far, stone.0.y() - far), stone.1, stone.2);
    let stones: Vec<Stone> = stones.iter().map(there).collect();
    let bounds = CellRect::new(CellPos::new(far - 40, -far - 40), 80, 80);
    body_of(&yard_quilt(&stones, bounds))
}

/// Near the origin, and up to ten million units away from it.
fn any_far() -> impl Strategy<Value = i32> {
    prop_oneof![Just(0), Just(600_000), Just(-625_000)]
}

fn any_stones(most: usize) -> impl Strategy<Value = Vec<Stone>> {
    let cell = (-5..5_i32, -5..5_i32).prop_map(|(x, y)| CellPos::new(x, y));
    let turn = (0..8_usize).prop_map(|at| Turn::SQUARE[at]);
    let stone = (cell, 0..shapes().len() + 2, turn);
    prop::collection::vec(stone, 0..most).prop_map(|stones| {
        let mut kept: Vec<Stone> = Vec::new();
        for stone in stones {
            kept.retain(|held| held.0 != stone.0);
            kept.push(stone);
        }
        kept
    })
}

fn corners_of(stone: &Stone) -> Vec<(f64, f64)> {
    let there = |(x, y): &(f64, f64)| {
        ((f64::from(stone.0.x()) + x) * CELL, (f64::from(stone.0.y()) + y) * CELL)
    };
    shape_of(stone).corners().iter().map(there).collect()
}

/// The corners of a body without a radius.
fn corners_of_box(body: WorldRect) -> Vec<(f64, f64)> {
    let (a, b) = (body.min(), body.max());
    vec![(a.x, a.y), (b.x, a.y), (b.x, b.y), (a.x, b.y)]
}

type Point<N> = (N, N);

fn dot<N: Number>(a: &Point<N>, b: &Point<N>) -> N {
    a.0.clone() * b.0.clone() + a.1.clone() * b.1.clone()
}

fn points<N: Number>(corners: &[(f64, f64)]) -> Vec<Point<N>> {
    corners.iter().map(|(x, y)| (N::of(*x), N::of(*y))).collect()
}

/// The directions away from the edges of an outline, not of one length.
fn normals<N: Number>(corners: &[Point<N>]) -> Vec<Point<N>> {
    let edge = |at: usize| {
        let (a, b) = (&corners[at], &corners[(at + 1) % corners.len()]);
        (b.1.clone() - a.1.clone(), a.0.clone() - b.0.clone())
    };
    (0..corners.len()).map(edge).collect()
}

fn side_of<N: Number>(normal: &Point<N>) -> Side {
    if normal.0.abs() > normal.1.abs() {
        if normal.0.is_negative() { Side::Left } else { Side::Right }
    } else if normal.1.is_negative() {
        Side::Top
    } else {
        Side::Bottom
    }
}

/// When a body comes to an outline, and on which side, by the axes that can tell them apart: all
/// lie apart along one of them, or they overlap.
fn entry<N: Number>(
    body: &[Point<N>],
    stone: &[Point<N>],
    motion: &Point<N>,
    skin: f64,
) -> Option<(N, Side)> {
    let opposite = |(x, y): Point<N>| (-x, -y);
    let of_stone = normals(stone).into_iter().map(|axis| (axis, false));
    let of_body = normals(body).into_iter().map(|axis| (opposite(axis), true));
    let (mut enter, mut leave): (Option<N>, Option<N>) = (None, None);
    let mut entered = Vec::new();
    for (axis, is_body) in of_stone.chain(of_body) {
        let along = |points: &[Point<N>]| points.iter().map(|p| dot(p, &axis)).collect::<Vec<N>>();
        let least = along(body).into_iter().reduce(|a, b| if b < a { b } else { a })?;
        let most = along(stone).into_iter().reduce(|a, b| if b > a { b } else { a })?;
        let distance = least - most;
        let thickness = N::of(dot(&axis, &axis).to_f64().unwrap().sqrt() * skin);
        let speed = dot(motion, &axis);
        let is_outside = distance >= -thickness.clone();
        if speed.is_negative() {
            if is_outside {
                let zero = N::zero();
                let gap = if distance.is_negative() { zero } else { distance.clone() };
                let time = gap / -speed.clone();
                enter = Some(match enter {
                    Some(held) if held > time => held,
                    _ => time,
                });
            }
            entered.push((axis, is_body, distance, speed, thickness));
        } else if is_outside {
            return None;
        } else if speed.is_positive() {
            let time = (-thickness - distance) / speed;
            leave = Some(match leave {
                Some(held) if held < time => held,
                _ => time,
            });
        }
    }
    let enter = enter?;
    if enter >= N::of(1.0) || leave.is_some_and(|leave| enter >= leave) {
        return None;
    }
    // Of those that it is as near to as a skin, first one of the stone, then the flattest.
    let near = entered.into_iter().filter(|(_, _, distance, speed, thickness)| {
        distance.clone() + speed.clone() * enter.clone() >= -thickness.clone()
    });
    let order = |(axis, is_body, ..): &(Point<N>, bool, N, N, N)| {
        (*is_body, -(axis.1.clone() * axis.1.clone()) / dot(axis, axis))
    };
    let first = near.reduce(|a, b| if order(&b) < order(&a) { b } else { a })?;
    Some((enter, side_of(&first.0)))
}

/// What a body meets first: when, which cells at that time, and on which side.
fn judge<N: Number>(
    body: &[(f64, f64)],
    stones: &[Stone],
    motion: (f64, f64),
) -> Option<(N, Vec<(CellPos, Side)>)> {
    let (body, motion) = (points::<N>(body), (N::of(motion.0), N::of(motion.1)));
    let mut first: Option<(N, Vec<(CellPos, Side)>)> = None;
    for stone in stones {
        let outline = points::<N>(&corners_of(stone));
        let Some((time, side)) = entry(&body, &outline, &motion, CELL / 1024.0) else { continue };
        match &mut first {
            Some((held, cells)) if *held == time => cells.push((stone.0, side)),
            Some((held, _)) if *held < time => {}
            _ => first = Some((time, vec![(stone.0, side)])),
        }
    }
    first
}

const LITTLE: f64 = 1e-8;

/// Whether what is met is the same a little to each side, for a motion and for one a little turned.
fn is_sure(body: &[(f64, f64)], stones: &[Stone], motion: (f64, f64), little: f64) -> bool {
    let around = [(0.0, 0.0), (1.0, 1.0), (-1.0, -1.0), (1.0, -1.0), (-1.0, 1.0)];
    let around = around.map(|(x, y)| (x * little, y * little));
    let met = |(x, y): (f64, f64), (a, b): (f64, f64)| {
        let body: Vec<(f64, f64)> = body.iter().map(|(bx, by)| (bx + x, by + y)).collect();
        judge::<f64>(&body, stones, (motion.0 + a, motion.1 + b)).map(|(_, cells)| cells)
    };
    let verdict = met((0.0, 0.0), (0.0, 0.0));
    verdict.as_ref().is_none_or(|cells| cells.len() == 1)
        && around.iter().all(|by| around.iter().all(|turned| met(*by, *turned) == verdict))
}

/// The part of a ray that lies within an outline: it is cut by each edge by itself. Where it lies in
/// none, the second is not more than the first.
fn cut<N: Number>(outline: &[(f64, f64)], from: (f64, f64), way: (f64, f64)) -> (N, N) {
    let outline = points::<N>(outline);
    let (from, way) = ((N::of(from.0), N::of(from.1)), (N::of(way.0), N::of(way.1)));
    let (mut enter, mut leave) = (N::of(0.0), N::of(1.0));
    for (corner, normal) in outline.iter().zip(normals(&outline)) {
        let to = (from.0.clone() - corner.0.clone(), from.1.clone() - corner.1.clone());
        let (distance, speed) = (dot(&normal, &to), dot(&normal, &way));
        if speed.is_zero() {
            if !distance.is_negative() {
                return (N::of(1.0), N::of(0.0));
            }
            continue;
        }
        let time = -distance / speed.clone();
        if speed.is_negative() {
            enter = if time > enter { time } else { enter };
        } else {
            leave = if time < leave { time } else { leave };
        }
    }
    (enter, leave)
}

fn quarter(v: i32) -> f64 {
    f64::from(v) * 0.25
}

fn any_polygon() -> impl Strategy<Value = ConvexPolygon> {
    let point = (-60..60_i32, -60..60_i32);
    prop::collection::vec(point, 3..7).prop_filter_map("flat", |points| {
        let polygon = ConvexPolygon::new(
            points.iter().map(|(x, y)| WorldPoint::new(quarter(*x), quarter(*y))),
        )?;
        // None so thin that it is made wider.
        let corners = polygon.corners();
        let width = |at: usize| {
            let (a, b) = (corners[at], corners[(at + 1) % corners.len()]);
            let line = |c: &WorldPoint| {
                let (way, to) = (b - a, *c - a);
                (way.x * to.y - way.y * to.x) / way.length()
            };
            corners.iter().map(line).fold(0.0, f64::max)
        };
        (0..corners.len()).all(|at| width(at) > 1.0).then_some(polygon)
    })
}

/// The distance of a point from a line between two others.
fn to_segment(p: WorldPoint, a: WorldPoint, b: WorldPoint) -> f64 {
    let (way, from) = (b - a, p - a);
    let square = way.dot(way);
    let share = if square == 0.0 { 0.0 } else { (from.dot(way) / square).clamp(0.0, 1.0) };
    (from - way * share).length()
}

/// The distance of a line from a convex outline, by all their corners and edges; 0 where it lies in
/// it.
fn distance(line: (WorldPoint, WorldPoint), outline: &[(f64, f64)]) -> f64 {
    let corner = |at: usize| {
        let (x, y) = outline[at % outline.len()];
        WorldPoint::new(x, y)
    };
    let cross = |a: WorldVec, b: WorldVec| a.x * b.y - a.y * b.x;
    let is_in = |p: WorldPoint| {
        (0..outline.len()).all(|at| cross(corner(at + 1) - corner(at), p - corner(at)) >= 0.0)
    };
    let crosses = |a: WorldPoint, b: WorldPoint| {
        let (p, q) = line;
        cross(b - a, p - a) * cross(b - a, q - a) < 0.0
            && cross(q - p, a - p) * cross(q - p, b - p) < 0.0
    };
    let mut least = f64::INFINITY;
    for at in 0..outline.len() {
        let (a, b) = (corner(at), corner(at + 1));
        if crosses(a, b) {
            return 0.0;
        }
        let near =
            [to_segment(line.0, a, b), to_segment(line.1, a, b), to_segment(a, line.0, line.1)];
        least = near.into_iter().fold(least, f64::min);
    }
    if is_in(line.0) || is_in(line.1) { 0.0 } else { least }
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(1000))]

    #[test]
    fn boxes_and_polygons_meet_what_the_judge_says(
        stones in any_stones(40),
        polygon in any_polygon(),
        far in any_far(),
        (x, y, w, h) in (-400..400_i32, -400..400_i32, 4..80_i32, 4..80_i32),
        (dx, dy) in (-800..800_i32, -800..800_i32),
    ) {
        let (ground, mover) = far_yard(&stones, far);
        // All numbers are exact there as here.
        let away = WorldVec::new(f64::from(far) * CELL, f64::from(-far) * CELL);
        let motion = WorldVec::new(quarter(dx), quarter(dy));
        let corner = WorldPoint::new(quarter(x), quarter(y));
        let body = WorldRect::between(corner, corner + WorldVec::new(quarter(w), quarter(h)));
        let polygon = polygon.moved(WorldVec::new(quarter(x), quarter(y)));
        let of_polygon: Vec<(f64, f64)> = polygon.corners().iter().map(|c| (c.x, c.y)).collect();
        // Where a box comes to two sides of a whole cell within a skin, it has a rule of its own.
        let skin = 2.0 * GroundMap::SKIN * CELL;
        let met = [
            (corners_of_box(body), skin, {
                let sweep = ground.sweep(mover, body.moved(away), motion);
                (sweep.fraction, sweep.contact)
            }),
            (of_polygon, LITTLE, {
                let sweep = ground.sweep(mover, polygon.moved(away), motion);
                (sweep.fraction, sweep.contact)
            }),
        ];
        for (corners, little, (fraction, contact)) in met {
            if !is_sure(&corners, &stones, (motion.x, motion.y), little) {
                continue;
            }
            let verdict = judge::<BigRational>(&corners, &stones, (motion.x, motion.y));
            let place = contact.map(|contact| {
                let cell = CellPos::new(contact.cell.x() - far, contact.cell.y() + far);
                vec![(cell, contact.side)]
            });
            prop_assert_eq!(place, verdict.as_ref().map(|(_, cells)| cells.clone()));
            let time = verdict.map_or(1.0, |(time, _)| time.to_f64().unwrap());
            let way = (motion.x.powi(2) + motion.y.powi(2)).sqrt();
            prop_assert!((fraction - time).abs() * way < 1e-8, "{} and {}", fraction, time);
        }
    }

    #[test]
    fn circles_and_capsules_meet_what_is_first_as_near_as_their_radius(
        stones in any_stones(40),
        (x, y) in (-90.0..90.0_f64, -90.0..90.0_f64),
        (along, down) in (-12.0..12.0_f64, -12.0..12.0_f64),
        radius in 0.5..14.0_f64,
        is_capsule in any::<bool>(),
        (dx, dy) in (-200.0..200.0_f64, -200.0..200.0_f64),
    ) {
        let (ground, mover) = yard(&stones);
        let (from, motion) = (WorldPoint::new(x, y), WorldVec::new(dx, dy));
        let to = if is_capsule { from + WorldVec::new(along, down) } else { from };
        let (fraction, contact) = if is_capsule {
            let sweep = ground.sweep(mover, Capsule::new(from, to, radius), motion);
            (sweep.fraction, sweep.contact)
        } else {
            let sweep = ground.sweep(mover, Circle::new(from, radius), motion);
            (sweep.fraction, sweep.contact)
        };
        let skin = CELL / 1024.0;
        let mut first: Option<(f64, CellPos)> = None;
        for stone in &stones {
            let outline = corners_of(stone);
            let apart = |time: f64| {
                let by = motion * time;
                distance((from + by, to + by), &outline) - radius
            };
            // Where it lies in it, or nearly, at the beginning, only that it is not held counts.
            if apart(0.0) < 1e-6 {
                if apart(0.0) > -2.0 * skin {
                    return Ok(());
                }
                continue;
            }
            // The distance is convex: down to the least, and up again.
            let (mut low, mut high) = (0.0, 1.0);
            for _ in 0..200 {
                let (a, b) = (low + (high - low) / 3.0, high - (high - low) / 3.0);
                if apart(a) < apart(b) { high = b } else { low = a }
            }
            let nearest = f64::midpoint(low, high);
            if apart(nearest) > -2.0 * skin {
                if apart(nearest) < 1e-6 {
                    // It only grazes it.
                    return Ok(());
                }
                continue;
            }
            let (mut outside, mut inside) = (0.0, nearest);
            for _ in 0..80 {
                let middle = f64::midpoint(outside, inside);
                if apart(middle) > 0.0 { outside = middle } else { inside = middle }
            }
            if first.is_none_or(|(held, _)| inside < held) {
                first = Some((inside, stone.0));
            }
        }
        let way = (dx * dx + dy * dy).sqrt();
        let time = first.map_or(1.0, |(time, _)| time);
        prop_assert!((fraction - time).abs() * way < 1e-6, "{} and {:?}: {:?}", fraction, first, contact);
        if let Some(contact) = contact {
            // Where they touch lies on the outline of the cell, and as near to the body as it reaches.
            let stone = stones.iter().find(|stone| stone.0 == contact.cell).unwrap();
            let point = (contact.point, contact.point);
            prop_assert!(distance(point, &corners_of(stone)) < 1e-6);
            let by = motion * fraction;
            let near = to_segment(contact.point, from + by, to + by);
            prop_assert!((near - radius).abs() < 1e-5);
            prop_assert!(contact.normal.x * dx + contact.normal.y * dy < 0.0);
        }
    }

    #[test]
    fn a_ray_meets_the_first_outline_that_it_goes_into(
        stones in any_stones(60),
        far in any_far(),
        (x, y) in (-5120..5120_i32, -5120..5120_i32),
        (dx, dy) in (-12_800..12_800_i32, -12_800..12_800_i32),
    ) {
        let (ground, mover) = far_yard(&stones, far);
        let part = |v: i32| f64::from(v) / 64.0;
        let (from, motion) = ((part(x), part(y)), (part(dx), part(dy)));
        let there = WorldPoint::new(from.0 + f64::from(far) * CELL, from.1 - f64::from(far) * CELL);
        let hit = ground.ray(mover, there, WorldVec::new(motion.0, motion.1));
        // Where floats are near to each other, rounding may decide.
        let mut times = Vec::new();
        for stone in &stones {
            let (enter, leave) = cut::<f64>(&corners_of(stone), from, motion);
            if (enter - leave).abs() * 200.0 < 1e-7 || (1.0 - enter).abs() * 200.0 < 1e-7 {
                return Ok(());
            }
            times.extend((enter < leave).then_some(enter));
        }
        times.sort_by(f64::total_cmp);
        if times.windows(2).take(1).any(|pair| (pair[1] - pair[0]) * 200.0 < 1e-7) {
            return Ok(());
        }
        let mut first: Option<(BigRational, CellPos)> = None;
        for stone in &stones {
            let (enter, leave) = cut::<BigRational>(&corners_of(stone), from, motion);
            if enter < leave && first.as_ref().is_none_or(|(held, _)| enter < *held) {
                first = Some((enter, stone.0));
            }
        }
        let cell = |cell: CellPos| CellPos::new(cell.x() - far, cell.y() + far);
        prop_assert_eq!(hit.map(|hit| cell(hit.cell)), first.as_ref().map(|(_, cell)| *cell));
        if let (Some(hit), Some((time, _))) = (hit, first) {
            prop_assert!((hit.fraction - time.to_f64().unwrap()).abs() < 1e-9);
            // One that begins on an edge and goes in has met the edge.
            prop_assert!(hit.side.is_some() || time == BigRational::of(0.0));
        }
    }

    #[test]
    fn a_shape_is_what_was_stated_whichever_way(
        points in prop::collection::vec((0..17_i32, 0..17_i32), 3..9),
        turn in 0..8_usize,
    ) {
        let part = |v: i32| f64::from(v) / 16.0;
        let hull = ConvexPolygon::new(
            points.iter().map(|(x, y)| WorldPoint::new(part(*x), part(*y))),
        );
        let Some(hull) = hull else { return Ok(()) };
        let corners: Vec<(f64, f64)> = hull.corners().iter().map(|c| (c.x, c.y)).collect();
        let shape = match CellShape::polygon(corners.clone()) {
            Ok(shape) => shape,
            Err(CellShapeError::Thin) => return Ok(()),
            Err(error) => return Err(TestCaseError::fail(error.to_string())),
        };
        let mut back = corners.clone();
        back.reverse();
        prop_assert_eq!(CellShape::polygon(back).unwrap(), shape);
        let turn = Turn::SQUARE[turn];
        prop_assert_eq!(shape.turned(turn).turned(turn.inverse()), shape);
        // It comes back from the file as it was.
        let tile = TileSpec::named("part").ground("stone").shape(shape.turned(turn));
        let set = TileSet::builder("yard").tile(tile).build().unwrap();
        let mut quilt = Quilt::new(Lattice::default());
        quilt.edit("add", |pen| {
            pen.add_ground_classes(["stone"])?;
            pen.put_tiles(set)
        }).unwrap();
        let saved = quilt.to_json().unwrap();
        let mut source = MemorySource::default();
        source.add("yard.quilt.json", saved);
        let loaded = Quilt::load(&source, "yard.quilt.json").unwrap();
        let held = loaded.tiles().tile(loaded.tile("yard/part").unwrap());
        prop_assert_eq!(held.unwrap().shape(), Some(&shape.turned(turn)));
    }
}

/// A body of some kind at a place.
fn body_points(kind: usize, at: WorldPoint) -> ConvexPolygon {
    let reach = 3.0 + kind as f64;
    let points = [(0.0, -reach), (reach, 0.0), (2.0, 5.0), (-3.0, 4.0), (-reach, -1.0)];
    ConvexPolygon::new(points.map(|(x, y)| at + WorldVec::new(x, y))).unwrap()
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(60))]

    #[test]
    fn a_way_out_is_free_and_none_is_shorter(
        stones in any_stones(50),
        (x, y) in (-80.0..80.0_f64, -80.0..80.0_f64),
        size in 3.0..12.0_f64,
        kind in 0..3_usize,
    ) {
        // `fatter` is the body with a skin around it: where it is free, the body is in nothing.
        fn check<B: Body>((ground, mover): (&GroundMap, MoverId), body: B, fatter: B) -> Result<(), TestCaseError> {
            let reach = 40.0;
            let Some(way) = ground.push_out(mover, body, reach) else {
                for step in 0..400 {
                    let (sin, cos) = (f64::from(step) * 0.1).sin_cos();
                    let way = WorldVec::new(cos, sin) * (f64::from(step) / 10.0);
                    prop_assert!(ground.overlaps(mover, fatter.moved(way)), "{:?} leads out", way);
                }
                return Ok(());
            };
            prop_assert!(!ground.overlaps(mover, body.moved(way)));
            let shorter = way.length() - 1e-6;
            for step in 0..720 {
                let (sin, cos) = (f64::from(step) * std::f64::consts::TAU / 720.0).sin_cos();
                for part in [0.3, 0.7, 0.9, 1.0] {
                    let other = WorldVec::new(cos, sin) * (shorter * part);
                    prop_assert!(shorter <= 0.0 || ground.overlaps(mover, fatter.moved(other)));
                }
            }
            Ok(())
        }
        const SKIN: f64 = CELL * GroundMap::SKIN;
        let (ground, mover) = yard(&stones);
        let at = WorldPoint::new(x, y);
        match kind {
            0 => {
                let body = WorldRect::between(at, at + WorldVec::new(size, size));
                check((&ground, mover), body, body.grown(SKIN))?;
            }
            1 => check((&ground, mover), Circle::new(at, size), Circle::new(at, size + SKIN))?,
            _ => {
                let body = body_points(kind, at);
                let outwards = |corner: &WorldPoint| at + (*corner - at) * (1.0 + SKIN / 2.0);
                let fatter = ConvexPolygon::new(body.corners().iter().map(outwards)).unwrap();
                check((&ground, mover), body, fatter)?;
            }
        }
    }

    #[test]
    fn shares_are_the_parts_of_a_body_that_lie_in_each_shape(
        stones in any_stones(60),
        (x, y) in (-60.0..60.0_f64, -60.0..60.0_f64),
        radius in 2.0..20.0_f64,
    ) {
        let (ground, mover) = yard(&stones);
        let ball = Circle::new(WorldPoint::new(x, y), radius);
        let bounds = ball.bounds();
        let under: Vec<_> = ground.overlapping(mover, ball).collect();
        // By a fine net of points.
        let (mut all, mut within) = (0.0, std::collections::BTreeMap::<CellPos, f64>::new());
        for (a, b) in (0..200).flat_map(|a| (0..200).map(move |b| (a, b))) {
            let part = |v: i32| (f64::from(v) + 0.5) / 200.0;
            let at = bounds.min() + WorldVec::new(part(a) * bounds.width(), part(b) * bounds.height());
            if (at - ball.center).length() > radius {
                continue;
            }
            all += 1.0;
            let cell = ground.lattice().cell_at(at);
            let from = at - ground.lattice().bounds(cell).min();
            let corners = ground.shape_at(cell).corners().to_vec();
            let is_in = (0..corners.len()).all(|at| {
                let (a, b) = (corners[at], corners[(at + 1) % corners.len()]);
                (b.0 - a.0) * (from.y / CELL - a.1) - (b.1 - a.1) * (from.x / CELL - a.0) >= 0.0
            });
            if is_in {
                *within.entry(cell).or_default() += 1.0;
            }
        }
        for overlap in &under {
            let counted = within.get(&overlap.cell).copied().unwrap_or_default() / all;
            prop_assert!((overlap.share - counted).abs() < 0.01, "{:?}: {}", overlap, counted);
            prop_assert!(overlap.depth > 0.0);
            // That far along its direction, it has left the shape.
            let out = ball.moved(overlap.normal * (overlap.depth + 1e-9));
            prop_assert!(ground.overlapping(mover, out).all(|other| other.cell != overlap.cell));
        }
        let blocks = under.iter().any(|overlap| overlap.treatment.blocks());
        prop_assert_eq!(ground.overlaps(mover, ball), blocks);
    }

    #[test]
    fn refreshed_shapes_equal_new_ones(
        stones in any_stones(60),
        edits in prop::collection::vec(any_stones(6), 1..5),
    ) {
        let bounds = CellRect::new(CellPos::new(-40, -40), 80, 80);
        let mut quilt = yard_quilt(&stones, bounds);
        let mut kept = GroundMap::of(&quilt);
        for stones in edits {
            lay(&mut quilt, stones);
            kept.refresh(&quilt);
            let new = GroundMap::of(&quilt);
            let mover = quilt.mover("body").unwrap();
            for cell in CellRect::new(CellPos::new(-6, -6), 12, 12).cells() {
                prop_assert_eq!(kept.shape_at(cell), new.shape_at(cell));
                prop_assert_eq!(kept.treatment(mover, cell), new.treatment(mover, cell));
                let middle = new.lattice().center(cell);
                for motion in [WorldVec::new(60.0, 9.0), WorldVec::new(-13.0, 50.0)] {
                    let ball = Circle::new(middle, 3.0);
                    prop_assert_eq!(kept.sweep(mover, ball, motion), new.sweep(mover, ball, motion));
                    let body = WorldRect::between(middle, middle + WorldVec::new(5.0, 5.0));
                    prop_assert_eq!(kept.sweep(mover, body, motion), new.sweep(mover, body, motion));
                    prop_assert_eq!(kept.ray(mover, middle, motion), new.ray(mover, middle, motion));
                }
            }
        }
    }
}

/// Moves bodies of a kind at random, and lets none end in anything.
fn soak<B: Body>(rng: &mut TestRng, moves: u32, make: impl Fn(WorldPoint, f64) -> B) {
    let number = |rng: &mut TestRng, most: f64| {
        (f64::from(rng.next_u32()) / f64::from(u32::MAX) - 0.5) * 2.0 * most
    };
    let each = 500;
    for _ in 0..moves / each {
        let mut stones: Vec<Stone> = Vec::new();
        for _ in 0..60 {
            let at = CellPos::new(number(rng, 7.0) as i32, number(rng, 7.0) as i32);
            let stone =
                (at, rng.next_u32() as usize % 11, Turn::SQUARE[rng.next_u32() as usize % 8]);
            stones.retain(|held| held.0 != at);
            stones.push(stone);
        }
        let (ground, mover) = yard(&stones);
        let mut body = make(WorldPoint::new(-150.0, -150.0), 2.0);
        for turn in 0..each {
            if turn % 50 == 0 {
                let at = WorldPoint::new(number(rng, 120.0), number(rng, 120.0));
                let placed = make(at, 1.0 + number(rng, 6.0).abs());
                if ground.overlaps(mover, placed) {
                    continue;
                }
                body = placed;
            }
            let far = if turn % 7 == 0 { 300.0 } else { 6.0 };
            let motion = WorldVec::new(number(rng, far), number(rng, far));
            let options = match turn % 3 {
                0 => SlideOptions::new(),
                1 => SlideOptions::new().slopes().step_up(6.0).step_down(6.0),
                _ => SlideOptions::new().turns(4).all_corners(2.0),
            };
            let slide = ground.slide_with(mover, body, motion, options);
            let end = slide.end;
            assert!(
                !ground.overlaps(mover, end),
                "{body:?} by {motion:?} ends in something: {end:?}, {slide:?}, {:?}, {:?}, begins {:?}",
                ground.overlapping(mover, end).collect::<Vec<_>>(),
                stones.iter().map(|stone| (stone.0, shape_of(stone))).collect::<Vec<_>>(),
                ground.overlapping(mover, body).collect::<Vec<_>>(),
            );
            body = end;
        }
    }
}

#[test]
fn a_million_moves_among_shapes_end_in_nothing_solid() {
    let mut rng = TestRng::deterministic_rng(RngAlgorithm::ChaCha);
    let square =
        |at: WorldPoint, size: f64| WorldRect::between(at, at + WorldVec::new(size, size * 1.7));
    soak(&mut rng, 400_000, square);
    soak(&mut rng, 250_000, Circle::new);
    let pill =
        |at: WorldPoint, size: f64| Capsule::new(at, at + WorldVec::new(1.0, size), size / 2.0);
    soak(&mut rng, 150_000, pill);
    soak(&mut rng, 200_000, |at, size| body_points(size as usize, at));
}

/// A flat way of half floors, whole cells below, and at its end a wall.
fn walkway() -> (GroundMap, MoverId) {
    let half = shapes().iter().position(|shape| shape.as_floor() == Some((0.5, 0.5))).unwrap();
    let stones: Vec<Stone> = (-20..20).map(|x| (CellPos::new(x, 0), half, Turn::NONE)).collect();
    yard(&stones)
}

#[test]
fn nothing_snags_on_a_row_of_low_walls() {
    let (ground, mover) = walkway();
    let floor = 8.0;
    fn roll<B: Body>((ground, mover): (&GroundMap, MoverId), body: B, motion: WorldVec) {
        let slide = ground.slide(mover, body, motion);
        let contacts: Vec<_> = slide.contacts().collect();
        assert!(contacts.iter().all(|met| met.normal == WorldVec::new(0.0, -1.0)), "{contacts:?}");
        let gone = slide.end.bounds().min().x - body.bounds().min().x;
        assert!((gone - motion.x).abs() < 1e-9, "{body:?} went {gone} of {motion:?}");
    }
    for inside in [0.0, 1e-3, 1e-9] {
        for step in 0..2000 {
            let x = f64::from(step) * 0.11 - 150.0;
            let bottom = floor + inside;
            for down in [0.0, 0.5, 30.0] {
                let motion = WorldVec::new(if step % 2 == 0 { 40.0 } else { -40.0 }, down);
                let corner = WorldPoint::new(x, bottom - 9.0);
                let body = WorldRect::between(corner, WorldPoint::new(x + 6.0, bottom));
                roll((&ground, mover), body, motion);
                let ball = Circle::new(WorldPoint::new(x, bottom - 5.0), 5.0);
                roll((&ground, mover), ball, motion);
                let high = WorldPoint::new(x, bottom - 12.0);
                roll((&ground, mover), Capsule::new(high, ball.center, 5.0), motion);
                let kite = [(0.0, 0.0), (4.0, -6.0), (0.0, -9.0), (-4.0, -6.0)];
                let kite = kite.map(|(dx, dy)| WorldPoint::new(x + dx, bottom + dy));
                roll((&ground, mover), ConvexPolygon::new(kite).unwrap(), motion);
            }
        }
    }
}

/// A floor at y = 32, that rises by two half slopes and a whole one up to y = 0, and falls again.
fn hill() -> (GroundMap, MoverId) {
    let place = |left: f64, right: f64| {
        shapes().iter().position(|shape| shape.as_floor() == Some((left, right))).unwrap()
    };
    let (steep, low, high) = (place(0.0, 1.0), place(0.0, 0.5), place(0.5, 1.0));
    let whole = shapes().len();
    let mut stones: Vec<Stone> =
        (-20..20).map(|x| (CellPos::new(x, 2), whole, Turn::NONE)).collect();
    for (at, number) in [(0, low), (1, high)] {
        stones.push((CellPos::new(at, 1), number, Turn::NONE));
        stones.push((CellPos::new(8 - at, 1), number, Turn::MIRROR));
    }
    stones.push((CellPos::new(2, 0), steep, Turn::NONE));
    stones.push((CellPos::new(6, 0), steep, Turn::MIRROR));
    stones.extend((2..7).map(|x| (CellPos::new(x, 1), whole, Turn::NONE)));
    stones.extend((3..6).map(|x| (CellPos::new(x, 0), whole, Turn::NONE)));
    yard(&stones)
}

#[test]
fn a_walker_goes_over_a_hill_at_its_speed_and_stays_on_it() {
    fn walk<B: Body>((ground, mover): (&GroundMap, MoverId), body: B, step: f64) {
        let options = SlideOptions::new().slopes().step_down(2.0 * step.abs());
        let fall = WorldVec::new(0.0, 2.0);
        let mut body = ground.slide_with(mover, body, WorldVec::new(0.0, 40.0), options).end;
        let begin = body.bounds();
        let mut highest = begin.min().y;
        for count in 1..=(220.0 / step.abs()) as u32 {
            let slide = ground.slide_with(mover, body, WorldVec::new(step, 0.0) + fall, options);
            assert!(slide.has_met(Side::Top), "in the air at {:?}", slide.end);
            assert!(
                !slide.contacts().any(|met| met.side.is_upright()),
                "snags at {:?}: {:?}",
                slide.end,
                slide.contacts().collect::<Vec<_>>()
            );
            body = slide.end;
            let gone = body.bounds().min().x - begin.min().x;
            assert!(
                (gone - step * f64::from(count)).abs() < 0.05 * f64::from(count.min(20)),
                "{gone} after {count}"
            );
            highest = highest.min(body.bounds().min().y);
        }
        // The hill is 32 units high.
        let climbed = begin.min().y - highest;
        assert!((climbed - 32.0).abs() < 0.1, "climbed {climbed}");
        assert!((body.bounds().max().y - 32.0).abs() < 0.1);
        // On the slope it stands still.
        let resting = ground.slide_with(mover, body, fall, options).end;
        assert!((resting.bounds().min() - body.bounds().min()).length() < 0.02);
    }
    let (ground, mover) = hill();
    for step in [0.5, 1.0, 3.0, 7.0] {
        let left = WorldPoint::new(-32.0, 10.0);
        walk((&ground, mover), WorldRect::between(left, left + WorldVec::new(6.0, 12.0)), step);
        walk((&ground, mover), Circle::new(left, 5.0), step);
        walk((&ground, mover), Capsule::new(left, left + WorldVec::new(0.0, 6.0), 4.0), step);
        let right = WorldPoint::new(170.0, 10.0);
        walk((&ground, mover), WorldRect::between(right, right + WorldVec::new(6.0, 12.0)), -step);
    }
}

#[test]
fn without_slopes_as_floors_a_body_slips_down() {
    let (ground, mover) = hill();
    let body = WorldRect::between(WorldPoint::new(37.0, -20.0), WorldPoint::new(43.0, -10.0));
    let fall = WorldVec::new(0.0, 60.0);
    let slipped = ground.slide(mover, body, fall);
    assert!(slipped.end.min().x < 34.0, "{slipped:?}");
    let stays = ground.slide_with(mover, body, fall, SlideOptions::new().slopes());
    assert_eq!(stays.end.min().x, 37.0);
    let floor = stays.contacts().next().unwrap();
    assert_eq!((floor.cell, floor.side), (CellPos::new(2, 0), Side::Top));
    assert!((floor.normal - WorldVec::new(-0.5_f64.sqrt(), -0.5_f64.sqrt())).length() < 1e-12);
    // It stands by its lower right corner.
    assert!((floor.point - stays.end.max()).length() < 1e-9);
}

#[test]
fn small_moves_along_a_slope_end_where_a_great_one_does() {
    let (ground, mover) = hill();
    let body = WorldRect::between(WorldPoint::new(34.0, -20.0), WorldPoint::new(38.0, -6.0));
    let start = ground.sweep(mover, body, WorldVec::new(0.0, 30.0)).end;
    for options in [SlideOptions::new(), SlideOptions::new().slopes()] {
        let motion = WorldVec::new(6.0, 3.0);
        let great = ground.slide_with(mover, start, motion, options).end;
        let small = (0..10)
            .fold(start, |body, _| ground.slide_with(mover, body, motion * 0.1, options).end);
        let apart = (great.min() - small.min()).length();
        assert!(apart <= CELL * GroundMap::SKIN / 32.0, "{apart} apart");
    }
}

#[test]
fn far_from_the_origin_slopes_are_as_they_are_near() {
    let slope = shapes().iter().position(|shape| shape.as_floor() == Some((0.0, 1.0))).unwrap();
    let far = 6_250_000;
    let stones = [(CellPos::new(far, far), slope, Turn::NONE)];
    let bounds = CellRect::new(CellPos::new(far - 9, far - 9), 20, 20);
    let quilt = yard_quilt(&stones, bounds);
    let (ground, mover) = body_of(&quilt);
    // 1e8 units away.
    let corner = WorldPoint::new(f64::from(far) * CELL, f64::from(far) * CELL);
    let ball = Circle::new(corner + WorldVec::new(8.0, -20.0), 4.0);
    let sweep = ground.sweep(mover, ball, WorldVec::new(0.0, 100.0));
    // It comes to the slope where it is a radius away from it, across.
    let height = 8.0 - 4.0 * 2.0_f64.sqrt();
    assert!((sweep.end.center.y - (corner.y + height)).abs() < 1e-6, "{:?}", sweep.end);
    let slide = ground.slide(mover, ball, WorldVec::new(4.0, 100.0));
    assert!(!ground.overlaps(mover, slide.end) && slide.end.center.x < ball.center.x);
}

#[test]
fn a_sloping_platform_stops_what_comes_from_above() {
    let slope = shapes().iter().position(|shape| shape.as_floor() == Some((0.0, 0.5))).unwrap();
    let stones = [(CellPos::new(0, 0), slope, Turn::NONE)];
    let quilt = yard_quilt(&stones, CellRect::new(CellPos::new(-9, -9), 20, 20));
    let (ground, mover) = (GroundMap::of(&quilt), quilt.mover("drop").unwrap());
    let fall = WorldVec::new(0.0, 50.0);
    let above = WorldRect::between(WorldPoint::new(4.0, -20.0), WorldPoint::new(8.0, -10.0));
    let landed = ground.sweep(mover, above, fall);
    assert!((landed.end.max().y - 12.0).abs() < 1e-9);
    assert_eq!(landed.contact.unwrap().side, Side::Top);
    let below = above.moved(WorldVec::new(0.0, 40.0));
    assert_eq!(ground.sweep(mover, below, fall * -1.0).contact, None);
    assert_eq!(
        ground
            .sweep(mover, below.moved(WorldVec::new(26.0, -10.0)), WorldVec::new(-40.0, 0.0))
            .contact,
        None
    );
    let ray = |from: (f64, f64), way: f64| {
        ground.ray(mover, WorldPoint::new(from.0, from.1), WorldVec::new(0.0, way))
    };
    let hit = ray((8.0, -10.0), 40.0).unwrap();
    assert!((hit.point - WorldPoint::new(8.0, 12.0)).length() < 1e-9);
    assert_eq!(ray((8.0, 30.0), -60.0), None);
    assert!(!ground.overlaps(mover, Circle::new(WorldPoint::new(10.0, 13.0), 2.0)));
}

#[test]
fn a_ray_between_slopes_that_meet_at_a_corner_is_stopped() {
    let slope = shapes().iter().position(|shape| shape.as_floor() == Some((0.0, 1.0))).unwrap();
    // One from lower left to the corner at 16,16, the other on from there.
    let stones = [(CellPos::new(0, 1), slope, Turn::NONE), (CellPos::new(1, 0), slope, Turn::NONE)];
    let (ground, mover) = yard(&stones);
    let hit = ground.ray(mover, WorldPoint::new(8.0, 8.0), WorldVec::new(20.0, 20.0)).unwrap();
    assert_eq!((hit.point, hit.cell), (WorldPoint::new(16.0, 16.0), CellPos::new(1, 0)));
    // From below it comes to a slope before that.
    let back = ground.ray(mover, WorldPoint::new(24.0, 24.0), WorldVec::new(-20.0, -20.0)).unwrap();
    assert_eq!(back.point, WorldPoint::new(16.0, 16.0));
    // Beside one slope alone there is a way.
    let (ground, mover) = yard(&stones[..1]);
    assert_eq!(ground.ray(mover, WorldPoint::new(8.0, 8.0), WorldVec::new(20.0, 20.0)), None);
}

#[test]
fn a_point_is_in_the_part_that_is_solid() {
    let stones = [(CellPos::new(0, 0), 3, Turn::NONE)];
    let (ground, mover) = yard(&stones);
    let blocked = |x, y| ground.blocked_at(mover, WorldPoint::new(x, y));
    assert!(!blocked(4.0, 7.9) && blocked(4.0, 8.0) && blocked(0.0, 15.9) && !blocked(16.0, 12.0));
    assert!(ground.blocked(mover, CellPos::new(0, 0)));
    assert_eq!(ground.speed_at(mover, WorldPoint::new(4.0, 4.0)), 1.0);
    assert_eq!(ground.speed_at(mover, WorldPoint::new(4.0, 12.0)), 0.0);
}

#[test]
fn shapes_that_cannot_be_say_why() {
    let polygon = |corners: &[(f64, f64)]| CellShape::polygon(corners.iter().copied());
    let bent = polygon(&[(0.0, 0.0), (1.0, 0.0), (0.5, 0.25), (1.0, 1.0)]);
    assert!(matches!(bent, Err(CellShapeError::Concave { .. })), "{bent:?}");
    let star = polygon(&[(0.5, 0.0), (0.8, 1.0), (0.0, 0.4), (1.0, 0.4), (0.2, 1.0)]);
    assert!(matches!(star, Err(CellShapeError::Concave { .. })), "{star:?}");
    let flat = CellShape::floor(0.0, 0.01);
    assert!(matches!(flat, Err(CellShapeError::Thin)), "{flat:?}");
    for odd in [f64::NAN, -0.1, 1.5, f64::INFINITY] {
        let error = CellShape::floor(0.5, odd).unwrap_err();
        assert!(matches!(error, CellShapeError::Outside { .. }), "{error:?}");
    }
    assert!(matches!(polygon(&[(0.0, 0.0)]), Err(CellShapeError::Count { count: 1 })));
    let round = (0..9).map(|at| {
        let (sin, cos) = (f64::from(at) * std::f64::consts::TAU / 9.0).sin_cos();
        (0.5 + cos / 2.0, 0.5 + sin / 2.0)
    });
    assert!(matches!(CellShape::polygon(round), Err(CellShapeError::Count { count: 9 })));
    assert_eq!(CellShape::floor(1.0, 1.0), Ok(CellShape::SQUARE));
}

/// Two cells that touch at a corner close it for a ray, and the corner is told.
#[test]
fn a_corner_that_stops_a_ray_is_told() {
    let (floor, ceiling) = (3, 4);
    for (x, y) in [(1, 1), (1, -1), (-1, 1), (-1, -1)] {
        let (beside, below) = if y > 0 { (floor, ceiling) } else { (ceiling, floor) };
        let (beside, below) =
            ((CellPos::new(x, 0), beside, Turn::NONE), (CellPos::new(0, y), below, Turn::NONE));
        let (ground, mover) = yard(&[beside, below]);
        let way = WorldVec::new(f64::from(x) * CELL, f64::from(y) * CELL);
        let from = WorldPoint::new(8.0, 8.0);
        let hit = ground.ray(mover, from, way).expect("the corner is closed");
        assert_eq!((hit.cell, hit.point), (beside.0, from + way * 0.5));
        let Some(ShapePart::Corner(at)) = hit.part else { panic!("{hit:?}") };
        let (left, top) = shape_of(&beside).corners()[usize::from(at)];
        let corner = WorldPoint::new((left + f64::from(x)) * CELL, top * CELL);
        assert_eq!(corner, hit.point);
        // One of them alone does not.
        let (ground, mover) = yard(&[beside]);
        assert_eq!(ground.ray(mover, from, way * 0.75), None);
    }
}

#[test]
fn odd_bodies_do_no_harm() {
    let whole = shapes().len();
    let stones: Vec<Stone> =
        (-5..5).map(|x| (CellPos::new(x, 0), (x + 5) as usize % (whole + 1), Turn::NONE)).collect();
    let (ground, mover) = yard(&stones);
    let fall = WorldVec::new(3.0, 100.0);
    let odd = [f64::NAN, f64::INFINITY, f64::NEG_INFINITY, f64::MAX, 1e300, -1.0, 0.0, 1e-300];
    for a in odd {
        for b in odd {
            let (place, high) = (WorldPoint::new(a, b), WorldPoint::new(0.0, -50.0));
            for circle in [Circle::new(place, 3.0), Circle::new(high, a), Circle::new(place, b)] {
                for motion in [fall, WorldVec::new(a, b), WorldVec::ZERO] {
                    let slide = ground.slide(mover, circle, motion);
                    assert!(slide.contacts().all(|met| met.point.x.is_finite()), "{circle:?}");
                    ground.overlaps(mover, circle);
                }
            }
            let capsule = Capsule::new(place, high, 2.0);
            ground.slide(mover, capsule, fall);
            ground.push_out(mover, capsule, a);
            ground.push_out(mover, Circle::new(high, b), a);
        }
    }
    let polygon = |points: &[(f64, f64)]| {
        ConvexPolygon::new(points.iter().map(|(x, y)| WorldPoint::new(*x, *y)))
    };
    assert_eq!(polygon(&[(0.0, 0.0), (1.0, f64::NAN), (1.0, 0.0)]), None);
    assert_eq!(polygon(&[(0.0, 0.0), (1.0, 1.0), (2.0, 2.0)]), None);
    assert_eq!(polygon(&[]), None);
    // Between two long cells, what is thinner than their skin is still stopped.
    let mut quilt = Quilt::new(Lattice::square(16.0, 16_000.0).unwrap());
    quilt.edit("a wall all around", |pen| pen.put_mover(Mover::new("body"))).unwrap();
    let (long, body) = (GroundMap::of(&quilt), quilt.mover("body").unwrap());
    let between = Circle::new(WorldPoint::new(8.0, 16_000.0), 2.0);
    assert!(long.overlaps(body, between));
    assert!(long.sweep(body, between, WorldVec::new(1e9, 0.0)).contact.is_some());
    // A giant counts as the box around it, and a point as something thin.
    let giant = Circle::new(WorldPoint::new(0.0, -1e6), 1e6 - 50.0);
    assert_eq!(ground.sweep(mover, giant, WorldVec::new(0.0, 80.0)).end.center.y, -1e6 + 50.0);
    let point = Circle::new(WorldPoint::new(-72.0, -20.0), 0.0);
    assert!(ground.sweep(mover, point, WorldVec::new(0.0, 80.0)).contact.is_some());
}
