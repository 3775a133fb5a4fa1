//! The search: rounds of scenarios, and making what was found as short as it can be.

pub(in crate::twin) mod effort;
pub(in crate::twin) mod onward;
pub(in crate::twin) mod search;
pub(in crate::twin) mod shrink;
pub(in crate::twin) mod trial;
