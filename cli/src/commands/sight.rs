//! `sight`: which cells are seen from a cell.

use std::io::Write;

use serde_json::json;
use sturdy_quilt::ground::FieldOfView;
use sturdy_quilt::quilt::MoverId;
use sturdy_quilt::{CellPos, CellRect, Color, GroundMap, Quilt};

use super::asked::{around, picture};
use crate::args::SightArgs;
use crate::{Outcome, map};

pub(crate) fn run(args: &SightArgs, out: &mut dyn Write) -> anyhow::Result<Outcome> {
    let opened = map::open(&args.map)?;
    let quilt = &opened.quilt;
    let (mover, ground) = (quilt.mover(&args.mover)?, GroundMap::of(quilt));
    let field = ground.field_of_view(mover, args.from, args.radius);
    let sees = args.to.map(|to| ground.sees(mover, args.from, to));
    if let Some(path) = &args.output {
        let (bounds, eye) = (quilt.lattice().rect_bounds(field.bounds()), args.from);
        let picture = picture(quilt, around([bounds]), |overlay, _| {
            let shade = |cell| match field.bounds().contains(cell) {
                true if field.contains(cell) => None,
                true => Some(Color::rgba(10, 12, 40, 190)),
                // Beyond the radius nothing was asked.
                false => Some(Color::rgba(90, 96, 104, 170)),
            };
            overlay.tint(CellRect::EVERYWHERE, shade);
            overlay.solid_edges(&ground, mover, Color::rgb(255, 120, 40));
            overlay.cell(eye, Color::rgb(255, 240, 120));
            if let Some(to) = args.to {
                let [from, to] = [eye, to].map(|cell| quilt.lattice().center(cell));
                overlay.line(from, to, Color::rgb(255, 240, 120));
            }
        });
        opened.write_picture(path, &picture, out)?;
    }
    let seen = field.cells().filter(|cell| quilt.bounds().contains(*cell)).count();
    let all = field.bounds().intersection(quilt.bounds()).cell_count();
    if args.json {
        let report = json!({
            "from": args.from,
            "bounds": field.bounds(),
            "seen": field.cells().collect::<Vec<CellPos>>(),
            "to": args.to.map(|to| json!({ "cell": to, "sees": sees })),
        });
        writeln!(out, "{}", serde_json::to_string_pretty(&report)?)?;
        return Ok(Outcome::Fine);
    }
    if let (Some(to), Some(sees)) = (args.to, sees) {
        let word = if sees { "sees" } else { "does not see" };
        writeln!(out, "{}  at {} {word} {to}", args.mover, args.from)?;
        return Ok(Outcome::Fine);
    }
    writeln!(out, "{}  sees {seen} of {all} cells of the map from {}", args.mover, args.from)?;
    writeln!(out, "      @ here, . seen, # seen and blocked, blank not seen or outside the map")?;
    for row in rows(quilt, &ground, mover, args.from, &field) {
        writeln!(out, "{}", format!("  {row}").trim_end())?;
    }
    Ok(Outcome::Fine)
}

/// The field as rows of characters.
fn rows<'a>(
    quilt: &'a Quilt,
    ground: &'a GroundMap,
    mover: MoverId,
    from: CellPos,
    field: &'a FieldOfView,
) -> impl Iterator<Item = String> + 'a {
    let character = move |cell: CellPos| {
        if cell == from {
            '@'
        } else if !field.contains(cell) || !quilt.bounds().contains(cell) {
            ' '
        } else if ground.blocked(mover, cell) {
            '#'
        } else {
            '.'
        }
    };
    let bounds = field.bounds();
    (bounds.top()..bounds.bottom()).map(move |y| {
        (bounds.left()..bounds.right()).map(|x| character(CellPos::new(x, y))).collect()
    })
}
