//! Lines along the edges of cells and chunks, and the coordinates of cells.

use crate::draw::Overlay;
use crate::picture::Color;
use crate::units::{CellPos, ChunkPos, ScreenRect};

/// Lines are at least so many pixels apart, else they would hide what lies below.
const MIN_APART_PX: f64 = 6.0;

impl Overlay {
    /// Draws the edges of all cells in view. Where they would lie too close, only every second,
    /// fifth, tenth … is shown.
    pub fn lattice(&mut self, color: Color) {
        let step = self.step(MIN_APART_PX, MIN_APART_PX);
        self.edges(step, 1, color);
    }

    /// Draws the edges of chunks, 64 × 64 cells, two pixels thick. Nothing where they would lie
    /// too close.
    pub fn chunk_edges(&mut self, color: Color) {
        let (across, down) = self.cell_px();
        if across.min(down) * ChunkPos::SIDE as f64 >= MIN_APART_PX {
            self.edges(ChunkPos::SIDE as i32, 2, color);
        }
    }

    /// Draws the column and row of each cell in view, in its upper left corner; of some cells
    /// only, where not all have room.
    pub fn coordinates(&mut self, color: Color) {
        let cells = self.view.visible_cells(&self.lattice);
        if cells.is_empty() {
            return;
        }
        let corners = [
            CellPos::new(cells.left(), cells.top()),
            CellPos::new(cells.right() - 1, cells.bottom() - 1),
        ];
        let (x, y) =
            (corners.map(|c| c.x().to_string().len()), corners.map(|c| c.y().to_string().len()));
        let letters = x.into_iter().max().unwrap_or(0) + y.into_iter().max().unwrap_or(0) + 2;
        let width = f64::from(self.text_width(letters));
        let step = self.step(width, f64::from(self.line_height()) + 2.0);
        let first = |from: i32| i64::from(from).div_euclid(step.into()) * i64::from(step);
        let mut row = first(cells.top());
        while row < i64::from(cells.bottom()) {
            let mut column = first(cells.left());
            while column < i64::from(cells.right()) {
                if let Some(cell) = CellPos::checked(column, row) {
                    let target = self.view.pixels_around(self.lattice.bounds(cell));
                    self.text(target.left + 2, target.top + 2, &cell.to_string(), color);
                }
                column += i64::from(step);
            }
            row += i64::from(step);
        }
    }

    /// Width and height of a cell in pixels.
    pub(super) fn cell_px(&self) -> (f64, f64) {
        let zoom = self.view.zoom();
        (self.lattice.cell_width() * zoom, self.lattice.cell_height() * zoom)
    }

    /// Every how many cells something so large has room: 1, 2, 5, 10, 20, 50 …
    fn step(&self, width_px: f64, height_px: f64) -> i32 {
        let (across, down) = self.cell_px();
        let wanted = (width_px / across).max(height_px / down);
        let steps = (0..9).flat_map(|zeros| [1, 2, 5].map(|digit| digit * 10_i32.pow(zeros)));
        { steps }.find(|step| f64::from(*step) >= wanted).unwrap_or(1_000_000_000)
    }

    /// The edges before every so many columns and rows.
    fn edges(&mut self, step: i32, thick: i32, color: Color) {
        let cells = self.view.visible_cells(&self.lattice);
        let size = self.view.size();
        let (width, height) = (size.width as i32, size.height as i32);
        let numbers = |from: i32, to: i32| {
            let first = i64::from(from).div_euclid(step.into()) * i64::from(step);
            (first..=i64::from(to)).step_by(step as usize)
        };
        for column in numbers(cells.left(), cells.right()) {
            let x = self.view.column_edge(self.lattice.columns().edge(column));
            self.rect(
                ScreenRect { left: x, top: 0, right: x.saturating_add(thick), bottom: height },
                color,
            );
        }
        for row in numbers(cells.top(), cells.bottom()) {
            let y = self.view.row_edge(self.lattice.rows().edge(row));
            self.rect(
                ScreenRect { left: 0, top: y, right: width, bottom: y.saturating_add(thick) },
                color,
            );
        }
    }
}
