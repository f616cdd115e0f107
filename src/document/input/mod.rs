//! The files of a map while it is read: each read once, counted against the limits, and watched.

mod cache;
mod files;
mod watch;

pub(crate) use cache::CachedSet;
pub use cache::LoadCache;
pub(crate) use files::{Files, check_format, decoded, decoded_picture, decoded_rows, file_problem};
pub(crate) use watch::Watch;
pub use watch::{LoadProgress, LoadStage};
