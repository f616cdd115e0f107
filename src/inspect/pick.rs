//! Picking: what is drawn at a pixel.

use crate::draw::{DrawKey, DrawList, LooseItem, PaneCells, Pass, Quad, RankSpan, StackPass, Step};
use crate::paint::shown_at;
use crate::picture::Color;
use crate::tile::Cell;
use crate::units::{CellOffset, ScreenPoint};

/// A thing that shows at a pixel, as [`DrawList::pick`] gives it.
#[derive(Clone, Copy, Debug, PartialEq)]
#[non_exhaustive]
pub struct Picked {
    /// Its place in the order: the layer and the cell, or the key of the sprite.
    pub key: DrawKey,
    /// What it shows.
    pub cell: Cell,
    /// How solid it is in this pixel: 1 to 255.
    pub alpha: u8,
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
        let mut found = Vec::new();
        let point = self.view().to_upright(point);
        let pixel = (point.x.floor() as i32, point.y.floor() as i32);
        for pass in self.passes() {
            if let Pass::Stack(pass) = pass {
                self.pick_cells(&pass, pixel, &mut found);
            }
        }
        self.pick_slanted(pixel, &mut found);
        found.extend(self.loose.iter().filter_map(|item| self.picked(item, pixel)));
        found.sort_unstable_by_key(|picked| std::cmp::Reverse(picked.key));
        found.into_iter()
    }

    /// Picks the cells of a map that is seen at a slant.
    fn pick_slanted(&self, (x, y): (i32, i32), found: &mut Vec<Picked>) {
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
                found.extend(self.picked(&item, (x, y)));
            });
        }
    }

    fn pick_cells(&self, pass: &StackPass<'_>, pixel: (i32, i32), found: &mut Vec<Picked>) {
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
                found.extend(self.picked(&item, pixel));
            }
        }
    }

    /// The thing, where it is not clear in a pixel.
    fn picked(&self, item: &LooseItem, pixel: (i32, i32)) -> Option<Picked> {
        let [.., solid] =
            shown_at(self.page(item.quad.page)?, &item.quad, self.view().zoom(), pixel);
        let Quad { key, color, .. } = item.quad;
        let alpha = Color { a: solid, ..Color::WHITE }.times(color).a;
        (alpha > 0).then_some(Picked { key, cell: item.cell, alpha })
    }
}
