//! `edit`: change cells and markers, and save the result where the map came from.

mod tools;

use std::io::Write;
use std::time::{Duration, Instant};

use anyhow::{Context, bail};
use similar::{Algorithm, DiffTag};
use sturdy_quilt::Picture;
use sturdy_quilt::document::Journal;

use self::tools::Tools;
use super::compare;
use super::journal::replayed;
use super::words::counted;
use crate::args::EditArgs;
use crate::map::FileChange;
use crate::output::Kind;
use crate::{Outcome, map};

pub(crate) fn run(args: &EditArgs, out: &mut dyn Write) -> anyhow::Result<Outcome> {
    let changes = args.changes.read()?;
    // Locked before the map is loaded.
    let journal = args.journal.as_deref().filter(|_| !args.dry_run);
    let journal = journal.map(|path| Journal::open(path, &args.map)).transpose()?;
    let mut opened = map::open(&args.map)?;
    let journal = journal.map(|open| replayed(open, &mut opened.quilt)).transpose()?;
    for name in &args.take_in {
        opened.quilt.layer(name)?;
    }
    let before = opened.quilt.clone();
    let mut place = "";
    let edit = opened.quilt.edit(args.label.as_deref().unwrap_or("edit"), |pen| {
        let mut tools = Tools::new(args.seed);
        changes.iter().try_for_each(|(given, change)| {
            place = given;
            tools.make(pen, change)
        })
    });
    let edit = edit.with_context(|| format!("{place}: nothing is changed"))?;
    let mut lines = Vec::new();
    let output = args.output.as_deref().unwrap_or(&args.map);
    let mut saved = match &journal {
        Some(_) => opened.output(),
        None => {
            let kind = match args.dry_run && args.output.is_none() {
                true => Kind::Map,
                false => opened.kind_at(output)?,
            };
            if opened.is_document() {
                let (saved, changes) = opened.put_back(&before, output, kind, &args.take_in)?;
                lines.extend(changes.iter().map(change_words));
                saved
            } else {
                opened.saved(&opened.quilt.document(), output, kind)?
            }
        }
    };
    lines.push(format!("{}: {}", output.display(), compare::changed(&edit.changes)));
    let (old, new) = (before.bounds(), opened.quilt.bounds());
    if old != new && !old.is_empty() && old.union(new) == new {
        lines.push(format!("the map has grown from {old} to {new}"));
    } else if old != new && !old.is_empty() {
        lines.push(format!("the map spans {new} now, before {old}"));
    }
    if let Some(path) = &args.picture {
        let maps = (&before, &opened.quilt);
        let picture = compare::side_by_side(maps, ("before", "after"), &edit.changes);
        Kind::of(path, &[Kind::Picture])?;
        if args.dry_run {
            saved = opened.output();
        }
        saved.put_picture(Some(path), "", &picture)?;
    }
    if args.dry_run {
        if args.picture.is_some() {
            saved.write(out)?;
        }
        let nothing =
            if args.picture.is_some() { "no map is written" } else { "nothing is written" };
        writeln!(out, "{nothing}; this would be changed:")?;
        for line in lines {
            writeln!(out, "  {line}")?;
        }
        return Ok(Outcome::Fine);
    }
    if let Some(journal) = journal {
        journal.append(&edit.changes);
        journal.close()?;
    }
    lines.into_iter().for_each(|line| saved.say(line));
    saved.write(out)?;
    Ok(Outcome::Fine)
}

/// What changes of a file.
fn change_words(FileChange { path, before, after }: &FileChange) -> String {
    let name = path.display();
    if let (Ok(old), Ok(new)) = (picture(before), picture(after)) {
        let (a, b) = (old.size(), new.size());
        if a != b {
            return format!("{name}: {a} become {b}");
        }
        let places = (0..a.height).flat_map(|y| (0..a.width).map(move |x| (x, y)));
        let differing = places.filter(|(x, y)| old.get(*x, *y) != new.get(*x, *y)).count();
        return format!("{name}: {} changed", counted(differing, "pixel"));
    }
    let (Ok(old), Ok(new)) = (std::str::from_utf8(before), std::str::from_utf8(after)) else {
        return format!("{name}: {} bytes become {}", before.len(), after.len());
    };
    let (old, new): (Vec<&str>, Vec<&str>) = (old.lines().collect(), new.lines().collect());
    // Files without much in common would take long; what is found in time is told.
    let deadline = Instant::now() + Duration::from_secs(2);
    let steps = similar::capture_diff_slices_deadline(Algorithm::Myers, &old, &new, Some(deadline));
    let changed = steps.iter().filter(|step| step.tag() != DiffTag::Equal);
    let differing = changed.map(|step| step.old_range().len().max(step.new_range().len())).sum();
    format!("{name}: {} changed", counted(differing, "line"))
}

fn picture(bytes: &[u8]) -> anyhow::Result<Picture> {
    if !bytes.starts_with(b"\x89PNG") {
        bail!("no picture");
    }
    Ok(Picture::from_png(bytes, map::MAX_PIXELS)?)
}
