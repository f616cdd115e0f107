//! Pictures at a slant, cut into pieces of half a diamond, and places put together of those.
//!
//! All pictures of a map that is seen at a slant lie on whole pixels of the pane, and all cells on lines
//! of half a diamond. Cut along these lines, the pictures become pieces of one size, and each place
//! between the lines shows an ordinary stack of them.

use rustc_hash::FxHashMap;

use super::canvas::PixelOrder;
use super::sample::{texel, turned_size};
use super::swatch::{Look, Swatch};
use crate::draw::{Diamond, PaneCells};
use crate::picture::Color;
use crate::plane::Stamp;
use crate::quilt::Blend;
use crate::tile::{Coverage, Turn};
use crate::units::PixelRect;

/// Which pixels of a piece show anything, and which hide what is below, row by row.
#[derive(Clone, Debug)]
struct Seen {
    seen: Bits,
    solid: Bits,
}

/// A set of pixels.
type Bits = Box<[u64]>;

/// A picture in pieces: each with its place, from that of the top corner of its cell on.
#[derive(Clone, Debug)]
pub(super) struct CutPicture {
    pub(super) pieces: Vec<(i32, i32, u32)>,
}

/// The pieces that were made, by number. A number holds until all are forgotten.
#[derive(Clone, Debug, Default)]
pub(super) struct Pieces {
    /// The size of all pieces, and the order of their channels.
    size: (u32, u32),
    order: PixelOrder,
    swatches: Vec<Swatch>,
    seen: Vec<Seen>,
    cut: Vec<CutPicture>,
    known: FxHashMap<CutKey, u32>,
    bytes: usize,
}

#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
struct CutKey {
    page: Stamp,
    source: PixelRect,
    turn: Turn,
    color: Color,
    blend: Blend,
    frame: (i64, i64, i64, i64),
}

impl Pieces {
    /// How much is kept from picture to picture.
    const MAX_BYTES: usize = 128 << 20;

    /// Begins a picture; says whether the numbers of the last one still hold.
    pub(super) fn begin(&mut self, diamond: &Diamond, order: PixelOrder) -> bool {
        let size = (diamond.half_width as u32, diamond.half_height as u32);
        let holds = (self.size, self.order) == (size, order) && self.bytes <= Self::MAX_BYTES;
        if !holds {
            *self = Pieces { size, order, ..Pieces::default() };
        }
        holds
    }

    /// The width and height of all pieces.
    pub(super) const fn size(&self) -> (u32, u32) {
        self.size
    }

    /// All pieces, by number.
    pub(super) fn swatches(&self) -> &[Swatch] {
        &self.swatches
    }

    pub(super) fn cut(&self, number: u32) -> &CutPicture {
        &self.cut[number as usize]
    }

    /// The number of a picture in pieces, cut where that is new. It lies on some pixels, from the top
    /// corner of its cell on.
    pub(super) fn number(&mut self, look: Look<'_>, frame: PaneCells) -> u32 {
        let Look { page, source, turn, color, blend, .. } = look;
        let PaneCells { left, top, right, bottom } = frame;
        let frame_key = (left, top, right, bottom);
        let key = CutKey { page: page.stamp(), source, turn, color, blend, frame: frame_key };
        if let Some(number) = self.known.get(&key) {
            return *number;
        }
        let pieces = self.cut_up(look, frame);
        self.cut.push(CutPicture { pieces });
        let number = self.cut.len() as u32 - 1;
        self.known.insert(key, number);
        number
    }

    fn cut_up(&mut self, look: Look<'_>, frame: PaneCells) -> Vec<(i32, i32, u32)> {
        let whole = Swatch::of(look, self.order);
        let (own_width, own_height) = turned_size(look.source, look.turn);
        if whole.coverage == Coverage::Clear {
            return Vec::new();
        }
        let (width, height) = (i64::from(self.size.0), i64::from(self.size.1));
        let length = |from: i64, to: i64| i32::try_from(to - from).unwrap_or(i32::MAX);
        let (across, down) = (length(frame.left, frame.right), length(frame.top, frame.bottom));
        // Where in the picture the pixels of the frame lie: one by one, but for another density.
        let column = |x: i64| texel((x - frame.left) as i32, 0, across, own_width);
        let row = |y: i64| texel((y - frame.top) as i32, 0, down, own_height);
        let mut pieces = Vec::new();
        let last = |end: i64, side: i64| (end - 1).div_euclid(side);
        for j in frame.top.div_euclid(height)..=last(frame.bottom, height) {
            for i in frame.left.div_euclid(width)..=last(frame.right, width) {
                let mut swatch = Swatch::clear(self.size, look.blend, self.order);
                let (mut seen, mut solid) = (self.no_bits(), self.no_bits());
                for y in (j * height).max(frame.top)..((j + 1) * height).min(frame.bottom) {
                    for x in (i * width).max(frame.left)..((i + 1) * width).min(frame.right) {
                        let from = (row(y) * whole.width + column(x)) as usize;
                        let at = ((y - j * height) * width + x - i * width) as usize;
                        swatch.pixels[at] = whole.pixels[from];
                        swatch.through[at] = whole.through[from];
                        let is_solid = whole.hides(from, self.order);
                        let shows = is_solid || whole.shows(from, self.order);
                        seen[at / 64] |= u64::from(shows) << (at % 64);
                        solid[at / 64] |= u64::from(is_solid) << (at % 64);
                    }
                }
                if seen.iter().all(|word| *word == 0) {
                    continue;
                }
                swatch.coverage = match look.blend {
                    Blend::Add => Coverage::Soft,
                    Blend::Normal if seen != solid => Coverage::Soft,
                    Blend::Normal => self.coverage_of(&solid),
                };
                pieces.push((i as i32, j as i32, self.push(swatch, Seen { seen, solid })));
            }
        }
        pieces
    }

    fn no_bits(&self) -> Bits {
        vec![0; self.words()].into()
    }

    /// How many words the pixels of a piece take, a bit for each.
    fn words(&self) -> usize {
        (self.size.0 as usize * self.size.1 as usize).div_ceil(64)
    }

    /// The coverage of a piece whose pixels are either solid or clear.
    fn coverage_of(&self, solid: &Bits) -> Coverage {
        let count: u32 = solid.iter().map(|word| word.count_ones()).sum();
        if count == self.size.0 * self.size.1 { Coverage::Opaque } else { Coverage::Holed }
    }

    fn push(&mut self, swatch: Swatch, seen: Seen) -> u32 {
        self.bytes += swatch.bytes() + (seen.seen.len() + seen.solid.len()) * 8;
        self.swatches.push(swatch);
        self.seen.push(seen);
        self.swatches.len() as u32 - 1
    }

    /// Leaves out of a stack what those above cover wholly; the lowest comes first. Says whether what
    /// is left does not hang on what is below: each of its pixels is solid somewhere, with nothing
    /// beneath that lets something through.
    pub(super) fn remove_covered(
        &self,
        (orders, numbers): (&mut Vec<u64>, &mut Vec<u32>),
        covered: &mut Vec<u64>,
    ) -> bool {
        covered.clear();
        covered.resize(self.words(), 0);
        let mut kept = numbers.len();
        for at in (0..numbers.len()).rev() {
            let Seen { seen, solid } = &self.seen[numbers[at] as usize];
            if seen.iter().zip(&*covered).any(|(seen, covered)| seen & !covered != 0) {
                kept -= 1;
                (orders[kept], numbers[kept]) = (orders[at], numbers[at]);
                covered.iter_mut().zip(solid).for_each(|(all, own)| *all |= own);
            }
        }
        orders.drain(..kept);
        numbers.drain(..kept);
        covered.fill(0);
        for number in numbers.iter() {
            let Seen { seen, solid } = &self.seen[*number as usize];
            let mut both = seen.iter().zip(solid).zip(&*covered);
            if both.any(|((seen, own), below)| seen & !own & !below != 0) {
                return false;
            }
            covered.iter_mut().zip(solid).for_each(|(all, own)| *all |= own);
        }
        covered.iter().map(|word| word.count_ones()).sum::<u32>() == self.size.0 * self.size.1
    }
}
