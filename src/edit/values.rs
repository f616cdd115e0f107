//! The game's own values by cell.

use super::change::{Op, Swap};
use super::journal::{Journal, check_size, journal_of};
use super::lay::{bands, fill_by};
use super::{EditError, Pen};
use crate::plane::{OwnValue, ValueKind, Words};
use crate::quilt::{ValueLayer, wrong_kind};
use crate::units::{CellPos, CellRect};

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
        let (journal, words) = self.open_values(layer, V::KIND)?;
        journal.put(layer, words, cell, value.to_bits()).map(V::of_word)
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
        let (journal, words) = self.open_values(layer, V::KIND)?;
        journal.fill(layer, words, rect, value.to_bits())
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
            let (journal, words) = self.open_values(layer, V::KIND)?;
            journal.put_rect(layer, words, band, V::words(&values))?;
        }
        Ok(())
    }

    /// A value layer of a kind to write to, with the journal of what it held.
    fn open_values(
        &mut self,
        name: &str,
        kind: ValueKind,
    ) -> Result<(&mut Journal, &mut Words), EditError> {
        let at = self.quilt.value_layer_at(name)?;
        let layer = &self.quilt.value_layers()[at];
        if layer.kind() != kind {
            return Err(wrong_kind(layer, kind).into());
        }
        Ok((journal_of(&mut self.value_journals, at), self.quilt.values_mut(at)))
    }
}
