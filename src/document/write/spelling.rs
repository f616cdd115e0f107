//! Cells as characters, with the legend that explains them.

use super::error::SaveError;
use crate::plane::RunValues;
use serde_json::{Map, Value};

use crate::quilt::{CellLegend, Layer, LayerKey, Quilt};
use crate::tile::{Cell, TileTable};
use crate::units::{CellOffset, CellPos, CellRect, GridCells};

/// The most cells of a layer that are written as text.
pub(super) const MAX_TEXT_CELLS: u64 = 1 << 26;

/// A layer as rows of characters with a legend, as [`Quilt::layer_text`] gives it.
#[derive(Clone, Debug, PartialEq)]
#[non_exhaustive]
pub struct LayerText {
    /// The cells that the rows span.
    pub rect: CellRect,
    /// What each character stands for, in the notation of cells; `null` stands for empty.
    pub legend: Map<String, Value>,
    /// The rows from the top, all of one length.
    pub rows: Vec<String>,
}

impl Quilt {
    /// Returns a layer as text: rows of characters and the legend that explains them, as it is
    /// saved.
    ///
    /// # Errors
    /// A layer that is not there or not loaded as a whole, or spans more than can be written as
    /// text.
    ///
    /// ```
    /// # let quilt = sturdy_quilt::doc_quilt();
    /// let text = quilt.layer_text("soil")?;
    /// assert_eq!(text.rows, ["ggwg", "gggg", "gggg"]);
    /// assert_eq!(text.legend["w"], "garden/wall");
    /// # Ok::<(), sturdy_quilt::document::SaveError>(())
    /// ```
    pub fn layer_text(&self, layer: impl LayerKey) -> Result<LayerText, SaveError> {
        LayerText::of(self.layer(layer)?, self.tiles())
    }
}

impl LayerText {
    fn of(layer: &Layer, tiles: &TileTable) -> Result<LayerText, SaveError> {
        let rect = text_extent(layer)?;
        let mut spelling = Spelling::new(layer, tiles);
        let mut rows = Vec::new();
        each_row(layer, tiles, rect, |row| rows.push(spelling.text(row)))?;
        Ok(LayerText { rect, legend: spelling.into_legend(), rows })
    }
}

/// The [`extent`] of a layer that is written as one text.
pub(super) fn text_extent(layer: &Layer) -> Result<CellRect, SaveError> {
    let rect = extent(layer);
    if rect.cell_count() > MAX_TEXT_CELLS {
        return Err(SaveError::TooLargeForText { layer: layer.name().to_owned(), rect });
    }
    Ok(rect)
}

/// All cells that a layer is saved with: those that hold something, and those that its rows
/// spanned when it was loaded.
pub(super) fn extent(layer: &Layer) -> CellRect {
    let known = layer.legend().map(CellLegend::rects).unwrap_or_default();
    known.iter().fold(layer.cells().bounds(), |all, section| all.union(*section))
}

/// Columns and rows that are written, and the cells that they name.
#[derive(Clone, Copy, Debug)]
pub(super) struct WrittenRect {
    pub(super) cells: GridCells,
    pub(super) rect: CellRect,
}

impl From<CellRect> for WrittenRect {
    fn from(rect: CellRect) -> WrittenRect {
        WrittenRect { cells: GridCells::default(), rect }
    }
}

impl WrittenRect {
    /// The cell of the first column and row.
    pub(super) fn corner(&self) -> CellPos {
        if self.cells.is_straight() { self.rect.corner() } else { self.cells.first() }
    }

    /// The columns and rows in which a layer is written whose document shifts every second one: those
    /// that were read, and as many more as hold a cell. `None` for other layers.
    pub(super) fn shifted(layer: &Layer) -> Option<WrittenRect> {
        let (cells, known) = layer.shifted()?;
        let mut rect = known;
        for (at, _) in layer.cells().occupied() {
            rect = rect.union(CellRect::of_cell(cells.place(at)?));
        }
        WrittenRect { cells, rect }.told_from_first()
    }

    /// Tells the columns and rows from their own first ones on, which are even, as the first ones of a
    /// document are.
    fn told_from_first(self) -> Option<WrittenRect> {
        let WrittenRect { cells, rect } = self;
        if rect.is_empty() {
            return Some(self);
        }
        let corner = cells.addressing().even_corner(rect.corner());
        let rect = rect.union(CellRect::of_cell(corner));
        let cells = GridCells::new(cells.addressing(), cells.checked_cell(corner)?);
        let rect = CellRect::new(CellPos::ORIGIN, rect.width(), rect.height());
        Some(WrittenRect { cells, rect })
    }
}

/// A character that is still free for a cell: a letter of the name of its tile if possible.
pub(crate) fn free_character(notation: &str, used: &rustc_hash::FxHashSet<char>) -> char {
    let tile = notation.split_once('/').map_or("", |(_, tile)| tile);
    let letters = tile.chars().filter(char::is_ascii_alphanumeric);
    let letters = letters.clone().chain(letters.map(|c| c.to_ascii_uppercase()));
    let signs = ('!'..='~').filter(|c| !matches!(c, '"' | '\\'));
    // Beyond ASCII: letters of Latin and others, then ideographs; more than any map has tiles
    // worth typing, and still one character each.
    let others =
        ('\u{a1}'..='\u{24f}').chain('\u{4e00}'..='\u{9fff}').chain('\u{ac00}'..='\u{d7a3}');
    let others = others.chain('\u{10000}'..='\u{10ffff}').filter(|c| !c.is_whitespace());
    let free = |c: &char| !used.contains(c) && *c != ' ';
    letters.chain(signs).chain(others).find(free).unwrap_or('\u{fffd}')
}

/// Which character stands for which cell.
pub(super) struct Spelling<'t> {
    pub(super) tiles: &'t TileTable,
    entries: Vec<(char, Cell)>,
    characters: rustc_hash::FxHashMap<Cell, char>,
    used: rustc_hash::FxHashSet<char>,
}

impl<'t> Spelling<'t> {
    pub(super) fn new(layer: &Layer, tiles: &'t TileTable) -> Spelling<'t> {
        let entries = layer.legend().map(CellLegend::entries).unwrap_or_default().to_vec();
        // The first of several characters for a cell; a legend that gives the space a meaning of
        // its own must spell out what is empty.
        let mut characters: rustc_hash::FxHashMap<Cell, char> =
            entries.iter().rev().map(|&(character, cell)| (cell, character)).collect();
        if entries.iter().all(|(character, _)| *character != ' ') {
            characters.entry(Cell::EMPTY).or_insert(' ');
        }
        let used = entries.iter().map(|(character, _)| *character).collect();
        Spelling { tiles, entries, characters, used }
    }

    /// A row as text.
    pub(super) fn text(&mut self, row: &[Cell]) -> String {
        let mut text = Vec::with_capacity(row.len());
        for run in row.chunk_by(|a, b| a == b) {
            let character = self.character(run[0]);
            let mut bytes = [0; 4];
            match character.encode_utf8(&mut bytes).as_bytes() {
                [one] => text.extend(std::iter::repeat_n(*one, run.len())),
                several => run.iter().for_each(|_| text.extend_from_slice(several)),
            }
        }
        // Whole characters in a row are always text.
        String::from_utf8(text).unwrap_or_default()
    }

    fn character(&mut self, cell: Cell) -> char {
        if let Some(&known) = self.characters.get(&cell) {
            return known;
        }
        let new = self.new_character(cell);
        self.entries.push((new, cell));
        self.characters.insert(cell, new);
        self.used.insert(new);
        new
    }

    fn new_character(&self, cell: Cell) -> char {
        free_character(&self.tiles.notation(cell).to_string(), &self.used)
    }

    pub(super) fn into_legend(self) -> Map<String, Value> {
        let spelled = |cell: Cell| match cell {
            Cell::EMPTY => Value::Null,
            _ => self.tiles.notation(cell).to_string().into(),
        };
        self.entries.iter().map(|&(c, cell)| (c.to_string(), spelled(cell))).collect()
    }
}

/// A cell of a layer as it is written: of a tile on several cells that is there as a whole, the tile
/// itself in all of them.
pub(crate) fn spelled(layer: &Layer, tiles: &TileTable, at: CellPos, cell: Cell) -> Cell {
    let whole = || {
        let (whole, way) = tiles.whole_of(cell)?;
        let first = at.checked_add(way)?;
        let parts = tiles.parts_of(whole).ok()?;
        let is_there = |(offset, part): &(CellOffset, Cell)| {
            let at = first.checked_add(*offset);
            at.and_then(|at| layer.cells().get(at).here()) == Some(*part)
        };
        parts.iter().all(is_there).then_some(whole)
    };
    whole().unwrap_or(cell)
}

/// Calls a function with the cells of each row of a rectangle as they are written, from the top.
pub(super) fn each_row(
    layer: &Layer,
    tiles: &TileTable,
    section: impl Into<WrittenRect>,
    mut take: impl FnMut(&[Cell]),
) -> Result<(), SaveError> {
    let WrittenRect { cells, rect } = section.into();
    let (mut row, mut scratch) = (Vec::with_capacity(rect.width() as usize), Vec::new());
    let mut is_here = true;
    for y in rect.top()..rect.bottom() {
        row.clear();
        if !cells.is_straight() {
            for x in rect.left()..rect.right() {
                let at = cells.cell(CellPos::new(x, y));
                let held = layer.cells().get(at).here();
                is_here &= held.is_some();
                row.push(spelled(layer, tiles, at, held.unwrap_or_default()));
            }
            take(&row);
            continue;
        }
        let line = CellRect::new(CellPos::new(rect.left(), y), rect.width(), 1);
        layer.cells().read_runs(line, &mut scratch, |run| match run.values {
            RunValues::Uniform(cell) => {
                row.extend(std::iter::repeat_n(cell, run.cells.width() as usize));
            }
            RunValues::Slice(cells) => row.extend_from_slice(cells),
            RunValues::Absent(_) => is_here = false,
        });
        if tiles.has_footprints() {
            for (cell, x) in row.iter_mut().zip(rect.left()..) {
                *cell = spelled(layer, tiles, CellPos::new(x, y), *cell);
            }
        }
        take(&row);
    }
    if is_here { Ok(()) } else { Err(SaveError::NotLoaded { layer: layer.name().to_owned() }) }
}
