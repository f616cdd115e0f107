//! Reading one tile of a set.

use crate::document::syntax::{Fields, Node, Reader, Span};
use crate::tile::{Animation, AnimationStart, CellShape, Footprint, TileSource, TileSpec};
use crate::units::{PixelRect, PixelSize, WorldVec};

/// Names of ground classes, and where they stand.
pub(super) type Classes = Vec<(String, Span)>;

/// The keys of a tile.
const TILE_KEYS: [&str; 16] = [
    "at",
    "pixels",
    "picture",
    "name",
    "ground",
    "shape",
    "raise",
    "color",
    "anchor",
    "cell_anchor",
    "offset",
    "animation",
    "facings",
    "footprint",
    "variants",
    "data",
];

/// The most pixels that a picture is taken to have in a row or a column.
pub(super) const MAX_PIXELS: u32 = u32::MAX >> 8;

/// The ways to state a shape.
const SHAPE_KEYS: [&str; 4] = ["floor", "ceiling", "area", "corners"];

/// Reads what is stated of a tile: an object, or only its name.
pub(super) fn read_tile<'a>(
    reader: &mut Reader<'a, '_>,
    node: Node<'a>,
    classes: &mut Classes,
) -> Option<TileSpec> {
    if node.is_text() {
        return Some(TileSpec::named(reader.text(node, "a tile")?));
    }
    let fields = reader.fields(node, "the tile", &TILE_KEYS)?;
    let mut spec = TileSpec { source: read_source(reader, &fields)?, ..TileSpec::default() };
    if let Some(name) = fields.get("name") {
        spec.name = Some(reader.text(name, "the name of a tile")?.into_owned());
    }
    if let Some(node) = fields.get("ground") {
        let class = reader.text(node, "the ground of a tile")?;
        classes.push((class.to_string(), node.span()));
        spec.ground = Some(class.into_owned());
    }
    if let Some(node) = fields.get("shape") {
        spec.shape = Some(Box::new(read_shape(reader, node)?));
    }
    if let Some(node) = fields.get("color") {
        spec.color = reader.color(node, "the colour of a tile");
    }
    if let Some(node) = fields.get("raise") {
        spec.raise = reader.boolean(node, "`raise` of a tile")?;
    }
    if let Some(node) = fields.get("anchor") {
        spec.anchor = Some(reader.numbers(node, "the anchor of a tile")?);
    }
    if let Some(node) = fields.get("cell_anchor") {
        spec.cell_anchor = Some(reader.numbers(node, "the cell anchor of a tile")?);
    }
    if let Some(node) = fields.get("offset") {
        let (x, y) = reader.numbers(node, "the offset of a tile")?;
        spec.offset = Some(WorldVec::new(x, y));
    }
    if let Some(node) = fields.get("animation") {
        spec.animation = Some(Box::new(read_animation(reader, node)?));
    }
    if let Some(node) = fields.get("facings") {
        spec.facings = reader.texts(node, "the facings of a tile", "a facing of a tile")?.into();
    }
    if let Some(node) = fields.get("footprint") {
        let sides = 1..=Footprint::MAX_SIDE;
        let (columns, rows) = reader.integers(node, "the footprint of a tile", sides)?;
        spec.footprint = Footprint::new(columns, rows);
    }
    if let Some(node) = fields.get("variants") {
        for entry in reader.entries(node, "the variants of a tile")? {
            let what = format!("the weight of variant `{}`", entry.key);
            let weight = reader.integer(entry.value, &what, 0..=u32::MAX)?;
            spec.variants.push((entry.key.to_owned(), weight));
        }
    }
    if let Some(data) = fields.get("data") {
        spec.data = reader.data(data, "the data of a tile")?;
    }
    Some(spec)
}

/// Where the pixels of a tile are.
fn read_source<'a>(reader: &mut Reader<'a, '_>, fields: &Fields<'a>) -> Option<TileSource> {
    let stated: Vec<(&str, Node<'a>)> = ["at", "pixels", "picture"]
        .into_iter()
        .filter_map(|key| Some((key, fields.get(key)?)))
        .collect();
    match *stated {
        [] => Some(TileSource::Flat),
        [("at", node)] => {
            let (column, row) = reader.integers(node, "the place of a tile", 0..=u32::MAX)?;
            Some(TileSource::Place(column, row))
        }
        [("pixels", node)] => {
            Some(TileSource::Pixels(read_pixels(reader, node, "the pixels of a tile")?))
        }
        [(_, node)] => {
            let path = reader.text(node, "the picture of a tile")?;
            Some(TileSource::Picture(path.into_owned()))
        }
        [.., (key, node)] => {
            let message = format!("the tile has `{key}` besides `{}`", stated[0].0);
            let hint =
                "its pixels are at a place of the sheet, or in a rectangle of it, or a picture";
            reader.error_with_hint(node.span(), message, Some(hint));
            None
        }
    }
}

/// The part of its cell that a tile fills.
fn read_shape<'a>(reader: &mut Reader<'a, '_>, node: Node<'a>) -> Option<CellShape> {
    let what = "the shape of a tile";
    let fields = reader.fields(node, what, &SHAPE_KEYS)?;
    let stated: Vec<(&str, Node<'a>)> =
        SHAPE_KEYS.into_iter().filter_map(|key| Some((key, fields.get(key)?))).collect();
    let [(key, stated)] = *stated else {
        let hint = "it is `floor` or `ceiling` with two heights, `area` with four edges, or \
                    `corners` with a list of places, all from 0 to 1";
        let message = format!("{what} is stated by {} keys", stated.len());
        reader.error_with_hint(node.span(), message, Some(hint));
        return None;
    };
    let made = match key {
        "floor" => reader.numbers(stated, what).map(|(left, right)| CellShape::floor(left, right)),
        "ceiling" => {
            reader.numbers(stated, what).map(|(left, right)| CellShape::ceiling(left, right))
        }
        "area" => {
            let edges = reader.items(stated, what)?;
            let edges: Option<Vec<f64>> =
                edges.into_iter().map(|edge| reader.number(edge, what)).collect();
            let Ok([left, top, right, bottom]) = <[f64; 4]>::try_from(edges?) else {
                let message = format!("the area of {what} needs four edges");
                let hint = "write its left, upper, right and lower edge, each from 0 to 1";
                reader.error_with_hint(stated.span(), message, Some(hint));
                return None;
            };
            Some(CellShape::area(left, top, right, bottom))
        }
        _ => {
            let corners = reader.items(stated, what)?;
            let corners: Option<Vec<(f64, f64)>> =
                corners.into_iter().map(|corner| reader.numbers(corner, what)).collect();
            Some(CellShape::polygon(corners?))
        }
    };
    match made? {
        Ok(shape) => Some(shape),
        Err(error) => {
            reader.error(stated.span(), format!("{what} cannot be: {error}"));
            None
        }
    }
}

pub(super) fn read_pixels<'a>(
    reader: &mut Reader<'a, '_>,
    node: Node<'a>,
    what: &str,
) -> Option<PixelRect> {
    let fields = reader.fields(node, what, &["at", "size"])?;
    let (at, size) = (reader.required(&fields, "at"), reader.required(&fields, "size"));
    let mut pair = |node, what: &str, least| reader.integers(node, what, least..=MAX_PIXELS);
    let at = at.and_then(|node| pair(node, &format!("the corner of {what}"), 0));
    let size = size.and_then(|node| pair(node, &format!("the size of {what}"), 1));
    let ((x, y), (width, height)) = (at?, size?);
    Some(PixelRect::new(x, y, PixelSize::new(width, height)))
}

fn read_animation<'a>(reader: &mut Reader<'a, '_>, node: Node<'a>) -> Option<Animation> {
    let fields = reader.fields(node, "the animation", &["frames", "ms", "start"])?;
    let frames = reader.required(&fields, "frames")?;
    let tiles = reader.texts(frames, "the frames of an animation", "a frame of an animation")?;
    let ms = reader.required(&fields, "ms")?;
    let time = |reader: &mut Reader<'a, '_>, node| {
        reader.integer(node, "the time of a frame in milliseconds", 1..=u32::MAX)
    };
    let animation = match ms.kind() {
        "a list" => {
            let items = reader.items(ms, "`ms`")?;
            if items.len() != tiles.len() {
                let (times, frames) = (items.len(), tiles.len());
                let message = format!("the animation has {frames} frames, but {times} times");
                let hint = "give each frame a time, or one number for all of them";
                reader.error_with_hint(ms.span(), message, Some(hint));
                return None;
            }
            let times: Option<Vec<u32>> =
                items.into_iter().map(|item| time(reader, item)).collect();
            Animation::new(tiles.into_iter().zip(times?))
        }
        _ => Animation::uniform(tiles, time(reader, ms)?),
    };
    let Some(start) = fields.get("start") else { return Some(animation) };
    let start = if start.is_text() {
        let words =
            [("together", AnimationStart::Together), ("scattered", AnimationStart::Scattered)];
        reader.choice(start, "`start`", &words)?
    } else {
        let what = "the start of an animation";
        let (x_ms, y_ms) = reader.integers(start, what, i32::MIN..=i32::MAX)?;
        AnimationStart::Shifted { x_ms, y_ms }
    };
    Some(animation.with_start(start))
}
