//! The outline of a body: a convex polygon and a radius.

use crate::units::{WorldPoint, WorldVec, pairs};

/// The substance of a body: a convex outline around a point of the body, and how far the body
/// reaches beyond that on all sides.
#[derive(Clone, Copy, Debug)]
pub struct Core {
    pub(crate) at: WorldPoint,
    corners: [WorldVec; Core::MAX_CORNERS],
    pub(crate) count: usize,
    pub(crate) radius: f64,
    /// Whether it is an upright rectangle.
    pub(crate) is_box: bool,
}

impl Core {
    /// The most corners of a body.
    pub const MAX_CORNERS: usize = 8;

    pub(crate) fn new(at: WorldPoint, corners: &[WorldVec], radius: f64) -> Core {
        let mut held = [WorldVec::ZERO; Core::MAX_CORNERS];
        held[..corners.len()].copy_from_slice(corners);
        Core { at, corners: held, count: corners.len(), radius, is_box: false }
    }

    /// An upright rectangle.
    pub(crate) fn of_box(at: WorldPoint, corners: &[WorldVec; 4]) -> Core {
        Core { is_box: true, ..Core::new(at, corners, 0.0) }
    }

    /// A point, and what is so near.
    #[inline]
    pub(crate) fn round(at: WorldPoint, radius: f64) -> Core {
        let corners = [WorldVec::ZERO; Core::MAX_CORNERS];
        Core { at, corners, count: 1, radius, is_box: false }
    }

    pub(crate) fn corners(&self) -> &[WorldVec] {
        &self.corners[..self.count]
    }

    pub(crate) fn is_finite(&self) -> bool {
        let corners = self.corners();
        self.at.is_finite() && self.radius.is_finite() && corners.iter().all(|v| v.is_finite())
    }

    /// Whether it is but a point and a radius.
    pub(crate) fn is_point(&self) -> bool {
        self.count == 1 && self.corners[0] == WorldVec::ZERO
    }

    /// The area of the body.
    pub(crate) fn area(&self) -> f64 {
        let within: f64 = pairs(self.corners()).map(|(a, b)| a.cross(b)).sum::<f64>() / 2.0;
        // Of the line of a capsule both sides count.
        let around: f64 = pairs(self.corners()).map(|(a, b)| (b - a).length()).sum();
        within + around * self.radius + std::f64::consts::PI * self.radius * self.radius
    }

    /// The outline of the body from its point; of what is round, a polygon of many corners with
    /// the same area.
    pub(crate) fn outline(&self) -> Vec<WorldVec> {
        /// A multiple of four, so that straight sides stay so.
        const STEPS: usize = 64;
        if self.radius == 0.0 {
            return self.corners().to_vec();
        }
        let step = std::f64::consts::TAU / STEPS as f64;
        let radius = self.radius * (step / step.sin()).sqrt();
        // Each direction from the corner that reaches furthest there.
        let corner = |at: usize| {
            let (y, x) = (step * (at as f64 + 0.5)).sin_cos();
            let way = WorldVec::new(x, y);
            let further = |a: &&WorldVec, b: &&WorldVec| way.dot(**a).total_cmp(&way.dot(**b));
            self.corners().iter().max_by(further).map_or(WorldVec::ZERO, |corner| *corner)
                + way * radius
        };
        (0..STEPS).map(corner).collect()
    }
}
