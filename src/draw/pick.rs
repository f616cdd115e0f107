//! What is drawn at a pixel.

use super::list::DrawList;
use super::order::DrawKey;
use super::pass::{Pass, StackPass};
use super::sample::shown_at;
use crate::lattice::Lattice;
use crate::tile::{Cell, Turn};
use crate::units::{CellOffset, CellPos, PixelRect, ScreenPoint, ScreenRect};

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
    /// The cells and sprites that have something to show at a point of the screen, the foremost
    /// first. The clear parts of a tile do not count, nor do cells that others cover wholly, which
    /// are not in the list.
    ///
    /// Costs a look at the cells around the point and at all loose items.
    ///
    /// ```
    /// use sturdy_quilt::{CellPos, DrawList, ScreenSize, View, WorldPoint};
    /// # let quilt = sturdy_quilt::doc_quilt();
    ///
    /// let view = View::new(ScreenSize::new(96, 64)).centered_on(WorldPoint::new(32.0, 24.0));
    /// let mut list = DrawList::new();
    /// list.rebuild(&quilt, &view, &[]);
    /// let picked = list.pick(view.to_screen(WorldPoint::new(40.0, 8.0))).next().unwrap();
    /// assert_eq!(picked.key.place, CellPos::new(2, 0));
    /// assert_eq!(quilt.layers()[picked.key.layer as usize].name(), "soil");
    /// assert_eq!(quilt.tiles().notation(picked.cell).to_string(), "garden/wall");
    /// ```
    pub fn pick(&self, point: ScreenPoint) -> impl Iterator<Item = Picked> + use<> {
        let mut found = Vec::new();
        let pixel = (point.x.floor() as i32, point.y.floor() as i32);
        for pass in self.passes() {
            match pass {
                Pass::Stack(pass) => self.pick_cells(&pass, pixel, &mut found),
                Pass::Loose(items) => found.extend(items.iter().filter_map(|item| {
                    let target = self.view().pixels(item.rect);
                    let shown = (item.page, item.source, item.turn, item.alpha);
                    self.picked(item.key, item.cell, shown, target, pixel)
                })),
            }
        }
        found.sort_unstable_by_key(|picked| std::cmp::Reverse(picked.key));
        found.into_iter()
    }

    fn pick_cells(&self, pass: &StackPass<'_>, pixel: (i32, i32), found: &mut Vec<Picked>) {
        let Some(scene) = &self.scene else { return };
        let candidates = around(pass, &scene.lattice, pixel);
        for at in candidates.filter(|at| pass.cells().contains(*at)) {
            let target = pass.pixels(at);
            for entry in pass.entries_of(at).filter(|_| target.contains(pixel.0, pixel.1)) {
                let (page, art) = scene.looks.art_of(entry.cell());
                let slot = &scene.looks.slots[usize::from(entry.slot())];
                let key = slot.key(&scene.lattice, pass.alignment.offset, at);
                let shown = (page, art.source, entry.cell().turn(), slot.alpha);
                found.extend(self.picked(key, entry.cell(), shown, target, pixel));
            }
        }
    }

    fn picked(
        &self,
        key: DrawKey,
        cell: Cell,
        (page, source, turn, alpha): (u32, PixelRect, Turn, u8),
        target: ScreenRect,
        pixel: (i32, i32),
    ) -> Option<Picked> {
        let page = self.tiles()?.page(page)?;
        let [.., solid] = shown_at(page, source, turn, target, pixel);
        let alpha = (u16::from(solid) * u16::from(alpha) / 255) as u8;
        (alpha > 0).then_some(Picked { key, cell, alpha })
    }
}

/// The cells that may cover a pixel: the one in which its centre lies, and, since edges are rounded
/// to pixels, those around.
fn around(
    pass: &StackPass<'_>,
    lattice: &Lattice,
    (x, y): (i32, i32),
) -> impl Iterator<Item = CellPos> + use<> {
    let center = pass.view.to_world(ScreenPoint::new(x as f32 + 0.5, y as f32 + 0.5));
    let middle = lattice.cell_at(center - pass.alignment.offset);
    let ways = (-1..=1).flat_map(|dy| (-1..=1).map(move |dx| CellOffset::new(dx, dy)));
    ways.filter_map(move |way| middle.checked_add(way))
}
