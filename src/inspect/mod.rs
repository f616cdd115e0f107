//! Looking into a map: why a cell shows or not, what lies under a pixel, small pictures.
//!
//! [`Quilt::explain_cell`](crate::Quilt::explain_cell) tells the [`Visibility`] of each layer's cell,
//! [`DrawList::pick`](crate::DrawList::pick) what shows at a pixel, and of that whether a [face](PickedPart).
//! A [`Minimap`] is a small picture of a map, kept up to date. More methods of
//! [`Overlay`](crate::Overlay) draw what they find.

mod explain;
mod extent;
mod minimap;
mod overlay;
mod pick;

pub use explain::{CellVisibility, LayerVisibility, ViewVisibility, Visibility};
pub use minimap::{Minimap, MinimapError, MinimapScale, Sampling};
pub use overlay::TileText;
pub use pick::{PickBy, Picked, PickedPart};
