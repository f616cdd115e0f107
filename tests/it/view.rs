//! The camera.

use proptest::prelude::*;
use sturdy_quilt::units::ScreenVec;
use sturdy_quilt::{
    Camera, Lattice, ScreenPoint, ScreenSize, View, WorldPoint, WorldRect, WorldVec,
};

pub(crate) fn any_view() -> impl Strategy<Value = View> {
    let zoom = prop_oneof![Just(1.0), Just(2.0), Just(3.0), 0.2..5.0_f64];
    (1..90_u32, 1..70_u32, -900.0..900.0_f64, -900.0..900.0_f64, zoom).prop_map(
        |(width, height, x, y, zoom)| {
            let view = View::new(ScreenSize::new(width, height));
            view.centered_on(WorldPoint::new(x, y)).zoomed(zoom)
        },
    )
}

proptest! {
    #[test]
    fn screen_and_world_are_inverse(view in any_view(), x in 0.0..90.0_f32, y in 0.0..70.0_f32) {
        let there = view.to_world(ScreenPoint::new(x, y));
        let back = view.to_screen(there);
        prop_assert!((back.x - x).abs() < 1e-3 && (back.y - y).abs() < 1e-3);
    }

    #[test]
    fn what_is_visible_is_what_the_corners_show(view in any_view()) {
        let visible = view.visible();
        let middle = visible.center() - view.center();
        prop_assert!(middle.x.abs() < 1e-9 && middle.y.abs() < 1e-9);
        let width = f64::from(view.size().width) / view.zoom();
        prop_assert!((visible.width() - width).abs() < 1e-9);
    }

    /// A camera comes after as far, into however many frames its time was cut.
    #[test]
    fn a_camera_does_not_hang_on_the_frame_rate(
        (x, y) in (-500.0..500.0_f64, -500.0..500.0_f64),
        steps in prop::collection::vec(0.0..0.2_f64, 1..12),
        zone in 0.0..90.0_f64, half_time in 0.0..0.5_f64,
    ) {
        let camera = Camera::new(View::new(ScreenSize::new(320, 200)));
        let camera = camera.with_dead_zone(zone, zone / 2.0).with_half_time(half_time);
        let (mut small, mut large) = (camera, camera);
        let target = WorldPoint::new(x, y);
        steps.iter().for_each(|step| small.follow(target, *step));
        large.follow(target, steps.iter().sum());
        let way = small.view().center() - large.view().center();
        prop_assert!(way.x.abs() < 1e-6 && way.y.abs() < 1e-6, "{:?}", way);
    }

    /// Whatever it follows, a camera that is kept in an area shows nothing beyond it, or all of it.
    #[test]
    fn a_camera_stays_in_its_area(
        ways in prop::collection::vec((-900.0..900.0_f64, -900.0..900.0_f64), 1..9),
        (width, height) in (1.0..900.0_f64, 1.0..900.0_f64), zoom in 0.3..4.0_f64,
    ) {
        let area = WorldRect::between(WorldPoint::new(-70.0, 30.0), WorldPoint::new(width - 70.0, height + 30.0));
        let view = View::new(ScreenSize::new(320, 200)).zoomed(zoom);
        let mut camera = Camera::new(view).with_half_time(0.05).with_bounds(area);
        for (x, y) in ways {
            camera.follow(WorldPoint::new(x, y), 0.03);
            let seen = camera.view().visible();
            let fits = |low: f64, high: f64, from: f64, to: f64| {
                let slack = 1e-6;
                if high - low >= to - from {
                    from >= low - slack && to <= high + slack
                } else {
                    ((from + to) / 2.0 - (low + high) / 2.0).abs() < slack
                }
            };
            prop_assert!(fits(area.min().x, area.max().x, seen.min().x, seen.max().x));
            prop_assert!(fits(area.min().y, area.max().y, seen.min().y, seen.max().y));
        }
    }

    /// What stands still against what the camera follows never parts from it by a pixel, and all
    /// columns keep their widths.
    #[test]
    fn a_snapped_view_does_not_jitter(
        places in prop::collection::vec(-300.0..300.0_f64, 2..20), way in -40.0..40.0_f64,
        zoom in 0.3..4.0_f64, width in 1..99_u32,
    ) {
        let mut seen = std::collections::HashSet::new();
        let mut widths = std::collections::HashSet::new();
        for x in places {
            let view = View::new(ScreenSize::new(width, 50)).zoomed(zoom).snapped(true);
            let view = view.centered_on(WorldPoint::new(x, 0.0));
            // The one that is followed stands in the middle, always in the same pixel.
            seen.insert(view.column_edge(x));
            widths.insert(view.column_edge(way + 16.0) - view.column_edge(way));
        }
        prop_assert_eq!((seen.len(), widths.len()), (1, 1));
    }

    /// The pixel rule: a pixel belongs to what lies under its centre.
    #[test]
    fn pixel_centres_decide(view in any_view(), edge in -1000.0..1000.0_f64) {
        let first = view.column_edge(edge);
        let middle = |pixel: i32| view.center().x
            + (f64::from(pixel) + 0.5 - f64::from(view.size().width) / 2.0) / view.zoom();
        let slack = 1e-9;
        prop_assert!(middle(first) >= edge - slack);
        prop_assert!(middle(first - 1) < edge + slack);
    }
}

/// Views like this one, each with a number that is not finite.
pub(crate) fn odd_views(view: View) -> Vec<View> {
    let mut views = vec![view.zoomed(f64::NAN)];
    for odd in [f64::NAN, f64::INFINITY, f64::NEG_INFINITY] {
        views.push(view.centered_on(WorldPoint::new(odd, 4.0)));
        views.push(view.moved(WorldVec::new(1.0, odd)));
        views.push(view.turned(odd));
        views.push(view.shifted(ScreenVec::new(0.0, odd as f32)));
    }
    views
}

#[test]
fn a_view_with_odd_numbers_shows_nothing() {
    let view = View::new(ScreenSize::new(10, 10)).zoomed(0.0);
    assert_eq!(view.zoom(), View::MIN_ZOOM);
    assert_eq!(view.zoomed(f64::INFINITY).zoom(), View::MAX_ZOOM);
    for odd in odd_views(view) {
        assert!(odd.visible().is_empty());
        assert!(odd.visible_cells(&Lattice::square(16.0, 16.0).unwrap()).is_empty());
    }
    assert!(View::new(ScreenSize::new(0, 5)).visible().is_empty());
}

#[test]
fn a_view_is_as_exact_far_from_the_origin() {
    let view = View::new(ScreenSize::new(640, 480)).centered_on(WorldPoint::new(1e9, -1e9));
    assert_eq!(view.to_screen(WorldPoint::new(1e9 + 0.25, -1e9)), ScreenPoint::new(320.25, 240.0));
    assert_eq!(view.column_edge(1e9 + 16.0) - view.column_edge(1e9), 16);
}

#[test]
fn odd_numbers_leave_a_camera_usable() {
    let mut camera = Camera::new(View::new(ScreenSize::new(100, 100)));
    camera.follow(WorldPoint::new(f64::NAN, 7.0), f64::NAN);
    assert_eq!(camera.view().center(), WorldPoint::new(0.0, 7.0));
    let mut soft = camera.with_half_time(f64::NAN).with_dead_zone(f64::NAN, -4.0);
    soft.follow(WorldPoint::new(50.0, f64::INFINITY), 0.1);
    assert_eq!(soft.view().center(), WorldPoint::new(50.0, 7.0));
    soft.shake(ScreenVec::new(3.0, -2.0));
    assert_eq!(soft.view().to_screen(soft.view().center()), ScreenPoint::new(53.0, 48.0));
}
