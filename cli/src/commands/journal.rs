//! `log` and `undo`: what a journal holds, and taking back the last of it.

use std::io::Write;
use std::path::{Path, PathBuf};

use anyhow::{Context, bail};
use serde_json::json;
use sturdy_quilt::document::{Journal, JournalRecords, Limits, OpenJournal};
use sturdy_quilt::{Changeset, Quilt};

use super::compare::said;
use super::words::counted;
use crate::args::{LogArgs, UndoArgs};
use crate::{Outcome, map};

/// Does the changes of a journal on the map of its save, and gives them too; what was cut off it goes to the
/// standard error.
pub(super) fn replayed(
    open: OpenJournal,
    quilt: &mut Quilt,
) -> anyhow::Result<(Journal, Vec<Changeset>)> {
    let (journal, replayed) = open.replay(quilt, &Limits::default())?;
    if let Some(cut) = replayed.cut {
        anstream::eprintln!(
            "warning: {} at the end of the journal could not be read and were cut off: {}; they are in `{}`",
            counted(cut.bytes as usize, "byte"),
            cut.fault,
            cut.kept.display()
        );
    }
    Ok((journal, replayed.changes))
}

/// Does the changes of a journal on a map, without locking it; one that is not there has none.
pub(super) fn look_through(path: &Path, quilt: &mut Quilt) -> anyhow::Result<()> {
    if path.exists() {
        let bytes = read(path)?;
        done(&records(path, &bytes)?, path, quilt)?;
    }
    Ok(())
}

fn read(path: &Path) -> anyhow::Result<Vec<u8>> {
    std::fs::read(path).with_context(|| format!("`{}` cannot be read", path.display()))
}

fn records<'b>(path: &Path, bytes: &'b [u8]) -> anyhow::Result<JournalRecords<'b>> {
    JournalRecords::read(bytes).with_context(|| format!("`{}` is no journal", path.display()))
}

/// Does the records of a journal on a map.
fn done(
    records: &JournalRecords<'_>,
    path: &Path,
    quilt: &mut Quilt,
) -> anyhow::Result<Vec<Changeset>> {
    let mut steps = Vec::new();
    for (record, number) in records.each().zip(1..) {
        let done = record.changes(quilt, &Limits::default()).and_then(|changes| {
            quilt.apply(&changes)?;
            Ok(changes)
        });
        steps.push(done.with_context(|| {
            format!("record {number} of `{}` cannot be done on this map, which may not be the one that it belongs to", path.display())
        })?);
    }
    Ok(steps)
}

pub(crate) fn log(args: &LogArgs, out: &mut dyn Write) -> anyhow::Result<Outcome> {
    let name = args.journal.display();
    let bytes = read(&args.journal)?;
    let records = records(&args.journal, &bytes)?;
    let map = map_of(&args.journal, args.map.as_deref(), records.save());
    let mut quilt = map::open(&map)?.quilt;
    let steps = done(&records, &args.journal, &mut quilt)?;
    let pairs = pairs(&steps);
    let fate = |at: usize| {
        let of = |(done, undone): &&(usize, usize)| *done == at || *undone == at;
        pairs.iter().find(of).map(|(done, undone)| match *done == at {
            true => (json!({ "undone_by": undone + 1 }), format!("  undone by {}", undone + 1)),
            false => (json!({ "undoes": done + 1 }), format!("  undoes {}", done + 1)),
        })
    };
    if args.json {
        let entries: Vec<_> = records
            .each()
            .zip(&steps)
            .enumerate()
            .map(|(at, (record, step))| {
                let mut entry = json!({
                    "number": at + 1,
                    "label": step.label(),
                    "byte": record.at(),
                    "bytes": record.bytes().len(),
                    "cells": step.cells().count(),
                    "changed": said(step),
                });
                if let (Some(entry), Some((fate, _))) = (entry.as_object_mut(), fate(at)) {
                    entry.extend(fate.as_object().cloned().unwrap_or_default());
                }
                entry
            })
            .collect();
        let damaged =
            records.fault().map(|(at, fault)| json!({ "byte": at, "fault": fault.to_string() }));
        let report = json!({ "save": records.save(), "records": entries, "damaged": damaged });
        writeln!(out, "{}", serde_json::to_string_pretty(&report)?)?;
    } else {
        writeln!(
            out,
            "{name}  leads on from {}, {}",
            records.save(),
            counted(steps.len(), "change")
        )?;
        let widest =
            steps.iter().map(|step| step.label().chars().count()).max().unwrap_or(0).min(40);
        for (at, (record, step)) in records.each().zip(&steps).enumerate() {
            let fate = fate(at).map(|(_, words)| words).unwrap_or_default();
            writeln!(
                out,
                "{:>5}  {:<widest$}  {}, {} bytes{fate}",
                at + 1,
                step.label(),
                said(step),
                record.bytes().len()
            )?;
        }
        if let Some((at, fault)) = records.fault() {
            writeln!(out, "from byte {at} on it cannot be read: {fault}")?;
        }
    }
    Ok(if records.fault().is_some() { Outcome::Found } else { Outcome::Fine })
}

pub(crate) fn undo(args: &UndoArgs, out: &mut dyn Write) -> anyhow::Result<Outcome> {
    let name = args.journal.display();
    let save = {
        let bytes = read(&args.journal)?;
        map_of(&args.journal, args.map.as_deref(), records(&args.journal, &bytes)?.save())
    };
    let open = Journal::open(&args.journal, &save)?;
    let mut quilt = map::open(&save)?.quilt;
    let (journal, changes) = replayed(open, &mut quilt)?;
    let standing = standing(&changes);
    let count = args.count as usize;
    if count > standing.len() {
        bail!("`{name}` has {} to undo", counted(standing.len(), "change"));
    }
    let mut lines = Vec::new();
    for at in standing.into_iter().rev().take(count) {
        let inverse = changes[at].inverse();
        quilt.apply(&inverse)?;
        journal.append(&inverse);
        lines.push(format!("undone: {}, {}", inverse.label(), said(&inverse)));
    }
    journal.close()?;
    for line in lines {
        writeln!(out, "{line}")?;
    }
    Ok(Outcome::Fine)
}

/// The map of a journal: the one that was named, or the one beside it that the journal names.
fn map_of(journal: &Path, named: Option<&Path>, save: &str) -> PathBuf {
    named.map_or_else(|| map::folder_of(journal).join(save), Path::to_owned)
}

/// The places of changes that were undone, each with that of the ones that took them back: the inverse of the
/// last changes that stood.
fn pairs(steps: &[Changeset]) -> Vec<(usize, usize)> {
    let (mut standing, mut pairs): (Vec<(usize, Vec<u8>)>, _) = (Vec::new(), Vec::new());
    for (at, step) in steps.iter().enumerate() {
        let bytes = step.to_bytes();
        match standing.pop_if(|(_, inverse)| *inverse == bytes) {
            Some((done, _)) => pairs.push((done, at)),
            None => standing.push((at, step.inverse().to_bytes())),
        }
    }
    pairs
}

/// The places of the changes that stand.
fn standing(steps: &[Changeset]) -> Vec<usize> {
    let pairs = pairs(steps);
    let is_paired = |at: &usize| pairs.iter().any(|(done, undone)| done == at || undone == at);
    (0..steps.len()).filter(|at| !is_paired(at)).collect()
}
