//! Reading changes.

use std::sync::Arc;

use serde_json::Value;

use super::error::ChangesError;
use super::parts::{BytesPart, of_kind, take_kind};
use super::planes::{Room, take_plane};
use super::{FORWARD, MAGIC, kind};
use crate::codec::{Bytes, BytesFault, Frame, NamesIn};
use crate::document::limits::Limits;
use crate::document::read::layer::read_settings_alone;
use crate::document::read::map::read_projection;
use crate::document::read::{read_area, read_part};
use crate::document::syntax::{Node, Reader};
use crate::edit::{ApplyError, Changeset, Op, Placed, Swap};
use crate::plane::Stamp;
use crate::quilt::{Layer, LayerSettings, Named, Quilt};
use crate::units::ChunkPos;

impl Changeset {
    /// Reads changes from bytes, whoever sent them, as changes of a map: of the one in which they were made,
    /// or of another that has what they change by the same names. Tiles that it does not have are shown by
    /// placeholders and keep their names.
    ///
    /// Full ones ([`Changeset::to_bytes`]) say what they expect, and need not fit: [`Quilt::apply`] and
    /// [`Changeset::rebase`] tell. Those that say only what is after ([`Changeset::to_forward_bytes`]) expect
    /// what the map holds now.
    ///
    /// # Errors
    /// Bytes that are damaged, something else, or of a later version; more than the limits allow (cells,
    /// pixels, tiles, unpacked bytes, JSON values); a part that cannot be one of this map, such as a marker
    /// with a ground class that it does not know; for those that say only what is after, a map that does not
    /// have what they change, or has not loaded it.
    ///
    /// Takes time and memory in proportion to the bytes, and a snapshot of the map; a rectangle that is filled
    /// takes some hundred bytes for each 512 × 512 cells. The names of tiles stay in the register of the map,
    /// also where the changes are not applied.
    pub fn from_bytes(
        bytes: &[u8],
        quilt: &Quilt,
        limits: &Limits,
    ) -> Result<Changeset, ChangesError> {
        let frame = Frame::read(bytes, MAGIC, FORWARD, limits.unpacked_bytes)?;
        if frame.len != bytes.len() {
            return Err(BytesFault::Wrong { at: frame.len, what: "more bytes follow" }.into());
        }
        let mut body = Bytes::new(&frame.body);
        let label = body.text()?;
        let mut map = quilt.clone();
        map.catch_up_tiles();
        let names = NamesIn::take(&mut body, |name| map.intern_tile(name), limits.tiles)?;
        let room = Room { cells: limits.cells, most: limits.cells };
        let is_forward = frame.flags & FORWARD > 0;
        let mut reading = Reading { bytes: body, names, map, limits, room, is_forward };
        let mut ops = Vec::new();
        for _ in 0..reading.bytes.count()? {
            let Some(op) = reading.op()? else { continue };
            // What does not fit is no fault of the bytes; the rest is read as far as that goes.
            let fits =
                op.check(&reading.map).and_then(|()| op.apply(&mut reading.map, Stamp::next()));
            if is_forward {
                fits?;
            }
            let most = limits.layers.min(Layer::MAX_COUNT as u64);
            if reading.map.layer_count() as u64 > most {
                return Err(BytesFault::TooMany { what: "layers", most }.into());
            }
            ops.push(op);
        }
        if !reading.bytes.is_end() {
            return Err(reading.bytes.wrong("more bytes follow").into());
        }
        Ok(Changeset::of(label, ops, &reading.map))
    }
}

/// Changes that are being read.
pub(super) struct Reading<'a> {
    pub(super) bytes: Bytes<'a>,
    pub(super) names: NamesIn,
    /// The map as the changes so far leave it.
    pub(super) map: Quilt,
    pub(super) limits: &'a Limits,
    pub(super) room: Room,
    is_forward: bool,
}

impl Reading<'_> {
    /// The next operation; `None` where the map is already as it leaves it.
    fn op(&mut self) -> Result<Option<Op>, ChangesError> {
        let kind = self.bytes.byte()?;
        Ok(match kind {
            kind::CELLS => self.cells()?,
            kind::VALUES => self.values()?,
            kind::LAYER => self.part()?.map(Op::Layer),
            kind::VALUE_LAYER => self.part()?.map(Op::ValueLayer),
            kind::ORDER => self.order()?,
            kind::NAME => self.name()?,
            kind::SETTINGS => self.settings()?,
            kind::BOUNDS => {
                let held = self.map.stated_bounds();
                self.one(held, |reading| {
                    reading.part_of("the bounds", |reader, node, _| {
                        if node.is_null() {
                            return Some(None);
                        }
                        read_area(reader, node, "the bounds of the map").map(Some)
                    })
                })?
                .map(Op::Bounds)
            }
            kind::PROJECTION => {
                let held = *self.map.projection();
                self.one(held, |reading| {
                    reading.part_of("the projection", |reader, node, map| {
                        read_projection(reader, node, map.lattice())
                    })
                })?
                .map(Op::Projection)
            }
            kind::DATA => {
                let held = Arc::clone(self.map.shared_data());
                self.one(held, |reading| {
                    reading.part_of("the data of the map", |reader, node, _| {
                        reader.data(node, "the data of the map").map(Arc::<Value>::new)
                    })
                })?
                .map(Op::Data)
            }
            kind::MARKER => self.part()?.map(Op::Marker),
            kind::TILES => self.part()?.map(Op::Tiles),
            kind::CLASS => self.part()?.map(Op::Class),
            kind::MOVER => self.part()?.map(Op::Mover),
            kind::PALETTE => self.part()?.map(Op::Palette),
            _ => return Err(self.bytes.wrong("there is no such operation").into()),
        })
    }

    fn cells(&mut self) -> Result<Option<Op>, ChangesError> {
        let layer: Arc<str> = self.bytes.text()?.into();
        self.find_palettes();
        let Reading { bytes, names, map, room, is_forward, .. } = self;
        let held = match is_forward {
            true => Some(map.layer(&*layer).map_err(ApplyError::from)?.cells().words()),
            false => None,
        };
        let (changes, absent) = take_plane(bytes, held, &|word| names.word(word), room)?;
        check_loaded(absent, "layer", &layer)?;
        Ok((!changes.is_empty()).then_some(Op::Cells { layer, changes }))
    }

    fn values(&mut self) -> Result<Option<Op>, ChangesError> {
        let layer: Arc<str> = self.bytes.text()?.into();
        let kind = take_kind(self)?;
        let Reading { bytes, map, room, is_forward, .. } = self;
        let held = match is_forward {
            true => {
                let held = map.value_layer(&layer).map_err(ApplyError::from)?;
                if held.kind() != kind {
                    let what = format!("the kind of value layer `{layer}`");
                    return Err(ApplyError::Differs(what).into());
                }
                Some(held.words())
            }
            false => None,
        };
        let (changes, absent) = take_plane(bytes, held, &of_kind(kind), room)?;
        check_loaded(absent, "value layer", &layer)?;
        Ok((!changes.is_empty()).then_some(Op::Values { layer, kind, changes }))
    }

    fn order(&mut self) -> Result<Option<Op>, ChangesError> {
        let layer: Arc<str> = self.bytes.text()?.into();
        let mut place =
            || Ok::<_, BytesFault>(self.bytes.up_to(1 << 32, "there is no such place")? as usize);
        let before = match self.is_forward {
            true => self.map.layer_at(&*layer).map_err(ApplyError::from)?,
            false => place()?,
        };
        let mut after = place()?;
        if self.is_forward {
            after = after.min(self.map.layer_count() - 1);
        }
        let places = Swap::new(before, after);
        Ok((before != after).then_some(Op::Order { layer, places }))
    }

    fn name(&mut self) -> Result<Option<Op>, ChangesError> {
        let before = self.bytes.text()?.into();
        let of = match self.bytes.byte()? {
            0 => Named::Layer,
            1 => Named::ValueLayer,
            2 => Named::Marker,
            _ => return Err(self.bytes.wrong("there is no such thing to be named").into()),
        };
        let after = self.bytes.text()?.into();
        Ok(Some(Op::Name { of, names: Swap::new(before, after) }))
    }

    fn settings(&mut self) -> Result<Option<Op>, ChangesError> {
        let layer: Arc<str> = self.bytes.text()?.into();
        let mut names = Vec::new();
        for _ in 0..self.bytes.count()? {
            let text = self.bytes.text()?;
            let name = LayerSettings::NAMES.into_iter().find(|name| *name == text);
            let name = name.ok_or_else(|| self.bytes.wrong("a layer has no such setting"))?;
            names.push(name);
        }
        let held = self.map.layer(&*layer).map(|layer| layer.settings().clone());
        let base = held.as_ref().map_or_else(|_| LayerSettings::default(), Clone::clone);
        let part = format!("layer `{layer}`");
        let settings = |reading: &mut Self| {
            reading.part_of(&part, |reader, node, map| {
                let stated = read_settings_alone(reader, node, map)?;
                let mut settings = base.clone();
                names.iter().for_each(|name| settings.take(name, &stated));
                reader.check(node, map.check_settings(&layer, &settings))?;
                Some(settings)
            })
        };
        let before = match self.is_forward {
            true => held.map_err(ApplyError::from)?,
            false => settings(self)?,
        };
        let after = settings(self)?;
        let settings = Swap::new(before, after);
        Ok((settings.before != settings.after).then_some(Op::Settings { layer, settings }))
    }

    /// Something that a map has once.
    fn one<T: PartialEq>(
        &mut self,
        held: T,
        take: impl Fn(&mut Self) -> Result<T, ChangesError>,
    ) -> Result<Option<Swap<T>>, ChangesError> {
        let before = if self.is_forward { held } else { take(self)? };
        let after = take(self)?;
        Ok((before != after).then_some(Swap::new(before, after)))
    }

    /// A part of the map that has a name.
    fn part<T: BytesPart>(&mut self) -> Result<Option<Swap<Placed<T>>>, ChangesError> {
        let name = self.bytes.text()?;
        if name.is_empty() {
            return Err(self.bytes.wrong("a part has no name").into());
        }
        let held = |map: &Quilt| T::held(map, name).map(|(at, held)| (at, held.clone()));
        let held = held(&self.map);
        let mut before = if self.is_forward { held.clone() } else { self.placed(name)? };
        let mut after = self.placed(name)?;
        if before.is_none() && after.is_none() {
            return match self.is_forward {
                true => Ok(None),
                false => Err(self.bytes.wrong("a part is neither before nor after").into()),
            };
        }
        let (count, place) = (T::count(&self.map), held.as_ref().map(|(at, _)| *at));
        let put = |part: &mut Placed<T>, at| {
            if let Some(part) = part {
                part.0 = at;
            }
        };
        // Where places have a meaning, it is that which they have in this map.
        if T::IS_BOUND {
            put(&mut before, place.unwrap_or(count));
            put(&mut after, place.unwrap_or(count));
        }
        if self.is_forward {
            let stated = after.as_ref().map_or(count, |(at, _)| *at).min(count);
            put(&mut after, place.unwrap_or(stated));
            if let (Some((_, before)), Some((_, after))) = (&before, &after)
                && before.same(after)
            {
                return Ok(None);
            }
        }
        Ok(Some(Swap::new(before, after)))
    }

    fn placed<T: BytesPart>(&mut self, name: &str) -> Result<Placed<T>, ChangesError> {
        let place = self.bytes.up_to(1 << 32, "there is no such place")?;
        let Some(at) = place.checked_sub(1) else { return Ok(None) };
        let part = T::take(name, self)?;
        if part.name() != name {
            return Err(self.bytes.wrong("a part has another name than it is said to have").into());
        }
        // With the handle that it has here.
        let held = T::held(&self.map, name).filter(|(_, held)| held.same(&part));
        Ok(Some((at as usize, held.map_or(part, |(_, held)| held.clone()))))
    }

    /// Says in which slots the map has the palettes of the cells.
    pub(super) fn find_palettes(&mut self) {
        let slot = |name: &str| self.map.palette_at(name).map(|(at, _)| at as u8 + 1);
        self.names.find_palettes(slot);
    }

    /// Reads a part of the map that is written as it stands in a document.
    pub(super) fn part_of<T>(
        &mut self,
        part: &str,
        read: impl for<'t> FnOnce(&mut Reader<'t, '_>, Node<'t>, &mut Quilt) -> Option<T>,
    ) -> Result<T, ChangesError> {
        let text = self.bytes.text()?;
        let map = &mut self.map;
        read_part(text, part, self.limits, |reader, node| read(reader, node, map))
            .map_err(|source| ChangesError::Part { part: part.to_owned(), source })
    }
}

fn check_loaded(absent: Option<ChunkPos>, what: &str, layer: &str) -> Result<(), ApplyError> {
    match absent {
        Some(chunk) => Err(ApplyError::Absent(format!("{chunk} of {what} `{layer}`"))),
        None => Ok(()),
    }
}
