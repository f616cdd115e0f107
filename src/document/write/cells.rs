//! The cells of a layer in each of the forms that documents have.

use base64::Engine;
use base64::engine::general_purpose::STANDARD;
use rustc_hash::FxHashMap;
use serde_json::{Map, Value, json};

use super::layout::Laid;
use super::spelling::{Spelling, extent};
use super::{MOST_TEXT_CELLS, MapWriter, SaveError, map};
use crate::document::compression::Compression;
use crate::picture::{Color, Picture};
use crate::plane::RunValues;
use crate::quilt::{CellLegend, Layer};
use crate::tile::{Cell, CellNotation, TileId, TileTable};
use crate::units::{CellPos, CellRect, PixelSize};

/// A form in which the cells of a layer are written.
///
/// All of them hold every cell of a map whose tiles have names. [`CellForm::Numbers`] holds only
/// tiles that a tile set of the map has.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Hash)]
#[non_exhaustive]
pub enum CellForm {
    /// The most readable form that fits: rows, or packed for layers that are too large for anyone
    /// to read (above 2²⁰ cells, or 1,000 different ones) and were not loaded as rows.
    #[default]
    Readable,
    /// Rows of characters with a legend.
    Rows,
    /// A flat list of numbers, with the numbers of each set's tiles; turn, raise and palette in
    /// rows of marks beside it.
    Numbers,
    /// A table of comma-separated values, with each cell in its notation.
    Table,
    /// A picture with a pixel for each cell and a legend of colours, always in a file of its own.
    Picture,
    /// Little-endian 32-bit values, compressed as an LZ4 frame.
    Packed,
}

/// The most cells of a layer that are readable.
const MOST_READABLE_CELLS: u64 = 1 << 20;
/// The most different cells of a layer that are readable.
const MOST_READABLE_VALUES: usize = 1000;
/// A layer that spans no more cells is written as one piece, however few of them it has.
const MOST_SMALL_CELLS: u64 = 1 << 16;
/// How many times the cells that its chunks span a layer may span and still be one piece.
const MOST_SPARSE: u64 = 8;

/// Writes the cells of all layers of a map.
pub(super) struct CellWriter<'w, 'q> {
    map: &'w MapWriter<'q>,
    /// The map's own file, and then those that were made so far.
    files: &'w mut Vec<(String, Vec<u8>)>,
}

/// The entries of an object in their order.
type Entries = Vec<(String, Laid)>;

fn entry(key: &str, value: impl Into<Laid>) -> (String, Laid) {
    (key.to_owned(), value.into())
}

impl<'w, 'q> CellWriter<'w, 'q> {
    pub(super) fn new(
        map: &'w MapWriter<'q>,
        files: &'w mut Vec<(String, Vec<u8>)>,
    ) -> CellWriter<'w, 'q> {
        CellWriter { map, files }
    }

    /// The first cell of a layer, and its `cells`.
    pub(super) fn layer(&mut self, layer: &Layer) -> Result<(CellPos, Laid), SaveError> {
        let pieces = pieces(layer);
        let form = match self.map.form {
            CellForm::Readable => readable_form(layer, &pieces)?,
            // A picture has pixels, and numbers are those of a set.
            CellForm::Picture if extent(layer).is_empty() => CellForm::Rows,
            CellForm::Numbers if self.map.quilt.tiles().sets().len() == 0 => CellForm::Rows,
            stated => stated,
        };
        let count: u64 = pieces.iter().map(|piece| piece.cell_count()).sum();
        let is_text = !matches!(form, CellForm::Packed | CellForm::Picture);
        if is_text && count > MOST_TEXT_CELLS {
            let rect = extent(layer);
            return Err(SaveError::TooLargeForText { layer: layer.name().to_owned(), rect });
        }
        let mut form = FormWriter::new(form, layer, self.map.quilt.tiles());
        if let [piece] = *pieces {
            let own = self.piece(&mut form, layer, piece, "")?;
            let mut entries = form.shared();
            entries.extend(own);
            return Ok((piece.corner(), Laid::Object(entries)));
        }
        let mut written = Vec::with_capacity(pieces.len());
        for (&piece, number) in pieces.iter().zip(1..) {
            let mut entries = vec![entry("at", map::cell_value(piece.corner()))];
            entries.extend(self.piece(&mut form, layer, piece, &format!("-{number}"))?);
            written.push(Laid::Object(entries));
        }
        let mut entries = form.shared();
        entries.push(entry("pieces", Laid::List(written)));
        Ok((CellPos::ORIGIN, Laid::Object(entries)))
    }

    /// What is written for one piece, in the document or in a file that it names.
    fn piece(
        &mut self,
        form: &mut FormWriter<'_>,
        layer: &Layer,
        piece: CellRect,
        number: &str,
    ) -> Result<Entries, SaveError> {
        let Piece { before, key, content, after } = form.piece(layer, piece)?;
        let mut entries = before;
        entries.push(match content {
            Content::Inline(laid) if !self.map.apart => entry(key, laid),
            Content::Inline(Laid::Lines(lines)) => {
                let (extension, bytes) = form.file(&lines);
                entry(key, self.file(layer, number, extension, bytes))
            }
            Content::Inline(laid) => entry(key, laid),
            Content::Picture(bytes) => entry(key, self.file(layer, number, "png", bytes)),
            Content::Block(bytes) => {
                let (place, value) = if self.map.apart {
                    ("file", self.file(layer, number, "lz4", bytes))
                } else {
                    ("base64", STANDARD.encode(bytes))
                };
                let block = vec![entry("compression", "lz4"), entry(place, value)];
                entry(key, Laid::Object(block))
            }
        });
        entries.extend(after);
        Ok(entries)
    }

    /// Adds a file beside the map; gives its name.
    fn file(&mut self, layer: &Layer, number: &str, extension: &str, bytes: Vec<u8>) -> String {
        let plain = |c: char| if c.is_alphanumeric() || matches!(c, '-' | '_') { c } else { '_' };
        let layer: String = layer.name().chars().map(plain).collect();
        let stem = self.files.first().map_or("map", |(stem, _)| stem);
        let base = format!("{stem}-{layer}{number}");
        let is_taken = |name: &String| self.files.iter().any(|(held, _)| held == name);
        let name = (1..)
            .map(|n| match n {
                1 => format!("{base}.{extension}"),
                _ => format!("{base}_{n}.{extension}"),
            })
            .find(|name| !is_taken(name))
            .unwrap_or_default();
        self.files.push((name.clone(), bytes));
        name
    }
}

/// The rectangles in which a layer is written: those that its rows had when it was loaded, else
/// one around everything, else one a chunk where that would be large and mostly empty.
fn pieces(layer: &Layer) -> Vec<CellRect> {
    let plane = layer.cells();
    let chunks = plane.chunks_in_use().into_iter();
    let mut used: Vec<CellRect> = chunks.map(|pos| plane.chunk(pos).bounds(pos)).collect();
    used.retain(|rect| !rect.is_empty());
    let area = |rects: &[CellRect]| -> u64 { rects.iter().map(|rect| rect.cell_count()).sum() };
    let known = layer.legend().map(CellLegend::rects).unwrap_or_default();
    if known.len() > 1 {
        let is_covered = |rect: &CellRect| {
            let inside: Vec<CellRect> = known.iter().map(|k| k.intersection(*rect)).collect();
            area(&inside) >= rect.cell_count()
        };
        if used.iter().all(is_covered) {
            return known.to_vec();
        }
    }
    let whole = extent(layer);
    let most = area(&used).saturating_mul(MOST_SPARSE).max(MOST_SMALL_CELLS);
    let is_dense = whole.cell_count() <= most;
    if is_dense || used.len() < 2 { vec![whole] } else { used }
}

/// The form that is most readable for a layer.
fn readable_form(layer: &Layer, pieces: &[CellRect]) -> Result<CellForm, SaveError> {
    let count: u64 = pieces.iter().map(|piece| piece.cell_count()).sum();
    if layer.legend().is_some() && count <= MOST_TEXT_CELLS {
        return Ok(CellForm::Rows);
    }
    let mut different = rustc_hash::FxHashSet::default();
    if count <= MOST_READABLE_CELLS {
        for &piece in pieces {
            each_row(layer, piece, |row| different.extend(row.iter().copied()))?;
        }
    }
    let is_readable = count <= MOST_READABLE_CELLS && different.len() <= MOST_READABLE_VALUES;
    Ok(if is_readable { CellForm::Rows } else { CellForm::Packed })
}

/// Calls a function with the cells of each row of a rectangle, from the top.
pub(super) fn each_row(
    layer: &Layer,
    rect: CellRect,
    mut take: impl FnMut(&[Cell]),
) -> Result<(), SaveError> {
    let (mut row, mut scratch) = (Vec::with_capacity(rect.width() as usize), Vec::new());
    let mut is_here = true;
    for y in rect.top()..rect.bottom() {
        row.clear();
        let line = CellRect::new(CellPos::new(rect.left(), y), rect.width(), 1);
        layer.cells().read_runs(line, &mut scratch, |run| match run.values {
            RunValues::Uniform(cell) => {
                row.extend(std::iter::repeat_n(cell, run.cells.width() as usize));
            }
            RunValues::Slice(cells) => row.extend_from_slice(cells),
            RunValues::Absent(_) => is_here = false,
        });
        take(&row);
    }
    if is_here { Ok(()) } else { Err(SaveError::NotLoaded { layer: layer.name().to_owned() }) }
}

/// One piece as it is written.
struct Piece {
    before: Entries,
    key: &'static str,
    content: Content,
    after: Entries,
}

enum Content {
    /// What can stand in the document, or as lines in a file.
    Inline(Laid),
    /// The bytes of a PNG.
    Picture(Vec<u8>),
    /// A packed block.
    Block(Vec<u8>),
}

/// A form while it is written, with what its pieces share.
enum FormWriter<'t> {
    Rows(Spelling<'t>),
    Numbers(NumberWriter<'t>),
    Table { tiles: &'t TileTable, fields: FxHashMap<Cell, String> },
    Picture(ColorWriter<'t>),
    Packed { tiles: &'t TileTable, listed: Vec<TileId>, numbers: FxHashMap<TileId, TileId> },
}

impl<'t> FormWriter<'t> {
    fn new(form: CellForm, layer: &Layer, tiles: &'t TileTable) -> FormWriter<'t> {
        match form {
            CellForm::Rows | CellForm::Readable => FormWriter::Rows(Spelling::new(layer, tiles)),
            CellForm::Numbers => FormWriter::Numbers(NumberWriter::new(tiles)),
            CellForm::Table => FormWriter::Table { tiles, fields: FxHashMap::default() },
            CellForm::Picture => FormWriter::Picture(ColorWriter::new(tiles)),
            CellForm::Packed => {
                FormWriter::Packed { tiles, listed: Vec::new(), numbers: FxHashMap::default() }
            }
        }
    }

    /// A piece of the layer.
    fn piece(&mut self, layer: &Layer, rect: CellRect) -> Result<Piece, SaveError> {
        let size = || entry("size", json!([rect.width(), rect.height()]));
        let plain = |key, content| Piece { before: Vec::new(), key, content, after: Vec::new() };
        Ok(match self {
            FormWriter::Rows(spelling) => {
                let mut rows = Vec::new();
                each_row(layer, rect, |row| rows.push(spelling.text(row)))?;
                plain("rows", Content::Inline(Laid::texts(rows)))
            }
            FormWriter::Numbers(writer) => writer.piece(layer, rect)?,
            FormWriter::Table { tiles, fields } => {
                let mut lines = Vec::new();
                each_row(layer, rect, |row| lines.push(table_line(row, tiles, fields)))?;
                plain("table", Content::Inline(Laid::texts(lines)))
            }
            FormWriter::Picture(writer) => {
                plain("picture", Content::Picture(writer.png(layer, rect)?))
            }
            FormWriter::Packed { listed, numbers, .. } => {
                let mut bytes = Vec::with_capacity(rect.cell_count() as usize * 4);
                each_row(layer, rect, |row| {
                    for &cell in row {
                        let value = listed_value(cell, listed, numbers);
                        bytes.extend(value.to_bits().to_le_bytes());
                    }
                })?;
                let block = Compression::Lz4.pack(&bytes).map_err(|source| SaveError::Packing {
                    layer: layer.name().to_owned(),
                    source,
                })?;
                Piece {
                    before: vec![size()],
                    key: "packed",
                    content: Content::Block(block),
                    after: Vec::new(),
                }
            }
        })
    }

    /// Lines of the document as a file of their own: its extension and bytes.
    fn file(&self, lines: &[String]) -> (&'static str, Vec<u8>) {
        if let FormWriter::Numbers(_) = self {
            return ("json", format!("[\n{}\n]\n", lines.join(",\n")).into_bytes());
        }
        let texts = lines.iter().map(|line| serde_json::from_str(line).unwrap_or_default());
        let text = texts.map(|line: String| line + "\n").collect::<String>();
        (if let FormWriter::Table { .. } = self { "csv" } else { "txt" }, text.into_bytes())
    }

    /// What all pieces share, once they are written.
    fn shared(self) -> Entries {
        match self {
            FormWriter::Rows(spelling) => vec![entry("legend", spelling.into_legend())],
            FormWriter::Numbers(writer) => writer.shared(),
            FormWriter::Table { .. } => Vec::new(),
            FormWriter::Picture(writer) => vec![entry("legend", writer.into_legend())],
            FormWriter::Packed { tiles, listed, .. } => {
                let names = listed.into_iter().filter_map(|tile| tiles.name(tile));
                vec![entry("tiles", Laid::texts(names.map(ToString::to_string).collect()))]
            }
        }
    }
}

/// A row as a line of comma-separated values.
fn table_line(row: &[Cell], tiles: &TileTable, fields: &mut FxHashMap<Cell, String>) -> String {
    let mut line = String::with_capacity(row.len() * 8);
    for (index, &cell) in row.iter().enumerate() {
        if index > 0 {
            line.push(',');
        }
        if !cell.is_empty() {
            line.push_str(fields.entry(cell).or_insert_with(|| field(&tiles.notation(cell))));
        }
    }
    // A line of nothing at all would be no line to a reader of tables.
    if line.is_empty() { CellNotation::EMPTY_WORD.to_owned() } else { line }
}

/// A field as RFC 4180 has it.
fn field(notation: &CellNotation) -> String {
    let text = notation.to_string();
    let is_plain = !text.contains([',', '"']) && text.parse::<i64>().is_err();
    if is_plain { text } else { format!("\"{}\"", text.replace('"', "\"\"")) }
}

/// The cell with the number of its tile in a list that grows.
fn listed_value(
    cell: Cell,
    listed: &mut Vec<TileId>,
    numbers: &mut FxHashMap<TileId, TileId>,
) -> Cell {
    let Some(tile) = cell.tile() else { return Cell::EMPTY };
    let number = *numbers.entry(tile).or_insert_with(|| {
        let number = TileId::from_index(listed.len() as u32).unwrap_or(tile);
        listed.push(tile);
        number
    });
    cell.with_tile(number)
}

/// Numbers of tiles, counted through the sets of a map.
struct NumberWriter<'t> {
    tiles: &'t TileTable,
    numbers: FxHashMap<TileId, i64>,
}

impl<'t> NumberWriter<'t> {
    fn new(tiles: &'t TileTable) -> NumberWriter<'t> {
        let sets = tiles.sets().filter_map(|set| tiles.ids_of(set.name()));
        let ids = sets.flat_map(|ids| ids.iter().copied().collect::<Vec<_>>());
        NumberWriter { tiles, numbers: ids.zip(1..).collect() }
    }

    fn piece(&self, layer: &Layer, rect: CellRect) -> Result<Piece, SaveError> {
        let (mut lines, mut unnumbered) = (Vec::new(), None);
        let mut marks = MarkRows::default();
        each_row(layer, rect, |row| {
            let numbers = row.iter().map(|cell| match cell.tile() {
                None => 0,
                Some(tile) => self.numbers.get(&tile).copied().unwrap_or_else(|| {
                    unnumbered.get_or_insert(tile);
                    0
                }),
            });
            lines.push(joined(numbers));
            marks.push(row);
        })?;
        if let Some(tile) = unnumbered {
            let tile = self.tiles.name(tile).map(ToString::to_string).unwrap_or_default();
            return Err(SaveError::NoNumber { layer: layer.name().to_owned(), tile });
        }
        Ok(Piece {
            before: vec![entry("size", json!([rect.width(), rect.height()]))],
            key: "numbers",
            content: Content::Inline(Laid::Lines(lines)),
            after: marks.into_entries(),
        })
    }

    fn shared(&self) -> Entries {
        let mut base = 1;
        let mut sets = Vec::new();
        for set in self.tiles.sets() {
            let mut value = Map::new();
            value.insert("set".into(), set.name().into());
            value.insert("base".into(), base.into());
            value.extend(set.sheet_columns().map(|columns| ("columns".to_owned(), columns.into())));
            base += set.tiles().len() as u64;
            sets.push(Laid::Value(value.into()));
        }
        vec![entry("sets", Laid::List(sets)), entry("empty", 0)]
    }
}

/// Numbers with commas between them.
fn joined(numbers: impl Iterator<Item = i64>) -> String {
    use std::fmt::Write;
    let mut line = String::new();
    for (index, number) in numbers.enumerate() {
        let comma = if index > 0 { "," } else { "" };
        // Writing to a text cannot fail.
        write!(line, "{comma}{number}").ok();
    }
    line
}

/// Rows of characters for what cells have besides their tiles.
#[derive(Default)]
struct MarkRows {
    characters: Vec<(String, char)>,
    rows: Vec<String>,
}

impl MarkRows {
    fn push(&mut self, row: &[Cell]) {
        let text = row.iter().map(|cell| {
            let marks = cell.marks().to_string();
            if marks.is_empty() { ' ' } else { self.character(marks) }
        });
        let text = text.collect();
        self.rows.push(text);
    }

    fn character(&mut self, marks: String) -> char {
        if let Some((_, known)) = self.characters.iter().find(|(held, _)| *held == marks) {
            return *known;
        }
        let mut free = ('a'..='z').chain('A'..='Z').chain('\u{a1}'..='\u{ffff}');
        let new = free.nth(self.characters.len()).unwrap_or(' ');
        self.characters.push((marks, new));
        new
    }

    fn into_entries(self) -> Entries {
        if self.characters.is_empty() {
            return Vec::new();
        }
        let legend: Map<String, Value> =
            self.characters.into_iter().map(|(marks, c)| (c.to_string(), marks.into())).collect();
        let rows = Laid::texts(self.rows);
        vec![entry("marks", Laid::Object(vec![entry("legend", legend), entry("rows", rows)]))]
    }
}

/// Colours for cells.
struct ColorWriter<'t> {
    tiles: &'t TileTable,
    colors: FxHashMap<Cell, Color>,
    order: Vec<(Color, Cell)>,
}

impl<'t> ColorWriter<'t> {
    fn new(tiles: &'t TileTable) -> ColorWriter<'t> {
        let colors = FxHashMap::from_iter([(Cell::EMPTY, Color::CLEAR)]);
        ColorWriter { tiles, colors, order: Vec::new() }
    }

    #[cfg(feature = "png")]
    fn png(&mut self, layer: &Layer, rect: CellRect) -> Result<Vec<u8>, SaveError> {
        let mut bytes = Vec::new();
        each_row(layer, rect, |row| {
            bytes.extend(row.iter().flat_map(|&cell| self.color(cell).to_bytes()));
        })?;
        let size = PixelSize::new(rect.width(), rect.height());
        let wrong = |source| SaveError::Picture { layer: layer.name().to_owned(), source };
        Picture::from_bytes(size, bytes)
            .unwrap_or_else(|_| Picture::filled(size, Color::CLEAR))
            .to_png()
            .map_err(wrong)
    }

    /// Without an encoder no picture can be written.
    #[cfg(not(feature = "png"))]
    fn png(&mut self, layer: &Layer, _rect: CellRect) -> Result<Vec<u8>, SaveError> {
        Err(SaveError::NoPictures { layer: layer.name().to_owned() })
    }

    /// The colour of a cell: that of its tile if no other cell has it, else one near to it.
    fn color(&mut self, cell: Cell) -> Color {
        if let Some(known) = self.colors.get(&cell) {
            return *known;
        }
        let notation = self.tiles.notation(cell).to_string();
        let flat = cell.tile().and_then(|tile| self.tiles.tile(tile)?.spec().color);
        let wanted = flat.map_or_else(|| Color::of_name(&notation), |c| Color { a: 255, ..c });
        let is_taken = |color: &Color| self.order.iter().any(|(held, _)| held == color);
        let start = u32::from_be_bytes([0, wanted.r, wanted.g, wanted.b]);
        // 40503 is odd, so that all 2²⁴ colours come once.
        let tries = (0..1_u32 << 24).map(|n| start.wrapping_add(n.wrapping_mul(40_503)));
        let colors = tries.map(|rgb| {
            let [_, r, g, b] = rgb.to_be_bytes();
            Color::rgb(r, g, b)
        });
        let color = colors.into_iter().find(|color| !is_taken(color)).unwrap_or(wanted);
        self.colors.insert(cell, color);
        self.order.push((color, cell));
        color
    }

    fn into_legend(self) -> Map<String, Value> {
        let spelled = |(color, cell): (Color, Cell)| {
            (color.to_string(), self.tiles.notation(cell).to_string().into())
        };
        self.order.iter().copied().map(spelled).collect()
    }
}
