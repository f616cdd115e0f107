//! Slides of a body along what stops it, with small steps and slopes.

use super::body::Body;
use super::sweep::Contact;
use crate::ground::state::GroundMap;
use crate::quilt::MoverId;
use crate::units::{Side, WorldRect, WorldVec};

/// The most contacts that are told of a slide.
const MAX_CONTACTS: usize = 4;
/// The most straight ways of which one is made.
const MAX_LEGS: usize = 24;

/// The path of a body along what stops it.
#[derive(Clone, Debug, PartialEq)]
#[non_exhaustive]
pub struct Slide<B = WorldRect> {
    /// Where the body ends.
    pub end: B,
    contacts: [Option<Contact>; MAX_CONTACTS],
    legs: [WorldVec; MAX_LEGS],
    leg_count: u8,
}

impl Slide {
    /// The most contacts that are told.
    pub const MAX_CONTACTS: usize = MAX_CONTACTS;
}

impl<B: Body> Slide<B> {
    const fn at(body: B) -> Slide<B> {
        let legs = [WorldVec::ZERO; MAX_LEGS];
        Slide { end: body, contacts: [None; MAX_CONTACTS], legs, leg_count: 0 }
    }

    fn go(&mut self, end: B) {
        if let Some(leg) = self.legs.get_mut(usize::from(self.leg_count))
            && end != self.end
        {
            *leg = end.bounds().min() - self.end.bounds().min();
            self.leg_count += 1;
        }
        self.end = end;
    }

    fn meet(&mut self, contact: Contact) {
        if let Some(free) = self.contacts.iter_mut().find(|held| held.is_none()) {
            *free = Some(contact);
        }
    }

    /// Returns what the body has met on its way, in that order; at most [`Slide::MAX_CONTACTS`].
    pub fn contacts(&self) -> impl Iterator<Item = Contact> + use<B> {
        self.contacts.into_iter().flatten()
    }

    /// Returns whether the body has met a cell from this side: `Side::Top` means that it stands on
    /// something.
    pub fn has_met(&self, side: Side) -> bool {
        self.contacts().any(|contact| contact.side == side)
    }

    /// Returns the straight ways that it went, one after the other.
    pub fn legs(&self) -> impl Iterator<Item = WorldVec> + use<B> {
        let (legs, count) = (self.legs, usize::from(self.leg_count));
        legs.into_iter().take(count)
    }
}

/// Options for sliding, see [`GroundMap::slide_with`].
///
/// Steps up and down are for maps seen from the side, where down is where things fall; they are
/// made by a body that stands on something before it moves, and not in the air.
///
/// ```
/// use sturdy_quilt::ground::SlideOptions;
///
/// let walking = SlideOptions::new().with_step_up(8.0).with_step_down(8.0);
/// assert_eq!((walking.turns, walking.corner), (2, 0.0));
/// ```
#[derive(Clone, Copy, Debug, PartialEq)]
#[non_exhaustive]
pub struct SlideOptions {
    /// How often it may go on in another direction after a contact; 0 makes it stop at the first.
    /// Default 2: along a wall, and into a corner.
    pub turns: u8,
    /// The height in world units up to which steps are climbed: the box goes up, across, and down
    /// onto what is there. Default 0.
    pub step_up: f64,
    /// A box that walks off an edge goes down at once to what is not further below than so many
    /// world units, and does not begin to fall. Default 0.
    pub step_down: f64,
    /// The distance in world units by which a box that catches a cell by its corner gives way to
    /// the side and goes on, where it is free to. Default 0.
    pub corner: f64,
    /// Whether that is so at sides too, and not only under something: in maps seen from above it
    /// should, in those seen from the side a box would climb and slip off edges. Default false.
    pub corner_at_sides: bool,
    /// Whether slopes are floors: what comes down onto one stays there as on a flat one, and goes
    /// up and down along it at the speed that it has sideways. Else a slope turns a body aside as
    /// a slanting wall does: it slips down, and is slowed. For maps seen from the side; which
    /// slopes are floors, their [`Contact::side`] says. Default false.
    pub slopes: bool,
}

impl Default for SlideOptions {
    fn default() -> SlideOptions {
        SlideOptions {
            turns: 2,
            step_up: 0.0,
            step_down: 0.0,
            corner: 0.0,
            corner_at_sides: false,
            slopes: false,
        }
    }
}

impl SlideOptions {
    /// Returns two turns and nothing else: what [`GroundMap::slide`] does.
    pub fn new() -> SlideOptions {
        SlideOptions::default()
    }

    setters! {
        /// Returns these options with another number of turns.
        const with_turns(turns: u8);

        /// Returns these options, climbing steps up to a height in world units.
        const with_step_up(step_up: f64);

        /// Returns these options, following steps down to a depth in world units.
        const with_step_down(step_down: f64);

        /// Returns these options, giving way to the corners of what is above, by a distance in world units.
        const with_corner(corner: f64);
    }

    /// Returns these options, giving way to corners on all sides, by a distance in world units.
    #[must_use]
    pub const fn with_all_corners(mut self, by: f64) -> SlideOptions {
        self.corner = by;
        self.corner_at_sides = true;
        self
    }

    /// Returns these options, with slopes that are floors.
    #[must_use]
    pub const fn with_slopes(mut self) -> SlideOptions {
        self.slopes = true;
        self
    }

    fn gives_way(&self, side: Side) -> bool {
        self.corner > 0.0 && (self.corner_at_sides || side == Side::Bottom)
    }
}

impl GroundMap {
    /// Moves a body, and lets it slide along what stops it: what remains of the motion goes on in
    /// the direction that is free. Costs at most three sweeps.
    ///
    /// Ten small moves along a wall end where a great one ends, but for the rounding of their sum;
    /// along a slope, but for a 32nd of [`GroundMap::SKIN`] of a cell: by a 64th of it a body is
    /// led off a slope for each turn along one, so that it never comes to lie in it.
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
    pub fn slide<B: Body>(&self, mover: MoverId, body: B, motion: WorldVec) -> Slide<B> {
        self.slide_with(mover, body, motion, SlideOptions::default())
    }

    /// Moves a body as [`GroundMap::slide`] does, with options. A step costs four sweeps more.
    ///
    /// ```
    /// use sturdy_quilt::ground::SlideOptions;
    /// use sturdy_quilt::{GroundMap, WorldPoint, WorldRect, WorldVec};
    /// # let quilt = sturdy_quilt::doc_quilt();
    ///
    /// let (ground, walker) = (GroundMap::of(&quilt), quilt.mover("walker")?);
    /// // The wall is the cell 2,0, and ends at y = 16: the box catches it by its upper corner.
    /// let body = WorldRect::between(WorldPoint::new(20.0, 14.0), WorldPoint::new(30.0, 24.0));
    /// let lenient = SlideOptions::new().with_all_corners(3.0);
    /// let slide = ground.slide_with(walker, body, WorldVec::new(8.0, 0.0), lenient);
    /// assert_eq!(slide.end.min(), WorldPoint::new(28.0, 16.0));
    /// # Ok::<(), sturdy_quilt::NameError>(())
    /// ```
    pub fn slide_with<B: Body>(
        &self,
        mover: MoverId,
        body: B,
        motion: WorldVec,
        options: SlideOptions,
    ) -> Slide<B> {
        let steps = options.step_up > 0.0 || options.step_down > 0.0;
        let on_ground = steps && self.stands_on(mover, body).is_some();
        let (mut slide, mut rest, mut turns) = (Slide::at(body), motion, options.turns);
        let mut is_led = false;
        // Each step and each corner that is passed takes one or two; so it comes to an end whatever
        // the map.
        for _ in 0..MAX_LEGS / 3 {
            let sweep = self.sweep(mover, slide.end, rest);
            slide.go(sweep.end);
            let Some(contact) = sweep.contact else { break };
            rest = rest * (1.0 - sweep.fraction);
            if is_led {
                // Up and down it went by the slope alone.
                rest.y = 0.0;
            }
            if options.gives_way(contact.side)
                && let Some(beside) = self.past_corner(mover, slide.end, rest, contact, options)
            {
                slide.go(beside);
                continue;
            }
            if on_ground
                && contact.side.is_upright()
                && let Some([up, across, down]) = self.step_up(mover, slide.end, rest, options)
            {
                let gone = across.bounds().min().x - up.bounds().min().x;
                rest = WorldVec::new(rest.x - gone, 0.0);
                [up, across, down].into_iter().for_each(|end| slide.go(end));
                continue;
            }
            let into_another =
                |way: WorldVec| slide.contacts().any(|met| met.normal.dot(way) < 0.0);
            let Some(left) = turns.checked_sub(1) else {
                slide.meet(contact);
                break;
            };
            turns = left;
            rest = self.along(rest, contact, options);
            is_led = options.slopes && contact.side == Side::Top;
            // Between two that lie across it there is no way on.
            let is_caught = into_another(rest);
            slide.meet(contact);
            if is_caught {
                break;
            }
        }
        if on_ground
            && options.step_down > 0.0
            && motion.y >= 0.0
            && let below = options.step_down + self.skin().y
            && let down = self.sweep(mover, slide.end, WorldVec::new(0.0, below))
            && let Some(floor) = down.contact
        {
            slide.go(down.end);
            if slide.contacts().all(|met| (met.cell, met.side) != (floor.cell, floor.side)) {
                slide.meet(floor);
            }
        }
        slide
    }

    /// What of a motion goes on along what was met.
    fn along(&self, rest: WorldVec, contact: Contact, options: SlideOptions) -> WorldVec {
        let normal = contact.normal;
        if normal.x == 0.0 || normal.y == 0.0 {
            // Straight edges have exact normals.
            return WorldVec::new(
                if normal.x == 0.0 { rest.x } else { 0.0 },
                if normal.y == 0.0 { rest.y } else { 0.0 },
            );
        }
        // Rounding must not lead it in.
        let lift = self.thin() / 64.0;
        let (along, off) = if options.slopes && contact.side == Side::Top {
            let way = WorldVec::new(rest.x, -rest.x * normal.x / normal.y);
            (way, WorldVec::new(0.0, lift / normal.y))
        } else {
            (rest - normal * normal.dot(rest), normal * lift)
        };
        if along == WorldVec::ZERO { along } else { along + off }
    }

    /// Returns what a body stands on: what it meets by going down by no more than
    /// [`GroundMap::SKIN`].
    pub fn stands_on<B: Body>(&self, mover: MoverId, body: B) -> Option<Contact> {
        self.sweep(mover, body, WorldVec::new(0.0, self.skin().y)).contact
    }

    /// Where a body comes that climbs what stops it: up, across, and down onto what is there.
    fn step_up<B: Body>(
        &self,
        mover: MoverId,
        body: B,
        rest: WorldVec,
        options: SlideOptions,
    ) -> Option<[B; 3]> {
        let up = self.sweep(mover, body, WorldVec::new(0.0, -options.step_up)).end;
        let across = self.sweep(mover, up, WorldVec::new(rest.x, 0.0)).end;
        if across == up {
            return None;
        }
        let climbed = body.bounds().min().y - up.bounds().min().y;
        let down = self.sweep(mover, across, WorldVec::new(0.0, climbed + rest.y.max(0.0)));
        down.contact.map(|_| [up, across, down.end])
    }

    /// Where a body comes that gives way to a corner which it has caught.
    fn past_corner<B: Body>(
        &self,
        mover: MoverId,
        body: B,
        rest: WorldVec,
        contact: Contact,
        options: SlideOptions,
    ) -> Option<B> {
        let (cell, around) = (self.solid_bounds(mover, &contact), body.bounds());
        let (back, on) = if contact.side.is_upright() {
            (cell.min().y - around.max().y, cell.max().y - around.min().y)
        } else {
            (cell.min().x - around.max().x, cell.max().x - around.min().x)
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

    /// The rectangle around what a body has met.
    fn solid_bounds(&self, mover: MoverId, contact: &Contact) -> WorldRect {
        let corner = self.lattice().bounds(contact.cell).min();
        let solid = self.solids_met(mover, contact.cell).get(contact.piece);
        let corners = solid.map_or(&[][..], |solid| solid.convex.corners());
        WorldRect::around(corners.iter().map(|at| corner + *at))
    }
}
