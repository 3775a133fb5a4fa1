//! Two projects side by side: random edits are told as what they are, what is called untouched is, and verdicts agree with
//! running both.
#![allow(
    clippy::unwrap_used,
    clippy::panic,
    clippy::print_stdout,
    clippy::print_stderr,
    reason = "a test may fail loudly"
)]

#[path = "../common/mod.rs"]
mod common;

mod bodies;
mod edit;
mod edits;
mod kinds;
mod matter;
mod oracle;
mod random;
