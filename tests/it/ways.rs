//! What lies on a way and what is seen from a cell, against looks at every cell; slides, and ways
//! out of walls.

use std::collections::BTreeSet;

use proptest::prelude::*;
use proptest::test_runner::{RngAlgorithm, TestRng};
use sturdy_quilt::ground::{CellCrossing, SlideOptions};
use sturdy_quilt::quilt::{MoverId, Treatment};
use sturdy_quilt::units::Sides;
use sturdy_quilt::{
    CellPos, CellRect, GroundMap, Mover, Side, TileSpec, Turn, WorldPoint, WorldRect, WorldVec,
};

use crate::yard::{self, body_of, rect};

/// A map of stone walls, with fog that has a number to it; cells of 16 units.
fn walled(walls: &[CellPos], fog: &[CellPos], bounds: CellRect) -> (GroundMap, MoverId) {
    walled_in(walls, fog, bounds, Treatment::Block)
}

fn walled_in(
    walls: &[CellPos],
    fog: &[CellPos],
    bounds: CellRect,
    outside: Treatment,
) -> (GroundMap, MoverId) {
    let body = Mover::new("body").block("stone").with_value("fog", 0.25).with_outside(outside);
    let tiles = [yard::stone(), TileSpec::named("fog").with_ground("fog")];
    let stones = fog.iter().map(|at| (*at, 1, Turn::NONE)).chain(yard::first(walls));
    body_of(&yard::yard((16.0, 16.0), bounds, [body], tiles, stones))
}

const AREA: CellRect = CellRect::new(CellPos::new(-10, -10), 20, 20);

fn any_cells(most: usize) -> impl Strategy<Value = Vec<CellPos>> {
    let cell = (-10..10_i32, -10..10_i32).prop_map(|(x, y)| CellPos::new(x, y));
    prop::collection::vec(cell, 0..most)
}

/// Whether the line between two middles is clear: every wall by itself, in whole numbers of half
/// cells. It must not go through one, nor between two that touch at a corner.
fn is_clear(walls: &BTreeSet<CellPos>, a: CellPos, b: CellPos) -> bool {
    let half = |cell: CellPos| (i64::from(2 * cell.x()), i64::from(2 * cell.y()));
    let ((ax, ay), (bx, by)) = (half(a), half(b));
    // On which side of the line a corner lies.
    let side = |(x, y): (i64, i64)| ((bx - ax) * (y - ay) - (by - ay) * (x - ax)).signum();
    let around = |v: i64, a: i64, b: i64| a.min(b) < v && v < a.max(b);
    for wall in walls.iter().filter(|wall| **wall != a && **wall != b) {
        let (x, y) = half(*wall);
        let corners = [(x - 1, y - 1), (x + 1, y - 1), (x - 1, y + 1), (x + 1, y + 1)];
        let near = x + 1 > ax.min(bx) && x - 1 < ax.max(bx) || ax == bx && ax == x;
        let near = near && (y + 1 > ay.min(by) && y - 1 < ay.max(by) || ay == by && ay == y);
        let sides = corners.map(side);
        if near && sides.contains(&1) && sides.contains(&-1) {
            return false;
        }
        // A corner on the line, and the wall across it.
        for ((cx, cy), on) in corners.into_iter().zip(sides) {
            let across = CellPos::new((cx + cx - x) as i32 / 2, (cy + cy - y) as i32 / 2);
            let between = around(cx, ax, bx) && around(cy, ay, by);
            if on == 0 && between && walls.contains(&across) && across != a && across != b {
                return false;
            }
        }
    }
    true
}

/// A body may be larger than all cells together, or come from beyond them; and so may a ray.
#[test]
fn what_is_entered_ends_at_the_last_cells() {
    let (ground, _) = walled(&[], &[], AREA);
    let from = WorldPoint::new(1e15, 8.0);
    let mut crossed = ground.ray_cells(from, WorldVec::new(-2e15, 0.0));
    assert_eq!(crossed.next().map(|crossed| crossed.cell), Some(CellPos::new(CellPos::MAX, 0)));
    assert_eq!(ground.ray_cells(from, WorldVec::new(1e15, 1e15)).next(), None);
    let crossings = |x: f64, size: f64, way: f64| {
        ground.crossings(rect(x, 0.5, size, 8.0), WorldVec::new(way, 0.0)).collect::<Vec<_>>()
    };
    assert_eq!(crossings(-1e300, 2e300, 8.0), []);
    assert_eq!(crossings(1e200, 1e200, 1e200), []);
    let edge = f64::from(CellPos::MAX) * 16.0;
    let cells = |crossings: Vec<CellCrossing>| {
        crossings.iter().map(|visit| visit.cell.x()).collect::<Vec<_>>()
    };
    assert_eq!(cells(crossings(edge + 4.0, 8.0, 1e12)), [CellPos::MAX], "it leaves the last");
    assert_eq!(cells(crossings(edge + 1e12, 8.0, -1e12)), [CellPos::MAX], "it enters the last");
    let first = CellPos::MIN;
    assert_eq!(cells(crossings(-edge - 99.0, 8.0, 104.0)), [first, first + 1, first], "both");
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(120))]

    #[test]
    fn a_field_of_view_is_that_of_its_lines(walls in any_cells(90), from in (-9..9_i32, -9..9_i32)) {
        let (ground, body) = walled(&walls, &[], CellRect::new(CellPos::new(-30, -30), 60, 60));
        let (from, walls) = (CellPos::new(from.0, from.1), walls.into_iter().collect());
        let field = ground.field_of_view(body, from, 12);
        prop_assert_eq!(field.bounds(), CellRect::new(CellPos::new(from.x() - 12, from.y() - 12), 25, 25));
        prop_assert!(field.contains(from));
        for cell in field.bounds().cells() {
            let clear = is_clear(&walls, from, cell);
            prop_assert_eq!(ground.sees(body, from, cell), clear, "{} to {}", from, cell);
            prop_assert_eq!(ground.sees(body, cell, from), clear, "{} to {}", cell, from);
            if !walls.contains(&cell) {
                prop_assert_eq!(field.contains(cell), clear, "{} to {}", from, cell);
                // Who sees is seen.
                if !walls.contains(&from) && clear {
                    prop_assert!(ground.field_of_view(body, cell, 24).contains(from));
                }
            } else if clear {
                prop_assert!(field.contains(cell), "{} is seen by its middle from {}", cell, from);
            }
        }
        prop_assert_eq!(field.cells().count(), field.bounds().cells().filter(|c| field.contains(*c)).count());
    }

    /// What lies beyond an open map is passed over, however far it is.
    #[test]
    fn a_line_from_afar_is_stopped_by_the_same(
        walls in any_cells(60),
        (x, y) in (-12..12_i32, -12..12_i32),
        (dx, dy) in (-4..=4_i32, -4..=4_i32),
        far in prop::array::uniform2(prop_oneof![0..12_i32, 0..100_000_000_i32]),
    ) {
        let (ground, body) = walled_in(&walls, &[], AREA, Treatment::Pass);
        let at = |far: i32| CellPos::new(x + dx * far, y + dy * far);
        let (from, to) = (at(far[0]), at(-far[1]));
        let clear = is_clear(&walls.into_iter().collect(), from, to);
        prop_assert_eq!(ground.sees(body, from, to), clear);
        prop_assert_eq!(ground.sees(body, to, from), clear);
    }

    /// Cells on a ray follow each other, from edge to edge, and are those whose inside it goes
    /// through.
    #[test]
    fn cells_on_a_ray_are_those_that_it_goes_through(
        fog in any_cells(60),
        walls in any_cells(20),
        (x, y) in (-8.0..8.0_f64, -8.0..8.0_f64),
        (dx, dy) in (-14.0..14.0_f64, -14.0..14.0_f64),
    ) {
        let (ground, body) = walled(&walls, &fog, AREA);
        let (from, motion) = (WorldPoint::new(x * 16.0, y * 16.0), WorldVec::new(dx * 16.0, dy * 16.0));
        let crossed: Vec<_> = ground.ray_cells(from, motion).collect();
        prop_assert_eq!((crossed[0].enter, crossed[0].side), (0.0, None));
        prop_assert_eq!(crossed.last().unwrap().exit, 1.0);
        for two in crossed.windows(2) {
            prop_assert_eq!(two[0].exit, two[1].enter);
            let (a, b) = (two[0].cell, two[1].cell);
            prop_assert_eq!((a.x() - b.x()).abs() + (a.y() - b.y()).abs(), 1, "no exact corners here");
        }
        for step in 0..500 {
            let t = (f64::from(step) + 0.5) / 500.0;
            let cell = ground.lattice().cell_at(from + motion * t);
            let held = crossed.iter().find(|c| c.enter <= t && t < c.exit).unwrap();
            let bounds = ground.lattice().bounds(held.cell).grown(1e-6);
            prop_assert!(held.cell == cell || bounds.contains(from + motion * t));
        }
        let values = ground.ray_values(body, from, motion);
        let until = crossed.iter().take_while(|c| !ground.blocked(body, c.cell));
        let inside = |cell: &CellPos| AREA.contains(*cell) && !walls.contains(cell);
        let foggy: Vec<_> = until.filter(|c| fog.contains(&c.cell) && inside(&c.cell)).collect();
        prop_assert_eq!(values.count as usize, foggy.len());
        prop_assert_eq!(values.sum, foggy.len() as f64 * 0.25);
        let length: f64 = foggy.iter().map(|c| c.exit - c.enter).sum::<f64>() * dx.hypot(dy) * 16.0;
        prop_assert!((values.sum_by_length - length * 0.25).abs() < 1e-9);
        prop_assert_eq!(values.hit, ground.ray(body, from, motion));
    }

    /// Whoever counts the crossings knows at any time in which cells the body is.
    #[test]
    fn visits_tell_where_a_body_is(
        (x, y) in (-8.0..8.0_f64, -8.0..8.0_f64),
        (w, h) in (0.1..3.0_f64, 0.1..3.0_f64),
        (dx, dy) in (-6.0..6.0_f64, prop_oneof![Just(0.0), -6.0..6.0_f64]),
    ) {
        let (ground, body) = walled(&[], &[], AREA);
        let place = rect(x * 16.0, y * 16.0, w * 16.0, h * 16.0);
        let motion = WorldVec::new(dx * 16.0, dy * 16.0);
        let under = |place: WorldRect| -> BTreeSet<CellPos> {
            ground.overlapping(body, place).map(|overlap| overlap.cell).collect()
        };
        let crossings: Vec<_> = ground.crossings(place, motion).collect();
        let times: Vec<f64> = crossings.iter().map(|visit| visit.fraction).collect();
        prop_assert!(times.is_sorted() && times.iter().all(|time| (0.0..1.0).contains(time)));
        for step in 0..=40 {
            let t = f64::from(step) / 40.0;
            if times.iter().any(|time| (time - t).abs() < 1e-9) {
                continue;
            }
            let mut held = under(place);
            for visit in crossings.iter().filter(|visit| visit.fraction < t) {
                let changed = if visit.enters { held.insert(visit.cell) } else { held.remove(&visit.cell) };
                prop_assert!(changed, "{:?} is told twice", visit);
            }
            prop_assert_eq!(held, under(place.moved(motion * t)), "after {}", t);
        }
    }

    /// No way out is shorter: neither on a fine grid of ways, nor along the edges.
    #[test]
    fn the_way_out_is_the_shortest(
        walls in any_cells(160),
        (x, y) in (-6.0..6.0_f64, -6.0..6.0_f64),
        (w, h) in (0.2..2.0_f64, 0.2..2.0_f64),
    ) {
        let (ground, body) = walled(&walls, &[], AREA);
        let buried = rect(x * 16.0, y * 16.0, w * 16.0, h * 16.0);
        let out = ground.push_out(body, buried, 24.0);
        if !ground.overlaps(body, buried) {
            prop_assert_eq!(out, Some(WorldVec::ZERO));
            return Ok(());
        }
        if let Some(way) = out {
            prop_assert!(!ground.overlaps(body, buried.moved(way)), "{:?} is no way out", way);
            prop_assert!(way.x.hypot(way.y) <= 24.0);
        }
        // Within reach, a step of the grid and a skin shorter at least would be another way.
        let length = |way: WorldVec| way.x.hypot(way.y);
        let best = out.map_or(24.0, length);
        for step in 0..49 * 49 {
            let way = WorldVec::new(f64::from(step % 49 - 24), f64::from(step / 49 - 24));
            if length(way) < best - 0.05 {
                prop_assert!(ground.overlaps(body, buried.moved(way)), "{:?} is shorter than {:?}", way, out);
            }
        }
    }

    /// Ten small moves along walls end where a great one ends, to a millionth of a cell.
    #[test]
    fn small_moves_end_where_a_great_one_does(
        (along, press) in (-9.0..9.0_f64, 0.0..3.0_f64),
        at in 0.0..14.0_f64,
        upright: bool,
        parts in 2..40_i32,
    ) {
        // A hall with a wall across it in each direction.
        let hall = CellRect::new(CellPos::new(0, 0), 15, 15);
        let (ground, body) = walled(&[CellPos::new(7, 7)], &[], hall);
        let at = at * 16.0;
        let (start, motion) = if upright {
            (rect(0.0, at, 12.0, 12.0), WorldVec::new(-press * 16.0, along * 16.0))
        } else {
            (rect(at, 0.0, 12.0, 12.0), WorldVec::new(along * 16.0, -press * 16.0))
        };
        let great = ground.slide(body, start, motion).end;
        let mut small = start;
        for _ in 0..parts {
            small = ground.slide(body, small, motion * (1.0 / f64::from(parts))).end;
        }
        let apart = great.min() - small.min();
        prop_assert!(apart.x.abs() < 16e-6 && apart.y.abs() < 16e-6, "{} and {}", great, small);
    }

    /// The legs of a slide lead to its end, and none goes through anything.
    #[test]
    fn legs_lead_to_the_end(
        walls in any_cells(90),
        (x, y) in (-8.0..8.0_f64, -8.0..8.0_f64),
        (dx, dy) in (-90.0..90.0_f64, -90.0..90.0_f64),
        (up, down, corner) in (0.0..20.0_f64, 0.0..20.0_f64, 0.0..9.0_f64),
        (turns, all) in (0..4_u8, any::<bool>()),
    ) {
        let (ground, body) = walled(&walls, &[], AREA);
        let start = rect(x * 16.0, y * 16.0, 11.0, 13.0);
        prop_assume!(!ground.overlaps(body, start));
        let mut options = SlideOptions::new().with_turns(turns).with_step_up(up).with_step_down(down).with_corner(corner);
        options.corner_at_sides = all;
        let slide = ground.slide_with(body, start, WorldVec::new(dx, dy), options);
        let mut place = start;
        for leg in slide.legs() {
            prop_assert_eq!(ground.sweep(body, place, leg * (1.0 - 1e-12)).contact, None);
            place = place.moved(leg);
        }
        let apart = place.min() - slide.end.min();
        prop_assert!(apart.x.abs() < 1e-9 && apart.y.abs() < 1e-9);
        prop_assert!(!ground.overlaps(body, slide.end));
        let plain = SlideOptions::new().with_turns(turns);
        let without = ground.slide_with(body, start, WorldVec::new(dx, dy), plain);
        prop_assert!(without.contacts().count() <= usize::from(turns) + 1);
    }
}

/// A million random moves in random maps: no body ever ends inside something solid.
#[test]
fn a_million_moves_end_in_nothing_solid() {
    let mut rng = TestRng::deterministic_rng(RngAlgorithm::ChaCha);
    let mut moves = 0;
    for round in 0..50_u32 {
        let density = 2 + round % 5;
        let walls: Vec<CellPos> = AREA.cells().filter(|_| rng.next_u32() % 10 < density).collect();
        let (ground, body) = walled(&walls, &[], AREA);
        let mut number = |from: f64, to: f64| {
            from + (to - from) * (f64::from(rng.next_u32()) / f64::from(u32::MAX))
        };
        for start in 0..40 {
            let size = number(1.0, 20.0);
            let mut place = rect(number(-150.0, 130.0), number(-150.0, 130.0), size, size);
            let Some(out) = ground.push_out(body, place, 400.0) else { continue };
            place = place.moved(out);
            let options = match start % 3 {
                0 => SlideOptions::new(),
                1 => SlideOptions::new().with_step_up(9.0).with_step_down(9.0),
                _ => SlideOptions::new().with_all_corners(5.0).with_turns(3),
            };
            for step in 0..512 {
                let reach = if step % 64 == 0 { 900.0 } else { 7.0 };
                let motion = WorldVec::new(number(-reach, reach), number(-reach, reach));
                place = ground.slide_with(body, place, motion, options).end;
                assert!(!ground.overlaps(body, place), "{place} after {motion:?} among {walls:?}");
                moves += 1;
            }
        }
    }
    assert!(moves > 900_000, "{moves}");
}

#[test]
fn a_corner_lets_a_box_pass_that_gives_way() {
    // A ceiling of one cell; the box jumps against its left corner by 3 units.
    let (ground, body) = walled(&[CellPos::new(2, 0)], &[], AREA);
    let jump = WorldVec::new(0.0, -30.0);
    let low = rect(21.0, 20.0, 14.0, 10.0);
    assert_eq!(ground.slide(body, low, jump).end.min(), WorldPoint::new(21.0, 16.0));
    let lenient = SlideOptions::new().with_corner(3.0);
    let slide = ground.slide_with(body, low, jump, lenient);
    assert_eq!(slide.end.min(), WorldPoint::new(18.0, -10.0));
    assert_eq!(slide.contacts().count(), 0);
    assert_eq!(slide.legs().count(), 3);
    let right = ground.slide_with(body, rect(45.0, 20.0, 14.0, 10.0), jump, lenient);
    assert_eq!(right.end.min(), WorldPoint::new(48.0, -10.0));
    let strict = SlideOptions::new().with_corner(2.9);
    assert_eq!(ground.slide_with(body, low, jump, strict).end.min().y, 16.0);
    // Falling onto an edge, a box lands on it all the same.
    let above = rect(21.0, -20.0, 14.0, 10.0);
    let fall = ground.slide_with(body, above, WorldVec::new(0.0, 30.0), lenient);
    assert_eq!(fall.end.max().y, 0.0);
    // Where a wall is in the way, it does not give way.
    let (ground, body) = walled(&[CellPos::new(2, 0), CellPos::new(0, 1)], &[], AREA);
    assert_eq!(
        ground.slide_with(body, rect(16.0, 20.0, 20.0, 10.0), jump, lenient).end.min().y,
        16.0
    );
}

#[test]
fn a_box_follows_steps_down_and_falls_off_cliffs() {
    let floor = (0..4).map(|x| CellPos::new(x, 2)).chain((4..9).map(|x| CellPos::new(x, 3)));
    let (ground, body) = walled(&floor.collect::<Vec<_>>(), &[], AREA);
    let start = rect(40.0, 20.0, 10.0, 12.0);
    let step = WorldVec::new(40.0, 0.0);
    assert_eq!(ground.slide(body, start, step).end.max().y, 32.0);
    let follows = SlideOptions::new().with_step_down(16.0);
    let slide = ground.slide_with(body, start, step, follows);
    assert_eq!((slide.end.max().y, slide.has_met(Side::Top)), (48.0, true));
    assert_eq!(ground.stands_on(body, slide.end).map(|c| c.cell), Some(CellPos::new(5, 3)));
    assert_eq!(ground.stands_on(body, ground.slide(body, start, step).end), None);
    let low = SlideOptions::new().with_step_down(15.0);
    assert_eq!(ground.slide_with(body, start, step, low).end.max().y, 32.0);
    // A jump is not pulled down.
    let jump = ground.slide_with(body, start, WorldVec::new(40.0, -4.0), follows);
    assert_eq!(jump.end.max().y, 28.0);
}

/// A ray goes through a corner that it meets exactly, near and far, unless it is closed on both
/// sides; in every direction.
#[test]
fn rays_go_through_exact_corners_that_are_open() {
    let bounds = CellRect::new(CellPos::new(-900, -900), 1800, 1800);
    // Down to the right, in steps of so many columns a row.
    for (across, down) in [(1, 1), (3, 1), (1, 3), (5, 3)] {
        for n in [1, 2, 3, 10, 21, 22, 64, 100] {
            for (flip_x, flip_y) in [(false, false), (true, false), (false, true), (true, true)] {
                let flip = |cell: CellPos| {
                    let x = if flip_x { -1 - cell.x() } else { cell.x() };
                    CellPos::new(x, if flip_y { -1 - cell.y() } else { cell.y() })
                };
                // The corner is that of the cell to the lower right of it.
                let corner = (across * n, down * n);
                let right = flip(CellPos::new(corner.0, corner.1 - 1));
                let left = flip(CellPos::new(corner.0 - 1, corner.1));
                let by = f64::from(n + 2) * 16.0;
                let sign = |flip: bool| if flip { -1.0 } else { 1.0 };
                let motion = WorldVec::new(
                    by * f64::from(across) * sign(flip_x),
                    by * f64::from(down) * sign(flip_y),
                );
                let hit = |walls: &[CellPos]| {
                    let (ground, body) = walled(walls, &[], bounds);
                    ground.ray(body, WorldPoint::new(0.0, 0.0), motion)
                };
                let case = format!("{across},{down} by {n}, {flip_x} {flip_y}");
                assert_eq!(hit(&[right]), None, "{case}");
                assert_eq!(hit(&[left]), None, "{case}");
                let closed = hit(&[left, right]).unwrap();
                let side = if flip_x { Side::Right } else { Side::Left };
                assert_eq!((closed.cell, closed.side), (right, Some(side)), "{case}");
            }
        }
    }
}

/// A ray that begins exactly on a face, where a body is left and where the last ray has ended, meets
/// that face, and one that is turned back at it leaves it.
#[test]
fn rays_from_a_face_have_met_it() {
    let floor: Vec<CellPos> = (-4..12).map(|x| CellPos::new(x, 4)).collect();
    let wall: Vec<CellPos> = (-4..4).map(|y| CellPos::new(11, y)).collect();
    let cells: Vec<CellPos> = floor.into_iter().chain(wall).collect();
    let bounds = CellRect::new(CellPos::new(-90, -90), 180, 180);
    let (ground, body) = walled(&cells, &[], bounds);
    let ray = |x: f64, y: f64, way: (f64, f64)| {
        ground.ray(body, WorldPoint::new(x, y), WorldVec::new(way.0, way.1))
    };
    let met = |x: f64, y: f64, way: (f64, f64)| {
        let hit = ray(x, y, way).unwrap();
        (hit.fraction, hit.side, hit.normal)
    };
    // On the floor, at an edge between two of its cells too; on the wall; in their corner.
    let (up, left) = (WorldVec::new(0.0, -1.0), WorldVec::new(-1.0, 0.0));
    for x in [3.0, 16.0, 31.5, 160.0] {
        assert_eq!(met(x, 64.0, (5.0, 7.0)), (0.0, Some(Side::Top), up), "{x}");
        assert_eq!(met(x, 64.0, (-5.0, 7.0)), (0.0, Some(Side::Top), up), "{x}");
        assert_eq!(ray(x, 64.0, (5.0, -7.0)), None);
    }
    for y in [3.0, 16.0, 32.0, -16.0] {
        assert_eq!(met(176.0, y, (5.0, 7.0)), (0.0, Some(Side::Left), left), "{y}");
        assert_eq!(met(176.0, y, (5.0, -7.0)), (0.0, Some(Side::Left), left), "{y}");
        assert_eq!(ray(176.0, y, (-5.0, -7.0)), None);
    }
    assert_eq!(met(20.0, 70.0, (1.0, 0.0)).1, None, "it begins in the floor");
    // Thrown into the corner, it comes back by where it came from.
    let mut way = WorldVec::new(60.0, 80.0);
    let mut at = WorldPoint::new(120.0, -20.0);
    let mut sides = Vec::new();
    for _ in 0..2 {
        let hit = ground.ray(body, at, way).unwrap();
        assert!(hit.normal != WorldVec::ZERO);
        (at, way) = (hit.point, way - hit.normal * (2.0 * way.dot(hit.normal)));
        sides.push(hit.side);
    }
    assert_eq!(sides, [Some(Side::Left), Some(Side::Top)]);
    assert_eq!((way, ground.ray(body, at, way)), (WorldVec::new(-60.0, -80.0), None));
    // A platform stops what begins on it and leads down.
    let plank = TileSpec::named("plank").with_ground("plank");
    let mover = Mover::new("body").one_way("plank", Sides::TOP).with_outside(Treatment::Pass);
    let planks = [0, 1, 2].map(|x| CellPos::new(x, 2));
    let quilt = yard::yard((16.0, 16.0), AREA, [mover], [plank], yard::first(&planks));
    let (ground, body) = body_of(&quilt);
    let ray = |y: f64, by: f64| ground.ray(body, WorldPoint::new(20.0, y), WorldVec::new(3.0, by));
    assert_eq!(ray(32.0, 5.0).and_then(|hit| hit.side), Some(Side::Top));
    assert_eq!((ray(32.5, 5.0), ray(32.0, -5.0), ray(48.0, -9.0)), (None, None, None));
}

/// A body stands on a platform, jumps up through it, walks through it, and falls out of it.
#[test]
fn a_platform_stops_what_comes_from_above() {
    let body = Mover::new("body").one_way("plank", Sides::TOP).with_outside(Treatment::Pass);
    let plank = TileSpec::named("plank").with_ground("plank");
    let planks = [0, 1, 2, 3].map(|x| CellPos::new(x, 2));
    let quilt = yard::yard((16.0, 16.0), AREA, [body], [plank], yard::first(&planks));
    let (ground, body) = body_of(&quilt);
    let go = |place: WorldRect, x: f64, y: f64| ground.slide(body, place, WorldVec::new(x, y));
    let below = rect(20.0, 60.0, 10.0, 12.0);
    let above = go(below, 0.0, -60.0);
    assert_eq!((above.end.min().y, above.contacts().count()), (0.0, 0));
    let landed = go(above.end, 3.0, 60.0);
    assert_eq!((landed.end.max().y, landed.has_met(Side::Top)), (32.0, true));
    assert_eq!(go(landed.end, 20.0, 5.0).end.max(), WorldPoint::new(53.0, 32.0));
    // Half way through, it is in the platform: it falls, and moves to the sides.
    let within = go(below, 0.0, -20.0).end;
    assert!(!ground.overlaps(body, within) && !ground.blocked(body, CellPos::new(1, 2)));
    assert_eq!(go(within, -4.0, 30.0).end.min(), WorldPoint::new(16.0, 70.0));
    let beside = rect(-20.0, 34.0, 10.0, 12.0);
    assert_eq!(go(beside, 60.0, 0.0).contacts().count(), 0);
    // A ray too, and a step of a path finder.
    let ray = |y: f64, by: f64| ground.ray(body, WorldPoint::new(24.0, y), WorldVec::new(0.0, by));
    assert_eq!(ray(8.0, 60.0).and_then(|hit| hit.side), Some(Side::Top));
    assert_eq!((ray(70.0, -60.0), ray(40.0, 60.0)), (None, None));
    let steps = |cell| ground.steps(body, cell).map(|(to, _)| to).collect::<Vec<_>>();
    assert!(!steps(CellPos::new(1, 1)).contains(&CellPos::new(1, 2)));
    assert!(steps(CellPos::new(1, 3)).contains(&CellPos::new(1, 2)));
    assert!(ground.sees(body, CellPos::new(1, 0), CellPos::new(1, 5)));
}

#[test]
fn what_a_box_stands_in_is_told_with_its_depth() {
    let (ground, body) = walled(&[CellPos::new(1, 0)], &[CellPos::new(0, 0)], AREA);
    let place = rect(8.0, -4.0, 12.0, 12.0);
    let under: Vec<_> = ground.overlapping(body, place).collect();
    let told: Vec<_> =
        under.iter().map(|o| (o.cell.x(), o.cell.y(), o.depth, o.side, o.share * 144.0)).collect();
    let expected = [
        (0, -1, 4.0, Side::Bottom, 32.0),
        (1, -1, 4.0, Side::Left, 16.0),
        (0, 0, 8.0, Side::Right, 64.0),
        (1, 0, 4.0, Side::Left, 32.0),
    ];
    assert_eq!(told.len(), expected.len());
    for (told, expected) in told.iter().zip(expected) {
        assert_eq!(
            (told.0, told.1, told.2, told.3),
            (expected.0, expected.1, expected.2, expected.3)
        );
        assert!((told.4 - expected.4).abs() < 1e-9);
    }
    assert_eq!(under[2].treatment, Treatment::Value(0.25));
    assert_eq!(ground.mean_under(body, place), 112.0 / 144.0);
    // Beyond all cells it is in none, and what lies outside of the map stops it.
    let beyond = rect(0.0, -1e12, 8.0, 8.0);
    assert_eq!(ground.overlapping(body, beyond).count(), 0);
    assert_eq!((ground.mean_under(body, beyond), ground.slowest_under(body, beyond)), (0.0, 0.0));
    assert_eq!(ground.slowest_under(body, place), 0.0);
}
