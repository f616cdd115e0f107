//! Lines along the edges of cells and chunks, and the coordinates of cells.

use crate::draw::Overlay;
use crate::picture::Color;
use crate::units::{CellPos, CellRect, ChunkPos, ScreenRect, WorldPoint, WorldRect, pairs};
use crate::view::Projection;

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
        let projection = *self.view.projection();
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
        let rows = (first(cells.top())..i64::from(cells.bottom())).step_by(step as usize);
        for row in rows {
            let in_row = CellPos::checked(i64::from(cells.left()), row);
            let run = match (in_row, projection.is_slanted()) {
                // Labels begin in the corner of cells, so the row above shows as well.
                (_, false) | (None, _) => cells,
                (Some(at), true) => self.run_of(at),
            };
            let columns = first(run.left())..i64::from(run.right());
            for column in columns.step_by(step as usize) {
                if let Some(cell) = CellPos::checked(column, row) {
                    let words = cell.to_string();
                    let (left, top) = self.text_corner(cell, &words);
                    self.text(left, top, &words, color);
                }
            }
        }
    }

    /// The run of a row of cells in view.
    fn run_of(&self, at: CellPos) -> CellRect {
        let mut runs = self.view.visible_runs(&self.lattice);
        runs.find(|run| run.top() == at.y()).unwrap_or(CellRect::EMPTY)
    }

    /// Where words in a cell begin: in its upper left corner, and at a slant, where that is a point, so
    /// that they stand in its middle.
    pub(super) fn text_corner(&self, cell: CellPos, words: &str) -> (i32, i32) {
        let target = self.view.pixels_around(self.lattice.bounds(cell));
        if !self.view.projection().is_slanted() {
            return (target.left + 2, target.top + 2);
        }
        let (width, height) = (self.text_width(words.chars().count()), self.line_height());
        let middle = |from: i32, to: i32| (i64::from(from) + i64::from(to)).div_euclid(2) as i32;
        let x = middle(target.left, target.right).saturating_sub(width / 2);
        (x, middle(target.top, target.bottom).saturating_sub(height / 2))
    }

    /// Width and height of a cell in pixels; of a diamond, those of the largest upright rectangle in it.
    pub(super) fn cell_px(&self) -> (f64, f64) {
        let zoom = self.view.zoom();
        if let Some((width, height)) = self.view.projection().half_diamond() {
            return (f64::from(width) * zoom, f64::from(height) * zoom);
        }
        if self.view.projection().facing().swaps() {
            return (self.lattice.cell_height() * zoom, self.lattice.cell_width() * zoom);
        }
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
        if *self.view.projection() != Projection::FLAT {
            let seen = self.view.visible();
            for column in numbers(cells.left(), cells.right()) {
                let x = self.lattice.columns().edge(column);
                let ends = (WorldPoint::new(x, seen.min().y), WorldPoint::new(x, seen.max().y));
                self.ground_line(ends.0, ends.1, thick as u32, color);
            }
            for row in numbers(cells.top(), cells.bottom()) {
                let y = self.lattice.rows().edge(row);
                let ends = (WorldPoint::new(seen.min().x, y), WorldPoint::new(seen.max().x, y));
                self.ground_line(ends.0, ends.1, thick as u32, color);
            }
            return;
        }
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

    /// A straight line on the ground, as it is seen.
    pub(super) fn ground_line(
        &mut self,
        from: WorldPoint,
        to: WorldPoint,
        thickness_px: u32,
        color: Color,
    ) {
        let Some((from, to)) = self.clipped(from, to) else { return };
        let (from, to) = (self.view.to_screen(from), self.view.to_screen(to));
        self.straight_line(from, to, thickness_px, color);
    }

    /// Colours an area of the ground: as a rectangle from above, and at a slant as it is seen.
    pub(super) fn ground_area(&mut self, area: WorldRect, color: Color) {
        if self.view.projection().is_slanted() {
            let corners = corners(area).map(|at| self.view.to_screen(at));
            self.area(corners, color);
        } else {
            self.rect(self.view.pixels_around(area), color);
        }
    }

    /// Draws the outline of an area of the ground, some pixels thick.
    pub(super) fn ground_frame(&mut self, area: WorldRect, thickness_px: u32, color: Color) {
        if self.view.projection().is_slanted() {
            for (from, to) in pairs(&corners(area)) {
                self.ground_line(from, to, thickness_px, color);
            }
        } else {
            self.frame(self.view.pixels_around(area), thickness_px, color);
        }
    }
}

/// The corners of an area, one after the other around it.
fn corners(area: WorldRect) -> [WorldPoint; 4] {
    let (min, max) = (area.min(), area.max());
    [(min.x, min.y), (max.x, min.y), (max.x, max.y), (min.x, max.y)]
        .map(|(x, y)| WorldPoint::new(x, y))
}
