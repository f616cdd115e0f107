//! Tile sets: named tiles, with or without a sheet.

use std::collections::HashMap;
use std::sync::Arc;

use serde_json::Value;

use super::{
    ArtPage, Fit, SheetCut, SheetCutError, SheetGrid, TileArt, TileKey, TileName, TileNameError,
    check_name,
};
use crate::picture::{Color, Picture};
use crate::units::{PixelRect, PixelSize};

/// What is stated of one tile when a set is made.
///
/// ```
/// use sturdy_quilt::{Color, TileSpec};
///
/// let hedge = TileSpec::named("hedge").ground("hedge").color(Color::rgb(40, 90, 40));
/// let grass = TileSpec::at(0, 0).name("grass");
/// ```
#[derive(Clone, Debug, Default, PartialEq)]
pub struct TileSpec {
    /// Its place in the sheet: column and row from 0. Wanted where the set has a sheet.
    pub place: Option<(u32, u32)>,
    /// Its name. Wanted where the set has no sheet.
    pub name: Option<String>,
    /// The ground class it gives its cell; none says nothing about the ground.
    pub ground: Option<String>,
    /// The flat colour it is drawn in where the set has no sheet; default is one by its name.
    pub color: Option<Color>,
    /// Whatever the game wants to know of it.
    pub data: Value,
}

impl TileSpec {
    /// A tile with a name.
    pub fn named(name: impl Into<String>) -> TileSpec {
        TileSpec { name: Some(name.into()), ..TileSpec::default() }
    }

    /// The tile in a column and row of the sheet, counted from 0.
    pub fn at(column: u32, row: u32) -> TileSpec {
        TileSpec { place: Some((column, row)), ..TileSpec::default() }
    }

    /// The same tile with a name.
    #[must_use]
    pub fn name(mut self, name: impl Into<String>) -> TileSpec {
        self.name = Some(name.into());
        self
    }

    /// The same tile with a ground class.
    #[must_use]
    pub fn ground(mut self, class: impl Into<String>) -> TileSpec {
        self.ground = Some(class.into());
        self
    }

    /// The same tile with a flat colour.
    #[must_use]
    pub fn color(mut self, color: Color) -> TileSpec {
        self.color = Some(color);
        self
    }

    /// The same tile with data of the game's own.
    #[must_use]
    pub fn data(mut self, data: Value) -> TileSpec {
        self.data = data;
        self
    }
}

/// One tile of a set.
#[derive(Clone, Debug, PartialEq)]
pub struct Tile {
    key: TileKey,
    spec: TileSpec,
    art: TileArt,
}

impl Tile {
    /// What tells it from the others of its set.
    pub const fn key(&self) -> &TileKey {
        &self.key
    }

    /// The ground class it gives its cell, or `None` where it says nothing about the ground.
    pub fn ground(&self) -> Option<&str> {
        self.spec.ground.as_deref()
    }

    /// Whatever the game wants to know of it; `null` where nothing is stated.
    pub const fn data(&self) -> &Value {
        &self.spec.data
    }

    /// What was stated of it.
    pub const fn spec(&self) -> &TileSpec {
        &self.spec
    }

    /// Where its pixels are.
    pub const fn art(&self) -> TileArt {
        self.art
    }
}

/// A named set of tiles with their pixels.
///
/// ```
/// use sturdy_quilt::{Coverage, TileSet, TileSpec};
///
/// let set = TileSet::builder("garden")
///     .tile(TileSpec::named("grass").ground("open"))
///     .tile(TileSpec::named("wall").ground("stone"))
///     .build()?;
/// assert_eq!(set.find("wall").and_then(|tile| tile.ground()), Some("stone"));
/// assert_eq!(set.tiles()[0].art().coverage, Coverage::Opaque);
/// # Ok::<(), sturdy_quilt::TileSetError>(())
/// ```
#[derive(Clone, PartialEq)]
pub struct TileSet {
    name: Arc<str>,
    tiles: Vec<Tile>,
    by_key: HashMap<TileKey, u32>,
    page: ArtPage,
    sheet: Option<SheetCut>,
    picture_file: Option<String>,
    file: Option<String>,
}

impl TileSet {
    /// Begins a set.
    pub fn builder(name: impl Into<String>) -> TileSetBuilder {
        TileSetBuilder {
            name: name.into(),
            specs: Vec::new(),
            sheet: None,
            picture_file: None,
            file: None,
        }
    }

    /// A set of named placeholder tiles in flat colours.
    ///
    /// # Errors
    /// A malformed or repeated name, or no name at all.
    pub fn flat<N: Into<String>>(
        name: impl Into<String>,
        tiles: impl IntoIterator<Item = N>,
    ) -> Result<TileSet, TileSetError> {
        let specs = tiles.into_iter().map(TileSpec::named);
        specs.fold(TileSet::builder(name), TileSetBuilder::tile).build()
    }

    /// The name of the set.
    pub fn name(&self) -> &str {
        &self.name
    }

    /// All tiles: those of a sheet row by row, others in the order in which they were stated.
    pub fn tiles(&self) -> &[Tile] {
        &self.tiles
    }

    /// The tile of this name, or at this place when written `column:row`. Constant time.
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

    /// The pixels of all its tiles.
    pub const fn page(&self) -> &ArtPage {
        &self.page
    }

    /// How its sheet is cut, or `None` where it has no sheet.
    pub const fn sheet(&self) -> Option<&SheetCut> {
        self.sheet.as_ref()
    }

    /// The number of columns of the sheet; `None` without one.
    pub fn sheet_columns(&self) -> Option<u32> {
        self.sheet?.grid(self.page.size()).ok().map(|grid| grid.columns())
    }

    /// The file of its sheet as the set names it, where it came from a file.
    pub fn picture_file(&self) -> Option<&str> {
        self.picture_file.as_deref()
    }

    /// The file of the set as its map names it, where the set has a file of its own.
    pub fn file(&self) -> Option<&str> {
        self.file.as_deref()
    }
}

impl std::fmt::Debug for TileSet {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        write!(f, "TileSet({}, {} tiles)", self.name, self.tiles.len())
    }
}

/// Why a tile set cannot be made.
#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
#[non_exhaustive]
pub enum TileSetError {
    /// The name of the set is malformed.
    #[error("a tile set cannot have this name")]
    Name(#[source] TileNameError),
    /// The sheet cannot be cut.
    #[error("the sheet of tile set `{set}` cannot be cut")]
    Sheet {
        /// The set.
        set: String,
        /// Why not.
        #[source]
        source: SheetCutError,
    },
    /// There is no tile in it.
    #[error("tile set `{0}` has no tiles")]
    Empty(String),
    /// A tile is wrong.
    #[error("tile {index} of set `{set}`: {fault}")]
    Tile {
        /// The set.
        set: String,
        /// Which of the stated tiles, from 0.
        index: usize,
        /// What is wrong with it.
        fault: TileFault,
    },
}

/// What is wrong with one stated tile of a set.
#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
#[non_exhaustive]
pub enum TileFault {
    /// Its name is malformed.
    #[error("{0}")]
    Name(TileNameError),
    /// Another tile has the name already.
    #[error("the name `{0}` is given to two tiles")]
    RepeatedName(String),
    /// Another tile states the same place.
    #[error("the place {0}:{1} is stated twice")]
    RepeatedPlace(u32, u32),
    /// It has no place, but its set has a sheet.
    #[error("it has no place in the sheet")]
    NoPlace,
    /// It has no name, and its set has no sheet in which it could have a place.
    #[error("it has no name, and its set has no sheet")]
    NoName,
    /// It states a place, but its set has no sheet.
    #[error("it states a place, but its set has no sheet")]
    PlaceWithoutSheet,
    /// Its place lies outside the sheet.
    #[error("the place {column}:{row} lies outside the sheet of {columns} × {rows} tiles")]
    OutsideSheet {
        /// The stated column.
        column: u32,
        /// The stated row.
        row: u32,
        /// Columns of the sheet.
        columns: u32,
        /// Rows of the sheet.
        rows: u32,
    },
}

/// Makes a [`TileSet`].
#[derive(Clone, Debug)]
pub struct TileSetBuilder {
    name: String,
    specs: Vec<TileSpec>,
    sheet: Option<(SheetCut, ArtPage)>,
    picture_file: Option<String>,
    file: Option<String>,
}

impl TileSetBuilder {
    /// Adds what is stated of one tile.
    #[must_use]
    pub fn tile(mut self, spec: TileSpec) -> TileSetBuilder {
        self.specs.push(spec);
        self
    }

    /// Takes the tiles from a sheet. Tiles that are not stated are there too, without a name.
    #[must_use]
    pub fn sheet(mut self, picture: &Picture, cut: SheetCut) -> TileSetBuilder {
        self.sheet = Some((cut, ArtPage::from_picture(picture)));
        self
    }

    /// Names the file of the sheet, which a saved map will name in turn.
    #[must_use]
    pub fn picture_file(mut self, path: impl Into<String>) -> TileSetBuilder {
        self.picture_file = Some(path.into());
        self
    }

    /// Names the file of the set itself, which a saved map will name instead of holding the set.
    #[must_use]
    pub fn file(mut self, path: impl Into<String>) -> TileSetBuilder {
        self.file = Some(path.into());
        self
    }

    /// Everything that keeps the set from being made; nothing when [`TileSetBuilder::build`] will
    /// succeed.
    pub fn faults(&self) -> Vec<TileSetError> {
        let mut faults = Vec::new();
        if let Err(wrong) = check_name(&self.name) {
            faults.push(TileSetError::Name(wrong));
        }
        let grid = match &self.sheet {
            None => None,
            Some((cut, page)) => match cut.grid(page.size()) {
                Ok(grid) => Some(grid),
                Err(source) => {
                    faults.push(TileSetError::Sheet { set: self.name.clone(), source });
                    return faults;
                }
            },
        };
        if self.specs.is_empty() && grid.is_none() {
            faults.push(TileSetError::Empty(self.name.clone()));
        }
        let (mut names, mut places) = (HashMap::new(), HashMap::new());
        for (index, spec) in self.specs.iter().enumerate() {
            let mut found = |fault| {
                faults.push(TileSetError::Tile { set: self.name.clone(), index, fault });
            };
            if let Some(name) = &spec.name {
                if let Err(wrong) = check_name(name) {
                    found(TileFault::Name(wrong));
                } else if names.insert(name, index).is_some() {
                    found(TileFault::RepeatedName(name.clone()));
                }
            }
            match (spec.place, &grid) {
                (None, Some(_)) => found(TileFault::NoPlace),
                (None, None) if spec.name.is_none() => found(TileFault::NoName),
                (None, None) => {}
                (Some(_), None) => found(TileFault::PlaceWithoutSheet),
                (Some((column, row)), Some(grid)) => {
                    if grid.tile(column, row).is_none() {
                        let (columns, rows) = (grid.columns(), grid.rows());
                        found(TileFault::OutsideSheet { column, row, columns, rows });
                    } else if places.insert((column, row), index).is_some() {
                        found(TileFault::RepeatedPlace(column, row));
                    }
                }
            }
        }
        faults
    }

    /// Makes the set and finds out from the pixels which tiles are clear, holed and opaque.
    ///
    /// # Errors
    /// The first of [`TileSetBuilder::faults`].
    pub fn build(self) -> Result<TileSet, TileSetError> {
        if let Some(fault) = self.faults().into_iter().next() {
            return Err(fault);
        }
        let (page, tiles, sheet) = match self.sheet {
            Some((cut, page)) => {
                let grid = cut
                    .grid(page.size())
                    .map_err(|source| TileSetError::Sheet { set: self.name.clone(), source })?;
                let tiles = sheet_tiles(&grid, &page, self.specs);
                (page, tiles, Some(cut))
            }
            None => {
                let (page, tiles) = flat_tiles(self.specs);
                (page, tiles, None)
            }
        };
        let by_key = tiles.iter().zip(0..).map(|(tile, at)| (tile.key.clone(), at)).collect();
        Ok(TileSet {
            name: self.name.into(),
            tiles,
            by_key,
            page,
            sheet,
            picture_file: self.picture_file,
            file: self.file,
        })
    }
}

fn sheet_tiles(grid: &SheetGrid, page: &ArtPage, specs: Vec<TileSpec>) -> Vec<Tile> {
    let mut stated: HashMap<(u32, u32), TileSpec> =
        specs.into_iter().filter_map(|spec| Some((spec.place?, spec))).collect();
    let places = (0..grid.rows()).flat_map(|row| (0..grid.columns()).map(move |c| (c, row)));
    let tile_at = |(column, row): (u32, u32)| {
        let source = grid.tile(column, row)?;
        let spec = stated.remove(&(column, row)).unwrap_or_else(|| TileSpec::at(column, row));
        let key = match &spec.name {
            Some(name) => TileKey::Name(name.as_str().into()),
            None => TileKey::Place { column, row },
        };
        let art = TileArt { source, coverage: page.coverage(source), fit: Fit::Natural };
        Some(Tile { key, spec, art })
    };
    places.filter_map(tile_at).collect()
}

/// The tiles of a set without picture: a page with one pixel a tile.
fn flat_tiles(specs: Vec<TileSpec>) -> (ArtPage, Vec<Tile>) {
    let colors = specs.iter().map(|spec| {
        spec.color.unwrap_or_else(|| Color::of_name(spec.name.as_deref().unwrap_or_default()))
    });
    let size = PixelSize::new(specs.len() as u32, 1);
    let bytes = colors.flat_map(Color::to_bytes).collect();
    let picture =
        Picture::from_bytes(size, bytes).unwrap_or_else(|_| Picture::filled(size, Color::CLEAR));
    let page = ArtPage::from_picture(&picture);
    let tiles = specs
        .into_iter()
        .zip(0..)
        .map(|(spec, x)| {
            let source = PixelRect::new(x, 0, PixelSize::new(1, 1));
            let art = TileArt { source, coverage: page.coverage(source), fit: Fit::Cell };
            Tile { key: TileKey::Name(spec.name.as_deref().unwrap_or_default().into()), spec, art }
        })
        .collect();
    (page, tiles)
}
