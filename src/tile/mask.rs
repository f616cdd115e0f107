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
    /// How far each channel of a colour may be off.
    tolerance: u8,
}

/// A fault of a mask of ground classes.
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
    #[error(
        "the colour {color} of {count} pixels, the first {x},{y}, does not stand for a ground class"
    )]
    UnknownColor {
        /// The colour.
        color: Color,
        /// The column of the first pixel that has it.
        x: u32,
        /// The row of it.
        y: u32,
        /// How many pixels have it.
        count: u64,
        /// A colour of a class that is near to it, and by how much the two differ at most in a
        /// channel.
        near: Option<(Color, u8)>,
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
const MAX_UNKNOWN: usize = 100;

/// So much an unknown colour is off at most to be taken for a slip.
const MAX_NEAR: u8 = 16;

impl GroundMask {
    /// Returns a mask with its legend of colours, of which the first counts where one comes twice.
    /// Clear pixels mean nothing, whatever their colour.
    pub fn new(picture: Picture, classes: Vec<(Color, String)>) -> GroundMask {
        let places =
            classes.iter().enumerate().map(|(place, (color, _))| (*color, place)).rev().collect();
        GroundMask { picture, classes, places, tolerance: 0 }
    }

    setters! {
        /// Returns this mask, in which each channel of a colour may be off by so much; the nearest
        /// colour of a class counts.
        const with_tolerance(tolerance: u8);
    }

    /// The class of a colour, by its place.
    fn place(&self, color: Color) -> Option<usize> {
        if let Some(place) = self.places.get(&color) {
            return Some(*place);
        }
        let (place, distance) = self.nearest(color)?;
        (self.tolerance > 0 && distance <= self.tolerance).then_some(place)
    }

    /// The class whose colour is nearest to one, and by how much the two differ at most.
    fn nearest(&self, color: Color) -> Option<(usize, u8)> {
        let distance = |held: &Color| {
            let channels = held.to_bytes().into_iter().zip(color.to_bytes());
            channels.map(|(a, b)| a.abs_diff(b)).max().unwrap_or(0)
        };
        let all = self.classes.iter().enumerate();
        all.map(|(place, (held, _))| (place, distance(held))).min_by_key(|(_, far)| *far)
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
            if color.a == 0 || self.place(color).is_some() {
                continue;
            }
            let is_room = unknown.len() < MAX_UNKNOWN;
            match unknown.iter_mut().find(|(held, ..)| *held == color) {
                Some((_, _, count)) => *count += 1,
                None if is_room => unknown.push((color, (at % width, at / width), 1)),
                None => {}
            }
        }
        let fault = |(color, (x, y), count)| {
            let near = self.nearest(color).filter(|(_, distance)| *distance <= MAX_NEAR);
            let near = near.map(|(place, distance)| (self.classes[place].0, distance));
            GroundMaskFault::UnknownColor { color, x, y, count, near }
        };
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
            if let Some(place) = self.place(color).filter(|_| color.a > 0) {
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
