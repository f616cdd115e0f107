/// The figures of a [`DrawList`](crate::DrawList).
///
/// Every cell that is not empty in the chunks of the view is counted once: it is clear, hidden, off
/// screen, or one of the quads. The other quads are sprites and backdrops.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
#[non_exhaustive]
pub struct DrawFigures {
    /// Cells with a tile, or not loaded, in the chunks that the view touches.
    pub cells: usize,
    /// Those whose tile has no pixels to show.
    pub clear: usize,
    /// Those that a solid tile above covers wholly.
    pub hidden: usize,
    /// Those beyond the edge of the view. A layer that repeats itself may show a cell more than
    /// once; each time more takes one from this number.
    pub off_screen: usize,
    /// Everything that is drawn: cells, and sprites.
    pub quads: usize,
    /// Sprites that are drawn; those off screen, or with nothing to show, are not counted.
    pub sprites: usize,
    /// Chunks that the view touches, counted for each group of layers on the same lattice edges.
    pub chunks: usize,
    /// Those that were listed in the last rebuild, because they are new in view or what is drawn of
    /// them has changed; of a few changed cells only those were looked at.
    pub chunks_rebuilt: usize,
    /// Those with cells that show other pixels as time goes on.
    pub chunks_animated: usize,
    /// In how many calls a renderer can draw all quads, see [`DrawList::batches`].
    ///
    /// [`DrawList::batches`]: crate::DrawList::batches
    pub batches: usize,
    /// How often in the order of drawing the page of pixels changes.
    pub page_changes: usize,
    /// What is kept from frame to frame, in bytes, without the pages of pixels.
    pub bytes: usize,
}

impl DrawFigures {
    /// Adds what was counted of other chunks.
    pub(super) fn add_chunks(&mut self, of: &DrawFigures) {
        self.chunks += of.chunks;
        self.chunks_animated += of.chunks_animated;
        self.chunks_rebuilt += of.chunks_rebuilt;
        self.clear += of.clear;
        self.hidden += of.hidden;
        self.cells += of.cells;
        self.bytes += of.bytes;
    }
}
