//! The layers of a map in their order, found by name and by handle.

use std::ops::{Deref, DerefMut};
use std::sync::Arc;

use indexmap::IndexSet;

use super::layer::{Layer, LayerId};

/// Layers in their order. Finding one, and adding one on top, cost a hash; adding or removing one
/// elsewhere costs a look at those above it.
#[derive(Clone, Default)]
pub struct Layers {
    list: Vec<Layer>,
    /// Shared with clones: only what changes the order copies it.
    index: Arc<Index>,
}

/// Names and handles in the order of the layers.
#[derive(Clone, Default)]
struct Index {
    /// With the hasher of the standard library: names come from files, which could be made so that
    /// simple hashes are all equal.
    names: IndexSet<Arc<str>>,
    ids: IndexSet<LayerId>,
}

impl Layers {
    /// Up to so many, going through them is quicker than a hash.
    const FEW: usize = 8;

    pub(crate) fn place_of_name(&self, name: &str) -> Option<usize> {
        if self.list.len() <= Self::FEW {
            return self.list.iter().position(|layer| layer.name() == name);
        }
        self.index.names.get_index_of(name)
    }

    pub(super) fn place_of_id(&self, id: LayerId) -> Option<usize> {
        if self.list.len() <= Self::FEW {
            return self.list.iter().position(|layer| layer.id() == id);
        }
        self.index.ids.get_index_of(&id)
    }

    /// Adds a layer, whose name no other one has, in a place; the last one where there are fewer.
    pub(crate) fn insert(&mut self, place: usize, layer: Layer) {
        let place = place.min(self.list.len());
        let index = Arc::make_mut(&mut self.index);
        index.names.shift_insert(place, Arc::clone(layer.shared_name()));
        index.ids.shift_insert(place, layer.id());
        self.list.insert(place, layer);
    }

    /// Gives the layer in a place a name that no other one has.
    pub(crate) fn rename(&mut self, place: usize, name: Arc<str>) {
        let index = Arc::make_mut(&mut self.index);
        index.names.shift_remove_index(place);
        index.names.shift_insert(place, Arc::clone(&name));
        self.list[place].set_name(name);
    }

    /// Removes the layer in a place, where there is one.
    pub(crate) fn remove(&mut self, place: usize) {
        if place < self.list.len() {
            let index = Arc::make_mut(&mut self.index);
            index.names.shift_remove_index(place);
            index.ids.shift_remove_index(place);
            self.list.remove(place);
        }
    }
}

impl Deref for Layers {
    type Target = [Layer];

    fn deref(&self) -> &[Layer] {
        &self.list
    }
}

/// The handle of a layer never changes, its name by [`Layers::rename`] alone.
impl DerefMut for Layers {
    fn deref_mut(&mut self) -> &mut [Layer] {
        &mut self.list
    }
}
