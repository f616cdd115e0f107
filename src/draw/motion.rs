//! The motion of a layer, or a band of one, over the screen.
//!
//! A layer with a parallax is seen by a camera of its own, which stands at
//! `parallax_from + (camera - parallax_from) * parallax`; what has a speed is moved in the world by
//! `speed * time`. All the rest, pixel rule included, is as for every other layer, so that it is as
//! exact at any zoom.
//!
//! Draw lists see the map as it is turned before the camera: columns, rows and ways are those after
//! the turn, of layers as of the lattice. So all that follows sees a map that is not turned.

use crate::lattice::Lattice;
use crate::quilt::{Layer, LayerSettings, Parallax, Quilt, Wrap};
use crate::units::{CellOffset, CellPos, CellRect, PanePoint, WorldPoint, WorldRect, WorldVec};
use crate::view::{Facing, Projection, View};

/// How cells move over the screen. Those with the same motion lie on the same lattice edges.
#[derive(Clone, Copy, Debug, Default, PartialEq)]
pub(crate) struct Motion {
    pub(super) offset: WorldVec,
    /// How much higher it is seen than its place on the ground, in picture pixels. At a slant that is
    /// said of each level.
    lifted_px: f64,
    parallax: Parallax,
    parallax_from: WorldPoint,
    speed: WorldVec,
    wrap: Wrap,
    /// The cells that are repeated, where that is stated.
    area: Option<CellRect>,
    /// Otherwise of which layer all cells are; layers of different size do not repeat together.
    layer: Option<usize>,
}

/// Rows of a layer that move together.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Strip {
    pub(crate) motion: Motion,
    /// Its rows: from the first up to, but not with, the second.
    pub(crate) rows: (i32, i32),
}

/// All rows there are.
pub(super) const ALL_ROWS: (i32, i32) = (CellPos::MIN, CellPos::MAX + 1);

/// How far a thing is drawn above its place on the ground, in picture pixels.
pub(super) fn lifted_px(elevation: f64, projection: &Projection) -> f64 {
    let lifted = elevation * projection.lift();
    if lifted.is_finite() { lifted } else { 0.0 }
}

/// Where cells lie for one view at one time.
#[derive(Clone, Copy, Debug, Default, PartialEq)]
pub(crate) struct Placement {
    /// The camera that sees them.
    pub(crate) view: View,
    /// How far they are moved in the world.
    pub(crate) offset: WorldVec,
    /// How much higher they are seen, in picture pixels.
    pub(crate) lifted_px: f64,
}

impl Placement {
    /// The first column of pixels of a column of cells.
    pub(crate) fn column_edge(&self, lattice: &Lattice, column: i32) -> i32 {
        self.view.column_edge(lattice.columns().edge(column.into()) + self.offset.x)
    }

    /// The first row of pixels of a row of cells.
    pub(crate) fn row_edge(&self, lattice: &Lattice, row: i32) -> i32 {
        self.view.row_edge(lattice.rows().edge(row.into()) + self.offset.y - self.lifted_px)
    }

    /// Where a place of the layer, seen from above, lies on the pane.
    pub(crate) fn on_pane(&self, place: WorldPoint) -> PanePoint {
        PanePoint::new(place.x + self.offset.x, place.y + self.offset.y - self.lifted_px)
    }

    /// The part of the layer, seen from above, that the view shows.
    pub(crate) fn visible(&self) -> WorldRect {
        let seen = self.view.visible_pane();
        let place = |at: PanePoint| {
            WorldPoint::new(at.x - self.offset.x, at.y - self.offset.y + self.lifted_px)
        };
        WorldRect::between(place(seen.min()), place(seen.max()))
    }
}

impl Motion {
    /// The motion of a layer of a map that is seen by a projection; of its cells, all but bands.
    pub(super) fn of(layer: usize, settings: &LayerSettings, projection: &Projection) -> Motion {
        let facing = projection.facing();
        let turned = |way: WorldVec| {
            let (x, y) = facing.turn((way.x, way.y));
            WorldVec::new(x, y)
        };
        let wraps = settings.wrap != Wrap::No;
        let (x, y) = facing.turn((settings.parallax_from.x, settings.parallax_from.y));
        let lifted = lifted_px(settings.elevation, projection);
        Motion {
            offset: turned(settings.offset),
            lifted_px: if projection.is_slanted() { 0.0 } else { lifted },
            parallax: settings.parallax,
            parallax_from: if settings.parallax == Parallax::WORLD {
                WorldPoint::new(0.0, 0.0)
            } else {
                WorldPoint::new(x, y)
            },
            speed: turned(settings.speed),
            wrap: settings.wrap.swapped(facing.swaps()),
            area: settings.wrap_area.filter(|_| wraps).map(|area| facing.turn_cells(area)),
            layer: (wraps && settings.wrap_area.is_none()).then_some(layer),
        }
    }

    /// The strips of a layer, from the top: its bands, where the map is seen from above and not
    /// turned, so that they are rows of the screen.
    pub(crate) fn strips(
        layer: usize,
        settings: &LayerSettings,
        projection: &Projection,
    ) -> Vec<Strip> {
        let motion = Motion::of(layer, settings, projection);
        let mut strips = vec![Strip { motion, rows: ALL_ROWS }];
        let has_bands = !projection.is_slanted() && projection.facing() == Facing::UNTURNED;
        for band in settings.bands.iter().filter(|_| has_bands) {
            if let Some(above) = strips.last_mut() {
                above.rows.1 = band.from_row;
            }
            let mut own = motion;
            own.parallax.x = band.parallax;
            own.parallax_from = settings.parallax_from;
            own.speed.x = band.speed;
            strips.push(Strip { motion: own, rows: (band.from_row, ALL_ROWS.1) });
        }
        strips.retain(|strip| strip.rows.0 < strip.rows.1);
        strips
    }

    /// Where the cells lie at a time in a view.
    pub(super) fn placement(&self, view: &View, time_ms: u64) -> Placement {
        let seconds = time_ms as f64 / 1000.0;
        let moved = WorldVec::new(way(self.speed.x, seconds), way(self.speed.y, seconds));
        Placement {
            view: view.parallaxed((self.parallax.x, self.parallax.y), self.parallax_from),
            offset: self.offset + moved,
            lifted_px: self.lifted_px,
        }
    }

    /// Whether nothing but the camera moves it.
    pub(super) fn is_timeless(&self) -> bool {
        self.speed == WorldVec::ZERO
    }

    /// The cells that are repeated.
    pub(super) fn wrap_area(&self, layers: &[Layer], facing: Facing) -> CellRect {
        match (self.area, self.layer) {
            (Some(area), _) => area,
            (None, Some(layer)) => facing.turn_cells(layers[layer].cells().bounds()),
            (None, None) => CellRect::EMPTY,
        }
    }

    /// The cells that are shown anywhere, as themselves or as copies: in the directions in which an
    /// area is repeated, those in it.
    pub(super) fn repeated(&self, area: CellRect) -> CellRect {
        if area.is_empty() && (self.wrap.across() || self.wrap.down()) {
            return CellRect::EMPTY;
        }
        let within = |wraps: bool| if wraps { area } else { CellRect::EVERYWHERE };
        let (across, down) = (within(self.wrap.across()), within(self.wrap.down()));
        CellRect::within_limits(across.left(), down.top(), across.right(), down.bottom())
    }

    /// The cells in view in pieces of the area that is repeated; all in one where nothing is.
    pub(super) fn patches(
        &self,
        cells: CellRect,
        area: CellRect,
        (lattice, view): (&Lattice, &View),
        patches: &mut Vec<Patch>,
    ) {
        patches.clear();
        if self.wrap == Wrap::No {
            patches.push(Patch { cells, by: CellOffset::new(0, 0) });
            return;
        }
        if cells.is_empty() || area.is_empty() {
            return;
        }
        let (wrap, zoom) = (self.wrap, view.zoom());
        let own = ((area.left(), area.right()), (area.top(), area.bottom()));
        let across =
            Axis { wraps: wrap.across(), own: own.0, cell_px: lattice.cell_width() * zoom };
        let down = Axis { wraps: wrap.down(), own: own.1, cell_px: lattice.cell_height() * zoom };
        for (y, top, bottom) in down.copies((cells.top(), cells.bottom())) {
            for (x, left, right) in across.copies((cells.left(), cells.right())) {
                let last = CellPos::checked(right - 1, bottom - 1);
                if let Some((first, last)) = CellPos::checked(left, top).zip(last) {
                    let by = CellOffset::new(x as i32, y as i32);
                    patches.push(Patch { cells: CellRect::between(first, last), by });
                }
            }
        }
    }

    /// Which cell of a layer a view shows over the middle of a cell of the map: the place where it
    /// shows, which may be that of a copy, the layer's own cell, and where its cells lie.
    pub(crate) fn over(
        quilt: &Quilt,
        number: usize,
        cell: CellPos,
        (view, time_ms): (&View, u64),
    ) -> (CellPos, CellPos, Placement) {
        let (lattice, layers) = (quilt.lattice(), quilt.layers());
        let settings = layers[number].settings();
        // Cells and view are those of the map as it is laid out.
        let straight = view.projection().with_facing(Facing::UNTURNED);
        let motion = Motion::of(number, settings, &straight);
        if let Some(offset) = settings.offset_cells(lattice) {
            let own = cell.saturating_add(offset.reversed());
            return (own, own, motion.placement(view, time_ms));
        }
        let way = lattice.center(cell) - view.center();
        let shown = |motion: &Motion| {
            let placement = motion.placement(view, time_ms);
            (lattice.cell_at(placement.view.center() + way - placement.offset), placement)
        };
        // All bands have the same rows.
        let row = shown(&motion).0.y();
        let strips = Motion::strips(number, settings, view.projection());
        let strip = strips.iter().find(|strip| (strip.rows.0..strip.rows.1).contains(&row));
        let motion = strip.filter(|_| strips.len() > 1).map_or(motion, |strip| strip.motion);
        let (shown, placement) = shown(&motion);
        (shown, motion.own_cell(shown, layers), placement)
    }

    /// The cell of a layer that shows in a place where it may be a copy.
    pub(super) fn own_cell(&self, shown: CellPos, layers: &[Layer]) -> CellPos {
        let area = self.wrap_area(layers, Facing::UNTURNED);
        let own = |wraps: bool, at: i32, first: i32, length: u32| match wraps && length > 0 {
            true => i64::from(first) + (i64::from(at) - i64::from(first)).rem_euclid(length.into()),
            false => at.into(),
        };
        let x = own(self.wrap.across(), shown.x(), area.left(), area.width());
        let y = own(self.wrap.down(), shown.y(), area.top(), area.height());
        CellPos::checked(x, y).unwrap_or(shown)
    }
}

/// A distance in the world; 0 for an endless time or a speed that is not a number.
fn way(speed: f64, seconds: f64) -> f64 {
    let way = speed * seconds;
    if way.is_finite() { way } else { 0.0 }
}

/// Cells of a layer, and how far from them they are shown.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) struct Patch {
    /// The layer's own cells.
    pub(crate) cells: CellRect,
    pub(crate) by: CellOffset,
}

impl Patch {
    /// The places in which it shows some of the layers' own cells.
    pub(crate) fn shown(&self, own: CellRect) -> CellRect {
        own.intersection(self.cells).moved(self.by)
    }

    /// The layer's own cells that it shows in some places.
    pub(crate) fn own(&self, shown: CellRect) -> CellRect {
        shown.moved(self.by.reversed()).intersection(self.cells)
    }
}

/// The columns or the rows of an area that may be repeated.
struct Axis {
    wraps: bool,
    /// The first, and the one after the last.
    own: (i32, i32),
    cell_px: f64,
}

impl Axis {
    /// How far the copies are moved that touch some columns or rows, and which of its own each shows
    /// there.
    fn copies(&self, (from, to): (i32, i32)) -> impl Iterator<Item = (i64, i64, i64)> + use<> {
        let (first, end) = (i64::from(self.own.0), i64::from(self.own.1));
        let (from, to) = (i64::from(from), i64::from(to));
        let (wraps, period) = (self.wraps, end - first);
        let number = |at: i64| (at - first).div_euclid(period);
        let step = step(period as f64 * self.cell_px);
        copies(wraps, (number(from), number(to - 1)), step).filter_map(move |copy| {
            let way = copy * period;
            let (from, to) = (from - way, to - way);
            let (from, to) = if wraps { (from.max(first), to.min(end)) } else { (from, to) };
            (from < to).then_some((way, from, to))
        })
    }
}

/// The numbers of copies from one to another, 0 being the one in its place, which is alone where
/// nothing is repeated; of every so many only one.
pub(super) fn copies(
    wraps: bool,
    (from, to): (i64, i64),
    step: i64,
) -> impl Iterator<Item = i64> + use<> {
    let (from, to) = if wraps { (from, to) } else { (0, 0) };
    (from.div_euclid(step) * step..=to).step_by(step as usize)
}

/// Every how many copies of so many pixels one has a pixel to itself.
pub(super) fn step(length_px: f64) -> i64 {
    (1.0 / length_px).ceil().clamp(1.0, 1e9) as i64
}
