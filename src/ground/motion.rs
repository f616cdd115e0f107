//! Boxes in motion: how far a box gets, what stops it, and how it slides along.
//!
//! A box is followed from edge to edge of the cells, as Amanatides and Woo follow a ray ("A Fast
//! Voxel Traversal Algorithm for Ray Tracing", Eurographics 1987): the next column or row that its
//! leading edges enter comes first, and is looked at over the rows or columns that the box spans.
//! So nothing is passed over at any speed, and only what is newly entered can stop a box.
//!
//! Which columns and rows a box spans is kept in whole numbers while it moves. They begin with the
//! box made thinner by a skin, so that a box which lies on a floor, or a rounding error inside it,
//! does not span the floor's row: it never meets the edges between the cells of a floor. Testing
//! the box against each cell by itself, the usual way, does meet them.

use super::GroundMap;
use super::map::{ClassChunk, MoverTable, SILENT, wrapped};
use crate::lattice::Lines;
use crate::quilt::{MoverId, Outside};
use crate::units::{CellPos, CellRect, ChunkPos, WorldPoint, WorldRect, WorldVec};

/// The side of a cell that a moving box has met.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub enum Side {
    /// Its left side: the box moved to the right.
    Left,
    /// Its right side: the box moved to the left.
    Right,
    /// Its upper side: the box moved down.
    Top,
    /// Its lower side: the box moved up.
    Bottom,
}

impl Side {
    /// Whether it stops motion to the left or right, and not up or down.
    pub const fn is_upright(self) -> bool {
        matches!(self, Side::Left | Side::Right)
    }

    /// The word for it.
    pub const fn name(self) -> &'static str {
        match self {
            Side::Left => "left",
            Side::Right => "right",
            Side::Top => "top",
            Side::Bottom => "bottom",
        }
    }
}

/// What has stopped a box.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
#[non_exhaustive]
pub struct Contact {
    /// The cell that was met; of several at once the one nearest to the middle of the box. It
    /// lies beyond the bounds of the map where the outside has stopped the box.
    pub cell: CellPos,
    /// Which of its sides.
    pub side: Side,
}

/// How far a box gets in a straight line.
#[derive(Clone, Copy, Debug, PartialEq)]
#[non_exhaustive]
pub struct Sweep {
    /// The part of the motion until the contact, 0 to 1; 1 without one.
    pub fraction: f64,
    /// Where the box is then. It touches the cell that has stopped it.
    pub end: WorldRect,
    /// What has stopped it.
    pub contact: Option<Contact>,
}

/// How a box moves along what stops it.
#[derive(Clone, Copy, Debug, PartialEq)]
#[non_exhaustive]
pub struct Slide {
    /// Where the box ends.
    pub end: WorldRect,
    contacts: [Option<Contact>; 2],
}

impl Slide {
    /// What the box has met on its way, in that order: at most one cell for each direction.
    pub fn contacts(&self) -> impl Iterator<Item = Contact> + use<> {
        self.contacts.into_iter().flatten()
    }

    /// Whether the box has met a cell from this side: `Side::Top` means that it stands on
    /// something.
    pub fn has_met(&self, side: Side) -> bool {
        self.contacts().any(|contact| contact.side == side)
    }
}

/// How a mover meets the cells of a map.
impl GroundMap {
    /// How far inside a cell a box may be without being in it, as a part of the cell's side.
    ///
    /// A box that was moved away from a wall by other means, or whose place was rounded, may lie
    /// a little inside. Up to this much it is taken as touching: what it lies in neither holds it
    /// nor lets it fall, and it may pass a gap that is narrower than it by twice as much. A box
    /// that is thinner than four of these moves as if it were so wide around its middle.
    pub const SKIN: f64 = 1.0 / 1024.0;

    /// Moves a box in a straight line until a cell stops it that the mover cannot enter.
    ///
    /// Touching is free: a box may lie against a cell and move along it, and one that ends exactly
    /// at an edge has met nothing. Where two edges are reached at once, the one to the side counts
    /// first. Cells in which the box is already by more than [`GroundMap::SKIN`] do not hold it,
    /// so that it can leave them; it enters no further ones. A motion that is not finite is none.
    ///
    /// Costs a look at each cell that the box comes over within the bounds of the map.
    ///
    /// ```
    /// use sturdy_quilt::{CellPos, GroundMap, Side, WorldPoint, WorldRect, WorldVec};
    /// # let quilt = sturdy_quilt::doc_quilt();
    ///
    /// let (ground, walker) = (GroundMap::of(&quilt), quilt.mover("walker")?);
    /// let body = WorldRect::between(WorldPoint::new(2.0, 3.0), WorldPoint::new(12.0, 13.0));
    /// // The wall is the cell 2,0: its left side lies at x = 32.
    /// let sweep = ground.sweep(walker, body, WorldVec::new(40.0, 0.0));
    /// assert_eq!((sweep.fraction, sweep.end.max().x), (0.5, 32.0));
    /// let contact = sweep.contact.unwrap();
    /// assert_eq!((contact.cell, contact.side), (CellPos::new(2, 0), Side::Left));
    /// # Ok::<(), sturdy_quilt::NameError>(())
    /// ```
    pub fn sweep(&self, mover: MoverId, body: WorldRect, motion: WorldVec) -> Sweep {
        let motion = if motion.x.is_finite() && motion.y.is_finite() && is_finite(body) {
            motion
        } else {
            WorldVec::ZERO
        };
        let free = Sweep { fraction: 1.0, end: body.moved(motion), contact: None };
        if self.enters_nothing(body, motion) {
            return free;
        }
        let mut solid = Solid::new(self, mover);
        if self.is_free_around(body, motion, &mut solid) {
            return free;
        }
        let lattice = self.lattice();
        let mut x = Axis::new(lattice.columns(), (body.min().x, body.max().x), motion.x);
        let mut y = Axis::new(lattice.rows(), (body.min().y, body.max().y), motion.y);
        if let Some(looked_at) = solid.free_beyond() {
            x.skip(i64::from(looked_at.left()), i64::from(looked_at.right()));
            y.skip(i64::from(looked_at.top()), i64::from(looked_at.bottom()));
        }
        loop {
            let (to_column, to_row) = (x.next_time, y.next_time);
            let time = to_column.min(to_row);
            if time >= 1.0 {
                return free;
            }
            let sideways = to_column <= to_row;
            let (across, along) = if sideways { (&mut x, &mut y) } else { (&mut y, &mut x) };
            along.leave(time);
            let line = across.next_line();
            let met = along.nearest(time, |other| {
                let (column, row) = if sideways { (line, other) } else { (other, line) };
                solid.blocks(column, row)
            });
            let Some(other) = met else {
                across.enter();
                continue;
            };
            let (column, row) = if sideways { (line, other) } else { (other, line) };
            let contact = Contact { cell: cell_of(column, row), side: across.side_met(sideways) };
            let (ends_x, ends_y) = (x.ends_at(time, sideways), y.ends_at(time, !sideways));
            let end = WorldRect::between(
                WorldPoint::new(ends_x.0, ends_y.0),
                WorldPoint::new(ends_x.1, ends_y.1),
            );
            return Sweep { fraction: time, end, contact: Some(contact) };
        }
    }

    /// Whether a motion is so short that it enters no column or row: so are most steps of most
    /// bodies, and nothing need be looked at then.
    fn enters_nothing(&self, body: WorldRect, motion: WorldVec) -> bool {
        let is_quiet = |lines: Lines, from: f64, to: f64, way: f64| {
            let skin = lines.side() * Self::SKIN;
            if padding(lines, from, to) > 0.0 {
                return false;
            }
            if way > 0.0 {
                lines.edge(lines.last_before(to - skin) + 1) - to >= way
            } else {
                way == 0.0 || from - lines.edge(lines.at(from + skin)) >= -way
            }
        };
        let lattice = self.lattice();
        is_quiet(lattice.columns(), body.min().x, body.max().x, motion.x)
            && is_quiet(lattice.rows(), body.min().y, body.max().y, motion.y)
    }

    /// Whether all cells in the rectangle around a short motion are free, as they mostly are: then
    /// no edge need be followed.
    fn is_free_around(&self, body: WorldRect, motion: WorldVec, solid: &mut Solid<'_>) -> bool {
        const MOST_CELLS: i64 = 12;
        let lattice = self.lattice();
        let span = |lines: Lines, from: f64, to: f64, way: f64| {
            let padding = padding(lines, from, to);
            let (low, high) = (from + way.min(0.0) - padding, to + way.max(0.0) + padding);
            (lines.at(low), lines.last_before(high))
        };
        let (left, right) = span(lattice.columns(), body.min().x, body.max().x, motion.x);
        let (top, bottom) = span(lattice.rows(), body.min().y, body.max().y, motion.y);
        let (width, height) = (right - left + 1, bottom - top + 1);
        width <= MOST_CELLS
            && height <= MOST_CELLS
            && width * height <= MOST_CELLS
            && (top..=bottom).all(|row| (left..=right).all(|column| !solid.blocks(column, row)))
    }

    /// Moves a box, and lets it slide along what stops it: what remains of the motion goes on in
    /// the direction that is free. Costs at most three sweeps.
    ///
    /// ```
    /// use sturdy_quilt::{GroundMap, Side, WorldPoint, WorldRect, WorldVec};
    /// # let quilt = sturdy_quilt::doc_quilt();
    ///
    /// let (ground, walker) = (GroundMap::of(&quilt), quilt.mover("walker")?);
    /// let body = WorldRect::between(WorldPoint::new(22.0, 2.0), WorldPoint::new(32.0, 12.0));
    /// let slide = ground.slide(walker, body, WorldVec::new(5.0, 20.0));
    /// assert_eq!(slide.end.min(), WorldPoint::new(22.0, 22.0));
    /// assert!(slide.has_met(Side::Left) && !slide.has_met(Side::Top));
    /// # Ok::<(), sturdy_quilt::NameError>(())
    /// ```
    pub fn slide(&self, mover: MoverId, body: WorldRect, motion: WorldVec) -> Slide {
        let mut slide = Slide { end: body, contacts: [None; 2] };
        let mut rest = motion;
        for met in 0..=slide.contacts.len() {
            let sweep = self.sweep(mover, slide.end, rest);
            slide.end = sweep.end;
            let Some(contact) = sweep.contact else { break };
            let Some(free) = slide.contacts.get_mut(met) else { break };
            *free = Some(contact);
            rest = rest * (1.0 - sweep.fraction);
            if contact.side.is_upright() {
                rest.x = 0.0;
            } else {
                rest.y = 0.0;
            }
        }
        slide
    }

    /// Moves a box as [`GroundMap::slide`] does, and lets one that stands on something climb what
    /// stops it sideways, if it is not higher than `height` world units: it goes up, across, and
    /// down onto what is there. Costs at most nine sweeps.
    ///
    /// For maps seen from the side. A box in the air does not climb.
    pub fn slide_up_steps(
        &self,
        mover: MoverId,
        body: WorldRect,
        motion: WorldVec,
        height: f64,
    ) -> Slide {
        let flat = self.slide(mover, body, motion);
        let is_stopped = flat.contacts().any(|contact| contact.side.is_upright());
        let below = WorldVec::new(0.0, self.lattice().cell_height() * Self::SKIN);
        if !is_stopped || height <= 0.0 || self.sweep(mover, body, below).contact.is_none() {
            return flat;
        }
        let up = self.sweep(mover, body, WorldVec::new(0.0, -height)).end;
        let across = self.sweep(mover, up, WorldVec::new(motion.x, 0.0));
        let climbed = body.min().y - up.min().y;
        let down = WorldVec::new(0.0, climbed + motion.y.max(0.0));
        let landed = self.sweep(mover, across.end, down);
        let is_further =
            (across.end.min().x - body.min().x).abs() > (flat.end.min().x - body.min().x).abs();
        match landed.contact {
            Some(_) if is_further => {
                Slide { end: landed.end, contacts: [across.contact, landed.contact] }
            }
            _ => flat,
        }
    }
}

fn is_finite(rect: WorldRect) -> bool {
    let WorldPoint { x, y } = rect.min();
    x.is_finite() && y.is_finite() && rect.width().is_finite() && rect.height().is_finite()
}

/// The cell in a column and a row, at the limits of cells where they lie beyond.
fn cell_of(column: i64, row: i64) -> CellPos {
    let held = |line: i64| line.clamp(CellPos::MIN.into(), CellPos::MAX.into()) as i32;
    CellPos::new(held(column), held(row))
}

/// How much wider a thin box is taken to be on both sides: a point on an edge would be in two lines
/// or in none, and as wide as this it never is.
fn padding(lines: Lines, from: f64, to: f64) -> f64 {
    (2.0 * GroundMap::SKIN * lines.side() - (to - from) / 2.0).max(0.0)
}

/// One direction of a motion.
#[derive(Clone, Copy, Debug)]
struct Axis {
    lines: Lines,
    /// Where the box begins and ends before it moves, made wider by `padding` on both sides.
    from: f64,
    to: f64,
    padding: f64,
    way: f64,
    skin: f64,
    /// The lines that the box spans now.
    first: i64,
    last: i64,
    /// Lines outside these are known to be free.
    looked_at: (i64, i64),
    /// The part of the motion after which the next line is entered; infinite where none is.
    next_time: f64,
}

impl Axis {
    fn new(lines: Lines, (from, to): (f64, f64), way: f64) -> Axis {
        let skin = lines.side() * GroundMap::SKIN;
        let padding = padding(lines, from, to);
        let (from, to) = (from - padding, to + padding);
        let first = lines.at(from + skin);
        let last = lines.last_before(to - skin).max(first);
        let (looked_at, next_time) = ((i64::MIN, i64::MAX), f64::INFINITY);
        let axis = Axis { lines, from, to, padding, way, skin, first, last, looked_at, next_time };
        axis.timed()
    }

    /// Passes over lines before `begin` and from `end` on, which are known to be free.
    fn skip(&mut self, begin: i64, end: i64) {
        self.looked_at = (begin, end);
        if self.way > 0.0 {
            self.last = self.last.max(begin - 1);
        } else if self.way < 0.0 {
            self.first = self.first.min(end);
        }
        *self = self.timed();
    }

    fn next_line(&self) -> i64 {
        if self.way > 0.0 { self.last + 1 } else { self.first - 1 }
    }

    /// The edge of the next line that the box reaches.
    fn next_edge(&self) -> f64 {
        let next = self.next_line();
        self.lines.edge(if self.way > 0.0 { next } else { next + 1 })
    }

    /// The same, with the time of the next line found anew.
    fn timed(mut self) -> Axis {
        let next = self.next_line();
        let behind_all =
            if self.way > 0.0 { next >= self.looked_at.1 } else { next < self.looked_at.0 };
        self.next_time = if self.way == 0.0 || behind_all {
            f64::INFINITY
        } else {
            let lead = if self.way > 0.0 { self.to } else { self.from };
            // A lead that lies behind the edge, by no more than a skin, touches it.
            ((self.next_edge() - lead) / self.way).max(0.0)
        };
        self
    }

    fn enter(&mut self) {
        if self.way > 0.0 {
            self.last += 1;
        } else {
            self.first -= 1;
        }
        *self = self.timed();
    }

    /// Leaves the lines that the trailing edge has passed at a time. Beyond the lines that are
    /// looked at none are entered any more, only left.
    fn leave(&mut self, time: f64) {
        if self.way > 0.0 {
            let trail = self.from + self.way * time + self.skin;
            while self.first <= self.last && self.lines.edge(self.first + 1) <= trail {
                self.first += 1;
            }
        } else if self.way < 0.0 {
            let trail = self.to + self.way * time - self.skin;
            while self.first <= self.last && self.lines.edge(self.last) >= trail {
                self.last -= 1;
            }
        }
    }

    /// Of the lines that the box spans, the one with a wanted cell that lies nearest to the
    /// middle of the box.
    fn nearest(&self, time: f64, mut is_wanted: impl FnMut(i64) -> bool) -> Option<i64> {
        let (begin, end) = self.looked_at;
        let (first, last) = (self.first.max(begin), self.last.min(end.saturating_sub(1)));
        // Nearly always none is met, or only one is spanned.
        let found = (first..=last).find(|line| is_wanted(*line))?;
        if first == last {
            return Some(found);
        }
        let middle = (self.from + self.to) / 2.0 + self.way * time;
        let distance = |line: i64| {
            let center = (self.lines.edge(line) + self.lines.edge(line + 1)) / 2.0;
            (center - middle).abs()
        };
        // From the middle outwards, so that a giant box costs what is near when it is stopped.
        let mut low = self.lines.at(middle).min(last);
        let mut high = low.max(first - 1) + 1;
        while first <= low || high <= last {
            let down = first <= low && (last < high || distance(low) <= distance(high));
            let line = if down { low } else { high };
            if is_wanted(line) {
                return Some(line);
            }
            if down {
                low -= 1;
            } else {
                high += 1;
            }
        }
        None
    }

    fn side_met(&self, sideways: bool) -> Side {
        match (sideways, self.way > 0.0) {
            (true, true) => Side::Left,
            (true, false) => Side::Right,
            (false, true) => Side::Top,
            (false, false) => Side::Bottom,
        }
    }

    /// Where the box begins and ends at a time, touching the next line where that has stopped it.
    fn ends_at(&self, time: f64, stopped: bool) -> (f64, f64) {
        let size = self.to - self.from;
        let (from, to) = match (stopped, self.way > 0.0) {
            (true, true) => (self.next_edge() - size, self.next_edge()),
            (true, false) => (self.next_edge(), self.next_edge() + size),
            _ => (self.from + self.way * time, self.to + self.way * time),
        };
        (from + self.padding, to - self.padding)
    }
}

/// Which cells stop a mover, with the chunk that was looked at last.
struct Solid<'a> {
    ground: &'a GroundMap,
    /// How the mover takes each code; a handle of another map can enter nothing.
    table: Option<&'a MoverTable>,
    columns: std::ops::Range<i64>,
    rows: std::ops::Range<i64>,
    looked_at: Option<(ChunkPos, Option<&'a ClassChunk>)>,
}

impl<'a> Solid<'a> {
    fn new(ground: &'a GroundMap, mover: MoverId) -> Solid<'a> {
        let bounds = ground.bounds();
        Solid {
            ground,
            table: ground.table(mover),
            columns: bounds.left().into()..bounds.right().into(),
            rows: bounds.top().into()..bounds.bottom().into(),
            looked_at: None,
        }
    }

    /// The cells beyond which all are known to be free, where that is known.
    fn free_beyond(&self) -> Option<CellRect> {
        match self.table?.outside {
            Outside::Treated(treatment) if !treatment.blocks() => Some(self.ground.bounds()),
            Outside::Treated(_) => None,
            // Where the map repeats itself, it does so up to the last cell there is.
            Outside::Wrapped => Some(CellRect::EVERYWHERE),
        }
    }

    fn blocks(&mut self, column: i64, row: i64) -> bool {
        let Some(table) = self.table else { return true };
        let cell = if self.columns.contains(&column) && self.rows.contains(&row) {
            CellPos::within_limits(column as i32, row as i32)
        } else {
            match table.outside {
                Outside::Treated(treatment) => return treatment.blocks(),
                Outside::Wrapped if self.columns.is_empty() => return true,
                Outside::Wrapped => wrapped(column, row, self.ground.bounds()),
            }
        };
        let pos = cell.chunk();
        let chunk = match self.looked_at {
            Some((held, chunk)) if held == pos => chunk,
            _ => {
                let chunk = self.ground.chunk(pos);
                self.looked_at = Some((pos, chunk));
                chunk
            }
        };
        table.blocks(chunk.map_or(SILENT, |chunk| chunk.code(cell.index_in_chunk())))
    }
}
