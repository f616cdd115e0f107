//! Writing maps and tile sets as documents.

#[cfg(feature = "fs")]
mod batch;
#[cfg(feature = "zip")]
mod bundle;
mod cells;
mod check;
mod encode;
mod error;
mod layout;
mod map;
mod options;
#[cfg(feature = "fs")]
mod save;
mod spelling;
mod tiles;
mod values;
mod writer;

#[cfg(feature = "fs")]
pub use batch::FileBatch;
#[cfg(feature = "zip")]
pub use bundle::zip_archive;
pub use cells::LayerFile;
pub use encode::CellEncoding;
pub(crate) use encode::{field, near_colors, packed_section};
pub use error::SaveError;
pub(crate) use layout::Laid;
pub(crate) use map::{
    area_value, class_value, marker_value, mover_value, palette_value, projection_value,
    settings_entries,
};
pub use spelling::LayerText;
pub(crate) use spelling::{free_character, spelled};
pub(crate) use tiles::set_line;
pub use writer::MapWriter;
