//! The reader of the exchange format.
#![no_main]

mod reader;

libfuzzer_sys::fuzz_target!(|data: &[u8]| reader::read(data, honest_twin::lang::Form::Exchange));
