//! Operations: the pieces of a changeset, each of one part of the map.

use std::sync::Arc;

use serde_json::Value;

use super::change::Touched;
use super::conflict::Conflict;
use super::error::ApplyError;
use super::part::Placed;
use super::plane_changes::{Mismatch, PlaneChanges};
use crate::plane::{Stamp, ValueKind, Words};
use crate::quilt::{Class, Layer, LayerSettings, Marker, Mover, Named, Palette, Quilt, ValueLayer};
use crate::tile::TileSet;
use crate::units::CellRect;
use crate::view::Projection;

/// One operation: from what it expects to what it leaves. Turning it round undoes it.
#[derive(Clone)]
pub(crate) enum Op {
    /// Cells of a layer.
    Cells { layer: Arc<str>, changes: PlaneChanges },
    /// Values of a value layer.
    Values { layer: Arc<str>, kind: ValueKind, changes: PlaneChanges },
    /// A layer added, removed or replaced.
    Layer(Swap<Placed<Layer>>),
    /// A value layer added, removed or replaced.
    ValueLayer(Swap<Placed<ValueLayer>>),
    /// Another place of a layer in the order.
    Order { layer: Arc<str>, places: Swap<usize> },
    /// Another name of a layer, a value layer or a marker.
    Name { of: Named, names: Swap<Arc<str>> },
    /// Other settings of a layer. Those that are the same before and after do not count.
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
    Tiles(Swap<Placed<Arc<TileSet>>>),
    /// A ground class added, removed or changed.
    Class(Swap<Placed<Class>>),
    /// A mover added, removed or changed.
    Mover(Swap<Placed<Mover>>),
    /// A palette added, removed or changed.
    Palette(Swap<Placed<Palette>>),
}

/// What was there, and what is there in its stead.
#[derive(Clone)]
pub(crate) struct Swap<T> {
    pub(crate) before: T,
    pub(crate) after: T,
}

impl<T> Swap<T> {
    pub(crate) const fn new(before: T, after: T) -> Swap<T> {
        Swap { before, after }
    }

    fn inverse(self) -> Swap<T> {
        Swap { before: self.after, after: self.before }
    }
}

/// Does one thing with the changes of a named part, of whichever kind, and others with the rest.
macro_rules! of_part {
    ($op:expr; $swap:ident => $done:expr, $($others:pat => $other_done:expr),+ $(,)?) => {
        match $op {
            Op::Layer($swap) => $done,
            Op::ValueLayer($swap) => $done,
            Op::Marker($swap) => $done,
            Op::Tiles($swap) => $done,
            Op::Class($swap) => $done,
            Op::Mover($swap) => $done,
            Op::Palette($swap) => $done,
            $($others => $other_done),+
        }
    };
}

pub(super) use of_part;

impl Op {
    /// About how much it takes. Names and settings are small beside cells, and are counted as a piece.
    pub(super) fn bytes(&self) -> usize {
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

    pub(super) fn inverse(&self) -> Op {
        match self.clone() {
            Op::Cells { layer, changes } => Op::Cells { layer, changes: changes.inverse() },
            Op::Values { layer, kind, changes } => {
                Op::Values { layer, kind, changes: changes.inverse() }
            }
            Op::Layer(swap) => Op::Layer(swap.inverse()),
            Op::ValueLayer(swap) => Op::ValueLayer(swap.inverse()),
            Op::Order { layer, places } => Op::Order { layer, places: places.inverse() },
            Op::Name { of, names } => Op::Name { of, names: names.inverse() },
            Op::Settings { layer, settings } => {
                Op::Settings { layer, settings: settings.inverse() }
            }
            Op::Bounds(swap) => Op::Bounds(swap.inverse()),
            Op::Projection(swap) => Op::Projection(swap.inverse()),
            Op::Data(swap) => Op::Data(swap.inverse()),
            Op::Marker(swap) => Op::Marker(swap.inverse()),
            Op::Tiles(swap) => Op::Tiles(swap.inverse()),
            Op::Class(swap) => Op::Class(swap.inverse()),
            Op::Mover(swap) => Op::Mover(swap.inverse()),
            Op::Palette(swap) => Op::Palette(swap.inverse()),
        }
    }

    /// What it touches.
    pub(super) fn touched(&self) -> Touched<'_> {
        match self {
            Op::Layer(swap) => Touched::Layer(swap.name()),
            Op::ValueLayer(swap) => Touched::ValueLayer(swap.name()),
            Op::Marker(swap) => Touched::Marker(swap.name()),
            Op::Tiles(swap) => Touched::Tiles(swap.name()),
            Op::Class(swap) => Touched::GroundClass(swap.name()),
            Op::Mover(swap) => Touched::Mover(swap.name()),
            Op::Palette(swap) => Touched::Palette(swap.name()),
            Op::Cells { layer, .. } => Touched::Cells(layer),
            Op::Values { layer, .. } => Touched::Values(layer),
            Op::Order { layer, .. } => Touched::Layer(layer),
            Op::Name { of, names } => match of {
                Named::Layer => Touched::Layer(&names.before),
                Named::ValueLayer => Touched::ValueLayer(&names.before),
                Named::Marker => Touched::Marker(&names.before),
            },
            Op::Settings { layer, .. } => Touched::Settings(layer),
            Op::Bounds(_) => Touched::Bounds,
            Op::Projection(_) => Touched::Projection,
            Op::Data(_) => Touched::Data,
        }
    }

    /// Whether the map holds what the operation expects.
    pub(crate) fn check(&self, quilt: &Quilt) -> Result<(), ApplyError> {
        let conflict = of_part!(self;
            swap => (!swap.fits(quilt)).then(|| swap.conflict()),
            Op::Cells { layer, changes } => {
                let mismatch = changes.mismatch(quilt.layer(&**layer)?.cells().words());
                return mismatch.map_or(Ok(()), |held| Err(held.error("layer", layer)));
            },
            Op::Values { layer, kind, changes } => {
                let held = quilt.value_layer(layer)?;
                let mismatch = match held.kind() == *kind {
                    true => changes.mismatch(held.words()),
                    false => Some(Mismatch::of_kind()),
                };
                return mismatch.map_or(Ok(()), |held| Err(held.error("value layer", layer)));
            },
            Op::Order { layer, places } => {
                let is_there = quilt.layer_at(&**layer)? == places.before;
                let fits = is_there && places.after < quilt.layer_count();
                (!fits).then(|| Conflict::Layer(Arc::clone(layer)))
            },
            Op::Name { of, names } => name_conflict(quilt, *of, names),
            Op::Settings { layer, settings } => {
                let held = quilt.layer(&**layer)?.settings();
                let changed = settings.before.differing(&settings.after);
                let others = held.differing(&settings.before);
                let setting = changed.into_iter().find(|name| others.contains(name));
                setting.map(|setting| Conflict::Setting { layer: Arc::clone(layer), setting })
            },
            Op::Bounds(swap) => {
                (quilt.stated_bounds() != swap.before).then_some(Conflict::Bounds)
            },
            Op::Projection(swap) => {
                (*quilt.projection() != swap.before).then_some(Conflict::Projection)
            },
            Op::Data(swap) => (*quilt.shared_data() != swap.before).then_some(Conflict::Data),
        );
        conflict.map_or(Ok(()), |held| Err(ApplyError::Differs(held.to_string())))
    }

    /// Whether what it leaves may lack something, or may take away what something else needs.
    pub(super) const fn is_table(&self) -> bool {
        match self {
            Op::Tiles(_) | Op::Projection(_) | Op::Palette(_) => true,
            Op::Class(swap) => swap.after.is_none(),
            _ => false,
        }
    }

    /// Finds whether the part that the operation leaves lacks what it needs, see [`Quilt::lacking`].
    pub(super) fn left_without(&self, quilt: &Quilt) -> Option<(String, String)> {
        match self {
            Op::Marker(Swap { after: Some((_, marker)), .. }) => quilt.lacked_by_marker(marker),
            Op::Mover(Swap { after: Some((_, mover)), .. }) => quilt.lacked_by_mover(mover),
            Op::Layer(Swap { after: Some((_, layer)), .. }) => {
                quilt.lacked_by_layer(layer.name(), layer.settings())
            }
            Op::Settings { layer, .. } => {
                let (_, held) = quilt.layer_of(layer)?;
                quilt.lacked_by_layer(layer, held.settings())
            }
            _ => None,
        }
    }

    pub(crate) fn apply(&self, quilt: &mut Quilt, stamp: Stamp) -> Result<(), ApplyError> {
        of_part!(self;
            swap => swap.apply(quilt, stamp)?,
            Op::Cells { layer, changes } => {
                let at = quilt.layer_at(&**layer)?;
                changes.apply(quilt.cells_mut(at).1.words_mut(), stamp);
            },
            Op::Values { layer, changes, .. } => {
                let at = quilt.value_layer_at(layer)?;
                changes.apply(quilt.values_mut(at), stamp);
            },
            Op::Order { places, .. } => quilt.move_layer(places.before, places.after, stamp),
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
                let mut held = quilt.layers()[at].settings().clone();
                for name in settings.before.differing(&settings.after) {
                    held.take(name, &settings.after);
                }
                quilt.set_settings(at, held, stamp);
            },
            Op::Bounds(swap) => quilt.set_bounds(swap.after, stamp),
            Op::Projection(swap) => quilt.set_projection(swap.after, stamp),
            Op::Data(swap) => quilt.set_data(Arc::clone(&swap.after), stamp),
        );
        Ok(())
    }
}

/// What stands in the way of another name.
pub(super) fn name_conflict(quilt: &Quilt, of: Named, names: &Swap<Arc<str>>) -> Option<Conflict> {
    let is_free = quilt.check_new_name(of, &names.after).is_ok();
    let (is_there, conflict): (bool, fn(Arc<str>) -> Conflict) = match of {
        Named::Layer => (quilt.has_layer(&names.before), Conflict::Layer),
        Named::ValueLayer => (quilt.has_value_layer(&names.before), Conflict::ValueLayer),
        Named::Marker => (quilt.marker_at(&names.before).is_some(), Conflict::Marker),
    };
    let held = if is_there { &names.after } else { &names.before };
    (!is_there || !is_free).then(|| conflict(Arc::clone(held)))
}
