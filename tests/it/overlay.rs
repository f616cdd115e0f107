//! Overlays: each shows what the map has, and stays on the screen.

use std::collections::{BTreeMap, HashMap, HashSet};

use proptest::prelude::*;
use sturdy_quilt::ground::Circle;
use sturdy_quilt::plane::ValueKind;
use sturdy_quilt::tile::CellShape;
use sturdy_quilt::units::{PixelRect, ScreenRect, Sides};
use sturdy_quilt::view::Projection;
use sturdy_quilt::{
    Cell, CellPos, CellRect, CellSet, Clock, Color, DrawList, Frame, GroundMap, Lattice,
    LayerSettings, Marker, Mover, Overlay, Painter, Quilt, ScreenPoint, ScreenSize, Side, Sprite,
    TileSet, TileSpec, View, WorldPoint, WorldRect, WorldVec, doc_quilt,
};

use crate::scene::{VALUES, any_quilt};

fn begun(quilt: &Quilt, view: &View) -> Overlay {
    let mut overlay = Overlay::new();
    overlay.begin(view, quilt.lattice());
    overlay
}

fn painted(overlay: &Overlay, size: ScreenSize) -> Frame {
    let mut frame = Frame::new(size);
    frame.clear(Color::rgb(0, 0, 0));
    Painter::new().paint_overlay(overlay, &mut frame);
    frame
}

/// Which character each part of the page is.
fn characters() -> HashMap<PixelRect, char> {
    let mut overlay = Overlay::new().with_text_scale(1);
    overlay.begin(&View::new(ScreenSize::new(2000, 20)), &sturdy_quilt::Lattice::default());
    let all: String = (' '..='~').skip(1).chain("×·°−→…".chars()).collect();
    overlay.text(0, 0, &all, Color::rgb(255, 255, 255));
    // A shadow comes first, with as many glyphs.
    let glyphs = overlay.quads()[all.chars().count()..].iter().map(|quad| quad.source);
    glyphs.zip(all.chars()).collect()
}

/// The text of an overlay, line by line, as one reads it; shadows are left out.
fn read(overlay: &Overlay) -> Vec<String> {
    let characters = characters();
    let mut lines: BTreeMap<(i32, i32), BTreeMap<i32, char>> = BTreeMap::new();
    let mut box_left = 0;
    for quad in overlay.quads() {
        let Some(character) = characters.get(&quad.source) else {
            box_left = quad.target.left;
            continue;
        };
        if quad.color == Color::rgba(0, 0, 0, 200) {
            continue;
        }
        lines.entry((quad.target.top, box_left)).or_default().insert(quad.target.left, *character);
    }
    let spelled = |letters: &BTreeMap<i32, char>| {
        let mut line = String::new();
        let mut next = None;
        for (&left, character) in letters {
            let gap = next.map_or(0, |next| (left - next) / 12);
            line.extend(std::iter::repeat_n(' ', gap as usize));
            line.push(*character);
            next = Some(left + 12);
        }
        line
    };
    lines.values().map(spelled).collect()
}

fn any_view() -> impl Strategy<Value = View> {
    let zoom = prop_oneof![Just(1.0), Just(2.0), 0.001..40.0_f64, Just(View::MAX_ZOOM)];
    (0..300_u32, 0..200_u32, -100.0..100.0_f64, -80.0..80.0_f64, zoom).prop_map(
        |(width, height, x, y, zoom)| {
            View::new(ScreenSize::new(width, height))
                .centered_on(WorldPoint::new(x, y))
                .zoomed(zoom)
        },
    )
}

type Laying<'a> = (&'a str, &'a dyn Fn(&mut Overlay));

/// Everything that can be laid over a map, with a name for each.
fn all_of(quilt: &Quilt, view: &View, add: &mut dyn FnMut(&str, &Overlay)) {
    let ground = GroundMap::of(quilt);
    let mut list = DrawList::new();
    list.rebuild(quilt, view);
    let white = Color::rgb(255, 255, 255);
    let kinds: [Laying<'_>; 11] = [
        ("lattice", &|o| o.lattice(white)),
        ("coordinates", &|o| o.coordinates(white)),
        ("chunks", &|o| o.chunk_edges(white)),
        ("ground", &|o| drop(o.ground(quilt, &ground))),
        ("blocked", &|o| o.blocked(&ground, quilt.mover("cart").unwrap(), white)),
        ("solid edges", &|o| o.solid_edges(&ground, quilt.mover("cart").unwrap(), white)),
        ("raised", &|o| o.raised(quilt, white)),
        ("palettes", &|o| o.palettes(quilt)),
        ("layers", &|o| drop(o.layers(quilt))),
        ("markers", &|o| o.markers(quilt)),
        ("figures", &|o| o.figures(quilt, &list, Some(ScreenPoint::new(3.0, 4.0)))),
    ];
    for (name, lay) in kinds {
        let mut overlay = begun(quilt, view);
        lay(&mut overlay);
        add(name, &overlay);
    }
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(96))]

    #[test]
    fn nothing_leaves_the_screen(quilt in any_quilt(25), view in any_view()) {
        let size = view.size();
        all_of(&quilt, &view, &mut |name, overlay| {
            for quad in overlay.quads() {
                let ScreenRect { left, top, right, bottom } = quad.target;
                assert!(0 <= left && left < right && right <= size.width as i32, "{name} {quad:?}");
                assert!(0 <= top && top < bottom && bottom <= size.height as i32, "{name} {quad:?}");
            }
            // Painting into a frame of another size cuts off what does not fit.
            painted(overlay, ScreenSize::new(size.width / 2, size.height + 3));
        });
    }

    /// The colour in the middle of each cell, against a look at the map.
    #[test]
    fn cells_have_the_colour_of_what_they_are(
        quilt in any_quilt(30),
        (x, y) in (-70..70_i32, -50..50_i32),
    ) {
        let center = WorldPoint::new(f64::from(x), f64::from(y));
        let view = View::new(ScreenSize::new(90, 70)).centered_on(center);
        let ground = GroundMap::of(&quilt);
        let cart = quilt.mover("cart").unwrap();
        let colors = [Color::rgb(200, 0, 0), Color::rgb(0, 200, 0), Color::rgb(0, 0, 200)];
        let mut blocked = begun(&quilt, &view);
        blocked.blocked(&ground, cart, colors[0]);
        let mut raised = begun(&quilt, &view);
        raised.raised(&quilt, colors[1]);
        let mut classes = begun(&quilt, &view);
        let legend = classes.ground(&quilt, &ground);
        let frames = [&blocked, &raised, &classes].map(|overlay| painted(overlay, view.size()));
        for at in view.visible_cells(quilt.lattice()).cells() {
            let middle = view.to_screen(quilt.lattice().center(at));
            let (px, py) = (middle.x.floor() as i32, middle.y.floor() as i32);
            if !(0..90).contains(&px) || !(0..70).contains(&py) {
                continue;
            }
            let pixel = (py * 90 + px) as usize;
            prop_assert_eq!(frames[0].pixels()[pixel][0] == 200, ground.blocked(cart, at));
            let is_raised = quilt.layers().iter().filter(|l| l.settings().visible).any(|layer| {
                let offset = layer.settings().offset;
                let own = quilt.lattice().cell_at(quilt.lattice().center(at) - offset);
                let cell = layer.cells().get(own).here().unwrap();
                let tile = quilt.tiles().tile_of(cell).and_then(|id| quilt.tiles().tile(id));
                cell.is_raised() || tile.is_some_and(|tile| tile.raise())
            });
            let spans = quilt.bounds().contains(at);
            // Of layers that move, other cells lie there.
            if quilt.layers().iter().all(|layer| layer.settings().is_still()) {
                prop_assert_eq!(frames[1].pixels()[pixel][1] == 200, is_raised && spans);
            }
            let class = ground.class_at(at).here().unwrap().filter(|_| spans);
            let [r, g, b, _] = frames[2].pixels()[pixel];
            match class {
                None => prop_assert_eq!([r, g, b], [0, 0, 0]),
                Some(class) => {
                    let Color { r: wanted_r, g: wanted_g, .. } = legend[class.index()].1;
                    let near = |a: u8, b: u8| (f64::from(a) - f64::from(b) * 120.0 / 255.0).abs() < 1.5;
                    prop_assert!(near(r, wanted_r) && near(g, wanted_g), "{} {} of {:?}", r, g, class);
                }
            }
        }
    }
}

/// A bank that rises to the right and stops what comes by one side, in cells of any width.
#[test]
fn a_slope_is_drawn_where_it_stops_what_comes() {
    for (side, (width, height)) in Side::ALL
        .into_iter()
        .flat_map(|side| [(16.0, 16.0), (8.0, 16.0), (16.0, 8.0)].map(|size| (side, size)))
    {
        let mut quilt = Quilt::new(Lattice::square(width, height).unwrap());
        let edit = quilt.edit("a bank", |pen| {
            pen.add_ground_classes(["bank"])?;
            pen.put_mover(Mover::new("walker").one_way("bank", Sides::of([side])))?;
            let ramp = CellShape::floor(0.0, 1.0).unwrap();
            let ramp = TileSpec::named("ramp").with_ground("bank").with_shape(ramp);
            pen.put_tiles(TileSet::builder("banks").tile(ramp).build()?)?;
            pen.add_layer("banks", LayerSettings::default())?;
            let ramp = pen.tile("banks/ramp")?;
            pen.put("banks", CellPos::new(1, 1), ramp)
        });
        edit.unwrap();
        let (ground, walker) = (GroundMap::of(&quilt), quilt.mover("walker").unwrap());
        let middle = quilt.lattice().center(CellPos::new(1, 1));
        let inwards = WorldVec::new(height, width) * (1.0 / width.hypot(height));
        let ball = Circle::new(middle - inwards * 2.0, 1.0);
        let stops = ground.sweep(walker, ball, inwards * 2.0).contact.is_some();

        let view = View::new(ScreenSize::new(64, 64)).centered_on(middle);
        let mut overlay = begun(&quilt, &view);
        overlay.solid_edges(&ground, walker, Color::rgb(200, 0, 0));
        let frame = painted(&overlay, view.size());
        let near = (31..34).flat_map(|y| (31..34).map(move |x| y * 64 + x));
        let is_drawn = near.into_iter().any(|at: usize| frame.pixels()[at][0] == 200);
        assert_eq!(is_drawn, stops, "{side:?} of {width} × {height}");
    }
}

#[test]
fn every_character_has_a_glyph_of_its_own() {
    let characters = characters();
    assert_eq!(characters.len(), 94 + 6);
    let page = Overlay::page();
    let pixels = |rect: &PixelRect| {
        let rows = (rect.y..rect.y + rect.size.height)
            .flat_map(|y| (rect.x..rect.x + rect.size.width).map(move |x| (x, y)));
        rows.map(|(x, y)| page.pixels()[(y * page.size().width + x) as usize][3] > 0)
            .collect::<Vec<_>>()
    };
    let drawn: HashSet<Vec<bool>> = characters.keys().map(pixels).collect();
    assert_eq!(drawn.len(), characters.len());
    assert!(drawn.iter().all(|glyph| glyph.contains(&true)));
    let mut overlay = begun(&doc_quilt(), &View::new(ScreenSize::new(200, 40)));
    overlay.text(0, 0, "é漢", Color::rgb(1, 2, 3));
    let boxes: HashSet<PixelRect> = overlay.quads().iter().map(|quad| quad.source).collect();
    assert_eq!(boxes.len(), 1, "what has no glyph is shown by a box");
    assert!(!characters.contains_key(boxes.iter().next().unwrap()));
}

#[test]
fn text_is_painted_pixel_by_pixel() {
    let mut overlay = Overlay::new().with_text_scale(1);
    overlay.begin(&View::new(ScreenSize::new(20, 12)), &sturdy_quilt::Lattice::default());
    overlay.text(2, 1, "L", Color::rgb(9, 90, 200));
    let frame = painted(&overlay, ScreenSize::new(20, 12));
    let is_ink = |x: usize, y: usize| frame.pixels()[y * 20 + x] == [9, 90, 200, 255];
    let rows: Vec<String> =
        (0..9).map(|y| (0..9).map(|x| if is_ink(x, y) { '#' } else { '.' }).collect()).collect();
    assert_eq!(
        rows,
        [
            ".........",
            "..#......",
            "..#......",
            "..#......",
            "..#......",
            "..#......",
            "..#......",
            "..#####..",
            "........."
        ]
    );
}

#[test]
fn coordinates_thin_out() {
    let quilt = doc_quilt();
    let labels = |zoom: f64| {
        let view = View::new(ScreenSize::new(640, 400)).zoomed(zoom);
        let mut overlay = begun(&quilt, &view);
        overlay.coordinates(Color::rgb(255, 255, 255));
        let cells = view.visible_cells(quilt.lattice());
        (read(&overlay).join(" "), overlay.quads().len(), cells)
    };
    let (near, _, cells) = labels(8.0);
    for at in cells.cells().filter(|at| at.x() < cells.right() - 1 && at.x() > cells.left()) {
        let inside = at.y() > cells.top() && at.y() < cells.bottom() - 1;
        assert!(!inside || near.contains(&format!("{},{}", at.x(), at.y())), "{at} in {near}");
    }
    let (middle, ..) = labels(1.0);
    assert!(
        middle.contains("0,0") && middle.contains("-10,10") && !middle.contains("1,1"),
        "{middle}"
    );
    for zoom in [0.5, 0.1, 0.01, View::MIN_ZOOM] {
        let (_, quads, _) = labels(zoom);
        assert!((1..4000).contains(&quads), "{quads} glyphs at zoom {zoom}");
    }
}

#[test]
fn lines_lie_on_the_edges() {
    let quilt = doc_quilt();
    let view =
        View::new(ScreenSize::new(100, 80)).centered_on(WorldPoint::new(3.0, 5.0)).zoomed(1.7);
    let mut overlay = begun(&quilt, &view);
    overlay.lattice(Color::rgb(255, 255, 255));
    let frame = painted(&overlay, view.size());
    let edges: Vec<i32> =
        (-9..9).map(|column| view.column_edge(f64::from(column) * 16.0)).collect();
    let rows: Vec<i32> = (-9..9).map(|row| view.row_edge(f64::from(row) * 16.0)).collect();
    for (at, pixel) in (0..).zip(frame.pixels()) {
        let lit = edges.contains(&(at % 100)) || rows.contains(&(at / 100));
        assert_eq!(pixel[0] == 255, lit, "{},{}", at % 100, at / 100);
    }
    // From far away not every edge is a line, and the borders of chunks go.
    let far = view.zoomed(0.05);
    let mut overlay = begun(&quilt, &far);
    overlay.lattice(Color::rgb(255, 255, 255));
    assert!(overlay.quads().len() < 40);
    let mut overlay = begun(&quilt, &far.zoomed(0.001));
    overlay.chunk_edges(Color::rgb(255, 255, 255));
    assert_eq!(overlay.quads(), []);
}

#[test]
fn figures_say_what_was_drawn() {
    let quilt = doc_quilt();
    let view =
        View::new(ScreenSize::new(900, 600)).centered_on(WorldPoint::new(32.0, 24.0)).zoomed(4.0);
    let mut list = DrawList::new();
    let wall = quilt.tile("garden/wall").unwrap();
    list.rebuild_with(
        &quilt,
        &view,
        &Clock::new(),
        &[Sprite::new(12, wall, WorldPoint::new(8.0, 40.0))],
    );
    let mut overlay = begun(&quilt, &view);
    overlay.figures(&quilt, &list, Some(view.to_screen(WorldPoint::new(40.0, 8.0))));
    assert_eq!(
        read(&overlay),
        [
            "screen  900 × 600 px",
            "map     4 × 3 cells at 0,0",
            "camera  32.0,24.0 zoom 4",
            "pointer 2,0 · garden/wall",
            "drawn   13 quads, 1 sprites",
            "hidden  0 · clear 0 · beyond 0",
            "chunks  4, 12 cells, 4 anew, 0 animated",
            "batches 1, 0 page changes",
            "13 start garden · layer soil",
        ]
    );
}

#[test]
fn markers_show_their_places_and_names() {
    let mut quilt = doc_quilt();
    let points = [(0.0, 40.0), (60.0, 40.0), (60.0, 8.0)].map(|(x, y)| WorldPoint::new(x, y));
    quilt
        .edit("mark", |pen| {
            pen.put_marker(Marker::path("round", points).with_kind("route"))?;
            pen.put_marker(Marker::point("well", WorldPoint::new(8.0, 8.0)))?;
            pen.put_marker(Marker::area("bed", CellRect::new(CellPos::new(1, 1), 2, 1)))?;
            // A line without end costs no dots without end.
            let far = [WorldPoint::new(-1e12, 20.0), WorldPoint::new(1e12, 20.0)];
            pen.put_marker(Marker::path("horizon", far))
        })
        .unwrap();
    let view =
        View::new(ScreenSize::new(640, 400)).centered_on(WorldPoint::new(32.0, 24.0)).zoomed(4.0);
    let mut overlay = begun(&quilt, &view);
    overlay.markers(&quilt);
    let text = read(&overlay);
    for name in ["gate", "round", "well", "bed"] {
        assert!(text.iter().any(|line| line.contains(name)), "{name} in {text:?}");
    }
    assert!(overlay.quads().len() < 1000, "{}", overlay.quads().len());
    let frame = painted(&overlay, view.size());
    let lit = |x: f64, y: f64| {
        let point = view.to_screen(WorldPoint::new(x, y));
        frame.pixels()[(point.y as usize) * 640 + point.x as usize] != [0, 0, 0, 255]
    };
    assert!(lit(8.0, 8.0) && lit(60.0, 8.0) && lit(16.2, 20.0), "a cross, a knot, a frame");
}

#[test]
fn palettes_and_values_show_their_numbers() {
    let mut quilt = doc_quilt();
    quilt
        .edit("colours", |pen| {
            let wall = Cell::of(pen.tile("garden/wall")?).with_slot(37).unwrap();
            pen.put("soil", CellPos::new(2, 0), wall)?;
            pen.add_value_layer(VALUES[0].0, ValueKind::F32)?;
            pen.put_value(VALUES[0].0, CellPos::new(-1, 2), 3.5_f32)
        })
        .unwrap();
    let view = View::new(ScreenSize::new(640, 400)).zoomed(4.0);
    let mut overlay = begun(&quilt, &view);
    overlay.palettes(&quilt);
    assert_eq!(read(&overlay), ["37"]);
    let mut overlay = begun(&quilt, &view);
    let mut seen = Vec::new();
    overlay.values(quilt.values::<f32>("growth").unwrap(), |value| {
        seen.push(value);
        (value > 0.0).then_some(Color::rgb(0, 255, 0))
    });
    assert_eq!(seen, [3.5]);
    assert_eq!(
        overlay.quads()[0].target,
        view.pixels_around(quilt.lattice().bounds(CellPos::new(-1, 2)))
    );
}

/// Lines from anywhere to anywhere cost what shows of them.
#[test]
fn lines_beyond_the_screen_cost_nothing() {
    let quilt = doc_quilt();
    let view = View::new(ScreenSize::new(160, 120)).centered_on(WorldPoint::new(8.0, 8.0));
    let mut overlay = Overlay::new();
    let far = [0.0, 8.0, -1e9, 1e12, 1e300, -1e308, f64::INFINITY, f64::NAN];
    for (x, y) in far.into_iter().flat_map(|x| far.map(|y| (x, y))) {
        overlay.begin(&view, quilt.lattice());
        overlay.line(WorldPoint::new(x, y), WorldPoint::new(-y, 1.0), Color::WHITE);
        assert!(overlay.quads().len() < 400, "{x},{y}: {}", overlay.quads().len());
        overlay.begin(&view.centered_on(WorldPoint::new(x, y)), quilt.lattice());
        overlay.lattice(Color::WHITE);
        overlay.chunk_edges(Color::WHITE);
        overlay.coordinates(Color::WHITE);
    }
    // What shows of a long line is what shows of a short one.
    let shown = |from: f64, to: f64| {
        let mut overlay = Overlay::new();
        overlay.begin(&view, quilt.lattice());
        overlay.line(WorldPoint::new(from, 8.0), WorldPoint::new(to, 8.0), Color::WHITE);
        overlay.quads().len()
    };
    assert!(shown(-80.0, 100.0).abs_diff(shown(-1e9, 1e9)) <= 6);
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(24))]

    #[test]
    fn a_set_of_cells_is_lit_and_hatched_where_it_is(
        cells in prop::collection::vec((-6..6_i32, -5..5_i32), 0..30),
        slanted in any::<bool>(),
        zoom in prop::sample::select(vec![1.0, 2.0, 3.0]),
    ) {
        let lattice = Lattice::square(16.0, 16.0).unwrap();
        let set: CellSet = cells.into_iter().map(|(x, y)| CellPos::new(x, y)).collect();
        let diamond = Projection::diamond(&lattice, 32, 16).unwrap();
        let projection = if slanted { diamond } else { Projection::FLAT };
        let view = View::new(ScreenSize::new(400, 300)).projected(projection).zoomed(zoom);
        let quilt = Quilt::new(lattice);
        let frame_of = |draw: &dyn Fn(&mut Overlay)| {
            let mut overlay = begun(&quilt, &view);
            draw(&mut overlay);
            painted(&overlay, view.size())
        };
        let lit = frame_of(&|overlay| overlay.cell_set(&set, Color::rgb(255, 255, 0)));
        let hatched = frame_of(&|overlay| overlay.hatch(&set, Color::rgb(255, 0, 0)));
        let mut hatched_cells = HashSet::new();
        for y in 0..300 {
            for x in 0..400 {
                let at = (y * 400 + x) as usize;
                let place = view.to_world(ScreenPoint::pixel(x, y));
                let cell = lattice.cell_at(place);
                // Lines along the border and through corners may touch the pixels beside them.
                let edge = 1.5 * if slanted { 2.5 } else { 1.0 } / zoom;
                let bounds = lattice.bounds(cell);
                let inner = WorldRect::between(
                    bounds.min() + WorldVec::new(edge, edge),
                    bounds.max() - WorldVec::new(edge, edge),
                );
                if inner.contains(place) {
                    let is_lit = lit.pixels()[at] != [0, 0, 0, 255];
                    prop_assert_eq!(is_lit, set.contains(cell), "pixel {},{}", x, y);
                    if hatched.pixels()[at] != [0, 0, 0, 255] {
                        prop_assert!(set.contains(cell), "pixel {},{}", x, y);
                        hatched_cells.insert(cell);
                    }
                }
            }
        }
        let middle = |cell: &CellPos| {
            let at = view.to_screen(lattice.center(*cell));
            (40.0..360.0).contains(&at.x) && (40.0..260.0).contains(&at.y)
        };
        for cell in set.iter().filter(middle) {
            prop_assert!(hatched_cells.contains(&cell), "{}", cell);
        }
    }
}
