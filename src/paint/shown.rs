//! The content of a kept frame, and the parts to paint anew for a list.
//!
//! A pixel need not be painted again when the same things cover it in the same order, with the same
//! texels. The order is total and each thing has its key, so it is enough to find the things that
//! differ: cells by the stamps of their chunks, all others one by one. Where the camera has moved,
//! the pixel edges of all cells tell whether the whole picture moves by whole pixels with it.

use std::cmp::Ordering;

use crate::draw::{
    Alignment, ChunkStack, Clock, DrawList, LooseItem, Patch, Placement, Quad, Scene, SlantedView,
};
use crate::lattice::Lattice;
use crate::plane::Stamp;
use crate::units::{CellRect, ChunkPos, ScreenRect};
use crate::view::View;

/// What a list has shown.
#[derive(Clone, Debug, Default)]
pub(super) struct Shown {
    scene: Stamp,
    view: View,
    clock: Clock,
    alignments: Vec<ShownAlignment>,
    /// Each with the stamp of its page: numbers of pages may change.
    loose: Vec<(LooseItem, Stamp)>,
}

#[derive(Clone, Debug)]
struct ShownAlignment {
    placement: Placement,
    cells: CellRect,
    slanted: Option<SlantedView>,
    /// The cells that are repeated.
    area: CellRect,
    version: Stamp,
    /// With the stamps of their lists, row by row.
    chunks: Vec<(ChunkPos, Stamp)>,
}

/// By how many pixels a picture has moved to the right and down.
pub(super) type Moved = (i32, i32);

impl Shown {
    /// From now on, what a list shows: nothing, where it was never built.
    pub(super) fn keep(&mut self, list: &DrawList) {
        let Some(scene) = &list.scene else {
            *self = Shown::default();
            return;
        };
        if self.scene != scene.made {
            self.alignments.clear();
            self.alignments.extend(list.alignments.iter().map(ShownAlignment::of));
        }
        self.scene = scene.made;
        self.view = *list.view();
        self.clock.clone_from(&list.clock);
        for (shown, now) in self.alignments.iter_mut().zip(&list.alignments) {
            shown.keep(now);
        }
        self.loose.clear();
        self.loose.extend(list.loose.iter().map(|item| (*item, page_of(list, item))));
    }

    /// By how many pixels the picture has moved, and which parts of it must be painted then; `None`
    /// where it is all of it.
    pub(super) fn compare(&self, list: &DrawList, parts: &mut Vec<ScreenRect>) -> Option<Moved> {
        let scene = list.scene.as_ref().filter(|scene| scene.made == self.scene)?;
        let (then, now) = (&self.view, list.view());
        let kind = |view: &View| (view.size(), view.zoom(), view.is_snapped(), view.turn());
        if kind(then) != kind(now) {
            return None;
        }
        let moved = self.moved(list, scene)?;
        // All places are those of the picture without its turn.
        let screen = ScreenRect::of_size(list.upright().size());
        let kept = screen.intersection(screen.moved(moved.0, moved.1));
        if kept.is_empty() {
            return None;
        }
        add_around(kept, screen, parts);
        for (then, now) in self.alignments.iter().zip(&list.alignments) {
            self.compare_cells((then, now), list, scene, parts);
        }
        self.compare_loose(list, moved, parts);
        for part in parts.iter_mut() {
            *part = part.intersection(screen);
        }
        parts.retain(|part| !part.is_empty());
        // Another turn shows other texels everywhere.
        let is_turned = now.turn() != 0.0 && !(parts.is_empty() && then == now);
        let pixels: u64 = parts.iter().map(|part| part.pixel_count()).sum();
        let are_many = parts.len() > MAX_PARTS || pixels * 4 > screen.pixel_count() * 3;
        (!is_turned && !are_many).then_some(moved)
    }

    /// By how many pixels all cells have moved, if by the same.
    fn moved(&self, list: &DrawList, scene: &Scene) -> Option<Moved> {
        let mut moved = None;
        for (then, now) in self.alignments.iter().zip(&list.alignments) {
            let own = then.moved(now, &scene.lattice)?;
            if *moved.get_or_insert(own) != own {
                return None;
            }
        }
        let (then, now) = (&self.view, list.view());
        let at_center = || {
            let edges =
                |view: &View| (view.column_edge(now.center().x), view.row_edge(now.center().y));
            let (then, now) = (edges(then), edges(now));
            (now.0.saturating_sub(then.0), now.1.saturating_sub(then.1))
        };
        Some(moved.unwrap_or_else(at_center))
    }

    /// Adds the cells that differ.
    fn compare_cells(
        &self,
        (then, now): (&ShownAlignment, &Alignment),
        list: &DrawList,
        scene: &Scene,
        parts: &mut Vec<ScreenRect>,
    ) {
        let are_other_frames = self.clock != list.clock;
        if then.version == now.version && !are_other_frames {
            return;
        }
        let places = then.chunks.iter().map(|(pos, _)| *pos);
        let are_same_chunks = places.eq(now.chunks.iter().map(|stack| stack.pos));
        for patch in &now.patches {
            let visible = patch.own(now.cells);
            let mut add = |cells: CellRect| {
                let shown = visible.intersection(cells).moved(patch.by);
                if !shown.is_empty() {
                    parts.push(now.pixels_of(scene, shown));
                }
            };
            for stack in now.chunks_in(visible) {
                let before = then.built(stack.pos);
                // At a slant, nothing of a chunk that was not in view shows in what is kept.
                let was_in_view = before.is_some() || then.looked_at(patch, stack.pos);
                match before.and_then(|built| stack.changed_since(built)) {
                    None if !was_in_view => {}
                    None => add(stack.pos.cells()),
                    Some(changed) => {
                        add(changed);
                        if are_other_frames && stack.is_animated() {
                            self.each_other_frame(stack, patch, list, scene, &mut add);
                        }
                    }
                }
            }
            for (pos, _) in then.chunks.iter().filter(|_| !are_same_chunks) {
                let is_in_view = now.slanted.is_none_or(|own| touches(&own, patch, *pos));
                if now.chunk(*pos).is_none() && is_in_view {
                    add(pos.cells());
                }
            }
        }
    }

    /// Visits the cells of a chunk that show another frame than before, those beside each other at
    /// once.
    fn each_other_frame(
        &self,
        stack: &ChunkStack,
        patch: &Patch,
        list: &DrawList,
        scene: &Scene,
        visit: &mut impl FnMut(CellRect),
    ) {
        let entries = stack.entries_with_animated();
        let animated = entries.filter(|entry| scene.map_facts.is_animated(entry.cell));
        let placed = animated.map(|entry| (stack.pos.cell_at_index(entry.index.into()), *entry));
        let mut run = CellRect::EMPTY;
        for (own, entry) in placed.filter(|(own, _)| patch.cells.contains(*own)) {
            let frame = |clock: &Clock| scene.frame_at(entry, own, clock);
            if frame(&self.clock) == frame(&list.clock) {
                continue;
            }
            let cell = CellRect::of_cell(own);
            if run.top() == own.y() && (run.right() == own.x() || run.contains(own)) {
                run = run.union(cell);
            } else {
                visit(run);
                run = cell;
            }
        }
        visit(run);
    }

    /// Adds the loose things that differ.
    fn compare_loose(&self, list: &DrawList, (x, y): Moved, parts: &mut Vec<ScreenRect>) {
        let (mut then, mut now) = (&self.loose[..], &list.loose[..]);
        loop {
            let order = match (then, now) {
                ([], []) => return,
                (_, []) => Ordering::Less,
                ([], _) => Ordering::Greater,
                ([(a, _), ..], [b, ..]) => a.quad.key.cmp(&b.quad.key),
            };
            let gone = then.first().filter(|_| order.is_le());
            let come = now.first().filter(|_| order.is_ge());
            then = &then[usize::from(gone.is_some())..];
            now = &now[usize::from(come.is_some())..];
            let gone = gone.map(|(item, page)| {
                let quad = Quad { target: item.quad.target.moved(x, y), ..item.quad };
                (LooseItem { quad, ..*item }, *page)
            });
            if let (Some((gone, page)), Some(come)) = (gone, come) {
                // The page may have another number, and the camera another place.
                let quad = Quad { page: come.quad.page, ..gone.quad };
                let alike = LooseItem { rect: come.rect, quad, ..gone };
                if alike == *come && page == page_of(list, come) {
                    continue;
                }
            }
            parts.extend(gone.map(|(item, _)| item.quad.target));
            parts.extend(come.map(|item| item.quad.target));
        }
    }
}

/// From so many parts on, all is painted.
const MAX_PARTS: usize = 256;

impl ShownAlignment {
    fn of(alignment: &Alignment) -> ShownAlignment {
        ShownAlignment {
            placement: alignment.placement,
            cells: alignment.cells,
            slanted: alignment.slanted,
            area: alignment.area,
            version: Stamp::NONE,
            chunks: Vec::new(),
        }
    }

    /// The stamp of a chunk's list.
    fn built(&self, pos: ChunkPos) -> Option<Stamp> {
        let place = self.chunks.binary_search_by_key(&pos, |(pos, _)| *pos);
        place.ok().map(|place| self.chunks[place].1)
    }

    fn keep(&mut self, alignment: &Alignment) {
        self.placement = alignment.placement;
        self.cells = alignment.cells;
        self.slanted = alignment.slanted;
        self.area = alignment.area;
        if self.version != alignment.version {
            self.version = alignment.version;
            self.chunks.clear();
            self.chunks.extend(alignment.chunks.iter().map(|stack| (stack.pos, stack.built)));
        }
    }

    /// By how many pixels all cells have moved; `None` where not all by the same.
    fn moved(&self, now: &Alignment, lattice: &Lattice) -> Option<Moved> {
        if self.area != now.area {
            return None;
        }
        if self.placement == now.placement {
            return Some((0, 0));
        }
        if let Some((then, own)) = self.slanted.zip(now.slanted) {
            return self.moved_slanted(then, (&now.placement.view, own));
        }
        let both = self.cells.intersection(now.cells);
        if both.is_empty() || both.width().max(both.height()) > MAX_EDGES {
            return None;
        }
        let across = |x: i32| {
            now.placement
                .column_edge(lattice, x)
                .checked_sub(self.placement.column_edge(lattice, x))
        };
        let down = |y: i32| {
            now.placement.row_edge(lattice, y).checked_sub(self.placement.row_edge(lattice, y))
        };
        let (x, y) = (across(both.left())?, down(both.top())?);
        let is_same = (both.left()..=both.right()).all(|column| across(column) == Some(x))
            && (both.top()..=both.bottom()).all(|row| down(row) == Some(y));
        is_same.then_some((x, y))
    }
}

impl ShownAlignment {
    /// By how many pixels all cells have moved that are seen at a slant.
    fn moved_slanted(&self, then: SlantedView, (view, now): (&View, SlantedView)) -> Option<Moved> {
        let (before, size) = (&self.placement.view, view.size());
        let columns = (
            |x: i32| before.pane_column(x) - then.corner.0,
            |x: i32| view.pane_column(x) - now.corner.0,
        );
        let rows =
            (|y: i32| before.pane_row(y) - then.corner.1, |y: i32| view.pane_row(y) - now.corner.1);
        Some((
            moved_by(columns, size.width as i32, view.zoom())?,
            moved_by(rows, size.height as i32, view.zoom())?,
        ))
    }

    /// Whether the view looked at a chunk, as far as that is known: always, from above.
    fn looked_at(&self, patch: &Patch, pos: ChunkPos) -> bool {
        self.slanted.is_none_or(|own| touches(&own, patch, pos))
    }
}

/// Whether a view may show cells of a chunk.
fn touches(slanted: &SlantedView, patch: &Patch, pos: ChunkPos) -> bool {
    slanted.span.touches(patch.shown(pos.cells()))
}

/// By how many columns or rows of the screen all pixels of the pane have moved that both views show.
fn moved_by(
    (then, now): (impl Fn(i32) -> i64, impl Fn(i32) -> i64),
    count: i32,
    zoom: f64,
) -> Option<i32> {
    let guess = ((then(0) - now(0)) as f64 * zoom).round();
    if guess.abs() >= f64::from(count) {
        return None;
    }
    [0, 1, -1].into_iter().map(|off| guess as i32 + off).find(|moved| {
        let first = 0.max(-moved);
        (first..count - moved.max(&0)).all(|at| now(at + moved) == then(at))
    })
}

/// More columns or rows than a screen has pixels: then cells are too small to be worth keeping.
const MAX_EDGES: u32 = 1 << 14;

fn page_of(list: &DrawList, item: &LooseItem) -> Stamp {
    list.page(item.quad.page).map_or(Stamp::NONE, |page| page.stamp())
}

/// Adds what of a rectangle lies around another one within it.
fn add_around(inner: ScreenRect, outer: ScreenRect, parts: &mut Vec<ScreenRect>) {
    parts.extend([
        ScreenRect { bottom: inner.top, ..outer },
        ScreenRect { top: inner.bottom, ..outer },
        ScreenRect { right: inner.left, top: inner.top, bottom: inner.bottom, ..outer },
        ScreenRect { left: inner.right, top: inner.top, bottom: inner.bottom, ..outer },
    ]);
}
