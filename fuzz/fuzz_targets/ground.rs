//! Ground queries with any numbers at all, on any small map.
#![no_main]

use arbitrary::Arbitrary;
use libfuzzer_sys::fuzz_target;
use sturdy_quilt::ground::{Capsule, Circle, ConvexPolygon, SlideOptions};
use sturdy_quilt::quilt::{MoverId, Treatment};
use sturdy_quilt::tile::CellShape;
use sturdy_quilt::units::Sides;
use sturdy_quilt::{
    Body, CellPos, CellRect, GroundMap, Lattice, LayerSettings, Mover, Quilt, Side, TileSet,
    TileSpec, Turn, WorldPoint, WorldRect, WorldVec,
};

/// Columns and rows of the map.
const SIDE: usize = 12;

#[derive(Arbitrary, Debug)]
struct Scene {
    cell: (CellSide, CellSide),
    at: (i32, i32),
    far: bool,
    cells: [[(u8, u8); SIDE]; SIDE],
    wraps: bool,
    asks: Vec<Ask>,
    edits: Vec<(u8, u8, u8)>,
}

/// The side of a cell.
#[derive(Arbitrary, Debug)]
enum CellSide {
    Usual,
    Least,
    Most,
    Odd(u16),
}

/// A number: mostly one near the map.
#[derive(Arbitrary, Clone, Copy, Debug)]
enum Number {
    Cells(i8, u8),
    Line(i8),
    Beside(i8, bool),
    Any(f64),
    Bits(u64),
}

#[derive(Arbitrary, Debug)]
struct Ask {
    from: (Number, Number),
    size: (Number, Number),
    motion: (Number, Number),
    body: u8,
    turns: u8,
    steps: (Number, Number),
    corner: Number,
    has_slopes: bool,
}

impl CellSide {
    fn of(&self) -> f64 {
        match self {
            CellSide::Usual => 16.0,
            CellSide::Least => 1.0 / 1024.0,
            CellSide::Most => 65536.0,
            CellSide::Odd(side) => f64::from(*side) / 7.0 + 0.01,
        }
    }
}

impl Number {
    fn of(self, side: f64) -> f64 {
        match self {
            Number::Cells(whole, part) => side * (f64::from(whole) / 8.0 + f64::from(part) / 256.0),
            Number::Line(line) => side * f64::from(line % 16),
            Number::Beside(line, up) => {
                let line = side * f64::from(line % 16);
                if up { line.next_up() } else { line.next_down() }
            }
            Number::Any(number) => number,
            Number::Bits(bits) => f64::from_bits(bits),
        }
    }
}

fn scene(scene: &Scene) -> Quilt {
    let lattice = Lattice::square(scene.cell.0.of(), scene.cell.1.of()).unwrap();
    Quilt::build(lattice, |pen| {
        pen.add_ground_classes(["stone", "mud", "ledge"])?;
        let mover = Mover::new("body")
            .block("stone")
            .slow("mud", 0.5)
            .one_way("ledge", Sides::of([Side::Top]));
        pen.put_mover(mover.clone().with_outside(Treatment::Pass))?;
        let mover = Mover::new("other").block("stone").block("mud");
        pen.put_mover(if scene.wraps { mover.with_wrap() } else { mover })?;
        let shapes = [
            CellShape::SQUARE,
            CellShape::floor(0.0, 1.0).unwrap(),
            CellShape::floor(0.25, 0.5).unwrap(),
            CellShape::ceiling(1.0, 0.5).unwrap(),
            CellShape::area(0.25, 0.25, 0.5, 1.0).unwrap(),
            CellShape::polygon([(0.5, 0.0), (1.0, 0.5), (0.5, 1.0), (0.0, 0.5)]).unwrap(),
        ];
        let mut set = TileSet::builder("s");
        for (number, shape) in shapes.into_iter().enumerate() {
            for class in ["stone", "mud", "ledge"] {
                let tile = TileSpec::named(format!("{class}{number}")).with_ground(class);
                set = set.tile(if number == 0 { tile } else { tile.with_shape(shape) });
            }
        }
        pen.put_tiles(set.build()?)?;
        pen.add_layer("soil", LayerSettings::default())?;
        let tiles: Vec<_> = pen.quilt().tiles().ids().collect();
        let origin = corner(scene);
        for (y, row) in scene.cells.iter().enumerate() {
            for (x, (tile, turn)) in row.iter().enumerate() {
                let Some(tile) = tiles.get(usize::from(*tile)) else { continue };
                let at = CellPos::new(origin.x() + x as i32, origin.y() + y as i32);
                let cell =
                    sturdy_quilt::Cell::of(*tile).with_turn(Turn::SQUARE[usize::from(*turn) % 8]);
                pen.put("soil", at, cell)?;
            }
        }
        pen.set_bounds(Some(CellRect::new(origin, SIDE as u32, SIDE as u32)))
    })
    .unwrap()
}

/// The upper left cell of the map.
fn corner(scene: &Scene) -> CellPos {
    // A map that repeats itself does so only as far as there are cells.
    let end = if scene.wraps { 1 << 29 } else { 1 << 30 };
    let far = |at: i32| at.clamp(-end, end - SIDE as i32);
    if scene.far { CellPos::new(far(scene.at.0), far(scene.at.1)) } else { CellPos::new(-6, -6) }
}

#[track_caller]
fn share(part: f64) {
    assert!((0.0..=1.0).contains(&part), "{part}");
}

fn ask_with<B: Body>(
    ground: &GroundMap,
    mover: MoverId,
    body: B,
    motion: WorldVec,
    ask: &Ask,
    side: f64,
) {
    let finite =
        |b: WorldRect| [b.min().x, b.min().y, b.max().x, b.max().y].iter().all(|n| n.is_finite());
    let are_numbers = |at: &WorldPoint| at.x.is_finite() && at.y.is_finite();
    let was_finite = finite(body.bounds()) && body.outline().iter().all(are_numbers);
    let sweep = ground.sweep(mover, body, motion);
    share(sweep.fraction);
    assert!(!was_finite || finite(sweep.end.bounds()), "{sweep:?}");
    if sweep.contact.is_none() {
        assert_eq!(sweep.fraction, 1.0);
    }
    let options = SlideOptions::new()
        .with_turns(ask.turns % 8)
        .with_step_up(ask.steps.0.of(side))
        .with_step_down(ask.steps.1.of(side))
        .with_corner(ask.corner.of(side));
    let slide = ground.slide_with(
        mover,
        body,
        motion,
        if ask.has_slopes { options.with_slopes() } else { options },
    );
    assert!(!was_finite || finite(slide.end.bounds()), "{slide:?}");
    ground.stands_on(mover, body);
    let overlaps = ground.overlaps(mover, body);
    // What is told cell by cell is asked of bodies that lie in few.
    let bounds = body.bounds();
    let spans_less = |cells: f64| bounds.width().max(bounds.height()) < side * cells;
    if spans_less(40.0) {
        let listed = ground.overlapping(mover, body).any(|under| {
            share(under.share);
            under.treatment.blocks()
        });
        assert!(!listed || overlaps || !was_finite, "{body:?} overlaps what blocks");
        share(ground.slowest_under(mover, body));
        share(ground.mean_under(mover, body));
    }
    // A way out costs the square of them.
    if spans_less(8.0)
        && let Some(way) = ground.push_out(mover, body, side * 2.0)
    {
        assert!(way.x.is_finite() && way.y.is_finite(), "{way:?}");
    }
    assert!(body.outline().len() < 4096);
}

fn check_ask(quilt: &Quilt, ground: &GroundMap, scene: &Scene, ask: &Ask) {
    let (width, height) = (scene.cell.0.of(), scene.cell.1.of());
    let origin = quilt.lattice().bounds(corner(scene)).min();
    let point = |(x, y): (Number, Number)| WorldPoint::new(x.of(width), y.of(height));
    let mut from = point(ask.from);
    if scene.far {
        from = WorldPoint::new(origin.x + from.x, origin.y + from.y);
    }
    let (size, motion) = (point(ask.size), point(ask.motion));
    let motion = WorldVec::new(motion.x, motion.y);
    let to = WorldPoint::new(from.x + size.x, from.y + size.y);
    // Each row under a body is looked at where anything lies beyond the bounds; and where the map
    // goes on from its other side, each row on the way, and each cell under a round body.
    let side = width.min(height);
    let are_less = |ways: &[f64], cells: f64| ways.iter().all(|way| way.abs() < cells * side);
    let is_near = are_less(&[size.x, size.y], 1e6)
        && (!scene.wraps || are_less(&[size.x, size.y, motion.x, motion.y], 256.0));
    let movers = if is_near { &["body", "other"][..] } else { &["body"] };
    for name in movers {
        let mover = quilt.mover(name).unwrap();
        match ask.body % 4 {
            0 => ask_with(ground, mover, WorldRect::between(from, to), motion, ask, side),
            1 => ask_with(ground, mover, Circle::new(from, size.x), motion, ask, side),
            2 => ask_with(ground, mover, Capsule::new(from, to, size.y), motion, ask, side),
            _ => {
                let corners = [from, WorldPoint::new(to.x, from.y), to];
                if let Some(body) = ConvexPolygon::new(corners) {
                    ask_with(ground, mover, body, motion, ask, side);
                }
            }
        }
        if let Some(hit) = ground.ray(mover, from, motion) {
            share(hit.fraction);
        }
        ground.ray_cells(from, motion).take(1000).for_each(|crossed| {
            assert!(crossed.enter <= crossed.exit);
            share(crossed.enter);
            share(crossed.exit);
        });
        let cell = quilt.lattice().cell_at(from);
        let seen = ground.field_of_view(mover, cell, u32::from(ask.turns) % 20);
        assert!(seen.contains(cell));
        ground.sees(mover, cell, quilt.lattice().cell_at(to));
        share(ground.speed_at(mover, from));
    }
    ground
        .crossings(WorldRect::between(from, to), motion)
        .take(1000)
        .for_each(|visit| share(visit.fraction));
}

fuzz_target!(|scene_of: Scene| {
    let mut quilt = scene(&scene_of);
    let mut ground = GroundMap::of(&quilt);
    let origin = corner(&scene_of);
    let tiles: Vec<_> = quilt.tiles().ids().collect();
    for (number, ask) in scene_of.asks.iter().take(16).enumerate() {
        check_ask(&quilt, &ground, &scene_of, ask);
        let Some((x, y, tile)) = scene_of.edits.get(number) else { continue };
        let at = CellPos::new(origin.x() + i32::from(x % 12), origin.y() + i32::from(y % 12));
        let edit = quilt
            .edit("change", |pen| pen.put("soil", at, tiles[usize::from(*tile) % tiles.len()]));
        edit.unwrap();
        ground.refresh(&quilt);
        let fresh = GroundMap::of(&quilt);
        let mover = quilt.mover("body").unwrap();
        for cell in quilt.bounds().cells() {
            assert_eq!(ground.treatment(mover, cell), fresh.treatment(mover, cell));
            assert_eq!(ground.shape_at(cell), fresh.shape_at(cell));
        }
    }
});
