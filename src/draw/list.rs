//! The draw list: what a view shows, in order.

use rustc_hash::FxHashMap;

use super::DrawKey;
use super::chunk_stack::{ChunkStack, LayerSlots, Slot, TileLook, tile_looks};
use super::pass::{Batch, BatchOpener, LooseItem, Pass, Quad, StackEntry, StackPass};
use crate::lattice::Lattice;
use crate::plane::Stamp;
use crate::quilt::{Layer, LayerId, LayerSettings, Quilt};
use crate::tile::{Cell, Fit, TileArt, TileTable};
use crate::units::{CellPos, CellRect, ChunkPos, ScreenSize, WorldPoint, WorldRect, WorldVec};
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
/// list.rebuild(&quilt, &view);
/// assert_eq!(list.figures().quads, list.quads().len());
/// assert_eq!(list.figures().chunks_rebuilt, 4);
///
/// list.rebuild(&quilt, &view.moved(sturdy_quilt::WorldVec::new(1.0, 0.0)));
/// assert_eq!(list.figures().chunks_rebuilt, 0);
/// ```
#[derive(Clone, Debug)]
pub struct DrawList {
    remove_hidden: bool,
    view: View,
    scene: Option<Scene>,
    alignments: Vec<Alignment>,
    passes: Vec<PassPlan>,
    loose: Vec<LooseItem>,
    figures: DrawFigures,
}

/// What the cached parts were made for.
#[derive(Clone, Debug)]
struct Scene {
    tiles: TileTable,
    tiles_stamp: Stamp,
    layers_stamp: Stamp,
    layers: Vec<(LayerId, LayerSettings)>,
    lattice: Lattice,
    slots: Vec<Slot>,
    looks: Vec<TileLook>,
    reach: Reach,
}

/// Layers on the same lattice edges, and what is kept of their chunks.
#[derive(Clone, Debug)]
struct Alignment {
    offset: WorldVec,
    layers: Vec<(u32, LayerSlots)>,
    chunks: FxHashMap<ChunkPos, ChunkStack>,
    /// The cells in view.
    cells: CellRect,
    /// The cells in view, and those whose tiles may reach into it.
    reached: CellRect,
}

/// How far the largest tile reaches beyond its cell, in world units.
#[derive(Clone, Copy, Debug, Default, PartialEq)]
struct Reach {
    sideways: f64,
    upwards: f64,
}

#[derive(Clone, Copy, Debug, PartialEq)]
enum PassPlan {
    Stack { alignment: usize, slots: (u16, u16) },
    Loose { first: usize, end: usize },
}

/// What a [`DrawList`] has looked at.
///
/// Every cell that is not empty in the chunks of the view is counted once: it is clear, hidden, off
/// screen, or one of the quads.
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
    /// Those that are drawn.
    pub quads: usize,
    /// Chunks that the view touches, counted for each group of layers on the same lattice edges.
    pub chunks: usize,
    /// Those that were looked at cell by cell in the last rebuild, because they are new in view or
    /// have changed.
    pub chunks_rebuilt: usize,
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

    /// Lists what a view of a map shows.
    ///
    /// Costs a look at each chunk in view, and at the cells of those that are new or changed.
    pub fn rebuild(&mut self, quilt: &Quilt, view: &View) {
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
            alignment.look(quilt, view, &scene, self.remove_hidden, &mut self.figures);
        }
        self.plan(&scene);
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
        let slots = self.scene.as_ref().map(|scene| &scene.slots);
        slots.and_then(|slots| slots.get(usize::from(slot))).map_or(0, |slot| slot.alpha)
    }

    /// Calls `draw` for each pass, in the order of drawing.
    pub fn each_pass(&self, mut draw: impl FnMut(Pass<'_>)) {
        let Some(scene) = &self.scene else { return };
        for plan in &self.passes {
            match *plan {
                PassPlan::Loose { first, end } => draw(Pass::Loose(&self.loose[first..end])),
                PassPlan::Stack { alignment, slots } => {
                    let alignment = &self.alignments[alignment];
                    let chunks = alignment.chunks_in(alignment.cells);
                    draw(Pass::Stack(StackPass {
                        chunks: &chunks,
                        slots,
                        cells: alignment.cells,
                        lattice: &scene.lattice,
                        view: &self.view,
                        offset: alignment.offset,
                    }));
                }
            }
        }
    }

    /// Everything as quads in the total order of drawing, for those who draw quads.
    pub fn quads(&self) -> Vec<Quad> {
        let Some(scene) = &self.scene else { return Vec::new() };
        let mut quads = Vec::with_capacity(self.figures.quads);
        self.each_pass(|pass| match pass {
            Pass::Stack(pass) => quads.extend(pass.shown().map(|(at, entry)| {
                let (page, art) = art_of(&scene.tiles, entry.cell);
                let slot = &scene.slots[usize::from(entry.slot)];
                Quad {
                    key: slot.key(&scene.lattice, pass.offset, at),
                    page,
                    source: art.source,
                    turn: entry.cell.turn(),
                    left: pass.column_edge(at.x()),
                    top: pass.row_edge(at.y()),
                    right: pass.column_edge(at.x() + 1),
                    bottom: pass.row_edge(at.y() + 1),
                    alpha: slot.alpha,
                }
            })),
            Pass::Loose(items) => quads.extend(items.iter().map(|item| Quad {
                key: item.key,
                page: item.page,
                source: item.source,
                turn: item.turn,
                left: self.view.column_edge(item.rect.min().x),
                top: self.view.row_edge(item.rect.min().y),
                right: self.view.column_edge(item.rect.max().x),
                bottom: self.view.row_edge(item.rect.max().y),
                alpha: item.alpha,
            })),
        });
        quads.sort_unstable_by_key(|quad| quad.key);
        quads
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
    /// Puts the slots into passes: as few as keep the order.
    fn plan(&mut self, scene: &Scene) {
        let mut first = 0;
        while first < scene.slots.len() {
            let slot = scene.slots[first];
            // Sorted layers of one priority and raise mix row by row, so they stay together.
            let together = scene.slots[first..].iter().take_while(|next| slot.mixes_with(next));
            let end = first + together.count().max(1);
            let range = (first as u16, end as u16);
            let aligned = scene.slots[first..end].iter().all(|s| s.alignment == slot.alignment);
            if aligned && !self.has_oversize(range) {
                self.add_stack(slot.alignment, range);
            } else {
                self.add_loose(scene, range);
            }
            first = end;
        }
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

    fn add_loose(&mut self, scene: &Scene, (first, end): (u16, u16)) {
        let start = self.loose.len();
        let visible = self.view.visible();
        for alignment in &self.alignments {
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
        self.loose[start..].sort_unstable_by_key(|item| item.key);
        self.passes.push(PassPlan::Loose { first: start, end: self.loose.len() });
    }

    fn count(&mut self) {
        let mut quads = 0;
        self.each_pass(|pass| match pass {
            Pass::Stack(pass) => quads += pass.shown().count(),
            Pass::Loose(items) => quads += items.len(),
        });
        let figures = &mut self.figures;
        figures.quads = quads;
        figures.off_screen = figures.cells - figures.clear - figures.hidden - quads;
    }
}

impl Alignment {
    /// Finds which cells the view shows, and brings their chunks up to date.
    fn look(
        &mut self,
        quilt: &Quilt,
        view: &View,
        scene: &Scene,
        remove_hidden: bool,
        figures: &mut DrawFigures,
    ) {
        let area = view.visible().moved(self.offset * -1.0);
        self.cells = quilt.lattice().cells_in(area);
        let Reach { sideways, upwards } = scene.reach;
        let reached = WorldRect::between(
            area.min() - WorldVec::new(sideways, 0.0),
            area.max() + WorldVec::new(sideways, upwards),
        );
        self.reached = quilt.lattice().cells_in(reached);
        let layers: Vec<(&Layer, LayerSlots)> = (self.layers.iter())
            .map(|&(at, slots)| (&quilt.layers()[at as usize], slots))
            .collect();
        let mut kept = FxHashMap::default();
        for pos in self.reached.chunks() {
            let stack = match self.chunks.remove(&pos) {
                Some(stack) if stack.is_fresh(pos, &layers) => stack,
                _ => {
                    figures.chunks_rebuilt += 1;
                    ChunkStack::build(pos, &layers, &scene.slots, &scene.looks, remove_hidden)
                }
            };
            figures.chunks += 1;
            figures.clear += stack.clear as usize;
            figures.hidden += stack.hidden as usize;
            figures.cells += stack.entries.len() + stack.oversize.len();
            kept.insert(pos, stack);
        }
        figures.cells += kept.values().map(|s| (s.clear + s.hidden) as usize).sum::<usize>();
        self.chunks = kept;
    }

    fn chunks_in(&self, cells: CellRect) -> Vec<(ChunkPos, &ChunkStack)> {
        cells.chunks().filter_map(|pos| Some((pos, self.chunks.get(&pos)?))).collect()
    }
}

impl Slot {
    fn mixes_with(&self, other: &Slot) -> bool {
        self.sort_rows
            && other.sort_rows
            && (self.priority, self.raised) == (other.priority, other.raised)
    }

    fn key(&self, lattice: &Lattice, offset: WorldVec, at: CellPos) -> DrawKey {
        let foot = self.sort_rows.then(|| lattice.foot(at).y + offset.y);
        DrawKey::of_cell(self.priority, self.raised, foot, self.layer, at)
    }
}

impl Scene {
    fn is_of(&self, quilt: &Quilt) -> bool {
        let stamps = quilt.stamps();
        self.tiles_stamp == stamps.tiles
            && self.layers_stamp == stamps.layers
            && self.lattice == *quilt.lattice()
            && self.tiles.same_descent(quilt.tiles())
            && self.tiles.len() == quilt.tiles().len()
            && self.layers.len() == quilt.layers().len()
            && self
                .layers
                .iter()
                .zip(quilt.layers())
                .all(|((id, settings), layer)| *id == layer.id() && settings == layer.settings())
    }

    fn of(quilt: &Quilt) -> (Scene, Vec<Alignment>) {
        let mut alignments: Vec<Alignment> = Vec::new();
        let mut slots = Vec::new();
        for (layer, held) in (0..).zip(quilt.layers()) {
            let settings = held.settings();
            if !settings.visible || !settings.draws || settings.alpha() == 0 {
                continue;
            }
            let known = alignments.iter().position(|a| a.offset == settings.offset);
            let alignment = known.unwrap_or_else(|| {
                alignments.push(Alignment::new(settings.offset));
                alignments.len() - 1
            });
            slots.extend([false, true].map(|raised| Slot {
                layer,
                priority: settings.priority,
                raised,
                sort_rows: settings.sort_rows,
                alpha: settings.alpha(),
                alignment,
            }));
        }
        // What is not sorted by row has depth −∞ and so comes before what is.
        slots.sort_by_key(|slot| (slot.priority, slot.raised, slot.sort_rows, slot.layer));
        for (layer, held) in (0..).zip(quilt.layers()) {
            let place = |raised| slots.iter().position(|s| s.layer == layer && s.raised == raised);
            if let (Some(low), Some(high)) = (place(false), place(true)) {
                let alignment = slots[low].alignment;
                debug_assert_eq!(alignments[alignment].offset, held.settings().offset);
                alignments[alignment].layers.push((layer, (low as u16, high as u16)));
            }
        }
        let (tiles, lattice) = (quilt.tiles().clone(), *quilt.lattice());
        let scene = Scene {
            tiles_stamp: quilt.stamps().tiles,
            layers_stamp: quilt.stamps().layers,
            layers: quilt.layers().iter().map(|l| (l.id(), l.settings().clone())).collect(),
            looks: tile_looks(&tiles, &lattice),
            reach: Reach::of(&tiles, &lattice),
            tiles,
            lattice,
            slots,
        };
        (scene, alignments)
    }

    fn loose_item(&self, offset: WorldVec, at: CellPos, entry: &StackEntry) -> LooseItem {
        let slot = &self.slots[usize::from(entry.slot)];
        let (page, art) = art_of(&self.tiles, entry.cell);
        let oversize = entry.cell.tile().and_then(|id| self.looks.get(id.index()));
        let rect = if oversize == Some(&TileLook::Oversize) {
            standing(self.lattice.foot(at), art, entry.cell)
        } else {
            self.lattice.bounds(at)
        };
        LooseItem {
            key: slot.key(&self.lattice, offset, at),
            cell: entry.cell,
            page,
            source: art.source,
            turn: entry.cell.turn(),
            rect: rect.moved(offset),
            alpha: slot.alpha,
        }
    }
}

impl Alignment {
    fn new(offset: WorldVec) -> Alignment {
        Alignment {
            offset,
            layers: Vec::new(),
            chunks: FxHashMap::default(),
            cells: CellRect::EMPTY,
            reached: CellRect::EMPTY,
        }
    }
}

impl Reach {
    fn of(tiles: &TileTable, lattice: &Lattice) -> Reach {
        let natural = tiles.ids().map(|id| tiles.art(id).1).filter(|art| art.fit == Fit::Natural);
        natural.fold(Reach::default(), |reach, art| {
            // Turned, width and height change places; reach for both.
            let longest = f64::from(art.source.size.width.max(art.source.size.height));
            Reach {
                sideways: reach.sideways.max((longest - lattice.cell_width()) / 2.0),
                upwards: reach.upwards.max(longest - lattice.cell_height()),
            }
        })
    }
}

/// The pixels of a cell; an empty one stands for what is not loaded.
pub(super) fn art_of(tiles: &TileTable, cell: Cell) -> (u32, TileArt) {
    cell.tile().map_or((0, TileTable::UNLOADED_ART), |id| tiles.art(id))
}

/// The rectangle of a tile of its own size that stands on a foot point.
fn standing(foot: WorldPoint, art: TileArt, cell: Cell) -> WorldRect {
    let (width, height) = (f64::from(art.source.size.width), f64::from(art.source.size.height));
    let upright = cell.turn().steps().is_multiple_of(2);
    let (width, height) = if upright { (width, height) } else { (height, width) };
    let corner = foot - WorldVec::new(width / 2.0, height);
    WorldRect::between(corner, corner + WorldVec::new(width, height))
}

fn touches(a: WorldRect, b: WorldRect) -> bool {
    a.min().x < b.max().x && b.min().x < a.max().x && a.min().y < b.max().y && b.min().y < a.max().y
}
