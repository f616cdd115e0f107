//! Pictures of what was asked of the ground: a part of the map with its lattice, and the answer.

use sturdy_quilt::{
    Color, DrawList, Overlay, Picture, Quilt, ScreenPoint, ScreenSize, View, WorldPoint, WorldRect,
    WorldVec,
};

use super::draw;

/// How steep what was met is, where it is not straight.
pub(super) fn slope_words(normal: WorldVec) -> String {
    if normal.x == 0.0 || normal.y == 0.0 {
        return String::new();
    }
    format!(", a slope of {:.0}°", normal.x.abs().atan2(normal.y.abs()).to_degrees())
}

/// The rectangle around some others, with a margin.
pub(super) fn around(places: impl IntoIterator<Item = WorldRect>) -> WorldRect {
    const MARGIN: f64 = 48.0;
    let both = |a: WorldRect, b: WorldRect| {
        let min = WorldPoint::new(a.min().x.min(b.min().x), a.min().y.min(b.min().y));
        let max = WorldPoint::new(a.max().x.max(b.max().x), a.max().y.max(b.max().y));
        WorldRect::between(min, max)
    };
    places.into_iter().reduce(both).unwrap_or_default().grown(MARGIN)
}

/// Words beside a place, over what lies there.
pub(super) fn label(overlay: &mut Overlay, view: &View, place: WorldPoint, text: &str) {
    let ScreenPoint { x, y } = view.to_screen(place);
    let size = view.size();
    // Above the place and within the picture.
    let left = (x as i32 + 8).clamp(0, (size.width as i32 - 120).max(0));
    let top = (y as i32 - 26).clamp(0, (size.height as i32 - 24).max(0));
    overlay.label(left, top, text, Color::rgb(255, 240, 120));
}

/// A part of a map with its lattice and an overlay.
pub(super) fn picture(
    quilt: &Quilt,
    around: WorldRect,
    lay: impl FnOnce(&mut Overlay, &View),
) -> Picture {
    let view = quilt.view(ScreenSize::new(1280, 800)).fitted_to(around);
    let (mut list, mut overlay) = (DrawList::new(), Overlay::new());
    list.rebuild(quilt, &view);
    overlay.begin(&view, quilt.lattice());
    overlay.lattice(Color::rgba(255, 255, 255, 40));
    lay(&mut overlay, &view);
    draw::painted(&list, &overlay, Color::rgb(20, 24, 28))
}
