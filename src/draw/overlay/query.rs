//! What was asked of the ground: the edges of what is solid, and the last way through it.

use super::Overlay;
use crate::ground::{Contact, GroundMap, Side};
use crate::picture::Color;
use crate::quilt::MoverId;
use crate::units::{CellOffset, ScreenRect, WorldPoint, WorldRect};

impl Overlay {
    /// Lines along the edges at which a mover is stopped: between cells that block it and those
    /// that do not.
    pub fn solid_edges(&mut self, ground: &GroundMap, mover: MoverId, color: Color) {
        let cells = self.view.visible_cells(&self.lattice);
        let thick = 1 + i32::from(self.cell_px().0 >= 24.0);
        for at in cells.cells().filter(|at| ground.blocked(mover, *at)) {
            let open = |x: i32, y: i32| {
                let beside = at.checked_add(CellOffset::new(x, y));
                beside.is_some_and(|beside| !ground.blocked(mover, beside))
            };
            let target = self.view.pixels(self.lattice.bounds(at));
            let sides = [
                (Side::Left, -1, 0),
                (Side::Right, 1, 0),
                (Side::Top, 0, -1),
                (Side::Bottom, 0, 1),
            ];
            for (side, x, y) in sides {
                if open(x, y) {
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

    /// A box that was moved: where it began, where it ended, the way between its middles, and the
    /// side of the cell that has stopped it.
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
            let target = self.view.pixels(self.lattice.bounds(contact.cell));
            self.rect(target, Color { a: color.a / 4, ..color });
            self.rect(edge(target, contact.side, 3), color);
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
