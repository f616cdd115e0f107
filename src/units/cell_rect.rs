use std::fmt;

use serde::{Deserialize, Deserializer, Serialize, Serializer};

use super::cell::clamp;
use super::{CellOffset, CellPos, ChunkPos, TractPos};

/// A rectangle of cells: the cells from its corner up to, but not with, its end.
///
/// **Guarantees.** It is half-open and ordered by construction, lies within the limits of
/// [`CellPos`], and every empty rectangle equals [`CellRect::EMPTY`].
///
/// ```
/// use sturdy_quilt::{CellPos, CellRect};
///
/// let rect = CellRect::new(CellPos::new(-2, 1), 3, 2);
/// assert!(rect.contains(CellPos::new(0, 2)));
/// assert!(!rect.contains(CellPos::new(1, 2)));
/// assert_eq!(rect.cell_count(), 6);
/// ```
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Hash)]
pub struct CellRect {
    left: i32,
    top: i32,
    right: i32,
    bottom: i32,
}

impl CellRect {
    /// The rectangle without cells.
    pub const EMPTY: CellRect = CellRect { left: 0, top: 0, right: 0, bottom: 0 };

    /// The rectangle of every cell.
    pub const EVERYWHERE: CellRect = CellRect {
        left: CellPos::MIN,
        top: CellPos::MIN,
        right: CellPos::MAX + 1,
        bottom: CellPos::MAX + 1,
    };

    /// Returns `width` × `height` cells whose top left one is `corner`, cut off at the limits.
    #[inline]
    pub const fn new(corner: CellPos, width: u32, height: u32) -> CellRect {
        if width == 0 || height == 0 {
            return CellRect::EMPTY;
        }
        CellRect {
            left: corner.x(),
            top: corner.y(),
            right: clamp(corner.x() as i64 + width as i64 - 1) + 1,
            bottom: clamp(corner.y() as i64 + height as i64 - 1) + 1,
        }
    }

    /// The rectangle between edges that are known to be ordered and within the limits.
    #[inline]
    pub(crate) const fn within_limits(left: i32, top: i32, right: i32, bottom: i32) -> CellRect {
        debug_assert!(left < right && top < bottom);
        CellRect { left, top, right, bottom }
    }

    /// Returns the smallest rectangle that holds both cells, whichever way round they are given.
    pub fn between(a: CellPos, b: CellPos) -> CellRect {
        CellRect {
            left: a.x().min(b.x()),
            top: a.y().min(b.y()),
            right: a.x().max(b.x()) + 1,
            bottom: a.y().max(b.y()) + 1,
        }
    }

    /// Returns the rectangle of one cell.
    pub fn of_cell(cell: CellPos) -> CellRect {
        CellRect::between(cell, cell)
    }

    /// Returns the first column.
    pub const fn left(self) -> i32 {
        self.left
    }

    /// Returns the first row.
    pub const fn top(self) -> i32 {
        self.top
    }

    /// Returns the column behind the last one.
    pub const fn right(self) -> i32 {
        self.right
    }

    /// Returns the row behind the last one.
    pub const fn bottom(self) -> i32 {
        self.bottom
    }

    /// Returns the top left cell; [`CellPos::ORIGIN`] when empty.
    #[inline]
    pub const fn corner(self) -> CellPos {
        CellPos::new(self.left, self.top)
    }

    /// Returns the number of columns.
    #[inline]
    pub const fn width(self) -> u32 {
        self.right.abs_diff(self.left)
    }

    /// Returns the number of rows.
    #[inline]
    pub const fn height(self) -> u32 {
        self.bottom.abs_diff(self.top)
    }

    /// Returns the number of cells.
    #[inline]
    pub const fn cell_count(self) -> u64 {
        self.width() as u64 * self.height() as u64
    }

    /// Returns whether it holds no cell.
    #[inline]
    pub const fn is_empty(self) -> bool {
        self.left >= self.right
    }

    /// Returns whether `cell` is one of its cells.
    pub const fn contains(self, cell: CellPos) -> bool {
        self.left <= cell.x()
            && cell.x() < self.right
            && self.top <= cell.y()
            && cell.y() < self.bottom
    }

    /// Returns whether every cell of `other` is one of its cells; the empty rectangle is in all.
    #[inline]
    pub fn contains_rect(self, other: CellRect) -> bool {
        self.intersection(other) == other
    }

    /// Returns the cells that are in both.
    #[inline]
    pub fn intersection(self, other: CellRect) -> CellRect {
        let left = self.left.max(other.left);
        let top = self.top.max(other.top);
        let right = self.right.min(other.right);
        let bottom = self.bottom.min(other.bottom);
        if left >= right || top >= bottom {
            return CellRect::EMPTY;
        }
        CellRect { left, top, right, bottom }
    }

    /// Returns the smallest rectangle that holds both.
    pub fn union(self, other: CellRect) -> CellRect {
        if self.is_empty() {
            return other;
        }
        if other.is_empty() {
            return self;
        }
        CellRect {
            left: self.left.min(other.left),
            top: self.top.min(other.top),
            right: self.right.max(other.right),
            bottom: self.bottom.max(other.bottom),
        }
    }

    /// Returns the rectangle `offset` away; what would leave the limits is cut off.
    #[inline]
    pub fn moved(self, offset: CellOffset) -> CellRect {
        let bounded = |value: i32, by: i32| {
            (i64::from(value) + i64::from(by))
                .clamp(i64::from(CellPos::MIN), i64::from(CellPos::MAX) + 1) as i32
        };
        let (left, right) = (bounded(self.left, offset.x), bounded(self.right, offset.x));
        let (top, bottom) = (bounded(self.top, offset.y), bounded(self.bottom, offset.y));
        if left >= right || top >= bottom {
            return CellRect::EMPTY;
        }
        CellRect { left, top, right, bottom }
    }

    /// Returns all its cells, row by row, each row from left to right.
    pub fn cells(self) -> Cells {
        Cells { rect: self, next: self.corner() }
    }

    /// The cell with the greatest column and row, of a rectangle that is not empty.
    #[inline]
    pub(crate) const fn last_cell(self) -> CellPos {
        CellPos::new(self.right - 1, self.bottom - 1)
    }

    /// How many chunks it touches.
    pub(crate) fn chunk_count(self) -> u64 {
        if self.is_empty() {
            return 0;
        }
        let (first, last) = (self.corner().chunk(), self.last_cell().chunk());
        let (columns, rows) = (last.x().abs_diff(first.x()) + 1, last.y().abs_diff(first.y()) + 1);
        u64::from(columns) * u64::from(rows)
    }

    /// Returns the chunks that it touches, row by row, each row from left to right.
    pub fn chunks(self) -> impl Iterator<Item = ChunkPos> + Clone {
        let (first, last) = if self.is_empty() {
            (ChunkPos::new(1, 1), ChunkPos::new(0, 0))
        } else {
            (self.corner().chunk(), self.last_cell().chunk())
        };
        (first.y()..=last.y())
            .flat_map(move |y| (first.x()..=last.x()).map(move |x| ChunkPos::new(x, y)))
    }

    /// How many tracts hold cells of it.
    pub(crate) fn tract_count(self) -> u64 {
        if self.is_empty() {
            return 0;
        }
        let (first, last) = (self.corner().tract(), self.last_cell().tract());
        u64::from(first.x().abs_diff(last.x()) + 1) * u64::from(first.y().abs_diff(last.y()) + 1)
    }

    /// The tracts that hold its cells, row by row.
    pub(crate) fn tracts(self) -> impl Iterator<Item = TractPos> + Clone {
        let (first, last) = if self.is_empty() {
            (TractPos::new(1, 1), TractPos::new(0, 0))
        } else {
            (self.corner().tract(), self.last_cell().tract())
        };
        (first.y()..=last.y())
            .flat_map(move |y| (first.x()..=last.x()).map(move |x| TractPos::new(x, y)))
    }
}

impl fmt::Display for CellRect {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(f, "{} × {} cells at {}", self.width(), self.height(), self.corner())
    }
}

#[derive(Serialize, Deserialize)]
struct Spelled {
    at: CellPos,
    size: [u32; 2],
}

impl Serialize for CellRect {
    fn serialize<S: Serializer>(&self, serializer: S) -> Result<S::Ok, S::Error> {
        Spelled { at: self.corner(), size: [self.width(), self.height()] }.serialize(serializer)
    }
}

impl<'de> Deserialize<'de> for CellRect {
    fn deserialize<D: Deserializer<'de>>(deserializer: D) -> Result<Self, D::Error> {
        let Spelled { at, size: [width, height] } = Spelled::deserialize(deserializer)?;
        Ok(CellRect::new(at, width, height))
    }
}

/// The cells of a rectangle, row by row. Made by [`CellRect::cells`].
#[derive(Clone, Debug)]
pub struct Cells {
    rect: CellRect,
    next: CellPos,
}

impl Iterator for Cells {
    type Item = CellPos;

    fn next(&mut self) -> Option<CellPos> {
        if self.next.y() >= self.rect.bottom || self.rect.is_empty() {
            return None;
        }
        let cell = self.next;
        if cell.x() + 1 < self.rect.right {
            self.next = CellPos::new(cell.x() + 1, cell.y());
        } else if cell.y() + 1 < self.rect.bottom {
            self.next = CellPos::new(self.rect.left, cell.y() + 1);
        } else {
            self.rect = CellRect::EMPTY;
        }
        Some(cell)
    }
}
