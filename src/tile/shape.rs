//! The part of its cell that is solid to those whom a tile stops.

use super::Turn;
use crate::lattice::LatticeShape;
use crate::units::{Side, WorldVec, pairs, uppermost};

/// The solid part of a cell: a convex polygon, in parts of the cell's width and height from its
/// upper left corner.
///
/// A tile that states none fills its cell. It is turned with its tile.
///
/// **Guarantees.** Three to [`CellShape::MAX_CORNERS`] corners within the cell, clockwise as they
/// are seen, beginning with the uppermost (of two, the one to the left); no two alike and no three
/// in a line; nowhere thinner than [`CellShape::MIN_WIDTH`].
///
/// ```
/// use sturdy_quilt::tile::CellShape;
/// use sturdy_quilt::Turn;
///
/// let ramp = CellShape::floor(0.0, 1.0)?;
/// assert_eq!(ramp, CellShape::polygon([(1.0, 0.0), (1.0, 1.0), (0.0, 1.0)])?);
/// assert_eq!(ramp.turned(Turn::MIRROR), CellShape::floor(1.0, 0.0)?);
/// assert_eq!(ramp.turned(Turn::HALF), CellShape::ceiling(1.0, 0.0)?);
/// # Ok::<(), sturdy_quilt::tile::CellShapeError>(())
/// ```
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct CellShape {
    corners: [(f64, f64); CellShape::MAX_CORNERS],
    count: u8,
}

/// The error of corners that do not make a shape of a cell.
#[derive(Clone, Debug, PartialEq, thiserror::Error)]
#[non_exhaustive]
pub enum CellShapeError {
    /// Fewer than three, or more than there may be.
    #[error("it has {count} corners, where 3 to {} are allowed", CellShape::MAX_CORNERS)]
    Count {
        /// How many there are.
        count: usize,
    },
    /// A corner outside the cell, or one that is not a number.
    #[error("the corner {x}, {y} lies outside the cell, which reaches from 0 to 1 both ways")]
    Outside {
        /// From the left side.
        x: f64,
        /// From the upper side.
        y: f64,
    },
    /// It bends inwards, or crosses itself.
    #[error("it bends inwards at the corner {x}, {y}, or crosses itself")]
    Concave {
        /// From the left side.
        x: f64,
        /// From the upper side.
        y: f64,
    },
    /// It has no area worth the name.
    #[error("it is thinner than {} of the cell", CellShape::MIN_WIDTH)]
    Thin,
}

/// So little is a difference that corners which lie in a line may have left from rounding.
const ROUNDING: f64 = 1e-7;

// Make.
impl CellShape {
    /// The most corners.
    pub const MAX_CORNERS: usize = 8;
    /// The least width in any direction, as a part of the cell.
    pub const MIN_WIDTH: f64 = 1.0 / 64.0;

    /// The whole of a square cell.
    pub const SQUARE: CellShape = {
        let mut corners = [(0.0, 0.0); CellShape::MAX_CORNERS];
        (corners[1], corners[2], corners[3]) = ((1.0, 0.0), (1.0, 1.0), (0.0, 1.0));
        CellShape { corners, count: 4 }
    };

    /// Returns the outline of a whole cell of a lattice.
    pub const fn whole(lattice: LatticeShape) -> CellShape {
        match lattice {
            LatticeShape::Square => CellShape::SQUARE,
        }
    }

    /// Returns a floor that stands so high at the left and at the right side of its cell, 0 to 1: a
    /// slope, or with two equal heights a low wall.
    ///
    /// # Errors
    /// A height outside 0 to 1, and a floor that is too low.
    pub fn floor(left: f64, right: f64) -> Result<CellShape, CellShapeError> {
        CellShape::polygon([(0.0, 1.0 - left), (1.0, 1.0 - right), (1.0, 1.0), (0.0, 1.0)])
    }

    /// Returns a ceiling that hangs so far down at the left and at the right side of its cell, 0 to
    /// 1.
    ///
    /// # Errors
    /// A length outside 0 to 1, and a ceiling that is too thin.
    pub fn ceiling(left: f64, right: f64) -> Result<CellShape, CellShapeError> {
        CellShape::polygon([(0.0, 0.0), (1.0, 0.0), (1.0, right), (0.0, left)])
    }

    /// Returns an upright rectangle, by its left, upper, right and lower edge: a post, or a wall.
    ///
    /// # Errors
    /// An edge outside 0 to 1, and a rectangle that is too thin.
    pub fn area(left: f64, top: f64, right: f64, bottom: f64) -> Result<CellShape, CellShapeError> {
        CellShape::polygon([(left, top), (right, top), (right, bottom), (left, bottom)])
    }

    /// Returns a convex polygon by its corners, in either direction. A corner that lies on the line
    /// between its neighbours is left out.
    ///
    /// # Errors
    /// Corners outside the cell, a shape that bends inwards, is too thin, or has too few or too
    /// many corners.
    pub fn polygon(
        corners: impl IntoIterator<Item = (f64, f64)>,
    ) -> Result<CellShape, CellShapeError> {
        let mut corners: Vec<(f64, f64)> = corners.into_iter().collect();
        let stated = corners.len();
        if !(3..=4 * CellShape::MAX_CORNERS).contains(&stated) {
            return Err(CellShapeError::Count { count: stated });
        }
        let is_within = |(x, y): &(f64, f64)| (0.0..=1.0).contains(x) && (0.0..=1.0).contains(y);
        if let Some((x, y)) = corners.iter().find(|corner| !is_within(corner)) {
            return Err(CellShapeError::Outside { x: *x, y: *y });
        }
        let on_net = CellShape::on_net;
        corners.iter_mut().for_each(|(x, y)| (*x, *y) = (on_net(*x), on_net(*y)));
        straighten(&mut corners);
        let bends = |at: usize| bend(&corners, at);
        let turns: f64 = (0..corners.len()).map(bends).sum();
        if corners.len() < 3 {
            return Err(CellShapeError::Thin);
        }
        if let Some(at) = (0..corners.len()).find(|at| bends(*at) * turns < 0.0) {
            let (x, y) = corners[at];
            return Err(CellShapeError::Concave { x, y });
        }
        if turns < 0.0 {
            corners.reverse();
        }
        if winds_more_than_once(&corners) {
            let (x, y) = corners[0];
            return Err(CellShapeError::Concave { x, y });
        }
        if corners.len() > CellShape::MAX_CORNERS {
            return Err(CellShapeError::Count { count: corners.len() });
        }
        let shape = CellShape::of_clockwise(&corners);
        if shape.least_width() < CellShape::MIN_WIDTH {
            Err(CellShapeError::Thin)
        } else {
            Ok(shape)
        }
    }

    /// The shape of corners that are convex and clockwise as they are seen, but for rounding; `None`
    /// where it is too thin.
    pub(crate) fn of_convex(corners: &[(f64, f64)]) -> Option<CellShape> {
        let on_net = |&(x, y): &(f64, f64)| (CellShape::on_net(x), CellShape::on_net(y));
        let mut corners: Vec<(f64, f64)> = corners.iter().map(on_net).collect();
        straighten(&mut corners);
        if !(3..=CellShape::MAX_CORNERS).contains(&corners.len()) {
            return None;
        }
        let shape = CellShape::of_clockwise(&corners);
        (shape.least_width() >= CellShape::MIN_WIDTH).then_some(shape)
    }

    /// The nearest number of the net of 2⁻²⁴ to which corners are kept; a zero of either sign
    /// becomes a plain one.
    pub(crate) fn on_net(part: f64) -> f64 {
        const STEPS: f64 = 16_777_216.0;
        (part * STEPS).round() / STEPS + 0.0
    }

    /// The shape of corners that are known to be right but for where they begin.
    fn of_clockwise(corners: &[(f64, f64)]) -> CellShape {
        let first = uppermost(corners.iter().copied());
        let mut held = [(0.0, 0.0); CellShape::MAX_CORNERS];
        for (at, held) in held.iter_mut().enumerate().take(corners.len()) {
            *held = corners[(first + at) % corners.len()];
        }
        CellShape { corners: held, count: corners.len() as u8 }
    }
}

// Ask.
impl CellShape {
    /// Returns the corners, clockwise.
    pub fn corners(&self) -> &[(f64, f64)] {
        &self.corners[..usize::from(self.count)]
    }

    /// Returns the shape as it lies in a cell whose tile is turned.
    #[must_use]
    pub fn turned(&self, turn: Turn) -> CellShape {
        let there = |(x, y): (f64, f64)| {
            let x = if turn.is_mirrored() { 1.0 - x } else { x };
            match turn.steps() % 4 {
                0 => (x, y),
                1 => (1.0 - y, x),
                2 => (1.0 - x, 1.0 - y),
                _ => (y, 1.0 - x),
            }
        };
        let mut corners: Vec<(f64, f64)> = self.corners().iter().copied().map(there).collect();
        if turn.is_mirrored() {
            corners.reverse();
        }
        CellShape::of_clockwise(&corners)
    }

    /// Returns what it covers of a side of its cell, in parts of that from the left or from above;
    /// `None` where that is not more than a corner.
    pub fn cover(&self, side: Side) -> Option<(f64, f64)> {
        let on_side = self.corners().iter().filter_map(|&(x, y)| match side {
            Side::Top => (y == 0.0).then_some(x),
            Side::Bottom => (y == 1.0).then_some(x),
            Side::Left => (x == 0.0).then_some(y),
            Side::Right => (x == 1.0).then_some(y),
        });
        let ends = on_side.fold((f64::INFINITY, f64::NEG_INFINITY), |(low, high), at| {
            (low.min(at), high.max(at))
        });
        (ends.0 < ends.1).then_some(ends)
    }

    /// The edges, clockwise, each with the side of the cell in which it lies, if it does.
    pub(crate) fn edges(&self) -> impl Iterator<Item = ((f64, f64), (f64, f64), Option<Side>)> {
        pairs(self.corners()).map(|(from, to)| {
            let side = match (from, to) {
                ((_, 0.0), (_, 0.0)) => Some(Side::Top),
                ((_, 1.0), (_, 1.0)) => Some(Side::Bottom),
                ((0.0, _), (0.0, _)) => Some(Side::Left),
                ((1.0, _), (1.0, _)) => Some(Side::Right),
                _ => None,
            };
            (from, to, side)
        })
    }

    /// Returns the heights of the floor that it is, see [`CellShape::floor`].
    pub fn as_floor(&self) -> Option<(f64, f64)> {
        self.sides(|y| 1.0 - y, CellShape::floor)
    }

    /// Returns the lengths of the ceiling that it is, see [`CellShape::ceiling`].
    pub fn as_ceiling(&self) -> Option<(f64, f64)> {
        self.sides(|y| y, CellShape::ceiling)
    }

    /// Returns the edges of the upright rectangle that it is: left, upper, right, lower.
    pub fn as_area(&self) -> Option<[f64; 4]> {
        let [(left, top), .., (right, bottom), _] = *self.corners() else { return None };
        (CellShape::area(left, top, right, bottom).as_ref() == Ok(self))
            .then_some([left, top, right, bottom].map(shortest))
    }

    /// The corners, each by the shortest numbers that give it.
    pub(crate) fn stated_corners(&self) -> impl Iterator<Item = (f64, f64)> {
        self.corners().iter().map(|(x, y)| (shortest(*x), shortest(*y)))
    }

    /// How far it reaches at the left and the right side, where that makes this shape.
    fn sides(
        &self,
        reach: impl Fn(f64) -> f64,
        make: impl Fn(f64, f64) -> Result<CellShape, CellShapeError>,
    ) -> Option<(f64, f64)> {
        let at = |side: f64| {
            let corners = self.corners().iter().filter(|(x, _)| *x == side);
            shortest(corners.map(|(_, y)| reach(*y)).fold(0.0, f64::max))
        };
        let (left, right) = (at(0.0), at(1.0));
        (make(left, right).as_ref() == Ok(self)).then_some((left, right))
    }

    /// The width across the edge where it is least.
    fn least_width(&self) -> f64 {
        let corners = self.corners();
        let width = |(a, b): ((f64, f64), (f64, f64))| {
            let length = WorldVec::new(b.0 - a.0, b.1 - a.1).length();
            corners.iter().map(|c| cross(a, b, *c) / length).fold(0.0, f64::max)
        };
        pairs(corners).map(width).fold(f64::INFINITY, f64::min)
    }
}

/// Takes out the corners that lie on the line between their neighbours.
fn straighten(corners: &mut Vec<(f64, f64)>) {
    while let Some(at) = (0..corners.len()).find(|at| bend(corners, *at).abs() < ROUNDING) {
        corners.remove(at);
    }
}

/// The number with the fewest decimals that gives a number of the net.
fn shortest(part: f64) -> f64 {
    let rounded = |digits: i32| (part * 10_f64.powi(digits)).round() / 10_f64.powi(digits);
    (0..9).map(rounded).find(|rounded| CellShape::on_net(*rounded) == part).unwrap_or(part)
}

/// How far a polygon bends at a corner, more than 0 where it turns clockwise as it is seen.
fn bend(corners: &[(f64, f64)], at: usize) -> f64 {
    let count = corners.len();
    cross(corners[(at + count - 1) % count], corners[at], corners[(at + 1) % count])
}

fn cross(a: (f64, f64), b: (f64, f64), c: (f64, f64)) -> f64 {
    (b.0 - a.0) * (c.1 - b.1) - (b.1 - a.1) * (c.0 - b.0)
}

/// Whether corners that all bend the same way go round more than once, as those of a star do: then
/// the direction of the edges comes down from rising more than once.
fn winds_more_than_once(corners: &[(f64, f64)]) -> bool {
    let count = corners.len();
    let rises = |at: usize| {
        let (a, b) = (corners[at % count], corners[(at + 1) % count]);
        b.1 < a.1 || (b.1 == a.1 && b.0 < a.0)
    };
    (0..count).filter(|at| rises(*at) && !rises(at + 1)).count() > 1
}
