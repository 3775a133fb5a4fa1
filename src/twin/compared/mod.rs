//! What is compared: which point belongs to which, how values are read, what is assumed, known and taken for the same time; twin files.

pub(in crate::twin) mod alone;
pub(in crate::twin) mod assumed;
pub(in crate::twin) mod errors;
pub mod file;
pub(in crate::twin) mod known;
pub(in crate::twin) mod pair;
pub(in crate::twin) mod reading;
pub(in crate::twin) mod save;
pub(in crate::twin) mod terminals;
pub(in crate::twin) mod timing;
