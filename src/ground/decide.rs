//! Who decides the ground of a cell.
//!
//! Three kinds of voices are heard, and the first that says anything wins: the layers that speak
//! first, the markers that state ground, and the other layers. Layers are asked from the top down,
//! by priority and then by their order, of markers the last one first. A tile without a class says
//! nothing. Layers whose offset is not a whole number of cells are not asked, since their tiles
//! lie over no single cell.

use super::codes::{self, NOTHING_SAID};
use crate::plane::Presence;
use crate::quilt::{GroundClass, Grounds, Layer, PlacedMarker, Quilt};
use crate::tile::Cell;
use crate::units::{CellOffset, CellPos, ChunkPos};

/// The ground of a cell, and what decided it.
#[derive(Clone, Copy, Debug)]
pub struct GroundDecision<'a> {
    /// The class.
    pub class: GroundClass,
    /// Who spoke first.
    pub by: DecidedBy<'a>,
}

/// Who said what the ground of a cell is.
#[derive(Clone, Copy, Debug)]
#[non_exhaustive]
pub enum DecidedBy<'a> {
    /// A tile.
    Layer {
        /// Its layer.
        layer: &'a Layer,
        /// What lies there in the layer.
        cell: Cell,
    },
    /// A marker that covers the cell.
    Marker(PlacedMarker<'a>),
}

impl<'a> DecidedBy<'a> {
    /// The name of the layer or marker.
    pub fn name(&self) -> &'a str {
        match self {
            DecidedBy::Layer { layer, .. } => layer.name(),
            DecidedBy::Marker(marker) => marker.marker().name(),
        }
    }
}

/// A layer that gives ground.
#[derive(Clone, Copy, Debug)]
pub(super) struct Speaker<'a> {
    pub(super) layer: &'a Layer,
    /// From the layer's own cells to those of the map.
    pub(super) offset: CellOffset,
    /// Whether it is heard before the markers.
    pub(super) is_first: bool,
}

impl Speaker<'_> {
    /// The chunk of the layer that lies on a chunk of the map, where they lie on each other.
    pub(super) fn own_chunk(&self, pos: ChunkPos) -> Option<ChunkPos> {
        let side = ChunkPos::SIDE as i32;
        let CellOffset { x, y } = self.offset;
        let is_aligned = x % side == 0 && y % side == 0;
        is_aligned.then(|| ChunkPos::new(pos.x() - x / side, pos.y() - y / side))
    }
}

/// The layers that give ground, in the order in which they are asked.
pub(super) fn speakers(quilt: &Quilt) -> Vec<Speaker<'_>> {
    let mut speakers: Vec<Speaker<'_>> = { quilt.layers().iter() }
        .filter(|layer| layer.settings().grounds != Grounds::Never)
        .filter_map(|layer| {
            let offset = layer.settings().offset_cells(quilt.lattice())?;
            let is_first = layer.settings().grounds == Grounds::First;
            Some(Speaker { layer, offset, is_first })
        })
        .collect();
    // Stable, so that after turning round the later of two layers with one priority comes first.
    speakers.sort_by_key(|speaker| (speaker.is_first, speaker.layer.settings().priority));
    speakers.reverse();
    speakers
}

/// The markers that state ground, in the order in which they are asked.
pub(super) fn ground_markers(quilt: &Quilt) -> Vec<(PlacedMarker<'_>, GroundClass)> {
    let mut markers: Vec<_> = { quilt.markers() }
        .filter(|marker| marker.can_ground())
        .filter_map(|marker| {
            let class = quilt.ground_rules().class(marker.ground_name()?).ok()?;
            Some((marker, class))
        })
        .collect();
    markers.reverse();
    markers
}

/// The code that each tile gives, by the number of the tile.
pub(super) fn codes_of_tiles(quilt: &Quilt) -> Vec<u8> {
    let (tiles, rules) = (quilt.tiles(), quilt.ground_rules());
    let class = |id| rules.class(tiles.tile(id)?.ground()?).ok();
    tiles.ids().map(|id| codes::code_of(class(id))).collect()
}

/// The code that a cell gives, by those of the tiles.
#[inline]
pub(super) fn code_of_cell(cell: Cell, codes_of_tiles: &[u8]) -> u8 {
    let code = cell.number().and_then(|tile| codes_of_tiles.get(tile.index()));
    code.copied().unwrap_or(NOTHING_SAID)
}

impl Quilt {
    /// The ground of one cell and who decides it; `None` where nobody says anything.
    ///
    /// Hidden layers count as shown ones do. Costs a look at each layer and marker; for many
    /// cells, keep a [`GroundMap`](super::GroundMap).
    ///
    /// ```
    /// use sturdy_quilt::{CellPos, Presence};
    /// # let quilt = sturdy_quilt::doc_quilt();
    ///
    /// let Presence::Here(Some(ground)) = quilt.ground_at(CellPos::new(2, 0)) else { panic!() };
    /// assert_eq!(quilt.ground_rules().class_name(ground.class), Some("stone"));
    /// assert_eq!(ground.by.name(), "soil");
    /// assert!(matches!(quilt.ground_at(CellPos::new(-1, -1)), Presence::Here(None)));
    /// ```
    pub fn ground_at(&self, cell: CellPos) -> Presence<Option<GroundDecision<'_>>> {
        let speakers = speakers(self);
        let (first, others) = speakers.split_at(speakers.partition_point(|s| s.is_first));
        let marked = || {
            let (marker, class) =
                ground_markers(self).into_iter().find(|(marker, _)| marker.covers(cell))?;
            Some(Presence::Here(GroundDecision { class, by: DecidedBy::Marker(marker) }))
        };
        let found = self.first_said(first, cell).or_else(marked);
        let found = found.or_else(|| self.first_said(others, cell));
        match found {
            Some(decision) => decision.map(Some),
            None => Presence::Here(None),
        }
    }

    fn first_said<'a>(
        &'a self,
        speakers: &[Speaker<'a>],
        cell: CellPos,
    ) -> Option<Presence<GroundDecision<'a>>> {
        speakers.iter().find_map(|speaker| self.said_by(*speaker, cell))
    }

    /// What a layer says of a cell, if anything.
    fn said_by<'a>(
        &'a self,
        Speaker { layer, offset, .. }: Speaker<'a>,
        cell: CellPos,
    ) -> Option<Presence<GroundDecision<'a>>> {
        let held = layer.cells().get(cell.checked_add(offset.reversed())?);
        let class = held.map(|cell| {
            let class = self.tiles().tile(self.tiles().tile_of(cell)?)?.ground()?;
            let class = self.ground_rules().class(class).ok()?;
            Some(GroundDecision { class, by: DecidedBy::Layer { layer, cell } })
        });
        match class {
            Presence::Here(decision) => decision.map(Presence::Here),
            Presence::NotHere => Some(Presence::NotHere),
            Presence::Damaged => Some(Presence::Damaged),
        }
    }
}
