use std::sync::Arc;

use crate::name_error::NameError;
use crate::plane::{OwnValue, Plane, PlaneMemory, ValueKind, Words};
use crate::units::CellRect;

/// A layer of the game's own values by cell: growth, owner, health. It is not drawn and gives no
/// ground; an overlay can show it.
#[derive(Clone, PartialEq)]
pub struct ValueLayer {
    name: Arc<str>,
    kind: ValueKind,
    words: Words,
}

/// A value layer is not there, or holds values of another kind.
#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
#[non_exhaustive]
pub enum ValueLayerError {
    /// There is none of this name.
    #[error(transparent)]
    Name(#[from] NameError),
    /// It holds values of another kind.
    #[error("value layer `{name}` holds {}, not {}", held.name(), asked.name())]
    Kind {
        /// The value layer.
        name: String,
        /// What it holds.
        held: ValueKind,
        /// What it was asked for.
        asked: ValueKind,
    },
}

impl ValueLayer {
    pub(crate) fn new(name: &str, kind: ValueKind) -> ValueLayer {
        ValueLayer { name: name.into(), kind, words: Words::new() }
    }

    /// Returns its name, which no other value layer of its map has.
    pub fn name(&self) -> &str {
        &self.name
    }

    /// Returns the kind of its values.
    pub const fn kind(&self) -> ValueKind {
        self.kind
    }

    /// Its shared name.
    pub(crate) const fn shared_name(&self) -> &Arc<str> {
        &self.name
    }

    pub(super) fn set_name(&mut self, name: Arc<str>) {
        self.name = name;
    }

    /// Its values, of whichever kind.
    pub(crate) const fn words(&self) -> &Words {
        &self.words
    }

    /// Its values, to write to.
    pub(crate) const fn words_mut(&mut self) -> &mut Words {
        &mut self.words
    }

    /// Returns its values, if they are of this kind.
    pub fn plane<V: OwnValue>(&self) -> Option<&Plane<V>> {
        (self.kind == V::KIND).then(|| Plane::of_words(&self.words))
    }

    /// Returns how much memory its values take; see [`Plane::memory`].
    pub fn memory(&self) -> PlaneMemory {
        self.words.memory()
    }

    /// Returns the smallest rectangle with every value that is not 0.
    pub fn bounds(&self) -> CellRect {
        self.words.bounds()
    }
}

impl std::fmt::Debug for ValueLayer {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        write!(f, "ValueLayer({}, {})", self.name, self.kind().name())
    }
}

/// The error for a layer that holds another kind than is asked for.
pub(crate) fn wrong_kind(layer: &ValueLayer, asked: ValueKind) -> ValueLayerError {
    ValueLayerError::Kind { name: layer.name().to_owned(), held: layer.kind(), asked }
}
