//! Any bytes as a packed block, of any size, in any compression.
#![no_main]

use base64::Engine;
use base64::engine::general_purpose::STANDARD;
use libfuzzer_sys::fuzz_target;
use serde_json::json;
use sturdy_quilt_fuzz::{MAP, check_map, with};

fuzz_target!(|input: (u8, u16, u16, bool, &[u8])| {
    let (compression, columns, rows, is_listed, bytes) = input;
    let compression = ["plain", "zlib", "lz4"][usize::from(compression) % 3];
    let mut cells = json!({
        "packed": { compression: STANDARD.encode(bytes) },
        "size": [columns, rows],
    });
    if is_listed {
        cells["tiles"] = json!(["yard/sand", "yard/gone", "yard/wall"]);
    } else {
        cells["set"] = "yard".into();
    }
    let map = json!({
        "format": "sturdy-quilt/map", "version": 1, "lattice": { "cell": [16, 16] },
        "tiles": ["yard.tiles.json"], "ground": ["stone"],
        "layers": [{ "name": "soil", "cells": cells }],
    });
    check_map(&with(MAP, map.to_string().as_bytes()));
});
