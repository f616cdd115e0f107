//! Tile sets as documents.

use serde_json::{Map, Value, json};

use super::SaveError;
use crate::tile::{Tile, TileKey, TileSet};

/// A set as it stands in its map: the path of its file, or the set itself.
pub(super) fn set_value(set: &TileSet) -> Result<Value, SaveError> {
    if let Some(file) = set.file() {
        return Ok(file.into());
    }
    let mut value = Map::new();
    value.insert("name".into(), set.name().into());
    if let Some(cut) = set.sheet() {
        let Some(picture) = set.picture_file() else {
            return Err(SaveError::PictureWithoutFile { set: set.name().to_owned() });
        };
        let mut sheet = Map::new();
        sheet.insert("picture".into(), picture.into());
        sheet.insert("tile".into(), json!([cut.tile.width, cut.tile.height]));
        let stated = [("columns", cut.columns), ("rows", cut.rows)];
        let margins = [("margin", cut.margin), ("gap", cut.gap)];
        let margins = margins.into_iter().filter(|(_, px)| *px > 0);
        sheet.extend(margins.map(|(key, px)| (key.to_owned(), px.into())));
        let stated = stated.into_iter().filter_map(|(key, n)| Some((key.to_owned(), n?.into())));
        sheet.extend(stated);
        value.insert("sheet".into(), sheet.into());
    }
    let tiles: Vec<Value> = set.tiles().iter().filter_map(tile_value).collect();
    if !tiles.is_empty() {
        value.insert("tiles".into(), tiles.into());
    }
    Ok(value.into())
}

/// What was stated of a tile; `None` where nothing was.
fn tile_value(tile: &Tile) -> Option<Value> {
    let spec = tile.spec();
    let mut value = Map::new();
    if let Some((column, row)) = spec.place {
        value.insert("at".into(), json!([column, row]));
    }
    if let TileKey::Name(name) = tile.key() {
        value.insert("name".into(), (&**name).into());
    }
    if let Some(class) = &spec.ground {
        value.insert("ground".into(), class.as_str().into());
    }
    if let Some(color) = spec.color {
        value.insert("color".into(), color.to_string().into());
    }
    if !spec.data.is_null() {
        value.insert("data".into(), spec.data.clone());
    }
    let states_only_its_place = value.len() == 1 && spec.place.is_some();
    match (value.len(), tile.key()) {
        (1, TileKey::Name(name)) => Some((&**name).into()),
        _ => (!states_only_its_place).then(|| value.into()),
    }
}
