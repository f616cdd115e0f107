//! How much memory a load takes. Its own program, since its allocator counts for all of it.

use std::sync::Mutex;

use peak_alloc::PeakAlloc;
use sturdy_quilt::{
    CellForm, CellPos, CellRect, Lattice, LayerSettings, Limits, MemorySource, Quilt, TileSet, load,
};

#[global_allocator]
static MEMORY: PeakAlloc = PeakAlloc;

/// Only one test measures at a time.
static MEASURING: Mutex<()> = Mutex::new(());

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
    let _alone = MEASURING.lock().unwrap();
    let quilt = map(1024);
    let mut forms = vec![CellForm::Rows, CellForm::Numbers, CellForm::Table, CellForm::Packed];
    if cfg!(feature = "png") {
        forms.push(CellForm::Picture);
    }
    for form in forms {
        for apart in [false, true] {
            let written = quilt.document().cells(form).apart(apart).to_files("m.quilt.json");
            let mut source = MemorySource::default();
            let mut file_bytes = 0;
            for (name, bytes) in written.unwrap() {
                file_bytes += bytes.len();
                source.add(name, bytes);
            }
            let (loaded, peak, left) =
                measured(|| load(&source, "m.quilt.json", &Limits::default()).unwrap());
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
    let _alone = MEASURING.lock().unwrap();
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
        let (result, peak, _) = measured(|| load(&source, "m.quilt.json", &Limits::default()));
        (result.map(|loaded| loaded.quilt.bounds().cell_count()), peak)
    };
    let packed = r#""tiles": ["s/a"], "packed": { "compression": "zlib", "base64":"#;
    // Vast sizes with hardly any data.
    for text in [
        r#""size": [268435456, 1], "tiles": ["s/a"], "packed": { "base64": "AAAA" }"#.to_owned(),
        r#""size": [16384, 16384], "set": "s", "numbers": [0, 0, 0]"#.to_owned(),
        format!(r#""size": [268435456, 1], {packed} "eJxjYGBgAAAABAAB" }}"#),
        r#""pieces": [{ "at": [1000000, 0], "size": [2147483648, 2147483648], "rows": [] }]"#
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

#[cfg(feature = "png")]
#[test]
fn a_huge_picture_is_refused_before_its_memory_is_asked_for() {
    let _alone = MEASURING.lock().unwrap();
    let mut source = MemorySource::default();
    source.add("huge.png", include_bytes!("broken/parts/huge.png").to_vec());
    source.add(
        "m.quilt.json",
        r##"{ "format": "sturdy-quilt/map", "version": 1, "lattice": { "cell": [16, 16] },
            "tiles": [{ "name": "s", "sheet": { "picture": "huge.png", "tile": [8, 8] } }],
            "layers": [{ "name": "l", "cells": { "picture": "huge.png", "legend": { "#000000": null } } }] }"##,
    );
    let (result, peak, _) = measured(|| load(&source, "m.quilt.json", &Limits::default()));
    let error = result.unwrap_err().to_string();
    assert_eq!(error.matches("more than the 67108864 pixels allowed").count(), 2, "{error}");
    assert!(peak < 2 << 20, "{peak} bytes");
}
