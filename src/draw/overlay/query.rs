//! What was asked of the ground: the edges of what is solid, and the last way through it.

use super::Overlay;
use crate::ground::{Contact, GroundMap, RayHit, Slide};
use crate::picture::Color;
use crate::quilt::MoverId;
use crate::units::{CellOffset, CellPos, ScreenRect, Side, WorldPoint, WorldRect, WorldVec};

impl Overlay {
    /// Lines along the edges at which a mover is stopped: on the sides by which it cannot come into
    /// a cell from one that it can come into.
    pub fn solid_edges(&mut self, ground: &GroundMap, mover: MoverId, color: Color) {
        let cells = self.view.visible_cells(&self.lattice);
        let thick = 1 + i32::from(self.cell_px().0 >= 24.0);
        for at in cells.cells() {
            let treatment = ground.treatment(mover, at);
            let target = self.view.pixels(self.lattice.bounds(at));
            for side in Side::ALL.into_iter().filter(|side| treatment.stops_at(*side)) {
                let (x, y) = match side {
                    Side::Left => (-1, 0),
                    Side::Right => (1, 0),
                    Side::Top => (0, -1),
                    Side::Bottom => (0, 1),
                };
                let beside = at.checked_add(CellOffset::new(x, y));
                if beside.is_some_and(|beside| !ground.treatment(mover, beside).stops_at(side)) {
                    self.rect(edge(target, side, thick), color);
                }
            }
        }
    }

    /// A straight line from place to place, in dots: a ray, a line of sight.
    pub fn line(&mut self, from: WorldPoint, to: WorldPoint, color: Color) {
        self.dotted(from, to, color);
        self.knot(from, color);
        self.knot(to, color);
    }

    /// What has stopped a ray: the cell, and the side of it that was met.
    pub fn ray_hit(&mut self, hit: &RayHit, color: Color) {
        self.met(hit.cell, hit.side, color);
        self.knot(hit.point, color);
    }

    /// A box that slid: where it began, the way of its middle from leg to leg, where it ended, and
    /// what it has met, with the direction away from that.
    ///
    /// ```
    /// use sturdy_quilt::{Color, GroundMap, Overlay, ScreenSize, View, WorldPoint, WorldRect, WorldVec};
    /// # let quilt = sturdy_quilt::doc_quilt();
    ///
    /// let (ground, walker) = (GroundMap::of(&quilt), quilt.mover("walker")?);
    /// let body = WorldRect::between(WorldPoint::new(4.0, 4.0), WorldPoint::new(12.0, 12.0));
    /// let slide = ground.slide(walker, body, WorldVec::new(40.0, 20.0));
    /// let mut overlay = Overlay::new();
    /// overlay.begin(&View::new(ScreenSize::new(160, 120)), quilt.lattice());
    /// overlay.slid_box(body, &slide, Color::rgb(255, 80, 80));
    /// assert!(!overlay.quads().is_empty());
    /// # Ok::<(), sturdy_quilt::NameError>(())
    /// ```
    pub fn slid_box(&mut self, begin: WorldRect, slide: &Slide, color: Color) {
        let mut place = begin;
        for leg in slide.legs() {
            self.frame(self.view.pixels(place), 1, Color { a: color.a / 2, ..color });
            self.dotted(place.center(), place.moved(leg).center(), color);
            place = place.moved(leg);
        }
        self.moved_box(slide.end, slide.end, slide.contacts(), color);
    }

    fn met(&mut self, cell: CellPos, side: Option<Side>, color: Color) {
        let target = self.view.pixels(self.lattice.bounds(cell));
        self.rect(target, Color { a: color.a / 4, ..color });
        if let Some(side) = side {
            self.rect(edge(target, side, 3), color);
        }
    }

    /// A box that was moved: where it began, where it ended, the way between its middles, and what
    /// has stopped it, with the direction away from that.
    ///
    /// ```
    /// use sturdy_quilt::{Color, GroundMap, Overlay, ScreenSize, View, WorldPoint, WorldRect, WorldVec};
    /// # let quilt = sturdy_quilt::doc_quilt();
    ///
    /// let (ground, walker) = (GroundMap::of(&quilt), quilt.mover("walker")?);
    /// let body = WorldRect::between(WorldPoint::new(4.0, 4.0), WorldPoint::new(12.0, 12.0));
    /// let swept = ground.sweep(walker, body, WorldVec::new(40.0, 0.0));
    /// let mut overlay = Overlay::new();
    /// overlay.begin(&View::new(ScreenSize::new(160, 120)), quilt.lattice());
    /// overlay.moved_box(body, swept.end, swept.contact, Color::rgb(255, 80, 80));
    /// assert!(!overlay.quads().is_empty());
    /// # Ok::<(), sturdy_quilt::NameError>(())
    /// ```
    pub fn moved_box(
        &mut self,
        begin: WorldRect,
        end: WorldRect,
        contacts: impl IntoIterator<Item = Contact>,
        color: Color,
    ) {
        let (from, to) = (self.view.pixels(begin), self.view.pixels(end));
        self.frame(from, 1, Color { a: color.a / 2, ..color });
        self.dotted(begin.center(), end.center(), color);
        self.rect(to, Color { a: color.a / 4, ..color });
        self.frame(to, 2, color);
        for contact in contacts {
            self.met(contact.cell, Some(contact.side), color);
            // As long as half a cell.
            let normal = contact.normal;
            let (width, height) = (self.lattice.cell_width(), self.lattice.cell_height());
            let tip = WorldVec::new(normal.x * width / 2.0, normal.y * height / 2.0);
            self.line(contact.point, contact.point + tip, color);
        }
    }
}

/// The pixels along a side of a rectangle, within it.
fn edge(target: ScreenRect, side: Side, thick: i32) -> ScreenRect {
    let ScreenRect { left, top, right, bottom } = target;
    match side {
        Side::Left => ScreenRect { right: left + thick, ..target },
        Side::Right => ScreenRect { left: right - thick, ..target },
        Side::Top => ScreenRect { bottom: top + thick, ..target },
        Side::Bottom => ScreenRect { top: bottom - thick, ..target },
    }
}
