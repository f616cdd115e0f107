//! The geometry of a map that is seen at a slant.
//!
//! Of a cell in column u and row v, as the map is turned, the *rank* is s = u + v, and t = u − v. Its
//! top corner lies t half widths of a diamond to the right, and s half heights down. So all cells lie
//! on lines of half a diamond, and what a screen shows of them is a range of s and one of t.

use crate::picture::{Color, Picture};
use crate::tile::{ArtPage, Coverage, Fit, TileArt, Turn};
use crate::units::{CellPos, CellRect, PixelRect, PixelSize};
use crate::view::Projection;

/// Half the width and half the height of the diamond of a cell, in picture pixels.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) struct Diamond {
    pub(crate) half_width: i64,
    pub(crate) half_height: i64,
}

/// Whole picture pixels: of the pane, or from the top corner of a cell on.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub(crate) struct PaneCells {
    pub(crate) left: i64,
    pub(crate) top: i64,
    pub(crate) right: i64,
    pub(crate) bottom: i64,
}

impl PaneCells {
    pub(crate) const fn moved(self, x: i64, y: i64) -> PaneCells {
        PaneCells {
            left: self.left + x,
            top: self.top + y,
            right: self.right + x,
            bottom: self.bottom + y,
        }
    }

    pub(crate) const fn width(self) -> i64 {
        self.right - self.left
    }

    /// The smallest one around both, of which neither is empty.
    pub(crate) fn union(self, other: PaneCells) -> PaneCells {
        PaneCells {
            left: self.left.min(other.left),
            top: self.top.min(other.top),
            right: self.right.max(other.right),
            bottom: self.bottom.max(other.bottom),
        }
    }
}

/// The rank of a cell.
pub(crate) const fn rank(cell: CellPos) -> i32 {
    cell.x() + cell.y()
}

impl Diamond {
    /// That of a projection; `None` from above.
    pub(crate) fn of(projection: &Projection) -> Option<Diamond> {
        let (width, height) = projection.half_diamond()?;
        Some(Diamond { half_width: width.into(), half_height: height.into() })
    }

    /// The place of the top corner of a cell on the pane.
    pub(crate) const fn corner(&self, cell: CellPos) -> (i64, i64) {
        let (x, y) = (cell.x() as i64, cell.y() as i64);
        ((x - y) * self.half_width, (x + y) * self.half_height)
    }

    /// The pixels of the upright rectangle around a cell, from its top corner on.
    pub(crate) const fn own_frame(&self) -> PaneCells {
        let (half, bottom) = (self.half_width, 2 * self.half_height);
        PaneCells { left: -half, top: 0, right: half, bottom }
    }

    /// The pixels of a picture, from the top corner of its cell on.
    pub(crate) fn frame(&self, art: &TileArt) -> PaneCells {
        let (width, height) = (2 * self.half_width, 2 * self.half_height);
        let Fit::Placed(placement) = &art.fit else {
            return self.own_frame();
        };
        let whole = |length: f64| (length.round() as i64).max(1);
        let size = placement.size(art.source.size);
        let (own_width, own_height) = (whole(size.0), whole(size.1));
        let ((x, y), (cell_x, cell_y)) = placement.slanted_points();
        let along = |own: i64, part: f64| own as f64 * part;
        let left = along(width, cell_x) - along(own_width, x) + placement.offset.x;
        let top = along(height, cell_y) - along(own_height, y) + placement.offset.y;
        let (left, top) = (left.round() as i64 - self.half_width, top.round() as i64);
        PaneCells { left, top, right: left + own_width, bottom: top + own_height }
    }

    /// The pixels of the pane that the pictures of some cells may have, if they reach so far.
    pub(super) fn reach_of(&self, cells: CellRect, reach: PaneCells) -> PaneCells {
        let (left, top) = (i64::from(cells.left()), i64::from(cells.top()));
        let (right, bottom) = (i64::from(cells.right()) - 1, i64::from(cells.bottom()) - 1);
        PaneCells {
            left: (left - bottom) * self.half_width + reach.left,
            top: (left + top) * self.half_height + reach.top,
            right: (right - top) * self.half_width + reach.right,
            bottom: (right + bottom) * self.half_height + reach.bottom,
        }
    }

    /// How near the foot of a picture is that stands in its cell, from the rank of the cell on;
    /// `None` for a face.
    pub(super) fn nearness(art: TileArt) -> Option<f64> {
        let Fit::Placed(placement) = art.fit else { return None };
        placement.anchor.map(|_| 2.0 * placement.slanted_points().1.1)
    }

    /// Whether a pixel of the rectangle around a diamond, from its left and its top on, belongs to it:
    /// its centre lies in the cell.
    pub(crate) const fn holds(&self, x: i64, y: i64) -> bool {
        // In quarters of a cell's sides, times both halves.
        let whole = 4 * self.half_width * self.half_height;
        let across = (2 * x + 1 - 2 * self.half_width) * self.half_height;
        let down = (2 * y + 1) * self.half_width;
        let (u, v) = (down + across, down - across);
        0 <= u && u < whole && 0 <= v && v < whole
    }

    /// The pixels of a row of the rectangle around a diamond that belong to it: from the first up to, but
    /// not with, the second.
    fn row(&self, y: i64) -> (i64, i64) {
        let first = (0..2 * self.half_width).find(|x| self.holds(*x, y)).unwrap_or(0);
        let last = (first..2 * self.half_width).rev().find(|x| self.holds(*x, y));
        (first, last.map_or(first, |last| last + 1))
    }

    /// The pixels of all its rows.
    pub(super) fn rows(&self) -> Vec<(i64, i64)> {
        (0..2 * self.half_height).map(|y| self.row(y)).collect()
    }

    /// What a picture is to those in its cell: whether it covers the whole diamond, and whether it
    /// reaches beyond.
    pub(super) fn covering(
        &self,
        (art, turn): (TileArt, Turn),
        page: &ArtPage,
        rows: &[(i64, i64)],
    ) -> (bool, bool) {
        let frame = self.frame(&art);
        let (width, height) = (art.source.size.width, art.source.size.height);
        let is_natural = (frame.right - frame.left, frame.bottom - frame.top)
            == (i64::from(width), i64::from(height));
        if !is_natural {
            return (false, true);
        }
        let own = self.own_frame();
        let within = frame.left <= own.left && own.right <= frame.right;
        let mut covers = within && frame.top <= own.top && own.bottom <= frame.bottom;
        let mut juts = false;
        for (y, at) in (0..height).zip(frame.top..) {
            let pixels = page.row(art.source, y);
            let row =
                usize::try_from(at).ok().and_then(|at| rows.get(at)).copied().unwrap_or((0, 0));
            // From the left of the picture on.
            let from_left = |x: i64| (x + own.left - frame.left).clamp(0, width.into()) as usize;
            let (first, end) = match turn.is_mirrored() {
                false => (from_left(row.0), from_left(row.1)),
                // The row of the diamond as it lies on the picture before that is mirrored.
                true => (pixels.len() - from_left(row.1), pixels.len() - from_left(row.0)),
            };
            let (before, rest) = pixels.split_at(first.min(pixels.len()));
            let (inner, behind) = rest.split_at((end - first).min(rest.len()));
            juts = juts || before.iter().chain(behind).any(|pixel| pixel[3] > 0);
            covers = covers && inner.iter().all(|pixel| pixel[3] == 255);
            if juts && !covers {
                break;
            }
        }
        (covers, juts)
    }

    /// The pictures of diamonds in one colour: white, the stripes of missing tiles, and the grey of
    /// what is not loaded, one below the other.
    pub(super) fn plain_page(&self, placeholders: &ArtPage) -> ArtPage {
        let (width, height) = (2 * self.half_width, 2 * self.half_height);
        let size = PixelSize::new(width as u32, 3 * height as u32);
        let mut picture = Picture::filled(size, Color::CLEAR);
        let places = (0..height).flat_map(|y| (0..width).map(move |x| (x, y)));
        for (x, y) in places.filter(|(x, y)| self.holds(*x, *y)) {
            // The stripes lie on the cell as on every other.
            let part = |place: i64| (place * 4 / (4 * self.half_width * self.half_height)) as u32;
            let across = (2 * x + 1 - width) * self.half_height;
            let down = (2 * y + 1) * self.half_width;
            let (u, v) = (part(down + across).min(3), part(down - across).min(3));
            let texel = |x: u32, y: u32| {
                let [r, g, b, a] =
                    placeholders.pixels()[(y * placeholders.size().width + x) as usize];
                Color::rgba(r, g, b, a)
            };
            let colors = [Color::WHITE, texel(u, v), texel(0, 4)];
            for (number, color) in (0..).zip(colors) {
                picture.set(x as u32, (y + number * height) as u32, color);
            }
        }
        ArtPage::from_picture(&picture)
    }

    /// The looks of those diamonds on that page.
    pub(super) fn plain_arts(&self) -> Vec<TileArt> {
        let (width, height) = (2 * self.half_width as u32, 2 * self.half_height as u32);
        let source =
            |number: u32| PixelRect::new(0, number * height, PixelSize::new(width, height));
        let art = |source| TileArt { source, coverage: Coverage::Holed, fit: Fit::Stretched };
        (0..3).map(source).map(art).collect()
    }
}

/// Cells whose ranks s = u + v and differences t = u − v lie in two ranges, each from the first up to
/// the last.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub(crate) struct RankSpan {
    pub(crate) ranks: (i64, i64),
    pub(crate) differences: (i64, i64),
}

impl RankSpan {
    pub(crate) const EMPTY: RankSpan = RankSpan { ranks: (0, -1), differences: (0, -1) };

    /// The cells whose pictures have a pixel in a part of the pane, if they reach so far.
    pub(crate) fn in_area(area: PaneCells, reach: PaneCells, diamond: &Diamond) -> RankSpan {
        if area.left >= area.right || area.top >= area.bottom {
            return RankSpan::EMPTY;
        }
        let range = |from: i64, end: i64, (before, after): (i64, i64), half: i64| {
            let first = (from - after).div_euclid(half) + 1;
            let last = -(before - end).div_euclid(half) - 1;
            (first, last)
        };
        RankSpan {
            ranks: range(area.top, area.bottom, (reach.top, reach.bottom), diamond.half_height),
            differences: range(
                area.left,
                area.right,
                (reach.left, reach.right),
                diamond.half_width,
            ),
        }
    }

    pub(crate) const fn is_empty(&self) -> bool {
        self.ranks.0 > self.ranks.1 || self.differences.0 > self.differences.1
    }

    /// The smallest rectangle of cells around it.
    pub(crate) fn bounds(&self) -> CellRect {
        if self.is_empty() {
            return CellRect::EMPTY;
        }
        let ((s, s_last), (t, t_last)) = (self.ranks, self.differences);
        let limit =
            |number: i64| number.clamp(CellPos::MIN.into(), i64::from(CellPos::MAX) + 1) as i32;
        CellRect::within_limits(
            limit((s + t).div_euclid(2)),
            limit((s - t_last).div_euclid(2)),
            limit((s_last + t_last).div_euclid(2) + 1),
            limit((s_last - t).div_euclid(2) + 1),
        )
    }

    /// Whether it may have a cell in common with a rectangle of cells: neither the lines of columns and
    /// rows nor those of ranks part them.
    pub(crate) fn touches(&self, cells: CellRect) -> bool {
        if cells.is_empty() {
            return false;
        }
        let (left, top) = (i64::from(cells.left()), i64::from(cells.top()));
        let (right, bottom) = (i64::from(cells.right()) - 1, i64::from(cells.bottom()) - 1);
        let meets = |(from, to): (i64, i64), least: i64, most: i64| from <= most && least <= to;
        meets(self.ranks, left + top, right + bottom)
            && meets(self.differences, left - bottom, right - top)
            && !self.bounds().intersection(cells).is_empty()
    }

    /// Whether it has a cell.
    pub(crate) const fn contains(&self, cell: CellPos) -> bool {
        let (x, y) = (cell.x() as i64, cell.y() as i64);
        let (s, t) = (x + y, x - y);
        self.ranks.0 <= s && s <= self.ranks.1 && self.differences.0 <= t && t <= self.differences.1
    }
}

impl RankSpan {
    /// A larger span, whose ends are multiples of a number: of views that are near each other, the
    /// same.
    pub(super) fn rounded(&self, to: i64) -> RankSpan {
        if self.is_empty() {
            return RankSpan::EMPTY;
        }
        let round = |(first, last): (i64, i64)| {
            (first.div_euclid(to) * to, (last.div_euclid(to) + 1) * to - 1)
        };
        RankSpan { ranks: round(self.ranks), differences: round(self.differences) }
    }

    /// The columns of a row of some cells that it has, a bit for each; at most 64.
    pub(super) fn columns(&self, left: i32, row: i32) -> u64 {
        // s = u + v and t = u − v lie in their ranges.
        let row = i64::from(row);
        let from = (self.ranks.0 - row).max(self.differences.0 + row) - i64::from(left);
        let last = (self.ranks.1 - row).min(self.differences.1 + row) - i64::from(left);
        let (from, end) = (from.clamp(0, 64) as u32, (last + 1).clamp(0, 64) as u32);
        let below = |count: u32| if count >= 64 { u64::MAX } else { (1 << count) - 1 };
        if from < end { below(end) & !below(from) } else { 0 }
    }
}
