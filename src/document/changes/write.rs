//! Writing changes.

use serde_json::{Map, Value};

use super::parts::{BytesPart, kind_byte};
use super::planes::put_plane;
use super::{FORWARD, MAGIC, kind};
use crate::codec::{NamesOut, Out, framed};
use crate::document::write::{area_value, projection_value, settings_entries};
use crate::edit::{Changeset, Op, Placed, Swap};
use crate::quilt::{LayerSettings, Named};
use crate::tile::{Cell, CellNotation};

impl Changeset {
    /// Returns the changes as bytes, from which [`Changeset::from_bytes`] makes them again: for maps of other
    /// programs, to be undone there, too. docs/format.md tells the format to the byte.
    ///
    /// ```
    /// use sturdy_quilt::document::Limits;
    /// use sturdy_quilt::{CellPos, CellSet, Changeset};
    /// # let mut quilt = sturdy_quilt::doc_quilt();
    ///
    /// let mut elsewhere = sturdy_quilt::doc_quilt();
    /// let wall = CellSet::line(CellPos::new(0, 0), CellPos::new(400, 300))?;
    /// let edit = quilt.edit("a long wall", |pen| pen.lay("soil", &wall, "garden/wall"))?;
    /// let bytes = edit.changes.to_bytes();
    /// assert!(bytes.len() < 2 * wall.len() as usize);
    ///
    /// let received = Changeset::from_bytes(&bytes, &elsewhere, &Limits::default())?;
    /// elsewhere.apply(&received)?;
    /// assert!(elsewhere.same_as(&quilt));
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    pub fn to_bytes(&self) -> Vec<u8> {
        self.written(false)
    }

    /// Returns the changes as bytes that say only what is after them: smaller, for those who follow a map and
    /// do as they are told. They fit any map that has what they change, whatever it holds.
    ///
    /// ```
    /// use sturdy_quilt::document::Limits;
    /// use sturdy_quilt::{Cell, CellPos, Changeset};
    /// # let mut quilt = sturdy_quilt::doc_quilt();
    ///
    /// let mut client = sturdy_quilt::doc_quilt();
    /// client.edit("a wrong guess", |pen| pen.put("soil", CellPos::new(0, 0), "garden/wall"))?;
    ///
    /// let edit = quilt.edit("dig", |pen| pen.erase("soil", CellPos::new(0, 0)))?;
    /// let sent = edit.changes.to_forward_bytes();
    /// assert!(sent.len() < edit.changes.to_bytes().len());
    /// let received = Changeset::from_bytes(&sent, &client, &Limits::default())?;
    /// client.apply(&received)?;
    /// assert!(client.same_as(&quilt));
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    pub fn to_forward_bytes(&self) -> Vec<u8> {
        self.written(true)
    }

    fn written(&self, is_forward: bool) -> Vec<u8> {
        let (out, names) = (Out::default(), NamesOut::default());
        let mut writing = Writing { changes: self, is_forward, out, names };
        writing.out.number(self.ops().len() as u64);
        self.ops().iter().for_each(|op| writing.op(op));
        // The names that the operations use come before them.
        let mut body = Out::default();
        body.text(self.label());
        let palette = |slot: u8| Some(self.palettes().get(usize::from(slot) - 1)?.name());
        writing.names.put(&mut body, |number| self.tile_names().name_of(number), palette);
        body.bytes(&writing.out.0);
        framed(MAGIC.0, if is_forward { FORWARD } else { 0 }, &body.0)
    }
}

/// Changes that are being written.
pub(super) struct Writing<'a> {
    changes: &'a Changeset,
    is_forward: bool,
    pub(super) out: Out,
    pub(super) names: NamesOut,
}

impl Writing<'_> {
    fn op(&mut self, op: &Op) {
        match op {
            Op::Cells { layer, changes } => {
                self.named(kind::CELLS, layer);
                let Writing { out, names, is_forward, .. } = self;
                put_plane(out, changes, *is_forward, &mut |word| names.word(word));
            }
            Op::Values { layer, kind, changes } => {
                self.named(kind::VALUES, layer);
                self.out.byte(kind_byte(*kind));
                put_plane(&mut self.out, changes, self.is_forward, &mut |word| word);
            }
            Op::Layer(swap) => self.part(kind::LAYER, swap),
            Op::ValueLayer(swap) => self.part(kind::VALUE_LAYER, swap),
            Op::Order { layer, places } => {
                self.named(kind::ORDER, layer);
                self.both(places, |writing, place| writing.out.number(*place as u64));
            }
            Op::Name { of, names } => {
                self.named(kind::NAME, &names.before);
                self.out.byte(match of {
                    Named::Layer => 0,
                    Named::ValueLayer => 1,
                    Named::Marker => 2,
                });
                self.out.text(&names.after);
            }
            Op::Settings { layer, settings } => {
                self.named(kind::SETTINGS, layer);
                let names = settings.before.differing(&settings.after);
                self.out.number(names.len() as u64);
                names.iter().for_each(|name| self.out.text(name));
                self.both(settings, |writing, settings| {
                    let mut entries = writing.settings(settings);
                    entries.retain(|key, _| names.contains(&&**key));
                    writing.json(&Value::Object(entries));
                });
            }
            Op::Bounds(swap) => {
                self.out.byte(kind::BOUNDS);
                self.both(swap, |writing, bounds| {
                    writing.json(&bounds.map_or(Value::Null, area_value));
                });
            }
            Op::Projection(swap) => {
                self.out.byte(kind::PROJECTION);
                self.both(swap, |writing, own| writing.json(&projection_value(own)));
            }
            Op::Data(swap) => {
                self.out.byte(kind::DATA);
                self.both(swap, |writing, data| writing.json(data));
            }
            Op::Marker(swap) => self.part(kind::MARKER, swap),
            Op::Tiles(swap) => self.part(kind::TILES, swap),
            Op::Class(swap) => self.part(kind::CLASS, swap),
            Op::Mover(swap) => self.part(kind::MOVER, swap),
            Op::Palette(swap) => self.part(kind::PALETTE, swap),
        }
    }

    fn named(&mut self, kind: u8, name: &str) {
        self.out.byte(kind);
        self.out.text(name);
    }

    /// What was before, unless only what is after is wanted, and what is after.
    fn both<T>(&mut self, swap: &Swap<T>, put: impl Fn(&mut Self, &T)) {
        if !self.is_forward {
            put(self, &swap.before);
        }
        put(self, &swap.after);
    }

    fn part<T: BytesPart>(&mut self, kind: u8, swap: &Swap<Placed<T>>) {
        let subject = swap.before.as_ref().or(swap.after.as_ref());
        self.named(kind, subject.map_or("", |(_, part)| part.name()));
        self.both(swap, |writing, placed| match placed {
            None => writing.out.number(0),
            Some((at, part)) => {
                writing.out.number(*at as u64 + 1);
                part.put(writing);
            }
        });
    }

    pub(super) fn json(&mut self, value: &Value) {
        self.out.text(&value.to_string());
    }

    /// Settings of a layer as they stand in a document.
    pub(super) fn settings(&self, settings: &LayerSettings) -> Map<String, Value> {
        let notation = |cell: Cell| {
            let name = cell.number().and_then(|at| self.changes.tile_names().name_of(at));
            let (turn, raise, palette) = (cell.turn(), cell.is_raised(), cell.palette());
            let notation = name.map_or(CellNotation::Empty, |name| CellNotation::Tile {
                name,
                turn,
                raise,
                palette,
            });
            notation.to_string()
        };
        let entries = settings_entries(settings, &notation, self.changes.palettes());
        entries.into_iter().map(|(key, value)| (key.to_owned(), value)).collect()
    }
}
