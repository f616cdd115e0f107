//! What an edit accepts can be undone, saved and loaded again; what it refuses leaves no trace.

use serde_json::{Value, json};
use sturdy_quilt::Mover;
use sturdy_quilt::document::{CellEncoding, Limits, SaveError};
use sturdy_quilt::quilt::{Palette, Parallax, ParallaxBand, Wrap};
use sturdy_quilt::view::{Facing, Projection};

use super::*;

/// A number as fields that are public can hold it.
fn any_number() -> impl Strategy<Value = f64> {
    prop_oneof![
        6 => -100.0..100.0,
        1 => prop::sample::select(vec![
            f64::NAN, f64::INFINITY, f64::NEG_INFINITY, 1e300, -0.0, f64::MIN_POSITIVE, 0.1 + 0.2,
        ]),
    ]
}

fn any_row() -> impl Strategy<Value = i32> {
    prop_oneof![9 => -20..20, 1 => prop::sample::select(vec![i32::MIN, i32::MAX])]
}

fn nested(depth: usize) -> Value {
    (0..depth).fold(Value::Null, |inner, level| match level % 2 {
        0 => json!([inner]),
        _ => json!({ "in": inner }),
    })
}

fn any_data() -> impl Strategy<Value = Value> {
    prop_oneof![5 => Just(Value::Null), 3 => (0..6_usize).prop_map(nested), 1 => (99..102_usize).prop_map(nested)]
}

prop_compose! {
    fn any_settings()(
        (priority, opacity, backdrop) in (any::<i32>(), any_number(), prop::option::of(any::<u32>())),
        (x, y, parallax, speed) in (any_number(), any_number(), any_number(), any_number()),
        bands in prop::collection::vec((any_row(), any_number(), any_number()), 0..3),
        area in prop::option::of((-5..5, -5..5, 0..4_u32, 0..4_u32)),
        wrap in prop::sample::select(vec![Wrap::No, Wrap::X, Wrap::Both]),
        (visible, data) in (any::<bool>(), any_data()),
    ) -> LayerSettings {
        let mut settings = LayerSettings::default().with_priority(priority).with_visible(visible).with_wrap(wrap);
        settings.opacity = opacity as f32;
        settings.backdrop = backdrop.map(|bits| Cell::from_bits(bits % 5).unwrap());
        settings.offset = WorldVec::new(x, y);
        settings.parallax = Parallax { x: parallax, y: 1.0 };
        settings.parallax_from = WorldPoint::new(y, x);
        settings.speed = WorldVec::new(speed, 0.0);
        settings.elevation = speed;
        settings.bands = bands.into_iter().map(|(from_row, parallax, speed)| ParallaxBand { from_row, parallax, speed }).collect();
        settings.wrap_area = area.map(|(x, y, w, h)| CellRect::new(CellPos::new(x, y), w, h));
        settings.data = data;
        settings
    }
}

/// Changes of whatever a map holds, with values that may be none.
fn any_edit() -> impl Strategy<Value = AnyEdit> {
    let area = (-5..5, -5..5, 0..4_u32, 0..4_u32);
    let area = area.prop_map(|(x, y, w, h)| CellRect::new(CellPos::new(x, y), w, h));
    let points = prop::collection::vec((any_number(), any_number()), 0..4);
    let points = points.prop_map(|p| p.into_iter().map(|(x, y)| WorldPoint::new(x, y)).collect());
    prop_oneof![
        4 => (prop::sample::select(vec!["a", "soil", ""]), any_settings()).prop_map(|(n, s)| AnyEdit::Layer(n, Box::new(s))),
        4 => any_settings().prop_map(|s| AnyEdit::Settings(Box::new(s))),
        1 => prop::option::of(area.clone()).prop_map(AnyEdit::Bounds),
        2 => prop::option::of((1..66_u32, any_number(), 0..4))
            .prop_map(AnyEdit::Projection),
        1 => any_data().prop_map(AnyEdit::Data),
        2 => (area, any_data()).prop_map(|(area, data)| AnyEdit::Area(area, data)),
        2 => (any::<bool>(), points).prop_map(|(is_path, points)| AnyEdit::Points(is_path, points)),
        1 => any_data().prop_map(AnyEdit::TileData),
        1 => (any_number(), any_number()).prop_map(|(slow, value)| AnyEdit::Mover(slow, value)),
        1 => any::<bool>().prop_map(AnyEdit::Colors),
    ]
}

#[derive(Clone, Debug)]
enum AnyEdit {
    Layer(&'static str, Box<LayerSettings>),
    Settings(Box<LayerSettings>),
    Bounds(Option<CellRect>),
    Projection(Option<(u32, f64, i32)>),
    Data(Value),
    Area(CellRect, Value),
    Points(bool, Vec<WorldPoint>),
    TileData(Value),
    Mover(f64, f64),
    /// A set with a colour and a palette for it, or the set without the colour.
    Colors(bool),
}

fn make_any(pen: &mut Pen<'_>, edit: &AnyEdit) -> Result<(), EditError> {
    match edit.clone() {
        AnyEdit::Layer(name, settings) => pen.add_layer(name, *settings),
        AnyEdit::Settings(settings) => pen.set_layer("soil", |_| *settings),
        AnyEdit::Bounds(bounds) => pen.set_bounds(bounds),
        AnyEdit::Projection(stated) => {
            let projection = match stated {
                Some((width, lift, quarters)) => {
                    let lattice = *pen.quilt().lattice();
                    let diamond = Projection::diamond(&lattice, width, 32);
                    let Ok(diamond) = diamond.and_then(|own| own.with_lift(lift)) else {
                        return Ok(());
                    };
                    diamond.with_facing(Facing::new(quarters))
                }
                None => Projection::FLAT,
            };
            pen.set_projection(projection)
        }
        AnyEdit::Data(data) => pen.set_data(data),
        AnyEdit::Area(area, data) => pen.put_marker(Marker::area("area", area).with_data(data)),
        AnyEdit::Points(true, points) => pen.put_marker(Marker::path("path", points)),
        AnyEdit::Points(false, points) => pen.put_marker(Marker::polygon("bed", points)),
        AnyEdit::TileData(data) => pen.put_tiles(
            TileSet::builder("more").tile(TileSpec::named("one").with_data(data)).build()?,
        ),
        AnyEdit::Mover(slow, value) => {
            pen.put_mover(Mover::new("m").slow("stone", slow).with_value("open", value))
        }
        AnyEdit::Colors(with) => {
            let set = TileSet::builder("roofs").tile(TileSpec::named("roof"));
            let color = sturdy_quilt::Color::rgb(200, 40, 30);
            let set = if with { set.palette("roof", color) } else { set };
            pen.put_tiles(set.build()?)?;
            if with {
                pen.put_palette(Palette::new("dusk").with_color("roof", color))
            } else {
                Ok(())
            }
        }
    }
}

fn loaded(text: &str) -> Quilt {
    let mut files = sturdy_quilt::MemorySource::default();
    files.add("m.quilt.json", text);
    Quilt::load(&files, "m.quilt.json").unwrap_or_else(|error| panic!("{error}\n{text}"))
}

proptest! {
    #[test]
    fn what_an_edit_accepts_undoes_saves_and_loads(edits in prop::collection::vec(any_edit(), 1..12)) {
        let mut quilt = doc_quilt();
        let (mut states, mut made) = (vec![quilt.clone()], Vec::new());
        for edit in &edits {
            match quilt.edit("any", |pen| make_any(pen, edit)) {
                Ok(edit) => {
                    let (before, changes) = (states.last().unwrap(), edit.changes);
                    prop_assert_eq!(changes.is_empty(), quilt.same_as(before));
                    made.push(changes);
                    states.push(quilt.clone());
                }
                Err(_) => prop_assert!(quilt.same_as(states.last().unwrap())),
            }
            prop_assert!(quilt.same_as(&quilt.clone()));
            let saved = quilt.to_json().unwrap();
            let again = loaded(&saved);
            prop_assert!(again.same_as(&quilt), "{saved}");
            prop_assert_eq!(again.to_json().unwrap(), saved);
        }
        for (changes, state) in made.iter().zip(&states).rev() {
            quilt.apply(&changes.inverse()).unwrap();
            prop_assert!(quilt.same_as(state));
        }
    }
}

#[test]
fn refusals_say_what_is_wrong() {
    let mut quilt = doc_quilt();
    let mut refused = |change: &dyn Fn(&mut LayerSettings)| {
        let changed = quilt.edit("settings", |pen| {
            pen.set_layer("soil", |mut soil| {
                change(&mut soil);
                soil
            })
        });
        changed.unwrap_err().to_string()
    };
    let cannot = "layer `soil` cannot have these settings: ";
    for (change, words) in [
        (
            &(|s: &mut LayerSettings| s.opacity = f32::NAN) as &dyn Fn(&mut LayerSettings),
            "its opacity must lie between 0 and 1, not NaN",
        ),
        (&|s| s.speed.x = f64::INFINITY, "the numbers of its speed must be finite"),
        (
            &|s| s.bands = vec![ParallaxBand::new(3, 1.0), ParallaxBand::new(3, 0.5)],
            "its bands must be in the order of their rows, each with a row of its own",
        ),
        (
            &|s| s.bands = vec![ParallaxBand::new(i32::MAX, 1.0)],
            "a band begins with row 2147483647, beyond the limits of cells",
        ),
        (&|s| s.wrap_area = Some(CellRect::EMPTY), "its wrap area must not be empty"),
        (&|s| s.backdrop = Some(Cell::EMPTY), "its backdrop must not be the empty cell"),
    ] {
        assert_eq!(refused(change), format!("{cannot}{words}"));
    }
    assert_eq!(
        refused(&|s| s.data = nested(101)),
        "the data of layer `soil` is nested too deep: 100 levels are allowed"
    );
    let beyond = Cell::from_bits(999).unwrap();
    assert_eq!(refused(&|s| s.backdrop = Some(beyond)), "this map has no tile number 998");
    let empty = quilt.edit("bounds", |pen| pen.set_bounds(Some(CellRect::EMPTY)));
    assert!(
        empty.unwrap_err().to_string().starts_with("the bounds of a map must have at least one")
    );
}

#[test]
fn edits_that_change_nothing_leave_no_trace() {
    let mut quilt = doc_quilt();
    let stone = Mover::new("walker").block("stone");
    quilt.edit("palettes", |pen| pen.put_palette(Palette::new("dusk"))).unwrap();
    let stamps = quilt.stamps();
    let ground = sturdy_quilt::GroundMap::of(&quilt);
    let edit = quilt.edit("nothing", |pen| {
        pen.put_mover(stone)?;
        pen.add_ground_classes(["open", "stone"])?;
        pen.put_marker(Marker::cell("gate", CellPos::new(3, 1)))?;
        pen.put_palette(Palette::new("dusk"))?;
        let same = (**pen.quilt().tiles().set("garden").unwrap()).clone();
        pen.put_tiles(same)?;
        let held = pen.get("soil", CellPos::ORIGIN)?;
        pen.put("soil", CellPos::ORIGIN, held)?;
        pen.fill("soil", CellRect::EMPTY, Cell::EMPTY)?;
        pen.set_layer("soil", |soil| soil)?;
        pen.set_bounds(None)
    });
    assert!(edit.unwrap().changes.is_empty());
    assert_eq!(quilt.stamps(), stamps);
    assert_eq!(ground.clone().refresh(&quilt), 0);
}

/// A map with a fill of this size in its layer.
fn filled(side: u32) -> Quilt {
    let mut quilt = doc_quilt();
    let rect = CellRect::new(CellPos::ORIGIN, side, side);
    quilt.edit("fill", |pen| pen.fill("soil", rect, "garden/grass")).unwrap();
    quilt
}

#[test]
fn what_could_not_be_loaded_is_not_saved() {
    let quilt = filled(65536);
    let error = quilt.to_json().unwrap_err();
    assert_eq!(
        error.to_string(),
        "layer `soil` brings the map to 4294967296 cells, more than the 268435456 that a load allows: fill less of it, or make several maps of it"
    );
    // Each form with the largest map that its limits allow, and with one that is a little larger.
    let quilt = filled(64);
    let fits = |form: CellEncoding, limits: Limits| {
        let written =
            quilt.document().with_encoding(form).with_limits(limits).to_files("m.quilt.json");
        match written {
            Ok(files) => {
                let mut source = sturdy_quilt::MemorySource::default();
                files.into_iter().for_each(|(name, bytes)| source.add(name, bytes));
                let loader = sturdy_quilt::Loader::new().with_limits(limits);
                let loaded = loader.load(&source, "m.quilt.json").unwrap_or_else(|e| panic!("{e}"));
                assert!(loaded.quilt.same_as(&quilt));
                true
            }
            Err(
                SaveError::TooManyCells { .. }
                | SaveError::TooMany { .. }
                | SaveError::TooLargeFile { .. },
            ) => false,
            Err(other) => panic!("{other}"),
        }
    };
    let mut forms =
        vec![CellEncoding::Rows, CellEncoding::Numbers, CellEncoding::Table, CellEncoding::Packed];
    if cfg!(feature = "png") {
        forms.push(CellEncoding::Picture);
    }
    for form in forms {
        assert!(fits(form, Limits { cells: 64 * 64, ..Limits::default() }), "{form:?}");
        assert!(!fits(form, Limits { cells: 64 * 64 - 1, ..Limits::default() }), "{form:?}");
        let text = quilt.document().with_encoding(form).to_files("m.quilt.json").unwrap();
        let bytes = text.iter().map(|(_, bytes)| bytes.len() as u64).max().unwrap();
        assert!(fits(form, Limits { file_bytes: bytes, ..Limits::default() }), "{form:?}");
        assert!(!fits(form, Limits { file_bytes: bytes - 1, ..Limits::default() }), "{form:?}");
        let layers = Limits { layers: 0, ..Limits::default() };
        assert!(!fits(form, layers) && !fits(form, Limits { sets: 0, ..Limits::default() }));
    }
    let mut noted = filled(64);
    let data = serde_json::json!({ "a": [1.5, true, vec![3; 500], "b"] });
    noted.edit("notes", |pen| pen.set_data(data)).unwrap();
    let saves = |json_values| {
        let limits = Limits { json_values, ..Limits::default() };
        let Ok(files) = noted.document().with_limits(limits).to_files("m.quilt.json") else {
            return false;
        };
        let mut source = sturdy_quilt::MemorySource::default();
        files.into_iter().for_each(|(name, bytes)| source.add(name, bytes));
        let loaded = sturdy_quilt::Loader::new().with_limits(limits).load(&source, "m.quilt.json");
        assert!(loaded.unwrap().quilt.same_as(&noted));
        true
    };
    // An object, a list, and its three values besides the inner list with 500 more.
    assert!(saves(506) && !saves(505) && !saves(10));
    let block = Limits { unpacked_bytes: 64 * 64 * 4, ..Limits::default() };
    assert!(fits(CellEncoding::Packed, block));
    assert!(!fits(CellEncoding::Packed, Limits { unpacked_bytes: 64 * 64 * 4 - 1, ..block }));
    #[cfg(feature = "png")]
    {
        let pixels = Limits { pixels: 64 * 64, ..Limits::default() };
        assert!(fits(CellEncoding::Picture, pixels));
        assert!(!fits(CellEncoding::Picture, Limits { pixels: 64 * 64 - 1, ..pixels }));
    }
}

#[test]
fn values_that_could_not_be_loaded_are_not_saved() {
    let mut quilt = doc_quilt();
    let rect = CellRect::new(CellPos::ORIGIN, 10, 10);
    quilt
        .edit("grow", |pen| {
            pen.add_value_layer("growth", ValueKind::F32)?;
            pen.fill_values("growth", rect, 0.123_456_7_f32)
        })
        .unwrap();
    let saved =
        |limits: Limits| quilt.document().with_limits(limits).to_files("m.quilt.json").is_ok();
    assert!(saved(Limits { cells: 100, ..Limits::default() }));
    assert!(!saved(Limits { cells: 99, ..Limits::default() }));
    assert!(!saved(Limits { file_bytes: 900, ..Limits::default() }));
}
