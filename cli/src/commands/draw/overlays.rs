//! What is laid over a map that is drawn.

use sturdy_quilt::{
    Color, DrawList, GroundMap, Overlay, OwnValue, Plane, Quilt, TileText, ValueKind,
};

use crate::args::{DrawArgs, OverlayKind};

/// Lays over the map what was asked for, in an order in which nothing hides the rest.
pub(super) fn lay_over(
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
    if wanted(OverlayKind::Unseen) {
        legend.extend(overlay.unseen(quilt));
    }
    if wanted(OverlayKind::Lattice) {
        overlay.lattice(Color { a: 60, ..white });
    }
    if wanted(OverlayKind::Chunks) {
        overlay.chunk_borders(Color::rgb(255, 210, 60));
    }
    if let Some(mover) = &args.edges {
        let pink = Color::rgb(255, 70, 150);
        overlay.solid_edges(&GroundMap::of(quilt), quilt.mover(mover)?, pink);
        legend.push((format!("stops {mover}"), pink));
    }
    if wanted(OverlayKind::Stamps) {
        overlay.chunk_stamps(quilt, Color::rgb(255, 210, 60));
    }
    if wanted(OverlayKind::Rows) {
        overlay.row_order(list, Color::rgb(120, 255, 190));
    }
    if wanted(OverlayKind::Names) {
        overlay.tiles(quilt, TileText::Name, white);
    }
    if wanted(OverlayKind::Numbers) {
        overlay.tiles(quilt, TileText::Number, white);
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
    if let Some(cell) = args.why {
        overlay.why(quilt, cell);
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
