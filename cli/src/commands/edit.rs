//! `edit`: change cells and save the result.

use std::io::Write;
use std::path::{Component, Path};

use anyhow::{Context, bail};
use sturdy_quilt::EditError;

use crate::args::{Change, EditArgs};
use crate::{Outcome, map};

pub(crate) fn run(args: &EditArgs, out: &mut dyn Write) -> anyhow::Result<Outcome> {
    let mut loaded = map::open(&args.map)?;
    let edit = loaded.quilt.edit("edit", |pen| {
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
    let is_named = |file: &&String| !loaded.cell_files.contains(file);
    let named: Vec<String> = loaded.files[1..].iter().filter(is_named).cloned().collect();
    let copied = copy_files(&args.map, output, &named)?;
    loaded.quilt.save(output)?;
    let count = edit.changes.cells().count();
    writeln!(
        out,
        "{}: {count} cell{} changed",
        output.display(),
        if count == 1 { "" } else { "s" }
    )?;
    for file in copied {
        writeln!(out, "copied {file}, which the map names")?;
    }
    Ok(Outcome::Fine)
}

/// Copies the files that a map names to where the saved map will look for them. Files that are
/// there already must be the same; none is overwritten.
fn copy_files(map: &Path, output: &Path, files: &[String]) -> anyhow::Result<Vec<String>> {
    let folder = |path: &Path| match path.parent() {
        Some(folder) if !folder.as_os_str().is_empty() => folder.to_owned(),
        _ => Path::new(".").to_owned(),
    };
    let (from, to) = (folder(map), folder(output));
    std::fs::create_dir_all(&to).with_context(|| format!("`{}` cannot be made", to.display()))?;
    if from.canonicalize()? == to.canonicalize()? {
        return Ok(Vec::new());
    }
    let mut wanted = Vec::new();
    for file in files {
        // The loader lets no path leave the folder; be sure all the same before writing.
        if Path::new(file).components().any(|part| !matches!(part, Component::Normal(_))) {
            bail!("`{file}` cannot be copied beside the saved map");
        }
        let (source, target) = (from.join(file), to.join(file));
        let bytes = std::fs::read(&source)
            .with_context(|| format!("`{}` cannot be read", source.display()))?;
        match std::fs::read(&target) {
            Ok(there) if there == bytes => {}
            Ok(_) => bail!(
                "`{}` is there already and differs from `{}`; save into another folder",
                target.display(),
                source.display()
            ),
            Err(_) => wanted.push((target, bytes)),
        }
    }
    let mut copied = Vec::new();
    for (target, bytes) in wanted {
        std::fs::create_dir_all(folder(&target))?;
        std::fs::write(&target, bytes)
            .with_context(|| format!("`{}` cannot be written", target.display()))?;
        copied.push(target.display().to_string());
    }
    Ok(copied)
}
