//! `draw`: a map, or a part of it, as a picture.

use std::io::Write;
use std::path::Path;

use anyhow::{Context, bail};
use sturdy_quilt::{
    Clock, Color, DrawFigures, DrawList, Frame, GroundMap, Loader, Overlay, OwnValue, Painter,
    Plane, Quilt, TileSet, ValueKind, View,
};

use crate::args::{DrawArgs, OverlayKind};
use crate::{Outcome, map, problems};

use super::contact_sheet;

pub(crate) fn run(args: &DrawArgs, out: &mut dyn Write) -> anyhow::Result<Outcome> {
    if args.map.to_string_lossy().ends_with(".tiles.json") {
        let (source, name) = map::located(&args.map)?;
        let (set, warnings) = Loader::new().load_tiles(&*source, &name)?;
        problems::show_warnings(&warnings);
        return draw_sheet(&set, args, out);
    }
    let quilt = map::open(&args.map)?.quilt;
    if let Some(name) = &args.sheet {
        let sets: Vec<&str> = quilt.tiles().sets().map(|set| set.name()).collect();
        let Some(set) = quilt.tiles().set(name) else {
            bail!("there is no tile set `{name}`; there are {}", sets.join(", "));
        };
        return draw_sheet(set, args, out);
    }
    let mut view = map::view(&quilt, &args.view)?;
    if let Some(cell) = args.cell {
        view = view.centered_on(quilt.lattice().center(cell));
    }
    let mut list = DrawList::new();
    list.rebuild(&quilt, &view, &Clock::new(), &[]);
    let mut overlay = Overlay::new();
    overlay.begin(&view, quilt.lattice());
    lay_over(&mut overlay, &quilt, &list, args)?;
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
    painter.paint(list, &mut frame);
    painter.paint_overlay(overlay, &mut frame);
    let png = frame.to_picture().to_png()?;
    std::fs::write(path, png).with_context(|| format!("`{}` cannot be written", path.display()))
}

/// Lays over the map what was asked for, in an order in which nothing hides the rest.
fn lay_over(
    overlay: &mut Overlay,
    quilt: &Quilt,
    list: &DrawList,
    args: &DrawArgs,
) -> anyhow::Result<()> {
    let (white, red) = (Color::rgb(255, 255, 255), Color::rgba(224, 40, 36, 120));
    let wanted = |kind| args.overlay.contains(&kind);
    let mut legend = Vec::new();
    if wanted(OverlayKind::Layers) {
        legend.extend(overlay.layers(quilt));
    }
    if wanted(OverlayKind::Ground) {
        legend.extend(overlay.ground(quilt, &GroundMap::of(quilt)));
    }
    if let Some(layer) = &args.values {
        show_values(overlay, quilt, layer)?;
    }
    if let Some(mover) = &args.blocked {
        overlay.blocked(&GroundMap::of(quilt), quilt.mover(mover)?, red);
        legend.push((format!("blocks {mover}"), Color { a: 255, ..red }));
    }
    if wanted(OverlayKind::Raised) {
        let violet = Color::rgba(190, 90, 255, 130);
        overlay.raised(quilt, violet);
        legend.push(("raised".to_owned(), Color { a: 255, ..violet }));
    }
    if wanted(OverlayKind::Palettes) {
        overlay.palettes(quilt);
    }
    if wanted(OverlayKind::Lattice) {
        overlay.lattice(Color { a: 60, ..white });
    }
    if wanted(OverlayKind::Chunks) {
        overlay.chunk_borders(Color::rgb(255, 210, 60));
    }
    if wanted(OverlayKind::Coordinates) {
        overlay.coordinates(white);
    }
    if wanted(OverlayKind::Markers) {
        overlay.markers(quilt);
    }
    if wanted(OverlayKind::Figures) {
        overlay.figures(quilt, list, None);
    }
    overlay.legend(&legend);
    Ok(())
}

/// Colours cells by a value layer, from its lowest value to its highest; 0 stays as it is.
fn show_values(overlay: &mut Overlay, quilt: &Quilt, layer: &str) -> anyhow::Result<()> {
    fn show<V: OwnValue + Into<f64>>(overlay: &mut Overlay, values: &Plane<V>) {
        let all = || values.occupied().map(|(_, value)| value.into()).filter(|v| !v.is_nan());
        let (low, high) = (all().fold(0.0, f64::min), all().fold(0.0, f64::max));
        overlay.values(values, |value| {
            let value: f64 = value.into();
            let part = (value - low) / (high - low).max(f64::MIN_POSITIVE);
            let level = (part.clamp(0.0, 1.0) * 255.0) as u8;
            (value != 0.0).then_some(Color::rgba(level, level / 2 + 60, 255 - level, 170))
        });
    }
    match quilt.value_layer(layer)?.kind() {
        ValueKind::U32 => show(overlay, quilt.values::<u32>(layer)?),
        ValueKind::I32 => show(overlay, quilt.values::<i32>(layer)?),
        ValueKind::F32 => show(overlay, quilt.values::<f32>(layer)?),
    }
    Ok(())
}

/// The figures in words.
pub(crate) fn described(figures: &DrawFigures) -> String {
    let DrawFigures { cells, quads, hidden, clear, off_screen, .. } = figures;
    format!(
        "{quads} of {cells} tiles drawn; {hidden} hidden by others, {clear} clear, {off_screen} out of view"
    )
}
