//! A small picture of a map, kept up to date.
//!
//! The minimap keeps the planes that it shows, so that it finds the cells that have changed, and the pixels over
//! which they, or tiles that reach beyond them, may lie. The picture is made of blocks. Most are put together
//! from stacks of tiles that are known ([`whole_cells`]), as far as pixels have changed; the others are painted
//! as a whole in full size, part by part, and reduced.

mod scale;
mod whole_cells;

pub use scale::{MinimapScale, Sampling};

use self::scale::Sums;
use self::whole_cells::WholeCells;
use crate::draw::{DrawList, Limit, MapFacts, Overlay, PaneCells, Scene};
use crate::lattice::Lattice;
use crate::paint::{Frame, Painter};
use crate::picture::{Color, Picture};
use crate::plane::{Plane, SeenStamps};
use crate::quilt::{LayerSettings, Quilt, QuiltStamps, Wrap};
use crate::tile::Cell;
use crate::units::{
    CellOffset, CellPos, CellRect, PanePoint, PaneRect, PaneVec, ScreenPoint, ScreenRect,
    ScreenSize, WorldPoint, WorldVec,
};
use crate::view::{Projection, View};

/// A small picture of a map or a part of it, kept up to date at the cost of what changed.
///
/// It shows the map at time 0 and without layers that have a parallax or a speed, which lie over
/// no fixed place.
///
/// ```
/// use sturdy_quilt::inspect::MinimapScale;
/// use sturdy_quilt::units::PixelSize;
/// use sturdy_quilt::Minimap;
/// # let mut quilt = sturdy_quilt::doc_quilt();
///
/// let mut minimap = Minimap::new(MinimapScale::Cells);
/// minimap.refresh(&quilt)?;
/// let picture = minimap.picture();
/// assert_eq!(picture.size(), PixelSize::new(4, 3));
/// assert_eq!(picture.get(2, 0), Some(sturdy_quilt::Color::of_name("wall")));
///
/// assert_eq!(minimap.refresh(&quilt)?, 0, "nothing has changed");
/// # Ok::<(), sturdy_quilt::inspect::MinimapError>(())
/// ```
#[derive(Clone, Debug)]
pub struct Minimap {
    scale: MinimapScale,
    sampling: Sampling,
    stated_area: Option<CellRect>,
    /// How the map is seen.
    projection: Projection,
    /// What is shown now.
    area: CellRect,
    /// The same on the pane.
    pane: PaneRect,
    lattice: Lattice,
    stamps: QuiltStamps,
    frame: Frame,
    /// The cells of all layers as they are shown.
    shown: Vec<Shown>,
    blocks: Vec<Block>,
    /// The places of those that have stale pixels.
    stale: Vec<usize>,
    /// The pixels of a block, across and down, but for those at the right and bottom edges.
    block_size: (u32, u32),
    /// Keeps what is known of the map that was shown last.
    scene: Option<Scene>,
    /// Where pixels stand for whole cells.
    whole: Option<WholeCells>,
    full: FullSize,
    sums: Vec<Sums>,
}

/// Paints parts of the map in full size.
#[derive(Clone, Debug)]
struct FullSize {
    list: DrawList,
    painter: Painter,
    frame: Frame,
}

/// A minimap would be too large.
#[derive(Clone, Copy, Debug, PartialEq, Eq, thiserror::Error)]
#[error(
    "a minimap of {width} × {height} px is larger than {most} × {most} px; choose another scale or fewer cells",
    most = Minimap::MAX_PX
)]
pub struct MinimapError {
    /// Its width in pixels.
    pub width: u64,
    /// Its height in pixels.
    pub height: u64,
}

/// The cells of a layer as they are shown.
#[derive(Clone, Debug)]
struct Shown {
    cells: Plane<Cell>,
    /// Finds the chunks that have changed, whatever the size of the map.
    stamps: SeenStamps,
}

/// A part of the picture.
#[derive(Clone, Debug)]
struct Block {
    pixels: ScreenRect,
    /// Those of its pixels that are not as the map is.
    stale: ScreenRect,
}

/// Pixels in full size along the side of a block that is painted, if a pixel of the minimap is not
/// larger.
const FULL_PX: f64 = 512.0;
/// The most pixels in full size along the side of what is painted at a time.
const MAX_FULL_PX: u32 = 1024;
/// The shade around what is laid over it.
const SHADE: Color = Color::rgba(0, 0, 0, 160);
/// Cells along the side of a block of whole cells.
const BLOCK_CELLS: u32 = 64;

// Make.
impl Minimap {
    /// The most pixels in either direction.
    pub const MAX_PX: u32 = 8192;

    /// Returns a minimap of the whole map, whatever its bounds, that averages. It is empty until it
    /// is refreshed. A part of less than 1 counts as 1, one of more than 64 as 64.
    pub fn new(scale: MinimapScale) -> Minimap {
        Minimap {
            scale: match scale {
                MinimapScale::Part(units) => MinimapScale::Part(units.clamp(1, 64)),
                MinimapScale::Cells => scale,
            },
            sampling: Sampling::Average,
            stated_area: None,
            projection: Projection::FLAT,
            area: CellRect::EMPTY,
            pane: PaneRect::default(),
            lattice: Lattice::default(),
            stamps: QuiltStamps::default(),
            frame: Frame::new(ScreenSize::default()),
            shown: Vec::new(),
            blocks: Vec::new(),
            stale: Vec::new(),
            block_size: (1, 1),
            scene: None,
            whole: None,
            full: FullSize {
                list: DrawList::of_still_layers(),
                painter: Painter::new(),
                frame: Frame::new(ScreenSize::default()),
            },
            sums: Vec::new(),
        }
    }

    /// Returns this minimap, sampled in another way.
    #[must_use]
    pub fn with_sampling(mut self, sampling: Sampling) -> Minimap {
        self.sampling = sampling;
        self.blocks.clear();
        self
    }

    /// Returns this minimap, of the map as a projection shows it: `with_projection(*quilt.projection())`
    /// shows it as the game does. Default from straight above. One pixel then stands for so many picture
    /// pixels at zoom 1, or with [`MinimapScale::Cells`] for half a diamond across and down.
    ///
    /// ```
    /// use sturdy_quilt::inspect::MinimapScale;
    /// use sturdy_quilt::units::PixelSize;
    /// use sturdy_quilt::view::Projection;
    /// use sturdy_quilt::Minimap;
    /// # let quilt = sturdy_quilt::doc_quilt();
    ///
    /// let diamond = Projection::diamond(quilt.lattice(), 64, 32)?;
    /// let mut minimap = Minimap::new(MinimapScale::Part(8)).with_projection(diamond);
    /// minimap.refresh(&quilt)?;
    /// // 4 × 3 cells are 7 half diamonds wide and high.
    /// assert_eq!(minimap.picture().size(), PixelSize::new(28, 14));
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    #[must_use]
    pub fn with_projection(mut self, projection: Projection) -> Minimap {
        self.projection = projection;
        self.blocks.clear();
        self
    }

    setters! {
        /// Returns this minimap of a rectangle of cells; `None` stands for the bounds of the map.
        const with_area(stated_area: Option<CellRect>);
    }

    /// Brings the picture up to date with a map, and returns how many blocks were painted.
    ///
    /// # Errors
    /// More than [`Minimap::MAX_PX`] pixels in a direction; then nothing changes.
    ///
    /// Costs a look at the chunks that have changed, and at the cells that show where changed ones do; and the
    /// full pixels of each stack of tiles that was not shown yet. Where a picture reaches beyond its cell, it
    /// costs the full pixels of what shows there; where a pixel is a part of a cell, those of the block.
    /// Whatever the size of cells, it takes memory for 1024 × 1024 full pixels at most, and keeps the cells
    /// that it shows, which it shares with the map until they change.
    pub fn refresh(&mut self, quilt: &Quilt) -> Result<usize, MinimapError> {
        let area = self.stated_area.unwrap_or_else(|| quilt.bounds());
        let stamps = quilt.stamps();
        let is_known = !self.blocks.is_empty()
            && (self.area, self.pane) == (area, self.pane_of(quilt, area))
            && self.lattice == *quilt.lattice()
            && (self.stamps.tiles, self.stamps.palettes, self.stamps.layers)
                == (stamps.tiles, stamps.palettes, stamps.layers);
        if !is_known {
            self.begin(quilt, area)?;
        }
        let scene = match self.scene.take() {
            Some(scene) if is_known && scene.is_of(quilt, &self.seen()) => scene,
            _ => {
                let (scene, _) = Scene::of(quilt, &self.seen(), &Limit::still());
                let from_above = self.projection == Projection::FLAT;
                let whole = || WholeCells::of(quilt, &scene, self.scale);
                self.whole = from_above.then(whole).flatten();
                if !is_known {
                    self.make_blocks(quilt.lattice());
                }
                scene
            }
        };
        if is_known {
            self.find_stale(quilt, &scene.map_facts);
        } else {
            self.shown = quilt.layers().iter().map(|layer| Shown::of(layer.cells())).collect();
        }
        let mut painted = 0;
        while let Some(at) = self.stale.pop() {
            let stale = std::mem::take(&mut self.blocks[at].stale);
            if self.put_together(quilt, &scene, stale).is_none() {
                // Where pixels are parts of cells, how they lie on full pixels follows from where painting begins.
                let pixels = if self.whole.is_some() { stale } else { self.blocks[at].pixels };
                self.paint(quilt, pixels);
            }
            painted += 1;
        }
        self.scene = Some(scene);
        Ok(painted)
    }

    fn begin(&mut self, quilt: &Quilt, area: CellRect) -> Result<(), MinimapError> {
        let (width, height) = self.units_of(quilt.lattice());
        let pane = self.pane_of(quilt, area);
        let count = |length: f64, units: f64| (length / units).ceil().max(0.0) as u64;
        let size = (count(pane.width(), width), count(pane.height(), height));
        if size.0.max(size.1) > Self::MAX_PX.into() {
            return Err(MinimapError { width: size.0, height: size.1 });
        }
        (self.area, self.pane) = (area, pane);
        (self.lattice, self.stamps) = (*quilt.lattice(), quilt.stamps());
        self.frame = Frame::new(ScreenSize::new(size.0 as u32, size.1 as u32));
        self.blocks.clear();
        Ok(())
    }

    /// Divides the picture into blocks, of which none is painted yet.
    fn make_blocks(&mut self, lattice: &Lattice) {
        let (width, height) = self.units_of(lattice);
        let full = |units: f64| (FULL_PX / units).floor().max(1.0) as u32;
        let (across, down) = match &self.whole {
            Some(whole) => {
                let (across, down) = whole.per_pixel;
                ((BLOCK_CELLS / across).max(1), (BLOCK_CELLS / down).max(1))
            }
            None => (full(width), full(height)),
        };
        let size = self.frame.size();
        self.block_size = (across, down);
        self.blocks.clear();
        for top in (0..size.height).step_by(down as usize) {
            for left in (0..size.width).step_by(across as usize) {
                let end = |from: u32, side: u32, most: u32| (from + side).min(most) as i32;
                let pixels = ScreenRect {
                    left: left as i32,
                    top: top as i32,
                    right: end(left, across, size.width),
                    bottom: end(top, down, size.height),
                };
                self.blocks.push(Block { pixels, stale: ScreenRect::default() });
            }
        }
        self.note_all_stale();
    }

    /// The part of the pane that some cells take; at a slant, of a map as a whole with all that its
    /// pictures reach.
    fn pane_of(&self, quilt: &Quilt, area: CellRect) -> PaneRect {
        match self.stated_area {
            None if self.projection.is_slanted() => quilt.extent_on_pane(&self.projection),
            _ => self.projection.around(quilt.lattice().rect_bounds(area), 0.0),
        }
    }

    /// A view by which the map is seen.
    fn seen(&self) -> View {
        View::default().projected(self.projection)
    }

    fn note_all_stale(&mut self) {
        self.blocks.iter_mut().for_each(|block| block.stale = block.pixels);
        self.stale.clear();
        self.stale.extend(0..self.blocks.len());
    }

    /// Notes the pixels in which cells may show that are others than those that are shown.
    fn find_stale(&mut self, quilt: &Quilt, facts: &MapFacts) {
        // From so many changed cells of a chunk on, all of it counts.
        const FEW: usize = 64;
        let one = |cell: CellPos| CellRect::between(cell, cell);
        let mut shown = std::mem::take(&mut self.shown);
        let mut changed = Vec::new();
        for (layer, shown) in quilt.layers().iter().zip(&mut shown) {
            let cells = layer.cells();
            if cells.stamp() == shown.cells.stamp() {
                continue;
            }
            for chunk in shown.stamps.update(cells) {
                changed.clear();
                let (now, before) = (cells.chunk(chunk), shown.cells.chunk(chunk));
                let rects = match now.add_differing(&before, FEW, &mut changed) {
                    Some(()) => {
                        changed.iter().map(|at| one(chunk.cell_at_index((*at).into()))).collect()
                    }
                    None => vec![chunk.cells()],
                };
                for rect in rects {
                    self.note_stale(quilt, layer.settings(), rect, facts);
                }
            }
            shown.cells = cells.clone();
        }
        self.shown = shown;
    }

    /// Notes the pixels in which some cells of a layer may show.
    fn note_stale(
        &mut self,
        quilt: &Quilt,
        settings: &LayerSettings,
        cells: CellRect,
        facts: &MapFacts,
    ) {
        if settings.wrap != Wrap::No {
            return self.note_all_stale();
        }
        let ground = quilt.lattice().rect_bounds(cells).moved(settings.offset);
        let pane = match &facts.diamond {
            // The frame is told from the top corner of a cell on, and knows all elevations.
            Some(_) => {
                let PaneCells { left, top, right, bottom } = facts.frame;
                let px = |length: i64| length.max(0) as f64;
                self.projection.around(ground, 0.0).grown(
                    px(-left),
                    px(-top),
                    px(right),
                    px(bottom),
                )
            }
            None => {
                let reach = &facts.reach;
                let pane = self.projection.around(ground, settings.elevation);
                pane.grown(reach.left, reach.up, reach.right, reach.down)
            }
        };
        let (width, height) = self.units_of(&self.lattice);
        let (size, corner) = (self.frame.size(), self.pane.min());
        // Rounding must not lose the pixel beside.
        let spare = if self.whole.is_some() { 0.0 } else { 1.0 };
        let first = |from: f64, units: f64, most: u32| {
            ((from / units).floor() - spare).clamp(0.0, most.into()) as u32
        };
        let end = |to: f64, units: f64, most: u32| {
            ((to / units).ceil() + spare).clamp(0.0, most.into()) as u32
        };
        let (min, max) = (pane.min() - corner, pane.max() - corner);
        let (left, right) = (first(min.x, width, size.width), end(max.x, width, size.width));
        let (top, bottom) = (first(min.y, height, size.height), end(max.y, height, size.height));
        if left >= right || top >= bottom {
            return;
        }
        let stale = ScreenRect {
            left: left as i32,
            top: top as i32,
            right: right as i32,
            bottom: bottom as i32,
        };
        let (across, down) = self.block_size;
        let columns = size.width.div_ceil(across);
        for row in top / down..=(bottom - 1) / down {
            for column in left / across..=(right - 1) / across {
                let at = (row * columns + column) as usize;
                let block = &mut self.blocks[at];
                let part = stale.intersection(block.pixels);
                if block.stale.is_empty() {
                    self.stale.push(at);
                }
                block.stale = block.stale.union(part);
            }
        }
    }

    /// Puts some pixels together from the stacks of whole cells; `None` where that cannot be.
    fn put_together(&mut self, quilt: &Quilt, scene: &Scene, pixels: ScreenRect) -> Option<()> {
        let whole = self.whole.as_mut()?;
        let (across, down) = whole.per_pixel;
        let (cell_width, cell_height) = whole.cell_px;
        let way = CellOffset::new(pixels.left * across as i32, pixels.top * down as i32);
        let corner = self.area.corner().checked_add(way)?;
        let size = (pixels.left.abs_diff(pixels.right), pixels.top.abs_diff(pixels.bottom));
        // Where the middle of a pixel lies in its cell.
        let middle = |cells: u32, px: u32| (cells * px - 1) / 2 % px;
        let middle = (middle(across, cell_width), middle(down, cell_height));
        let (full, sampling, lattice) = (&mut self.full, self.sampling, self.lattice);
        let (way, part) = match sampling {
            Sampling::Average => (WorldVec::ZERO, ScreenSize::new(cell_width, cell_height)),
            Sampling::Nearest => {
                (WorldVec::new(middle.0.into(), middle.1.into()), ScreenSize::new(1, 1))
            }
        };
        let paint = |cell: CellPos| {
            let mut sums = Sums::default();
            let WorldPoint { x, y } = lattice.bounds(cell).min() + way;
            full.each_part(quilt, &Projection::FLAT, PanePoint::new(x, y), part, |_, frame| {
                sums.add_pixels(frame.pixels());
            });
            sums
        };
        let block = (corner, size.0, size.1);
        whole.add_up((quilt, scene), block, sampling, &mut self.sums, paint)?;
        // Empty cells have no pixels to count.
        let count = match sampling {
            Sampling::Average => {
                u64::from(across * down) * u64::from(cell_width) * u64::from(cell_height)
            }
            Sampling::Nearest => 1,
        };
        let mut sums = self.sums.iter();
        for y in pixels.top..pixels.bottom {
            for (x, sum) in (pixels.left..pixels.right).zip(&mut sums) {
                self.frame.set(x as u32, y as u32, sum.mean(count));
            }
        }
        Some(())
    }

    /// Paints some pixels anew, in full size.
    fn paint(&mut self, quilt: &Quilt, pixels: ScreenRect) {
        let shown = self.pane_in(pixels);
        let side = |length: f64| length.ceil().max(1.0) as u32;
        let size = ScreenSize::new(side(shown.width()), side(shown.height()));
        // The corner of the block lies on the corner of a pixel.
        let view = view_from(&self.projection, shown.min(), size);
        let own: Vec<ScreenRect> = (pixels.top..pixels.bottom)
            .flat_map(|y| (pixels.left..pixels.right).map(move |x| (x, y)))
            .map(|(x, y)| ScreenRect { left: x, top: y, right: x + 1, bottom: y + 1 })
            .map(|one| self.wanted(view.pixels(self.pane_in(one)), size))
            .collect();
        self.sums.clear();
        self.sums.resize(own.len(), Sums::default());
        let sums = &mut self.sums;
        let projection = self.projection;
        self.full.each_part(quilt, &projection, shown.min(), size, |(left, top), frame| {
            let (width, part) = (frame.size().width as usize, frame.size());
            for (own, sum) in own.iter().zip(sums.iter_mut()) {
                let within = |at: i32, start: u32, length: u32| {
                    (i64::from(at) - i64::from(start)).clamp(0, length.into()) as usize
                };
                let (from, to) =
                    (within(own.left, left, part.width), within(own.right, left, part.width));
                let rows = within(own.top, top, part.height)..within(own.bottom, top, part.height);
                for row in rows.filter(|_| from < to) {
                    sum.add_pixels(&frame.pixels()[row * width + from..row * width + to]);
                }
            }
        });
        let mut sums = self.sums.iter();
        for y in pixels.top..pixels.bottom {
            for (x, sum) in (pixels.left..pixels.right).zip(&mut sums) {
                self.frame.set(x as u32, y as u32, sum.mean(1));
            }
        }
    }

    /// The pixels in full size that a pixel is found from, of those that it covers: all, or the one
    /// in the middle.
    fn wanted(&self, own: ScreenRect, size: ScreenSize) -> ScreenRect {
        let is_covered = own.left < own.right && own.top < own.bottom;
        if self.sampling == Sampling::Average && is_covered {
            return own;
        }
        let middle = |from: i32, to: i32, most: u32| {
            (from + (to - from - 1).max(0) / 2).clamp(0, most as i32 - 1)
        };
        let (x, y) =
            (middle(own.left, own.right, size.width), middle(own.top, own.bottom, size.height));
        ScreenRect { left: x, top: y, right: x + 1, bottom: y + 1 }
    }
}

impl Shown {
    fn of(cells: &Plane<Cell>) -> Shown {
        let mut stamps = SeenStamps::default();
        stamps.update(cells);
        Shown { cells: cells.clone(), stamps }
    }
}

/// A view of so many pixels in full size from a place on.
fn view_from(projection: &Projection, corner: PanePoint, size: ScreenSize) -> View {
    let half = PaneVec::new(f64::from(size.width) / 2.0, f64::from(size.height) / 2.0);
    View::new(size).projected(*projection).pane_centered_on(corner + half)
}

impl FullSize {
    /// Paints so many pixels from a place on, part by part, and gives each part with its place.
    fn each_part(
        &mut self,
        quilt: &Quilt,
        projection: &Projection,
        corner: PanePoint,
        size: ScreenSize,
        mut used: impl FnMut((u32, u32), &Frame),
    ) {
        let step = MAX_FULL_PX as usize;
        for top in (0..size.height).step_by(step) {
            for left in (0..size.width).step_by(step) {
                let part = ScreenSize::new(
                    (size.width - left).min(MAX_FULL_PX),
                    (size.height - top).min(MAX_FULL_PX),
                );
                let way = PaneVec::new(left.into(), top.into());
                if self.frame.size() != part {
                    self.frame = Frame::new(part);
                }
                self.frame.clear(Color::CLEAR);
                self.list.rebuild(quilt, &view_from(projection, corner + way, part));
                self.painter.paint(&self.list, &mut self.frame);
                used((left, top), &self.frame);
            }
        }
    }
}

// Read.
impl Minimap {
    /// Returns the cells that it shows.
    pub const fn area(&self) -> CellRect {
        self.area
    }

    /// Returns its pixels, with alpha multiplied in.
    pub const fn frame(&self) -> &Frame {
        &self.frame
    }

    /// Returns it as a picture, with alpha divided out.
    pub fn picture(&self) -> Picture {
        self.frame.to_picture()
    }

    /// Converts a place in the world to pixels of the minimap, also beyond its edges.
    pub fn to_pixels(&self, place: WorldPoint) -> ScreenPoint {
        let (width, height) = self.units_of(&self.lattice);
        let way = self.projection.to_pane(place, 0.0) - self.pane.min();
        ScreenPoint::new((way.x / width) as f32, (way.y / height) as f32)
    }

    /// Converts a point of the minimap to the place in the world that shows there: for a click on
    /// it.
    ///
    /// ```
    /// use sturdy_quilt::inspect::MinimapScale;
    /// use sturdy_quilt::{Minimap, ScreenPoint, WorldPoint};
    /// # let quilt = sturdy_quilt::doc_quilt();
    ///
    /// let mut minimap = Minimap::new(MinimapScale::Part(4));
    /// minimap.refresh(&quilt)?;
    /// assert_eq!(minimap.to_world(ScreenPoint::new(2.5, 1.0)), WorldPoint::new(10.0, 4.0));
    /// # Ok::<(), sturdy_quilt::inspect::MinimapError>(())
    /// ```
    pub fn to_world(&self, point: ScreenPoint) -> WorldPoint {
        let (width, height) = self.units_of(&self.lattice);
        let way = PaneVec::new(f64::from(point.x) * width, f64::from(point.y) * height);
        self.projection.to_world(self.pane.min() + way, 0.0)
    }

    /// Begins an overlay of the minimap: dots for markers, a frame around what each view shows.
    /// Paint it over the minimap, with the top left pixel of both at 0,0.
    pub fn lay_over(&self, quilt: &Quilt, views: &[View], overlay: &mut Overlay) {
        overlay.begin(&View::new(self.frame.size()), &self.lattice);
        for marker in quilt.markers() {
            let at = self.to_pixels(marker.place());
            let (x, y) = (at.x.floor() as i32, at.y.floor() as i32);
            let dot = ScreenRect { left: x - 1, top: y - 1, right: x + 2, bottom: y + 2 };
            overlay.rect(ScreenRect { right: dot.right + 1, bottom: dot.bottom + 1, ..dot }, SHADE);
            overlay.rect(dot, super::overlay::marker_color(&marker));
        }
        for view in views {
            let pane = view.visible_pane();
            let corner = |x: f64, y: f64| {
                let place = view.projection().to_world(PanePoint::new(x, y), 0.0);
                self.to_pixels(place)
            };
            let (min, max) = (pane.min(), pane.max());
            let corners = [(min.x, min.y), (max.x, min.y), (max.x, max.y), (min.x, max.y)];
            self.lay_view(corners.map(|(x, y)| corner(x, y)), overlay);
        }
    }

    /// Lays a frame between the corners of what a view shows.
    fn lay_view(&self, corners: [ScreenPoint; 4], overlay: &mut Overlay) {
        const LIGHT: Color = Color::rgb(255, 240, 190);
        let least =
            corners.iter().fold(corners[0], |a, b| ScreenPoint::new(a.x.min(b.x), a.y.min(b.y)));
        let most =
            corners.iter().fold(corners[0], |a, b| ScreenPoint::new(a.x.max(b.x), a.y.max(b.y)));
        let is_upright = corners
            .iter()
            .all(|at| (at.x == least.x || at.x == most.x) && (at.y == least.y || at.y == most.y));
        if !is_upright {
            for (from, to) in corners.iter().zip(corners.iter().cycle().skip(1)) {
                overlay.straight_line(*from, *to, 3, SHADE);
            }
            for (from, to) in corners.iter().zip(corners.iter().cycle().skip(1)) {
                overlay.straight_line(*from, *to, 1, LIGHT);
            }
            return;
        }
        let shown = ScreenRect {
            left: least.x.floor() as i32,
            top: least.y.floor() as i32,
            right: most.x.ceil() as i32,
            bottom: most.y.ceil() as i32,
        };
        let outer = ScreenRect {
            left: shown.left - 1,
            top: shown.top - 1,
            right: shown.right + 1,
            bottom: shown.bottom + 1,
        };
        overlay.frame(outer, 1, SHADE);
        overlay.frame(shown, 1, LIGHT);
    }

    /// Units of the pane a pixel, across and down.
    fn units_of(&self, lattice: &Lattice) -> (f64, f64) {
        match (self.scale, self.projection.half_diamond()) {
            (MinimapScale::Cells, Some((width, height))) => (width.into(), height.into()),
            (MinimapScale::Cells, None) => {
                let turned = lattice.swapped(self.projection.facing().swaps());
                (turned.cell_width(), turned.cell_height())
            }
            (MinimapScale::Part(units), _) => (units.into(), units.into()),
        }
    }

    /// The part of the pane that some pixels show.
    fn pane_in(&self, pixels: ScreenRect) -> PaneRect {
        let (width, height) = self.units_of(&self.lattice);
        let corner = self.pane.min();
        let place =
            |x: i32, y: i32| corner + PaneVec::new(f64::from(x) * width, f64::from(y) * height);
        PaneRect::between(place(pixels.left, pixels.top), place(pixels.right, pixels.bottom))
    }
}
