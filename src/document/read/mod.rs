//! Reading maps, tile sets and expectations from trees.

pub(in crate::document) mod cells;
mod expects;
mod layer;
pub(in crate::document) mod map;
mod markers;
mod odd_layers;
mod places;
pub(in crate::document) mod tiles;
mod values;

pub(in crate::document) use cells::cell::CellSpelling;
pub(in crate::document) use cells::grid::{CellSource, Encoding, Grid, SHARED};
pub(in crate::document) use cells::legend::Legend;
pub(in crate::document) use cells::{form_of, section_corner};
pub use expects::Expects;
pub(in crate::document) use places::read_cell_pos;
