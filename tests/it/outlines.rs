//! What stops a mover as polygons and as pieces: against areas, edges and points counted by cells.

use std::collections::{BTreeMap, BTreeSet};

use proptest::prelude::*;
use sturdy_quilt::ground::{ConvexPiece, GroundShape, KeptShapes, Outline, ShapeId};
use sturdy_quilt::quilt::{MoverId, Treatment};
use sturdy_quilt::tile::CellShape;
use sturdy_quilt::{Body, CellPos, CellRect, GroundMap, Mover, Quilt, TileSpec, Turn, WorldPoint};

use crate::yard::{self, Stone, body_of, lay};

const BOUNDS: CellRect = CellRect::new(CellPos::new(-70, -70), 140, 140);

fn shapes() -> [CellShape; 6] {
    [
        CellShape::SQUARE,
        CellShape::floor(0.0, 1.0).unwrap(),
        CellShape::floor(0.3, 0.3).unwrap(),
        CellShape::area(0.25, 0.0, 0.75, 0.5).unwrap(),
        CellShape::floor(0.1, 0.6).unwrap(),
        CellShape::polygon([(0.5, 0.0), (1.0, 0.5), (0.5, 1.0), (0.0, 0.5)]).unwrap(),
    ]
}

fn yard(size: (f64, f64), stones: &[Stone]) -> Quilt {
    let body = Mover::new("body").block("stone").with_outside(Treatment::Block);
    let tile =
        |(shape, at)| TileSpec::named(format!("part{at}")).with_ground("stone").with_shape(shape);
    let tiles = shapes().into_iter().zip(0..).map(tile);
    yard::yard(size, BOUNDS, [body], tiles, stones.iter().copied())
}

fn any_stones(kinds: usize, most: usize) -> impl Strategy<Value = Vec<Stone>> {
    // Near a corner of four chunks.
    let cell = (-6..6_i32, -6..6_i32).prop_map(|(x, y)| CellPos::new(x, y));
    let turn = (0..8_usize).prop_map(|at| Turn::SQUARE[at]);
    prop::collection::vec((cell, 0..kinds, turn), 0..most)
}

/// The last of the stones of each cell.
fn held(stones: &[Stone]) -> BTreeMap<CellPos, CellShape> {
    let mut held = BTreeMap::new();
    for (at, number, turn) in stones {
        match shapes().get(*number) {
            Some(shape) => drop(held.insert(*at, shape.turned(*turn))),
            None => drop(held.remove(at)),
        }
    }
    held
}

fn area_of(corners: &[(f64, f64)]) -> f64 {
    let pairs = (0..corners.len()).map(|at| (corners[at], corners[(at + 1) % corners.len()]));
    pairs.map(|(a, b)| a.0 * b.1 - a.1 * b.0).sum::<f64>() / 2.0
}

/// Whether a point lies in a ring: an odd number of its edges lies to the left.
fn is_in(ring: &[WorldPoint], point: WorldPoint) -> bool {
    let edges = (0..ring.len()).map(|at| (ring[at], ring[(at + 1) % ring.len()]));
    let to_the_left = edges.filter(|(a, b)| {
        (a.y > point.y) != (b.y > point.y)
            && a.x + (b.x - a.x) * (point.y - a.y) / (b.y - a.y) < point.x
    });
    to_the_left.count() % 2 == 1
}

fn any_size() -> impl Strategy<Value = (f64, f64)> {
    prop_oneof![Just((16.0, 16.0)), Just((10.3, 7.7))]
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(300))]

    #[test]
    fn outlines_have_the_area_and_the_edges_of_their_cells(
        stones in any_stones(8, 140),
        size in any_size(),
        points in prop::collection::vec((-6.5..6.5_f64, -6.5..6.5_f64), 200),
    ) {
        let quilt = yard(size, &stones);
        let (ground, mover) = (GroundMap::of(&quilt), quilt.mover("body").unwrap());
        let outlines = ground.outlines(mover, BOUNDS);
        let held = held(&stones);
        let expected: f64 = held.values().map(|shape| area_of(shape.corners())).sum();
        let cell = size.0 * size.1;
        let area: f64 = outlines.iter().map(Outline::area).sum();
        prop_assert!((area - expected * cell).abs() < 1e-6 * cell, "{} of {}", area / cell, expected);
        for outline in &outlines {
            for (ring, way) in std::iter::once((&outline.ring, 1.0)).chain(outline.holes.iter().map(|hole| (hole, -1.0))) {
                let corners: Vec<(f64, f64)> = ring.iter().map(|p| (p.x, p.y)).collect();
                prop_assert!(area_of(&corners) * way > 0.0);
                let distinct: BTreeSet<(u64, u64)> = corners.iter().map(|(x, y)| (x.to_bits(), y.to_bits())).collect();
                prop_assert_eq!(distinct.len(), corners.len(), "a ring touches itself");
            }
            // All holes lie within their ring.
            for hole in &outline.holes {
                let (a, b) = (hole[0], hole[1]);
                let beside = WorldPoint::new((a.x + b.x) / 2.0, (a.y + b.y) / 2.0) ;
                let inwards = WorldPoint::new(beside.x - (b.y - a.y) * 1e-4, beside.y + (b.x - a.x) * 1e-4);
                prop_assert!(is_in(&outline.ring, inwards), "{:?} in {:?}", hole, outline.ring);
            }
        }
        for (x, y) in points {
            let point = WorldPoint::new(x * size.0, y * size.1);
            let around: Vec<&Outline> = outlines.iter().filter(|outline| {
                is_in(&outline.ring, point) && !outline.holes.iter().any(|hole| is_in(hole, point))
            }).collect();
            prop_assert_eq!(around.len(), usize::from(ground.blocked_at(mover, point)), "{}", point);
        }
    }

    #[test]
    fn the_edges_of_whole_cells_are_those_with_nothing_beside_them(
        stones in any_stones(1, 140),
        size in any_size(),
    ) {
        let quilt = yard(size, &stones);
        let (ground, mover) = (GroundMap::of(&quilt), quilt.mover("body").unwrap());
        let held = held(&stones);
        let mut expected = 0.0;
        for cell in held.keys() {
            for next in ground.lattice().neighbors(*cell).filter(|next| !held.contains_key(next)) {
                expected += if next.x() == cell.x() { size.0 } else { size.1 };
            }
        }
        let outlines = ground.outlines(mover, BOUNDS);
        let perimeter: f64 = outlines.iter().map(Outline::perimeter).sum();
        prop_assert!((perimeter - expected).abs() < 1e-6, "{} of {}", perimeter, expected);
        // Of several chunks, what lies at their common edges is added.
        let by_chunk: f64 = BOUNDS.chunks().flat_map(|pos| ground.outlines(mover, pos.cells().intersection(BOUNDS))).map(|outline| outline.area()).sum();
        prop_assert!((by_chunk - held.len() as f64 * size.0 * size.1).abs() < 1e-6);
    }

    #[test]
    fn pieces_are_all_that_is_solid_and_few(
        stones in any_stones(8, 140),
        size in any_size(),
        points in prop::collection::vec((-6.5..6.5_f64, -6.5..6.5_f64), 200),
    ) {
        let quilt = yard(size, &stones);
        let (ground, mover) = (GroundMap::of(&quilt), quilt.mover("body").unwrap());
        let pieces = ground.pieces(mover, BOUNDS);
        for (x, y) in points {
            let point = WorldPoint::new(x * size.0, y * size.1);
            let around = pieces.iter().filter(|piece| is_in(piece.polygon.corners(), point)).count();
            prop_assert_eq!(around, usize::from(ground.blocked_at(mover, point)), "{}", point);
        }
        // Not more than runs of whole cells along rows, and a piece for each other cell.
        let held = held(&stones);
        let is_whole = |cell: &CellPos| held.get(cell) == Some(&CellShape::SQUARE);
        let left = |cell: &CellPos| CellPos::new(cell.x() - 1, cell.y());
        let runs = held.keys().filter(|cell| !is_whole(cell) || !is_whole(&left(cell))).count();
        prop_assert!(pieces.len() <= runs);
        for piece in &pieces {
            prop_assert_eq!(ground.lattice().cells_in(piece.polygon.bounds()), piece.cells);
        }
        let area: f64 = pieces.iter().map(ConvexPiece::area).sum();
        let expected: f64 = held.values().map(|shape| area_of(shape.corners())).sum();
        prop_assert!((area / (size.0 * size.1) - expected).abs() < 1e-6);
    }

    #[test]
    fn kept_shapes_follow_edits(
        stones in any_stones(6, 140),
        edits in prop::collection::vec(any_stones(8, 5), 1..6),
    ) {
        follow::<ConvexPiece>(&stones, &edits)?;
        follow::<Outline>(&stones, &edits)?;
    }
}

fn follow<S: GroundShape + std::fmt::Debug>(
    stones: &[Stone],
    edits: &[Vec<Stone>],
) -> Result<(), TestCaseError> {
    let mut quilt = yard((16.0, 16.0), stones);
    let mut ground = GroundMap::of(&quilt);
    let mover = quilt.mover("body").unwrap();
    let mut kept = KeptShapes::<S>::new(mover);
    let mut copies: BTreeMap<ShapeId, S> = BTreeMap::new();
    for edit in std::iter::once(&Vec::new()).chain(edits) {
        lay(&mut quilt, edit.iter().copied());
        ground.refresh(&quilt);
        let chunks: BTreeSet<_> = edit.iter().map(|(at, ..)| at.chunk()).collect();
        let begins = copies.is_empty();
        let changes = kept.update(&ground);
        for id in changes.gone {
            prop_assert!(copies.remove(&id).is_some(), "what goes was there");
        }
        for (id, shape) in changes.new {
            prop_assert!(begins || !chunks.is_empty());
            prop_assert!(copies.insert(id, shape).is_none(), "what is new has a number of its own");
        }
        let held: BTreeMap<ShapeId, S> =
            kept.iter().map(|(id, shape)| (id, shape.clone())).collect();
        prop_assert_eq!(&held, &copies);
        // As made anew.
        let mut fresh = KeptShapes::<S>::new(mover);
        fresh.update(&GroundMap::of(&quilt));
        let mut shapes: Vec<String> = fresh.iter().map(|(_, shape)| format!("{shape:?}")).collect();
        let mut copied: Vec<String> = copies.values().map(|shape| format!("{shape:?}")).collect();
        shapes.sort();
        copied.sort();
        prop_assert_eq!(shapes, copied);
        let none = kept.update(&ground);
        prop_assert!(none.gone.is_empty() && none.new.is_empty());
    }
    Ok(())
}

fn whole(cells: CellRect) -> Vec<Stone> {
    cells.cells().map(|cell| (cell, 0, Turn::NONE)).collect()
}

fn all_of(stones: &[Stone]) -> (GroundMap, MoverId) {
    body_of(&yard((16.0, 16.0), stones))
}

#[test]
fn a_ring_of_cells_has_a_hole() {
    let mut stones = whole(CellRect::new(CellPos::new(0, 0), 3, 3));
    stones.retain(|stone| stone.0 != CellPos::new(1, 1));
    let (ground, mover) = all_of(&stones);
    let outlines = ground.outlines(mover, BOUNDS);
    let corner = |x: i32, y: i32| WorldPoint::new(f64::from(x) * 16.0, f64::from(y) * 16.0);
    assert_eq!(outlines.len(), 1);
    assert_eq!(outlines[0].ring, [corner(0, 0), corner(3, 0), corner(3, 3), corner(0, 3)]);
    assert_eq!(outlines[0].holes, [[corner(1, 1), corner(1, 2), corner(2, 2), corner(2, 1)]]);
    assert_eq!((outlines[0].area(), outlines[0].perimeter()), (8.0 * 256.0, 16.0 * 16.0));
}

#[test]
fn solids_that_touch_at_corners_are_rings_that_touch() {
    let stones: Vec<Stone> = [(0, 0), (1, 1), (1, -1), (2, 0)]
        .map(|(x, y)| (CellPos::new(x, y), 0, Turn::NONE))
        .to_vec();
    let (ground, mover) = all_of(&stones);
    let outlines = ground.outlines(mover, BOUNDS);
    assert_eq!(outlines.len(), 4);
    assert!(outlines.iter().all(|outline| outline.ring.len() == 4 && outline.holes.is_empty()));
}

#[test]
fn an_edit_changes_few_pieces() {
    let mut quilt = yard((16.0, 16.0), &whole(CellRect::new(CellPos::new(-64, -64), 128, 128)));
    let mut ground = GroundMap::of(&quilt);
    let mut kept = KeptShapes::<ConvexPiece>::new(quilt.mover("body").unwrap());
    assert_eq!(kept.update(&ground).new.len(), 4);
    lay(&mut quilt, [(CellPos::new(10, 10), 99, Turn::NONE)]);
    ground.refresh(&quilt);
    let changes = kept.update(&ground);
    assert_eq!((changes.gone.len(), changes.new.len()), (1, 4));
    assert_eq!(
        changes.new.iter().map(|(_, piece)| piece.cells.cell_count()).sum::<u64>(),
        64 * 64 - 1
    );
    assert!(kept.iter().all(|(_, piece)| piece.as_rect() == Some(piece.polygon.bounds())));
}

#[test]
fn low_walls_are_one_piece() {
    let stones: Vec<Stone> = (0..20).map(|x| (CellPos::new(x, 3), 2, Turn::NONE)).collect();
    let (ground, mover) = all_of(&stones);
    let pieces = ground.pieces(mover, BOUNDS);
    assert_eq!(pieces.len(), 1);
    let rect = pieces[0].as_rect().unwrap();
    assert_eq!((rect.width(), rect.max().y), (320.0, 64.0));
    assert!((rect.height() - 0.3 * 16.0).abs() < 1e-5);
}
