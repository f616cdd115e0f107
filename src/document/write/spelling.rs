//! Cells as characters, with the legend that explains them.

use super::error::SaveError;
use crate::plane::RunValues;
use crate::units::CellPos;
use serde_json::{Map, Value};

use crate::quilt::{CellLegend, Layer, LayerKey, Quilt};
use crate::tile::{Cell, TileTable};
use crate::units::CellRect;

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
        each_row(layer, rect, |row| rows.push(spelling.text(row)))?;
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
    tiles: &'t TileTable,
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
