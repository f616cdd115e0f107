//! `at`: what is at a cell, a place in the world or on the screen.

use std::io::Write;

use anyhow::bail;
use serde_json::{Value, json};
use sturdy_quilt::draw::DrawKind;
use sturdy_quilt::ground::{DecidedBy, GroundDecision};
use sturdy_quilt::inspect::{CellVisibility, Picked, PickedPart, Visibility};
use sturdy_quilt::quilt::{GroundClass, Grounds, Treatment};
use sturdy_quilt::tile::CellShape;
use sturdy_quilt::{
    CellPos, DrawList, GroundMap, Layer, Mover, Presence, Quilt, ScreenPoint, Side, View,
    WorldPoint,
};

use super::words::rounded;
use crate::args::{AtArgs, PositionKind};
use crate::{Outcome, map};

pub(crate) fn run(args: &AtArgs, out: &mut dyn Write) -> anyhow::Result<Outcome> {
    let quilt = map::open(&args.map)?.quilt;
    let view = map::view(&quilt, &args.view)?;
    let place = place(&quilt, &view, args)?;
    let point = view.to_screen(place);
    let seen = seen(&quilt, &view, point, args.kind);
    // At a slant, what is seen at a pixel is seldom what lies on the ground there.
    let pointed = seen.first().filter(|_| args.kind == PositionKind::Screen);
    let pointed = pointed.filter(|_| view.projection().is_slanted());
    let cell = pointed.map_or(quilt.lattice().cell_at(place), |seen| seen.key.place);
    let place = pointed.map_or(place, |seen| quilt.lattice().center(seen.key.place));
    let asked = Asked { place, cell, point, seen: &seen };
    if args.json {
        writeln!(out, "{}", serde_json::to_string_pretty(&report(&quilt, &view, &asked))?)?;
    } else {
        show(&quilt, &view, &asked, out)?;
    }
    Ok(Outcome::Fine)
}

/// What was asked for.
struct Asked<'s> {
    place: WorldPoint,
    cell: CellPos,
    /// The point of the screen.
    point: ScreenPoint,
    /// What is seen at its pixel, from front to back.
    seen: &'s [Picked],
}

/// What is seen at the pixel that was asked for, or at that of a place, from front to back.
fn seen(quilt: &Quilt, view: &View, point: ScreenPoint, kind: PositionKind) -> Vec<Picked> {
    if kind != PositionKind::Screen && !view.projection().is_slanted() {
        return Vec::new();
    }
    let mut list = DrawList::new();
    list.rebuild(quilt, view);
    list.pick(point).collect()
}

/// One of the things that are seen, in words.
fn seen_words(quilt: &Quilt, seen: &Picked) -> (String, String, String) {
    let layer = quilt.layers().get(seen.key.layer as usize);
    let layer = layer.map_or("", |layer| layer.name()).to_owned();
    let content = quilt.tiles().notation(seen.cell).to_string();
    let part = match (seen.key.kind, seen.part) {
        (DrawKind::Backdrop, _) => return (layer, content, "the backdrop".to_owned()),
        (_, PickedPart::Face) => "its face",
        _ => "its body",
    };
    (layer, content, format!("{part}, of cell {}", seen.key.place))
}

/// The place in the world that was asked for.
fn place(quilt: &Quilt, view: &View, args: &AtArgs) -> anyhow::Result<WorldPoint> {
    let WorldPoint { x, y } = args.position;
    Ok(match args.kind {
        PositionKind::World => args.position,
        PositionKind::Cell => {
            let cell = CellPos::checked(x as i64, y as i64);
            match cell.filter(|_| x.fract() == 0.0 && y.fract() == 0.0) {
                Some(cell) => quilt.lattice().center(cell),
                None => bail!(
                    "a cell has a whole column and row, from {} to {}",
                    CellPos::MIN,
                    CellPos::MAX
                ),
            }
        }
        PositionKind::Screen => {
            let size = view.size();
            let inside = (0.0..f64::from(size.width)).contains(&x)
                && (0.0..f64::from(size.height)).contains(&y);
            if !inside {
                bail!("pixel {x},{y} lies outside the picture of {size}");
            }
            view.to_world(ScreenPoint::pixel(x as u32, y as u32))
        }
    })
}

/// What a layer holds at a place, in words.
fn content(quilt: &Quilt, here: &CellVisibility<'_>) -> String {
    match here.layer.cells().get(here.at) {
        Presence::Here(held) => quilt.tiles().notation(held).to_string(),
        Presence::NotHere => "(not loaded)".to_owned(),
        Presence::Damaged => "(damaged)".to_owned(),
    }
}

/// The ground of a cell or of a part of it, and who decides it.
pub(super) struct Ground<'a> {
    pub(super) class: &'a str,
    /// Whether that is a layer, a patch layer or a marker.
    kind: &'static str,
    name: &'a str,
    shape: CellShape,
}

impl std::fmt::Display for Ground<'_> {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        write!(f, "{}, decided by {} {}", self.class, self.kind, self.name)
    }
}

/// The ground of a cell part by part, from the top down.
fn grounds<'a>(quilt: &'a Quilt, cell: CellPos) -> Vec<Ground<'a>> {
    let decisions = quilt.grounds_at(cell).into_iter().filter_map(Presence::here);
    let ground = |decision: GroundDecision<'a>| {
        let class = quilt.ground_rules().class_name(decision.class)?;
        let kind = match &decision.by {
            DecidedBy::Marker(_) => "marker",
            DecidedBy::Layer { layer, .. } if layer.settings().grounds == Grounds::First => {
                "patch layer"
            }
            _ => "layer",
        };
        Some((class, kind, decision))
    };
    let all = decisions.filter_map(ground);
    all.map(|(class, kind, decision)| Ground {
        class,
        kind,
        name: decision.by.name(),
        shape: decision.shape,
    })
    .collect()
}

/// The ground of what was met in a cell: of the part with this class.
pub(super) fn ground_words(quilt: &Quilt, cell: CellPos, class: Option<GroundClass>) -> String {
    let met = class_name(quilt, class);
    let mut grounds = grounds(quilt, cell).into_iter();
    match met.and_then(|met| grounds.find(|ground| ground.class == met)) {
        Some(ground) => ground.to_string(),
        None if quilt.bounds().contains(cell) => "nobody says anything".to_owned(),
        None => "outside the map".to_owned(),
    }
}

/// A shape in words; `None` for the whole cell.
pub(super) fn shape_words(shape: &CellShape) -> Option<String> {
    if *shape == CellShape::SQUARE {
        return None;
    }
    Some(if let Some((left, right)) = shape.as_floor() {
        format!("a floor, {left} high at the left and {right} at the right")
    } else if let Some((left, right)) = shape.as_ceiling() {
        format!("a ceiling, {left} long at the left and {right} at the right")
    } else if let Some([left, top, right, bottom]) = shape.as_area() {
        format!("an area from {left},{top} to {right},{bottom}")
    } else {
        let corners = shape.corners().iter().map(|(x, y)| format!("{x},{y}"));
        format!("a polygon {}", corners.collect::<Vec<_>>().join(" "))
    })
}

/// The name of a class.
pub(super) fn class_name(quilt: &Quilt, class: Option<GroundClass>) -> Option<&str> {
    class.and_then(|class| quilt.ground_rules().class_name(class))
}

/// The name of a class, or that there is none.
pub(super) fn class_words(quilt: &Quilt, class: Option<GroundClass>) -> &str {
    class_name(quilt, class).unwrap_or("nothing said")
}

/// The lines that tell of the ground of a cell, and of a place in it.
fn ground_lines(quilt: &Quilt, map: &GroundMap, cell: CellPos) -> Vec<String> {
    let grounds = grounds(quilt, cell);
    if grounds.is_empty() {
        return vec![ground_words(quilt, cell, None)];
    }
    let is_parted = grounds[0].shape != CellShape::SQUARE;
    let line = |ground: &Ground<'_>| match shape_words(&ground.shape) {
        Some(shape) => format!("{ground}: {shape}"),
        None if is_parted => format!("{ground}: the rest of the cell"),
        None => ground.to_string(),
    };
    let mut lines: Vec<String> = grounds.iter().map(line).collect();
    let has_rest = grounds.last().is_some_and(|last| last.shape == CellShape::SQUARE);
    if !has_rest && map.parts_at(cell).any(|part| part.class == Presence::Here(None)) {
        lines.push("nobody says anything: the rest of the cell".to_owned());
    }
    lines
}

/// How a mover takes something.
pub(super) fn treatment_words(treatment: Treatment) -> String {
    match treatment {
        Treatment::Block => "blocked".to_owned(),
        Treatment::Slow(factor) => format!("slowed to {}", rounded(factor)),
        Treatment::Value(value) => format!("free, value {}", rounded(value)),
        Treatment::OneWay(sides) => {
            let sides: Vec<&str> = sides.iter().map(Side::name).collect();
            format!("one-way from {}", sides.join(" and "))
        }
        _ => "free".to_owned(),
    }
}

/// How a mover takes a cell: each of its parts by the class of that, or all of it.
struct Taken<'a> {
    mover: &'a str,
    whole: Treatment,
    /// Of a cell that is not taken alike everywhere.
    parts: Vec<(&'a str, Treatment)>,
}

impl std::fmt::Display for Taken<'_> {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        if self.parts.is_empty() {
            return f.write_str(&treatment_words(self.whole));
        }
        let words = |(class, treatment): &(&str, Treatment)| {
            format!("{class} {}", treatment_words(*treatment))
        };
        f.write_str(&self.parts.iter().map(words).collect::<Vec<_>>().join(", "))
    }
}

fn movers<'a>(quilt: &'a Quilt, ground: &GroundMap, cell: CellPos) -> Vec<Taken<'a>> {
    let taken = |mover: &'a Mover| {
        let id = quilt.mover(mover.name()).ok()?;
        let parts = ground.parts_at(cell).map(|part| {
            let class = part.class.here().flatten();
            let words = class_words(quilt, class);
            (words, class.map_or(mover.empty(), |_| mover.treatment(words)))
        });
        let mut parts: Vec<(&str, Treatment)> = parts.collect();
        if parts.iter().all(|(_, treatment)| *treatment == parts[0].1) {
            parts.clear();
        }
        Some(Taken { mover: mover.name(), whole: ground.treatment(id, cell), parts })
    };
    quilt.ground_rules().movers().iter().filter_map(taken).collect()
}

/// The markers that cover a cell.
fn markers(quilt: &Quilt, cell: CellPos) -> Vec<String> {
    let covering = quilt.markers().filter(|marker| marker.covers(cell));
    covering.map(|marker| marker.name().to_owned()).collect()
}

fn show(
    quilt: &Quilt,
    view: &View,
    &Asked { place, cell, point, seen }: &Asked<'_>,
    out: &mut dyn Write,
) -> anyhow::Result<()> {
    let outside = if quilt.bounds().contains(cell) { "" } else { " (outside the map)" };
    writeln!(out, "cell    {cell}{outside}")?;
    writeln!(out, "world   {place}")?;
    writeln!(out, "screen  {}", pixel_words(view, point))?;
    let width = quilt.layers().iter().map(|layer| layer.name().chars().count()).max().unwrap_or(0);
    if !seen.is_empty() {
        writeln!(out, "seen there, from front to back")?;
    }
    let words: Vec<_> = seen.iter().map(|seen| seen_words(quilt, seen)).collect();
    let seen_width = words.iter().map(|(_, content, _)| content.chars().count()).max().unwrap_or(0);
    for (layer, content, part) in words {
        writeln!(out, "  {layer:width$}  {content:seen_width$}  {part}")?;
    }
    writeln!(out, "layers, the topmost first")?;
    let shown = quilt.explain_cell(cell, view);
    let contents: Vec<String> = shown.iter().map(|here| content(quilt, here)).collect();
    let content_width = contents.iter().map(|text| text.chars().count()).max().unwrap_or(0);
    for (here, content) in shown.iter().zip(&contents) {
        let name = here.layer.name();
        let notes = layer_notes(quilt, here, cell);
        match &*notes {
            "" => writeln!(out, "  {name:width$}  {content}")?,
            notes => writeln!(out, "  {name:width$}  {content:content_width$}  {notes}")?,
        }
    }
    let map = GroundMap::of(quilt);
    for (number, line) in ground_lines(quilt, &map, cell).into_iter().enumerate() {
        writeln!(out, "{:8}{line}", if number == 0 { "ground" } else { "" })?;
    }
    let movers = movers(quilt, &map, cell);
    let width = movers.iter().map(|taken| taken.mover.chars().count()).max().unwrap_or(0);
    for taken in movers {
        writeln!(out, "  {:width$}  {taken}", taken.mover)?;
    }
    let markers = markers(quilt, cell);
    if !markers.is_empty() {
        writeln!(out, "markers {}", markers.join(", "))?;
    }
    Ok(())
}

/// What there is to say of a layer at a cell: whether it shows, from which of its own cells, and
/// whether its tile gives no ground although it has a class.
fn layer_notes(quilt: &Quilt, here: &CellVisibility<'_>, cell: CellPos) -> String {
    let mut notes = Vec::new();
    if !matches!(here.visibility, Visibility::Empty) {
        notes.push(here.to_string());
        if here.at != cell && !here.cell.is_empty() {
            notes.push(format!("its own cell {}", here.at));
        }
        let tile = quilt.tiles().tile_of(here.cell).and_then(|id| quilt.tiles().tile(id));
        if tile.is_some_and(|tile| tile.ground().is_some()) {
            notes.extend(no_ground_words(quilt, here.layer));
        }
    }
    notes.join("; ")
}

/// Why the tiles of a layer give no ground, where they do not.
pub(super) fn no_ground_words(quilt: &Quilt, layer: &Layer) -> Option<String> {
    let settings = layer.settings();
    if settings.grounds == Grounds::Never {
        return Some("gives no ground".to_owned());
    }
    if settings.offset_cells(quilt.lattice()).is_some() {
        return None;
    }
    let why = match settings.is_still() {
        true => "its offset is not whole cells",
        false => "it has a parallax, a speed or wraps",
    };
    Some(format!("gives no ground: {why}"))
}

fn pixel_words(view: &View, point: ScreenPoint) -> String {
    let size = view.size();
    let inside =
        (0.0..size.width as f32).contains(&point.x) && (0.0..size.height as f32).contains(&point.y);
    let (x, y) = (point.x.floor(), point.y.floor());
    let note = if inside { "" } else { " (out of view)" };
    format!("{x},{y} of {size} at zoom {}{note}", rounded(view.zoom()))
}

fn report(quilt: &Quilt, view: &View, &Asked { place, cell, point, seen }: &Asked<'_>) -> Value {
    let shown = quilt.explain_cell(cell, view);
    let layer = |here: &CellVisibility<'_>| {
        json!({
            "layer": here.layer.name(),
            "cell": content(quilt, here),
            "shows": matches!(
                here.visibility,
                Visibility::Shown | Visibility::Placeholder | Visibility::Backdrop { .. }
            ),
            "why": here.to_string(),
        })
    };
    let layers: Vec<Value> = shown.iter().map(layer).collect();
    let map = GroundMap::of(quilt);
    let taken =
        |t: Treatment| json!({ "blocked": t.blocks(), "speed": t.speed(), "value": t.value() });
    let movers: serde_json::Map<String, Value> = movers(quilt, &map, cell)
        .into_iter()
        .map(|held| {
            let mut report = taken(held.whole);
            let parts = held.parts.iter().map(|(class, t)| ((*class).to_owned(), taken(*t)));
            let parts: serde_json::Map<String, Value> = parts.collect();
            if !parts.is_empty() {
                report["parts"] = parts.into();
            }
            (held.mover.to_owned(), report)
        })
        .collect();
    let ground = |ground: &Ground<'_>| {
        json!({
            "class": ground.class, "decided_by": ground.name, "kind": ground.kind,
            "shape": ground.shape.corners(),
        })
    };
    let grounds: Vec<Value> = grounds(quilt, cell).iter().map(ground).collect();
    json!({
        "cell": cell,
        "in_bounds": quilt.bounds().contains(cell),
        "world": [place.x, place.y],
        "screen": [point.x.floor(), point.y.floor()],
        // From front to back.
        "seen": seen.iter().map(|seen| seen_report(quilt, seen)).collect::<Vec<_>>(),
        "layers": layers,
        // The uppermost, and all from the top down.
        "ground": grounds.first(),
        "grounds": grounds,
        "movers": movers,
        "markers": markers(quilt, cell),
    })
}

fn seen_report(quilt: &Quilt, seen: &Picked) -> Value {
    let layer = quilt.layers().get(seen.key.layer as usize);
    json!({
        "layer": layer.map(|layer| layer.name()),
        "cell": seen.key.place,
        "content": quilt.tiles().notation(seen.cell).to_string(),
        "part": match seen.part {
            PickedPart::Face => "face",
            _ => "body",
        },
        "elevation": seen.key.elevation,
        "alpha": seen.alpha,
    })
}
