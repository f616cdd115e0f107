use std::ops::Deref;
use std::sync::Arc;

use serde_json::Value;

use super::outline;
use crate::lattice::Lattice;
use crate::units::{CellPos, CellRect, WorldPoint, WorldRect, polygon_holds};

/// A named place of a map, a point, an area or a path, with data of the game's own.
///
/// ```
/// use sturdy_quilt::{CellPos, Marker};
///
/// let gate = Marker::cell("gate", CellPos::new(3, 4)).with_kind("door");
/// assert_eq!((gate.name(), gate.kind()), ("gate", Some("door")));
/// ```
#[derive(Clone, Debug, PartialEq)]
pub struct Marker {
    name: Arc<str>,
    place: MarkerPlace,
    kind: Option<Arc<str>>,
    ground: Option<Arc<str>>,
    data: Value,
}

/// The place of a marker.
#[derive(Clone, Debug, PartialEq)]
#[non_exhaustive]
pub enum MarkerPlace {
    /// In one cell.
    Cell(CellPos),
    /// At a point of the world.
    Point(WorldPoint),
    /// Over a rectangle of cells.
    Area(CellRect),
    /// Along straight lines from point to point of the world; at least two.
    Path(Arc<[WorldPoint]>),
    /// Inside a closed line from point to point of the world, and from the last to the first; at
    /// least three.
    Polygon(Arc<[WorldPoint]>),
}

impl MarkerPlace {
    /// Whether a marker can be there: an area has a cell, a path two points and a polygon three, and
    /// all numbers are finite.
    pub(crate) fn is_valid(&self) -> bool {
        let (points, least) = match self {
            MarkerPlace::Cell(_) => return true,
            MarkerPlace::Area(area) => return !area.is_empty(),
            MarkerPlace::Point(point) => (std::slice::from_ref(point), 1),
            MarkerPlace::Path(points) => (&**points, 2),
            MarkerPlace::Polygon(points) => (&**points, 3),
        };
        points.len() >= least && points.iter().all(|point| point.is_finite())
    }
}

impl Marker {
    /// Returns a marker of any place.
    pub fn new(name: impl Into<Arc<str>>, place: MarkerPlace) -> Marker {
        Marker { name: name.into(), place, kind: None, ground: None, data: Value::Null }
    }

    /// Returns a marker in one cell.
    pub fn cell(name: impl Into<Arc<str>>, cell: CellPos) -> Marker {
        Marker::new(name, MarkerPlace::Cell(cell))
    }

    /// Returns a marker at a point of the world.
    pub fn point(name: impl Into<Arc<str>>, point: WorldPoint) -> Marker {
        Marker::new(name, MarkerPlace::Point(point))
    }

    /// Returns a marker over a rectangle of cells.
    pub fn area(name: impl Into<Arc<str>>, area: CellRect) -> Marker {
        Marker::new(name, MarkerPlace::Area(area))
    }

    /// Returns a marker along straight lines from point to point of the world.
    pub fn path(name: impl Into<Arc<str>>, points: impl IntoIterator<Item = WorldPoint>) -> Marker {
        Marker::new(name, MarkerPlace::Path(points.into_iter().collect()))
    }

    /// Returns a marker over the inside of a closed line from point to point of the world.
    pub fn polygon(
        name: impl Into<Arc<str>>,
        points: impl IntoIterator<Item = WorldPoint>,
    ) -> Marker {
        Marker::new(name, MarkerPlace::Polygon(points.into_iter().collect()))
    }

    setters! {
        /// Returns this marker with a kind, by which the game tells workers from doors.
        with_kind(kind: some into Arc<str>);

        /// Returns this marker, saying of which ground class the cells are that it covers. Only one
        /// cell, an area or a polygon can, see [`Marker::MAX_GROUND_CELLS`].
        ///
        /// Markers speak before layers, but for those that speak first
        /// ([`Grounds::First`](super::Grounds::First)); of several that cover a cell the last.
        ///
        /// ```
        /// use sturdy_quilt::{CellPos, CellRect, GroundMap, Marker};
        /// # let mut quilt = sturdy_quilt::doc_quilt();
        ///
        /// let bed = Marker::area("bed", CellRect::new(CellPos::new(0, 0), 2, 2)).with_ground("stone");
        /// quilt.edit("fence a bed in", |pen| pen.put_marker(bed))?;
        /// assert!(GroundMap::of(&quilt).blocked(quilt.mover("walker")?, CellPos::new(1, 1)));
        /// # Ok::<(), Box<dyn std::error::Error>>(())
        /// ```
        with_ground(ground: some into Arc<str>);

        /// Returns this marker with data.
        with_data(data: Value);
    }

    /// Returns its name, which no other marker of its map has.
    pub fn name(&self) -> &str {
        &self.name
    }

    pub(super) fn set_name(&mut self, name: Arc<str>) {
        self.name = name;
    }

    pub(crate) const fn shared_name(&self) -> &Arc<str> {
        &self.name
    }

    /// Returns its place as it was stated.
    pub const fn stated_place(&self) -> &MarkerPlace {
        &self.place
    }

    /// Returns its kind, where it has one.
    pub fn kind(&self) -> Option<&str> {
        self.kind.as_deref()
    }

    /// Returns the ground class of the cells that it covers, where it states one.
    pub fn ground(&self) -> Option<&str> {
        self.ground.as_deref()
    }

    /// The most cells that the rectangle around a marker may have which states their ground:
    /// 4096 × 4096.
    pub const MAX_GROUND_CELLS: u64 = 1 << 24;

    /// Returns its data; `null` where nothing is stated.
    pub const fn data(&self) -> &Value {
        &self.data
    }
}

/// A marker of a map, with its place in cells and in the world. It gives all of [`Marker`] too.
#[derive(Clone, Copy, Debug)]
pub struct PlacedMarker<'a> {
    marker: &'a Marker,
    lattice: &'a Lattice,
}

impl<'a> PlacedMarker<'a> {
    pub(crate) fn new(marker: &'a Marker, lattice: &'a Lattice) -> PlacedMarker<'a> {
        PlacedMarker { marker, lattice }
    }

    /// Returns the marker itself.
    pub const fn marker(&self) -> &'a Marker {
        self.marker
    }

    /// Returns the point in the world: the middle of a cell or an area, the first point of a path,
    /// the middle of the rectangle around a polygon.
    pub fn place(&self) -> WorldPoint {
        match &self.marker.place {
            MarkerPlace::Cell(cell) => self.lattice.center(*cell),
            MarkerPlace::Point(point) => *point,
            MarkerPlace::Area(area) => self.lattice.rect_bounds(*area).center(),
            MarkerPlace::Path(points) => points.first().copied().unwrap_or_default(),
            MarkerPlace::Polygon(_) => self.bounds().center(),
        }
    }

    /// Returns the points of a path or a polygon, in their order; else [`PlacedMarker::place`]
    /// alone.
    pub fn points(&self) -> Vec<WorldPoint> {
        match &self.marker.place {
            MarkerPlace::Path(points) | MarkerPlace::Polygon(points) => points.to_vec(),
            _ => vec![self.place()],
        }
    }

    /// Returns the cell in which [`PlacedMarker::place`] lies.
    pub fn cell_pos(&self) -> CellPos {
        match self.marker.place {
            MarkerPlace::Cell(cell) => cell,
            _ => self.lattice.cell_at(self.place()),
        }
    }

    /// Returns the smallest rectangle of cells around it: one cell for a cell or a point. Which of
    /// them it covers, [`PlacedMarker::covers`] tells.
    pub fn cells(&self) -> CellRect {
        match &self.marker.place {
            MarkerPlace::Area(area) => *area,
            MarkerPlace::Path(points) | MarkerPlace::Polygon(points) => {
                let cells = points.iter().map(|p| CellRect::of_cell(self.lattice.cell_at(*p)));
                cells.fold(CellRect::EMPTY, CellRect::union)
            }
            _ => CellRect::of_cell(self.cell_pos()),
        }
    }

    /// Returns the rectangle around it in the world: of its cells, or of the points of a path or
    /// polygon.
    pub fn bounds(&self) -> WorldRect {
        match &self.marker.place {
            MarkerPlace::Path(points) | MarkerPlace::Polygon(points) => {
                WorldRect::around(points.iter().copied())
            }
            _ => self.lattice.rect_bounds(self.cells()),
        }
    }

    /// Returns whether a place in the world lies in it. A path and a point hold no place.
    ///
    /// A polygon holds what an odd number of its sides lies to the left of, so where it crosses
    /// itself it has holes.
    ///
    /// ```
    /// use sturdy_quilt::{Marker, WorldPoint};
    /// # let mut quilt = sturdy_quilt::doc_quilt();
    ///
    /// let corners = [(0.0, 0.0), (48.0, 0.0), (0.0, 48.0)].map(|(x, y)| WorldPoint::new(x, y));
    /// quilt.edit("a bed", |pen| pen.put_marker(Marker::polygon("bed", corners)))?;
    /// let bed = quilt.marker("bed")?;
    /// assert!(bed.contains(WorldPoint::new(10.0, 10.0)));
    /// assert!(!bed.contains(WorldPoint::new(40.0, 40.0)));
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    pub fn contains(&self, place: WorldPoint) -> bool {
        match &self.marker.place {
            MarkerPlace::Cell(_) | MarkerPlace::Area(_) => self.bounds().contains(place),
            MarkerPlace::Polygon(points) => polygon_holds(points, place),
            MarkerPlace::Point(_) | MarkerPlace::Path(_) => false,
        }
    }

    /// Whether it can say what the ground of its cells is: it has an inside, and that is not too
    /// large.
    pub(crate) fn can_ground(&self) -> bool {
        let is_filled = matches!(
            self.marker.place,
            MarkerPlace::Cell(_) | MarkerPlace::Area(_) | MarkerPlace::Polygon(_)
        );
        is_filled && self.cells().cell_count() <= Marker::MAX_GROUND_CELLS
    }

    /// Returns whether it covers a cell: is there, goes through it, or, for a polygon, holds its
    /// middle.
    pub fn covers(&self, cell: CellPos) -> bool {
        match &self.marker.place {
            MarkerPlace::Cell(_) | MarkerPlace::Point(_) | MarkerPlace::Area(_) => {
                self.cells().contains(cell)
            }
            MarkerPlace::Path(points) => outline::crosses(points, self.lattice.bounds(cell)),
            MarkerPlace::Polygon(points) => polygon_holds(points, self.lattice.center(cell)),
        }
    }

    /// Returns the length of a path in world units; 0 for anything else.
    pub fn length(&self) -> f64 {
        match &self.marker.place {
            MarkerPlace::Path(points) => outline::length(points),
            _ => 0.0,
        }
    }

    /// Returns the point at a distance along a path in world units, clamped to its ends; for anything else
    /// [`PlacedMarker::place`].
    ///
    /// ```
    /// use sturdy_quilt::{Marker, WorldPoint};
    /// # let mut quilt = sturdy_quilt::doc_quilt();
    ///
    /// let stops = [(0.0, 8.0), (32.0, 8.0), (32.0, 40.0)].map(|(x, y)| WorldPoint::new(x, y));
    /// quilt.edit("a round", |pen| pen.put_marker(Marker::path("round", stops)))?;
    /// let round = quilt.marker("round")?;
    /// assert_eq!(round.along(40.0), WorldPoint::new(32.0, 16.0));
    /// assert_eq!(round.along(round.length() + 9.0), stops[2]);
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    pub fn along(&self, distance: f64) -> WorldPoint {
        match &self.marker.place {
            MarkerPlace::Path(points) => outline::along(points, distance),
            _ => self.place(),
        }
    }
}

impl Deref for PlacedMarker<'_> {
    type Target = Marker;

    fn deref(&self) -> &Marker {
        self.marker
    }
}
