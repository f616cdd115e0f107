//! `edit`: change cells and save the result.

use std::io::Write;

use sturdy_quilt::EditError;

use crate::args::{Change, EditArgs};
use crate::{Outcome, map};

pub(crate) fn run(args: &EditArgs, out: &mut dyn Write) -> anyhow::Result<Outcome> {
    let mut opened = map::open(&args.map)?;
    let kind = opened.kind_at(&args.output)?;
    let edit = opened.quilt.edit("edit", |pen| {
        for change in &args.changes.0 {
            match change {
                Change::Put { layer, cell, tile } => {
                    let value = pen.quilt().cell(tile)?;
                    pen.put(layer, *cell, value)?;
                }
                Change::Erase { layer, cell } => {
                    pen.erase(layer, *cell)?;
                }
                Change::Fill { layer, rect, tile } => {
                    let value = pen.quilt().cell(tile)?;
                    pen.fill(layer, *rect, value)?;
                }
            }
        }
        Ok::<(), EditError>(())
    })?;
    let mut output = opened.saved(&opened.quilt.document(), &args.output, kind)?;
    let count = edit.changes.cells().count();
    let s = if count == 1 { "" } else { "s" };
    output.say(format!("{}: {count} cell{s} changed", args.output.display()));
    output.write(out)?;
    Ok(Outcome::Fine)
}
