//! What a draw list keeps of a map: which layers are drawn, in which order, and how tiles look.

use super::DrawKey;
use super::alignment::Alignment;
use super::pass::{LooseItem, StackEntry};
use crate::lattice::Lattice;
use crate::plane::Stamp;
use crate::quilt::{LayerId, LayerSettings, Quilt};
use crate::tile::{Cell, Coverage, Fit, TileArt, TileTable};
use crate::units::{CellPos, WorldPoint, WorldRect, WorldVec};

/// What the cached parts were made for.
#[derive(Clone, Debug)]
pub(super) struct Scene {
    pub(super) tiles: TileTable,
    tiles_stamp: Stamp,
    layers_stamp: Stamp,
    layers: Vec<(LayerId, LayerSettings)>,
    pub(super) lattice: Lattice,
    pub(super) slots: Vec<Slot>,
    pub(super) looks: Vec<TileLook>,
    pub(super) reach: Reach,
}

/// A layer, or the raised cells of one, in the order of drawing.
#[derive(Clone, Copy, Debug, PartialEq)]
pub(super) struct Slot {
    /// The place of the layer in the map.
    pub(super) layer: u32,
    pub(super) priority: i32,
    pub(super) raised: bool,
    pub(super) sort_rows: bool,
    pub(super) alpha: u8,
    /// Which of the alignments its layer has.
    pub(super) alignment: usize,
}

/// What is known of each tile before any cell is looked at.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) enum TileLook {
    Clear,
    Holed,
    Opaque,
    Oversize,
}

/// The look of every tile of a table on a lattice.
fn tile_looks(tiles: &TileTable, lattice: &Lattice) -> Vec<TileLook> {
    let look = |art: TileArt| match art.coverage {
        Coverage::Clear => TileLook::Clear,
        _ if is_oversize(art, lattice) => TileLook::Oversize,
        Coverage::Opaque => TileLook::Opaque,
        Coverage::Holed => TileLook::Holed,
    };
    tiles.ids().map(|id| look(tiles.art(id).1)).collect()
}

fn is_oversize(art: TileArt, lattice: &Lattice) -> bool {
    let size = art.source.size;
    let fits = f64::from(size.width) == lattice.cell_width()
        && f64::from(size.height) == lattice.cell_height();
    art.fit == Fit::Natural && !fits
}

/// Which slots the unraised and the raised cells of a layer go to.
pub(super) type LayerSlots = (u16, u16);

/// How far the largest tile reaches beyond its cell, in world units.
#[derive(Clone, Copy, Debug, Default, PartialEq)]
pub(super) struct Reach {
    pub(super) sideways: f64,
    pub(super) upwards: f64,
}

impl Slot {
    pub(super) fn mixes_with(&self, other: &Slot) -> bool {
        self.sort_rows
            && other.sort_rows
            && (self.priority, self.raised) == (other.priority, other.raised)
    }

    pub(super) fn key(&self, lattice: &Lattice, offset: WorldVec, at: CellPos) -> DrawKey {
        let foot = self.sort_rows.then(|| lattice.foot(at).y + offset.y);
        DrawKey::of_cell(self.priority, self.raised, foot, self.layer, at)
    }
}

impl Scene {
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

    pub(super) fn loose_item(
        &self,
        offset: WorldVec,
        at: CellPos,
        entry: &StackEntry,
    ) -> LooseItem {
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
