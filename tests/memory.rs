//! How much memory loads and planes take. Its own program, since its allocator counts for all of it.

#[path = "inputs/large.rs"]
mod large;

use std::sync::{Mutex, MutexGuard, PoisonError};

use peak_alloc::PeakAlloc;
use sturdy_quilt::document::CellEncoding;
use sturdy_quilt::inspect::{MinimapScale, Sampling};
use sturdy_quilt::paint::KeptFrame;
use sturdy_quilt::plane::{Plane, RunValues};
use sturdy_quilt::tile::SheetCut;
use sturdy_quilt::units::{PixelSize, TractPos};
use sturdy_quilt::view::{Facing, Projection};
use sturdy_quilt::{
    CellPos, CellRect, ChunkPos, Clock, Color, DrawList, Frame, Lattice, LayerSettings, Loader,
    MemorySource, Minimap, Painter, Picture, Quilt, ScreenSize, Sprite, TileSet, TileSpec, View,
    WorldPoint, WorldVec,
};

#[global_allocator]
static MEMORY: PeakAlloc = PeakAlloc;

/// Only one test measures at a time.
static MEASURING: Mutex<()> = Mutex::new(());

fn alone() -> MutexGuard<'static, ()> {
    // A test that has failed meanwhile has measured nothing wrong for the others.
    MEASURING.lock().unwrap_or_else(PoisonError::into_inner)
}

/// What a call gives, how many bytes it took at its peak, and how many it left in use.
fn measured<T>(call: impl FnOnce() -> T) -> (T, usize, usize) {
    let before = MEMORY.current_usage();
    MEMORY.reset_peak_usage();
    let result = call();
    let (peak, after) = (MEMORY.peak_usage(), MEMORY.current_usage());
    (result, peak.saturating_sub(before), after.saturating_sub(before))
}

/// Four layers of chunks, most of which hold one value and some a dozen.
fn map(side: u32) -> Quilt {
    Quilt::build(Lattice::default(), |pen| {
        pen.put_tiles(TileSet::flat("s", (0..64).map(|tile| format!("t{tile}")))?)?;
        for number in 0..4_u32 {
            let ids: Vec<_> = pen.quilt().tiles().ids().collect();
            let layer = format!("layer {number}");
            pen.add_layer(&layer, LayerSettings::default())?;
            for pos in CellRect::new(CellPos::ORIGIN, side, side).chunks() {
                let base = (pos.x() * 7 + pos.y() * 11) as u32 + number;
                let is_mixed = base.is_multiple_of(5);
                if !is_mixed {
                    pen.fill(&layer, pos.cells(), ids[(base % 50) as usize])?;
                    continue;
                }
                pen.put_each(&layer, pos.cells(), |at| {
                    let own = ((at.x() as u32 / 3) ^ (at.y() as u32 / 2)) % 12;
                    ids[(base % 50 + own) as usize].into()
                })?;
            }
        }
        Ok(())
    })
    .unwrap()
}

#[test]
fn a_load_takes_at_most_three_times_the_larger_of_file_and_map() {
    let _alone = alone();
    let quilt = map(1024);
    let mut forms =
        vec![CellEncoding::Rows, CellEncoding::Numbers, CellEncoding::Table, CellEncoding::Packed];
    if cfg!(feature = "png") {
        forms.push(CellEncoding::Picture);
    }
    for form in forms {
        for apart in [false, true] {
            let written = quilt
                .document()
                .with_encoding(form)
                .with_cells_apart(apart)
                .to_files("m.quilt.json");
            let mut source = MemorySource::default();
            let mut file_bytes = 0;
            for (name, bytes) in written.unwrap() {
                file_bytes += bytes.len();
                source.add(name, bytes);
            }
            let (loaded, peak, left) =
                measured(|| Loader::new().load(&source, "m.quilt.json").unwrap());
            assert!(loaded.quilt.same_as(&quilt));
            let most = 3 * file_bytes.max(left);
            assert!(
                peak <= most,
                "{form:?}, apart {apart}: a peak of {peak} bytes for files of {file_bytes} and a map of {left}"
            );
        }
    }
}

#[test]
fn what_a_stranger_states_takes_no_memory_until_it_is_there() {
    let _alone = alone();
    let cells = |cells: &str| {
        let mut source = MemorySource::default();
        source.add(
            "m.quilt.json",
            format!(
                r#"{{ "format": "sturdy-quilt/map", "version": 1, "lattice": {{ "cell": [16, 16] }},
                "tiles": [{{ "name": "s", "tiles": ["a"] }}],
                "layers": [{{ "name": "l", "cells": {{ {cells} }} }}] }}"#
            ),
        );
        let (result, peak, _) = measured(|| Loader::new().load(&source, "m.quilt.json"));
        (result.map(|loaded| loaded.quilt.bounds().cell_count()), peak)
    };
    let packed = r#""tiles": ["s/a"], "packed": { "zlib":"#;
    // Vast sizes with hardly any data.
    for text in [
        r#""size": [268435456, 1], "tiles": ["s/a"], "packed": { "plain": "AAAA" }"#.to_owned(),
        r#""size": [16384, 16384], "set": "s", "numbers": [0, 0, 0]"#.to_owned(),
        format!(r#""size": [268435456, 1], {packed} "eJxjYGBgAAAABAAB" }}"#),
        r#""sections": [{ "at": [1000000, 0], "size": [2147483648, 2147483648], "rows": [] }]"#
            .to_owned(),
    ] {
        let (result, peak) = cells(&text);
        assert!(result.is_err(), "{text}");
        assert!(peak < 2 << 20, "{peak} bytes for {text}");
    }
    // A block that really unpacks to 64 MiB, all of one value, is a small map.
    let block = {
        use base64::Engine;
        use std::io::Write;
        let mut encoder =
            flate2::write::ZlibEncoder::new(Vec::new(), flate2::Compression::default());
        let ones: Vec<u8> = 1_u32.to_le_bytes().repeat(1 << 18);
        (0..64).for_each(|_| encoder.write_all(&ones).unwrap());
        base64::engine::general_purpose::STANDARD.encode(encoder.finish().unwrap())
    };
    let (result, peak) = cells(&format!(r#""size": [4096, 4096], {packed} "{block}" }}"#));
    assert_eq!(result.unwrap(), 1 << 24);
    assert!(peak < 16 << 20, "{peak} bytes");
}

#[cfg(feature = "zip")]
#[test]
fn a_damaged_archive_takes_no_memory_for_what_it_states() {
    let _alone = alone();
    let archive = include_bytes!("../fuzz/corpus/bundle/states-vast-numbers.zip");
    let (maps, peak, _) = measured(|| {
        sturdy_quilt::document::ZipSource::new(&archive[..]).map(|source| source.maps().count())
    });
    assert!(peak < 1 << 20, "{maps:?} took {peak} bytes");
}

#[cfg(feature = "png")]
#[test]
fn a_huge_picture_is_refused_before_its_memory_is_asked_for() {
    let _alone = alone();
    let mut source = MemorySource::default();
    source.add("huge.png", include_bytes!("broken/parts/huge.png").to_vec());
    source.add(
        "m.quilt.json",
        r##"{ "format": "sturdy-quilt/map", "version": 1, "lattice": { "cell": [16, 16] },
            "tiles": [{ "name": "s", "sheet": { "picture": "huge.png", "tile": [8, 8] } }],
            "layers": [{ "name": "l", "cells": { "picture": "huge.png", "legend": { "#000000": null } } }] }"##,
    );
    let (result, peak, _) = measured(|| Loader::new().load(&source, "m.quilt.json"));
    let error = result.unwrap_err().to_string();
    assert_eq!(error.matches("more than the 67108864 pixels allowed").count(), 2, "{error}");
    assert!(peak < 2 << 20, "{peak} bytes");
}

/// Numbers by seed: SplitMix64.
struct Numbers(u64);

impl Numbers {
    fn below(&mut self, end: u64) -> u64 {
        self.0 = self.0.wrapping_add(0x9e37_79b9_7f4a_7c15);
        let mut z = self.0;
        z = (z ^ (z >> 30)).wrapping_mul(0xbf58_476d_1ce4_e5b9);
        z = (z ^ (z >> 27)).wrapping_mul(0x94d0_49bb_1331_11eb);
        (z ^ (z >> 31)) % end
    }
}

/// A plane of chunks of which a tenth hold a dozen values, and the others one.
fn world(side: u32) -> Plane<u32> {
    let (mut plane, mut numbers) = (Plane::new(), Numbers(7));
    for pos in CellRect::new(CellPos::new(-512, -512), side, side).chunks() {
        let base = 1 + numbers.below(40) as u32;
        if numbers.below(10) > 0 {
            plane.fill(pos.cells(), base).unwrap();
        } else {
            let values: Vec<u32> = (0..4096).map(|n| base + (n * 7 + n / 64) % 12).collect();
            plane.write_rect(pos.cells(), &values).unwrap();
        }
    }
    plane
}

/// Whether a report is within a tenth of what was measured.
fn is_near(reported: u64, measured: usize) -> bool {
    let (reported, measured) = (reported as f64, measured as f64);
    (reported - measured).abs() <= measured / 10.0
}

/// What the process has in memory, where the system says so: counted page by page, for the count
/// that the system keeps anyhow lags behind.
fn resident_bytes() -> Option<usize> {
    let pages = std::fs::read_to_string("/proc/self/smaps_rollup").ok()?;
    let line = pages.lines().find(|line| line.starts_with("Rss:"))?;
    let kibibytes: usize = line.split_whitespace().nth(1)?.parse().ok()?;
    Some(kibibytes * 1024)
}

#[test]
fn what_a_plane_says_it_takes_is_what_it_takes() {
    let _alone = alone();
    let (mut plane, _, left) = measured(|| world(1 << 14));
    let report = plane.memory();
    assert!(is_near(report.bytes(), left), "{report:?}: {left} bytes were asked for");
    assert_eq!(report.shared_bytes(), 0);
    // The same world, by what a quarter of the marks of a whole one is.
    assert!(report.bytes() <= 16 << 20, "{report:?}");

    // A snapshot takes nothing; what is written after it is what both do not share.
    let (snapshot, _, left) = measured(|| plane.clone());
    assert_eq!(left, 0);
    let (_, _, left) = measured(|| plane.set(CellPos::new(700, 900), 12_345).unwrap());
    assert!(left <= 1 << 18, "{left} bytes for one cell");
    let report = plane.memory();
    let own = report.bytes() - report.shared_bytes();
    assert!(is_near(own, left), "{own} bytes are not shared, {left} were asked for");
    drop(snapshot);
    assert_eq!(plane.memory().shared_bytes(), 0);
}

/// A process that has done nothing else has what its plane says it takes.
#[test]
fn a_process_takes_what_its_plane_says() {
    let program = std::env::current_exe().unwrap();
    let only = ["--exact", "in_a_process_of_its_own", "--ignored", "--nocapture"];
    let output = std::process::Command::new(program).args(only).output().unwrap();
    let [said, failed] = [&output.stdout, &output.stderr].map(|text| String::from_utf8_lossy(text));
    assert!(output.status.success() && said.contains("1 passed"), "{said}{failed}");
}

#[test]
#[ignore = "is run by `a_process_takes_what_its_plane_says`"]
fn in_a_process_of_its_own() {
    let Some(before) = resident_bytes() else { return };
    // Large enough that what the process takes beside it does not count.
    let plane = world(1 << 15);
    let resident = resident_bytes().unwrap() - before;
    let report = plane.memory();
    assert!(report.bytes() <= 64 << 20, "a world of 32,768 × 32,768 cells takes {report:?}");
    assert!(is_near(report.bytes(), resident), "{report:?}: the process takes {resident}");
}

#[test]
fn a_hundred_thousand_lone_cells_take_40_bytes_each() {
    let _alone = alone();
    let mut numbers = Numbers(3);
    let mut coordinate = move || numbers.below(2_000_000_000) as i32 - 1_000_000_000;
    let (plane, _, left) = measured(|| {
        let mut plane: Plane<f32> = Plane::new();
        for n in 0..100_000 {
            plane.set(CellPos::new(coordinate(), coordinate()), n as f32 + 0.5).unwrap();
        }
        plane
    });
    let report = plane.memory();
    assert_eq!(report.lone_cells(), 100_000);
    assert!(is_near(report.bytes(), left), "{report:?}: {left} bytes were asked for");
    assert!(left <= 100_000 * 50, "{left} bytes");
}

/// A random tree of clones, each edited by itself: all stay what they are, and when they are gone
/// so is what they took.
#[test]
fn a_storm_of_clones_gives_all_memory_back() {
    let _alone = alone();
    let before = MEMORY.current_usage();
    let sum = |plane: &Plane<u32>| {
        let mut sum = 0_u64;
        plane.read_chunks(&mut Vec::new(), |run| {
            let place = 3 + run.cells.left() as u64 % 7 + run.cells.top() as u64 % 11;
            let values = match run.values {
                RunValues::Uniform(value) => u64::from(value) * 4096,
                RunValues::Slice(values) => {
                    values.iter().zip(1..).map(|(v, at)| u64::from(*v) * at).sum()
                }
                RunValues::Absent(_) => 0,
            };
            sum = sum.wrapping_add(place.wrapping_mul(values));
        });
        (sum, plane.bounds())
    };
    let mut most = 0;
    for seed in 0..3 {
        let mut numbers = Numbers(seed);
        let first = world(1024);
        let known = sum(&first);
        let mut tree = vec![(first, known)];
        for _ in 0..200 {
            let which = numbers.below(tree.len() as u64) as usize;
            let mut plane = tree[which].0.clone();
            for _ in 0..numbers.below(6) {
                let mut near = || numbers.below(1600) as i32 - 800;
                let cell = CellPos::new(near(), near());
                match numbers.below(7) {
                    0 => plane.fill(CellRect::new(cell, 90, 40), numbers.below(9) as u32).unwrap(),
                    1 => plane.fill(TractPos::new(0, -1).cells(), numbers.below(3) as u32).unwrap(),
                    2 => plane.compact(),
                    3 => plane
                        .copy_from(&tree[0].0, cell.chunk().cells(), ChunkPos::new(1, 1).corner())
                        .unwrap(),
                    4 => plane.write_row(cell, &vec![numbers.below(400) as u32; 70]).unwrap(),
                    _ => drop(plane.set(cell, numbers.below(400) as u32).unwrap()),
                }
            }
            if numbers.below(3) == 0 && tree.len() > 1 {
                let gone = 1 + numbers.below(tree.len() as u64 - 1) as usize;
                let (plane, known) = tree.swap_remove(gone);
                assert_eq!(sum(&plane), known, "an edit of one clone was seen in another");
            }
            let known = sum(&plane);
            tree.push((plane, known));
        }
        for (plane, known) in &tree {
            assert_eq!(sum(plane), *known);
        }
        most = most.max(MEMORY.current_usage());
    }
    // What runs the tests takes and gives back a little meanwhile.
    let kept = MEMORY.current_usage().saturating_sub(before);
    assert!(kept < (most - before) / 100, "{kept} bytes of {most} were not given back");
}

/// A frame of a game in which nothing has changed, or the camera has moved within what was listed,
/// asks for no memory: neither the list, nor the painter.
#[test]
fn a_frame_without_change_allocates_nothing() {
    let _alone = alone();
    let mut quilt = map(256);
    // Some tiles are larger than their cells, and sprites stand among rows.
    let pole = Picture::filled(PixelSize::new(16, 40), Color::rgb(9, 8, 7));
    let poles = TileSet::builder("tall").sheet(&pole, SheetCut::new(PixelSize::new(16, 40)));
    let poles = poles.tile(TileSpec::at(0, 0).with_name("pole")).build().unwrap();
    quilt
        .edit("poles", |pen| {
            pen.put_tiles(poles)?;
            pen.add_layer("poles", LayerSettings::default().with_priority(9).with_sort_rows(true))?;
            let pole = pen.tile("tall/pole")?;
            pen.put("poles", CellPos::new(90, 90), pole)?;
            pen.put("poles", CellPos::new(93, 95), pole)
        })
        .unwrap();
    let size = ScreenSize::new(640, 400);
    let view = View::new(size).centered_on(WorldPoint::new(1500.0, 1500.0));
    let tile = quilt.tile("s/t7").unwrap();
    let sprite =
        |key: u64| Sprite::new(key, tile, WorldPoint::new(1500.0, 1490.0)).with_priority(9);
    let sprites = [sprite(1), sprite(2), sprite(3)];
    let (mut list, mut painter, clock) = (DrawList::new(), Painter::new(), Clock::at_ms(40));
    let mut frame = Frame::new(size);
    let mut kept = [KeptFrame::new(Color::CLEAR), KeptFrame::ring(Color::CLEAR)];
    let diamond = Projection::diamond(quilt.lattice(), 32, 16).unwrap();
    let projections = [Projection::FLAT, diamond, diamond.with_facing(Facing::new(1))];
    // Far enough from where the cells that are listed near a view change.
    let centers = [1500.0, 1500.0, 1564.0].map(|x| WorldPoint::new(x, 1500.0));
    let views = [0, 1, 2].map(|at| view.projected(projections[at]).centered_on(centers[at]));
    for (view, zoom) in views.iter().flat_map(|view| [1.0, 2.0, 1.7].map(|zoom| (view, zoom))) {
        let view = view.zoomed(zoom);
        let mut draw = |view: &View, sprites: &[Sprite]| {
            list.rebuild_with(&quilt, view, &clock, sprites);
            painter.paint(&list, &mut frame);
            kept.iter_mut().for_each(|kept| painter.paint_into(&list, kept));
        };
        // The first frames make everything that is kept.
        for way in [0.0, 3.0, 6.0] {
            draw(&view.moved(WorldVec::new(way, way)), &sprites);
        }
        for way in [6.0, 6.0, 4.0, 1.0] {
            let moved = view.moved(WorldVec::new(way, way));
            let ((), peak, _) = measured(|| draw(&moved, &sprites));
            let seen = view.projection();
            assert_eq!(peak, 0, "{seen}, zoom {zoom}, moved by {way}");
        }
    }
}

#[test]
fn a_giant_fill_takes_no_memory_when_it_is_made_refused_or_packed() {
    let _alone = alone();
    let tiles = || TileSet::flat("s", ["a", "b"]);
    let filled = |side: u32| {
        Quilt::build(Lattice::default(), |pen| {
            pen.put_tiles(tiles()?)?;
            pen.add_layer("l", LayerSettings::default())?;
            pen.fill("l", CellRect::new(CellPos::ORIGIN, side, side), "s/a")
        })
        .unwrap()
    };
    let (quilt, peak, _) = measured(|| filled(65536));
    assert!(peak < 300 << 20, "{peak} bytes to fill it");
    let (refused, peak, _) = measured(|| quilt.to_json().is_err());
    assert!(refused && peak < 64 << 20, "{peak} bytes to refuse it");
    // 64 MiB of cells.
    let quilt = filled(4096);
    let (bytes, peak, _) = measured(|| {
        let files = quilt.document().with_encoding(CellEncoding::Packed).to_files("m.quilt.json");
        files.unwrap()[0].1.len()
    });
    assert!(bytes < 1 << 20 && peak < 8 << 20, "{peak} bytes to pack it into {bytes}");
}

#[test]
fn a_minimap_of_giant_cells_is_right_and_takes_little_memory() {
    let _alone = alone();
    let quilt = Quilt::build(Lattice::square(8192.0, 8192.0).unwrap(), |pen| {
        let halves = TileSpec::named("a").with_color(Color::rgba(200, 100, 50, 128));
        pen.put_tiles(TileSet::builder("s").tile(halves).tile(TileSpec::named("b")).build()?)?;
        pen.add_layer("l", LayerSettings::default())?;
        pen.put("l", CellPos::new(0, 0), "s/a")?;
        pen.put("l", CellPos::new(1, 0), "s/b").map(drop)
    })
    .unwrap();
    for sampling in [Sampling::Average, Sampling::Nearest] {
        let mut minimap = Minimap::new(MinimapScale::Cells).with_sampling(sampling);
        let (_, peak, _) = measured(|| minimap.refresh(&quilt).unwrap());
        assert!(peak < 24 << 20, "{peak} bytes for {sampling:?}");
        let picture = minimap.picture();
        assert_eq!(picture.get(0, 0), Some(Color::rgba(199, 100, 50, 128)), "{sampling:?}");
        assert_eq!(picture.get(1, 0), Some(Color::of_name("b")));
    }
}

/// Inputs of a megabyte or two that are large in one way each. What grows with the square of one of
/// them would take minutes here; `.ci/count` counts their time.
#[test]
fn whatever_is_large_costs_in_proportion() {
    let _alone = alone();
    for name in large::NAMES {
        if cfg!(not(feature = "png")) && name.contains("picture") {
            continue;
        }
        let large = large::input(name, 32);
        let (loaded, peak, left) = measured(|| large.load());
        // A tree of tiny entries, and what is made of them, takes many times their text.
        let factor = if large.is_bulk { 6 } else { 48 };
        let (loaded, most) = (loaded.is_ok(), factor * large.bytes.max(left) + (2 << 20));
        let bytes = large.bytes;
        assert!(
            peak <= most,
            "{name}: a peak of {peak} bytes for {bytes} and a map of {left}; loaded: {loaded}"
        );
    }
}

/// Reads the input that `LARGE` names, `PARTS` of 64 of its full size.
#[test]
#[ignore = "for `.ci/count`, which counts its instructions"]
fn one_large_input_is_read() {
    let name = std::env::var("LARGE").expect("`LARGE` names an input");
    let name = large::NAMES.into_iter().find(|known| *known == name).expect("it is known");
    let parts = std::env::var("PARTS").expect("`PARTS` says its size");
    drop(std::hint::black_box(large::input(name, parts.parse().unwrap()).load()));
}

/// Many layers are added, drawn, saved and loaded in proportion.
#[test]
fn thousands_of_layers_cost_in_proportion() {
    let _alone = alone();
    let mut quilt = Quilt::build(Lattice::default(), |pen| {
        pen.put_tiles(TileSet::flat("s", ["a"])?)?;
        (0..5000).try_for_each(|n| pen.add_layer(&format!("layer {n}"), LayerSettings::default()))
    })
    .unwrap();
    quilt
        .edit("cells", |pen| {
            (0..5000).try_for_each(|n| {
                pen.put(&format!("layer {n}"), CellPos::new(n % 70, n / 70), "s/a").map(drop)
            })
        })
        .unwrap();
    let mut list = DrawList::new();
    list.rebuild(&quilt, &View::new(ScreenSize::new(640, 480)));
    let limits = sturdy_quilt::document::Limits { layers: 5000, ..Default::default() };
    let files = quilt.document().with_limits(limits).to_files("m.quilt.json").unwrap();
    let mut source = MemorySource::default();
    files.into_iter().for_each(|(name, bytes)| source.add(name, bytes));
    let loaded = Loader::new().with_limits(limits).load(&source, "m.quilt.json").unwrap();
    assert!(loaded.quilt.same_as(&quilt));
}
