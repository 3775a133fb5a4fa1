//! Declarations: the standard's text, the same in all languages.

mod read;
mod types;
mod write;

pub(super) use read::{ReadBody, file, fragment};
pub(super) use types::{init, spec};
pub(super) use write::item;
