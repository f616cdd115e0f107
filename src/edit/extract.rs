//! Taking tiles out of a layer, to be objects of the game.

use std::collections::HashSet;

use super::{EditError, Pen};
use crate::lattice::Anchor;
use crate::quilt::LayerKey;
use crate::tile::{Cell, IntoCell, OwnedCell, TileId};
use crate::units::{CellPos, WorldPoint};

/// A choice of tiles to take out of a layer, with what is left in their place and the point of the
/// cell on which the object stands.
///
/// ```
/// use sturdy_quilt::edit::Extraction;
/// use sturdy_quilt::{Anchor, Cell, CellPos, WorldPoint};
/// # let mut quilt = sturdy_quilt::doc_quilt();
///
/// let (wall, grass) = (quilt.tile("garden/wall")?, quilt.tile("garden/grass")?);
/// let walls = Extraction::tiles([wall]).with_replacement(grass).with_anchor(Anchor::Foot);
/// let walls = quilt.edit("walls into objects", |pen| pen.extract("soil", &walls))?.result;
/// assert_eq!(walls.len(), 1);
/// assert_eq!((walls[0].cell, walls[0].place), (CellPos::new(2, 0), WorldPoint::new(40.0, 16.0)));
/// assert_eq!(quilt.get("soil", CellPos::new(2, 0))?.here(), Some(Cell::of(grass)));
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
#[derive(Clone, Debug, PartialEq)]
pub struct Extraction {
    tiles: Vec<TileId>,
    replacement: OwnedCell,
    anchor: Anchor,
}

/// A tile that was taken out of a layer.
#[derive(Clone, Copy, Debug, PartialEq)]
#[non_exhaustive]
pub struct ExtractedTile {
    /// Where it lay.
    pub cell: CellPos,
    /// What lay there: the tile with its turn, raise and palette.
    pub value: Cell,
    /// The chosen point of its cell in the world, the offset of the layer counted in.
    pub place: WorldPoint,
}

impl Extraction {
    /// Returns an extraction of these tiles, however turned, that leaves empty cells and places
    /// objects in the middle of their cell. [`TileTable::find_where`](crate::tile::TileTable::find_where)
    /// finds the tiles with a mark in their data.
    pub fn tiles(tiles: impl IntoIterator<Item = TileId>) -> Extraction {
        let tiles = tiles.into_iter().collect();
        Extraction { tiles, replacement: Cell::EMPTY.into_cell(), anchor: Anchor::default() }
    }

    /// Returns this extraction with a cell that replaces the tiles, so that there is no hole.
    #[must_use]
    pub fn with_replacement(mut self, cell: impl IntoCell) -> Extraction {
        self.replacement = cell.into_cell();
        self
    }

    setters! {
        /// Returns this extraction with the objects at another point of their cell.
        const with_anchor(anchor: Anchor);
    }
}

impl Pen<'_> {
    /// Takes tiles out of a layer and returns where they lay, chunk by chunk and in each row by row.
    ///
    /// # Errors
    /// A layer that is not there, or a tile of another map. Chunks that are not
    /// loaded are passed over.
    ///
    /// Costs a look at the cells of the chunks in which one of the tiles may be.
    pub fn extract(
        &mut self,
        layer: impl LayerKey,
        extraction: &Extraction,
    ) -> Result<Vec<ExtractedTile>, EditError> {
        let held = self.quilt().layer(layer)?;
        let table = self.quilt().tiles();
        let is_foreign = |tile: &TileId| table.name(*tile).is_none();
        if extraction.tiles.iter().any(is_foreign) || !extraction.replacement.is_of(table.descent())
        {
            return Err(EditError::OtherMap);
        }
        let wanted: HashSet<usize> = extraction.tiles.iter().map(|tile| tile.index()).collect();
        let is_wanted = |cell: Cell| cell.tile_index().is_some_and(|tile| wanted.contains(&tile));
        let (lattice, offset) = (self.quilt().lattice(), held.settings().offset);
        let extracted: Vec<ExtractedTile> = (held.cells().find_where(is_wanted))
            .filter_map(|cell| {
                let value = held.cells().get(cell).here()?;
                let place = lattice.anchor(cell, extraction.anchor) + offset;
                Some(ExtractedTile { cell, value, place })
            })
            .collect();
        for ExtractedTile { cell, .. } in &extracted {
            self.put(layer, *cell, extraction.replacement.cell)?;
        }
        Ok(extracted)
    }
}
