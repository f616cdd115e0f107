//! Loading a map or a grid of cells with all its files, at once or on a thread of its own.

#[cfg(feature = "threads")]
mod background;
mod grid;
mod loader;

#[cfg(feature = "threads")]
pub use background::Loading;
pub use grid::{GridFile, GridValues};
pub use loader::{Loaded, Loader};
