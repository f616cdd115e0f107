//! How much of the pane a map takes.

use crate::draw::{CellFacts, Diamond, Limit, MapFacts, PaneCells, Reach, Scene};
use crate::picture::Color;
use crate::quilt::{Quilt, Wrap};
use crate::tile::Cell;
use crate::units::{PanePoint, PaneRect};
use crate::view::{Projection, View};

/// Of maps with more cells, the extent is found from their bounds.
const MAX_LOOKED_AT: usize = 1 << 20;

impl Quilt {
    /// Returns the part of the pane that the map covers as a projection shows it: its bounds, and the
    /// pictures of its cells, at the elevations of their layers.
    ///
    /// At a slant, costs a look at each cell, of a map with up to 2²⁰ cells that are not empty. Of a
    /// larger one, and of every map that is seen from above, all that the pictures of any of its tiles
    /// could reach beyond its bounds is counted in.
    ///
    /// ```
    /// use sturdy_quilt::view::Projection;
    /// # let quilt = sturdy_quilt::doc_quilt();
    ///
    /// let diamond = Projection::diamond(quilt.lattice(), 32, 16)?;
    /// let extent = quilt.extent_on_pane(&diamond);
    /// // 4 × 3 cells.
    /// assert_eq!((extent.width(), extent.height()), (7.0 * 16.0, 7.0 * 8.0));
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    pub fn extent_on_pane(&self, projection: &Projection) -> PaneRect {
        let cells = self.lattice().rect_bounds(self.bounds());
        let area = projection.around(cells, 0.0);
        if area.is_empty() || !projection.fits(self.lattice()) {
            return area;
        }
        let view = View::default().projected(*projection);
        let facts = Scene::of(self, &view, &Limit::default()).0.map_facts;
        let Some(diamond) = facts.diamond else {
            let lifted = facts.levels.iter().map(|level| level.elevation * projection.lift());
            let (up, down) = lifted
                .fold((0.0_f64, 0.0_f64), |(up, down), lifted| (up.max(lifted), down.max(-lifted)));
            let Reach { left, right, up: higher, down: lower } = facts.reach;
            return area.grown(left, higher + up, right, lower + down);
        };
        let held = self.layers().iter().flat_map(|layer| layer.cells().occupied());
        if held.take(MAX_LOOKED_AT + 1).count() <= MAX_LOOKED_AT {
            let pictures = self.pictures_on_pane(&facts, &diamond, projection);
            return pictures.map_or(area, |pictures| around(area, pictures));
        }
        let (own, reach) = (diamond.own_frame(), facts.frame);
        let px = |from: i64, to: i64| (to - from) as f64;
        area.grown(
            px(reach.left, own.left),
            px(reach.top, own.top),
            px(own.right, reach.right),
            px(own.bottom, reach.bottom),
        )
    }

    /// The smallest rectangle around the pictures of all cells of layers that do not go on without end.
    fn pictures_on_pane(
        &self,
        facts: &MapFacts,
        diamond: &Diamond,
        projection: &Projection,
    ) -> Option<PaneRect> {
        let mut all: Option<PaneRect> = None;
        for (number, layer) in self.layers().iter().enumerate() {
            let settings = layer.settings();
            if settings.wrap != Wrap::No || !settings.draws || !settings.visible {
                continue;
            }
            let Some(levels) = facts.levels_of(number) else { continue };
            let offset = projection.way_to_pane(settings.offset);
            let mut own: Option<PaneCells> = None;
            for (at, cell) in layer.cells().occupied() {
                let frame = cell_frame(facts, diamond, cell, facts.level_of(levels, cell));
                let (x, y) = diamond.corner(projection.facing().turn_cell(at));
                let frame = frame.map(|frame| frame.moved(x, y));
                own = own.into_iter().chain(frame).reduce(PaneCells::union);
            }
            let PaneCells { left, top, right, bottom } = own.unwrap_or_default();
            let corner = |x: i64, y: i64| PanePoint::new(x as f64, y as f64) + offset;
            let rect = own.map(|_| PaneRect::between(corner(left, top), corner(right, bottom)));
            all = all.into_iter().chain(rect).reduce(around);
        }
        all
    }
}

/// The smallest rectangle around two.
fn around(a: PaneRect, b: PaneRect) -> PaneRect {
    PaneRect::around([a.min(), a.max(), b.min(), b.max()])
}

/// The pixels of the pictures that a cell may show, from its top corner on; `None` where it shows
/// nothing.
fn cell_frame(facts: &MapFacts, diamond: &Diamond, cell: Cell, level: u16) -> Option<PaneCells> {
    if facts.facts_of(cell).has(CellFacts::CLEAR) {
        return None;
    }
    let of = |shown: Cell| {
        let art = facts.cell_art_in(shown, 0, Color::WHITE).art;
        facts.frame_of(diamond, art, level)
    };
    facts.frames_of(cell).map(of).reduce(PaneCells::union).or_else(|| Some(of(cell)))
}
