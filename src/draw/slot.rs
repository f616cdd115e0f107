//! The order in which the layers of a map are drawn, and how its tiles look.

use super::DrawKey;
use crate::lattice::Lattice;
use crate::tile::{Cell, Coverage, Fit, TileArt, TileTable};
use crate::units::{CellPos, WorldVec};

/// What must be known of a map before its cells are looked at.
#[derive(Clone, Debug)]
pub(super) struct Looks {
    /// The layers in the order of drawing.
    pub(super) slots: Vec<Slot>,
    /// By the number of the tile.
    pub(super) tiles: Vec<TileLook>,
    /// By the number of the tile: its page and its pixels there.
    pub(super) arts: Vec<(u32, TileArt)>,
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

/// How a tile looks on a lattice.
pub(super) fn tile_look(art: TileArt, lattice: &Lattice) -> TileLook {
    match art.coverage {
        Coverage::Clear => TileLook::Clear,
        _ if is_oversize(art, lattice) => TileLook::Oversize,
        Coverage::Opaque => TileLook::Opaque,
        Coverage::Holed | Coverage::Soft => TileLook::Holed,
    }
}

fn is_oversize(art: TileArt, lattice: &Lattice) -> bool {
    let Fit::Standing(standing) = art.fit else { return false };
    // Of the size of the cell, a picture lies on it whatever point they have in common.
    let cell = (lattice.cell_width(), lattice.cell_height());
    standing.size(art.source.size) != cell || standing.offset != WorldVec::ZERO
}

/// Which slots the unraised and the raised cells of a layer go to.
pub(super) type LayerSlots = (u16, u16);

/// How far pictures reach beyond their cells, in world units.
#[derive(Clone, Copy, Debug, Default, PartialEq)]
pub(super) struct Reach {
    pub(super) left: f64,
    pub(super) right: f64,
    pub(super) up: f64,
    pub(super) down: f64,
}

impl Looks {
    /// How the tile of a cell looks; what is not loaded looks solid.
    pub(super) fn of(&self, cell: Cell) -> TileLook {
        let look = cell.tile().and_then(|tile| self.tiles.get(tile.index()));
        look.copied().unwrap_or(TileLook::Opaque)
    }

    /// The page of a cell's tile, and its pixels there; an empty cell stands for what is not loaded.
    pub(super) fn art_of(&self, cell: Cell) -> (u32, TileArt) {
        let art = cell.tile().and_then(|tile| self.arts.get(tile.index()).copied());
        art.unwrap_or((0, TileTable::UNLOADED_ART))
    }

    /// Whether a cell hides all that is drawn below it in its place.
    pub(super) fn covers(&self, cell: Cell, slot: u16) -> bool {
        self.of(cell) == TileLook::Opaque && self.slots[usize::from(slot)].alpha == 255
    }
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

impl Reach {
    pub(super) fn of(arts: impl Iterator<Item = TileArt>, lattice: &Lattice) -> Reach {
        arts.fold(Reach::default(), |reach, art| {
            let Fit::Standing(standing) = art.fit else { return reach };
            // Turned, width and height change places; reach for both.
            let (width, height) = standing.size(art.source.size);
            let longest = width.max(height);
            let (wider, higher) = (longest - lattice.cell_width(), longest - lattice.cell_height());
            let ((x, y), offset) = (standing.anchor, standing.offset);
            Reach {
                left: reach.left.max(x * wider - offset.x),
                right: reach.right.max((1.0 - x) * wider + offset.x),
                up: reach.up.max(y * higher - offset.y),
                down: reach.down.max((1.0 - y) * higher + offset.y),
            }
        })
    }
}
