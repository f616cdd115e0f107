//! Planning what is drawn of a map that is seen at a slant.
//!
//! Layers that do not sort follow each other level by level. Those that sort lie among each other, and
//! among the sprites of their priority, rank by rank. Two parts of chunks are parted by a line of
//! columns or rows, so that nothing of the farther one can cover anything of the nearer one: drawing
//! one after the other, from far to near, shows the same as drawing all in the order of their keys.

use super::alignment::{Alignment, SlantedView};
use super::chunk_stack::ChunkStack;
use super::list::{ALL_PARTS, DrawList, PassPlan, StackPlan};
use super::motion::{ALL_ROWS, Patch};
use super::order::DrawKey;
use super::pass::{LooseItem, OnPane, Quad};
use super::row::StackEntry;
use super::scene::Scene;
use super::slant::{PaneCells, RankSpan, rank};
use super::sprite::OrderedSprites;
use crate::units::{CellPos, ChunkPos, PanePoint, PaneRect, PixelSize, ScreenRect};
use crate::view::View;

/// Something that is drawn after what comes before it.
#[derive(Clone, Debug, PartialEq)]
pub(crate) enum Step {
    /// Cells, and the sprites among them.
    Group(Group),
    /// Things by themselves: from the first up to, but not with, the second.
    Loose(usize, usize),
}

/// Cells of levels on the same lattice edges that follow each other, and the sprites among them.
#[derive(Clone, Debug, PartialEq)]
pub(crate) struct Group {
    pub(crate) alignment: usize,
    /// In the order of drawing.
    pub(crate) sections: Vec<Section>,
    /// Which loose items lie among them: from the first up to, but not with, the second.
    pub(crate) sprites: (usize, usize),
}

/// Levels that lie among each other rank by rank, or one after the other.
#[derive(Clone, Copy, Debug, PartialEq)]
pub(crate) struct Section {
    /// From the first up to, but not with, the second.
    pub(crate) levels: (u16, u16),
    pub(crate) by_rank: bool,
    priority: i32,
}

impl Group {
    /// All levels: from the first up to, but not with, the second.
    pub(crate) fn levels(&self) -> (u16, u16) {
        let first = self.sections.first().map_or(0, |section| section.levels.0);
        (first, self.sections.last().map_or(first, |section| section.levels.1))
    }

    /// The place of a cell in the order of the group, as a number; of one rank and level, `within`
    /// decides, which is less than 1024.
    pub(crate) fn order(&self, rank: i32, level: u16, within: u64) -> u64 {
        let number = self.sections.partition_point(|section| section.levels.1 <= level);
        let by_rank = self.sections.get(number).is_some_and(|section| section.by_rank);
        let rank = u64::from(rank.cast_unsigned() ^ 1 << 31);
        let place = match by_rank {
            true => rank << 26 | u64::from(level) << 10,
            false => u64::from(level) << 42 | rank << 10,
        };
        // More sections than this have no use: a map of many priorities is drawn in several groups.
        (number as u64) << 58 | place | within
    }

    /// As many sections as their numbers have room in the order.
    const MAX_SECTIONS: usize = 63;
}

/// Memory to plan with.
#[derive(Clone, Debug, Default)]
pub(super) struct PlanMemory {
    /// By sprite: the first and the last part of chunks that it touches.
    touched: Vec<(usize, usize)>,
    /// By sprite: up to which part it and all later ones leave the parts whole.
    free: Vec<usize>,
    /// By part: where it is drawn from next.
    done: Vec<RankPlace>,
    /// The cells of a rank.
    items: Vec<LooseItem>,
    /// For groups that are made.
    sections: Vec<Vec<Section>>,
}

/// A section with the sprites among it, and where it lies.
#[derive(Clone, Copy, Debug)]
struct Part {
    alignment: usize,
    section: Section,
    sprites: (usize, usize),
}

/// The place of something among the cells of a section that is drawn rank by rank: before the cells of
/// a level in a rank, and all that come after those.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
struct RankPlace {
    rank: i32,
    level: u16,
}

impl PaneCells {
    pub(super) fn rect(self) -> PaneRect {
        let point = |x: i64, y: i64| PanePoint::new(x as f64, y as f64);
        PaneRect::between(point(self.left, self.top), point(self.right, self.bottom))
    }

    /// The pixels of the screen that show it, near those that were guessed, and the place on it under
    /// the centre of the first one.
    pub(super) fn shown(self, view: &View, guess: ScreenRect) -> (ScreenRect, OnPane) {
        let column = |edge: i64, guess: i32| first_at(|x| view.pane_column(x), edge, guess);
        let row = |edge: i64, guess: i32| first_at(|y| view.pane_row(y), edge, guess);
        let target = ScreenRect {
            left: column(self.left, guess.left),
            top: row(self.top, guess.top),
            right: column(self.right, guess.right),
            bottom: row(self.bottom, guess.bottom),
        };
        let (x, y) = view.pane_place(target.left, target.top);
        let side = |from: i64, to: i64| u32::try_from(to - from).unwrap_or(0);
        let size = PixelSize::new(side(self.left, self.right), side(self.top, self.bottom));
        (
            target,
            OnPane { first: ((x - self.left as f64) as f32, (y - self.top as f64) as f32), size },
        )
    }
}

/// The first column or row of the screen that shows an edge on the pane, or what lies behind it. The
/// guess is off by one or two at most, but for places that are far from any screen.
fn first_at(shown: impl Fn(i32) -> i64, edge: i64, guess: i32) -> i32 {
    const FAR: i32 = 1 << 24;
    if !(-FAR..FAR).contains(&guess) {
        return guess;
    }
    let mut first = guess;
    while shown(first) < edge {
        first += 1;
    }
    while shown(first - 1) >= edge {
        first -= 1;
    }
    first
}

impl Alignment {
    /// Visits the entries of some levels whose cells show in a span of ranks: chunk by chunk, each rank
    /// by rank; with each entry the layer's own cell, and the one in which it shows. Those whose
    /// pictures are wider than their cell come in no order.
    pub(crate) fn each_entry(
        &self,
        span: &RankSpan,
        (first, end): (u16, u16),
        mut visit: impl FnMut(CellPos, CellPos, StackEntry),
    ) {
        let repeated = self.motion.repeated(self.area);
        let mut visit_one = |patch: &Patch, pos: ChunkPos, entry: StackEntry| {
            let own = pos.cell_at_index(entry.index.into());
            if !(first..end).contains(&entry.level) || !repeated.contains(own) {
                return;
            }
            let shown = own.checked_add(patch.by);
            if let Some(shown) = shown.filter(|shown| span.contains(*shown)) {
                visit(own, shown, entry);
            }
        };
        for (patch, stack) in self.parts() {
            if !span.touches(patch.shown(stack.pos.cells())) {
                continue;
            }
            let corner = stack.pos.corner();
            let (x, y) = (
                i64::from(corner.x()) + i64::from(patch.by.x),
                i64::from(corner.y()) + i64::from(patch.by.y),
            );
            let local = |rank: i64| (rank - x - y).clamp(0, stack.rank_count() as i64) as usize;
            for number in local(span.ranks.0)..local(span.ranks.1 + 1) {
                let entries = stack.rank(number);
                if entries.is_empty() {
                    continue;
                }
                // t = s − 2v, so the rows of a rank follow from its differences.
                let s = x + y + number as i64;
                let before = |row: i64| entries.partition_point(|own| i64::from(own.row()) < row);
                let top = before((s - span.differences.1).div_euclid(2) - y);
                let bottom = before((s - span.differences.0).div_euclid(2) + 1 - y);
                for entry in &entries[top..bottom.max(top)] {
                    visit_one(patch, stack.pos, *entry);
                }
            }
            for entry in &stack.oversize {
                visit_one(patch, stack.pos, *entry);
            }
        }
    }

    /// The parts of chunks in view, from far to near: those of each copy of what is repeated.
    pub(crate) fn parts(&self) -> impl Iterator<Item = (&Patch, &ChunkStack)> {
        self.patches
            .iter()
            .flat_map(|patch| self.chunks_in(patch.cells).map(move |own| (patch, own)))
    }
}

impl DrawList {
    /// Plans the steps and the passes of a scene that is seen at a slant, with sprites in their order.
    pub(super) fn plan_slanted(&mut self, scene: &Scene, mut sprites: OrderedSprites<'_>) {
        let levels = &scene.map_facts.levels;
        let mut first = 0;
        while first < levels.len() {
            let level = &levels[first];
            let is_below = |item: &LooseItem| item.quad.key.priority < level.priority();
            let below = sprites.split_first(is_below);
            self.add_sprites_after(below);
            if let Some(cell) = level.backdrop {
                let start = self.loose.len();
                self.add_backdrop(scene, level, cell);
                self.add_loose_step(start, false);
                first += 1;
                continue;
            }
            let mixes =
                levels[first..].iter().take_while(|next| level.mixes_with(next, true)).count();
            let end = first + mixes.max(1);
            let is_among = |item: &LooseItem| item.quad.key.priority == level.priority();
            let among = sprites.split_first(|item| level.sort_rows && is_among(item));
            let range = (first as u16, end as u16);
            let own = &scene.alignments_of[first];
            let is_aligned = scene.alignments_of[first..end].iter().all(|other| other == own);
            match own[..] {
                [alignment] if is_aligned => self.add_group(scene, alignment, range, among),
                _ => {
                    let start = self.loose.len();
                    self.add_loose(scene, range, among);
                    self.add_loose_step(start, false);
                }
            }
            first = end;
        }
        self.add_sprites_after(sprites);
    }

    /// Takes out all steps, and keeps their memory.
    pub(super) fn clear_steps(&mut self) {
        for step in self.steps.drain(..) {
            if let Step::Group(Group { mut sections, .. }) = step {
                sections.clear();
                self.plan_memory.sections.push(sections);
            }
        }
    }

    fn add_sprites_after(&mut self, sprites: OrderedSprites<'_>) {
        let start = self.loose.len();
        self.add_sprites(sprites);
        self.add_loose_step(start, true);
    }

    /// Adds the loose items from one on as a step.
    fn add_loose_step(&mut self, start: usize, is_sprites: bool) {
        let end = self.loose.len();
        match self.steps.last_mut() {
            _ if start == end => {}
            Some(Step::Loose(_, last)) if *last == start => *last = end,
            // Sprites that follow a group lie behind all of its cells.
            Some(Step::Group(group)) if is_sprites && group.sprites.1 == start => {
                group.sprites.1 = end;
            }
            _ => self.steps.push(Step::Loose(start, end)),
        }
    }

    /// Adds the cells of levels on the same edges, and the sprites among them.
    fn add_group(
        &mut self,
        scene: &Scene,
        alignment: usize,
        levels: (u16, u16),
        sprites: OrderedSprites<'_>,
    ) {
        let start = self.loose.len();
        self.loose.extend(sprites.iter());
        let first = scene.map_facts.levels[usize::from(levels.0)];
        let (by_rank, priority) = (first.sort_rows, first.priority());
        let section = Section { levels, by_rank, priority };
        let sprites = (start, self.loose.len());
        self.add_part_passes(scene, &Part { alignment, section, sprites });
        match self.steps.last_mut() {
            Some(Step::Group(last))
                if last.alignment == alignment
                    && last.levels().1 == levels.0
                    && last.sprites.1 == start
                    && last.sections.len() < Group::MAX_SECTIONS =>
            {
                last.sprites.1 = sprites.1;
                match last.sections.last_mut() {
                    Some(own) if !by_rank && !own.by_rank && own.priority == priority => {
                        own.levels.1 = levels.1;
                    }
                    _ => last.sections.push(section),
                }
            }
            _ => {
                let mut sections = self.plan_memory.sections.pop().unwrap_or_default();
                sections.push(section);
                self.steps.push(Step::Group(Group { alignment, sections, sprites }));
            }
        }
    }

    /// The place of a sprite in the order of a group: before all cells of which the number is not less.
    pub(crate) fn order_of(&self, scene: &Scene, group: &Group, key: &DrawKey) -> u64 {
        for (number, section) in (0_u64..).zip(&group.sections) {
            if key.priority < section.priority {
                return number << 58;
            }
            if key.priority == section.priority && section.by_rank {
                let place = self.rank_place(scene, (group.alignment, section), key);
                if place.level >= section.levels.1 {
                    // Behind all cells of its rank.
                    return group.order(place.rank.saturating_add(1), section.levels.0, 0);
                }
                return group.order(place.rank, place.level, 0);
            }
        }
        u64::MAX
    }

    /// The place of a sprite among the cells of a section that is drawn rank by rank.
    fn rank_place(
        &self,
        scene: &Scene,
        (alignment, section): (usize, &Section),
        key: &DrawKey,
    ) -> RankPlace {
        let rank = key.depth as i32;
        let offset = self.alignments[alignment].placement.offset;
        // Only the rank of the cell counts, and its level.
        let at = CellPos::new(rank, 0);
        let (first, end) = section.levels;
        let levels = &scene.map_facts.levels[usize::from(first)..usize::from(end)];
        let before = levels.partition_point(|level| {
            let cell = DrawKey { depth: key.depth, ..scene.key(level, offset, at) };
            cell < *key
        });
        RankPlace { rank, level: first + before as u16 }
    }

    /// Lists all quads of a map that is seen at a slant, in the order of their keys.
    pub(super) fn slanted_quads(&self, scene: &Scene, quads: &mut Vec<Quad>) {
        for step in &self.steps {
            let (first, end) = match step {
                Step::Loose(first, end) => (*first, *end),
                Step::Group(group) => {
                    self.group_quads(scene, group, quads);
                    group.sprites
                }
            };
            quads.extend(self.loose[first..end].iter().map(|item| item.quad));
        }
        quads.sort_by_key(|quad| quad.key);
    }

    fn group_quads(&self, scene: &Scene, group: &Group, quads: &mut Vec<Quad>) {
        let alignment = &self.alignments[group.alignment];
        let Some(SlantedView { span, .. }) = alignment.slanted else { return };
        let screen = ScreenRect::of_size(self.upright().size());
        alignment.each_entry(&span, group.levels(), |own, shown, entry| {
            let quad = self.loose_cell(scene, alignment, (own, shown), entry).quad;
            if !quad.target.intersection(screen).is_empty() {
                quads.push(quad);
            }
        });
    }
}

// The passes of a section.
impl DrawList {
    fn add_part_passes(&mut self, scene: &Scene, group: &Part) {
        let held = &self.alignments[group.alignment];
        let Some(SlantedView { span, .. }) = held.slanted else { return };
        let mut ranks = std::mem::take(&mut self.oversize_rows);
        held.find_oversize_rows(group.section.levels, &mut ranks);
        if !ranks.is_empty() {
            self.add_wide_passes(scene, group, &ranks);
        }
        let is_wide = !ranks.is_empty();
        self.oversize_rows = ranks;
        if is_wide {
            return;
        }
        let held = &self.alignments[group.alignment];
        let count = held.parts().count();
        let (first, end) = group.sprites;
        if !group.section.by_rank || first == end {
            self.add_part_pass(group, group.section.levels, ALL_ROWS, ALL_PARTS);
            self.add_sprite_pass(first, end);
            return;
        }
        let ranks = (span.ranks.0 as i32, (span.ranks.1 as i32).saturating_add(1));
        let start = RankPlace { rank: ranks.0, level: group.section.levels.0 };
        let stop = RankPlace { rank: ranks.1, level: group.section.levels.0 };
        let mut memory = std::mem::take(&mut self.plan_memory);
        let PlanMemory { touched, free, done, .. } = &mut memory;
        touched.clear();
        touched.extend((first..end).map(|at| self.touched_parts(scene, group, &self.loose[at])));
        free.clear();
        free.resize(touched.len() + 1, count);
        for at in (0..touched.len()).rev() {
            free[at] = free[at + 1].min(touched[at].0);
        }
        done.clear();
        done.resize(count, start);
        for (at, (_, last)) in touched.iter().enumerate() {
            let place = self.rank_place(
                scene,
                (group.alignment, &group.section),
                &self.loose[first + at].quad.key,
            );
            for part in 0..count {
                let to = match part {
                    part if part < free[at] => stop,
                    part if part <= *last => place.clamp(start, stop).max(done[part]),
                    _ => break,
                };
                self.add_places(group, (part, part + 1), done[part], to);
                done[part] = to;
            }
            self.add_sprite_pass(first + at, first + at + 1);
        }
        for (part, from) in done.iter().enumerate() {
            self.add_places(group, (part, part + 1), *from, stop);
        }
        self.plan_memory = memory;
    }

    /// The first and the last part whose cells lie near a sprite.
    fn touched_parts(&self, scene: &Scene, group: &Part, sprite: &LooseItem) -> (usize, usize) {
        let alignment = &self.alignments[group.alignment];
        let (Some(diamond), Some(slanted)) = (&scene.map_facts.diamond, alignment.slanted) else {
            return (0, 0);
        };
        let ScreenRect { left, top, right, bottom } = sprite.quad.target;
        let view = &alignment.placement.view;
        let area = PaneCells {
            left: view.pane_column(left),
            top: view.pane_row(top),
            right: view.pane_column(right) + 1,
            bottom: view.pane_row(bottom) + 1,
        };
        let area = area.moved(-slanted.corner.0, -slanted.corner.1);
        let span = RankSpan::in_area(area, scene.map_facts.frame, diamond);
        let near = alignment
            .parts()
            .enumerate()
            .filter(|(_, (patch, stack))| span.touches(patch.shown(stack.pos.cells())));
        let numbers = near.map(|(number, _)| number);
        let all = numbers.fold(None, |all, number| {
            let (first, _) = all.unwrap_or((number, number));
            Some((first, number))
        });
        // One that touches none can be drawn at any time.
        all.unwrap_or((0, 0))
    }

    /// Adds a group with pictures that are wider than a diamond, so that parts of chunks cannot be drawn
    /// one after the other: rank by rank, those with such pictures as things by themselves.
    fn add_wide_passes(&mut self, scene: &Scene, group: &Part, ranks: &[i32]) {
        let Some(SlantedView { span, .. }) = self.alignments[group.alignment].slanted else {
            return;
        };
        let low = group.section.levels.0;
        let mut next = RankPlace { rank: span.ranks.0 as i32, level: low };
        let stop = RankPlace { rank: (span.ranks.1 as i32).saturating_add(1), level: low };
        let (mut sprite, end) = group.sprites;
        let (low_rank, end_rank) = (next.rank, stop.rank);
        let in_view = |rank: &&i32| (low_rank..end_rank).contains(*rank);
        for rank in ranks.iter().filter(in_view).copied().map(Some).chain([None]) {
            let until = rank.map_or(stop, |rank| RankPlace { rank, level: low });
            while sprite < end {
                let item = self.loose[sprite];
                let place =
                    self.rank_place(scene, (group.alignment, &group.section), &item.quad.key);
                if rank.is_some() && place >= until {
                    break;
                }
                let place = place.clamp(next, until);
                self.add_places(group, ALL_PARTS, next, place);
                self.add_own_items(&[item]);
                (next, sprite) = (place, sprite + 1);
            }
            self.add_places(group, ALL_PARTS, next, until);
            let Some(rank) = rank else { return };
            let mut items = std::mem::take(&mut self.plan_memory.items);
            self.cells_of_rank(scene, group, rank, &mut items);
            let is_there = |item: &LooseItem| item.quad.key.depth <= f64::from(rank);
            let there = self.loose[sprite..end].partition_point(is_there);
            items.extend_from_slice(&self.loose[sprite..sprite + there]);
            items.sort_by_key(|item| item.quad.key);
            self.add_own_items(&items);
            self.plan_memory.items = items;
            sprite += there;
            next = RankPlace { rank: rank.saturating_add(1), level: low };
        }
    }

    /// Finds the cells of a rank that are on the screen.
    fn cells_of_rank(&self, scene: &Scene, group: &Part, rank: i32, items: &mut Vec<LooseItem>) {
        items.clear();
        let alignment = &self.alignments[group.alignment];
        let Some(SlantedView { span, .. }) = alignment.slanted else { return };
        let span = RankSpan { ranks: (rank.into(), rank.into()), ..span };
        let screen = ScreenRect::of_size(self.upright().size());
        alignment.each_entry(&span, group.section.levels, |own, shown, entry| {
            let item = self.loose_cell(scene, alignment, (own, shown), entry);
            if !item.quad.target.intersection(screen).is_empty() {
                items.push(item);
            }
        });
    }

    /// Adds a pass of items that are not listed one by one.
    fn add_own_items(&mut self, items: &[LooseItem]) {
        let first = self.own_items.len();
        self.own_items.extend_from_slice(items);
        let end = self.own_items.len();
        match self.passes.last_mut() {
            _ if first == end => {}
            Some(PassPlan::Own { end: last, .. }) if *last == first => *last = end,
            _ => self.passes.push(PassPlan::Own { first, end }),
        }
    }

    /// Adds the cells of some parts from one place in the order up to, but not with, another.
    fn add_places(&mut self, group: &Part, parts: (usize, usize), from: RankPlace, to: RankPlace) {
        let (low, high) = group.section.levels;
        let one = |rank: i32| (rank, rank.saturating_add(1));
        if from.rank >= to.rank {
            self.add_part_pass(group, (from.level, to.level), one(to.rank), parts);
            return;
        }
        // What is left of a rank that was begun, whole ranks, and the beginning of the last one.
        let begun = from.level > low;
        if begun {
            self.add_part_pass(group, (from.level, high), one(from.rank), parts);
        }
        let whole = (from.rank + i32::from(begun), to.rank);
        self.add_part_pass(group, (low, high), whole, parts);
        self.add_part_pass(group, (low, to.level), one(to.rank), parts);
    }

    fn add_part_pass(
        &mut self,
        group: &Part,
        levels: (u16, u16),
        ranks: (i32, i32),
        parts: (usize, usize),
    ) {
        let held = &self.alignments[group.alignment];
        if levels.0 >= levels.1 || ranks.0 >= ranks.1 || !held.uses(levels) {
            return;
        }
        if ranks != ALL_ROWS {
            let is_there = |(patch, stack): (&Patch, &ChunkStack)| {
                let corner = stack.pos.corner();
                let first = rank(corner).saturating_add(patch.by.x).saturating_add(patch.by.y);
                let count = stack.rank_count() as i32;
                let local = |rank: i32| rank.saturating_sub(first).clamp(0, count) as usize;
                stack
                    .entries(local(ranks.0)..local(ranks.1))
                    .any(|own| (levels.0..levels.1).contains(&own.level))
            };
            let parts = held.parts().skip(parts.0).take(parts.1 - parts.0);
            if !parts.into_iter().any(is_there) {
                return;
            }
        }
        let plan = StackPlan { alignment: group.alignment, levels, ranks, parts };
        self.passes.push(PassPlan::Stack(plan));
    }

    fn add_sprite_pass(&mut self, first: usize, end: usize) {
        match self.passes.last_mut() {
            _ if first == end => {}
            Some(PassPlan::Loose { end: last, .. }) if *last == first => *last = end,
            _ => self.passes.push(PassPlan::Loose { first, end }),
        }
    }
}
