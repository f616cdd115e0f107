//! Pixels from a draw list, on the CPU.
//!
//! A [`Painter`] paints a [`DrawList`](crate::DrawList) into a [`Frame`], a [`KeptFrame`] that paints only
//! what changed, or any [`Canvas`] of the game's own memory.

mod blit;
mod canvas;
mod cell_row;
mod cells;
mod kept;
mod painter;
mod pane;
mod pieces;
mod resolved;
mod runs;
mod sample;
mod shown;
mod stamp;
mod swatch;
mod turned;
mod vector;
mod worker;

pub use canvas::{Canvas, CanvasError, Frame, PixelOrder};
pub use cells::Shortcuts;
pub use kept::{FramePart, KeptFrame};
pub use painter::Painter;
pub(crate) use sample::{outline_holds, shown_at};
