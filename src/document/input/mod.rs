//! The files of a map while it is read: each read once, counted against the limits, and watched.

mod cache;
mod files;
mod watch;

pub(in crate::document) use cache::CachedSet;
pub use cache::LoadCache;
pub(in crate::document) use files::{
    Files, check_format, decoded, decoded_picture, decoded_rows, file_problem,
};
pub(in crate::document) use watch::Watch;
pub use watch::{LoadProgress, LoadStage};
