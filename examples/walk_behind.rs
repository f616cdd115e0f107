//! Walking behind things: pickers of the game stand in one order with the cells of the map.
//!
//! Two ways to hide someone. The shade tree on the left is made of cells, and those of its crown
//! are *raised*: they stand in front of every unraised sprite of their priority. The trees on the
//! right are single tall tiles in a layer that is *sorted by row*: who stands further down stands
//! in front.
//!
//! Run with `cargo run --example walk_behind [FOLDER]`; the picture goes to FOLDER, or to
//! `target/walk_behind`.

use std::error::Error;
use std::path::PathBuf;

use sturdy_quilt::{
    Clock, Color, DrawList, Frame, Overlay, Painter, Quilt, ScreenSize, Sprite, View, WorldPoint,
    WorldVec,
};

fn main() -> Result<(), Box<dyn Error>> {
    let folder = std::env::args_os().nth(1).map_or("target/walk_behind".into(), PathBuf::from);
    std::fs::create_dir_all(&folder)?;
    let quilt = Quilt::open(concat!(env!("CARGO_MANIFEST_DIR"), "/demo/terrace.quilt.json"))?;

    // A picker for each place: around the shade tree, and around the tall tree beside it.
    let picker = quilt.tile("folk/picker-front")?;
    let places = [
        ("behind the crown", 246.0, 206.0),
        ("in front of the trunk", 258.0, 246.0),
        ("behind the tall tree", 326.0, 183.0),
        ("in front of it", 302.0, 209.0),
    ];
    let sprites = (0..).zip(places).map(|(key, (_, x, y))| {
        // The layers of works, crowns, trees and folk all have priority 10.
        Sprite::new(key, picker, WorldPoint::new(x, y)).with_priority(10)
    });
    let sprites: Vec<Sprite> = sprites.collect();

    let view = View::new(ScreenSize::new(1280, 800))
        .zoomed(6.0)
        .centered_on(WorldPoint::new(285.0, 190.0));
    let mut list = DrawList::new();
    list.rebuild_with(&quilt, &view, &Clock::new(), &sprites);

    // What shows at a pixel can be asked for, the foremost first: how much of each picker does?
    let mut overlay = Overlay::new();
    overlay.begin(&view, quilt.lattice());
    for ((name, ..), sprite) in places.iter().zip(&sprites) {
        let (mut there, mut in_front) = (0, 0);
        for (across, up) in (-12..12).flat_map(|across| (0..24).map(move |up| (across, up))) {
            let way = WorldVec::new(f64::from(across) + 0.5, f64::from(up) + 0.5);
            let point =
                view.to_screen(WorldPoint::new(sprite.foot.x + way.x, sprite.foot.y - way.y));
            let picked: Vec<Option<u64>> = list.pick(point).map(|one| one.key.sprite).collect();
            there += usize::from(picked.contains(&Some(sprite.key)));
            in_front += usize::from(picked.first() == Some(&Some(sprite.key)));
        }
        println!("{name}: {} % of the picker shows", 100 * in_front / there.max(1));
        let foot = view.to_screen(sprite.foot);
        overlay.label(foot.x as i32 - 60, foot.y as i32 + 8, name, Color::rgb(255, 255, 255));
    }

    let (mut frame, mut painter) = (Frame::new(view.size()), Painter::new());
    painter.paint(&list, &mut frame);
    painter.paint_overlay(&overlay, &mut frame);
    let picture = folder.join("walk-behind.png");
    std::fs::write(&picture, frame.to_picture().to_png()?)?;
    println!("see {}", picture.display());
    Ok(())
}
