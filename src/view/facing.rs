use crate::units::{CellOffset, CellPos, CellRect, ChunkPos};

/// The side from which a map is seen: by how many quarters it is turned clockwise before the camera.
///
/// ```
/// use sturdy_quilt::view::Facing;
///
/// assert_eq!(Facing::new(5), Facing::new(1));
/// assert_eq!(Facing::default().turned(-1).quarters(), 3);
/// ```
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub struct Facing {
    quarters: u8,
}

impl Facing {
    /// The map as it is laid out, with x to the right and y down where it is seen from above.
    pub const UNTURNED: Facing = Facing { quarters: 0 };
    /// All four.
    pub const ALL: [Facing; 4] = [Facing::new(0), Facing::new(1), Facing::new(2), Facing::new(3)];

    /// Returns the facing of so many quarter turns clockwise, of any number of whole turns.
    pub const fn new(quarters: i32) -> Facing {
        Facing { quarters: quarters.rem_euclid(4) as u8 }
    }

    /// Returns the quarter turns clockwise, 0 to 3.
    pub const fn quarters(self) -> u8 {
        self.quarters
    }

    /// Returns this facing with the map turned by so many quarters more, clockwise; a negative
    /// number turns it back.
    #[must_use]
    pub const fn turned(self, quarters: i32) -> Facing {
        Facing::new(self.quarters as i32 + quarters % 4)
    }

    /// The facing that undoes this one.
    pub(crate) const fn reversed(self) -> Facing {
        Facing::new(-(self.quarters as i32))
    }

    /// Whether columns become rows.
    pub(crate) const fn swaps(self) -> bool {
        self.quarters % 2 == 1
    }

    /// A vector or a place after the turn.
    #[inline]
    pub(crate) const fn turn(self, (x, y): (f64, f64)) -> (f64, f64) {
        // As a difference, so that no 0 becomes negative.
        match self.quarters {
            0 => (x, y),
            1 => (0.0 - y, x),
            2 => (0.0 - x, 0.0 - y),
            _ => (y, 0.0 - x),
        }
    }

    /// A cell after the turn. All cells there are lie within the limits again.
    #[inline]
    pub(crate) const fn turn_cell(self, cell: CellPos) -> CellPos {
        let (x, y) = (cell.x(), cell.y());
        match self.quarters {
            0 => cell,
            1 => CellPos::within_limits(-1 - y, x),
            2 => CellPos::within_limits(-1 - x, -1 - y),
            _ => CellPos::within_limits(y, -1 - x),
        }
    }

    /// A rectangle of cells after the turn.
    pub(crate) fn turn_cells(self, cells: CellRect) -> CellRect {
        if cells.is_empty() {
            return CellRect::EMPTY;
        }
        let last = CellPos::new(cells.right() - 1, cells.bottom() - 1);
        CellRect::between(self.turn_cell(cells.corner()), self.turn_cell(last))
    }

    /// A chunk after the turn: its cells are those of one chunk again.
    pub(crate) fn turn_chunk(self, chunk: ChunkPos) -> ChunkPos {
        match self.quarters {
            0 => chunk,
            _ => self.turn_cells(chunk.cells()).corner().chunk(),
        }
    }

    /// The offset between two cells after the turn.
    pub(crate) const fn turn_offset(self, offset: CellOffset) -> CellOffset {
        let (x, y) = (offset.x, offset.y);
        match self.quarters {
            0 => offset,
            1 => CellOffset::new(0i32.saturating_sub(y), x),
            2 => offset.reversed(),
            _ => CellOffset::new(y, 0i32.saturating_sub(x)),
        }
    }
}
