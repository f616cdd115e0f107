//! Changes of what a map holds besides cells: layers, markers, tile sets, classes, movers, palettes.

use std::sync::Arc;

use serde_json::Value;

use super::change::{Op, Swap};
use super::{EditError, Pen};
use crate::picture::Color;
use crate::quilt::{
    GroundRules, Layer, LayerKey, LayerSettings, Marker, Mover, Palette, PaletteError,
    PlacedMarker, Quilt, color_names, is_too_deep,
};
use crate::stamp::Birth;
use crate::tile::{Cell, TileId, TileSet};
use crate::units::CellRect;

/// Checks that data of the game's own can be loaded again.
fn check_data(data: &Value, of: impl FnOnce() -> String) -> Result<(), EditError> {
    if is_too_deep(data) { Err(EditError::DataDepth(of())) } else { Ok(()) }
}

impl Pen<'_> {
    /// Adds a layer on top of the order.
    ///
    /// # Errors
    /// An empty name, or one that another layer has; too many layers; settings that cannot be, such
    /// as an opacity that is no number, or that name what the map does not have.
    pub fn add_layer(&mut self, name: &str, settings: LayerSettings) -> Result<(), EditError> {
        if name.is_empty() {
            return Err(EditError::NoName("layer"));
        }
        if self.quilt.has_layer(name) {
            return Err(EditError::LayerExists(name.to_owned()));
        }
        if self.quilt.layers.len() >= Layer::MAX_COUNT {
            return Err(EditError::TooManyLayers);
        }
        self.check_settings(name, &settings)?;
        let layer = Layer::new(name.into(), settings);
        self.record(Op::Layer(Swap::new(None, Some((self.quilt.layers.len(), layer)))))
    }

    /// Removes a layer with its cells.
    ///
    /// # Errors
    /// A layer that is not there.
    pub fn remove_layer(&mut self, layer: impl LayerKey) -> Result<(), EditError> {
        let at = self.quilt.layer_at(layer)?;
        let removed = self.quilt.layers[at].clone();
        self.record(Op::Layer(Swap::new(Some((at, removed)), None)))
    }

    /// Moves a layer to another place in the order, 0 being the lowest; places beyond the last
    /// one mean the last.
    ///
    /// # Errors
    /// A layer that is not there.
    pub fn move_layer(&mut self, layer: impl LayerKey, place: usize) -> Result<(), EditError> {
        let at = self.quilt.layer_at(layer)?;
        let place = place.min(self.quilt.layers.len() - 1);
        let moved = self.quilt.layers[at].clone();
        let op = Op::Layer(Swap::new(Some((at, moved.clone())), Some((place, moved))));
        if at == place { Ok(()) } else { self.record(op) }
    }

    /// Gives a layer other settings.
    ///
    /// # Errors
    /// A layer that is not there; settings that cannot be, such as an opacity that is no number, or
    /// that name what the map does not have.
    pub fn set_layer(
        &mut self,
        layer: impl LayerKey,
        change: impl FnOnce(LayerSettings) -> LayerSettings,
    ) -> Result<(), EditError> {
        let layer = self.quilt.layer(layer)?;
        let (name, before) = (Arc::clone(&layer.name), layer.settings().clone());
        let after = change(before.clone());
        if after == before {
            return Ok(());
        }
        self.check_settings(&name, &after)?;
        self.record(Op::Settings { layer: name, settings: Swap::new(before, after) })
    }

    fn check_settings(&mut self, layer: &str, settings: &LayerSettings) -> Result<(), EditError> {
        if let Some(fault) = settings.fault() {
            return Err(EditError::Settings { layer: layer.to_owned(), fault });
        }
        check_data(&settings.data, || format!("layer `{layer}`"))?;
        if settings.palette.is_some_and(|palette| !self.quilt.has_palette(palette)) {
            return Err(EditError::OtherMap);
        }
        settings.backdrop.map_or(Ok(()), |cell| self.known(cell).map(drop))
    }

    /// States the bounds of the map; `None` goes back to the union of what the layers hold.
    ///
    /// # Errors
    /// Bounds without a cell.
    pub fn set_bounds(&mut self, bounds: Option<CellRect>) -> Result<(), EditError> {
        if bounds.is_some_and(CellRect::is_empty) {
            return Err(EditError::EmptyBounds);
        }
        let before = self.quilt.stated_bounds;
        if before == bounds { Ok(()) } else { self.record(Op::Bounds(Swap::new(before, bounds))) }
    }

    /// Gives the map other data of the game's own.
    ///
    /// # Errors
    /// Data that is nested deeper than 100 levels.
    pub fn set_data(&mut self, data: Value) -> Result<(), EditError> {
        check_data(&data, || "the map".to_owned())?;
        let before = Arc::clone(&self.quilt.data);
        if *before == data {
            return Ok(());
        }
        self.record(Op::Data(Swap::new(before, Arc::new(data))))
    }

    /// Adds a marker, or puts it in the place of the one with its name.
    ///
    /// # Errors
    /// A marker without a name, with too few points, or with numbers that are not finite; one that
    /// states ground and has no inside, is too large for that, or names an unknown class; data that
    /// is nested deeper than 100 levels.
    pub fn put_marker(&mut self, marker: Marker) -> Result<(), EditError> {
        if marker.name().is_empty() {
            return Err(EditError::NoName("marker"));
        }
        if !marker.stated_place().is_valid() {
            return Err(EditError::MarkerPlace(marker.name().to_owned()));
        }
        check_data(marker.data(), || format!("marker `{}`", marker.name()))?;
        if let Some(class) = marker.ground_name() {
            let name = || marker.name().to_owned();
            self.quilt
                .rules
                .class(class)
                .map_err(|source| EditError::MarkerClass { marker: name(), source })?;
            if !PlacedMarker::new(&marker, &self.quilt.lattice).can_ground() {
                return Err(EditError::MarkerGround(name()));
            }
        }
        let held = self.quilt.markers.get_full(marker.name());
        if held.is_some_and(|(_, _, held)| *held == marker) {
            return Ok(());
        }
        let before = held.map(|(at, _, held)| (at, held.clone()));
        let at = before.as_ref().map_or(self.quilt.markers.len(), |(at, _)| *at);
        self.record(Op::Marker(Swap::new(before, Some((at, marker)))))
    }

    /// Removes a marker.
    ///
    /// # Errors
    /// A name that no marker has.
    pub fn remove_marker(&mut self, name: &str) -> Result<(), EditError> {
        let marker = self.quilt.marker(name)?.marker().clone();
        let at = self.quilt.markers.get_index_of(name).unwrap_or_default();
        self.record(Op::Marker(Swap::new(Some((at, marker)), None)))
    }

    /// Adds a tile set, or puts it in the place of the one with its name. Cells keep what they
    /// show by name: tiles that the former set had alone are shown by a placeholder.
    ///
    /// # Errors
    /// A tile whose ground class the map does not have, or whose data is nested deeper than 100
    /// levels; too many tiles; a set that replaces one with a colour which a palette needs.
    pub fn put_tiles(&mut self, set: TileSet) -> Result<(), EditError> {
        for tile in set.tiles() {
            check_data(tile.data(), || format!("tile `{}`", set.full_name(tile)))?;
            if let Some(class) = tile.ground() {
                self.quilt.rules.class(class).map_err(|source| EditError::TileGround {
                    tile: set.full_name(tile).to_string(),
                    source,
                })?;
            }
        }
        let before = self.quilt.tiles().set(set.name()).cloned();
        if before.as_deref() == Some(&set) {
            return Ok(());
        }
        if before.is_some() {
            self.check_colors_without(&set)?;
        }
        self.record(Op::Tiles(Swap::new(before, Some(Arc::new(set)))))
    }

    /// Adds ground classes; those that are there already stay as they are.
    ///
    /// # Errors
    /// A name that cannot be one, or too many classes.
    pub fn add_ground_classes<'n>(
        &mut self,
        names: impl IntoIterator<Item = &'n str>,
    ) -> Result<(), EditError> {
        let mut after = (*self.quilt.rules).clone();
        for name in names {
            after.add_class(name)?;
        }
        self.set_rules(after)
    }

    /// States the colour in which pictures for people show a ground class, or lets one be chosen.
    ///
    /// # Errors
    /// A name that no class has.
    pub fn set_ground_color(&mut self, class: &str, color: Option<Color>) -> Result<(), EditError> {
        let mut after = (*self.quilt.rules).clone();
        after.set_class_color(class, color)?;
        self.set_rules(after)
    }

    /// Records other ground classes or movers, if they are others.
    fn set_rules(&mut self, after: GroundRules) -> Result<(), EditError> {
        let before = Arc::clone(&self.quilt.rules);
        if *before == after {
            return Ok(());
        }
        self.record(Op::Rules(Swap::new(before, Arc::new(after))))
    }

    /// Checks that every colour which a palette replaces is there when a set has replaced the one
    /// with its name.
    fn check_colors_without(&self, new: &TileSet) -> Result<(), EditError> {
        let others =
            self.quilt.tiles().sets().map(|set| &**set).filter(|set| set.name() != new.name());
        let named = color_names(others.chain([new]));
        for palette in self.quilt.palettes() {
            if let Some(source) = palette.unknown_color(&named) {
                let (palette, set) = (palette.name().to_owned(), new.name().to_owned());
                return Err(EditError::PaletteColor { palette, set, source });
            }
        }
        Ok(())
    }

    /// Adds a mover, or puts it in the place of the one with its name.
    ///
    /// # Errors
    /// A mover that names a class which the map does not have, or too many movers.
    pub fn put_mover(&mut self, mover: Mover) -> Result<(), EditError> {
        let mut after = (*self.quilt.rules).clone();
        after.put_mover(mover)?;
        self.set_rules(after)
    }

    /// Adds a palette in the next free slot, or puts it in the place of the one with its name.
    ///
    /// # Errors
    /// No name, a colour that no tile set names, or too many palettes.
    pub fn put_palette(&mut self, palette: Palette) -> Result<(), EditError> {
        if palette.name().is_empty() {
            return Err(EditError::NoName("palette"));
        }
        let sets = self.quilt.tiles().sets().map(|set| &**set);
        if let Some(source) = palette.unknown_color(&color_names(sets)) {
            let palette = palette.name().to_owned();
            return Err(PaletteError::Color { palette, source }.into());
        }
        let mut after = (*self.quilt.palettes).clone();
        match after.iter().position(|held| held.name() == palette.name()) {
            Some(place) => after[place] = palette.born(after[place].birth()),
            None if after.len() + 1 >= usize::from(Cell::PALETTES) => {
                return Err(PaletteError::TooMany.into());
            }
            None => after.push(palette.born(Birth::now())),
        }
        if after == *self.quilt.palettes {
            return Ok(());
        }
        self.record(Op::Palettes(Swap::new(Arc::clone(&self.quilt.palettes), Arc::new(after))))
    }

    /// A cell of another map as a cell of this one: the tile of the same name, with turn, raise and
    /// palette kept. A tile that no set here has is shown by a placeholder and keeps its name.
    ///
    /// # Errors
    /// Too many tiles, or a cell that is none of `from`.
    pub fn adopt(&mut self, from: &Quilt, cell: Cell) -> Result<Cell, EditError> {
        let Some(index) = cell.tile_index() else { return Ok(Cell::EMPTY) };
        let name = from.tiles().tile_of(cell).and_then(|theirs| from.tiles().name(theirs));
        let name = name.ok_or(EditError::UnknownTile(index))?;
        // The table only ever grows, so a name that is learnt needs no undoing.
        Ok(cell.with_number(self.quilt.tiles.intern(name)?))
    }

    /// The handle of a tile; see [`Quilt::tile`].
    ///
    /// # Errors
    /// A name that no tile set has.
    pub fn tile(&self, name: &str) -> Result<TileId, EditError> {
        Ok(self.quilt.tile(name)?)
    }
}
