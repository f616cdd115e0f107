//! The part of a map that a draw list keeps.

use super::alignment::Alignment;
use super::chunk_stack::Member;
use super::clock::Clock;
use super::limit::Limit;
use super::map_facts::{CellArt, Level, LevelNumbers, MapFacts, standings};
use super::motion::{Motion, lifted_px};
use super::order::DrawKey;
use super::row::StackEntry;
use super::slant::Diamond;
use crate::lattice::Lattice;
use crate::plane::Stamp;
use crate::quilt::{Blend, LayerId, LayerSettings, Quilt};
use crate::tile::{Cell, TileTable};
use crate::units::{CellPos, WorldVec};
use crate::view::{Projection, View};

/// What the cached parts were made for.
#[derive(Clone, Debug)]
pub(crate) struct Scene {
    /// Another one for every scene that was made.
    pub(crate) made: Stamp,
    pub(crate) tiles: TileTable,
    tiles_stamp: Stamp,
    palettes_stamp: Stamp,
    layers_stamp: Stamp,
    layers: Vec<(LayerId, LayerSettings)>,
    /// Its cells as the map is turned.
    pub(crate) lattice: Lattice,
    own_lattice: Lattice,
    /// Whether the map is meant to be seen at a slant.
    is_slanted: bool,
    pub(crate) map_facts: MapFacts,
    /// By level: the alignments in which its cells lie, one for each band.
    pub(super) alignments_of: Vec<Vec<usize>>,
    /// By level: those that are sorted among each other with it, or it alone; from the first up to, but
    /// not with, the second.
    pub(super) mixed: Vec<(u16, u16)>,
}

impl Scene {
    /// Whether it is still right for a map and the way in which that is seen.
    pub(crate) fn is_of(&self, quilt: &Quilt, view: &View) -> bool {
        let stamps = quilt.stamps();
        self.tiles_stamp == stamps.tiles
            && self.palettes_stamp == stamps.palettes
            && self.layers_stamp == stamps.layers
            && self.own_lattice == *quilt.lattice()
            && self.is_slanted == quilt.projection().is_slanted()
            && self.map_facts.projection == *view.projection()
            && self.tiles.same_descent(quilt.tiles())
            && self.tiles.len() == quilt.tiles().len()
            && self.layers.len() == quilt.layers().len()
    }

    /// What there is to know of a map, and its layers by the edges on which they lie.
    pub(crate) fn of(quilt: &Quilt, view: &View, limit: &Limit) -> (Scene, Vec<Alignment>) {
        let projection = *view.projection();
        let diamond = Diamond::of(&projection);
        let (ways, of_tiles) = standings(quilt.tiles(), diamond.as_ref());
        let levels = levels_of(quilt, limit, &projection, &ways);
        let numbers = numbered(&levels, quilt.layers().len(), &ways);
        let mut alignments: Vec<Alignment> = Vec::new();
        let mut alignments_of = vec![Vec::new(); levels.len()];
        for (number, held) in quilt.layers().iter().enumerate() {
            let Some(own) = numbers.of_layer(number) else { continue };
            let layer = number as u32;
            for strip in Motion::strips(number, held.settings(), &projection) {
                let known = alignments.iter().position(|a| a.motion == strip.motion);
                let alignment = known.unwrap_or_else(|| {
                    alignments.push(Alignment::new(strip.motion, view, projection.facing()));
                    alignments.len() - 1
                });
                let member = Member { layer, levels: own, rows: strip.rows };
                alignments[alignment].members.push(member);
                for level in numbers.all(own) {
                    let own = &mut alignments_of[usize::from(*level)];
                    if !own.contains(&alignment) {
                        own.push(alignment);
                    }
                }
            }
        }
        let mixed = mixed_levels(&levels, projection.is_slanted());
        let scene = Scene {
            mixed,
            made: Stamp::next(),
            tiles_stamp: quilt.stamps().tiles,
            palettes_stamp: quilt.stamps().palettes,
            layers_stamp: quilt.stamps().layers,
            layers: quilt.layers().iter().map(|l| (l.id(), l.settings().clone())).collect(),
            map_facts: MapFacts::of(quilt, projection, (levels, numbers, of_tiles)),
            tiles: quilt.tiles().clone(),
            lattice: quilt.lattice().swapped(projection.facing().swaps()),
            own_lattice: *quilt.lattice(),
            is_slanted: quilt.projection().is_slanted(),
            alignments_of,
        };
        (scene, alignments)
    }

    /// What an entry of a layer's own cell, as the map is turned, shows at a time: of an animated tile,
    /// its frame.
    #[inline]
    pub(crate) fn frame_at(&self, entry: StackEntry, own: CellPos, clock: &Clock) -> Cell {
        match self.map_facts.is_animated(entry.cell) {
            true => self.animated_at(entry, own, clock),
            false => entry.cell,
        }
    }

    fn animated_at(&self, entry: StackEntry, own: CellPos, clock: &Clock) -> Cell {
        let own = self.map_facts.projection.facing().reversed().turn_cell(own);
        let played = clock.plays_any().then(|| {
            let (layer, _) = self.layer_of(&self.map_facts.levels[usize::from(entry.level)]);
            clock.played_ms(layer, own)
        });
        self.map_facts.frame(entry.cell, own, clock.now_ms(), played.flatten())
    }

    /// The key of a cell in a level, of layers that are moved in the world.
    #[inline]
    pub(crate) fn key(&self, level: &Level, offset: WorldVec, at: CellPos) -> DrawKey {
        level.key(&self.lattice, (offset, &self.map_facts.projection), at)
    }

    /// The pixels of an entry now, and how it is laid on what is below.
    pub(crate) fn cell_art(
        &self,
        clock: &Clock,
        own: CellPos,
        entry: StackEntry,
    ) -> (Cell, CellArt<'_>, Blend) {
        let level = &self.map_facts.levels[usize::from(entry.level)];
        let cell = self.frame_at(entry, own, clock);
        (cell, self.map_facts.cell_art(cell, level), level.blend)
    }

    /// The handle of the layer of a level, and its settings.
    pub(super) fn layer_of(&self, level: &Level) -> (LayerId, &LayerSettings) {
        let (id, settings) = &self.layers[level.layer as usize];
        (*id, settings)
    }
}

/// All levels of the listed layers, in the order of drawing.
fn levels_of(
    quilt: &Quilt,
    limit: &Limit,
    projection: &Projection,
    standings: &[Option<f64>],
) -> Vec<Level> {
    let mut levels = Vec::new();
    for (layer, held) in (0..).zip(quilt.layers()) {
        let settings = held.settings();
        if !settings.shows() || !limit.has(held) {
            continue;
        }
        let lifted = if projection.is_slanted() {
            lifted_px(settings.elevation, projection).round() as i64
        } else {
            0
        };
        let plain = Level {
            layer,
            priority: settings.priority,
            elevation: settings.elevation,
            lifted_px: lifted.clamp(-MAX_LIFTED_PX, MAX_LIFTED_PX),
            nearness: None,
            raised: false,
            sort_rows: settings.sort_rows,
            backdrop: None,
            color: settings.color(),
            blend: settings.blend,
            palette: settings.palette_slot(),
        };
        if let Some(cell) = settings.backdrop {
            let raised = cell.is_raised();
            levels.push(Level { backdrop: Some(cell), raised, sort_rows: false, ..plain });
        }
        // What does not sort lies level by level, however it stands.
        let ways = if settings.sort_rows { standings } else { &standings[..1] };
        for raised in [false, true] {
            levels.extend(ways.iter().map(|&nearness| Level { raised, nearness, ..plain }));
        }
    }
    // What is not sorted has depth −∞ and so comes before what is. At a slant, depth and elevation
    // count before raise; see [`DrawKey`](super::order::DrawKey).
    let is_slanted = projection.is_slanted();
    let nearness = |level: &Level| level.nearness.unwrap_or(f64::NEG_INFINITY);
    levels.sort_by(|a, b| {
        (a.priority.cmp(&b.priority))
            .then((a.raised && !is_slanted).cmp(&(b.raised && !is_slanted)))
            .then(a.sort_rows.cmp(&b.sort_rows))
            .then(a.elevation.total_cmp(&b.elevation))
            .then(a.raised.cmp(&b.raised))
            .then(nearness(a).total_cmp(&nearness(b)))
            .then(a.layer.cmp(&b.layer))
            .then(a.backdrop.is_none().cmp(&b.backdrop.is_none()))
    });
    levels
}

/// By level: which ones are sorted among each other.
fn mixed_levels(levels: &[Level], is_slanted: bool) -> Vec<(u16, u16)> {
    let mut mixed = Vec::with_capacity(levels.len());
    for group in levels.chunk_by(|a, b| a.mixes_with(b, is_slanted)) {
        let first = mixed.len() as u16;
        mixed.resize(mixed.len() + group.len(), (first, first + group.len() as u16));
    }
    mixed
}

/// Higher than any screen, and far from any overflow.
const MAX_LIFTED_PX: i64 = 1 << 40;

/// The levels of the cells of all layers.
fn numbered(levels: &[Level], layers: usize, standings: &[Option<f64>]) -> LevelNumbers {
    let mut numbers = LevelNumbers::new(layers, standings.len());
    for (place, level) in levels.iter().enumerate().filter(|(_, level)| level.backdrop.is_none()) {
        for (standing, way) in standings.iter().enumerate() {
            if !level.sort_rows || *way == level.nearness {
                numbers.set(level.layer as usize, level.raised, standing, place as u16);
            }
        }
    }
    numbers
}
