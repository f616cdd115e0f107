//! Who decides the ground of a cell.
//!
//! Three kinds of voices are heard, and the first that says anything wins: the layers that speak
//! first, the markers that state ground, and the other layers. Layers are asked from the top down,
//! by priority and then by their order, of markers the last one first. A tile without a class says
//! nothing, and one with a shape speaks for that part of its cell alone: what lies below it speaks
//! for the rest. Layers whose offset is not a whole number of cells are not asked, since their tiles
//! lie over no single cell.

use super::codes::{self, NOTHING_SAID};
use super::parts::MOST_SHAPES;
use crate::plane::Presence;
use crate::quilt::{GroundClass, Grounds, Layer, PlacedMarker, Quilt};
use crate::tile::{Cell, CellShape};
use crate::units::{CellOffset, CellPos, ChunkPos};

/// The ground of a cell, and what decided it.
#[derive(Clone, Copy, Debug)]
pub struct GroundDecision<'a> {
    /// The class.
    pub class: GroundClass,
    /// Who spoke first.
    pub by: DecidedBy<'a>,
    /// The part of the cell for which it speaks; the whole cell for all that is left.
    pub shape: CellShape,
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
    /// The ground of one cell and who decides it; `None` where nobody says anything. Of a cell with
    /// several parts it is that of the uppermost, see [`Quilt::grounds_at`].
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
        let first = self.grounds_at(cell).into_iter().next();
        first.map_or(Presence::Here(None), |decision| decision.map(Some))
    }

    /// The ground of one cell part by part, from the top down, and who decides each: tiles with a
    /// shape for a part of it, at most four, and last who speaks for all that is left, if anyone
    /// does. Parts that lie wholly under others are among them.
    ///
    /// Costs a look at each layer and marker.
    ///
    /// ```
    /// use sturdy_quilt::{CellPos, CellShape};
    /// # let quilt = sturdy_quilt::doc_quilt();
    ///
    /// let parts = quilt.grounds_at(CellPos::new(2, 0));
    /// assert_eq!(parts.len(), 1);
    /// assert_eq!(parts[0].here().unwrap().shape, CellShape::SQUARE);
    /// ```
    pub fn grounds_at<'a>(&'a self, cell: CellPos) -> Vec<Presence<GroundDecision<'a>>> {
        let speakers = speakers(self);
        let (first, others) = speakers.split_at(speakers.partition_point(|s| s.is_first));
        let whole = CellShape::whole(self.lattice().shape());
        let marked = || {
            let (marker, class) =
                ground_markers(self).into_iter().find(|(marker, _)| marker.covers(cell))?;
            let by = DecidedBy::Marker(marker);
            Some(Presence::Here(GroundDecision { class, by, shape: whole }))
        };
        let said = |speaker: &Speaker<'a>| self.said_by(*speaker, cell);
        let heard = first.iter().filter_map(said);
        let heard = heard.chain(std::iter::once_with(marked).flatten());
        let mut decisions = Vec::new();
        for decision in heard.chain(others.iter().filter_map(said)) {
            let is_whole = !matches!(decision, Presence::Here(said) if said.shape != whole);
            if is_whole || decisions.len() < MOST_SHAPES {
                decisions.push(decision);
            }
            if is_whole {
                break;
            }
        }
        decisions
    }

    /// What a layer says of a cell, if anything.
    fn said_by<'a>(
        &'a self,
        Speaker { layer, offset, .. }: Speaker<'a>,
        cell: CellPos,
    ) -> Option<Presence<GroundDecision<'a>>> {
        let held = layer.cells().get(cell.checked_add(offset.reversed())?);
        let class = held.map(|cell| {
            let tile = self.tiles().tile(self.tiles().tile_of(cell)?)?;
            let class = self.ground_rules().class(tile.ground()?).ok()?;
            let shape = tile.shape().map_or(CellShape::whole(self.lattice().shape()), |shape| {
                shape.turned(cell.turn())
            });
            Some(GroundDecision { class, by: DecidedBy::Layer { layer, cell }, shape })
        });
        match class {
            Presence::Here(decision) => decision.map(Presence::Here),
            Presence::NotHere => Some(Presence::NotHere),
            Presence::Damaged => Some(Presence::Damaged),
        }
    }
}
