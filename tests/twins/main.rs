//! Two versions side by side: scenarios, search, strength, what is assumed and known, and what a verdict says.
#![allow(
    clippy::unwrap_used,
    clippy::panic,
    clippy::print_stdout,
    clippy::print_stderr,
    reason = "a test may fail loudly"
)]

#[path = "../common/mod.rs"]
mod common;

mod assumptions;
mod comparison;
mod efforts;
mod evidence;
mod hints;
mod known;
mod large;
mod mutated;
mod pages;
mod plants;
mod readers;
mod scenarios;
mod shown;
mod single;
mod solved;
mod terminals;
mod twin_files;
mod undone;
