//! The precedence of ground: which layer or marker decides the ground of a cell.
//!
//! There are three kinds of sources, and the first that states anything wins: the layers that come
//! first, the markers that state ground, and the other layers. Layers count from the top down, by
//! priority and then by their order; of markers the last one counts first. A tile without a class
//! states nothing, and one with a shape states the ground of that part of its cell alone: what lies
//! below it states that of the rest. Layers whose offset is not a whole number of cells are left
//! out, since their tiles lie over no single cell.

use super::codes;
use super::codes::UNSTATED;
use super::parts::MAX_SHAPES;
use crate::plane::Presence;
use crate::quilt::{GroundClass, Grounds, Layer, LayerId, PlacedMarker, Quilt};
use crate::tile::{Cell, CellShape};
use crate::units::{CellOffset, CellPos, ChunkPos};

/// The ground of a cell, and what decided it.
#[derive(Clone, Copy, Debug)]
pub struct GroundDecision<'a> {
    /// The class.
    pub class: GroundClass,
    /// The source that comes first of those that state the ground of the cell.
    pub by: DecidedBy<'a>,
    /// The part of the cell for which it does; the whole cell for all that is left.
    pub shape: CellShape,
}

/// The source that decides the ground of a cell.
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
    /// Returns the name of the layer or marker.
    pub fn name(&self) -> &'a str {
        match self {
            DecidedBy::Layer { layer, .. } => layer.name(),
            DecidedBy::Marker(marker) => marker.marker().name(),
        }
    }
}

/// A source of ground: one layer, or all markers that state ground.
#[derive(Clone, Copy, Debug)]
pub(super) enum Source<'a> {
    Layer {
        layer: &'a Layer,
        /// From the layer's own cells to those of the map.
        offset: CellOffset,
    },
    Markers,
}

impl Source<'_> {
    /// The chunk of the layer that lies on a chunk of the map, where their chunks lie on each other.
    pub(super) fn own_chunk(&self, pos: ChunkPos) -> Option<ChunkPos> {
        let Source::Layer { offset: CellOffset { x, y }, .. } = *self else { return None };
        let side = ChunkPos::SIDE as i32;
        let is_aligned = x % side == 0 && y % side == 0;
        is_aligned.then(|| ChunkPos::new(pos.x() - x / side, pos.y() - y / side))
    }

    /// What tells it from other sources; `None` for the markers.
    pub(super) fn identity(&self) -> Option<(LayerId, CellOffset)> {
        match self {
            Source::Layer { layer, offset } => Some((layer.id(), *offset)),
            Source::Markers => None,
        }
    }
}

/// The sources of the ground of a map, in order of precedence: the first that states anything of a
/// cell wins.
pub(super) fn sources(quilt: &Quilt) -> Vec<Source<'_>> {
    let layers = quilt.layers().iter();
    let layers = layers.filter(|layer| layer.settings().grounds != Grounds::Never);
    let mut sources = Vec::with_capacity(quilt.layers().len() + 1);
    sources.extend(layers.filter_map(|layer| {
        let offset = layer.settings().offset_cells(quilt.lattice())?;
        Some(Source::Layer { layer, offset })
    }));
    sources.push(Source::Markers);
    // Stable, so that after turning round the later of two layers with one priority comes first.
    sources.sort_by_key(|source| match source {
        Source::Layer { layer, .. } if layer.settings().grounds != Grounds::First => {
            (0, layer.settings().priority)
        }
        Source::Markers => (1, 0),
        Source::Layer { layer, .. } => (2, layer.settings().priority),
    });
    sources.reverse();
    sources
}

/// The markers that state ground, in the order in which they are asked.
pub(super) fn ground_markers(quilt: &Quilt) -> Vec<(PlacedMarker<'_>, GroundClass)> {
    let mut markers: Vec<_> = { quilt.markers() }
        .filter(|marker| marker.can_ground())
        .filter_map(|marker| {
            let class = quilt.ground_rules().class(marker.ground()?).ok()?;
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
    code.copied().unwrap_or(UNSTATED)
}

impl Quilt {
    /// Returns the ground of one cell and who decides it; `None` where nobody says anything. Of a
    /// cell with several parts it is that of the uppermost, see [`Quilt::grounds_at`].
    ///
    /// Hidden layers count as shown ones do. Costs a look at each layer and marker; for many
    /// cells, keep a [`GroundMap`](crate::GroundMap).
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

    /// Returns the ground of one cell part by part, from the top down, and who decides each: tiles
    /// with a shape for a part of it, at most four, and last the source of all that is left, if
    /// there is one. Parts that lie wholly under others are among them.
    ///
    /// Costs a look at each layer and marker.
    ///
    /// ```
    /// use sturdy_quilt::tile::CellShape;
    /// use sturdy_quilt::CellPos;
    /// # let quilt = sturdy_quilt::doc_quilt();
    ///
    /// let parts = quilt.grounds_at(CellPos::new(2, 0));
    /// assert_eq!(parts.len(), 1);
    /// assert_eq!(parts[0].here().unwrap().shape, CellShape::SQUARE);
    /// ```
    pub fn grounds_at<'a>(&'a self, cell: CellPos) -> Vec<Presence<GroundDecision<'a>>> {
        let whole = CellShape::whole(self.lattice().shape());
        let mut decisions = Vec::new();
        for source in sources(self) {
            let decision = match source {
                Source::Layer { layer, offset } => self.ground_of_layer(layer, offset, cell),
                Source::Markers => self.ground_of_markers(cell),
            };
            let Some(decision) = decision else { continue };
            let is_whole = !matches!(decision, Presence::Here(stated) if stated.shape != whole);
            if is_whole || decisions.len() < MAX_SHAPES {
                decisions.push(decision);
            }
            if is_whole {
                break;
            }
        }
        decisions
    }

    /// The ground that the markers state for a cell, if any does.
    fn ground_of_markers(&self, cell: CellPos) -> Option<Presence<GroundDecision<'_>>> {
        let mut markers = ground_markers(self).into_iter();
        let (marker, class) = markers.find(|(marker, _)| marker.covers(cell))?;
        let shape = CellShape::whole(self.lattice().shape());
        Some(Presence::Here(GroundDecision { class, by: DecidedBy::Marker(marker), shape }))
    }

    /// The ground that a layer states for a cell, if it does.
    fn ground_of_layer<'a>(
        &'a self,
        layer: &'a Layer,
        offset: CellOffset,
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
