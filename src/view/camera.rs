//! A camera that follows something.

use super::View;
use crate::units::{ScreenVec, WorldPoint, WorldRect, WorldVec};

/// A camera that follows something on the map: with a dead zone, smoothly, kept within bounds, and
/// with a shake.
///
/// The game states how much time has passed; where the camera goes does not depend on the frame
/// rate.
///
/// ```
/// use sturdy_quilt::{Camera, ScreenSize, View, WorldPoint, WorldRect};
///
/// let map = WorldRect::between(WorldPoint::new(0.0, 0.0), WorldPoint::new(2000.0, 900.0));
/// let mut camera = Camera::new(View::new(ScreenSize::new(320, 200)))
///     .with_dead_zone(80.0, 40.0)
///     .with_half_time(0.1)
///     .with_bounds(map);
/// camera.jump_to(WorldPoint::new(1000.0, 500.0));
/// camera.follow(WorldPoint::new(1030.0, 500.0), 1.0 / 60.0);
/// assert_eq!(camera.view().center(), WorldPoint::new(1000.0, 500.0));
/// // Beyond the zone it comes after: half of what is left in each tenth of a second.
/// camera.follow(WorldPoint::new(1240.0, 500.0), 0.1);
/// assert_eq!(camera.view().center(), WorldPoint::new(1100.0, 500.0));
/// ```
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Camera {
    view: View,
    dead_zone: WorldVec,
    half_time: f64,
    bounds: Option<WorldRect>,
}

impl Camera {
    /// Returns a camera with this view, which follows without delay.
    pub const fn new(view: View) -> Camera {
        Camera { view, dead_zone: WorldVec::ZERO, half_time: 0.0, bounds: None }
    }

    /// Returns this camera with a dead zone around its centre, in world units: while the followed
    /// place lies in it, the camera stands still. A negative size or NaN means no zone.
    #[must_use]
    pub fn with_dead_zone(mut self, width: f64, height: f64) -> Camera {
        self.dead_zone = WorldVec::new(width.max(0.0), height.max(0.0));
        self
    }

    /// Returns this camera, following smoothly: in this many seconds it covers half of the distance
    /// that is left. 0, a negative number and NaN mean at once.
    #[must_use]
    pub fn with_half_time(mut self, seconds: f64) -> Camera {
        self.half_time = seconds.max(0.0);
        self
    }

    /// Returns this camera, showing nothing beyond an area; where that is smaller than the screen,
    /// it is centred. See [`View::kept_in`].
    #[must_use]
    pub fn with_bounds(mut self, area: impl Into<Option<WorldRect>>) -> Camera {
        self.bounds = area.into();
        self.view = self.held(self.view);
        self
    }

    /// Returns what it shows now.
    pub const fn view(&self) -> View {
        self.view
    }

    /// Sets the view, with its zoom, size, turn and snapping. The camera stays within its bounds.
    pub fn set_view(&mut self, view: View) {
        self.view = self.held(view);
    }

    /// Moves the camera to a place at once.
    pub fn jump_to(&mut self, place: WorldPoint) {
        self.set_view(self.view.centered_on(place));
    }

    /// Moves the camera towards a place, for a time step in seconds. A step that is negative or not
    /// a number counts as 0; an axis on which the place is not finite does not move.
    pub fn follow(&mut self, place: WorldPoint, seconds: f64) {
        let part = if self.half_time > 0.0 {
            1.0 - (-seconds.max(0.0) / self.half_time).exp2()
        } else {
            1.0
        };
        let center = self.view.center();
        let after = |center: f64, place: f64, zone: f64| {
            if !place.is_finite() {
                return center;
            }
            let wanted = center.clamp(place - zone / 2.0, place + zone / 2.0);
            center + (wanted - center) * part
        };
        self.jump_to(WorldPoint::new(
            after(center.x, place.x, self.dead_zone.x),
            after(center.y, place.y, self.dead_zone.y),
        ));
    }

    /// Shifts the picture by some pixels to the right and down, until the next call: for a shake.
    /// The camera itself stays where it is.
    pub fn shake(&mut self, way: ScreenVec) {
        self.view = self.view.shifted(way);
    }

    fn held(&self, view: View) -> View {
        self.bounds.map_or(view, |area| view.kept_in(area))
    }
}
