//! Reading tile sets, from files of their own and inline in a map.

mod report;
mod tile;

use self::report::{report_fault, warn_of_idle_shapes};
use self::tile::read_pixels;
use self::tile::{Classes, MAX_PIXELS, read_tile};
use crate::document::formats::TILES_FORMAT;
use crate::document::input::{CachedSet, Files, check_format, decoded, file_problem};
use crate::document::problem::{Problem, Problems, TextPlace};
use crate::document::source::resolved;
use crate::document::syntax::{Fields, Node, Reader, Span, optional, parsed};
use crate::picture::Color;
use crate::tile::{ArtPage, GroundMask, SheetCut};
use crate::units::PixelSize;
use std::cell::OnceCell;
use std::collections::HashMap;
use std::sync::Arc;

use indexmap::IndexMap;

use crate::name_error::did_you_mean;
use crate::quilt::GroundRules;
use crate::tile::{
    Footprint, GroundMaskFault, NamePatternError, TileSet, TileSetBuilder, TileSetError,
    TileSource, TileSpec,
};
use crate::units::WorldVec;

pub(super) use report::warn_of_misfitting_art;

/// Reads one item of a map's `tiles`: the path of a set, or a set itself.
pub(super) fn read_item<'a>(
    reader: &mut Reader<'a, '_>,
    item: Node<'a>,
    map_path: &str,
    ground: &GroundRules,
    files: &mut Files<'_>,
) -> Option<TileSet> {
    if item.is_text() {
        let named = reader.text(item, "a tile set")?;
        return read_file(reader, item.span(), map_path, &named, ground, files);
    }
    let mut classes = Vec::new();
    let set = SetReader::new(map_path, &mut classes, files, None);
    let set = set.read(reader, item, None);
    for (span, message, hint) in unknown_classes(&counted(classes), ground) {
        reader.error_with_hint(*span, message, Some(hint));
    }
    set
}

/// Reads a set from a file of its own, or takes it from the cache.
fn read_file(
    reader: &mut Reader<'_, '_>,
    span: Span,
    map_path: &str,
    named: &str,
    ground: &GroundRules,
    files: &mut Files<'_>,
) -> Option<TileSet> {
    let label = resolved(map_path, named).ok().map(|path| files.source.label(&path));
    let cached = label.as_deref().and_then(|label| files.cache?.set(label, files.decodes));
    let problems = reader.problems();
    if let (Some(label), Some(cached)) = (&label, cached)
        && files.take_pixels(cached.pixels)
    {
        cached.files.iter().for_each(|file| files.note_read(file));
        for warning in &cached.warnings {
            problems.push(warning.clone());
        }
        check_classes(&cached.classes, label, ground, problems);
        return Some(cached.set.in_file(named));
    }
    let (already_read, pixels_left) = (files.read.len(), files.pixels_left);
    let (path, bytes) = files.named(reader, span, map_path, named)?;
    let label = files.source.label(&path);
    let problems = reader.problems();
    let listed = problems.count();
    let text = decoded(bytes, &label, problems)?;
    let mut classes = Vec::new();
    let set = read_text(&text, &path, &label, named, files, problems, &mut classes);
    let place = |span: Span| TextPlace::find(&text, span.start, span.len);
    let classes: Vec<(String, TextPlace, usize)> = counted(classes)
        .into_iter()
        .map(|(class, span, count)| (class, place(span), count))
        .collect();
    let warnings = problems.warnings_since(listed);
    check_classes(&classes, &label, ground, problems);
    let set = set?;
    if let Some(cache) = files.cache {
        let files_of_set = files.read.get(already_read..).unwrap_or_default().to_vec();
        let pixels = pixels_left - files.pixels_left;
        let kept = CachedSet { set: set.clone(), files: files_of_set, pixels, warnings, classes };
        cache.keep_set(&label, files.decodes, kept);
    }
    Some(set)
}

/// Reads a set that no map names, whatever the ground classes that it names.
pub(crate) fn read_alone(
    text: &str,
    path: &str,
    label: &str,
    files: &mut Files<'_>,
    problems: &mut Problems,
) -> Option<TileSet> {
    let file = path.rsplit('/').next().unwrap_or(path);
    read_text(text, path, label, file, files, problems, &mut Vec::new())
}

/// Reads the document of a set that is named so.
fn read_text(
    text: &str,
    path: &str,
    label: &str,
    named: &str,
    files: &mut Files<'_>,
    problems: &mut Problems,
    classes: &mut Classes,
) -> Option<TileSet> {
    let mended = OnceCell::new();
    let tree = parsed(text, &mended, label, problems)?;
    let (mut reader, root) = (Reader::of_text(text, label, problems), tree.root());
    check_format(&mut reader, root, TILES_FORMAT)?;
    let file_name = path.rsplit('/').next().unwrap_or(path);
    let default_name = file_name.split('.').next().map(str::to_owned);
    SetReader::new(path, classes, files, default_name).read(&mut reader, root, Some(named))
}

/// Notes the ground classes of a set that its map does not have.
fn check_classes(
    classes: &[(String, TextPlace, usize)],
    label: &str,
    ground: &GroundRules,
    problems: &mut Problems,
) {
    for (place, message, hint) in unknown_classes(classes, ground) {
        let place = Some(place.clone());
        problems.push(Problem { place, ..file_problem(label, message, Some(hint)) });
    }
}

/// Each class that is unknown, once: the first place where it is named, what is wrong in words, and
/// what may be meant.
fn unknown_classes<'c, P>(
    classes: &'c [(String, P, usize)],
    ground: &GroundRules,
) -> Vec<(&'c P, String, String)> {
    let unknown = classes.iter().filter(|(class, ..)| !ground.has_class(class));
    let problem = |(class, place, count): &'c (String, P, usize)| {
        let more = match count {
            1 => String::new(),
            _ => format!(", which the set names {count} times"),
        };
        let near = ground.class(class).err().map(|error| error.near).unwrap_or_default();
        let listed = || format!("the map states {}", words(ground.classes()));
        let hint = did_you_mean(&near).unwrap_or_else(listed);
        (place, format!("the map has no ground class `{class}`{more}"), hint)
    };
    unknown.map(problem).collect()
}

struct SetReader<'s, 'f> {
    /// The file in which the set stands, to which the paths of its pictures are relative.
    path: &'s str,
    /// The ground classes that it names: whether they are known depends on the map.
    classes: &'s mut Classes,
    files: &'s mut Files<'f>,
    /// The name of a set that states none.
    default_name: Option<String>,
    /// A margin or a gap that is probably missing: where the sheet is cut, what it leaves over, and
    /// what to do.
    missing_cut: Option<(Span, String, &'static str)>,
}

/// Each class once, with the first place where it is named and how often it is.
fn counted(classes: Classes) -> Vec<(String, Span, usize)> {
    let mut found: IndexMap<String, (Span, usize)> = IndexMap::new();
    for (class, span) in classes {
        found.entry(class).or_insert((span, 0)).1 += 1;
    }
    found.into_iter().map(|(class, (span, count))| (class, span, count)).collect()
}

/// The keys of a set.
const SET_KEYS: [&str; 12] = [
    "name",
    "sheet",
    "pictures",
    "names",
    "density",
    "anchor",
    "cell_anchor",
    "offset",
    "palette",
    "ground",
    "ground_mask",
    "tiles",
];

impl<'s, 'f> SetReader<'s, 'f> {
    const fn new(
        path: &'s str,
        classes: &'s mut Classes,
        files: &'s mut Files<'f>,
        default_name: Option<String>,
    ) -> SetReader<'s, 'f> {
        SetReader { path, classes, files, default_name, missing_cut: None }
    }
}

impl SetReader<'_, '_> {
    fn read<'a>(
        mut self,
        reader: &mut Reader<'a, '_>,
        node: Node<'a>,
        file: Option<&str>,
    ) -> Option<TileSet> {
        let errors = reader.errors();
        let mut known = SET_KEYS.to_vec();
        known.extend(file.map_or(&[][..], |_| &["$schema", "format", "version"]));
        let fields = reader.fields(node, "the tile set", &known)?;
        let builder = self.begin(reader, &fields, file)?;
        let (mut builder, spots) = self.read_tiles(reader, &fields, builder)?;
        builder = read_names(reader, &fields, builder)?;
        builder = read_placement(reader, &fields, builder);
        builder = read_palette(reader, &fields, builder)?;
        let mut is_lost = false;
        if let Some(sheet) = fields.get("sheet") {
            match self.read_sheet(reader, sheet) {
                Some((page, cut, file)) => {
                    builder = builder.sheet_page(page, cut).picture_file(file);
                }
                None => is_lost = true,
            }
        }
        if let Some(ground) = fields.get("ground") {
            builder = read_ground_lists(reader, ground, builder, self.classes)?;
        }
        let mut mask = None;
        if let Some(node) = fields.get("ground_mask")
            && let Some((read, label)) = self.read_mask(reader, node)
        {
            builder = builder.ground_mask(read);
            mask = Some(label);
        }
        // Without its sheet, what is wrong with its tiles is not known.
        let faults = if is_lost { Vec::new() } else { builder.faults() };
        let is_in_part = |fault: &TileSetError| {
            matches!(fault, TileSetError::Mask { fault: GroundMaskFault::InPart { .. }, .. })
        };
        let in_part = faults.iter().filter(|fault| is_in_part(fault)).count();
        // A sheet that is cut wrongly is the cause of all that does not fit.
        let (cause, left_over) = match self.missing_cut.take() {
            cut if in_part > 0 => (cut, None),
            cut => (None, cut),
        };
        if let Some((span, message, hint)) = left_over {
            reader.warning(span, message, Some(hint));
        }
        if let Some((span, message, hint)) = &cause {
            let tiles = if in_part == 1 { "1 tile".to_owned() } else { format!("{in_part} tiles") };
            let message = format!("{message}, and the mask covers {tiles} in part only");
            reader.error_with_hint(*span, message, Some(*hint));
        }
        for fault in faults.iter().filter(|fault| cause.is_none() || !is_in_part(fault)) {
            report_fault(reader, &fields, &spots, mask.as_deref(), fault);
        }
        if is_lost || reader.errors() > errors {
            return None;
        }
        let set = builder.build().ok()?;
        warn_of_idle_shapes(reader, &fields, &set);
        Some(set)
    }

    /// A set that has its name, and what its file says of itself.
    fn begin<'a>(
        &self,
        reader: &mut Reader<'a, '_>,
        fields: &Fields<'a>,
        file: Option<&str>,
    ) -> Option<TileSetBuilder> {
        let name = match (fields.get("name"), &self.default_name) {
            (None, Some(name)) => name.clone(),
            _ => {
                let name = reader.required(fields, "name")?;
                reader.text(name, "the name of a tile set")?.into_owned()
            }
        };
        let mut builder = TileSet::builder(name);
        if let Some(file) = file {
            builder = builder.file(file);
        }
        if let Some(schema) = fields.get("$schema") {
            builder = builder.schema(reader.text(schema, "`$schema`")?.as_ref().into());
        }
        Some(if self.files.decodes { builder } else { builder.unseen() })
    }

    /// The tiles that it lists, and its pictures, with the place of each in the document.
    fn read_tiles<'a>(
        &mut self,
        reader: &mut Reader<'a, '_>,
        fields: &Fields<'a>,
        mut builder: TileSetBuilder,
    ) -> Option<(TileSetBuilder, Vec<Node<'a>>)> {
        let (mut specs, mut spots) = (Vec::new(), Vec::new());
        if let Some(tiles) = fields.get("tiles") {
            let items = reader.items(tiles, "`tiles`")?;
            let most = self.files.limits.tiles;
            if items.len() as u64 > most {
                let message = format!("there are more than the {most} tiles allowed");
                reader.error(tiles.start(), message);
                return None;
            }
            for tile in items {
                if let Some(spec) = read_tile(reader, tile, self.classes) {
                    specs.push(spec);
                    spots.push(tile);
                }
            }
        }
        if let Some(pictures) = fields.get("pictures") {
            self.read_pictures(reader, pictures, &mut specs, &mut spots)?;
        }
        let most = self.files.limits.tiles;
        let count =
            |spec: &TileSpec| 1 + u64::from(spec.footprint.map_or(0, Footprint::cell_count));
        if specs.iter().map(count).sum::<u64>() > most {
            let message = format!(
                "with the parts of footprints there are more than the {most} tiles allowed"
            );
            reader.error(fields.get("tiles").unwrap_or(fields.node).start(), message);
            return None;
        }
        for (spec, spot) in specs.iter().zip(&spots) {
            if let TileSource::Picture(path) = &spec.source
                && self.files.decodes
            {
                let own = spot.entries().into_iter().flatten().find(|entry| entry.key == "picture");
                let span = own.map_or(*spot, |entry| entry.value).span();
                match self.files.page(reader, span, self.path, path) {
                    Some(page) => builder = builder.picture_page(path.clone(), page),
                    // That it is not there is said; what else is wrong is looked for all the same.
                    None => builder = builder.unseen(),
                }
            }
        }
        Some((specs.into_iter().fold(builder, TileSetBuilder::tile), spots))
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
            let names = self.files.pictures_in(reader, node.span(), self.path, &folder)?;
            let folder = folder.trim_end_matches('/');
            paths.extend(names.into_iter().map(|name| (format!("{folder}/{name}"), node)));
        } else {
            for item in reader.items(node, "`pictures`")? {
                paths.push((reader.text(item, "the path of a picture")?.into_owned(), item));
            }
        }
        let named = specs.iter().enumerate().filter(|(_, spec)| spec.source == TileSource::Flat);
        let named = named.filter_map(|(at, spec)| Some((spec.name.clone()?, at)));
        // The first of a name counts.
        let mut stated: HashMap<String, usize> = HashMap::new();
        for (name, at) in named {
            stated.entry(name).or_insert(at);
        }
        for (path, spot) in paths {
            let file = path.rsplit('/').next().unwrap_or(&path);
            let name = file.rsplit_once('.').map_or(file, |(stem, _)| stem);
            match stated.remove(name) {
                Some(at) => specs[at].source = TileSource::Picture(path),
                None => {
                    let name = name.to_owned();
                    specs.push(TileSpec::picture(path).with_name(name));
                    spots.push(spot);
                }
            }
        }
        Some(())
    }
}

/// Lists of tiles by the ground class that they have.
fn read_ground_lists<'a>(
    reader: &mut Reader<'a, '_>,
    node: Node<'a>,
    mut builder: TileSetBuilder,
    classes: &mut Classes,
) -> Option<TileSetBuilder> {
    for entry in reader.entries(node, "the ground of a tile set")? {
        classes.push((entry.key.to_string(), entry.key_span()));
        let (what, each) = ("the tiles of a ground class", "a tile of a ground class");
        let tiles = reader.texts(entry.value, what, each)?;
        builder = builder.ground(entry.key, tiles);
    }
    Some(builder)
}

fn words<'n>(names: impl ExactSizeIterator<Item = &'n str>) -> String {
    if names.len() == 0 {
        return "none under `ground`".to_owned();
    }
    names.collect::<Vec<_>>().join(", ")
}

/// The pattern by which tiles are named that have no name.
fn read_names<'a>(
    reader: &mut Reader<'a, '_>,
    fields: &Fields<'a>,
    builder: TileSetBuilder,
) -> Option<TileSetBuilder> {
    let Some(node) = fields.get("names") else { return Some(builder) };
    match reader.text(node, "`names`")?.parse() {
        Ok(pattern) => Some(builder.names(pattern)),
        Err(error) => {
            reader.error(node.span(), NamePatternError::to_string(&error));
            Some(builder)
        }
    }
}

/// The colours that palettes of a map may replace.
fn read_palette<'a>(
    reader: &mut Reader<'a, '_>,
    fields: &Fields<'a>,
    mut builder: TileSetBuilder,
) -> Option<TileSetBuilder> {
    let Some(node) = fields.get("palette") else { return Some(builder) };
    for entry in reader.entries(node, "the palette of a tile set")? {
        let what = format!("the colour `{}` of a tile set", entry.key);
        if let Some(color) = reader.color(entry.value, &what) {
            builder = builder.palette(entry.key, color);
        }
    }
    Some(builder)
}

/// How the pictures of a set stand. What is out of range is a fault of the set.
fn read_placement<'a>(
    reader: &mut Reader<'a, '_>,
    fields: &Fields<'a>,
    mut builder: TileSetBuilder,
) -> TileSetBuilder {
    if let Some(node) = fields.get("density")
        && let Some(pixels) = reader.number(node, "`density`")
    {
        builder = builder.density(pixels);
    }
    if let Some(node) = fields.get("anchor")
        && let Some((x, y)) = reader.numbers(node, "the anchor of a tile set")
    {
        builder = builder.anchor(x, y);
    }
    if let Some(node) = fields.get("cell_anchor")
        && let Some((x, y)) = reader.numbers(node, "the cell anchor of a tile set")
    {
        builder = builder.cell_anchor(x, y);
    }
    if let Some(node) = fields.get("offset")
        && let Some((x, y)) = reader.numbers(node, "the offset of a tile set")
    {
        builder = builder.offset(WorldVec::new(x, y));
    }
    builder
}

/// The margin, the gap, or both that take exactly the pixels which are left over of a sheet beside
/// so many tiles, in words.
fn missing_cut(cut: &SheetCut, size: PixelSize, (columns, rows): (u32, u32)) -> Option<String> {
    if cut.area.is_some() {
        return None;
    }
    let left = |all: u32, count: u32, side: u32| {
        let taken = 2 * u64::from(cut.margin)
            + u64::from(count) * u64::from(side)
            + u64::from(count - 1) * u64::from(cut.gap);
        u64::from(all).checked_sub(taken)
    };
    let x = left(size.width, columns, cut.tile.width)?;
    let y = left(size.height, rows, cut.tile.height)?;
    // More than a tile is another part of the picture.
    if x == 0 && y == 0 || x > u64::from(cut.tile.width) * 2 || y > u64::from(cut.tile.height) * 2 {
        return None;
    }
    let (gaps_x, gaps_y) = (u64::from(columns - 1), u64::from(rows - 1));
    let margin = |px: u64| format!("a `margin` of {}", u64::from(cut.margin) + px);
    let gap = |px: u64| format!("a `gap` of {}", u64::from(cut.gap) + px);
    // The gap by which both directions leave the same for a margin.
    // One of more than a quarter of a tile is unlikely.
    let most = u64::from(cut.tile.width.min(cut.tile.height)) / 4;
    let gaps = (0..=most).filter(|px| gaps_x * px <= x && gaps_y * px <= y);
    let fits = |px: &u64| {
        let (x, y) = (x - gaps_x * px, y - gaps_y * px);
        x == y && x % 2 == 0 && x / 2 <= 2 * most
    };
    let mut fitting = gaps.filter(fits).map(|px| (px, (x - gaps_x * px) / 2));
    let (px, edge) = match (fitting.clone().find(|(_, edge)| *edge == 0), fitting.next()) {
        (Some(no_margin), _) => no_margin,
        (None, first) => first?,
    };
    match (px, edge) {
        (0, 0) => None,
        (0, edge) => Some(margin(edge)),
        (px, 0) => Some(gap(px)),
        (px, edge) => Some(format!("{} and {}", margin(edge), gap(px))),
    }
}

impl SetReader<'_, '_> {
    /// The pixels of the sheet, how it is cut, and its file.
    pub(super) fn read_sheet<'a>(
        &mut self,
        reader: &mut Reader<'a, '_>,
        node: Node<'a>,
    ) -> Option<(Option<Arc<ArtPage>>, Option<SheetCut>, String)> {
        let known = ["picture", "tile", "margin", "gap", "area", "columns", "rows"];
        let fields = reader.fields(node, "the sheet", &known)?;
        let mut count = |key: &str, least: u32| {
            reader.integer(fields.get(key)?, &format!("`{key}`"), least..=MAX_PIXELS)
        };
        let (margin, gap) = (count("margin", 0), count("gap", 0));
        let (columns, rows) = (count("columns", 1), count("rows", 1));
        let area = fields.get("area");
        let area = optional(area, |area| read_pixels(reader, area, "the area of a sheet"))?;
        let size = optional(fields.get("tile"), |node| {
            reader.integers(node, "the size of a tile", 1..=MAX_PIXELS)
        })?;
        let picture = reader.required(&fields, "picture")?;
        let file = reader.text(picture, "the picture of a sheet")?.into_owned();
        let page = match self.files.decodes {
            true => Some(self.files.page(reader, picture.span(), self.path, &file)?),
            false => None,
        };
        let cut = size.map(|(width, height)| {
            let (margin, gap) = (margin.unwrap_or(0), gap.unwrap_or(0));
            SheetCut { tile: PixelSize::new(width, height), margin, gap, area, columns, rows }
        });
        if let (Some(cut), Some(page)) = (&cut, &page) {
            self.check_cut(reader, &fields, cut, page.size())?;
        }
        Some((page, cut, file))
    }

    fn check_cut<'a>(
        &mut self,
        reader: &mut Reader<'a, '_>,
        fields: &Fields<'a>,
        cut: &SheetCut,
        size: PixelSize,
    ) -> Option<()> {
        // A sheet that cannot be cut is a fault of the set.
        let Ok(grid) = cut.grid(size) else { return Some(()) };
        let most = self.files.limits.tiles;
        if u64::from(grid.columns()) * u64::from(grid.rows()) > most {
            reader.error(
                fields.node.span(),
                format!("the sheet has more than the {most} tiles allowed"),
            );
            return None;
        }
        if grid.has_left_over() {
            let (columns, rows, tile) = (grid.columns(), grid.rows(), cut.tile);
            let size = cut.area.map_or(size, |area| area.size);
            let message = format!(
                "the sheet of {size} leaves pixels over when cut into {columns} × {rows} tiles of {tile}"
            );
            let hint = match missing_cut(cut, size, (columns, rows)) {
                Some(missing) => format!("{missing} would leave none over"),
                None => "check tile, margin and gap, or state columns and rows if it is meant"
                    .to_owned(),
            };
            reader.warning(fields.get("tile").unwrap_or(fields.node).span(), message, Some(hint));
        } else if let Some(missing) = missing_cut(cut, size, (grid.columns(), grid.rows())) {
            let message = format!(
                "cut into {} × {} tiles, the sheet leaves exactly {missing} over",
                grid.columns(),
                grid.rows()
            );
            let hint = "state it, or the `area` of the picture that is the sheet";
            let node = fields.get("tile").unwrap_or(fields.node);
            self.missing_cut = Some((node.span(), message, hint));
        }
        Some(())
    }

    /// A mask of ground classes, with the label of its file.
    pub(super) fn read_mask<'a>(
        &mut self,
        reader: &mut Reader<'a, '_>,
        node: Node<'a>,
    ) -> Option<(GroundMask, String)> {
        let fields = reader.fields(node, "the ground mask", &["picture", "legend", "tolerance"])?;
        let (picture, legend) =
            (reader.required(&fields, "picture"), reader.required(&fields, "legend"));
        let mut classes = Vec::new();
        for entry in reader.entries(legend?, "the legend of the ground mask")? {
            let class = reader.text(entry.value, "a ground class")?;
            self.classes.push((class.to_string(), entry.value.span()));
            match entry.key.parse::<Color>() {
                Ok(color) => classes.push((color, class.into_owned())),
                Err(error) => reader.error(entry.key_span(), error.to_string()),
            }
        }
        let named = reader.text(picture?, "the picture of the ground mask")?;
        let (path, picture) = self.files.picture(reader, picture?.span(), self.path, &named)?;
        let tolerance = fields.get("tolerance");
        let tolerance =
            optional(tolerance, |node| reader.integer(node, "`tolerance`", 0..=255_u8))?;
        let mask = GroundMask::new(picture, classes).with_tolerance(tolerance.unwrap_or(0));
        Some((mask, self.files.source.label(&path)))
    }
}
