//! Changes of a map put back into the files that it was loaded from.

mod cells;
mod files;
mod lines;
mod patch;
mod spelling;

pub use files::{InlinedLayer, PutBack};
