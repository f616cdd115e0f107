//! The outlines of the solid parts of cells, in world units and ready to be asked.

use super::core::Core;
use super::minkowski::Sum;
use crate::lattice::Lattice;
use crate::tile::CellShape;
use crate::units::{WorldPoint, WorldVec};

/// A convex outline: corners clockwise as they are seen, from the upper left corner of its cell.
#[derive(Clone, Debug)]
pub(crate) struct ConvexShape {
    shape: CellShape,
    corners: [WorldVec; CellShape::MAX_CORNERS],
    /// Of the edge behind each corner, outwards and one unit long.
    normals: [WorldVec; CellShape::MAX_CORNERS],
    count: usize,
    /// The sum with a body that is a point with a radius.
    sum_of_point: Sum,
}

impl ConvexShape {
    pub(crate) fn new(shape: CellShape, lattice: &Lattice) -> ConvexShape {
        let (width, height) = (lattice.cell_width(), lattice.cell_height());
        let count = shape.corners().len();
        let mut corners = [WorldVec::ZERO; CellShape::MAX_CORNERS];
        for (held, (x, y)) in corners.iter_mut().zip(shape.corners()) {
            *held = WorldVec::new(x * width, y * height);
        }
        let mut normals = [WorldVec::ZERO; CellShape::MAX_CORNERS];
        for at in 0..count {
            normals[at] = (corners[(at + 1) % count] - corners[at]).outwards();
        }
        let sum_of_point = Sum::of_point(&corners[..count], &normals[..count]);
        ConvexShape { shape, corners, normals, count, sum_of_point }
    }

    pub(crate) const fn sum_of_point(&self) -> &Sum {
        &self.sum_of_point
    }

    /// The sum with a body.
    pub(crate) fn sum_with(&self, core: &Core) -> Sum {
        Sum::of_body(self.corners(), self.normals(), core)
    }

    pub(crate) const fn shape(&self) -> &CellShape {
        &self.shape
    }

    pub(crate) fn corners(&self) -> &[WorldVec] {
        &self.corners[..self.count]
    }

    pub(crate) fn normals(&self) -> &[WorldVec] {
        &self.normals[..self.count]
    }

    /// The ends of the edge behind a corner.
    pub(crate) fn edge(&self, at: usize) -> (WorldVec, WorldVec) {
        (self.corners[at], self.corners[(at + 1) % self.count])
    }

    /// Whether a point lies in it, from the upper left corner of its cell. One on an edge does if
    /// the edge looks to the left, or up.
    pub(crate) fn contains(&self, place: WorldVec) -> bool {
        let is_behind = |(corner, normal): (&WorldVec, &WorldVec)| {
            let distance = normal.dot(place - *corner);
            distance < 0.0 || (distance == 0.0 && (normal.x, normal.y) < (0.0, 0.0))
        };
        self.corners().iter().zip(self.normals()).all(is_behind)
    }

    /// Where a ray from a point goes into it, if it does: the part of the ray until then, and the
    /// edge; `None` for the edge where it begins within. Touching is not going in.
    ///
    /// By clipping the ray with each edge (M. Cyrus and J. Beck, "Generalized Two- and
    /// Three-Dimensional Clipping", Computers & Graphics 3, 1978).
    pub(crate) fn enter(&self, from: WorldVec, motion: WorldVec) -> Option<(f64, Option<usize>)> {
        let (mut enter, mut leave, mut by) = (0.0, f64::INFINITY, None);
        for (at, (corner, normal)) in self.corners().iter().zip(self.normals()).enumerate() {
            let (distance, speed) = (normal.dot(from - *corner), normal.dot(motion));
            if speed < 0.0 {
                let time = distance / -speed;
                if time > enter || (time == enter && distance >= 0.0) {
                    (enter, by) = (time, Some(at));
                }
            } else if distance >= 0.0 {
                return None;
            } else if speed > 0.0 {
                leave = f64::min(leave, -distance / speed);
            }
        }
        (enter < leave && enter < 1.0).then_some((enter, by))
    }

    /// From where to where a line lies in it, in parts of the line and within that.
    pub(crate) fn span(&self, from: WorldVec, motion: WorldVec) -> Option<[f64; 2]> {
        let (enter, _) = self.enter(from, motion)?;
        let (back, _) = self.enter(from + motion, -motion)?;
        Some([enter, 1.0 - back])
    }
}

/// The place of a point from the upper left corner of a cell.
pub(crate) fn from_corner(lattice: &Lattice, column: i64, row: i64, place: WorldPoint) -> WorldVec {
    place - WorldPoint::new(lattice.columns().edge(column), lattice.rows().edge(row))
}
