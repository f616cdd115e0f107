//! The cells on a straight way, in order: those that a ray goes through, and those that a box
//! enters and leaves.

use super::axis_motion::AxisMotion;
use super::ray::RayHit;
use super::sight::Views;
use super::traversal::Ray;
use crate::ground::shape::from_corner;
use crate::ground::state::GroundMap;
use crate::quilt::{GroundClass, MoverId, Treatment};
use crate::units::{CellPos, Side, WorldPoint, WorldRect, WorldVec};

/// A cell that a ray goes through.
#[derive(Clone, Copy, Debug, PartialEq)]
#[non_exhaustive]
pub struct RayCell {
    /// The cell.
    pub cell: CellPos,
    /// The part of the ray until it enters the cell, and until it leaves it, 0 to 1.
    pub enter: f64,
    /// See [`RayCell::enter`].
    pub exit: f64,
    /// The side by which it enters; `None` in the cell in which it begins.
    pub side: Option<Side>,
}

/// A part of a cell that a ray goes through, and how a mover takes it, see
/// [`GroundMap::parts_crossed`].
#[derive(Clone, Copy, Debug, PartialEq)]
#[non_exhaustive]
pub struct RayPart {
    /// Its class, where it has one.
    pub class: Option<GroundClass>,
    /// How the mover takes that.
    pub treatment: Treatment,
    /// The part of the ray until it enters that part of the cell, and until it leaves it, 0 to 1.
    pub enter: f64,
    /// See [`RayPart::enter`].
    pub exit: f64,
}

/// The values that a ray has gone through, see [`GroundMap::ray_values`].
#[derive(Clone, Copy, Debug, Default, PartialEq)]
#[non_exhaustive]
pub struct RayValues {
    /// What has stopped it.
    pub hit: Option<RayHit>,
    /// How many cells with a number it went through before that; of a cell with several parts, how
    /// many of those.
    pub count: u32,
    /// The sum of their numbers.
    pub sum: f64,
    /// The sum of their numbers, each by the length of the way through the cell in world units.
    pub sum_by_length: f64,
}

/// A cell that a box enters or leaves, see [`GroundMap::crossings`].
#[derive(Clone, Copy, Debug, PartialEq)]
#[non_exhaustive]
pub struct CellCrossing {
    /// The cell.
    pub cell: CellPos,
    /// Whether it enters the cell, and does not leave it.
    pub enters: bool,
    /// The part of the motion until then, 0 to 1.
    pub fraction: f64,
}

impl GroundMap {
    /// Returns the cells that a ray goes through, in order, whatever blocks there. A corner that it
    /// goes through exactly leads to the cell across from it, and not through those to its sides; a
    /// ray that is turned round goes through the same cells. With numbers that are not finite it
    /// goes through none. Cells beyond the limits of [`CellPos`] are not told.
    ///
    /// ```
    /// use sturdy_quilt::{CellPos, GroundMap, WorldPoint, WorldVec};
    /// # let quilt = sturdy_quilt::doc_quilt();
    ///
    /// let ground = GroundMap::of(&quilt);
    /// let way = ground.ray_cells(WorldPoint::new(8.0, 8.0), WorldVec::new(32.0, 16.0));
    /// let cells: Vec<(i32, i32, f64)> = way.map(|c| (c.cell.x(), c.cell.y(), c.exit)).collect();
    /// assert_eq!(cells, [(0, 0, 0.25), (1, 0, 0.5), (1, 1, 0.75), (2, 1, 1.0)]);
    /// # Ok::<(), sturdy_quilt::NameError>(())
    /// ```
    pub fn ray_cells(
        &self,
        from: WorldPoint,
        motion: WorldVec,
    ) -> impl Iterator<Item = RayCell> + use<> {
        let mut next = Ray::new(self, from, motion);
        std::iter::from_fn(move || {
            let mut ray = next?;
            let (enter, _) = ray.arrival();
            let (column, row, side) = ray.place();
            let goes_on = ray.leave_cell();
            next = goes_on.then_some(ray);
            let exit = if goes_on { ray.arrival().0 } else { 1.0 };
            let cell = CellPos::checked(column, row);
            Some(cell.map(|cell| RayCell { cell, enter, exit, side }))
        })
        .flatten()
    }

    /// Returns what a ray meets first, and what it has gone through until there: the numbers that
    /// the mover has for classes, such as how much they dim. It goes through those, and is stopped
    /// by what blocks.
    ///
    /// ```
    /// use sturdy_quilt::{GroundMap, Mover, WorldPoint, WorldVec};
    /// # let mut quilt = sturdy_quilt::doc_quilt();
    ///
    /// quilt.edit("a look", |pen| pen.put_mover(Mover::new("look").with_value("open", 0.1)))?;
    /// let (ground, look) = (GroundMap::of(&quilt), quilt.mover("look")?);
    /// let seen = ground.ray_values(look, WorldPoint::new(8.0, 8.0), WorldVec::new(16.0, 0.0));
    /// assert_eq!((seen.hit, seen.count, seen.sum), (None, 2, 0.2));
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    pub fn ray_values(&self, mover: MoverId, from: WorldPoint, motion: WorldVec) -> RayValues {
        let hit = self.ray(mover, from, motion);
        let end = hit.map_or(1.0, |hit| hit.fraction);
        let length = motion.length();
        let mut values = RayValues { hit, ..RayValues::default() };
        for crossed in self.ray_cells(from, motion) {
            let is_whole = self.parts_met(mover, crossed.cell).is_none();
            let is_hit = hit.is_some_and(|hit| is_whole && hit.cell == crossed.cell);
            if is_hit || (hit.is_some() && crossed.enter >= end) {
                break;
            }
            let mut add = |value: f64, enter: f64, exit: f64| {
                if value != 0.0 && (hit.is_none() || enter < end) {
                    values.count += 1;
                    values.sum += value;
                    values.sum_by_length += value * (exit.min(end) - enter) * length;
                }
            };
            if is_whole {
                let value = self.treatment(mover, crossed.cell).value();
                add(value, crossed.enter, crossed.exit);
            } else {
                for taken in self.parts_crossed(mover, from, motion, crossed) {
                    add(taken.treatment.value(), taken.enter, taken.exit);
                }
            }
        }
        values
    }

    /// Returns how a mover takes the parts of a cell that a ray goes through, in order; of a cell
    /// without parts, all of it.
    ///
    /// ```
    /// use sturdy_quilt::{GroundMap, WorldPoint, WorldVec};
    /// # let quilt = sturdy_quilt::doc_quilt();
    ///
    /// let (ground, walker) = (GroundMap::of(&quilt), quilt.mover("walker")?);
    /// let (from, motion) = (WorldPoint::new(8.0, 8.0), WorldVec::new(32.0, 0.0));
    /// let wall = ground.ray_cells(from, motion).last().unwrap();
    /// let taken = ground.parts_crossed(walker, from, motion, wall);
    /// assert!(taken.len() == 1 && taken[0].treatment.blocks());
    /// # Ok::<(), sturdy_quilt::NameError>(())
    /// ```
    pub fn parts_crossed(
        &self,
        mover: MoverId,
        from: WorldPoint,
        motion: WorldVec,
        crossed: RayCell,
    ) -> Vec<RayPart> {
        let RayCell { cell, enter, exit, .. } = crossed;
        let table = self.table(mover);
        let (Some(parts), Some(table)) = (self.parts_met(mover, cell), table) else {
            let class = self.class_met(mover, cell, None);
            return vec![RayPart { class, treatment: self.treatment(mover, cell), enter, exit }];
        };
        let at = from_corner(self.lattice(), cell.x().into(), cell.y().into(), from);
        let way = motion * (exit - enter);
        let spans = parts.along(at + motion * enter, way);
        let time = |part: f64| if part == 1.0 { exit } else { enter + part * (exit - enter) };
        let taken = spans.into_iter().map(|(begin, end, code)| RayPart {
            class: self.class_of(code).here().flatten(),
            treatment: table.treatment(code),
            enter: time(begin),
            exit: time(end),
        });
        taken.collect()
    }

    /// Returns the cells that a box enters and leaves on a straight way, in order, whatever blocks
    /// there: what doors, plates and other triggers wait for. At the same time, it enters one
    /// before it leaves another.
    ///
    /// It is in a cell when it lies in it by more than [`GroundMap::SKIN`]; those in which it
    /// begins are not told. For the way of a [`Slide`](crate::ground::Slide), ask for each of its legs.
    /// With numbers that are not finite, or lead further than 2⁴⁰ cells from the origin, it enters
    /// nothing. Cells beyond the limits of [`CellPos`] are not told.
    ///
    /// ```
    /// use sturdy_quilt::{CellPos, GroundMap, WorldPoint, WorldRect, WorldVec};
    /// # let quilt = sturdy_quilt::doc_quilt();
    ///
    /// let ground = GroundMap::of(&quilt);
    /// let body = WorldRect::between(WorldPoint::new(2.0, 2.0), WorldPoint::new(10.0, 10.0));
    /// let crossings: Vec<_> = ground.crossings(body, WorldVec::new(16.0, 0.0)).collect();
    /// assert_eq!((crossings[0].cell, crossings[0].enters), (CellPos::new(1, 0), true));
    /// assert_eq!((crossings[1].cell, crossings[1].enters), (CellPos::new(0, 0), false));
    /// # Ok::<(), sturdy_quilt::NameError>(())
    /// ```
    pub fn crossings(
        &self,
        body: WorldRect,
        motion: WorldVec,
    ) -> impl Iterator<Item = CellCrossing> + use<> {
        let lattice = self.lattice();
        let (columns, rows) = (lattice.columns(), lattice.rows());
        let is_near = |at: WorldPoint| columns.reach(at.x) && rows.reach(at.y);
        let ends = [body.min(), body.max()];
        let is_near = ends.into_iter().all(|end| is_near(end) && is_near(end + motion));
        let motion = if is_near { motion } else { WorldVec::ZERO };
        let x = AxisMotion::of_box(columns, body.min().x, body.max().x, motion.x);
        let y = AxisMotion::of_box(rows, body.min().y, body.max().y, motion.y);
        let mut spans = [SpannedLines::of(x), SpannedLines::of(y)];
        let mut line = None;
        std::iter::from_fn(move || {
            loop {
                if let Some(Passing { across, enters, at, fraction, next, last }) = &mut line {
                    if *next <= *last {
                        let (column, row) = if *across { (*at, *next) } else { (*next, *at) };
                        *next += 1;
                        let Some(cell) = CellPos::checked(x.real(column), y.real(row)) else {
                            continue;
                        };
                        return Some(CellCrossing { cell, enters: *enters, fraction: *fraction });
                    }
                    line = None;
                }
                line = Some(next_passing(&mut spans)?);
            }
        })
    }

    /// Returns whether a ray between the middles of two cells meets nothing that blocks a mover in
    /// the cells between them; the two themselves may block it, and what is one-way does not. Where
    /// only a part of a cell blocks, the ray may pass beside it.
    ///
    /// It is the same from either cell to the other. Costs a look at each cell between them, in
    /// open ground only at those within the bounds.
    ///
    /// ```
    /// use sturdy_quilt::{CellPos, GroundMap};
    /// # let quilt = sturdy_quilt::doc_quilt();
    ///
    /// let (ground, walker) = (GroundMap::of(&quilt), quilt.mover("walker")?);
    /// // The wall is the cell 2,0.
    /// assert!(ground.sees(walker, CellPos::new(0, 0), CellPos::new(2, 0)));
    /// assert!(!ground.sees(walker, CellPos::new(0, 0), CellPos::new(3, 0)));
    /// # Ok::<(), sturdy_quilt::NameError>(())
    /// ```
    pub fn sees(&self, mover: MoverId, from: CellPos, to: CellPos) -> bool {
        // From the lesser one, so that both directions are one question.
        Views::new(self, mover).is_clear(from.min(to), from.max(to))
    }
}

/// The lines of one direction that a box spans while it moves.
struct SpannedLines {
    axis_motion: AxisMotion,
    first: i64,
    last: i64,
}

/// A line that is entered or left: the cells of it are told one by one.
struct Passing {
    across: bool,
    enters: bool,
    at: i64,
    fraction: f64,
    next: i64,
    last: i64,
}

impl SpannedLines {
    /// The last line with cells, as seen from either side.
    const END: i64 = CellPos::MAX as i64;

    fn of(axis_motion: AxisMotion) -> SpannedLines {
        let near = |line: i64| line.clamp(CellPos::MIN as i64 - 1, Self::END + 1);
        SpannedLines {
            first: near(axis_motion.first()),
            last: near(axis_motion.last()),
            axis_motion,
        }
    }

    /// When the next line is entered, and the first one left.
    fn next_times(&self) -> (f64, f64) {
        let axis_motion = &self.axis_motion;
        let within = |line: i64, gone: f64| {
            // A giant has entered lines that are not counted.
            let is_within = line <= Self::END && (0.0..axis_motion.way()).contains(&gone);
            if is_within { gone / axis_motion.way() } else { f64::INFINITY }
        };
        let (next, first) = (self.last + 1, self.first);
        (within(next, axis_motion.gone_into(next)), within(first, axis_motion.gone_past(first)))
    }
}

fn next_passing([x, y]: &mut [SpannedLines; 2]) -> Option<Passing> {
    let ((enter_x, leave_x), (enter_y, leave_y)) = (x.next_times(), y.next_times());
    let first = enter_x.min(enter_y).min(leave_x).min(leave_y);
    if first == f64::INFINITY {
        return None;
    }
    let across = enter_x == first || (enter_y != first && leave_x == first);
    let enters = enter_x == first || enter_y == first;
    let (own, other) = if across { (x, y) } else { (y, x) };
    let at = if enters {
        own.last += 1;
        own.last
    } else {
        own.first += 1;
        own.first - 1
    };
    Some(Passing { across, enters, at, fraction: first, next: other.first, last: other.last })
}
