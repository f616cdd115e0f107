//! Drawing on the CPU.

use image::RgbaImage;
use sturdy_quilt::{Clock, DrawList, Frame, Painter, ScreenSize, View, WorldPoint};

use crate::harness::{Mark, Versus};
use crate::rivals::drawing;
use crate::scenes;

pub(crate) fn run(versus: &mut Versus) {
    if !versus.wants("draw") {
        return;
    }
    let size = ScreenSize::new(1920, 1080);
    let (quilt, tiles) = scenes::drawing();
    let view = View::new(size).centered_on(WorldPoint::new(960.0, 540.0));
    let (mut list, mut painter, mut frame) = (DrawList::new(), Painter::new(), Frame::new(size));
    // A full redraw with a list that is up to date, as each frame of a still camera has it. Neither
    // way clears the frame: the lowest layer is solid everywhere.
    let mut redraw = || {
        list.rebuild(&quilt, &view, &Clock::new(), &[]);
        painter.paint(&list, &mut frame);
        u64::from(frame.pixels()[1_000_000][1])
    };
    let pictures = drawing::pictures(&tiles);
    let layers = drawing::layers(&quilt, 120, 68);
    let mut canvas = RgbaImage::new(size.width, size.height);
    let overlay = || {
        drawing::draw(&mut canvas, &pictures, &layers, 120);
        u64::from(canvas.get_pixel(1_000_000 % 1920, 1_000_000 / 1920).0[1])
    };
    // Both round each blend, in ways of their own, so the sums may differ by a level.
    versus.line("draw.redraw.overlay", 1, Mark::AtMost(0.1), false, &mut redraw, overlay);
    let (from, mut to) = (vec![7_u8; 1920 * 1080 * 4], vec![0_u8; 1920 * 1080 * 4]);
    let copy = || {
        to.copy_from_slice(&from);
        u64::from(to[4_000_000])
    };
    versus.line("draw.redraw.memcpy", 1, Mark::None, false, &mut redraw, copy);
    let mut to = vec![0_u8; 1920 * 1080 * 4];
    let mut level = 0_u8;
    let fill = || {
        level = level.wrapping_add(1);
        to.fill(level);
        u64::from(to[4_000_000])
    };
    versus.line("draw.redraw.fill", 1, Mark::None, false, &mut redraw, fill);
    // The list alone, from nothing, against copying the frame.
    let mut to = vec![0_u8; 1920 * 1080 * 4];
    let anew = || {
        let mut list = DrawList::new();
        list.rebuild(&quilt, &view, &Clock::new(), &[]);
        list.figures().quads as u64
    };
    let copy = || {
        to.copy_from_slice(&from);
        u64::from(to[4_000_000])
    };
    versus.line("draw.list.memcpy", 1, Mark::None, false, anew, copy);
}
