//! What is proved, what is not, and the checker of certificates.
#![allow(
    clippy::unwrap_used,
    clippy::panic,
    clippy::print_stdout,
    clippy::print_stderr,
    reason = "a test may fail loudly"
)]

#[path = "../common/mod.rs"]
mod common;

mod decided;
mod false_proofs;
mod invariants;
mod kept;
mod limits;
mod proof;
mod proved;
mod refusals;
mod rings;
