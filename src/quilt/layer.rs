use std::sync::Arc;

use super::{LayerSettings, Quilt};
use crate::lattice::Lattice;
use crate::plane::{Plane, Stamp};
use crate::tile::Cell;
use crate::units::CellRect;

/// One layer of a map: its cells, and how they are drawn and counted.
#[derive(Clone)]
pub struct Layer {
    pub(crate) id: LayerId,
    pub(crate) name: Arc<str>,
    pub(crate) settings: LayerSettings,
    pub(crate) cells: Plane<Cell>,
    pub(crate) spelling: Option<Arc<CellLegend>>,
}

/// The handle of a layer: valid for its map and all clones, and never given twice.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub struct LayerId(pub(crate) Stamp);

impl Layer {
    /// The most layers that a map can have: with its raised cells and its backdrop apart, each still
    /// has a 16-bit number in a draw list.
    pub const MAX_COUNT: usize = 1 << 14;

    pub(crate) fn new(name: Arc<str>, settings: LayerSettings) -> Layer {
        Layer { id: LayerId(Stamp::next()), name, settings, cells: Plane::new(), spelling: None }
    }

    /// Its handle.
    pub const fn id(&self) -> LayerId {
        self.id
    }

    /// Its name, which no other layer of its map has.
    pub fn name(&self) -> &str {
        &self.name
    }

    /// How it is drawn, and what it counts for.
    pub const fn settings(&self) -> &LayerSettings {
        &self.settings
    }

    /// Its cells.
    pub const fn cells(&self) -> &Plane<Cell> {
        &self.cells
    }

    /// How its document spells its cells, where it has come from one.
    pub fn legend(&self) -> Option<&CellLegend> {
        self.spelling.as_deref()
    }

    /// The cells of the map over which it lies: the bounds of its cells, moved by its offset and
    /// rounded outwards.
    pub(crate) fn span(&self, lattice: &Lattice) -> CellRect {
        let bounds = self.cells.bounds();
        match self.settings.offset_cells(lattice) {
            Some(way) => bounds.moved(way),
            None => lattice.cells_in(lattice.rect_bounds(bounds).moved(self.settings.offset)),
        }
    }
}

impl std::fmt::Debug for Layer {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        write!(f, "Layer({}, {:?})", self.name, self.cells)
    }
}

/// How a document spells the cells of a layer: a character for each cell, and the rectangles that
/// its rows span. Kept so that a saved map reads, and differs, like the one that was loaded.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct CellLegend {
    pub(crate) entries: Vec<(char, Cell)>,
    pub(crate) rects: Vec<CellRect>,
}

impl CellLegend {
    /// The characters and what they stand for, in the order of the document.
    pub fn entries(&self) -> &[(char, Cell)] {
        &self.entries
    }

    /// The cells that the rows of the document span, a rectangle for each piece of them.
    pub fn rects(&self) -> &[CellRect] {
        &self.rects
    }
}

/// What names a layer: its name, or its [`LayerId`].
///
/// Sealed: nothing else can.
pub trait LayerKey: sealed::Sealed + Copy {}

mod sealed {
    use crate::quilt::Quilt;

    pub trait Sealed {
        /// The place of the layer in the order.
        fn place_in(&self, quilt: &Quilt) -> Option<usize>;

        /// The name, for messages.
        fn words(&self) -> String;
    }
}

impl LayerKey for &str {}

impl sealed::Sealed for &str {
    fn place_in(&self, quilt: &Quilt) -> Option<usize> {
        quilt.layers.place_of_name(self)
    }

    fn words(&self) -> String {
        (*self).to_owned()
    }
}

impl LayerKey for &String {}

impl sealed::Sealed for &String {
    fn place_in(&self, quilt: &Quilt) -> Option<usize> {
        quilt.layers.place_of_name(self)
    }

    fn words(&self) -> String {
        (*self).clone()
    }
}

impl LayerKey for LayerId {}

impl sealed::Sealed for LayerId {
    fn place_in(&self, quilt: &Quilt) -> Option<usize> {
        quilt.layers.place_of_id(*self)
    }

    fn words(&self) -> String {
        "(removed)".to_owned()
    }
}
