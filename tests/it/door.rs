//! What a loader accepts is what an edit accepts: each part of a map, in a document and in code.

use serde_json::{Value, json};
use sturdy_quilt::document::Severity;
use sturdy_quilt::plane::ValueKind;
use sturdy_quilt::quilt::{Palette, ParallaxBand, Treatment};
use sturdy_quilt::{
    CellPos, CellRect, Color, EditError, Lattice, LayerSettings, Loader, Marker, MarkerPlace,
    Mover, Pen, Quilt, TileSet, TileSpec, WorldPoint,
};

use crate::document::files;

type Change = fn(&mut Pen<'_>) -> Result<(), EditError>;

/// The parts of a small map, to which a case adds one.
fn parts() -> Value {
    json!({
        "format": "sturdy-quilt/map",
        "version": 1,
        "lattice": { "cell": [16, 16] },
        "ground": ["open"],
        "movers": { "cart": { "open": 0.5 } },
        "tiles": [{
            "name": "yard", "palette": { "sand": "#d8c48c" },
            "tiles": [{ "name": "sand", "ground": "open" }]
        }],
        "palettes": { "dusk": { "tint": "#8060a0" } },
        "layers": [{ "name": "soil" }],
        "values": [{ "name": "wet", "type": "f32", "rows": [] }],
        "markers": [{ "name": "gate", "cell": [0, 0] }]
    })
}

/// The same small map, made in code.
fn made() -> Quilt {
    Quilt::build(Lattice::square(16.0, 16.0).unwrap(), |pen| {
        pen.add_ground_classes(["open"])?;
        pen.put_mover(Mover::new("cart").slow("open", 0.5))?;
        let sand = TileSpec::named("sand").with_ground("open");
        let set = TileSet::builder("yard").palette("sand", Color::rgb(216, 196, 140));
        pen.put_tiles(set.tile(sand).build()?)?;
        pen.put_palette(Palette::new("dusk").with_tint(Color::rgb(128, 96, 160)))?;
        pen.add_layer("soil", LayerSettings::default())?;
        pen.add_value_layer("wet", ValueKind::F32)?;
        pen.put_marker(Marker::cell("gate", CellPos::ORIGIN))
    })
    .unwrap()
}

/// Adds a part to the list or the object of a map that has its kind.
fn with(kind: &str, part: Value) -> Value {
    let mut map = parts();
    match (&mut map[kind], part) {
        (Value::Array(list), part) => list.push(part),
        (Value::Object(entries), Value::Object(part)) => entries.extend(part),
        (held, part) => *held = part,
    }
    map
}

fn deep(levels: usize) -> Value {
    (0..levels).fold(Value::Null, |inner, _| json!([inner]))
}

fn marker(place: MarkerPlace) -> Marker {
    Marker::new("m", place)
}

fn settings(pen: &mut Pen<'_>, change: fn(&mut LayerSettings)) -> Result<(), EditError> {
    let mut settings = LayerSettings::default();
    change(&mut settings);
    pen.add_layer("l", settings)
}

/// The kind of a part and the part as documents have it, the same in code, and whether it can be.
fn cases() -> Vec<(&'static str, Value, Change, bool)> {
    let area = |width: u32| json!({ "at": [0, 0], "size": [width, 1] });
    vec![
        ("layers", json!({ "name": "l" }), |pen| settings(pen, |_| {}), true),
        ("layers", json!({ "name": "" }), |pen| pen.add_layer("", LayerSettings::default()), false),
        (
            "layers",
            json!({ "name": "soil" }),
            |pen| pen.add_layer("soil", LayerSettings::default()),
            false,
        ),
        (
            "layers",
            json!({ "name": "l", "opacity": 0.5 }),
            |p| settings(p, |s| s.opacity = 0.5),
            true,
        ),
        (
            "layers",
            json!({ "name": "l", "opacity": 2 }),
            |p| settings(p, |s| s.opacity = 2.0),
            false,
        ),
        (
            "layers",
            json!({ "name": "l", "bands": [
                { "from_row": 3, "parallax": 1 }, { "from_row": 2, "parallax": 1 }
            ] }),
            |p| {
                settings(p, |s| {
                    s.bands = vec![ParallaxBand::new(3, 1.0), ParallaxBand::new(2, 1.0)]
                })
            },
            false,
        ),
        (
            "layers",
            json!({ "name": "l", "data": deep(100) }),
            |p| settings(p, |s| s.data = deep(100)),
            true,
        ),
        (
            "layers",
            json!({ "name": "l", "data": deep(101) }),
            |p| settings(p, |s| s.data = deep(101)),
            false,
        ),
        (
            "values",
            json!({ "name": "v", "type": "u32", "rows": [] }),
            |p| p.add_value_layer("v", ValueKind::U32),
            true,
        ),
        (
            "values",
            json!({ "name": "", "type": "u32", "rows": [] }),
            |p| p.add_value_layer("", ValueKind::U32),
            false,
        ),
        (
            "values",
            json!({ "name": "wet", "type": "u32", "rows": [] }),
            |p| p.add_value_layer("wet", ValueKind::U32),
            false,
        ),
        ("bounds", area(3), |p| p.set_bounds(Some(CellRect::new(CellPos::ORIGIN, 3, 1))), true),
        ("bounds", area(0), |p| p.set_bounds(Some(CellRect::EMPTY)), false),
        ("data", deep(100), |p| p.set_data(deep(100)), true),
        ("data", deep(101), |p| p.set_data(deep(101)), false),
        (
            "markers",
            json!({ "name": "m", "cell": [1, 2], "ground": "open" }),
            |p| p.put_marker(Marker::cell("m", CellPos::new(1, 2)).with_ground("open")),
            true,
        ),
        (
            "markers",
            json!({ "name": "", "cell": [1, 2] }),
            |p| p.put_marker(Marker::cell("", CellPos::new(1, 2))),
            false,
        ),
        (
            "markers",
            json!({ "name": "m", "area": { "at": [0, 0], "size": [0, 1] } }),
            |p| p.put_marker(marker(MarkerPlace::Area(CellRect::EMPTY))),
            false,
        ),
        (
            "markers",
            json!({ "name": "m", "path": [[0, 0]] }),
            |p| p.put_marker(marker(MarkerPlace::Path([WorldPoint::new(0.0, 0.0)].into()))),
            false,
        ),
        (
            "markers",
            json!({ "name": "m", "point": [1, 2], "ground": "open" }),
            |p| p.put_marker(Marker::point("m", WorldPoint::new(1.0, 2.0)).with_ground("open")),
            false,
        ),
        (
            "markers",
            json!({ "name": "m", "cell": [1, 2], "ground": "ice" }),
            |p| p.put_marker(Marker::cell("m", CellPos::new(1, 2)).with_ground("ice")),
            false,
        ),
        (
            "markers",
            json!({ "name": "m", "cell": [1, 2], "data": deep(101) }),
            |p| p.put_marker(Marker::cell("m", CellPos::new(1, 2)).with_data(deep(101))),
            false,
        ),
        ("ground", json!("stone"), |p| p.add_ground_classes(["stone"]), true),
        ("ground", json!("empty"), |p| p.add_ground_classes(["empty"]), false),
        (
            "movers",
            json!({ "bee": { "open": "block" } }),
            |p| p.put_mover(Mover::new("bee").block("open")),
            true,
        ),
        (
            "movers",
            json!({ "bee": { "ice": "block" } }),
            |p| p.put_mover(Mover::new("bee").with_treatment("ice", Treatment::Block)),
            false,
        ),
        (
            "tiles",
            json!({ "name": "court", "tiles": [{ "name": "slab", "ground": "ice" }] }),
            |p| {
                let slab = TileSpec::named("slab").with_ground("ice");
                p.put_tiles(TileSet::builder("court").tile(slab).build()?)
            },
            false,
        ),
        (
            "palettes",
            json!({ "ripe": { "colors": { "sand": "#ffffff" } } }),
            |p| p.put_palette(Palette::new("ripe").with_color("sand", Color::WHITE)),
            true,
        ),
        (
            "palettes",
            json!({ "ripe": { "colors": { "leaf": "#ffffff" } } }),
            |p| p.put_palette(Palette::new("ripe").with_color("leaf", Color::WHITE)),
            false,
        ),
        ("palettes", json!({ "": {} }), |p| p.put_palette(Palette::new("")), false),
    ]
}

#[test]
fn what_a_loader_accepts_is_what_an_edit_accepts() {
    for (kind, part, change, can_be) in cases() {
        let map = with(kind, part.clone());
        let loaded = Loader::new().load(&files(&map.to_string()), "map.quilt.json");
        let mut quilt = made();
        let edited = quilt.edit("add", change);
        let told =
            format!("{kind} {part}: {:?} {:?}", loaded.as_ref().err(), edited.as_ref().err());
        assert_eq!((loaded.is_ok(), edited.is_ok()), (can_be, can_be), "{told}");
        match loaded {
            Ok(loaded) => assert!(loaded.quilt.same_as(&quilt), "{told}"),
            Err(error) => {
                let errors = error.problems().iter().filter(|p| p.severity == Severity::Error);
                assert_eq!(errors.count(), 1, "one mistake is one error: {error}");
                assert!(quilt.same_as(&made()), "{told}");
            }
        }
    }
}

#[test]
fn the_two_small_maps_are_the_same() {
    let loaded = Loader::new().load(&files(&parts().to_string()), "map.quilt.json").unwrap();
    assert!(loaded.quilt.same_as(&made()));
}
