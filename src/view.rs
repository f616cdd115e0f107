//! The camera.

use crate::lattice::Lattice;
use crate::units::{
    CellRect, ScreenPoint, ScreenRect, ScreenSize, WorldPoint, WorldRect, WorldVec,
};

/// A camera: which part of the world a rectangle of screen pixels shows.
///
/// The middle of the screen shows [`View::center`]; one world unit is [`View::zoom`] pixels wide.
///
/// ```
/// use sturdy_quilt::{ScreenPoint, ScreenSize, View, WorldPoint};
///
/// let view = View::new(ScreenSize::new(1280, 720))
///     .centered_on(WorldPoint::new(100.0, -50.0))
///     .zoomed(2.0);
/// assert_eq!(view.to_screen(WorldPoint::new(100.0, -50.0)), ScreenPoint::new(640.0, 360.0));
/// assert_eq!(view.to_world(ScreenPoint::new(0.0, 0.0)), WorldPoint::new(-220.0, -230.0));
/// ```
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct View {
    center: WorldPoint,
    zoom: f64,
    size: ScreenSize,
}

impl View {
    /// The least zoom: 1024 world units a pixel.
    pub const MIN_ZOOM: f64 = 1.0 / 1024.0;
    /// The greatest zoom: 1024 pixels a world unit.
    pub const MAX_ZOOM: f64 = 1024.0;

    /// A view of `size` pixels at zoom 1, centred on the origin of the world.
    pub const fn new(size: ScreenSize) -> View {
        View { center: WorldPoint::new(0.0, 0.0), zoom: 1.0, size }
    }

    /// The same view, centred on `center`; a coordinate that is not finite leaves its axis as it
    /// was.
    #[must_use]
    pub fn centered_on(mut self, center: WorldPoint) -> View {
        if center.x.is_finite() {
            self.center.x = center.x;
        }
        if center.y.is_finite() {
            self.center.y = center.y;
        }
        self
    }

    /// The same view with `zoom` pixels a world unit, held between [`View::MIN_ZOOM`] and
    /// [`View::MAX_ZOOM`]; what is not a number leaves the zoom as it was.
    #[must_use]
    pub fn zoomed(mut self, zoom: f64) -> View {
        if !zoom.is_nan() {
            self.zoom = zoom.clamp(Self::MIN_ZOOM, Self::MAX_ZOOM);
        }
        self
    }

    /// The same view on a screen of another size, around the same centre.
    #[must_use]
    pub fn resized(mut self, size: ScreenSize) -> View {
        self.size = size;
        self
    }

    /// The same view, centred on `area` and zoomed so that the whole of it just fits. An empty
    /// area or screen leaves the zoom as it was.
    ///
    /// ```
    /// use sturdy_quilt::{ScreenSize, View, WorldPoint, WorldRect};
    ///
    /// let area = WorldRect::between(WorldPoint::new(0.0, 0.0), WorldPoint::new(320.0, 100.0));
    /// let view = View::new(ScreenSize::new(640, 480)).fitted_to(area);
    /// assert_eq!((view.zoom(), view.center()), (2.0, WorldPoint::new(160.0, 50.0)));
    /// ```
    #[must_use]
    pub fn fitted_to(self, area: WorldRect) -> View {
        let view = self.centered_on(area.center());
        if area.is_empty() || self.size.width == 0 || self.size.height == 0 {
            return view;
        }
        let across = f64::from(self.size.width) / area.width();
        let down = f64::from(self.size.height) / area.height();
        view.zoomed(across.min(down))
    }

    /// The same view, moved by `way` in the world.
    #[must_use]
    pub fn moved(self, way: WorldVec) -> View {
        self.centered_on(self.center + way)
    }

    /// The same view, moved as little as needed so that it shows nothing beyond `area`; where the
    /// area is smaller than the screen, it is centred. For a camera that follows someone and stays
    /// on the map. An empty area leaves the view as it was.
    ///
    /// ```
    /// use sturdy_quilt::{ScreenSize, View, WorldPoint, WorldRect};
    ///
    /// let map = WorldRect::between(WorldPoint::new(0.0, 0.0), WorldPoint::new(1000.0, 100.0));
    /// let view = View::new(ScreenSize::new(320, 200)).centered_on(WorldPoint::new(40.0, 90.0));
    /// assert_eq!(view.kept_in(map).center(), WorldPoint::new(160.0, 50.0));
    /// ```
    #[must_use]
    pub fn kept_in(self, area: WorldRect) -> View {
        if area.is_empty() {
            return self;
        }
        let held = |center: f64, pixels: u32, low: f64, high: f64| {
            let half = f64::from(pixels) / self.zoom / 2.0;
            let (first, last) = (low + half, high - half);
            if first > last { low + (high - low) / 2.0 } else { center.clamp(first, last) }
        };
        let (min, max) = (area.min(), area.max());
        self.centered_on(WorldPoint::new(
            held(self.center.x, self.size.width, min.x, max.x),
            held(self.center.y, self.size.height, min.y, max.y),
        ))
    }

    /// The place in the world that the middle of the screen shows.
    pub const fn center(&self) -> WorldPoint {
        self.center
    }

    /// Pixels a world unit.
    pub const fn zoom(&self) -> f64 {
        self.zoom
    }

    /// The size of the screen in pixels.
    pub const fn size(&self) -> ScreenSize {
        self.size
    }

    /// Where a place in the world appears on the screen, also beyond its edges.
    pub fn to_screen(&self, place: WorldPoint) -> ScreenPoint {
        ScreenPoint::new(self.screen_x(place.x) as f32, self.screen_y(place.y) as f32)
    }

    /// The place in the world that shows at a place on the screen, also beyond its edges.
    pub fn to_world(&self, point: ScreenPoint) -> WorldPoint {
        WorldPoint::new(
            self.center.x + (f64::from(point.x) - f64::from(self.size.width) / 2.0) / self.zoom,
            self.center.y + (f64::from(point.y) - f64::from(self.size.height) / 2.0) / self.zoom,
        )
    }

    /// The part of the world that the screen shows.
    pub fn visible(&self) -> WorldRect {
        let (width, height) = (self.size.width as f32, self.size.height as f32);
        WorldRect::between(
            self.to_world(ScreenPoint::new(0.0, 0.0)),
            self.to_world(ScreenPoint::new(width, height)),
        )
    }

    /// The cells of `lattice` that the screen shows, those at the edges included.
    pub fn visible_cells(&self, lattice: &Lattice) -> CellRect {
        lattice.cells_in(self.visible())
    }

    fn screen_x(&self, world_x: f64) -> f64 {
        (world_x - self.center.x) * self.zoom + f64::from(self.size.width) / 2.0
    }

    fn screen_y(&self, world_y: f64) -> f64 {
        (world_y - self.center.y) * self.zoom + f64::from(self.size.height) / 2.0
    }

    /// The first column of pixels whose centres do not lie left of a place in the world.
    ///
    /// This is the pixel rule: a thing that reaches from `a` to `b` covers the pixel columns from
    /// `column_edge(a)` up to, but not with, `column_edge(b)`. Neighbours that share an edge
    /// neither overlap nor leave a gap, at any zoom.
    pub fn column_edge(&self, world_x: f64) -> i32 {
        (self.screen_x(world_x) - 0.5).ceil() as i32
    }

    /// The pixels that a rectangle in the world covers, by the pixel rule of
    /// [`View::column_edge`].
    pub fn pixels(&self, rect: WorldRect) -> ScreenRect {
        ScreenRect {
            left: self.column_edge(rect.min().x),
            top: self.row_edge(rect.min().y),
            right: self.column_edge(rect.max().x),
            bottom: self.row_edge(rect.max().y),
        }
    }

    /// The first row of pixels whose centres do not lie above a place in the world; see
    /// [`View::column_edge`].
    pub fn row_edge(&self, world_y: f64) -> i32 {
        (self.screen_y(world_y) - 0.5).ceil() as i32
    }
}
