//! What several benchmarks have in common.

pub(crate) mod program;
