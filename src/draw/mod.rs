//! What to draw, in order.
//!
//! A [`DrawList`] has what a [`View`](crate::View) shows at the time of a [`Clock`], with the
//! [`Sprite`]s of the game, in the order of drawing. The [`Painter`](crate::Painter) paints it; those
//! who draw with other means go through its [`Pass`]es or [`Quad`]s, with an [`Atlas`] of the
//! pictures. An [`Overlay`] lays marks and text over a map.

mod alignment;
mod atlas;
mod chunk_stack;
mod clock;
mod edges;
mod figures;
mod flat;
mod glyphs;
mod level_set;
mod limit;
mod list;
mod map_facts;
mod motion;
mod order;
mod overlay;
mod pages;
mod pass;
mod row;
mod scene;
mod slant;
mod slanted;
mod sprite;

pub(crate) use alignment::{Alignment, SlantedView};
pub use atlas::{Atlas, AtlasError};
pub(crate) use chunk_stack::ChunkStack;
pub use clock::Clock;
pub(crate) use edges::PixelEdges;
pub use figures::DrawFigures;
pub(crate) use limit::Limit;
pub use list::DrawList;
pub(crate) use map_facts::{CellArt, CellFacts, LayerLevels, MapFacts, Reach};
pub(crate) use motion::{Motion, Patch, Placement};
pub use order::{DrawKey, DrawKind};
pub use overlay::{Overlay, OverlayPart, OverlayQuad};
pub use pass::{
    Batch, BatchOpener, LooseItem, OnPane, Pass, Quad, StackChunk, StackKey, StackPass,
};
pub use row::StackEntry;
pub(crate) use scene::Scene;
pub(crate) use slant::{Diamond, PaneCells, RankSpan, rank};
pub(crate) use slanted::{Group, Step};
pub(crate) use sprite::size_on_pane;
pub use sprite::{Sprite, SpritePicture};
