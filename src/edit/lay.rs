//! Laying out cells in code: from rows of characters, from a rule for each cell, from variants.

use rustc_hash::FxHashMap;

use super::{EditError, Pen};
use crate::quilt::{CellKey, LayerKey};
use crate::tile::Cell;
use crate::units::{CellPos, CellRect};

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
        // Where a character comes twice in the legend, the first counts.
        let known: FxHashMap<char, Cell> = known.into_iter().rev().collect();
        let mut run = Vec::new();
        for (row, text) in rows.iter().enumerate() {
            let at_column = |column: usize| {
                let (x, y) =
                    (i64::from(corner.x()) + column as i64, i64::from(corner.y()) + row as i64);
                CellPos::checked(x, y).ok_or(EditError::BeyondCells { row, column })
            };
            let (mut start, mut last) = (0, (' ', Cell::EMPTY));
            run.clear();
            for (column, character) in text.chars().chain([' ']).enumerate() {
                if character == ' ' {
                    if !run.is_empty() {
                        if at_column(column - 1).is_err() {
                            (start..column).try_for_each(|column| at_column(column).map(drop))?;
                        }
                        self.put_row_at(at, at_column(start)?, &run)?;
                        run.clear();
                    }
                    start = column + 1;
                    continue;
                }
                if character != last.0 {
                    let found = known.get(&character);
                    let unknown = EditError::UnknownCharacter { row, column, character };
                    last = (character, *found.ok_or(unknown)?);
                }
                run.push(last.1);
            }
        }
        Ok(())
    }

    /// Puts into each cell of a rectangle what a rule says of it, row by row. Costs a call a cell, and
    /// memory for a row.
    ///
    /// # Errors
    /// A rectangle that touches more than [`Pen::MOST_CHUNKS`] chunks; and as [`Pen::put`].
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
        Self::check_size(rect)?;
        let mut row = Vec::with_capacity(rect.width() as usize);
        for y in rect.top()..rect.bottom() {
            row.clear();
            // Neighbours are often equal.
            let mut last = Cell::EMPTY;
            for x in rect.left()..rect.right() {
                let value = rule(CellPos::new(x, y));
                if value != last {
                    last = self.known(value)?;
                }
                row.push(value);
            }
            self.put_row_at(at, CellPos::new(rect.left(), y), &row)?;
        }
        Ok(())
    }

    /// Puts in the place of each tile of a rectangle that has variants the one that stands for it
    /// there, see [`TileTable::variant_at`]; turn, raise and palette stay.
    ///
    /// # Errors
    /// A layer that is not there, a cell that is not loaded, or a rectangle that touches more than
    /// [`Pen::MOST_CHUNKS`] chunks.
    ///
    /// [`TileTable::variant_at`]: crate::TileTable::variant_at
    pub fn vary(&mut self, layer: impl LayerKey, rect: CellRect) -> Result<(), EditError> {
        let at = self.quilt().layer_at(layer)?;
        let rect = rect.intersection(self.quilt().layers()[at].cells().bounds());
        Self::check_size(rect)?;
        let layer = &self.quilt().layers()[at];
        layer
            .cells()
            .check_here(rect)
            .map_err(|source| EditError::Absent { layer: layer.name().to_owned(), source })?;
        for cell in rect.cells() {
            let held = self.quilt().layers()[at].cells().get(cell).here().unwrap_or_default();
            let Some(tile) = self.quilt().tiles().tile_of(held) else { continue };
            let chosen = self.quilt().tiles().variant_at(tile, cell);
            self.put_at(at, cell, held.with_tile(chosen))?;
        }
        Ok(())
    }

    pub(super) fn check_size(rect: CellRect) -> Result<(), EditError> {
        if rect.chunk_count() > Self::MOST_CHUNKS {
            return Err(EditError::TooLarge { rect, most: Self::MOST_CHUNKS });
        }
        Ok(())
    }
}
