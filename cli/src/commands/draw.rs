//! `draw`: a map, or a part of it, as a picture.

use std::io::Write;
use std::path::Path;

use anyhow::Context;
use sturdy_quilt::{Color, DrawFigures, DrawList, Frame, Painter, Quilt, View};

use crate::args::DrawArgs;
use crate::{Outcome, map};

pub(crate) fn run(args: &DrawArgs, out: &mut dyn Write) -> anyhow::Result<Outcome> {
    let quilt = map::open(&args.map)?.quilt;
    let mut view = map::view(&quilt, &args.view)?;
    if let Some(cell) = args.cell {
        view = view.centered_on(quilt.lattice().center(cell));
    }
    let figures = to_file(&quilt, &view, args.background, &args.output)?;
    let (size, zoom, center) = (view.size(), view.zoom(), view.center());
    writeln!(out, "{}: {size}, zoom {zoom}, centred on {center}", args.output.display())?;
    writeln!(out, "{}", described(&figures))?;
    let sight = quilt.explain_view(&view);
    if sight.is_empty() {
        writeln!(out, "{sight}")?;
    }
    Ok(Outcome::Fine)
}

/// Draws what a view shows into a PNG file.
pub(crate) fn to_file(
    quilt: &Quilt,
    view: &View,
    background: Color,
    path: &Path,
) -> anyhow::Result<DrawFigures> {
    let mut list = DrawList::new();
    list.rebuild(quilt, view, &[]);
    let mut frame = Frame::new(view.size());
    frame.clear(background);
    Painter::new().paint(&list, &mut frame);
    let png = frame.to_picture().to_png()?;
    std::fs::write(path, png).with_context(|| format!("`{}` cannot be written", path.display()))?;
    Ok(*list.figures())
}

/// The figures in words.
pub(crate) fn described(figures: &DrawFigures) -> String {
    let DrawFigures { cells, quads, hidden, clear, off_screen, .. } = figures;
    format!(
        "{quads} of {cells} tiles drawn; {hidden} hidden by others, {clear} clear, {off_screen} out of view"
    )
}
