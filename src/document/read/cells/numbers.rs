//! Flat lists of numbers, and what the numbers of lists, tables and packed blocks mean.

use std::cell::OnceCell;

use super::cell::CellSpelling;
use super::grid::{Encoding, Grid, Sink, translate};
use crate::document::syntax::{Node, Reader, WholeNumbers, parsed};
use crate::name_error::did_you_mean;
use crate::quilt::Quilt;
use crate::tile::{Cell, NumberedTiles, TileNumbers, TileNumbersError};
use crate::units::{CellOffset, CellPos, CellRect, Corner, GridCells, ScanOrder};

/// How the numbers of a grid name tiles: `None` after a problem, `Some(None)` where none is
/// stated, so that only names can stand in a table.
pub(crate) fn read_meaning<'a>(
    reader: &mut Reader<'a, '_>,
    grid: &Grid<'_, 'a, '_, '_>,
    quilt: &Quilt,
) -> Option<Option<NumberedTiles>> {
    if matches!(grid.encoding, Encoding::Rows | Encoding::Picture) {
        return Some(None);
    }
    let mut place = None;
    let mut numbers = match (grid.get("set"), grid.get("sets")) {
        (Some(_), Some(several)) => {
            reader.error(several.span(), format!("{} has both `set` and `sets`", grid.what));
            return None;
        }
        (Some(set), None) => {
            place = Some(set);
            let numbers = TileNumbers::of_set(reader.text(set, "`set`")?);
            let (columns, base) = (grid.get("columns"), grid.get("base"));
            Some(counted(reader, numbers, columns, base)?)
        }
        (None, Some(several)) => read_sets(reader, several)?,
        (None, None) => None,
    };
    if grid.get("set").is_none()
        && let Some(key) = ["columns", "base"].iter().find(|key| grid.get(key).is_some())
    {
        reader.error(
            grid.fields.node.start(),
            format!("{} has `{key}`, which says how numbers are counted, but no `set`", grid.what),
        );
        return None;
    }
    if let Some(node) = grid.get("empty") {
        let empty = reader.integer(node, "`empty`", i64::MIN..=i64::MAX)?;
        if numbers.is_none() {
            reader.error(
                node.span(),
                format!("{} has `empty`, but neither `set` nor `sets`", grid.what),
            );
            return None;
        }
        numbers = numbers.map(|numbers| numbers.with_empty(empty));
    }
    let Some(numbers) = numbers else { return Some(None) };
    match numbers.find(quilt.tiles()) {
        Ok(tiles) => Some(Some(tiles)),
        Err(error) => {
            let sets = grid.get("sets");
            let place = place.or(sets).unwrap_or(grid.fields.node);
            report(reader, grid, place, &error);
            None
        }
    }
}

/// The numbers of one set as they are counted.
fn counted<'a>(
    reader: &mut Reader<'a, '_>,
    mut numbers: TileNumbers,
    columns: Option<Node<'a>>,
    base: Option<Node<'a>>,
) -> Option<TileNumbers> {
    if let Some(node) = columns {
        numbers = numbers.with_columns(reader.integer(node, "`columns`", 1..=u32::MAX)?);
    }
    if let Some(node) = base {
        numbers = numbers.with_base(reader.integer(node, "`base`", i64::MIN..=i64::MAX)?);
    }
    Some(numbers)
}

/// A list of sets, each with the numbers of its tiles; `None` after a problem.
fn read_sets<'a>(reader: &mut Reader<'a, '_>, node: Node<'a>) -> Option<Option<TileNumbers>> {
    let mut numbers: Option<TileNumbers> = None;
    for item in reader.items(node, "`sets`")? {
        let fields = reader.fields(item, "an item of `sets`", &["set", "base", "columns"])?;
        let set = reader.required(&fields, "set")?;
        let name = reader.text(set, "`set`")?;
        let named = match numbers {
            Some(numbers) => numbers.with_set(name),
            None => TileNumbers::of_set(name),
        };
        numbers = Some(counted(reader, named, fields.get("columns"), fields.get("base"))?);
    }
    if numbers.is_none() {
        reader.error(node.span(), "`sets` names no set");
        return None;
    }
    Some(numbers)
}

fn report<'a>(
    reader: &mut Reader<'a, '_>,
    grid: &Grid<'_, 'a, '_, '_>,
    place: Node<'a>,
    error: &TileNumbersError,
) {
    match error {
        // A set that could not be read has a problem of its own.
        TileNumbersError::Set(_) if grid.source.lost_sets => {}
        TileNumbersError::Set(error) => {
            let message = format!("there is no tile set `{}`", error.name);
            reader.error_with_hint(place.span(), message, did_you_mean(&error.near));
        }
        TileNumbersError::Columns { .. } => {
            let place = grid.get("columns").unwrap_or(place);
            let hint = "the sheet was cut anew: number the cells for it, or use names of tiles";
            reader.error_with_hint(place.span(), error.to_string(), Some(hint));
        }
        TileNumbersError::Overlap { .. } => {
            let hint = "give one of them another `base`";
            reader.error_with_hint(place.span(), error.to_string(), Some(hint));
        }
    }
}

/// Reads the list of numbers of a grid, in the document or in a file with a JSON list.
pub(crate) fn read<'a>(
    reader: &mut Reader<'a, '_>,
    grid: &mut Grid<'_, 'a, '_, '_>,
    spelling: &mut CellSpelling<'_>,
    sink: &mut Sink<'_, Cell>,
) -> Option<CellRect> {
    let node = reader.required(grid.fields, "numbers")?;
    let size = reader.required(grid.fields, "size");
    let order = read_order(reader, grid)?;
    size?;
    let (_, (width, height)) = grid.stated_size(reader)?;
    if spelling.numbers().is_none() {
        let message =
            format!("{} has numbers, but does not say of which `set` or `sets`", grid.what);
        reader.error(grid.fields.node.start(), message);
        return None;
    }
    let rect = grid.admit(reader, (width, height))?;
    let list = List { what: grid.what, rect, order, cells: grid.cells };
    if node.is_text() {
        let (label, text) = grid.source.text_file(reader, node)?;
        let mended = OnceCell::new();
        let tree = parsed(&text, &mended, &label, reader.problems())?;
        let mut reader = Reader::of_text(&text, &label, reader.problems());
        list.read(&mut reader, tree.root(), spelling, sink)
    } else {
        list.read(reader, node, spelling, sink)
    }
}

/// In which order the list goes through the cells.
pub(crate) fn read_order<'a>(
    reader: &mut Reader<'a, '_>,
    grid: &Grid<'_, 'a, '_, '_>,
) -> Option<ScanOrder> {
    let Some(node) = grid.get("order") else { return Some(ScanOrder::default()) };
    let fields = reader.fields(node, "the order of numbers", &["from", "by"])?;
    let mut corner = Corner::TopLeft;
    if let Some(node) = fields.get("from") {
        let corners = [
            ("top-left", Corner::TopLeft),
            ("top-right", Corner::TopRight),
            ("bottom-left", Corner::BottomLeft),
            ("bottom-right", Corner::BottomRight),
        ];
        corner = reader.choice(node, "`from`", &corners)?;
    }
    let by = [("rows", ScanOrder::rows(corner)), ("columns", ScanOrder::columns(corner))];
    match fields.get("by") {
        Some(node) => reader.choice(node, "`by`", &by),
        None => Some(ScanOrder::rows(corner)),
    }
}

/// What the numbers of a list mean, while it is read.
struct Meaning<'m> {
    tiles: &'m NumberedTiles,
    /// Neighbours are often equal.
    last: (i64, Option<Cell>),
    /// The first number that is not a tile: its place in the list, itself, and how many there are.
    unknown: Option<(usize, i64, usize)>,
}

impl Meaning<'_> {
    fn cell(&mut self, number: i64, at: usize, count: usize) -> Cell {
        if number != self.last.0 {
            self.last = (number, self.tiles.cell(number));
        }
        if self.last.1.is_none() {
            self.unknown.get_or_insert((at, number, 0)).2 += count;
        }
        self.last.1.unwrap_or_default()
    }
}

struct List<'w> {
    what: &'w str,
    rect: CellRect,
    order: ScanOrder,
    cells: GridCells,
}

impl List<'_> {
    fn read<'a>(
        &self,
        reader: &mut Reader<'a, '_>,
        node: Node<'a>,
        spelling: &CellSpelling<'_>,
        sink: &mut Sink<'_, Cell>,
    ) -> Option<CellRect> {
        let numbers = self.numbers(reader, node)?;
        let mut meaning = Meaning { tiles: spelling.numbers()?, last: (0, None), unknown: None };
        meaning.last.1 = meaning.tiles.cell(0);
        let (width, height) = (self.rect.width(), self.rect.height());
        let (mut read, mut values) = (Vec::new(), Vec::new());
        if self.order == ScanOrder::default() {
            for (row, y) in (self.rect.top()..self.rect.bottom()).enumerate() {
                let start = row * width as usize;
                numbers.part(start..start + width as usize, &mut read);
                translate(&read, &mut values, |number, at, count| {
                    meaning.cell(number, start + at, count)
                });
                sink(CellPos::new(self.rect.left(), y), &values)?;
            }
        } else {
            numbers.part(0..numbers.len(), &mut read);
            values.resize(read.len(), Cell::EMPTY);
            for (index, &number) in read.iter().enumerate() {
                let CellOffset { x, y } = self.order.offset(index, width, height);
                values[y as usize * width as usize + x as usize] = meaning.cell(number, index, 1);
            }
            for (row, y) in values.chunks(width.max(1) as usize).zip(self.rect.top()..) {
                sink(CellPos::new(self.rect.left(), y), row)?;
            }
        }
        let Meaning { tiles: meaning, unknown, .. } = meaning;
        if let Some((first, number, count)) = unknown {
            let at = self.order.offset(first, width, height);
            let cell = self.cells.cell(self.rect.corner().saturating_add(at));
            let item = reader.items(node, "`numbers`").and_then(|items| items.get(first).copied());
            let more =
                if count > 1 { format!(", nor are {} more", count - 1) } else { String::new() };
            let message = format!("number {number} at {cell} is not a tile{more}");
            reader.error_at_cell(item.unwrap_or(node).span(), cell, message, meaning.words());
            return None;
        }
        Some(self.rect)
    }

    /// The numbers, as many as the size has cells.
    fn numbers<'a>(&self, reader: &mut Reader<'a, '_>, node: Node<'a>) -> Option<WholeNumbers<'a>> {
        let Some(numbers) = node.whole_numbers() else {
            // Only now it is worth finding out which of them is none.
            for item in reader.items(node, "`numbers`")? {
                reader.integer(item, "a number of a tile", i64::MIN..=i64::MAX)?;
            }
            return None;
        };
        if numbers.len() as u64 != self.rect.cell_count() {
            let (width, height, found) = (self.rect.width(), self.rect.height(), numbers.len());
            let message = format!(
                "{} has {found} numbers, but its size of {width} × {height} wants {}",
                self.what,
                self.rect.cell_count()
            );
            reader.error(node.start(), message);
            return None;
        }
        Some(numbers)
    }
}
