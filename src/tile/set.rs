//! Tile sets: named tiles with their pixels.

use std::collections::HashMap;
use std::sync::Arc;

use serde_json::Value;

use super::art::{Coverage, StatedArtPlacement};
use super::builder::placement_of;
use super::chance::weighted;
use super::footprint::{Part, split_facing};
use super::{
    Animation, ArtPage, ArtPlacement, CellShape, NamePattern, SheetCut, TileArt, TileKey, TileName,
    TileSpec, Turn,
};
use crate::picture::Color;
use crate::units::CellPos;

/// A tile of a set.
#[derive(Clone, Debug, PartialEq)]
pub struct Tile {
    pub(super) key: TileKey,
    pub(super) spec: TileSpec,
    pub(super) art: TileArt,
}

impl Tile {
    /// Returns what tells it from the others of its set.
    pub const fn key(&self) -> &TileKey {
        &self.key
    }

    /// Returns the ground class it gives its cell, or `None` where it says nothing about the
    /// ground.
    pub fn ground(&self) -> Option<&str> {
        self.spec.ground.as_deref()
    }

    /// Returns the part of its cell that the ground class holds for, before it is turned; `None`
    /// for the whole cell.
    pub fn shape(&self) -> Option<&CellShape> {
        self.spec.shape.as_deref()
    }

    /// Returns the tiles that it shows one after the other.
    pub fn animation(&self) -> Option<&Animation> {
        self.spec.animation.as_deref()
    }

    /// Returns whether all its cells are raised, whatever they say themselves.
    pub const fn raise(&self) -> bool {
        self.spec.raise
    }

    /// Returns the data that the game keeps with it; `null` where nothing is stated.
    pub const fn data(&self) -> &Value {
        &self.spec.data
    }

    /// Returns what was stated of it.
    pub const fn spec(&self) -> &TileSpec {
        &self.spec
    }

    /// Returns where its pixels are.
    pub const fn art(&self) -> TileArt {
        self.art
    }

    /// Returns the tiles that show it from several sides, in the order of [`TileSpec::with_facings`],
    /// each with how it is turned: mirrored, or not at all. None where it has one picture.
    pub fn facings(&self) -> impl ExactSizeIterator<Item = (&str, Turn)> {
        self.spec.facings.iter().map(|text| split_facing(text))
    }

    /// Returns which of its variants stands for it in a cell, written as in [`TileSet::find`]: as
    /// if by chance, by their weights, but with one seed always the same one. `None` where it has
    /// no variants.
    pub fn variant_at(&self, cell: CellPos, seed: u64) -> Option<&str> {
        let weights = self.spec.variants.iter().map(|(_, weight)| *weight);
        let chosen = self.spec.variants.get(weighted(weights, cell, seed)?);
        chosen.map(|(tile, _)| &**tile)
    }
}

/// A named set of tiles with their pixels.
///
/// ```
/// use sturdy_quilt::tile::Coverage;
/// use sturdy_quilt::{TileSet, TileSpec};
///
/// let set = TileSet::builder("garden")
///     .tile(TileSpec::named("grass").with_ground("open"))
///     .tile(TileSpec::named("wall").with_ground("stone"))
///     .build()?;
/// assert_eq!(set.find("wall").and_then(|tile| tile.ground()), Some("stone"));
/// assert_eq!(set.tiles()[0].art().coverage, Coverage::Opaque);
/// # Ok::<(), sturdy_quilt::tile::TileSetError>(())
/// ```
#[derive(Clone, PartialEq)]
pub struct TileSet {
    pub(super) name: Arc<str>,
    pub(super) tiles: Arc<[Tile]>,
    /// Of the last of them, which part of another one each is.
    pub(super) parts: Arc<[Part]>,
    pub(super) by_key: Arc<HashMap<TileKey, u32>>,
    pub(super) page: Arc<ArtPage>,
    pub(super) sheet: Option<SheetCut>,
    /// Columns and rows of the cut sheet.
    pub(super) grid: Option<(u32, u32)>,
    pub(super) names: Option<NamePattern>,
    pub(super) placement: StatedArtPlacement,
    pub(super) palette: Arc<[(String, Color)]>,
    pub(crate) schema: Option<Arc<str>>,
    pub(super) picture_file: Option<String>,
    pub(super) file: Option<String>,
}

impl TileSet {
    /// The same set as a map names it that calls its file so; everything else is shared.
    pub(crate) fn in_file(&self, file: &str) -> TileSet {
        TileSet { file: Some(file.to_owned()), ..self.clone() }
    }

    /// The same set, whose sheet came from a file that it names so.
    pub(crate) fn with_picture_file(&self, file: &str) -> TileSet {
        TileSet { picture_file: Some(file.to_owned()), ..self.clone() }
    }

    /// How the picture of a tile stands on its cell by what it states and its set states.
    pub(crate) fn stated_fit(&self, tile: &Tile) -> ArtPlacement {
        placement_of(&tile.spec, self.placement.resolved())
    }

    /// The same set with another page of pixels, and for each tile where its pixels lie and how they are laid
    /// on the cell; one that shows none of them has [`Coverage::Clear`]. `None` where that does not fit.
    pub(crate) fn with_page(
        &self,
        page: ArtPage,
        arts: impl ExactSizeIterator<Item = TileArt>,
    ) -> Option<TileSet> {
        if arts.len() != self.tiles.len() {
            return None;
        }
        let mut tiles = self.tiles.to_vec();
        for (tile, art) in tiles.iter_mut().zip(arts) {
            let is_shown = art.coverage != Coverage::Clear;
            if !page.size().holds(art.source) {
                return None;
            }
            let coverage = if is_shown { page.coverage(art.source) } else { Coverage::Clear };
            tile.art = TileArt { coverage, ..art };
        }
        Some(TileSet { tiles: tiles.into(), page: Arc::new(page), ..self.clone() })
    }

    /// The same set as a map has it: named so by its map and its sheet, and with the sheet cut as it was stated.
    pub(crate) fn as_stated(
        &self,
        file: Option<String>,
        picture_file: Option<String>,
        (columns, rows): (bool, bool),
        schema: Option<Arc<str>>,
    ) -> TileSet {
        let sheet = self.sheet.map(|cut| SheetCut {
            columns: cut.columns.filter(|_| columns),
            rows: cut.rows.filter(|_| rows),
            ..cut
        });
        TileSet { file, picture_file, sheet, schema, ..self.clone() }
    }

    /// Returns the name of the set.
    pub fn name(&self) -> &str {
        &self.name
    }

    /// Returns all tiles: those of a cut sheet row by row, then the others in the order in which
    /// they were stated, then the parts of those that stand on several cells.
    pub fn tiles(&self) -> &[Tile] {
        &self.tiles
    }

    /// The tiles that are no parts of others.
    pub(crate) fn whole_tiles(&self) -> &[Tile] {
        &self.tiles[..self.tiles.len() - self.parts.len()]
    }

    /// Which part of another tile the one at a place is.
    pub(super) fn part_at(&self, place: u32) -> Option<Part> {
        let first = self.tiles.len() - self.parts.len();
        self.parts.get((place as usize).checked_sub(first)?).copied()
    }

    /// Returns the tile of this name, or at this place when written `column:row`, whether or not it
    /// has a name too. Constant time.
    pub fn find(&self, key: &str) -> Option<&Tile> {
        self.position(&key.parse().ok()?).and_then(|at| self.tiles.get(at))
    }

    pub(crate) fn position(&self, key: &TileKey) -> Option<usize> {
        self.by_key.get(key).map(|&at| at as usize)
    }

    /// The full name of a tile of this set.
    pub(crate) fn full_name(&self, tile: &Tile) -> TileName {
        TileName::new(Arc::clone(&self.name), tile.key.clone())
    }

    /// Returns the pixels of all its tiles.
    pub fn page(&self) -> &ArtPage {
        &self.page
    }

    /// Returns how its sheet is cut, or `None` where it has no sheet that is cut.
    pub const fn sheet(&self) -> Option<&SheetCut> {
        self.sheet.as_ref()
    }

    /// Returns the number of columns of the cut sheet; `None` without one.
    pub const fn sheet_columns(&self) -> Option<u32> {
        match self.grid {
            Some((columns, _)) => Some(columns),
            None => None,
        }
    }

    /// How its sheet is cut, with the columns and rows that there are.
    pub(crate) fn counted_sheet(&self) -> Option<SheetCut> {
        let (columns, rows) = self.grid?;
        self.sheet.map(|cut| SheetCut { columns: Some(columns), rows: Some(rows), ..cut })
    }

    /// Returns the pattern that names the tiles of the sheet which have no name of their own.
    pub const fn name_pattern(&self) -> Option<&NamePattern> {
        self.names.as_ref()
    }

    /// Returns how its pictures stand on cells, where a tile states nothing else.
    pub fn placement(&self) -> ArtPlacement {
        self.placement.resolved()
    }

    /// Returns its base palette: the colours that the palettes of a map may replace, by name.
    pub fn palette(&self) -> &[(String, Color)] {
        &self.palette
    }

    pub(crate) const fn stated_placement(&self) -> StatedArtPlacement {
        self.placement
    }

    /// Returns the file of its sheet as the set names it, where it came from a file.
    pub fn picture_file(&self) -> Option<&str> {
        self.picture_file.as_deref()
    }

    /// Returns the file of the set as its map names it, where the set has a file of its own.
    pub fn file(&self) -> Option<&str> {
        self.file.as_deref()
    }
}

impl std::fmt::Debug for TileSet {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        write!(f, "TileSet({}, {} tiles)", self.name, self.tiles.len())
    }
}
