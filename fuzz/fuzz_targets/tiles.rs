//! Any bytes as a tile set.
#![no_main]

use libfuzzer_sys::fuzz_target;
use sturdy_quilt_fuzz::{check_error, loader, with, within_cost};

fuzz_target!(|data: &[u8]| {
    let source = with("s.tiles.json", data);
    let load = |source| loader().load_tiles(source, "s.tiles.json");
    match within_cost(|| load(&source)) {
        Err(error) => check_error(&error),
        Ok((set, _)) => {
            let saved = set.to_json().expect("a set from a file names its pictures");
            let (again, _) = load(&with("s.tiles.json", saved.as_bytes())).expect("it loads again");
            assert_eq!(again.to_json().unwrap(), saved);
        }
    }
});
