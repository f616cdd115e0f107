//! Cutting sheets, and what is found from their pixels.

use proptest::prelude::*;
use sturdy_quilt::tile::{Coverage, SheetCut, TileSetError};
use sturdy_quilt::units::{PixelRect, PixelSize};
use sturdy_quilt::{Color, Picture, TileSet, TileSpec};

proptest! {
    /// Every tile lies on the sheet, no two share a pixel, and not one more would fit.
    #[test]
    fn a_cut_sheet_has_as_many_tiles_as_fit(
        (width, height) in (1..90_u32, 1..90_u32),
        (tile_w, tile_h) in (1..20_u32, 1..20_u32),
        margin in 0..6_u32,
        gap in 0..6_u32,
    ) {
        let (sheet, tile) = (PixelSize::new(width, height), PixelSize::new(tile_w, tile_h));
        let cut = SheetCut::new(tile).with_margin(margin).with_gap(gap);
        let fits = |length: u32, side: u32| {
            (0..).take_while(|n| margin + n * (side + gap) + side <= length).count() as u32
        };
        let (columns, rows) = (fits(width, tile_w), fits(height, tile_h));
        match cut.grid(sheet) {
            Err(_) => prop_assert!(columns == 0 || rows == 0),
            Ok(grid) => {
                prop_assert_eq!((grid.columns(), grid.rows()), (columns, rows));
                prop_assert_eq!(grid.tile(columns, 0), None);
                for (column, row) in [(0, 0), (columns - 1, rows - 1)] {
                    let expected = PixelRect::new(
                        margin + column * (tile_w + gap),
                        margin + row * (tile_h + gap),
                        tile,
                    );
                    prop_assert_eq!(grid.tile(column, row), Some(expected));
                }
            }
        }
    }
}

#[test]
fn left_over_pixels_are_noticed_unless_they_are_meant() {
    let tile = PixelSize::new(16, 16);
    let left = |cut: SheetCut, width| cut.grid(PixelSize::new(width, 16)).unwrap().has_left_over();
    assert!(!left(SheetCut::new(tile), 64));
    assert!(left(SheetCut::new(tile), 70));
    let stated = SheetCut { columns: Some(4), rows: Some(1), ..SheetCut::new(tile) };
    assert!(!left(stated, 70));
    let gap = SheetCut::new(tile).with_gap(2);
    assert!(!left(gap, 52), "three tiles and two gaps");
    assert!(!left(gap, 54), "three tiles and three gaps");
    assert!(left(gap, 53));
}

#[test]
fn stated_columns_must_fit() {
    let cut = SheetCut { columns: Some(5), ..SheetCut::new(PixelSize::new(16, 16)) };
    let error = cut.grid(PixelSize::new(64, 64)).unwrap_err();
    assert_eq!(
        error.to_string(),
        "a sheet of 64 × 64 px has no room for 5 × 4 tiles of 16 × 16 px with margin 0 and gap 0"
    );
}

#[test]
fn pixels_tell_how_much_a_tile_covers() {
    let mut picture = Picture::filled(PixelSize::new(8, 2), Color::rgb(5, 5, 5));
    for x in 2..4 {
        picture.set(x, 0, Color::CLEAR);
        picture.set(x, 1, Color::CLEAR);
    }
    picture.set(4, 1, Color::CLEAR);
    picture.set(6, 0, Color::rgba(9, 9, 9, 254));
    let set = TileSet::builder("s").sheet(&picture, SheetCut::new(PixelSize::new(2, 2))).build();
    let found: Vec<Coverage> =
        set.unwrap().tiles().iter().map(|tile| tile.art().coverage).collect();
    assert_eq!(found, [Coverage::Opaque, Coverage::Clear, Coverage::Holed, Coverage::Soft]);
}

#[test]
fn every_fault_of_a_set_is_found() {
    let picture = Picture::filled(PixelSize::new(32, 16), Color::rgb(5, 5, 5));
    let builder = TileSet::builder("s")
        .sheet(&picture, SheetCut::new(PixelSize::new(16, 16)))
        .tile(TileSpec::at(0, 0).with_name("a"))
        .tile(TileSpec::at(0, 0).with_name("b"))
        .tile(TileSpec::at(1, 0).with_name("a"))
        .tile(TileSpec::at(2, 0))
        .tile(TileSpec::named("c/d"));
    let faults: Vec<String> = builder.faults().iter().map(ToString::to_string).collect();
    assert_eq!(
        faults,
        [
            "tile 1 of set `s`: the place 0:0 is stated twice",
            "tile 2 of set `s`: the name `a` is given to two tiles",
            "tile 3 of set `s`: the place 2:0 lies outside the sheet of 2 × 1 tiles",
            "tile 4 of set `s`: `c/d` cannot be a name: it must not be empty, nor hold / + : or control characters, nor begin or end with a space",
            "tile 4 of set `s`: it has no place in the sheet",
        ]
    );
    assert!(matches!(TileSet::flat("s", [""; 0]), Err(TileSetError::Empty(_))));
}
