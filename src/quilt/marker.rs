use std::ops::Deref;
use std::sync::Arc;

use serde_json::Value;

use crate::lattice::Lattice;
use crate::units::{CellPos, CellRect, WorldPoint, WorldRect};

/// A named point or area of a map with data of the game's own.
///
/// ```
/// use sturdy_quilt::{CellPos, Marker};
///
/// let gate = Marker::cell("gate", CellPos::new(3, 4)).kind("door");
/// assert_eq!((gate.name(), gate.kind_name()), ("gate", Some("door")));
/// ```
#[derive(Clone, Debug, PartialEq)]
pub struct Marker {
    name: Arc<str>,
    place: MarkerPlace,
    kind: Option<Arc<str>>,
    data: Value,
}

/// Where a marker is.
#[derive(Clone, Copy, Debug, PartialEq)]
#[non_exhaustive]
pub enum MarkerPlace {
    /// In one cell.
    Cell(CellPos),
    /// At a point of the world.
    Point(WorldPoint),
    /// Over a rectangle of cells.
    Area(CellRect),
}

impl Marker {
    /// A marker of any place.
    pub fn new(name: impl Into<Arc<str>>, place: MarkerPlace) -> Marker {
        Marker { name: name.into(), place, kind: None, data: Value::Null }
    }

    /// A marker in one cell.
    pub fn cell(name: impl Into<Arc<str>>, cell: CellPos) -> Marker {
        Marker::new(name, MarkerPlace::Cell(cell))
    }

    /// A marker at a point of the world.
    pub fn point(name: impl Into<Arc<str>>, point: WorldPoint) -> Marker {
        Marker::new(name, MarkerPlace::Point(point))
    }

    /// A marker over a rectangle of cells.
    pub fn area(name: impl Into<Arc<str>>, area: CellRect) -> Marker {
        Marker::new(name, MarkerPlace::Area(area))
    }

    /// The same marker with a kind, by which the game tells workers from doors.
    #[must_use]
    pub fn kind(mut self, kind: impl Into<Arc<str>>) -> Marker {
        self.kind = Some(kind.into());
        self
    }

    /// The same marker with data.
    #[must_use]
    pub fn with_data(mut self, data: Value) -> Marker {
        self.data = data;
        self
    }

    /// Its name, which no other marker of its map has.
    pub fn name(&self) -> &str {
        &self.name
    }

    pub(crate) fn shared_name(&self) -> Arc<str> {
        Arc::clone(&self.name)
    }

    /// Where it is, as it was stated.
    pub const fn stated_place(&self) -> MarkerPlace {
        self.place
    }

    /// Its kind, where it has one.
    pub fn kind_name(&self) -> Option<&str> {
        self.kind.as_deref()
    }

    /// Its data; `null` where nothing is stated.
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
    pub(super) fn new(marker: &'a Marker, lattice: &'a Lattice) -> PlacedMarker<'a> {
        PlacedMarker { marker, lattice }
    }

    /// The marker itself.
    pub const fn marker(&self) -> &'a Marker {
        self.marker
    }

    /// The point in the world: the middle of the cell or of the area.
    pub fn place(&self) -> WorldPoint {
        match self.marker.place {
            MarkerPlace::Cell(cell) => self.lattice.center(cell),
            MarkerPlace::Point(point) => point,
            MarkerPlace::Area(area) => self.lattice.rect_bounds(area).center(),
        }
    }

    /// The cell in which [`PlacedMarker::place`] lies.
    pub fn cell_pos(&self) -> CellPos {
        match self.marker.place {
            MarkerPlace::Cell(cell) => cell,
            _ => self.lattice.cell_at(self.place()),
        }
    }

    /// The cells that it covers: one for a cell or a point.
    pub fn cells(&self) -> CellRect {
        match self.marker.place {
            MarkerPlace::Area(area) => area,
            _ => CellRect::of_cell(self.cell_pos()),
        }
    }

    /// The rectangle in the world around [`PlacedMarker::cells`].
    pub fn bounds(&self) -> WorldRect {
        self.lattice.rect_bounds(self.cells())
    }
}

impl Deref for PlacedMarker<'_> {
    type Target = Marker;

    fn deref(&self) -> &Marker {
        self.marker
    }
}
