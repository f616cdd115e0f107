//! Points, sizes and rectangles, one concrete type for each space.
//!
//! | space | types | unit | axes |
//! |---|---|---|---|
//! | cells | [`CellPos`], [`CellOffset`], [`CellRect`] | one cell | columns right, rows down; documents may shift every second one: [`Addressing`] |
//! | chunks | [`ChunkPos`] | 64 × 64 cells | as cells |
//! | world | [`WorldPoint`], [`WorldVec`], [`WorldRect`] | a measure on the flat ground; seen from above, one picture pixel at zoom 1 | x right, y down |
//! | pane | [`PanePoint`], [`PaneVec`], [`PaneRect`] | one picture pixel at zoom 1, of the picture before the camera | x right, y down |
//! | screen | [`ScreenPoint`], [`ScreenVec`], [`ScreenSize`], [`ScreenRect`] | one pixel of the window | x right, y down |
//! | pictures | [`PixelSize`], [`PixelRect`] | one pixel of a picture | x right, y down |
//!
//! Values of different spaces do not mix at compile time. One overflow policy holds everywhere:
//! what becomes a cell saturates at the limits of [`CellPos`], arithmetic on cells that would
//! leave them gives `None`, and nothing wraps.

mod addressing;
mod cell;
mod cell_rect;
mod chunk;
#[cfg(any(feature = "glam", feature = "mint"))]
mod convert;
mod pane;
mod pixel;
mod scan;
mod screen;
mod side;
mod world;

pub use addressing::Addressing;
pub(crate) use addressing::GridCells;
pub use cell::{CellOffset, CellPos};
pub use cell_rect::{CellRect, Cells};
pub use chunk::{ChunkPos, TractPos};
pub use pane::{PanePoint, PaneRect, PaneVec};
pub use pixel::{PixelRect, PixelSize};
pub use scan::{Corner, ScanOrder};
pub use screen::{ScreenPoint, ScreenRect, ScreenSize, ScreenVec};
pub use side::{Side, Sides};
pub use world::{WorldPoint, WorldRect, WorldVec};
pub(crate) use world::{pairs, polygon_holds, uppermost};
