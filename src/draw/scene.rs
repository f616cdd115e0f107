//! The part of a map that a draw list keeps.

use super::alignment::Alignment;
use super::chunk_stack::Member;
use super::clock::Clock;
use super::map_facts::{CellArt, LayerLevels, Level, MapFacts};
use super::motion::Motion;
use super::row::StackEntry;
use crate::lattice::Lattice;
use crate::plane::Stamp;
use crate::quilt::{Blend, LayerId, LayerSettings, Quilt, Wrap};
use crate::tile::{Cell, TileTable};
use crate::units::CellPos;
use crate::view::View;

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
    pub(crate) lattice: Lattice,
    pub(crate) map_facts: MapFacts,
    /// By level: the alignments in which its cells lie, one for each band.
    pub(super) alignments_of: Vec<Vec<usize>>,
}

impl Scene {
    /// Whether it is still right for a map.
    pub(crate) fn is_of(&self, quilt: &Quilt) -> bool {
        let stamps = quilt.stamps();
        self.tiles_stamp == stamps.tiles
            && self.palettes_stamp == stamps.palettes
            && self.layers_stamp == stamps.layers
            && self.lattice == *quilt.lattice()
            && self.tiles.same_descent(quilt.tiles())
            && self.tiles.len() == quilt.tiles().len()
            && self.layers.len() == quilt.layers().len()
    }

    /// What there is to know of a map, and its layers by the edges on which they lie.
    pub(crate) fn of(quilt: &Quilt, view: &View, only_still: bool) -> (Scene, Vec<Alignment>) {
        let levels = levels_of(quilt, only_still);
        let mut alignments: Vec<Alignment> = Vec::new();
        let mut alignments_of = vec![Vec::new(); levels.len()];
        let levels_of_layers = cell_levels(&levels, quilt.layers().len());
        for (number, (held, own)) in quilt.layers().iter().zip(levels_of_layers).enumerate() {
            let Some((low, high)) = own else { continue };
            let layer = number as u32;
            for strip in Motion::strips(number, held.settings()) {
                let known = alignments.iter().position(|a| a.motion == strip.motion);
                let alignment = known.unwrap_or_else(|| {
                    alignments.push(Alignment::new(strip.motion, view));
                    alignments.len() - 1
                });
                let member = Member { layer, levels: (low, high), rows: strip.rows };
                alignments[alignment].members.push(member);
                for level in [low, high] {
                    let own = &mut alignments_of[usize::from(level)];
                    if !own.contains(&alignment) {
                        own.push(alignment);
                    }
                }
            }
        }
        let scene = Scene {
            made: Stamp::next(),
            tiles_stamp: quilt.stamps().tiles,
            palettes_stamp: quilt.stamps().palettes,
            layers_stamp: quilt.stamps().layers,
            layers: quilt.layers().iter().map(|l| (l.id(), l.settings().clone())).collect(),
            map_facts: MapFacts::of(quilt, levels),
            tiles: quilt.tiles().clone(),
            lattice: *quilt.lattice(),
            alignments_of,
        };
        (scene, alignments)
    }

    /// What an entry of a layer's own cell shows at a time: of an animated tile, its frame.
    pub(crate) fn frame_at(&self, entry: StackEntry, own: CellPos, clock: &Clock) -> Cell {
        if !self.map_facts.is_animated(entry.cell) {
            return entry.cell;
        }
        let played = clock.plays_any().then(|| {
            let (layer, _) = self.layer_of(&self.map_facts.levels[usize::from(entry.level)]);
            clock.played_ms(layer, own)
        });
        self.map_facts.frame(entry.cell, own, clock.now_ms(), played.flatten())
    }

    /// The pixels of an entry now, and how it is laid on what is below.
    pub(crate) fn cell_art(
        &self,
        clock: &Clock,
        own: CellPos,
        entry: StackEntry,
    ) -> (Cell, CellArt, Blend) {
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

/// All levels in the order of drawing; if so stated, without those of layers that move.
fn levels_of(quilt: &Quilt, only_still: bool) -> Vec<Level> {
    let mut levels = Vec::new();
    for (layer, held) in (0..).zip(quilt.layers()) {
        let settings = held.settings();
        if !settings.shows() || only_still && !settings.clone().with_wrap(Wrap::No).is_still() {
            continue;
        }
        let plain = Level {
            layer,
            priority: settings.priority,
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
        levels.extend([false, true].map(|raised| Level { raised, ..plain }));
    }
    // What is not sorted by row has depth −∞ and so comes before what is.
    levels.sort_unstable_by_key(|level| {
        (level.priority, level.raised, level.sort_rows, level.layer, level.backdrop.is_none())
    });
    levels
}

/// By layer: the levels of its cells; `None` where it is not drawn.
fn cell_levels(levels: &[Level], layers: usize) -> Vec<Option<LayerLevels>> {
    let mut of_layers = vec![(None, None); layers];
    for (place, level) in levels.iter().enumerate().filter(|(_, level)| level.backdrop.is_none()) {
        let (low, high) = &mut of_layers[level.layer as usize];
        *if level.raised { high } else { low } = Some(place as u16);
    }
    of_layers.into_iter().map(|(low, high)| low.zip(high)).collect()
}
