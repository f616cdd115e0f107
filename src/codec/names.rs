//! Which tiles the cells mean: a table of their names, each once.

use super::bytes::{Bytes, BytesFault, Out};
use crate::plane::Word;
use crate::tile::{Cell, TableFullError, TileName, TileNumber};

/// The names of the tiles of the cells that are being written, in the order in which they came.
#[derive(Debug, Default)]
pub(crate) struct NamesOut {
    /// By the number of a tile less 1: its place in the table and 1, or 0.
    places: Vec<u32>,
    tiles: Vec<TileNumber>,
    /// Whether any cell has the palette of a slot.
    slots: u128,
}

impl NamesOut {
    /// A cell as it is written: with the place of its tile in the table and 1 for the number of the tile.
    pub(crate) fn word(&mut self, word: u32) -> u32 {
        let cell = <Cell as Word>::of_word(word);
        let Some(number) = cell.number() else { return word };
        let index = number.index();
        if index >= self.places.len() {
            self.places.resize(index + 1, 0);
        }
        if self.places[index] == 0 {
            self.tiles.push(number);
            self.places[index] = self.tiles.len() as u32;
        }
        self.slots |= 1 << cell.palette();
        let place = TileNumber::from_index(self.places[index] - 1);
        place.map_or(word, |place| cell.with_number(place).to_bits())
    }

    /// Writes the table. `name` tells what a number means, `palette` the name of that of a slot.
    pub(crate) fn put<'n>(
        &self,
        out: &mut Out,
        name: impl Fn(TileNumber) -> Option<TileName>,
        palette: impl Fn(u8) -> Option<&'n str>,
    ) {
        out.number(self.tiles.len() as u64);
        for number in &self.tiles {
            out.text(&name(*number).map_or_else(String::new, |name| name.to_string()));
        }
        let slots = (1..Cell::PALETTES).filter(|slot| self.slots >> slot & 1 > 0);
        let named: Vec<(u8, &str)> =
            slots.filter_map(|slot| Some((slot, palette(slot)?))).collect();
        out.number(named.len() as u64);
        for (slot, name) in named {
            out.byte(slot);
            out.text(name);
        }
    }
}

/// The names of the tiles of cells that are being read.
#[derive(Debug, Default)]
pub(crate) struct NamesIn {
    tiles: Vec<TileNumber>,
    /// The names of the palettes of some slots.
    palettes: Vec<(u8, String)>,
    /// For each slot the one of the map.
    slots: Vec<u8>,
}

impl NamesIn {
    /// Reads the table; `number` gives the number of a name.
    pub(crate) fn take(
        bytes: &mut Bytes<'_>,
        mut number: impl FnMut(&TileName) -> Result<TileNumber, TableFullError>,
        most: u64,
    ) -> Result<NamesIn, BytesFault> {
        let mut names = NamesIn { slots: (0..Cell::PALETTES).collect(), ..NamesIn::default() };
        let full = BytesFault::TooMany { what: "tiles", most };
        let count = bytes.count()?;
        if count as u64 > most {
            return Err(full);
        }
        let mut known = std::collections::HashSet::new();
        for _ in 0..count {
            let name = bytes.text()?.parse::<TileName>();
            let name = name.map_err(|_| bytes.wrong("a text is not the name of a tile"))?;
            let number = number(&name).map_err(|_| full.clone())?;
            if !known.insert(number) {
                return Err(bytes.wrong("a tile is named twice"));
            }
            names.tiles.push(number);
        }
        for _ in 0..bytes.count()? {
            let slot = bytes.byte()?;
            if slot == 0 || slot >= Cell::PALETTES {
                return Err(bytes.wrong("there is no such slot of a palette"));
            }
            names.palettes.push((slot, bytes.text()?.to_owned()));
        }
        Ok(names)
    }

    /// Says in which slots a map has the palettes of these names; those that it does not have keep theirs.
    pub(crate) fn find_palettes(&mut self, slot_of: impl Fn(&str) -> Option<u8>) {
        for (slot, name) in &self.palettes {
            self.slots[usize::from(*slot)] = slot_of(name).unwrap_or(*slot);
        }
    }

    /// The cell of a map that a written one means; `None` where it means none.
    pub(crate) fn word(&self, word: u32) -> Option<u32> {
        let cell = Cell::from_bits(word)?;
        let Some(place) = cell.number() else { return Some(word) };
        let cell = cell.with_number(*self.tiles.get(place.index())?);
        let slot = self.slots[usize::from(cell.palette())];
        Some(cell.with_slot(slot).unwrap_or(cell).to_bits())
    }
}
