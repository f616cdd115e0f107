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
use crate::tile::{ArtPage, Coverage, Turn};
use crate::units::PixelRect;

/// What is to be painted.
#[derive(Clone, Copy, Debug)]
pub(super) struct Look<'a> {
    pub(super) page: &'a ArtPage,
    pub(super) source: PixelRect,
    pub(super) turn: Turn,
    pub(super) color: Color,
    pub(super) blend: Blend,
}

/// A picture as it is painted.
#[derive(Clone, Debug)]
pub(super) struct Swatch {
    pub(super) width: u32,
    pub(super) height: u32,
    pub(super) coverage: Coverage,
    /// What is added, channel by channel.
    pub(super) pixels: Vec<[u8; 4]>,
    /// How much of what is below shows through, channel by channel: 255 is all of it.
    pub(super) through: Vec<[u8; 4]>,
    /// The last use of the cache that took it.
    used: u64,
}

/// The swatches that were made.
#[derive(Clone, Debug, Default)]
pub(super) struct Swatches {
    order: PixelOrder,
    known: FxHashMap<Key, Swatch>,
    bytes: usize,
    uses: u64,
}

#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
struct Key {
    page: Stamp,
    source: PixelRect,
    turn: Turn,
    color: Color,
    blend: Blend,
}

impl Swatches {
    /// How much is kept of what the last picture did not need.
    const MOST_BYTES: usize = 64 << 20;

    /// Begins a picture on a canvas whose channels are in this order.
    pub(super) fn begin(&mut self, order: PixelOrder) {
        if self.order != order {
            *self = Swatches { order, ..Swatches::default() };
        }
        self.uses += 1;
    }

    /// Ends it: what it did not use goes where there is too much.
    pub(super) fn end(&mut self) {
        if self.bytes > Self::MOST_BYTES {
            self.known.retain(|_, swatch| swatch.used == self.uses);
            self.bytes = self.known.values().map(Swatch::bytes).sum();
        }
    }

    pub(super) fn of(&mut self, look: Look<'_>) -> &Swatch {
        let Look { page, source, turn, color, blend } = look;
        let key = Key { page: page.stamp(), source, turn, color, blend };
        let (order, bytes) = (self.order, &mut self.bytes);
        let swatch = self.known.entry(key).or_insert_with(|| {
            let swatch = Swatch::of(look, order);
            *bytes += swatch.bytes();
            swatch
        });
        swatch.used = self.uses;
        swatch
    }
}

impl Swatch {
    fn of(look: Look<'_>, order: PixelOrder) -> Swatch {
        let Look { page, source, turn, color, blend } = look;
        let (width, height) = turned_size(source, turn);
        let (own_width, own_height) = (source.size.width, source.size.height);
        let places = (0..height).flat_map(|y| (0..width).map(move |x| (x, y)));
        let texels = places.map(|(x, y)| {
            let (x, y) = turn.source_pixel(x, y, own_width, own_height);
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
        let below = |texel: &[u8; 4]| if blend == Blend::Add { 255 } else { 255 - texel[3] };
        Swatch {
            width,
            height,
            coverage,
            through: tinted.iter().map(|texel| order.through(below(texel))).collect(),
            pixels: { tinted.iter() }
                .map(|&[r, g, b, a]| {
                    order.pixel([r, g, b, if blend == Blend::Add { 0 } else { a }])
                })
                .collect(),
            used: 0,
        }
    }

    fn bytes(&self) -> usize {
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
