//! The tests of the library, through its public interface.

mod api;
#[cfg(feature = "png")]
mod back;
#[cfg(feature = "png")]
mod broken;
mod cell_set;
mod cells;
mod document;
mod door;
mod draw;
mod edit;
mod encodings;
mod exact;
#[cfg(all(feature = "fs", feature = "png"))]
mod examples;
#[cfg(feature = "png")]
mod footprint;
#[cfg(all(feature = "fs", feature = "png"))]
mod golden;
mod ground;
mod handles;
mod judge;
mod lattice;
mod layering;
mod loading;
mod mistakes;
mod motion;
mod outlines;
mod overlay;
mod plane;
mod pointing;
mod projection;
mod scene;
mod schema;
#[cfg(feature = "png")]
mod sets;
mod shapes;
mod sheets;
mod shifted;
mod units;
mod view;
mod ways;
mod yard;
