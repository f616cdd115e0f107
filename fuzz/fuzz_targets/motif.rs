//! Any text as a motif: one that is read can be written, turned, put down, and read again.
#![no_main]

use libfuzzer_sys::fuzz_target;
use sturdy_quilt_fuzz::check_motif;

fuzz_target!(|data: &[u8]| check_motif(data));
