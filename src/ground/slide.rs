//! How a box slides along what stops it, climbs small steps, and gets out of what it is buried in.

use super::stopping::Solid;
use super::{Contact, GroundMap};
use crate::quilt::MoverId;
use crate::units::{Side, WorldRect, WorldVec};

/// How a box moves along what stops it.
#[derive(Clone, Copy, Debug, PartialEq)]
#[non_exhaustive]
pub struct Slide {
    /// Where the box ends.
    pub end: WorldRect,
    contacts: [Option<Contact>; Slide::MOST_CONTACTS],
    legs: [WorldVec; Slide::MOST_LEGS],
    leg_count: u8,
}

impl Slide {
    /// The most contacts that are told.
    pub const MOST_CONTACTS: usize = 4;
    /// The most straight ways of which one is made.
    const MOST_LEGS: usize = 24;

    const fn at(body: WorldRect) -> Slide {
        let legs = [WorldVec::ZERO; Slide::MOST_LEGS];
        Slide { end: body, contacts: [None; Slide::MOST_CONTACTS], legs, leg_count: 0 }
    }

    fn go(&mut self, end: WorldRect) {
        if let Some(leg) = self.legs.get_mut(usize::from(self.leg_count))
            && end != self.end
        {
            *leg = end.min() - self.end.min();
            self.leg_count += 1;
        }
        self.end = end;
    }

    fn meet(&mut self, contact: Contact) {
        if let Some(free) = self.contacts.iter_mut().find(|held| held.is_none()) {
            *free = Some(contact);
        }
    }

    /// What the box has met on its way, in that order; at most [`Slide::MOST_CONTACTS`].
    pub fn contacts(&self) -> impl Iterator<Item = Contact> + use<> {
        self.contacts.into_iter().flatten()
    }

    /// Whether the box has met a cell from this side: `Side::Top` means that it stands on
    /// something.
    pub fn has_met(&self, side: Side) -> bool {
        self.contacts().any(|contact| contact.side == side)
    }

    /// The straight ways that it went, one after the other.
    pub fn legs(&self) -> impl Iterator<Item = WorldVec> + use<> {
        let (legs, count) = (self.legs, usize::from(self.leg_count));
        legs.into_iter().take(count)
    }
}

/// How a box slides, see [`GroundMap::slide_with`].
///
/// Steps up and down are for maps seen from the side, where down is where things fall; they are
/// made by a box that stands on something before it moves, and not in the air.
///
/// ```
/// use sturdy_quilt::SlideOptions;
///
/// let walking = SlideOptions::new().step_up(8.0).step_down(8.0);
/// assert_eq!((walking.turns, walking.corner), (2, 0.0));
/// ```
#[derive(Clone, Copy, Debug, PartialEq)]
#[non_exhaustive]
pub struct SlideOptions {
    /// How often it may go on in another direction after a contact; 0 makes it stop at the first.
    /// Default 2: along a wall, and into a corner.
    pub turns: u8,
    /// What is not higher than so many world units is climbed: the box goes up, across, and down
    /// onto what is there. Default 0.
    pub step_up: f64,
    /// A box that walks off an edge goes down at once to what is not further below than so many
    /// world units, and does not begin to fall. Default 0.
    pub step_down: f64,
    /// A box that catches a cell by its corner, by no more than so many world units, gives way to
    /// the side and goes on, where it is free to. Default 0.
    pub corner: f64,
    /// Whether that is so at sides too, and not only under something: in maps seen from above it
    /// should, in those seen from the side a box would climb and slip off edges. Default false.
    pub corner_at_sides: bool,
}

impl Default for SlideOptions {
    fn default() -> SlideOptions {
        SlideOptions { turns: 2, step_up: 0.0, step_down: 0.0, corner: 0.0, corner_at_sides: false }
    }
}

impl SlideOptions {
    /// Two turns and nothing else: what [`GroundMap::slide`] does.
    pub fn new() -> SlideOptions {
        SlideOptions::default()
    }

    /// The same with another number of turns.
    #[must_use]
    pub const fn turns(mut self, turns: u8) -> SlideOptions {
        self.turns = turns;
        self
    }

    /// The same, climbing steps of so many world units.
    #[must_use]
    pub const fn step_up(mut self, height: f64) -> SlideOptions {
        self.step_up = height;
        self
    }

    /// The same, following steps down of so many world units.
    #[must_use]
    pub const fn step_down(mut self, height: f64) -> SlideOptions {
        self.step_down = height;
        self
    }

    /// The same, giving way by so many world units to the corners of what is above.
    #[must_use]
    pub const fn corner(mut self, by: f64) -> SlideOptions {
        self.corner = by;
        self
    }

    /// The same, giving way by so many world units to corners on all sides.
    #[must_use]
    pub const fn all_corners(mut self, by: f64) -> SlideOptions {
        self.corner = by;
        self.corner_at_sides = true;
        self
    }

    fn gives_way(&self, side: Side) -> bool {
        self.corner > 0.0 && (self.corner_at_sides || side == Side::Bottom)
    }
}

impl GroundMap {
    /// Moves a box, and lets it slide along what stops it: what remains of the motion goes on in
    /// the direction that is free. Costs at most three sweeps.
    ///
    /// Ten small moves along a wall end where a great one ends, but for the rounding of their sum.
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
        self.slide_with(mover, body, motion, SlideOptions::default())
    }

    /// Moves a box as [`GroundMap::slide`] does, with options. A step costs four sweeps more.
    ///
    /// ```
    /// use sturdy_quilt::{GroundMap, SlideOptions, WorldPoint, WorldRect, WorldVec};
    /// # let quilt = sturdy_quilt::doc_quilt();
    ///
    /// let (ground, walker) = (GroundMap::of(&quilt), quilt.mover("walker")?);
    /// // The wall is the cell 2,0, and ends at y = 16: the box catches it by its upper corner.
    /// let body = WorldRect::between(WorldPoint::new(20.0, 14.0), WorldPoint::new(30.0, 24.0));
    /// let lenient = SlideOptions::new().all_corners(3.0);
    /// let slide = ground.slide_with(walker, body, WorldVec::new(8.0, 0.0), lenient);
    /// assert_eq!(slide.end.min(), WorldPoint::new(28.0, 16.0));
    /// # Ok::<(), sturdy_quilt::NameError>(())
    /// ```
    pub fn slide_with(
        &self,
        mover: MoverId,
        body: WorldRect,
        motion: WorldVec,
        options: SlideOptions,
    ) -> Slide {
        let steps = options.step_up > 0.0 || options.step_down > 0.0;
        let on_ground = steps && self.stands_on(mover, body).is_some();
        let (mut slide, mut rest, mut turns) = (Slide::at(body), motion, options.turns);
        // Each step and each corner that is passed takes one or two; so it comes to an end whatever
        // the map.
        for _ in 0..Slide::MOST_LEGS / 3 {
            let sweep = self.sweep(mover, slide.end, rest);
            slide.go(sweep.end);
            let Some(contact) = sweep.contact else { break };
            rest = rest * (1.0 - sweep.fraction);
            if options.gives_way(contact.side)
                && let Some(beside) = self.past_corner(mover, slide.end, rest, contact, options)
            {
                slide.go(beside);
                continue;
            }
            if on_ground
                && contact.side.is_upright()
                && let Some((up, across, down)) = self.step_up(mover, slide.end, rest, options)
            {
                rest = WorldVec::new(rest.x - (across.min().x - up.min().x), 0.0);
                [up, across, down].into_iter().for_each(|end| slide.go(end));
                continue;
            }
            slide.meet(contact);
            let Some(left) = turns.checked_sub(1) else { break };
            turns = left;
            if contact.side.is_upright() {
                rest.x = 0.0;
            } else {
                rest.y = 0.0;
            }
        }
        if on_ground
            && options.step_down > 0.0
            && motion.y >= 0.0
            && !slide.has_met(Side::Top)
            && let below = options.step_down + self.lattice().cell_height() * Self::SKIN
            && let down = self.sweep(mover, slide.end, WorldVec::new(0.0, below))
            && let Some(floor) = down.contact
        {
            slide.go(down.end);
            slide.meet(floor);
        }
        slide
    }

    /// What a box stands on: what is met by going down by no more than [`GroundMap::SKIN`].
    pub fn stands_on(&self, mover: MoverId, body: WorldRect) -> Option<Contact> {
        let skin = WorldVec::new(0.0, self.lattice().cell_height() * Self::SKIN);
        self.sweep(mover, body, skin).contact
    }

    /// Where a box comes that climbs what stops it: up, across, and down onto what is there.
    fn step_up(
        &self,
        mover: MoverId,
        body: WorldRect,
        rest: WorldVec,
        options: SlideOptions,
    ) -> Option<(WorldRect, WorldRect, WorldRect)> {
        let up = self.sweep(mover, body, WorldVec::new(0.0, -options.step_up)).end;
        let across = self.sweep(mover, up, WorldVec::new(rest.x, 0.0)).end;
        if across == up {
            return None;
        }
        let climbed = body.min().y - up.min().y;
        let down = self.sweep(mover, across, WorldVec::new(0.0, climbed + rest.y.max(0.0)));
        down.contact.map(|_| (up, across, down.end))
    }

    /// Where a box comes that gives way to a corner which it has caught.
    fn past_corner(
        &self,
        mover: MoverId,
        body: WorldRect,
        rest: WorldVec,
        contact: Contact,
        options: SlideOptions,
    ) -> Option<WorldRect> {
        let cell = self.lattice().bounds(contact.cell);
        let (back, on) = if contact.side.is_upright() {
            (cell.min().y - body.max().y, cell.max().y - body.min().y)
        } else {
            (cell.min().x - body.max().x, cell.max().x - body.min().x)
        };
        let by = if -back <= on { back } else { on };
        if by.abs() > options.corner {
            return None;
        }
        let (way, straight) = if contact.side.is_upright() {
            (WorldVec::new(0.0, by), WorldVec::new(rest.x, 0.0))
        } else {
            (WorldVec::new(by, 0.0), WorldVec::new(0.0, rest.y))
        };
        let beside = self.sweep(mover, body, way);
        let gets_on = || self.sweep(mover, beside.end, straight).end != beside.end;
        (beside.contact.is_none() && gets_on()).then_some(beside.end)
    }

    /// The shortest way by which a box comes out of all that blocks a mover, such as a wall that
    /// was built over it: none where it lies in nothing, and `None` where nothing free is as near
    /// as `reach` world units in both directions.
    ///
    /// Exact: along one axis, or to where an edge to the side and one above or below meet. Costs a
    /// look at the cells around, up to the square of those that are as near as it ends; a reach of
    /// more than [`GroundMap::MOST_PUSH_CELLS`] counts as that.
    ///
    /// ```
    /// use sturdy_quilt::{GroundMap, WorldPoint, WorldRect, WorldVec};
    /// # let quilt = sturdy_quilt::doc_quilt();
    ///
    /// let (ground, walker) = (GroundMap::of(&quilt), quilt.mover("walker")?);
    /// let body = WorldRect::between(WorldPoint::new(25.0, 2.0), WorldPoint::new(35.0, 12.0));
    /// assert_eq!(ground.push_out(walker, body, 32.0), Some(WorldVec::new(-3.0, 0.0)));
    /// assert_eq!(ground.push_out(walker, body, 2.0), None);
    /// # Ok::<(), sturdy_quilt::NameError>(())
    /// ```
    pub fn push_out(&self, mover: MoverId, body: WorldRect, reach: f64) -> Option<WorldVec> {
        let mut solid = Solid::new(self, mover);
        let mut is_free = |way| !solid.any_in(self.lines_under(body.moved(way)));
        if is_free(WorldVec::ZERO) {
            return Some(WorldVec::ZERO);
        }
        let lattice = self.lattice();
        let sides = [lattice.cell_width(), lattice.cell_height()];
        let most = f64::from(Self::MOST_PUSH_CELLS) * sides[0].max(sides[1]);
        let reach = reach.min(most);
        // What is near is looked at first: further away there is nothing shorter.
        let mut within = sides[0].min(sides[1]);
        loop {
            within = within.min(reach);
            let x = ways_to_edges(lattice.columns(), (body.min().x, body.max().x), within);
            let y = ways_to_edges(lattice.rows(), (body.min().y, body.max().y), within);
            let ways = x.iter().flat_map(|x| y.iter().map(|y| WorldVec::new(*x, *y)));
            // Of those that are alike, the one to the left, and then the one up.
            let mut ways: Vec<(f64, WorldVec)> =
                ways.map(|way| ((way.x * way.x + way.y * way.y).sqrt(), way)).collect();
            ways.sort_by(|(a, v), (b, w)| {
                a.total_cmp(b).then(v.x.total_cmp(&w.x)).then(v.y.total_cmp(&w.y))
            });
            let found = ways.into_iter().find(|(_, way)| is_free(*way));
            if let Some((length, way)) = found
                && (length <= within || within >= reach)
            {
                return Some(way);
            }
            if within >= reach {
                return None;
            }
            within *= 2.0;
        }
    }

    /// So many cells count at most as the reach of [`GroundMap::push_out`].
    pub const MOST_PUSH_CELLS: u32 = 64;
}

/// How far it is to where either end of a box lies on an edge, within reach; and no way.
fn ways_to_edges(lines: crate::lattice::Lines, (from, to): (f64, f64), reach: f64) -> Vec<f64> {
    let mut ways = vec![0.0];
    for end in [from, to] {
        let edges = lines.at(end - reach)..=lines.at(end + reach) + 1;
        let to_edges = edges.map(|line| lines.edge(line) - end);
        ways.extend(to_edges.filter(|way| way.abs() <= reach));
    }
    ways.sort_by(f64::total_cmp);
    ways.dedup();
    ways
}
