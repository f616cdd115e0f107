//! `move`: how far a body gets on a map, and what stops it.

use std::io::Write;
use std::path::Path;

use serde_json::{Value, json};
use sturdy_quilt::{
    Clock, Color, Contact, DrawList, GroundMap, MoverId, Overlay, Quilt, ScreenSize, Slide,
    SlideOptions, View, WorldPoint, WorldRect, WorldVec,
};

use super::at::{ground_words, treatment_words};
use super::draw;
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
            Some(height) => {
                ground.slide_with(mover, body, motion, SlideOptions::new().step_up(height))
            }
            None => ground.slide(mover, body, motion),
        };
        (slide.end, slide.contacts().collect::<Vec<Contact>>())
    };
    if let Some(path) = &args.output {
        trip.draw(end, &contacts, path)?;
    }
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

    /// Draws the way and what was met, with the edges at which the mover is stopped.
    fn draw(&self, end: WorldRect, contacts: &[Contact], path: &Path) -> anyhow::Result<()> {
        const MARGIN: f64 = 48.0;
        let (from, to) = (self.body, end);
        let (a, b, c, d) = (from.min(), from.max(), to.min(), to.max());
        let around = WorldRect::between(
            WorldPoint::new(a.x.min(c.x), a.y.min(c.y)),
            WorldPoint::new(b.x.max(d.x), b.y.max(d.y)),
        );
        let around = around.grown(MARGIN);
        let view = View::new(ScreenSize::new(1280, 800)).fitted_to(around);
        let (mut list, mut overlay) = (DrawList::new(), Overlay::new());
        list.rebuild(self.quilt, &view, &Clock::new(), &[]);
        overlay.begin(&view, self.quilt.lattice());
        overlay.lattice(Color::rgba(255, 255, 255, 40));
        overlay.solid_edges(self.ground, self.mover, Color::rgb(255, 120, 40));
        overlay.moved_box(from, to, contacts.iter().copied(), Color::rgb(255, 240, 120));
        draw::save(&list, &overlay, Color::rgb(20, 24, 28), path)
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
