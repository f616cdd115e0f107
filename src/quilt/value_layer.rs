use std::sync::Arc;

use crate::near::NameError;
use crate::plane::{OwnValue, PerKind, Plane, PlaneMemory, Planes, ValueKind, for_each_kind};
use crate::units::CellRect;

/// A layer of the game's own values by cell: growth, owner, health. It is not drawn and gives no
/// ground; an overlay can show it.
#[derive(Clone, PartialEq)]
pub struct ValueLayer {
    name: Arc<str>,
    plane: PerKind<Planes>,
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
        ValueLayer { name: name.into(), plane: PerKind::empty(kind) }
    }

    /// Its name, which no other value layer of its map has.
    pub fn name(&self) -> &str {
        &self.name
    }

    /// Which kind of value it holds.
    pub const fn kind(&self) -> ValueKind {
        self.plane.kind()
    }

    /// Its shared name.
    pub(crate) const fn shared_name(&self) -> &Arc<str> {
        &self.name
    }

    /// Its values, of whichever kind.
    pub(crate) const fn planes(&self) -> &PerKind<Planes> {
        &self.plane
    }

    /// Its values, to write to.
    pub(crate) fn plane_mut(&mut self) -> &mut PerKind<Planes> {
        &mut self.plane
    }

    /// Its values, if they are of this kind.
    pub fn plane<V: OwnValue>(&self) -> Option<&Plane<V>> {
        V::pick(&self.plane)
    }

    /// How much memory its values take; see [`Plane::memory`].
    pub fn memory(&self) -> PlaneMemory {
        for_each_kind!(&self.plane, plane => plane.memory())
    }

    /// The smallest rectangle with every value that is not 0.
    pub fn bounds(&self) -> CellRect {
        for_each_kind!(&self.plane, plane => plane.bounds())
    }
}

impl std::fmt::Debug for ValueLayer {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        write!(f, "ValueLayer({}, {})", self.name, self.kind().name())
    }
}

/// What is said of a layer that holds another kind than `V`.
pub(crate) fn wrong_kind<V: OwnValue>(layer: &ValueLayer) -> ValueLayerError {
    ValueLayerError::Kind { name: layer.name().to_owned(), held: layer.kind(), asked: V::KIND }
}
