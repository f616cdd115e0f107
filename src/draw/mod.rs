//! What is drawn, in which order, and the renderer of the library.

mod alignment;
mod atlas;
mod chunk_stack;
mod clock;
mod edges;
mod explain;
mod figures;
mod flat;
mod list;
mod looks;
mod minimap;
mod motion;
mod order;
mod overlay;
mod pages;
mod painter;
mod pass;
mod pick;
mod plan;
mod row;
mod scene;
mod shown;
mod slots;
mod sprite;

pub use atlas::{Atlas, AtlasError};
pub use chunk_stack::StackEntry;
pub use clock::Clock;
pub use explain::{CellSight, LayerSight, Sight, ViewSight};
pub use figures::DrawFigures;
pub use list::DrawList;
pub use minimap::{Minimap, MinimapError, MinimapScale, Sampling};
pub use order::{DrawKey, DrawKind};
pub use overlay::{Overlay, OverlayQuad, TileText};
#[doc(hidden)]
pub use painter::Means;
pub use painter::{Canvas, CanvasError, Frame, FramePiece, KeptFrame, Painter, PixelOrder};
pub use pass::{Batch, BatchOpener, LooseItem, Pass, Quad, StackChunk, StackPass};
pub use pick::Picked;
pub use sprite::{Sprite, SpritePicture};

use crate::picture::{Color, Picture};
use crate::quilt::Quilt;
use crate::view::View;

impl Quilt {
    /// Draws what a view shows at time 0, on a background colour. For more than one picture, keep a
    /// [`DrawList`], a [`Painter`] and a [`Frame`], which reuse their memory.
    ///
    /// ```
    /// use sturdy_quilt::{Color, ScreenSize, View};
    /// # let quilt = sturdy_quilt::doc_quilt();
    ///
    /// let view = View::new(ScreenSize::new(48, 32));
    /// let picture = quilt.draw(&view, Color::rgb(0, 0, 0));
    /// assert_eq!(picture.get(0, 0), Some(Color::rgb(0, 0, 0)));
    /// assert_eq!(picture.get(24, 16), Some(Color::of_name("grass")));
    /// ```
    pub fn draw(&self, view: &View, background: Color) -> Picture {
        let mut list = DrawList::new();
        list.rebuild(self, view, &Clock::new(), &[]);
        let mut frame = Frame::new(view.size());
        frame.clear(background);
        Painter::new().paint(&list, &mut frame);
        frame.to_picture()
    }
}
