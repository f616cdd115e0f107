//! `draw`: a map, or a part of it, as a picture.

mod atlas;
mod minimap;
mod overlays;
mod panel;

use std::io::Write;
use std::path::PathBuf;

use anyhow::bail;
use sturdy_quilt::draw::DrawFigures;
use sturdy_quilt::quilt::{Blend, LayerId};
use sturdy_quilt::{
    Clock, Color, DrawList, Frame, Layer, Loader, Overlay, Painter, Picture, Quilt, TileSet,
};

use crate::args::DrawArgs;
use crate::output::{Kind, Output};
use crate::{Outcome, map, problems};

use super::contact_sheet;
use super::words::{counted, rounded, rounded_point};
use panel::Panel;

/// Where a picture goes that the user has given no name.
const DEFAULT: &str = "map.png";

pub(crate) fn run(args: &DrawArgs, out: &mut dyn Write) -> anyhow::Result<Outcome> {
    if let Some(path) = &args.output {
        Kind::of(path, &[Kind::Picture])?;
    }
    if map::is_tile_set(&args.map.to_string_lossy()) {
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
    if !args.layers.is_empty() {
        quilt = with_layers(&quilt, &args.layers)?;
    }
    if let Some(page) = args.atlas {
        return atlas::run(&quilt, page, args, output, out);
    }
    if let Some(scale) = args.minimap {
        return minimap::run(&quilt, scale, args, output, out);
    }
    let turn = args.turn.unwrap_or(0.0).to_radians();
    let mut view = map::turned_view(&quilt, &args.view, turn)?.snapped(args.snap);
    if let Some(cell) = args.cell {
        view = view.centered_on(quilt.lattice().center(cell));
    }
    let mut list = DrawList::new();
    list.rebuild_with(&quilt, &view, &Clock::at_ms(args.time), &[]);
    let mut overlay = Overlay::new();
    overlay.begin(&view, quilt.lattice());
    let mut panel = Panel::default();
    overlays::lay_over(&mut overlay, &mut panel, &quilt, &list, args)?;
    let picture = painted(&list, &overlay, args.background);
    let (picture, panel) = panel.beside(picture, args.background);
    let path = put(&mut output, args, &picture)?;
    let (zoom, center) = (rounded(view.zoom()), rounded_point(view.center()));
    let beside = match panel {
        0 => String::new(),
        width => format!(", and {width} px of text beside it"),
    };
    output.say(format!(
        "{}: {}, zoom {zoom}, centred on {center}{beside}",
        path.display(),
        view.size()
    ));
    output.say(described(&list.figures()));
    let shown = quilt.explain_view(&view);
    if shown.is_empty() {
        output.say(shown.to_string());
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
    let unused = unused_by_sheets(args);
    if !unused.is_empty() {
        bail!("a tile set is drawn as a contact sheet, which has no {}", unused.join(", "));
    }
    let picture = contact_sheet::picture(set)?;
    let path = put(&mut output, args, &picture)?;
    let (size, name) = (picture.size(), set.name());
    let tiles = counted(set.tiles().len(), "tile");
    output.say(format!("{}: {size}, the {tiles} of {name}", path.display()));
    output.write(out)?;
    Ok(Outcome::Fine)
}

/// The options that were given and that mean nothing to a contact sheet.
fn unused_by_sheets(args: &DrawArgs) -> Vec<&'static str> {
    let given = [
        ("--size", args.view.size.is_some()),
        ("--center", args.view.center.is_some()),
        ("--cell", args.cell.is_some()),
        ("--zoom", args.view.zoom.is_some()),
        ("--fit", args.view.fit),
        ("--background", args.background != DrawArgs::BACKGROUND),
        ("--overlay", !args.overlay.is_empty()),
        ("--layers", !args.layers.is_empty()),
        ("--time", args.time != 0),
        ("--turn", args.turn.is_some()),
        ("--snap", args.snap),
        ("--palette", args.palette.is_some()),
        ("--minimap", args.minimap.is_some()),
        ("--atlas", args.atlas.is_some()),
        ("--why", args.why.is_some()),
        ("--edges", args.edges.is_some()),
        ("--blocked", args.blocked.is_some()),
        ("--values", args.values.is_some()),
    ];
    given.into_iter().filter(|(_, is_given)| *is_given).map(|(name, _)| name).collect()
}

/// A list and an overlay as a picture.
pub(crate) fn painted(list: &DrawList, overlay: &Overlay, background: Color) -> Picture {
    let (mut frame, mut painter) = (Frame::new(list.view().size()), Painter::new());
    frame.clear(background);
    painter.paint_with(list, &[overlay], &mut frame);
    frame.to_picture()
}

/// A map with its layers in a palette, but for lights that have one of their own.
fn in_palette(quilt: &Quilt, palette: &str) -> anyhow::Result<Quilt> {
    let slot = quilt.palette(palette)?;
    let mut tinted = quilt.clone();
    tinted.edit("palette", |pen| {
        let is_light = |layer: &&Layer| {
            let settings = layer.settings();
            settings.blend == Blend::Add && settings.palette.is_some()
        };
        let mut layers = quilt.layers().iter().filter(|layer| !is_light(layer));
        layers.try_for_each(|layer| pen.set_layer(layer.id(), |layer| layer.with_palette(slot)))
    })?;
    Ok(tinted)
}

/// A map in which some of its layers are shown, whether or not they are hidden, and no others.
fn with_layers(quilt: &Quilt, names: &[String]) -> anyhow::Result<Quilt> {
    let asked: Vec<LayerId> =
        names.iter().map(|name| Ok(quilt.layer(name)?.id())).collect::<anyhow::Result<_>>()?;
    let mut chosen = quilt.clone();
    chosen.edit("layers", |pen| {
        { quilt.layers().iter() }.try_for_each(|layer| {
            let is_asked = asked.contains(&layer.id());
            pen.set_layer(layer.id(), |settings| {
                let draws = is_asked || settings.draws;
                settings.with_visible(is_asked).with_draws(draws)
            })
        })
    })?;
    Ok(chosen)
}

/// The figures in words.
pub(crate) fn described(figures: &DrawFigures) -> String {
    let DrawFigures { cells, quads, hidden, clear, off_screen, .. } = figures;
    let (tiles, cells) = (counted(*quads, "tile"), counted(*cells, "cell"));
    format!(
        "{tiles} drawn; of {cells} {hidden} are hidden by others, {clear} clear, {off_screen} out of view"
    )
}
