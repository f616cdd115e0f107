use std::sync::Arc;

use super::settings::LayerSettings;
use crate::lattice::Lattice;
use crate::plane::{Plane, Stamp, Words};
use crate::tile::Cell;
use crate::units::{CellRect, GridCells};

/// A layer of a map: its cells, and how they are drawn and counted.
#[derive(Clone)]
pub struct Layer {
    id: LayerId,
    name: Arc<str>,
    settings: LayerSettings,
    cells: Plane<Cell>,
    spelling: Option<Arc<CellLegend>>,
    /// How its document names its cells where that shifts every second row or column, and which columns
    /// and rows it has.
    shifted: Option<Arc<(GridCells, CellRect)>>,
}

/// The handle of a layer: valid for its map and all clones, and never given twice.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub struct LayerId(pub(crate) Stamp);

impl Layer {
    /// The most layers that a map can have: with its raised cells and its backdrop apart, each still
    /// has a 16-bit number in a draw list.
    pub const MAX_COUNT: usize = 1 << 14;

    pub(crate) fn new(name: Arc<str>, settings: LayerSettings) -> Layer {
        let (id, cells) = (LayerId(Stamp::next()), Plane::new());
        Layer { id, name, settings, cells, spelling: None, shifted: None }
    }

    /// A new layer with cells, as words.
    pub(crate) fn of_words(name: Arc<str>, settings: LayerSettings, words: Words) -> Layer {
        let mut layer = Layer::new(name, settings);
        *layer.cells.words_mut() = words;
        layer
    }

    /// Returns its handle.
    pub const fn id(&self) -> LayerId {
        self.id
    }

    /// Returns its name, which no other layer of its map has.
    pub fn name(&self) -> &str {
        &self.name
    }

    /// Returns how the layer is drawn, and what it counts for.
    pub const fn settings(&self) -> &LayerSettings {
        &self.settings
    }

    /// Returns its cells.
    pub const fn cells(&self) -> &Plane<Cell> {
        &self.cells
    }

    /// Its shared name.
    pub(crate) const fn shared_name(&self) -> &Arc<str> {
        &self.name
    }

    pub(super) fn set_name(&mut self, name: Arc<str>) {
        self.name = name;
    }

    pub(super) fn set_settings(&mut self, settings: LayerSettings) {
        self.settings = settings;
    }

    /// Its name and its cells, to write to.
    #[inline]
    pub(crate) fn cells_mut(&mut self) -> (&Arc<str>, &mut Plane<Cell>) {
        (&self.name, &mut self.cells)
    }

    /// Whether another layer has the same name, settings and cells.
    pub(crate) fn same_as(&self, other: &Layer) -> bool {
        self.name == other.name && self.settings == other.settings && self.cells == other.cells
    }

    /// How its document spells its cells, to add to; empty where nothing is known yet.
    pub(crate) fn legend_mut(&mut self) -> &mut CellLegend {
        Arc::make_mut(self.spelling.get_or_insert_default())
    }

    /// Keeps how its document names its cells: where several grids do so in different ways, as the first
    /// one does.
    pub(crate) fn keep_shifted(&mut self, cells: GridCells, rect: CellRect) {
        self.shifted.get_or_insert_with(|| Arc::new((cells, rect)));
    }

    /// How its document names its cells, where that shifts every second row or column, and which columns
    /// and rows it has.
    pub(crate) fn shifted(&self) -> Option<(GridCells, CellRect)> {
        self.shifted.as_deref().copied()
    }

    /// Returns how its document spells its cells, where it has come from one.
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

/// The spelling of the cells of a layer in a document: a character for each cell, and the
/// rectangles that its rows span. Kept so that a saved map reads, and differs, like the one that
/// was loaded.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct CellLegend {
    pub(crate) entries: Vec<(char, Cell)>,
    pub(crate) rects: Vec<CellRect>,
}

impl CellLegend {
    /// Returns the characters and what they stand for, in the order of the document.
    pub fn entries(&self) -> &[(char, Cell)] {
        &self.entries
    }

    /// Returns the cells that the rows of the document span, a rectangle for each piece of them.
    pub fn rects(&self) -> &[CellRect] {
        &self.rects
    }
}
