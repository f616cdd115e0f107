//! Reading tile sets, from files of their own and inline in a map.

use super::TILES_FORMAT;
use super::files::{Files, check_format, decoded, file_problem};
use super::problem::Problem;
use super::reader::{Fields, Reader};
use super::tree::{Node, Span};
use crate::lattice::Lattice;
use crate::near::did_you_mean;
use crate::picture::Color;
use crate::quilt::GroundRules;
use crate::tile::{
    Animation, AnimationStart, Fit, GroundMask, GroundMaskFault, NamePatternError, SheetCut,
    StandingFault, StatedStanding, Tile, TileFault, TileSet, TileSetBuilder, TileSetError,
    TileSource, TileSpec,
};
use crate::units::{PixelRect, PixelSize, WorldVec};

/// Reads one item of a map's `tiles`: the path of a set, or a set itself.
pub(super) fn read_item<'a>(
    reader: &mut Reader<'a, '_>,
    item: Node<'a>,
    map_path: &str,
    ground: &GroundRules,
    files: &mut Files<'_>,
) -> Option<TileSet> {
    if !item.is_text() {
        let set = SetReader { path: map_path, ground, files, default_name: None };
        return set.read(reader, item, None);
    }
    let named = reader.text(item, "a tile set")?;
    let span = reader.span(item);
    let (path, bytes) = files.named(reader, span, map_path, &named)?;
    let label = files.source.label(&path);
    let text = decoded(bytes, &label, reader.problems())?;
    let (mut reader, root) = Reader::open(&text, &label, reader.problems())?;
    check_format(&mut reader, root, TILES_FORMAT)?;
    let file_name = path.rsplit('/').next().unwrap_or(&path);
    let default_name = file_name.split('.').next().map(str::to_owned);
    let set = SetReader { path: &path, ground, files, default_name };
    set.read(&mut reader, root, Some(&named))
}

struct SetReader<'s, 'f> {
    /// The file in which the set stands, to which the paths of its pictures are relative.
    path: &'s str,
    ground: &'s GroundRules,
    files: &'s mut Files<'f>,
    /// The name of a set that states none.
    default_name: Option<String>,
}

/// The keys of a set.
const SET_KEYS: [&str; 10] = [
    "name",
    "sheet",
    "pictures",
    "names",
    "pixels_per_unit",
    "anchor",
    "offset",
    "ground",
    "ground_mask",
    "tiles",
];

/// The keys of a tile.
const TILE_KEYS: [&str; 11] = [
    "at",
    "pixels",
    "picture",
    "name",
    "ground",
    "color",
    "anchor",
    "offset",
    "animation",
    "variants",
    "data",
];

impl SetReader<'_, '_> {
    fn read<'a>(
        mut self,
        reader: &mut Reader<'a, '_>,
        node: Node<'a>,
        file: Option<&str>,
    ) -> Option<TileSet> {
        let errors = reader.errors();
        let mut known = SET_KEYS.to_vec();
        known.extend(file.map_or(&[][..], |_| &["format", "version"]));
        let fields = reader.fields(node, "the tile set", &known)?;
        let name = match (fields.get("name"), &self.default_name) {
            (None, Some(name)) => name.clone(),
            _ => {
                let name = reader.required(&fields, "name")?;
                reader.text(name, "the name of a tile set")?.into_owned()
            }
        };
        let mut builder = TileSet::builder(name);
        if let Some(file) = file {
            builder = builder.file(file);
        }
        if !self.files.decodes() {
            builder = builder.unseen();
        }
        let (mut specs, mut spots) = (Vec::new(), Vec::new());
        if let Some(tiles) = fields.get("tiles") {
            for tile in reader.items(tiles, "`tiles`")? {
                if let Some(spec) = read_tile(reader, tile, self.ground) {
                    specs.push(spec);
                    spots.push(tile);
                }
            }
        }
        if let Some(pictures) = fields.get("pictures") {
            self.read_pictures(reader, pictures, &mut specs, &mut spots)?;
        }
        for (spec, spot) in specs.iter().zip(&spots) {
            if let TileSource::Picture(path) = &spec.source
                && self.files.decodes()
            {
                let own = spot.entries().into_iter().flatten().find(|entry| entry.key == "picture");
                let span = reader.span(own.map_or(*spot, |entry| entry.value));
                let page = self.files.page(reader, span, self.path, path);
                builder = builder.picture_page(path.clone(), page?);
            }
        }
        builder = specs.into_iter().fold(builder, |builder, spec| builder.tile(spec));
        if let Some(pattern) = fields.get("names") {
            let text = reader.text(pattern, "`names`")?;
            match text.parse() {
                Ok(pattern) => builder = builder.names(pattern),
                Err(error) => {
                    let span = reader.span(pattern);
                    reader.error(span, NamePatternError::to_string(&error));
                }
            }
        }
        builder = read_standing(reader, &fields, builder);
        if let Some(sheet) = fields.get("sheet") {
            builder = self.read_sheet(reader, sheet, builder)?;
        }
        if let Some(ground) = fields.get("ground") {
            builder = read_ground_lists(reader, ground, builder, self.ground)?;
        }
        let mut mask = None;
        if let Some(node) = fields.get("ground_mask") {
            let (read, label) = self.read_mask(reader, node)?;
            builder = builder.ground_mask(read);
            mask = Some(label);
        }
        for fault in builder.faults() {
            report_fault(reader, &fields, &spots, mask.as_deref(), &fault);
        }
        if reader.errors() > errors {
            return None;
        }
        builder.build().ok()
    }

    /// Tiles that are pictures of their own: a list of paths, or a folder of them. Each is named
    /// like its file; what is stated of a tile with that name holds for it.
    fn read_pictures<'a>(
        &mut self,
        reader: &mut Reader<'a, '_>,
        node: Node<'a>,
        specs: &mut Vec<TileSpec>,
        spots: &mut Vec<Node<'a>>,
    ) -> Option<()> {
        let mut paths: Vec<(String, Node<'a>)> = Vec::new();
        if node.is_text() {
            let folder = reader.text(node, "`pictures`")?;
            let span = reader.span(node);
            let names = self.files.pictures_in(reader, span, self.path, &folder)?;
            let folder = folder.trim_end_matches('/');
            paths.extend(names.into_iter().map(|name| (format!("{folder}/{name}"), node)));
        } else {
            for item in reader.items(node, "`pictures`")? {
                paths.push((reader.text(item, "the path of a picture")?.into_owned(), item));
            }
        }
        for (path, spot) in paths {
            let file = path.rsplit('/').next().unwrap_or(&path);
            let name = file.rsplit_once('.').map_or(file, |(stem, _)| stem);
            let is_it = |spec: &&mut TileSpec| {
                spec.name.as_deref() == Some(name) && spec.source == TileSource::Flat
            };
            match specs.iter_mut().find(is_it) {
                Some(stated) => stated.source = TileSource::Picture(path),
                None => {
                    let name = name.to_owned();
                    specs.push(TileSpec::picture(path).name(name));
                    spots.push(spot);
                }
            }
        }
        Some(())
    }

    fn read_sheet<'a>(
        &mut self,
        reader: &mut Reader<'a, '_>,
        node: Node<'a>,
        builder: TileSetBuilder,
    ) -> Option<TileSetBuilder> {
        let known = ["picture", "tile", "margin", "gap", "area", "columns", "rows"];
        let fields = reader.fields(node, "the sheet", &known)?;
        let most = i64::from(u32::MAX) >> 8;
        let count = |reader: &mut Reader<'a, '_>, key: &str, least: i64| {
            let node = fields.get(key)?;
            let number = reader.integer(node, &format!("`{key}`"), least, most)?;
            u32::try_from(number).ok()
        };
        let (margin, gap) = (count(reader, "margin", 0), count(reader, "gap", 0));
        let (columns, rows) = (count(reader, "columns", 1), count(reader, "rows", 1));
        let area = match fields.get("area") {
            Some(area) => Some(read_pixels(reader, area, "the area of a sheet")?),
            None => None,
        };
        let size = match fields.get("tile") {
            Some(node) => Some(reader.integers(node, "the size of a tile", 1, most)?),
            None => None,
        };
        let picture = reader.required(&fields, "picture")?;
        let file = reader.text(picture, "the picture of a sheet")?.into_owned();
        let span = reader.span(picture);
        let page = match self.files.decodes() {
            true => Some(self.files.page(reader, span, self.path, &file)?),
            false => None,
        };
        let cut = size.and_then(|(width, height)| {
            let tile = PixelSize::new(u32::try_from(width).ok()?, u32::try_from(height).ok()?);
            let (margin, gap) = (margin.unwrap_or(0), gap.unwrap_or(0));
            Some(SheetCut { tile, margin, gap, area, columns, rows })
        });
        if let (Some(cut), Some(page)) = (&cut, &page) {
            self.check_cut(reader, &fields, cut, page.size())?;
        }
        Some(builder.sheet_page(page, cut).picture_file(file))
    }

    fn check_cut<'a>(
        &self,
        reader: &mut Reader<'a, '_>,
        fields: &Fields<'a>,
        cut: &SheetCut,
        size: PixelSize,
    ) -> Option<()> {
        // A sheet that cannot be cut is a fault of the set.
        let Ok(grid) = cut.grid(size) else { return Some(()) };
        let most = self.files.limits.tiles;
        if u64::from(grid.columns()) * u64::from(grid.rows()) > most {
            let span = reader.span(fields.node);
            reader.error(span, format!("the sheet has more than the {most} tiles allowed"));
            return None;
        }
        if grid.has_left_over() {
            let span = reader.span(fields.get("tile").unwrap_or(fields.node));
            let (columns, rows, tile) = (grid.columns(), grid.rows(), cut.tile);
            let size = cut.area.map_or(size, |area| area.size);
            let message = format!(
                "the sheet of {size} leaves pixels over when cut into {columns} × {rows} tiles of {tile}"
            );
            let hint = "check tile, margin and gap, or state columns and rows if it is meant";
            reader.warning(span, message, Some(hint.to_owned()));
        }
        Some(())
    }

    /// A mask of ground classes, with the label of its file.
    fn read_mask<'a>(
        &mut self,
        reader: &mut Reader<'a, '_>,
        node: Node<'a>,
    ) -> Option<(GroundMask, String)> {
        let fields = reader.fields(node, "the ground mask", &["picture", "legend"])?;
        let (picture, legend) =
            (reader.required(&fields, "picture"), reader.required(&fields, "legend"));
        let mut classes = Vec::new();
        for entry in reader.entries(legend?, "the legend of the ground mask")? {
            let span = reader.key_span(&entry);
            let class = reader.text(entry.value, "a ground class")?;
            check_class(reader, entry.value, &class, self.ground);
            match entry.key.parse::<Color>() {
                Ok(color) => classes.push((color, class.into_owned())),
                Err(error) => reader.error(span, error.to_string()),
            }
        }
        let named = reader.text(picture?, "the picture of the ground mask")?;
        let span = reader.span(picture?);
        let (path, picture) = self.files.picture(reader, span, self.path, &named)?;
        Some((GroundMask::new(picture, classes), self.files.source.label(&path)))
    }
}

fn report_fault(
    reader: &mut Reader<'_, '_>,
    fields: &Fields<'_>,
    spots: &[Node<'_>],
    mask: Option<&str>,
    fault: &TileSetError,
) {
    let spot = |reader: &Reader<'_, '_>, node: Option<Node<'_>>| {
        let node = node.unwrap_or(fields.node);
        let span = reader.span(node);
        if node.kind() == "a text" { span } else { Span { len: 1, ..span } }
    };
    let (node, message, hint) = match fault {
        TileSetError::Name(cause) => (fields.get("name"), cause.to_string(), None),
        TileSetError::Sheet { source, .. } => {
            let hint = "tile is the size of one tile in pixels, margin the pixels around all tiles, gap those between two";
            (fields.get("sheet"), source.to_string(), Some(hint.to_owned()))
        }
        TileSetError::Empty(set) => {
            let hint = "name its tiles under `tiles`, or give it a `sheet`";
            (None, format!("tile set `{set}` has no tiles"), Some(hint.to_owned()))
        }
        TileSetError::Standing { fault, .. } => {
            let key = match fault {
                StandingFault::PixelsPerUnit(_) => "pixels_per_unit",
                StandingFault::Anchor(..) => "anchor",
                StandingFault::Offset(..) => "offset",
            };
            (fields.get(key), fault.to_string().replacen("have", "the pictures have", 1), None)
        }
        TileSetError::GroundTile { .. } => (fields.get("ground"), fault.to_string(), None),
        TileSetError::PatternName { .. } => (fields.get("names"), fault.to_string(), None),
        TileSetError::Mask { fault, .. } => {
            report_mask_fault(reader, fields, mask.unwrap_or_default(), fault);
            return;
        }
        TileSetError::Tile { index, fault, .. } => {
            let node = spots.get(*index).copied();
            let spelled = node.and_then(|node| {
                let entries = node.entries()?;
                let keys = keys_of(fault);
                entries.into_iter().find(|entry| keys.contains(&&*entry.key)).map(|e| e.value)
            });
            (spelled.or(node), format!("tile: {fault}"), None)
        }
    };
    let span = spot(reader, node);
    reader.error_with_hint(span, message, hint);
}

/// The keys of a tile that a fault is about.
fn keys_of(fault: &TileFault) -> &'static [&'static str] {
    match fault {
        TileFault::Name(_) | TileFault::RepeatedName(_) => &["name"],
        TileFault::PixelsWithoutSheet | TileFault::OutsidePicture { .. } => &["pixels"],
        TileFault::NoPicture(_) => &["picture"],
        TileFault::Standing(StandingFault::Offset(..)) => &["offset"],
        TileFault::Standing(_) => &["anchor"],
        TileFault::NoFrames | TileFault::FrameTime(_) => &["animation"],
        TileFault::UnknownTile(_) => &["animation", "variants"],
        TileFault::NoWeight => &["variants"],
        _ => &["at"],
    }
}

/// A fault of a mask is one of its picture.
fn report_mask_fault(
    reader: &mut Reader<'_, '_>,
    fields: &Fields<'_>,
    label: &str,
    fault: &GroundMaskFault,
) {
    let (pixel, hint) = match fault {
        GroundMaskFault::UnknownColor { x, y, color, .. } => {
            (Some((*x, *y)), format!("add \"{color}\" to the legend of the mask"))
        }
        GroundMaskFault::InPart { at, .. } => {
            (Some(*at), "paint more than half of the tile, or nothing of it".to_owned())
        }
        _ => (None, "a mask is painted over the picture of the sheet, pixel by pixel".to_owned()),
    };
    if pixel.is_none() {
        let node = fields.get("ground_mask").unwrap_or(fields.node);
        let span = Span { len: 1, ..reader.span(node) };
        reader.error_with_hint(span, fault.to_string(), Some(hint));
        return;
    }
    let problem = Problem { pixel, ..file_problem(label, fault.to_string(), Some(hint)) };
    reader.problems().push(problem);
}

/// Lists of tiles by the ground class that they have.
fn read_ground_lists<'a>(
    reader: &mut Reader<'a, '_>,
    node: Node<'a>,
    mut builder: TileSetBuilder,
    ground: &GroundRules,
) -> Option<TileSetBuilder> {
    for entry in reader.entries(node, "the ground of a tile set")? {
        let span = reader.key_span(&entry);
        check_class_at(reader, span, &entry.key, ground);
        let mut tiles = Vec::new();
        for tile in reader.items(entry.value, "the tiles of a ground class")? {
            tiles.push(reader.text(tile, "a tile of a ground class")?.into_owned());
        }
        builder = builder.ground(&*entry.key, tiles);
    }
    Some(builder)
}

fn check_class<'a>(reader: &mut Reader<'a, '_>, node: Node<'a>, class: &str, ground: &GroundRules) {
    let span = reader.span(node);
    check_class_at(reader, span, class, ground);
}

fn check_class_at(reader: &mut Reader<'_, '_>, span: Span, class: &str, ground: &GroundRules) {
    if let Err(error) = ground.class(class) {
        let listed = || format!("the map states {}", words(ground.classes()));
        let hint = did_you_mean(&error.near).unwrap_or_else(listed);
        let message = format!("the map has no ground class `{class}`");
        reader.error_with_hint(span, message, Some(hint));
    }
}

fn words<'n>(names: impl ExactSizeIterator<Item = &'n str>) -> String {
    if names.len() == 0 {
        return "none under `ground`".to_owned();
    }
    names.collect::<Vec<_>>().join(", ")
}

/// How the pictures of a set stand. What is out of range is a fault of the set.
fn read_standing<'a>(
    reader: &mut Reader<'a, '_>,
    fields: &Fields<'a>,
    mut builder: TileSetBuilder,
) -> TileSetBuilder {
    if let Some(node) = fields.get("pixels_per_unit")
        && let Some(pixels) = reader.number(node, "`pixels_per_unit`")
    {
        builder = builder.pixels_per_unit(pixels);
    }
    if let Some(node) = fields.get("anchor")
        && let Some((x, y)) = reader.numbers(node, "the anchor of a tile set")
    {
        builder = builder.anchor(x, y);
    }
    if let Some(node) = fields.get("offset")
        && let Some((x, y)) = reader.numbers(node, "the offset of a tile set")
    {
        builder = builder.offset(WorldVec::new(x, y));
    }
    builder
}

/// Reads what is stated of a tile: an object, or only its name.
fn read_tile<'a>(
    reader: &mut Reader<'a, '_>,
    node: Node<'a>,
    ground: &GroundRules,
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
        check_class(reader, node, &class, ground);
        spec.ground = Some(class.into_owned());
    }
    if let Some(node) = fields.get("color") {
        let color = reader.text(node, "the colour of a tile")?;
        match color.parse::<Color>() {
            Ok(color) => spec.color = Some(color),
            Err(error) => {
                let span = reader.span(node);
                reader.error(span, error.to_string());
            }
        }
    }
    if let Some(node) = fields.get("anchor") {
        spec.anchor = Some(reader.numbers(node, "the anchor of a tile")?);
    }
    if let Some(node) = fields.get("offset") {
        let (x, y) = reader.numbers(node, "the offset of a tile")?;
        spec.offset = Some(WorldVec::new(x, y));
    }
    if let Some(node) = fields.get("animation") {
        spec.animation = Some(read_animation(reader, node)?);
    }
    if let Some(node) = fields.get("variants") {
        for entry in reader.entries(node, "the variants of a tile")? {
            let what = format!("the weight of variant `{}`", entry.key);
            let weight = reader.integer(entry.value, &what, 0, u32::MAX.into())?;
            spec.variants.push((entry.key.into_owned(), u32::try_from(weight).ok()?));
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
            let most = u32::MAX.into();
            let (column, row) = reader.integers(node, "the place of a tile", 0, most)?;
            Some(TileSource::Place(u32::try_from(column).ok()?, u32::try_from(row).ok()?))
        }
        [("pixels", node)] => {
            Some(TileSource::Pixels(read_pixels(reader, node, "the pixels of a tile")?))
        }
        [(_, node)] => {
            let path = reader.text(node, "the picture of a tile")?;
            Some(TileSource::Picture(path.into_owned()))
        }
        [.., (key, node)] => {
            let span = reader.span(node);
            let message = format!("the tile has `{key}` besides `{}`", stated[0].0);
            let hint =
                "its pixels are at a place of the sheet, or in a rectangle of it, or a picture";
            reader.error_with_hint(span, message, Some(hint.to_owned()));
            None
        }
    }
}

fn read_pixels<'a>(reader: &mut Reader<'a, '_>, node: Node<'a>, what: &str) -> Option<PixelRect> {
    let fields = reader.fields(node, what, &["at", "size"])?;
    let (at, size) = (reader.required(&fields, "at"), reader.required(&fields, "size"));
    let most = i64::from(u32::MAX) >> 8;
    let at = at.and_then(|node| reader.integers(node, &format!("the corner of {what}"), 0, most));
    let size = size.and_then(|node| reader.integers(node, &format!("the size of {what}"), 1, most));
    let ((x, y), (width, height)) = (at?, size?);
    let size = PixelSize::new(u32::try_from(width).ok()?, u32::try_from(height).ok()?);
    Some(PixelRect::new(u32::try_from(x).ok()?, u32::try_from(y).ok()?, size))
}

fn read_animation<'a>(reader: &mut Reader<'a, '_>, node: Node<'a>) -> Option<Animation> {
    let fields = reader.fields(node, "the animation", &["frames", "ms", "start"])?;
    let frames = reader.required(&fields, "frames")?;
    let mut tiles = Vec::new();
    for frame in reader.items(frames, "the frames of an animation")? {
        tiles.push(reader.text(frame, "a frame of an animation")?.into_owned());
    }
    let ms = reader.required(&fields, "ms")?;
    let time = |reader: &mut Reader<'a, '_>, node| {
        let time =
            reader.integer(node, "the time of a frame in milliseconds", 1, u32::MAX.into())?;
        u32::try_from(time).ok()
    };
    let animation = match ms.kind() {
        "a list" => {
            let items = reader.items(ms, "`ms`")?;
            if items.len() != tiles.len() {
                let span = reader.span(ms);
                let (times, frames) = (items.len(), tiles.len());
                let message = format!("the animation has {frames} frames, but {times} times");
                let hint = "give each frame a time, or one number for all of them".to_owned();
                reader.error_with_hint(span, message, Some(hint));
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
        let (from, to) = (i32::MIN.into(), i32::MAX.into());
        let (x, y) = reader.integers(start, "the start of an animation", from, to)?;
        let (x_ms, y_ms) = (i32::try_from(x).ok()?, i32::try_from(y).ok()?);
        AnimationStart::Shifted { x_ms, y_ms }
    };
    Some(animation.start(start))
}

/// Warns of pictures that are larger than their cells, where nothing says that this is meant.
pub(super) fn warn_of_large_art(
    reader: &mut Reader<'_, '_>,
    span: Span,
    set: &TileSet,
    lattice: &Lattice,
) {
    let stated = set.stated_standing();
    if stated != StatedStanding::default() {
        return;
    }
    let cell = (lattice.cell_width(), lattice.cell_height());
    let outline = |tile: &Tile| {
        let is_said = tile.spec().anchor.is_some() || tile.spec().offset.is_some();
        let Fit::Standing(standing) = tile.art().fit else { return None };
        let outline = set.page().outline(tile.art().source).filter(|_| !is_said)?;
        let (width, height) = standing.size(outline.size);
        (width > cell.0 || height > cell.1).then(|| (tile.key().clone(), outline.size))
    };
    let mut large = set.tiles().iter().filter_map(outline);
    let Some((key, size)) = large.next() else { return };
    let more = match large.count() {
        0 => String::new(),
        more => format!(" (and {more} more of the set)"),
    };
    let message = format!(
        "what is not clear of tile `{}/{key}` measures {size}{more}, but a cell {} × {} units",
        set.name(),
        cell.0,
        cell.1
    );
    let hint = "state an `anchor` in the set if it is meant to stand out of its cell, or `pixels_per_unit` if it is drawn larger";
    reader.warning(span, message, Some(hint.to_owned()));
}
