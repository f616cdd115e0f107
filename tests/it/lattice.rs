//! Cells and the world.

use proptest::prelude::*;
use sturdy_quilt::lattice::LatticeError;
use sturdy_quilt::{CellPos, CellRect, Lattice, WorldPoint, WorldRect};

use crate::units::any_cell;

/// Cells of whole, broken and extreme sizes.
fn any_lattice() -> impl Strategy<Value = Lattice> {
    let side = || {
        prop_oneof![
            Just(16.0),
            (1..200_u32).prop_map(f64::from),
            Lattice::MIN_SIDE..300.0,
            Just(Lattice::MIN_SIDE),
            Just(Lattice::MAX_SIDE),
            Just(0.1),
        ]
    };
    (side(), side()).prop_map(|(w, h)| Lattice::square(w, h).unwrap())
}

proptest! {
    #[test]
    fn a_cell_is_found_at_every_place_in_it(
        lattice in any_lattice(),
        cell in any_cell(),
        (across, down) in (0.0..1.0_f64, 0.0..1.0_f64),
    ) {
        let bounds = lattice.bounds(cell);
        prop_assert_eq!(lattice.cell_at(bounds.min()), cell);
        prop_assert_eq!(lattice.cell_at(lattice.center(cell)), cell);
        let x = bounds.min().x + across * bounds.width();
        let y = bounds.min().y + down * bounds.height();
        let place = WorldPoint::new(x, y);
        prop_assert_eq!(bounds.contains(place), lattice.cell_at(place) == cell);
    }

    #[test]
    fn a_place_lies_in_its_cell(lattice in any_lattice(), x in -1e9..1e9_f64, y in -1e9..1e9_f64) {
        let cell = lattice.cell_at(WorldPoint::new(x, y));
        let inside = |at: i32| at > CellPos::MIN && at < CellPos::MAX;
        prop_assume!(inside(cell.x()) && inside(cell.y()));
        prop_assert!(lattice.bounds(cell).contains(WorldPoint::new(x, y)));
    }

    /// The last place before an edge, at which a division alone may round to the wrong side.
    #[test]
    fn edges_divide_exactly(lattice in any_lattice(), cell in any_cell()) {
        prop_assume!(cell.x() > CellPos::MIN && cell.y() > CellPos::MIN);
        let edge = lattice.bounds(cell).min();
        let left = CellPos::new(cell.x() - 1, cell.y());
        let above = CellPos::new(cell.x(), cell.y() - 1);
        prop_assert_eq!(lattice.cell_at(WorldPoint::new(edge.x.next_down(), edge.y)), left);
        prop_assert_eq!(lattice.cell_at(WorldPoint::new(edge.x, edge.y.next_down())), above);
    }

    #[test]
    fn neighbours_share_their_edges(lattice in any_lattice(), cell in any_cell()) {
        for next in lattice.neighbors(cell) {
            let (a, b) = (lattice.bounds(cell), lattice.bounds(next));
            match (next.x() - cell.x(), next.y() - cell.y()) {
                (1, 0) => prop_assert_eq!(a.max().x, b.min().x),
                (0, 1) => prop_assert_eq!(a.max().y, b.min().y),
                (-1, 0) => prop_assert_eq!(b.max().x, a.min().x),
                (0, -1) => prop_assert_eq!(b.max().y, a.min().y),
                other => prop_assert!(false, "{:?} is no neighbour", other),
            }
        }
    }

    #[test]
    fn the_cells_in_an_area_are_those_that_touch_it(
        lattice in any_lattice(),
        at in (-3.0..3.0_f64, -3.0..3.0_f64),
        size in (0.0..3.0_f64, 0.0..3.0_f64),
    ) {
        // In parts of a cell, so that few cells are touched at any size.
        let (w, h) = (lattice.cell_width(), lattice.cell_height());
        let corner = WorldPoint::new(at.0 * w, at.1 * h);
        let end = WorldPoint::new((at.0 + size.0) * w, (at.1 + size.1) * h);
        let area = WorldRect::between(corner, end);
        let found = lattice.cells_in(area);
        let touches = |cell: CellPos| {
            let bounds = lattice.bounds(cell);
            !area.is_empty()
                && bounds.min().x < area.max().x && area.min().x < bounds.max().x
                && bounds.min().y < area.max().y && area.min().y < bounds.max().y
        };
        for cell in CellRect::between(CellPos::new(-5, -5), CellPos::new(8, 8)).cells() {
            prop_assert_eq!(found.contains(cell), touches(cell), "{} in {}", cell, area);
        }
    }
}

#[test]
fn places_beyond_the_cells_give_the_nearest() {
    let lattice = Lattice::square(16.0, 16.0).unwrap();
    let at = |x, y| lattice.cell_at(WorldPoint::new(x, y));
    assert_eq!(at(f64::INFINITY, -1e300), CellPos::new(CellPos::MAX, CellPos::MIN));
    assert_eq!(at(f64::NAN, 40.0), CellPos::new(0, 2));
    assert_eq!(at(-1e-300, 0.0), CellPos::new(-1, 0));
    let far = WorldRect::between(WorldPoint::new(1e20, 0.0), WorldPoint::new(2e20, 5.0));
    assert_eq!(lattice.cells_in(far), CellRect::EMPTY);
    let all = WorldRect::between(WorldPoint::new(-1e20, -1e20), WorldPoint::new(1e20, 1e20));
    assert_eq!(lattice.cells_in(all), CellRect::EVERYWHERE);
}

#[test]
fn a_lattice_refuses_sides_that_are_none() {
    for (width, height) in [(0.0, 1.0), (1.0, -1.0), (f64::NAN, 1.0), (1.0, f64::INFINITY)] {
        let error = Lattice::square(width, height).unwrap_err();
        assert!(matches!(error, LatticeError::CellSize { .. }));
    }
    let text = Lattice::square(0.0, 8.0).unwrap_err().to_string();
    assert_eq!(text, "a cell of 0 × 8 units: each side must lie between 0.0009765625 and 65536");
}
