//! Any bytes as a zip archive with maps.
#![no_main]

use libfuzzer_sys::fuzz_target;
use sturdy_quilt::document::ZipSource;
use sturdy_quilt_fuzz::{check_error, loader, within_cost};

fuzz_target!(|data: &[u8]| {
    within_cost(|| {
        let Ok(source) = ZipSource::new(data) else { return };
        let maps: Vec<String> = source.maps().take(4).map(str::to_owned).collect();
        for map in maps {
            match loader().load(&source, &map) {
                Err(error) => check_error(&error),
                Ok(loaded) => assert!(loaded.quilt.to_json().is_ok(), "it names its pictures"),
            }
        }
    });
});
