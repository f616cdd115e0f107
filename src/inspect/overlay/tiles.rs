//! Overlays of tiles: their names, what is hidden, the order of drawing.

use super::super::explain::{CellVisibility, Explainer, Visibility};
use crate::draw::{DrawList, Overlay};
use crate::picture::Color;
use crate::quilt::Quilt;
use crate::tile::Cell;
use crate::units::{CellPos, CellRect, ChunkPos, ScreenRect};
use crate::view::View;

/// The text by which a tile is named in its cell.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
#[non_exhaustive]
pub enum TileText {
    /// By its name in its set, or its place in the sheet.
    Name,
    /// By its number in the tile table.
    Number,
}

/// The least letters of a line that are worth showing.
const MIN_LETTERS: usize = 3;
/// So many are a whole name, most often.
const GOOD_LETTERS: usize = 8;

impl Overlay {
    /// Writes into each cell in view which tile the topmost layer has there that has one. A name
    /// that is too long goes on in the next line; where no three letters have room, nothing is
    /// written.
    pub fn tiles(&mut self, quilt: &Quilt, text: TileText, color: Color) {
        let explainer = Explainer::of(quilt, &self.view);
        let runs: Vec<CellRect> = self.view.visible_runs(&self.lattice).collect();
        let cells = runs.iter().flat_map(|run| run.intersection(quilt.bounds()).cells());
        // Small letters, rather than names in pieces; one size for all.
        let scale = self.scale_for(GOOD_LETTERS).or(self.scale_for(MIN_LETTERS));
        let Some(scale) = scale else { return };
        for at in cells {
            let sights = explainer.cell(at).into_iter();
            let topmost = { sights }.find(|visibility| {
                matches!(visibility.visibility, Visibility::Shown | Visibility::Placeholder)
                    && !visibility.cell.is_empty()
            });
            let Some(cell) = topmost.map(|visibility| visibility.cell) else { continue };
            let Some(tile) = quilt.tiles().tile_of(cell) else { continue };
            let words = match text {
                TileText::Number => tile.index().to_string(),
                TileText::Name => {
                    let name = quilt.tiles().name(tile);
                    name.map(|name| name.key().to_string()).unwrap_or_default()
                }
            };
            self.write_into(at, &words, scale, color);
        }
    }

    /// The largest scale of letters, up to that of the overlay, at which so many fit into a cell.
    fn scale_for(&self, letters: usize) -> Option<u32> {
        let (width, height) = self.cell_px();
        let fits = |scale: &u32| {
            let probe = Overlay::new().with_text_scale(*scale);
            f64::from(probe.text_width(letters)) + 2.0 <= width
                && f64::from(probe.line_height()) <= height
        };
        (1..=self.text_scale).rev().find(fits)
    }

    /// Writes words into a cell, in as many lines as it takes and has room.
    fn write_into(&mut self, at: CellPos, words: &str, scale: u32, color: Color) {
        let own_scale = std::mem::replace(&mut self.text_scale, scale);
        let mut target = self.view.pixels_around(self.lattice.bounds(at));
        if self.view.projection().is_slanted() {
            // The largest upright rectangle in the diamond.
            let (x, y) = ((target.right - target.left) / 4, (target.bottom - target.top) / 4);
            target = ScreenRect {
                left: target.left + x,
                top: target.top + y,
                right: target.right - x,
                bottom: target.bottom - y,
            };
        }
        let ScreenRect { left, top, right, bottom } = target;
        let in_a_line = ((right - left - 2) / self.text_width(1)).max(1) as usize;
        let lines = ((bottom - top - 1) / self.line_height()).max(1) as usize;
        let all: Vec<char> = words.chars().collect();
        for (number, line) in (0..).zip(all.chunks(in_a_line).take(lines)) {
            let line: String = line.iter().collect();
            self.text(left + 2, top + 2 + self.line_height() * number, &line, color);
        }
        self.text_scale = own_scale;
    }

    /// Colours the cells in which a tile is covered by others, in one colour, and those in which a
    /// tile has no pixels, in another; and gives both with their meaning, for
    /// [`Overlay::legend`].
    pub fn unseen(&mut self, quilt: &Quilt) -> Vec<(String, Color)> {
        const COVERED: Color = Color::rgba(255, 150, 40, 110);
        const CLEAR: Color = Color::rgba(80, 170, 255, 110);
        let explainer = Explainer::of(quilt, &self.view);
        self.tint(quilt.bounds(), |at| {
            let sights = explainer.cell(at);
            let has =
                |wanted: fn(&Visibility<'_>) -> bool| sights.iter().any(|s| wanted(&s.visibility));
            if has(|visibility| matches!(visibility, Visibility::Covered { .. })) {
                Some(COVERED)
            } else {
                has(|visibility| matches!(visibility, Visibility::Clear)).then_some(CLEAR)
            }
        });
        let solid = |color| Color { a: 255, ..color };
        vec![
            ("a tile is covered".to_owned(), solid(COVERED)),
            ("a tile is clear".to_owned(), solid(CLEAR)),
        ]
    }

    /// Draws the order in which things are drawn that are sorted by row: a line along the foot of
    /// each, and its number where it has room.
    pub fn row_order(&mut self, list: &DrawList, color: Color) {
        let quads = list.quads();
        let sorted = quads.iter().filter(|quad| quad.key.depth > f64::NEG_INFINITY);
        let feet: Vec<ScreenRect> = sorted.map(|quad| quad.target).collect();
        let room = self.text_width(feet.len().to_string().len());
        for (number, target) in feet.iter().enumerate() {
            let ScreenRect { left, right, bottom, .. } = *target;
            self.rect(ScreenRect { left, right, top: bottom - 1, bottom: bottom + 1 }, color);
            if right - left >= room {
                let words = number.to_string();
                let width = self.text_width(words.len());
                let (x, y) = ((left + right - width) / 2, bottom - self.line_height());
                self.label(x - 2, y - 2, &words, color);
            }
        }
    }

    /// Draws the stamp of each chunk in view, the latest of all layers, in its upper left corner:
    /// which was changed last, and whether an edit has reached it.
    pub fn chunk_stamps(&mut self, quilt: &Quilt, color: Color) {
        let cells = quilt.bounds().intersection(self.view.visible_cells(&self.lattice));
        let (across, down) = self.cell_px();
        // As many as can be read; where chunks are smaller than the words, none.
        let least = f64::from(self.text_width(8)) / ChunkPos::SIDE as f64;
        if across.min(down) < least {
            return;
        }
        for chunk in cells.chunks() {
            let stamps = quilt.layers().iter().map(|layer| layer.cells().chunk_stamp(chunk));
            let Some(latest) = stamps.max() else { continue };
            let target = self.view.pixels_around(self.lattice.rect_bounds(chunk.cells()));
            let words = format!("chunk {},{} · {latest}", chunk.x(), chunk.y());
            self.label(target.left.max(0) + 4, target.top.max(0) + 4, &words, color);
        }
    }

    /// Draws a box beside a cell of the map that says of each layer whether its cell shows, and
    /// why not.
    pub fn why(&mut self, quilt: &Quilt, cell: CellPos) {
        let lines = Overlay::why_lines(quilt, &self.view, cell);
        self.cell(cell, Color::rgb(255, 240, 150));
        let target = self.view.pixels_around(self.lattice.bounds(cell));
        let longest = lines.iter().map(|(line, _)| line.chars().count()).max().unwrap_or(0);
        let size = self.view.size();
        let (width, height) =
            (self.text_width(longest + 2), self.line_height() * (lines.len() as i32 + 1));
        let beside = target.right + 4;
        let left =
            if beside + width <= size.width as i32 { beside } else { target.left - 4 - width };
        let left = left.min(size.width as i32 - width).max(0);
        let top = target.top.min(size.height as i32 - height).max(0);
        self.text_box(left, top, &lines);
    }

    /// Returns the lines of [`Overlay::why`], to be shown elsewhere.
    pub fn why_lines(quilt: &Quilt, view: &View, cell: CellPos) -> Vec<(String, Color)> {
        const SHOWN: Color = Color::rgb(150, 230, 130);
        const UNSEEN: Color = Color::rgb(255, 170, 110);
        const EMPTY: Color = Color::rgb(150, 158, 166);
        let line = |visibility: &CellVisibility<'_>| {
            let color = match visibility.visibility {
                Visibility::Shown | Visibility::Placeholder | Visibility::Backdrop { .. } => SHOWN,
                Visibility::Empty => EMPTY,
                _ => UNSEEN,
            };
            let tile = match visibility.cell {
                Cell::EMPTY => String::new(),
                cell => format!("{} · ", quilt.tiles().notation(cell)),
            };
            (format!("{}: {tile}{visibility}", visibility.layer.name()), color)
        };
        Explainer::of(quilt, view).cell(cell).iter().map(line).collect()
    }
}
