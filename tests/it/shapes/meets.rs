//! What bodies and rays meet first, against judges that try every cell by itself and in another
//! way: in exact fractions where there is no radius.

use super::*;

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
    #![proptest_config(ProptestConfig::with_cases(600))]

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
}
