//! Making tile sets.

mod plan;

use std::sync::Arc;

use indexmap::IndexMap;
use plan::Planned;

use super::{
    ArtPage, GroundMask, NamePattern, SheetCut, Standing, Tile, TileSet, TileSetError, TileSpec,
    check_name,
};
use crate::picture::{Color, Picture};
use crate::units::WorldVec;

/// Makes a [`TileSet`].
#[derive(Clone, Debug, Default)]
pub struct TileSetBuilder {
    name: String,
    specs: Vec<TileSpec>,
    sheet: Option<Sheet>,
    pictures: Vec<(String, Arc<ArtPage>)>,
    names: Option<NamePattern>,
    standing: StatedStanding,
    palette: IndexMap<String, Color>,
    ground: Vec<(String, Vec<String>)>,
    mask: Option<GroundMask>,
    /// Whether pictures that are not there are not wanted.
    is_unseen: bool,
    schema: Option<Arc<str>>,
    picture_file: Option<String>,
    file: Option<String>,
}

/// A sheet with the picture that it is cut from, if that is there.
#[derive(Clone, Debug)]
struct Sheet {
    cut: Option<SheetCut>,
    page: Option<Arc<ArtPage>>,
}

/// How the pictures of a set stand on cells, as far as that is stated.
#[derive(Clone, Copy, Debug, Default, PartialEq)]
pub(crate) struct StatedStanding {
    pub(crate) density: Option<f64>,
    pub(crate) anchor: Option<(f64, f64)>,
    pub(crate) offset: Option<WorldVec>,
}

impl StatedStanding {
    pub(super) fn resolved(self) -> Standing {
        let default = Standing::default();
        Standing {
            density: self.density.unwrap_or(default.density),
            anchor: self.anchor.unwrap_or(default.anchor),
            offset: self.offset.unwrap_or(default.offset),
        }
    }
}

impl TileSetBuilder {
    pub(super) fn new(name: String) -> TileSetBuilder {
        TileSetBuilder { name, ..TileSetBuilder::default() }
    }

    /// Adds what is stated of one tile.
    #[must_use]
    pub fn tile(mut self, spec: TileSpec) -> TileSetBuilder {
        self.specs.push(spec);
        self
    }

    /// Takes the tiles from a sheet. Tiles that are not stated are there too, without a name.
    #[must_use]
    pub fn sheet(self, picture: &Picture, cut: SheetCut) -> TileSetBuilder {
        self.sheet_page(Some(Arc::new(ArtPage::from_picture(picture))), Some(cut))
    }

    /// Has a picture from which tiles take only the pixels that they state; it is not cut.
    #[must_use]
    pub fn uncut_sheet(self, picture: &Picture) -> TileSetBuilder {
        self.sheet_page(Some(Arc::new(ArtPage::from_picture(picture))), None)
    }

    /// A sheet of which the picture may not be there, or is shared with others.
    pub(crate) fn sheet_page(
        mut self,
        page: Option<Arc<ArtPage>>,
        cut: Option<SheetCut>,
    ) -> TileSetBuilder {
        self.sheet = Some(Sheet { cut, page });
        self
    }

    /// Adds a picture of its own for a tile that names it by its path.
    #[must_use]
    pub fn picture(self, path: impl Into<String>, picture: &Picture) -> TileSetBuilder {
        self.picture_page(path.into(), Arc::new(ArtPage::from_picture(picture)))
    }

    pub(crate) fn picture_page(mut self, path: String, page: Arc<ArtPage>) -> TileSetBuilder {
        self.pictures.push((path, page));
        self
    }

    /// Says where the JSON Schema of its document lies.
    pub(crate) fn schema(mut self, schema: Arc<str>) -> TileSetBuilder {
        self.schema = Some(schema);
        self
    }

    /// Does without the pictures that are not there: their tiles are drawn in flat colours.
    pub(crate) fn unseen(mut self) -> TileSetBuilder {
        self.is_unseen = true;
        self
    }

    /// Names the tiles of the sheet that have no name of their own by a pattern.
    #[must_use]
    pub fn names(mut self, pattern: NamePattern) -> TileSetBuilder {
        self.names = Some(pattern);
        self
    }

    /// How many pixels of the pictures are one world unit. Default 1.
    #[must_use]
    pub const fn density(mut self, pixels: f64) -> TileSetBuilder {
        self.standing.density = Some(pixels);
        self
    }

    /// The point that pictures and their cells have in common, see [`Standing::anchor`].
    #[must_use]
    pub const fn anchor(mut self, x: f64, y: f64) -> TileSetBuilder {
        self.standing.anchor = Some((x, y));
        self
    }

    /// How far pictures are moved then, in world units.
    #[must_use]
    pub const fn offset(mut self, offset: WorldVec) -> TileSetBuilder {
        self.standing.offset = Some(offset);
        self
    }

    /// Names a colour of its pictures, so that palettes of a map can replace it. Pixels of exactly
    /// this colour count, whatever their alpha.
    #[must_use]
    pub fn palette(mut self, name: impl Into<String>, color: Color) -> TileSetBuilder {
        self.palette.insert(name.into(), color);
        self
    }

    /// Gives tiles, written as in [`TileSet::find`], a ground class if they state none themselves.
    #[must_use]
    pub fn ground<T: Into<String>>(
        mut self,
        class: impl Into<String>,
        tiles: impl IntoIterator<Item = T>,
    ) -> TileSetBuilder {
        self.ground.push((class.into(), tiles.into_iter().map(Into::into).collect()));
        self
    }

    /// Gives the tiles of the sheet the ground classes that are painted over it, if nothing else
    /// gives them one.
    #[must_use]
    pub fn ground_mask(mut self, mask: GroundMask) -> TileSetBuilder {
        self.mask = Some(mask);
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
        match self.grid() {
            Ok(grid) => drop(self.plan(grid.as_ref(), &mut faults)),
            Err(fault) => faults.push(fault),
        }
        // In the order of the tiles, which is that in which a person reads them.
        faults.sort_by_key(|fault| match fault {
            TileSetError::Tile { index, .. } => index + 1,
            _ => 0,
        });
        if let Err(wrong) = check_name(&self.name) {
            faults.insert(0, TileSetError::Name(wrong));
        }
        faults
    }

    /// Makes the set and finds out from the pixels which tiles are clear, holed and opaque.
    ///
    /// # Errors
    /// The first of [`TileSetBuilder::faults`].
    pub fn build(self) -> Result<TileSet, TileSetError> {
        check_name(&self.name).map_err(TileSetError::Name)?;
        let (grid, mut faults) = (self.grid()?, Vec::new());
        let plan = self.plan(grid.as_ref(), &mut faults);
        if let Some(fault) = faults.into_iter().next() {
            return Err(fault);
        }
        let (page, arts) = self.arts(grid.as_ref(), &plan);
        let by_key = Arc::new(plan::by_key(&plan));
        let made = plan.into_iter().zip(arts);
        let tiles: Arc<[Tile]> =
            made.map(|(Planned { key, spec, .. }, art)| Tile { key, spec, art }).collect();
        Ok(TileSet {
            by_key,
            name: self.name.into(),
            tiles,
            page,
            sheet: self.sheet.and_then(|sheet| sheet.cut),
            grid: grid.map(|grid| (grid.columns(), grid.rows())),
            names: self.names,
            standing: self.standing,
            palette: self.palette.into_iter().collect(),
            schema: self.schema,
            picture_file: self.picture_file,
            file: self.file,
        })
    }
}
