//! The parts of a map: what each must be, and the one way by which they change.
//!
//! Edits and documents go through the same two steps. A `check_…` method tells whether a part can be
//! in the map as it is; the other methods change the map and give what has changed its stamp. These
//! do not check once more, since undoing an edit leads through states that no edit may leave, such
//! as a marker whose ground class is gone. [`Quilt::lacking`] looks for those in the end.

use std::sync::Arc;

use indexmap::IndexSet;
use serde_json::Value;

use super::ground_rules::{Class, GroundRules, GroundRulesError, Mover};
use super::layer::Layer;
use super::map::{CellTextError, Quilt, QuiltStamps};
use super::marker::{Marker, PlacedMarker};
use super::palette::{Palette, PaletteError, color_names};
use super::settings::LayerSettings;
use super::value_layer::ValueLayer;
use crate::name_error::NameError;
use crate::plane::{Plane, Stamp, Words};
use crate::tile::{Cell, TableFullError, TileName, TileNumber, TileSet};
use crate::units::CellRect;
use crate::view::Projection;

/// The error of something that cannot be a part of a map.
#[derive(Debug, thiserror::Error)]
#[non_exhaustive]
pub enum PartError {
    /// The name is empty.
    #[error("a {0} must have a name")]
    NoName(&'static str),
    /// There is a layer of this name already.
    #[error("there is a layer `{0}` already")]
    LayerExists(String),
    /// There is a marker of this name already.
    #[error("there is a marker `{0}` already")]
    MarkerExists(String),
    /// There is a value layer of this name already.
    #[error("there is a value layer `{0}` already")]
    ValueLayerExists(String),
    /// There are as many layers as a map can have.
    #[error("a map can have at most {} layers", Layer::MAX_COUNT)]
    TooManyLayers,
    /// The settings of a layer cannot be.
    #[error("layer `{layer}` cannot have these settings: {fault}")]
    Settings {
        /// The layer.
        layer: String,
        /// What is wrong with them.
        fault: String,
    },
    /// The bounds of a map are empty.
    #[error(
        "the bounds of a map must have at least one cell; state none to have those of its layers"
    )]
    EmptyBounds,
    /// A projection shows the cells of another lattice.
    #[error("the projection is made for other cells than the {width} × {height} units of this map")]
    ProjectionCells {
        /// The width of a cell of the map in world units.
        width: f64,
        /// Its height.
        height: f64,
    },
    /// A layer has bands, and the map is seen at a slant.
    #[error(
        "layer `{0}` has bands, which are rows on the screen: a map that is seen at a slant has none"
    )]
    SlantedBands(String),
    /// Data of the game's own is nested too deep.
    #[error("the data of {0} is nested too deep: {most} levels are allowed", most = MAX_DATA_DEPTH)]
    DataDepth(String),
    /// A marker can be nowhere.
    #[error(
        "marker `{0}` has no place: an area has at least one cell, a path 2 points and a polygon 3, all of finite numbers"
    )]
    MarkerPlace(String),
    /// A marker cannot say what the ground of its cells is.
    #[error(
        "marker `{0}` cannot state ground: only a cell, an area or a polygon can, within at most 4096 × 4096 cells"
    )]
    MarkerGround(String),
    /// A marker states a ground class that the map does not have.
    #[error("marker `{marker}` states ground that the map does not know")]
    MarkerClass {
        /// The marker.
        marker: String,
        /// Which class.
        #[source]
        source: NameError,
    },
    /// A tile gives a ground class that the map does not have.
    #[error("tile `{tile}` gives ground that the map does not know")]
    TileGround {
        /// The tile.
        tile: String,
        /// Which class.
        #[source]
        source: NameError,
    },
    /// A palette of the map replaces a colour that no tile set would have any more.
    #[error(
        "palette `{palette}` replaces a colour that the map would no longer have without tile set `{set}` as it was"
    )]
    PaletteColor {
        /// The palette.
        palette: String,
        /// The tile set.
        set: String,
        /// Which colour.
        #[source]
        source: NameError,
    },
    /// A handle is one of another map.
    #[error("{}", CellTextError::OtherMap)]
    OtherMap,
    /// A cell shows no tile of this map.
    #[error("this map has no tile number {0}")]
    UnknownTile(usize),
    /// There are too many tiles.
    #[error(transparent)]
    TableFull(#[from] TableFullError),
    /// A ground class or a mover is wrong.
    #[error(transparent)]
    GroundRules(#[from] GroundRulesError),
    /// A palette is wrong.
    #[error(transparent)]
    Palette(#[from] PaletteError),
}

/// How deep the game's own data may be nested.
pub(crate) const MAX_DATA_DEPTH: usize = 100;

/// Checks that data of the game's own is not nested too deep.
fn check_depth(data: &Value, of: impl FnOnce() -> String) -> Result<(), PartError> {
    fn is_deeper(data: &Value, most: usize) -> bool {
        let inner = |value: &Value| most == 0 || is_deeper(value, most - 1);
        match data {
            Value::Array(values) => most == 0 || values.iter().any(inner),
            Value::Object(entries) => most == 0 || entries.values().any(inner),
            _ => false,
        }
    }
    if is_deeper(data, MAX_DATA_DEPTH) { Err(PartError::DataDepth(of())) } else { Ok(()) }
}

/// What may get another name.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Named {
    Layer,
    ValueLayer,
    Marker,
}

impl Named {
    pub(crate) const fn words(self) -> &'static str {
        match self {
            Named::Layer => "layer",
            Named::ValueLayer => "value layer",
            Named::Marker => "marker",
        }
    }
}

// What the parts must be.
impl Quilt {
    /// Checks the name of a new layer, and that there is room for it.
    pub(crate) fn check_layer_name(&self, name: &str) -> Result<(), PartError> {
        if name.is_empty() {
            Err(PartError::NoName("layer"))
        } else if self.has_layer(name) {
            Err(PartError::LayerExists(name.to_owned()))
        } else if self.layers.len() >= Layer::MAX_COUNT {
            Err(PartError::TooManyLayers)
        } else {
            Ok(())
        }
    }

    /// Checks the settings of a layer, new or not.
    pub(crate) fn check_settings(
        &mut self,
        layer: &str,
        settings: &LayerSettings,
    ) -> Result<(), PartError> {
        if let Some(fault) = settings.fault() {
            return Err(PartError::Settings { layer: layer.to_owned(), fault });
        }
        if self.projection.is_slanted() && !settings.bands.is_empty() {
            return Err(PartError::SlantedBands(layer.to_owned()));
        }
        check_depth(&settings.data, || format!("layer `{layer}`"))?;
        if settings.palette.is_some_and(|palette| !self.has_palette(palette)) {
            return Err(PartError::OtherMap);
        }
        settings.backdrop.map_or(Ok(()), |cell| self.check_cells(&[cell]))
    }

    /// Checks that the map has the tiles of all cells.
    pub(crate) fn check_cells(&mut self, cells: &[Cell]) -> Result<(), PartError> {
        let count = |cell: &Cell| cell.tile_index().map_or(0, |index| index + 1);
        // The greatest speaks for all.
        let needed = cells.iter().map(count).fold(0, usize::max);
        if needed > self.tiles.len() {
            // Another clone may have named it since.
            self.tiles.catch_up();
        }
        let is_known = needed <= self.tiles.len();
        if is_known { Ok(()) } else { Err(PartError::UnknownTile(needed - 1)) }
    }

    /// Checks the name of a new value layer.
    pub(crate) fn check_value_layer_name(&self, name: &str) -> Result<(), PartError> {
        if name.is_empty() {
            Err(PartError::NoName("value layer"))
        } else if self.has_value_layer(name) {
            Err(PartError::ValueLayerExists(name.to_owned()))
        } else {
            Ok(())
        }
    }

    /// Checks a name that a layer, a value layer or a marker is to get instead of its own.
    pub(crate) fn check_new_name(&self, kind: Named, name: &str) -> Result<(), PartError> {
        match kind {
            _ if name.is_empty() => Err(PartError::NoName(kind.words())),
            Named::Layer if self.has_layer(name) => Err(PartError::LayerExists(name.to_owned())),
            Named::ValueLayer if self.has_value_layer(name) => {
                Err(PartError::ValueLayerExists(name.to_owned()))
            }
            Named::Marker if self.markers.contains_key(name) => {
                Err(PartError::MarkerExists(name.to_owned()))
            }
            _ => Ok(()),
        }
    }

    /// Checks bounds that are to be stated.
    pub(crate) fn check_bounds(bounds: Option<CellRect>) -> Result<(), PartError> {
        if bounds.is_some_and(CellRect::is_empty) { Err(PartError::EmptyBounds) } else { Ok(()) }
    }

    /// Checks a projection that is to be stated.
    pub(crate) fn check_projection(&self, projection: &Projection) -> Result<(), PartError> {
        if !projection.fits(&self.lattice) {
            let (width, height) = (self.lattice.cell_width(), self.lattice.cell_height());
            return Err(PartError::ProjectionCells { width, height });
        }
        let mut banded = self.layers.iter().filter(|layer| !layer.settings().bands.is_empty());
        match banded.next().filter(|_| projection.is_slanted()) {
            Some(layer) => Err(PartError::SlantedBands(layer.name().to_owned())),
            None => Ok(()),
        }
    }

    /// Checks the map's own data.
    pub(crate) fn check_data(data: &Value) -> Result<(), PartError> {
        check_depth(data, || "the map".to_owned())
    }

    /// Checks a marker, new or in the place of another.
    pub(crate) fn check_marker(&self, marker: &Marker) -> Result<(), PartError> {
        let name = || marker.name().to_owned();
        if marker.name().is_empty() {
            return Err(PartError::NoName("marker"));
        }
        if !marker.stated_place().is_valid() {
            return Err(PartError::MarkerPlace(name()));
        }
        check_depth(marker.data(), || format!("marker `{}`", marker.name()))?;
        if let Some(class) = marker.ground() {
            let known = self.rules.class(class);
            known.map_err(|source| PartError::MarkerClass { marker: name(), source })?;
            if !PlacedMarker::new(marker, &self.lattice).can_ground() {
                return Err(PartError::MarkerGround(name()));
            }
        }
        Ok(())
    }

    /// Checks a tile set, new or in the place of the one with its name.
    pub(crate) fn check_set(&self, set: &TileSet) -> Result<(), PartError> {
        for tile in set.tiles() {
            check_depth(tile.data(), || format!("tile `{}`", set.full_name(tile)))?;
            if let Some(class) = tile.ground() {
                self.rules.class(class).map_err(|source| PartError::TileGround {
                    tile: set.full_name(tile).to_string(),
                    source,
                })?;
            }
        }
        if self.palettes.is_empty() || self.tiles.set(set.name()).is_none() {
            return Ok(());
        }
        // Every colour that a palette replaces must still be there.
        let others = self.tiles.sets().map(|held| &**held).filter(|held| held.name() != set.name());
        let named = color_names(others.chain([set]));
        let mut palettes = self.palettes.iter();
        match palettes.find_map(|held| Some((held.name(), held.unknown_color(&named)?))) {
            None => Ok(()),
            Some((palette, source)) => {
                let (palette, set) = (palette.to_owned(), set.name().to_owned());
                Err(PartError::PaletteColor { palette, set, source })
            }
        }
    }

    /// Checks a palette, new or in the place of the one with its name: it replaces none but colours of these
    /// names. Without names, any will do.
    pub(crate) fn check_palette(
        &self,
        palette: &Palette,
        colors: Option<&IndexSet<&str>>,
    ) -> Result<(), PartError> {
        if palette.name().is_empty() {
            return Err(PartError::NoName("palette"));
        }
        if let Some(source) = colors.and_then(|colors| palette.unknown_color(colors)) {
            let palette = palette.name().to_owned();
            return Err(PaletteError::Color { palette, source }.into());
        }
        let is_full = self.palettes.len() + 1 >= usize::from(Cell::PALETTES);
        if is_full && self.palette_at(palette.name()).is_none() {
            return Err(PaletteError::TooMany.into());
        }
        Ok(())
    }

    /// Finds a palette, tile, mover, marker or layer that lacks what it needs, and names both.
    pub(crate) fn lacking(&self) -> Option<(String, String)> {
        let colors = color_names(self.tiles.sets().map(|set| &**set));
        let palettes = self.palettes.iter().filter_map(|palette| {
            let unknown = palette.unknown_color(&colors)?.name;
            Some((format!("palette `{}`", palette.name()), format!("colour `{unknown}`")))
        });
        let tiles =
            self.tiles.sets().flat_map(|set| set.tiles().iter().map(move |tile| (set, tile)));
        let tiles = tiles.filter_map(|(set, tile)| {
            let class = tile.ground().filter(|class| !self.rules.has_class(class))?;
            Some((format!("tile `{}`", set.full_name(tile)), ground_class(class)))
        });
        let movers = self.rules.movers().iter().filter_map(|mover| self.lacked_by_mover(mover));
        let markers = self.markers.values().filter_map(|marker| self.lacked_by_marker(marker));
        let layers = self.layers.iter();
        let layers =
            layers.filter_map(|layer| self.lacked_by_layer(layer.name(), layer.settings()));
        palettes.chain(tiles).chain(movers).chain(markers).chain(layers).next()
    }

    /// What a mover lacks, as [`Quilt::lacking`] tells it.
    pub(crate) fn lacked_by_mover(&self, mover: &Mover) -> Option<(String, String)> {
        let unknown = self.rules.unknown_class(mover)?;
        Some((format!("mover `{}`", mover.name()), ground_class(&unknown.name)))
    }

    /// What a marker lacks, as [`Quilt::lacking`] tells it.
    pub(crate) fn lacked_by_marker(&self, marker: &Marker) -> Option<(String, String)> {
        let class = marker.ground().filter(|class| !self.rules.has_class(class))?;
        Some((format!("marker `{}`", marker.name()), ground_class(class)))
    }

    /// What a layer lacks, as [`Quilt::lacking`] tells it.
    pub(crate) fn lacked_by_layer(
        &self,
        name: &str,
        settings: &LayerSettings,
    ) -> Option<(String, String)> {
        let needed = if let Some(palette) = settings.palette.filter(|own| !self.has_palette(*own)) {
            format!("the palette of slot {}", palette.slot())
        } else if self.projection.is_slanted() && !settings.bands.is_empty() {
            "a projection from straight above for its bands".to_owned()
        } else {
            return None;
        };
        Some((format!("layer `{name}`"), needed))
    }
}

fn ground_class(name: &str) -> String {
    format!("ground class `{name}`")
}

// Change.
impl Quilt {
    /// Adds a layer in a place of the order, or on top where there are fewer.
    pub(crate) fn insert_layer(&mut self, place: usize, layer: Layer, stamp: Stamp) {
        Arc::make_mut(&mut self.layers).insert(place, layer);
        self.stamps.layers = stamp;
    }

    /// Removes the layer in a place of the order, if there is one.
    pub(crate) fn remove_layer(&mut self, place: usize, stamp: Stamp) {
        Arc::make_mut(&mut self.layers).remove(place);
        self.stamps.layers = stamp;
    }

    /// Puts a layer in the place of the one with its name, or adds it in a place of the order.
    pub(crate) fn put_layer(&mut self, at: usize, layer: Layer, stamp: Stamp) {
        let held = self.layers.place_of_name(layer.name());
        if let Some(place) = held {
            self.remove_layer(place, stamp);
        }
        self.insert_layer(held.unwrap_or(at), layer, stamp);
    }

    /// Removes a layer, if it is there.
    pub(crate) fn remove_layer_of(&mut self, name: &str, stamp: Stamp) {
        if let Some(place) = self.layers.place_of_name(name) {
            self.remove_layer(place, stamp);
        }
    }

    /// Moves the layer in a place of the order to another one.
    pub(crate) fn move_layer(&mut self, from: usize, to: usize, stamp: Stamp) {
        let moved = self.layers[from].clone();
        self.remove_layer(from, stamp);
        self.insert_layer(to, moved, stamp);
    }

    /// Gives the layer in a place another name, which no other one has.
    pub(crate) fn rename_layer(&mut self, place: usize, name: Arc<str>, stamp: Stamp) {
        Arc::make_mut(&mut self.layers).rename(place, name);
        self.stamps.layers = stamp;
    }

    /// Gives the value layer in a place another name, which no other one has.
    pub(crate) fn rename_value_layer(&mut self, place: usize, name: Arc<str>, stamp: Stamp) {
        Arc::make_mut(&mut self.values)[place].set_name(name);
        self.stamps.values = stamp;
    }

    /// Gives a marker another name, which no other one has; it keeps its place among them.
    pub(crate) fn rename_marker(&mut self, from: &str, to: Arc<str>, stamp: Stamp) {
        let markers = Arc::make_mut(&mut self.markers);
        if let Some((place, _, mut marker)) = markers.shift_remove_full(from) {
            marker.set_name(Arc::clone(&to));
            markers.shift_insert(place, to, marker);
            self.stamps.markers = stamp;
        }
    }

    /// Gives the layer in a place other settings.
    pub(crate) fn set_settings(&mut self, place: usize, settings: LayerSettings, stamp: Stamp) {
        Arc::make_mut(&mut self.layers)[place].set_settings(settings);
        self.stamps.layers = stamp;
    }

    /// The name and the cells of the layer in a place, to write to. Cells have stamps of their own.
    #[inline]
    pub(crate) fn cells_mut(&mut self, place: usize) -> (&Arc<str>, &mut Plane<Cell>) {
        Arc::make_mut(&mut self.layers)[place].cells_mut()
    }

    /// Puts a value layer in the place of the one with its name. Without one, adds it in a place, or behind
    /// the last one.
    pub(crate) fn put_value_layer(&mut self, at: usize, layer: ValueLayer, stamp: Stamp) {
        let held = self.value_layer_of(layer.name()).map(|(place, _)| place);
        let values = Arc::make_mut(&mut self.values);
        match held {
            Some(place) => values[place] = layer,
            None => values.insert(at.min(values.len()), layer),
        }
        self.stamps.values = stamp;
    }

    /// Removes a value layer, if it is there.
    pub(crate) fn remove_value_layer_of(&mut self, name: &str, stamp: Stamp) {
        Arc::make_mut(&mut self.values).retain(|held| held.name() != name);
        self.stamps.values = stamp;
    }

    /// The values of the value layer in a place, to write to. They have stamps of their own.
    #[inline]
    pub(crate) fn values_mut(&mut self, place: usize) -> &mut Words {
        Arc::make_mut(&mut self.values)[place].words_mut()
    }

    /// States other bounds, or none.
    pub(crate) fn set_bounds(&mut self, bounds: Option<CellRect>, stamp: Stamp) {
        self.stated_bounds = bounds;
        self.stamps.layers = stamp;
    }

    /// States another projection.
    pub(crate) fn set_projection(&mut self, projection: Projection, stamp: Stamp) {
        self.projection = projection;
        self.stamps.layers = stamp;
    }

    /// Gives the map other data.
    pub(crate) fn set_data(&mut self, data: Arc<Value>, stamp: Stamp) {
        self.data = data;
        self.stamps.data = stamp;
    }

    /// Puts a marker in the place of the one with its name. Without one, adds it in a place, or
    /// behind the last one.
    pub(crate) fn put_marker(&mut self, place: usize, marker: Marker, stamp: Stamp) {
        let markers = Arc::make_mut(&mut self.markers);
        match markers.get_mut(marker.name()) {
            Some(held) => *held = marker,
            None => {
                let name = Arc::clone(marker.shared_name());
                markers.shift_insert(place.min(markers.len()), name, marker);
            }
        }
        self.stamps.markers = stamp;
    }

    /// Removes a marker, if it is there.
    pub(crate) fn remove_marker(&mut self, name: &str, stamp: Stamp) {
        Arc::make_mut(&mut self.markers).shift_remove(name);
        self.stamps.markers = stamp;
    }

    /// Puts a tile set in the place of the one with its name. Without one, adds it in a place, or behind the
    /// last one.
    pub(crate) fn put_set(
        &mut self,
        at: usize,
        set: Arc<TileSet>,
        stamp: Stamp,
    ) -> Result<(), TableFullError> {
        self.tiles.put_set(at, set)?;
        self.stamps.tiles = stamp;
        Ok(())
    }

    /// Removes a tile set. Its tiles keep their numbers, and are shown by placeholders.
    pub(crate) fn remove_set(&mut self, name: &str, stamp: Stamp) {
        self.tiles.remove_set(name);
        self.stamps.tiles = stamp;
    }

    /// The number of a tile by its name, which may be one that no set has. The table only ever
    /// grows, so a name that is learnt needs no undoing.
    pub(crate) fn intern_tile(&mut self, name: &TileName) -> Result<TileNumber, TableFullError> {
        self.tiles.intern(name)
    }

    /// Learns the tiles that other clones have named since.
    pub(crate) fn catch_up_tiles(&mut self) {
        self.tiles.catch_up();
    }

    /// States other ground classes and movers.
    pub(crate) fn set_rules(&mut self, rules: Arc<GroundRules>, stamp: Stamp) {
        self.rules = rules;
        self.stamps.rules = stamp;
    }

    /// Puts a ground class in the place of the one with its name, or adds it in a place.
    pub(crate) fn put_class(&mut self, at: usize, class: Class, stamp: Stamp) {
        Arc::make_mut(&mut self.rules).put_class(at, class);
        self.stamps.rules = stamp;
    }

    /// Removes a ground class, if it is there.
    pub(crate) fn remove_class(&mut self, name: &str, stamp: Stamp) {
        Arc::make_mut(&mut self.rules).remove_class(name);
        self.stamps.rules = stamp;
    }

    /// Puts a mover in the place of the one with its name, or adds it in a place.
    pub(crate) fn put_mover(&mut self, at: usize, mover: Mover, stamp: Stamp) {
        Arc::make_mut(&mut self.rules).put_mover(at, mover);
        self.stamps.rules = stamp;
    }

    /// Removes a mover, if it is there.
    pub(crate) fn remove_mover(&mut self, name: &str, stamp: Stamp) {
        Arc::make_mut(&mut self.rules).remove_mover(name);
        self.stamps.rules = stamp;
    }

    /// Puts a palette in the place of the one with its name, whose handle it gets, or adds it in a place.
    pub(crate) fn put_palette(&mut self, at: usize, palette: Palette, stamp: Stamp) {
        let held = self.palette_at(palette.name()).map(|(at, held)| (at, held.birth()));
        let palettes = Arc::make_mut(&mut self.palettes);
        match held {
            Some((at, birth)) => palettes[at] = palette.born(birth),
            None => palettes.insert(at.min(palettes.len()), palette),
        }
        self.stamps.palettes = stamp;
    }

    /// Removes a palette, if it is there.
    pub(crate) fn remove_palette(&mut self, name: &str, stamp: Stamp) {
        Arc::make_mut(&mut self.palettes).retain(|held| held.name() != name);
        self.stamps.palettes = stamp;
    }

    /// Keeps where the document of the map says that its JSON Schema lies.
    pub(crate) fn set_schema(&mut self, schema: Option<Arc<str>>) {
        self.schema = schema;
    }

    /// Gives all parts one stamp: those of a map that was just made from a document.
    pub(crate) fn stamp_all(&mut self, stamp: Stamp) {
        self.stamps = QuiltStamps {
            tiles: stamp,
            rules: stamp,
            palettes: stamp,
            layers: stamp,
            values: stamp,
            markers: stamp,
            data: stamp,
        };
    }
}

// What edits keep of the map as it was: shared, and not copied.
impl Quilt {
    pub(crate) const fn shared_data(&self) -> &Arc<Value> {
        &self.data
    }

    pub(crate) const fn shared_rules(&self) -> &Arc<GroundRules> {
        &self.rules
    }

    pub(crate) const fn shared_palettes(&self) -> &Arc<Vec<Palette>> {
        &self.palettes
    }

    /// A layer with its place in the order.
    pub(crate) fn layer_of(&self, name: &str) -> Option<(usize, &Layer)> {
        self.layers.place_of_name(name).map(|place| (place, &self.layers[place]))
    }

    pub(crate) fn layer_count(&self) -> usize {
        self.layers.len()
    }

    /// A value layer with its place among the others.
    pub(crate) fn value_layer_of(&self, name: &str) -> Option<(usize, &ValueLayer)> {
        self.values.iter().enumerate().find(|(_, held)| held.name() == name)
    }

    pub(crate) fn value_layer_count(&self) -> usize {
        self.values.len()
    }

    /// A ground class with its place among the others.
    pub(crate) fn class_at(&self, name: &str) -> Option<(usize, &Class)> {
        self.rules.class_at(name)
    }

    pub(crate) fn class_count(&self) -> usize {
        self.rules.classes().len()
    }

    /// A mover with its place among the others.
    pub(crate) fn mover_at(&self, name: &str) -> Option<(usize, &Mover)> {
        self.rules.mover_at(name)
    }

    pub(crate) fn mover_count(&self) -> usize {
        self.rules.movers().len()
    }

    pub(crate) fn palette_count(&self) -> usize {
        self.palettes.len()
    }

    /// A palette with its place among the others, the slot less 1.
    pub(crate) fn palette_at(&self, name: &str) -> Option<(usize, &Palette)> {
        self.palettes.iter().enumerate().find(|(_, held)| held.name() == name)
    }

    /// A marker with its place among the others.
    pub(crate) fn marker_at(&self, name: &str) -> Option<(usize, &Marker)> {
        self.markers.get_full(name).map(|(at, _, marker)| (at, marker))
    }

    pub(crate) fn all_markers(&self) -> impl Iterator<Item = &Marker> {
        self.markers.values()
    }

    pub(crate) fn marker_count(&self) -> usize {
        self.markers.len()
    }

    pub(crate) const fn schema(&self) -> Option<&Arc<str>> {
        self.schema.as_ref()
    }
}
