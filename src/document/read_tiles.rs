//! Reading tile sets, from files of their own and inline in a map.

use super::TILES_FORMAT;
use super::files::{Files, check_format, decoded};
use super::reader::{Fields, Reader};
use super::tree::{Node, Span};
use crate::near::did_you_mean;
use crate::picture::Color;
use crate::quilt::GroundRules;
use crate::tile::{SheetCut, TileFault, TileSet, TileSetBuilder, TileSetError, TileSpec};
use crate::units::PixelSize;

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
    /// The file in which the set stands, to which its picture's path is relative.
    path: &'s str,
    ground: &'s GroundRules,
    files: &'s mut Files<'f>,
    /// The name of a set that states none.
    default_name: Option<String>,
}

impl SetReader<'_, '_> {
    fn read<'a>(
        self,
        reader: &mut Reader<'a, '_>,
        node: Node<'a>,
        file: Option<&str>,
    ) -> Option<TileSet> {
        let errors = reader.errors();
        let known: &[&str] = match file {
            Some(_) => &["format", "version", "name", "sheet", "tiles"],
            None => &["name", "sheet", "tiles"],
        };
        let fields = reader.fields(node, "the tile set", known)?;
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
        let mut spots = Vec::new();
        if let Some(tiles) = fields.get("tiles") {
            for tile in reader.items(tiles, "`tiles`")? {
                if let Some(spec) = read_tile(reader, tile, self.ground) {
                    builder = builder.tile(spec);
                    spots.push(tile);
                }
            }
        }
        if let Some(sheet) = fields.get("sheet") {
            builder = read_sheet(reader, sheet, builder, self.path, self.files)?;
        }
        for fault in builder.faults() {
            report_fault(reader, &fields, &spots, &fault);
        }
        if reader.errors() > errors {
            return None;
        }
        builder.build().ok()
    }
}

fn report_fault(
    reader: &mut Reader<'_, '_>,
    fields: &Fields<'_>,
    spots: &[Node<'_>],
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
        TileSetError::Tile { index, fault, .. } => {
            let node = spots.get(*index).copied();
            let spelled = node.and_then(|node| {
                let key = match fault {
                    TileFault::Name(_) | TileFault::RepeatedName(_) => "name",
                    _ => "at",
                };
                let entries = node.entries()?;
                entries.into_iter().find(|entry| entry.key == key).map(|entry| entry.value)
            });
            (spelled.or(node), format!("tile: {fault}"), None)
        }
    };
    let span = spot(reader, node);
    reader.error_with_hint(span, message, hint);
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
    let known = ["at", "name", "ground", "color", "data"];
    let fields = reader.fields(node, "the tile", &known)?;
    let mut spec = TileSpec::default();
    if let Some(at) = fields.get("at") {
        let most = u32::MAX.into();
        let (column, row) = reader.integers(at, "the place of a tile", 0, most)?;
        spec.place = Some((u32::try_from(column).ok()?, u32::try_from(row).ok()?));
    }
    if let Some(name) = fields.get("name") {
        spec.name = Some(reader.text(name, "the name of a tile")?.into_owned());
    }
    if let Some(node) = fields.get("ground") {
        let class = reader.text(node, "the ground of a tile")?;
        if let Err(error) = ground.class(&class) {
            let span = reader.span(node);
            let listed = || format!("the map states {}", words(ground.classes()));
            let hint = did_you_mean(&error.near).unwrap_or_else(listed);
            let message = format!("the map has no ground class `{class}`");
            reader.error_with_hint(span, message, Some(hint));
        }
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
    if let Some(data) = fields.get("data") {
        spec.data = reader.data(data, "the data of a tile")?;
    }
    Some(spec)
}

fn words<'n>(names: impl ExactSizeIterator<Item = &'n str>) -> String {
    if names.len() == 0 {
        return "none under `ground`".to_owned();
    }
    names.collect::<Vec<_>>().join(", ")
}

fn read_sheet<'a>(
    reader: &mut Reader<'a, '_>,
    node: Node<'a>,
    builder: TileSetBuilder,
    path: &str,
    files: &mut Files<'_>,
) -> Option<TileSetBuilder> {
    let known = ["picture", "tile", "margin", "gap", "columns", "rows"];
    let fields = reader.fields(node, "the sheet", &known)?;
    let most = i64::from(u32::MAX) >> 8;
    let count = |reader: &mut Reader<'a, '_>, key: &str, least: i64| {
        let node = fields.get(key)?;
        let number = reader.integer(node, &format!("`{key}`"), least, most)?;
        u32::try_from(number).ok()
    };
    let (margin, gap) = (count(reader, "margin", 0), count(reader, "gap", 0));
    let (columns, rows) = (count(reader, "columns", 1), count(reader, "rows", 1));
    let size = reader.required(&fields, "tile");
    let size = size.and_then(|node| reader.integers(node, "the size of a tile", 1, most));
    let picture = reader.required(&fields, "picture");
    let picture = picture.and_then(|node| {
        let file = reader.text(node, "the picture of a sheet")?;
        let span = reader.span(node);
        let (_, picture) = files.picture(reader, span, path, &file)?;
        Some((file.into_owned(), picture))
    });
    let ((file, picture), (width, height)) = (picture?, size?);
    let tile = PixelSize::new(u32::try_from(width).ok()?, u32::try_from(height).ok()?);
    let cut = SheetCut { tile, margin: margin.unwrap_or(0), gap: gap.unwrap_or(0), columns, rows };
    if let Ok(grid) = cut.grid(picture.size()) {
        if u64::from(grid.columns()) * u64::from(grid.rows()) > files.limits.tiles {
            let span = reader.span(node);
            let message =
                format!("the sheet has more than the {} tiles allowed", files.limits.tiles);
            reader.error(span, message);
            return None;
        }
        if grid.has_left_over() {
            let span = reader.span(size_node(&fields, node));
            let (size, columns, rows) = (picture.size(), grid.columns(), grid.rows());
            let message = format!(
                "the sheet of {size} leaves pixels over when cut into {columns} × {rows} tiles of {tile}"
            );
            let hint = "check tile, margin and gap, or state columns and rows if it is meant";
            reader.warning(span, message, Some(hint.to_owned()));
        }
    }
    Some(builder.sheet(&picture, cut).picture_file(file))
}

fn size_node<'a>(fields: &Fields<'a>, sheet: Node<'a>) -> Node<'a> {
    fields.get("tile").unwrap_or(sheet)
}
