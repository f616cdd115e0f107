//! Cells as characters, fields and colours of a legend, and what is added to it for
//! cells that it does not know.

use rustc_hash::{FxHashMap, FxHashSet};

use super::patch::Why;
use crate::document::read::Legend;
use crate::document::write::{free_character, near_colors};
use crate::picture::Color;
use crate::tile::{Cell, NumberedTiles, TileTable};

/// The characters of a legend, and those that come to it.
pub(crate) struct Signs<'t> {
    tiles: &'t TileTable,
    by_cell: FxHashMap<Cell, char>,
    used: FxHashSet<char>,
    pub(super) new: Vec<(char, Cell)>,
}

impl<'t> Signs<'t> {
    pub(super) fn of(legend: &[(char, Cell)], tiles: &'t TileTable) -> Signs<'t> {
        let mut by_cell: FxHashMap<Cell, char> =
            legend.iter().rev().map(|(sign, cell)| (*cell, *sign)).collect();
        let used: FxHashSet<char> = legend.iter().map(|(sign, _)| *sign).collect();
        if !used.contains(&' ') {
            by_cell.entry(Cell::EMPTY).or_insert(' ');
        }
        Signs { tiles, by_cell, used, new: Vec::new() }
    }

    pub(super) fn sign(&mut self, cell: Cell) -> char {
        if let Some(sign) = self.by_cell.get(&cell) {
            return *sign;
        }
        let sign = free_character(&self.tiles.notation(cell).to_string(), &self.used);
        self.by_cell.insert(cell, sign);
        self.used.insert(sign);
        self.new.push((sign, cell));
        sign
    }
}

/// The colours of a legend, and those that come to it.
pub(super) struct Colors<'t> {
    tiles: &'t TileTable,
    by_cell: FxHashMap<Cell, Color>,
    used: Vec<Color>,
    tolerance: u8,
    pub(super) new: Vec<(Color, Cell)>,
}

impl<'t> Colors<'t> {
    pub(super) fn of(legend: &[(Color, Cell)], tiles: &'t TileTable, tolerance: i64) -> Colors<'t> {
        let mut by_cell: FxHashMap<Cell, Color> =
            legend.iter().rev().map(|(color, cell)| (*cell, *color)).collect();
        let used: Vec<Color> = legend.iter().map(|(color, _)| *color).collect();
        if !used.contains(&Color::CLEAR) {
            by_cell.entry(Cell::EMPTY).or_insert(Color::CLEAR);
        }
        let tolerance = u8::try_from(tolerance).unwrap_or(u8::MAX);
        Colors { tiles, by_cell, used, tolerance, new: Vec::new() }
    }

    pub(super) fn color(&mut self, cell: Cell) -> Result<Color, Why> {
        if let Some(color) = self.by_cell.get(&cell) {
            return Ok(*color);
        }
        let tile = self.tiles.tile_of(cell).and_then(|tile| self.tiles.mean_color(tile));
        let notation = self.tiles.notation(cell).to_string();
        let wanted = tile.unwrap_or_else(|| Color::of_name(&notation));
        let is_free = |color: &Color| {
            self.used.iter().all(|held| {
                let channels = held.to_bytes().into_iter().zip(color.to_bytes());
                let far = channels.map(|(a, b)| a.abs_diff(b)).max().unwrap_or(0);
                // No pixel may be as near to both.
                u32::from(far) > 2 * u32::from(self.tolerance)
            })
        };
        let color = near_colors(wanted).find(is_free).ok_or_else(|| {
            format!("no colour is free for `{notation}` beside those of its legend")
        })?;
        self.by_cell.insert(cell, color);
        self.used.push(color);
        self.new.push((color, cell));
        Ok(color)
    }
}

/// How cells are said in the fields of a table.
pub(super) struct FieldWords<'s, 't> {
    tiles: &'t TileTable,
    numbers: Option<&'s NumberedTiles>,
    empty: Option<i64>,
    known: FxHashMap<Cell, String>,
}

impl<'s, 't> FieldWords<'s, 't> {
    pub(super) fn of(
        legend: &Legend<Cell>,
        numbers: Option<&'s NumberedTiles>,
        tiles: &'t TileTable,
        empty: Option<i64>,
    ) -> FieldWords<'s, 't> {
        let mut known: FxHashMap<Cell, String> = FxHashMap::default();
        for (field, cell) in &legend.fields {
            let held = known.entry(*cell).or_insert_with(|| field.clone());
            // Of several the first in their order, so that a save is always the same.
            if field < held {
                held.clone_from(field);
            }
        }
        FieldWords { tiles, numbers, empty, known }
    }

    pub(super) fn field(&mut self, cell: Cell) -> String {
        if let Some(known) = self.known.get(&cell) {
            return known.clone();
        }
        let number = match cell {
            Cell::EMPTY => self.empty,
            cell => self.numbers.and_then(|numbers| numbers.number_of(cell)),
        };
        let field = match (number, cell) {
            (Some(number), _) => number.to_string(),
            (None, Cell::EMPTY) => String::new(),
            (None, cell) => crate::document::write::field(&self.tiles.notation(cell)),
        };
        self.known.insert(cell, field.clone());
        field
    }
}
