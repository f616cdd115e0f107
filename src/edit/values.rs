//! The game's own values by cell.

use super::change::{Op, Swap};
use super::journal::{Journal, Journals, check_size, journal_of};
use super::lay::{bands, fill_by};
use super::{EditError, Pen};
use crate::plane::{OwnValue, Plane, Planes, ValueKind};
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

    /// Gives a cell another value, and gives the one it had.
    ///
    /// # Errors
    /// A value layer that is not there or holds another kind, or a cell that is not loaded.
    pub fn put_value<V: OwnValue>(
        &mut self,
        layer: &str,
        cell: CellPos,
        value: V,
    ) -> Result<V, EditError> {
        let (journal, plane) = self.open_values::<V>(layer)?;
        journal.put(layer, plane, cell, value)
    }

    /// Gives every cell of a rectangle the same value.
    ///
    /// # Errors
    /// As [`Pen::put_value`]; and a rectangle that touches more than [`Pen::MOST_CHUNKS`] chunks.
    ///
    /// Whole chunks cost no look at their cells, neither here nor when it is undone.
    pub fn fill_values<V: OwnValue>(
        &mut self,
        layer: &str,
        rect: CellRect,
        value: V,
    ) -> Result<(), EditError> {
        let (journal, plane) = self.open_values::<V>(layer)?;
        journal.fill(layer, plane, rect, value)
    }

    /// Gives each cell of a rectangle the value that a rule says of it, row by row. Costs a call a
    /// cell, and memory as [`Pen::put_each`].
    ///
    /// # Errors
    /// As [`Pen::fill_values`].
    ///
    /// ```
    /// use sturdy_quilt::{CellPos, CellRect, ValueKind};
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
        self.open_values::<V>(layer)?;
        check_size(rect)?;
        let mut values = Vec::new();
        for band in bands(rect) {
            fill_by(band, &mut rule, &mut values);
            let (journal, plane) = self.open_values::<V>(layer)?;
            journal.put_rect(layer, plane, band, &values)?;
        }
        Ok(())
    }

    /// A value layer to write to, with the journal of what it held.
    fn open_values<V: OwnValue>(
        &mut self,
        name: &str,
    ) -> Result<(&mut Journal<V>, &mut Plane<V>), EditError> {
        let at = self.quilt.value_layer_at(name)?;
        if self.quilt.value_layers()[at].kind() != V::KIND {
            return Err(wrong_kind::<V>(&self.quilt.value_layers()[at]).into());
        }
        let begin = || V::wrap::<Journals>(Journal::default());
        let journal = V::pick_mut::<Journals>(journal_of(&mut self.value_journals, at, begin));
        match (journal, V::pick_mut::<Planes>(self.quilt.values_mut(at))) {
            (Some(journal), Some(plane)) => Ok((journal, plane)),
            // The kind was compared above.
            _ => Err(EditError::Refused(format!("value layer `{name}` has changed its kind"))),
        }
    }
}
