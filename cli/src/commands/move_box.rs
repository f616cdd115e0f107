//! `move`: how far a body gets on a map, and what stops it.

use std::io::Write;

use serde_json::{Value, json};
use sturdy_quilt::{Contact, GroundMap, MoverId, Quilt, Slide, WorldPoint, WorldRect, WorldVec};

use super::at::{ground_words, treatment_words};
use crate::args::MoveArgs;
use crate::{Outcome, map};

pub(crate) fn run(args: &MoveArgs, out: &mut dyn Write) -> anyhow::Result<Outcome> {
    let quilt = map::open(&args.map)?.quilt;
    let mover = quilt.mover(&args.mover)?;
    let ground = GroundMap::of(&quilt);
    let (from, (width, height)) = (args.from, args.size);
    let body = WorldRect::between(from, WorldPoint::new(from.x + width, from.y + height));
    let motion = WorldVec::new(args.by.x, args.by.y);
    let trip = Trip { quilt: &quilt, ground: &ground, mover, body, motion };
    let (end, contacts) = if args.straight {
        let sweep = ground.sweep(mover, body, motion);
        (sweep.end, sweep.contact.into_iter().collect())
    } else {
        let slide: Slide = match args.climb {
            Some(height) => ground.slide_up_steps(mover, body, motion, height),
            None => ground.slide(mover, body, motion),
        };
        (slide.end, slide.contacts().collect::<Vec<Contact>>())
    };
    if args.json {
        writeln!(out, "{}", serde_json::to_string_pretty(&trip.report(end, &contacts))?)?;
    } else {
        trip.show(&args.mover, end, &contacts, out)?;
    }
    Ok(Outcome::Fine)
}

/// A body on its way.
struct Trip<'a> {
    quilt: &'a Quilt,
    ground: &'a GroundMap,
    mover: MoverId,
    body: WorldRect,
    motion: WorldVec,
}

impl Trip<'_> {
    fn show(
        &self,
        name: &str,
        end: WorldRect,
        contacts: &[Contact],
        out: &mut dyn Write,
    ) -> anyhow::Result<()> {
        let (way, wanted) = (end.min() - self.body.min(), self.motion);
        writeln!(out, "{name}  {} to move by {},{}", self.body, wanted.x, wanted.y)?;
        writeln!(out, "ends  at {}, moved by {},{}", end.min(), way.x, way.y)?;
        for contact in contacts {
            let cell = contact.cell;
            let ground = ground_words(self.quilt, cell);
            writeln!(out, "hit   cell {cell} on its {} side: {ground}", contact.side.name())?;
        }
        if contacts.is_empty() {
            writeln!(out, "hit   nothing")?;
        }
        let slowest = self.ground.slowest_under(self.mover, end);
        let foot = foot(end);
        let at_foot = self.ground.treatment(self.mover, self.quilt.lattice().cell_at(foot));
        writeln!(
            out,
            "speed {slowest} under the box, at its foot {foot} {}",
            treatment_words(at_foot)
        )?;
        Ok(())
    }

    fn report(&self, end: WorldRect, contacts: &[Contact]) -> Value {
        let (way, foot) = (end.min() - self.body.min(), foot(end));
        let met = |contact: &Contact| {
            json!({
                "cell": contact.cell,
                "side": contact.side.name(),
                "ground": super::at::ground(self.quilt, contact.cell).map(|(class, _)| class),
            })
        };
        json!({
            "end": { "at": [end.min().x, end.min().y], "size": [end.width(), end.height()] },
            "moved": [way.x, way.y],
            "hit": contacts.iter().map(met).collect::<Vec<_>>(),
            "speed": {
                "slowest": self.ground.slowest_under(self.mover, end),
                "at_foot": self.ground.speed_at(self.mover, foot),
            },
        })
    }
}

/// Where a box touches the ground: the middle of its lower edge, and within it.
fn foot(body: WorldRect) -> WorldPoint {
    // The lower edge itself belongs to the cells below.
    let inside = body.height().min(1.0) / 2.0;
    WorldPoint::new(body.center().x, body.max().y - inside)
}
