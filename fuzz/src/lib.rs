//! What the fuzz targets have in common: small limits, and what must hold of any load.

use std::time::Duration;

use cpu_time::ThreadTime;
use peak_alloc::PeakAlloc;
use sturdy_quilt::document::{GridFile, JournalRecords, Limits};
use sturdy_quilt::edit::{Motif, Resolve, Touched};
use sturdy_quilt::units::PixelSize;
use sturdy_quilt::{
    CellPos, Changeset, DrawList, Frame, GroundMap, LayerSettings, LoadError, Loaded, Loader,
    MemorySource, Painter, Picture, Quilt, ScreenSize, Turn, View,
};

#[global_allocator]
static MEMORY: PeakAlloc = PeakAlloc;

/// The path of the map that is loaded.
pub const MAP: &str = "m.quilt.json";

/// The most bytes that a load within [`limits`] may take at its peak: sixteen files of 64 KiB are
/// 1 MiB, and the tree of a document that is all brackets takes forty times its bytes.
const MAX_BYTES: usize = 6 << 20;

/// Limits that random input of a few kilobytes can reach.
pub fn limits() -> Limits {
    Limits {
        file_bytes: 1 << 16,
        cells: 1 << 16,
        pixels: 1 << 14,
        tiles: 1 << 12,
        layers: 32,
        sets: 8,
        files: 16,
        json_values: 1 << 14,
        depth: 32,
        unpacked_bytes: 1 << 18,
        problems: 20,
    }
}

/// A way to load maps within [`limits`].
pub fn loader() -> Loader {
    Loader::new().with_limits(limits())
}

/// The most processor time that a load within [`limits`] may take. It takes a few milliseconds, with what
/// counts the coverage; a machine with much else to do may take ten times as long.
const MAX_TIME: Duration = Duration::from_millis(500);

/// What a call gives, which must not take more memory or processor time than limits allow.
pub fn within_cost<T>(call: impl FnOnce() -> T) -> T {
    let before = MEMORY.current_usage();
    MEMORY.reset_peak_usage();
    let start = ThreadTime::now();
    let result = call();
    let time = start.elapsed();
    let taken = MEMORY.peak_usage().saturating_sub(before);
    assert!(taken <= MAX_BYTES, "it took {taken} bytes, more than the {MAX_BYTES} allowed");
    assert!(time <= MAX_TIME, "it took {time:?}, more than the {MAX_TIME:?} allowed");
    result
}

/// Loads the map [`MAP`] of a source, and checks what comes of it.
pub fn check_map(source: &MemorySource) {
    let loaded = within_cost(|| loader().load(source, MAP));
    check(loaded, source);
}

/// What must hold of any load: an error says something, and a map does what maps do.
pub fn check(loaded: Result<Loaded, LoadError>, source: &MemorySource) {
    match loaded {
        Ok(loaded) => check_quilt(&loaded.quilt, source),
        Err(error) => check_error(&error),
    }
}

/// What must hold of any map: it can be asked, drawn, and saved, and what was saved loads as the
/// same and is saved as the same again.
pub fn check_quilt(quilt: &Quilt, source: &MemorySource) {
    let mut ground = GroundMap::of(quilt);
    assert_eq!(ground.refresh(quilt), 0, "nothing has changed");
    let view = View::new(ScreenSize::new(96, 64))
        .centered_on(quilt.lattice().center(quilt.bounds().corner()));
    let (mut list, mut painter) = (DrawList::new(), Painter::new());
    let mut frame = Frame::new(view.size());
    list.rebuild(quilt, &view);
    painter.paint(&list, &mut frame);

    let Ok(saved) = quilt.to_json() else { return };
    let mut again = source.clone();
    again.add(MAP, saved.clone());
    // What is saved may be larger than what was loaded, so there is no limit.
    let again = Loader::new().load(&again, MAP).expect("what was saved can be loaded").quilt;
    assert!(again.same_as(quilt), "what was saved loads as the same");
    assert_eq!(again.to_json().unwrap(), saved, "what was saved is saved as the same again");
}

/// What must hold of any error.
pub fn check_error(error: &LoadError) {
    assert!(!error.problems().is_empty() && !error.to_string().is_empty());
    for problem in error.problems() {
        assert!(!problem.message.is_empty() && !problem.file.is_empty(), "{problem:?}");
        if let Some(place) = &problem.place {
            assert!(place.line > 0 && place.column > 0, "{problem:?}");
        }
    }
}

/// The files that a random map may name.
pub fn neighbours() -> MemorySource {
    let mut files = MemorySource::default();
    files.add_static("yard.tiles.json", br##"{ "format": "sturdy-quilt/tiles", "version": 1, "name": "yard",
        "tiles": ["sand", { "name": "wall", "ground": "stone", "shape": { "floor": [0, 1] } }, "water"] }"##);
    files.add_static("rows.txt", b"..#\n.~.\n");
    files.add_static("cells.csv", b"0,1,2\nyard/sand,,-1\n");
    files.add_static("list.json", b"[0, 1, 2, -1]");
    files.add_static(
        "legend.json",
        br##"{ ".": "yard/sand", "#": "yard/wall+90", "#ff0000": "yard/water" }"##,
    );
    files.add("dots.png", dots());
    files
}

/// A picture of four pixels.
fn dots() -> Vec<u8> {
    let bytes = [255, 0, 0, 255, 0, 0, 0, 0, 255, 0, 0, 255, 9, 9, 9, 255];
    Picture::from_bytes(PixelSize::new(2, 2), bytes.to_vec()).unwrap().to_png().unwrap()
}

/// The files that a random map may name, and one more.
pub fn with(path: &str, bytes: &[u8]) -> MemorySource {
    let mut files = neighbours();
    files.add(path, bytes);
    files
}

/// Loads a file of a source as a grid, and checks what comes of it.
pub fn check_grid(path: &str, data: &[u8]) {
    let source = with(path, data);
    for grid in [
        GridFile::new(path),
        GridFile::new(path).with_tiles("yard.tiles.json").with_legend("legend.json"),
        GridFile::new(path).with_tiles("yard.tiles.json").with_numbers("yard", 0, -1),
    ] {
        if let Err(error) = within_cost(|| grid.values(&source, &limits())) {
            check_error(&error);
        }
        let loaded = within_cost(|| loader().load_grid(&source, &grid));
        check(loaded, &source);
    }
}

/// Checks that a text is refused as a motif, or that the motif can be written, turned and put down.
///
/// # Panics
/// When it cannot, or when it takes too much memory or time.
pub fn check_motif(data: &[u8]) {
    let Ok(text) = std::str::from_utf8(data) else { return };
    let Ok(motif) = within_cost(|| Motif::from_text(text)) else { return };
    let written = motif.to_text().expect("what was read can be written");
    let again = Motif::from_text(&written).expect("what was written can be read");
    assert_eq!(again, motif, "{written}");
    let turned = motif.clone().turned(Turn::QUARTER).turned(Turn::THREE_QUARTERS);
    assert_eq!(turned, motif, "{written}");
    let mut quilt = sturdy_quilt::doc_quilt();
    let before = quilt.clone();
    let layers: Vec<String> = motif.layers().map(str::to_owned).collect();
    let pasted = quilt.edit("paste", |pen| {
        for layer in layers.iter().filter(|layer| *layer != "soil") {
            pen.add_layer(layer, LayerSettings::default())?;
        }
        pen.paste(&motif, CellPos::new(-3, 60))
    });
    if let Ok(edit) = pasted {
        quilt.apply(&edit.changes.inverse()).expect("what was pasted can be undone");
    }
    assert!(quilt.same_as(&before));
}

/// Reads changes, as they are and as the body of a record, whose first byte says whether they are full.
pub fn check_changes(data: &[u8]) {
    check_record(data);
    let Some((form, body)) = data.split_first() else { return };
    let mut record = b"SQch\x01".to_vec();
    record.push(form & 1);
    // A whole number of two bytes has room for the 4096 that there are at most.
    record.extend([body.len() as u8 | 0x80, (body.len() >> 7) as u8 & 0x7F]);
    record.extend(body);
    record.extend(crc32fast::hash(&record).to_le_bytes());
    check_record(&record);
}

/// Finds the records of a journal, which lie in it one behind the other, and reads their changes.
pub fn check_journal(data: &[u8]) {
    let Ok(records) = within_cost(|| JournalRecords::read(data)) else { return };
    let mut end = None;
    for record in records.each() {
        assert!(end.is_none_or(|end| end == record.at()), "a gap before byte {}", record.at());
        end = Some(record.at() + record.bytes().len() as u64);
        record.label().ok();
        check_record(record.bytes());
    }
    let fault = records.fault().map(|(at, _)| at);
    assert!(end.is_none_or(|end| end == fault.unwrap_or(data.len() as u64)));
}

fn check_record(record: &[u8]) {
    let quilt = sturdy_quilt::doc_quilt();
    let read = |bytes: &[u8]| Changeset::from_bytes(bytes, &quilt, &limits());
    let Ok(changes) = within_cost(|| read(record)) else { return };
    let written = changes.to_bytes();
    // What was read may take more room than the limits allow.
    if let Ok(again) = read(&written) {
        assert_eq!(again.to_bytes(), written, "{changes:?}");
    }
    let conflicts = changes.conflicts(&quilt).expect("all of the map is here");
    let rebased = changes.rebase(&quilt, |_| Resolve::Take).expect("all of the map is here");
    let mut map = quilt.clone();
    if map.apply(&changes).is_ok() {
        assert_eq!(conflicts, [], "{changes:?}");
        let names_files = changes.touched().any(|touched| matches!(touched, Touched::Tiles(_)));
        if !names_files {
            check_quilt(&map, &MemorySource::default());
        }
        map.apply(&changes.inverse()).expect("what was applied can be undone");
    }
    assert!(map.same_as(&quilt));
    map.apply(&rebased.changes).expect("what was rebased can be applied");
    map.apply(&rebased.changes.inverse()).expect("what was applied can be undone");
    assert!(map.same_as(&quilt));
}
