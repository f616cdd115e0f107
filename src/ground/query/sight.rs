//! Lines of sight between the middles of cells, exact in whole numbers.
//!
//! A line between two middles crosses edges of cells at places whose ratio is one of small whole
//! numbers, so which edge comes first is decided without rounding, and the same from both ends. It
//! is blocked by a cell that it goes through, and between two cells that touch at a corner.
//!
//! The field of cells seen from one is found by the shadows that blocking cells cast, row by row
//! outwards, as in what is known as shadow casting. A shadow is an interval of slopes, kept as
//! exact fractions; cells whose middle lies on the border of one are asked one by one. So the field
//! is exactly that of the lines, and as symmetric.

use super::solid::{Solid, lines_of};
use crate::ground::state::GroundMap;
use crate::quilt::MoverId;
use crate::units::{CellPos, CellRect, WorldVec};

/// What blocks the view of a mover.
pub(super) struct Views<'a> {
    ground: &'a GroundMap,
    mover: MoverId,
    /// The cells of which anything blocks.
    any: Solid<'a>,
    /// Those of which only a part stops the mover, from all sides or from some.
    parts: Option<Solid<'a>>,
}

/// How a cell blocks the view.
#[derive(Clone, Copy, PartialEq)]
enum Blocks {
    Nothing,
    Part,
    All,
}

impl<'a> Views<'a> {
    pub(super) fn new(ground: &'a GroundMap, mover: MoverId) -> Views<'a> {
        let (any, parts) = (Solid::new(ground, mover), Solid::parts(ground, mover));
        Views { ground, mover, any, parts }
    }

    fn at(&mut self, column: i64, row: i64) -> Blocks {
        if !self.any.blocks(column, row) {
            return Blocks::Nothing;
        }
        let is_part = self.parts.as_mut().is_some_and(|parts| parts.blocks(column, row));
        if is_part { Blocks::Part } else { Blocks::All }
    }

    /// Whether a cell blocks a line from a place in parts of the cell.
    fn blocks_line(
        &mut self,
        (column, row): (i64, i64),
        from: (f64, f64),
        way: (f64, f64),
    ) -> bool {
        match self.at(column, row) {
            Blocks::Nothing => false,
            Blocks::All => true,
            Blocks::Part => {
                let (ground, cell) = (self.ground, CellPos::saturating(column, row));
                let lattice = ground.lattice();
                let (width, height) = (lattice.cell_width(), lattice.cell_height());
                let world = |(x, y): (f64, f64)| WorldVec::new(x * width, y * height);
                ground.solids_met(self.mover, cell).iter().any(|solid| {
                    ground.treatment_of(self.mover, cell, solid).blocks()
                        && solid.convex.enter(world(from), world(way)).is_some()
                })
            }
        }
    }

    /// Whether a cell blocks at one of its corners, in parts of the cell.
    fn blocks_corner(&mut self, (column, row): (i64, i64), corner: (f64, f64)) -> bool {
        match self.at(column, row) {
            Blocks::Nothing => false,
            Blocks::All => true,
            Blocks::Part => {
                let cell = CellPos::saturating(column, row);
                self.ground.corner_at(self.mover, cell, corner).is_some()
            }
        }
    }

    /// Whether the line between the middles of two cells goes through none that blocks, but for
    /// the two.
    pub(super) fn is_clear(&mut self, from: CellPos, to: CellPos) -> bool {
        let (x, y) = (i64::from(from.x()), i64::from(from.y()));
        let (dx, dy) = (i64::from(to.x()) - x, i64::from(to.y()) - y);
        let (step_x, step_y) = (dx.signum(), dy.signum());
        let (across, down) = (dx.abs(), dy.abs());
        // The middle of the first cell from the corner of another, and the way.
        let middle =
            |column: i64, row: i64| (0.5 - (column * step_x) as f64, 0.5 - (row * step_y) as f64);
        let way = (dx as f64, dy as f64);
        // Where it comes near the cells that may stop it, and where it is beyond them.
        let (mut column, mut row, last_column, last_row) = match self.any.cells_that_may_block() {
            None => (0, 0, across, down),
            Some(cells) => {
                let (columns, rows) = lines_of(cells);
                let columns = steps_to(columns, x, step_x);
                let rows = steps_to(rows, y, step_y);
                let (column, row) = (columns.0.clamp(0, across), rows.0.clamp(0, down));
                let by_column = (column, lines_passed(column, across, down));
                let by_row = (lines_passed(row, down, across), row);
                let (column, row) = by_column.max(by_row);
                (column, row, columns.1, rows.1)
            }
        };
        while column <= last_column && row <= last_row {
            // In halves of a cell: after an odd number of them it comes to an edge.
            let (to_column, to_row) = ((2 * column + 1) * down, (2 * row + 1) * across);
            if column < across && (row == down || to_column < to_row) {
                column += 1;
            } else if row < down && (column == across || to_row < to_column) {
                row += 1;
            } else if column < across {
                // The corner that it goes through, in parts of the two cells beside it.
                let (right, lower) = (f64::from(step_x > 0), f64::from(step_y > 0));
                let beside = (x + (column + 1) * step_x, y + row * step_y);
                let below = (x + column * step_x, y + (row + 1) * step_y);
                if self.blocks_corner(beside, (1.0 - right, lower))
                    && self.blocks_corner(below, (right, 1.0 - lower))
                {
                    return false;
                }
                (column, row) = (column + 1, row + 1);
            }
            if column == across && row == down {
                return true;
            }
            let cell = (x + column * step_x, y + row * step_y);
            if self.blocks_line(cell, middle(column, row), way) {
                return false;
            }
        }
        true
    }
}

/// How many lines it is from one to before some others, and to behind them.
fn steps_to((first, last): (i64, i64), from: i64, step: i64) -> (i64, i64) {
    let (near, far) =
        if step < 0 { (from - last, from - first) } else { (first - from, last - from) };
    // Cells that only touch a corner of the line may stop it, too.
    (near - 2, far + 1)
}

/// How many lines of the other direction it has come into when it comes into one.
fn lines_passed(line: i64, across: i64, down: i64) -> i64 {
    if line == 0 { 0 } else { ((2 * line - 1) * down + across) / (2 * across) }
}

/// The cells that are seen from one, see [`GroundMap::field_of_view`].
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct FieldOfView {
    bounds: CellRect,
    /// A bit for each cell of the bounds, row by row; rows begin with a word of their own.
    seen: Vec<u64>,
}

impl FieldOfView {
    /// Returns the cells that were asked for: a square around the one from which is seen.
    pub const fn bounds(&self) -> CellRect {
        self.bounds
    }

    /// Returns whether a cell is seen.
    pub fn contains(&self, cell: CellPos) -> bool {
        let Some((word, bit)) = self.place(cell) else { return false };
        self.seen[word] >> bit & 1 == 1
    }

    /// Returns the cells that are seen, row by row.
    pub fn cells(&self) -> impl Iterator<Item = CellPos> + '_ {
        self.bounds.cells().filter(|cell| self.contains(*cell))
    }

    fn place(&self, cell: CellPos) -> Option<(usize, u32)> {
        if !self.bounds.contains(cell) {
            return None;
        }
        let column = (cell.x() - self.bounds.left()) as usize;
        let row = (cell.y() - self.bounds.top()) as usize;
        let words = (self.bounds.width() as usize).div_ceil(64);
        Some((row * words + column / 64, (column % 64) as u32))
    }

    fn see(&mut self, cell: CellPos) {
        if let Some((word, bit)) = self.place(cell) {
            self.seen[word] |= 1 << bit;
        }
    }
}

impl GroundMap {
    /// The most cells that can be seen in each direction.
    pub const MAX_SIGHT: u32 = 1024;

    /// Returns the cells that are seen from a cell, up to `radius` cells in each direction, at most
    /// [`GroundMap::MAX_SIGHT`]: a square. What blocks the mover blocks the view.
    ///
    /// A cell that does not block, or of which only a part does, is seen when the line between the
    /// middles is clear, as [`GroundMap::sees`] says: so who sees is seen. A cell that blocks is
    /// seen when a part of it is: when it does not lie wholly in the shadows of such cells. The cell
    /// itself is always seen.
    ///
    /// Costs a look at each cell, and the shadows in each row; it allocates.
    ///
    /// ```
    /// use sturdy_quilt::{CellPos, GroundMap};
    /// # let quilt = sturdy_quilt::doc_quilt();
    ///
    /// let (ground, walker) = (GroundMap::of(&quilt), quilt.mover("walker")?);
    /// let field = ground.field_of_view(walker, CellPos::new(0, 0), 2);
    /// assert!(field.contains(CellPos::new(2, 0)) && field.contains(CellPos::new(2, 1)));
    /// # Ok::<(), sturdy_quilt::NameError>(())
    /// ```
    pub fn field_of_view(&self, mover: MoverId, from: CellPos, radius: u32) -> FieldOfView {
        let radius = radius.min(Self::MAX_SIGHT) as i32;
        let corner = CellPos::new(from.x() - radius, from.y() - radius);
        let bounds = CellRect::between(corner, CellPos::new(from.x() + radius, from.y() + radius));
        let words = (bounds.width() as usize).div_ceil(64) * bounds.height() as usize;
        let mut field = FieldOfView { bounds, seen: vec![0; words] };
        field.see(from);
        let mut views = Views::new(self, mover);
        for octant in Octant::ALL {
            octant.look(&mut views, from, i64::from(radius), &mut field);
        }
        field
    }
}

/// An eighth of all directions: rows outwards, and columns from the axis to the diagonal.
#[derive(Clone, Copy)]
struct Octant {
    /// The column and row of the map for a step outwards, and for one aside.
    out: (i64, i64),
    aside: (i64, i64),
}

/// A slope: columns by rows, the latter positive.
#[derive(Clone, Copy, Debug)]
struct Slope(i64, i64);

impl Slope {
    fn cmp(self, other: Slope) -> std::cmp::Ordering {
        (self.0 * other.1).cmp(&(other.0 * self.1))
    }

    fn is_less(self, other: Slope) -> bool {
        self.cmp(other).is_lt()
    }
}

/// Where no light comes: between two slopes, without them.
#[derive(Clone, Copy, Debug)]
struct Shadow(Slope, Slope);

impl Octant {
    const ALL: [Octant; 8] = [
        Octant { out: (0, -1), aside: (1, 0) },
        Octant { out: (0, -1), aside: (-1, 0) },
        Octant { out: (1, 0), aside: (0, -1) },
        Octant { out: (1, 0), aside: (0, 1) },
        Octant { out: (0, 1), aside: (1, 0) },
        Octant { out: (0, 1), aside: (-1, 0) },
        Octant { out: (-1, 0), aside: (0, -1) },
        Octant { out: (-1, 0), aside: (0, 1) },
    ];

    fn place(self, from: CellPos, out: i64, aside: i64) -> (i64, i64) {
        let (x, y) = (i64::from(from.x()), i64::from(from.y()));
        (x + self.out.0 * out + self.aside.0 * aside, y + self.out.1 * out + self.aside.1 * aside)
    }

    /// Marks what is seen. The cells along its diagonal and its axis belong to two octants, which
    /// say the same of them.
    fn look(self, views: &mut Views<'_>, from: CellPos, radius: i64, field: &mut FieldOfView) {
        // In order, and apart from each other.
        let mut shadows: Vec<Shadow> = Vec::new();
        let mut cast: Vec<Shadow> = Vec::new();
        // Where cells that block in part may throw a shadow.
        let mut doubts: Vec<Shadow> = Vec::new();
        let mut doubted: Vec<Shadow> = Vec::new();
        for out in 1..=radius {
            cast.clear();
            doubted.clear();
            // One more than the diagonal: what stands there throws its shadow into this octant.
            for aside in 0..=out + 1 {
                let (column, row) = self.place(from, out, aside);
                let Some(cell) = CellPos::checked(column, row) else { continue };
                let blocks = views.at(column, row);
                let own = Shadow(
                    Slope(2 * aside - 1, if aside == 0 { 2 * out - 1 } else { 2 * out + 1 }),
                    Slope(2 * aside + 1, 2 * out - 1),
                );
                match blocks {
                    Blocks::Nothing => {}
                    Blocks::Part => doubted.push(own),
                    Blocks::All => cast.push(own),
                }
                if aside > out {
                    continue;
                }
                let slope = Slope(aside, out);
                let is_lit = |place: &Lies| matches!(place, Lies::Light);
                let is_seen = (blocks == Blocks::All && !own.within_octant().is_covered(&shadows))
                    || match place_of(slope, &shadows) {
                        Lies::Shadow => false,
                        Lies::Light if aside < out && is_lit(&place_of(slope, &doubts)) => true,
                        // On the diagonal, cells of its own row may close the last corner.
                        _ => views.is_clear(from.min(cell), from.max(cell)),
                    };
                if is_seen {
                    field.see(cell);
                }
            }
            add_shadows(&mut shadows, &cast);
            add_shadows(&mut doubts, &doubted);
            let all = Shadow(Slope(0, 1), Slope(1, 1));
            if shadows.iter().any(|shadow| shadow.covers_with_ends(all)) {
                return;
            }
        }
    }
}

/// Where the middle of a cell lies.
enum Lies {
    Light,
    Shadow,
    /// Just at the end of a shadow.
    Border,
}

impl Shadow {
    /// The part of it in its octant: beyond that another one tells.
    fn within_octant(self) -> Shadow {
        let (axis, diagonal) = (Slope(0, 1), Slope(1, 1));
        Shadow(
            if self.0.is_less(axis) { axis } else { self.0 },
            if diagonal.is_less(self.1) { diagonal } else { self.1 },
        )
    }

    /// Whether shadows, which are in order, leave nothing of it but perhaps single lines.
    fn is_covered(self, shadows: &[Shadow]) -> bool {
        let mut covered_to = self.0;
        for shadow in shadows {
            if covered_to.is_less(shadow.0) {
                break;
            }
            if covered_to.is_less(shadow.1) {
                covered_to = shadow.1;
            }
        }
        !covered_to.is_less(self.1)
    }

    /// Whether it covers the other and its ends too.
    fn covers_with_ends(self, other: Shadow) -> bool {
        self.0.is_less(other.0) && other.1.is_less(self.1)
    }
}

fn place_of(slope: Slope, shadows: &[Shadow]) -> Lies {
    // The first that does not end before it.
    let at = shadows.partition_point(|shadow| shadow.1.is_less(slope));
    match shadows.get(at) {
        Some(shadow) if shadow.0.is_less(slope) && slope.is_less(shadow.1) => Lies::Shadow,
        Some(shadow) if !slope.is_less(shadow.0) => Lies::Border,
        _ => Lies::Light,
    }
}

/// Adds shadows to those that are there; where two have more than an end in common they become one.
fn add_shadows(shadows: &mut Vec<Shadow>, cast: &[Shadow]) {
    if cast.is_empty() {
        return;
    }
    shadows.extend_from_slice(cast);
    shadows.sort_by(|a, b| a.0.cmp(b.0));
    let mut kept = 0;
    for at in 1..shadows.len() {
        let next = shadows[at];
        let held = &mut shadows[kept];
        if next.0.is_less(held.1) {
            held.1 = if held.1.is_less(next.1) { next.1 } else { held.1 };
        } else {
            kept += 1;
            shadows[kept] = next;
        }
    }
    shadows.truncate(kept + 1);
}
