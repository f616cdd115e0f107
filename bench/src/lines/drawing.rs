//! Drawing on the CPU.

use image::RgbaImage;
use sturdy_quilt::draw::Quad;
use sturdy_quilt::paint::{KeptFrame, Shortcuts};
use sturdy_quilt::{
    CellPos, Clock, Color, DrawList, Frame, Painter, Quilt, ScreenPoint, ScreenSize, Sprite, View,
    WorldPoint, WorldVec,
};

use crate::harness::{Mark, Versus};
use crate::rivals::drawing;
use crate::scenes::{self, DRAWING_CELLS};

const SIZE: ScreenSize = ScreenSize::new(1920, 1080);
/// The pixel of the map in the upper left corner of the screen.
const CORNER: (f64, f64) = (21.0, 39.0);

pub(crate) fn run(versus: &mut Versus) {
    if !versus.wants("draw") {
        return;
    }
    let (quilt, tiles) = scenes::drawing();
    let middle = WorldPoint::new(CORNER.0 + 960.0, CORNER.1 + 540.0);
    let view = View::new(SIZE).centered_on(middle);
    redraws(versus, &quilt, &view);
    kept_frames(versus, &quilt, &view);
    against_the_rival(versus, &quilt, &tiles, &view);
    lists(versus, &quilt, &view);
    slanted(versus, &view);
}

/// A map that is seen at a slant.
fn slanted(versus: &mut Versus, flat: &View) {
    let quilt = scenes::slanted();
    let middle = quilt.lattice().center(CellPos::new(64, 64));
    let view = quilt.view(SIZE).centered_on(middle);
    let mut copy = copy_of_a_frame();
    for (name, view, mark) in [
        ("draw.slanted.redraw.memcpy", view, Mark::AtMost(2.5)),
        ("draw.slanted.zoom-2.memcpy", view.zoomed(2.0), Mark::None),
        ("draw.slanted.zoom-1.7.memcpy", view.zoomed(1.7), Mark::None),
        ("draw.slanted.zoom-0.5.memcpy", view.zoomed(0.5), Mark::None),
    ] {
        versus.line(name, 1, mark, false, redraw(&quilt, view, Painter::new()), &mut copy);
    }
    let (mut list, mut frame) = (DrawList::new(), Frame::new(SIZE));
    list.rebuild(&quilt, &view);
    let first = || {
        Painter::new().paint(&list, &mut frame);
        u64::from(frame.pixels()[1_000_000][1])
    };
    versus.line("draw.slanted.first.memcpy", 1, Mark::AtMost(5.0), false, first, &mut copy);
    let cells: u64 =
        view.visible_runs(quilt.lattice()).map(|run| run.cell_count()).sum::<u64>() * 2;
    let anew = || {
        let mut list = DrawList::new();
        list.rebuild(&quilt, &view);
        list.passes().count() as u64
    };
    versus.line("draw.slanted.list.new", cells, Mark::Nanoseconds(40.0), false, anew, || 0);
    let mut list = DrawList::new();
    let unchanged = || {
        list.rebuild(&quilt, &view);
        list.passes().count() as u64
    };
    let name = "draw.slanted.list.unchanged.new";
    versus.line(name, 1, Mark::AtMost(0.02), false, unchanged, anew);
    // The cell under each of some points of the screen.
    let lattice = *quilt.lattice();
    let points: Vec<ScreenPoint> = (0..1000_u32)
        .map(|at| ScreenPoint::pixel(at * 7919 % SIZE.width, at * 104_729 % SIZE.height))
        .collect();
    let found = |view: View| {
        let points = points.clone();
        move || {
            let cells = points.iter().map(|point| lattice.cell_at(view.to_world(*point)));
            cells.fold(0, |sum, cell| sum ^ (cell.x() as u64) << 20 ^ cell.y() as u64)
        }
    };
    let name = "draw.slanted.cell-at.flat";
    versus.line(name, 1000, Mark::AtMost(3.0), false, found(view), found(*flat));
}

/// Painting all of a list that is up to date, against copying the frame. Neither way clears the
/// frame: the lowest layer is solid everywhere.
fn redraws(versus: &mut Versus, quilt: &Quilt, view: &View) {
    let mut copy = copy_of_a_frame();
    let portable = Painter::with_shortcuts(Shortcuts { vectors: false, ..Shortcuts::default() });
    let views = [
        ("redraw", *view, Painter::new(), Mark::AtMost(1.0)),
        ("redraw.portable", *view, portable, Mark::AtMost(1.4)),
        ("zoom-2", view.zoomed(2.0), Painter::new(), Mark::AtMost(1.0)),
        ("zoom-3.7", view.zoomed(3.7), Painter::new(), Mark::AtMost(2.5)),
        ("turned", view.turned(5_f64.to_radians()), Painter::new(), Mark::AtMost(12.0)),
        ("redraw.2-threads", *view, Painter::new().with_threads(2), Mark::None),
    ];
    for (name, view, painter, mark) in views {
        let name = format!("draw.{name}.memcpy");
        versus.line(&name, 1, mark, false, redraw(quilt, view, painter), &mut copy);
    }
}

fn redraw(quilt: &Quilt, view: View, mut painter: Painter) -> impl FnMut() -> u64 {
    let (mut list, mut frame) = (DrawList::new(), Frame::new(SIZE));
    move || {
        list.rebuild(quilt, &view);
        painter.paint(&list, &mut frame);
        u64::from(frame.pixels()[1_000_000][1])
    }
}

fn copy_of_a_frame() -> impl FnMut() -> u64 {
    let (from, mut to) = (vec![7_u8; 1920 * 1080 * 4], vec![0_u8; 1920 * 1080 * 4]);
    move || {
        to.copy_from_slice(&from);
        u64::from(to[4_000_000])
    }
}

/// Painting what differs into a frame that is kept, against copying the frame.
fn kept_frames(versus: &mut Versus, quilt: &Quilt, view: &View) {
    let mut copy = copy_of_a_frame();
    let background = Color::rgb(0, 0, 0);
    let ways = [
        ("draw.scroll.ring.memcpy", KeptFrame::ring(background), 0.03),
        ("draw.scroll.place.memcpy", KeptFrame::new(background), 0.5),
    ];
    for (name, mut kept, most) in ways {
        let (mut list, mut painter, mut step) = (DrawList::new(), Painter::new(), 0_i32);
        let scroll = || {
            // To and fro, always by 3 pixels in both ways.
            step = (step + 1) % 8;
            let way = f64::from(3 * (step - 4).abs());
            list.rebuild(quilt, &view.moved(WorldVec::new(way, way)));
            painter.paint_into(&list, &mut kept);
            kept.painted_pixels()
        };
        versus.line(name, 1, Mark::AtMost(most), false, scroll, &mut copy);
    }
    // Two maps that differ in one cell, so that the edit itself is not counted.
    let (mut edited, cell) = (quilt.clone(), quilt.lattice().cell_at(view.center()));
    let tile = quilt.tile("scene/1").expect("the scene has this tile");
    edited.edit("one", |pen| pen.put("mist", cell, tile)).expect("the scene has this layer");
    let (mut list, mut painter) = (DrawList::new(), Painter::new());
    let (mut kept, mut is_edited) = (KeptFrame::new(background), false);
    let redraw = || {
        is_edited = !is_edited;
        list.rebuild(if is_edited { &edited } else { quilt }, view);
        painter.paint_into(&list, &mut kept);
        kept.painted_pixels()
    };
    versus.line("draw.edit.memcpy", 1, Mark::AtMost(0.002), false, redraw, &mut copy);
}

/// The same against a call of the picture crate for each tile.
fn against_the_rival(
    versus: &mut Versus,
    quilt: &Quilt,
    tiles: &[sturdy_quilt::Picture],
    view: &View,
) {
    let redraw = redraw(quilt, *view, Painter::new());
    let (width, height) = (DRAWING_CELLS.0 as i32, DRAWING_CELLS.1 as i32);
    let pictures = drawing::pictures(tiles);
    let layers = drawing::layers(quilt, width, height);
    let mut canvas = RgbaImage::new(SIZE.width, SIZE.height);
    let corner = (CORNER.0 as i64, CORNER.1 as i64);
    let overlay = || {
        drawing::draw(&mut canvas, &pictures, &layers, width as usize, corner);
        u64::from(canvas.get_pixel(1_000_000 % 1920, 1_000_000 / 1920).0[1])
    };
    // Both round each blend, in ways of their own, so the sums may differ by a level.
    versus.line("draw.redraw.overlay", 1, Mark::AtMost(0.04), false, redraw, overlay);
}

/// The list alone. `list.new` counts the cells of all layers, filled or not.
fn lists(versus: &mut Versus, quilt: &Quilt, view: &View) {
    let clock = Clock::new();
    let cells = view.visible_cells(quilt.lattice()).cell_count() * 4;
    let mut kept = DrawList::new();
    kept.rebuild_with(quilt, view, &clock, &[]);
    let quads = kept.quads().len() as u64;
    let anew = || {
        let mut list = DrawList::new();
        list.rebuild_with(quilt, view, &clock, &[]);
        list.passes().count() as u64
    };
    let mut flat: Vec<Quad> = Vec::new();
    let nothing = || 0;
    versus.line("draw.list.new", cells, Mark::Nanoseconds(12.0), false, anew, nothing);
    let flatten = || {
        kept.quads_into(&mut flat);
        flat.len() as u64
    };
    versus.line("draw.list.quads", quads, Mark::Nanoseconds(40.0), false, flatten, nothing);
    let mut list = DrawList::new();
    let unchanged = || {
        list.rebuild_with(quilt, view, &clock, &[]);
        list.passes().count() as u64
    };
    versus.line("draw.list.unchanged.new", 1, Mark::AtMost(0.02), false, unchanged, anew);
    let (mut list, mut step) = (DrawList::new(), 0.0);
    let moved = || {
        step = (step + 3.0) % 12.0;
        list.rebuild_with(quilt, &view.moved(WorldVec::new(step, step)), &clock, &[]);
        list.passes().count() as u64
    };
    versus.line("draw.list.moved.new", 1, Mark::AtMost(0.1), false, moved, anew);
    // Sprites among the cells of a layer that is sorted by row.
    let mut sorted = quilt.clone();
    let edit = sorted.edit("sort", |pen| pen.set_layer("mist", |mist| mist.with_sort_rows(true)));
    edit.expect("the scene has this layer");
    let tile = sorted.tile("scene/1").expect("the scene has this tile");
    let sprites: Vec<Sprite> = (0..1000_u32)
        .map(|key| {
            let (x, y) = (key * 7919 % 1900, key * 104_729 % 1060);
            let foot = WorldPoint::new(f64::from(x) + 30.0, f64::from(y) + 45.0);
            Sprite::new(key.into(), tile, foot).with_priority(3)
        })
        .collect();
    let mut list = DrawList::new();
    let merged = || {
        list.rebuild_with(&sorted, view, &clock, &sprites);
        list.passes().count() as u64
    };
    versus.line("draw.list.sprites", 1000, Mark::Nanoseconds(150.0), false, merged, nothing);
}
