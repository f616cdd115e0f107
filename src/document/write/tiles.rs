//! Tile sets as documents.

use serde_json::{Map, Value, json};

use super::check::check_values;
use super::error::SaveError;
use super::layout::{Laid, number};
use crate::document::formats::{TILES_FORMAT, VERSION};
use crate::document::limits::Limits;
use crate::tile::{
    Animation, AnimationStart, CellShape, SheetCut, StatedArtPlacement, Tile, TileSet, TileSource,
};
use crate::units::PixelRect;

impl TileSet {
    /// Returns the set as a document of its own, with the ground class of each tile stated with the
    /// tile, whether it came from a list, from a mask picture or from the tile itself, and with the
    /// columns and rows of its sheet: it can be loaded without pictures.
    ///
    /// # Errors
    /// A set with a sheet that names no file for its picture, or one that could not be loaded again
    /// with the default [`Limits`].
    ///
    /// ```
    /// use sturdy_quilt::TileSet;
    ///
    /// let set = TileSet::flat("garden", ["grass", "wall"])?;
    /// assert!(set.to_json()?.contains("\"tiles\": [\"grass\", \"wall\"]"));
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    pub fn to_json(&self) -> Result<String, SaveError> {
        let mut document = Map::new();
        document.extend(self.schema.as_deref().map(|s| ("$schema".to_owned(), s.into())));
        document.insert("format".into(), TILES_FORMAT.into());
        document.insert("version".into(), VERSION.into());
        document.extend(inline(self, self.counted_sheet())?);
        let document = document.into_iter().map(|(key, value)| (key, value.into())).collect();
        let text = Laid::Object(document).text();
        let most = Limits::default().json_values;
        check_values(&text, self.tiles().iter().map(Tile::data), most)?;
        Ok(text)
    }
}

/// The set as a document of one line, that can be read without its pictures.
pub(crate) fn set_line(set: &TileSet) -> String {
    let named = set.sheet().is_some() && set.picture_file().is_none();
    let named = named.then(|| set.with_picture_file("sheet"));
    let mut document = Map::new();
    document.insert("format".into(), TILES_FORMAT.into());
    document.insert("version".into(), VERSION.into());
    // A sheet without a file is the only reason for which it could fail.
    let own = inline(named.as_ref().unwrap_or(set), set.counted_sheet());
    document.extend(own.unwrap_or_default());
    Value::Object(document).to_string()
}

/// A set as it stands in its map: the path of its file, or the set itself.
pub(super) fn set_value(set: &TileSet) -> Result<Value, SaveError> {
    match set.file() {
        Some(file) => Ok(file.into()),
        None => Ok(inline(set, set.sheet().copied())?.into()),
    }
}

/// The set itself, with its sheet cut as it is said here.
fn inline(set: &TileSet, cut: Option<SheetCut>) -> Result<Map<String, Value>, SaveError> {
    let mut value = Map::new();
    value.insert("name".into(), set.name().into());
    if set.sheet().is_some() && set.picture_file().is_none() {
        return Err(SaveError::PictureWithoutFile { set: set.name().to_owned() });
    }
    if let Some(picture) = set.picture_file() {
        value.insert("sheet".into(), sheet_value(picture, cut));
    }
    if let Some(pattern) = set.name_pattern() {
        value.insert("names".into(), pattern.to_string().into());
    }
    let placement = set.stated_placement();
    if let Some(pixels) = placement.density {
        value.insert("density".into(), number(pixels));
    }
    value.extend(placement_entries(placement));
    if !set.palette().is_empty() {
        let colors =
            set.palette().iter().map(|(name, color)| (name.clone(), color.to_string().into()));
        value.insert("palette".into(), Value::Object(colors.collect()));
    }
    let tiles: Vec<Value> = set.whole_tiles().iter().filter_map(tile_value).collect();
    if !tiles.is_empty() {
        value.insert("tiles".into(), tiles.into());
    }
    Ok(value)
}

fn sheet_value(picture: &str, cut: Option<SheetCut>) -> Value {
    let mut sheet = Map::new();
    sheet.insert("picture".into(), picture.into());
    let Some(cut) = cut else { return sheet.into() };
    sheet.insert("tile".into(), json!([cut.tile.width, cut.tile.height]));
    let margins = [("margin", cut.margin), ("gap", cut.gap)];
    let margins = margins.into_iter().filter(|(_, px)| *px > 0);
    sheet.extend(margins.map(|(key, px)| (key.to_owned(), px.into())));
    sheet.extend(cut.area.map(|area| ("area".to_owned(), pixels_value(area))));
    let stated = [("columns", cut.columns), ("rows", cut.rows)];
    let stated = stated.into_iter().filter_map(|(key, n)| Some((key.to_owned(), n?.into())));
    sheet.extend(stated);
    sheet.into()
}

fn pixels_value(rect: PixelRect) -> Value {
    json!({ "at": [rect.x, rect.y], "size": [rect.size.width, rect.size.height] })
}

fn placement_entries(stated: StatedArtPlacement) -> impl Iterator<Item = (String, Value)> {
    let pair = |key: &str, x, y| (key.to_owned(), json!([number(x), number(y)]));
    let anchors = [("anchor", stated.anchor), ("cell_anchor", stated.cell_anchor)];
    let anchors = anchors.into_iter().filter_map(move |(key, at)| at.map(|(x, y)| pair(key, x, y)));
    anchors.chain(stated.offset.map(|offset| pair("offset", offset.x, offset.y)))
}

/// What was stated of a tile; `None` where nothing was.
fn tile_value(tile: &Tile) -> Option<Value> {
    let spec = tile.spec();
    let mut value = Map::new();
    match &spec.source {
        TileSource::Flat => {}
        TileSource::Place(column, row) => drop(value.insert("at".into(), json!([column, row]))),
        TileSource::Pixels(rect) => drop(value.insert("pixels".into(), pixels_value(*rect))),
        TileSource::Picture(path) => drop(value.insert("picture".into(), path.as_str().into())),
    }
    if let Some(name) = &spec.name {
        value.insert("name".into(), name.as_str().into());
    }
    if let Some(class) = &spec.ground {
        value.insert("ground".into(), class.as_str().into());
    }
    if let Some(shape) = &spec.shape {
        value.insert("shape".into(), shape_value(shape));
    }
    if spec.raise {
        value.insert("raise".into(), true.into());
    }
    if let Some(color) = spec.color {
        value.insert("color".into(), color.to_string().into());
    }
    value.extend(placement_entries(StatedArtPlacement {
        density: None,
        anchor: spec.anchor,
        cell_anchor: spec.cell_anchor,
        offset: spec.offset,
    }));
    if let Some(animation) = &spec.animation {
        value.insert("animation".into(), animation_value(animation));
    }
    if !spec.facings.is_empty() {
        value.insert("facings".into(), spec.facings.to_vec().into());
    }
    if let Some(footprint) = spec.footprint {
        value.insert("footprint".into(), json!([footprint.columns(), footprint.rows()]));
    }
    if !spec.variants.is_empty() {
        let variants = spec.variants.iter().map(|(tile, weight)| (tile.clone(), (*weight).into()));
        value.insert("variants".into(), Value::Object(variants.collect()));
    }
    if !spec.data.is_null() {
        value.insert("data".into(), spec.data.clone());
    }
    let states_only_its_place = value.len() == 1 && spec.place().is_some();
    match &spec.name {
        Some(name) if value.len() == 1 => Some(name.as_str().into()),
        _ => (!states_only_its_place).then(|| value.into()),
    }
}

/// A shape by the shortest way to state it.
fn shape_value(shape: &CellShape) -> Value {
    let pair = |(left, right): (f64, f64)| json!([number(left), number(right)]);
    if let Some(heights) = shape.as_floor() {
        json!({ "floor": pair(heights) })
    } else if let Some(lengths) = shape.as_ceiling() {
        json!({ "ceiling": pair(lengths) })
    } else if let Some(edges) = shape.as_area() {
        json!({ "area": edges.map(number) })
    } else {
        let corners: Vec<Value> = shape.stated_corners().map(pair).collect();
        json!({ "corners": corners })
    }
}

fn animation_value(animation: &Animation) -> Value {
    let mut value = Map::new();
    let frames: Vec<&str> = animation.frames().map(|(tile, _)| tile).collect();
    let times: Vec<u32> = animation.frames().map(|(_, ms)| ms).collect();
    let is_uniform = times.windows(2).all(|pair| pair[0] == pair[1]);
    value.insert("frames".into(), frames.into());
    value
        .insert("ms".into(), if is_uniform { times.first().copied().into() } else { times.into() });
    match animation.start() {
        AnimationStart::Together => {}
        AnimationStart::Scattered => drop(value.insert("start".into(), "scattered".into())),
        AnimationStart::Shifted { x_ms, y_ms } => {
            value.insert("start".into(), json!([x_ms, y_ms]));
        }
    }
    value.into()
}
