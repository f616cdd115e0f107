//! Changes of what a map holds besides cells: layers, markers, tile sets, classes, movers, palettes.

use std::sync::Arc;

use serde_json::Value;

use super::op::{Op, Swap};
use super::part::{Part, Placed};
use super::{EditError, Pen};
use crate::picture::Color;
use crate::quilt::{
    Class, Layer, LayerKey, LayerSettings, Marker, Mover, Named, Palette, PartError, Quilt,
    color_names,
};
use crate::tile::{Cell, TileId, TileNumber, TileSet, TileTable};
use crate::units::CellRect;
use crate::view::Projection;

impl Pen<'_> {
    /// Adds a layer on top of the order.
    ///
    /// # Errors
    /// An empty name, or one that another layer has; too many layers; settings that cannot be, such
    /// as an opacity that is not a number, or that name what the map does not have.
    pub fn add_layer(&mut self, name: &str, settings: LayerSettings) -> Result<(), EditError> {
        self.quilt.check_layer_name(name)?;
        self.quilt.check_settings(name, &settings)?;
        let layer = Layer::new(name.into(), settings);
        self.record(Op::Layer(Swap::new(None, Some((self.quilt.layers().len(), layer)))))
    }

    /// Removes a layer with its cells.
    ///
    /// # Errors
    /// A layer that is not there.
    pub fn remove_layer(&mut self, layer: impl LayerKey) -> Result<(), EditError> {
        let at = self.quilt.layer_at(layer)?;
        let removed = self.quilt.layers()[at].clone();
        self.record(Op::Layer(Swap::new(Some((at, removed)), None)))
    }

    /// Gives a layer another name. It keeps its handle, its place and its cells.
    ///
    /// # Errors
    /// A layer that is not there; an empty name, or one that another layer has.
    ///
    /// ```
    /// # let mut quilt = sturdy_quilt::doc_quilt();
    /// let handle = quilt.layer("soil")?.id();
    /// let edit = quilt.edit("plain words", |pen| pen.rename_layer("soil", "ground"))?;
    /// assert_eq!(quilt.layer(handle)?.name(), "ground");
    /// quilt.apply(&edit.changes.inverse())?;
    /// assert!(quilt.layer("soil").is_ok());
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    pub fn rename_layer(&mut self, layer: impl LayerKey, name: &str) -> Result<(), EditError> {
        let before = Arc::clone(self.quilt.layer(layer)?.shared_name());
        self.rename(Named::Layer, before, name)
    }

    /// Gives a value layer another name.
    ///
    /// # Errors
    /// A name that no value layer has; an empty one, or one that another value layer has.
    pub fn rename_value_layer(&mut self, layer: &str, name: &str) -> Result<(), EditError> {
        let at = self.quilt.value_layer_at(layer)?;
        let before = Arc::clone(self.quilt.value_layers()[at].shared_name());
        self.rename(Named::ValueLayer, before, name)
    }

    /// Gives a marker another name. It keeps its place among the others.
    ///
    /// # Errors
    /// A name that no marker has; an empty one, or one that another marker has.
    pub fn rename_marker(&mut self, marker: &str, name: &str) -> Result<(), EditError> {
        let before = Arc::clone(self.quilt.marker(marker)?.marker().shared_name());
        self.rename(Named::Marker, before, name)
    }

    fn rename(&mut self, of: Named, before: Arc<str>, name: &str) -> Result<(), EditError> {
        if *before == *name {
            return Ok(());
        }
        self.quilt.check_new_name(of, name)?;
        self.record(Op::Name { of, names: Swap::new(before, name.into()) })
    }

    /// Moves a layer to another place in the order, 0 being the lowest; places beyond the last
    /// one mean the last.
    ///
    /// # Errors
    /// A layer that is not there.
    pub fn move_layer(&mut self, layer: impl LayerKey, place: usize) -> Result<(), EditError> {
        let at = self.quilt.layer_at(layer)?;
        let place = place.min(self.quilt.layers().len() - 1);
        if at == place {
            return Ok(());
        }
        let layer = Arc::clone(self.quilt.layers()[at].shared_name());
        self.record(Op::Order { layer, places: Swap::new(at, place) })
    }

    /// Gives a layer other settings.
    ///
    /// # Errors
    /// A layer that is not there; settings that cannot be, such as an opacity that is not a number, or
    /// that name what the map does not have.
    pub fn set_layer(
        &mut self,
        layer: impl LayerKey,
        change: impl FnOnce(LayerSettings) -> LayerSettings,
    ) -> Result<(), EditError> {
        let layer = self.quilt.layer(layer)?;
        let (name, before) = (Arc::clone(layer.shared_name()), layer.settings().clone());
        let after = change(before.clone());
        if after == before {
            return Ok(());
        }
        self.quilt.check_settings(&name, &after)?;
        self.record(Op::Settings { layer: name, settings: Swap::new(before, after) })
    }

    /// States the bounds of the map; `None` goes back to the union of what the layers hold.
    ///
    /// # Errors
    /// Bounds without a cell.
    pub fn set_bounds(&mut self, bounds: Option<CellRect>) -> Result<(), EditError> {
        Quilt::check_bounds(bounds)?;
        let before = self.quilt.stated_bounds();
        if before == bounds { Ok(()) } else { self.record(Op::Bounds(Swap::new(before, bounds))) }
    }

    /// States how the map is meant to be seen.
    ///
    /// # Errors
    /// A projection at a slant that is made for cells of another size, or where a layer has bands.
    ///
    /// ```
    /// use sturdy_quilt::view::Projection;
    /// # let mut quilt = sturdy_quilt::doc_quilt();
    ///
    /// let diamond = Projection::diamond(quilt.lattice(), 64, 32)?;
    /// quilt.edit("see it at a slant", |pen| pen.set_projection(diamond))?;
    /// assert_eq!(*quilt.projection(), diamond);
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    pub fn set_projection(&mut self, projection: Projection) -> Result<(), EditError> {
        self.quilt.check_projection(&projection)?;
        let before = *self.quilt.projection();
        if before == projection {
            return Ok(());
        }
        self.record(Op::Projection(Swap::new(before, projection)))
    }

    /// Gives the map other data of the game's own.
    ///
    /// # Errors
    /// Data that is nested deeper than 100 levels.
    pub fn set_data(&mut self, data: Value) -> Result<(), EditError> {
        Quilt::check_data(&data)?;
        let before = Arc::clone(self.quilt.shared_data());
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
        self.quilt.check_marker(&marker)?;
        self.put_part(marker, Op::Marker)
    }

    /// Adds a part of the map, or puts it in the place of the one with its name; nothing where it is there
    /// already.
    fn put_part<T: Part>(
        &mut self,
        part: T,
        op: impl FnOnce(Swap<Placed<T>>) -> Op,
    ) -> Result<(), EditError> {
        let held = T::held(self.quilt, part.name());
        if held.is_some_and(|(_, held)| held.same(&part)) {
            return Ok(());
        }
        let before = held.map(|(at, held)| (at, held.clone()));
        let at = before.as_ref().map_or(T::count(self.quilt), |(at, _)| *at);
        self.record(op(Swap::new(before, Some((at, part)))))
    }

    /// Removes a marker.
    ///
    /// # Errors
    /// A name that no marker has.
    pub fn remove_marker(&mut self, name: &str) -> Result<(), EditError> {
        let marker = self.quilt.marker(name)?.marker().clone();
        let at = self.quilt.marker_at(name).map_or(0, |(at, _)| at);
        self.record(Op::Marker(Swap::new(Some((at, marker)), None)))
    }

    /// Adds a tile set, or puts it in the place of the one with its name. Cells keep what they
    /// show by name: tiles that the former set had alone are shown by a placeholder.
    ///
    /// # Errors
    /// A tile whose ground class the map does not have, or whose data is nested deeper than 100
    /// levels; too many tiles; a set that replaces one with a colour which a palette needs.
    pub fn put_tiles(&mut self, set: TileSet) -> Result<(), EditError> {
        self.quilt.check_set(&set)?;
        self.put_part(Arc::new(set), Op::Tiles)
    }

    /// Adds ground classes; those that are there already stay as they are.
    ///
    /// # Errors
    /// A name that cannot be one, or too many classes.
    pub fn add_ground_classes<'n>(
        &mut self,
        names: impl IntoIterator<Item = &'n str>,
    ) -> Result<(), EditError> {
        for name in names {
            self.quilt.ground_rules().check_class(name)?;
            if !self.quilt.ground_rules().has_class(name) {
                self.put_part(Class::new(name), Op::Class)?;
            }
        }
        Ok(())
    }

    /// States the colour in which pictures for people show a ground class, or lets one be chosen.
    ///
    /// # Errors
    /// A name that no class has.
    ///
    /// ```
    /// use sturdy_quilt::Color;
    /// # let mut quilt = sturdy_quilt::doc_quilt();
    ///
    /// let gray = Color::rgb(90, 90, 96);
    /// quilt.edit("gray stone", |pen| pen.set_ground_color("stone", Some(gray)))?;
    /// let rules = quilt.ground_rules();
    /// assert_eq!(rules.class_color(rules.class("stone")?), Some(gray));
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    pub fn set_ground_color(&mut self, class: &str, color: Option<Color>) -> Result<(), EditError> {
        self.quilt.ground_rules().class(class)?;
        let held = self.quilt.class_at(class).map(|(_, held)| held.clone().with_color(color));
        held.map_or(Ok(()), |class| self.put_part(class, Op::Class))
    }

    /// Adds a mover, or puts it in the place of the one with its name.
    ///
    /// # Errors
    /// A mover that names a class which the map does not have, or too many movers.
    pub fn put_mover(&mut self, mover: Mover) -> Result<(), EditError> {
        self.quilt.ground_rules().check_mover(&mover)?;
        let held = self.quilt.mover_at(mover.name()).is_some();
        self.put_part(if held { mover } else { mover.born() }, Op::Mover)
    }

    /// Adds a palette in the next free slot, or puts it in the place of the one with its name.
    ///
    /// # Errors
    /// No name, a colour that no tile set names, or too many palettes.
    pub fn put_palette(&mut self, palette: Palette) -> Result<(), EditError> {
        let sets = self.quilt.tiles().sets().map(|set| &**set);
        self.quilt.check_palette(&palette, Some(&color_names(sets)))?;
        self.put_part(palette.born_now(), Op::Palette)
    }

    /// Returns a cell of another map as a cell of this one: the tile of the same name, with turn,
    /// raise and palette kept. A tile that no set here has is shown by a placeholder and keeps its
    /// name.
    ///
    /// # Errors
    /// Too many tiles, or a cell that is none of `from`.
    pub fn adopt(&mut self, from: &Quilt, cell: Cell) -> Result<Cell, EditError> {
        if cell.is_empty() {
            return Ok(Cell::EMPTY);
        }
        Ok(cell.with_number(self.adopt_tile(from.tiles(), cell)?))
    }

    /// The number of the tile that has the name of one of another map.
    pub(super) fn adopt_tile(
        &mut self,
        from: &TileTable,
        cell: Cell,
    ) -> Result<TileNumber, EditError> {
        let name = from.tile_of(cell).and_then(|theirs| from.name(theirs));
        let name = name.ok_or(PartError::UnknownTile(cell.tile_index().unwrap_or(0)))?;
        Ok(self.quilt.intern_tile(name)?)
    }

    /// Returns the handle of a tile; see [`Quilt::tile`].
    ///
    /// # Errors
    /// A name that no tile set has.
    pub fn tile(&self, name: &str) -> Result<TileId, EditError> {
        Ok(self.quilt.tile(name)?)
    }
}
