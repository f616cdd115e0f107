//! Cells from flat lists of numbers.

use super::{EditError, Pen};
use crate::quilt::LayerKey;
use crate::tile::{Cell, TileNumbers};
use crate::units::{CellPos, CellRect, ScanOrder};

/// A flat list of numbers that stands for a rectangle of cells.
///
/// ```
/// use sturdy_quilt::edit::FlatArray;
/// use sturdy_quilt::tile::TileNumbers;
/// use sturdy_quilt::units::{Corner, ScanOrder};
/// use sturdy_quilt::CellPos;
/// # let mut quilt = sturdy_quilt::doc_quilt();
///
/// // Two rows of three; 0 is nothing, 1 the first tile of the set.
/// let rows: [u8; 6] = [
///     1, 1, 2,
///     1, 0, 2,
/// ];
/// let numbers = TileNumbers::of_set("garden").with_base(1).with_empty(0);
/// quilt.edit("a bed", |pen| {
///     pen.put_flat("soil", CellPos::new(-5, 7), FlatArray::new(&rows, 3), &numbers)
/// })?;
/// let wall = quilt.tile("garden/wall")?;
/// assert_eq!(quilt.get("soil", CellPos::new(-3, 8))?.here(), Some(wall.into()));
///
/// // The same list, read column by column from below.
/// let columns = FlatArray::new(&rows, 3).with_scan(ScanOrder::columns(Corner::BottomLeft));
/// quilt.edit("turned", |pen| pen.put_flat("soil", CellPos::new(20, 0), columns, &numbers))?;
/// assert_eq!(quilt.get("soil", CellPos::new(21, 1))?.here(), Some(wall.into()));
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct FlatArray<'a, N> {
    numbers: &'a [N],
    width: u32,
    scan: ScanOrder,
}

impl<'a, N: Copy + Into<i64>> FlatArray<'a, N> {
    /// Returns the rows of a rectangle of `width` columns, from the top, one behind the other.
    pub const fn new(numbers: &'a [N], width: u32) -> FlatArray<'a, N> {
        let scan = ScanOrder::rows(crate::units::Corner::TopLeft);
        FlatArray { numbers, width, scan }
    }

    setters! {
        /// Returns this list, going through the rectangle in another order.
        const with_scan(scan: ScanOrder);
    }
}

impl Pen<'_> {
    /// Puts the tiles that a flat list of numbers means into a rectangle of a layer, whose upper
    /// left cell is `corner`. The number for empty empties its cell.
    ///
    /// # Errors
    /// A list that is no rectangle of its width, or reaches beyond the limits of cells; a set that
    /// is not there or whose sheet has other columns than stated; a number that means no tile; and
    /// as [`Pen::put`].
    pub fn put_flat<N: Copy + Into<i64>>(
        &mut self,
        layer: impl LayerKey,
        corner: CellPos,
        array: FlatArray<'_, N>,
        numbers: &TileNumbers,
    ) -> Result<(), EditError> {
        let at = self.quilt().layer_at(layer)?;
        let FlatArray { numbers: list, width, scan } = array;
        let tiles = numbers.find(self.quilt().tiles())?;
        let rows = list.len().checked_div(width as usize).unwrap_or(0);
        if rows * width as usize != list.len() {
            return Err(EditError::FlatWidth { count: list.len(), width });
        }
        if list.is_empty() {
            return Ok(());
        }
        let beyond = |height| EditError::RectBeyondCells { corner, width, height };
        let height = u32::try_from(rows).map_err(|_| beyond(u32::MAX))?;
        let last = |from: i32, count: u32| i64::from(from) + i64::from(count) - 1;
        CellPos::checked(last(corner.x(), width), last(corner.y(), height))
            .ok_or_else(|| beyond(height))?;
        let mut cells = vec![Cell::EMPTY; list.len()];
        // Neighbours are often equal.
        let mut last: Option<(i64, Cell)> = None;
        let index_of = |place: usize| {
            let offset = scan.offset(place, width, height);
            offset.y as usize * width as usize + offset.x as usize
        };
        let line = if scan.is_by_columns() { rows } else { width as usize };
        for (from, numbers) in (0..list.len()).step_by(line).zip(list.chunks(line)) {
            // Each line of the list goes through its cells at one pace.
            let first = index_of(from);
            let pace = index_of(from + line.min(2) - 1) as isize - first as isize;
            for (&number, nth) in numbers.iter().zip(0..) {
                let number = number.into();
                let value = match last.filter(|(held, _)| *held == number) {
                    Some((_, value)) => value,
                    None => tiles.cell(number).ok_or_else(|| {
                        let place = from + nth as usize;
                        let offset = scan.offset(place, width, height);
                        let cell = corner.saturating_add(offset);
                        EditError::UnknownNumber { number, place, cell, there_are: tiles.words() }
                    })?,
                };
                last = Some((number, value));
                cells[first.wrapping_add_signed(nth * pace)] = value;
            }
        }
        self.put_rect_at(at, CellRect::new(corner, width, height), &cells)
    }
}
