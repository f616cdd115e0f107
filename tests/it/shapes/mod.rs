//! Cells of which a part is solid, and bodies that are no boxes.

mod meets;
mod overlaps;
mod parts;
mod walks;

use num_rational::BigRational;
use num_traits::ToPrimitive;
use proptest::prelude::*;
use proptest::test_runner::{RngAlgorithm, TestRng};
use sturdy_quilt::ground::{Capsule, Circle, ConvexPolygon, ShapePart, SlideOptions};
use sturdy_quilt::quilt::{MoverId, Treatment};
use sturdy_quilt::tile::{CellShape, CellShapeError};
use sturdy_quilt::{
    Body, CellPos, CellRect, GroundMap, Lattice, MemorySource, Mover, Quilt, Side, TileSet,
    TileSpec, Turn, WorldPoint, WorldRect, WorldVec,
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
    let body = Mover::new("body").block("stone").with_outside(Treatment::Pass);
    let drop = Mover::new("drop").one_way("stone", sturdy_quilt::units::Sides::TOP);
    let tile =
        |(shape, at)| TileSpec::named(format!("part{at}")).with_ground("stone").with_shape(shape);
    let tiles = shapes().into_iter().zip(0..).map(tile).chain([yard::stone()]);
    let stones = stones.iter().map(|(at, number, turn)| (*at, *number.min(&shapes().len()), *turn));
    let stones: Vec<Stone> = stones.collect();
    yard::yard((CELL, CELL), bounds, [body, drop.with_outside(Treatment::Pass)], tiles, stones)
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

proptest! {
    #![proptest_config(ProptestConfig::with_cases(1000))]

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
        let tile = TileSpec::named("part").with_ground("stone").with_shape(shape.turned(turn));
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
