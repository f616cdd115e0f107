//! Cells in which several tiles speak, each for a part: everything that asks the ground against a
//! judge that asks the layers at single points.

use sturdy_quilt::ground::{ConvexPiece, KeptShapes, Outline};
use sturdy_quilt::{Cell, LayerSettings, Presence};

use super::*;

/// The classes of the tiles, and how `body` takes them: `None` stands for what nobody speaks for.
const CLASSES: [&str; 3] = ["stone", "plank", "fog"];
const LAYERS: [&str; 3] = ["ground", "boards", "posts"];

/// A tile in a layer: the layer, the cell, the shape, how it is turned, and the class.
type Thing = (usize, CellPos, usize, usize, usize);

/// What lies where.
#[derive(Clone, Debug)]
struct Yard {
    things: Vec<Thing>,
}

fn any_yard(most: usize) -> impl Strategy<Value = Yard> {
    let cell = (-2..2_i32, -2..2_i32).prop_map(|(x, y)| CellPos::new(x, y));
    let thing = (0..3_usize, cell, 0..shapes().len() + 3, 0..8_usize, 0..3_usize);
    prop::collection::vec(thing, 0..most).prop_map(|things| {
        let mut kept: Vec<Thing> = Vec::new();
        for thing in things {
            kept.retain(|held| (held.0, held.1) != (thing.0, thing.1));
            kept.push(thing);
        }
        Yard { things: kept }
    })
}

fn shape_at((_, _, shape, turn, _): &Thing) -> CellShape {
    let shape = shapes().get(*shape).copied().unwrap_or(CellShape::SQUARE);
    shape.turned(Turn::SQUARE[*turn])
}

impl Yard {
    fn quilt(&self) -> Quilt {
        let mut quilt = Quilt::new(Lattice::square(CELL, CELL).unwrap());
        let edit = quilt.edit("make a yard", |pen| {
            pen.add_ground_classes(CLASSES)?;
            let body =
                Mover::new("body").block("stone").one_way("fog", sturdy_quilt::units::Sides::TOP);
            pen.put_mover(body.with_outside(Treatment::Pass))?;
            let boat = Mover::new("boat").block("stone").block("fog").slow("plank", 0.5);
            pen.put_mover(boat.with_empty(Treatment::Block).with_outside(Treatment::Pass))?;
            let cart = Mover::new("cart").block("stone").block("fog");
            pen.put_mover(cart.with_outside(Treatment::Pass))?;
            let mut set = TileSet::builder("yard");
            for class in CLASSES {
                for (number, shape) in shapes().into_iter().chain([CellShape::SQUARE]).enumerate() {
                    let tile = TileSpec::named(format!("{class}{number}")).with_ground(class);
                    set = set.tile(tile.with_shape(shape));
                }
            }
            pen.put_tiles(set.build()?)?;
            for (layer, priority) in LAYERS.into_iter().zip(0..) {
                pen.add_layer(layer, LayerSettings::default().with_priority(priority))?;
            }
            pen.set_bounds(Some(CellRect::new(CellPos::new(-3, -3), 6, 6)))
        });
        edit.unwrap();
        self.lay(&mut quilt);
        quilt
    }

    fn lay(&self, quilt: &mut Quilt) {
        let edit = quilt.edit("lay", |pen| {
            for (layer, cell, shape, turn, class) in &self.things {
                let name = format!("yard/{}{}", CLASSES[*class], shape.min(&shapes().len()));
                let tile = Cell::of(pen.quilt().tile(&name)?).with_turn(Turn::SQUARE[*turn]);
                pen.put(LAYERS[*layer], *cell, tile)?;
            }
            Ok::<(), sturdy_quilt::EditError>(())
        });
        edit.unwrap();
    }

    /// The class at a place; `Err` where it lies too near to an edge to tell.
    fn class_at(&self, place: WorldPoint) -> Result<Option<usize>, ()> {
        const NEAR: f64 = 0.002;
        let parts = (place.x / CELL, place.y / CELL);
        let cell = CellPos::new(parts.0.floor() as i32, parts.1.floor() as i32);
        let (x, y) = (parts.0 - parts.0.floor(), parts.1 - parts.1.floor());
        if [x, y].iter().any(|part| *part < NEAR || *part > 1.0 - NEAR) {
            return Err(());
        }
        for layer in (0..LAYERS.len()).rev() {
            let thing = self.things.iter().find(|thing| (thing.0, thing.1) == (layer, cell));
            let Some(thing) = thing else { continue };
            let corners = shape_at(thing).corners().to_vec();
            let next = corners.iter().cycle().skip(1);
            let depths = corners.iter().zip(next).map(|(a, b)| {
                let (way, on) = ((b.0 - a.0, b.1 - a.1), (x - a.0, y - a.1));
                (way.0 * on.1 - way.1 * on.0) / way.0.hypot(way.1)
            });
            let depth = depths.fold(f64::INFINITY, f64::min);
            if depth.abs() < NEAR {
                return Err(());
            }
            if depth > 0.0 {
                return Ok(Some(thing.4));
            }
        }
        Ok(None)
    }

    /// How `body`, or `boat`, takes a place.
    fn treatment_at(&self, mover: &str, place: WorldPoint) -> Result<Treatment, ()> {
        Ok(match (mover, self.class_at(place)?) {
            (_, Some(0)) | ("boat", None) | ("boat" | "cart", Some(2)) => Treatment::Block,
            ("boat", Some(1)) => Treatment::Slow(0.5),
            (_, Some(2)) => Treatment::OneWay(sturdy_quilt::units::Sides::TOP),
            _ => Treatment::Pass,
        })
    }
}

/// The points of a net over the cells with things.
fn net() -> impl Iterator<Item = WorldPoint> {
    let line = |at: i32| (f64::from(at) + 0.391) * 0.731 - 2.0 * CELL;
    (0..87).flat_map(move |y| (0..87).map(move |x| WorldPoint::new(line(x), line(y))))
}

/// `boat` cannot be where nobody says anything; `body` takes fog as one-way.
const MOVERS: [&str; 3] = ["boat", "cart", "body"];

/// Those that are stopped by all sides or none, which points tell.
const PLAIN: &[&str] = &["boat", "cart"];

proptest! {
    #![proptest_config(ProptestConfig::with_cases(56))]

    #[test]
    fn outside_its_shape_a_tile_says_nothing(yard in any_yard(30)) {
        let quilt = yard.quilt();
        let ground = GroundMap::of(&quilt);
        for name in MOVERS {
            let mover = quilt.mover(name).unwrap();
            for place in net() {
                let Ok(treatment) = yard.treatment_at(name, place) else { continue };
                prop_assert_eq!(ground.treatment_at(mover, place), treatment, "{:?}", place);
                prop_assert_eq!(ground.blocked_at(mover, place), treatment.blocks());
                prop_assert_eq!(ground.speed_at(mover, place), treatment.speed());
            }
            for cell in ground.bounds().cells() {
                let stops = ground.solids_at(mover, cell).count() > 0;
                let treatment = ground.treatment(mover, cell);
                let one_way = Side::ALL.iter().any(|side| treatment.stops_at(*side));
                prop_assert_eq!(stops, one_way);
                prop_assert_eq!(ground.blocked(mover, cell), treatment.blocks());
            }
        }
        for cell in ground.bounds().cells() {
            let said = quilt.grounds_at(cell);
            prop_assert_eq!(ground.class_at(cell), quilt.ground_at(cell).map(|g| g.map(|g| g.class)));
            // What lies wholly under others is not among the parts.
            let mut said = said.iter().map(|said| said.here().map(|said| (said.class, said.shape)));
            for part in ground.parts_at(cell) {
                let Presence::Here(Some(class)) = part.class else { continue };
                prop_assert!(said.any(|said| said == Some((class, part.shape))), "{:?}", part);
            }
        }
    }

    #[test]
    fn a_ray_passes_beside_what_is_solid(
        yard in any_yard(40),
        rays in prop::collection::vec((any_place(), any_place()), 12),
    ) {
        let quilt = yard.quilt();
        let ground = GroundMap::of(&quilt);
        for ((from, to), name) in rays.into_iter().zip(PLAIN.iter().cycle()) {
            let (motion, boat) = (to - from, quilt.mover(name).unwrap());
            let hit = ground.ray(boat, from, motion);
            let end = hit.map_or(1.0, |hit| hit.fraction);
            const STEPS: u32 = 500;
            for step in 0..STEPS {
                let at = f64::from(step) / f64::from(STEPS) * end;
                let Ok(treatment) = yard.treatment_at(name, from + motion * at) else { continue };
                if hit.is_some_and(|hit| hit.side.is_none()) {
                    break;
                }
                prop_assert!(!treatment.blocks(), "{:?} {:?}: at {} of {:?}", from, to, at, hit);
            }
            let Some(hit) = hit.filter(|_| motion != WorldVec::ZERO) else { continue };
            let behind = from + motion * (hit.fraction + 0.05 / motion.length());
            if let Ok(treatment) = yard.treatment_at(name, behind) {
                let solids: Vec<_> = ground.solids_at(boat, hit.cell).collect();
                prop_assert!(treatment.blocks() || is_grazed(solids[hit.piece], &hit, motion));
            }
            let mut along: Vec<_> = Vec::new();
            for crossed in ground.ray_cells(from, motion) {
                along.extend(ground.parts_crossed(boat, from, motion, crossed));
            }
            for part in along {
                let middle = from + motion * f64::midpoint(part.enter, part.exit);
                if let Ok(treatment) = yard.treatment_at(name, middle) {
                    prop_assert_eq!(part.treatment, treatment);
                }
            }
        }
    }

    #[test]
    fn bodies_end_beside_what_is_solid(
        yard in any_yard(40),
        moves in prop::collection::vec((any_place(), any_place(), 1.0..9.0_f64), 8),
    ) {
        fn check<B: Body>((yard, name): (&Yard, &str), body: B, skin: f64, lies_in: impl Fn(WorldPoint) -> bool) -> Result<(), TestCaseError> {
            let bounds = body.bounds();
            for step in 0..900 {
                let part = |at: i32| (f64::from(at) + 0.5) / 30.0;
                let (x, y) = (part(step % 30) * bounds.width(), part(step / 30) * bounds.height());
                let place = bounds.min() + WorldVec::new(x, y);
                let far = |way| yard.treatment_at(name, place + way).is_ok_and(|held| held.blocks());
                // By more than a skin.
                let all = [(0.0, 0.0), (skin, 0.0), (-skin, 0.0), (0.0, skin), (0.0, -skin)];
                let is_in = lies_in(place) && all.iter().all(|(x, y)| far(WorldVec::new(*x, *y)));
                prop_assert!(!is_in, "{:?} lies in something at {:?}", body.bounds(), place);
            }
            Ok(())
        }
        let quilt = yard.quilt();
        let ground = GroundMap::of(&quilt);
        let skin = 2.0 * CELL * GroundMap::SKIN;
        for ((from, to, size), name) in moves.into_iter().zip(PLAIN.iter().cycle()) {
            let (boat, yard) = (quilt.mover(name).unwrap(), (&yard, *name));
            let body = WorldRect::between(from, from + WorldVec::new(size, size));
            let ball = Circle::new(from, size / 2.0);
            for motion in [to - from, WorldVec::new((to - from).x, 0.0)] {
                if !ground.overlaps(boat, body) {
                    check(yard, body, skin, |_| true)?;
                    let slide = ground.slide(boat, body, motion);
                    check(yard, slide.end, skin, |_| true)?;
                    prop_assert!(!ground.overlaps(boat, slide.end));
                }
                if !ground.overlaps(boat, ball) {
                    let end = ground.slide(boat, ball, motion).end;
                    check(yard, end, skin, |at| (at - end.center).length() < size / 2.0 - skin)?;
                    prop_assert!(!ground.overlaps(boat, end));
                }
            }
            let under: Vec<_> = ground.overlapping(boat, ball).collect();
            let blocks = under.iter().any(|under| under.treatment.blocks());
            prop_assert_eq!(ground.overlaps(boat, ball), blocks);
            let shares: f64 = under.iter().map(|under| under.share).sum();
            prop_assert!((shares - 1.0).abs() < 0.02, "{} of {:?}", shares, ball);
        }
    }

    #[test]
    fn shapes_for_others_are_what_is_solid(yard in any_yard(40)) {
        let quilt = yard.quilt();
        let ground = GroundMap::of(&quilt);
        for name in MOVERS {
            let mover = quilt.mover(name).unwrap();
            let pieces = ground.pieces(mover, ground.bounds());
            for place in net() {
                let Ok(treatment) = yard.treatment_at(name, place) else { continue };
                let holding = pieces.iter().filter(|piece| holds(piece, place)).count();
                prop_assert_eq!(holding, usize::from(treatment.blocks()), "{:?}", place);
            }
            let area: f64 = pieces.iter().map(ConvexPiece::area).sum();
            let outlines = ground.outlines(mover, ground.bounds());
            let around: f64 = outlines.iter().map(Outline::area).sum();
            prop_assert!((area - around).abs() < 1e-3, "{} and {}", area, around);
            for outline in &outlines {
                prop_assert!(outline.area() > 0.0, "{:?}", outline);
            }
        }
    }

}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(12))]

    #[test]
    fn a_view_passes_where_a_ray_does(yard in any_yard(30)) {
        let quilt = yard.quilt();
        let ground = GroundMap::of(&quilt);
        let cells: Vec<CellPos> = ground.bounds().cells().collect();
        for (from, name) in cells.iter().zip(PLAIN.iter().cycle()) {
            let boat = quilt.mover(name).unwrap();
            let field = ground.field_of_view(boat, *from, 6);
            for to in &cells {
                let sees = ground.sees(boat, *from, *to);
                prop_assert_eq!(sees, ground.sees(boat, *to, *from));
                let is_whole = ground.solids_at(boat, *to).eq([&CellShape::SQUARE]);
                prop_assert!(is_whole || *from == *to || field.contains(*to) == sees, "{} {}", from, to);
                let [a, b] = [from, to].map(|cell| ground.lattice().center(*cell));
                let (mut is_stopped, mut is_near) = (false, false);
                for step in 1..400 {
                    let place = a + (b - a) * (f64::from(step) / 400.0);
                    let cell = ground.lattice().cell_at(place);
                    match yard.treatment_at(name, place) {
                        Err(()) => is_near = true,
                        Ok(treatment) => {
                            is_stopped |= treatment.blocks() && cell != *from && cell != *to;
                        }
                    }
                    // What comes behind decides nothing.
                    if is_stopped || is_near && !sees {
                        break;
                    }
                }
                prop_assert!(!(is_stopped && sees), "{} {}", from, to);
                prop_assert!(is_stopped || is_near || sees, "{} {}", from, to);
            }
        }
    }

}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(60))]

    #[test]
    fn refreshed_parts_equal_new_ones(yards in prop::collection::vec(any_yard(12), 1..5)) {
        let mut quilt = Yard { things: Vec::new() }.quilt();
        let mut kept = GroundMap::of(&quilt);
        let boat = quilt.mover("boat").unwrap();
        let mut shapes = KeptShapes::<Outline>::new(boat);
        for yard in yards {
            yard.lay(&mut quilt);
            kept.refresh(&quilt);
            let new = GroundMap::of(&quilt);
            for cell in kept.bounds().cells() {
                prop_assert!(kept.parts_at(cell).eq(new.parts_at(cell)));
                prop_assert!(kept.solids_at(boat, cell).eq(new.solids_at(boat, cell)));
                prop_assert_eq!(kept.treatment(boat, cell), new.treatment(boat, cell));
            }
            // By turns from both, whose numbers of parts differ.
            shapes.update(&kept);
            shapes.update(&new);
            let mut held: Vec<Outline> = shapes.iter().map(|(_, shape)| shape.clone()).collect();
            let mut fresh = KeptShapes::<Outline>::new(boat);
            fresh.update(&new);
            let mut all: Vec<Outline> = fresh.iter().map(|(_, shape)| shape.clone()).collect();
            let order = |a: &Outline, b: &Outline| {
                let first = |o: &Outline| (o.ring[0].y, o.ring[0].x, o.ring[1].y);
                first(a).partial_cmp(&first(b)).unwrap()
            };
            held.sort_by(order);
            all.sort_by(order);
            prop_assert_eq!(held, all);
        }
    }
}

fn any_place() -> impl Strategy<Value = WorldPoint> {
    // Often on the lines of the shapes, which lie on eighths of a cell.
    let number = prop_oneof![-40.0..40.0_f64, (-20..20_i32).prop_map(|at| f64::from(at) * 2.0),];
    (number.clone(), number).prop_map(|(x, y)| WorldPoint::new(x, y))
}

fn holds(piece: &ConvexPiece, place: WorldPoint) -> bool {
    let corners = piece.polygon.corners();
    let next = corners.iter().cycle().skip(1);
    corners.iter().zip(next).all(|(a, b)| {
        let (way, on) = (*b - *a, place - *a);
        way.x * on.y - way.y * on.x > 0.0
    })
}

/// Whether a ray comes to a shape by a corner, or nearly along an edge.
fn is_grazed(shape: &CellShape, hit: &sturdy_quilt::ground::RayHit, motion: WorldVec) -> bool {
    let way = motion * (1.0 / motion.length());
    let corner = WorldPoint::new(f64::from(hit.cell.x()) * CELL, f64::from(hit.cell.y()) * CELL);
    let is_near = |(x, y): &(f64, f64)| {
        let to = corner + WorldVec::new(x * CELL, y * CELL) - hit.point;
        to.length() < 0.2
    };
    shape.corners().iter().any(is_near) || hit.normal.dot(way).abs() < 0.1
}

/// A walker among posts in deep water: it gets in nowhere. A boat gets between them.
#[test]
fn posts_leave_the_water_between_them() {
    let water = (0, CellPos::new(0, 0), usize::MAX, 0, 2);
    let post = (2, CellPos::new(0, 0), 5, 0, 0);
    let yard = Yard { things: vec![water, post] };
    let mut quilt = yard.quilt();
    quilt
        .edit("movers", |pen| {
            pen.put_mover(Mover::new("walker").block("stone").block("fog"))?;
            pen.put_mover(Mover::new("boat").block("stone"))
        })
        .unwrap();
    let ground = GroundMap::of(&quilt);
    let [walker, boat] = ["walker", "boat"].map(|name| quilt.mover(name).unwrap());
    let body = WorldRect::between(WorldPoint::new(-6.0, 13.0), WorldPoint::new(-4.0, 15.0));
    let east = WorldVec::new(30.0, 0.0);
    let met = ground.sweep(walker, body, east);
    assert_eq!(met.end.max().x, 0.0);
    assert_eq!(met.contact.unwrap().class, Some(quilt.ground_rules().class("stone").unwrap()));
    assert_eq!(ground.sweep(boat, body, east).contact, None);
    let high = body.moved(WorldVec::new(0.0, -5.0));
    let met = ground.sweep(boat, high, east).contact.unwrap();
    assert_eq!((met.point.x, met.piece, met.part), (4.0, 0, ShapePart::Edge(3)));
    let middle = |y: f64| WorldPoint::new(-8.0, y);
    assert_eq!(ground.ray(walker, middle(14.0), east).unwrap().point.x, 0.0);
    assert_eq!(ground.ray(boat, middle(14.0), east), None);
    assert_eq!(ground.ray(boat, middle(8.0), east).unwrap().point.x, 4.0);
    assert!(!ground.sees(boat, CellPos::new(-1, -1), CellPos::new(1, 1)));
    let parts: Vec<_> = ground.parts_at(CellPos::ORIGIN).map(|part| part.shape).collect();
    assert_eq!(parts, [shapes()[5], CellShape::SQUARE]);
}

/// Two parts of a cell that meet at a sharp corner are two solids, each with its own holes.
#[test]
fn solids_that_meet_at_a_sharp_corner_are_two() {
    let at = CellPos::new;
    let things = vec![
        (0, at(-1, -1), 2, 3, 0),
        (0, at(0, -1), 0, 0, 0),
        (0, at(-1, -2), 0, 1, 0),
        (1, at(-1, 0), 4, 1, 0),
        (0, at(-2, -2), 8, 0, 2),
        (0, at(-2, -1), 9, 0, 0),
        (0, at(-1, 0), 2, 5, 2),
    ];
    let quilt = Yard { things }.quilt();
    let ground = GroundMap::of(&quilt);
    let outlines = ground.outlines(quilt.mover("cart").unwrap(), ground.bounds());
    let holes: Vec<usize> = outlines.iter().map(|outline| outline.holes.len()).collect();
    assert_eq!(holes, [2, 0, 0]);
    assert!(outlines.iter().all(|outline| outline.area() > 0.0), "{outlines:?}");
}
