//! Scenarios: what they hold, how they are written and read, and how they are replayed.

pub(in crate::twin) mod replay;
pub(in crate::twin) mod scenario;
pub mod script;
pub(in crate::twin) mod texts;
