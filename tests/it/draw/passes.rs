//! What a renderer keeps of passes: keys, stamps, places on the pane.

use std::collections::HashMap;

use proptest::prelude::*;
use sturdy_quilt::draw::{Pass, StackChunk, StackEntry, StackKey, StackPass};
use sturdy_quilt::units::{ChunkPos, ScreenSize};
use sturdy_quilt::{CellPos, CellRect, DrawList, View, WorldPoint};

use super::{any_projected_view, any_scene, any_shot, listed, listed_at, sprites_of};
use crate::scene::empty_quilt;

/// All stack passes of a list.
fn stacks(list: &DrawList) -> impl Iterator<Item = StackPass<'_>> {
    list.passes().filter_map(|pass| match pass {
        Pass::Stack(pass) => Some(pass),
        _ => None,
    })
}

/// For which a buffer is kept.
type Kept = (StackKey, ChunkPos, (i32, i32));

fn kept_for(pass: &StackPass<'_>, chunk: &StackChunk<'_>) -> Kept {
    (pass.key(), chunk.pos(), (chunk.moved_by().x, chunk.moved_by().y))
}

proptest! {
    /// Whatever sprites stand among the cells: a renderer finds for each pass and chunk what it keeps
    /// of it, and draws a part of that.
    #[test]
    fn sprites_leave_what_is_kept_of_chunks(quilt in any_scene(), (view, clock, seeds) in any_shot()) {
        let list = listed_at(DrawList::new(), &quilt, &view, &clock, &[]);
        let mut kept = HashMap::new();
        for pass in stacks(&list) {
            for chunk in pass.chunks() {
                prop_assert!(chunk.has_all_layers());
                let whole: Vec<StackEntry> = chunk.whole().entries().collect();
                // Pictures that are larger than their cell part passes as well.
                let buffer = (chunk.stamp(), whole);
                let before = kept.insert(kept_for(&pass, &chunk), buffer.clone());
                prop_assert!(before.is_none_or(|before| before == buffer));
            }
        }
        let list = listed_at(list, &quilt, &view, &clock, &sprites_of(&quilt, &seeds));
        for pass in stacks(&list) {
            for chunk in pass.chunks() {
                let Some((stamp, whole)) = kept.get(&kept_for(&pass, &chunk)) else {
                    return Err(TestCaseError::fail("a pass whose key is known with sprites only"));
                };
                prop_assert_eq!(*stamp, chunk.stamp());
                prop_assert_eq!(whole, &chunk.whole().entries().collect::<Vec<_>>());
                let rank = |entry: &StackEntry| match view.projection().is_slanted() {
                    true => entry.half_lines().1,
                    false => entry.row(),
                };
                let in_ranks: Vec<StackEntry> =
                    { whole.iter() }.filter(|own| chunk.ranks().contains(&rank(own))).copied().collect();
                let drawn: Vec<StackEntry> = chunk.entries().collect();
                if chunk.has_all_layers() {
                    prop_assert_eq!(drawn, in_ranks);
                } else {
                    prop_assert!(drawn.iter().all(|entry| in_ranks.contains(entry)));
                    prop_assert!(view.projection().is_slanted() && chunk.ranks().len() <= 1);
                }
            }
        }
    }

    /// What is kept of a chunk lies where its quads are, by one affine map.
    #[test]
    fn an_affine_map_takes_chunks_to_the_screen(quilt in any_scene(), (view, clock, seeds) in any_shot()) {
        let list = listed_at(DrawList::new(), &quilt, &view, &clock, &sprites_of(&quilt, &seeds));
        for pass in stacks(&list) {
            let [across, down] = pass.view().pane_to_screen();
            for chunk in pass.chunks() {
                let corner = pass.chunk_place(&chunk);
                for entry in chunk.entries() {
                    let rect = list.rect_of(&pass, &chunk, entry).unwrap();
                    let target = list.quad_of(&pass, &chunk, entry).unwrap().target;
                    let on_screen = |row: [f64; 3], x: f64, y: f64| {
                        row[0] * (corner.x + x) + row[1] * (corner.y + y) + row[2]
                    };
                    let (min, max) = (rect.min(), rect.max());
                    for (edge, place) in [
                        (target.left, on_screen(across, min.x, min.y)),
                        (target.top, on_screen(down, min.x, min.y)),
                        (target.right, on_screen(across, max.x, max.y)),
                        (target.bottom, on_screen(down, max.x, max.y)),
                    ] {
                        // An edge is rounded to a pixel, and in a view that snaps so is its place.
                        prop_assert!((f64::from(edge) - place).abs() <= 1.01, "{} {}", edge, place);
                    }
                }
            }
        }
    }

    /// Of turned views as well, the map is the one by which places show, near the origin and far from it.
    #[test]
    fn the_affine_map_of_a_view_shows_places(
        (view, turn) in (any_projected_view(), prop_oneof![Just(0.0), -4.0..4.0_f64]),
        (far, way) in (prop_oneof![Just(0.0), -1e8..1e8_f64], (-500.0..500.0_f64, -500.0..500.0_f64)),
        elevation in -20.0..20.0_f64,
    ) {
        let center = view.center();
        let center = WorldPoint::new(center.x + far, center.y - far);
        let view = view.centered_on(center).turned(turn);
        let place = WorldPoint::new(center.x + way.0, center.y + way.1);
        let on_pane = view.projection().to_pane(place, elevation);
        let shown = view.to_screen_at(place, elevation);
        let [x, y] = view.pane_to_screen().map(|row| row[0] * on_pane.x + row[1] * on_pane.y + row[2]);
        // The sum loses digits far from the origin, and the point of the screen has few.
        let size = 1.0 + view.zoom() * (on_pane.x.abs() + on_pane.y.abs());
        let bound = size * 1e-14 + f64::from(shown.x.abs().max(shown.y.abs())) * 1e-6 + 1e-3;
        prop_assert!((x - f64::from(shown.x)).abs() <= bound, "{} {:?}", x, shown);
        prop_assert!((y - f64::from(shown.y)).abs() <= bound, "{} {:?}", y, shown);
    }
}

/// An edit below what covers it leaves the stamps of the chunks, however large it is.
#[test]
fn a_stamp_survives_an_edit_that_changes_no_entry() {
    let mut quilt = empty_quilt();
    let area = CellRect::new(CellPos::ORIGIN, 64, 64);
    let edit = quilt.edit("fill", |pen| {
        let grass = pen.tile("flat/grass")?;
        pen.fill("soil", area, grass)?;
        pen.fill("works", area, grass)
    });
    edit.unwrap();
    let view = View::new(ScreenSize::new(200, 200)).centered_on(WorldPoint::new(100.0, 100.0));
    let stamps = |list: &DrawList| -> Vec<_> {
        stacks(list).flat_map(|pass| pass.chunks().map(|chunk| chunk.stamp())).collect()
    };
    let mut list = listed(DrawList::new(), &quilt, &view);
    let before = stamps(&list);
    for tile in ["flat/wall", "flat/grass"] {
        let edit = quilt.edit("below", |pen| pen.fill("soil", area, pen.tile(tile)?));
        edit.unwrap();
        list = listed(list, &quilt, &view);
        assert_eq!(stamps(&list), before);
    }
    let edit = quilt.edit("above", |pen| pen.fill("works", area, pen.tile("flat/wall")?));
    edit.unwrap();
    let after = stamps(&listed(list, &quilt, &view));
    assert!(before.iter().all(|stamp| !after.contains(stamp)));
}
