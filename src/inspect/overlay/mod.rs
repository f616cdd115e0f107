//! Overlays of a map: its lattice, its cells, ground, markers and figures.

mod cells;
mod figures;
mod lines;
mod markers;
mod query;
mod sets;
mod tiles;

pub(super) use markers::marker_color;
pub use tiles::TileText;
