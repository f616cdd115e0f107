//! What a draw list keeps of a map, and for which map it was made.

use super::alignment::Alignment;
use super::chunk_stack::StackEntry;
use super::pass::LooseItem;
use super::slot::{Looks, Reach, Slot, TileLook, tile_look};
use super::sprite::standing_on;
use crate::lattice::Lattice;
use crate::plane::Stamp;
use crate::quilt::{LayerId, LayerSettings, Quilt};
use crate::tile::TileTable;
use crate::units::{CellPos, WorldVec};

/// What the cached parts were made for.
#[derive(Clone, Debug)]
pub(super) struct Scene {
    pub(super) tiles: TileTable,
    tiles_stamp: Stamp,
    layers_stamp: Stamp,
    layers: Vec<(LayerId, LayerSettings)>,
    pub(super) lattice: Lattice,
    pub(super) looks: Looks,
}

impl Scene {
    /// Whether it is still right for a map.
    pub(super) fn is_of(&self, quilt: &Quilt) -> bool {
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

    /// What there is to know of a map, and its layers by the edges on which they lie.
    pub(super) fn of(quilt: &Quilt) -> (Scene, Vec<Alignment>) {
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
        let arts: Vec<_> = tiles.ids().map(|id| tiles.art(id)).collect();
        let each_art = || arts.iter().map(|(_, art)| *art);
        let scene = Scene {
            tiles_stamp: quilt.stamps().tiles,
            layers_stamp: quilt.stamps().layers,
            layers: quilt.layers().iter().map(|l| (l.id(), l.settings().clone())).collect(),
            looks: Looks {
                slots,
                tiles: each_art().map(|art| tile_look(art, &lattice)).collect(),
                reach: Reach::of(each_art(), &lattice),
                arts,
            },
            tiles,
            lattice,
        };
        (scene, alignments)
    }

    /// A cell as a thing by itself.
    pub(super) fn loose_item(
        &self,
        offset: WorldVec,
        at: CellPos,
        entry: &StackEntry,
    ) -> LooseItem {
        let slot = &self.looks.slots[usize::from(entry.slot)];
        let (page, art) = self.looks.art_of(entry.cell);
        let rect = if self.looks.of(entry.cell) == TileLook::Oversize {
            standing_on(at, art, entry.cell, &self.lattice)
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
