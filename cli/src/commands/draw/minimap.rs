//! The whole map, small.

use std::io::Write;

use sturdy_quilt::{Minimap, Overlay, Painter, Quilt, Sampling};

use super::put;
use crate::args::{DrawArgs, OverlayKind, Scale};
use crate::output::Output;
use crate::{Outcome, map};

pub(super) fn run(
    quilt: &Quilt,
    Scale(scale): Scale,
    args: &DrawArgs,
    mut output: Output,
    out: &mut dyn Write,
) -> anyhow::Result<Outcome> {
    let sampling = if args.nearest { Sampling::Nearest } else { Sampling::Average };
    let mut minimap = Minimap::new(scale).sampling(sampling);
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
    let path = put(&mut output, args, &frame.to_picture())?;
    output.say(format!("{}: {size}, a minimap of {}", path.display(), minimap.area()));
    output.write(out)?;
    Ok(Outcome::Fine)
}
