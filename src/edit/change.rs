//! Changesets: what an edit did, as a list of operations that can be undone and done again.

use std::sync::Arc;

use serde_json::Value;

use super::error::ApplyError;
use super::plane_changes::{CellChange, Mismatch, PlaneChanges};
use crate::cell_set::CellSet;
use crate::plane::{OwnValue, Stamp, ValueKind, Word, Words};
use crate::quilt::{GroundRules, Layer, LayerSettings, Marker, Named, Palette, Quilt, ValueLayer};
use crate::tile::{Cell, TileNames, TileSet};
use crate::units::{CellPos, CellRect};
use crate::view::Projection;

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
}

/// One operation: from what it expects to what it leaves. Turning it round undoes it.
#[derive(Clone)]
pub(super) enum Op {
    /// Cells of a layer.
    Cells { layer: Arc<str>, changes: PlaneChanges },
    /// Values of a value layer.
    Values { layer: Arc<str>, kind: ValueKind, changes: PlaneChanges },
    /// A value layer added or removed.
    ValueLayer(Swap<Placed<ValueLayer>>),
    /// A layer added, removed, or moved in the order.
    Layer(Swap<Placed<Layer>>),
    /// Another name of a layer, a value layer or a marker.
    Name { of: Named, names: Swap<Arc<str>> },
    /// Other settings of a layer.
    Settings { layer: Arc<str>, settings: Swap<LayerSettings> },
    /// Other stated bounds.
    Bounds(Swap<Option<CellRect>>),
    /// Another projection.
    Projection(Swap<Projection>),
    /// Other data of the map.
    Data(Swap<Arc<Value>>),
    /// A marker added, removed or changed.
    Marker(Swap<Placed<Marker>>),
    /// A tile set added, removed or replaced. The table keeps its numbers either way.
    Tiles(Swap<Option<Arc<TileSet>>>),
    /// Other ground classes or movers.
    Rules(Swap<Arc<GroundRules>>),
    /// Other palettes.
    Palettes(Swap<Arc<Vec<Palette>>>),
}

/// What was there, and what is there in its stead.
#[derive(Clone)]
pub(super) struct Swap<T> {
    pub(super) before: T,
    pub(super) after: T,
}

/// One of a list with its place among the others, if it is there.
pub(super) type Placed<T> = Option<(usize, T)>;

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
        let ops = self.ops.iter().rev().map(Op::inverse).collect();
        Changeset { label: self.label.clone(), ops, tiles: self.tiles.clone() }
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
    /// Ground classes or movers.
    GroundRules,
    /// Palettes.
    Palettes,
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
        self.ops.iter().map(|op| match op {
            Op::Cells { layer, .. } => Touched::Cells(layer),
            Op::Values { layer, .. } => Touched::Values(layer),
            Op::ValueLayer(swap) => {
                Touched::ValueLayer(swap.subject().map_or("", ValueLayer::name))
            }
            Op::Layer(swap) => Touched::Layer(swap.subject().map_or("", Layer::name)),
            Op::Name { of, names } => match of {
                Named::Layer => Touched::Layer(&names.before),
                Named::ValueLayer => Touched::ValueLayer(&names.before),
                Named::Marker => Touched::Marker(&names.before),
            },
            Op::Settings { layer, .. } => Touched::Settings(layer),
            Op::Bounds(_) => Touched::Bounds,
            Op::Projection(_) => Touched::Projection,
            Op::Data(_) => Touched::Data,
            Op::Marker(swap) => Touched::Marker(swap.subject().map_or("", Marker::name)),
            Op::Tiles(Swap { before, after }) => {
                Touched::Tiles(before.as_ref().or(after.as_ref()).map_or("", |set| set.name()))
            }
            Op::Rules(_) => Touched::GroundRules,
            Op::Palettes(_) => Touched::Palettes,
        })
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
        let is_table = |op: &Op| {
            matches!(op, Op::Tiles(_) | Op::Rules(_) | Op::Palettes(_) | Op::Projection(_))
        };
        let lacking = if changes.ops.iter().any(is_table) {
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

impl<T> Swap<T> {
    pub(super) const fn new(before: T, after: T) -> Swap<T> {
        Swap { before, after }
    }

    fn inverse(self) -> Swap<T> {
        Swap { before: self.after, after: self.before }
    }
}

impl<T: Clone> Swap<Placed<T>> {
    /// What is added, removed, moved or changed.
    fn subject(&self) -> Option<&T> {
        self.before.as_ref().or(self.after.as_ref()).map(|(_, subject)| subject)
    }

    /// Whether a list holds in its place what is expected there, or has room for what is added.
    fn fits(&self, list: &[T], is_same: impl Fn(&T, &T) -> bool) -> bool {
        match (&self.before, &self.after) {
            (Some((at, expected)), after) => {
                // What is moved must come where the inverse looks for it.
                let has_room = after.as_ref().is_none_or(|(to, _)| *to < list.len());
                has_room && list.get(*at).is_some_and(|held| is_same(held, expected))
            }
            (None, Some((at, _))) => *at <= list.len(),
            (None, None) => true,
        }
    }
}

impl Op {
    /// About how much it takes. Names and settings are small beside cells, and are counted as a piece.
    fn bytes(&self) -> usize {
        const SMALL: usize = 256;
        let planes = |words: &Words| words.memory().bytes() as usize;
        let own = match self {
            Op::Cells { changes, .. } | Op::Values { changes, .. } => changes.bytes(),
            Op::Layer(swap) => swap.subject().map_or(0, |layer| planes(layer.cells().words())),
            Op::ValueLayer(swap) => swap.subject().map_or(0, |layer| planes(layer.words())),
            Op::Data(swap) => swap.before.to_string().len() + swap.after.to_string().len(),
            _ => SMALL,
        };
        size_of::<Op>() + own
    }

    fn inverse(&self) -> Op {
        match self.clone() {
            Op::Cells { layer, changes } => Op::Cells { layer, changes: changes.inverse() },
            Op::Values { layer, kind, changes } => {
                Op::Values { layer, kind, changes: changes.inverse() }
            }
            Op::ValueLayer(swap) => Op::ValueLayer(swap.inverse()),
            Op::Layer(swap) => Op::Layer(swap.inverse()),
            Op::Name { of, names } => Op::Name { of, names: names.inverse() },
            Op::Settings { layer, settings } => {
                Op::Settings { layer, settings: settings.inverse() }
            }
            Op::Bounds(swap) => Op::Bounds(swap.inverse()),
            Op::Projection(swap) => Op::Projection(swap.inverse()),
            Op::Data(swap) => Op::Data(swap.inverse()),
            Op::Marker(swap) => Op::Marker(swap.inverse()),
            Op::Tiles(swap) => Op::Tiles(swap.inverse()),
            Op::Rules(swap) => Op::Rules(swap.inverse()),
            Op::Palettes(swap) => Op::Palettes(swap.inverse()),
        }
    }

    /// Whether the map holds what the operation expects.
    fn check(&self, quilt: &Quilt) -> Result<(), ApplyError> {
        let differing =
            match self {
                Op::Cells { layer, changes } => {
                    let mismatch = changes.mismatch(quilt.layer(&**layer)?.cells().words());
                    return mismatch.map_or(Ok(()), |held| Err(held.error("layer", layer)));
                }
                Op::Values { layer, kind, changes } => {
                    let held = quilt.value_layer(layer)?;
                    let mismatch = match held.kind() == *kind {
                        true => changes.mismatch(held.words()),
                        false => Some(Mismatch::of_kind()),
                    };
                    return mismatch.map_or(Ok(()), |held| Err(held.error("value layer", layer)));
                }
                Op::ValueLayer(swap) => {
                    let name = swap.subject().map_or("", ValueLayer::name);
                    let is_free = swap.before.is_some() || !quilt.has_value_layer(name);
                    let fits = is_free && swap.fits(quilt.value_layers(), ValueLayer::eq);
                    (!fits).then(|| format!("value layer `{name}`"))
                }
                Op::Layer(swap) => {
                    let name = swap.subject().map_or("", Layer::name);
                    let is_free = swap.before.is_some() || !quilt.has_layer(name);
                    let fits = is_free && swap.fits(quilt.layers(), Layer::same_as);
                    (!fits).then(|| format!("layer `{name}`"))
                }
                Op::Name { of, names } => {
                    let is_there = match of {
                        Named::Layer => quilt.has_layer(&names.before),
                        Named::ValueLayer => quilt.has_value_layer(&names.before),
                        Named::Marker => quilt.marker_at(&names.before).is_some(),
                    };
                    let is_free = quilt.check_new_name(*of, &names.after).is_ok();
                    let held = if is_there { &names.after } else { &names.before };
                    (!is_there || !is_free).then(|| format!("{} `{held}`", of.words()))
                }
                Op::Settings { layer, settings } => {
                    let is_other = *quilt.layer(&**layer)?.settings() != settings.before;
                    is_other.then(|| format!("layer `{layer}`"))
                }
                Op::Bounds(swap) => (quilt.stated_bounds() != swap.before)
                    .then(|| "what the map states as its bounds".to_owned()),
                Op::Projection(swap) => (*quilt.projection() != swap.before)
                    .then(|| "the projection of the map".to_owned()),
                Op::Data(swap) => {
                    (*quilt.shared_data() != swap.before).then(|| "the data of the map".to_owned())
                }
                Op::Marker(swap) => {
                    let name = swap.subject().map_or("", Marker::name);
                    let held = quilt.marker_at(name);
                    let is_expected = match &swap.before {
                        None => held.is_none(),
                        // What is removed must be where the inverse puts it back. What is changed keeps
                        // the place that it has.
                        Some((at, marker)) => held.is_some_and(|(place, held)| {
                            let comes_back_at = (*at).min(quilt.marker_count() - 1);
                            held == marker && (place == comes_back_at || swap.after.is_some())
                        }),
                    };
                    (!is_expected).then(|| format!("marker `{name}`"))
                }
                Op::Tiles(swap) => {
                    let name =
                        swap.before.as_ref().or(swap.after.as_ref()).map_or("", |set| set.name());
                    let is_other = quilt.tiles().set(name) != swap.before.as_ref();
                    is_other.then(|| format!("tile set `{name}`"))
                }
                Op::Rules(swap) => (*quilt.shared_rules() != swap.before)
                    .then(|| "the table of ground classes and movers".to_owned()),
                Op::Palettes(swap) => (*quilt.shared_palettes() != swap.before)
                    .then(|| "the list of palettes".to_owned()),
            };
        differing.map_or(Ok(()), |what| Err(ApplyError::Differs(what)))
    }

    /// Finds whether the marker or layer that the operation leaves lacks what it needs, see
    /// [`Quilt::lacking`].
    fn left_without(&self, quilt: &Quilt) -> Option<(String, String)> {
        match self {
            Op::Marker(Swap { after: Some((_, marker)), .. }) => quilt.lacked_by_marker(marker),
            Op::Layer(Swap { after: Some((_, layer)), .. }) => {
                quilt.lacked_by_layer(layer.name(), layer.settings())
            }
            Op::Settings { layer, settings } => quilt.lacked_by_layer(layer, &settings.after),
            _ => None,
        }
    }

    pub(super) fn apply(&self, quilt: &mut Quilt, stamp: Stamp) -> Result<(), ApplyError> {
        match self {
            Op::Cells { layer, changes } => {
                let at = quilt.layer_at(&**layer)?;
                changes.apply(quilt.cells_mut(at).1.words_mut(), stamp);
            }
            Op::Values { layer, changes, .. } => {
                let at = quilt.value_layer_at(layer)?;
                changes.apply(quilt.values_mut(at), stamp);
            }
            Op::ValueLayer(Swap { before, after }) => {
                if let Some((at, _)) = before {
                    quilt.remove_value_layer(*at, stamp);
                }
                if let Some((at, layer)) = after {
                    quilt.insert_value_layer(*at, layer.clone(), stamp);
                }
            }
            Op::Layer(Swap { before, after }) => {
                if let Some((at, _)) = before {
                    quilt.remove_layer(*at, stamp);
                }
                if let Some((at, layer)) = after {
                    quilt.insert_layer(*at, layer.clone(), stamp);
                }
            }
            Op::Name { of, names: Swap { before, after } } => match of {
                Named::Layer => {
                    let at = quilt.layer_at(&**before)?;
                    quilt.rename_layer(at, Arc::clone(after), stamp);
                }
                Named::ValueLayer => {
                    let at = quilt.value_layer_at(before)?;
                    quilt.rename_value_layer(at, Arc::clone(after), stamp);
                }
                Named::Marker => quilt.rename_marker(before, Arc::clone(after), stamp),
            },
            Op::Settings { layer, settings } => {
                let at = quilt.layer_at(&**layer)?;
                quilt.set_settings(at, settings.after.clone(), stamp);
            }
            Op::Bounds(swap) => quilt.set_bounds(swap.after, stamp),
            Op::Projection(swap) => quilt.set_projection(swap.after, stamp),
            Op::Data(swap) => quilt.set_data(Arc::clone(&swap.after), stamp),
            Op::Marker(Swap { before, after }) => match (before, after) {
                (_, Some((at, marker))) => quilt.put_marker(*at, marker.clone(), stamp),
                (Some((_, marker)), None) => quilt.remove_marker(marker.name(), stamp),
                (None, None) => {}
            },
            Op::Tiles(swap) => match (&swap.before, &swap.after) {
                (_, Some(set)) => quilt.put_set(Arc::clone(set), stamp)?,
                (Some(set), None) => quilt.remove_set(set.name(), stamp),
                (None, None) => {}
            },
            Op::Rules(swap) => quilt.set_rules(Arc::clone(&swap.after), stamp),
            Op::Palettes(swap) => quilt.set_palettes(Arc::clone(&swap.after), stamp),
        }
        Ok(())
    }
}
