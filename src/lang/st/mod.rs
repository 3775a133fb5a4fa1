//! Structured text: read and write.

mod read;
mod write;

pub(super) use read::body;
pub(crate) use write::{expression, statements};
