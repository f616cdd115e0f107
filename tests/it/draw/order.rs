//! Which cell or sprite stands in front of which.

use super::*;

/// The whole table: what lies in front of what, by priority, raise and layer.
#[test]
fn raised_cells_stand_in_front_of_unraised_ones_of_their_priority() {
    let key =
        |priority, raised, layer| DrawKey::of_cell(priority, raised, None, layer, CellPos::ORIGIN);
    let order = [
        key(-1, false, 5),
        key(-1, true, 5),
        key(0, false, 0),
        key(0, false, 1),
        key(0, true, 0),
        key(0, true, 1),
        key(1, false, 0),
    ];
    assert!(order.is_sorted());
    let sprite =
        DrawKey { sprite: Some(1), layer: u32::MAX, kind: DrawKind::Sprite, ..key(0, false, 1) };
    assert!(key(0, false, 1) < sprite && sprite < key(0, true, 0));
    let row = |foot| DrawKey::of_cell(0, false, Some(foot), 0, CellPos::ORIGIN);
    assert!(key(0, false, 9) < row(-1e9) && row(10.0) < row(26.0));
    let lifted = DrawKey { elevation: 4.0, layer: 0, ..row(10.0) };
    assert!(row(10.0) < lifted && lifted < row(11.0));
}

#[test]
fn a_raised_cell_is_painted_over_a_later_layer() {
    let mut quilt = empty_quilt();
    quilt
        .edit("two", |pen| {
            let wall = Cell::of(pen.tile("flat/wall")?);
            let water = pen.tile("flat/water")?;
            for x in 0..2 {
                pen.put("soil", CellPos::new(x, 0), wall.with_raised(x == 1))?;
                pen.put("growth", CellPos::new(x, 0), water)?;
            }
            Ok(())
        })
        .unwrap();
    let view = View::new(ScreenSize::new(16, 6)).centered_on(WorldPoint::new(8.0, 3.0));
    let picture = quilt.draw(&view, Color::CLEAR);
    assert_eq!(picture.get(0, 0), Some(Color::of_name("water")));
    assert_eq!(picture.get(8, 0), Some(Color::of_name("wall")));
    let list = listed(DrawList::new(), &quilt, &view);
    assert_eq!(list.figures().hidden, 2, "in both cells one tile hides the other");
}

/// Raise counts before the row, and what is sorted by row lies over what is not.
#[test]
fn raise_counts_before_the_row() {
    let mut quilt = empty_quilt();
    quilt
        .edit("three cells", |pen| {
            pen.set_layer("soil", |settings| settings.with_sort_rows(true))?;
            let wall = Cell::of(pen.tile("flat/wall")?);
            let water = Cell::of(pen.tile("flat/water")?);
            for (x, (sorted_raised, raised)) in
                [(false, false), (false, true), (true, true)].iter().enumerate()
            {
                pen.put("soil", CellPos::new(x as i32, 0), wall.with_raised(*sorted_raised))?;
                pen.put("growth", CellPos::new(x as i32, 0), water.with_raised(*raised))?;
            }
            Ok(())
        })
        .unwrap();
    let view = View::new(ScreenSize::new(24, 6)).centered_on(WorldPoint::new(12.0, 3.0));
    for list in [DrawList::new(), DrawList::keeping_hidden()] {
        let frame = painted(&listed(list, &quilt, &view));
        let shown = [4, 12, 20].map(|x| frame.pixels()[x]);
        let [wall, water] = ["wall", "water"].map(|name| Color::of_name(name).to_bytes());
        assert_eq!(shown, [wall, water, wall]);
    }
}

/// A tree hides what stands behind it and not what stands in front.
#[test]
fn tall_tiles_stand_on_their_foot_and_sort_by_row() {
    let mut quilt = empty_quilt();
    quilt
        .edit("trees", |pen| {
            for layer in ["works", "sky"] {
                pen.set_layer(layer, |settings| settings.with_sort_rows(true))?;
            }
            pen.put("works", CellPos::new(0, 1), pen.tile("tall/pole")?)?;
            pen.put("sky", CellPos::new(0, 0), pen.tile("flat/wall")?)?;
            pen.put("sky", CellPos::new(0, 2), pen.tile("flat/water")?)
        })
        .unwrap();
    // The pole is 10 × 20 and stands on the lower edge of cell 0,1, at y = 12.
    let view = View::new(ScreenSize::new(8, 30)).centered_on(WorldPoint::new(4.0, 3.0));
    let picture = quilt.draw(&view, Color::CLEAR);
    let row = |world_y: i32| picture.get(3, (world_y + 12) as u32).unwrap();
    assert_eq!(row(-9).a, 0, "above the pole");
    assert_eq!(row(-8).a, 255, "its top, two cells above its own");
    assert_ne!(row(3), Color::of_name("wall"), "it stands in front of the wall of row 0");
    assert_eq!(row(12), Color::of_name("water"), "row 2 stands in front of it");
    let wide = View::new(ScreenSize::new(30, 4)).centered_on(WorldPoint::new(4.0, -6.0));
    let list = listed(DrawList::new(), &quilt, &wide);
    assert_eq!(list.quads().len(), 1, "its cell is out of view, but it reaches in");
}

/// The whole table: a sprite among cells of its priority, sorted by row or not, raised or not.
#[test]
fn sprites_stand_among_the_cells() {
    let mut quilt = empty_quilt();
    let place = CellPos::new(0, 1);
    quilt
        .edit("a wall", |pen| pen.put("works", place, pen.tile("flat/wall")?).map(|_| ()))
        .unwrap();
    let grass = quilt.tile("flat/grass").unwrap();
    let view = View::new(ScreenSize::new(8, 30)).centered_on(WorldPoint::new(4.0, 9.0));
    // The cell 0,1 has its foot at y = 12; the sprite covers it from 10 to 12 in each case.
    let mut is_in_front = |cell_sorts: bool, cell_raised: bool, foot: f64, sprite_raised: bool| {
        let edit = quilt.edit("look", |pen| {
            pen.set_layer("works", |settings| settings.with_sort_rows(cell_sorts))?;
            let wall = pen.tile("flat/wall")?;
            pen.put("works", place, Cell::of(wall).with_raised(cell_raised))
        });
        edit.unwrap();
        let sprite = Sprite::new(1, grass, WorldPoint::new(4.0, foot)).with_raised(sprite_raised);
        let lifted = sprite.with_elevation(foot - 12.0);
        let list = listed_with(DrawList::new(), &quilt, &view, &[lifted]);
        let front = list.pick(view.to_screen(WorldPoint::new(4.0, 11.0))).next().unwrap();
        assert_eq!(painted(&list).pixels()[17 * 8 + 4], {
            let name = if front.key.sprite.is_some() { "grass" } else { "wall" };
            Color::of_name(name).to_bytes()
        });
        front.key.sprite.is_some()
    };
    for foot in [11.5, 12.0, 12.5] {
        assert!(is_in_front(false, false, foot, false), "unsorted cells lie on the ground");
        assert!(!is_in_front(false, true, foot, false), "a raised cell hides who walks below");
        assert!(is_in_front(false, true, foot, true) && is_in_front(true, false, foot, true));
        assert_eq!(is_in_front(true, false, foot, false), foot >= 12.0);
        assert_eq!(is_in_front(true, true, foot, true), foot >= 12.0);
        assert!(!is_in_front(true, true, foot, false));
    }
}

/// Sprites part the rows of a sorted layer, and rows with tall tiles lie by themselves; all the
/// other cells stay a stack.
#[test]
fn a_sorted_layer_is_parted_by_what_stands_in_it() {
    let mut quilt = empty_quilt();
    quilt
        .edit("rows", |pen| {
            pen.set_layer("works", |settings| settings.with_sort_rows(true))?;
            let grass = pen.tile("flat/grass")?;
            pen.fill("works", CellRect::new(CellPos::ORIGIN, 4, 10), grass)
        })
        .unwrap();
    let view = View::new(ScreenSize::new(32, 60)).centered_on(WorldPoint::new(16.0, 30.0));
    let grass = quilt.tile("flat/grass").unwrap();
    // Rows are 6 units high: the first has its foot behind that of the sprite, the second on it.
    let walkers = [(1, 31.0), (2, 30.0)];
    let walkers = walkers.map(|(key, foot)| Sprite::new(key, grass, WorldPoint::new(20.0, foot)));
    let passes = |quilt: &Quilt, sprites: &[Sprite]| -> Vec<(String, usize)> {
        let list = listed_with(DrawList::new(), quilt, &view, sprites);
        let found = list.passes().map(|pass| match pass {
            Pass::Loose(items) => ("loose".to_owned(), items.len()),
            Pass::Stack(pass) => {
                let chunks: Vec<_> = pass.chunks().collect();
                assert_eq!(chunks.len(), 1);
                let entries = chunks[0].entries().count();
                let rows = chunks[0].ranks();
                assert_eq!(entries, pass.shown().count());
                assert!(chunks[0].whole().entries().count() >= 36);
                assert_eq!(pass.cells().height(), u32::from(rows.end.min(10) - rows.start));
                (format!("{rows:?}"), entries)
            }
            pass => panic!("an unknown pass {pass:?}"),
        });
        found.collect()
    };
    let expected = |parts: &[(&str, usize)]| -> Vec<(String, usize)> {
        parts.iter().map(|(part, count)| ((*part).to_owned(), *count)).collect()
    };
    assert_eq!(passes(&quilt, &[]), expected(&[("0..64", 40)]));
    let parted = [("0..5", 20), ("loose", 2), ("5..10", 20)];
    assert_eq!(passes(&quilt, &walkers), expected(&parted));
    quilt
        .edit("a tree", |pen| pen.put("works", CellPos::new(1, 7), pen.tile("tall/tree")?))
        .unwrap();
    let parted = [("0..5", 20), ("loose", 2), ("5..7", 8), ("loose", 4), ("8..10", 8)];
    assert_eq!(passes(&quilt, &walkers), expected(&parted));
    assert_eq!(passes(&quilt, &[]), expected(&[("0..7", 28), ("loose", 4), ("8..10", 8)]));
}

/// Two sorted layers mix row by row in one pass, above a pass of the layer that is not sorted.
#[test]
fn sorted_layers_mix_above_one_that_is_not() {
    let mut quilt = empty_quilt();
    quilt
        .edit("rows", |pen| {
            let grass = pen.tile("art/holed")?;
            for (layer, sorts) in [("soil", false), ("growth", true), ("works", true)] {
                pen.set_layer(layer, |settings| settings.with_sort_rows(sorts).with_priority(0))?;
                pen.fill(layer, CellRect::new(CellPos::ORIGIN, 1, 2), grass)?;
            }
            Ok(())
        })
        .unwrap();
    let list = listed(DrawList::new(), &quilt, &View::new(ScreenSize::new(40, 40)));
    assert_eq!(list.passes().count(), 2);
    let order: Vec<_> = list.quads().iter().map(|q| (q.key.layer, q.key.place.y())).collect();
    assert_eq!(order, [(0, 0), (0, 1), (1, 0), (2, 0), (1, 1), (2, 1)]);
}

/// A sprite is behind a face that it stands below, also in a list that leaves out the layer of the
/// face.
#[test]
fn a_limited_list_has_sprites_where_the_list_of_all_has_them() {
    let mut quilt = empty_quilt();
    let roofed = CellPos::new(1, 1);
    quilt
        .edit("a roof", |pen| {
            pen.set_layer("works", |works| {
                works.with_sort_rows(true).with_elevation(8.0).with_priority(0)
            })?;
            pen.put("works", roofed, pen.tile("flat/wall")?)
        })
        .unwrap();
    let diamond = Projection::diamond(quilt.lattice(), 16, 8).unwrap();
    let view = View::new(ScreenSize::new(80, 60)).projected(diamond);
    let bounds = quilt.lattice().rect_bounds(CellRect::new(CellPos::ORIGIN, 2, 2));
    let sprite = Sprite::new(1, quilt.tile("flat/grass").unwrap(), bounds.center());
    let sprite = sprite.with_ground_box(bounds);
    let place = |list: DrawList| {
        let list = listed_with(list, &quilt, &view, std::slice::from_ref(&sprite));
        list.quads().iter().find(|quad| quad.key.sprite.is_some()).unwrap().key.place
    };
    assert_ne!(place(DrawList::new()), roofed);
    assert_eq!(place(DrawList::new().with_layers(["soil"])), place(DrawList::new()));
}
