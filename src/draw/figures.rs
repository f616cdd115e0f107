/// What a [`DrawList`](super::DrawList) has looked at.
///
/// Every cell that is not empty in the chunks of the view is counted once: it is clear, hidden, off
/// screen, or one of the quads. The other quads are sprites.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub struct DrawFigures {
    /// Cells with a tile, or not loaded, in the chunks that the view touches.
    pub cells: usize,
    /// Those whose tile has no pixels to show.
    pub clear: usize,
    /// Those that a solid tile above covers wholly.
    pub hidden: usize,
    /// Those beyond the edge of the view.
    pub off_screen: usize,
    /// Everything that is drawn: cells, and sprites.
    pub quads: usize,
    /// Sprites that are drawn; those off screen, or with nothing to show, are not counted.
    pub sprites: usize,
    /// Chunks that the view touches, counted for each group of layers on the same lattice edges.
    pub chunks: usize,
    /// Those that were looked at cell by cell in the last rebuild, because they are new in view or
    /// have changed.
    pub chunks_rebuilt: usize,
}
