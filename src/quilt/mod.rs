//! The map itself: layers, markers, ground classes, movers and palettes.
//!
//! A [`Quilt`] has a list of [`Layer`]s with their [`LayerSettings`], [`ValueLayer`]s, [`Marker`]s,
//! [`GroundRules`] with the [`Mover`]s, and [`Palette`]s. It is read here and changed by
//! [`Quilt::edit`].

// `map` holds it and tells what there is; `parts` is the one way by which it changes, for edits and
// for documents, and says what each part must be.

mod cell_key;
mod ground_rules;
mod layer;
mod layer_key;
mod layers;
mod map;
mod marker;
mod outline;
mod palette;
mod parts;
mod settings;
mod value_layer;

pub use cell_key::CellKey;
pub(crate) use ground_rules::Class;
pub use ground_rules::{
    GroundClass, GroundRules, GroundRulesError, Mover, MoverId, Outside, Treatment,
};
pub use layer::{CellLegend, Layer, LayerId};
pub use layer_key::{LayerKey, LayerKeys};
pub(crate) use layers::Layers;
pub use map::{CellTextError, Quilt, QuiltStamps};
pub use marker::{Marker, MarkerPlace, PlacedMarker};
pub(crate) use palette::color_names;
pub use palette::{Palette, PaletteError};
pub use parts::PartError;
pub(crate) use parts::{MAX_DATA_DEPTH, Named};
pub use settings::{Blend, Grounds, LayerSettings, Parallax, ParallaxBand, Wrap};
pub(crate) use value_layer::wrong_kind;
pub use value_layer::{ValueLayer, ValueLayerError};
