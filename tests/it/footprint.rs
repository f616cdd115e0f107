//! Tiles that stand on several cells: laid, saved, read again, and drawn from all sides.

use proptest::prelude::*;
use sturdy_quilt::document::CellEncoding;
use sturdy_quilt::tile::Footprint;
use sturdy_quilt::units::PixelSize;
use sturdy_quilt::view::{Facing, Projection};
use sturdy_quilt::{
    Cell, CellPos, Color, EditError, Lattice, LayerSettings, Loader, MemorySource, Picture, Quilt,
    ScreenSize, TileSet, TileSpec, Turn, View,
};

use crate::document::read;

/// A picture of a house on so many cells, each pixel with a colour of its own, some of them clear.
fn painted(columns: u32, rows: u32, half: u32, height: u32) -> Picture {
    let mut picture =
        Picture::filled(PixelSize::new((columns + rows) * half, height), Color::CLEAR);
    for (x, y) in (0..height).flat_map(|y| (0..(columns + rows) * half).map(move |x| (x, y))) {
        if (x * 7 + y * 13) % 11 != 0 {
            picture.set(x, y, Color::rgb((x * 5) as u8, (y * 3) as u8, ((x ^ y) * 9) as u8));
        }
    }
    picture
}

/// A map with a set `town`: a house of so many cells, a post, and the anchor of its pictures.
fn town((columns, rows): (u8, u8), anchor: Option<(f64, f64)>) -> Quilt {
    let lattice = Lattice::square(8.0, 8.0).unwrap();
    let mut set = TileSet::builder("town");
    if let Some((x, y)) = anchor {
        set = set.anchor(x, y);
    }
    let set = set
        .uncut_sheet(&painted(columns.into(), rows.into(), 8, 50))
        .tile(
            TileSpec::pixels(sturdy_quilt::units::PixelRect::new(
                0,
                0,
                PixelSize::new(u32::from(columns + rows) * 8, 50),
            ))
            .with_name("house")
            .with_ground("wall")
            .with_footprint(Footprint::new(columns, rows).unwrap()),
        )
        .tile(TileSpec::named("post").with_color(Color::rgb(9, 9, 9)))
        .picture_file("town.png")
        .build()
        .unwrap();
    let mut quilt = Quilt::new(lattice);
    quilt
        .edit("set up", |pen| {
            pen.set_projection(Projection::diamond(&lattice, 16, 8).unwrap())?;
            pen.add_ground_classes(["wall"])?;
            pen.put_tiles(set)?;
            pen.add_layer("works", LayerSettings::default().with_sort_rows(true))
        })
        .unwrap();
    quilt
}

fn sizes() -> impl Strategy<Value = (u8, u8)> {
    (1..5_u8, 1..5_u8)
}

proptest! {
    /// The strips of a house that stands alone make up its picture: mirrored where a footprint that is
    /// not square lies across.
    #[test]
    fn strips_make_up_the_picture(
        (columns, rows) in sizes(), quarters in 0..4_u8, turn in 0..4_u8, stands in any::<bool>(),
        (x, y) in (-70..70_i32, -70..70_i32),
    ) {
        let mut quilt = town((columns, rows), stands.then_some((0.5, 1.0)));
        let house = quilt.cell("town/house").unwrap().with_turn(Turn::square(false, turn).unwrap());
        let first = CellPos::new(x, y);
        quilt.edit("build", |pen| pen.put_whole("works", first, house)).unwrap();
        let bounds = quilt.layer("works").unwrap().cells().bounds();
        let is_across = turn % 2 == 1;
        let across = if is_across { (rows, columns) } else { (columns, rows) };
        prop_assert_eq!(bounds, sturdy_quilt::CellRect::new(first, across.0.into(), across.1.into()));
        let view = View::new(ScreenSize::new(120, 120))
            .projected(quilt.projection().with_facing(Facing::new(quarters.into())))
            .centered_on(quilt.lattice().center(first))
            .snapped(true);
        let shown = quilt.draw(&view, Color::CLEAR);
        // Where the upright rectangle around the cells lies.
        let around = view.projection().around(quilt.lattice().rect_bounds(bounds), 0.0);
        let whole = painted(columns.into(), rows.into(), 8, 50);
        let top = if stands { around.max().y - 50.0 } else { around.min().y };
        let mirrored = columns != rows && (turn + quarters) % 2 == 1;
        let size = whole.size();
        for (px, py) in (0..120).flat_map(|y| (0..120).map(move |x| (x, y))) {
            let at = (view.pane_column(px as i32) - around.min().x as i64, view.pane_row(py as i32) - top as i64);
            let inside = (0..i64::from(size.width)).contains(&at.0) && (0..i64::from(size.height)).contains(&at.1);
            let expected = if inside {
                let x = if mirrored { i64::from(size.width) - 1 - at.0 } else { at.0 };
                whole.get(x as u32, at.1 as u32)
            } else {
                Some(Color::CLEAR)
            };
            prop_assert_eq!(shown.get(px, py), expected, "{},{}", px, py);
        }
    }

    /// Houses, whole or in part, beside each other and turned, are saved in every encoding, and changed
    /// in the files that they came from.
    #[test]
    fn houses_are_saved_whole_and_in_part(
        (columns, rows) in sizes(),
        houses in prop::collection::vec((-8..8_i32, -8..8_i32, 0..4_u8), 0..6),
        gone in prop::collection::vec((-8..12_i32, -8..12_i32, any::<bool>()), 0..6),
        more in prop::collection::vec((-8..8_i32, -8..8_i32, 0..4_u8), 0..3),
        encoding in 0..5_usize,
    ) {
        let mut quilt = town((columns, rows), None);
        let turned = |quilt: &Quilt, turn| {
            quilt.cell("town/house").unwrap().with_turn(Turn::square(false, turn).unwrap())
        };
        quilt.edit("build", |pen| {
            for (x, y, turn) in &houses {
                let house = turned(pen.quilt(), *turn);
                pen.put_whole("works", CellPos::new(*x, *y), house)?;
            }
            Ok::<_, EditError>(())
        }).unwrap();
        let encoding = [
            CellEncoding::Rows, CellEncoding::Table, CellEncoding::Numbers, CellEncoding::Packed,
            CellEncoding::Picture,
        ][encoding];
        let png = painted(columns.into(), rows.into(), 8, 50).to_png().unwrap();
        let save = |quilt: &Quilt| {
            let mut files = MemorySource::default();
            files.add("town.png", png.clone());
            for (name, bytes) in quilt.document().with_encoding(encoding).to_files("map.quilt.json").unwrap() {
                files.add(name, bytes);
            }
            files
        };
        let mut files = save(&quilt);
        let loaded = Loader::new().load(&files, "map.quilt.json").unwrap().quilt;
        prop_assert!(loaded.same_as(&quilt));
        let mut changed = loaded.clone();
        changed.edit("change", |pen| {
            for (x, y, whole) in &gone {
                match whole {
                    true => drop(pen.erase_whole("works", CellPos::new(*x, *y))?),
                    false => drop(pen.put("works", CellPos::new(*x, *y), "town/post")?),
                }
            }
            for (x, y, turn) in &more {
                let house = turned(pen.quilt(), *turn);
                pen.put_whole("works", CellPos::new(*x, *y), house)?;
            }
            Ok::<_, EditError>(())
        }).unwrap();
        let again = Loader::new().load(&save(&changed), "map.quilt.json").unwrap().quilt;
        prop_assert!(again.same_as(&changed));
        let back = changed.document().back_into(&loaded, &files, "map.quilt.json", &[]).unwrap();
        for (name, bytes) in back.files {
            files.add(name, bytes);
        }
        let again = Loader::new().load(&files, "map.quilt.json").unwrap().quilt;
        prop_assert!(again.same_as(&changed));
    }
}

const TOWN: &str = r##"{ "format": "sturdy-quilt/map", "version": 1, "lattice": { "cell": [8, 8] },
  "projection": { "kind": "diamond", "size": [16, 8] },
  "tiles": [{ "name": "town", "tiles": [ { "name": "house", "footprint": [2, 3] }, "post" ] }],
  "layers": [{ "name": "works", "cells": { "legend": { "H": "town/house", "h": "town/house+90",
      "m": "town/house+mirror", "p": "town/post" }, "rows": ROWS } }] }"##;

fn typed(rows: &str) -> Result<Quilt, String> {
    let mut files = MemorySource::default();
    files.add("map.quilt.json", TOWN.replace("ROWS", rows));
    Loader::new().load(&files, "map.quilt.json").map(|l| l.quilt).map_err(|e| e.to_string())
}

/// In a text, a house is named in its first cell or in all of its cells.
#[test]
fn a_house_is_typed_once_or_in_all_its_cells() {
    let once = typed(r#"["H H p h  ", "         ", "         "]"#).unwrap();
    let filled = typed(r#"["HHHHp hhh", "HHHH  hhh", "HHHH     "]"#).unwrap();
    assert!(once.same_as(&filled));
    assert_eq!(once.layer_text("works").unwrap().rows, ["HHHHp hhh", "HHHH  hhh", "HHHH     "]);
    assert!(read(&once.to_json().unwrap()).quilt.same_as(&once));
    let part = once.get("works", CellPos::new(1, 2)).unwrap().here().unwrap();
    assert_eq!(once.tiles().notation(part).to_string(), "town/house 1,2");
    let part = once.get("works", CellPos::new(8, 0)).unwrap().here().unwrap();
    assert_eq!(once.tiles().notation(part).to_string(), "town/house 0,0+90");
}

/// What does not fit says where, and what to do.
#[test]
fn houses_that_do_not_fit_are_told() {
    let error = typed(r#"["H ", " p", "  "]"#).unwrap_err();
    assert!(
        error.contains("town/house at 0,0 needs the cell 1,1, where town/post lies"),
        "{error}"
    );
    assert!(error.contains("leave the other cells of its footprint empty"), "{error}");
    let error = typed(r#"["m  ", "   ", "   "]"#).unwrap_err();
    assert!(error.contains("town/house+mirror at 0,0 cannot be laid"), "{error}");
    assert!(error.contains("cannot be mirrored"), "{error}");
    let mut quilt = typed(r#"["p"]"#).unwrap();
    let error = quilt.edit("", |pen| pen.put("works", CellPos::ORIGIN, "town/house")).unwrap_err();
    assert_eq!(
        error.to_string(),
        "town/house stands on 2 × 3 cells: put it with `put_whole`, or one of its parts"
    );
    let end = CellPos::new(CellPos::MAX, 0);
    let error = quilt.edit("", |pen| pen.put_whole("works", end, "town/house")).unwrap_err();
    assert!(error.to_string().contains("beyond the limits of cells"), "{error}");
    assert_eq!(quilt.layer("works").unwrap().cells().occupied().count(), 1);
    // A part that is there alone counts as one cell.
    quilt
        .edit("", |pen| {
            pen.put("works", CellPos::new(5, 5), "town/house 1,1")?;
            assert_eq!(pen.erase_whole("works", CellPos::new(5, 5))?, 1);
            assert_eq!(pen.erase_whole("works", CellPos::ORIGIN)?, 1);
            assert_eq!(pen.erase_whole("works", CellPos::ORIGIN)?, 0);
            pen.put_whole("works", CellPos::ORIGIN, Cell::EMPTY)
        })
        .unwrap();
}

/// Faults of footprints are told with their set.
#[test]
fn footprints_that_cannot_be_cut_are_told() {
    let picture = painted(2, 2, 7, 20);
    let spec = |footprint: (u8, u8)| {
        TileSpec::picture("a.png")
            .with_name("hall")
            .with_footprint(Footprint::new(footprint.0, footprint.1).unwrap())
    };
    let fault = |spec: TileSpec| {
        let set = TileSet::builder("town").tile(spec).picture("a.png", &picture);
        let set = set.tile(TileSpec::named("hall 0,1")).tile(TileSpec::named("shed"));
        set.faults().iter().map(ToString::to_string).collect::<Vec<_>>()
    };
    assert_eq!(
        fault(spec((2, 3))),
        [
            "tile 0 of set `town`: its picture is 28 pixels wide, which is no multiple of 5, the columns and rows of its footprint together",
            "tile 0 of set `town`: the name `hall 0,1` is given to two tiles",
        ]
    );
    assert_eq!(
        fault(spec((1, 1)).with_facings(["hall", "shed"])),
        ["tile 0 of set `town`: it shows the tile `shed`, whose footprint is not 1 × 1 cells"]
    );
    assert_eq!(fault(spec((1, 1)).with_facings(["hall", "hall+mirror"])), [] as [String; 0]);
}

/// The outline of what lies as a face is compared with the diamond.
#[test]
fn art_that_does_not_fit_the_diamond_is_told() {
    let warnings = |picture: Picture, tile: &str| {
        let part = if tile.contains("footprint") { " 0,0" } else { "" };
        let mut files = MemorySource::default();
        files.add("art.png", picture.to_png().unwrap());
        files.add(
            "map.quilt.json",
            format!(
                r##"{{ "format": "sturdy-quilt/map", "version": 1, "lattice": {{ "cell": [16, 16] }},
  "projection": {{ "kind": "diamond", "size": [64, 32] }},
  "tiles": [{{ "name": "art", "tiles": [{{ "picture": "art.png", "name": "block"{tile} }}] }}],
  "layers": [{{ "name": "works", "cells": {{ "legend": {{ "b": "art/block{part}" }}, "rows": ["b"] }} }}] }}"##
            ),
        );
        let loaded = Loader::new().load(&files, "map.quilt.json").unwrap();
        loaded.warnings.iter().map(|warning| warning.message.clone()).collect::<Vec<_>>()
    };
    // A block whose top face is a diamond of a size, and whose body hangs below.
    let block = |width: u32, height: u32, deep: u32| {
        let mut picture = Picture::filled(PixelSize::new(width, height + deep), Color::CLEAR);
        for (x, y) in (0..height).flat_map(|y| (0..width).map(move |x| (x, y))) {
            let across = (2.0 * f64::from(x) + 1.0 - f64::from(width)).abs() / f64::from(width);
            let down = (2.0 * f64::from(y) + 1.0 - f64::from(height)).abs() / f64::from(height);
            if across + down <= 1.0 {
                (y..=y + if y >= height / 2 { deep } else { 0 })
                    .for_each(|y| assert!(picture.set(x, y, Color::rgb(90, 60, 30))));
            }
        }
        picture
    };
    assert_eq!(warnings(block(64, 32, 20), ""), [] as [String; 0]);
    assert_eq!(
        warnings(block(72, 36, 20), ""),
        ["what is not clear of tile `art/block` measures 70 × 56 px, but a diamond 64 × 32 px"]
    );
    assert_eq!(warnings(block(72, 36, 20), r#", "anchor": [0.5, 1]"#), [] as [String; 0]);
    let low = warnings(block(64, 28, 4), "");
    assert!(low[0].starts_with("what is not clear of tile `art/block` measures 62 × 32 px, but a diamond 64 × 32 px: it reaches beyond"), "{low:?}");
    let narrow = warnings(block(62, 31, 0), "");
    assert!(
        narrow[0].contains("measures 62 × 31 px") && narrow[0].contains("open, so that seams show"),
        "{narrow:?}"
    );
    // A small thing that lies on its cell is meant to leave it open.
    let mut small = Picture::filled(PixelSize::new(64, 32), Color::CLEAR);
    (28..36).for_each(|x| (12..20).for_each(|y| assert!(small.set(x, y, Color::rgb(1, 2, 3)))));
    assert_eq!(warnings(small, ""), [] as [String; 0]);
    let strips = warnings(block(80, 40, 0), r#", "footprint": [2, 2]"#);
    assert_eq!(
        strips,
        [
            "what is not clear of tile `art/block` measures 78 × 40 px, but is cut into strips of 20 pixels, where half a diamond has 32"
        ]
    );
}
