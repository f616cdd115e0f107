//! What two maps differ in, as changes.

use std::sync::Arc;

use super::change::Changeset;
use super::error::ApplyError;
use super::op::{Op, Swap};
use super::part::{Part, Placed};
use super::plane_changes::PlaneChanges;
use crate::plane::{Stamp, Word, Words};
use crate::quilt::{Layer, LayerSettings, Named, Quilt, ValueLayer};
use crate::tile::{Cell, TileNumber};

impl Changeset {
    /// Returns the changes that make one map what another is: two snapshots of one map, or two maps, of which
    /// the second may have numbered its tiles otherwise. They are meant for the first one and its clones.
    ///
    /// # Errors
    /// Maps with different lattices, which no change makes equal; too many tiles; a part of either that is not
    /// loaded where they differ.
    ///
    /// Costs a look at the chunks that the two do not share, and at all else but cells; where tiles are
    /// numbered otherwise, a look at all chunks of the second.
    ///
    /// ```
    /// use sturdy_quilt::{CellPos, Changeset};
    /// # let mut quilt = sturdy_quilt::doc_quilt();
    ///
    /// let shipped = quilt.clone();
    /// quilt.edit("build", |pen| pen.put("soil", CellPos::new(0, 0), "garden/wall"))?;
    /// quilt.edit("rename", |pen| pen.rename_layer("soil", "ground"))?;
    /// let played = Changeset::between("a game", &shipped, &quilt)?;
    /// let mut again = shipped.clone();
    /// again.apply(&played)?;
    /// assert!(again.same_as(&quilt));
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    pub fn between(label: &str, before: &Quilt, after: &Quilt) -> Result<Changeset, ApplyError> {
        if before.lattice() != after.lattice() {
            return Err(ApplyError::Lattice);
        }
        let mut map = before.clone();
        map.catch_up_tiles();
        let numbers = Numbers::of(&mut map, after)?;
        let mut made = Made { map, ops: Vec::new(), stamp: Stamp::next() };
        let classes: Vec<_> = after.ground_rules().all_classes().cloned().collect();
        made.put_all(&classes, Op::Class)?;
        let sets: Vec<_> = after.tiles().sets().cloned().collect();
        made.put_all(&sets, Op::Tiles)?;
        made.remove_others(after.ground_rules().movers(), Op::Mover)?;
        made.put_all(after.ground_rules().movers(), Op::Mover)?;
        made.palettes(after)?;
        if *made.map.projection() != *after.projection() {
            made.push(Op::Projection(Swap::new(*made.map.projection(), *after.projection())))?;
        }
        made.layers(after, &numbers)?;
        made.values(after)?;
        let markers: Vec<_> = after.markers().map(|placed| placed.marker().clone()).collect();
        made.remove_others(&markers, Op::Marker)?;
        made.put_all(&markers, Op::Marker)?;
        made.remove_others(&sets, Op::Tiles)?;
        made.remove_others(&classes, Op::Class)?;
        if made.map.stated_bounds() != after.stated_bounds() {
            made.push(Op::Bounds(Swap::new(made.map.stated_bounds(), after.stated_bounds())))?;
        }
        let data = (Arc::clone(made.map.shared_data()), Arc::clone(after.shared_data()));
        if data.0 != data.1 {
            made.push(Op::Data(Swap::new(data.0, data.1)))?;
        }
        Ok(Changeset::of(label, made.ops, &made.map))
    }
}

/// What the numbers of the tiles of one map are in another.
enum Numbers {
    Same,
    /// By the places of the tiles in the table of the second map.
    Others(Vec<TileNumber>),
}

impl Numbers {
    fn of(map: &mut Quilt, after: &Quilt) -> Result<Numbers, ApplyError> {
        if map.tiles().same_descent(after.tiles()) {
            return Ok(Numbers::Same);
        }
        let names = after.tiles().ids().filter_map(|id| after.tiles().name(id));
        let numbers = names.map(|name| Ok(map.intern_tile(name)?));
        Ok(Numbers::Others(numbers.collect::<Result<_, ApplyError>>()?))
    }

    fn cell(&self, cell: Cell) -> Cell {
        match (self, cell.tile_index()) {
            (Numbers::Others(numbers), Some(index)) => {
                numbers.get(index).map_or(cell, |number| cell.with_number(*number))
            }
            _ => cell,
        }
    }

    fn words(&self, words: &Words) -> Words {
        let of_word = |word| self.cell(Cell::of_word(word)).to_bits();
        match self {
            Numbers::Same => words.clone(),
            Numbers::Others(_) => words.mapped(of_word),
        }
    }

    /// Settings of the second map, in the first with the palettes of the second.
    fn settings(&self, settings: &LayerSettings, map: &Quilt) -> LayerSettings {
        let palette =
            settings.palette.map(|own| map.palette_in(own.slot()).unwrap_or(own.without_palette()));
        let backdrop = settings.backdrop.map(|cell| self.cell(cell));
        settings.clone().with_palette(palette).with_backdrop(backdrop)
    }
}

/// The changes so far, and the map as they leave it.
struct Made {
    map: Quilt,
    ops: Vec<Op>,
    stamp: Stamp,
}

impl Made {
    fn push(&mut self, op: Op) -> Result<(), ApplyError> {
        op.apply(&mut self.map, self.stamp)?;
        self.ops.push(op);
        Ok(())
    }

    /// Removes the parts that are not among those wanted.
    fn remove_others<T: Part>(
        &mut self,
        wanted: &[T],
        op: impl Fn(Swap<Placed<T>>) -> Op,
    ) -> Result<(), ApplyError> {
        let names: std::collections::HashSet<&str> = wanted.iter().map(T::name).collect();
        let others: Vec<(usize, T)> = T::all(&self.map)
            .enumerate()
            .filter(|(_, held)| !names.contains(held.name()))
            .map(|(at, held)| (at, held.clone()))
            .collect();
        // From the last on, so that each is where it says.
        others.into_iter().rev().try_for_each(|other| self.push(op(Swap::new(Some(other), None))))
    }

    /// Adds the parts that are wanted, and puts them in their places. Others may come behind them.
    fn put_all<T: Part>(
        &mut self,
        wanted: &[T],
        op: impl Fn(Swap<Placed<T>>) -> Op,
    ) -> Result<(), ApplyError> {
        for (at, part) in wanted.iter().enumerate() {
            let held = T::held(&self.map, part.name()).map(|(place, held)| (place, held.clone()));
            match held {
                Some((place, held)) if place == at && held.same(part) => {}
                Some((place, held)) if place != at => {
                    let again = if held.same(part) { held.clone() } else { part.clone() };
                    self.push(op(Swap::new(Some((place, held)), None)))?;
                    self.push(op(Swap::new(None, Some((at, again)))))?;
                }
                held => self.push(op(Swap::new(held, Some((at, part.clone())))))?,
            }
        }
        Ok(())
    }

    /// Palettes by their slots: those from the first one on that has another name are removed and added anew.
    fn palettes(&mut self, after: &Quilt) -> Result<(), ApplyError> {
        let names = |quilt: &Quilt| -> Vec<String> {
            quilt.palettes().iter().map(|palette| palette.name().to_owned()).collect()
        };
        let (held, wanted) = (names(&self.map), names(after));
        let same = held.iter().zip(&wanted).take_while(|(a, b)| a == b).count();
        self.remove_others(&after.palettes()[..same], Op::Palette)?;
        self.put_all(after.palettes(), Op::Palette)
    }

    fn layers(&mut self, after: &Quilt, numbers: &Numbers) -> Result<(), ApplyError> {
        for layer in after.layers() {
            let held = self.map.layer(layer.id()).ok();
            let renamed = held.filter(|held| {
                held.name() != layer.name()
                    && !self.map.has_layer(layer.name())
                    && after.layer(held.name()).is_err()
            });
            if let Some(held) = renamed {
                let names = (Arc::clone(held.shared_name()), Arc::clone(layer.shared_name()));
                self.push(Op::Name { of: Named::Layer, names: Swap::new(names.0, names.1) })?;
            }
        }
        self.remove_others(after.layers(), Op::Layer)?;
        for (at, layer) in after.layers().iter().enumerate() {
            let settings = numbers.settings(layer.settings(), &self.map);
            let name = Arc::clone(layer.shared_name());
            let Some((place, held)) = self.map.layer_of(&name) else {
                let is_new = self.map.layer(layer.id()).is_err();
                let added = match numbers {
                    Numbers::Same if is_new => layer.clone(),
                    _ => Layer::of_words(name, settings, numbers.words(layer.cells().words())),
                };
                self.push(Op::Layer(Swap::new(None, Some((at, added)))))?;
                continue;
            };
            let before = held.settings().clone();
            let changes =
                PlaneChanges::between(held.cells().words(), &numbers.words(layer.cells().words()));
            let changes = changes.map_err(|held| held.error("layer", &name))?;
            if place != at {
                let layer = Arc::clone(&name);
                self.push(Op::Order { layer, places: Swap::new(place, at) })?;
            }
            if before != settings {
                let settings = Swap::new(before, settings);
                self.push(Op::Settings { layer: Arc::clone(&name), settings })?;
            }
            if !changes.is_empty() {
                self.push(Op::Cells { layer: name, changes })?;
            }
        }
        Ok(())
    }

    fn values(&mut self, after: &Quilt) -> Result<(), ApplyError> {
        let wanted = after.value_layers();
        self.remove_others(wanted, Op::ValueLayer)?;
        for (at, layer) in wanted.iter().enumerate() {
            let held = self.map.value_layer_of(layer.name());
            let fits = |held: &(usize, &ValueLayer)| held.0 == at && held.1.kind() == layer.kind();
            let Some((_, held)) = held.filter(fits) else {
                if let Some((place, held)) = held {
                    let held = (place, held.clone());
                    self.push(Op::ValueLayer(Swap::new(Some(held), None)))?;
                }
                self.push(Op::ValueLayer(Swap::new(None, Some((at, layer.clone())))))?;
                continue;
            };
            let changes = PlaneChanges::between(held.words(), layer.words());
            let changes = changes.map_err(|held| held.error("value layer", layer.name()))?;
            if !changes.is_empty() {
                let (layer, kind) = (Arc::clone(layer.shared_name()), layer.kind());
                self.push(Op::Values { layer, kind, changes })?;
            }
        }
        Ok(())
    }
}
