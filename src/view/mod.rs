//! The camera: which part of the world a screen shows, and from where.
//!
//! Places go from the ground by a [`Projection`] to the pane, the picture before the camera, and by
//! centre, zoom and turn of a [`View`] to the screen.

mod camera;
mod facing;
mod projection;

pub use camera::Camera;
pub use facing::Facing;
pub use projection::{Projection, ProjectionError, ProjectionKind};

use crate::lattice::Lattice;
use crate::units::{
    CellRect, PanePoint, PaneRect, PaneVec, ScreenPoint, ScreenRect, ScreenSize, ScreenVec,
    WorldPoint, WorldRect, WorldVec,
};

/// A camera: which part of the world a rectangle of screen pixels shows, and from where.
///
/// The middle of the screen shows [`View::center`]. Unless [`View::projected`] says otherwise, the
/// map is seen from straight above, and one world unit is [`View::zoom`] pixels wide; see
/// [`Quilt::view`](crate::Quilt::view) for a view of a map as it is meant to be seen. A view with a
/// number that is not finite shows nothing.
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
    projection: Projection,
    /// Where the centre lies on the pane.
    pane_center: PanePoint,
    zoom: f64,
    size: ScreenSize,
    /// How far the picture is turned clockwise, in radians.
    turned: f64,
    /// How far the picture is moved on the screen, in pixels.
    shifted: ScreenVec,
    /// Whether places are rounded to pixels before they are compared with the camera.
    snaps: bool,
}

impl View {
    /// The least zoom: 1024 picture pixels per pixel of the screen.
    pub const MIN_ZOOM: f64 = 1.0 / 1024.0;
    /// The greatest zoom: 1024 pixels of the screen per picture pixel.
    pub const MAX_ZOOM: f64 = 1024.0;

    /// Returns a view of `size` pixels at zoom 1 from straight above, centred on the origin of the
    /// world.
    pub const fn new(size: ScreenSize) -> View {
        View {
            center: WorldPoint::new(0.0, 0.0),
            projection: Projection::FLAT,
            pane_center: PanePoint::new(0.0, 0.0),
            zoom: 1.0,
            size,
            turned: 0.0,
            shifted: ScreenVec::new(0.0, 0.0),
            snaps: false,
        }
    }

    /// Returns this view, centred on `center`.
    #[must_use]
    pub const fn centered_on(mut self, center: WorldPoint) -> View {
        self.center = center;
        self.pane_center = self.projection.to_pane(center, 0.0);
        self
    }

    /// Returns this view with the ground seen by another projection, around the same centre.
    ///
    /// ```
    /// use sturdy_quilt::view::Projection;
    /// use sturdy_quilt::{CellPos, Lattice, ScreenPoint, ScreenSize, View};
    ///
    /// let lattice = Lattice::square(16.0, 16.0)?;
    /// let diamond = Projection::diamond(&lattice, 64, 32)?;
    /// let view = View::new(ScreenSize::new(640, 480)).projected(diamond);
    /// // The top corner of cell 0,0 lies in the middle of the screen, its middle half a diamond lower.
    /// let place = view.to_world(ScreenPoint::new(320.0, 256.0));
    /// assert_eq!(lattice.cell_at(place), CellPos::ORIGIN);
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    #[must_use]
    pub const fn projected(mut self, projection: Projection) -> View {
        self.projection = projection;
        self.centered_on(self.center)
    }

    /// Returns this view with the map turned by so many quarters more, clockwise, around the centre;
    /// a negative number turns it back.
    #[must_use]
    pub const fn faced(self, quarters: i32) -> View {
        let facing = self.projection.facing().turned(quarters);
        self.projected(self.projection.with_facing(facing))
    }

    /// Returns this view with `zoom` pixels of the screen per picture pixel, which from straight
    /// above is a world unit; clamped between [`View::MIN_ZOOM`] and [`View::MAX_ZOOM`].
    #[must_use]
    pub const fn zoomed(mut self, zoom: f64) -> View {
        self.zoom = zoom.clamp(Self::MIN_ZOOM, Self::MAX_ZOOM);
        self
    }

    /// Returns this view on a screen of another size, around the same centre.
    #[must_use]
    pub fn resized(mut self, size: ScreenSize) -> View {
        self.size = size;
        self
    }

    /// Returns this view, centred on `area` and zoomed so that the whole of it just fits, turned as
    /// the view is. An empty area or screen leaves the zoom as it was.
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
        let view = self.fitted_to_pane(self.projection.around(area, 0.0));
        view.centered_on(area.center())
    }

    /// Returns this view, centred on a part of the pane and zoomed so that the whole of it just fits,
    /// turned as the view is; see [`Quilt::extent_on_pane`](crate::Quilt::extent_on_pane). An empty part
    /// or screen leaves the zoom as it was.
    #[must_use]
    pub fn fitted_to_pane(self, area: PaneRect) -> View {
        let view = self.pane_centered_on(area.center());
        if area.is_empty() || self.size.width == 0 || self.size.height == 0 {
            return view;
        }
        let (width, height) = self.turned_size(area);
        let across = f64::from(self.size.width) / width;
        let down = f64::from(self.size.height) / height;
        view.zoomed(across.min(down))
    }

    /// The width and height that a part of the pane takes as the view turns it.
    fn turned_size(&self, area: PaneRect) -> (f64, f64) {
        if self.turned == 0.0 {
            return (area.width(), area.height());
        }
        let (sin, cos) = self.turned.sin_cos();
        let (sin, cos) = (sin.abs(), cos.abs());
        (area.width() * cos + area.height() * sin, area.width() * sin + area.height() * cos)
    }

    /// Returns this view, moved by `way` in the world.
    #[must_use]
    pub fn moved(self, way: WorldVec) -> View {
        self.centered_on(self.center + way)
    }

    /// Returns this view, moved as little as needed so that it shows nothing beyond `area`; where
    /// the area is smaller than the screen, it is centred. For a camera that follows someone and
    /// stays on the map. An empty area leaves the view as it was.
    ///
    /// At a slant the area is no upright rectangle on the screen. Then the view stays within the
    /// upright rectangle around the area, and its centre on the area: at a corner of it, the screen
    /// also shows what lies beside the corner.
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
        let (outer, size) = (self.projection.around(area, 0.0), self.upright().size);
        let within = |center: PanePoint| {
            let held = |center: f64, pixels: u32, low: f64, high: f64| {
                let half = f64::from(pixels) / self.zoom / 2.0;
                let (first, last) = (low + half, high - half);
                if first > last { low + (high - low) / 2.0 } else { center.clamp(first, last) }
            };
            PanePoint::new(
                held(center.x, size.width, outer.min().x, outer.max().x),
                held(center.y, size.height, outer.min().y, outer.max().y),
            )
        };
        if !self.projection.is_slanted() {
            return self.centered_on(self.projection.to_world(within(self.pane_center), 0.0));
        }
        // Both are convex, so going from one to the other ends where both are kept (the method of
        // alternating projections: J. von Neumann, Functional Operators II, 1950).
        let (min, max) = (area.min(), area.max());
        let mut view = self;
        for _ in 0..Self::KEPT_IN_STEPS {
            let center = view.projection.to_world(within(view.pane_center), 0.0);
            let center =
                WorldPoint::new(center.x.clamp(min.x, max.x), center.y.clamp(min.y, max.y));
            if center == view.center {
                break;
            }
            view = view.centered_on(center);
        }
        view
    }

    /// After so many, the centre moves by less than a pixel.
    const KEPT_IN_STEPS: u32 = 16;

    /// Returns the place in the world that the middle of the screen shows.
    pub const fn center(&self) -> WorldPoint {
        self.center
    }

    /// Returns the projection by which the ground is seen.
    pub const fn projection(&self) -> &Projection {
        &self.projection
    }

    /// Returns where the middle of the screen lies on the pane.
    pub const fn pane_center(&self) -> PanePoint {
        self.pane_center
    }

    /// Returns the zoom in pixels of the screen per picture pixel.
    pub const fn zoom(&self) -> f64 {
        self.zoom
    }

    /// Returns the size of the screen in pixels.
    pub const fn size(&self) -> ScreenSize {
        self.size
    }

    /// Returns this view with the picture turned clockwise about the middle of the screen by so
    /// many radians.
    ///
    /// The [`Painter`](crate::Painter) shows it by the nearest pixel of the picture that is not
    /// turned, see [`View::upright`]. Those who draw with other means draw that one turned.
    ///
    /// ```
    /// use sturdy_quilt::{ScreenPoint, ScreenSize, View, WorldPoint};
    ///
    /// let view = View::new(ScreenSize::new(200, 100)).turned(std::f64::consts::FRAC_PI_2);
    /// let right = view.to_screen(WorldPoint::new(10.0, 0.0));
    /// assert!((right.x - 100.0).abs() < 1e-4 && (right.y - 60.0).abs() < 1e-4);
    /// ```
    #[must_use]
    pub const fn turned(mut self, radians: f64) -> View {
        self.turned = radians;
        self
    }

    /// Returns this view with the whole picture moved by some pixels to the right and down, all
    /// layers alike whatever their parallax: for a shake.
    #[must_use]
    pub const fn shifted(mut self, way: ScreenVec) -> View {
        self.shifted = way;
        self
    }

    /// Returns this view, moving by whole pixels only, or not.
    ///
    /// Then every place is rounded to pixels of the world first, and camera and shift likewise: so
    /// what moves together on the map never parts on the screen by a pixel, the columns of a zoom
    /// that is not whole do not change their widths while the camera moves, and layers with a
    /// parallax stand still while the camera moves by less than a pixel.
    #[must_use]
    pub const fn snapped(mut self, snaps: bool) -> View {
        self.snaps = snaps;
        self
    }

    /// Whether all its numbers are finite: only then it shows anything.
    pub(crate) fn is_finite(&self) -> bool {
        let shift = self.shifted.x.is_finite() && self.shifted.y.is_finite();
        let center = self.center.is_finite()
            && self.pane_center.x.is_finite()
            && self.pane_center.y.is_finite();
        center && self.zoom.is_finite() && self.turned.is_finite() && shift
    }

    /// Returns how far the picture is turned clockwise, in radians.
    pub const fn turn(&self) -> f64 {
        self.turned
    }

    /// Returns how far the picture is moved on the screen, in pixels.
    pub const fn shift(&self) -> ScreenVec {
        self.shifted
    }

    /// Returns whether it moves by whole pixels only.
    pub const fn is_snapped(&self) -> bool {
        self.snaps
    }

    /// Returns this view without its turn: itself, or where it is turned, one of the same centre
    /// and zoom, not shifted, and so large that the screen lies within it when both are laid on
    /// each other by their middles, turned.
    #[must_use]
    #[inline]
    pub fn upright(&self) -> View {
        if self.turned == 0.0 {
            return *self;
        }
        let (sin, cos) = self.turned.sin_cos();
        let (sin, cos) = (sin.abs(), cos.abs());
        let (x, y) = (f64::from(self.shifted.x).abs(), f64::from(self.shifted.y).abs());
        // Twice the shift, since the middle stays in the middle; and a pixel for the rounding.
        let (width, height) =
            (f64::from(self.size.width) + 2.0 * x, f64::from(self.size.height) + 2.0 * y);
        let side = |length: f64| (length.ceil() as u32).saturating_add(2);
        let size =
            ScreenSize::new(side(width * cos + height * sin), side(width * sin + height * cos));
        View { size, turned: 0.0, shifted: ScreenVec::new(0.0, 0.0), ..*self }
    }

    /// Converts a point of the screen to the screen of [`View::upright`], in pixels.
    pub fn to_upright(&self, point: ScreenPoint) -> ScreenPoint {
        let (x, y) = self.exactly_upright(point);
        ScreenPoint::new(x as f32, y as f32)
    }

    /// As [`View::to_upright`], to the last bit.
    pub(crate) fn exactly_upright(&self, point: ScreenPoint) -> (f64, f64) {
        if self.turned == 0.0 {
            return (point.x.into(), point.y.into());
        }
        let ((x, y), upright) = (self.way_from_middle(point), self.upright());
        (x + upright.middle(upright.size.width, 0.0), y + upright.middle(upright.size.height, 0.0))
    }

    /// The camera that sees what follows this one by such factors, and stands still at a place. The
    /// factors act on the pane.
    #[must_use]
    pub(crate) fn parallaxed(&self, (x, y): (f64, f64), from: WorldPoint) -> View {
        if (x, y) == (1.0, 1.0) {
            return *self;
        }
        let from = self.projection.to_pane(from, 0.0);
        let seen =
            |center: f64, from: f64, factor: f64| from + (self.on_a_pixel(center) - from) * factor;
        self.pane_centered_on(PanePoint::new(
            seen(self.pane_center.x, from.x, x),
            seen(self.pane_center.y, from.y, y),
        ))
    }

    /// Returns this view, centred on a place of the pane.
    #[must_use]
    pub fn pane_centered_on(self, pane_center: PanePoint) -> View {
        let center = self.projection.to_world(pane_center, 0.0);
        View { center, pane_center, ..self }
    }

    /// The same camera over a map that is turned already, as the projection turns it.
    #[must_use]
    pub(crate) fn unturned(self) -> View {
        let facing = self.projection.facing();
        let (x, y) = facing.turn((self.center.x, self.center.y));
        let center = WorldPoint::new(x, y);
        View { center, projection: self.projection.unturned(), ..self }
    }

    /// A coordinate of the camera as it counts.
    fn on_a_pixel(&self, place: f64) -> f64 {
        if self.snaps { rounded(place * self.zoom) / self.zoom } else { place }
    }

    /// The sine and cosine of the angle by which the view is turned, exact where it is not.
    fn turn_sin_cos(&self) -> (f64, f64) {
        if self.turned == 0.0 { (0.0, 1.0) } else { self.turned.sin_cos() }
    }

    /// How far a point of the screen lies from where the centre of the camera shows, in pixels of
    /// the upright picture.
    fn way_from_middle(&self, point: ScreenPoint) -> (f64, f64) {
        let x = f64::from(point.x) - self.middle(self.size.width, self.shifted.x);
        let y = f64::from(point.y) - self.middle(self.size.height, self.shifted.y);
        if self.turned == 0.0 {
            return (x, y);
        }
        let (sin, cos) = self.turned.sin_cos();
        (x * cos + y * sin, y * cos - x * sin)
    }

    /// Where the centre of the camera shows, across or down.
    fn middle(&self, length: u32, shift: f32) -> f64 {
        if self.snaps {
            f64::from(length / 2) + rounded(shift.into())
        } else {
            f64::from(length) / 2.0 + f64::from(shift)
        }
    }

    /// Converts a place on the ground to the screen, also beyond its edges.
    pub fn to_screen(&self, place: WorldPoint) -> ScreenPoint {
        self.to_screen_at(place, 0.0)
    }

    /// Converts a place so many world units above the ground to the screen, also beyond its edges.
    ///
    /// It is found from the way to the centre of the view, and so is as exact far from the origin as
    /// near it.
    pub fn to_screen_at(&self, place: WorldPoint, elevation: f64) -> ScreenPoint {
        let PaneVec { x, y } = self.projection.way_to_pane(place - self.center);
        let y = y - self.projection.lift() * elevation;
        let rest = self.rest();
        let (x, y) = ((x + rest.x) * self.zoom, (y + rest.y) * self.zoom);
        let (sin, cos) = self.turn_sin_cos();
        ScreenPoint::new(
            (x * cos - y * sin + self.middle(self.size.width, self.shifted.x)) as f32,
            (x * sin + y * cos + self.middle(self.size.height, self.shifted.y)) as f32,
        )
    }

    /// Returns the affine map from the pane to the screen, in pixels: of a place on the pane, each row
    /// gives a coordinate, `row[0] * x + row[1] * y + row[2]`.
    ///
    /// For renderers that keep places on the pane. Of a place far from the origin the sum loses digits;
    /// [`View::to_screen_at`] goes by the way to the camera.
    ///
    /// ```
    /// use sturdy_quilt::units::PanePoint;
    /// use sturdy_quilt::{ScreenPoint, ScreenSize, View, WorldPoint};
    ///
    /// let view = View::new(ScreenSize::new(640, 400)).centered_on(WorldPoint::new(50.0, 20.0)).zoomed(2.0);
    /// assert_eq!(view.pane_to_screen(), [[2.0, 0.0, 220.0], [0.0, 2.0, 160.0]]);
    /// assert_eq!(view.to_screen(WorldPoint::new(60.0, 20.0)), ScreenPoint::new(340.0, 200.0));
    /// ```
    pub fn pane_to_screen(&self) -> [[f64; 3]; 2] {
        let (sin, cos) = self.turn_sin_cos();
        let (sin, cos) = (sin * self.zoom, cos * self.zoom);
        let (x, y) = (self.on_a_pixel(self.pane_center.x), self.on_a_pixel(self.pane_center.y));
        let middle_x = self.middle(self.size.width, self.shifted.x);
        let middle_y = self.middle(self.size.height, self.shifted.y);
        [[cos, -sin, middle_x - (x * cos - y * sin)], [sin, cos, middle_y - (x * sin + y * cos)]]
    }

    /// How far the camera is, on the pane, from where it counts: not at all unless it snaps.
    fn rest(&self) -> PaneVec {
        let rest = |place: f64| place - self.on_a_pixel(place);
        PaneVec::new(rest(self.pane_center.x), rest(self.pane_center.y))
    }

    /// Returns the place on the ground that shows at a place on the screen, also beyond its edges.
    pub fn to_world(&self, point: ScreenPoint) -> WorldPoint {
        self.to_world_at(point, 0.0)
    }

    /// Returns the place that shows at a place on the screen, so many world units above the ground:
    /// on a floor, say, that lies so high.
    pub fn to_world_at(&self, point: ScreenPoint, elevation: f64) -> WorldPoint {
        let (x, y) = self.way_from_middle(point);
        if !self.projection.is_slanted() {
            return self.projection.to_world(self.to_pane(point), elevation);
        }
        let rest = self.rest();
        let lifted = self.projection.lift() * elevation;
        let way = PaneVec::new(x / self.zoom - rest.x, y / self.zoom - rest.y + lifted);
        self.center + self.projection.way_to_world(way)
    }

    /// Returns the place on the pane that shows at a place on the screen, also beyond its edges.
    pub fn to_pane(&self, point: ScreenPoint) -> PanePoint {
        let (x, y) = self.way_from_middle(point);
        PanePoint::new(
            self.on_a_pixel(self.pane_center.x) + x / self.zoom,
            self.on_a_pixel(self.pane_center.y) + y / self.zoom,
        )
    }

    /// Returns how a way along the ground shows on the screen.
    pub fn way_to_screen(&self, way: WorldVec) -> ScreenVec {
        let PaneVec { x, y } = self.projection.way_to_pane(way) * self.zoom;
        let (sin, cos) = self.turn_sin_cos();
        ScreenVec::new((x * cos - y * sin) as f32, (x * sin + y * cos) as f32)
    }

    /// Returns the way along the ground that shows as a way on the screen: which way a body goes when
    /// the player presses "right".
    ///
    /// ```
    /// use sturdy_quilt::units::ScreenVec;
    /// use sturdy_quilt::view::Projection;
    /// use sturdy_quilt::{Lattice, ScreenSize, View, WorldVec};
    ///
    /// let diamond = Projection::diamond(&Lattice::square(16.0, 16.0)?, 64, 32)?;
    /// let view = View::new(ScreenSize::new(640, 480)).projected(diamond).zoomed(2.0);
    /// assert_eq!(view.way_to_world(ScreenVec::new(128.0, 0.0)), WorldVec::new(16.0, -16.0));
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    pub fn way_to_world(&self, way: ScreenVec) -> WorldVec {
        let (x, y) = (f64::from(way.x), f64::from(way.y));
        let (sin, cos) = self.turn_sin_cos();
        let (x, y) = (x * cos + y * sin, y * cos - x * sin);
        self.projection.way_to_world(PaneVec::new(x / self.zoom, y / self.zoom))
    }

    /// Returns the part of the ground that the screen shows: the upright rectangle around it, where
    /// the view is turned or looks at a slant.
    pub fn visible(&self) -> WorldRect {
        self.projection.ground_around(self.visible_pane(), 0.0)
    }

    /// Returns the part of the pane that the screen shows; of a turned view, the upright rectangle
    /// around that.
    pub fn visible_pane(&self) -> PaneRect {
        if !self.is_finite() {
            return PaneRect::default();
        }
        let view = self.upright();
        let (width, height) = (view.size.width as f32, view.size.height as f32);
        let seen = PaneRect::between(
            view.to_pane(ScreenPoint::new(0.0, 0.0)),
            view.to_pane(ScreenPoint::new(width, height)),
        );
        // An edge may be rounded by half a pixel into the screen.
        let rounding = if self.snaps { 1.0 / self.zoom } else { 0.0 };
        seen.grown(rounding, rounding, rounding, rounding)
    }

    /// Returns the smallest rectangle of cells around those that the screen shows, those at the
    /// edges included. At a slant, half of them and more lie beyond the screen: see
    /// [`View::visible_runs`].
    pub fn visible_cells(&self, lattice: &Lattice) -> CellRect {
        lattice.cells_in(self.visible())
    }

    /// Returns the cells that the screen shows, a run of each row, from the top row to the bottom
    /// one; see [`Projection::cells_in`].
    pub fn visible_runs(&self, lattice: &Lattice) -> impl Iterator<Item = CellRect> + use<> {
        self.projection.cells_in(lattice, self.visible_pane())
    }

    /// Returns the first column of pixels whose centres do not lie left of a place on the pane: from
    /// straight above, and unless the map is turned, of a place in the world.
    ///
    /// This is the pixel rule: a thing that reaches from `a` to `b` covers the pixel columns from
    /// `column_edge(a)` up to, but not with, `column_edge(b)`. Neighbours that share an edge
    /// neither overlap nor leave a gap, at any zoom. Where the view is turned, the pixels are those
    /// of [`View::upright`].
    #[inline]
    pub fn column_edge(&self, pane_x: f64) -> i32 {
        self.upright().column(pane_x)
    }

    /// Returns the first row of pixels whose centres do not lie above a place on the pane; see
    /// [`View::column_edge`].
    #[inline]
    pub fn row_edge(&self, pane_y: f64) -> i32 {
        self.upright().row(pane_y)
    }

    #[inline]
    fn column(&self, pane_x: f64) -> i32 {
        self.edge(pane_x, self.pane_center.x, self.size.width, self.shifted.x)
    }

    #[inline]
    fn row(&self, pane_y: f64) -> i32 {
        self.edge(pane_y, self.pane_center.y, self.size.height, self.shifted.y)
    }

    #[inline]
    fn edge(&self, place: f64, center: f64, length: u32, shift: f32) -> i32 {
        let middle = self.middle(length, shift);
        if self.snaps {
            return (rounded(place * self.zoom) - rounded(center * self.zoom) + middle) as i32;
        }
        // Rounded up by hand: many processors do so only by a call.
        let edge = (place - center) * self.zoom + middle - 0.5;
        let whole = edge as i32;
        if f64::from(whole) < edge { whole.saturating_add(1) } else { whole }
    }

    /// Returns the column of picture pixels on the pane that a column of the screen shows, where the
    /// ground is seen at a slant: that under the centres of its pixels. Where the view is turned, the
    /// pixels are those of [`View::upright`].
    ///
    /// At a slant, the pictures of cells lie on whole picture pixels, and this is the pixel rule for
    /// them: so diagonal edges close at every zoom.
    pub fn pane_column(&self, column: i32) -> i64 {
        let view = self.upright();
        view.pane_pixel(column, view.pane_center.x, view.size.width, view.shifted.x)
    }

    /// Returns the row of picture pixels on the pane that a row of the screen shows; see
    /// [`View::pane_column`].
    pub fn pane_row(&self, row: i32) -> i64 {
        let view = self.upright();
        view.pane_pixel(row, view.pane_center.y, view.size.height, view.shifted.y)
    }

    fn pane_pixel(&self, pixel: i32, center: f64, length: u32, shift: f32) -> i64 {
        self.under(pixel, center, length, shift).floor() as i64
    }

    /// The place on the pane under the centre of a pixel of an upright view.
    pub(crate) fn pane_place(&self, column: i32, row: i32) -> (f64, f64) {
        let x = self.under(column, self.pane_center.x, self.size.width, self.shifted.x);
        (x, self.under(row, self.pane_center.y, self.size.height, self.shifted.y))
    }

    fn under(&self, pixel: i32, center: f64, length: u32, shift: f32) -> f64 {
        let way = f64::from(pixel) + 0.5 - self.middle(length, shift);
        self.on_a_pixel(center) + way / self.zoom
    }

    /// Returns the pixels that a rectangle of the pane covers, by the pixel rule of
    /// [`View::column_edge`].
    pub fn pixels(&self, rect: PaneRect) -> ScreenRect {
        if self.turned != 0.0 {
            return self.upright().pixels(rect);
        }
        ScreenRect {
            left: self.column(rect.min().x),
            top: self.row(rect.min().y),
            right: self.column(rect.max().x),
            bottom: self.row(rect.max().y),
        }
    }

    /// Returns the pixels of the upright rectangle around an area of the ground: where it is seen from
    /// straight above, of the area itself.
    pub fn pixels_around(&self, area: WorldRect) -> ScreenRect {
        self.pixels(self.projection.around(area, 0.0))
    }
}

impl Default for View {
    /// A view without pixels, at the origin of the world.
    fn default() -> View {
        View::new(ScreenSize::default())
    }
}

/// The pixel edge at a place: the nearest one, of two the lower.
fn rounded(pixels: f64) -> f64 {
    (pixels - 0.5).ceil()
}
