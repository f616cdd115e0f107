use std::sync::Arc;

use crate::near::NameError;
use crate::plane::{OwnValue, PerKind, Plane, PlaneMemory, Planes, ValueKind, for_each_kind};
use crate::quilt::Quilt;
use crate::units::CellRect;

/// A layer of the game's own values by cell: growth, owner, health. It is not drawn and gives no
/// ground; an overlay can show it.
#[derive(Clone, PartialEq)]
pub struct ValueLayer {
    pub(crate) name: Arc<str>,
    pub(crate) plane: PerKind<Planes>,
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

impl Quilt {
    /// Its value layers, in the order in which they were added.
    pub fn value_layers(&self) -> &[ValueLayer] {
        &self.values
    }

    /// A value layer by name, of whichever kind.
    ///
    /// # Errors
    /// A name that no value layer has.
    pub fn value_layer(&self, name: &str) -> Result<&ValueLayer, NameError> {
        self.value_layer_at(name).map(|at| &self.values[at])
    }

    /// Whether there is a value layer of this name.
    pub(crate) fn has_value_layer(&self, name: &str) -> bool {
        self.values.iter().any(|layer| *layer.name == *name)
    }

    pub(crate) fn value_layer_at(&self, name: &str) -> Result<usize, NameError> {
        let found = self.values.iter().position(|layer| *layer.name == *name);
        found.ok_or_else(|| {
            NameError::new("value layer", name, self.values.iter().map(ValueLayer::name))
        })
    }

    /// The values of a value layer.
    ///
    /// # Errors
    /// A name that no value layer has, or one that holds another kind.
    ///
    /// ```
    /// use sturdy_quilt::{CellPos, ValueKind};
    /// # let mut quilt = sturdy_quilt::doc_quilt();
    ///
    /// quilt.edit("let it grow", |pen| {
    ///     pen.add_value_layer("growth", ValueKind::F32)?;
    ///     pen.put_value("growth", CellPos::new(1, 1), 0.25_f32)
    /// })?;
    /// let growth = quilt.values::<f32>("growth")?;
    /// assert_eq!(growth.get(CellPos::new(1, 1)).here(), Some(0.25));
    /// assert_eq!(growth.get(CellPos::new(9, 9)).here(), Some(0.0));
    /// let wrong = quilt.values::<u32>("growth").unwrap_err();
    /// assert_eq!(wrong.to_string(), "value layer `growth` holds f32, not u32");
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    pub fn values<V: OwnValue>(&self, name: &str) -> Result<&Plane<V>, ValueLayerError> {
        let layer = self.value_layer(name)?;
        layer.plane().ok_or_else(|| wrong_kind::<V>(layer))
    }
}

/// What is said of a layer that holds another kind than `V`.
pub(crate) fn wrong_kind<V: OwnValue>(layer: &ValueLayer) -> ValueLayerError {
    ValueLayerError::Kind { name: layer.name().to_owned(), held: layer.kind(), asked: V::KIND }
}
