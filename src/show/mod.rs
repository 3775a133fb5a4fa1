//! Results as values to be shown: text for a terminal. The command line decides about colour.

mod text;

pub use text::{ledger, verdict};
