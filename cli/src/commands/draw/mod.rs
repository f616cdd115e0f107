//! `draw`: a map, or a part of it, as a picture.

mod atlas;
mod minimap;
mod overlays;

use std::io::Write;
use std::path::PathBuf;

use anyhow::bail;
use sturdy_quilt::{
    Clock, Color, DrawFigures, DrawList, Frame, Loader, Overlay, Painter, Picture, Quilt, TileSet,
};

use crate::args::DrawArgs;
use crate::output::{Kind, Output};
use crate::{Outcome, map, problems};

use super::contact_sheet;

/// Where a picture goes that the user has given no name.
const DEFAULT: &str = "map.png";

pub(crate) fn run(args: &DrawArgs, out: &mut dyn Write) -> anyhow::Result<Outcome> {
    if let Some(path) = &args.output {
        Kind::of(path, &[Kind::Picture])?;
    }
    if args.map.to_string_lossy().ends_with(".tiles.json") {
        let place = map::located(&args.map)?;
        let (set, warnings) = Loader::new().load_tiles(&*place.source, &place.name)?;
        problems::show_warnings(&warnings);
        let pictures: Vec<String> = set.picture_file().map(str::to_owned).into_iter().collect();
        return draw_sheet(&set, args, place.output(&pictures), out);
    }
    let opened = map::open(&args.map)?;
    let mut output = opened.output();
    let mut quilt = opened.quilt;
    if let Some(name) = &args.sheet {
        let sets: Vec<&str> = quilt.tiles().sets().map(|set| set.name()).collect();
        let Some(set) = quilt.tiles().set(name) else {
            bail!("there is no tile set `{name}`; there are {}", sets.join(", "));
        };
        return draw_sheet(set, args, output, out);
    }
    if let Some(palette) = &args.palette {
        quilt = in_palette(&quilt, palette)?;
    }
    if let Some(page) = args.atlas {
        return atlas::run(&quilt, page, args, output, out);
    }
    if let Some(scale) = args.minimap {
        return minimap::run(&quilt, scale, args, output, out);
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
    let picture = painted(&list, &overlay, args.background);
    let path = put(&mut output, args, &picture)?;
    let (size, zoom, center) = (view.size(), view.zoom(), view.center());
    output.say(format!("{}: {size}, zoom {zoom}, centred on {center}", path.display()));
    output.say(described(&list.figures()));
    let sight = quilt.explain_view(&view);
    if sight.is_empty() {
        output.say(sight.to_string());
    }
    output.write(out)?;
    Ok(Outcome::Fine)
}

/// Adds the picture that was asked for to the output; gives its path.
fn put(output: &mut Output, args: &DrawArgs, picture: &Picture) -> anyhow::Result<PathBuf> {
    output.put_picture(args.output.as_deref(), DEFAULT, picture)
}

fn draw_sheet(
    set: &TileSet,
    args: &DrawArgs,
    mut output: Output,
    out: &mut dyn Write,
) -> anyhow::Result<Outcome> {
    let picture = contact_sheet::picture(set)?;
    let path = put(&mut output, args, &picture)?;
    let (size, name, tiles) = (picture.size(), set.name(), set.tiles().len());
    output.say(format!("{}: {size}, the {tiles} tiles of {name}", path.display()));
    output.write(out)?;
    Ok(Outcome::Fine)
}

/// A list and an overlay as a picture.
pub(crate) fn painted(list: &DrawList, overlay: &Overlay, background: Color) -> Picture {
    let (mut frame, mut painter) = (Frame::new(list.view().size()), Painter::new());
    frame.clear(background);
    painter.paint_with(list, &[overlay], &mut frame);
    frame.to_picture()
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
