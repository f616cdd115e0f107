//! Cells put back into the texts, tables and pictures from which a layer was read: only the lines,
//! fields and pixels of cells that have changed are written anew.

use std::collections::{BTreeMap, BTreeSet};

use rustc_hash::FxHashMap;
use serde_json::{Value, json};

use super::lines::{ChangedRows, Grown, Table};
use super::patch::{Patcher, Why};
use super::spelling::{Colors, FieldWords, Signs};
use crate::document::input::{Files, decoded_picture};
use crate::document::limits::Limits;
use crate::document::problem::Problems;
use crate::document::read::cells::{legend, marks, numbers, packed, picture, rows, table};
use crate::document::read::{
    CellSource, CellSpelling, Encoding, Grid, Legend, SHARED, form_of, read_addressing,
    read_cell_pos, section_corner,
};
use crate::document::source::{FileSource, resolved};
use crate::document::syntax::{Fields, Node, Reader, Span, Tree};
use crate::document::write::{Laid, spelled};
use crate::picture::Picture;
use crate::quilt::{Layer, Quilt};
use crate::tile::{Cell, NumberedTiles, TileTable};
use crate::units::{CellPos, CellRect, GridCells, PixelSize, ScanOrder};

/// The files of a map while changes are put back into them.
pub(super) struct MapFiles<'s> {
    pub(crate) source: &'s dyn FileSource,
    /// The path of the map.
    pub(crate) map: &'s str,
    pub(crate) limits: &'s Limits,
    /// The files that have changed, besides the document.
    pub(crate) changed: BTreeMap<String, Vec<u8>>,
    /// The files that must not change, since others read them too.
    pub(crate) shared: Vec<String>,
}

impl MapFiles<'_> {
    fn path(&self, named: &str) -> Result<String, Why> {
        resolved(self.map, named).map_err(|why| format!("`{named}`: {why}"))
    }

    /// Takes a file as it is to be, unless others read it too.
    fn change(&mut self, path: String, bytes: Vec<u8>) -> Result<(), Why> {
        if self.shared.contains(&path) {
            return Err(format!("others read `{path}` as well, which would change with it"));
        }
        self.changed.insert(path, bytes);
        Ok(())
    }

    fn bytes(&self, path: &str) -> Result<Vec<u8>, Why> {
        if let Some(bytes) = self.changed.get(path) {
            return Ok(bytes.clone());
        }
        let most = self.limits.file_bytes;
        self.source.read(path, most).map_err(|error| format!("`{path}` cannot be read: {error}"))
    }

    fn text(&self, path: &str) -> Result<String, Why> {
        String::from_utf8(self.bytes(path)?).map_err(|_| format!("`{path}` is not UTF-8 text"))
    }

    /// Changes JSON that stands in the document, or in the file that a node names.
    fn patch<'a>(
        &mut self,
        patcher: &mut Patcher<'a>,
        node: Node<'a>,
        patch: impl FnOnce(&mut Patcher<'_>, Node<'_>) -> Result<(), Why>,
    ) -> Result<(), Why> {
        let Some(named) = node.text() else { return patch(patcher, node) };
        let path = self.path(&named)?;
        let text = self.text(&path)?;
        let tree = Tree::of(&text, u64::MAX).map_err(|error| format!("`{path}`: {error}"))?;
        let mut patcher = Patcher::new(&text);
        patch(&mut patcher, tree.root())?;
        let changed = patcher.patches.applied(&text);
        self.change(path, changed.into_bytes())
    }
}

/// A cell that has changed.
#[derive(Clone, Copy)]
struct Change {
    at: CellPos,
    before: Cell,
    after: Cell,
}

/// A grid of cells of a layer, and where the document states it.
struct Stated<'a> {
    node: Node<'a>,
    fields: Fields<'a>,
    is_section: bool,
    grid: ReadGrid<'a>,
}

/// A grid of cells, read for its rectangle and for what its values mean.
struct ReadGrid<'a> {
    encoding: Encoding,
    legend_node: Option<Node<'a>>,
    legend: Legend<Cell>,
    numbers: Option<NumberedTiles>,
    has_marks: bool,
    /// Of a list of numbers.
    order: ScanOrder,
    /// Its columns and rows, and the cells that they name.
    rect: CellRect,
    cells: GridCells,
}

/// Puts the changed cells of a layer back into where it was read from: into the document by
/// patches, and into files.
pub(crate) fn put_back<'a>(
    patcher: &mut Patcher<'a>,
    files: &mut MapFiles<'_>,
    layer_node: Node<'a>,
    (before, after): (&Layer, &Layer),
    quilt: &Quilt,
) -> Result<(), Why> {
    let changes = changes(before, after, quilt.tiles());
    let mut back = Back { files, layer_node, tiles: quilt.tiles(), added: Vec::new() };
    let mut stated = back.stated(patcher.text, before, quilt)?;
    let mut of_each: Vec<Vec<Change>> = vec![Vec::new(); stated.len()];
    for change in changes {
        // Of sections that overlap the last counts.
        let place = stated.iter().rposition(|stated| stated.grid.holds(change.at));
        match place {
            Some(place) => of_each[place].push(change),
            None if stated.len() == 1 && !stated[0].is_section => of_each[0].push(change),
            None => return Err(format!("cell {} lies outside of its sections", change.at)),
        }
    }
    for (stated, changes) in stated.iter_mut().zip(of_each).filter(|(_, of)| !of.is_empty()) {
        back.put(patcher, stated, &changes, after)?;
    }
    Ok(())
}

/// The cells in which two states of a layer differ, row by row.
fn changes(before: &Layer, after: &Layer, tiles: &TileTable) -> Vec<Change> {
    let mut changes = Vec::new();
    for chunk in after.cells().differences(before.cells()) {
        for at in chunk.cells().cells() {
            let (before, after) = (held(before, at), held(after, at));
            if before != after {
                changes.push(Change { at, before, after });
            }
        }
    }
    if tiles.has_footprints() {
        spell_wholes((before, after), tiles, &mut changes);
    }
    changes.sort_unstable_by_key(|change| (change.at.y(), change.at.x()));
    changes
}

/// Gives the cell that a layer holds at a place; the empty one where that is not loaded.
fn held(layer: &Layer, at: CellPos) -> Cell {
    layer.cells().get(at).here().unwrap_or_default()
}

/// Spells changed cells of tiles that stand on several cells as they are written: a change of one cell
/// is one of all cells of the whole that was there, or is there now.
fn spell_wholes((before, after): (&Layer, &Layer), tiles: &TileTable, changes: &mut Vec<Change>) {
    let mut touched: BTreeSet<(i32, i32)> = BTreeSet::new();
    for change in changes.iter() {
        touched.insert((change.at.y(), change.at.x()));
        for cell in [change.before, change.after] {
            let Some((whole, way)) = tiles.whole_of(cell) else { continue };
            let Some(first) = change.at.checked_add(way) else { continue };
            let parts = tiles.parts_of(whole).unwrap_or_default();
            let cells = parts.iter().filter_map(|(offset, _)| first.checked_add(*offset));
            touched.extend(cells.map(|at| (at.y(), at.x())));
        }
    }
    let spelled_change = |(y, x)| {
        let at = CellPos::new(x, y);
        let of = |layer: &Layer| spelled(layer, tiles, at, held(layer, at));
        Change { at, before: of(before), after: of(after) }
    };
    let all = touched.into_iter().map(spelled_change);
    *changes = all.filter(|change| change.before != change.after).collect();
}

struct Back<'f, 's, 'a, 't> {
    files: &'f mut MapFiles<'s>,
    layer_node: Node<'a>,
    tiles: &'t TileTable,
    /// The entries added to legends, by the place of the legend: sections may share one.
    added: Vec<(Span, Legend<Cell>)>,
}

impl<'a> Back<'_, '_, 'a, '_> {
    fn entry(&self, key: &str) -> Option<Node<'a>> {
        self.layer_node.get(key)
    }

    /// The grids of the layer, read again for what they mean.
    fn stated(&self, text: &'a str, layer: &Layer, quilt: &Quilt) -> Result<Vec<Stated<'a>>, Why> {
        let cells = self.entry("cells").ok_or("it has no `cells` in the document")?;
        let mut problems = Problems::new(self.files.limits);
        // What is wrong is not shown: the map was loaded from this text.
        let mut reader = Reader::of_text(text, "", &mut problems);
        let mut files = Files::new(self.files.source, self.files.limits);
        let most = self.files.limits.cells;
        let mut source = CellSource {
            files: &mut files,
            map: self.files.map,
            lost_sets: false,
            cells_left: most,
        };
        let mut quilt = quilt.clone();
        let what = format!("`cells` of layer `{}`", layer.name());
        let unread = || "its cells cannot be read again".to_owned();
        let corner = match self.entry("at") {
            Some(at) => read_cell_pos(&mut reader, at, "the place"),
            None => Some(CellPos::ORIGIN),
        };
        let corner = corner.ok_or_else(unread)?;
        let (nodes, shared) = match cells.get("sections") {
            None => (vec![cells], None),
            Some(sections) => {
                let shared = reader.fields(cells, &what, &SHARED).ok_or_else(unread)?;
                (sections.items().unwrap_or_default(), Some(shared))
            }
        };
        let (is_section, shared) = (shared.is_some(), shared.as_ref());
        let mut all = Vec::new();
        for node in nodes {
            let (encoding, fields) =
                form_of(&mut reader, node, &what, is_section).ok_or_else(unread)?;
            let corner = match is_section {
                true => section_corner(&mut reader, &fields, &what, corner).ok_or_else(unread)?,
                false => corner,
            };
            let cells = read_addressing(&mut reader, &fields, corner).ok_or_else(unread)?;
            let mut grid =
                Grid { what: &what, encoding, fields: &fields, shared, cells, source: &mut source };
            let grid = read_grid(&mut reader, &mut grid, &mut quilt).ok_or_else(unread)?;
            all.push(Stated { node, fields, is_section, grid });
        }
        Ok(all)
    }

    /// Puts changes into one grid.
    fn put(
        &mut self,
        patcher: &mut Patcher<'a>,
        stated: &mut Stated<'a>,
        changes: &[Change],
        layer: &Layer,
    ) -> Result<(), Why> {
        let beside_marks = |change: &&Change| {
            stated.grid.has_marks
                && !change.after.is_empty()
                && change.before.marks() != change.after.marks()
        };
        if let Some(change) = changes.iter().find(beside_marks) {
            return Err(format!("the marks of cell {} stand in `marks`", change.at));
        }
        let (cells, mut rect) = (stated.grid.cells, stated.grid.rect);
        // From here on, where they are in the columns and rows of the grid.
        let placed = |change: &Change| {
            let at = cells.place(change.at);
            let at = at.ok_or_else(|| format!("cell {} is too far from its first one", change.at));
            at.map(|at| Change { at, ..*change })
        };
        let changes: Vec<Change> = changes.iter().map(placed).collect::<Result<_, Why>>()?;
        let changes = &changes[..];
        for change in changes.iter().filter(|change| !change.after.is_empty()) {
            rect = rect.union(CellRect::of_cell(change.at));
        }
        if !rect.is_empty() {
            let first = cells.addressing().even_corner(rect.corner());
            rect = rect.union(CellRect::of_cell(first));
        }
        let grown = Grown::of(stated.grid.rect, rect);
        let legend_place = stated.grid.legend_node.map(Node::span);
        for (_, added) in self.added.iter().filter(|(place, _)| Some(*place) == legend_place) {
            stated.grid.legend.characters.extend(&added.characters);
            stated.grid.legend.colors.extend(&added.colors);
        }
        let node =
            stated.fields.get(stated.grid.encoding.key()).ok_or("its cells are not stated")?;
        match stated.grid.encoding {
            Encoding::Rows => self.put_rows(patcher, stated, node, changes, grown)?,
            Encoding::Table => self.put_table(patcher, stated, node, changes, grown)?,
            Encoding::Picture => self.put_picture(patcher, stated, node, changes, grown)?,
            Encoding::Numbers => self.put_numbers(patcher, stated, node, changes, grown)?,
            Encoding::Packed => self.put_packed(patcher, stated, node, layer, rect)?,
        }
        if grown.is_any() {
            if let Some(size) =
                stated.fields.get("size").filter(|_| stated.grid.encoding != Encoding::Packed)
            {
                let size_now = json!([rect.width(), rect.height()]);
                patcher.set(size, "size", &size_now.into());
            }
            let corner = cells.checked_cell(rect.corner());
            self.put_corner(patcher, corner.ok_or("its first cell would lie beyond the limits")?);
        }
        Ok(())
    }

    /// States the first cell of the layer.
    fn put_corner(&self, patcher: &mut Patcher<'a>, corner: CellPos) {
        let at: Laid = json!([corner.x(), corner.y()]).into();
        let entries = self.layer_node.entries().unwrap_or_default();
        match entries.iter().find(|entry| entry.key == "at" || entry.key == "cells") {
            _ if self.entry("at").is_some() => {
                self.entry("at").into_iter().for_each(|node| patcher.set(node, "at", &at));
            }
            Some(cells) if corner != CellPos::ORIGIN => patcher.add_entry_before(cells, "at", &at),
            _ => {}
        }
    }

    /// Adds characters or colours to a legend, in the document or in its file.
    fn add_to_legend(
        &mut self,
        patcher: &mut Patcher<'a>,
        stated: &Stated<'a>,
        added: Legend<Cell>,
    ) -> Result<(), Why> {
        let characters = added.characters.iter().map(|(sign, cell)| (sign.to_string(), *cell));
        let colors = added.colors.iter().map(|(color, cell)| (color.to_string(), *cell));
        let new: Vec<(String, Cell)> = characters.chain(colors).collect();
        if new.is_empty() {
            return Ok(());
        }
        let value = |cell: Cell| match cell {
            Cell::EMPTY => Value::Null,
            cell => self.tiles.notation(cell).to_string().into(),
        };
        let Some(node) = stated.grid.legend_node else {
            let legend: serde_json::Map<String, Value> =
                new.iter().map(|(sign, cell)| (sign.clone(), value(*cell))).collect();
            patcher.add_entry(stated.node, "legend", &Value::from(legend).into());
            return Ok(());
        };
        self.added.push((node.span(), added));
        let add = |patcher: &mut Patcher<'_>, legend: Node<'_>| {
            for (sign, cell) in &new {
                patcher.add_entry(legend, sign, &value(*cell).into());
            }
            Ok(())
        };
        self.files.patch(patcher, node, add)
    }

    fn put_rows(
        &mut self,
        patcher: &mut Patcher<'a>,
        stated: &Stated<'a>,
        node: Node<'a>,
        changes: &[Change],
        grown: Grown,
    ) -> Result<(), Why> {
        let mut signs = Signs::of(&stated.grid.legend.characters, self.tiles);
        let empty = if grown.is_any() { signs.sign(Cell::EMPTY) } else { ' ' };
        let mut changed: BTreeMap<i64, Vec<(i64, char)>> = BTreeMap::new();
        for change in changes {
            let (column, row) = grown.place(change.at);
            changed.entry(row).or_default().push((column, signs.sign(change.after)));
        }
        let renewed = |row: i64, text: &str| -> Option<String> {
            let cells = changed.get(&row);
            if cells.is_none() && grown.left == 0 && grown.right == 0 {
                return None;
            }
            let pad = |count: u32| std::iter::repeat_n(empty, count as usize);
            let mut characters: Vec<char> =
                pad(grown.left).chain(text.chars()).chain(pad(grown.right)).collect();
            for (column, sign) in cells.into_iter().flatten() {
                *characters.get_mut(*column as usize)? = *sign;
            }
            Some(characters.into_iter().collect())
        };
        let lines = grown.new_lines(|row| {
            let mut characters = vec![empty; grown.rect.width() as usize];
            for (column, sign) in changed.get(&row).into_iter().flatten() {
                if let Some(place) = characters.get_mut(*column as usize) {
                    *place = *sign;
                }
            }
            characters.into_iter().collect()
        });
        let top = i64::from(grown.top);
        if let Some(path) = node.text() {
            let path = self.files.path(&path)?;
            let text = self.files.text(&path)?;
            let changed = lines.in_text(&text, |at, line| renewed(top + at as i64, line));
            self.files.change(path, changed.into_bytes())?;
        } else {
            lines.in_list(patcher, node, |at, line| renewed(top + at as i64, line));
        }
        self.add_to_legend(patcher, stated, Legend { characters: signs.new, ..Legend::default() })
    }

    fn put_table(
        &mut self,
        patcher: &mut Patcher<'a>,
        stated: &Stated<'a>,
        node: Node<'a>,
        changes: &[Change],
        grown: Grown,
    ) -> Result<(), Why> {
        let path = node.text().map(|path| self.files.path(&path)).transpose()?;
        let text = match &path {
            Some(path) => self.files.text(path)?,
            None => {
                let items = node.items().unwrap_or_default();
                let lines = items.iter().filter_map(|item| item.text());
                lines.map(|line| line.into_owned() + "\n").collect()
            }
        };
        let table = Table::of(&text, stated.grid.numbers.as_ref());
        let table = table.filter(|table| table.rows.len() == grown.before.height() as usize);
        let table = table.ok_or("its table cannot be read again")?;
        let mut fields = FieldWords::of(
            &stated.grid.legend,
            stated.grid.numbers.as_ref(),
            self.tiles,
            table.empty,
        );
        let mut rows = ChangedRows { blank: fields.field(Cell::EMPTY), rows: BTreeMap::new() };
        for change in changes {
            let (column, row) = grown.place(change.at);
            rows.rows.entry(row).or_default().insert(column, fields.field(change.after));
        }
        let changed = table.patched(&text, &rows, grown);
        let new = grown.new_lines(|row| rows.line(row, grown.rect.width()));
        match path {
            Some(path) => {
                let changed = new.in_text(&changed, |_, _| None);
                self.files.change(path, changed.into_bytes())?;
            }
            None => {
                let lines: Vec<&str> = changed.lines().collect();
                new.in_list(patcher, node, |at, line| {
                    lines.get(at).filter(|new| **new != line).map(|new| (*new).to_owned())
                });
            }
        }
        Ok(())
    }

    fn put_picture(
        &mut self,
        patcher: &mut Patcher<'a>,
        stated: &Stated<'a>,
        node: Node<'a>,
        changes: &[Change],
        grown: Grown,
    ) -> Result<(), Why> {
        let path = self.files.path(&node.text().unwrap_or_default())?;
        let bytes = self.files.bytes(&path)?;
        let held = decoded_picture(&bytes, self.files.limits.pixels)
            .map_err(|why| format!("`{path}`: {why}"))?;
        let tolerance = stated.fields.get("tolerance").and_then(Node::integer).unwrap_or(0);
        let mut colors = Colors::of(&stated.grid.legend.colors, self.tiles, tolerance);
        let size = PixelSize::new(grown.rect.width(), grown.rect.height());
        let mut changed = held.clone();
        if grown.is_any() {
            changed = Picture::filled(size, colors.color(Cell::EMPTY)?);
            for y in 0..held.size().height {
                for x in 0..held.size().width {
                    if let Some(color) = held.get(x, y) {
                        changed.set(x + grown.left, y + grown.top, color);
                    }
                }
            }
        }
        for change in changes {
            let (x, y) = grown.place(change.at);
            changed.set(x as u32, y as u32, colors.color(change.after)?);
        }
        let bytes = encoded(&changed, &path)?;
        self.files.change(path, bytes)?;
        self.add_to_legend(patcher, stated, Legend { colors: colors.new, ..Legend::default() })
    }

    fn put_numbers(
        &mut self,
        patcher: &mut Patcher<'a>,
        stated: &Stated<'a>,
        node: Node<'a>,
        changes: &[Change],
        grown: Grown,
    ) -> Result<(), Why> {
        if grown.is_any() {
            return Err("its list of numbers has no room for more cells".to_owned());
        }
        let numbers = stated.grid.numbers.as_ref().ok_or("its numbers are those of no set")?;
        let order = stated.grid.order;
        let (width, height) = (stated.grid.rect.width(), stated.grid.rect.height());
        let mut wanted: FxHashMap<CellPos, i64> = FxHashMap::default();
        for change in changes {
            let tile = match change.after.number() {
                Some(number) if stated.grid.has_marks => Cell::of_number(number),
                _ => change.after,
            };
            let number = numbers.number_of(tile).ok_or_else(|| {
                let notation = self.tiles.notation(change.after);
                format!("`{notation}` has no number among those of its set")
            })?;
            wanted.insert(change.at, number);
        }
        let count = width as usize * height as usize;
        let places = (0..count).filter_map(|index| {
            let at = stated.grid.rect.corner().saturating_add(order.offset(index, width, height));
            wanted.get(&at).map(|number| (index, *number))
        });
        let places: Vec<(usize, i64)> = places.collect();
        let put = |patcher: &mut Patcher<'_>, list: Node<'_>| {
            let items = list.items().unwrap_or_default();
            for (index, number) in &places {
                let item = items.get(*index).ok_or("its list of numbers is too short")?;
                patcher.patches.replace(item.span(), number.to_string());
            }
            Ok(())
        };
        self.files.patch(patcher, node, put)
    }

    /// Packs the cells anew: of a block that nobody reads nothing stays as it was.
    fn put_packed(
        &mut self,
        patcher: &mut Patcher<'a>,
        stated: &Stated<'a>,
        node: Node<'a>,
        layer: &Layer,
        rect: CellRect,
    ) -> Result<(), Why> {
        let file = packed::file_named(node).and_then(Node::text);
        let most = self.files.limits.file_bytes;
        let (mut entries, block) =
            crate::document::write::packed_section(layer, self.tiles, rect, most)
                .map_err(|error| error.to_string())?;
        let held = match &file {
            Some(named) => {
                let path = self.files.path(named)?;
                self.files.change(path, block)?;
                json!({ "lz4": { "file": named } })
            }
            None => {
                use base64::Engine;
                let text = base64::engine::general_purpose::STANDARD.encode(block);
                json!({ "lz4": text })
            }
        };
        entries.push(("packed".to_owned(), held.into()));
        if stated.is_section {
            entries.extend(stated.fields.get("at").map(|at| ("at".to_owned(), at.value().into())));
        }
        patcher.set(stated.node, "cells", &Laid::Object(entries));
        Ok(())
    }
}

impl ReadGrid<'_> {
    /// Whether a cell is in one of its columns and rows.
    fn holds(&self, cell: CellPos) -> bool {
        self.cells.place(cell).is_some_and(|place| self.rect.contains(place))
    }
}

fn read_grid<'a>(
    reader: &mut Reader<'a, '_>,
    grid: &mut Grid<'_, 'a, '_, '_>,
    quilt: &mut Quilt,
) -> Option<ReadGrid<'a>> {
    let has_marks = marks::read(reader, grid)?.is_some();
    let numbers = numbers::read_meaning(reader, grid, quilt)?;
    let mut spelling = CellSpelling::new(quilt, numbers.clone(), false);
    let legend_node = grid.encoding.legend().and_then(|_| grid.get("legend"));
    let legend = match (grid.encoding.legend(), legend_node) {
        (Some(kind), Some(node)) => legend::read(reader, node, grid.source, kind, &mut spelling)?,
        _ => Legend::default(),
    };
    let mut none = |_: CellPos, _: &[Cell]| Some(());
    let rect = match grid.encoding {
        Encoding::Rows => rows::read(reader, grid, &legend, &mut none),
        Encoding::Picture => picture::read(reader, grid, &legend, &mut none),
        Encoding::Table => table::read(reader, grid, &legend, &mut spelling, &mut none),
        Encoding::Numbers => numbers::read(reader, grid, &mut spelling, &mut none),
        Encoding::Packed => packed::read(reader, grid, &mut spelling, &mut none),
    };
    let order = numbers::read_order(reader, grid)?;
    let (encoding, rect) = (grid.encoding, rect?);
    Some(ReadGrid {
        encoding,
        legend_node,
        legend,
        numbers,
        has_marks,
        order,
        rect,
        cells: grid.cells,
    })
}

#[cfg(feature = "png")]
fn encoded(picture: &Picture, path: &str) -> Result<Vec<u8>, Why> {
    picture.to_png().map_err(|error| format!("`{path}` cannot be written: {error}"))
}

/// Without an encoder no picture can be written.
#[cfg(not(feature = "png"))]
fn encoded(_picture: &Picture, path: &str) -> Result<Vec<u8>, Why> {
    Err(format!("`{path}` cannot be written without the feature `png`"))
}
