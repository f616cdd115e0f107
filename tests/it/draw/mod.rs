//! Drawing: the order, the list, and the pixels.

mod colors;
mod kept;
mod layers;
mod naive;
mod order;
mod painter;
mod passes;

use std::collections::HashSet;

use proptest::prelude::*;
use sturdy_quilt::draw::{DrawKey, DrawKind, LooseItem, Pass, Quad};
use sturdy_quilt::inspect::Visibility;
use sturdy_quilt::quilt::Blend;
use sturdy_quilt::units::{PixelSize, ScreenRect, ScreenVec};
use sturdy_quilt::view::{Facing, Projection};
use sturdy_quilt::{
    Cell, CellPos, CellRect, Clock, Color, DrawList, Frame, Layer, Painter, Picture, Quilt,
    ScreenPoint, ScreenSize, Sprite, Turn, View, WorldPoint, WorldRect, WorldVec, doc_quilt,
};

use naive::{
    NaiveQuad, is_on_an_edge, is_on_screen, naive_quads, naive_sprites, naively_painted,
    shown_texel,
};

use crate::scene::{TILES, any_change, any_quilt, dense_quilt, empty_quilt, make};
use crate::view::odd_views;

/// Views of a few cells, at whole and broken zooms and places.
fn any_view() -> impl Strategy<Value = View> {
    let zoom = prop_oneof![2 => Just(1.0), 1 => Just(2.0), 2 => 0.3..3.5_f64];
    let shift = prop_oneof![3 => Just((0.0, 0.0)), 1 => (-9.0..9.0_f32, -9.0..9.0_f32)];
    let odds = (any::<bool>(), prop::bool::weighted(0.3), shift);
    (1..70_u32, 1..50_u32, -60.0..60.0_f64, -40.0..40.0_f64, zoom, odds).prop_map(
        |(width, height, x, y, zoom, (whole, snaps, (right, down)))| {
            let (x, y) = if whole { (x.round(), y.round()) } else { (x, y) };
            let view = View::new(ScreenSize::new(width, height)).snapped(snaps);
            let view = view.shifted(ScreenVec::new(right, down));
            view.centered_on(WorldPoint::new(x, y)).zoomed(zoom)
        },
    )
}

/// A projection of the maps of these tests, and 1 in 2 from above as the map is laid out.
fn any_projection() -> impl Strategy<Value = Projection> {
    let lattice = *empty_quilt().lattice();
    let diamond = |width, height| Projection::diamond(&lattice, width, height).unwrap();
    let kinds = prop_oneof![
        Just(Projection::FLAT),
        Just(diamond(16, 8)),
        Just(diamond(8, 6)),
        Just(diamond(6, 6)),
    ];
    let facings = (0..4).prop_map(Facing::new);
    let other = (kinds, facings, prop_oneof![Just(1.0), Just(0.75)])
        .prop_map(|(kind, facing, lift)| kind.with_facing(facing).with_lift(lift).unwrap());
    prop_oneof![1 => Just(Projection::FLAT), 1 => other]
}

/// Views as [`any_view`], by any projection.
fn any_projected_view() -> impl Strategy<Value = View> {
    (any_view(), any_projection()).prop_map(|(view, projection)| view.projected(projection))
}

/// A look at a map: the view, the time, and the sprites on it.
fn any_shot() -> impl Strategy<Value = (View, Clock, Vec<SpriteSeed>)> {
    let time = prop_oneof![2 => Just(0_u64), 3 => 0..5000_u64].prop_map(Clock::at_ms);
    (any_projected_view(), time, any_sprites())
}

fn any_scene() -> impl Strategy<Value = Quilt> {
    prop_oneof![3 => dense_quilt(), 1 => any_quilt(40)]
}

fn layer_number(quilt: &Quilt, layer: &Layer) -> u32 {
    quilt.layers().iter().position(|held| held.id() == layer.id()).unwrap() as u32
}

fn listed(list: DrawList, quilt: &Quilt, view: &View) -> DrawList {
    listed_with(list, quilt, view, &[])
}

fn listed_with(list: DrawList, quilt: &Quilt, view: &View, sprites: &[Sprite]) -> DrawList {
    listed_at(list, quilt, view, &Clock::new(), sprites)
}

fn listed_at(
    mut list: DrawList,
    quilt: &Quilt,
    view: &View,
    clock: &Clock,
    sprites: &[Sprite],
) -> DrawList {
    list.rebuild_with(quilt, view, clock, sprites);
    list
}

/// What a random sprite is made of: tile, turn, raise and palette, place and elevation, priority,
/// tint, and whether it is added as light.
type SpriteSeed = ((usize, usize, bool, u8), (f64, f64, f64), i32, Option<[u8; 4]>, bool);

fn any_sprites() -> impl Strategy<Value = Vec<SpriteSeed>> {
    let palette = prop_oneof![3 => Just(0), 1 => 1..4_u8];
    let look = (0..TILES.len(), 0..8_usize, prop::bool::weighted(0.3), palette);
    let tint = prop::option::weighted(0.3, any::<[u8; 4]>());
    let adds = prop::bool::weighted(0.2);
    // Often exactly on the foot line of a row.
    let y = prop_oneof![(-4..5_i32).prop_map(|row| f64::from(row) * 6.0), -30.0..30.0_f64];
    let elevation = prop_oneof![3 => Just(0.0), 1 => 0.0..9.0_f64];
    prop::collection::vec((look, (-30.0..30.0_f64, y, elevation), 0..2_i32, tint, adds), 0..8)
}

fn sprites_of(quilt: &Quilt, seeds: &[SpriteSeed]) -> Vec<Sprite> {
    let sprites = seeds.iter().zip(0..).map(|(&(look, place, priority, tint, adds), key)| {
        let ((tile, turn, raised, palette), (x, y, elevation)) = (look, place);
        let cell = Cell::of(quilt.tile(TILES[tile]).unwrap()).with_turn(Turn::SQUARE[turn]);
        let cell = cell.with_slot(palette).unwrap();
        let sprite = Sprite::new(key, cell, WorldPoint::new(x, y));
        let sprite = sprite.with_tint(tint.map_or(Color::WHITE, Color::from_bytes));
        let sprite = sprite.with_blend(if adds { Blend::Add } else { Blend::Normal });
        let sprite = sprite.with_raised(raised).with_priority(priority).with_elevation(elevation);
        // Every third one states the ground that it takes up.
        let half = WorldVec::new(3.0 + elevation, 2.0 + elevation);
        let at = WorldPoint::new(x, y);
        match key % 3 {
            1 => sprite.with_ground_box(WorldRect::between(at - half, at + half)),
            _ => sprite,
        }
    });
    sprites.collect()
}

const BACKGROUND: Color = Color::rgb(90, 60, 120);

fn painted(list: &DrawList) -> Frame {
    let mut frame = Frame::new(list.view().size());
    frame.clear(BACKGROUND);
    Painter::new().paint(list, &mut frame);
    frame
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(256))]

    #[test]
    fn hidden_cells_change_no_pixel(quilt in any_scene(), (view, clock, seeds) in any_shot()) {
        let sprites = sprites_of(&quilt, &seeds);
        let (without, with) = (
            listed_at(DrawList::new(), &quilt, &view, &clock, &sprites),
            listed_at(DrawList::keeping_hidden(), &quilt, &view, &clock, &sprites),
        );
        prop_assert!(painted(&without) == painted(&with));
        prop_assert_eq!(with.figures().hidden, 0);
        prop_assert!(without.quads().len() <= with.quads().len());
    }

    #[test]
    fn a_rebuilt_list_equals_a_new_one_on_any_clone(
        mut quilt in any_quilt(15),
        changes in prop::collection::vec((any_change(), any_shot(), any::<bool>(), any::<usize>()), 1..10),
    ) {
        let mut list = DrawList::new();
        let mut clones = vec![quilt.clone()];
        for (change, (view, clock, seeds), keep, jump) in &changes {
            make(&mut quilt, change);
            if *keep {
                clones.push(quilt.clone());
                quilt = clones[jump % clones.len()].clone();
            }
            let sprites = sprites_of(&quilt, seeds);
            list.rebuild_with(&quilt, view, clock, &sprites);
            let new = listed_at(DrawList::new(), &quilt, view, clock, &sprites);
            prop_assert_eq!(list.quads(), new.quads());
            prop_assert!(painted(&list) == painted(&new));
            let (mut figures, new) = (list.figures(), new.figures());
            (figures.chunks_rebuilt, figures.bytes) = (new.chunks_rebuilt, new.bytes);
            prop_assert_eq!(figures, new);
            list.rebuild_with(&quilt, view, clock, &[]);
            prop_assert_eq!(list.figures().chunks_rebuilt, 0);
        }
    }

    /// The list against a naive walk over every cell of every layer, and every sprite.
    #[test]
    fn quads_are_what_the_map_says(quilt in any_scene(), (view, clock, seeds) in any_shot()) {
        let mut sprites = sprites_of(&quilt, &seeds);
        let list = listed_at(DrawList::keeping_hidden(), &quilt, &view, &clock, &sprites);
        sprites.reverse();
        let turned_round = listed_at(DrawList::keeping_hidden(), &quilt, &view, &clock, &sprites);
        prop_assert_eq!(list.quads(), turned_round.quads(), "the order of the game does not matter");
        let quads = list.quads();
        let shown = quads.iter().filter(|quad| is_on_screen(quad.target, view.size()));
        // Flat tiles at a slant are diamonds in their colour, whatever palettes make of that.
        let plain = |quad: NaiveQuad| NaiveQuad { color: if quad.is_diamond { Color::WHITE } else { quad.color }, ..quad };
        let found: Vec<NaiveQuad> = shown.map(|quad| {
            let is_diamond = list.page_name(quad.page) == "diamonds";
            plain(NaiveQuad { is_diamond, ..NaiveQuad::from(quad) })
        }).collect();
        let mut expected: Vec<NaiveQuad> = naive_quads(&quilt, &view, &clock).into_iter()
            .chain(naive_sprites(&quilt, &view, &clock, &sprites))
            .filter(|quad| is_on_screen(quad.target, view.size())).map(plain).collect();
        expected.sort_by_key(|quad| quad.key);
        prop_assert_eq!(found, expected);
    }

    #[test]
    fn the_order_is_total_and_passes_keep_it(quilt in any_scene(), (view, clock, seeds) in any_shot()) {
        let list = listed_at(DrawList::new(), &quilt, &view, &clock, &sprites_of(&quilt, &seeds));
        let quads = list.quads();
        prop_assert!(quads.windows(2).all(|pair| pair[0].key < pair[1].key), "strictly rising");
        // What a pass holds comes before all of the next pass, wherever the two could overlap.
        let mut highest: Option<(i32, bool, u32)> = None;
        let (mut counted, mut derived) = (0, Vec::new());
        list.passes().for_each(|pass| match pass {
            Pass::Loose(items) => {
                counted += items.len();
                derived.extend(items.iter().map(|item| item.quad));
                assert!(items.windows(2).all(|pair| pair[0].quad.key < pair[1].quad.key));
                // At a slant, raise counts only after the rank.
                let raised = |item: &LooseItem| item.quad.key.raised && !item.quad.key.is_slanted;
                let first = items.first().map(|item| (item.quad.key.priority, raised(item), 0));
                assert!(first.is_none() || first >= highest.map(|(p, r, _)| (p, r, 0)));
                highest = items.last().map(|item| (item.quad.key.priority, raised(item), item.quad.key.layer)).or(highest);
            }
            Pass::Stack(pass) => {
                counted += pass.shown().count();
                for chunk in pass.chunks() {
                    derived.extend(chunk.entries().filter_map(|entry| list.quad_of(&pass, &chunk, entry)));
                }
            }
            pass => panic!("an unknown pass {pass:?}"),
        });
        // What a renderer derives from chunks, the cells beyond the screen left out, are the quads.
        let screen = ScreenRect::of_size(list.upright().size());
        let is_seen = |quad: &&Quad| !quad.target.intersection(screen).is_empty();
        derived.sort_by_key(|quad| quad.key);
        let derived: Vec<Quad> = derived.iter().filter(is_seen).copied().collect();
        prop_assert_eq!(derived, quads.iter().filter(is_seen).copied().collect::<Vec<_>>());
        prop_assert!(counted == quads.len() || view.projection().is_slanted() && counted >= quads.len());
        let figures = list.figures();
        let cells = quads.iter().filter(|quad| quad.key.kind == DrawKind::Cell).count();
        let wraps = quilt.layers().iter().any(|layer| layer.settings().wrap != sturdy_quilt::quilt::Wrap::No);
        let accounted = figures.clear + figures.hidden + figures.off_screen + cells;
        // A layer that repeats itself shows a cell more than once.
        prop_assert!(figures.cells == accounted || wraps, "{:?}", figures);
        prop_assert_eq!(figures.quads, quads.len());
        prop_assert_eq!(figures.batches, DrawList::batches(&quads).len());
        prop_assert_eq!(figures.sprites, quads.iter().filter(|quad| quad.key.sprite.is_some()).count());
        let batches = DrawList::batches(&quads);
        prop_assert_eq!(batches.iter().map(|batch| batch.count).sum::<usize>(), quads.len());
        for batch in &batches {
            let run = &quads[batch.first..batch.first + batch.count];
            prop_assert!(run.iter().all(|quad| quad.page == batch.page));
        }
    }

    /// Lists of some priorities, or of some layers, have the quads of those and no others; painted one
    /// over the other they show what one list of all does.
    #[test]
    fn a_limited_list_has_its_part_of_all(
        quilt in any_scene(), (view, clock, seeds) in any_shot(), last in -1..3_i32,
        names in prop::collection::hash_set(prop::sample::select(crate::scene::LAYERS.to_vec()), 0..4),
    ) {
        let sprites = sprites_of(&quilt, &seeds);
        let quads = |list: DrawList| listed_at(list, &quilt, &view, &clock, &sprites).quads();
        let all = quads(DrawList::keeping_hidden());
        let (low, high): (Vec<Quad>, Vec<Quad>) =
            all.iter().partition(|quad| quad.key.priority <= last);
        let limited = |below: bool| match below {
            true => DrawList::keeping_hidden().with_priorities(..=last),
            false => DrawList::keeping_hidden().with_priorities(last + 1..),
        };
        let keys = |quads: &[Quad]| quads.iter().map(|quad| (quad.key, quad.target)).collect::<Vec<_>>();
        prop_assert_eq!(keys(&quads(limited(true))), keys(&low));
        prop_assert_eq!(keys(&quads(limited(false))), keys(&high));
        let of_layers = quads(DrawList::keeping_hidden().with_layers(names.clone()));
        let is_named = |quad: &&Quad| {
            let layer = quilt.layers().get(quad.key.layer as usize);
            layer.is_none_or(|layer| names.contains(layer.name()))
        };
        let expected: Vec<Quad> = all.iter().filter(is_named).copied().collect();
        prop_assert_eq!(keys(&of_layers), keys(&expected));
        let mut frame = Frame::new(view.size());
        frame.clear(BACKGROUND);
        for below in [true, false] {
            let list = listed_at(limited(below), &quilt, &view, &clock, &sprites);
            Painter::new().paint(&list, &mut frame);
        }
        prop_assert!(frame == painted(&listed_at(DrawList::new(), &quilt, &view, &clock, &sprites)));
    }

    /// The painter, which paints passes, against quads in the total order painted pixel by pixel.
    #[test]
    fn pixels_are_what_the_order_says(quilt in any_scene(), (view, clock, seeds) in any_shot()) {
        let list = listed_at(DrawList::new(), &quilt, &view, &clock, &sprites_of(&quilt, &seeds));
        let (frame, expected) = (painted(&list), naively_painted(&list, BACKGROUND));
        let quads = list.quads();
        let width = view.size().width as usize;
        for (at, (found, expected)) in frame.pixels().iter().zip(&expected).enumerate() {
            let (x, y) = ((at % width) as i32, (at / width) as i32);
            let over = |quad: &&Quad| {
                (quad.target.left..quad.target.right).contains(&x) && (quad.target.top..quad.target.bottom).contains(&y)
            };
            if quads.iter().filter(over).any(|quad| is_on_an_edge(quad, view.zoom(), x, y)) {
                continue;
            }
            prop_assert_eq!(found, expected, "pixel {},{}: {:#?}", x, y, quads.iter().filter(over).collect::<Vec<_>>());
        }
    }

    /// What is picked at a pixel are the quads that show there, the last one first.
    #[test]
    fn a_pick_gives_what_shows_there(
        quilt in any_scene(), (view, clock, seeds) in any_shot(),
        (across, down) in (0.0..1.0_f32, 0.0..1.0_f32),
    ) {
        let list = listed_at(DrawList::new(), &quilt, &view, &clock, &sprites_of(&quilt, &seeds));
        let size = view.size();
        let point = ScreenPoint::new(across * size.width as f32, down * size.height as f32);
        let (x, y) = (point.x.floor() as i32, point.y.floor() as i32);
        let over: Vec<Quad> = list.quads().into_iter().rev().filter(|quad| quad.target.contains(x, y)).collect();
        prop_assume!(!over.iter().any(|quad| is_on_an_edge(quad, view.zoom(), x, y)));
        let shown = over.iter().filter_map(|quad| {
            let alpha = shown_texel(&list, quad, x, y)[3];
            (alpha > 0).then_some((quad.key, alpha))
        });
        let picked: Vec<_> = list.pick(point).map(|picked| (picked.key, picked.alpha)).collect();
        prop_assert_eq!(picked, shown.collect::<Vec<_>>());
        let outside = ScreenPoint::new(-1e6, 3.0);
        prop_assert_eq!(list.pick(outside).count(), 0);
    }

    /// What is said to show is what the list has, and what is said to be covered is what removing
    /// hidden cells takes away.
    #[test]
    fn what_is_explained_is_what_is_drawn(quilt in any_scene(), view in any_view()) {
        let drawn = |list: DrawList| -> HashSet<(u32, CellPos)> {
            let quads = listed(list, &quilt, &view).quads();
            let shown = quads.iter().filter(|quad| is_on_screen(quad.target, view.size()));
            let cells = shown.filter(|quad| quad.key.kind == DrawKind::Cell);
            cells.map(|quad| (quad.key.layer, quad.key.place)).collect()
        };
        let (shown, all) = (drawn(DrawList::new()), drawn(DrawList::keeping_hidden()));
        let view_sight = quilt.explain_view(&view);
        for cell in view.visible_cells(quilt.lattice()).cells().step_by(7) {
            for sight in quilt.explain_cell(cell, &view) {
                let number = layer_number(&quilt, sight.layer);
                let is_oversize = quilt.tiles().tile_of(sight.cell).is_some_and(|id| {
                    quilt.tiles().name(id).unwrap().set() == "tall"
                });
                if sight.layer.settings().wrap != sturdy_quilt::quilt::Wrap::No {
                    continue;
                }
                let place = (number, sight.at);
                match sight.visibility {
                    Visibility::Shown if is_oversize => {}
                    Visibility::Shown => prop_assert!(shown.contains(&place), "{} {:?}", sight, sight),
                    // Of a layer that has nothing there it is the backdrop.
                    Visibility::Covered { .. } | Visibility::Backdrop { .. } if sight.cell.is_empty() => {
                        prop_assert!(sight.layer.settings().backdrop.is_some());
                    }
                    Visibility::Covered { by, layer } => {
                        prop_assert!(all.contains(&place) && !shown.contains(&place), "{} {:?}", sight, sight);
                        let covering = quilt.get(layer.id(), sight.at).unwrap().here();
                        prop_assert_eq!(covering, Some(by));
                    }
                    Visibility::Empty => prop_assert!(sight.cell.is_empty()),
                    _ => prop_assert!(!all.contains(&place), "{} {:?}", sight, sight),
                }
            }
        }
        for sight in &view_sight.layers {
            let number = layer_number(&quilt, sight.layer);
            let settings = sight.layer.settings();
            let way = settings.offset - WorldVec::new(0.0, settings.elevation);
            let area = view.visible().moved(way * -1.0);
            let cells = quilt.lattice().cells_in(area);
            let of_layer = |set: &HashSet<(u32, CellPos)>| {
                set.iter().filter(|(layer, at)| *layer == number && cells.contains(*at)).count()
            };
            let settings = sight.layer.settings();
            if settings.is_still() {
                prop_assert_eq!(sight.shown, of_layer(&shown));
                prop_assert!(sight.covered >= of_layer(&all) - of_layer(&shown));
            }
            let alpha = (f32::from(settings.tint.a) * settings.opacity).round();
            if settings.visible && settings.draws && alpha > 0.0 {
                prop_assert_eq!(sight.in_view, sight.shown + sight.clear + sight.covered + sight.too_small);
            }
        }
        let has_large = quilt.layers().iter().any(|layer| layer.cells().occupied().any(|(_, cell)| {
            quilt.tiles().name(quilt.tiles().tile_of(cell).unwrap()).unwrap().set() == "tall"
        }));
        let quads = listed(DrawList::new(), &quilt, &view).quads();
        let has_backdrop = quads.iter().any(|quad| {
            quad.key.kind == DrawKind::Backdrop && is_on_screen(quad.target, view.size())
        });
        let is_empty = shown.is_empty() && !has_backdrop;
        prop_assert!(has_large || view_sight.is_empty() == is_empty);
    }

    /// What the pointer is said to be over is what is painted there.
    #[test]
    fn a_pixel_shows_the_cell_under_it(cells in prop::collection::vec((-6..6_i32, -6..6_i32), 1..30), view in any_view()) {
        let mut quilt = empty_quilt();
        quilt.edit("some", |pen| {
            let wall = pen.tile("flat/wall")?;
            cells.iter().try_for_each(|(x, y)| pen.put("soil", CellPos::new(*x, *y), wall).map(|_| ()))
        }).unwrap();
        let picture = quilt.draw(&view, Color::CLEAR);
        for pixel in CellRect::new(CellPos::ORIGIN, view.size().width, view.size().height).cells() {
            let (x, y) = (pixel.x() as u32, pixel.y() as u32);
            let place = view.to_world(ScreenPoint::pixel(x, y));
            let on_edge = |way: f64, side: f64| (way / side - (way / side).round()).abs() < 1e-6;
            if on_edge(place.x, 8.0) || on_edge(place.y, 6.0) {
                continue;
            }
            let cell = quilt.get("soil", quilt.lattice().cell_at(place)).unwrap().here().unwrap();
            prop_assert_eq!(picture.get(x, y).unwrap().a == 255, !cell.is_empty());
        }
    }
}

#[test]
fn sprites_that_show_nothing_are_not_listed() {
    let quilt = empty_quilt();
    let view = View::new(ScreenSize::new(80, 60));
    let (grass, clear) = (quilt.tile("flat/grass").unwrap(), quilt.tile("art/clear").unwrap());
    let here = WorldPoint::new(0.0, 0.0);
    let sprites = [
        Sprite::new(1, Cell::EMPTY, here),
        Sprite::new(2, clear, here),
        Sprite::new(3, grass, WorldPoint::new(f64::NAN, 0.0)),
        Sprite::new(4, grass, WorldPoint::new(900.0, 0.0)),
        Sprite::new(5, grass, here).with_elevation(f64::INFINITY),
        Sprite::new(6, grass, here),
    ];
    let list = listed_with(DrawList::new(), &quilt, &view, &sprites);
    let keys: Vec<_> = list.quads().iter().filter_map(|quad| quad.key.sprite).collect();
    assert_eq!((keys, list.figures().sprites), (vec![6], 1));
}

#[test]
fn nothing_is_drawn_for_a_view_with_odd_numbers() {
    let quilt = doc_quilt();
    let view = View::new(ScreenSize::new(64, 48));
    let background = Color::rgb(20, 24, 28);
    for odd in odd_views(view).into_iter().chain(odd_views(view.turned(0.5))) {
        let mut list = listed_with(DrawList::new(), &quilt, &view, &[]);
        assert!(!list.quads().is_empty());
        list.rebuild(&quilt, &odd);
        assert!(list.quads().is_empty(), "{odd:?}");
        assert_eq!(
            quilt.draw(&odd, background),
            Picture::filled(PixelSize::new(64, 48), background)
        );
        assert_eq!(list.pick(ScreenPoint::new(4.0, 4.0)).count(), 0);
        assert_eq!(quilt.explain_cell(CellPos::ORIGIN, &odd).len(), 1);
        assert_eq!(quilt.explain_view(&odd).layers[0].shown, 0);
        list.rebuild(&quilt, &view);
        assert!(!list.quads().is_empty(), "it shows the map again");
    }
}

#[test]
fn an_empty_view_says_why() {
    let mut quilt = empty_quilt();
    let view = View::new(ScreenSize::new(80, 60));
    let why = |quilt: &Quilt, view: &View| {
        let text = quilt.explain_view(view).to_string();
        text.lines().map(str::trim).map(str::to_owned).collect::<Vec<_>>()
    };
    assert_eq!(why(&quilt, &view)[0], "nothing shows: the map is empty");
    let none = Quilt::new(*quilt.lattice());
    assert_eq!(why(&none, &view), ["nothing shows: the map has no layers"]);
    quilt
        .edit("some", |pen| {
            let (wall, clear) = (pen.tile("flat/wall")?, pen.tile("art/clear")?);
            for layer in ["soil", "growth"] {
                pen.put(layer, CellPos::new(1, 1), wall)?;
            }
            pen.put("works", CellPos::new(1, 1), clear)?;
            pen.set_layer("soil", |s| s.with_visible(false))?;
            pen.set_layer("growth", |s| s.with_opacity(0.0))?;
            pen.put("sky", CellPos::new(900, 1), wall).map(|_| ())
        })
        .unwrap();
    assert_eq!(
        why(&quilt, &view),
        [
            "nothing shows: no layer has anything to show there",
            "layer sky: nothing in view; it lies in 1 × 1 cells at 900,1",
            "layer works: of 1 tiles in view 1 clear",
            "layer growth: has opacity 0",
            "layer soil: hidden",
        ]
    );
    let sights: Vec<String> =
        quilt.explain_cell(CellPos::new(1, 1), &view).iter().map(ToString::to_string).collect();
    assert_eq!(
        sights,
        [
            "empty",
            "clear: its tile has no pixels",
            "its layer has opacity 0",
            "its layer is hidden"
        ]
    );
    quilt
        .edit("show", |pen| pen.set_layer("growth", |s| s.with_draws(false).with_opacity(1.0)))
        .unwrap();
    assert_eq!(why(&quilt, &view)[3], "layer growth: never drawn");
    let tiny = view.zoomed(0.05).moved(WorldVec::new(8.0, 8.0));
    quilt.edit("show", |pen| pen.set_layer("growth", |s| s.with_draws(true))).unwrap();
    assert_eq!(why(&quilt, &tiny)[3], "layer growth: of 1 tiles in view 1 too small for a pixel");
    assert_eq!(
        quilt.explain_cell(CellPos::new(1, 1), &tiny)[2].to_string(),
        "too small for a pixel"
    );
    assert_eq!(quilt.explain_cell(CellPos::new(90, 1), &view)[2].to_string(), "empty");
    assert_eq!(quilt.explain_cell(CellPos::new(900, 1), &view)[0].to_string(), "out of view");
}

#[test]
fn clear_hidden_and_distant_cells_are_counted() {
    let mut quilt = empty_quilt();
    quilt
        .edit("some", |pen| {
            pen.fill("soil", CellRect::new(CellPos::ORIGIN, 4, 1), pen.tile("flat/grass")?)?;
            pen.put("growth", CellPos::new(0, 0), pen.tile("art/opaque")?)?;
            pen.put("growth", CellPos::new(1, 0), pen.tile("art/clear")?)?;
            pen.put("growth", CellPos::new(2, 0), pen.tile("art/holed")?)
        })
        .unwrap();
    let view = View::new(ScreenSize::new(24, 6)).centered_on(WorldPoint::new(12.0, 3.0));
    let figures = listed(DrawList::new(), &quilt, &view).figures();
    assert_eq!((figures.cells, figures.clear, figures.hidden), (7, 1, 1));
    assert_eq!((figures.quads, figures.off_screen), (4, 1));
    quilt.edit("thin", |pen| pen.set_layer("growth", |s| s.with_opacity(0.5))).unwrap();
    assert_eq!(listed(DrawList::new(), &quilt, &view).figures().hidden, 0, "it shows through");
}

#[test]
fn a_list_survives_a_moving_camera() {
    let mut quilt = empty_quilt();
    let wide = CellRect::new(CellPos::ORIGIN, 640, 640);
    quilt.edit("wide", |pen| pen.fill("soil", wide, pen.tile("flat/grass")?)).unwrap();
    let mut list = DrawList::new();
    let mut view = View::new(ScreenSize::new(320, 200)).centered_on(WorldPoint::new(700.0, 700.0));
    list.rebuild(&quilt, &view);
    let chunks = list.figures().chunks_rebuilt;
    assert!(chunks > 0);
    view = view.moved(WorldVec::new(3.0, -2.0));
    list.rebuild(&quilt, &view);
    assert_eq!(list.figures().chunks_rebuilt, 0);
    quilt.edit("one", |pen| pen.erase("soil", quilt_cell(&view))).unwrap();
    list.rebuild(&quilt, &view);
    assert_eq!(list.figures().chunks_rebuilt, 1);
    quilt.edit("look", |pen| pen.set_layer("soil", |s| s.with_opacity(0.5))).unwrap();
    list.rebuild(&quilt, &view);
    assert_eq!(list.figures().chunks_rebuilt, chunks, "other settings, other list");
}

fn quilt_cell(view: &View) -> CellPos {
    sturdy_quilt::Lattice::square(8.0, 6.0).unwrap().cell_at(view.center())
}

/// Millions of chunks are in view, and only what is there costs anything.
#[test]
fn a_tiny_map_in_a_vast_view_is_listed_at_once() {
    let mut quilt = Quilt::new(sturdy_quilt::Lattice::square(0.001, 0.001).unwrap());
    quilt
        .edit("dots", |pen| {
            pen.put_tiles(sturdy_quilt::TileSet::flat("s", ["dot"])?)?;
            pen.add_layer("l", Default::default())?;
            let dot = pen.tile("s/dot")?;
            for x in [-100_000_000, 0, 100_000_000] {
                pen.put("l", CellPos::new(x, 7), dot)?;
            }
            Ok(())
        })
        .unwrap();
    let view = View::new(ScreenSize::new(1280, 800)).zoomed(View::MIN_ZOOM);
    let list = listed(DrawList::new(), &quilt, &view);
    assert_eq!((list.quads().len(), list.figures().chunks), (3, 3));
}

#[test]
fn an_empty_map_paints_nothing() {
    let quilt = empty_quilt();
    let view = View::new(ScreenSize::new(5, 5));
    assert_eq!(quilt.draw(&view, Color::CLEAR).get(2, 2), Some(Color::CLEAR));
    let nothing = View::new(ScreenSize::new(0, 0));
    assert_eq!(quilt.draw(&nothing, Color::CLEAR).size().area(), 0);
}
