//! The camera.

use proptest::prelude::*;
use sturdy_quilt::{ScreenPoint, ScreenSize, View, WorldPoint};

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

#[test]
fn odd_numbers_leave_a_view_usable() {
    let view = View::new(ScreenSize::new(10, 10)).zoomed(0.0);
    assert_eq!(view.zoom(), View::MIN_ZOOM);
    assert_eq!(view.zoomed(f64::INFINITY).zoom(), View::MAX_ZOOM);
    assert_eq!(view.zoomed(f64::NAN).zoom(), View::MIN_ZOOM);
    let moved = view.centered_on(WorldPoint::new(f64::NAN, 4.0));
    assert_eq!(moved.center(), WorldPoint::new(0.0, 4.0));
    assert!(View::new(ScreenSize::new(0, 5)).visible().is_empty());
}

#[test]
fn a_view_is_as_exact_far_from_the_origin() {
    let view = View::new(ScreenSize::new(640, 480)).centered_on(WorldPoint::new(1e9, -1e9));
    assert_eq!(view.to_screen(WorldPoint::new(1e9 + 0.25, -1e9)), ScreenPoint::new(320.25, 240.0));
    assert_eq!(view.column_edge(1e9 + 16.0) - view.column_edge(1e9), 16);
}
