//! The sheets of the demo maps, painted by code so that all art is our own.
//!
//! Light falls from the upper left everywhere. Nothing here is random: noise is a hash of the
//! pixel, so the sheets come out the same on every machine.

mod canvas;
mod colors;
mod folk;
mod hoist;
mod market;
mod solids;
mod terrace;
mod trees;

use sturdy_quilt::Picture;

/// The sheets with their file names.
pub fn sheets() -> Vec<(&'static str, Picture)> {
    vec![
        ("terrace.png", terrace::sheet()),
        ("trees.png", trees::sheet()),
        ("folk.png", folk::sheet()),
        ("hoist.png", hoist::sheet()),
        ("ridge.png", hoist::ridge()),
        ("market.png", market::sheet()),
    ]
}
