//! What a search has found, told: differences and broken rules with their causes, and the verdict.

pub(in crate::twin) mod breach;
pub(in crate::twin) mod difference;
pub(in crate::twin) mod explain;
pub(in crate::twin) mod verdict;
