//! `edit`: change cells and markers, and save the result where the map came from.

use std::collections::BTreeMap;
use std::io::Write;
use std::time::{Duration, Instant};

use anyhow::bail;
use similar::{Algorithm, DiffTag};
use sturdy_quilt::{EditError, Marker, MarkerPlace, Picture, Quilt};

use super::words::counted;
use crate::args::{Change, EditArgs, Mark};
use crate::map::FileChange;
use crate::output::Kind;
use crate::{Outcome, map};

pub(crate) fn run(args: &EditArgs, out: &mut dyn Write) -> anyhow::Result<Outcome> {
    let mut opened = map::open(&args.map)?;
    let output = args.output.as_deref().unwrap_or(&args.map);
    let kind = match args.dry_run && args.output.is_none() {
        true => Kind::Map,
        false => opened.kind_at(output)?,
    };
    for name in &args.take_in {
        opened.quilt.layer(name)?;
    }
    let before = opened.quilt.clone();
    let edit = opened.quilt.edit("edit", |pen| {
        args.changes.0.iter().try_for_each(|change| make(pen, change, args.seed))
    })?;
    let mut lines = Vec::new();
    let mut output = if opened.is_document() {
        let (output, changes) = opened.put_back(&before, output, kind, &args.take_in)?;
        lines.extend(changes.iter().map(change_words));
        output
    } else {
        opened.saved(&opened.quilt.document(), output, kind)?
    };
    let cells = edit.changes.cells().count();
    let markers = changed_markers(&before, &opened.quilt);
    let counts = [(cells, "cell"), (markers, "marker")];
    let told = counts.into_iter().filter(|(count, _)| *count > 0);
    let mut all: Vec<String> =
        told.map(|(count, word)| format!("{} changed", counted(count, word))).collect();
    if all.is_empty() {
        all = vec!["nothing is changed: all of it is so already".to_owned()];
    }
    let name = args.output.as_deref().unwrap_or(&args.map).display();
    lines.push(format!("{name}: {}", all.join(", ")));
    let (old, new) = (before.bounds(), opened.quilt.bounds());
    if old != new && !old.is_empty() && old.union(new) == new {
        lines.push(format!("the map has grown from {old} to {new}"));
    } else if old != new && !old.is_empty() {
        lines.push(format!("the map spans {new} now, before {old}"));
    }
    if args.dry_run {
        writeln!(out, "nothing is written; this would be changed:")?;
        for line in lines {
            writeln!(out, "  {line}")?;
        }
        return Ok(Outcome::Fine);
    }
    lines.into_iter().for_each(|line| output.say(line));
    output.write(out)?;
    Ok(Outcome::Fine)
}

fn make(pen: &mut sturdy_quilt::Pen<'_>, change: &Change, seed: u64) -> Result<(), EditError> {
    match change {
        Change::Put { layer, cell, tile } => {
            let one = sturdy_quilt::CellRect::of_cell(*cell);
            pen.fill_varied(layer, one, &**tile, seed)
        }
        Change::Erase { layer, cell } => pen.erase(layer, *cell).map(drop),
        Change::Fill { layer, rect, tile } => pen.fill_varied(layer, *rect, &**tile, seed),
        Change::Vary { layer, rect } => pen.vary(layer, *rect, seed),
        Change::Mark { name, place } => {
            let place = match place {
                Mark::Cell(cell) => MarkerPlace::Cell(*cell),
                Mark::Area(area) => MarkerPlace::Area(*area),
            };
            let held = pen.quilt().markers().find(|marker| marker.name() == name);
            let mut marker = Marker::new(&**name, place);
            if let Some(held) = held {
                marker = marker.with_data(held.data().clone());
                if let Some(kind) = held.kind() {
                    marker = marker.with_kind(kind);
                }
                if let Some(class) = held.marker().ground() {
                    marker = marker.with_ground(class);
                }
            }
            pen.put_marker(marker)
        }
        Change::Unmark { name } => pen.remove_marker(name).map(drop),
    }
}

/// How many markers two maps do not have in common.
fn changed_markers(before: &Quilt, after: &Quilt) -> usize {
    let by_name = |quilt: &Quilt| -> BTreeMap<String, Marker> {
        quilt.markers().map(|held| (held.name().to_owned(), held.marker().clone())).collect()
    };
    let (old, new) = (by_name(before), by_name(after));
    let gone = old.keys().filter(|name| !new.contains_key(*name)).count();
    gone + new.iter().filter(|(name, marker)| old.get(*name) != Some(*marker)).count()
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
