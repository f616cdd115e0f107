//! `edit`: change cells and save the result.

use std::io::Write;

use sturdy_quilt::EditError;

use crate::args::{Change, EditArgs};
use crate::{Outcome, map};

pub(crate) fn run(args: &EditArgs, out: &mut dyn Write) -> anyhow::Result<Outcome> {
    let mut opened = map::open(&args.map)?;
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
    let output = &args.output;
    let named = opened.loaded.named(&opened.name);
    map::copy_files(&*opened.source, output, &named, out)?;
    opened.quilt.save(output)?;
    let count = edit.changes.cells().count();
    writeln!(
        out,
        "{}: {count} cell{} changed",
        output.display(),
        if count == 1 { "" } else { "s" }
    )?;
    Ok(Outcome::Fine)
}
