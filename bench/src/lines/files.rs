//! Loading and saving, against the bare crates that do the heavy part of it.

use std::path::Path;

use redb::{Database, TableDefinition};
use sturdy_quilt::tile::SheetCut;
use sturdy_quilt::{CellPos, Loader, MemorySource, Picture, Quilt, TileSet};

use crate::harness::{Mark, Versus};
use crate::scenes::Numbers;

const DEMO: [&str; 7] = [
    "terrace.quilt.json",
    "terrace.tiles.json",
    "terrace.png",
    "trees.tiles.json",
    "trees.png",
    "folk.tiles.json",
    "folk.png",
];

pub(crate) fn run(versus: &mut Versus) {
    if !versus.wants("files") {
        return;
    }
    let demo = Path::new(env!("CARGO_MANIFEST_DIR")).join("../demo");
    let read = |name: &str| std::fs::read(demo.join(name)).expect("the demo is there");
    json(versus, &read);
    table(versus);
    sheet(versus, &read);
    store(versus, &demo);
}

/// A whole map with everything checked, against parsing its documents.
fn json(versus: &mut Versus, read: &dyn Fn(&str) -> Vec<u8>) {
    let mut source = MemorySource::default();
    DEMO.iter().for_each(|name| source.add(*name, read(name)));
    let texts: Vec<Vec<u8>> =
        DEMO.iter().filter(|name| name.ends_with(".json")).map(|name| read(name)).collect();
    let pictures: Vec<Vec<u8>> =
        DEMO.iter().filter(|name| name.ends_with(".png")).map(|name| read(name)).collect();
    let ours = || {
        let loaded = Loader::new().load(&source, DEMO[0]).expect("the demo is sound");
        loaded.files.len() as u64
    };
    let other = || {
        let parsed =
            texts.iter().filter_map(|text| serde_json::from_slice::<serde_json::Value>(text).ok());
        let decoded = pictures.iter().filter_map(|bytes| decode(bytes));
        parsed.count() as u64 + decoded.count() as u64
    };
    versus.line("files.load.serde_json-and-png", 1, Mark::None, true, ours, other);
}

/// A picture by the bare decoder, as bytes.
fn decode(bytes: &[u8]) -> Option<Vec<u8>> {
    let mut reader = png::Decoder::new(std::io::Cursor::new(bytes)).read_info().ok()?;
    let mut raw = vec![0; reader.output_buffer_size()?];
    reader.next_frame(&mut raw).ok()?;
    Some(raw)
}

/// A table of 512 × 512 numbers into cells, against reading it into numbers.
fn table(versus: &mut Versus) {
    let side = 512;
    let mut numbers = Numbers::new(21);
    let rows: Vec<String> = (0..side)
        .map(|_| {
            let row: Vec<String> = (0..side).map(|_| numbers.below(4).to_string()).collect();
            row.join(",")
        })
        .collect();
    let text = rows.join("\n");
    let mut source = MemorySource::default();
    source.add("t.csv", text.clone());
    source.add(
        "t.quilt.json",
        r#"{ "format": "sturdy-quilt/map", "version": 1, "lattice": { "cell": [16, 16] },
            "tiles": [{ "name": "t", "tiles": ["a", "b", "c", "d"] }],
            "layers": [{ "name": "soil", "cells": { "table": "t.csv", "set": "t" } }] }"#,
    );
    let ours = || {
        let loaded = Loader::new().load(&source, "t.quilt.json").expect("the table is sound");
        loaded.quilt.bounds().cell_count()
    };
    let other = || {
        let mut reader = csv::ReaderBuilder::new().has_headers(false).from_reader(text.as_bytes());
        let mut values: Vec<i64> = Vec::new();
        for row in reader.records().flatten() {
            values.extend(row.iter().filter_map(|field| field.parse::<i64>().ok()));
        }
        values.len() as u64
    };
    let count = side as u64 * side as u64;
    versus.line("files.table.csv", count, Mark::None, true, ours, other);
}

/// A sheet into tiles, with what each pixel covers, against decoding it.
fn sheet(versus: &mut Versus, read: &dyn Fn(&str) -> Vec<u8>) {
    let bytes = read("terrace.png");
    let ours = || {
        let picture = Picture::from_png(&bytes, 1 << 24).expect("the sheet is sound");
        let cut = SheetCut::new(sturdy_quilt::units::PixelSize::new(16, 16));
        let set = TileSet::builder("t").sheet(&picture, cut).build().expect("the sheet is sound");
        set.tiles().len() as u64
    };
    let other = || decode(&bytes).map_or(0, |raw| raw.len() as u64 / 1024);
    versus.line("files.sheet.png", 1, Mark::None, true, ours, other);
}

/// One changed cell made safe on disk: the map saved whole, against a commit of one chunk of
/// 64 × 64 cells.
fn store(versus: &mut Versus, demo: &Path) {
    const CHUNKS: TableDefinition<'_, u64, &[u8]> = TableDefinition::new("chunks");
    let folder = tempfile::tempdir().expect("a temporary folder");
    let mut quilt = Quilt::open(demo.join(DEMO[0])).expect("the demo is sound");
    let path = folder.path().join("saved.quilt.json");
    let (grass, path_tile) = (
        quilt.tile("terrace/grass").expect("the demo has it"),
        quilt.tile("terrace/path").expect("the demo has it"),
    );
    let mut turn = false;
    let ours = || {
        turn = !turn;
        let tile = if turn { grass } else { path_tile };
        let edit = quilt.edit("one", |pen| pen.put("soil", CellPos::new(3, 3), tile));
        edit.expect("the layer is there");
        quilt.save(&path).expect("the folder can be written");
        1
    };
    let base = Database::create(folder.path().join("chunks.redb")).expect("a new database");
    let chunk = vec![7_u8; 4096];
    let mut number = 0;
    let other = || {
        number = (number + 1) % 64;
        let write = base.begin_write().expect("the database is open");
        write
            .open_table(CHUNKS)
            .expect("the table can be made")
            .insert(number, chunk.as_slice())
            .expect("the chunk can be written");
        write.commit().expect("the commit is safe");
        1
    };
    versus.line("files.save-one-change.redb", 1, Mark::None, true, ours, other);
}
