//! Any bytes as a map, among files that it may name.
#![no_main]

use libfuzzer_sys::fuzz_target;
use sturdy_quilt_fuzz::{MAP, check_map, with};

fuzz_target!(|data: &[u8]| check_map(&with(MAP, data)));
