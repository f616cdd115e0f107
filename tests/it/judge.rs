//! Sweeps and rays against a judge that tries every cell by itself, in exact fractions.
//!
//! The judge knows the rules as they are stated, and nothing of how we follow them. Where its answer
//! hangs on less than a thousand-millionth of a cell, rounding may decide; there only the place is
//! compared. With numbers that are exact in binary there is nothing to round, and all must be equal.

use num_rational::BigRational;
use proptest::prelude::*;
use sturdy_quilt::quilt::{MoverId, Treatment};
use sturdy_quilt::units::Sides;
use sturdy_quilt::{
    CellPos, CellRect, GroundMap, Mover, Side, TileSpec, Turn, WorldPoint, WorldRect, WorldVec,
};

use crate::exact::Number;
use crate::yard::{self, any_cell_size, body_of, depth};

/// A box, or a point, on its way in one direction.
#[derive(Clone)]
struct Axis<N> {
    side: f64,
    from: N,
    to: N,
    way: N,
    skin: N,
}

/// When a line is entered and left: before the beginning, at a time, or never.
#[derive(Clone, PartialEq, PartialOrd)]
enum Time<N> {
    Before,
    At(N),
    Never,
}

impl<N: Number> Axis<N> {
    fn of_box(side: f64, from: f64, to: f64, way: f64) -> Axis<N> {
        let skin = N::of(side) * N::of(GroundMap::SKIN);
        let (mut from, mut to) = (N::of(from), N::of(to));
        let missing = N::of(2.0) * skin.clone() - (to.clone() - from.clone()) / N::of(2.0);
        if missing.is_positive() {
            (from, to) = (from - missing.clone(), to + missing);
        }
        Axis { side, from, to, way: N::of(way), skin }
    }

    fn of_point(side: f64, from: f64, way: f64) -> Axis<N> {
        Axis { side, from: N::of(from), to: N::of(from), way: N::of(way), skin: N::zero() }
    }

    /// The same with everything a little different.
    fn moved(&self, from: f64, to: f64) -> Axis<N> {
        let by = |share: f64| N::of(share * self.side);
        Axis { from: self.from.clone() + by(from), to: self.to.clone() + by(to), ..self.clone() }
    }

    /// When it enters a line and when it leaves it.
    fn times(&self, line: i32) -> (Time<N>, Time<N>) {
        let edge = |line: i32| N::of(f64::from(line) * self.side);
        let (near, far) = (edge(line), edge(line + 1));
        let (thin_from, thin_to) =
            (self.from.clone() + self.skin.clone(), self.to.clone() - self.skin.clone());
        let is_point = self.skin.is_zero();
        let forward = !self.way.is_negative();
        let within = if !is_point {
            far > thin_from && near < thin_to
        } else if forward {
            near <= self.from && self.from < far
        } else {
            near < self.from && self.from <= far
        };
        // A point that begins on the edge by which it leaves a line does not come into it.
        let is_ahead = if forward { near > thin_from } else { near < thin_from };
        let at = |distance: N| {
            let time = distance / self.way.clone();
            Time::At(if time.is_negative() { N::zero() } else { time })
        };
        // A point on an edge comes in by it.
        let is_on_edge = is_point && if forward { near == self.from } else { far == self.from };
        let enter = if within && is_on_edge && !self.way.is_zero() {
            Time::At(N::zero())
        } else if within {
            Time::Before
        } else if self.way.is_zero() || !is_ahead {
            Time::Never
        } else if forward {
            at(near.clone() - self.to.clone())
        } else {
            at(far.clone() - self.from.clone())
        };
        let leave = if self.way.is_zero() {
            Time::Never
        } else if forward {
            at(far - thin_from)
        } else {
            at(near - thin_to)
        };
        (enter, leave)
    }
}

/// What is met first: when, which cell, and on which side; none where it begins in the cell.
#[derive(Clone, Debug, PartialEq)]
struct Verdict<N> {
    time: N,
    cell: CellPos,
    side: Option<Side>,
}

fn side<N: Number>(x: &Axis<N>, y: &Axis<N>, sideways: bool) -> Side {
    match (sideways, x.way.is_negative(), y.way.is_negative()) {
        (true, false, _) => Side::Left,
        (true, true, _) => Side::Right,
        (false, _, false) => Side::Top,
        (false, _, true) => Side::Bottom,
    }
}

/// A cell that stops what comes in by some of its sides; a wall by all, and whoever is in it.
#[derive(Clone, Copy, Debug, PartialEq)]
struct Stop {
    cell: CellPos,
    sides: Sides,
    is_wall: bool,
}

/// What a box meets first of some cells.
fn judge_box<N: Number>(x: &Axis<N>, y: &Axis<N>, stops: &[Stop]) -> Option<Verdict<N>> {
    let mut first: Option<(Verdict<N>, bool, (N, i32))> = None;
    for &Stop { cell, sides, .. } in stops {
        let ((enter_x, leave_x), (enter_y, leave_y)) = (x.times(cell.x()), y.times(cell.y()));
        let sideways = enter_x > enter_y;
        let enter = if sideways { enter_x } else { enter_y };
        let Time::At(time) = enter.clone() else { continue };
        if !sides.contains(side(x, y, sideways))
            || time >= N::of(1.0)
            || enter >= leave_x
            || enter >= leave_y
        {
            continue;
        }
        // Of several at once, one that is entered sideways, and the one nearest to the middle; of
        // two as near, the lesser.
        let (axis, line) = if sideways { (y, cell.y()) } else { (x, cell.x()) };
        let middle =
            (axis.from.clone() + axis.to.clone()) / N::of(2.0) + axis.way.clone() * time.clone();
        let edge = |line: i32| N::of(f64::from(line) * axis.side);
        let far = ((edge(line) + edge(line + 1)) / N::of(2.0) - middle).abs();
        let far = (far, line);
        let verdict = Verdict { time: time.clone(), cell, side: Some(side(x, y, sideways)) };
        let is_first = first.as_ref().is_none_or(|(held, held_sideways, held_far)| {
            (&time, !sideways, &far) < (&held.time, !held_sideways, held_far)
        });
        if is_first {
            first = Some((verdict, sideways, far));
        }
    }
    first.map(|(verdict, ..)| verdict)
}

/// What a ray meets first of some cells.
fn judge_ray<N: Number>(x: &Axis<N>, y: &Axis<N>, stops: &[Stop]) -> Option<Verdict<N>> {
    let mut first: Option<(Verdict<N>, bool)> = None;
    let step = |axis: &Axis<N>| if axis.way.is_negative() { -1 } else { 1 };
    for &Stop { cell, sides, is_wall } in stops {
        let ((enter_x, leave_x), (enter_y, leave_y)) = (x.times(cell.x()), y.times(cell.y()));
        // On a corner where it begins, it comes in by the side at which there is no wall.
        let is_wall_at = |cell: CellPos| stops.iter().any(|s| s.cell == cell && s.is_wall);
        let begins_at_corner = is_wall
            && enter_x == Time::At(N::zero())
            && enter_y == enter_x
            && is_wall_at(CellPos::new(cell.x(), cell.y() - step(y)))
            && !is_wall_at(CellPos::new(cell.x() - step(x), cell.y()));
        let sideways = enter_x > enter_y || begins_at_corner;
        let enter = if sideways { enter_x.clone() } else { enter_y.clone() };
        // Through a corner to the side of which it lies, together with the cell across from that.
        let across = CellPos::new(cell.x() - step(x), cell.y() + step(y));
        let is_across = |stop: &Stop| stop.cell == across && stop.sides.contains(side(x, y, false));
        let is_corner = sideways && enter_x == leave_y && stops.iter().any(is_across);
        let goes_through = enter < leave_x && enter < leave_y;
        if !goes_through && !is_corner {
            continue;
        }
        let (time, side) = match enter {
            Time::Before => (N::zero(), None),
            Time::At(time) => (time, Some(side(x, y, sideways))),
            Time::Never => continue,
        };
        if !side.map_or(is_wall, |side| sides.contains(side)) {
            continue;
        }
        // At its end it meets nothing any more; in the cell where it begins, always.
        if side.is_some() && time >= N::of(1.0) {
            continue;
        }
        let key =
            |time: &N, side: Option<Side>, corner: bool| (time.clone(), side.is_some(), !corner);
        let is_first = first.as_ref().is_none_or(|(held, held_corner)| {
            key(&time, side, is_corner) < key(&held.time, held.side, *held_corner)
        });
        if is_first {
            first = Some((Verdict { time, cell, side }, is_corner));
        }
    }
    first.map(|(verdict, _)| verdict)
}

/// The map of the judge: walls within some cells, moved far away, with nothing outside.
fn walls(cell: (f64, f64), stops: &[Stop], far: i32) -> (GroundMap, MoverId) {
    let planks = stops.iter().find(|stop| !stop.is_wall).map(|stop| stop.sides);
    let body = Mover::new("body").block("stone").one_way("plank", planks.unwrap_or_default());
    let bounds = CellRect::new(CellPos::new(far - 90, -far - 90), 180, 180);
    let stones = stops.iter().map(|stop| (stop.cell, usize::from(!stop.is_wall), Turn::NONE));
    let tiles = [yard::stone(), TileSpec::named("plank").with_ground("plank")];
    body_of(&yard::yard(cell, bounds, [body.with_outside(Treatment::Pass)], tiles, stones))
}

/// Some walls and planks: a few near the origin, or many over several chunks. All planks stop what
/// comes from the same sides.
fn any_stops() -> impl Strategy<Value = Vec<Stop>> {
    let cell = |reach: i32| (-reach..reach, -reach..reach).prop_map(|(x, y)| CellPos::new(x, y));
    let cells = prop_oneof![
        3 => prop::collection::vec((cell(8), any::<bool>()), 0..60),
        1 => prop::collection::vec((cell(80), any::<bool>()), 0..200),
    ];
    let sides = prop_oneof![2 => Just(0_u8), 1 => Just(0b0100), 2 => 0..16_u8];
    (cells, sides).prop_map(|(cells, sides)| {
        let sides = Sides::of(Side::ALL.into_iter().filter(|side| sides >> *side as u8 & 1 == 1));
        let stop = |(cell, is_plank): (CellPos, bool)| {
            let is_wall = !is_plank || sides.is_empty();
            Stop { cell, sides: if is_wall { Sides::of(Side::ALL) } else { sides }, is_wall }
        };
        // Of several in a cell, the last one.
        let mut stops: Vec<Stop> = Vec::new();
        for stop in cells.into_iter().map(stop) {
            stops.retain(|held| held.cell != stop.cell);
            stops.push(stop);
        }
        stops
    })
}

fn any_place(reach: f64) -> impl Strategy<Value = f64> {
    prop_oneof![-reach..reach, (-reach..reach).prop_map(f64::round)]
}

/// A side of a box in cells.
fn any_size() -> impl Strategy<Value = f64> {
    prop_oneof![1 => Just(1.0), 1 => Just(0.0), 3 => 0.05..3.0_f64]
}

/// The number of columns and rows by which the map lies away from the origin: up to ten million
/// units.
fn any_far() -> impl Strategy<Value = i32> {
    prop_oneof![Just(0), Just(600_000), Just(-250_001)]
}

/// A little more and less than nothing, in cells.
const LITTLE: [(f64, f64); 5] =
    [(0.0, 0.0), (1e-9, 1e-9), (-1e-9, -1e-9), (1e-9, -1e-9), (-1e-9, 1e-9)];

/// Whether a verdict is the same a little to each side.
fn is_sure(
    x: &Axis<f64>,
    y: &Axis<f64>,
    judge: impl Fn(&Axis<f64>, &Axis<f64>) -> Option<(CellPos, Option<Side>)>,
) -> bool {
    let verdict = judge(x, y);
    LITTLE.iter().all(|(a, b)| {
        LITTLE.iter().all(|(c, d)| judge(&x.moved(*a, *b), &y.moved(*c, *d)) == verdict)
    })
}

fn place<N>(verdict: Option<Verdict<N>>) -> Option<(CellPos, Option<Side>)> {
    verdict.map(|verdict| (verdict.cell, verdict.side))
}

fn moved(stops: &[Stop], far: i32) -> Vec<Stop> {
    let there = |at: CellPos| CellPos::new(at.x() + far, at.y() - far);
    stops.iter().map(|stop| Stop { cell: there(stop.cell), ..*stop }).collect()
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(1500))]

    #[test]
    fn a_sweep_meets_what_the_judge_says(
        stops in any_stops(),
        (width, height) in any_cell_size(),
        far in any_far(),
        (x, y) in (any_place(10.0), any_place(10.0)),
        (w, h) in (any_size(), any_size()),
        (dx, dy) in (any_place(40.0), any_place(40.0)),
    ) {
        let stops = moved(&stops, far);
        let (ground, mover) = walls((width, height), &stops, far);
        let corner = WorldPoint::new((x + f64::from(far)) * width, (y - f64::from(far)) * height);
        let body = WorldRect::between(corner, corner + WorldVec::new(w * width, h * height));
        let motion = WorldVec::new(dx * width, dy * height);
        let sweep = ground.sweep(mover, body, motion);
        // A thin box is taken as four skins wide.
        let is_thin = w == 0.0 || h == 0.0;
        let skin = if is_thin { 3.0 } else { 1.0 } * GroundMap::SKIN * width.max(height);
        let taken = if is_thin { body.grown(skin) } else { body };
        // What it was apart from before, it is not in afterwards.
        let bounds = |cell: CellPos| ground.lattice().bounds(cell);
        for wall in stops.iter().filter(|stop| stop.is_wall) {
            let was_in = depth(taken, bounds(wall.cell)) > 0.0;
            prop_assert!(was_in || depth(sweep.end, bounds(wall.cell)) <= skin * 1.01, "{:?}", wall);
        }
        // It ends at the edge of what it has met, and where it meets nothing, at the end.
        match sweep.contact {
            None => prop_assert_eq!((sweep.fraction, sweep.end), (1.0, body.moved(motion))),
            Some(contact) => {
                let (end, met) = (sweep.end, bounds(contact.cell));
                let (of_end, of_cell, way) = match contact.side {
                    Side::Left => (end.max().x, met.min().x, motion.x),
                    Side::Right => (end.min().x, met.max().x, -motion.x),
                    Side::Top => (end.max().y, met.min().y, motion.y),
                    Side::Bottom => (end.min().y, met.max().y, -motion.y),
                    side => panic!("a square has no side {side:?}"),
                };
                let touches = of_end == of_cell || is_thin && (of_end - of_cell).abs() < skin;
                prop_assert!(way > 0.0 && touches, "{} at {} of {:?}", end, met, contact);
            }
        }
        let (min, max) = (body.min(), body.max());
        let (across, down) = (
            Axis::<f64>::of_box(width, min.x, max.x, motion.x),
            Axis::<f64>::of_box(height, min.y, max.y, motion.y),
        );
        if !is_sure(&across, &down, |x, y| place(judge_box(x, y, &stops))) {
            return Ok(());
        }
        let verdict = judge_box(
            &Axis::<BigRational>::of_box(width, min.x, max.x, motion.x),
            &Axis::<BigRational>::of_box(height, min.y, max.y, motion.y),
            &stops,
        );
        let met = sweep.contact.map(|contact| (contact.cell, Some(contact.side)));
        prop_assert_eq!(met, place(verdict.clone()));
        let time = verdict.map_or(1.0, |verdict| num_traits::ToPrimitive::to_f64(&verdict.time).unwrap());
        // To a thousand-millionth of a cell, by the shorter way of the two.
        let way = dx.abs().max(dy.abs());
        prop_assert!((sweep.fraction - time).abs() * way <= 1e-8, "{} and {}", sweep.fraction, time);
    }

    #[test]
    fn a_ray_meets_what_the_judge_says(
        stops in any_stops(),
        (width, height) in any_cell_size(),
        far in any_far(),
        (x, y) in (any_place(10.0), any_place(10.0)),
        (dx, dy) in (any_place(90.0), any_place(90.0)),
    ) {
        let stops = moved(&stops, far);
        let (ground, mover) = walls((width, height), &stops, far);
        let from = WorldPoint::new((x + f64::from(far)) * width, (y - f64::from(far)) * height);
        let motion = WorldVec::new(dx * width, dy * height);
        let hit = ground.ray(mover, from, motion);
        let (across, down) = (
            Axis::<f64>::of_point(width, from.x, motion.x),
            Axis::<f64>::of_point(height, from.y, motion.y),
        );
        if !is_sure(&across, &down, |x, y| place(judge_ray(x, y, &stops))) {
            return Ok(());
        }
        let verdict = judge_ray(
            &Axis::<BigRational>::of_point(width, from.x, motion.x),
            &Axis::<BigRational>::of_point(height, from.y, motion.y),
            &stops,
        );
        prop_assert_eq!(hit.map(|hit| (hit.cell, hit.side)), place(verdict.clone()));
        if let (Some(hit), Some(verdict)) = (hit, verdict) {
            let time = num_traits::ToPrimitive::to_f64(&verdict.time).unwrap();
            prop_assert!((hit.fraction - time).abs() * dx.abs().max(dy.abs()) <= 1e-8);
            let there = from + motion * time;
            prop_assert!((hit.point - there).x.abs() <= 1e-8 * width.max(1.0));
            prop_assert!((hit.point - there).y.abs() <= 1e-8 * height.max(1.0));
        }
    }

    /// All numbers are exact in binary, many corners are met exactly, and nothing is left out.
    #[test]
    fn exact_numbers_have_exact_answers(
        stops in any_stops(),
        far in prop_oneof![Just(0), Just(4_000_000)],
        (x, y, w, h) in (-40..40_i32, -40..40_i32, 1..12_i32, 1..12_i32),
        (dx, dy) in (-160..160_i32, -160..160_i32),
    ) {
        let stops = moved(&stops, far);
        let (ground, mover) = walls((16.0, 16.0), &stops, far);
        let quarter = |v: i32| f64::from(v) * 4.0;
        let far = f64::from(far) * 16.0;
        let corner = WorldPoint::new(quarter(x) + far, quarter(y) - far);
        let motion = WorldVec::new(quarter(dx), quarter(dy));
        let body = WorldRect::between(corner, corner + WorldVec::new(quarter(w), quarter(h)));
        let exact = |from: f64, to: f64, way: f64| Axis::<BigRational>::of_box(16.0, from, to, way);
        let sweep = ground.sweep(mover, body, motion);
        let (min, max) = (body.min(), body.max());
        let verdict = judge_box(&exact(min.x, max.x, motion.x), &exact(min.y, max.y, motion.y), &stops);
        let met = sweep.contact.map(|contact| (contact.cell, Some(contact.side)));
        prop_assert_eq!(met, place(verdict));

        let hit = ground.ray(mover, corner, motion);
        let verdict = judge_ray(
            &Axis::<BigRational>::of_point(16.0, corner.x, motion.x),
            &Axis::<BigRational>::of_point(16.0, corner.y, motion.y),
            &stops,
        );
        prop_assert_eq!(hit.map(|hit| (hit.cell, hit.side)), place(verdict));
        // Turned round, it goes through the same cells.
        let cells = |from, motion| ground.ray_cells(from, motion).map(|c| c.cell).collect::<Vec<_>>();
        let forth = cells(corner + WorldVec::new(1.0, 2.0), motion);
        let mut back = cells(corner + WorldVec::new(1.0, 2.0) + motion, motion * -1.0);
        back.reverse();
        prop_assert_eq!(forth, back);
    }
}
