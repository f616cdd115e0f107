//! The painter on memory of any owner, turned views, and minimaps.

use proptest::prelude::*;
use sturdy_quilt::edit::Extraction;
use sturdy_quilt::inspect::{MinimapScale, Sampling};
use sturdy_quilt::paint::{CanvasError, PixelOrder, Shortcuts};
use sturdy_quilt::quilt::{Blend, Wrap};
use sturdy_quilt::units::{PaneVec, ScreenRect};
use sturdy_quilt::view::Projection;
use sturdy_quilt::{
    Canvas, CellPos, CellRect, Color, DrawList, Frame, Minimap, Painter, ScreenPoint, ScreenSize,
    View, WorldPoint, WorldVec,
};

use super::{
    BACKGROUND, any_projection, any_scene, any_shot, listed, listed_at, naive::naively_painted,
    painted, sprites_of,
};
use crate::scene::{LAYERS, any_change, any_quilt, dense_quilt, empty_quilt, make};

/// Painters that paint in bands.
fn threaded() -> Vec<Painter> {
    #[cfg(feature = "threads")]
    return vec![Painter::new().with_threads(2), Painter::new().with_threads(7)];
    #[cfg(not(feature = "threads"))]
    return Vec::new();
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(128))]

    /// A window buffer with a stride shows what a frame shows, and nothing beside it is touched.
    #[test]
    fn every_order_of_channels_shows_the_same(
        quilt in any_scene(), (view, clock, seeds) in any_shot(), (gap, cut) in (0..9_usize, 0..20_u32),
    ) {
        let list = listed_at(DrawList::new(), &quilt, &view, &clock, &sprites_of(&quilt, &seeds));
        let frame = painted(&list);
        let size = view.size();
        let stride = size.width as usize + gap;
        let mut buffer = vec![0x005a_3c78_u32; stride * size.height as usize];
        let mut canvas = Canvas::rgb0(&mut buffer, size, stride).unwrap();
        prop_assert_eq!(canvas.order(), PixelOrder::Rgb0);
        let rows = ScreenRect { left: 0, top: 0, right: size.width as i32, bottom: size.height.saturating_sub(cut) as i32 };
        Painter::new().paint(&list, canvas.part(rows));
        for (at, pixel) in buffer.iter().enumerate() {
            let (x, y) = (at % stride, at / stride);
            let [r, g, b, _] = if x < size.width as usize && (y as i32) < rows.bottom {
                frame.pixels()[y * size.width as usize + x]
            } else {
                BACKGROUND.to_bytes()
            };
            prop_assert_eq!(pixel.to_be_bytes(), [0, r, g, b], "{},{}", x, y);
        }
    }

    /// What a painter keeps from picture to picture, and what it does to be fast, change no pixel:
    /// neither between maps, views, times and orders of channels, nor after edits.
    #[test]
    fn a_painter_that_is_kept_paints_what_a_new_one_does(
        scenes in prop::collection::vec((any_scene(), any_shot()), 1..3),
        steps in prop::collection::vec((any::<usize>(), any_change(), any_shot(), any::<bool>()), 1..12),
        turn in prop_oneof![3 => Just(0.0), 1 => -1.0..1.0_f64],
    ) {
        let mut quilts: Vec<_> = scenes.iter().map(|(quilt, _)| quilt.clone()).collect();
        let mut lists = vec![DrawList::new(); quilts.len()];
        let all = Shortcuts::default();
        let without = [
            Shortcuts { vectors: false, ..all },
            Shortcuts { classes: false, ..all },
            Shortcuts { stacks: false, ..all },
            Shortcuts { strips: false, ..all },
            Shortcuts { chunks: false, ..all },
            Shortcuts { vectors: false, classes: false, stacks: false, strips: false, chunks: false },
        ];
        let mut threaded = threaded();
        let mut painters: Vec<_> = std::iter::once(all).chain(without).map(Painter::with_shortcuts).collect();
        for (number, change, (view, clock, seeds), as_window) in &steps {
            let number = number % quilts.len();
            let (quilt, list) = (&mut quilts[number], &mut lists[number]);
            make(quilt, change);
            let (view, sprites) = (&view.turned(turn), sprites_of(quilt, seeds));
            list.rebuild_with(quilt, view, clock, &sprites);
            let painted = |painter: &mut Painter| {
                let size = view.size();
                let mut buffer = vec![0x005a_3c78_u32; size.width as usize * size.height as usize];
                if *as_window {
                    let canvas = Canvas::rgb0(&mut buffer, size, size.width as usize).unwrap();
                    painter.paint(list, canvas);
                    return buffer;
                }
                let mut frame = Frame::new(size);
                frame.clear(BACKGROUND);
                painter.paint(list, &mut frame);
                frame.pixels().iter().map(|pixel| u32::from_ne_bytes(*pixel)).collect()
            };
            let new = painted(&mut Painter::new());
            for painter in painters.iter_mut().chain(&mut threaded) {
                prop_assert!(painted(painter) == new);
            }
        }
    }

    /// Each pixel of a turned view shows the pixel of the upright picture under its centre.
    #[test]
    fn a_turned_view_shows_the_upright_picture_turned(
        quilt in any_scene(), (view, clock, seeds) in any_shot(), turn in -4.0..4.0_f64,
    ) {
        let view = view.turned(turn);
        let mut quilt = quilt;
        // Light that is more than white is cut off before it is turned, not after.
        quilt.edit("no light", |pen| {
            let ids: Vec<_> = pen.quilt().layers().iter().map(|layer| layer.id()).collect();
            ids.into_iter().try_for_each(|id| pen.set_layer(id, |layer| layer.with_blend(Blend::Normal)))
        }).unwrap();
        let sprites = sprites_of(&quilt, &seeds).into_iter().map(|sprite| sprite.with_blend(Blend::Normal));
        let sprites: Vec<_> = sprites.collect();
        let list = listed_at(DrawList::new(), &quilt, &view, &clock, &sprites);
        let upright = naively_painted(&list, BACKGROUND);
        let (found, size) = (painted(&list), list.upright().size());
        for (at, pixel) in found.pixels().iter().enumerate() {
            let width = view.size().width as usize;
            let point = ScreenPoint::pixel((at % width) as u32, (at / width) as u32);
            let there = view.to_upright(point);
            let near_edge = |place: f32| (place - place.round()).abs() < 1e-3;
            if near_edge(there.x) || near_edge(there.y) {
                continue;
            }
            prop_assert!(there.x >= 0.0 && there.y >= 0.0);
            let (x, y) = (there.x as usize, there.y as usize);
            prop_assert!(x < size.width as usize && y < size.height as usize, "the picture holds the screen");
            let expected = upright[y * size.width as usize + x];
            // Laid on the background as a whole, a stack of soft tiles is rounded once more; and on
            // edges between texels either may show.
            let near = pixel.iter().zip(&expected).filter(|(a, b)| a.abs_diff(**b) > 6).count();
            prop_assert!(near == 0 || list.quads().iter().any(|quad| {
                quad.target.contains(x as i32, y as i32) && super::is_on_an_edge(quad, view.zoom(), x as i32, y as i32)
            }), "{:?} {:?}", pixel, expected);
        }
    }

    /// What a turned view says of the world is what shows there.
    #[test]
    fn points_of_a_turned_view_lead_back(
        (view, _, _) in any_shot(), turn in -9.0..9.0_f64, (x, y) in (-80.0..80.0_f32, -60.0..60.0_f32),
    ) {
        let view = view.turned(turn);
        let there = view.to_world(ScreenPoint::new(x, y));
        let back = view.to_screen(there);
        prop_assert!((back.x - x).abs() < 1e-2 && (back.y - y).abs() < 1e-2);
        let flat = view.upright().to_screen(there);
        let upright = view.to_upright(ScreenPoint::new(x, y));
        prop_assert!((flat.x - upright.x).abs() < 1e-2 && (flat.y - upright.y).abs() < 1e-2);
        let inside = (0.0..view.size().width as f32).contains(&x) && (0.0..view.size().height as f32).contains(&y);
        prop_assert!(!inside || view.visible().grown(1e-6).contains(there));
    }

    /// A minimap is the mean, or the middle, of the picture in full size.
    #[test]
    fn a_minimap_is_the_map_reduced(
        mut quilt in dense_quilt(),
        part in prop_oneof![1..6_u32, Just(24), Just(48)],
        (nearest, cells) in (any::<bool>(), any::<bool>()),
        (is_low, is_plain) in (prop::bool::weighted(0.7), prop::bool::weighted(0.7)),
    ) {
        if is_low {
            // Nothing reaches beyond its cell.
            quilt.edit("low", |pen| {
                let tall: Vec<_> = ["tall/tree", "tall/pole"].iter().map(|name| pen.tile(name)).collect::<Result<_, _>>()?;
                LAYERS.iter().try_for_each(|layer| pen.extract(*layer, &Extraction::tiles(tall.clone())).map(drop))
            }).unwrap();
        }
        // Layers that move are not on it.
        quilt.edit("still", |pen| {
            let ids: Vec<_> = pen.quilt().layers().iter().map(|layer| layer.id()).collect();
            ids.into_iter().try_for_each(|id| pen.set_layer(id, |layer| {
                let still = layer.with_speed(sturdy_quilt::WorldVec::ZERO).with_parallax(sturdy_quilt::quilt::Parallax::WORLD).with_bands([]);
                match is_plain {
                    // Cells lie on cells, once.
                    true => {
                        let whole = |v: f64, side: f64| (v / side).round() * side;
                        let offset = still.offset;
                        still.with_offset(WorldVec::new(whole(offset.x, 8.0), whole(offset.y, 6.0))).with_wrap(Wrap::No).with_backdrop(None)
                    }
                    false => still,
                }
            }))
        }).unwrap();
        let area = CellRect::new(CellPos::new(-3, -3), 7, 7);
        let scale = if cells { MinimapScale::Cells } else { MinimapScale::Part(part) };
        let (across, down) = if cells { (8, 6) } else { (part, part) };
        let sampling = if nearest { Sampling::Nearest } else { Sampling::Average };
        let mut minimap = Minimap::new(scale).with_sampling(sampling).with_area(Some(area));
        minimap.refresh(&quilt).unwrap();
        let size = minimap.frame().size();
        prop_assert_eq!((size.width, size.height), ((7 * 8_u32).div_ceil(across), (7 * 6_u32).div_ceil(down)));
        // The corner of the area is the corner of the picture.
        let full = ScreenSize::new(size.width * across, size.height * down);
        let half = (f64::from(full.width) / 2.0, f64::from(full.height) / 2.0);
        let view = View::new(full).centered_on(WorldPoint::new(-24.0 + half.0, -18.0 + half.1));
        let mut frame = Frame::new(full);
        Painter::new().paint(&listed(DrawList::new(), &quilt, &view), &mut frame);
        for (at, found) in minimap.frame().pixels().iter().enumerate() {
            let (x, y) = (at as u32 % size.width, at as u32 / size.width);
            let own = (0..down).flat_map(|dy| (0..across).map(move |dx| (dx, dy)));
            let pixel = |(dx, dy): (u32, u32)| frame.pixels()[((y * down + dy) * full.width + x * across + dx) as usize];
            let expected = if nearest { pixel(((across - 1) / 2, (down - 1) / 2)) } else {
                let mut sums = [0.0; 4];
                own.for_each(|place| (0..4).for_each(|c| sums[c] += f64::from(pixel(place)[c])));
                sums.map(|sum| (sum / f64::from(across * down) + 1e-9).round() as u8)
            };
            prop_assert_eq!(*found, expected, "{},{}", x, y);
        }
    }

    /// A minimap of the map as it is seen is the mean of a picture in full size, and its places are
    /// those of the pane.
    #[test]
    fn a_minimap_at_a_slant_is_the_picture_reduced(
        quilt in any_quilt(20), projection in any_projection(), part in 2..9_u32,
    ) {
        let mut quilt = quilt;
        quilt.edit("still", |pen| {
            let ids: Vec<_> = pen.quilt().layers().iter().map(|layer| layer.id()).collect();
            ids.into_iter().try_for_each(|id| pen.set_layer(id, |layer| {
                let still = layer.with_speed(WorldVec::ZERO);
                still.with_parallax(sturdy_quilt::quilt::Parallax::WORLD).with_bands([])
            }))
        }).unwrap();
        let area = CellRect::new(CellPos::new(-3, -3), 6, 7);
        let mut minimap = Minimap::new(MinimapScale::Part(part))
            .with_area(Some(area))
            .with_projection(projection);
        minimap.refresh(&quilt).unwrap();
        let pane = projection.around(quilt.lattice().rect_bounds(area), 0.0);
        let size = minimap.frame().size();
        let full = ScreenSize::new(size.width * part, size.height * part);
        let half = PaneVec::new(f64::from(full.width) / 2.0, f64::from(full.height) / 2.0);
        let view = View::new(full).projected(projection).pane_centered_on(pane.min() + half);
        let mut frame = Frame::new(full);
        Painter::new().paint(&listed(DrawList::new(), &quilt, &view), &mut frame);
        for (at, found) in minimap.frame().pixels().iter().enumerate() {
            let (x, y) = (at as u32 % size.width, at as u32 / size.width);
            let mut sums = [0.0; 4];
            for (dx, dy) in (0..part).flat_map(|dy| (0..part).map(move |dx| (dx, dy))) {
                let pixel = frame.pixels()[((y * part + dy) * full.width + x * part + dx) as usize];
                (0..4).for_each(|c| sums[c] += f64::from(pixel[c]));
            }
            let expected = sums.map(|sum| (sum / f64::from(part * part) + 1e-9).round() as u8);
            prop_assert_eq!(*found, expected, "{},{}", x, y);
        }
        let place = WorldPoint::new(7.0, -5.0);
        let back = minimap.to_world(minimap.to_pixels(place));
        prop_assert!((back.x - place.x).abs() < 1e-3 && (back.y - place.y).abs() < 1e-3);
    }

    /// A minimap that was kept up to date is the one made anew, after any edits on any clone.
    #[test]
    fn a_refreshed_minimap_equals_a_new_one(
        mut quilt in any_quilt(12),
        changes in prop::collection::vec((any_change(), any::<bool>(), any::<usize>()), 1..8),
        scale in prop::sample::select(vec![MinimapScale::Cells, MinimapScale::Part(8), MinimapScale::Part(48)]),
        projection in prop_oneof![Just(Projection::FLAT), any_projection()],
    ) {
        let area = CellRect::new(CellPos::new(-20, -70), 40, 90);
        let fresh = || Minimap::new(scale).with_area(Some(area)).with_projection(projection);
        let (mut kept, mut clones) = (fresh(), vec![quilt.clone()]);
        for (change, keep, jump) in &changes {
            make(&mut quilt, change);
            if *keep {
                clones.push(quilt.clone());
                quilt = clones[jump % clones.len()].clone();
            }
            kept.refresh(&quilt).unwrap();
            let mut new = fresh();
            new.refresh(&quilt).unwrap();
            prop_assert!(kept.frame() == new.frame());
            prop_assert_eq!(kept.refresh(&quilt).unwrap(), 0);
        }
    }
}

#[test]
fn a_buffer_that_is_too_small_is_refused() {
    let size = ScreenSize::new(8, 4);
    let mut buffer = vec![[0; 4]; 8 * 4 + 3 * 2 - 1];
    let error = Canvas::rgba(&mut buffer, size, 10).unwrap_err();
    assert_eq!(error, CanvasError { size, stride: 10, found: 37 });
    assert_eq!(
        error.to_string(),
        "a canvas of 8 × 4 px with rows 10 pixels apart needs 38 pixels, not 37"
    );
    assert!(Canvas::rgba(&mut buffer, size, 9).is_ok());
    assert!(Canvas::rgba(&mut buffer, size, 7).is_err(), "rows would overlap");
    assert!(Canvas::rgba(&mut [], ScreenSize::new(0, 9), 0).is_ok());
}

#[test]
fn an_edit_costs_a_minimap_the_blocks_that_it_touches() {
    let mut quilt = empty_quilt();
    let wide = CellRect::new(CellPos::ORIGIN, 640, 480);
    quilt.edit("wide", |pen| pen.fill("soil", wide, pen.tile("flat/grass")?)).unwrap();
    let mut minimap = Minimap::new(MinimapScale::Part(8));
    let all = minimap.refresh(&quilt).unwrap();
    assert!(all > 40, "{all}");
    quilt
        .edit("one", |pen| pen.put("soil", CellPos::new(300, 300), pen.tile("flat/wall")?))
        .unwrap();
    let one = minimap.refresh(&quilt).unwrap();
    assert!((1..=9).contains(&one), "{one}");
    let pixel = minimap.to_pixels(WorldPoint::new(2404.0, 1803.0));
    let at = pixel.y as usize * minimap.frame().size().width as usize + pixel.x as usize;
    assert_ne!(minimap.frame().pixels()[at], Color::of_name("grass").to_bytes());
}

#[test]
fn a_minimap_that_would_be_too_large_is_refused() {
    let mut quilt = empty_quilt();
    let wide = CellRect::new(CellPos::ORIGIN, 100_000, 2);
    quilt.edit("wide", |pen| pen.fill("soil", wide, pen.tile("flat/grass")?)).unwrap();
    let error = Minimap::new(MinimapScale::Cells).refresh(&quilt).unwrap_err();
    assert_eq!(
        error.to_string(),
        "a minimap of 100000 × 2 px is larger than 8192 × 8192 px; choose another scale or fewer cells"
    );
    let mut small = Minimap::new(MinimapScale::Part(999));
    assert!(small.refresh(&empty_quilt()).is_ok(), "an empty map has an empty minimap");
    assert_eq!(small.frame().size(), ScreenSize::new(0, 0));
}
