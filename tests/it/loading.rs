//! Other ways to load: from archives, sharing what was read, on a thread, while files arrive, and
//! without pictures.

use std::sync::Mutex;

use sturdy_quilt::document::{FileSource, LoadCache, SourceError};
use sturdy_quilt::{Loader, MemorySource, Quilt};

const SET: &str = r##"{ "format": "sturdy-quilt/tiles", "version": 1,
    "tiles": [{ "name": "sand", "ground": "open" }, "wall"] }"##;

fn map(more: &str) -> String {
    format!(
        r##"{{ "format": "sturdy-quilt/map", "version": 1, "lattice": {{ "cell": [16, 16] }},
            "ground": ["open"], "tiles": ["sets/yard.tiles.json"],
            "layers": [{{ "name": "soil", "cells": {{ "legend": {{ ".": "yard/sand" }}, "rows": ["..", ".."] }} }}]{more} }}"##
    )
}

fn files() -> MemorySource {
    let mut files = MemorySource::default();
    files.add("a.quilt.json", map(""));
    files.add("deep/b.quilt.json", map("").replace("sets/", "../sets/"));
    files.add_static("sets/yard.tiles.json", SET.as_bytes());
    files
}

/// Counts how often each file is read.
struct Counting<S> {
    source: S,
    read: Mutex<Vec<String>>,
}

impl<S> Counting<S> {
    fn new(source: S) -> Counting<S> {
        Counting { source, read: Mutex::default() }
    }

    fn reads_of(&self, path: &str) -> usize {
        self.read.lock().unwrap().iter().filter(|read| *read == path).count()
    }
}

impl<S: FileSource> FileSource for Counting<S> {
    fn read(&self, path: &str, max_bytes: u64) -> Result<Vec<u8>, SourceError> {
        self.read.lock().unwrap().push(path.to_owned());
        self.source.read(path, max_bytes)
    }

    fn names(&self, folder: &str) -> Vec<String> {
        self.source.names(folder)
    }
}

#[test]
fn a_cache_reads_each_set_once_and_says_the_same_each_time() {
    let mut all = files();
    all.add("c.quilt.json", map("").replace(r#""ground": ["open"]"#, r#""ground": ["opn"]"#));
    let source = Counting::new(all);
    let cache = LoadCache::default();
    let shared = Loader::new().with_cache(&cache);
    for path in ["a.quilt.json", "deep/b.quilt.json", "a.quilt.json", "c.quilt.json"] {
        let (with, without) =
            (shared.load(&source, path), Loader::new().load(&source.source, path));
        match (with, without) {
            (Ok(with), Ok(without)) => {
                assert_eq!((with.warnings, with.files), (without.warnings, without.files));
                assert!(with.quilt.same_as(&without.quilt));
                assert_eq!(with.quilt.to_json().unwrap(), without.quilt.to_json().unwrap());
            }
            (with, without) => assert_eq!(
                with.map(|loaded| loaded.files).unwrap_err().to_string(),
                without.map(|loaded| loaded.files).unwrap_err().to_string()
            ),
        }
    }
    assert_eq!(source.reads_of("sets/yard.tiles.json"), 1);
    assert_eq!(cache.counts(), (1, 0));
    cache.clear();
    shared.load(&source, "a.quilt.json").unwrap();
    assert_eq!(source.reads_of("sets/yard.tiles.json"), 2);
}

#[test]
fn files_that_are_coming_are_named_all_at_once_where_they_are_known() {
    let mut all = MemorySource::default();
    let load = |all: &MemorySource| Loader::new().load(all, "a.quilt.json");
    all.announce("a.quilt.json");
    all.announce("sets/yard.tiles.json");
    all.announce("sets/more.tiles.json");
    assert_eq!(load(&all).unwrap_err().awaited(), ["a.quilt.json"]);
    let two = map("").replace(r#""tiles": ["#, r#""tiles": ["sets/more.tiles.json", "#);
    all.add("a.quilt.json", two.replace("lattice\": {", "lattice\": { \"shap\": 1,"));
    let error = load(&all).unwrap_err();
    assert_eq!(error.awaited(), ["sets/more.tiles.json", "sets/yard.tiles.json"]);
    // What is wrong already is said already.
    assert_eq!(
        error.to_string(),
        "the map cannot be loaded yet: `sets/more.tiles.json`, `sets/yard.tiles.json` has not arrived
  a.quilt.json:1:60: error: the lattice has an unknown key `shap`; did you mean `shape`?"
    );
    all.add("a.quilt.json", two);
    all.add("sets/yard.tiles.json", SET);
    all.add("sets/more.tiles.json", SET);
    assert_eq!(load(&all).unwrap().quilt.tiles().len(), 4);
    all.announce("sets/yard.tiles.json");
    assert!(load(&all).is_ok(), "what is there is not waited for");
    let mut none = files();
    none.announce("sets/gone.tiles.json");
    none.give_up("sets/gone.tiles.json");
    none.add("a.quilt.json", map("").replace("yard.tiles", "gone.tiles"));
    assert!(load(&none).unwrap_err().to_string().contains("there is no such file"));
}

#[test]
fn bytes_of_the_program_are_a_source() {
    let mut files = MemorySource::default();
    files.add_static("yard.quilt.json", include_bytes!("../fixtures/version-1/yard.quilt.json"));
    assert!(Quilt::load(&files, "yard.quilt.json").is_ok());
}

#[cfg(feature = "threads")]
mod on_a_thread {
    use std::sync::{Arc, RwLock};
    use std::time::{Duration, Instant};

    use sturdy_quilt::Loaded;
    use sturdy_quilt::document::{LoadStage, Loading};

    use super::*;

    fn finished(mut loading: Loading) -> Result<Loaded, sturdy_quilt::LoadError> {
        let begun = Instant::now();
        loop {
            match loading.take() {
                Some(loaded) => {
                    assert!(loading.is_finished() && loading.take().is_none());
                    assert_eq!(loading.progress().stage, LoadStage::Ended);
                    return loaded;
                }
                None => std::thread::sleep(Duration::from_millis(1)),
            }
            assert!(begun.elapsed() < Duration::from_secs(60), "{:?}", loading.progress());
        }
    }

    #[test]
    fn a_map_loaded_on_a_thread_is_the_same() {
        let here = Loader::new().load(&files(), "a.quilt.json").unwrap();
        let there = finished(Loader::new().start(Arc::new(files()), "a.quilt.json")).unwrap();
        assert!(there.quilt.same_as(&here.quilt));
        assert!(Loader::new().start(Arc::new(files()), "a.quilt.json").wait().is_ok());
        let missing = Loader::new().start(Arc::new(files()), "b.quilt.json").wait();
        assert!(missing.unwrap_err().to_string().contains("there is no such file"));
    }

    #[test]
    fn a_load_waits_for_files_that_arrive() {
        let mut begun = files();
        begun.add("sets/more.tiles.json", SET);
        begun.add("a.quilt.json", map("").replace("yard.tiles", "late.tiles"));
        begun.announce("sets/late.tiles.json");
        let source = Arc::new(RwLock::new(begun));
        let loading = Loader::new().start(source.clone(), "a.quilt.json");
        std::thread::sleep(Duration::from_millis(30));
        assert!(!loading.is_finished());
        source.write().unwrap().add("sets/late.tiles.json", SET);
        let loaded = finished(loading).unwrap();
        assert!(loaded.quilt.tile("late/sand").is_ok());
        // One that does not come after all is a problem.
        source.write().unwrap().add("a.quilt.json", map("").replace("yard.tiles", "lost.tiles"));
        source.write().unwrap().announce("sets/lost.tiles.json");
        let loading = Loader::new().start(source.clone(), "a.quilt.json");
        std::thread::sleep(Duration::from_millis(10));
        source.write().unwrap().give_up("sets/lost.tiles.json");
        assert!(finished(loading).unwrap_err().to_string().contains("there is no such file"));
    }

    #[test]
    fn a_load_can_be_cancelled_at_any_time() {
        // Waiting for a file that never comes, it ends all the same.
        let mut never = files();
        never.add("a.quilt.json", map("").replace("yard.tiles", "never.tiles"));
        never.announce("sets/never.tiles.json");
        let loading = Loader::new().start(Arc::new(never.clone()), "a.quilt.json");
        std::thread::sleep(Duration::from_millis(5));
        loading.cancel();
        assert!(finished(loading).unwrap_err().is_cancelled());
        drop(Loader::new().start(Arc::new(never), "a.quilt.json"));
        // A map that takes its time is left between two rows.
        let mut large = files();
        let row = format!("\"{}\"", ".".repeat(4000));
        let rows = vec![row; 3000].join(",");
        large.add("a.quilt.json", map("").replace("\"..\", \"..\"", &rows));
        let large = Arc::new(large);
        let loading = Loader::new().start(large.clone(), "a.quilt.json");
        loading.cancel();
        let error = finished(loading).unwrap_err();
        assert_eq!(error.to_string(), "loading the map was cancelled");
        let mut stages = Vec::new();
        let mut loading = Loader::new().start(large, "a.quilt.json");
        let loaded = loop {
            let progress = loading.progress();
            assert!(progress.done <= progress.total || progress.total == 0, "{progress:?}");
            stages.push(progress.stage);
            if let Some(loaded) = loading.take() {
                break loaded.unwrap();
            }
        };
        assert_eq!(loaded.quilt.bounds().cell_count(), 12_000_000);
        assert!(stages.is_sorted() && stages.contains(&LoadStage::Layers), "{:?}", stages.len());
    }

    #[test]
    fn a_source_that_panics_takes_only_its_load_with_it() {
        struct Bad;
        impl FileSource for Bad {
            fn read(&self, _: &str, _: u64) -> Result<Vec<u8>, SourceError> {
                panic!("a game's own mistake")
            }
            fn names(&self, _: &str) -> Vec<String> {
                Vec::new()
            }
        }
        let error = finished_badly(Loader::new().start(Arc::new(Bad), "a.quilt.json"));
        assert!(error.contains("its thread ended in a panic"), "{error}");
    }

    fn finished_badly(loading: Loading) -> String {
        loading.wait().map(|loaded| loaded.files).unwrap_err().to_string()
    }
}

#[cfg(feature = "zip")]
mod archives {
    use std::io::{Cursor, Write};

    use sturdy_quilt::document::{Limits, ZipSource};
    use zip::write::SimpleFileOptions;

    use super::*;

    fn zipped(files: &[(&str, &[u8])]) -> Vec<u8> {
        let mut archive = zip::ZipWriter::new(Cursor::new(Vec::new()));
        for (name, bytes) in files {
            archive.start_file(*name, SimpleFileOptions::default()).unwrap();
            archive.write_all(bytes).unwrap();
        }
        archive.finish().unwrap().into_inner()
    }

    #[test]
    fn a_map_in_an_archive() {
        let a = map("");
        let bytes = zipped(&[
            ("maps/a.quilt.json", a.as_bytes()),
            ("maps/sets/yard.tiles.json", SET.as_bytes()),
            ("b.quilt.json", b"{}"),
        ]);
        let source = ZipSource::new(bytes.clone()).unwrap().with_label("estate.zip");
        assert_eq!(source.maps().collect::<Vec<_>>(), ["b.quilt.json", "maps/a.quilt.json"]);
        let loaded = Loader::new().load(&source, "maps/a.quilt.json").unwrap();
        let plain = Quilt::load(&files(), "a.quilt.json").unwrap();
        assert!(loaded.quilt.same_as(&plain));
        assert_eq!(source.names("maps"), ["a.quilt.json"]);
        let error = Quilt::load(&source, "a.quilt.json").unwrap_err();
        assert_eq!(
            error.problems()[0].to_string(),
            "estate.zip/a.quilt.json: error: file `a.quilt.json`: there is no such file; the folder searched is `estate.zip`; there is `estate.zip/maps/a.quilt.json`"
        );
        // Paths stay in the archive, and sizes within limits, whatever the archive says of them.
        assert!(matches!(source.read("../a", 9), Err(SourceError::NotFound)));
        assert!(matches!(source.read("maps/a.quilt.json", 9), Err(SourceError::TooLarge { .. })));
        for cut in (0..bytes.len()).step_by(7) {
            if let Ok(source) = ZipSource::new(bytes[..cut].to_vec()) {
                Quilt::load(&source, "maps/a.quilt.json").unwrap_err();
            }
        }
    }

    #[test]
    fn an_archive_that_unpacks_to_more_than_allowed_is_refused() {
        let bomb = zipped(&[("a.quilt.json", &vec![b' '; 50_000_000])]);
        assert!(bomb.len() < 100_000);
        let source = ZipSource::new(bomb).unwrap();
        let limits = Limits { file_bytes: 1_000_000, ..Limits::default() };
        let error = Loader::new().with_limits(limits).load(&source, "a.quilt.json").unwrap_err();
        assert!(error.to_string().contains("it has 50000000 bytes, more than the 1000000 allowed"));
    }
}

#[cfg(feature = "png")]
#[test]
fn servers_do_without_pictures() {
    let mut all = files();
    let sheet = |more: &str| {
        format!(
            r#"{{ "format": "sturdy-quilt/tiles", "version": 1,
            "sheet": {{ "picture": "gone.png", "tile": [16, 16]{more} }},
            "tiles": [{{ "at": [1, 1], "name": "sand", "ground": "open" }},
                      {{ "name": "tall", "picture": "gone-too.png" }}] }}"#
        )
    };
    all.add("sets/yard.tiles.json", sheet(""));
    let server = Loader::new().without_pictures();
    let error = server.load(&all, "a.quilt.json").unwrap_err();
    assert!(error.to_string().contains("state its columns and rows"), "{error}");
    all.add("sets/yard.tiles.json", sheet(r#", "columns": 2, "rows": 2"#));
    let quilt = server.load(&all, "a.quilt.json").unwrap().quilt;
    assert_eq!(quilt.tiles().len(), 5);
    let sand = quilt.tiles().tile(quilt.tile("yard/sand").unwrap()).unwrap();
    assert_eq!(sand.ground(), Some("open"));
    let missing = Quilt::load(&all, "a.quilt.json").unwrap_err().to_string();
    assert!(missing.contains("gone.png") && missing.contains("gone-too.png"), "{missing}");
}
