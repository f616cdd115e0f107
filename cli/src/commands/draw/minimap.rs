//! The whole map, small.

use std::io::Write;

use anyhow::bail;
use sturdy_quilt::inspect::Sampling;
use sturdy_quilt::{Frame, Minimap, Overlay, Painter, Picture, Quilt, ScreenSize};

use super::put;
use crate::args::{DrawArgs, OverlayKind, Scale};
use crate::output::Output;
use crate::{Outcome, map};

/// The least width or height at which a picture is seen well.
const GOOD_PX: u32 = 480;

/// How many times a minimap is enlarged: until its longer side is seen well.
fn times_to_be_seen(size: ScreenSize) -> u32 {
    GOOD_PX.div_ceil(size.width.max(size.height).max(1)).min(16)
}

/// A picture with so many pixels across and down for each.
fn enlarged(picture: &Picture, times: u32) -> Picture {
    let size = picture.size();
    let frame = Frame::new(ScreenSize::new(size.width * times, size.height * times));
    let mut large = frame.to_picture();
    for y in 0..size.height * times {
        for x in 0..size.width * times {
            if let Some(color) = picture.get(x / times, y / times) {
                large.set(x, y, color);
            }
        }
    }
    large
}

pub(super) fn run(
    quilt: &Quilt,
    Scale(scale): Scale,
    args: &DrawArgs,
    mut output: Output,
    out: &mut dyn Write,
) -> anyhow::Result<Outcome> {
    let sampling = if args.nearest { Sampling::Nearest } else { Sampling::Average };
    let projection = map::projection(quilt, &args.view);
    let minimap = Minimap::new(scale).with_sampling(sampling);
    let mut minimap = minimap.with_projection(projection);
    minimap.refresh(quilt)?;
    let mut frame = minimap.frame().clone();
    let size = frame.size();
    // A view that was asked for is framed on it.
    let asked = &args.view;
    let views = if asked.size.is_some() || asked.center.is_some() || args.cell.is_some() {
        let view = map::view(quilt, asked)?;
        vec![args.cell.map_or(view, |cell| view.centered_on(quilt.lattice().center(cell)))]
    } else {
        Vec::new()
    };
    let mut overlay = Overlay::new();
    match args.overlay.contains(&OverlayKind::Markers) {
        true => minimap.lay_over(quilt, &views, &mut overlay),
        false => minimap.lay_over(&Quilt::new(*quilt.lattice()), &views, &mut overlay),
    }
    Painter::new().paint_overlay(&overlay, &mut frame);
    let times = args.enlarge.unwrap_or_else(|| times_to_be_seen(size)).max(1);
    let most = u64::from(size.width) * u64::from(size.height) * u64::from(times * times);
    if most > map::MAX_PIXELS {
        bail!("a minimap of {size} is too large to be enlarged {times} times");
    }
    let path = put(&mut output, args, &enlarged(&frame.to_picture(), times))?;
    let of = match times {
        1 => size.to_string(),
        _ => format!("{size}, enlarged {times} times"),
    };
    output.say(format!("{}: {of}, a minimap of {}", path.display(), minimap.area()));
    output.write(out)?;
    Ok(Outcome::Fine)
}
