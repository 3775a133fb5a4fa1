//! Two projects side by side, as text, as a page and for a build server. What is said stands in `words`, once.

mod cases;
mod page;
mod text;
mod words;

pub use cases::junit;
pub use page::page;
pub use text::{difference, text};
pub(super) use words::rows;
