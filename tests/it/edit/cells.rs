//! Many cells at once: rows, flat lists, rules, and tiles that are taken out.

use super::*;

#[test]
fn a_flat_array_reaches_up_to_the_last_cell() {
    let mut quilt = doc_quilt();
    let numbers = TileNumbers::of_set("garden");
    let corner = CellPos::new(CellPos::MAX - 1, CellPos::MAX);
    let mut put = |list: &[i64]| {
        let array = FlatArray::new(list, list.len() as u32);
        quilt.edit("put", |pen| pen.put_flat("soil", corner, array, &numbers))
    };
    put(&[0, 1]).unwrap();
    let refused = put(&[0, 1, 1]).unwrap_err();
    assert!(matches!(refused, EditError::RectBeyondCells { width: 3, height: 1, .. }), "{refused}");
}

#[test]
fn rows_that_reach_too_far_are_refused() {
    let mut quilt = doc_quilt();
    let legend = [('#', quilt.tile("garden/wall").unwrap())];
    let corner = CellPos::new(CellPos::MAX, 0);
    let error = quilt.edit("rows", |pen| pen.put_rows("soil", corner, &legend, &["#", " #"]));
    assert_eq!(
        error.unwrap_err().to_string(),
        "row 1 reaches beyond the limits of cells in column 1"
    );
    let error = quilt.edit("rows", |pen| pen.put_rows("soil", corner, &legend, &["#", "x"]));
    assert_eq!(
        error.unwrap_err().to_string(),
        "row 1 has `x` in column 0, which the legend does not know"
    );
    assert!(quilt.same_as(&doc_quilt()));
    let near = [('#', "garden/wal")];
    let error = quilt.edit("rows", |pen| pen.put_rows("soil", CellPos::ORIGIN, &near, &["#"]));
    assert!(error.unwrap_err().to_string().ends_with("did you mean `garden/wall`?"));
}

#[test]
fn a_rule_gives_each_cell_and_variants_take_their_places() {
    let set = TileSet::builder("field")
        .tile(TileSpec::named("grass").with_variant("grass", 3).with_variant("flowers", 1))
        .tile(TileSpec::named("flowers"))
        .tile(TileSpec::named("stone"));
    let mut quilt = Quilt::build(Lattice::default(), |pen| {
        pen.put_tiles(set.build()?)?;
        pen.add_layer("soil", LayerSettings::default()).map(|_| ())
    })
    .unwrap();
    let (grass, stone) =
        (quilt.cell("field/grass+90").unwrap(), quilt.cell("field/stone").unwrap());
    let rect = CellRect::between(CellPos::new(-70, -3), CellPos::new(70, 3));
    let rule = |at: CellPos| match (at.x() + at.y()).rem_euclid(3) {
        0 => Cell::EMPTY,
        1 => stone,
        _ => grass,
    };
    quilt.edit("rule", |pen| pen.put_each("soil", rect, rule)).unwrap();
    let held = |quilt: &Quilt, at| quilt.get("soil", at).unwrap().here().unwrap();
    assert!(rect.cells().all(|at| held(&quilt, at) == rule(at)));
    let before = quilt.clone();
    let edit = quilt.edit("vary", |pen| pen.vary("soil", CellRect::EVERYWHERE, 3)).unwrap();
    let mut flowers = 0;
    for at in rect.cells() {
        let tile_of = |quilt: &Quilt| quilt.tiles().tile_of(held(quilt, at));
        let tile = tile_of(&before).map(|tile| quilt.tiles().variant_at(tile, at, 3));
        assert_eq!(tile_of(&quilt), tile);
        assert_eq!(held(&quilt, at).turn(), rule(at).turn(), "turns stay");
        flowers += usize::from(tile != tile_of(&before));
    }
    assert!((40..140).contains(&flowers), "{flowers} of 329");
    let varied = quilt.clone();
    quilt.apply(&edit.changes.inverse()).unwrap();
    assert!(quilt.same_as(&before));
    // Laid with the same seed, they are the same; with another one they are others.
    let laid = |seed: u64| {
        let mut quilt = before.clone();
        let grass = quilt.cell("field/grass+90").unwrap();
        quilt.edit("lay", |pen| pen.fill_varied("soil", rect, grass, seed)).unwrap();
        quilt
    };
    let (same, other) = (laid(3), laid(4));
    let grasses: Vec<CellPos> = rect.cells().filter(|at| rule(*at) == grass).collect();
    assert!(grasses.iter().all(|at| held(&same, *at) == held(&varied, *at)));
    assert!(grasses.iter().any(|at| held(&other, *at) != held(&varied, *at)));
    let wide = CellRect::new(CellPos::ORIGIN, 1 << 30, 1 << 30);
    assert!(quilt.edit("wide", |pen| pen.put_each("soil", wide, rule)).is_err());
}

/// A list of numbers in any scan order against a look at each place.
#[test]
fn flat_lists_are_read_in_every_order() {
    let corners = [Corner::TopLeft, Corner::TopRight, Corner::BottomLeft, Corner::BottomRight];
    let list: Vec<i32> = (0..12).map(|i| [-1, 0, 1][i * i % 3]).collect();
    for (way, corner) in [false, true].into_iter().flat_map(|way| corners.map(|c| (way, c))) {
        let mut quilt = doc_quilt();
        let scan = if way { ScanOrder::columns(corner) } else { ScanOrder::rows(corner) };
        let numbers = TileNumbers::of_set("garden");
        let at = CellPos::new(-70, 3);
        let edit = quilt.edit("flat", |pen| {
            pen.fill("soil", CellRect::new(at, 4, 3), pen.tile("garden/wall")?)?;
            pen.put_flat("soil", at, FlatArray::new(&list, 4).with_scan(scan), &numbers)
        });
        for (x, y) in (0..4_i32).flat_map(|x| (0..3_i32).map(move |y| (x, y))) {
            let across =
                if matches!(corner, Corner::TopRight | Corner::BottomRight) { 3 - x } else { x };
            let down =
                if matches!(corner, Corner::BottomLeft | Corner::BottomRight) { 2 - y } else { y };
            let index = if way { across * 3 + down } else { down * 4 + across };
            let held = quilt.get("soil", CellPos::new(x - 70, y + 3)).unwrap().here().unwrap();
            let wanted =
                ["empty", "garden/grass", "garden/wall"][(list[index as usize] + 1) as usize];
            assert_eq!(quilt.tiles().notation(held).to_string(), wanted, "{x},{y} of {scan:?}");
        }
        edit.unwrap();
    }
}

#[test]
fn flat_lists_that_are_no_rectangle_are_refused() {
    let mut quilt = doc_quilt();
    let before = quilt.clone();
    let mut refused = |list: &[u16], width: u32, at: CellPos, numbers: TileNumbers| {
        let edit = quilt
            .edit("flat", |pen| pen.put_flat("soil", at, FlatArray::new(list, width), &numbers));
        edit.unwrap_err().to_string()
    };
    let numbers = || TileNumbers::of_set("garden");
    let here = CellPos::ORIGIN;
    assert_eq!(
        refused(&[0, 1, 0], 2, here, numbers()),
        "expected whole rows of 2 cells, found 3 numbers"
    );
    assert_eq!(
        refused(&[0], 0, here, numbers()),
        "expected rows of at least 1 cell, found a width of 0"
    );
    assert_eq!(
        refused(&[0, 1, 1, 7], 2, CellPos::new(4, 4), numbers()),
        "number 7 at place 3 of the list, for cell 5,5, is not a tile: the tiles have the numbers 0 to 1, and -1 is empty"
    );
    assert_eq!(
        refused(&[0, 1], 2, CellPos::new(CellPos::MAX, 0), numbers()),
        "2 × 1 cells from 1073741823,0 on reach beyond the limits of cells"
    );
    assert_eq!(
        refused(&[0], 1, here, TileNumbers::of_set("gardn")),
        "no tile set `gardn` in this map; did you mean `garden`?"
    );
    assert!(quilt.same_as(&before));
}

/// What is taken is what lay there; nothing else changes, and the inverse brings it back.
#[test]
fn taken_tiles_leave_what_was_chosen() {
    let mut quilt = doc_quilt();
    let (grass, wall) = (quilt.tile("garden/grass").unwrap(), quilt.tile("garden/wall").unwrap());
    quilt
        .edit("more walls", |pen| {
            pen.put(
                "soil",
                CellPos::new(-80, 1),
                Cell::of(wall).with_raised(true).with_turn(Turn::QUARTER),
            )?;
            pen.put("soil", CellPos::new(90, -1), wall)?;
            pen.set_layer("soil", |settings| settings.with_offset(WorldVec::new(3.0, -2.0)))
        })
        .unwrap();
    let before = quilt.clone();
    let marked = quilt.tiles().find_where(|tile| tile.ground() == Some("stone"));
    let extraction = Extraction::tiles(marked).with_replacement(grass).with_anchor(Anchor::TopLeft);
    let edit = quilt.edit("take", |pen| pen.extract("soil", &extraction)).unwrap();
    let cells: Vec<CellPos> = edit.result.iter().map(|taken| taken.cell).collect();
    assert_eq!(cells, [CellPos::new(90, -1), CellPos::new(-80, 1), CellPos::new(2, 0)]);
    assert_eq!(edit.result[1].value.turn(), Turn::QUARTER);
    assert_eq!(edit.result[1].place, WorldPoint::new(-80.0 * 16.0 + 3.0, 16.0 - 2.0));
    let soil = quilt.layer("soil").unwrap().cells();
    assert_eq!(soil.find_where(|cell| quilt.tiles().tile_of(cell) == Some(wall)).count(), 0);
    assert!(cells.iter().all(|at| soil.get(*at).here() == Some(Cell::of(grass))));
    assert_eq!(edit.changes.cells().count(), 3);
    quilt.apply(&edit.changes.inverse()).unwrap();
    assert!(quilt.same_as(&before));
    let nothing = quilt.edit("take", |pen| pen.extract("soil", &Extraction::tiles([]))).unwrap();
    assert!(nothing.result.is_empty() && nothing.changes.is_empty());
}

#[test]
fn values_of_tiles_are_found_and_missing_names_listed_at_once() {
    let quilt = doc_quilt();
    let names = [("garden/grass", 1), ("garden/wal", 2), ("gardn/wall", 3)];
    let error = TileValues::by_name(quilt.tiles(), names).unwrap_err();
    assert_eq!(
        error.to_string(),
        "no tile `garden/wal` in this map; did you mean `garden/wall`?\n\
         no tile `gardn/wall` in this map; did you mean `garden/wall`?"
    );
    let mut values = TileValues::by_name(quilt.tiles(), [("garden/wall", 'w')]).unwrap();
    let left: Vec<String> = values.without_value(quilt.tiles()).map(ToString::to_string).collect();
    assert_eq!(left, ["garden/grass"]);
    let grass = quilt.tile("garden/grass").unwrap();
    assert_eq!((values.get(grass), values.get(Cell::EMPTY)), (None, None));
    values.put(grass, 'g');
    assert_eq!(values.get(Cell::of(grass).with_raised(true)), Some(&'g'));
}

/// A block of cells in one of the ways to put many at once: the seed says what they are.
#[derive(Clone, Copy, Debug)]
enum Block {
    Each(CellRect, u32),
    Rows(CellRect, u32),
    Flat(CellRect, u32),
}

/// Blocks that cover a few cells, most of a chunk, and several chunks.
fn any_block() -> impl Strategy<Value = Block> {
    let side = || prop_oneof![1_u32..6, 30_u32..70, 120_u32..140];
    let rect = (-70_i32..70, -70_i32..70, side(), side())
        .prop_map(|(x, y, width, height)| CellRect::new(CellPos::new(x, y), width, height));
    (rect, any::<u32>(), 0..3).prop_map(|(rect, seed, way)| match way {
        0 => Block::Each(rect, seed),
        1 => Block::Rows(rect, seed),
        _ => Block::Flat(rect, seed),
    })
}

/// Which of three tiles a block puts into a cell; few cells differ from those before with some seeds,
/// most with others.
fn chosen(cell: CellPos, seed: u32) -> u32 {
    let mixed =
        (cell.x() as u32).wrapping_mul(0x9e37_79b1) ^ (cell.y() as u32).wrapping_mul(seed | 1);
    let mixed = (mixed ^ mixed >> 15).wrapping_mul(0x2c1b_3c6d) >> 24;
    if mixed < 256 >> (seed % 12) { mixed % 3 } else { 1 }
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(24))]

    /// Blocks leave the cells, and the changes, that cells put one by one leave.
    #[test]
    fn blocks_are_cells_put_one_by_one(
        edits in prop::collection::vec(prop::collection::vec(any_block(), 1..4), 1..4),
    ) {
        let mut blocks = Quilt::build(Lattice::default(), |pen| {
            pen.put_tiles(TileSet::flat("s", ["a", "b", "c"])?)?;
            pen.add_value_layer("v", ValueKind::U32)?;
            pen.add_layer("l", LayerSettings::default())
        })
        .unwrap();
        let mut singles = blocks.clone();
        let tiles: Vec<Cell> = blocks.tiles().ids().map(Cell::of).collect();
        for edit in edits {
            let before = blocks.clone();
            let by_block = blocks.edit("blocks", |pen| edit.iter().try_for_each(|block| match *block {
                Block::Each(rect, seed) => {
                    let rule = |cell| tiles[chosen(cell, seed) as usize];
                    pen.put_each("l", rect, rule)?;
                    pen.put_each_value("v", rect, |cell| chosen(cell, seed))
                }
                Block::Rows(rect, seed) => {
                    // The second tile is left out, so that rows have holes.
                    let sign = |cell| [ 'a', ' ', 'c'][chosen(cell, seed) as usize];
                    let row = |y| (rect.left()..rect.right()).map(|x| sign(CellPos::new(x, y))).collect();
                    let rows: Vec<String> = (rect.top()..rect.bottom()).map(row).collect();
                    let rows: Vec<&str> = rows.iter().map(String::as_str).collect();
                    pen.put_rows("l", rect.corner(), &[('a', "s/a"), ('c', "s/c")], &rows)
                }
                Block::Flat(rect, seed) => {
                    let corner = [Corner::TopLeft, Corner::BottomRight][seed as usize % 2];
                    let scan = if seed % 3 == 0 { ScanOrder::columns(corner) } else { ScanOrder::rows(corner) };
                    let (width, height) = (rect.width(), rect.height());
                    let at = |place| rect.corner().saturating_add(scan.offset(place, width, height));
                    let count = rect.cell_count() as usize;
                    let list: Vec<u32> = (0..count).map(|place| chosen(at(place), seed)).collect();
                    let array = FlatArray::new(&list, width).with_scan(scan);
                    pen.put_flat("l", rect.corner(), array, &TileNumbers::of_set("s"))
                }
            }));
            let by_cell = singles.edit("cells", |pen| edit.iter().try_for_each(|block| {
                let (Block::Each(rect, seed) | Block::Rows(rect, seed) | Block::Flat(rect, seed)) = *block;
                rect.cells().try_for_each(|cell| {
                    let number = chosen(cell, seed);
                    if matches!(block, Block::Each(..)) {
                        pen.put_value("v", cell, number)?;
                    }
                    if number == 1 && matches!(block, Block::Rows(..)) {
                        return Ok(());
                    }
                    pen.put("l", cell, tiles[number as usize]).map(drop)
                })
            }));
            let (by_block, by_cell) = (by_block.unwrap().changes, by_cell.unwrap().changes);
            prop_assert!(blocks.same_as(&singles));
            let cells = |changes: &sturdy_quilt::Changeset| {
                let mut cells: Vec<_> = changes.cells().map(|c| (c.cell, c.before, c.after)).collect();
                cells.sort_unstable_by_key(|(cell, ..)| *cell);
                cells
            };
            prop_assert_eq!(cells(&by_block), cells(&by_cell));
            let mut undone = blocks.clone();
            undone.apply(&by_block.inverse()).unwrap();
            prop_assert!(undone.same_as(&before), "undone");
            // What others did elsewhere in the chunk is no obstacle, where few cells have changed.
            undone.apply(&by_cell).unwrap();
            prop_assert!(undone.same_as(&singles), "done again");
        }
    }
}
