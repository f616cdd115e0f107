//! Changesets as bytes.

// `write` and `read` go through the operations; `planes` are those of cells and values, and `parts` the parts
// of a map, which have the form that they have in its document.

mod error;
mod parts;
mod planes;
mod read;
mod write;

pub use error::ChangesError;

/// With which changes begin, and what they are called.
pub(super) const MAGIC: ([u8; 4], &str) = (*b"SQch", "changes of a map");

/// The flag of changes that say only what is after.
pub(super) const FORWARD: u8 = 1;

/// The operations by their numbers.
mod kind {
    pub(super) const CELLS: u8 = 0;
    pub(super) const VALUES: u8 = 1;
    pub(super) const LAYER: u8 = 2;
    pub(super) const VALUE_LAYER: u8 = 3;
    pub(super) const ORDER: u8 = 4;
    pub(super) const NAME: u8 = 5;
    pub(super) const SETTINGS: u8 = 6;
    pub(super) const BOUNDS: u8 = 7;
    pub(super) const PROJECTION: u8 = 8;
    pub(super) const DATA: u8 = 9;
    pub(super) const MARKER: u8 = 10;
    pub(super) const TILES: u8 = 11;
    pub(super) const CLASS: u8 = 12;
    pub(super) const MOVER: u8 = 13;
    pub(super) const PALETTE: u8 = 14;
}
