//! The reader of .fbd files.
#![no_main]

mod reader;

libfuzzer_sys::fuzz_target!(|data: &[u8]| reader::read(data, honest_twin::Language::Fbd.into()));
