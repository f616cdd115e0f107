//! `ray`: what a straight line goes through, and what stops it.

use std::io::Write;

use anyhow::bail;
use serde_json::{Value, json};
use sturdy_quilt::ground::{RayCell, RayPart, RayValues};
use sturdy_quilt::quilt::MoverId;
use sturdy_quilt::{
    CellPos, CellRect, Color, GroundMap, Picture, Quilt, WorldPoint, WorldRect, WorldVec,
};

use super::asked::{around, label, picture, slope_words};
use super::at::{class_name, ground_words, treatment_words};
use super::words::{counted, rounded, rounded_point, rounded_way};
use crate::args::RayArgs;
use crate::{Outcome, map};

/// The most cells that are told one by one.
const MAX_CELLS: f64 = 1_000_000.0;

pub(crate) fn run(args: &RayArgs, out: &mut dyn Write) -> anyhow::Result<Outcome> {
    let opened = map::open(&args.map)?;
    let quilt = &opened.quilt;
    let (mover, ground) = (quilt.mover(&args.mover)?, GroundMap::of(quilt));
    let (from, motion) = (args.from, WorldVec::new(args.by.x, args.by.y));
    let end = ground.ray(mover, from, motion).map_or(from + motion, |hit| hit.point);
    let (way, lattice) = (end - from, quilt.lattice());
    let cells = way.x.abs() / lattice.cell_width() + way.y.abs() / lattice.cell_height();
    if cells > MAX_CELLS {
        bail!("the ray would go through more than {MAX_CELLS} cells: give a shorter --by");
    }
    let values = ground.ray_values(mover, from, motion);
    let until = values.hit.map_or(1.0, |hit| hit.fraction);
    let crossed = ground.ray_cells(from, motion);
    let crossed: Vec<RayCell> = crossed.take_while(|crossed| crossed.enter < until).collect();
    let ray = Ray { quilt, ground: &ground, mover, from, motion, values, crossed };
    if let Some(path) = &args.output {
        opened.write_picture(path, &ray.picture(), out)?;
    }
    if args.json {
        writeln!(out, "{}", serde_json::to_string_pretty(&ray.report())?)?;
    } else {
        ray.show(&args.mover, out)?;
    }
    Ok(Outcome::Fine)
}

/// A ray with what it has met.
struct Ray<'a> {
    quilt: &'a Quilt,
    ground: &'a GroundMap,
    mover: MoverId,
    from: WorldPoint,
    motion: WorldVec,
    values: RayValues,
    crossed: Vec<RayCell>,
}

impl Ray<'_> {
    fn end(&self) -> WorldPoint {
        self.values.hit.map_or(self.from + self.motion, |hit| hit.point)
    }

    /// The parts of the cells that it goes through, in order.
    fn parts(&self) -> impl Iterator<Item = (CellPos, RayPart)> {
        let parts = |crossed: &RayCell| {
            let cell = crossed.cell;
            self.parts_of(*crossed).map(move |part| (cell, part))
        };
        self.crossed.iter().flat_map(parts)
    }

    /// Those of one cell, up to where it is stopped.
    fn parts_of(&self, crossed: RayCell) -> impl Iterator<Item = RayPart> {
        let parts = self.ground.parts_crossed(self.mover, self.from, self.motion, crossed);
        let end = self.values.hit.map_or(f64::INFINITY, |hit| hit.fraction);
        parts.into_iter().filter(move |part| part.enter < end)
    }

    fn show(&self, name: &str, out: &mut dyn Write) -> anyhow::Result<()> {
        let RayValues { hit, count, sum, sum_by_length, .. } = self.values;
        let (from, by) = (rounded_point(self.from), rounded_way(self.motion));
        writeln!(out, "{name}  from {from} by {by}")?;
        let length = self.motion.length();
        for (cell, part) in self.parts() {
            let (enter, exit) = (part.enter * length, part.exit * length);
            writeln!(
                out,
                "  {enter:7.2} to {exit:7.2}  cell {cell}  {}; {}",
                treatment_words(part.treatment),
                ground_words(self.quilt, cell, part.class)
            )?;
        }
        match hit {
            None => writeln!(out, "hit   nothing in {length:.2} units")?,
            Some(hit) => {
                let ground =
                    ground_words(self.quilt, hit.cell, self.ground.class_hit(self.mover, &hit));
                match hit.side {
                    Some(side) => writeln!(
                        out,
                        "hit   cell {} on its {} side{} at {:.2},{:.2}, after {:.2} units: {ground}",
                        hit.cell,
                        side.name(),
                        slope_words(hit.normal),
                        hit.point.x,
                        hit.point.y,
                        hit.fraction * length
                    )?,
                    None => writeln!(out, "hit   cell {}, in which it begins: {ground}", hit.cell)?,
                }
            }
        }
        if count > 0 {
            let (sum, cells) = (rounded(sum), counted(count as usize, "cell"));
            writeln!(out, "value {sum} in {cells}, {sum_by_length:.2} by length")?;
        }
        Ok(())
    }

    /// Draws the ray and the cells that it goes through.
    fn picture(&self) -> Picture {
        let end = self.end();
        let place = around([WorldRect::between(self.from, end)]);
        picture(self.quilt, place, |overlay, view| {
            overlay.solid_edges(self.ground, self.mover, Color::rgb(255, 120, 40));
            for crossed in &self.crossed {
                let mut parts = self.parts_of(*crossed);
                let color = if parts.all(|part| part.treatment.value() == 0.0) {
                    Color::rgba(255, 240, 120, 50)
                } else {
                    Color::rgba(255, 120, 220, 90)
                };
                overlay.tint(CellRect::of_cell(crossed.cell), |_| Some(color));
            }
            overlay.line(self.from, end, Color::rgb(255, 240, 120));
            if let Some(hit) = &self.values.hit {
                overlay.ray_hit(hit, Color::rgb(255, 240, 120));
            }
            label(overlay, view, self.from, "start");
            let hit = if self.values.hit.is_some() { "hit" } else { "end" };
            label(overlay, view, end, hit);
        })
    }

    fn report(&self) -> Value {
        let RayValues { hit, count, sum, sum_by_length, .. } = self.values;
        let crossed = |(cell, part): (CellPos, RayPart)| {
            json!({
                "cell": cell,
                "enter": part.enter,
                "exit": part.exit,
                "ground": class_name(self.quilt, part.class),
                "blocked": part.treatment.blocks(),
                "value": part.treatment.value(),
            })
        };
        json!({
            "end": [self.end().x, self.end().y],
            "crossed": self.parts().map(crossed).collect::<Vec<_>>(),
            "hit": hit.map(|hit| json!({
                "cell": hit.cell,
                "side": hit.side.map(|side| side.name()),
                "normal": [hit.normal.x, hit.normal.y],
                "fraction": hit.fraction,
                "ground": class_name(self.quilt, self.ground.class_hit(self.mover, &hit)),
            })),
            "value": { "count": count, "sum": sum, "by_length": sum_by_length },
        })
    }
}
