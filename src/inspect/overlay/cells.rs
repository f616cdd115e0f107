//! Cells in colours: by ground, by layer, by what the game knows of them.

use super::super::explain::from_the_top;
use crate::draw::{Motion, Overlay};
use crate::ground::GroundMap;
use crate::picture::Color;
use crate::plane::{OwnValue, Plane, Presence};
use crate::quilt::{GroundClass, Layer, MoverId, Quilt};
use crate::tile::Cell;
use crate::units::{CellPos, CellRect, ScreenPoint, ScreenRect, WorldPoint, WorldVec};
use crate::view::{Projection, View};

/// How strongly a cell is coloured, so that it can still be seen below.
const TINT: u8 = 120;

impl Overlay {
    /// Colours cells: those of `cells` in view for which there is a colour.
    pub fn tint(&mut self, cells: CellRect, mut color: impl FnMut(CellPos) -> Option<Color>) {
        let runs = self.view.visible_runs(&self.lattice);
        for own in runs.map(|run| run.intersection(cells)) {
            // Neighbours of one colour become one rectangle.
            let mut run: Option<(CellRect, Color)> = None;
            for at in own.cells() {
                let own = color(at);
                run = match (run, own) {
                    (Some((cells, held)), Some(own)) if held == own => {
                        Some((cells.union(CellRect::of_cell(at)), held))
                    }
                    (before, own) => {
                        self.tint_run(before);
                        own.map(|own| (CellRect::of_cell(at), own))
                    }
                };
            }
            self.tint_run(run);
        }
    }

    fn tint_run(&mut self, run: Option<(CellRect, Color)>) {
        if let Some((cells, color)) = run {
            self.ground_area(self.lattice.rect_bounds(cells), color);
        }
    }

    /// Marks one cell: a light in it, and a frame around it. For the cell under the pointer.
    pub fn cell(&mut self, cell: CellPos, color: Color) {
        let bounds = self.lattice.bounds(cell);
        self.ground_area(bounds, Color { a: color.a / 4, ..color });
        self.ground_frame(bounds, 1 + u32::from(self.cell_px().0 >= 24.0), color);
    }

    /// Marks the face of a cell that lies so many world units above the ground, as [`Overlay::cell`] does:
    /// for what [`DrawList::pick`](crate::DrawList::pick) has found under the pointer.
    pub fn face(&mut self, cell: CellPos, elevation: f64, color: Color) {
        let (min, max) = (self.lattice.bounds(cell).min(), self.lattice.bounds(cell).max());
        let corners = [(min.x, min.y), (max.x, min.y), (max.x, max.y), (min.x, max.y)];
        let corners =
            corners.map(|(x, y)| self.view.to_screen_at(WorldPoint::new(x, y), elevation));
        let thickness_px = 1 + u32::from(self.cell_px().0 >= 24.0);
        self.area(corners, Color { a: color.a / 4, ..color });
        for (from, to) in corners.into_iter().zip(corners.into_iter().cycle().skip(1)) {
            self.straight_line(from, to, thickness_px, color);
        }
    }

    /// Colours each cell by its ground class, and each part of one that has several; what no layer
    /// says anything of stays as it is. Gives the names of the map's classes with their colours,
    /// those that the map states or else some that differ, for [`Overlay::legend`].
    pub fn ground(&mut self, quilt: &Quilt, ground: &GroundMap) -> Vec<(String, Color)> {
        let rules = quilt.ground_rules();
        let color =
            |class: GroundClass| rules.class_color(class).unwrap_or(color_of_number(class.index()));
        let tint = |class: Presence<Option<GroundClass>>| match class {
            Presence::Here(class) => class.map(|class| Color { a: TINT, ..color(class) }),
            Presence::NotHere | Presence::Damaged => Some(Color::rgba(0, 0, 0, TINT)),
        };
        let mut parted = Vec::new();
        self.tint(ground.bounds(), |at| {
            if ground.parts_at(at).nth(1).is_some() {
                parted.push(at);
                return None;
            }
            tint(ground.class_at(at))
        });
        for at in parted {
            self.tint_parts(ground, at, tint);
        }
        let classes = rules.handles().zip(rules.classes());
        classes.map(|(class, name)| (name.to_owned(), color(class))).collect()
    }

    /// Colours a cell pixel row by pixel row, by the parts in which the middles of pixels lie.
    fn tint_parts(
        &mut self,
        ground: &GroundMap,
        cell: CellPos,
        tint: impl Fn(Presence<Option<GroundClass>>) -> Option<Color>,
    ) {
        let bounds = self.lattice.bounds(cell);
        let target = self.view.pixels_around(bounds);
        let screen = ScreenRect::of_size(self.view.size());
        let shown = target.intersection(screen);
        let (width, height) = (target.right - target.left, target.bottom - target.top);
        let (view, is_flat) = (self.view, *self.view.projection() == Projection::FLAT);
        let place = |x: i32, y: i32| {
            if !is_flat {
                return view.to_world(ScreenPoint::new(x as f32 + 0.5, y as f32 + 0.5));
            }
            let part =
                |at: i32, from: i32, length: i32| (f64::from(at - from) + 0.5) / f64::from(length);
            let (x, y) = (part(x, target.left, width), part(y, target.top, height));
            bounds.min() + WorldVec::new(x * bounds.width(), y * bounds.height())
        };
        for y in shown.top..shown.bottom {
            let mut left = shown.left;
            while left < shown.right {
                // At a slant, the rectangle around the cell has pixels of others.
                let class_at = |x: i32| {
                    let at = place(x, y);
                    bounds.contains(at).then(|| ground.class_at_point(at))
                };
                let class = class_at(left);
                let same = |x: &i32| class_at(*x) == class;
                let right = (left + 1..shown.right).take_while(same).last().unwrap_or(left) + 1;
                if let Some(color) = class.and_then(&tint) {
                    self.rect(ScreenRect { left, top: y, right, bottom: y + 1 }, color);
                }
                left = right;
            }
        }
    }

    /// Colours the cells that a mover cannot enter, also outside the map.
    pub fn blocked(&mut self, ground: &GroundMap, mover: MoverId, color: Color) {
        self.tint(CellRect::EVERYWHERE, |at| ground.blocked(mover, at).then_some(color));
    }

    /// Colours the cells in which a layer has a raised cell, or a tile that always is.
    pub fn raised(&mut self, quilt: &Quilt, color: Color) {
        let shown = Shown::of(quilt, &self.view);
        let is_raised = |cell: Cell| {
            let tile = quilt.tiles().tile_of(cell).and_then(|id| quilt.tiles().tile(id));
            cell.is_raised() || tile.is_some_and(|tile| tile.raise())
        };
        self.tint(quilt.bounds(), |at| {
            shown.at(at).any(|(_, cell)| is_raised(cell)).then_some(color)
        });
    }

    /// Colours the cells that take their colours from a palette slot, and writes the number of
    /// the slot into them where it has room.
    pub fn palettes(&mut self, quilt: &Quilt) {
        let shown = Shown::of(quilt, &self.view);
        let slot = |at| shown.at(at).map(|(_, cell)| cell.palette()).find(|slot| *slot > 0);
        let color = |slot: u8| color_of_number(usize::from(slot) + 6);
        self.tint(quilt.bounds(), |at| slot(at).map(|slot| Color { a: TINT, ..color(slot) }));
        let (width, height) = self.cell_px();
        if f64::from(self.text_width(3)) > width || f64::from(self.line_height()) > height {
            return;
        }
        let runs: Vec<CellRect> = self.view.visible_runs(&self.lattice).collect();
        for at in runs.iter().flat_map(|run| run.intersection(quilt.bounds()).cells()) {
            if let Some(slot) = slot(at) {
                let words = slot.to_string();
                let (left, top) = self.text_corner(at, &words);
                self.text(left + 1, top + 1, &words, Color::rgb(255, 255, 255));
            }
        }
    }

    /// Colours each cell by the topmost layer that has a tile in it. Gives the names of the layers
    /// with their colours, the topmost first, for [`Overlay::legend`].
    pub fn layers(&mut self, quilt: &Quilt) -> Vec<(String, Color)> {
        let shown = Shown::of(quilt, &self.view);
        let color = |layer: &Layer| {
            let place = quilt.layers().iter().position(|held| held.id() == layer.id());
            color_of_number(place.unwrap_or_default())
        };
        self.tint(quilt.bounds(), |at| {
            let topmost = shown.at(at).find(|(_, cell)| !cell.is_empty());
            topmost.map(|(layer, _)| Color { a: TINT + 40, ..color(layer) })
        });
        let layers = from_the_top(quilt).into_iter();
        layers.map(|(_, layer)| (layer.name().to_owned(), color(layer))).collect()
    }

    /// Colours cells by a value of the game's own.
    ///
    /// ```
    /// use sturdy_quilt::plane::ValueKind;
    /// use sturdy_quilt::{CellPos, Color, Overlay, ScreenSize, View};
    /// # let mut quilt = sturdy_quilt::doc_quilt();
    ///
    /// quilt.edit("grow", |pen| {
    ///     pen.add_value_layer("growth", ValueKind::F32)?;
    ///     pen.put_value("growth", CellPos::new(1, 1), 0.5_f32)
    /// })?;
    /// let mut overlay = Overlay::new();
    /// overlay.begin(&View::new(ScreenSize::new(160, 120)), quilt.lattice());
    /// overlay.values(quilt.values::<f32>("growth")?, |growth| {
    ///     (growth > 0.0).then(|| Color::rgba(80, 220, 60, (growth * 200.0) as u8))
    /// });
    /// assert_eq!(overlay.quads().len(), 1);
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    pub fn values<V: OwnValue>(
        &mut self,
        values: &Plane<V>,
        mut color: impl FnMut(V) -> Option<Color>,
    ) {
        let mut cursor = values.cursor();
        self.tint(values.bounds(), |at| color(cursor.get(at).here()?));
    }

    /// Draws a box in the upper right corner that says which colour stands for what.
    pub fn legend(&mut self, entries: &[(String, Color)]) {
        let longest = entries.iter().map(|(name, _)| name.chars().count() + 2).max().unwrap_or(0);
        let width = self.text_width(longest) + 4 * self.text_scale as i32;
        self.legend_at(self.view.size().width as i32 - width - 8, 8, entries);
    }

    /// Draws the same legend with the upper left corner of its box at a pixel of the screen.
    pub fn legend_at(&mut self, left: i32, top: i32, entries: &[(String, Color)]) {
        const NAME: Color = Color::rgb(226, 232, 238);
        let lines: Vec<(String, Color)> =
            entries.iter().map(|(name, _)| (format!("  {name}"), NAME)).collect();
        let scale = self.text_scale as i32;
        self.text_box(left, top, &lines);
        for (number, (_, color)) in (0..).zip(entries) {
            let top = top + 2 * scale + self.line_height() * number;
            let (right, bottom) = (left + 9 * scale, top + 7 * scale);
            self.rect(ScreenRect { left: left + 2 * scale, top, right, bottom }, *color);
        }
    }
}

/// The shown layers of a map, as a view sees them at time 0.
struct Shown<'q> {
    quilt: &'q Quilt,
    view: View,
    layers: Vec<(usize, &'q Layer)>,
}

impl<'q> Shown<'q> {
    fn of(quilt: &'q Quilt, view: &View) -> Shown<'q> {
        let mut layers = from_the_top(quilt);
        layers.retain(|(_, layer)| layer.settings().visible);
        Shown { quilt, view: *view, layers }
    }

    /// What each layer has over a cell of the map, from the top down.
    fn at(&self, cell: CellPos) -> impl Iterator<Item = (&'q Layer, Cell)> + '_ {
        self.layers.iter().filter_map(move |&(number, layer)| {
            let (_, own, _) = Motion::over(self.quilt, number, cell, (&self.view, 0));
            Some((layer, layer.cells().get(own).here()?))
        })
    }
}

/// Colours that tell a few things apart: ground classes, layers. After the last one they begin
/// anew.
fn color_of_number(number: usize) -> Color {
    const COLORS: [Color; 12] = [
        Color::rgb(112, 190, 86),
        Color::rgb(158, 104, 62),
        Color::rgb(150, 152, 160),
        Color::rgb(58, 122, 222),
        Color::rgb(232, 236, 240),
        Color::rgb(20, 104, 66),
        Color::rgb(240, 200, 64),
        Color::rgb(214, 72, 160),
        Color::rgb(240, 128, 44),
        Color::rgb(64, 200, 206),
        Color::rgb(208, 52, 52),
        Color::rgb(132, 92, 214),
    ];
    COLORS[number % COLORS.len()]
}
