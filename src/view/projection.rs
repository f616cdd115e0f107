//! The projection: how the flat ground is seen.
//!
//! Between ground and pane lies a linear map. With (u, v) a place in cells, turned by the facing, a
//! diamond of W × H shows it at `x = (u − v)·W/2`, `y = (u + v)·H/2 − lift·elevation`, and back at
//! an elevation e: `s = (y + lift·e)/(H/2)`, `t = x/(W/2)`, `u = (s + t)/2`, `v = (s − t)/2`. From
//! straight above, x and y are those of the ground, turned by the facing.

use std::fmt;

use super::facing::Facing;
use crate::lattice::Lattice;
use crate::units::{
    CellPos, CellRect, PanePoint, PaneRect, PaneVec, WorldPoint, WorldRect, WorldVec,
};

/// The way in which the flat ground is seen: from straight above, or as diamonds at a slant, from
/// one of four facings.
///
/// A map states one (see [`Quilt::projection`](crate::Quilt::projection)), and a
/// [`View`](crate::View) carries one. It changes what is seen, never where things are: cells, ground
/// and markers are the same under each.
///
/// ```
/// use sturdy_quilt::units::PanePoint;
/// use sturdy_quilt::view::{Facing, Projection};
/// use sturdy_quilt::{Lattice, WorldPoint};
///
/// let lattice = Lattice::square(16.0, 16.0)?;
/// let diamond = Projection::diamond(&lattice, 64, 32)?;
/// // The middle of cell 1,0 lies one half diamond to the right of that of cell 0,0, and one down.
/// assert_eq!(diamond.to_pane(WorldPoint::new(24.0, 8.0), 0.0), PanePoint::new(32.0, 32.0));
/// // What stands 10 units above the ground is seen 10 picture pixels higher.
/// assert_eq!(diamond.to_pane(WorldPoint::new(24.0, 8.0), 10.0), PanePoint::new(32.0, 22.0));
/// let turned = diamond.with_facing(Facing::new(1));
/// assert_eq!(turned.to_pane(WorldPoint::new(24.0, 8.0), 0.0), PanePoint::new(-64.0, 16.0));
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Projection {
    kind: ProjectionKind,
    /// The sides of a cell on the ground that is shown as a diamond.
    cell: (f64, f64),
    facing: Facing,
    lift: f64,
}

/// A kind of [`Projection`].
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Hash)]
#[non_exhaustive]
pub enum ProjectionKind {
    /// From straight above, or from the side: a world unit of the ground is a picture pixel.
    #[default]
    Flat,
    /// At a slant: each cell is a diamond, wider than high as a rule. Isometric maps in the sense of
    /// games have diamonds twice as wide as high.
    Diamond {
        /// The width of the diamond of a cell in picture pixels, even.
        width_px: u32,
        /// Its height in picture pixels, even.
        height_px: u32,
    },
}

impl ProjectionKind {
    /// Returns the word that names it in files.
    pub const fn name(self) -> &'static str {
        match self {
            ProjectionKind::Flat => "flat",
            ProjectionKind::Diamond { .. } => "diamond",
        }
    }
}

/// The error of a projection that cannot be made.
#[derive(Clone, Debug, PartialEq, thiserror::Error)]
#[non_exhaustive]
pub enum ProjectionError {
    /// A side of the diamond is odd, or out of range.
    #[error(
        "a diamond of {width_px} × {height_px} pixels: each side must be an even number from 2 to {}",
        Projection::MAX_DIAMOND_PX
    )]
    DiamondSize {
        /// The width that was asked for.
        width_px: u32,
        /// The height that was asked for.
        height_px: u32,
    },
    /// The lift is not a number, or out of range.
    #[error("a lift of {0} pixels per world unit: it must lie between 0 and {max}", max = Projection::MAX_LIFT)]
    Lift(f64),
}

impl fmt::Display for Projection {
    /// In words, for example `as diamonds of 64 × 32 px, turned by 90°`.
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self.kind {
            ProjectionKind::Flat => f.write_str("from above")?,
            ProjectionKind::Diamond { width_px, height_px } => {
                write!(f, "as diamonds of {width_px} × {height_px} px")?;
            }
        }
        match self.facing.quarters() {
            0 => Ok(()),
            quarters => write!(f, ", turned by {}°", u32::from(quarters) * 90),
        }
    }
}

impl Default for Projection {
    /// [`Projection::FLAT`].
    fn default() -> Projection {
        Projection::FLAT
    }
}

// Make.
impl Projection {
    /// From straight above, the map not turned.
    pub const FLAT: Projection = Projection {
        kind: ProjectionKind::Flat,
        cell: (1.0, 1.0),
        facing: Facing::UNTURNED,
        lift: 1.0,
    };

    /// The greatest width and height of a diamond in picture pixels.
    pub const MAX_DIAMOND_PX: u32 = 4096;

    /// The greatest lift in picture pixels per world unit.
    pub const MAX_LIFT: f64 = 1024.0;

    /// Returns the projection that shows each cell of a lattice as a diamond of so many picture
    /// pixels.
    ///
    /// # Errors
    /// A width or height that is odd, less than 2, or more than [`Projection::MAX_DIAMOND_PX`].
    pub const fn diamond(
        lattice: &Lattice,
        width_px: u32,
        height_px: u32,
    ) -> Result<Projection, ProjectionError> {
        let (width, height) = (width_px, height_px);
        let is_even = width.is_multiple_of(2) && height.is_multiple_of(2);
        let fits = width <= Self::MAX_DIAMOND_PX && height <= Self::MAX_DIAMOND_PX;
        if !is_even || !fits || width == 0 || height == 0 {
            return Err(ProjectionError::DiamondSize { width_px, height_px });
        }
        let kind = ProjectionKind::Diamond { width_px, height_px };
        let cell = (lattice.cell_width(), lattice.cell_height());
        Ok(Projection { kind, cell, ..Projection::FLAT })
    }

    /// Returns this projection, seen from another side.
    #[must_use]
    pub const fn with_facing(mut self, facing: Facing) -> Projection {
        self.facing = facing;
        self
    }

    /// Returns this projection with another lift: how many picture pixels higher a thing is seen for
    /// each world unit of its elevation. 1 if nothing is stated.
    ///
    /// # Errors
    /// A lift that is not a number between 0 and [`Projection::MAX_LIFT`].
    pub const fn with_lift(mut self, lift: f64) -> Result<Projection, ProjectionError> {
        if !(lift >= 0.0 && lift <= Self::MAX_LIFT) {
            return Err(ProjectionError::Lift(lift));
        }
        self.lift = lift;
        Ok(self)
    }
}

// Read.
impl Projection {
    /// Returns its kind.
    pub const fn kind(&self) -> ProjectionKind {
        self.kind
    }

    /// Returns the side from which the map is seen.
    pub const fn facing(&self) -> Facing {
        self.facing
    }

    /// Returns the lift in picture pixels per world unit of elevation.
    pub const fn lift(&self) -> f64 {
        self.lift
    }

    /// Returns whether the ground is seen at a slant.
    pub const fn is_slanted(&self) -> bool {
        !matches!(self.kind, ProjectionKind::Flat)
    }

    /// Returns whether it is made for the cells of a lattice. One from above fits every lattice.
    pub fn fits(&self, lattice: &Lattice) -> bool {
        !self.is_slanted() || self.cell == (lattice.cell_width(), lattice.cell_height())
    }

    /// Half of the width and height of a diamond; `None` from above.
    #[inline]
    pub(crate) const fn half_diamond(&self) -> Option<(u32, u32)> {
        match self.kind {
            ProjectionKind::Flat => None,
            ProjectionKind::Diamond { width_px, height_px } => Some((width_px / 2, height_px / 2)),
        }
    }

    /// The same projection of a map that is turned already.
    pub(crate) const fn unturned(mut self) -> Projection {
        if self.facing.swaps() {
            self.cell = (self.cell.1, self.cell.0);
        }
        self.facing = Facing::UNTURNED;
        self
    }
}

// Convert.
impl Projection {
    /// Returns where a place on the ground, or so many world units above it, shows on the pane.
    #[inline]
    pub const fn to_pane(&self, place: WorldPoint, elevation: f64) -> PanePoint {
        let (x, y) = self.project((place.x, place.y));
        PanePoint::new(x, y - self.lift * elevation)
    }

    /// Returns the place that shows at a place on the pane, so many world units above the ground.
    #[inline]
    pub const fn to_world(&self, place: PanePoint, elevation: f64) -> WorldPoint {
        let (x, y) = self.unproject((place.x, place.y + self.lift * elevation));
        WorldPoint::new(x, y)
    }

    /// Returns how a way along the ground shows on the pane.
    #[inline]
    pub const fn way_to_pane(&self, way: WorldVec) -> PaneVec {
        let (x, y) = self.project((way.x, way.y));
        PaneVec::new(x, y)
    }

    /// Returns the way along the ground that shows as a way on the pane: which way is "right".
    ///
    /// ```
    /// use sturdy_quilt::units::PaneVec;
    /// use sturdy_quilt::view::Projection;
    /// use sturdy_quilt::{Lattice, WorldVec};
    ///
    /// let diamond = Projection::diamond(&Lattice::square(16.0, 16.0)?, 64, 32)?;
    /// assert_eq!(diamond.way_to_world(PaneVec::new(64.0, 0.0)), WorldVec::new(16.0, -16.0));
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    #[inline]
    pub const fn way_to_world(&self, way: PaneVec) -> WorldVec {
        let (x, y) = self.unproject((way.x, way.y));
        WorldVec::new(x, y)
    }

    /// Returns the corners of an area of the ground on the pane, in the order of the corners on the
    /// ground: top left, top right, bottom right, bottom left.
    pub fn outline(&self, area: WorldRect, elevation: f64) -> [PanePoint; 4] {
        let (min, max) = (area.min(), area.max());
        [(min.x, min.y), (max.x, min.y), (max.x, max.y), (min.x, max.y)]
            .map(|(x, y)| self.to_pane(WorldPoint::new(x, y), elevation))
    }

    /// Returns the smallest upright rectangle on the pane around an area of the ground.
    pub fn around(&self, area: WorldRect, elevation: f64) -> PaneRect {
        PaneRect::around(self.outline(area, elevation))
    }

    /// Returns the smallest rectangle on the ground around what shows in a part of the pane, so many
    /// world units above the ground.
    pub fn ground_around(&self, area: PaneRect, elevation: f64) -> WorldRect {
        let (min, max) = (area.min(), area.max());
        let corners = [(min.x, min.y), (max.x, min.y), (max.x, max.y), (min.x, max.y)];
        WorldRect::around(corners.map(|(x, y)| self.to_world(PanePoint::new(x, y), elevation)))
    }

    /// Returns the cells that show in a part of the pane, a run of each row, from the top row to the
    /// bottom one: those that share more than an edge with it.
    ///
    /// For pictures that reach beyond their cells, grow the area by how far they do:
    /// [`PaneRect::grown`]. Costs as many steps as rows are in view, however large the map.
    ///
    /// ```
    /// use sturdy_quilt::units::{PanePoint, PaneRect};
    /// use sturdy_quilt::view::Projection;
    /// use sturdy_quilt::{CellPos, CellRect, Lattice};
    ///
    /// let lattice = Lattice::square(16.0, 16.0)?;
    /// let diamond = Projection::diamond(&lattice, 64, 32)?;
    /// let area = PaneRect::between(PanePoint::new(-1.0, 8.0), PanePoint::new(1.0, 40.0));
    /// let rows: Vec<CellRect> = diamond.cells_in(&lattice, area).collect();
    /// assert_eq!(rows, [
    ///     CellRect::new(CellPos::new(0, 0), 2, 1),
    ///     CellRect::new(CellPos::new(0, 1), 2, 1),
    /// ]);
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    pub fn cells_in(
        &self,
        lattice: &Lattice,
        area: PaneRect,
    ) -> impl Iterator<Item = CellRect> + use<> {
        let slanted = self.half_diamond().map(|half| self.sheared(area, half));
        let upright = match slanted {
            Some(_) => CellRect::EMPTY,
            None => lattice.cells_in(self.ground_around(area, 0.0)),
        };
        let (top, bottom) = match slanted {
            Some(area) => area.rows(),
            None => (upright.top().into(), upright.bottom().into()),
        };
        (top..bottom).filter_map(move |row| {
            let (left, right) = match slanted {
                Some(area) => area.columns(row),
                None => (upright.left().into(), upright.right().into()),
            };
            let last = CellPos::checked(right - 1, row)?;
            Some(CellRect::between(CellPos::checked(left, row)?, last)).filter(|_| left < right)
        })
    }

    /// An area of the pane in cells.
    fn sheared(&self, area: PaneRect, (width, height): (u32, u32)) -> Sheared {
        let (width, height) = (f64::from(width), f64::from(height));
        let (min, max) = (area.min(), area.max());
        let (s, t) = ((min.y / height, max.y / height), (min.x / width, max.x / width));
        let negative = |(from, to): (f64, f64)| (-to, -from);
        let (sum, difference) = match self.facing.quarters() {
            0 => (s, t),
            1 => (negative(t), s),
            2 => (negative(s), negative(t)),
            _ => (t, negative(s)),
        };
        Sheared { sum, difference, is_empty: area.is_empty() }
    }

    /// The linear map from the ground to the pane.
    #[inline]
    const fn project(&self, (x, y): (f64, f64)) -> (f64, f64) {
        match self.half_diamond() {
            None => self.facing.turn((x, y)),
            Some((width, height)) => {
                let (u, v) = self.facing.turn((x / self.cell.0, y / self.cell.1));
                ((u - v) * width as f64, (u + v) * height as f64)
            }
        }
    }

    /// The linear map back.
    #[inline]
    const fn unproject(&self, (x, y): (f64, f64)) -> (f64, f64) {
        match self.half_diamond() {
            None => self.facing.reversed().turn((x, y)),
            Some((width, height)) => {
                let (s, t) = (y / height as f64, x / width as f64);
                let (u, v) = self.facing.reversed().turn(((s + t) / 2.0, (s - t) / 2.0));
                (u * self.cell.0, v * self.cell.1)
            }
        }
    }
}

/// An upright rectangle of the pane on the ground, which is seen at a slant: the places (u, v), in
/// cells, whose sum and difference lie between two numbers each.
#[derive(Clone, Copy, Debug)]
struct Sheared {
    sum: (f64, f64),
    difference: (f64, f64),
    is_empty: bool,
}

impl Sheared {
    /// The rows that it touches: from the first up to, but not with, the second.
    fn rows(&self) -> (i64, i64) {
        if self.is_empty {
            return (0, 0);
        }
        let from = (self.sum.0 - self.difference.1) / 2.0;
        let to = (self.sum.1 - self.difference.0) / 2.0;
        within_limits((from.floor(), to.ceil()))
    }

    /// The columns that it touches in a row.
    fn columns(&self, row: i64) -> (i64, i64) {
        let (first, last) = (row as f64, (row + 1) as f64);
        // Its left end is where two falling and rising edges meet, or the nearest place of the row
        // to that; likewise its right end.
        let left = ((self.sum.0 - self.difference.0) / 2.0).clamp(first, last);
        let right = ((self.sum.1 - self.difference.1) / 2.0).clamp(first, last);
        let from = (self.sum.0 - left).max(self.difference.0 + left);
        let to = (self.sum.1 - right).min(self.difference.1 + right);
        within_limits((from.floor(), to.ceil()))
    }
}

/// Columns or rows, as far as there are any.
fn within_limits((from, end): (f64, f64)) -> (i64, i64) {
    let limits = (i64::from(CellPos::MIN), i64::from(CellPos::MAX) + 1);
    ((from as i64).max(limits.0), (end as i64).min(limits.1))
}
