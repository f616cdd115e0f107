//! Pictures as they are painted: turned, tinted, in the order of channels of the canvas, their
//! pixels row by row without a gap, and classed by how much they cover.
//!
//! A tile is shown in hundreds of cells; what can be found once for all of them is found here.

use rustc_hash::FxHashMap;

use super::canvas::PixelOrder;
use super::sample::turned_size;
use crate::picture::Color;
use crate::plane::Stamp;
use crate::quilt::Blend;
use crate::tile::{ArtPage, Cell, Coverage, Turn};
use crate::units::PixelRect;

/// What is to be painted.
#[derive(Clone, Copy, Debug)]
pub(super) struct Look<'a> {
    pub(super) page: &'a ArtPage,
    pub(super) source: PixelRect,
    pub(super) turn: Turn,
    pub(super) color: Color,
    pub(super) blend: Blend,
    /// Whether it is stretched over a cell, and how many pixels that has.
    pub(super) stretched: Option<(u32, u32)>,
}

/// A picture as it is painted.
#[derive(Clone, Debug)]
pub(super) struct Swatch {
    pub(super) width: u32,
    pub(super) height: u32,
    pub(super) coverage: Coverage,
    pub(super) blend: Blend,
    /// What is added, channel by channel.
    pub(super) pixels: Vec<[u8; 4]>,
    /// How much of what is below shows through, channel by channel: 255 is all of it.
    pub(super) through: Vec<[u8; 4]>,
    /// The last use of the cache that took it.
    used: u64,
}

/// The swatches that were made, by number. A number holds until the picture is ended.
#[derive(Clone, Debug, Default)]
pub(super) struct Swatches {
    order: PixelOrder,
    swatches: Vec<Swatch>,
    known: FxHashMap<Key, u32>,
    /// What cells of the list's scene were last found to show.
    cells: CellTable,
    bytes: usize,
    uses: u64,
    /// Whether all are taken for soft.
    are_unclassed: bool,
}

#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
struct Key {
    page: Stamp,
    source: PixelRect,
    turn: Turn,
    color: Color,
    blend: Blend,
    stretched: Option<(u32, u32)>,
}

impl Swatches {
    /// How much is kept of what the last picture did not need.
    const MAX_BYTES: usize = 64 << 20;

    /// Swatches that are classed by how much they cover, or all taken for soft.
    pub(super) fn classed(are_classed: bool) -> Swatches {
        Swatches { are_unclassed: !are_classed, ..Swatches::default() }
    }

    /// Begins a picture of a scene on a canvas whose channels are in this order.
    /// Says whether numbers that were given before still hold.
    pub(super) fn begin(&mut self, order: PixelOrder, scene: Stamp) -> bool {
        let holds = self.order == order;
        if !holds {
            *self = Swatches { order, ..Swatches::classed(!self.are_unclassed) };
        }
        self.cells.begin(scene);
        self.uses += 1;
        holds
    }

    /// Ends it: what it did not use goes where there is too much. Says whether the numbers still
    /// hold.
    pub(super) fn end(&mut self) -> bool {
        if self.bytes <= Self::MAX_BYTES {
            return true;
        }
        let mut numbers: Vec<Option<u32>> = Vec::with_capacity(self.swatches.len());
        let mut kept = 0;
        for swatch in &self.swatches {
            let is_used = swatch.used == self.uses;
            numbers.push(is_used.then_some(kept));
            kept += u32::from(is_used);
        }
        self.swatches.retain(|swatch| swatch.used == self.uses);
        self.known.retain(|_, number| match numbers[*number as usize] {
            Some(other) => {
                *number = other;
                true
            }
            None => false,
        });
        self.cells.clear();
        self.bytes = self.swatches.iter().map(Swatch::bytes).sum();
        false
    }

    pub(super) fn all(&self) -> &[Swatch] {
        &self.swatches
    }

    pub(super) fn get(&self, number: u32) -> &Swatch {
        &self.swatches[number as usize]
    }

    /// The number of a picture's swatch, made where it is new.
    pub(super) fn number(&mut self, look: Look<'_>) -> u32 {
        let Look { page, source, turn, color, blend, stretched } = look;
        let key = Key { page: page.stamp(), source, turn, color, blend, stretched };
        let number = *self.known.entry(key).or_insert_with(|| {
            let mut swatch = Swatch::of(look, self.order);
            if self.are_unclassed {
                swatch.coverage = Coverage::Soft;
            }
            self.bytes += swatch.bytes();
            self.swatches.push(swatch);
            self.swatches.len() as u32 - 1
        });
        self.swatches[number as usize].used = self.uses;
        number
    }

    /// The number of what a cell in a level shows; `None` where that is not known yet.
    #[inline]
    pub(super) fn known_cell(&mut self, cell: Cell, level: u16) -> Option<u32> {
        let number = self.cells.get(cell, level)?;
        self.swatches[number as usize].used = self.uses;
        Some(number)
    }

    /// Keeps what a cell in a level shows, for the rest of the picture and the next ones.
    pub(super) fn keep_cell(&mut self, cell: Cell, level: u16, number: u32) {
        self.cells.put(cell, level, number);
    }

    pub(super) fn of(&mut self, look: Look<'_>) -> &Swatch {
        let number = self.number(look);
        self.get(number)
    }
}

/// A small table of what cells show. Two cells may want one place in it; then the later one has it.
#[derive(Clone, Debug, Default)]
pub(super) struct CellTable {
    scene: Stamp,
    places: Vec<(Cell, u16, u32)>,
}

impl CellTable {
    /// So many different cells and levels are seldom on one screen.
    const PLACES: usize = 1 << 11;

    pub(super) fn begin(&mut self, scene: Stamp) {
        if self.scene != scene {
            self.clear();
            self.scene = scene;
        }
    }

    pub(super) fn clear(&mut self) {
        self.places.clear();
        // No cell that is drawn is empty and has the last level.
        self.places.resize(Self::PLACES, (Cell::EMPTY, u16::MAX, 0));
    }

    #[inline]
    fn place(cell: Cell, level: u16) -> usize {
        // Fibonacci hashing (Knuth, The Art of Computer Programming, volume 3).
        let mixed = (cell.to_bits() ^ u32::from(level) << 21).wrapping_mul(0x9e37_79b9);
        (mixed >> 21) as usize
    }

    #[inline]
    pub(super) fn get(&self, cell: Cell, level: u16) -> Option<u32> {
        let held = self.places.get(Self::place(cell, level))?;
        ((held.0, held.1) == (cell, level)).then_some(held.2)
    }

    pub(super) fn put(&mut self, cell: Cell, level: u16, number: u32) {
        if let Some(held) = self.places.get_mut(Self::place(cell, level)) {
            *held = (cell, level, number);
        }
    }
}

impl Swatch {
    /// One that shows nothing.
    pub(super) fn clear((width, height): (u32, u32), blend: Blend, order: PixelOrder) -> Swatch {
        let count = width as usize * height as usize;
        Swatch {
            width,
            height,
            coverage: Coverage::Clear,
            blend,
            pixels: vec![order.pixel([0; 4]); count],
            through: vec![order.through(255); count],
            used: 0,
        }
    }

    /// Whether a pixel hides all that is below it.
    pub(super) fn hides(&self, pixel: usize, order: PixelOrder) -> bool {
        self.through[pixel] == order.through(0)
    }

    /// Whether a pixel shows anything.
    pub(super) fn shows(&self, pixel: usize, order: PixelOrder) -> bool {
        self.pixels[pixel] != order.pixel([0; 4]) || self.through[pixel] != order.through(255)
    }

    pub(super) fn of(look: Look<'_>, order: PixelOrder) -> Swatch {
        let Look { page, source, turn, color, blend, stretched } = look;
        let own = turned_size(source, turn);
        // Only by whole factors: then it does not matter whether it is scaled once or twice.
        let (width, height) = stretched
            .filter(|size| size.0 % own.0.max(1) == 0 && size.1 % own.1.max(1) == 0)
            .unwrap_or(own);
        let factor = (width / own.0.max(1), height / own.1.max(1));
        let places = (0..height).flat_map(|y| (0..width).map(move |x| (x, y)));
        let texels = places.map(|(x, y)| {
            let (x, y) = (x / factor.0.max(1), y / factor.1.max(1));
            let (x, y) = turn.source_pixel(x, y, source.size.width, source.size.height);
            page.row(source, y).get(x as usize).copied().unwrap_or_default()
        });
        let tinted: Vec<[u8; 4]> = texels.map(|texel| tinted(texel, color)).collect();
        let coverage = match blend {
            // What adds light covers nothing, however solid.
            Blend::Add => tinted.iter().fold(Coverage::Clear, |coverage, texel| match texel {
                [0, 0, 0, _] => coverage,
                _ => Coverage::Soft,
            }),
            Blend::Normal => Coverage::of(tinted.iter().map(|texel| texel[3])),
        };
        let adds = blend == Blend::Add;
        let below = |texel: &[u8; 4]| if adds { 255 } else { 255 - texel[3] };
        let above = |[r, g, b, a]: [u8; 4]| order.pixel([r, g, b, if adds { 0 } else { a }]);
        Swatch {
            width,
            height,
            coverage,
            blend,
            through: tinted.iter().map(|texel| order.through(below(texel))).collect(),
            pixels: tinted.iter().map(|texel| above(*texel)).collect(),
            used: 0,
        }
    }

    /// Whether it hides all that is below it.
    pub(super) fn is_solid(&self) -> bool {
        self.coverage == Coverage::Opaque && self.blend == Blend::Normal
    }

    pub(super) fn bytes(&self) -> usize {
        size_of::<Swatch>() + (self.pixels.capacity() + self.through.capacity()) * 4
    }
}

/// A texel multiplied by a colour, each channel rounded to the nearest level. Alpha is multiplied
/// in before and after.
fn tinted(texel: [u8; 4], color: Color) -> [u8; 4] {
    const WHOLE: u32 = 255 * 255;
    if color == Color::WHITE {
        return texel;
    }
    let [r, g, b, a] = texel.map(u32::from);
    let alpha = u32::from(color.a);
    let times =
        |channel: u32, tint: u8| ((channel * u32::from(tint) * alpha + WHOLE / 2) / WHOLE) as u8;
    [times(r, color.r), times(g, color.g), times(b, color.b), times(a, 255)]
}
