//! The encodings of cells while they are written: what each section of a layer is, and what all share.

use rustc_hash::FxHashMap;
use serde_json::{Map, Value, json};

use super::error::SaveError;
use super::layout::Laid;
use super::spelling::{Spelling, WrittenRect, each_row};
use crate::document::syntax::Packing;
use crate::picture::{Color, Picture};
use crate::quilt::Layer;
use crate::tile::{Cell, CellNotation, TileNumber, TileTable};
use crate::units::{CellRect, PixelSize};

/// An encoding in which the cells of a layer are written.
///
/// All of them hold every cell of a map whose tiles have names. [`CellEncoding::Numbers`] holds only
/// tiles that a tile set of the map has.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Hash)]
#[non_exhaustive]
pub enum CellEncoding {
    /// The most readable encoding that fits: rows, or packed for layers that are too large for anyone
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

/// The entries of an object in their order.
pub(super) type Entries = Vec<(String, Laid)>;

pub(super) fn entry(key: &str, value: impl Into<Laid>) -> (String, Laid) {
    (key.to_owned(), value.into())
}

/// A section as it is written.
pub(super) struct Section {
    pub(super) before: Entries,
    pub(super) key: &'static str,
    pub(super) content: Content,
    pub(super) after: Entries,
}

pub(super) enum Content {
    /// The lines of a list, which can stand in the document or in a file.
    Lines(Vec<String>),
    /// The bytes of a PNG.
    Picture(Vec<u8>),
    /// A packed block.
    Block(Vec<u8>),
}

/// An encoding while it is written, with what its sections share.
pub(super) struct CellEncoder<'t> {
    encoding: Encoding<'t>,
    /// The bytes that the lines may still take.
    room: Room,
}

/// How many bytes lines may take, and whether there were more.
struct Room {
    most: u64,
    taken: u64,
}

impl Room {
    /// Keeps a line, unless there are too many already.
    fn keep(&mut self, lines: &mut Vec<String>, line: String) {
        self.taken += line.len() as u64 + 1;
        if self.taken <= self.most {
            lines.push(line);
        }
    }
}

enum Encoding<'t> {
    Rows(Spelling<'t>),
    Numbers(NumberWriter<'t>),
    Table {
        tiles: &'t TileTable,
        fields: FxHashMap<Cell, String>,
    },
    Picture(ColorWriter<'t>),
    Packed {
        tiles: &'t TileTable,
        listed: Vec<TileNumber>,
        numbers: FxHashMap<TileNumber, TileNumber>,
    },
}

impl<'t> CellEncoder<'t> {
    /// An encoding for the cells of a layer, whose lines take at most so many bytes.
    pub(super) fn new(
        encoding: CellEncoding,
        layer: &Layer,
        tiles: &'t TileTable,
        most_bytes: u64,
    ) -> CellEncoder<'t> {
        let encoding = match encoding {
            CellEncoding::Rows | CellEncoding::Readable => {
                Encoding::Rows(Spelling::new(layer, tiles))
            }
            CellEncoding::Numbers => Encoding::Numbers(NumberWriter::new(tiles)),
            CellEncoding::Table => Encoding::Table { tiles, fields: FxHashMap::default() },
            CellEncoding::Picture => Encoding::Picture(ColorWriter::new(tiles)),
            CellEncoding::Packed => {
                Encoding::Packed { tiles, listed: Vec::new(), numbers: FxHashMap::default() }
            }
        };
        CellEncoder { encoding, room: Room { most: most_bytes, taken: 0 } }
    }

    /// A section of the layer.
    pub(super) fn section(
        &mut self,
        layer: &Layer,
        section: impl Into<WrittenRect>,
    ) -> Result<Section, SaveError> {
        let rect = section.into();
        let size = || entry("size", json!([rect.rect.width(), rect.rect.height()]));
        let plain = |key, content| Section { before: Vec::new(), key, content, after: Vec::new() };
        let room = &mut self.room;
        let section = match &mut self.encoding {
            Encoding::Rows(spelling) => {
                let mut rows = Vec::new();
                each_row(layer, spelling.tiles, rect, |row| {
                    room.keep(&mut rows, spelling.text(row))
                })?;
                plain("rows", Content::Lines(quoted(&rows)))
            }
            Encoding::Numbers(writer) => writer.section(layer, rect, room)?,
            Encoding::Table { tiles, fields } => {
                let mut lines = Vec::new();
                each_row(layer, tiles, rect, |row| {
                    room.keep(&mut lines, table_line(row, tiles, fields));
                })?;
                plain("table", Content::Lines(quoted(&lines)))
            }
            Encoding::Picture(writer) => {
                let picture = writer.picture(layer, rect)?;
                plain("picture", Content::Picture(encoded(layer, &picture)?))
            }
            Encoding::Packed { tiles, listed, numbers } => {
                // Row by row, so that no more memory is taken than the packed block has.
                let (mut packing, mut failed) = (Packing::new(), None);
                let mut bytes = Vec::new();
                each_row(layer, tiles, rect, |row| {
                    for part in row.chunks(1 << 14) {
                        bytes.clear();
                        for &cell in part {
                            let value = listed_value(cell, listed, numbers);
                            bytes.extend(value.to_bits().to_le_bytes());
                        }
                        failed = failed.take().or(packing.add(&bytes).err());
                    }
                })?;
                let block = failed.map_or_else(|| packing.end(), Err);
                let block = block.map_err(|source| SaveError::Packing {
                    layer: layer.name().to_owned(),
                    source,
                })?;
                Section {
                    before: vec![size()],
                    key: "packed",
                    content: Content::Block(block),
                    after: Vec::new(),
                }
            }
        };
        if room.taken > room.most {
            let what = format!("layer `{}`", layer.name());
            return Err(SaveError::TooLargeFile { what, most: room.most });
        }
        Ok(section)
    }

    /// Lines of the document as a file of their own: its extension and bytes.
    pub(super) fn file(&self, lines: &[String]) -> (&'static str, Vec<u8>) {
        if let Encoding::Numbers(_) = self.encoding {
            return ("json", format!("[\n{}\n]\n", lines.join(",\n")).into_bytes());
        }
        let texts = lines.iter().map(|line| serde_json::from_str(line).unwrap_or_default());
        let text = texts.map(|line: String| line + "\n").collect::<String>();
        (if let Encoding::Table { .. } = self.encoding { "csv" } else { "txt" }, text.into_bytes())
    }

    /// Gives the entries that all sections share, once they are written.
    pub(super) fn shared(self) -> Entries {
        match self.encoding {
            Encoding::Rows(spelling) => vec![entry("legend", spelling.into_legend())],
            Encoding::Numbers(writer) => writer.shared(),
            Encoding::Table { .. } => Vec::new(),
            Encoding::Picture(writer) => vec![entry("legend", writer.into_legend())],
            Encoding::Packed { tiles, listed, .. } => {
                let names = listed.into_iter().filter_map(|tile| tiles.name_of(tile));
                vec![entry("tiles", Laid::texts(names.map(ToString::to_string).collect()))]
            }
        }
    }
}

/// Some cells of a layer packed: what stands beside the block in the document, and the block.
pub(crate) fn packed_section(
    layer: &Layer,
    tiles: &TileTable,
    rect: CellRect,
    most_bytes: u64,
) -> Result<(Entries, Vec<u8>), SaveError> {
    let mut encoding = CellEncoder::new(CellEncoding::Packed, layer, tiles, most_bytes);
    let Section { before, content, .. } = encoding.section(layer, rect)?;
    let block = match content {
        Content::Block(block) => block,
        Content::Lines(_) | Content::Picture(_) => Vec::new(),
    };
    let mut entries = before;
    entries.extend(encoding.shared());
    Ok((entries, block))
}

/// Texts as JSON.
fn quoted(texts: &[String]) -> Vec<String> {
    texts.iter().map(|text| Value::from(&**text).to_string()).collect()
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
pub(crate) fn field(notation: &CellNotation) -> String {
    let text = notation.to_string();
    let is_plain = !text.contains([',', '"']) && text.parse::<i64>().is_err();
    if is_plain { text } else { format!("\"{}\"", text.replace('"', "\"\"")) }
}

/// The cell with the number of its tile in a list that grows.
fn listed_value(
    cell: Cell,
    listed: &mut Vec<TileNumber>,
    numbers: &mut FxHashMap<TileNumber, TileNumber>,
) -> Cell {
    let Some(tile) = cell.number() else { return Cell::EMPTY };
    let number = *numbers.entry(tile).or_insert_with(|| {
        let number = TileNumber::from_index(listed.len() as u32).unwrap_or(tile);
        listed.push(tile);
        number
    });
    cell.with_number(number)
}

/// Numbers of tiles, counted through the sets of a map.
pub(super) struct NumberWriter<'t> {
    tiles: &'t TileTable,
    numbers: FxHashMap<TileNumber, i64>,
}

impl<'t> NumberWriter<'t> {
    fn new(tiles: &'t TileTable) -> NumberWriter<'t> {
        let sets = tiles.sets().filter_map(|set| tiles.numbers_of(set.name()));
        let ids = sets.flat_map(|ids| ids.iter().copied().collect::<Vec<_>>());
        NumberWriter { tiles, numbers: ids.zip(1..).collect() }
    }

    fn section(
        &self,
        layer: &Layer,
        rect: WrittenRect,
        room: &mut Room,
    ) -> Result<Section, SaveError> {
        let (mut lines, mut unnumbered) = (Vec::new(), None);
        let mut marks = MarkRows::default();
        each_row(layer, self.tiles, rect, |row| {
            let numbers = row.iter().map(|cell| match cell.number() {
                None => 0,
                Some(tile) => self.numbers.get(&tile).copied().unwrap_or_else(|| {
                    unnumbered.get_or_insert(tile);
                    0
                }),
            });
            room.keep(&mut lines, joined(numbers));
            marks.push(row);
        })?;
        if let Some(tile) = unnumbered {
            let tile = self.tiles.name_of(tile).map(ToString::to_string).unwrap_or_default();
            return Err(SaveError::NoNumber { layer: layer.name().to_owned(), tile });
        }
        Ok(Section {
            before: vec![entry("size", json!([rect.rect.width(), rect.rect.height()]))],
            key: "numbers",
            content: Content::Lines(lines),
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
    let mut line = String::new();
    // Neighbours are often equal.
    let mut last = (0, "0".to_owned());
    for (index, number) in numbers.enumerate() {
        if number != last.0 {
            last = (number, number.to_string());
        }
        if index > 0 {
            line.push(',');
        }
        line.push_str(&last.1);
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
pub(super) struct ColorWriter<'t> {
    tiles: &'t TileTable,
    colors: FxHashMap<Cell, Color>,
    order: Vec<(Color, Cell)>,
}

impl<'t> ColorWriter<'t> {
    fn new(tiles: &'t TileTable) -> ColorWriter<'t> {
        let colors = FxHashMap::from_iter([(Cell::EMPTY, Color::CLEAR)]);
        ColorWriter { tiles, colors, order: Vec::new() }
    }

    fn picture(&mut self, layer: &Layer, rect: WrittenRect) -> Result<Picture, SaveError> {
        let mut bytes = Vec::new();
        each_row(layer, self.tiles, rect, |row| {
            bytes.extend(row.iter().flat_map(|&cell| self.color(cell).to_bytes()));
        })?;
        let size = PixelSize::new(rect.rect.width(), rect.rect.height());
        let picture = Picture::from_bytes(size, bytes);
        Ok(picture.unwrap_or_else(|_| Picture::filled(size, Color::CLEAR)))
    }

    /// The colour of a cell: that of its tile if no other cell has it, else one near to it.
    fn color(&mut self, cell: Cell) -> Color {
        if let Some(known) = self.colors.get(&cell) {
            return *known;
        }
        let name = || Color::of_name(&self.tiles.notation(cell).to_string());
        let wanted = self
            .tiles
            .tile_of(cell)
            .and_then(|tile| self.tiles.mean_color(tile))
            .unwrap_or_else(name);
        let is_taken = |color: &Color| self.order.iter().any(|(held, _)| held == color);
        let color = near_colors(wanted).find(|color| !is_taken(color));
        let color = color.unwrap_or(wanted);
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

/// All solid colours, those near to one first, and itself the first of all.
pub(crate) fn near_colors(color: Color) -> impl Iterator<Item = Color> {
    near(color).chain(all_colors())
}

/// Solid colours at growing distances from one, that one first.
fn near(Color { r, g, b, .. }: Color) -> impl Iterator<Item = Color> {
    (0..=255_i16).flat_map(move |distance| {
        let ways = [0, distance, -distance];
        let channel = |from: u8, way: i16| u8::try_from(i16::from(from) + way).ok();
        ways.into_iter().flat_map(move |red| {
            ways.into_iter().flat_map(move |green| {
                ways.into_iter().filter_map(move |blue| {
                    Some(Color::rgb(channel(r, red)?, channel(g, green)?, channel(b, blue)?))
                })
            })
        })
    })
}

/// All solid colours.
fn all_colors() -> impl Iterator<Item = Color> {
    (0..1_u32 << 24).map(|rgb| {
        let [_, r, g, b] = rgb.to_be_bytes();
        Color::rgb(r, g, b)
    })
}

/// The bytes of a PNG.
#[cfg(feature = "png")]
fn encoded(layer: &Layer, picture: &Picture) -> Result<Vec<u8>, SaveError> {
    let wrong = |source| SaveError::Picture { layer: layer.name().to_owned(), source };
    picture.to_png().map_err(wrong)
}

/// Without an encoder no picture can be written.
#[cfg(not(feature = "png"))]
fn encoded(layer: &Layer, _picture: &Picture) -> Result<Vec<u8>, SaveError> {
    Err(SaveError::NoPictures { layer: layer.name().to_owned() })
}
