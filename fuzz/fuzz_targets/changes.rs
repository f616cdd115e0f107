//! Any bytes as changes of a map, with and without a sound check sum: those that are read can be written, brought
//! onto a map and undone.
#![no_main]

use libfuzzer_sys::fuzz_target;
use sturdy_quilt_fuzz::check_changes;

fuzz_target!(|data: &[u8]| check_changes(data));
