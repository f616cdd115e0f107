//! The draw list: what a view shows, in order.

use super::alignment::Alignment;
use super::chunk_stack::StackEntry;
use super::clock::Clock;
use super::figures::DrawFigures;
use super::flat;
use super::looks::Dress;
use super::order::DrawKind;
use super::pass::{Batch, BatchOpener, LooseItem, Pass, Quad, StackChunk, StackPass};
use super::plan::{PassPlan, StackPlan};
use super::scene::Scene;
use super::sprite::{Sprite, SpriteItems, SpritePictures};
use crate::quilt::{Blend, Quilt};
use crate::tile::{ArtPage, Cell, TileTable};
use crate::units::CellPos;
use crate::view::View;

/// What a view of a map shows, in the order in which it is drawn.
///
/// Made once and rebuilt each frame: what has not changed since, by stamps, is kept, also when the
/// camera moves. It may show any map after any other, and always equals one made anew.
///
/// It holds the chunks in view as a clone of the map would, to tell what an edit has changed of them;
/// so the first write to each after a rebuild copies it.
///
/// Only cells in view are listed; clear tiles, and tiles that others cover wholly, are left out
/// and counted.
///
/// ```
/// use sturdy_quilt::{Clock, DrawList, ScreenSize, View, WorldPoint};
/// # let quilt = sturdy_quilt::doc_quilt();
///
/// let mut list = DrawList::new();
/// let view = View::new(ScreenSize::new(320, 200)).centered_on(WorldPoint::new(32.0, 16.0));
/// let clock = Clock::new();
/// list.rebuild(&quilt, &view, &clock, &[]);
/// assert_eq!(list.figures().quads, list.quads().len());
/// assert_eq!(list.figures().chunks_rebuilt, 4);
///
/// list.rebuild(&quilt, &view.moved(sturdy_quilt::WorldVec::new(1.0, 0.0)), &clock, &[]);
/// assert_eq!(list.figures().chunks_rebuilt, 0);
/// ```
#[derive(Clone, Debug, Default)]
pub struct DrawList {
    keeps_hidden: bool,
    /// Whether layers that move are left out.
    only_still: bool,
    view: View,
    /// The view without its turn.
    upright: View,
    pub(super) clock: Clock,
    pub(super) scene: Option<Scene>,
    pub(super) alignments: Vec<Alignment>,
    pub(super) passes: Vec<PassPlan>,
    pub(super) loose: Vec<LooseItem>,
    pictures: SpritePictures,
    /// Memory to work with.
    sprites: SpriteItems,
    pub(super) oversize_rows: Vec<i32>,
    /// What was counted while it was built.
    counted: DrawFigures,
}

// Make.
impl DrawList {
    /// An empty list.
    pub fn new() -> DrawList {
        DrawList::default()
    }

    /// A list that keeps tiles which others cover wholly: for a look at what is below, and to
    /// prove that removing them changes nothing.
    pub fn keeping_hidden() -> DrawList {
        DrawList { keeps_hidden: true, ..DrawList::new() }
    }

    /// A list that leaves out layers which drift or move by themselves.
    pub(super) fn of_still_layers() -> DrawList {
        DrawList { only_still: true, ..DrawList::new() }
    }

    /// Lists what a view of a map shows at a time, with the sprites of the game among its cells.
    ///
    /// Costs a look at each chunk in view, at the cells of those that are new, and at the cells that
    /// have changed where they are few; a sort of the sprites, which is quick where they stand
    /// much as before. Where nothing has changed, no memory is asked for.
    pub fn rebuild(&mut self, quilt: &Quilt, view: &View, clock: &Clock, sprites: &[Sprite]) {
        self.view = *view;
        self.upright = view.upright();
        self.clock.clone_from(clock);
        let scene = match self.scene.take() {
            Some(scene) if scene.is_of(quilt) => scene,
            _ => {
                let (scene, alignments) = Scene::of(quilt, view, self.only_still);
                self.alignments = alignments;
                scene
            }
        };
        self.counted = DrawFigures::default();
        let now = (&self.upright, clock.now_ms());
        for alignment in &mut self.alignments {
            alignment.look(quilt, now, &scene.looks, !self.keeps_hidden, &mut self.counted);
        }
        self.pictures.begin(scene.looks.pages.count());
        let mut items = std::mem::take(&mut self.sprites);
        items.found.clear();
        let seen = (&self.upright, self.upright.visible());
        for sprite in sprites {
            items.found.extend(sprite.item(&scene, seen, clock.now_ms(), &mut self.pictures));
        }
        self.counted.sprites = items.found.len();
        self.plan(&scene, items.in_order());
        self.sprites = items;
        self.scene = Some(scene);
    }
}

// Read.
impl DrawList {
    /// The view for which it was built.
    pub const fn view(&self) -> &View {
        &self.view
    }

    /// The view without its turn, on whose screen all pixels of the list lie; see
    /// [`View::upright`].
    pub const fn upright(&self) -> &View {
        &self.upright
    }

    /// What was looked at, left out and listed. Costs a look at each quad, as
    /// [`DrawList::quads`] does.
    pub fn figures(&self) -> DrawFigures {
        let quads = self.quads();
        let mut figures = self.counted;
        figures.quads = quads.len();
        let cells = quads.iter().filter(|quad| quad.key.kind == DrawKind::Cell).count();
        let listed = figures.cells - figures.clear - figures.hidden;
        figures.off_screen = listed.saturating_sub(cells);
        figures.batches = DrawList::batches(&quads).len();
        figures.page_changes = quads.windows(2).filter(|pair| pair[0].page != pair[1].page).count();
        figures.bytes += self.loose.capacity() * size_of::<LooseItem>();
        figures
    }

    /// The tile table of the map; `None` before the first rebuild.
    pub fn tiles(&self) -> Option<&TileTable> {
        self.scene.as_ref().map(|scene| &scene.tiles)
    }

    /// A page of pixels by its number: those of the tile table, then those that show a set in
    /// another palette, then the pictures of sprites. The same number may mean another page after
    /// a rebuild; [`ArtPage::stamp`] tells.
    pub fn page(&self, number: u32) -> Option<&ArtPage> {
        let pages = &self.scene.as_ref()?.looks.pages;
        pages.get(number).or_else(|| self.pictures.get(number))
    }

    /// What a page of pixels holds, in words.
    pub fn page_name(&self, number: u32) -> String {
        let named = self.scene.as_ref().and_then(|scene| scene.looks.pages.name(number));
        named.unwrap_or_else(|| "pictures".to_owned())
    }

    /// The quad of an entry of a pass of this list, as [`DrawList::quads`] has it: of an animated
    /// tile its frame now, in the colours of its palettes. `None` for a pass of another list.
    ///
    /// For those who keep what they derive from chunks, see [`StackPass`]: the stamp of a chunk tells
    /// of other entries alone. The target follows the view, colour and blend the settings of the
    /// layer and the palettes, and of a chunk that is animated the pixels follow the time.
    ///
    /// ```
    /// use sturdy_quilt::{Clock, DrawList, Pass, ScreenSize, View};
    /// # let quilt = sturdy_quilt::doc_quilt();
    ///
    /// let mut list = DrawList::new();
    /// list.rebuild(&quilt, &View::new(ScreenSize::new(320, 200)), &Clock::new(), &[]);
    /// let mut quads = Vec::new();
    /// for pass in list.passes() {
    ///     match pass {
    ///         Pass::Stack(pass) => {
    ///             for chunk in pass.chunks() {
    ///                 quads.extend(chunk.entries().filter_map(|entry| list.quad_of(&pass, &chunk, entry)));
    ///             }
    ///         }
    ///         Pass::Loose(items) => quads.extend(items.iter().map(|item| item.quad)),
    ///     }
    /// }
    /// quads.sort_by_key(|quad| quad.key);
    /// assert_eq!(quads, list.quads());
    /// ```
    pub fn quad_of(
        &self,
        pass: &StackPass<'_>,
        chunk: &StackChunk<'_>,
        entry: StackEntry,
    ) -> Option<Quad> {
        let scene = self.scene.as_ref()?;
        let slot = scene.looks.slots.get(usize::from(entry.slot))?;
        let own = chunk.pos().cell_at_index(entry.index.into());
        let shown = own.checked_add(chunk.moved_by())?;
        let (cell, dress, blend) = self.dress(scene, own, entry);
        let key = slot.key(&scene.lattice, pass.alignment.seat.offset, shown);
        Some(Quad::new(key, (dress, cell.turn(), blend), pass.pixels(shown)))
    }

    /// What an entry of a layer's own cell shows at a time: of an animated tile, its frame.
    pub(super) fn frame_at(
        &self,
        scene: &Scene,
        entry: StackEntry,
        own: CellPos,
        clock: &Clock,
    ) -> Cell {
        if !scene.looks.is_animated(entry.cell) {
            return entry.cell;
        }
        let played = clock.plays_any().then(|| {
            let (layer, _) = scene.layer_of(&scene.looks.slots[usize::from(entry.slot)]);
            clock.played_ms(layer, own)
        });
        scene.looks.frame(entry.cell, own, clock.now_ms(), played.flatten())
    }

    /// The pixels of an entry now, and how it is laid on what is below.
    pub(super) fn dress(
        &self,
        scene: &Scene,
        own: CellPos,
        entry: StackEntry,
    ) -> (Cell, Dress, Blend) {
        let slot = &scene.looks.slots[usize::from(entry.slot)];
        let cell = self.frame_at(scene, entry, own, &self.clock);
        (cell, scene.looks.dress(cell, slot), slot.blend)
    }

    /// The passes, in the order of drawing.
    pub fn passes(&self) -> impl Iterator<Item = Pass<'_>> {
        let scene = self.scene.as_ref();
        self.passes.iter().filter_map(move |plan| match *plan {
            PassPlan::Loose { first, end } => Some(Pass::Loose(&self.loose[first..end])),
            PassPlan::Stack(StackPlan { alignment, slots, rows }) => Some(Pass::Stack(StackPass {
                alignment: &self.alignments[alignment],
                slots,
                rows,
                lattice: &scene?.lattice,
            })),
        })
    }

    /// Everything as quads in the total order of drawing, for those who draw quads; see
    /// [`DrawList::quads_into`], which reuses memory.
    pub fn quads(&self) -> Vec<Quad> {
        let mut quads = Vec::new();
        self.quads_into(&mut quads);
        quads
    }

    /// Everything as quads in the total order of drawing, in place of what `quads` held.
    pub fn quads_into(&self, quads: &mut Vec<Quad>) {
        quads.clear();
        let Some(scene) = &self.scene else { return };
        // Passes follow each other in the total order.
        for pass in self.passes() {
            match pass {
                Pass::Stack(pass) => flat::add_stack(self, scene, &pass, quads),
                Pass::Loose(items) => quads.extend(items.iter().map(|item| item.quad)),
            }
        }
        // But for bands: the copies of one that repeats itself may lie among those of another.
        if scene.alignments_of.iter().any(|own| own.len() > 1) {
            quads.sort_by_key(|quad| quad.key);
        }
        debug_assert!(quads.is_sorted_by_key(|quad| quad.key), "passes are out of order");
    }

    /// Where quads can be drawn together: runs of quads whose pixels lie on one page and that are
    /// laid in one way on what is below.
    pub fn batches(quads: &[Quad]) -> Vec<Batch> {
        let (mut first, mut opened_by) = (0_usize, BatchOpener::Start);
        let runs = quads.chunk_by(|before, quad| BatchOpener::between(before, quad).is_none());
        let batches = runs.map(|run| {
            if let Some(before) = first.checked_sub(1).map(|before| &quads[before]) {
                opened_by = BatchOpener::between(before, &run[0]).unwrap_or(BatchOpener::Page);
            }
            let (page, blend) = (run[0].page, run[0].blend);
            let batch = Batch { first, count: run.len(), page, blend, opened_by };
            first += run.len();
            batch
        });
        batches.collect()
    }
}
