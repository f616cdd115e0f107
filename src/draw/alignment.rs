//! Layers on the same lattice edges, and what is kept of their chunks from frame to frame.

use super::chunk_stack;
use super::chunk_stack::{ChunkStack, Member, Sources};
use super::figures::DrawFigures;
use super::level_set::LevelSet;
use super::map_facts::MapFacts;
use super::motion::{Motion, Patch, Placement};
use super::scene::Scene;
use super::slant::{PaneCells, RankSpan, rank};
use crate::lattice::Lattice;
use crate::plane::Stamp;
use crate::quilt::{Layer, Quilt};
use crate::units::{
    CellOffset, CellPos, CellRect, ChunkPos, PanePoint, PaneRect, ScreenRect, WorldPoint,
};
use crate::view::{Facing, View};

/// Layers, or bands of layers, that move together over the screen, and what is kept of their
/// chunks. All cells and chunks are those of the map as it is turned.
#[derive(Clone, Debug, Default)]
pub(crate) struct Alignment {
    pub(super) motion: Motion,
    facing: Facing,
    pub(crate) members: Vec<Member>,
    /// Row by row.
    pub(crate) chunks: Vec<ChunkStack>,
    /// Where its cells lie.
    pub(crate) placement: Placement,
    /// The cells in view; at a slant, the rectangle around them.
    pub(crate) cells: CellRect,
    /// At a slant, where they lie and which are in view.
    pub(crate) slanted: Option<SlantedView>,
    /// The cells in view, and those whose tiles may reach into it, in pieces of what repeats.
    pub(crate) patches: Vec<Patch>,
    /// The cells that are repeated.
    pub(crate) area: CellRect,
    /// Another one for other chunks, or other lists of them.
    pub(crate) version: Stamp,
    /// The view at the last look.
    looked_at: Option<SlantedView>,
    /// The stamps of the layers when it was last looked at.
    seen: Vec<Stamp>,
    /// What was counted then.
    counted: DrawFigures,
    /// Whether there are tiles larger than their cell.
    pub(super) has_oversize: bool,
    /// The levels in which there may be cells.
    used: LevelSet,
    scratch: Scratch,
}

/// Where the cells of layers lie that are seen at a slant, and which of them are in view.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) struct SlantedView {
    /// The pixels of the pane that the screen shows.
    pub(crate) area: PaneCells,
    /// Where the top corner of cell 0,0 lies on the pane.
    pub(crate) corner: (i64, i64),
    /// The cells of which a picture may reach into it.
    pub(crate) span: RankSpan,
}

/// Memory to work with.
#[derive(Clone, Debug, Default)]
struct Scratch {
    patches: Vec<Patch>,
    /// The chunks in view, row by row.
    order: Vec<ChunkPos>,
    /// Whether the layer of each member has changed.
    changed: Vec<bool>,
    chunks: chunk_stack::Scratch,
}

impl Alignment {
    pub(super) fn new(motion: Motion, view: &View, facing: Facing) -> Alignment {
        Alignment {
            motion,
            facing,
            placement: Placement { view: *view, offset: motion.offset, lifted_px: 0.0 },
            ..Alignment::default()
        }
    }

    /// Finds which cells the view shows at a time, and brings their chunks up to date.
    pub(super) fn look(
        &mut self,
        quilt: &Quilt,
        (view, time_ms): (&View, u64),
        map_facts: &MapFacts,
        remove_hidden: bool,
        figures: &mut DrawFigures,
    ) {
        self.placement = self.motion.placement(view, time_ms);
        let (facing, layers) = (self.facing, quilt.layers());
        let lattice = &quilt.lattice().swapped(facing.swaps());
        self.area = self.motion.wrap_area(layers, facing);
        let reached = self.find_cells(lattice, map_facts);
        let on_screen = (lattice, &self.placement.view);
        let Scratch { patches, order, changed, .. } = &mut self.scratch;
        self.motion.patches(reached, self.area, on_screen, patches);
        changed.clear();
        changed.resize(self.members.len(), true);
        self.seen.resize(self.members.len(), Stamp::NONE);
        for ((member, seen), changed) in self.members.iter().zip(&mut self.seen).zip(&mut *changed)
        {
            let now = layers[member.layer as usize].cells().stamp();
            *changed = std::mem::replace(seen, now) != now;
        }
        let is_changed = changed.contains(&true);
        let is_same_view = self.patches == *patches && self.looked_at == self.slanted;
        if is_same_view && !is_changed {
            self.counted.chunks_rebuilt = 0;
            figures.add_chunks(&self.counted);
            return;
        }
        std::mem::swap(&mut self.patches, patches);
        self.looked_at = self.slanted;
        order.clear();
        for patch in &self.patches {
            add_chunks(order, patch.cells, &self.members, (layers, facing));
        }
        if let Some(SlantedView { span, .. }) = &self.slanted {
            let patches = &self.patches;
            order.retain(|pos| patches.iter().any(|patch| span.touches(patch.shown(pos.cells()))));
        }
        if self.patches.len() > 1 {
            order.sort_unstable();
            order.dedup();
        }
        let rebuilt = self.keep_in_view(layers, map_facts, remove_hidden);
        self.counted = DrawFigures { chunks_rebuilt: rebuilt, ..DrawFigures::default() };
        self.chunks.iter().for_each(|stack| stack.add_to(&mut self.counted));
        self.has_oversize = self.chunks.iter().any(|stack| !stack.oversize.is_empty());
        figures.add_chunks(&self.counted);
    }

    /// Keeps the chunks in view, up to date, and no others; gives how many were listed.
    fn keep_in_view(
        &mut self,
        layers: &[Layer],
        map_facts: &MapFacts,
        remove_hidden: bool,
    ) -> usize {
        let (members, facing) = (&self.members[..], self.facing);
        // Of one that repeats itself, a chunk shows in several places.
        let is_alone = self.patches.len() == 1 && self.patches[0].by == CellOffset::new(0, 0);
        let slanted = self.slanted.filter(|_| is_alone);
        let span = slanted.map(|own| own.span.rounded(LISTED_STEP));
        let sources = Sources { members, layers, map_facts, remove_hidden, facing, span };
        let Scratch { order, changed, chunks: scratch, .. } = &mut self.scratch;
        let mut rebuilt = 0;
        let is_same = self.chunks.iter().map(|stack| stack.pos).eq(order.iter().copied());
        if is_same {
            for stack in &mut self.chunks {
                if stack.refresh(sources, changed, scratch) {
                    rebuilt += 1;
                    self.used.add(&stack.used);
                }
            }
        } else {
            self.used.clear();
            let mut held = std::mem::take(&mut self.chunks).into_iter().peekable();
            for pos in order.iter() {
                while held.next_if(|stack| stack.pos < *pos).is_some() {}
                let known = held.next_if(|stack| stack.pos == *pos);
                let (stack, is_other) = match known {
                    Some(mut stack) => {
                        let is_other = stack.refresh(sources, changed, scratch);
                        (stack, is_other)
                    }
                    None => (ChunkStack::build(*pos, sources, scratch), true),
                };
                rebuilt += usize::from(is_other);
                self.used.add(&stack.used);
                self.chunks.push(stack);
            }
        }
        if rebuilt > 0 || !is_same {
            self.version = Stamp::next();
        }
        rebuilt
    }

    /// A kept chunk.
    pub(crate) fn chunk(&self, pos: ChunkPos) -> Option<&ChunkStack> {
        let place = self.chunks.binary_search_by_key(&pos, |stack| stack.pos);
        place.ok().map(|place| &self.chunks[place])
    }

    /// The kept chunks that touch a rectangle of the layers' own cells, row by row.
    pub(crate) fn chunks_in(&self, cells: CellRect) -> impl Iterator<Item = &ChunkStack> {
        self.chunks.iter().filter(move |stack| !stack.pos.cells().intersection(cells).is_empty())
    }

    /// The part of a patch that lies on the screen, in the layers' own cells.
    pub(crate) fn on_screen(&self, patch: &Patch) -> CellRect {
        patch.own(self.cells)
    }

    /// Whether there may be cells in some levels.
    pub(super) fn uses(&self, levels: (u16, u16)) -> bool {
        self.used.has_any(levels.0..levels.1)
    }

    /// Finds the ranks in which cells show whose tiles are larger than they, from the top: rows, or
    /// diagonals at a slant.
    pub(super) fn find_oversize_rows(&self, levels: (u16, u16), rows: &mut Vec<i32>) {
        rows.clear();
        if !self.has_oversize {
            return;
        }
        for patch in &self.patches {
            for stack in self.chunks_in(patch.cells) {
                let entries = stack.oversize.iter();
                let own = entries.filter(|entry| (levels.0..levels.1).contains(&entry.level));
                let own = own.map(|entry| stack.pos.cell_at_index(entry.index.into()));
                let shown = own.filter(|own| patch.cells.contains(*own));
                let is_slanted = self.slanted.is_some();
                rows.extend(shown.map(|own| match is_slanted {
                    true => rank(own).saturating_add(patch.by.x).saturating_add(patch.by.y),
                    false => own.y().saturating_add(patch.by.y),
                }));
            }
        }
        rows.sort_unstable();
        rows.dedup();
    }

    /// The layers' own cell that is shown in a place, and how far it is from there.
    pub(super) fn own_cell(&self, shown: CellPos) -> Option<(CellPos, CellOffset)> {
        self.patches.iter().find_map(|patch| {
            let own = shown.checked_add(patch.by.reversed())?;
            patch.cells.contains(own).then_some((own, patch.by))
        })
    }

    /// The pixels that some places cover on the screen; at a slant, with all that their pictures may
    /// reach.
    pub(crate) fn pixels_of(&self, scene: &Scene, shown: CellRect) -> ScreenRect {
        let lattice = &scene.lattice;
        if let Some((diamond, own)) = scene.map_facts.diamond.as_ref().zip(self.slanted) {
            let reach = diamond.reach_of(shown, scene.map_facts.frame);
            let reach = reach.moved(own.corner.0, own.corner.1);
            let view = &self.placement.view;
            return reach.shown(view, view.pixels(reach.rect())).0;
        }
        ScreenRect {
            left: self.placement.column_edge(lattice, shown.left()),
            top: self.placement.row_edge(lattice, shown.top()),
            right: self.placement.column_edge(lattice, shown.right()),
            bottom: self.placement.row_edge(lattice, shown.bottom()),
        }
    }

    /// Where a cell lies on the pane; at a slant, the upright rectangle around it.
    pub(super) fn rect(&self, lattice: &Lattice, shown: CellPos) -> PaneRect {
        let bounds = lattice.bounds(shown);
        match self.placement.view.projection().is_slanted() {
            true => {
                self.placement.view.projection().around(bounds.moved(self.placement.offset), 0.0)
            }
            false => PaneRect::between(
                self.placement.on_pane(bounds.min()),
                self.placement.on_pane(bounds.max()),
            ),
        }
    }

    /// Where the corner of a column and a row of cells lies on the pane, which may be beyond all cells.
    pub(super) fn corner_place(&self, lattice: &Lattice, (x, y): (i64, i64)) -> PanePoint {
        let projection = self.placement.view.projection();
        match self.slanted.zip(projection.half_diamond()) {
            Some((slanted, (width, height))) => PanePoint::new(
                ((x - y) * i64::from(width) + slanted.corner.0) as f64,
                ((x + y) * i64::from(height) + slanted.corner.1) as f64,
            ),
            None => {
                let (x, y) = (lattice.columns().edge(x), lattice.rows().edge(y));
                self.placement.on_pane(WorldPoint::new(x, y))
            }
        }
    }

    /// Finds the cells in view; gives a rectangle around them and those whose pictures may reach
    /// into it.
    fn find_cells(&mut self, lattice: &Lattice, map_facts: &MapFacts) -> CellRect {
        let Some(diamond) = &map_facts.diamond else {
            let area = self.placement.visible();
            self.cells = lattice.cells_in(area);
            self.slanted = None;
            return lattice.cells_in(map_facts.reach.around(area));
        };
        let Placement { view, offset, .. } = self.placement;
        let size = view.size();
        let area = PaneCells {
            left: view.pane_column(0),
            top: view.pane_row(0),
            right: view.pane_column(size.width as i32 - 1) + 1,
            bottom: view.pane_row(size.height as i32 - 1) + 1,
        };
        let area = if size.width == 0 || size.height == 0 { PaneCells::default() } else { area };
        // On whole pixels of the pane, as all pictures.
        let way = view.projection().way_to_pane(offset);
        let corner = (way.x.round() as i64, way.y.round() as i64);
        let seen = area.moved(-corner.0, -corner.1);
        let span = RankSpan::in_area(seen, map_facts.frame, diamond);
        self.slanted = Some(SlantedView { area, corner, span });
        self.cells = span.bounds();
        self.cells
    }
}

/// At a slant, a screen shows a small part of its chunks, since they are large diamonds: of these only
/// the cells near the view are listed, and others as it moves, in steps of so many ranks. So the list of
/// a new view costs a third.
const LISTED_STEP: i64 = 16;

/// The chunks of a rectangle, row by row; of a very large one only those that hold something.
fn add_chunks(
    chunks: &mut Vec<ChunkPos>,
    cells: CellRect,
    members: &[Member],
    (layers, facing): (&[Layer], Facing),
) {
    // A screen at zoom 1 shows some tens of chunks. From so many on, a map seen from far away, or
    // with tiny cells, would cost what is in view and not what is there.
    const MANY: u64 = 4096;
    if cells.chunk_count() <= MANY {
        chunks.extend(cells.chunks());
        return;
    }
    let used =
        members.iter().flat_map(|member| layers[member.layer as usize].cells().chunks_in_use());
    let turned = used.map(|pos| facing.turn_chunk(pos));
    chunks.extend(turned.filter(|pos| !pos.cells().intersection(cells).is_empty()));
    chunks.sort_unstable();
    chunks.dedup();
}
