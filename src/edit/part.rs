//! The parts of a map that have a name and a place among their like: what operations do with all of them.

use std::sync::Arc;

use super::conflict::Conflict;
use super::op::Swap;
use crate::plane::Stamp;
use crate::quilt::{Class as GroundClass, Layer, Marker, Mover, Palette, Quilt, ValueLayer};
use crate::tile::{TableFullError, TileSet};

/// One of a list with its place among the others, if it is there.
pub(crate) type Placed<T> = Option<(usize, T)>;

/// A part of a map, found by its name.
pub(crate) trait Part: Clone + 'static {
    const CONFLICT: fn(Arc<str>) -> Conflict;
    /// Whether its place has a meaning, so that only the last one may be added or removed.
    const IS_BOUND: bool = false;

    fn name(&self) -> &str;

    fn same(&self, other: &Self) -> bool;

    /// The part of a name, and its place.
    fn held<'q>(quilt: &'q Quilt, name: &str) -> Placed<&'q Self>;

    /// Whether it can be added as far as its handle goes: a layer that got another name still has its own.
    fn is_free(&self, quilt: &Quilt) -> bool;

    /// All of its like.
    fn all(quilt: &Quilt) -> impl Iterator<Item = &Self>;

    /// How many there are of its like.
    fn count(quilt: &Quilt) -> usize;

    /// Puts it in the place of the one with its name, or adds it in a place, or behind the last one.
    fn put(self, quilt: &mut Quilt, at: usize, stamp: Stamp) -> Result<(), TableFullError>;

    fn remove(quilt: &mut Quilt, name: &str, stamp: Stamp);
}

/// What became of the change of a part on another map.
pub(super) enum Rebased<T> {
    /// It does what it did.
    Same(Swap<Placed<T>>),
    /// The map is already as the change leaves it.
    Done,
    /// The map holds something else. What the change must be to be made all the same, if it can be.
    Conflict(Option<Swap<Placed<T>>>),
}

impl<T: Part> Swap<Placed<T>> {
    /// What is added, removed or changed.
    pub(super) fn subject(&self) -> Option<&T> {
        self.before.as_ref().or(self.after.as_ref()).map(|(_, subject)| subject)
    }

    pub(super) fn name(&self) -> &str {
        self.subject().map_or("", T::name)
    }

    pub(super) fn conflict(&self) -> Conflict {
        T::CONFLICT(self.name().into())
    }

    /// Whether the map holds what is expected.
    pub(super) fn fits(&self, quilt: &Quilt) -> bool {
        let (count, held) = (T::count(quilt), T::held(quilt, self.name()));
        match (&self.before, held) {
            // What is removed must be where the inverse puts it back. What is changed keeps the place that
            // it has.
            (Some((at, expected)), Some((place, held))) => {
                let comes_back_at = (*at).min(count - 1);
                let may_go = place == comes_back_at && (!T::IS_BOUND || place + 1 == count);
                held.same(expected) && (self.after.is_some() || may_go)
            }
            (None, None) => self
                .after
                .as_ref()
                .is_none_or(|(at, added)| added.is_free(quilt) && (!T::IS_BOUND || *at == count)),
            _ => false,
        }
    }

    pub(super) fn apply(&self, quilt: &mut Quilt, stamp: Stamp) -> Result<(), TableFullError> {
        match (&self.before, &self.after) {
            (_, Some((at, part))) => part.clone().put(quilt, *at, stamp),
            (Some((_, part)), None) => {
                T::remove(quilt, part.name(), stamp);
                Ok(())
            }
            (None, None) => Ok(()),
        }
    }

    /// The same change of what a map holds.
    pub(super) fn rebased(&self, quilt: &Quilt) -> Rebased<T> {
        let count = T::count(quilt);
        let held = T::held(quilt, self.name());
        let is_same = |part: &Placed<T>| match (part, held) {
            (Some((_, part)), Some((_, held))) => part.same(held),
            (None, None) => true,
            _ => false,
        };
        if is_same(&self.after) {
            return Rebased::Done;
        }
        let before = held.map(|(at, held)| (at, held.clone()));
        let is_last = before.as_ref().is_none_or(|(at, _)| at + 1 == count);
        let is_known =
            held.is_none() && self.after.as_ref().is_some_and(|(_, added)| !added.is_free(quilt));
        if is_known || T::IS_BOUND && self.after.is_none() && !is_last {
            return Rebased::Conflict(None);
        }
        let after = self.after.clone().map(|(at, part)| match &before {
            Some((place, _)) => (*place, part),
            None if T::IS_BOUND => (count, part),
            None => (at.min(count), part),
        });
        let is_expected = is_same(&self.before);
        let place = |part: &Placed<T>| part.as_ref().map(|(at, _)| *at);
        let is_added = self.before.is_none() && before.is_none();
        let is_moved = T::IS_BOUND && is_added && place(&self.after) != place(&after);
        let changed = Swap::new(before, after);
        match is_expected && !is_moved {
            true => Rebased::Same(changed),
            false => Rebased::Conflict((!is_moved).then_some(changed)),
        }
    }
}

/// Parts whose handles are found by their names alone.
const fn any<T>(_part: &T, _quilt: &Quilt) -> bool {
    true
}

/// Whether a map has no layer with the handle of this one, which may have another name by now.
fn is_new(layer: &Layer, quilt: &Quilt) -> bool {
    quilt.layer(layer.id()).is_err()
}

macro_rules! impl_part {
    ($part:ident, bound: $bound:expr, same: $same:expr, free: $free:expr,
     all: $quilt:ident => $all:expr,
     $held:ident, $count:ident, $put:ident, $remove:ident) => {
        impl Part for $part {
            const CONFLICT: fn(Arc<str>) -> Conflict = Conflict::$part;
            const IS_BOUND: bool = $bound;

            fn name(&self) -> &str {
                $part::name(self)
            }

            fn same(&self, other: &$part) -> bool {
                ($same)(self, other)
            }

            fn held<'q>(quilt: &'q Quilt, name: &str) -> Placed<&'q $part> {
                quilt.$held(name)
            }

            fn is_free(&self, quilt: &Quilt) -> bool {
                ($free)(self, quilt)
            }

            fn all($quilt: &Quilt) -> impl Iterator<Item = &$part> {
                $all
            }

            fn count(quilt: &Quilt) -> usize {
                quilt.$count()
            }

            fn put(self, quilt: &mut Quilt, at: usize, stamp: Stamp) -> Result<(), TableFullError> {
                quilt.$put(at, self, stamp);
                Ok(())
            }

            fn remove(quilt: &mut Quilt, name: &str, stamp: Stamp) {
                quilt.$remove(name, stamp);
            }
        }
    };
}

impl_part!(Layer, bound: false, same: Layer::same_as, free: is_new,
    all: quilt => quilt.layers().iter(),
    layer_of, layer_count, put_layer, remove_layer_of);
impl_part!(ValueLayer, bound: false, same: ValueLayer::eq, free: any,
    all: quilt => quilt.value_layers().iter(),
    value_layer_of, value_layer_count, put_value_layer, remove_value_layer_of);
impl_part!(Marker, bound: false, same: Marker::eq, free: any,
    all: quilt => quilt.all_markers(),
    marker_at, marker_count, put_marker, remove_marker);
impl_part!(GroundClass, bound: false, same: GroundClass::eq, free: any,
    all: quilt => quilt.ground_rules().all_classes(),
    class_at, class_count, put_class, remove_class);
impl_part!(Mover, bound: false, same: Mover::eq, free: any,
    all: quilt => quilt.ground_rules().movers().iter(),
    mover_at, mover_count, put_mover, remove_mover);
// Cells mean palettes by their slots, which are their places.
impl_part!(Palette, bound: true, same: Palette::eq, free: any,
    all: quilt => quilt.palettes().iter(),
    palette_at, palette_count, put_palette, remove_palette);

impl Part for Arc<TileSet> {
    const CONFLICT: fn(Arc<str>) -> Conflict = Conflict::Tiles;

    fn name(&self) -> &str {
        TileSet::name(self)
    }

    fn same(&self, other: &Arc<TileSet>) -> bool {
        Arc::ptr_eq(self, other) || **self == **other
    }

    fn held<'q>(quilt: &'q Quilt, name: &str) -> Placed<&'q Arc<TileSet>> {
        quilt.tiles().sets().enumerate().find(|(_, set)| set.name() == name)
    }

    fn is_free(&self, quilt: &Quilt) -> bool {
        any(self, quilt)
    }

    fn all(quilt: &Quilt) -> impl Iterator<Item = &Arc<TileSet>> {
        quilt.tiles().sets()
    }

    fn count(quilt: &Quilt) -> usize {
        quilt.tiles().sets().len()
    }

    fn put(self, quilt: &mut Quilt, at: usize, stamp: Stamp) -> Result<(), TableFullError> {
        quilt.put_set(at, self, stamp)
    }

    fn remove(quilt: &mut Quilt, name: &str, stamp: Stamp) {
        quilt.remove_set(name, stamp);
    }
}
