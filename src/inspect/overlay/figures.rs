//! The box with the figures.

use crate::draw::{Batch, BatchOpener, DrawFigures, DrawList, Overlay, Quad};
use crate::picture::Color;
use crate::quilt::Quilt;
use crate::units::ScreenPoint;

/// So many batches are listed one by one.
const MAX_BATCHES: usize = 6;

impl Overlay {
    /// Draws a box in the upper left corner with the figures of a draw list: screen, map, camera,
    /// the cell under the pointer and what shows there, what was drawn and what was left out, and
    /// which batches quads fall into and what opened each.
    ///
    /// Costs a walk through all quads.
    pub fn figures(&mut self, quilt: &Quilt, list: &DrawList, pointer: Option<ScreenPoint>) {
        self.text_box(8, 8, &Overlay::figure_lines(quilt, list, pointer));
    }

    /// Returns the lines of [`Overlay::figures`], to be shown elsewhere.
    pub fn figure_lines(
        quilt: &Quilt,
        list: &DrawList,
        pointer: Option<ScreenPoint>,
    ) -> Vec<(String, Color)> {
        const TITLE: Color = Color::rgb(255, 214, 120);
        const PLAIN: Color = Color::rgb(226, 232, 238);
        let (view, figures) = (list.view(), list.figures());
        let center = view.center();
        // A zoom that fits something has many digits.
        let zoom = (view.zoom() * 1000.0).round() / 1000.0;
        let mut lines = vec![
            (format!("screen  {}", view.size()), PLAIN),
            (format!("map     {}", quilt.bounds()), PLAIN),
            (format!("camera  {:.1},{:.1} zoom {zoom}", center.x, center.y), PLAIN),
        ];
        if let Some(point) = pointer {
            let place = view.to_world(point);
            let front = match list.pick(point).next() {
                Some(picked) => match picked.key.sprite {
                    Some(key) => format!("sprite {key}"),
                    None => quilt.tiles().notation(picked.cell).to_string(),
                },
                None => "nothing".to_owned(),
            };
            let cell = quilt.lattice().cell_at(place);
            lines.push((format!("pointer {cell} · {front}"), TITLE));
        }
        lines
            .push((format!("drawn   {} quads, {} sprites", figures.quads, figures.sprites), PLAIN));
        let DrawFigures { hidden, clear, off_screen, chunks, cells, .. } = figures;
        lines.push((format!("hidden  {hidden} · clear {clear} · beyond {off_screen}"), PLAIN));
        let (anew, animated) = (figures.chunks_rebuilt, figures.chunks_animated);
        lines.push((
            format!("chunks  {chunks}, {cells} cells, {anew} anew, {animated} animated"),
            PLAIN,
        ));
        let quads = list.quads();
        let batches = DrawList::batches(&quads);
        lines.push((
            format!("batches {}, {} page changes", batches.len(), figures.page_changes),
            TITLE,
        ));
        for batch in batches.iter().take(MAX_BATCHES) {
            lines.push((batch_words(quilt, list, batch, &quads), PLAIN));
        }
        if batches.len() > MAX_BATCHES {
            lines.push((format!("  … and {} more", batches.len() - MAX_BATCHES), PLAIN));
        }
        lines
    }
}

/// What opened a batch, in words.
fn batch_words(quilt: &Quilt, list: &DrawList, batch: &Batch, quads: &[Quad]) -> String {
    let opener = match batch.opened_by {
        BatchOpener::Start => "start",
        BatchOpener::Blend => "blend",
        BatchOpener::Sprite => "sprite",
        BatchOpener::Layer => "layer",
        BatchOpener::Page => "page",
    };
    let page = list.page_name(batch.page);
    let first = quads.get(batch.first).map(|quad| match quad.key.sprite {
        Some(key) => format!("sprite {key}"),
        None => {
            let layer = quilt.layers().get(quad.key.layer as usize);
            format!("layer {}", layer.map_or("", |layer| layer.name()))
        }
    });
    format!("  {} {opener} {page} · {}", batch.count, first.unwrap_or_default())
}
