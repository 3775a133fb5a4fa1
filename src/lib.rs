#![doc = include_str!("../README.md")]
// Whoever adds an operation, a function, a kind of statement or of gate is led by the compiler to all who give it meaning.
#![deny(clippy::wildcard_enum_match_arm)]

pub mod check;
pub mod circuit;
pub mod dialect;
pub mod lang;
pub mod model;
pub mod prove;
pub mod recheck;
pub mod scan;
pub mod show;
pub mod source;
pub mod translate;
pub mod twin;

pub use check::{Checked, check};
pub use lang::{Language, read_project};
pub use scan::{Controller, Machine, ScanTime, Stimulus};
pub use source::Source;
pub use translate::translate;
pub use twin::{Effort, Verdict, Version, compare};
