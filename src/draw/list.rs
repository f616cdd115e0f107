//! The draw list: what a view shows, in order.

use std::ops::RangeBounds;

use super::alignment::Alignment;
use super::chunk_stack::with_rows;
use super::clock::Clock;
use super::figures::DrawFigures;
use super::flat;
use super::limit::Limit;
use super::map_facts::Level;
use super::motion::{ALL_ROWS, Motion, copies, lifted_px, step};
use super::order::{DrawKey, DrawKind};
use super::pass::{Batch, BatchOpener, LooseItem, Pass, Quad, StackChunk, StackKey, StackPass};
use super::row::StackEntry;
use super::scene::Scene;
use super::slanted::{PlanMemory, Step};
use super::sprite::{
    OrderedSprites, Sprite, SpriteItems, SpritePictures, rect_on_cell, size_on_pane,
};
use crate::quilt::Quilt;
use crate::tile::{ArtPage, Cell, TileTable};
use crate::units::{CellPos, PanePoint, PaneRect, PaneVec, ScreenRect};
use crate::view::View;

/// A list of what a view of a map shows, in the order in which it is drawn.
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
/// use sturdy_quilt::{DrawList, ScreenSize, View, WorldPoint, WorldVec};
/// # let quilt = sturdy_quilt::doc_quilt();
///
/// let mut list = DrawList::new();
/// let view = View::new(ScreenSize::new(320, 200)).centered_on(WorldPoint::new(32.0, 16.0));
/// list.rebuild(&quilt, &view);
/// assert_eq!(list.figures().quads, list.quads().len());
/// assert_eq!(list.figures().chunks_rebuilt, 4);
///
/// list.rebuild(&quilt, &view.moved(WorldVec::new(1.0, 0.0)));
/// assert_eq!(list.figures().chunks_rebuilt, 0);
/// ```
#[derive(Clone, Debug, Default)]
pub struct DrawList {
    keeps_hidden: bool,
    limit: Limit,
    view: View,
    /// The view without its turn.
    upright: View,
    /// The upright view over the map as it is turned.
    seen: View,
    pub(crate) clock: Clock,
    pub(crate) scene: Option<Box<Scene>>,
    pub(crate) alignments: Vec<Alignment>,
    pub(super) passes: Vec<PassPlan>,
    /// Items of passes alone, which are cells of the steps.
    pub(super) own_items: Vec<LooseItem>,
    /// At a slant, what is drawn one after the other, in place of the passes.
    pub(crate) steps: Vec<Step>,
    pub(crate) loose: Vec<LooseItem>,
    pictures: SpritePictures,
    /// Memory to work with.
    sprites: SpriteItems,
    pub(super) oversize_rows: Vec<i32>,
    pub(super) plan_memory: PlanMemory,
    /// What was counted while it was built.
    counted: DrawFigures,
}

/// What a pass draws.
#[derive(Clone, Copy, Debug, PartialEq)]
pub(super) enum PassPlan {
    Stack(StackPlan),
    Loose {
        first: usize,
        end: usize,
    },
    /// Of the items that are there for passes alone.
    Own {
        first: usize,
        end: usize,
    },
}

/// The levels and ranks that a pass of cells draws.
#[derive(Clone, Copy, Debug, PartialEq)]
pub(super) struct StackPlan {
    pub(super) alignment: usize,
    pub(super) levels: (u16, u16),
    pub(super) ranks: (i32, i32),
    /// Of all parts of chunks in view: from the first up to, but not with, the second.
    pub(super) parts: (usize, usize),
}

/// All parts of chunks.
pub(super) const ALL_PARTS: (usize, usize) = (0, usize::MAX);

// Make.
impl DrawList {
    /// Returns an empty list.
    pub fn new() -> DrawList {
        DrawList::default()
    }

    /// Returns a list that keeps tiles which others cover wholly: for a look at what is below, and
    /// to prove that removing them changes nothing.
    pub fn keeping_hidden() -> DrawList {
        DrawList { keeps_hidden: true, ..DrawList::new() }
    }

    /// A list that leaves out layers that have a parallax or a speed.
    pub(crate) fn of_still_layers() -> DrawList {
        DrawList { limit: Limit::still(), ..DrawList::new() }
    }

    /// Returns this list, limited to layers and sprites of some priorities: two of them are what lies
    /// below the game's own drawing, and what lies above. It is rebuilt anew.
    ///
    /// ```
    /// use sturdy_quilt::{DrawList, ScreenSize, View};
    /// # let quilt = sturdy_quilt::doc_quilt();
    ///
    /// let view = View::new(ScreenSize::new(320, 200));
    /// let (mut below, mut above) =
    ///     (DrawList::new().with_priorities(..=0), DrawList::new().with_priorities(1..));
    /// below.rebuild(&quilt, &view);
    /// above.rebuild(&quilt, &view);
    /// assert_eq!((below.quads().len(), above.quads().len()), (12, 0));
    /// ```
    #[must_use]
    pub fn with_priorities(self, priorities: impl RangeBounds<i32>) -> DrawList {
        let mut limit = self.limit;
        limit.set_priorities(&priorities);
        DrawList { keeps_hidden: self.keeps_hidden, limit, ..DrawList::new() }
    }

    /// Returns this list, limited to layers of some names, and the sprites that it is given. It is rebuilt
    /// anew.
    #[must_use]
    pub fn with_layers(self, names: impl IntoIterator<Item = impl Into<String>>) -> DrawList {
        let mut limit = self.limit;
        limit.set_layers(names);
        DrawList { keeps_hidden: self.keeps_hidden, limit, ..DrawList::new() }
    }

    /// Lists what a view of a map shows at time 0, without sprites; see [`DrawList::rebuild_with`].
    pub fn rebuild(&mut self, quilt: &Quilt, view: &View) {
        self.rebuild_with(quilt, view, &Clock::new(), &[]);
    }

    /// Lists what a view of a map shows at a time, with the sprites of the game among its cells. A view
    /// whose projection is made for other cells than those of the map shows nothing.
    ///
    /// Costs a look at each chunk in view, at the cells of those that are new, and at the cells that
    /// have changed where they are few; a sort of the sprites, which is quick where they stand
    /// much as before. Where nothing has changed, no memory is asked for.
    pub fn rebuild_with(&mut self, quilt: &Quilt, view: &View, clock: &Clock, sprites: &[Sprite]) {
        if !view.is_finite() || !view.projection().fits(quilt.lattice()) {
            // Nothing of it is kept: the next view begins anew.
            let view = View::new(view.size());
            let (keeps_hidden, limit) = (self.keeps_hidden, self.limit.clone());
            *self = DrawList {
                keeps_hidden,
                limit,
                view,
                upright: view,
                seen: view,
                ..DrawList::new()
            };
            return;
        }
        self.view = *view;
        self.upright = view.upright();
        self.seen = self.upright.unturned();
        self.clock.clone_from(clock);
        let scene = match self.scene.take() {
            Some(scene) if scene.is_of(quilt, view) => scene,
            _ => {
                let (scene, alignments) = Scene::of(quilt, view, &self.limit);
                self.alignments = alignments;
                Box::new(scene)
            }
        };
        self.counted = DrawFigures::default();
        let now = (&self.seen, clock.now_ms());
        for alignment in &mut self.alignments {
            alignment.look(quilt, now, &scene.map_facts, !self.keeps_hidden, &mut self.counted);
        }
        self.pictures.begin(scene.map_facts.pages.count());
        let mut items = std::mem::take(&mut self.sprites);
        items.found.clear();
        let seen = (&self.upright, self.upright.visible_pane());
        let map = (quilt, view.projection());
        let listed = sprites.iter().filter(|sprite| self.limit.has_priority(sprite.priority));
        for sprite in listed {
            let pictures = &mut self.pictures;
            items.found.extend(sprite.item(&scene, map, seen, clock.now_ms(), pictures));
        }
        self.counted.sprites = items.found.len();
        self.plan(&scene, items.in_order());
        self.sprites = items;
        self.scene = Some(scene);
    }
}

// Read.
impl DrawList {
    /// Returns the view for which it was built.
    pub const fn view(&self) -> &View {
        &self.view
    }

    /// Returns the view without its turn, on whose screen all pixels of the list lie; see
    /// [`View::upright`].
    pub const fn upright(&self) -> &View {
        &self.upright
    }

    /// Returns the figures of what was looked at, left out and listed. Costs a look at each quad,
    /// as [`DrawList::quads`] does.
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

    /// Returns the tile table of the map; `None` before the first rebuild.
    pub fn tiles(&self) -> Option<&TileTable> {
        self.scene.as_ref().map(|scene| &scene.tiles)
    }

    /// Returns a page of pixels by its number: those of the tile table, then those that show a set
    /// in another palette, then the pictures of sprites. The same number may mean another page
    /// after a rebuild; [`ArtPage::stamp`] tells.
    pub fn page(&self, number: u32) -> Option<&ArtPage> {
        let pages = &self.scene.as_deref()?.map_facts.pages;
        pages.get(number).or_else(|| self.pictures.get(number))
    }

    /// Describes what a page of pixels holds.
    pub fn page_name(&self, number: u32) -> String {
        let named = self.scene.as_ref().and_then(|scene| scene.map_facts.pages.name(number));
        named.unwrap_or_else(|| "pictures".to_owned())
    }

    /// Returns the quad of an entry of a pass of this list, as [`DrawList::quads`] has it: of an
    /// animated tile its frame now, in the colours of its palettes. `None` for a pass of another
    /// list.
    ///
    /// For those who keep what they derive from chunks, see [`StackPass`]: the stamp of a chunk tells
    /// of other entries alone. The target follows the view, colour and blend the settings of the
    /// layer and the palettes, and of a chunk that is animated the pixels follow the time.
    ///
    /// ```
    /// use sturdy_quilt::draw::Pass;
    /// use sturdy_quilt::{DrawList, ScreenSize, View};
    /// # let quilt = sturdy_quilt::doc_quilt();
    ///
    /// let mut list = DrawList::new();
    /// list.rebuild(&quilt, &View::new(ScreenSize::new(320, 200)));
    /// let mut quads = Vec::new();
    /// for pass in list.passes() {
    ///     match pass {
    ///         Pass::Stack(pass) => {
    ///             for chunk in pass.chunks() {
    ///                 quads.extend(chunk.entries().filter_map(|entry| list.quad_of(&pass, &chunk, entry)));
    ///             }
    ///         }
    ///         Pass::Loose(items) => quads.extend(items.iter().map(|item| item.quad)),
    ///         other => panic!("a pass that this renderer does not know: {other:?}"),
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
        let scene = self.scene.as_deref()?;
        let level = scene.map_facts.levels.get(usize::from(entry.level))?;
        let own = chunk.pos().cell_at_index(entry.index.into());
        let shown = own.checked_add(chunk.moved_by())?;
        if scene.map_facts.diamond.is_some() {
            return Some(self.loose_cell(scene, pass.alignment, (own, shown), entry).quad);
        }
        let (_, cell_art, blend) = scene.cell_art(&self.clock, own, entry);
        let key = scene.key(level, pass.alignment.placement.offset, shown);
        Some(Quad::new(key, (cell_art, blend), pass.pixels(shown)))
    }

    /// Returns where the picture of an entry of a pass of this list lies on the pane, from
    /// [`StackPass::chunk_place`] on: the same wherever the camera is, for buffers that are kept. Of an
    /// animated tile, that of its frame now. `None` for a pass of another list.
    pub fn rect_of(
        &self,
        pass: &StackPass<'_>,
        chunk: &StackChunk<'_>,
        entry: StackEntry,
    ) -> Option<PaneRect> {
        let scene = self.scene.as_deref()?;
        scene.map_facts.levels.get(usize::from(entry.level))?;
        let Some(diamond) = &scene.map_facts.diamond else {
            return Some(pass.rect_in_chunk(entry));
        };
        let own = chunk.pos().cell_at_index(entry.index.into());
        let (_, cell_art, _) = scene.cell_art(&self.clock, own, entry);
        let (x, y) = diamond.corner(CellPos::new(entry.column().into(), entry.row().into()));
        Some(scene.map_facts.frame_of(diamond, cell_art.art, entry.level).moved(x, y).rect())
    }

    /// Returns the passes, in the order of drawing.
    pub fn passes(&self) -> impl Iterator<Item = Pass<'_>> {
        let mut merged = self.merged_passes();
        // What is left of a pass of several layers.
        let mut open: Option<StackPass<'_>> = None;
        std::iter::from_fn(move || {
            loop {
                let Some(pass) = open.as_mut() else {
                    match merged.next()? {
                        Pass::Stack(pass) => open = Some(pass),
                        loose => return Some(loose),
                    }
                    continue;
                };
                match self.split_layers(pass) {
                    Some(own) if own.alignment.uses(own.levels) => return Some(Pass::Stack(own)),
                    Some(_) => {}
                    None => open = None,
                }
            }
        })
    }

    /// The passes, where those of several layers that follow each other cell by cell are one.
    pub(crate) fn merged_passes(&self) -> impl Iterator<Item = Pass<'_>> {
        let scene = self.scene.as_deref();
        self.passes.iter().filter_map(move |plan| match *plan {
            PassPlan::Loose { first, end } => Some(Pass::Loose(&self.loose[first..end])),
            PassPlan::Own { first, end } => Some(Pass::Loose(&self.own_items[first..end])),
            PassPlan::Stack(StackPlan { alignment, levels, ranks, parts }) => {
                Some(Pass::Stack(StackPass {
                    alignment: &self.alignments[alignment],
                    key: StackKey { level: levels.0, alignment: alignment as u32 },
                    levels,
                    all_levels: levels,
                    ranks,
                    parts,
                    lattice: &scene?.lattice,
                }))
            }
        })
    }

    /// Splits the first layers off a pass that nothing can come between but rank by rank.
    fn split_layers<'a>(&self, pass: &mut StackPass<'a>) -> Option<StackPass<'a>> {
        let (first, end) = pass.levels;
        let all_levels = *self.scene.as_deref()?.mixed.get(usize::from(first))?;
        let levels = (first, all_levels.1.min(end));
        pass.levels.0 = levels.1;
        let key = StackKey { level: all_levels.0, ..pass.key };
        (first < end).then_some(StackPass { key, levels, all_levels, ..*pass })
    }

    /// Returns everything as quads in the total order of drawing, for those who draw quads; see
    /// [`DrawList::quads_into`], which reuses memory.
    pub fn quads(&self) -> Vec<Quad> {
        let mut quads = Vec::new();
        self.quads_into(&mut quads);
        quads
    }

    /// Lists everything as quads in the total order of drawing, in place of what `quads` held.
    pub fn quads_into(&self, quads: &mut Vec<Quad>) {
        quads.clear();
        let Some(scene) = &self.scene else { return };
        if scene.map_facts.diamond.is_some() {
            self.slanted_quads(scene, quads);
            return;
        }
        // Passes follow each other in the total order.
        for pass in self.merged_passes() {
            match pass {
                Pass::Stack(pass) => flat::add_stack((scene, &self.clock), &pass, quads),
                Pass::Loose(items) => quads.extend(items.iter().map(|item| item.quad)),
            }
        }
        // But for bands: the copies of one that repeats itself may lie among those of another.
        if scene.alignments_of.iter().any(|own| own.len() > 1) {
            quads.sort_by_key(|quad| quad.key);
        }
        debug_assert!(quads.is_sorted_by_key(|quad| quad.key), "passes are out of order");
    }

    /// Divides quads into batches that can be drawn together: runs whose pixels lie on one page and
    /// that are laid in one way on what is below.
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

// Put layers and sprites into passes: as few as keep the order.
impl DrawList {
    /// Plans the passes of a scene, with sprites in their order.
    pub(super) fn plan(&mut self, scene: &Scene, mut sprites: OrderedSprites<'_>) {
        self.loose.clear();
        self.passes.clear();
        self.clear_steps();
        self.own_items.clear();
        if scene.map_facts.diamond.is_some() {
            self.plan_slanted(scene, sprites);
            return;
        }
        let levels = &scene.map_facts.levels;
        let mut first = 0;
        while first < levels.len() {
            let level = &levels[first];
            let step = (level.priority, level.raised);
            let is_below = |item: &LooseItem| (item.quad.key.priority, item.quad.key.raised) < step;
            let below = sprites.split_first(is_below);
            self.add_sprites(below);
            if let Some(cell) = level.backdrop {
                self.add_backdrop(scene, level, cell);
                first += 1;
                continue;
            }
            // Sorted layers of one priority and raise mix row by row, so they stay together, and
            // so do the sprites among them.
            let together =
                levels[first..].iter().take_while(|next| level.mixes_with(next, false)).count();
            let end = first + together.max(1);
            let is_among =
                |item: &LooseItem| (item.quad.key.priority, item.quad.key.raised) == step;
            let among = sprites.split_first(|item| level.sort_rows && is_among(item));
            let range = (first as u16, end as u16);
            let own = &scene.alignments_of[first];
            let is_aligned = scene.alignments_of[first..end].iter().all(|other| other == own);
            // Bands of one layer share no row, so it does not matter which comes first.
            let are_apart = end - first == 1 && among.is_empty();
            match own[..] {
                [alignment] if is_aligned => self.add_rows(scene, alignment, range, among),
                _ if is_aligned && are_apart && !self.has_oversize(own, range) => {
                    for &alignment in own {
                        self.add_stack(alignment, range, ALL_ROWS);
                    }
                }
                _ => self.add_loose(scene, range, among),
            }
            first = end;
        }
        self.add_sprites(sprites);
    }

    fn has_oversize(&self, alignments: &[usize], (first, end): (u16, u16)) -> bool {
        let chunks = alignments.iter().flat_map(|at| &self.alignments[*at].chunks);
        chunks.flat_map(|stack| &stack.oversize).any(|entry| (first..end).contains(&entry.level))
    }

    /// Adds the cells of levels on the same edges, and the sprites among them: rows with tiles that
    /// are larger than their cell one by one, all others together, as many as no sprite parts.
    fn add_rows(
        &mut self,
        scene: &Scene,
        alignment: usize,
        levels: (u16, u16),
        mut sprites: OrderedSprites<'_>,
    ) {
        let held = &self.alignments[alignment];
        if !held.has_oversize && sprites.is_empty() {
            self.add_stack(alignment, levels, ALL_ROWS);
            return;
        }
        let mut rows = std::mem::take(&mut self.oversize_rows);
        held.find_oversize_rows(levels, &mut rows);
        let (level, offset) =
            (scene.map_facts.levels[usize::from(levels.0)], held.placement.offset);
        // The least key of a row: of the leftmost cell in the lowest level.
        let left = held.cells.left();
        let key = |row: i32| scene.key(&level, offset, CellPos::new(left, row));
        let (mut row, mut end) = (held.cells.top(), held.cells.bottom());
        if let (Some(&above), Some(&below)) = (rows.first(), rows.last()) {
            (row, end) = (row.min(above), end.max(below + 1));
        }
        let mut oversize = &rows[..];
        while row < end {
            let large = oversize.first().copied().unwrap_or(end);
            let parted = sprites
                .iter()
                .next()
                .map_or(end, |sprite| first_row((row, end), |row| sprite.quad.key < key(row)));
            let stop = large.min(parted);
            self.add_stack(alignment, levels, (row, stop));
            row = stop;
            if row < end {
                self.add_sprites(sprites.split_before(&key(row)));
            }
            if row == large && row < end {
                let start = self.loose.len();
                self.push_cells(scene, alignment, levels, (row, row + 1));
                self.loose[start..].sort_unstable_by_key(|item| item.quad.key);
                self.close_loose(start);
                oversize = &oversize[1..];
                row += 1;
            }
        }
        self.oversize_rows = rows;
        self.add_sprites(sprites);
    }

    fn add_stack(&mut self, alignment: usize, levels: (u16, u16), ranks: (i32, i32)) {
        let held = &self.alignments[alignment];
        let cells = with_rows(held.cells, ranks);
        if cells.is_empty() {
            return;
        }
        let ranks = if cells == held.cells { ALL_ROWS } else { ranks };
        let plan = StackPlan { alignment, levels, ranks, parts: ALL_PARTS };
        match self.passes.last_mut() {
            Some(PassPlan::Stack(last))
                if (last.alignment, last.ranks, last.levels.1) == (alignment, ranks, levels.0) =>
            {
                last.levels.1 = levels.1;
            }
            _ if held.uses(levels) => self.passes.push(PassPlan::Stack(plan)),
            _ => {}
        }
    }

    pub(super) fn add_sprites(&mut self, sprites: OrderedSprites<'_>) {
        let start = self.loose.len();
        self.loose.extend(sprites.iter());
        self.close_loose(start);
    }

    /// Adds the cells of some levels, and sprites among them, each by itself.
    pub(super) fn add_loose(
        &mut self,
        scene: &Scene,
        levels: (u16, u16),
        sprites: OrderedSprites<'_>,
    ) {
        let start = self.loose.len();
        self.loose.extend(sprites.iter());
        for alignment in 0..self.alignments.len() {
            self.push_cells(scene, alignment, levels, ALL_ROWS);
        }
        // Stable, so that sprites of the same key in the same place keep the order of the game.
        self.loose[start..].sort_by_key(|item| item.quad.key);
        self.close_loose(start);
    }

    /// Adds the cells of some levels in the rows in which they show, in no stated order.
    fn push_cells(
        &mut self,
        scene: &Scene,
        alignment: usize,
        (first, end): (u16, u16),
        rows: (i32, i32),
    ) {
        let mut loose = std::mem::take(&mut self.loose);
        let alignment = &self.alignments[alignment];
        let visible = alignment.placement.view.visible_pane();
        let screen = ScreenRect::of_size(alignment.placement.view.size());
        for patch in &alignment.patches {
            let up = patch.by.y.saturating_neg();
            let is_all = rows == ALL_ROWS;
            let rows = (rows.0.saturating_add(up), rows.1.saturating_add(up));
            let cells = if is_all { patch.cells } else { with_rows(patch.cells, rows) };
            for stack in alignment.chunks_in(cells) {
                for entry in stack.entries_in(stack.pos.cells().intersection(cells)) {
                    let own = stack.pos.cell_at_index(entry.index.into());
                    if !(first..end).contains(&entry.level) || !cells.contains(own) {
                        continue;
                    }
                    let Some(shown) = own.checked_add(patch.by) else { continue };
                    let item = self.loose_cell(scene, alignment, (own, shown), *entry);
                    // At a slant, as those of groups: by the pixels that they have.
                    let is_seen = match item.quad.on_pane {
                        Some(_) => !item.quad.target.intersection(screen).is_empty(),
                        None => item.rect.overlaps(visible),
                    };
                    if is_seen {
                        loose.push(item);
                    }
                }
            }
        }
        self.loose = loose;
    }

    pub(super) fn close_loose(&mut self, first: usize) {
        let end = self.loose.len();
        match self.passes.last_mut() {
            _ if first == end => {}
            Some(PassPlan::Loose { end: held, .. }) if *held == first => *held = end,
            _ => self.passes.push(PassPlan::Loose { first, end }),
        }
    }

    /// A cell as a thing by itself.
    pub(crate) fn loose_cell(
        &self,
        scene: &Scene,
        alignment: &Alignment,
        (own, shown): (CellPos, CellPos),
        entry: StackEntry,
    ) -> LooseItem {
        let (placement, lattice) = (&alignment.placement, &scene.lattice);
        let level = &scene.map_facts.levels[usize::from(entry.level)];
        let (_, cell_art, blend) = scene.cell_art(&self.clock, own, entry);
        let key = scene.key(level, placement.offset, shown);
        let look = (cell_art, blend);
        if let Some((diamond, slanted)) = scene.map_facts.diamond.as_ref().zip(alignment.slanted) {
            let (x, y) = diamond.corner(shown);
            let frame = scene.map_facts.frame_of(diamond, cell_art.art, entry.level);
            let frame = frame.moved(x + slanted.corner.0, y + slanted.corner.1);
            let mut item = LooseItem::new(key, entry.cell, look, (frame.rect(), &placement.view));
            let (target, on_pane) = frame.shown(&placement.view, item.quad.target);
            (item.quad.target, item.quad.on_pane) = (target, Some(on_pane));
            return item;
        }
        let bounds = alignment.rect(lattice, shown);
        let rect = if scene.map_facts.is_oversize(cell_art.art) {
            rect_on_cell(bounds, cell_art.art, cell_art.turn)
        } else {
            bounds
        };
        LooseItem::new(key, entry.cell, look, (rect, &placement.view))
    }

    /// Adds the copies of a backdrop that are in view.
    pub(super) fn add_backdrop(&mut self, scene: &Scene, level: &Level, cell: Cell) {
        let (_, settings) = scene.layer_of(level);
        let projection = &scene.map_facts.projection;
        let motion = Motion::of(level.layer as usize, settings, projection);
        let placement = motion.placement(&self.seen, self.clock.now_ms());
        let cell = scene.map_facts.frame(cell, CellPos::ORIGIN, self.clock.now_ms(), None);
        let cell_art = scene.map_facts.backdrop_art(cell, level);
        let size = size_on_pane(cell_art.art, cell_art.turn, scene.map_facts.cell_size());
        let start = self.loose.len();
        let visible = placement.view.visible_pane();
        let way = placement.view.projection().way_to_pane(placement.offset);
        let lifted = lifted_px(level.elevation, projection);
        let corner = PanePoint::new(way.x, way.y - lifted);
        let zoom = placement.view.zoom();
        let shown = |wraps: bool, first: f64, from: f64, to: f64, length: f64| {
            let number = |at: f64| ((at - first) / length).floor() as i64;
            copies(wraps, (number(from), number(to)), step(length * zoom))
        };
        let (from, to) = (visible.min(), visible.max());
        let rows = shown(settings.wrap.down(), corner.y, from.y, to.y, size.1);
        for y in rows {
            for x in shown(settings.wrap.across(), corner.x, from.x, to.x, size.0) {
                // Copies that meet share their edge to the last bit.
                let place = |x: f64, y: f64| corner + PaneVec::new(x * size.0, y * size.1);
                let (left, top) = (x as f64, y as f64);
                let rect = PaneRect::between(place(left, top), place(left + 1.0, top + 1.0));
                let Some(number) = CellPos::checked(x, y) else { continue };
                if !rect.overlaps(visible) {
                    continue;
                }
                let key = backdrop_key(level, number).seen_by(projection);
                let look = (cell_art, level.blend);
                self.loose.push(LooseItem::new(key, cell, look, (rect, &placement.view)));
            }
        }
        self.close_loose(start);
    }
}

/// The first of some rows for which something holds that holds for all after it.
fn first_row((from, end): (i32, i32), holds: impl Fn(i32) -> bool) -> i32 {
    let (mut low, mut high) = (from, end);
    while low < high {
        let middle = low + (high - low) / 2;
        if holds(middle) { high = middle } else { low = middle + 1 }
    }
    low
}

fn backdrop_key(level: &Level, place: CellPos) -> DrawKey {
    let key = DrawKey::of_cell(level.priority, level.raised, None, level.layer, place);
    DrawKey { kind: DrawKind::Backdrop, elevation: level.elevation, ..key }
}
