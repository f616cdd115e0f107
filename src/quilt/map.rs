//! The map, and the reading of its parts.

use std::sync::Arc;

use indexmap::IndexMap;
use serde_json::Value;

use super::ground_rules::{GroundRules, Mover, MoverId};
use super::layer::Layer;
use super::layer_key::LayerKey;
use super::layers::Layers;
use super::marker::{Marker, PlacedMarker};
use super::palette::Palette;
use super::settings::LayerSettings;
use super::value_layer::{ValueLayer, ValueLayerError, wrong_kind};
use crate::lattice::Lattice;
use crate::name_error::NameError;
use crate::plane::{OwnValue, Plane, PlaneMemory, Presence, Stamp};
use crate::tile::{Cell, CellNotation, PaletteId, TileId, TileTable};
use crate::units::{CellPos, CellRect, ScreenSize};
use crate::view::{Projection, View};

/// A tile map.
///
/// `clone()` is a cheap snapshot: it shares everything with the original, may be taken each frame,
/// and neither sees the later changes of the other. A Quilt is changed by
/// [`Quilt::edit`] and in no other way.
///
/// ```
/// use sturdy_quilt::{CellPos, Lattice, LayerSettings, Quilt, TileSet};
///
/// let mut quilt = Quilt::new(Lattice::square(16.0, 16.0)?);
/// quilt.edit("lay out the garden", |pen| {
///     pen.put_tiles(TileSet::flat("garden", ["grass", "wall"])?)?;
///     pen.add_layer("soil", LayerSettings::default())?;
///     let wall = pen.quilt().tile("garden/wall")?;
///     pen.put("soil", CellPos::new(3, 4), wall)
/// })?;
/// assert_eq!(quilt.bounds().corner(), CellPos::new(3, 4));
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
#[derive(Clone)]
pub struct Quilt {
    pub(super) lattice: Lattice,
    pub(super) projection: Projection,
    pub(super) tiles: TileTable,
    pub(super) rules: Arc<GroundRules>,
    /// Slot 1 is the first.
    pub(super) palettes: Arc<Vec<Palette>>,
    pub(super) layers: Arc<Layers>,
    pub(super) values: Arc<Vec<ValueLayer>>,
    /// In the order in which they were added.
    pub(super) markers: Arc<IndexMap<Arc<str>, Marker>>,
    pub(super) stated_bounds: Option<CellRect>,
    pub(super) data: Arc<Value>,
    /// Where its document says that its JSON Schema lies.
    pub(super) schema: Option<Arc<str>>,
    pub(super) stamps: QuiltStamps,
}

/// The stamps of the parts of a Quilt besides the cells, which have stamps of their own.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub struct QuiltStamps {
    /// The last change of the tile table.
    pub tiles: Stamp,
    /// The last change of ground classes or movers.
    pub rules: Stamp,
    /// The last change of the palettes.
    pub palettes: Stamp,
    /// The last time a layer was added, removed, moved in the order, or got other settings, or
    /// other bounds or another projection were stated.
    pub layers: Stamp,
    /// The last time a value layer was added or removed.
    pub values: Stamp,
    /// The last change of a marker.
    pub markers: Stamp,
    /// The last change of the map's own data.
    pub data: Stamp,
}

impl Quilt {
    /// Returns a map without tiles, layers or markers.
    pub fn new(lattice: Lattice) -> Quilt {
        Quilt {
            lattice,
            projection: Projection::FLAT,
            tiles: TileTable::new(),
            rules: Arc::default(),
            palettes: Arc::default(),
            layers: Arc::default(),
            values: Arc::default(),
            markers: Arc::default(),
            stated_bounds: None,
            data: Arc::default(),
            schema: None,
            stamps: QuiltStamps::default(),
        }
    }

    /// Returns how its cells lie in the world.
    pub const fn lattice(&self) -> &Lattice {
        &self.lattice
    }

    /// Returns how it is meant to be seen: from straight above, unless it states another projection.
    pub const fn projection(&self) -> &Projection {
        &self.projection
    }

    /// Returns a view of `size` pixels that sees the map as it is meant to be seen, centred on the
    /// origin of the world, at zoom 1. Any map can be seen by any other projection as well:
    /// [`View::projected`].
    pub const fn view(&self, size: ScreenSize) -> View {
        View::new(size).projected(self.projection)
    }

    /// Returns its tile sets and tiles.
    pub const fn tiles(&self) -> &TileTable {
        &self.tiles
    }

    /// Returns its ground classes and movers.
    pub fn ground_rules(&self) -> &GroundRules {
        &self.rules
    }

    /// Returns its layers in their order, the first one lowest among those of one priority.
    pub fn layers(&self) -> &[Layer] {
        &self.layers
    }

    /// Returns the stamps of everything but the cells.
    pub const fn stamps(&self) -> QuiltStamps {
        self.stamps
    }

    /// Returns the cells that the map spans: as stated, or else the union of what its layers hold,
    /// each at its offset rounded outwards to whole cells. Costs a look at each chunk in use where
    /// it is not stated.
    pub fn bounds(&self) -> CellRect {
        self.stated_bounds.unwrap_or_else(|| {
            let spans = self.layers.iter().map(|layer| layer.span(&self.lattice));
            spans.fold(CellRect::EMPTY, CellRect::union)
        })
    }

    /// Returns the bounds that are stated, or `None` where the union of the layers counts.
    pub const fn stated_bounds(&self) -> Option<CellRect> {
        self.stated_bounds
    }

    /// Returns what the game keeps with the map: any JSON value, `null` where nothing is stated.
    /// Layers, tiles and markers have data of their own.
    pub fn data(&self) -> &Value {
        &self.data
    }

    /// Returns a layer by name or handle.
    ///
    /// # Errors
    /// A name or handle that is no layer of this map.
    pub fn layer(&self, layer: impl LayerKey) -> Result<&Layer, NameError> {
        self.layer_at(layer).map(|at| &self.layers[at])
    }

    /// Whether there is a layer of this name.
    pub(crate) fn has_layer(&self, name: &str) -> bool {
        self.layers.place_of_name(name).is_some()
    }

    pub(crate) fn layer_at(&self, layer: impl LayerKey) -> Result<usize, NameError> {
        layer.place_in(&self.layers).ok_or_else(|| {
            NameError::new("layer", &layer.words(), self.layers.iter().map(Layer::name))
        })
    }

    /// Returns the handle of a tile by its full name, `set/name` or `set/column:row`. Keep it: it
    /// is valid for this map and its clones as long as they live.
    ///
    /// # Errors
    /// A name that no tile set has.
    pub fn tile(&self, name: &str) -> Result<TileId, NameError> {
        self.tiles.by_text(name)
    }

    /// Returns a cell by its notation, for example `terrace/eaves+90+raise`, or `empty`.
    ///
    /// # Errors
    /// A malformed notation, or a tile that no set has.
    ///
    /// ```
    /// # let quilt = sturdy_quilt::doc_quilt();
    /// let wall = quilt.cell("garden/wall+mirror+raise")?;
    /// assert!(wall.is_raised() && wall.turn().is_mirrored());
    /// assert_eq!(quilt.tiles().notation(wall).to_string(), "garden/wall+mirror+raise");
    /// # Ok::<(), sturdy_quilt::quilt::CellTextError>(())
    /// ```
    pub fn cell(&self, notation: &str) -> Result<Cell, CellTextError> {
        match notation.parse::<CellNotation>()? {
            CellNotation::Empty => Ok(Cell::EMPTY),
            CellNotation::Tile { name, turn, raise, palette } => {
                let cell =
                    Cell::of(self.tile(&name.to_string())?).with_turn(turn).with_raised(raise);
                Ok(cell.with_slot(palette).unwrap_or(cell))
            }
        }
    }

    /// Returns a marker with its place in the world.
    ///
    /// # Errors
    /// A name that no marker has.
    ///
    /// ```
    /// use sturdy_quilt::WorldPoint;
    /// # let quilt = sturdy_quilt::doc_quilt();
    ///
    /// let gate = quilt.marker("gate")?;
    /// assert_eq!(gate.place(), WorldPoint::new(56.0, 24.0));
    /// assert!(quilt.marker("gat").unwrap_err().to_string().ends_with("did you mean `gate`?"));
    /// # Ok::<(), sturdy_quilt::NameError>(())
    /// ```
    pub fn marker(&self, name: &str) -> Result<PlacedMarker<'_>, NameError> {
        let found = self.markers.get(name).map(|marker| PlacedMarker::new(marker, &self.lattice));
        found.ok_or_else(|| NameError::new("marker", name, self.markers.keys().map(|k| &**k)))
    }

    /// Returns all markers, in the order in which they were added.
    pub fn markers(&self) -> impl Iterator<Item = PlacedMarker<'_>> {
        self.markers.values().map(|marker| PlacedMarker::new(marker, &self.lattice))
    }

    /// Returns the handle of a mover.
    ///
    /// # Errors
    /// A name that no mover has.
    pub fn mover(&self, name: &str) -> Result<MoverId, NameError> {
        let movers = self.rules.movers();
        let found = self.rules.find_mover(name);
        found.ok_or_else(|| NameError::new("mover", name, movers.iter().map(Mover::name)))
    }

    /// Returns its palettes; the first one is slot 1.
    pub fn palettes(&self) -> &[Palette] {
        &self.palettes
    }

    /// Returns the handle of a palette: what [`Cell::with_palette`] and [`LayerSettings::with_palette`]
    /// take.
    ///
    /// # Errors
    /// A name that no palette has.
    pub fn palette(&self, name: &str) -> Result<PaletteId, NameError> {
        let slot = (1..).zip(self.palettes.iter()).find(|(_, held)| held.name() == name);
        let names = self.palettes.iter().map(Palette::name);
        let handle = |(slot, held): (u8, &Palette)| PaletteId::new(slot, held.birth().0);
        slot.map(handle).ok_or_else(|| NameError::new("palette", name, names))
    }

    /// The handle of the palette in a slot, counted from 1.
    pub(crate) fn palette_in(&self, slot: u8) -> Option<PaletteId> {
        let held = self.palettes.get(usize::from(slot).checked_sub(1)?)?;
        Some(PaletteId::new(slot, held.birth().0))
    }

    /// Whether a handle is that of a palette of this map, or of a slot without one.
    pub(crate) fn has_palette(&self, palette: PaletteId) -> bool {
        palette.birth() == Stamp::NONE || self.palette_in(palette.slot()) == Some(palette)
    }

    /// Returns what lies in a cell of a layer.
    ///
    /// # Errors
    /// A layer that is not there.
    pub fn get(&self, layer: impl LayerKey, cell: CellPos) -> Result<Presence<Cell>, NameError> {
        Ok(self.layer(layer)?.cells().get(cell))
    }

    /// Returns whether two maps show and mean the same: lattice, projection, bounds, data, tile sets, classes,
    /// movers, layers with their settings and cells, palettes, value layers, and markers. Cells are
    /// compared by what they name: cell by cell where two maps number their tiles differently, else
    /// by the chunks that they do not share.
    pub fn same_as(&self, other: &Quilt) -> bool {
        self.lattice == other.lattice
            && self.projection == other.projection
            && self.stated_bounds == other.stated_bounds
            && self.data == other.data
            && self.tiles.same_sets(&other.tiles)
            && self.rules == other.rules
            && self.palettes == other.palettes
            && self.values == other.values
            && self.markers.iter().eq(other.markers.iter())
            && self.layers.len() == other.layers.len()
            && self.layers.iter().zip(other.layers.iter()).all(|(a, b)| {
                a.name() == b.name()
                    && self.same_settings(a.settings(), other, b.settings())
                    && self.same_cells(a, other, b)
            })
    }

    /// The backdrop of a layer is compared by what it names, too.
    fn same_settings(&self, own: &LayerSettings, other: &Quilt, others: &LayerSettings) -> bool {
        let spelled = |quilt: &Quilt, cell: Option<Cell>| cell.map(|c| quilt.tiles.notation(c));
        // What has handles is compared by what they mean.
        let named =
            |settings: &LayerSettings| settings.clone().with_backdrop(None).with_palette(None);
        let slot = |settings: &LayerSettings| settings.palette.map(PaletteId::slot);
        slot(own) == slot(others)
            && spelled(self, own.backdrop) == spelled(other, others.backdrop)
            && named(own) == named(others)
    }

    fn same_cells(&self, own: &Layer, other: &Quilt, others: &Layer) -> bool {
        if self.tiles.same_numbers(&other.tiles) {
            return own.cells() == others.cells();
        }
        let spelled = |quilt: &Quilt, cell: Cell| quilt.tiles.notation(cell);
        own.cells().occupied().count() == others.cells().occupied().count()
            && own.cells().occupied().all(|(at, cell)| {
                let there = others.cells().get(at).here().unwrap_or_default();
                spelled(self, cell) == spelled(other, there)
            })
    }
}

// Value layers.
impl Quilt {
    /// Returns its value layers, in the order in which they were added.
    pub fn value_layers(&self) -> &[ValueLayer] {
        &self.values
    }

    /// Returns a value layer by name, of whichever kind.
    ///
    /// # Errors
    /// A name that no value layer has.
    pub fn value_layer(&self, name: &str) -> Result<&ValueLayer, NameError> {
        self.value_layer_at(name).map(|at| &self.values[at])
    }

    /// Whether there is a value layer of this name.
    pub(crate) fn has_value_layer(&self, name: &str) -> bool {
        self.values.iter().any(|layer| layer.name() == name)
    }

    pub(crate) fn value_layer_at(&self, name: &str) -> Result<usize, NameError> {
        let found = self.values.iter().position(|layer| layer.name() == name);
        found.ok_or_else(|| {
            NameError::new("value layer", name, self.values.iter().map(ValueLayer::name))
        })
    }

    /// Returns the values of a value layer.
    ///
    /// # Errors
    /// A name that no value layer has, or one that holds another kind.
    ///
    /// ```
    /// use sturdy_quilt::plane::ValueKind;
    /// use sturdy_quilt::CellPos;
    /// # let mut quilt = sturdy_quilt::doc_quilt();
    ///
    /// quilt.edit("let it grow", |pen| {
    ///     pen.add_value_layer("growth", ValueKind::F32)?;
    ///     pen.put_value("growth", CellPos::new(1, 1), 0.25_f32)
    /// })?;
    /// let growth = quilt.values::<f32>("growth")?;
    /// assert_eq!(growth.get(CellPos::new(1, 1)).here(), Some(0.25));
    /// assert_eq!(growth.get(CellPos::new(9, 9)).here(), Some(0.0));
    /// let wrong = quilt.values::<u32>("growth").unwrap_err();
    /// assert_eq!(wrong.to_string(), "value layer `growth` holds f32, not u32");
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    pub fn values<V: OwnValue>(&self, name: &str) -> Result<&Plane<V>, ValueLayerError> {
        let layer = self.value_layer(name)?;
        layer.plane().ok_or_else(|| wrong_kind(layer, V::KIND))
    }
}

// Memory.
impl Quilt {
    /// Returns how much memory the cells of all layers and value layers take; see
    /// [`Plane::memory`](crate::plane::Plane::memory).
    ///
    /// ```
    /// # let quilt = sturdy_quilt::doc_quilt();
    /// assert!(quilt.memory().bytes() < 8 << 10);
    /// ```
    pub fn memory(&self) -> PlaneMemory {
        let cells = self.layers().iter().map(|layer| layer.cells().memory());
        let values = self.value_layers().iter().map(ValueLayer::memory);
        cells.chain(values).fold(PlaneMemory::default(), |all, memory| all.plus(&memory))
    }

    /// Brings the cells of all layers and value layers into their smallest form; see
    /// [`Plane::compact`](crate::plane::Plane::compact). For idle time, as after a map was built in code; a
    /// map that was loaded has it already. Changes nothing that can be seen, and no stamp.
    pub fn compact(&mut self) {
        for layer in Arc::make_mut(&mut self.layers).iter_mut() {
            layer.cells_mut().1.compact();
        }
        for layer in Arc::make_mut(&mut self.values) {
            layer.words_mut().compact();
        }
    }
}

/// The error of a text that does not name a cell of a map.
#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
#[non_exhaustive]
pub enum CellTextError {
    /// It is malformed.
    #[error(transparent)]
    Notation(#[from] crate::tile::CellNotationError),
    /// The tile is not there.
    #[error(transparent)]
    Name(#[from] NameError),
    /// A handle is one of another map.
    #[error("the handle belongs to another map: look up its name in this one")]
    OtherMap,
}

impl std::fmt::Debug for Quilt {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        let Quilt { layers, markers, .. } = self;
        let (sets, bounds) = (self.tiles.sets().len(), self.bounds());
        write!(
            f,
            "Quilt({bounds}, {} layers, {sets} sets, {} markers)",
            layers.len(),
            markers.len()
        )
    }
}
