//! Layers that move, repeat themselves, and shine.

use proptest::prelude::*;
use sturdy_quilt::quilt::{Blend, Parallax, ParallaxBand, Wrap};
use sturdy_quilt::{
    Cell, CellPos, CellRect, Clock, Color, DrawList, Frame, LayerSettings, Painter, Quilt,
    ScreenSize, Sprite, View, WorldPoint, WorldVec,
};

use super::{listed, listed_at, painted};
use crate::scene::empty_quilt;

/// A map whose layer `soil` is a rectangle of cells from the origin, each a tile by a rule.
fn with_soil(
    width: u32,
    height: u32,
    settings: LayerSettings,
    tile: impl Fn(CellPos) -> &'static str,
) -> Quilt {
    let mut quilt = empty_quilt();
    quilt
        .edit("soil", |pen| {
            pen.set_layer("soil", |_| settings)?;
            for at in CellRect::new(CellPos::ORIGIN, width, height).cells() {
                pen.put("soil", at, pen.tile(tile(at))?)?;
            }
            Ok(())
        })
        .unwrap();
    quilt
}

fn view(width: u32, height: u32, x: f64, y: f64) -> View {
    View::new(ScreenSize::new(width, height)).centered_on(WorldPoint::new(x, y))
}

/// Where a tile shows in a picture: the first column of pixels in its colour.
fn first_column(frame: &Frame, tile: &str) -> Option<usize> {
    let wanted = Color::of_name(tile).to_bytes();
    let width = frame.size().width as usize;
    frame.pixels()[..width].iter().position(|pixel| *pixel == wanted)
}

#[test]
fn a_layer_follows_the_camera_by_its_factor() {
    // One wall at 0,0 in front of grass; cells are 8 units wide.
    let tile = |at: CellPos| if at.x() == 20 { "flat/wall" } else { "flat/grass" };
    for (factor, expected) in [(1.0, [160, 150, 140]), (0.5, [160, 155, 150]), (0.0, [160; 3])] {
        let settings = LayerSettings::default().with_parallax(Parallax { x: factor, y: 1.0 });
        let quilt =
            with_soil(60, 2, settings.with_parallax_from(WorldPoint::new(100.0, 0.0)), tile);
        let seen = [0.0, 10.0, 20.0].map(|moved| {
            let view = view(200, 4, 100.0 + moved, 4.0);
            first_column(&painted(&listed(DrawList::new(), &quilt, &view)), "wall").unwrap()
        });
        assert_eq!(seen, expected, "by {factor}");
    }
}

#[test]
fn a_layer_with_a_speed_moves_with_the_time_alone() {
    let tile = |at: CellPos| if at.x() == 3 { "flat/wall" } else { "flat/grass" };
    let settings = LayerSettings::default().with_speed(WorldVec::new(20.0, 0.0));
    let quilt = with_soil(60, 2, settings, tile);
    let at = |ms: u64| {
        let view = view(300, 4, 150.0, 4.0);
        let list = listed_at(DrawList::new(), &quilt, &view, &Clock::at_ms(ms), &[]);
        assert!(list.passes().any(|pass| {
            matches!(pass, sturdy_quilt::draw::Pass::Stack(pass) if pass.changes_with_time())
        }));
        first_column(&painted(&list), "wall")
    };
    assert_eq!([at(0), at(500), at(1000), at(10_000)], [24, 34, 44, 224].map(Some));
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(200))]

    /// Wherever the camera stands, whatever the zoom and the factors: no pixel of a layer that
    /// repeats itself and has bands is empty, and each is covered once.
    #[test]
    fn bands_leave_no_gap_and_show_no_row_twice(
        bands in prop::collection::btree_map(-6..9_i32, (-0.5..1.5_f64, -40.0..40.0_f64), 0..4),
        (x, y, zoom) in (-1e4..1e4_f64, -1e3..1e3_f64, 0.2..4.0_f64),
        (ms, snaps) in (0..100_000_u64, any::<bool>()),
    ) {
        let bands = bands.into_iter().map(|(row, (parallax, speed))| ParallaxBand::new(row, parallax).with_speed(speed));
        let settings = LayerSettings::default().with_bands(bands).with_wrap(Wrap::Both);
        let quilt = with_soil(5, 4, settings, |_| "flat/grass");
        let view = view(61, 47, x, y).zoomed(zoom).snapped(snaps);
        let list = listed_at(DrawList::new(), &quilt, &view, &Clock::at_ms(ms), &[]);
        let mut covered = vec![0; 61 * 47];
        for quad in list.quads() {
            for y in quad.target.top.max(0)..quad.target.bottom.min(47) {
                for x in quad.target.left.max(0)..quad.target.right.min(61) {
                    covered[(y * 61 + x) as usize] += 1;
                }
            }
        }
        prop_assert!(covered.iter().all(|count| *count == 1), "{:?}", covered);
    }

    /// A layer that repeats itself shows what one shows in which the copies are real cells.
    #[test]
    fn a_copy_shows_what_real_cells_would(
        wrap in prop::sample::select(vec![Wrap::X, Wrap::Y, Wrap::Both]),
        (x, y, zoom) in (-90.0..90.0_f64, -60.0..60.0_f64, 0.4..3.0_f64),
        sorted in any::<bool>(),
    ) {
        let tiles = ["flat/grass", "art/holed", "tall/tree", "art/soft", "tall/pole", "flat/wall"];
        let tile = |at: CellPos| tiles[(at.x() + at.y() * 2).rem_euclid(6) as usize];
        let settings = LayerSettings::default().with_sort_rows(sorted);
        let small = with_soil(4, 3, settings.clone().with_wrap(wrap), tile);
        let mut large = with_soil(1, 1, settings, tile);
        large.edit("copies", |pen| {
            let own = CellRect::new(CellPos::ORIGIN, 4, 3);
            for (across, down) in (-8..9).flat_map(|x| (-8..9).map(move |y| (x, y))) {
                if across != 0 && !wrap.across() || down != 0 && !wrap.down() {
                    continue;
                }
                for at in own.cells() {
                    let copy = CellPos::new(at.x() + across * 4, at.y() + down * 3);
                    pen.put("soil", copy, pen.tile(tile(at))?)?;
                }
            }
            Ok(())
        }).unwrap();
        let view = view(70, 50, x, y).zoomed(zoom);
        let [a, b] = [&small, &large].map(|quilt| painted(&listed(DrawList::new(), quilt, &view)));
        prop_assert!(a == b);
    }
}

#[test]
fn repeated_layers_and_backdrops_far_away_and_tiny_are_no_burden() {
    let settings = LayerSettings::default().with_wrap(Wrap::Both);
    let mut quilt = with_soil(1, 1, settings, |_| "flat/grass");
    let grass = quilt.tile("flat/grass").unwrap();
    quilt
        .edit("backdrop", |pen| {
            let backdrop =
                LayerSettings::default().with_backdrop(Cell::of(grass)).with_wrap(Wrap::Both);
            pen.set_layer("growth", |_| backdrop)
        })
        .unwrap();
    let vast = view(64, 48, 1e6, -1e6).zoomed(View::MIN_ZOOM);
    let list = listed(DrawList::new(), &quilt, &vast);
    assert!(list.quads().len() < 4 * 66 * 50, "{} quads", list.quads().len());
}

#[test]
fn a_backdrop_lies_behind_the_cells_of_its_layer_and_before_lower_layers() {
    let mut quilt = empty_quilt();
    quilt
        .edit("sky", |pen| {
            let (grass, wall) = (pen.tile("flat/grass")?, pen.tile("flat/wall")?);
            let water = pen.tile("flat/water")?;
            pen.put("soil", CellPos::ORIGIN, grass)?;
            pen.put("soil", CellPos::new(1, 0), grass)?;
            pen.set_layer("growth", |_| LayerSettings::default().with_backdrop(Cell::of(water)))?;
            pen.put("growth", CellPos::new(1, 0), wall)
        })
        .unwrap();
    let frame = painted(&listed(DrawList::new(), &quilt, &view(24, 6, 12.0, 3.0)));
    let shown = [4, 12].map(|x| frame.pixels()[x]);
    assert_eq!(shown, ["water", "wall"].map(|tile| Color::of_name(tile).to_bytes()));
}

/// Cell raised or not, sprite raised or not, their layers of one priority or two.
#[test]
fn the_whole_table_of_raise() {
    let place = CellPos::new(0, 1);
    let view = view(8, 30, 4.0, 9.0);
    let mut seen = Vec::new();
    for tile in ["flat/wall", "art/roof"] {
        for raised in [false, true] {
            for sprite_raised in [false, true] {
                for (layer, sprite) in [(0, 0), (0, 1), (1, 0)] {
                    let mut quilt = empty_quilt();
                    let cell = Cell::of(quilt.tile(tile).unwrap()).with_raised(raised);
                    let edit = quilt.edit("cell", |pen| {
                        pen.set_layer("works", |works| works.with_priority(layer))?;
                        pen.put("works", place, cell)
                    });
                    edit.unwrap();
                    let grass = quilt.tile("flat/grass").unwrap();
                    let sprites = [Sprite::new(1, grass, WorldPoint::new(4.0, 12.0))
                        .with_raised(sprite_raised)
                        .with_priority(sprite)];
                    let list = listed_at(DrawList::new(), &quilt, &view, &Clock::new(), &sprites);
                    let point = view.to_screen(WorldPoint::new(4.0, 9.0));
                    let front = list.pick(point).next().unwrap();
                    // The tile that is always raised counts as a raised cell.
                    let cell_raised = raised || tile == "art/roof";
                    let expected = match layer.cmp(&sprite) {
                        std::cmp::Ordering::Less => true,
                        std::cmp::Ordering::Greater => false,
                        std::cmp::Ordering::Equal => sprite_raised || !cell_raised,
                    };
                    let is_sprite = front.key.sprite.is_some();
                    assert_eq!(
                        is_sprite, expected,
                        "{tile} {raised} {sprite_raised} {layer} {sprite}"
                    );
                    seen.push(is_sprite);
                }
            }
        }
    }
    assert_eq!(seen.iter().filter(|front| **front).count(), 13, "of 24 cases");
}

#[test]
fn light_is_added_up_to_white_and_covers_nothing() {
    let mut quilt = with_soil(1, 1, LayerSettings::default(), |_| "flat/grass");
    quilt
        .edit("light", |pen| {
            pen.set_layer("sky", |sky| {
                sky.with_blend(Blend::Add).with_tint(Color::rgb(255, 128, 0))
            })?;
            pen.put("sky", CellPos::ORIGIN, pen.tile("flat/wall")?)
        })
        .unwrap();
    let list = listed(DrawList::new(), &quilt, &view(8, 6, 4.0, 3.0));
    assert_eq!(list.figures().hidden, 0);
    let (grass, wall) = (Color::of_name("grass"), Color::of_name("wall"));
    let lit = |below: u8, light: u8, tint: u16| {
        let light = (u16::from(light) * tint + 127) / 255;
        below.saturating_add(light as u8)
    };
    let expected =
        [lit(grass.r, wall.r, 255), lit(grass.g, wall.g, 128), lit(grass.b, wall.b, 0), 255];
    assert_eq!(painted(&list).pixels()[0], expected);
}

#[test]
fn several_views_share_a_frame() {
    let quilt = with_soil(30, 30, LayerSettings::default(), |at| {
        if (at.x() + at.y()) % 3 == 0 { "flat/wall" } else { "art/holed" }
    });
    let mut frame = Frame::new(ScreenSize::new(60, 40));
    let (mut lists, mut painter) = ([DrawList::new(), DrawList::new()], Painter::new());
    for (number, list) in lists.iter_mut().enumerate() {
        let number = number as i32;
        let own =
            view(30, 40, 40.0 + f64::from(number) * 77.0, 60.0).zoomed(1.0 + f64::from(number));
        list.rebuild(&quilt, &own);
        let part = sturdy_quilt::units::ScreenRect {
            left: number * 30,
            top: 0,
            right: number * 30 + 30,
            bottom: 40,
        };
        painter.paint(list, frame.part(part));
    }
    for (number, list) in lists.iter().enumerate() {
        let mut alone = Frame::new(ScreenSize::new(30, 40));
        Painter::new().paint(list, &mut alone);
        for (row, own) in frame.pixels().chunks(60).zip(alone.pixels().chunks(30)) {
            assert_eq!(&row[number * 30..number * 30 + 30], own);
        }
    }
}
