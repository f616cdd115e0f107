use std::fmt;

use serde::{Deserialize, Deserializer, Serialize, Serializer};

/// The position of one cell: its column and row, each within ±2³⁰.
///
/// Columns grow to the right and rows grow downwards; the origin is an ordinary cell and no
/// border. Both run from [`CellPos::MIN`] to [`CellPos::MAX`] (−2³⁰ to 2³⁰−1), so that
/// differences and half-open ends always fit an `i32`. Positions order as one reads: by row, then
/// by column.
///
/// ```
/// use sturdy_quilt::CellPos;
///
/// let cell = CellPos::new(-3, 7);
/// assert_eq!((cell.x(), cell.y()), (-3, 7));
/// assert_eq!(cell.to_string(), "-3,7");
/// ```
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub struct CellPos {
    y: i32,
    x: i32,
}

impl CellPos {
    /// The lowest column and row: −2³⁰.
    pub const MIN: i32 = -(1 << 30);
    /// The highest column and row: 2³⁰−1.
    pub const MAX: i32 = (1 << 30) - 1;
    /// Column 0, row 0.
    pub const ORIGIN: CellPos = CellPos { x: 0, y: 0 };

    /// Returns the cell in column `x` and row `y`; what lies beyond the limits moves to the nearest
    /// limit.
    ///
    /// Where a number out of range must be noticed, use [`CellPos::checked`].
    pub const fn new(x: i32, y: i32) -> CellPos {
        CellPos { x: clamp(x as i64), y: clamp(y as i64) }
    }

    /// Returns the cell in column `x` and row `y`, or `None` beyond the limits.
    pub const fn checked(x: i64, y: i64) -> Option<CellPos> {
        let (cx, cy) = (clamp(x), clamp(y));
        if cx as i64 == x && cy as i64 == y { Some(CellPos { x: cx, y: cy }) } else { None }
    }

    /// The cell in a column and a row, or the nearest one within the limits.
    #[inline]
    pub(crate) const fn saturating(x: i64, y: i64) -> CellPos {
        CellPos { x: clamp(x), y: clamp(y) }
    }

    /// A cell that is known to lie within the limits.
    pub(crate) const fn within_limits(x: i32, y: i32) -> CellPos {
        debug_assert!(clamp(x as i64) == x && clamp(y as i64) == y);
        CellPos { x, y }
    }

    /// Returns the column.
    pub const fn x(self) -> i32 {
        self.x
    }

    /// Returns the row.
    pub const fn y(self) -> i32 {
        self.y
    }

    /// Returns the cell `offset` away, or `None` beyond the limits.
    ///
    /// ```
    /// use sturdy_quilt::units::CellOffset;
    /// use sturdy_quilt::CellPos;
    ///
    /// let left = CellOffset::new(-1, 0);
    /// assert_eq!(CellPos::new(0, 5).checked_add(left), Some(CellPos::new(-1, 5)));
    /// assert_eq!(CellPos::new(CellPos::MIN, 0).checked_add(left), None);
    /// ```
    pub const fn checked_add(self, offset: CellOffset) -> Option<CellPos> {
        CellPos::checked(self.x as i64 + offset.x as i64, self.y as i64 + offset.y as i64)
    }

    /// Returns the cell `offset` away, stopping at the limits.
    pub const fn saturating_add(self, offset: CellOffset) -> CellPos {
        CellPos {
            x: clamp(self.x as i64 + offset.x as i64),
            y: clamp(self.y as i64 + offset.y as i64),
        }
    }
}

pub(super) const fn clamp(value: i64) -> i32 {
    if value < CellPos::MIN as i64 {
        CellPos::MIN
    } else if value > CellPos::MAX as i64 {
        CellPos::MAX
    } else {
        value as i32
    }
}

impl std::ops::Sub for CellPos {
    type Output = CellOffset;

    /// The way from `other` to this cell. It always fits.
    fn sub(self, other: CellPos) -> CellOffset {
        CellOffset { x: self.x - other.x, y: self.y - other.y }
    }
}

impl fmt::Display for CellPos {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(f, "{},{}", self.x, self.y)
    }
}

impl Serialize for CellPos {
    fn serialize<S: Serializer>(&self, serializer: S) -> Result<S::Ok, S::Error> {
        [self.x, self.y].serialize(serializer)
    }
}

impl<'de> Deserialize<'de> for CellPos {
    fn deserialize<D: Deserializer<'de>>(deserializer: D) -> Result<Self, D::Error> {
        let [x, y] = <[i64; 2]>::deserialize(deserializer)?;
        CellPos::checked(x, y).ok_or_else(|| {
            serde::de::Error::custom(format!("cell {x},{y} lies outside -2^30..2^30"))
        })
    }
}

/// The offset from one cell to another: columns to the right and rows down.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Hash, Serialize, Deserialize)]
pub struct CellOffset {
    /// Columns to the right; negative to the left.
    pub x: i32,
    /// Rows down; negative upwards.
    pub y: i32,
}

impl CellOffset {
    /// Returns the offset of `x` columns to the right and `y` rows down.
    pub const fn new(x: i32, y: i32) -> CellOffset {
        CellOffset { x, y }
    }

    /// Returns the offset in the opposite direction; `i32::MIN` becomes `i32::MAX`.
    pub const fn reversed(self) -> CellOffset {
        CellOffset { x: 0i32.saturating_sub(self.x), y: 0i32.saturating_sub(self.y) }
    }
}
