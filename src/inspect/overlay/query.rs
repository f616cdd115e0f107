//! Overlays of ground queries: the edges of what is solid, and the last way through it.

use crate::draw::Overlay;
use crate::ground::{Body, Contact, GroundMap, RayHit, Slide, StopEdge};
use crate::picture::Color;
use crate::quilt::MoverId;
use crate::units::{CellPos, CellRect, ScreenRect, Side, WorldPoint, WorldRect, WorldVec, pairs};
use crate::view::Projection;

impl Overlay {
    /// Draws the edges at which a mover is stopped: on the sides by which it cannot come into
    /// a cell from one that it can come into, and along the outlines of those of which a part is
    /// solid. Nothing where cells are smaller than half a pixel, so that the lines would hide all.
    ///
    /// Costs a look at each cell in view.
    pub fn solid_edges(&mut self, ground: &GroundMap, mover: MoverId, color: Color) {
        let (across, down) = self.cell_px();
        if across.min(down) < 0.5 {
            return;
        }
        let runs: Vec<CellRect> = self.view.visible_runs(&self.lattice).collect();
        let thick = 1 + i32::from(self.cell_px().0 >= 24.0);
        for at in runs.iter().flat_map(|run| run.cells()) {
            let bounds = self.lattice.bounds(at);
            let place = |(x, y): (f64, f64)| {
                bounds.min() + WorldVec::new(x * bounds.width(), y * bounds.height())
            };
            for StopEdge { from, to, side: on_side, treatment } in ground.stop_edges(mover, at) {
                let (begin, end) = (place(from), place(to));
                let side = on_side.unwrap_or_else(|| Side::facing((end - begin).outwards()));
                // What lies beside it may be as solid there.
                let along = |(x, y): (f64, f64)| if side.is_upright() { y } else { x };
                let is_covered = |beside: CellPos| {
                    ground.stop_edges(mover, beside).iter().any(|other| {
                        let (low, high) = (along(other.from), along(other.to));
                        other.side == Some(side.opposite())
                            && other.treatment.stops_at(side)
                            && low.min(high) <= along(from).min(along(to))
                            && low.max(high) >= along(from).max(along(to))
                    })
                };
                let is_inside = on_side
                    .is_some_and(|side| at.checked_add(side.offset()).is_none_or(is_covered));
                if is_inside || !treatment.stops_at(side) {
                    continue;
                }
                if *self.view.projection() != Projection::FLAT {
                    self.ground_line(begin, end, thick as u32, color);
                } else if on_side.is_some() {
                    let part = self.view.pixels_around(WorldRect::between(begin, end));
                    self.rect(edge(part, side, thick), color);
                } else {
                    self.stroke(begin, end, thick, color);
                }
            }
        }
    }

    /// A straight line, pixel by pixel.
    pub(super) fn stroke(&mut self, from: WorldPoint, to: WorldPoint, thick: i32, color: Color) {
        if self.view.projection().is_slanted() {
            self.ground_line(from, to, thick as u32, color);
            return;
        }
        let Some((from, to)) = self.clipped(from, to) else { return };
        let (a, b) = (self.view.to_screen(from), self.view.to_screen(to));
        let (dx, dy) = (b.x - a.x, b.y - a.y);
        let steps = dx.abs().max(dy.abs()).ceil().clamp(1.0, 65_536.0);
        for step in 0..steps as u32 {
            let part = (step as f32 + 0.5) / steps;
            let (left, top) = ((a.x + dx * part).floor() as i32, (a.y + dy * part).floor() as i32);
            self.rect(ScreenRect { left, top, right: left + thick, bottom: top + thick }, color);
        }
    }

    /// The part of a line that may be on the screen, with some pixels around it; `None` where none is,
    /// and where a number is not finite.
    ///
    /// By the parts of the line at which it crosses each edge (Y. Liang and B. Barsky, "A New Concept
    /// and Method for Line Clipping", ACM Transactions on Graphics 3, 1984).
    pub(super) fn clipped(
        &self,
        from: WorldPoint,
        to: WorldPoint,
    ) -> Option<(WorldPoint, WorldPoint)> {
        const AROUND_PX: f64 = 8.0;
        let way = to - from;
        if !from.is_finite() || !way.is_finite() {
            return None;
        }
        let around = AROUND_PX / self.view.zoom();
        let seen = self.view.visible_pane().grown(around, around, around, around);
        let seen = self.view.projection().ground_around(seen, 0.0);
        let (mut start, mut end) = (0.0_f64, 1.0_f64);
        for (at, way, low, high) in [
            (from.x, way.x, seen.min().x, seen.max().x),
            (from.y, way.y, seen.min().y, seen.max().y),
        ] {
            if way == 0.0 {
                if at < low || at > high {
                    return None;
                }
                continue;
            }
            let (a, b) = ((low - at) / way, (high - at) / way);
            (start, end) = (start.max(a.min(b)), end.min(a.max(b)));
        }
        (start <= end).then(|| (from + way * start, from + way * end))
    }

    /// Draws a straight line from place to place, in dots: a ray, a line of sight.
    pub fn line(&mut self, from: WorldPoint, to: WorldPoint, color: Color) {
        self.dotted(from, to, color);
        self.knot(from, color);
        self.knot(to, color);
    }

    /// Draws what has stopped a ray: the cell, and the side of it that was met.
    pub fn ray_hit(&mut self, hit: &RayHit, color: Color) {
        self.met(hit.cell, hit.side, (hit.point, hit.normal), color);
        self.knot(hit.point, color);
    }

    /// Draws a body that slid: where it began, the way of its middle from leg to leg, where it
    /// ended, and what it has met, with the direction away from that.
    ///
    /// ```
    /// use sturdy_quilt::{
    ///     Color, GroundMap, Overlay, ScreenSize, View, WorldPoint, WorldRect, WorldVec,
    /// };
    /// # let quilt = sturdy_quilt::doc_quilt();
    ///
    /// let (ground, walker) = (GroundMap::of(&quilt), quilt.mover("walker")?);
    /// let body = WorldRect::between(WorldPoint::new(4.0, 4.0), WorldPoint::new(12.0, 12.0));
    /// let slide = ground.slide(walker, body, WorldVec::new(40.0, 20.0));
    /// let mut overlay = Overlay::new();
    /// overlay.begin(&View::new(ScreenSize::new(160, 120)), quilt.lattice());
    /// overlay.slid_body(body, &slide, Color::rgb(255, 80, 80));
    /// assert!(!overlay.quads().is_empty());
    /// # Ok::<(), sturdy_quilt::NameError>(())
    /// ```
    pub fn slid_body<B: Body>(&mut self, begin: B, slide: &Slide<B>, color: Color) {
        let mut place = begin;
        for leg in slide.legs() {
            self.body(&place, 1, color);
            let next = place.moved(leg);
            self.dotted(place.bounds().center(), next.bounds().center(), color);
            place = next;
        }
        self.moved_body(slide.end, slide.end, slide.contacts(), color);
    }

    /// The cell that was met, and the side of it where that is what was met, and not a slope, or
    /// something within the cell.
    fn met(
        &mut self,
        cell: CellPos,
        side: Option<Side>,
        (point, normal): (WorldPoint, WorldVec),
        color: Color,
    ) {
        let bounds = self.lattice.bounds(cell);
        let target = self.view.pixels_around(bounds);
        self.ground_area(bounds, Color { a: color.a / 4, ..color });
        let is_on = |side: &Side| match side {
            Side::Left => point.x == bounds.min().x,
            Side::Right => point.x == bounds.max().x,
            Side::Top => point.y == bounds.min().y,
            Side::Bottom => point.y == bounds.max().y,
        };
        let is_straight = normal.x == 0.0 || normal.y == 0.0;
        let Some(side) = side.filter(|side| is_straight && is_on(side)) else { return };
        if *self.view.projection() == Projection::FLAT {
            self.rect(edge(target, side, 3), color);
            return;
        }
        let (min, max) = (bounds.min(), bounds.max());
        let (from, to) = match side {
            Side::Left => (min, WorldPoint::new(min.x, max.y)),
            Side::Right => (WorldPoint::new(max.x, min.y), max),
            Side::Top => (min, WorldPoint::new(max.x, min.y)),
            Side::Bottom => (WorldPoint::new(min.x, max.y), max),
        };
        self.ground_line(from, to, 3, color);
    }

    /// Draws a body that was moved: where it began, where it ended, the way between its middles,
    /// and what has stopped it, with the direction away from that.
    ///
    /// ```
    /// use sturdy_quilt::{
    ///     Color, GroundMap, Overlay, ScreenSize, View, WorldPoint, WorldRect, WorldVec,
    /// };
    /// # let quilt = sturdy_quilt::doc_quilt();
    ///
    /// let (ground, walker) = (GroundMap::of(&quilt), quilt.mover("walker")?);
    /// let body = WorldRect::between(WorldPoint::new(4.0, 4.0), WorldPoint::new(12.0, 12.0));
    /// let swept = ground.sweep(walker, body, WorldVec::new(40.0, 0.0));
    /// let mut overlay = Overlay::new();
    /// overlay.begin(&View::new(ScreenSize::new(160, 120)), quilt.lattice());
    /// overlay.moved_body(body, swept.end, swept.contact, Color::rgb(255, 80, 80));
    /// assert!(!overlay.quads().is_empty());
    /// # Ok::<(), sturdy_quilt::NameError>(())
    /// ```
    pub fn moved_body<B: Body>(
        &mut self,
        begin: B,
        end: B,
        contacts: impl IntoIterator<Item = Contact>,
        color: Color,
    ) {
        self.body(&begin, 1, color);
        self.dotted(begin.bounds().center(), end.bounds().center(), color);
        self.body(&end, 2, color);
        for contact in contacts {
            let place = (contact.point, contact.normal);
            self.met(contact.cell, Some(contact.side), place, color);
            // As long as half a cell.
            let normal = contact.normal;
            let (width, height) = (self.lattice.cell_width(), self.lattice.cell_height());
            let tip = WorldVec::new(normal.x * width / 2.0, normal.y * height / 2.0);
            self.line(contact.point, contact.point + tip, color);
        }
    }

    /// The outline of a body; one drawn thicker is filled as well, where it is a box.
    fn body<B: Body>(&mut self, body: &B, thick: u32, color: Color) {
        let (corners, bounds) = (body.outline(), body.bounds());
        let is_slanted = self.view.projection().is_slanted();
        if thick > 1 && is_slanted && pairs(&corners).all(|(a, b)| a.x == b.x || a.y == b.y) {
            self.ground_area(bounds, Color { a: color.a / 4, ..color });
        }
        if !is_slanted && pairs(&corners).all(|(a, b)| a.x == b.x || a.y == b.y) {
            let target = self.view.pixels_around(bounds);
            if thick > 1 {
                self.rect(target, Color { a: color.a / 4, ..color });
            }
            let ScreenRect { left, top, right, bottom } = target;
            let (left, top) = (left.saturating_sub(1), top.saturating_sub(1));
            let (right, bottom) = (right.saturating_add(1), bottom.saturating_add(1));
            let around = ScreenRect { left, top, right, bottom };
            self.frame(around, thick + 2, Overlay::halo(color));
            self.frame(target, thick, color);
            return;
        }
        for (thick, color) in [(thick as i32 + 2, Overlay::halo(color)), (thick as i32, color)] {
            for (from, to) in pairs(&corners) {
                self.stroke(from, to, thick, color);
            }
        }
    }
}

/// The pixels along a side of a rectangle, within it; of one without width, beside it.
pub(super) fn edge(target: ScreenRect, side: Side, thick: i32) -> ScreenRect {
    let ScreenRect { left, top, right, bottom } = target;
    match side {
        Side::Left => ScreenRect { right: left.saturating_add(thick), ..target },
        Side::Right => ScreenRect { left: right.saturating_sub(thick), ..target },
        Side::Top => ScreenRect { bottom: top.saturating_add(thick), ..target },
        Side::Bottom => ScreenRect { top: bottom.saturating_sub(thick), ..target },
    }
}
