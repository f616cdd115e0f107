//! Boxes in motion: slides that never snag, speeds and steps. What a sweep meets, the judge says.

use proptest::prelude::*;
use proptest::test_runner::{RngAlgorithm, TestRng};
use sturdy_quilt::ground::{Circle, RayHit, SlideOptions};
use sturdy_quilt::quilt::Treatment;
use sturdy_quilt::{
    CellPos, CellRect, GroundMap, Mover, Quilt, Side, WorldPoint, WorldRect, WorldVec,
};

use crate::scene::any_quilt;
use crate::yard::{self, any_cell_size, body_of, depth, overlap, rect};

/// A map in which some cells are walls; what lies outside is treated as said.
fn walled(cell: (f64, f64), walls: &[CellPos], bounds: CellRect, outside: Treatment) -> Quilt {
    let body = Mover::new("body").block("stone").with_outside(outside);
    let wrapped = Mover::new("wrapped").block("stone").with_wrap();
    yard::yard(cell, bounds, [body, wrapped], [yard::stone()], yard::first(walls))
}

/// The same with square cells of 16 units.
fn square_walled(walls: &[CellPos], bounds: CellRect, outside: Treatment) -> Quilt {
    walled((16.0, 16.0), walls, bounds, outside)
}

const AREA: CellRect = CellRect::new(CellPos::new(-8, -8), 16, 16);

fn any_walls() -> impl Strategy<Value = Vec<CellPos>> {
    let cell = (-8..8_i32, -8..8_i32).prop_map(|(x, y)| CellPos::new(x, y));
    prop::collection::vec(cell, 0..60)
}

/// A box in units of a cell: often exactly on edges and exactly as large as cells.
fn any_body() -> impl Strategy<Value = (f64, f64, f64, f64)> {
    let place = || prop_oneof![(-6..6_i32).prop_map(f64::from), -6.0..6.0_f64];
    let size = || prop_oneof![Just(1.0), Just(0.75), Just(0.0), 0.05..2.5_f64];
    (place(), place(), size(), size())
}

fn any_motion() -> impl Strategy<Value = (f64, f64)> {
    let way =
        || prop_oneof![2 => -12.0..12.0_f64, 1 => Just(0.0), 1 => (-9..10_i32).prop_map(f64::from)];
    (way(), way())
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(2000))]

    /// However it slides, a box ends in no wall, and goes no further than it was told.
    #[test]
    fn a_slide_ends_in_no_wall(
        walls in any_walls(),
        cell in any_cell_size(),
        (x, y, width, height) in any_body(),
        motions in prop::collection::vec(any_motion(), 1..6),
    ) {
        let quilt = walled(cell, &walls, AREA, Treatment::Block);
        let (ground, mover) = body_of(&quilt);
        let skin = GroundMap::SKIN * cell.0.max(cell.1) * 1.01;
        let mut body = rect(x * cell.0, y * cell.1, width * cell.0, height * cell.1);
        // A skin is a part of the side of a cell, so it has two measures where cells are not square.
        let (skin_x, skin_y) = (cell.0 * GroundMap::SKIN * 1.01, cell.1 * GroundMap::SKIN * 1.01);
        let lies_in = |body: WorldRect, at: &CellPos| {
            let (x, y) = overlap(body, quilt.lattice().bounds(*at));
            x > skin_x && y > skin_y
        };
        prop_assume!(!walls.iter().any(|at| lies_in(body, at)));
        let outer = quilt.lattice().rect_bounds(AREA);
        for (dx, dy) in motions {
            let motion = WorldVec::new(dx * cell.0, dy * cell.1);
            let slide = ground.slide(mover, body, motion);
            for at in &walls {
                prop_assert!(!lies_in(slide.end, at), "{} in {}", slide.end, at);
            }
            prop_assert!(outer.grown(skin).contains(slide.end.min()));
            let moved = slide.end.min() - body.min();
            prop_assert!(moved.x.abs() <= motion.x.abs() + skin && moved.y.abs() <= motion.y.abs() + skin);
            if slide.contacts().next().is_none() {
                prop_assert_eq!(slide.end, body.moved(motion));
            }
            // What is met stops the same motion again, and at once.
            for contact in slide.contacts() {
                prop_assert!(ground.blocked(mover, contact.cell));
            }
            body = slide.end;
        }
    }

    /// Where the map repeats itself, a sweep far outside is the one inside.
    #[test]
    fn a_wrapped_map_stops_a_box_everywhere_alike(
        walls in any_walls(),
        (x, y, width, height) in any_body(),
        (dx, dy) in any_motion(),
        (across, down) in (-5..5_i32, -5..5_i32),
    ) {
        let quilt = square_walled(&walls, AREA, Treatment::Block);
        let (ground, mover) = (GroundMap::of(&quilt), quilt.mover("wrapped").unwrap());
        // Whole 64ths, so that moving by whole maps rounds nothing.
        let coarse = |v: f64| (v * 16.0 * 64.0).round() / 64.0;
        let body = rect(coarse(x), coarse(y), coarse(width), coarse(height));
        let motion = WorldVec::new(coarse(dx), coarse(dy));
        let way = WorldVec::new(f64::from(across) * 256.0, f64::from(down) * 256.0);
        let (here, there) =
            (ground.sweep(mover, body, motion), ground.sweep(mover, body.moved(way), motion));
        prop_assert!((here.fraction - there.fraction).abs() < 1e-9);
        prop_assert_eq!(here.contact.map(|c| c.side), there.contact.map(|c| c.side));
    }

    /// Speed and steps against a look at every cell.
    #[test]
    fn speeds_and_steps_are_what_the_cells_say(
        quilt in any_quilt(30),
        (x, y, width, height) in any_body(),
        (column, row) in (-14..14_i32, -11..11_i32),
    ) {
        let ground = GroundMap::of(&quilt);
        for name in ["cart", "bee"] {
            let mover = quilt.mover(name).unwrap();
            let body = rect(x * 8.0, y * 6.0, width * 8.0, height * 6.0);
            let skin = GroundMap::SKIN * 1.01;
            let all = quilt.lattice().cells_in(body.grown(1.0)).cells();
            let speed = |at: CellPos| ground.treatment(mover, at).speed();
            let overlap = |at: &CellPos| depth(body, quilt.lattice().bounds(*at));
            let surely = all.clone().filter(|at| overlap(at) > skin * 8.0).map(speed).fold(1.0, f64::min);
            let perhaps = all.filter(|at| overlap(at) >= 0.0).map(speed).fold(1.0, f64::min);
            let slowest = ground.slowest_under(mover, body);
            prop_assert!(perhaps <= slowest && slowest <= surely, "{} {} {}", perhaps, slowest, surely);

            let cell = CellPos::new(column, row);
            let here = Some(speed(cell)).filter(|speed| *speed > 0.0).unwrap_or(1.0);
            let wanted: Vec<u32> = quilt.lattice().neighbors(cell)
                .map(speed).filter(|speed| *speed > 0.0)
                .map(|there| (500.0 / here + 500.0 / there).round() as u32).collect();
            let steps: Vec<(CellPos, u32)> = ground.steps(mover, cell).collect();
            prop_assert_eq!(steps.iter().map(|(_, cost)| *cost).collect::<Vec<_>>(), wanted);
            for (to, cost) in steps {
                prop_assert!(cost >= GroundMap::STEP_COST && !ground.blocked(mover, to));
                let stays = name == "cart" || ground.bounds().is_empty();
                prop_assert!(stays || ground.bounds().contains(to));
            }
        }
    }
}

/// 100,000 boxes slide along flat floors, ceilings and walls of single cells, pressed against
/// them: nothing but the floor stops them, and they come as far as on ice.
#[test]
fn boxes_never_snag_on_flat_floors_and_walls() {
    let mut rng = TestRng::deterministic_rng(RngAlgorithm::ChaCha);
    let mut number = move |from: f64, to: f64| {
        from + (to - from) * (f64::from(rng.next_u32()) / f64::from(u32::MAX))
    };
    let sides = [Side::Top, Side::Bottom, Side::Left, Side::Right];
    let mut slides = 0;
    for cell in [(16.0, 16.0), (10.3, 7.7), (1.0 / 3.0, 48.0)] {
        for far in [0_i32, 90_000_000] {
            // A ring of single cells around a hall of 200 × 200.
            let hall = CellRect::new(CellPos::new(far, -far), 200, 200);
            let ring: Vec<CellPos> = CellRect::new(CellPos::new(far - 1, -far - 1), 202, 202)
                .cells()
                .filter(|at| !hall.contains(*at))
                .collect();
            let bounds = CellRect::new(CellPos::new(far - 20, -far - 20), 240, 240);
            let quilt = walled(cell, &ring, bounds, Treatment::Pass);
            let (ground, mover) = body_of(&quilt);
            let inside = quilt.lattice().rect_bounds(hall);
            for round in 0..16_700 {
                let side = sides[round % 4];
                let (width, height) = (cell.0 * number(0.3, 3.0), cell.1 * number(0.3, 3.0));
                // Some are a rounding error or half a skin inside, some exactly at the edge.
                let slip = [0.0, 1e-9, -1e-9, 0.5 * GroundMap::SKIN, 0.0][round % 5];
                let (along_x, along_y) = (
                    number(inside.min().x + 60.0 * cell.0, inside.max().x - 60.0 * cell.0),
                    number(inside.min().y + 60.0 * cell.1, inside.max().y - 60.0 * cell.1),
                );
                // Half of them begin exactly at a seam.
                let seam = |place: f64, side: f64| (place / side).round() * side;
                let (along_x, along_y) = if round % 2 == 0 {
                    (along_x, along_y)
                } else {
                    (seam(along_x, cell.0), seam(along_y, cell.1))
                };
                let (across, press) =
                    (number(-50.0, 50.0), number(0.0, 3.0) * number(0.0, 1.0).round());
                // Which way it is pressed.
                let (right, down) = (-side.normal().x, -side.normal().y);
                let edge = |way: f64, low: f64, high: f64, size: f64, cell: f64| {
                    (if way > 0.0 { high - size } else { low }) + way * slip * cell
                };
                let (min, max) = (inside.min(), inside.max());
                let x =
                    if right == 0.0 { along_x } else { edge(right, min.x, max.x, width, cell.0) };
                let y =
                    if down == 0.0 { along_y } else { edge(down, min.y, max.y, height, cell.1) };
                let way = |pressed: f64| if pressed == 0.0 { across } else { pressed * press };
                let body = rect(x, y, width, height);
                let motion = WorldVec::new(way(right) * cell.0, way(down) * cell.1);
                let slide = ground.slide(mover, body, motion);
                assert!(slide.contacts().all(|contact| contact.side == side), "{slide:?}");
                let (got, wanted) = if side.is_upright() {
                    (slide.end.min().y, body.min().y + motion.y)
                } else {
                    (slide.end.min().x, body.min().x + motion.x)
                };
                assert!((got - wanted).abs() <= 1e-6, "{body} by {motion:?}: {slide:?}");
                slides += 1;
            }
        }
    }
    assert!(slides >= 100_000);
}

#[test]
fn nothing_is_too_fast_for_a_thin_wall() {
    let wall: Vec<CellPos> = (-40..40).map(|y| CellPos::new(1000, y)).collect();
    let bounds = CellRect::new(CellPos::new(-100, -100), 100_000, 200);
    let (ground, mover) = body_of(&square_walled(&wall, bounds, Treatment::Pass));
    for speed in [17_000.0, 1e6, 1e9, 1e300] {
        let sweep = ground.sweep(mover, rect(0.0, 0.0, 3.0, 3.0), WorldVec::new(speed, 0.3));
        assert_eq!(sweep.end.max().x, 16_000.0);
        assert_eq!(sweep.contact.map(|c| c.cell), Some(CellPos::new(1000, 0)));
        let ball = Circle::new(WorldPoint::new(1.5, 1.5), 1.5);
        let sweep = ground.sweep(mover, ball, WorldVec::new(speed, 0.3));
        assert_eq!(sweep.end.center.x, 15_998.5);
        assert!((sweep.fraction - 15_997.0 / speed).abs() < 1e-12 * sweep.fraction);
    }
    // Past everything, it flies on.
    let up = ground.sweep(mover, rect(0.0, 0.0, 3.0, 3.0), WorldVec::new(0.0, -1e300));
    assert_eq!((up.contact, up.fraction), (None, 1.0));
}

/// The corner of a box that meets exactly the corner of a cell does not pass through it, whatever
/// the direction; between two walls that touch at a corner there is no way.
#[test]
fn exact_corners_are_closed() {
    let pillar = [CellPos::new(0, 0)];
    let diagonal = [CellPos::new(0, -1), CellPos::new(-1, 0)];
    let bounds = CellRect::new(CellPos::new(-10, -10), 20, 20);
    for (walls, start) in [(&pillar[..], -24.0), (&diagonal[..], -12.0)] {
        let (ground, mover) = body_of(&square_walled(walls, bounds, Treatment::Pass));
        let body = rect(start, start, 8.0, 8.0);
        let sweep = ground.sweep(mover, body, WorldVec::new(40.0, 40.0));
        assert!(sweep.contact.is_some() && sweep.end.max().x <= 0.0, "{sweep:?}");
    }
    // From all four sides of a pillar.
    let (ground, mover) = body_of(&square_walled(&pillar, bounds, Treatment::Pass));
    for (x, y) in [(-24.0, -24.0), (32.0, -24.0), (-24.0, 32.0), (32.0, 32.0)] {
        let way = WorldVec::new(40.0_f64.copysign(-x), 40.0_f64.copysign(-y));
        let sweep = ground.sweep(mover, rect(x, y, 8.0, 8.0), way);
        assert_eq!(sweep.contact.map(|c| c.cell), Some(CellPos::ORIGIN));
        assert_eq!(sweep.fraction, 0.4);
    }
}

/// A box in a corner is held by what it is pressed against, and by nothing else.
#[test]
fn a_corner_lets_go() {
    let hall = CellRect::new(CellPos::new(0, 0), 10, 10);
    let (ground, mover) = body_of(&square_walled(&[], hall, Treatment::Block));
    for (x, y) in [(0.0, 0.0), (148.0, 0.0), (0.0, 148.0), (148.0, 148.0)] {
        let body = rect(x, y, 12.0, 12.0);
        let out = WorldVec::new(30.0_f64.copysign(x - 1.0), 30.0_f64.copysign(y - 1.0));
        let pressed = ground.slide(mover, body, out);
        assert_eq!((pressed.end, pressed.contacts().count()), (body, 2));
        let away = out * -1.0;
        assert_eq!(ground.slide(mover, body, away).end, body.moved(away));
        for along in [WorldVec::new(away.x, out.y), WorldVec::new(out.x, away.y)] {
            let slide = ground.slide(mover, body, along);
            let moved = slide.end.min() - body.min();
            assert_eq!(moved.x.abs() + moved.y.abs(), 30.0, "{slide:?}");
            assert_eq!(slide.contacts().count(), 1);
        }
    }
    // A gap as wide as the box lets it through.
    let walls: Vec<CellPos> = (0..10).filter(|x| *x != 4).map(|x| CellPos::new(x, 5)).collect();
    let (ground, mover) = body_of(&square_walled(&walls, hall, Treatment::Block));
    let slide = ground.slide(mover, rect(64.0, 60.0, 16.0, 16.0), WorldVec::new(0.0, 60.0));
    assert_eq!((slide.end.min().y, slide.contacts().count()), (120.0, 0));
}

#[test]
fn a_buried_box_can_leave_and_go_no_deeper() {
    let walls: Vec<CellPos> = CellRect::new(CellPos::new(0, 0), 4, 4).cells().collect();
    let bounds = CellRect::new(CellPos::new(-10, -10), 20, 20);
    let (ground, mover) = body_of(&square_walled(&walls, bounds, Treatment::Pass));
    let body = rect(4.0, 4.0, 8.0, 8.0);
    assert_eq!(ground.sweep(mover, body, WorldVec::new(-30.0, 0.0)).contact, None);
    let deeper = ground.sweep(mover, body, WorldVec::new(30.0, 0.0));
    assert_eq!(deeper.contact.map(|c| (c.cell, c.side)), Some((CellPos::new(1, 0), Side::Left)));
    assert_eq!(ground.slowest_under(mover, body), 0.0);
}

#[test]
fn numbers_that_mean_nothing_move_nothing() {
    let quilt = square_walled(&[], AREA, Treatment::Block);
    let (ground, mover) = body_of(&quilt);
    let body = rect(0.0, 0.0, 8.0, 8.0);
    for way in [f64::NAN, f64::INFINITY, f64::NEG_INFINITY, 0.0] {
        let slide = ground.slide(mover, body, WorldVec::new(way, 0.0));
        assert_eq!((slide.end, slide.contacts().count()), (body, 0));
    }
    // Where the map goes on from its other side, a motion without end comes to one all the same.
    let pillar = square_walled(&[CellPos::new(3, 3)], AREA, Treatment::Block);
    for (quilt, stops) in [(&quilt, false), (&pillar, true)] {
        let (ground, wrapped) = (GroundMap::of(quilt), quilt.mover("wrapped").unwrap());
        for way in [WorldVec::new(1e300, 0.0), WorldVec::new(0.0, -1e300)] {
            assert_eq!(ground.sweep(wrapped, body, way).contact, None);
            assert_eq!(ground.ray(wrapped, body.min(), way), None);
        }
        let met = ground.sweep(wrapped, rect(40.0, 40.0, 20.0, 20.0), WorldVec::new(-1e300, 0.0));
        assert_eq!(met.contact.is_some(), stops);
        // What is met beyond the bounds has the class of what repeats itself there.
        let stone = quilt.ground_rules().class("stone").ok();
        assert!(met.contact.is_none_or(|met| !AREA.contains(met.cell) && met.class == stone));
        let wall = ground.sweep(mover, body, WorldVec::new(1e9, 0.0)).contact;
        assert!(wall.is_none_or(|met| met.class.is_none() || AREA.contains(met.cell)));
    }
    // A giant that spans all cells there are is stopped at once by an outside that blocks.
    let giant = rect(-1e299, -1e299, 2e299, 2e299);
    assert!(ground.sweep(mover, giant, WorldVec::new(1e299, 0.0)).contact.is_some());
    // One that spans the map and far more is stopped by what is in the map, however far from its
    // middle that lies.
    for outside in [Treatment::Pass, Treatment::Block] {
        let quilt = square_walled(&[CellPos::new(3, 3)], AREA, outside);
        let (ground, wrapped) = (GroundMap::of(&quilt), quilt.mover("wrapped").unwrap());
        let (tall, wide) = (rect(20.0, 0.0, 16.0, 1e226), rect(0.0, 20.0, 1e226, 16.0));
        for (giant, way) in [(tall, WorldVec::new(90.0, -9.0)), (wide, WorldVec::new(-9.0, 90.0))] {
            assert!(ground.sweep(wrapped, giant, way).contact.is_some());
            let met = ground.sweep(quilt.mover("body").unwrap(), giant, way).contact.unwrap();
            assert_eq!(met.cell == CellPos::new(3, 3), outside == Treatment::Pass, "{met:?}");
        }
    }
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(200))]

    #[test]
    fn a_ray_from_far_away_meets_what_one_from_nearby_does(
        walls in any_walls(),
        at in prop::sample::select(vec![(0, 0), (64, 8), (8, -300), (-9, 1), (-100, -100)]),
        to in (-140.0..140.0_f64, -140.0..140.0_f64),
        turn in 0.0..std::f64::consts::TAU,
        far in prop_oneof![0.0..1e3_f64, 1e3..1e5_f64],
    ) {
        let (x, y) = at;
        let walls: Vec<CellPos> =
            walls.iter().map(|wall| CellPos::new(wall.x() + x, wall.y() + y)).collect();
        let area = CellRect::new(CellPos::new(x - 8, y - 8), 16, 16);
        let (ground, mover) = body_of(&square_walled(&walls, area, Treatment::Pass));
        // Through a place in the map, from far before it to far behind it.
        let to = WorldPoint::new(to.0 + 16.0 * f64::from(x), to.1 + 16.0 * f64::from(y));
        let way = WorldVec::new(turn.cos(), turn.sin());
        let near = ground.ray(mover, to - way * 400.0, way * 800.0);
        let distant = ground.ray(mover, to - way * (400.0 + far), way * (800.0 + 3.0 * far));
        let told = |hit: Option<RayHit>| hit.map(|hit| (hit.cell, hit.side));
        // Corners aside, which rounding may decide.
        let is_clear = |hit: &RayHit| {
            let part = |place: f64| (place / 16.0 - (place / 16.0).round()).abs();
            part(hit.point.x).max(part(hit.point.y)) > 1e-6
        };
        prop_assume!(near.iter().chain(&distant).all(is_clear));
        prop_assert_eq!(told(near), told(distant));
    }
}

#[test]
fn a_ray_costs_nothing_beyond_the_map() {
    let (ground, mover) = body_of(&square_walled(&[CellPos::new(3, 3)], AREA, Treatment::Pass));
    let met = |from, way| ground.ray(mover, from, way).map(|hit| hit.cell);
    let (left, below) = (WorldPoint::new(-1e12, 51.0), WorldPoint::new(51.0, 1e12));
    for from in [WorldPoint::new(0.0, 0.0), left, below] {
        assert_eq!(met(from, WorldVec::new(-1e300, 1e300)), None);
    }
    let pillar = Some(CellPos::new(3, 3));
    assert_eq!(met(left, WorldVec::new(1e300, 0.0)), pillar);
    assert_eq!(met(below, WorldVec::new(0.0, -2e12)), pillar);
    // Where the map goes on from its other side without an end, but nothing stops in it.
    let open = square_walled(&[], AREA, Treatment::Pass);
    let (ground, wrapped) = (GroundMap::of(&open), open.mover("wrapped").unwrap());
    assert_eq!(ground.ray(wrapped, WorldPoint::new(0.0, 0.0), WorldVec::new(1e300, 3.0)), None);
}

#[test]
fn a_box_on_the_ground_climbs_steps_of_its_height() {
    // A stair to the right: each step one cell of 8 units higher; a wall of three at its end.
    let top = |column: i32| if column < 8 { 20 - (column - 3).max(0) } else { 13 };
    let column = |x| (top(x)..24).map(move |y| CellPos::new(x, y));
    let walls: Vec<CellPos> = (0..12).flat_map(column).collect();
    let bounds = CellRect::new(CellPos::new(0, 0), 12, 24);
    let quilt = walled((8.0, 8.0), &walls, bounds, Treatment::Block);
    let (ground, mover) = body_of(&quilt);
    let climb = |body: WorldRect, (x, y): (f64, f64), height| {
        let options = SlideOptions::new().with_step_up(height);
        ground.slide_with(mover, body, WorldVec::new(x, y), options)
    };
    let start = rect(2.0, 148.0, 6.0, 12.0);
    let body = (0..200).fold(start, |body, _| climb(body, (1.5, 4.0), 8.0).end);
    // Up all four steps, and no further than the wall.
    assert_eq!((body.max().x, body.max().y), (64.0, 128.0));
    let flat = ground.slide(mover, start, WorldVec::new(60.0, 4.0));
    assert_eq!(flat.end.max().x, 32.0);
    // In the air it does not climb, and with a step that is too low neither.
    let air = climb(start.moved(WorldVec::new(0.0, -8.0)), (60.0, 13.0), 8.0);
    assert!(air.has_met(Side::Left) && air.end.max().x == 32.0, "{air:?}");
    assert_eq!(climb(start, (60.0, 0.0), 7.0).end.max().x, 32.0);
    // Pressed down beside a step that is lower than it could climb, it comes down onto that.
    let climbed = climb(rect(26.0, 148.0, 6.0, 12.0), (6.0, 10.0), 20.0).end;
    assert_eq!((climbed.min().x, climbed.max().y), (32.0, 152.0));
}

/// The longest motions that there are meet what shorter ones do.
#[test]
fn a_ray_of_any_length_meets_the_same() {
    let cells = [CellPos::new(7, 7), CellPos::new(9, 2)];
    let (ground, body) = yard::body_of(&yard::yard(
        (16.0, 16.0),
        CellRect::new(CellPos::new(-90, -90), 180, 180),
        [Mover::new("body").block("stone").with_outside(Treatment::Pass)],
        [yard::stone()],
        yard::first(&cells),
    ));
    let from = WorldPoint::new(3.5, 1.25);
    for (x, y) in [(1.0, 1.0), (1.0, 0.25), (-1.0, 0.5), (0.5, 1.0)] {
        let ray = |length: f64| ground.ray(body, from, WorldVec::new(x * length, y * length));
        let near = ray(4096.0);
        for length in [1e9, 1e100, 1e151, 1e300, 1.7e308] {
            let far = ray(length);
            assert_eq!(
                near.map(|hit| (hit.cell, hit.side)),
                far.map(|hit| (hit.cell, hit.side)),
                "{x},{y} by {length}"
            );
            let Some((near, far)) = near.zip(far) else { continue };
            let off = (near.point - far.point).length();
            assert!(off < 1e-9, "{off} with {length}");
            assert!((far.fraction * (length / 4096.0) - near.fraction).abs() < 1e-12);
        }
    }
}
