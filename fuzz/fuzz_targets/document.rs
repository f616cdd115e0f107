//! A sound map, changed so that it mostly stays sound, then edited, drawn, saved and loaded.
#![no_main]

use arbitrary::Arbitrary;
use libfuzzer_sys::fuzz_target;
use serde_json::{Number, Value, json};
use sturdy_quilt::plane::ValueKind;
use sturdy_quilt::quilt::{Palette, ParallaxBand, Treatment, Wrap};
use sturdy_quilt::{
    Cell, CellPos, CellRect, Changeset, Color, EditError, LayerSettings, Marker, Mover, Pen, Quilt,
    TileId, Turn, WorldPoint, WorldVec,
};
use sturdy_quilt_fuzz::{MAP, check_error, check_quilt, loader, with, within_cost};

/// A map in which most of what a document can say is said.
const SOUND: &str = include_str!("../src/sound.quilt.json");

#[derive(Arbitrary, Debug)]
struct Input {
    changes: Vec<Change>,
    edits: Vec<Vec<Edit>>,
}

/// A change to a document; places are counted through the values in it.
#[derive(Arbitrary, Debug)]
enum Change {
    Number(u16, i16, bool),
    Flag(u16),
    /// The value of one place at another that holds the same kind.
    Copy(u16, u16),
    Remove(u16),
    /// An item of a list once more.
    Repeat(u16),
    Swap(u16, u16),
}

/// An edit of a map; names are counted through those that it has.
#[derive(Arbitrary, Debug)]
enum Edit {
    Put(u8, Place, Content),
    Fill(u8, Place, (u8, u8), Content),
    Each(u8, Place, (u8, u8), [Content; 3]),
    Vary(u8, Place, (u8, u8)),
    AddLayer(u8),
    MoveLayer(u8, u8),
    RemoveLayer(u8),
    Settings(u8, Settings),
    Bounds(Option<(Place, (u8, u8))>),
    Data(u8),
    Marker(u8, Place, (u8, u8), u8),
    RemoveMarker(u8),
    Classes(u8),
    Mover(u8, u8, f64),
    Palette(u8, [u8; 4]),
    AddValues(u8, u8),
    RemoveValues(u8),
    Value(u8, Place, i16),
    FillValues(u8, Place, (u8, u8), i16),
}

#[derive(Arbitrary, Clone, Copy, Debug)]
struct Place(i8, i8);

#[derive(Arbitrary, Clone, Copy, Debug)]
struct Content {
    tile: u8,
    turn: u8,
    raise: bool,
    slot: u8,
}

#[derive(Arbitrary, Debug)]
struct Settings {
    priority: i8,
    opacity: f32,
    tint: [u8; 4],
    numbers: [f64; 4],
    palette: u8,
    wrap: (u8, Place, (u8, u8)),
    backdrop: Content,
    flags: [bool; 3],
}

impl Place {
    fn cell(self) -> CellPos {
        CellPos::new(self.0.into(), self.1.into())
    }

    fn rect(self, (width, height): (u8, u8)) -> CellRect {
        CellRect::new(self.cell(), u32::from(width % 16), u32::from(height % 16))
    }
}

impl Content {
    fn cell(self, quilt: &Quilt) -> Cell {
        let tiles: Vec<TileId> = quilt.tiles().ids().collect();
        let place = usize::from(self.tile) % (tiles.len() + 1);
        let Some(tile) = tiles.get(place) else { return Cell::EMPTY };
        let cell = Cell::of(*tile).with_turn(Turn::SQUARE[usize::from(self.turn) % 8]);
        let cell = cell.with_raised(self.raise);
        cell.with_slot(self.slot % 4).unwrap_or(cell)
    }
}

/// Every value of a document, before those within it.
fn walk<'v>(value: &'v mut Value, found: &mut dyn FnMut(&mut Value)) {
    found(value);
    match value {
        Value::Array(items) => items.iter_mut().for_each(|item| walk(item, found)),
        Value::Object(entries) => entries.values_mut().for_each(|entry| walk(entry, found)),
        _ => {}
    }
}

/// Changes one of the values that are of some kind, if there are any.
fn change_one(
    document: &mut Value,
    place: u16,
    is_wanted: impl Fn(&Value) -> bool,
    mut change: impl FnMut(&mut Value),
) {
    let mut count = 0;
    walk(document, &mut |value| count += usize::from(is_wanted(value)));
    let Some(wanted) = usize::from(place).checked_rem(count) else { return };
    let mut at = 0;
    walk(document, &mut |value| {
        if is_wanted(value) {
            if at == wanted {
                change(value);
            }
            at += 1;
        }
    });
}

fn is_leaf(value: &Value) -> bool {
    !value.is_array() && !value.is_object()
}

fn apply(document: &mut Value, change: &Change) {
    match *change {
        Change::Number(place, number, is_half) => {
            change_one(document, place, Value::is_number, |value| {
                *value = match is_half {
                    true => Number::from_f64(f64::from(number) / 2.0).into(),
                    false => number.into(),
                };
            });
        }
        Change::Flag(place) => change_one(document, place, Value::is_boolean, |value| {
            *value = Value::Bool(value != &Value::Bool(true));
        }),
        Change::Copy(from, to) => {
            let mut copied = Value::Null;
            change_one(document, from, |_| true, |value| copied = value.clone());
            let kind = std::mem::discriminant(&copied);
            let is_alike = |value: &Value| std::mem::discriminant(value) == kind;
            change_one(document, to, is_alike, |value| *value = copied.clone());
        }
        Change::Remove(place) => change_one(
            document,
            place,
            |value| !is_leaf(value),
            |value| match value {
                Value::Array(items) if !items.is_empty() => {
                    items.remove(usize::from(place) % items.len());
                }
                Value::Object(entries) => {
                    let key = entries.keys().nth(usize::from(place) % entries.len().max(1));
                    let key = key.cloned().unwrap_or_default();
                    entries.remove(&key);
                }
                _ => {}
            },
        ),
        Change::Repeat(place) => change_one(document, place, Value::is_array, |value| {
            if let Value::Array(items) = value
                && let Some(item) = items.get(usize::from(place) % items.len().max(1)).cloned()
            {
                items.push(item);
            }
        }),
        Change::Swap(place, other) => change_one(document, place, Value::is_array, |value| {
            if let Value::Array(items) = value
                && !items.is_empty()
            {
                let count = items.len();
                items.swap(usize::from(place) % count, usize::from(other) % count);
            }
        }),
    }
}

/// The name of one of some, or of none of them.
fn name<'n>(names: impl Iterator<Item = &'n str>, place: u8) -> String {
    let names: Vec<&str> = names.chain(["other"]).collect();
    names[usize::from(place) % names.len()].to_owned()
}

fn make(pen: &mut Pen<'_>, edit: &Edit) -> Result<(), EditError> {
    let layer = |pen: &Pen<'_>, place| name(pen.quilt().layers().iter().map(|l| l.name()), place);
    let values =
        |pen: &Pen<'_>, place| name(pen.quilt().value_layers().iter().map(|l| l.name()), place);
    match edit {
        Edit::Put(at, place, content) => {
            let (layer, cell) = (layer(pen, *at), content.cell(pen.quilt()));
            pen.put(&*layer, place.cell(), cell).map(drop)
        }
        Edit::Fill(at, place, size, content) => {
            let (layer, cell) = (layer(pen, *at), content.cell(pen.quilt()));
            pen.fill(&*layer, place.rect(*size), cell)
        }
        Edit::Each(at, place, size, contents) => {
            let cells = contents.map(|content| content.cell(pen.quilt()));
            let cell = |at: CellPos| cells[(at.x() ^ at.y()).rem_euclid(3) as usize];
            pen.put_each(&*layer(pen, *at), place.rect(*size), cell)
        }
        Edit::Vary(at, place, size) => pen.vary(&*layer(pen, *at), place.rect(*size), 0),
        Edit::AddLayer(place) => {
            pen.add_layer(["new", "newer"][usize::from(place % 2)], LayerSettings::default())
        }
        Edit::MoveLayer(at, place) => pen.move_layer(&*layer(pen, *at), (*place).into()),
        Edit::RemoveLayer(at) => pen.remove_layer(&*layer(pen, *at)),
        Edit::Settings(at, settings) => {
            let made = made_settings(pen.quilt(), settings);
            pen.set_layer(&*layer(pen, *at), |_| made)
        }
        Edit::Bounds(bounds) => pen.set_bounds(bounds.map(|(at, size)| at.rect(size))),
        Edit::Data(number) => pen.set_data(json!({ "number": number })),
        Edit::Marker(at, place, size, kind) => {
            let name = name(pen.quilt().markers().map(|placed| placed.marker().name()), *at);
            let around = pen.quilt().lattice().rect_bounds(place.rect(*size));
            let corner = WorldPoint::new(around.max().x, around.min().y);
            let marker = match kind % 4 {
                0 => Marker::cell(name, place.cell()),
                1 => Marker::area(name, place.rect(*size)),
                2 => Marker::path(name, [around.min(), around.max()]),
                _ => Marker::polygon(name, [around.min(), corner, around.max()]),
            };
            pen.put_marker(if kind & 8 == 0 { marker } else { marker.with_ground("mud") })
        }
        Edit::RemoveMarker(at) => {
            let name = name(pen.quilt().markers().map(|placed| placed.marker().name()), *at);
            pen.remove_marker(&name)
        }
        Edit::Classes(at) => pen.add_ground_classes([["mud", "ice", "sand"][usize::from(at % 3)]]),
        Edit::Mover(at, class, number) => {
            let name = name(pen.quilt().ground_rules().movers().iter().map(Mover::name), *at);
            let treatment = match class / 64 {
                0 => Treatment::Pass,
                1 => Treatment::Block,
                2 => Treatment::Slow(*number),
                _ => Treatment::Value(*number),
            };
            let class = ["stone", "mud", "ice"][usize::from(class % 3)];
            pen.put_mover(Mover::new(name).with_treatment(class, treatment))
        }
        Edit::Palette(at, [r, g, b, a]) => {
            let name = name(pen.quilt().palettes().iter().map(Palette::name), *at);
            pen.put_palette(Palette::new(name).with_tint(Color::rgba(*r, *g, *b, *a)))
        }
        Edit::AddValues(at, kind) => {
            let kinds = [ValueKind::F32, ValueKind::I32, ValueKind::U32];
            let name = ["wet", "dry"][usize::from(at % 2)];
            pen.add_value_layer(name, kinds[usize::from(kind % 3)])
        }
        Edit::RemoveValues(at) => pen.remove_value_layer(&values(pen, *at)),
        Edit::Value(at, place, value) => {
            let (layer, cell) = (values(pen, *at), place.cell());
            match kind_of(pen.quilt(), &layer) {
                Some(ValueKind::F32) => pen.put_value(&layer, cell, f32::from(*value)).map(drop),
                Some(ValueKind::U32) => {
                    pen.put_value(&layer, cell, u32::from(value.unsigned_abs())).map(drop)
                }
                _ => pen.put_value(&layer, cell, i32::from(*value)).map(drop),
            }
        }
        Edit::FillValues(at, place, size, value) => {
            let (layer, rect) = (values(pen, *at), place.rect(*size));
            match kind_of(pen.quilt(), &layer) {
                Some(ValueKind::F32) => pen.fill_values(&layer, rect, f32::from(*value)),
                Some(ValueKind::U32) => {
                    pen.fill_values(&layer, rect, u32::from(value.unsigned_abs()))
                }
                _ => pen.fill_values(&layer, rect, i32::from(*value)),
            }
        }
    }
}

fn kind_of(quilt: &Quilt, layer: &str) -> Option<ValueKind> {
    quilt.value_layers().iter().find(|held| held.name() == layer).map(|held| held.kind())
}

/// Settings as a game makes them by its own hand, which edits may refuse.
fn made_settings(quilt: &Quilt, from: &Settings) -> LayerSettings {
    let [r, g, b, a] = from.tint;
    let [x, y, speed, parallax] = from.numbers;
    let (wrap, place, size) = from.wrap;
    let palette = name(quilt.palettes().iter().map(Palette::name), from.palette);
    let mut made = LayerSettings::default().with_priority(from.priority.into());
    made.opacity = from.opacity;
    made.tint = Color::rgba(r, g, b, a);
    made.offset = WorldVec { x, y };
    made.speed = WorldVec { x: speed, y };
    made.parallax.x = parallax;
    made.palette = quilt.palette(&palette).ok();
    made.bands = if from.flags[0] {
        vec![ParallaxBand::new(from.priority.into(), parallax)]
    } else {
        Vec::new()
    };
    made.wrap = [Wrap::No, Wrap::X, Wrap::Y, Wrap::Both][usize::from(wrap % 4)];
    made.wrap_area = from.flags[1].then(|| place.rect(size));
    made.backdrop = from.flags[2].then(|| from.backdrop.cell(quilt));
    made
}

/// Makes an edit; what it has done can be undone and done again.
fn edit(quilt: &mut Quilt, edits: &[Edit]) {
    let before = quilt.clone();
    let made = quilt.edit("edit", |pen| edits.iter().take(8).try_for_each(|edit| make(pen, edit)));
    match made {
        Err(error) => {
            assert!(!error.to_string().is_empty());
            assert!(quilt.same_as(&before), "an edit that fails changes nothing: {error}");
        }
        Ok(made) => {
            let (changes, after): (Changeset, Quilt) = (made.changes, quilt.clone());
            quilt.apply(&changes.inverse()).expect("an edit can be undone");
            assert!(quilt.same_as(&before), "undone");
            quilt.apply(&changes).expect("an edit can be done again");
            assert!(quilt.same_as(&after), "done again");
        }
    }
}

fuzz_target!(|input: Input| {
    let mut document: Value = serde_json::from_str(SOUND).expect("it is JSON");
    input.changes.iter().take(4).for_each(|change| apply(&mut document, change));
    let source = with(MAP, document.to_string().as_bytes());
    let mut quilt = match within_cost(|| loader().load(&source, MAP)) {
        Ok(loaded) => loaded.quilt,
        Err(error) => {
            assert!(!input.changes.is_empty(), "{error}");
            return check_error(&error);
        }
    };
    check_quilt(&quilt, &source);
    let before = quilt.clone();
    input.edits.iter().take(8).for_each(|edits| edit(&mut quilt, edits));
    check_quilt(&quilt, &source);
    // What is put back gives the same map, which is checked there, or is refused.
    match quilt.document().back_into(&before, &source, MAP, &[]) {
        Ok(back) => assert!(back.inlined.len() <= quilt.layers().len()),
        Err(error) => assert!(!error.to_string().is_empty()),
    }
});
