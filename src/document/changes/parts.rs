//! The parts of a map as bytes: as they stand in its document, with their cells and pixels beside that.

use std::sync::Arc;

use serde_json::Value;

use super::error::ChangesError;
use super::planes::{put_words, take_words};
use super::read::Reading;
use super::write::Writing;
use crate::codec::{Bytes, BytesFault, Out};
use crate::document::input::Files;
use crate::document::problem::Problems;
use crate::document::read::layer::read_settings_alone;
use crate::document::read::map::{read_class, read_mover, read_palette};
use crate::document::read::markers::read_marker;
use crate::document::read::{read_part, tiles};
use crate::document::source::MemorySource;
use crate::document::write::{class_value, marker_value, mover_value, palette_value, set_line};
use crate::edit::Part;
use crate::plane::ValueKind;
use crate::quilt::{Class, Layer, Marker, Mover, Palette, ValueLayer};
use crate::tile::{ArtPage, ArtPlacement, Coverage, Fit, TileArt, TileSet};
use crate::units::{PixelRect, PixelSize, WorldVec};

/// A part of a map that can be written as bytes.
pub(super) trait BytesPart: Part {
    /// Writes it, but for its name.
    fn put(&self, writing: &mut Writing<'_>);

    /// Reads the part of this name.
    fn take(name: &str, reading: &mut Reading<'_>) -> Result<Self, ChangesError>;
}

impl BytesPart for Marker {
    fn put(&self, writing: &mut Writing<'_>) {
        writing.json(&marker_value(self));
    }

    fn take(name: &str, reading: &mut Reading<'_>) -> Result<Marker, ChangesError> {
        reading.part_of(&format!("marker `{name}`"), |reader, node, map| {
            let marker = read_marker(reader, node, map)?;
            reader.check(node, map.check_marker(&marker))?;
            Some(marker)
        })
    }
}

impl BytesPart for Class {
    fn put(&self, writing: &mut Writing<'_>) {
        writing.json(&class_value(self));
    }

    fn take(name: &str, reading: &mut Reading<'_>) -> Result<Class, ChangesError> {
        reading.part_of(&format!("ground class `{name}`"), |reader, node, map| {
            let (name, span, color) = read_class(reader, node)?;
            match map.ground_rules().check_class(&name) {
                Ok(()) => Some(Class::new(&name).with_color(color)),
                Err(error) => {
                    reader.error(span, error.to_string());
                    None
                }
            }
        })
    }
}

impl BytesPart for Mover {
    fn put(&self, writing: &mut Writing<'_>) {
        writing.json(&mover_value(self));
    }

    fn take(name: &str, reading: &mut Reading<'_>) -> Result<Mover, ChangesError> {
        reading.part_of(&format!("mover `{name}`"), |reader, node, map| {
            let mover = read_mover(reader, name, node, map.ground_rules());
            match map.ground_rules().check_mover(&mover) {
                Ok(()) => Some(mover.born()),
                Err(error) => {
                    reader.error(node.span(), error.to_string());
                    None
                }
            }
        })
    }
}

impl BytesPart for Palette {
    fn put(&self, writing: &mut Writing<'_>) {
        writing.json(&palette_value(self));
    }

    fn take(name: &str, reading: &mut Reading<'_>) -> Result<Palette, ChangesError> {
        reading.part_of(&format!("palette `{name}`"), |reader, node, map| {
            let palette = read_palette(reader, name, node, None)?;
            reader.check(node, map.check_palette(&palette, None))?;
            Some(palette.born_now())
        })
    }
}

impl BytesPart for Layer {
    fn put(&self, writing: &mut Writing<'_>) {
        let entries = writing.settings(self.settings());
        writing.json(&Value::Object(entries));
        let Writing { out, names, .. } = writing;
        put_words(out, self.cells().words(), &mut |word| names.word(word));
    }

    fn take(name: &str, reading: &mut Reading<'_>) -> Result<Layer, ChangesError> {
        let settings = reading.part_of(&format!("layer `{name}`"), |reader, node, map| {
            let settings = read_settings_alone(reader, node, map)?;
            reader.check(node, map.check_settings(name, &settings))?;
            Some(settings)
        })?;
        reading.find_palettes();
        let Reading { bytes, names, room, .. } = reading;
        let words = take_words(bytes, &|word| names.word(word), room)?;
        Ok(Layer::of_words(name.into(), settings, words))
    }
}

impl BytesPart for ValueLayer {
    fn put(&self, writing: &mut Writing<'_>) {
        writing.out.byte(kind_byte(self.kind()));
        put_words(&mut writing.out, self.words(), &mut |word| word);
    }

    fn take(name: &str, reading: &mut Reading<'_>) -> Result<ValueLayer, ChangesError> {
        let kind = take_kind(reading)?;
        let words = take_words(&mut reading.bytes, &of_kind(kind), &mut reading.room)?;
        let mut layer = ValueLayer::new(name, kind);
        *layer.words_mut() = words;
        Ok(layer)
    }
}

pub(super) const fn kind_byte(kind: ValueKind) -> u8 {
    match kind {
        ValueKind::U32 => 0,
        ValueKind::I32 => 1,
        ValueKind::F32 => 2,
    }
}

pub(super) fn take_kind(reading: &mut Reading<'_>) -> Result<ValueKind, BytesFault> {
    match reading.bytes.byte()? {
        0 => Ok(ValueKind::U32),
        1 => Ok(ValueKind::I32),
        2 => Ok(ValueKind::F32),
        _ => Err(reading.bytes.wrong("there is no such kind of values")),
    }
}

/// The values of a kind: numbers that are finite.
pub(super) fn of_kind(kind: ValueKind) -> impl Fn(u32) -> Option<u32> {
    move |word| (kind != ValueKind::F32 || f32::from_bits(word).is_finite()).then_some(word)
}

/// What a tile set is besides its document.
const COLUMNS: u8 = 1;
const ROWS: u8 = 2;
const FILE: u8 = 4;
const PICTURE_FILE: u8 = 8;
const SCHEMA: u8 = 16;

/// What the pixels of a tile are besides their place.
const SHOWN: u8 = 1;
const PICTURE: u8 = 2;
const PLACED: u8 = 4;
const ANCHOR: u8 = 8;
const CELL_ANCHOR: u8 = 16;

/// Writes how a picture stands on its cell, and which of it is told.
fn put_placement(out: &mut Out, flags: u8, placement: ArtPlacement) {
    let ArtPlacement { density, anchor, cell_anchor, offset } = placement;
    let flag = |point: Option<_>, flag| if point.is_some() { flag } else { 0 };
    out.byte(flags | flag(anchor, ANCHOR) | flag(cell_anchor, CELL_ANCHOR));
    let points = [anchor, cell_anchor].into_iter().flatten().flat_map(|(x, y)| [x, y]);
    for number in [density, offset.x, offset.y].into_iter().chain(points) {
        out.bytes(&number.to_le_bytes());
    }
}

fn take_placement(bytes: &mut Bytes<'_>, flags: u8) -> Result<ArtPlacement, BytesFault> {
    let mut number = || {
        let number = bytes.take(8)?.first_chunk().map_or(f64::NAN, |n| f64::from_le_bytes(*n));
        let is_near = number.abs() <= 65536.0;
        if is_near { Ok(number) } else { Err(bytes.wrong("a picture stands too far away")) }
    };
    let (density, x, y) = (number()?, number()?, number()?);
    let mut point = |flag: u8| match flags & flag {
        0 => Ok(None),
        _ => Ok(Some((number()?, number()?))),
    };
    let (anchor, cell_anchor) = (point(ANCHOR)?, point(CELL_ANCHOR)?);
    if !(0.001..=1000.0).contains(&density) {
        return Err(bytes.wrong("a picture has a density that none can have"));
    }
    Ok(ArtPlacement { density, anchor, cell_anchor, offset: WorldVec::new(x, y) })
}

impl BytesPart for Arc<TileSet> {
    fn put(&self, writing: &mut Writing<'_>) {
        let cut = self.sheet();
        let flags = [
            (cut.is_some_and(|cut| cut.columns.is_some()), COLUMNS),
            (cut.is_some_and(|cut| cut.rows.is_some()), ROWS),
            (self.file().is_some(), FILE),
            (self.picture_file().is_some(), PICTURE_FILE),
            (self.schema.is_some(), SCHEMA),
        ];
        let out = &mut writing.out;
        out.byte(flags.iter().filter(|(is_there, _)| *is_there).map(|(_, flag)| flag).sum());
        let texts = [self.file(), self.picture_file(), self.schema.as_deref()];
        texts.into_iter().flatten().for_each(|text| out.text(text));
        out.text(&set_line(self));
        let page = self.page();
        out.number(page.size().width.into());
        out.number(page.size().height.into());
        out.bytes(page.pixels().as_flattened());
        out.number(self.tiles().len() as u64);
        for tile in self.tiles() {
            let PixelRect { x, y, size } = tile.art().source;
            [x, y, size.width, size.height].iter().for_each(|side| out.number((*side).into()));
            let shown = if tile.art().coverage == Coverage::Clear { 0 } else { SHOWN };
            match tile.art().fit {
                Fit::Stretched => out.byte(shown),
                Fit::Placed(own) if own == self.stated_fit(tile) => out.byte(shown | PICTURE),
                Fit::Placed(own) => put_placement(out, shown | PICTURE | PLACED, own),
            }
        }
    }

    fn take(name: &str, reading: &mut Reading<'_>) -> Result<Arc<TileSet>, ChangesError> {
        let part = format!("tile set `{name}`");
        let flags = reading.bytes.byte()?;
        let mut text = |flag: u8| -> Result<Option<String>, BytesFault> {
            if flags & flag == 0 { Ok(None) } else { Ok(Some(reading.bytes.text()?.to_owned())) }
        };
        let (file, picture_file, schema) = (text(FILE)?, text(PICTURE_FILE)?, text(SCHEMA)?);
        let document = reading.bytes.text()?;
        let mut problems = Problems::new(reading.limits);
        let source = MemorySource::default();
        let mut files = Files::new(&source, reading.limits);
        files.decodes = false;
        let set = tiles::read_alone(document, &part, &part, &mut files, &mut problems);
        let set = match set.filter(|_| problems.errors() == 0) {
            Some(set) => set,
            None => return Err(ChangesError::Part { part, source: problems.into_error() }),
        };
        let bytes = &mut reading.bytes;
        let most = u64::from(u32::MAX);
        let mut side = || bytes.up_to(most, "a picture is too large").map(|side| side as u32);
        let size = PixelSize::new(side()?, side()?);
        if size.area() > reading.limits.pixels {
            let most = reading.limits.pixels;
            return Err(BytesFault::TooMany { what: "pixels", most }.into());
        }
        let (pixels, _) = bytes.take(size.area() as usize * 4)?.as_chunks::<4>();
        let page = ArtPage::of_pixels(size, pixels.to_vec());
        let count = bytes.count()?;
        if count != set.tiles().len() {
            return Err(bytes.wrong("a tile set has another number of tiles").into());
        }
        let arts = set.tiles().iter().map(|tile| {
            let mut side = || bytes.up_to(most, "a picture is too large").map(|side| side as u32);
            let (x, y, width, height) = (side()?, side()?, side()?, side()?);
            let source = PixelRect::new(x, y, PixelSize::new(width, height));
            let flags = bytes.byte()?;
            let fit = match (flags & PICTURE > 0, flags & PLACED > 0) {
                (false, _) => Fit::Stretched,
                (true, false) => Fit::Placed(set.stated_fit(tile)),
                (true, true) => Fit::Placed(take_placement(bytes, flags)?),
            };
            let coverage = if flags & SHOWN > 0 { Coverage::Soft } else { Coverage::Clear };
            Ok(TileArt { source, coverage, fit })
        });
        let arts = arts.collect::<Result<Vec<_>, BytesFault>>()?;
        let stated = (flags & COLUMNS > 0, flags & ROWS > 0);
        let set = set.as_stated(file, picture_file, stated, schema.map(Into::into));
        let set = set.with_page(page, arts.into_iter());
        let set = set.ok_or_else(|| bytes.wrong("a tile lies beyond the pixels of its set"))?;
        let text = "null";
        // Classes and data are looked at as those of a set of a document are.
        read_part(text, &part, reading.limits, |reader, node| {
            reader.check(node, reading.map.check_set(&set))
        })
        .map_err(|source| ChangesError::Part { part: part.clone(), source })?;
        Ok(Arc::new(set))
    }
}
