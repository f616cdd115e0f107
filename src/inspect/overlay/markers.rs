//! Markers: their outlines, paths and names.

use crate::draw::Overlay;
use crate::picture::Color;
use crate::quilt::{Marker, MarkerPlace, PlacedMarker, Quilt};
use crate::units::{ScreenRect, WorldPoint, WorldVec, pairs};

/// Pixels between the dots of a line.
const DOTS_APART_PX: f64 = 6.0;

impl Overlay {
    /// Draws all markers of a map: frames around cells and areas, crosses at points, dotted lines
    /// along paths and around polygons, each with its name, in a colour for each kind.
    pub fn markers(&mut self, quilt: &Quilt) {
        for marker in quilt.markers() {
            let color = marker_color(&marker);
            self.outline(&marker, color);
            let bounds = self.view.pixels_around(marker.bounds());
            let (left, top) = match (&marker.points()[..], self.view.projection().is_slanted()) {
                // The rectangle around a way that is seen at a slant lies far beyond it.
                ([first, ..], true) => {
                    let (x, y) = self.pixel_at(*first);
                    (x, y.saturating_add(6))
                }
                _ => (bounds.left, bounds.bottom.saturating_add(2)),
            };
            self.label(left, top, marker.name(), color);
        }
    }

    fn outline(&mut self, marker: &PlacedMarker<'_>, color: Color) {
        match marker.stated_place() {
            MarkerPlace::Cell(_) | MarkerPlace::Area(_) => {
                self.ground_area(marker.bounds(), Color { a: 40, ..color });
                self.ground_frame(marker.bounds(), 2, color);
            }
            MarkerPlace::Point(point) => {
                let (x, y) = self.pixel_at(*point);
                let (long, thick) = (7, 1);
                self.rect(around(x, y, long, thick), color);
                self.rect(around(x, y, thick, long), color);
            }
            MarkerPlace::Path(points) => {
                for ends in points.windows(2) {
                    self.dotted(ends[0], ends[1], color);
                }
                for point in points.iter() {
                    self.knot(*point, color);
                }
            }
            MarkerPlace::Polygon(points) => {
                for (from, to) in pairs(points) {
                    self.dotted(from, to, color);
                    self.knot(from, color);
                }
            }
        }
    }

    pub(super) fn knot(&mut self, place: WorldPoint, color: Color) {
        let (x, y) = self.pixel_at(place);
        self.rect(around(x, y, 4, 4), Overlay::halo(color));
        self.rect(around(x, y, 3, 3), color);
    }

    /// The corner between pixels that lies nearest to a place on the ground.
    pub(super) fn pixel_at(&self, place: WorldPoint) -> (i32, i32) {
        let seen = self.view.projection().to_pane(place, 0.0);
        (self.view.column_edge(seen.x), self.view.row_edge(seen.y))
    }

    /// Dots from place to place. Of a line that leaves the screen only the dots on it are made.
    pub(super) fn dotted(&mut self, from: WorldPoint, to: WorldPoint, color: Color) {
        let Some((first, last)) = self.clipped(from, to) else { return };
        let way = self.view.projection().way_to_pane(to - from) * self.view.zoom();
        let count = WorldVec::new(way.x, way.y).length() / DOTS_APART_PX;
        let count = count.ceil().max(1.0);
        // Which dots those are of all dots of the line, so that they stay where they are when the
        // view moves.
        let whole = (to - from).length().max(f64::MIN_POSITIVE);
        let number = |place: WorldPoint| (place - from).length() / whole * count;
        let (first, last) = (number(first).floor(), number(last).ceil().min(count));
        // There are no more than one for each pixel around the screen.
        let dots = (last - first).clamp(0.0, 65_536.0) as u32;
        for dot in 0..=dots {
            let place = from + (to - from) * ((first + f64::from(dot)) / count);
            let (x, y) = self.pixel_at(place);
            self.rect(around(x, y, 2, 2), Overlay::halo(color));
            self.rect(around(x, y, 1, 1), color);
        }
    }
}

/// The colour of a kind of markers.
pub(crate) fn marker_color(marker: &Marker) -> Color {
    let color = Color::of_name(marker.kind().unwrap_or("marker"));
    // Lighter, to be seen over any map.
    let light = |channel: u8| channel.saturating_add(70);
    Color::rgb(light(color.r), light(color.g), light(color.b))
}

/// The pixels around a corner between pixels, so many to each side.
fn around(x: i32, y: i32, across: i32, down: i32) -> ScreenRect {
    ScreenRect {
        left: x.saturating_sub(across),
        top: y.saturating_sub(down),
        right: x.saturating_add(across),
        bottom: y.saturating_add(down),
    }
}
