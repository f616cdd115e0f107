//! Changesets: what an edit did, as a list of operations that can be undone and done again.

use std::sync::Arc;

use super::error::ApplyError;
use super::op::{Op, Swap};
use super::plane_changes::{CellChange, PlaneChanges};
use crate::cell_set::CellSet;
use crate::plane::{OwnValue, Stamp, Word};
use crate::quilt::{LayerSettings, Marker, Palette, Quilt};
use crate::tile::{Cell, TileNames};
use crate::units::CellPos;

/// The changes of one edit: undoable, and applicable to every clone of the map.
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
    /// By whose numbers the cells are meant. Without the pictures of the tiles, so that a history does not
    /// keep those that have been replaced.
    pub(super) tiles: TileNames,
    /// Which palettes the slots of cells mean, when they leave the process.
    pub(super) palettes: Arc<Vec<Palette>>,
}

/// A changed cell of a [`Changeset`].
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

/// A changed value of a [`Changeset`].
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct ValueEdit<'a, V> {
    /// The name of the value layer.
    pub layer: &'a str,
    /// The cell.
    pub cell: CellPos,
    /// The value before.
    pub before: V,
    /// The value after.
    pub after: V,
}

/// A marker of a [`Changeset`] that was added, removed or changed.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct MarkerEdit<'a> {
    /// The marker before; `None` for one that was added.
    pub before: Option<&'a Marker>,
    /// The marker after; `None` for one that was removed.
    pub after: Option<&'a Marker>,
}

/// A layer of a [`Changeset`] that got other settings.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct SettingsEdit<'a> {
    /// The name of the layer.
    pub layer: &'a str,
    /// Its settings before.
    pub before: &'a LayerSettings,
    /// Its settings after.
    pub after: &'a LayerSettings,
}

impl Changeset {
    /// Returns the label of the edit.
    pub fn label(&self) -> &str {
        &self.label
    }

    /// Returns whether nothing was changed.
    pub fn is_empty(&self) -> bool {
        self.ops.is_empty()
    }

    /// Returns the changes that undo these.
    #[must_use]
    pub fn inverse(&self) -> Changeset {
        self.with_ops(self.ops.iter().rev().map(Op::inverse).collect())
    }

    /// Returns every changed cell with what it held before and after, in the order of the
    /// operations.
    ///
    /// Layers that were added or removed as a whole do not count cell by cell. Chunks that were
    /// changed as a whole cost a look at each of their cells.
    pub fn cells(&self) -> impl Iterator<Item = CellEdit<'_>> {
        let changes = self.each_change(|op| match op {
            Op::Cells { layer, changes } => Some((layer, changes)),
            _ => None,
        });
        changes.map(|(layer, CellChange { cell, before, after })| CellEdit {
            layer,
            cell,
            before: Cell::of_word(before),
            after: Cell::of_word(after),
        })
    }

    /// Other operations under the same label, on maps with the same tiles.
    pub(super) fn with_ops(&self, ops: Vec<Op>) -> Changeset {
        let Changeset { label, tiles, palettes, .. } = self;
        let (label, palettes) = (Arc::clone(label), Arc::clone(palettes));
        Changeset { label, ops, tiles: tiles.clone(), palettes }
    }

    /// Changes by the numbers and palettes of a map.
    pub(crate) fn of(label: &str, ops: Vec<Op>, quilt: &Quilt) -> Changeset {
        let (tiles, palettes) = (quilt.tiles().names(), Arc::clone(quilt.shared_palettes()));
        Changeset { label: label.into(), ops, tiles, palettes }
    }

    pub(crate) fn ops(&self) -> &[Op] {
        &self.ops
    }

    /// What the numbers of its tiles mean.
    pub(crate) const fn tile_names(&self) -> &TileNames {
        &self.tiles
    }

    /// The palettes that its slots mean.
    pub(crate) fn palettes(&self) -> &[Palette] {
        &self.palettes
    }

    /// Every changed cell of the operations of some planes, with the name of its layer.
    fn each_change<'a>(
        &'a self,
        plane_of: impl Fn(&'a Op) -> Option<(&'a str, &'a PlaneChanges)>,
    ) -> impl Iterator<Item = (&'a str, CellChange)> {
        let planes = self.ops.iter().filter_map(plane_of);
        planes.flat_map(|(layer, changes)| changes.each().map(move |change| (layer, change)))
    }
}

impl Changeset {
    /// Returns every changed value of the value layers of one kind, as [`Changeset::cells`] does for cells.
    ///
    /// ```
    /// use sturdy_quilt::plane::ValueKind;
    /// use sturdy_quilt::{CellPos, Marker};
    /// # let mut quilt = sturdy_quilt::doc_quilt();
    ///
    /// quilt.edit("begin", |pen| pen.add_value_layer("growth", ValueKind::I32))?;
    /// let edit = quilt.edit("a spring day", |pen| {
    ///     pen.put_value("growth", CellPos::new(1, 2), 5)?;
    ///     pen.put_marker(Marker::cell("gate", CellPos::new(2, 0)))?;
    ///     pen.set_layer("soil", |soil| soil.with_opacity(0.5))
    /// })?;
    /// let grown: Vec<_> = edit.changes.values::<i32>().map(|v| (v.cell, v.before, v.after)).collect();
    /// assert_eq!(grown, [(CellPos::new(1, 2), 0, 5)]);
    /// let gate = edit.changes.markers().next().and_then(|marker| marker.after);
    /// assert_eq!(gate.map(Marker::name), Some("gate"));
    /// let faded = edit.changes.settings().next().map(|own| (own.layer, own.after.opacity));
    /// assert_eq!(faded, Some(("soil", 0.5)));
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    pub fn values<V: OwnValue>(&self) -> impl Iterator<Item = ValueEdit<'_, V>> {
        let changes = self.each_change(|op| match op {
            Op::Values { layer, kind, changes } if *kind == V::KIND => Some((layer, changes)),
            _ => None,
        });
        changes.map(|(layer, CellChange { cell, before, after })| ValueEdit {
            layer,
            cell,
            before: V::of_word(before),
            after: V::of_word(after),
        })
    }

    /// Returns every marker that was added, removed or changed, in the order of the operations. One that got
    /// another name and nothing else is not among them; see [`Changeset::touched`].
    pub fn markers(&self) -> impl Iterator<Item = MarkerEdit<'_>> {
        self.ops.iter().filter_map(|op| match op {
            Op::Marker(Swap { before, after }) => Some(MarkerEdit {
                before: before.as_ref().map(|(_, marker)| marker),
                after: after.as_ref().map(|(_, marker)| marker),
            }),
            _ => None,
        })
    }

    /// Returns every layer that got other settings, in the order of the operations.
    pub fn settings(&self) -> impl Iterator<Item = SettingsEdit<'_>> {
        self.ops.iter().filter_map(|op| match op {
            Op::Settings { layer, settings: Swap { before, after } } => {
                Some(SettingsEdit { layer, before, after })
            }
            _ => None,
        })
    }

    /// Returns these changes and then others, as one changeset with the label of these.
    ///
    /// # Errors
    /// Changes of another map.
    ///
    /// ```
    /// use sturdy_quilt::CellPos;
    /// # let mut quilt = sturdy_quilt::doc_quilt();
    ///
    /// let put = quilt.edit("build", |pen| pen.put("soil", CellPos::new(0, 0), "garden/wall"))?;
    /// let erased = quilt.edit("dig", |pen| pen.erase("soil", CellPos::new(0, 0)))?;
    /// let both = put.changes.then(erased.changes)?;
    /// quilt.apply(&both.inverse())?;
    /// assert!(quilt.same_as(&sturdy_quilt::doc_quilt()));
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    pub fn then(mut self, next: Changeset) -> Result<Changeset, ApplyError> {
        if !self.same_map(&next) {
            return Err(ApplyError::OtherMap);
        }
        self.extend(next);
        Ok(self)
    }

    /// Whether the tiles of both are numbered alike.
    pub(super) fn same_map(&self, other: &Changeset) -> bool {
        self.tiles.are_those(&other.tiles)
    }

    pub(super) fn extend(&mut self, next: Changeset) {
        self.ops.extend(next.ops);
        if next.palettes.len() >= self.palettes.len() {
            self.palettes = next.palettes;
        }
    }

    /// Returns about how many bytes these changes take when no map shares anything with them.
    pub fn bytes(&self) -> usize {
        size_of::<Changeset>() + self.ops.iter().map(Op::bytes).sum::<usize>()
    }

    /// Returns the area that was changed: all cells in which a layer or a value layer holds something else
    /// than before. Layers that were added or removed as a whole do not count.
    ///
    /// Costs a look at each changed cell.
    ///
    /// ```
    /// use sturdy_quilt::{CellPos, CellRect};
    /// # let mut quilt = sturdy_quilt::doc_quilt();
    ///
    /// let row = CellRect::new(CellPos::new(0, 0), 4, 1);
    /// let edit = quilt.edit("a wall", |pen| pen.fill("soil", row, "garden/wall"))?;
    /// // One cell was a wall already.
    /// assert_eq!(edit.changes.area().len(), 3);
    /// # Ok::<(), sturdy_quilt::EditError>(())
    /// ```
    pub fn area(&self) -> CellSet {
        let areas = self.ops.iter().filter_map(|op| match op {
            Op::Cells { changes, .. } | Op::Values { changes, .. } => Some(changes.area()),
            _ => None,
        });
        areas.reduce(|all, area| &all | &area).unwrap_or_default()
    }
}

/// A part of a map that a [`Changeset`] touches, by name.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
#[non_exhaustive]
pub enum Touched<'a> {
    /// Cells of a layer; [`Changeset::cells`] tells which.
    Cells(&'a str),
    /// Values of a value layer; [`Changeset::values`] tells which.
    Values(&'a str),
    /// A value layer, added, removed or renamed, by the name that it had if it had one.
    ValueLayer(&'a str),
    /// A layer, added, removed, renamed or moved in the order, by the name that it had if it had one.
    Layer(&'a str),
    /// The settings of a layer.
    Settings(&'a str),
    /// The stated bounds of the map.
    Bounds,
    /// The projection of the map.
    Projection,
    /// The map's own data.
    Data,
    /// A marker, added, removed, renamed or changed, by the name that it had if it had one.
    Marker(&'a str),
    /// A tile set, added, removed or replaced.
    Tiles(&'a str),
    /// A ground class, added, removed or changed.
    GroundClass(&'a str),
    /// A mover, added, removed or changed.
    Mover(&'a str),
    /// A palette, added, removed or changed.
    Palette(&'a str),
}

impl Changeset {
    /// Lists what the changes touch, in the order of the operations: a name may come several times.
    ///
    /// ```
    /// use sturdy_quilt::edit::Touched;
    /// use sturdy_quilt::{CellPos, Marker};
    /// # let mut quilt = sturdy_quilt::doc_quilt();
    ///
    /// let edit = quilt.edit("a new gate", |pen| {
    ///     pen.put_marker(Marker::cell("gate", CellPos::new(2, 0)))?;
    ///     pen.put("soil", CellPos::new(2, 0), "garden/grass")
    /// })?;
    /// let touched: Vec<_> = edit.changes.touched().collect();
    /// assert_eq!(touched, [Touched::Marker("gate"), Touched::Cells("soil")]);
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    pub fn touched(&self) -> impl Iterator<Item = Touched<'_>> {
        self.ops.iter().map(Op::touched)
    }
}

impl std::fmt::Debug for Changeset {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        write!(f, "Changeset({}, ", self.label)?;
        f.debug_list().entries(self.touched()).finish()?;
        f.write_str(")")
    }
}

impl Quilt {
    /// Applies the changes to this map or a clone; with [`Changeset::inverse`], undoes them.
    ///
    /// # Errors
    /// When the map does not hold what the changes expect, they belong to another map, or they would
    /// take away what something else needs. Then nothing is changed: they are applied as a whole or
    /// not at all.
    ///
    /// Costs a look at each changed cell, and for chunks changed as a whole nothing a cell as long
    /// as the map shares them; a look at all tiles and markers where sets, classes or palettes change.
    pub fn apply(&mut self, changes: &Changeset) -> Result<(), ApplyError> {
        if !changes.tiles.are_of(self.tiles()) {
            return Err(ApplyError::OtherMap);
        }
        self.catch_up_tiles();
        let stamp = Stamp::next();
        for (done, op) in changes.ops.iter().enumerate() {
            if let Err(error) = op.check(self).and_then(|()| op.apply(self, stamp)) {
                revert(self, &changes.ops[..done], stamp);
                return Err(error);
            }
        }
        // Tables concern everything that may need them, so one look is enough however many change.
        let lacking = if changes.ops.iter().any(Op::is_table) {
            self.lacking()
        } else {
            changes.ops.iter().find_map(|op| op.left_without(self))
        };
        match lacking {
            None => Ok(()),
            Some((user, needed)) => {
                revert(self, &changes.ops, stamp);
                Err(ApplyError::Needed { user, needed })
            }
        }
    }
}

/// Undoes operations that were just done, so that nothing can stand in the way.
pub(super) fn revert(quilt: &mut Quilt, ops: &[Op], stamp: Stamp) {
    for op in ops.iter().rev() {
        let undone = op.inverse().apply(quilt, stamp);
        debug_assert!(undone.is_ok(), "an operation that was just done cannot be undone");
    }
}
