//! Writing maps and tile sets as documents.

#[cfg(feature = "fs")]
mod batch;
#[cfg(feature = "zip")]
mod bundle;
mod cells;
mod check;
mod error;
mod forms;
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
pub use error::SaveError;
pub use forms::CellForm;
pub(in crate::document) use forms::{field, near_colors, packed_piece};
pub(in crate::document) use layout::Laid;
pub use spelling::LayerText;
pub(in crate::document) use spelling::free_character;
pub use writer::MapWriter;
