//! `move`: how far a body gets on a map, and what stops it.

use std::io::Write;

use serde_json::{Value, json};
use sturdy_quilt::ground::{Capsule, Contact, Slide, SlideOptions, Sweep};
use sturdy_quilt::quilt::MoverId;
use sturdy_quilt::{Body, Color, GroundMap, Picture, Quilt, WorldPoint, WorldRect, WorldVec};

use super::asked::{around, label, picture, slope_words};
use super::at::{class_name, ground_words, treatment_words};
use super::words::{rounded, rounded_point, rounded_way};
use crate::args::MoveArgs;
use crate::{Outcome, map};

pub(crate) fn run(args: &MoveArgs, out: &mut dyn Write) -> anyhow::Result<Outcome> {
    let (from, (width, height)) = (args.from, args.size);
    let around = WorldRect::between(from, WorldPoint::new(from.x + width, from.y + height));
    if !args.round {
        return run_with(args, around, out);
    }
    // As round as it can be: a disc, or a capsule along its longer side.
    let radius = width.min(height) / 2.0;
    let inner = around.grown(-radius);
    run_with(args, Capsule::new(inner.min(), inner.max(), radius), out)
}

fn run_with<B: Body>(args: &MoveArgs, body: B, out: &mut dyn Write) -> anyhow::Result<Outcome> {
    let opened = map::open(&args.map)?;
    let quilt = &opened.quilt;
    let mover = quilt.mover(&args.mover)?;
    let ground = GroundMap::of(quilt);
    let motion = WorldVec::new(args.by.x, args.by.y);
    let trip = Trip { quilt, ground: &ground, mover, body, motion };
    let moved = if args.straight {
        Moved::Straight(ground.sweep(mover, body, motion))
    } else {
        let mut options = SlideOptions::new().with_step_up(args.climb).with_step_down(args.follow);
        options.slopes = args.slopes;
        options.corner = args.corner;
        options.corner_at_sides = args.all_corners;
        Moved::Slid(Box::new(ground.slide_with(mover, body, motion, options)))
    };
    let (end, contacts) = (moved.end(), moved.contacts());
    if let Some(path) = &args.output {
        opened.write_picture(path, &trip.picture(&moved), out)?;
    }
    if args.json {
        writeln!(out, "{}", serde_json::to_string_pretty(&trip.report(end, &contacts))?)?;
    } else {
        trip.show(&args.mover, end, &contacts, out)?;
    }
    Ok(Outcome::Fine)
}

/// How a body was moved.
enum Moved<B> {
    Straight(Sweep<B>),
    Slid(Box<Slide<B>>),
}

impl<B: Body> Moved<B> {
    fn end(&self) -> B {
        match self {
            Moved::Straight(sweep) => sweep.end,
            Moved::Slid(slide) => slide.end,
        }
    }

    fn contacts(&self) -> Vec<Contact> {
        match self {
            Moved::Straight(sweep) => sweep.contact.into_iter().collect(),
            Moved::Slid(slide) => slide.contacts().collect(),
        }
    }
}

/// A body on its way.
struct Trip<'a, B> {
    quilt: &'a Quilt,
    ground: &'a GroundMap,
    mover: MoverId,
    body: B,
    motion: WorldVec,
}

impl<B: Body> Trip<'_, B> {
    fn show(
        &self,
        name: &str,
        body: B,
        contacts: &[Contact],
        out: &mut dyn Write,
    ) -> anyhow::Result<()> {
        let (end, begin) = (body.bounds(), self.body.bounds());
        let (way, wanted) = (end.min() - begin.min(), self.motion);
        let (at, size) = (rounded_point(begin.min()), rounded_way(begin.max() - begin.min()));
        let size = size.replace(',', " × ");
        writeln!(out, "{name}  {size} units at {at} to move by {}", rounded_way(wanted))?;
        for under in self.ground.overlapping(self.mover, self.body) {
            if under.treatment.blocks() {
                let ground = ground_words(self.quilt, under.cell, under.class);
                writeln!(out, "begins inside cell {}: {ground}", under.cell)?;
            }
        }
        writeln!(out, "ends  at {}, moved by {}", rounded_point(end.min()), rounded_way(way))?;
        for contact in contacts {
            let cell = contact.cell;
            let ground = ground_words(self.quilt, cell, contact.class);
            let side = contact.side.name();
            let slope = slope_words(contact.normal);
            writeln!(out, "hit   cell {cell} on its {side} side{slope}: {ground}")?;
        }
        if contacts.is_empty() {
            writeln!(out, "hit   nothing")?;
        }
        let foot = foot(end);
        let at_foot = treatment_words(self.ground.treatment_at(self.mover, foot));
        let foot = rounded_point(foot);
        match self.ground.slowest_under(self.mover, body) {
            0.0 => writeln!(
                out,
                "speed none: it lies in what blocks it; at its foot {foot} {at_foot}"
            )?,
            slowest => {
                let slowest = rounded(slowest);
                writeln!(out, "speed {slowest} under the body, at its foot {foot} {at_foot}")?;
            }
        }
        Ok(())
    }

    /// Draws the way and what was met, with the edges at which the mover is stopped.
    fn picture(&self, moved: &Moved<B>) -> Picture {
        const COLOR: Color = Color::rgb(255, 240, 120);
        let around = around([self.body.bounds(), moved.end().bounds()]);
        picture(self.quilt, around, |overlay, view| {
            overlay.solid_edges(self.ground, self.mover, Color::rgb(255, 120, 40));
            match moved {
                Moved::Straight(sweep) => {
                    overlay.moved_body(self.body, sweep.end, sweep.contact, COLOR);
                }
                Moved::Slid(slide) => overlay.slid_body(self.body, slide, COLOR),
            }
            let corner = |body: WorldRect| WorldPoint::new(body.max().x, body.min().y);
            label(overlay, view, corner(self.body.bounds()), "start");
            if moved.end().bounds() != self.body.bounds() {
                label(overlay, view, corner(moved.end().bounds()), "end");
            }
        })
    }

    fn report(&self, body: B, contacts: &[Contact]) -> Value {
        let end = body.bounds();
        let (way, foot) = (end.min() - self.body.bounds().min(), foot(end));
        let begins_in = self.ground.overlapping(self.mover, self.body);
        let begins_in = begins_in.filter(|under| under.treatment.blocks()).map(|under| {
            json!({ "cell": under.cell, "ground": class_name(self.quilt, under.class), "depth": under.depth })
        });
        let met = |contact: &Contact| {
            json!({
                "cell": contact.cell,
                "side": contact.side.name(),
                "normal": [contact.normal.x, contact.normal.y],
                "point": [contact.point.x, contact.point.y],
                "ground": class_name(self.quilt, contact.class),
            })
        };
        json!({
            "end": { "at": [end.min().x, end.min().y], "size": [end.width(), end.height()] },
            "begins_inside": begins_in.collect::<Vec<_>>(),
            "moved": [way.x, way.y],
            "hit": contacts.iter().map(met).collect::<Vec<_>>(),
            "speed": {
                "slowest": self.ground.slowest_under(self.mover, body),
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
