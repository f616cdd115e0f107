//! Palettes, tints, sprites with pictures, and the frames of animations.

use proptest::prelude::*;
use sturdy_quilt::draw::{Atlas, AtlasError, SpritePicture};
use sturdy_quilt::quilt::{Palette, PartError};
use sturdy_quilt::tile::{ArtPlacement, SheetCut};
use sturdy_quilt::units::PixelSize;
use sturdy_quilt::{
    Cell, CellPos, CellRect, Clock, Color, DrawList, EditError, LayerSettings, Picture, Quilt,
    ScreenSize, Sprite, TileSet, TileSpec, Turn, View, WorldPoint,
};

use super::{any_scene, any_shot, listed, listed_at, listed_with, naive, painted, sprites_of};
use crate::scene::empty_quilt;

fn one_cell() -> View {
    View::new(ScreenSize::new(8, 6)).centered_on(WorldPoint::new(4.0, 3.0))
}

/// A map with one cell in the layer `soil`.
fn with_cell(cell: impl Fn(&Quilt) -> Cell) -> Quilt {
    let mut quilt = empty_quilt();
    let cell = cell(&quilt);
    quilt.edit("cell", |pen| pen.put("soil", CellPos::ORIGIN, cell)).unwrap();
    quilt
}

fn first_pixel(quilt: &Quilt) -> [u8; 4] {
    painted(&listed(DrawList::new(), quilt, &one_cell())).pixels()[0]
}

#[test]
fn a_palette_replaces_named_colours_and_tints() {
    let grass = |quilt: &Quilt, slot: u8| {
        Cell::of(quilt.tile("flat/grass").unwrap()).with_slot(slot).unwrap()
    };
    let dry = with_cell(|quilt| grass(quilt, quilt.palette("dry").unwrap().slot()));
    assert_eq!(first_pixel(&dry), [200, 170, 60, 255]);
    // The wall is another colour of the same set; the palette does not name it.
    let wall = with_cell(|quilt| Cell::of(quilt.tile("flat/wall").unwrap()).with_slot(1).unwrap());
    assert_eq!(first_pixel(&wall), Color::of_name("wall").to_bytes());
    let dusk = with_cell(|quilt| {
        Cell::of(quilt.tile("flat/grass").unwrap()).with_palette(quilt.palette("dusk").unwrap())
    });
    let tinted = Color::of_name("grass").times(Color::rgb(120, 100, 200));
    assert_eq!(first_pixel(&dusk), tinted.to_bytes());
    // A slot without a palette changes nothing.
    assert_eq!(
        first_pixel(&with_cell(|quilt| grass(quilt, 77))),
        Color::of_name("grass").to_bytes()
    );
}

#[test]
fn a_layer_in_a_palette_tints_cells_that_have_their_own() {
    let mut quilt =
        with_cell(|quilt| Cell::of(quilt.tile("flat/grass").unwrap()).with_slot(1).unwrap());
    quilt
        .edit("dusk", |pen| {
            let dusk = pen.quilt().palette("dusk")?;
            pen.set_layer("soil", |soil| soil.with_palette(dusk))
        })
        .unwrap();
    let expected = Color::rgb(200, 170, 60).times(Color::rgb(120, 100, 200));
    assert_eq!(first_pixel(&quilt), expected.to_bytes());
}

#[test]
fn a_palette_that_makes_tiles_faint_lets_them_cover_nothing() {
    let mut quilt = with_cell(|quilt| quilt.tile("flat/wall").unwrap().into());
    let faint = quilt.palette("faint").unwrap();
    quilt
        .edit("over", |pen| {
            let grass = Cell::of(pen.tile("flat/grass")?).with_palette(faint);
            pen.put("works", CellPos::ORIGIN, grass)
        })
        .unwrap();
    assert_eq!(listed(DrawList::new(), &quilt, &one_cell()).figures().hidden, 0);
}

#[test]
fn palettes_can_be_changed_undone_and_are_checked() {
    let mut quilt = empty_quilt();
    let before = quilt.clone();
    let edit = quilt
        .edit("new", |pen| pen.put_palette(Palette::new("dusk").with_tint(Color::rgb(9, 9, 9))));
    assert_eq!(quilt.palette("dusk").unwrap().slot(), 2, "it keeps its slot");
    quilt.apply(&edit.unwrap().changes.inverse()).unwrap();
    assert!(quilt.same_as(&before));
    let error = quilt.edit("wrong", |pen| {
        pen.put_palette(Palette::new("p").with_color("leav", Color::rgb(0, 0, 0)))
    });
    let Err(EditError::Part(PartError::Palette(error))) = error else { panic!("{error:?}") };
    assert_eq!(error.to_string(), "palette `p` replaces a colour that no tile set has");
    let source = std::error::Error::source(&error).unwrap().to_string();
    assert!(source.ends_with("did you mean `leaf`?"), "{source}");
    let many = quilt.edit("many", |pen| {
        (0..200).try_for_each(|number| pen.put_palette(Palette::new(format!("p{number}"))))
    });
    assert_eq!(many.unwrap_err().to_string(), "a map can have at most 127 palettes");
    assert!(quilt.same_as(&before), "a refused edit changes nothing");
}

#[test]
fn an_animation_shows_its_frames_in_time() {
    let quilt = with_cell(|quilt| quilt.tile("art/shimmer").unwrap().into());
    let source = |ms: u64| {
        let list = listed_at(DrawList::new(), &quilt, &one_cell(), &Clock::at_ms(ms), &[]);
        assert_eq!(list.figures().chunks_animated, 1);
        list.quads()[0].source.x / 8
    };
    // 100 ms opaque, 50 ms its own picture, 30 ms clear, over and over.
    let seen = [0, 99, 100, 149, 150, 179, 180, 280, 180_000_000_000_000].map(source);
    assert_eq!(seen, [0, 0, 4, 4, 3, 3, 0, 4, 0]);
}

#[test]
fn an_animation_played_once_begins_when_asked_and_stays_at_its_end() {
    let mut quilt = with_cell(|quilt| quilt.tile("art/shimmer").unwrap().into());
    let other = CellPos::new(0, 5);
    let shimmer = quilt.tile("art/shimmer").unwrap();
    quilt.edit("two", |pen| pen.put("soil", other, shimmer)).unwrap();
    let soil = quilt.layer("soil").unwrap().id();
    let mut clock = Clock::at_ms(130);
    clock.play_once(soil, CellPos::ORIGIN);
    let mut list = DrawList::new();
    let mut source = |clock: &Clock| {
        list.rebuild_with(&quilt, &one_cell(), clock, &[]);
        list.quads()[0].source.x / 8
    };
    assert_eq!(source(&clock), 0, "it begins anew");
    clock.advance(120);
    assert_eq!(source(&clock), 4);
    clock.advance(5000);
    assert_eq!((source(&clock), clock.played_ms(soil, other)), (3, None), "the last frame stays");
    clock.set_ms(0);
    assert_eq!(source(&clock), 0, "before it has begun");
    clock.set_ms(110);
    clock.stop(soil, CellPos::ORIGIN);
    assert_eq!(source(&clock), 4, "as all others");
}

#[test]
fn sprites_show_pictures_of_the_game() {
    let quilt = empty_quilt();
    let mut arrow = Picture::filled(PixelSize::new(3, 2), Color::rgb(200, 100, 50));
    arrow.set(0, 0, Color::CLEAR);
    let arrow = SpritePicture::new(
        &arrow,
        ArtPlacement { anchor: Some((0.0, 1.0)), ..ArtPlacement::default() },
    );
    let clear = SpritePicture::new(
        &Picture::filled(PixelSize::new(3, 2), Color::CLEAR),
        ArtPlacement::default(),
    );
    let foot = WorldPoint::new(1.0, 6.0);
    let sprite = Sprite::of_picture(4, arrow, foot).with_tint(Color::rgba(255, 255, 0, 255));
    let sprites =
        [sprite.clone(), sprite.with_turn(Turn::QUARTER), Sprite::of_picture(5, clear, foot)];
    let list = listed_with(DrawList::new(), &quilt, &one_cell(), &sprites);
    let quads = list.quads();
    assert_eq!(quads.len(), 2, "what is clear is not listed");
    let sizes = quads
        .iter()
        .map(|quad| (quad.target.right - quad.target.left, quad.target.bottom - quad.target.top));
    assert_eq!(sizes.collect::<Vec<_>>(), [(3, 2), (2, 3)]);
    assert_eq!(quads[0].page, quads[1].page);
    assert_eq!(list.page_name(quads[0].page), "pictures");
    let frame = painted(&listed_with(DrawList::new(), &quilt, &one_cell(), &sprites[..1]));
    assert_eq!(frame.pixels()[5 * 8 + 1], [200, 100, 0, 255]);
    assert_eq!(frame.pixels()[4 * 8 + 1], super::BACKGROUND.to_bytes(), "its clear corner");
}

/// A sheet whose tiles are surrounded by a colour that must never be seen.
fn hostile() -> (Quilt, Color) {
    let hostile = Color::rgb(255, 0, 255);
    let mut sheet = Picture::filled(PixelSize::new(60, 20), hostile);
    for (left, color) in [
        (5, Color::rgb(10, 200, 30)),
        (25, Color::rgb(20, 90, 200)),
        (45, Color::rgba(9, 9, 9, 128)),
    ] {
        for (x, y) in (0..10).flat_map(|x| (0..10).map(move |y| (x, y))) {
            sheet.set(left + x, 5 + y, color);
        }
    }
    let mut cut = SheetCut::new(PixelSize::new(10, 10));
    (cut.margin, cut.gap) = (5, 10);
    let set = TileSet::builder("s").sheet(&sheet, cut);
    let set = (0..3).fold(set, |set, n| set.tile(TileSpec::at(n, 0).with_name(format!("t{n}"))));
    let mut quilt = Quilt::new(sturdy_quilt::Lattice::square(10.0, 10.0).unwrap());
    quilt
        .edit("all", |pen| {
            pen.put_tiles(set.build()?)?;
            pen.add_layer("l", LayerSettings::default())?;
            for at in CellRect::new(CellPos::new(-20, -20), 40, 40).cells() {
                let tile = pen.tile(&format!("s/t{}", (at.x() * 7 + at.y()).rem_euclid(3)))?;
                let turn = Turn::SQUARE[(at.x() + at.y() * 3).rem_euclid(8) as usize];
                pen.put("l", at, Cell::of(tile).with_turn(turn))?;
            }
            Ok(())
        })
        .unwrap();
    (quilt, hostile)
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(128))]

    #[test]
    fn neighbours_in_the_sheet_never_show(
        (x, y) in (-50.0..50.0_f64, -50.0..50.0_f64), zoom in 0.07..9.0_f64, turn in prop_oneof![Just(0.0), 0.0..7.0_f64],
    ) {
        let (quilt, hostile) = hostile();
        let view = View::new(ScreenSize::new(97, 71)).centered_on(WorldPoint::new(x, y)).zoomed(zoom).turned(turn);
        let frame = painted(&listed(DrawList::new(), &quilt, &view));
        let [r, g, b, _] = hostile.to_bytes();
        let seen = frame.pixels().iter().find(|pixel| pixel[0] == r || pixel[2] == b && pixel[1] == g);
        prop_assert_eq!(seen, None);
    }

    /// Around each picture of an atlas its own pixels go on, and nothing of it is missing.
    #[test]
    fn an_atlas_holds_every_picture_with_its_border(border in 0..4_u32, side in 24..90_u32) {
        for quilt in [empty_quilt(), hostile().0] {
            let page = PixelSize::new(side + 2 * border, side + 2 * border);
            let atlas = Atlas::of(&quilt, page, border).unwrap();
            let list = listed(DrawList::new(), &quilt, &one_cell());
            let mut taken = std::collections::HashSet::new();
            for id in quilt.tiles().ids() {
                let (number, art) = quilt.tiles().art(id);
                let (own, source) = (list.page(number).unwrap(), art.source);
                let (at, place) = atlas.find(number, source).unwrap();
                let packed = &atlas.pages()[at as usize];
                prop_assert!(packed.size().width <= page.width && packed.size().height <= page.height);
                let size = source.size;
                for (dx, dy) in (0..size.width + 2 * border).flat_map(|x| (0..size.height + 2 * border).map(move |y| (x, y))) {
                    let (x, y) = (place.x - border + dx, place.y - border + dy);
                    let inner = |at: u32, length: u32| at.saturating_sub(border).min(length - 1);
                    let (u, v) = (source.x + inner(dx, size.width), source.y + inner(dy, size.height));
                    prop_assert_eq!(
                        packed.pixels()[(y * packed.size().width + x) as usize],
                        own.pixels()[(v * own.size().width + u) as usize]
                    );
                    taken.insert((at, x, y, place));
                }
            }
            let pixels: std::collections::HashSet<_> = taken.iter().map(|(at, x, y, _)| (at, x, y)).collect();
            prop_assert_eq!(pixels.len(), taken.len(), "no two pictures overlap");
        }
    }

    /// Quads drawn from the atlas show the same pixels.
    #[test]
    fn quads_of_an_atlas_show_the_same(quilt in any_scene(), (view, clock, seeds) in any_shot()) {
        // An atlas is one of a map as that is meant to be seen; one with bands is seen from above.
        let mut quilt = quilt;
        let _ = quilt.edit("see it so", |pen| pen.set_projection(*view.projection()));
        let view = view.projected(*quilt.projection());
        let atlas = Atlas::of(&quilt, PixelSize::new(256, 256), 1).unwrap();
        prop_assert!(atlas.is_of(&quilt));
        let list = listed_at(DrawList::new(), &quilt, &view, &clock, &sprites_of(&quilt, &seeds));
        let (before, mut after) = (list.quads(), list.quads());
        atlas.put_into(&mut after);
        prop_assert!(DrawList::batches(&after).len() <= DrawList::batches(&before).len());
        for (before, after) in before.iter().zip(&after) {
            let (x, y) = (before.target.left, before.target.top);
            if before.target.right <= x || before.target.bottom <= y {
                continue;
            }
            let (from, to) = (list.page(before.page).unwrap(), &atlas.pages()[after.page as usize]);
            let (u, v) = naive::texel(before, x, y);
            let (s, t) = naive::texel(after, x, y);
            prop_assert_eq!(
                from.pixels()[(v * from.size().width + u) as usize],
                to.pixels()[(t * to.size().width + s) as usize]
            );
        }
    }
}

#[test]
fn a_picture_that_fits_on_no_page_is_refused() {
    let error = Atlas::of(&empty_quilt(), PixelSize::new(16, 21), 1).unwrap_err();
    let AtlasError { size, .. } = error;
    assert_eq!(size, PixelSize::new(10, 20));
    assert_eq!(
        error.to_string(),
        "a picture of 10 × 20 px with a border of 1 px does not fit on a page of 16 × 21 px"
    );
}
