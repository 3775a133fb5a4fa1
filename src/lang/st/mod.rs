//! Structured text: read and write.

mod read;
mod write;

pub(super) use read::body;
pub(crate) use write::{expression, statements};
pub(super) use write::{indentation, put, separated};
