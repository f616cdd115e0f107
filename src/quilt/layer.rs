use std::sync::Arc;

use serde_json::Value;

use crate::lattice::Lattice;
use crate::plane::{Plane, Stamp};
use crate::tile::Cell;
use crate::units::{CellPos, CellRect, WorldVec};

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

/// How a layer is drawn, and what it counts for.
///
/// ```
/// use sturdy_quilt::LayerSettings;
///
/// let crowns = LayerSettings::default().priority(20).sort_rows(true);
/// assert_eq!((crowns.priority, crowns.opacity), (20, 1.0));
/// ```
#[derive(Clone, Debug, PartialEq)]
#[non_exhaustive]
pub struct LayerSettings {
    /// What is drawn first: lower priorities lie below higher ones. Default 0.
    pub priority: i32,
    /// Whether it is shown at all. Default true.
    pub visible: bool,
    /// How solid it is drawn, from 0 (clear) to 1. Default 1.
    pub opacity: f32,
    /// How far it is moved from its cells, in world units. Default no way.
    pub offset: WorldVec,
    /// Whether its cells are sorted by row with those of other such layers and with sprites, so
    /// that what stands further down covers what stands behind. Default false.
    pub sort_rows: bool,
    /// Whether it is ever drawn; a layer that only marks ground is not. Default true.
    pub draws: bool,
    /// Whether its tiles give ground. Default true.
    pub grounds: bool,
    /// What the game keeps with the layer: any JSON value. Default `null`.
    pub data: Value,
}

impl Default for LayerSettings {
    fn default() -> LayerSettings {
        LayerSettings {
            priority: 0,
            visible: true,
            opacity: 1.0,
            offset: WorldVec::ZERO,
            sort_rows: false,
            draws: true,
            grounds: true,
            data: Value::Null,
        }
    }
}

impl LayerSettings {
    /// The same settings with another priority.
    #[must_use]
    pub fn priority(mut self, priority: i32) -> LayerSettings {
        self.priority = priority;
        self
    }

    /// The same settings, shown or not.
    #[must_use]
    pub fn visible(mut self, visible: bool) -> LayerSettings {
        self.visible = visible;
        self
    }

    /// The same settings with another opacity, held between 0 and 1; what is not a number leaves
    /// it as it was.
    #[must_use]
    pub fn opacity(mut self, opacity: f32) -> LayerSettings {
        if !opacity.is_nan() {
            self.opacity = opacity.clamp(0.0, 1.0);
        }
        self
    }

    /// The same settings with another offset; a coordinate that is not finite leaves its axis as
    /// it was.
    #[must_use]
    pub fn offset(mut self, offset: WorldVec) -> LayerSettings {
        if offset.x.is_finite() {
            self.offset.x = offset.x;
        }
        if offset.y.is_finite() {
            self.offset.y = offset.y;
        }
        self
    }

    /// The same settings, sorted by row or not.
    #[must_use]
    pub fn sort_rows(mut self, sort_rows: bool) -> LayerSettings {
        self.sort_rows = sort_rows;
        self
    }

    /// The same settings, drawn or not.
    #[must_use]
    pub fn draws(mut self, draws: bool) -> LayerSettings {
        self.draws = draws;
        self
    }

    /// The same settings, giving ground or not.
    #[must_use]
    pub fn grounds(mut self, grounds: bool) -> LayerSettings {
        self.grounds = grounds;
        self
    }

    /// The same settings with other data.
    #[must_use]
    pub fn data(mut self, data: Value) -> LayerSettings {
        self.data = data;
        self
    }

    /// The offset in whole cells, or `None` where it is not a whole number of them: such a layer
    /// cannot give ground.
    pub fn offset_cells(&self, lattice: &Lattice) -> Option<crate::units::CellOffset> {
        let whole = |offset: f64, side: f64| {
            let count = (offset / side).round();
            let exact = count * side == offset && count.abs() <= f64::from(CellPos::MAX);
            exact.then_some(count as i32)
        };
        let x = whole(self.offset.x, lattice.cell_width())?;
        let y = whole(self.offset.y, lattice.cell_height())?;
        Some(crate::units::CellOffset::new(x, y))
    }

    /// Opacity as a level from 0 to 255, as the painter uses it.
    pub(crate) fn alpha(&self) -> u8 {
        (self.opacity.clamp(0.0, 1.0) * 255.0).round() as u8
    }
}

impl Layer {
    /// The most layers that a map can have: with its raised cells apart, each still has a 16-bit
    /// number in a draw list.
    pub const MAX_COUNT: usize = 1 << 15;

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
pub trait LayerKey: sealed::Sealed + Copy {
    /// Whether this names the layer.
    fn is(&self, layer: &Layer) -> bool;

    /// The name, for messages.
    fn words(&self) -> String;
}

mod sealed {
    pub trait Sealed {}
    impl Sealed for &str {}
    impl Sealed for &String {}
    impl Sealed for super::LayerId {}
}

impl LayerKey for &str {
    fn is(&self, layer: &Layer) -> bool {
        *layer.name == **self
    }

    fn words(&self) -> String {
        (*self).to_owned()
    }
}

impl LayerKey for &String {
    fn is(&self, layer: &Layer) -> bool {
        *layer.name == ***self
    }

    fn words(&self) -> String {
        (*self).clone()
    }
}

impl LayerKey for LayerId {
    fn is(&self, layer: &Layer) -> bool {
        layer.id == *self
    }

    fn words(&self) -> String {
        "(removed)".to_owned()
    }
}
