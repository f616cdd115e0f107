//! The game's own values by cell.

use std::sync::Arc;

use super::change::Op;
use super::journal::{Journal, Journals};
use super::plane_changes::{Changes, PlaneChanges};
use super::{EditError, Pen};
use crate::plane::{OwnValue, PerKind, Plane, Planes, Stamp, ValueKind};
use crate::quilt::{ValueLayer, wrong_kind};
use crate::units::{CellPos, CellRect};

impl Pen<'_> {
    /// Adds a layer of values of the game's own, 0 in every cell.
    ///
    /// # Errors
    /// An empty name, or one that another value layer has.
    pub fn add_value_layer(&mut self, name: &str, kind: ValueKind) -> Result<(), EditError> {
        if name.is_empty() {
            return Err(EditError::NoName("value layer"));
        }
        if self.quilt.value_layer(name).is_ok() {
            return Err(EditError::ValueLayerExists(name.to_owned()));
        }
        let layer = ValueLayer::new(name, kind);
        self.record(Op::ValueLayer { before: None, after: Some((self.quilt.values.len(), layer)) })
    }

    /// Removes a value layer with its values.
    ///
    /// # Errors
    /// A name that no value layer has.
    pub fn remove_value_layer(&mut self, name: &str) -> Result<(), EditError> {
        let at = self.quilt.value_layer_at(name)?;
        let removed = self.quilt.values[at].clone();
        self.record(Op::ValueLayer { before: Some((at, removed)), after: None })
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
        let stamp = Stamp::next();
        let absent = |source| EditError::Absent { layer: layer.to_owned(), source };
        let before = plane.get(cell).or_absent(cell.chunk()).map_err(absent)?;
        if !before.same(value) {
            journal.note_cell(plane, cell, before);
            plane.set_stamped(cell, value, stamp).map_err(absent)?;
        }
        Ok(before)
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
        // What is 0 already needs no filling with it, so only what the layer holds counts then.
        let rect = if value.is_default() { rect.intersection(plane.bounds()) } else { rect };
        if rect.chunk_count() > Self::MOST_CHUNKS {
            return Err(EditError::TooLarge { rect, most: Self::MOST_CHUNKS });
        }
        let absent = |source| EditError::Absent { layer: layer.to_owned(), source };
        plane.check_here(rect).map_err(absent)?;
        let stamp = Stamp::next();
        for pos in rect.chunks() {
            journal.note_chunk(plane, pos);
            plane.fill_chunk(pos, rect, value, stamp);
        }
        Ok(())
    }

    /// A value layer to write to, with the journal of what it held.
    fn open_values<V: OwnValue>(
        &mut self,
        name: &str,
    ) -> Result<(&mut Journal<V>, &mut Plane<V>), EditError> {
        let at = self.quilt.value_layer_at(name)?;
        if self.quilt.values[at].kind() != V::KIND {
            return Err(wrong_kind::<V>(&self.quilt.values[at]).into());
        }
        let known = self.value_journals.iter().position(|(held, _)| *held == at);
        let known = known.unwrap_or_else(|| {
            self.value_journals.push((at, V::wrap::<Journals>(Journal::default())));
            self.value_journals.len() - 1
        });
        let journal = V::pick_mut::<Journals>(&mut self.value_journals[known].1);
        let values = Arc::make_mut(&mut self.quilt.values);
        match (journal, V::pick_mut::<Planes>(&mut values[at].plane)) {
            (Some(journal), Some(plane)) => Ok((journal, plane)),
            // The kind was compared above.
            _ => Err(EditError::Refused(format!("value layer `{name}` has changed its kind"))),
        }
    }
}

/// What was noted of a value layer, as an operation; nothing where nothing has changed.
pub(super) fn settled(layer: &ValueLayer, journal: PerKind<Journals>) -> Option<Op> {
    fn wrapped<V: OwnValue>(changes: PlaneChanges<V>) -> Option<PerKind<Changes>> {
        (!changes.is_empty()).then(|| V::wrap::<Changes>(changes))
    }
    let changes = match (journal, &layer.plane) {
        (PerKind::U32(journal), PerKind::U32(plane)) => wrapped(journal.into_changes(plane)),
        (PerKind::I32(journal), PerKind::I32(plane)) => wrapped(journal.into_changes(plane)),
        (PerKind::F32(journal), PerKind::F32(plane)) => wrapped(journal.into_changes(plane)),
        _ => {
            debug_assert!(false, "a value layer has changed its kind within an edit");
            None
        }
    };
    Some(Op::Values { layer: Arc::clone(&layer.name), changes: changes? })
}
