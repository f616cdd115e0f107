//! What covers what at a slant, and what is seen under a pixel: against solids in space.
//!
//! Cells hold prisms that fill them, and posts in their middle; sprites are boxes anywhere. All are
//! painted as their outlines from the view, so that their geometry says which of two that overlap on the
//! screen must be drawn later: the one that a plane between them puts nearer.

use proptest::prelude::*;
use sturdy_quilt::draw::{DrawKind, Quad};
use sturdy_quilt::inspect::{PickBy, PickedPart};
use sturdy_quilt::tile::ArtPlacement;
use sturdy_quilt::units::PixelSize;
use sturdy_quilt::view::{Facing, Projection};
use sturdy_quilt::{
    CellPos, Clock, Color, DrawList, Lattice, LayerSettings, Picture, Quilt, ScreenPoint,
    ScreenSize, Sprite, TileSet, TileSpec, View, WorldPoint, WorldRect, WorldVec,
};

use crate::projection::turned;

/// A solid, in cells of the map as it is turned and units above the ground: from its least to its
/// greatest corner.
type Solid = ([f64; 3], [f64; 3]);

/// Half of a diamond in pixels, the units of a storey, and the height of posts.
const HALF: (i32, i32) = (16, 8);
const STOREY: f64 = 12.0;
const POST: f64 = 30.0;
const LAYERS: [&str; 4] = ["ground", "first", "second", "third"];

/// A picture of a prism on a diamond of a part of the cell, so many pixels high: its top face, and
/// what is seen of its sides below.
fn prism(part: (i32, i32), height: i32) -> Picture {
    let (half_width, half_height) = (HALF.0 * part.0 / part.1, HALF.1 * part.0 / part.1);
    let size = PixelSize::new(2 * half_width as u32, (2 * half_height + height) as u32);
    let mut picture = Picture::filled(size, Color::CLEAR);
    let in_diamond = |x: i32, y: i32| {
        let whole = 4 * half_width * half_height;
        let across = (2 * x + 1 - 2 * half_width) * half_height;
        let down = (2 * y + 1) * half_width;
        (0..whole).contains(&(down + across)) && (0..whole).contains(&(down - across))
    };
    for (x, y) in (0..size.height).flat_map(|y| (0..size.width).map(move |x| (x, y))) {
        if (0..=height).any(|z| in_diamond(x as i32, y as i32 - z)) {
            picture.set(x, y, Color::rgb(120, 90, 60));
        }
    }
    picture
}

fn yard() -> Quilt {
    let lattice = Lattice::square(8.0, 8.0).unwrap();
    let post = prism((1, 4), POST as i32);
    // The middle of its foot lies half of its diamond above its lower end.
    let foot = 1.0 - f64::from(HALF.1) / 4.0 / f64::from(post.size().height);
    let set = TileSet::builder("yard")
        .tile(TileSpec::picture("block.png").with_name("block"))
        .tile(
            TileSpec::picture("post.png")
                .with_name("post")
                .with_anchor(0.5, foot)
                .with_cell_anchor(0.5, 0.5),
        )
        .picture("block.png", &prism((1, 1), STOREY as i32))
        .picture("post.png", &post);
    let mut quilt = Quilt::new(lattice);
    quilt
        .edit("set up", |pen| {
            pen.set_projection(
                Projection::diamond(&lattice, 2 * HALF.0 as u32, 2 * HALF.1 as u32).unwrap(),
            )?;
            pen.put_tiles(set.build()?)?;
            for (name, number) in LAYERS.into_iter().zip(0..) {
                let settings = LayerSettings::default().with_sort_rows(true);
                pen.add_layer(name, settings.with_elevation(f64::from(number) * STOREY))?;
            }
            Ok::<_, sturdy_quilt::EditError>(())
        })
        .unwrap();
    quilt
}

/// The solid of a cell.
fn solid_of(quad: &Quad) -> Solid {
    let at = turned(quad.key.facing, quad.key.place);
    let (u, v) = (f64::from(at.x()), f64::from(at.y()));
    let top = quad.key.elevation;
    match quad.key.nearness > f64::NEG_INFINITY {
        false => ([u, v, top - STOREY], [u + 1.0, v + 1.0, top]),
        true => ([u + 0.375, v + 0.375, top], [u + 0.625, v + 0.625, top + POST]),
    }
}

/// Whether a plane parts them, with the first on its nearer side.
fn is_nearer(a: Solid, b: Solid) -> bool {
    (0..3).any(|axis| a.0[axis] >= b.1[axis])
}

/// Whether two quads show something in one pixel.
fn overlap(list: &DrawList, a: &Quad, b: &Quad) -> bool {
    let common = a.target.intersection(b.target);
    let is_seen = |quad: &Quad, x: i32, y: i32| {
        let (u, v) = (x - quad.target.left, y - quad.target.top);
        let page = list.page(quad.page).unwrap();
        let at = (quad.source.y as i32 + v) * page.size().width as i32 + quad.source.x as i32 + u;
        page.pixels()[at as usize][3] > 0
    };
    (common.top..common.bottom)
        .flat_map(|y| (common.left..common.right).map(move |x| (x, y)))
        .any(|(x, y)| is_seen(a, x, y) && is_seen(b, x, y))
}

/// What stands in a cell: how many blocks on each other, or else perhaps a post.
fn piles() -> impl Strategy<Value = Vec<(i32, i32, usize, bool)>> {
    prop::collection::vec((-3..3_i32, -3..3_i32, 0..4_usize, any::<bool>()), 1..24)
}

fn piled(piles: &[(i32, i32, usize, bool)]) -> Quilt {
    let mut quilt = yard();
    quilt
        .edit("pile up", |pen| {
            for &(x, y, height, has_post) in piles {
                let cell = CellPos::new(x, y);
                for (layer, storey) in LAYERS.iter().zip(0..) {
                    let is_block = (1..=height).contains(&storey);
                    let is_post = has_post && storey == 0 && height == 0;
                    let tile = match (is_block, is_post) {
                        (true, _) => "yard/block",
                        (_, true) => "yard/post",
                        _ => "empty",
                    };
                    pen.put(*layer, cell, tile)?;
                }
            }
            Ok::<_, sturdy_quilt::EditError>(())
        })
        .unwrap();
    quilt
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(96))]

    /// Nothing that is drawn covers what stands before it: blocks, posts, and sprites by their ground
    /// boxes.
    #[test]
    fn what_is_nearer_is_drawn_later(
        piles in piles(), quarters in 0..4_i32,
        people in prop::collection::vec(
            ((-24.0..24.0_f64, -24.0..24.0_f64), (0.5..6.0_f64, 0.5..6.0_f64), 0..3_i32), 0..5),
    ) {
        let quilt = piled(&piles);
        let view = View::new(ScreenSize::new(260, 260))
            .projected(quilt.projection().with_facing(Facing::new(quarters)))
            .centered_on(WorldPoint::default())
            .snapped(true);
        // Of the people, those who stand in no block, and below none.
        let mut solids: Vec<Solid> = Vec::new();
        let mut sprites = Vec::new();
        for ((at, half, storey), key) in people.into_iter().zip(0..) {
            let foot = WorldPoint::new(at.0, at.1);
            let way = WorldVec::new(half.0, half.1);
            let body = WorldRect::between(foot - way, foot + way);
            let elevation = f64::from(storey) * STOREY;
            let stands_free = quilt.lattice().cells_in(body).cells().all(|cell| {
                LAYERS.iter().zip(0..).all(|(layer, number)| {
                    let held = quilt.get(*layer, cell).unwrap().here().unwrap();
                    held.is_empty() || number > 0 && f64::from(number) * STOREY <= elevation
                })
            });
            if !stands_free {
                continue;
            }
            // The box as the map is turned, in cells.
            let corners = [body.min(), body.max()].map(|p| {
                let pane = view.projection().to_pane(p, 0.0);
                let (s, t) = (pane.y / f64::from(HALF.1), pane.x / f64::from(HALF.0));
                ((s + t) / 2.0, (s - t) / 2.0)
            });
            let least = |a: f64, b: f64| a.min(b);
            let (a, b) = (corners[0], corners[1]);
            let solid: Solid = (
                [least(a.0, b.0), least(a.1, b.1), elevation],
                [a.0.max(b.0), a.1.max(b.1), elevation + 20.0],
            );
            // People do not stand in each other either.
            let touches = |other: &Solid| (0..3).all(|axis| {
                solid.0[axis] < other.1[axis] && other.0[axis] < solid.1[axis]
            });
            if solids.iter().any(touches) {
                continue;
            }
            solids.push(solid);
            // Its picture is the upright rectangle around it, and so may reach beyond it: only pixels
            // of its own outline are asked for below.
            let picture = outline(solid);
            let pane = view.projection().to_pane(foot, elevation);
            let anchor = (
                (pane.x - picture.1.0) / f64::from(picture.0.size().width),
                (pane.y - picture.1.1) / f64::from(picture.0.size().height),
            );
            let placement = ArtPlacement { anchor: Some(anchor), ..ArtPlacement::default() };
            let look = sturdy_quilt::draw::SpritePicture::new(&picture.0, placement);
            let sprite = Sprite::of_picture(key, look, foot).with_elevation(elevation);
            sprites.push(sprite.with_ground_box(body));
        }
        let keys: Vec<u64> = sprites.iter().map(|sprite| sprite.key).collect();
        let mut list = DrawList::keeping_hidden();
        list.rebuild_with(&quilt, &view, &Clock::new(), &sprites);
        let quads = list.quads();
        let solid = |quad: &Quad| match quad.key.kind {
            DrawKind::Sprite => {
                let at = keys.iter().position(|key| Some(*key) == quad.key.sprite).unwrap();
                solids[at]
            }
            _ => solid_of(quad),
        };
        for (at, later) in quads.iter().enumerate() {
            for earlier in &quads[..at] {
                let (a, b) = (solid(earlier), solid(later));
                // People may stand so in the corner between cells that no one order is right for all of
                // their pixels: two of them are not compared.
                let both = (earlier.key.kind, later.key.kind) == (DrawKind::Sprite, DrawKind::Sprite);
                if !both && is_nearer(a, b) && !is_nearer(b, a) {
                    prop_assert!(
                        !overlap(&list, earlier, later),
                        "{:?} covers {:?}", later.key, earlier.key
                    );
                }
            }
        }
    }

    /// The things under a pixel, from front to back, are those of the quads that show there; by their
    /// outlines, those that show to both sides. The face is found by fractions.
    #[test]
    fn picks_are_the_quads_under_a_pixel(
        piles in piles(), quarters in 0..4_i32, (x, y) in (0..200_u32, 0..200_u32),
        center in (-20..20_i32, -20..20_i32),
    ) {
        let quilt = piled(&piles);
        let view = View::new(ScreenSize::new(200, 200))
            .projected(quilt.projection().with_facing(Facing::new(quarters)))
            .centered_on(WorldPoint::new(center.0.into(), center.1.into()))
            .snapped(true);
        let mut list = DrawList::keeping_hidden();
        list.rebuild(&quilt, &view);
        let (x, y) = (x as i32, y as i32);
        let alpha = |quad: &Quad, x: i32| {
            let (u, v) = (x - quad.target.left, y - quad.target.top);
            let page = list.page(quad.page).unwrap();
            let inside = 0 <= u && u < quad.source.size.width as i32 && 0 <= v && v < quad.source.size.height as i32;
            let at = (quad.source.y as i32 + v) * page.size().width as i32 + quad.source.x as i32 + u;
            if inside { page.pixels()[at as usize][3] } else { 0 }
        };
        let quads = list.quads();
        let point = ScreenPoint::pixel(x as u32, y as u32);
        let found: Vec<_> = list.pick(point).collect();
        let expected: Vec<_> = quads.iter().rev().filter(|quad| alpha(quad, x) > 0).collect();
        prop_assert_eq!(
            found.iter().map(|picked| picked.key).collect::<Vec<_>>(),
            expected.iter().map(|quad| quad.key).collect::<Vec<_>>()
        );
        for picked in &found {
            // The centre of the pixel on the pane, in quarters of half a diamond, as whole numbers.
            let at = turned(picked.key.facing, picked.key.place);
            let (column, row) = (view.pane_column(x), view.pane_row(y) + picked.key.elevation as i64);
            let (half_width, half_height) = (i64::from(HALF.0), i64::from(HALF.1));
            let down = (2 * row + 1) * half_width;
            let across = (2 * column + 1) * half_height;
            let side = 4 * half_width * half_height;
            let within = |sum: i64, at: i32| (i64::from(at) * side..(i64::from(at) + 1) * side).contains(&sum);
            let in_face = within(down + across, at.x()) && within(down - across, at.y());
            let is_face = in_face && picked.key.nearness == f64::NEG_INFINITY;
            prop_assert_eq!(picked.part, if is_face { PickedPart::Face } else { PickedPart::Body });
        }
        let outlined: Vec<_> = list.pick_by(point, PickBy::Outline).map(|picked| picked.key).collect();
        let seen = |quad: &Quad, mut range: std::ops::Range<i32>| range.any(|x| alpha(quad, x) > 0);
        let expected: Vec<_> = quads.iter().rev().filter(|quad| {
            seen(quad, quad.target.left..x + 1) && seen(quad, x..quad.target.right)
        }).map(|quad| quad.key).collect();
        prop_assert_eq!(outlined, expected);
        prop_assert_eq!(quilt.pick(&view, point).map(|picked| picked.key), found.first().map(|picked| picked.key));
    }
}

/// The outline of a solid from the view, and the corner of that on the pane.
fn outline(([u0, v0, z0], [u1, v1, z1]): Solid) -> (Picture, (f64, f64)) {
    let (half_width, half_height) = (f64::from(HALF.0), f64::from(HALF.1));
    let left = ((u0 - v1) * half_width).floor();
    let right = ((u1 - v0) * half_width).ceil();
    let top = ((u0 + v0) * half_height - z1).floor();
    let bottom = ((u1 + v1) * half_height - z0).ceil();
    let size = PixelSize::new((right - left) as u32, (bottom - top) as u32);
    let mut picture = Picture::filled(size, Color::CLEAR);
    for (x, y) in (0..size.height).flat_map(|y| (0..size.width).map(move |x| (x, y))) {
        let t = (left + f64::from(x) + 0.5) / half_width;
        let is_in = |z: f64| {
            let s = (top + f64::from(y) + 0.5 + z) / half_height;
            let (u, v) = ((s + t) / 2.0, (s - t) / 2.0);
            (u0..u1).contains(&u) && (v0..v1).contains(&v)
        };
        let steps = 40;
        if (0..=steps).any(|step| is_in(z0 + (z1 - z0) * f64::from(step) / f64::from(steps))) {
            picture.set(x, y, Color::rgb(200, 60, 60));
        }
    }
    (picture, (left, top))
}
