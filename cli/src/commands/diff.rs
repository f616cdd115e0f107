//! `diff`: what differs between two maps.

use std::io::Write;
use std::path::Path;

use anyhow::Context;
use sturdy_quilt::Changeset;

use super::compare;
use crate::args::DiffArgs;
use crate::output::Kind;
use crate::{Outcome, map};

pub(crate) fn run(args: &DiffArgs, out: &mut dyn Write) -> anyhow::Result<Outcome> {
    let (before, after) = (map::open(&args.before)?, map::open(&args.after)?);
    let (old, new) = (&before.quilt, &after.quilt);
    let label = map::file_name(&args.after);
    let changes = Changeset::between(&label, old, new)
        .with_context(|| format!("`{}` cannot be compared", args.after.display()))?;
    // The changes number tiles as the first map does.
    let mut reached = old.clone();
    reached.apply(&changes)?;
    if let Some(path) = &args.output {
        let mut output = after.output();
        match Kind::of(path, &[Kind::Changes, Kind::Picture])? {
            Kind::Picture => {
                let words = (&*name(&args.before), &*name(&args.after));
                output.put_picture(
                    Some(path),
                    "",
                    &compare::side_by_side((old, new), words, &changes),
                )?;
            }
            _ if args.forward => output.put(path, changes.to_forward_bytes())?,
            _ => output.put(path, changes.to_bytes())?,
        }
        output.say_sizes();
        output.write(out)?;
    }
    if args.json {
        let report = compare::as_json(&changes, &reached);
        writeln!(out, "{}", serde_json::to_string_pretty(&report)?)?;
    } else if changes.is_empty() {
        writeln!(out, "both maps hold the same")?;
    } else if args.output.is_none() {
        for part in compare::parts(&changes, &reached, args.most) {
            writeln!(out, "{}", part.name)?;
            for line in &part.each {
                writeln!(out, "  {line}")?;
            }
            if part.more > 0 && !part.each.is_empty() {
                writeln!(out, "  and {} more", part.more)?;
            }
        }
    } else {
        writeln!(out, "{} differ", compare::counts(&changes).join(", "))?;
    }
    Ok(if changes.is_empty() { Outcome::Fine } else { Outcome::Found })
}

/// A short name for a label.
fn name(path: &Path) -> String {
    let parts: Vec<_> = path.iter().rev().take(2).collect();
    parts.into_iter().rev().map(|part| part.to_string_lossy()).collect::<Vec<_>>().join("/")
}
