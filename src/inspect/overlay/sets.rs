//! Overlays of sets of cells: what is selected, and what would be erased.

use super::query::edge;
use crate::cell_set::CellSet;
use crate::draw::Overlay;
use crate::picture::Color;
use crate::units::{CellPos, CellRect, Side, WorldPoint, WorldVec};
use crate::view::Projection;

impl Overlay {
    /// Marks a set of cells, such as a selection: a light in its cells, and a line along its border.
    /// Without the line where cells are smaller than half a pixel.
    ///
    /// Costs a look at each cell in view that lies within the bounds of the set.
    ///
    /// ```
    /// use sturdy_quilt::{CellPos, CellRect, CellSet, Color, Overlay, ScreenSize, View};
    /// # let quilt = sturdy_quilt::doc_quilt();
    ///
    /// let view = View::new(ScreenSize::new(320, 200));
    /// let mut overlay = Overlay::new();
    /// overlay.begin(&view, quilt.lattice());
    /// let pond = CellSet::ellipse(CellRect::new(CellPos::new(-3, -2), 6, 4))?;
    /// overlay.cell_set(&pond, Color::rgb(255, 240, 120));
    /// overlay.hatch(&pond.outline(Default::default()), Color::rgb(220, 60, 50));
    /// assert!(!overlay.quads().is_empty());
    /// # Ok::<(), sturdy_quilt::cell_set::CellSetError>(())
    /// ```
    pub fn cell_set(&mut self, set: &CellSet, color: Color) {
        let light = Color { a: color.a / 4, ..color };
        self.tint(set.bounds(), |at| set.contains(at).then_some(light));
        if self.cell_px().0.min(self.cell_px().1) < 0.5 {
            return;
        }
        let thick = 1 + i32::from(self.cell_px().0 >= 24.0);
        for at in self.cells_in_view(set) {
            for side in Side::ALL {
                if at.checked_add(side.offset()).is_some_and(|beside| set.contains(beside)) {
                    continue;
                }
                if *self.view.projection() == Projection::FLAT {
                    let cell = self.view.pixels_around(self.lattice.bounds(at));
                    self.rect(edge(cell, side, thick), color);
                } else {
                    let (from, to) = self.ends_of(at, side);
                    self.ground_line(from, to, thick as u32, color);
                }
            }
        }
    }

    /// Hatches a set of cells: slanting lines through them, for what an edit would erase. Nothing where
    /// cells are smaller than four pixels.
    ///
    /// Costs as [`Overlay::cell_set`].
    pub fn hatch(&mut self, set: &CellSet, color: Color) {
        const THIRD: f64 = 1.0 / 3.0;
        const SLANTING: [[(f64, f64); 2]; 5] = [
            [(0.0, THIRD), (THIRD, 0.0)],
            [(0.0, 2.0 * THIRD), (2.0 * THIRD, 0.0)],
            [(0.0, 1.0), (1.0, 0.0)],
            [(THIRD, 1.0), (1.0, THIRD)],
            [(2.0 * THIRD, 1.0), (1.0, 2.0 * THIRD)],
        ];
        // At a slant, what is straight on the ground slants on the screen.
        const STRAIGHT: [[(f64, f64); 2]; 3] =
            [[(0.0, 0.25), (1.0, 0.25)], [(0.0, 0.5), (1.0, 0.5)], [(0.0, 0.75), (1.0, 0.75)]];
        if self.cell_px().0.min(self.cell_px().1) < 4.0 {
            return;
        }
        for at in self.cells_in_view(set) {
            let is_slanted = self.view.projection().is_slanted();
            for &[from, to] in if is_slanted { &STRAIGHT[..] } else { &SLANTING[..] } {
                let (from, to) = (self.place_in(at, from), self.place_in(at, to));
                if *self.view.projection() == Projection::FLAT {
                    self.stroke(from, to, 1, color);
                } else {
                    self.ground_line(from, to, 1, color);
                }
            }
        }
    }

    fn cells_in_view(&self, set: &CellSet) -> Vec<CellPos> {
        let runs = self.view.visible_runs(&self.lattice);
        let cells = runs.flat_map(|run| CellRect::cells(run.intersection(set.bounds())));
        cells.filter(|at| set.contains(*at)).collect()
    }

    /// A place in a cell, from 0 to 1 in both directions.
    fn place_in(&self, cell: CellPos, (x, y): (f64, f64)) -> WorldPoint {
        let bounds = self.lattice.bounds(cell);
        bounds.min() + WorldVec::new(x * bounds.width(), y * bounds.height())
    }

    /// The ends of a side of a cell.
    fn ends_of(&self, cell: CellPos, side: Side) -> (WorldPoint, WorldPoint) {
        let (from, to) = match side {
            Side::Top => ((0.0, 0.0), (1.0, 0.0)),
            Side::Right => ((1.0, 0.0), (1.0, 1.0)),
            Side::Bottom => ((0.0, 1.0), (1.0, 1.0)),
            Side::Left => ((0.0, 0.0), (0.0, 1.0)),
        };
        (self.place_in(cell, from), self.place_in(cell, to))
    }
}
