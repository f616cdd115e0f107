use std::collections::BTreeMap;

use rustc_hash::FxHashMap;

use super::TileKey;
use crate::picture::{Color, Picture};
use crate::units::{PixelRect, PixelSize};

/// Ground classes painted over a sheet: a picture of the same size, in which a colour means a
/// class.
///
/// A tile has the class that covers more than half of its pixels; one that is not painted at all
/// has none.
#[derive(Clone, Debug)]
pub struct GroundMask {
    picture: Picture,
    classes: Vec<(Color, String)>,
    /// The place of each colour among the classes.
    places: FxHashMap<Color, usize>,
}

/// What is wrong with a mask of ground classes.
#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
#[non_exhaustive]
pub enum GroundMaskFault {
    /// It is not as large as the sheet.
    #[error("the mask is {mask}, but the sheet's picture {sheet}")]
    Size {
        /// The size of the mask.
        mask: PixelSize,
        /// The size of the picture of the sheet.
        sheet: PixelSize,
    },
    /// A colour of no class.
    #[error("the colour {color} of {count} pixels, the first {x},{y}, means no ground class")]
    UnknownColor {
        /// The colour.
        color: Color,
        /// The column of the first pixel that has it.
        x: u32,
        /// The row of it.
        y: u32,
        /// How many pixels have it.
        count: u64,
    },
    /// A tile that is painted, but no class covers more than half of it.
    #[error("tile `{tile}` is painted in part only: {class} covers {percent} % of it")]
    InPart {
        /// The tile, as it is named in its set.
        tile: String,
        /// The first painted pixel of it.
        at: (u32, u32),
        /// The class that covers the most.
        class: String,
        /// How much that is.
        percent: u8,
    },
    /// The set has no sheet over which it could be painted.
    #[error("the set has no sheet over which the mask could be painted")]
    NoSheet,
}

/// The most unknown colours that are told apart.
const MOST_UNKNOWN: usize = 100;

impl GroundMask {
    /// A mask with its legend of colours, of which the first counts where one comes twice. Clear
    /// pixels mean nothing, whatever their colour.
    pub fn new(picture: Picture, classes: Vec<(Color, String)>) -> GroundMask {
        let places =
            classes.iter().enumerate().map(|(place, (color, _))| (*color, place)).rev().collect();
        GroundMask { picture, classes, places }
    }

    pub(super) const fn size(&self) -> PixelSize {
        self.picture.size()
    }

    /// Everything that is wrong with it over a sheet whose picture has this size, apart from its
    /// tiles.
    pub(super) fn faults(&self, sheet: PixelSize) -> Vec<GroundMaskFault> {
        let mask = self.picture.size();
        if mask == sheet {
            self.unknown_colors()
        } else {
            vec![GroundMaskFault::Size { mask, sheet }]
        }
    }

    fn unknown_colors(&self) -> Vec<GroundMaskFault> {
        let mut unknown: Vec<(Color, (u32, u32), u64)> = Vec::new();
        let width = self.picture.size().width.max(1);
        for (&bytes, at) in self.picture.bytes().as_chunks::<4>().0.iter().zip(0..) {
            let color = Color::from_bytes(bytes);
            if color.a == 0 || self.places.contains_key(&color) {
                continue;
            }
            let is_room = unknown.len() < MOST_UNKNOWN;
            match unknown.iter_mut().find(|(held, ..)| *held == color) {
                Some((_, _, count)) => *count += 1,
                None if is_room => unknown.push((color, (at % width, at / width), 1)),
                None => {}
            }
        }
        let fault = |(color, (x, y), count)| GroundMaskFault::UnknownColor { color, x, y, count };
        unknown.into_iter().map(fault).collect()
    }

    /// The class of a tile with its pixels; none where it is not painted.
    pub(super) fn class_of(
        &self,
        tile: &TileKey,
        rect: PixelRect,
    ) -> Result<Option<&str>, GroundMaskFault> {
        let mut counts: BTreeMap<usize, u64> = BTreeMap::new();
        let mut first = None;
        for (color, at) in self.picture.pixels(rect).zip(0..) {
            if let Some(&place) = self.places.get(&color).filter(|_| color.a > 0) {
                *counts.entry(place).or_default() += 1;
                first.get_or_insert_with(|| pixel_of(rect, at));
            }
        }
        let Some(at) = first else { return Ok(None) };
        let most = counts.into_iter().max_by_key(|(_, count)| *count);
        let Some((place, count)) = most else { return Ok(None) };
        let (_, class) = &self.classes[place];
        if count * 2 > rect.size.area() {
            return Ok(Some(class));
        }
        let percent = (count * 100 / rect.size.area().max(1)) as u8;
        let tile = tile.to_string();
        Err(GroundMaskFault::InPart { tile, at, class: class.clone(), percent })
    }
}

fn pixel_of(rect: PixelRect, at: u32) -> (u32, u32) {
    (rect.x + at % rect.size.width.max(1), rect.y + at / rect.size.width.max(1))
}
