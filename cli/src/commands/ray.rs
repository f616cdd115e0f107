//! `ray`: what a straight line goes through, and what stops it.

use std::io::Write;

use anyhow::bail;
use serde_json::{Value, json};
use sturdy_quilt::{
    CellRect, Color, Crossed, GroundMap, MoverId, Picture, Quilt, RayValues, WorldPoint, WorldRect,
    WorldVec,
};

use super::asked::{around, picture, slope_words};
use super::at::{ground_words, treatment_words};
use crate::args::RayArgs;
use crate::{Outcome, map};

/// The most cells that are told one by one.
const MOST_CELLS: f64 = 1_000_000.0;

pub(crate) fn run(args: &RayArgs, out: &mut dyn Write) -> anyhow::Result<Outcome> {
    let opened = map::open(&args.map)?;
    let quilt = &opened.quilt;
    let (mover, ground) = (quilt.mover(&args.mover)?, GroundMap::of(quilt));
    let (from, motion) = (args.from, WorldVec::new(args.by.x, args.by.y));
    let end = ground.ray(mover, from, motion).map_or(from + motion, |hit| hit.point);
    let (way, lattice) = (end - from, quilt.lattice());
    let cells = way.x.abs() / lattice.cell_width() + way.y.abs() / lattice.cell_height();
    if cells > MOST_CELLS {
        bail!("the ray would go through more than {MOST_CELLS} cells: give a shorter --by");
    }
    let values = ground.ray_values(mover, from, motion);
    let until = values.hit.map_or(1.0, |hit| hit.fraction);
    let crossed = ground.crossed(from, motion);
    let crossed: Vec<Crossed> = crossed.take_while(|crossed| crossed.enter < until).collect();
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
    crossed: Vec<Crossed>,
}

impl Ray<'_> {
    fn end(&self) -> WorldPoint {
        self.values.hit.map_or(self.from + self.motion, |hit| hit.point)
    }

    fn show(&self, name: &str, out: &mut dyn Write) -> anyhow::Result<()> {
        let RayValues { hit, count, sum, sum_by_length, .. } = self.values;
        writeln!(out, "{name}  from {} by {},{}", self.from, self.motion.x, self.motion.y)?;
        let length = self.motion.length();
        for crossed in &self.crossed {
            let (cell, treatment) = (crossed.cell, self.ground.treatment(self.mover, crossed.cell));
            let (enter, exit) = (crossed.enter * length, crossed.exit * length);
            writeln!(
                out,
                "  {enter:7.2} to {exit:7.2}  cell {cell}  {}; {}",
                treatment_words(treatment),
                ground_words(self.quilt, cell)
            )?;
        }
        match hit {
            None => writeln!(out, "hit   nothing in {length:.2} units")?,
            Some(hit) => {
                let ground = ground_words(self.quilt, hit.cell);
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
            writeln!(out, "value {sum} in {count} cells, {sum_by_length:.2} by length")?;
        }
        Ok(())
    }

    /// Draws the ray and the cells that it goes through.
    fn picture(&self) -> Picture {
        let end = self.end();
        let place = around([WorldRect::between(self.from, end)]);
        picture(self.quilt, place, |overlay| {
            overlay.solid_edges(self.ground, self.mover, Color::rgb(255, 120, 40));
            for crossed in &self.crossed {
                let value = self.ground.treatment(self.mover, crossed.cell).value();
                let color = if value == 0.0 {
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
        })
    }

    fn report(&self) -> Value {
        let RayValues { hit, count, sum, sum_by_length, .. } = self.values;
        let crossed = |crossed: &Crossed| {
            let treatment = self.ground.treatment(self.mover, crossed.cell);
            json!({
                "cell": crossed.cell,
                "enter": crossed.enter,
                "exit": crossed.exit,
                "ground": super::at::class(self.quilt, crossed.cell),
                "value": treatment.value(),
            })
        };
        json!({
            "end": [self.end().x, self.end().y],
            "crossed": self.crossed.iter().map(crossed).collect::<Vec<_>>(),
            "hit": hit.map(|hit| json!({
                "cell": hit.cell,
                "side": hit.side.map(|side| side.name()),
                "normal": [hit.normal.x, hit.normal.y],
                "fraction": hit.fraction,
                "ground": super::at::class(self.quilt, hit.cell),
            })),
            "value": { "count": count, "sum": sum, "by_length": sum_by_length },
        })
    }
}
