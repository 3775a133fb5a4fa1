//! What a program means: the tape, the circuit beside it, sessions, points, and drawings of a scan.
#![allow(
    clippy::unwrap_used,
    clippy::panic,
    clippy::print_stdout,
    clippy::print_stderr,
    reason = "a test may fail loudly"
)]

#[path = "../common/mod.rs"]
mod common;

mod arithmetic;
mod circuit;
mod controller;
mod corpus;
mod fused;
mod live;
mod meaning;
mod parts;
mod plants;
mod points;
mod protocol;
mod sessions;
mod shadow;
mod traces;
mod vectors;
