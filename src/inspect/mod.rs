//! Looking into a map: why cells show or not, what lies under a point, small pictures, overlays.

mod explain;
mod minimap;
mod overlay;
mod pick;

pub use explain::{CellVisibility, LayerVisibility, ViewVisibility, Visibility};
pub use minimap::{Minimap, MinimapError, MinimapScale, Sampling};
pub use overlay::TileText;
pub use pick::Picked;
