use super::{CellOffset, WorldVec};

/// A side of a cell, such as the one that a moving body has met.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
#[non_exhaustive]
pub enum Side {
    /// Its left side: what met it moved to the right.
    Left,
    /// Its right side: what met it moved to the left.
    Right,
    /// Its upper side: what met it moved down.
    Top,
    /// Its lower side: what met it moved up.
    Bottom,
}

impl Side {
    /// The four sides.
    pub const ALL: [Side; 4] = [Side::Left, Side::Right, Side::Top, Side::Bottom];

    /// Returns whether it stops motion to the left or right, and not up or down.
    pub const fn is_upright(self) -> bool {
        matches!(self, Side::Left | Side::Right)
    }

    /// Returns the side across from it.
    pub const fn opposite(self) -> Side {
        match self {
            Side::Left => Side::Right,
            Side::Right => Side::Left,
            Side::Top => Side::Bottom,
            Side::Bottom => Side::Top,
        }
    }

    /// From a cell to the one that lies beside it there.
    pub(crate) const fn offset(self) -> CellOffset {
        match self {
            Side::Left => CellOffset::new(-1, 0),
            Side::Right => CellOffset::new(1, 0),
            Side::Top => CellOffset::new(0, -1),
            Side::Bottom => CellOffset::new(0, 1),
        }
    }

    /// Returns the direction away from the cell, one unit long.
    pub const fn normal(self) -> WorldVec {
        match self {
            Side::Left => WorldVec::new(-1.0, 0.0),
            Side::Right => WorldVec::new(1.0, 0.0),
            Side::Top => WorldVec::new(0.0, -1.0),
            Side::Bottom => WorldVec::new(0.0, 1.0),
        }
    }

    /// The side to which a direction belongs, about one unit long; of two that it lies between, the
    /// upper or lower one.
    pub(crate) fn facing(direction: WorldVec) -> Side {
        /// Of slopes of 45° only rounding would decide.
        const ROUNDING: f64 = 1e-9;
        if direction.x.abs() > direction.y.abs() + ROUNDING {
            if direction.x < 0.0 { Side::Left } else { Side::Right }
        } else if direction.y < 0.0 {
            Side::Top
        } else {
            Side::Bottom
        }
    }

    /// Returns the word for it.
    pub const fn name(self) -> &'static str {
        match self {
            Side::Left => "left",
            Side::Right => "right",
            Side::Top => "top",
            Side::Bottom => "bottom",
        }
    }
}

/// Some sides of a cell.
///
/// ```
/// use sturdy_quilt::units::Sides;
/// use sturdy_quilt::Side;
///
/// let sides = Sides::of([Side::Top, Side::Left]);
/// assert!(sides.contains(Side::Left) && !sides.contains(Side::Right));
/// ```
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Hash)]
pub struct Sides(u8);

impl Sides {
    /// No side.
    pub const NONE: Sides = Sides(0);
    /// The upper one alone: that of a platform.
    pub const TOP: Sides = Sides(1 << Side::Top as u8);

    /// Returns a set of these sides.
    pub fn of(sides: impl IntoIterator<Item = Side>) -> Sides {
        Sides(sides.into_iter().fold(0, |bits, side| bits | 1 << side as u8))
    }

    /// Returns whether a side is one of them.
    pub const fn contains(self, side: Side) -> bool {
        self.0 >> side as u8 & 1 == 1
    }

    /// Returns whether it is none.
    pub const fn is_empty(self) -> bool {
        self.0 == 0
    }

    /// Returns the sides, in the order of [`Side::ALL`].
    pub fn iter(self) -> impl Iterator<Item = Side> {
        Side::ALL.into_iter().filter(move |side| self.contains(*side))
    }
}
