//! `at`: what is at a cell, a place in the world or on the screen.

use std::io::Write;

use anyhow::bail;
use serde_json::{Value, json};
use sturdy_quilt::{
    CellPos, CellShape, CellSight, DecidedBy, GroundMap, Grounds, Presence, Quilt, ScreenPoint,
    Side, Sight, Treatment, View, WorldPoint,
};

use crate::args::{AtArgs, PositionKind};
use crate::{Outcome, map};

pub(crate) fn run(args: &AtArgs, out: &mut dyn Write) -> anyhow::Result<Outcome> {
    let quilt = map::open(&args.map)?.quilt;
    let view = map::view(&quilt, &args.view)?;
    let place = place(&quilt, &view, args)?;
    let cell = quilt.lattice().cell_at(place);
    if args.json {
        writeln!(out, "{}", serde_json::to_string_pretty(&report(&quilt, &view, place, cell))?)?;
    } else {
        show(&quilt, &view, place, cell, out)?;
    }
    Ok(Outcome::Fine)
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
fn content(quilt: &Quilt, sight: &CellSight<'_>) -> String {
    match sight.layer.cells().get(sight.at) {
        Presence::Here(held) => quilt.tiles().notation(held).to_string(),
        Presence::NotHere => "(not loaded)".to_owned(),
        Presence::Damaged => "(damaged)".to_owned(),
    }
}

/// The ground of a cell, and who decides it.
pub(super) struct Ground<'a> {
    pub(super) class: &'a str,
    /// Whether that is a layer, a patch layer or a marker.
    kind: &'static str,
    name: &'a str,
}

pub(super) fn ground(quilt: &Quilt, cell: CellPos) -> Option<Ground<'_>> {
    let decision = quilt.ground_at(cell).here().flatten()?;
    let class = quilt.ground_rules().class_name(decision.class)?;
    let kind = match &decision.by {
        DecidedBy::Marker(_) => "marker",
        DecidedBy::Layer { layer, .. } if layer.settings().grounds == Grounds::First => {
            "patch layer"
        }
        _ => "layer",
    };
    Some(Ground { class, kind, name: decision.by.name() })
}

pub(super) fn ground_words(quilt: &Quilt, cell: CellPos) -> String {
    match ground(quilt, cell) {
        Some(Ground { class, kind, name }) => format!("{class}, decided by {kind} {name}"),
        None if quilt.bounds().contains(cell) => "nobody says anything".to_owned(),
        None => "outside the map".to_owned(),
    }
}

/// The part of a cell that its class holds for, where that is not all of it.
pub(super) fn shape_words(ground: &GroundMap, cell: CellPos) -> Option<String> {
    let shape = ground.shape_at(cell);
    if *shape == CellShape::whole(ground.lattice().shape()) {
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

/// The class of a cell alone.
pub(super) fn class(quilt: &Quilt, cell: CellPos) -> Option<&str> {
    ground(quilt, cell).map(|ground| ground.class)
}

/// How a mover takes something.
pub(super) fn treatment_words(treatment: Treatment) -> String {
    match treatment {
        Treatment::Block => "blocked".to_owned(),
        Treatment::Slow(factor) => format!("slowed to {factor}"),
        Treatment::Value(value) => format!("free, value {value}"),
        Treatment::OneWay(sides) => {
            let sides: Vec<&str> = sides.iter().map(Side::name).collect();
            format!("one-way from {}", sides.join(" and "))
        }
        _ => "free".to_owned(),
    }
}

/// Each mover with how it takes the cell.
fn movers<'a>(quilt: &'a Quilt, ground: &GroundMap, cell: CellPos) -> Vec<(&'a str, Treatment)> {
    let movers = quilt.ground_rules().movers().iter();
    let treated = |name| Some((name, ground.treatment(quilt.mover(name).ok()?, cell)));
    movers.filter_map(|mover| treated(mover.name())).collect()
}

/// The markers that cover a cell.
fn markers(quilt: &Quilt, cell: CellPos) -> Vec<String> {
    let covering = quilt.markers().filter(|marker| marker.covers(cell));
    covering.map(|marker| marker.name().to_owned()).collect()
}

fn show(
    quilt: &Quilt,
    view: &View,
    place: WorldPoint,
    cell: CellPos,
    out: &mut dyn Write,
) -> anyhow::Result<()> {
    let outside = if quilt.bounds().contains(cell) { "" } else { " (outside the map)" };
    writeln!(out, "cell    {cell}{outside}")?;
    writeln!(out, "world   {place}")?;
    writeln!(out, "screen  {}", pixel_words(view, place))?;
    let width = quilt.layers().iter().map(|layer| layer.name().chars().count()).max().unwrap_or(0);
    writeln!(out, "layers, the topmost first")?;
    let sights = quilt.explain_cell(cell, view);
    let contents: Vec<String> = sights.iter().map(|sight| content(quilt, sight)).collect();
    let content_width = contents.iter().map(|text| text.chars().count()).max().unwrap_or(0);
    for (sight, content) in sights.iter().zip(&contents) {
        let name = sight.layer.name();
        match sight.sight {
            Sight::Empty => writeln!(out, "  {name:width$}  {content}")?,
            _ => writeln!(out, "  {name:width$}  {content:content_width$}  {sight}")?,
        }
    }
    writeln!(out, "ground  {}", ground_words(quilt, cell))?;
    let map = GroundMap::of(quilt);
    if let Some(shape) = shape_words(&map, cell) {
        writeln!(out, "shape   {shape}")?;
    }
    let movers = movers(quilt, &map, cell);
    let width = movers.iter().map(|(name, _)| name.chars().count()).max().unwrap_or(0);
    for (mover, treatment) in movers {
        writeln!(out, "  {mover:width$}  {}", treatment_words(treatment))?;
    }
    let markers = markers(quilt, cell);
    if !markers.is_empty() {
        writeln!(out, "markers {}", markers.join(", "))?;
    }
    Ok(())
}

fn pixel_words(view: &View, place: WorldPoint) -> String {
    let point = view.to_screen(place);
    let size = view.size();
    let inside =
        (0.0..size.width as f32).contains(&point.x) && (0.0..size.height as f32).contains(&point.y);
    let (x, y) = (point.x.floor(), point.y.floor());
    let note = if inside { "" } else { " (out of view)" };
    format!("{x},{y} of {size} at zoom {}{note}", view.zoom())
}

fn report(quilt: &Quilt, view: &View, place: WorldPoint, cell: CellPos) -> Value {
    let point = view.to_screen(place);
    let sights = quilt.explain_cell(cell, view);
    let layer = |sight: &CellSight<'_>| {
        json!({
            "layer": sight.layer.name(),
            "cell": content(quilt, sight),
            "shows": matches!(sight.sight, Sight::Shown | Sight::Placeholder),
            "why": sight.to_string(),
        })
    };
    let layers: Vec<Value> = sights.iter().map(layer).collect();
    let map = GroundMap::of(quilt);
    let movers: serde_json::Map<String, Value> = movers(quilt, &map, cell)
        .into_iter()
        .map(|(name, t)| {
            (
                name.to_owned(),
                json!({ "blocked": t.blocks(), "speed": t.speed(), "value": t.value() }),
            )
        })
        .collect();
    json!({
        "cell": cell,
        "in_bounds": quilt.bounds().contains(cell),
        "world": [place.x, place.y],
        "screen": [point.x.floor(), point.y.floor()],
        "layers": layers,
        "ground": ground(quilt, cell).map(|ground| json!({
            "class": ground.class, "decided_by": ground.name, "kind": ground.kind,
            "shape": map.shape_at(cell).corners(),
        })),
        "movers": movers,
        "markers": markers(quilt, cell),
    })
}
