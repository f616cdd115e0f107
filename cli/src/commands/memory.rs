//! `info --memory`: what the cells of a map take.

use std::io::Write;
use std::path::Path;

use serde_json::{Value, json};
use sturdy_quilt::Quilt;
use sturdy_quilt::plane::{ChunkForm, PlaneMemory};

use super::info::table;

pub(super) fn show(
    path: &Path,
    quilt: &Quilt,
    json: bool,
    out: &mut dyn Write,
) -> anyhow::Result<()> {
    let cells = quilt.layers().iter().map(|layer| (layer.name(), layer.cells().memory()));
    let values = quilt.value_layers().iter().map(|layer| (layer.name(), layer.memory()));
    let planes: Vec<(&str, PlaneMemory)> = cells.chain(values).collect();
    let all = quilt.memory();
    if json {
        let layers = planes.iter().map(|(name, memory)| report(Some(name), memory));
        let report = json!({ "layers": layers.collect::<Vec<_>>(), "all": report(None, &all) });
        writeln!(out, "{}", serde_json::to_string_pretty(&report)?)?;
        return Ok(());
    }
    writeln!(out, "{}", path.display())?;
    writeln!(out, "memory of the cells by layer, with the chunks in each form")?;
    let named = planes.iter().map(|(name, memory)| words(name, memory));
    let rows: Vec<Vec<String>> = named.chain([words("all", &all)]).collect();
    table(&rows, out)
}

fn words(name: &str, memory: &PlaneMemory) -> Vec<String> {
    let forms = ChunkForm::ALL.into_iter().map(|form| (form, memory.form(form).chunks));
    let forms = forms.filter(|(_, chunks)| *chunks > 0);
    let words = |(form, chunks): (ChunkForm, u64)| match form {
        ChunkForm::Uniform | ChunkForm::Full | ChunkForm::Absent => {
            format!("{chunks} {}", form.name())
        }
        _ => format!("{chunks} of {}", form.name()),
    };
    let mut kept: Vec<String> = forms.map(words).collect();
    if memory.lone_cells() > 0 {
        kept.push(format!("{} lone cells", memory.lone_cells()));
    }
    let kept = if kept.is_empty() { "nothing".to_owned() } else { kept.join(", ") };
    vec![
        name.to_owned(),
        bytes(memory.bytes()),
        format!("cells {}", bytes(memory.chunk_bytes())),
        format!("table {}", bytes(memory.table_bytes())),
        kept,
    ]
}

/// A number of bytes in words, of a length that lines up.
fn bytes(count: u64) -> String {
    const UNITS: [&str; 3] = ["KiB", "MiB", "GiB"];
    let (mut amount, mut unit) = (count as f64 / 1024.0, 0);
    while amount >= 1024.0 && unit + 1 < UNITS.len() {
        amount /= 1024.0;
        unit += 1;
    }
    format!("{amount:7.1} {}", UNITS[unit])
}

fn report(name: Option<&str>, memory: &PlaneMemory) -> Value {
    let forms = ChunkForm::ALL.into_iter().map(|form| (form.name(), memory.form(form)));
    let forms: Vec<Value> = forms
        .filter(|(_, of)| of.chunks > 0)
        .map(|(form, of)| json!({ "form": form, "chunks": of.chunks, "bytes": of.bytes }))
        .collect();
    json!({
        "layer": name,
        "bytes": memory.bytes(),
        "cell_bytes": memory.chunk_bytes(),
        "table_bytes": memory.table_bytes(),
        "tracts": memory.tracts(),
        "lone_cells": memory.lone_cells(),
        "forms": forms,
    })
}
