//! The shape and size of the cells in the world, and all conversion between cells and world.

mod square;

pub(crate) use square::Axis;

use crate::units::{CellPos, CellRect, WorldPoint, WorldRect};

/// The shape and size of cells in the world.
///
/// ```
/// use sturdy_quilt::{CellPos, Lattice, WorldPoint};
///
/// let lattice = Lattice::square(16.0, 24.0)?;
/// assert_eq!(lattice.cell_at(WorldPoint::new(40.0, -0.5)), CellPos::new(2, -1));
/// assert_eq!(lattice.center(CellPos::new(2, -1)), WorldPoint::new(40.0, -12.0));
/// # Ok::<(), sturdy_quilt::lattice::LatticeError>(())
/// ```
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Lattice {
    shape: LatticeShape,
    columns: Axis,
    rows: Axis,
}

impl Default for Lattice {
    /// Square cells of 16 × 16 units.
    fn default() -> Lattice {
        let lines = Axis::new(16.0);
        Lattice { shape: LatticeShape::Square, columns: lines, rows: lines }
    }
}

/// The shape of the cells of a [`Lattice`].
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Hash)]
#[non_exhaustive]
pub enum LatticeShape {
    /// Upright rectangles in rows and columns.
    #[default]
    Square,
}

impl LatticeShape {
    /// Returns the word that names it in files.
    pub const fn name(self) -> &'static str {
        match self {
            LatticeShape::Square => "square",
        }
    }
}

/// A point of a cell.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Hash)]
#[non_exhaustive]
pub enum Anchor {
    /// Its middle.
    #[default]
    Center,
    /// Where things that stand in it touch the ground, see [`Lattice::foot`].
    Foot,
    /// The upper left corner of the rectangle around it.
    TopLeft,
}

/// The error of a lattice that cannot be made.
#[derive(Clone, Debug, PartialEq, thiserror::Error)]
#[non_exhaustive]
pub enum LatticeError {
    /// A side of the cell is not a number, or is out of range.
    #[error(
        "a cell of {width} × {height} units: each side must lie between {} and {}",
        Lattice::MIN_SIDE,
        Lattice::MAX_SIDE
    )]
    CellSize {
        /// The width that was asked for.
        width: f64,
        /// The height that was asked for.
        height: f64,
    },
}

impl Lattice {
    /// The least width or height of a cell in world units.
    pub const MIN_SIDE: f64 = 1.0 / 1024.0;
    /// The greatest width or height of a cell in world units: with it, the corner of every cell
    /// is still exact to less than a hundredth of a unit.
    pub const MAX_SIDE: f64 = 65536.0;

    /// Returns a lattice of upright cells of `width` × `height` world units in rows and columns;
    /// cell 0,0 has its top left corner at the origin of the world.
    ///
    /// # Errors
    /// A side that is not a number between [`Lattice::MIN_SIDE`] and [`Lattice::MAX_SIDE`].
    pub fn square(width: f64, height: f64) -> Result<Lattice, LatticeError> {
        let valid = |side: f64| (Self::MIN_SIDE..=Self::MAX_SIDE).contains(&side);
        if !valid(width) || !valid(height) {
            return Err(LatticeError::CellSize { width, height });
        }
        let (columns, rows) = (Axis::new(width), Axis::new(height));
        Ok(Lattice { shape: LatticeShape::Square, columns, rows })
    }

    /// Returns the shape of the cells.
    pub const fn shape(&self) -> LatticeShape {
        self.shape
    }

    /// Returns the width of a cell in world units.
    pub const fn cell_width(&self) -> f64 {
        self.columns.side()
    }

    /// Returns the height of a cell in world units.
    pub const fn cell_height(&self) -> f64 {
        self.rows.side()
    }

    /// Returns the cell at a place in the world; on square cells the one whose [`Lattice::bounds`]
    /// hold it.
    ///
    /// A place on the edge between two cells belongs to the right or the lower one. Places beyond
    /// the outermost cells give the nearest of them; a coordinate that is not a number counts
    /// as 0.
    #[inline]
    pub fn cell_at(&self, place: WorldPoint) -> CellPos {
        match self.shape {
            LatticeShape::Square => square::cell_at(self, place),
        }
    }

    /// Returns the rectangle around a cell in the world, half-open as the cell itself. Neighbours
    /// share their edges to the last bit.
    pub fn bounds(&self, cell: CellPos) -> WorldRect {
        self.rect_bounds(CellRect::of_cell(cell))
    }

    /// Returns the rectangle around a rectangle of cells in the world.
    pub fn rect_bounds(&self, rect: CellRect) -> WorldRect {
        match self.shape {
            LatticeShape::Square => square::rect_bounds(self, rect),
        }
    }

    /// Returns the middle of a cell in the world.
    pub fn center(&self, cell: CellPos) -> WorldPoint {
        self.bounds(cell).center()
    }

    /// Returns the place where things that stand in a cell touch the ground: the middle of its
    /// lower edge. Rows are sorted by it.
    pub fn foot(&self, cell: CellPos) -> WorldPoint {
        WorldPoint::new(self.bounds(cell).center().x, self.foot_y(cell.y()))
    }

    /// The y of the feet of a row.
    #[inline]
    pub(crate) fn foot_y(&self, row: i32) -> f64 {
        match self.shape {
            LatticeShape::Square => self.rows.edge(i64::from(row) + 1),
        }
    }

    /// Returns a point of a cell in the world.
    pub fn anchor(&self, cell: CellPos, anchor: Anchor) -> WorldPoint {
        match anchor {
            Anchor::Center => self.center(cell),
            Anchor::Foot => self.foot(cell),
            Anchor::TopLeft => self.bounds(cell).min(),
        }
    }

    /// Returns the smallest rectangle of cells that holds every cell which shares a point with
    /// `area`.
    ///
    /// ```
    /// use sturdy_quilt::{CellPos, CellRect, Lattice, WorldPoint, WorldRect};
    ///
    /// let lattice = Lattice::square(16.0, 16.0)?;
    /// let area = WorldRect::between(WorldPoint::new(-1.0, 0.0), WorldPoint::new(16.0, 16.0));
    /// assert_eq!(lattice.cells_in(area), CellRect::new(CellPos::new(-1, 0), 2, 1));
    /// # Ok::<(), sturdy_quilt::lattice::LatticeError>(())
    /// ```
    pub fn cells_in(&self, area: WorldRect) -> CellRect {
        if area.is_empty() {
            return CellRect::EMPTY;
        }
        match self.shape {
            LatticeShape::Square => square::cells_in(self, area),
        }
    }

    /// Returns the cells that share an edge with `cell`, clockwise from the upper one; those beyond
    /// the limits of [`CellPos`] are left out.
    pub fn neighbors(&self, cell: CellPos) -> impl Iterator<Item = CellPos> + use<> {
        let ways = match self.shape {
            LatticeShape::Square => square::NEIGHBORS,
        };
        ways.into_iter().filter_map(move |way| cell.checked_add(way))
    }

    /// The lattice of a map that is turned by quarters: columns and rows change places, or not.
    pub(crate) const fn swapped(mut self, swaps: bool) -> Lattice {
        if swaps {
            (self.columns, self.rows) = (self.rows, self.columns);
        }
        self
    }

    /// The edges of square cells in each direction, as numbers that may lie beyond all cells.
    pub(crate) const fn columns(&self) -> Axis {
        self.columns
    }

    /// As [`Lattice::columns`], downwards.
    pub(crate) const fn rows(&self) -> Axis {
        self.rows
    }
}
