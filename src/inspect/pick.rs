//! Picking: what is drawn at a pixel.

use crate::draw::{DrawKey, DrawList, LooseItem, PaneCells, Pass, Quad, RankSpan, StackPass, Step};
use crate::paint::{outline_holds, shown_at};
use crate::picture::Color;
use crate::quilt::Quilt;
use crate::tile::Cell;
use crate::units::{CellOffset, ScreenPoint};
use crate::view::View;

/// A thing that shows at a pixel, as [`DrawList::pick`] gives it.
#[derive(Clone, Copy, Debug, PartialEq)]
#[non_exhaustive]
pub struct Picked {
    /// Its place in the order: the layer and the cell, or the key of the sprite.
    pub key: DrawKey,
    /// What it shows.
    pub cell: Cell,
    /// Which part of it shows there.
    pub part: PickedPart,
    /// How solid it is in this pixel: 1 to 255, or 0 in a hole of its outline.
    pub alpha: u8,
}

/// The part of a thing that shows at a pixel.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
#[non_exhaustive]
pub enum PickedPart {
    /// The face of a cell: from above, all of what fills its cell; at a slant, of what does not stand in
    /// its cell, the diamond on top.
    Face,
    /// What is seen below that face, and all of what stands, larger tiles and sprites.
    Body,
}

/// How much of a thing counts when it is picked.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Hash)]
#[non_exhaustive]
pub enum PickBy {
    /// What is not clear: a point in a hole picks what is behind.
    #[default]
    Pixel,
    /// The outline: in each row of a picture, all from the first pixel that is not clear to the last.
    Outline,
}

impl Quilt {
    /// Returns the front-most thing that shows at a point of the screen, as a view sees the map; `None`
    /// where nothing does.
    ///
    /// Costs a new draw list. A game that draws has one: [`DrawList::pick`] costs next to nothing, and
    /// knows the sprites.
    ///
    /// ```
    /// use sturdy_quilt::inspect::PickedPart;
    /// use sturdy_quilt::view::Projection;
    /// use sturdy_quilt::{CellPos, ScreenSize, WorldPoint};
    /// # let mut quilt = sturdy_quilt::doc_quilt();
    ///
    /// quilt.edit("slant it", |pen| {
    ///     let diamond = Projection::diamond(pen.quilt().lattice(), 64, 32);
    ///     pen.set_projection(diamond.expect("even numbers"))
    /// })?;
    /// let wall = CellPos::new(2, 0);
    /// let view = quilt.view(ScreenSize::new(320, 200)).centered_on(quilt.lattice().center(wall));
    /// let picked = quilt.pick(&view, view.to_screen(view.center())).expect("a wall");
    /// assert_eq!((picked.key.place, picked.part), (wall, PickedPart::Face));
    /// # Ok::<(), sturdy_quilt::EditError>(())
    /// ```
    pub fn pick(&self, view: &View, point: ScreenPoint) -> Option<Picked> {
        let mut list = DrawList::new();
        list.rebuild(self, view);
        list.pick(point).next()
    }
}

impl DrawList {
    /// Returns the cells and sprites that have something to show at a point of the screen, the
    /// foremost first. The clear parts of a tile do not count, nor do cells that others cover
    /// wholly, which are not in the list.
    ///
    /// Costs a look at the cells around the point and at all loose items.
    ///
    /// ```
    /// use sturdy_quilt::{CellPos, DrawList, ScreenSize, View, WorldPoint};
    /// # let quilt = sturdy_quilt::doc_quilt();
    ///
    /// let view = View::new(ScreenSize::new(96, 64)).centered_on(WorldPoint::new(32.0, 24.0));
    /// let mut list = DrawList::new();
    /// list.rebuild(&quilt, &view);
    /// let picked = list.pick(view.to_screen(WorldPoint::new(40.0, 8.0))).next().unwrap();
    /// assert_eq!(picked.key.place, CellPos::new(2, 0));
    /// assert_eq!(quilt.layers()[picked.key.layer as usize].name(), "soil");
    /// assert_eq!(quilt.tiles().notation(picked.cell).to_string(), "garden/wall");
    /// ```
    pub fn pick(&self, point: ScreenPoint) -> impl Iterator<Item = Picked> + use<> {
        self.pick_by(point, PickBy::Pixel)
    }

    /// Returns the cells and sprites at a point of the screen, the foremost first, by their pixels, as
    /// [`DrawList::pick`], or by their outlines.
    pub fn pick_by(&self, point: ScreenPoint, by: PickBy) -> impl Iterator<Item = Picked> + use<> {
        let mut found = Vec::new();
        let point = self.view().to_upright(point);
        let at = Point { pixel: (point.x.floor() as i32, point.y.floor() as i32), by };
        for pass in self.merged_passes() {
            if let Pass::Stack(pass) = pass {
                self.pick_cells(&pass, at, &mut found);
            }
        }
        self.pick_slanted(at, &mut found);
        let loose = self.loose.iter();
        found.extend(loose.filter_map(|item| self.picked(item, PickedPart::Body, at)));
        found.sort_unstable_by_key(|picked| std::cmp::Reverse(picked.key));
        found.into_iter()
    }

    /// Picks the cells of a map that is seen at a slant.
    fn pick_slanted(&self, at: Point, found: &mut Vec<Picked>) {
        let (x, y) = at.pixel;
        let Some(scene) = &self.scene else { return };
        let Some(diamond) = &scene.map_facts.diamond else { return };
        for step in &self.steps {
            let Step::Group(group) = step else { continue };
            let alignment = &self.alignments[group.alignment];
            let Some(slanted) = alignment.slanted else { continue };
            let view = &alignment.placement.view;
            let (left, top) =
                (view.pane_column(x) - slanted.corner.0, view.pane_row(y) - slanted.corner.1);
            let area = PaneCells { left, top, right: left + 1, bottom: top + 1 };
            let span = RankSpan::in_area(area, scene.map_facts.frame, diamond);
            alignment.each_entry(&span, group.levels(), |own, shown, entry| {
                let item = self.loose_cell(scene, alignment, (own, shown), entry);
                let (corner_x, corner_y) = diamond.corner(shown);
                let lifted_px = scene.map_facts.levels[usize::from(entry.level)].lifted_px;
                let (x, y) = (left - corner_x + diamond.half_width, top - corner_y + lifted_px);
                let is_face = scene.map_facts.standing(item.cell) == 0 && diamond.holds(x, y);
                let part = if is_face { PickedPart::Face } else { PickedPart::Body };
                found.extend(self.picked(&item, part, at));
            });
        }
    }

    fn pick_cells(&self, pass: &StackPass<'_>, at: Point, found: &mut Vec<Picked>) {
        let pixel = at.pixel;
        let Some(scene) = self.scene.as_ref().filter(|own| own.map_facts.diamond.is_none()) else {
            return;
        };
        // The one in which the centre of the pixel lies, and, since edges are rounded to pixels,
        // those around.
        let middle = pass.cell_near(pixel);
        let ways = (-1..=1).flat_map(|dy| (-1..=1).map(move |dx| CellOffset::new(dx, dy)));
        let around = ways.filter_map(|way| middle.checked_add(way));
        for shown in around.filter(|shown| pass.cells().contains(*shown)) {
            if !pass.pixels(shown).contains(pixel.0, pixel.1) {
                continue;
            }
            for (own, entry) in pass.entries_of(shown) {
                let item = self.loose_cell(scene, pass.alignment, (own, shown), entry);
                found.extend(self.picked(&item, PickedPart::Face, at));
            }
        }
    }

    /// The thing, where it counts in a pixel.
    fn picked(&self, item: &LooseItem, part: PickedPart, at: Point) -> Option<Picked> {
        let (page, zoom) = (self.page(item.quad.page)?, self.view().zoom());
        let [.., solid] = shown_at(page, &item.quad, zoom, at.pixel);
        let Quad { key, color, .. } = item.quad;
        let alpha = Color { a: solid, ..Color::WHITE }.times(color).a;
        let counts = match at.by {
            PickBy::Pixel => alpha > 0,
            PickBy::Outline => color.a > 0 && outline_holds(page, &item.quad, zoom, at.pixel),
        };
        counts.then_some(Picked { key, cell: item.cell, part, alpha })
    }
}

/// Where and how things are picked.
#[derive(Clone, Copy)]
struct Point {
    pixel: (i32, i32),
    by: PickBy,
}
