//! Any bytes as a journal: its records are found, and their changes read as those of a map.
#![no_main]

use libfuzzer_sys::fuzz_target;
use sturdy_quilt_fuzz::check_journal;

fuzz_target!(|data: &[u8]| check_journal(data));
