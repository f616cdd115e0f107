use std::fmt;

use crate::units::{CellPos, CellRect};

/// A flip and a number of steps of rotation: how a tile is turned in its cell.
///
/// The flip (left and right change places) comes first, then the steps, clockwise. A step is a
/// quarter turn, so there are eight turns.
///
/// ```
/// use sturdy_quilt::Turn;
///
/// assert_eq!(Turn::QUARTER.then(Turn::QUARTER), Turn::HALF);
/// assert_eq!(Turn::MIRROR.then(Turn::MIRROR), Turn::NONE);
/// ```
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Hash)]
pub struct Turn {
    mirrored: bool,
    steps: u8,
}

impl Turn {
    /// No turn.
    pub const NONE: Turn = Turn { mirrored: false, steps: 0 };
    /// A quarter clockwise.
    pub const QUARTER: Turn = Turn { mirrored: false, steps: 1 };
    /// Half way round.
    pub const HALF: Turn = Turn { mirrored: false, steps: 2 };
    /// Three quarters clockwise, which is a quarter the other way.
    pub const THREE_QUARTERS: Turn = Turn { mirrored: false, steps: 3 };
    /// Left and right change places.
    pub const MIRROR: Turn = Turn { mirrored: true, steps: 0 };

    /// The eight turns of square cells.
    pub const SQUARE: [Turn; 8] = [
        Turn::NONE,
        Turn::QUARTER,
        Turn::HALF,
        Turn::THREE_QUARTERS,
        Turn::MIRROR,
        Turn { mirrored: true, steps: 1 },
        Turn { mirrored: true, steps: 2 },
        Turn { mirrored: true, steps: 3 },
    ];

    const MIRROR_BIT: u8 = 8;

    /// Returns a turn of square cells from its flip and its quarters clockwise (0 to 3), or `None`
    /// for more quarters.
    pub const fn square(mirrored: bool, quarters: u8) -> Option<Turn> {
        if quarters < 4 { Some(Turn { mirrored, steps: quarters }) } else { None }
    }

    /// Returns whether left and right change places before the rotation.
    pub const fn is_mirrored(self) -> bool {
        self.mirrored
    }

    /// Returns the steps of rotation, clockwise.
    pub const fn steps(self) -> u8 {
        self.steps
    }

    /// Returns the turn of square cells that does this one first and then `next`.
    #[must_use]
    pub const fn then(self, next: Turn) -> Turn {
        let own = if next.mirrored { 4 - self.steps } else { self.steps };
        Turn { mirrored: self.mirrored != next.mirrored, steps: (own + next.steps) % 4 }
    }

    /// Returns the turn of square cells that undoes this one.
    #[must_use]
    pub const fn inverse(self) -> Turn {
        if self.mirrored { self } else { Turn { mirrored: false, steps: (4 - self.steps) % 4 } }
    }

    /// Returns the four bits of this turn in a packed cell: the steps, and 8 for the flip.
    pub const fn to_bits(self) -> u8 {
        self.steps | if self.mirrored { Self::MIRROR_BIT } else { 0 }
    }

    /// Returns the turn of four packed bits, or `None` where they name none.
    pub const fn from_bits(bits: u8) -> Option<Turn> {
        if bits < 16 { Turn::square(bits & Self::MIRROR_BIT != 0, bits & 7) } else { None }
    }

    pub(super) const fn from_valid_bits(bits: u8) -> Turn {
        Turn { mirrored: bits & Self::MIRROR_BIT != 0, steps: bits & 7 }
    }

    /// The place to which a cell of a rectangle comes when the rectangle is turned like the picture of a
    /// tile, and its upper left corner stays where it is; `None` beyond the limits of cells.
    pub(crate) fn place_in(self, rect: CellRect, cell: CellPos) -> Option<CellPos> {
        let way = cell - rect.corner();
        let (x, y) = (i64::from(way.x), i64::from(way.y));
        let (right, bottom) = (i64::from(rect.width()) - 1, i64::from(rect.height()) - 1);
        let x = if self.mirrored { right - x } else { x };
        let (x, y) = match self.steps {
            0 => (x, y),
            1 => (bottom - y, x),
            2 => (right - x, bottom - y),
            _ => (y, right - x),
        };
        CellPos::checked(i64::from(rect.left()) + x, i64::from(rect.top()) + y)
    }

    /// Where a pixel of the turned picture comes from: the pixel of the picture itself, for a
    /// picture of `width` × `height` pixels and a turn of square cells. The turned picture is
    /// `height` × `width` pixels when the steps are odd.
    pub(crate) fn source_pixel(self, x: u32, y: u32, width: u32, height: u32) -> (u32, u32) {
        let (right, bottom) = (width - 1, height - 1);
        let (x, y) = match self.steps {
            0 => (x, y),
            1 => (y, bottom - x),
            2 => (right - x, bottom - y),
            _ => (right - y, x),
        };
        if self.mirrored { (right - x, y) } else { (x, y) }
    }
}

impl fmt::Display for Turn {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        super::CellMarks { turn: *self, ..super::CellMarks::default() }.fmt(f)
    }
}
