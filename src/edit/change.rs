//! Changesets: what an edit did, as a list of operations that can be undone and done again.

use std::sync::Arc;

use serde_json::Value;

use super::plane_changes::{CellChange, Changes, PlaneChanges};
use crate::near::NameError;
use crate::plane::{PerKind, Stamp};
use crate::quilt::{GroundRules, Layer, LayerSettings, Marker, Palette, Quilt, ValueLayer};
use crate::tile::{Cell, TableFullError, TileSet, TileTable};
use crate::units::{CellPos, CellRect};

/// What one edit changed: undoable, and applicable to every clone of the map.
///
/// Large changes share their chunks with the map, so undoing a giant fill is a swap of chunks.
///
/// ```
/// use sturdy_quilt::{Cell, CellPos};
/// # let mut quilt = sturdy_quilt::doc_quilt();
///
/// let before = quilt.clone();
/// let wall = quilt.tile("garden/wall")?;
/// let edit = quilt.edit("build", |pen| pen.put("soil", CellPos::new(0, 0), wall))?;
/// assert_eq!(edit.changes.cells().count(), 1);
/// quilt.apply(&edit.changes.inverse())?;
/// assert!(quilt.same_as(&before));
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
#[derive(Clone)]
pub struct Changeset {
    pub(super) label: Arc<str>,
    pub(super) ops: Vec<Op>,
    /// The table by whose numbers the cells are meant.
    pub(super) tiles: TileTable,
}

/// One operation: from what it expects to what it leaves. Turning it round undoes it.
#[derive(Clone)]
pub(super) enum Op {
    /// Cells of a layer.
    Cells { layer: Arc<str>, changes: PlaneChanges<Cell> },
    /// Values of a value layer.
    Values { layer: Arc<str>, changes: PerKind<Changes> },
    /// A value layer added or removed, with its place among the others.
    ValueLayer { before: Option<(usize, ValueLayer)>, after: Option<(usize, ValueLayer)> },
    /// A layer added, removed, or moved in the order.
    Layer { before: Option<(usize, Layer)>, after: Option<(usize, Layer)> },
    /// Other settings of a layer.
    Settings { layer: Arc<str>, before: LayerSettings, after: LayerSettings },
    /// Other stated bounds.
    Bounds { before: Option<CellRect>, after: Option<CellRect> },
    /// Other data of the map.
    Data { before: Arc<Value>, after: Arc<Value> },
    /// A marker added, removed or changed, with its place among the others.
    Marker { before: Option<(usize, Marker)>, after: Option<(usize, Marker)> },
    /// A tile set added, removed or replaced. The table keeps its numbers either way.
    Tiles { before: Option<Arc<TileSet>>, after: Option<Arc<TileSet>> },
    /// Other ground classes or movers.
    Rules { before: Arc<GroundRules>, after: Arc<GroundRules> },
    /// Other palettes.
    Palettes { before: Arc<Vec<Palette>>, after: Arc<Vec<Palette>> },
}

/// One changed cell of a [`Changeset`].
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct CellEdit<'a> {
    /// The name of the layer.
    pub layer: &'a str,
    /// The cell.
    pub cell: CellPos,
    /// What it held before.
    pub before: Cell,
    /// What it holds after.
    pub after: Cell,
}

/// Why changes cannot be applied to a map. Nothing of them remains in it.
#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
#[non_exhaustive]
pub enum ApplyError {
    /// They were made in a map of another descent, whose tiles have other numbers.
    #[error("the changes belong to another map")]
    OtherMap,
    /// A layer is not there.
    #[error(transparent)]
    Name(#[from] NameError),
    /// The map no longer holds what the changes expect to find.
    #[error("the map has changed meanwhile: {0} is not what the changes expect")]
    Differs(String),
    /// There are too many tiles.
    #[error(transparent)]
    TableFull(#[from] TableFullError),
}

impl Changeset {
    /// What the edit was called.
    pub fn label(&self) -> &str {
        &self.label
    }

    /// Whether nothing was changed.
    pub fn is_empty(&self) -> bool {
        self.ops.is_empty()
    }

    /// The changes that undo these.
    #[must_use]
    pub fn inverse(&self) -> Changeset {
        let ops = self.ops.iter().rev().map(Op::inverse).collect();
        Changeset { label: self.label.clone(), ops, tiles: self.tiles.clone() }
    }

    /// Every changed cell with what it held before and after, in the order of the operations.
    ///
    /// Layers that were added or removed as a whole do not count cell by cell. Chunks that were
    /// changed as a whole cost a look at each of their cells.
    pub fn cells(&self) -> impl Iterator<Item = CellEdit<'_>> {
        self.ops.iter().flat_map(|op| {
            let (layer, changes): (&str, _) = match op {
                Op::Cells { layer, changes } => (layer, Some(changes)),
                _ => ("", None),
            };
            let each = changes.into_iter().flat_map(PlaneChanges::each);
            each.map(move |CellChange { cell, before, after }| CellEdit {
                layer,
                cell,
                before,
                after,
            })
        })
    }
}

impl std::fmt::Debug for Changeset {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        write!(f, "Changeset({}, {} operations)", self.label, self.ops.len())
    }
}

impl Quilt {
    /// Does what another edit did, here or in a clone; with [`Changeset::inverse`], undoes it.
    ///
    /// # Errors
    /// When the map does not hold what the changes expect, or they belong to another map. Then
    /// nothing is changed: they are applied as a whole or not at all.
    ///
    /// Costs a look at each changed cell, and for chunks changed as a whole nothing a cell as long
    /// as the map shares them.
    pub fn apply(&mut self, changes: &Changeset) -> Result<(), ApplyError> {
        if !self.tiles.same_descent(&changes.tiles) {
            return Err(ApplyError::OtherMap);
        }
        self.tiles.catch_up();
        let stamp = Stamp::next();
        for (done, op) in changes.ops.iter().enumerate() {
            if let Err(error) = op.check(self).and_then(|()| op.apply(self, stamp)) {
                revert(self, &changes.ops[..done], stamp);
                return Err(error);
            }
        }
        Ok(())
    }
}

/// Undoes operations that were just done, so that nothing can stand in the way.
pub(super) fn revert(quilt: &mut Quilt, ops: &[Op], stamp: Stamp) {
    for op in ops.iter().rev() {
        let undone = op.inverse().apply(quilt, stamp);
        debug_assert!(undone.is_ok(), "an operation that was just done cannot be undone");
    }
}

impl Op {
    fn inverse(&self) -> Op {
        match self.clone() {
            Op::Cells { layer, changes } => Op::Cells { layer, changes: changes.inverse() },
            Op::Values { layer, changes } => Op::Values { layer, changes: changes.inverse() },
            Op::ValueLayer { before, after } => Op::ValueLayer { before: after, after: before },
            Op::Layer { before, after } => Op::Layer { before: after, after: before },
            Op::Settings { layer, before, after } => {
                Op::Settings { layer, before: after, after: before }
            }
            Op::Bounds { before, after } => Op::Bounds { before: after, after: before },
            Op::Data { before, after } => Op::Data { before: after, after: before },
            Op::Marker { before, after } => Op::Marker { before: after, after: before },
            Op::Tiles { before, after } => Op::Tiles { before: after, after: before },
            Op::Rules { before, after } => Op::Rules { before: after, after: before },
            Op::Palettes { before, after } => Op::Palettes { before: after, after: before },
        }
    }

    /// Whether the map holds what the operation expects.
    fn check(&self, quilt: &Quilt) -> Result<(), ApplyError> {
        let differs = |what: String| Err(ApplyError::Differs(what));
        match self {
            Op::Cells { layer, changes } => match changes.differs(quilt.layer(&**layer)?.cells()) {
                Some(place) => differs(format!("{place} of layer `{layer}`")),
                None => Ok(()),
            },
            Op::Values { layer, changes } => {
                match changes.differs(&quilt.value_layer(layer)?.plane) {
                    Some(place) => differs(format!("{place} of value layer `{layer}`")),
                    None => Ok(()),
                }
            }
            Op::ValueLayer { before, after } => {
                let Some((_, layer)) = before.as_ref().or(after.as_ref()) else { return Ok(()) };
                let expected = before.as_ref().map(|(_, layer)| layer);
                if quilt.value_layer(layer.name()).ok() != expected {
                    return differs(format!("value layer `{}`", layer.name()));
                }
                Ok(())
            }
            Op::Layer { before: Some((at, layer)), .. } => match quilt.layers().get(*at) {
                Some(held) if held.same_as(layer) => Ok(()),
                _ => differs(format!("layer `{}`", layer.name())),
            },
            Op::Layer { before: None, after: Some((at, layer)) } => {
                if quilt.layer(layer.name()).is_ok() || *at > quilt.layers().len() {
                    return differs(format!("layer `{}`", layer.name()));
                }
                Ok(())
            }
            Op::Layer { before: None, after: None } => Ok(()),
            Op::Settings { layer, before, .. } => {
                if quilt.layer(&**layer)?.settings() != before {
                    return differs(format!("layer `{layer}`"));
                }
                Ok(())
            }
            Op::Bounds { before, .. } => {
                if quilt.stated_bounds != *before {
                    return differs("what the map states as its bounds".to_owned());
                }
                Ok(())
            }
            Op::Data { before, .. } => {
                if quilt.data != *before {
                    return differs("the data of the map".to_owned());
                }
                Ok(())
            }
            Op::Marker { before, after } => {
                let Some((_, marker)) = before.as_ref().or(after.as_ref()) else { return Ok(()) };
                let expected = before.as_ref().map(|(_, marker)| marker);
                if quilt.markers.get(marker.name()) != expected {
                    return differs(format!("marker `{}`", marker.name()));
                }
                Ok(())
            }
            Op::Tiles { before, after } => {
                let Some(set) = before.as_ref().or(after.as_ref()) else { return Ok(()) };
                if quilt.tiles().set(set.name()) != before.as_ref() {
                    return differs(format!("tile set `{}`", set.name()));
                }
                Ok(())
            }
            Op::Rules { before, .. } => {
                if quilt.rules != *before {
                    return differs("the table of ground classes and movers".to_owned());
                }
                Ok(())
            }
            Op::Palettes { before, .. } => {
                if quilt.palettes != *before {
                    return differs("the list of palettes".to_owned());
                }
                Ok(())
            }
        }
    }

    pub(super) fn apply(&self, quilt: &mut Quilt, stamp: Stamp) -> Result<(), ApplyError> {
        match self {
            Op::Cells { layer, changes } => {
                changes.apply(&mut quilt.layer_mut(layer)?.cells, stamp);
            }
            Op::Values { layer, changes } => {
                let at = quilt.value_layer_at(layer)?;
                changes.apply(&mut Arc::make_mut(&mut quilt.values)[at].plane, stamp);
            }
            Op::ValueLayer { before, after } => {
                let values = Arc::make_mut(&mut quilt.values);
                if let Some((at, _)) = before {
                    values.remove(*at);
                }
                if let Some((at, layer)) = after {
                    values.insert((*at).min(values.len()), layer.clone());
                }
                quilt.stamps.values = stamp;
            }
            Op::Layer { before, after } => {
                let layers = Arc::make_mut(&mut quilt.layers);
                if let Some((at, _)) = before {
                    layers.remove(*at);
                }
                if let Some((at, layer)) = after {
                    layers.insert((*at).min(layers.len()), layer.clone());
                }
                quilt.stamps.layers = stamp;
            }
            Op::Settings { layer, after, .. } => {
                quilt.layer_mut(layer)?.settings = after.clone();
                quilt.stamps.layers = stamp;
            }
            Op::Bounds { after, .. } => {
                quilt.stated_bounds = *after;
                quilt.stamps.layers = stamp;
            }
            Op::Data { after, .. } => {
                quilt.data = Arc::clone(after);
                quilt.stamps.data = stamp;
            }
            Op::Marker { before, after } => {
                let markers = Arc::make_mut(&mut quilt.markers);
                if let Some((_, marker)) = before {
                    markers.shift_remove(marker.name());
                }
                if let Some((at, marker)) = after {
                    let at = (*at).min(markers.len());
                    markers.shift_insert(at, marker.shared_name(), marker.clone());
                }
                quilt.stamps.markers = stamp;
            }
            Op::Tiles { before, after } => {
                match (before, after) {
                    (_, Some(set)) => quilt.tiles.put_set(Arc::clone(set))?,
                    (Some(set), None) => quilt.tiles.remove_set(set.name()),
                    (None, None) => {}
                }
                quilt.stamps.tiles = stamp;
            }
            Op::Rules { after, .. } => {
                quilt.rules = Arc::clone(after);
                quilt.stamps.rules = stamp;
            }
            Op::Palettes { after, .. } => {
                quilt.palettes = Arc::clone(after);
                quilt.stamps.palettes = stamp;
            }
        }
        Ok(())
    }
}

impl Layer {
    fn same_as(&self, other: &Layer) -> bool {
        self.name == other.name && self.settings == other.settings && self.cells == other.cells
    }
}

impl Quilt {
    pub(super) fn layer_mut(&mut self, name: &str) -> Result<&mut Layer, NameError> {
        let at = self.layer_at(name)?;
        Ok(&mut Arc::make_mut(&mut self.layers)[at])
    }
}
