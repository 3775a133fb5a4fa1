//! Instruction list: read and write.

mod read;
mod words;
mod write;

pub(super) use read::body;
pub(crate) use words::{is_operator, last_results};
pub(crate) use write::instructions;
