//! Reading maps, tile sets and expectations from trees.

mod cache;
pub(in crate::document) mod cells;
mod expects;
mod extents;
mod files;
mod layer;
pub(in crate::document) mod map;
mod markers;
mod places;
pub(in crate::document) mod tiles;
mod values;
mod watch;

pub use cache::LoadCache;
pub(in crate::document) use cells::cell::CellSpelling;
pub(in crate::document) use cells::grid::{CellSource, Form, Grid, SHARED};
pub(in crate::document) use cells::legend::Legend;
pub(in crate::document) use cells::{form_of, piece_corner};
pub use expects::Expects;
pub(in crate::document) use files::{Files, check_format, decoded, decoded_picture, file_problem};
pub(in crate::document) use places::read_cell_pos;
pub(in crate::document) use watch::Watch;
pub use watch::{LoadProgress, LoadStage};
