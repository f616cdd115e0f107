//! Ways over slopes and low walls.

use super::*;

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
        let options = SlideOptions::new().with_slopes().with_step_down(2.0 * step.abs());
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

/// What is left of a motion along a slope does not lead up the wall that ends it.
#[test]
fn a_walker_stops_at_a_wall_on_a_slope() {
    let steep = shapes().iter().position(|shape| shape.as_floor() == Some((0.0, 1.0))).unwrap();
    let whole = shapes().len();
    let floor = (-4..4).map(|x| (CellPos::new(x, 2), whole, Turn::NONE));
    let wall = (-4..2).map(|y| (CellPos::new(1, y), whole, Turn::NONE));
    let slope = (CellPos::new(0, 1), steep, Turn::NONE);
    let (ground, mover) = yard(&floor.chain(wall).chain([slope]).collect::<Vec<_>>());
    let body = WorldRect::between(WorldPoint::new(-10.0, 22.0), WorldPoint::new(-4.0, 32.0));
    let motion = WorldVec::new(60.0, 2.0);
    let slide =
        ground.slide_with(mover, body, motion, SlideOptions::new().with_slopes().with_turns(9));
    assert!(slide.has_met(Side::Left) && slide.end.max().x == 16.0, "{slide:?}");
    assert!((slide.end.max().y - 16.0).abs() < 0.1, "{slide:?}");
}

#[test]
fn without_slopes_as_floors_a_body_slips_down() {
    let (ground, mover) = hill();
    let body = WorldRect::between(WorldPoint::new(37.0, -20.0), WorldPoint::new(43.0, -10.0));
    let fall = WorldVec::new(0.0, 60.0);
    let slipped = ground.slide(mover, body, fall);
    assert!(slipped.end.min().x < 34.0, "{slipped:?}");
    let stays = ground.slide_with(mover, body, fall, SlideOptions::new().with_slopes());
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
    for options in [SlideOptions::new(), SlideOptions::new().with_slopes()] {
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
