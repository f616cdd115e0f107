//! Lines, strokes, ellipses and polygons as sets of cells.

use super::build::{Builder, CellSetError, MAX_CHUNKS, check_size};
use super::set::CellSet;
use crate::lattice::Lattice;
use crate::units::{CellPos, CellRect, ChunkPos, WorldPoint, WorldRect, pairs};

impl CellSet {
    /// Returns the cells of a straight line from one cell to another, with both. Each step goes to one of
    /// the eight cells around; the line back has the same cells.
    ///
    /// The line is that of J. E. Bresenham ("Algorithm for computer control of a digital plotter", IBM
    /// Systems Journal 1965).
    ///
    /// # Errors
    /// A line of more than 2²⁵ cells.
    ///
    /// ```
    /// use sturdy_quilt::{CellPos, CellSet};
    ///
    /// let line = CellSet::line(CellPos::new(-2, 0), CellPos::new(3, 2))?;
    /// assert_eq!(line.len(), 6);
    /// assert!(line.contains(CellPos::new(0, 1)));
    /// # Ok::<(), sturdy_quilt::cell_set::CellSetError>(())
    /// ```
    pub fn line(from: CellPos, to: CellPos) -> Result<CellSet, CellSetError> {
        CellSet::stroke([from, to])
    }

    /// Returns the cells of straight lines from each cell to the next: those of a stroke of the pointer,
    /// without gaps however far its samples lie apart. A single cell gives itself, none gives none.
    ///
    /// # Errors
    /// A line of more than 2²⁵ cells.
    ///
    /// For a thick stroke, [grow](CellSet::grow) it.
    pub fn stroke(cells: impl IntoIterator<Item = CellPos>) -> Result<CellSet, CellSetError> {
        let mut builder = Builder::new();
        let mut last = None;
        for cell in cells {
            each_of_line(last.unwrap_or(cell), cell, |at| builder.insert(at))?;
            last = Some(cell);
        }
        Ok(builder.finish())
    }

    /// Returns the cells of a rectangle whose centres lie in the ellipse that touches its four sides.
    ///
    /// # Errors
    /// As [`CellSet::rect`].
    ///
    /// ```
    /// use sturdy_quilt::{CellPos, CellRect, CellSet};
    ///
    /// let pond = CellSet::ellipse(CellRect::new(CellPos::new(-4, 0), 8, 6))?;
    /// assert!(!pond.contains(CellPos::new(-4, 0)) && pond.contains(CellPos::new(-4, 2)));
    /// assert_eq!(pond.outline(Default::default()).len(), 16);
    /// # Ok::<(), sturdy_quilt::cell_set::CellSetError>(())
    /// ```
    pub fn ellipse(rect: CellRect) -> Result<CellSet, CellSetError> {
        check_size(rect)?;
        let mut builder = Builder::new();
        // Twice the way from the middle to the centre of a cell is a whole number, `u` to the side and
        // `v` down: it lies inside where (u/w)² + (v/h)² ≤ 1.
        let (width, height) = (u128::from(rect.width()), u128::from(rect.height()));
        for y in rect.top()..rect.bottom() {
            let v = (2 * u128::from(y.abs_diff(rect.top())) + 1).abs_diff(height);
            let u = ((height * height - v * v) * width * width / (height * height)).isqrt();
            // The columns that are left out on either side.
            let out = (width - 1).saturating_sub(u).div_ceil(2);
            let out = i32::try_from(out).unwrap_or(i32::MAX);
            let first = rect.left().saturating_add(out);
            let last = (rect.right() - 1).saturating_sub(out);
            if first <= last {
                builder.insert_row(y, first, last);
            }
        }
        Ok(builder.finish())
    }

    /// Returns the cells whose centres lie in a polygon, of which an odd number of sides lie to their
    /// right: where its sides cross, some of what they enclose lies outside. The sides are those that
    /// [`Marker::polygon`](crate::Marker::polygon) has.
    ///
    /// # Errors
    /// A corner that is not finite; and as [`CellSet::rect`].
    ///
    /// Costs a look at each side a row, and at the cells inside.
    ///
    /// ```
    /// use sturdy_quilt::{CellSet, Lattice, WorldPoint};
    ///
    /// let lattice = Lattice::square(16.0, 16.0)?;
    /// let corners = [(0.0, 0.0), (64.0, 0.0), (0.0, 64.0)].map(|(x, y)| WorldPoint::new(x, y));
    /// let bed = CellSet::polygon(&lattice, &corners)?;
    /// assert_eq!(bed.len(), 3 + 2 + 1);
    /// let border = CellSet::polygon_outline(&lattice, &corners)?;
    /// assert_eq!((&bed | &border).len(), 13);
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    pub fn polygon(lattice: &Lattice, corners: &[WorldPoint]) -> Result<CellSet, CellSetError> {
        check_corners(corners)?;
        let rect = lattice.cells_in(WorldRect::around(corners.iter().copied()));
        check_size(rect)?;
        let mut builder = Builder::new();
        let mut crossings = Vec::new();
        for y in rect.top()..rect.bottom() {
            let center = |x: i32| lattice.center(CellPos::new(x, y));
            let level = center(rect.left()).y;
            crossings.clear();
            // As `polygon_holds` has it, to the last bit.
            crossings.extend(
                pairs(corners)
                    .filter(|(a, b)| (a.y > level) != (b.y > level))
                    .map(|(a, b)| a.x + (level - a.y) / (b.y - a.y) * (b.x - a.x)),
            );
            crossings.sort_unstable_by(f64::total_cmp);
            // The first column whose centre does not lie to the left of a crossing.
            let column = |crossing: f64| {
                let near = lattice.cell_at(WorldPoint::new(crossing, level)).x();
                let near = near.clamp(rect.left(), rect.right() - 1);
                let is_left = |x: &i32| center(*x).x < crossing;
                let far = near.saturating_add(2).min(rect.right());
                (near.saturating_sub(1).max(rect.left())..far).find(|x| !is_left(x)).unwrap_or(far)
            };
            for inside in crossings.chunks_exact(2) {
                let (first, end) = (column(inside[0]), column(inside[1]));
                if first < end {
                    builder.insert_row(y, first, end - 1);
                }
            }
        }
        Ok(builder.finish())
    }

    /// Returns the cells of straight lines between those in which the corners of a polygon lie, one after
    /// the other and from the last to the first.
    ///
    /// # Errors
    /// A corner that is not finite; a line of more than 2²⁵ cells.
    pub fn polygon_outline(
        lattice: &Lattice,
        corners: &[WorldPoint],
    ) -> Result<CellSet, CellSetError> {
        check_corners(corners)?;
        let around = corners.iter().chain(corners.first());
        CellSet::stroke(around.map(|corner| lattice.cell_at(*corner)))
    }
}

fn check_corners(corners: &[WorldPoint]) -> Result<(), CellSetError> {
    match corners.iter().position(|corner| !corner.is_finite()) {
        Some(at) => Err(CellSetError::Corner(at)),
        None => Ok(()),
    }
}

/// Visits the cells of straight lines from each cell to the next, as many in a row as lie in one chunk, if
/// any: by their places there.
pub(crate) fn each_of_stroke(
    cells: impl IntoIterator<Item = CellPos>,
    mut visit: impl FnMut(ChunkPos, &[u16]),
) -> Result<(), CellSetError> {
    // As many as a straight line has in a chunk, and some more.
    const MOST: usize = 128;
    let (mut held, mut count) = ([0; MOST], 0);
    let (mut pos, mut last) = (ChunkPos::default(), None);
    for cell in cells {
        each_of_line(last.unwrap_or(cell), cell, |at| {
            if at.chunk() != pos || count == MOST {
                visit(pos, &held[..count]);
                (pos, count) = (at.chunk(), 0);
            }
            held[count % MOST] = at.index_in_chunk() as u16;
            count += 1;
        })?;
        last = Some(cell);
    }
    visit(pos, &held[..count]);
    Ok(())
}

/// Visits the cells of a line, from its upper, or else its left end on. Of two cells that are as near to
/// it, the one nearer to that end is taken, whichever way the line goes.
#[inline]
fn each_of_line(
    a: CellPos,
    b: CellPos,
    mut visit: impl FnMut(CellPos),
) -> Result<(), CellSetError> {
    let (from, to) = (a.min(b), a.max(b));
    let way = to - from;
    let (width, height) = (i64::from(way.x).abs(), i64::from(way.y).abs());
    let steps = width.max(height);
    // A line goes through at most two chunks for each that it is long.
    if steps as u64 / u64::from(ChunkPos::SIDE) * 2 > MAX_CHUNKS {
        let rect = CellRect::between(from, to);
        return Err(CellSetError::TooLarge { rect, most: MAX_CHUNKS });
    }
    let (step_x, step_y) = (way.x.signum(), way.y.signum());
    // The way of every step, and of one that goes aside.
    let ((straight_x, straight_y), (aside_x, aside_y)) =
        if width >= height { ((step_x, 0), (0, step_y)) } else { ((0, step_y), (step_x, 0)) };
    let shorter = 2 * width.min(height);
    let (mut x, mut y, mut error) = (from.x(), from.y(), 0);
    visit(from);
    for _ in 0..steps {
        error += shorter;
        (x, y) = (x + straight_x, y + straight_y);
        if error > steps {
            error -= 2 * steps;
            (x, y) = (x + aside_x, y + aside_y);
        }
        visit(CellPos::within_limits(x, y));
    }
    Ok(())
}
