use serde_json::Value;

use super::{Animation, CellShape, Footprint};
use crate::picture::Color;
use crate::units::{PixelRect, WorldVec};

/// The description of one tile of a set that is built.
///
/// ```
/// use sturdy_quilt::{Color, TileSpec};
///
/// let hedge = TileSpec::named("hedge").with_ground("hedge").with_color(Color::rgb(40, 90, 40));
/// let grass = TileSpec::at(0, 0).with_name("grass");
/// let tree = TileSpec::picture("trees/oak.png").with_name("oak").with_anchor(0.5, 0.9);
/// ```
#[derive(Clone, Debug, Default, PartialEq)]
#[non_exhaustive]
pub struct TileSpec {
    /// Where its pixels are; default is nowhere: it is drawn in a flat colour.
    pub source: TileSource,
    /// Its name. Wanted where it has no place in a sheet.
    pub name: Option<String>,
    /// The ground class it gives its cell; none says nothing about the ground.
    pub ground: Option<String>,
    /// The part of its cell that the class holds for; default is the whole cell.
    pub shape: Option<Box<CellShape>>,
    /// Whether all its cells are raised, whatever they say themselves. Default false.
    pub raise: bool,
    /// The flat colour it is drawn in where it has no pixels; default is one by its name.
    pub color: Option<Color>,
    /// How its picture stands on its cell; default is as the set says.
    pub anchor: Option<(f64, f64)>,
    /// The point of its cell on which that lies; default is as the set says.
    pub cell_anchor: Option<(f64, f64)>,
    /// How far its picture is moved, in world units; default is as the set says.
    pub offset: Option<WorldVec>,
    /// The pictures that it shows one after the other.
    pub animation: Option<Box<Animation>>,
    /// The tiles that show it from several sides, 2 or 4 of them; none where it has one picture.
    pub facings: Box<[String]>,
    /// The cells on which it stands at a slant; none where it stands in a single one.
    pub footprint: Option<Footprint>,
    /// The tiles that may stand for it, with how often each is chosen against the others.
    pub variants: Vec<(String, u32)>,
    /// Whatever the game wants to know of it.
    pub data: Value,
}

/// The place of the pixels of a tile.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
#[non_exhaustive]
pub enum TileSource {
    /// Nowhere: the tile is drawn in a flat colour.
    #[default]
    Flat,
    /// In a column and row of the sheet, counted from 0.
    Place(u32, u32),
    /// In a rectangle of the sheet's picture.
    Pixels(PixelRect),
    /// They are a picture of their own, by its path.
    Picture(String),
}

impl TileSpec {
    /// Returns a tile with a name.
    pub fn named(name: impl Into<String>) -> TileSpec {
        TileSpec { name: Some(name.into()), ..TileSpec::default() }
    }

    /// Returns the tile in a column and row of the sheet, counted from 0.
    pub fn at(column: u32, row: u32) -> TileSpec {
        TileSpec { source: TileSource::Place(column, row), ..TileSpec::default() }
    }

    /// Returns the tile in a rectangle of the sheet's picture.
    pub fn pixels(rect: PixelRect) -> TileSpec {
        TileSpec { source: TileSource::Pixels(rect), ..TileSpec::default() }
    }

    /// Returns the tile that a picture of its own shows; the builder is given the picture under
    /// this path.
    pub fn picture(path: impl Into<String>) -> TileSpec {
        TileSpec { source: TileSource::Picture(path.into()), ..TileSpec::default() }
    }

    setters! {
        /// Returns this tile with a name.
        with_name(name: some into String);

        /// Returns this tile with a ground class.
        with_ground(ground: some into String);
    }

    /// Returns this tile, filling only a part of its cell: its ground class holds for that part.
    ///
    /// ```
    /// use sturdy_quilt::tile::CellShape;
    /// use sturdy_quilt::TileSpec;
    ///
    /// let ramp = TileSpec::named("ramp").with_ground("earth").with_shape(CellShape::floor(0.0, 1.0)?);
    /// # Ok::<(), sturdy_quilt::tile::CellShapeError>(())
    /// ```
    #[must_use]
    pub fn with_shape(mut self, shape: CellShape) -> TileSpec {
        self.shape = Some(Box::new(shape));
        self
    }

    setters! {
        /// Returns this tile, raised in every cell or not.
        const with_raise(raise: bool);

        /// Returns this tile with a flat colour.
        with_color(color: some Color);
    }

    /// Returns this tile, standing on its cell by another point; see [`TileSetBuilder::anchor`].
    ///
    /// [`TileSetBuilder::anchor`]: super::TileSetBuilder::anchor
    #[must_use]
    pub const fn with_anchor(mut self, x: f64, y: f64) -> TileSpec {
        self.anchor = Some((x, y));
        self
    }

    /// Returns this tile, standing on another point of its cell; see [`TileSetBuilder::cell_anchor`].
    ///
    /// [`TileSetBuilder::cell_anchor`]: super::TileSetBuilder::cell_anchor
    #[must_use]
    pub const fn with_cell_anchor(mut self, x: f64, y: f64) -> TileSpec {
        self.cell_anchor = Some((x, y));
        self
    }

    /// Returns this tile with its picture moved, in world units.
    #[must_use]
    pub const fn with_offset(mut self, offset: WorldVec) -> TileSpec {
        self.offset = Some(offset);
        self
    }

    setters! {
        /// Returns this tile with pictures that it shows one after the other.
        with_animation(animation: some into Box<Animation>);
    }

    /// Returns this tile with one more that may stand for it, written as in [`TileSet::find`], and
    /// how often that one is chosen against the others. A tile that has variants stands for itself
    /// only if it is one of them.
    ///
    /// [`TileSet::find`]: super::TileSet::find
    #[must_use]
    pub fn with_variant(mut self, tile: impl Into<String>, weight: u32) -> TileSpec {
        self.variants.push((tile.into(), weight));
        self
    }

    /// Returns this tile, shown from several sides by tiles of its set, written as in
    /// [`TileSet::find`](super::TileSet::find): 2 or 4 of them. One that ends in `+mirror` shows its
    /// picture mirrored. The number of the one that shows is the quarters by which the map and the cell
    /// are turned, so that the first shows where neither is; pixels are not turned then.
    #[must_use]
    pub fn with_facings<N: Into<String>>(mut self, tiles: impl IntoIterator<Item = N>) -> TileSpec {
        self.facings = tiles.into_iter().map(Into::into).collect();
        self
    }

    setters! {
        /// Returns this tile, standing on several cells at a slant: its picture is cut into strips, so
        /// that all cells of it are tiles of their own. They are named by the tile and their column and
        /// row, such as `house 1,2`.
        ///
        /// The picture is as wide as its cells together, so that its width is a multiple of the sum of
        /// columns and rows. Its anchor lies on the upright rectangle around all of them. If the tile
        /// states no facings, it shows the same picture from all sides, mirrored where a footprint that
        /// is not square lies across.
        with_footprint(footprint: some Footprint);
    }

    setters! {
        /// Returns this tile with data of the game's own.
        with_data(data: Value);
    }

    /// Returns its place in the sheet, where it has one.
    pub const fn place(&self) -> Option<(u32, u32)> {
        match self.source {
            TileSource::Place(column, row) => Some((column, row)),
            _ => None,
        }
    }
}
