//! The four languages and the exchange format: read, written, translated, and what is said about mistakes.
#![allow(
    clippy::unwrap_used,
    clippy::panic,
    clippy::print_stdout,
    clippy::print_stderr,
    reason = "a test may fail loudly"
)]

#[path = "../common/mod.rs"]
mod common;

mod bits;
mod drawings;
mod exchange;
mod forms;
mod fragments;
mod idioms;
mod latches;
mod literals;
mod problems;
mod random_lists;
mod random_programs;
mod robustness;
mod shaken;
mod translation;
mod trees;
