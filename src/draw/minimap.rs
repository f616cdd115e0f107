//! A small picture of a map, kept up to date.
//!
//! The picture is made of blocks. Each is painted in full size and reduced, and keeps the stamps of
//! all chunks that could show in it; so an edit costs the blocks over which its cells, or tiles that
//! reach beyond them, may lie.

use super::clock::Clock;
use super::list::DrawList;
use super::looks::Reach;
use super::overlay::Overlay;
use super::painter::{Frame, Painter};
use crate::lattice::Lattice;
use crate::picture::{Color, Picture};
use crate::plane::Stamp;
use crate::quilt::{Quilt, QuiltStamps, Wrap};
use crate::units::{
    CellRect, ScreenPoint, ScreenRect, ScreenSize, WorldPoint, WorldRect, WorldVec,
};
use crate::view::View;

/// A small picture of a map or a part of it, kept up to date at the cost of what changed.
///
/// It shows the map at time 0 and without layers that drift or move by themselves, which lie over
/// no fixed place.
///
/// ```
/// use sturdy_quilt::{Minimap, MinimapScale, PixelSize};
/// # let mut quilt = sturdy_quilt::doc_quilt();
///
/// let mut minimap = Minimap::new(MinimapScale::Cells);
/// minimap.refresh(&quilt)?;
/// let picture = minimap.picture();
/// assert_eq!(picture.size(), PixelSize::new(4, 3));
/// assert_eq!(picture.get(2, 0), Some(sturdy_quilt::Color::of_name("wall")));
///
/// assert_eq!(minimap.refresh(&quilt)?, 0, "nothing has changed");
/// # Ok::<(), sturdy_quilt::MinimapError>(())
/// ```
#[derive(Clone, Debug)]
pub struct Minimap {
    scale: MinimapScale,
    sampling: Sampling,
    stated_area: Option<CellRect>,
    /// What is shown now.
    area: CellRect,
    lattice: Lattice,
    stamps: QuiltStamps,
    frame: Frame,
    blocks: Vec<Block>,
    list: DrawList,
    painter: Painter,
    full: Frame,
}

/// How small a [`Minimap`] is.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
#[non_exhaustive]
pub enum MinimapScale {
    /// One pixel for each cell.
    Cells,
    /// One pixel for so many world units in both directions: 2 is a half, 64 the most.
    Part(u32),
}

/// How pixels of a [`Minimap`] are found from those of the map in full size.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Hash)]
#[non_exhaustive]
pub enum Sampling {
    /// The mean of all.
    #[default]
    Average,
    /// The one in the middle.
    Nearest,
}

/// A minimap would be too large.
#[derive(Clone, Copy, Debug, PartialEq, Eq, thiserror::Error)]
#[error(
    "a minimap of {width} × {height} px is larger than {most} × {most} px; choose another scale or fewer cells",
    most = Minimap::MOST_PX
)]
pub struct MinimapError {
    /// Its width in pixels.
    pub width: u64,
    /// Its height in pixels.
    pub height: u64,
}

/// A part of the picture.
#[derive(Clone, Debug)]
struct Block {
    pixels: ScreenRect,
    /// The stamps of what shows in it.
    seen: Vec<Stamp>,
}

/// Pixels in full size along the side of a block, if a pixel of the minimap is not larger.
const FULL_PX: f64 = 512.0;

// Make.
impl Minimap {
    /// The most pixels in either direction.
    pub const MOST_PX: u32 = 8192;

    /// A minimap of the whole map, whatever its bounds, that averages. It is empty until it is
    /// refreshed. A part of less than 1 counts as 1, one of more than 64 as 64.
    pub fn new(scale: MinimapScale) -> Minimap {
        Minimap {
            scale: match scale {
                MinimapScale::Part(units) => MinimapScale::Part(units.clamp(1, 64)),
                MinimapScale::Cells => scale,
            },
            sampling: Sampling::Average,
            stated_area: None,
            area: CellRect::EMPTY,
            lattice: Lattice::default(),
            stamps: QuiltStamps::default(),
            frame: Frame::new(ScreenSize::default()),
            blocks: Vec::new(),
            list: DrawList::of_still_layers(),
            painter: Painter::new(),
            full: Frame::new(ScreenSize::default()),
        }
    }

    /// The same minimap, sampled in another way.
    #[must_use]
    pub fn sampling(mut self, sampling: Sampling) -> Minimap {
        self.sampling = sampling;
        self.blocks.clear();
        self
    }

    /// The same minimap of a rectangle of cells; `None` is the bounds of the map.
    #[must_use]
    pub const fn of_area(mut self, area: Option<CellRect>) -> Minimap {
        self.stated_area = area;
        self
    }

    /// Brings it up to date with any map, and says how many blocks were painted for that.
    ///
    /// # Errors
    /// More than [`Minimap::MOST_PX`] pixels in a direction; then nothing changes.
    ///
    /// Costs a look at the chunks of the area, and the full pixels of the blocks where something
    /// changed.
    pub fn refresh(&mut self, quilt: &Quilt) -> Result<usize, MinimapError> {
        let area = self.stated_area.unwrap_or_else(|| quilt.bounds());
        let stamps = quilt.stamps();
        let is_known = !self.blocks.is_empty()
            && (self.area, self.lattice) == (area, *quilt.lattice())
            && (self.stamps.tiles, self.stamps.palettes, self.stamps.layers)
                == (stamps.tiles, stamps.palettes, stamps.layers);
        if !is_known {
            self.begin(quilt, area)?;
        }
        let mut painted = 0;
        let reach = Reach::of(quilt.tiles(), quilt.lattice());
        for at in 0..self.blocks.len() {
            let seen = self.stamps_of(quilt, self.blocks[at].pixels, &reach);
            if self.blocks[at].seen != seen {
                self.blocks[at].seen = seen;
                self.paint(quilt, self.blocks[at].pixels);
                painted += 1;
            }
        }
        Ok(painted)
    }

    fn begin(&mut self, quilt: &Quilt, area: CellRect) -> Result<(), MinimapError> {
        let (width, height) = self.units_of(quilt.lattice());
        let count = |cells: u32, side: f64, units: f64| {
            (f64::from(cells) * side / units).ceil().max(0.0) as u64
        };
        let size = (
            count(area.width(), quilt.lattice().cell_width(), width),
            count(area.height(), quilt.lattice().cell_height(), height),
        );
        if size.0.max(size.1) > Self::MOST_PX.into() {
            return Err(MinimapError { width: size.0, height: size.1 });
        }
        (self.area, self.lattice, self.stamps) = (area, *quilt.lattice(), quilt.stamps());
        let size = ScreenSize::new(size.0 as u32, size.1 as u32);
        self.frame = Frame::new(size);
        let side = |units: f64| (FULL_PX / units).floor().max(1.0) as usize;
        self.blocks.clear();
        for top in (0..size.height).step_by(side(height)) {
            for left in (0..size.width).step_by(side(width)) {
                let end = |from: u32, side: usize, most: u32| (from + side as u32).min(most) as i32;
                let pixels = ScreenRect {
                    left: left as i32,
                    top: top as i32,
                    right: end(left, side(width), size.width),
                    bottom: end(top, side(height), size.height),
                };
                // No block has been painted with no stamps.
                self.blocks.push(Block { pixels, seen: vec![Stamp::next()] });
            }
        }
        Ok(())
    }

    /// The stamps of the chunks that may show in some pixels.
    fn stamps_of(&self, quilt: &Quilt, pixels: ScreenRect, reach: &Reach) -> Vec<Stamp> {
        let shown = self.world_of(pixels);
        let mut stamps = Vec::new();
        for layer in quilt.layers() {
            let settings = layer.settings();
            if settings.wrap != Wrap::No {
                stamps.push(layer.cells().stamp());
                continue;
            }
            let reached = reach.around(shown.moved(settings.offset * -1.0));
            let chunks = quilt.lattice().cells_in(reached).chunks();
            stamps.extend(chunks.map(|chunk| layer.cells().chunk_stamp(chunk)));
        }
        stamps
    }

    /// Paints some pixels anew.
    fn paint(&mut self, quilt: &Quilt, pixels: ScreenRect) {
        let shown = self.world_of(pixels);
        let side = |length: f64| length.ceil().max(1.0) as u32;
        let size = ScreenSize::new(side(shown.width()), side(shown.height()));
        // The corner of the block lies on the corner of a pixel.
        let half = WorldVec::new(f64::from(size.width) / 2.0, f64::from(size.height) / 2.0);
        let view = View::new(size).centered_on(shown.min() + half);
        if self.full.size() != size {
            self.full = Frame::new(size);
        }
        self.full.clear(Color::CLEAR);
        self.list.rebuild(quilt, &view, &Clock::new(), &[]);
        self.painter.paint(&self.list, &mut self.full);
        for y in pixels.top..pixels.bottom {
            for x in pixels.left..pixels.right {
                let one = ScreenRect { left: x, top: y, right: x + 1, bottom: y + 1 };
                let own = view.pixels(self.world_of(one));
                self.frame.set(x as u32, y as u32, self.sampled(own));
            }
        }
    }

    /// One pixel for some of the full picture.
    fn sampled(&self, own: ScreenRect) -> [u8; 4] {
        let size = self.full.size();
        let middle = |from: i32, to: i32, most: u32| {
            (from + (to - from - 1).max(0) / 2).clamp(0, most as i32 - 1)
        };
        let nearest = || {
            let x = middle(own.left, own.right, size.width);
            let y = middle(own.top, own.bottom, size.height);
            self.full.pixels()[y as usize * size.width as usize + x as usize]
        };
        let count = i64::from(own.right - own.left) * i64::from(own.bottom - own.top);
        if self.sampling == Sampling::Nearest || count <= 0 {
            return nearest();
        }
        let mut sums = [0_u32; 4];
        let mut count = 0;
        for y in own.top.max(0)..own.bottom.min(size.height as i32) {
            let row = y as usize * size.width as usize;
            let (from, to) = (own.left.max(0) as usize, own.right.min(size.width as i32) as usize);
            for pixel in &self.full.pixels()[row + from..row + to] {
                sums.iter_mut().zip(pixel).for_each(|(sum, &channel)| *sum += u32::from(channel));
                count += 1;
            }
        }
        sums.map(|sum| ((sum + count / 2) / count.max(1)) as u8)
    }
}

// Read.
impl Minimap {
    /// The cells that it shows.
    pub const fn area(&self) -> CellRect {
        self.area
    }

    /// Its pixels, with alpha multiplied in.
    pub const fn frame(&self) -> &Frame {
        &self.frame
    }

    /// It as a picture, with alpha divided out.
    pub fn picture(&self) -> Picture {
        self.frame.to_picture()
    }

    /// Where a place in the world shows on it, also beyond its edges.
    pub fn to_pixels(&self, place: WorldPoint) -> ScreenPoint {
        let (width, height) = self.units_of(&self.lattice);
        let way = place - self.lattice.rect_bounds(self.area).min();
        ScreenPoint::new((way.x / width) as f32, (way.y / height) as f32)
    }

    /// Which place in the world a point of it shows: for a click on it.
    ///
    /// ```
    /// use sturdy_quilt::{Minimap, MinimapScale, ScreenPoint, WorldPoint};
    /// # let quilt = sturdy_quilt::doc_quilt();
    ///
    /// let mut minimap = Minimap::new(MinimapScale::Part(4));
    /// minimap.refresh(&quilt)?;
    /// assert_eq!(minimap.to_world(ScreenPoint::new(2.5, 1.0)), WorldPoint::new(10.0, 4.0));
    /// # Ok::<(), sturdy_quilt::MinimapError>(())
    /// ```
    pub fn to_world(&self, point: ScreenPoint) -> WorldPoint {
        let (width, height) = self.units_of(&self.lattice);
        let way = WorldVec::new(f64::from(point.x) * width, f64::from(point.y) * height);
        self.lattice.rect_bounds(self.area).min() + way
    }

    /// What lies over it: dots for markers, a frame around what each view shows. Begins the
    /// overlay anew; paint it over the minimap, drawn where its top left pixel is 0,0.
    pub fn lay_over(&self, quilt: &Quilt, views: &[View], overlay: &mut Overlay) {
        const SHADE: Color = Color::rgba(0, 0, 0, 160);
        overlay.begin(&View::new(self.frame.size()), &self.lattice);
        for marker in quilt.markers() {
            let at = self.to_pixels(marker.place());
            let (x, y) = (at.x.floor() as i32, at.y.floor() as i32);
            let dot = ScreenRect { left: x - 1, top: y - 1, right: x + 2, bottom: y + 2 };
            overlay.rect(ScreenRect { right: dot.right + 1, bottom: dot.bottom + 1, ..dot }, SHADE);
            overlay.rect(dot, super::overlay::marker_color(&marker));
        }
        for view in views {
            let corners = view.visible();
            let (from, to) = (self.to_pixels(corners.min()), self.to_pixels(corners.max()));
            let shown = ScreenRect {
                left: from.x.floor() as i32,
                top: from.y.floor() as i32,
                right: to.x.ceil() as i32,
                bottom: to.y.ceil() as i32,
            };
            let outer = ScreenRect {
                left: shown.left - 1,
                top: shown.top - 1,
                right: shown.right + 1,
                bottom: shown.bottom + 1,
            };
            overlay.frame(outer, 1, SHADE);
            overlay.frame(shown, 1, Color::rgb(255, 240, 190));
        }
    }

    /// World units a pixel, across and down.
    fn units_of(&self, lattice: &Lattice) -> (f64, f64) {
        match self.scale {
            MinimapScale::Cells => (lattice.cell_width(), lattice.cell_height()),
            MinimapScale::Part(units) => (units.into(), units.into()),
        }
    }

    fn world_of(&self, pixels: ScreenRect) -> WorldRect {
        let (width, height) = self.units_of(&self.lattice);
        let corner = self.lattice.rect_bounds(self.area).min();
        let place =
            |x: i32, y: i32| corner + WorldVec::new(f64::from(x) * width, f64::from(y) * height);
        WorldRect::between(place(pixels.left, pixels.top), place(pixels.right, pixels.bottom))
    }
}
