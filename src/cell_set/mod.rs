//! Sets of cells: where an edit changes something, what is selected, what was changed.
//!
//! A [`CellSet`] is made of lines, strokes, ellipses and polygons, by flooding, or by what cells hold,
//! and combined with others. It is kept as a plane is, in chunks of a bit a cell, so a set of vast areas
//! takes little memory, and `clone()` is cheap.

mod areas;
mod build;
mod grow;
mod set;
mod shapes;
mod spread;

pub use build::CellSetError;
pub(crate) use build::{MAX_CHUNKS, check_size};
pub use set::{CellSet, Neighbors};
pub(crate) use shapes::each_of_stroke;
pub use spread::FloodError;
pub(crate) use spread::{Mask, Spread};
