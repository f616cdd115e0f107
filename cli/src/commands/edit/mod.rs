//! `edit`: change cells and markers, and save the result where the map came from.

mod tools;

use std::io::Write;
use std::time::{Duration, Instant};

use anyhow::{Context, bail};
use similar::{Algorithm, DiffTag};
use sturdy_quilt::document::Journal;
use sturdy_quilt::{Changeset, Picture, Quilt};

use self::tools::Tools;
use super::compare;
use super::journal::{look_through, replayed};
use super::words::counted;
use crate::args::EditArgs;
use crate::map::{FileChange, Opened};
use crate::output::{Kind, Output};
use crate::script::Change;
use crate::{Outcome, map};

pub(crate) fn run(args: &EditArgs, out: &mut dyn Write) -> anyhow::Result<Outcome> {
    let changes = args.changes.read()?;
    // Locked before the map is loaded.
    let journal = args.journal.as_deref();
    let locked = journal.filter(|_| !args.dry_run).map(|path| Journal::open(path, &args.map));
    let locked = locked.transpose()?;
    let mut opened = map::open(&args.map)?;
    let open = locked.map(|open| replayed(open, &mut opened.quilt)).transpose()?;
    if let (None, Some(path)) = (&open, journal) {
        look_through(path, &mut opened.quilt)?;
    }
    for name in &args.take_in {
        opened.quilt.layer(name)?;
    }
    let before = opened.quilt.clone();
    let changes = edited(&mut opened.quilt, &changes, args)?;
    let output = args.output.as_deref().unwrap_or(&args.map);
    let (mut saved, mut lines) = match journal {
        Some(_) => (opened.output(), Vec::new()),
        None => files(&opened, &before, args)?,
    };
    lines.push(format!("{}: {}", output.display(), compare::changed(&changes)));
    lines.extend(spans(&before, &opened.quilt));
    if args.dry_run {
        saved = opened.output();
    }
    if let Some(path) = &args.picture {
        let maps = (&before, &opened.quilt);
        let picture = compare::side_by_side(maps, ("before", "after"), &changes);
        Kind::of(path, &[Kind::Picture])?;
        saved.put_picture(Some(path), "", &picture)?;
    }
    if args.dry_run {
        saved.write(out)?;
        let what = if args.picture.is_some() { "no map" } else { "nothing" };
        writeln!(out, "{what} is written; this would be changed:")?;
        for line in lines {
            writeln!(out, "  {line}")?;
        }
        return Ok(Outcome::Fine);
    }
    if let Some((journal, _)) = open {
        journal.append(&changes);
        journal.close()?;
    }
    lines.into_iter().for_each(|line| saved.say(line));
    saved.write(out)?;
    Ok(Outcome::Fine)
}

/// Makes all changes, or none.
fn edited(
    quilt: &mut Quilt,
    changes: &[(String, Change)],
    args: &EditArgs,
) -> anyhow::Result<Changeset> {
    let mut place = "";
    let edit = quilt.edit(args.label.as_deref().unwrap_or("edit"), |pen| {
        let mut tools = Tools::new(args.seed);
        changes.iter().try_for_each(|(given, change)| {
            place = given;
            tools.make(pen, change)
        })
    });
    Ok(edit.with_context(|| format!("{place}: nothing is changed"))?.changes)
}

/// The files that the map is saved to, and what changes in them.
fn files(
    opened: &Opened,
    before: &Quilt,
    args: &EditArgs,
) -> anyhow::Result<(Output, Vec<String>)> {
    let output = args.output.as_deref().unwrap_or(&args.map);
    let kind = match args.dry_run && args.output.is_none() {
        true => Kind::Map,
        false => opened.kind_at(output)?,
    };
    if !opened.is_document() {
        return Ok((opened.saved(&opened.quilt.document(), output, kind)?, Vec::new()));
    }
    let (saved, changes) = opened.put_back(before, output, kind, &args.take_in)?;
    Ok((saved, changes.iter().map(change_words).collect()))
}

/// Says what the map spans now, where that is something else.
fn spans(before: &Quilt, after: &Quilt) -> Option<String> {
    let (old, new) = (before.bounds(), after.bounds());
    match old != new && !old.is_empty() {
        false => None,
        true if old.union(new) == new => Some(format!("the map has grown from {old} to {new}")),
        true => Some(format!("the map spans {new} now, before {old}")),
    }
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
