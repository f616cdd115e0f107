//! The game's own values by cell.

use super::lay::{bands, check_count, fill_by};
use super::notes::{Notes, notes_of};
use super::op::{Op, Swap};
use super::{EditError, Pen};
use crate::cell_set::{CellSet, CellSetError, check_size};
use crate::lattice::Lattice;
use crate::plane::{OwnValue, ValueKind, Words};
use crate::quilt::{ValueLayer, wrong_kind};
use crate::units::{CellPos, CellRect, WorldPoint, WorldRect};

/// A round brush with a soft edge.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct SoftBrush {
    center: WorldPoint,
    radius_world: f64,
    core_world: f64,
}

impl SoftBrush {
    /// Returns a brush that is as strong as can be at its centre alone, and has no strength from
    /// `radius_world` units on.
    pub const fn new(center: WorldPoint, radius_world: f64) -> SoftBrush {
        SoftBrush { center, radius_world, core_world: 0.0 }
    }

    /// Returns this brush with a core: up to so many units from the centre it is as strong as can be.
    #[must_use]
    pub const fn with_core(mut self, core_world: f64) -> SoftBrush {
        self.core_world = core_world;
        self
    }

    /// Returns how strong the brush is at a place, from 0 to 1: it falls along the curve 1 − 3t² + 2t³,
    /// which begins and ends level.
    pub fn strength(&self, place: WorldPoint) -> f64 {
        let way = place - self.center;
        let distance = (way.x * way.x + way.y * way.y).sqrt();
        if distance <= self.core_world && distance < self.radius_world {
            return 1.0;
        }
        let t = (distance - self.core_world) / (self.radius_world - self.core_world);
        if (0.0..1.0).contains(&t) { 1.0 - t * t * (3.0 - 2.0 * t) } else { 0.0 }
    }

    /// The cells in whose centres it has strength.
    fn cells(&self, lattice: &Lattice) -> Result<CellSet, CellSetError> {
        let around = WorldRect::between(self.center, self.center).grown(self.radius_world);
        CellSet::of_rect_where(lattice.cells_in(around), |cell| {
            self.strength(lattice.center(cell)) > 0.0
        })
    }
}

impl Pen<'_> {
    /// Adds a layer of values of the game's own, 0 in every cell.
    ///
    /// # Errors
    /// An empty name, or one that another value layer has.
    pub fn add_value_layer(&mut self, name: &str, kind: ValueKind) -> Result<(), EditError> {
        self.quilt.check_value_layer_name(name)?;
        let layer = ValueLayer::new(name, kind);
        self.record(Op::ValueLayer(Swap::new(None, Some((self.quilt.value_layers().len(), layer)))))
    }

    /// Removes a value layer with its values.
    ///
    /// # Errors
    /// A name that no value layer has.
    pub fn remove_value_layer(&mut self, name: &str) -> Result<(), EditError> {
        let at = self.quilt.value_layer_at(name)?;
        let removed = self.quilt.value_layers()[at].clone();
        self.record(Op::ValueLayer(Swap::new(Some((at, removed)), None)))
    }

    /// Changes the value of a cell and returns the one it had.
    ///
    /// # Errors
    /// A value layer that is not there or holds another kind, or a cell that is not loaded.
    pub fn put_value<V: OwnValue>(
        &mut self,
        layer: &str,
        cell: CellPos,
        value: V,
    ) -> Result<V, EditError> {
        let (notes, words) = self.open_values(layer, V::KIND)?;
        notes.put(layer, words, cell, value.to_bits()).map(V::of_word)
    }

    /// Gives every cell of a rectangle the same value.
    ///
    /// # Errors
    /// As [`Pen::put_value`]; and a rectangle that touches more than [`Pen::MAX_CHUNKS`] chunks.
    ///
    /// Whole chunks cost no look at their cells, neither here nor when it is undone.
    pub fn fill_values<V: OwnValue>(
        &mut self,
        layer: &str,
        rect: CellRect,
        value: V,
    ) -> Result<(), EditError> {
        let (notes, words) = self.open_values(layer, V::KIND)?;
        notes.fill(layer, words, rect, value.to_bits())
    }

    /// Gives each cell of a rectangle the value that a rule says of it, row by row. Costs a call a
    /// cell, and memory as [`Pen::put_each`].
    ///
    /// # Errors
    /// As [`Pen::fill_values`].
    ///
    /// ```
    /// use sturdy_quilt::plane::ValueKind;
    /// use sturdy_quilt::{CellPos, CellRect};
    /// # let mut quilt = sturdy_quilt::doc_quilt();
    ///
    /// let bed = CellRect::between(CellPos::new(-2, 0), CellPos::new(2, 3));
    /// quilt.edit("water flows down", |pen| {
    ///     pen.add_value_layer("wet", ValueKind::F32)?;
    ///     pen.put_each_value("wet", bed, |cell| 0.25 * cell.y() as f32)
    /// })?;
    /// assert_eq!(quilt.values::<f32>("wet")?.get(CellPos::new(-2, 3)).here(), Some(0.75));
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    pub fn put_each_value<V: OwnValue>(
        &mut self,
        layer: &str,
        rect: CellRect,
        mut rule: impl FnMut(CellPos) -> V,
    ) -> Result<(), EditError> {
        // Before the rule is asked anything.
        self.open_values(layer, V::KIND)?;
        check_size(rect)?;
        let mut values = Vec::new();
        for band in bands(rect) {
            fill_by(band, &mut rule, &mut values);
            let (notes, words) = self.open_values(layer, V::KIND)?;
            notes.put_rect(layer, words, band, V::words(&values))?;
        }
        Ok(())
    }

    /// Puts values into a rectangle, row by row. There must be one for each cell.
    ///
    /// # Errors
    /// As [`Pen::fill_values`]; another number of values than the rectangle has cells.
    pub fn put_value_rect<V: OwnValue>(
        &mut self,
        layer: &str,
        rect: CellRect,
        values: &[V],
    ) -> Result<(), EditError> {
        check_size(rect)?;
        check_count(rect, values.len())?;
        let (notes, words) = self.open_values(layer, V::KIND)?;
        notes.put_rect(layer, words, rect, V::words(values))
    }

    /// Gives each cell of a set the value that a rule says of it and of the value that it has, and returns
    /// the cells that were changed. Costs a call a cell.
    ///
    /// # Errors
    /// As [`Pen::put_value`]. Cells that the [rules](super::EditRules) of the edit keep from it are left as
    /// they are.
    ///
    /// ```
    /// use sturdy_quilt::plane::ValueKind;
    /// use sturdy_quilt::{CellPos, CellSet};
    /// # let mut quilt = sturdy_quilt::doc_quilt();
    ///
    /// let row = CellSet::line(CellPos::new(0, 0), CellPos::new(4, 0))?;
    /// quilt.edit("growth", |pen| {
    ///     pen.add_value_layer("growth", ValueKind::U32)?;
    ///     pen.change_values("growth", &row, |cell, held: u32| held + cell.x() as u32)?;
    ///     pen.add_to_values::<u32>("growth", &row, 10.0)?;
    ///     pen.clamp_values("growth", &row, 11_u32, 13)
    /// })?;
    /// let growth = quilt.values::<u32>("growth")?;
    /// let values: Vec<u32> = row.iter().filter_map(|cell| growth.get(cell).here()).collect();
    /// assert_eq!(values, [11, 11, 12, 13, 13]);
    /// # Ok::<(), sturdy_quilt::EditError>(())
    /// ```
    pub fn change_values<V: OwnValue>(
        &mut self,
        layer: &str,
        cells: &CellSet,
        mut rule: impl FnMut(CellPos, V) -> V,
    ) -> Result<CellSet, EditError> {
        let cells = &*self.allowed(cells);
        let (notes, words) = self.open_values(layer, V::KIND)?;
        notes.put_set(layer, words, cells, |cell, held| rule(cell, V::of_word(held)).to_bits())
    }

    /// Gives each cell of a set the same value, and returns the cells that were changed. Costs a look at
    /// each chunk, and 64 cells at a time.
    ///
    /// # Errors
    /// As [`Pen::change_values`].
    pub fn set_values<V: OwnValue>(
        &mut self,
        layer: &str,
        cells: &CellSet,
        value: V,
    ) -> Result<CellSet, EditError> {
        let cells = &*self.allowed(cells);
        let (notes, words) = self.open_values(layer, V::KIND)?;
        notes.fill_set(layer, words, cells, value.to_bits())
    }

    /// Adds a number, which may be negative, to the value of each cell of a set, and returns the cells that
    /// were changed; see [`OwnValue::plus`].
    ///
    /// # Errors
    /// As [`Pen::change_values`].
    pub fn add_to_values<V: OwnValue>(
        &mut self,
        layer: &str,
        cells: &CellSet,
        amount: f64,
    ) -> Result<CellSet, EditError> {
        self.change_values(layer, cells, |_, held: V| held.plus(amount))
    }

    /// Brings the value of each cell of a set to the nearest one from `least` to `most`, and returns the
    /// cells that were changed. Where `least` is more than `most`, all become `most`; a value that is not a
    /// number stays as it is.
    ///
    /// # Errors
    /// As [`Pen::change_values`].
    pub fn clamp_values<V: OwnValue>(
        &mut self,
        layer: &str,
        cells: &CellSet,
        least: V,
        most: V,
    ) -> Result<CellSet, EditError> {
        self.change_values(layer, cells, |_, held: V| {
            let held = if held < least { least } else { held };
            if held > most { most } else { held }
        })
    }

    /// Adds a number to the values around a place with a soft round brush: as it is in the core, less and
    /// less towards the rim, nothing beyond. Returns the cells that were changed.
    ///
    /// # Errors
    /// As [`Pen::change_values`]; a brush that is too large.
    ///
    /// ```
    /// use sturdy_quilt::edit::SoftBrush;
    /// use sturdy_quilt::plane::ValueKind;
    /// use sturdy_quilt::{CellPos, WorldPoint};
    /// # let mut quilt = sturdy_quilt::doc_quilt();
    ///
    /// let hill = SoftBrush::new(WorldPoint::new(8.0, 8.0), 80.0).with_core(16.0);
    /// quilt.edit("a hill", |pen| {
    ///     pen.add_value_layer("height", ValueKind::F32)?;
    ///     pen.brush_values::<f32>("height", &hill, 12.0)
    /// })?;
    /// let height = quilt.values::<f32>("height")?;
    /// let row: Vec<f32> = (0..6).filter_map(|x| height.get(CellPos::new(x, 0)).here()).collect();
    /// assert_eq!(row, [12.0, 12.0, 10.125, 6.0, 1.875, 0.0]);
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    pub fn brush_values<V: OwnValue>(
        &mut self,
        layer: &str,
        brush: &SoftBrush,
        amount: f64,
    ) -> Result<CellSet, EditError> {
        let lattice = *self.quilt.lattice();
        let cells = brush.cells(&lattice)?;
        self.change_values(layer, &cells, |cell, held: V| {
            held.plus(amount * brush.strength(lattice.center(cell)))
        })
    }

    /// A value layer of a kind to write to, with the notes of what it held.
    pub(super) fn open_values(
        &mut self,
        name: &str,
        kind: ValueKind,
    ) -> Result<(&mut Notes, &mut Words), EditError> {
        let at = self.quilt.value_layer_at(name)?;
        let layer = &self.quilt.value_layers()[at];
        if layer.kind() != kind {
            return Err(wrong_kind(layer, kind).into());
        }
        Ok((notes_of(&mut self.value_notes, at), self.quilt.values_mut(at)))
    }
}
