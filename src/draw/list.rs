//! The draw list: what a view shows, in order.

use super::alignment::Alignment;
use super::figures::DrawFigures;
use super::pass::{Batch, BatchOpener, LooseItem, Pass, Quad, StackPass};
use super::scene::Scene;
use super::sprite::Sprite;
use crate::quilt::Quilt;
use crate::tile::TileTable;
use crate::units::{ScreenSize, WorldRect};
use crate::view::View;

/// What a view of a map shows, in the order in which it is drawn.
///
/// Made once and rebuilt each frame: what has not changed since, by stamps, is kept, also when the
/// camera moves. It may show any map after any other, and always equals one made anew.
///
/// Only cells in view are listed; clear tiles, and tiles that others cover wholly, are left out
/// and counted.
///
/// ```
/// use sturdy_quilt::{DrawList, ScreenSize, View, WorldPoint};
/// # let quilt = sturdy_quilt::doc_quilt();
///
/// let mut list = DrawList::new();
/// let view = View::new(ScreenSize::new(320, 200)).centered_on(WorldPoint::new(32.0, 16.0));
/// list.rebuild(&quilt, &view, &[]);
/// assert_eq!(list.figures().quads, list.quads().len());
/// assert_eq!(list.figures().chunks_rebuilt, 4);
///
/// list.rebuild(&quilt, &view.moved(sturdy_quilt::WorldVec::new(1.0, 0.0)), &[]);
/// assert_eq!(list.figures().chunks_rebuilt, 0);
/// ```
#[derive(Clone, Debug)]
pub struct DrawList {
    remove_hidden: bool,
    view: View,
    pub(super) scene: Option<Scene>,
    alignments: Vec<Alignment>,
    passes: Vec<PassPlan>,
    loose: Vec<LooseItem>,
    figures: DrawFigures,
}

#[derive(Clone, Copy, Debug, PartialEq)]
enum PassPlan {
    Stack { alignment: usize, slots: (u16, u16) },
    Loose { first: usize, end: usize },
}

// Make.
impl DrawList {
    /// An empty list.
    pub fn new() -> DrawList {
        DrawList {
            remove_hidden: true,
            view: View::new(ScreenSize::default()),
            scene: None,
            alignments: Vec::new(),
            passes: Vec::new(),
            loose: Vec::new(),
            figures: DrawFigures::default(),
        }
    }

    /// A list that keeps tiles which others cover wholly: for a look at what is below, and to
    /// prove that removing them changes nothing.
    pub fn keeping_hidden() -> DrawList {
        DrawList { remove_hidden: false, ..DrawList::new() }
    }

    /// Lists what a view of a map shows, with the sprites of the game among its cells.
    ///
    /// Costs a look at each chunk in view, and at the cells of those that are new or changed; a
    /// sort of the sprites, and of the cells of layers that are sorted by row with them.
    pub fn rebuild(&mut self, quilt: &Quilt, view: &View, sprites: &[Sprite]) {
        self.view = *view;
        self.loose.clear();
        self.passes.clear();
        self.figures = DrawFigures::default();
        let scene = match self.scene.take() {
            Some(scene) if scene.is_of(quilt) => scene,
            _ => {
                let (scene, alignments) = Scene::of(quilt);
                self.alignments = alignments;
                scene
            }
        };
        for alignment in &mut self.alignments {
            alignment.look(quilt, view, &scene.looks, self.remove_hidden, &mut self.figures);
        }
        let (visible, items) = (self.view.visible(), sprites.iter());
        let items = items.filter_map(|sprite| sprite.item(&scene.tiles, &scene.lattice));
        let mut items: Vec<LooseItem> = items.filter(|item| touches(item.rect, visible)).collect();
        items.sort_by_key(|item| item.key);
        self.figures.sprites = items.len();
        self.plan(&scene, &items);
        self.scene = Some(scene);
        self.count();
    }
}

// Read.
impl DrawList {
    /// The view for which it was built.
    pub const fn view(&self) -> &View {
        &self.view
    }

    /// What was looked at, left out and listed.
    pub const fn figures(&self) -> &DrawFigures {
        &self.figures
    }

    /// The tile table with the pages of pixels; `None` before the first rebuild.
    pub fn tiles(&self) -> Option<&TileTable> {
        self.scene.as_ref().map(|scene| &scene.tiles)
    }

    /// How solid the cells of a slot are drawn, 0 to 255.
    pub fn slot_alpha(&self, slot: u16) -> u8 {
        let slots = self.scene.as_ref().map(|scene| &scene.looks.slots);
        slots.and_then(|slots| slots.get(usize::from(slot))).map_or(0, |slot| slot.alpha)
    }

    /// The passes, in the order of drawing.
    pub fn passes(&self) -> impl Iterator<Item = Pass<'_>> {
        let scene = self.scene.as_ref();
        self.passes.iter().filter_map(move |plan| match *plan {
            PassPlan::Loose { first, end } => Some(Pass::Loose(&self.loose[first..end])),
            PassPlan::Stack { alignment, slots } => Some(Pass::Stack(StackPass {
                alignment: &self.alignments[alignment],
                slots,
                lattice: &scene?.lattice,
                view: &self.view,
            })),
        })
    }

    /// Everything as quads in the total order of drawing, for those who draw quads; see
    /// [`DrawList::quads_into`], which reuses memory.
    pub fn quads(&self) -> Vec<Quad> {
        let mut quads = Vec::with_capacity(self.figures.quads);
        self.quads_into(&mut quads);
        quads
    }

    /// Everything as quads in the total order of drawing, in place of what `quads` held.
    pub fn quads_into(&self, quads: &mut Vec<Quad>) {
        quads.clear();
        let Some(scene) = &self.scene else { return };
        for pass in self.passes() {
            match pass {
                Pass::Stack(pass) => quads.extend(pass.shown().map(|(at, entry)| {
                    let (page, art) = scene.looks.art_of(entry.cell);
                    let slot = &scene.looks.slots[usize::from(entry.slot)];
                    Quad {
                        key: slot.key(&scene.lattice, pass.alignment.offset, at),
                        page,
                        source: art.source,
                        turn: entry.cell.turn(),
                        target: pass.pixels(at),
                        alpha: slot.alpha,
                    }
                })),
                Pass::Loose(items) => quads.extend(items.iter().map(|item| Quad {
                    key: item.key,
                    page: item.page,
                    source: item.source,
                    turn: item.turn,
                    target: self.view.pixels(item.rect),
                    alpha: item.alpha,
                })),
            }
        }
        quads.sort_by_key(|quad| quad.key);
    }

    /// Where quads can be drawn together: runs of quads whose pixels lie on one page.
    pub fn batches(quads: &[Quad]) -> Vec<Batch> {
        let mut first = 0;
        let runs = quads.chunk_by(|a, b| a.page == b.page).map(|run| {
            let opened_by = if first == 0 { BatchOpener::Start } else { BatchOpener::Page };
            let batch = Batch { first, count: run.len(), page: run[0].page, opened_by };
            first += run.len();
            batch
        });
        runs.collect()
    }
}

impl Default for DrawList {
    fn default() -> DrawList {
        DrawList::new()
    }
}

// Derive.
impl DrawList {
    /// Puts the slots and sprites into passes: as few as keep the order.
    fn plan(&mut self, scene: &Scene, mut sprites: &[LooseItem]) {
        let slots = &scene.looks.slots;
        let mut first = 0;
        while first < slots.len() {
            let slot = slots[first];
            let level = (slot.priority, slot.raised);
            let is_below = |item: &LooseItem| (item.key.priority, item.key.raised) < level;
            let below = sprites.split_off(..sprites.partition_point(is_below)).unwrap_or_default();
            self.add_loose(scene, (0, 0), below);
            // Sorted layers of one priority and raise mix row by row, so they stay together, and
            // so do the sprites among them.
            let together = slots[first..].iter().take_while(|next| slot.mixes_with(next)).count();
            let end = first + together.max(1);
            let is_among = |item: &LooseItem| (item.key.priority, item.key.raised) == level;
            let among = if slot.sort_rows { sprites.partition_point(is_among) } else { 0 };
            let among = sprites.split_off(..among).unwrap_or_default();
            let range = (first as u16, end as u16);
            let aligned = slots[first..end].iter().all(|s| s.alignment == slot.alignment);
            if aligned && among.is_empty() && !self.has_oversize(range) {
                self.add_stack(slot.alignment, range);
            } else {
                self.add_loose(scene, range, among);
            }
            first = end;
        }
        self.add_loose(scene, (0, 0), sprites);
    }

    fn has_oversize(&self, (first, end): (u16, u16)) -> bool {
        let chunks = self.alignments.iter().flat_map(|a| a.chunks.values());
        chunks.flat_map(|stack| &stack.oversize).any(|entry| (first..end).contains(&entry.slot))
    }

    fn add_stack(&mut self, alignment: usize, (first, end): (u16, u16)) {
        match self.passes.last_mut() {
            Some(PassPlan::Stack { alignment: held, slots })
                if *held == alignment && slots.1 == first =>
            {
                slots.1 = end;
            }
            _ => self.passes.push(PassPlan::Stack { alignment, slots: (first, end) }),
        }
    }

    /// Adds the cells of some slots, and sprites among them, each by itself.
    fn add_loose(&mut self, scene: &Scene, (first, end): (u16, u16), sprites: &[LooseItem]) {
        if first == end && sprites.is_empty() {
            return;
        }
        let start = self.loose.len();
        self.loose.extend_from_slice(sprites);
        let visible = self.view.visible();
        for alignment in self.alignments.iter().filter(|_| first < end) {
            for (pos, stack) in alignment.chunks_in(alignment.reached) {
                for entry in stack.entries.iter().chain(&stack.oversize) {
                    let at = pos.cell_at_index(entry.index.into());
                    if (first..end).contains(&entry.slot) && alignment.reached.contains(at) {
                        let item = scene.loose_item(alignment.offset, at, entry);
                        if touches(item.rect, visible) {
                            self.loose.push(item);
                        }
                    }
                }
            }
        }
        // Stable, so that sprites of the same key in the same place keep the order of the game.
        self.loose[start..].sort_by_key(|item| item.key);
        self.passes.push(PassPlan::Loose { first: start, end: self.loose.len() });
    }

    fn count(&mut self) {
        let counts = self.passes().map(|pass| match pass {
            Pass::Stack(pass) => pass.shown().count(),
            Pass::Loose(items) => items.len(),
        });
        let quads = counts.sum();
        let figures = &mut self.figures;
        figures.quads = quads;
        figures.off_screen =
            figures.cells - figures.clear - figures.hidden - (quads - figures.sprites);
    }
}

fn touches(a: WorldRect, b: WorldRect) -> bool {
    a.min().x < b.max().x && b.min().x < a.max().x && a.min().y < b.max().y && b.min().y < a.max().y
}
