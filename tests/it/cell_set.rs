//! Sets of cells against plain sets, and shapes against slow ways to find their cells.

use std::collections::BTreeSet;

use proptest::prelude::*;
use sturdy_quilt::cell_set::{CellSetError, Neighbors};
use sturdy_quilt::units::CellOffset;
use sturdy_quilt::{CellPos, CellRect, CellSet, Lattice, Turn, WorldPoint};

type Plain = BTreeSet<(i32, i32)>;

fn plain(set: &CellSet) -> Plain {
    set.iter().map(|cell| (cell.x(), cell.y())).collect()
}

fn of_plain(cells: &Plain) -> CellSet {
    cells.iter().map(|(x, y)| CellPos::new(*x, *y)).collect()
}

const SIDES: [(i32, i32); 4] = [(0, -1), (1, 0), (0, 1), (-1, 0)];
const CORNERS: [(i32, i32); 8] =
    [(0, -1), (1, 0), (0, 1), (-1, 0), (-1, -1), (1, -1), (1, 1), (-1, 1)];

fn ways(neighbors: Neighbors) -> &'static [(i32, i32)] {
    match neighbors {
        Neighbors::Sides => &SIDES,
        Neighbors::Corners => &CORNERS,
    }
}

fn around((x, y): (i32, i32), neighbors: Neighbors) -> impl Iterator<Item = (i32, i32)> {
    ways(neighbors).iter().map(move |(dx, dy)| (x + dx, y + dy))
}

fn any_neighbors() -> impl Strategy<Value = Neighbors> {
    prop_oneof![Just(Neighbors::Sides), Just(Neighbors::Corners)]
}

/// Cells near the borders of four chunks, and now and then far away.
fn any_cell() -> impl Strategy<Value = CellPos> {
    let near =
        || prop_oneof![4 => -70..70_i32, 2 => prop::sample::select(vec![-65, -64, -1, 0, 63, 64])];
    let far = || prop::sample::select(vec![CellPos::MIN, -700, 700, CellPos::MAX]);
    prop_oneof![
        12 => (near(), near()),
        1 => (far(), near()),
        1 => (far(), far()),
    ]
    .prop_map(|(x, y)| CellPos::new(x, y))
}

fn any_rect() -> impl Strategy<Value = CellRect> {
    (-80..80_i32, -80..80_i32, 1..140_u32, 1..140_u32)
        .prop_map(|(x, y, w, h)| CellRect::new(CellPos::new(x, y), w, h))
}

/// A set made of rectangles and single cells, some of them taken out again.
fn any_set() -> impl Strategy<Value = CellSet> {
    let step = prop_oneof![
        any_rect().prop_map(|rect| CellSet::rect(rect).unwrap()),
        (-2..2_i32, -2..2_i32).prop_map(|(x, y)| {
            CellSet::rect(CellRect::new(CellPos::new(x * 512, y * 64), 512, 512)).unwrap()
        }),
        prop::collection::vec(any_cell(), 1..30).prop_map(|cells| cells.into_iter().collect()),
        any::<u64>().prop_map(|seed| {
            // A cave: about half of the cells of a rectangle.
            let rect = CellRect::new(CellPos::new(-40, -30), 90, 70);
            let hash = |cell: CellPos| {
                let at = (cell.x() as u64) << 32 ^ u64::from(cell.y() as u32);
                (at ^ seed)
                    .wrapping_mul(0x9e37_79b9_7f4a_7c15)
                    .rotate_left(23)
                    .wrapping_mul(seed | 1)
            };
            CellSet::of_rect_where(rect, |cell| hash(cell) >> 40 & 1 == 0).unwrap()
        }),
    ];
    prop::collection::vec((step, any::<bool>()), 0..5).prop_map(|steps| {
        steps.into_iter().fold(
            CellSet::new(),
            |set, (step, adds)| {
                if adds { &set | &step } else { &set - &step }
            },
        )
    })
}

/// A set that is small enough for slow ways.
fn small_set() -> impl Strategy<Value = CellSet> {
    any_set().prop_map(|set| {
        &set & &CellSet::rect(CellRect::new(CellPos::new(-90, -90), 190, 180)).unwrap()
    })
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(64))]

    #[test]
    fn sets_combine_as_plain_sets_do(a in small_set(), b in small_set()) {
        let (pa, pb) = (plain(&a), plain(&b));
        prop_assert_eq!(plain(&(&a | &b)), &pa | &pb);
        prop_assert_eq!(plain(&(&a & &b)), &pa & &pb);
        prop_assert_eq!(plain(&(&a - &b)), &pa - &pb);
        prop_assert_eq!(plain(&(&a ^ &b)), &pa ^ &pb);
        prop_assert_eq!(a.is_subset(&b), pa.is_subset(&pb));
        prop_assert_eq!(a == b, pa == pb);
        prop_assert_eq!(a.len(), pa.len() as u64);
        prop_assert_eq!(a.is_empty(), pa.is_empty());
        prop_assert_eq!(&of_plain(&pa), &a);
        let bounds = pa.iter().fold(CellRect::EMPTY, |all, (x, y)| {
            all.union(CellRect::of_cell(CellPos::new(*x, *y)))
        });
        prop_assert_eq!(a.bounds(), bounds);
        let from_runs: Plain = a.runs().flat_map(CellRect::cells).map(|c| (c.x(), c.y())).collect();
        prop_assert_eq!(from_runs, pa);
    }

    #[test]
    fn vast_sets_keep_the_laws_of_sets(a in any_set(), b in any_set(), c in any_set()) {
        prop_assert_eq!(&a | &b, &b | &a);
        prop_assert_eq!(&(&a | &b) & &c, &(&a & &c) | &(&b & &c));
        prop_assert_eq!(&a - &(&b | &c), &(&a - &b) - &c);
        prop_assert_eq!(&(&a ^ &b) ^ &b, a.clone());
        prop_assert_eq!((&a | &b).len() + (&a & &b).len(), a.len() + b.len());
        prop_assert!((&a - &a).is_empty());
    }

    #[test]
    fn cells_are_added_and_removed_one_by_one(
        set in small_set(),
        steps in prop::collection::vec((any_cell(), any::<bool>()), 1..60),
    ) {
        let (mut set, mut model) = (set.clone(), plain(&set));
        for (cell, adds) in steps {
            let at = (cell.x(), cell.y());
            let (changed, expected) = if adds {
                (set.insert(cell), model.insert(at))
            } else {
                (set.remove(cell), model.remove(&at))
            };
            prop_assert_eq!(changed, expected);
            prop_assert_eq!(set.contains(cell), adds);
        }
        prop_assert_eq!(plain(&set), model);
    }

    #[test]
    fn growing_and_shrinking_take_steps_to_neighbours(
        set in small_set(), steps in 0..3_u32, neighbors in any_neighbors(),
    ) {
        let (mut grown, mut shrunk) = (plain(&set), plain(&set));
        for _ in 0..steps {
            let all: Vec<_> = grown.iter().flat_map(|at| around(*at, neighbors)).collect();
            grown.extend(all);
            let held = shrunk.clone();
            shrunk.retain(|at| around(*at, neighbors).all(|other| held.contains(&other)));
        }
        prop_assert_eq!(plain(&set.grow(steps, neighbors)), grown);
        prop_assert_eq!(plain(&set.shrink(steps, neighbors)), shrunk);
        let cells = plain(&set);
        let mut border = cells.clone();
        border.retain(|at| around(*at, neighbors).any(|other| !cells.contains(&other)));
        prop_assert_eq!(plain(&set.outline(neighbors)), border);
    }

    #[test]
    fn areas_are_what_a_search_finds(set in small_set(), neighbors in any_neighbors()) {
        let mut left = plain(&set);
        let areas = set.areas(neighbors);
        for (number, area) in areas.iter().enumerate() {
            let first = area.iter().next().unwrap();
            // The first in the order of cells that no former area has.
            let rest: CellSet = of_plain(&left);
            prop_assert_eq!(rest.iter().next(), Some(first), "area {}", number);
            let mut found = Plain::new();
            let mut queue = vec![(first.x(), first.y())];
            while let Some(at) = queue.pop() {
                if left.remove(&at) {
                    found.insert(at);
                    queue.extend(around(at, neighbors));
                }
            }
            prop_assert_eq!(&plain(area), &found);
            let last = area.iter().last().unwrap();
            prop_assert_eq!(&set.area_of(last, neighbors), area);
        }
        prop_assert!(left.is_empty());
    }

    #[test]
    fn a_line_is_the_nearest_cells(a in any_cell(), way in (-300..300_i32, -300..300_i32)) {
        let Some(b) = a.checked_add(CellOffset::new(way.0, way.1)) else { return Ok(()) };
        let line = CellSet::line(a, b).unwrap();
        prop_assert_eq!(&line, &CellSet::line(b, a).unwrap(), "the line back is the same");
        let steps = i64::from(way.0.abs().max(way.1.abs()));
        prop_assert_eq!(line.len() as i64, steps + 1);
        prop_assert!(line.contains(a) && line.contains(b));
        for cell in line.iter() {
            // At most half a cell off the exact line, across its longer side.
            let (x, y) = (i64::from(cell.x() - a.x()), i64::from(cell.y() - a.y()));
            let off = (x * i64::from(way.1) - y * i64::from(way.0)).abs();
            prop_assert!(2 * off <= steps, "{cell} of {a} to {b}");
        }
        prop_assert_eq!(line.areas(Neighbors::Corners).len(), 1);
    }

    #[test]
    fn a_stroke_has_no_gaps(cells in prop::collection::vec(any_cell(), 0..12)) {
        let near: Vec<CellPos> = cells.into_iter().filter(|c| c.x().abs() < 1000 && c.y().abs() < 1000).collect();
        let stroke = CellSet::stroke(near.iter().copied()).unwrap();
        let lines = near.windows(2).fold(CellSet::from_iter(near.first().copied()), |all, ends| {
            &all | &CellSet::line(ends[0], ends[1]).unwrap()
        });
        prop_assert_eq!(stroke, lines);
    }

    #[test]
    fn an_ellipse_has_the_cells_whose_centres_lie_in_it(rect in any_rect()) {
        let ellipse = CellSet::ellipse(rect).unwrap();
        let inside = |cell: &CellPos| {
            // Twice the way from the middle, in cells.
            let u = i64::from(2 * (cell.x() - rect.left()) + 1) - i64::from(rect.width());
            let v = i64::from(2 * (cell.y() - rect.top()) + 1) - i64::from(rect.height());
            let (w, h) = (i64::from(rect.width()).pow(2), i64::from(rect.height()).pow(2));
            u * u * h + v * v * w <= w * h
        };
        let slow: CellSet = rect.cells().filter(inside).collect();
        prop_assert_eq!(&ellipse, &slow);
        prop_assert!(rect.contains_rect(ellipse.bounds()));
    }

    #[test]
    fn a_polygon_has_the_cells_whose_centres_lie_in_it(
        corners in prop::collection::vec((-60..60_i32, -60..60_i32), 0..7),
        (width, height) in (1..4_u8, 1..4_u8),
        shift in prop::sample::select(vec![0.0, 0.25, 0.5, 1e8]),
    ) {
        let lattice = Lattice::square(f64::from(width), f64::from(height)).unwrap();
        let corners: Vec<WorldPoint> = corners.iter().map(|(x, y)| {
            WorldPoint::new(f64::from(*x) / 2.0 + shift, f64::from(*y) / 2.0 - shift)
        }).collect();
        let polygon = CellSet::polygon(&lattice, &corners).unwrap();
        let next = corners.iter().cycle().skip(1);
        let sides: Vec<_> = corners.iter().zip(next).collect();
        let inside = |cell: &CellPos| {
            let at = lattice.center(*cell);
            let crossed = sides.iter().filter(|(a, b)| {
                (a.y > at.y) != (b.y > at.y)
                    && at.x < a.x + (at.y - a.y) / (b.y - a.y) * (b.x - a.x)
            });
            crossed.count() % 2 == 1
        };
        let corner = lattice.cell_at(WorldPoint::new(shift - 31.0, -shift - 31.0));
        let slow: CellSet = CellRect::new(corner, 70, 70).cells().filter(inside).collect();
        prop_assert_eq!(polygon, slow);
        let outline = CellSet::polygon_outline(&lattice, &corners).unwrap();
        prop_assert!(corners.iter().all(|corner| outline.contains(lattice.cell_at(*corner))));
    }

    #[test]
    fn moving_and_turning_take_every_cell_along(
        set in small_set(), by in (-200..200_i32, -200..200_i32), turn in 0..8_usize,
    ) {
        let by = CellOffset::new(by.0, by.1);
        let moved: Plain = plain(&set).iter().map(|(x, y)| (x + by.x, y + by.y)).collect();
        prop_assert_eq!(plain(&set.moved(by)), moved);
        let turn = Turn::SQUARE[turn];
        let turned = set.turned(turn);
        prop_assert_eq!(turned.len(), set.len());
        prop_assert_eq!(turned.bounds().corner(), set.bounds().corner());
        prop_assert_eq!(&turned.turned(turn.inverse()), &set);
        // As the picture of a tile is turned: a quarter brings the upper left cell to the right.
        let bounds = set.bounds();
        if turn == Turn::QUARTER && set.contains(bounds.corner()) {
            let right = CellPos::new(bounds.left() + bounds.height() as i32 - 1, bounds.top());
            prop_assert!(turned.contains(right));
        }
    }
}

#[test]
fn sets_end_at_the_limits_of_cells() {
    let edge = CellSet::from([CellPos::new(CellPos::MAX, CellPos::MIN)]);
    assert_eq!(edge.grow(1, Neighbors::Corners).len(), 4);
    assert_eq!(edge.grow(1, Neighbors::Sides).len(), 3);
    assert!(edge.shrink(1, Neighbors::Sides).is_empty());
    assert!(edge.moved(CellOffset::new(1, 0)).is_empty());
    assert_eq!(edge.moved(CellOffset::new(-3, 2)).len(), 1);
}

#[test]
fn shapes_that_are_too_large_are_refused() {
    let huge = CellRect::new(CellPos::ORIGIN, 65_536, 65_600);
    let error = CellSet::rect(huge).unwrap_err();
    assert_eq!(
        error.to_string(),
        "65536 × 65600 cells at 0,0 are too many at once; at most 1048576 chunks of 64 × 64 may be touched"
    );
    assert_eq!(CellSet::ellipse(huge), Err(error));
    assert!(CellSet::line(CellPos::new(CellPos::MIN, 0), CellPos::new(CellPos::MAX, 9)).is_err());
    let corners = [(0.0, 0.0), (f64::NAN, 1.0)].map(|(x, y)| WorldPoint::new(x, y));
    assert_eq!(CellSet::polygon(&Lattice::default(), &corners), Err(CellSetError::Corner(1)));
    let vast = CellSet::rect(CellRect::new(CellPos::new(-7, 9), 65_000, 65_000)).unwrap();
    assert_eq!(vast.len(), 65_000 * 65_000);
}
