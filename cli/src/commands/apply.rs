//! `apply`: changes, or those of a journal, brought onto a map.

use std::io::Write;

use anyhow::{Context, bail};
use sturdy_quilt::document::{JournalRecords, Limits};
use sturdy_quilt::edit::{Conflict, Resolve};
use sturdy_quilt::{Changeset, Quilt};

use super::compare::changed;
use crate::args::ApplyArgs;
use crate::{Outcome, map};

/// The most parts in the way that are listed.
const MOST_CONFLICTS: usize = 20;

pub(crate) fn run(args: &ApplyArgs, out: &mut dyn Write) -> anyhow::Result<Outcome> {
    let name = args.changes.display();
    let bytes = std::fs::read(&args.changes).with_context(|| format!("`{name}` cannot be read"))?;
    let mut opened = map::open(&args.map)?;
    let before = opened.quilt.clone();
    let steps = steps(&bytes, &opened.quilt).with_context(|| format!("`{name}`"))?;
    let steps: Vec<Changeset> = match args.inverse {
        true => steps.iter().rev().map(Changeset::inverse).collect(),
        false => steps,
    };
    let mut conflicts = Vec::new();
    for changes in &steps {
        let rule = |_: &Conflict| if args.take { Resolve::Take } else { Resolve::Keep };
        let rebased = changes.rebase(&opened.quilt, rule)?;
        opened.quilt.apply(&rebased.changes)?;
        conflicts.extend(rebased.conflicts);
    }
    let listed = conflicts.iter().take(MOST_CONFLICTS).map(|conflict| format!("\n  {conflict}"));
    let mut listed: String = listed.collect();
    if conflicts.len() > MOST_CONFLICTS {
        listed += &format!("\n  and {} more", conflicts.len() - MOST_CONFLICTS);
    }
    if !conflicts.is_empty() && !args.keep && !args.take {
        bail!(
            "the map does not hold what the changes expect; --keep leaves this as the map has it, --take as the changes have it:{listed}"
        );
    }
    let output = args.output.as_deref().unwrap_or(&args.map);
    let changed = changed(&Changeset::between("applied", &before, &opened.quilt)?);
    let lines = format!("{}: {changed}", output.display());
    let left = match (conflicts.is_empty(), args.take) {
        (true, _) => String::new(),
        (_, true) => format!("\nchanged although the map held something else:{listed}"),
        (_, false) => format!("\nleft as the map has it:{listed}"),
    };
    if args.dry_run {
        writeln!(out, "nothing is written; this would be changed:\n  {lines}{left}")?;
        return Ok(Outcome::Fine);
    }
    let kind = opened.kind_at(output)?;
    let mut saved = match opened.is_document() {
        true => opened.put_back(&before, output, kind, &[])?.0,
        false => opened.saved(&opened.quilt.document(), output, kind)?,
    };
    saved.say(lines + &left);
    saved.write(out)?;
    Ok(Outcome::Fine)
}

/// The changes of a file, those of a journal one after the other.
fn steps(bytes: &[u8], quilt: &Quilt) -> anyhow::Result<Vec<Changeset>> {
    let limits = Limits::default();
    let Ok(records) = JournalRecords::read(bytes) else {
        return Ok(vec![Changeset::from_bytes(bytes, quilt, &limits)?]);
    };
    if let Some((at, fault)) = records.fault() {
        bail!(
            "it is damaged from byte {at} on: {fault}; `sturdy-quilt undo` or a game that opens it cuts that off"
        );
    }
    // Each is read as changes of the map that the ones before it leave.
    let (mut map, mut steps) = (quilt.clone(), Vec::new());
    for record in records.each() {
        let changes = record.changes(&map, &limits)?;
        let rebased = changes.rebase(&map, |_| Resolve::Take)?;
        map.apply(&rebased.changes)?;
        steps.push(changes);
    }
    Ok(steps)
}
