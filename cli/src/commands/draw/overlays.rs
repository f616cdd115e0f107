//! What is laid over a map that is drawn.

use sturdy_quilt::inspect::TileText;
use sturdy_quilt::plane::{OwnValue, Plane, ValueKind};
use sturdy_quilt::{Color, DrawList, GroundMap, Overlay, Quilt};

use super::panel::Panel;
use crate::args::{DrawArgs, OverlayKind};
use crate::commands::words::rounded;

/// Lays over the map what was asked for, in an order in which nothing hides the rest. What there
/// is to read about it comes into the panel.
pub(super) fn lay_over(
    overlay: &mut Overlay,
    panel: &mut Panel,
    quilt: &Quilt,
    list: &DrawList,
    args: &DrawArgs,
) -> anyhow::Result<()> {
    let (white, red) = (Color::rgb(255, 255, 255), Color::rgba(224, 40, 36, 120));
    let teal = Color::rgb(40, 205, 190);
    let wanted = |kind| args.overlay.contains(&kind);
    let mut legend = Vec::new();
    if wanted(OverlayKind::Layers) {
        legend.extend(overlay.layers(quilt));
    }
    if wanted(OverlayKind::Ground) {
        legend.extend(overlay.ground(quilt, &GroundMap::of(quilt)));
    }
    if let Some(layer) = &args.values {
        legend.extend(show_values(overlay, quilt, layer)?);
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
        overlay.chunk_edges(teal);
    }
    if let Some(mover) = &args.edges {
        let pink = Color::rgb(255, 70, 150);
        overlay.solid_edges(&GroundMap::of(quilt), quilt.mover(mover)?, pink);
        legend.push((format!("stops {mover}"), pink));
    }
    if wanted(OverlayKind::Stamps) {
        overlay.chunk_stamps(quilt, teal);
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
    if let Some(cell) = args.why {
        const TITLE: Color = Color::rgb(255, 240, 150);
        overlay.cell(cell, TITLE);
        let mut lines = vec![(format!("cell {cell}"), TITLE)];
        lines.extend(Overlay::why_lines(quilt, list.view(), cell));
        panel.text(lines);
    }
    panel.legend(legend);
    if wanted(OverlayKind::Figures) {
        panel.text(Overlay::figure_lines(quilt, list, None));
    }
    Ok(())
}

/// How many values the legend names.
const STEPS: usize = 5;

/// Colours the cells of the map by a value layer: dark blue where it is lowest, bright yellow where
/// it is highest. Gives the legend.
fn show_values(
    overlay: &mut Overlay,
    quilt: &Quilt,
    layer: &str,
) -> anyhow::Result<Vec<(String, Color)>> {
    fn show<V: OwnValue + Into<f64>>(
        overlay: &mut Overlay,
        quilt: &Quilt,
        values: &Plane<V>,
        name: &str,
    ) -> Vec<(String, Color)> {
        // Cells without a value of their own have 0, which is a value as any other.
        let cells = quilt.bounds().union(values.bounds());
        let occupied = values.occupied().map(|(_, value)| value.into());
        let has_zeros = values.occupied().count() as u64 != cells.cell_count();
        let all = occupied.chain(has_zeros.then_some(0.0)).filter(|value: &f64| value.is_finite());
        let (low, high) = all.fold((f64::INFINITY, f64::NEG_INFINITY), |(low, high), value| {
            (low.min(value), high.max(value))
        });
        let color = |value: f64| {
            let part = ((value - low) / (high - low).max(f64::MIN_POSITIVE)).clamp(0.0, 1.0);
            let mix = |from: u8, to: u8| {
                (f64::from(from) + (f64::from(to) - f64::from(from)) * part).round() as u8
            };
            Color::rgba(mix(24, 255), mix(30, 224), mix(110, 70), 190)
        };
        let mut cursor = values.cursor();
        overlay.tint(cells, |at| {
            let value: f64 = cursor.get(at).here()?.into();
            (!value.is_nan()).then(|| color(value))
        });
        if low > high {
            return Vec::new();
        }
        let step = |number: usize| {
            let value = low + (high - low) * number as f64 / (STEPS - 1) as f64;
            (format!("{name} {}", rounded(value)), Color { a: 255, ..color(value) })
        };
        let mut legend: Vec<(String, Color)> = (0..STEPS).rev().map(step).collect();
        legend.dedup_by(|a, b| a.0 == b.0);
        legend
    }
    Ok(match quilt.value_layer(layer)?.kind() {
        ValueKind::U32 => show(overlay, quilt, quilt.values::<u32>(layer)?, layer),
        ValueKind::I32 => show(overlay, quilt, quilt.values::<i32>(layer)?, layer),
        ValueKind::F32 => show(overlay, quilt, quilt.values::<f32>(layer)?, layer),
    })
}
