use super::{IntoCell, TileId, TileName, TileTable};
use crate::name_error::NameError;
use crate::stamp::Stamp;

/// A value of the game's own for each tile: its enum of terrains, a sound, a price. Found in
/// constant time.
///
/// ```
/// use sturdy_quilt::tile::TileValues;
/// use sturdy_quilt::CellPos;
/// # let quilt = sturdy_quilt::doc_quilt();
///
/// #[derive(Clone, Copy, Debug, PartialEq)]
/// enum Sound { Rustle, Thud }
///
/// let names = [("garden/grass", Sound::Rustle), ("garden/wall", Sound::Thud)];
/// let sounds = TileValues::by_name(quilt.tiles(), names)?;
/// let cell = quilt.get("soil", CellPos::new(2, 0))?.here().unwrap();
/// assert_eq!(sounds.get(cell), Some(&Sound::Thud));
/// assert_eq!(sounds.without_value(quilt.tiles()).count(), 0);
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
#[derive(Clone, Debug)]
pub struct TileValues<T> {
    /// By the number of the tile.
    values: Vec<Option<T>>,
    /// Whose tiles have them.
    descent: Stamp,
}

/// Names that no tile of the map has.
#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
#[error("{}", missing.iter().map(ToString::to_string).collect::<Vec<_>>().join("\n"))]
pub struct MissingTilesError {
    /// Each name that is missing, with what may be meant.
    pub missing: Vec<NameError>,
}

impl<T> TileValues<T> {
    /// Returns the values of tiles by their full names; of two values for one tile the later
    /// counts.
    ///
    /// # Errors
    /// Names that no tile set has: all of them at once.
    pub fn by_name<N: AsRef<str>>(
        tiles: &TileTable,
        values: impl IntoIterator<Item = (N, T)>,
    ) -> Result<TileValues<T>, MissingTilesError> {
        let mut found = TileValues { values: Vec::new(), descent: tiles.descent() };
        let mut missing = Vec::new();
        for (name, value) in values {
            match tiles.by_text(name.as_ref()) {
                Ok(id) => drop(found.put(id, value)),
                Err(error) => missing.push(error),
            }
        }
        if missing.is_empty() { Ok(found) } else { Err(MissingTilesError { missing }) }
    }

    /// Gives a tile a value, in place of the one it had; says whether the tile is one of the map.
    pub fn put(&mut self, tile: TileId, value: T) -> bool {
        let Some(tile) = tile.number_in(self.descent) else { return false };
        if self.values.len() <= tile.index() {
            self.values.resize_with(tile.index() + 1, || None);
        }
        self.values[tile.index()] = Some(value);
        true
    }

    /// Returns the value of a tile, or of the one that a cell shows, however turned; `None` for the
    /// empty cell, for tiles without a value and for those of another map. Constant time.
    pub fn get(&self, cell: impl IntoCell) -> Option<&T> {
        let cell = cell.into_cell();
        if !cell.is_of(self.descent) {
            return None;
        }
        self.values.get(cell.cell.tile_index()?)?.as_ref()
    }

    /// Returns the tiles of the map's sets that have no value.
    pub fn without_value<'t>(&'t self, tiles: &'t TileTable) -> impl Iterator<Item = &'t TileName> {
        let without = tiles.ids().filter(|id| self.get(*id).is_none() && !tiles.is_missing(*id));
        without.filter_map(|id| tiles.name(id))
    }
}
