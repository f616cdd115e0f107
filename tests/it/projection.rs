//! Projections: ground, pane and screen, against answers in whole numbers and fractions.

use proptest::prelude::*;
use sturdy_quilt::units::{PanePoint, PaneRect, PaneVec};
use sturdy_quilt::view::{Facing, Projection, ProjectionError};
use sturdy_quilt::{
    CellPos, CellRect, Lattice, ScreenPoint, ScreenSize, View, WorldPoint, WorldRect, WorldVec,
};

pub(crate) fn lattices() -> impl Strategy<Value = Lattice> {
    prop_oneof![Just((16.0, 16.0)), Just((1.0, 1.0)), Just((24.0, 16.0)), Just((10.0, 12.5))]
        .prop_map(|(width, height)| Lattice::square(width, height).unwrap())
}

/// Projections of all kinds for a lattice.
pub(crate) fn projections(lattice: Lattice) -> impl Strategy<Value = Projection> {
    let kinds = prop_oneof![
        Just(Projection::FLAT),
        Just(Projection::diamond(&lattice, 64, 32).unwrap()),
        Just(Projection::diamond(&lattice, 32, 16).unwrap()),
        Just(Projection::diamond(&lattice, 12, 14).unwrap()),
    ];
    (kinds, 0..4, prop_oneof![Just(1.0), Just(0.0), Just(2.5)]).prop_map(
        |(kind, quarters, lift)| kind.with_facing(Facing::new(quarters)).with_lift(lift).unwrap(),
    )
}

fn any_projection() -> impl Strategy<Value = (Lattice, Projection)> {
    lattices().prop_flat_map(|lattice| (Just(lattice), projections(lattice)))
}

/// Half of the diamond, where there is one.
fn half(projection: &Projection) -> Option<(f64, f64)> {
    match projection.kind() {
        sturdy_quilt::view::ProjectionKind::Diamond { width_px, height_px } => {
            Some((f64::from(width_px) / 2.0, f64::from(height_px) / 2.0))
        }
        _ => None,
    }
}

/// A cell of a map as a facing turns it.
pub(crate) fn turned(facing: Facing, cell: CellPos) -> CellPos {
    match facing.quarters() {
        0 => cell,
        1 => CellPos::new(-cell.y() - 1, cell.x()),
        2 => CellPos::new(-cell.x() - 1, -cell.y() - 1),
        _ => CellPos::new(cell.y(), -cell.x() - 1),
    }
}

proptest! {
    /// The corners of cells lie on whole numbers of half diamonds, however far from the origin.
    #[test]
    fn corners_of_cells_lie_on_half_diamonds(
        (lattice, projection) in any_projection(),
        (x, y) in (-40..40_i32, -40..40_i32), far in prop_oneof![Just(0), Just(1 << 29)],
    ) {
        let cell = CellPos::new(x + far, y - far);
        let corner = projection.to_pane(lattice.bounds(cell).min(), 0.0);
        let (x, y) = (i64::from(cell.x()), i64::from(cell.y()));
        let (u, v) = match projection.facing().quarters() {
            0 => (x, y),
            1 => (-y, x),
            2 => (-x, -y),
            _ => (y, -x),
        };
        let expected = match half(&projection) {
            Some((width, height)) => PanePoint::new((u - v) as f64 * width, (u + v) as f64 * height),
            None if projection.facing().quarters() % 2 == 0 => {
                PanePoint::new(u as f64 * lattice.cell_width(), v as f64 * lattice.cell_height())
            }
            None => PanePoint::new(u as f64 * lattice.cell_height(), v as f64 * lattice.cell_width()),
        };
        prop_assert_eq!(corner, expected);
        let lifted = projection.to_pane(lattice.bounds(cell).min(), 8.0);
        prop_assert_eq!(lifted, expected - PaneVec::new(0.0, 8.0 * projection.lift()));
    }

    #[test]
    fn ground_and_pane_are_inverse(
        (_, projection) in any_projection(), (x, y) in (-1e4..1e4_f64, -1e4..1e4_f64),
        elevation in -50.0..50.0_f64, far in prop_oneof![Just(0.0), Just(1e9)],
    ) {
        let place = WorldPoint::new(x + far, y - far);
        let back = projection.to_world(projection.to_pane(place, elevation), elevation) - place;
        // Some last bits of the numbers.
        let bound = (far + 1e4) * 4.0 * f64::EPSILON;
        prop_assert!(back.x.abs() <= bound && back.y.abs() <= bound, "{back:?}");
        let way = WorldVec::new(x, y);
        let back = projection.way_to_world(projection.way_to_pane(way)) - way;
        prop_assert!(back.length() <= 1e-10);
    }

    /// Screen and ground are inverse as seen, by the same bound far away as near.
    #[test]
    fn screen_and_ground_are_inverse(
        (_, projection) in any_projection(), (x, y) in (-900.0..900.0_f64, -900.0..900.0_f64),
        far in prop_oneof![Just(0.0), Just(1e9)], zoom in 0.3..4.0_f64, snaps: bool,
        turn in prop_oneof![Just(0.0), Just(0.7)], elevation in -40.0..40.0_f64,
        (across, down) in (0.0..640.0_f32, 0.0..480.0_f32),
    ) {
        let view = View::new(ScreenSize::new(640, 480))
            .projected(projection)
            .centered_on(WorldPoint::new(x + far, y - far))
            .zoomed(zoom)
            .turned(turn)
            .snapped(snaps);
        let point = ScreenPoint::new(across, down);
        let there = view.to_world_at(point, elevation);
        let back = view.to_screen_at(there, elevation);
        let bound = if far == 0.0 { 1e-3 } else { 2e-2 };
        prop_assert!((back.x - across).abs() < bound && (back.y - down).abs() < bound, "{back}");
        // A way on the screen is one on the ground.
        let way = view.way_to_screen(view.way_to_world(point - ScreenPoint::new(0.0, 0.0)));
        prop_assert!((way.x - across).abs() < 1e-3 && (way.y - down).abs() < 1e-3);
    }

    /// The runs of cells in a part of the pane are the cells whose shape on the pane shares more than
    /// an edge with it: by fractions, on the corners of that shape.
    #[test]
    fn runs_of_cells_are_those_that_show(
        (lattice, projection) in any_projection(),
        // In quarters of a pixel, so that all is exact.
        (left, top, width, height) in (-400..400_i32, -400..400_i32, 0..600_i32, 0..600_i32),
        (x, y) in (-30..30_i32, -30..30_i32),
    ) {
        let quarter = |number: i32| f64::from(number) / 4.0;
        let near = projection.to_pane(lattice.bounds(CellPos::new(x, y)).min(), 0.0);
        let corner = near + PaneVec::new(quarter(left), quarter(top));
        let area =
            PaneRect::between(corner, corner + PaneVec::new(quarter(width), quarter(height)));
        let rows: Vec<CellRect> = projection.cells_in(&lattice, area).collect();
        prop_assert!(rows.is_sorted_by(|a, b| a.top() < b.top()), "{rows:?}");
        prop_assert!(rows.iter().all(|row| row.height() == 1));
        let around = lattice.cells_in(projection.ground_around(area, 0.0));
        for row in &rows {
            prop_assert_eq!(row.intersection(around), *row);
        }
        for cell in around.cells() {
            let corners = projection.outline(lattice.bounds(cell), 0.0);
            let is_shown = shares_more_than_an_edge(corners, area);
            let is_listed = rows.iter().any(|row| row.contains(cell));
            prop_assert_eq!(is_listed, is_shown, "{} in {}", cell, area);
        }
    }

    /// What a camera is kept in: its centre stays on the area, the screen in the rectangle around it.
    #[test]
    fn a_slanted_camera_stays_in_its_area(
        (_, projection) in any_projection(), (x, y) in (-9e3..9e3_f64, -9e3..9e3_f64),
        (width, height) in (10.0..3000.0_f64, 10.0..3000.0_f64), zoom in 0.3..4.0_f64,
    ) {
        let area = WorldRect::between(
            WorldPoint::new(-70.0, 30.0), WorldPoint::new(width - 70.0, height + 30.0),
        );
        let view = View::new(ScreenSize::new(320, 200)).projected(projection).zoomed(zoom);
        let kept = view.centered_on(WorldPoint::new(x, y)).kept_in(area);
        let (seen, outer) = (kept.visible_pane(), projection.around(area, 0.0));
        // It is kept to within a pixel or two, where it can be.
        let slack = 2.0 / zoom;
        prop_assert!(seen.width() > outer.width() - slack
            || seen.min().x > outer.min().x - slack && seen.max().x < outer.max().x + slack);
        prop_assert!(seen.height() > outer.height() - slack
            || seen.min().y > outer.min().y - slack && seen.max().y < outer.max().y + slack);
        prop_assert!(area.grown(1e-6).contains(kept.center()) || !projection.is_slanted());
        // One that is in it stays where it is.
        let again = kept.kept_in(area);
        let way = again.to_screen(kept.center()) - again.to_screen(again.center());
        prop_assert!(way.x.abs() < 1.0 && way.y.abs() < 1.0, "{way:?}");
    }

    #[test]
    fn an_area_that_was_fitted_fills_the_screen(
        (_, projection) in any_projection(), (x, y) in (-900.0..900.0_f64, -900.0..900.0_f64),
        (width, height) in (10.0..900.0_f64, 10.0..900.0_f64),
    ) {
        let corner = WorldPoint::new(x, y);
        let area = WorldRect::between(corner, corner + WorldVec::new(width, height));
        let view = View::new(ScreenSize::new(640, 480)).projected(projection).fitted_to(area);
        let corners = projection.outline(area, 0.0).map(|at| {
            let there = view.to_screen(projection.to_world(at, 0.0));
            (f64::from(there.x), f64::from(there.y))
        });
        let reach = |of: fn((f64, f64)) -> f64| {
            let all = corners.map(of);
            let least = all.iter().copied().fold(f64::INFINITY, f64::min);
            (least, all.iter().copied().fold(f64::NEG_INFINITY, f64::max))
        };
        let ((left, right), (top, bottom)) = (reach(|at| at.0), reach(|at| at.1));
        prop_assert!(left > -0.1 && right < 640.1 && top > -0.1 && bottom < 480.1);
        prop_assert!((right - left) > 639.8 || (bottom - top) > 479.8);
    }
}

/// Whether a convex outline of four corners and an upright rectangle have an area in common: no side
/// of either parts them. The numbers are few quarters, so that nothing is rounded but for cells of odd
/// sizes, whose corners lie on halves.
fn shares_more_than_an_edge(corners: [PanePoint; 4], area: PaneRect) -> bool {
    if area.is_empty() {
        return false;
    }
    let (min, max) = (area.min(), area.max());
    let others = [(min.x, min.y), (max.x, min.y), (max.x, max.y), (min.x, max.y)]
        .map(|(x, y)| PanePoint::new(x, y));
    let mut normals = vec![(1.0, 0.0), (0.0, 1.0)];
    for at in 0..4 {
        let side = corners[(at + 1) % 4] - corners[at];
        normals.push((side.y, -side.x));
    }
    normals.into_iter().all(|(x, y)| {
        let span = |corners: [PanePoint; 4]| {
            let along = corners.map(|at| at.x * x + at.y * y);
            let least = along.iter().copied().fold(f64::INFINITY, f64::min);
            (least, along.iter().copied().fold(f64::NEG_INFINITY, f64::max))
        };
        let (own, other) = (span(corners), span(others));
        own.0 < other.1 && other.0 < own.1
    })
}

#[test]
fn a_projection_refuses_what_cannot_be() {
    let lattice = Lattice::square(16.0, 16.0).unwrap();
    let text = |made: Result<Projection, ProjectionError>| made.unwrap_err().to_string();
    assert_eq!(
        text(Projection::diamond(&lattice, 63, 32)),
        "a diamond of 63 × 32 pixels: each side must be an even number from 2 to 4096"
    );
    assert!(Projection::diamond(&lattice, 0, 32).is_err());
    assert!(Projection::diamond(&lattice, 64, 8192).is_err());
    assert_eq!(
        text(Projection::FLAT.with_lift(-1.0)),
        "a lift of -1 pixels per world unit: it must lie between 0 and 1024"
    );
    assert!(Projection::FLAT.with_lift(f64::NAN).is_err());
    let diamond = Projection::diamond(&lattice, 64, 32).unwrap();
    assert!(diamond.fits(&lattice) && !diamond.fits(&Lattice::square(16.0, 24.0).unwrap()));
    assert!(Projection::FLAT.fits(&lattice));
}

#[test]
fn a_map_is_turned_around_the_centre_of_the_view() {
    let lattice = Lattice::square(16.0, 16.0).unwrap();
    let diamond = Projection::diamond(&lattice, 64, 32).unwrap();
    let center = WorldPoint::new(40.0, -72.0);
    let view = View::new(ScreenSize::new(640, 480)).projected(diamond).centered_on(center);
    let east = WorldPoint::new(56.0, -72.0);
    let shown = [0, 1, 2, 3, -1].map(|quarters| {
        let turned = view.faced(quarters);
        assert_eq!(turned.center(), center);
        assert_eq!(turned.to_screen(center), ScreenPoint::new(320.0, 240.0));
        turned.to_screen(east)
    });
    let expected = [(352.0, 256.0), (288.0, 256.0), (288.0, 224.0), (352.0, 224.0), (352.0, 224.0)];
    assert_eq!(shown, expected.map(|(x, y)| ScreenPoint::new(x, y)));
}

/// The limits of all cells, and numbers that are none, give answers and no panic.
#[test]
fn the_far_ends_of_the_coordinates_are_seen() {
    let lattice = Lattice::square(16.0, 16.0).unwrap();
    for quarters in 0..4 {
        let diamond = Projection::diamond(&lattice, 64, 32).unwrap();
        let diamond = diamond.with_facing(Facing::new(quarters));
        for (x, y) in [
            (CellPos::MIN, CellPos::MIN),
            (CellPos::MAX, CellPos::MIN),
            (CellPos::MIN, CellPos::MAX),
            (CellPos::MAX, CellPos::MAX),
        ] {
            let cell = CellPos::new(x, y);
            let view = View::new(ScreenSize::new(640, 480)).projected(diamond);
            let view = view.centered_on(lattice.center(cell));
            let middle = ScreenPoint::new(320.0, 240.0);
            assert_eq!(lattice.cell_at(view.to_world(middle)), cell);
            assert!(view.visible_runs(&lattice).any(|row| row.contains(cell)));
            assert!(view.visible_runs(&lattice).count() < 64);
            assert!(view.zoomed(0.1).visible_runs(&lattice).count() < 640);
        }
    }
}

mod seen {
    //! What is laid over a map and said of it, seen by any projection.

    use sturdy_quilt::inspect::Visibility;
    use sturdy_quilt::{
        Cell, Color, DrawList, Frame, LayerSettings, Overlay, Painter, Quilt, TileSet, TileSpec,
        Turn, doc_quilt,
    };

    use super::*;

    fn any_view() -> impl Strategy<Value = View> {
        let zoom = prop_oneof![Just(1.0), Just(2.0), 0.6..3.0_f64];
        let lattice = *doc_quilt().lattice();
        (projections(lattice), zoom, (-30.0..80.0_f64, -30.0..60.0_f64), any::<bool>()).prop_map(
            |(projection, zoom, (x, y), snaps)| {
                View::new(ScreenSize::new(90, 70))
                    .projected(projection)
                    .centered_on(WorldPoint::new(x, y))
                    .zoomed(zoom)
                    .snapped(snaps)
            },
        )
    }

    /// The cell under the centre of each pixel, but for those that lie near an edge of cells.
    fn each_pixel(view: &View, lattice: &Lattice) -> Vec<(usize, CellPos)> {
        let size = view.size();
        let places = (0..size.height).flat_map(|y| (0..size.width).map(move |x| (x, y)));
        let cells = places.filter_map(|(x, y)| {
            let cell = |dx: f32, dy: f32| {
                let point = ScreenPoint::new(x as f32 + 0.5 + dx, y as f32 + 0.5 + dy);
                lattice.cell_at(view.to_world(point))
            };
            // Pixels of the screen and of the pane may differ by one at an edge.
            let reach = (0.6 / view.zoom() as f32).max(1.1) + view.zoom() as f32 / 2.0;
            let ways = [(reach, 0.0), (-reach, 0.0), (0.0, reach), (0.0, -reach)];
            let own = cell(0.0, 0.0);
            let is_inner = ways.iter().all(|(dx, dy)| cell(*dx, *dy) == own);
            is_inner.then_some(((y * size.width + x) as usize, own))
        });
        cells.collect()
    }

    fn garden(projection: &Projection) -> Quilt {
        let mut quilt = doc_quilt();
        quilt.edit("see it so", |pen| pen.set_projection(*projection)).unwrap();
        quilt
    }

    proptest! {
        #![proptest_config(ProptestConfig::with_cases(64))]

        /// A tint colours the pixels of its cells and no others, and a pixel of a flat tile shows the
        /// cell that a click on it finds.
        #[test]
        fn a_pixel_shows_the_cell_under_it(view in any_view(), (x, y) in (0..4_i32, 0..3_i32)) {
            let quilt = garden(view.projection());
            let tinted = CellRect::new(CellPos::new(x, y), 2, 2);
            let mut overlay = Overlay::new();
            overlay.begin(&view, quilt.lattice());
            overlay.tint(tinted, |at| (at != tinted.corner()).then_some(Color::rgb(250, 0, 0)));
            let mut list = DrawList::new();
            list.rebuild(&quilt, &view);
            let (mut plain, mut laid) = (Frame::new(view.size()), Frame::new(view.size()));
            Painter::new().paint(&list, &mut plain);
            Painter::new().paint_overlay(&overlay, &mut laid);
            for (pixel, cell) in each_pixel(&view, quilt.lattice()) {
                let is_tinted = tinted.contains(cell) && cell != tinted.corner();
                prop_assert_eq!(laid.pixels()[pixel] != [0; 4], is_tinted, "{}", cell);
                let shown = quilt.get("soil", cell).unwrap().here().unwrap();
                let color = quilt.tiles().tile_of(shown).map_or([0; 4], |tile| {
                    let name = quilt.tiles().name(tile).unwrap().key().to_string();
                    Color::of_name(&name).to_bytes()
                });
                prop_assert_eq!(plain.pixels()[pixel], color, "{}", cell);
            }
        }

        /// What is said of cells in view is what a list shows of them.
        #[test]
        fn what_is_explained_is_what_is_listed(view in any_view()) {
            let quilt = garden(view.projection());
            let mut list = DrawList::new();
            list.rebuild(&quilt, &view);
            let size = view.size();
            let on_screen = list.quads().into_iter().filter(|quad| {
                let screen = sturdy_quilt::units::ScreenRect::of_size(size);
                !quad.target.intersection(screen).is_empty()
            });
            let shown: std::collections::HashSet<CellPos> =
                on_screen.map(|quad| quad.key.place).collect();
            let said = quilt.explain_view(&view);
            prop_assert_eq!(said.layers[0].shown, shown.len());
            for cell in quilt.bounds().cells() {
                let of_cell = &quilt.explain_cell(cell, &view)[0];
                let is_shown = matches!(of_cell.visibility, Visibility::Shown);
                prop_assert_eq!(is_shown, shown.contains(&cell), "{} {}", cell, of_cell);
            }
        }
    }

    /// The picture of a tile with several is the one whose number is the quarters by which the map and
    /// the cell are turned; of one with a single picture, its pixels turn from above, and never at a
    /// slant.
    #[test]
    fn a_tile_is_shown_from_the_side_that_faces_the_camera() {
        let colors = [(200, 0, 0), (0, 200, 0), (0, 0, 200), (200, 200, 0)];
        let colors = colors.map(|(r, g, b)| Color::rgb(r, g, b));
        let sides = ["crate", "east", "south", "west"];
        let lattice = Lattice::square(16.0, 16.0).unwrap();
        let diamond = Projection::diamond(&lattice, 64, 32).unwrap();
        for count in [2, 4] {
            let mut set = TileSet::builder("market");
            for (side, color) in sides.into_iter().zip(colors) {
                let tile = TileSpec::named(side).with_color(color);
                let has_sides = side == "crate";
                let facings = if has_sides { &sides[..count] } else { &[][..] };
                set = set.tile(tile.with_facings(facings.iter().copied()));
            }
            let mut quilt = Quilt::new(lattice);
            quilt
                .edit("lay crates", |pen| {
                    pen.put_tiles(set.build()?)?;
                    pen.add_layer("floor", LayerSettings::default())?;
                    for (x, turn) in (0..8).zip(Turn::SQUARE) {
                        let cell = Cell::of(pen.tile("market/crate")?).with_turn(turn);
                        pen.put("floor", CellPos::new(x, 0), cell)?;
                    }
                    Ok(())
                })
                .unwrap();
            for (projection, quarters) in [Projection::FLAT, diamond]
                .into_iter()
                .flat_map(|own| (0..4).map(move |quarters| (own, quarters)))
            {
                let view =
                    View::new(ScreenSize::new(640, 640)).projected(projection).faced(quarters);
                let view = view.centered_on(WorldPoint::new(64.0, 8.0));
                let picture = quilt.draw(&view, Color::rgb(1, 2, 3));
                for (x, turn) in (0..8).zip(Turn::SQUARE) {
                    let at = view.to_screen(lattice.center(CellPos::new(x, 0)));
                    let side = (quarters as usize + usize::from(turn.steps())) % count;
                    let found = picture.get(at.x as u32, at.y as u32);
                    assert_eq!(found, Some(colors[side]), "{turn:?} at {quarters} of {projection}");
                }
            }
        }
        let wrong =
            TileSet::builder("market").tile(TileSpec::named("crate").with_facings(["crate"; 3]));
        let error = wrong.build().unwrap_err().to_string();
        assert!(error.contains("it has 3 facings: a tile is shown from 2 or 4 sides"), "{error}");
    }

    #[test]
    fn a_view_says_where_it_does_not_see_a_map_as_that_is_meant() {
        let mut quilt = doc_quilt();
        let diamond = Projection::diamond(quilt.lattice(), 64, 32).unwrap();
        quilt.edit("see it so", |pen| pen.set_projection(diamond)).unwrap();
        let flat = View::new(ScreenSize::new(160, 120));
        let text = quilt.explain_view(&flat).to_string();
        let expected =
            "seen from above, though the map is meant to be seen as diamonds of 64 × 32 px";
        assert_eq!(text.lines().nth(1).unwrap().trim(), expected);
        assert!(!quilt.explain_view(&quilt.view(flat.size())).to_string().contains("meant"));
        let other = Lattice::square(32.0, 32.0).unwrap();
        let foreign = flat.projected(Projection::diamond(&other, 64, 32).unwrap());
        let text = quilt.explain_view(&foreign).to_string();
        let expected =
            "nothing shows: the projection of the view is made for cells of another size";
        assert_eq!(text.lines().next(), Some(expected));
    }
}
