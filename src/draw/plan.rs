//! Puts layers and sprites into passes: as few as keep the order.

use super::alignment::{Alignment, with_rows};
use super::chunk_stack::StackEntry;
use super::list::DrawList;
use super::looks::{Slot, is_oversize};
use super::motion::{ALL_ROWS, Motion, copies, step};
use super::order::{DrawKey, DrawKind};
use super::pass::LooseItem;
use super::scene::Scene;
use super::sprite::{size_in_world, standing_on};
use crate::tile::Cell;
use crate::units::{CellPos, WorldPoint, WorldRect, WorldVec};

/// What a pass draws.
#[derive(Clone, Copy, Debug, PartialEq)]
pub(super) enum PassPlan {
    Stack(StackPlan),
    Loose { first: usize, end: usize },
}

/// What a pass of cells draws: some slots of some rows.
#[derive(Clone, Copy, Debug, PartialEq)]
pub(super) struct StackPlan {
    pub(super) alignment: usize,
    pub(super) slots: (u16, u16),
    pub(super) rows: (i32, i32),
}

impl DrawList {
    /// Plans the passes of a scene, with sprites in their order.
    pub(super) fn plan(&mut self, scene: &Scene, mut sprites: &[LooseItem]) {
        self.loose.clear();
        self.passes.clear();
        let slots = &scene.looks.slots;
        let mut first = 0;
        while first < slots.len() {
            let slot = slots[first];
            let level = (slot.priority, slot.raised);
            let is_below =
                |item: &LooseItem| (item.quad.key.priority, item.quad.key.raised) < level;
            let below = sprites.split_off(..sprites.partition_point(is_below)).unwrap_or_default();
            self.add_sprites(below);
            if let Some(cell) = slot.backdrop {
                self.add_backdrop(scene, &slot, cell);
                first += 1;
                continue;
            }
            // Sorted layers of one priority and raise mix row by row, so they stay together, and
            // so do the sprites among them.
            let together = slots[first..].iter().take_while(|next| slot.mixes_with(next)).count();
            let end = first + together.max(1);
            let is_among =
                |item: &LooseItem| (item.quad.key.priority, item.quad.key.raised) == level;
            let among = if slot.sort_rows { sprites.partition_point(is_among) } else { 0 };
            let among = sprites.split_off(..among).unwrap_or_default();
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
        chunks.flat_map(|stack| &stack.oversize).any(|entry| (first..end).contains(&entry.slot))
    }

    /// Adds the cells of slots on the same edges, and the sprites among them: rows with tiles that
    /// are larger than their cell one by one, all others together, as many as no sprite parts.
    fn add_rows(
        &mut self,
        scene: &Scene,
        alignment: usize,
        slots: (u16, u16),
        mut sprites: &[LooseItem],
    ) {
        let held = &self.alignments[alignment];
        if !held.has_oversize && sprites.is_empty() {
            self.add_stack(alignment, slots, ALL_ROWS);
            return;
        }
        let mut rows = std::mem::take(&mut self.oversize_rows);
        held.find_oversize_rows(slots, &mut rows);
        let (slot, offset) = (scene.looks.slots[usize::from(slots.0)], held.seat.offset);
        // The least key of a row: of the leftmost cell in the lowest slot.
        let left = held.cells.left();
        let key = |row: i32| slot.key(&scene.lattice, offset, CellPos::new(left, row));
        let (mut row, mut end) = (held.cells.top(), held.cells.bottom());
        if let (Some(&above), Some(&below)) = (rows.first(), rows.last()) {
            (row, end) = (row.min(above), end.max(below + 1));
        }
        let mut oversize = &rows[..];
        while row < end {
            let large = oversize.first().copied().unwrap_or(end);
            let parted = sprites
                .first()
                .map_or(end, |sprite| first_row((row, end), |row| sprite.quad.key < key(row)));
            let stop = large.min(parted);
            self.add_stack(alignment, slots, (row, stop));
            row = stop;
            if row < end {
                let is_behind = |sprite: &LooseItem| sprite.quad.key < key(row);
                let behind = sprites.partition_point(is_behind);
                self.add_sprites(sprites.split_off(..behind).unwrap_or_default());
            }
            if row == large && row < end {
                let start = self.loose.len();
                self.push_cells(scene, alignment, slots, (row, row + 1));
                self.loose[start..].sort_unstable_by_key(|item| item.quad.key);
                self.close_loose(start);
                oversize = &oversize[1..];
                row += 1;
            }
        }
        self.oversize_rows = rows;
        self.add_sprites(sprites);
    }

    fn add_stack(&mut self, alignment: usize, slots: (u16, u16), rows: (i32, i32)) {
        let held = &self.alignments[alignment];
        let cells = with_rows(held.cells, rows);
        if cells.is_empty() {
            return;
        }
        let rows = if cells == held.cells { ALL_ROWS } else { rows };
        let plan = StackPlan { alignment, slots, rows };
        match self.passes.last_mut() {
            Some(PassPlan::Stack(last))
                if (last.alignment, last.rows, last.slots.1) == (alignment, rows, slots.0) =>
            {
                last.slots.1 = slots.1;
            }
            _ if held.uses(slots) => self.passes.push(PassPlan::Stack(plan)),
            _ => {}
        }
    }

    fn add_sprites(&mut self, sprites: &[LooseItem]) {
        let start = self.loose.len();
        self.loose.extend_from_slice(sprites);
        self.close_loose(start);
    }

    /// Adds the cells of some slots, and sprites among them, each by itself.
    fn add_loose(&mut self, scene: &Scene, slots: (u16, u16), sprites: &[LooseItem]) {
        let start = self.loose.len();
        self.loose.extend_from_slice(sprites);
        for alignment in 0..self.alignments.len() {
            self.push_cells(scene, alignment, slots, ALL_ROWS);
        }
        // Stable, so that sprites of the same key in the same place keep the order of the game.
        self.loose[start..].sort_by_key(|item| item.quad.key);
        self.close_loose(start);
    }

    /// Adds the cells of some slots in the rows in which they show, in no stated order.
    fn push_cells(
        &mut self,
        scene: &Scene,
        alignment: usize,
        (first, end): (u16, u16),
        rows: (i32, i32),
    ) {
        let mut loose = std::mem::take(&mut self.loose);
        let alignment = &self.alignments[alignment];
        let visible = alignment.seat.view.visible();
        for patch in &alignment.patches {
            let up = patch.by.y.saturating_neg();
            let rows = (rows.0.saturating_add(up), rows.1.saturating_add(up));
            let cells = with_rows(patch.cells, rows);
            for stack in alignment.chunks_in(cells) {
                for entry in stack.entries_in(stack.pos.cells().intersection(cells)) {
                    let own = stack.pos.cell_at_index(entry.index.into());
                    if !(first..end).contains(&entry.slot) || !cells.contains(own) {
                        continue;
                    }
                    let Some(shown) = own.checked_add(patch.by) else { continue };
                    let item = self.loose_cell(scene, alignment, (own, shown), *entry);
                    if touches(item.rect, visible) {
                        loose.push(item);
                    }
                }
            }
        }
        self.loose = loose;
    }

    fn close_loose(&mut self, first: usize) {
        let end = self.loose.len();
        match self.passes.last_mut() {
            _ if first == end => {}
            Some(PassPlan::Loose { end: held, .. }) if *held == first => *held = end,
            _ => self.passes.push(PassPlan::Loose { first, end }),
        }
    }

    /// A cell as a thing by itself.
    pub(super) fn loose_cell(
        &self,
        scene: &Scene,
        alignment: &Alignment,
        (own, shown): (CellPos, CellPos),
        entry: StackEntry,
    ) -> LooseItem {
        let (seat, lattice) = (&alignment.seat, &scene.lattice);
        let slot = &scene.looks.slots[usize::from(entry.slot)];
        let (cell, dress, blend) = self.dress(scene, own, entry);
        let rect = if is_oversize(dress.art, lattice) {
            standing_on(shown, dress.art, cell, lattice)
        } else {
            lattice.bounds(shown)
        };
        let key = slot.key(lattice, seat.offset, shown);
        let place = (rect.moved(seat.offset), &seat.view);
        LooseItem::new(key, entry.cell, (dress, cell.turn(), blend), place)
    }

    /// Adds the copies of a backdrop that are in view.
    fn add_backdrop(&mut self, scene: &Scene, slot: &Slot, cell: Cell) {
        let (_, settings) = scene.layer_of(slot);
        let motion = Motion::of(slot.layer as usize, settings);
        let seat = motion.seat(self.upright(), self.clock.now_ms());
        let cell = scene.looks.frame(cell, CellPos::ORIGIN, self.clock.now_ms(), None);
        let dress = scene.looks.dress(cell, slot);
        let size = size_in_world(dress.art, cell.turn(), &scene.lattice);
        let start = self.loose.len();
        let visible = seat.view.visible();
        let corner = WorldPoint::new(0.0, 0.0) + seat.offset;
        let zoom = seat.view.zoom();
        let shown = |wraps: bool, first: f64, from: f64, to: f64, length: f64| {
            let number = |at: f64| ((at - first) / length).floor() as i64;
            copies(wraps, (number(from), number(to)), step(length * zoom))
        };
        let (from, to) = (visible.min(), visible.max());
        let rows = shown(settings.wrap.down(), corner.y, from.y, to.y, size.1);
        for y in rows {
            for x in shown(settings.wrap.across(), corner.x, from.x, to.x, size.0) {
                // Copies that meet share their edge to the last bit.
                let place = |x: f64, y: f64| corner + WorldVec::new(x * size.0, y * size.1);
                let (left, top) = (x as f64, y as f64);
                let rect = WorldRect::between(place(left, top), place(left + 1.0, top + 1.0));
                let Some(number) = CellPos::checked(x, y) else { continue };
                if !touches(rect, visible) {
                    continue;
                }
                let key = backdrop_key(slot, number);
                let look = (dress, cell.turn(), slot.blend);
                self.loose.push(LooseItem::new(key, cell, look, (rect, &seat.view)));
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

fn backdrop_key(slot: &Slot, place: CellPos) -> DrawKey {
    let key = DrawKey::of_cell(slot.priority, slot.raised, None, slot.layer, place);
    DrawKey { kind: DrawKind::Backdrop, ..key }
}

pub(super) fn touches(a: WorldRect, b: WorldRect) -> bool {
    a.min().x < b.max().x && b.min().x < a.max().x && a.min().y < b.max().y && b.min().y < a.max().y
}
