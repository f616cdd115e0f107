//! `outline`: what stops a mover as polygons, for other programs.

use std::fmt::Write as _;
use std::io::Write;

use serde_json::{Value, json};
use sturdy_quilt::ground::{ConvexPiece, Outline};
use sturdy_quilt::{GroundMap, WorldPoint, WorldRect};

use crate::args::OutlineArgs;
use crate::output::Kind;
use crate::{Outcome, map};

pub(crate) fn run(args: &OutlineArgs, out: &mut dyn Write) -> anyhow::Result<Outcome> {
    let kind = Kind::of(&args.output, &[Kind::Svg, Kind::GeoJson])?;
    let opened = map::open(&args.map)?;
    let quilt = &opened.quilt;
    let (mover, ground) = (quilt.mover(&args.mover)?, GroundMap::of(quilt));
    let cells = args.area.unwrap_or_else(|| quilt.bounds());
    let outlines = ground.outlines(mover, cells);
    let pieces = ground.pieces(mover, cells);
    let polygons: Vec<Polygon> = if args.pieces {
        pieces.iter().map(Polygon::of_piece).collect()
    } else {
        outlines.iter().map(Polygon::of_outline).collect()
    };
    let text = match kind {
        Kind::Svg => svg(&polygons, quilt.lattice().rect_bounds(cells), &args.mover),
        _ => geojson(&polygons, &args.mover)?,
    };
    let mut output = opened.output();
    output.put(&args.output, text.into())?;
    output.write(out)?;
    let holes: usize = outlines.iter().map(|outline| outline.holes.len()).sum();
    let area: f64 = outlines.iter().map(Outline::area).sum();
    let perimeter: f64 = outlines.iter().map(Outline::perimeter).sum();
    if args.json {
        let report = json!({
            "outlines": outlines.len(), "holes": holes, "pieces": pieces.len(),
            "area": area, "perimeter": perimeter,
        });
        writeln!(out, "{}", serde_json::to_string_pretty(&report)?)?;
        return Ok(Outcome::Fine);
    }
    let name = &args.mover;
    writeln!(out, "{name}  solids {}, holes {holes}", outlines.len())?;
    writeln!(out, "area  {area} square units, {perimeter} units of edges")?;
    writeln!(out, "parts {} convex pieces", pieces.len())?;
    let what = if args.pieces { "pieces" } else { "outlines" };
    writeln!(out, "wrote {} ({} {what})", args.output.display(), polygons.len())?;
    Ok(Outcome::Fine)
}

/// Rings of corners: the first around it, the others around holes.
struct Polygon {
    rings: Vec<Vec<WorldPoint>>,
    area: f64,
}

impl Polygon {
    fn of_outline(outline: &Outline) -> Polygon {
        let rings = std::iter::once(&outline.ring).chain(&outline.holes).cloned().collect();
        Polygon { rings, area: outline.area() }
    }

    fn of_piece(piece: &ConvexPiece) -> Polygon {
        Polygon { rings: vec![piece.polygon.corners().to_vec()], area: piece.area() }
    }
}

/// A picture, a path for each polygon (SVG 1.1).
fn svg(polygons: &[Polygon], around: WorldRect, mover: &str) -> String {
    let (min, width, height) = (around.min(), around.width(), around.height());
    let mut text = format!(
        "<svg xmlns=\"http://www.w3.org/2000/svg\" viewBox=\"{} {} {width} {height}\" \
         width=\"{width}\" height=\"{height}\">\n\
         <title>What stops {}</title>\n\
         <g fill=\"#7d93a8\" fill-rule=\"evenodd\" stroke=\"#22303c\" stroke-width=\"1\" \
         stroke-linejoin=\"round\" vector-effect=\"non-scaling-stroke\">\n",
        min.x,
        min.y,
        escaped(mover)
    );
    for polygon in polygons {
        text.push_str("<path d=\"");
        for ring in &polygon.rings {
            for (at, point) in ring.iter().enumerate() {
                let letter = if at == 0 { 'M' } else { 'L' };
                // Writing to a string does not fail.
                let _ = write!(text, "{letter}{} {}", point.x, point.y);
            }
            text.push('Z');
        }
        text.push_str("\"/>\n");
    }
    text.push_str("</g>\n</svg>\n");
    text
}

fn escaped(text: &str) -> String {
    text.replace('&', "&amp;").replace('<', "&lt;")
}

/// Features of polygons (RFC 7946), in world units.
fn geojson(polygons: &[Polygon], mover: &str) -> anyhow::Result<String> {
    let ring = |ring: &Vec<WorldPoint>| -> Vec<[f64; 2]> {
        // The first corner comes again at the end.
        ring.iter().chain(ring.first()).map(|point| [point.x, point.y]).collect()
    };
    let feature = |polygon: &Polygon| -> Value {
        json!({
            "type": "Feature",
            "properties": { "stops": mover, "area": polygon.area },
            "geometry": {
                "type": "Polygon",
                "coordinates": polygon.rings.iter().map(ring).collect::<Vec<_>>(),
            },
        })
    };
    let features: Vec<Value> = polygons.iter().map(feature).collect();
    let collection = json!({ "type": "FeatureCollection", "features": features });
    Ok(serde_json::to_string(&collection)? + "\n")
}
