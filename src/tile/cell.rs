use std::fmt;

use bytemuck::TransparentWrapper;

use super::{CellMarks, Turn};
use crate::stamp::Stamp;

/// The handle of a tile of one map. It is given by the map's tile table and means the same tile in
/// every snapshot of that map.
///
/// It knows its map: in another one it is an error, or no tile, and never another tile.
///
/// ```
/// use sturdy_quilt::{CellPos, Lattice, Quilt, TileSet};
/// # let mut quilt = sturdy_quilt::doc_quilt();
///
/// let mut other = Quilt::new(Lattice::default());
/// other.edit("tiles", |pen| pen.put_tiles(TileSet::flat("yard", ["sand"])?))?;
/// let sand = other.tile("yard/sand")?;
/// assert_eq!(quilt.tiles().name(sand), None);
/// assert!(quilt.edit("sand", |pen| pen.put("soil", CellPos::ORIGIN, sand)).is_err());
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
#[derive(Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub struct TileId {
    number: TileNumber,
    /// Which table has given it.
    descent: Stamp,
}

/// The number of a tile in the table of whichever map, counted from 1: what a [`Cell`] holds.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub(crate) struct TileNumber(u32);

impl TileNumber {
    /// The number of the tile at a place of the tile table.
    pub(crate) const fn from_index(index: u32) -> Option<TileNumber> {
        if index < TileId::MAX_COUNT { Some(TileNumber(index + 1)) } else { None }
    }

    /// The place in the tile table, counted from 0.
    #[inline]
    pub(crate) const fn index(self) -> usize {
        self.0 as usize - 1
    }
}

impl TileId {
    /// The greatest number of tiles a map can have: 2²⁰−1, since the 20 bits of a [`Cell`] keep
    /// one number for "empty".
    pub const MAX_COUNT: u32 = (1 << Cell::TILE_BITS) - 1;

    /// The handle of a tile in the table of a descent.
    pub(super) const fn new(number: TileNumber, descent: Stamp) -> TileId {
        TileId { number, descent }
    }

    /// The number of the tile, if the handle is one of this descent.
    pub(crate) fn number_in(self, descent: Stamp) -> Option<TileNumber> {
        (self.descent == descent).then_some(self.number)
    }

    /// Returns the place in the tile table, counted from 0: an index for tables of the game's own.
    pub const fn index(self) -> usize {
        self.number.index()
    }
}

impl fmt::Debug for TileId {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(f, "TileId({})", self.index())
    }
}

/// The handle of a palette of one map: valid for the map and all its clones.
///
/// It knows its palette: in another map it is an error, and never another palette. A [`Cell`] holds
/// its slot alone.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub struct PaletteId {
    slot: u8,
    /// [`Stamp::NONE`] for a slot in which a document has no palette.
    birth: Stamp,
}

impl PaletteId {
    pub(crate) const fn new(slot: u8, birth: Stamp) -> PaletteId {
        PaletteId { slot, birth }
    }

    /// Returns the slot, 1 to 127: what the mark `+palette3` of a cell names.
    pub const fn slot(self) -> u8 {
        self.slot
    }

    pub(crate) const fn birth(self) -> Stamp {
        self.birth
    }

    /// The same slot, as one without a palette.
    pub(crate) const fn without_palette(self) -> PaletteId {
        PaletteId { slot: self.slot, birth: Stamp::NONE }
    }
}

/// The content of one place of a layer: a tile with its turn, raise and palette, or nothing.
///
/// It is a packed 32-bit value: tile 20 bits, turn 4, raise 1, palette 7, from the lowest bit up.
/// The empty cell is 0 and has no turn, raise or palette.
///
/// ```
/// use sturdy_quilt::{Cell, Turn};
/// # let quilt = sturdy_quilt::doc_quilt();
///
/// let wall = Cell::of(quilt.tile("garden/wall")?).with_turn(Turn::QUARTER).with_raised(true);
/// assert_eq!(wall.turn(), Turn::QUARTER);
/// assert_eq!(Cell::from_bits(wall.to_bits()), Some(wall));
/// assert_eq!(Cell::EMPTY.with_raised(true), Cell::EMPTY);
/// # Ok::<(), sturdy_quilt::NameError>(())
/// ```
#[derive(Clone, Copy, Default, PartialEq, Eq, Hash, TransparentWrapper)]
#[repr(transparent)]
pub struct Cell(u32);

impl Cell {
    const TILE_BITS: u32 = 20;
    const TURN_AT: u32 = 20;
    const RAISE_AT: u32 = 24;
    const PALETTE_AT: u32 = 25;
    const TILE_MASK: u32 = (1 << Self::TILE_BITS) - 1;

    /// Nothing.
    pub const EMPTY: Cell = Cell(0);

    /// No cell: all bits, of which none names a turn. For tables that must tell it from all cells.
    pub(crate) const ABSENT: Cell = Cell(u32::MAX);

    /// The number of palette slots: a slot is 0 to 127, and 0 is the tile's own colours.
    pub const PALETTES: u8 = 128;

    /// Returns a tile as it is: not turned, not raised, in its own colours.
    ///
    /// A cell has no room for the map of its tile: where it may be of another one, name both with
    /// [`Pen::adopt`](crate::Pen::adopt).
    pub const fn of(tile: TileId) -> Cell {
        Cell::of_number(tile.number)
    }

    pub(crate) const fn of_number(number: TileNumber) -> Cell {
        Cell(number.0)
    }

    /// Returns this cell with another turn; the empty cell stays empty.
    #[must_use]
    pub const fn with_turn(self, turn: Turn) -> Cell {
        self.with(Self::TURN_AT, 0xf, turn.to_bits() as u32)
    }

    /// Returns this cell, raised or not; the empty cell stays empty.
    #[must_use]
    pub const fn with_raised(self, raised: bool) -> Cell {
        self.with(Self::RAISE_AT, 1, raised as u32)
    }

    /// Returns this cell in a palette of its map; the empty cell stays empty.
    #[must_use]
    pub const fn with_palette(self, palette: PaletteId) -> Cell {
        self.with(Self::PALETTE_AT, 0x7f, palette.slot() as u32)
    }

    /// Returns this cell in another palette slot, whether or not its map has a palette there, or
    /// `None` for a slot beyond 127; the empty cell stays empty.
    pub const fn with_slot(self, slot: u8) -> Option<Cell> {
        if slot < Self::PALETTES {
            Some(self.with(Self::PALETTE_AT, 0x7f, slot as u32))
        } else {
            None
        }
    }

    /// Returns this cell showing another tile, with its turn, raise and palette kept.
    #[must_use]
    pub const fn with_tile(self, tile: TileId) -> Cell {
        self.with_number(tile.number)
    }

    pub(crate) const fn with_number(self, number: TileNumber) -> Cell {
        Cell(self.0 & !Self::TILE_MASK | number.0)
    }

    const fn with(self, at: u32, mask: u32, value: u32) -> Cell {
        if self.is_empty() { self } else { Cell(self.0 & !(mask << at) | value << at) }
    }

    /// Returns whether nothing lies here.
    pub const fn is_empty(self) -> bool {
        self.0 == 0
    }

    /// Returns the place of the tile in the table of the map, counted from 0, or `None` when empty:
    /// an index for tables of the game's own. Its handle comes from
    /// [`TileTable::tile_of`](crate::tile::TileTable::tile_of).
    pub const fn tile_index(self) -> Option<usize> {
        match self.number() {
            None => None,
            Some(number) => Some(number.index()),
        }
    }

    /// The number of the tile, or `None` when empty.
    #[inline]
    pub(crate) const fn number(self) -> Option<TileNumber> {
        if self.is_empty() { None } else { Some(TileNumber(self.0 & Self::TILE_MASK)) }
    }

    /// Returns the turn of the tile.
    pub const fn turn(self) -> Turn {
        Turn::from_valid_bits((self.0 >> Self::TURN_AT & 0xf) as u8)
    }

    /// Returns whether the tile is lifted in front of unraised sprites of the same priority.
    pub const fn is_raised(self) -> bool {
        self.0 >> Self::RAISE_AT & 1 == 1
    }

    /// Returns the palette slot, 0 to 127.
    pub const fn palette(self) -> u8 {
        (self.0 >> Self::PALETTE_AT) as u8
    }

    /// Whether it is neither raised nor in a palette.
    pub(crate) const fn is_plain(self) -> bool {
        self.0 >> Self::RAISE_AT & 1 == 0 && self.palette() == 0
    }

    /// What it has besides its tile.
    pub(crate) const fn marks(self) -> CellMarks {
        CellMarks { turn: self.turn(), raise: self.is_raised(), palette: self.palette() }
    }

    /// Returns the packed value.
    pub const fn to_bits(self) -> u32 {
        self.0
    }

    /// Returns the cell of a packed value, or `None` where the bits name no turn, or are marks
    /// without a tile. Whether the tile exists only its map can tell.
    pub const fn from_bits(bits: u32) -> Option<Cell> {
        let has_tile = bits & Self::TILE_MASK != 0;
        let turn = Turn::from_bits((bits >> Self::TURN_AT & 0xf) as u8);
        if bits == 0 || has_tile && turn.is_some() { Some(Cell(bits)) } else { None }
    }
}

/// A cell, or a tile by its handle, which stands for a cell that shows it as it is.
///
/// Sealed: nothing else is.
pub trait IntoCell: sealed::Sealed {
    /// The cell, with the map of its handle.
    #[doc(hidden)]
    fn into_cell(self) -> OwnedCell;
}

/// A cell that may know of which map it is.
#[doc(hidden)]
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct OwnedCell {
    pub(crate) cell: Cell,
    pub(crate) descent: Option<Stamp>,
}

impl OwnedCell {
    /// Whether it can be one of the map of this descent.
    #[inline]
    pub(crate) fn is_of(self, descent: Stamp) -> bool {
        self.descent.is_none_or(|own| own == descent)
    }
}

mod sealed {
    pub trait Sealed {}
    impl Sealed for super::Cell {}
    impl Sealed for super::TileId {}
}

impl IntoCell for Cell {
    fn into_cell(self) -> OwnedCell {
        OwnedCell { cell: self, descent: None }
    }
}

impl IntoCell for TileId {
    fn into_cell(self) -> OwnedCell {
        OwnedCell { cell: self.into(), descent: Some(self.descent) }
    }
}

impl From<TileId> for Cell {
    fn from(tile: TileId) -> Cell {
        Cell::of(tile)
    }
}

impl fmt::Debug for Cell {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        let Some(tile) = self.tile_index() else { return f.write_str("Cell(empty)") };
        write!(f, "Cell(tile {tile}")?;
        write!(f, "{}", self.marks())?;
        f.write_str(")")
    }
}
