//! Laying out cells in code: from rows of characters, from a rule for each cell, from variants.

use rustc_hash::FxHashMap;

use super::{EditError, Pen};
use crate::cell_set::check_size;
use crate::quilt::{CellKey, LayerKey};
use crate::tile::{Cell, TileTable};
use crate::units::{CellPos, CellRect, ChunkPos};

impl Pen<'_> {
    /// Puts rows of characters into a layer, the first character of the first row at `corner`.
    /// The legend says what each character stands for, a [`Cell`], a tile or a cell in words; a
    /// space leaves its cell as it is.
    ///
    /// # Errors
    /// A character that the legend does not know, or one beyond the limits of cells; words that
    /// mean no cell of the map; and as [`Pen::put`].
    ///
    /// ```
    /// use sturdy_quilt::{Cell, CellPos};
    /// # let mut quilt = sturdy_quilt::doc_quilt();
    ///
    /// let legend = [('.', "garden/grass"), ('#', "garden/wall")];
    /// quilt.edit("a court", |pen| {
    ///     pen.put_rows("soil", CellPos::new(10, 10), &legend, &["####", "#..#", "## #"])
    /// })?;
    /// assert_eq!(quilt.get("soil", CellPos::new(11, 11))?.here(), Some(quilt.cell("garden/grass")?));
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    pub fn put_rows(
        &mut self,
        layer: impl LayerKey,
        corner: CellPos,
        legend: &[(char, impl CellKey)],
        rows: &[&str],
    ) -> Result<(), EditError> {
        let at = self.quilt().layer_at(layer)?;
        let mut known = Vec::with_capacity(legend.len());
        for (character, key) in legend {
            known.push((*character, self.meant(key)?));
        }
        let known = Characters::new(known.into_iter());
        let mut block = Block::default();
        let mut run = Vec::new();
        for (row, text) in rows.iter().enumerate() {
            let at_column = |column: usize| {
                let (x, y) =
                    (i64::from(corner.x()) + column as i64, i64::from(corner.y()) + row as i64);
                CellPos::checked(x, y).ok_or(EditError::BeyondCells { row, column })
            };
            let mut column = 0;
            for piece in text.split(' ') {
                let start = column;
                for character in piece.chars() {
                    let Some(cell) = known.get(character) else {
                        return Err(EditError::UnknownCharacter { row, column, character });
                    };
                    run.push(cell);
                    column += 1;
                }
                if !run.is_empty() {
                    if at_column(column - 1).is_err() {
                        (start..column).try_for_each(|column| at_column(column).map(drop))?;
                    }
                    let run_rect = CellRect::new(at_column(start)?, run.len() as u32, 1);
                    if !block.takes(run_rect) {
                        block.put(self, at)?;
                    }
                    block.add(run_rect, &mut run);
                }
                // The space behind it.
                column += 1;
            }
        }
        block.put(self, at)
    }

    /// Puts cells into a rectangle, row by row. There must be one for each cell of it.
    ///
    /// # Errors
    /// As [`Pen::fill`]; another number of cells than the rectangle has.
    ///
    /// ```
    /// use sturdy_quilt::{Cell, CellPos, CellRect};
    /// # let mut quilt = sturdy_quilt::doc_quilt();
    ///
    /// let (grass, wall) = (quilt.cell("garden/grass")?, quilt.cell("garden/wall")?);
    /// let bed = CellRect::new(CellPos::new(-2, 0), 2, 2);
    /// quilt.edit("a bed", |pen| pen.put_rect("soil", bed, &[wall, grass, Cell::EMPTY, wall]))?;
    /// assert_eq!(quilt.get("soil", CellPos::new(-1, 1))?.here(), Some(wall));
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    pub fn put_rect(
        &mut self,
        layer: impl LayerKey,
        rect: CellRect,
        cells: &[Cell],
    ) -> Result<(), EditError> {
        let at = self.quilt().layer_at(layer)?;
        check_size(rect)?;
        check_count(rect, cells.len())?;
        self.known_all(cells)?;
        self.put_rect_at(at, rect, cells)
    }

    /// Puts into each cell of a rectangle what a rule says of it, row by row. Costs a call a cell, and
    /// memory for a row of chunks, or for a single row where that is over 65,536 cells long.
    ///
    /// # Errors
    /// A rectangle that touches more than [`Pen::MAX_CHUNKS`] chunks; and as [`Pen::put`].
    ///
    /// ```
    /// use sturdy_quilt::{Cell, CellPos, CellRect};
    /// # let mut quilt = sturdy_quilt::doc_quilt();
    ///
    /// let (grass, wall) = (quilt.cell("garden/grass")?, quilt.cell("garden/wall")?);
    /// let disc = CellRect::between(CellPos::new(-4, -4), CellPos::new(4, 4));
    /// quilt.edit("a round bed", |pen| {
    ///     pen.put_each("soil", disc, |at| match at.x() * at.x() + at.y() * at.y() {
    ///         0..10 => grass,
    ///         10..17 => wall,
    ///         _ => Cell::EMPTY,
    ///     })
    /// })?;
    /// assert_eq!(quilt.get("soil", CellPos::new(0, -4))?.here(), Some(wall));
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    pub fn put_each(
        &mut self,
        layer: impl LayerKey,
        rect: CellRect,
        mut rule: impl FnMut(CellPos) -> Cell,
    ) -> Result<(), EditError> {
        let at = self.quilt().layer_at(layer)?;
        check_size(rect)?;
        let mut cells = Vec::new();
        for band in bands(rect) {
            fill_by(band, &mut rule, &mut cells);
            self.known_all(&cells)?;
            self.put_rect_at(at, band, &cells)?;
        }
        Ok(())
    }

    /// Replaces each tile of a rectangle that has variants by its variant for the cell, see
    /// [`TileTable::variant_at`]; turn, raise and palette stay. For cells that were laid without
    /// variants, such as those of a map that was typed.
    ///
    /// # Errors
    /// A layer that is not there, a cell that is not loaded, or a rectangle that touches more than
    /// [`Pen::MAX_CHUNKS`] chunks.
    ///
    /// [`TileTable::variant_at`]: crate::tile::TileTable::variant_at
    pub fn vary(
        &mut self,
        layer: impl LayerKey,
        rect: CellRect,
        seed: u64,
    ) -> Result<(), EditError> {
        let at = self.quilt().layer_at(layer)?;
        let rect = rect.intersection(self.quilt().layers()[at].cells().bounds());
        check_size(rect)?;
        let mut cells = Vec::new();
        for band in bands(rect) {
            let quilt = self.quilt();
            let layer = &quilt.layers()[at];
            let read = layer.cells().read_rect(band, &mut cells);
            read.map_err(|source| EditError::Absent { layer: layer.name().to_owned(), source })?;
            for (value, cell) in cells.iter_mut().zip(band.cells()) {
                *value = varied(quilt.tiles(), *value, cell, seed);
            }
            self.put_rect_at(at, band, &cells)?;
        }
        Ok(())
    }

    /// Puts a tile into every cell of a rectangle, each time the variant that stands for it there,
    /// see [`TileTable::variant_at`]; turn, raise and palette are those that are given. A tile
    /// without variants is put as by [`Pen::fill`].
    ///
    /// # Errors
    /// As [`Pen::fill`].
    ///
    /// [`TileTable::variant_at`]: crate::tile::TileTable::variant_at
    ///
    /// ```
    /// use sturdy_quilt::{CellPos, CellRect, Lattice, LayerSettings, Quilt, TileSet, TileSpec};
    ///
    /// let mut quilt = Quilt::new(Lattice::default());
    /// let set = TileSet::builder("field")
    ///     .tile(TileSpec::named("grass").with_variant("grass", 3).with_variant("flowers", 1))
    ///     .tile(TileSpec::named("flowers"));
    /// quilt.edit("a meadow", |pen| {
    ///     pen.put_tiles(set.build()?)?;
    ///     pen.add_layer("soil", LayerSettings::default())?;
    ///     pen.fill_varied("soil", CellRect::new(CellPos::ORIGIN, 40, 30), "field/grass", 1)
    /// })?;
    /// let flowers = quilt.cell("field/flowers")?;
    /// let all = quilt.layer("soil")?.cells().occupied().filter(|(_, cell)| *cell == flowers);
    /// assert!((200..400).contains(&all.count()));
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    pub fn fill_varied(
        &mut self,
        layer: impl LayerKey,
        rect: CellRect,
        value: impl CellKey,
        seed: u64,
    ) -> Result<(), EditError> {
        let at = self.quilt().layer_at(layer)?;
        let value = self.meant(&value)?;
        let tiles = self.quilt().tiles();
        let tile = tiles.tile_of(value).and_then(|id| tiles.tile(id));
        if tile.is_none_or(|tile| tile.spec().variants.is_empty()) {
            let layer = self.quilt().layers()[at].id();
            return self.fill(layer, rect, value);
        }
        check_size(rect)?;
        let mut cells = Vec::new();
        for band in bands(rect) {
            let tiles = self.quilt().tiles();
            fill_by(band, &mut |cell| varied(tiles, value, cell, seed), &mut cells);
            self.put_rect_at(at, band, &cells)?;
        }
        Ok(())
    }
}

/// Checks that there is one for each cell of a rectangle.
pub(super) fn check_count(rect: CellRect, count: usize) -> Result<(), EditError> {
    if rect.cell_count() == count as u64 { Ok(()) } else { Err(EditError::Count { rect, count }) }
}

/// A cell with the variant of its tile that stands for it in a place.
fn varied(tiles: &TileTable, value: Cell, cell: CellPos, seed: u64) -> Cell {
    match tiles.tile_of(value) {
        Some(tile) => value.with_tile(tiles.variant_at(tile, cell, seed)),
        None => value,
    }
}

/// The most cells that are gathered before they are written, unless a single row has more: a row of
/// chunks of 65,536 columns.
const MAX_KEPT: usize = 65_536 * ChunkPos::SIDE as usize;

/// Cuts a rectangle into parts of its full width, from top to bottom, each within one row of chunks.
pub(super) fn bands(rect: CellRect) -> impl Iterator<Item = CellRect> {
    let most = (MAX_KEPT / rect.width().max(1) as usize).clamp(1, ChunkPos::SIDE as usize) as i32;
    let mut top = rect.top();
    std::iter::from_fn(move || {
        let side = ChunkPos::SIDE as i32;
        let bottom = (top - top.rem_euclid(side) + side).min(top + most).min(rect.bottom());
        let band =
            CellRect::new(CellPos::new(rect.left(), top), rect.width(), bottom.abs_diff(top));
        top = bottom;
        (!band.is_empty()).then_some(band)
    })
}

/// Fills `into` with what a rule gives for each cell of a rectangle, row by row.
pub(super) fn fill_by<V>(rect: CellRect, rule: &mut impl FnMut(CellPos) -> V, into: &mut Vec<V>) {
    into.clear();
    into.reserve(rect.cell_count() as usize);
    // Row by row, since the length of each is known: a single list of all cells costs twice as much.
    for y in rect.top()..rect.bottom() {
        into.extend((rect.left()..rect.right()).map(|x| rule(CellPos::new(x, y))));
    }
}

/// Rows of equal width below each other and within one row of chunks, gathered to be written at once.
#[derive(Default)]
struct Block {
    rect: CellRect,
    cells: Vec<Cell>,
}

impl Block {
    /// Returns whether a row continues this block.
    fn takes(&self, row: CellRect) -> bool {
        self.cells.is_empty()
            || (self.rect.width() == row.width()
                && (row.left(), row.top()) == (self.rect.left(), self.rect.bottom())
                && row.corner().chunk() == self.rect.corner().chunk()
                && self.cells.len() + row.width() as usize <= MAX_KEPT)
    }

    /// Appends a row that continues this block, and empties `cells`.
    fn add(&mut self, row: CellRect, cells: &mut Vec<Cell>) {
        self.rect = self.rect.union(row);
        self.cells.append(cells);
    }

    /// Writes the block with the pen, and empties it.
    fn put(&mut self, pen: &mut Pen<'_>, at: usize) -> Result<(), EditError> {
        let rect = std::mem::take(&mut self.rect);
        let put = pen.put_rect_at(at, rect, &self.cells);
        self.cells.clear();
        put
    }
}

/// The cells that characters stand for.
struct Characters {
    /// The most common ones, found without a hash.
    ascii: [Option<Cell>; 128],
    others: FxHashMap<char, Cell>,
}

impl Characters {
    /// Where a character comes twice, the first counts.
    fn new(legend: impl DoubleEndedIterator<Item = (char, Cell)>) -> Characters {
        let mut characters = Characters { ascii: [None; 128], others: FxHashMap::default() };
        for (character, cell) in legend.rev() {
            match characters.ascii.get_mut(character as usize) {
                Some(held) => *held = Some(cell),
                None => drop(characters.others.insert(character, cell)),
            }
        }
        characters
    }

    fn get(&self, character: char) -> Option<Cell> {
        let ascii = self.ascii.get(character as usize).copied();
        ascii.unwrap_or_else(|| self.others.get(&character).copied())
    }
}
