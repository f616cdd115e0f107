//! Packed cells: little-endian 32-bit values, row by row from the top, mostly compressed.

use base64::engine::general_purpose::STANDARD;
use base64::{DecodeError, Engine};

use super::cell::CellSpelling;
use super::grid::{Grid, Sink, translate};
use crate::document::syntax::{Compression, Node, Reader, Span, UnpackError, optional};
use crate::tile::{Cell, NumberedTiles, TileNumber};
use crate::units::{CellPos, CellRect};

/// Reads the packed block of a grid.
pub(crate) fn read<'a>(
    reader: &mut Reader<'a, '_>,
    grid: &mut Grid<'_, 'a, '_, '_>,
    spelling: &mut CellSpelling<'_>,
    sink: &mut Sink<'_, Cell>,
) -> Option<CellRect> {
    let node = reader.required(grid.fields, "packed")?;
    let size = reader.required(grid.fields, "size");
    let tiles = optional(grid.get("tiles"), |tiles| read_tiles(reader, tiles, spelling))?;
    if tiles.is_some() == spelling.numbers().is_some() {
        let message = format!("{} must have one of `tiles`, `set` and `sets`", grid.what);
        let hint = "`tiles` lists the names that the packed values number from 1; `set` or `sets` say that they are plain numbers of tiles";
        reader.error_with_hint(grid.fields.node.start(), message, Some(hint));
        return None;
    }
    size?;
    let (_, (width, height)) = grid.stated_size(reader)?;
    let rect = grid.admit(reader, (width, height))?;
    let (packed, compression, place) = packed_bytes(reader, grid, node)?;
    let wanted = rect.cell_count() * 4;
    let limit = grid.source.files.limits.unpacked_bytes;
    if wanted > limit {
        let message =
            format!("{} would unpack to {wanted} bytes, more than the {limit} allowed", grid.what);
        reader.error(place, message);
        return None;
    }
    let meaning = match (&tiles, spelling.numbers()) {
        (None, Some(numbers)) => Meaning::Numbered(numbers),
        (tiles, _) => Meaning::Listed(tiles.as_deref().unwrap_or_default()),
    };
    let mut block = compression.open(&packed);
    // Part by part, so that what is unpacked stays in the cache of the processor, and a stranger who
    // states a vast width gets no vast memory.
    let (mut scratch, mut part) = (Vec::new(), Vec::new());
    let damaged = |error: UnpackError| {
        let size = format!("{} × {}", rect.width(), rect.height());
        let message = format!("{} cannot be unpacked: {error}", grid.what);
        (message, format!("a size of {size} takes {wanted} bytes, 4 for each cell"))
    };
    for first in parts(rect) {
        let width = (rect.right() - first.x()).unsigned_abs().min(PART);
        let read = block.take(width as usize * 4, &mut scratch, |bytes| {
            let line = bytes.as_chunks::<4>().0;
            let wrong = meaning.read(line, &mut part)?;
            Some((wrong, u32::from_le_bytes(line[wrong])))
        });
        match read {
            Ok(None) => {}
            Ok(Some((wrong, value))) => {
                let cell = CellPos::new(first.x() + wrong as i32, first.y());
                let message =
                    format!("{} has the value {value} at {cell}, which is not a cell", grid.what);
                reader.error_at_cell(node.start(), cell, message, meaning.words());
                return None;
            }
            Err(error) => {
                let (message, hint) = damaged(error);
                reader.error_with_hint(place, message, Some(hint));
                return None;
            }
        }
        sink(first, &part)?;
    }
    if let Err(error) = block.end() {
        let (message, hint) = damaged(error);
        reader.error_with_hint(place, message, Some(hint));
        return None;
    }
    Some(rect)
}

/// The most cells that are unpacked in one go.
const PART: u32 = 1 << 16;

/// The first cells of the parts of a rectangle, row by row.
fn parts(rect: CellRect) -> impl Iterator<Item = CellPos> {
    let columns = move || (rect.left()..rect.right()).step_by(PART as usize);
    (rect.top()..rect.bottom()).flat_map(move |y| columns().map(move |x| CellPos::new(x, y)))
}

/// What packed values mean.
enum Meaning<'m> {
    /// Cells as they are in memory, but the tile is the number of a name, from 1.
    Listed(&'m [TileNumber]),
    /// Plain numbers of tiles.
    Numbered(&'m NumberedTiles),
}

impl Meaning<'_> {
    /// The cells of a row; gives the place of the first value that is none.
    fn read(&self, line: &[[u8; 4]], row: &mut Vec<Cell>) -> Option<usize> {
        // Neighbours are often equal.
        let (mut last, mut wrong) = (([0; 4], self.cell(0)), None);
        translate(line, row, |value, at, _| {
            if value != last.0 {
                last = (value, self.cell(u32::from_le_bytes(value)));
            }
            if last.1.is_none() {
                wrong.get_or_insert(at);
            }
            last.1.unwrap_or_default()
        });
        wrong
    }

    fn cell(&self, value: u32) -> Option<Cell> {
        match self {
            Meaning::Numbered(numbers) => numbers.cell(value.cast_signed().into()),
            Meaning::Listed(tiles) => {
                let listed = Cell::from_bits(value)?;
                let Some(tile) = listed.number() else { return Some(Cell::EMPTY) };
                tiles.get(tile.index()).map(|&tile| listed.with_number(tile))
            }
        }
    }

    fn words(&self) -> String {
        match self {
            Meaning::Numbered(numbers) => numbers.words(),
            Meaning::Listed(tiles) => format!(
                "the low 20 bits are 0, or the number of one of the {} names in `tiles`; then come turn (4 bits), raise (1) and palette (7)",
                tiles.len()
            ),
        }
    }
}

/// The tiles that packed values number.
fn read_tiles<'a>(
    reader: &mut Reader<'a, '_>,
    node: Node<'a>,
    spelling: &mut CellSpelling<'_>,
) -> Option<Vec<TileNumber>> {
    let (mut tiles, mut is_whole) = (Vec::new(), true);
    for item in reader.items(node, "`tiles`")? {
        let cell = reader.text(item, "the name of a tile");
        let cell = cell.and_then(|name| spelling.notation(reader, item.span(), &name));
        match cell.and_then(Cell::number) {
            Some(tile) => tiles.push(tile),
            None => is_whole = false,
        }
    }
    is_whole.then_some(tiles)
}

/// The path of the file that a packed block is in, unless it is in the document.
pub(crate) fn file_named(packed: Node<'_>) -> Option<Node<'_>> {
    Compression::NAMED.into_iter().find_map(|(name, _)| packed.get(name)?.get("file"))
}

/// The bytes of the block as they are packed, how, and where they stand.
fn packed_bytes<'a>(
    reader: &mut Reader<'a, '_>,
    grid: &mut Grid<'_, 'a, '_, '_>,
    node: Node<'a>,
) -> Option<(Vec<u8>, Compression, Span)> {
    let entries = reader.entries(node, "`packed`")?;
    let mut blocks = Compression::NAMED.into_iter().filter_map(|(name, compression)| {
        let block = entries.iter().find(|entry| entry.key == name)?.value;
        Some((name, compression, block))
    });
    let (Some((name, compression, block)), None) = (blocks.next(), blocks.next()) else {
        let stated: Vec<&str> = entries.iter().map(|entry| entry.key).collect();
        let hint = (!stated.is_empty()).then(|| format!("it has {}", stated.join(", ")));
        let message = "`packed` must have one of `plain`, `zlib` and `lz4`";
        reader.error_with_hint(node.start(), message, hint);
        return None;
    };
    reader.fields(node, "`packed`", &Compression::NAMED.map(|(name, _)| name))?;
    let what = format!("`{name}`");
    if block.is_object() {
        let fields = reader.fields(block, &what, &["file"])?;
        let path = reader.required(&fields, "file")?;
        let (_, bytes) = grid.source.file(reader, path, "`file`")?;
        return Some((bytes, compression, path.start()));
    }
    let text = reader.text(block, &what)?;
    let bytes = STANDARD.decode(text.as_bytes()).map_err(|error| {
        let span = block.span();
        let at = match error {
            DecodeError::InvalidByte(at, _) | DecodeError::InvalidLastSymbol(at, _) => at,
            _ => text.len(),
        };
        let start = (span.start + 1 + at).min(span.start + span.len - 1);
        let message = format!("{} is not base64: {error}", grid.what);
        reader.error(Span { start, len: 1 }, message.trim_end_matches('.'));
    });
    Some((bytes.ok()?, compression, block.start()))
}
