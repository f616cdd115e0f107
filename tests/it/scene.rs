//! Random maps and random edits of them, for the tests of everything that follows a map.

use std::collections::BTreeMap;

use proptest::prelude::*;
use sturdy_quilt::plane::ValueKind;
use sturdy_quilt::quilt::{
    Blend, Grounds, Palette, Parallax, ParallaxBand, PartError, Treatment, ValueLayerError, Wrap,
};
use sturdy_quilt::tile::{Animation, AnimationStart, SheetCut};
use sturdy_quilt::units::{PixelSize, Sides};
use sturdy_quilt::{
    Cell, CellPos, CellRect, Color, EditError, Lattice, LayerSettings, Marker, Mover, Picture,
    Quilt, Side, TileSet, TileSpec, WorldPoint, WorldVec,
};

/// The names of the tiles that a random cell may show: flat ones, ones from a sheet that cover
/// their cell in every way, ones that are larger than their cell, one that is animated, and one that
/// is raised everywhere.
pub(crate) const TILES: [&str; 11] = [
    "flat/grass",
    "flat/wall",
    "flat/water",
    "art/opaque",
    "art/holed",
    "art/soft",
    "art/clear",
    "tall/tree",
    "tall/pole",
    "art/shimmer",
    "art/roof",
];

pub(crate) const LAYERS: [&str; 4] = ["soil", "growth", "works", "sky"];

/// One random change of a map.
#[derive(Clone, Debug)]
pub(crate) enum Change {
    Put {
        layer: usize,
        cell: CellPos,
        tile: usize,
        marks: (u8, bool, u8),
    },
    Erase {
        layer: usize,
        cell: CellPos,
    },
    Fill {
        layer: usize,
        rect: CellRect,
        tile: usize,
    },
    Settings {
        layer: usize,
        settings: Box<Dressed>,
    },
    Move {
        layer: usize,
        place: usize,
    },
    Remove {
        layer: usize,
    },
    /// To another name, or back from it.
    Rename {
        of: usize,
        name: usize,
        back: bool,
    },
    Add {
        layer: usize,
    },
    Marker {
        name: usize,
        cell: CellPos,
    },
    Zone {
        name: usize,
        rect: CellRect,
        class: usize,
    },
    Unmark {
        name: usize,
    },
    Classes,
    Mover {
        slow: bool,
    },
    Palette {
        name: usize,
        tint: [u8; 3],
    },
    Data {
        day: u8,
    },
    Path {
        name: usize,
        to: CellPos,
    },
    AddValues {
        layer: usize,
    },
    RemoveValues {
        layer: usize,
    },
    Value {
        layer: usize,
        cell: CellPos,
        value: i16,
    },
    FillValues {
        layer: usize,
        rect: CellRect,
        value: i16,
    },
}

/// The names of the value layers that may be there; each has a kind of its own.
pub(crate) const VALUES: [(&str, ValueKind); 3] =
    [("growth", ValueKind::F32), ("owner", ValueKind::U32), ("debt", ValueKind::I32)];

pub(crate) fn near_cell() -> impl Strategy<Value = CellPos> {
    (-12..12_i32, -9..9_i32).prop_map(|(x, y)| CellPos::new(x, y))
}

/// The settings of a layer, with the slot of a palette or 0.
pub(crate) type Dressed = (LayerSettings, u8);

/// The settings in the palette of their slot.
fn in_palette(quilt: &Quilt, (settings, slot): &Dressed) -> LayerSettings {
    let palette = usize::from(*slot).checked_sub(1).map(|at| quilt.palettes()[at].name());
    settings.clone().with_palette(palette.map(|name| quilt.palette(name).unwrap()))
}

pub(crate) fn any_settings() -> impl Strategy<Value = Dressed> {
    let offset = prop_oneof![
        3 => Just(WorldVec::ZERO),
        1 => (-2..3_i32, -2..3_i32).prop_map(|(x, y)| WorldVec::new(f64::from(x) * 8.0, f64::from(y) * 6.0)),
        1 => (-20.0..20.0_f64, -20.0..20.0_f64).prop_map(|(x, y)| WorldVec::new(x, y)),
    ];
    let opacity = prop_oneof![3 => Just(1.0), 1 => 0.0..1.0_f32];
    let tint = prop_oneof![
        3 => Just(Color::WHITE),
        1 => any::<[u8; 4]>().prop_map(Color::from_bytes),
    ];
    let blend = prop_oneof![5 => Just(Blend::Normal), 1 => Just(Blend::Add)];
    let palette = prop_oneof![4 => Just(0), 1 => 1..4_u8];
    let seldom = || prop::bool::weighted(0.15);
    let flags = (prop::bool::weighted(0.4), seldom(), seldom(), seldom());
    let colors = (opacity, tint, blend, palette);
    let elevation = prop_oneof![3 => Just(0.0), 1 => (0..4_i32).prop_map(|n| f64::from(n) * 3.0), 1 => -8.0..8.0_f64];
    (0..2_i32, colors, (offset, elevation), flags, any_motion()).prop_map(
        |(priority, (opacity, tint, blend, palette), (offset, elevation), (a, b, c, d), motion)| {
            let settings = motion
                .with_elevation(elevation)
                .with_priority(priority)
                .with_opacity(opacity)
                .with_tint(tint)
                .with_blend(blend)
                .with_offset(offset)
                .with_sort_rows(a)
                .with_visible(!b)
                .with_draws(!c)
                .with_grounds(if c && d { Grounds::First } else { (!d).into() });
            (settings, palette)
        },
    )
}

/// How layers move, whether they end, and what lies behind them; half of them are still.
fn any_motion() -> impl Strategy<Value = LayerSettings> {
    let factor = || prop_oneof![Just(1.0), Just(0.0), Just(0.5), -0.5..2.0_f64];
    let parallax = prop_oneof![
        2 => Just(Parallax::WORLD),
        1 => (factor(), factor()).prop_map(|(x, y)| Parallax { x, y }),
    ];
    let from = (-20.0..20.0_f64, -20.0..20.0_f64).prop_map(|(x, y)| WorldPoint::new(x, y));
    let speed = prop_oneof![
        2 => Just(WorldVec::ZERO),
        1 => (-9.0..9.0_f64, -9.0..9.0_f64).prop_map(|(x, y)| WorldVec::new(x, y)),
    ];
    let bands = prop::collection::btree_map(-4..5_i32, (factor(), -3.0..3.0_f64), 1..3);
    let bands = prop_oneof![3 => Just(BTreeMap::new()), 1 => bands].prop_map(|bands| {
        let band = |(row, (parallax, speed))| ParallaxBand::new(row, parallax).with_speed(speed);
        bands.into_iter().map(band).collect::<Vec<_>>()
    });
    let wrap = prop::sample::select(vec![Wrap::No, Wrap::No, Wrap::X, Wrap::Y, Wrap::Both]);
    let area = (near_cell(), 1..7_u32, 1..7_u32).prop_map(|(at, w, h)| CellRect::new(at, w, h));
    let area = prop::option::of(area);
    let backdrop = prop::option::weighted(0.2, (0..TILES.len(), 0..8_usize));
    let moving = (parallax, from, speed, bands, wrap, area, backdrop).prop_map(
        |(parallax, from, speed, bands, wrap, area, backdrop)| {
            // All random maps number their tiles alike.
            let tiles = empty_quilt();
            let backdrop = backdrop.map(|(tile, turn)| {
                Cell::of(tiles.tile(TILES[tile]).unwrap())
                    .with_turn(sturdy_quilt::Turn::SQUARE[turn])
            });
            LayerSettings::default()
                .with_parallax(parallax)
                .with_parallax_from(from)
                .with_speed(speed)
                .with_bands(bands)
                .with_wrap(wrap)
                .with_wrap_area(area.filter(|_| wrap != Wrap::No))
                .with_backdrop(backdrop)
        },
    );
    prop_oneof![1 => Just(LayerSettings::default()), 1 => moving]
}

pub(crate) fn any_change() -> impl Strategy<Value = Change> {
    let layer = || 0..LAYERS.len();
    let rect = (near_cell(), 1..14_u32, 1..10_u32).prop_map(|(at, w, h)| CellRect::new(at, w, h));
    let giant =
        (near_cell(), 60..200_u32, 60..200_u32).prop_map(|(at, w, h)| CellRect::new(at, w, h));
    let value_rect =
        (near_cell(), 1..90_u32, 1..90_u32).prop_map(|(at, w, h)| CellRect::new(at, w, h));
    let zone = (near_cell(), 1..9_u32, 1..80_u32).prop_map(|(at, w, h)| CellRect::new(at, w, h));
    let marks = (0..8_u8, prop::bool::weighted(0.3), 0..3_u8);
    prop_oneof![
        12 => (layer(), near_cell(), 0..TILES.len(), marks)
            .prop_map(|(layer, cell, tile, marks)| Change::Put { layer, cell, tile, marks }),
        2 => (layer(), near_cell()).prop_map(|(layer, cell)| Change::Erase { layer, cell }),
        3 => (layer(), rect, 0..TILES.len()).prop_map(|(layer, rect, tile)| Change::Fill { layer, rect, tile }),
        1 => (layer(), giant, 0..3_usize).prop_map(|(layer, rect, tile)| Change::Fill { layer, rect, tile }),
        4 => (layer(), any_settings()).prop_map(|(layer, settings)| Change::Settings { layer, settings: Box::new(settings) }),
        1 => (layer(), 0..4_usize).prop_map(|(layer, place)| Change::Move { layer, place }),
        1 => layer().prop_map(|layer| Change::Remove { layer }),
        2 => (0..3_usize, 0..3_usize, any::<bool>()).prop_map(|(of, name, back)| Change::Rename { of, name, back }),
        2 => layer().prop_map(|layer| Change::Add { layer }),
        1 => (0..3_usize, near_cell()).prop_map(|(name, cell)| Change::Marker { name, cell }),
        2 => (0..3_usize, zone, 0..6_usize).prop_map(|(name, rect, class)| Change::Zone { name, rect, class }),
        1 => (0..3_usize).prop_map(|name| Change::Unmark { name }),
        1 => Just(Change::Classes),
        1 => any::<bool>().prop_map(|slow| Change::Mover { slow }),
        1 => (0..4_usize, any::<[u8; 3]>()).prop_map(|(name, tint)| Change::Palette { name, tint }),
        1 => (0..3_u8).prop_map(|day| Change::Data { day }),
        1 => (0..3_usize, near_cell()).prop_map(|(name, to)| Change::Path { name, to }),
        2 => (0..VALUES.len()).prop_map(|layer| Change::AddValues { layer }),
        1 => (0..VALUES.len()).prop_map(|layer| Change::RemoveValues { layer }),
        3 => (0..VALUES.len(), near_cell(), -9..9_i16).prop_map(|(layer, cell, value)| Change::Value { layer, cell, value }),
        1 => (0..VALUES.len(), value_rect, -1..2_i16).prop_map(|(layer, rect, value)| Change::FillValues { layer, rect, value }),
    ]
}

/// A map with all tiles and layers, before any change. Cells are 8 × 6 units.
pub(crate) fn empty_quilt() -> Quilt {
    let mut quilt = Quilt::new(Lattice::square(8.0, 6.0).unwrap());
    quilt
        .edit("begin", |pen| {
            pen.add_ground_classes(["open", "stone", "channel"])?;
            pen.put_mover(Mover::new("cart").block("stone").slow("channel", 0.5))?;
            pen.put_mover(Mover::new("bee").block("stone").with_wrap())?;
            let fish = Mover::new("fish").with_empty(Treatment::Block).with_value("channel", 2.5);
            pen.put_mover(fish.one_way("stone", Sides::of([Side::Top, Side::Left])))?;
            for set in tile_sets() {
                pen.put_tiles(set)?;
            }
            for palette in palettes() {
                pen.put_palette(palette)?;
            }
            for layer in LAYERS {
                pen.add_layer(layer, LayerSettings::default())?;
            }
            Ok(())
        })
        .unwrap();
    quilt
}

/// A map after some changes.
pub(crate) fn any_quilt(most: usize) -> impl Strategy<Value = Quilt> {
    prop::collection::vec(any_change(), 0..most).prop_map(|changes| {
        let mut quilt = empty_quilt();
        for change in &changes {
            make(&mut quilt, change);
        }
        quilt
    })
}

/// A map whose layers lie over each other in a few cells, raised or not, sorted by row or not.
pub(crate) fn dense_quilt() -> impl Strategy<Value = Quilt> {
    const SIDE: usize = 5;
    let marks = (0..8_usize, prop::bool::weighted(0.4), prop_oneof![3 => Just(0), 1 => 1..4_u8]);
    let cell = prop::option::weighted(0.7, (0..TILES.len(), marks));
    let layer = (any_settings(), prop::collection::vec(cell, SIDE * SIDE));
    prop::collection::vec(layer, LAYERS.len()).prop_map(|layers| {
        let mut quilt = empty_quilt();
        let edit = quilt.edit("fill", |pen| {
            for (name, (settings, cells)) in LAYERS.iter().zip(&layers) {
                let settings = in_palette(pen.quilt(), settings);
                pen.set_layer(*name, |_| settings)?;
                for (at, cell) in cells.iter().enumerate() {
                    let Some((tile, (turn, raise, palette))) = *cell else { continue };
                    let turn = sturdy_quilt::Turn::SQUARE[turn];
                    let value = Cell::of(pen.tile(TILES[tile])?).with_turn(turn).with_raised(raise);
                    let place = CellPos::new((at % SIDE) as i32 - 2, (at / SIDE) as i32 - 2);
                    pen.put(*name, place, value.with_slot(palette).unwrap())?;
                }
            }
            Ok(())
        });
        edit.unwrap();
        quilt
    })
}

/// Makes a change, and gives the changeset of it. One that makes no sense now changes nothing.
pub(crate) fn make(quilt: &mut Quilt, change: &Change) -> Option<sturdy_quilt::Changeset> {
    let edit = quilt.edit("change", |pen| match change.clone() {
        Change::Put { layer, cell, tile, marks: (turn, raise, palette) } => {
            let turn = sturdy_quilt::Turn::SQUARE[usize::from(turn)];
            let value = Cell::of(pen.tile(TILES[tile])?).with_turn(turn).with_raised(raise);
            pen.put(LAYERS[layer], cell, value.with_slot(palette).unwrap()).map(|_| ())
        }
        Change::Erase { layer, cell } => pen.erase(LAYERS[layer], cell).map(|_| ()),
        Change::Fill { layer, rect, tile } => {
            let value = if tile == 0 { Cell::EMPTY } else { pen.tile(TILES[tile])?.into() };
            pen.fill(LAYERS[layer], rect, value)
        }
        Change::Settings { layer, settings } => {
            let settings = in_palette(pen.quilt(), &settings);
            pen.set_layer(LAYERS[layer], |_| settings)
        }
        Change::Move { layer, place } => pen.move_layer(LAYERS[layer], place),
        Change::Remove { layer } => pen.remove_layer(LAYERS[layer]),
        Change::Rename { of, name, back } => {
            let own = [LAYERS[name], VALUES[name].0, ["a", "b", "c"][name]][of];
            let other = format!("{own} anew");
            let (from, to) = if back { (&*other, own) } else { (own, &*other) };
            match of {
                0 => pen.rename_layer(from, to),
                1 => pen.rename_value_layer(from, to),
                _ => pen.rename_marker(from, to),
            }
        }
        Change::Add { layer } => pen.add_layer(LAYERS[layer], LayerSettings::default()),
        Change::Marker { name, cell } => pen.put_marker(Marker::cell(["a", "b", "c"][name], cell)),
        Change::Zone { name, rect, class } => {
            let (name, kind) = (["a", "b", "c"][name], class / 3);
            let marker = if kind == 0 {
                Marker::area(name, rect)
            } else {
                // A triangle over half of it.
                let around = pen.quilt().lattice().rect_bounds(rect);
                let corner = WorldPoint::new(around.max().x, around.min().y);
                Marker::polygon(name, [around.min(), corner, around.max()])
            };
            pen.put_marker(marker.with_ground(["open", "stone", "channel"][class % 3]))
        }
        Change::Unmark { name } => pen.remove_marker(["a", "b", "c"][name]),
        Change::Classes => pen.add_ground_classes(["mud"]),
        Change::Mover { slow } => {
            let treatment = if slow { Treatment::Slow(0.25) } else { Treatment::Pass };
            pen.put_mover(Mover::new("cart").with_treatment("stone", treatment))
        }
        Change::Palette { name, tint: [r, g, b] } => {
            let name = ["dry", "dusk", "faint", "new"][name];
            pen.put_palette(Palette::new(name).with_tint(Color::rgb(r, g, b)))
        }
        Change::Data { day } => pen.set_data(serde_json::json!({ "day": day })),
        Change::Path { name, to } => {
            let points = [CellPos::ORIGIN, to].map(|at| pen.quilt().lattice().center(at));
            pen.put_marker(Marker::path(["a", "b", "c"][name], points))
        }
        Change::AddValues { layer } => pen.add_value_layer(VALUES[layer].0, VALUES[layer].1),
        Change::RemoveValues { layer } => pen.remove_value_layer(VALUES[layer].0),
        Change::Value { layer, cell, value } => match VALUES[layer] {
            (name, ValueKind::F32) => pen.put_value(name, cell, f32::from(value) / 4.0).map(|_| ()),
            (name, ValueKind::U32) => {
                pen.put_value(name, cell, value.unsigned_abs().into()).map(|_: u32| ())
            }
            (name, ValueKind::I32) => pen.put_value(name, cell, i32::from(value)).map(|_| ()),
        },
        Change::FillValues { layer, rect, value } => match VALUES[layer] {
            (name, ValueKind::F32) => pen.fill_values(name, rect, f32::from(value)),
            (name, ValueKind::U32) => pen.fill_values(name, rect, u32::from(value.unsigned_abs())),
            (name, ValueKind::I32) => pen.fill_values(name, rect, i32::from(value)),
        },
    });
    match edit {
        Ok(edit) => Some(edit.changes),
        Err(
            EditError::Name(_)
            | EditError::ValueLayer(ValueLayerError::Name(_))
            | EditError::Part(
                PartError::LayerExists(_)
                | PartError::ValueLayerExists(_)
                | PartError::MarkerExists(_),
            ),
        ) => None,
        Err(error) => panic!("{change:?}: {error}"),
    }
}

/// One that replaces colours, one that tints, and one that makes tiles less solid.
fn palettes() -> [Palette; 3] {
    [
        Palette::new("dry").with_color("leaf", Color::rgb(200, 170, 60)),
        Palette::new("dusk").with_tint(Color::rgb(120, 100, 200)),
        Palette::new("faint")
            .with_color("leaf", Color::rgba(9, 99, 9, 128))
            .with_tint(Color::rgba(255, 255, 255, 200)),
    ]
}

fn tile_sets() -> [TileSet; 3] {
    let flat = TileSet::builder("flat")
        .palette("leaf", Color::of_name("grass"))
        .palette("rock", Color::of_name("wall"))
        .tile(TileSpec::named("grass").with_ground("open"))
        .tile(TileSpec::named("wall").with_ground("stone"))
        .tile(TileSpec::named("water").with_ground("channel"));
    let art = TileSet::builder("art")
        .sheet(&art_sheet(), SheetCut::new(PixelSize::new(8, 6)))
        .picture_file("art.png")
        .tile(TileSpec::at(0, 0).with_name("opaque").with_ground("stone"))
        .tile(TileSpec::at(1, 0).with_name("holed"))
        .tile(TileSpec::at(2, 0).with_name("soft").with_ground("open"))
        .tile(TileSpec::at(3, 0).with_name("clear"))
        .tile(
            TileSpec::at(4, 0).with_name("shimmer").with_animation(
                Animation::new([("opaque", 100), ("shimmer", 50), ("clear", 30)])
                    .with_start(AnimationStart::Shifted { x_ms: 40, y_ms: -25 }),
            ),
        )
        .tile(TileSpec::at(5, 0).with_name("roof").with_raise(true));
    let tall = TileSet::builder("tall")
        .sheet(&tall_sheet(), SheetCut::new(PixelSize::new(10, 20)))
        .picture_file("tall.png")
        .anchor(0.5, 1.0)
        .tile(TileSpec::at(0, 0).with_name("tree").with_ground("stone"))
        .tile(
            TileSpec::at(1, 0)
                .with_name("pole")
                .with_anchor(0.25, 0.75)
                .with_offset(WorldVec::new(2.5, -3.0)),
        );
    [flat.build().unwrap(), art.build().unwrap(), tall.build().unwrap()]
}

/// Every pixel differs from its neighbours, so that one in the wrong place is noticed.
fn pixel(x: u32, y: u32, alpha: u8) -> Color {
    Color::rgba((x * 37 + y * 11) as u8, (x * 5 + y * 53) as u8, (x * y * 7 + 40) as u8, alpha)
}

pub(crate) fn art_sheet() -> Picture {
    let mut picture = Picture::filled(PixelSize::new(48, 6), Color::CLEAR);
    for y in 0..6 {
        for x in 0..8 {
            picture.set(x, y, pixel(x, y, 255));
            if (x + y) % 3 != 0 {
                picture.set(8 + x, y, pixel(x + 20, y, 255));
            }
            picture.set(16 + x, y, pixel(x + 40, y, (40 + x * 20 + y) as u8));
            picture.set(32 + x, y, pixel(x + 3, y + 50, 255));
            picture.set(40 + x, y, pixel(x + 61, y, 255));
        }
    }
    picture
}

pub(crate) fn tall_sheet() -> Picture {
    let mut picture = Picture::filled(PixelSize::new(20, 20), Color::CLEAR);
    for y in 0..20 {
        for x in 0..10 {
            if x + y > 6 {
                picture.set(x, y, pixel(x + 7, y + 3, 255));
            }
            picture.set(10 + x, y, pixel(x, y + 9, 255));
        }
    }
    picture
}
