//! Packed cells, turns and the notation of cells.

use proptest::prelude::*;
use sturdy_quilt::tile::{CellNotation, SheetCut, TileKey, TileName};
use sturdy_quilt::units::PixelSize;
use sturdy_quilt::{
    Cell, Color, Picture, Quilt, ScreenSize, TileSet, TileSpec, Turn, View, doc_quilt,
};

pub(crate) fn any_turn() -> impl Strategy<Value = Turn> {
    (0..8_usize).prop_map(|at| Turn::SQUARE[at])
}

fn any_key() -> impl Strategy<Value = TileKey> {
    let name =
        "[a-z][a-z0-9 _.-]{0,6}[a-z0-9]".prop_map(|name| TileKey::Name(name.as_str().into()));
    let place = (0..300_u32, 0..300_u32).prop_map(|(column, row)| TileKey::Place { column, row });
    prop_oneof![name, place]
}

proptest! {
    #[test]
    fn every_valid_packed_value_is_a_cell(bits in any::<u32>()) {
        if let Some(cell) = Cell::from_bits(bits) {
            prop_assert_eq!(cell.to_bits(), bits);
            prop_assert_eq!(cell.tile_index().is_none(), cell.is_empty());
            let plain = cell.with_turn(Turn::NONE).with_raised(false).with_slot(0).unwrap();
            prop_assert_eq!(plain.tile_index(), cell.tile_index());
            let again = plain.with_turn(cell.turn()).with_raised(cell.is_raised());
            prop_assert_eq!(again.with_slot(cell.palette()), Some(cell));
        }
    }

    #[test]
    fn marks_do_not_disturb_each_other(turn in any_turn(), raise: bool, palette in 0..128_u8) {
        let quilt = doc_quilt();
        let wall = quilt.tile("garden/wall").unwrap();
        let cell = Cell::of(wall).with_slot(palette).unwrap().with_raised(raise).with_turn(turn);
        prop_assert_eq!((quilt.tiles().tile_of(cell), cell.turn()), (Some(wall), turn));
        prop_assert_eq!((cell.is_raised(), cell.palette()), (raise, palette));
        prop_assert_eq!(Cell::EMPTY.with_turn(turn).with_raised(raise).with_slot(palette), Some(Cell::EMPTY));
    }

    #[test]
    fn the_notation_of_a_cell_reads_back(
        set in "[a-z][a-z0-9 _.-]{0,6}[a-z0-9]",
        key in any_key(),
        turn in any_turn(),
        raise: bool,
        palette in 0..128_u8,
    ) {
        let name: TileName = format!("{set}/{key}").parse().unwrap();
        let cell = CellNotation::Tile { name, turn, raise, palette };
        prop_assert_eq!(cell.to_string().parse::<CellNotation>(), Ok(cell));
    }

    #[test]
    fn turns_are_a_group(a in any_turn(), b in any_turn(), c in any_turn()) {
        prop_assert_eq!(a.then(b).then(c), a.then(b.then(c)));
        prop_assert_eq!(a.then(a.inverse()), Turn::NONE);
        prop_assert_eq!(a.inverse().then(a), Turn::NONE);
        prop_assert_eq!(Turn::from_bits(a.to_bits()), Some(a));
    }
}

#[test]
fn bits_that_name_no_cell_are_refused() {
    assert_eq!(Cell::from_bits(0), Some(Cell::EMPTY));
    assert_eq!(Cell::from_bits(1 << 24), None, "raised, but nothing");
    for steps in [4, 5, 6, 7, 12, 15] {
        assert_eq!(Cell::from_bits(1 | steps << 20), None, "no such turn");
    }
    assert!(Cell::from_bits(1 | 11 << 20).is_some(), "flipped, and three quarters");
    assert_eq!(Cell::EMPTY.with_slot(128), None);
}

#[test]
fn faults_of_the_notation_are_said() {
    let fault = |text: &str| text.parse::<CellNotation>().unwrap_err().to_string();
    assert_eq!(
        fault("grass"),
        "`grass` does not name a tile; write set/tile, for example terrace/grass"
    );
    assert_eq!(
        fault("terrace/wall+45"),
        "`+45` is not a mark of a cell; the marks are +mirror, +90, +180, +270, +raise and +palette1 to +palette127"
    );
    assert_eq!(fault("terrace/wall+raise+raise"), "`+raise` repeats a mark that is given already");
    assert!(fault("terrace/wall+palette0").contains("not a mark"));
    assert!(fault("terrace/wall+palette128").contains("not a mark"));
    assert!(fault("terrace/").contains("cannot be a name"));
    assert!(fault("terrace/03:1").contains("cannot be a name"));
    assert!(fault("a/b/c").contains("cannot be a name"));
}

/// What each turn does to a picture, drawn and compared with the turn of its pixels by hand.
#[test]
fn turns_turn_pictures() {
    let size = PixelSize::new(2, 2);
    // a b
    // c d
    let colors =
        [Color::rgb(1, 0, 0), Color::rgb(2, 0, 0), Color::rgb(3, 0, 0), Color::rgb(4, 0, 0)];
    let bytes = colors.iter().flat_map(|color| color.to_bytes()).collect();
    let picture = Picture::from_bytes(size, bytes).unwrap();
    let expected = ["abcd", "cadb", "dcba", "bdac", "badc", "dbca", "cdab", "acbd"];
    for (turn, expected) in Turn::SQUARE.into_iter().zip(expected) {
        let mut quilt = Quilt::new(sturdy_quilt::Lattice::square(2.0, 2.0).unwrap());
        quilt
            .edit("one tile", |pen| {
                let set = TileSet::builder("s").sheet(&picture, SheetCut::new(size));
                pen.put_tiles(set.tile(TileSpec::at(0, 0).with_name("t")).build()?)?;
                pen.add_layer("l", Default::default())?;
                let cell = Cell::of(pen.tile("s/t")?).with_turn(turn);
                pen.put("l", sturdy_quilt::CellPos::ORIGIN, cell)
            })
            .unwrap();
        let view =
            View::new(ScreenSize::new(2, 2)).centered_on(sturdy_quilt::WorldPoint::new(1.0, 1.0));
        let drawn = quilt.draw(&view, Color::CLEAR);
        let letters: String =
            drawn.bytes().chunks(4).map(|p| char::from(b'a' + p[0] - 1)).collect();
        assert_eq!(letters, expected, "{turn:?}");
    }
}

#[test]
fn colours_of_names_are_stable_and_differ() {
    // These are part of every map that shows them: a change here changes what users see.
    assert_eq!(Color::of_name("grass").to_string(), "#a9e094");
    assert_eq!(Color::of_name("wall").to_string(), "#ba6a83");
    let names = ["grass", "wall", "water", "mud", "stone", "hedge", "path", "tea", "steps", "shed"];
    let mut colors: Vec<Color> = names.iter().map(|name| Color::of_name(name)).collect();
    colors.sort_by_key(|color| color.to_bytes());
    colors.dedup();
    assert_eq!(colors.len(), names.len());
}
