//! What differs between two states of a map: as counts, as a list, as JSON, as a picture.

use serde_json::{Value, json};
use sturdy_quilt::edit::Touched;
use sturdy_quilt::units::{CellOffset, PixelSize};
use sturdy_quilt::{
    CellPos, CellRect, CellSet, Changeset, Color, DrawList, Marker, MarkerPlace, Overlay, Picture,
    Quilt, ScreenSize, View,
};

use super::draw;
use super::words::counted;

/// One part of what differs.
pub(super) struct Part {
    /// What it is, for example "layer `soil`: 3 cells".
    pub(super) name: String,
    /// Each thing that differs in it, as far as they are listed.
    pub(super) each: Vec<String>,
    /// How many are not listed.
    pub(super) more: usize,
}

/// The counts of what changes, in words; none where nothing does.
pub(super) fn counts(changes: &Changeset) -> Vec<String> {
    let values = changes.values::<u32>().count()
        + changes.values::<i32>().count()
        + changes.values::<f32>().count();
    let others = changes.touched().filter(|touched| {
        !matches!(touched, Touched::Cells(_) | Touched::Values(_) | Touched::Marker(_))
    });
    let markers = changes.touched().filter(|touched| matches!(touched, Touched::Marker(_)));
    let all = [
        (changes.cells().count(), "cell"),
        (values, "value"),
        (markers.count(), "marker"),
        (others.count(), "other part"),
    ];
    all.into_iter()
        .filter(|(count, _)| *count > 0)
        .map(|(count, word)| counted(count, word))
        .collect()
}

/// Says how much changes.
pub(super) fn said(changes: &Changeset) -> String {
    match counts(changes) {
        none if none.is_empty() => "nothing".to_owned(),
        some => some.join(", "),
    }
}

/// Says what was changed, of what would be.
pub(super) fn changed(changes: &Changeset) -> String {
    let counts: Vec<String> =
        counts(changes).into_iter().map(|count| format!("{count} changed")).collect();
    match counts.is_empty() {
        true => "nothing is changed: all of it is so already".to_owned(),
        false => counts.join(", "),
    }
}

/// What differs, part by part; of cells, values and markers up to so many each.
pub(super) fn parts(changes: &Changeset, after: &Quilt, most: usize) -> Vec<Part> {
    let mut parts = Vec::new();
    let mut seen = Vec::new();
    for touched in changes.touched() {
        if seen.contains(&touched) {
            continue;
        }
        seen.push(touched);
        match touched {
            Touched::Cells(layer) => {
                let all = || changes.cells().filter(|edit| edit.layer == layer);
                let tiles = after.tiles();
                let each = all().take(most).map(|edit| {
                    let [old, new] = [edit.before, edit.after].map(|cell| tiles.notation(cell));
                    format!("{}  {old} -> {new}", edit.cell)
                });
                parts.push(listed(
                    format!("layer `{layer}`"),
                    all().count(),
                    "cell",
                    each.collect(),
                ));
            }
            Touched::Values(layer) => {
                let all = values_of(changes, layer);
                let each =
                    all.iter().take(most).map(|(cell, old, new)| format!("{cell}  {old} -> {new}"));
                parts.push(listed(
                    format!("value layer `{layer}`"),
                    all.len(),
                    "value",
                    each.collect(),
                ));
            }
            Touched::Marker(name) => {
                let held = changes.markers().filter(|edit| {
                    edit.before.or(edit.after).is_some_and(|marker| marker.name() == name)
                });
                let said = held.map(|edit| match (edit.before, edit.after) {
                    (None, Some(_)) => "added",
                    (Some(_), None) => "removed",
                    (Some(a), Some(b)) if a.stated_place() != b.stated_place() => "moved",
                    _ => "changed",
                });
                let said = said.last().unwrap_or("renamed");
                parts.push(plain(format!("marker `{name}`: {said}")));
            }
            Touched::Settings(layer) => parts.push(plain(format!("settings of layer `{layer}`"))),
            other => parts.push(plain(words_of(&other))),
        }
    }
    parts
}

fn listed(name: String, count: usize, word: &str, each: Vec<String>) -> Part {
    let more = count - each.len();
    Part { name: format!("{name}: {}", counted(count, word)), each, more }
}

fn plain(name: String) -> Part {
    Part { name, each: Vec::new(), more: 0 }
}

fn words_of(touched: &Touched<'_>) -> String {
    match touched {
        Touched::Layer(name) => format!("layer `{name}` as a whole"),
        Touched::ValueLayer(name) => format!("value layer `{name}` as a whole"),
        Touched::Bounds => "the bounds".to_owned(),
        Touched::Projection => "the projection".to_owned(),
        Touched::Data => "the data of the map".to_owned(),
        Touched::Tiles(name) => format!("tile set `{name}`"),
        Touched::GroundClass(name) => format!("ground class `{name}`"),
        Touched::Mover(name) => format!("mover `{name}`"),
        Touched::Palette(name) => format!("palette `{name}`"),
        other => format!("{other:?}"),
    }
}

/// The values of a value layer that differ, whatever their kind.
fn values_of(changes: &Changeset, layer: &str) -> Vec<(CellPos, Value, Value)> {
    let u32s = changes.values::<u32>().map(|e| (e.layer, e.cell, json!(e.before), json!(e.after)));
    let i32s = changes.values::<i32>().map(|e| (e.layer, e.cell, json!(e.before), json!(e.after)));
    let f32s = changes.values::<f32>().map(|e| (e.layer, e.cell, json!(e.before), json!(e.after)));
    let all = u32s.chain(i32s).chain(f32s).filter(|(name, ..)| *name == layer);
    all.map(|(_, cell, old, new)| (cell, old, new)).collect()
}

/// All that differs, as JSON.
pub(super) fn as_json(changes: &Changeset, after: &Quilt) -> Value {
    let tiles = after.tiles();
    let cells: Vec<Value> = changes
        .cells()
        .map(|edit| {
            let [before, after] =
                [edit.before, edit.after].map(|cell| tiles.notation(cell).to_string());
            json!({ "layer": edit.layer, "cell": edit.cell, "before": before, "after": after })
        })
        .collect();
    let mut layers: Vec<&str> = Vec::new();
    let mut others = Vec::new();
    for touched in changes.touched() {
        match touched {
            Touched::Values(layer) if !layers.contains(&layer) => layers.push(layer),
            Touched::Cells(_) | Touched::Values(_) | Touched::Marker(_) => {}
            Touched::Settings(layer) => others.push(format!("settings of layer `{layer}`")),
            other => others.push(words_of(&other)),
        }
    }
    let values = layers.into_iter().flat_map(|layer| {
        values_of(changes, layer).into_iter().map(move |(cell, before, after)| {
            json!({ "layer": layer, "cell": cell, "before": before, "after": after })
        })
    });
    let markers = changes.markers().map(|edit| {
        let name = edit.before.or(edit.after).map(|marker| marker.name().to_owned());
        let place = |marker: Option<&Marker>| marker.map(place_words);
        json!({ "name": name, "before": place(edit.before), "after": place(edit.after) })
    });
    json!({
        "cells": cells,
        "values": values.collect::<Vec<_>>(),
        "markers": markers.collect::<Vec<_>>(),
        "others": others,
    })
}

fn place_words(marker: &Marker) -> String {
    match marker.stated_place() {
        MarkerPlace::Cell(cell) => format!("cell {cell}"),
        MarkerPlace::Point(point) => format!("point {point}"),
        MarkerPlace::Area(area) => area.to_string(),
        MarkerPlace::Path(points) => format!("path of {} points", points.len()),
        MarkerPlace::Polygon(points) => format!("polygon of {} points", points.len()),
        _ => "elsewhere".to_owned(),
    }
}

/// The cells in which two maps differ, those of markers with them.
fn area(changes: &Changeset, quilt: &Quilt) -> CellSet {
    let mut area = changes.area();
    for marker in changes.markers().flat_map(|edit| [edit.before, edit.after]).flatten() {
        let cells = match marker.stated_place() {
            MarkerPlace::Cell(cell) => CellSet::from(*cell),
            MarkerPlace::Area(rect) => CellSet::rect(*rect).unwrap_or_default(),
            _ => continue,
        };
        area = &area | &cells;
    }
    match area.is_empty() {
        true => CellSet::rect(quilt.bounds()).unwrap_or_default(),
        false => area,
    }
}

/// The color in which what differs is marked.
const MARKED: Color = Color::rgba(255, 80, 160, 160);

/// Both maps side by side, about where they differ, with what differs marked.
pub(super) fn side_by_side(
    (before, after): (&Quilt, &Quilt),
    words: (&str, &str),
    changes: &Changeset,
) -> Picture {
    const PANEL: ScreenSize = ScreenSize::new(636, 800);
    const GAP: u32 = 8;
    let (differing, shown) = (changes.area(), area(changes, after));
    let rect = shown.bounds();
    // With what lies around it in the maps.
    let margin = (rect.width().max(rect.height()) / 4).clamp(3, 12) as i32;
    let at = |cell: CellPos, by: i32| cell.saturating_add(CellOffset::new(by, by));
    let last = CellPos::new(rect.right() - 1, rect.bottom() - 1);
    let near = CellRect::between(at(rect.corner(), -margin), at(last, margin));
    let maps = before.bounds().union(after.bounds());
    let around = after.lattice().rect_bounds(near.intersection(maps).union(rect));
    let panel = |quilt: &Quilt, word: &str| {
        let view: View = quilt.view(PANEL).fitted_to(around);
        let (mut list, mut overlay) = (DrawList::new(), Overlay::new());
        list.rebuild(quilt, &view);
        overlay.begin(&view, quilt.lattice());
        overlay.cell_set(&differing, MARKED);
        overlay.label(8, 8, word, Color::rgb(255, 240, 120));
        draw::painted(&list, &overlay, Color::rgb(20, 24, 28))
    };
    let (left, right) = (panel(before, words.0), panel(after, words.1));
    let size = PixelSize::new(2 * PANEL.width + GAP, PANEL.height);
    let mut picture = Picture::filled(size, Color::rgb(255, 255, 255));
    for (from, start) in [(left, 0), (right, PANEL.width + GAP)] {
        for (x, y) in (0..PANEL.height).flat_map(|y| (0..PANEL.width).map(move |x| (x, y))) {
            if let Some(color) = from.get(x, y) {
                picture.set(start + x, y, color);
            }
        }
    }
    picture
}
