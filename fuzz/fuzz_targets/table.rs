//! Any bytes as comma-separated values.
#![no_main]

use libfuzzer_sys::fuzz_target;
use sturdy_quilt_fuzz::check_grid;

fuzz_target!(|data: &[u8]| check_grid("g.csv", data));
