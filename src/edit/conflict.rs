//! The parts of a map about which it and changes disagree.

use std::fmt;
use std::sync::Arc;

use crate::cell_set::CellSet;

/// A part of a map that holds neither what changes expect nor what they leave, by name.
#[derive(Clone, Debug, PartialEq)]
#[non_exhaustive]
pub enum Conflict {
    /// Cells of a layer.
    Cells {
        /// The layer.
        layer: Arc<str>,
        /// Which cells.
        cells: CellSet,
    },
    /// Values of a value layer.
    Values {
        /// The value layer.
        layer: Arc<str>,
        /// In which cells.
        cells: CellSet,
    },
    /// A setting of a layer.
    Setting {
        /// The layer.
        layer: Arc<str>,
        /// The setting, named as the field of [`LayerSettings`](crate::LayerSettings).
        setting: &'static str,
    },
    /// A layer: it is not there, there already, holds something else, or has another place or name.
    Layer(Arc<str>),
    /// A value layer, as a layer.
    ValueLayer(Arc<str>),
    /// A marker.
    Marker(Arc<str>),
    /// A tile set.
    Tiles(Arc<str>),
    /// A ground class.
    GroundClass(Arc<str>),
    /// A mover.
    Mover(Arc<str>),
    /// A palette.
    Palette(Arc<str>),
    /// The stated bounds of the map.
    Bounds,
    /// The projection of the map.
    Projection,
    /// The map's own data.
    Data,
}

/// What a rule decides about a [`Conflict`].
#[derive(Clone, Debug, Default, PartialEq)]
pub enum Resolve {
    /// The map keeps what it holds.
    #[default]
    Keep,
    /// The map gets what the changes leave. Where that cannot be, it keeps what it holds.
    Take,
    /// Of cells or values, those of a set get what the changes leave. Anything else is kept.
    TakeIn(CellSet),
}

impl fmt::Display for Conflict {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        let cells = |f: &mut fmt::Formatter<'_>, cells: &CellSet| match cells.len() {
            1 => write!(f, "cell {}", cells.bounds().corner()),
            count => write!(f, "{count} cells within the {}", cells.bounds()),
        };
        match self {
            Conflict::Cells { layer, cells: all } => {
                cells(f, all)?;
                write!(f, " of layer `{layer}`")
            }
            Conflict::Values { layer, cells: all } => {
                cells(f, all)?;
                write!(f, " of value layer `{layer}`")
            }
            Conflict::Setting { layer, setting } => write!(f, "`{setting}` of layer `{layer}`"),
            Conflict::Layer(name) => write!(f, "layer `{name}`"),
            Conflict::ValueLayer(name) => write!(f, "value layer `{name}`"),
            Conflict::Marker(name) => write!(f, "marker `{name}`"),
            Conflict::Tiles(name) => write!(f, "tile set `{name}`"),
            Conflict::GroundClass(name) => write!(f, "ground class `{name}`"),
            Conflict::Mover(name) => write!(f, "mover `{name}`"),
            Conflict::Palette(name) => write!(f, "palette `{name}`"),
            Conflict::Bounds => f.write_str("what the map states as its bounds"),
            Conflict::Projection => f.write_str("the projection of the map"),
            Conflict::Data => f.write_str("the data of the map"),
        }
    }
}
