//! Dialects: their sheets, what they say of their devices, and the way from one to another.
#![allow(
    clippy::unwrap_used,
    clippy::panic,
    clippy::print_stdout,
    clippy::print_stderr,
    reason = "a test may fail loudly"
)]

#[path = "../common/mod.rs"]
mod common;

mod dialects;
mod facts;
mod first_scan;
mod ledger;
mod listings;
mod migration;
mod routines;
