//! Which layer decides the ground of a cell.
//!
//! The layers are asked from the top down, by priority and then by their order. A tile without a
//! class says nothing, and the first that speaks wins. Layers whose offset is not a whole number
//! of cells are not asked, since their tiles lie over no single cell.

use crate::plane::Presence;
use crate::quilt::{GroundClass, Layer, Quilt};
use crate::tile::Cell;
use crate::units::{CellOffset, CellPos};

/// The ground of a cell, and what decided it.
#[derive(Clone, Copy, Debug)]
pub struct GroundDecision<'a> {
    /// The class.
    pub class: GroundClass,
    /// The layer that spoke first.
    pub layer: &'a Layer,
    /// What lies there in that layer.
    pub cell: Cell,
}

/// A layer that gives ground.
#[derive(Clone, Copy, Debug)]
pub(super) struct Speaker<'a> {
    pub(super) layer: &'a Layer,
    /// From the layer's own cells to those of the map.
    pub(super) offset: CellOffset,
}

/// The layers that give ground, the topmost first.
pub(super) fn speakers(quilt: &Quilt) -> Vec<Speaker<'_>> {
    let grounding = quilt.layers().iter().filter(|layer| layer.settings().grounds);
    let mut speakers: Vec<Speaker<'_>> = grounding
        .filter_map(|layer| {
            let offset = layer.settings().offset_cells(quilt.lattice())?;
            Some(Speaker { layer, offset })
        })
        .collect();
    // Stable, so that after turning round the later of two layers with one priority comes first.
    speakers.sort_by_key(|speaker| speaker.layer.settings().priority);
    speakers.reverse();
    speakers
}

/// The class that each tile gives, by the number of the tile.
pub(super) fn classes_of_tiles(quilt: &Quilt) -> Vec<Option<GroundClass>> {
    let (tiles, rules) = (quilt.tiles(), quilt.ground_rules());
    tiles.ids().map(|id| rules.class(tiles.tile(id)?.ground()?).ok()).collect()
}

impl Quilt {
    /// The ground of one cell and which layer decides it; `None` where no layer says anything.
    ///
    /// Hidden layers count as shown ones do. Costs a look at each layer; for many cells, keep a
    /// [`GroundMap`](super::GroundMap).
    ///
    /// ```
    /// use sturdy_quilt::{CellPos, Presence};
    /// # let quilt = sturdy_quilt::doc_quilt();
    ///
    /// let Presence::Here(Some(ground)) = quilt.ground_at(CellPos::new(2, 0)) else { panic!() };
    /// assert_eq!(quilt.ground_rules().class_name(ground.class), Some("stone"));
    /// assert_eq!(ground.layer.name(), "soil");
    /// assert!(matches!(quilt.ground_at(CellPos::new(-1, -1)), Presence::Here(None)));
    /// ```
    pub fn ground_at(&self, cell: CellPos) -> Presence<Option<GroundDecision<'_>>> {
        for Speaker { layer, offset } in speakers(self) {
            let Some(own) = cell.checked_add(offset.reversed()) else { continue };
            let held = match layer.cells().get(own) {
                Presence::Here(held) => held,
                Presence::NotHere => return Presence::NotHere,
                Presence::Damaged => return Presence::Damaged,
            };
            let class = held.tile().and_then(|id| self.tiles().tile(id)?.ground());
            if let Some(class) = class.and_then(|name| self.ground_rules().class(name).ok()) {
                return Presence::Here(Some(GroundDecision { class, layer, cell: held }));
            }
        }
        Presence::Here(None)
    }
}
