//! `draw`: a map, or a part of it, as a picture.

mod atlas;
mod minimap;
mod overlays;

use std::io::Write;
use std::path::Path;

use anyhow::bail;
use sturdy_quilt::{
    Clock, Color, DrawFigures, DrawList, Frame, Loader, Overlay, Painter, Picture, Quilt, TileSet,
    View,
};

use crate::args::DrawArgs;
use crate::{Outcome, map, problems};

use super::contact_sheet;

pub(crate) fn run(args: &DrawArgs, out: &mut dyn Write) -> anyhow::Result<Outcome> {
    if args.map.to_string_lossy().ends_with(".tiles.json") {
        let (source, name) = map::located(&args.map)?;
        let (set, warnings) = Loader::new().load_tiles(&*source, &name)?;
        problems::show_warnings(&warnings);
        return draw_sheet(&set, args, out);
    }
    let mut quilt = map::open(&args.map)?.quilt;
    if let Some(name) = &args.sheet {
        let sets: Vec<&str> = quilt.tiles().sets().map(|set| set.name()).collect();
        let Some(set) = quilt.tiles().set(name) else {
            bail!("there is no tile set `{name}`; there are {}", sets.join(", "));
        };
        return draw_sheet(set, args, out);
    }
    if let Some(palette) = &args.palette {
        quilt = in_palette(&quilt, palette)?;
    }
    if let Some(page) = args.atlas {
        return atlas::run(&quilt, page, &args.output, out);
    }
    if let Some(scale) = args.minimap {
        return minimap::run(&quilt, scale, args, out);
    }
    let mut view = map::view(&quilt, &args.view)?.snapped(args.snap);
    if let Some(cell) = args.cell {
        view = view.centered_on(quilt.lattice().center(cell));
    }
    if let Some(degrees) = args.turn {
        view = view.turned(degrees.to_radians());
    }
    let mut list = DrawList::new();
    list.rebuild(&quilt, &view, &Clock::at_ms(args.time), &[]);
    let mut overlay = Overlay::new();
    overlay.begin(&view, quilt.lattice());
    overlays::lay_over(&mut overlay, &quilt, &list, args)?;
    save(&list, &overlay, args.background, &args.output)?;
    let figures = list.figures();
    let (size, zoom, center) = (view.size(), view.zoom(), view.center());
    writeln!(out, "{}: {size}, zoom {zoom}, centred on {center}", args.output.display())?;
    writeln!(out, "{}", described(&figures))?;
    let sight = quilt.explain_view(&view);
    if sight.is_empty() {
        writeln!(out, "{sight}")?;
    }
    Ok(Outcome::Fine)
}

fn draw_sheet(set: &TileSet, args: &DrawArgs, out: &mut dyn Write) -> anyhow::Result<Outcome> {
    let size = contact_sheet::draw(set, &args.output)?;
    let (path, name, tiles) = (args.output.display(), set.name(), set.tiles().len());
    writeln!(out, "{path}: {size}, the {tiles} tiles of {name}")?;
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
    list.rebuild(quilt, view, &Clock::new(), &[]);
    save(&list, &Overlay::new(), background, path)?;
    Ok(list.figures())
}

/// Paints a list and an overlay into a PNG file.
pub(crate) fn save(
    list: &DrawList,
    overlay: &Overlay,
    background: Color,
    path: &Path,
) -> anyhow::Result<()> {
    let (mut frame, mut painter) = (Frame::new(list.view().size()), Painter::new());
    frame.clear(background);
    painter.paint_with(list, &[overlay], &mut frame);
    write_png(&frame.to_picture(), path)
}

fn write_png(picture: &Picture, path: &Path) -> anyhow::Result<()> {
    map::write(path, &picture.to_png()?)
}

/// A map with all its layers in a palette.
fn in_palette(quilt: &Quilt, palette: &str) -> anyhow::Result<Quilt> {
    let slot = quilt.palette(palette)?;
    let mut tinted = quilt.clone();
    tinted.edit("palette", |pen| {
        let layers = quilt.layers().iter();
        { layers }.try_for_each(|layer| pen.set_layer(layer.id(), |layer| layer.palette(slot)))
    })?;
    Ok(tinted)
}

/// The figures in words.
pub(crate) fn described(figures: &DrawFigures) -> String {
    let DrawFigures { cells, quads, hidden, clear, off_screen, .. } = figures;
    format!(
        "{quads} tiles drawn; of {cells} cells {hidden} are hidden by others, {clear} clear, {off_screen} out of view"
    )
}
