//! Where bodies lie in something, the way out, and moves that end in nothing.

use super::*;

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
        // What is left of a cell comes by itself.
        for overlap in under.iter().filter(|overlap| overlap.class.is_some()) {
            let counted = within.get(&overlap.cell).copied().unwrap_or_default() / all;
            prop_assert!((overlap.share - counted).abs() < 0.01, "{:?}: {}", overlap, counted);
            prop_assert!(overlap.depth > 0.0);
            // That far along its direction, it has left the shape.
            let out = ball.moved(overlap.normal * (overlap.depth + 1e-9));
            let is_same = |other: &sturdy_quilt::ground::Overlap| (other.cell, other.class) == (overlap.cell, overlap.class);
            prop_assert!(!ground.overlapping(mover, out).any(|other| is_same(&other)));
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
                1 => SlideOptions::new().with_slopes().with_step_up(6.0).with_step_down(6.0),
                _ => SlideOptions::new().with_turns(4).with_all_corners(2.0),
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
