//! Reading maps, tile sets and expectations from trees.

pub(crate) mod cells;
mod expects;
pub(crate) mod layer;
pub(crate) mod map;
pub(crate) mod markers;
mod odd_layers;
mod part;
mod places;
pub(crate) mod tiles;
mod values;

pub(crate) use cells::cell::CellSpelling;
pub(crate) use cells::grid::{CellSource, Encoding, Grid, SHARED};
pub(crate) use cells::legend::Legend;
pub(crate) use cells::{form_of, read_addressing, section_corner};
pub use expects::Expects;
pub(crate) use part::read_part;
pub(crate) use places::{read_area, read_cell_pos};
