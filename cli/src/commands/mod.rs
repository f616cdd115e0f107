//! The commands, one a file.

pub(crate) mod apply;
mod asked;
pub(crate) mod at;
pub(crate) mod check;
mod compare;
pub(crate) mod contact_sheet;
pub(crate) mod convert;
pub(crate) mod demo;
pub(crate) mod diff;
pub(crate) mod draw;
pub(crate) mod edit;
pub(crate) mod info;
pub(crate) mod journal;
mod memory;
pub(crate) mod move_box;
pub(crate) mod outline;
pub(crate) mod ray;
pub(crate) mod reach;
pub(crate) mod schema;
pub(crate) mod sight;
mod tile_set;
pub(crate) mod words;
