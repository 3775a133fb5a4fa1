//! The open XML exchange format of IEC 61131-10, in the schema of its technical committee 6 (version 2.01): types,
//! units in all four languages, configurations, comments and positions.
//!
//! What others write is read in any order the schema allows. What the format has no place for here (data of other
//! tools, headers) is kept as it stands and handed back. Nothing in a file can make the reader load or expand
//! anything: a document type declaration is refused, and size and depth are bounded.

mod diagram;
mod dom;
mod draw;
mod read;
mod types;
mod write;

pub(crate) use read::file as read;
pub(crate) use write::file as write;
