//! Cells, rectangles of cells, and their limits.

use std::collections::HashSet;

use proptest::prelude::*;
use sturdy_quilt::units::{CellOffset, Corner, ScanOrder, ScreenVec, TractPos};
use sturdy_quilt::{CellPos, CellRect, ChunkPos, ScreenPoint, WorldPoint, WorldRect, WorldVec};

/// Cells everywhere, with the limits and the borders of chunks more often than chance has them.
pub(crate) fn any_cell() -> impl Strategy<Value = CellPos> {
    let coordinate = || {
        prop_oneof![
            3 => -130..130_i32,
            1 => Just(CellPos::MIN),
            1 => Just(CellPos::MAX),
            1 => CellPos::MIN..CellPos::MAX,
        ]
    };
    (coordinate(), coordinate()).prop_map(|(x, y)| CellPos::new(x, y))
}

fn near_cell() -> impl Strategy<Value = CellPos> {
    (-9..9_i32, -9..9_i32).prop_map(|(x, y)| CellPos::new(x, y))
}

fn near_rect() -> impl Strategy<Value = CellRect> {
    (near_cell(), 0..12_u32, 0..12_u32).prop_map(|(at, w, h)| CellRect::new(at, w, h))
}

fn is_canonical(rect: CellRect) -> bool {
    let ordered = rect.left() < rect.right() && rect.top() < rect.bottom();
    ordered || rect == CellRect::EMPTY
}

proptest! {
    #[test]
    fn the_way_between_two_cells_leads_there(a in any_cell(), b in any_cell()) {
        prop_assert_eq!(b.checked_add(a - b), Some(a));
        prop_assert_eq!(b.saturating_add(a - b), a);
    }

    /// Also of what is so long or so short that its square is no number any more.
    #[test]
    fn lengths_are_right_at_any_size((x, y) in (-9.0..9.0_f64, -9.0..9.0_f64), power in -1060..1020_i32) {
        let factor = 2_f64.powi(power);
        let way = WorldVec::new(x * factor, y * factor);
        let (length, right) = (way.length(), way.x.hypot(way.y));
        prop_assert!((length - right).abs() <= 3e-16 * right + f64::from_bits(2), "{} for {}", length, right);
    }

    #[test]
    fn cells_lie_in_their_chunk(cell in any_cell()) {
        let chunk = cell.chunk();
        prop_assert!(chunk.cells().contains(cell));
        prop_assert_eq!(chunk.corner().chunk(), chunk);
        prop_assert_eq!(chunk.x(), cell.x().div_euclid(64));
        prop_assert_eq!(chunk.cells().cell_count(), 4096);
    }

    #[test]
    fn adding_never_wraps(cell in any_cell(), x in any::<i32>(), y in any::<i32>()) {
        let (ex, ey) = (i64::from(cell.x()) + i64::from(x), i64::from(cell.y()) + i64::from(y));
        let way = CellOffset::new(x, y);
        prop_assert_eq!(cell.checked_add(way), CellPos::checked(ex, ey));
        let near = cell.saturating_add(way);
        prop_assert_eq!(i64::from(near.x()), ex.clamp(CellPos::MIN.into(), CellPos::MAX.into()));
    }

    #[test]
    fn rectangles_are_sets_of_cells(a in near_rect(), b in near_rect(), cell in near_cell()) {
        let (both, either) = (a.intersection(b), a.union(b));
        prop_assert!(is_canonical(both) && is_canonical(either));
        prop_assert_eq!(both.contains(cell), a.contains(cell) && b.contains(cell));
        prop_assert!(either.contains_rect(a) && either.contains_rect(b));
        prop_assert_eq!(a.contains_rect(b), b.cells().all(|cell| a.contains(cell)));
        prop_assert_eq!(a.cells().count() as u64, a.cell_count());
        prop_assert!(a.cells().all(|cell| a.contains(cell)));
        prop_assert!(a.cells().is_sorted(), "row by row");
        let chunks: Vec<ChunkPos> = a.chunks().collect();
        prop_assert!(a.cells().all(|cell| chunks.contains(&cell.chunk())));
        prop_assert!(chunks.iter().all(|chunk| !chunk.cells().intersection(a).is_empty()));
    }

    #[test]
    fn moving_a_rectangle_moves_its_cells(rect in near_rect(), x in -20..20_i32, y in -20..20_i32) {
        let way = CellOffset::new(x, y);
        let moved: Vec<CellPos> = rect.moved(way).cells().collect();
        let cells: Vec<CellPos> = rect.cells().filter_map(|cell| cell.checked_add(way)).collect();
        prop_assert_eq!(moved, cells);
    }

    #[test]
    fn world_rectangles_are_ordered(a in any::<[f64; 2]>(), b in any::<[f64; 2]>()) {
        let rect = WorldRect::between(WorldPoint::new(a[0], a[1]), WorldPoint::new(b[0], b[1]));
        prop_assert!(rect.width() >= 0.0 && rect.height() >= 0.0);
        prop_assert!(rect.min().x <= rect.max().x && rect.min().y <= rect.max().y);
        prop_assert!(!rect.contains(rect.max()));
    }
}

#[test]
fn limits_saturate_and_are_cut_off() {
    assert_eq!(CellPos::new(i32::MIN, i32::MAX), CellPos::new(CellPos::MIN, CellPos::MAX));
    let last = CellPos::new(CellPos::MAX, CellPos::MAX);
    assert_eq!(CellRect::new(last, 5, 5), CellRect::of_cell(last));
    assert_eq!(CellRect::EVERYWHERE.width(), 1 << 31);
    assert_eq!(CellRect::EVERYWHERE.moved(CellOffset::new(1, 0)).width(), (1 << 31) - 1);
    assert!(CellRect::EVERYWHERE.contains(last));
    assert_eq!(last.chunk().cells().right(), CellPos::MAX + 1);
}

#[test]
fn serialised_places_are_checked_again() {
    let cell: CellPos = serde_json::from_str("[3, -4]").unwrap();
    assert_eq!(cell, CellPos::new(3, -4));
    let error = serde_json::from_str::<CellPos>("[1073741824, 0]").unwrap_err();
    assert_eq!(error.to_string(), "cell 1073741824,0 lies outside -2^30..2^30");
    let rect = CellRect::new(cell, 2, 5);
    let text = serde_json::to_string(&rect).unwrap();
    assert_eq!(text, r#"{"at":[3,-4],"size":[2,5]}"#);
    assert_eq!(serde_json::from_str::<CellRect>(&text).unwrap(), rect);
}

#[cfg(feature = "glam")]
#[test]
fn glam_vectors_come_and_go() {
    use sturdy_quilt::{ScreenPoint, ScreenSize};
    let place: WorldPoint = glam::DVec2::new(1.5, -2.0).into();
    assert_eq!(place, WorldPoint::new(1.5, -2.0));
    assert_eq!(glam::DVec2::from(WorldVec::new(3.0, 4.0)).length(), 5.0);
    assert_eq!(glam::Vec2::from(ScreenPoint::new(1.0, 2.0)), glam::Vec2::new(1.0, 2.0));
    assert_eq!(CellPos::from(glam::IVec2::new(i32::MAX, -3)), CellPos::new(CellPos::MAX, -3));
    assert_eq!(glam::IVec2::from(CellPos::new(7, -3)), glam::IVec2::new(7, -3));
    assert_eq!(glam::UVec2::from(ScreenSize::new(7, 3)), glam::UVec2::new(7, 3));
}

#[cfg(feature = "mint")]
#[test]
fn mint_points_and_vectors_come_and_go() {
    use sturdy_quilt::units::ScreenVec;
    let place = mint::Point2 { x: 1.5, y: -2.0 };
    assert_eq!(WorldPoint::from(place), WorldPoint::new(1.5, -2.0));
    assert_eq!(mint::Point2::from(WorldPoint::from(place)), place);
    let way = mint::Vector2 { x: 0.25, y: 8.0 };
    assert_eq!(mint::Vector2::from(WorldVec::from(way)), way);
    assert_eq!(CellOffset::from(mint::Vector2 { x: -1, y: 2 }), CellOffset::new(-1, 2));
    assert_eq!(ScreenVec::from(mint::Vector2 { x: 1.0, y: 2.0 }), ScreenVec { x: 1.0, y: 2.0 });
}

#[test]
fn tracts_are_eight_chunks_wide_and_end_with_the_world() {
    for (x, y) in [(0, 0), (-1, 7), (CellPos::MIN, CellPos::MAX), (511, -513), (512, -512)] {
        let cell = CellPos::new(x, y);
        let tract = cell.tract();
        assert_eq!(tract, cell.chunk().tract());
        assert!(tract.cells().contains(cell));
        assert_eq!((tract.x(), tract.y()), (x.div_euclid(512), y.div_euclid(512)));
        assert_eq!(tract.cells().chunks().count(), 64);
        assert!(tract.cells().chunks().all(|chunk| chunk.tract() == tract));
        assert_eq!(TractPos::new(tract.x(), tract.y()), tract);
    }
    let (first, last) = (TractPos::new(i32::MIN, i32::MIN), TractPos::new(i32::MAX, i32::MAX));
    assert_eq!(first.corner(), CellPos::new(CellPos::MIN, CellPos::MIN));
    assert_eq!(last.cells().right(), CellPos::MAX + 1);
    assert_eq!(ChunkPos::new(i32::MIN, i32::MAX).tract(), TractPos::new(first.x(), last.y()));
    assert_eq!(TractPos::new(-3, 4).to_string(), "tract -3,4");
}

#[test]
fn a_place_in_a_list_beyond_its_rectangle_leads_nowhere() {
    for corner in [Corner::TopLeft, Corner::TopRight, Corner::BottomLeft, Corner::BottomRight] {
        for scan in [ScanOrder::rows(corner), ScanOrder::columns(corner)] {
            let places: HashSet<CellOffset> = (0..6).map(|at| scan.offset(at, 3, 2)).collect();
            assert_eq!(places.len(), 6, "each cell once");
            assert!(places.iter().all(|way| (0..3).contains(&way.x) && (0..2).contains(&way.y)));
            for (at, width, height) in [(6, 3, 2), (usize::MAX, 3, 2), (0, 0, 2), (0, 3, 0)] {
                assert_eq!(scan.offset(at, width, height), CellOffset::new(0, 0));
            }
        }
    }
}

#[test]
fn rectangles_of_the_world_hold_their_upper_left_edges_and_not_the_others() {
    let point = WorldPoint::new;
    let rect = WorldRect::between(point(-2.0, 4.0), point(3.0, 9.0));
    for (x, has_x) in [(-2.1, false), (-2.0, true), (2.9, true), (3.0, false)] {
        for (y, has_y) in [(3.9, false), (4.0, true), (8.9, true), (9.0, false)] {
            assert_eq!(rect.contains(point(x, y)), has_x && has_y, "{x},{y}");
        }
    }
    let line = WorldRect::between(point(0.0, 1.0), point(5.0, 1.0));
    let upright = WorldRect::between(point(1.0, 0.0), point(1.0, 5.0));
    assert!(line.is_empty() && upright.is_empty() && !rect.is_empty());
    // Shrunk by more than half of itself it is its middle.
    let middle = rect.grown(-2.75);
    assert_eq!((middle.min(), middle.max()), (rect.center(), rect.center()));
    assert_eq!(rect.grown(-1.0), WorldRect::between(point(-1.0, 5.0), point(2.0, 8.0)));
    let (a, b) = (ScreenPoint::new(7.0, 1.0), ScreenPoint::new(2.0, 5.0));
    assert_eq!((b - a, a + (b - a)), (ScreenVec::new(-5.0, 4.0), b));
}
